"""One process to a book: a lock file beside it, held open.

SQLite's own lock is one of POSIX, which a process loses as soon as it closes any other handle to
the same file: a file dialog that looks inside is enough. This one hangs on its own open file.
"""

import errno
import fcntl
import os
from contextlib import suppress
from pathlib import Path

from aplomb.book.errors import BookError
from aplomb.disk import LONGEST_NAME

_UNSUPPORTED = (errno.ENOLCK, errno.ENOTSUP, errno.ENOSYS, errno.EINVAL)


def lock_path(book: Path) -> Path:
    """Give the lock file of a book: beside the file that its path leads to."""
    real = Path(os.path.realpath(book))
    name = f".{real.name}.lock"
    if len(os.fsencode(name)) > LONGEST_NAME:
        from hashlib import sha256  # for such names only: it brings a whole library

        name = f".{sha256(os.fsencode(real.name)).hexdigest()[:32]}.lock"
    return real.with_name(name)


def _own_name() -> str:
    user = os.environ.get("USER") or f"user {os.getuid()}"
    return f"{user} on {os.uname().nodename}, process {os.getpid()}"


class BookLock:
    """Holds a book for this process.

    Raises
    ------
    BookError
        When another process, or this one, holds it; the text says who.
    OSError
        When the lock file cannot be made.
    """

    def __init__(self, book: Path) -> None:
        self._path = lock_path(book)
        self._handle = self._acquired(book)

    def _acquired(self, book: Path) -> int:
        while True:
            handle = os.open(self._path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o666)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                if self._is_ours(handle):
                    os.ftruncate(handle, 0)
                    os.write(handle, _own_name().encode())
                    return handle
            except OSError as error:
                if error.errno in _UNSUPPORTED:
                    return handle  # a disk without such locks: SQLite's own must do
                if error.errno in (errno.EWOULDBLOCK, errno.EACCES):
                    owner = os.read(handle, 200).decode(errors="replace").strip()
                    os.close(handle)
                    raise BookError(
                        f"The book {book.name} is open in another Aplomb "
                        f"window{(f' ({owner})' if owner else '')}. Close it there, or "
                        "open another book."
                    ) from None
                if error.errno != errno.ENOSPC:  # the name may stay away on a full disk
                    os.close(handle)
                    raise
                return handle
            os.close(handle)  # its owner took it away just now: once more

    def _is_ours(self, handle: int) -> bool:
        """Tell whether the file that is locked is still the one that stands there."""
        try:
            there = self._path.stat()
        except OSError:
            return False
        return os.path.samestat(os.fstat(handle), there)

    def release(self) -> None:
        """Let go of it."""
        if self._handle < 0:
            return
        if self._is_ours(self._handle):
            with suppress(OSError):
                self._path.unlink()
        os.close(self._handle)
        self._handle = -1
