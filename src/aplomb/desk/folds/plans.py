"""From a leaf of fat to the plans that give it; from a claim to what it could mean."""

import math
from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import bare_text, decimal_sign, num, number_text
from aplomb.core.base.quantity import parse_amount, parse_count
from aplomb.core.folds.claim_reading import Claim, read_claim
from aplomb.core.folds.claims import (
    SHEETS,
    Meaning,
    answer,
    layers_counted,
    turn_conventions,
    verdict,
)
from aplomb.core.folds.finder import PlanProposal, Wanted, find_plans
from aplomb.core.folds.plan import ENCLOSURE_NAMES, Enclosure, Plan
from aplomb.core.folds.turn_line import parse_plan
from aplomb.desk.kit.fields import (
    button,
    card,
    fix_width,
    give_checked,
    label,
    on_checked,
    wrapping,
)
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.figures.typed import read_length

MOST_SHOWN = 9
ANY = "any"
FOLD_WORDS = {2: "half", 3: "single", 4: "double", 5: "five", 6: "six"}


class TradeOff(QWidget):
    """Leaf of fat against time: the plans that fit, with the band."""

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._found: tuple[PlanProposal, ...] = ()
        self._band = (5.0, 20.0)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Fat leaf against time")

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def show_plans(self, found: tuple[PlanProposal, ...], band: tuple[float, float]) -> None:
        """Show other plans."""
        self._found, self._band = found, band
        self.setAccessibleDescription(
            "; ".join(
                f"{f.plan.line()}: {num(f.fat_leaf_um, '.1f')} µm, {f.minutes:.0f} min"
                for f in found[:MOST_SHOWN]
            )
        )
        self.update()

    def sizeHint(self) -> QSize:
        """Wide and low."""
        return QSize(280, look.theme.px(150))

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the plans as marks: round for the first of the list, square for the others."""
        if not self._found:
            return
        p = look.theme.palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(look.theme.font(12.5))
        line = painter.fontMetrics().height()
        wide = painter.fontMetrics().horizontalAdvance("100 µm") + 8
        plot = QRectF(self.rect()).adjusted(wide, 6, -12, -line - 8)
        times = [f.minutes for f in self._found]
        first, last = min(times) * 0.92, max(times) * 1.05
        low, high = self._band[0] / 1.25, self._band[1] * 1.25

        def at(minutes: float, um: float) -> QPointF:
            x = plot.left() + (minutes - first) / (last - first) * plot.width()
            share = math.log(um / low) / math.log(high / low)
            return QPointF(x, plot.bottom() - share * plot.height())

        band = QRectF(
            QPointF(plot.left(), at(first, self._band[1]).y()),
            QPointF(plot.right(), at(first, self._band[0]).y()),
        )
        tint = QColor(p.band)
        tint.setAlpha(90)
        painter.fillRect(band, tint)
        painter.setPen(QColor(p.second))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for um in self._band:
            y = at(first, um).y()
            place = QRectF(0, y - line / 2, wide - 6, line)
            painter.drawText(place, right, f"{number_text(um)} µm")
        for minutes in (min(times), max(times)):
            x = at(minutes, low).x()
            painter.drawText(
                QRectF(x - 50, plot.bottom() + 4, 100, line),
                Qt.AlignmentFlag.AlignHCenter,
                f"{minutes:.0f} min",
            )
        for i, found in reversed(list(enumerate(self._found))):
            mark = at(found.minutes, found.fat_leaf_um)
            painter.setPen(QPen(QColor(p.card), 1.2))
            if i < MOST_SHOWN:
                painter.setBrush(QColor(p.action if i == 0 else p.second))
                painter.drawEllipse(mark, 6.5 if i == 0 else 5.0, 6.5 if i == 0 else 5.0)
            else:
                painter.setBrush(QColor(p.handle))
                painter.drawRect(QRectF(mark.x() - 3, mark.y() - 3, 6, 6))


class PlansPage(Page):
    """Find plans for a leaf; say what a claim could mean."""

    KEY = "plans"
    HINT = "Enter the leaf thickness you want; press a plan to use it."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._uid = ""
        self._band = (5.0, 20.0)
        self._found: tuple[PlanProposal, ...] = ()
        self._meanings: tuple[Meaning, ...] = ()
        self._claimed: Claim | None = None
        self._body.addLayout(self.two_sides(self._target_card(), self._found_card(), (2, 3)))
        self._body.addWidget(self._claim_card())
        self._body.addStretch(1)
        self.refresh()

    def _target_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("Fat leaf thickness", "title"))
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        self.fields: dict[str, Field] = {}
        for at, (key, words, start) in enumerate(
            (
                ("low", "From, µm", ""),
                ("high", "To, µm", ""),
                ("turns", "Maximum turns", "6"),
                ("a_rest", "Turns before a rest", "2"),
                ("rest", "A rest, min", "30"),
                ("bench", "Bench, cm", "200"),
            )
        ):
            field = Field(words, partial(self._take, key), self.show_error, eager=True)
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            fix_width(field, 84)
            field.show_value(start)
            self.fields[key] = field
            grid.addWidget(label(words), at, 0)
            grid.addWidget(field, at, 1)
        column.addLayout(grid)
        self._numbers = {"turns": 6.0, "a_rest": 2.0, "rest": 30.0, "bench": 2000.0}
        self.folds: dict[int, QCheckBox] = {}
        for n, words in FOLD_WORDS.items():
            box = QCheckBox(words)
            box.setChecked(n in (3, 4))
            on_checked(box, lambda _: self.look())
            self.folds[n] = box
        column.addLayout(Flow(label("Folds", "second"), *self.folds.values(), spacing=8))
        self._enclosure = QComboBox()
        self._enclosure.setAccessibleName("Enclosures that may be used")
        self._enclosure.addItem("Any enclosure of sheets", ANY)
        for each in SHEETS:
            self._enclosure.addItem(ENCLOSURE_NAMES[each], each)
        self._enclosure.activated.connect(lambda _i: self.look())
        column.addWidget(self._enclosure)
        return frame

    def _found_card(self) -> QFrame:
        frame, column = card(spacing=2)
        self.answer = wrapping("", "title")
        column.addWidget(self.answer)
        self.rows = self._button_rows(column, MOST_SHOWN, self._use_found)
        self._trade = TradeOff()
        column.addWidget(self._trade)
        return frame

    def _claim_card(self) -> QFrame:
        frame, column = card(spacing=4)
        column.addWidget(label("What does the claim mean?", "title"))
        self.claim = Field("A claim", self._take_claim, self.show_error, eager=True)
        self.claim.setPlaceholderText("six turns, 729 layers, nine folds, over a hundred layers")
        column.addWidget(self.claim)
        self.own = wrapping("", "small")
        column.addWidget(self.own)
        self.verdict = wrapping("", "strong")
        column.addWidget(self.verdict)
        self.claims = self._button_rows(column, MOST_SHOWN, self._use_meaning)
        return frame

    def _button_rows(
        self, column: QVBoxLayout, many: int, use: Callable[[int], None]
    ) -> list[tuple[QPushButton, QLabel]]:
        rows = []
        for i in range(many):
            name, words = button("", "link", partial(use, i)), label("", "small")
            words.setMinimumWidth(60)
            name.hide()  # until there is something to choose
            words.hide()
            column.addLayout(Flow(name, words, spacing=6))
            rows.append((name, words))
        return rows

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.fields["low"])

    def refresh(self) -> None:
        """Begin with the school's band; show what fits the formula in hand."""
        study = self._session.study
        if study is None:
            return
        if self._session.uid != self._uid:
            self._uid = self._session.uid
            band = study.school.bands["fat_leaf_um"]
            self._band = (band.low, band.high)
            free = study.formula.school == "gluten_free"
            for n, box in self.folds.items():
                give_checked(box, n == 3 or (n == 4 and not free))
            self._numbers["bench"] = self._session.reference.house.bench_mm
            at = self._enclosure.findData(study.plan.enclosure)
            self._enclosure.setCurrentIndex(max(0, at))
        self.fields["low"].show_value(number_text(self._band[0]))
        self.fields["high"].show_value(number_text(self._band[1]))
        for key, digits in (("turns", 0), ("a_rest", 0), ("rest", 0)):
            self.fields[key].show_value(number_text(self._numbers[key], digits))
        self.fields["bench"].show_value(bare_text(self._numbers["bench"], "cm", 0))
        try:
            counted = {
                **layers_counted(study.plan, self._mean_leaves()),
                **turn_conventions(study.plan),
            }
            words = "; ".join(f"{name}: {number_text(n, 0)}" for name, n in counted.items())
            mean = " (leaves: average to expect)" if study.plan.leaves_are_means else ""
            self.own.setText(f"This plan: {words}{mean}.")
        except AplombError as error:
            self.own.setText(f"This plan: {error}.")
        self._show_verdict()
        self.look()

    def _mean_leaves(self) -> tuple[float, float] | None:
        """Leaves of the formula in hand where they are means; None where they are counted."""
        readings = self._session.study.readings if self._session.study else None
        if readings is None or not readings.leaves_are_means:
            return None
        if readings.fat_leaves is None or readings.dough_leaves is None:
            return None
        return readings.fat_leaves, readings.dough_leaves

    def _take(self, key: str, text: str) -> None:
        if key in ("turns", "a_rest"):
            self._numbers[key] = float(parse_count(text, 10))
        elif key == "bench":
            self._numbers[key] = read_length(text, in_cm=True)
        else:
            amount = parse_amount(text.replace("µm", ""), decimal_sign())
            if not amount.bare:
                raise AmountError("enter a plain number", text, 0, len(text))
            if key == "low":
                self._band = (amount.value, self._band[1])
            elif key == "high":
                self._band = (self._band[0], amount.value)
            else:
                self._numbers[key] = amount.value
        self.refresh()

    def look(self) -> None:
        """Search anew; it takes a few milliseconds."""
        study = self._session.study
        if study is None:
            return
        chosen = self._enclosure.currentData()
        enclosures: tuple[Enclosure, ...] = SHEETS if chosen == ANY else (chosen,)
        f = study.formula
        wanted = Wanted(
            low_um=self._band[0],
            high_um=self._band[1],
            sheet_mm=f.sheet_mm,
            fat_share=study.readings.fat_volume_share or 0.0,
            enclosures=enclosures,
            panels=tuple(n for n, box in self.folds.items() if box.isChecked()),
            most_turns=int(self._numbers["turns"]),
            turns_a_rest=int(self._numbers["a_rest"]),
            rest_min=self._numbers["rest"],
            volume_ml=study.block_ml,
            width_mm=f.roll_width_mm or 300.0,
            bench_mm=self._numbers["bench"],
        )
        try:
            self._found = find_plans(wanted)
            count = len(self._found)
            self.answer.setText("One plan fits" if count == 1 else f"{count} plans fit")
        except AplombError as error:
            self._found = ()
            self.answer.setText(f"{str(error)[:1].upper()}{str(error)[1:]}.")
        _show_plans(
            self.rows,
            [
                (
                    each.plan,
                    (
                        f"{each.fat_leaves} leaves of {number_text(each.fat_leaf_um, 1)} µm · "
                        f"{each.turns} turns, {each.rests} rests · about {each.minutes:.0f} min"
                    ),
                )
                for each in self._found
            ],
        )
        self._trade.setVisible(bool(self._found))
        self._trade.show_plans(self._found, self._band)

    def _take_claim(self, text: str) -> None:
        self._meanings, self._claimed = (), None
        try:
            if text.strip():
                self._claimed = read_claim(text)
                self._meanings = answer(text)[1]
        finally:
            self._show_meanings()
            self._show_verdict()
        self.claim.show_value(text)

    def _show_verdict(self) -> None:
        """Say whether what is claimed is true of the plan in hand."""
        study = self._session.study
        words = ""
        if self._claimed is not None and study is not None:
            words = verdict(self._claimed, study.plan, self._mean_leaves()).words
            words = f"{words}\nRead as: {self._claimed.said}."
        self.verdict.setText(words)
        self.verdict.setVisible(bool(words))

    def _show_meanings(self) -> None:
        _show_plans(
            self.claims,
            [
                (
                    each.plan,
                    (
                        f"{each.convention}: {number_text(each.counts.fat, 0)} fat leaves, "
                        f"{number_text(each.counts.leaves, 0)} in all"
                    ),
                )
                for each in self._meanings
            ],
        )

    def _use(self, plan: Plan) -> None:
        try:
            self._session.shelf.edit(
                f"plan {plan.line()}", lambda f: replace(f, turn_line=plan.line())
            )
        except AplombError as error:
            self.show_error(str(error))
            return
        self.done.emit()

    def _use_found(self, i: int) -> None:
        self._use(_shown_plan(self.rows[i]))

    def _use_meaning(self, i: int) -> None:
        self._use(_shown_plan(self.claims[i]))


def _shown_plan(row: tuple[QPushButton, QLabel]) -> Plan:
    """Give the plan that a row shows: what was pressed, whatever has been found meanwhile."""
    return parse_plan(row[0].text())


def _show_plans(rows: list[tuple[QPushButton, QLabel]], plans: list[tuple[Plan, str]]) -> None:
    """Show plans with their words in rows of buttons; rows that are left over are hidden."""
    for i, (name, words) in enumerate(rows):
        there = i < len(plans)
        name.setVisible(there)
        words.setVisible(there)
        if there:
            plan, text = plans[i]
            name.setText(plan.line())
            name.setAccessibleName(f"Use {plan.line()}")
            words.setText(text)
