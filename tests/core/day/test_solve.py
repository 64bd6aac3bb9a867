"""Days solved, against every timetable there is, and against a checker that shares no code."""

import random
from functools import cache
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.core.base.errors import FormulaError
from aplomb.core.day.plan import elapsed_and_late, faults, starts_of
from aplomb.core.day.problem import (
    DayPaste,
    DayProblem,
    DayStep,
    Running,
    Shift,
    SideStep,
    Started,
    check_day,
)
from aplomb.core.day.remedies import a_day_earlier
from aplomb.core.day.search import Stopper
from aplomb.core.day.solve import solve_day


def with_remedy(problem, remedy):
    """Give a problem with a remedy taken."""
    more = remedy.minutes or 0
    if remedy.what == "ready_later":
        return replace(
            problem,
            pastes=tuple(
                replace(p, ready_by_min=p.ready_by_min + more)
                if p.ready_by_min is not None and remedy.paste in ("", p.name)
                else p
                for p in problem.pastes
            ),
        )
    if remedy.what in ("baker_earlier", "baker_later"):
        shifts = list(problem.baker)
        own = shifts[remedy.shift or 0]
        earlier = more if remedy.what == "baker_earlier" else 0
        shifts[remedy.shift or 0] = Shift(own.from_min - earlier, own.to_min + more - earlier)
        return replace(problem, baker=tuple(shifts))
    if remedy.what == "fridge_spaces":
        return replace(problem, fridge_spaces=(problem.fridge_spaces or 0) + (remedy.spaces or 0))
    if remedy.what == "freezer_spaces":
        spaces = (problem.freezer_spaces or 0) + (remedy.spaces or 0)
        return replace(problem, freezer_spaces=spaces)
    if remedy.what == "second_baker":
        return replace(problem, bakers=problem.bakers + 1)
    if remedy.what == "ovens":
        return replace(problem, ovens=problem.ovens + 1)
    if remedy.what == "day_earlier":
        return a_day_earlier(problem)
    return replace(problem, sheeters=problem.sheeters + 1)


def every_timetable(problem, horizon):
    """All timetables of a small day, by trying every minute for every step, one after the other."""
    keys = []
    for paste in problem.pastes:
        keys += [(paste, side) for side in paste.sides]
        keys += [(paste, step) for step in paste.steps]

    def free(need, start, end, placed, most):
        for minute in range(start, end):
            using = sum(
                need in step.needs and begin <= minute < begin + step.minutes
                for (_, step), begin in placed
            )
            if using >= most:
                return False
        return True

    def place(i, placed, starts):
        if i == len(keys):
            yield dict(starts)
            return
        paste, step = keys[i]
        for start in range(horizon):
            end = start + step.minutes
            if "baker" in step.needs:
                if not any(s.from_min <= start and end <= s.to_min for s in problem.baker):
                    continue
                if not free("baker", start, end, placed, problem.bakers):
                    continue
            if "oven" in step.needs and not free("oven", start, end, placed, problem.ovens):
                continue
            before = [
                other
                for (p, other), _ in placed
                if p is paste
                and (
                    getattr(other, "before", None) == step.name
                    or any(a is other and b is step for a, b in pairwise(paste.steps))
                )
            ]
            ok = True
            for other in before:
                rest = start - starts[paste.name, other.name] - other.minutes
                if rest < other.rest_min or (other.rest_max is not None and rest > other.rest_max):
                    ok = False
            if not ok:
                continue
            if step is paste.steps[-1] and end > (paste.ready_by_min or horizon * 2):
                continue
            yield from place(
                i + 1, [*placed, ((paste, step), start)], {**starts, (paste.name, step.name): start}
            )

    for starts in place(0, [], {}):
        steps = tuple(Started(p, s, m) for (p, s), m in starts.items())
        if not faults(problem, steps):  # leaves out what takes too many spaces
            yield starts


def small_day(rng):
    pastes = []
    for n in range(2):
        steps = tuple(
            DayStep(
                f"s{i}",
                rng.randint(1, 3),
                rng.choice([("baker",), ("baker",), ("oven",), ()]),
                rest := rng.randint(0, 2),
                rest + rng.randint(0, 2),
                rng.randint(0, 1),
            )
            for i in range(2)
        )
        side = ()
        if rng.random() < 0.4:
            side = (SideStep("side", 1, "s1", ("baker",), 0, rng.randint(1, 4)),)
        pastes.append(DayPaste(f"p{n}", steps, rng.randint(7, 11), None, side))
    first = rng.randint(0, 2)
    shifts = (Shift(first, first + rng.randint(5, 9)),)
    if rng.random() < 0.4:
        shifts = (Shift(0, 4), Shift(6, 11))
    return DayProblem(shifts, tuple(pastes), fridge_spaces=rng.randint(0, 2))


@pytest.mark.parametrize("seed", range(12))
def test_a_small_day_is_solved_as_well_as_by_trying_everything(seed):
    problem = small_day(random.Random(seed))
    values = [elapsed_and_late(problem, s)[0] for s in every_timetable(problem, 12)]
    answer = solve_day(problem)
    assert answer.possible == bool(values)
    if values:
        assert answer.plan.elapsed_min == min(values) == answer.plan.best_known
        assert answer.plan.proven
        assert faults(problem, answer.plan.steps) == []
    else:
        assert answer.because


def paste(name, ready, turns=3, start=""):
    steps = [
        DayStep("weigh", 10, ("baker",), 0, 30),
        DayStep("mix", 12, ("baker",), 30, 240, 1),
        *(DayStep(f"turn {i + 1}", 8, ("baker", "sheeter"), 40, 80, 1) for i in range(turns)),
        DayStep("cut", 20, ("baker",), 20, 120, 3),
        DayStep("bake", 25, ("oven",), 30, 240),
        DayStep("pack", 10, ("baker",)),
    ]
    side = (SideStep("press fat", 10, "turn 1", ("baker",), 20, 240, 1),)
    return DayPaste(f"{name}{start}", tuple(steps), ready, None, side)


DAY = DayProblem(
    (Shift(300, 1020),), (paste("A", 900), paste("B", 960), paste("C", 1000, 2)),
    fridge_spaces=8,
)  # fmt: skip


@cache
def day_solved():
    """The answer to that day, worked out once."""
    return solve_day(DAY)


def test_a_day_of_three_pastes_is_solved_and_proven():
    answer = day_solved()
    assert answer.possible
    assert answer.plan.proven
    assert faults(DAY, answer.plan.steps) == []


def test_the_same_question_has_the_same_answer():
    assert solve_day(DAY) == day_solved()


def test_the_best_so_far_is_told_and_always_holds():
    seen = []
    last = solve_day(DAY, seen.append)
    assert seen
    assert all(faults(DAY, plan.steps) == [] for plan in seen)
    assert all(b.elapsed_min <= a.elapsed_min for a, b in pairwise(seen))
    assert last.plan.elapsed_min <= seen[-1].elapsed_min


def test_a_search_that_is_stopped_ends_with_the_best_there_is():
    stopper = Stopper()
    answer = solve_day(DAY, lambda _plan: stopper.stop(), stopper)
    assert answer.possible
    assert faults(DAY, answer.plan.steps) == []


@pytest.mark.parametrize(
    ("change", "helps"),
    [
        ({"pastes": (paste("A", 600), paste("B", 960))}, "ready_later"),
        ({"fridge_spaces": 1, "pastes": DAY.pastes[:2]}, "fridge_spaces"),
        ({"baker": (Shift(300, 420),), "pastes": DAY.pastes[:2]}, "baker_later"),
        ({"baker": (Shift(700, 1020),), "pastes": (paste("A", 1000),)}, "baker_earlier"),
    ],
)
def test_what_cannot_be_done_is_told_with_the_least_that_would_help(change, helps):
    problem = replace(DAY, **change)
    answer = solve_day(problem)
    assert not answer.possible
    assert answer.because
    named = {remedy.what: remedy for remedy in answer.remedies}
    assert helps in named
    for remedy in answer.remedies:
        assert solve_day(with_remedy(problem, remedy)).possible, remedy
        less = remedy.minutes or remedy.spaces or 0
        if less > 1:  # one less will not do
            field = "minutes" if remedy.minutes else "spaces"
            smaller = replace(remedy, **{field: less - 1})
            assert not solve_day(with_remedy(problem, smaller)).possible, smaller


def test_late_is_least_where_that_is_the_goal():
    tight = replace(DAY, goal="least_late", pastes=(paste("A", 580), paste("B", 600)))
    answer = solve_day(tight)
    assert answer.possible
    assert answer.plan.late_min == answer.plan.best_known > 0
    hard = replace(tight, goal="least_elapsed")
    assert not solve_day(hard).possible


def begun(problem, plan, now):
    """The day as it stands at a time: what has begun by then."""
    so_far = tuple(each for each in plan.steps if each.start_min < now)
    return replace(problem, now_min=now, so_far=so_far)


def test_under_way_what_began_stays_and_the_rest_moves():
    plan = day_solved().plan
    now = plan.steps[len(plan.steps) // 2].start_min + 1
    day = begun(DAY, plan, now)
    last = max(
        (
            e
            for e in day.so_far
            if any(
                "baker" in s.needs
                for p in DAY.pastes
                for s in p.steps
                if (p.name, s.name) == (e.paste, e.step)
            )
        ),
        key=lambda e: e.start_min,
    )
    late = replace(
        day, running=Running(last.paste, last.step, 15), goal="least_late", overrun_min=60
    )
    answer = solve_day(late)
    assert answer.possible
    assert faults(late, answer.plan.steps) == []
    assert starts_of(day.so_far).items() <= starts_of(answer.plan.steps).items()
    assert all(e.start_min >= now for e in answer.plan.steps if e not in day.so_far)


def test_a_rest_that_cannot_be_held_any_more_is_named():
    """The block must go on within 20 min, and the baker is bound to another for an hour."""
    block = DayPaste(
        "block", (DayStep("roll", 10, ("baker",), 10, 20), DayStep("fold", 5, ("baker",))), 900
    )
    other = DayPaste("other", (DayStep("whip", 60, ("baker",)),), 900)
    day = DayProblem(
        (Shift(0, 900),),
        (block, other),
        now_min=15,
        so_far=(Started("block", "roll", 0), Started("other", "whip", 12)),
    )
    answer = solve_day(day)
    assert answer.possible
    (broken,) = answer.plan.broken
    assert (broken.paste, broken.step, broken.minutes) == ("block", "roll", 62)


def test_wheat_comes_after_gluten_free():
    problem = replace(DAY, baker=(Shift(200, 1020),), after=(("B", "cut", "A"),))
    plan = solve_day(problem).plan
    assert faults(problem, plan.steps) == []
    starts = starts_of(plan.steps)
    assert starts["A", "weigh"] >= starts["B", "cut"] + 20
    assert starts["A", "press fat"] >= starts["B", "cut"] + 20
    early = tuple(
        replace(e, start_min=e.start_min - 60) if e.paste == "A" else e for e in plan.steps
    )
    assert any("comes to the bench" in words for words in faults(problem, early))


def test_a_step_that_is_held_stays_there():
    plan = day_solved().plan
    moved = Started("B", "mix", plan.start_of("B", "mix") - 7)
    problem = replace(DAY, held=(moved,))
    assert moved in solve_day(problem).plan.steps


def test_two_steps_held_at_one_time_are_refused_with_words():
    problem = replace(DAY, held=(Started("A", "mix", 500), Started("B", "mix", 505)))
    answer = solve_day(problem)
    assert not answer.possible
    assert "“mix” of B and “mix” of A are pinned at the same time" in answer.because


def test_no_hours_at_all_are_told():
    answer = solve_day(replace(DAY, baker=()))
    assert not answer.possible
    assert "no working hours" in answer.because


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"pastes": ()}, "pastes: 0"),
        ({"pastes": (paste("A", 900), paste("A", 900))}, "another"),
        ({"baker": (Shift(10, 5),)}, r"baker\[0\]: ends"),
        ({"baker": (Shift(0, 50), Shift(40, 90))}, "starts before"),
        ({"fridge_spaces": -1}, "fridge_spaces"),
        ({"so_far": (Started("A", "mix", 5),)}, "now_min"),
        ({"now_min": 50, "so_far": (Started("A", "mix", 5),)}, "“weigh” of A has not started"),
        ({"now_min": 5, "so_far": (Started("A", "weigh", 9),)}, "later than now"),
        ({"held": (Started("A", "knead", 5),)}, "no step “knead”"),
        ({"now_min": 5, "running": Running("A", "weigh", 5)}, "running"),
    ],
)
def test_what_cannot_be_used_is_named(change, words):
    with pytest.raises(FormulaError, match=words):
        check_day(replace(DAY, **change))


@settings(max_examples=2, deadline=None)
@given(seed=st.integers(0, 10_000), now=st.integers(0, 1000), extra=st.integers(0, 90))
def test_a_day_under_way_holds_whatever_runs_over(seed, now, extra):
    rng = random.Random(seed)
    plan = day_solved().plan
    day = replace(begun(DAY, plan, now), goal="least_late", overrun_min=180)
    if day.so_far:
        last = rng.choice(day.so_far)
        day = replace(day, running=Running(last.paste, last.step, extra))
    answer = solve_day(day)
    if answer.possible:
        assert faults(day, answer.plan.steps) == []
    else:
        assert answer.because
