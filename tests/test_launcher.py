"""The launcher and the set-up, with a stand-in for Python and its packages: what is not whole is
healed, or told in a line."""

import os
import re
import shutil
import signal
import subprocess
from pathlib import Path
from types import SimpleNamespace

import pytest

ROOT = Path(__file__).resolve().parent.parent

PYTHON = """#!/bin/sh
# A stand-in: tells its version, makes virtual environments of itself, and installs by a script.
version="${FAKE_VERSION:-3.11}"
case "$*" in
    "--version") echo "Python $version.0" ;;
    *"sys.version_info < (3, 11)"*)
        case "$version" in 3.9 | 3.10) exit 1 ;; *) exit 0 ;; esac ;;
    *"import ensurepip, venv"*) [ "${FAKE_NO_VENV:-}" = 1 ] && exit 1; exit 0 ;;
    *"import pip"*) [ "${FAKE_BROKEN:-}" = 1 ] && exit 1; exit 0 ;;
    *"%d.%d"*) echo "$version" ;;
    "-m venv "*)
        mkdir -p .venv/bin && cp "$0" .venv/bin/python-real && ln -sf python-real .venv/bin/python
        echo venv >> "$FAKE_LOG" ;;
    *"-m pip install"*)
        echo "pip $*" >> "$FAKE_LOG"
        echo "Collecting numpy==2.4.6 (from -r requirements/run.txt (line 3))"
        echo "  Downloading somewhere/numpy-2.4.6-cp311-linux.whl (16.6 MB)"
        [ -z "${FAKE_SLOW:-}" ] || /bin/sleep "$FAKE_SLOW"
        left=$(cat "$FAKE_FAILS" 2>/dev/null || echo 0)
        [ "$left" -gt 0 ] || exit 0
        echo $((left - 1)) > "$FAKE_FAILS"
        echo "ERROR: THESE PACKAGES DO NOT MATCH THE HASHES FROM THE REQUIREMENTS FILE." >&2
        exit 1 ;;
    *"-m pip check"*) exit 0 ;;
    *missing_libraries.py*) printf '%s' "${FAKE_MISSING:-}"; exit 0 ;;
    "-m aplomb"*) echo "aplomb runs: $*" ;;
    *) exit 0 ;;
esac
"""


class Place:
    """A checkout of its own, with only the stand-in on the path."""

    def __init__(self, folder):
        self.home = folder / "aplomb"
        self.bin = folder / "bin"
        self.log, self.fails = folder / "log", folder / "fails"
        (self.home / "scripts").mkdir(parents=True)
        self.bin.mkdir()
        for name in (
            "aplomb",
            "test",
            "scripts/set-up.sh",
            "scripts/missing_libraries.py",
            "scripts/libraries.txt",
        ):
            shutil.copy(ROOT / name, self.home / name)
        shutil.copytree(ROOT / "requirements", self.home / "requirements")
        self.put("python3", PYTHON)
        self.put("sleep", "#!/bin/sh\n")
        for tool in (
            "sh",
            "readlink",
            "dirname",
            "cmp",
            "cat",
            "cp",
            "rm",
            "ln",
            "mkdir",
            "mktemp",
            "tail",
            "grep",
            "id",
            "stat",
            "echo",
            "tr",
            "printf",
            "test",
            "sed",
            "tee",
            "flock",
        ):
            found = shutil.which(tool)
            if found:
                (self.bin / tool).symlink_to(found)

    def put(self, name, text):
        path = self.bin / name
        path.unlink(missing_ok=True)  # it may be a link to the machine's own
        path.write_text(text)
        path.chmod(0o755)

    def run(self, *words, **surroundings):
        begun = self.begin(*words, **surroundings)
        out, err = begun.communicate(timeout=120)
        return SimpleNamespace(returncode=begun.returncode, stdout=out, stderr=err)

    def begin(self, *words, **surroundings):
        known = {
            "PATH": str(self.bin),
            "FAKE_LOG": str(self.log),
            "FAKE_FAILS": str(self.fails),
            **surroundings,
        }
        return subprocess.Popen(
            [str(word) for word in words],
            env=known,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            cwd="/",
            start_new_session=True,
        )

    @property
    def logged(self):
        return self.log.read_text() if self.log.exists() else ""


@pytest.fixture
def place(tmp_path):
    return Place(tmp_path)


def test_it_sets_up_once_and_then_only_looks(place):
    done = place.run(place.home / "aplomb", "layers", "envelope 3")
    assert done.returncode == 0, done.stderr
    assert "aplomb runs: -m aplomb layers envelope 3" in done.stdout
    assert place.logged.count("venv") == 1
    assert "--require-hashes" in place.logged
    again = place.run(place.home / "aplomb", "x")
    assert again.stderr == ""
    assert place.logged.count("pip install") == 1


def test_it_works_through_a_symbolic_link(place, tmp_path):
    link = tmp_path / "elsewhere"
    link.symlink_to(place.home / "aplomb")
    second = tmp_path / "again"
    second.symlink_to(link)
    done = place.run(second, "x")
    assert done.returncode == 0, done.stderr
    assert "aplomb runs" in done.stdout


def test_a_download_that_is_cut_off_is_tried_again_and_called_so(place):
    place.fails.write_text("2")
    done = place.run(place.home / "aplomb", "x")
    assert done.returncode == 0
    assert done.stderr.count("the download was cut off; trying again") == 2
    assert "--no-cache-dir" in place.logged
    place.fails.write_text("9")
    shutil.rmtree(place.home / ".venv")
    done = place.run(place.home / "aplomb", "x")
    assert done.returncode == 1
    assert "the network failed or was cut off" in done.stderr
    assert "aplomb runs" not in done.stdout
    place.fails.write_text("0")
    assert place.run(place.home / "aplomb", "x").returncode == 0, "nothing is broken"


def test_two_first_starts_at_once_set_up_once(place):
    """The second waits for the first, removes nothing, and finds all done."""
    both = [place.begin(place.home / "aplomb", "layers", str(n), FAKE_SLOW="1") for n in (1, 2)]
    said = [each.communicate(timeout=60) for each in both]
    assert [each.returncode for each in both] == [0, 0], said
    assert place.logged.count("venv") == 1
    assert place.logged.count("pip install") == 1
    assert all("aplomb runs: -m aplomb layers" in out for out, _ in said)
    assert sum("another start is setting Aplomb up here; waiting" in err for _, err in said) == 1


def test_one_that_is_killed_holds_nobody_up(place):
    first = place.begin(place.home / "aplomb", "x", FAKE_SLOW="30")
    while "pip install" not in place.logged:
        assert first.poll() is None
    os.killpg(first.pid, signal.SIGKILL)
    first.communicate()
    assert place.run(place.home / "aplomb", "x").returncode == 0


def test_size_and_time_are_said_before_anything_is_fetched_and_each_package_as_it_comes(place):
    said = place.run(place.home / "aplomb", "x").stderr
    size, first = said.index("175 MB to fetch, 670 MB on the disk"), said.index("numpy (16.6 MB)")
    assert size < first
    assert "minutes" in said[size:first]
    assert re.search(r"  1 of \d\d: numpy", said)


def test_all_that_the_system_lacks_is_one_line_before_anything_is_fetched(place):
    """Venv, a library of Qt and the printer's: whoever is not root runs one line, once."""
    place.put("apt-cache", '#!/bin/sh\n[ "$2" != libcups2t64 ]\n')
    place.put("id", "#!/bin/sh\necho 1000\n")
    missing = "libegl1\nlibcups2t64,libcups2\n"
    done = place.run(place.home / "aplomb", "x", FAKE_NO_VENV="1", FAKE_MISSING=missing)
    assert done.returncode == 1
    lines = [line for line in done.stderr.splitlines() if "sudo" in line]
    assert lines == [
        "aplomb: sudo apt-get update && sudo apt-get install -y python3.11-venv libegl1 libcups2"
    ]
    assert place.logged == "", "nothing was fetched yet"


def test_without_any_python_the_one_line_names_it_and_every_library(place):
    (place.bin / "python3").unlink()
    place.put("apt-cache", "#!/bin/sh\nexit 0\n")
    place.put("id", "#!/bin/sh\necho 1000\n")
    done = place.run(place.home / "aplomb", "x")
    line = next(line for line in done.stderr.splitlines() if "sudo" in line)
    rows = (ROOT / "scripts" / "libraries.txt").read_text().splitlines()
    packages = [row.split()[1].split(",")[0] for row in rows if not row.startswith("#")]
    assert len(packages) > 10
    assert line.endswith(" ".join(["python3", "python3-venv", *packages]))


def test_python_too_old_is_said_first(place):
    done = place.run(place.home / "aplomb", "x", FAKE_VERSION="3.9")
    assert done.returncode == 1
    assert "Python 3.11 or newer is needed, and this system has Python 3.9.0" in done.stderr
    assert "apt" not in done.stderr
    assert place.logged == ""


def test_an_interpreter_that_changed_under_the_environment_is_healed(place):
    """A system went from 3.11 to 3.13: the packages of the old one are no good."""
    place.run(place.home / "aplomb", "x")
    newer = place.home / ".venv" / "bin" / "python-newer"
    shutil.copy(place.bin / "python3", newer)
    link = place.home / ".venv" / "bin" / "python"
    link.unlink()
    link.symlink_to("python-newer")
    done = place.run(place.home / "aplomb", "x", FAKE_BROKEN="")
    assert done.returncode == 0
    assert place.logged.count("pip install") == 2, "the packages are looked at again"


@pytest.mark.parametrize("broken", ["dangling", "empty", "no stamp"])
def test_a_broken_environment_is_made_anew(place, broken):
    place.run(place.home / "aplomb", "x")
    venv = place.home / ".venv"
    if broken == "dangling":
        (venv / "bin" / "python-real").unlink()
    elif broken == "empty":
        shutil.rmtree(venv)
        venv.mkdir()
        (venv / "bin").mkdir()
    else:
        (venv / "aplomb-python.txt").unlink()
    done = place.run(place.home / "aplomb", "x")
    assert done.returncode == 0, done.stderr
    assert "aplomb runs" in done.stdout


@pytest.mark.skipif(os.geteuid() != 0, reason="needs another user: run as root")
def test_an_environment_that_belongs_to_root_is_told_in_a_line(place, tmp_path):
    place.run(place.home / "aplomb", "x")
    (place.home / ".venv" / "aplomb-run.txt").write_text("older")
    for folder in (*tmp_path.parents, tmp_path):
        if "pytest" in str(folder):
            folder.chmod(folder.stat().st_mode | 0o055)
    script = f"PATH={place.bin} FAKE_LOG={place.log} {place.home}/aplomb x"
    done = subprocess.run(
        ["/bin/sh", "-c", script],
        capture_output=True,
        text=True,
        check=False,
        user=65534,
        group=65534,
        cwd="/",
    )
    assert done.returncode == 1
    assert ".venv belongs to root" in done.stderr
    assert "sudo rm -rf" in done.stderr


def test_packages_that_are_damaged_are_set_up_once_more(tmp_path):
    """The start finds that one cannot be imported, and has the launcher heal it, once."""
    launcher = tmp_path / "launcher"
    launcher.write_text('#!/bin/sh\necho "heal $APLOMB_HEAL healed $APLOMB_HEALED with $*"\n')
    launcher.chmod(0o755)
    broken = tmp_path / "msgspec.py"
    broken.write_text("raise ImportError('damaged')\n")
    known = dict(os.environ, PYTHONPATH=f"{tmp_path}:{ROOT / 'src'}", APLOMB_LAUNCHER=str(launcher))
    python = ROOT / ".venv" / "bin" / "python"
    stamps = tmp_path / "prefix"
    stamps.mkdir()
    code = (
        f"import sys, runpy; sys.prefix = {str(stamps)!r}; sys.argv = ['aplomb', 'layers', 'none'];"
        "runpy.run_module('aplomb', run_name='__main__')"
    )
    done = subprocess.run(
        [python, "-c", code], env=known, capture_output=True, text=True, check=False
    )
    assert done.stdout == "heal 1 healed 1 with layers none\n"
    known["APLOMB_HEALED"] = "1"
    done = subprocess.run(
        [python, "-c", code], env=known, capture_output=True, text=True, check=False
    )
    assert done.returncode == 1
    assert "delete the folder .venv and start again" in done.stderr
    assert "Traceback" not in done.stderr
