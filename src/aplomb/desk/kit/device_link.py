"""A device as the window sees it: what it says comes as signals, in the window's own thread."""

from contextlib import suppress
from threading import Lock

from PySide6.QtCore import QObject, Signal

from aplomb.devices.listening import Listener
from aplomb.devices.protocol import Fault
from aplomb.devices.simulated import SimulatedDevice

MOST_WAITING = 40
"""Messages that wait for the window at the most [-]."""
SIMULATED = ""
"""The port of a device's stand-in."""


class DeviceLink(QObject):
    """Listens to the device that is chosen.

    Signals
    -------
    failed : str
        Why it says nothing, in words.
    """

    failed = Signal(str)
    _heard = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.port = SIMULATED
        self._device: Listener | None = None
        self._stand_in: SimulatedDevice | None = None
        self._lock = Lock()
        self._waiting: list[object] = []
        self._heard.connect(self._take_all)

    @property
    def listening(self) -> bool:
        """True while a device is listened to."""
        return self._device is not None

    def listen(self, port: str) -> None:
        """Listen to another device; `SIMULATED` for the one that is shipped."""
        self.stop()
        self.port = port
        if port == SIMULATED:
            self._stand_in = self.make_stand_in()
            port = self._stand_in.plug_in()
        self._device = self.make_listener(port)
        self._device.start()

    def stop(self) -> None:
        """Stop listening, and unplug the stand-in."""
        if self._device is not None:
            self._device.stop()
            self._device = None
        if self._stand_in is not None:
            self._stand_in.unplug()
            self._stand_in = None

    def tell(self, message: object) -> None:
        """Take what the device's own thread has heard; a window that is gone hears nothing.

        Of a flood the window takes the last, and of more than it holds the oldest goes.
        """
        with self._lock:
            asked = bool(self._waiting)
            if self._waiting and type(self._waiting[-1]) is type(message):
                self._waiting[-1] = message
            else:
                self._waiting = [*self._waiting[1 - MOST_WAITING :], message]
        if not asked:
            with suppress(RuntimeError):
                self._heard.emit()

    def make_listener(self, port: str) -> Listener:
        """Make what listens at a port, and calls `tell`."""
        raise NotImplementedError

    def make_stand_in(self) -> SimulatedDevice:
        """Make the simulated one."""
        raise NotImplementedError

    def hear(self, message: object) -> None:
        """Take what was said, a fault apart."""
        raise NotImplementedError

    def _take_all(self) -> None:
        with self._lock:
            waiting, self._waiting = self._waiting, []
        for message in waiting:
            self._take(message)

    def _take(self, message: object) -> None:
        if not self.listening:  # said before it was stopped
            return
        if isinstance(message, Fault):
            self.failed.emit(message.words)
        else:
            self.hear(message)
