"""The headline: name, and the figures asked for first, each with its school band."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QSizePolicy, QVBoxLayout

from aplomb.desk.kit.fields import label, plain_tip
from aplomb.desk.kit.theme import look
from aplomb.desk.session import Session

if TYPE_CHECKING:
    from aplomb.desk.shell.figure import Figure

NARROWEST_NAME = 60
"""The name is shortened so far [px]."""


class Headline(QFrame):
    """Name of the formula in hand and its first figures."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._session = session
        self.name = label("", "name")
        self.under = label("", "second")
        self.name.setMinimumWidth(NARROWEST_NAME)
        self.under.setMinimumWidth(60)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addStretch(1)
        words.addWidget(self.name)
        words.addWidget(self.under)
        words.addStretch(1)
        self.figures: list[Figure] = []
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(16)
        self._grid.setVerticalSpacing(4)
        line = QHBoxLayout(self)
        line.setContentsMargins(24, 8, 24, 6)
        line.setSpacing(16)
        line.addLayout(words, 1)
        line.addLayout(self._grid)
        self._columns = 0
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        session.studied.connect(self.refresh)
        self._fit()

    def _look_changed(self) -> None:
        self._fit()

    def fill(self) -> None:
        """Show the figures, which were not waited for."""
        from aplomb.desk.shell.figure import KEYS, Figure

        self.figures = [Figure(key) for key in KEYS]
        self._arrange(len(KEYS))
        self.refresh()

    def refresh(self) -> None:
        """Show the formula in hand."""
        study = self._session.study if self.figures else None
        for figure in self.figures:
            figure.setVisible(study is not None)
            figure.show_study(study)
        self._fit()

    def _elide(self) -> None:
        session = self._session
        entry = session.entries.get(session.uid)
        if self.figures and session.study is None:  # it is there, and cannot be worked out
            entry = None
        name = entry.name if entry else "Nothing open"
        under = (entry.purpose or "Press F2 to name it and say what it is for") if entry else ""
        if revision := (
            session.shelf.revision if session.at_work else session.book.last_revision(session.uid)
        ):
            under = f"Revision {revision} · {under}"
        for widget, text in ((self.name, name), (self.under, under)):
            widget.setToolTip(plain_tip(text))
            widget.ensurePolished()
            widget.setText(
                widget.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, widget.width())
            )

    def _arrange(self, columns: int) -> None:
        if columns == self._columns:
            return
        self._columns = columns
        for i, figure in enumerate(self.figures):
            self._grid.addWidget(figure, i // columns, i % columns)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Shorten the name to the room there is, or set the figures in two rows."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        brief = look.theme.large
        self.under.setVisible(not brief)
        high = look.theme.figure_high if self._session.uid and not brief else 0
        self._grid.setRowMinimumHeight(0, high)  # as high before the figures come as with them
        self._grid.setHorizontalSpacing(8 if brief else 16)
        spacing = self._grid.horizontalSpacing()
        figures = sum(figure.sizeHint().width() + spacing for figure in self.figures)
        # Where the text is large it is one line, as long as the figures are whole in it.
        name = NARROWEST_NAME + 56 if brief else self.fontMetrics().height() * 9
        narrow = self.width() - figures < name
        self._arrange(3 if narrow else len(self.figures))
        self._elide()
