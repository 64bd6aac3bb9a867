"""The day's timetable: from what the book knows to a problem, ready to be solved and shown."""

from collections.abc import Mapping, Sequence
from datetime import date, datetime, time, timedelta
from itertools import pairwise

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.day.plan import DayPlan, faults
from aplomb.core.day.problem import DAY_MIN, DayProblem, Person, Shift, Started, taken
from aplomb.core.day.sheet import MOST_DAYS_BEFORE, DaySheet
from aplomb.core.kitchen.day_steps import (
    PasteSteps,
    day_problem,
    piece_put_by,
    steps_of_paste,
)
from aplomb.core.kitchen.demand import PasteOfDay, plan_day
from aplomb.core.kitchen.step_list import StepNote
from aplomb.core.study.study import Reference, Study
from aplomb.work.day.clock import DayClock
from aplomb.work.open_book.rows import Kitchen
from aplomb.work.open_book.workbench import Workbench


class Gathered(Struct, frozen=True):
    """What a timetable is made of, taken at one moment, so that it can be worked out beside.

    Attributes
    ----------
    studies : dict of Study, by identity
        Of the formulas that the day wants.
    day : date
        On which things are wanted.
    """

    kitchen: Kitchen
    studies: dict[str, Study]
    reference: Reference
    day: date


class DayView(Struct, frozen=True):
    """A day ready to be solved and shown.

    Attributes
    ----------
    problem : DayProblem
        Its pastes named as they are shown.
    names : dict of str, by identity
        As shown: two formulas of one name are told apart.
    day : date
        On which things are wanted.
    troubles : tuple of str
        Why some of what is wanted is not in it.
    """

    sheet: DaySheet
    pastes: tuple[PasteSteps, ...]
    problem: DayProblem
    names: dict[str, str]
    clock: DayClock
    day: date
    troubles: tuple[str, ...]
    house: House

    @property
    def uids(self) -> dict[str, str]:
        """Identities by shown name."""
        return {name: uid for uid, name in self.names.items()}

    def note(self, paste: str, step: str) -> StepNote:
        """What is known of a step, by the shown name of its paste."""
        uid = self.uids[paste]
        return next(p for p in self.pastes if p.uid == uid).notes[step]

    def words(self, paste: str, step: str) -> str:
        """What a step is called."""
        return self.problem.steps[paste, step].called

    def minutes(self, paste: str, step: str) -> int:
        """How long a step takes [min]."""
        return taken(self.problem.steps[paste, step], paste, self.problem)

    def step_before(self, paste: str, step: str) -> str:
        """Give the step before one; empty before the first, and for one beside the others."""
        found = next(p for p in self.problem.pastes if p.name == paste)
        pairs = {b.name: a.name for a, b in pairwise(found.steps)}
        return pairs.get(step, "")

    def kept_plan(self) -> DayPlan | None:
        """Give the plan of the sheet when it still holds; None when it does not."""
        steps = tuple(
            replace(each, paste=self.names[each.paste])
            for each in self.sheet.plan
            if each.paste in self.names
        )
        if not steps or faults(self.problem, steps):
            return None
        return DayPlan(steps, 0, 0, 0, proven=False)

    def by_uid(self, steps: tuple[Started, ...]) -> tuple[Started, ...]:
        """Give steps with their pastes named by identity, as the sheet keeps them."""
        uids = self.uids
        return tuple(replace(each, paste=uids[each.paste]) for each in steps)


LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


def letter_of(number: int) -> str:
    """Give the letter by which a paste of the day is known, by its number from 0.

    Examples
    --------
    >>> letter_of(0), letter_of(27)
    ('A', 'B')
    """
    return LETTERS[number % len(LETTERS)]


def wanted_day(kitchen: Kitchen, house: House, now: datetime) -> date:
    """Give the day on which things are wanted: as the demand says, or the soonest to be had.

    Where the demand names none it is tomorrow, or later, so that the first day of the work is one
    whose hours are still to come. What is under way goes on with the day it was begun for.
    """
    sheet, today = kitchen.timetable, now.date()
    try:
        return date.fromisoformat(kitchen.demand.day or sheet.begun_for)
    except ValueError:
        each_day = (sheet.hours or house.hours, *(each.hours for each in house.people))
        begins = min((begin for hours in each_day for begin, _ in hours), default=0)
        is_over = sheet.now_min is None and 60 * now.hour + now.minute > begins
        first = today + timedelta(days=int(is_over))
        return max(first + timedelta(days=sheet.days_before), today + timedelta(days=1))


def gather(work: Workbench, today: date | None = None) -> Gathered:
    """Take all that a timetable is made of.

    Parameters
    ----------
    today : date or None
        As its first minute finds it; None: as the clock says.
    """
    now = datetime.now().astimezone() if today is None else datetime.combine(today, time())
    kitchen, reference = work.store.kitchen, work.store.reference
    wanted = list(dict.fromkeys(w.uid for w in kitchen.demand.wants if w.pieces > 0))
    found = {uid: work.shelf.study_of(uid) for uid in wanted if uid in work.shelf.entries}
    studies = {uid: study for uid, study in found.items() if study is not None}
    return Gathered(kitchen, studies, reference, wanted_day(kitchen, reference.house, now))


def view_of(gathered: Gathered) -> DayView:
    """Work a day out as far as it goes without being solved.

    Raises
    ------
    AplombError
        When nothing is wanted, or nothing of it can be made.
    """
    kitchen, reference = gathered.kitchen, gathered.reference
    sheet, house = kitchen.timetable, reference.house
    blocks, first = kitchen.stock.blocks(), sheet.from_frozen
    made = plan_day(kitchen.demand, gathered.studies, reference, blocks, from_stock=first)
    troubles = tuple(f"{p.formula.name}: {p.trouble}" for p in made if p.trouble)
    troubles += _too_few(made, kitchen)
    pastes = tuple(
        steps_of_paste(
            p,
            reference.pantry,
            house,
            sheet,
            kitchen.stock.kept,
        )
        for p in made
        if not p.trouble and p.uid not in sheet.left_out
    )
    troubles += tuple(f"{p.name}: {told}." for p in pastes for told in p.words)
    if not pastes:
        raise AplombError(
            " ".join(troubles)
            or (
                "Nothing is ordered yet: enter the products and how "
                "many of each under Day’s demand."
            )
        )
    clock = DayClock(gathered.day - timedelta(days=sheet.days_before))
    shifts = _shifts(clock, sheet, sheet.hours or house.hours)
    ready = {p.uid: clock.elapsed(sheet.days_before, sheet.ready_of(p.uid)) for p in pastes}
    people = [
        Person(each.name, _shifts(clock, sheet, each.hours or sheet.hours or house.hours))
        for each in house.people
    ]
    problem = day_problem(pastes, sheet, house, shifts, ready, people)
    names = _shown_names(pastes)
    return DayView(
        sheet, pastes, _named(problem, names), names, clock, gathered.day, troubles, house
    )


def _shifts(
    clock: DayClock, sheet: DaySheet, hours: tuple[tuple[int, int], ...]
) -> tuple[Shift, ...]:
    """Give hours of each day as shifts of the days there are."""
    spans = clock.hours(sheet.days_before + 1, hours)
    return tuple(Shift(begin, end) for begin, end in spans if end > begin)


def _too_few(made: Sequence[PasteOfDay], kitchen: Kitchen) -> tuple[str, ...]:
    """Say of which pieces fewer are put by than are wanted."""
    told = []
    for each in made:
        item = piece_put_by(each.uid, kitchen.timetable, kitchen.stock.kept)
        wanted = sum(w.pieces for w in kitchen.demand.wants if w.uid == each.uid)
        if item is not None and item.many < wanted and each.uid not in kitchen.timetable.left_out:
            told.append(f"{each.formula.name}: {item.many} in stock, {wanted} ordered.")
    return tuple(told)


def _shown_names(pastes: tuple[PasteSteps, ...]) -> dict[str, str]:
    names: dict[str, str] = {}
    for paste in pastes:
        name, n = paste.name, 2
        while name in names.values():
            name, n = f"{paste.name} ({n})", n + 1
        names[paste.uid] = name
    return names


def _named(problem: DayProblem, names: Mapping[str, str]) -> DayProblem:
    def put(steps: tuple[Started, ...]) -> tuple[Started, ...]:
        return tuple(replace(each, paste=names[each.paste]) for each in steps)

    return replace(
        problem,
        pastes=tuple(replace(p, name=names[p.name]) for p in problem.pastes),
        so_far=put(problem.so_far),
        held=put(problem.held),
        after=tuple((names[a], step, names[b]) for a, step, b in problem.after),
    )


def from_now(view: DayView, now: datetime) -> DayProblem:
    """Give the problem of a day that has not begun so that nothing of it begins in the past."""
    soonest = view.clock.elapsed_now(now)
    if view.sheet.now_min is not None:
        return view.problem
    if soonest > 0:
        return replace(view.problem, not_before_min=-(-soonest // SOON_MIN) * SOON_MIN)
    if soonest < 0 and view.sheet.days_before < MOST_DAYS_BEFORE:
        return replace(view.problem, day_before_from_min=max(0, DAY_MIN + soonest))
    return view.problem


SOON_MIN = 5
"""The next moment at which something can be planned to begin is a whole multiple of this [min]."""


def too_late(view: DayView, now: datetime) -> str:
    """Say when a day cannot be planned because its time is over; empty when it can."""
    elapsed = view.clock.elapsed_now(now)
    over = [
        p.name
        for p in view.problem.pastes
        if p.ready_by_min is not None and p.ready_by_min <= elapsed
    ]
    if view.sheet.now_min is None and over:
        return f"{over[0]} should already be ready by now. Choose a later day under Day’s demand."
    return ""
