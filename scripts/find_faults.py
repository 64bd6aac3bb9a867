"""Run a finder of faults; exit 0 when nothing fell.

``python scripts/find_faults.py books --cases 2000``; the others are listed in `FINDERS` with the
number of cases that is usual. The same number is the same case. ``disks`` mounts small disks, as
root.
"""

import argparse
import os
import sys
import tempfile
import time
from functools import partial
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "tests")]
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["APLOMB_HOME"] = tempfile.mkdtemp(prefix="aplomb-find-")

from finders import (  # noqa: E402
    books,
    devices,
    files,
    full_disk,
    kills,
    photographs,
    plans,
    studies,
    texts,
)

FINDERS = {
    "books": (books.find, 2000), "json": (partial(files.find, "json"), 100_000),
    "csv": (partial(files.find, "csv"), 20_000), "texts": (texts.find, 60_000),
    "formulas": (studies.find, 20_000), "photographs": (photographs.find, 12_000),
    "plans": (plans.find, 3000), "devices": (devices.find, 20_000), "disks": (full_disk.find, 75),
    "kills": (kills.find, 300),
}  # fmt: skip
"""What is looked through, and how many cases are usual."""


def main() -> int:
    """Look for what is asked; gives 0 when nothing fell."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("what", choices=FINDERS)
    parser.add_argument("--cases", type=int, default=0)
    parser.add_argument("--start", type=int, default=0, help="number of the first case")
    asked = parser.parse_args()
    find, usual = FINDERS[asked.what]
    cases = asked.cases or usual
    began = time.monotonic()
    faults, first = find(cases, asked.start)[:2]  # type: ignore[operator]
    for words, times in faults.most_common():
        print(f"{times} × {words}: {first[words]}")
    print(
        f"{asked.what}: {cases} cases from {asked.start}, {sum(faults.values())} faults, "
        f"{time.monotonic() - began:.0f} s"
    )
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
