"""The ribbon of what is done to the paste: each turn drawn as the folded strip it is."""

from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QScrollArea, QSizePolicy, QWidget

from aplomb.core.base.figures import inches, length_unit, mm_text
from aplomb.core.folds.boxes import Box
from aplomb.core.folds.plan import ENCLOSURE_NAMES, REST_PLACES, rest_words, step_name
from aplomb.core.folds.step import COVERED, Step, Way, panels_near
from aplomb.core.study.study import Study
from aplomb.desk.drawings.folded import paint_enclosing, paint_fold
from aplomb.desk.drawings.marks import paint_mark
from aplomb.desk.kit.fields import let_go, plain_tip
from aplomb.desk.kit.theme import look
from aplomb.work.edits.turns import MORE_STEPS
from aplomb.work.figures.typed import reading_text
from aplomb.work.words.steps import rectangle

if TYPE_CHECKING:
    from aplomb.core.opinion.opinion import Mark

DRAG_FROM = 12
"""How far a card is pulled before it is dragged [px]."""

_BY_LETTER = {key.lower(): step for _, key, step in MORE_STEPS if key.isalpha()}


class StepCard(QWidget):
    """One card of the ribbon: the enclosing, a turn, or a rest.

    Signals
    -------
    picked : int
        Its place; 0 for the enclosing.
    dragged : int, bool
        Where along the row it is held, and whether it is put down there; -1 for nowhere.
    change_wanted : QPoint
        It is to be changed; where to ask.
    """

    picked = Signal(int)
    dragged = Signal(int, bool)
    change_wanted = Signal(QPoint)

    def __init__(self, place: int) -> None:
        super().__init__()
        self.place = place
        self._pressed = 0.0
        self.marks: tuple[tuple[str, str], ...] = ()
        self._study: Study | None = None
        self._selected = False
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)

    def show_study(self, study: Study, *, selected: bool) -> None:
        """Show a study's step."""
        self._study, self._selected = study, selected
        self.marks = tuple((o.mark, o.claim) for o in study.shown_opinions if o.place == self.place)
        words = ". ".join([self._words(study), *(claim for _, claim in self.marks)])
        self.setAccessibleName(words)
        self.setToolTip(plain_tip(words))
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
        return step_name(step) + (f", {reading_text(leaves)} fat leaves" if step.is_turn else "")

    def sizeHint(self) -> QSize:
        """Narrow for a rest."""
        rest = self._step is not None and self._step.way is Way.REST
        return QSize(look.theme.px(46 if rest else 128), look.theme.px(202))

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the card."""
        if self._study is None:
            return
        p = look.theme.palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        room = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        step = self._step
        rest = step is not None and step.way is Way.REST
        edge = QPen(QColor(p.action), 2.5) if self._selected else QPen(QColor(p.line), 1)
        painter.setPen(edge)
        painter.setBrush(QColor(p.cold_ground if rest else p.card))
        painter.drawRoundedRect(room, 8, 8)
        self._paint_mark(painter, room)
        if rest:
            self._paint_rest(painter, room, step)
        else:
            self._paint_turn(painter, room, step)

    def _paint_rest(self, painter: QPainter, room: QRectF, step: Step | None) -> None:
        assert step is not None
        painter.setPen(QColor(look.theme.palette.cold))
        painter.setFont(look.theme.font(14, 600))
        painter.translate(room.center())
        painter.rotate(-90)
        words = rest_words(step)
        if words == "rest":
            words = "rest, calculated"
        wide = QRectF(-room.height() / 2, -room.width() / 2, room.height(), room.width())
        painter.drawText(wide, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_turn(self, painter: QPainter, room: QRectF, step: Step | None) -> None:
        p, study = look.theme.palette, self._study
        assert study is not None
        inner = room.adjusted(11, 7, -9, -7)
        moment = study.turns[self.place]
        number = sum(s.is_turn for s in study.plan.steps[: self.place])
        lines = [
            (look.theme.font(16, 600), p.text, _title(step, number)),
            (look.theme.font(14), p.second, _name(step) if step else study.plan.enclosure.value),
        ]
        y = inner.top()
        for font, color, text in lines:
            painter.setFont(font)
            painter.setPen(QColor(color))
            high = painter.fontMetrics().height()
            painter.drawText(QRectF(inner.left(), y, inner.width(), high), 0, text)
            y += high
        foot = [look.theme.font(13), look.theme.font(24, 600)]
        painter.setFont(foot[1])
        big = painter.fontMetrics().height()
        painter.setPen(QColor(p.text))
        base = inner.bottom() - painter.fontMetrics().descent()
        about = "≈" if study.plan.leaves_are_means and moment.fat_leaves else ""
        text = about + reading_text(moment.fat_leaves)
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
            room_high = min(drawing.height(), float(look.theme.px(64)))
            paint_fold(
                painter,
                QRectF(
                    drawing.left(), drawing.center().y() - room_high / 2, drawing.width(), room_high
                ),
                step,
            )

    def _size_words(self, study: Study, step: Step | None) -> str:
        size = study.turns[self.place].size
        if step is not None and step.way is Way.TRIM:
            return "not rolled"
        if step is not None:
            return _sheet_size(size.sheet) if size else "no size yet"
        return rectangle(study.enclosing.dough) if study.enclosing else "no size yet"

    def _paint_mark(self, painter: QPainter, room: QRectF) -> None:
        """Mark what is to be looked at here."""
        if not self.marks:
            return
        worst: Mark = "wrong" if any(mark == "wrong" for mark, _ in self.marks) else "look"
        color = QColor(look.theme.palette.wrong if worst == "wrong" else look.theme.palette.look)
        box = QRectF(room.right() - 25, room.top() + 9, 15, 15)
        paint_mark(painter, box, worst, color, QColor(look.theme.palette.card))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Pick the step; it may be dragged then."""
        self._pressed = event.globalPosition().x()
        self.picked.emit(self.place)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Show where a dragged step would go."""
        if self.place and event.buttons() & Qt.MouseButton.LeftButton:
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.dragged.emit(self.mapToParent(event.position().toPoint()).x(), False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Put a dragged step down."""
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        if self.place and abs(event.globalPosition().x() - self._pressed) > DRAG_FROM:
            self.dragged.emit(self.mapToParent(event.position().toPoint()).x(), True)
        elif self.place:
            self.dragged.emit(-1, True)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Offer what this step can be changed to."""
        self.picked.emit(self.place)
        self.change_wanted.emit(event.globalPos())


def _title(step: Step | None, number: int) -> str:
    if step is None:
        return "Enclose"
    return "Trim" if step.way is Way.TRIM else f"Turn {number}"


def _name(step: Step) -> str:
    """Name a step within its card."""
    return step_name(step).removeprefix("trim ")


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

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._study: Study | None = None
        self.place = 0
        self.cards: list[StepCard] = []
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Turn plan")
        inner = QWidget()
        inner.setObjectName("inner")
        self._line = QHBoxLayout(inner)
        self._line.setContentsMargins(2, 2, 2, 2)
        self._line.setSpacing(8)
        self._line.addStretch(1)
        self._drop = QFrame(inner)
        self._drop.setObjectName("drop")
        self._drop.hide()
        self.setWidget(inner)
        self._look_changed()

    def _look_changed(self) -> None:
        self.setFixedHeight(look.theme.px(202) + 18)
        for shown in self.cards:
            shown.updateGeometry()

    def show_study(self, study: Study) -> None:
        """Show a study's plan."""
        self._study = study
        wanted = len(study.plan.steps) + 1
        while len(self.cards) > wanted:
            let_go(self._line, self.cards.pop())
        while len(self.cards) < wanted:
            made = StepCard(len(self.cards))
            made.picked.connect(self.pick)
            made.dragged.connect(self._dragged)
            made.change_wanted.connect(self.ask_change)
            self._line.insertWidget(len(self.cards), made)
            self.cards.append(made)
        self.place = min(self.place, wanted - 1)
        for shown in self.cards:
            shown.show_study(study, selected=shown.place == self.place)
        self.setAccessibleDescription(
            f"Step {self.place} of {wanted - 1}: {self.cards[self.place].accessibleName()}"
        )

    def pick(self, place: int) -> None:
        """Take another step in hand."""
        if self._study is None:
            return
        self.place = max(0, min(place, len(self._study.plan.steps)))
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        self.show_study(self._study)
        self.ensureWidgetVisible(self.cards[self.place], 20, 0)
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

    def change(self, step: Step) -> None:
        """Change the step in hand to another; how thick it is rolled stays."""
        if self._study is None or self.place == 0:
            return
        plan = self._study.plan
        old = plan.steps[self.place - 1]
        if old.is_turn and step.is_turn:
            step = replace(step, rolled_mm=old.rolled_mm)
        steps = (*plan.steps[: self.place - 1], step, *plan.steps[self.place :])
        self.plan_wanted.emit(f"change to {step_name(step)}", replace(plan, steps=steps))

    def ask_change(self, at: QPoint) -> None:
        """Offer what the step in hand can be changed to."""
        if self._study is None or self.place == 0:
            return
        menu = QMenu(self)
        common = [Step(Way.FOLD, n) for n in (2, 3, 4)]
        others = [step for _, _, step in MORE_STEPS]
        for step in (*common, *others, Step(Way.REST)):
            name = step_name(step)
            menu.addAction(f"{name[:1].upper()}{name[1:]}", partial(self.change, step))
        here = self._study.plan.steps[self.place - 1]
        if here.way is Way.REST:
            menu.addSeparator()
            for place in REST_PLACES:
                made = replace(here, place="" if place == "fridge" else place)
                menu.addAction(f"Rest in: {place}", partial(self.change, made))
            worked_out = replace(here, rest_min=None, most_min=None)
            menu.addAction("Rest for the calculated time", partial(self.change, worked_out))
        if here.way is Way.PORTION:
            menu.addSeparator()
            seen: set[int] = set()
            for words, share in COVERED:
                many = panels_near(share, here.panels)
                if many in seen:
                    continue
                seen.add(many)
                made = replace(here, covered=many, begins=1)
                menu.addAction(
                    f"Spread on {words} of the sheet: {many} of {here.panels} panels",
                    partial(self.change, made),
                )
        menu.addSeparator()
        menu.addAction("Remove", self.remove)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(at)

    def _dragged(self, x: int, down: bool) -> None:
        """Follow a dragged step; put it down between the two nearest."""
        gap = 0
        if x >= 0:
            gap = sum(x > card.geometry().center().x() for card in self.cards[1:])
        self._drop.setVisible(x >= 0 and not down)
        if x >= 0 and not down:
            before = self.cards[gap].geometry()
            self._drop.setGeometry(before.right() + 3, before.top() + 6, 3, before.height() - 12)
            self._drop.raise_()
        if down and x >= 0 and self.place:
            here = self.place - 1
            self.shift((gap if gap <= here else gap - 1) - here)

    def shift(self, by: int) -> None:
        """Move the step in hand."""
        if self._study is None or self.place == 0:
            return
        steps = list(self._study.plan.steps)
        here, there = self.place - 1, self.place - 1 + by
        if by == 0 or not 0 <= there < len(steps):
            return
        steps.insert(there, steps.pop(here))
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
                self.shift(by)
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
        elif event.text().lower() in _BY_LETTER:
            self.insert(_BY_LETTER[event.text().lower()])
        elif key == Qt.Key.Key_Menu:
            self.ask_change(self.mapToGlobal(self.rect().center()))
        elif key == Qt.Key.Key_Slash or event.text() == "/":
            self.insert(Step(Way.REST))
        else:
            super().keyPressEvent(event)


def _sheet_size(sheet: Box) -> str:
    """Write a sheet's size so short that it fits a step: 57 × 20 cm, 9 mm."""
    if length_unit() == "mm":
        return f"{rectangle(sheet)}, {mm_text(sheet.height_mm)}"
    sides = [inches(side) for side in (sheet.length_mm, sheet.width_mm, sheet.height_mm)]
    return f"{sides[0]} × {sides[1]}, {sides[2]} in"
