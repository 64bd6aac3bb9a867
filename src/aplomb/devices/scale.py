"""A scale: listened to, and told to tare."""

import threading
from collections.abc import Callable

from aplomb.devices.listening import Listener
from aplomb.devices.protocol import TARE, Done, Identity, Message, read_line


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

    def tare(self) -> None:
        """Ask the scale to take what lies on it as nothing."""
        self._wants_tare.set()

    def wants(self) -> bytes:
        """Say `TARE` once it is asked for."""
        if not self._wants_tare.is_set():
            return b""
        self._wants_tare.clear()
        return TARE

    def read(self, line: bytes) -> Message | None:
        """Read a line of the scale; what it only carried out is not told."""
        message = read_line(line)
        if isinstance(message, Identity):
            self.identity = message
        return None if isinstance(message, Done) else message
