"""Elapsed minutes against the clock on the wall, also in the nights in which it is changed."""

from datetime import date
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.work.day.clock import DayClock

ROME = ZoneInfo("Europe/Rome")


def test_a_plain_day():
    clock = DayClock(date(2026, 11, 26), ROME)
    assert clock.elapsed(0, 300) == 300
    assert clock.elapsed(1, 300) == 1740
    assert f"{clock.moment(1740):%d %H:%M}" == "27 05:00"
    assert clock.hours(2, ((300, 840),)) == [(300, 840), (1740, 2280)]


def test_the_night_in_which_the_clock_goes_forward_is_an_hour_shorter():
    """In Rome the clock went from 2 to 3 on 29 March 2026 (directive 2000/84/EC)."""
    clock = DayClock(date(2026, 3, 28), ROME)
    assert clock.elapsed(1, 300) == 1740 - 60
    assert f"{clock.moment(1680):%H:%M}" == "05:00"
    assert f"{clock.moment(1440 + 119):%H:%M}" == "01:59"
    assert f"{clock.moment(1440 + 120):%H:%M}" == "03:00"


def test_the_night_in_which_it_goes_back_is_an_hour_longer():
    clock = DayClock(date(2026, 10, 24), ROME)
    assert clock.elapsed(1, 300) == 1740 + 60
    assert [f"{clock.moment(1440 + m):%H:%M}" for m in (150, 210)] == ["02:30", "02:30"]


@given(
    day=st.dates(date(2020, 1, 1), date(2035, 12, 31)),
    elapsed=st.integers(0, 3 * 1440),
)
def test_moments_and_elapsed_minutes_are_each_others_way_back(day, elapsed):
    clock = DayClock(day, ROME)
    assert clock.elapsed_now(clock.moment(elapsed)) == elapsed


@pytest.mark.parametrize("minutes", [0, 1, 719])
def test_this_machines_own_zone_is_taken_where_none_is_given(minutes):
    clock = DayClock(date(2026, 6, 1))
    assert clock.moment(minutes).utcoffset() is not None
    assert clock.elapsed(0, minutes) == minutes
