"""Watches the file of an open book.

Is it still there, and has nobody else written to it?
"""

import os
import zlib
from pathlib import Path

from aplomb.book.errors import GoneError

HEADER = 100
"""Length of SQLite's header, in which every writer counts [bytes]."""
SUMMED = 8_000_000
"""A file up to this size is known by a sum over all of it, a larger one by parts of it [bytes]."""
PARTS, PART = 128, 4096
"""Of a larger file so many parts, of so many bytes, from its first to its last."""


class FileWatch:
    """Watches the file from opening to closing.

    Its handle is opened before SQLite's and closed after it: closing one in between would drop
    SQLite's locks.

    Raises
    ------
    OSError
        When it cannot be read.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self._handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
        self._header, self._sum = b"", 0
        self._stamp = (0, 0)

    def remember(self) -> None:
        """Take the file as it stands now for ours."""
        self._header = os.pread(self._handle, HEADER, 0)
        self._stamp = self._stamp_now()
        self._sum = self._sum_now()

    def _stamp_now(self) -> tuple[int, int]:
        found = os.fstat(self._handle)
        return found.st_mtime_ns, found.st_size

    def _sum_now(self) -> int:
        """Sum of the file, or of parts of one that is too large to be read at every write."""
        size = os.fstat(self._handle).st_size
        if size <= SUMMED:
            return zlib.crc32(os.pread(self._handle, size, 0))
        found = size
        for i in range(PARTS):
            at = (size - PART) * i // (PARTS - 1)
            found = zlib.crc32(os.pread(self._handle, PART, at), found)
        return found

    def look(self) -> None:
        """Look whether it is still the book that was opened.

        Raises
        ------
        GoneError
            When it was moved, deleted, replaced or written to by another program.
        """
        name, folder = self._path.name, self._path.parent
        try:
            there = self._path.stat()
        except OSError:
            raise GoneError(
                f"The book {name} is no longer in {folder}: another program moved or "
                "deleted it, or its disk was removed."
            ) from None
        if not os.path.samestat(os.fstat(self._handle), there):
            raise GoneError(
                f"The book {name} was replaced by another file while it was open here; "
                "backup and file-syncing programs can do this. That file has not been "
                "changed."
            )
        if not self.same_file:
            raise GoneError(
                f"Another program changed the book {name} while it was open here. The "
                "file has been left as that program wrote it."
            )

    @property
    def same_file(self) -> bool:
        """True while the file behind it holds what this book wrote last, wherever it lies."""
        if os.pread(self._handle, HEADER, 0) != self._header:
            return False
        if self._stamp_now() == self._stamp:
            return True
        if self._sum_now() != self._sum:
            return False
        self._stamp = self._stamp_now()  # only touched, as some tools do
        return True

    def close(self) -> None:
        """Close the handle."""
        if self._handle >= 0:
            os.close(self._handle)
            self._handle = -1
