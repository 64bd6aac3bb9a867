"""Whatever is typed, pasted or imported, the core answers with a value or with words."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import reference
from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import AmountError, AplombError, FormulaError, Problems
from aplomb.core.base.house import LIMITS, House, check_house
from aplomb.core.base.numbers import read_number
from aplomb.core.base.quantity import parse_amount
from aplomb.core.base.units import Kind
from aplomb.core.paste.amounts import disagreement, understand
from aplomb.core.paste.ingredient import Ingredient, Share, check_material
from aplomb.core.paste.pantry import Item, Pack, Pantry, check_item
from aplomb.exchange.pantry_csv import read_supplier_file
from aplomb.exchange.probe_log import read_probe_log

SIGNS = st.text('0123456789.,/½¼ x×+-–()[]gkcuptsblzo%"= \t', max_size=24)


@given(st.one_of(SIGNS, st.text(max_size=40)), st.sampled_from([".", ","]))
@settings(max_examples=60)
def test_any_text_is_an_amount_or_told_why_not(text, decimal):
    try:
        amount = parse_amount(text, decimal)
    except AmountError as error:
        assert error.message
        assert 0 <= error.start <= len(text)
        assert error.end > error.start
        assert error.pointed()
        return
    assert math.isfinite(amount.value)
    assert amount.value >= 0
    assert amount.low <= amount.high
    assert amount.said


@given(st.binary(max_size=600))
@settings(max_examples=60)
def test_any_file_is_a_sheet_or_told_why_not(data):
    try:
        sheet = read_supplier_file(data, reference().pantry, "x.csv")
    except AplombError as error:
        assert "x.csv" in str(error)
        return
    for row in sheet.rows:
        check_item(row.item)


@given(st.lists(st.lists(SIGNS, min_size=4, max_size=4), max_size=6))
@settings(max_examples=60)
def test_any_cells_are_taken_or_told_by_their_line(rows):
    lines = [";".join(cell.replace('"', "") for cell in row) for row in rows]
    text = "\n".join(["name;fat;price;pack", *lines])
    sheet = read_supplier_file(text.encode(), reference().pantry)
    for trouble in sheet.troubles:
        assert trouble.row >= 2
        assert trouble.problems


GOOD = Ingredient("x", "Croft fat", "fat", Composition(fat=0.8, water=0.16), bulk_g_ml=0.9)


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"name": ""}, "name: use 1 to 80"),
        ({"name": "=SUM(A1)"}, "do not start it with ="),
        ({"group": "gold"}, "group: “gold”"),
        ({"composition": Composition(fat=1.2)}, "fat: 120"),
        ({"composition": Composition(fat=float("nan"))}, "fat: nan"),
        ({"composition": Composition(fat=0.8, water=0.8)}, "adds up to 160 %"),
        ({"composition": Composition(sugar=0.2)}, "part of the carbohydrate"),
        ({"bulk_g_ml": 0.0}, "weight of a measure"),
        ({"bulk_spread": 2.0}, "spread: 200"),
        ({"enclose_c": (20.0, 12.0)}, "lower temperature first."),
        ({"enclose_c": (float("inf"), 12.0)}, "enclose from: inf"),
        ({"sfc": ((10.0, 30.0), (20.0, 40.0))}, "solid fat must fall as the fat warms."),
        ({"sfc": ((20.0, 30.0), (10.0, 20.0))}, "must be above"),
        ({"sfc": ((10.0, 130.0),)}, "solid fat at 10 °C: 130"),
    ],
)
def test_materials_that_cannot_be(changes, says):
    check_material(GOOD)
    with pytest.raises(FormulaError) as caught:
        check_material(replace(GOOD, **changes))
    assert says in str(caught.value)


@pytest.mark.parametrize("name", LIMITS)
@pytest.mark.parametrize("value", [-1e6, 1e6, float("nan"), float("inf")])
def test_houses_that_cannot_be(name, value):
    check_house(House())
    with pytest.raises(FormulaError, match=LIMITS[name][0]):
        check_house(replace(House(), **{name: value}))


def test_a_long_currency_is_refused():
    with pytest.raises(FormulaError, match="at most 8 characters"):
        check_house(House(currency="doubloons"))


@pytest.mark.parametrize(
    ("pack", "says"),
    [
        (Pack(0, 1), "pack: 0"),
        (Pack(1000, -1), "price: -1"),
        (Pack(1000, float("nan")), "price: nan"),
        (Pack(1000, 1, "yesterday"), "“yesterday”"),
        (Pack(1000, 1, "2026-99-99"), "cannot be read"),
    ],
)
def test_prices_that_cannot_be(pack, says):
    with pytest.raises(FormulaError, match=says):
        check_item(Item("x", pack=pack))


def test_all_that_is_wrong_is_told_at_once():
    wrong = Problems()
    wrong.check()
    wrong.number("one", 5, 0, 3, "g")
    wrong.number("two", float("nan"), 0, 3, "g")
    wrong.number("three", 2, 0, 3, "g")
    with pytest.raises(FormulaError) as caught:
        wrong.check()
    assert len(caught.value.problems) == 2


def test_a_blend_of_itself_costs_nothing_known_and_ends():
    one = replace(GOOD, key="one", made_of=(Share("two", 1.0),))
    two = replace(GOOD, key="two", made_of=(Share("one", 1.0),))
    pantry = Pantry([one, two])
    assert pantry.per_gram("one") is None
    assert pantry.per_gram("water") == 0.0


def test_a_key_is_always_free(pantry):
    assert pantry.free_key("Lard") == "lard_2"
    assert pantry.free_key("Crème légère") not in pantry
    assert pantry.free_key("???") == "material"


def test_the_spread_of_a_cup_by_hand(pantry):
    """1 metric cup of plain flour: 250 × 0.53 = 132.5 g, 12 % either way."""
    amount = parse_amount("1 cup", measures="metric")
    found = understand(amount, pantry["plain_flour"], None, "1 cup")
    assert found.grams == pytest.approx(132.5)
    assert (found.low_g, found.high_g) == (pytest.approx(116.6), pytest.approx(148.4))
    assert found.spread_pct == pytest.approx(12)
    weighed = understand(parse_amount("250 g"), pantry["plain_flour"], None, "250 g")
    assert weighed.spread_pct == 0


@pytest.mark.parametrize(
    ("text", "apart"),
    [
        ("8 oz (225 g)", None),  # 0.8 %: rounded
        ("1 lb (450 g)", None),
        ("1 lb (500 g)", 10),  # 500 / 453.59
        ("1 cup (120 g)", None),  # within packing: 125.4 ± 12 %
        ("1 cup (200 g)", 37),
        ("250 g", None),
        ("nonsense (x)", None),
    ],
)
def test_two_statements_of_one_amount(text, apart, pantry):
    found = disagreement(text, pantry["plain_flour"], "us")
    assert (found is None) == (apart is None)
    if apart is not None:
        assert found.apart_pct == pytest.approx(apart, abs=1.5)


def test_kinds_stay_apart():
    assert parse_amount("12 mm").kind is Kind.LENGTH
    assert parse_amount("1 1/2 in").value == pytest.approx(38.1)
    assert parse_amount("3,5 cm", ",").value == pytest.approx(35)
    with pytest.raises(AmountError, match="cannot be added"):
        parse_amount("1 cup + 250 mm")


def test_a_number_and_a_line_of_a_log_have_an_end():
    """What takes time by the square of its length is refused by its length."""
    with pytest.raises(AmountError, match="at most"):
        read_number("9" * 6400)
    log = read_probe_log("0 20\n10 14.5\n20" + "\u00a0" * 6000 + "1\n30 9")
    assert log.minutes.size == 3
