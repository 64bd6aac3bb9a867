"""Solid fat over temperature: the curves, the plastic band, fridge and shop."""

from collections.abc import Callable
from dataclasses import dataclass

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPen, QPolygonF

from aplomb.core.base.figures import celsius_text, degrees, num
from aplomb.core.fats.solid import PLASTIC_SFC, Range, Table, solid_at
from aplomb.desk.kit.theme import Theme

COLDEST_C, WARMEST_C, MOST_SFC = 0.0, 40.0, 60.0


class Curve(Struct, frozen=True):
    """One curve: its name and its table; the main one is drawn heavier."""

    name: str
    table: Table
    main: bool = False


class FatChart(Struct, frozen=True):
    """All that is drawn."""

    curves: tuple[Curve, ...]
    fridge_c: float
    shop_c: float
    plastic: Range | None
    enclose_c: tuple[float, float] | None
    blended: bool


def paint_fat_chart(painter: QPainter, room: QRectF, chart: FatChart, theme: Theme) -> None:
    """Paint the chart into a room."""
    axes = _Axes.in_room(room, theme)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(theme.font(12.5))
    _paint_ground(painter, axes, theme)
    _paint_places(painter, axes, chart, theme)
    below = QRectF(axes.plot.left(), axes.plot.bottom() + axes.line + 8, axes.plot.width(), 8)
    _paint_ranges(painter, chart, theme, below, axes.x)
    taken: list[float] = []
    for curve in sorted(chart.curves, key=lambda c: c.main):
        _paint_curve(painter, axes, curve, theme, taken)


@dataclass(frozen=True)
class _Axes:
    """Where temperatures and solid fat lie in the room [px]."""

    room: QRectF
    plot: QRectF
    line: float

    @classmethod
    def in_room(cls, room: QRectF, theme: Theme) -> "_Axes":
        metrics = QFontMetrics(theme.font(12.5))
        line = metrics.height()
        wide = metrics.horizontalAdvance("60 %") + 8
        return cls(room, room.adjusted(wide, line + 6, -wide, -3 * line - 14), line)

    def x(self, temp: float) -> float:
        """Place of a temperature [°C]."""
        share = (temp - COLDEST_C) / (WARMEST_C - COLDEST_C)
        return self.plot.left() + share * self.plot.width()

    def y(self, solid: float) -> float:
        """Place of a solid fat content [%]."""
        return self.plot.bottom() - solid / MOST_SFC * self.plot.height()


_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
_CENTRE = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop


def _paint_ground(painter: QPainter, axes: _Axes, theme: Theme) -> None:
    """Paint the plastic band, and the figures of both axes."""
    p, plot, line = theme.palette, axes.plot, axes.line
    low, high = PLASTIC_SFC
    band = QRectF(QPointF(plot.left(), axes.y(high)), QPointF(plot.right(), axes.y(low)))
    tint = QColor(p.band)
    tint.setAlpha(90)
    painter.fillRect(band, tint)
    for solid in (0.0, 20.0, 40.0, 60.0):
        y = axes.y(solid)
        painter.setPen(QPen(QColor(p.line), 1))
        painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
        painter.setPen(QColor(p.second))
        place = QRectF(axes.room.left(), y - line / 2, plot.left() - axes.room.left() - 6, line)
        painter.drawText(place, _RIGHT, f"{num(solid)} %")
    for celsius in range(0, 41, 5):
        place = QRectF(axes.x(celsius) - 30, plot.bottom() + 3, 60, line)
        words = celsius_text(celsius) if celsius in (0, 40) else degrees(celsius)
        painter.drawText(place, _CENTRE, words)
    painter.drawText(
        band.adjusted(0, 1, -6, 0),
        Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop,
        "plastic",
    )


def _paint_places(painter: QPainter, axes: _Axes, chart: FatChart, theme: Theme) -> None:
    """Paint how warm fridge and bakery are."""
    p = theme.palette
    for word, temp, ground in (
        ("fridge", chart.fridge_c, p.cold),
        ("bakery", chart.shop_c, p.action),
    ):
        if not COLDEST_C <= temp <= WARMEST_C:
            continue
        x = axes.x(temp)
        painter.setPen(QPen(QColor(ground), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, axes.plot.top() - 2), QPointF(x, axes.plot.bottom()))
        painter.setPen(QColor(ground))
        above = QRectF(x - 80, axes.room.top(), 160, axes.line)
        painter.drawText(above, _CENTRE, f"{word} {celsius_text(temp)}")


def _paint_curve(
    painter: QPainter, axes: _Axes, curve: Curve, theme: Theme, taken: list[float]
) -> None:
    """Paint one fat's curve, and its name where none stands yet."""
    p, line = theme.palette, axes.line
    ink = QColor(p.fat_edge if curve.main else p.handle)
    painter.setPen(QPen(ink, 3.2 if curve.main else 1.6))
    points = [QPointF(axes.x(t), axes.y(s)) for t, s in curve.table]
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(QPolygonF(points))
    painter.setBrush(ink)
    painter.setPen(Qt.PenStyle.NoPen)
    for point in points:
        size = 3.4 if curve.main else 2.4
        painter.drawEllipse(point, size, size)
    first = curve.table[0][0]
    at = _label_height(axes.y(solid_at(curve.table, first)) - line / 2, taken, line)
    painter.setPen(QColor(p.text if curve.main else p.second))
    face = theme.font(12.5, 600 if curve.main else 400)
    painter.setFont(face)
    left, start = axes.plot.left(), axes.x(first)
    room = int(start - left) - 10
    words = QFontMetrics(theme.font(12.5)).elidedText(curve.name, Qt.TextElideMode.ElideRight, room)
    painter.drawText(QRectF(left + 2, at, start - left - 8, line), _RIGHT, words)


def _label_height(wanted: float, taken: list[float], line: float) -> float:
    while any(abs(wanted - other) < line * 0.95 for other in taken):
        wanted += line * 0.25
    taken.append(wanted)
    return wanted


def _paint_ranges(
    painter: QPainter, chart: FatChart, theme: Theme, strip: QRectF, x: Callable[[float], float]
) -> None:
    """Below the axis: where it is plastic by its solid fat, and where it is enclosed."""
    p = theme.palette
    if chart.plastic is not None and chart.curves:
        table = next(c.table for c in chart.curves if c.main)
        low = chart.plastic.low if chart.plastic.low is not None else table[0][0]
        high = chart.plastic.high if chart.plastic.high is not None else table[-1][0]
        if high > low:
            bar = QRectF(x(low), strip.top(), x(high) - x(low), 6)
            painter.fillRect(bar, QColor(p.band))
            _beside(painter, bar, "plastic", p.second)
    if chart.enclose_c is not None:
        low, high = chart.enclose_c
        gap = QFontMetrics(painter.font()).height() * 0.9
        bar = QRectF(x(low), strip.top() + gap, x(high) - x(low), 6)
        painter.fillRect(bar, QColor(p.fat))
        _beside(painter, bar, "enclosed and rolled", p.second)


def _beside(painter: QPainter, bar: QRectF, words: str, ink: str) -> None:
    painter.setPen(QColor(ink))
    high = QFontMetrics(painter.font()).height()
    place = QRectF(bar.right() + 8, bar.center().y() - high / 2, 240, high)
    painter.drawText(place, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)
