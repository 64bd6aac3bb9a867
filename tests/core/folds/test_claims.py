"""Claims of turns, folds and layers. Check values: arithmetic, and common practice of the trade."""

from math import inf
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError, TextError
from aplomb.core.folds.claim_reading import AFTER, ALL, DOUGH, FAT, INCLUDED, read_claim
from aplomb.core.folds.claims import (
    MOST_MEANINGS,
    answer,
    conventions,
    spread,
    turn_conventions,
    verdict,
)
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.turn_line import parse_plan
from tables import wrong_rows


@pytest.mark.parametrize(
    ("text", "what", "spans"),
    [
        ("six turns", "turns", [(6, 6)]),
        ("729 layers", "layers", [(729, 729)]),
        ("nine folds", "folds", [(9, 9)]),
        ("over a hundred layers", "layers", [(101, inf)]),
        ("more than 700 leaves", "layers", [(701, inf)]),
        ("at least 128 layers", "layers", [(128, inf)]),
        ("100+ layers", "layers", [(100, inf)]),
        ("under 300 layers", "layers", [(1, 299)]),
        ("no more than 300 layers", "layers", [(1, 300)]),
        ("up to six turns", "turns", [(1, 6)]),
        ("about 150 sheets", "layers", [(135, 165)]),
        ("a thousand", "layers", [(1000, 1000)]),
        ("1,000", "layers", [(1000, 1000)]),
        ("1.000 layers", "layers", [(1000, 1000)]),
        ("two hundred layers", "layers", [(200, 200)]),
        ("a hundred and forty-four layers", "layers", [(144, 144)]),
        ("one thousand four hundred and fifty-nine leaves", "layers", [(1459, 1459)]),
        ("twenty-five layers", "layers", [(25, 25)]),
        ("1 024 layers", "layers", [(1024, 1024)]),
        ("a dozen turns", "turns", [(12, 12)]),
        ("FIVE TURNS", "turns", [(5, 5)]),
        ("five or six", "turns", [(5, 5), (6, 6)]),
        ("five or six turns", "turns", [(5, 5), (6, 6)]),
        ("5-6 turns", "turns", [(5, 6)]),
        ("100 to 150 layers", "layers", [(100, 150)]),
        ("between one and two hundred layers", "layers", [(1, 200)]),
        ("hundreds of layers", "layers", [(200, 999)]),
        ("thousands of leaves", "layers", [(2000, 9999)]),
    ],
)
def test_claims_as_people_make_them(text, what, spans):
    claim = read_claim(text)
    assert (claim.what, list(claim.spans)) == (what, spans)


@pytest.mark.parametrize(
    ("text", "panels"),
    [
        ("two triple and two book folds", [(3, 3, 4, 4)]),
        ("two triples and two books", [(3, 3, 4, 4)]),
        ("double book", [(4,)]),
        ("three double book folds", [(4, 4, 4)]),
        ("two double and two book turns", [(4, 4, 4, 4)]),
        ("four trifolds", [(3, 3, 3, 3)]),
        ("two tri-folds and a book-fold", [(3, 3, 4)]),
        ("six single letter folds", [(3, 3, 3, 3, 3, 3)]),
        ("letter fold twice", [(3, 3)]),
        ("simple turn × 4", [(3, 3, 3, 3)]),
        ("four three-folds", [(3, 3, 3, 3)]),
        ("six half turns", [(2,) * 6, (3,) * 6]),
        ("six half folds", [(2,) * 6]),
        ("two or three doubles", [(4, 4), (4, 4, 4)]),
        ("3 4 3 4", [(3, 4, 3, 4)]),
        ("a single, then a double", [(3, 4)]),
        ("three five-folds", [(5, 5, 5)]),
    ],
)
def test_folds_by_the_names_bakers_have(text, panels):
    """Common practice: single, letter, triple and trifold are three; double, book and four-fold
    four; a half turn is two, or a single as some use it."""
    assert list(read_claim(text).panels) == panels


_SINGLES = ("single", "letter fold", "triple", "trifold", "simple turn", "three-fold")
_DOUBLES = ("double", "book fold", "four-fold", "double book fold", "wallet fold")
_COUNT = {1: ("a", "one", "1"), 2: ("two", "2"), 3: ("three", "3"), 4: ("four", "4")}


@given(
    st.sampled_from(_SINGLES),
    st.sampled_from(_DOUBLES),
    st.integers(1, 4),
    st.integers(1, 4),
    st.randoms(use_true_random=False),
)
def test_any_two_kinds_in_a_sentence(single, double, threes, fours, random):
    """From a grammar: whatever words and figures are taken, the folds are those that were said."""

    def said(name, many):
        return f"{random.choice(_COUNT[many])} {name}{'s' if many > 1 else ''}"

    text = f"{said(single, threes)} {random.choice(('and', '+', ', then'))} {said(double, fours)}"
    assert read_claim(text).panels == ((3,) * threes + (4,) * fours,), text
    plan = Plan(Enclosure.ENVELOPE, tuple(Step(Way.FOLD, n) for n in (4,) * fours + (3,) * threes))
    assert verdict(read_claim(text), plan).holds == "yes"


SAID = Path(__file__).with_name("claimed.txt")
"""What bakers claim, with the answers beside: written before the reader was run on them."""
CONVENTIONS = {"fat": FAT, "dough": DOUGH, "all": ALL, "incl": INCLUDED, "after": AFTER}


def _answers() -> list[tuple[str, str]]:
    rows = SAID.read_text(encoding="utf-8").splitlines()
    found = [row.rsplit(" | ", 1) for row in rows if row and not row.startswith("#")]
    return [(said, answer) for said, answer in found]


def test_claims_are_read_as_they_are_meant():
    assert wrong_rows(_answers(), claim_is_read) == []


def claim_is_read(said, meant):
    if meant == "?":
        with pytest.raises(TextError):
            read_claim(said)
        return
    claim = read_claim(said)
    meant, _, convention = meant.partition(" @")
    kind, _, rest = meant.partition(" ")
    if kind == "P":
        assert tuple(int(n) for n in rest.split()) in claim.panels
        return
    ends = [each.partition("-") for each in rest.split(",")]
    spans = [
        (float(low), inf if dash and not high else float(high or low)) for low, dash, high in ends
    ]
    assert (claim.what[0].upper(), list(claim.spans), claim.panels) == (kind, spans, ())
    assert claim.convention == CONVENTIONS.get(convention, "")


def test_a_convention_that_is_said_is_kept_when_judging():
    """By hand: thirds and four singles have 162 fat and 163 dough leaves, 325 in all."""
    plan = parse_plan("thirds 3 3 3 3")
    assert verdict(read_claim("162 leaves of butter"), plan).holds == "yes"
    assert verdict(read_claim("162 layers of dough"), plan).holds == "no"
    assert verdict(read_claim("325 layers in all"), plan).words.startswith("True:")
    assert verdict(read_claim("five turns including the enclosing"), plan).holds == "yes"
    assert verdict(read_claim("five turns after enclosing"), plan).holds == "no"
    _, found = answer("162 leaves of butter")
    assert {m.convention for m in found} == {FAT}


PLAN = parse_plan("thirds 3 4 / 3 4 /")


@pytest.mark.parametrize(
    ("text", "holds", "says"),
    [  # by hand: product 144, 288 leaves of fat, 289 of dough, 577 in all; 4 turns, 10 creases
        ("over a hundred layers", "yes", "whichever way you count"),
        ("288 layers", "under", "fat leaves (288)"),
        ("144 layers", "under", "the fold product (144)"),
        ("a thousand", "no", "288 fat leaves, 289 dough leaves and 577 all leaves"),
        ("five or six", "under", "with enclosing counted as the first (5)"),
        ("four turns", "under", "turns after enclosing (4)"),
        ("ten folds", "under", "creases"),
        ("two doubles and two letter folds", "yes", "3 4 3 4"),
        ("three singles and two doubles", "under", "enclosing in thirds counts as a single:"),
        ("four doubles", "no", "3 4 3 4"),
        ("four half turns", "no", "3 4 3 4"),
    ],
)
def test_the_verdict_on_the_plan_in_hand(text, holds, says):
    found = verdict(read_claim(text), PLAN)
    assert found.holds == holds
    assert says in found.words


def test_half_turns_may_be_singles():
    found = verdict(read_claim("three half turns"), parse_plan("envelope 3 3 3"))
    assert found.holds == "under"
    assert "one of its possible meanings" in found.words


def test_paste_in_pieces_is_judged_by_expected_means():
    plan = parse_plan("pieces 3 3 / 4 3 /")
    found = verdict(read_claim("about 150 layers"), plan, (148.3, 149.3))
    assert found.holds == "under"
    assert "average to expect" in found.words
    assert verdict(read_claim("over a thousand layers"), plan, (148.3, 149.3)).holds == "no"
    assert verdict(read_claim("four turns"), plan, (148.3, 149.3)).holds == "under"
    assert verdict(read_claim("100 layers"), plan).words.startswith("No answer:")


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
    assert ("envelope 3 3 3 3 3 3", "fat leaves") in found("729 layers")
    assert ("envelope 3 3 3 3 3 3", "all leaves") in found("1459 layers")
    assert ("envelope 3 3 3 3 3 3", "dough leaves") in found("730 layers")


def test_over_a_hundred_layers_is_thirds_and_three_doubles():
    """2 × 4³ = 128."""
    assert ("thirds 4 4 4", "fat leaves") in found("over a hundred layers")


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
    with pytest.raises(AplombError, match="is envelope 4 4 4 4 4, with a"):
        answer("a thousand layers")
    assert answer("about a thousand layers")[1]


def test_every_convention_of_a_plan_is_told():
    plan = parse_plan("envelope 3 4 / 3 4")
    assert conventions(plan) == {
        "the fold product": 144,
        "fat leaves": 144,
        "dough leaves": 145,
        "all leaves": 289,
    }
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
