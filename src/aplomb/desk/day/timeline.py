"""The timetable on screen: steps picked and moved by keys and mouse, enlarged and shifted."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from aplomb.desk.drawings.timetable import (
    Axis,
    Placed,
    axis_of,
    names_width,
    needed_height,
    paint_timetable,
)
from aplomb.desk.kit.theme import look
from aplomb.work.day.picture import DayPicture

MOST_ZOOM = 12.0
STEP = 1.25
NUDGE_MIN = 5
"""What Alt and an arrow moves a step by [min]."""
ASKED = {"w": "day wall", "g": "bench day"}
"""What a letter asks for."""
DRAG_FROM = 6
"""So far a press is no drag [px]."""


class Timeline(QWidget):
    """All lanes of a day; one step is in hand.

    Signals
    -------
    picked : str, str
        Paste and step, as shown.
    moved : str, str, int
        The step is to begin then [min].
    freed : str, str
        The step need not be held any more.
    given : str, str
        The step is another baker's.
    wanted : str
        Something else is asked for, by its key.
    change, now : no argument
        The step in hand is to be changed; the one that is now is to be taken in hand.
    """

    picked = Signal(str, str)
    moved = Signal(str, str, int)
    freed = Signal(str, str)
    given = Signal(str, str)
    wanted = Signal(str)
    change = Signal()
    now = Signal()

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._picture: DayPicture | None = None
        self._order: list[tuple[str, str]] = []
        self.chosen: tuple[str, str] | None = None
        self.placed: list[Placed] = []
        self._zoom, self._shift = 1.0, 0.0
        self._press: QPointF | None = None
        self._drag = 0.0
        self._dragging = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Timetable")

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """As high as its lanes."""
        high = needed_height(self._picture, look.theme) if self._picture else look.theme.px(220)
        return QSize(620, round(high) + 8)

    def minimumSizeHint(self) -> QSize:
        """All lanes, somewhat lower."""
        high = needed_height(self._picture, look.theme) if self._picture else look.theme.px(160)
        return QSize(300, round(high * 0.85) + 8)

    def show_picture(self, picture: DayPicture | None, words: str) -> None:
        """Show another timetable; screen readers get it in words."""
        self._picture = picture
        bars = [] if picture is None else [b for lane in picture.lanes for b in lane.bars]
        order = sorted({(b.start, b.paste, b.step) for b in bars})
        self._order = [(paste, step) for _, paste, step in order]
        if self.chosen not in self._order:
            self.chosen = self._order[0] if self._order else None
        self.setAccessibleDescription(words)
        self.updateGeometry()
        self.update()

    def pick(self, paste: str, step: str) -> None:
        """Take a step in hand."""
        self.chosen = (paste, step)
        self._see_chosen()
        self.update()
        self.picked.emit(paste, step)

    def _axis(self) -> tuple[QRectF, Axis]:
        room = QRectF(self.rect()).adjusted(4, 4, -6, -4)
        names = names_width(look.theme)
        wide = (room.width() - names) * self._zoom
        left = room.left() + names - self._shift * wide
        assert self._picture is not None
        return room, axis_of(self._picture, left, wide)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the lanes, and a frame when it has the keyboard."""
        painter = QPainter(self)
        if self._picture is not None:
            room, axis = self._axis()
            self.placed = paint_timetable(
                painter, room, self._picture, axis, look.theme, self.chosen
            )
            if self._dragging and self.chosen:
                self._paint_drag(painter)
        if self.hasFocus():
            painter.setPen(QColor(look.theme.palette.action))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def _paint_drag(self, painter: QPainter) -> None:
        found = next(
            (p for p in self.placed if (p.paste, p.step) == self.chosen and not p.rest), None
        )
        if found is not None:
            painter.setPen(QColor(look.theme.palette.action))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(*found.rect).translated(self._drag, 0))

    def zoom_by(self, factor: float, about: float | None = None) -> None:
        """Enlarge or reduce about a place of the view [px]."""
        room = QRectF(self.rect()).adjusted(4, 4, -6, -4)
        names = names_width(look.theme)
        base = room.width() - names
        at = ((about if about is not None else room.center().x()) - room.left() - names) / base
        before = self._shift + at / self._zoom
        self._zoom = min(MOST_ZOOM, max(1.0, self._zoom * factor))
        self._shift_to(before - at / self._zoom)

    def _shift_to(self, share: float) -> None:
        self._shift = min(max(0.0, share), 1.0 - 1.0 / self._zoom)
        self.update()

    @property
    def zoom(self) -> float:
        """How much larger than when all of the day is seen [-]."""
        return self._zoom

    def _see_chosen(self) -> None:
        """Shift the view so that the step in hand is seen."""
        if self._picture is None or self.chosen is None or self._zoom == 1.0:
            return
        start = next(
            (
                b.start
                for lane in self._picture.lanes
                for b in lane.bars
                if (b.paste, b.step) == self.chosen
            ),
            None,
        )
        if start is None:
            return
        whole = axis_of(self._picture, 0.0, 1.0).x(start)
        wide = 1.0 / self._zoom
        if not self._shift <= whole <= self._shift + wide * 0.9:
            self._shift_to(whole - wide / 3)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Enlarge about the pointer, or shift with Shift held."""
        up = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._shift_to(self._shift - (0.1 if up > 0 else -0.1) / self._zoom)
        else:
            self.zoom_by(STEP if up > 0 else 1 / STEP, event.position().x())
        event.accept()

    def _under(self, at: QPointF) -> Placed | None:
        return next((p for p in reversed(self.placed) if QRectF(*p.rect).contains(at)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Pick a step; it may be dragged then."""
        found = self._under(event.position())
        if found is not None:
            self.pick(found.paste, found.step)
            self._press = None if found.rest else event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag a step, or say what is under the pointer."""
        if self._press is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._drag = event.position().x() - self._press.x()
            self._dragging = self._dragging or abs(self._drag) > DRAG_FROM
            self.update()
            return
        found = self._under(event.position())
        words = (
            f"{found.paste}: {'rest after ' if found.rest else ''}{found.words}" if found else ""
        )
        QToolTip.showText(event.globalPosition().toPoint(), words, self)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        """Put a dragged step down at its time."""
        dragged, self._dragging, self._press = self._dragging, False, None
        if dragged and self.chosen and self._picture is not None:
            found = next(
                (p for p in self.placed if (p.paste, p.step) == self.chosen and not p.rest), None
            )
            if found is not None:
                _, axis = self._axis()
                minute = round(axis.minute(found.rect[0] + self._drag))
                self.moved.emit(*self.chosen, max(0, minute))
        self._drag = 0.0
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Pick, move, enlarge and shift by keys."""
        key = event.key()
        alt = event.modifiers() == Qt.KeyboardModifier.AltModifier
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and self._order:
            by = -1 if key == Qt.Key.Key_Left else 1
            if alt:
                self._nudge(by * NUDGE_MIN)
            else:
                self._walk(by)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self._order:
            self._other_paste(-1 if key == Qt.Key.Key_Up else 1)
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End) and self._order:
            self.pick(*self._order[0 if key == Qt.Key.Key_Home else -1])
        elif event.text() in ("+", "="):
            self.zoom_by(STEP)
        elif event.text() in ("-", "−"):
            self.zoom_by(1 / STEP)
        elif event.text() == "0":
            self.zoom_by(1 / MOST_ZOOM)
        elif event.text().lower() == "f" and self.chosen:
            self.freed.emit(*self.chosen)
        elif event.text().lower() == "b" and self.chosen:
            self.given.emit(*self.chosen)
        elif event.text().lower() in ASKED:
            self.wanted.emit(ASKED[event.text().lower()])
        elif event.text().lower() == "n":
            self.now.emit()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen:
            self.change.emit()
        else:
            super().keyPressEvent(event)

    def _walk(self, by: int) -> None:
        at = self._order.index(self.chosen) if self.chosen in self._order else 0
        self.pick(*self._order[max(0, min(at + by, len(self._order) - 1))])

    def _other_paste(self, by: int) -> None:
        """The step of the paste before or after that is nearest in time."""
        pastes = sorted({paste for paste, _ in self._order})
        here = self.chosen or self._order[0]
        wanted = pastes[(pastes.index(here[0]) + by) % len(pastes)]
        at = self._order.index(here)
        near = min(
            (i for i, (paste, _) in enumerate(self._order) if paste == wanted),
            key=lambda i: abs(i - at),
        )
        self.pick(*self._order[near])

    def _nudge(self, minutes: int) -> None:
        if self._picture is None or self.chosen is None:
            return
        start = next(
            (
                b.start
                for lane in self._picture.lanes
                for b in lane.bars
                if (b.paste, b.step) == self.chosen
            ),
            None,
        )
        if start is not None:
            self.moved.emit(*self.chosen, max(0, start + minutes))
