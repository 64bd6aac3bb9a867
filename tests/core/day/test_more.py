"""What a day may be asked besides: people, benches, loads, stands, waves, nothing in the past."""

import copy
import json

import msgspec
import pytest
from msgspec.structs import replace

from aplomb.core.base.errors import FormulaError
from aplomb.core.day.plan import faults
from aplomb.core.day.problem import (
    LOADS,
    DayPaste,
    DayProblem,
    DayStep,
    Link,
    Load,
    LoadPaste,
    Person,
    Shift,
    SideStep,
    Started,
    check_day,
)
from aplomb.core.day.remedies import a_day_earlier
from aplomb.core.day.solve import solve_day
from aplomb.verbs.day import DayCase, day
from core.day.checker import wrong_with
from finders.days import a_day, told_of

HOURS = (Shift(0, 600),)


def solved(problem):
    answer = solve_day(problem)
    assert answer.possible, answer.because
    assert faults(problem, answer.plan.steps) == []
    return answer.plan


@pytest.mark.parametrize("seed", [1, 3, 7, 8, 12, 16, 21, 25])
def test_a_made_up_day_holds_by_a_checker_of_its_own(seed):
    told, end = told_of(seed, 0.2)
    assert told == []
    assert end in ("proven", "found", "not possible")


def test_the_checker_sees_what_is_moved():
    """A step put elsewhere, taken by another, or left out is always told."""
    case = a_day(3)
    answer = json.loads(
        msgspec.json.encode(day(msgspec.json.decode(json.dumps(case), type=DayCase), 0.2))
    )
    assert answer["possible"]
    assert wrong_with(case, answer) == []
    for at in range(len(answer["steps"])):
        moved = copy.deepcopy(answer)
        for end in ("start_min", "end_min"):
            moved["steps"][at][end] -= 2000
        assert wrong_with(case, moved)
    fewer = {**answer, "steps": answer["steps"][1:]}
    assert wrong_with(case, fewer)


def test_a_stand_lets_a_rest_go_over_its_most_but_not_by_a_little():
    """Ten to twenty minutes, or over twenty with a stand of 15: never 21 to 34."""
    steps = (
        DayStep("a", 5, ("baker",), 10, 20, stand_min=15),
        DayStep("b", 5, ("baker",)),
    )
    held = (Started("p", "a", 0),)
    problem = DayProblem((Shift(0, 5), Shift(33, 60)), (DayPaste("p", steps),), held=held)
    plan = solved(problem)
    assert plan.start_of("p", "b") == 5 + 35
    short = replace(problem, baker=(Shift(0, 5), Shift(33, 44)))
    assert not solve_day(short).possible, "34 min would be neither"
    limited = DayPaste("p", (replace(steps[0], stand_most=30), steps[1]))
    assert not solve_day(replace(problem, pastes=(limited,))).possible


def test_without_waiting_is_at_once():
    steps = (
        DayStep("sheet", 5, ("baker",), no_wait=True),
        DayStep("cut", 5, ("baker",)),
    )
    side = SideStep("wash", 5, "cut", ("baker",))
    plan = solved(DayProblem(HOURS, (DayPaste("p", steps, sides=(side,)),)))
    assert plan.start_of("p", "cut") == plan.start_of("p", "sheet") + 5


def test_a_side_comes_after_what_it_comes_after():
    steps = (DayStep("weigh", 5, ("baker",)), DayStep("enclose", 5, ("baker",)))
    side = SideStep("press", 5, "enclose", ("baker",), after="weigh")
    plan = solved(DayProblem(HOURS, (DayPaste("p", steps, sides=(side,)),)))
    starts = [plan.start_of("p", name) for name in ("weigh", "press", "enclose")]
    assert starts == [starts[0], starts[0] + 5, starts[0] + 10]


@pytest.mark.parametrize(("many", "elapsed"), [(1, 40), (2, 20), (None, 20)])
@pytest.mark.parametrize(("need", "field"), [("bench", "benches"), ("mixer", "mixers")])
def test_there_are_so_many_benches_and_mixers(need, field, many, elapsed):
    """Two pairs of hands and two pastes of 20 min: one after the other on one bench."""
    pastes = tuple(DayPaste(n, (DayStep("roll", 20, ("baker", need)),), 40) for n in "ab")
    problem = DayProblem((Shift(0, 40),), pastes, bakers=2, **{field: many})
    plan = solved(problem)
    starts = [plan.start_of(n, "roll") for n in "ab"]
    assert max(starts) + 20 - min(starts) == elapsed or (many != 1 and elapsed == 20)
    if many == 1:
        assert abs(starts[0] - starts[1]) >= 20
        tight = solve_day(replace(problem, baker=(Shift(0, 20),)))
        assert field in [each.what for each in tight.remedies]


def test_everybody_works_in_their_own_hours_and_one_thing_at_once():
    people = (Person("MA", (Shift(0, 30),)), Person("RO", (Shift(20, 60),)))
    pastes = tuple(DayPaste(n, (DayStep("roll", 20, ("baker",)),), 60) for n in "abc")
    problem = DayProblem((), pastes, people=people)
    plan = solved(problem)
    mine = {who: [s.start_min for s in plan.steps if s.who == who] for who in ("MA", "RO")}
    assert (len(mine["MA"]), len(mine["RO"])) == (1, 2)
    assert min(mine["RO"]) >= 20
    held = replace(problem, held=(Started("a", "roll", 20, "RO"),))
    assert next(s.who for s in solved(held).steps if s.paste == "a") == "RO"
    more = (*pastes, DayPaste("d", (DayStep("roll", 20, ("baker",)),), 60))
    answer = solve_day(replace(problem, pastes=more))
    assert not answer.possible
    assert "second_baker" in [each.what for each in answer.remedies]


def test_loads_of_several_pastes_go_in_one_after_the_other():
    """Two pastes share the first load; each is ready when its last load is out, or packed after."""
    cut = DayStep("cut", 10, ("baker",))
    pastes = (
        DayPaste("a", (cut,), 200),
        DayPaste("b", (cut, DayStep("pack", 5, ("baker",))), 200),
    )
    loads = (
        Load("l1", 25, (LoadPaste("a", "cut", rest_min=20), LoadPaste("b", "cut", rest_min=20))),
        Load("l2", 25, (LoadPaste("b", "cut", "pack"),)),
    )
    plan = solved(DayProblem(HOURS, pastes, loads=loads))
    first, second = plan.start_of(LOADS, "l1"), plan.start_of(LOADS, "l2")
    assert second >= first + 25, "one oven"
    assert first >= max(plan.start_of(n, "cut") for n in "ab") + 30
    assert plan.start_of("b", "pack") >= second + 25


def test_a_wave_of_blocks_has_rests_of_its_own():
    """Calculation: two waves of turns of 10 min, each resting 20 to 30 min from its own end."""
    names = ("w1 turn 1", "w2 turn 1", "w1 turn 2", "w2 turn 2")
    steps = tuple(DayStep(name, 10, ("baker",)) for name in names)
    links = tuple(Link(f"{w} turn 1", f"{w} turn 2", 20, 30, 1) for w in ("w1", "w2"))
    problem = DayProblem(HOURS, (DayPaste("p", steps, links=links),), fridge_spaces=2)
    plan = solved(problem)
    for wave in ("w1", "w2"):
        rested = plan.start_of("p", f"{wave} turn 2") - plan.start_of("p", f"{wave} turn 1") - 10
        assert 20 <= rested <= 30
    assert not solve_day(replace(problem, fridge_spaces=0)).possible


def test_nothing_begins_in_the_past():
    problem = DayProblem(HOURS, (DayPaste("p", (DayStep("a", 5, ("baker",)),)),))
    plan = solved(replace(problem, not_before_min=123))
    assert plan.start_of("p", "a") >= 123
    assert faults(replace(problem, not_before_min=500), plan.steps) == (
        ["a of p starts before now"] if plan.start_of("p", "a") < 500 else []
    )


@pytest.mark.parametrize(
    ("changes", "told"),
    [
        ({"people": (Person("", HOURS),)}, "people[0].name"),
        ({"people": (Person("M", HOURS), Person("M", HOURS))}, "people[1].name"),
        ({"people": (Person("M", (Shift(5, 1),)),)}, "people[0].shifts[0]"),
        ({"loads": (Load("l", 5, ()),)}, "loads[0].pastes"),
        ({"loads": (Load("l", 5, (LoadPaste("p", "no"),)),)}, "loads[0].pastes[0].after"),
        ({"loads": (Load("l", 5, (LoadPaste("p", "a", "no"),)),)}, "pastes[0].before"),
        ({"benches": -1}, "benches"),
        ({"not_before_min": -1}, "not_before_min"),
    ],
)
def test_what_cannot_be_is_told_by_its_field(changes, told):
    problem = DayProblem(HOURS, (DayPaste("p", (DayStep("a", 5, ("baker",)),)),))
    with pytest.raises(FormulaError, match=told.replace("[", r"\[").replace("]", r"\]")):
        check_day(replace(problem, **changes))


def test_four_hundred_steps_fit():
    steps = tuple(DayStep(f"s{i}", 1) for i in range(400))
    assert check_day(DayProblem(HOURS, (DayPaste("p", steps),)))
    with pytest.raises(FormulaError, match="400"):
        check_day(DayProblem(HOURS, (DayPaste("p", (*steps, DayStep("s", 1))),)))


@pytest.mark.parametrize(
    ("from_min", "helps"),
    [(0, True), (340, True), (341, False), (900, False), (None, False)],
)
def test_a_day_earlier_is_offered_where_there_is_one(from_min, helps):
    """By hand: hands from 300 to 360; 20 min, a rest of 600, 20 min, ready at 330 of the first
    day. The evening before would do until 20 minutes before the hands leave."""
    paste = DayPaste(
        "a", (DayStep("mix", 20, ("baker",), 600, 1500), DayStep("roll", 20, ("baker",))), 330
    )
    problem = DayProblem((Shift(300, 360),), (paste,), day_before_from_min=from_min)
    answer = solve_day(problem)
    assert not answer.possible
    assert ("day_earlier" in [each.what for each in answer.remedies]) is helps
    if helps:
        plan = solved(a_day_earlier(problem))
        assert from_min <= plan.start_of("a", "mix") <= 340
        assert plan.start_of("a", "roll") <= 1440 + 310
    begun = replace(problem, now_min=0)
    assert "day_earlier" not in [each.what for each in solve_day(begun).remedies]
