"""Marks by shape and colour: a barred triangle for wrong, a ring for look at."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from aplomb.core.opinion.opinion import Mark


def paint_mark(painter: QPainter, box: QRectF, mark: Mark, color: QColor, ground: QColor) -> None:
    """Paint a mark into a box.

    Parameters
    ----------
    color, ground : QColor
        Of the mark, and of what lies within it.
    """
    side = box.width()
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color)
    if mark == "wrong":
        painter.drawPolygon(
            QPolygonF([QPointF(box.center().x(), box.top()), box.bottomRight(), box.bottomLeft()])
        )
        painter.setBrush(ground)
        bar = QRectF(box.center().x() - 1, box.top() + side * 0.4, 2, side * 0.32)
        painter.drawRect(bar)
    else:
        painter.drawEllipse(box.adjusted(1, 1, -1, -1))
        painter.setBrush(ground)
        hole = side * 0.16
        painter.drawEllipse(box.center(), hole, hole)
    painter.restore()
