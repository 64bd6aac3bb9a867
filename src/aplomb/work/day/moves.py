"""What moves a day's timetable: begun, held, late, still soft, from the freezer, remedied."""

from collections.abc import Callable
from string import ascii_uppercase

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.house import Baker, House
from aplomb.core.day.plan import DayPlan
from aplomb.core.day.problem import DAY_MIN, Started
from aplomb.core.day.remedies import Remedy
from aplomb.core.day.sheet import DaySheet, step_key
from aplomb.work.day.view import DayView

SOFT_MIN, HARD_MIN = 10, 10
"""What a block that is still soft goes back for, and one that is too hard stands for, where nothing
else is known [min], common practice."""


BLOCKS = "blocks"
"""A paste begins from blocks in the freezer."""


class Moved(Struct, frozen=True):
    """A change of the sheet, and its words for undo."""

    words: str
    sheet: DaySheet


def begun(view: DayView, plan: DayPlan, now_min: int) -> Moved:
    """Begin the day, or go on to another moment of it: what started before it stays.

    Parameters
    ----------
    plan : DayPlan
        As it is shown.
    """
    words = "start of day" if view.sheet.now_min is None else "continue the day"
    steps, day = view.by_uid(plan.steps), view.day.isoformat()
    return Moved(words, replace(view.sheet, plan=steps, now_min=now_min, begun_for=day))


def not_begun(sheet: DaySheet) -> Moved:
    """Take the beginning of the day back."""
    return Moved("undo start of day", sheet.not_begun())


def takes(view: DayView, paste: str, step: str, minutes: int) -> Moved:
    """Say how long a step takes in this bakery [min].

    Parameters
    ----------
    paste, step : str
        As shown, and its key.
    minutes : int
        [min].
    """
    key = step_key(view.uids[paste], step)
    own = {**view.sheet.minutes, key: minutes}
    return Moved(f"{view.words(paste, step)} takes {minutes} min", replace(view.sheet, minutes=own))


def held(view: DayView, paste: str, step: str, start_min: int | None) -> Moved:
    """Hold a step at a time, or let it go [min].

    Parameters
    ----------
    paste, step : str
        As shown, and its key.
    start_min : int or None
        [min]; None lets it go.
    """
    uid = view.uids[paste]
    rest = tuple(h for h in view.sheet.held if (h.paste, h.step) != (uid, step))
    if start_min is None:
        return Moved(f"unpin {view.words(paste, step)}", replace(view.sheet, held=rest))
    now = (*rest, Started(uid, step, start_min))
    return Moved(f"pin {view.words(paste, step)}", replace(view.sheet, held=now))


def runs_over(view: DayView, plan: DayPlan, paste: str, step: str, minutes: int) -> Moved:
    """A step takes longer, or with a minus ends sooner, than planned [min].

    Parameters
    ----------
    plan : DayPlan
        As it is shown.
    paste, step : str
        As shown, and its key.
    minutes : int
        [min].
    """
    key = step_key(view.uids[paste], step)
    sheet = _at_least_begun(view, plan, paste, step)
    more = sheet.extra.get(key, 0) + minutes
    name = view.words(paste, step)
    words = (
        f"{name} takes {minutes} min longer" if minutes > 0 else f"{name} ends {-minutes} min early"
    )
    return Moved(words, replace(sheet, extra={**sheet.extra, key: more}))


def begins_late(view: DayView, plan: DayPlan, paste: str, step: str, minutes: int) -> Moved:
    """A step began, or begins, later, or with a minus sooner, than planned [min].

    Parameters
    ----------
    plan : DayPlan
        As it is shown.
    paste, step : str
        As shown, and its key.
    minutes : int
        [min].
    """
    start = max(0, plan.start_of(paste, step) + minutes)
    name = view.words(paste, step)
    words = f"{name} {minutes} min later" if minutes > 0 else f"{name} {-minutes} min earlier"
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
    plan : DayPlan
        As it is shown.
    paste, step : str
        As shown, and the key of the step that was to follow the rest.
    hard : bool
        True when it must stand before it can be rolled; False when it goes back to the cold.
    """
    before = view.step_before(paste, step) or step
    key = step_key(view.uids[paste], before)
    sheet = _at_least_begun(view, plan, paste, before)
    more = sheet.rest_extra.get(key, 0) + (HARD_MIN if hard else back_min(view, paste, before))
    name = view.words(paste, step)
    words = f"still hard before {name}" if hard else f"still soft before {name}"
    return Moved(words, replace(sheet, rest_extra={**sheet.rest_extra, key: more}))


def back_min(view: DayView, paste: str, before: str) -> int:
    """How long a block that is still soft goes back for [min].

    A third of what the slowest that is likely takes longer than is usual, and 10 min at least.

    Parameters
    ----------
    paste, before : str
        As shown, and the key of the step its rest comes after.
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
    return begun(view, plan, start + 1).sheet


def begins_from(sheet: DaySheet, uid: str, name: str, source: str) -> Moved:
    """Take what is there in place of the first steps, or make a paste anew.

    Parameters
    ----------
    uid, name : str
        Of its formula.
    source : str
        Empty: made anew. `BLOCKS`: blocks from the freezer. Else the key of pieces put by, raw or
        baked.
    """
    frozen = tuple(each for each in sheet.from_frozen if each != uid)
    kept = {each: key for each, key in sheet.from_kept.items() if each != uid}
    words = f"{name} made fresh"
    if source == BLOCKS:
        frozen, words = (*frozen, uid), f"{name} from the freezer"
    elif source:
        kept[uid], words = source, f"{name} from stock"
    return Moved(words, replace(sheet, from_frozen=frozen, from_kept=kept))


def _new_name(house: House) -> str:
    taken = {each.name.casefold() for each in house.people}
    return next(name for name in ascii_uppercase if name.casefold() not in taken)


def done_by(view: DayView, plan: DayPlan, paste: str, step: str) -> Moved | None:
    """Give a step to the next of the bakers, at the time it has; None where nobody is named."""
    names = [person.name for person in view.problem.people]
    if len(names) < 2 or "baker" not in view.problem.steps[paste, step].needs:
        return None
    now = next(each for each in plan.steps if (each.paste, each.step) == (paste, step))
    other = names[(names.index(now.who) + 1) % len(names)] if now.who in names else names[0]
    uid = view.uids[paste]
    rest = tuple(h for h in view.sheet.held if (h.paste, h.step) != (uid, step))
    held = (*rest, Started(uid, step, now.start_min, other))
    return Moved(f"{view.words(paste, step)} by {other}", replace(view.sheet, held=held))


def in_reach(remedy: Remedy) -> bool:
    """Tell whether a press can take it: how many sheeters there are, the house does not say."""
    return remedy.what != "sheeters"


def remedied(view: DayView, remedy: Remedy, put_house: Callable[[House], None]) -> Moved:
    """Take a remedy: a later ready time goes to the sheet, hours too, the rest to the house.

    Parameters
    ----------
    put_house : callable
        Changes the house.
    """
    sheet, house = view.sheet, view.house
    minutes = remedy.minutes or 0
    if remedy.what == "ready_later":
        names = [view.uids[remedy.paste]] if remedy.paste else [p.uid for p in view.pastes]
        ready = {**sheet.ready, **{uid: sheet.ready_of(uid) + minutes for uid in names}}
        return Moved("later ready time", replace(sheet, ready=ready))
    if remedy.what == "day_earlier":
        later = tuple(replace(each, start_min=each.start_min + DAY_MIN) for each in sheet.held)
        days = sheet.days_before + 1
        return Moved("a day earlier", replace(sheet, days_before=days, held=later, plan=()))
    if remedy.what in ("baker_earlier", "baker_later"):
        hours = list(sheet.hours or house.hours)
        at = (remedy.shift or 0) % len(hours)
        begin, end = hours[at]
        earlier = minutes if remedy.what == "baker_earlier" else 0
        hours[at] = (max(0, begin - earlier), min(1440, end + minutes - earlier))
        return Moved("longer hours", replace(sheet, hours=tuple(hours)))
    if remedy.what in ("fridge_spaces", "freezer_spaces"):
        kind = remedy.what.partition("_")[0]
        places = list(house.places)
        at = next(i for i, place in enumerate(places) if place.kind == kind)
        most = max(places[at].spaces, house.rack_spaces if kind == "fridge" else 0)
        places[at] = replace(places[at], spaces=most + (remedy.spaces or 0))
        put_house(replace(house, places=tuple(places)))
    elif remedy.what == "second_baker":
        more = (*house.people, Baker(_new_name(house))) if house.people else ()
        put_house(replace(house, bakers=house.bakers + 1, people=more))
    elif remedy.what in ("ovens", "benches", "mixers"):
        put_house(replace(house, **{remedy.what: getattr(house, remedy.what) + 1}))
    return Moved("", sheet)
