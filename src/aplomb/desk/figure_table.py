"""A table of figures that is only read: a name, then figures flush right."""

from msgspec import Struct
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from aplomb.desk.theme import Theme


class Row(Struct, frozen=True):
    """A row: its name, its figures, and how it is shown.

    Attributes
    ----------
    name : str
    cells : tuple of str
    kind : str
        ``head``, ``plain``, ``changed`` or ``same``.
    """

    name: str
    cells: tuple[str, ...] = ()
    kind: str = "plain"


class FigureTable(QWidget):
    """Rows of figures, painted; screen readers get them as text."""

    def __init__(self, theme: Theme, name: str, columns: int, cell: float = 86) -> None:
        super().__init__()
        self._theme, self._columns, self._cell = theme, columns, cell
        self._rows: tuple[Row, ...] = ()
        self._measured: tuple[tuple[Row, ...], QFont] | None = None
        self._wide = 0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(name)

    def set_theme(self, theme: Theme) -> None:
        """Take another palette or size of text."""
        self._theme = theme
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
        return self._theme.px(23)

    def sizeHint(self) -> QSize:
        """As high as its rows."""
        return QSize(240, max(1, len(self._rows)) * self._row_height() + 4)

    def minimumSizeHint(self) -> QSize:
        """Narrow, as high as its rows."""
        return QSize(150, self.sizeHint().height())

    def _widest(self, font: QFont) -> int:
        """Width that no figure is cut off at [px]."""
        known = (self._rows, font)
        if known != self._measured:
            metrics = QFontMetrics(font)
            cells = (text for row in self._rows if row.kind != "head" for text in row.cells)
            self._wide = max((metrics.horizontalAdvance(text) for text in cells), default=0) + 6
            self._measured = known
        return self._wide

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the rows."""
        p, theme = self._theme.palette, self._theme
        painter = QPainter(self)
        high = self._row_height()
        small, plain, strong = theme.font(13), theme.font(14.5), theme.font(14.5, 600)
        most = round(self.width() * 0.62 / max(1, self._columns))
        cell = min(max(theme.px(self._cell), self._widest(plain)), most)
        left = self.width() - cell * self._columns
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
            room = self.width() - cell * len(each.cells) if each.cells else self.width()
            name = metrics.elidedText(each.name, Qt.TextElideMode.ElideRight, room - 6)
            painter.drawText(QRectF(0, y, room - 4, high), start, name)
            for j, text in enumerate(each.cells):
                place = QRectF(left + j * cell, y, cell - 2, high)
                shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, cell - 4)
                painter.drawText(place, right, shown)
            if head and each.cells:
                painter.setPen(QPen(QColor(p.line), 1))
                painter.drawLine(0, y + high - 1, self.width(), y + high - 1)
