"""What an opinion is, and the bands of the schools it is held against."""

from typing import Literal

from msgspec import Struct

from aplomb.core.paste.formula import Formula, School
from aplomb.core.paste.ingredient import Standing

Mark = Literal["wrong", "look"]


class Action(Struct, frozen=True):
    """Something that can be done about it: a label and the formula it gives."""

    label: str
    formula: Formula


class Opinion(Struct, frozen=True):
    """One judgement.

    Attributes
    ----------
    key : str
        Of the rule; dismissing is remembered by it.
    claim, why : str
        What is the matter; why, with the numbers.
    origin : Standing
        Where the rule comes from.
    place : int or None
        Where in the plan it is seen: 0 for the enclosing, 1 for the first step; None for no place.
    """

    key: str
    mark: Mark
    claim: str
    why: str
    origin: Standing
    action: Action | None = None
    place: int | None = None


class Band(Struct, frozen=True, forbid_unknown_fields=True):
    """Where a reading usually lies.

    Attributes
    ----------
    low, high : float
        Usual range, in the reading's unit.
    axis_low, axis_high : float
        Range that is drawn.
    words : str
        Where it comes from, short.
    log : bool
        True when it is drawn on a logarithmic scale.
    """

    low: float
    high: float
    axis_low: float
    axis_high: float
    standing: Standing
    words: str
    log: bool = False


class SchoolBands(Struct, frozen=True, forbid_unknown_fields=True):
    """A school: its name in the app's words, and its bands by reading."""

    key: School
    name: str
    bands: dict[str, Band]
