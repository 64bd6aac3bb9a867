"""The session: a thin face of the workbench for Qt, which it makes when it is first asked for.

Widgets connect to its signals and ask it for what they show; what they want done they say to
`shelf`, `store` or `journal`, which know of no window. Widgets hold no truth and do no arithmetic.
"""

from functools import cached_property
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from aplomb.book import settings as kept
from aplomb.book.book import Book
from aplomb.book.entry import Entry
from aplomb.desk.kit.mid_event import Later

if TYPE_CHECKING:
    from aplomb.core.paste.formula import Formula
    from aplomb.core.study.study import Reference, Study
    from aplomb.work.open_book.journal import Journal
    from aplomb.work.open_book.rows import Kitchen
    from aplomb.work.open_book.shelf import Shelf
    from aplomb.work.open_book.store import Store
    from aplomb.work.open_book.workbench import Workbench

WRITE_AFTER_MS, AGAIN_MS = 300, 2000
"""A change waits this long for the next; what the disk refused for another try [ms]."""


class Session(QObject):
    """What is open, as signals and properties.

    Signals
    -------
    leaving, studied, shelf_changed, reference_changed, trouble_changed, said, measures_changed
        As `Announcements` of the work; those that make widgets anew wait while Qt is in the middle
        of moving the focus.
    """

    leaving = Signal()
    studied = Signal()
    shelf_changed = Signal()
    reference_changed = Signal()
    trouble_changed = Signal()
    said = Signal(str)
    measures_changed = Signal()

    def __init__(self, book: Book, settings: kept.Settings | None = None) -> None:
        super().__init__()
        self.settings = settings or kept.Settings()
        self._opened, first = book, book.first_on_shelf()
        self._on_shelf, self._all_read = first or book.on_shelf(), first is None
        self.later = Later(self)
        self._timer = QTimer(self, singleShot=True)
        self._timer.timeout.connect(self.flush)

    @property
    def at_work(self) -> bool:
        """True once the workbench is made."""
        return "work" in self.__dict__

    @cached_property
    def work(self) -> "Workbench":
        """The workbench."""
        from aplomb.desk.kit.local import work_on

        read = self._on_shelf if self._all_read else None
        work = work_on(self._opened, read, self.later.tell, self._write_soon)
        work.news.pass_on(self)
        return work

    def _write_soon(self) -> None:
        if not 0 <= self._timer.remainingTime() <= WRITE_AFTER_MS:
            self._timer.start(WRITE_AFTER_MS)

    def keep(self, **changes: object) -> None:
        """Keep settings."""
        self.settings = replace(self.settings, **changes)
        kept.keep(self.settings)

    def flush(self) -> bool:
        """Write what waits to be written; False when the book refused."""
        self._timer.stop()
        done = not self.at_work or self.journal.flush()
        if not done and not self.book.read_only:
            self._timer.start(AGAIN_MS)
        return done

    @property
    def book(self) -> Book:
        """The open book."""
        return self.work.book if self.at_work else self._opened

    @property
    def entries(self) -> dict[str, Entry]:
        """All formulas by identity, in their order on the shelf."""
        return self.shelf.entries if self.at_work else self._on_shelf[0]

    @property
    def uid(self) -> str:
        """Identity of the formula in hand; empty for none."""
        return self.shelf.uid if self.at_work else self._on_shelf[1]

    @property
    def shelf(self) -> "Shelf":
        """All formulas, and what changes them."""
        return self.work.shelf

    @property
    def store(self) -> "Store":
        """House, materials, prices, stock, demand, batches made, and what changes them."""
        return self.work.store

    @property
    def journal(self) -> "Journal":
        """What waits to be written; undo and redo."""
        return self.work.journal

    @property
    def kitchen(self) -> "Kitchen":
        """Stock and demand."""
        return self.store.kitchen

    @property
    def reference(self) -> "Reference":
        """What studies of the formula in hand lean on."""
        return self.shelf.reference

    @property
    def study(self) -> "Study | None":
        """The formula in hand with all that follows from it."""
        return self.shelf.study

    @property
    def formula(self) -> "Formula | None":
        """The formula in hand."""
        return self.shelf.formula

    def close(self) -> bool:
        """Write what is left and close; False when something could not be written."""
        if not self.at_work:
            self._opened.close()
            return True
        if done := self.work.close():
            self._timer.stop()
        return done
