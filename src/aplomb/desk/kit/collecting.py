"""Cycles are collected in the window's own thread, never in one that works beside it."""

import gc

from PySide6.QtCore import QObject, QTimer

EVERY_MS = 500
"""How often it is asked whether there is enough to collect [ms]."""


class Collector(QObject):
    """Collects cyclic garbage from the event loop.

    Notes
    -----
    Python collects in whatever thread happens to allocate. A widget that is part of a cycle would
    then be destroyed beside the window's thread, which Qt does not allow: it has crashed while a
    library was imported beside a window that had just closed. So Python's own collecting is off
    for as long as there is a window, and this asks for it instead.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        gc.disable()
        timer = QTimer(self)
        timer.setInterval(EVERY_MS)
        timer.timeout.connect(self.collect)
        timer.start()

    def collect(self) -> None:
        """Collect the oldest generation that has come to its threshold, if one has."""
        for generation in (2, 1, 0):
            if gc.get_count()[generation] > gc.get_threshold()[generation]:
                gc.collect(generation)
                return
