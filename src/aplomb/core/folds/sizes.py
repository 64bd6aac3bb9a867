"""Sizes of every rectangle and block: volume is kept, so length follows from the rest."""

import math

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_text, sides_mm
from aplomb.core.folds.boxes import Box, Room, at_least, rolled
from aplomb.core.folds.enclosing import Enclosing
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.windings import log_radius_mm
from aplomb.core.folds.working import Working

SAME_AREA = 0.02
"""Sheets whose areas differ by less can be rolled to one rectangle [-]."""
MOST_SIDEWAYS = 1.5
"""How much wider a sheet is rolled than the folded block lies across, at the most [-]: paste is
stretched towards its open ends and can hardly be narrowed (common practice)."""


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

    @property
    def kept(self) -> float:
        """Share of the paste that stays [-]."""
        return (1 - 2 * self.along) * (1 - 2 * self.across)


class Worked(Struct, frozen=True):
    """The sizes of a plan: of every turn and of every trim, each in its order."""

    turns: tuple[TurnSize, ...]
    trims: tuple[Trim, ...]


def worked_sizes(
    plan: Plan,
    volume_ml: float,
    width_mm: float | None,
    fat_ml: float = 0.0,
    working: Working | None = None,
    start: Box | None = None,
    room: Room | None = None,
) -> Worked:
    """Size the sheet and the folded block of each turn of a plan, and what each trim leaves.

    One size a turn and one a trim, in order; rests have none.

    Parameters
    ----------
    volume_ml : float
        Volume of one block of paste [mL].
    width_mm : float or None
        Chosen width of every sheet [mm]; None for what follows from the block before it.
    fat_ml : float
        Volume of its fat block [mL]; in portions it comes into the paste step by step.
    working : Working or None
        For the sheet of a roll-up; None for the usual.
    start : Box or None
        The enclosed block, from which the first sheet is rolled and a first trim takes; None for
        one that is as wide as the first sheet has to be for n : 1.
    room : Room or None
        For the widths that are not chosen.

    Notes
    -----
    After the quarter-turn the folded length lies across. Paste is stretched towards its open ends,
    about as many times as the next fold has panels, and from 1 to `MOST_SIDEWAYS` times sideways,
    never narrowed: it is the rectangle of the turn before where that lies within, else as wide as
    brings it nearest to n times as long as the block was wide, within the room there is. Where
    nothing fits it is the size nearest to fitting.

    Raises
    ------
    AplombError
        As `rolled`; for portions that do not come to all the fat; for a trim that takes all.
    """
    working, room = working or Working(), room or Room()
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
        last = sizes[-1].sheet if sizes else None
        size = _sized(step, left, width_mm, working, lies, room, last)
        if step.way is Way.PORTION and in_portions:
            left += fat_ml * portions.pop(0)
            block = size.block
            high = left * 1000 / (block.length_mm * block.width_mm)
            size = TurnSize(size.sheet, Box(block.length_mm, block.width_mm, high))
        sizes.append(size)
        lies = size.block
    return Worked(tuple(sizes), tuple(trims))


def fat_share_at(plan: Plan, fat_share: float, worked: Worked, upto: int | None = None) -> float:
    """Volume share of the fat in the paste as it is after some steps [-].

    Parameters
    ----------
    fat_share : float
        Of all the fat of the plan in all its paste [-].
    worked : Worked
        With the trims of the plan.
    upto : int or None
        Only the first steps; None for all.

    Notes
    -----
    A trim takes dough and fat alike; portions that are spread later are the more of what is left.
    """
    if plan.enclosure is not Enclosure.PORTIONS or not plan.portions:
        return fat_share
    shares, trims = iter(plan.portion_shares()), iter(worked.trims)
    fat, whole = 0.0, 1 - fat_share
    for step in plan.steps[:upto]:
        if step.way is Way.TRIM and (trim := next(trims, None)) is not None:
            fat, whole = fat * trim.kept, whole * trim.kept
        elif step.way is Way.PORTION:
            portion = fat_share * next(shares)
            fat, whole = fat + portion, whole + portion
    return fat / whole


def natural_width(
    before: Box,
    volume_ml: float,
    height_mm: float,
    panels: float,
    room: Room,
    *,
    most_long_mm: float = math.inf,
    square: bool = False,
) -> float:
    """Width of the sheet that a block is rolled to after its quarter-turn.

    Width [mm], between 1 and `MOST_SIDEWAYS` times the block's length; of a square sheet at
    least the block's length.

    Parameters
    ----------
    before : Box
        The block as it lies before: its length will lie across.
    volume_ml, height_mm : float
        Of the sheet [mL], [mm].
    panels : float
        How many times as long as the block was wide it should become [-].
    most_long_mm : float
        Longest sheet whose folded block still fits the shelf [mm].
    square : bool
        True for a sheet that should be square.

    Notes
    -----
    The sheet should become `panels` times as long as the block was wide: with its area A and the
    block's width w, the width is A / (panels · w); √A for a square. It is at least the block's
    length (paste can hardly be narrowed), at most `MOST_SIDEWAYS` of it (common practice), and
    within bench, belt and shelf.
    """
    area = volume_ml * 1000 / height_mm
    least = before.length_mm
    most = math.inf if square else MOST_SIDEWAYS * least
    wanted = math.sqrt(area) if square else area / (panels * before.width_mm)
    shelf = math.inf if math.isinf(most_long_mm) else room.shelf_mm * (2 if square else 1)
    low = max(least, area / min(room.bench_mm, most_long_mm))
    high = min(most, room.wide_mm, shelf)
    return min(max(min(max(wanted, low), high), least), most)


def _fits_again(
    last: Box | None, before: Box, volume_ml: float, height_mm: float, panels: int, room: Room
) -> bool:
    """Tell whether the rectangle of the turn before can be rolled again: one to remember.

    It is as wide as the block lies across, or up to `MOST_SIDEWAYS` times; the paste is as much and
    rolled as thin; and it and its folded block have room.
    """
    if last is None:
        return False
    area = volume_ml * 1000 / height_mm
    is_same = abs(area / (last.length_mm * last.width_mm) - 1) < SAME_AREA
    sideways = last.width_mm / before.length_mm
    long = area / last.width_mm
    return (
        is_same
        and 1 - CLOSE_WIDTH <= sideways <= MOST_SIDEWAYS
        and long <= room.bench_mm
        and max(long / panels, last.width_mm) <= room.shelf_mm
        and last.width_mm <= room.wide_mm
    )


CLOSE_WIDTH = 1e-9


def _sized(
    step: Step,
    volume_ml: float,
    width_mm: float | None,
    working: Working,
    before: Box | None,
    room: Room,
    last: Box | None,
) -> TurnSize:
    """Size one turn of a paste of so much volume, whose last sheet was `last`."""
    n, quarter = step.panels, step.way is Way.QUARTER
    usual = working.coil_mm if step.way is Way.ROLL else room.usual_mm
    height = step.rolled_mm or usual
    if width_mm:
        wide = width_mm
    elif before is None:
        wide = math.sqrt(at_least(volume_ml * 1000 / height / (1 if quarter else n)))
    elif step.way is Way.ROLL:
        wide = natural_width(before, volume_ml, height, 3, room)
    elif not quarter and _fits_again(last, before, volume_ml, height, n, room):
        wide = last.width_mm if last else 0.0
    else:
        folded = 2 if quarter else n
        wide = natural_width(
            before,
            volume_ml,
            height,
            n,
            room,
            most_long_mm=folded * room.shelf_mm,
            square=quarter,
        )
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

    Notes
    -----
    The share that is left is (1 − 2a)(1 − 2b), with a and b what a strip takes of length and width.
    """
    along = 0.0 if step.edges == "rolled" else step.trim_mm / block.length_mm
    across = 0.0 if step.edges == "folded" else step.trim_mm / block.width_mm
    if along >= 0.5 or across >= 0.5:
        raise AplombError(
            f"a trim of {mm_text(step.trim_mm)} leaves nothing of a block of "
            f"{sides_mm(block.length_mm, block.width_mm)}; trim less"
        )
    left = Box(
        block.length_mm * (1 - 2 * along), block.width_mm * (1 - 2 * across), block.height_mm
    )
    trim = Trim(along, across, 0.0, left)
    return replace(trim, off_ml=volume_ml * (1 - trim.kept))


def logs_of(
    plan: Plan, how: Enclosing | None, worked: Worked, working: Working
) -> tuple[tuple[float, float], ...]:
    """Length and thickness of every sheet that is rolled to a log, a coil first [mm].

    Of a coil the length that has fat.
    """
    found = []
    if how is not None and how.shape == "coil":
        found.append((how.dough.length_mm - working.border_mm, working.coil_mm))
    for step, size in zip(plan.turns, worked.turns, strict=False):
        if step.way is Way.ROLL:
            found.append((size.sheet.length_mm, size.sheet.height_mm))
    return tuple(found)
