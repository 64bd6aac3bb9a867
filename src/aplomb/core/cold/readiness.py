"""When a body from the cold can be worked, how long it may stay out, and what becomes of it."""

from typing import Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.house import House
from aplomb.core.base.places import Place
from aplomb.core.cold.course import Body, Course, crossing, ready_window
from aplomb.core.cold.stay import DAY_MIN, SPEEDS, Speed, Stay, follow


class Band(Struct, frozen=True):
    """A figure with the ends between which it is likely.

    Attributes
    ----------
    usual : float or None
        With the usual coefficient; None when it does not come.
    low, high : float or None
        The least and the most; a `high` of None: perhaps never.
    """

    usual: float | None
    low: float | None
    high: float | None


def _band(values: dict[Speed, float | None]) -> Band:
    there = [value for value in values.values() if value is not None]
    if not there:
        return Band(None, None, None)
    high = None if any(value is None for value in values.values()) else max(there)
    return Band(values["usual"], min(there), high)


def _courses(
    body: Body,
    start_c: float,
    stays: list[Stay],
    house: House,
    level_c: float,
    *,
    rough: bool = False,
) -> dict[Speed, Course]:
    """The three courses through the middle; of a box one is worked out whole.

    The quickest and the slowest of a box are those of a slab, in the time that the box takes of the
    slab's with the usual coefficient, until the middle comes to a level.
    """
    if not body.is_box:
        return {
            speed: through_middle(follow(body, start_c, stays, house, speed)) for speed in SPEEDS
        }
    slab = Body(body.material, body.thickness_mm)
    flat = {speed: through_middle(follow(slab, start_c, stays, house, speed)) for speed in SPEEDS}
    whole = through_middle(follow(body, start_c, stays, house, rough=rough))
    air_c = house.temp_in(stays[-1].place)
    if not min(start_c, air_c) < level_c < max(start_c, air_c):
        level_c = 0.5 * (start_c + air_c)
    one, other = (crossing(each.minutes, each.core, level_c) for each in (whole, flat["usual"]))
    shorter = one / other if one and other else 1.0
    found = {s: replace(each, minutes=each.minutes * shorter) for s, each in flat.items()}
    return {**found, "usual": whole}


class Ready(Struct, frozen=True):
    """When a body can be rolled in a place.

    Attributes
    ----------
    start : Band
        From when no part is warmer than the range [min].
    end : Band
        When the first part is colder than it; the end of the time that was looked at when nothing
        is [min].
    lasts : bool
        True when nothing ends it within that time.
    core_c, mean_c, skin_c : float or None
        At the usual start [°C]; None when there is none.
    warmest_left_c, coldest_c : float
        The warmest when the first part falls below the range, and the coldest part when the last
        one comes into it [°C]: by how much it is missed where there is no such moment.
    course : Course
        With the usual coefficient.
    """

    start: Band
    end: Band
    lasts: bool
    core_c: float | None
    mean_c: float | None
    skin_c: float | None
    warmest_left_c: float
    coldest_c: float
    course: Course

    @property
    def never(self) -> bool:
        """True when there is no such moment with the usual coefficient."""
        return self.start.usual is None


def through_middle(found: Course) -> Course:
    """Give a course whose warmest and coldest parts are those through the middle of the block.

    The corners of a block are colder than the range long before its middle is in it, and they go
    into the trim: what is rolled is judged through the middle.

    Notes
    -----
    In a slab the middle line is all there is; in a box it is the line through the centre of the two
    large faces, where the heat of the narrow sides comes last.
    """
    return Course(
        found.minutes,
        found.core,
        found.mean,
        found.top,
        found.bottom,
        found.field.max(axis=1),
        found.field.min(axis=1),
        found.depth_mm,
        found.field,
        found.energy_error,
    )


def ready(
    body: Body,
    start_c: float,
    stays: list[Stay],
    house: House,
    low_c: float,
    high_c: float,
) -> Ready:
    """Work out when a body can be rolled.

    Parameters
    ----------
    start_c : float
        Throughout, at the start [°C].
    stays : list of Stay
        Where it lies; the last for as long as is looked at.
    low_c, high_c : float
        Range in which the fat is enclosed and rolled [°C].
    """
    courses = _courses(body, start_c, stays, house, high_c)
    windows = {speed: ready_window(each, low_c, high_c) for speed, each in courses.items()}
    usual, window = courses["usual"], windows["usual"]
    at = usual.at(window[0]) if window else None
    warm_at = crossing(usual.minutes, usual.coldest, low_c)
    cold_at = crossing(usual.minutes, usual.warmest, high_c)
    end = usual.end_min
    ends: dict[Speed, float | None] = {s: w[1] if w else None for s, w in windows.items()}
    starts: dict[Speed, float | None] = {s: w[0] if w else None for s, w in windows.items()}
    return Ready(
        _band(starts),
        _band(ends),
        bool(window and window[1] >= end - 1e-6),
        at[0] if at else None,
        at[1] if at else None,
        min(at[2], at[3]) if at else None,
        float(np.interp(end if warm_at is None else warm_at, usual.minutes, usual.warmest)),
        float(np.interp(end if cold_at is None else cold_at, usual.minutes, usual.coldest)),
        usual,
    )


class FirstCold(Struct, frozen=True):
    """First one place, then another.

    Attributes
    ----------
    first_min : float
        Time in the first place [min].
    start_min, end_min : float
        When it can be rolled from then on, counted from the beginning [min].
    """

    first: Place
    then: Place
    first_min: float
    start_min: float
    end_min: float


SHARES = (0.25, 0.35, 0.45, 0.55, 0.65, 0.75, 0.85, 0.95)
"""Shares of the time to the first cold part that are tried in the first place [-]."""


def first_then(
    body: Body,
    start_c: float,
    first: Place,
    then: Place,
    house: House,
    low_c: float,
    high_c: float,
) -> FirstCold | None:
    """Find the quickest way by a colder place first and a milder one after it.

    The way that is ready soonest and stays so for 10 minutes at least; None when there is none.

    Parameters
    ----------
    first, then : Place
        As the freezer and the fridge.
    """
    alone = through_middle(follow(body, start_c, [Stay(first, DAY_MIN / 2)], house))
    skin = crossing(alone.minutes, alone.coldest, low_c)
    if skin is None:
        return None
    best: FirstCold | None = None
    for share in SHARES:
        minutes = float(round(share * skin))
        if minutes < 1:
            continue
        found = through_middle(
            follow(body, start_c, [Stay(first, minutes), Stay(then, DAY_MIN / 2)], house)
        )
        window = ready_window(found, low_c, high_c)
        if window is None or window[1] - window[0] < 10:
            continue
        if best is None or window[0] < best.start_min:
            best = FirstCold(first, then, minutes, *window)
    return best


class Out(Struct, frozen=True):
    """How long a body may stay out.

    Attributes
    ----------
    minutes : Band
        Until its mean is at the top of the range [min]; None: it never is.
    skin_min : float or None
        When the first part is above the range [min].
    """

    minutes: Band
    skin_min: float | None
    course: Course


LONGEST_OUT_MIN = 360.0


def out_of_cold(
    body: Body, start_c: float, place: Place, house: House, high_c: float, turns: int = 0
) -> Out:
    """Work out how long a body may stay out of the cold.

    Parameters
    ----------
    place : Place
        The bench: its room and what it is of.
    house : House
        For what a turn warms it by.
    high_c : float
        Top of the fat's range [°C].
    turns : int
        Times it is rolled meanwhile [-]; each takes its warming off the limit.

    Notes
    -----
    Each turn warms the block by `rolling_k` at once, so the limit is lowered by that beforehand:
    one that has come to limit − n·ΔT and is turned n times ends at the limit.
    """
    limit = high_c - turns * house.rolling_k
    stays = [Stay(place, LONGEST_OUT_MIN)]
    times: dict[Speed, float | None] = {}
    usual = None
    for speed in SPEEDS:
        found = follow(body, start_c, stays, house, speed)
        usual = usual or found
        times[speed] = 0.0 if start_c >= limit else crossing(found.minutes, found.mean, limit)
    assert usual is not None
    skin = 0.0 if start_c >= high_c else crossing(usual.minutes, usual.warmest, high_c)
    return Out(_band(times), skin, usual)


class After(Struct, frozen=True):
    """What a rest would do.

    Attributes
    ----------
    core_c, mean_c, skin_c : float
        At its end [°C]; the skin is the colder of both faces.
    verdict : {'soft', 'ready', 'hard', 'uneven'}
        Too warm in some part; ready throughout; too cold in some part; both at once.
    """

    core_c: float
    mean_c: float
    skin_c: float
    verdict: Literal["soft", "ready", "hard", "uneven"]


def after(found: Course, minutes: float, low_c: float, high_c: float) -> After:
    """Say how a body is after so many minutes of a course.

    Parameters
    ----------
    found : Course
        As `through_middle` gives it.
    minutes : float
        [min].
    """
    core, mean, top, bottom = found.at(minutes)
    warm = float(np.interp(minutes, found.minutes, found.warmest)) > high_c + 0.05
    cold = float(np.interp(minutes, found.minutes, found.coldest)) < low_c - 0.05
    verdict: Literal["soft", "ready", "hard", "uneven"] = (
        "uneven" if warm and cold else "soft" if warm else "hard" if cold else "ready"
    )
    return After(core, mean, min(top, bottom), verdict)


class Match(Struct, frozen=True):
    """How dough and fat come to one firmness before they meet.

    Attributes
    ----------
    dough, fat : Ready
        Each by itself.
    meet_min : float or None
        When the later one is ready [min]; None when one never is.
    wait_min : float
        How much later the sooner one goes in, so that both are ready together [min].
    waits : {'dough', 'fat', ''}
        Which one that is; empty when neither waits.
    """

    dough: Ready
    fat: Ready
    meet_min: float | None
    wait_min: float
    waits: Literal["dough", "fat", ""]


def match(dough: Ready, fat: Ready) -> Match:
    """Bring two bodies together: which goes into the cold, which comes out, and when."""
    a, b = dough.start.usual, fat.start.usual
    if a is None or b is None:
        return Match(dough, fat, None, 0.0, "")
    apart = a - b
    waits: Literal["dough", "fat", ""] = "" if abs(apart) < 1 else "fat" if apart > 0 else "dough"
    return Match(dough, fat, max(a, b), abs(apart), waits)


def bends_at(body: Body, start_c: float, place: Place, house: House, thawed_c: float = 1.0) -> Band:
    """How long a frozen block takes until it bends: no part of it colder than just above ice.

    Parameters
    ----------
    place : Place
        Where it thaws.
    thawed_c : float
        Coldest part of a block that bends [°C].

    Returns
    -------
    Band
        [min]; None when the place is too cold for it.

    Notes
    -----
    Ice of dough melts over several degrees below 0 °C (freezing-point depression by sugar and
    salt); just above 0 °C none is left anywhere, and the block bends without cracking (common
    practice).
    """
    stays = [Stay(place, 3 * DAY_MIN)]
    found = _courses(body, start_c, stays, house, thawed_c, rough=True)
    return _band({s: crossing(each.minutes, each.coldest, thawed_c) for s, each in found.items()})
