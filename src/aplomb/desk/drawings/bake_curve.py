"""A bake programme as a curve of the oven, with what is done when; and loads over time."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPen, QPolygonF

from aplomb.core.base.figures import celsius_text, num
from aplomb.core.base.ovens import Oven
from aplomb.core.make.step import LoadOf
from aplomb.core.oven.programme import Programme
from aplomb.desk.drawings.trial_chart import ticks
from aplomb.desk.kit.theme import Theme

CRUST = "#A8672F"


def paint_bake_curve(painter: QPainter, room: QRectF, programme: Programme, theme: Theme) -> None:
    """Paint a programme: the oven's temperature over the minutes."""
    p = theme.palette
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(theme.font(12.5))
    metrics = QFontMetrics(painter.font())
    line = float(metrics.height())
    inner = room.adjusted(8, line + 6, -8, -2 * line - 6)
    if not programme.steps:
        return
    temps = [step.conventional_c for step in programme.steps]
    top, low = max(temps) + 8, min(temps) - 45
    whole = programme.minutes

    def x(minute: float) -> float:
        return inner.left() + inner.width() * minute / whole

    def y(temp: float) -> float:
        return inner.bottom() - inner.height() * (temp - low) / (top - low)

    points, at = [], 0.0
    for step in programme.steps:
        points += [
            QPointF(x(at), y(step.conventional_c)),
            QPointF(x(at + step.minutes), y(step.conventional_c)),
        ]
        at += step.minutes
    ground = QColor(CRUST)
    ground.setAlphaF(0.16)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ground)
    painter.drawPolygon(
        QPolygonF(
            [*points, QPointF(inner.right(), inner.bottom()), QPointF(inner.left(), inner.bottom())]
        )
    )
    painter.setPen(QPen(QColor(CRUST), 2.6))
    painter.drawPolyline(QPolygonF(points))
    painter.setPen(QPen(QColor(p.second), 1.2))
    painter.drawLine(inner.bottomLeft(), inner.bottomRight())
    _paint_steps(painter, inner, programme, theme, x, y)
    painter.setPen(QColor(p.second))
    marks = ticks(0, whole, 8)
    for value in marks:
        where = QRectF(x(value) - 30, inner.bottom() + 3, 60, line)
        painter.drawText(where, Qt.AlignmentFlag.AlignHCenter, num(value))
    painter.drawText(
        QRectF(inner.left(), inner.bottom() + line + 3, inner.width(), line),
        Qt.AlignmentFlag.AlignRight,
        "minutes; oven without fan",
    )


def _paint_steps(
    painter: QPainter,
    inner: QRectF,
    programme: Programme,
    theme: Theme,
    x: Callable[[float], float],
    y: Callable[[float], float],
) -> None:
    """Write at each step what it is set to, until when, and what is done at its end."""
    p = theme.palette
    metrics = QFontMetrics(theme.font(12.5))
    line = float(metrics.height())
    at = 0.0
    for i, step in enumerate(programme.steps):
        left, right = x(at), x(at + step.minutes)
        wide = right - left - 8
        painter.setFont(theme.font(14, 600))
        painter.setPen(QColor(p.text))
        said = f"{celsius_text(step.conventional_c, '.0f')}, {step.minutes_text} min"
        bold = QFontMetrics(painter.font())
        room_above = QRectF(left + 4, y(step.conventional_c) - line - 4, wide, line + 2)
        painter.drawText(
            room_above,
            Qt.AlignmentFlag.AlignLeft,
            bold.elidedText(said, Qt.TextElideMode.ElideRight, int(wide)),
        )
        painter.setFont(theme.font(12.5))
        painter.setPen(QColor(p.second))
        inside = QRectF(left + 6, y(step.conventional_c) + 6, wide, 2.2 * line)
        if step.until:
            wrap = int(Qt.AlignmentFlag.AlignLeft) | int(Qt.TextFlag.TextWordWrap)
            painter.drawText(inside, wrap, f"until {step.until}")
        at += step.minutes
        if step.then:
            last = i == len(programme.steps) - 1
            painter.setPen(QPen(QColor(p.action), 1.4, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(right, y(step.conventional_c)), QPointF(right, inner.bottom()))
            painter.setPen(QColor(p.action))
            words = metrics.elidedText(step.then, Qt.TextElideMode.ElideRight, int(wide))
            end = Qt.AlignmentFlag.AlignRight
            painter.drawText(
                QRectF(left + 4, inner.bottom() - line - 4, wide - (0 if last else 2), line + 2),
                end,
                words,
            )


def _paint_waiting(
    painter: QPainter, bar: QRectF, trays: int, last_min: float, theme: Theme
) -> None:
    """Paint how long trays wait in the cold, in as many words as the bar holds."""
    p = theme.palette
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(p.cold_ground))
    painter.drawRoundedRect(bar, 4, 4)
    painter.setPen(QColor(p.cold))
    words = f"{trays} trays wait, the last until {num(last_min, '.0f')} min"
    if painter.fontMetrics().horizontalAdvance(words) > bar.width() - 6:
        words = f"{trays} wait"
    painter.drawText(bar, Qt.AlignmentFlag.AlignCenter, words)


def paint_loads(
    painter: QPainter, room: QRectF, loads: Sequence[LoadOf], ovens: Sequence[Oven], theme: Theme
) -> None:
    """Paint loads over time: a row an oven, a bar a load, trays numbered, what waits cold."""
    p = theme.palette
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(theme.font(12.5))
    metrics = QFontMetrics(painter.font())
    line = float(metrics.height())
    if not loads:
        return
    used = sorted({load.at for load in loads})
    left = max(metrics.horizontalAdvance(ovens[i].name) for i in used)
    left = min(left, int(room.width() * 0.3)) + 12
    inner = room.adjusted(left, 2, -6, -line - 4)
    end = max(load.out_min for load in loads)
    rows = len(used)
    cold_high = line + 4
    high = min(theme.px(46), (inner.height() - cold_high) / rows)

    def x(minute: float) -> float:
        return inner.left() + inner.width() * minute / end

    centre = Qt.AlignmentFlag.AlignCenter
    right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
    for row, oven in enumerate(used):
        y = inner.top() + row * high
        painter.setPen(QColor(p.text))
        name = metrics.elidedText(ovens[oven].name, Qt.TextElideMode.ElideRight, int(left) - 10)
        painter.drawText(QRectF(room.left(), y, left - 8, high - 6), right, name)
        heat = QRectF(x(0), y + 2, x(ovens[oven].heat_min) - x(0) - 1, high - 8)
        painter.setPen(QPen(QColor(p.handle), 1.2, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(heat, 4, 4)
        painter.setPen(QColor(p.second))
        painter.drawText(
            heat,
            centre,
            metrics.elidedText("heats", Qt.TextElideMode.ElideRight, int(heat.width()) - 4),
        )
        for load in (each for each in loads if each.at == oven):
            bar = QRectF(x(load.in_min), y + 2, x(load.out_min) - x(load.in_min) - 1, high - 8)
            painter.setPen(QPen(QColor(CRUST), 1))
            painter.setBrush(QColor("#D9A36B"))
            painter.drawRoundedRect(bar, 4, 4)
            painter.setPen(QColor("#262C33"))
            said = f"{load.first}" if load.many == 1 else f"{load.first}–{load.last}"
            painter.drawText(bar, centre, said)
    y = inner.top() + rows * high
    painter.setPen(QColor(p.cold))
    painter.drawText(QRectF(room.left(), y, left - 8, cold_high), right, "cold")
    waiting = [load for load in loads if load.waits_min > 0]
    if waiting:
        last = max(load.in_min for load in waiting)
        bar = QRectF(x(0), y + 2, x(last) - x(0), cold_high - 4)
        _paint_waiting(painter, bar, sum(load.many for load in waiting), last, theme)
    painter.setPen(QColor(p.second))
    for value in ticks(0, end, 8):
        left_of = min(x(value) - 30, room.right() - 44)
        painter.drawText(QRectF(left_of, inner.bottom() + 2, 60, line), centre, num(value))
