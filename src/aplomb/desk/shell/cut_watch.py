"""The cut plan of the formula in hand, searched beside the window and laid in when it has come."""

from functools import lru_cache

from PySide6.QtCore import QObject, QThreadPool

from aplomb.core.study.study import Reference, Study, with_its_cut
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.session import Session


@lru_cache(maxsize=1)
def _pool() -> QThreadPool:
    """Give a thread of its own: heat takes seconds, and what is weighed waits for this.

    It belongs to no window, so that closing one does not wait for a search.
    """
    pool = QThreadPool()
    pool.setMaxThreadCount(1)
    return pool


class CutWatch(QObject):
    """Asks for the cut plan of the formula in hand as soon as one is wanted that is not known."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._job = LatestJob(self._take, self, pool=_pool())
        session.studied.connect(self.ask)
        self.ask()

    def ask(self) -> None:
        """Search now, when the study in hand waits for it."""
        study, reference = self._session.study, self._session.reference
        if study is not None and study.cut_waits:
            self._job.ask(lambda: _found(study, reference))
        else:
            self._job.forget()

    def _take(self, found: object) -> None:
        if isinstance(found, tuple):
            self._session.shelf.take_cut(*found)


def _found(study: Study, reference: Reference) -> tuple[Study, Study]:
    return study, with_its_cut(study, reference)
