"""A batch in grams: every line as it is weighed, and what is made of it."""

import math

from msgspec import Struct

from aplomb.core.batch.losses import Losses
from aplomb.core.paste.formula import (
    Part,
)
from aplomb.core.paste.line import Line

TOO_COARSE_PCT = 20.0
"""A scale that is off by this share of a line cannot weigh it [%], our choice."""


class Weighed(Struct, frozen=True):
    """One line of a batch.

    Attributes
    ----------
    line : Line
        As in the formula.
    exact_g, weigh_g : float
        Scaled mass, and that rounded to the scale's division [g].
    product : str
        Name of the product that a filling or topping is for; empty for a line of the formula.
    by_mix : tuple of float
        What is weighed for each mix [g], in all `weigh_g`; empty for what is weighed once.
    """

    part: Part
    line: Line
    exact_g: float
    weigh_g: float
    product: str = ""
    by_mix: tuple[float, ...] = ()

    @property
    def key(self) -> tuple[str, str, str]:
        """Which line it is."""
        return self.part.value, self.line.material, self.product

    @property
    def drift_g(self) -> float:
        """What rounding adds [g]."""
        return self.weigh_g - self.exact_g

    @property
    def drift_pct(self) -> float:
        """What rounding adds, on the exact mass [%]; 0 for a line of nothing."""
        return 100 * self.drift_g / self.exact_g if self.exact_g > 0 else 0.0

    @property
    def too_little(self) -> bool:
        """Whether it is less than the scale can weigh: a pinch on a scale of whole grams."""
        return abs(self.drift_pct) >= TOO_COARSE_PCT


class Made(Struct, frozen=True):
    """What a batch gives of one product.

    Attributes
    ----------
    name : str
        Empty for the batch's own piece.
    pieces : int
        To cut [-].
    paste_g : float
        Paste in one piece [g].
    filled_g : float
        One piece with filling, topping and its share of the finish [g].
    good : int
        Those that are whole after the oven [-].
    """

    name: str
    pieces: int
    paste_g: float
    filled_g: float
    good: int


class BlockGroup(Struct, frozen=True):
    """Blocks of new paste that are alike.

    Attributes
    ----------
    blocks : int
        How many [-].
    each_g : float
        One as mixed [g].
    plan : int
        Which plan of the cut they are rolled for; -1 for none.
    off_g : float
        Paste that is cut off each before its last rolling, and kept [g].
    """

    blocks: int
    each_g: float
    plan: int = -1
    off_g: float = 0.0


class Scaled(Struct, frozen=True):
    """A batch worked out.

    Attributes
    ----------
    factor : float
        Batch over formula as written [-].
    paste_g : float
        Paste as mixed [g], before rounding.
    strewn_g : float
        What is sprinkled in between the folds [g].
    dust_g : float
        Dusting flour that the paste takes up [g].
    loss_g : float
        Paste that stays on bowl, bench and pin [g].
    folded_g : float
        Trimmed off while it is folded [g].
    frozen_g : float
        Paste from the freezer [g].
    scrap_in_g : float
        Scrap of earlier batches, stacked in before the last rolling [g].
    rolled_g : float
        What reaches the final sheet [g].
    trim_g : float
        Cut away [g].
    piece_g : float
        Paste of one raw piece, of several products on the mean [g].
    pieces : int
        Whole pieces it gives [-].
    over_g : float
        Rolled paste left after whole pieces and trim [g].
    blocks : int
        Blocks of new paste [-]; 0 when all comes from the freezer.
    groups : tuple of BlockGroup
        The blocks, those that are alike together; the first ones stand for all where one is shown.
    each_g : float
        One block of paste before it is rolled [g], of the first group.
    finished_g : float
        One such block when all its turns are done [g]: with what is strewn in and dusted up,
        without what stays on bowl and bench or is trimmed while folding.
    drift_g : float
        What rounding adds to the paste [g].
    made : tuple of Made
        Pieces by product.
    from_offcuts : tuple of Made
        Pieces of products that are made of what is cut away; no paste is made for them.
    losses : Losses or None
        What was reckoned with.
    mixes : tuple of int
        Blocks of each mix, so that the bowl holds its dough [-].
    as_cut : bool
        True when a cut plan says how much is rolled; `over_g` is then paste that is not rolled out.
    trouble : str
        Why it cannot be worked out; empty when it can.
    """

    factor: float
    lines: tuple[Weighed, ...] = ()
    paste_g: float = 0.0
    strewn_g: float = 0.0
    dust_g: float = 0.0
    loss_g: float = 0.0
    folded_g: float = 0.0
    frozen_g: float = 0.0
    scrap_in_g: float = 0.0
    rolled_g: float = 0.0
    trim_g: float = 0.0
    piece_g: float = 0.0
    pieces: int = 0
    over_g: float = 0.0
    blocks: int = 0
    each_g: float = 0.0
    finished_g: float = 0.0
    groups: tuple[BlockGroup, ...] = ()
    drift_g: float = 0.0
    made: tuple[Made, ...] = ()
    from_offcuts: tuple[Made, ...] = ()
    losses: Losses | None = None
    mixes: tuple[int, ...] = (1,)
    as_cut: bool = False
    trouble: str = ""

    @property
    def written_pieces(self) -> float | None:
        """Pieces that the formula as written gives [-]; None without any."""
        return self.pieces / self.factor if self.pieces and self.factor > 0 else None

    @property
    def a_block(self) -> float:
        """One block of the first group over the formula as written [-]; 0 for none."""
        return self.factor * self.each_g / self.paste_g if self.paste_g > 0 else 0.0

    def over_exact(self, part: Part, material: str = "") -> float:
        """What the scale shows over the exact mass, of a part or one material in it [-].

        1 for what is too little for the scale.
        """
        mine = [n for n in self.lines if n.part is part and material in ("", n.line.material)]
        exact, shown = sum(n.exact_g for n in mine), sum(n.weigh_g for n in mine)
        return shown / exact if exact > 0 and shown > 0 else 1.0

    @property
    def block_groups(self) -> list[BlockGroup]:
        """The group of every block of new paste, in the order of the blocks."""
        return [group for group in self.groups for _ in range(group.blocks)]

    @property
    def kept(self) -> float:
        """Paste that does not stay on bowl and bench, over paste as mixed [-]; 1 when unknown."""
        return self.losses.kept if self.losses else 1.0

    @property
    def good(self) -> int:
        """Pieces that are whole after the oven [-]."""
        return sum(each.good for each in self.made)

    @property
    def cut_g(self) -> float:
        """All pieces as cut [g]."""
        return sum(m.pieces * m.paste_g for m in self.made)

    @property
    def joined_g(self) -> float:
        """Frozen paste and scrap that are rolled with it, to a milligram [g]."""
        return round(self.frozen_g + self.scrap_in_g, 3)

    @property
    def baked_g(self) -> float:
        """All pieces after the oven, without what is on them [g]."""
        bake = self.losses.bake.value if self.losses else 0.0
        return sum(each.pieces * each.paste_g for each in self.made) * (1 - bake / 100)


def rounded(grams: float, division_g: float) -> float:
    """Round a mass to the scale's division; what is there never becomes nothing.

    The nearest multiple, halves up; at least one division when `grams` is above zero.

    Parameters
    ----------
    grams, division_g : float
        Mass and division [g], division above 0.

    Examples
    --------
    >>> rounded(12.34, 0.5)
    12.5
    """
    steps = math.floor(grams / division_g + 0.5)
    if grams > 0:
        steps = max(1, steps)
    return round(steps * division_g, 6)
