"""A timetable as a baker works through it: what is done in one go, what is now, what comes next.

Times are said to five minutes; what was solved stays exact.
"""

import re
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from itertools import groupby
from operator import itemgetter

from msgspec import Struct

from aplomb.core.day.plan import DayPlan, ends_min, rests_of, starts_of
from aplomb.core.day.problem import taken
from aplomb.core.kitchen.step_words import Kind
from aplomb.work.day.view import DayView, letter_of

HANDS = "Hands"
"""Whose work it is where bakers have no names."""
ONE_GO_MIN, ON_BENCH_MIN = 5, 15
"""Steps of a paste that follow each other so closely are done in one go; and where it stays on the
bench between them [min]."""
MOST_TOLD = 3
"""So many things stand in the words of one go [-]."""
TO_MIN = 5
"""Times are said to so many minutes [min]."""
OF_OVEN: tuple[Kind, ...] = ("heat", "load", "bake", "refresh", "out")
"""What the oven's own queue tells."""
SHORT = {
    "final sheet": "roll out",
    "press the fat": "press fat",
    "cut the fat into pieces": "cut fat",
    "cook the filling": "cook filling",
}
"""What is said shorter where it stands beside other things."""


class Chore(Struct, frozen=True):
    """What one baker does to one paste in one go.

    Attributes
    ----------
    who : str
        Name of the baker, or `HANDS`.
    paste, letter : str
        Its paste as shown, and its letter.
    number : int
        Of its paste, from 0.
    start, end : int
        [min].
    steps : tuple of str
        Keys of its steps, in order.
    blocks : int
        All of it is done to so many, one after the other [-]; 1 where not all is.
    then : str
        Where it lies afterwards; empty when it goes on at once.
    until : int or None
        When it is taken from there [min].
    """

    who: str
    paste: str
    letter: str
    number: int
    start: int
    end: int
    steps: tuple[str, ...]
    words: str
    blocks: int = 1
    then: str = ""
    until: int | None = None
    is_of_oven: bool = False


class Load(Struct, frozen=True):
    """A load in the oven's queue: its time [min], and which of how many of its paste it is."""

    paste: str
    step: str
    letter: str
    number: int
    start: int
    end: int
    at: int
    of: int

    @property
    def which(self) -> str:
        """Which of how many; empty for the only one."""
        return f"{self.at} of {self.of}" if self.of > 1 else ""


class Ready(Struct, frozen=True):
    """When a paste is ready and when it is wanted [min]."""

    paste: str
    letter: str
    number: int
    end: int
    wanted: int | None

    @property
    def spare(self) -> int | None:
        """Time between the two, below 0 when it is late [min]; None when no time is named."""
        return None if self.wanted is None else self.wanted - self.end


def to_five(moment: datetime, *, up: bool = False) -> datetime:
    """Give a time to five minutes: the nearest, or the next.

    Examples
    --------
    >>> to_five(datetime(2026, 12, 2, 6, 43)).minute, to_five(datetime(2026, 12, 2, 6, 42)).minute
    (45, 40)
    """
    minutes = moment.minute + moment.second / 60
    steps = -(-minutes // TO_MIN) if up else (minutes + TO_MIN / 2) // TO_MIN
    whole = moment.replace(minute=0, second=0, microsecond=0)
    return whole + timedelta(minutes=TO_MIN * steps)


def clock_of(view: DayView, minute: int, *, up: bool = False) -> str:
    """Say a minute of the plan as a time to five minutes."""
    return f"{to_five(view.clock.moment(minute), up=up):%H:%M}"


def bakers_of(view: DayView) -> tuple[str, ...]:
    """Give who works, in their order; `HANDS` for hands without names."""
    return tuple(person.name for person in view.problem.people) or (HANDS,)


def joined_words(steps: Sequence[tuple[str, int]]) -> str:
    """Say several steps as one go, each with the blocks that it is done to.

    Examples
    --------
    >>> joined_words([("turn 1: single", 3), ("turn 2: double", 3), ("cut", 1)])
    'turns 1, 2 × 3, cut'
    """
    return ", ".join(
        _alike([name for name, _ in some]) + (f" × {many}" if many > 1 else "")
        for many, some in groupby(steps, key=itemgetter(1))
    )


def _alike(names: Sequence[str]) -> str:
    told: list[str] = []
    turns: list[str] = []
    for name in (*names, ""):
        found = re.match(r"turn (\d+)", name)
        if found:
            turns.append(found[1])
            continue
        if turns:
            told.append(f"{'turns' if len(turns) > 1 else 'turn'} {', '.join(turns)}")
            turns = []
        if name:
            told.append(SHORT.get(name, name))
    return ", ".join(told)


def chores_of(view: DayView, plan: DayPlan) -> tuple[Chore, ...]:
    """Give what is done in one go, by every baker, in the order of time."""
    problem, bakers = view.problem, bakers_of(view)
    by = {(each.paste, each.step): each.who for each in plan.steps}
    starts = starts_of(plan.steps)
    order = sorted(
        (start, key) for key, start in starts.items() if "baker" in problem.steps[key].needs
    )
    rests = {gap.first: (begin, end) for gap, begin, end in rests_of(problem, starts)}
    found: list[Chore] = []
    for who in bakers:
        go: list[tuple[str, str]] = []
        for _, key in order:
            if (by[key] if by[key] in bakers else bakers[0]) != who:
                continue
            if go and not _goes_on(view, starts, go, key):
                found.append(_chore(view, starts, who, go, rests))
                go = []
            go.append(key)
        if go:
            found.append(_chore(view, starts, who, go, rests))
    return tuple(sorted(found, key=lambda c: (c.start, bakers.index(c.who))))


Key = tuple[str, str]


def _goes_on(view: DayView, starts: dict[Key, int], go: Sequence[Key], key: Key) -> bool:
    last = go[-1]
    end = starts[last] + view.minutes(*last)
    before, now = view.note(*last), view.note(*key)
    close = 0 <= starts[key] - end <= (ONE_GO_MIN if before.place else ON_BENCH_MIN)
    same = last[0] == key[0] and (before.kind in OF_OVEN) == (now.kind in OF_OVEN)
    kinds = {view.note(*each).kind for each in (*go, key)}
    return close and same and len(kinds) <= MOST_TOLD


def _chore(
    view: DayView,
    starts: dict[Key, int],
    who: str,
    go: Sequence[Key],
    rests: dict[Key, tuple[int, int]],
) -> Chore:
    paste, last = go[0][0], go[-1]
    number = [p.name for p in view.problem.pastes].index(paste)
    note, end = view.note(*last), starts[last] + view.minutes(*last)
    _, until = rests.get(last, (end, end))
    lies = note.place if until - end > ONE_GO_MIN else ""
    blocks = {view.note(*key).blocks for key in go}
    return Chore(
        who,
        paste,
        letter_of(number),
        number,
        starts[go[0]],
        end,
        tuple(step for _, step in go),
        joined_words([(view.words(*key), view.note(*key).blocks) for key in go]),
        blocks.pop() if len(blocks) == 1 else 1,
        lies,
        until if lies else None,
        note.kind in OF_OVEN,
    )


def lies_words(view: DayView, chore: Chore) -> str:
    """Say how long each block takes, where it lies then, and until when."""
    each = round((chore.end - chore.start) / chore.blocks)
    told = [f"{chore.blocks} blocks, {each} min each"] if chore.blocks > 1 else []
    if chore.then and chore.until is not None:
        begins, until = view.clock.moment(chore.start), view.clock.moment(chore.until)
        day = "" if until.date() == begins.date() else f"{until:%a} "
        told.append(f"then {chore.then} till {day}{clock_of(view, chore.until)}")
    return ", ".join(told)


def now_and_next(
    chores: Iterable[Chore], who: str, now: int | None
) -> tuple[Chore | None, Chore | None]:
    """Give what a baker does now and what comes next; the first two before the day is begun."""
    own = [c for c in chores if c.who == who]
    if now is None:
        return (own[0] if own else None), (own[1] if len(own) > 1 else None)
    under_way = next((c for c in own if c.start <= now < c.end), None)
    return under_way, next((c for c in own if c.start > now), None)


def loads_of(view: DayView, plan: DayPlan) -> tuple[Load, ...]:
    """Give the oven's queue in the order of time."""
    starts, found = starts_of(plan.steps), []
    for number, paste in enumerate(view.problem.pastes):
        kinds = ("bake", "refresh")
        own = [s for s in paste.all_steps if view.note(paste.name, s.name).kind in kinds]
        for at, step in enumerate(own, 1):
            start = starts[paste.name, step.name]
            end = start + taken(step, paste.name, view.problem)
            letter = letter_of(number)
            found.append(Load(paste.name, step.name, letter, number, start, end, at, len(own)))
    return tuple(sorted(found, key=lambda load: load.start))


def heats_of(view: DayView, plan: DayPlan) -> tuple[int, ...]:
    """Give when the oven is lit [min]."""
    return tuple(
        sorted(s.start_min for s in plan.steps if view.note(s.paste, s.step).kind == "heat")
    )


def ready_of(view: DayView, plan: DayPlan) -> tuple[Ready, ...]:
    """Give when each paste is ready, the first first."""
    starts = starts_of(plan.steps)
    found = []
    for number, paste in enumerate(view.problem.pastes):
        _, end = ends_min(paste, starts, view.problem)
        letter = letter_of(number)
        found.append(Ready(paste.name, letter, number, end, paste.ready_by_min))
    return tuple(sorted(found, key=lambda each: each.end))
