"""How much is on the scale, against what is wanted: a bar, a band and a mark."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from aplomb.desk.kit.theme import Theme

TARGET_AT = 0.8
"""Where the target stands on the bar, 0–1 [-]."""


def paint_weigh_bar(
    painter: QPainter, room: QRectF, share: float, near: float, judged: str, theme: Theme
) -> None:
    """Paint the bar.

    Parameters
    ----------
    share : float
        What is on the scale over what is wanted [-].
    near : float
        How far off is near enough, over what is wanted [-].
    """
    p = theme.palette
    bar = room.adjusted(0, room.height() * 0.28, 0, 0)
    painter.setPen(QPen(QColor(p.line), 1.5))
    painter.setBrush(QColor(p.card))
    painter.drawRoundedRect(bar, 6, 6)
    target = bar.left() + bar.width() * TARGET_AT
    half = max(3.0, bar.width() * TARGET_AT * near)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(p.band))
    painter.drawRect(QRectF(target - half, bar.top() + 1, 2 * half, bar.height() - 2))
    reach = min(1.0, max(0.0, share) * TARGET_AT)
    fill = {"less": p.fat, "right": p.settled, "more": p.wrong}[judged]
    painter.setBrush(QColor(fill))
    inner = bar.adjusted(3, bar.height() * 0.24, -3, -bar.height() * 0.24)
    painter.drawRoundedRect(
        QRectF(inner.left(), inner.top(), inner.width() * reach, inner.height()), 4, 4
    )
    painter.setBrush(QColor(p.text))
    side = room.height() * 0.2
    painter.drawPolygon(
        QPolygonF(
            [
                QPointF(target - side * 0.7, room.top()),
                QPointF(target + side * 0.7, room.top()),
                QPointF(target, room.top() + side),
            ]
        )
    )
