"""A lesson drawn: its frames in a row with their words, alike on screen and on paper."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen, QPolygonF

from aplomb.core.folds.lessons import Frame, Lesson
from aplomb.desk.drawings.folded import DOUGH, DOUGH_EDGE, FAT, FAT_EDGE
from aplomb.desk.drawings.folding import paint_frame

GAP = 14.0


def frame_rooms(lesson: Lesson, room: QRectF, most: float) -> list[QRectF]:
    """Divide a room into one for each frame, none wider than `most`."""
    many = len(lesson.frames)
    wide = min(most, (room.width() - GAP * (many - 1)) / many)
    return [
        QRectF(room.left() + i * (wide + GAP), room.top(), wide, room.height()) for i in range(many)
    ]


def words_height(painter: QPainter, lesson: Lesson, rooms: list[QRectF], font: QFont) -> float:
    """Height of the longest words under the frames."""
    painter.setFont(font)
    flags = int(Qt.TextFlag.TextWordWrap)
    return max(
        painter.boundingRect(QRectF(0, 0, room.width(), 1e4), flags, frame.words).height()
        for room, frame in zip(rooms, lesson.frames, strict=True)
    )


def paint_lesson(
    painter: QPainter,
    room: QRectF,
    lesson: Lesson,
    font: QFont,
    ink: QColor,
    arrow: QColor,
    most: float = 260.0,
) -> None:
    """Paint the frames of a lesson in a row, numbered, with their words below.

    Parameters
    ----------
    ink, arrow : QColor
        Of the words, and of the arrows that show where a flap goes.
    most : float
        Widest a frame is drawn.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    rooms = frame_rooms(lesson, room, most)
    foot = words_height(painter, lesson, rooms, font)
    for i, (each, frame) in enumerate(zip(rooms, lesson.frames, strict=True)):
        drawing = each.adjusted(0, 0, 0, -foot - 6)
        if frame.flaps >= 0:
            _paint_envelope(painter, drawing, frame, crossed=lesson.envelope == "cross")
        else:
            paint_frame(painter, drawing, lesson.motion, frame.part, arrow)
        painter.setFont(font)
        painter.setPen(ink)
        painter.drawText(
            QRectF(each.left(), each.bottom() - foot, each.width(), foot),
            int(Qt.TextFlag.TextWordWrap),
            f"{i + 1}. {frame.words}",
        )


def _paint_envelope(painter: QPainter, room: QRectF, frame: Frame, *, crossed: bool) -> None:
    """Dough and fat from above, with some flaps folded in."""
    side = min(room.width(), room.height()) - 4
    c = room.center()
    half = side / 2
    if crossed:
        half /= 3
        block = [(-half, -half), (half, -half), (half, half), (-half, half)]
        flaps = [
            [(-half, -half), (half, -half), (half, -3 * half), (-half, -3 * half)],
            [(-half, half), (half, half), (half, 3 * half), (-half, 3 * half)],
            [(-half, -half), (-half, half), (-3 * half, half), (-3 * half, -half)],
            [(half, -half), (half, half), (3 * half, half), (3 * half, -half)],
        ]
        folded = [block] * 4
    else:
        block = [(0, -half), (half, 0), (0, half), (-half, 0)]
        corners = [(half, -half), (-half, half), (-half, -half), (half, half)]
        edges = [(0, 1), (2, 3), (3, 0), (1, 2)]
        flaps = [
            [block[a], block[b], corner] for (a, b), corner in zip(edges, corners, strict=True)
        ]
        folded = [[block[a], block[b], (0.0, 0.0)] for a, b in edges]

    def shape(points: list[tuple[float, float]]) -> QPolygonF:
        return QPolygonF([c + QPointF(x, y) for x, y in points])

    painter.setPen(QPen(DOUGH_EDGE, 1.4))
    painter.setBrush(DOUGH)
    for i, flap in enumerate(flaps):
        if i >= frame.flaps:
            painter.drawPolygon(shape(flap))
    painter.drawPolygon(shape(block))
    painter.setPen(QPen(FAT_EDGE, 1.4))
    painter.setBrush(FAT)
    painter.drawPolygon(shape([(x * 0.94, y * 0.94) for x, y in block]))
    painter.setPen(QPen(DOUGH_EDGE, 1.4))
    painter.setBrush(DOUGH)
    for i, flap in enumerate(folded):
        if i < frame.flaps:
            painter.drawPolygon(shape(flap))
