"""From what the book knows to a run: of the day's timetable, or of one formula."""

from datetime import datetime
from zlib import crc32

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.bench.plan import RunPlan, check_plan
from aplomb.core.bench.start import PasteToRun, tracks_and_tasks
from aplomb.core.day.plan import DayPlan
from aplomb.core.day.sheet import DaySheet
from aplomb.core.kitchen.cut_plan import taken
from aplomb.core.kitchen.day_steps import steps_of_paste
from aplomb.core.kitchen.demand import PasteOfDay, one_paste, plan_day
from aplomb.core.paste.formula import Formula
from aplomb.core.study.study import Reference, Study, with_its_cut
from aplomb.work.day.view import DayView
from aplomb.work.figures.local import date_text
from aplomb.work.open_book.rows import Kitchen
from aplomb.work.open_book.workbench import Workbench

COMPARED = (
    "name", "dough", "block", "dusting", "between", "turn_line", "sheet_mm", "held_back_pct",
    "working",
)  # fmt: skip
"""What of a formula a run hangs on; the batch is the run's own."""


class Ready(Struct, frozen=True):
    """What a run is made of, taken at one moment, so that it can be worked out beside.

    Attributes
    ----------
    planned : dict of float, by identity and step
        When the timetable lets each begin [min].
    single : str
        Identity of the one formula that is run; empty for a day.
    """

    title: str
    studies: dict[str, Study]
    reference: Reference
    kitchen: Kitchen
    planned: dict[tuple[str, str], float] = {}
    single: str = ""


def ready_day(work: Workbench, view: DayView, plan: DayPlan) -> Ready:
    """Take what a run of a timetable is made of.

    Its times are those of the timetable, counted from the timetable's first step.

    Parameters
    ----------
    plan : DayPlan
        As it is shown.
    """
    studies = {uid: study for uid in view.names if (study := work.shelf.study_of(uid)) is not None}
    first = min(each.start_min for each in plan.steps)
    uids = view.uids
    planned = {(uids[each.paste], each.step): float(each.start_min - first) for each in plan.steps}
    title = f"Day of {date_text(view.day)}"
    return Ready(title, studies, work.store.reference, work.store.kitchen, planned)


def ready_formula(work: Workbench, uid: str) -> Ready:
    """Take what a run of one formula's batch is made of.

    Raises
    ------
    AplombError
        When it makes no block.
    """
    study = work.shelf.study_of(uid)
    if study is None:
        raise AplombError("Choose a formula first.")
    if study.scaled.trouble or study.scaled.blocks < 1:
        raise AplombError(
            study.scaled.trouble
            or "The batch has no block yet: enter how much to make under Batch."
        )
    name = study.formula.name
    return Ready(name, {uid: study}, work.store.reference, work.store.kitchen, {}, uid)


def plan_of(ready: Ready, now: datetime, quick: float = 1.0) -> RunPlan:
    """Make a run; it touches nothing that is open, and may be done beside the window.

    Without its revisions; `begin` keeps them.

    Parameters
    ----------
    now : datetime
        When it begins, with its zone.
    quick : float
        So many minutes of it pass in one of ours [-].

    Raises
    ------
    AplombError
        When nothing of it can be run.
    """
    reference, house = ready.reference, ready.reference.house
    stock = ready.kitchen.stock
    if ready.single:
        study = ready.studies[ready.single]
        made = [one_paste(ready.single, with_its_cut(study, reference.of(ready.single)), house)]
    else:
        demand = ready.kitchen.demand
        made = [
            each
            for each in plan_day(
                demand,
                ready.studies,
                reference,
                stock.blocks(),
                from_stock=ready.kitchen.timetable.from_frozen,
            )
            if not each.trouble and each.uid in ready.studies
        ]
    sheet = DaySheet() if ready.single else ready.kitchen.timetable
    pastes = []
    for each in made:
        steps = steps_of_paste(each, reference.pantry, house, sheet, stock.kept)
        pastes.append(
            PasteToRun(steps, each.study, each.mixes, each.blocks, each.each_g, each.frozen)
        )
    if not pastes:
        raise AplombError("Nothing in this day can be run; check it under Day.")
    begun = now.isoformat(timespec="milliseconds")
    tracks, tasks = tracks_and_tasks(
        pastes, reference.pantry, house, crc32(begun.encode()), ready.planned
    )
    formulas = {each.uid: _as_begun(each) for each in made}
    return check_plan(
        RunPlan(ready.title, begun, quick, tracks, tasks, formulas, {}, house.counts_enclosing)
    )


def _as_begun(paste: PasteOfDay) -> Formula:
    """Give the formula that a run keeps, with its sheet.

    A bench that is changed meanwhile does not change what is weighed then.
    """
    cut = paste.study.cut
    if cut is None or any(plan.of_stock for plan in cut.plans):
        return paste.formula
    return taken(paste.formula, cut)


def begin(work: Workbench, plan: RunPlan) -> int:
    """Keep a run in the book, with the formulas as revisions; gives its number.

    Raises
    ------
    BookError
        When the book refuses.
    """
    name = f"run of {date_text(datetime.fromisoformat(plan.begun).date())}"
    kept = {
        uid: work.shelf.revision_as_it_is(uid, name)
        for uid in plan.formulas
        if uid in work.shelf.entries
    }
    plan = replace(plan, revisions=kept)
    return work.book.runs.begin(plan.title, plan.begun, msgspec.json.encode(plan).decode())


def changed_since(work: Workbench, plan: RunPlan) -> tuple[str, ...]:
    """Say which formulas of a run are others on the desk by now, or gone."""
    told = []
    for uid, formula in plan.formulas.items():
        entry = work.shelf.entries.get(uid)
        number = plan.revisions.get(uid, 0)
        if entry is None:
            told.append(
                f"{formula.name} was deleted after this run started; the run "
                f"keeps revision {number}"
            )
        elif _recipe(entry.formula) != _recipe(formula):
            told.append(
                f"{formula.name} was changed after this run started; the run "
                f"keeps revision {number}"
            )
    return tuple(told)


def _recipe(formula: object) -> tuple[object, ...]:
    return tuple(getattr(formula, name) for name in COMPARED)
