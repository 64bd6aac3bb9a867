"""A tray with its pieces, seen from above."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from aplomb.core.base.house import House
from aplomb.core.batch.trays import OnTrays

TRAY, RIM = QColor("#C9CCCB"), QColor("#8F979B")
PIECE, PIECE_EDGE = QColor("#EAD9B6"), QColor("#8E5327")


def paint_tray(painter: QPainter, room: QRectF, tray: OnTrays, house: House) -> float:
    """Paint a full tray to scale, its long side across.

    The lower edge of what was painted.
    """
    rim = 5.0
    scale = min(
        (room.width() - 2 * rim) / house.tray_long_mm,
        (room.height() - 2 * rim) / house.tray_wide_mm,
    )
    wide, high = house.tray_long_mm * scale, house.tray_wide_mm * scale
    outer = QRectF(room.left(), room.top(), wide + 2 * rim, high + 2 * rim)
    painter.setPen(QPen(RIM, 1.4))
    painter.setBrush(TRAY)
    painter.drawRoundedRect(outer, 7, 7)
    painter.setBrush(TRAY.lighter(108))
    painter.drawRect(outer.adjusted(rim, rim, -rim, -rim))
    if tray.layout is None or tray.blank is None:
        painter.setPen(RIM.darker(170))
        painter.drawText(
            outer, Qt.AlignmentFlag.AlignCenter, f"{tray.a_tray}" if tray.a_tray else "too large"
        )
        return outer.bottom()
    painter.save()
    painter.translate(outer.left() + rim, outer.top() + rim)
    painter.scale(scale, scale)
    painter.setPen(QPen(PIECE_EDGE, 1.1 / scale))
    painter.setBrush(PIECE)
    for placed in tray.layout.placed():
        along, across = tray.blank.size(turned=placed.turned)
        box = QRectF(placed.x_mm, placed.y_mm, along, across)
        if tray.blank.round:
            painter.drawEllipse(box)
        else:
            corners = tray.blank.outline(turned=placed.turned)
            painter.drawPolygon(
                QPolygonF([QPointF(box.left() + x, box.top() + y) for x, y in corners])
            )
    painter.restore()
    return outer.bottom()


def tray_words(tray: OnTrays) -> str:
    """Say a tray in a sentence, for who cannot see it."""
    return (
        f"{tray.name or 'Pieces'}: {tray.a_tray} on a tray, {tray.trays} trays, "
        f"{tray.last} on the last."
    )
