"""Thermometer probes and ovens, listened to."""

from collections.abc import Callable

from aplomb.devices.listening import Listener
from aplomb.devices.protocol import Message, Named, read_oven_line, read_probe_line


class Probe(Listener):
    """Listens to a probe.

    Parameters
    ----------
    heard : callable
        Takes every `Message`; called in the thread that listens.

    Attributes
    ----------
    name : str
        What it says that it is called; empty until it does.
    """

    KIND = "probe"

    def __init__(self, port: str, heard: Callable[[Message], None]) -> None:
        super().__init__(port, heard)
        self.name = ""

    @property
    def named(self) -> bool:
        """True once it has said who it is."""
        return bool(self.name)

    def parse(self, line: bytes) -> Message:
        """Read a line of this kind of device; raises ProtocolError."""
        return read_probe_line(line)

    def read(self, line: bytes) -> Message | None:
        """Read a line; its name is kept, not told."""
        message = self.parse(line)
        if isinstance(message, Named):
            self.name = message.name
            return None
        return message


class OvenListener(Probe):
    """Listens to an oven; it is read, never set: its own controls and guards count."""

    KIND = "oven"

    def parse(self, line: bytes) -> Message:
        """Read a line of an oven; raises ProtocolError."""
        return read_oven_line(line)
