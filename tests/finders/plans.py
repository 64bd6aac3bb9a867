"""Make up plans of turns: whatever Folds accepts can be planned, run and printed."""

import random
import tempfile
from collections import Counter
from datetime import UTC, datetime
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtGui import QGuiApplication

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.core.base.errors import AplombError
from aplomb.core.batch.stock import Demand, Want
from aplomb.core.bench.acts import Begin, End, Press
from aplomb.core.bench.state import state_of
from aplomb.core.day.problem import check_day
from aplomb.core.folds.turn_line import parse_plan
from aplomb.desk.paper.canvas import pages_of
from aplomb.desk.paper.catalogue import PAPERS
from aplomb.desk.paper.job import Job
from aplomb.work.bench.start import plan_of, ready_formula
from aplomb.work.day.view import gather, view_of
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench
from finders.texts import where

ENCLOSURES = ("envelope", "thirds", "halves", "inverse", "portions", "pieces", "coil", "none")
STEPS = (
    "2", "3", "4", "4o", "5", "6", "q", "s4", "s9", "/", "/30", "/45@freezer", "+3", "+3:40", "r",
    "3@8", "4@6", "t5", "t10", "t10 t10", "t3f", "t3r", "/ /", "3 3", "t5 / t5",
)  # fmt: skip
BEFORE = ("", "", "", "dough/30 ", "fat/15@freezer ", "dough/60 fat/20 ")
BEGUN = datetime(2026, 6, 5, 5, 0, tzinfo=UTC)


def any_line(pick: random.Random) -> str:
    """Make a turn line of what the grammar has."""
    steps = [pick.choice(STEPS) for _ in range(pick.choice((0, 1, 2, 3, 4, 6, 9)))]
    return f"{pick.choice(BEFORE)}{pick.choice(ENCLOSURES)} {' '.join(steps)}".strip()


class Kitchen:
    """The demo book, whose formulas get other plans."""

    def __init__(self, folder: Path) -> None:
        self.work = Workbench(Book(folder / "demo.aplomb"), reference())
        fill_with_demo(self.work)
        self.uids = [u for u, e in self.work.shelf.entries.items() if e.formula.products]

    def held(self, pick: random.Random, line: str) -> str:
        """Plan, run and print a formula with a plan; gives what is wrong with how that went."""
        work, uid = self.work, pick.choice(self.uids)
        formula = replace(work.shelf.entries[uid].formula, turn_line=line)
        work.shelf.select(uid)
        try:
            work.shelf.edit("plan", lambda _f: formula)
        except AplombError:
            return "not taken by Folds"
        study = work.shelf.study
        assert study is not None
        if study.scaled.trouble or study.fold_trouble:
            return "no batch"
        wanted = next(p for p in formula.products)
        work.store.put_demand("day", Demand("day", "2026-12-05", (Want(uid, wanted.name, 12),)))
        view = view_of(gather(work))
        for paste in view.pastes:
            names = [step.name for step in paste.paste.all_steps]
            if len(set(names)) < len(names) or set(names) != set(paste.notes):
                return "two steps of the day have one name, or one is missing"
            turns = sum(note.kind in ("turn", "trim") for note in paste.notes.values())
            steps = [s for s in study.plan.steps if s.way.value != "rest"]
            if turns != len(steps):
                return f"the day has {turns} of {len(steps)} steps of the plan"
        check_day(view.problem)
        plan = plan_of(ready_formula(work, uid), BEGUN)
        keys = [task.key for task in plan.tasks]
        if len(set(keys)) < len(keys):
            return "two tasks of a run have one key"
        presses = []
        for i, key in enumerate(keys):
            presses += [
                Press(2 * i + 1, 60.0 * i, "", Begin(key)),
                Press(2 * i + 2, 60.0 * i + 50, "", End(key)),
            ]
        state = state_of(plan, presses)
        if any(task.ended_s is None for task in state.tasks.values()):
            return "a run of it does not end"
        known = work.store.reference
        job = Job(formula.name, (study,), known.pantry, known.house, {})
        for paper in PAPERS:
            if paper.key in ("card", "steps") and not pages_of(paper.painter(job), 40)[0]:
                return f"{paper.key} has no page"
        return ""

    def close(self) -> None:
        """Close the book."""
        self.work.close()


NOT_MADE = ("not taken by Folds", "no batch")


def find(cases: int, start: int = 0) -> tuple[Counter[str], dict[str, int], int]:
    """Try so many plans; gives faults, the first case of each, and how many could be made."""
    app = QGuiApplication.instance() or QGuiApplication([])
    faults: Counter[str] = Counter()
    first: dict[str, int] = {}
    made = 0
    with tempfile.TemporaryDirectory(prefix="aplomb-plans-") as folder:
        kitchen = Kitchen(Path(folder))
        for case in range(start, start + cases):
            pick = random.Random(case)
            line = any_line(pick)
            try:
                parse_plan(line)
            except AplombError:
                continue
            try:
                words = kitchen.held(pick, line)
            except Exception as error:  # noqa: BLE001  # this is what is looked for
                words = where(error)
            made += words not in NOT_MADE
            if words and words not in NOT_MADE:
                faults[words] += 1
                first.setdefault(words, case)
        kitchen.close()
    del app
    return faults, first, made
