"""Simulated devices: terminal devices that speak the protocol as real ones do."""

import math
import os
import random
import select
import threading
import time
import tty
from collections.abc import Callable

from aplomb.core.cold.course import Air, Body, Course, Slab
from aplomb.core.cold.material import Constant
from aplomb.devices.protocol import (
    Fault,
    Identity,
    Oven,
    Reading,
    Weight,
    write_identity,
    write_oven,
    write_reading,
    write_weight,
)

EVERY_S = 0.1
"""They speak ten times a second."""
SETTLES, CLOSER = 3, 0.8
"""So often a scale says `moving` after something was put on, and how much of the way it goes each
time [-]."""
LONG_MIN = 1440.0
"""So far a block is followed in one place [min]."""
LID_K = 9.0
"""What a probe says more where a lid was left open [K]."""


class SimulatedDevice:
    """A device that is found at a terminal.

    Attributes
    ----------
    port : str
        Where it is found, as a real one would be; empty while it is unplugged.
    every_s : float
        It speaks once in so long [s].
    """

    KIND = "device"
    every_s = EVERY_S

    def __init__(self) -> None:
        self.port = ""
        self._master = self._slave = -1
        self._stop = threading.Event()
        self.thread: threading.Thread | None = None
        self._garbage = b""
        self._silent = False

    def babble(self, garbage: bytes) -> None:
        """Say something else than its protocol once."""
        self._garbage = garbage

    def fall_silent(self, *, on: bool = True) -> None:
        """Say nothing any more, or speak again."""
        self._silent = on

    def plug_in(self) -> str:
        """Begin to speak; gives its port."""
        self._master, self._slave = os.openpty()
        tty.setraw(self._slave)
        self.port = os.ttyname(self._slave)
        self._stop.clear()
        self.thread = threading.Thread(
            target=self._speak, name=f"simulated {self.KIND}", daemon=True
        )
        self.thread.start()
        return self.port

    def unplug(self) -> None:
        """Fall silent and be gone, as when a plug is pulled."""
        self._stop.set()
        if self.thread is not None:
            self.thread.join(2)
            self.thread = None
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
                ready, _, _ = select.select([self._master], [], [], self.every_s)
                if ready:
                    heard += os.read(self._master, 256)
                    *lines, heard = heard.split(b"\n")
                    for line in lines:
                        self._obey(line.strip())
                    continue
                _, free, _ = select.select([], [self._master], [], 0)
                if free and not self._silent:
                    said, self._garbage = self._garbage or self._line(), b""
                    os.write(self._master, said)
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
        self._shown_g = 0.0
        self._moving = 0

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
            self._tare_g, self._shown_g = self._on_g, 0.0

    @property
    def shown_g(self) -> float:
        """What it shows [g]."""
        step = self.identity.step_g
        return round((self._on_g - self._tare_g) / step) * step

    def _line(self) -> bytes:
        with self._lock:
            if self._on_g > self.identity.most_g:
                return f"fault {Fault('overload').words}\n".encode()
            if not self._moving:
                return write_weight(Weight(self.shown_g, steady=True))
            self._moving -= 1
            step, wanted = self.identity.step_g, self._on_g - self._tare_g
            self._shown_g += (wanted - self._shown_g) * CLOSER
            return write_weight(Weight(round(self._shown_g / step) * step, steady=False))

    def _obey(self, line: bytes) -> None:
        if line == b"tare":
            self.tare()
            os.write(self._master, b"done tare\n")
        elif line == b"who":
            os.write(self._master, write_identity(self.identity))
        else:
            os.write(self._master, b"fault not understood\n")


class CoolingBlock:
    """A block of paste with a probe in its middle, as the heat model has it.

    Parameters
    ----------
    start_c : float
        Throughout [°C].
    clock : callable
        Gives the seconds that count for it [s].
    lag_s : float
        The probe follows its surroundings with such a lag [s].
    noise_k : float
        Spread of a reading [K].

    Notes
    -----
    In a new place it begins at its mean temperature throughout: where the block is turned over and
    rolled between two places, its inside evens out.
    """

    def __init__(
        self,
        body: Body,
        start_c: float,
        clock: Callable[[], float],
        lag_s: float = 8.0,
        noise_k: float = 0.03,
        seed: int = 1,
    ) -> None:
        self._body, self._clock = body, clock
        self._lag_s, self._noise_k = lag_s, noise_k
        self._random = random.Random(seed)
        self._lock = threading.Lock()
        self._course: Course | None = None
        self._moves: list[tuple[float, Air, Air | Slab]] = []
        self._since = clock()
        self._rests_c = self._felt_c = start_c
        self._felt_at = self._since
        self._air_c = start_c
        self.pulled = False
        self.lid_open = False

    def put_into(self, above: Air, below: Air | Slab) -> None:
        """Put it into a place; it is worked out when it is next asked how warm it is."""
        with self._lock:
            self._moves.append((self._clock(), above, below))

    def _move(self) -> None:
        from aplomb.core.cold.conduction import course
        from aplomb.core.cold.course import Phase

        for at, above, below in self._moves:
            if self._course is not None:
                self._rests_c = self._course.at(self._minutes(at))[1]
            self._course = course(self._body, self._rests_c, [Phase(LONG_MIN, above, below, above)])
            self._since, self._air_c = at, above.temp_c
        self._moves.clear()

    def _minutes(self, at: float) -> float:
        return min(LONG_MIN, max(0.0, (at - self._since) / 60))

    def reading_c(self) -> float:
        """What the probe says now [°C]."""
        with self._lock:
            self._move()
            now = self._clock()
            inside = self._course.at(self._minutes(now))[0] if self._course else self._rests_c
            true = self._air_c if self.pulled else inside
            true += LID_K if self.lid_open else 0.0
            share = 1 - math.exp(-max(0.0, now - self._felt_at) / self._lag_s)
            self._felt_c += (true - self._felt_c) * share
            self._felt_at = now
            return self._felt_c + self._random.gauss(0.0, self._noise_k)


class SimulatedProbe(SimulatedDevice):
    """A probe in a block that follows the heat model, on a clock that may run quickly.

    Parameters
    ----------
    start_c, air_c : float
        Of the block when it is put in, and of the place [°C].
    quick : float
        So many of its minutes pass in one of ours [-], where it has a clock of its own.
    block : CoolingBlock or None
        The block it stands in; None: a block of dough of 30 mm, in the air of a fridge.
    """

    KIND = "probe"

    def __init__(
        self,
        start_c: float = 20.0,
        air_c: float = 4.0,
        quick: float = 300.0,
        block: CoolingBlock | None = None,
        name: str = "simulated",
    ) -> None:
        super().__init__()
        self.name = name
        self._said = 0
        self._own_clock = block is None
        self._each_min = quick * self.every_s / 60
        self.block = block or CoolingBlock(
            Body(Constant(1150.0, 0.4, 2.6), 30.0), start_c, lambda: 60 * self._minutes, 8.0, 0.0
        )
        if block is None:
            self.block.put_into(Air(air_c, 7.0), Air(air_c, 6.0))

    @property
    def _minutes(self) -> float:
        return self._said * self._each_min

    def _line(self) -> bytes:
        temp = self.block.reading_c()
        minutes = self._minutes if self._own_clock else None
        self._said += 1
        return write_reading(Reading(temp, minutes))

    def _obey(self, line: bytes) -> None:
        said = f"probe {self.name}\n" if line == b"who" else "fault not understood\n"
        os.write(self._master, said.encode())


class SimulatedOven(SimulatedDevice):
    """An oven that heats at full power up to what it is set to, and loses heat to the room.

    Parameters
    ----------
    clock : callable
        Gives the seconds that count for it [s].

    Notes
    -----
    dT/dt = heating on or off − (T − room) / lag, and a third of the difference at once when the
    door is opened: a stand-in for a line, not for the sums of an oven.
    """

    KIND = "oven"
    HEATS_K_S, LOSES_S = 0.45, 1500.0

    def __init__(self, clock: Callable[[], float] = time.monotonic, room_c: float = 22.0) -> None:
        super().__init__()
        self._clock, self._room_c = clock, room_c
        self._temp_c, self._at = room_c, clock()
        self._set_c: float | None = None
        self._door = False

    def turn(self, set_c: float | None) -> None:
        """Turn its dial [°C]; None turns it off."""
        self._go_on()
        self._set_c = set_c

    def door(self, *, is_open: bool) -> None:
        """Open or close its door."""
        self._go_on()
        if is_open and not self._door:
            self._temp_c -= (self._temp_c - self._room_c) / 3
        self._door = is_open

    def _go_on(self) -> None:
        now = self._clock()
        left = min(7200.0, max(0.0, now - self._at))
        self._at = now
        while left > 0:
            step = min(5.0, left)
            heats = self._set_c is not None and self._temp_c < self._set_c and not self._door
            loses = (self._temp_c - self._room_c) / (self.LOSES_S / (4 if self._door else 1))
            self._temp_c += step * ((self.HEATS_K_S if heats else 0.0) - loses)
            left -= step

    def _line(self) -> bytes:
        self._go_on()
        return write_oven(Oven(self._temp_c, self._set_c, self._door))

    def _obey(self, line: bytes) -> None:
        said = b"oven simulated\n" if line == b"who" else b"fault not understood\n"
        os.write(self._master, said)
