"""Timers, made by calls: as keywords some properties are not known where a locale's “i” is special.

The binding puts a property's first letter in upper case by the locale, and a Turkish ``i`` has none
that it knows: ``QTimer(interval=…)`` then raises, and nothing starts.
"""

from PySide6.QtCore import QObject, QTimer


def single_shot(parent: QObject, after_ms: int) -> QTimer:
    """Make a timer that goes off once, so long after it is started [ms]."""
    made = QTimer(parent)
    made.setSingleShot(True)
    made.setInterval(after_ms)
    return made


def steady(parent: QObject, every_ms: int) -> QTimer:
    """Make a timer that goes off again and again [ms]."""
    made = QTimer(parent)
    made.setInterval(every_ms)
    return made
