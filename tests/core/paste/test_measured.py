"""Masses said in cups, spoons, sticks and counts; US measures as published (NIST HB 44)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.assets.shipped import reference
from aplomb.core.base.errors import AmountError
from aplomb.core.base.quantity import parse_amount
from aplomb.core.base.units import Kind
from aplomb.core.paste.amounts import counted, typed_span
from aplomb.core.paste.line import Line
from aplomb.core.paste.measured import ABOUT, NEAR, PIECE_NEAR, measured

PANTRY = reference().pantry
CUP, TBSP, TSP = 236.5882365, 236.5882365 / 16, 236.5882365 / 48


@pytest.mark.parametrize(
    ("key", "grams", "words"),
    [  # by hand: water weighs 0.9997 g/mL, a stick 113.4 g, an egg 50 g (rule of thumb)
        ("water", CUP, "1 cup"), ("water", 2.25 * CUP, "2¼ cups"), ("water", CUP / 3, "⅓ cup"),
        ("water", 3 * TBSP, "3 tbsp"), ("water", 1.5 * TSP, "1½ tsp"), ("water", TSP / 4, "¼ tsp"),
        ("water", CUP + 2 * TBSP, "1 cup + 2 tbsp"), ("water", TBSP + TSP, "1 tbsp + 1 tsp"),
        ("water", 2.5 * CUP, "2½ cups"), ("butter", 226.8, "2 sticks"),
        ("butter", 283.5, "2½ sticks"), ("egg_whole", 100, "2 eggs"),
        ("egg_yolk", 18, "1 egg yolk"), ("egg_whole", 25, "½ egg"), ("salt", 0.3, "a pinch"),
    ],
)  # fmt: skip
def test_masses_are_said_as_people_measure(key, grams, words):
    found = measured(grams, PANTRY[key], "us")
    assert found is not None
    assert found.words == words


@given(
    st.sampled_from(["water", "plain_flour", "butter", "salt", "sugar", "milk_whole", "egg_whole"]),
    st.floats(0.2, 5000),
    st.sampled_from(["us", "metric"]),
)
def test_what_is_said_is_near_and_is_read_as_it_was_meant(key, grams, measures):
    material = PANTRY[key]
    found = measured(grams, material, measures)
    if found is None or "pinch" in found.words:
        return
    slack = PIECE_NEAR if "egg" in found.words else 2.5 * NEAR
    slack = ABOUT if found.words.startswith("about ") else slack
    assert abs(found.grams - grams) <= slack * grams + 1e-6
    if "egg" not in found.words:
        amount = parse_amount(found.words, ".", measures)
        assert amount.kind in (Kind.VOLUME, Kind.MASS)
        size = amount.value * ((material.measure_g_ml or 1) if amount.kind is Kind.VOLUME else 1)
        assert size == pytest.approx(found.grams, rel=1e-6)


def test_what_cannot_be_measured_is_not_said():
    assert measured(0.0, PANTRY["water"], "us") is None
    assert measured(250.0, PANTRY["leek_filling"], "us") is None or (
        PANTRY["leek_filling"].measure_g_ml is not None
    )


def test_a_bare_number_in_words_counts_pieces_and_never_grams():
    eggs = counted(parse_amount("half a dozen"), "half a dozen", PANTRY["egg_whole"])
    assert (eggs.value, eggs.said) == (300, "6 × 50 g")
    assert eggs.high > eggs.low
    assert counted(parse_amount("250"), "250", PANTRY["egg_whole"]).value == 250
    with pytest.raises(AmountError, match="give the unit"):
        counted(parse_amount("two"), "two", PANTRY["plain_flour"])


def test_how_a_measure_is_filled_is_said_and_read_again():
    for text in ("scant 1 cup", "heaped 1 tbsp", "generous 2 tsp"):
        first = parse_amount(text)
        again = parse_amount(first.said)
        assert (again.low, again.high) == (first.low, first.high)


@pytest.mark.parametrize(
    ("material", "grams", "typed", "low", "high"),
    [  # by hand: the middle is what was taken; a tablespoon of water is 14.8 g
        ("water", 37.0, "2–3 tbsp", 29.6, 44.4),
        ("water", 250.0, "240 to 260 g", 240, 260),
        ("water", 500.0, "240 to 260 g", 480, 520),  # the line was doubled since
        ("plain_flour", 125.0, "100-150 g", 100, 150),
        ("egg_whole", 125.0, "two to three", 85, 172.5),  # 50 g each, by 15 % more or less
        ("water", 550.0, "50–60 %", 500, 600),
    ],
)
def test_both_ends_of_a_range_that_was_typed_are_known(material, grams, typed, low, high):
    span = typed_span(Line(material, grams, typed=typed), PANTRY[material])
    assert span is not None
    assert (span.low, span.high) == pytest.approx((low, high), rel=2e-3)


@pytest.mark.parametrize(
    "typed", ["", "250 g", "2 cups", "a pinch", "1 scant cup", "salt", "3–2 g"]
)
def test_what_can_only_be_filled_unevenly_is_no_range(typed):
    assert typed_span(Line("salt", 10.0, typed=typed), PANTRY["salt"]) is None
