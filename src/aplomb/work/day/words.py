"""A day's timetable in words and figures, and as events of a calendar."""

from datetime import date

from msgspec import Struct

from aplomb.core.base.figures import num
from aplomb.core.batch.keeping import PIECES
from aplomb.core.day.plan import DayPlan, ends_min, from_to_min, rests_of, starts_of
from aplomb.core.day.problem import taken
from aplomb.core.day.remedies import Remedy
from aplomb.core.day.solve import DayAnswer
from aplomb.exchange.day_calendar import DayEvent
from aplomb.work.batch.keeping import is_past
from aplomb.work.day.chores import Ready, ready_of
from aplomb.work.day.moves import BLOCKS
from aplomb.work.day.view import DayView
from aplomb.work.open_book.rows import Kitchen
from aplomb.work.words.cold import wait_text

OFFERED_FROM_MIN = 15
"""A gap for the hands is offered for something from so long on [min]."""


def long_text(minutes: int) -> str:
    """Write a length of hands' or elapsed time."""
    hours, rest = divmod(minutes, 60)
    if not rest and hours:
        return f"{hours} h"
    return f"{hours} h {rest:02d} min" if hours else f"{rest} min"


def remedy_words(remedy: Remedy) -> str:
    """Say a remedy in plain words.

    Examples
    --------
    >>> remedy_words(Remedy("ready_later", "Regatta", minutes=25))
    'Regatta ready 25 min later'
    """
    minutes, spaces = remedy.minutes, remedy.spaces
    words = {
        "ready_later": f"{remedy.paste or 'all'} ready {minutes} min later",
        "baker_earlier": f"the baker starts {minutes} min earlier",
        "baker_later": f"the baker stays {minutes} min longer",
        "fridge_spaces": f"{spaces} more {'space' if spaces == 1 else 'spaces'} in the fridge",
        "freezer_spaces": f"{spaces} more {'space' if spaces == 1 else 'spaces'} in the freezer",
        "second_baker": "a second pair of hands",
        "ovens": "a second oven",
        "sheeters": "a second sheeter",
        "benches": "one more bench",
        "mixers": "one more mixer",
        "day_earlier": "start a day earlier",
    }
    return words.get(remedy.what, remedy.what)


def hands_min(view: DayView, plan: DayPlan) -> tuple[int, int]:
    """Give the hands' time, and the time from the first step to the last [min].

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


class InTheWay(Struct, frozen=True):
    """The one thing to look at in a day: what, and more about it."""

    what: str
    about: str


def in_the_way(view: DayView, plan: DayPlan) -> InTheWay:
    """Say the one thing in the way: a broken rest, the latest, what is missing, or the tightest."""
    if plan.broken:
        first = plan.broken[0]
        after = view.words(first.paste, first.step)
        return InTheWay(
            "A rest is outside its limits", f"{first.paste}, after {after}: {first.minutes} min."
        )
    timed = [each for each in ready_of(view, plan) if each.spare is not None]
    tightest = min(timed, key=lambda each: each.spare or 0, default=None)
    if tightest is not None and (tightest.spare or 0) < 0:
        late = long_text(-(tightest.spare or 0))
        return InTheWay(f"{tightest.letter} is {late} late", _wanted_words(view, tightest))
    if view.troubles:
        return InTheWay("Not everything is in it", view.troubles[0])
    if tightest is None:
        return InTheWay("Nothing in the way", "")
    spare = long_text(tightest.spare or 0) if tightest.spare else "none"
    return InTheWay(f"Time to spare: {spare}", _wanted_words(view, tightest))


def _wanted_words(view: DayView, ready: Ready) -> str:
    end, wanted = view.clock.moment(ready.end), view.clock.moment(ready.wanted or ready.end)
    return f"{ready.letter}, {ready.paste}: ready {end:%H:%M}, wanted {wanted:%H:%M}."


def free_gaps(view: DayView, plan: DayPlan) -> tuple[tuple[int, int], ...]:
    """Give the times within the hours, between the first and the last step, when hands are free.

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
    for opens, shuts in _open_hours(view):
        at = max(opens, busy[0][0])
        for begin, end in busy:
            if end <= at or begin >= shuts:
                continue
            if begin - at >= OFFERED_FROM_MIN:
                found.append((at, begin))
            at = max(at, end)
        if min(shuts, last_end) - at >= OFFERED_FROM_MIN:
            found.append((at, min(shuts, last_end)))
    return tuple(found)


def _open_hours(view: DayView) -> list[tuple[int, int]]:
    """Give the hours in which anybody works, those of several people as one [min]."""
    found: list[tuple[int, int]] = []
    for begin, end in sorted((s.from_min, s.to_min) for s in view.problem.shifts):
        if found and begin <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], end))
        else:
            found.append((begin, end))
    return found


def free_words(view: DayView, plan: DayPlan) -> str:
    """Say when hands are free for other work: the longest three gaps; empty without any."""
    longest = sorted(free_gaps(view, plan), key=lambda gap: gap[0] - gap[1])[:3]
    if not longest:
        return ""
    told = [
        f"{view.clock.moment(a):%a %H:%M} to {view.clock.moment(b):%H:%M}"
        for a, b in sorted(longest)
    ]
    return f"Free time {', '.join(told)}: beat the egg wash, line tins and rings, paper the trays."


def ready_words(view: DayView, plan: DayPlan) -> list[str]:
    """Say of each paste when it is ready, and how late that is."""
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
    """Say what came of solving: how good the plan is, or what is in the way."""
    plan = answer.plan
    if plan is None:
        head = "No answer yet" if answer.undecided else "This cannot be done"
        return f"{head}: {answer.because}."
    if plan.proven:
        return "The best possible."
    reached = plan.late_min if view.problem.goal == "least_late" else plan.elapsed_min
    return f"Within {reached - plan.best_known} min of the best possible."


def sources_of(kitchen: Kitchen, uid: str, today: date) -> list[tuple[str, str]]:
    """Give what a paste of the day can begin from.

    Parameters
    ----------
    uid : str
        Of its formula.

    Returns
    -------
    list of (str, str)
        For `begins_from`, and in words; made anew first.
    """
    found = [("", "made fresh")]
    blocks = sum(item.many for item in kitchen.stock.blocks(uid))
    if blocks or uid in kitchen.timetable.from_frozen:
        words = f"{num(blocks)} frozen blocks" if blocks else "frozen blocks"
        found.append((BLOCKS, "1 frozen block" if blocks == 1 else words))
    for item in kitchen.stock.kept:
        if item.uid == uid and item.form in PIECES:
            where = "past its use-by date" if is_past(item, today) else item.where
            found.append((item.key, f"{num(item.many)} {item.form}, {where}"))
    return found


def stand_words(view: DayView, plan: DayPlan, paste: str, step: str) -> list[str]:
    """Say that what rests after a step lies over its most, and stands before it goes on."""
    found = []
    for gap, begin, end in rests_of(view.problem, starts_of(plan.steps)):
        over = gap.most is not None and end - begin > gap.most
        if gap.first == (paste, step) and over and gap.stand_min:
            found.append(
                f"It lies there longer, and is hard then: let it stand about {gap.stand_min} min "
                "before it goes on."
            )
    return found


def events_of(view: DayView, plan: DayPlan) -> list[DayEvent]:
    """Give a timetable as events of a calendar, in the order of time."""
    steps = view.problem.steps
    found = []
    for each in plan.steps:
        step = steps[each.paste, each.step]
        note = view.note(each.paste, each.step)
        end = each.start_min + taken(step, each.paste, view.problem)
        words = ""
        if note.place:
            wait = wait_text(note.least_min, note.most_min)
            words = f"Then {note.place}, {wait}. Go by the state of the block, not by the clock."
        found.append(
            DayEvent(
                view.clock.moment(each.start_min),
                view.clock.moment(end),
                each.paste,
                step.called,
                note.place,
                note.least_min,
                note.most_min,
                "baker" in step.needs,
                words,
                each.step,
            )
        )
    return found
