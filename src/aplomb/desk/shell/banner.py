"""The banner: what stands in the way of writing, what could not be read, and what can be done."""

from collections.abc import Callable

from PySide6.QtWidgets import QBoxLayout, QFrame, QHBoxLayout, QLabel, QPushButton

from aplomb.desk.kit.fields import button, label
from aplomb.desk.kit.theme import look
from aplomb.desk.session import Session

WIDE = 1100
"""A window this wide at 100 % has room for the words beside the buttons [px]."""


class Banner(QFrame):
    """Shown only while there is trouble with the book, or something to know of it.

    Parameters
    ----------
    say : callable
        Says something at the foot of the window.
    keep_everything, keep_copy : callable
        Go on in a new book; ask for another place first.
    """

    def __init__(
        self,
        session: Session,
        say: Callable[[str], object],
        keep_everything: Callable[[], None],
        keep_copy: Callable[[], None],
    ) -> None:
        super().__init__()
        self._session, self._say = session, say
        self.setObjectName("banner")
        self.words: QLabel = label("", "strong")
        self.words.setWordWrap(True)
        self.again: QPushButton = button("Try again", "", self._try_again)
        self.rescue: QPushButton = button("Save everything in a new book", "", keep_everything)
        self.elsewhere: QPushButton = button("Save a copy elsewhere…", "", keep_copy)
        self.seen: QPushButton = button("Hide this", "", self._hide_notice)
        self._line = line = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        line.setContentsMargins(24, 6, 18, 6)
        line.addWidget(self.words, 1)
        buttons = QHBoxLayout()
        self.stops = (self.again, self.rescue, self.elsewhere, self.seen)
        for each in self.stops:
            buttons.addWidget(each)
        line.addLayout(buttons)
        self.hide()
        session.trouble_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Show what there is to tell; nothing when all is well."""
        session = self._session
        trouble, notice = session.journal.trouble, session.work.notice
        self.words.setText("\n".join(words for words in (trouble, notice) if words))
        self.again.setVisible(bool(trouble) and trouble != session.book.read_only)
        for each in (self.rescue, self.elsewhere):
            each.setVisible(bool(trouble) and not session.book.newer)
        self.seen.setVisible(bool(notice) and not trouble)
        self.setVisible(bool(trouble or notice))

    def fit(self, window_width: int) -> None:
        """Set what can be done below the words where they would be squeezed."""
        way = QBoxLayout.Direction
        narrow = window_width < look.theme.px(WIDE)
        self._line.setDirection(way.TopToBottom if narrow else way.LeftToRight)

    def _try_again(self) -> None:
        if self._session.flush() and not self._session.journal.trouble:
            self._say("Everything is in the book.")

    def _hide_notice(self) -> None:
        self._session.work.notice = ""
        self.refresh()
