"""A sheet as it is folded, seen from the side: at any moment, and in standing frames."""

import math

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPixmap

from aplomb.core.folds.motion import Motion, Pose, poses
from aplomb.desk.drawings.folded import DOUGH, DOUGH_EDGE, FAT, FAT_EDGE, paint_log


class Strip(Struct, frozen=True):
    """How large a folding is drawn, and with what.

    Attributes
    ----------
    panel_px, thick_px : float
        Length of a panel and thickness of the sheet on the screen [px].
    paste : QPixmap or None
        The section of the sheet along all its length; None for dough with a line of fat.
    log : QPixmap or None
        The round section of what it is rolled up to.
    """

    panel_px: float
    thick_px: float
    paste: QPixmap | None = None
    log: QPixmap | None = None


def paint_folding(
    painter: QPainter, foot: QPointF, motion: Motion, part: float, strip: Strip
) -> None:
    """Paint a motion at a moment.

    Parameters
    ----------
    foot : QPointF
        Where the laid-out sheet's lower left corner lies.
    part : float
        From 0, laid out, to 1, folded [-].
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    if motion.rolls:
        _paint_rolling(painter, foot, motion, part, strip)
        return
    found = poses(motion, part)
    for pose in sorted(found, key=lambda each: sum(abs(turn[2]) for turn in each.turns)):
        painter.save()
        painter.translate(
            foot.x() + pose.shift[0] * strip.panel_px, foot.y() - pose.shift[1] * strip.thick_px
        )
        for at, height, angle in reversed(pose.turns):
            painter.translate(at * strip.panel_px, -height * strip.thick_px)
            painter.rotate(-math.degrees(angle))
            painter.translate(-at * strip.panel_px, height * strip.thick_px)
        _paint_stretch(painter, pose, motion, strip)
        painter.restore()


def _paint_stretch(painter: QPainter, pose: Pose, motion: Motion, strip: Strip) -> None:
    stretch, thick = pose.stretch, strip.thick_px
    left = stretch.start * strip.panel_px
    room = QRectF(left, -thick, (stretch.end - stretch.start) * strip.panel_px, thick)
    if stretch.cargo == "paste" and strip.paste is not None:
        wide, high = strip.paste.width(), strip.paste.height()
        source = QRectF(
            stretch.start / motion.length * wide,
            0,
            (stretch.end - stretch.start) / motion.length * wide,
            high,
        )
        painter.drawPixmap(room, strip.paste, source)
    elif stretch.cargo == "paste":
        painter.fillRect(room, DOUGH)
        painter.fillRect(room.adjusted(0, thick * 0.36, 0, -thick * 0.36), FAT)
    else:
        painter.fillRect(room, FAT if stretch.cargo == "fat" else DOUGH)
        if stretch.cargo == "dough and fat":
            on_it = room.adjusted(0, 0, 0, -thick * 0.55)
            painter.fillRect(on_it, FAT)
            painter.setPen(QPen(FAT_EDGE, 1))
            painter.drawLine(on_it.bottomLeft(), on_it.bottomRight())
        if stretch.cargo == "pieces":
            size = thick * 0.3
            for i in range(11):
                x = room.left() + room.width() * (i + 0.3 + (i * 5 % 7) / 14) / 11.4
                y = room.top() + thick * (0.12 + 0.5 * (i * 3 % 5) / 4)
                painter.fillRect(QRectF(x, y, size, size), FAT)
    painter.setPen(QPen(FAT_EDGE if stretch.cargo == "fat" else DOUGH_EDGE, 1.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(room)


def _paint_rolling(
    painter: QPainter, foot: QPointF, motion: Motion, part: float, strip: Strip
) -> None:
    """A log that takes up the sheet from its left end: its area is what it has taken up."""
    length, thick = motion.length * strip.panel_px, strip.thick_px
    taken = length * part
    radius = math.sqrt(taken * thick / math.pi)
    if part < 1:
        rest = QRectF(foot.x() + taken, foot.y() - thick, length - taken, thick)
        if strip.paste is not None:
            wide, high = strip.paste.width(), strip.paste.height()
            painter.drawPixmap(rest, strip.paste, QRectF(part * wide, 0, (1 - part) * wide, high))
        else:
            painter.fillRect(rest, DOUGH)
            painter.fillRect(rest.adjusted(0, 0, 0, -thick * 0.55), FAT)
        painter.setPen(QPen(DOUGH_EDGE, 1.2))
        painter.drawRect(rest)
    if radius <= 0.5:
        return
    centre = QPointF(foot.x() + taken, foot.y() - radius)
    box = QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius)
    painter.save()
    painter.translate(centre)
    painter.rotate(math.degrees(taken / max(radius, 1.0)) % 360 if part < 1 else 0)
    painter.translate(-centre.x(), -centre.y())
    if strip.log is not None:
        painter.drawPixmap(box, strip.log, QRectF(strip.log.rect()))
    else:
        paint_log(painter, box, max(1.0, radius / max(thick, 1.0)))
    painter.restore()


def paint_frame(
    painter: QPainter, room: QRectF, motion: Motion, part: float, ink: QColor | None = None
) -> None:
    """Paint a standing frame of a motion into a room, for teaching.

    Parameters
    ----------
    part : float
        Moment of it [-].
    ink : QColor or None
        Of the arrow that shows where the next flap goes; None for no arrow.
    """
    panel = room.width() / (motion.length + 0.15)
    thick = max(4.0, min(panel * 0.16, room.height() / 5.5))
    foot = QPointF(room.left() + panel * 0.07, room.bottom() - 4)
    paint_folding(painter, foot, motion, part, Strip(panel, thick))
    if ink is None or not motion.swings:
        return
    at = round(part * len(motion.swings))
    if at >= len(motion.swings):
        return
    swing = motion.swings[at]
    way = -1 if swing.leftward else 1
    x = foot.x() + swing.at * panel
    y = foot.y() - swing.height * thick
    reach = panel * 0.42
    arc = QPainterPath(QPointF(x - way * reach, y - thick * 1.1))
    top = max(room.top() + 4, y - thick * 1.1 - reach * 1.1)
    end = QPointF(x + way * reach, y - thick * 1.3)
    arc.cubicTo(QPointF(x - way * reach * 0.8, top), QPointF(x + way * reach * 0.8, top), end)
    painter.setPen(QPen(ink, 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(arc)
    tip = QPainterPath(end)
    tip.lineTo(end + QPointF(-way * 7, -4))
    tip.lineTo(end + QPointF(way * 1.5, -8))
    tip.closeSubpath()
    painter.fillPath(tip, ink)
