"""The scale as the window sees it."""

from PySide6.QtCore import Signal

from aplomb.desk.kit.device_link import SIMULATED, DeviceLink
from aplomb.devices.protocol import Weight
from aplomb.devices.scale import Scale
from aplomb.devices.simulated import SimulatedScale

__all__ = ["SIMULATED", "ScaleLink"]


class ScaleLink(DeviceLink):
    """Listens to the scale that is chosen.

    Signals
    -------
    weighed : float, bool
        What lies on it [g], and whether that is steady.
    """

    weighed = Signal(float, bool)

    @property
    def simulated(self) -> SimulatedScale | None:
        """The stand-in, while it is listened to."""
        return self._stand_in if isinstance(self._stand_in, SimulatedScale) else None

    def make_listener(self, port: str) -> Scale:
        """Make what listens to a scale."""
        return Scale(port, self.tell)

    def make_stand_in(self) -> SimulatedScale:
        """Make a simulated scale."""
        return SimulatedScale()

    def tare(self) -> None:
        """Take what lies on it as nothing."""
        if isinstance(self._device, Scale):
            self._device.tare()

    def hear(self, message: object) -> None:
        """Tell a weight."""
        if isinstance(message, Weight):
            self.weighed.emit(message.grams, message.steady)
