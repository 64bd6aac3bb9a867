"""A formula as it stands in the book, read from its JSON only when it is wanted."""

from typing import TYPE_CHECKING

import msgspec

from aplomb.core.base.errors import AplombError

if TYPE_CHECKING:
    from aplomb.core.paste.formula import Formula


ANY_LENGTH = 10**9
"""A text that an older program kept is read however long it is [signs]."""


class Entry:
    """A formula in the book; not to be changed once made.

    Parameters
    ----------
    uid : str
        Stays the same for the formula's life.
    place : float
        Order on the shelf [-].
    changed : str
        Time of the last change, UTC, ISO 8601.

    Attributes
    ----------
    name, purpose : str
        Of the formula, without reading the rest of it.
    """

    __slots__ = ("_body", "_formula", "changed", "name", "place", "purpose", "uid")

    def __init__(self, uid: str, place: float, changed: str, formula: "Formula") -> None:
        self.uid, self.place, self.changed = uid, place, changed
        self.name, self.purpose = formula.name, formula.purpose
        self._body = ""
        self._formula: Formula | None = formula

    @classmethod
    def stored(
        cls, uid: str, name: str, purpose: str, place: float, changed: str, body: str
    ) -> "Entry":
        """Make an entry of a row of the book; `body` is the formula as JSON."""
        made = cls.__new__(cls)
        made.uid, made.place, made.changed = uid, place, changed
        made.name, made.purpose = name, purpose
        made._body, made._formula = body, None  # noqa: SLF001 - another way to make one
        return made

    @property
    def formula(self) -> "Formula":
        """The formula; raises AplombError when the book holds something else."""
        body = self._body  # read first: another thread may read the formula at the same time
        if self._formula is None:
            try:
                self._formula = _read(body)
            except (msgspec.DecodeError, AplombError) as error:
                raise AplombError(
                    f"The formula “{self.name}” in the book cannot be read: {error}"
                ) from None
            self._body = ""
        return self._formula

    @property
    def body(self) -> str:
        """The formula as JSON, also one that cannot be read."""
        body = self._body  # read first, as above
        return body if self._formula is None else msgspec.json.encode(self._formula).decode()

    def with_formula(self, formula: "Formula", changed: str) -> "Entry":
        """Give this entry with another formula."""
        return Entry(self.uid, self.place, changed, formula)

    def __eq__(self, other: object) -> bool:
        """Entries are the same when all that is in them is."""
        if not isinstance(other, Entry):
            return NotImplemented
        same = (self.uid, self.place, self.changed) == (other.uid, other.place, other.changed)
        return same and self.formula == other.formula

    __hash__ = None  # type: ignore[assignment]

    def to_json(self) -> str:
        """Write the whole entry as JSON."""
        row = _RawRow(self.uid, self.place, self.changed, msgspec.Raw(self.body.encode()))
        return msgspec.json.encode(row).decode()

    @classmethod
    def from_json(cls, text: str) -> "Entry":
        """Read an entry that `to_json` wrote; raises msgspec.DecodeError."""
        row = msgspec.json.decode(text, type=_RawRow)
        named = msgspec.json.decode(row.formula, type=_Named)
        body = bytes(row.formula).decode()
        return cls.stored(row.uid, named.name, named.purpose, row.place, row.changed, body)


def _read(body: str) -> "Formula":
    """Read and check a formula of the book; signs that this program refuses are taken out."""
    from aplomb.core.base.texts import tidied
    from aplomb.core.paste.checking import check
    from aplomb.core.paste.formula import Formula

    try:
        formula = msgspec.json.decode(body, type=Formula)
    except msgspec.ValidationError:  # an endless number was once kept, as none: its usual value
        formula = msgspec.convert(_without_none(msgspec.json.decode(body)), type=Formula)
    try:
        return check(formula, longest=ANY_LENGTH)
    except AplombError:
        return check(tidied(formula, Formula), longest=ANY_LENGTH)


def _without_none(value: object) -> object:
    """Give plain data without the fields that have no value."""
    if isinstance(value, dict):
        return {key: _without_none(each) for key, each in value.items() if each is not None}
    return [_without_none(each) for each in value] if isinstance(value, list) else value


class _RawRow(msgspec.Struct, frozen=True):
    uid: str
    place: float
    changed: str
    formula: msgspec.Raw


class _Named(msgspec.Struct, frozen=True):
    name: str = ""
    purpose: str = ""
