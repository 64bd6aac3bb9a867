"""Claims of turns, folds and layers. Check values: arithmetic, and common practice of the trade."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.errors import AplombError, TextError
from aplomb.core.folds.claims import (
    MOST_MEANINGS,
    answer,
    conventions,
    read_claim,
    spread,
    turn_conventions,
)
from aplomb.core.folds.plan import parse_plan


@pytest.mark.parametrize(
    ("text", "number", "what", "relation"),
    [
        ("six turns", 6, "turns", "exactly"),
        ("729 layers", 729, "layers", "exactly"),
        ("nine folds", 9, "folds", "exactly"),
        ("over a hundred layers", 100, "layers", "over"),
        ("more than 700 leaves", 700, "layers", "over"),
        ("about 150 sheets", 150, "layers", "about"),
        ("a thousand", 1000, "layers", "exactly"),
        ("two hundred layers", 200, "layers", "exactly"),
        ("1 024 layers", 1024, "layers", "exactly"),
        ("a dozen turns", 12, "turns", "exactly"),
        ("FIVE TURNS", 5, "turns", "exactly"),
    ],
)
def test_claims_as_people_make_them(text, number, what, relation):
    claim = read_claim(text)
    assert (claim.number, claim.what, claim.relation) == (number, what, relation)


@pytest.mark.parametrize("text", ["", "many layers", "0 turns", "99999999999 layers"])
def test_what_is_no_claim(text):
    with pytest.raises(TextError):
        read_claim(text)


def found(text):
    return {(m.plan.line(), m.convention) for m in answer(text)[1]}


def test_six_turns_is_thirds_and_five_singles_with_the_enclosing_counted():
    """486 leaves of fat, by 2 × 3⁵."""
    _, meanings = answer("six turns")
    mine = next(m for m in meanings if m.plan.line() == "thirds 3 3 3 3 3")
    assert "enclosing counted as the first" in mine.convention
    assert mine.counts.fat == 486
    assert ("envelope 3 3 3 3 3 3", "turns after enclosing") in found("six turns")


def test_729_layers_is_six_singles():
    """3⁶; with all leaves it would be 1459."""
    assert ("envelope 3 3 3 3 3 3", "leaves of fat") in found("729 layers")
    assert ("envelope 3 3 3 3 3 3", "all leaves") in found("1459 layers")
    assert ("envelope 3 3 3 3 3 3", "leaves of dough") in found("730 layers")


def test_over_a_hundred_layers_is_thirds_and_three_doubles():
    """2 × 4³ = 128."""
    assert ("thirds 4 4 4", "leaves of fat") in found("over a hundred layers")


def test_nine_folds_is_three_doubles_by_creases():
    """A double has three creases."""
    claim, meanings = answer("nine folds")
    assert claim.what == "folds"
    assert any(m.plan.creases == 9 and m.convention.startswith("creases") for m in meanings)


def test_named_folds_are_counted_in_every_enclosure():
    """Two singles and two doubles are 144, not a thousand; inverse with two doubles and a single
    has 48 leaves of dough."""
    by = {m.plan.enclosure.value: m.counts for m in answer("two singles and two doubles")[1]}
    assert by["envelope"].fat == 144
    inverse = {m.plan.enclosure.value: m.counts for m in answer("two doubles and a single")[1]}
    assert inverse["inverse"].dough == 48


def test_a_thousand_is_folklore():
    with pytest.raises(AplombError, match="no plan of up to 8"):
        answer("a thousand layers")
    assert answer("about a thousand layers")[1]


def test_every_convention_of_a_plan_is_told():
    plan = parse_plan("envelope 3 4 / 3 4")
    assert conventions(plan) == {
        "the fold product": 144, "leaves of fat": 144, "leaves of dough": 145, "all leaves": 289,
    }  # fmt: skip
    assert list(turn_conventions(plan).values()) == [4, 5, 2 + 3 + 2 + 3]


@given(st.integers(1, 5000), st.sampled_from(["exactly", "over", "about"]))
def test_every_meaning_does_what_it_says(number, relation):
    text = {"exactly": "", "over": "over ", "about": "about "}[relation] + f"{number} layers"
    try:
        _, meanings = answer(text)
    except AplombError:
        return
    assert 1 <= len(meanings) <= MOST_MEANINGS
    for meaning in meanings:
        counted = conventions(meaning.plan)[meaning.convention]
        assert counted == meaning.number
        if relation == "exactly":
            assert counted == number
        elif relation == "over":
            assert counted > number


@given(st.lists(st.sampled_from([2, 3, 4]), min_size=1, max_size=8))
def test_folds_are_spread_and_none_is_lost(panels):
    assert sorted(spread(tuple(panels))) == sorted(panels)


def test_unlike_folds_stand_between_one_another():
    assert spread((3, 3, 4, 4)) == (3, 4, 3, 4)
    assert spread((3, 4, 4)) == (4, 3, 4)
