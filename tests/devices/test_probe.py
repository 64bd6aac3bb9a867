"""The probe's line protocol, its simulated stand-in, and a log that was read from it."""

import threading
import time

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.core.cold.conduction import course
from aplomb.core.cold.course import Air, Body, Phase
from aplomb.core.cold.material import Constant
from aplomb.devices.listening import Lost, read_port
from aplomb.devices.probe import OvenListener, Probe
from aplomb.devices.protocol import (
    Fault,
    Named,
    Oven,
    ProtocolError,
    Reading,
    read_oven_line,
    read_probe_line,
    write_oven,
    write_reading,
)
from aplomb.devices.simulated import CoolingBlock, SimulatedOven, SimulatedProbe


@pytest.mark.parametrize(
    ("line", "means"),
    [
        (b"temp 14.5 C\n", Reading(14.5)),
        (b"TEMP -18 c\r\n", Reading(-18.0)),
        (b"temp 14.5 C at 12.5 min", Reading(14.5, 12.5)),
        (b"temp  41  F at 0 min", Reading(5.0, 0.0)),
        (b"probe core 3", Named("probe", "core 3")),
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


def test_the_simulated_probe_cools_as_the_heat_model_says():
    """A slab of 30 mm in moving air; the probe lags some seconds behind its middle."""
    heard, enough = [], threading.Event()

    def hear(message):
        heard.append(message)
        if len(heard) >= 12:
            enough.set()

    simulated = SimulatedProbe(start_c=20.0, air_c=4.0, quick=300.0)
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
    body = Body(Constant(1150.0, 0.4, 2.6), 30.0)
    phase = Phase(60.0, Air(4.0, 7.0), Air(4.0, 6.0))
    found = course(body, 20.0, [phase])
    middle = np.interp(minutes, found.minutes, found.core)
    assert temps == pytest.approx(middle, abs=0.25)
    assert temps[-1] < temps[0]


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


@pytest.mark.parametrize(
    ("line", "means"),
    [
        (b"oven 182.5 C set 200 C", Oven(182.5, 200.0)),
        (b"OVEN 22.0 c off\r\n", Oven(22.0, None)),
        (b"oven 347 F set 392 F door open at 12.5 min", Oven(175.0, 200.0, door_open=True)),
        (b"oven deck 2", Named("oven", "deck 2")),
        (b"fault overheat", Fault("overheat")),
    ],
)
def test_an_oven_says_what_it_shows(line, means):
    assert read_oven_line(line) == means


@pytest.mark.parametrize("line", [b"oven 9999 C off", b"oven 180", b"oven", b"temp 4 C", b"\xff"])
def test_what_no_oven_says_is_refused(line):
    with pytest.raises(ProtocolError, match="the oven sent"):
        read_oven_line(line)


@given(st.floats(-20, 300), st.none() | st.integers(30, 300), st.booleans())
def test_what_an_oven_shows_comes_back(temp, set_c, door):
    found = read_oven_line(write_oven(Oven(temp, set_c, door)))
    assert found.temp_c == pytest.approx(temp, abs=0.051)
    assert (found.set_c, found.door_open) == (set_c, door)


def test_the_simulated_oven_heats_up_holds_and_loses_at_an_open_door():
    now = [0.0]
    oven = SimulatedOven(lambda: now[0])

    def shows(after_s):
        now[0] += after_s
        return read_oven_line(oven._line())

    assert shows(60) == Oven(22.0, None)
    oven.turn(200.0)
    assert 60 < shows(300).temp_c < 200
    assert shows(1800).temp_c == pytest.approx(200, abs=3)
    oven.door(is_open=True)
    opened = shows(0)
    assert opened.door_open
    assert opened.temp_c == pytest.approx(200 - 178 / 3, abs=3)
    assert shows(60).temp_c < opened.temp_c
    oven.turn(None)
    oven.door(is_open=False)
    assert shows(4 * 3600).temp_c == pytest.approx(22, abs=5)


def test_who_it_is_is_asked_until_it_is_answered(monkeypatch):
    """A device that boots late misses the first question."""
    monkeypatch.setattr("aplomb.devices.listening.WHO_AGAIN_S", 0.05)
    asked = []
    simulated = SimulatedOven()
    answer = simulated._obey

    def late(line):
        asked.append(line)
        if len(asked) > 2:
            answer(line)

    monkeypatch.setattr(simulated, "_obey", late)
    oven = OvenListener(simulated.plug_in(), lambda _m: None)
    oven.start()
    try:
        wait_until(lambda: oven.name)
    finally:
        oven.stop()
        simulated.unplug()
    assert oven.name == "simulated"
    assert len(asked) >= 3


def wait_until(what, most_s=10.0):
    end = time.monotonic() + most_s
    while not what():
        assert time.monotonic() < end
        time.sleep(0.01)


def test_a_port_is_used_by_one_at_a_time():
    simulated = SimulatedProbe()
    port = simulated.plug_in()
    said = []
    first = Probe(port, lambda _m: None)
    first.start()
    second = Probe(port, said.append)
    try:
        wait_until(lambda: first.name)
        second.start()
        wait_until(lambda: said)
    finally:
        first.stop()
        second.stop()
        simulated.unplug()
    assert isinstance(said[0], Lost)
    assert "in use by another" in said[0].words


@pytest.mark.parametrize(
    ("typed", "port"),
    [
        ("/dev/ttyUSB0 at 19200", "/dev/ttyUSB0@19200"),
        ("/dev/ttyUSB0@115200", "/dev/ttyUSB0@115200"),
        ("/dev/ttyUSB0 @ 9600 baud", "/dev/ttyUSB0"),
    ],
)
def test_a_speed_can_be_said_with_the_port(typed, port):
    assert read_port(typed, "probe") == port
    assert read_port(port, "probe") == port


@pytest.mark.parametrize("typed", ["/dev/ttyUSB0 at 12345", "/dev/ttyUSB0@1"])
def test_a_speed_that_no_line_has_is_refused(typed):
    with pytest.raises(AplombError, match="use one of|probe’s port"):
        read_port(typed, "probe")


def block(now, **more):
    return CoolingBlock(Body(Constant(1150.0, 0.4, 2.6), 30.0), 20.0, lambda: now[0], **more)


def test_a_simulated_block_keeps_its_heat_until_it_is_put_somewhere_and_evens_out_between():
    now = [0.0]
    made = block(now, noise_k=0.0)
    now[0] = 3600
    assert made.reading_c() == pytest.approx(20.0)
    made.put_into(Air(4.0, 7.0), Air(4.0, 6.0))
    now[0] += 3600
    cold = made.reading_c()
    assert 5 < cold < 18
    made.put_into(Air(22.0, 8.0), Air(22.0, 8.0))
    now[0] += 1
    assert made.reading_c() == pytest.approx(cold, abs=1.0)
    now[0] += 3600
    assert made.reading_c() > cold


def test_a_simulated_block_can_be_disturbed():
    now = [0.0]
    made = block(now, noise_k=0.0, lag_s=1.0)
    made.put_into(Air(4.0, 7.0), Air(4.0, 6.0))
    now[0] = 60
    true = made.reading_c()
    made.lid_open = True
    now[0] = 90
    assert made.reading_c() > true + 5
    made.lid_open, made.pulled = False, True
    now[0] = 120
    assert made.reading_c() == pytest.approx(4.0, abs=0.5)


def test_noise_is_seeded_and_small():
    now = [0.0]
    some = [block(now, seed=3).reading_c() for _ in range(2)]
    assert some[0] == some[1] != 20.0
    readings = np.array([block(now, seed=n).reading_c() for n in range(300)])
    assert readings.std() == pytest.approx(0.03, rel=0.3)
