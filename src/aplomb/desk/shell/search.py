"""The search of commands: type what you want to do."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QModelIndex, QObject, QStringListModel, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListView, QVBoxLayout, QWidget

from aplomb.desk.kit.fields import fit_rows, label, run_dialog
from aplomb.work.commands import Command, find, shown, some_words

MOST_SHOWN = 9
"""Commands that are seen at once; the rest is reached by scrolling."""


class CommandSearch(QDialog):
    """A line to type in, and what fits it; Enter does the one that is picked.

    Parameters
    ----------
    formula : bool
        A formula is in hand.
    """

    def __init__(self, parent: QWidget, *, formula: bool) -> None:
        super().__init__(parent)
        self._formula = formula
        self._found: tuple[Command, ...] = ()
        self.chosen = ""
        self.setWindowTitle("What do you want to do?")
        self.words = QLineEdit()
        self.words.setAccessibleName("What do you want to do?")
        self.words.setPlaceholderText("e.g. swap, label, inches, leaves")
        self.words.installEventFilter(self)
        self._names = QStringListModel(self)
        self.list = QListView()
        self.list.setObjectName("picks")
        self.list.setAccessibleName("Matches")
        self.list.setModel(self._names)
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
        self._found = find(text, formula=self._formula)
        self._names.setStringList([_line(each) for each in self._found])
        self.list.setVisible(bool(self._found))
        self.none.setVisible(not self._found)
        self.words.setAccessibleDescription(some_words(self._found))
        if self._found:
            self.list.setCurrentIndex(self._names.index(0))
            fit_rows(self.list, MOST_SHOWN)

    def _take(self, index: QModelIndex | None = None) -> None:
        at = (index or self.list.currentIndex()).row()
        if 0 <= at < len(self._found):
            self.chosen = self._found[at].key
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


def _line(command: Command) -> str:
    keys = f"   {shown(command.shown_keys)}" if command.keys else ""
    place = f"{command.where.removeprefix('Beside ')}: " if command.room else ""
    return f"{place}{(command.menu or command.words).rstrip('…')}{keys}"


def search_commands(parent: QWidget, do: Callable[[str], object], *, formula: bool) -> None:
    """Ask what is wanted, and do it."""
    dialog = CommandSearch(parent, formula=formula)
    run_dialog(dialog)
    if dialog.chosen:
        do(dialog.chosen)
