"""Work beside the interface: the newest request wins, what comes late is let go."""

import sys
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from aplomb.core.base.errors import AplombError


class FaultError(AplombError):
    """Work beside the window failed in a way that is the program's fault, not the user's."""


class _Answers(QObject):
    came = Signal(int, object)


class _Job(QRunnable):
    def __init__(self, beside: "LatestJob", work: Callable[[], Any]) -> None:
        super().__init__()
        self._beside, self._work = beside, work
        self._number, self._answers = beside.asked, beside.answers

    def run(self) -> None:
        """Do the work, if it is still the newest; what it raises for the user is its answer."""
        if self._number != self._beside.asked:
            return
        try:
            found = self._work()
        except AplombError as error:
            found = error
        except Exception as error:  # noqa: BLE001  # whatever it is, the wait must end, and in words
            sys.excepthook(type(error), error, error.__traceback__)
            found = FaultError(
                "That did not work because of a fault in Aplomb, not because of anything "
                "you did. Nothing in the book has changed."
            )
        try:
            self._answers.came.emit(self._number, found)
        except RuntimeError:  # the window is gone meanwhile
            return


class LatestJob(QObject):
    """Runs one kind of work beside the interface.

    Parameters
    ----------
    take : callable
        Takes the newest answer, an AplombError when the work raised one.
    whose : callable or None
        Gives what an answer belongs to; one that comes when this is another is let go.
    pool : QThreadPool or None
        Threads of its own for what must not wait behind longer work; None for those all share.

    Attributes
    ----------
    asked : int
        Number of the newest work.
    busy : bool
        True while an answer is awaited.
    """

    def __init__(
        self,
        take: Callable[[Any], None],
        parent: QObject,
        whose: Callable[[], object] = lambda: None,
        pool: QThreadPool | None = None,
    ) -> None:
        super().__init__(parent)
        self._take, self._whose = take, whose
        self._pool = pool or QThreadPool.globalInstance()
        self._asked_for: object = None
        self.asked, self.busy = 0, False
        self.answers = _Answers(self)
        self.answers.came.connect(self._came)

    def ask(self, work: Callable[[], Any]) -> None:
        """Begin some work; an answer to an earlier one is no longer taken."""
        self.forget()
        self.busy, self._asked_for = True, self._whose()
        self._pool.start(_Job(self, work))

    def forget(self) -> None:
        """Take no answer any more to what was asked; what has not begun is not done."""
        self.asked += 1
        self.busy = False

    def _came(self, number: int, found: Any) -> None:
        if number == self.asked and self.busy:
            self.busy = False
            if self._whose() == self._asked_for:
                self._take(found)


class EveryJob(QObject):
    """Runs each work beside the interface; every answer is taken, for what it was asked for.

    Parameters
    ----------
    take : callable
        Takes what the work was for and its answer, an AplombError when it raised one.

    Attributes
    ----------
    waiting : int
        Answers that are awaited [-].
    """

    def __init__(self, take: Callable[[Any, Any], None], parent: QObject) -> None:
        super().__init__(parent)
        self._take = take
        self.waiting = 0

    @property
    def busy(self) -> bool:
        """True while an answer is awaited."""
        return self.waiting > 0

    def ask(self, about: object, work: Callable[[], Any]) -> None:
        """Begin some work for something; what is under way goes on beside it."""
        self.waiting += 1
        job = LatestJob(lambda found: self._came(job, about, found), self)
        job.ask(work)

    def _came(self, job: LatestJob, about: object, found: Any) -> None:
        self.waiting -= 1
        job.deleteLater()
        self._take(about, found)
