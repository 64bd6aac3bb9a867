"""Fields that find something by any part of its names: a material, a formula."""

from collections.abc import Callable, Mapping, Sequence

from PySide6.QtCore import QStringListModel, Qt, Signal
from PySide6.QtWidgets import QCompleter, QDialog, QLineEdit, QListView, QVBoxLayout, QWidget

from aplomb.core.base.errors import AplombError
from aplomb.core.paste.pantry import Pantry
from aplomb.desk.kit.fields import label, plain_tip, run_dialog
from aplomb.desk.kit.theme import look

MOST_SHOWN = 12


class FindField(QLineEdit):
    """Type any part of a name; Enter takes the first that fits.

    Parameters
    ----------
    search : callable
        Takes what is typed, gives the names that fit, the best first.
    find : callable
        Takes a name, gives the key of what it names; raises AplombError when nothing does.
    name : str
        What is looked for, for people and screen readers.

    Signals
    -------
    chosen : str
        Key of what was found.
    """

    chosen = Signal(str)

    def __init__(
        self, search: Callable[[str], Sequence[str]], find: Callable[[str], str], name: str
    ) -> None:
        super().__init__()
        self._search_names, self._find = search, find
        self._names = QStringListModel(self)
        self.setAccessibleName(name)
        self.setPlaceholderText(name)
        completer = QCompleter(self._names, self)
        completer.setCompletionMode(QCompleter.CompletionMode.UnfilteredPopupCompletion)
        completer.setMaxVisibleItems(MOST_SHOWN)
        self._popup = QListView()
        completer.setPopup(self._popup)
        self._popup.setObjectName("popup")
        self._popup.setAccessibleName("Matches")
        self.setCompleter(completer)
        self.textEdited.connect(self._search)
        completer.activated.connect(self._take, Qt.ConnectionType.QueuedConnection)
        self.returnPressed.connect(self._enter)

    def _search(self, text: str) -> None:
        self.setProperty("bad", False)
        self._restyle()
        found = self._search_names(text)[:MOST_SHOWN] if text.strip() else []
        self._names.setStringList(list(found))
        if found:
            self._popup.setStyleSheet(look.theme.style())
            self.completer().complete()

    def _enter(self) -> None:
        if not self.text().strip():
            return
        found = self._search_names(self.text())
        self._take(found[0] if found else self.text())

    def _take(self, name: str) -> None:
        if not name.strip() or (not self.text() and self.completer().currentCompletion() == ""):
            return
        try:
            key = self._find(name)
        except AplombError as error:
            self.setToolTip(plain_tip(str(error)))
            self.setAccessibleDescription(str(error))
            self.setProperty("bad", True)
            self._restyle()
            return
        self.clear()
        self._names.setStringList([])
        self.chosen.emit(key)

    def _restyle(self) -> None:
        self.style().unpolish(self)
        self.style().polish(self)


class MaterialField(FindField):
    """Finds a material by any of its names; the pantry is asked each time, it may have changed."""

    def __init__(self, pantry: Callable[[], Pantry], name: str) -> None:
        super().__init__(
            lambda text: [material.name for material in pantry().search(text)],
            lambda text: pantry().named(text).key,
            name,
        )


class FormulaField(FindField):
    """Finds a formula of the book by any part of its name.

    `names` gives the names of all formulas by their identity.
    """

    def __init__(self, names: Callable[[], Mapping[str, str]], name: str) -> None:
        def search(text: str) -> list[str]:
            part = text.strip().casefold()
            return [each for each in names().values() if part in each.casefold()][:MOST_SHOWN]

        def find(text: str) -> str:
            for uid, each in names().items():
                if each.casefold() == text.strip().casefold():
                    return uid
            raise AplombError(f"No formula is called “{text.strip()}”.")

        super().__init__(search, find, name)


def ask_material(parent: QWidget, pantry: Pantry, words: str) -> str | None:
    """Ask for a material in a small dialog; None when it is closed without one."""
    dialog = QDialog(parent)
    dialog.setWindowTitle(words)
    dialog.setMinimumWidth(380)
    column = QVBoxLayout(dialog)
    column.addWidget(label(words, "title"))
    field = MaterialField(lambda: pantry, "Type an ingredient; Enter picks the first")
    column.addWidget(field)
    found: list[str] = []

    def take(key: str) -> None:
        found.append(key)
        dialog.accept()

    field.chosen.connect(take)
    run_dialog(dialog)
    return found[0] if found else None
