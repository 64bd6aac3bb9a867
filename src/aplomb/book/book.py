"""The book: one SQLite file with every formula, and every change that was made to them.

Its tables and columns are described in docs/book-format.md, which a test holds against a new book.

Every edit, copy, rename, delete, price and material is a row of ``change``, so undo and redo
reach across all of them and survive a restart.
"""

import os
import sqlite3
from collections.abc import Mapping, Sequence
from contextlib import closing, suppress
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from aplomb.book.changes import (
    AnyChange,
    Kept,
    Revision,
)
from aplomb.book.entry import Entry
from aplomb.book.errors import BookError, DiskError, GoneError, disk_words
from aplomb.book.file import BookFile
from aplomb.book.history import MOST_CHANGES, History, Refused, now
from aplomb.book.pictures import Pictures
from aplomb.book.runs import Runs
from aplomb.book.salvage import Rows, entry_of, from_changes, text
from aplomb.book.schema import (
    APPLICATION_ID,
    NEW,
    VERSION,
    put_in_place,
)
from aplomb.book.tables import UNFIT, rows_in, rows_out, rows_to_carry
from aplomb.disk import new_beside

if TYPE_CHECKING:
    from aplomb.core.paste.formula import Formula

FIRST = 60
"""So many formulas of a large book are read before its window stands [-]."""
_ENTRIES = "SELECT id, name, purpose, place, changed, body FROM formula"

__all__ = [
    "APPLICATION_ID",
    "MOST_CHANGES",
    "VERSION",
    "Book",
    "BookError",
    "DiskError",
    "GoneError",
    "OnShelf",
    "Refused",
    "new_uid",
    "now",
]


OnShelf = tuple[dict[str, Entry], str]
"""Formulas by identity, and which one is in hand."""


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
    aside : list of str
        What could not be read and was set aside, in words; it stays in the file.
    runs : Runs
        What was done at the bench.
    pictures : Pictures
        Photographs of what was baked.
    history : History
        What was changed, and can be undone.

    Raises
    ------
    BookError
        When it is not a book, is damaged beyond reading, is open elsewhere, or cannot be made.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.aside: list[str] = []
        self.file = BookFile(path)
        self.runs = Runs(self.file)
        self.pictures = Pictures(self.file)
        self.history = History(self.file, self.setting)

    @property
    def _db(self) -> sqlite3.Connection:
        return self.file.db

    @property
    def read_only(self) -> str:
        """Why nothing can be written; empty when it can."""
        return self.file.read_only

    @property
    def rebuild(self) -> bool:
        """True when a copy of the file would not be sound; what can be read goes into a new one."""
        return self.file.rebuild

    @property
    def newer(self) -> bool:
        """True when a newer program wrote it, so that no copy could be changed either."""
        return self.file.newer

    def check_beside(self) -> bool:
        """Look through a file that was too large for it at the opening, in another thread.

        False when it is damaged: it is for reading only from then on.
        """
        sound = self.file.check_beside()
        if not sound:
            self.file.mark_damaged("in its inner order: something in it may be missing")
        return sound

    def close(self) -> None:
        """Close the file."""
        self.file.close()

    def entries(self) -> list[Entry]:
        """Read every formula, in the order of the shelf.

        What damage hides is sought in the changes; what is nowhere is told in `aside`. A formula
        that cannot be read says so when it is wanted.
        """
        rows, whole = rows_out(self._db, "formula")
        if self._version() < 2:
            from aplomb.book.migrate import without_prices

            rows = [(*row[:-1], without_prices(text(row[-1]))[0]) for row in rows]
        found = {entry.uid: entry for row in rows if (entry := entry_of(row)) is not None}
        lost = len(rows) - len(found)
        if not whole or lost or not self._counted("formula", len(rows)):
            self.file.mark_damaged("some formulas are missing")
            more, _ = from_changes(self._db, self.history.position())
            missing = {uid: entry for uid, entry in more.items() if uid not in found}
            found.update(missing)
            self._set_aside(f"{lost} formulas that cannot be identified" if lost else "")
            self._set_aside(
                f"{len(missing)} formulas were recovered from the list of changes"
                if missing
                else ""
                if lost
                else "some formulas may be lost"
            )
        return sorted(found.values(), key=lambda entry: (entry.place, entry.uid))

    def entry(self, uid: str) -> Entry | None:
        """Read one formula as it is kept; None when it is not there or cannot be read."""
        try:
            row = self._db.execute(f"{_ENTRIES} WHERE id = ?", (uid,)).fetchone()
        except sqlite3.DatabaseError:
            return None
        return entry_of(row) if row else None

    def probe(self) -> None:
        """See whether it could be written now.

        Raises
        ------
        BookError
            When it can only be read, is gone, or the disk refuses.
        """
        self.file.check_writable()
        with self.file.transaction():
            self.history.set_position(self.history.position())

    def _counted(self, table: str, there: int) -> bool:
        """Tell whether as many rows are there as were written."""
        wanted = self.setting(f"rows of {table}")
        return not wanted.isdigit() or len(wanted) > 12 or int(wanted) <= there

    def _set_aside(self, words: str) -> None:
        if words and words not in self.aside:
            self.aside.append(words)

    def store(self) -> list[Kept]:
        """Read every row of the store, by key; none in a book that is too old to have one."""
        if self._version() < 2:
            return []
        rows, whole = rows_out(self._db, "store")
        found = {key: text(body) for key, body in rows if isinstance(key, str)}
        if not whole or len(found) < len(rows) or not self._counted("store", len(rows)):
            self.file.mark_damaged(
                "some prices, ingredients, house settings or batches are missing"
            )
            _, more = from_changes(self._db, self.history.position())
            self._set_aside("some prices, ingredients, house settings, stock or batches")
            found = more | found
        if "timetable" in found and self._version() < 9:
            from aplomb.book.migrate import with_step_keys

            found["timetable"] = with_step_keys(found["timetable"])
        return [Kept(key, found[key]) for key in sorted(found)]

    def _version(self) -> int:
        try:
            return int(self._db.execute("PRAGMA user_version").fetchone()[0])
        except sqlite3.DatabaseError:
            return VERSION

    def revisions(self, uid: str) -> list[Revision]:
        """Read the revisions of a formula, the first one first.

        Raises
        ------
        BookError
            When one cannot be read.
        """
        if self._version() < 2:
            return []
        try:
            rows = self._db.execute(
                "SELECT number, name, at, body FROM revision WHERE formula = ? ORDER BY number",
                (uid,),
            ).fetchall()
            return [
                Revision(number, name, at, Entry.stored(uid, name, "", 0.0, at, body).formula)
                for number, name, at, body in rows
            ]
        except (sqlite3.DatabaseError, TypeError) as error:
            raise BookError(f"The revisions in {self.path.name} cannot be read: {error}") from None

    def last_revision(self, uid: str) -> int:
        """Number of a formula's last revision; 0 without any, or when they cannot be read."""
        try:
            row = self._db.execute(
                "SELECT max(number) FROM revision WHERE formula = ?", (uid,)
            ).fetchone()
        except sqlite3.DatabaseError:
            return 0
        return row[0] if isinstance(row[0], int) else 0

    def keep_revision(self, uid: str, name: str, formula: "Formula") -> int:
        """Keep a formula as a revision.

        Its number.

        Raises
        ------
        BookError
            When the book can only be read or the disk refuses.
        """
        self.file.check_writable()
        number = self.last_revision(uid) + 1
        body = msgspec.json.encode(formula).decode()
        with self.file.transaction():
            self._db.execute(
                "INSERT INTO revision VALUES (?, ?, ?, ?, ?)", (uid, number, name, now(), body)
            )
        return number

    def record(self, changes: Sequence[AnyChange]) -> list[Refused]:
        """Carry changes out and remember them; as `History.record`."""
        return self.history.record(changes)

    def undo(self) -> AnyChange | None:
        """Take the last change back; as `History.undo`."""
        return self.history.undo()

    def redo(self) -> AnyChange | None:
        """Make the last undone change again; as `History.redo`."""
        return self.history.redo()

    def on_shelf(self) -> OnShelf:
        """Read every formula by its identity, in order, and which was in hand when it was closed.

        That is the first one where none was, and empty on an empty shelf.
        """
        entries = {entry.uid: entry for entry in self.entries()}
        wanted = self.setting("open")
        self.file.opened()
        return entries, wanted if wanted in entries else next(iter(entries), "")

    def first_on_shelf(self) -> OnShelf | None:
        """Read the formulas that a window shows at first, and the one in hand, of a large book.

        None for a book that is small, or not sound: it is read whole, as `on_shelf` does.
        """
        try:
            more = self._db.execute("SELECT 1 FROM formula LIMIT 1 OFFSET ?", (FIRST,)).fetchone()
            if more is None or self.rebuild or self._version() < 2:
                return None  # before anything is read that `on_shelf` reads again
            rows = self._db.execute(f"{_ENTRIES} ORDER BY place, id LIMIT ?", (FIRST + 1,))
            found = rows.fetchall()
            wanted = self.setting("open")
            found += self._db.execute(f"{_ENTRIES} WHERE id = ?", (wanted,)).fetchall()
        except sqlite3.DatabaseError:
            return None
        entries = {entry.uid: entry for row in found if (entry := entry_of(row)) is not None}
        return entries, wanted if wanted in entries else next(iter(entries), "")

    def setting(self, key: str, default: str = "") -> str:
        """Read one of the book's settings; the default when it cannot be read."""
        try:
            row = self._db.execute("SELECT value FROM setting WHERE key = ?", (key,)).fetchone()
        except sqlite3.DatabaseError:
            return default
        return str(row[0]) if row else default

    def set_setting(self, key: str, value: str) -> None:
        """Keep one of the book's settings; in a book for reading only it is let go.

        Raises
        ------
        DiskError
            When the disk refuses, or the file is another one now.
        """
        if self.read_only:
            return
        self.file.check_writable()
        with self.file.transaction():
            self._db.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (key, value))

    def copy_to(self, path: Path) -> None:
        """Write a copy of the whole book to another file, beside it first and then put there.

        Raises
        ------
        BookError
            When something stands there already, or this file is no longer the book that was
            opened. DiskError when the disk refuses.
        """
        refused = f"{path.name[:80]} cannot be written: "
        if self.file.watch is not None and not self.file.watch.same_file:
            raise GoneError(f"Another program has changed the book {self.path.name}.")
        try:
            if os.path.lexists(path):
                raise BookError(f"There is already a file called {path.name}; choose another name.")
            handle, beside = new_beside(path, NEW)
            os.close(handle)
            try:
                with closing(sqlite3.connect(beside)) as other:
                    self._db.backup(other)
                put_in_place(beside, path)
            finally:
                beside.unlink(missing_ok=True)
        except sqlite3.DatabaseError as error:
            raise DiskError(refused + disk_words(error)) from None
        except OSError as error:
            raise DiskError(f"{refused}{error.strerror}. Choose another folder.") from None

    def fill(
        self,
        entries: Sequence[Entry],
        store: Sequence[Kept],
        rows: Mapping[str, Rows] | None = None,
    ) -> None:
        """Put what was read of another book into this new one, as it is.

        Parameters
        ----------
        rows : mapping of rows by table, or None
            Of all other tables, as `rows_to_carry` gives them.

        Raises
        ------
        BookError
            When the disk refuses.
        """
        self.file.check_writable()
        with self.file.transaction():
            for entry in entries:
                with suppress(*UNFIT):
                    self.history.put_entry(entry)
            for kept in store:
                with suppress(*UNFIT):
                    self._db.execute(
                        "INSERT OR REPLACE INTO store VALUES (?, ?)", (kept.key, kept.body)
                    )
            rows_in(self._db, rows or {})
            self.history.count("formula")
            self.history.count("store")

    def rows_to_carry(self) -> dict[str, Rows]:
        """Read what goes into another book row by row: all but formulas and store."""
        return rows_to_carry(self._db, self._version())
