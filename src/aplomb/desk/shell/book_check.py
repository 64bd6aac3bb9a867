"""A book too large to be looked through when it is opened is looked through beside the window."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.timers import single_shot
from aplomb.desk.session import Session

if TYPE_CHECKING:
    from aplomb.book.book import Book


class BookCheck(QObject):
    """Has the open book looked through a moment after it was opened, and tells what is damaged."""

    AFTER_MS = 1500

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._book: Book | None = None
        self._timer = single_shot(self, self.AFTER_MS)
        self._timer.timeout.connect(self.ask)
        self._job = LatestJob(self._take, self, lambda: id(session.book))
        session.shelf_changed.connect(self._opened)
        self._opened()

    def _opened(self) -> None:
        book = self._session.book
        if book is not self._book:
            self._book = book
            self._timer.start()

    def ask(self) -> None:
        """Look through it now."""
        self._job.ask(self._session.book.check_beside)

    def _take(self, found: object) -> None:
        if isinstance(found, bool):
            self._session.work.take_check(found)
