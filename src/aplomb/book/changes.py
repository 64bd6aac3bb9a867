"""What a book remembers: changes that can be undone, and revisions."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec

from aplomb.book.entry import Entry

if TYPE_CHECKING:
    from aplomb.core.paste.formula import Formula


class Change(msgspec.Struct, frozen=True):
    """One thing that was done: the entry before and after, None when it was not there."""

    words: str
    uid: str
    before: Entry | None
    after: Entry | None


class Kept(msgspec.Struct, frozen=True, array_like=True):
    """One row of the store: its key, and its body as JSON; None when it is not there."""

    key: str
    body: str | None


class StoreChange(msgspec.Struct, frozen=True):
    """One thing that was done to the store: its rows before and after."""

    words: str
    before: tuple[Kept, ...]
    after: tuple[Kept, ...]


class Together(msgspec.Struct, frozen=True):
    """Several things that one command did, and that one step takes back."""

    words: str
    changes: tuple[Change | StoreChange, ...]


AnyChange = Change | StoreChange | Together
_STORE, _TOGETHER = "store", "together"


_Row = tuple[str, str, str | None, str | None]


class Revision(msgspec.Struct, frozen=True):
    """A formula at a point that was named.

    Attributes
    ----------
    number : int
        1 for the first.
    name, at : str
        What it was named; time in UTC, ISO 8601.
    """

    number: int
    name: str
    at: str
    formula: "Formula"


def row_of(change: AnyChange) -> tuple[str, str | None, str | None]:
    """Give a change as id, before and after."""
    if isinstance(change, StoreChange):
        before, after = (msgspec.json.encode(k).decode() for k in (change.before, change.after))
        return _STORE, before, after
    if isinstance(change, Together):
        rows = [(each.words, *row_of(each)) for each in change.changes]
        return _TOGETHER, None, msgspec.json.encode(rows).decode()
    return change.uid, _dump(change.before), _dump(change.after)


def parts_of(change: AnyChange, *, back: bool = False) -> Sequence[Change | StoreChange]:
    """Give the single things of a change in the order in which they are done, or taken back."""
    if not isinstance(change, Together):
        return (change,)
    return change.changes[::-1] if back else change.changes


def change_of(words: str, uid: str, before: str | None, after: str | None) -> AnyChange:
    """Read a change as `row_of` gave it."""
    if uid == _TOGETHER:
        rows = msgspec.json.decode(after or "[]", type=tuple[_Row, ...])
        parts = tuple(change_of(*row) for row in rows)
        return Together(words, tuple(each for part in parts for each in parts_of(part)))
    if uid != _STORE:
        return Change(words, uid, _load(before), _load(after))
    one, two = (
        msgspec.json.decode(rows or "[]", type=tuple[Kept, ...]) for rows in (before, after)
    )
    return StoreChange(words, one, two)


def _dump(entry: Entry | None) -> str | None:
    return None if entry is None else entry.to_json()


def _load(body: str | None) -> Entry | None:
    return None if body is None else Entry.from_json(body)
