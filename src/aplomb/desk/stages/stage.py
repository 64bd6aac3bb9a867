"""What the stages on the open formula share: a scrolled page that catches up when it is seen."""

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtWidgets import QFrame, QLabel, QScrollArea, QWidget

from aplomb.desk.kit.fields import label
from aplomb.desk.kit.theme import Theme
from aplomb.desk.session import Session


class Stage(QScrollArea):
    """A stage; `refresh` shows the formula in hand, and is called only while it is seen.

    Signals
    -------
    asked : str, object
        A command of the table, or something that only the window can do, and what it is about.
    """

    asked = Signal(str, object)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._inner = QWidget()
        self._inner.setObjectName("inner")
        self.setWidget(self._inner)
        self._error: QLabel = label("", "wrong")
        self._error.setWordWrap(True)
        self._error.hide()
        session.studied.connect(self._studied)

    @property
    def theme(self) -> Theme:
        """Palette and size of text."""
        return self._theme

    def show_error(self, reason: str) -> None:
        """Say why something typed cannot be used; nothing when all is well."""
        self._error.setText(reason)
        self._error.setVisible(bool(reason))

    def in_hand(self) -> object:
        """Identity of the book and the formula that what is typed here is for."""
        return self._session.book.path, self._session.uid

    def refresh(self) -> None:
        """Show the formula in hand."""
        raise NotImplementedError

    def _studied(self) -> None:
        if self.isVisible():
            self.refresh()

    def showEvent(self, event: QEvent) -> None:
        """Catch up with what changed meanwhile."""
        super().showEvent(event)
        self.refresh()
