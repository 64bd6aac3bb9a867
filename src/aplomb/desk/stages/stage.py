"""What the stages on the open formula share: a scrolled page that catches up when it is seen."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QBoxLayout, QFrame, QLabel, QLayout, QScrollArea, QWidget

from aplomb.desk.kit.fields import label
from aplomb.desk.kit.theme import look
from aplomb.desk.session import Session


class Stage(QScrollArea):
    """A stage; `refresh` shows the formula in hand, and is called only while it is seen.

    Signals
    -------
    asked : str, object
        A command of the table, or something that only the window can do, and what it is about.
    """

    asked = Signal(str, object)
    BESIDE = 720
    """Width from which two things fit side by side, at plain text size [px]."""

    def __init__(self, session: Session) -> None:
        self._sides: list[QBoxLayout] = []
        super().__init__()
        self._session = session
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._inner = QWidget()
        self._inner.setObjectName("inner")
        self.setWidget(self._inner)
        self.error: QLabel = label("", "wrong")
        self.error.setWordWrap(True)
        self.error.hide()
        self._old_look = False
        session.studied.connect(self._studied)
        look.changed.connect(self._on_look)

    def two_sides(
        self, left: QWidget | QLayout, right: QWidget | QLayout, stretches: tuple[int, int] = (1, 1)
    ) -> QBoxLayout:
        """Lay two things side by side; one below the other when the page is narrow."""
        sides = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        sides.setSpacing(12)
        for each, stretch in zip((left, right), stretches, strict=True):
            if isinstance(each, QLayout):
                sides.addLayout(each, stretch)
            else:
                sides.addWidget(each, stretch, Qt.AlignmentFlag.AlignTop)
        self._sides.append(sides)
        return sides

    @property
    def narrow(self) -> bool:
        """True when two things do not fit side by side."""
        return self.viewport().width() < look.theme.px(self.BESIDE)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """One column when it is narrow."""
        super().resizeEvent(event)
        self.arrange()

    def arrange(self) -> None:
        """Put sides beside or below one another."""
        ways = QBoxLayout.Direction
        for sides in self._sides:
            sides.setDirection(ways.TopToBottom if self.narrow else ways.LeftToRight)

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        raise NotImplementedError

    def least_height(self) -> int:
        """Give the height in which all of it stands [px]."""
        return self._inner.minimumSizeHint().height()

    def show_error(self, reason: str) -> None:
        """Say why something typed cannot be used; nothing when all is well."""
        self.error.setText(reason)
        self.error.setVisible(bool(reason))

    def in_hand(self) -> object:
        """Identity of the book and the formula that what is typed here is for."""
        return self._session.book.path, self._session.uid

    def refresh(self) -> None:
        """Show the formula in hand."""
        raise NotImplementedError

    def _on_look(self) -> None:
        """Take another look at once, or when it is seen again."""
        self._old_look = not self.isVisible()
        if not self._old_look:
            self._look_changed()

    def _look_changed(self) -> None:
        """Fit what is measured here to another size of text."""
        self.arrange()

    def _studied(self) -> None:
        if self.isVisible():
            self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        """Catch up with what changed meanwhile."""
        super().showEvent(event)
        if self._old_look:
            self._old_look = False
            self._look_changed()
        self.refresh()
