"""Rests in the turn line: least and most, places, and those before the enclosing and at the end."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import TurnLineError
from aplomb.core.folds.plan import Enclosure, Plan, rest_words
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.turn_line import parse_plan


def rest(**more):
    return Step(Way.REST, **more)


@pytest.mark.parametrize(
    ("word", "step"),
    [
        ("/", rest()),
        ("/30", rest(rest_min=30)),
        ("/30-60", rest(rest_min=30, most_min=60)),
        ("/30–60", rest(rest_min=30, most_min=60)),
        ("/-45", rest(most_min=45)),
        ("/2,5", rest(rest_min=2.5)),
        ("/30@freezer", rest(rest_min=30, place="freezer")),
        ("/@ROOM", rest(place="room")),
        ("/20-40@fridge2", rest(rest_min=20, most_min=40, place="fridge2")),
        ("/10@blast", rest(rest_min=10, place="blast")),
    ],
)
def test_words_of_rests(word, step):
    assert parse_plan(f"envelope 3 {word} 4").steps[1] == step


@pytest.mark.parametrize(
    "line",
    ["envelope 3/30 4", "envelope 3 4/3 4", "halves 3@8/ 3", "thirds 4 / 4 /60", "pieces 3 //10 3"],
)
def test_old_lines_stay_readable(line):
    plan = parse_plan(line)
    assert parse_plan(plan.line()) == plan
    assert all(step.place == "" and step.most_min is None for step in plan.steps)


def test_rests_of_dough_fat_and_shaped_pieces():
    line = "dough/30 fat/15@freezer envelope 3 4 / 3 4 /60 shaped/20-40"
    plan = parse_plan(line)
    assert plan.dough_rest == rest(rest_min=30)
    assert plan.fat_rest == rest(rest_min=15, place="freezer")
    assert plan.shaped_rest == rest(rest_min=20, most_min=40)
    assert plan.enclosure is Enclosure.ENVELOPE
    assert plan.product == 144
    assert plan.line() == line
    assert parse_plan("Fat/ Dough/ halves 3").line() == "dough/ fat/ halves 3"


@pytest.mark.parametrize(
    ("line", "at", "words"),
    [
        ("envelope 3 /30@cellar 4", "/30@cellar", "not a place"),
        ("envelope 3 /30@fridge1", "/30@fridge1", "not a place"),
        ("envelope 3 /60-30 4", "/60-30", "longest rest"),
        ("envelope dough/30 3", "dough/30", "before enclosing"),
        ("dough/3 dough/4 envelope 3", "dough/4", "once before"),
        ("envelope shaped/20 3", "shaped/20", "must come last"),
        ("envelope 3 /30x 4", "x", "not a step"),
        ("envelope 3 /99999 4", "/99999", "must be"),
    ],
)
def test_a_word_that_cannot_be_used_is_pointed_at(line, at, words):
    with pytest.raises(TurnLineError, match=words) as caught:
        parse_plan(line)
    assert line[caught.value.start : caught.value.end] == at


PLACES = st.sampled_from(["", "freezer", "blast", "room", "fridge2", "freezer3"])


@st.composite
def rests(draw):
    least = draw(st.none() | st.integers(0, 900).map(float))
    most = draw(st.none() | st.integers(int(least or 0), 2000).map(float))
    return rest(rest_min=least, most_min=most, place=draw(PLACES))


@given(
    dough=st.none() | rests(),
    fat=st.none() | rests(),
    shaped=st.none() | rests(),
    steps=st.lists(rests() | st.integers(2, 6).map(lambda n: Step(Way.FOLD, n)), max_size=8),
)
def test_every_plan_with_rests_comes_back_from_its_line(dough, fat, shaped, steps):
    plan = Plan(Enclosure.THIRDS, (Step(Way.FOLD, 3), *steps), dough, fat, shaped)
    assert parse_plan(plan.line()) == plan
    assert all(rest_words(s) for s in steps if s.way is Way.REST)
