"""The Folds stage: the ribbon of what is done to the paste, each turn drawn and sized."""

from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_text, rolled_text
from aplomb.core.folds.pieces_form import SEEN, leaves_band, spread_of
from aplomb.core.folds.plan import ENCLOSURE_NAMES, Enclosure, Plan
from aplomb.core.folds.step import Step, Way
from aplomb.core.study.study import Study
from aplomb.desk.drawings.folded import paint_enclosing, paint_sheet
from aplomb.desk.folds.ribbon import Ribbon
from aplomb.desk.kit.fields import button, label, row, wrapping
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.stage import Stage
from aplomb.work.commands import pages_of
from aplomb.work.edits.sizes import hidden_sizes, size_shown, sized
from aplomb.work.edits.turns import MORE_STEPS
from aplomb.work.figures.typed import reading_text
from aplomb.work.words.steps import step_words

if TYPE_CHECKING:
    from aplomb.core.folds.boxes import Box
    from aplomb.core.paste.formula import Formula


class SheetView(QWidget):
    """The sheet of the step in hand, to scale, with its folding lines."""

    def __init__(self) -> None:
        super().__init__()
        self._study: Study | None = None
        self._place = 0
        self.setMinimumSize(220, 84)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Sheet to scale")

    def show_step(self, study: Study, place: int) -> None:
        """Show a step of a study."""
        self._study, self._place = study, place
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the sheet with its two sizes."""
        study, p = self._study, look.theme.palette
        if study is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        foot = look.theme.px(24)
        room = QRectF(2, 2, self.width() - look.theme.px(84), self.height() - foot - 6)
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
        painter.setFont(look.theme.font(14, 600))
        top = room.center().y() - high / 2
        painter.drawText(
            QRectF(room.left() + wide + 10, top, look.theme.px(80), high),
            Qt.AlignmentFlag.AlignVCenter,
            rolled_text(box.width_mm),
        )
        painter.drawText(
            QRectF(room.left(), top + high + 3, wide, foot),
            Qt.AlignmentFlag.AlignHCenter,
            rolled_text(box.length_mm),
        )


SHORT = {"inside": "Inside", "lessons": "Learn"}
"""What stands on the buttons of pages whose titles are long."""


SIZE_TIPS = {
    "roll_width_mm": "Roll every sheet to this width. Leave empty to follow from the block before",
    "enclose_width_mm": "Dough width when the fat is enclosed. Leave empty for a square block",
    "fat_block_mm": (
        "Its thickness, e.g. 12; or its size, e.g. 27 × 9 cm: the thickness then follows from its "
        "weight"
    ),
    "sheet_mm": (
        "Its thickness, e.g. 3; or a size to fill, e.g. 60 × 40 cm: the thickness then follows "
        "from the weight of a block"
    ),
}


class FoldsStage(Stage):
    """Enclosure and turns, as a line of text and as a ribbon.

    Signals
    -------
    moment : object
        Steps of the plan that the section shows; None for the final sheet.
    """

    moment = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._uid = ""
        inner = self._inner
        self.line = Field("Turn line", self._take_line, self.show_error)
        self.line.setToolTip("For example: envelope 3 4@8 / 3 4 /30")
        self.enclosure = QComboBox()
        self.enclosure.setAccessibleName("Way of enclosing")
        for enclosure, name in ENCLOSURE_NAMES.items():
            self.enclosure.addItem(name, enclosure)
        self.enclosure.activated.connect(self._take_enclosure)
        self.ribbon = Ribbon()
        self.ribbon.plan_wanted.connect(self._take_plan)
        self.ribbon.picked.connect(self._picked)
        self._steps = Flow(*self._step_buttons(), spacing=6)
        self._sheet = SheetView()
        self._sheet_words = label("", "strong")
        self.todo_big = wrapping("", "big")
        self.todo = label("", "second")
        self.todo.setWordWrap(True)
        self._folded = label("", "strong")
        self._folded.setWordWrap(True)
        self._counts = label("", "second")
        self._counts.setWordWrap(True)
        self._sizes = QGridLayout()
        self._sizes.setVerticalSpacing(2)
        self.fields: dict[str, Field] = {}
        self._make_size_fields()
        self._lay_out(inner)
        self.refresh()

    def _step_buttons(self) -> list[QWidget]:
        made: list[QWidget] = [label("Add", "second")]
        for text, tip, step in (
            ("Half", "Half fold, 2 panels: key 2", Step(Way.FOLD, 2)),
            ("Single", "Single, 3 panels: key 3", Step(Way.FOLD, 3)),
            ("Double", "Double, 4 panels: key 4", Step(Way.FOLD, 4)),
            ("Portion", "Spread a portion of the fat, fold in 3: key +", Step(Way.PORTION, 3)),
            ("Rest", "Rest in the cold: key /", Step(Way.REST)),
        ):
            made.append(button(text, "", partial(self.ribbon.insert, step), tip))
            made[-1].setAccessibleName(f"Add {text.lower()}")
            if step.way is Way.PORTION:
                self._portion = made[-1]
        more = QPushButton("More")
        more.setToolTip("Further turns, and trims")
        menu = QMenu(more)
        for name, key, step in MORE_STEPS:
            menu.addAction(f"{name}\t{key}", partial(self.ribbon.insert, step))
        more.setMenu(menu)
        made.append(more)
        made.append(button("Remove", "", self.ribbon.remove, "Remove the selected step: Delete"))
        for page in pages_of("folds"):
            tip = f"{page.words}: {page.shown_keys}"
            words = SHORT.get(page.key, page.title)
            made.append(button(f"{words}…", "", partial(self.asked.emit, page.key, None), tip))
            made[-1].setAccessibleName(page.title)
        return made

    def _make_size_fields(self) -> None:
        for i, (name, words) in enumerate(
            (
                ("sheet_mm", "Final sheet, mm"),
                ("roll_width_mm", "Rolled width, cm"),
                ("enclose_width_mm", "Enclosing width, cm"),
                ("fat_block_mm", "Fat block, mm"),
                ("piece_fat_mm", "Fat pieces, mm"),
                ("gathered_mm", "Gathered height, mm"),
            )
        ):
            field = Field(words, partial(self._take_size, name), self.show_error)
            self.fields[name] = field
            caption = label(words, "small")
            field.setProperty("caption", caption)
            self._sizes.addWidget(caption, i + 1, 0)
            self._sizes.addWidget(field, i + 1, 1)
        self._seen_words = label("Fat cut", "small")
        self.seen = QComboBox()
        self.seen.setAccessibleName("Fat cut")
        self.seen.setToolTip("Pressed flat it is a quarter as thick: four times as many leaves")
        self.seen.addItem("", None)
        for each in SEEN:
            self.seen.addItem(each.name, each)
        self.seen.activated.connect(self._take_seen)
        self._sizes.addWidget(self._seen_words, 0, 0)
        self._sizes.addWidget(self.seen, 0, 1)
        for name in ("roll_width_mm", "enclose_width_mm"):
            self.fields[name].setPlaceholderText("–")
        for name, tip in SIZE_TIPS.items():
            self.fields[name].setToolTip(tip)

    def _lay_out(self, inner: QWidget) -> None:
        column = QVBoxLayout(inner)
        column.setContentsMargins(24, 12, 18, 8)
        column.setSpacing(7)
        top = row(label("Turn line", "second"), self.line, self.enclosure)
        top.setStretch(1, 1)
        column.addLayout(top)
        column.addWidget(self.error)
        column.addWidget(self.ribbon)
        column.addLayout(self._steps)
        column.addWidget(self._counts)
        words = QVBoxLayout()
        words.setSpacing(3)
        words.addWidget(self.todo_big)
        words.addWidget(self.todo)
        words.addWidget(self._folded)
        words.addStretch(1)
        drawing = QVBoxLayout()
        drawing.setSpacing(4)
        drawing.addWidget(self._sheet_words)
        drawing.addWidget(self._sheet, 1)
        sizes = QVBoxLayout()
        self._sizes.setRowStretch(len(self.fields), 1)
        sizes.addLayout(self._sizes)
        below = QHBoxLayout()
        below.setSpacing(20)
        below.addLayout(drawing, 5)
        below.addLayout(words, 4)
        below.addLayout(sizes, 3)
        column.addLayout(below, 1)

    def _look_changed(self) -> None:
        self.refresh()

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.ribbon.setFocus(Qt.FocusReason.OtherFocusReason)

    def _take_line(self, text: str) -> None:
        formula = self._session.formula
        assert formula is not None
        wanted = replace(formula, turn_line=text)
        line = wanted.plan.line()
        self._session.shelf.change("change the turn line", replace(wanted, turn_line=line))

    def _take_plan(self, words: str, plan: Plan) -> None:
        try:
            self._session.shelf.edit(words, lambda f: replace(f, turn_line=plan.line()))
        except AplombError as error:
            self.show_error(str(error))

    def _take_enclosure(self, at: int) -> None:
        enclosure: Enclosure = self.enclosure.itemData(at)
        study = self._session.study
        if study is not None:
            self._take_plan(f"enclose: {enclosure.value}", replace(study.plan, enclosure=enclosure))

    def _take_size(self, name: str, text: str) -> None:
        study = self._session.study
        assert study is not None
        changes = sized(study, name, text)
        changed: Formula = replace(study.formula, **changes)
        self._session.shelf.change(f"{self.fields[name].accessibleName().lower()} {text}", changed)

    def _picked(self, _place: int) -> None:
        self.refresh()
        self.moment.emit(self.moment_shown())

    def moment_shown(self) -> int | None:
        """Steps of the plan that the section shows here."""
        return self.ribbon.place

    def refresh(self) -> None:
        """Show the formula in hand."""
        study = self._session.study
        self._inner.setEnabled(study is not None)
        if study is None:
            return
        if self._session.uid != self._uid:
            self._uid = self._session.uid
            self.ribbon.place = len(study.plan.steps)
        self.line.show_value(study.plan.line())
        self.enclosure.setCurrentIndex(self.enclosure.findData(study.plan.enclosure))
        self.ribbon.show_study(study)
        hidden = hidden_sizes(study)
        follows = study.formula.enclose_width_mm is None and study.formula.roll_width_mm > 0
        self.fields["enclose_width_mm"].setPlaceholderText("as rolled" if follows else "–")
        for name, field in self.fields.items():
            field.show_value(size_shown(study.formula, name))
            field.setVisible(name not in hidden)
            field.property("caption").setVisible(name not in hidden)
        self._show_seen(study)
        self._portion.setVisible(study.plan.enclosure is Enclosure.PORTIONS)
        self._say_step(study)
        self._say_counts(study)
        self.moment.emit(self.moment_shown())

    def _show_seen(self, study: Study) -> None:
        """Show what the fat is cut to, in words one sees where its size is one of these."""
        f = study.formula
        for widget in (self.seen, self._seen_words):
            widget.setVisible(study.in_pieces)
        now = (f.piece_form, f.piece_fat_mm)
        at = next((i for i, s in enumerate(SEEN, 1) if (s.form, s.size_mm) == now), 0)
        self.seen.setItemText(0, f"{f.piece_form} of {mm_text(f.piece_fat_mm)}")
        self.seen.setCurrentIndex(at)

    def _take_seen(self, at: int) -> None:
        found = self.seen.itemData(at)
        if found is not None:
            self._session.shelf.edit(
                f"fat {found.name}",
                partial(
                    replace,
                    piece_form=found.form,
                    piece_fat_mm=found.size_mm,
                    piece_spread_pct=round(found.spread_pct, 1),
                ),
            )

    def _say_step(self, study: Study) -> None:
        place = self.ribbon.place
        self._sheet.show_step(study, place)
        words = step_words(study, place, self._session.reference.house)
        self._sheet_words.setText(words.drawing)
        self.todo_big.setText(words.big)
        self.todo.setText(words.todo)
        self._folded.setText(words.after)

    def _say_counts(self, study: Study) -> None:
        r = study.readings
        if r.fat_leaves is None:
            self._counts.setText(study.fold_trouble or "No leaves yet: the fat block is empty.")
            return
        turns = len(study.plan.turns)
        about = "about " if r.leaves_are_means else ""
        mean = " (average to expect)" if r.leaves_are_means else ""
        spread = spread_of(study.formula.piece_form, study.formula.piece_spread_pct / 100)
        if study.in_pieces and spread > 0:
            low, high = leaves_band(r.fat_leaves, spread)
            mean = f" (average to expect; {reading_text(round(low))} to {reading_text(round(high))}"
            mean += " fat leaves by the size of the pieces)"
        if study.plan.rolls_up:
            mean = " (through the middle of the log)"
        self._counts.setText(
            f"Fold product {reading_text(r.product)} · {about}"
            f"{reading_text(r.fat_leaves)} fat leaves, "
            f"{reading_text(r.dough_leaves)} dough leaves, "
            f"{reading_text(r.leaves)} in all{mean} · {turns} turns, "
            f"{turns + 1} with enclosing, {study.plan.creases} creases"
        )
