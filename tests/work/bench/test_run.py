"""A run from its first press to its last: held, taken back, killed, opened again."""

import random
import re
import sys
import time
from datetime import datetime, timedelta, timezone

import pytest
from msgspec.structs import replace

from aplomb.book.book import DiskError
from aplomb.core.base.errors import AplombError
from aplomb.core.bench.acts import Begin, ClockMoved, Hold, Measure, Note, Quiet, Seen
from aplomb.core.bench.state import state_of
from aplomb.work.bench.clock import RunClock
from aplomb.work.bench.leaving import LeftRuns
from aplomb.work.bench.run import LiveRun, read_plan, read_presses
from aplomb.work.bench.start import begin, changed_since, plan_of, ready_formula
from aplomb.work.figures.local import begun_text
from finders import kills

from .conftest import BEGUN


def test_a_batch_goes_from_the_scale_to_the_rack_with_one_key(opened, hand, baker):
    run = opened()
    who = baker(run, hand)
    who.work()
    assert all(t.ended_s is not None for t in run.state.tasks.values())
    kinds = [run.plan.by_key[key].kind for key, done, *_ in who.log if done == "end"]
    assert kinds.count("turn") == 4 * len([t for t in run.plan.tracks if t.block])
    run.finish()
    assert run.is_over
    with pytest.raises(AplombError, match="correct"):
        run.press(Begin("A/weigh.1"))
    run.press(Note("A", "put right afterwards"))  # a record can always be put right


def test_what_is_settled_counts_once_though_it_is_answered_later(opened, work, hand):
    number = opened().number
    later = []
    pantry = work.store.reference.pantry
    run = LiveRun(work.book, number, pantry, hand.clock(), post=later.append)
    run.press(Note("A", "seen by nobody yet"))
    assert not run.presses
    assert run.waiting
    run.settle()
    assert [p.act for p in run.presses] == [Note("A", "seen by nobody yet")]
    assert not run.waiting
    assert later
    for call in later:
        call()
    assert [p.number for p in run.presses] == [1]
    assert (run.presses, 0) == read_presses(work.book, number)
    run.close()


def test_no_block_is_rolled_before_it_has_rested(opened, hand, baker):
    run = opened()
    baker(run, hand).work()
    by_key = run.plan.by_key
    for task in run.plan.tasks:
        begun = run.state.tasks[task.key].begun_s
        for key in task.after:
            assert begun >= run.state.tasks[key].ended_s + 60 * by_key[key].rest_min - 1


def test_too_soft_goes_back_for_minutes_worked_out_for_this_block(opened, hand, baker):
    run = opened()
    block = next(t for t in run.plan.tasks if t.kind == "turn" and t.name.startswith("turn 3"))
    who = baker(run, hand, {block.key: "soft"})
    who.work()
    held = next(line for line in who.log if line[1:2] == ("soft",))
    assert 5 <= held[2].minutes <= 120
    seen = [s.state for s in run.state.tasks[block.key].seen]
    assert seen == ["soft", "right"]
    assert run.state.tasks[block.key].holds == 1


def test_greasy_goes_back_for_longer_than_soft_and_a_probe_counts_for_more(opened):
    run = opened()
    task = next(t for t in run.plan.tasks if t.kind == "turn" and t.after and t.out_min)
    soft = run.times.hold(task, "cold", 2.0)[0]
    smears = run.times.hold(task, "cold", 4.0)[0]
    assert smears >= soft
    run.times.probe_c[task.track] = 24.0
    assert run.times.hold(task, "cold", 2.0)[0] > soft
    stand, place = run.times.hold(task, "stand", -3.0)
    assert (place, stand >= 5) == ("bench", True)


def test_one_press_taken_back_takes_all_of_that_key_back(opened, hand, baker):
    run = opened()
    who = baker(run, hand)
    while run.asking is None:
        who.log.clear()
        now = run.current()
        if now.status in ("resting", "waiting") and run.ringing() is None:
            hand.on(120)
            continue
        if run.go_on() == "begin":
            hand.on(60 * now.task.minutes)
        hand.on(1)
    task = run.asking
    if task.kind == "mix":
        run.answer("right")
        assert run.state.tasks[task.key].ended_s is not None
    run.take_back()
    hand.on(1)
    if task.kind == "mix":
        assert run.state.tasks[task.key].ended_s is None
        assert run.state.tasks[task.key].seen == ()
    assert run.current().task.key == task.key


def test_a_question_is_taken_back_without_a_press(opened, hand):
    run = opened()
    run.asking = run.plan.tasks[0]
    before = len(run.presses)
    assert run.take_back()
    assert (run.asking, len(run.presses)) == (None, before)
    assert not run.take_back()


def test_an_alarm_is_heard_first(opened, hand, baker):
    run = opened()
    who = baker(run, hand)
    while run.ringing() is None:
        who.step()
    key = run.ringing().key
    assert run.go_on() == "quiet"
    assert isinstance(run.presses[-1].act, Quiet)
    assert run.presses[-1].act.alarm == key


def test_spoons_go_both_ways_and_never_below_none(opened, hand):
    run = opened()
    while run.current().task.kind != "mix":
        if run.go_on() == "":
            hand.on(60)
    key = run.current().task.key
    run.count("water", -1)
    assert run.state.counted(key, "water") == (0, 0.0)
    run.count("water", 1)
    run.count("water", 1)
    run.count("water", -1)
    run.count("flour", 1)
    assert run.state.counted(key, "water") == (1, 15.0)
    assert run.state.counted(key, "flour") == (1, 8.0)


def test_a_trouble_is_written_down_with_what_was_done(opened, hand):
    run = opened()
    run.chosen = "A1"
    by_key = {r.key: r for r in run.rescues()}
    assert run.rescue(by_key["sticks"]) is None
    assert run.state.notes[-1][1].corrective
    held = run.rescue(by_key["through"])
    assert 10 <= held.minutes <= 20  # common practice bounds what is worked out
    assert isinstance(run.presses[-1].act, Hold)


def test_what_lies_open_is_put_back_with_one_key(opened, hand):
    run = opened()
    enclose = next(t for t in run.plan.tasks if t.kind == "enclose")
    run.press(Begin(enclose.key))
    hand.on(300)
    assert enclose.track in run.state.out_s
    assert run.back_to_cold().minutes >= 5
    assert run.state.out_s == {}
    assert run.back_to_cold() is None


def test_after_a_restart_it_stands_where_it_stood(work, opened, hand, baker):
    run = opened()
    who = baker(run, hand)
    for _ in range(25):
        who.step()
    state, now, number = run.state, run.now_s, run.number
    run.close()
    hand.on(600)  # the machine was off for ten minutes
    again = opened(number)
    assert again.state.tasks == state.tasks
    assert again.state.counts == state.counts
    assert again.now_s == pytest.approx(now + 600)
    baker(again, hand).work()


def test_a_clock_that_is_put_back_while_it_runs_changes_no_time(opened, hand):
    run = opened()
    run.press(Begin("A/weigh.1"))
    hand.on(600)
    hand.wall_s -= 3600  # somebody sets the clock back an hour
    assert run.look_at_clock()
    assert run.now_s == pytest.approx(600, abs=1.1)
    assert not run.look_at_clock()
    hand.wall_s += 7200
    assert run.look_at_clock()
    assert run.now_s == pytest.approx(600, abs=1.1)
    assert isinstance(run.presses[-1].act, ClockMoved)


def test_a_clock_that_was_put_back_while_it_was_off_goes_on_from_the_last_press(opened, hand):
    run = opened()
    hand.on(900)
    run.press(Begin("A/weigh.1"))
    number = run.number
    run.close()
    hand.wall_s -= 5000
    again = opened(number)
    assert again.now_s == pytest.approx(900, abs=1)
    assert again.state.shift_s == pytest.approx(5000, abs=1)
    again.close()
    third = opened(number)
    assert third.now_s == pytest.approx(900, abs=1)
    assert len(third.presses) == len(again.presses)


def test_sleep_is_time_that_passed(opened, hand):
    """A closed lid: the machine's count goes on with the wall, so nothing is put right."""
    run = opened()
    hand.on(8 * 3600)
    assert not run.look_at_clock()
    assert run.now_s == pytest.approx(8 * 3600)


def test_a_rehearsal_runs_quickly_and_is_as_true_after_a_restart(work, hand, tmp_path):
    uid = work.shelf.uid
    number = begin(work, plan_of(ready_formula(work, uid), BEGUN, quick=60.0))
    from aplomb.work.bench.run import LiveRun

    run = LiveRun(work.book, number, work.store.reference.pantry, hand.clock(60.0), wait=True)
    hand.on(60)
    assert run.now_s == pytest.approx(3600)
    assert run.clock.moment(3600) == BEGUN + timedelta(seconds=60)
    run.close()


def test_a_disk_that_refuses_is_told_and_nothing_is_lost(opened, hand, monkeypatch):
    run = opened()
    run.waits = False
    runs = run.book.runs
    really = runs.press
    refusing = [True]

    def press(*what):
        if refusing[0]:
            raise DiskError("The disk is full.")
        really(*what)

    monkeypatch.setattr(runs, "press", press)
    monkeypatch.setattr("aplomb.work.bench.writer.AGAIN_S", 0.02)
    run.press(Begin("A/weigh.1"))
    until(lambda: run.trouble)
    assert "disk is full" in run.trouble
    assert run.state.tasks["A/weigh.1"].begun_s is None  # not shown as done before it is kept
    assert run.go_on() == ""
    refusing[0] = False
    until(lambda: not run.waiting)
    assert run.trouble == ""
    assert run.state.tasks["A/weigh.1"].begun_s is not None


def until(what, most_s=5.0):
    end = time.monotonic() + most_s
    while not what():
        assert time.monotonic() < end
        time.sleep(0.01)


def test_the_run_keeps_its_own_formula_and_says_so(work, opened):
    run = opened()
    uid = next(iter(run.plan.formulas))
    assert changed_since(work, run.plan) == ()
    work.shelf.select(uid)
    work.shelf.edit("thicker", lambda f: replace(f, sheet_mm=9.0))
    (told,) = changed_since(work, run.plan)
    assert "changed after this run started" in told
    assert run.plan.formulas[uid].sheet_mm != 9.0
    assert work.book.revisions(uid)[-1].formula.sheet_mm != 9.0
    work.shelf.delete()
    (told,) = changed_since(work, run.plan)
    assert "deleted" in told


def test_runs_go_with_a_book_that_is_kept_elsewhere(work, opened, tmp_path):
    run = opened()
    run.press(Begin("A/weigh.1"), Measure("A", "pieces", 3))
    number = run.number
    run.close()
    work.keep_copy(tmp_path / "other.aplomb")
    assert len(work.book.runs.presses(number)) == 2
    assert work.book.runs.all()[0].number == number


def test_a_press_that_cannot_be_read_is_passed_over(work, opened):
    run = opened()
    run.press(Begin("A/weigh.1"))
    work.book.file.db.execute(
        "INSERT INTO press VALUES (?, 2, 1.0, '', '{\"act\": 7')", (run.number,)
    )
    work.book.file.db.execute(
        "INSERT INTO press VALUES (?, 3, 2.0, '', '{\"act\": \"seen\"}')", (run.number,)
    )
    db = work.book.file.db
    for number, at_s, act in (
        (4, 1e300, '{"act": "finish"}'),
        (5, -3.0, '{"act": "finish"}'),
        (6, 3.0, '{"act": "clock", "seconds": 1e12}'),
        (7, 4.0, '{"act": "clock", "seconds": 1e999}'),
    ):
        db.execute("INSERT INTO press VALUES (?, ?, ?, '', ?)", (run.number, number, at_s, act))
    presses, unread = read_presses(work.book, run.number)
    assert [p.number for p in presses] == [1]
    assert unread == 6
    again = opened(number=run.number)
    assert again.unread == 6
    assert again.clock.moment(again.now_s).year < 2200


@pytest.mark.parametrize(
    "begun",
    [
        "",
        "yesterday",
        "2026-13-01T05:00+00:00",
        "2026-06-05T05:00:00",
        "9999-12-31T23:59Z",
        "0001-01-01T00:00+00:00",
    ],
)
def test_a_run_that_was_begun_at_no_moment_is_refused_in_words(work, opened, begun):
    run = opened()
    body = work.book.runs.plan(run.number).replace(run.plan.begun, begun)
    work.book.file.db.execute("UPDATE run SET plan = ?, begun = ?", (body, begun))
    with pytest.raises(AplombError, match="This run cannot be read; it stays in the book"):
        read_plan(work.book, run.number)
    assert work.book.runs.all()[0].begun == begun
    assert begun_text(begun)


@pytest.mark.parametrize("figure", ["minutes", "rest_min", "planned_min", "mass_g"])
@pytest.mark.parametrize("value", ["1e999", "-1e300", "1e15"])
def test_a_run_with_an_endless_figure_is_refused_in_words(work, opened, figure, value):
    run = opened()
    whole = work.book.runs.plan(run.number)
    body = re.sub(rf'"{figure}":[^,}}]+', f'"{figure}":{value}', whole, count=1)
    work.book.file.db.execute("UPDATE run SET plan = ?", (body,))
    with pytest.raises(AplombError, match="cannot be read"):
        read_plan(work.book, run.number)


def test_a_press_just_after_the_clock_was_moved_stands_at_its_own_time(opened, hand):
    """Nobody has looked at the clock between the jump and the press."""
    run = opened()
    hand.on(60)
    run.press(Begin("A/weigh.1"))
    hand.wall_s += 3600.0
    hand.on(0.1)
    run.press(Note("A", "a moment later"))
    moments = {type(p.act).__name__: p.at_s for p in run.presses}
    assert moments["Note"] - moments["Begin"] == pytest.approx(0.1, abs=0.01)
    run.close()


def test_a_thread_that_meets_a_mistake_goes_on_and_says_so(opened, monkeypatch):
    run = opened()
    run.waits = False
    runs = run.book.runs
    really, heard, falls = runs.press, [], [True]
    monkeypatch.setattr(sys, "excepthook", lambda *error: heard.append(error[0]))

    def press(*what):
        if falls[0]:
            raise KeyError("nobody expected this")
        really(*what)

    monkeypatch.setattr(runs, "press", press)
    monkeypatch.setattr("aplomb.work.bench.writer.AGAIN_S", 0.02)
    run.press(Begin("A/weigh.1"))
    until(lambda: run.trouble)
    assert "a mistake in Aplomb that is not yours (KeyError)" in run.trouble
    assert heard[0] is KeyError
    falls[0] = False
    until(lambda: not run.waiting)
    assert [p.act for p in read_presses(run.book, run.number)[0]] == [Begin("A/weigh.1")]
    run.close()


def test_leaving_waits_for_no_disk_and_what_waits_is_written_when_it_can_be(opened, monkeypatch):
    run = opened()
    run.waits = False
    runs = run.book.runs
    really, refusing, kept = runs.press, [True], []

    def press(*what):
        if refusing[0]:
            raise DiskError("The disk is full.")
        really(*what)

    monkeypatch.setattr(runs, "press", press)
    monkeypatch.setattr("aplomb.work.bench.writer.AGAIN_S", 0.02)
    left = LeftRuns(lambda run, probes: kept.append((run, probes)))
    run.press(Begin("A/weigh.1"))
    left.leave(run)
    assert left.all == [run]
    assert left.take(run.book, run.number) is run, "opened again, it is the same"
    left.leave(run)
    refusing[0] = False
    until(lambda: kept)
    assert kept == [(run, None)]
    assert left.all == []
    until(lambda: run.writer.ended)
    assert [p.act for p in read_presses(run.book, run.number)[0]] == [Begin("A/weigh.1")]


@pytest.mark.parametrize("seed", range(2))
def test_killed_at_any_moment_no_press_that_was_told_is_lost(tmp_path, seed):
    """A process presses and says each press once it counts; it is killed without warning."""
    assert kills.held(tmp_path, random.Random(seed).uniform(0.0, 0.25)) == ""


def test_what_was_seen_is_in_the_record(opened, hand, baker):
    run = opened()
    baker(run, hand).work()
    seen = [p.act for p in run.presses if isinstance(p.act, Seen)]
    assert len(seen) >= 4
    assert state_of(run.plan, run.presses).tasks == run.state.tasks


def test_the_record_follows_the_wall_over_the_end_of_summer_time(monkeypatch):
    """Begun at 01:30 summer time; two hours later the wall shows 02:30, not 03:30 (tz database)."""
    monkeypatch.setenv("TZ", "Europe/Berlin")
    time.tzset()
    try:
        begun = datetime(2026, 10, 25, 1, 30).astimezone()
        clock = RunClock(begun, 1.0, lambda: begun.timestamp(), lambda: 0.0)
        assert f"{clock.moment(2 * 3600):%H:%M %z}" == "02:30 +0100"
        elsewhere = begun.astimezone(timezone(timedelta(hours=-5)))
        far = RunClock(elsewhere, 1.0, lambda: begun.timestamp(), lambda: 0.0)
        assert f"{far.moment(3600):%H:%M %z}" == "19:30 -0500", "begun elsewhere: by its own wall"
    finally:
        monkeypatch.undo()  # back to the zone of those who run it, for all tests behind
        time.tzset()
