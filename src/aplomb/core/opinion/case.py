"""What a rule looks at, and what several rules need."""

import math
from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.figures import g_text
from aplomb.core.base.house import House
from aplomb.core.batch.scaled import Scaled
from aplomb.core.cold.mixing import WaterAndIce
from aplomb.core.folds.enclosing import Enclosing
from aplomb.core.folds.plan import Plan
from aplomb.core.folds.sizes import TurnSize, Worked
from aplomb.core.folds.step import Step, Way
from aplomb.core.opinion.liquids import liquid_kind, main_liquid
from aplomb.core.opinion.opinion import Action, Band, SchoolBands
from aplomb.core.paste.accounts import Accounts
from aplomb.core.paste.fat_profile import FatProfile
from aplomb.core.paste.formula import Formula, Part, with_grams, with_percent
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry
from aplomb.core.readings.readings import Readings

TURNS_WARM = 2
"""Turns before paste goes back to the cold [-], common practice."""


class RuleInput(Struct, frozen=True):
    """All that a rule looks at."""

    formula: Formula
    pantry: Pantry
    accounts: Accounts
    readings: Readings
    plan: Plan
    school: SchoolBands
    scaled: Scaled
    fat: FatProfile | None
    water: WaterAndIce | None
    house: House
    today: str
    worked: Worked
    enclosing: Enclosing | None

    @property
    def sizes(self) -> tuple[TurnSize, ...]:
        """Sizes of the turns of one block, in order."""
        return self.worked.turns


def lines_of(
    case: RuleInput, part: Part, test: Callable[[Ingredient], bool]
) -> list[tuple[int, float]]:
    """Places and masses [g] of a part's lines with weight whose material passes a test."""
    return [
        (i, line.grams)
        for i, line in enumerate(case.formula.lines(part))
        if line.grams > 0 and test(case.pantry[line.material])
    ]


def usual(value: float, band: Band) -> bool:
    """Tell whether a reading lies in a band, as far as its shown place goes."""
    near = 0.05 if band.high > 10 else 0.005
    return band.low - near <= value <= band.high + near


def to_water(case: RuleInput, percent: float) -> Action | None:
    """Offer to bring dough water to a percentage by the dough's main liquid."""
    kind = main_liquid(case.formula, case.pantry)
    lines = lines_of(case, Part.DOUGH, lambda m: liquid_kind(m) == kind and m.group != "acid")
    if not lines or case.readings.dough_water_pct is None:
        return None
    index, grams = max(lines, key=lambda each: each[1])
    material = case.pantry[case.formula.dough[index].material]
    missing = (percent - case.readings.dough_water_pct) / 100 * case.accounts.dough_flour_g
    wanted = grams + missing / material.composition.water
    if wanted <= 0:
        return None
    way = "Add" if wanted > grams else "Remove"
    return Action(
        f"{way} {g_text(abs(wanted - grams), '.0f')} {_plain(material.name)}",
        with_grams(case.formula, Part.DOUGH, index, round(wanted, 1)),
    )


def _plain(name: str) -> str:
    """Say a material as one speaks of it: ``egg`` for ``Egg, whole``."""
    return name.split(",")[0].lower()


def to_fat(case: RuleInput, percent: float) -> Action | None:
    """Offer to bring fat on flour to a percentage by the largest fat of the block."""
    found = lines_of(case, Part.BLOCK, lambda m: m.is_fat)
    if not found or case.readings.fat_product_pct is None:
        return None
    index, grams = max(found, key=lambda each: each[1])
    change = (percent - case.readings.fat_product_pct) / 100 * case.accounts.flour_g
    if grams + change <= 0 or not math.isfinite(change):
        return None
    on_flour = 100 * (grams + change) / case.accounts.flour_g
    name = case.pantry[case.formula.block[index].material].name.lower()
    return Action(
        f"Bring {name} to {on_flour:.0f} %",
        with_percent(case.formula, case.pantry, Part.BLOCK, index, on_flour),
    )


def with_plan(formula: Formula, plan: Plan) -> Formula:
    """Give the formula with another plan."""
    return replace(formula, turn_line=plan.line())


COUNT_WORDS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")


def turns_less(case: RuleInput, times: float) -> Action | None:
    """Offer the plan without its last turns: as few as make the leaves `times` fewer [-]."""
    steps = list(case.plan.steps)
    gone, left_out = 1.0, 0
    while gone < times * (1 - 1e-9):
        places = [i for i, step in enumerate(steps) if step.is_turn]
        if len(places) < 2:
            return None
        gone *= steps[places[-1]].panels
        left_out += 1
        del steps[places[-1]]
        while len(steps) > 1 and not steps[-1].is_turn and not steps[-2].is_turn:
            del steps[-2 if steps[-2].way is Way.REST else -1]
    if not 0 < left_out < len(COUNT_WORDS):
        return None
    many = f"{COUNT_WORDS[left_out].capitalize()} turns fewer" if left_out > 1 else "One turn fewer"
    return Action(many, with_plan(case.formula, replace(case.plan, steps=tuple(steps))))


def turns_more(case: RuleInput, times: float) -> Action | None:
    """Offer the plan with singles before its last rest: as few as make `times` more leaves [-]."""
    many = math.ceil(math.log(times, 3) - 1e-9)
    if not 1 <= many < len(COUNT_WORDS):
        return None
    words = "Add a single" if many == 1 else f"Add {COUNT_WORDS[many]} singles"
    return Action(words, with_plan(case.formula, with_singles(case.plan, many)))


def with_singles(plan: Plan, many: int) -> Plan:
    """Add singles before the last rest of a plan, with a rest before each that would be warm."""
    steps = list(plan.steps)
    at = max((i for i, step in enumerate(steps, 1) if step.is_turn), default=0)
    rest = next((step for step in steps if step.way is Way.REST), Step(Way.REST))
    for _ in range(many):
        before = steps[:at]
        run = next((n for n, step in enumerate(reversed(before)) if not step.is_turn), len(before))
        added = [Step(Way.FOLD, 3)] if run < TURNS_WARM else [rest, Step(Way.FOLD, 3)]
        steps[at:at] = added
        at += len(added)
    return replace(plan, steps=tuple(steps))


def merged(formula: Formula, part: Part, material: str, grams: float) -> Formula:
    """Add so many grams of a material to a part, or take them out.

    What is left of a line at nothing goes.
    """
    lines = list(formula.lines(part))
    for i, line in enumerate(lines):
        if line.material == material:
            left = line.grams + grams
            lines[i : i + 1] = [replace(line, grams=left, typed="")] if left > 0.05 else []
            return formula.with_lines(part, tuple(lines))
    return formula.with_lines(part, (*lines, Line(material, grams)))


def with_flour(
    case: RuleInput, formula: Formula, material: str, grams: float
) -> tuple[Formula, str]:
    """Add flour to the dough, or take some out, and its water with it, so that dough water stays.

    Parameters
    ----------
    case : RuleInput
        Before the change.
    formula : Formula
        To be changed.
    material : str
        Key of the flour.
    grams : float
        Flour that comes in; negative for what goes out [g].

    Returns
    -------
    tuple of (Formula, words)
        The words say the water, like “, with 66 g water”; empty when the dough has none of its own.
    """
    formula = merged(formula, Part.DOUGH, material, grams)
    found = lines_of(case, Part.DOUGH, lambda m: m.is_water)
    percent = case.readings.dough_water_pct
    if not found or percent is None:
        return formula, ""
    index, there = max(found, key=lambda each: each[1])
    change = round(percent / 100 * grams)
    if there + change <= 0 or change == 0:
        return formula, ""
    name = case.formula.dough[index].material
    words = (
        f", with {g_text(change)} water" if change > 0 else f", and {g_text(-change)} less water"
    )
    return merged(formula, Part.DOUGH, name, change), words
