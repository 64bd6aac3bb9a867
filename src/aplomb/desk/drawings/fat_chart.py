"""Solid fat over temperature: the curves, the plastic band, fridge and shop."""

from collections.abc import Callable

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
    """Paint the chart into a room.

    Parameters
    ----------
    painter : QPainter
    room : QRectF
    chart : FatChart
    theme : Theme
    """
    p = theme.palette
    small = theme.font(12.5)
    metrics = QFontMetrics(small)
    line = metrics.height()
    wide = metrics.horizontalAdvance("60 %") + 8
    plot = room.adjusted(wide, line + 6, -wide, -3 * line - 14)

    def x(temp: float) -> float:
        return plot.left() + (temp - COLDEST_C) / (WARMEST_C - COLDEST_C) * plot.width()

    def y(solid: float) -> float:
        return plot.bottom() - solid / MOST_SFC * plot.height()

    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(small)
    low, high = PLASTIC_SFC
    band = QRectF(QPointF(plot.left(), y(high)), QPointF(plot.right(), y(low)))
    tint = QColor(p.band)
    tint.setAlpha(90)
    painter.fillRect(band, tint)
    painter.setPen(QColor(p.second))
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    for solid in (0.0, 20.0, 40.0, 60.0):
        painter.setPen(QPen(QColor(p.line), 1))
        painter.drawLine(QPointF(plot.left(), y(solid)), QPointF(plot.right(), y(solid)))
        painter.setPen(QColor(p.second))
        place = QRectF(room.left(), y(solid) - line / 2, plot.left() - room.left() - 6, line)
        painter.drawText(place, right, f"{num(solid)} %")
    centre = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
    for celsius in range(0, 41, 5):
        place = QRectF(x(celsius) - 30, plot.bottom() + 3, 60, line)
        words = celsius_text(celsius) if celsius in (0, 40) else degrees(celsius)
        painter.drawText(place, centre, words)
    for word, temp, ground in (
        ("fridge", chart.fridge_c, p.cold), ("shop", chart.shop_c, p.action),
    ):  # fmt: skip
        if not COLDEST_C <= temp <= WARMEST_C:
            continue
        painter.setPen(QPen(QColor(ground), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x(temp), plot.top() - 2), QPointF(x(temp), plot.bottom()))
        painter.setPen(QColor(ground))
        painter.drawText(
            QRectF(x(temp) - 80, room.top(), 160, line), centre, f"{word} {celsius_text(temp)}"
        )
    painter.setPen(QColor(p.second))
    painter.drawText(
        band.adjusted(0, 1, -6, 0),
        Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop,
        "plastic",
    )
    painter.setFont(small)
    _paint_ranges(painter, chart, theme, QRectF(plot.left(), plot.bottom() + line + 8,
                                                plot.width(), 8), x)  # fmt: skip
    taken: list[float] = []
    for curve in sorted(chart.curves, key=lambda c: c.main):
        ink = QColor(p.fat_edge if curve.main else p.handle)
        painter.setPen(QPen(ink, 3.2 if curve.main else 1.6))
        points = [QPointF(x(t), y(s)) for t, s in curve.table]
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF(points))
        painter.setBrush(ink)
        painter.setPen(Qt.PenStyle.NoPen)
        for point in points:
            size = 3.4 if curve.main else 2.4
            painter.drawEllipse(point, size, size)
        at = _label_height(y(solid_at(curve.table, curve.table[0][0])) - line / 2, taken, line)
        painter.setPen(QColor(p.text if curve.main else p.second))
        painter.setFont(theme.font(12.5, 600 if curve.main else 400))
        start = x(curve.table[0][0])
        shown = metrics.elidedText(curve.name, Qt.TextElideMode.ElideRight,
                                   int(start - plot.left()) - 10)  # fmt: skip
        painter.drawText(QRectF(plot.left() + 2, at, start - plot.left() - 8, line), right, shown)


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
