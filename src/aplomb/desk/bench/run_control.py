"""The open run and what the window does for it: devices, the clock, the alarm's sound.

Screens ask it what to show and tell it which key was pressed; there may be two of them.
"""

import time
from collections.abc import Callable, Mapping
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from aplomb.desk.bench.device_links import DeviceLinks
from aplomb.desk.bench.sound import Sound
from aplomb.desk.kit.background import EveryJob
from aplomb.desk.kit.timers import steady
from aplomb.desk.session import Session
from aplomb.work.bench.open_run import OpenRun
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.watch import Probes

TICK_MS = 250
"""How often clocks go on [ms]."""
RINGS_EVERY_S = 6.0
"""An alarm that nobody hears rings again after so long [s]."""


class _Post(QObject):
    """Brings calls from the writer's thread into the window's."""

    called = Signal(object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.called.connect(lambda call: call())


class RunControl(OpenRun, QObject):
    """The open run as screens see it.

    Signals
    -------
    changed
        Something else is to be shown.
    ticked
        Clocks went on.
    leave_asked, finish_asked
        The run is to be left as it stands, or ended.
    finished : list of str
        The run is ended and all of it is in the book; what the house learned, a line each.
    """

    changed = Signal()
    ticked = Signal()
    leave_asked = Signal()
    finish_asked = Signal()
    finished = Signal(list)

    def __init__(self, session: Session) -> None:
        QObject.__init__(self, session)
        self.session = session
        OpenRun.__init__(self, session.work)
        self._post = _Post(self)
        self._rang: tuple[str, float] = ("", 0.0)
        self.sound = Sound(self)
        self._fitting = EveryJob(self._take_fitted, self)
        self.devices = DeviceLinks(session, self)
        self.devices.weighed.connect(self._weighed)
        self._timer = steady(self, TICK_MS)
        self._timer.timeout.connect(self._tick)

    def _shown_anew(self) -> None:
        """Say so to every screen."""
        self.changed.emit()

    def _finish_wanted(self) -> None:
        """Let the screen ask whether the run is over."""
        self.finish_asked.emit()

    def _over(self, told: list[str]) -> None:
        """Say that it is over."""
        self.finished.emit(told)

    def _post_call(self, call: Callable[[], object]) -> None:
        """Make a call of the writer's thread in the window's own."""
        self._post.called.emit(call)

    def _beside(self, book: Path, job: Callable[[], object]) -> None:
        """Do something in a thread of its own."""
        self._fitting.ask(book, job)

    def _follow(self, run: LiveRun, probes: Probes) -> None:
        """Listen to devices and let the clock go on."""
        self.devices.follow(run, probes)
        self._timer.start()

    def _follow_no_more(self) -> None:
        """Let devices and the clock be."""
        self._timer.stop()
        self.devices.stop()

    def _pressed(self) -> None:
        """Let the stand-ins follow."""
        if self.devices.simulation is not None:
            self.devices.simulation.follow()

    def _scale_there(self) -> DeviceLinks:
        """Give the devices: the scale is theirs."""
        return self.devices

    def _device_faults(self) -> Mapping[str, str]:
        """Give what is wrong with devices."""
        return self.devices.faults

    def put_target(self) -> None:
        """Put what is wanted on the simulated scale."""
        line = self.line()
        if line is not None:
            self.devices.put_on(line.step.target_g)

    def _weighed(self) -> None:
        if self.weighing() is not None:
            self.changed.emit()

    def _tick(self) -> None:
        if self.run is None:
            return
        self._clock_went_on()
        rings = self.ringing()
        if rings is not None:
            key, at = self._rang
            if rings.key != key or time.monotonic() - at > RINGS_EVERY_S:
                self._rang = (rings.key, time.monotonic())
                if self.session.settings.sound:
                    self.sound.ring()
                self.changed.emit()
        self.ticked.emit()


def control_of(session: Session) -> RunControl:
    """Give the run control of a session; there is one."""
    found = session.findChild(RunControl)
    return found if isinstance(found, RunControl) else RunControl(session)
