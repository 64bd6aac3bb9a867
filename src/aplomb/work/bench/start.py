"""From what the book knows to a run: of the day's timetable, or of one formula."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from zlib import crc32

import msgspec

from aplomb.core.base.errors import AplombError
from aplomb.core.bench.plan import RunPlan, check_plan
from aplomb.core.bench.start import PasteToRun, tracks_and_tasks
from aplomb.core.day.plan import DayPlan
from aplomb.core.day.sheet import DaySheet
from aplomb.core.kitchen.day_steps import steps_of_paste
from aplomb.core.kitchen.demand import PasteOfDay, batch_trays, mixes_of, plan_day
from aplomb.core.study.study import Study, make_study
from aplomb.work.local import date_text
from aplomb.work.timetable import DayView
from aplomb.work.workbench import Workbench

COMPARED = (
    "name", "dough", "block", "dusting", "between", "turn_line", "sheet_mm", "held_back_pct",
    "working",
)  # fmt: skip
"""What of a formula a run hangs on; the batch is the run's own."""


def plan_of_day(
    work: Workbench, view: DayView, plan: DayPlan, now: datetime, quick: float = 1.0
) -> RunPlan:
    """Make a run of a timetable.

    Parameters
    ----------
    work : Workbench
    view : DayView
    plan : DayPlan
        As it is shown.
    now : datetime
        When it begins, with its zone.
    quick : float
        So many minutes of it pass in one of ours [-].

    Returns
    -------
    RunPlan
        Its times are those of the timetable, counted from the timetable's first step.

    Raises
    ------
    AplombError
        When nothing of it can be run.
    """
    kitchen, reference = work.store.kitchen, work.store.reference
    studies = {uid: study for uid in view.names if (study := work.shelf.study_of(uid)) is not None}
    made = [
        each for each in plan_day(kitchen.demand, studies, reference, kitchen.stock.frozen)
        if not each.trouble and each.uid in view.names
    ]  # fmt: skip
    first = min(each.start_min for each in plan.steps)
    uids = view.uids
    planned = {(uids[each.paste], each.step): float(each.start_min - first) for each in plan.steps}
    title = f"Day of {date_text(view.day)}"
    return _made(work, title, made, studies, kitchen.timetable, planned, now, quick)


def plan_of_formula(work: Workbench, uid: str, now: datetime, quick: float = 1.0) -> RunPlan:
    """Make a run of one formula's batch.

    Parameters
    ----------
    work : Workbench
    uid : str
    now : datetime
        When it begins, with its zone.
    quick : float
        So many minutes of it pass in one of ours [-].

    Returns
    -------
    RunPlan

    Raises
    ------
    AplombError
        When it cannot be made.
    """
    study = work.shelf.study_of(uid)
    if study is None:
        raise AplombError("Choose a formula first.")
    house = work.store.reference.house
    scaled = study.scaled
    if scaled.trouble or scaled.blocks < 1:
        raise AplombError(scaled.trouble or "The batch makes no block: say how much under Batch.")
    made = PasteOfDay(
        uid, study.formula, scaled, scaled.blocks, scaled.each_g, mixes_of(study, house),
        trays=batch_trays(study.formula, scaled, house),
    )  # fmt: skip
    return _made(work, study.formula.name, [made], {uid: study}, DaySheet(), {}, now, quick)


def _made(
    work: Workbench, title: str, made: Sequence[PasteOfDay], studies: Mapping[str, Study],
    sheet: DaySheet, planned: Mapping[tuple[str, str], float], now: datetime, quick: float,
) -> RunPlan:  # fmt: skip
    reference = work.store.reference
    house, frozen = reference.house, work.store.kitchen.stock.frozen
    pastes = []
    for each in made:
        steps = steps_of_paste(each, studies[each.uid], reference.pantry, house, sheet, frozen)
        study = make_study(each.formula, reference.of(each.uid))
        pastes.append(PasteToRun(steps, study, each.mixes, each.blocks, each.each_g))
    if not pastes:
        raise AplombError("Nothing of this day can be run.")
    begun = now.isoformat(timespec="milliseconds")
    tracks, tasks = tracks_and_tasks(
        pastes, reference.pantry, house, crc32(begun.encode()), planned
    )
    name = f"run of {date_text(now.date())}"
    revisions = {each.uid: work.shelf.revision_as_it_is(each.uid, name) for each in made}
    formulas = {each.uid: each.formula for each in made}
    counted = house.counts_enclosing
    return check_plan(RunPlan(title, begun, quick, tracks, tasks, formulas, revisions, counted))


def begin(work: Workbench, plan: RunPlan) -> int:
    """Keep a run in the book; gives its number.

    Parameters
    ----------
    work : Workbench
    plan : RunPlan

    Returns
    -------
    int

    Raises
    ------
    BookError
        When the book refuses.
    """
    return work.book.runs.begin(plan.title, plan.begun, msgspec.json.encode(plan).decode())


def changed_since(work: Workbench, plan: RunPlan) -> tuple[str, ...]:
    """Say which formulas of a run are others on the desk by now, or gone.

    Parameters
    ----------
    work : Workbench
    plan : RunPlan

    Returns
    -------
    tuple of str
    """
    told = []
    for uid, formula in plan.formulas.items():
        entry = work.shelf.entries.get(uid)
        number = plan.revisions.get(uid, 0)
        if entry is None:
            told.append(f"{formula.name} was deleted on the desk; this run keeps revision {number}")
        elif _recipe(entry.formula) != _recipe(formula):
            told.append(f"{formula.name} was changed on the desk; this run keeps revision {number}")
    return tuple(told)


def _recipe(formula: object) -> tuple[object, ...]:
    return tuple(getattr(formula, name) for name in COMPARED)
