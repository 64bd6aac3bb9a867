"""Runs at the bench, as the book keeps them: what was pressed, and what the probes said.

Rows are only added. They may be written from a thread of its own, so that the window never waits
for a disk; `BookFile.turn` keeps writers apart.
"""

import sqlite3
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from msgspec import Struct

from aplomb.book.salvage import text
from aplomb.book.tables import rows_out, table
from aplomb.core.bench.readings import merged

if TYPE_CHECKING:
    from aplomb.book.file import BookFile

_HEAD = ("id", "title", "begun", "ended")
"""Of a run, for a list: what it planned is large and not read."""


class RunRow(Struct, frozen=True):
    """A run as it is listed; `ended` is empty while it goes on. Times are ISO 8601."""

    number: int
    title: str
    begun: str
    ended: str


class PressRow(Struct, frozen=True):
    """One press; `act` is JSON, `at_s` seconds since the run began [s]."""

    number: int
    at_s: float
    wall: str
    act: str


class ReadingRow(Struct, frozen=True):
    """A minute of a probe's readings, packed."""

    probe: str
    minute: int
    body: bytes


class Runs:
    """The runs of a book."""

    def __init__(self, file: "BookFile") -> None:
        self._file = file

    def _there(self) -> bool:
        return self._file.is_of(table("run").since)

    def all(self) -> list[RunRow]:
        """List every run, the last one first; none where they cannot be read."""
        if not self._there():
            return []
        heads, _ = rows_out(self._file.db, "run", _HEAD)
        return [
            RunRow(number, text(title), text(begun), text(ended))
            for number, title, begun, ended in reversed(heads)
            if isinstance(number, int)
        ]

    def begin(self, title: str, begun: str, plan: str) -> int:
        """Keep a new run; gives its number.

        Raises
        ------
        BookError
            When the book can only be read or the disk refuses.
        """
        self._file.check_writable()
        with self._file.transaction():
            row = self._file.db.execute(
                "INSERT INTO run (title, begun, ended, plan) VALUES (?, ?, '', ?)",
                (title, begun, plan),
            )
            return int(row.lastrowid or 0)

    def plan(self, run: int) -> str:
        """Read what a run set out to do, as JSON; empty when it cannot be read."""
        if not self._there():
            return ""
        try:
            row = self._file.db.execute("SELECT plan FROM run WHERE id = ?", (run,)).fetchone()
        except sqlite3.DatabaseError:
            return ""
        return text(row[0]) if row else ""

    def press(self, run: int, presses: Sequence[PressRow]) -> None:
        """Keep what was pressed; when this is over it is on the disk.

        Raises
        ------
        BookError
            When the book can only be read or the disk refuses; nothing is kept then.
        """
        self._file.check_writable()
        with self._file.transaction():
            self._file.db.executemany(
                "INSERT INTO press VALUES (?, ?, ?, ?, ?)",
                [(run, p.number, p.at_s, p.wall, p.act) for p in presses],
            )

    def presses(self, run: int) -> list[PressRow]:
        """Read what was pressed in a run, in order."""
        if not self._there():
            return []
        try:
            rows = self._file.db.execute(
                "SELECT number, at_s, wall, act FROM press WHERE run = ? ORDER BY number", (run,)
            ).fetchall()
        except sqlite3.DatabaseError:
            rows = [row[1:] for row in rows_out(self._file.db, "press")[0] if row[0] == run]
        return [PressRow(*row) for row in rows]

    def end(self, run: int, ended: str) -> None:
        """Keep that a run is over, or with an empty text that it goes on.

        Raises
        ------
        BookError
            When the book can only be read or the disk refuses.
        """
        self._file.check_writable()
        with self._file.transaction():
            self._file.db.execute("UPDATE run SET ended = ? WHERE id = ?", (ended, run))

    def read(self, run: int, rows: Iterable[ReadingRow]) -> None:
        """Keep minutes of readings; what is kept of one already stays, where nothing is later.

        Raises
        ------
        BookError
            When the book can only be read or the disk refuses.
        """
        self._file.check_writable()
        with self._file.transaction():
            db = self._file.db
            for r in rows:
                there = db.execute(
                    "SELECT body FROM reading WHERE run = ? AND probe = ? AND minute = ?",
                    (run, r.probe, r.minute),
                ).fetchone()
                body = merged(bytes(there[0]), r.body) if there else r.body
                db.execute(
                    "INSERT OR REPLACE INTO reading VALUES (?, ?, ?, ?)",
                    (run, r.probe, r.minute, body),
                )

    def readings(self, run: int, probe: str = "", since: int = 0) -> list[ReadingRow]:
        """Read minutes of readings from one on, of one probe or of all, in order of time."""
        if not self._there():
            return []
        try:
            rows = self._file.db.execute(
                "SELECT probe, minute, body FROM reading WHERE run = ? AND minute >= ? "
                "AND (? = '' OR probe = ?) ORDER BY minute, probe",
                (run, since, probe, probe),
            ).fetchall()
        except sqlite3.DatabaseError:
            return []
        return [ReadingRow(*row) for row in rows]
