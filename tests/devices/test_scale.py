"""The scale's line protocol, its simulated stand-in on a terminal device, and what goes wrong."""

import re
import threading
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.devices.listening import Lost, ports, read_port
from aplomb.devices.protocol import (
    Done,
    Fault,
    Identity,
    ProtocolError,
    Weight,
    read_line,
    write_identity,
    write_weight,
)
from aplomb.devices.scale import Scale
from aplomb.devices.simulated import SimulatedScale


@pytest.mark.parametrize(
    ("line", "means"),
    [
        (b"weight 1250.5 g steady\n", Weight(1250.5, steady=True)),
        (b"weight -3 g moving\r\n", Weight(-3.0, steady=False)),
        (b"WEIGHT 1.2505 kg steady", Weight(1250.5, steady=True)),
        (b"scale bench 2 most 15000 g step 1 g", Identity("bench 2", 15000, 1)),
        (b"done tare", Done("tare")),
        (b"fault overload", Fault("overload")),
        (b"fault", Fault("unknown")),
    ],
)
def test_lines_as_the_protocol_page_has_them(line, means):
    assert read_line(line) == means


@pytest.mark.parametrize(
    "line",
    [
        b"weight", b"weight one g steady", b"weight 12 lb steady", b"weight 1e9 g steady",
        b"weight 999999999 g steady", b"weight 12 g", b"\xff\xfe\x00", b"x" * 500, b"", b"12 g",
        b"weight nan g steady",
    ],
)  # fmt: skip
def test_garbage_is_refused_and_shown(line):
    with pytest.raises(ProtocolError) as caught:
        read_line(line)
    assert "the scale sent" in str(caught.value)


@given(st.binary(max_size=300))
def test_no_bytes_whatever_break_the_reading(line):
    try:
        read_line(line)
    except ProtocolError as error:
        assert len(str(error)) < 300


@given(st.integers(-99_999, 999_999), st.booleans())
def test_a_weight_comes_back_as_it_was_written(tenths, steady):
    weight = Weight(tenths / 10, steady)
    assert read_line(write_weight(weight)) == weight


def test_an_identity_comes_back_as_it_was_written():
    who = Identity("counter", 6000, 0.5)
    assert read_line(write_identity(who)) == who


class Ear:
    """Keeps what is heard, and waits for something of it."""

    def __init__(self):
        self.heard = []
        self._came = threading.Condition()

    def __call__(self, message):
        with self._came:
            self.heard.append(message)
            self._came.notify_all()

    def wait_for(self, test, seconds=15.0):
        ends = time.monotonic() + seconds
        with self._came:
            while not any(test(each) for each in self.heard):
                left = ends - time.monotonic()
                assert left > 0, f"not heard; the last was {self.heard[-3:]}"
                self._came.wait(left)


@pytest.fixture
def bench():
    """A simulated scale that is listened to."""
    simulated, ear = SimulatedScale(), Ear()
    scale = Scale(simulated.plug_in(), ear)
    scale.start()
    yield simulated, scale, ear
    scale.stop()
    simulated.unplug()


def test_what_is_put_on_is_heard(bench):
    simulated, scale, ear = bench
    simulated.put_on(1250.4)
    ear.wait_for(lambda m: m == Weight(1250.0, steady=True))
    assert any(isinstance(m, Weight) and not m.steady for m in ear.heard)
    simulated.put_on(-250)
    ear.wait_for(lambda m: m == Weight(1000.0, steady=True))
    scale.tare()
    ear.wait_for(lambda m: m == Weight(0.0, steady=True) and len(ear.heard) > 4)
    ear.heard.clear()
    simulated.clear()
    ear.wait_for(lambda m: m == Weight(-1000.0, steady=True))
    assert scale.identity == Identity("simulated", 30_000, 1)


def test_garbage_comes_as_a_fault_and_the_scale_goes_on(bench):
    simulated, _, ear = bench
    simulated.babble(b"\x00\xffhello\n")
    ear.wait_for(lambda m: isinstance(m, Fault) and "hello" in m.words)
    simulated.put_on(50)
    ear.wait_for(lambda m: m == Weight(50.0, steady=True))


def test_more_than_it_takes_is_a_fault(bench):
    simulated, _, ear = bench
    simulated.put_on(40_000)
    ear.wait_for(lambda m: m == Fault("overload"))


def test_a_pulled_plug_is_told_and_a_new_one_found():
    simulated, ear = SimulatedScale(), Ear()
    port = simulated.plug_in()
    scale = Scale(port, ear)
    scale.start()
    try:
        ear.wait_for(lambda m: isinstance(m, Weight))
        simulated.unplug()
        ear.wait_for(lambda m: isinstance(m, Lost) and "scale" in m.words)
        scale.port = simulated.plug_in()
        ear.heard.clear()
        simulated.put_on(20)
        ear.wait_for(lambda m: m == Weight(20.0, steady=True))
    finally:
        scale.stop()
        simulated.unplug()


@pytest.mark.parametrize("port", ["/dev/no-such-scale", "no scheme://x", ""])
def test_a_port_that_is_not_there_is_told(port):
    ear = Ear()
    scale = Scale(port, ear)
    scale.start()
    try:
        ear.wait_for(lambda m: isinstance(m, Lost))
    finally:
        scale.stop()


def test_serial_ports_are_listed():
    assert all(len(each) == 2 for each in ports())


@pytest.mark.parametrize(
    ("typed", "port"),
    [
        ("/dev/ttyUSB0", "/dev/ttyUSB0"),
        ("  /dev/serial/by-id/scale-1 ", "/dev/serial/by-id/scale-1"),
        ("192.0.2.7:4001", "socket://192.0.2.7:4001"),
        ("socket://scale.local:04001", "socket://scale.local:4001"),
        ("tcp://bench_2:23/", "socket://bench_2:23"),
        ("[2001:db8::7]:4001", "socket://[2001:db8::7]:4001"),
    ],
)
def test_a_port_is_a_device_or_an_address(typed, port):
    assert read_port(typed) == port


@pytest.mark.parametrize(
    "typed",
    [
        "", "scale", "spy:///dev/ttyS0?file=/tmp/x", "hwgrep://[", "loop://", "alt:///dev/ttyS0",
        "rfc2217://host:1", "/etc/passwd", "/dev/../etc/passwd", "/dev/", "host:0", "host:99999",
        "host:", ":4001", "socket://a b:1", "/dev/tty\0x", "cp2110://x", "socket://h:1/logging=debug",
    ],
)  # fmt: skip
def test_nothing_else_that_a_serial_library_understands_is_opened(typed, tmp_path):
    with pytest.raises(AplombError, match="is not a scale’s port"):
        read_port(typed)
    heard = []
    scale = Scale(typed, heard.append)
    scale.start()
    scale.thread.join(10)
    assert not scale.thread.is_alive()
    assert isinstance(heard[0], Lost)


def test_the_tail_of_a_line_that_is_too_long_is_no_weight(monkeypatch):
    """1,000 signs and then “weight 5 g steady” are one broken line; the next line counts."""
    import serial

    sent = [b"x" * 300, b"y" * 300, b"weight 5 g steady\nweight 7 g steady\n"]

    class Line:
        in_waiting = 1

        def open(self):
            return None

        def __enter__(self):
            return self

        def __exit__(self, *_):
            return False

        def write(self, _data):
            return None

        def read(self, _many):
            if sent:
                return sent.pop(0)
            scale._stop.set()
            return b""

    heard = []
    monkeypatch.setattr(serial, "serial_for_url", lambda *_a, **_k: Line())
    scale = Scale("/dev/ttyS9", heard.append)
    scale._listen()
    assert [type(each) for each in heard] == [Fault, Weight]
    assert heard[1] == Weight(7.0, steady=True)


def test_a_listener_outlives_whatever_is_raised(monkeypatch):
    import serial

    def broken(*_a, **_k):
        raise re.error("unterminated character set")

    heard = []
    monkeypatch.setattr(serial, "serial_for_url", broken)
    scale = Scale("/dev/ttyS9", heard.append)
    scale.start()
    until = time.monotonic() + 10
    while not heard and time.monotonic() < until:
        time.sleep(0.01)
    assert isinstance(heard[0], Lost)
    assert scale.thread.is_alive()
    scale.stop()


def test_a_scale_that_does_not_answer_is_left_at_once(monkeypatch):
    """Its address is waited for beside the window; whoever stops does not wait for it."""
    entered, let_go = threading.Event(), threading.Event()

    def slow(*_a, **_k):
        entered.set()
        let_go.wait(30)
        raise OSError(110, "timed out")

    heard = []
    monkeypatch.setattr("aplomb.devices.listening.socket.create_connection", slow)
    scale = Scale("192.0.2.7:4001", heard.append)
    scale.start()
    assert entered.wait(10)
    scale.stop()
    assert scale.thread.is_alive(), "it was not waited for"
    let_go.set()
    scale.thread.join(10)
    assert heard == [], "and nobody hears of it any more"
