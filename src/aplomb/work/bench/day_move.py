"""The timetable moves with what really happens at the bench."""

from datetime import datetime

from msgspec.structs import replace

from aplomb.core.bench.state import RunState
from aplomb.core.day.problem import Started
from aplomb.core.day.sheet import DaySheet, step_key
from aplomb.work.bench.run import LiveRun
from aplomb.work.day.moves import Moved
from aplomb.work.day.view import wanted_day
from aplomb.work.open_book.workbench import Workbench


def moved_by(work: Workbench, run: LiveRun) -> Moved | None:
    """Give the day's sheet as the run has it: what began when, and what is held for how long.

    None when the run is of no timetable, or the sheet holds no plan for it.
    """
    sheet: DaySheet = work.store.kitchen.timetable
    uids = {track.uid for track in run.plan.tracks}
    if not any(task.planned_min is not None for task in run.plan.tasks):
        return None
    if not any(each.paste in uids for each in sheet.plan):
        return None
    first = min(each.start_min for each in sheet.plan)
    begun = _begun(run, run.state)
    plan = tuple(
        replace(each, start_min=first + begun[each.paste, each.step])
        if (each.paste, each.step) in begun
        else each
        for each in sheet.plan
    )
    rest_extra = dict(sheet.rest_extra)
    for (uid, before), minutes in _held(run, run.state).items():
        rest_extra[step_key(uid, before)] = minutes
    now = first + int(run.now_s // 60) + 1
    house, moment = work.store.reference.house, datetime.now().astimezone()
    day = wanted_day(work.store.kitchen, house, moment)
    return Moved(
        "timetable updated from the bench",
        replace(
            sheet,
            plan=_in_order(plan),
            now_min=now,
            rest_extra=rest_extra,
            begun_for=day.isoformat(),
        ),
    )


def _in_order(plan: tuple[Started, ...]) -> tuple[Started, ...]:
    return tuple(sorted(plan, key=lambda each: each.start_min))


def _begun(run: LiveRun, state: RunState) -> dict[tuple[str, str], int]:
    """When each step of the timetable began: its first block [min since the run began]."""
    found: dict[tuple[str, str], int] = {}
    for task in run.plan.tasks:
        begun = state.tasks[task.key].begun_s
        if begun is None:
            continue
        key = (run.plan.track(task.track).uid, task.step_key)
        minute = int(begun // 60)
        found[key] = min(found.get(key, minute), minute)
    return found


def _held(run: LiveRun, state: RunState) -> dict[tuple[str, str], int]:
    """For how long rests are drawn out by what is held now [min], by the step before them."""
    by_key = run.plan.by_key
    found: dict[tuple[str, str], int] = {}
    for task in run.plan.tasks:
        here = state.tasks[task.key]
        ended = [(k, state.tasks[k].ended_s) for k in task.after]
        known = [(k, s) for k, s in ended if s is not None]
        if here.held is None or not known or here.held_until_s is None:
            continue
        before, since = max(known, key=lambda each: each[1])
        least = by_key[before].rest_min
        more = (here.held_until_s - since) / 60 - least
        key = (run.plan.track(task.track).uid, by_key[before].step_key)
        if more > 0:
            found[key] = max(found.get(key, 0), round(more))
    return found
