"""Losses from bowl to rack: measured in the book's own batches, or else what is usual."""

import math
from collections.abc import Sequence
from typing import Literal

from msgspec import Struct

from aplomb.core.base.figures import num
from aplomb.core.batch.made_batch import MadeBatch, Outcome
from aplomb.core.paste.formula import Batch
from aplomb.core.paste.ingredient import Standing

Kind = Literal["loss", "dust", "trim", "bake", "broken"]
"""Bowl and bench, dusting taken up, trim, oven, breakage."""


class Usual(Struct, frozen=True):
    """A usual loss.

    Attributes
    ----------
    words, base : str
        What it is, and what it is a share of.
    value : float
        The share [%].
    low, high : float
        What is seen in use [%].
    """

    words: str
    base: str
    value: float
    low: float
    high: float
    standing: Standing


USUAL: dict[Kind, Usual] = {
    "loss": Usual("Bowl and bench", "paste as mixed", 2, 1, 4, "memory"),
    "dust": Usual("Dusting flour taken up", "dusting flour used", 50, 20, 80, "memory"),
    "trim": Usual("Trim and scrap", "paste as rolled", 12, 5, 20, "memory"),
    "bake": Usual("Oven", "pieces as cut", 14, 10, 18, "memory"),
    "broken": Usual("Broken or rejected", "pieces baked", 0, 0, 5, "memory"),
}
"""From memory, all of them; a book's own batches take their place."""

KINDS: tuple[Kind, ...] = ("loss", "dust", "trim", "bake", "broken")


class Loss(Struct, frozen=True):
    """One loss as it is reckoned with.

    Attributes
    ----------
    value : float
        The share [%].
    standing : Standing
        ``own`` for what was typed or measured.
    batches : int
        Own batches it was measured in; 0 for a typed or usual one [-].
    spread : float or None
        How far batches lie apart, one standard deviation [%]; None for fewer than two.
    typed : bool
        True when the formula states it.
    from_cut : bool
        True when it is what the cut plan leaves, so that nothing is assumed.
    """

    value: float
    standing: Standing
    batches: int = 0
    spread: float | None = None
    typed: bool = False
    from_cut: bool = False

    @property
    def origin(self) -> str:
        """Where it comes from, in words."""
        if self.from_cut:
            return "from the cut plan"
        if self.typed:
            return "as typed"
        if self.batches:
            spread = f" ± {num(self.spread, '.1f')}" if self.spread is not None else ""
            many = f"{self.batches} of your batches" if self.batches > 1 else "one of your batches"
            return f"from {many}{spread}"
        return "rule of thumb"


class Losses(Struct, frozen=True):
    """All losses of a batch."""

    loss: Loss
    dust: Loss
    trim: Loss
    bake: Loss
    broken: Loss

    @property
    def kept(self) -> float:
        """Paste that does not stay on bowl and bench, over paste as mixed [-]."""
        return 1 - self.loss.value / 100

    def of(self, kind: Kind) -> Loss:
        """Give one of them."""
        found: Loss = getattr(self, kind)
        return found


def shares(outcome: Outcome) -> dict[Kind, tuple[float, float]]:
    """Give what an outcome says of each loss: what was lost, and of how much.

    Returns
    -------
    dict of (lost, base), by kind
        In grams, or pieces for breakage; only what was measured.
    """
    o = outcome
    found: dict[Kind, tuple[float, float]] = {}
    if o.mixed_g and o.rolled_g is not None:
        whole, taken = o.mixed_g + (o.joined_g or 0.0), 0.0
        if o.dust_used_g is not None and o.dust_left_g is not None:
            taken = max(0.0, o.dust_used_g - o.dust_left_g)
        found["loss"] = (whole + taken - o.rolled_g, whole)
    if o.dust_used_g and o.dust_left_g is not None:
        found["dust"] = (o.dust_used_g - o.dust_left_g, o.dust_used_g)
    if o.rolled_g and o.cut_g is not None:
        found["trim"] = (o.rolled_g - o.cut_g, o.rolled_g)
    if o.cut_g and o.baked_g is not None:
        found["bake"] = (o.cut_g - o.baked_g, o.cut_g)
    if o.pieces and o.broken is not None:
        found["broken"] = (float(o.broken), float(o.pieces))
    return {
        kind: (lost, base) for kind, (lost, base) in found.items() if base > 0 and 0 <= lost <= base
    }


def measured(kind: Kind, made_batches: Sequence[MadeBatch], uid: str) -> Loss | None:
    """Give a loss as own batches have it; None without any.

    Parameters
    ----------
    uid : str
        The formula's identity: its own batches are taken when there are any, else all of the book.

    Notes
    -----
    All that was lost over all it was lost of; the spread is the standard deviation of the batches.
    """
    own = [r for r in made_batches if r.uid == uid]
    for some in (own, made_batches):
        found = [share for r in some if (share := shares(r.outcome).get(kind))]
        if found:
            value = 100 * sum(lost for lost, _ in found) / sum(base for _, base in found)
            each = [100 * lost / base for lost, base in found]
            mean = sum(each) / len(each)
            spread = (
                math.sqrt(sum((x - mean) ** 2 for x in each) / (len(each) - 1))
                if len(each) > 1
                else None
            )
            return Loss(value, "own", len(found), spread)
    return None


def losses_of(batch: Batch, made_batches: Sequence[MadeBatch], uid: str = "") -> Losses:
    """Give all losses of a batch: as typed, else as measured, else as usual.

    Parameters
    ----------
    made_batches : sequence of MadeBatch
        Of the book.
    uid : str
        The formula's identity in the book; empty for a formula that is in none.
    """
    found = {}
    for kind in KINDS:
        typed = getattr(batch, f"{kind}_pct")
        usual = USUAL[kind]
        found[kind] = (
            Loss(typed, "own", typed=True)
            if typed is not None
            else measured(kind, made_batches, uid) or Loss(usual.value, usual.standing)
        )
    return Losses(**found)
