"""Opinions on how the folds are worked: borders, dough over the fat, ways of rolling, seams."""

import math

from msgspec.structs import replace

from aplomb.core.base.figures import cm_text, mm_range, mm_text, num
from aplomb.core.folds.plan import Enclosure
from aplomb.core.folds.step import Way
from aplomb.core.folds.windings import windings
from aplomb.core.opinion.case import RuleInput, with_plan
from aplomb.core.opinion.opinion import Action, Opinion

THINNEST_DOUGH_MM, TORN_DOUGH_MM = 4.0, 2.0
"""Dough over the fat below which it is in danger, and below which it tears [mm], recalled."""

USUAL_DOUGH_MM = 6.0
"""Dough over the fat that is offered instead [mm], recalled."""

MOST_ONE_WAY = 6.0
"""How much further paste may be stretched one way than the other [-], our choice: one turn more
that way is a factor of three or four, and usual."""

MOST_BORDER_SHARE, USUAL_BORDER_MM = 0.12, 8.0
"""Share of a block that border and trims may take [-], our choice; a usual border [mm], 5 to 10 by
common practice."""

LOOSE_FLAP_MM = 5.0
"""Gap at which flaps are worth a word [mm], our choice."""

FEWEST_WINDINGS = 5.0
"""Windings from which a log looks like a coil [-], our choice."""


def dough_thin_over_fat(case: RuleInput) -> Opinion | None:
    """Say that the dough is too thin to go round the fat."""
    how = case.enclosing
    if how is None or how.fat is None or how.shape not in ("envelope", "cross", "thirds", "halves"):
        return None
    high = how.dough.height_mm
    if not 0 < high < THINNEST_DOUGH_MM:
        return None
    torn = high < TORN_DOUGH_MM
    flap = high / 4 if how.shape == "cross" else high
    thick = min(100.0, how.fat.height_mm * USUAL_DOUGH_MM / high)
    return Opinion(
        "dough_thin_over_fat",
        "wrong" if torn else "look",
        "The dough will not go round the fat" if torn else "Thin dough over the fat",
        (
            f"The dough round {mm_text(how.fat.height_mm)} of fat is only "
            f"{mm_text(flap, '.1f')} thick and tears where it folds. A thicker, smaller fat "
            "block leaves more dough round it."
        ),
        "memory",
        Action(
            f"Make the fat block {mm_text(thick, '.0f')}",
            replace(
                case.formula, fat_block_mm=float(round(thick)), fat_length_mm=0.0, fat_width_mm=0.0
            ),
        ),
        0,
    )


def shrinks_one_way(case: RuleInput) -> Opinion | None:
    """Say that the turns stretch the paste much further one way than the other."""
    how = case.enclosing
    if how is None or not case.sizes or case.accounts.enclosed_fat_g <= 0:
        return None
    stretched = [0.0, 0.0]
    before = how.done
    for i, (step, size) in enumerate(zip(case.plan.turns, case.sizes, strict=True)):
        if step.way in (Way.ROLL, Way.QUARTER):
            return None
        stretched[i % 2] += math.log(size.sheet.length_mm / before.width_mm)
        stretched[1 - i % 2] += math.log(size.sheet.width_mm / before.length_mm)
        before = size.block
    apart = math.exp(abs(stretched[0] - stretched[1]))
    if apart <= MOST_ONE_WAY:
        return None
    turns = ", ".join(str(step.panels) for step in case.plan.turns)
    return Opinion(
        "shrinks_one_way",
        "look",
        "Stretched one way",
        (
            f"The turns ({turns}) stretch the paste {apart:.0f} times further one way than "
            "the other, and in the oven it shrinks back that way, so rounds come out oval. "
            "To even this out, pair turns of the same size, or roll the final sheet the "
            "other way."
        ),
        "calc",
    )


def seams_in_the_bend(case: RuleInput) -> Opinion | None:
    """Say that doubles with a gap are closed where the gap lies in the bend each time."""
    gap = case.formula.working.misfold_mm
    doubles = [
        i
        for i, s in enumerate(case.plan.steps)
        if s.way is Way.FOLD and s.panels == 4 and not s.off_centre
    ]
    if gap < LOOSE_FLAP_MM or len(doubles) < 2:
        return None
    steps = tuple(
        replace(step, off_centre=True) if i in doubles else step
        for i, step in enumerate(case.plan.steps)
    )
    return Opinion(
        "seams_in_the_bend",
        "look",
        "Seams in the bend",
        (
            f"Flaps are {mm_text(gap)} short, and {len(doubles)} doubles close in the middle: "
            "each gap is in the bend, where half the leaves end. Let the ends meet off "
            "centre, so that the gap lies on the flat."
        ),
        "trade",
        Action("Close them off centre", with_plan(case.formula, replace(case.plan, steps=steps))),
        doubles[0] + 1,
    )


def border_eats_yield(case: RuleInput) -> Opinion | None:
    """Say that bare border and trims take much of the block."""
    how, working = case.enclosing, case.formula.working
    if how is None or how.shape in ("plain", "pieces", "coil"):
        return None
    done = how.done
    free = (done.length_mm - how.open_ends * working.border_mm) * (
        done.width_mm - 2 * working.border_mm
    )
    border = 1 - max(0.0, free) / (done.length_mm * done.width_mm)
    kept = 1.0
    for trim in case.worked.trims:
        kept *= (1 - 2 * trim.along) * (1 - 2 * trim.across)
    share = 1 - (1 - border) * kept
    if share <= MOST_BORDER_SHARE:
        return None
    action = None
    if working.border_mm > USUAL_BORDER_MM:
        narrow = replace(working, border_mm=USUAL_BORDER_MM)
        action = Action(
            f"Leave {mm_text(USUAL_BORDER_MM)} of border", replace(case.formula, working=narrow)
        )
    return Opinion(
        "border_eats_yield",
        "look",
        "The border costs yield",
        (
            f"A bare border of {mm_text(working.border_mm)} and trims during folding make up "
            f"{100 * share:.0f} % of the block and end as scrap. {mm_range(5, 10)} of border "
            "is enough to seal."
        ),
        "calc",
        action,
        0,
    )


def hardly_a_coil(case: RuleInput) -> Opinion | None:
    """Say that a coil has few windings."""
    how = case.enclosing
    if case.plan.enclosure is not Enclosure.COIL or how is None or how.shape != "coil":
        return None
    thick = case.formula.working.coil_mm
    many = windings(how.dough.length_mm, thick)
    if many >= FEWEST_WINDINGS:
        return None
    thin = max(0.3, math.floor(10 * thick * (many / (1.2 * FEWEST_WINDINGS)) ** (4 / 3)) / 10)
    return Opinion(
        "hardly_a_coil",
        "look",
        "Few windings",
        (
            f"A sheet {cm_text(how.dough.length_mm)} long and {mm_text(thick)} thick goes "
            f"round only {num(many, '.1f')} times. A thinner sheet is longer and gives more "
            "leaves."
        ),
        "calc",
        Action(
            f"Roll it {mm_text(thin)} thick",
            replace(case.formula, working=replace(case.formula.working, coil_mm=thin)),
        ),
        0,
    )
