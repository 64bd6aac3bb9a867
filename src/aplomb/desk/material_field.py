"""A field that finds a material by any of its names."""

from collections.abc import Callable

from PySide6.QtCore import QStringListModel, Qt, Signal
from PySide6.QtWidgets import QCompleter, QDialog, QLineEdit, QVBoxLayout, QWidget

from aplomb.core.errors import AplombError
from aplomb.core.paste.pantry import Pantry
from aplomb.desk.fields import label, run_dialog

MOST_SHOWN = 12


class MaterialField(QLineEdit):
    """Type any part of a name; Enter takes the first that fits.

    Signals
    -------
    chosen : str
        Key of the material.
    """

    chosen = Signal(str)

    def __init__(self, pantry: Callable[[], Pantry], name: str) -> None:
        super().__init__()
        self._pantry = pantry  # asked each time: the book may hold other materials by then
        self._names = QStringListModel(self)
        self.setAccessibleName(name)
        self.setPlaceholderText(name)
        completer = QCompleter(self._names, self)
        completer.setCompletionMode(QCompleter.CompletionMode.UnfilteredPopupCompletion)
        completer.setMaxVisibleItems(MOST_SHOWN)
        completer.popup().setObjectName("popup")
        completer.popup().setAccessibleName("Materials that fit")
        self.setCompleter(completer)
        self.textEdited.connect(self._search)
        completer.activated.connect(self._take, Qt.ConnectionType.QueuedConnection)
        self.returnPressed.connect(self._enter)

    def _search(self, text: str) -> None:
        self.setProperty("bad", False)
        self._restyle()
        found = self._pantry().search(text)[:MOST_SHOWN] if text.strip() else []
        self._names.setStringList([material.name for material in found])
        if found:
            self.completer().complete()

    def _enter(self) -> None:
        if not self.text().strip():
            return
        found = self._pantry().search(self.text())
        self._take(found[0].name if found else self.text())

    def _take(self, name: str) -> None:
        if not name.strip() or (not self.text() and self.completer().currentCompletion() == ""):
            return
        try:
            material = self._pantry().named(name)
        except AplombError as error:
            self.setToolTip(str(error))
            self.setAccessibleDescription(str(error))
            self.setProperty("bad", True)
            self._restyle()
            return
        self.clear()
        self._names.setStringList([])
        self.chosen.emit(material.key)

    def _restyle(self) -> None:
        self.style().unpolish(self)
        self.style().polish(self)


def ask_material(parent: QWidget, pantry: Pantry, words: str) -> str | None:
    """Ask for a material in a small dialog; None when it is closed without one."""
    dialog = QDialog(parent)
    dialog.setWindowTitle(words)
    dialog.setMinimumWidth(380)
    column = QVBoxLayout(dialog)
    column.addWidget(label(words, "title"))
    field = MaterialField(lambda: pantry, "Type a material, Enter takes the first")
    column.addWidget(field)
    found: list[str] = []

    def take(key: str) -> None:
        found.append(key)
        dialog.accept()

    field.chosen.connect(take)
    run_dialog(dialog)
    return found[0] if found else None
