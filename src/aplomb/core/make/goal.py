"""What a make is for: pieces, a batch, paste to keep, or the formula as written."""

from fractions import Fraction
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import num
from aplomb.core.batch.mixes import in_whole
from aplomb.core.batch.scale import followed
from aplomb.core.paste.formula import LEAST_TIMES, MOST_PIECES, MOST_TIMES, Formula, Part
from aplomb.core.paste.product import Product
from aplomb.core.study.study import Reference, Study, make_study

Kind = Literal["pieces", "batch", "keep", "as_written"]
MOST_KEPT_BLOCKS = 1000


class Goal(Struct, frozen=True):
    """What a make is for.

    Attributes
    ----------
    pieces : int
        Pieces in all [-]; 0 for as many as the formula's products want.
    blocks : int
        Blocks of paste to keep [-].
    factor : float
        As written: so many times the formula [-].
    where : {'fridge', 'freezer'}
        Where paste to keep goes.
    """

    kind: Kind
    pieces: int = 0
    blocks: int = 0
    factor: float = 1.0
    where: Literal["fridge", "freezer"] = "fridge"


WRITTEN_AS = {"½": " 1/2", "⅓": " 1/3", "¼": " 1/4", "⅔": " 2/3", "¾": " 3/4", "×": " "}


def read_factor(text: str, decimal: str = ".") -> float:
    """Read how many times a formula is made as written: ``2``, ``1/2``, ``1 ½``, ``0.5``.

    Parameters
    ----------
    decimal : {'.', ','}
        The locale's decimal sign.

    Raises
    ------
    AmountError
        For what is no number above zero.

    Examples
    --------
    >>> read_factor("1 ½"), read_factor("1/4")
    (1.5, 0.25)
    """
    plain = text.replace(decimal, ".") if decimal == "," else text
    for sign, words in WRITTEN_AS.items():
        plain = plain.replace(sign, words)
    try:
        value = float(sum(Fraction(word) for word in plain.split())) if plain.strip() else 0.0
    except (ValueError, ZeroDivisionError):
        value = 0.0
    if not LEAST_TIMES <= value <= MOST_TIMES:
        raise AmountError(
            f"as written: enter how many times, as 2, 1/2 or 1/3, not “{text[:40].strip()}”",
            text,
            0,
            len(text),
        )
    return value


def factor_text(factor: float) -> str:
    """Write how many times a formula is made as written.

    Examples
    --------
    >>> factor_text(0.5), factor_text(1 / 3), factor_text(2.0), factor_text(1.25)
    ('½', '⅓', '2', '1.25')
    """
    for sign, value in (("½", 1 / 2), ("⅓", 1 / 3), ("¼", 1 / 4), ("⅔", 2 / 3), ("¾", 3 / 4)):
        if abs(factor - value) < CLOSE_FACTOR:
            return sign
    return num(factor, ".4g")


CLOSE_FACTOR = 1e-9


def goal_of(formula: Formula) -> Goal:
    """Give the goal that a formula's batch states."""
    batch = formula.batch
    if batch.fixed == "written":
        return Goal("as_written", factor=batch.times)
    return Goal("pieces" if batch.fixed == "pieces" else "batch")


def usual_goal(formula: Formula) -> Goal:
    """Give the goal that is meant when nothing is said: pieces where some are wanted.

    What the formula's own batch says it is made as written is that.
    """
    if formula.batch.fixed == "written":
        return goal_of(formula)
    return Goal("pieces" if formula.wanted else "batch")


def study_for(formula: Formula, goal: Goal, reference: Reference) -> Study:
    """Work a formula out for a goal, with its cut plan.

    Parameters
    ----------
    formula : Formula
        Checked.

    Raises
    ------
    AplombError
        When the goal cannot be, in words; as `make_study`.
    """
    if goal.kind == "as_written":
        if not LEAST_TIMES <= goal.factor <= MOST_TIMES:
            raise AplombError(
                f"factor: use {LEAST_TIMES:g} to {MOST_TIMES:g} times the formula as written"
            )
        batch = replace(formula.batch, fixed="written", times=goal.factor, frozen_g=0.0)
        cutting = replace(formula.cutting, scrap_g=0.0)
        return make_study(replace(formula, batch=batch, cutting=cutting), reference)
    if goal.kind == "pieces":
        return make_study(_for_pieces(formula, goal.pieces), reference)
    if goal.kind == "keep":
        return _to_keep(formula, goal, reference)
    own_pieces = formula.batch.fixed == "pieces" and not formula.wanted
    if formula.batch.fixed in ("pieces", "written") and not own_pieces:
        # what its flour, paste or packet comes to is not said: as much paste as it makes now
        now = make_study(formula, reference)
        target = followed(formula, reference.pantry, now.accounts, now.scaled)
        formula = replace(formula, batch=replace(target, fixed="paste"))
    return make_study(formula, reference)


def _for_pieces(formula: Formula, pieces: int) -> Formula:
    """Give the formula with so many pieces wanted, in the proportion that its products are."""
    if not 0 <= pieces <= MOST_PIECES:
        raise AplombError(f"pieces: use 1 to {MOST_PIECES}, not {pieces}")
    batch = replace(formula.batch, fixed="pieces")
    if not pieces:
        return replace(formula, batch=batch)
    wanted = list(formula.wanted)
    if not wanted:
        first = next((p for p in formula.products if not p.offcut_g), None)
        if first is None:
            return replace(formula, batch=replace(batch, pieces=pieces))
        products = tuple(
            replace(p, wanted=pieces if p is first else 0) if not p.offcut_g else p
            for p in formula.products
        )
        return replace(formula, products=products, batch=batch)
    ordered_now = sum(p.wanted for p in wanted)
    shared = in_whole([Fraction(pieces * p.wanted, ordered_now) for p in wanted], pieces)
    by_name = {p.name: many for p, many in zip(wanted, shared, strict=True)}

    def ordered(product: Product) -> Product:
        many = by_name.get(product.name)
        return product if many is None else replace(product, wanted=many)

    return replace(formula, products=tuple(map(ordered, formula.products)), batch=batch)


def _to_keep(formula: Formula, goal: Goal, reference: Reference) -> Study:
    """Give paste that is kept: so many blocks, each like one of the batch."""
    if not 1 <= goal.blocks <= MOST_KEPT_BLOCKS:
        raise AplombError(f"keep: use 1 to {MOST_KEPT_BLOCKS} blocks, not {goal.blocks}")
    now = make_study(formula, reference)
    each_g = now.scaled.each_g or now.accounts.paste_g / formula.batch.blocks
    if each_g <= 0:
        raise AplombError(now.scaled.trouble or "The formula has no weight: there is no block.")
    batch = replace(
        formula.batch,
        fixed="paste",
        paste_g=each_g * goal.blocks,
        blocks=goal.blocks,
        frozen_g=0.0,
    )
    products = tuple(replace(p, wanted=0) for p in formula.products)
    cutting = replace(formula.cutting, scrap_g=0.0)
    made = replace(formula, batch=batch, products=products, cutting=cutting)
    bare = made.with_lines(Part.FILLING, ()).with_lines(Part.FINISH, ())  # it ends in the cold
    return make_study(bare, reference)
