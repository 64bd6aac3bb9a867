"""Large tiles to press: a word and its key; a press is as good as the key."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QSizePolicy

from aplomb.desk.drawings.bench import CARD, DARK, FAT, INK, LINE, SOFT, bench_font

LEAST_TEXT = 24.0
"""Smallest text on the bench, in a window 800 px high [px]."""
TOUCH_MM = 15.0
"""Least side of what is touched [mm]."""


class Tile(QAbstractButton):
    """A tile.

    Parameters
    ----------
    words, key : str
        As they are read.
    main : bool
        The one key's own.
    """

    def __init__(
        self, words: str, key: str, act: Callable[[], object], *, main: bool = False
    ) -> None:
        super().__init__()
        self.key, self._main, self._u = key, main, 1.0
        self._touch_px = 57
        self._inverted = False
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setSizePolicy(
            QSizePolicy.Policy.Expanding if main else QSizePolicy.Policy.Preferred,
            QSizePolicy.Policy.Fixed,
        )
        self.clicked.connect(act)
        self.say(words)

    def say(self, words: str) -> None:
        """Change its words."""
        if words != self.text():
            self.setText(words)
            self.setAccessibleName(words)
            self.setAccessibleDescription(f"key: {self.key}")
            self.updateGeometry()
            self.update()

    def invert(self, *, on: bool) -> None:
        """Wear the ground's colours: on the ground of an alarm."""
        if on != self._inverted:
            self._inverted = on
            self.update()

    def fit(self, u: float, px_mm: float) -> None:
        """Fit to the window: `u` is its height over 800 px [-]; pixels to a millimetre."""
        self._u, self._touch_px = u, round(TOUCH_MM * px_mm)
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """As wide as its words, and never smaller than a fingertip in flour."""
        from PySide6.QtGui import QFontMetricsF

        metrics = QFontMetricsF(bench_font(LEAST_TEXT * self._u, 600))
        wide = max(metrics.horizontalAdvance(self.text()), metrics.horizontalAdvance(self.key) + 20)
        high = max(104 * self._u, float(self._touch_px))
        return QSize(max(round(wide + 34 * self._u), self._touch_px), round(high))

    def minimumSizeHint(self) -> QSize:
        """As its size hint."""
        return self.sizeHint()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint it."""
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        room, u = QRectF(self.rect()).adjusted(1, 1, -1, -1), self._u
        p.setPen(Qt.PenStyle.NoPen)
        main = self._main and not self._inverted
        p.setBrush(QColor(FAT if main else DARK if self._inverted else CARD))
        p.drawRoundedRect(room, 10 * u, 10 * u)
        if self.isDown():
            p.setBrush(QColor(0, 0, 0, 60))
            p.drawRoundedRect(room, 10 * u, 10 * u)
        edge = 16 * u
        p.setPen(QColor(DARK if main else INK))
        p.setFont(bench_font((30 if self._main else LEAST_TEXT) * u, 600))
        line = p.fontMetrics().height()
        p.drawText(QRectF(edge, 8 * u, room.width() - edge, line), 0, self.text())
        p.setFont(bench_font(LEAST_TEXT * u, 600))
        wide = p.fontMetrics().horizontalAdvance(self.key) + 16 * u
        high = p.fontMetrics().height()
        box = QRectF(edge, room.bottom() - high - 9 * u, wide, high)
        p.setPen(QPen(QColor(DARK if main else LINE), 1.6))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRoundedRect(box, 5 * u, 5 * u)
        p.setPen(QColor(DARK if main else SOFT))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, self.key)
