"""Keeping: how long paste and what is baked of it keep, in which form, until when."""

import re
from typing import Literal, get_args

from msgspec import Struct

from aplomb.core.base.errors import Problems

Form = Literal[
    "whole", "half", "quarter", "dough", "sheet", "squares", "log", "raw", "lined", "baked",
]  # fmt: skip
FORM_WORDS: dict[Form, str] = {
    "dough": "dough without its fat", "whole": "whole block", "half": "half block",
    "quarter": "quarter block",
    "sheet": "sheet folded in three between paper", "squares": "cut squares, boxed with paper",
    "log": "log", "raw": "raw filled pieces", "lined": "lined tins", "baked": "baked",
}  # fmt: skip
FORMS: tuple[Form, ...] = get_args(Form)
PIECES: tuple[Form, ...] = ("raw", "baked")
"""Forms that go straight to the oven."""
SHARES: dict[Form, int] = {"whole": 1, "half": 2, "quarter": 4}
"""Parts of a block, by form: what a batch or a day can begin from."""
Where = Literal["fridge", "freezer", "room"]
WHERES: tuple[Where, ...] = get_args(Where)
MOST_KEPT = 300
REFRESH_C = 180.0
REFRESH_MIN = (4, 6)
"""What is baked comes back crisp at that, without a fan, in so long; common practice [°C, min]."""
_DAY = re.compile(r"\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])")


class KeepClaim(Struct, frozen=True):
    """How long something is said to keep, days: the default, and the longest that is claimed."""

    days: int
    claimed: int


CLAIMS: dict[tuple[str, Where], KeepClaim] = {
    ("paste", "fridge"): KeepClaim(2, 21),
    ("paste", "freezer"): KeepClaim(14, 60),
    ("raw", "fridge"): KeepClaim(1, 1),
    ("raw", "freezer"): KeepClaim(14, 60),
    ("baked", "room"): KeepClaim(1, 2),
    ("baked", "freezer"): KeepClaim(14, 60),
}
"""The short end is the default, what is claimed beyond it is shown as a claim; common practice."""


class KeptItem(Struct, frozen=True, forbid_unknown_fields=True):
    """Something put by.

    Attributes
    ----------
    key : str
        Its identity.
    uid : str
        Identity of its formula in the book.
    each_g : float
        Mass of one [g]; 0 when it is not known.
    turns, planned : int
        Turns done, and how many it will have [-].
    made : str
        Day, ISO 8601.
    product : str
        What it is for, or what it is.
    thawed : bool
        It was frozen once: it is never frozen again.
    """

    key: str
    uid: str
    form: Form
    where: Where
    many: int = 1
    each_g: float = 0.0
    turns: int = 0
    planned: int = 0
    made: str = ""
    product: str = ""
    thawed: bool = False


def claim_of(form: Form, where: Where) -> KeepClaim | None:
    """Give how long a form keeps in a place; None where it should not be kept.

    Examples
    --------
    >>> claim_of("whole", "freezer").days, claim_of("whole", "room")
    (14, None)
    """
    kind = form if form in ("raw", "baked") else "paste"
    return CLAIMS.get((kind, where))


def check_kept(items: tuple[KeptItem, ...], wrong: Problems) -> None:
    """Take down all that is wrong with what is put by."""
    if len(items) > MOST_KEPT:
        wrong.add(f"kept: {len(items)} are too many; use up to {MOST_KEPT} fit.")
    for i, item in enumerate(items[:MOST_KEPT], 1):
        place = f"kept {i}"
        wrong.number(f"{place}, how many", item.many, 1, 10_000, "")
        wrong.number(f"{place}, each", item.each_g, 0, 1e6, "g")
        wrong.number(f"{place}, turns done", item.turns, 0, 99, "")
        wrong.number(f"{place}, turns planned", item.planned, 0, 99, "")
        if claim_of(item.form, item.where) is None:
            wrong.add(
                f"{place}: {FORM_WORDS[item.form]} does not keep in the {item.where}; use "
                f"{' or '.join(w for w in WHERES if claim_of(item.form, w))}."
            )
        if item.thawed and item.where == "freezer":
            wrong.add(f"{place}: never refreeze what has been thawed.")
        if item.made and not _DAY.match(item.made):
            wrong.add(f"{place}: “{item.made[:20]}” is not a date; write it like 2026-11-28.")
