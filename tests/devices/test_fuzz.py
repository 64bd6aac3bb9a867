"""Streams of anything, cut at any byte: no listener dies, and what is sound in them is heard."""

import socket
import threading

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from aplomb.devices.listening import LONGEST_LINE
from aplomb.devices.probe import OvenListener, Probe
from aplomb.devices.protocol import Fault, Oven, Reading, Weight
from aplomb.devices.scale import Scale

KINDS = [
    (Scale, b"weight 12 g steady\n", Weight(12.0, steady=True)),
    (Probe, b"temp 4.5 C\n", Reading(4.5)),
    (OvenListener, b"oven 180.0 C set 200 C\n", Oven(180.0, 200.0)),
]
CHUNK = st.one_of(
    st.binary(max_size=80), st.just(b"\n"), st.just(b"temp 4.5 C"), st.just(b"weight 12 g ste"),
    st.just(b"ady\n"), st.just(b"x" * (LONGEST_LINE + 50)), st.just(b"oven 180.0 C set 200 C\n"),
    st.just(b"fault \xff\xff\n"), st.just(b"temp 400 C\n"), st.just(b"weight -5 g steady\n"),
)  # fmt: skip


def hears(kind, chunks):
    """Send chunks over a socket to a listener, then close; gives all it heard."""
    heard = []
    server = socket.create_server(("127.0.0.1", 0))
    device = kind(f"127.0.0.1:{server.getsockname()[1]}", heard.append)
    ended = threading.Event()

    def send():
        line, _ = server.accept()
        with line:
            for chunk in chunks:
                line.sendall(chunk)
            line.shutdown(socket.SHUT_WR)
            while line.recv(100):  # what is not read when it is closed would tear the line
                pass
        ended.set()

    sender = threading.Thread(target=send, daemon=True)
    sender.start()
    device.start()
    try:
        assert ended.wait(10)
        for _ in range(200):
            if any(isinstance(m, Fault) and "does not answer" in m.words for m in heard):
                break
            threading.Event().wait(0.01)
    finally:
        device._stop.set()
        device.thread.join(10)
        server.close()
    assert not device.thread.is_alive()
    return heard


@settings(max_examples=8, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.lists(CHUNK, max_size=20))
@pytest.mark.parametrize(("kind", "sound", "means"), KINDS)
def test_a_stream_of_anything_is_lived_through(kind, sound, means, chunks):
    heard = hears(kind, [*chunks, b"\n", sound, sound])
    assert means in heard


@pytest.mark.parametrize(("kind", "sound", "means"), KINDS)
def test_a_flood_is_read_to_its_end(kind, sound, means):
    heard = hears(kind, [sound * 3000])
    assert heard.count(means) == 3000


@pytest.mark.parametrize("cut", range(0, 20, 3))
def test_a_line_cut_off_at_any_byte_is_never_taken_for_a_whole_one(cut):
    whole = b"temp 14.55 C\n"
    heard = hears(Probe, [whole, whole[: cut % len(whole)]])
    assert [m for m in heard if isinstance(m, Reading)] == [Reading(14.55)]
