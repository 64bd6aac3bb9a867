"""The probe's line protocol, its simulated stand-in, and a log that was read from it."""

import threading

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.devices.listening import Lost, read_port
from aplomb.devices.probe import Probe
from aplomb.devices.protocol import (
    Done,
    Fault,
    ProtocolError,
    Reading,
    read_probe_line,
    write_reading,
)
from aplomb.devices.simulated import SimulatedProbe


@pytest.mark.parametrize(
    ("line", "means"),
    [
        (b"temp 14.5 C\n", Reading(14.5)),
        (b"TEMP -18 c\r\n", Reading(-18.0)),
        (b"temp 14.5 C at 12.5 min", Reading(14.5, 12.5)),
        (b"temp  41  F at 0 min", Reading(5.0, 0.0)),
        (b"probe core 3", Done("who")),
        (b"fault no sensor", Fault("no sensor")),
        (b"fault", Fault("unknown")),
    ],
)
def test_lines_as_the_protocol_page_has_them(line, means):
    assert read_probe_line(line) == means


@pytest.mark.parametrize(
    "line",
    [
        b"temp", b"temp 14,5 C", b"temp 14.5", b"temp 14.5 K", b"temp nan C", b"temp 9999 C",
        b"temp -300 C", b"temp 14.5 C at noon", b"weight 12 g steady", b"\xff\xfe", b"x" * 500, b"",
    ],
)  # fmt: skip
def test_garbage_is_refused_and_shown(line):
    with pytest.raises(ProtocolError, match="the probe sent"):
        read_probe_line(line)


@given(st.binary(max_size=300))
def test_no_bytes_whatever_break_the_reading(line):
    try:
        read_probe_line(line)
    except ProtocolError as error:
        assert len(str(error)) < 300


@given(st.integers(-4000, 25_000), st.none() | st.integers(0, 600_000))
def test_a_reading_comes_back_as_it_was_written(hundredths, at):
    reading = Reading(hundredths / 100, None if at is None else at / 100)
    assert read_probe_line(write_reading(reading)) == reading


def test_the_simulated_probe_cools_as_it_says_it_does():
    """Newton's law of cooling: after one lag 1/e of the way is left."""
    heard, enough = [], threading.Event()

    def hear(message):
        heard.append(message)
        if len(heard) >= 12:
            enough.set()

    simulated = SimulatedProbe(start_c=20.0, air_c=4.0, lag_min=2.5, quick=300.0)
    probe = Probe(simulated.plug_in(), hear)
    probe.start()
    try:
        assert enough.wait(20), heard
    finally:
        probe.stop()
        simulated.unplug()
    minutes = np.array([each.minutes for each in heard])
    temps = np.array([each.temp_c for each in heard])
    assert np.allclose(np.diff(minutes), 0.5)
    assert temps == pytest.approx(4 + 16 * np.exp(-minutes / 2.5), abs=0.01)


def test_a_probe_that_is_not_there_is_called_a_probe():
    with pytest.raises(AplombError, match="is not a probe’s port"):
        read_port("loop://", "probe")
    heard, told = [], threading.Event()
    probe = Probe("/dev/no-such-probe", lambda m: (heard.append(m), told.set()))
    probe.start()
    try:
        assert told.wait(10)
    finally:
        probe.stop()
    assert isinstance(heard[0], Lost)
    assert "no probe at" in heard[0].words
