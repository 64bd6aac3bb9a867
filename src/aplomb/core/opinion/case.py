"""What a rule looks at, and what several rules need."""

import math
from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.accounts import Accounts
from aplomb.core.batch.scale import Scaled
from aplomb.core.cold.mixing import WaterAndIce
from aplomb.core.folds.plan import Plan, Step, Way
from aplomb.core.folds.sizes import Enclosing, TurnSize, Worked
from aplomb.core.house import House
from aplomb.core.opinion.opinion import Action, Band, SchoolBands
from aplomb.core.paste.fat_profile import FatProfile
from aplomb.core.paste.formula import Formula, Part, with_grams, with_percent
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry
from aplomb.core.readings import Readings


class Case(Struct, frozen=True):
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


def lines_of(case: Case, part: Part, test: Callable[[Ingredient], bool]) -> list[tuple[int, float]]:
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


def to_water(case: Case, percent: float) -> Action | None:
    """Offer to bring dough water to a percentage by the dough's own water."""
    lines = lines_of(case, Part.DOUGH, lambda m: m.is_water)
    if not lines or case.readings.dough_water_pct is None:
        return None
    index, grams = lines[0]
    wanted = grams + (percent - case.readings.dough_water_pct) / 100 * case.accounts.flour_g
    if wanted <= 0:
        return None
    way = "Add" if wanted > grams else "Take out"
    return Action(
        f"{way} {abs(wanted - grams):.0f} g water",
        with_grams(case.formula, Part.DOUGH, index, round(wanted, 1)),
    )


def to_fat(case: Case, percent: float) -> Action | None:
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


def one_turn_less(case: Case) -> Action | None:
    """Offer the plan without its last turn."""
    steps = list(case.plan.steps)
    places = [i for i, step in enumerate(steps) if step.is_turn]
    if len(places) < 2:
        return None
    del steps[places[-1]]
    while len(steps) > 1 and not steps[-1].is_turn and not steps[-2].is_turn:
        steps.pop()
    return Action("One turn less", with_plan(case.formula, replace(case.plan, steps=tuple(steps))))


def one_turn_more(case: Case) -> Action:
    """Offer the plan with a single at its end."""
    steps = (*case.plan.steps, Step(Way.FOLD, 3))
    return Action("Add a single", with_plan(case.formula, replace(case.plan, steps=steps)))


def merged(formula: Formula, part: Part, material: str, grams: float) -> Formula:
    """Add so many grams of a material to a part, or take them out; what is left of a line at
    nothing goes."""
    lines = list(formula.lines(part))
    for i, line in enumerate(lines):
        if line.material == material:
            left = line.grams + grams
            lines[i : i + 1] = [replace(line, grams=left, typed="")] if left > 0.05 else []
            return formula.with_lines(part, tuple(lines))
    return formula.with_lines(part, (*lines, Line(material, grams)))
