"""Changes on their way into the book, and back out of it: writing behind, undo, redo."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager

from aplomb.book.book import Book, BookError, DiskError, Refused
from aplomb.book.changes import AnyChange, Together, parts_of
from aplomb.work.open_book.announcing import Announcements


class Journal:
    """What waits to be written to a book, and what can be undone.

    Parameters
    ----------
    write_soon : callable
        Sees that `flush` is called before long; with one that does nothing, changes wait for it.
    apply : callable
        Shows a change, or with ``back=True`` what was before it.
    give_back : callable
        Shows again what the book holds in place of changes that it cannot take.
    """

    def __init__(
        self,
        news: Announcements,
        write_soon: Callable[[], object],
        apply: Callable[..., None],
        give_back: Callable[[Sequence[Refused]], None],
    ) -> None:
        self._news = news
        self._write_soon, self._apply, self._give_back = write_soon, apply, give_back
        self._book: Book
        self.pending: list[AnyChange] = []
        self._gathered: list[AnyChange] | None = None
        self.trouble = ""
        self.closed = False

    def take(self, book: Book) -> None:
        """Write to another book from now on; what waited for the one before is let go."""
        self._book = book
        self.pending.clear()
        self.trouble = book.read_only

    def stop(self, why: str) -> None:
        """The book takes nothing any more; what waits is kept in this window."""
        self._set_trouble(why)

    def note(self, change: AnyChange) -> None:
        """Keep a change that was just made."""
        if self.closed:  # the window is going; nothing more is kept
            return
        if self._gathered is not None:
            self._gathered.append(change)
            return
        self.pending.append(change)
        self._write_soon()

    @contextmanager
    def together(self, words: str) -> Iterator[None]:
        """Make all changes inside one, which one step takes back; what is raised takes all back.

        Parameters
        ----------
        words : str
            What is done, for undo: ``lay out 4 trials``.
        """
        if self._gathered is not None:  # inside another, which takes these too
            yield
            return
        self._news.leaving()
        done = self._gathered = []
        try:
            yield
        except BaseException:
            self._gathered = None
            if done:
                self._apply(_one(words, done), "Nothing was changed.", back=True)
            raise
        self._gathered = None
        if done:
            self.note(_one(words, done))

    @property
    def unwritten(self) -> int:
        """Changes that wait to be written [-]."""
        return len(self.pending)

    def flush(self) -> bool:
        """Write what waits to be written.

        False when the book refused; `trouble` says why, and the changes still wait.
        """
        if self.closed:
            return True
        if not self.pending and self.trouble == self._book.read_only:
            return True
        try:
            if not self.pending:
                self._book.probe()
            refused = self._book.record(self.pending)
        except BookError as error:
            self._set_trouble(f"{error} Until then your changes are kept in this window.")
            return not self.pending
        self.pending.clear()
        self._set_trouble("")
        if refused:
            self._give_back(refused)
        return True

    def _set_trouble(self, words: str) -> None:
        if words != self.trouble:
            self.trouble = words
            self._news.tell(self._news.trouble_changed)

    def next_words(self) -> tuple[str, str]:
        """Say what undo and redo would do, as ``: salt 20 g``; empty for nothing."""
        back, on = self._book.history.next_words()
        if self.pending:
            back, on = self.pending[-1].words, ""
        return (f": {back[:40]}" if back else "", f": {on[:40]}" if on else "")

    def undo(self) -> None:
        """Take the last change back, of whatever formula it was."""
        self._news.leaving()
        if not self.flush():
            change = self.pending.pop()
            self._apply(change, f"Undone: {change.words}", back=True)
            if not self.pending:  # nothing waits any more: the window shows what is kept
                self._set_trouble(self._book.read_only)
            return
        self._wind(self._book.undo, back=True)

    def redo(self) -> None:
        """Make the last undone change again."""
        self._news.leaving()
        if self.flush():
            self._wind(self._book.redo, back=False)

    def _wind(self, step: Callable[[], AnyChange | None], *, back: bool) -> None:
        try:
            change = step()
        except DiskError as error:
            self._set_trouble(str(error))
            return
        except BookError as error:
            self._news.said(str(error))
            return
        if change is None:
            self._news.said("Nothing to undo." if back else "Nothing to redo.")
            return
        word = "Undone" if back else "Redone"
        self._apply(change, f"{word}: {change.words}", back=back)


def _one(words: str, changes: Sequence[AnyChange]) -> Together:
    return Together(words, tuple(part for each in changes for part in parts_of(each)))
