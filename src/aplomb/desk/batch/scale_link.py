"""The scale as the window sees it: what it says comes as signals, in the window's own thread."""

from PySide6.QtCore import QObject, Signal

from aplomb.devices.protocol import Fault, Weight
from aplomb.devices.scale import Scale
from aplomb.devices.simulated import SimulatedScale

SIMULATED = ""
"""The port of the simulated scale."""


class ScaleLink(QObject):
    """Listens to the scale that is chosen.

    Signals
    -------
    weighed : float, bool
        What lies on it [g], and whether that is steady.
    failed : str
        Why it says nothing, in words.
    """

    weighed = Signal(float, bool)
    failed = Signal(str)
    _heard = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.simulated: SimulatedScale | None = None
        self.port = SIMULATED
        self._scale: Scale | None = None
        self._heard.connect(self._take)

    @property
    def listening(self) -> bool:
        """True while a scale is listened to."""
        return self._scale is not None

    def listen(self, port: str) -> None:
        """Listen to another scale; `SIMULATED` for the one that is shipped."""
        self.stop()
        self.port = port
        if port == SIMULATED:
            self.simulated = SimulatedScale()
            port = self.simulated.plug_in()
        self._scale = Scale(port, self._heard.emit)
        self._scale.start()

    def stop(self) -> None:
        """Stop listening, and unplug the simulated one."""
        if self._scale is not None:
            self._scale.stop()
            self._scale = None
        if self.simulated is not None:
            self.simulated.unplug()
            self.simulated = None

    def tare(self) -> None:
        """Take what lies on it as nothing."""
        if self._scale is not None:
            self._scale.tare()

    def _take(self, message: object) -> None:
        if isinstance(message, Weight):
            self.weighed.emit(message.grams, message.steady)
        elif isinstance(message, Fault):
            self.failed.emit(message.words)
