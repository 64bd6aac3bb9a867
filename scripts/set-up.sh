#!/bin/sh
# Sets up .venv and the system libraries where something is missing. Called by ./aplomb (run) and
# ./test (dev) at every start: when all is there it ends after a look at four small files.
# APLOMB_HEAL=1: what is there is not believed and made anew.
set -u
what=$1
here=$(cd -- "$(dirname -- "$0")/.." && pwd -P) || exit 1
cd "$here" || exit 1
say() { printf '%s\n' "aplomb: $*" >&2; }

set_up_for() { readlink -f .venv/bin/python 2>/dev/null; }
ready() {
    [ -x .venv/bin/python ] && cmp -s "requirements/$what.txt" ".venv/aplomb-$what.txt" &&
        [ "$(set_up_for)" = "$(cat .venv/aplomb-python.txt 2>/dev/null)" ]
}
[ "${APLOMB_HEAL:-}" = 1 ] || { ready && exit 0; }

# Two first starts at once: the second waits, and finds all done. The lock goes with this process.
if command -v flock >/dev/null 2>&1 && [ -w . ]; then
    exec 9>.aplomb-set-up.lock
    if ! flock -n 9; then
        say "another start is setting Aplomb up here; waiting for it"
        flock 9
        ready && exit 0
    fi
fi

# Packages that are missing; the first name that apt knows of each line is taken.
missing=""
want() {
    for name in "$@"; do
        if apt-cache show "$name" >/dev/null 2>&1; then missing="$missing $name"; return; fi
    done
    missing="$missing $1"
}
may_install() { [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; }
install() {
    [ -z "$missing" ] && return 0
    if may_install; then
        say "installing$missing"
        # shellcheck disable=SC2086
        said=$(DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends $missing 2>&1 9>&-) && return 0
        printf '%s\n' "$said" >&2
        say "the system packages could not be installed; run: apt-get update && apt-get install -y$missing"
        return 1
    fi
    say "some system packages are missing. Run this line, then start again:"
    say "sudo apt-get update && sudo apt-get install -y$missing"
    return 1
}

python="" old=""
for name in python3 python3.14 python3.13 python3.12 python3.11; do
    command -v "$name" >/dev/null 2>&1 || continue
    if "$name" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
        python=$name
        break
    fi
    found=$("$name" --version 2>&1) && [ -z "$old" ] && old=$found
done
if [ -z "$python" ] && [ -n "$old" ]; then
    say "Python 3.11 or newer is needed, and this system has $old. Install a newer one beside it"
    say "(Debian 12, Ubuntu 23.04 and later bring it as python3), then start again."
    exit 1
fi

# Whose folder it is: what cannot be written is said before anything is tried.
if [ -e .venv ] && { ! [ -w .venv ] || ! [ -w .venv/bin ]; }; then
    say "$here/.venv belongs to $(stat -c %U .venv 2>/dev/null), so it cannot be set up anew from here."
    say "Take it away (sudo rm -rf '$here/.venv'), then start again."
    exit 1
fi
if ! [ -w . ]; then
    say "$here cannot be written, so nothing can be set up there; copy it to a folder of your own."
    exit 1
fi

# All that the system lacks, in one go and before anything is fetched: Python with its venv, and
# the libraries that the loader cannot find; without a Python to ask it, all of them.
may_install && apt-get update >/dev/null 2>&1 9>&-
if [ -z "$python" ]; then
    want python3
    want python3-venv
elif ! "$python" -c 'import ensurepip, venv' 2>/dev/null; then
    want "python$("$python" -c 'import sys; print("%d.%d" % sys.version_info[:2])')-venv" python3-venv
fi
every_library() { sed -n 's/^lib[^ ]* //p' scripts/libraries.txt; }
for line in $([ -n "$python" ] && "$python" scripts/missing_libraries.py "$what" 2>/dev/null || every_library); do
    # shellcheck disable=SC2046
    want $(printf '%s' "$line" | tr ',' ' ')
done
install || exit 1
if [ -z "$python" ]; then
    python=python3
    "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
        say "Python 3.11 or newer is needed; this system has $("$python" --version 2>&1)."
        exit 1
    }
fi

rm -f .venv/aplomb-*.txt
if [ "${APLOMB_HEAL:-}" = 1 ] || ! .venv/bin/python -c 'import pip' 2>/dev/null ||
    ! .venv/bin/python -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
    say "making .venv"
    rm -rf .venv
    "$python" -m venv .venv || {
        rm -rf .venv
        say "the virtual environment could not be made; is there room on the disk?"
        exit 1
    }
fi
case $what in
    run) say "installing packages: 175 MB to fetch, 670 MB on the disk, two to five minutes" ;;
    *) say "installing packages, with those of the tests: 240 MB to fetch, 940 MB on the disk, two to six minutes" ;;
esac
# A download that is cut off has another hash; pip then speaks of tampering. So it is tried again.
log=$(mktemp) || exit 1
trap 'rm -f "$log" "$log.ended"' EXIT
trap 'exit 130' INT TERM
all=$(grep -c '^[A-Za-z].*==' "requirements/$what.txt")
progress() {  # a line for each package that is fetched; on a terminal they take one another's place
    n=0
    while IFS= read -r line; do
        case $line in
            *Collecting*) n=$((n + 1)) ;;
            *Downloading* | *"Using cached"*)
                file=${line##*/} ; file=${file#*Downloading } ; file=${file#*cached }
                size=""
                case $line in *"("*) size=" (${line##*\(}" ;; esac
                told="  $n of $all: ${file%%-*}$size"
                [ -t 2 ] && printf '\r\033[K%s' "aplomb: $told" >&2 || say "$told" ;;
            *"Installing collected"*)
                [ -t 2 ] && printf '\r\033[K' >&2
                say "  unpacking them" ;;
        esac
    done
}
fetch() {
    { .venv/bin/python -m pip install --disable-pip-version-check --require-hashes \
        --progress-bar off --retries 3 --timeout 30 "$@" -r "requirements/$what.txt" 2>&1 9>&-
        echo $? >"$log.ended"; } | tee "$log" | progress
    [ "$(cat "$log.ended" 2>/dev/null)" = 0 ]
}
tries=0
until fetch $([ $tries -gt 0 ] && echo --no-cache-dir); do
    tries=$((tries + 1))
    if [ $tries -ge 3 ]; then
        tail -n 6 "$log" >&2
        if grep -qiE 'No space left' "$log"; then
            say "the disk is full; make room, then start again."
        elif grep -qiE 'hash|connection|timed out|resolve|network|proxy|retries|No matching' "$log"; then
            say "the packages could not be downloaded whole: the network failed or was cut off."
            say "Nothing is broken; start again when it is back."
        else
            say "the packages could not be installed; what is above says why."
        fi
        exit 1
    fi
    say "the download was cut off; trying again"
    sleep $((tries * 2))
done
if [ "$what" = dev ] && ! .venv/bin/python -m pip check >"$log" 2>&1; then
    cat "$log" >&2
fi

set_up_for > .venv/aplomb-python.txt
cp "requirements/run.txt" .venv/aplomb-run.txt
[ "$what" = dev ] && cp requirements/dev.txt .venv/aplomb-dev.txt
exit 0
