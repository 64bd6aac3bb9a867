"""Inside the paste: watch it fold, cut it where you like, and see what real work does to it."""

import math
from collections.abc import Callable
from functools import partial
from typing import ClassVar

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QSizePolicy,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.figures import (
    bare_text,
    decimal_sign,
    g_text,
    mm_text,
    num,
    number_text,
)
from aplomb.core.base.quantity import parse_percent
from aplomb.core.folds.evenness import Evenness
from aplomb.core.folds.pieces_form import FORMS
from aplomb.core.folds.plan import Enclosure, step_name
from aplomb.core.folds.step import Step
from aplomb.core.folds.working import LIMITS, Working
from aplomb.core.paste.formula import Formula
from aplomb.core.study.study import Study
from aplomb.desk.drawings.leaf_chart import paint_leaf_chart
from aplomb.desk.drawings.section import leaf_text
from aplomb.desk.folds.folding_view import FoldingView
from aplomb.desk.kit.fields import button, card, fix_width, label, row, wrapping
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.desk.stages.section_view import SectionStrip, met_words
from aplomb.work.figures.typed import read_length

STEP_TICKS = 100
"""Places of the slider a step."""

FRAME_MS, TICKS_A_FRAME = 16, 1.6
"""Time between two pictures while it folds by itself [ms], and how far it goes in each."""

SLIDER_END = 10
"""From the slider's end to the middle of its handle there [px]."""


class LeafChart(QWidget):
    """The histogram of fat leaves along the verticals, with its figures."""

    def __init__(self) -> None:
        super().__init__()
        self._even: Evenness | None = None
        self.setAccessibleName("Fat leaves, counted from top to bottom")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(look.theme.px(96))

    def show_even(self, even: Evenness | None) -> None:
        """Show how even a section is; None when leaves go through everywhere."""
        self._even = even
        self.setVisible(even is not None and len(even.histogram) > 0)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the bars."""
        if self._even is not None:
            painter = QPainter(self)
            paint_leaf_chart(painter, QRectF(self.rect()), self._even, look.theme)


class PlanSlider(QSlider):
    """A slider on which Page Down goes on by a step of the plan and Page Up back."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Go by whole steps, from step to step."""
        here = self.value() / STEP_TICKS
        if event.key() == Qt.Key.Key_PageDown:
            self.setValue((math.floor(here) + 1) * STEP_TICKS)
        elif event.key() == Qt.Key.Key_PageUp:
            self.setValue((math.ceil(here) - 1) * STEP_TICKS)
        else:
            super().keyPressEvent(event)


class StepMarks(QWidget):
    """The steps of the plan along the slider: where each begins, and its name where it fits."""

    def __init__(self) -> None:
        super().__init__()
        self._names: tuple[str, ...] = ()
        self.setFixedHeight(look.theme.px(20))

    def show_names(self, names: tuple[str, ...]) -> None:
        """Show the names of the steps, in order."""
        self._names = names
        self.setFixedHeight(look.theme.px(20))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint a mark and a name for each."""
        painter = QPainter(self)
        p = look.theme.palette
        painter.setFont(look.theme.font(12.5))
        each = (self.width() - 2 * SLIDER_END) / max(1, len(self._names))
        for i, name in enumerate(self._names):
            x = SLIDER_END + i * each
            painter.setPen(QColor(p.handle))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height() * 0.35))
            painter.setPen(QColor(p.second))
            if painter.fontMetrics().horizontalAdvance(name) <= each - 4:
                room = QRectF(x, 0, each, self.height())
                painter.drawText(room, Qt.AlignmentFlag.AlignCenter, name)


class InsidePage(Page):
    """The plan as it is carried out, the section at any moment of it, and how it is worked."""

    KEY = "inside"
    HINT = "Move the slider through the plan, or watch it fold."
    LENGTHS: ClassVar = ("border_mm", "overlap_mm", "misfold_mm", "coil_mm")

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._uid = ""
        self.folding = FoldingView()
        self.slider = PlanSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Step shown")
        self.slider.setToolTip("Arrow keys move a little, Page Up and Page Down move by a step")
        self.slider.setSingleStep(5)
        self.slider.setPageStep(STEP_TICKS)
        self.slider.valueChanged.connect(self._moved)
        self._marks = StepMarks()
        self.at = label("", "strong")
        self.at.setMinimumWidth(60)
        self._clock = QTimer(self)
        self._clock.setInterval(FRAME_MS)
        self._clock.timeout.connect(self._go_on)
        self._exact = 0.0
        self.play = button("Watch it fold", "", self._play, "Alt+O")
        self.play.setShortcut("Alt+O")
        self._section = SectionStrip(session, brief=True)
        self.strip = self._section
        self.across = self._choice("Cut", ("along the last rolling", "across it"))
        self.piece = self._choice("Show", ("the whole sheet", "one piece"))
        self.chart = LeafChart()
        self.figures = wrapping("", "second")
        self.fields: dict[str, Field] = {}
        self._captions: dict[str, QWidget] = {}
        self._lay_out()
        self.strip.judged.connect(self._show_even)
        self.refresh()

    def _choice(self, name: str, words: tuple[str, ...]) -> QComboBox:
        box = QComboBox()
        box.setAccessibleName(name)
        for each in words:
            box.addItem(f"{name} {each}")
        box.activated.connect(self._ways_changed)
        return box

    def _lay_out(self) -> None:
        self._body.addWidget(self.folding, 3)
        line = row(self.at, self.play)
        line.setStretch(0, 1)
        line.setStretch(0, 1)
        self._body.addLayout(line)
        track = QVBoxLayout()
        track.setSpacing(0)
        track.addWidget(self.slider)
        track.addWidget(self._marks)
        self._body.addLayout(track)
        self._body.addWidget(self._section)
        below = self.two_sides(self._judged_card(), self._worked_card(), (5, 6))
        self._body.addLayout(below)

    def _judged_card(self) -> QFrame:
        frame, column = card(spacing=4)
        column.addLayout(row(self.across, self.piece, None))
        column.addWidget(self.chart, 1)
        column.addWidget(self.figures)
        return frame

    def _worked_card(self) -> QFrame:
        frame, column = card(spacing=4)
        column.addWidget(label("How it is really worked", "strong"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(2, 1)
        for name, (words, _, _, unit) in LIMITS.items():
            self._add_field(name, f"{words}, {unit}", self._reader(name, words))
        self._add_field("piece_spread_pct", "Variation in piece size, ±%", self._take_spread)
        self.envelope = QComboBox()
        self.envelope.setAccessibleName("How the envelope is closed")
        self.envelope.addItem("turned on a square", "turned")
        self.envelope.addItem("on a cross, four flaps", "cross")
        self.envelope.activated.connect(self._take_envelope)
        self.form = QComboBox()
        self.form.setAccessibleName("Shape of the pieces")
        for form in FORMS:
            self.form.addItem(f"fat in {form}", form)
        self.form.activated.connect(self._take_form)
        self._grid = grid
        column.addLayout(grid)
        column.addLayout(row(self.envelope, self.form, None))
        self._effect = wrapping("", "small")
        column.addWidget(self._effect)
        column.addStretch(1)
        return frame

    def _add_field(self, name: str, words: str, take: Callable[[str], None]) -> None:
        field = Field(words, take, self.show_error)
        field.setAlignment(Qt.AlignmentFlag.AlignRight)
        fix_width(field, 64)
        self.fields[name] = field
        caption = label(words)
        caption.setWordWrap(True)
        self._captions[name] = caption

    def _arrange_fields(self, study: Study) -> None:
        """Show the fields that matter for this paste, in two columns."""
        enclosure = study.plan.enclosure
        sheets = enclosure not in (Enclosure.PIECES, Enclosure.NONE)
        wanted = {
            "border_mm": sheets,
            "overlap_mm": sheets and enclosure is not Enclosure.COIL,
            "hinge_pct": True,
            "misfold_mm": True,
            "uneven_pct": True,
            "coil_mm": study.plan.rolls_up,
            "piece_spread_pct": study.in_pieces,
        }
        at = 0
        for name, field in self.fields.items():
            caption = self._captions[name]
            if wanted[name]:
                line, side = divmod(at, 2)
                self._grid.addWidget(caption, line, 2 * side)
                self._grid.addWidget(field, line, 2 * side + 1)
                at += 1
            for widget in (caption, field):  # shown once it has a parent: else it is a window
                widget.setVisible(wanted[name])
        self.envelope.setVisible(enclosure is Enclosure.ENVELOPE)
        self.form.setVisible(study.in_pieces)

    def _look_changed(self) -> None:
        super()._look_changed()
        self._show_even()

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.slider)

    def refresh(self) -> None:
        """Show the formula in hand."""
        study = self._session.study
        if study is None:
            return
        steps = len(study.plan.steps)
        self.folding.show_study(study)
        most = (steps + 2) * STEP_TICKS
        with_all = self.slider.value() == self.slider.maximum() or self._session.uid != self._uid
        self._uid = self._session.uid
        self.slider.setMaximum(most)
        names = ["enclose", *(short_name(step) for step in study.plan.steps), "final sheet"]
        self._marks.show_names(tuple(names))
        if with_all:
            self.slider.setValue(most)
        self._arrange_fields(study)
        working = study.formula.working
        for name, field in self.fields.items():
            holder = study.formula if name == "piece_spread_pct" else working
            unit = "mm" if name in self.LENGTHS else "%"
            field.show_value(bare_text(getattr(holder, name), unit, 1))
        self.envelope.setCurrentIndex(self.envelope.findData(working.envelope))
        self.form.setCurrentIndex(self.form.findData(study.formula.piece_form))
        self._moved()
        self._show_even()

    def _moved(self) -> None:
        study = self._session.study
        if study is None:
            return
        moment = self.slider.value() / STEP_TICKS
        steps = len(study.plan.steps)
        self.folding.show_moment(moment)
        done = int(moment) - 1
        final = moment >= steps + 2
        self._section.show_moment(None if final else max(0, min(done, steps)))
        self.at.setText(self.folding.words)
        self.slider.setAccessibleDescription(self.folding.words)

    def _play(self) -> None:
        if self._clock.isActive():
            self._stop()
            return
        if self.slider.value() >= self.slider.maximum():
            self.slider.setValue(0)
        self._exact = float(self.slider.value())
        self.play.setText("Stop")
        self._clock.start()

    def _stop(self) -> None:
        self._clock.stop()
        self.play.setText("Watch it fold")

    def _go_on(self) -> None:
        self._exact += TICKS_A_FRAME
        self.slider.setValue(int(self._exact))
        if self.slider.value() >= self.slider.maximum() or not self.isVisible():
            self._stop()

    def _ways_changed(self) -> None:
        self._section.show_way(
            across=self.across.currentIndex() == 1, piece=self.piece.currentIndex() == 1
        )

    def _reader(self, name: str, words: str) -> Callable[[str], None]:
        def take(text: str) -> None:
            if name in self.LENGTHS:
                value = read_length(text)
            else:
                value = parse_percent(text, decimal_sign())
            self._edit_working(f"{words.lower()} {text.strip()}", **{name: value})

        return take

    def _take_spread(self, text: str) -> None:
        value = parse_percent(text, decimal_sign())
        self._session.shelf.edit(
            f"pieces vary by {num(value)} %", lambda f: replace(f, piece_spread_pct=value)
        )

    def _edit_working(self, words: str, **changes: object) -> None:
        def changed(formula: Formula) -> Formula:
            working: Working = replace(formula.working, **changes)
            return replace(formula, working=working)

        self._session.shelf.edit(words, changed)

    def _take_envelope(self, at: int) -> None:
        words = self.envelope.itemText(at)
        self._edit_working(f"envelope {words}", envelope=self.envelope.itemData(at))

    def _take_form(self, at: int) -> None:
        form = self.form.itemData(at)
        self._session.shelf.edit(f"fat in {form}", partial(replace, piece_form=form))

    def _show_even(self) -> None:
        study = self._session.study
        if study is None:
            return
        even = self._section.even
        self.chart.show_even(even)
        if even is None:
            leaves = study.readings.fat_leaves
            if study.in_leaves and leaves:
                self.figures.setText(
                    "Every leaf runs from edge to edge, so the count is the same "
                    "everywhere. A bare border, a round bend, a short flap or uneven "
                    "rolling would show here."
                )
            else:
                self.figures.setText(study.fold_trouble)
        else:
            bare = (
                f"{100 * even.bare_share:.0f} % without fat, " if even.bare_share >= 0.005 else ""
            )
            spread = even.leaf_spread_um if even.leaf_spread_um > even.leaf_um / 200 else 0.0
            self.figures.setText(
                f"Evenness {number_text(even.evenness, 2)}. Fat leaves: "
                f"{met_words(even)}; {bare}each {leaf_text(even.leaf_um)} ± "
                f"{leaf_text(spread)}. Thickest dough without fat: "
                f"{mm_text(even.longest_mm, '.2g')}."
            )
        self._effect.setText(_effect(study))


def short_name(step: Step) -> str:
    """Name a step in a word or two."""
    return step_name(step).split(",")[0]


def _effect(study: Study) -> str:
    """Say what the trims of the plan take."""
    if study.trimmed_g <= 0:
        return ""
    return (
        f"Trimmed while folding: {g_text(study.trimmed_g, '.0f')} per block, "
        f"{study.trimmed_pct:.0f} % of the paste."
    )
