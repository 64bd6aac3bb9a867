"""A probe's log as people and loggers write it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.exchange.probe_log import read_probe_log

TEMPS = [19.8, 18.9, 17.6, 16.5]


@pytest.mark.parametrize(
    ("text", "decimal"),
    [
        ("0 19.8\n10 18.9\n20 17.6\n30 16.5", "."),
        ("minutes,temperature\n0,19.8\n10,18.9\n20,17.6\n30,16.5\n", "."),
        ("min;°C\n0;19,8\n10;18,9\n20;17,6\n30;16,5", ","),
        ("0\t19,8\n10\t18,9\n20\t17,6\n30\t16,5", ","),
        ("0:00 19.8 °C\n0:10 18.9 °C\n0:20 17.6 °C\n0:30 16.5 °C", "."),
        ("12:00:00,19.8\n12:10:00,18.9\n12:20:00,17.6\n12:30:00,16.5", "."),
        ("\n".join(f"2026-11-26T12:{m}0:00 {t}" for m, t in enumerate(TEMPS)), "."),
        ("0 67.64F\n10 66.02F\n20 63.68F\n30 61.7F", "."),
        ("time, deg F\n0, 67.64\n10, 66.02\n20, 63.68\n30, 61.7", "."),
        ("30 16.5\n0 19.8\n20 17.6\n10 18.9", "."),
    ],
)  # fmt: skip
def test_the_same_log_in_many_ways(text, decimal):
    log = read_probe_log(text, decimal)
    assert log.minutes.tolist() == pytest.approx([0, 10, 20, 30])
    assert log.temps_c.tolist() == pytest.approx(TEMPS, abs=0.01)


def test_a_house_in_fahrenheit_reads_bare_numbers_so():
    assert read_probe_log("0 50\n5 41", fahrenheit=True).temps_c.tolist() == pytest.approx([10, 5])


def test_what_is_odd_is_told():
    many = "\n".join(f"{m} {20 - m / 10}" for m in (0, 1, 2, 3, 4, 5, 60, 61))
    doubts = " ".join(read_probe_log(f"{many}\n62 99\noops 5\n62 98").doubts)
    for words in ("no readings for 55 min", "jumps", "line 10", "same time"):
        assert words in doubts


@pytest.mark.parametrize("text", ["", "\n\n", "hello", "5 4", "a,b\nc,d"])
def test_a_log_without_readings_says_what_is_wanted(text):
    with pytest.raises(AplombError, match="a time in minutes and a temperature"):
        read_probe_log(text)


@given(text=st.text(max_size=200))
def test_no_text_brings_it_down(text):
    try:
        log = read_probe_log(text)
    except AplombError:
        return
    assert np.all(np.diff(log.minutes) > 0)
