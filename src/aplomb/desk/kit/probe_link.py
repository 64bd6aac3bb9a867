"""Probes and ovens as the window sees them."""

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from aplomb.desk.kit.device_link import DeviceLink
from aplomb.devices.probe import OvenListener, Probe
from aplomb.devices.protocol import Oven, Reading
from aplomb.devices.simulated import SimulatedOven, SimulatedProbe


class ProbeLink(DeviceLink):
    """Listens to the probe that is chosen.

    Parameters
    ----------
    stand_in : callable or None
        Makes the simulated one; None for one in a block of its own.

    Signals
    -------
    read : Reading
    """

    read = Signal(object)

    def __init__(
        self, parent: QObject | None = None, stand_in: Callable[[], SimulatedProbe] | None = None
    ) -> None:
        super().__init__(parent)
        self._make = stand_in or SimulatedProbe

    @property
    def simulated(self) -> SimulatedProbe | None:
        """The stand-in, while it is listened to."""
        return self._stand_in if isinstance(self._stand_in, SimulatedProbe) else None

    def make_listener(self, port: str) -> Probe:
        """Make what listens to a probe."""
        return Probe(port, self.tell)

    def make_stand_in(self) -> SimulatedProbe:
        """Make a simulated probe."""
        return self._make()

    def hear(self, message: object) -> None:
        """Tell a reading."""
        if isinstance(message, Reading):
            self.read.emit(message)


class OvenLink(DeviceLink):
    """Listens to the oven that is chosen.

    Signals
    -------
    read : Oven
    """

    read = Signal(object)

    def __init__(
        self, parent: QObject | None = None, stand_in: Callable[[], SimulatedOven] | None = None
    ) -> None:
        super().__init__(parent)
        self._make = stand_in or SimulatedOven

    @property
    def simulated(self) -> SimulatedOven | None:
        """The stand-in, while it is listened to."""
        return self._stand_in if isinstance(self._stand_in, SimulatedOven) else None

    def make_listener(self, port: str) -> OvenListener:
        """Make what listens to an oven."""
        return OvenListener(port, self.tell)

    def make_stand_in(self) -> SimulatedOven:
        """Make a simulated oven."""
        return self._make()

    def hear(self, message: object) -> None:
        """Tell what it shows."""
        if isinstance(message, Oven):
            self.read.emit(message)
