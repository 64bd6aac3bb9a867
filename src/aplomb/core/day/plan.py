"""A timetable, and whether it holds: found without any help of what made it."""

from itertools import pairwise

from msgspec import Struct

from aplomb.core.day.problem import (
    LOADS,
    DayPaste,
    DayProblem,
    Gap,
    Key,
    Started,
    Steps,
    gaps_of,
    last_loads,
    taken,
)


class BrokenRest(Struct, frozen=True):
    """A rest that could no longer be held.

    Attributes
    ----------
    paste, step : str
        The step it comes after.
    rest_min, rest_max : int
        What was wanted [min]; None for no most.
    minutes : int
        What it comes to [min].
    """

    paste: str
    step: str
    rest_min: int
    rest_max: int | None
    minutes: int


class DayPlan(Struct, frozen=True):
    """A timetable.

    Attributes
    ----------
    steps : tuple of Started
        Every step with its start, in the order of time; a side by its name.
    elapsed_min : int
        Sum over the pastes of the end of the last step less the start of the first [min].
    late_min : int
        Sum over the pastes of how late they are [min].
    best_known : int
        What cannot be undercut, of the one that the goal minimises [min].
    proven : bool
        True when there is no better one.
    """

    steps: tuple[Started, ...]
    elapsed_min: int
    late_min: int
    best_known: int
    proven: bool
    broken: tuple[BrokenRest, ...] = ()

    def start_of(self, paste: str, step: str) -> int:
        """When a step begins [min]; raises KeyError."""
        for each in self.steps:
            if (each.paste, each.step) == (paste, step):
                return each.start_min
        raise KeyError(paste, step)


Starts = dict[Key, int]


def starts_of(steps: tuple[Started, ...]) -> Starts:
    """Give starts by paste and step [min].

    Returns
    -------
    dict of (paste, step) to int
        [min].
    """
    return {(each.paste, each.step): each.start_min for each in steps}


def ends_min(paste: DayPaste, starts: Starts, problem: DayProblem) -> tuple[int, int]:
    """When a paste's first step begins and its last one ends [min]; the side is not counted.

    Parameters
    ----------
    starts : dict of (paste, step) to int
        [min].

    Returns
    -------
    tuple of (int, int)
        [min].
    """
    last = paste.steps[-1]
    end = starts[paste.name, last.name] + taken(last, paste.name, problem)
    known = problem.steps
    for name in last_loads(problem, paste.name):
        end = max(end, starts[LOADS, name] + known[LOADS, name].minutes)
    return starts[paste.name, paste.steps[0].name], end


def from_to_min(problem: DayProblem, starts: Starts) -> tuple[int, int]:
    """When the first step of all begins and the last one ends, those beside too [min].

    Parameters
    ----------
    starts : dict of (paste, step) to int
        [min].

    Returns
    -------
    tuple of (int, int)
        [min].
    """
    ends = (starts[key] + taken(step, key[0], problem) for key, step in problem.steps.items())
    return min(starts.values()), max(ends)


def elapsed_and_late(problem: DayProblem, starts: Starts) -> tuple[int, int]:
    """Sum up the elapsed time and the lateness of all pastes [min].

    Parameters
    ----------
    starts : dict of (paste, step) to int
        [min].

    Returns
    -------
    tuple of (int, int)
        [min].
    """
    elapsed = late = 0
    for paste in problem.pastes:
        begin, end = ends_min(paste, starts, problem)
        elapsed += end - begin
        if paste.ready_by_min is not None:
            late += max(0, end - paste.ready_by_min)
    return elapsed, late


Rest = tuple[Gap, int, int]


def rests_of(problem: DayProblem, starts: Starts) -> list[Rest]:
    """Give every time between two steps: what it must be, its start and its end [min].

    Parameters
    ----------
    starts : dict of (paste, step) to int
        [min].
    """
    known = problem.steps
    return [
        (
            gap,
            starts[gap.first] + taken(known[gap.first], gap.first[0], problem),
            starts[gap.then],
        )
        for gap in gaps_of(problem)
    ]


def broken_rests(problem: DayProblem, starts: Starts) -> tuple[BrokenRest, ...]:
    """Give the rests that are shorter or longer than wanted.

    Parameters
    ----------
    starts : dict of (paste, step) to int
        [min].
    """
    return tuple(
        BrokenRest(*gap.first, gap.least, gap.most, end - begin)
        for gap, begin, end in rests_of(problem, starts)
        if not gap.holds(end - begin)
    )


def faults(problem: DayProblem, steps: tuple[Started, ...]) -> list[str]:
    """Say everything that is wrong with a timetable.

    Empty when it holds. Of a day under way a broken rest is no fault, nor is what began before.
    """
    starts = starts_of(steps)
    wanted = problem.steps
    if starts.keys() != wanted.keys() or len(steps) != len(wanted):
        return ["a step is missing, or is listed twice"]
    begun = {(each.paste, each.step) for each in problem.so_far}
    found = [
        f"{each.step} of {each.paste} began at {each.start_min}"
        for each in (*problem.so_far, *problem.held)
        if starts[each.paste, each.step] != each.start_min
    ]
    soonest = max(problem.now_min or 0, problem.not_before_min)
    found += [
        f"{step} of {paste} starts before now"
        for (paste, step), start in starts.items()
        if (paste, step) not in begun and start < soonest
    ]
    if not problem.under_way:
        found += [
            f"the rest after {b.step} of {b.paste} is {b.minutes} min"
            for b in broken_rests(problem, starts)
        ]
    found += [
        f"{step} of {paste} overlaps the step before"
        for paste, step in _overlapping(problem, starts)
    ]
    found += _hours_faults(problem, starts, wanted, begun)
    found += _use_faults(problem, starts, wanted, begun)
    if problem.people:
        found += _people_faults(problem, steps, wanted, begun)
    found += [
        f"load {b.name} goes in before load {a.name}"
        for a, b in pairwise(problem.loads)
        if starts[LOADS, b.name] < starts[LOADS, a.name] and (LOADS, b.name) not in begun
    ]
    found += _ready_faults(problem, starts, wanted)
    return found


def _overlapping(problem: DayProblem, starts: Starts) -> list[tuple[str, str]]:
    begun = {(each.paste, each.step) for each in problem.so_far}
    return [
        gap.first
        for gap, begin, end in rests_of(problem, starts)
        if end < begin and gap.first not in begun
    ]


def _people_faults(
    problem: DayProblem, steps: tuple[Started, ...], wanted: Steps, begun: set[Key]
) -> list[str]:
    """What a person cannot do: two things at once, or outside the hours; and what is nobody's."""
    shifts = {person.name: person.shifts for person in problem.people}
    given = {(each.paste, each.step): each.who for each in problem.held if each.who in shifts}
    last = max((s.to_min for s in problem.shifts), default=0)
    found: list[str] = []
    mine: dict[str, list[tuple[int, int, str]]] = {}
    for each in steps:
        key = (each.paste, each.step)
        step = wanted[key]
        if "baker" not in step.needs or key in begun:
            continue
        end = each.start_min + taken(step, each.paste, problem)
        over = problem.overrun_min
        if given.get(key, each.who) != each.who:
            found.append(f"{each.step} of {each.paste} is {given[key]}’s")
        if not any(
            s.from_min <= each.start_min and end <= s.to_min + (over if s.to_min >= last else 0)
            for s in shifts.get(each.who, ())
        ):
            found.append(f"{each.step} of {each.paste} is outside the hours of “{each.who}”")
        for start, until, name in mine.setdefault(each.who, []):
            if start < end and each.start_min < until:
                found.append(f"“{each.who}” does {each.step} and {name} at once")
        if end > each.start_min:
            mine[each.who].append((each.start_min, end, each.step))
    return found


def _hours_faults(
    problem: DayProblem,
    starts: Starts,
    wanted: Steps,
    begun: set[Key],
) -> list[str]:
    found = []
    last = max((shift.to_min for shift in problem.shifts), default=0)
    for key, step in wanted.items():
        if "baker" not in step.needs or key in begun:
            continue
        start, end = starts[key], starts[key] + taken(step, key[0], problem)
        if not any(
            shift.from_min <= start
            and end <= shift.to_min + (problem.overrun_min if shift.to_min == last else 0)
            for shift in problem.shifts
        ):
            found.append(f"{key[1]} of {key[0]} is outside the baker’s hours")
    return found


MORE_THAN_THERE = {
    "baker": "more hands needed at minute {} than there are",
    "sheeter": "more sheeters needed at minute {} than there are",
    "oven": "more ovens needed at minute {} than there are",
    "fridge": "more fridge spaces needed at minute {} than there are",
    "freezer": "more freezer spaces needed at minute {} than there are",
    "bench": "more benches needed at minute {} than there are",
    "mixer": "more mixers needed at minute {} than there are",
}


def _use_faults(
    problem: DayProblem,
    starts: Starts,
    wanted: Steps,
    begun: set[Key],
) -> list[str]:
    """What more is used of than there is, at any moment at which a use begins."""
    uses: dict[str, list[tuple[int, int, int, bool]]] = {}
    for key, step in wanted.items():
        start, end = starts[key], starts[key] + taken(step, key[0], problem)
        for need in step.needs:
            uses.setdefault(need, []).append((start, end, 1, key in begun))
    for gap, begin, end in rests_of(problem, starts):
        if gap.spaces:
            past = gap.first in begun
            uses.setdefault(gap.held_in, []).append((begin, end, gap.spaces, past))
    found = []
    for what, each in uses.items():
        most = problem.there(what)
        if most is None:
            continue
        for moment, *_ in each:
            at = [(many, past) for start, end, many, past in each if start <= moment < end]
            if sum(many for many, _ in at) > most and not all(past for _, past in at):
                found.append(MORE_THAN_THERE[what].format(moment))
                break
    return found


def _ready_faults(problem: DayProblem, starts: Starts, wanted: Steps) -> list[str]:
    found = []
    hands: dict[str, list[int]] = {}
    for paste in problem.pastes:
        _, end = ends_min(paste, starts, problem)
        by, soonest = paste.ready_by_min, paste.ready_not_before_min
        if by is not None and end > by and problem.goal == "least_elapsed":
            found.append(f"{paste.name} is ready {end - by} min late")
        if soonest is not None and end < soonest:
            found.append(f"{paste.name} is ready too early")
        steps = paste.all_steps
        hands[paste.name] = [starts[paste.name, s.name] for s in steps if "baker" in s.needs]
    begun = {each.paste for each in problem.so_far}
    for first, last, second in problem.after:
        if second not in begun and hands[second]:
            left = starts[first, last] + taken(wanted[first, last], first, problem)
            if min(hands[second]) < left:
                found.append(f"{second} comes to the bench before {first} has left it")
    return found
