"""Simulated devices: terminal devices that speak the protocol as real ones do."""

import math
import os
import select
import threading
import tty

from aplomb.devices.protocol import (
    Fault,
    Identity,
    Reading,
    Weight,
    write_identity,
    write_reading,
    write_weight,
)

EVERY_S = 0.1
"""They speak ten times a second."""
SETTLES = 3
"""So often it says `moving` after something was put on [-]."""


class SimulatedDevice:
    """A device that is found at a terminal.

    Attributes
    ----------
    port : str
        Where it is found, as a real one would be; empty while it is unplugged.
    """

    KIND = "device"

    def __init__(self) -> None:
        self.port = ""
        self._master = self._slave = -1
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None

    def plug_in(self) -> str:
        """Begin to speak; gives its port."""
        self._master, self._slave = os.openpty()
        tty.setraw(self._slave)
        self.port = os.ttyname(self._slave)
        self._stop.clear()
        self._thread = threading.Thread(
            target=self._speak, name=f"simulated {self.KIND}", daemon=True
        )
        self._thread.start()
        return self.port

    def unplug(self) -> None:
        """Fall silent and be gone, as when a plug is pulled."""
        self._stop.set()
        if self._thread is not None:
            self._thread.join(2)
            self._thread = None
        for handle in (self._master, self._slave):
            if handle >= 0:
                os.close(handle)
        self._master = self._slave = -1
        self.port = ""

    def _line(self) -> bytes:
        raise NotImplementedError

    def _obey(self, line: bytes) -> None:
        raise NotImplementedError

    def _speak(self) -> None:
        heard = b""
        while not self._stop.is_set():
            try:
                ready, _, _ = select.select([self._master], [], [], EVERY_S)
                if ready:
                    heard += os.read(self._master, 256)
                    *lines, heard = heard.split(b"\n")
                    for line in lines:
                        self._obey(line.strip())
                    continue
                _, free, _ = select.select([], [self._master], [], 0)
                if free:
                    os.write(self._master, self._line())
            except OSError:
                return


class SimulatedScale(SimulatedDevice):
    """A scale to put weight on by hand.

    Parameters
    ----------
    most_g, step_g : float
        Its most, and its division [g].
    """

    KIND = "scale"

    def __init__(self, most_g: float = 30_000.0, step_g: float = 1.0) -> None:
        super().__init__()
        self.identity = Identity("simulated", most_g, step_g)
        self._lock = threading.Lock()
        self._on_g, self._tare_g = 0.0, 0.0
        self._moving = 0
        self._garbage = b""

    def put_on(self, grams: float) -> None:
        """Put so much on it; a negative mass is taken off [g]."""
        with self._lock:
            self._on_g = max(0.0, self._on_g + grams)
            self._moving = SETTLES

    def clear(self) -> None:
        """Take everything off."""
        with self._lock:
            self._on_g = 0.0
            self._moving = SETTLES

    def tare(self) -> None:
        """Take what lies on it as nothing."""
        with self._lock:
            self._tare_g = self._on_g

    def babble(self, garbage: bytes) -> None:
        """Say something else than its protocol once."""
        with self._lock:
            self._garbage = garbage

    @property
    def shown_g(self) -> float:
        """What it shows [g]."""
        step = self.identity.step_g
        return round((self._on_g - self._tare_g) / step) * step

    def _line(self) -> bytes:
        with self._lock:
            if self._garbage:
                said, self._garbage = self._garbage, b""
                return said
            if self._on_g > self.identity.most_g:
                return f"fault {Fault('overload').words}\n".encode()
            steady = self._moving == 0
            self._moving = max(0, self._moving - 1)
            return write_weight(Weight(self.shown_g, steady))

    def _obey(self, line: bytes) -> None:
        if line == b"tare":
            self.tare()
            os.write(self._master, b"done tare\n")
        elif line == b"who":
            os.write(self._master, write_identity(self.identity))
        else:
            os.write(self._master, b"fault not understood\n")


class SimulatedProbe(SimulatedDevice):
    """A probe in a block that cools, on a clock that runs quickly.

    Parameters
    ----------
    start_c, air_c : float
        Of the block when it is put in, and of the place [°C].
    lag_min : float
        After so long three fifths of the way are gone [min].
    quick : float
        So many of its minutes pass in one of ours [-].

    Notes
    -----
    ``T = air + (start − air) exp(−t / lag)``, a body without depth: it stands in for a probe, not
    for the sums of `aplomb.core.cold`.
    """

    KIND = "probe"

    def __init__(
        self, start_c: float = 20.0, air_c: float = 4.0, lag_min: float = 75.0, quick: float = 300.0
    ) -> None:
        super().__init__()
        self._start_c, self._air_c, self._lag_min = start_c, air_c, lag_min
        self._each_min = quick * EVERY_S / 60
        self._said = 0

    def _line(self) -> bytes:
        minutes = self._said * self._each_min
        self._said += 1
        warmer = (self._start_c - self._air_c) * math.exp(-minutes / self._lag_min)
        return write_reading(Reading(self._air_c + warmer, minutes))

    def _obey(self, line: bytes) -> None:
        said = b"probe simulated\n" if line == b"who" else b"fault not understood\n"
        os.write(self._master, said)
