"""Cold: every rest of the plan, when this block can be rolled, and when it must go back."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import celsius_text, decimal_sign, mm_text, num
from aplomb.core.base.house import House
from aplomb.core.base.numbers import read_number
from aplomb.core.base.places import UNDERS, Place
from aplomb.core.cold.readiness import match
from aplomb.core.folds.plan import LONGEST_REST_MIN, REST_PLACES, Plan
from aplomb.core.folds.step import Step
from aplomb.core.paste.bodies import Bodies, bodies_of
from aplomb.core.study.cold import (
    Rest,
    RestResult,
    bends_after,
    cold_of,
    out_limit,
    places_beside,
    rests_of_plan,
)
from aplomb.core.study.study import Study
from aplomb.desk.drawings.heat import HeatChart, paint_heat
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.fields import button, card, fix_width, label, let_go, row, wrapping
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.commands import COMMANDS
from aplomb.work.words.cold import (
    band_text,
    body_words,
    match_words,
    out_text,
    ready_text,
    rest_summary,
    rest_title,
    time_text,
)


class HeatView(QWidget):
    """The chart of one rest."""

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self.update)
        self._chart: HeatChart | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Temperature in the block over time")

    def sizeHint(self) -> QSize:
        """Room for a field and its curves."""
        return QSize(520, look.theme.px(300))

    def minimumSizeHint(self) -> QSize:
        """Still to be read."""
        return QSize(260, look.theme.px(220))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Be no taller than it reads well."""
        super().resizeEvent(event)
        self.setMaximumHeight(look.theme.px(380))

    def show_chart(self, chart: HeatChart | None, words: str) -> None:
        """Show another chart; screen readers get it in words."""
        self._chart = chart
        self.setAccessibleDescription(words)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the chart."""
        if self._chart is not None:
            painter = QPainter(self)
            paint_heat(painter, QRectF(self.rect()).adjusted(2, 2, -2, -2), self._chart, look.theme)


def read_minutes(text: str) -> float | None:
    """Read a length of a rest: minutes, or hours with an h; None for nothing."""
    bare = text.strip().lower().removesuffix("min").strip()
    if not bare or bare in ("–", "-"):
        return None
    over = 60.0 if bare.endswith("h") else 1.0
    minutes = read_number(bare.removesuffix("h").strip(), decimal_sign()) * over
    if not 0 <= minutes <= LONGEST_REST_MIN:
        raise AmountError("enter minutes, e.g. 30, or hours, e.g. 2 h", text, 0, len(text))
    return minutes


UNKNOWN = (
    "The temperature range for rolling this fat is not known, so nothing can be "
    "calculated. Enter it for the fat in the pantry."
)


def rest_text(found: RestResult) -> str:
    """Say from when to when, or what would do instead."""
    if not found.ready.never:
        return ready_text(found.ready)
    if found.instead is None:
        return "never ready this way"
    first, then = found.instead.first.name.lower(), found.instead.then.name.lower()
    return f"never ready this way; try {first} {time_text(found.instead.first_min)}, then {then}"


class ColdPage(Page):
    """The rests of the plan, one in hand."""

    KEY = "cold"
    HINT = (
        "For this block in your fridge. Go by the state of the block; the clock says "
        "when to check it."
    )

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.at = -1
        self._rests: tuple[Rest, ...] = ()
        self.found: tuple[RestResult, ...] = ()
        self._bodies: Bodies | None = None
        self.job = LatestJob(self._take_found, self, self.in_hand)
        self._beside = LatestJob(self._take_places, self, self.in_hand)
        self.rows: list[tuple[QLabel, Field, Field, QComboBox, QLabel]] = []
        left, right = QVBoxLayout(), QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self._rests_card())
        left.addWidget(self._out_card())
        left.addStretch(1)
        self.view = HeatView()
        self._words = wrapping("", "second")
        self._which: QLabel = label("", "strong")
        self._which.setWordWrap(True)
        right.addWidget(self._which)
        right.addWidget(self.view, 1)
        right.addWidget(self._words)
        self.table = FigureTable("The places side by side", 4)
        right.addWidget(self.table)
        self._body.addLayout(self.two_sides(left, right, (1, 1)))
        self._body.addStretch(1)
        self.refresh()

    def _rests_card(self) -> QFrame:
        frame, column = card()
        self._grid = QGridLayout()
        self._grid.setColumnStretch(0, 1)
        self._grid.setVerticalSpacing(3)
        for i, words in enumerate(("Rest", "from, min", "to, min", "where")):
            self._grid.addWidget(label(words, "small"), 0, i)
        column.addLayout(self._grid)
        places = button(
            "Fridges and benches…",
            "quiet",
            partial(self.asked.emit, "places", None),
            COMMANDS["places"].shown_keys,
        )
        self._state: QLabel = label("", "small")
        self._state.setWordWrap(True)
        column.addLayout(row(places, None))
        column.addWidget(self._state)
        return frame

    def _out_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("Time out of the cold, and thawing", "strong"))
        self._out = wrapping("", "second")
        column.addWidget(self._out)
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.rows[max(0, self.at)][1] if self.rows else self._back)

    def refresh(self) -> None:
        """Show the rests, and work them out beside."""
        study = self._session.study
        if study is None:
            return
        pantry, house = self._session.reference.pantry, self._session.reference.house
        bodies = self._bodies = bodies_of(study.formula, pantry)
        rests = rests_of_plan(study, house, bodies.range_c) if bodies.range_c else ()
        if [r.rest for r in self.found] != list(rests):
            self.found = ()
        self._rests = rests
        self._state.setText("" if rests else UNKNOWN)
        self._state.setVisible(not rests)
        self._show_rows(study)

        def work() -> tuple[Study, Bodies, tuple[RestResult, ...], str]:
            found = cold_of(study, pantry, house)
            return study, bodies, found, out_words(study, bodies, house, found)

        self.job.ask(work)

    def _take_found(self, found: object) -> None:
        if isinstance(found, AplombError):
            self._state.setText(str(found))
            self._state.show()
            return
        assert isinstance(found, tuple)
        study, self._bodies, self.found, out = found
        self._show_rows(study)
        self._show_one(study)
        self._out.setText(out)

    def _show_rows(self, study: Study) -> None:
        if self.at < 0 and self._rests:  # a rest of the paste itself is what one comes for
            kinds = [rest.of for rest in self._rests]
            self.at = kinds.index("paste") if "paste" in kinds else 0
        self.at = min(self.at, len(self._rests) - 1)
        while len(self.rows) > len(self._rests):
            let_go(self._grid, *self.rows.pop())
        while len(self.rows) < len(self._rests):
            self.rows.append(self._make_row(len(self.rows)))
        known: list[RestResult | None] = list(self.found) or [None] * len(self._rests)
        for rest, found, widgets in zip(self._rests, known, self.rows, strict=True):
            title, least, most, place, words = widgets
            name = rest_title(study, rest)
            title.setText(name)
            step = rest.step
            least.setAccessibleName(f"{name}, shortest")
            most.setAccessibleName(f"{name}, longest")
            place.setAccessibleDescription(f"{name}, place")
            least.setPlaceholderText(num(found.least_min, ".0f") if found else "…")
            most.setPlaceholderText(num(found.most_min, ".0f") if found else "…")
            least.show_value("" if step.rest_min is None else num(step.rest_min))
            most.show_value("" if step.most_min is None else num(step.most_min))
            place.setCurrentIndex(max(0, place.findData(step.place or "fridge")))
            words.setText(f"{body_words(rest)}: {rest_text(found) if found else '…'}")

    def _make_row(self, i: int) -> tuple[QLabel, Field, Field, QComboBox, QLabel]:
        title: QLabel = label("", "strong")
        title.setMinimumWidth(60)
        title.setWordWrap(True)
        least = Field("Least", partial(self._take_least, i), self.show_error)
        most = Field("Most", partial(self._take_most, i), self.show_error)
        for field in (least, most):
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            fix_width(field, 62)
        least.setToolTip(
            "Shortest rest in minutes. Leave empty for the calculated time, shown in grey"
        )
        most.setToolTip(
            "Longest rest in minutes. Leave empty for the calculated time, shown in grey"
        )
        least.focused.connect(partial(self._pick, i))
        most.focused.connect(partial(self._pick, i))
        place = QComboBox()
        house = self._session.reference.house
        for word in REST_PLACES:
            there = house.place(word)
            place.addItem(there.name.lower() if there and word != "room" else word, word)
        place.activated.connect(partial(self._take_place, i))
        words = wrapping("", "second")
        at = 2 * i + 1
        for column, widget in enumerate((title, least, most, place)):
            self._grid.addWidget(widget, at, column)
        self._grid.addWidget(words, at + 1, 0, 1, 4)
        return title, least, most, place, words

    def _pick(self, i: int) -> None:
        self.at = i
        study = self._session.study
        if study is not None and self.found:
            self._show_one(study)

    def _change(self, i: int, words: str, **changes: object) -> None:
        study = self._session.study
        if study is None or i >= len(self._rests):
            return
        found = self._rests[i]
        step = replace(found.step, **changes)
        if step.most_min is not None and step.rest_min is not None:
            step = replace(step, most_min=max(step.most_min, step.rest_min))
        plan = _with_rest(study.plan, found.of, found.at, step)
        self.at = i
        self._session.shelf.edit(words, lambda f: replace(f, turn_line=plan.line()))

    def _take_least(self, i: int, text: str) -> None:
        minutes = read_minutes(text)
        self._change(
            i,
            "calculated rest" if minutes is None else f"rest {num(minutes)} min",
            rest_min=minutes,
        )

    def _take_most(self, i: int, text: str) -> None:
        self._change(i, "longest rest", most_min=read_minutes(text))

    def _take_place(self, i: int, at: int) -> None:
        word = self.rows[i][3].itemData(at)
        self._change(i, f"rest in {word}", place="" if word == "fridge" else word)

    def _show_one(self, study: Study) -> None:
        bodies = self._bodies
        if not self.found or bodies is None or bodies.range_c is None:
            self.view.show_chart(None, "")
            self._which.setText("")
            self._words.setText("")
            return
        found = self.found[self.at]
        low, high = bodies.range_c
        if found.rest.of == "dough":
            low -= 2.0
        ready = found.ready
        window, lain = None, found.rest.lain_min
        if ready.start.usual is not None and ready.end.usual is not None:
            window = (lain + ready.start.usual, lain + ready.end.usual)
        written = found.rest.step.rest_min
        ends = [
            window[1] * 1.25 if window and not ready.lasts else 120.0,
            lain + (written or 0) * 1.15,
        ]
        until = min(max(30.0, *ends), ready.course.end_min)
        marks = () if written is None else ((lain + written, f"rest {time_text(written)}"),)
        words = rest_summary(study, found, (low, high))
        title, _, rest = words.partition(": ")
        self._which.setText(f"{title}: {body_words(found.rest)}")
        self.view.show_chart(HeatChart(ready.course, low, high, until, window, marks), words)
        self._words.setText(rest.partition(". ")[2])
        house = self._session.reference.house
        self._beside.ask(lambda: places_beside(found.rest, bodies, house))

    def _take_places(self, found: object) -> None:
        if not isinstance(found, tuple):
            self.table.show_rows(())
            return
        rows = [Row("Ready in", ("from", "to", "skin", "middle"), "head")]
        for place, ready in found:
            if ready.never:
                rows.append(Row(place.name, ("never", "", "", "")))
                continue
            begin = "at once" if (ready.start.usual or 0) < 1 else band_text(ready.start)
            temps = [celsius_text(each or 0.0, ".0f") for each in (ready.skin_c, ready.core_c)]
            rows.append(Row(place.name, (begin, time_text(ready.end.usual), *temps)))
        self.table.show_rows(tuple(rows))


def out_words(study: Study, bodies: Bodies, house: House, found: tuple[RestResult, ...]) -> str:
    """Say how long a sheet may stay out, how a frozen block thaws, and how dough and fat meet."""
    if bodies.range_c is None or bodies.paste is None:
        return ""
    low, high = bodies.range_c
    thick = 10.0
    if study.worked.turns:
        thick = min(t.sheet.height_mm for t in study.worked.turns)
    told = []
    room = next((p for p in house.places if p.kind == "room"), None)
    own = room.under if room is not None else "wood"
    for under in dict.fromkeys((own, "stone", "wood")):
        if under in UNDERS[2:]:
            bench = Place("bench", "room", under=under, wrapped=False)
            out = out_limit(bodies.paste, round(thick, 1), low, bench, house, high, 1)
            text = out_text(out, high - house.rolling_k)
            told.append(f"On {under}: {text[:1].lower()}{text[1:]}")
    block = study.block_after(len(study.plan.steps))
    fridge = house.place("fridge")
    if block is not None and fridge is not None:
        bends = bends_after(bodies.paste, block, fridge, house)
        told.append(
            f"The finished block from the freezer bends after {band_text(bends)} in the fridge."
        )
    by_kind = {each.rest.of: each for each in found}
    if "dough" in by_kind and "fat" in by_kind:
        told.append(match_words(match(by_kind["dough"].ready, by_kind["fat"].ready)))
    shown = f"For a sheet of {mm_text(thick)} at {celsius_text(low, '.0f')}, rolled once. "
    return shown + "\n".join(told)


def _with_rest(plan: Plan, of: str, at: int, step: Step) -> Plan:
    """Put a rest into a plan where it belongs."""
    if of in ("dough", "fat"):
        return replace(plan, **{f"{of}_rest": step})
    if of == "shaped":
        return replace(plan, shaped_rest=step)
    return replace(plan, steps=(*plan.steps[:at], step, *plan.steps[at + 1 :]))
