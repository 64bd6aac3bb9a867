"""The oven in words: what is written for an oven is read again; both units; cautions."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.figures import set_measures
from aplomb.core.base.ovens import Oven
from aplomb.core.kitchen.baking import LoadCost, LoadHeat, Range
from aplomb.core.oven.bake_line import read_programme
from aplomb.core.oven.programme import USUAL, BakeStep, Programme
from aplomb.core.oven.setting import read_setting
from aplomb.work.words.oven import (
    CAUTIONS,
    RESCUES,
    line_text,
    load_words,
    range_words,
    refresh_words,
    setting_text,
    step_rows,
    usual_words,
)

FAN, DECK = Oven("Fan", dial_k=6), Oven("Deck", fan=False)


@pytest.fixture(autouse=True)
def _plain_house():
    yield
    set_measures("g", "mm", "°C")


@given(st.integers(60, 320), st.sampled_from([FAN, DECK, None]), st.sampled_from(["°C", "°F"]))
def test_a_setting_is_read_as_it_is_written(celsius, oven, unit):
    set_measures("g", "mm", unit)
    text = setting_text(float(celsius), oven)
    set_measures("g", "mm", "°C")
    assert read_setting(text).conventional_c == pytest.approx(celsius, abs=0.3)


@pytest.mark.parametrize("usual", USUAL.values(), ids=USUAL)
@pytest.mark.parametrize("oven", [FAN, DECK], ids=lambda o: o.name)
def test_every_usual_programme_is_read_as_it_is_written(usual, oven):
    made = Programme(usual.steps)
    back = read_programme(line_text(made, oven))
    assert [s.minutes for s in back.steps] == [s.minutes for s in made.steps]
    assert [s.conventional_c for s in back.steps] == pytest.approx(
        [s.conventional_c for s in made.steps]
    )
    assert [(s.until, s.then) for s in back.steps] == [(s.until, s.then) for s in made.steps]
    assert "not a rule" in usual_words(usual, oven)


def test_each_step_is_said_in_every_way_and_each_dial_is_its_own():
    """200 °C without a fan: 180 with, 392 °F, gas 6; a fan that shows 6 K more: 174."""
    (row,) = step_rows(Programme((BakeStep(200, 25),)), (FAN, DECK))
    assert (row.still, row.fan, row.fahrenheit, row.gas) == ("200 °C", "180 °C", "392 °F", "6")
    assert row.dials == ("174 °C", "200 °C")


def test_what_cannot_be_a_gas_mark_is_none():
    (row,) = step_rows(Programme((BakeStep(80, 25),)), ())
    assert row.gas == "–"


def test_a_range_is_one_number_where_its_ends_are():
    assert range_words(Range(4.6, 5.2), "never") == "5 min"
    assert range_words(Range(4, 9), "never") == "4 to 9 min"
    assert range_words(None, "never") == "never"


def test_money_is_said_only_where_a_price_is_known():
    load, cost = LoadHeat(3700, 13, 3.3, 1.4, too_much=True), LoadCost(3, 100, 6.2, 0.55, 0.34)
    told = "\n".join(load_words(load, cost, 0.31, "€"))
    assert "1.92 €" in told
    assert "more than the oven can draw" in told
    assert "34 % more energy" in told
    calm = load_words(LoadHeat(3700, 3, 3.3, 1.4, too_much=False), cost, 0, "€")
    assert not any("€" in line or "more than the oven" in line for line in calm)


def test_what_can_hurt_is_said():
    told = " ".join(CAUTIONS).lower()
    for word in ("sugar", "fire", "steam", "law", "frying", "gloves"):
        assert word in told
    assert {"pale but dry", "brown but raw", "fat runs out", "middle puffed up", "leans"} == {
        seen for seen, _ in RESCUES
    }


def test_refreshing_is_said_in_the_house_s_unit():
    assert "180 °C" in refresh_words()
    set_measures("g", "mm", "°F")
    assert "356 °F" in refresh_words()
