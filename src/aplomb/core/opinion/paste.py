"""Opinions on what is in the paste. A rule is silent (None) when all is well."""

import math

from msgspec.structs import replace

from aplomb.core.base.constants import FLOUR_BASIS
from aplomb.core.base.figures import celsius_text, g_text, num
from aplomb.core.folds.plan import Enclosure
from aplomb.core.opinion.case import RuleInput, lines_of, to_fat, to_water, usual
from aplomb.core.opinion.liquids import main_liquid
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.formula import IN_THE_PASTE, Part, with_grams
from aplomb.core.paste.line import noted

LEAST_HIDDEN_SALT_PCT = 0.4
"""Salt from fats and other materials that is worth a word [% on flour], our own choice."""


SALT_WORTH_PCT = 0.15
"""Salt over the middle of its band that is worth taking out [% on flour], our own choice."""


def no_flour(case: RuleInput) -> Opinion | None:
    """Say that percentages need flour."""
    if case.accounts.flour_g > 0 or not case.formula.all_lines():
        return None
    return Opinion(
        "no_flour",
        "wrong",
        "There is no flour",
        "Every percentage is on flour, so none can be calculated. Add a flour to the dough.",
        "calc",
    )


def block_without_fat(case: RuleInput) -> Opinion | None:
    """Say that the fat block holds no fat."""
    enclosure = case.plan.enclosure
    if case.accounts.enclosed_fat_g > 0 or enclosure is Enclosure.NONE or not case.formula.dough:
        return None
    what = (
        f"holds {g_text(case.accounts.block_g, '.0f')} and no fat"
        if case.formula.block
        else "is empty"
    )
    return Opinion(
        "block_without_fat",
        "wrong",
        "Nothing to enclose",
        f"The turn line says “{enclosure.value}”, but the fat block {what}. "
        "Add a fat to it, or start the turn line with “none”.",
        "calc",
    )


def fat_cannot_be_enclosed(case: RuleInput) -> Opinion | None:
    """Say that a liquid fat stands in the fat block."""
    found = lines_of(case, Part.BLOCK, lambda m: m.is_fat and m.enclose_c is None)
    if not found:
        return None
    index, _ = found[0]
    line = case.formula.block[index]
    name = case.pantry[line.material].name
    moved = case.formula.with_lines(
        Part.BLOCK, tuple(n for i, n in enumerate(case.formula.block) if i != index)
    ).with_lines(Part.DOUGH, (*case.formula.dough, replace(line, note="in the dough")))
    return Opinion(
        "fat_cannot_be_enclosed",
        "wrong",
        f"{name} cannot be enclosed",
        (
            f"The {g_text(line.grams, '.0f')} of it in the block is liquid at any bakery "
            "temperature and would run out; it can only go into the dough."
        ),
        "trade",
        Action("Move it to the dough", moved),
    )


def salt_twice(case: RuleInput) -> Opinion | None:
    """Say that salted fat brings salt that was also weighed."""
    flour = case.accounts.flour_g
    if flour <= 0:
        return None
    hidden = 100 * case.accounts.salt_hidden_g / flour
    added = 100 * case.accounts.salt_added_g / flour
    band = case.school.bands["salt_pct"]
    middle = (band.low + band.high) / 2
    little = hidden + added <= middle + SALT_WORTH_PCT
    if hidden < LEAST_HIDDEN_SALT_PCT or added <= 0 or little:
        return None
    found = [
        (part, i, grams)
        for part in IN_THE_PASTE
        for i, grams in lines_of(case, part, lambda m: m.group == "salt" and m.composition.salt > 0)
    ]
    if not found:
        return None
    part, index, grams = max(found, key=lambda each: each[2])
    strength = case.pantry[case.formula.lines(part)[index].material].composition.salt
    out = min(grams, (hidden + added - middle) / 100 * flour / strength)
    out = float(round(out, 0 if out >= 10 else 1))
    if out < 0.1:
        return None
    left = max(0.0, round(grams - out, 1))
    return Opinion(
        "salt_twice",
        "look",
        "Salt added twice",
        (
            f"The fat and other ingredients bring {num(hidden, '.1f')} % on flour and you add "
            f"{num(added, '.1f')} %, making {num(hidden + added, '.1f')} % in all; "
            f"{num(band.low)} to {num(band.high)} % is usual."
        ),
        "calc",
        Action(f"Remove {g_text(out, '.3g')}", with_grams(case.formula, part, index, left)),
    )


def salt_out_of_school(case: RuleInput) -> Opinion | None:
    """Say that salt from all sources is outside the usual range."""
    band, salt = case.school.bands["salt_pct"], case.readings.salt_pct
    if salt is None or usual(salt, band) or case.accounts.paste_g <= 0:
        return None
    less = salt < band.low
    return Opinion(
        "salt_out_of_school",
        "look",
        "Low in salt" if less else "High in salt",
        f"{num(salt, '.1f')} % on flour from all sources; {num(band.low)} to {num(band.high)} % "
        "is usual.",
        band.standing,
    )


def water_out_of_school(case: RuleInput) -> Opinion | None:
    """Say that dough water is outside the school's range."""
    band, water = case.school.bands["dough_water_pct"], case.readings.dough_water_pct
    if water is None or usual(water, band) or not case.formula.block:
        return None
    dry = water < band.low
    kind = main_liquid(case.formula, case.pantry)
    of = "" if kind == "water" else f", from {kind}"
    what = (
        "A drier dough cracks at the edges and tears over the fat."
        if dry
        else "A wetter dough sticks, takes up dusting flour and lets the leaves run together."
    )
    return Opinion(
        "water_out_of_school",
        "look",
        "The dough is dry" if dry else "The dough is wet",
        f"Dough water is {water:.0f} % on the flour in the dough{of}; {band.low:.0f} to "
        f"{band.high:.0f} % is usual for {case.school.name}{of and f' ({band.words})'}. "
        f"{what}",
        band.standing,
        to_water(case, band.low if dry else band.high),
    )


def fat_out_of_school(case: RuleInput) -> Opinion | None:
    """Say that fat on flour lies outside the school's range."""
    band, fat = case.school.bands["fat_product_pct"], case.readings.fat_product_pct
    if fat is None or usual(fat, band) or case.accounts.enclosed_fat_g <= 0:
        return None
    return Opinion(
        "fat_out_of_school",
        "look",
        "Lean for its kind" if fat < band.low else "Rich for its kind",
        f"{fat:.0f} % fat on flour; {num(band.low)} to {num(band.high)} % is usual for "
        f"{case.school.name}.",
        band.standing,
        to_fat(case, band.low if fat < band.low else band.high),
    )


MOST_ACID_PCT = 0.36
"""Acid as acetic: 4 % of flour of vinegar at 9 % [% on flour], common practice."""


def acid_much(case: RuleInput) -> Opinion | None:
    """Say that there is more acid than relaxes the dough."""
    acid = case.readings.acid_pct
    if acid is None or acid <= MOST_ACID_PCT:
        return None
    found = lines_of(case, Part.DOUGH, lambda m: m.group == "acid" and m.composition.acid > 0)
    action = None
    if found:
        index, grams = max(found, key=lambda each: each[1])
        wanted = float(round(grams * 0.5 * MOST_ACID_PCT / acid, 1))
        if wanted > 0:
            action = Action(
                f"Bring it to {g_text(wanted)}", with_grams(case.formula, Part.DOUGH, index, wanted)
            )
    return Opinion(
        "acid_much",
        "look",
        "A lot of acid",
        (
            f"{num(acid, '.2g')} % on flour, as acetic acid. Usual is vinegar of 5 to 9 % at "
            f"1 to 4 % of flour, which is at most {num(MOST_ACID_PCT)} % acid; more can be "
            "tasted and weakens the dough."
        ),
        "trade",
        action,
    )


MOST_SUGAR_PCT = 4.0
"""Sugar in the dough [% on flour], common practice."""


def sugar_much(case: RuleInput) -> Opinion | None:
    """Say that the dough is sweet enough to brown before it is dry."""
    found = lines_of(case, Part.DOUGH, lambda m: m.group == "sugar")
    sugar = case.readings.sugar_added_pct
    if sugar is None or not found or sugar <= MOST_SUGAR_PCT + 0.05:
        return None
    index, grams = max(found, key=lambda each: each[1])
    wanted = round(grams * MOST_SUGAR_PCT / sugar, 1)
    return Opinion(
        "sugar_much",
        "look",
        "A sweet dough",
        (
            f"{num(sugar, '.1f')} % added sugar on flour; 0 to {num(MOST_SUGAR_PCT)} % is "
            "usual. A sweeter dough browns before it is dry and goes soft when kept; "
            "sprinkle sugar between the folds instead."
        ),
        "trade",
        Action(
            f"Bring it to {g_text(wanted)}", with_grams(case.formula, Part.DOUGH, index, wanted)
        ),
    )


MOST_DUSTING_PCT = 6.0
"""Dusting flour by the end [% on flour], recalled."""


def dusting_much(case: RuleInput) -> Opinion | None:
    """Say that much dusting flour is planned."""
    flour = case.accounts.flour_g
    found = lines_of(case, Part.DUSTING, lambda _: True)
    percent = 100 * sum(grams for _, grams in found) / flour if flour > 0 else 0.0
    if percent <= MOST_DUSTING_PCT + 0.05:
        return None
    index, grams = max(found, key=lambda each: each[1])
    wanted = float(round(grams * 4 / percent))
    return Opinion(
        "dusting_much",
        "look",
        "A lot of dusting flour",
        f"{percent:.0f} % on flour; 2 to {num(MOST_DUSTING_PCT)} % is used in practice. It "
        "stiffens "
        "the paste and dries the seams; brush every trace off before folding.",
        "memory",
        Action(f"Allow {g_text(wanted)}", with_grams(case.formula, Part.DUSTING, index, wanted)),
    )


WEAK_PROTEIN_PCT, STRONG_PROTEIN_PCT = 9.0, 13.2
"""Protein of wheat flour below and above which many turns are felt [%], recalled."""


def flour_strength(case: RuleInput) -> Opinion | None:
    """Say what a very weak or very strong flour costs over many turns."""
    protein = case.readings.flour_protein_pct
    turns = len(case.plan.turns)
    wheat = [line for line in case.formula.dough if case.pantry[line.material].has_gluten]
    if protein is None or not wheat or turns < 4 or case.school.key == "gluten_free":
        return None
    if WEAK_PROTEIN_PCT <= protein <= STRONG_PROTEIN_PCT:
        return None
    weak = protein < WEAK_PROTEIN_PCT
    what = (
        "a weak dough bakes tender but tears over the fat. Opinions differ; blend in some strong "
        "flour, or keep it and handle it gently."
        if weak
        else "a strong dough stretches without tearing but pulls back and bakes tough. Opinions "
        "differ; rest it longer, blend in some weak flour, or keep it and allow for that."
    )
    return Opinion(
        "flour_strength",
        "look",
        "Weak flour, many turns" if weak else "Very strong flour",
        f"The flour has {num(protein, '.1f')} % protein and there are {turns} turns: {what}",
        "trade",
    )


MOISTURE_WORTH_PCT = 0.7
"""A measured moisture this far from the basis changes the water [% of flour], our choice."""


def flour_moisture(case: RuleInput) -> Opinion | None:
    """Say that the measured flour is drier or damper than the basis, and what water makes good."""
    measured = case.formula.flour_moisture_pct
    flour, water = case.accounts.dough_flour_g, case.readings.dough_water_14_pct
    lines = lines_of(case, Part.DOUGH, lambda m: m.is_water)
    if measured is None or flour <= 0 or water is None or not lines:
        return None
    usual_water = case.readings.dough_water_pct or 0.0
    difference = FLOUR_BASIS * 100 - measured
    if abs(difference) < MOISTURE_WORTH_PCT:
        return None
    index, grams = lines[0]
    dry_as_wanted = flour * (1 - FLOUR_BASIS)
    dry = flour * (1 - measured / 100)
    change = round(
        (dry / dry_as_wanted) * (1 + usual_water / 100) * flour - (1 + usual_water / 100) * flour
    )
    if change == 0 or grams + change <= 0 or "flour at 14 %" in case.formula.dough[index].note:
        return None
    lines_now = list(case.formula.dough)
    lines_now[index] = replace(
        lines_now[index], grams=grams + change, typed="", note="adjusted to flour at 14 %"
    )
    way = "Add" if change > 0 else "Remove"
    return Opinion(
        "flour_moisture",
        "look",
        "Dry flour" if change > 0 else "Damp flour",
        (
            f"The flour’s moisture was measured at {num(measured)} %; formulas are compared "
            f"at {num(100 * FLOUR_BASIS)} %. On that basis the dough water is "
            f"{num(water, '.1f')} %, not {num(usual_water, '.1f')} %."
        ),
        "std",
        Action(
            f"{way} {g_text(abs(change))} water",
            case.formula.with_lines(Part.DOUGH, tuple(lines_now)),
        ),
    )


def dough_cannot_be_cooled(case: RuleInput) -> Opinion | None:
    """Say that even ice does not bring the dough to the wanted temperature."""
    water = case.water
    if water is None or water.reached or case.accounts.flour_g <= 0:
        return None
    wanted = case.formula.dough_c
    cold = water.dough_c > wanted
    reach = float(math.ceil(water.dough_c) if cold else math.floor(water.dough_c))
    do = "Chill the flour, or aim higher." if cold else "Warm the flour, or aim lower."
    return Opinion(
        "dough_cannot_be_cooled",
        "look",
        "Ice alone will not cool the dough enough"
        if cold
        else "Water alone will not warm the dough enough",
        f"With flour at {celsius_text(case.house.flour_c)} the dough cannot get "
        f"{'below' if cold else 'above'} {celsius_text(water.dough_c, '.1f')}; you want "
        f"{celsius_text(wanted)}. {do}",
        "calc",
        Action(f"Aim at {celsius_text(reach)}", replace(case.formula, dough_c=reach)),
    )


def wash_on_cut_faces(case: RuleInput) -> Opinion | None:
    """Remind that egg or milk goes on top only."""
    lines, first = list(case.formula.finish), None
    for i, line in enumerate(case.formula.finish):
        material = case.pantry[line.material]
        brushed = material.group in ("egg", "liquid") and not material.is_water
        if line.grams > 0 and brushed and "top" not in line.note:
            lines[i] = noted(line, "tops only")
            first = first or (material.name, line.grams)
    if first is None:
        return None
    name, grams = first
    return Opinion(
        "wash_on_cut_faces",
        "look",
        f"{name}: brush the tops only",
        (
            f"{g_text(grams, '.0f')} is brushed on at the end: on cut edges it glues the "
            "leaves together and they do not open. The line has no note to say so."
        ),
        "trade",
        Action("Note “tops only”", case.formula.with_lines(Part.FINISH, tuple(lines))),
    )
