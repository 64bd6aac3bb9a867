"""A sheet or block of paste as a box, and the room there is for it."""

from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import AplombError


class Box(Struct, frozen=True):
    """A block of paste: length (as rolled), width and height [mm]."""

    length_mm: float
    width_mm: float
    height_mm: float

    @property
    def volume_ml(self) -> float:
        """Volume [mL]."""
        return self.length_mm * self.width_mm * self.height_mm / 1000


USUAL_ROLLED_MM, USUAL_ON_BELT_MM = 10.0, 6.0
"""Thickness rolled to before a fold when the turn line does not say: by hand 8 to 12 mm, on a
sheeter 5 to 7 [mm], common practice."""


class Room(Struct, frozen=True):
    """How much room there is to roll and to rest.

    Attributes
    ----------
    bench_mm : float
        Longest sheet [mm].
    wide_mm : float
        Widest sheet: the belt, or the bench across [mm].
    shelf_mm : float
        Longest folded block that lies flat in the cold [mm].
    usual_mm : float
        Thickness rolled to before a fold where the turn line does not say it [mm].
    """

    bench_mm: float = 1800.0
    wide_mm: float = 700.0
    shelf_mm: float = 600.0
    usual_mm: float = USUAL_ROLLED_MM


Shape = Literal["envelope", "cross", "thirds", "halves", "inverse", "pieces", "coil", "plain"]
"""Which drawing an enclosing is."""


def at_least(area_mm2: float) -> float:
    """An area that can be rolled [mm²]; nothing is told by `rolled` in words."""
    return max(area_mm2, 1e-9)


def rolled(volume_ml: float, height_mm: float, width_mm: float) -> Box:
    """Sheet of a given volume at a thickness and width.

    Length = volume / (width × thickness).

    Parameters
    ----------
    volume_ml : float
        Volume [mL].
    height_mm, width_mm : float
        Thickness and width [mm].

    Raises
    ------
    AplombError
        When any of the three is not above zero.

    Notes
    -----
    Rolling keeps the volume: V = length × width × thickness, the dough being as good as
    incompressible.

    Examples
    --------
    >>> rolled(1800.0, 9.0, 400.0).length_mm
    500.0
    """
    if not (volume_ml > 0 and height_mm > 0 and width_mm > 0):
        raise AplombError("a sheet needs a volume, a thickness and a width above 0")
    return Box(volume_ml * 1000 / (width_mm * height_mm), width_mm, height_mm)
