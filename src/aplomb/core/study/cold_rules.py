"""The second opinion of the cold: rules that need the heat worked out, so they come later."""

import math
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.figures import celsius_range, celsius_text, mm_text, num
from aplomb.core.base.house import House
from aplomb.core.cold.readiness import after
from aplomb.core.folds.step import Step, Way
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.bodies import Bodies, bodies_of
from aplomb.core.paste.formula import Part
from aplomb.core.paste.ingredient import Standing
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.cold import TURN_MIN, RestResult, cold_of, out_limit, places_beside
from aplomb.core.study.study import Study

if TYPE_CHECKING:
    from aplomb.core.folds.plan import Plan

NIGHT_FROM_MIN = 240.0
"""A rest of so long is a night: it is hard then, and meant so [min], common practice."""
APART_K = 3.0
"""Dough and fat that differ by more than this are not equally firm [K], recalled."""
SUGAR_MOST_MIN = 20.0
"""Sugar between the folds draws water and weeps after so long [min], common practice."""


class ColdInput(Struct, frozen=True):
    """All that a rule of the cold looks at."""

    study: Study
    pantry: Pantry
    house: House
    bodies: Bodies
    rests: tuple[RestResult, ...]
    range_c: tuple[float, float]

    @property
    def between(self) -> tuple[RestResult, ...]:
        """The rests of the paste itself, up to the last where one follows another."""
        return tuple(e for e in self.rests if e.rest.of == "paste" and not e.rest.goes_on)


class ColdRule(Struct, frozen=True):
    """A rule, and where it comes from."""

    judge: Callable[[ColdInput], Opinion | None]
    origin: Standing

    @property
    def key(self) -> str:
        """Name of the rule; dismissing is remembered by it."""
        return str(getattr(self.judge, "__name__", ""))

    @property
    def words(self) -> str:
        """What it looks at: the first line of the function's docstring."""
        return (self.judge.__doc__ or "").split("\n\n")[0].strip()


def _with(case: ColdInput, found: RestResult, steps: Sequence[Step], label: str) -> Action:
    """Offer a plan with other steps in a rest's place."""
    plan: Plan = case.study.plan
    at = found.rest.at
    changed = replace(plan, steps=(*plan.steps[:at], *steps, *plan.steps[at + 1 :]))
    return Action(label, replace(case.study.formula, turn_line=changed.line()))


def _rounded(minutes: float) -> float:
    """Up to the next five minutes."""
    return 5.0 * math.ceil(minutes / 5 - 1e-9)


def _thick(mm: float) -> str:
    return mm_text(mm, ".0f" if mm >= 10 else ".1f")


def _block(found: RestResult) -> str:
    place = found.rest.place.name
    return (
        f"{_thick(found.rest.thickness_mm)} from {celsius_text(found.rest.start_c, '.0f')}, {place}"
    )


def rest_too_short(case: ColdInput) -> Opinion | None:
    """Say that a rest is too short for this block to be ready."""
    for found in case.between:
        written, start = found.rest.step.rest_min, found.ready.start
        if written is None or start.low is None or start.usual is None or written >= start.low - 1:
            continue
        wanted = _rounded(start.usual)
        step = replace(found.rest.step, rest_min=wanted)
        if step.most_min is not None and step.most_min < wanted:
            step = replace(step, most_min=None)
        return Opinion(
            "rest_too_short",
            "look",
            f"{num(written)} min is too short for this block",
            (
                f"{_block(found)}: no part is warmer than "
                f"{celsius_text(case.range_c[1], '.0f')} from {num(start.usual, '.0f')} min "
                f"on ({num(start.low, '.0f')} at the earliest). If you roll sooner, the fat "
                "smears."
            ),
            "calc",
            _with(case, found, [step], f"Rest {num(wanted)} min"),
            found.rest.at + 1,
        )
    return None


def rest_too_long(case: ColdInput) -> Opinion | None:
    """Say that a block is too hard to be rolled at once after its rest."""
    for found in case.between:
        written, end = found.rest.step.rest_min, found.ready.end
        if written is None or end.usual is None or found.ready.lasts or found.ready.never:
            continue
        most = end.high if end.high is not None else end.usual
        if written <= max(most, end.usual) + 1 or written >= NIGHT_FROM_MIN:
            continue
        if found.rest.place.kind in ("freezer", "blast"):
            continue
        middle = (found.ready.start.usual or 0.0) + end.usual
        wanted = max(20.0, 5.0 * round(middle / 10))
        step = replace(found.rest.step, rest_min=wanted, most_min=None)
        return Opinion(
            "rest_too_long",
            "look",
            f"Hard after {num(written)} min",
            (
                f"{_block(found)}: the skin is colder than "
                f"{celsius_text(case.range_c[0], '.0f')} after {num(end.usual, '.0f')} min. "
                "Let it stand for 10 to 20 min before you roll it, or the fat breaks."
            ),
            "calc",
            _with(case, found, [step], f"Rest {num(wanted)} min"),
            found.rest.at + 1,
        )
    return None


def freezer_beyond_window(case: ColdInput) -> Opinion | None:
    """Say that a rest in the freezer misses the time at which the block is ready."""
    for found in case.between:
        rest, ready = found.rest, found.ready
        if rest.place.kind not in ("freezer", "blast"):
            continue
        written, end = rest.step.rest_min, ready.end.usual
        if not ready.never and (written is None or end is None or written <= end):
            continue
        if rest.step.rest_min is not None and rest.step.rest_min >= NIGHT_FROM_MIN:
            continue  # frozen on purpose
        action = None
        why = (
            (
                f"the skin is at {celsius_text(ready.coldest_c, '.0f')} when the middle "
                f"reaches {celsius_text(case.range_c[1], '.0f')}"
            )
            if ready.never
            else (
                f"the block is ready only from {num(ready.start.usual or 0, '.0f')} to "
                f"{num(end or 0, '.0f')} min"
            )
        )
        way = found.instead
        if way is not None:
            first = Step(Way.REST, rest_min=way.first_min, place="freezer")
            then = Step(Way.REST, rest_min=_rounded(way.start_min - way.first_min))
            label = f"{num(way.first_min)} min in the freezer, then fridge"
            action = _with(case, found, [first, then], label)
        elif not ready.never and ready.start.usual is not None:
            wanted = float(round(ready.start.usual))
            step = replace(rest.step, rest_min=wanted, most_min=None)
            action = _with(case, found, [step], f"Rest {num(wanted)} min")
        return Opinion(
            "freezer_beyond_window",
            "look",
            "The freezer is too quick for this block",
            f"{_block(found)}: {why}.",
            "calc",
            action,
            rest.at + 1,
        )
    return None


def bodies_unequally_firm(case: ColdInput) -> Opinion | None:
    """Say that dough and fat are not equally firm when they meet."""
    by_kind = {each.rest.of: each for each in case.rests}
    dough, fat = by_kind.get("dough"), by_kind.get("fat")
    if dough is None or fat is None:
        return None
    a, b = dough.rest.step.rest_min, fat.rest.step.rest_min
    if a is None or b is None:
        return None
    low, high = case.range_c
    one = after(dough.ready.course, a, low, high)
    other = after(fat.ready.course, b, low, high)
    if abs(one.mean_c - other.mean_c) <= APART_K and other.verdict in ("ready", "soft"):
        return None
    changed = replace(
        case.study.plan,
        dough_rest=replace(dough.rest.step, rest_min=None, most_min=None),
        fat_rest=replace(fat.rest.step, rest_min=None, most_min=None),
    )
    return Opinion(
        "bodies_unequally_firm",
        "look",
        "Dough and fat are not equally firm",
        (
            f"After {num(a)} and {num(b)} min the dough averages "
            f"{celsius_text(one.mean_c, '.0f')} and the fat "
            f"{celsius_text(other.mean_c, '.0f')}; the fat is enclosed at "
            f"{celsius_range(low, high, spec='.0f')}. The harder of the two tears the other."
        ),
        "calc",
        Action("Rest both as calculated", replace(case.study.formula, turn_line=changed.line())),
        0,
    )


def out_too_long(case: ColdInput) -> Opinion | None:
    """Say that turns without a rest keep the paste out for too long in this room."""
    material, (low, high) = case.bodies.paste, case.range_c
    place = next((p for p in case.house.places if p.kind == "room"), None)
    if material is None or place is None or case.study.in_pieces:
        return None
    run, worst, sheets = 0, 0, iter(case.study.worked.turns)
    thinnest = math.inf
    for step in case.study.plan.steps:
        run = run + 1 if step.is_turn else 0 if step.way is Way.REST else run
        worst = max(worst, run)
        if step.is_turn:
            size = next(sheets, None)
            if size is not None:  # it lies as a block, as a sheet and as a block again
                mean = math.sqrt(size.sheet.height_mm * size.block.height_mm)
                thinnest = min(thinnest, mean)
    if not worst or not math.isfinite(thinnest):
        return None
    minutes = worst * TURN_MIN
    out = out_limit(material, round(thinnest, 1), low, place, case.house, high, worst)
    if out.minutes.usual is None or out.minutes.high is None or minutes <= out.minutes.high:
        return None
    many = "One turn takes" if worst == 1 else f"{worst} turns take"
    return Opinion(
        "out_too_long",
        "look",
        "Out too long for this room",
        f"{many} about {num(minutes)} min per block; paste {mm_text(thinnest)} thick on average, "
        f"at {celsius_text(case.house.temp_in(place), '.0f')} on {place.under}, reaches "
        f"{celsius_text(high, '.0f')} after {num(out.minutes.usual, '.0f')} min. Rest after each "
        "turn, chill the flour and bench, or roll on stone to gain time.",
        "calc",
    )


def no_place_is_right(case: ColdInput) -> Opinion | None:
    """Say that no cold place of the house ever makes the block ready."""
    for found in case.between:
        ways = places_beside(found.rest, case.bodies, case.house)
        if not ways or any(not ready.never for _, ready in ways) or found.instead is not None:
            continue
        return Opinion(
            "no_place_is_right",
            "wrong",
            "No place here makes this paste ready",
            (
                f"A block {_thick(found.rest.thickness_mm)} thick never reaches "
                f"{celsius_range(*case.range_c, spec='.0f')} all the way through in "
                f"{', '.join((place.name for place, _ in ways))}. Use another fat, a thinner "
                "block or another temperature."
            ),
            "calc",
            None,
            found.rest.at + 1,
        )
    return None


def sugar_waits_for_cold(case: ColdInput) -> Opinion | None:
    """Say that the cold a block needs is longer than sugar between the folds bears."""
    formula = case.study.formula
    sweet = [
        line.turn or len(case.study.plan.turns)
        for line in formula.lines(Part.BETWEEN)
        if line.grams > 0 and case.pantry[line.material].composition.sugar > 0.5
    ]
    if not sweet:
        return None
    for found in case.between:
        turns = sum(step.is_turn for step in case.study.plan.steps[: found.rest.at])
        if turns < min(sweet) or found.rest.step.rest_min is not None:
            continue
        if found.least_min > SUGAR_MOST_MIN:
            return Opinion(
                "sugar_waits_for_cold",
                "look",
                "Sugar waits too long in this rest",
                (
                    f"The block needs {num(found.least_min, '.0f')} min; with sugar in it, "
                    f"{num(SUGAR_MOST_MIN)} min is the limit. Make thinner blocks, or use the "
                    "freezer for a shorter time."
                ),
                "trade",
                None,
                found.rest.at + 1,
            )
    return None


def shaped_pieces_warm(case: ColdInput) -> Opinion | None:
    """Say that shaped pieces stand warm before the oven."""
    rest = case.study.plan.shaped_rest
    found = next((each for each in case.rests if each.rest.of == "shaped"), None)
    if rest is None or found is None or found.rest.place.is_cold:
        return None
    changed = replace(case.study.plan, shaped_rest=replace(rest, place=""))
    warm = case.house.temp_in(found.rest.place)
    return Opinion(
        "shaped_pieces_warm",
        "look",
        "Shaped pieces wait in the warm before baking",
        (
            f"At {celsius_text(warm, '.0f')} they are as warm as the room within minutes, and "
            "the fat runs before the leaves set. Bake them straight from the cold in a hot "
            "oven."
        ),
        "trade",
        Action("Chill them in the fridge", replace(case.study.formula, turn_line=changed.line())),
    )


COLD_RULES: tuple[ColdRule, ...] = (
    ColdRule(no_place_is_right, "calc"),
    ColdRule(freezer_beyond_window, "calc"),
    ColdRule(rest_too_short, "calc"),
    ColdRule(rest_too_long, "calc"),
    ColdRule(bodies_unequally_firm, "calc"),
    ColdRule(out_too_long, "calc"),
    ColdRule(sugar_waits_for_cold, "trade"),
    ColdRule(shaped_pieces_warm, "trade"),
)
"""Every rule of the cold, the weightier first."""


def listed() -> list[tuple[str, str, Standing]]:
    """Give key, words and origin of every rule, for the page that lists them."""
    return [(rule.key, " ".join(rule.words.split()), rule.origin) for rule in COLD_RULES]


def cold_opinions(study: Study, pantry: Pantry, house: House) -> tuple[Opinion, ...]:
    """Ask every rule of the cold.

    Empty without a fat whose range is known.
    """
    bodies = bodies_of(study.formula, pantry)
    if bodies.range_c is None or bodies.paste is None:
        return ()
    found = cold_of(study, pantry, house)
    case = ColdInput(study, pantry, house, bodies, found, bodies.range_c)
    told = [opinion for rule in COLD_RULES if (opinion := rule.judge(case)) is not None]
    return tuple(sorted(told, key=lambda opinion: opinion.mark != "wrong"))
