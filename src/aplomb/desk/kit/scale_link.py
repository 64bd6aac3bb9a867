"""The scale as the window sees it."""

import time

from PySide6.QtCore import QObject, Signal

from aplomb.desk.kit.device_link import SIMULATED, DeviceLink
from aplomb.devices.protocol import Done, Weight
from aplomb.devices.scale import CONFIRMS_S, Scale
from aplomb.devices.simulated import SimulatedScale

__all__ = ["SIMULATED", "ScaleLink"]


class ScaleLink(DeviceLink):
    """Listens to the scale that is chosen.

    Signals
    -------
    weighed : float, bool
        What lies on it [g], and whether that is steady; nothing that was said before it was
        tared.
    """

    weighed = Signal(float, bool)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._tare_asked_at: float | None = None

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
            self._tare_asked_at = time.monotonic()
            self._device.tare()

    def hear(self, message: object) -> None:
        """Tell a weight.

        Its lines come in order: what comes before the scale says that it is tared was weighed
        before. One that never says so is believed again once it was told that it did not.
        """
        if isinstance(message, Done):
            self._tare_asked_at = None
        elif isinstance(message, Weight):
            asked = self._tare_asked_at
            if asked is None or time.monotonic() - asked > CONFIRMS_S:
                self.weighed.emit(message.grams, message.steady)
