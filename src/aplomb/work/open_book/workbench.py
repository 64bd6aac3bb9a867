"""The workbench: the open book and the hand that changes it, without a window.

Who shows or asks something takes `Workbench.shelf`, `store` or `journal` and says what is wanted;
the next value is made, worked out, announced, and reaches the book before long.
"""

import os
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path

from aplomb.book.book import Book, BookError, GoneError, OnShelf, Refused
from aplomb.book.changes import AnyChange, Change, StoreChange, parts_of
from aplomb.book.paths import home
from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.study.study import Reference
from aplomb.work.open_book.announcing import Announcements
from aplomb.work.open_book.journal import Journal
from aplomb.work.open_book.shelf import Shelf
from aplomb.work.open_book.store import Store

LONGEST_STEM = 80
"""What of a book's name goes into that of one made of it [signs]."""


def _wait() -> None:
    """Leave changes to wait for `Journal.flush`, or for the book to be closed."""


class Workbench:
    """What is open.

    Parameters
    ----------
    reference : Reference
        As shipped.
    usual : House
        The house of a book that has none yet.
    write_soon : callable
        Sees that changes are written before long; without one they wait for `close`.
    read : OnShelf or None
        What `Book.on_shelf` gave, where it was read already.

    Attributes
    ----------
    notice : str
        What the user should know of the book that was opened.

    Examples
    --------
    >>> import tempfile
    >>> from aplomb.assets.shipped import reference
    >>> from aplomb.work.open_book.demo import fill_with_demo
    >>> work = Workbench(Book(Path(tempfile.mkdtemp()) / "Demo.aplomb"), reference())
    >>> fill_with_demo(work)
    >>> work.shelf.formula.name
    'Regatta case paste'
    >>> work.close()
    True
    """

    def __init__(
        self,
        book: Book,
        reference: Reference,
        usual: House | None = None,
        news: Announcements | None = None,
        write_soon: Callable[[], object] = _wait,
        read: OnShelf | None = None,
    ) -> None:
        self.news = news or Announcements()
        self.journal = Journal(self.news, write_soon, self._apply, self._give_back)
        note = self.journal.note
        self.store = Store(
            reference,
            usual or House(),
            note,
            self.refresh,
            self.news.measures_changed,
            lambda: self.shelf.entries.values(),
        )
        self.shelf = Shelf(self.news, lambda: self.store.reference, note)
        self.others: list[Callable[[], str]] = []
        """Whoever else writes into the book: each tries once, and says what still waits."""
        self._take(book, read)

    def _take(self, book: Book, read: OnShelf | None = None) -> None:
        self.book = book
        self.store.take(book.store())
        self.shelf.take(book, read)
        self.journal.take(book)  # reading has shown by now whether it can be written to
        aside = [*book.aside, *self.store.unreadable.values(), *self.shelf.set_aside()]
        self.notice = ""
        if aside:
            self.notice = (
                "Part of this book cannot be read and is left out: "
                f"{'; '.join(dict.fromkeys(aside))}. It stays in the file unchanged."
            )
        self.shelf.work_out()

    def refresh(self) -> None:
        """Work the formula in hand out anew, because what it leans on is another."""
        self.shelf.work_out()
        self.news.tell(self.news.reference_changed, self.news.studied)

    def open_book(self, path: Path) -> None:
        """Open another book; when that fails, the one that is open stays.

        Raises
        ------
        BookError
            When the book cannot be opened, or the open one still has unwritten changes.
        """
        self.news.leaving()
        if not self.journal.flush() or self._others_wait():
            raise BookError("The open book has changes that are not saved yet; see the notice.")
        if path.absolute() == self.book.path.absolute():
            return
        book = Book(path)
        try:
            read = book.on_shelf()
        except AplombError:
            book.close()
            raise
        self.news.closing()
        self.book.close()
        self._take(book, read)
        self.news.everything()

    def keep_copy(self, path: Path) -> None:
        """Write the book with all changes to another file and go on there.

        Raises
        ------
        BookError
            When it cannot be written; nothing is lost here.
        """
        self.news.leaving()
        self._go_on_in(self._in_new_file(path))

    def rescue(self) -> Path:
        """Keep everything in a new book beside this one, or in the own folder, and go on there.

        Returns
        -------
        Path
            Of the new book.

        Raises
        ------
        BookError
            When neither place takes it; nothing is lost here.
        """
        self.news.leaving()
        stem = self.book.path.stem[:LONGEST_STEM]
        refused: BookError | None = None
        with suppress(OSError):
            home().mkdir(parents=True, exist_ok=True)
        for folder in (self.book.path.parent, home()):
            for number in range(1, 100):
                path = folder / (f"{stem}, rescued{(f' {number}' if number > 1 else '')}.aplomb")
                if os.path.lexists(path):
                    continue
                try:
                    self._go_on_in(self._in_new_file(path))
                except BookError as error:
                    refused = refused or error
                    break
                return path
        raise refused or BookError(
            "No free name was found for a new book; save a copy in another folder."
        )

    def _in_new_file(self, path: Path) -> Book:
        """Put all that is here into a new file.

        A copy of the book with its history, or, when that is not sound or no longer there,
        what is held here.
        """
        if not self.book.rebuild:
            try:
                self.book.copy_to(path)
            except GoneError:
                pass
            else:
                return _filled(path, lambda book: book.record(self.journal.pending))
        if os.path.lexists(path):
            raise BookError(f"There is already a file called {path.name}; choose another name.")
        entries, rows = list(self.shelf.entries.values()), self.store.rows()
        return _filled(
            path,
            lambda book: book.fill(entries, rows, self.book.rows_to_carry()),
        )

    def _go_on_in(self, book: Book) -> None:
        uid = self.shelf.uid
        self.news.closing()
        self.book.close()
        self._take(book)
        if uid in self.shelf.entries:
            self.shelf.uid = uid
            self.shelf.work_out()
        self.news.everything()

    def close(self) -> bool:
        """Write what is left and close; False when something could not be written."""
        if self.journal.closed:
            return True
        self.news.leaving()
        done = self.journal.flush() and not self._others_wait()
        if done:
            self.journal.closed = True
            self.news.closing()
            self.book.close()
        return done

    def take_check(self, sound: bool) -> None:
        """Take what looking through the whole book has found: one that is damaged is read only."""
        if not sound:
            self.journal.stop(self.book.read_only)

    def _others_wait(self) -> str:
        """Say what besides changes is not in the book; empty when nothing waits."""
        return "\n".join(words for words in (other() for other in self.others) if words)

    def unwritten_words(self) -> str:
        """Say what would be lost if the book were let go now; empty for nothing."""
        waiting = self.journal.unwritten
        words = f"{self.journal.trouble}\n{waiting} changes would be lost." if waiting else ""
        return f"{words}\n{self._others_wait()}".strip()

    def _apply(self, change: AnyChange, words: str, *, back: bool) -> None:
        """Show a change, or what was before it."""
        parts = parts_of(change, back=back)
        for each in parts:
            if isinstance(each, StoreChange):
                self.store.put_rows(each.before if back else each.after)
            elif (entry := each.before if back else each.after) is None:
                self.shelf.drop(each.uid)
            else:
                self.shelf.put(entry)
        if all(isinstance(each, StoreChange) for each in parts):
            self.refresh()
        else:
            self._show_all()
        self.news.said(words)

    def _give_back(self, refused: Sequence[Refused]) -> None:
        """Show again what is kept in place of changes that no book can hold."""
        changes = [part for each in refused for part in parts_of(each.change)]
        self.shelf.put_back([change.uid for change in changes if isinstance(change, Change)])
        if any(isinstance(change, StoreChange) for change in changes):
            self.store.take(self.book.store())
        self._show_all()
        self.news.said(
            f"“{refused[0].change.words}” could not be saved and was undone: {refused[0].why}"
        )

    def _show_all(self) -> None:
        self.shelf.work_out()
        self.news.everything()


def _filled(path: Path, fill: Callable[[Book], object]) -> Book:
    """Open a book and fill it; one that cannot be filled is let go, and its lock with it."""
    book = Book(path)
    try:
        fill(book)
    except BaseException:
        book.close()
        raise
    return book
