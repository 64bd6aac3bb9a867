"""Drawings of trials and bakes: where things stand, and that any data can be painted."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter
from tests.work.trials.test_chart import some

from aplomb.core.base.ovens import Oven
from aplomb.core.folds.stack import stack_of
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.make.queue import Tray, loads_of_trays
from aplomb.core.oven.bake_line import read_programme
from aplomb.core.oven.programme import Programme
from aplomb.desk.drawings.bake_curve import paint_bake_curve, paint_loads
from aplomb.desk.drawings.folded import DOUGH, FAT
from aplomb.desk.drawings.strip import strip_image
from aplomb.desk.drawings.trial_chart import ChartFrame, log_ticks, paint_trial_chart, ticks
from aplomb.desk.kit.theme import Theme
from aplomb.work.trials.chart import chart_of

ROOM = QRectF(0, 0, 500, 300)


def painted(act):
    image = QImage(500, 300, QImage.Format.Format_RGB32)
    image.fill(0xFFFFFFFF)
    painter = QPainter(image)
    act(painter)
    painter.end()
    return {image.pixel(x, y) for x in range(0, 500, 7) for y in range(0, 300, 5)}


@given(st.floats(-1e6, 1e6), st.floats(1e-3, 1e6))
def test_ticks_are_round_and_within(low, wide):
    found = ticks(low, low + wide)
    assert 1 <= len(found) <= 9
    assert all(low - 1e-6 * wide <= v <= low + wide * (1 + 1e-6) for v in found)
    assert found == sorted(found)


@given(st.floats(0.01, 100), st.floats(1.5, 1e4))
def test_ticks_of_a_logarithm_are_few_and_within(low, times):
    found = log_ticks(low, low * times)
    assert all(low <= v <= low * times for v in found)
    assert len(found) <= 24


def test_more_stands_higher_and_further_right(qapp):
    chart = chart_of(some(12), "s", "lift", "fat_leaf_um")
    frame = ChartFrame(chart, ROOM, Theme())
    assert frame.y(4.5) < frame.y(4.0)
    assert frame.x(12.0) > frame.x(6.0)
    assert frame.x(10) - frame.x(5) == pytest.approx(frame.x(14) - frame.x(7))  # a logarithm
    places = frame.places()
    assert set(places) == {p.key for p in chart.points}
    assert all(ROOM.contains(at) for at in places.values())


@pytest.mark.parametrize("n", [0, 1, 3, 30])
@pytest.mark.parametrize("name", ["light", "dark"])
def test_any_number_of_trials_is_painted(qapp, n, name):
    chart = chart_of(some(n), "s", "lift", "fat_leaf_um")
    colours = painted(lambda p: paint_trial_chart(p, ROOM, chart, Theme(name), "t0"))
    assert len(colours) > 2


LINES = [
    "200 C 25 min",
    "220 C 12 min until risen: turn the tray; 190 C 13 min; 50 C 600 min until dry",
]


@pytest.mark.parametrize("line", LINES)
def test_any_programme_is_painted(qapp, line):
    made = read_programme(line)
    assert len(painted(lambda p: paint_bake_curve(p, ROOM, made, Theme()))) > 3
    assert len(painted(lambda p: paint_bake_curve(p, ROOM, Programme(), Theme()))) == 1


@pytest.mark.parametrize("trays", [0, 1, 40])
def test_any_loads_are_painted(qapp, trays):
    ovens = (Oven("A long name of an oven that goes on and on"), Oven("b", trays=1))
    loads = loads_of_trays([Tray("x", trays, minutes=20.0)], ovens)
    colours = painted(lambda p: paint_loads(p, ROOM, loads, ovens, Theme()))
    assert (len(colours) > 3) == bool(trays)


def test_the_strip_has_the_fat_where_it_lies(qapp):
    """Halves without a fold: dough, fat, dough; a row each way of the borders."""
    stack = stack_of(parse_plan("halves"), 0.4)
    strip = strip_image(stack, 5, 100)
    assert strip.pixelColor(2, 5) == DOUGH
    assert strip.pixelColor(2, 50) == FAT
    assert strip.pixelColor(2, 95) == DOUGH
    fat = sum(strip.pixelColor(0, y) == FAT for y in range(100))
    assert fat == pytest.approx(40, abs=2)


def test_leaves_finer_than_a_row_are_mixed(qapp):
    strip = strip_image(stack_of(parse_plan("envelope 3 3 3 3 3 3"), 0.5), 3, 40)
    inks = {strip.pixelColor(0, y).name() for y in range(40)}
    assert DOUGH.name() not in inks
    assert FAT.name() not in inks
