"""What is in the way of a day that cannot be, and the least that would make it possible."""

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.day.model import LETS, Built, Letting, Relaxed
from aplomb.core.day.plan import (
    Starts,
    ends_min,
    starts_of,
)
from aplomb.core.day.problem import DAY_MIN, DayProblem, Shift, taken
from aplomb.core.day.search import Run, Stopper, search

TIGHT_MIN = 60
"""A wait so short is named where steps do not fit together [min]."""


LETTING_WORK = 0.4
"""Work on each limit that is let out [-]."""
MOST_SHIFTS_TRIED = 6


class Remedy(Struct, frozen=True, omit_defaults=True):
    """A change that makes a day possible.

    Attributes
    ----------
    what : str
        `ready_later`, `baker_earlier`, `baker_later`, `fridge_spaces`, `second_baker`, `ovens`,
        `freezer_spaces`, `sheeters`, `benches`, `mixers`, `day_earlier`.
    paste : str
        Whose ready time.
    minutes : int or None
        The least that will do [min].
    spaces : int or None
        The least that will do [-].
    shift : int or None
        Which of the baker's shifts, from 0.
    """

    what: Letting
    paste: str = ""
    minutes: int | None = None
    spaces: int | None = None
    shift: int | None = None


def held_together(problem: DayProblem) -> str:
    """Name two steps that are held at one time and need the same; empty without any."""
    steps = problem.steps
    for i, one in enumerate(problem.held):
        for other in problem.held[:i]:
            a, b = steps[one.paste, one.step], steps[other.paste, other.step]
            both = set(a.needs) & set(b.needs)
            apart = one.start_min >= other.start_min + taken(
                b, other.paste, problem
            ) or other.start_min >= one.start_min + taken(a, one.paste, problem)
            few = [n for n in both if (many := problem.there(n)) is not None and many < 2]
            if not apart and few:
                return (
                    f"“{a.called}” of {one.paste} and “{b.called}” of {other.paste} are "
                    "pinned at the same time; unpin one of them"
                )
    return ""


def lettings(problem: DayProblem) -> list[Relaxed]:
    """Give the limits that could be let out one by one."""
    found = []
    if problem.goal == "least_elapsed":
        found += [Relaxed("ready_later", p.name) for p in problem.pastes if p.ready_by_min]
        if len(found) > 1:
            found.append(Relaxed("ready_later"))
    shifts = range(0 if problem.people else min(len(problem.baker), MOST_SHIFTS_TRIED))
    for i in shifts:
        found += [Relaxed("baker_earlier", shift=i), Relaxed("baker_later", shift=i)]
    if problem.day_before_from_min is not None and not problem.under_way:
        found.append(Relaxed("day_earlier"))
    if problem.fridge_spaces is not None:
        found.append(Relaxed("fridge_spaces"))
    if problem.freezer_spaces is not None:
        found.append(Relaxed("freezer_spaces"))
    found.append(Relaxed("second_baker"))
    needs = {need for step in problem.steps.values() for need in step.needs}
    more: tuple[tuple[str, Letting], ...] = (
        ("oven", "ovens"),
        ("sheeter", "sheeters"),
        ("bench", "benches"),
        ("mixer", "mixers"),
    )
    found += [
        Relaxed(what) for need, what in more if need in needs and problem.there(need) is not None
    ]
    return found


def least(problem: DayProblem, relaxed: Relaxed, stopped: Stopper) -> Remedy | None:
    """The least by which a limit is let out so that the day is possible; None when none will do."""
    if relaxed.what == "day_earlier":
        built = Built(a_day_earlier(problem), Relaxed(), soft=False)
        if built.impossible:
            return None
        run = search(built, built.aim, LETTING_WORK, stopped=stopped, linear=0)
        return Remedy("day_earlier") if run.ended == "found" else None
    built = Built(problem, relaxed, soft=problem.under_way)
    if built.let is None or built.impossible:
        return None
    room = _room_of(problem, relaxed)
    if room is not None:
        built.model.add(built.let <= room)
    run = search(built, built.let, LETTING_WORK, stopped=stopped)
    if run.ended != "found" or run.value <= 0:
        return None
    least = run.value
    shift = relaxed.shift if relaxed.what.startswith("baker_") else None
    if relaxed.what in ("fridge_spaces", "freezer_spaces"):
        return Remedy(relaxed.what, spaces=least)
    if relaxed.what in LETS:
        return Remedy(relaxed.what)
    return Remedy(relaxed.what, relaxed.paste, minutes=least, shift=shift)


def a_day_earlier(problem: DayProblem) -> DayProblem:
    """Give a problem with one more day of work before its first, of the hours of that."""
    soonest = problem.day_before_from_min or 0

    def longer(shifts: tuple[Shift, ...]) -> tuple[Shift, ...]:
        first = tuple(
            Shift(max(s.from_min, soonest), s.to_min)
            for s in shifts
            if s.from_min < DAY_MIN and s.to_min > soonest
        )
        return first + tuple(Shift(s.from_min + DAY_MIN, s.to_min + DAY_MIN) for s in shifts)

    def later(minute: int | None) -> int | None:
        return None if minute is None else minute + DAY_MIN

    return replace(
        problem,
        baker=longer(problem.baker),
        people=tuple(replace(each, shifts=longer(each.shifts)) for each in problem.people),
        pastes=tuple(
            replace(
                paste,
                ready_by_min=later(paste.ready_by_min),
                ready_not_before_min=later(paste.ready_not_before_min),
            )
            for paste in problem.pastes
        ),
        held=tuple(replace(each, start_min=each.start_min + DAY_MIN) for each in problem.held),
        not_before_min=soonest,
        day_before_from_min=None,
    )


def _room_of(problem: DayProblem, relaxed: Relaxed) -> int | None:
    """How far a shift can grow before it meets another, or the first midnight."""
    if not relaxed.what.startswith("baker_"):
        return None
    own = problem.baker[relaxed.shift]
    if relaxed.what == "baker_earlier":
        before = [s.to_min for s in problem.baker if s.to_min <= own.from_min]
        return own.from_min - max(before, default=0)
    after = [s.from_min for s in problem.baker if s.from_min >= own.to_min]
    return min(after, default=own.to_min + 1440) - own.to_min


def smallest_of(remedies: list[Remedy]) -> tuple[Remedy, ...]:
    """One of each kind, the smallest; a ready time of all only where no single one will do."""
    best: dict[str, Remedy] = {}
    for each in remedies:
        key = each.what
        if each.what == "ready_later" and not each.paste and "ready_later" in best:
            continue
        there = best.get(key)
        if there is None or (each.minutes or each.spaces or 0) < (
            there.minutes or there.spaces or 0
        ):
            best[key] = each

    def weight(each: Remedy) -> int:
        if each.what == "day_earlier":
            return DAY_EARLIER_MIN
        return ANOTHER_MIN if each.minutes is None else each.minutes

    return tuple(sorted(best.values(), key=weight))


ANOTHER_MIN, DAY_EARLIER_MIN = 30, 240
"""Where another pair of hands and an earlier day stand among minutes [min], our choice."""


def in_the_way(problem: DayProblem, stopped: Stopper) -> str:
    """Say which pastes cannot be ready, and by what they are held up."""
    if stopped():
        return "the search was stopped before it was clear what is in the way"
    eased = replace(problem, goal="least_late")
    built = Built(eased, Relaxed(), soft=problem.under_way)
    run = (
        Run("none") if built.impossible else search(built, built.aim, LETTING_WORK, stopped=stopped)
    )
    if run.ended != "found":
        return built.impossible
    starts = starts_of(run.steps)
    told = []
    for paste in eased.pastes:
        _, end = ends_min(paste, starts, eased)
        if paste.ready_by_min is not None and end > paste.ready_by_min:
            told.append(
                f"{paste.name} would be ready {end - paste.ready_by_min} min late: "
                + _held_up(eased, starts, paste.name)
            )
    return "; ".join(told)


def _held_up(problem: DayProblem, starts: Starts, name: str) -> str:
    """Walk back from the last step of a paste along what keeps each from being sooner."""
    paste = next(p for p in problem.pastes if p.name == name)
    needs = {
        (p.name, s.name): (s, taken(s, p.name, problem)) for p in problem.pastes for s in p.steps
    }
    chain = []
    for i in range(len(paste.steps) - 1, -1, -1):
        step = paste.steps[i]
        start = starts[name, step.name]
        free = starts[name, paste.steps[i - 1].name] + paste.steps[i - 1].minutes if i else 0
        wanted = free + paste.steps[i - 1].rest_min if i else 0
        if start <= wanted:
            continue
        others = [
            f"“{other.called}” of {key[0]}"
            for key, (other, took) in needs.items()
            if key[0] != name and set(other.needs) & set(step.needs) and starts[key] + took == start
        ]
        if others:
            chain.append(f"“{step.called}” waits for {others[0]}")
        elif any(shift.from_min == start for shift in problem.shifts) and "baker" in step.needs:
            chain.append(f"“{step.called}” waits for the baker’s hours")
    hands = sum(taken(s, name, problem) for s in paste.steps)
    rests = sum(s.rest_min for s in paste.steps[:-1])
    if not chain:
        return f"its {len(paste.steps)} steps take {hands} min and its rests {rests} min"
    return ", ".join(reversed(chain[:3]))


_SHORT = {
    "ready_later": "the time they must be ready by",
    "baker_earlier": "the hour at which the baker starts",
    "baker_later": "the hour at which the baker ends",
    "fridge_spaces": "the spaces in the fridge",
    "freezer_spaces": "the spaces in the freezer",
    "second_baker": "having only one pair of hands",
    "ovens": "the oven",
    "sheeters": "the sheeter",
    "benches": "the bench",
    "mixers": "the mixer",
    "day_earlier": "the day on which the work starts",
}


def too_little(problem: DayProblem, remedies: tuple[Remedy, ...]) -> str:
    """Say what there is too little of, where no lateness would help."""
    spaces = {"fridge": problem.fridge_spaces, "freezer": problem.freezer_spaces}
    for paste in problem.pastes:
        for step in paste.all_steps:
            there = spaces[step.held_in]
            if there is not None and step.fridge_spaces > there:
                return (
                    f"the rest after “{step.called}” of {paste.name} takes {step.fridge_spaces} "
                    f"spaces in the {step.held_in}, and there are only {there}"
                )
    names = ", ".join(p.name for p in problem.pastes[:4])
    more = f" and {len(problem.pastes) - 4} more" if len(problem.pastes) > 4 else ""
    ways = [_SHORT[each.what] for each in remedies if each.what in _SHORT]
    tight = min(
        (
            (s.rest_max, s.name, p.name)
            for p in problem.pastes
            for s in p.steps[:-1]
            if s.rest_max and s.rest_max <= TIGHT_MIN
        ),
        default=None,
    )
    rest = (
        f"; the tightest wait is {tight[0]} min after “{tight[1]}” of {tight[2]}" if tight else ""
    )
    what = f"; what stops it: {' or '.join(ways)}" if ways else ""
    return f"the steps of {names}{more} and their rests do not fit together{what}{rest}"
