"""From a study to its make: one list of steps from the weighing to the tray."""

from collections.abc import Sequence

from msgspec.structs import replace

from aplomb.core.base.house import House
from aplomb.core.batch.scaled import Scaled, Weighed
from aplomb.core.make.blocks import Blocks
from aplomb.core.make.elapsed import elapsed_min
from aplomb.core.make.gathering import Gathering
from aplomb.core.make.goal import Goal
from aplomb.core.make.making import Making
from aplomb.core.make.products import add_products
from aplomb.core.make.step import GivenPieces, Gives, Make, MakeLine, Unit
from aplomb.core.paste.formula import Part, block_allergens, lines_on
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.cold import RestResult
from aplomb.core.study.study import Study

OF_PASTE = (Part.DOUGH, Part.BLOCK, Part.DUSTING, Part.BETWEEN)
"""What goes into paste that is kept; fillings and finish wait for the pieces."""


def make_of(
    study: Study,
    pantry: Pantry,
    house: House,
    goal: Goal,
    rests: Sequence[RestResult] = (),
    uid: str = "",
) -> Make:
    """Give every step of a make.

    Parameters
    ----------
    study : Study
        Of the formula for this goal (`study_for`), with its cut plan.
    rests : sequence of RestResult
        What the cold says of its rests; without it they are as written or as usual.
    uid : str
        Identity of the formula in the book.

    Notes
    -----
    Lines and stock together weigh what pieces, scrap, loss and what is kept do; every line enters
    at one kind of step, and wholly.
    """
    scaled = study.scaled
    any_made = any(m.pieces > 0 for m in (*scaled.made, *scaled.from_offcuts))
    lines = tuple(_line(w) for w in scaled.lines if w.exact_g > 0 and _is_made(w, any_made))
    if scaled.trouble or (scaled.factor <= 0 and not scaled.frozen_g):
        told = scaled.trouble or "There is nothing to make."
        empty = Gives((), 0.0, 0.0, 0.0, 0.0)
        return Make(uid, study.formula.name, goal, (), (), (), (), (), empty, 0.0, 0.0, (told,))
    gather = Gathering(sheeter=house.belt_mm > 0)
    making = Making(study, pantry, house, goal, lines, tuple(rests), gather)
    blocks = Blocks(making)
    blocks.add()
    trays, loads = ((), ()) if goal.kind == "keep" else add_products(making, blocks)
    steps = tuple(gather.steps)
    trouble = [each for each in (study.cut_trouble, study.fold_trouble) if each]
    trouble += making.trouble
    if goal.kind != "keep" and not any_made:
        trouble.append("This is not enough paste for one piece: make more, or a smaller piece.")
    return Make(
        uid,
        study.formula.name,
        goal,
        lines,
        tuple(_with_allergens(making, unit) for unit in gather.units),
        steps,
        trays,
        loads,
        _gives(making),
        sum(step.hands_min for step in steps),
        elapsed_min(steps, house.hands, house.mixers),
        tuple(dict.fromkeys(trouble)),
    )


OF_UNIT: dict[str, tuple[Part, ...]] = {
    "dough": (Part.DOUGH,),
    "fat": (Part.BLOCK,),
    "dusting": (Part.DUSTING, Part.BETWEEN),
    "filling": (Part.FILLING,),
    "finish": (Part.FINISH,),
}
"""What of the formula is in each kind of unit."""


def _with_allergens(making: Making, unit: Unit) -> Unit:
    """Give a unit with what it holds that must be declared."""
    formula = making.study.formula
    if unit.of in ("block", "stock", "sheet", "kept"):
        return replace(unit, allergens=tuple(block_allergens(formula, making.pantry)))
    lines = [line for part in OF_UNIT.get(unit.of, ()) for line in formula.lines(part)]
    if unit.of == "pieces" and unit.key != "baked":
        product = next((p for p in formula.products if p.name == unit.name), None)
        parts = (*OF_PASTE, Part.FINISH)
        lines = [line for part in parts for line in formula.lines(part)]
        lines += lines_on(formula, product)
    found = {a for n in lines if n.grams > 0 for a in making.pantry[n.material].allergens}
    return replace(unit, allergens=tuple(sorted(found)))


def _is_made(weighed: Weighed, any_made: bool) -> bool:
    """Tell whether a line is used: what goes on the pieces only where there are some."""
    return any_made or weighed.part in OF_PASTE


def _line(weighed: Weighed) -> MakeLine:
    return MakeLine(
        weighed.part,
        weighed.line.material,
        weighed.product,
        weighed.exact_g,
        weighed.weigh_g,
    )


def _gives(making: Making) -> Gives:
    """Where everything goes: raw, before the oven."""
    scaled, goal = making.study.scaled, making.goal
    dusting = sum(n.grams for n in making.lines if n.part is Part.DUSTING)
    loss = scaled.loss_g + dusting - scaled.dust_g
    stock = scaled.frozen_g + scaled.scrap_in_g
    if goal.kind == "keep":
        return Gives((), scaled.folded_g, loss, scaled.rolled_g, stock)
    made = (*scaled.made, *scaled.from_offcuts)
    each = tuple(
        GivenPieces(m.name, m.pieces, making.piece_g(m.name)) for m in made if m.pieces > 0
    )
    offcuts = sum(m.pieces * m.paste_g for m in scaled.from_offcuts)
    kept = scaled.over_g if is_kept(scaled, goal) else 0.0
    cut_away = scaled.trim_g + (scaled.over_g - kept) - offcuts
    kept = max(0.0, kept + min(0.0, cut_away))  # offcuts took of what is left over too
    return Gives(each, max(0.0, cut_away) + scaled.folded_g, loss, kept, stock)


def is_kept(scaled: Scaled, goal: Goal) -> bool:
    """Tell whether paste that is left over is kept, not rolled out and scrap."""
    return scaled.as_cut or goal.kind == "as_written"
