"""The materials of the pantry as a list that can be searched."""

from typing import Any

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, Qt

from aplomb.desk.session import Session

MOST_SHOWN = 200
"""Materials that are listed at once; who looks for another types more of its name."""


class PantryModel(QAbstractListModel):
    """The materials that fit the search."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._words = ""
        self.keys: list[str] = []
        self.total = 0
        self.search("")

    def search(self, words: str) -> None:
        """Show the materials whose names hold the words."""
        self.beginResetModel()
        self._words = words
        pantry = self._session.reference.pantry
        found = pantry.search(words) if words.strip() else list(pantry)
        self.total = len(found)
        self.keys = [material.key for material in found[:MOST_SHOWN]]
        self.endResetModel()

    def include(self, key: str) -> int:
        """Show a material whatever was searched; gives its place."""
        if key not in self.keys:
            self.search("")
        if key not in self.keys:
            self.beginInsertRows(QModelIndex(), 0, 0)
            self.keys.insert(0, key)
            self.endInsertRows()
        return self.keys.index(key)

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
