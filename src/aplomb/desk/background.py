"""Work beside the interface: the newest request wins, what comes late is let go."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from aplomb.core.errors import AplombError


class _Answers(QObject):
    came = Signal(int, object)


class _Job(QRunnable):
    def __init__(self, number: int, work: Callable[[], Any], answers: _Answers) -> None:
        super().__init__()
        self._number, self._work, self._answers = number, work, answers

    def run(self) -> None:
        """Do the work; what it raises for the user is its answer."""
        try:
            found = self._work()
        except AplombError as error:
            found = error
        try:
            self._answers.came.emit(self._number, found)
        except RuntimeError:  # the window is gone meanwhile
            return


class Beside(QObject):
    """Runs one kind of work beside the interface.

    Parameters
    ----------
    take : callable
        Takes the newest answer, an AplombError when the work raised one.
    """

    def __init__(self, take: Callable[[Any], None], parent: QObject) -> None:
        super().__init__(parent)
        self._take = take
        self._number = 0
        self._answers = _Answers(self)
        self._answers.came.connect(self._came)

    @property
    def busy(self) -> bool:
        """True while an answer is awaited."""
        return self._number % 2 == 1

    def ask(self, work: Callable[[], Any]) -> None:
        """Begin some work; an answer to an earlier one is no longer taken."""
        self._number += 1 if self._number % 2 == 0 else 2
        QThreadPool.globalInstance().start(_Job(self._number, work, self._answers))

    def forget(self) -> None:
        """Take no answer any more to what was asked."""
        self._number += self._number % 2

    def _came(self, number: int, found: Any) -> None:
        if number == self._number:
            self._number += 1
            self._take(found)
