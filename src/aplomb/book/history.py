"""The changes of a book: carried out, remembered, undone and done again."""

import sqlite3
from collections.abc import Callable, Sequence
from datetime import UTC, datetime

import msgspec

from aplomb.book.changes import (
    AnyChange,
    Change,
    Kept,
    StoreChange,
    change_of,
    parts_of,
    row_of,
)
from aplomb.book.entry import Entry
from aplomb.book.errors import BookError
from aplomb.book.file import BookFile
from aplomb.book.salvage import text
from aplomb.book.tables import UNFIT
from aplomb.core.base.errors import AplombError

MOST_CHANGES = 2000
"""So many changes are remembered [-]."""


def now() -> str:
    """Give the time in UTC as ISO 8601 to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")


class Refused(msgspec.Struct, frozen=True):
    """A change that could not be written while the others were: it, and why."""

    change: AnyChange
    why: str


class History:
    """The list of changes of an open book.

    Parameters
    ----------
    setting : callable
        Reads one of the book's settings, or the default.
    """

    def __init__(self, file: BookFile, setting: Callable[[str, str], str]) -> None:
        self._file, self._setting = file, setting

    def record(self, changes: Sequence[AnyChange]) -> list[Refused]:
        """Carry changes out and remember them; what was undone is let go.

        Changes that no book can hold; the others are written all the same.

        Raises
        ------
        DiskError
            When the disk refuses; the book is as it was. GoneError when it is another file now.
        BookError
            When the book can only be read.
        """
        if not changes:
            return []
        self._file.check_writable()
        refused: list[Refused] = []
        with self._file.transaction():
            undo_position = self.position()
            self._file.db.execute("DELETE FROM change WHERE seq > ?", (undo_position,))
            for change in changes:
                self._file.db.execute("SAVEPOINT one")
                try:
                    undo_position = self._record_one(change)
                    self._file.db.execute("RELEASE one")
                except UNFIT as error:
                    self._file.db.execute("ROLLBACK TO one")
                    self._file.db.execute("RELEASE one")
                    refused.append(Refused(change, str(error)))
            self._file.db.execute(
                "DELETE FROM change WHERE seq <= ?", (undo_position - MOST_CHANGES,)
            )
            self.set_position(undo_position)
        return refused

    def _record_one(self, change: AnyChange) -> int:
        uid, before, after = row_of(change)
        row = self._file.db.execute(
            "INSERT INTO change (words, formula, before, after, at) VALUES (?, ?, ?, ?, ?)",
            (change.words, uid, before, after, now()),
        )
        self._put(change, back=False)
        return int(row.lastrowid or 0)

    def undo(self) -> AnyChange | None:
        """Take the last change back.

        What was taken back; None when there is nothing.

        Raises
        ------
        BookError
            When its record cannot be read: it is passed over, and the one before can be undone.
        """
        return self._step(
            "SELECT {} FROM change WHERE seq <= ? ORDER BY seq DESC LIMIT 1", back=True
        )

    def redo(self) -> AnyChange | None:
        """Make the last undone change again; None when there is none. Raises as `undo`."""
        return self._step("SELECT {} FROM change WHERE seq > ? ORDER BY seq LIMIT 1", back=False)

    def forget_changes(self) -> None:
        """Let go of all changes: what is there now is where undoing ends.

        Raises
        ------
        BookError
            When the book can only be read or the disk refuses.
        """
        self._file.check_writable()
        with self._file.transaction():
            self._file.db.execute("DELETE FROM change")
            self.set_position(0)

    def next_words(self) -> tuple[str, str]:
        """Say what undo and redo would do; empty for nothing."""
        undo_position = self.position()
        try:
            back = self._file.db.execute(
                "SELECT words FROM change WHERE seq <= ? ORDER BY seq DESC LIMIT 1",
                (undo_position,),
            ).fetchone()
            on = self._file.db.execute(
                "SELECT words FROM change WHERE seq > ? ORDER BY seq LIMIT 1", (undo_position,)
            ).fetchone()
        except sqlite3.DatabaseError:
            return "", ""
        return (text(back[0]) if back else "", text(on[0]) if on else "")

    def _step(self, query: str, *, back: bool) -> AnyChange | None:
        self._file.check_writable()
        change: AnyChange | None = None
        unreadable = ""
        with self._file.transaction():
            row = self._file.db.execute(
                query.format("seq, words, formula, before, after"), (self.position(),)
            ).fetchone()
            if row is not None:
                seq, words, uid, before, after = row
                try:
                    found = change_of(words, uid, before, after)
                    for each in parts_of(found, back=back):
                        _check_readable(each.before if back else each.after)
                    self._put(found, back=back)
                    change = found
                except (msgspec.DecodeError, AplombError, *UNFIT):
                    unreadable = text(words)
                self.set_position(self._before(seq) if back else seq)
        if unreadable:
            raise BookError(
                f"“{unreadable}” cannot be undone: its record in the book is damaged. It has been "
                "skipped; press Undo again for the one before."
                if back
                else f"“{unreadable}” cannot be redone: its record in the book is damaged. It has "
                "been skipped; press Redo again for the next one."
            )
        return change

    def _before(self, seq: int) -> int:
        row = self._file.db.execute("SELECT max(seq) FROM change WHERE seq < ?", (seq,)).fetchone()
        return int(row[0] or 0)

    def _put(self, change: AnyChange, *, back: bool) -> None:
        for each in parts_of(change, back=back):
            self._put_one(each, back=back)

    def _put_one(self, change: Change | StoreChange, *, back: bool) -> None:
        if isinstance(change, StoreChange):
            for kept in change.before if back else change.after:
                if kept.body is None:
                    self._file.db.execute("DELETE FROM store WHERE key = ?", (kept.key,))
                else:
                    self._file.db.execute(
                        "INSERT OR REPLACE INTO store VALUES (?, ?)", (kept.key, kept.body)
                    )
            self.count("store")
            return
        entry = change.before if back else change.after
        if entry is None:
            self._file.db.execute("DELETE FROM formula WHERE id = ?", (change.uid,))
        else:
            self.put_entry(entry)
        if (change.before is None) != (change.after is None):
            self.count("formula")

    def count(self, table: str) -> None:
        """Keep how many rows a table has, so that rows that vanish are missed."""
        self._file.db.execute(
            "INSERT OR REPLACE INTO setting "
            f"SELECT 'rows of {table}', CAST(count(*) AS TEXT) FROM {table}"
        )

    def put_entry(self, entry: Entry) -> None:
        """Write a formula into its row."""
        self._file.db.execute(
            "INSERT OR REPLACE INTO formula (id, name, purpose, place, changed, body) "
            "VALUES (?, ?, ?, ?, ?, ?)",
            (entry.uid, entry.name, entry.purpose, entry.place, entry.changed, entry.body),
        )

    def position(self) -> int:
        """Number of the last change that stands; one that leads nowhere counts as the last."""
        said = self._setting("stands", "0")
        try:
            row = self._file.db.execute("SELECT max(seq) FROM change").fetchone()
        except sqlite3.DatabaseError:
            return 0
        last = row[0] if isinstance(row[0], int) else 0
        number = int(said) if said.isdecimal() and len(said) < 19 else last
        return min(number, last)

    def set_position(self, seq: int) -> None:
        """Say which change is the last that stands."""
        self._file.db.execute("INSERT OR REPLACE INTO setting VALUES ('stands', ?)", (str(seq),))


def _check_readable(what: Entry | Sequence[Kept] | None) -> None:
    """Raise AplombError when a formula that is to be put back cannot be read."""
    if isinstance(what, Entry):
        _ = what.formula
