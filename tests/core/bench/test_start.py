"""A timetable parted over the blocks of a run."""

from itertools import pairwise

import pytest

from aplomb.core.batch.stock import Demand, Want
from aplomb.core.bench.start import PasteToRun, tracks_and_tasks
from aplomb.core.day.sheet import DaySheet
from aplomb.core.kitchen.day_steps import steps_of_paste
from aplomb.core.kitchen.demand import one_paste, plan_day
from aplomb.core.study.study import make_study
from stored import frozen_block


def parted(paste, known, kept=(), planned=None):
    """The steps of a paste, and its tasks."""
    steps = steps_of_paste(paste, known.pantry, known.house, DaySheet(), kept)
    run = PasteToRun(steps, paste.study, paste.mixes, paste.blocks, paste.each_g, paste.frozen)
    return steps, tracks_and_tasks([run], known.pantry, known.house, 1, planned)[1]


def test_nothing_is_handled_before_it_is_weighed(plain, known):
    """The fat too, in a run that no timetable orders."""
    _, tasks = parted(one_paste("u", make_study(plain, known), known.house), known)
    order = [task.step_key for task in tasks]
    assert order[:3] == ["weigh.1", "press.1", "mix.1"]
    press = next(t for t in tasks if t.step_key == "press.1")
    assert press.after == ("A/weigh.1",)


def test_blocks_go_through_their_turns_one_after_the_other(plain, known):
    """Those that are made new are fewer than all, until the block from stock joins them."""
    kept = (frozen_block("u", 1, 900.0, 2, "2026-11-01"),)
    demand = Demand(wants=(Want("u", "", 300),), use_frozen=True)
    (paste,) = plan_day(demand, {"u": make_study(plain, known)}, known, kept)
    steps, _ = parted(paste, known, kept)
    planned, at = {}, 0.0
    for step in steps.paste.steps:
        planned["u", step.name] = at
        at += step.minutes
    _, tasks = parted(paste, known, kept, planned)
    assert (paste.frozen, paste.blocks >= 2) == (1, True)
    turns = [t for t in tasks if t.kind in ("enclose", "turn", "sheet")]
    assert len({t.track for t in turns if t.step_key == "turn.1"}) == paste.blocks
    assert len({t.track for t in turns if t.step_key == "turn.3"}) == paste.blocks + 1
    for task, then in pairwise(turns):
        assert task.planned_min + task.minutes == pytest.approx(then.planned_min)
