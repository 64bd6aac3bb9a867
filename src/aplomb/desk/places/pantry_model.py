"""The materials of the pantry as a list that can be searched."""

from typing import Any

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, Qt

from aplomb.desk.session import Session


class PantryModel(QAbstractListModel):
    """The materials that fit the search."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._words = ""
        self.keys: list[str] = []
        self.search("")

    def search(self, words: str) -> None:
        """Show the materials whose names hold the words."""
        self.beginResetModel()
        self._words = words
        pantry = self._session.reference.pantry
        found = pantry.search(words) if words.strip() else list(pantry)
        self.keys = [material.key for material in found]
        self.endResetModel()

    def again(self) -> None:
        """Search anew: the pantry is another."""
        self.search(self._words)

    def rowCount(self, parent: QModelIndex | QPersistentModelIndex | None = None) -> int:
        """How many there are."""
        return 0 if parent is not None and parent.isValid() else len(self.keys)

    def data(
        self, index: QModelIndex | QPersistentModelIndex, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        """Name, with a word on whose it is and what it costs."""
        if not index.isValid() or not 0 <= index.row() < len(self.keys):
            return None
        pantry = self._session.reference.pantry
        material = pantry[self.keys[index.row()]]
        if role == Qt.ItemDataRole.DisplayRole:
            own = "  · yours" if pantry.is_own(material.key) else ""
            return f"{material.name}{own}"
        if role == Qt.ItemDataRole.ToolTipRole:
            return f"{material.name}\n{material.source}"
        return None
