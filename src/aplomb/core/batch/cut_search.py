"""Which cut plan a batch is rolled to: searched, or as it was found before when it still holds.

Where products have outlines the cut plan is what sets the paste, its blocks and the last sheet. A
search takes tens of milliseconds; what it hangs on (outlines, numbers, the room there is) changes
seldom, while grams change with every key. So a plan is kept with the volumes of block between which
the search ends at the same sheets, and found again by two questions about one block.
"""

import math
from collections.abc import Callable, Sequence
from functools import lru_cache

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.batch.blanks import piece_ml
from aplomb.core.batch.blocks import block_has_room, largest_block_ml
from aplomb.core.batch.cutting import CutPlan, Limits, best_cut, thicknesses, untrimmed_cut
from aplomb.core.batch.sheets import Sheets
from aplomb.core.folds.plan import Plan
from aplomb.core.oven.programme import Programme
from aplomb.core.paste.accounts import Accounts
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.product import Cutting, Product

NOT_ORDERED = "No pieces ordered yet. Enter how many for one of the products."
FIRST_HALVED = 2
"""Every third try halves what is left, so that a yield that jumps does not hold it up."""
ROUNDS, FEW_ROUNDS, MANY_BLOCKS = 14, 5, 6
"""How often sheets are laid anew to find what a given mass of paste is enough for; seldom where it
makes many blocks, which take longer to search and are less off by a piece."""
USUAL_YIELD = 0.85
"""Share of the sheets that goes into pieces, to begin with."""
CLOSE_ML = 1e-6


class CutCase(Struct, frozen=True):
    """What a cut plan hangs on.

    Attributes
    ----------
    raw : tuple of int
        Pieces to cut of each of the formula's products, those that will break among them [-].
    shrinks : float
        A block when it reaches its last sheet over the block as mixed [-].
    """

    formula: Formula
    plan: Plan
    accounts: Accounts
    house: House
    raw: tuple[int, ...]
    shrinks: float

    @property
    def density_g_ml(self) -> float:
        """Density of the paste as it is rolled [g/mL].

        Raises
        ------
        AplombError
            Of a paste that weighs nothing.
        """
        density = self.accounts.rolled_density_g_ml
        if density is None:
            raise AplombError("A paste without weight has no density.")
        return density

    @property
    def stock_ml(self) -> float:
        """Volume of a block from the freezer as it reaches its last sheet [mL]; 0 for none."""
        batch = self.formula.batch
        return batch.frozen_g / batch.frozen_blocks * self.shrinks / self.density_g_ml

    @property
    def set_ml(self) -> float:
        """Volume of the paste in all pieces that are wanted, without any scrap [mL]."""
        formula = self.formula
        return sum(
            n * piece_ml(p, formula.sheet_mm)
            for n, p in zip(self.raw, formula.products, strict=True)
        )

    def limits(self, block_ml: float = math.inf) -> tuple[Limits, ...]:
        """Give what sheets must keep within, for a sheet on a tray the tray each way round."""
        house = self.house
        bench = Limits(house.bench_mm, house.sheet_wide_mm, block_ml)
        if self.formula.cutting.lies_on == "bench":
            return (bench,)
        long, wide = house.tray_long_mm, house.tray_wide_mm
        return tuple(
            replace(bench, lies_long_mm=along, lies_wide_mm=across)
            for along, across in dict.fromkeys(((long, wide), (wide, long)))
        )

    def block_ml(self) -> float:
        """Volume of the largest block as it reaches its last sheet [mL]."""
        most = largest_block_ml(self.formula, self.plan, self.accounts, self.house)
        return most * self.shrinks

    def holds(self, plan: CutPlan) -> bool:
        """Tell whether a search would end at this plan again, with the block there is now."""
        if not self._has_room(plan.from_ml):
            return False
        return math.isinf(plan.below_ml) or not self._has_room(plan.below_ml)

    def _has_room(self, finished_ml: float) -> bool:
        try:
            volume_ml = finished_ml / self.shrinks
            return block_has_room(self.formula, self.plan, self.accounts, volume_ml, self.house)
        except AplombError:
            return True  # a paste without sizes has no largest block


class _Outlines(Struct, frozen=True):
    """Of a case, what the sheets themselves hang on: fillings, prices and grams do not."""

    products: tuple[Product, ...]
    sheet_mm: float
    cutting: Cutting
    limits: tuple[Limits, ...]
    thickness_mm: float
    blocks: int
    least_blocks: int
    alone: int = -1
    """Which product, of one that is rolled piece by piece."""


@lru_cache(maxsize=256)
def _kept(asked: _Outlines) -> list[CutPlan]:  # noqa: ARG001  # the key of what it holds
    """Plans that were found for the same outlines, with different largest blocks."""
    return []


MOST_KEPT = 8


def _outline(product: Product, wanted: int) -> Product:
    return replace(
        product, wanted=wanted, filling=(), topping=(), finish="", price=0.0, bake=Programme(),
        room_mm=0.0, a_tray=0, make_up="", filling_is="",
    )  # fmt: skip


@lru_cache(maxsize=64)  # one formula asks with every key press
def _asked(
    products: tuple[Product, ...],
    raw: tuple[int, ...],
    sheet_mm: float,
    cutting: Cutting,
    limits: tuple[Limits, ...],
    blocks: int,
    least_blocks: int,
) -> tuple[_Outlines, ...]:
    """Give what is asked of each thickness; none where nothing is wanted."""
    outlines = tuple(_outline(p, n) for p, n in zip(products, raw, strict=True))
    groups = thicknesses(outlines, sheet_mm)
    bare = replace(cutting, scrap_pct=0.0, scrap_g=0.0)
    alone = {i: p for i, p in enumerate(outlines) if p.is_cut and p.untrimmed}
    is_one = len(groups) + len(alone) == 1
    each = blocks if is_one else 0
    asked = [
        _Outlines(outlines, sheet_mm, bare, limits, thickness, each, least_blocks)
        for thickness in groups
    ]
    least = least_blocks if is_one else 1  # blocks that are alike would make more pieces
    asked += [
        _Outlines(outlines, sheet_mm, bare, limits, p.sheet_mm or sheet_mm, each, least, i)
        for i, p in alone.items()
    ]
    return tuple(asked)


def _plans(
    case: CutCase, raw: Sequence[int], blocks: int, *, search: bool
) -> tuple[CutPlan, ...] | None:
    """Give a plan for each thickness; None when one is not known and must not be searched."""
    f = case.formula
    every = _asked(
        f.products, tuple(raw), f.sheet_mm, f.cutting, case.limits(), blocks, f.batch.blocks
    )
    if not every:
        raise AplombError(NOT_ORDERED)
    found = []
    for asked in every:
        kept = _kept(asked)
        plan = next((each for each in kept if case.holds(each)), None)
        if plan is None:
            if not search:
                return None
            plan = _searched(asked, case.block_ml())
            kept.insert(0, plan)
            del kept[MOST_KEPT:]
        found.append(plan)
    return tuple(found)


def _searched(asked: _Outlines, block_ml: float) -> CutPlan:
    """Find the sheets with the least paste that keep within one of the limits."""
    found: list[CutPlan] = []
    trouble: AplombError | None = None
    for limits in asked.limits:
        try:
            found.append(_cut(asked, replace(limits, block_ml=block_ml)))
        except AplombError as error:
            trouble = trouble or error
    if not found:
        raise trouble or AplombError("No sheet fits the limits of this house.")
    best = min(found, key=lambda plan: plan.sheet_mm2 * plan.sheets)
    if trouble is not None:  # what failed this time may not with another block
        return replace(best, from_ml=block_ml, below_ml=block_ml)
    low, high = max(p.from_ml for p in found), min(p.below_ml for p in found)
    return replace(best, from_ml=low, below_ml=high)


def _cut(asked: _Outlines, limits: Limits) -> CutPlan:
    """Find the sheets within some limits: of pieces cut together, or of one rolled by itself."""
    a = asked
    if a.alone < 0:
        return best_cut(
            a.products, a.sheet_mm, a.cutting, limits, a.blocks, a.thickness_mm, a.least_blocks
        )
    return untrimmed_cut(
        a.products, a.alone, a.sheet_mm, a.cutting, limits, a.blocks, a.least_blocks
    )


def sheets_for(case: CutCase, blocks: int = 0, *, search: bool = True) -> Sheets | None:
    """Find the sheets for what is wanted of a formula's products.

    Parameters
    ----------
    blocks : int
        Blocks of paste [-]; 0 for as few as fit, and no fewer than the batch is divided into. With
        several thicknesses each finds its own.
    search : bool
        False to give only what is known already, and None when nothing is.

    Raises
    ------
    AplombError
        When nothing is wanted, or it cannot be cut here.
    """
    density, raw = case.density_g_ml, case.raw
    stock: tuple[CutPlan, ...] = ()
    if case.stock_ml > 0:
        found = _from_stock(case, search=search)
        if found is None:
            return None
        stock, raw = found
    plans: tuple[CutPlan, ...] | None = ()
    if any(raw) or not stock:
        plans = _plans(case, raw, blocks, search=search)
    return None if plans is None else Sheets((*plans, *stock), density)


def _from_stock(
    case: CutCase, *, search: bool
) -> tuple[tuple[CutPlan, ...], tuple[int, ...]] | None:
    """Cut what is in the freezer first: its sheets, and the pieces that are then still short."""
    blocks = case.formula.batch.frozen_blocks
    per = _of_one_stock(case, 1.0, search=search)
    if per is None:
        return None
    gives = per.pieces()
    left = tuple(max(0, n - blocks * gives.get(at, 0)) for at, n in enumerate(case.raw))
    return _of_stock(per, blocks), left


def sheets_of_mass(
    case: CutCase, fresh_ml: float, most_sets: float = math.inf, *, search: bool = True
) -> Sheets | None:
    """Find sheets for a given volume of new paste, and for the blocks in the freezer beside it.

    Parameters
    ----------
    fresh_ml : float
        New paste that reaches the last sheet [mL].

    Raises
    ------
    AplombError
        As `sheets_within`.
    """
    stock: tuple[CutPlan, ...] = ()
    if case.stock_ml > 0:
        per = _of_one_stock(case, math.inf, search=search)
        if per is None:
            return None
        stock = _of_stock(per, case.formula.batch.frozen_blocks)
    if fresh_ml <= CLOSE_ML and stock:
        return Sheets(stock, case.density_g_ml)
    fresh = sheets_within(case, fresh_ml, most_sets, search=search)
    return None if fresh is None else replace(fresh, plans=(*fresh.plans, *stock))


def _of_one_stock(case: CutCase, most_sets: float, *, search: bool) -> Sheets | None:
    """Find the sheets of one block from the freezer."""
    try:
        return sheets_within(case, case.stock_ml, most_sets, search=search)
    except AplombError:
        raise AplombError(
            "A block from the freezer is too small for one piece: take it out of this batch."
        ) from None


def _of_stock(per: Sheets, blocks: int) -> tuple[CutPlan, ...]:
    """Give the plans of one block for so many that are there already."""
    return tuple(
        replace(p, of_stock=True, blocks=blocks, sheets=blocks * p.sheets) for p in per.plans
    )


def sheets_within(
    case: CutCase, rolled_ml: float, most_sets: float = math.inf, *, search: bool = True
) -> Sheets | None:
    """Find sheets for as much of what is wanted as a given volume of paste is enough for.

    Products share the paste in the proportion in which they are wanted.

    Parameters
    ----------
    rolled_ml : float
        Paste that reaches the last sheet [mL].
    most_sets : float
        No more than so many times what is wanted [-].
    search : bool
        As in `sheets_for`.

    Raises
    ------
    AplombError
        When nothing is wanted, or the paste is not enough for one piece.

    Notes
    -----
    The volume of the best sheets grows with the pieces, though not evenly: the most pieces that
    fit are found by halving between none and what the pieces alone would take.
    """
    density = case.density_g_ml
    if not any(case.raw):
        raise AplombError(NOT_ORDERED)

    def laid(raw: tuple[int, ...]) -> tuple[CutPlan, ...] | None:
        return _plans(case, raw, 0, search=search)

    try:
        rounds = FEW_ROUNDS if rolled_ml > MANY_BLOCKS * case.block_ml() else ROUNDS
        plans = _most_that_fit(case.raw, case.set_ml, most_sets, rolled_ml, rounds, laid)
    except _NotKnownError:
        return None
    if plans is None:
        raise AplombError("This is not enough paste for one piece: make more, or a smaller piece.")
    return Sheets(plans, density)


class _NotKnownError(Exception):
    """A plan would have to be searched."""


def _most_that_fit(
    raw: tuple[int, ...],
    set_ml: float,
    most_sets: float,
    rolled_ml: float,
    rounds: int,
    laid: Callable[[tuple[int, ...]], tuple[CutPlan, ...] | None],
) -> tuple[CutPlan, ...] | None:
    best: list[tuple[CutPlan, ...]] = []

    def fits(counts: tuple[int, ...]) -> tuple[bool, float]:
        if not any(counts):
            return True, 0.0
        try:
            plans = laid(counts)
        except AplombError:
            return False, math.inf
        if plans is None:
            raise _NotKnownError
        volume = sum(plan.sheet_ml * plan.sheets for plan in plans)
        if volume <= rolled_ml + CLOSE_ML and not any(sum(p.lacking()) for p in plans):
            best.append(plans)
            return True, volume
        return False, volume

    def counts_at(sets: float) -> tuple[int, ...]:
        return tuple(math.floor(n * sets + 1e-9) for n in raw)

    bare = rolled_ml / set_ml  # if there were no scrap
    low, high = 0.0, min(most_sets, bare)
    if most_sets < bare:
        good, volume = fits(counts_at(high))
        if good:
            return best[-1] if best else None
        guess = high * rolled_ml / volume if volume < math.inf else high / 2
    else:
        guess = USUAL_YIELD * bare
    for number in range(rounds):
        if counts_at(low) == counts_at(high):
            break
        by_yield = low < guess < high and number % 3 != FIRST_HALVED
        middle = guess if by_yield else (low + high) / 2
        good, volume = fits(counts_at(middle))
        low, high = (middle, high) if good else (low, middle)
        guess = middle * rolled_ml / volume if 0 < volume < math.inf else (low + high) / 2
    while not best and high > 0 and any(counts_at(high / 2)):  # few rounds, and none fitted
        high /= 2
        fits(counts_at(high))
    return best[-1] if best else None
