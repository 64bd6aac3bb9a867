"""A cut plan on screen: zoomed by wheel and keys, moved by mouse and arrows."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from aplomb.core.batch.cutting import CutPlan
from aplomb.desk.drawings.cut_plan import Marks, paint_cut_plan, plan_words, room_for
from aplomb.desk.kit.theme import look

MOST_ZOOM = 12.0
STEP = 1.25


class CutView(QWidget):
    """One sheet of a cut plan.

    The wheel or + and − zoom, dragging or the arrows move, 0 shows all of it.
    """

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._plan: CutPlan | None = None
        self._zoom = 1.0
        self._middle = QPointF(0.5, 0.5)
        self._grip: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(150)
        self.setAccessibleName("Cut plan")
        self.setToolTip("+ and − zoom, arrows move, 0 shows all of it")

    def _look_changed(self) -> None:
        self.update()

    def show_plan(self, plan: CutPlan | None, names: list[str]) -> None:
        """Show another plan; screen readers get it in words."""
        if plan is None or self._plan is None or plan.sheet != self._plan.sheet:
            self._zoom, self._middle = 1.0, QPointF(0.5, 0.5)
        self._plan = plan
        self._keep_low()
        self.setAccessibleDescription(plan_words(plan, names) if plan else "")
        self.update()

    @property
    def zoom(self) -> float:
        """How much larger than when all of it is seen [-]."""
        return self._zoom

    def sizeHint(self) -> QSize:
        """Wide, and half as high."""
        return QSize(560, 300)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Be no higher than the sheet is at this width."""
        super().resizeEvent(event)
        self._keep_low()

    def _keep_low(self) -> None:
        if self._plan is not None:
            room = self.width() - 12 - look.theme.px(26)
            high = room * self._plan.sheet.width_mm / self._plan.sheet.length_mm
            self.setMaximumHeight(max(170, round(high) + 12 + look.theme.px(30)))

    def _place(self) -> tuple[QRectF, float]:
        assert self._plan is not None
        room = QRectF(self.rect()).adjusted(6, 6, -6, -6)
        fitted, scale = room_for(self._plan, room, look.theme.px(26))
        if self._zoom == 1:
            return fitted, scale
        wide, high = fitted.width() * self._zoom, fitted.height() * self._zoom
        centre = room.center()
        left = centre.x() - self._middle.x() * wide
        top = centre.y() - self._middle.y() * high
        return QRectF(left, top, wide, high), scale * self._zoom

    def zoom_by(self, factor: float, about: QPointF | None = None) -> None:
        """Zoom about a point of the view, or its middle."""
        if self._plan is None:
            return
        before, _ = self._place()
        about = about or QRectF(self.rect()).center()
        seen = QPointF(
            (about.x() - before.left()) / before.width(),
            (about.y() - before.top()) / before.height(),
        )
        self._zoom = min(MOST_ZOOM, max(1.0, self._zoom * factor))
        if self._zoom > 1:
            now, _ = self._place()
            centre = QRectF(self.rect()).center()
            off = QPointF(
                (about.x() - centre.x()) / now.width(), (about.y() - centre.y()) / now.height()
            )
            self._move_to(seen - off)
        self.update()

    def _move_to(self, middle: QPointF) -> None:
        self._middle = QPointF(min(1.0, max(0.0, middle.x())), min(1.0, max(0.0, middle.y())))
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom about the pointer."""
        self.zoom_by(STEP if event.angleDelta().y() > 0 else 1 / STEP, event.position())
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold."""
        self._grip = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move the sheet."""
        if self._grip is None or self._plan is None:
            return
        now, _ = self._place()
        moved = event.position() - self._grip
        self._grip = event.position()
        self._move_to(self._middle - QPointF(moved.x() / now.width(), moved.y() / now.height()))

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        """Let go."""
        self._grip = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Zoom and move by keys."""
        moves = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1),
            Qt.Key.Key_Down: (0, 1),
        }
        if event.text() in ("+", "="):
            self.zoom_by(STEP)
        elif event.text() in ("-", "−"):
            self.zoom_by(1 / STEP)
        elif event.text() == "0":
            self.zoom_by(1 / MOST_ZOOM)
        elif event.key() in moves and self._zoom > 1:
            x, y = moves[Qt.Key(event.key())]
            self._move_to(self._middle + QPointF(x, y) * (0.15 / self._zoom))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the sheet, and a frame when it has the keyboard."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        p = look.theme.palette
        if self._plan is not None:
            where, scale = self._place()
            marks = Marks(look.theme.font(13, 600), QColor(p.text), QColor(p.second))
            paint_cut_plan(painter, where, scale, self._plan, marks)
        if self.hasFocus():
            painter.setPen(QColor(p.action))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
