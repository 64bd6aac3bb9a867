"""The cold of one formula: every rest of its plan, and what it would do to this block."""

from collections.abc import Sequence
from functools import lru_cache
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.house import House
from aplomb.core.base.places import Place
from aplomb.core.cold.course import Body
from aplomb.core.cold.material import Mixture
from aplomb.core.cold.readiness import (
    After,
    FirstCold,
    Out,
    Ready,
    after,
    bends_at,
    first_then,
    out_of_cold,
    ready,
)
from aplomb.core.cold.readiness import Band as TimeBand
from aplomb.core.cold.stay import DAY_MIN, Stay, slab_is_enough
from aplomb.core.folds.boxes import Box
from aplomb.core.folds.step import Step, Way
from aplomb.core.paste.bodies import Bodies, bodies_of
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.study import Study

RestOf = Literal["dough", "fat", "paste", "shaped"]
DOUGH_MM = 40.0
"""How thick a dough is pressed to rest by itself [mm], common practice."""
RELAX_MIN = 20.0
"""What a dough wants to draw back less, however cold it is [min], common practice."""
MIXED_FAT_C = 18.0
"""At which a fat block is pressed, between fridge and shop [°C], recalled."""
TURN_MIN, SHAPE_MIN = 5.0, 15.0
"""Hands' time of one turn of one block, and of cutting its pieces [min], common practice."""


class Rest(Struct, frozen=True):
    """A rest of a formula's plan.

    Attributes
    ----------
    after : int
        Steps of the plan done before it: 0 right after the enclosing, -1 before it.
    at : int
        Its place in the plan's steps; -1 for a rest that is none of them.
    step : Step
        As written, or as it is taken where nothing is written.
    thickness_mm : float
        Of what rests [mm].
    start_c : float
        Throughout, as it comes to rest [°C].
    width_mm, length_mm : float
        Of what rests [mm]; 0 where they are not known.
    before : tuple of Stay
        Where it lay just before, when one rest follows another: first freezer, then fridge.
    goes_on : bool
        True when another rest follows at once.
    """

    of: RestOf
    after: int
    at: int
    step: Step
    place: Place
    thickness_mm: float
    start_c: float
    width_mm: float = 0.0
    length_mm: float = 0.0
    before: tuple[Stay, ...] = ()
    goes_on: bool = False

    @property
    def is_small(self) -> bool:
        """True when its narrow sides count: it cools on all six faces."""
        if not (self.width_mm and self.length_mm):
            return False
        return not slab_is_enough(self.thickness_mm, self.width_mm, self.length_mm)

    @property
    def lain_min(self) -> float:
        """How long it has lain before [min]."""
        return sum(stay.minutes for stay in self.before)


class RestResult(Struct, frozen=True):
    """What a rest would do.

    Attributes
    ----------
    done : After or None
        After the minutes that are written; None when none are.
    instead : FirstCold or None
        Freezer first and then the fridge, where the place itself never makes it ready.
    least_min, most_min : float
        From when to when it may go on [min]: as written, or worked out where nothing is.
    """

    rest: Rest
    ready: Ready
    done: After | None
    instead: FirstCold | None
    least_min: float
    most_min: float


def rest_of(rests: Sequence[RestResult], which: str, at: int = -1) -> RestResult | None:
    """Give what the cold says of a rest; None when it says nothing.

    Parameters
    ----------
    which : {'dough', 'fat', 'paste', 'shaped'}
        What rests.
    at : int
        Of the paste, its place among the plan's steps.
    """
    return next(
        (r for r in rests if r.rest.of == which and (which != "paste" or r.rest.at == at)), None
    )


USUAL_MOST_MIN = {"fridge": 120.0, "freezer": 30.0, "blast": 20.0, "room": 30.0, "oven": 10.0}
"""Most of a rest where nothing is worked out [min], common practice."""


def rest_place(step: Step, house: House) -> Place:
    """Give the place of a rest; the first fridge where the house has no such place."""
    found = house.place(step.place) or house.place("fridge")
    return found if found is not None else house.places[0]


def rests_of_plan(study: Study, house: House, range_c: tuple[float, float]) -> tuple[Rest, ...]:
    """Give every rest of a formula: those of dough and fat, those between the turns, the last ones.

    What rests after so many turns is as warm as the top of the range and what they warmed it.

    Parameters
    ----------
    range_c : tuple of two floats
        Where the fat is rolled [°C].
    """
    plan, how = study.plan, study.enclosing
    usual = Step(Way.REST)
    found = []
    if study.accounts.dough_g > 0:
        step = plan.dough_rest or usual
        found.append(
            Rest("dough", -1, -1, step, rest_place(step, house), DOUGH_MM, study.formula.dough_c)
        )
    if how is not None and how.fat is not None and how.fat.height_mm > 0 and not study.in_pieces:
        step = plan.fat_rest or usual
        warm = min(MIXED_FAT_C, house.shop_c)
        place, box = rest_place(step, house), how.fat
        found.append(
            Rest("fat", -1, -1, step, place, box.height_mm, warm, box.width_mm, box.length_mm)
        )
    turns = 0
    before: tuple[Stay, ...] = ()
    for i, step in enumerate(plan.steps):
        if step.way is not Way.REST:
            turns, before = turns + step.is_turn, ()
            continue
        block, place = study.block_after(i), rest_place(step, house)
        follows = plan.steps[i + 1].way is Way.REST if i + 1 < len(plan.steps) else False
        goes_on = follows and step.rest_min is not None
        if block is not None:
            warm = min(range_c[1] + turns * house.rolling_k, max(range_c[1], house.shop_c))
            found.append(
                Rest(
                    "paste",
                    i,
                    i,
                    step,
                    place,
                    block.height_mm,
                    warm,
                    block.width_mm,
                    block.length_mm,
                    before,
                    goes_on,
                )
            )
        before = (*before, Stay(place, step.rest_min or 0.0)) if goes_on else ()
        turns = turns if goes_on else 0
    if plan.shaped_rest is not None or plan.turns:
        step = plan.shaped_rest or usual
        done = len(plan.steps)
        sheet = study.formula.sheet_mm
        warm = min(range_c[1] + house.rolling_k, max(range_c[1], house.shop_c))
        found.append(Rest("shaped", done, -1, step, rest_place(step, house), sheet, warm))
    return tuple(found)


@lru_cache(maxsize=256)
def _ready(
    material: Mixture,
    thick_mm: float,
    start_c: float,
    place: Place,
    house: House,
    low_c: float,
    high_c: float,
    before: tuple[Stay, ...] = (),
    sides_mm: tuple[float, float] = (0.0, 0.0),
) -> Ready:
    stays = [*(stay for stay in before if stay.minutes > 0), Stay(place, DAY_MIN)]
    found = ready(Body(material, thick_mm, *sides_mm), start_c, stays, house, low_c, high_c)
    lain = sum(stay.minutes for stay in before)
    if not lain:
        return found
    return replace(found, start=_later(found.start, lain), end=_later(found.end, lain))


def _later(band: TimeBand, lain_min: float) -> TimeBand:
    """Count from the rest in hand, not from the one before it."""
    ends = (band.usual, band.low, band.high)
    return TimeBand(*(None if end is None else max(0.0, end - lain_min) for end in ends))


@lru_cache(maxsize=64)
def _instead(
    material: Mixture, thick_mm: float, start_c: float, house: House, low_c: float, high_c: float
) -> FirstCold | None:
    freezer, fridge = house.place("freezer"), house.place("fridge")
    if freezer is None or fridge is None:
        return None
    body = Body(material, thick_mm)
    return first_then(body, start_c, freezer, fridge, house, low_c, high_c)


@lru_cache(maxsize=128)
def out_limit(
    material: Mixture,
    thick_mm: float,
    start_c: float,
    place: Place,
    house: House,
    high_c: float,
    turns: int = 0,
) -> Out:
    """Work out how long a sheet may stay out; remembered, as `out_of_cold`.

    Parameters
    ----------
    thick_mm, start_c : float
        [mm], [°C].
    """
    return out_of_cold(Body(material, thick_mm), start_c, place, house, high_c, turns)


def bends_after(material: Mixture, box: Box, place: Place, house: House) -> TimeBand:
    """Work out how long a block from the freezer takes to bend; remembered, as `bends_at`.

    Parameters
    ----------
    box : Box
        The block: a small one thaws from its sides too.
    place : Place
        Where it thaws.

    Returns
    -------
    Band
        [min].
    """
    thick = round(box.height_mm, 1)
    sides = (0.0, 0.0)
    if not slab_is_enough(thick, box.width_mm, box.length_mm):
        sides = (10.0 * round(box.width_mm / 10 + 0.5), 10.0 * round(box.length_mm / 10 + 0.5))
    return _bends(material, thick, sides, place, house)


@lru_cache(maxsize=32)
def _bends(
    material: Mixture, thick_mm: float, sides_mm: tuple[float, float], place: Place, house: House
) -> TimeBand:
    freezer = house.place("freezer")
    start = house.temp_in(freezer) if freezer else -18.0
    return bends_at(Body(material, thick_mm, *sides_mm), start, place, house)


def material_of(rest: Rest, bodies: Bodies) -> Mixture | None:
    """Give what rests."""
    return {"dough": bodies.dough, "fat": bodies.fat}.get(rest.of, bodies.paste)


def _sides(rest: Rest) -> tuple[float, float]:
    """The sides of a small block, to the centimetre so that it is remembered; none for a slab."""
    if not rest.is_small:
        return 0.0, 0.0
    return 10.0 * round(rest.width_mm / 10 + 0.5), 10.0 * round(rest.length_mm / 10 + 0.5)


def rest_found(rest: Rest, bodies: Bodies, house: House) -> RestResult | None:
    """Work out what a rest would do.

    None without a material or a range.

    Parameters
    ----------
    bodies : Bodies
        With the range of the fat.
    """
    material, range_c = material_of(rest, bodies), bodies.range_c
    if material is None or range_c is None:
        return None
    low, high = range_c
    if rest.of == "dough":
        low -= 2.0  # a dough without leaves of fat bears to be a little colder
    thick = round(min(max(rest.thickness_mm, 1.0), 300.0), 1)
    found = _ready(
        material, thick, rest.start_c, rest.place, house, low, high, rest.before, _sides(rest)
    )
    written = rest.step.rest_min
    done = None
    if written is not None:
        done = after(found.course, rest.lain_min + written, low, high)
    instead = None
    if found.never and rest.of != "shaped" and rest.start_c > high:
        instead = _instead(material, thick, rest.start_c, house, low, high)
    least, most = _bounds(rest, found)
    return RestResult(rest, found, done, instead, least, most)


def _bounds(rest: Rest, found: Ready) -> tuple[float, float]:
    """From when to when a rest may go on [min]."""
    step = rest.step
    usual_most = USUAL_MOST_MIN[rest.place.kind]
    start = found.start.usual
    least = step.rest_min
    if least is None:
        least = RELAX_MIN if start is None or rest.of == "shaped" else max(RELAX_MIN, start)
        if rest.of == "fat":
            least = 10.0 if start is None else max(10.0, start)
    most = step.most_min
    if most is None:
        end = found.end.usual
        most = usual_most if end is None or found.lasts else end
        if rest.of == "shaped":
            most = usual_most
        # What is written counts: a rest is given some room, a night a long one.
        most = max(most, least + (30.0 if least < 240 else 360.0))
    return least, most


def places_beside(rest: Rest, bodies: Bodies, house: House) -> tuple[tuple[Place, Ready], ...]:
    """Work out the same rest in every cold place of the house, side by side.

    Returns
    -------
    tuple of (Place, Ready)
        Those of the house that are cold, in its order.
    """
    material, range_c = material_of(rest, bodies), bodies.range_c
    if material is None or range_c is None:
        return ()
    low, high = range_c
    low -= 2.0 if rest.of == "dough" else 0.0
    thick = round(min(max(rest.thickness_mm, 1.0), 300.0), 1)
    return tuple(
        (place, _ready(material, thick, rest.start_c, place, house, low, high, (), _sides(rest)))
        for place in house.places
        if place.is_cold
    )


def cold_of(study: Study, pantry: Pantry, house: House) -> tuple[RestResult, ...]:
    """Work out every rest of a formula.

    Empty without a fat whose range is known.
    """
    bodies = bodies_of(study.formula, pantry)
    if bodies.range_c is None:
        return ()
    found = [rest_found(r, bodies, house) for r in rests_of_plan(study, house, bodies.range_c)]
    return tuple(each for each in found if each is not None)
