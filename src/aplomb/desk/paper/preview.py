"""Pages of a paper on screen, as they are printed."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPicture
from PySide6.QtWidgets import QSizePolicy, QWidget

from aplomb.desk.kit.theme import look
from aplomb.desk.paper.canvas import A4, UNIT

GAP = 14


class Preview(QWidget):
    """Pages one below the other, as wide as there is room."""

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._pages: list[QPicture] = []
        self._size = A4
        self._more = ""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Preview")

    @property
    def count(self) -> int:
        """Pages that are shown [-]."""
        return len(self._pages)

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def show_pages(
        self, pages: list[QPicture], size_mm: tuple[float, float], words: str, more: str = ""
    ) -> None:
        """Show pages.

        Parameters
        ----------
        size_mm : tuple of two floats
            A page, wide and high [mm].
        words : str
            What they are, for who cannot see them.
        more : str
            Said below, when there are more.
        """
        self._pages, self._size, self._more = pages, size_mm, more
        self.setAccessibleDescription(words)
        self.updateGeometry()
        self.update()

    def _scale(self) -> float:
        """Pixels a millimetre."""
        return max(0.2, (self.width() - 8) / self._size[0])

    def hasHeightForWidth(self) -> bool:
        """Its height follows from its width."""
        return True

    def heightForWidth(self, width: int) -> int:
        """Height of all pages at a width [px]."""
        page = max(0.2, (width - 8) / self._size[0]) * self._size[1]
        more = look.theme.px(28) if self._more else 0
        return round(len(self._pages) * (page + GAP) + more + 4)

    def sizeHint(self) -> QSize:
        """All pages."""
        wide = max(320, self.width())
        return QSize(wide, self.heightForWidth(wide))

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the pages that are seen."""
        painter = QPainter(self)
        scale = self._scale()
        wide, high = self._size[0] * scale, self._size[1] * scale
        seen = QRectF(event.rect())
        for i, page in enumerate(self._pages):
            box = QRectF(3, 2 + i * (high + GAP), wide, high)
            if not box.intersects(seen):
                continue
            painter.fillRect(box.translated(2, 3), QColor(0, 0, 0, 40))
            painter.fillRect(box, QColor("#FFFFFF"))
            painter.save()
            painter.setClipRect(box)
            painter.translate(box.topLeft())
            painter.scale(scale / UNIT, scale / UNIT)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.drawPicture(0, 0, page)
            painter.restore()
        if self._more:
            painter.setFont(look.theme.font(14))
            painter.setPen(QColor(look.theme.palette.second))
            top = len(self._pages) * (high + GAP)
            below = QRectF(3, top, wide, look.theme.px(26))
            painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, self._more)
