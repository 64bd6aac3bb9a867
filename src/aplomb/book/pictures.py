"""Photographs of what was baked, as the book keeps them: scaled down, the original on request."""

import sqlite3
from contextlib import suppress
from typing import TYPE_CHECKING

from msgspec import Struct

from aplomb.book.errors import BookError
from aplomb.book.tables import table

if TYPE_CHECKING:
    from aplomb.book.file import BookFile

LARGEST_BYTES = 60_000_000
"""A picture that is larger is not kept [B]."""


class PictureRow(Struct, frozen=True):
    """A photograph without its pixels.

    Attributes
    ----------
    key : str
        Its identity in the book.
    name : str
        Of the file it came from.
    at : str
        When it was taken in, ISO 8601.
    wide, high : int
        As it is kept [px].
    """

    key: str
    name: str
    at: str
    wide: int
    high: int
    has_original: bool


class Pictures:
    """The photographs of a book: rows are added, never changed or taken out; undo finds them."""

    def __init__(self, file: "BookFile") -> None:
        self._file = file

    def _there(self) -> bool:
        return self._file.is_of(table("picture").since)

    def all(self) -> dict[str, PictureRow]:
        """List every photograph by its key; none where they cannot be read."""
        if not self._there():
            return {}
        with suppress(sqlite3.DatabaseError), self._file.turn:
            rows = self._file.db.execute(
                "SELECT key, name, at, wide, high, length(original) > 0 FROM picture ORDER BY at"
            ).fetchall()
            return {
                key: PictureRow(key, name, at, wide, high, has_original=bool(original))
                for key, name, at, wide, high, original in rows
            }
        return {}

    def keep(self, row: PictureRow, small: bytes, body: bytes, original: bytes = b"") -> None:
        """Keep a photograph.

        Parameters
        ----------
        small, body : bytes
            As JPEG: to look at in lists, and to measure on.
        original : bytes
            The file as it came; empty when it is not wanted.

        Raises
        ------
        BookError
            When it is too large, the book can only be read or the disk refuses.
        """
        if len(body) + len(original) > LARGEST_BYTES:
            raise BookError(
                f"{row.name[:60]} takes {(len(body) + len(original)) / 1000000.0:.0f} MB; "
                f"the limit is {LARGEST_BYTES / 1000000.0:.0f} MB. Add it without keeping "
                "the original."
            )
        self._file.check_writable()
        with self._file.transaction():
            self._file.db.execute(
                "INSERT OR REPLACE INTO picture VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
                (row.key, row.name, row.at, row.wide, row.high, small, body, original),
            )

    def small(self, key: str) -> bytes:
        """Read a photograph to be looked at in a list, as JPEG; empty when it is not there."""
        return self._bytes(key, "small")

    def body(self, key: str) -> bytes:
        """Read a photograph to be measured on, as JPEG; empty when it is not there."""
        return self._bytes(key, "body")

    def original(self, key: str) -> bytes:
        """Read the file as it came; empty when it was not kept."""
        return self._bytes(key, "original")

    def _bytes(self, key: str, column: str) -> bytes:
        if not self._there():
            return b""
        with suppress(sqlite3.DatabaseError), self._file.turn:
            row = self._file.db.execute(
                f"SELECT {column} FROM picture WHERE key = ?", (key,)
            ).fetchone()
            return bytes(row[0]) if row else b""
        return b""
