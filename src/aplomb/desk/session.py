"""The session: a thin face of the workbench for Qt.

Widgets connect to its signals and ask it for what they show; what they want done they say to
`shelf`, `store` or `journal`, which know of no window. Widgets hold no truth and do no arithmetic.
"""

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from aplomb.book import settings as kept
from aplomb.book.book import Book
from aplomb.core.paste.formula import Formula
from aplomb.core.study.study import Reference, Study
from aplomb.desk.kit.local import usual_house
from aplomb.desk.kit.mid_event import Later
from aplomb.work.announcing import Announcements
from aplomb.work.journal import Journal
from aplomb.work.shelf import Shelf
from aplomb.work.store import Store
from aplomb.work.store_rows import Kitchen
from aplomb.work.workbench import Workbench

WRITE_AFTER_MS = 300
"""A change waits this long for the next before both are written [ms]."""


class Session(QObject):
    """What is open, as signals and properties.

    Parameters
    ----------
    book : Book
    reference : Reference
        As shipped.
    settings : Settings or None
        What the user has set.

    Signals
    -------
    leaving, studied, shelf_changed, reference_changed, trouble_changed, said, measures_changed
        As `aplomb.work.announcing.Announcements`; those that make widgets anew wait while Qt is in
        the middle of moving the focus.
    """

    leaving = Signal()
    studied = Signal()
    shelf_changed = Signal()
    reference_changed = Signal()
    trouble_changed = Signal()
    said = Signal(str)
    measures_changed = Signal()

    def __init__(
        self, book: Book, reference: Reference, settings: kept.Settings | None = None
    ) -> None:
        super().__init__()
        self.settings = settings or kept.Settings()
        self._later = Later(self)
        self._timer = QTimer(self, singleShot=True, interval=WRITE_AFTER_MS)
        news = Announcements(lambda *what: self._later.tell(*what))
        self.work = Workbench(book, reference, usual_house(), news, self._write_soon)
        self._timer.timeout.connect(self.flush)
        for name in (
            "leaving", "studied", "shelf_changed", "reference_changed", "trouble_changed", "said",
            "measures_changed",
        ):  # fmt: skip
            getattr(news, name).connect(getattr(self, name).emit)

    def _write_soon(self) -> None:
        if not self._timer.isActive():
            self._timer.start()

    def keep(self, **changes: object) -> None:
        """Keep settings."""
        self.settings = replace(self.settings, **changes)
        kept.keep(self.settings)

    def flush(self) -> bool:
        """Write what waits to be written; False when the book refused."""
        self._timer.stop()
        return self.journal.flush()

    @property
    def book(self) -> Book:
        """The open book."""
        return self.work.book

    @property
    def shelf(self) -> Shelf:
        """All formulas, and what changes them."""
        return self.work.shelf

    @property
    def store(self) -> Store:
        """House, materials, prices, stock, demand, batches made, and what changes them."""
        return self.work.store

    @property
    def journal(self) -> Journal:
        """What waits to be written; undo and redo."""
        return self.work.journal

    @property
    def kitchen(self) -> Kitchen:
        """Stock and demand."""
        return self.store.kitchen

    @property
    def reference(self) -> Reference:
        """What studies of the formula in hand lean on."""
        return self.shelf.reference

    @property
    def study(self) -> Study | None:
        """The formula in hand with all that follows from it."""
        return self.shelf.study

    @property
    def formula(self) -> Formula | None:
        """The formula in hand."""
        return self.shelf.formula

    @property
    def uid(self) -> str:
        """Identity of the formula in hand; empty for none."""
        return self.shelf.uid

    def close(self) -> bool:
        """Write what is left and close; False when something could not be written."""
        done = self.work.close()
        if done:
            self._timer.stop()
        return done
