"""A table of figures that is only read: a name, then figures flush right."""

import math

from msgspec import Struct
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from aplomb.desk.kit.theme import Theme, look


class Row(Struct, frozen=True):
    """A row: its name, its figures, and how it is shown.

    Attributes
    ----------
    kind : str
        ``head``, ``plain``, ``changed`` or ``same``.
    """

    name: str
    cells: tuple[str, ...] = ()
    kind: str = "plain"


HEAD, FIGURE, STRONG = 13.0, 14.5, 600
"""Size of heads and of figures [pt], and the weight of those that change."""
EVEN_SHARE, MOST_SHARE = 0.62, 0.75
"""Of the table's width, for columns alike and for columns as wide as their figures [-]."""


class FigureTable(QWidget):
    """Rows of figures, painted; screen readers get them as text."""

    def __init__(self, name: str, columns: int, cell: float = 86) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._columns, self._cell = columns, cell
        self._rows: tuple[Row, ...] = ()
        self._measured: tuple[tuple[Row, ...], Theme, int] | None = None
        self._wides: list[int] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(name)

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def show_rows(self, rows: tuple[Row, ...]) -> None:
        """Show other rows."""
        if rows == self._rows:
            return
        self._rows = rows
        self.setAccessibleDescription(self.text())
        self.updateGeometry()
        self.update()

    def text(self) -> str:
        """Give all that is shown as lines of text."""
        return "\n".join(" ".join((r.name, *r.cells)).rstrip() for r in self._rows)

    def _row_height(self) -> int:
        return look.theme.px(23)

    def sizeHint(self) -> QSize:
        """As high as its rows."""
        return QSize(240, max(1, len(self._rows)) * self._row_height() + 4)

    def minimumSizeHint(self) -> QSize:
        """Narrow, as high as its rows."""
        return QSize(150, self.sizeHint().height())

    def _columns_px(self) -> list[int]:
        """Widths of the columns, so that no figure is cut off while there is room [px]."""
        known = (self._rows, look.theme, self.width())
        if known == self._measured:
            return self._wides
        plain = QFontMetrics(look.theme.font(FIGURE, STRONG))
        small = QFontMetrics(look.theme.font(HEAD))
        needed = [0] * self._columns
        for row in self._rows:
            metrics = small if row.kind == "head" else plain
            for j, text in enumerate(row.cells[: self._columns]):
                needed[j] = max(needed[j], metrics.horizontalAdvance(text) + 6)
        even = min(
            look.theme.px(self._cell), round(self.width() * EVEN_SHARE / max(1, self._columns))
        )
        wides = [max(even, each) for each in needed]
        most = self.width() * MOST_SHARE
        if sum(wides) > most:
            wides = needed if sum(needed) > 0 else wides
        if sum(wides) > most:
            wides = [math.floor(each * most / sum(wides)) for each in wides]
        self._measured, self._wides = known, wides
        return wides

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the rows."""
        p = look.theme.palette
        painter = QPainter(self)
        high = self._row_height()
        small, plain, strong = (
            look.theme.font(HEAD),
            look.theme.font(FIGURE),
            look.theme.font(FIGURE, STRONG),
        )
        wides = self._columns_px()
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        start = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        for i, each in enumerate(self._rows):
            y = i * high
            head = each.kind == "head"
            ink = p.second if head or each.kind == "same" else p.text
            font = small if head else strong if each.kind == "changed" else plain
            painter.setFont(font)
            painter.setPen(QColor(ink))
            metrics = QFontMetrics(font)
            mine = wides[: len(each.cells)]
            room = self.width() - sum(wides) if each.cells else self.width()
            name = metrics.elidedText(each.name, Qt.TextElideMode.ElideRight, room - 6)
            painter.drawText(QRectF(0, y, room - 4, high), start, name)
            x = self.width() - sum(wides)
            for wide, text in zip(mine, each.cells, strict=False):
                shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, wide - 4)
                painter.drawText(QRectF(x, y, wide - 2, high), right, shown)
                x += wide
            if head and each.cells:
                painter.setPen(QPen(QColor(p.line), 1))
                painter.drawLine(0, y + high - 1, self.width(), y + high - 1)
