"""A trial's record: sums by hand, what is refused, what differs."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.core.base.errors import FormulaError
from aplomb.core.trials.came import came_of, differences, values_of
from aplomb.core.trials.trial import (
    JUDGED_WORDS,
    MADE_WORDS,
    OUTCOMES,
    PIECE_WORDS,
    Judged,
    Made,
    Piece,
    Trial,
    check_trial,
    of_piece,
)

PLAIN = Trial("t1", "b1", "Case paste", "u1", "2026-11-02T09:00:00+00:00")


def test_each_outcome_of_a_piece_by_hand():
    """Hand calculation."""
    piece = Piece(4.0, 18.0, 15.3, 80.0, 76.0, 80.0, 77.6, 25.0, 21.5, 96)
    by_hand = {
        "lift": 4.5,
        "even_pct": 85.0,
        "loss_pct": 14.0,
        "shrink_along_pct": 5.0,
        "shrink_across_pct": 3.0,
        "leaves": 96.0,
    }
    assert {key: of_piece(piece, key) for key in by_hand} == pytest.approx(by_hand)
    assert of_piece(piece, "round_pct") == pytest.approx(100 * 76 / 77.6)


@pytest.mark.parametrize("outcome", [k for k in OUTCOMES if k not in JUDGED_WORDS])
def test_what_was_not_measured_is_not_known(outcome):
    assert values_of(replace(PLAIN, pieces=(Piece(),)), outcome) == ()


def test_pieces_that_lack_a_figure_are_passed_over_and_the_rest_counts():
    trial = replace(PLAIN, pieces=(Piece(4, 16), Piece(4, None), Piece(4, 20)))
    came = came_of(trial, "lift")
    assert (came.mean, came.n) == (4.5, 2)
    assert came.scatter == pytest.approx(0.5**0.5)


def test_fat_on_the_tray_is_of_all_raw_pieces_or_not_told():
    """1.2 g under two pieces of 30 g each is 2 %."""
    both = replace(PLAIN, leak_g=1.2, pieces=(Piece(raw_g=30), Piece(raw_g=30)))
    assert values_of(both, "leak_pct") == (2.0,)
    assert values_of(replace(both, pieces=(Piece(raw_g=30), Piece())), "leak_pct") == ()


def test_a_failed_bake_is_kept_but_not_compared():
    burnt = replace(PLAIN, failed="oven door stood open", pieces=(Piece(4, 9),))
    assert check_trial(burnt) is burnt
    assert values_of(burnt, "lift") == (2.25,)
    assert came_of(burnt, "lift") is None


def test_marks_are_values_when_they_were_given():
    assert values_of(replace(PLAIN, judged=Judged(base=4)), "base") == (4.0,)
    assert values_of(PLAIN, "base") == ()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"batch": ""}, "batch that was really made"),
        ({"pieces": (Piece(4, 0.3),)}, "lift of 0.075"),
        ({"pieces": (Piece(4, 200),)}, "lift of 50"),
        ({"pieces": (Piece(0.0, 18),)}, "piece 1, raw height"),
        ({"pieces": (Piece(4, 12, 13),)}, "lowest height is more"),
        ({"pieces": (Piece(), Piece(raw_g=20, baked_g=21))}, "piece 2: it weighs more baked"),
        ({"pieces": (Piece(float("nan")),)}, "piece 1, raw height"),
        ({"pieces": (Piece(),) * 201}, "201 are too many"),
        ({"made": Made(bake_c=900)}, "oven, no fan"),
        ({"made": Made(fat_leaf_um=-1)}, "fat leaf"),
        ({"judged": Judged(colour=6)}, "colour"),
        ({"leak_g": -1.0}, "fat on the tray"),
        ({"leak_g": 60.0, "pieces": (Piece(raw_g=30),)}, "more than the pieces"),
        ({"note": "two\nlines"}, "line"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(change, words):
    with pytest.raises(FormulaError, match=words):
        check_trial(replace(PLAIN, **change))


def test_all_that_is_wrong_is_told_at_once():
    with pytest.raises(FormulaError) as told:
        check_trial(replace(PLAIN, batch="", pieces=(Piece(4, 200),), made=Made(bake_c=5)))
    assert len(told.value.problems) == 3


def test_differences_pass_over_what_is_not_known_and_what_is_nearly_the_same():
    first = [Made(fat_leaf_um=10.0, bake_c=200, baker="Ida", shop_c=20.0)]
    second = [Made(fat_leaf_um=14.0, bake_c=201, baker="Ida", water_pct=52)]
    assert [(d.key, d.first, d.second) for d in differences(first, second)] == [
        ("fat_leaf_um", 10.0, 14.0)
    ]


def test_words_differ_when_any_of_a_group_does():
    found = differences([Made(baker="Ida")] * 2, [Made(baker="Ida"), Made(baker="Ole")])
    assert [(d.first, d.second) for d in found] == [("Ida", "Ida / Ole")]


@given(st.lists(st.floats(20, 300), min_size=1, max_size=6))
def test_a_group_does_not_differ_from_itself(values):
    made = [Made(bake_c=v, chill_min=v) for v in values]
    assert differences(made, made[::-1]) == ()


def test_every_figure_that_is_kept_has_words():
    assert set(MADE_WORDS) == set(Made.__struct_fields__)
    assert set(PIECE_WORDS) == set(Piece.__struct_fields__)
    assert set(JUDGED_WORDS) < set(Judged.__struct_fields__)
