"""From a formula to a batch: one thing is fixed, the rest follows."""

import math
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.quantity import LARGEST_G
from aplomb.core.batch.blanks import piece_ml
from aplomb.core.batch.losses import Loss, Losses, losses_of
from aplomb.core.batch.made_batch import MadeBatch
from aplomb.core.batch.mixes import dealt, mixes_for, parted
from aplomb.core.batch.scaled import BlockGroup, Made, Scaled, Weighed, rounded
from aplomb.core.batch.sheets import Sheets
from aplomb.core.paste.accounts import Accounts
from aplomb.core.paste.formula import (
    IN_THE_PASTE,
    LEAST_TIMES,
    MOST_PIECES,
    MOST_TIMES,
    SMALLEST_G,
    Batch,
    Formula,
    Part,
    lines_on,
)
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry
from aplomb.core.paste.product import Product


def piece_mass_g(formula: Formula, accounts: Accounts) -> float | None:
    """Mass of one raw piece [g], by weight or from its size and the paste's density."""
    batch = formula.batch
    if batch.piece_by == "weight":
        return batch.piece_g
    density = accounts.rolled_density_g_ml
    if density is None:
        return None
    return batch.piece_length_mm * batch.piece_width_mm * formula.sheet_mm / 1000 * density


def packet_material(formula: Formula, pantry: Pantry) -> str | None:
    """Key of the fat whose packet is used up: the chosen one, or the largest in the block."""
    there = {line.material for line in (*formula.dough, *formula.block) if line.grams > 0}
    if formula.batch.packet_material in there:
        return formula.batch.packet_material
    fats = [
        line
        for part in (formula.block, formula.dough)
        for line in sorted(part, key=lambda each: -each.grams)
        if line.grams > 0 and pantry[line.material].is_fat
    ]
    return fats[0].material if fats else None


def packet_used_g(formula: Formula, pantry: Pantry) -> float:
    """How much of the packet's fat the formula as written uses [g]; 0 without fat."""
    material = packet_material(formula, pantry)
    return sum(n.grams for n in (*formula.dough, *formula.block) if n.material == material)


def followed(formula: Formula, pantry: Pantry, accounts: Accounts, scaled: Scaled) -> Batch:
    """Give the formula's batch with all that is not fixed set to what follows.

    The same batch, whichever of its targets is then fixed: switching from pieces to paste
    changes nothing by itself. A target that cannot follow stays as it is.

    Parameters
    ----------
    accounts : Accounts
        Of the same formula.
    scaled : Scaled
        Of the same formula.
    """
    batch = formula.batch
    found = {
        "pieces": scaled.pieces,
        "paste": scaled.paste_g,
        "flour": accounts.flour_g * scaled.factor,
        "packet": packet_used_g(formula, pantry) * scaled.factor,
        "written": scaled.factor,
    }
    names = {
        "pieces": "pieces",
        "paste": "paste_g",
        "flour": "flour_g",
        "packet": "packet_g",
        "written": "times",
    }
    changes = {
        names[what]: value
        for what, value in found.items()
        if what != batch.fixed and _can_be_wanted(what, value)
    }
    return replace(batch, **changes)


def _can_be_wanted(what: str, value: float) -> bool:
    if what == "pieces":
        return 1 <= value <= MOST_PIECES
    if what == "written":
        return LEAST_TIMES <= value <= MOST_TIMES
    return SMALLEST_G <= value <= LARGEST_G


class _Target(Struct, frozen=True):
    """So many raw pieces of one kind.

    Attributes
    ----------
    product : Product or None
        None for the batch's own piece.
    at : int
        Its place among the formula's products; -1 for the batch's own piece.
    raw : int
        To cut, with those that will break [-].
    paste_g : float
        Paste in one [g].
    """

    product: Product | None
    at: int
    raw: int
    paste_g: float


def mean_piece_ml(formula: Formula) -> float | None:
    """Volume of a piece by its size, of several products on the mean [mL]; None by weight."""
    wanted = formula.wanted
    if wanted:
        whole = sum(p.wanted * piece_ml(p, formula.sheet_mm) for p in wanted)
        return whole / sum(p.wanted for p in wanted)
    batch = formula.batch
    if batch.piece_by == "weight":
        return None
    return batch.piece_length_mm * batch.piece_width_mm * formula.sheet_mm / 1000


def raw_pieces(good: int, broken_pct: float) -> int:
    """How many to cut so that so many are whole after the oven [-].

    Notes
    -----
    ⌈good / (1 - broken)⌉: by calculation.

    Examples
    --------
    >>> raw_pieces(240, 2.0)
    245
    """
    return math.ceil(good / (1 - broken_pct / 100) - 1e-9)


def _targets(formula: Formula, accounts: Accounts, broken_pct: float) -> tuple[_Target, ...] | None:
    """What you want of the batch; None when the paste has no volume to size pieces by."""
    wanted = formula.wanted
    if not wanted:
        piece = piece_mass_g(formula, accounts)
        raw = raw_pieces(formula.batch.pieces, broken_pct)
        return None if piece is None else (_Target(None, -1, raw, piece),)
    density = accounts.rolled_density_g_ml
    if density is None:
        return None
    return tuple(
        _Target(p, at, raw_pieces(p.wanted, broken_pct), piece_ml(p, formula.sheet_mm) * density)
        for at, p in enumerate(formula.products)
        if p.is_cut
    )


def scale(
    formula: Formula,
    pantry: Pantry,
    accounts: Accounts,
    made_batches: Sequence[MadeBatch] = (),
    folded: float = 0.0,
    uid: str = "",
    cut: Sheets | None = None,
    bowl_most_g: float = math.inf,
) -> Scaled:
    """Scale a formula to what its batch fixes.

    Parameters
    ----------
    accounts : Accounts
        Of the same formula.
    made_batches : sequence of MadeBatch
        The book's own batches, for its losses.
    folded : float
        Share of the paste that is trimmed off while it is folded [-].
    uid : str
        Identity of the formula, whose own batches come before the book's others.
    cut : Sheets or None
        Its cut plan, which then says how much paste is rolled, in how many blocks, and how many
        pieces that gives. Without one the trim is a share of the paste.
    bowl_most_g : float
        Most dough that the mixer takes [g].

    Returns
    -------
    Scaled
        With `trouble` said when there is nothing to scale by.

    Notes
    -----
    The masses add up: mixed + strewn in + dusting taken up + frozen + scrap = bowl and bench +
    trimmed while folded + rolled; rolled = trim + pieces + what is over. Several products share
    the paste in the proportion they are wanted. A filling is weighed for whole pieces. What is made
    of offcuts takes of the trim and of what is over, in the order of the products, as many as are
    wanted and as there is weight for. Scrap of earlier batches takes the place of new paste, at
    most the share of it that the cutting allows.
    """
    batch = formula.batch
    if accounts.paste_g <= 0:
        return Scaled(0.0, trouble="There is nothing to scale yet: the formula has no weight.")
    losses = losses_of(batch, made_batches, uid)
    targets = _targets(formula, accounts, losses.broken.value)
    if targets is None:
        return Scaled(0.0, trouble="The paste has no volume yet; set the pieces by weight.")
    set_g = sum(target.raw * target.paste_g for target in targets)
    keep_cut, keep = 1 - losses.trim.value / 100, losses.kept
    dust = sum(line.grams for line in formula.dusting) * losses.dust.value / 100
    whole = accounts.paste_g * keep + accounts.between_g + dust
    thawed = batch.frozen_g * keep * (1 - folded)
    allowed = accounts.paste_g * formula.cutting.scrap_pct / 100
    factor = _factor_of_mass(formula, accounts, pantry)
    if batch.fixed == "pieces":
        needed = cut.fresh_g if cut else max(0.0, set_g / keep_cut - thawed)
        each = whole * (1 - folded)
        factor = _factor_beside_scrap(needed, each, allowed, formula.cutting.scrap_g)
    if isinstance(factor, str):
        return Scaled(0.0, trouble=factor)
    scrap = min(formula.cutting.scrap_g, allowed * factor)
    rolled = whole * factor * (1 - folded) + thawed + scrap
    out = _cut_out(formula, targets, losses, rolled, thawed, cut)
    out = _finished(out, factor * sum(line.grams for line in formula.finish))
    paste_g = accounts.paste_g * factor
    groups = _groups(batch, cut, paste_g, rolled - thawed, out.over_g)
    shares = [group.each_g for group in groups for _ in range(group.blocks)]
    mixes = mixes_for(len(shares), accounts.dough_g * factor, bowl_most_g)
    lines = tuple(_lines(formula, factor, targets, out, parted(shares, mixes)))
    each_g = groups[0].each_g if groups else 0.0
    return Scaled(
        factor=factor,
        lines=lines,
        paste_g=paste_g,
        strewn_g=accounts.between_g * factor,
        dust_g=dust * factor,
        loss_g=(accounts.paste_g * factor + batch.frozen_g) * (1 - keep),
        folded_g=(whole * factor + batch.frozen_g * keep) * folded,
        frozen_g=batch.frozen_g,
        scrap_in_g=scrap,
        rolled_g=rolled,
        trim_g=out.trim_g,
        piece_g=out.piece_g or set_g / sum(target.raw for target in targets),
        pieces=out.pieces,
        over_g=out.over_g,
        blocks=len(shares),
        each_g=each_g,
        finished_g=whole * factor * (1 - folded) * each_g / paste_g if paste_g > 0 else 0.0,
        groups=groups,
        drift_g=sum(w.drift_g for w in lines if w.part in IN_THE_PASTE),
        made=out.made,
        from_offcuts=out.offcuts,
        losses=out.losses,
        mixes=mixes,
        as_cut=cut is not None,
    )


class _CutOut(Struct, frozen=True):
    """What comes of the rolled paste: pieces, trim, what is over [g]."""

    made: tuple[Made, ...]
    offcuts: tuple[Made, ...]
    trim_g: float
    over_g: float
    losses: Losses

    @property
    def pieces(self) -> int:
        return sum(each.pieces for each in self.made)

    @property
    def piece_g(self) -> float:
        """Paste of one piece, of several products on the mean [g]; 0 without any."""
        grams = sum(each.pieces * each.paste_g for each in self.made)
        return grams / self.pieces if self.pieces else 0.0


def _cut_out(
    formula: Formula,
    targets: Sequence[_Target],
    losses: Losses,
    rolled_g: float,
    thawed_g: float,
    cut: Sheets | None,
) -> _CutOut:
    """Cut what is rolled: as the cut plan has it, or by a share of trim."""
    broken = losses.broken.value
    if cut:
        laid = cut.pieces()
        counts = [laid.get(target.at, 0) for target in targets]
    else:
        good_g = rolled_g * (1 - losses.trim.value / 100)
        set_g = sum(target.raw * target.paste_g for target in targets)
        counts = [math.floor(target.raw * good_g / set_g + 1e-9) for target in targets]
    made = tuple(
        _made_of(formula, target.product, target.paste_g, many, broken)
        for target, many in zip(targets, counts, strict=True)
    )
    in_pieces = sum(each.pieces * each.paste_g for each in made)
    if cut:
        over_g = max(0.0, rolled_g - thawed_g - cut.fresh_g)
        trim_g = max(0.0, rolled_g - over_g - in_pieces)
        of_cut = _trimmed_as(losses, trim_g, rolled_g - over_g)
        return _CutOut(made, _from_offcuts(formula, trim_g, broken), trim_g, over_g, of_cut)
    over_g, trim_g = max(0.0, good_g - in_pieces), rolled_g - good_g
    offcuts = _from_offcuts(formula, trim_g + over_g, broken)
    return _CutOut(made, offcuts, trim_g, over_g, losses)


def _finished(out: _CutOut, finish_g: float) -> _CutOut:
    """Put wash and toppings of the whole batch on its pieces, each as much."""
    pieces = out.pieces + sum(each.pieces for each in out.offcuts)
    if finish_g <= 0 or not pieces:
        return out

    def on(some: tuple[Made, ...]) -> tuple[Made, ...]:
        return tuple(replace(m, filled_g=m.filled_g + finish_g / pieces) for m in some)

    return replace(out, made=on(out.made), offcuts=on(out.offcuts))


OWN_BLOCK = 0.25
"""From such a share of a block on, paste that is not rolled out is a block of its own [-]."""


def _groups(
    batch: Batch, cut: Sheets | None, paste_g: float, fresh_g: float, over_g: float
) -> tuple[BlockGroup, ...]:
    """Part new paste to blocks: alike, or those of each thickness, and what is not rolled out.

    Parameters
    ----------
    fresh_g, over_g : float
        New paste as it reaches the last sheet, and how much of it is not rolled out [g].
    """
    if paste_g <= 0 or fresh_g <= 0:
        return ()
    if cut is None:
        return (BlockGroup(batch.blocks, paste_g / batch.blocks),)
    mixed = paste_g / fresh_g
    plans = [(at, plan) for at, plan in enumerate(cut.plans) if not plan.of_stock]
    if not plans:
        return ()
    rolled = [cut.sheet_g(plan) * plan.sheets / plan.blocks for _, plan in plans]
    own = over_g > OWN_BLOCK * max(rolled)
    blocks = sum(plan.blocks for _, plan in plans)
    off = 0.0 if own else over_g / blocks
    found = [
        BlockGroup(plan.blocks, (each + off) * mixed, at, off)
        for (at, plan), each in zip(plans, rolled, strict=True)
    ]
    if own:
        many = math.ceil(over_g / max(rolled) - OWN_BLOCK)
        found.append(BlockGroup(max(1, many), over_g / max(1, many) * mixed))
    return tuple(found)


def _trimmed_as(losses: Losses, trim_g: float, of_g: float) -> Losses:
    """Give the losses with the trim that the cut plan has."""
    share = 100 * trim_g / of_g if of_g > 0 else 0.0
    return replace(losses, trim=Loss(share, "calc", from_cut=True))


def _factor_of_mass(formula: Formula, accounts: Accounts, pantry: Pantry) -> float | str:
    """How many times the formula the mass that is fixed makes [-]; or why it cannot be told.

    Of pieces nothing is told here.
    """
    batch = formula.batch
    if batch.fixed == "pieces":
        return 0.0
    if batch.fixed == "written":
        return batch.times
    if batch.fixed == "flour":
        if accounts.flour_g <= 0:
            return (
                "The batch is set by its flour, and the formula has none. Set it "
                "another way, or add flour."
            )
        return batch.flour_g / accounts.flour_g
    if batch.fixed == "paste":
        return batch.paste_g / accounts.paste_g
    used = packet_used_g(formula, pantry)
    if used <= 0:
        return (
            "The batch is set by a packet of fat, and the formula has no fat. Set it "
            "another way, or add fat."
        )
    return batch.packet_g / used


def _factor_beside_scrap(needed: float, each: float, allowed: float, there: float) -> float:
    """How many times the formula gives what is needed, scrap taken up [-].

    `each` is what the formula once gives, `allowed` the scrap that it may take, `there` all there
    is [g].
    """
    factor = needed / (each + allowed)
    return factor if allowed * factor <= there else (needed - there) / each


def _from_offcuts(formula: Formula, there_g: float, broken_pct: float) -> tuple[Made, ...]:
    """Share what is cut away to the products that are made of it, in their order."""
    found: list[Made] = []
    for product in formula.of_offcuts:
        pieces = min(
            raw_pieces(product.wanted, broken_pct), math.floor(there_g / product.offcut_g + 1e-9)
        )
        there_g -= pieces * product.offcut_g
        found.append(_made_of(formula, product, product.offcut_g, pieces, broken_pct))
    return tuple(found)


def _made_of(
    formula: Formula, product: Product | None, paste_g: float, pieces: int, broken_pct: float
) -> Made:
    filled = paste_g + sum(line.grams for line in lines_on(formula, product))
    good = math.floor(pieces * (1 - broken_pct / 100) + 1e-9)
    return Made(product.name if product else "", pieces, paste_g, filled, good)


def _lines(
    formula: Formula,
    factor: float,
    targets: Sequence[_Target],
    out: _CutOut,
    mixes: Sequence[float],
) -> list[Weighed]:
    division = formula.batch.division_g
    of_what = [
        *((target.product, each) for target, each in zip(targets, out.made, strict=True)),
        *zip(formula.of_offcuts, out.offcuts, strict=True),
    ]
    plain = sum(each.pieces for product, each in of_what if product is None or not product.filling)
    found = [
        _weighed(part, line, plain if part is Part.FILLING else factor, division, mixes)
        for part, _, line in formula.all_lines()
    ]
    extra = [
        _weighed(Part.FILLING, line, each.pieces, division, (), each.name)
        for product, each in of_what
        if product
        for line in (*product.filling, *product.topping)
    ]
    at = max((i for i, w in enumerate(found, 1) if w.part is not Part.FINISH), default=0)
    return found[:at] + extra + found[at:]


def _weighed(
    part: Part,
    line: Line,
    factor: float,
    division_g: float,
    mixes: Sequence[float],
    product: str = "",
) -> Weighed:
    """Round a line once, to the scale; what is weighed mix by mix is dealt from that."""
    exact = line.grams * factor
    if part not in IN_THE_PASTE or len(mixes) < 2:
        return Weighed(part, line, exact, rounded(exact, division_g), product)
    by_mix = dealt(rounded(exact, division_g), mixes, division_g)
    return Weighed(part, line, exact, round(sum(by_mix), 6), product, by_mix)
