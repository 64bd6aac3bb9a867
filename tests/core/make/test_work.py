"""Several makes done together: one queue, ovens heated once, nothing lost of any of them."""

from collections import Counter

import pytest
from msgspec.structs import replace

from aplomb.core.make.elapsed import elapsed_min
from aplomb.core.make.goal import study_for, usual_goal
from aplomb.core.make.make import make_of
from aplomb.core.make.work import OF_OVEN, work_of


@pytest.fixture
def makes(demo, known):
    found = []
    for formula in demo[:3]:
        goal = usual_goal(formula)
        study = study_for(formula, goal, known)
        found.append(make_of(study, known.pantry, known.house, goal))
    return found


def test_a_lone_make_is_a_work_of_one(makes, known):
    """Its own hands, its own time, its own loads."""
    for make in makes:
        work = work_of([make], known.house)
        assert [load.trays for load in work.loads] == [
            tuple((f"1/{name}", many) for name, many in load.trays) for load in make.loads
        ]
        assert work.hands_min == pytest.approx(make.hands_min)
        assert work.elapsed_min == pytest.approx(make.elapsed_min)
        assert len(work.steps) == len(make.steps)


def test_an_oven_is_heated_once_and_every_tray_is_in_one_load(makes, known):
    work = work_of(makes, known.house)
    kinds = Counter(step.kind for step in work.steps)
    assert kinds["heat"] == len({load.oven for load in work.loads})
    assert kinds["load_in"] == kinds["bake"] == kinds["load_out"] == len(work.loads)
    assert sum(load.many for load in work.loads) == work.trays
    assert len(work.loads) <= sum(len(make.loads) for make in makes)
    alone = Counter(s.kind for make in makes for s in make.steps if s.kind not in OF_OVEN)
    assert alone == Counter(s.kind for s in work.steps if s.kind not in OF_OVEN)


def test_each_step_comes_after_those_it_names_and_each_make_after_its_last_load(makes, known):
    work = work_of(makes, known.house)
    done: set[str] = set()
    for step in work.steps:
        assert set(step.after) <= done, step.key
        done.add(step.key)
    assert len(done) == len(work.steps)
    for number in range(1, len(makes) + 1):
        cool = next(s for s in work.steps if s.key == f"{number}/baked.cool.1")
        mine = [
            load.key
            for load in work.loads
            if any(name.startswith(f"{number}/") for name, _ in load.trays)
        ]
        assert set(cool.after) == {f"{key}.load_out" for key in mine}


def test_two_that_are_baked_alike_share_a_load(makes, known):
    """Calculation: one paste twice, three trays each, five to a load: two loads, one shared."""
    make = makes[1]
    few = replace(make, trays=tuple(replace(t, trays=3) for t in make.trays[:1]))
    work = work_of([few, few], known.house)
    assert [load.many for load in work.loads] == [5, 1]
    assert work.shared == 1
    told = next(s.words for s in work.steps if s.kind == "load_in")
    assert told == "Load 1 in: 3 trays of Leek turnover, 2 trays of Leek turnover"
    apart = sum(load.minutes for load in make.loads[:1]) * 2
    assert sum(load.minutes for load in work.loads) == apart


def test_the_time_of_several_is_longer_than_of_any_and_shorter_than_of_all(makes, known):
    work = work_of(makes, known.house)
    each = [make.elapsed_min for make in makes]
    assert max(each) <= work.elapsed_min + 30
    assert work.elapsed_min < sum(each)
    two = elapsed_min(work.steps, 2, 1)
    assert two <= work.elapsed_min
