"""Heat: the temperature field of a block over time, and its skin, mean and middle as curves."""

import math
from collections.abc import Callable

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QImage, QPainter, QPen, QPolygonF

from aplomb.core.base.figures import celsius_range, degrees, mm_text, num
from aplomb.core.cold.course import Course
from aplomb.core.cold.material import Floats
from aplomb.desk.kit.theme import Theme

SPAN_K = 16.0
"""So far from the range a colour is as deep as it gets [K]."""
CELL_PX = 2
"""The field is painted in cells of so many pixels across and down."""


class HeatChart(Struct, frozen=True):
    """All that is drawn.

    Attributes
    ----------
    low_c, high_c : float
        Where it can be rolled [°C].
    until_min : float
        What of the course is shown [min].
    ready : tuple of (from, to), or None
        [min].
    marks_min : tuple of (minutes, words)
        Times to mark, as the rest that is written.
    """

    course: Course
    low_c: float
    high_c: float
    until_min: float
    ready: tuple[float, float] | None
    marks_min: tuple[tuple[float, str], ...] = ()


def paint_heat(painter: QPainter, room: QRectF, chart: HeatChart, theme: Theme) -> None:
    """Paint field and curves, one above the other over the same time."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(theme.font(12.5))
    metrics = QFontMetrics(theme.font(12.5))
    line = float(metrics.height())
    left = metrics.horizontalAdvance("−18 °C") + 10.0
    right = metrics.horizontalAdvance("middle") + 10.0
    inner = room.adjusted(left, line + 4, -right, -line - 6)
    field = QRectF(inner.left(), inner.top(), inner.width(), inner.height() * 0.42)
    curves = QRectF(inner.left(), field.bottom() + line * 0.9, inner.width(), 0)
    curves.setBottom(inner.bottom())
    _paint_field(painter, field, chart, theme)
    _paint_curves(painter, curves, chart, theme, line)
    _paint_ready(painter, field, curves, chart, theme, line)


def _x(rect: QRectF, chart: HeatChart, minutes: float) -> float:
    return rect.left() + rect.width() * minutes / chart.until_min


def _rgb(colour: QColor) -> Floats:
    return np.array([colour.red(), colour.green(), colour.blue()], dtype=np.float64)


def _colours(values: Floats, chart: HeatChart, theme: Theme) -> NDArray[np.uint32]:
    """Colours of temperatures, as 0xAARRGGBB: blue below the range, paper within, crust above."""
    p = theme.palette
    paper, cold, warm = (_rgb(QColor(each)) for each in (p.card, p.cold, "#C98A55"))
    below = np.clip((chart.low_c - values) / SPAN_K, 0, 1)[..., None]
    above = np.clip((values - chart.high_c) / SPAN_K, 0, 1)[..., None]
    # Just outside the range the ground changes at once, so that its edge is seen.
    below = np.where(below > 0, 0.16 + 0.74 * below, 0.0)
    above = np.where(above > 0, 0.16 + 0.74 * above, 0.0)
    rgb = paper * (1 - below - above) + cold * below + warm * above
    whole = rgb.astype(np.uint32)
    found = 0xFF000000 | (whole[..., 0] << 16) | (whole[..., 1] << 8) | whole[..., 2]
    return found.astype(np.uint32)


def _paint_field(painter: QPainter, rect: QRectF, chart: HeatChart, theme: Theme) -> None:
    p, course = theme.palette, chart.course
    wide = max(8, int(rect.width() / CELL_PX))
    high = max(8, int(rect.height() / CELL_PX))
    times = np.linspace(0, chart.until_min, wide)
    columns = np.stack([np.interp(times, course.minutes, node) for node in course.field.T])
    depths = np.linspace(course.depth_mm[0], course.depth_mm[-1], high)
    values = np.stack([np.interp(depths, course.depth_mm, column) for column in columns.T], axis=1)
    pixels = np.ascontiguousarray(_colours(values, chart, theme))
    image = QImage(pixels.data, wide, high, wide * 4, QImage.Format.Format_RGB32).copy()
    painter.drawImage(rect, image)
    for level in (chart.low_c, chart.high_c):
        _contour(painter, rect, values, level, theme)
    painter.setPen(QPen(QColor(p.handle), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(rect)
    painter.setPen(QColor(p.second))
    label = QRectF(rect.left() - 90, rect.top() - 2, 84, 20)
    top_right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop
    painter.drawText(label, top_right, "top")
    label.moveBottom(rect.bottom() + 2)
    bottom_right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom
    painter.drawText(label, bottom_right, mm_text(float(course.depth_mm[-1]), ".0f"))


def _contour(painter: QPainter, rect: QRectF, values: Floats, level: float, theme: Theme) -> None:
    """A line where the field crosses a temperature, from every column's crossings."""
    high, wide = values.shape
    painter.setPen(QPen(QColor(theme.palette.text), 1.1))
    sides = np.sign(values - level)
    for j in range(1, wide):
        for i in np.nonzero(sides[1:, j] != sides[:-1, j])[0]:
            a, b = values[i, j], values[i + 1, j]
            y = i + 0.5 + (level - a) / (b - a if b != a else 1.0)
            x = rect.left() + rect.width() * j / wide
            painter.drawPoint(QPointF(x, rect.top() + rect.height() * y / high))
    for row in range(high):
        y = rect.top() + rect.height() * (row + 0.5) / high
        for column in np.nonzero(sides[row, 1:] != sides[row, :-1])[0]:
            painter.drawPoint(QPointF(rect.left() + rect.width() * (column + 1) / wide, y))


def _paint_curves(
    painter: QPainter, rect: QRectF, chart: HeatChart, theme: Theme, line: float
) -> None:
    p, course = theme.palette, chart.course
    shown = course.minutes <= chart.until_min * 1.0001
    values = np.concatenate((course.top[shown], course.bottom[shown], course.core[shown]))
    low = math.floor(min(float(values.min()), chart.low_c) / 2) * 2 - 1
    high = math.ceil(max(float(values.max()), chart.high_c) / 2) * 2 + 1

    def y(temp: float) -> float:
        return rect.bottom() - rect.height() * (temp - low) / (high - low)

    band = QRectF(rect.left(), y(chart.high_c), rect.width(), y(chart.low_c) - y(chart.high_c))
    tint = QColor(p.band)
    tint.setAlpha(110)
    painter.fillRect(band, tint)
    step = 5 if high - low < 30 else 10
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    for temp in range(math.ceil(low / step) * step, int(high) + 1, step):
        painter.setPen(QPen(QColor(p.line), 1))
        painter.drawLine(QPointF(rect.left(), y(temp)), QPointF(rect.right(), y(temp)))
        painter.setPen(QColor(p.second))
        words = degrees(temp).replace("-", "−")
        painter.drawText(QRectF(rect.left() - 90, y(temp) - line / 2, 84, line), right, words)
    every = _tick(chart.until_min)
    for minutes in np.arange(0, chart.until_min + 0.01, every):
        at = _x(rect, chart, float(minutes))
        painter.setPen(QPen(QColor(p.line), 1))
        painter.drawLine(QPointF(at, rect.bottom()), QPointF(at, rect.bottom() + 4))
        painter.setPen(QColor(p.second))
        hours = chart.until_min > 240
        words = num(float(minutes) / (60 if hours else 1), ".3g")
        if minutes + every > chart.until_min:
            words += " h" if hours else " min"
        painter.drawText(
            QRectF(at - 40, rect.bottom() + 4, 80, line), Qt.AlignmentFlag.AlignHCenter, words
        )
    skin = course.top if float(course.top[-1]) <= float(course.bottom[-1]) else course.bottom
    taken: list[float] = []
    for words, curve, ink, wide, style in (
        ("skin", skin, p.cold, 2.0, Qt.PenStyle.SolidLine),
        ("average", course.mean, p.second, 1.6, Qt.PenStyle.DashLine),
        ("middle", course.core, p.text, 2.4, Qt.PenStyle.SolidLine),
    ):
        _curve(painter, rect, chart, curve, y, QPen(QColor(ink), wide, style))
        end = y(float(np.interp(chart.until_min, course.minutes, curve)))
        while any(abs(end - other) < line * 0.85 for other in taken):
            end -= line * 0.3
        taken.append(end)
        painter.setPen(QColor(ink))
        painter.drawText(QRectF(rect.right() + 6, end - line / 2, 120, line), 0, words)


def _curve(
    painter: QPainter,
    rect: QRectF,
    chart: HeatChart,
    curve: Floats,
    y: Callable[[float], float],
    pen: QPen,
) -> None:
    times = np.linspace(0, chart.until_min, max(60, int(rect.width() / 3)))
    temps = np.interp(times, chart.course.minutes, curve)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    points = [
        QPointF(_x(rect, chart, float(t)), y(float(v))) for t, v in zip(times, temps, strict=True)
    ]
    painter.drawPolyline(QPolygonF(points))


def _tick(until: float) -> float:
    for every in (5.0, 10.0, 15.0, 30.0, 60.0, 120.0, 180.0, 240.0, 360.0):
        if until / every <= 9:
            return every
    return 720.0


def _paint_ready(
    painter: QPainter, field: QRectF, curves: QRectF, chart: HeatChart, theme: Theme, line: float
) -> None:
    """Mark from when to when it can be rolled, and the rest that is written."""
    p = theme.palette
    head = QRectF(field.left(), field.top() - line - 4, field.width(), line)
    if chart.ready is not None:
        begin, end = (min(t, chart.until_min) for t in chart.ready)
        painter.setPen(QPen(QColor(p.settled), 2))
        for at in (begin, end):
            x = _x(field, chart, at)
            painter.drawLine(QPointF(x, field.top() - 3), QPointF(x, curves.bottom()))
        bar = QRectF(
            QPointF(_x(field, chart, begin), field.top() - 4),
            QPointF(_x(field, chart, end), field.top() - 1),
        )
        painter.fillRect(bar, QColor(p.settled))
        painter.setPen(QColor(p.text))
        words = f"can be rolled, {celsius_range(chart.low_c, chart.high_c, spec='.0f')}"
        wide = painter.fontMetrics().horizontalAdvance(words)
        x = min(max(bar.center().x() - wide / 2, field.left()), field.right() - wide)
        painter.drawText(QRectF(x, head.top() - 1, wide + 4, line), 0, words)
    for minutes, words in chart.marks_min:
        if minutes > chart.until_min:
            continue
        x = _x(field, chart, minutes)
        painter.setPen(QPen(QColor(p.action), 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, field.top()), QPointF(x, curves.bottom()))
        painter.setPen(QColor(p.action))
        wide = painter.fontMetrics().horizontalAdvance(words)
        left = x + 5 if x + 5 + wide < curves.right() else x - 5 - wide
        painter.drawText(QRectF(left, curves.top() - 2, wide + 4, line), 0, words)
