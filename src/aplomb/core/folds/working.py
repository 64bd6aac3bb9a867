"""How the paste is worked by hand or machine: borders, creases, thickness and edges as they are."""

from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import Problems

EnvelopeWay = Literal["turned", "cross"]


class Working(Struct, frozen=True, forbid_unknown_fields=True):
    """What makes real folds differ from ideal ones; nothing of it by default.

    Attributes
    ----------
    border_mm : float
        Bare border left at the open edges when fat is enclosed or spread [mm].
    overlap_mm : float
        What the dough's edges overlap where they are sealed [mm].
    envelope : {'turned', 'cross'}
        A square block turned on a square of dough, or laid on a cross with four flaps.
    hinge_pct : float
        How round the bends at folded edges are: 0 a sharp crease, 100 as round as the sheet is
        thick [%].
    misfold_mm : float
        What every flap falls short of the edge it should meet [mm].
    uneven_pct : float
        How much thinner the ends of a rolled sheet are than its mean [%]; its middle is thicker by
        half of that.
    coil_mm : float
        Thickness of the sheet that is rolled to a coil, with its fat [mm].
    """

    border_mm: float = 0.0
    overlap_mm: float = 0.0
    envelope: EnvelopeWay = "turned"
    hinge_pct: float = 0.0
    misfold_mm: float = 0.0
    uneven_pct: float = 0.0
    coil_mm: float = 2.0

    @property
    def ideal(self) -> bool:
        """True when leaves go through from edge to edge."""
        return not (self.border_mm or self.hinge_pct or self.misfold_mm or self.uneven_pct)


LIMITS: dict[str, tuple[str, float, float, str]] = {
    "border_mm": ("Bare border", 0, 100, "mm"),
    "overlap_mm": ("Dough overlap", 0, 100, "mm"),
    "hinge_pct": ("Roundness of bends", 0, 100, "%"),
    "misfold_mm": ("Flaps fall short by", 0, 100, "mm"),
    "uneven_pct": ("Ends rolled thinner by", 0, 60, "%"),
    "coil_mm": ("Sheet thickness for a coil", 0.3, 30, "mm"),
}
"""Words and limits of each figure."""


def check_working(working: Working, wrong: Problems) -> None:
    """Note every figure that cannot be used among the problems."""
    for name, (_, low, high, unit) in LIMITS.items():
        wrong.number(f"working.{name}", getattr(working, name), low, high, unit)
