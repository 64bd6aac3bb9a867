"""The demo's regatta day: gathered, solved, begun, moved, given out."""

from datetime import UTC, date, datetime, time, timedelta
from itertools import pairwise
from typing import get_args

import pytest
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.batch.keeping import KeptItem
from aplomb.core.batch.stock import Demand, Want
from aplomb.core.bench.acts import Begin, End
from aplomb.core.day.model import Letting
from aplomb.core.day.plan import faults, starts_of
from aplomb.core.day.remedies import Remedy
from aplomb.core.day.sheet import MOST_DAYS_BEFORE
from aplomb.core.day.solve import solve_day
from aplomb.work.bench import start
from aplomb.work.bench.finish import keep_made_batches, keep_stock, studies_of
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.words import card_of
from aplomb.work.day import moves as day_moves
from aplomb.work.day import view as tt
from aplomb.work.day import words as day_words
from aplomb.work.day.picture import picture_of
from aplomb.work.edits.bakers import read_bakers

TODAY = date(2026, 11, 26)
BEGUN = datetime(2026, 11, 26, 5, tzinfo=UTC)


def again(work, sheet):
    """The view after a change of the sheet, as the book would give it back."""
    before = work.store.kitchen.timetable
    work.store.put_timetable("a test", sheet)
    try:
        return tt.view_of(tt.gather(work, TODAY))
    finally:
        work.store.put_timetable("back", before)


def test_the_regatta_day_is_solved_with_three_pastes_and_one_baker(day):
    _, view, plan = day
    assert len(view.pastes) == 3
    assert plan.proven
    assert faults(view.problem, plan.steps) == []
    free = next(p for p in view.pastes if not p.gluten)
    left = plan.start_of(view.names[free.uid], free.bench_last)
    for paste in view.pastes:
        if paste.gluten:
            assert all(
                s.start_min >= left
                for s in plan.steps
                if s.paste == view.names[paste.uid]
                and "baker"
                in next(
                    x
                    for p in view.problem.pastes
                    if p.name == s.paste
                    for x in p.all_steps
                    if x.name == s.step
                ).needs
            )
    for name, minutes in (("Regatta", 710), ("Kiosk", 640)):
        words = next(w for w in day_words.ready_words(view, plan) if w.startswith(name))
        assert words.rpartition(" ")[2] <= f"{minutes // 60:02d}:{minutes % 60:02d}"


def test_hands_and_gaps(day):
    _, view, plan = day
    active, elapsed = day_words.hands_min(view, plan)
    assert 300 < active < elapsed < 2880
    for begin, end in day_words.free_gaps(view, plan):
        assert end - begin >= 15
        assert any(s.from_min <= begin and end <= s.to_min for s in view.problem.baker)


def test_a_day_that_begins_keeps_what_has_begun(day):
    work, view, plan = day
    now = plan.steps[6].start_min + 1
    moved = day_moves.begun(view, plan, now)
    later = again(work, moved.sheet)
    assert later.problem.now_min == now
    assert len(later.problem.so_far) == 7
    kept = later.kept_plan()
    assert starts_of(kept.steps) == starts_of(plan.steps)
    assert day_moves.not_begun(moved.sheet).sheet.plan == ()


def test_still_soft_moves_what_is_left_and_says_the_new_time(day):
    work, view, plan = day
    step = next(s for s in plan.steps if s.step == "turn.3" and "Regatta" in s.paste)
    moved = day_moves.not_ready(view, plan, step.paste, step.step, hard=False)
    later = again(work, replace(moved.sheet, goal="least_late"))
    answer = solve_day(later.problem)
    assert answer.possible
    assert faults(later.problem, answer.plan.steps) == []
    before, rested = (
        next(
            s
            for p in v.problem.pastes
            if p.name == step.paste
            for s in p.steps
            if s.name == "turn.2"
        )
        for v in (view, later)
    )
    assert rested.rest_min >= before.rest_min + 10
    assert len(day_words.ready_words(later, answer.plan)) == 3


def test_still_hard_waits_ten_minutes_more(day):
    _, view, plan = day
    step = next(s for s in plan.steps if s.step == "turn.3" and "Kiosk" in s.paste)
    moved = day_moves.not_ready(view, plan, step.paste, step.step, hard=True)
    assert list(moved.sheet.rest_extra.values()) == [10]
    assert "still hard" in moved.words


def test_a_step_that_runs_over_takes_longer(day):
    work, view, plan = day
    first = plan.steps[0]
    moved = day_moves.runs_over(view, plan, first.paste, first.step, 20)
    later = again(work, moved.sheet)
    assert later.minutes(first.paste, first.step) == view.minutes(first.paste, first.step) + 20
    assert later.problem.so_far
    sooner = day_moves.runs_over(view, plan, first.paste, first.step, -3)
    assert "early" in sooner.words


def test_begins_late_moves_what_has_begun_and_holds_what_has_not(day):
    work, view, plan = day
    late = day_moves.begins_late(view, plan, plan.steps[5].paste, plan.steps[5].step, 10)
    assert late.sheet.held[0].start_min == plan.steps[5].start_min + 10
    under = again(work, day_moves.begun(view, plan, plan.steps[0].start_min + 1).sheet)
    moved = day_moves.begins_late(under, plan, plan.steps[0].paste, plan.steps[0].step, 15)
    first = plan.steps[0]
    starts = {(s.paste, s.step): s.start_min for s in moved.sheet.plan}
    assert starts[under.uids[first.paste], first.step] == first.start_min + 15


def test_a_step_is_held_and_let_go(day):
    work, view, plan = day
    step = plan.steps[3]
    moved = day_moves.held(view, step.paste, step.step, step.start_min - 5)
    later = again(work, moved.sheet)
    answer = solve_day(later.problem)
    assert answer.plan.start_of(step.paste, step.step) == step.start_min - 5
    assert day_moves.held(later, step.paste, step.step, None).sheet.held == ()


def test_blocks_from_the_freezer_thaw_beside_what_is_made_new(day):
    work, view, _ = day
    name = next(n for n in view.uids if n.startswith("Kiosk"))
    uid = view.uids[name]
    moved = day_moves.begins_from(view.sheet, uid, name, day_moves.BLOCKS)
    later = again(work, moved.sheet)
    paste = next(p for p in later.problem.pastes if p.name == name)
    assert [s.name for s in paste.sides if s.name == "thaw.1"] == ["thaw.1"]
    assert paste.steps[0].name == "weigh.1", "what stock is short of is made new"
    assert day_moves.begins_from(later.sheet, uid, name, "").sheet.from_frozen == ()


def test_a_day_by_two_bakers_says_who_does_what_and_one_key_gives_it_to_the_other(day):
    work, view, _ = day
    before = work.store.reference.house
    work.store.set_house("two", read_bakers(before, "MA 5:00 to 13:00, RO 7:00 to 15:00"))
    try:
        two = again(work, view.sheet)
        assert [p.name for p in two.problem.people] == ["MA", "RO"]
        answer = solve_day(two.problem)
        assert faults(two.problem, answer.plan.steps) == []
        lanes = [lane.name for lane in picture_of(two, answer.plan).lanes]
        assert lanes[:2] == ["MA", "RO"]
        assert "Hands" not in lanes
        step = next(s for s in answer.plan.steps if s.who == "RO")
        moved = day_moves.done_by(two, answer.plan, step.paste, step.step)
        assert moved.sheet.held[-1].who == "MA"
        baked = next(s for s in answer.plan.steps if s.step.startswith("bake."))
        assert day_moves.done_by(two, answer.plan, baked.paste, baked.step) is None
    finally:
        work.store.set_house("back", before)


def test_nothing_of_a_day_that_has_not_begun_begins_in_the_past(day):
    _, view, _ = day
    first = datetime.combine(view.day, datetime.min.time()).astimezone()
    long_before = tt.from_now(view, first - timedelta(days=3))
    assert long_before == replace(view.problem, day_before_from_min=0)
    evening = tt.from_now(view, first - timedelta(days=1, hours=5))
    assert (evening.not_before_min, evening.day_before_from_min) == (0, 19 * 60)
    whole_week = replace(view, sheet=replace(view.sheet, days_before=MOST_DAYS_BEFORE))
    assert tt.from_now(whole_week, first - timedelta(days=9)) == view.problem
    later = tt.from_now(view, first - timedelta(days=1) + timedelta(hours=6, minutes=2))
    assert later.not_before_min == 6 * 60 + 5
    answer = solve_day(later)
    assert answer.possible
    assert min(s.start_min for s in answer.plan.steps) >= later.not_before_min
    begun = replace(view, sheet=replace(view.sheet, now_min=30))
    assert tt.from_now(begun, first) == begun.problem


def test_paste_to_keep_ends_wrapped_and_is_stock_when_the_run_is_over(day):
    work, view, _ = day
    kitchen = work.store.kitchen
    uid = view.pastes[0].uid
    work.store.put_demand("keep", Demand(wants=(Want(uid, "", 3, keep=True),)))
    try:
        kept = again(work, view.sheet)
        (paste,) = kept.problem.pastes
        assert paste.steps[-1].name == "wrap.1"
        assert not [s for s in paste.all_steps if "oven" in s.needs]
        answer = solve_day(kept.problem)
        plan = start.plan_of(start.ready_day(work, kept, answer.plan), BEGUN)
        run = LiveRun(work.book, start.begin(work, plan), work.store.reference.pantry, wait=True)
        try:
            wrap = next(t for t in plan.tasks if t.kind == "wrap")
            run.press(Begin(wrap.key))
            run.press(End(wrap.key))
            (told,) = keep_stock(work, run)
            assert "3 blocks are in stock" in told
            item = work.store.kitchen.stock.kept[-1]
            assert (item.form, item.where, item.many, item.uid) == ("whole", "fridge", 3, uid)
            assert item.turns == item.planned == len(plan.formulas[uid].plan.turns)
            assert item.each_g > 500
        finally:
            run.close()
    finally:
        work.store.put_demand("back", kitchen.demand)
        work.store.put_stock("back", kitchen.stock)


@pytest.fixture
def with_pieces(day):
    """Twelve baked turnovers put by, in place of a paste that is made anew."""
    work, view, _ = day
    name = next(n for n in view.uids if n.startswith("Kiosk"))
    uid, before = view.uids[name], work.store.kitchen.stock
    item = KeptItem("k1", uid, "baked", "freezer", 12, made="2026-11-25")
    work.store.put_stock("a test", replace(before, kept=(*before.kept, item)))
    moved = day_moves.begins_from(view.sheet, uid, name, "k1")
    yield work, name, moved.sheet
    work.store.put_stock("back", before)


def test_baked_pieces_are_refreshed_as_steps_of_the_day(with_pieces):
    work, name, sheet = with_pieces
    told = day_words.sources_of(work.store.kitchen, sheet_uid(sheet), TODAY)
    assert [key for key, _ in told] == ["", day_moves.BLOCKS, "k1"]
    assert told[-1][1] == "12 baked, freezer"
    later = day_words.sources_of(work.store.kitchen, sheet_uid(sheet), date(2026, 12, 31))
    assert later[-1][1] == "12 baked, past its use-by date"
    later = again(work, sheet)
    answer = solve_day(later.problem)
    assert answer.possible
    steps = [s.step for s in answer.plan.steps if s.paste == name]
    assert steps[0] == "trays.1"
    assert any(s.startswith("refresh.") for s in steps)
    assert any("12 in stock" in each for each in later.troubles), "fewer than are wanted"


def sheet_uid(sheet):
    (uid,) = sheet.from_kept
    return uid


def test_refreshing_is_run_at_the_bench(with_pieces):
    """Its oven is set to refresh, not to bake; no block is on the bench, and nothing is mixed."""
    work, _, sheet = with_pieces
    before = work.store.kitchen.timetable
    view = again(work, sheet)
    answer = solve_day(view.problem)
    work.store.put_timetable("a test", sheet)
    plan = start.plan_of(start.ready_day(work, view, answer.plan), BEGUN)
    run = LiveRun(work.book, start.begin(work, plan), work.store.reference.pantry, wait=True)
    try:
        run.times.house = work.store.reference.house
        track = next(t for t in plan.tracks if t.uid == sheet_uid(sheet))
        assert not [t for t in plan.tracks if t.uid == track.uid and t.block]
        kinds = {t.kind: t for t in plan.tasks_of(track.key)}
        assert not {"weigh", "mix", "turn", "bake"} & set(kinds)
        study = studies_of(work, run)[track.uid]
        for kind in ("heat", "refresh"):
            card = card_of(run, kinds[kind], study, work.store.reference.pantry)
            assert card.todo[0] == "Galley oven: set the dial to 154 °C.", (
                "180 without a fan, and its own"
            )
        for task in plan.tasks_of(track.key):
            run.press(Begin(task.key))
            run.press(End(task.key))
        keep_made_batches(work, run)
        assert [i.many for i in work.store.kitchen.stock.kept if i.key == "k1"] == [12]
        (told,) = keep_stock(work, run)
        assert "12 pieces used from stock" in told
        assert "k1" not in [i.key for i in work.store.kitchen.stock.kept]
        work.journal.undo()
        assert [i.many for i in work.store.kitchen.stock.kept if i.key == "k1"] == [12]
    finally:
        run.close()
        work.store.put_timetable("back", before)


@pytest.mark.parametrize("quick", [1.0, 12.0])
def test_blocks_that_were_thawed_go_off_the_stock(day, quick):
    work, view, _ = day
    name = next(n for n in view.uids if n.startswith("Kiosk"))
    uid, before = view.uids[name], work.store.kitchen.timetable
    stock = work.store.kitchen.stock
    there = sum(i.many for i in stock.blocks(uid))
    sheet = day_moves.begins_from(view.sheet, uid, name, day_moves.BLOCKS).sheet
    view = again(work, sheet)
    answer = solve_day(view.problem)
    work.store.put_timetable("a test", sheet)
    plan = start.plan_of(start.ready_day(work, view, answer.plan), BEGUN)
    run = LiveRun(
        work.book,
        start.begin(work, replace(plan, quick=quick)),
        work.store.reference.pantry,
        wait=True,
    )
    try:
        assert keep_stock(work, run) == [], "nothing is out yet"
        thaws = [
            t
            for track in plan.tracks
            if track.uid == uid
            for t in plan.tasks_of(track.key)
            if t.kind == "thaw"
        ]
        for task in thaws:
            run.press(Begin(task.key))
            run.press(End(task.key))
        told = keep_stock(work, run)
        left = sum(i.many for i in work.store.kitchen.stock.blocks(uid))
        if quick != 1.0:
            assert (told, left) == ([], there), "a rehearsal uses nothing"
        else:
            blocks = max(t.blocks for t in plan.tracks if t.uid == uid)
            assert there - left == min(there, blocks) > 0
            assert told == [f"{name}: 2 blocks used from stock"]
    finally:
        run.close()
        work.store.put_timetable("back", before)
        work.store.put_stock("back", stock)


@pytest.mark.parametrize("what", ["ready_later", "baker_earlier", "baker_later"])
def test_a_remedy_is_one_press(day, what):
    _, view, _ = day
    name = view.problem.pastes[0].name
    remedy = Remedy(what, name if what == "ready_later" else "", minutes=30, shift=1)
    moved = day_moves.remedied(view, remedy, lambda house: pytest.fail("the house stays"))
    assert moved.sheet != view.sheet


@pytest.mark.parametrize("what", ["fridge_spaces", "freezer_spaces", "second_baker", "ovens"])
def test_a_remedy_of_the_house_goes_to_the_house(day, what):
    _, view, _ = day
    put = []
    moved = day_moves.remedied(view, Remedy(what, spaces=2), put.append)
    assert moved.words == ""
    assert put[0] != view.house


@pytest.mark.parametrize("what", [each for each in get_args(Letting) if each])
def test_a_remedy_that_is_offered_changes_something(day, what):
    _, view, _ = day
    remedy, put = Remedy(what, view.problem.pastes[0].name, minutes=30, spaces=2, shift=0), []
    moved = day_moves.remedied(view, remedy, put.append)
    changes = moved.sheet != view.sheet or any(house != view.house for house in put)
    assert changes == day_moves.in_reach(remedy)


@pytest.mark.parametrize(
    ("clock", "days_before", "begun", "wanted"),
    [
        (time(0, 0), 1, None, 27),
        (time(5, 0), 1, None, 27),
        (time(5, 1), 1, None, 28),
        (time(23, 59), 1, None, 28),
        (time(14, 0), 1, 540, 27),  # under way: it is not put off
        (time(4, 0), 0, None, 27),
        (time(14, 0), 0, None, 27),
        (time(4, 0), 3, None, 29),
        (time(14, 0), 3, None, 30),
    ],
)
def test_a_day_that_is_not_named_has_all_its_hours_to_come(day, clock, days_before, begun, wanted):
    """Calculation: hands are there from 05:00; the work begins so many days ahead."""
    work, view, _ = day
    sheet = replace(view.sheet, days_before=days_before, now_min=begun)
    kitchen = replace(work.store.kitchen, timetable=sheet)
    now = datetime.combine(TODAY, clock)
    assert tt.wanted_day(kitchen, view.house, now) == date(2026, 11, wanted)
    named = replace(kitchen, demand=replace(kitchen.demand, day="2026-11-26"))
    assert tt.wanted_day(named, view.house, now) == TODAY
    none = replace(view.house, hours=(), people=())
    assert tt.wanted_day(kitchen, none, now) >= TODAY + timedelta(days=1)


def test_a_day_that_is_over_and_one_that_wants_nothing(day):
    work, view, _ = day
    late = datetime.combine(view.day, datetime.min.time()).astimezone() + timedelta(days=2)
    assert "by now" in tt.too_late(view, late)
    assert tt.too_late(view, late - timedelta(days=4)) == ""
    gathered = tt.gather(work, TODAY)
    empty = replace(
        gathered,
        kitchen=replace(gathered.kitchen, demand=replace(gathered.kitchen.demand, wants=())),
    )
    with pytest.raises(AplombError, match="Nothing is ordered"):
        tt.view_of(empty)


def test_two_formulas_of_one_name_are_told_apart(solved):
    _, view, _ = solved
    two = (replace(view.pastes[0], uid="a"), replace(view.pastes[0], uid="b"))
    assert len(set(tt._shown_names(two).values())) == 2


def test_the_picture_holds_every_step_and_every_rest(day):
    _, view, plan = day
    picture = picture_of(view, plan)
    hands = next(lane for lane in picture.lanes if lane.name == "Hands")
    wanted = sum("baker" in s.needs for p in view.problem.pastes for s in p.all_steps)
    assert len(hands.bars) == wanted
    assert hands.rows == 1, "one baker does one thing at a time"
    fridge = next(lane for lane in picture.lanes if lane.name == "Fridge")
    cooled = [r for r in fridge.rests if r.temps]
    assert all(r.temps[0][1] >= r.temps[-1][1] for r in cooled)
    assert all(r.start <= t <= r.end + 1 for r in cooled for t, _ in r.temps)
    assert any(r.hard for r in fridge.rests), "a night makes a block hard"
    assert picture.quiet, "the night is drawn shorter"


def test_events_are_the_steps_in_order(day):
    _, view, plan = day
    events = day_words.events_of(view, plan)
    assert len(events) == len(plan.steps)
    assert all(a.begins <= b.begins for a, b in pairwise(events))
    assert any(e.place == "fridge" for e in events)


@pytest.mark.parametrize("hour", [3, 5, 7, 12, 23])
def test_a_day_that_nobody_named_stays_the_day_it_was_begun_for(day, hour):
    """Begun before its hours too: the first minute of work is not moved to the day before."""
    work, view, plan = day
    demand = replace(work.store.kitchen.demand, day="")
    nobody = replace(work.store.kitchen, demand=demand)
    now = datetime.combine(TODAY, time(hour))
    wanted = tt.wanted_day(nobody, view.house, now)
    sheet = day_moves.begun(replace(view, day=wanted), plan, 100).sheet
    assert sheet.begun_for == wanted.isoformat()
    later = replace(nobody, timetable=sheet)
    for moment in (now, now + timedelta(hours=9), now + timedelta(days=3)):
        assert tt.wanted_day(later, view.house, moment) == wanted
    assert day_moves.not_begun(sheet).sheet.begun_for == ""


def test_a_new_date_does_not_carry_what_another_day_had_begun(day):
    _, view, plan = day
    sheet = day_moves.begun(view, plan, 100).sheet
    other = sheet.on((view.day + timedelta(days=7)).isoformat())
    assert (other.now_min, other.plan, other.ready) == (None, (), sheet.ready)
    assert sheet.on(view.day.isoformat()) is sheet
