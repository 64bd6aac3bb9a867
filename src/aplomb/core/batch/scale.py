"""From a formula to a batch: one thing is fixed, the rest follows."""

import math
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.quantity import LARGEST_G
from aplomb.core.batch.blanks import blanks_of
from aplomb.core.batch.losses import losses_of
from aplomb.core.batch.made_batch import MadeBatch
from aplomb.core.batch.scaled import Made, Scaled, Weighed, rounded
from aplomb.core.paste.accounts import Accounts
from aplomb.core.paste.formula import (
    IN_THE_PASTE,
    MOST_PIECES,
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

    The same batch, whichever of its four targets is then fixed: switching from pieces to paste
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
    }
    names = {"pieces": "pieces", "paste": "paste_g", "flour": "flour_g", "packet": "packet_g"}
    changes = {
        names[what]: value
        for what, value in found.items()
        if what != batch.fixed and _can_be_wanted(what, value)
    }
    return replace(batch, **changes)


def _can_be_wanted(what: str, value: float) -> bool:
    if what == "pieces":
        return 1 <= value <= MOST_PIECES
    return SMALLEST_G <= value <= LARGEST_G


class _Target(Struct, frozen=True):
    """So many raw pieces of one kind.

    Attributes
    ----------
    product : Product or None
        None for the batch's own piece.
    raw : int
        To cut, with those that will break [-].
    paste_g : float
        Paste in one [g].
    """

    product: Product | None
    raw: int
    paste_g: float


def piece_ml(product: Product, sheet_mm: float) -> float:
    """Volume of the paste in one piece of a product [mL].

    Parameters
    ----------
    sheet_mm : float
        The formula's final sheet [mm], for a product that has no thickness of its own.
    """
    area = sum(blank.area_mm2 * blank.a_piece for blank in blanks_of(product))
    return area * (product.sheet_mm or sheet_mm) / 1000


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
        return None if piece is None else (_Target(None, raw, piece),)
    density = accounts.rolled_density_g_ml
    if density is None:
        return None
    return tuple(
        _Target(p, raw_pieces(p.wanted, broken_pct), piece_ml(p, formula.sheet_mm) * density)
        for p in wanted
    )


def scale(
    formula: Formula,
    pantry: Pantry,
    accounts: Accounts,
    made_batches: Sequence[MadeBatch] = (),
    folded: float = 0.0,
    uid: str = "",
) -> Scaled:
    """Scale a formula to what its batch fixes.

    Parameters
    ----------
    accounts : Accounts
        Of the same formula.
    records : sequence of MadeBatch
        The book's own batches, for its losses.
    folded : float
        Share of the paste that is trimmed off while it is folded [-].
    uid : str
        Identity of the formula, whose own batches come before the book's others.

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
    keep_cut, keep = 1 - losses.trim.value / 100, 1 - losses.loss.value / 100
    dusting_g = sum(line.grams for line in formula.dusting)
    dust = dusting_g * losses.dust.value / 100
    whole = accounts.paste_g * keep + accounts.between_g + dust
    thawed = batch.frozen_g * keep * (1 - folded)
    allowed = accounts.paste_g * formula.cutting.scrap_pct / 100
    if batch.fixed == "pieces":
        factor = _factor_beside_scrap(
            max(0.0, set_g / keep_cut - thawed),
            whole * (1 - folded),
            allowed,
            formula.cutting.scrap_g,
        )
    else:
        found = _factor_of_mass(formula, accounts, pantry)
        if isinstance(found, str):
            return Scaled(0.0, trouble=found)
        factor = found
    scrap = min(formula.cutting.scrap_g, allowed * factor)
    rolled = whole * factor * (1 - folded) + thawed + scrap
    good_g = rolled * keep_cut
    sets = good_g / set_g
    made = tuple(_made(formula, target, sets, losses.broken.value) for target in targets)
    pieces = sum(each.pieces for each in made)
    in_pieces = sum(each.pieces * each.paste_g for each in made)
    over_g = max(0.0, good_g - in_pieces)
    offcuts = _from_offcuts(formula, rolled - good_g + over_g, losses.broken.value)
    lines = tuple(_lines(formula, factor, targets, made, offcuts))
    return Scaled(
        factor=factor,
        lines=lines,
        paste_g=accounts.paste_g * factor,
        strewn_g=accounts.between_g * factor,
        dust_g=dust * factor,
        loss_g=(accounts.paste_g * factor + batch.frozen_g) * (1 - keep),
        folded_g=(whole * factor + batch.frozen_g * keep) * folded,
        frozen_g=batch.frozen_g,
        scrap_in_g=scrap,
        rolled_g=rolled,
        trim_g=rolled - good_g,
        piece_g=in_pieces / pieces if pieces else set_g / sum(target.raw for target in targets),
        pieces=pieces,
        over_g=over_g,
        blocks=batch.blocks if factor > 0 else 0,
        each_g=accounts.paste_g * factor / batch.blocks,
        finished_g=whole * factor * (1 - folded) / batch.blocks,
        drift_g=sum(w.drift_g for w in lines if w.part in IN_THE_PASTE),
        made=made,
        from_offcuts=offcuts,
        losses=losses,
    )


def _factor_of_mass(formula: Formula, accounts: Accounts, pantry: Pantry) -> float | str:
    """How many times the formula the mass that is fixed makes [-]; or why it cannot be told."""
    batch = formula.batch
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


def _made(formula: Formula, target: _Target, sets: float, broken_pct: float) -> Made:
    pieces = math.floor(target.raw * sets + 1e-9)
    return _made_of(formula, target.product, target.paste_g, pieces, broken_pct)


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
    made: Sequence[Made],
    offcuts: Sequence[Made],
) -> list[Weighed]:
    division = formula.batch.division_g
    of_what = [
        *((target.product, each) for target, each in zip(targets, made, strict=True)),
        *zip(formula.of_offcuts, offcuts, strict=True),
    ]
    plain = sum(each.pieces for product, each in of_what if product is None or not product.filling)
    found = [
        _weighed(part, line, plain if part is Part.FILLING else factor, division)
        for part, _, line in formula.all_lines()
    ]
    extra = [
        _weighed(Part.FILLING, line, each.pieces, division, each.name)
        for product, each in of_what
        if product
        for line in (*product.filling, *product.topping)
    ]
    at = max((i for i, w in enumerate(found, 1) if w.part is not Part.FINISH), default=0)
    return found[:at] + extra + found[at:]


def _weighed(
    part: Part, line: Line, factor: float, division_g: float, product: str = ""
) -> Weighed:
    exact = line.grams * factor
    return Weighed(part, line, exact, rounded(exact, division_g), product)
