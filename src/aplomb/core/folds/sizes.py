"""Sizes of every rectangle and block: volume is kept, so length follows from the rest."""

import math
from typing import Literal

from msgspec import Struct

from aplomb.core.errors import AplombError
from aplomb.core.folds.plan import Enclosure, Plan, Step, Way
from aplomb.core.folds.windings import log_radius_mm
from aplomb.core.folds.working import Working

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


Shape = Literal["envelope", "cross", "thirds", "halves", "inverse", "pieces", "coil", "plain"]
"""Which drawing an enclosing is."""


class Enclosing(Struct, frozen=True):
    """Sizes for putting dough and fat together.

    Attributes
    ----------
    dough : Box
        The dough before enclosing (for inverse, the dough that is wrapped). Of a cross: from tip
        to tip both ways, and the height of its middle; the flaps are a quarter as high.
    fat : Box or None
        The fat block or sheet; None when there is none or it is in pieces.
    done : Box
        The block just after enclosing; of a coil the log, as long as it is thick, its axis across.
    shape : {'envelope', 'cross', 'thirds', 'halves', 'inverse', 'pieces', 'coil', 'plain'}
        Which drawing it is.
    """

    dough: Box
    fat: Box | None
    done: Box
    shape: Shape

    @property
    def open_ends(self) -> int:
        """Ends of the block with a border: none where the sheet goes round the fat [-]."""
        return 2 if self.shape in ("envelope", "cross") else 1


class TurnSize(Struct, frozen=True):
    """One turn: the sheet it is rolled to and the block it is folded into."""

    sheet: Box
    block: Box


class Trim(Struct, frozen=True):
    """One trim of the paste as it lies.

    Attributes
    ----------
    along, across : float
        What is taken off each end and each side, over the block's length and width [-].
    off_ml : float
        What falls off [mL].
    left : Box
        What stays.
    """

    along: float
    across: float
    off_ml: float
    left: Box


class Worked(Struct, frozen=True):
    """The sizes of a plan: of every turn and of every trim, each in its order."""

    turns: tuple[TurnSize, ...]
    trims: tuple[Trim, ...]


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
    enclosure: Enclosure, dough_ml: float, fat_ml: float, fat_mm: float, width_mm: float,
    working: Working | None = None,
) -> Enclosing:  # fmt: skip
    """Work out the sizes for enclosing.

    Parameters
    ----------
    enclosure : Enclosure
    dough_ml, fat_ml : float
        Volumes of dough and fat block [mL].
    fat_mm : float
        Thickness of the fat block [mm]; for inverse, of the fat sheet.
    width_mm : float
        Chosen width of the block, borders counted [mm].
    working : Working or None
        With border, overlap, way of the envelope and sheet of a coil; None for none of them.

    Returns
    -------
    Enclosing

    Raises
    ------
    AplombError
        When there is nothing to enclose, a length is not above zero, or a border takes the width.

    Notes
    -----
    With a the side of the enclosed block (fat and two borders) and o the overlap: envelope, a
    dough square of √2 (a + o/2), so that the flaps close exactly without overlap; as a cross, a
    middle of a × a and four flaps of a each, a quarter as high, so that as much dough lies above
    as below. Thirds: three panels, fat on two of them. Halves: two. Inverse: the fat is the sheet
    and the dough lies on half of it. Coil: length = volume / (width × sheet).
    """
    working = working or Working()
    border, overlap = working.border_mm, working.overlap_mm
    if enclosure is Enclosure.PORTIONS:
        whole = rolled(dough_ml, 2 * fat_mm, width_mm)
        return Enclosing(whole, None, whole, "plain")
    if enclosure in (Enclosure.NONE, Enclosure.PIECES) or fat_ml <= 0:
        whole = rolled(dough_ml + max(fat_ml, 0), 2 * fat_mm, width_mm)
        shape: Shape = "pieces" if enclosure is Enclosure.PIECES else "plain"
        return Enclosing(whole, None, whole, shape)
    if enclosure is Enclosure.ENVELOPE:
        return _envelope(dough_ml, fat_ml, fat_mm, working)
    if enclosure is Enclosure.COIL:
        return _coil(dough_ml, fat_ml, width_mm, working)
    if width_mm <= 2 * border:
        raise AplombError(
            f"borders of {border:g} mm leave nothing of a width of {width_mm:g} mm; roll it wider"
        )
    inner = width_mm - 2 * border
    if enclosure is Enclosure.INVERSE:
        fat = rolled(fat_ml, fat_mm, width_mm)
        length = fat.length_mm / 2
        if length <= border:
            raise AplombError(
                f"a border of {border:g} mm leaves no room for the dough on a fat sheet "
                f"{fat.length_mm:.0f} mm long; make it narrower or the sheet thinner"
            )
        dough = rolled(dough_ml, dough_ml * 1000 / ((length - border) * inner), inner)
        done = rolled(dough_ml + fat_ml, (dough_ml + fat_ml) * 1000 / (length * width_mm), width_mm)
        return Enclosing(dough, fat, done, "inverse")
    fat = rolled(fat_ml, fat_mm, inner)
    panels, shape = (3, "thirds") if enclosure is Enclosure.THIRDS else (2, "halves")
    panel = (fat.length_mm + border) / (panels - 1)
    length = panels * panel + overlap
    dough = Box(length, width_mm, dough_ml * 1000 / (length * width_mm))
    done = rolled(dough_ml + fat_ml, (dough_ml + fat_ml) * 1000 / (panel * width_mm), width_mm)
    return Enclosing(dough, fat, done, shape)


def _envelope(dough_ml: float, fat_ml: float, fat_mm: float, working: Working) -> Enclosing:
    side = math.sqrt(fat_ml * 1000 / fat_mm)
    fat = Box(side, side, fat_mm)
    block = side + 2 * working.border_mm
    done = Box(block, block, (dough_ml + fat_ml) * 1000 / block**2)
    if working.envelope == "cross":
        tip = 3 * block + working.overlap_mm
        return Enclosing(Box(tip, tip, dough_ml * 500 / block**2), fat, done, "cross")
    dough_side = math.sqrt(2) * (block + working.overlap_mm / 2)
    dough = Box(dough_side, dough_side, dough_ml * 1000 / dough_side**2)
    return Enclosing(dough, fat, done, "envelope")


def _coil(dough_ml: float, fat_ml: float, width_mm: float, working: Working) -> Enclosing:
    sheet = rolled(dough_ml + fat_ml, working.coil_mm, width_mm)
    share = fat_ml / (dough_ml + fat_ml)
    dough = Box(sheet.length_mm, width_mm, working.coil_mm * (1 - share))
    covered = sheet.length_mm - working.border_mm
    if covered <= 0:
        raise AplombError(
            f"a border of {working.border_mm:g} mm takes the whole sheet of a coil, "
            f"{sheet.length_mm:.0f} mm long"
        )
    fat = rolled(fat_ml, fat_ml * 1000 / (covered * width_mm), width_mm)
    across = 2 * log_radius_mm(sheet.length_mm, working.coil_mm)
    return Enclosing(dough, fat, Box(across, width_mm, across), "coil")


def worked_sizes(
    plan: Plan, volume_ml: float, width_mm: float | None, fat_ml: float = 0.0,
    working: Working | None = None, start: Box | None = None,
) -> Worked:  # fmt: skip
    """Size the sheet and the folded block of each turn of a plan, and what each trim leaves.

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
    working : Working or None
        For the sheet of a roll-up; None for the usual.
    start : Box or None
        The enclosed block, which a trim before the first turn takes from.

    Returns
    -------
    Worked
        One size a turn and one a trim, in order; rests have none.

    Raises
    ------
    AplombError
        As `rolled`; for portions that do not come to all the fat; for a trim that takes all.
    """
    working = working or Working()
    sizes: list[TurnSize] = []
    trims: list[Trim] = []
    in_portions = plan.enclosure is Enclosure.PORTIONS and plan.portions > 0
    portions = list(plan.portion_shares()) if in_portions else []
    left = volume_ml - (fat_ml if in_portions else 0.0)
    lies = start
    for step in plan.steps:
        if step.way is Way.TRIM:
            if lies is not None:
                trim = trimmed(lies, step, left)
                trims.append(trim)
                left -= trim.off_ml
                lies = trim.left
            continue
        if not step.is_turn:
            continue
        size = _sized(step, left, width_mm, working)
        if step.way is Way.PORTION and in_portions:
            left += fat_ml * portions.pop(0)
            block = size.block
            high = left * 1000 / (block.length_mm * block.width_mm)
            size = TurnSize(size.sheet, Box(block.length_mm, block.width_mm, high))
        sizes.append(size)
        lies = size.block
    return Worked(tuple(sizes), tuple(trims))


def _sized(step: Step, volume_ml: float, width_mm: float | None, working: Working) -> TurnSize:
    """Size one turn of a paste of so much volume."""
    n, quarter = step.panels, step.way is Way.QUARTER
    usual = working.coil_mm if step.way is Way.ROLL else USUAL_ROLLED_MM
    height = step.rolled_mm or usual
    wide = width_mm or math.sqrt(volume_ml * 1000 / height / (1 if quarter else n))
    sheet = rolled(volume_ml, height, wide)
    if step.way is Way.ROLL:
        across = 2 * log_radius_mm(sheet.length_mm, height)
        return TurnSize(sheet, Box(across, wide, across))
    if quarter:
        return TurnSize(sheet, Box(sheet.length_mm / 2, wide / 2, 4 * height))
    return TurnSize(sheet, Box(sheet.length_mm / n, wide, n * height))


def trimmed(block: Box, step: Step, volume_ml: float) -> Trim:
    """Trim a block as it lies.

    Parameters
    ----------
    block : Box
        Its folded edges stand across its length.
    step : Step
        A trim.
    volume_ml : float
        What the block holds [mL].

    Raises
    ------
    AplombError
        When nothing would be left.
    """
    along = 0.0 if step.edges == "rolled" else step.trim_mm / block.length_mm
    across = 0.0 if step.edges == "folded" else step.trim_mm / block.width_mm
    if along >= 0.5 or across >= 0.5:
        raise AplombError(
            f"a trim of {step.trim_mm:g} mm leaves nothing of a block of "
            f"{block.length_mm:.0f} × {block.width_mm:.0f} mm"
        )
    stays = (1 - 2 * along) * (1 - 2 * across)
    left = Box(
        block.length_mm * (1 - 2 * along), block.width_mm * (1 - 2 * across), block.height_mm
    )
    return Trim(along, across, volume_ml * (1 - stays), left)


def logs_of(
    plan: Plan, how: Enclosing | None, worked: Worked, working: Working
) -> tuple[tuple[float, float], ...]:
    """Length and thickness of every sheet that is rolled to a log, a coil first [mm]."""
    found = []
    if how is not None and how.shape == "coil":
        found.append((how.dough.length_mm, working.coil_mm))
    for step, size in zip(plan.turns, worked.turns, strict=False):
        if step.way is Way.ROLL:
            found.append((size.sheet.length_mm, size.sheet.height_mm))
    return tuple(found)
