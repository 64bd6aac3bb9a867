"""A row of widgets that goes on in the next line when it is full."""

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLabel, QLayout, QLayoutItem, QWidget


class Flow(QLayout):
    """Widgets side by side, as many lines as the width needs; hidden ones take no room.

    Words stay on one line with what they stand before, or, at the end, behind.
    """

    def __init__(self, *widgets: QWidget, spacing: int = 2) -> None:
        self._items: list[QLayoutItem] = []
        self._heights: dict[int, int] = {}
        super().__init__()
        self.setContentsMargins(0, 0, 0, 0)
        self.setSpacing(spacing)
        for widget in widgets:
            self.addWidget(widget)

    def addItem(self, item: QLayoutItem) -> None:
        """Take an item at the end."""
        self._items.append(item)

    def count(self) -> int:
        """How many items there are."""
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        """Give an item; None beyond the last."""
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        """Let go of an item."""
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        """It asks for no more than it needs."""
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        """Its height follows from its width."""
        return True

    def heightForWidth(self, width: int) -> int:
        """Height at a width [px]."""
        if width not in self._heights:
            self._heights[width] = self._place(QRect(0, 0, width, 0), move=False)
        return self._heights[width]

    def invalidate(self) -> None:
        """Something in it changed: heights are worked out anew."""
        self._heights.clear()
        super().invalidate()

    def setGeometry(self, room: QRect) -> None:
        """Put the items into their places."""
        super().setGeometry(room)
        self._place(room, move=True)

    def sizeHint(self) -> QSize:
        """As wide as its widest item, and one line high."""
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        """As wide as its widest item."""
        size = QSize()
        for item in self._items:
            if not item.isEmpty():
                size = size.expandedTo(item.minimumSize())
        return size

    def _place(self, room: QRect, *, move: bool) -> int:
        y = room.y()
        for line in self._lines(room.width()):
            high = max(item.sizeHint().height() for item in line)
            x = room.x()
            for item in line if move else ():
                size = item.sizeHint()
                item.setGeometry(QRect(QPoint(x, y + (high - size.height()) // 2), size))
                x += size.width() + self.spacing()
            y += high + self.spacing()
        return max(0, y - self.spacing() - room.y())

    def _lines(self, width: int) -> list[list[QLayoutItem]]:
        lines: list[list[QLayoutItem]] = []
        x = 0
        for group in self._groups():
            widths = [item.sizeHint().width() for item in group]
            whole = sum(widths) + self.spacing() * (len(group) - 1)
            for i, (item, wide) in enumerate(zip(group, widths, strict=True)):
                together = whole if i == 0 and whole <= width else wide
                if not lines or x + together > width:
                    lines.append([])
                    x = 0
                lines[-1].append(item)
                x += wide + self.spacing()
        return lines

    def _groups(self) -> list[list[QLayoutItem]]:
        """What stays on one line: words with what follows; the last words with what is before."""
        groups: list[list[QLayoutItem]] = []
        shown = [item for item in self._items if not item.isEmpty()]
        words = [isinstance(item.widget(), QLabel) for item in shown]
        for i, item in enumerate(shown):
            caption = i > 0 and words[i - 1] and not words[i]
            unit = 0 < i == len(shown) - 1 and words[i] and not words[i - 1]
            if caption or unit:
                groups[-1].append(item)
            else:
                groups.append([item])
        return groups
