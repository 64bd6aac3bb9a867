"""A photograph with lines drawn on it: the scale, a length, and where leaves are counted."""

import math
from typing import Literal

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetrics,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from aplomb.desk.kit.theme import look

LineKind = Literal["scale", "length", "leaves"]
KINDS: tuple[LineKind, ...] = ("scale", "length", "leaves")
INKS = {"scale": "#9CC3DB", "length": "#F0C244", "leaves": "#E28A72"}
"""Light enough on any photograph; each line has its word beside it too."""
NEAR_PX = 12.0
MOST_ZOOM = 12.0


class PhotoView(QWidget):
    """A photograph; each line has two ends that are dragged, or moved by keys.

    Keys: 1, 2, 3 pick a line, Space its other end, arrows move the end (with Shift ten at a time),
    plus and minus zoom, 0 shows all.

    Signals
    -------
    changed
        A line is another.
    """

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self.update)
        self._image = QImage()
        self._strip = QImage()
        self._strip_words = ""
        self.lines: dict[LineKind, tuple[QPointF, QPointF]] = {}
        self.kind: LineKind = "scale"
        self.end = 0
        self._marks: tuple[QPointF, ...] = ()
        self.zoom, self._middle = 1.0, QPointF()
        self._held: tuple[LineKind, int] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Photograph")
        self.setMouseTracking(True)

    def sizeHint(self) -> QSize:
        """Large enough to set points on."""
        return QSize(620, look.theme.px(420))

    def minimumSizeHint(self) -> QSize:
        """Still of use."""
        return QSize(280, 220)

    def show_image(self, image: QImage) -> None:
        """Show another photograph, with lines where one would begin."""
        self._image = image
        self._marks = ()
        self.zoom = 1.0
        self._middle = QPointF(image.width() / 2, image.height() / 2)
        w, h = image.width(), image.height()
        self.lines = (
            {}
            if image.isNull()
            else {
                "scale": (QPointF(0.12 * w, 0.88 * h), QPointF(0.88 * w, 0.88 * h)),
                "length": (QPointF(0.30 * w, 0.2 * h), QPointF(0.30 * w, 0.75 * h)),
                "leaves": (QPointF(0.55 * w, 0.2 * h), QPointF(0.55 * w, 0.75 * h)),
            }
        )
        self.update()
        self.changed.emit()

    def show_strip(self, strip: QImage, words: str) -> None:
        """Show the computed section at the same scale in the corner; a null one for none."""
        self._strip, self._strip_words = strip, words
        self.update()

    def show_marks(self, marks: tuple[QPointF, ...]) -> None:
        """Mark where leaves were counted [px of the photograph]."""
        self._marks = marks
        self.update()

    def set_line(self, kind: LineKind, first: QPointF, second: QPointF) -> None:
        """Put a line."""
        self.lines[kind] = (first, second)
        self.update()
        self.changed.emit()

    # ------------------------------------------------------------------ where things are

    def factor(self) -> float:
        """Give how large a pixel of the photograph is shown [-]."""
        if self._image.isNull():
            return 1.0
        whole = min(self.width() / self._image.width(), self.height() / self._image.height())
        return whole * self.zoom

    def _to_view(self, at: QPointF) -> QPointF:
        return QPointF(self.width() / 2, self.height() / 2) + (at - self._middle) * self.factor()

    def _to_image(self, at: QPointF) -> QPointF:
        return self._middle + (at - QPointF(self.width() / 2, self.height() / 2)) / self.factor()

    def _near(self, at: QPointF) -> tuple[LineKind, int] | None:
        found = None
        least = NEAR_PX
        for kind, ends in self.lines.items():
            for i, end in enumerate(ends):
                there = self._to_view(end)
                apart = math.hypot(there.x() - at.x(), there.y() - at.y())
                if apart <= least:
                    found, least = (kind, i), apart
        return found

    def _move(self, kind: LineKind, end: int, to: QPointF) -> None:
        inside = QPointF(
            min(max(0.0, to.x()), self._image.width() - 1.0),
            min(max(0.0, to.y()), self._image.height() - 1.0),
        )
        ends = list(self.lines[kind])
        ends[end] = inside
        self.lines[kind] = (ends[0], ends[1])
        if kind == "leaves":
            self._marks = ()
        self.update()
        self.changed.emit()

    # ------------------------------------------------------------------ mouse and keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of the nearest end."""
        self.setFocus()
        self._held = self._near(event.position())
        if self._held is not None:
            self.kind, self.end = self._held
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag an end."""
        if self._held is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._move(*self._held, self._to_image(event.position()))
        else:
            near = self._near(event.position()) is not None
            self.setCursor(Qt.CursorShape.SizeAllCursor if near else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        """Let go."""
        self._held = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom about the mouse."""
        self._zoom_by(1.2 if event.angleDelta().y() > 0 else 1 / 1.2, event.position())

    def _zoom_by(self, times: float, about: QPointF) -> None:
        before = self._to_image(about)
        self.zoom = min(MOST_ZOOM, max(1.0, self.zoom * times))
        self._middle += before - self._to_image(about)
        if self.zoom == 1.0:
            self._middle = QPointF(self._image.width() / 2, self._image.height() / 2)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Pick, move, zoom."""
        keys = Qt.Key
        steps = {
            keys.Key_Left: (-1, 0),
            keys.Key_Right: (1, 0),
            keys.Key_Up: (0, -1),
            keys.Key_Down: (0, 1),
        }
        key = keys(event.key())
        if self._image.isNull():
            super().keyPressEvent(event)
        elif key in (keys.Key_1, keys.Key_2, keys.Key_3):
            self.kind, self.end = KINDS[event.key() - keys.Key_1], 0
            self.update()
        elif key == keys.Key_Space:
            self.end = 1 - self.end
            self.update()
        elif key in steps:
            far = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            dx, dy = steps[key]
            at = self.lines[self.kind][self.end]
            self._move(self.kind, self.end, at + QPointF(far * dx, far * dy))
        elif key in (keys.Key_Plus, keys.Key_Equal, keys.Key_Minus):
            times = 1 / 1.5 if key == keys.Key_Minus else 1.5
            self._zoom_by(times, self._to_view(self.lines[self.kind][self.end]))
        elif key == keys.Key_0:
            self._zoom_by(0.0001, QPointF(self.width() / 2, self.height() / 2))
        else:
            super().keyPressEvent(event)

    # ------------------------------------------------------------------ painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint photograph, lines and the computed section."""
        p = look.theme.palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor("#1F252B"))
        if self._image.isNull():
            painter.setPen(QColor("#B9B5AA"))
            painter.setFont(look.theme.font(15))
            middle = int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap)
            words = "No photograph yet. Cut a piece, lay a ruler beside it, open the picture here."
            painter.drawText(QRectF(self.rect()).adjusted(30, 0, -30, 0), middle, words)
        else:
            corner = self._to_view(QPointF(0, 0))
            size = QPointF(self._image.width(), self._image.height()) * self.factor()
            painter.drawImage(QRectF(corner.x(), corner.y(), size.x(), size.y()), self._image)
            for kind in KINDS:
                self._paint_line(painter, kind)
            painter.setPen(QPen(QColor(INKS["leaves"]), 1.6))
            for mark in self._marks:
                at = self._to_view(mark)
                painter.drawLine(at + QPointF(-6, 0), at + QPointF(6, 0))
            self._paint_strip(painter)
        if self.hasFocus():
            painter.setPen(QPen(QColor(p.action), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _paint_line(self, painter: QPainter, kind: LineKind) -> None:
        first, second = (self._to_view(end) for end in self.lines[kind])
        for ink, wide in (("#171C21", 4.4), (INKS[kind], 2.0)):
            painter.setPen(QPen(QColor(ink), wide))
            painter.drawLine(first, second)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for i, end in enumerate((first, second)):
            mine = kind == self.kind and i == self.end
            painter.setPen(QPen(QColor(INKS[kind]), 2.4 if mine else 1.6))
            painter.drawEllipse(end, 8 if mine else 5, 8 if mine else 5)
        painter.setFont(look.theme.font(13, 600))
        words = f"{KINDS.index(kind) + 1} {kind}"
        metrics = QFontMetrics(painter.font())
        at = QPointF(first.x() + 10, first.y() - 8)
        wide = metrics.horizontalAdvance(words) + 8
        box = QRectF(at.x() - 4, at.y() - metrics.ascent() - 2, wide, metrics.height() + 2)
        painter.fillRect(box, QColor(23, 28, 33, 190))
        painter.setPen(QColor(INKS[kind]))
        painter.drawText(at, words)

    def _paint_strip(self, painter: QPainter) -> None:
        if self._strip.isNull():
            return
        high = self._strip.height() * self.factor()
        wide = min(self._strip.width() * self.factor(), self.width() * 0.25)
        room = QRectF(self.width() - wide - 14, 30, wide, high)
        painter.setFont(look.theme.font(12.5))
        metrics = QFontMetrics(painter.font())
        text = metrics.horizontalAdvance(self._strip_words) + 10
        left = self.width() - max(wide, text) - 18
        painter.fillRect(QRectF(left, 6, max(wide, text) + 12, high + 32), QColor(23, 28, 33, 190))
        painter.setPen(QColor("#FBF6EA"))
        painter.drawText(QPointF(left + 6, 22), self._strip_words)
        painter.drawImage(room, self._strip)
