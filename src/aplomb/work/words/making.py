"""What the steps of a make are on paper: those that are alike together, with sizes and signs."""

from collections.abc import Iterable, Sequence
from itertools import groupby

from msgspec import Struct

from aplomb.core.base.figures import (
    cm_text,
    mass_text,
    mm_text,
    num,
    number_text,
    sides_cm,
    weight_text,
)  # fmt: skip
from aplomb.core.base.house import House
from aplomb.core.base.texts import counted
from aplomb.core.make.step import Make, MakeStep
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.pantry import Pantry
from aplomb.work.words.steps import rolled_size, rolled_to


def few_to_many(few: int, many: int) -> str:
    """Write a count that is the same everywhere, or from the least to the most.

    Examples
    --------
    >>> few_to_many(82, 82), few_to_many(133, 134)
    ('82', '133 to 134')
    """
    return f"{few}" if few == many else f"{few} to {many}"


AFTER_TURNS = (
    "divide", "sheet", "relax", "cut", "fill", "roll_up", "slice", "line", "shape", "dock", "wash",
    "tray", "heat", "load_in", "bake", "load_out", "cool", "pack", "wrap", "store",
)  # fmt: skip
"""Kinds of step that come after the turns, in the order of the work."""


class Told(Struct, frozen=True):
    """A step, or several that are alike.

    Attributes
    ----------
    title : str
        What is done, and how often.
    lines : tuple of str
        Sizes, what goes in, what it gives, the sign that ends it, what can hurt.
    """

    title: str
    lines: tuple[str, ...]


def after_the_turns(make: Make, pantry: Pantry) -> list[Told]:
    """Say what comes after the turns, a line of the list for all steps that are alike."""
    steps = [s for s in make.steps if s.kind in AFTER_TURNS and not _is_before(s)]
    products = {unit.key: unit.name for unit in make.units if unit.of == "pieces" and unit.name}
    several = len(products) > 1
    found = []
    for _, group in groupby(_ordered(steps), key=_alike):
        alike = list(group)
        name = products.get(alike[0].on[0], "") if several else ""
        found.append(_told(alike, make, pantry, name))
    return found


BEFORE = ("cook", "cut_fat", "temper", "soften", "mix_fat")
"""Kinds of step that are done before the turns, besides weighing and mixing."""


def before_the_turns(make: Make) -> list[str]:
    """Say what is done with filling and fat before the turns, a sentence each."""
    found = {}
    for step in make.steps:
        if step.kind in BEFORE:
            found[step.words] = f"{step.words}: done when {step.sign}."
    return [*found.values(), *_from_stock(make)]


def _from_stock(make: Make) -> list[str]:
    """Say which blocks come out of stock, what is done with them, and where they join."""
    blocks = [unit for unit in make.units if unit.of == "stock"]
    if not blocks:
        return []
    own = [step for step in make.steps if step.on[0] == blocks[0].key]
    first = own[0]
    rest = f", {num(first.rest.least_min, '.0f')} min or more" if first.rest else ""
    joins = next((step.op for step in own[1:] if step.op.startswith("turn ")), "the final sheet")
    many = counted(len(blocks), "1 block", "{} blocks")
    what = f"{many} of {mass_text(blocks[0].grams)}"
    return [f"From stock, {what}: {first.words.lower()}{rest}. They join at {joins}."]


def _is_before(step: MakeStep) -> bool:
    """Tell whether it belongs to the dough or to a coil, before the turns are done."""
    dough = step.kind == "divide" and step.on[0] == "dough"
    return dough or (step.kind == "roll_up" and step.on[0][:1] == "b")


def _ordered(steps: Sequence[MakeStep]) -> list[MakeStep]:
    """Put steps that are alike beside one another, in the order of the first of each."""
    first: dict[object, int] = {}
    for at, step in enumerate(steps):
        first.setdefault(_alike(step), at)
    return sorted(steps, key=lambda s: first[_alike(s)])


def _alike(step: MakeStep) -> tuple[object, ...]:
    words = "" if step.kind in ("load_in", "bake", "load_out") else step.words
    unit = step.on[0] if step.on[0][:1] == "p" else ""
    return step.kind, unit, words, step.sheet, step.roll_to, step.alone_min


def _told(steps: list[MakeStep], make: Make, pantry: Pantry, name: str) -> Told:
    step = steps[0]
    title = step.words
    if step.kind in ("load_in", "load_out"):
        title = {"load_in": "Into the oven", "load_out": "Out of the oven"}[step.kind]
    if name:
        title = f"{name}: {title[:1].lower()}{title[1:]}"
    if len(steps) > 1:
        title += f", {len(steps)} times"
    lines = [*_sizes(step), *_enters(steps, make, pantry), *_gives(steps)]
    if step.kind == "load_in":
        lines += [f"{n.words}." for n in steps]
    if step.rest is not None and step.rest.least_min > 0:
        rest = step.rest
        lines.append(f"Then rest at least {num(rest.least_min, '.0f')} min, {rest.place}.")
    if step.sign:
        lines.append(f"Done when {step.sign}.")
    return Told(title, (*lines, *step.cautions))


def _sizes(step: MakeStep) -> Iterable[str]:
    if step.roll_to is not None and step.sheet is not None:
        to, back = step.roll_to, step.sheet
        if step.round:
            yield (
                f"Roll to {rolled_size(to, is_round=True)}, {mm_text(to.height_mm, 1)} thick; "
                f"it shrinks back to {cm_text(back.length_mm, 1)}, "
                f"{mm_text(back.height_mm, 2)} thick."
            )
            return
        yield f"Roll to {rolled_to(to)}, {mm_text(to.height_mm, 1)} thick."
        if abs(to.length_mm - back.length_mm) > 1 or abs(to.width_mm - back.width_mm) > 1:
            yield (
                f"It shrinks back to {sides_cm(back.length_mm, back.width_mm, 1)}, "
                f"{mm_text(back.height_mm, 2)} thick."
            )
    elif step.sheet is not None and step.kind == "cut":
        yield f"From {sides_cm(step.sheet.length_mm, step.sheet.width_mm, 1)}."


def _enters(steps: Sequence[MakeStep], make: Make, pantry: Pantry) -> Iterable[str]:
    """Say what goes in, of all steps together, as it was weighed."""
    if steps[0].kind in ("sheet", "turn"):
        return
    found: dict[str, float] = {}
    for n in (n for step in steps for n in step.lines):
        found[n.material] = found.get(n.material, 0.0) + make.as_weighed(n)
    if found:
        named = [f"{weight_text(g)} of {pantry[key].name.lower()}" for key, g in found.items()]
        yield f"In all {', '.join(named)}."


def _gives(steps: Sequence[MakeStep]) -> Iterable[str]:
    if steps[0].kind not in ("cut", "slice", "relax") or steps[0].on[0][:1] == "p":
        return
    found: dict[str, int] = {}
    for each in (p for step in steps for p in step.gives):
        found[each.product] = found.get(each.product, 0) + each.count
    for name, many in found.items():
        of_logs = steps[0].kind == "slice"
        one, more = ("1 log", "{} logs") if of_logs else ("1 sheet", "{} sheets")
        if steps[0].kind == "relax":
            yield f"{number_text(many, 0)} {name or 'pieces'}, each as it was rolled."
            continue
        sheets = counted(len(steps), one, more)
        yield f"{number_text(many, 0)} {name or 'pieces'} from {sheets}."


def strewn_in(make: Make, pantry: Pantry, turn: int) -> list[str]:
    """Say what is strewn in at a turn, in a few words: so much for each block."""
    return [f"sprinkle in {weight_text(g)} of {name}" for g, name in _at(make, pantry, turn)]


def _at(make: Make, pantry: Pantry, turn: int) -> Iterable[tuple[float, str]]:
    """Give what is strewn into the first block at a turn, as it was weighed [g], and its name."""
    for step in make.steps:
        if step.kind == "add" and step.op == f"turn {turn}" and step.on[0] == "b1":
            for n in step.lines:
                yield make.as_weighed(n), pantry[n.material].name.lower()


def additions(make: Make, pantry: Pantry, turn: int) -> list[str]:
    """Say what is strewn in at a turn: so much for each block."""
    return [
        f"Sprinkle {weight_text(g)} of {name} over the rolled sheet of each block, not to the "
        "edges."
        for g, name in _at(make, pantry, turn)
    ]


def last_sheets(make: Make) -> list[tuple[str, list[str]]]:
    """Say what the last sheets are rolled to and what is cut of each, those that are alike once."""
    found = []
    cuts = [step for step in make.steps if step.kind == "cut"]
    sizes = {step.sheet: step for step in _alone(make)}
    found += [_untrimmed(step, make) for step in sizes.values()]
    for step in _ordered(cuts):
        alike = [each for each in cuts if each.sheet == step.sheet]
        rolled = next(s for s in make.steps if s.kind == "sheet" and s.on == step.on)
        if step is not alike[0] or rolled.roll_to is None or step.sheet is None:
            continue
        title = counted(len(alike), "Final sheet", "{} final sheets")
        lines = [f"roll to {rolled_to(rolled.roll_to)}, {mm_text(rolled.roll_to.height_mm, 1)}"]
        back = step.sheet
        if abs(back.length_mm - rolled.roll_to.length_mm) > 1:
            lines.append(f"shrinks back to {sides_cm(back.length_mm, back.width_mm, 1)}")
        cut = list(_cut_of(alike))
        if cut:
            each = " from each" if len(alike) > 1 else ""
            lines.append(f"cut {', '.join(cut)}{each}")
        found.append((title, lines))
    logs = [s for s in make.steps if s.kind == "slice" and s.on[0].startswith("b")]
    if logs:
        counts = [sum(p.count for p in step.gives) for step in logs]
        each = " from each" if len(logs) > 1 else ""
        told = f"cut {few_to_many(min(counts), max(counts))} slices{each}"
        found.append((counted(len(logs), "Log", "{} logs"), [told]))
    return found


def _cut_of(sheets: Sequence[MakeStep]) -> Iterable[str]:
    """Say what one of some sheets that are alike gives: the last ones may give a piece less."""
    found: dict[str, list[int]] = {}
    for each in (p for step in sheets for p in step.gives):
        found.setdefault(each.product, []).append(each.count)
    for name, counts in found.items():
        if max(counts):
            yield f"{few_to_many(min(counts), max(counts))} {name or 'pieces'}"


def _alone(make: Make) -> list[MakeStep]:
    """Give the pieces that are rolled one by one and not cut."""
    return [step for step in make.steps if step.kind == "relax" and step.gives]


def _untrimmed(step: MakeStep, make: Make) -> tuple[str, list[str]]:
    """Say what pieces are rolled to that are not cut."""
    rolled = next(s for s in make.steps if s.kind == "sheet" and s.on == step.on)
    to = rolled.roll_to
    assert to is not None
    alike = [each for each in _alone(make) if each.sheet == step.sheet]
    size = rolled_size(to, is_round=step.round)
    name = step.gives[0].product or "pieces"
    lines = [f"roll each to {size}, {mm_text(to.height_mm, 1)}; it is not trimmed"]
    return f"{len(alike)} {name}", lines


def cautions_of(formula: Formula, pantry: Pantry, house: House) -> Iterable[str]:
    """Say what can hurt in making a formula: only what is in it, and what the house has."""
    lines = [n for _, _, n in formula.all_lines()] + [n for _, n in formula.product_lines()]
    there = {pantry[n.material].group for n in lines if n.grams > 0}
    yield "Do not eat raw flour or raw egg." if "egg" in there else "Do not eat raw flour."
    inside = [*formula.filling, *(n for p in formula.products for n in p.filling)]
    if any(n.grams > 0 for n in inside):
        yield "Note how long filled pieces are out of the cold."
    yield "Cool before packing."
    if house.belt_mm:
        yield "Keep hands off sheeter rollers and leave the guards on."
