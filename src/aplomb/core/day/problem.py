"""What a timetable is asked for: pastes and their steps, hands, machines, spaces, hours.

Minutes are whole elapsed minutes from 00:00 of the first day; a clock that is put forward or back
changes what is shown of them, never them.
"""

from itertools import pairwise
from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import Problems

Need = Literal["baker", "sheeter", "oven", "bench", "mixer"]
Goal = Literal["least_elapsed", "least_late"]
Held = Literal["fridge", "freezer"]
"""Where a rest takes up spaces."""
DAY_MIN = 1440
MOST_MIN = 60 * DAY_MIN
"""So far a timetable reaches [min]."""
MOST_PASTES, MOST_STEPS, MOST_SHIFTS = 60, 400, 400
MOST_PEOPLE, MOST_LOADS = 40, 400
LOADS = ""
"""In place of a paste, for what an oven bakes of several."""


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
    stand_min : int
        A rest that goes over its most is followed by a stand of so long, in which what rested
        becomes fit to roll again [min]; 0 for a most that holds.
    stand_most : int or None
        Longest wait even so, the stand in it [min]; None for no limit.
    no_wait : bool
        The next step begins as soon as it ends.
    """

    name: str
    minutes: int
    needs: tuple[Need, ...] = ()
    rest_min: int = 0
    rest_max: int | None = None
    fridge_spaces: int = 0
    held_in: Held = "fridge"
    words: str = ""
    stand_min: int = 0
    stand_most: int | None = None
    no_wait: bool = False

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
    after : str
        Name of a step that must have ended before; empty for none.
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
    stand_min: int = 0
    stand_most: int | None = None
    after: str = ""

    @property
    def called(self) -> str:
        """What it is called in what is said of it."""
        return self.words or self.name


class Link(Struct, frozen=True, forbid_unknown_fields=True):
    """A rest between two steps of a paste that need not follow one another: of one wave of blocks.

    Attributes
    ----------
    first, then : str
        Names of the two steps.
    rest_min, rest_max, fridge_spaces, held_in, stand_min, stand_most
        As of a step's rest.
    """

    first: str
    then: str
    rest_min: int = 0
    rest_max: int | None = None
    fridge_spaces: int = 0
    held_in: Held = "fridge"
    stand_min: int = 0
    stand_most: int | None = None


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
    links: tuple[Link, ...] = ()

    @property
    def all_steps(self) -> "tuple[DayStep | SideStep, ...]":
        """The steps in order, then those beside them."""
        return (*self.steps, *self.sides)


class Started(Struct, frozen=True, forbid_unknown_fields=True):
    """A step that has begun, or is planned to [min]; who does it where people have names."""

    paste: str
    step: str
    start_min: int
    who: str = ""


class Person(Struct, frozen=True, forbid_unknown_fields=True):
    """One baker: a name, or initials, and hours."""

    name: str
    shifts: tuple[Shift, ...]


class LoadPaste(Struct, frozen=True, forbid_unknown_fields=True):
    """What a load takes of a paste.

    Attributes
    ----------
    after : str
        Step that must have ended before it goes in.
    before : str
        Step that begins only when it has come out; empty for none.
    rest_min, rest_max : int
        Least and most time from the end of that step until it goes in [min].
    """

    paste: str
    after: str
    before: str = ""
    rest_min: int = 0
    rest_max: int | None = None


class Load(Struct, frozen=True, forbid_unknown_fields=True):
    """One load of an oven, of one paste or several; loads go in in the order they are given."""

    name: str
    minutes: int
    pastes: tuple[LoadPaste, ...]
    needs: tuple[Need, ...] = ("oven",)


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
    benches, mixers : int or None
        [-]; None: as many as are wanted.
    people : tuple of Person
        Who works when; empty for `bakers` pairs of hands in every shift of `baker`.
    loads : tuple of Load
        What the ovens bake over all pastes.
    not_before_min : int
        Nothing that has not begun begins before this [min].
    day_before_from_min : int or None
        From when on work could begin on the day before the first [min from its midnight]; None
        where there is no such day.
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
    benches: int | None = None
    mixers: int | None = None
    people: tuple[Person, ...] = ()
    loads: tuple[Load, ...] = ()
    not_before_min: int = 0
    day_before_from_min: int | None = None

    @property
    def shifts(self) -> tuple[Shift, ...]:
        """All hours in which anybody works; of several people they may overlap."""
        return tuple(s for p in self.people for s in p.shifts) if self.people else self.baker

    @property
    def hands(self) -> int:
        """Pairs of hands that there are at one time, at the most [-]."""
        return len(self.people) or self.bakers

    @property
    def under_way(self) -> bool:
        """True when the day has begun, so that what cannot be held any more is softened."""
        return self.now_min is not None

    @property
    def steps(self) -> Steps:
        """Every step of every paste, those beside and the loads too."""
        found: Steps = {
            (paste.name, step.name): step for paste in self.pastes for step in paste.all_steps
        }
        for load in self.loads:
            found[LOADS, load.name] = DayStep(load.name, load.minutes, load.needs)
        return found

    def there(self, need: str) -> int | None:
        """How many of a thing there are [-]; None for as many as are wanted."""
        return {
            "baker": self.hands,
            "sheeter": self.sheeters,
            "oven": self.ovens,
            "bench": self.benches,
            "mixer": self.mixers,
            "fridge": self.fridge_spaces,
            "freezer": self.freezer_spaces,
        }[need]


def taken(step: DayStep | SideStep, paste: str, problem: DayProblem) -> int:
    """How long a step takes [min], with what the one under way takes longer."""
    running = problem.running
    if running and (running.paste, running.step) == (paste, step.name):
        return step.minutes + running.extra_min
    return step.minutes


class Gap(Struct, frozen=True):
    """The time between two steps, and what it must be.

    Attributes
    ----------
    first, then : (str, str)
        The steps by their paste and name.
    least, most : int
        [min]; None for no most.
    spaces, held_in
        Spaces held meanwhile [-], and where.
    stand_min, stand_most
        As of a step.
    """

    first: Key
    then: Key
    least: int = 0
    most: int | None = None
    spaces: int = 0
    held_in: Held = "fridge"
    stand_min: int = 0
    stand_most: int | None = None

    def holds(self, minutes: int) -> bool:
        """Tell whether a gap of so many minutes is as it must be."""
        if minutes < self.least:
            return False
        if self.most is None or minutes <= self.most:
            return True
        if not self.stand_min or minutes < self.most + self.stand_min:
            return False
        return self.stand_most is None or minutes <= self.stand_most


def _gap(paste: str, first: str, then: str, rest: "DayStep | SideStep | Link") -> Gap:
    """Give the time that a rest asks for between two steps of a paste."""
    at_once = isinstance(rest, DayStep) and rest.no_wait
    return Gap(
        (paste, first),
        (paste, then),
        0 if at_once else rest.rest_min,
        0 if at_once else rest.rest_max,
        rest.fridge_spaces,
        rest.held_in,
        rest.stand_min,
        rest.stand_most,
    )


def gaps_of(problem: DayProblem) -> list[Gap]:
    """Give every time between two steps that a plan must hold: the rests first."""
    found = []
    for paste in problem.pastes:
        name = paste.name
        found += [_gap(name, a.name, b.name, a) for a, b in pairwise(paste.steps)]
        found += [_gap(name, side.name, side.before, side) for side in paste.sides]
        found += [_gap(name, link.first, link.then, link) for link in paste.links]
        found += [Gap((name, s.after), (name, s.name)) for s in paste.sides if s.after]
    for load in problem.loads:
        for of in load.pastes:
            key = (LOADS, load.name)
            found.append(Gap((of.paste, of.after), key, of.rest_min, of.rest_max))
            if of.before:
                found.append(Gap(key, (of.paste, of.before)))
    return found


def last_loads(problem: DayProblem, paste: str) -> tuple[str, ...]:
    """Name the loads of a paste that none of its steps comes after: it is ready when they are."""
    return tuple(
        load.name
        for load in problem.loads
        if any(of.paste == paste and not of.before for of in load.pastes)
    )


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
    if len(problem.people) > MOST_PEOPLE:
        wrong.add(f"people: {len(problem.people)} are too many; up to {MOST_PEOPLE} fit.")
    for name, least, most in (
        ("sheeters", 0, 1000),
        ("ovens", 0, 1000),
        ("bakers", 1, 100),
        ("overrun_min", 0, 1440),
    ):
        wrong.number(name, getattr(problem, name), least, most, "")
    for name in ("fridge_spaces", "freezer_spaces", "benches", "mixers"):
        if (spaces := getattr(problem, name)) is not None:
            wrong.number(name, spaces, 0, 100_000, "")
    if problem.now_min is not None:
        wrong.number("now_min", problem.now_min, 0, MOST_MIN, "min")
    wrong.number("not_before_min", problem.not_before_min, 0, MOST_MIN, "min")
    _check_shifts(problem.baker, "baker", wrong)
    _check_people(problem.people, wrong)
    names: set[str] = set()
    for i, paste in enumerate(problem.pastes[:MOST_PASTES]):
        _check_paste(paste, f"pastes[{i}]", wrong)
        if paste.name in names:
            wrong.add(f"pastes[{i}].name: another paste is already called “{paste.name}”.")
        names.add(paste.name)
    if not wrong.told:
        _check_loads(problem, wrong)
    if not wrong.told:
        _check_begun(problem, wrong)
    wrong.check()
    return problem


def _check_people(people: tuple[Person, ...], wrong: Problems) -> None:
    names: set[str] = set()
    for i, person in enumerate(people[:MOST_PEOPLE]):
        if not person.name.strip():
            wrong.add(f"people[{i}].name: must not be empty.")
        if person.name in names:
            wrong.add(f"people[{i}].name: another person is already called “{person.name}”.")
        names.add(person.name)
        _check_shifts(person.shifts, f"people[{i}].shifts", wrong)


def _check_loads(problem: DayProblem, wrong: Problems) -> None:
    if len(problem.loads) > MOST_LOADS:
        wrong.add(f"loads: {len(problem.loads)} are too many; up to {MOST_LOADS} fit.")
    names: set[str] = set()
    steps = {p.name: {s.name for s in p.steps} for p in problem.pastes}
    for i, load in enumerate(problem.loads[:MOST_LOADS]):
        where = f"loads[{i}]"
        if not load.name.strip():
            wrong.add(f"{where}.name: must not be empty.")
        if load.name in names:
            wrong.add(f"{where}.name: another load is already called “{load.name}”.")
        names.add(load.name)
        wrong.number(f"{where}.minutes", load.minutes, 0, MOST_MIN, "min")
        if not load.pastes:
            wrong.add(f"{where}.pastes: name what is in it.")
        for k, of in enumerate(load.pastes):
            for field, step in (("after", of.after), ("before", of.before)):
                if (field == "after" or step) and step not in steps.get(of.paste, set()):
                    wrong.add(
                        f"{where}.pastes[{k}].{field}: there is no step “{step}” of a paste "
                        f"“{of.paste}”."
                    )
            if of.rest_max is not None and of.rest_max < of.rest_min:
                wrong.add(f"{where}.pastes[{k}].rest_max: {of.rest_max} is less than rest_min.")


def _check_shifts(shifts: tuple[Shift, ...], where: str, wrong: Problems) -> None:
    for i, shift in enumerate(shifts[:MOST_SHIFTS]):
        wrong.number(f"{where}[{i}].from_min", shift.from_min, 0, MOST_MIN, "min")
        wrong.number(f"{where}[{i}].to_min", shift.to_min, 0, MOST_MIN, "min")
        if shift.to_min <= shift.from_min:
            wrong.add(f"{where}[{i}]: ends at {shift.to_min}; it must end after {shift.from_min}.")
    order = sorted(range(len(shifts)), key=lambda i: shifts[i].from_min)
    for a, b in pairwise(order):
        if shifts[b].from_min < shifts[a].to_min:
            more = "; for more hands, set bakers" if where == "baker" else ""
            wrong.add(f"{where}[{b}]: starts before {where}[{a}] ends{more}.")


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
        if side.after and side.after not in {step.name for step in paste.steps}:
            wrong.add(f"{steps[-1][0]}.after: there is no step “{side.after}”.")
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
        wrong.number(f"{place}.stand_min", step.stand_min, 0, MOST_MIN, "min")
    at = {step.name: i for i, step in enumerate(paste.steps)}
    for i, link in enumerate(paste.links):
        place = f"{where}.links[{i}]"
        if not at.get(link.first, len(at)) < at.get(link.then, -1):
            wrong.add(f"{place}: names two steps of {paste.name}, the earlier one first.")
        wrong.number(f"{place}.rest_min", link.rest_min, 0, MOST_MIN, "min")
        if link.rest_max is not None and link.rest_max < link.rest_min:
            wrong.add(f"{place}.rest_max: {link.rest_max} is less than rest_min.")


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
