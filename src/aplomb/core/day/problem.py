"""What a timetable is asked for: pastes and their steps, hands, machines, spaces, hours.

Minutes are whole elapsed minutes from 00:00 of the first day; a clock that is put forward or back
changes what is shown of them, never them.
"""

from itertools import pairwise
from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import Problems

Need = Literal["baker", "sheeter", "oven"]
Goal = Literal["least_elapsed", "least_late"]
Held = Literal["fridge", "freezer"]
"""Where a rest takes up spaces."""
MOST_MIN = 60 * 1440
"""So far a timetable reaches [min]."""
MOST_PASTES, MOST_STEPS, MOST_SHIFTS = 60, 100, 400


class Shift(Struct, frozen=True, forbid_unknown_fields=True):
    """Hours in which the baker works [min]."""

    from_min: int
    to_min: int


class DayStep(Struct, frozen=True, forbid_unknown_fields=True):
    """One step, and the rest after it.

    Attributes
    ----------
    name : str
        What it is known by, of its own within the paste.
    minutes : int
        How long it takes [min].
    needs : tuple of {'baker', 'sheeter', 'oven'}
        What it takes up meanwhile.
    rest_min, rest_max : int
        Least and most time from its end to the next step [min]; None for no most.
    fridge_spaces : int
        Spaces that are held in that rest [-].
    held_in : {'fridge', 'freezer'}
        Where they are held.
    words : str
        What it is called where that is not its name.
    """

    name: str
    minutes: int
    needs: tuple[Need, ...] = ()
    rest_min: int = 0
    rest_max: int | None = None
    fridge_spaces: int = 0
    held_in: Held = "fridge"
    words: str = ""

    @property
    def called(self) -> str:
        """What it is called in what is said of it."""
        return self.words or self.name


class SideStep(Struct, frozen=True, forbid_unknown_fields=True):
    """A step beside the others, which must be done, and rest, before one of them.

    Attributes
    ----------
    name, minutes, needs, rest_min, rest_max, fridge_spaces, held_in, words
        As of a step; the rest goes to the step it precedes.
    before : str
        Name of that step.
    """

    name: str
    minutes: int
    before: str
    needs: tuple[Need, ...] = ()
    rest_min: int = 0
    rest_max: int | None = None
    fridge_spaces: int = 0
    held_in: Held = "fridge"
    words: str = ""

    @property
    def called(self) -> str:
        """What it is called in what is said of it."""
        return self.words or self.name


Key = tuple[str, str]
"""A step by its paste and its name."""
Steps = dict[Key, DayStep | SideStep]


class DayPaste(Struct, frozen=True, forbid_unknown_fields=True):
    """One paste of the day.

    Attributes
    ----------
    name : str
        Of its own within the day.
    ready_by_min : int or None
        When its last step must have ended [min]; None: at any time.
    ready_not_before_min : int or None
        When it may end at the earliest [min]; None: at any time.
    steps : tuple of DayStep
        In order.
    """

    name: str
    steps: tuple[DayStep, ...]
    ready_by_min: int | None = None
    ready_not_before_min: int | None = None
    sides: tuple[SideStep, ...] = ()

    @property
    def all_steps(self) -> "tuple[DayStep | SideStep, ...]":
        """The steps in order, then those beside them."""
        return (*self.steps, *self.sides)


class Started(Struct, frozen=True, forbid_unknown_fields=True):
    """A step that has begun, or is planned to [min]."""

    paste: str
    step: str
    start_min: int


class Running(Struct, frozen=True, forbid_unknown_fields=True):
    """The step under way, and how much longer it takes than planned [min]."""

    paste: str
    step: str
    extra_min: int = 0


class DayProblem(Struct, frozen=True, forbid_unknown_fields=True):
    """A day to be solved.

    Attributes
    ----------
    baker : tuple of Shift
        Hours of the hands, none overlapping.
    sheeters, ovens, bakers : int
        How many there are [-]; bakers in every shift.
    fridge_spaces, freezer_spaces : int or None
        [-]; None: as many as are wanted.
    goal : {'least_elapsed', 'least_late'}
        Least sum of the pastes' elapsed times, all ready in time; or least lateness.
    now_min : int or None
        What begins from now on is planned [min]; None: the day has not begun.
    overrun_min : int
        So long the last shift may run over [min].
    so_far : tuple of Started
        What began before now.
    held : tuple of Started
        Steps that are to begin at a time of the user's choice [min].
    after : tuple of (str, str, str)
        A paste, a step of it, and the paste that takes hands only once that step has ended: wheat
        comes to the bench when gluten-free has left it.
    """

    baker: tuple[Shift, ...]
    pastes: tuple[DayPaste, ...]
    sheeters: int = 1
    ovens: int = 1
    bakers: int = 1
    fridge_spaces: int | None = None
    freezer_spaces: int | None = None
    goal: Goal = "least_elapsed"
    now_min: int | None = None
    overrun_min: int = 0
    so_far: tuple[Started, ...] = ()
    running: Running | None = None
    held: tuple[Started, ...] = ()
    after: tuple[tuple[str, str, str], ...] = ()

    @property
    def under_way(self) -> bool:
        """True when the day has begun, so that what cannot be held any more is softened."""
        return self.now_min is not None

    @property
    def steps(self) -> Steps:
        """Every step of every paste, those beside too."""
        return {(paste.name, step.name): step for paste in self.pastes for step in paste.all_steps}


def taken(step: DayStep | SideStep, paste: str, problem: DayProblem) -> int:
    """How long a step takes [min], with what the one under way takes longer."""
    running = problem.running
    if running and (running.paste, running.step) == (paste, step.name):
        return step.minutes + running.extra_min
    return step.minutes


def check_day(problem: DayProblem) -> DayProblem:
    """Give the problem back if every value in it can be used.

    Raises
    ------
    FormulaError
        Listing all that is wrong, each with its field.
    """
    wrong = Problems()
    if not 1 <= len(problem.pastes) <= MOST_PASTES:
        wrong.add(f"pastes: {len(problem.pastes)} are given; use 1 to {MOST_PASTES}.")
    if len(problem.baker) > MOST_SHIFTS:
        wrong.add(f"baker: {len(problem.baker)} shifts are too many; up to {MOST_SHIFTS} fit.")
    for name, least, most in (
        ("sheeters", 0, 1000),
        ("ovens", 0, 1000),
        ("bakers", 1, 100),
        ("overrun_min", 0, 1440),
    ):
        wrong.number(name, getattr(problem, name), least, most, "")
    for name in ("fridge_spaces", "freezer_spaces"):
        if (spaces := getattr(problem, name)) is not None:
            wrong.number(name, spaces, 0, 100_000, "")
    if problem.now_min is not None:
        wrong.number("now_min", problem.now_min, 0, MOST_MIN, "min")
    _check_shifts(problem.baker, wrong)
    names: set[str] = set()
    for i, paste in enumerate(problem.pastes[:MOST_PASTES]):
        _check_paste(paste, f"pastes[{i}]", wrong)
        if paste.name in names:
            wrong.add(f"pastes[{i}].name: another paste is already called “{paste.name}”.")
        names.add(paste.name)
    if not wrong.told:
        _check_begun(problem, wrong)
    wrong.check()
    return problem


def _check_shifts(shifts: tuple[Shift, ...], wrong: Problems) -> None:
    for i, shift in enumerate(shifts[:MOST_SHIFTS]):
        wrong.number(f"baker[{i}].from_min", shift.from_min, 0, MOST_MIN, "min")
        wrong.number(f"baker[{i}].to_min", shift.to_min, 0, MOST_MIN, "min")
        if shift.to_min <= shift.from_min:
            wrong.add(f"baker[{i}]: ends at {shift.to_min}; it must end after {shift.from_min}.")
    order = sorted(range(len(shifts)), key=lambda i: shifts[i].from_min)
    for a, b in pairwise(order):
        if shifts[b].from_min < shifts[a].to_min:
            wrong.add(f"baker[{b}]: starts before baker[{a}] ends; for more hands, set bakers.")


def _check_paste(paste: DayPaste, where: str, wrong: Problems) -> None:
    if not paste.name.strip():
        wrong.add(f"{where}.name: must not be empty.")
    if not 1 <= len(paste.steps) <= MOST_STEPS:
        wrong.add(f"{where}.steps: {len(paste.steps)} are given; use 1 to {MOST_STEPS}.")
    for name in ("ready_by_min", "ready_not_before_min"):
        value = getattr(paste, name)
        if value is not None:
            wrong.number(f"{where}.{name}", value, 0, MOST_MIN, "min")
    by, soonest = paste.ready_by_min, paste.ready_not_before_min
    if by is not None and soonest is not None and soonest > by:
        wrong.add(f"{where}.ready_not_before_min: is after ready_by_min.")
    names: set[str] = set()
    steps: list[tuple[str, DayStep | SideStep]] = [
        (f"{where}.steps[{i}]", step) for i, step in enumerate(paste.steps[:MOST_STEPS])
    ]
    for i, side in enumerate(paste.sides):
        steps.append((f"{where}.side" if not i else f"{where}.sides[{i}]", side))
        if side.before not in {step.name for step in paste.steps}:
            wrong.add(f"{steps[-1][0]}.before: there is no step “{side.before}”.")
    for place, step in steps:
        if not step.name.strip():
            wrong.add(f"{place}.name: must not be empty.")
        if step.name in names:
            wrong.add(
                f"{place}.name: another step is already called “{step.name}” in {paste.name}."
            )
        names.add(step.name)
        wrong.number(f"{place}.minutes", step.minutes, 0, MOST_MIN, "min")
        wrong.number(f"{place}.rest_min", step.rest_min, 0, MOST_MIN, "min")
        wrong.number(f"{place}.fridge_spaces", step.fridge_spaces, 0, 100_000, "")
        if step.rest_max is not None:
            wrong.number(f"{place}.rest_max", step.rest_max, 0, MOST_MIN, "min")
            if step.rest_max < step.rest_min:
                wrong.add(f"{place}.rest_max: {step.rest_max} is less than rest_min.")


def _check_begun(problem: DayProblem, wrong: Problems) -> None:
    known = problem.steps
    begun: set[tuple[str, str]] = set()
    now = problem.now_min
    if now is None and (problem.so_far or problem.running):
        wrong.add("now_min: give it where something has started.")
    for field, given in (("so_far", problem.so_far), ("held", problem.held)):
        for i, each in enumerate(given):
            where = f"{field}[{i}]"
            wrong.number(f"{where}.start_min", each.start_min, 0, MOST_MIN, "min")
            if (each.paste, each.step) not in known:
                wrong.add(f"{where}: there is no step “{each.step}” of a paste “{each.paste}”.")
            elif field == "so_far" and now is not None and each.start_min > now:
                wrong.add(f"{where}.start_min: {each.start_min} is later than now.")
            if (each.paste, each.step) in begun:
                wrong.add(f"{where}: “{each.step}” of {each.paste} is given twice.")
            begun.add((each.paste, each.step))
    started = {(each.paste, each.step) for each in problem.so_far}
    running = problem.running
    if running is not None:
        if (running.paste, running.step) not in started:
            wrong.add("running: the step under way must be listed in so_far, with its start.")
        wrong.number("running.extra_min", running.extra_min, -1440, 1440, "min")
    for paste in problem.pastes:
        order = [(paste.name, step.name) in started for step in paste.steps]
        if any(later and not sooner for sooner, later in pairwise(order)):
            gap = paste.steps[order.index(False)].name
            wrong.add(f"so_far: “{gap}” of {paste.name} has not started, but a later step has.")
    for first, step, second in problem.after:
        if (first, step) not in known:
            wrong.add(f"after: there is no step “{step}” of a paste “{first}”.")
        if second not in {paste.name for paste in problem.pastes}:
            wrong.add(f"after: there is no paste “{second}”.")
