"""What is done in one go, now and next, on the regatta day."""

from datetime import UTC, datetime, timedelta

import pytest

from aplomb.core.day.plan import starts_of
from aplomb.work.day import chores


def test_every_step_of_hands_is_in_one_go_and_in_its_time(day):
    _, view, plan = day
    starts = starts_of(plan.steps)
    found = chores.chores_of(view, plan)
    done = [(c.paste, step) for c in found for step in c.steps]
    hands = {key for key, step in view.problem.steps.items() if "baker" in step.needs}
    assert len(done) == len(set(done))
    assert set(done) == hands
    for chore in found:
        assert chore.start == starts[chore.paste, chore.steps[0]]
        last = chore.steps[-1]
        assert chore.end == starts[chore.paste, last] + view.minutes(chore.paste, last)
    assert len(found) < len(hands), "some go together"
    turns = [c for c in found if c.words == "turns 3, 4 × 3"]
    assert [(c.letter, c.steps, c.blocks) for c in turns] == [("A", ("turn.3", "turn.4"), 3)]


def test_what_lies_afterwards_is_fetched_when_the_next_step_begins(day):
    _, view, plan = day
    starts = starts_of(plan.steps)
    for chore in chores.chores_of(view, plan):
        if chore.until is not None:
            assert chore.then
            assert chore.until in starts.values()
            assert chore.until > chore.end


def test_now_and_next_of_a_baker(day):
    _, view, plan = day
    found = chores.chores_of(view, plan)
    first, second = found[:2]
    who = first.who
    assert chores.now_and_next(found, who, None) == (first, second)
    assert chores.now_and_next(found, who, first.start) == (first, second)
    assert chores.now_and_next(found, who, first.end)[0] != first
    last = found[-1]
    assert chores.now_and_next(found, who, last.end) == (None, None)
    assert chores.now_and_next(found, "nobody", 0) == (None, None)


def test_the_oven_s_queue_and_what_is_ready(day):
    _, view, plan = day
    loads = chores.loads_of(view, plan)
    assert [load.start for load in loads] == sorted(load.start for load in loads)
    assert {(n.letter, n.of) for n in loads} == {("A", 3), ("B", 1), ("C", 1)}
    assert len(loads) == 5
    ready = chores.ready_of(view, plan)
    assert {r.letter for r in ready} == {"A", "B", "C"}
    assert all(r.spare >= 0 for r in ready)


@pytest.mark.parametrize(
    ("minute", "near", "later"), [(0, 0, 0), (2, 0, 5), (3, 5, 5), (57, 55, 60), (58, 60, 60)]
)
def test_times_are_said_to_five_minutes(minute, near, later):
    moment = datetime(2026, 12, 2, 23, minute, tzinfo=UTC)
    hour = moment.replace(minute=0)
    assert chores.to_five(moment) == hour + timedelta(minutes=near)
    assert chores.to_five(moment, up=True) == hour + timedelta(minutes=later)
