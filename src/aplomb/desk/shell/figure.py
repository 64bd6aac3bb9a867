"""One figure of the headline, with its school band and the sum behind it."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetrics,
    QKeyEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QToolTip, QWidget

from aplomb.core.base.figures import num
from aplomb.core.opinion.opinion import Band
from aplomb.core.paste.ingredient import STANDING_WORDS
from aplomb.core.readings.readings import READING_WORDS
from aplomb.core.study.explain import explain
from aplomb.core.study.study import Study
from aplomb.desk.kit.fields import plain_tip
from aplomb.desk.kit.theme import look
from aplomb.work.figures.typed import reading_text

KEYS = (
    "fat_product_pct",
    "fat_on_dough_pct",
    "dough_water_pct",
    "salt_pct",
    "fat_leaves",
    "fat_leaf_um",
)
BRIEF = {
    "fat_product_pct": "on flour", "fat_on_dough_pct": "on dough", "dough_water_pct": "water",
    "salt_pct": "salt", "fat_leaves": "leaves", "fat_leaf_um": "leaf",
}  # fmt: skip
"""Words of the figures where the headline is one line."""


class Figure(QWidget):
    """One reading with its band: F1 or a pause of the mouse tells the sum behind it."""

    def __init__(self, key: str) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self.key = key
        self._value: float | None = None
        self._band: Band | None = None
        self._mean = False
        self.sum = ""
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """Wide enough for the words, high enough for word, figure and band."""
        if look.theme.large:
            said = QFontMetrics(look.theme.font(13)).horizontalAdvance(f"{BRIEF[self.key]} ")
            figure = QFontMetrics(look.theme.font(17, 600)).horizontalAdvance(self._text())
            unit = QFontMetrics(look.theme.font(13)).horizontalAdvance(self._unit())
            return QSize(said + figure + unit + 8, look.theme.px(26) + 6)
        words = QFontMetrics(look.theme.font(14)).horizontalAdvance(READING_WORDS[self.key][0])
        return QSize(max(words + 8, look.theme.px(96)), look.theme.figure_high)

    def _text(self) -> str:
        return ("≈" if self._mean else "") + reading_text(self._value)

    def _unit(self) -> str:
        unit = READING_WORDS[self.key][1]
        return f" {unit}" if unit else ""

    def minimumSizeHint(self) -> QSize:
        """As `sizeHint`, narrower."""
        hint = self.sizeHint()
        return QSize(hint.width() // 2, hint.height())

    def show_study(self, study: Study | None) -> None:
        """Show a study's reading."""
        words, unit = READING_WORDS[self.key]
        if study is None:
            self._value, self._band, self.sum = None, None, ""
            return
        self._value = getattr(study.readings, self.key)
        self._band = study.school.bands.get(self.key)
        self._mean = study.readings.leaves_are_means and self.key.startswith("fat_l")
        usual = ""
        if self._band:
            standing = STANDING_WORDS[self._band.standing]
            usual = (
                f"\nUsual for {study.school.name}: {num(self._band.low)} to "
                f"{num(self._band.high)} {unit} ({standing}; {self._band.words})."
            )
        self.sum = explain(study, self.key) + usual
        if look.theme.large:  # as wide as its own figure there: ≈148 is wider than 144
            self.updateGeometry()
        self.setToolTip(plain_tip(f"{words}\n{self.sum}"))
        place = self._place_word()
        self.setAccessibleName(f"{words} {reading_text(self._value)} {unit}, {place}")
        self.setAccessibleDescription(self.sum)
        self.update()

    def _place_word(self) -> str:
        if self._value is None or self._band is None:
            return "not known"
        if self._value < self._band.low:
            return "below the usual range"
        return "above the usual range" if self._value > self._band.high else "usual"

    def explain(self) -> None:
        """Show the sum beside the figure."""
        where = self.mapToGlobal(QPointF(0, self.height()).toPoint())
        QToolTip.showText(where, self.toolTip(), self)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """F1, Enter or Space tells the sum."""
        if event.key() in (Qt.Key.Key_F1, Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.explain()
            return
        super().keyPressEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint word, figure, unit, band and pointer."""
        p = look.theme.palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        words, unit = READING_WORDS[self.key]
        if look.theme.large:
            self._paint_brief(painter)
            return
        painter.setFont(look.theme.font(14))
        painter.setPen(QColor(p.second))
        painter.drawText(QPointF(2, look.theme.px(15)), words)
        painter.setFont(look.theme.font(26, 600))
        painter.setPen(QColor(p.text))
        text = self._text()
        base = look.theme.px(44)
        painter.drawText(QPointF(1, base), text)
        x = painter.fontMetrics().horizontalAdvance(text) + 6
        painter.setFont(look.theme.font(15))
        painter.setPen(QColor(p.second))
        painter.drawText(QPointF(x, base), unit)
        self._paint_band(painter, look.theme.px(53))
        if self.hasFocus():
            painter.setPen(QColor(p.action))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5)

    def _paint_brief(self, painter: QPainter) -> None:
        """Paint word, figure and unit on one line, and its band thinly below."""
        p = look.theme.palette
        base, x = look.theme.px(20), 2.0
        for text, size, weight, color in (
            (f"{BRIEF[self.key]} ", 13, 400, p.second),
            (self._text(), 17, 600, p.text),
            (self._unit(), 13, 400, p.second),
        ):
            painter.setFont(look.theme.font(size, weight))
            painter.setPen(QColor(color))
            painter.drawText(QPointF(x, base), text)
            x += painter.fontMetrics().horizontalAdvance(text)
        self._paint_band(painter, look.theme.px(25), pointer=False)
        if self._band is not None and self._place_word() != "usual" and self._value is not None:
            painter.setPen(Qt.PenStyle.NoPen)  # beside its band, the whole band is ringed
            painter.setPen(QPen(QColor(p.look), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(1, look.theme.px(25) - 1.5, self.width() - 4, 6), 3, 3)
        if self.hasFocus():
            painter.setPen(QColor(p.action))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5)

    def _paint_band(self, painter: QPainter, y: float, *, pointer: bool = True) -> None:
        band, p = self._band, look.theme.palette
        wide = self.width() - 4
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(p.line))
        painter.drawRoundedRect(QRectF(1, y, wide, 4), 2, 2)
        if band is None:
            return
        low, high = self._at(band.low, band), self._at(band.high, band)
        painter.setBrush(QColor(p.band))
        painter.drawRoundedRect(QRectF(1 + low * wide, y - 1, (high - low) * wide, 6), 2, 2)
        if not pointer or self._value is None or self._value <= 0:
            return
        x = 1 + self._at(self._value, band) * wide
        usual = band.low <= self._value <= band.high
        painter.setBrush(QColor(p.text if usual else p.look))
        # Outside the band the pointer has a hole too, so that it does not hang on the colour.
        tip = QPolygonF([QPointF(x, y + 3), QPointF(x - 5, y + 12), QPointF(x + 5, y + 12)])
        painter.drawPolygon(tip)
        if not usual:
            painter.setBrush(QColor(p.page))
            painter.drawEllipse(QPointF(x, y + 9), 1.6, 1.6)

    def _at(self, value: float, band: Band) -> float:
        low, high, x = band.axis_low, band.axis_high, value
        if band.log:
            low, high, x = math.log(low), math.log(high), math.log(max(value, band.axis_low))
        return min(1.0, max(0.0, (x - low) / (high - low)))

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show the focus."""
        super().focusInEvent(event)
        self.update()
