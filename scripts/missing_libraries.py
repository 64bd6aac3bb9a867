"""Print the Debian packages that are missing: libraries that Qt needs and the loader cannot find.

One package a line, with the names it has in other releases after a comma. With ``dev`` and as
root also the programs that tests use; without root a registry package stands in for them. Used by
set-up.sh with whatever Python the system has.
"""

import ctypes
import os
import shutil
import sys

PROGRAMS = (("pdftotext", "poppler-utils"),)


def libraries() -> "list[tuple[str, str]]":
    """Read each library with its packages."""
    path = os.path.join(os.path.dirname(os.path.abspath(__file__)), "libraries.txt")  # noqa: PTH118, PTH120, PTH100  # any Python
    with open(path, encoding="utf-8") as file:  # noqa: PTH123
        rows = [line.split() for line in file if line.strip() and not line.startswith("#")]
    return [(library, packages) for library, packages in rows]


def main(what: str) -> None:
    """Try each library as the loader would, and look for each program."""
    for library, packages in libraries():
        try:
            ctypes.CDLL(library)
        except OSError:
            print(packages)
    if what == "dev" and os.geteuid() == 0:
        for program, packages in PROGRAMS:
            if shutil.which(program) is None:
                print(packages)


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "run")
