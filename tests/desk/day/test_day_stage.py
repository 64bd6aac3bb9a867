"""The Day stage by keys: the demo's regatta day solved, moved, exported and printed."""

import csv

import pypdfium2
import pytest
from icalendar import Calendar
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from aplomb.core.day.plan import faults, rests_of, starts_of
from desk.conftest import named, tab_to

K = Qt.Key
pytestmark = pytest.mark.usefixtures("new_window")


def solved(qtbot, window):
    """The Day stage once its timetable stands."""
    stage = window.day
    stage.seen = 0
    solved_again(qtbot, stage)
    return stage


def solved_again(qtbot, stage):
    """Wait until a question later than the last one seen is answered."""
    planner = stage.planner
    qtbot.waitUntil(
        lambda: stage.planner.question != stage.seen and stage.planner.answer is not None,
        timeout=60_000,
    )
    stage.seen = planner.question


@pytest.fixture
def regatta(window, qtbot, person):
    """All three pastes of the demo's day."""
    person.alt(K.Key_5)
    yield solved(qtbot, window)
    window.day.planner.solver.close()


@pytest.fixture
def stage(window, qtbot, person):
    """The case paste alone: a quicker day."""
    session = window.session
    others = tuple(w.uid for w in session.kitchen.demand.wants if w.uid != session.uid)
    session.store.put_timetable("alone", replace(session.kitchen.timetable, left_out=others))
    person.alt(K.Key_5)
    yield solved(qtbot, window)
    window.day.planner.solver.close()


def moved(qtbot, stage):
    """Wait for the timetable after a change."""
    solved_again(qtbot, stage)
    assert stage.planner.plan is not None
    assert faults(stage.planner.view.problem, stage.planner.plan.steps) == []


def rest_as_short_as_can_be(stage):
    """A step before which a block rests no longer than it must."""
    problem = stage.planner.view.problem
    for gap, begin, end in rests_of(problem, starts_of(stage.planner.plan.steps)):
        in_order = stage.planner.view.step_before(*gap.then) == gap.first[1]
        if end - begin == gap.least > 10 and gap.spaces and in_order:
            return gap.then
    raise AssertionError("every rest has time to spare")


def test_the_regatta_day_by_keyboard_alone(window, qtbot, person, regatta, answers, tmp_path):
    stage = regatta
    assert stage.planner.answer.possible
    assert "The best possible." in stage.words()
    assert "Time to spare" in stage.words()
    person.press(K.Key_Home)
    before = stage.planner.plan
    tight = rest_as_short_as_can_be(stage)
    for _ in range(90):
        if stage.timeline.chosen == tight:
            break
        person.press(K.Key_Right)
    tab_to(person, named("Still soft"))
    person.press(K.Key_Space)
    moved(qtbot, stage)
    assert stage.planner.view.problem.under_way
    assert stage.planner.plan.start_of(*tight) >= before.start_of(*tight) + 10
    assert "Ready" in stage.words()
    kept = {(s.paste, s.step): s.start_min for s in before.steps}
    assert all(kept[b.paste, b.step] == b.start_min for b in stage.planner.view.problem.so_far)
    for words, name in (("Wall sheet", "wall.pdf"), ("Timetable as calendar file", "day.ics")):
        answers.path = tmp_path / name
        tab_to(person, named(words))
        person.press(K.Key_Space)
        qtbot.waitUntil(answers.path.exists, timeout=30_000)
    for key, name in (("day paper", "day.pdf"), ("day csv", "day.csv")):
        answers.path = tmp_path / name
        window.do(key)
        qtbot.waitUntil(answers.path.exists, timeout=30_000)
    wall = pypdfium2.PdfDocument(tmp_path / "wall.pdf")
    on_wall = "".join(p.get_textpage().get_text_range() for p in wall)
    assert "turns 3, 4 × 3" in on_wall
    assert "Solving" not in on_wall
    assert len(wall) >= 2, "a sheet for each day of work"
    text = "".join(
        p.get_textpage().get_text_range() for p in pypdfium2.PdfDocument(tmp_path / "day.pdf")
    )
    assert "turn 3: single" in text
    assert "Go by the state of the block," in text
    events = Calendar.from_ical((tmp_path / "day.ics").read_bytes()).walk("VEVENT")
    assert len(events) == len(stage.planner.plan.steps)
    rows = list(csv.DictReader((tmp_path / "day.csv").read_text("utf-8-sig").splitlines()))
    assert len(rows) == len(events)
    person.ctrl(K.Key_Z)
    moved(qtbot, stage)
    assert not stage.planner.view.problem.under_way


def test_a_step_is_nudged_held_and_let_go(window, qtbot, person, stage):
    person.press(K.Key_Home)
    paste, step = stage.timeline.chosen
    start = stage.planner.plan.start_of(paste, step)
    person.alt(K.Key_Left)
    moved(qtbot, stage)
    assert stage.planner.plan.start_of(paste, step) == start - 5
    assert not stage.free.isHidden()
    stage.timeline.setFocus()
    person.press(K.Key_F)
    moved(qtbot, stage)
    assert stage.planner.view.problem.held == ()


def test_a_time_typed_for_a_step_holds_it_there(window, qtbot, person, stage):
    person.press(K.Key_Home)
    paste, step = stage.timeline.chosen
    stage.starts.setFocus()
    person.type("7:30")
    moved(qtbot, stage)
    begins = stage.planner.view.clock.moment(stage.planner.plan.start_of(paste, step))
    assert f"{begins:%H:%M}" == "07:30"
    stage.took.setFocus()
    person.type("12")
    moved(qtbot, stage)
    assert stage.planner.view.minutes(paste, step) == 12
    stage.starts.setFocus()
    person.type("half past")
    assert stage.starts.bad
    assert "time of day" in stage.error.text()
    person.press(K.Key_Escape)


def test_what_cannot_be_is_told_and_one_press_mends_it(window, qtbot, person, stage):
    uid = next(uid for uid, name in stage.planner.view.names.items() if name.startswith("Regatta"))
    field = stage.rows[uid].ready
    field.setFocus()
    person.type("5:30")
    solved_again(qtbot, stage)
    assert not stage.planner.answer.possible
    assert "This cannot be done" in stage.words()
    remedies = [stage.remedies.itemAt(i).widget() for i in range(stage.remedies.count())]
    assert 1 <= len(remedies) <= 3
    qtbot.waitUntil(remedies[0].isVisible)  # the toolkit shows what is new on its next turn
    remedies[0].setFocus()
    person.press(K.Key_Space)
    moved(qtbot, stage)
    assert stage.planner.answer.possible


def test_hours_days_goal_and_leaving_a_paste_out(window, qtbot, person, stage):
    stage.hours.setFocus()
    person.type("4:30 to 16")
    moved(qtbot, stage)
    assert window.session.kitchen.timetable.hours == ((270, 960),)
    for many in (2, 1):
        list(stage.rows.values())[1].taken.setFocus()
        person.press(K.Key_Space)
        moved(qtbot, stage)
        assert len(stage.planner.view.pastes) == many
    stage.goal.setFocus()
    person.press(K.Key_Down)
    moved(qtbot, stage)
    assert stage.planner.view.problem.goal == "least_late"
    stage.hours.setFocus()
    person.type("9 to 5")
    assert stage.hours.bad
    person.press(K.Key_Escape)


def test_it_begins_and_is_taken_back(window, qtbot, person, stage):
    person.press(K.Key_End)
    tab_to(person, named("Start the day"))
    person.press(K.Key_Space)
    moved(qtbot, stage)
    assert stage.planner.view.problem.under_way
    assert stage.begin.text() == "Update to now"
    tab_to(person, named("Undo start"))
    person.press(K.Key_Space)
    moved(qtbot, stage)
    assert not stage.planner.view.problem.under_way


def test_the_timetable_is_enlarged_and_walked(window, qtbot, person, stage):
    list(stage.rows.values())[1].taken.setFocus()
    person.press(K.Key_Space)
    moved(qtbot, stage)
    line = stage.timeline
    line.setFocus()
    for _ in range(4):
        person.press(K.Key_Plus)
    assert line.zoom > 2
    person.press(K.Key_End)
    last = line.chosen
    person.press(K.Key_Up)
    assert line.chosen[0] != last[0]
    person.press(K.Key_0)
    assert line.zoom == 1
    assert line.accessibleDescription().count(":") > 20


def test_a_step_is_picked_and_dragged_by_mouse(window, qtbot, person, stage):
    line = stage.timeline
    line.grab()
    bar = next(p for p in line.placed if not p.rest and p.rect[2] > 20)
    x, y = round(bar.rect[0] + bar.rect[2] / 2), round(bar.rect[1] + bar.rect[3] / 2)
    QTest.mousePress(line, Qt.MouseButton.LeftButton, pos=QPoint(x, y))
    assert line.chosen == (bar.paste, bar.step)
    before = stage.planner.plan.start_of(bar.paste, bar.step)
    QTest.mouseMove(line, QPoint(x - 15, y))
    QTest.mouseMove(line, QPoint(x - 30, y))
    QTest.mouseRelease(line, Qt.MouseButton.LeftButton, pos=QPoint(x - 30, y))
    solved_again(qtbot, stage)
    assert [h.step for h in stage.planner.view.problem.held] == [bar.step]
    assert stage.planner.view.problem.held[0].start_min < before


def test_a_day_that_wants_nothing_teaches(window, qtbot, person):
    demand = window.session.kitchen.demand
    window.session.store.put_demand("nothing", replace(demand, wants=()))
    person.alt(K.Key_5)
    qtbot.waitUntil(lambda: "Day’s demand" in window.day.state.text(), timeout=10_000)
    assert window.day.planner.plan is None
    window.day.planner.solver.close()


def test_a_solver_that_dies_is_told_and_asked_anew(window, qtbot, person, stage):
    stage.planner.solver.process.kill()
    qtbot.waitUntil(lambda: not stage.planner.solver.alive, timeout=10_000)
    stage._asked_for = None
    stage.refresh()
    qtbot.waitUntil(
        lambda: stage.planner.answer is not None and stage.planner.answer.possible, timeout=60_000
    )
