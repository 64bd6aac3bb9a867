"""Files: written beside and put in place, so that nothing is ever half written."""

import errno
import os
import stat
from contextlib import suppress
from pathlib import Path

from aplomb.core.base.errors import AplombError

LONGEST_NAME = 255
"""What a file's name may measure on common file systems [bytes]."""

_WORDS = {
    errno.ENOSPC: "the disk is full; free some space or choose another folder",
    errno.EDQUOT: "your disk quota is used up; free some space or choose another folder",
    errno.EROFS: "that disk is read-only; choose another folder",
    errno.EACCES: "you do not have permission there; choose another folder",
    errno.EPERM: "you do not have permission there; choose another folder",
    errno.ENOENT: "there is no such file or folder",
    errno.EISDIR: "that is a folder; choose a file",
    errno.ENOTDIR: "a part of that path is not a folder",
    errno.ENAMETOOLONG: "the name is too long",
    errno.EIO: "the disk failed; try another",
}


def name_of(path: Path) -> str:
    """A file's name as it can be said: what in it is no UTF-8 is shown as such, a long one cut."""
    return os.fsencode(path.name or str(path)).decode("utf-8", "replace")[:80]


def words_for(error: OSError, what: str) -> str:
    """Say in one sentence what the system refused.

    Parameters
    ----------
    what : str
        What was to be done, as ``cannot write card.pdf``.
    """
    return f"{what}: {_WORDS.get(error.errno or 0, error.strerror or 'the system refused')}"


_KINDS = (
    (stat.S_ISDIR, "a folder"), (stat.S_ISFIFO, "a pipe"), (stat.S_ISSOCK, "a socket"),
    (stat.S_ISCHR, "a device"), (stat.S_ISBLK, "a device"),
)  # fmt: skip


def read_bytes(path: Path, most: int, *, pipes: bool = False) -> bytes:
    """Read a file whole, but never more than so many bytes and one.

    Parameters
    ----------
    pipes : bool
        Wait for a pipe too, as a shell hands them over; a window never does.

    Raises
    ------
    AplombError
        When it cannot be read or is no file; the text names it.
    """
    what = f"cannot read {name_of(path)}"
    try:
        # A pipe that nobody writes to would hold the opening up for ever.
        handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC | (0 if pipes else os.O_NONBLOCK))
        mode = os.fstat(handle).st_mode
        if not (stat.S_ISREG(mode) or (pipes and stat.S_ISFIFO(mode))):
            os.close(handle)
            kind = next((words for test, words in _KINDS if test(mode)), "no file")
            raise AplombError(f"{what}: it is {kind}; choose a file")
        with os.fdopen(handle, "rb") as file:
            return file.read(most + 1)
    except OSError as error:
        if error.errno == errno.ENXIO:  # a socket, or a device without anything behind it
            raise AplombError(f"{what}: it is a socket or a device; choose a file") from None
        raise AplombError(words_for(error, what)) from None
    except ValueError:  # a null sign in the path
        raise AplombError(f"{what}: that name cannot be used for a file; choose another") from None


def new_beside(path: Path, start: str = ".aplomb-") -> tuple[int, Path]:
    """Open a new file in a path's folder, with the permissions that are usual there.

    Parameters
    ----------
    start : str
        How its name begins.

    Returns
    -------
    tuple of (handle, path)

    Raises
    ------
    OSError
        When the folder takes none.
    """
    while True:
        beside = path.parent / f"{start}{os.urandom(6).hex()}"
        try:
            return os.open(beside, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666), beside
        except FileExistsError:
            continue


def write_bytes(path: Path, data: bytes) -> None:
    """Write a file beside its place, sync it, and put it there.

    What stood there keeps its permissions; a symbolic link stays one, and its target is written.

    Raises
    ------
    AplombError
        When it cannot be written; what stood there before is untouched.
    """
    try:
        target = Path(os.path.realpath(path))
        handle, beside = new_beside(target)
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
                with suppress(FileNotFoundError):
                    os.fchmod(file.fileno(), stat.S_IMODE(target.stat().st_mode))
            beside.replace(target)
        except OSError:
            beside.unlink(missing_ok=True)
            raise
    except (OSError, ValueError) as error:  # a path with a null sign is a ValueError
        what = f"cannot write {name_of(path)}"
        if not isinstance(error, OSError):
            raise AplombError(
                f"{what}: that name cannot be used for a file; choose another"
            ) from None
        raise AplombError(words_for(error, what)) from None
