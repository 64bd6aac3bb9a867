"""The book: one SQLite file with every formula, and every change that was made to them.

Tables (``user_version`` 2)
---------------------------
``formula``: ``id`` text, ``name`` text, ``purpose`` text, ``place`` real (order on the shelf),
``changed`` text (UTC, ISO 8601), ``body`` text (the formula as JSON).
``change``: ``seq`` integer, ``words`` text (what was done), ``formula`` text (id), ``before`` and
``after`` text (row as JSON, null when the formula was not there), ``at`` text.
A change of the store has ``formula`` ``store`` and lists of ``[key, body]`` before and after.
``store``: ``key`` text, ``body`` text: ``house`` (how the bakery measures) and ``item/KEY`` (an own
material, or a price).
``revision``: ``formula`` text (id), ``number`` integer, ``name`` text, ``at`` text, ``body`` text:
a formula at a point that was named. Version 1 had no ``store`` and ``revision``, and prices in
the formula.
``setting``: ``key`` text, ``value`` text. ``undone`` holds the last change that stands.

Every edit, copy, rename, delete, price and material is a row of ``change``, so undo and redo
reach across all of them and survive a restart.
"""

import os
import sqlite3
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

import msgspec

from aplomb.book.changes import AnyChange, Kept, Revision, StoreChange, change_of, row_of
from aplomb.book.entry import Entry
from aplomb.book.migrate import migrate_1, migrate_2, migrate_3, without_prices
from aplomb.core.errors import AplombError
from aplomb.core.paste.formula import Formula

APPLICATION_ID = 0x41504C4D
VERSION = 4
MOST_CHANGES = 2000
"""Changes that can be undone; older ones are let go."""


class BookError(AplombError):
    """The book cannot be used as asked; the text says why and what to do."""


class DiskError(BookError):
    """The disk refused; nothing in the book was changed and it can be tried again."""


_NEW_IN_2 = """
CREATE TABLE store (key TEXT PRIMARY KEY, body TEXT NOT NULL) STRICT;
CREATE TABLE revision (
  formula TEXT NOT NULL, number INTEGER NOT NULL, name TEXT NOT NULL, at TEXT NOT NULL,
  body TEXT NOT NULL, PRIMARY KEY (formula, number)) STRICT;
"""
_SCHEMA = """
CREATE TABLE formula (
  id TEXT PRIMARY KEY, name TEXT NOT NULL, purpose TEXT NOT NULL, place REAL NOT NULL,
  changed TEXT NOT NULL, body TEXT NOT NULL) STRICT;
CREATE INDEX formula_place ON formula (place);
CREATE TABLE change (
  seq INTEGER PRIMARY KEY AUTOINCREMENT, words TEXT NOT NULL, formula TEXT NOT NULL,
  before TEXT, after TEXT, at TEXT NOT NULL) STRICT;
CREATE TABLE setting (key TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;
"""


def now() -> str:
    """Give the time in UTC as ISO 8601 to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")


def new_uid() -> str:
    """Give a new identity for a formula."""
    return os.urandom(16).hex()


class Book:
    """An open book.

    Parameters
    ----------
    path : Path
        The file; made when it is not there.

    Attributes
    ----------
    path : Path
    read_only : str
        Why nothing can be written; empty when it can.

    Raises
    ------
    BookError
        When it is not a book, is damaged, is open elsewhere, or cannot be made.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.read_only = ""
        new = not path.exists() or path.stat().st_size == 0
        try:
            if new:
                path.parent.mkdir(parents=True, exist_ok=True)
            if not new and not (os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)):
                self.read_only = "This book is in a place that can only be read."
                self._db = self._open_to_read()
            else:
                self._db = self._open(new)
        except OSError as error:
            raise BookError(
                f"The book {path.name} cannot be made in {path.parent}: {error.strerror}. "
                "Choose another place."
            ) from None

    def _open(self, new: bool) -> sqlite3.Connection:
        db = self._connect("rwc" if new else "rw")
        try:
            if new:
                self._make(db)
            self._check(db)
            version = int(db.execute("PRAGMA user_version").fetchone()[0])
            if version > VERSION:
                self.read_only = (
                    f"This book was written by a newer Aplomb (version {version}); "
                    "it is open for reading only."
                )
            else:
                db.execute("BEGIN EXCLUSIVE")  # takes the lock, which is then held
                if version == 1:
                    migrate_1(db, _NEW_IN_2)
                if version < 3:
                    migrate_2(db)
                if version < 4:
                    migrate_3(db)
                db.execute("COMMIT")
        except sqlite3.DatabaseError as error:
            if _is_locked(error):
                db.close()
                raise BookError(
                    f"The book {self.path.name} is open in another Aplomb. "
                    "Close it there, or open another book."
                ) from None
            db.close()
            if new:
                self.path.unlink(missing_ok=True)
                raise BookError(
                    f"The book {self.path.name} cannot be made: {_disk_words(error)}"
                ) from None
            raise BookError(
                f"{self.path.name} is not an Aplomb book, or it is damaged ({error}). "
                "It was left as it is."
            ) from None
        except BookError:
            db.close()
            raise
        return db

    def _open_to_read(self) -> sqlite3.Connection:
        db = self._connect("ro", immutable=True)
        try:
            self._check(db)
        except sqlite3.DatabaseError as error:
            db.close()
            raise BookError(f"{self.path.name} cannot be read: {error}") from None
        return db

    def _connect(self, mode: str, *, immutable: bool = False) -> sqlite3.Connection:
        uri = (
            self.path.absolute().as_uri() + f"?mode={mode}" + ("&immutable=1" if immutable else "")
        )
        try:
            db = sqlite3.connect(uri, uri=True, isolation_level=None, timeout=0.2)
            if mode != "ro":
                db.execute("PRAGMA locking_mode = EXCLUSIVE")
        except sqlite3.DatabaseError as error:
            raise BookError(
                f"The book {self.path.name} cannot be opened: {_disk_words(error)}"
            ) from None
        return db

    def _make(self, db: sqlite3.Connection) -> None:
        db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
        db.executescript(
            f"BEGIN; {_SCHEMA} {_NEW_IN_2} INSERT INTO setting VALUES ('stands', '0');"
            f"PRAGMA user_version = {VERSION}; COMMIT;"
        )

    def _check(self, db: sqlite3.Connection) -> None:
        if int(db.execute("PRAGMA application_id").fetchone()[0]) != APPLICATION_ID:
            raise BookError(
                f"{self.path.name} is not an Aplomb book. It was left as it is; open another."
            )
        # A rollback journal, synced in full: what was written is there after a power cut.
        db.execute("PRAGMA synchronous = FULL")

    def close(self) -> None:
        """Close the file."""
        self._db.close()

    def entries(self) -> list[Entry]:
        """Read every formula, in the order of the shelf.

        Raises
        ------
        BookError
            When the file cannot be read. A formula that cannot be read says so when it is wanted.
        """
        try:
            rows = self._db.execute(
                "SELECT id, name, purpose, place, changed, body FROM formula ORDER BY place, id"
            ).fetchall()
        except sqlite3.DatabaseError as error:
            raise BookError(f"{self.path.name} cannot be read: {error}") from None
        if int(self._db.execute("PRAGMA user_version").fetchone()[0]) < 2:
            rows = [(*row[:-1], without_prices(row[-1])[0]) for row in rows]
        return [Entry.stored(*row) for row in rows]

    def store(self) -> list[Kept]:
        """Read every row of the store; none in a book that is too old to have one."""
        try:
            rows = self._db.execute("SELECT key, body FROM store ORDER BY key").fetchall()
        except sqlite3.OperationalError:
            return []
        return [Kept(*row) for row in rows]

    def revisions(self, uid: str) -> list[Revision]:
        """Read the revisions of a formula, the first one first.

        Raises
        ------
        BookError
            When one cannot be read.
        """
        try:
            rows = self._db.execute(
                "SELECT number, name, at, body FROM revision WHERE formula = ? ORDER BY number",
                (uid,),
            ).fetchall()
            return [
                Revision(number, name, at, msgspec.json.decode(body, type=Formula))
                for number, name, at, body in rows
            ]
        except sqlite3.OperationalError:
            return []
        except msgspec.DecodeError as error:
            raise BookError(f"A revision in {self.path.name} cannot be read: {error}") from None

    def last_revision(self, uid: str) -> int:
        """Number of a formula's last revision; 0 without any."""
        try:
            row = self._db.execute(
                "SELECT max(number) FROM revision WHERE formula = ?", (uid,)
            ).fetchone()
        except sqlite3.OperationalError:
            return 0
        return int(row[0] or 0)

    def keep_revision(self, uid: str, name: str, formula: Formula) -> int:
        """Keep a formula as a revision.

        Returns
        -------
        int
            Its number.

        Raises
        ------
        BookError
            When the book can only be read or the disk refuses.
        """
        self._writable()
        number = self.last_revision(uid) + 1
        try:
            self._db.execute(
                "INSERT INTO revision VALUES (?, ?, ?, ?, ?)",
                (uid, number, name, now(), msgspec.json.encode(formula).decode()),
            )
        except sqlite3.DatabaseError as error:
            raise self._undone(error) from None
        return number

    def record(self, changes: Sequence[AnyChange]) -> None:
        """Carry changes out and remember them, all or none; what was undone is let go.

        Raises
        ------
        DiskError
            When the disk refuses; the book is as it was.
        BookError
            When the book can only be read.
        """
        if not changes:
            return
        self._writable()
        try:
            self._db.execute("BEGIN IMMEDIATE")
            stands = self._stands()
            self._db.execute("DELETE FROM change WHERE seq > ?", (stands,))
            for change in changes:
                uid, before, after = row_of(change)
                row = self._db.execute(
                    "INSERT INTO change (words, formula, before, after, at) VALUES (?, ?, ?, ?, ?)",
                    (change.words, uid, before, after, now()),
                )
                stands = int(row.lastrowid or 0)
                self._put(change, back=False)
            self._db.execute("DELETE FROM change WHERE seq <= ?", (stands - MOST_CHANGES,))
            self._set_stands(stands)
            self._db.execute("COMMIT")
        except sqlite3.DatabaseError as error:
            raise self._undone(error) from None

    def undo(self) -> AnyChange | None:
        """Take the last change back.

        Returns
        -------
        Change or None
            What was taken back; None when there is nothing.
        """
        return self._step(
            "SELECT {} FROM change WHERE seq <= ? ORDER BY seq DESC LIMIT 1", back=True
        )

    def redo(self) -> AnyChange | None:
        """Make the last undone change again; None when there is none."""
        return self._step("SELECT {} FROM change WHERE seq > ? ORDER BY seq LIMIT 1", back=False)

    def next_words(self) -> tuple[str, str]:
        """Say what undo and redo would do; empty for nothing."""
        stands = self._stands()
        back = self._db.execute(
            "SELECT words FROM change WHERE seq <= ? ORDER BY seq DESC LIMIT 1", (stands,)
        ).fetchone()
        on = self._db.execute(
            "SELECT words FROM change WHERE seq > ? ORDER BY seq LIMIT 1", (stands,)
        ).fetchone()
        return (back[0] if back else "", on[0] if on else "")

    def _step(self, query: str, *, back: bool) -> AnyChange | None:
        self._writable()
        try:
            self._db.execute("BEGIN IMMEDIATE")
            row = self._db.execute(
                query.format("seq, words, formula, before, after"), (self._stands(),)
            ).fetchone()
            if row is not None:
                seq, words, uid, before, after = row
                change = change_of(words, uid, before, after)
                self._put(change, back=back)
                self._set_stands(self._before(seq) if back else seq)
            self._db.execute("COMMIT")
        except sqlite3.DatabaseError as error:
            raise self._undone(error) from None
        return None if row is None else change

    def _before(self, seq: int) -> int:
        row = self._db.execute("SELECT max(seq) FROM change WHERE seq < ?", (seq,)).fetchone()
        return int(row[0] or 0)

    def _put(self, change: AnyChange, *, back: bool) -> None:
        if isinstance(change, StoreChange):
            for kept in change.before if back else change.after:
                if kept.body is None:
                    self._db.execute("DELETE FROM store WHERE key = ?", (kept.key,))
                else:
                    self._db.execute("INSERT OR REPLACE INTO store VALUES (?, ?)",
                                     (kept.key, kept.body))  # fmt: skip
            return
        uid, entry = change.uid, change.before if back else change.after
        if entry is None:
            self._db.execute("DELETE FROM formula WHERE id = ?", (uid,))
            return
        body = msgspec.json.encode(entry.formula).decode()
        self._db.execute(
            "INSERT OR REPLACE INTO formula (id, name, purpose, place, changed, body) "
            "VALUES (?, ?, ?, ?, ?, ?)",
            (uid, entry.name, entry.purpose, entry.place, entry.changed, body),
        )

    def _stands(self) -> int:
        row = self._db.execute("SELECT value FROM setting WHERE key = 'stands'").fetchone()
        return int(row[0]) if row else 0

    def _set_stands(self, seq: int) -> None:
        self._db.execute("INSERT OR REPLACE INTO setting VALUES ('stands', ?)", (str(seq),))

    def setting(self, key: str, default: str = "") -> str:
        """Read one of the book's settings."""
        row = self._db.execute("SELECT value FROM setting WHERE key = ?", (key,)).fetchone()
        return str(row[0]) if row else default

    def set_setting(self, key: str, value: str) -> None:
        """Keep one of the book's settings; in a book for reading only it is let go."""
        if self.read_only:
            return
        try:
            self._db.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (key, value))
        except sqlite3.DatabaseError as error:
            raise self._undone(error) from None

    def copy_to(self, path: Path) -> None:
        """Write a copy of the whole book to another file.

        Raises
        ------
        BookError
            When something stands there already or the disk refuses.
        """
        if path.exists():
            raise BookError(f"{path.name} is there already; choose another name.")
        try:
            with sqlite3.connect(path) as other:
                self._db.backup(other)
            other.close()
        except (sqlite3.DatabaseError, OSError) as error:
            path.unlink(missing_ok=True)
            raise DiskError(f"{path.name} cannot be written: {_disk_words(error)}") from None

    def _writable(self) -> None:
        if self.read_only:
            raise BookError(self.read_only + " Keep a copy elsewhere to go on.")

    def _undone(self, error: sqlite3.DatabaseError) -> DiskError:
        if self._db.in_transaction:
            self._db.execute("ROLLBACK")
        return DiskError(f"The book cannot be written: {_disk_words(error)}")


def _is_locked(error: sqlite3.DatabaseError) -> bool:
    return getattr(error, "sqlite_errorcode", 0) & 0xFF in (
        sqlite3.SQLITE_BUSY,
        sqlite3.SQLITE_LOCKED,
    )


def _disk_words(error: Exception) -> str:
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    if code == sqlite3.SQLITE_FULL:
        return "the disk is full. Make room, then try again."
    if code in (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_PERM):
        return "it can only be read there. Choose another place."
    if code == sqlite3.SQLITE_CANTOPEN:
        return "its folder cannot be used. Choose another place."
    if code == sqlite3.SQLITE_IOERR:
        return "the disk failed or is full. Make room or choose another place, then try again."
    return f"{error}."
