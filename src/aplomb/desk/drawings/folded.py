"""The folded strip in side view, and dough with fat as it is enclosed, seen from above."""

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from aplomb.core.folds.boxes import Box
from aplomb.core.folds.enclosing import Enclosing
from aplomb.core.folds.step import Step, Way

DOUGH, DOUGH_EDGE = QColor("#EAD9B6"), QColor("#CBB284")
FAT, FAT_EDGE = QColor("#F0C244"), QColor("#C99A1B")


def fold_path(step: Step, where: QRectF, thick: float) -> list[QPainterPath]:
    """Give the middle line of a strip folded as a step says, in side view.

    One path, or one a piece for a cut and stack.

    Parameters
    ----------
    where : QRectF
        Room for the strip.
    thick : float
        Thickness of the strip [px].
    """
    n = step.panels
    gap = thick * 1.12
    left, right = where.left() + thick * 2.2, where.right() - thick * 2.2
    low = where.center().y() + gap * (n - 1) / 2

    def y(level: int) -> float:
        return low - level * gap

    def bend(path: QPainterPath, x: float, start: int, end: int, way: int) -> None:
        reach = way * abs(end - start) * gap * 0.62
        path.cubicTo(x + reach, y(start), x + reach, y(end), x, y(end))

    if step.way is Way.STACK:
        paths = []
        for level in range(n):
            one = QPainterPath(QPointF(left, y(level)))
            one.lineTo(right, y(level))
            paths.append(one)
        return paths
    path = QPainterPath()
    if step.way in (Way.FOLD, Way.PORTION) and n == 3:
        path.moveTo(right, y(2))
        path.lineTo(left, y(2))
        bend(path, left, 2, 0, -1)
        path.lineTo(right, y(0))
        bend(path, right, 0, 1, 1)
        path.lineTo(left + thick * 0.3, y(1))
    elif step.way in (Way.FOLD, Way.PORTION) and n == 4:
        inner, seam = right - thick * 0.4, (left + right) / 2
        path.moveTo(seam - 1 if step.off_centre else inner, y(1))
        path.lineTo(left, y(1))
        bend(path, left, 1, 0, -1)
        path.lineTo(right, y(0))
        bend(path, right, 0, 3, 1)
        path.lineTo(left, y(3))
        bend(path, left, 3, 2, -1)
        path.lineTo(inner, y(2))
        if step.off_centre:
            bend(path, inner, 2, 1, 1)
            path.lineTo(seam + 1.5, y(1))
    else:
        path.moveTo(left, y(0))
        for level in range(n):
            there = right if level % 2 == 0 else left
            path.lineTo(there, y(level))
            if level < n - 1:
                bend(path, there, level, level + 1, 1 if level % 2 == 0 else -1)
    return [path]


def paint_fold(painter: QPainter, where: QRectF, step: Step) -> None:
    """Paint a strip with its fat line, folded, rolled up or trimmed as a step says."""
    if step.way is Way.ROLL:
        paint_log(painter, where)
        return
    if step.way is Way.TRIM:
        _paint_trim(painter, where, step)
        return
    thick = min(13.0, where.height() / (step.panels * 1.12 + 0.6))
    for path in fold_path(step, where, thick):
        for width, color in (
            (thick, DOUGH_EDGE),
            (thick - 2, DOUGH),
            (max(2.0, thick * 0.3), FAT_EDGE),
            (max(1.2, thick * 0.3 - 1), FAT),
        ):
            pen = QPen(
                color,
                width,
                Qt.PenStyle.SolidLine,
                Qt.PenCapStyle.FlatCap,
                Qt.PenJoinStyle.RoundJoin,
            )
            painter.strokePath(path, pen)


def paint_log(painter: QPainter, where: QRectF, windings: float = 3.5) -> None:
    """Paint the cut face of a log: a spiral of fat in dough."""
    radius = min(where.width(), where.height()) / 2 - 1
    centre = where.center()
    painter.setPen(QPen(DOUGH_EDGE, 1.5))
    painter.setBrush(DOUGH)
    painter.drawEllipse(centre, radius, radius)
    path = QPainterPath(centre)
    steps = 140
    for i in range(1, steps + 1):
        angle = 2 * math.pi * windings * i / steps
        path.lineTo(
            centre + QPointF(math.cos(angle), -math.sin(angle)) * (radius * 0.93 * i / steps)
        )
    painter.strokePath(path, QPen(FAT_EDGE, max(2.0, radius / windings * 0.42)))
    painter.strokePath(path, QPen(FAT, max(1.2, radius / windings * 0.42 - 1)))


def _paint_trim(painter: QPainter, where: QRectF, step: Step) -> None:
    """The block from above, with the edges that are cut off drawn apart."""
    side = min(where.width() * 0.62, where.height() * 0.9)
    block = QRectF(0, 0, side * 1.2, side * 0.8)
    block.moveCenter(where.center())
    painter.setPen(QPen(DOUGH_EDGE, 1.5))
    painter.setBrush(DOUGH)
    painter.drawRect(block)
    cut, gap = 5.0, 3.0
    painter.setBrush(FAT)
    if step.edges != "rolled":
        painter.drawRect(QRectF(block.left() - gap - cut, block.top(), cut, block.height()))
        painter.drawRect(QRectF(block.right() + gap, block.top(), cut, block.height()))
    if step.edges != "folded":
        painter.drawRect(QRectF(block.left(), block.top() - gap - cut, block.width(), cut))
        painter.drawRect(QRectF(block.left(), block.bottom() + gap, block.width(), cut))


def _fit(box: Box, where: QRectF, mm_per_px: float) -> QRectF:
    wide, high = box.length_mm / mm_per_px, box.width_mm / mm_per_px
    return QRectF(where.center().x() - wide / 2, where.center().y() - high / 2, wide, high)


def paint_enclosing(painter: QPainter, where: QRectF, how: Enclosing | None) -> None:
    """Paint dough and fat laid ready to be enclosed, from above and to scale."""
    if how is None or where.width() < 2 or where.height() < 2:
        return
    largest = how.fat if how.shape == "inverse" and how.fat else how.dough
    mm_per_px = max(largest.length_mm / where.width(), largest.width_mm / where.height())
    dough = _fit(how.dough, where, mm_per_px)
    painter.setPen(QPen(DOUGH_EDGE, 1.5))
    painter.setBrush(DOUGH)
    if how.fat is None:
        painter.drawRect(dough)
        if how.shape == "pieces":
            _paint_pieces(painter, dough)
        return
    fat = _fit(how.fat, where, mm_per_px)
    if how.shape == "inverse":
        painter.setPen(QPen(FAT_EDGE, 1.5))
        painter.setBrush(FAT)
        painter.drawRect(fat)
        painter.setPen(QPen(DOUGH_EDGE, 1.5))
        painter.setBrush(DOUGH)
        dough.moveLeft(fat.left())
        painter.drawRect(dough.adjusted(2, 3, -2, -3))
        _dashed(painter, fat, (0.5,))
        return
    if how.shape == "cross":
        arm = dough.width() / 3
        painter.drawRect(dough.adjusted(arm, 0, -arm, 0))
        painter.drawRect(dough.adjusted(0, arm, 0, -arm))
        painter.setPen(QPen(FAT_EDGE, 1.5))
        painter.setBrush(FAT)
        painter.drawRect(fat)
        return
    painter.drawRect(dough)
    painter.setPen(QPen(FAT_EDGE, 1.5))
    painter.setBrush(FAT)
    if how.shape == "coil":
        on_it = _fit(Box(how.fat.length_mm, how.fat.width_mm, 0), where, mm_per_px)
        on_it.moveLeft(dough.left())
        painter.drawRect(on_it.adjusted(2, 3, -1, -3))
        log = QRectF(0, 0, dough.height() * 0.9, dough.height() * 0.9)
        log.moveCenter(QPointF(dough.left() + log.width() * 0.3, dough.center().y()))
        paint_log(painter, log)
        return
    if how.shape == "envelope":
        c, half = dough.center(), dough.width() / 2
        painter.drawPolygon(
            QPolygonF(
                [
                    c + QPointF(0, -half),
                    c + QPointF(half, 0),
                    c + QPointF(0, half),
                    c - QPointF(half, 0),
                ]
            )
        )
        return
    fat.moveLeft(dough.left())
    painter.drawRect(fat.adjusted(2, 3, -1, -3))
    _dashed(painter, dough, (1 / 3, 2 / 3) if how.shape == "thirds" else (0.5,))


def _paint_pieces(painter: QPainter, dough: QRectF) -> None:
    painter.setPen(QPen(FAT_EDGE, 1))
    painter.setBrush(FAT)
    size = min(dough.width(), dough.height()) / 9
    for i in range(5):
        for j in range(7):
            x = dough.left() + dough.width() * (j + 0.5 + ((i * 5 + j * 3) % 7 - 3) / 16) / 7
            y = dough.top() + dough.height() * (i + 0.5 + ((i * 3 + j * 5) % 7 - 3) / 16) / 5
            painter.drawRect(QRectF(x - size / 2, y - size / 2, size, size))


def _dashed(painter: QPainter, where: QRectF, shares: tuple[float, ...]) -> None:
    painter.setPen(QPen(QColor("#5A616A"), 1.2, Qt.PenStyle.DashLine))
    for share in shares:
        x = where.left() + share * where.width()
        painter.drawLine(QPointF(x, where.top()), QPointF(x, where.bottom()))


def paint_sheet(painter: QPainter, where: QRectF, sheet: Box, step: Step | None) -> float:
    """Paint a rolled sheet to scale with its folding lines.

    The scale [mm/px].

    Parameters
    ----------
    where : QRectF
        Room for it.
    step : Step or None
        How it is folded; None for no lines.
    """
    wide, high = max(1.0, where.width()), max(1.0, where.height())
    mm_per_px = max(sheet.length_mm / wide, sheet.width_mm / high)
    there = _fit(sheet, where, mm_per_px)
    there.moveLeft(where.left())
    painter.setPen(QPen(DOUGH_EDGE, 1.5))
    painter.setBrush(DOUGH)
    painter.drawRect(there)
    if step is not None and step.way is Way.PORTION:
        covered = QRectF(there)
        each = there.width() / step.panels
        covered.setLeft(there.left() + each * step.spread_on.start)
        covered.setWidth(each * len(step.spread_on))
        painter.setPen(QPen(FAT_EDGE, 1.2))
        painter.setBrush(FAT)
        painter.drawRect(covered.adjusted(4, 4, -2, -4))
    if step is not None and step.is_turn:
        if step.way is Way.QUARTER:
            _dashed(painter, there, (0.5,))
            painter.drawLine(
                QPointF(there.left(), there.center().y()),
                QPointF(there.right(), there.center().y()),
            )
        else:
            _dashed(painter, there, tuple(i / step.panels for i in range(1, step.panels)))
    return mm_per_px
