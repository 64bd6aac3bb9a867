"""What a book raises, and how the disk's refusals are put into words."""

import sqlite3

from aplomb.core.base.errors import AplombError

OPENING_S = 30.0
"""Opening a book takes no longer [s]: one of ten thousand formulas takes less than one."""
TOO_LONG = (
    f"{{}} was still being read after {OPENING_S:.0f} seconds, so it is not opened. It is left as "
    "it is. It may lie on a slow disk, or hold what does not come from Aplomb."
)


class BookError(AplombError):
    """The book cannot be used as asked; the text says why and what to do."""


class DiskError(BookError):
    """The disk refused; nothing in the book was changed and it can be tried again."""


class GoneError(DiskError):
    """The file is no longer the book that was opened: moved, deleted or replaced meanwhile."""


def code_of(error: BaseException) -> int:
    """Give SQLite's code of what it raised; 0 when it says none."""
    return getattr(error, "sqlite_errorcode", 0) & 0xFF


def too_long(error: BaseException) -> bool:
    """Tell whether SQLite was stopped because opening took too long."""
    return code_of(error) == sqlite3.SQLITE_INTERRUPT


def is_damage(error: BaseException) -> bool:
    """Tell whether what SQLite raised means that the file itself is not sound."""
    return code_of(error) in (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB) or (
        isinstance(error, sqlite3.OperationalError) and code_of(error) == sqlite3.SQLITE_ERROR
    )


def disk_words(error: BaseException) -> str:
    """Say what the disk refused, and what to do."""
    code = code_of(error)
    if code == sqlite3.SQLITE_FULL:
        return "the disk is full. Free some space, then try again."
    if code in (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_PERM):
        return "it is read-only there. Choose another folder."
    if code == sqlite3.SQLITE_CANTOPEN:
        return "its folder cannot be used. Choose another place."
    if code == sqlite3.SQLITE_IOERR:
        return (
            "the disk failed or is full. Free some space or choose another folder, then try again."
        )
    if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return "another program is using it. Close it there, then try again."
    if code in (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB):
        return "the file is damaged. To carry on, save a copy in another folder."
    return f"{error}."
