"""The day's timetable: from what the book knows to a problem, from a plan to what is shown."""

from collections.abc import Callable, Mapping
from datetime import date, datetime, timedelta
from itertools import pairwise

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.day.plan import DayPlan, ends_min, faults, from_to_min, starts_of
from aplomb.core.day.problem import DayProblem, Shift, Started, taken
from aplomb.core.day.sheet import DaySheet, step_key
from aplomb.core.day.solve import DayAnswer, Remedy
from aplomb.core.kitchen.day_steps import PasteSteps, StepNote, day_problem, steps_of_paste
from aplomb.core.kitchen.demand import plan_day
from aplomb.core.study.study import Reference, Study
from aplomb.exchange.day_calendar import DayEvent
from aplomb.work.cold_words import wait_text
from aplomb.work.day_clock import DayClock
from aplomb.work.store_rows import Kitchen
from aplomb.work.workbench import Workbench

SOFT_MIN, HARD_MIN = 10, 10
"""What a block that is still soft goes back for, and one that is too hard stands for, where nothing
else is known [min], common practice."""
OFFERED_FROM_MIN = 15
"""A gap for the hands is offered for something from so long on [min]."""


class Gathered(Struct, frozen=True):
    """What a timetable is made of, taken at one moment, so that it can be worked out beside.

    Attributes
    ----------
    kitchen : Kitchen
    studies : dict of Study, by identity
        Of the formulas that the day wants.
    reference : Reference
    day : date
        On which things are wanted.
    today : date
    """

    kitchen: Kitchen
    studies: dict[str, Study]
    reference: Reference
    day: date
    today: date


class DayView(Struct, frozen=True):
    """A day ready to be solved and shown.

    Attributes
    ----------
    sheet : DaySheet
    pastes : tuple of PasteSteps
    problem : DayProblem
        Its pastes named as they are shown.
    names : dict of str, by identity
        As shown: two formulas of one name are told apart.
    clock : DayClock
    day : date
        On which things are wanted.
    troubles : tuple of str
        Why some of what is wanted is not in it.
    house : House
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


def wanted_day(kitchen: Kitchen, today: date) -> date:
    """Give the day on which things are wanted: as the demand says, or tomorrow.

    Parameters
    ----------
    kitchen : Kitchen
    today : date

    Returns
    -------
    date
    """
    try:
        return date.fromisoformat(kitchen.demand.day)
    except ValueError:
        return today + timedelta(days=1)


def gather(work: Workbench, today: date | None = None) -> Gathered:
    """Take all that a timetable is made of.

    Parameters
    ----------
    work : Workbench
    today : date or None
        None: as the clock says.

    Returns
    -------
    Gathered
    """
    now = today or datetime.now().astimezone().date()
    kitchen = work.store.kitchen
    wanted = list(dict.fromkeys(w.uid for w in kitchen.demand.wants if w.pieces > 0))
    found = {uid: work.shelf.study_of(uid) for uid in wanted if uid in work.shelf.entries}
    studies = {uid: study for uid, study in found.items() if study is not None}
    return Gathered(kitchen, studies, work.store.reference, wanted_day(kitchen, now), now)


def view_of(gathered: Gathered) -> DayView:
    """Work a day out as far as it goes without being solved.

    Parameters
    ----------
    gathered : Gathered

    Returns
    -------
    DayView

    Raises
    ------
    AplombError
        When nothing is wanted, or nothing of it can be made.
    """
    kitchen, reference = gathered.kitchen, gathered.reference
    sheet, house = kitchen.timetable, reference.house
    made = plan_day(kitchen.demand, gathered.studies, reference, kitchen.stock.frozen)
    troubles = tuple(f"{p.formula.name}: {p.trouble}" for p in made if p.trouble)
    pastes = tuple(
        steps_of_paste(
            p, gathered.studies[p.uid], reference.pantry, house, sheet, kitchen.stock.frozen
        )
        for p in made
        if not p.trouble and p.uid not in sheet.left_out
    )
    if not pastes:
        raise AplombError(
            " ".join(troubles) or "Nothing is wanted yet: say how many of what under Day’s demand."
        )
    clock = DayClock(gathered.day - timedelta(days=sheet.days_before))
    hours = clock.hours(sheet.days_before + 1, sheet.hours or house.hours)
    shifts = [Shift(begin, end) for begin, end in hours if end > begin]
    ready = {p.uid: clock.elapsed(sheet.days_before, sheet.ready_of(p.uid)) for p in pastes}
    problem = day_problem(pastes, sheet, house, shifts, ready)
    names = _shown_names(pastes)
    return DayView(
        sheet, pastes, _named(problem, names), names, clock, gathered.day, troubles, house
    )


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


def too_late(view: DayView, now: datetime) -> str:
    """Say when a day cannot be planned because its time is over; empty when it can.

    Parameters
    ----------
    view : DayView
    now : datetime

    Returns
    -------
    str
    """
    elapsed = view.clock.elapsed_now(now)
    over = [
        p.name for p in view.problem.pastes
        if p.ready_by_min is not None and p.ready_by_min <= elapsed
    ]  # fmt: skip
    if view.sheet.now_min is None and over:
        return f"{over[0]} was to be ready before now. Choose a later day under Day’s demand."
    return ""


class Moved(Struct, frozen=True):
    """A change of the sheet, and its words for undo."""

    words: str
    sheet: DaySheet


def begun(view: DayView, plan: DayPlan, now_min: int) -> Moved:
    """Begin the day, or go on to another moment of it: what started before it stays.

    Parameters
    ----------
    view : DayView
    plan : DayPlan
        As it is shown.
    now_min : int
        [min].

    Returns
    -------
    Moved
    """
    words = "begin the day" if view.sheet.now_min is None else "the day goes on"
    return Moved(words, replace(view.sheet, plan=view.by_uid(plan.steps), now_min=now_min))


def not_begun(sheet: DaySheet) -> Moved:
    """Take the beginning of the day back.

    Parameters
    ----------
    sheet : DaySheet

    Returns
    -------
    Moved
    """
    cleared = replace(sheet, now_min=None, plan=(), extra={}, rest_extra={})
    return Moved("the day has not begun", cleared)


def takes(view: DayView, paste: str, step: str, minutes: int) -> Moved:
    """Say how long a step takes in this bakery [min].

    Parameters
    ----------
    view : DayView
    paste, step : str
        As shown.
    minutes : int
        [min].

    Returns
    -------
    Moved
    """
    key = step_key(view.uids[paste], step)
    own = {**view.sheet.minutes, key: minutes}
    return Moved(f"{step} takes {minutes} min", replace(view.sheet, minutes=own))


def held(view: DayView, paste: str, step: str, start_min: int | None) -> Moved:
    """Hold a step at a time, or let it go [min].

    Parameters
    ----------
    view : DayView
    paste, step : str
        As shown.
    start_min : int or None
        [min]; None lets it go.

    Returns
    -------
    Moved
    """
    uid = view.uids[paste]
    rest = tuple(h for h in view.sheet.held if (h.paste, h.step) != (uid, step))
    if start_min is None:
        return Moved(f"{step} is free again", replace(view.sheet, held=rest))
    now = (*rest, Started(uid, step, start_min))
    return Moved(f"hold {step}", replace(view.sheet, held=now))


def runs_over(view: DayView, plan: DayPlan, paste: str, step: str, minutes: int) -> Moved:
    """A step takes longer, or with a minus ends sooner, than planned [min].

    Parameters
    ----------
    view : DayView
    plan : DayPlan
        As it is shown.
    paste, step : str
        As shown.
    minutes : int
        [min].

    Returns
    -------
    Moved
    """
    key = step_key(view.uids[paste], step)
    sheet = _at_least_begun(view, plan, paste, step)
    more = sheet.extra.get(key, 0) + minutes
    words = f"{step} {'runs over' if minutes > 0 else 'ends sooner'} by {abs(minutes)} min"
    return Moved(words, replace(sheet, extra={**sheet.extra, key: more}))


def begins_late(view: DayView, plan: DayPlan, paste: str, step: str, minutes: int) -> Moved:
    """A step began, or begins, later, or with a minus sooner, than planned [min].

    Parameters
    ----------
    view : DayView
    plan : DayPlan
        As it is shown.
    paste, step : str
        As shown.
    minutes : int
        [min].

    Returns
    -------
    Moved
    """
    start = max(0, plan.start_of(paste, step) + minutes)
    words = f"{step} {'later' if minutes > 0 else 'sooner'} by {abs(minutes)} min"
    now = view.sheet.now_min
    if now is None or plan.start_of(paste, step) >= now:
        return Moved(words, held(view, paste, step, start).sheet)
    uid = view.uids[paste]
    kept = tuple(
        replace(each, start_min=start) if (each.paste, each.step) == (uid, step) else each
        for each in view.by_uid(plan.steps)
    )
    return Moved(words, replace(view.sheet, plan=kept, now_min=max(now, start + 1)))


def not_ready(view: DayView, plan: DayPlan, paste: str, step: str, *, hard: bool) -> Moved:
    """A block that comes out of its rest is still too soft, or too hard: it waits.

    Parameters
    ----------
    view : DayView
    plan : DayPlan
        As it is shown.
    paste, step : str
        The step that was to follow the rest, as shown.
    hard : bool
        True when it must stand before it can be rolled; False when it goes back to the cold.

    Returns
    -------
    Moved
    """
    before = view.step_before(paste, step) or step
    key = step_key(view.uids[paste], before)
    sheet = _at_least_begun(view, plan, paste, before)
    more = sheet.rest_extra.get(key, 0) + (HARD_MIN if hard else back_min(view, paste, before))
    words = f"{'still hard' if hard else 'still soft'} before {step}"
    return Moved(words, replace(sheet, rest_extra={**sheet.rest_extra, key: more}))


def back_min(view: DayView, paste: str, before: str) -> int:
    """How long a block that is still soft goes back for [min].

    Parameters
    ----------
    view : DayView
    paste, before : str
        The step its rest comes after, as shown.

    Returns
    -------
    int
        A third of what the slowest that is likely takes longer than is usual, and 10 min at least.
    """
    note = view.note(paste, before)
    if note.rest is None:
        return SOFT_MIN
    start = note.rest.ready.start
    if start.usual is None or start.high is None:
        return SOFT_MIN
    return max(SOFT_MIN, round((start.high - start.usual) / 3))


def _at_least_begun(view: DayView, plan: DayPlan, paste: str, step: str) -> DaySheet:
    """The sheet with the day begun up to a step that something is said of, as it is shown."""
    start = plan.start_of(paste, step)
    now = view.sheet.now_min
    if now is not None and start < now:
        return replace(view.sheet, plan=view.by_uid(plan.steps))
    return replace(view.sheet, plan=view.by_uid(plan.steps), now_min=start + 1)


def from_freezer(view: DayView, paste: str, *, on: bool) -> Moved:
    """Take a block from the freezer in place of the first steps, or make it anew.

    Parameters
    ----------
    view : DayView
    paste : str
        As shown.
    on : bool

    Returns
    -------
    Moved
    """
    uid = view.uids[paste]
    rest = tuple(each for each in view.sheet.from_frozen if each != uid)
    words = f"{paste} from the freezer" if on else f"{paste} made anew"
    return Moved(words, replace(view.sheet, from_frozen=(*rest, uid) if on else rest))


def remedied(view: DayView, remedy: Remedy, put_house: Callable[[House], None]) -> Moved:
    """Take a remedy: a later ready time goes to the sheet, hours too, the rest to the house.

    Parameters
    ----------
    view : DayView
    remedy : Remedy
    put_house : callable
        Changes the house.

    Returns
    -------
    Moved
    """
    sheet, house = view.sheet, view.house
    more = remedy.minutes or 0
    if remedy.what == "ready_later":
        names = [view.uids[remedy.paste]] if remedy.paste else [p.uid for p in view.pastes]
        ready = {**sheet.ready, **{uid: sheet.ready_of(uid) + more for uid in names}}
        return Moved("ready later", replace(sheet, ready=ready))
    if remedy.what in ("baker_earlier", "baker_later"):
        hours = list(sheet.hours or house.hours)
        at = (remedy.shift or 0) % len(hours)
        begin, end = hours[at]
        earlier = more if remedy.what == "baker_earlier" else 0
        hours[at] = (max(0, begin - earlier), min(1440, end + more - earlier))
        return Moved("longer hours", replace(sheet, hours=tuple(hours)))
    if remedy.what in ("fridge_spaces", "freezer_spaces"):
        kind = remedy.what.partition("_")[0]
        places = list(house.places)
        at = next(i for i, place in enumerate(places) if place.kind == kind)
        most = max(places[at].spaces, house.rack_spaces if kind == "fridge" else 0)
        places[at] = replace(places[at], spaces=most + (remedy.spaces or 0))
        put_house(replace(house, places=tuple(places)))
    elif remedy.what == "second_baker":
        put_house(replace(house, bakers=house.bakers + 1))
    elif remedy.what == "ovens":
        put_house(replace(house, ovens=house.ovens + 1))
    return Moved("", sheet)


def hands_min(view: DayView, plan: DayPlan) -> tuple[int, int]:
    """Give the hands' time, and the time from the first step to the last [min].

    Parameters
    ----------
    view : DayView
    plan : DayPlan

    Returns
    -------
    tuple of (active, elapsed)
        [min].
    """
    problem = view.problem
    hands = sum(
        taken(step, paste, problem)
        for (paste, _), step in problem.steps.items()
        if "baker" in step.needs
    )
    first, last = from_to_min(problem, starts_of(plan.steps))
    return hands, last - first


def free_gaps(view: DayView, plan: DayPlan) -> tuple[tuple[int, int], ...]:
    """Give the times within the hours, between the first and the last step, when hands are free.

    Parameters
    ----------
    view : DayView
    plan : DayPlan

    Returns
    -------
    tuple of (from, to)
        Of 15 min at least [min].
    """
    starts = starts_of(plan.steps)
    busy = sorted(
        (starts[key], starts[key] + taken(step, key[0], view.problem))
        for key, step in view.problem.steps.items()
        if "baker" in step.needs
    )
    if not busy:
        return ()
    found = []
    last_end = max(end for _, end in busy)
    for shift in view.problem.baker:
        at = max(shift.from_min, busy[0][0])
        for begin, end in busy:
            if end <= at or begin >= shift.to_min:
                continue
            if begin - at >= OFFERED_FROM_MIN:
                found.append((at, begin))
            at = max(at, end)
        if min(shift.to_min, last_end) - at >= OFFERED_FROM_MIN:
            found.append((at, min(shift.to_min, last_end)))
    return tuple(found)


def free_words(view: DayView, plan: DayPlan) -> str:
    """Say when hands are free for other work: the longest three gaps; empty without any.

    Parameters
    ----------
    view : DayView
    plan : DayPlan

    Returns
    -------
    str
    """
    longest = sorted(free_gaps(view, plan), key=lambda gap: gap[0] - gap[1])[:3]
    if not longest:
        return ""
    told = [
        f"{view.clock.moment(a):%a %H:%M} to {view.clock.moment(b):%H:%M}"
        for a, b in sorted(longest)
    ]
    return f"Hands free {', '.join(told)}: wash beaten, tins and rings lined, trays papered."


def ready_words(view: DayView, plan: DayPlan) -> list[str]:
    """Say of each paste when it is ready, and how late that is.

    Parameters
    ----------
    view : DayView
    plan : DayPlan

    Returns
    -------
    list of str
    """
    starts = starts_of(plan.steps)
    told = []
    for paste in view.problem.pastes:
        _, end = ends_min(paste, starts, view.problem)
        late = "" if paste.ready_by_min is None else _late_words(end - paste.ready_by_min)
        told.append(f"{paste.name} {view.clock.moment(end):%H:%M}{late}")
    return told


def _late_words(minutes: int) -> str:
    return f", {minutes} min late" if minutes > 0 else ""


def answer_words(view: DayView, answer: DayAnswer) -> str:
    """Say what came of solving: how good the plan is, or what is in the way.

    Parameters
    ----------
    view : DayView
    answer : DayAnswer

    Returns
    -------
    str
    """
    plan = answer.plan
    if plan is None:
        head = "Not decided yet" if answer.undecided else "This cannot be done"
        return f"{head}: {answer.because}."
    if plan.proven:
        return "The best there is."
    reached = plan.late_min if view.problem.goal == "least_late" else plan.elapsed_min
    return f"At most {reached - plan.best_known} min from the best."


def events_of(view: DayView, plan: DayPlan) -> list[DayEvent]:
    """Give a timetable as events of a calendar, in the order of time.

    Parameters
    ----------
    view : DayView
    plan : DayPlan

    Returns
    -------
    list of DayEvent
    """
    steps = view.problem.steps
    found = []
    for each in plan.steps:
        step = steps[each.paste, each.step]
        note = view.note(each.paste, each.step)
        end = each.start_min + taken(step, each.paste, view.problem)
        words = ""
        if note.place:
            wait = wait_text(step.rest_min, step.rest_max)
            words = f"Then {note.place}, {wait}. Go by state, not by the clock."
        found.append(
            DayEvent(
                view.clock.moment(each.start_min), view.clock.moment(end), each.paste, each.step,
                note.place, step.rest_min, step.rest_max, "baker" in step.needs, words,
            )
        )  # fmt: skip
    return found
