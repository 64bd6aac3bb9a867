"""The search of everything: type what you want, Enter does it."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QModelIndex, QObject, QStringListModel, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListView, QVBoxLayout, QWidget

from aplomb.core.base.texts import counted
from aplomb.desk.kit.fields import fit_rows, label, run_dialog
from aplomb.work.searching import Everything, Result

MOST_SHOWN = 9
"""Results that are seen at once; the rest is reached by scrolling."""


class CommandSearch(QDialog):
    """A line to type in, and what fits it; Enter does the one that is picked.

    Parameters
    ----------
    among : Everything
        All that can be found.
    """

    def __init__(self, parent: QWidget, among: Everything) -> None:
        super().__init__(parent)
        self._among = among
        self._found: tuple[Result, ...] = ()
        self.chosen: Result | None = None
        self.setWindowTitle("What do you want to do?")
        self.words = QLineEdit()
        self.words.setAccessibleName("What do you want to do?")
        self.words.setPlaceholderText("e.g. rough puff, inches, chill, butter, or a formula’s name")
        self.words.installEventFilter(self)
        self._names = QStringListModel(self)
        self.list = QListView()
        self.list.setObjectName("picks")
        self.list.setAccessibleName("Matches")
        self.list.setModel(self._names)
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setEditTriggers(QListView.EditTrigger.NoEditTriggers)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.none = label("No matches. Try another word.", "second")
        column = QVBoxLayout(self)
        column.setSpacing(8)
        for widget in (self.words, self.list, self.none):
            column.addWidget(widget)
        self.setMinimumWidth(520)
        self.words.textChanged.connect(self._search)
        self.words.returnPressed.connect(self._take)
        self.list.activated.connect(self._take)
        self.list.clicked.connect(self._take)
        self._search("")

    def _search(self, text: str) -> None:
        self._found = self._among.search(text)
        self._names.setStringList([each.line for each in self._found])
        self.list.setVisible(bool(self._found))
        self.none.setVisible(not self._found)
        self.words.setAccessibleDescription(
            counted(len(self._found), "1 match", "{} matches") if self._found else "no matches"
        )
        if self._found:
            self.list.setCurrentIndex(self._names.index(0))
            fit_rows(self.list, MOST_SHOWN)

    def _take(self, index: QModelIndex | None = None) -> None:
        at = (index or self.list.currentIndex()).row()
        if 0 <= at < len(self._found):
            self.chosen = self._found[at]
            self.accept()

    def eventFilter(self, seen: QObject, event: QEvent) -> bool:
        """Up and down pick in the list while one types."""
        if (
            seen is self.words
            and isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.KeyPress
        ):
            by = {int(Qt.Key.Key_Up): -1, int(Qt.Key.Key_Down): 1}.get(event.key())
            if by is not None:
                at = max(0, min(len(self._found) - 1, self.list.currentIndex().row() + by))
                self.list.setCurrentIndex(self._names.index(at))
                return True
        return super().eventFilter(seen, event)


def search_everything(
    parent: QWidget, do: Callable[[str, object], object], among: Everything
) -> None:
    """Ask what is wanted, and do it."""
    dialog = CommandSearch(parent, among)
    run_dialog(dialog)
    if dialog.chosen is not None:
        do(dialog.chosen.key, dialog.chosen.about)
