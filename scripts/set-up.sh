#!/bin/sh
# Sets up .venv and the system libraries. Called by ./aplomb (run) and ./test (dev).
set -u
what=$1
here=$(cd -- "$(dirname -- "$0")/.." && pwd) || exit 1
cd "$here" || exit 1
say() { printf '%s\n' "aplomb: $*" >&2; }

# Packages that are missing; the first name that apt knows of each line is taken.
missing=""
want() {
    for name in "$@"; do
        if apt-cache show "$name" >/dev/null 2>&1; then missing="$missing $name"; return; fi
    done
    missing="$missing $1"
}
install() {
    missing=""
    [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1 && apt-get update >/dev/null 2>&1
    "$@"
    [ -z "$missing" ] && return 0
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
        say "installing$missing"
        # shellcheck disable=SC2086
        said=$(DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends $missing 2>&1) && return 0
        printf '%s\n' "$said" >&2
        say "the system packages could not be installed; run: apt-get update && apt-get install -y$missing"
        return 1
    fi
    say "some system packages are missing. Run this line, then start again:"
    say "sudo apt-get update && sudo apt-get install -y$missing"
    return 1
}

python=""
for name in python3 python3.14 python3.13 python3.12 python3.11; do
    if command -v "$name" >/dev/null 2>&1 &&
        "$name" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
        python=$name
        break
    fi
done
wanted_python() { want python3; want python3-venv; }
if [ -z "$python" ]; then
    install wanted_python || exit 1
    python=python3
    "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
        say "Python 3.11 or newer is wanted; this system has $("$python" --version 2>&1)."
        exit 1
    }
fi
wanted_venv() { want "python$("$python" -c 'import sys; print("%d.%d" % sys.version_info[:2])')-venv" python3-venv; }
"$python" -c 'import ensurepip, venv' 2>/dev/null || install wanted_venv || exit 1

if ! [ -x .venv/bin/python ] || ! .venv/bin/python -c 'import pip' 2>/dev/null; then
    say "making .venv"
    rm -rf .venv
    "$python" -m venv .venv || { rm -rf .venv; exit 1; }
fi
say "installing packages (a few minutes the first time)"
.venv/bin/python -m pip install --quiet --disable-pip-version-check --require-hashes \
    -r "requirements/$what.txt" || {
    say "the packages could not be installed; is there a network? What is above says more."
    exit 1
}

# Ask the loader itself which libraries Qt cannot find.
wanted_libraries() {
    for line in $(.venv/bin/python scripts/missing_libraries.py); do
        # shellcheck disable=SC2046
        want $(printf '%s' "$line" | tr ',' ' ')
    done
}
install wanted_libraries || exit 1
cp "requirements/run.txt" .venv/aplomb-run.txt
[ "$what" = dev ] && cp requirements/dev.txt .venv/aplomb-dev.txt
exit 0
