"""A day solved: the best timetable, or what is in the way and the least that would help."""

from collections.abc import Callable
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.day.model import Built, Expression, Letting, Relaxed
from aplomb.core.day.plan import (
    DayPlan,
    Starts,
    broken_rests,
    elapsed_and_late,
    ends_min,
    faults,
    starts_of,
)
from aplomb.core.day.problem import DayProblem, Started, check_day, taken

WORK = 0.4
"""How much the solver works on one question at the most, in its own measure: a few seconds each on
a usual machine, and the same on every one, so that an answer is the same too [-]."""
FIRST_WORK, POLISH, LETTING_WORK = 0.05, 0.1, 0.4
"""Work on a first timetable, on one as late as is safe, and on each limit that is let out [-]."""
WALL_S = 120.0
"""A net below that: on a machine so slow that the measure says nothing [s]."""
SEED = 7
TIGHT_MIN = 60
"""A wait so short is named where steps do not fit together [min]."""
MOST_SHIFTS_TRIED = 6


class Remedy(Struct, frozen=True, omit_defaults=True):
    """A change that makes a day possible.

    Attributes
    ----------
    what : str
        `ready_later`, `baker_earlier`, `baker_later`, `fridge_spaces`, `second_baker`, `ovens`,
        `freezer_spaces`, `sheeters`.
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


class DayAnswer(Struct, frozen=True):
    """What came of it.

    Attributes
    ----------
    plan : DayPlan or None
        None when there is none.
    because : str
        What is in the way, in words; empty when it is possible.
    remedies : tuple of Remedy
        The smallest changes that make it possible.
    undecided : bool
        True when no plan was found and none was ruled out in the work that was allowed.
    """

    possible: bool
    plan: DayPlan | None = None
    because: str = ""
    remedies: tuple[Remedy, ...] = ()
    undecided: bool = False


OnBest = Callable[[DayPlan], None]
Ending = Literal["found", "none", "unknown"]


class Stopper:
    """Ends a search from another thread, with the best that there is."""

    def __init__(self) -> None:
        self._stopped = False
        self._end: Callable[[], None] | None = None

    def __call__(self) -> bool:
        """Tell whether it was stopped."""
        return self._stopped

    def watch(self, end: Callable[[], None] | None) -> None:
        """Take what ends the search that begins now; None when it is over."""
        self._end = end

    def stop(self) -> None:
        """End the search, and begin no other."""
        self._stopped = True
        if self._end is not None:
            self._end()


class _Run(Struct, frozen=True):
    """What one search gave."""

    ended: Ending
    steps: tuple[Started, ...] = ()
    bound: int = 0
    value: int = 0
    proven: bool = False


def _search(
    built: Built,
    aim: Expression,
    work: float,
    hint: tuple[Started, ...] = (),
    on_steps: Callable[[tuple[Started, ...], int], None] | None = None,
    stopped: Stopper | None = None,
    linear: int = 1,
) -> _Run:
    """Minimise an aim over a model; no value is read before the status is known."""
    from ortools.sat.python import cp_model

    if built.impossible:
        return _Run("none")
    model = built.model
    model.minimize(aim)
    model.clear_hints()  # type: ignore[no-untyped-call]
    for key, start in starts_of(hint).items():
        model.add_hint(built.starts[key], start)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = SEED
    solver.parameters.max_deterministic_time = work
    solver.parameters.max_time_in_seconds = WALL_S
    solver.parameters.linearization_level = linear

    class Watch(cp_model.CpSolverSolutionCallback):
        def on_solution_callback(self) -> None:
            if on_steps is not None:
                on_steps(built.plan_of(self.value), int(self.best_objective_bound))
            if stopper():
                self.stop_search()

    stopper = stopped or Stopper()
    stopper.watch(solver.stop_search)
    status = solver.solve(model, Watch())
    stopper.watch(None)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return _Run("none" if status == cp_model.INFEASIBLE else "unknown")
    return _Run(
        "found",
        built.plan_of(solver.value),
        round(solver.best_objective_bound),
        round(solver.objective_value),
        status == cp_model.OPTIMAL,
    )


def _plan(problem: DayProblem, steps: tuple[Started, ...], bound: int, *, proven: bool) -> DayPlan:
    starts = starts_of(steps)
    elapsed, late = elapsed_and_late(problem, starts)
    reached = late if problem.goal == "least_late" else elapsed
    broken = broken_rests(problem, starts) if problem.under_way else ()
    return DayPlan(
        steps, elapsed, late, max(0, min(bound, reached)), proven or bound >= reached, broken
    )


def solve_day(
    problem: DayProblem,
    on_best: OnBest | None = None,
    stopped: Stopper | None = None,
    work: float = WORK,
) -> DayAnswer:
    """Solve a day.

    The same for the same problem.

    Parameters
    ----------
    on_best : callable or None
        Told of each better timetable while the search goes on; every one holds.
    stopped : Stopper or None
        By which it is ended with the best there is.
    work : float
        How much work is allowed, in the solver's own measure [-].

    Raises
    ------
    FormulaError
        When the problem cannot be used.

    Notes
    -----
    Constraint programming over intervals with lazily explained clauses (CP-SAT), one worker and a
    seed. Of a day under way, rests are held as long as they can be; then they are softened, a rest
    that is cut counting three times one that is drawn out.
    """
    check_day(problem)
    stopped = stopped or Stopper()
    built = Built(problem, Relaxed(), soft=False)

    def tell(steps: tuple[Started, ...], bound: int) -> None:
        if on_best is not None:
            on_best(_plan(problem, steps, bound, proven=False))

    run = _first_and_best(built, work, tell, stopped)
    if run.ended != "found" and problem.under_way and not built.impossible and not stopped():
        run, built = _softened(problem, work, stopped)
    if run.ended == "found":
        better = run.steps if stopped() else _polished(problem, built, run, stopped)
        plan = _plan(problem, better, run.bound, proven=run.proven)
        wrong = faults(problem, plan.steps)
        assert not wrong, wrong
        return DayAnswer(True, plan)
    if run.ended == "unknown":
        return DayAnswer(
            False,
            because="no timetable was found, and none was ruled out; allow more time, or "
            "ask for less",
            undecided=True,
        )
    return _impossible(problem, built.impossible, stopped)


def _first_and_best(
    built: Built, work: float, tell: Callable[[tuple[Started, ...], int], None], stopped: Stopper
) -> _Run:
    """Find some timetable at once, without sums over the whole day, and then go for the best."""
    if built.impossible:
        return _Run("none")
    aim = built.aim
    first = _search(built, aim, FIRST_WORK, (), tell, stopped, linear=0)
    if first.proven or first.ended == "none" or stopped():
        return first
    best = first.value if first.ended == "found" else None

    def tell_better(steps: tuple[Started, ...], bound: int) -> None:
        elapsed, late = elapsed_and_late(built.problem, starts_of(steps))
        reached = late if built.problem.goal == "least_late" else elapsed
        if best is None or reached < best:
            tell(steps, bound)

    second = _search(built, aim, work, first.steps, tell_better, stopped, linear=2)
    if second.ended == "found" or first.ended != "found":
        return second
    return first


def _softened(problem: DayProblem, work: float, stopped: Stopper) -> tuple[_Run, Built]:
    """Hold the rests as nearly as can be, and then go by the goal."""
    soft = Built(problem, Relaxed(), soft=True)
    if soft.impossible:
        return _Run("none"), soft
    first = _search(soft, sum(soft.breaks), work / 2, stopped=stopped)
    if first.ended != "found":
        return first, soft
    soft.model.add(sum(soft.breaks) <= first.value)
    second = _search(soft, soft.aim, work / 2, first.steps, stopped=stopped)
    return (second if second.ended == "found" else first), soft


def _polished(
    problem: DayProblem, built: Built, run: _Run, stopped: Stopper
) -> tuple[Started, ...]:
    """Among the timetables as good as the best, one as late as is safe, hands in one piece."""
    hands = [k for k, s in built.steps.items() if "baker" in s.needs and k not in built.started]
    model = built.model
    model.add(built.aim <= run.value)
    aim: Expression = -sum(built.starts.values())
    if problem.goal == "least_late":
        aim = aim + 4 * sum(built.elapsed)
    if hands:
        first = model.new_int_var(0, built.horizon, "")
        last = model.new_int_var(0, built.horizon, "")
        for key in hands:
            model.add(first <= built.starts[key])
            model.add(last >= built.starts[key] + built.took(key))
        aim = aim + (last - first) * len(hands)
    better = _search(built, aim, POLISH, run.steps, stopped=stopped)
    return better.steps if better.ended == "found" else run.steps


def _impossible(problem: DayProblem, why: str, stopped: Stopper) -> DayAnswer:
    remedies = []
    for relaxed in _lettings(problem):
        if stopped():
            break
        found = _least(problem, relaxed, stopped)
        if found is not None:
            remedies.append(found)
    why = why or _held_together(problem)
    smallest = _smallest(remedies)
    because = why or _in_the_way(problem, stopped) or _too_little(problem, smallest)
    return DayAnswer(False, None, because, smallest)


def _held_together(problem: DayProblem) -> str:
    """Name two steps that are held at one time and need the same; empty without any."""
    steps = problem.steps
    there = {"baker": problem.bakers, "sheeter": problem.sheeters, "oven": problem.ovens}
    for i, one in enumerate(problem.held):
        for other in problem.held[:i]:
            a, b = steps[one.paste, one.step], steps[other.paste, other.step]
            both = set(a.needs) & set(b.needs)
            apart = one.start_min >= other.start_min + taken(
                b, other.paste, problem
            ) or other.start_min >= one.start_min + taken(a, one.paste, problem)
            if not apart and any(there[need] < 2 for need in both):
                return (
                    f"“{one.step}” of {one.paste} and “{other.step}” of {other.paste} are held at "
                    "one time; let one of them go"
                )
    return ""


def _lettings(problem: DayProblem) -> list[Relaxed]:
    found = []
    if problem.goal == "least_elapsed":
        found += [Relaxed("ready_later", p.name) for p in problem.pastes if p.ready_by_min]
        if len(found) > 1:
            found.append(Relaxed("ready_later"))
    shifts = range(min(len(problem.baker), MOST_SHIFTS_TRIED))
    for i in shifts:
        found += [Relaxed("baker_earlier", shift=i), Relaxed("baker_later", shift=i)]
    if problem.fridge_spaces is not None:
        found.append(Relaxed("fridge_spaces"))
    if problem.freezer_spaces is not None:
        found.append(Relaxed("freezer_spaces"))
    found.append(Relaxed("second_baker"))
    needs = {need for p in problem.pastes for s in p.steps for need in s.needs}
    found += [Relaxed("ovens")] if "oven" in needs else []
    found += [Relaxed("sheeters")] if "sheeter" in needs else []
    return found


def _least(problem: DayProblem, relaxed: Relaxed, stopped: Stopper) -> Remedy | None:
    """The least by which a limit is let out so that the day is possible; None when none will do."""
    built = Built(problem, relaxed, soft=problem.under_way)
    if built.let is None or built.impossible:
        return None
    room = _room_of(problem, relaxed)
    if room is not None:
        built.model.add(built.let <= room)
    run = _search(built, built.let, LETTING_WORK, stopped=stopped)
    if run.ended != "found" or run.value <= 0:
        return None
    least = run.value
    shift = relaxed.shift if relaxed.what.startswith("baker_") else None
    if relaxed.what in ("fridge_spaces", "freezer_spaces"):
        return Remedy(relaxed.what, spaces=least)
    if relaxed.what in ("second_baker", "ovens", "sheeters"):
        return Remedy(relaxed.what)
    return Remedy(relaxed.what, relaxed.paste, minutes=least, shift=shift)


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


def _smallest(remedies: list[Remedy]) -> tuple[Remedy, ...]:
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
    return tuple(sorted(best.values(), key=lambda r: (r.minutes or 0) + 30 * (r.minutes is None)))


def _in_the_way(problem: DayProblem, stopped: Stopper) -> str:
    """Say which pastes cannot be ready, and by what they are held up."""
    if stopped():
        return "the search was ended before it was clear what is in the way"
    eased = replace(problem, goal="least_late")
    built = Built(eased, Relaxed(), soft=problem.under_way)
    run = (
        _Run("none")
        if built.impossible
        else _search(built, built.aim, LETTING_WORK, stopped=stopped)
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
            f"“{key[1]}” of {key[0]}"
            for key, (other, took) in needs.items()
            if key[0] != name and set(other.needs) & set(step.needs) and starts[key] + took == start
        ]
        if others:
            chain.append(f"“{step.name}” waits for {others[0]}")
        elif any(shift.from_min == start for shift in problem.baker) and "baker" in step.needs:
            chain.append(f"“{step.name}” waits for the baker’s hours")
    hands = sum(taken(s, name, problem) for s in paste.steps)
    rests = sum(s.rest_min for s in paste.steps[:-1])
    if not chain:
        return f"its {len(paste.steps)} steps take {hands} min and its rests {rests} min"
    return ", ".join(reversed(chain[:3]))


_SHORT = {
    "ready_later": "the time they must be ready by",
    "baker_earlier": "the hour at which the baker begins",
    "baker_later": "the hour at which the baker ends",
    "fridge_spaces": "the spaces in the fridge",
    "freezer_spaces": "the spaces in the freezer",
    "second_baker": "one pair of hands",
    "ovens": "the oven",
    "sheeters": "the sheeter",
}


def _too_little(problem: DayProblem, remedies: tuple[Remedy, ...]) -> str:
    """Say what there is too little of, where no lateness would help."""
    spaces = {"fridge": problem.fridge_spaces, "freezer": problem.freezer_spaces}
    for paste in problem.pastes:
        for step in paste.all_steps:
            there = spaces[step.held_in]
            if there is not None and step.fridge_spaces > there:
                return (
                    f"the rest after “{step.name}” of {paste.name} takes {step.fridge_spaces} "
                    f"spaces in the {step.held_in}, and there are {there}"
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
    what = f": in the way {'are' if len(ways) > 1 else 'is'} {' or '.join(ways)}" if ways else ""
    return f"the steps of {names}{more} and their rests do not fit together{what}{rest}"
