"""What was done and measured in a batch that was really made."""

import math

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import Problems
from aplomb.core.base.figures import num
from aplomb.core.base.quantity import LARGEST_G
from aplomb.core.base.sound import check_sound

MOST_DUSTED = 1.1
"""Dusting flour goes into the paste: a sheet may weigh a little more than was mixed [-]."""


class WeighedLine(Struct, frozen=True, forbid_unknown_fields=True):
    """One line as it was weighed out.

    Attributes
    ----------
    part, material : str
        Which line; `product` besides for a filling or topping.
    target_g : float
        What was to be weighed [g].
    got_g : float
        What was weighed [g].
    tare_g : float
        What the scale showed before [g].
    by : str
        ``scale`` or ``hand``.
    at : str
        When, ISO 8601.
    enough : bool
        True when less than was wanted is all of it: water to feel, a line that was ended.
    mix : int
        Which mix it is for, 1 for the first; 0 for the whole batch [-].
    """

    part: str
    material: str
    target_g: float
    got_g: float
    tare_g: float = 0.0
    by: str = "scale"
    at: str = ""
    product: str = ""
    mix: int = 0
    enough: bool = False

    @property
    def key(self) -> tuple[str, str, str, int]:
        """Which line it is."""
        return self.part, self.material, self.product, self.mix


class Outcome(Struct, frozen=True, forbid_unknown_fields=True):
    """What was measured of a batch; None for what was not.

    Attributes
    ----------
    mixed_g : float or None
        Paste as mixed: dough and fat block [g].
    joined_g : float or None
        Scrap and paste from the freezer that were rolled with it [g].
    dust_used_g, dust_left_g : float or None
        Dusting flour taken, and swept up again [g].
    rolled_g : float or None
        Paste that reached the final sheet [g].
    cut_g : float or None
        All pieces as cut, without filling [g].
    baked_g : float or None
        The same pieces baked, without filling [g].
    pieces, broken : int or None
        Pieces baked, and those of them put aside [-].
    """

    mixed_g: float | None = None
    joined_g: float | None = None
    dust_used_g: float | None = None
    dust_left_g: float | None = None
    rolled_g: float | None = None
    cut_g: float | None = None
    baked_g: float | None = None
    pieces: int | None = None
    broken: int | None = None


OUTCOME_WORDS = {
    "mixed_g": "Paste as mixed, g",
    "joined_g": "… plus scrap and frozen paste, g",
    "dust_used_g": "Dusting flour used, g",
    "dust_left_g": "… swept up again, g",
    "rolled_g": "Paste on the final sheets, g",
    "cut_g": "All pieces as cut, g",
    "baked_g": "All pieces as baked, g",
    "pieces": "Pieces baked",
    "broken": "… broken or rejected",
}


class MadeBatch(Struct, frozen=True, forbid_unknown_fields=True):
    """A batch that was begun.

    Attributes
    ----------
    key : str
        Its identity in the book.
    formula : str
        Name of the formula.
    uid : str
        Identity of the formula in the book.
    begun : str
        When, ISO 8601.
    factor : float
        What the batch was scaled up by while it was weighed [-].
    stock_taken : bool
        What was weighed is off the stock.
    """

    key: str
    formula: str
    uid: str
    begun: str
    factor: float = 1.0
    lines: tuple[WeighedLine, ...] = ()
    outcome: Outcome = Outcome()
    note: str = ""
    stock_taken: bool = False

    def weighed(self, line: WeighedLine) -> "MadeBatch":
        """Give the record with a line weighed; weighing it again takes its place."""
        rest = tuple(each for each in self.lines if each.key != line.key)
        return replace(self, lines=(*rest, line))


def check_made_batch(made_batch: MadeBatch) -> MadeBatch:
    """Give the record back if every figure in it can be used; raises FormulaError otherwise.

    Raises
    ------
    FormulaError
        With the reason in words.
    """
    wrong = Problems()
    wrong.number("batch, scale factor", made_batch.factor, 0, 1e9, "")
    for line in made_batch.lines:
        wrong.number(f"{line.material} weighed", line.got_g, 0, LARGEST_G, "g")
        wrong.number(f"{line.material} ordered", line.target_g, 0, LARGEST_G, "g")
        if not math.isfinite(line.tare_g):
            wrong.add(f"{line.material}: the tare cannot be used; enter a weight.")
    o = made_batch.outcome
    for name, words in OUTCOME_WORDS.items():
        given = getattr(o, name)
        if given is not None:
            wrong.number(words, given, 0, LARGEST_G, "")
    for less, more, words in (
        ("cut_g", "rolled_g", "pieces weigh more than the sheets they were cut from"),
        ("baked_g", "cut_g", "pieces weigh more baked than raw"),
        ("dust_left_g", "dust_used_g", "more dusting flour swept up than taken"),
        ("broken", "pieces", "more pieces broken than baked"),
    ):
        small, large = getattr(o, less), getattr(o, more)
        if small is not None and large is not None and small > large:
            wrong.add(
                f"outcome: {words} ({num(small)} and {num(large)}); check both, one is wrong."
            )
    if o.rolled_g is not None and o.mixed_g is not None:
        most = (o.mixed_g + (o.joined_g or 0.0)) * MOST_DUSTED
        if o.rolled_g > most:
            wrong.add(
                f"outcome: more paste on the sheets than was mixed ({num(o.rolled_g)} and "
                f"{num(o.mixed_g)}); check both, or enter the scrap that was added."
            )
    check_sound(made_batch, wrong)
    wrong.check()
    return made_batch
