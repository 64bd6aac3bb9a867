"""The day's demand: products over several formulas to mixes and blocks; and the other way round."""

import math
from collections.abc import Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import g_text
from aplomb.core.base.house import House
from aplomb.core.batch.blocks import block_fits
from aplomb.core.batch.scaled import Scaled, rounded
from aplomb.core.batch.stock import Demand, FrozenBlock
from aplomb.core.batch.trays import OnTrays, on_trays
from aplomb.core.folds.step import Way
from aplomb.core.paste.formula import Batch, Formula
from aplomb.core.paste.product import Product
from aplomb.core.study.study import Reference, Study, make_batch

CLOSE_SHARE = 0.002
"""How near the largest block is found [-]."""
HUGE_ML = 2_000_000.0
"""No block is larger [mL]."""


def own_piece(formula: Formula) -> Product:
    """Give the batch's own piece as a product, so that what has none can be planned alike.

    One that is given by weight is a square of that weight in most formulas' paste; its size is
    only used for trays, its weight stays the batch's.
    """
    batch = formula.batch
    if batch.piece_by == "size":
        length, width = batch.piece_length_mm, batch.piece_width_mm
    else:
        length = width = math.sqrt(batch.piece_g * 1000 / formula.sheet_mm)
    return Product("", length_mm=length, width_mm=width, wanted=batch.pieces)


def batch_trays(formula: Formula, scaled: Scaled, house: House) -> tuple[OnTrays, ...]:
    """Put what a batch gives of each product on trays.

    A product without a thickness of its own is as thick as the formula's final sheet.
    """
    products = {p.name: p for p in formula.products}
    found = []
    for made in (*scaled.made, *scaled.from_offcuts):
        if made.pieces > 0:
            product = products.get(made.name) or own_piece(formula)
            product = replace(product, sheet_mm=product.sheet_mm or formula.sheet_mm)
            found.append(on_trays(product, made.pieces, made.filled_g, house))
    return tuple(found)


def largest_block_ml(study: Study, house: House) -> float:
    """Volume of the largest block that this bench, belt, shelf and baker take [mL].

    Infinite for a paste without sizes.

    Parameters
    ----------
    study : Study
        Its formula's own proportions of dough and fat.

    Notes
    -----
    Found by halving: every rolled sheet must lie on the bench one way and go under the belt the
    other, the folded block onto the shelf, and no block may be heavier than the house rolls.
    """
    accounts = study.accounts
    if accounts.paste_ml <= 0:
        return math.inf

    def fits(volume_ml: float) -> bool:
        share = volume_ml / accounts.paste_ml
        return block_fits(study.formula, study.plan, accounts, share, house)

    low, high = 1.0, HUGE_ML
    try:
        if fits(high):
            return math.inf
        while high / low > 1 + CLOSE_SHARE:
            middle = math.sqrt(low * high)
            low, high = (middle, high) if fits(middle) else (low, middle)
    except AplombError:
        return math.inf
    return low


class PasteOfDay(Struct, frozen=True):
    """One paste that a day wants.

    Attributes
    ----------
    formula : Formula
        With what is wanted of each product, its blocks, and those from the freezer.
    scaled : Scaled
        To the blocks as they are made.
    blocks : int
        To make [-].
    each_g : float
        One block [g], to the scale's division.
    mixes : tuple of int
        Blocks of each mix [-].
    mix_dough_g : tuple of float
        Dough in the bowl at each [g].
    over_g : float
        Paste more than is needed: from rounding, and what a full block brings [g].
    frozen : int
        Blocks taken from the freezer [-].
    frozen_g : float
        What they weigh [g].
    largest_g : float
        The largest block that bench, belt and shelf take [g].
    words : tuple of str
        What to look at.
    trouble : str
        Why it cannot be planned; empty when it can.
    """

    uid: str
    formula: Formula
    scaled: Scaled
    blocks: int = 0
    each_g: float = 0.0
    mixes: tuple[int, ...] = ()
    mix_dough_g: tuple[float, ...] = ()
    over_g: float = 0.0
    frozen: int = 0
    frozen_g: float = 0.0
    largest_g: float = math.inf
    trays: tuple[OnTrays, ...] = ()
    words: tuple[str, ...] = ()
    trouble: str = ""


def wanted_formula(formula: Formula, pieces: Mapping[str, int]) -> Formula:
    """Give a formula with so many of each product wanted, and nothing else.

    Parameters
    ----------
    pieces : dict of int, by product
        The empty name is the batch's own piece, which is taken only when no product is wanted.
    """
    products = tuple(replace(p, wanted=pieces.get(p.name, 0)) for p in formula.products)
    batch = replace(formula.batch, fixed="pieces", frozen_g=0.0)
    if pieces.get("") and not any(p.wanted for p in products):
        batch = replace(batch, pieces=pieces[""])
    return replace(formula, products=products, batch=batch)


def plan_day(
    demand: Demand,
    studies: Mapping[str, Study],
    reference: Reference,
    frozen: Sequence[FrozenBlock] = (),
) -> tuple[PasteOfDay, ...]:
    """Turn a day's demand into mixes and blocks, formula by formula in the order of the shelf.

    Parameters
    ----------
    studies : dict of Study, by identity
        Of every formula that is wanted; one that is missing is passed over.
    frozen : sequence of FrozenBlock
        Taken first when the demand says so.
    """
    by_formula: dict[str, dict[str, int]] = {}
    for want in demand.wants:
        if want.pieces > 0 and want.uid in studies:
            pieces = by_formula.setdefault(want.uid, {})
            pieces[want.product] = pieces.get(want.product, 0) + want.pieces
    found = []
    for uid, study in studies.items():
        if uid in by_formula:
            there = [b for b in frozen if b.uid == uid] if demand.use_frozen else []
            own = reference.of(uid)
            found.append(_paste_of_day(uid, study, by_formula[uid], there, own))
    return tuple(found)


def _paste_of_day(
    uid: str,
    study: Study,
    pieces: Mapping[str, int],
    frozen: Sequence[FrozenBlock],
    reference: Reference,
) -> PasteOfDay:
    house = reference.house
    formula = wanted_formula(study.formula, pieces)
    unknown = [name for name in pieces if name and name not in {p.name for p in formula.products}]
    if unknown:
        trouble = f"The formula no longer has a product “{unknown[0]}”."
        return PasteOfDay(uid, formula, study.scaled, trouble=trouble)
    batch = make_batch(formula, reference)
    if formula.of_offcuts and not formula.wanted:
        trouble = (
            "Only products made from scrap are ordered: order the products the "
            "scrap comes from too."
        )
        return PasteOfDay(uid, formula, study.scaled, trouble=trouble)
    needed = batch.paste_g
    if batch.trouble or needed <= 0:
        return PasteOfDay(uid, formula, batch, trouble=batch.trouble or "Nothing is ordered.")
    trims = any(step.way is Way.TRIM for step in study.plan.steps)
    taken, taken_g, fresh_g = _from_freezer(frozen, formula, needed, reference)
    largest_ml = largest_block_ml(study, house)
    density = study.accounts.density_g_ml or 1.0
    dough_share = study.accounts.dough_g / study.accounts.paste_g
    blocks = formula.batch.blocks
    for _ in range(MOST_ROUNDS):
        split = split_blocks(
            fresh_g, dough_share, largest_ml * density, house, formula.batch.division_g
        )
        if split.blocks in (0, blocks) or not trims:
            break
        blocks = split.blocks  # smaller blocks lose more to the trims between the folds
        beside = replace(formula.batch, frozen_g=taken_g, blocks=blocks)
        fresh_g = max(fresh_g, make_batch(replace(formula, batch=beside), reference).paste_g)
    wish = replace(formula.batch, frozen_g=taken_g)
    if split.blocks:
        whole_g = split.each_g * split.blocks
        wish = replace(wish, fixed="paste", paste_g=whole_g, blocks=split.blocks)
    made = replace(formula, batch=wish)
    scaled = make_batch(made, reference)
    over_g = split.each_g * split.blocks - fresh_g if split.blocks else scaled.over_g
    return PasteOfDay(
        uid,
        made,
        scaled,
        split.blocks,
        split.each_g,
        split.mixes,
        tuple(n * split.each_g * dough_share for n in split.mixes),
        max(0.0, over_g),
        taken,
        taken_g,
        largest_ml * density,
        batch_trays(formula, batch, house),
        split.words,
    )


def _from_freezer(
    frozen: Sequence[FrozenBlock], formula: Formula, needed_g: float, reference: Reference
) -> tuple[int, float, float]:
    """Take blocks from the freezer, the oldest first, while they are needed.

    Returns
    -------
    tuple of (blocks, their mass [g], fresh paste that is needed beside them [g])
        Frozen paste takes up no dusting flour in the mixer's stead and has nothing strewn in: it
        gives less than as much fresh paste, which the batch itself works out.
    """
    taken, grams, fresh = 0, 0.0, needed_g
    for each in sorted(frozen, key=lambda b: b.made):
        for _ in range(each.blocks):
            if fresh <= LEAST_FRESH_G:
                return taken, grams, 0.0
            taken, grams = taken + 1, grams + each.each_g
            with_them = replace(formula.batch, frozen_g=grams)
            fresh = make_batch(replace(formula, batch=with_them), reference).paste_g
    return taken, grams, fresh if fresh > LEAST_FRESH_G else 0.0


MOST_ROUNDS = 8
"""Rounds of blocks and what trims take of them [-]."""
LEAST_FRESH_G = 0.01
"""Less fresh paste than this is none [g]."""


class Split(Struct, frozen=True):
    """Paste split to blocks and mixes.

    Attributes
    ----------
    each_g : float
        One block [g], a multiple of the scale's division and never less than its share.
    mixes : tuple of int
        Blocks of each mix [-].
    words : tuple of str
        What to look at.
    """

    blocks: int
    each_g: float
    mixes: tuple[int, ...]
    words: tuple[str, ...] = ()


def even_parts(blocks: int, mixes: int) -> tuple[int, ...]:
    """Deal blocks to mixes, which then differ by one at most, the larger first [-].

    Examples
    --------
    >>> even_parts(7, 3)
    (3, 2, 2)
    """
    few, more = divmod(blocks, mixes)
    return tuple(few + (i < more) for i in range(mixes))


def split_blocks(
    paste_g: float, dough_share: float, largest_g: float, house: House, division_g: float
) -> Split:
    """Split paste evenly to blocks that bench, belt and shelf take, and these to mixes.

    Parameters
    ----------
    paste_g : float
        Needed [g].
    dough_share : float
        Dough in the paste [-]; only the dough is in the bowl.
    largest_g : float
        Largest block [g].
    division_g : float
        Of the scale [g].

    Returns
    -------
    Split
        As few mixes as the bowl allows and as few blocks as fit, all blocks alike; mixes differ
        by one block at most.
    """
    if paste_g <= 0:
        return Split(0, 0.0, ())
    mixes = max(1, math.ceil(paste_g * dough_share / house.bowl_most_g - 1e-9))
    blocks = max(mixes, math.ceil(paste_g / largest_g - 1e-9)) if largest_g > 0 else mixes
    while True:
        each = math.ceil(paste_g / blocks / division_g - 1e-9) * division_g
        each = max(rounded(division_g, division_g), round(each, 6))
        most = math.ceil(blocks / mixes)
        if blocks > 100_000 or (
            each <= largest_g + division_g and most * each * dough_share <= house.bowl_most_g + 1e-6
        ):
            break
        if each > largest_g + division_g:
            blocks += 1
        elif mixes < blocks:
            mixes += 1
        else:
            blocks, mixes = blocks + 1, mixes + 1
    parts = even_parts(blocks, mixes)
    words = []
    least = min(parts) * each * dough_share
    if least < house.bowl_least_g:
        extra = math.ceil((house.bowl_least_g - least) / (each * dough_share))
        blocks_more = "1 more block" if extra == 1 else f"{extra} more blocks"
        words.append(
            f"{g_text(least, '.0f')} of dough is less than the bowl mixes well "
            f"({g_text(house.bowl_least_g, '.0f')}): mix by hand, or make {blocks_more} for the "
            "freezer."
        )
    return Split(blocks, each, parts, tuple(words))


class CanBeMade(Struct, frozen=True):
    """What could be made of something that is there.

    Attributes
    ----------
    product : str
        Empty for the batch's own piece.
    pieces : int
        Whole ones, of this product alone [-].
    paste_g : float
        Paste that it gives [g].
    """

    uid: str
    formula: str
    product: str
    pieces: int
    paste_g: float


def from_material(
    material: str, grams: float, studies: Mapping[str, Study], reference: Reference
) -> tuple[CanBeMade, ...]:
    """Tell what can be made of so much of a material, each product by itself.

    Parameters
    ----------
    grams : float
        Amount in hand is there [g].
    """
    found: list[CanBeMade] = []
    for uid, study in studies.items():
        f = study.formula
        used = sum(n.grams for n in (*f.dough, *f.block) if n.material == material)
        if used > 0:
            paste = study.accounts.paste_g * grams / used
            found += _pieces_from(uid, study, paste, reference)
    return tuple(found)


def from_blocks(
    frozen: Sequence[FrozenBlock], studies: Mapping[str, Study], reference: Reference
) -> tuple[CanBeMade, ...]:
    """Tell what can be made of the blocks in the freezer, each product by itself."""
    grams: dict[str, float] = {}
    for each in frozen:
        grams[each.uid] = grams.get(each.uid, 0.0) + each.blocks * each.each_g
    found: list[CanBeMade] = []
    for uid, paste in grams.items():
        if uid in studies:
            found += _pieces_from(uid, studies[uid], paste, reference)
    return tuple(found)


def _pieces_from(uid: str, study: Study, paste_g: float, reference: Reference) -> list[CanBeMade]:
    formula = study.formula
    fixed: Batch = replace(formula.batch, fixed="paste", paste_g=max(0.1, paste_g))
    names = [p.name for p in formula.products if not p.offcut_g] or [""]
    found = []
    for name in names:
        alone = wanted_formula(formula, {name: 1})
        batch = make_batch(replace(alone, batch=fixed), reference.of(uid))
        if not batch.trouble:
            found.append(CanBeMade(uid, formula.name, name, batch.pieces, paste_g))
    return found


def mixes_of(study: Study, house: House) -> tuple[int, ...]:
    """Give how many of a batch's blocks each mix makes, so that the bowl holds its dough [-]."""
    accounts, blocks = study.accounts, study.formula.batch.blocks
    dough_g = study.scaled.factor * accounts.dough_g
    mixes = min(blocks, max(1, math.ceil(dough_g / house.bowl_most_g - 1e-9)))
    while mixes < blocks and math.ceil(blocks / mixes) * dough_g / blocks > house.bowl_most_g:
        mixes += 1
    return even_parts(blocks, mixes)
