"""What a book remembers: changes that can be undone, and revisions."""

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


AnyChange = Change | StoreChange
_STORE = "store"


class Revision(msgspec.Struct, frozen=True):
    """A formula at a point that was named.

    Attributes
    ----------
    number : int
        1 for the first.
    name, at : str
        What it was named; time in UTC, ISO 8601.
    formula : Formula
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
    return change.uid, _dump(change.before), _dump(change.after)


def change_of(words: str, uid: str, before: str | None, after: str | None) -> AnyChange:
    """Read a change as `row_of` gave it."""
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
