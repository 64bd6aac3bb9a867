"""Run the finders of faults over books, files, texts and formulas; exit 0 when nothing fell.

``python scripts/find_faults.py books --cases 2000``; the others are ``json`` (100,000), ``csv``
(20,000), ``texts`` (60,000) and ``formulas`` (20,000). The same number is the same case.
"""

import argparse
import os
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "tests")]
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["APLOMB_HOME"] = tempfile.mkdtemp(prefix="aplomb-find-")

from finders import books, files, photographs, studies, texts  # noqa: E402

USUAL = {
    "books": 2000, "json": 100_000, "csv": 20_000, "texts": 60_000, "formulas": 20_000,
    "photographs": 12_000,
}  # fmt: skip


def main() -> int:
    """Look for what is asked; gives 0 when nothing fell."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("what", choices=USUAL)
    parser.add_argument("--cases", type=int, default=0)
    parser.add_argument("--start", type=int, default=0, help="number of the first case")
    asked = parser.parse_args()
    cases = asked.cases or USUAL[asked.what]
    began = time.monotonic()
    if asked.what == "books":
        found = books.find(cases, asked.start)
    elif asked.what == "texts":
        found = texts.find(cases, asked.start)
    elif asked.what == "photographs":
        found = photographs.find(cases, asked.start)
    elif asked.what == "formulas":
        found = studies.find(cases, asked.start)[:2]
    else:
        found = files.find(asked.what, cases, asked.start)[:2]
    faults, first = found
    for words, times in faults.most_common():
        print(f"{times} × {words}: {first[words]}")
    print(
        f"{asked.what}: {cases} cases from {asked.start}, {sum(faults.values())} faults, "
        f"{time.monotonic() - began:.0f} s"
    )
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
