"""While Qt is in the middle of moving the focus or of closing, nothing may be made anew.

A widget that is deleted, hidden or put elsewhere inside a focus or close event may be the very one
that Qt is about to give the keyboard to. So what such an event changes is taken at once, and what
is seen of it follows on the next turn of the event loop.
"""

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager

from PySide6.QtCore import QCoreApplication, QObject, Qt, QThread, QTimer, Signal
from PySide6.QtGui import QGuiApplication
from shiboken6 import isValid

from aplomb.desk.kit.timers import single_shot

WAIT_MS = 50
"""How often it is asked whether a dialog is still there [ms]."""
HELD_MS = 15
"""How often it is asked whether a mouse button is still held [ms]."""

_depth = 0


@contextmanager
def mid_event() -> Iterator[None]:
    """Mark that Qt is in the middle of such an event."""
    global _depth  # there is one thread that has windows, and one such middle
    _depth += 1
    try:
        yield
    finally:
        _depth -= 1


class Graveyard(QObject):
    """Widgets that are let go.

    They die when no dialog holds up the event in which they were: it may have begun in one of
    them.

    Signals
    -------
    emptied
        Some are gone, and the keyboard perhaps with them.
    """

    emptied = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._dead: list[QObject] = []
        self._timer = single_shot(self, 0)
        self._timer.timeout.connect(self._turn)

    def bury(self, dead: Iterable[QObject]) -> None:
        """Let them die soon."""
        self._dead.extend(dead)
        self._timer.start(0)

    def _turn(self) -> None:
        if QThread.currentThread().loopLevel() > 1:
            self._timer.start(WAIT_MS)
            return
        dead, self._dead = self._dead, []
        for each in dead:
            if isValid(each):  # what it stood in may have gone meanwhile, and it with it
                each.deleteLater()
        QTimer.singleShot(0, self, self.emptied.emit)


_graveyard: Graveyard | None = None


def graveyard() -> Graveyard | None:
    """Give the one of the application, which goes with it; None without an application."""
    global _graveyard  # one for the application
    app = QCoreApplication.instance()
    if app is None:
        return None
    if _graveyard is None or not isValid(_graveyard):
        _graveyard = Graveyard(app)
    return _graveyard


def bury(*dead: QObject) -> None:
    """Let objects of Qt die when the event that is being dealt with is over, dialogs and all."""
    place = graveyard()
    if place is not None:
        place.bury(dead)


class Later(QObject):
    """Tells at once, or on the next turn of the event loop when Qt is in the middle of something.

    Each is told once, in the order in which it was first asked for. While a mouse button is held
    nothing is told late: what is pressed is then still there when it is let go.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._due: list[Callable[[], object]] = []
        self._timer = single_shot(self, 0)
        self._timer.timeout.connect(self._turn)

    def tell(self, *what: Callable[[], object]) -> None:
        """Tell now, after what is still due; or later."""
        self._due.extend(each for each in what if each not in self._due)
        if _depth:
            self._timer.start(0)
        else:
            self.tell_due()

    def tell_due(self) -> None:
        """Tell what is due."""
        self._timer.stop()
        while self._due:
            self._due.pop(0)()

    def _turn(self) -> None:
        if QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton:
            self._timer.start(HELD_MS)
            return
        self.tell_due()
