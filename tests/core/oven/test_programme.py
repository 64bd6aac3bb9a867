"""Programmes: lines read and written, what is refused, and what is usual for what."""

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.core.base.errors import FormulaError, Problems, TextError
from aplomb.core.base.house import House, check_house
from aplomb.core.base.ovens import Oven
from aplomb.core.base.span import Span
from aplomb.core.oven.bake_line import read_programme
from aplomb.core.oven.dose import Bake, trade
from aplomb.core.oven.programme import (
    USUAL,
    BakeStep,
    Programme,
    check_programme,
    programme_line,
    usual_for,
)
from tables import wrong_rows

BAKED = Path(__file__).with_name("baked.txt")
"""Bake lines with the answers beside: written before the reader was run on them."""
MEANT = re.compile(
    r"(\d+)(?:-(\d+))?([CF])(f?) ([\d.]+)(?:-([\d.]+))?(?: until (.*?))?(?: then (.*?))?"
)


def _answers() -> list[tuple[str, str]]:
    rows = BAKED.read_text(encoding="utf-8").splitlines()
    found = [row.rsplit(" | ", 1) for row in rows if row and not row.startswith("#")]
    return [(line, answer) for line, answer in found]


def test_bake_lines_are_read_as_they_are_meant():
    assert wrong_rows(_answers(), bake_line_is_read) == []


def bake_line_is_read(line, meant):
    """°C from °F by (F - 32) / 1.8; a fan oven is set 20 K lower (common practice)."""
    if meant == "?":
        with pytest.raises(TextError):
            read_programme(line)
        return
    found = read_programme(line).steps
    wanted = [MEANT.fullmatch(each) for each in meant.split("; ")]
    assert len(found) == len(wanted)
    for step, each in zip(found, wanted, strict=True):
        assert each is not None
        ends = [float(each[1]), float(each[2] or each[1])]
        ends = [(t - 32) / 1.8 if each[3] == "F" else t for t in ends]
        assert step.conventional_c == pytest.approx(sum(ends) / 2 + (20 if each[4] else 0))
        low, high = float(each[5]), float(each[6] or each[5])
        assert step.minutes == (low + high) / 2
        assert step.minutes_span == (Span(low, high) if high > low else None)
        assert (step.until, step.then) == (each[7] or "", each[8] or "")


def test_what_was_typed_is_what_is_shown_first():
    made = read_programme("375 F 25 min, then 425 F 10–15 for colour")
    assert programme_line(made, lambda c: f"{c:g} C") == (
        "375 F 25 min; 425 F 10–15 min until colour"
    )


SEEN = {
    "200 C 5 min; 150 C 22 min until crisp": [(200, 5, "crisp", 1), (150, 22, "crisp", 1)],
    "375 F 25 min then 425 F 10 min": [(190.56, 25), (218.33, 10)],
    "gas 7 for 12 min; gas 5 15 min": [(218.33, 12), (190.56, 15)],
    "200 C fan 10 min: turn the pieces over; 200 C fan 5 min": [(220, 10), (220, 5)],
    "180 °C, 30 minutes": [(180, 30)],
    "170 C 40 min until set, then take the ring off": [(170, 40)],
    "1 h is too long": None,
    "220 C 1 h": [(220, 60)],
    "200 C 12,5 min": [(200, 12.5)],
    "  200 C 25 min ;  ": [(200, 25)],
}


@pytest.mark.parametrize(("line", "steps"), [(k, v) for k, v in SEEN.items() if v])
def test_lines_as_they_are_written_are_read(line, steps):
    """Common practice in how it is written; °C by hand."""
    found = read_programme(line).steps
    assert [(s.conventional_c, s.minutes) for s in found] == [
        (pytest.approx(step[0], abs=0.01), step[1]) for step in steps
    ]


def test_signs_and_what_is_done_are_kept():
    found = read_programme("200 C fan 10 min until light: turn the tray; gas 6 5 min until brown")
    assert [(s.until, s.then) for s in found.steps] == [("light", "turn the tray"), ("brown", "")]


@pytest.mark.parametrize(
    ("line", "wrong"),
    [
        ("", ""), ("hot for a while", "hot for a while"), ("200 C", "200 C"),
        ("900 C 10 min", "900"), ("200 C 0 min", "0 min"), ("200 C 5 min; gas 14 5 min", "gas 14"),
        ("200 C 5 min; 200 Q 5 min", "Q"), ("200 C nan min", "nan min"),
        ("-200 C 5 min", "-200 C"), ("200 C 5 min whatever", "whatever"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_is_pointed_at(line, wrong):
    with pytest.raises(TextError) as told:
        read_programme(line)
    assert wrong in line[told.value.start : told.value.end] or not line


def test_a_line_of_no_end_is_refused():
    with pytest.raises(TextError, match="steps fit"):
        read_programme("200 C 5 min; " * 200)


STEPS = st.builds(
    BakeStep, st.integers(50, 330).map(float), st.integers(1, 300).map(float),
    st.sampled_from(["", "brown", "dry and pale gold", "set below"]),
    st.sampled_from(["", "turn the tray", "take the weights out"]),
)  # fmt: skip


@given(st.lists(STEPS, min_size=1, max_size=12))
def test_what_is_written_is_read_again(steps):
    made = Programme(tuple(steps))
    again = read_programme(programme_line(made, lambda c: f"{c:g} C"))
    assert [replace(step, typed="") for step in again.steps] == steps
    assert read_programme(programme_line(again, lambda c: f"{c:g} C")) == again
    fan = read_programme(programme_line(made, lambda c: f"{c - 20:g} C fan"))
    assert [s.conventional_c for s in fan.steps] == [s.conventional_c for s in steps]


def test_minutes_mean_and_the_step_that_goes_on():
    """Hand calculation: (12·220 + 18·190)/30 = 202."""
    made = read_programme("220 C 12 min; 190 C 18 min")
    assert (made.minutes, made.mean_c) == (30, pytest.approx(202.0))
    assert [made.at(m) for m in (0, 11.9, 12, 29, 99)] == [0, 0, 1, 1, 1]
    assert Programme().mean_c == 0


@pytest.mark.parametrize("usual", USUAL.values(), ids=USUAL)
def test_the_usual_ones_are_sound_and_lie_in_what_is_seen_in_use(usual):
    """Common practice: small pieces 190 to 220 °C for 15 to 30 min, lined and blind 35 to 50."""
    wrong = Problems()
    check_programme(Programme(usual.steps), "x", wrong)
    assert not wrong.told
    low, high = usual.range_min
    assert low <= Programme(usual.steps).minutes <= high


@pytest.mark.parametrize(
    ("piece", "words"),
    [
        (("case", 80, 3.4, False), "tall pieces"),
        (("rectangle", 120, 3.5, True), "filled pieces"),
        (("rectangle", 300, 4, True), "large pieces"),
        (("lining", 200, 3, False), "lined rings"),
        (("strip", 180, 2, False), "thin crisp pieces"),
        (("round", 60, 3, False), "small pieces"),
    ],
)
def test_what_is_usual_follows_the_piece(piece, words):
    shape, longest, sheet, filled = piece
    assert usual_for(shape, longest, sheet, filled=filled).words == words


def test_the_dial_takes_fan_and_correction_out():
    """200 °C without a fan, in a fan oven that is 8 K hotter than it says: 172."""
    assert Oven("hot", fan=True, dial_k=8).dial_c(200, 20) == 172
    assert Oven("deck", fan=False, dial_k=-5).dial_c(200, 20) == 205


def test_the_house_knows_its_ovens_or_says_what_is_usual():
    bare = House(ovens=2, oven_trays=5)
    assert [(o.name, o.trays) for o in bare.all_ovens] == [("Oven 1", 5), ("Oven 2", 5)]
    own = House(ovens=1, oven_list=(Oven("Deck", fan=False), Oven("Fan")))
    assert [o.name for o in own.all_ovens] == ["Deck", "Fan"]


@pytest.mark.parametrize(
    ("ovens", "words"),
    [
        ((Oven("a"), Oven("A ")), "two ovens have this name; change one."),
        ((Oven(""),), "1 to 40"),
        ((Oven("a", trays=0),), "trays"),
        ((Oven("a", dial_k=float("nan")),), "thermometer"),
        ((Oven("a", holding_kw=9),), "hot and empty"),
        ((Oven("a"),) * 21, "too many"),
    ],
)
def test_ovens_that_cannot_be_are_refused(ovens, words):
    with pytest.raises(FormulaError, match=words):
        check_house(House(oven_list=ovens))


def test_hotter_is_sooner_and_own_bakes_win():
    """Recalled: 20 K hotter takes about a fifth off; twelve own bakes say their own."""
    none = [trade((), at, 25.0) for at in (180, 200, 220)]
    assert [t.minutes for t in none] == sorted((t.minutes for t in none), reverse=True)
    assert none[2].minutes / none[1].minutes == pytest.approx(0.8, abs=0.03)
    own = [Bake(180 + 20 * (i % 3), 40.0 * 0.98 ** (20 * (i % 3))) for i in range(12)]
    told = trade(own, 210, 25.0)
    assert told.n == 12
    assert told.minutes == pytest.approx(40 * 0.98**30, rel=0.08)
    assert told.high - told.low < trade((), 210, 25.0).high - trade((), 210, 25.0).low


def test_the_trade_of_two_hundred_simulated_ovens_holds_its_interval():
    import numpy as np

    rng, held = np.random.default_rng(5), 0
    for _ in range(200):
        level, slope = np.log(rng.uniform(18, 34)), rng.normal(-0.011, 0.004)
        at = rng.uniform(180, 220, 9)
        took = np.exp(level + slope * (at - 200) + rng.normal(0, 0.12, 9))
        own = [Bake(float(c), float(m)) for c, m in zip(at[:8], took[:8], strict=True)]
        told = trade(own, float(at[8]), 25.0, 0.9)
        held += told.low <= took[8] <= told.high
    assert 0.84 <= held / 200 <= 0.985


@pytest.mark.parametrize(
    "act",
    [
        lambda: trade((), 5, 25),
        lambda: trade((), 200, 0),
        lambda: trade((Bake(200, -1),), 200, 25),
    ],
)
def test_bakes_that_cannot_be_are_refused(act):
    with pytest.raises(FormulaError):
        act()
