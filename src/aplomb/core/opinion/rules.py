"""The second opinion: one rule, one function. A rule is silent (None) when all is well."""

import math
from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.folds.plan import Enclosure, Plan, Step, Way
from aplomb.core.opinion.opinion import Action, Band, Opinion, SchoolBands
from aplomb.core.paste.formula import PART_NAMES, Formula, Part, with_grams, with_percent
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Pantry
from aplomb.core.readings import Accounts, Readings

MOST_TURNS_WARM = 2
"""Turns before paste goes back to the cold, common practice."""

LEAST_HIDDEN_SALT_PCT = 0.4
"""Salt from fats and other materials that is worth a word [% on flour], our own choice."""


class Case(Struct, frozen=True):
    """All that a rule looks at."""

    formula: Formula
    pantry: Pantry
    accounts: Accounts
    readings: Readings
    plan: Plan
    school: SchoolBands


def _lines_of(
    case: Case, part: Part, test: Callable[[Ingredient], bool]
) -> list[tuple[int, float]]:
    return [
        (i, line.grams)
        for i, line in enumerate(case.formula.lines(part))
        if line.grams > 0 and test(case.pantry[line.material])
    ]


def _usual(value: float, band: Band) -> bool:
    """Tell whether a reading lies in a band, as far as its shown place goes."""
    near = 0.05 if band.high > 10 else 0.005
    return band.low - near <= value <= band.high + near


def no_flour(case: Case) -> Opinion | None:
    """Say that percentages need flour."""
    if case.accounts.flour_g > 0 or not case.formula.all_lines():
        return None
    return Opinion(
        "no_flour", "wrong", "There is no flour",
        "Every percentage is on flour, so none can be worked out. Add a flour to the dough.",
        "calc",
    )  # fmt: skip


def block_without_fat(case: Case) -> Opinion | None:
    """Say that the fat block holds no fat."""
    enclosure = case.plan.enclosure
    if case.accounts.enclosed_fat_g > 0 or enclosure is Enclosure.NONE or not case.formula.dough:
        return None
    what = f"holds {case.accounts.block_g:.0f} g and no fat" if case.formula.block else "is empty"
    return Opinion(
        "block_without_fat", "wrong", "Nothing to enclose",
        f"The turn line says “{enclosure.value}”, but the fat block {what}. "
        "Add a fat to it, or begin the turn line with “none”.",
        "calc",
    )  # fmt: skip


def fat_cannot_be_enclosed(case: Case) -> Opinion | None:
    """Say that a liquid fat stands in the fat block."""
    found = _lines_of(case, Part.BLOCK, lambda m: m.is_fat and m.enclose_c is None)
    if not found:
        return None
    index, _ = found[0]
    line = case.formula.block[index]
    name = case.pantry[line.material].name
    moved = case.formula.with_lines(
        Part.BLOCK, tuple(n for i, n in enumerate(case.formula.block) if i != index)
    ).with_lines(Part.DOUGH, (*case.formula.dough, replace(line, note="in the dough")))
    return Opinion(
        "fat_cannot_be_enclosed", "wrong", f"{name} cannot be enclosed",
        f"{line.grams:.0f} g of it is liquid at every shop temperature and would run out; "
        "it can only go into the dough.",
        "trade", Action("Move it to the dough", moved),
    )  # fmt: skip


def salt_twice(case: Case) -> Opinion | None:
    """Say that salted fat brings salt that was also weighed."""
    flour = case.accounts.flour_g
    if flour <= 0:
        return None
    hidden = 100 * case.accounts.salt_hidden_g / flour
    added = 100 * case.accounts.salt_added_g / flour
    band = case.school.bands["salt_pct"]
    usual = (band.low + band.high) / 2
    if hidden < LEAST_HIDDEN_SALT_PCT or added <= 0 or hidden + added <= usual:
        return None
    found = [
        (part, i, grams)
        for part in (Part.DOUGH, Part.BLOCK)
        for i, grams in _lines_of(case, part, lambda m: m.group == "salt")
    ]
    part, index, grams = max(found, key=lambda each: each[2])
    strength = case.pantry[case.formula.lines(part)[index].material].composition.salt
    out = min(grams, (hidden + added - usual) / 100 * flour / strength)
    out = float(round(out, 0 if out >= 10 else 1))
    if out < 0.1:
        return None
    return Opinion(
        "salt_twice", "look", "Salt comes twice",
        f"The fat and other materials bring {hidden:.1f} % on flour and you add {added:.1f} %, "
        f"{hidden + added:.1f} % in all; {band.low:g} to {band.high:g} % is usual.",
        "calc",
        Action(
            f"Take out {out:.3g} g", with_grams(case.formula, part, index, round(grams - out, 1))
        ),
    )  # fmt: skip


def salt_out_of_school(case: Case) -> Opinion | None:
    """Say that salt from all sources is outside the usual range."""
    band, salt = case.school.bands["salt_pct"], case.readings.salt_pct
    if salt is None or _usual(salt, band) or case.accounts.paste_g <= 0:
        return None
    less = salt < band.low
    return Opinion(
        "salt_out_of_school", "look", "Little salt" if less else "Much salt",
        f"{salt:.1f} % on flour from all sources; {band.low:g} to {band.high:g} % is usual.",
        band.standing,
    )  # fmt: skip


def water_out_of_school(case: Case) -> Opinion | None:
    """Say that dough water is outside the school's range."""
    band, water = case.school.bands["dough_water_pct"], case.readings.dough_water_pct
    if water is None or _usual(water, band) or not case.formula.block:
        return None
    dry = water < band.low
    what = (
        "it will crack at the edges and tear over the fat"
        if dry
        else "it will stick, take up dusting flour and let the leaves run together"
    )
    return Opinion(
        "water_out_of_school", "look", "The dough is dry" if dry else "The dough is wet",
        f"Dough water is {water:.0f} % on flour; {band.low:g} to {band.high:g} % is usual for "
        f"{case.school.name}. Outside it {what}.",
        band.standing, _to_water(case, band.low if dry else band.high),
    )  # fmt: skip


def _to_water(case: Case, percent: float) -> Action | None:
    lines = _lines_of(case, Part.DOUGH, lambda m: m.composition.water > 0.99)
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


def fat_against_turns(case: Case) -> Opinion | None:
    """Say that a lean paste is folded too often, or a rich one too seldom."""
    fat, leaves = case.readings.fat_product_pct, case.readings.fat_leaves
    if fat is None or not leaves or case.plan.enclosure is Enclosure.NONE:
        return None
    if fat < 55 and leaves > 180:
        return Opinion(
            "fat_against_turns", "look", "Lean paste, many turns",
            f"{fat:.0f} % fat on flour is spread over {leaves:.0f} fat leaves. So little fat is "
            "usually given fewer turns, or the leaves break and the lift falls.",
            "trade", _one_turn_less(case),
        )  # fmt: skip
    if fat > 85 and leaves < 40 and case.school.key != "gluten_free":
        return Opinion(
            "fat_against_turns", "look", "Rich paste, few turns",
            f"{fat:.0f} % fat on flour stands in only {leaves:.0f} fat leaves. Thick leaves of "
            "fat run out in the oven before the dough sets.",
            "trade", _one_turn_more(case),
        )  # fmt: skip
    return None


def _with_plan(formula: Formula, plan: Plan) -> Formula:
    return replace(formula, turn_line=plan.line())


def _one_turn_less(case: Case) -> Action | None:
    steps = list(case.plan.steps)
    places = [i for i, step in enumerate(steps) if step.is_turn]
    if len(places) < 2:
        return None
    del steps[places[-1]]
    while len(steps) > 1 and not steps[-1].is_turn and not steps[-2].is_turn:
        steps.pop()
    return Action("One turn less", _with_plan(case.formula, replace(case.plan, steps=tuple(steps))))


def _one_turn_more(case: Case) -> Action:
    steps = (*case.plan.steps, Step(Way.FOLD, 3))
    return Action("Add a single", _with_plan(case.formula, replace(case.plan, steps=steps)))


def _leaf_band(case: Case) -> tuple[float, Band] | None:
    leaf = case.readings.fat_leaf_um
    if leaf is None or case.plan.enclosure is Enclosure.NONE:
        return None
    return leaf, case.school.bands["fat_leaf_um"]


def leaf_too_thin(case: Case) -> Opinion | None:
    """Say that fat leaves are likely to break and merge."""
    found = _leaf_band(case)
    if found is None or found[0] >= found[1].low:
        return None
    leaf, band = found
    return Opinion(
        "leaf_too_thin", "wrong" if leaf < band.low / 2 else "look", "Leaves about to merge",
        f"{case.readings.fat_leaves:.6g} fat leaves in {case.formula.sheet_mm:g} mm are "
        f"{leaf:.2g} µm each. Under about {band.low:g} µm they break and the lift falls.",
        band.standing, _one_turn_less(case),
    )  # fmt: skip


def leaf_too_thick(case: Case) -> Opinion | None:
    """Say that fat leaves are coarse."""
    found = _leaf_band(case)
    if found is None or found[0] <= found[1].high:
        return None
    leaf, band = found
    return Opinion(
        "leaf_too_thick", "look", "Coarse leaves",
        f"{case.readings.fat_leaves:.4g} fat leaves in {case.formula.sheet_mm:g} mm are "
        f"{leaf:.0f} µm each. Over about {band.high:g} µm the lift is uneven and fat runs out.",
        band.standing, _one_turn_more(case),
    )  # fmt: skip


def wheat_in_gluten_free(case: Case) -> Opinion | None:
    """Catch gluten anywhere in a gluten-free paste: dough, block, dusting or finish."""
    if case.school.key != "gluten_free":
        return None
    found = [
        (part, i, line)
        for part, i, line in case.formula.all_lines()
        if case.pantry[line.material].has_gluten
    ]
    if not found:
        return None
    part, index, line = found[0]
    where = f"the {PART_NAMES[part].lower()}"
    name = case.pantry[line.material].name
    safe = [n.material for n in case.formula.dough if case.pantry[n.material].is_flour]
    safe = [key for key in safe if not case.pantry[key].has_gluten]
    other = safe[0] if safe else "rice_flour" if "rice_flour" in case.pantry else ""
    action = None
    if other and case.pantry[line.material].is_flour:
        lines = list(case.formula.lines(part))
        lines[index] = replace(line, material=other)
        action = Action(
            f"Use {case.pantry[other].name.lower()}", case.formula.with_lines(part, tuple(lines))
        )
    return Opinion(
        "wheat_in_gluten_free", "wrong", f"Gluten in {where}",
        f"{name} ({line.grams:.0f} g) contains gluten. “Gluten-free” means at most 20 mg/kg in "
        "the food as sold (Codex CXS 118-1979); bench, pin and belt count too. Follow local law.",
        "std", action,
    )  # fmt: skip


def singles_only_gluten_free(case: Case) -> Opinion | None:
    """Say that gluten-free paste is folded in singles only."""
    if case.school.key != "gluten_free":
        return None
    large = [step.panels for step in case.plan.turns if step.panels > 3]
    if not large:
        return None
    steps = tuple(
        replace(step, way=Way.FOLD, panels=3) if step.is_turn and step.panels > 3 else step
        for step in case.plan.steps
    )
    return Opinion(
        "singles_only_gluten_free", "look", "Singles only, without gluten",
        f"{len(large)} of the {len(case.plan.turns)} turns fold in {max(large)}. Nothing elastic "
        "holds the fat in; four singles are usual.",
        "trade",
        Action("Make them singles", _with_plan(case.formula, replace(case.plan, steps=steps))),
    )  # fmt: skip


def turns_without_cold(case: Case) -> Opinion | None:
    """Say that more than two turns follow one another without a rest."""
    if case.plan.enclosure is Enclosure.NONE:
        return None
    run, place, longest = 0, -1, 0
    for i, step in enumerate(case.plan.steps):
        run = run + 1 if step.is_turn else 0
        longest = max(longest, run)
        if run == MOST_TURNS_WARM + 1 and place < 0:
            place = i
    if place < 0:
        return None
    steps = (*case.plan.steps[:place], Step(Way.REST), *case.plan.steps[place:])
    turn = sum(step.is_turn for step in case.plan.steps[:place])
    return Opinion(
        "turns_without_cold", "look", f"{longest} turns without cold",
        "At most two turns are made before the paste goes back to the cold: the fat softens and "
        "the dough pulls back.",
        "trade",
        Action(
            f"Rest after turn {turn}", _with_plan(case.formula, replace(case.plan, steps=steps))
        ),
    )  # fmt: skip


def fat_out_of_school(case: Case) -> Opinion | None:
    """Say that fat on flour lies outside the school's range."""
    band, fat = case.school.bands["fat_product_pct"], case.readings.fat_product_pct
    if fat is None or _usual(fat, band) or case.accounts.enclosed_fat_g <= 0:
        return None
    return Opinion(
        "fat_out_of_school", "look", "Lean for its kind" if fat < band.low else "Rich for its kind",
        f"{fat:.0f} % fat on flour; {band.low:g} to {band.high:g} % is usual for "
        f"{case.school.name}.",
        band.standing, _to_fat(case, band.low if fat < band.low else band.high),
    )  # fmt: skip


def _to_fat(case: Case, percent: float) -> Action | None:
    found = _lines_of(case, Part.BLOCK, lambda m: m.is_fat)
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


RULES: tuple[Callable[[Case], Opinion | None], ...] = (
    no_flour,
    block_without_fat,
    fat_cannot_be_enclosed,
    wheat_in_gluten_free,
    salt_twice,
    leaf_too_thin,
    singles_only_gluten_free,
    turns_without_cold,
    water_out_of_school,
    leaf_too_thick,
    fat_against_turns,
    fat_out_of_school,
    salt_out_of_school,
)
"""Every rule, the weightier first."""


def opinions_on(case: Case) -> tuple[Opinion, ...]:
    """Ask every rule; what is wrong comes before what is worth a look.

    Parameters
    ----------
    case : Case

    Returns
    -------
    tuple of Opinion
        Dismissed ones are left in; who shows them leaves them out.
    """
    found = [opinion for rule in RULES if (opinion := rule(case)) is not None]
    return tuple(sorted(found, key=lambda opinion: opinion.mark != "wrong"))
