"""The case ``day``: a timetable."""

import math
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError, Problems
from aplomb.core.day.plan import BrokenRest
from aplomb.core.day.problem import (
    DayPaste,
    DayProblem,
    DayStep,
    Goal,
    Link,
    Load,
    LoadPaste,
    Need,
    Person,
    Running,
    Shift,
    SideStep,
    Started,
    taken,
)
from aplomb.core.day.remedies import Remedy
from aplomb.core.day.solve import WORK, DayAnswer, solve_day
from aplomb.work.day.words import remedy_words


class ShiftCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``baker[]``."""

    from_min: float
    to_min: float


class StepCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``pastes[].steps[]``."""

    name: str
    minutes: float
    needs: tuple[Need, ...] = ()
    rest_min: float = 0
    rest_max: float | None = None
    fridge_spaces: float = 0
    stand_min: float = 0
    stand_most: float | None = None
    no_wait: bool = False


class SideCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``pastes[].side``."""

    name: str
    minutes: float
    before: str
    needs: tuple[Need, ...] = ()
    rest_min: float = 0
    rest_max: float | None = None
    fridge_spaces: float = 0
    stand_min: float = 0
    stand_most: float | None = None
    after: str = ""


class LinkCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``pastes[].links[]``: a rest between two steps that need not follow one another."""

    first: str
    then: str
    rest_min: float = 0
    rest_max: float | None = None
    fridge_spaces: float = 0
    stand_min: float = 0
    stand_most: float | None = None


class PersonCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``people[]``: who works when."""

    name: str
    shifts: tuple[ShiftCase, ...]


class LoadPasteCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``loads[].pastes[]``: what a load takes of a paste."""

    paste: str
    after: str
    before: str = ""
    rest_min: float = 0
    rest_max: float | None = None


class LoadCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``loads[]``: the ovens' queue over all pastes."""

    name: str
    minutes: float
    pastes: tuple[LoadPasteCase, ...]
    needs: tuple[Need, ...] = ("oven",)


class PasteCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``pastes[]``."""

    name: str
    steps: tuple[StepCase, ...]
    ready_by_min: float | None = None
    ready_not_before_min: float | None = None
    side: SideCase | None = None
    sides: tuple[SideCase, ...] = ()
    links: tuple[LinkCase, ...] = ()


class StartedCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``so_far[]`` and ``held[]``."""

    paste: str
    step: str
    start_min: float
    who: str = ""


class RunningCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``running``."""

    paste: str
    step: str
    extra_min: float = 0


class DayCase(Struct, frozen=True, forbid_unknown_fields=True):
    """A timetable that is asked for; minutes are elapsed minutes from 00:00 of the first day."""

    pastes: tuple[PasteCase, ...]
    baker: tuple[ShiftCase, ...] | None = None
    sheeters: float = 1
    ovens: float = 1
    bakers: float = 1
    fridge_spaces: float | None = None
    goal: Goal = "least_elapsed"
    now_min: float | None = None
    overrun_min: float = 0
    so_far: tuple[StartedCase, ...] = ()
    running: RunningCase | None = None
    held: tuple[StartedCase, ...] = ()
    after: tuple[tuple[str, str, str], ...] = ()
    benches: float | None = None
    mixers: float | None = None
    people: tuple[PersonCase, ...] = ()
    loads: tuple[LoadCase, ...] = ()
    no_wait: tuple[tuple[str, str, str], ...] = ()
    not_before_min: float = 0


class StepResult(Struct, frozen=True, omit_defaults=True):
    """``steps[]``: a side by its name, a load with an empty paste [min]; who does it, if named."""

    paste: str
    step: str
    start_min: int
    end_min: int
    who: str = ""


class DayResult(Struct, frozen=True):
    """What is given back.

    Attributes
    ----------
    steps : tuple of StepResult
        In the order of time.
    elapsed_min, late_min, best_known : int or None
        Sum of the pastes' elapsed times and of their lateness; what cannot be undercut, of the one
        that the goal minimises [min].
    proven : bool
        True when there is no better one.
    broken : tuple of BrokenRest
        Rests that could no longer be held.
    because : str
        What is in the way; empty when it is possible.
    undecided : bool
        True when neither was found in the work that is allowed.
    """

    possible: bool
    steps: tuple[StepResult, ...]
    elapsed_min: int | None
    late_min: int | None
    best_known: int | None
    proven: bool
    broken: tuple[BrokenRest, ...]
    because: str
    remedies: tuple[Remedy, ...]
    undecided: bool


def _whole(value: Any, where: str, wrong: Problems) -> Any:
    """Turn every number of a case into whole minutes or pieces; what is none is told."""
    if isinstance(value, float) and not isinstance(value, bool):
        if not math.isfinite(value) or value != int(value):
            wrong.add(
                f"{where}: {value:g} is not a whole number; use whole minutes and whole numbers."
            )
            return 0
        return int(value)
    if isinstance(value, tuple):
        return tuple(_whole(each, f"{where}[{i}]", wrong) for i, each in enumerate(value))
    if isinstance(value, Struct):
        kind = _KINDS[type(value)]
        given = {
            name: _whole(getattr(value, name), f"{where}.{name}".lstrip("."), wrong)
            for name in value.__struct_fields__
        }
        if isinstance(value, PasteCase):
            side = given.pop("side")
            given["sides"] = (*((side,) if side else ()), *given["sides"])
        if isinstance(value, DayCase):
            if value.baker is None and not value.people:
                wrong.add("baker: give the shifts of the baker, or people with theirs.")
            given["baker"] = given["baker"] or ()
            given["pastes"] = _without_wait(given["pastes"], given.pop("no_wait"), wrong)
        return kind(**given)
    return value


_KINDS: dict[type, Any] = {
    ShiftCase: Shift, StepCase: DayStep, SideCase: SideStep, PasteCase: DayPaste,
    StartedCase: Started, RunningCase: Running, DayCase: DayProblem, LinkCase: Link,
    PersonCase: Person, LoadCase: Load, LoadPasteCase: LoadPaste,
}  # fmt: skip


def _without_wait(
    pastes: tuple[DayPaste, ...], pairs: tuple[tuple[str, str, str], ...], wrong: Problems
) -> tuple[DayPaste, ...]:
    """Let the second of two steps of a paste begin as soon as the first ends."""
    found = {paste.name: paste for paste in pastes}
    for i, (name, first, then) in enumerate(pairs):
        paste = found.get(name)
        names = [s.name for s in paste.steps] if paste else []
        if paste is None or first not in names or then not in names:
            wrong.add(f"no_wait[{i}]: name a paste and two of its steps.")
            continue
        if names.index(then) == names.index(first) + 1:
            steps = tuple(replace(s, no_wait=s.no_wait or s.name == first) for s in paste.steps)
            found[name] = replace(paste, steps=steps)
        else:
            link = Link(first, then, 0, 0)
            found[name] = replace(paste, links=(*paste.links, link))
    return tuple(found.values()) if len(found) == len(pastes) else pastes


def day_problem(case: DayCase) -> DayProblem:
    """Give the problem of a case.

    Raises
    ------
    FormulaError
        Naming every number that is not whole.
    """
    wrong = Problems()
    problem = _whole(case, "", wrong)
    wrong.check()
    if not isinstance(problem, DayProblem):
        raise AplombError("the case does not describe a day")
    return problem


def day(case: DayCase, work: float | None = None) -> DayResult:
    """Work the case out.

    Parameters
    ----------
    work : float or None
        How much the solver may work [-]; None for what is usual.

    Raises
    ------
    FormulaError
        Naming every field that cannot be used.
    """
    problem = day_problem(case)
    return day_found(problem, solve_day(problem, work=WORK if work is None else work))


def day_found(problem: DayProblem, answer: DayAnswer) -> DayResult:
    """Give an answer as a script reads it."""
    plan = answer.plan
    known = problem.steps
    took = {key: taken(step, key[0], problem) for key, step in known.items()}
    called = {key: step.called for key, step in known.items()}
    steps = (
        ()
        if plan is None
        else tuple(
            StepResult(
                e.paste,
                called[e.paste, e.step],
                e.start_min,
                e.start_min + took[e.paste, e.step],
                e.who,
            )
            for e in plan.steps
        )
    )
    return DayResult(
        answer.possible,
        steps,
        plan.elapsed_min if plan else None,
        plan.late_min if plan else None,
        plan.best_known if plan else None,
        bool(plan and plan.proven),
        tuple(replace(b, step=called[b.paste, b.step]) for b in plan.broken) if plan else (),
        answer.because,
        answer.remedies,
        answer.undecided,
    )


def clock(minutes: int) -> str:
    """Write elapsed minutes as a day and an hour.

    Parameters
    ----------
    minutes : int
        From 00:00 of the first day [min].

    Examples
    --------
    >>> clock(90), clock(1530)
    ('01:30', 'day 2 01:30')
    """
    days, rest = divmod(minutes, 1440)
    day_words = f"day {days + 1} " if days else ""
    return f"{day_words}{rest // 60:02d}:{rest % 60:02d}"


def day_words(found: DayResult) -> str:
    """Say a timetable in plain words."""
    if not found.possible:
        told = [f"not possible: {found.because}"]
        told += [f"it would be with {remedy_words(each)}" for each in found.remedies]
        return "\n".join(told)
    lines = [
        f"{clock(each.start_min)} to {clock(each.end_min)}  {each.paste or 'oven'}: {each.step}"
        + (f" ({each.who})" if each.who else "")
        for each in found.steps
    ]
    lines += [
        f"the rest after {b.step} ({b.paste}) is {b.minutes} min, outside its limits"
        for b in found.broken
    ]
    best = "the best possible" if found.proven else f"{found.best_known} min at best"
    late = f", {found.late_min} min late" if found.late_min else ""
    return "\n".join([*lines, f"elapsed {found.elapsed_min} min{late}; {best}"])
