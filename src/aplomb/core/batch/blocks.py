"""The blocks of a batch: how large each is while it is folded, and whether there is room for it."""

import math
from functools import lru_cache
from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.folds.boxes import USUAL_ON_BELT_MM, USUAL_ROLLED_MM, Room
from aplomb.core.folds.enclosing import Enclosing, enclosing
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.sizes import Worked, worked_sizes
from aplomb.core.paste.accounts import Accounts
from aplomb.core.paste.formula import Formula

PRESSED = (Enclosure.ENVELOPE, Enclosure.THIRDS, Enclosure.HALVES, Enclosure.INVERSE)
"""Ways of enclosing for which the fat is pressed to a block, of a thickness or of a size."""
MOST_BLOCKS = 200
"""Most blocks that are proposed [-]."""
CLOSE_G = 1.0
"""A block over its limit by no more than this is not too heavy [g]."""
CLOSE_MM = 0.5
"""A size over its limit by no more than this fits [mm]."""


class Beyond(Struct, frozen=True):
    """A size for which there is no room.

    Attributes
    ----------
    limit : {'bench', 'wide', 'shelf'}
        What it is too large for.
    turn : int
        At which turn, 1 for the first; 0 for the enclosing.
    mm, most_mm : float
        What it is and what there is room for [mm].
    """

    limit: Literal["bench", "wide", "shelf"]
    turn: int
    mm: float
    most_mm: float


def room_of(house: House) -> Room:
    """Give the room of a house."""
    usual = USUAL_ON_BELT_MM if house.belt_mm > 0 else USUAL_ROLLED_MM
    return Room(house.bench_mm, house.sheet_wide_mm, house.shelf_mm, usual)


def sized_block(
    formula: Formula, plan: Plan, accounts: Accounts, share: float, house: House
) -> tuple[Enclosing, Worked]:
    """Size the enclosing, turns and trims of one block.

    Parameters
    ----------
    plan : Plan
        Of the same formula.
    accounts : Accounts
        Of the same formula.
    share : float
        One block over the formula as written [-].
    house : House
        For widths that are not typed.

    Raises
    ------
    AplombError
        As `enclosing` and `worked_sizes`.
    """
    how = enclosed_block(formula, plan, accounts, share, house)
    return how, worked_block(formula, plan, accounts, share, house, how)


def enclosed_block(
    formula: Formula, plan: Plan, accounts: Accounts, share: float, house: House
) -> Enclosing:
    """Size the enclosing of one block alone; as `sized_block`."""
    fat_ml, working = accounts.block_ml * share, formula.working
    width = formula.enclose_width_mm
    if width is None:
        width = formula.roll_width_mm
    thick = formula.fat_block_mm
    area_mm2 = formula.fat_length_mm * formula.fat_width_mm
    if area_mm2 > 0 and fat_ml > 0 and plan.enclosure in PRESSED:
        thick = fat_ml * 1000 / area_mm2
        of_sheet = plan.enclosure is Enclosure.INVERSE  # the fat goes to the edge there
        width = formula.fat_width_mm + (0.0 if of_sheet else 2 * working.border_mm)
    return enclosing(
        plan.enclosure,
        accounts.dough_ml * share,
        fat_ml,
        thick,
        width or None,
        working,
        room_of(house),
        formula.gathered_mm,
    )


def worked_block(
    formula: Formula, plan: Plan, accounts: Accounts, share: float, house: House, how: Enclosing
) -> Worked:
    """Size the turns and trims of one block that is enclosed already; as `sized_block`."""
    return worked_sizes(
        plan,
        accounts.paste_ml * share,
        formula.roll_width_mm or None,
        accounts.block_ml * share,
        formula.working,
        how.done,
        room_of(house),
    )


def beyond(how: Enclosing, worked: Worked, house: House) -> tuple[Beyond, ...]:
    """List the sizes for which there is no room: sheets on bench and belt, blocks on the shelf.

    Returns
    -------
    tuple of Beyond
        In the order of the work. A dough may lie either way; a sheet is rolled as it is.
    """
    bench, wide, shelf = house.bench_mm, house.sheet_wide_mm, house.shelf_mm
    flat = [how.dough] if how.fat is None else [how.dough, how.fat]
    found = [
        each
        for box in flat
        for each in (
            Beyond("bench", 0, max(box.length_mm, box.width_mm), bench),
            Beyond("wide", 0, min(box.length_mm, box.width_mm), wide),
        )
    ]
    if how.shape not in ("coil", "plain", "pieces"):
        found.append(Beyond("shelf", 0, max(how.done.length_mm, how.done.width_mm), shelf))
    for turn, size in enumerate(worked.turns, 1):
        found.append(Beyond("bench", turn, size.sheet.length_mm, bench))
        found.append(Beyond("wide", turn, size.sheet.width_mm, wide))
        found.append(Beyond("shelf", turn, max(size.block.length_mm, size.block.width_mm), shelf))
    return tuple(each for each in found if each.mm > each.most_mm + CLOSE_MM)


def block_fits(
    formula: Formula, plan: Plan, accounts: Accounts, share: float, house: House
) -> bool:
    """Tell whether one block is not too heavy and has room at every step; as `sized_block`."""
    if accounts.paste_g * share > house.block_most_g + CLOSE_G:
        return False
    how, worked = sized_block(formula, plan, accounts, share, house)
    return not beyond(how, worked, house)


CLOSE_SHARE = 0.002
"""How near the largest block is found [-]."""
HUGE_ML = 2_000_000.0
"""No block is larger [mL]."""


@lru_cache(maxsize=32)  # what a day wants asks again and again for the same
def largest_block_ml(formula: Formula, plan: Plan, accounts: Accounts, house: House) -> float:
    """Volume of the largest block that this bench, belt, shelf and baker take [mL].

    Infinite for a paste without sizes.

    Parameters
    ----------
    accounts : Accounts
        Of the formula: its own proportions of dough and fat.

    Notes
    -----
    Found by halving: every rolled sheet must lie on the bench one way and go under the belt the
    other, the folded block onto the shelf, and no block may be heavier than the house rolls.
    """
    if accounts.paste_ml <= 0:
        return math.inf

    low, high = 1.0, HUGE_ML
    try:
        if block_has_room(formula, plan, accounts, high, house):
            return math.inf
        while high / low > 1 + CLOSE_SHARE:
            middle = math.sqrt(low * high)
            fits = block_has_room(formula, plan, accounts, middle, house)
            low, high = (middle, high) if fits else (low, middle)
    except AplombError:
        return math.inf
    return low


def block_has_room(
    formula: Formula, plan: Plan, accounts: Accounts, volume_ml: float, house: House
) -> bool:
    """Tell whether a block of so much paste has room at every step; as `sized_block`."""
    return block_fits(formula, plan, accounts, volume_ml / accounts.paste_ml, house)


@lru_cache(maxsize=128)  # several rules, and what they propose, ask for the same
def fitting_blocks(
    formula: Formula, plan: Plan, accounts: Accounts, factor: float, house: House, now: int
) -> int | None:
    """Find the fewest blocks, no fewer than there are, for which there is room.

    None when none up to `MOST_BLOCKS` fits.

    Parameters
    ----------
    factor : float
        Batch over formula as written [-].
    now : int
        Blocks that there are [-].
    """

    def fits(blocks: int) -> bool:
        try:
            return block_fits(formula, plan, accounts, factor / blocks, house)
        except AplombError:
            return False

    return next((blocks for blocks in _some_more(now) if fits(blocks)), None)


def _some_more(now: int) -> list[int]:
    """Numbers of blocks to try: one by one, then in larger steps."""
    found, blocks = [now], now
    while blocks < MOST_BLOCKS:
        blocks += max(1, math.floor(blocks / 8))
        found.append(blocks)
    return found
