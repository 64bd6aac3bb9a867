"""A day solved: the best timetable, or what is in the way and the least that would help."""

from collections.abc import Callable

from msgspec import Struct

from aplomb.core.day.model import Built, Expression, Relaxed
from aplomb.core.day.plan import (
    DayPlan,
    broken_rests,
    elapsed_and_late,
    faults,
    starts_of,
)
from aplomb.core.day.problem import DayProblem, Started, check_day
from aplomb.core.day.remedies import (
    Remedy,
    held_together,
    in_the_way,
    least,
    lettings,
    smallest_of,
    too_little,
)
from aplomb.core.day.search import Run, Stopper, search

WORK = 0.4
"""How much the solver works on one question at the most, in its own measure: a few seconds each on
a usual machine, and the same on every one, so that an answer is the same too [-]."""
FIRST_WORK, POLISH = 0.05, 0.1
"""Work on a first timetable, and on one as late as is safe [-]."""


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
            because=(
                "no timetable was found, but there may be one; allow more time in "
                "the day, or order less"
            ),
            undecided=True,
        )
    return _impossible(problem, built.impossible, stopped)


def _first_and_best(
    built: Built, work: float, tell: Callable[[tuple[Started, ...], int], None], stopped: Stopper
) -> Run:
    """Find some timetable at once, without sums over the whole day, and then go for the best."""
    if built.impossible:
        return Run("none")
    aim = built.aim
    first = search(built, aim, FIRST_WORK, (), tell, stopped, linear=0)
    if first.proven or first.ended == "none" or stopped():
        return first
    best = first.value if first.ended == "found" else None

    def tell_better(steps: tuple[Started, ...], bound: int) -> None:
        elapsed, late = elapsed_and_late(built.problem, starts_of(steps))
        reached = late if built.problem.goal == "least_late" else elapsed
        if best is None or reached < best:
            tell(steps, bound)

    second = search(built, aim, work, first.steps, tell_better, stopped, linear=2)
    if second.ended == "found" or first.ended != "found":
        return second
    return first


def _softened(problem: DayProblem, work: float, stopped: Stopper) -> tuple[Run, Built]:
    """Hold the rests as nearly as can be, and then go by the goal."""
    soft = Built(problem, Relaxed(), soft=True)
    if soft.impossible:
        return Run("none"), soft
    first = search(soft, sum(soft.breaks), work / 2, stopped=stopped)
    if first.ended != "found":
        return first, soft
    soft.model.add(sum(soft.breaks) <= first.value)
    second = search(soft, soft.aim, work / 2, first.steps, stopped=stopped)
    return (second if second.ended == "found" else first), soft


def _polished(problem: DayProblem, built: Built, run: Run, stopped: Stopper) -> tuple[Started, ...]:
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
    better = search(built, aim, POLISH, run.steps, stopped=stopped)
    return better.steps if better.ended == "found" else run.steps


def _impossible(problem: DayProblem, why: str, stopped: Stopper) -> DayAnswer:
    remedies = []
    for relaxed in lettings(problem):
        if stopped():
            break
        found = least(problem, relaxed, stopped)
        if found is not None:
            remedies.append(found)
    why = why or held_together(problem)
    smallest = smallest_of(remedies)
    because = why or in_the_way(problem, stopped) or too_little(problem, smallest)
    return DayAnswer(False, None, because, smallest)
