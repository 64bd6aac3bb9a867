"""The file of a book: opened, examined and held; what is not whole opens for reading only."""

import os
import shutil
import sqlite3
import stat
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path

from aplomb.book.errors import (
    OPENING_S,
    TOO_LONG,
    BookError,
    DiskError,
    code_of,
    disk_words,
    too_long,
)
from aplomb.book.file_watch import FileWatch
from aplomb.book.lock import BookLock
from aplomb.book.schema import (
    APPLICATION_ID,
    VERSION,
    make_file,
    make_tables,
    missing_in,
    only_ours,
    strangers_in,
)

QUICKLY_CHECKED = 4_000_000
"""A file up to this size is checked whole when it is opened [bytes]."""
LEFT = "It has not been changed."
CHECKS = 5
"""So often a file that is written to meanwhile is looked through again [-]."""
STEPS = 20_000
"""Steps of SQLite after which it is asked whether to go on [-]."""
UNFINISHED = ("-journal", "-wal")
"""Endings of the files in which SQLite keeps what is not finished."""
_BROKEN = (sqlite3.DatabaseError, UnicodeError)
"""What a damaged file makes SQLite, or Python around it, raise."""


class BookFile:
    """An open file of a book.

    Parameters
    ----------
    path : Path
        The file; made when it is not there.

    Attributes
    ----------
    eye : FileWatch or None
        Watches the file; None for one that can only be read.
    read_only : str
        Why nothing can be written; empty when it can.
    rebuild : bool
        True when a copy of the file would not be sound; what can be read goes into a new one.
    newer : bool
        True when a newer program wrote it.

    Raises
    ------
    BookError
        When it is not a book, is damaged beyond reading, is open elsewhere, or cannot be made.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.read_only = ""
        self.rebuild = False
        self.newer = False
        self.turn = threading.RLock()
        """Held by whoever writes: what is pressed at the bench comes from a thread of its own."""
        self._until_s = time.monotonic() + OPENING_S
        """When opening has taken too long [s]; it is over once `opened` is called."""
        self._lock: BookLock | None = None
        self.watch: FileWatch | None = None
        self._copy: Path | None = None
        try:
            self._open_file(self._there())
        except OSError as error:
            self._let_go()
            raise BookError(
                f"The book {path.name[:80]} cannot be opened or created in {path.parent}: "
                f"{error.strerror}. Choose another folder."
            ) from None
        except ValueError:  # a null sign in the path
            self._let_go()
            raise BookError("That name cannot be used for a file. Choose another.") from None
        except BaseException:
            self._let_go()
            raise

    def _there(self) -> bool:
        """Tell whether a file is there; refuses what can be no book, without opening it."""
        try:
            found = self.path.stat()
        except FileNotFoundError:
            return False
        if not stat.S_ISREG(found.st_mode):
            raise BookError(
                f"{self.path.name} is not a file, so it cannot be a book; open another."
            )
        if found.st_size == 0:
            raise BookError(
                f"{self.path.name} is empty (0 bytes), so it is not an Aplomb book. "
                f"{LEFT} Open another, or delete it and make a new book with that name."
            )
        return True

    def _open_file(self, there: bool) -> None:
        if there and not (os.access(self.path, os.W_OK) and os.access(self.path.parent, os.W_OK)):
            self.read_only = "This book or its folder is read-only."
            self.db = self._open_to_read()
            return
        if not there:
            self.path.parent.mkdir(parents=True, exist_ok=True)
        self._lock = BookLock(self.path)
        if not there:
            try:
                make_file(self.path)
            except sqlite3.DatabaseError as error:
                raise BookError(
                    f"The book {self.path.name} cannot be created: {disk_words(error)}"
                ) from None
        self.watch = FileWatch(self.path)
        self.db = self._open()
        self.watch.remember()

    def _open(self) -> sqlite3.Connection:
        db = self._connect(self.path, "rw")
        try:
            db.execute("PRAGMA locking_mode = EXCLUSIVE")
            self._check(db)
            # A rollback journal, synced in full: what was written is there after a power cut.
            db.execute("PRAGMA synchronous = FULL")
            db.execute("BEGIN EXCLUSIVE")  # takes the lock, which is then held
            version = self._examine(db)
            if not self.read_only and version < VERSION:
                from aplomb.book.migrate import bring_up  # rare, and no start waits for it

                bring_up(db, version, VERSION)
            db.execute("COMMIT")
            only_read = "PRAGMA query_only = ON"
            db.execute(only_read if self.read_only else "PRAGMA journal_mode = DELETE")
        except _BROKEN as error:
            db.close()
            raise self._not_a_book(error) from None
        except BaseException:
            db.close()
            raise
        return db

    def _not_a_book(self, error: Exception) -> BookError:
        code, name = code_of(error), self.path.name
        if too_long(error):
            return BookError(TOO_LONG.format(name))
        if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
            return BookError(
                f"The book {name} is open in another Aplomb window or in another program. "
                "Close it there, or open another book."
            )
        if code in (sqlite3.SQLITE_FULL, sqlite3.SQLITE_IOERR, sqlite3.SQLITE_READONLY):
            return BookError(f"The book {name} cannot be opened: {disk_words(error)}")
        return BookError(
            f"{name} is not an Aplomb book, or it is too badly damaged to open ({error}). {LEFT}"
        )

    def _check(self, db: sqlite3.Connection) -> None:
        """Refuse what is no book of ours; nothing in it may run by itself."""
        db.execute("PRAGMA trusted_schema = OFF")
        db.execute("PRAGMA cell_size_check = ON")
        if int(db.execute("PRAGMA application_id").fetchone()[0]) != APPLICATION_ID:
            raise BookError(f"{self.path.name} is not an Aplomb book. {LEFT} Open another.")

    def _examine(self, db: sqlite3.Connection) -> int:
        """Look whether it is whole; what is not opens for reading only. Gives its version."""
        version = int(db.execute("PRAGMA user_version").fetchone()[0])
        if version == 0 and not db.execute("SELECT 1 FROM sqlite_schema").fetchall():
            db.execute("COMMIT")  # made by an older Aplomb that was killed: nothing is in it yet
            make_tables(db)
            db.execute("BEGIN EXCLUSIVE")
            return VERSION
        strangers = strangers_in(db)
        missing = missing_in(db, version)
        if strangers:
            only_ours(db)
            self.rebuild = True
            self.read_only = (
                "This book contains something Aplomb did not put there "
                f"({', '.join(strangers[:3])}) that could run by itself, so it is open "
                "read-only."
            )
        elif version > VERSION:
            self.newer = True
            self.read_only = (
                f"This book was written by a newer Aplomb (version {version}), so it is "
                "open read-only. Use a newer Aplomb to change it."
            )
        elif missing:
            self.mark_damaged(f"missing {' and '.join(missing)}")
        elif version < 1 or self._unsound(db):
            self.mark_damaged("internal structure")
        return version

    def _unsound(self, db: sqlite3.Connection) -> bool:
        if self.path.stat().st_size > QUICKLY_CHECKED:
            return False
        try:
            return not _is_sound(db)
        except _BROKEN as error:
            if too_long(error):
                raise
            return True

    def check_beside(self) -> bool:
        """Look through the whole file, beside whoever works with it; False when it is damaged.

        It is read by a handle of its own that takes no lock. What is written meanwhile would look
        like damage, so that it counts only when the file is the same before and after.
        """
        if self.read_only or not self.path.exists() or self._stamp()[1] <= QUICKLY_CHECKED:
            return True
        for _ in range(CHECKS):
            with self.turn:
                before = self._stamp()
            try:
                with closing(self._connect(self.path, "ro", immutable=True)) as db:
                    db.set_progress_handler(None, 0)
                    sound = _is_sound(db)
            except (*_BROKEN, BookError):
                sound = False
            with self.turn:
                if sound or self._stamp() == before:
                    return sound
        return True

    def _stamp(self) -> tuple[int, int]:
        found = self.path.stat()
        return found.st_mtime_ns, found.st_size

    def mark_damaged(self, how: str) -> None:
        """Open for reading only from now on."""
        self.rebuild = True
        if not self.read_only:
            self.read_only = f"This book is damaged ({how}), so it is open read-only. {LEFT}"

    def is_of(self, version: int) -> bool:
        """Tell whether the book is of a version or a later one; False when it cannot be read."""
        try:
            found = self.db.execute("PRAGMA user_version").fetchone()
        except sqlite3.DatabaseError:
            return False
        return int(found[0]) >= version

    def _open_to_read(self) -> sqlite3.Connection:
        path = self.path
        if any(each.exists() for each in self._beside()):
            path = self._copied()  # what was not finished is taken back in a copy
        db = self._connect(path, "rw" if self._copy else "ro", immutable=self._copy is None)
        try:
            self._check(db)
            self._examine(db)
        except _BROKEN as error:
            db.close()
            if too_long(error):
                raise BookError(TOO_LONG.format(self.path.name)) from None
            raise BookError(
                f"{self.path.name} cannot be read: {error}. {LEFT} Open another."
            ) from None
        except BookError:
            db.close()
            raise
        return db

    def _beside(self) -> list[Path]:
        """Files in which SQLite keeps what is not finished."""
        real = Path(os.path.realpath(self.path))
        return [real.with_name(real.name + end) for end in UNFINISHED]

    def _copied(self) -> Path:
        folder = Path(tempfile.mkdtemp(prefix="aplomb-read-"))
        self._copy = folder
        shutil.copyfile(self.path, folder / "book")
        for each, end in zip(self._beside(), UNFINISHED, strict=True):
            if each.exists():
                shutil.copyfile(each, folder / f"book{end}")
        return folder / "book"

    def _connect(self, path: Path, mode: str, *, immutable: bool = False) -> sqlite3.Connection:
        uri = path.absolute().as_uri() + f"?mode={mode}" + ("&immutable=1" if immutable else "")
        try:
            db = sqlite3.connect(
                uri, uri=True, isolation_level=None, timeout=0.2, check_same_thread=False
            )
        except sqlite3.DatabaseError as error:
            raise BookError(
                f"The book {self.path.name} cannot be opened: {disk_words(error)}"
            ) from None
        db.text_factory = _decoded
        db.set_progress_handler(self._takes_too_long, STEPS)
        return db

    def _takes_too_long(self) -> bool:
        return time.monotonic() > self._until_s

    def opened(self) -> None:
        """All that is read at the opening is read: from now on there is no limit of time."""
        self.db.set_progress_handler(None, 0)

    def check_writable(self) -> None:
        """Look whether it can be written.

        Raises
        ------
        BookError
            When it can only be read. GoneError when it is another file now.
        """
        if self.read_only:
            elsewhere = "" if self.newer else " To make changes, save a copy in another folder."
            raise BookError(self.read_only + elsewhere)
        if self.watch is not None:
            with self.turn:
                self.watch.look()

    @contextmanager
    def transaction(self) -> Iterator[None]:
        """Begin, and end in any case: with all that was done, or with nothing of it.

        Raises
        ------
        DiskError
            When the disk refuses; the book is as it was.
        """
        with self.turn:
            try:
                self.db.execute("BEGIN IMMEDIATE")
                yield
                self.db.execute("COMMIT")
            except sqlite3.DatabaseError as error:
                self._take_back()
                raise DiskError(f"The book cannot be written: {disk_words(error)}") from None
            except BaseException:
                self._take_back()
                raise
            if self.watch is not None:
                self.watch.remember()

    def _take_back(self) -> None:
        """Take back what was not finished, and know the file by what it is then.

        A commit that a full disk refused has written to the file already: only once it is rolled
        back can be told whether anybody else has. Reading makes SQLite do what is left of that.
        """
        with suppress(sqlite3.DatabaseError):
            if self.db.in_transaction:
                self.db.execute("ROLLBACK")
        with suppress(sqlite3.DatabaseError, OSError):
            self.db.execute("SELECT count(*) FROM sqlite_schema").fetchone()
            if self.watch is not None:
                self.watch.remember()

    def close(self) -> None:
        """Close the file, once whoever writes to it is done."""
        with self.turn:
            self.db.close()
        self._let_go()

    def _let_go(self) -> None:
        if self.watch is not None:
            self.watch.close()
        if self._lock is not None:
            self._lock.release()
        if self._copy is not None:
            shutil.rmtree(self._copy, ignore_errors=True)


def _is_sound(db: sqlite3.Connection) -> bool:
    return [row[0] for row in db.execute("PRAGMA quick_check(1)")] == ["ok"]


def _decoded(cell: bytes) -> str:
    """Read a text of the file; what damage has made of a sign is shown as such."""
    return cell.decode("utf-8", "replace")
