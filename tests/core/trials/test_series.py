"""A series: pairs where there are pairs, what else differed, and what cannot be compared."""

import pytest
from msgspec.structs import replace

from aplomb.core.base.errors import FormulaError
from aplomb.core.trials.comparing import compare, compare_apart
from aplomb.core.trials.series import Series, check_series, variants_of
from aplomb.core.trials.trial import Made, Piece, Trial

SERIES = Series("s", "Leaf", change="fat_leaf_um", outcome="lift")


def baked(i, variant, lift, pair="", **made):
    pieces = () if lift is None else (Piece(4.0, 4.0 * lift),)
    return Trial(
        f"t{i}",
        "b",
        "paste",
        "u",
        f"2026-01-{i + 1:02}",
        series="s",
        variant=variant,
        pair=pair,
        made=Made(**made),
        pieces=pieces,
    )


PAIRED = [
    baked(0, "10 µm", 4.5, "d1", fat_leaf_um=10.0, fridge="left"),
    baked(1, "14 µm", 4.0, "d1", fat_leaf_um=14.0, fridge="right"),
    baked(2, "10 µm", 4.9, "d2", fat_leaf_um=10.0, fridge="left"),
    baked(3, "14 µm", 4.2, "d2", fat_leaf_um=14.0, fridge="right"),
    baked(4, "10 µm", 4.4, "d3", fat_leaf_um=10.0, fridge="left"),
    baked(5, "14 µm", 4.0, "d3", fat_leaf_um=14.0, fridge="right"),
]


def test_trials_of_one_day_are_compared_in_pairs():
    parent, other = variants_of(SERIES, PAIRED)
    assert (parent.name, parent.against) == ("10 µm", None)
    assert other.paired
    assert other.against == compare([(4.5, 4.0), (4.9, 4.2), (4.4, 4.0)], 0.5)


def test_without_pairs_they_are_compared_apart():
    alone = [replace(t, pair="") for t in PAIRED]
    other = variants_of(SERIES, alone)[1]
    assert not other.paired
    assert other.against == compare_apart([4.5, 4.9, 4.4], [4.0, 4.2, 4.0], 0.5)


def test_what_else_differed_is_said_and_the_named_change_is_not():
    other = variants_of(SERIES, PAIRED)[1]
    assert [d.key for d in other.besides] == ["fridge"]


def test_the_parent_can_be_named():
    named = replace(SERIES, parent="14 µm")
    assert [v.name for v in variants_of(named, PAIRED)] == ["14 µm", "10 µm"]
    assert variants_of(named, PAIRED)[1].against.difference == pytest.approx(0.533, abs=1e-3)


def test_failed_and_unmeasured_bakes_stay_and_are_counted():
    more = [*PAIRED, replace(baked(6, "14 µm", 1.1), failed="burnt"), baked(7, "14 µm", None)]
    other = variants_of(SERIES, more)[1]
    assert (len(other.trials), len(other.values), other.failed, other.missing) == (5, 3, 1, 1)


def test_a_variant_of_which_nothing_is_known_has_no_difference():
    other = variants_of(SERIES, [*PAIRED[::2], baked(8, "x", None)])[1]
    assert (other.against, other.mean) == (None, None)


def test_no_trials_no_variants():
    assert variants_of(SERIES, [replace(t, series="other") for t in PAIRED]) == ()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"name": " "}, "name"),
        ({"outcome": "moon"}, "one"),
        ({"matters": -1.0}, "matters"),
        ({"change": ""}, "what is changed"),
        ({"question": "a\nb"}, "line"),
    ],
)
def test_a_series_that_cannot_be_is_refused(change, words):
    with pytest.raises(FormulaError, match=words):
        check_series(replace(SERIES, **change))


def test_what_matters_is_its_own_or_the_usual():
    assert (SERIES.least, replace(SERIES, matters=0.2).least) == (0.5, 0.2)
    assert SERIES.change_words == "Fat leaf"
    assert replace(SERIES, change="wash").change_words == "wash"
