"""The ribbon of what is done to the paste: each turn drawn as the folded strip it is."""

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QSizePolicy, QWidget

from aplomb.core.folds.plan import ENCLOSURE_NAMES, Step, Way, step_name
from aplomb.core.folds.sizes import Box
from aplomb.core.study import Study
from aplomb.desk.drawings.folded import paint_enclosing, paint_fold
from aplomb.desk.headline import short
from aplomb.desk.theme import Theme


def rectangle(box: Box) -> str:
    """Write the size of a sheet: 57 × 20 cm."""
    return f"{box.length_mm / 10:.0f} × {box.width_mm / 10:.0f} cm"


class StepCard(QWidget):
    """One card of the ribbon: the enclosing, a turn, or a rest.

    Signals
    -------
    picked : int
        Its place; 0 for the enclosing.
    """

    picked = Signal(int)

    def __init__(self, theme: Theme, place: int) -> None:
        super().__init__()
        self.theme, self.place = theme, place
        self._study: Study | None = None
        self._selected = False
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)

    def show_study(self, study: Study, *, selected: bool) -> None:
        """Show a study's step."""
        self._study, self._selected = study, selected
        self.setAccessibleName(self._words(study))
        self.setToolTip(self._words(study))
        self.updateGeometry()
        self.update()

    @property
    def _step(self) -> Step | None:
        return self._study.plan.steps[self.place - 1] if self._study and self.place else None

    def _words(self, study: Study) -> str:
        step = self._step
        if step is None:
            return f"Enclose: {ENCLOSURE_NAMES[study.plan.enclosure]}"
        leaves = study.turns[self.place].fat_leaves
        return step_name(step) + (
            f", {short(leaves, 'fat_leaves')} fat leaves" if step.is_turn else ""
        )

    def sizeHint(self) -> QSize:
        """Narrow for a rest."""
        rest = self._step is not None and self._step.way is Way.REST
        return QSize(self.theme.px(46 if rest else 128), self.theme.px(202))

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the card."""
        if self._study is None:
            return
        p = self.theme.palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        room = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        step = self._step
        rest = step is not None and step.way is Way.REST
        edge = QPen(QColor(p.action), 2.5) if self._selected else QPen(QColor(p.line), 1)
        painter.setPen(edge)
        painter.setBrush(QColor(p.cold_ground if rest else p.card))
        painter.drawRoundedRect(room, 8, 8)
        if rest:
            self._paint_rest(painter, room, step)
        else:
            self._paint_turn(painter, room, step)

    def _paint_rest(self, painter: QPainter, room: QRectF, step: Step | None) -> None:
        assert step is not None
        painter.setPen(QColor(self.theme.palette.cold))
        painter.setFont(self.theme.font(14, 600))
        painter.translate(room.center())
        painter.rotate(-90)
        words = "rest in the cold" if step.rest_min is None else f"rest {_minutes(step.rest_min)}"
        wide = QRectF(-room.height() / 2, -room.width() / 2, room.height(), room.width())
        painter.drawText(wide, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_turn(self, painter: QPainter, room: QRectF, step: Step | None) -> None:
        theme, p, study = self.theme, self.theme.palette, self._study
        assert study is not None
        inner = room.adjusted(11, 7, -9, -7)
        moment = study.turns[self.place]
        number = sum(s.is_turn for s in study.plan.steps[: self.place])
        lines = [
            (theme.font(16, 600), p.text, f"Turn {number}" if step else "Enclose"),
            (theme.font(14), p.second, step_name(step) if step else study.plan.enclosure.value),
        ]
        y = inner.top()
        for font, color, text in lines:
            painter.setFont(font)
            painter.setPen(QColor(color))
            high = painter.fontMetrics().height()
            painter.drawText(QRectF(inner.left(), y, inner.width(), high), 0, text)
            y += high
        foot = [theme.font(13), theme.font(24, 600)]
        painter.setFont(foot[1])
        big = painter.fontMetrics().height()
        painter.setPen(QColor(p.text))
        base = inner.bottom() - painter.fontMetrics().descent()
        about = "≈" if study.in_pieces and moment.fat_leaves else ""
        text = about + short(moment.fat_leaves, "fat_leaves")
        painter.drawText(QPointF(inner.left(), base), text)
        x = inner.left() + painter.fontMetrics().horizontalAdvance(text) + 6
        painter.setFont(foot[0])
        painter.setPen(QColor(p.second))
        word = "fat leaf" if moment.fat_leaves == 1 else "fat leaves"
        if x + painter.fontMetrics().horizontalAdvance(word) < inner.right() + 6:
            painter.drawText(QPointF(x, base), word)
        size = self._size_words(study, step)
        high = painter.fontMetrics().height()
        painter.drawText(
            QRectF(inner.left(), inner.bottom() - big - high, inner.width() + 8, high), 0, size
        )
        drawing = QRectF(inner.left(), y + 6, inner.width(), inner.bottom() - big - high - y - 14)
        if step is None:
            paint_enclosing(painter, drawing.adjusted(6, 0, -6, 0), study.enclosing)
        else:
            room_high = min(drawing.height(), float(theme.px(64)))
            paint_fold(
                painter,
                QRectF(
                    drawing.left(), drawing.center().y() - room_high / 2, drawing.width(), room_high
                ),
                step,
            )

    def _size_words(self, study: Study, step: Step | None) -> str:
        size = study.turns[self.place].size
        if step is not None:
            return (
                f"{rectangle(size.sheet)}, {size.sheet.height_mm:g} mm" if size else "no size yet"
            )
        return f"dough {rectangle(study.enclosing.dough)}" if study.enclosing else "no size yet"

    def mousePressEvent(self, _event: QMouseEvent) -> None:
        """Pick the step."""
        self.picked.emit(self.place)


def _minutes(minutes: float) -> str:
    if minutes < 120:
        return f"{minutes:g} min"
    return f"{minutes / 60:.3g} h"


class Ribbon(QScrollArea):
    """All steps in a row. Arrows pick, digits insert a fold, / a rest, Delete removes.

    Signals
    -------
    picked : int
        Place of the step; 0 for the enclosing.
    plan_wanted : str, Plan
        What is done, and the plan it gives.
    """

    picked = Signal(int)
    plan_wanted = Signal(str, object)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._study: Study | None = None
        self.place = 0
        self._cards: list[StepCard] = []
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Plan of turns")
        inner = QWidget()
        inner.setObjectName("inner")
        self._line = QHBoxLayout(inner)
        self._line.setContentsMargins(2, 2, 2, 2)
        self._line.setSpacing(8)
        self._line.addStretch(1)
        self.setWidget(inner)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        """Take another palette or size of text."""
        self._theme = theme
        self.setFixedHeight(theme.px(202) + 18)
        for shown in self._cards:
            shown.theme = theme
            shown.updateGeometry()

    def show_study(self, study: Study) -> None:
        """Show a study's plan."""
        self._study = study
        wanted = len(study.plan.steps) + 1
        while len(self._cards) > wanted:
            gone = self._cards.pop()
            self._line.removeWidget(gone)
            gone.hide()
            gone.deleteLater()
        while len(self._cards) < wanted:
            made = StepCard(self._theme, len(self._cards))
            made.picked.connect(self.pick)
            self._line.insertWidget(len(self._cards), made)
            self._cards.append(made)
        self.place = min(self.place, wanted - 1)
        for shown in self._cards:
            shown.show_study(study, selected=shown.place == self.place)
        self.setAccessibleDescription(
            f"Step {self.place} of {wanted - 1}: {self._cards[self.place].accessibleName()}"
        )

    def pick(self, place: int) -> None:
        """Take another step in hand."""
        if self._study is None:
            return
        self.place = max(0, min(place, len(self._study.plan.steps)))
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        self.show_study(self._study)
        self.ensureWidgetVisible(self._cards[self.place], 20, 0)
        self.picked.emit(self.place)

    def insert(self, step: Step) -> None:
        """Put a step behind the one in hand."""
        if self._study is None:
            return
        plan = self._study.plan
        steps = (*plan.steps[: self.place], step, *plan.steps[self.place :])
        self.place += 1
        self.plan_wanted.emit(f"add {step_name(step)}", replace(plan, steps=steps))

    def remove(self) -> None:
        """Take the step in hand out."""
        if self._study is None or self.place == 0:
            return
        plan = self._study.plan
        step = plan.steps[self.place - 1]
        steps = plan.steps[: self.place - 1] + plan.steps[self.place :]
        self.place -= 1
        self.plan_wanted.emit(f"remove {step_name(step)}", replace(plan, steps=steps))

    def move(self, by: int) -> None:
        """Move the step in hand."""
        if self._study is None or self.place == 0:
            return
        steps = list(self._study.plan.steps)
        here, there = self.place - 1, self.place - 1 + by
        if not 0 <= there < len(steps):
            return
        steps[here], steps[there] = steps[there], steps[here]
        self.place += by
        self.plan_wanted.emit(
            f"move {step_name(steps[there])}", replace(self._study.plan, steps=tuple(steps))
        )

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Pick, insert, move and remove by key."""
        key, alt = event.key(), event.modifiers() == Qt.KeyboardModifier.AltModifier
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            by = -1 if key == Qt.Key.Key_Left else 1
            if alt:
                self.move(by)
            else:
                self.pick(self.place + by)
        elif key == Qt.Key.Key_Home:
            self.pick(0)
        elif key == Qt.Key.Key_End:
            self.pick(10_000)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.remove()
        elif event.text() in ("2", "3", "4", "5", "6"):
            self.insert(Step(Way.FOLD, int(event.text())))
        elif event.text() == "+":
            self.insert(Step(Way.PORTION, 3))
        elif event.text().lower() == "q":
            self.insert(Step(Way.QUARTER, 4))
        elif key == Qt.Key.Key_Slash or event.text() == "/":
            self.insert(Step(Way.REST))
        else:
            super().keyPressEvent(event)
