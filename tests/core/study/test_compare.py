"""Two formulas side by side."""

import pytest
from msgspec.structs import replace

from aplomb.core.paste.formula import Part
from aplomb.core.paste.line import Line
from aplomb.core.paste.swap import swap
from aplomb.core.study.compare import Pair, at_the_bench, compare
from aplomb.core.study.study import make_study


@pytest.fixture
def swapped(plain, known, pantry):
    after = swap(plain, pantry, Part.BLOCK, 0, "pastry_margarine", "fat").formula
    return make_study(plain, known), make_study(after, known)


def test_pairs_by_hand():
    assert (Pair(80, 100).difference, Pair(80, 100).ratio) == (20, 1.25)
    assert Pair(None, 5).difference is None
    assert Pair(0, 5).ratio is None
    assert Pair(None, None).same
    assert Pair(5, 5 + 1e-12).same
    assert not Pair(5, None).same


def test_a_formula_beside_itself_is_the_same(demo, known, pantry):
    for formula in demo:
        study = make_study(formula, known)
        found = compare(study, study, pantry)
        assert all(line.grams.same for line in found.lines)
        assert all(reading.value.same for reading in found.readings)
        assert found.claims_gained == found.claims_lost == ()
        assert at_the_bench(study, study, pantry, known.house) == ()


def test_lines_and_readings_of_a_swap(swapped, pantry):
    found = compare(*swapped, pantry)
    by = {line.material: line for line in found.lines}
    assert by["butter"].grams == Pair(1000, None)
    assert by["pastry_margarine"].grams.after == pytest.approx(1000 * 0.82 / 0.806)
    readings = {reading.key: reading.value for reading in found.readings}
    assert readings["pure_fat_pct"].difference == pytest.approx(0, abs=1e-9)
    assert readings["fat_product_pct"].ratio == pytest.approx(0.82 / 0.806)
    assert found.allergens_lost == ("milk",)
    assert "May leave a film in the mouth" in found.claims_gained


def test_what_is_noticed_at_the_bench(swapped, pantry, known):
    words = " ".join(at_the_bench(*swapped, pantry, known.house))
    assert "16–22 °C instead of 12–16: 5.0 K warmer" in words
    assert "Less butter flavour: 0 % of the fat is milk fat, not 100" in words
    assert "More film in the mouth: 12 % solid at 35 °C, not 0" in words


def test_lines_that_stand_twice_are_taken_together(plain, known, pantry):
    twice = plain.with_lines(Part.DOUGH, (*plain.dough, Line("salt", 5)))
    found = compare(make_study(plain, known), make_study(twice, known), pantry)
    salt = next(line for line in found.lines if line.material == "salt")
    assert (salt.grams.before, salt.grams.after) == (20, 25)


def test_other_turns_are_told(plain, known, pantry):
    other = replace(plain, turn_line="envelope 3 3 / 3 3")
    found = at_the_bench(make_study(plain, known), make_study(other, known), pantry, known.house)
    assert found == ("The turns are envelope 3 3 / 3 3.",)
