"""What the pages beside the paste share: they stand where the stage is, and Escape leads back."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from aplomb.desk.kit.fields import button, label, row
from aplomb.desk.session import Session
from aplomb.desk.stages.stage import Stage
from aplomb.work.commands import COMMANDS, STAGES

if TYPE_CHECKING:
    from aplomb.desk.stages.section_view import SectionStrip


class Page(Stage):
    """A page that takes the stage's room for one job.

    Signals
    -------
    done
        Back to the paste.
    """

    KEY = ""
    """By which the table of commands names it: its title and where it leads back stand there."""
    HINT = ""
    strip: "SectionStrip | None" = None
    """The section that is seen in it."""
    done = Signal()

    def __init__(self, session: Session) -> None:
        self._hint: QLabel = label(self.HINT, "second")
        super().__init__(session)
        self._body = QVBoxLayout(self._inner)
        self._body.setContentsMargins(24, 10, 18, 10)
        self._body.setSpacing(8)
        command = COMMANDS[self.KEY]
        stage = dict(STAGES)[command.room].lower()
        self._back = back = button(f"Back to the {stage}", "quiet", self.done.emit, "Esc")
        self._hint.setWordWrap(True)
        self._hint.setMinimumWidth(60)
        self._head = row(label(command.title, "title"), self._hint, None, back)
        self._head.setStretch(1, 4)
        self._body.addLayout(self._head)
        self._body.addWidget(self.error)

    def arrange(self) -> None:
        """Put sides beside or below one another; the hint goes when it is narrow."""
        self._hint.setVisible(bool(self.HINT) and not self.narrow)
        super().arrange()

    def begin(self, target: object) -> None:
        """Begin with what is wanted; most pages need nothing."""

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        raise NotImplementedError

    def first_focus(self, widget: QWidget) -> None:
        """Give a widget the keyboard."""
        widget.setFocus(Qt.FocusReason.TabFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape leads back."""
        if event.key() == Qt.Key.Key_Escape:
            self.done.emit()
            return
        super().keyPressEvent(event)
