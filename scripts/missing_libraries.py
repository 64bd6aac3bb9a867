"""Print the Debian packages that are missing: libraries that Qt needs and the loader cannot find.

One package a line, with the names it has in other releases after a comma. With ``dev`` and as
root also the programs that tests use; without root a registry package stands in for them. Used by
set-up.sh.
"""

import ctypes
import os
import shutil
import sys

LIBRARIES = (
    ("libGL.so.1", "libgl1"),
    ("libEGL.so.1", "libegl1"),
    ("libglib-2.0.so.0", "libglib2.0-0t64,libglib2.0-0"),
    ("libfontconfig.so.1", "libfontconfig1"),
    ("libxkbcommon.so.0", "libxkbcommon0"),
    ("libdbus-1.so.3", "libdbus-1-3"),
    ("libxcb-cursor.so.0", "libxcb-cursor0"),
    ("libxcb-icccm.so.4", "libxcb-icccm4"),
    ("libxcb-keysyms.so.1", "libxcb-keysyms1"),
    ("libxcb-shape.so.0", "libxcb-shape0"),
    ("libxcb-xkb.so.1", "libxcb-xkb1"),
    ("libxkbcommon-x11.so.0", "libxkbcommon-x11-0"),
    ("libwayland-cursor.so.0", "libwayland-cursor0"),
)
PROGRAMS = (("pdftotext", "poppler-utils"),)


def main(what: str) -> None:
    """Try each library as the loader would, and look for each program."""
    for library, packages in LIBRARIES:
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
