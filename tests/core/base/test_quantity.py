"""Amounts as typed. Units are checked against pint, whose US customary and international
definitions follow NIST Special Publication 811 and Handbook 44."""

import math

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AmountError
from aplomb.core.base.numbers import read_number
from aplomb.core.base.quantity import parse_amount, parse_count, parse_length_mm, parse_percent
from aplomb.core.base.units import UNITS, Kind

PINT = {
    "g": "gram", "kg": "kilogram", "mg": "milligram", "oz": "ounce", "lb": "pound",
    "mL": "milliliter", "cL": "centiliter", "dL": "deciliter", "L": "liter", "US cup": "cup",
    "US tbsp": "tablespoon", "US tsp": "teaspoon", "US fl oz": "fluid_ounce", "US pint": "pint",
    "US quart": "quart", "US gallon": "gallon", "mm": "millimeter", "cm": "centimeter",
    "m": "meter", "in": "inch", "metric cup": "metric_cup", "metric tbsp": "metric_tablespoon",
    "metric tsp": "metric_teaspoon", "imperial fl oz": "imperial_fluid_ounce",
    "imperial pint": "imperial_pint", "imperial quart": "imperial_quart",
    "spoon of 15 mL": "metric_tablespoon", "spoon of 5 mL": "metric_teaspoon",
    "pinch": "metric_pinch", "dash": "metric_dash",
    "imperial gallon": "imperial_gallon", "dessertspoon": "metric_dessertspoon",
    "handful": "metric_handful", "knob": "metric_knob", "splash": "metric_teaspoon",
    "squeeze": "metric_teaspoon",
    "drop": "metric_drop",
}  # fmt: skip
ALL = {unit.name: unit for words in UNITS.values() for unit in words.values()}
BASE = {Kind.MASS: "gram", Kind.VOLUME: "milliliter", Kind.LENGTH: "millimeter"}


@pytest.fixture(scope="module")
def registry():
    made = pint.UnitRegistry()
    made.define("metric_cup = 250 milliliter")  # common practice, as are the spoons
    made.define("metric_tablespoon = 15 milliliter")
    made.define("metric_teaspoon = 5 milliliter")
    made.define("metric_dessertspoon = 10 milliliter")  # from memory, as what the hand measures
    made.define("metric_handful = 50 milliliter")
    made.define("metric_knob = 15 milliliter")
    made.define("metric_drop = 0.05 milliliter")
    made.define("metric_pinch = metric_teaspoon / 16")  # from memory, as is the dash
    made.define("metric_dash = metric_teaspoon / 8")
    return made


@pytest.mark.parametrize(
    "unit",
    {u.name: u for u in {**UNITS["us"], **UNITS["metric"]}.values()}.values(),
    ids=lambda u: u.name,
)
def test_every_unit_agrees_with_pint(unit, registry):
    if unit.kind is Kind.PERCENT:
        assert unit.size == 1
    elif unit.name == "stick":  # common practice: four sticks to the pound
        assert 4 * unit.size == pytest.approx(registry("1 pound").to("gram").magnitude, rel=1e-12)
    else:
        expected = registry.Quantity(1, PINT[unit.name]).to(BASE[unit.kind]).magnitude
        assert unit.size == pytest.approx(expected, rel=1e-9)


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [  # hand calculation: 1 lb is 453.59237 g exactly, 1 US cup 236.5882365 mL exactly
        ("250", Kind.MASS, 250),
        ("250 g", Kind.MASS, 250),
        ("250g", Kind.MASS, 250),
        ("0.5 kg", Kind.MASS, 500),
        ("2 1/4 cup", Kind.VOLUME, 2.25 * 236.5882365),
        ("2¼ cups", Kind.VOLUME, 2.25 * 236.5882365),
        ("½ tsp", Kind.VOLUME, 236.5882365 / 96),
        ("1/2 tsp", Kind.VOLUME, 236.5882365 / 96),
        ("1⁄3 cup", Kind.VOLUME, 236.5882365 / 3),
        ("8 oz", Kind.MASS, 453.59237 / 2),
        ("8 fl oz", Kind.VOLUME, 236.5882365),
        ("8 fl. oz.", Kind.VOLUME, 236.5882365),
        ("1 lb 2 oz", Kind.MASS, 453.59237 * 1.125),
        ("1 LB. 2 OZ.", Kind.MASS, 453.59237 * 1.125),
        ("1 lb and 2 oz", Kind.MASS, 453.59237 * 1.125),
        ("2 sticks", Kind.MASS, 453.59237 / 2),
        ("62 %", Kind.PERCENT, 62),
        ("1\u2009690", Kind.MASS, 1690),
        ("1 690 g", Kind.MASS, 1690),
        ("12 cm", Kind.LENGTH, 120),
        ('1 1/2 "', Kind.LENGTH, 38.1),
        (".5 kg", Kind.MASS, 500),
        ("1-1/2 cups", Kind.VOLUME, 1.5 * 236.5882365),
        ("2-3 tbsp", Kind.VOLUME, 2.5 * 236.5882365 / 16),
        ("2 to 3 g", Kind.MASS, 2.5),
        ("250+30", Kind.MASS, 280),
        ("250 + 30 g", Kind.MASS, 280),
        ("1 kg + 250 g", Kind.MASS, 1250),
        ("2 x 250 g", Kind.MASS, 500),
        ("3 × 8 oz", Kind.MASS, 24 * 28.349523125),
        ("half a cup", Kind.VOLUME, 236.5882365 / 2),
        ("one stick", Kind.MASS, 453.59237 / 4),
        ("about 250 g", Kind.MASS, 250),
        ("1 metric cup", Kind.VOLUME, 250),
        ("1 US cup", Kind.VOLUME, 236.5882365),
        ("1 imperial pint", Kind.VOLUME, 568.26125),
    ],
)
def test_reads_what_people_write(text, kind, value):
    amount = parse_amount(text)
    assert amount.kind is kind
    assert amount.value == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "decimal", "value"),
    [
        ("0,5", ".", 0.5), ("0.5", ",", 0.5), ("1,5", ".", 1.5), ("1.5", ",", 1.5),
        ("1,250", ".", 1250), ("1,250", ",", 1.25), ("1.250", ",", 1250), ("1.250", ".", 1.25),
        ("1,250.5", ",", 1250.5), ("1.250,5", ".", 1250.5), ("1.250.000", ",", 1_250_000),
        ("12,5", ",", 12.5), ("0,125", ".", 0.125),
    ],
)  # fmt: skip
def test_decimal_comma_and_point(text, decimal, value):
    assert read_number(text, decimal) == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "says", "place"),
    [
        ("", "enter an amount", (0, 1)),
        ("   ", "enter an amount", (0, 3)),
        ("-5 g", "negative", (0, 4)),
        ("5 ozz", "not a unit", (2, 5)),
        ("flour", "enter a number", (0, 5)),
        ("1 lb 2 cup", "cannot be added", (7, 10)),
        ("1 lb 2", "give each part its unit,", (5, 6)),
        ("250 8", "give each part its unit,", (4, 5)),
        ("3/0 cup", "divided by 0", (0, 3)),
        ("1,2.3,4 g", "mixed", (0, 7)),
        ("1.2.3 g", "two decimal points or commas", (0, 5)),
        ("1e9 kg", "not a unit", (1, 2)),
        ("1000000 kg", "100 000 kg", (0, 10)),
        ("nan", "enter a number", (0, 3)),
        ("inf g", "enter a number", (0, 3)),
        ("=5+3", "enter a number", (0, 1)),
    ],
)
def test_refuses_with_the_place(text, says, place):
    with pytest.raises(AmountError, match=says) as caught:
        parse_amount(text)
    assert (caught.value.start, caught.value.end) == place


def test_the_pointer_stands_below_the_place():
    with pytest.raises(AmountError) as caught:
        parse_amount("8 ozz")
    assert caught.value.pointed() == "8 ozz\n  ^^^"


def test_a_hostile_text_is_pointed_at_within_a_line():
    with pytest.raises(AmountError) as caught:
        parse_amount("9" * 5000 + " zz")
    assert all(len(row) <= 80 for row in caught.value.pointed().split("\n"))


def test_lengths_take_the_fields_own_unit():
    assert parse_length_mm("3") == 3
    assert parse_length_mm("20", "cm") == 200
    assert parse_length_mm("2 in", "cm") == pytest.approx(50.8)
    with pytest.raises(AmountError, match="enter a length"):
        parse_length_mm("3 g")
    with pytest.raises(AmountError, match="100 m"):
        parse_length_mm("99999999", "cm")


def test_percent_and_count():
    assert parse_percent("12,5", ",") == 12.5
    assert parse_percent("12 %") == 12
    with pytest.raises(AmountError, match="percentage"):
        parse_percent("12 g")
    assert parse_count("240") == 240
    for wrong in ("0", "2.5", "1000001", "2 kg", "-1"):
        with pytest.raises(AmountError):
            parse_count(wrong)


@given(st.text(max_size=40))
def test_any_text_is_read_or_refused_in_place(text):
    try:
        amount = parse_amount(text)
    except AmountError as error:
        assert 0 <= error.start < error.end
        error.pointed()
    else:
        assert math.isfinite(amount.value)
        assert amount.value >= 0


@given(
    st.floats(0.001, 90),
    st.sampled_from(sorted({**UNITS["us"], **UNITS["metric"]}, key=len)),
)
def test_scales_in_proportion(number, word):
    one, many = parse_amount(f"1 {word}"), parse_amount(f"{number:.6f} {word}")
    assert one.kind is many.kind
    assert many.value == pytest.approx(float(f"{number:.6f}") * one.value)


def test_cups_and_spoons_follow_the_book():
    """A metric cup is 250 mL and a tablespoon 15 mL, common practice; the US ones by NIST."""
    assert parse_amount("1 cup", measures="metric").value == 250
    assert parse_amount("1 cup", measures="us").value == pytest.approx(236.5882365)
    assert parse_amount("1 US cup", measures="metric").value == pytest.approx(236.5882365)
    assert parse_amount("2 tbsp", measures="metric").said == "2 metric tbsp"
    assert parse_amount("1 lb", measures="metric").value == 453.59237


def test_a_range_keeps_its_ends():
    amount = parse_amount("2–3 tbsp", measures="metric")
    assert (amount.low, amount.high, amount.value) == (30, 45, 37.5)
    assert amount.spread == pytest.approx(0.2)
    assert parse_amount("2 tbsp").spread == 0


@pytest.mark.parametrize(
    ("text", "first", "second"),
    [
        ("1 cup (120 g)", 120, (Kind.VOLUME, 236.5882365)),
        ("225 g / 8 oz", 225, (Kind.MASS, 226.796185)),
        ("1 lb/450 g", 453.59237, (Kind.MASS, 450)),
        ("8 oz or 225 g", 226.796185, (Kind.MASS, 225)),
        ("1 stick [4 oz]", 113.3980925, (Kind.MASS, 113.3980925)),
    ],
)
def test_an_amount_stated_twice_is_read_twice_and_the_weight_taken(text, first, second):
    amount = parse_amount(text)
    assert (amount.kind, amount.value) == (Kind.MASS, pytest.approx(first))
    assert (amount.also.kind, amount.also.value) == (second[0], pytest.approx(second[1]))


@pytest.mark.parametrize(
    "text",
    ["3 to 2 cups", "1 kg to 500 g", "between 3 and 2 g", "30 + 1 cup", "250 + 1 lb", "1 lb + 2"],
)
def test_what_could_be_taken_two_ways_is_refused(text):
    with pytest.raises(AmountError):
        parse_amount(text)


@pytest.mark.parametrize("text", ["", " ", "abc", "-1", "1/2", "½", "nan", "inf", "1e5", ".", ",."])
def test_what_is_no_plain_number_is_refused(text):
    with pytest.raises(AmountError, match="number"):
        read_number(text)


@pytest.mark.parametrize(
    ("text", "value"),
    [  # by hand from the units: US cup 236.588 mL, 16 tbsp, 48 tsp; 1 lb 453.592 g
        ("2 tbsp plus 1 tsp", 7 * 236.5882365 / 48),
        ("1/2 cup plus 2 tbsp", 10 * 236.5882365 / 16),
        ("1 cup minus 1 tbsp", 15 * 236.5882365 / 16),
        ("1 cup less 2 tbsp", 14 * 236.5882365 / 16),
        ("500 - 20", 480), ("500-20 g", 480), ("500 g - 20 g", 480), ("0.5 kg minus 20 g", 480),
        ("30-20 g", 10), ("1 kg - 250 g + 50 g", 800),
        ("one quarter pound", 453.59237 / 4), ("a quarter of a pound", 453.59237 / 4),
        ("quarter pound", 453.59237 / 4), ("three quarters of a pound", 0.75 * 453.59237),
        ("two thirds of a cup", 236.5882365 * 2 / 3), ("one and a half cups", 1.5 * 236.5882365),
        ("half an ounce", 28.349523125 / 2), ("eleven g", 11),
        ("1 T. ", 236.5882365 / 16), ("2 T", 236.5882365 / 8), ("1 t.", 236.5882365 / 48),
        ("250 mls", 250), ("1 ltr", 1000), ("2 ltrs", 2000),
        ("2 EL", 30), ("1 TL", 5), ("1 c. à café", 5), ("2 c. à soupe", 30), ("3 càs", 45),
        ("1 cuillère à café", 5), ("2 cucharadas", 30), ("1 cucharadita", 5), ("3 cucchiai", 45),
        ("2 cucchiaini", 10), ("1 msk", 15), ("2 colheres de chá", 10), ("1 eetlepel", 15),
    ],
)  # fmt: skip
def test_sums_words_and_spoons_of_other_countries(text, value):
    assert parse_amount(text).value == pytest.approx(value, rel=1e-9)


@pytest.mark.parametrize(
    ("text", "low", "high"),
    [
        ("100 g - 120 g", 100, 120), ("100g to 120g", 100, 120), ("0.5 kg to 600 g", 500, 600),
        ("between 4 and 6 g", 4, 6), ("from 4 to 6 g", 4, 6), ("between 4 and 6", 4, 6),
        ("two or three g", 2, 3), ("1 lb to 500 g", 453.59237, 500), ("1,250-1,500 kg", 1250, 1500),
    ],
)  # fmt: skip
def test_ranges_with_units_at_both_ends(text, low, high):
    found = parse_amount(text)
    assert (found.low, found.high) == pytest.approx((low, high))
    assert found.value == pytest.approx((low + high) / 2)


@pytest.mark.parametrize(
    ("text", "decimal", "grams"),
    [
        ("1,250 kg", ".", 1250), ("1.250 kg", ",", 1250), ("1.250 kg", ".", 1250),
        ("1,250 kg", ",", 1250), ("2,500 L", ".", 2500), ("1,250 g", ".", 1250),
        ("1,250 g", ",", 1.25), ("1,125 lb", ".", 1.125 * 453.59237),
    ],
)  # fmt: skip
def test_a_thousands_sign_never_makes_tonnes(text, decimal, grams):
    assert parse_amount(text, decimal).value == pytest.approx(grams)


def test_what_was_read_otherwise_is_told():
    assert parse_amount("1,250 kg").asked == "“1,250” was read as 1.25 kg"
    assert "decimal" in parse_amount("1.250 g").asked
    assert parse_amount("1,250 g").asked == parse_amount("12,50 kg").asked == ""


def test_a_pinch_is_small_and_wide():
    """From memory: a sixteenth of a teaspoon, half of it either way."""
    pinch = parse_amount("a pinch")
    assert pinch.value == pytest.approx(5 / 16)
    assert (pinch.low, pinch.high) == pytest.approx((2.5 / 16, 7.5 / 16))
    assert parse_amount("1 tsp minus a pinch").low == pytest.approx(236.5882365 / 48 - 7.5 / 16)


@pytest.mark.parametrize("text", ["500 minus 600", "1 tsp minus 1 tbsp"])
def test_more_is_not_taken_off_than_there_is(text):
    with pytest.raises(AmountError, match="more is taken away|smaller figure"):
        parse_amount(text)
