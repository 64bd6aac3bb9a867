"""Where a run stands follows from its presses alone; expectations by hand."""

import random

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.core.bench.acts import (
    Act,
    Amend,
    Attach,
    Begin,
    ClockMoved,
    Count,
    End,
    Finish,
    Hold,
    Measure,
    Note,
    Press,
    Quiet,
    Reach,
    Seen,
    TakeBack,
    Temp,
    Tick,
    Weigh,
    Who,
    check_act,
)
from aplomb.core.bench.plan import RunPlan, check_plan
from aplomb.core.bench.state import (
    alarms,
    coming,
    gone_on,
    in_order,
    last_that_stands,
    next_ring_s,
    shown,
    state_of,
)
from aplomb.core.bench.tally import turns_done

from .conftest import Presser, make_plan, task


def status(plan, state, key, minute):
    return next(c.status for c in coming(plan, state, 60 * minute) if c.task.key == key)


def test_a_block_goes_its_way(plan, press):
    press(0, Begin("A/weigh"))(5, End("A/weigh"), Begin("A/mix"))(11, End("A/mix"))
    state = state_of(plan, press.presses)
    assert status(plan, state, "A1/enclose", 12) == "resting"
    assert status(plan, state, "A1/enclose", 31) == "due"
    assert status(plan, state, "A1/turn 1", 31) == "waiting"
    press(32, Begin("A1/enclose"))
    state = state_of(plan, press.presses)
    assert state.at_hand == "A1/enclose"
    assert status(plan, state, "A1/enclose", 33) == "doing"
    press(36, End("A1/enclose"), Begin("A1/turn 1"))(41, End("A1/turn 1"))
    state = state_of(plan, press.presses)
    assert state.at_hand == ""
    assert state.out_s == {}
    assert state.out_before_s["A1"] == 60 * (41 - 32)
    assert status(plan, state, "A1/turn 2", 70) == "resting"
    assert status(plan, state, "A1/turn 2", 71) == "due"


def test_what_wants_hands_comes_first(plan, press):
    press(0, Begin("A/weigh"), End("A/weigh"))(5, Begin("A/mix"))(10, End("A/mix"))
    press(30, Begin("A1/enclose"))(34, End("A1/enclose"))
    state = state_of(plan, press.presses)
    order = [c.task.key for c in in_order(coming(plan, state, 60 * 34), state.at_hand)]
    assert order[:2] == ["A1/turn 1", "A2/enclose"] or order[:2] == ["A2/enclose", "A1/turn 1"]
    press(35, Begin("A2/enclose"))
    state = state_of(plan, press.presses)
    assert in_order(coming(plan, state, 60 * 36), state.at_hand)[0].task.key == "A2/enclose"


def test_the_block_whose_rest_ends_first_comes_before_the_other(plan, press):
    press(0, Begin("A/weigh"), End("A/weigh"), Begin("A/mix"), End("A/mix"))
    for key, minute in (("A1", 30), ("A2", 40)):
        press(
            minute,
            Begin(f"{key}/enclose"),
            End(f"{key}/enclose"),
            Begin(f"{key}/turn 1"),
            End(f"{key}/turn 1"),
        )
    state = state_of(plan, press.presses)
    order = [c.task.key for c in in_order(coming(plan, state, 60 * 75))]
    assert order[:2] == ["A1/turn 2", "A2/turn 2"]


def test_too_soft_goes_back_and_rings_again(plan, press):
    press(0, Begin("A/weigh"), End("A/weigh"), Begin("A/mix"), End("A/mix"))
    press(25, Seen("A1/enclose", "soft", "cold"), Hold("A1/enclose", "cold", 12, "fridge"))
    state = state_of(plan, press.presses)
    assert status(plan, state, "A1/enclose", 30) == "held"
    assert status(plan, state, "A1/enclose", 37) == "due"
    rung = alarms(plan, state, 60 * 37)
    assert [a.kind for a in rung if a.task == "A1/enclose"] == ["held"]
    press(38, Begin("A1/enclose"))
    state = state_of(plan, press.presses)
    assert not [a for a in alarms(plan, state, 60 * 39) if a.task == "A1/enclose"]


def test_alarms_of_every_kind_ring_once(plan, press):
    press(0, Begin("A/weigh"), End("A/weigh"), Begin("A/mix"))(5, End("A/mix"))
    state = state_of(plan, press.presses)
    assert alarms(plan, state, 60 * 24) == ()
    assert {a.key for a in alarms(plan, state, 60 * 25)} == {
        "ready A1/enclose",
        "ready A2/enclose",
    }
    assert next_ring_s(plan, state, 60 * 10) == 60 * 25
    assert {a.kind for a in alarms(plan, state, 60 * 125)} == {"ready", "most"}
    press(26, Quiet("ready A1/enclose"), Begin("A1/enclose"))
    state = state_of(plan, press.presses)
    assert "ready A1/enclose" not in {a.key for a in alarms(plan, state, 60 * 27)}
    out = [a for a in alarms(plan, state, 60 * 51) if a.kind == "out"]
    assert [a.at_s for a in out] == [60 * (26 + 25)]
    for key in ("A1", "A2"):
        press(
            60,
            Begin(f"{key}/enclose"),
            End(f"{key}/enclose"),
            Begin(f"{key}/turn 1"),
            End(f"{key}/turn 1"),
        )(95, Begin(f"{key}/turn 2"), End(f"{key}/turn 2"))
    press(160, Begin("A/cut"), End("A/cut"), Begin("A/bake"))
    state = state_of(plan, press.presses)
    assert [a.kind for a in alarms(plan, state, 60 * 185)] == ["over"]
    press(186, End("A/bake"), Finish())
    state = state_of(plan, press.presses)
    assert alarms(plan, state, 60 * 400) == ()
    assert state.finished_s == 60 * 186
    assert coming(plan, state, 60 * 400) == ()


def test_taking_back_brings_what_was_before(plan, press):
    press(0, Begin("A/weigh"))
    before = state_of(plan, press.presses)
    press(1, Count("A/weigh", "dust", 1, 10.0))
    last = last_that_stands(press.presses)
    assert isinstance(last.act, Count)
    press(2, TakeBack(last.number))
    after = state_of(plan, press.presses)
    assert after.tasks == before.tasks
    assert after.counts == before.counts == {}
    assert isinstance(last_that_stands(press.presses).act, Begin)
    assert [each.taken_back for each in shown(press.presses)] == [False, True, False]


def test_clock_who_alarms_and_probes_are_not_taken_back_by_the_key(press):
    press(0, Begin("A/weigh"))(1, Who("RS"), Quiet("x"), ClockMoved(60.0), Attach("p", "A1"))
    assert isinstance(last_that_stands(press.presses).act, Begin)
    assert last_that_stands([]) is None


def test_what_is_put_right_afterwards_stays_to_be_seen(plan, press):
    press(0, Measure("A", "pieces", 40))(9, Amend(1, Measure("A", "pieces", 38), "counted again"))
    state = state_of(plan, press.presses)
    assert state.measures["A", "pieces"] == 38
    (only,) = shown(press.presses)
    assert only.press.act.value == 40
    assert only.amended[0].act.why == "counted again"
    press(10, TakeBack(2))
    assert state_of(plan, press.presses).measures["A", "pieces"] == 40


def test_sums_of_what_was_counted_and_written(plan, press):
    press(
        0,
        Weigh("A/weigh", "dough", "water", "", 0, 500, 480),
        Weigh("A/weigh", "dough", "water", "", 0, 500, 500),
        Count("A/mix", "water", 3, 15.0),
        Count("A/mix", "water", -1, 15.0),
        Count("A/mix", "flour", 1, 8.0),
        Note("A", "went well"),
        Temp("A1", "middle", 12.5),
        Reach("A1/turn 1", 590.0, 210.0, 8.2),
        Reach("A1/turn 2", word="short"),
        Tick("A1/turn 1", "brushed"),
        Tick("A1/turn 1", "squared"),
        Tick("A1/turn 1", "squared", False),
        ClockMoved(5.0),
        ClockMoved(-2.0),
        Who("RS"),
        Attach("p1", "A1"),
    )
    state = state_of(plan, press.presses)
    assert [w.got_g for w in state.lines.values()] == [500]
    assert state.counted("A/mix", "water") == (2, 30.0)
    assert state.counted("A/mix", "flour") == (1, 8.0)
    assert state.notes[0][1].words == "went well"
    assert state.temps[0][1].temp_c == 12.5
    assert state.tasks["A1/turn 1"].reached.length_mm == 590
    assert state.tasks["A1/turn 1"].ticks == {"brushed"}
    assert (state.shift_s, state.who, state.probes) == (3.0, "RS", {"p1": "A1"})


def test_a_press_about_what_is_not_there_changes_nothing(plan, press):
    press(0, Begin("Z9/dance"), End("Z9/dance"), Count("Z9/dance", "dust", 1, 10))
    assert state_of(plan, press.presses).tasks == state_of(plan, []).tasks


def test_turns_are_counted_as_the_house_counts(press):
    press(0, End("A1/enclose"), End("A1/turn 1"))
    assert turns_done(make_plan(), state_of(make_plan(), press.presses), "A1") == (1, 2)
    counting = make_plan(counts_enclosing=True)
    assert turns_done(counting, state_of(counting, press.presses), "A1") == (2, 3)
    assert turns_done(counting, state_of(counting, press.presses), "A") == (0, 0)


ACTS = st.sampled_from(
    [
        Begin("A/weigh"), End("A/weigh"), Begin("A1/enclose"), End("A1/enclose"),
        Hold("A1/turn 1", "cold", 10), Hold("A1/turn 1", "bench", 5), Begin("A1/turn 1"),
        End("A1/turn 1"), Seen("A1/turn 1", "soft"), Count("A/mix", "water", 1, 15.0),
        Count("A/mix", "water", -1, 15.0), TakeBack(2), TakeBack(5), Amend(1, End("A/mix")),
        Quiet("ready A1/enclose"), Measure("A", "pieces", 3), Finish(),
    ]
)  # fmt: skip


@given(st.lists(ACTS, max_size=30), st.integers(0, 30))
def test_any_presses_give_a_state_and_whole_presses_taken_back_leave_none(acts, cut):
    plan, press = make_plan(), Presser()
    for minute, act in enumerate(acts):
        press(minute, act)
    state = state_of(plan, press.presses)
    for each in in_order(coming(plan, state, 60.0 * cut), state.at_hand):
        assert each.status in ("waiting", "resting", "due", "held", "doing")
    assert all(grams >= 0 for _, grams in state.counts.values())
    keys = [a.key for a in alarms(plan, state, 1e9)]
    assert len(keys) == len(set(keys))
    again = state_of(
        plan, [msgspec.json.decode(msgspec.json.encode(p), type=Press) for p in press.presses]
    )
    assert again.tasks == state.tasks
    step = state_of(plan, [])
    for i, each in enumerate(press.presses):
        before = msgspec.json.encode(step.tasks)
        after = gone_on(plan, step, each)
        assert msgspec.json.encode(step.tasks) == before
        step = state_of(plan, press.presses[: i + 1]) if after is None else after
    assert step == state
    everything = [*press.presses]
    for each in press.presses:
        everything.append(Press(len(everything) + 1, 1e6, "", TakeBack(each.number)))
    gone = state_of(plan, everything)
    assert gone.tasks == state_of(plan, []).tasks
    assert gone.counts == {}
    assert gone.finished_s is None


def test_the_order_of_the_list_of_presses_is_that_of_their_numbers():
    """A read of the book in any order gives the same once sorted: what `runs.presses` does."""
    press = Presser()
    for minute in range(12):
        press(minute, Count("A/mix", "dust", 1, 10.0))
    mixed = list(press.presses)
    random.Random(4).shuffle(mixed)
    mixed.sort(key=lambda p: p.number)
    assert state_of(make_plan(), mixed).counts == state_of(make_plan(), press.presses).counts


@pytest.mark.parametrize(
    ("act", "words"),
    [
        (Count("t", "water", 1, -3.0), "spoon"),
        (Count("t", "water", 1, float("nan")), "spoon"),
        (Hold("t", "cold", 1e9), "minutes"),
        (Weigh("t", "dough", "water", "", 0, 500, -1.0), "weighed"),
        (Weigh("t", "dough", "water", "", 0, 500, 1.0, float("inf")), "tare"),
        (Reach("t", length_mm=0.0), "length"),
        (Reach("t", word="huge"), "good, long or short"),
        (Measure("A", "pieces", -1), "pieces"),
        (Measure("A", "rolled_g", float("nan")), "sheet"),
        (Temp("A", "middle", 4000.0), "middle"),
        (Note("A", "x" * 500), "note"),
        (Who("Rosalind Skerrow"), "initials"),
        (ClockMoved(float("inf")), "clock"),
        (Amend(1, Measure("A", "pieces", -1)), "pieces"),
        (Amend(0, Measure("A", "pieces", 1)), "press"),
    ],
)
def test_what_cannot_be_pressed_is_named(act, words):
    with pytest.raises(AplombError, match=words):
        check_act(act)


def test_a_plan_that_does_not_hang_together_is_refused(plan):
    from msgspec.structs import replace

    for change, words in (
        ({"tasks": ()}, "0 steps"),
        ({"tasks": (plan.tasks[0], plan.tasks[0])}, "same name"),
        ({"tasks": (task("X", "a", "turn"),)}, "no block"),
        ({"tasks": (task("A", "a", "turn", after=["A/b"]), task("A", "b", "turn"))}, "before"),
        ({"quick": 0.0}, "clock"),
    ):
        with pytest.raises(AplombError, match=words):
            check_plan(replace(plan, **change))


def test_plans_and_acts_are_read_back_from_json(plan):
    assert msgspec.json.decode(msgspec.json.encode(plan), type=RunPlan) == plan
    act = Amend(3, Hold("A1/turn 1", "cold", 12.0, "fridge", "soft"), "why")
    assert msgspec.json.decode(msgspec.json.encode(act), type=Act) == act


def with_a_load(plan: RunPlan) -> RunPlan:
    """The plan with its last sheets left on the bench, and its trays put in by hand."""
    tasks = tuple(
        msgspec.structs.replace(each, place="") if each.name == "turn 2" else each
        for each in plan.tasks
        if each.kind != "bake"
    )
    load = task("A", "load", "load", 3.0, ["A/cut"])
    bake = task("A", "bake", "bake", 25.0, ["A/load"], hands=False)
    return check_plan(msgspec.structs.replace(plan, tasks=(*tasks, load, bake)))


def test_the_oven_s_clock_runs_from_the_trays_that_are_in(plan, press):
    """By hand: in at 13, so it rings at 38; nobody presses that the bake begins."""
    plan = with_a_load(plan)
    press(10, Begin("A/load"))(13, End("A/load"))
    state = state_of(plan, press.presses)
    assert (state.tasks["A/bake"].begun_s, state.tasks["A/bake"].by_itself) == (780, True)
    assert "over" not in [a.kind for a in alarms(plan, state, 60 * 37.9)]
    assert [(a.kind, a.at_s) for a in alarms(plan, state, 60 * 38) if a.task == "A/bake"] == [
        ("over", 60 * 38)
    ]
    press(14, TakeBack(2))
    assert state_of(plan, press.presses).tasks["A/bake"].begun_s is None
    press(15, End("A/load"))(17, Begin("A/bake"))  # a run of before pressed it: that counts
    state = state_of(plan, press.presses)
    assert (state.tasks["A/bake"].begun_s, state.tasks["A/bake"].by_itself) == (60 * 17, False)


def test_a_sheet_that_is_cut_lies_open_no_longer(plan, press):
    plan = with_a_load(plan)
    press(50, Begin("A1/turn 2"))(55, End("A1/turn 2"), Begin("A2/turn 2"))(60, End("A2/turn 2"))
    assert state_of(plan, press.presses).out_s == {"A1": 3000, "A2": 3300}
    press(62, Begin("A/cut"))
    state = state_of(plan, press.presses)
    assert state.out_s == {}
    assert (state.out_before_s["A1"], state.out_before_s["A2"]) == (60 * 12, 60 * 7)
    assert "out" not in [a.kind for a in alarms(plan, state, 60 * 600)]
    press(90, End("A/cut"))
    assert state_of(plan, press.presses).out_before_s == state.out_before_s


def test_one_press_more_is_as_all_presses_in_oven_and_cut(plan, press):
    plan = with_a_load(plan)
    press(50, Begin("A1/turn 2"))(55, End("A1/turn 2"))(62, Begin("A/cut"))(70, End("A/cut"))
    press(71, Begin("A/load"))(74, End("A/load"))(99, End("A/bake"))
    state = state_of(plan, [])
    for each in press.presses:
        before = msgspec.structs.replace(state, tasks=dict(state.tasks))
        state = gone_on(plan, state, each)
        assert before.tasks["A/bake"].begun_s in (None, 74 * 60)
    assert state == state_of(plan, press.presses)
