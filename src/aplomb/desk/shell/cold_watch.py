"""The second opinion of the cold, worked out beside the window and added when it has come."""

from PySide6.QtCore import QObject

from aplomb.core.opinion.opinion import Opinion
from aplomb.core.study.study import Reference, Study
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.timers import single_shot
from aplomb.desk.session import Session


class ColdWatch(QObject):
    """Asks for the cold of the formula in hand a moment after it has changed."""

    AFTER_MS = 350
    """Typing goes on meanwhile [ms]."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._timer = single_shot(self, self.AFTER_MS)
        self._timer.timeout.connect(self.ask)
        self._job = LatestJob(self._take, self)
        session.studied.connect(self._studied)
        self._studied()

    def _studied(self) -> None:
        study = self._session.study
        if study is not None and not study.cold_known:
            self._job.forget()
            self._timer.start()

    def ask(self) -> None:
        """Work the cold out now."""
        study, reference = self._session.study, self._session.reference
        if study is not None and not study.cold_known:
            self._job.ask(lambda: _opinions(study, reference))

    def _take(self, found: object) -> None:
        if isinstance(found, tuple):  # what the cold cannot say, it leaves unsaid
            self._session.shelf.take_cold(*found)


def _opinions(study: Study, reference: Reference) -> tuple[Study, tuple[Opinion, ...]]:
    from aplomb.core.study.cold_rules import cold_opinions  # brings NumPy: beside the window too

    return study, cold_opinions(study, reference.pantry, reference.house)
