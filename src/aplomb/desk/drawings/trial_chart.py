"""An outcome over what was set: trials as dots, what was learned as a curve with its doubt."""

import math
from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPainterPath, QPen, QPolygonF

from aplomb.core.base.figures import bare_text, house_unit, num
from aplomb.core.trials.trial import MADE_WORDS, OUTCOMES
from aplomb.desk.kit.theme import Theme
from aplomb.work.trials.chart import TrialChart

CRUST = "#A8672F"
"""Brown for done, on light and dark."""
DOT = 5.0
STEPS = (1.0, 2.0, 2.5, 5.0, 10.0)


def ticks(low: float, high: float, most: int = 6) -> list[float]:
    """Give round values between two ends.

    Parameters
    ----------
    most : int
        So many at the most [-].
    """
    if not high > low:
        return [low]
    raw = (high - low) / max(1, most)
    power = 10.0 ** math.floor(math.log10(raw))
    step = next(s * power for s in STEPS if s * power >= raw - 1e-12)
    first = math.ceil(low / step - 1e-9)
    return [round(k * step, 10) for k in range(first, math.floor(high / step + 1e-9) + 1)]


def log_ticks(low: float, high: float) -> list[float]:
    """Give 1, 2, 5 and their tens between two ends."""
    found: list[float] = []
    power = 10.0 ** math.floor(math.log10(low))
    while power <= high:
        found += [power * s for s in (1, 2, 3, 5, 7) if low <= power * s <= high]
        power *= 10
    if len(found) > 8:
        found = [v for v in found if f"{v:e}"[0] in "125"]
    return found


class ChartFrame:
    """Where values stand on the paper."""

    def __init__(self, chart: TrialChart, room: QRectF, theme: Theme) -> None:
        self.chart = chart
        metrics = QFontMetrics(theme.font(12.5))
        line = float(metrics.height())
        self.line = line
        left = metrics.horizontalAdvance("00.0 ") + 8.0
        self.foot = line + 2
        self.inner = room.adjusted(left, line + 6, -8, -2 * line - self.foot - 8)
        xs = [p.x for p in chart.points] + list(chart.grid)
        ys = [p.y for p in chart.points if p.y is not None]
        ys += [
            p.y + s * (p.scatter or 0.0) for p in chart.points if p.y is not None for s in (-1, 1)
        ]
        ys += [*chart.low, *chart.high]
        x0, x1 = (min(xs), max(xs)) if xs else (1.0, 10.0)
        if chart.log:
            self.x0, self.x1 = max(1e-6, x0 / 1.15), max(x1, 1e-6) * 1.15
        else:
            pad = 0.06 * (x1 - x0) or max(1.0, abs(x0) * 0.05)
            self.x0, self.x1 = x0 - pad, x1 + pad
        y0, y1 = (min(ys), max(ys)) if ys else (0.0, 1.0)
        pad = 0.08 * (y1 - y0) or max(0.5, abs(y0) * 0.05)
        self.y0, self.y1 = y0 - pad, y1 + pad

    def x(self, value: float) -> float:
        """Give where a value of the factor stands [px]."""
        if self.chart.log:
            share = math.log(max(value, 1e-9) / self.x0) / math.log(self.x1 / self.x0)
        else:
            share = (value - self.x0) / (self.x1 - self.x0)
        return self.inner.left() + share * self.inner.width()

    def y(self, value: float) -> float:
        """Give where a value of the outcome stands [px]."""
        share = (value - self.y0) / (self.y1 - self.y0)
        return self.inner.bottom() - share * self.inner.height()

    def places(self) -> dict[str, QPointF]:
        """Give where each trial stands; those without an outcome at the foot."""
        foot = self.inner.bottom() + self.foot / 2 + 2
        return {
            p.key: QPointF(self.x(p.x), foot if p.y is None else self.y(p.y))
            for p in self.chart.points
        }


def paint_trial_chart(
    painter: QPainter, room: QRectF, chart: TrialChart, theme: Theme, picked: str = ""
) -> None:
    """Paint the chart.

    Parameters
    ----------
    picked : str
        Key of the trial in hand.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    frame = ChartFrame(chart, room, theme)
    _paint_axes(painter, frame, theme)
    _paint_bands(painter, frame, theme)
    _paint_curve(painter, frame)
    _paint_points(painter, frame, theme, picked)


def _paint_axes(painter: QPainter, frame: ChartFrame, theme: Theme) -> None:
    p, inner, chart = theme.palette, frame.inner, frame.chart
    painter.setFont(theme.font(12.5))
    grid = QPen(QColor(p.line), 1)
    for value in ticks(frame.y0, frame.y1):
        y = frame.y(value)
        painter.setPen(grid)
        painter.drawLine(QPointF(inner.left(), y), QPointF(inner.right(), y))
        painter.setPen(QColor(p.second))
        where = QRectF(inner.left() - 70, y - 10, 62, 20)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(where, right, num(value))
    low = inner.bottom() + frame.foot + 4
    painter.setPen(QPen(QColor(p.second), 1.2))
    painter.drawLine(QPointF(inner.left(), low), QPointF(inner.right(), low))
    marks = log_ticks(frame.x0, frame.x1) if chart.log else ticks(frame.x0, frame.x1)
    about = MADE_WORDS[chart.factor]
    centre = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
    for value in marks:
        x = frame.x(value)
        painter.drawLine(QPointF(x, low), QPointF(x, low + 4))
        painter.drawText(QRectF(x - 40, low + 4, 80, 20), centre, bare_text(value, about.unit))
    unit = house_unit(about.unit)
    name = f"{about.words}, {unit}" if unit else about.words
    end = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop
    painter.drawText(QRectF(inner.left(), low + 4 + frame.line, inner.width(), 20), end, name)
    kind = OUTCOMES[chart.outcome]
    painter.setFont(theme.font(13, 600))
    painter.setPen(QColor(p.text))
    said = f"{kind.words}, {kind.unit}" if kind.unit else kind.words
    painter.drawText(QPointF(inner.left(), inner.top() - 8), said)


def _paint_bands(painter: QPainter, frame: ChartFrame, theme: Theme) -> None:
    """The band that stands as a strip over the axis, the learned one as a ground behind."""
    p, inner, chart = theme.palette, frame.inner, frame.chart
    low = inner.bottom() + frame.foot + 4
    if chart.band is not None:
        left, right = frame.x(chart.band.low), frame.x(chart.band.high)
        ground = QColor(p.band)
        ground.setAlphaF(0.30)
        painter.fillRect(QRectF(left, inner.top(), right - left, low - inner.top()), ground)
        painter.setPen(QPen(QColor(p.settled), 1, Qt.PenStyle.DotLine))
        for value in (
            chart.band.low_from,
            chart.band.low_to,
            chart.band.high_from,
            chart.band.high_to,
        ):
            x = frame.x(value)
            painter.drawLine(QPointF(x, low - 8), QPointF(x, low))
    if chart.recalled is not None:
        left = max(inner.left(), frame.x(max(chart.recalled.low, frame.x0)))
        right = min(inner.right(), frame.x(min(chart.recalled.high, frame.x1)))
        if right > left:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(p.handle))
            painter.drawRoundedRect(QRectF(left, low - 3, right - left, 5), 2.5, 2.5)


def _ribbon(
    frame: ChartFrame, grid: Sequence[float], low: Sequence[float], high: Sequence[float]
) -> QPolygonF:
    up = [QPointF(frame.x(v), frame.y(h)) for v, h in zip(grid, high, strict=True)]
    down = [QPointF(frame.x(v), frame.y(h)) for v, h in zip(grid, low, strict=True)]
    return QPolygonF([*up, *reversed(down)])


def _paint_curve(painter: QPainter, frame: ChartFrame) -> None:
    chart = frame.chart
    if not chart.grid:
        return
    painter.save()
    painter.setClipRect(frame.inner.adjusted(-1, -2, 1, 2))
    crust = QColor(CRUST)
    painter.setPen(Qt.PenStyle.NoPen)
    for low, high, depth in ((chart.new_low, chart.new_high, 0.09), (chart.low, chart.high, 0.22)):
        crust.setAlphaF(depth)
        painter.setBrush(crust)
        painter.drawPolygon(_ribbon(frame, chart.grid, low, high))
    crust.setAlphaF(1.0)
    path = QPainterPath()
    for i, (v, m) in enumerate(zip(chart.grid, chart.mean, strict=True)):
        at = QPointF(frame.x(v), frame.y(m))
        path.lineTo(at) if i else path.moveTo(at)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(crust, 2.2))
    painter.drawPath(path)
    painter.restore()


def _paint_points(painter: QPainter, frame: ChartFrame, theme: Theme, picked: str) -> None:
    p = theme.palette
    places = frame.places()
    for point in sorted(frame.chart.points, key=lambda each: each.key == picked):
        at = places[point.key]
        ink = QColor(p.text if point.mark != "other" else p.third)
        if point.y is not None and point.scatter:
            painter.setPen(QPen(QColor(p.handle), 1.4))
            top, foot = (frame.y(point.y + s * point.scatter) for s in (1, -1))
            painter.drawLine(QPointF(at.x(), top), QPointF(at.x(), foot))
        if point.key == picked:
            painter.setPen(QPen(QColor(p.action), 2.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, DOT + 5, DOT + 5)
        shapes: dict[str, Callable[[], None]] = {
            "failed": lambda at=at: _cross(painter, at, QColor(p.wrong)),  # type: ignore[misc]
            "missing": lambda at=at: _ring(painter, at, QColor(p.second)),  # type: ignore[misc]
        }
        if point.mark in shapes:
            shapes[point.mark]()
            continue
        painter.setPen(QPen(ink, 1.2))
        painter.setBrush(QColor(p.card) if point.mark == "other" else QColor("#F0C244"))
        painter.drawEllipse(at, DOT, DOT)
        if point.mark == "out":
            _square(painter, at, QColor(p.look))


def _cross(painter: QPainter, at: QPointF, ink: QColor) -> None:
    painter.setPen(QPen(ink, 2.4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    for way in (1, -1):
        painter.drawLine(at + QPointF(-4.5, -4.5 * way), at + QPointF(4.5, 4.5 * way))


def _ring(painter: QPainter, at: QPointF, ink: QColor) -> None:
    painter.setPen(QPen(ink, 1.4, Qt.PenStyle.DotLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(at, DOT, DOT)


def _square(painter: QPainter, at: QPointF, ink: QColor) -> None:
    painter.setPen(QPen(ink, 1.8))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(at.x() - DOT - 3, at.y() - DOT - 3, 2 * DOT + 6, 2 * DOT + 6))
