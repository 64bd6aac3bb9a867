"""The day's demand: products over several formulas to mixes and blocks; and the other way round."""

import math
from collections.abc import Collection, Mapping, Sequence
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import g_text
from aplomb.core.base.house import House
from aplomb.core.batch.blocks import largest_block_ml
from aplomb.core.batch.keeping import KeptItem
from aplomb.core.batch.mixes import even_parts
from aplomb.core.batch.scaled import Scaled, rounded
from aplomb.core.batch.stock import Demand
from aplomb.core.batch.trays import OnTrays, batch_trays
from aplomb.core.folds.step import Way
from aplomb.core.make.goal import Goal, goal_of, study_for
from aplomb.core.make.queue import loads_of_batch
from aplomb.core.make.step import LoadOf
from aplomb.core.paste.formula import Batch, Formula
from aplomb.core.study.study import Reference, Study, make_batch, make_study

Words = tuple[str, ...]
WAITS = "The best sheets are still being searched."


class PasteOfDay(Struct, frozen=True):
    """One paste that a day wants.

    Attributes
    ----------
    study : Study
        Of the formula with what is wanted of each product, its blocks, and those from the freezer.
    over_g : float
        Paste more than is needed: from rounding, and what a full block brings [g].
    largest_g : float
        The largest block that bench, belt and shelf take [g].
    loads : tuple of LoadOf
        Of the oven.
    words : tuple of str
        What to look at.
    trouble : str
        Why it cannot be planned; empty when it can.
    goal : Goal
        What it is made for.
    """

    uid: str
    study: Study
    over_g: float = 0.0
    largest_g: float = math.inf
    trays: tuple[OnTrays, ...] = ()
    loads: tuple[LoadOf, ...] = ()
    words: tuple[str, ...] = ()
    trouble: str = ""
    goal: Goal = Goal("pieces")

    @property
    def formula(self) -> Formula:
        """The formula, its batch as it is made."""
        return self.study.formula

    @property
    def scaled(self) -> Scaled:
        """The batch as it is made."""
        return self.study.scaled

    @property
    def blocks(self) -> int:
        """Blocks to make [-]."""
        return 0 if self.trouble else self.scaled.blocks

    @property
    def frozen_g(self) -> float:
        """What comes out of stock, frozen or cold [g]."""
        return self.formula.batch.frozen_g

    @property
    def frozen(self) -> int:
        """Blocks that come out of stock [-]."""
        return self.formula.batch.frozen_blocks if self.frozen_g > 0 else 0

    @property
    def each_g(self) -> float:
        """One block as mixed [g]."""
        return self.scaled.each_g if self.blocks else 0.0

    @property
    def mixes(self) -> tuple[int, ...]:
        """Blocks of each mix [-]; none when all comes from the freezer."""
        return self.scaled.mixes if self.blocks else ()

    @property
    def mix_dough_g(self) -> tuple[float, ...]:
        """Dough in the bowl at each mix [g]."""
        accounts = self.study.accounts
        share = accounts.dough_g / accounts.paste_g
        return tuple(n * self.each_g * share for n in self.mixes)


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
    stock: Sequence[KeptItem] = (),
    *,
    from_stock: Collection[str] = (),
    search: bool = True,
) -> tuple[PasteOfDay, ...]:
    """Turn a day's demand into mixes and blocks, formula by formula in the order of the shelf.

    Parameters
    ----------
    studies : dict of Study, by identity
        Of every formula that is wanted; one that is missing is passed over.
    stock : sequence of KeptItem
        Blocks in store, the oldest first: taken first when the demand says so.
    from_stock : collection of str
        Formulas whose blocks are taken first whatever the demand says.
    search : bool
        False not to search cut plans that are not known: their pastes wait for one then.
    """
    by_formula: dict[str, dict[str, int]] = {}
    keep: dict[str, int] = {}
    for want in demand.wants:
        if want.keep and want.pieces > 0:
            keep[want.uid] = keep.get(want.uid, 0) + want.pieces
        elif want.pieces > 0 and want.uid in studies:
            pieces = by_formula.setdefault(want.uid, {})
            pieces[want.product] = pieces.get(want.product, 0) + want.pieces
    found = []
    for uid, study in studies.items():
        if uid in keep:
            both = uid in by_formula
            found.append(_paste_to_keep(uid, study, keep[uid], reference.of(uid), both=both))
        elif uid in by_formula:
            uses = demand.use_frozen or uid in from_stock
            there = [b for b in stock if b.uid == uid] if uses else []
            own = reference.of(uid)
            found.append(_paste_of_day(uid, study, by_formula[uid], there, own, search))
    return tuple(found)


def _paste_to_keep(
    uid: str, study: Study, blocks: int, reference: Reference, *, both: bool
) -> PasteOfDay:
    """Give blocks of paste that are made and kept: they are stock when the day is over."""
    if both:
        trouble = (
            "Pieces and blocks to keep are both ordered. Order the blocks for another day, or "
            "more pieces."
        )
        return PasteOfDay(uid, study, trouble=trouble)
    goal = Goal("keep", blocks=blocks)
    try:
        made = study_for(study.formula, goal, reference)
    except AplombError as error:
        return PasteOfDay(uid, study, trouble=str(error))
    return PasteOfDay(uid, made, goal=goal, words=_bowl_words(made, reference.house))


def _paste_of_day(
    uid: str,
    study: Study,
    pieces: Mapping[str, int],
    there: Sequence[KeptItem],
    reference: Reference,
    search: bool,
) -> PasteOfDay:
    formula = wanted_formula(study.formula, pieces)
    unknown = [name for name in pieces if name and name not in {p.name for p in formula.products}]
    if unknown:
        trouble = f"The formula no longer has a product “{unknown[0]}”."
        return PasteOfDay(uid, study, trouble=trouble)
    alone = make_study(formula, reference, search=search)
    if alone.cut_waits:
        return PasteOfDay(uid, alone, trouble=WAITS)
    if formula.of_offcuts and not formula.wanted:
        trouble = (
            "Only products made from scrap are ordered: order the products the "
            "scrap comes from too."
        )
        return PasteOfDay(uid, alone, trouble=trouble)
    if alone.scaled.trouble or alone.scaled.paste_g <= 0:
        return PasteOfDay(uid, alone, trouble=alone.scaled.trouble or "Nothing is ordered.")
    frozen_first = _from_stock(there, alone, reference)
    house = reference.house
    largest_ml = largest_block_ml(study.formula, study.plan, study.accounts, house)
    largest_g = largest_ml * (study.accounts.density_g_ml or 1.0)
    if frozen_first.cut is not None:
        made, over_g, words = frozen_first, 0.0, _bowl_words(frozen_first, house)
    else:
        made, over_g, words = _split(frozen_first, largest_g, reference)
    trays = batch_trays(made.formula, made.scaled, house)
    return PasteOfDay(
        uid,
        made,
        over_g,
        largest_g,
        trays,
        loads_of_batch(made.formula, trays, house),
        words,
        goal=goal_of(made.formula),
    )


def one_paste(uid: str, study: Study, house: House) -> PasteOfDay:
    """Give one formula's batch as it stands, as a day would have it."""
    trays = batch_trays(study.formula, study.scaled, house)
    loads = loads_of_batch(study.formula, trays, house)
    return PasteOfDay(uid, study, trays=trays, loads=loads, goal=goal_of(study.formula))


def _from_stock(there: Sequence[KeptItem], alone: Study, reference: Reference) -> Study:
    """Take blocks out of stock, the oldest first, while they are needed.

    Those that have had as many turns and lie in the same place as the first are rolled together;
    others wait for another day. Paste from stock takes up no dusting flour in the mixer's stead and
    has nothing strewn in: it gives less than as much fresh paste, which the batch works out.
    """
    formula, taken, grams, made = alone.formula, 0, 0.0, alone
    usable = [item for item in there if item.each_g > 0 and item.where in ("freezer", "fridge")]
    for item in usable:
        first = usable[0]
        if (item.turns, item.where) != (first.turns, first.where):
            continue
        for _ in range(item.many):
            if made.scaled.paste_g <= LEAST_FRESH_G:
                return made
            taken, grams = taken + 1, grams + item.each_g
            where: Literal["freezer", "fridge"] = "fridge" if item.where == "fridge" else "freezer"
            batch = replace(
                formula.batch,
                frozen_g=grams,
                frozen_blocks=taken,
                frozen_turns=item.turns,
                frozen_where=where,
            )
            made = make_study(replace(formula, batch=batch), reference)
    return made


def _split(study: Study, largest_g: float, reference: Reference) -> tuple[Study, float, Words]:
    """Split paste that no cut plan parts: to the blocks that fit, whole divisions of the scale."""
    formula, accounts, house = study.formula, study.accounts, reference.house
    fresh_g, batch = study.scaled.paste_g, study.formula.batch
    dough_share = accounts.dough_g / accounts.paste_g
    trims = any(step.way is Way.TRIM for step in study.plan.steps)
    blocks = batch.blocks
    for _ in range(MOST_ROUNDS):
        split = split_blocks(
            fresh_g, dough_share, largest_g, house, batch.division_g, least=batch.blocks
        )
        if split.blocks in (0, blocks) or not trims:
            break
        blocks = split.blocks  # smaller blocks lose more to the trims between the folds
        made = make_batch(replace(formula, batch=replace(batch, blocks=blocks)), reference)
        fresh_g = max(fresh_g, made.paste_g)
    if not split.blocks:
        return study, study.scaled.over_g, split.words
    whole_g = split.each_g * split.blocks
    wish = replace(batch, fixed="paste", paste_g=whole_g, blocks=split.blocks)
    made_of = make_study(replace(formula, batch=wish), reference)
    return made_of, max(0.0, whole_g - fresh_g), split.words


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
    words : tuple of str
        What to look at.
    """

    blocks: int
    each_g: float
    words: tuple[str, ...] = ()


def split_blocks(
    paste_g: float,
    dough_share: float,
    largest_g: float,
    house: House,
    division_g: float,
    *,
    least: int = 1,
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
    least : int
        Blocks that are wanted at least [-].

    Returns
    -------
    Split
        As few mixes as the bowl allows and as few blocks as fit, all blocks alike; mixes differ
        by one block at most.
    """
    if paste_g <= 0:
        return Split(0, 0.0)
    mixes = max(1, math.ceil(paste_g * dough_share / house.bowl_most_g - 1e-9))
    blocks = max(mixes, math.ceil(paste_g / largest_g - 1e-9)) if largest_g > 0 else mixes
    blocks = max(blocks, least)
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
    return Split(blocks, each, _too_little(even_parts(blocks, mixes), each * dough_share, house))


def _bowl_words(study: Study, house: House) -> Words:
    """Say that a mix is less than the bowl mixes well."""
    scaled = study.scaled
    if not scaled.blocks:
        return ()
    return _too_little(scaled.mixes, study.accounts.dough_g * scaled.a_block, house)


def _too_little(mixes: Sequence[int], dough_g: float, house: House) -> Words:
    words, least = [], min(mixes) * dough_g
    if least < house.bowl_least_g:
        extra = math.ceil((house.bowl_least_g - least) / dough_g)
        blocks_more = "1 more block" if extra == 1 else f"{extra} more blocks"
        words.append(
            f"{g_text(least, '.0f')} of dough is less than the bowl mixes well "
            f"({g_text(house.bowl_least_g, '.0f')}): mix by hand, or make {blocks_more} for the "
            "freezer."
        )
    return tuple(words)


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
    stock: Sequence[KeptItem], studies: Mapping[str, Study], reference: Reference
) -> tuple[CanBeMade, ...]:
    """Tell what can be made of the blocks in stock, each product and block by itself."""
    found: dict[tuple[str, str], CanBeMade] = {}
    for block in stock:
        if block.uid not in studies or block.each_g <= 0:
            continue
        for one in _pieces_from(block.uid, studies[block.uid], block.each_g, reference):
            key = block.uid, one.product
            before = found.get(key)
            pieces = block.many * one.pieces + (before.pieces if before else 0)
            grams = block.many * one.paste_g + (before.paste_g if before else 0.0)
            found[key] = replace(one, pieces=pieces, paste_g=grams)
    return tuple(found.values())


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
