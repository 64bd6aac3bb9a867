"""Reading a book that may be damaged: every row that can be read, from either end of its table."""

import math
import sqlite3
from collections.abc import Sequence
from typing import Any

import msgspec

from aplomb.book.changes import StoreChange, change_of, parts_of
from aplomb.book.entry import Entry
from aplomb.book.errors import TOO_LONG, BookError, too_long

Rows = list[tuple[Any, ...]]
MOST_ROWS_LOST = 1_000_000


def rows_of(db: sqlite3.Connection, table: str, columns: Sequence[str]) -> tuple[Rows, bool]:
    """Read a table row by row, without trusting its indexes.

    Returns
    -------
    tuple of (rows, whole)
        Rows in the order they lie in; False when the table is not there, or damage hides some:
        then it was read from both ends as far as it goes.
    """
    query = f"SELECT rowid, {', '.join(columns)} FROM {table} NOT INDEXED ORDER BY rowid"
    found, whole = _until_damage(db, query)
    if not whole:
        seen = {row[0] for row in found}
        back, _ = _until_damage(db, f"{query} DESC")
        found += reversed([row for row in back if row[0] not in seen])
    return [row[1:] for row in found], whole


def _until_damage(db: sqlite3.Connection, query: str) -> tuple[Rows, bool]:
    lenient = db.text_factory
    try:
        db.text_factory = str  # much quicker, where every text is sound
        return db.execute(query).fetchall(), True
    except (sqlite3.DatabaseError, OverflowError, MemoryError):
        pass
    finally:
        db.text_factory = lenient
    found: Rows = []
    try:
        for row in db.execute(query):
            found.append(row)
    except (sqlite3.DatabaseError, OverflowError, MemoryError) as error:
        if too_long(error):  # stopped, not damaged
            raise BookError(TOO_LONG.format("The book")) from None
        return found, False
    return found, True


def text(value: object) -> str:
    """Give a cell as text, whatever damage has made of it."""
    if isinstance(value, bytes):
        return value.decode("utf-8", "replace")
    return value if isinstance(value, str) else ""


def entry_of(row: tuple[Any, ...]) -> Entry | None:
    """Make an entry of a row of ``formula``; None when it has no identity."""
    uid, name, purpose, place, changed, body = row
    if not isinstance(uid, str) or not uid:
        return None
    where = place if isinstance(place, (int, float)) and math.isfinite(place) else 0.0
    return Entry.stored(uid, text(name), text(purpose), float(where), text(changed), text(body))


def from_changes(db: sqlite3.Connection, upto: int) -> tuple[dict[str, Entry], dict[str, str]]:
    """Read from what was done how formulas and store were last.

    Parameters
    ----------
    upto : int
        The last change that stands.

    Returns
    -------
    tuple of (entries by identity, bodies of the store by key)
    """
    rows, _ = rows_of(db, "change", ("seq", "words", "formula", "before", "after"))
    entries: dict[str, Entry | None] = {}
    store: dict[str, str | None] = {}
    for seq, words, uid, before, after in rows:
        if not isinstance(seq, int) or seq > upto or not isinstance(uid, str):
            continue
        try:
            change = change_of(text(words), uid, before, after)
        except (msgspec.DecodeError, UnicodeError, TypeError, ValueError):
            continue
        for each in parts_of(change):
            if isinstance(each, StoreChange):
                store.update({kept.key: kept.body for kept in each.after})
            else:
                entries[each.uid] = each.after
    return (
        {uid: entry for uid, entry in entries.items() if entry is not None},
        {key: body for key, body in store.items() if body is not None},
    )
