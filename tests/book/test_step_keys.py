"""What books up to version 8 said of steps by their words, they say by keys since."""

import json
import shutil
import sqlite3
from pathlib import Path

import pytest

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.book.changes import Kept, StoreChange, Together, row_of
from aplomb.book.migrate import with_step_keys
from aplomb.core.bench.acts import Begin, End
from aplomb.core.day.sheet import DaySheet
from aplomb.work.bench.clock import RunClock
from aplomb.work.bench.run import LiveRun, read_plan
from aplomb.work.day.view import gather, view_of
from aplomb.work.open_book.workbench import Workbench

OLD = Path(__file__).parent / "data" / "version-8.aplomb"
"""The demo of 0.8.2 without its trials: turn 3 takes 17 min, turn 2 is held, the mixing ran 6 min
over, the block was still soft before turn 3, each a change; and an open run of 66 tasks of which
four are done."""


@pytest.fixture
def old(tmp_path):
    shutil.copy(OLD, tmp_path / "old.aplomb")
    return tmp_path / "old.aplomb"


def words_of_steps(sheet: DaySheet) -> list[str]:
    named = [*sheet.minutes, *sheet.extra, *sheet.rest_extra]
    return [name.partition("/")[2] for name in named] + [
        each.step for each in (*sheet.held, *sheet.plan)
    ]


def opened(path):
    work = Workbench(Book(path), reference())
    (uid,) = {each.paste for each in work.store.kitchen.timetable.held}
    return work, uid


def test_own_minutes_pins_and_what_ran_over_are_known_by_keys(old):
    work, uid = opened(old)
    sheet = work.store.kitchen.timetable
    assert sheet.minutes == {f"{uid}/turn.3": 17}
    assert [each.step for each in sheet.held] == ["turn.2"]
    assert sheet.extra == {f"{uid}/mix.1": 6}
    assert list(sheet.rest_extra) == [f"{uid}/turn.2"]
    assert len(sheet.plan) == 55
    view = view_of(gather(work))
    known = {(view.uids[paste], step) for paste, step in view.problem.steps}
    kept = {(each.paste, each.step) for each in sheet.plan}
    loads = {step for _, step in kept - known}
    assert loads == {"bake.2", "load.2"}, "turnovers lie folded: they need one load, not two"
    assert known <= kept
    assert view.minutes(view.names[uid], "turn.3") == 17
    assert view.words(view.names[uid], "turn.3") == "turn 3: single"
    work.close()


def test_what_can_be_undone_is_known_by_keys_too(old):
    """Undone four times and done again: never a step in words."""
    work, uid = opened(old)
    seen = []
    for back in (True, True, True, True, False, False, False, False):
        (work.journal.undo if back else work.journal.redo)()
        sheet = work.store.kitchen.timetable
        seen.append((len(sheet.minutes), len(sheet.held), len(sheet.extra), len(sheet.rest_extra)))
        assert all("." in step for step in words_of_steps(sheet))
    assert seen[3] == (0, 0, 0, 0)
    assert seen[-1] == (1, 1, 1, 1)
    assert work.store.kitchen.timetable.minutes == {f"{uid}/turn.3": 17}
    work.close()


def test_a_book_that_cannot_be_brought_up_is_read_by_keys(old, monkeypatch):
    """As one for reading only."""
    monkeypatch.setattr("aplomb.book.migrate.bring_up", lambda *_of: None)
    work, _ = opened(old)
    sheet = work.store.kitchen.timetable
    assert len(words_of_steps(sheet)) == 59
    assert all("." in step for step in words_of_steps(sheet))
    work.close()


def test_rows_of_an_older_book_are_by_keys_before_it_is_brought_up(old):
    book = Book(old)
    book.close()
    with sqlite3.connect(old) as db:  # as a rescue finds it: old in its number and its rows
        db.execute("PRAGMA user_version = 8")
        body = json.dumps({"minutes": {"u/mix": 5}, "held": [], "plan": []})
        db.execute("UPDATE store SET body = ? WHERE key = 'timetable'", (body,))
    assert json.loads(with_step_keys(body))["minutes"] == {"u/mix.1": 5}
    work = Workbench(Book(old), reference())
    assert work.store.kitchen.timetable.minutes == {"u/mix.1": 5}
    work.close()


def test_an_open_run_goes_on_by_the_keys_its_presses_name(old):
    work = Workbench(Book(old), reference())
    (row,) = work.book.runs.all()
    plan = read_plan(work.book, row.number)
    assert {task.step_key for task in plan.tasks} >= {"mix.1", "turn.3", "press.1", "gather.1"}
    assert plan.tasks[4].key == "C1/turn 1: single"
    run = LiveRun(
        work.book,
        row.number,
        work.store.reference.pantry,
        RunClock(plan_begun(plan), 1.0),
        wait=True,
    )
    assert [task.key for task in plan.tasks if run.state.tasks[task.key].ended_s is not None] == [
        "C/press the fat", "C/weigh", "C/mix", "C1/enclose",
    ]  # fmt: skip
    run.press(Begin("C1/turn 1: single"))
    run.press(End("C1/turn 1: single"))
    assert run.state.tasks["C1/turn 1: single"].ended_s is not None
    run.close()
    work.close()


def plan_begun(plan):
    from aplomb.work.bench.run import begun_of

    return begun_of(plan)


def test_of_two_old_names_with_one_key_the_later_counts():
    body = json.dumps({
        "minutes": {"u/turn 3: single": 5, "u/turn 3: double": 9},
        "held": [
            {"paste": "u", "step": "turn 3: single", "start_min": 1},
            {"paste": "v", "step": "turn 3: single", "start_min": 2},
            {"paste": "u", "step": "turn 3: double", "start_min": 3},
        ],
    })  # fmt: skip
    sheet = json.loads(with_step_keys(body))
    assert sheet["minutes"] == {"u/turn.3": 9}
    assert [(h["paste"], h["start_min"]) for h in sheet["held"]] == [("v", 2), ("u", 3)]


@pytest.mark.parametrize("body", ["", "{", "[]", '{"held": [1]}', '{"minutes": 3}', "null"])
def test_what_is_no_timetable_comes_back_as_it_is(body):
    assert with_step_keys(body) == body


def test_what_one_command_did_together_is_undone_by_keys_too(tmp_path):
    """Kept as version 8 kept it, brought up, and undone in one step."""
    path = tmp_path / "together.aplomb"
    work = Workbench(Book(path), reference())
    words = json.dumps({"minutes": {"u/turn 1: single": 9}})
    keys = json.dumps({"minutes": {"u/turn.1": 9}})
    both = Together(
        "what a run taught",
        (
            StoreChange("minutes", (Kept("timetable", words),), (Kept("timetable", keys),)),
            StoreChange("a batch", (), (Kept("aside/1", "{}"),)),
        ),
    )
    work.book.record([both])
    what, before, after = row_of(both)
    work.close()
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA user_version = 8")
        db.execute("UPDATE change SET formula = ?, before = ?, after = ?", (what, before, after))
    work = Workbench(Book(path), reference())
    work.journal.undo()
    assert work.store.kitchen.timetable.minutes == {"u/turn.1": 9}
    work.close()
