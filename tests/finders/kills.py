"""Kill a process that presses and hears a probe: what it said was kept is in the book."""

import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from aplomb.book.book import Book, BookError
from aplomb.core.bench.readings import unpack

HERE = Path(__file__).resolve()
PRESSING = HERE.parents[1] / "work" / "bench" / "pressing.py"


def held(folder: Path, after_s: float) -> str:
    """Kill one after so long [s]; gives what was lost."""
    path = folder / "killed.aplomb"
    env = dict(os.environ, PYTHONPATH=str(HERE.parents[2] / "src"), APLOMB_HOME=str(folder))
    child = subprocess.Popen(
        [sys.executable, str(PRESSING), str(path)], stdout=subprocess.PIPE, env=env, text=True
    )
    assert child.stdout is not None
    if child.stdout.readline().strip() != "ready":
        return "it did not begin"
    time.sleep(after_s)
    child.send_signal(signal.SIGKILL)
    told = child.stdout.read().split("\n")[:-1]  # the last line may be half of one
    child.stdout.close()
    child.wait()
    presses = [int(line) for line in told if line.isdigit()]
    minutes = [int(line[1:]) for line in told if line.startswith("r")]
    try:
        book = Book(path)
    except BookError as error:
        return f"not opened again: {error}"
    try:
        kept = [row.number for row in book.runs.presses(1)]
        read = {row.minute: unpack(row.body) for row in book.runs.readings(1, "p")}
        if book.read_only:
            return f"for reading only: {book.read_only[:60]}"
    finally:
        book.close()
    if kept != list(range(1, len(kept) + 1)):
        return "a gap among the presses"
    if len(kept) < (presses[-1] if presses else 0):
        return "a press is lost that was told"
    if missing := [m for m in minutes if read.get(m, ())[:1] != (round(4.0 + m / 10, 2),)]:
        return f"readings are lost that were told: {missing[:3]}"
    return ""


def find(cases: int, start: int = 0) -> tuple[Counter[str], dict[str, int]]:
    """Kill so many; gives faults with how often, and the first case of each."""
    faults: Counter[str] = Counter()
    first: dict[str, int] = {}
    for case in range(start, start + cases):
        folder = Path(tempfile.mkdtemp(prefix="aplomb-kill-"))
        words = held(folder, random.Random(case).uniform(0.0, 0.25))
        shutil.rmtree(folder, ignore_errors=True)
        if words:
            faults[words] += 1
            first.setdefault(words, case)
    return faults, first
