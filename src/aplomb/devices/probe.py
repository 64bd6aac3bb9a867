"""A thermometer probe, listened to."""

from aplomb.devices.listening import Listener
from aplomb.devices.protocol import Done, Message, read_probe_line


class Probe(Listener):
    """Listens to a probe."""

    KIND = "probe"

    def read(self, line: bytes) -> Message | None:
        """Read a line of the probe; its name is not told."""
        message = read_probe_line(line)
        return None if isinstance(message, Done) else message
