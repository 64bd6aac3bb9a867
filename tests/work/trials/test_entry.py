"""What is typed on a measurement sheet: read in the house's measures, and back as it is shown."""

from contextlib import suppress

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import set_decimal, set_measures
from aplomb.core.trials.trial import LARGEST, MADE_WORDS, Made, Piece, Trial
from aplomb.work.trials.entry import (
    fan_is_open_in,
    figure_text,
    read_figure,
    read_heights,
    read_weighings,
    with_fan_on,
    with_made_figure,
    with_piece_figure,
)

PLAIN = Trial("t", "b", "f", "u", "2026-11-26")


@pytest.fixture(autouse=True)
def _plain_house():
    yield
    set_decimal(".")
    set_measures("g", "mm", "°C")


@given(st.lists(st.tuples(st.integers(5, 90), st.integers(20, 600)), min_size=1, max_size=12))
def test_heights_in_a_row_come_back(pairs):
    text = " ".join(f"{raw / 10}/{baked / 10}" for raw, baked in pairs)
    found = read_heights(text)
    assert [(p.raw_mm, p.baked_mm) for p in found] == [
        (pytest.approx(r / 10), pytest.approx(b / 10)) for r, b in pairs
    ]


@given(st.lists(st.integers(20, 600), min_size=1, max_size=12), st.sampled_from([" ", "  ", "; "]))
def test_one_raw_height_may_stand_for_all(baked, between):
    found = read_heights("3.4: " + between.join(f"{b / 10}" for b in baked))
    assert [p.baked_mm for p in found] == [pytest.approx(b / 10) for b in baked]
    assert {p.raw_mm for p in found} == {3.4}


@pytest.mark.parametrize(
    "text",
    [
        "",
        "  ",
        "15",
        "3.4/",
        "/15",
        "3.4/15 x",
        "3.4/15/16 7",
        "3.4:",
        "3.4: 15 y",
        "−3/15",
        "1e5/nan",
    ],
)
def test_heights_that_cannot_be_read_are_pointed_at(text):
    with pytest.raises(AmountError) as told:
        read_heights(text)
    assert 0 <= told.value.start < told.value.end <= max(1, len(text))


def test_units_and_decimal_commas_of_the_house_are_read():
    set_decimal(",")
    assert read_heights("3,4/15,5")[0] == Piece(raw_mm=3.4, baked_mm=15.5)
    set_decimal(".")
    set_measures("oz", "in", "°F")
    assert read_heights("0.125/0.5")[0].raw_mm == pytest.approx(3.175)
    assert read_figure("392", "bake_c", "°C") == pytest.approx(200)
    assert read_figure("200 C", "bake_c", "°C") == pytest.approx(200)
    assert read_figure("1 oz", "raw_g", "g") == pytest.approx(28.35, abs=0.01)
    assert figure_text(25.4, "mm") == "1"


@pytest.mark.parametrize(
    ("text", "still", "is_open"),
    [  # a fan oven is set 20 °C lower for the same bake, common practice
        ("200", 200, True), ("200 C", 200, True), ("200 fan", 220, False), ("fan 180", 200, False),
        ("200 no fan", 200, False), ("gas 6", 204.4, False), ("390 F fan", 218.9, False),
    ],
)  # fmt: skip
def test_an_oven_is_read_with_its_fan_or_asked(text, still, is_open):
    assert with_made_figure(Made(), "bake_c", text).bake_c == pytest.approx(still, abs=0.1)
    assert fan_is_open_in(text) is is_open
    assert with_fan_on(Made(bake_c=200.0)).bake_c == 220
    assert not fan_is_open_in("")


@pytest.mark.parametrize("name", LARGEST)
def test_every_figure_of_a_piece_is_read_as_it_is_shown(name):
    low, high, unit = LARGEST[name]
    value = 7.0 if low <= 7 <= high else high
    trial = with_piece_figure(PLAIN, 0, name, figure_text(value, unit))
    assert getattr(trial.pieces[0], name) == value
    assert with_piece_figure(trial, 0, name, "").pieces == ()


@pytest.mark.parametrize("name", [n for n, a in MADE_WORDS.items() if a.high])
def test_every_figure_of_the_making_is_read_as_it_is_shown(name):
    about = MADE_WORDS[name]
    value = 12.0 if about.low <= 12 <= about.high else about.low + 1
    made = with_made_figure(Made(), name, figure_text(value, about.unit))
    assert getattr(made, name) == value
    assert with_made_figure(made, name, " – ") == Made()


def test_a_figure_of_a_later_piece_leaves_the_ones_between_unknown():
    trial = with_piece_figure(PLAIN, 3, "raw_mm", "3.4")
    assert [p.raw_mm for p in trial.pieces] == [None, None, None, 3.4]


def test_words_are_kept_short():
    assert len(with_made_figure(Made(), "baker", "x" * 500).baker) == 80


@pytest.mark.parametrize(("name", "text"), [("leaves", "4.5"), ("leaves", "many")])
def test_whole_numbers_are_whole(name, text):
    with pytest.raises(AplombError):
        with_piece_figure(PLAIN, 0, name, text)


@pytest.mark.parametrize("text", ["", "0/25", "5/25 8/24", "0/25 8/26", "0/25 8/x", "0/25 8"])
def test_weighings_that_cannot_be_are_refused(text):
    with pytest.raises(AplombError):
        read_weighings(text)


@given(st.text(max_size=30))
def test_no_text_raises_anything_but_our_own(text):
    for act in (
        read_heights,
        read_weighings,
        lambda t: read_figure(t, "x", ""),
        lambda t: read_figure(t, "x", "mm"),
        lambda t: read_figure(t, "x", "°C"),
    ):
        with suppress(AplombError):
            act(text)
