"""A scale: listened to, and told to tare."""

import threading
import time
from collections.abc import Callable

from aplomb.devices.listening import Listener
from aplomb.devices.protocol import TARE, Done, Fault, Identity, Message, read_line

CONFIRMS_S = 3.0
"""So long a scale has to say that it is tared [s]."""


class Scale(Listener):
    """Listens to a scale.

    Parameters
    ----------
    port : str
        A serial port as ``/dev/ttyUSB0``, or an address as ``socket://host:port``.
    heard : callable
        Takes every `Message`; called in the thread that listens.

    Attributes
    ----------
    identity : Identity or None
        What the scale said of itself.
    """

    KIND = "scale"

    def __init__(self, port: str, heard: Callable[[Message], None]) -> None:
        super().__init__(port, heard)
        self.identity: Identity | None = None
        self._wants_tare = threading.Event()
        self._tared_at: float | None = None

    def tare(self) -> None:
        """Ask the scale to take what lies on it as nothing."""
        self._wants_tare.set()

    @property
    def named(self) -> bool:
        """True once it has said who it is."""
        return self.identity is not None

    def wants(self) -> bytes:
        """Say `TARE` once it is asked for; tell when it is not confirmed."""
        if self._tared_at is not None and time.monotonic() - self._tared_at > CONFIRMS_S:
            self._tared_at = None
            self._heard(Fault("the scale did not confirm the tare; check its display"))
        if not self._wants_tare.is_set():
            return b""
        self._wants_tare.clear()
        self._tared_at = time.monotonic()
        return TARE

    def read(self, line: bytes) -> Message | None:
        """Read a line of the scale."""
        message = read_line(line)
        if isinstance(message, Identity):
            self.identity = message
        if isinstance(message, Done):
            self._tared_at = None
        return message
