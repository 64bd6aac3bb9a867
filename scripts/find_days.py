"""Run the tests as they would go on other days; exit 0 when all are as green as today.

``python scripts/find_days.py seeds --many 60 --start 100`` runs what hypothesis makes up once by
each of so many seeds; ``clocks`` runs the whole suite once under each of five made-up clocks, each
with a zone and a locale of its own (Debian packages faketime and locales; a locale that is not
there is named and left out).
"""

import argparse
import os
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
CLOCKS = (
    ("29 February", "@2028-02-29 09:00:00", "UTC", "C"),
    ("a year's last evening", "@2026-12-31 23:50:00", "Pacific/Kiritimati", "de_DE.UTF-8"),
    ("summer time begins", "@2027-03-28 01:57:00", "Europe/Berlin", "tr_TR.UTF-8"),
    ("summer time ends", "@2026-11-01 00:57:00", "America/St_Johns", "ja_JP.UTF-8"),
    ("two minutes to midnight", "@2026-12-05 23:58:00", "Asia/Kolkata", "C.UTF-8"),
)
"""Name, the moment at which the suite begins, zone, locale."""

SLEEP = """
import select, time
time.sleep = lambda seconds: select.select([], [], [], seconds) and None
"""
"""Run at each interpreter's start: a made-up clock refuses to sleep by the count of seconds."""


def main() -> int:
    """Run what is asked; gives 0 when everything passed."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("what", choices=("seeds", "clocks"))
    parser.add_argument("--many", type=int, default=60, help="how many seeds")
    parser.add_argument("--start", type=int, default=100, help="the first seed")
    parser.add_argument("--only", type=int, default=0, help="one clock by its number, from 1")
    asked = parser.parse_args()
    if asked.what == "seeds":
        return seeds(range(asked.start, asked.start + asked.many))
    return clocks(CLOCKS[asked.only - 1 : asked.only] if asked.only else CLOCKS)


def _pytest(*words: str, **surroundings: str) -> tuple[bool, str]:
    # What counts seconds goes on as it is: only what tells the date is another.
    real = {"QT_QPA_PLATFORM": "offscreen", "FAKETIME_DONT_FAKE_MONOTONIC": "1"}
    known = {**os.environ, **real, **surroundings}
    before = ("faketime", "-f", known["CLOCK"]) if "CLOCK" in known else ()
    done = subprocess.run(
        [
            *before,
            sys.executable,
            "-m",
            "pytest",
            "-q",
            "-n",
            "logical",
            "--dist",
            "worksteal",
            *words,
        ],
        cwd=ROOT,
        env=known,
        capture_output=True,
        text=True,
        check=False,
    )
    return done.returncode == 0, done.stdout + done.stderr


def _told(name: str, well: bool, said: str) -> int:
    last = [line for line in said.strip().splitlines() if re.search(r"passed|failed|error", line)]
    print(f"{name}: {last[-1].strip('= ') if last else said[-300:]}", flush=True)
    told = [line for line in said.splitlines() if line.startswith(("FAILED", "ERROR"))]
    if not well and not told:  # the run itself fell
        told = said.splitlines()[-40:]
    for line in told:
        print(f"    {line[:200]}", flush=True)
    return 0 if well else 1


def seeds(which: range) -> int:
    """Run the tests that hypothesis makes up once by each seed."""
    files = [
        str(path)
        for path in sorted((ROOT / "tests").rglob("test_*.py"))
        if "hypothesis" in path.read_text(encoding="utf-8")
    ]
    red = 0
    for seed in which:
        well, said = _pytest(
            *files, "-m", "hypothesis", f"--hypothesis-seed={seed}", LC_ALL="C.UTF-8"
        )
        red += _told(f"seed {seed}", well, said)
    print(f"{len(which)} seeds, {red} of them red")
    return 1 if red else 0


def clocks(which: tuple[tuple[str, str, str, str], ...]) -> int:
    """Run the whole suite once under each clock, in its zone and locale."""
    if shutil.which("faketime") is None:
        print("faketime is not there; install it (Debian package faketime)")
        return 2
    there = subprocess.run(["locale", "-a"], capture_output=True, text=True, check=False).stdout
    red = 0
    with tempfile.TemporaryDirectory() as folder:
        Path(folder, "sitecustomize.py").write_text(SLEEP, encoding="utf-8")
        for name, moment, zone, locale in which:
            plain = locale.lower().replace("-", "")
            known = plain in there.lower().split()
            worn = locale if known else "C.UTF-8"
            well, said = _pytest(
                "--hypothesis-seed=1", CLOCK=moment, TZ=zone, LC_ALL=worn, PYTHONPATH=folder
            )
            missing = "" if known else f" ({locale} is not on this machine)"
            red += _told(f"{name}, {zone}, {worn}{missing}", well, said)
    print(f"{len(which)} clocks, {red} of them red")
    return 1 if red else 0


if __name__ == "__main__":
    sys.exit(main())
