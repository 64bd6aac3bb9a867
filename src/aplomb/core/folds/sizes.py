"""Sizes of every rectangle and block: volume is kept, so length follows from the rest."""

import math
from typing import Literal

from msgspec import Struct

from aplomb.core.errors import AplombError
from aplomb.core.folds.plan import Enclosure, Plan, Way

USUAL_ROLLED_MM = 10.0
"""Thickness rolled to before a fold when the turn line does not say [mm]; by hand 8–12 mm is
common practice."""


class Box(Struct, frozen=True):
    """A block of paste: length (as rolled), width and height [mm]."""

    length_mm: float
    width_mm: float
    height_mm: float

    @property
    def volume_ml(self) -> float:
        """Volume [mL]."""
        return self.length_mm * self.width_mm * self.height_mm / 1000


Shape = Literal["envelope", "thirds", "halves", "inverse", "pieces", "plain"]
"""Which drawing an enclosing is."""


class Enclosing(Struct, frozen=True):
    """Sizes for putting dough and fat together.

    Attributes
    ----------
    dough : Box
        The dough before enclosing (for inverse, the dough that is wrapped).
    fat : Box or None
        The fat block or sheet; None when there is none or it is in pieces.
    done : Box
        The block just after enclosing.
    shape : {'envelope', 'thirds', 'halves', 'inverse', 'pieces', 'plain'}
        Which drawing it is.
    """

    dough: Box
    fat: Box | None
    done: Box
    shape: Shape


class TurnSize(Struct, frozen=True):
    """One turn: the sheet it is rolled to and the block it is folded into."""

    sheet: Box
    block: Box


def rolled(volume_ml: float, height_mm: float, width_mm: float) -> Box:
    """Sheet of a given volume at a thickness and width.

    Parameters
    ----------
    volume_ml : float
        Volume [mL].
    height_mm, width_mm : float
        Thickness and width [mm].

    Returns
    -------
    Box
        Length = volume / (width × thickness).

    Raises
    ------
    AplombError
        When any of the three is not above zero.
    """
    if not (volume_ml > 0 and height_mm > 0 and width_mm > 0):
        raise AplombError("a sheet needs a volume, a thickness and a width above 0")
    return Box(volume_ml * 1000 / (width_mm * height_mm), width_mm, height_mm)


def enclosing(
    enclosure: Enclosure, dough_ml: float, fat_ml: float, fat_mm: float, width_mm: float
) -> Enclosing:
    """Work out the sizes for enclosing, without overlap or border.

    Parameters
    ----------
    enclosure : Enclosure
    dough_ml, fat_ml : float
        Volumes of dough and fat block [mL].
    fat_mm : float
        Thickness of the fat block [mm]; for inverse, of the fat sheet.
    width_mm : float
        Chosen width [mm].

    Returns
    -------
    Enclosing

    Raises
    ------
    AplombError
        When there is nothing to enclose, or a length is not above zero.

    Notes
    -----
    Envelope: the dough square has √2 times the block's side, so the flaps close exactly. Thirds:
    the dough is 1.5 times as long as the fat. Halves: 2 times. Inverse: the fat is 2 times as
    long as the dough.
    """
    if enclosure is Enclosure.PORTIONS:
        whole = rolled(dough_ml, 2 * fat_mm, width_mm)
        return Enclosing(whole, None, whole, "plain")
    if enclosure in (Enclosure.NONE, Enclosure.PIECES) or fat_ml <= 0:
        whole = rolled(dough_ml + max(fat_ml, 0), 2 * fat_mm, width_mm)
        shape: Shape = "pieces" if enclosure is Enclosure.PIECES else "plain"
        return Enclosing(whole, None, whole, shape)
    if enclosure is Enclosure.ENVELOPE:
        side = math.sqrt(fat_ml * 1000 / fat_mm)
        dough_side = math.sqrt(2) * side
        dough = Box(dough_side, dough_side, dough_ml * 1000 / dough_side**2)
        fat = Box(side, side, fat_mm)
        done = Box(side, side, fat_mm + 2 * dough.height_mm)
        return Enclosing(dough, fat, done, "envelope")
    fat = rolled(fat_ml, fat_mm, width_mm)
    if enclosure is Enclosure.INVERSE:
        length = fat.length_mm / 2
        dough = Box(length, width_mm, dough_ml * 1000 / (length * width_mm))
        return Enclosing(dough, fat, Box(length, width_mm, dough.height_mm + 2 * fat_mm), "inverse")
    if enclosure is Enclosure.THIRDS:
        length = 1.5 * fat.length_mm
        dough = Box(length, width_mm, dough_ml * 1000 / (length * width_mm))
        done = Box(length / 3, width_mm, 3 * dough.height_mm + 2 * fat_mm)
        return Enclosing(dough, fat, done, "thirds")
    if enclosure is Enclosure.HALVES:
        length = 2 * fat.length_mm
        dough = Box(length, width_mm, dough_ml * 1000 / (length * width_mm))
        done = Box(length / 2, width_mm, 2 * dough.height_mm + fat_mm)
        return Enclosing(dough, fat, done, "halves")
    raise AplombError(f"sizes for “{enclosure.value}” cannot be worked out yet")


def turn_sizes(
    plan: Plan, volume_ml: float, width_mm: float | None, fat_ml: float = 0.0
) -> tuple[TurnSize, ...]:
    """Size the sheet and the folded block of each turn of a plan.

    Parameters
    ----------
    plan : Plan
    volume_ml : float
        Volume of one block of paste [mL].
    width_mm : float or None
        Chosen width of every sheet [mm]; None for the width at which the folded block is square
        (the sheet is then n : 1).
    fat_ml : float
        Volume of its fat block [mL]; in portions it comes into the paste step by step.

    Returns
    -------
    tuple of TurnSize
        One a turn, in order; rests have none.

    Raises
    ------
    AplombError
        As `rolled`.
    """
    sizes = []
    portions = plan.portions if plan.enclosure is Enclosure.PORTIONS else 0
    if portions:
        volume_ml -= fat_ml
    for step in plan.turns:
        height = step.rolled_mm or USUAL_ROLLED_MM
        area = volume_ml * 1000 / height
        n = step.panels
        quarter = step.way is Way.QUARTER
        wide = width_mm or math.sqrt(area / (1 if quarter else n))
        sheet = rolled(volume_ml, height, wide)
        if step.way is Way.PORTION and portions:
            volume_ml += fat_ml / portions
            high = volume_ml * 1000 / (sheet.length_mm / n * sheet.width_mm)
            block = Box(sheet.length_mm / n, sheet.width_mm, high)
        elif quarter:
            block = Box(sheet.length_mm / 2, sheet.width_mm / 2, 4 * height)
        else:
            block = Box(sheet.length_mm / n, sheet.width_mm, n * height)
        sizes.append(TurnSize(sheet, block))
    return tuple(sizes)
