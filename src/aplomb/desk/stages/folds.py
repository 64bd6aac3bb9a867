"""The Folds stage: the ribbon of what is done to the paste, each turn drawn and sized."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.errors import AmountError, AplombError
from aplomb.core.folds.plan import ENCLOSURE_NAMES, Enclosure, Plan, Step, Way, step_name
from aplomb.core.folds.sizes import Box
from aplomb.core.paste.formula import Formula
from aplomb.core.quantity import parse_length_mm
from aplomb.core.study import Study
from aplomb.desk.drawings.folded import paint_enclosing, paint_fold, paint_sheet
from aplomb.desk.fields import Field, button, decimal_sign, label, number_text, row
from aplomb.desk.headline import short
from aplomb.desk.session import Session
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
        self._theme, self.place = theme, place
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
        return QSize(self._theme.px(46 if rest else 128), self._theme.px(202))

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the card."""
        if self._study is None:
            return
        p = self._theme.palette
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
        painter.setPen(QColor(self._theme.palette.cold))
        painter.setFont(self._theme.font(14, 600))
        painter.translate(room.center())
        painter.rotate(-90)
        words = "rest in the cold" if step.rest_min is None else f"rest {_minutes(step.rest_min)}"
        wide = QRectF(-room.height() / 2, -room.width() / 2, room.height(), room.width())
        painter.drawText(wide, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_turn(self, painter: QPainter, room: QRectF, step: Step | None) -> None:
        theme, p, study = self._theme, self._theme.palette, self._study
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
            top = drawing.center().y() - room_high / 2
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
            shown._theme = theme
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
        elif event.text().lower() == "q":
            self.insert(Step(Way.QUARTER, 4))
        elif event.text() == "/":
            self.insert(Step(Way.REST))
        else:
            super().keyPressEvent(event)


class SheetView(QWidget):
    """The sheet of the step in hand, to scale, with its folding lines."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._study: Study | None = None
        self._place = 0
        self.setMinimumSize(220, 84)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Sheet to scale")

    def show_step(self, study: Study, place: int, theme: Theme) -> None:
        """Show a step of a study."""
        self._study, self._place, self._theme = study, place, theme
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the sheet with its two sizes."""
        study, theme, p = self._study, self._theme, self._theme.palette
        if study is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        foot = theme.px(24)
        room = QRectF(2, 2, self.width() - theme.px(84), self.height() - foot - 6)
        step = study.plan.steps[self._place - 1] if self._place else None
        moment = study.turns[self._place]
        box: Box | None = moment.size.sheet if moment.size else None
        if step is None and study.enclosing:
            paint_enclosing(painter, room, study.enclosing)
            return
        if box is None:
            return
        scale = paint_sheet(painter, room, box, step)
        wide, high = box.length_mm / scale, box.width_mm / scale
        painter.setPen(QColor(p.text))
        painter.setFont(theme.font(14, 600))
        top = room.center().y() - high / 2
        painter.drawText(
            QRectF(room.left() + wide + 10, top, theme.px(80), high),
            Qt.AlignmentFlag.AlignVCenter, f"{box.width_mm / 10:.0f} cm",
        )  # fmt: skip
        painter.drawText(
            QRectF(room.left(), top + high + 3, wide, foot),
            Qt.AlignmentFlag.AlignHCenter, f"{box.length_mm / 10:.0f} cm",
        )  # fmt: skip


class FoldsStage(QScrollArea):
    """Enclosure and turns, as a line of text and as a ribbon.

    Signals
    -------
    moment : object
        Steps of the plan that the section shows; None for the final sheet.
    """

    moment = Signal(object)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self._uid = ""
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inner = QWidget()
        inner.setObjectName("inner")
        self.setWidget(inner)
        self._error = label("", "wrong")
        self._error.setWordWrap(True)
        self._error.hide()
        self.line = Field("Turn line", self._take_line, self._show_error)
        self.line.setToolTip("As: envelope 3 4@8 / 3 4 /30")
        self._enclosure = QComboBox()
        self._enclosure.setAccessibleName("Way of enclosing")
        for enclosure, name in ENCLOSURE_NAMES.items():
            self._enclosure.addItem(name, enclosure)
        self._enclosure.activated.connect(self._take_enclosure)
        self.ribbon = Ribbon(theme)
        self.ribbon.plan_wanted.connect(self._take_plan)
        self.ribbon.picked.connect(self._picked)
        self._steps = row(*self._step_buttons(), None, spacing=6)
        self._sheet = SheetView(theme)
        self._sheet_words = label("", "strong")
        self._todo_big = label("", "big")
        self._todo = label("", "second")
        self._todo.setWordWrap(True)
        self._folded = label("", "strong")
        self._folded.setWordWrap(True)
        self._counts = label("", "second")
        self._counts.setWordWrap(True)
        self._sizes = QGridLayout()
        self._fields: dict[str, Field] = {}
        self._make_size_fields()
        self._lay_out(inner)
        session.studied.connect(self.refresh)
        self.refresh()

    def _step_buttons(self) -> list[QWidget]:
        made: list[QWidget] = []
        for text, tip, step in (
            ("Half", "Half fold, 2 panels: key 2", Step(Way.FOLD, 2)),
            ("Single", "Single, 3 panels: key 3", Step(Way.FOLD, 3)),
            ("Double", "Double, 4 panels: key 4", Step(Way.FOLD, 4)),
            ("Rest", "Rest in the cold: key /", Step(Way.REST)),
        ):
            made.append(button(f"Add {text.lower()}", "", partial(self.ribbon.insert, step), tip))
        made.append(button("Remove", "", self.ribbon.remove, "Remove the step in hand: Delete"))
        return made

    def _make_size_fields(self) -> None:
        for i, (name, words) in enumerate(
            (
                ("sheet_mm", "Final sheet, mm"),
                ("roll_width_mm", "Rolled width, cm"),
                ("fat_block_mm", "Fat block, mm"),
                ("piece_fat_mm", "Fat pieces, mm"),
                ("gathered_mm", "Gathered mass, mm"),
            )
        ):
            field = Field(words, partial(self._take_size, name), self._show_error)
            self._fields[name] = field
            caption = label(words, "small")
            field.setProperty("caption", caption)
            self._sizes.addWidget(caption, i, 0)
            self._sizes.addWidget(field, i, 1)
        self._fields["roll_width_mm"].setPlaceholderText("square block")
        self._fields["roll_width_mm"].setToolTip(
            "Every sheet is rolled to this width; empty: so that the folded block is square"
        )

    def _lay_out(self, inner: QWidget) -> None:
        column = QVBoxLayout(inner)
        column.setContentsMargins(24, 12, 18, 8)
        column.setSpacing(7)
        top = row(label("Turn line", "second"), self.line, self._enclosure)
        top.setStretch(1, 1)
        column.addLayout(top)
        column.addWidget(self._error)
        column.addWidget(self.ribbon)
        column.addLayout(self._steps)
        column.addWidget(self._counts)
        words = QVBoxLayout()
        words.setSpacing(3)
        words.addWidget(self._todo_big)
        words.addWidget(self._todo)
        words.addWidget(self._folded)
        words.addStretch(1)
        drawing = QVBoxLayout()
        drawing.setSpacing(4)
        drawing.addWidget(self._sheet_words)
        drawing.addWidget(self._sheet, 1)
        sizes = QVBoxLayout()
        self._sizes.setRowStretch(len(self._fields), 1)
        sizes.addLayout(self._sizes)
        below = QHBoxLayout()
        below.setSpacing(20)
        below.addLayout(drawing, 5)
        below.addLayout(words, 4)
        below.addLayout(sizes, 3)
        column.addLayout(below, 1)

    def set_theme(self, theme: Theme) -> None:
        """Take another palette or size of text."""
        self._theme = theme
        self.ribbon.set_theme(theme)
        self.refresh()

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.ribbon.setFocus(Qt.FocusReason.OtherFocusReason)

    def _show_error(self, reason: str) -> None:
        self._error.setText(reason)
        self._error.setVisible(bool(reason))

    def _take_line(self, text: str) -> None:
        formula = self._session.formula
        assert formula is not None
        wanted = replace(formula, turn_line=text)
        line = wanted.plan.line()
        self._session.change("change the turn line", replace(wanted, turn_line=line))

    def _take_plan(self, words: str, plan: Plan) -> None:
        try:
            self._session.edit(words, lambda f: replace(f, turn_line=plan.line()))
        except AplombError as error:
            self._show_error(str(error))

    def _take_enclosure(self, at: int) -> None:
        enclosure: Enclosure = self._enclosure.itemData(at)
        study = self._session.study
        if study is not None:
            self._take_plan(f"enclose: {enclosure.value}", replace(study.plan, enclosure=enclosure))

    def _take_size(self, name: str, text: str) -> None:
        formula = self._session.formula
        assert formula is not None
        wide = name == "roll_width_mm"
        if wide and not text.strip():
            value = 0.0
        else:
            value = parse_length_mm(text, "cm" if wide else "mm", decimal_sign())
            if value == 0:
                raise AmountError("a length above 0 is wanted here", text, 0, len(text))
        changed: Formula = replace(formula, **{name: value})
        self._session.change(f"{self._fields[name].accessibleName().lower()} {text}", changed)

    def _picked(self, place: int) -> None:
        self.refresh()
        self.moment.emit(self.moment_shown())

    def moment_shown(self) -> int | None:
        """Steps of the plan that the section shows here."""
        return self.ribbon.place

    def refresh(self) -> None:
        """Show the formula in hand."""
        study = self._session.study
        self.widget().setEnabled(study is not None)
        if study is None:
            return
        if self._session.uid != self._uid:
            self._uid = self._session.uid
            self.ribbon.place = len(study.plan.steps)
        self.line.give(study.plan.line())
        self._enclosure.setCurrentIndex(self._enclosure.findData(study.plan.enclosure))
        self.ribbon.show_study(study)
        f, pieces = study.formula, study.in_pieces
        for name, field in self._fields.items():
            value = getattr(f, name)
            scale = 10 if name == "roll_width_mm" else 1
            field.give(number_text(value / scale, 2) if value else "")
            shown = name not in (("fat_block_mm",) if pieces else ("piece_fat_mm", "gathered_mm"))
            field.setVisible(shown)
            field.property("caption").setVisible(shown)
        self._say_step(study)
        self._say_counts(study)
        self.moment.emit(self.moment_shown())

    def _say_step(self, study: Study) -> None:
        place = self.ribbon.place
        self._sheet.show_step(study, place, self._theme)
        each = f"{study.scaled.each_g / 1000:.2f} kg a block"
        if place == 0:
            self._say_enclosing(study, each)
            return
        step, moment = study.plan.steps[place - 1], study.turns[place]
        self._folded.setText("")
        if step.way is Way.REST:
            self._sheet_words.setText("")
            self._todo_big.setText("Rest in the cold")
            self._todo.setText(
                "Go by state, not by the clock: roll again when a thumb leaves a dent of about "
                "6 mm, and the fat neither cracks nor smears."
            )
            return
        if moment.size is None:
            self._sheet_words.setText("")
            self._todo_big.setText("No size yet")
            self._todo.setText(study.fold_trouble or study.scaled.trouble)
            return
        sheet, block = moment.size.sheet, moment.size.block
        self._sheet_words.setText(f"Sheet to scale, {each}")
        self._todo_big.setText(f"Roll to {rectangle(sheet)}")
        fold = {
            Way.STACK: f"cut in {step.panels} and stack",
            Way.QUARTER: "fold in half, then across",
        }
        how = fold.get(step.way, f"fold in {step.panels}")
        self._todo.setText(
            f"{sheet.height_mm:g} mm thick; brush off the flour, square the corners, {how}, "
            "turn so that the closed edge is on the right."
        )
        self._folded.setText(f"Folded: {rectangle(block)}, {block.height_mm:.0f} mm high")

    def _say_enclosing(self, study: Study, each: str) -> None:
        how = study.enclosing
        self._sheet_words.setText(f"Laid ready, to scale, {each}")
        if how is None:
            self._todo_big.setText("No size yet")
            self._todo.setText(study.scaled.trouble or study.fold_trouble)
            self._folded.setText("")
            return
        dough = f"Dough {rectangle(how.dough)}, {how.dough.height_mm:.0f} mm"
        if how.fat is None:
            self._todo_big.setText("Gather the dough")
            self._todo.setText(
                "Cold pieces stay whole; the water just binds it." if study.in_pieces else ""
            )
            self._folded.setText("")
            return
        self._todo_big.setText(f"Fat {rectangle(how.fat)}, {how.fat.height_mm:g} mm")
        self._todo.setText(
            f"{dough}. These close exactly: leave 5 to 10 mm of bare border to seal. Dough and "
            "fat must be equally firm."
        )
        self._folded.setText(f"Enclosed: {rectangle(how.done)}, {how.done.height_mm:.0f} mm high")

    def _say_counts(self, study: Study) -> None:
        r = study.readings
        if r.fat_leaves is None:
            self._counts.setText(study.fold_trouble or "No leaves yet: the fat block is empty.")
            return
        turns = len(study.plan.turns)
        about = "about " if r.leaves_are_means else ""
        mean = " (expected means)" if r.leaves_are_means else ""
        self._counts.setText(
            f"Fold product {short(r.product, 'fat_leaves')} · {about}"
            f"{short(r.fat_leaves, 'fat_leaves')} fat leaves, "
            f"{short(r.dough_leaves, 'fat_leaves')} of dough, "
            f"{short(r.leaves, 'fat_leaves')} in all{mean} · {turns} turns, "
            f"{turns + 1} counting the enclosing"
        )
