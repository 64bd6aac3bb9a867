"""A timetable, and whether it holds: found without any help of what made it."""

from itertools import pairwise

from msgspec import Struct

from aplomb.core.day.problem import (
    DayPaste,
    DayProblem,
    DayStep,
    Key,
    SideStep,
    Started,
    Steps,
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
    return (
        starts[paste.name, paste.steps[0].name],
        starts[paste.name, last.name] + taken(last, paste.name, problem),
    )


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


Rest = tuple[str, DayStep | SideStep, int, int]


def rests_of(problem: DayProblem, starts: Starts) -> list[Rest]:
    """Give every rest: paste, step it comes after, its start and its end [min].

    Parameters
    ----------
    starts : dict of (paste, step) to int
        [min].

    Returns
    -------
    list of (str, step, int, int)
    """
    found: list[Rest] = []
    for paste in problem.pastes:
        pairs: list[tuple[DayStep | SideStep, str]] = [
            (a, b.name) for a, b in pairwise(paste.steps)
        ]
        pairs += [(side, side.before) for side in paste.sides]
        for step, following in pairs:
            begin = starts[paste.name, step.name] + taken(step, paste.name, problem)
            found.append((paste.name, step, begin, starts[paste.name, following]))
    return found


def broken_rests(problem: DayProblem, starts: Starts) -> tuple[BrokenRest, ...]:
    """Give the rests that are shorter or longer than wanted.

    Parameters
    ----------
    starts : dict of (paste, step) to int
        [min].
    """
    return tuple(
        BrokenRest(paste, step.name, step.rest_min, step.rest_max, end - begin)
        for paste, step, begin, end in rests_of(problem, starts)
        if end - begin < step.rest_min
        or (step.rest_max is not None and end - begin > step.rest_max)
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
    if problem.now_min is not None:
        found += [
            f"{step} of {paste} starts before now"
            for (paste, step), start in starts.items()
            if (paste, step) not in begun and start < problem.now_min
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
    found += _ready_faults(problem, starts, wanted)
    return found


def _overlapping(problem: DayProblem, starts: Starts) -> list[tuple[str, str]]:
    begun = {(each.paste, each.step) for each in problem.so_far}
    return [
        (paste, step.name)
        for paste, step, begin, end in rests_of(problem, starts)
        if end < begin and (paste, step.name) not in begun
    ]


def _hours_faults(
    problem: DayProblem,
    starts: Starts,
    wanted: Steps,
    begun: set[Key],
) -> list[str]:
    found = []
    last = max((shift.to_min for shift in problem.baker), default=0)
    for key, step in wanted.items():
        if "baker" not in step.needs or key in begun:
            continue
        start, end = starts[key], starts[key] + taken(step, key[0], problem)
        if not any(
            shift.from_min <= start
            and end <= shift.to_min + (problem.overrun_min if shift.to_min == last else 0)
            for shift in problem.baker
        ):
            found.append(f"{key[1]} of {key[0]} is outside the baker’s hours")
    return found


MORE_THAN_THERE = {
    "baker": "more hands needed at minute {} than there are",
    "sheeter": "more sheeters needed at minute {} than there are",
    "oven": "more ovens needed at minute {} than there are",
    "fridge": "more fridge spaces needed at minute {} than there are",
    "freezer": "more freezer spaces needed at minute {} than there are",
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
    for paste, step, begin, end in rests_of(problem, starts):
        if step.fridge_spaces:
            past = (paste, step.name) in begun
            uses.setdefault(step.held_in, []).append((begin, end, step.fridge_spaces, past))
    there = {
        "baker": problem.bakers,
        "sheeter": problem.sheeters,
        "oven": problem.ovens,
        "fridge": problem.fridge_spaces,
        "freezer": problem.freezer_spaces,
    }
    found = []
    for what, each in uses.items():
        most = there[what]
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
