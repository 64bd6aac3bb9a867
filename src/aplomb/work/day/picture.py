"""A timetable as it is drawn: lanes, bars, rests with the block's temperature, nights, hours."""

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.day.plan import DayPlan, from_to_min, rests_of, starts_of
from aplomb.core.day.problem import taken
from aplomb.core.kitchen.step_words import Kind
from aplomb.core.study.cold import RestResult
from aplomb.work.day.chores import bakers_of, chores_of, loads_of
from aplomb.work.day.view import DayView, letter_of

ON_BENCH: tuple[Kind, ...] = ("fat", "enclose", "turn", "trim", "sheet", "cut", "fill")
"""Steps at which a paste lies on the bench."""
ALONE = -1
IN_OVEN: tuple[Kind, ...] = ("heat", "bake", "refresh")
"""Steps that an oven is at work in; what goes in and comes out is the hands' work."""
POINTS = 24
"""Points of a temperature curve within one rest [-]."""
FREE_FROM_MIN = 30
"""A time between steps is called free from so long on [min]."""
NIGHT_FROM_MIN = 180
"""A time without steps for hands is drawn shorter from so long on [min]."""


class Bar(Struct, frozen=True):
    """A step in a lane.

    Attributes
    ----------
    paste, step : str
        Its paste as shown, its key.
    letter : str
        Of its paste.
    number : int
        Of its paste, from 0.
    start, end : int
        [min].
    words : str
        What it is, short.
    row : int
        Within its lane.
    held, past : bool
        Held at its time by the user; begun already.
    blocks : int
        It is done to so many, one after the other [-].
    go : int
        Number of what it is done in one go with; `ALONE` for what nobody's hands do.
    """

    paste: str
    step: str
    letter: str
    number: int
    start: int
    end: int
    words: str
    row: int = 0
    held: bool = False
    past: bool = False
    blocks: int = 1
    go: int = ALONE


class RestBar(Struct, frozen=True):
    """A rest in the cold.

    Attributes
    ----------
    paste, step : str
        Its paste as shown, the key of the step it comes after.
    words : str
        What that step is called.
    start, end : int
        [min].
    temps : tuple of (minute, °C)
        Mean temperature of what rests; empty where it is not known.
    low_c, high_c : float
        Where it can be rolled [°C].
    hard : bool
        True when it is colder than that at the end: it stands before it goes on.
    """

    paste: str
    step: str
    letter: str
    number: int
    row: int
    start: int
    end: int
    words: str
    temps: tuple[tuple[float, float], ...] = ()
    low_c: float = 0.0
    high_c: float = 0.0
    hard: bool = False


class Lane(Struct, frozen=True):
    """A lane: its name, how many rows it has, what lies in them, and when hands are free."""

    name: str
    rows: int
    bars: tuple[Bar, ...] = ()
    rests: tuple[RestBar, ...] = ()
    free: tuple[tuple[int, int], ...] = ()


class Tick(Struct, frozen=True):
    """A mark of time.

    Attributes
    ----------
    at : int
        [min].
    day : bool
        True where a day begins.
    name : str
        Of its day.
    """

    at: int
    words: str
    day: bool = False
    name: str = ""


class DayPicture(Struct, frozen=True):
    """All that is drawn of a day.

    Attributes
    ----------
    start, end : int
        [min].
    ticks : tuple of Tick
        Every hour, and midnights.
    quiet : tuple of (from, to)
        Times without steps for hands or oven, drawn shorter [min].
    shut : tuple of (from, to)
        Times outside the working hours [min].
    ready : tuple of (minute, words)
        When pastes must be ready.
    now : int or None
        [min].
    now_words : str
        The same as a time.
    """

    start: int
    end: int
    lanes: tuple[Lane, ...]
    ticks: tuple[Tick, ...]
    quiet: tuple[tuple[int, int], ...]
    shut: tuple[tuple[int, int], ...]
    ready: tuple[tuple[int, str], ...]
    now: int | None
    now_words: str = ""


def picture_of(view: DayView, plan: DayPlan) -> DayPicture:
    """Lay a timetable out."""
    problem = view.problem
    number = {p.name: i for i, p in enumerate(problem.pastes)}
    hands = bakers_of(view)
    bars = _bars(view, plan, hands, number)
    start, end = _ends(view, plan)
    shut = _shut(view, start, end)
    lanes = [
        _in_rows(name, each, _free(each, shut) if name in hands else ())
        for name, each in bars.items()
        if each and (name != "Bench" or problem.hands > 1 or problem.people)
    ]
    lanes += _cold_lanes(view, plan, number)
    return DayPicture(
        start,
        end,
        tuple(lanes),
        _ticks(view, start, end),
        _quiet([bar for name in (*hands, "Oven") for bar in bars[name]], start),
        shut,
        tuple(
            (p.ready_by_min, letter_of(number[p.name]))
            for p in problem.pastes
            if p.ready_by_min is not None
        ),
        problem.now_min,
        "" if problem.now_min is None else f"{view.clock.moment(problem.now_min):%H:%M}",
    )


def _bars(
    view: DayView, plan: DayPlan, hands: tuple[str, ...], number: dict[str, int]
) -> dict[str, list[Bar]]:
    """Give the bars of every lane by its name; a step may stand in several."""
    problem, starts = view.problem, starts_of(plan.steps)
    held = {(h.paste, h.step) for h in problem.held}
    begun = {(b.paste, b.step) for b in problem.so_far}
    go_of: dict[tuple[str, str], tuple[int, str]] = {
        (chore.paste, step): (at, chore.who)
        for at, chore in enumerate(chores_of(view, plan))
        for step in chore.steps
    }
    loads = {(n.paste, n.step): n for n in loads_of(view, plan)}
    bars: dict[str, list[Bar]] = {name: [] for name in (*hands, "Bench", "Sheeter", "Oven")}
    for key, step in problem.steps.items():
        if key[0] not in number:
            continue  # a load that crosses pastes has no bar
        note, (go, who) = view.note(*key), go_of.get(key, (ALONE, ""))
        bar = Bar(
            *key,
            letter_of(number[key[0]]),
            number[key[0]],
            starts[key],
            starts[key] + taken(step, key[0], problem),
            step.called,
            held=key in held,
            past=key in begun,
            blocks=note.blocks,
            go=go,
        )
        if who:
            bars[who].append(bar)
        if note.kind in ON_BENCH:
            bars["Bench"].append(bar)
        if "sheeter" in step.needs:
            bars["Sheeter"].append(bar)
        if note.kind in IN_OVEN:
            load = loads.get(key)
            words = "heat" if load is None else load.which or step.called
            bars["Oven"].append(replace(bar, words=words))
    return bars


def _free(bars: list[Bar], shut: tuple[tuple[int, int], ...]) -> tuple[tuple[int, int], ...]:
    """Give the longer times between two steps of one shift when hands are free."""
    found: list[tuple[int, int]] = []
    at: int | None = None
    for bar in sorted(bars, key=lambda b: b.start):
        is_free = at is not None and bar.start - at >= FREE_FROM_MIN
        if at is not None and is_free and not any(a < bar.start and at < b for a, b in shut):
            found.append((at, bar.start))
        at = bar.end if at is None else max(at, bar.end)
    return tuple(found)


def _in_rows(name: str, bars: list[Bar], free: tuple[tuple[int, int], ...] = ()) -> Lane:
    """Put bars that overlap into rows of their own."""
    ends: list[int] = []
    placed = []
    for bar in sorted(bars, key=lambda b: (b.start, b.end)):
        row = next((i for i, end in enumerate(ends) if end <= bar.start), len(ends))
        ends[row : row + 1] = [bar.end]
        placed.append(replace(bar, row=row))
    return Lane(name, max(1, len(ends)), tuple(placed), free=free)


def _cold_lanes(view: DayView, plan: DayPlan, number: dict[str, int]) -> list[Lane]:
    found: dict[str, list[RestBar]] = {}
    steps = view.problem.steps
    for gap, begin, end in rests_of(view.problem, starts_of(plan.steps)):
        paste, step = gap.first[0], steps[gap.first]
        note = view.note(*gap.first)
        is_rest = gap.least > 0 or gap.most is not None
        if end - begin < 2 or not note.place or not is_rest:
            continue
        where = "Freezer" if note.place in ("freezer", "blast") else "Fridge"
        where = "Room" if note.place in ("room", "oven") else where
        temps, low, high, hard = _temps(note.rest, begin, end)
        found.setdefault(where, []).append(
            RestBar(
                paste,
                step.name,
                letter_of(number[paste]),
                number[paste],
                0,
                begin,
                end,
                step.called,
                temps,
                low,
                high,
                hard,
            )
        )
    lanes = []
    for where in ("Fridge", "Freezer", "Room"):
        rests = found.get(where, [])
        if not rests:
            continue
        rows = sorted({rest.number for rest in rests})
        lanes.append(_rest_rows(where, rests, rows))
    return lanes


def _rest_rows(where: str, rests: list[RestBar], pastes: list[int]) -> Lane:
    """One row a paste, and one more where two of its rests overlap: the fat beside the dough."""
    placed, at = [], 0
    for number in pastes:
        ends: list[int] = []
        for rest in sorted((r for r in rests if r.number == number), key=lambda r: r.start):
            row = next((i for i, end in enumerate(ends) if end <= rest.start), len(ends))
            ends[row : row + 1] = [rest.end]
            placed.append(replace(rest, row=at + row))
        at += max(1, len(ends))
    return Lane(where, at, (), tuple(placed))


def _temps(
    found: RestResult | None, begin: int, end: int
) -> tuple[tuple[tuple[float, float], ...], float, float, bool]:
    """Mean temperatures over a rest, the range, and whether it ends too hard."""
    if found is None:
        return (), 0.0, 0.0, False
    course = found.ready.course
    long = min(float(end - begin), course.end_min)
    # Closer together at the beginning, when it changes fast.
    times = long * np.linspace(0, 1, POINTS) ** 1.6
    means = np.interp(times, course.minutes, course.mean)
    last = found.ready.end.usual
    hard = (
        last is not None and not found.ready.lasts and end - begin > found.rest.lain_min + last + 1
    )
    temps = tuple((begin + float(t), float(m)) for t, m in zip(times, means, strict=True))
    return temps, float(means.min()), float(means.max()), hard


def _ends(view: DayView, plan: DayPlan) -> tuple[int, int]:
    first, last = from_to_min(view.problem, starts_of(plan.steps))
    ready = [p.ready_by_min for p in view.problem.pastes if p.ready_by_min is not None]
    return first // 60 * 60, -(-max(last, *ready, first + 60) // 60) * 60


def _ticks(view: DayView, start: int, end: int) -> tuple[Tick, ...]:
    found = []
    for at in range(start, end + 1, 60):
        moment = view.clock.moment(at)
        day = moment.hour == 0
        words = f"{moment:%H:%M}" if moment.minute else f"{moment:%H}"
        found.append(Tick(at, words, day, f"{moment:%a} {moment.day}"))
    return tuple(found)


def _quiet(bars: list[Bar], start: int) -> tuple[tuple[int, int], ...]:
    busy = sorted((bar.start, bar.end) for bar in bars)
    found, at = [], start
    for begin, until in busy:
        if begin - at >= NIGHT_FROM_MIN:
            found.append((at + 20, begin - 20))
        at = max(at, until)
    return tuple(found)


def _shut(view: DayView, start: int, end: int) -> tuple[tuple[int, int], ...]:
    found, at = [], start
    for shift in sorted(view.problem.shifts, key=lambda s: s.from_min):
        if shift.from_min > at and at < end:
            found.append((at, min(end, shift.from_min)))
        at = max(at, shift.to_min)
    if at < end:
        found.append((at, end))
    return tuple(found)
