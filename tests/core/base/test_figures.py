"""One way of writing numbers: the decimal sign of the reader in every sentence, and in no file."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import (
    celsius_range,
    celsius_text,
    decimal_sign,
    g_text,
    in_measures,
    inches,
    kg_text,
    num,
    number_text,
    set_decimal,
    set_measures,
    warming_text,
)
from aplomb.core.base.quantity import parse_length_mm
from aplomb.core.folds.claim_reading import read_claim
from aplomb.core.folds.claims import verdict
from aplomb.core.folds.plan import step_name
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.paste.checking import check
from aplomb.core.readings.readings import READING_WORDS
from aplomb.core.study.compare import at_the_bench
from aplomb.core.study.explain import explain
from aplomb.core.study.study import make_study
from aplomb.exchange.formula_json import to_json

POINT = re.compile(r"\d\.\d")
TURN_LINE = re.compile(r"(envelope|thirds|pieces|coil|halves|inverse|portions)( [\d/t@][^ ]*)+")
COMMA = re.compile(r"\d,\d")


@pytest.fixture(params=[".", ","])
def sign(request):
    set_decimal(request.param)
    yield request.param
    set_decimal(".")


def test_numbers_by_hand():
    assert (num(2.5), num(2.5, ".2f"), num(1250.5, ".6g"), num(-0.5, "+.1f")) == (
        "2.5",
        "2.50",
        "1250.5",
        "-0.5",
    )
    set_decimal(",")
    try:
        assert (num(2.5), num(2.5, ".2f"), num(1250.5)) == ("2,5", "2,50", "1250,5")
        assert number_text(1234.56, 1) == "1\u2009234,6"
        assert decimal_sign() == ","
    finally:
        set_decimal(".")
    assert number_text(1234.0, 2) == "1\u2009234"
    with pytest.raises(ValueError, match="plain number"):
        num(1.0, ",.2f")
    with pytest.raises(ValueError, match="decimal point or comma"):
        set_decimal(";")


def sentences():
    """All that the core says of the demo and of what was made wrong of it."""
    book, known = demo(), reference()
    known = replace(known, pantry=known.pantry.holding(book.items), house=book.house)
    lines = ("envelope 3@8.5 4 3 4 t7.5", "thirds 3 3 3 3 3 3 3", "pieces 3 3 4 /7.5", "coil /")
    for i, formula in enumerate(book.formulas):
        made = replace(
            formula,
            turn_line=lines[i % 4],
            sheet_mm=2.5,
            roll_width_mm=123.5,
            piece_fat_mm=2.5,
            flour_moisture_pct=11.25,
            dough_c=3.5,
            dough=tuple(replace(n, grams=n.grams * 1.37) for n in formula.dough),
        )
        before, study = make_study(formula, known), make_study(made, known)
        for each in (before, study):
            for opinion in each.opinions:
                yield from (opinion.claim, opinion.why)
                if opinion.action:
                    yield opinion.action.label
            yield from (explain(each, key) for key in READING_WORDS)
            yield from (step_name(step) for step in each.plan.steps)
            yield each.no_cost
        yield from at_the_bench(before, study, known.pantry, known.house)
        yield verdict(read_claim("about 150 layers"), study.plan, (7.25, 8.25)).words
        yield verdict(read_claim("about 150 layers"), parse_plan("thirds 3 4 / 3 4 /")).words
    try:
        check(replace(book.formulas[0], sheet_mm=0.15, fat_block_mm=123.75, dough_c=55.5))
    except AplombError as error:
        yield str(error)


def test_every_sentence_has_the_readers_sign(sign):
    """None with the other: all but the fold line, whose words are not a language."""
    said = [TURN_LINE.sub("", each) for each in sentences() if each]
    wrong = COMMA if sign == "." else POINT
    right = POINT if sign == "." else COMMA
    assert not [each for each in said if wrong.search(each)]
    assert sum(bool(right.search(each)) for each in said) > 60


METRIC = re.compile(r"\d\u00a0?\u2009? ?(g|kg|mm|cm|°C)\b")
FOREIGN = re.compile(r"[\d⅛¼⅜½⅝¾⅞] ?(oz|lb|in(?! all)|°F)\b")


def test_every_sentence_has_the_measures_of_the_house():
    set_measures("oz", "in", "°F")
    try:
        said = [TURN_LINE.sub("", each) for each in sentences() if each]
    finally:
        set_measures("g", "mm", "°C")
    assert not [each for each in said if METRIC.search(each)]
    assert sum(bool(FOREIGN.search(each)) for each in said) > 60
    assert not [each for each in sentences() if each and FOREIGN.search(each)]


@pytest.mark.parametrize(
    ("grams", "words"),
    [
        (28.349523125, "1 oz"), (453.59237, "1 lb"), (1000, "2 lb 3.3 oz"), (5, "0.18 oz"),
        (453.5, "1 lb"), (250, "8.82 oz"), (0, "0 oz"), (907.18474, "2 lb"),
    ],
)  # fmt: skip
def test_ounces_and_pounds(grams, words):
    """Avoirdupois pound of 0.45359237 kg: NIST Special Publication 811, appendix B.8."""
    set_measures("oz", "mm", "°C")
    try:
        assert g_text(grams) == kg_text(grams) == words
    finally:
        set_measures("g", "mm", "°C")


@pytest.mark.parametrize(
    ("length", "words"),
    [
        (25.4, "1"), (3.175, "⅛"), (3, "⅛"), (2.5, "3/32"), (4, "5/32"), (12, "½"),
        (20, "¾"), (220, "8⅝"), (1800, "70⅞"), (0.2, "0.0079"), (1, "0.039"), (0, "0"),
        (-3.175, "-⅛"), (304.8, "12"),
    ],
)  # fmt: skip
def test_inches_as_on_a_rule(length, words):
    """The inch of 25.4 mm: NIST Special Publication 811, appendix B.8."""
    assert inches(length) == words


@given(st.floats(0.4, 20_000))
def test_inches_are_read_back_within_what_a_rule_shows(length):
    read = parse_length_mm(inches(length), "in")
    assert abs(read - length) <= min(0.06 * length, 25.4 / 16) + 1e-9


def test_temperatures_of_the_house():
    """0 °C is 32 °F, 100 °C is 212 °F by definition."""
    set_measures("g", "mm", "°F")
    try:
        assert (celsius_text(0), celsius_text(100), celsius_text(16)) == (
            "32 °F",
            "212 °F",
            "61 °F",
        )
        assert celsius_range(14, 18) == "57 to 64 °F"
    finally:
        set_measures("g", "mm", "°C")


def test_captions_follow_the_house():
    assert in_measures("Edge, mm") == "Edge, mm"
    set_measures("oz", "in", "°F")
    try:
        captions = ("Edge, mm", "Bench, cm", "pack, g", "Dough, °C", "a, b")
        assert [in_measures(each) for each in captions] == [
            "Edge, in",
            "Bench, in",
            "pack, oz",
            "Dough, °F",
            "a, b",
        ]
    finally:
        set_measures("g", "mm", "°C")


def test_what_programs_read_is_written_with_points(sign):
    formula = replace(demo().formulas[0], turn_line="envelope 3@8.5 4 /7.5 t2.5", sheet_mm=2.5)
    assert formula.plan.line() == "envelope 3@8.5 4 /7.5 t2.5"
    assert b"2.5" in to_json(formula, reference().pantry)
    assert parse_plan("envelope 3@8,5").line() == "envelope 3@8.5"


def test_a_difference_of_temperature_is_no_temperature():
    """1.8 °F for every kelvin, and no 32 more (by definition)."""
    assert warming_text(6.0) == "+6 °C"
    set_measures("g", "mm", "°F")
    try:
        assert warming_text(6.0) == "+11 °F"
        assert warming_text(-0.5, "+.1f") == "−0.9 °F"
    finally:
        set_measures("g", "mm", "°C")
