"""What the toolkit calls of ours never raises into it: one guard for every override.

An exception that leaves a paint or an event goes into code that knows of none. At best it is
printed and nobody is told; a painter that is left open ends the process. So every method of a
class of ours that the toolkit calls by itself is wrapped as the class is made: what it raises goes
to ``sys.excepthook``, which tells it, painters are ended, and the toolkit is given an answer.
"""

import sys
from collections.abc import Callable, Sequence
from functools import wraps
from types import FunctionType, TracebackType
from typing import Any

from PySide6.QtCore import QObject, QSize, Qt
from PySide6.QtGui import QIcon, QPainter

ANSWERS: dict[str, Callable[[], object]] = {
    "event": lambda: False, "eventFilter": lambda: False, "viewportEvent": lambda: False,
    "sizeHint": QSize, "minimumSizeHint": QSize, "minimumSize": QSize, "heightForWidth": lambda: -1,
    "hasHeightForWidth": lambda: False, "expandingDirections": lambda: Qt.Orientation(0),
    "rowCount": lambda: 0, "columnCount": lambda: 0, "count": lambda: 0, "data": lambda: None,
    "headerData": lambda: None, "flags": lambda: Qt.ItemFlag.NoItemFlags, "itemAt": lambda: None,
    "takeAt": lambda: None, "addItem": lambda: None, "setGeometry": lambda: None,
    "paint": lambda: None, "createEditor": lambda: None, "setEditorData": lambda: None,
    "setModelData": lambda: None, "setData": lambda: False, "focusNextPrevChild": lambda: False,
    "icon": QIcon, "type": str,
}  # fmt: skip
"""What the toolkit asks of ours besides events, which all end in ``Event`` and answer nothing, and
what it is told when that fails."""


def guard(cls: type) -> None:
    """Wrap what a class overrides of the toolkit's own methods."""
    above = [base for base in cls.__mro__[1:] if base.__module__.startswith("PySide6.")]
    for name, method in list(vars(cls).items()):
        asked = name in ANSWERS or name.endswith("Event")
        if asked and isinstance(method, FunctionType) and any(name in vars(b) for b in above):
            setattr(cls, name, _guarded(name, method))


def _guarded(name: str, method: Callable[..., Any]) -> Callable[..., Any]:
    """Give a method that answers something harmless when ours fails."""
    answer = ANSWERS.get(name)

    @wraps(method)
    def kept(self: QObject, *told: Any) -> Any:
        try:
            return method(self, *told)
        except Exception as error:  # noqa: BLE001  # whatever it is, it must not reach the toolkit
            end_painters(error.__traceback__, told)
            sys.excepthook(type(error), error, error.__traceback__)
        if name == "closeEvent":
            _answer_closing(self, told[0])
        return answer() if answer is not None else None

    return kept


def _answer_closing(window: QObject, event: Any) -> None:
    """A window whose closing failed stays, so that nothing is lost; asked once more it goes."""
    if window.property("closing failed"):
        event.accept()
    else:
        window.setProperty("closing failed", True)
        event.ignore()


def end_painters(trace: TracebackType | None, others: Sequence[object] = ()) -> None:
    """End what was being painted where it failed: an open painter takes the process with it.

    Parameters
    ----------
    others : sequence
        Painters of others, who end them themselves.
    """
    found: list[QPainter] = []
    while trace is not None:
        for value in trace.tb_frame.f_locals.values():
            if isinstance(value, QPainter):
                found.append(value)
            elif isinstance(getattr(value, "painter", None), QPainter):
                found.append(value.painter)
        trace = trace.tb_next
    for painter in found:
        if painter.isActive() and not any(painter is each for each in others):
            painter.end()


def _made(cls: type, /, **more: Any) -> None:
    super(QObject, cls).__init_subclass__(**more)  # type: ignore[misc]
    guard(cls)


def spread() -> None:
    """Guard every class of the toolkit's that is made from now on."""
    QObject.__init_subclass__ = classmethod(_made)  # type: ignore[assignment, method-assign]
