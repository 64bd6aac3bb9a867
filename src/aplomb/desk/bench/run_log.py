"""The record of a run: what was done and put right, what it comes to, its papers."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QModelIndex, QStringListModel, Qt
from PySide6.QtWidgets import QAbstractItemView, QComboBox, QFrame, QListView, QVBoxLayout

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import g_text, num
from aplomb.core.bench.acts import Amend, TakeBack
from aplomb.core.bench.tally import balance_of, turns_done
from aplomb.core.paste.formula import block_allergens
from aplomb.core.study.study import Study
from aplomb.desk.bench.run_control import control_of
from aplomb.desk.kit.fields import button, card, fix_width, label, row, wrapping
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.typed import Field
from aplomb.desk.paper.labels import use_by
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.bench import finish
from aplomb.work.bench.leaving import PATIENCE_S
from aplomb.work.bench.log import LogLine, log_lines, out_of_cold, put_right
from aplomb.work.bench.run import LiveRun, place_of
from aplomb.work.bench.words import held_back_of, tally_words
from aplomb.work.figures.local import begun_text

Write = Callable[[], bytes]
LIST_HIGH = 420
"""Of the list at the least [px]."""


def line_text(line: LogLine) -> str:
    """Write a line of the record."""
    parts = [f"{line.moment:%H:%M:%S}", line.block.partition(" ")[0], line.what]
    text = "  ".join(part for part in parts if part)
    if line.value:
        text += f"  {line.value}"
    if line.was:
        text += f"  (was {line.was}{f': {line.why}' if line.why else ''})"
    if line.taken_back:
        text += "  – undone"
    return text + (f"  {line.who}" if line.who else "")


class RunLogPage(Page):
    """What a run has written down."""

    KEY = "run_log"
    HINT = "Corrections are shown beside the original entry."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.control = control_of(session)
        self._own: LiveRun | None = None
        self.lines: tuple[LogLine, ...] = ()
        self.runs = QComboBox()
        self.runs.setAccessibleName("Run")
        self.runs.activated.connect(self._choose)
        self._body.addLayout(row(label("Run"), self.runs, None))
        self._body.addLayout(self.two_sides(self._list_card(), self._side(), (3, 2)), 1)
        self.control.changed.connect(self._control_changed)
        session.work.news.closing.connect(self._let_go)
        self.destroyed.connect(self._let_go)

    def _list_card(self) -> QFrame:
        frame, column = card(spacing=6)
        self._empty = wrapping(
            (
                "Nothing recorded yet. Start a run on the Bench (Alt+6): every step, weight, "
                "temperature and note is listed here."
            ),
            "second",
        )
        self.list = QListView()
        self.list.setObjectName("picks")
        self.list.setAccessibleName("What was done")
        self.list.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.list.setMinimumHeight(LIST_HIGH)
        self.model = QStringListModel()
        self.list.setModel(self.model)
        self.list.selectionModel().currentChanged.connect(self._picked)
        self.value = Field("Corrected value", self._put_right, self.show_error)
        self.why = Field("Why", lambda _text: None, self.show_error)
        self.why.setPlaceholderText("why")
        fix_width(self.value, 170)
        fix_width(self.why, 190)
        self.off = button("Undo this entry", "quiet", self._take_back)
        column.addWidget(self._empty)
        column.addWidget(self.list, 1)
        column.addLayout(
            Flow(label("Correct value", "small"), self.value, self.why, self.off, spacing=7)
        )
        return frame

    def _side(self) -> QVBoxLayout:
        side = QVBoxLayout()
        side.setSpacing(10)
        frame, column = card(spacing=6)
        column.addWidget(label("Summary", "title"))
        self.masses = FigureTable("Masses", 1)
        column.addWidget(self.masses)
        self._water = wrapping("", "second")
        self.apply = button("Use this water in the formula", "", self._apply_water)
        column.addWidget(self._water)
        column.addLayout(row(self.apply, None))
        side.addWidget(frame)
        papers, lines = card(spacing=6)
        lines.addWidget(label("Papers", "title"))
        lines.addLayout(
            Flow(
                button("Labels of the blocks, as PDF…", "", partial(self._give, "labels")),
                button("Log sheet as PDF…", "", partial(self._give, "log")),
                button("Log as CSV…", "", partial(self._give, "csv")),
                spacing=6,
            )
        )
        self.end = button("End the run", "", lambda: self.asked.emit("bench end", None))
        lines.addLayout(row(self.end, None))
        side.addWidget(papers)
        side.addStretch(1)
        return side

    @property
    def run(self) -> LiveRun | None:
        """The run that is looked at."""
        number = self.runs.currentData()
        live = self.control.run
        if live is not None and live.number == number:
            return live
        return self._own

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.list)

    def _let_go(self) -> None:
        if self._own is not None:
            self._own.changed.disconnect(self._own_changed)
            self._own = None
            self.control.look_away()

    def _own_changed(self) -> None:
        """What was put right is in the book, or is not taken."""
        run = self._own
        if run is None:
            return
        self.show_error(run.trouble)
        if not run.waiting:
            self._after(run)
            if self.isVisible():
                self.refresh()

    def _control_changed(self) -> None:
        if self.isVisible():
            self.refresh()

    def _choose(self, _at: int) -> None:
        self._let_go()
        self._open()
        self.refresh()

    def _open(self) -> None:
        number = self.runs.currentData()
        live = self.control.run
        if number is None or (live is not None and live.number == number):
            return
        try:
            self._own = self.control.look_at(number)
            self._own.changed.connect(self._own_changed)
        except AplombError as error:
            self.show_error(str(error))

    def refresh(self) -> None:
        """Show the run that is chosen; the one that goes on, or the last one."""
        rows = self._session.book.runs.all()
        known = [self.runs.itemData(i) for i in range(self.runs.count())]
        if known != [each.number for each in rows]:
            self._let_go()
            self.runs.clear()
            for each in rows:
                self.runs.addItem(f"{each.title}, {begun_text(each.begun)}", each.number)
            live = self.control.run
            at = self.runs.findData(live.number) if live is not None else 0
            self.runs.setCurrentIndex(max(0, at))
            self._open()
        run = self.run
        self._empty.setVisible(run is None)
        self.list.setVisible(run is not None)
        for each_button in (self.off, self.apply, self.end):
            each_button.setEnabled(run is not None)
        if run is None:
            self.lines = ()
            self.model.setStringList([])
            self.masses.show_rows(())
            self._water.setText("")
            return
        pantry = self._session.reference.pantry
        lines = tuple(reversed(log_lines(run.plan, run.presses, pantry, run.clock.moment)))
        if lines != self.lines:
            at = self.list.currentIndex().row()
            self.lines = lines
            self.model.setStringList([line_text(line) for line in lines])
            if 0 <= at < len(lines):
                self.list.setCurrentIndex(self.model.index(at))
        goes_on = run is self.control.run and not run.is_over
        if self.end.hasFocus() and not goes_on:
            self.list.setFocus(Qt.FocusReason.OtherFocusReason)
        self.end.setEnabled(goes_on)
        self._show_masses(run)
        self._picked(self.list.currentIndex())

    def _line(self) -> LogLine | None:
        at = self.list.currentIndex().row()
        return self.lines[at] if 0 <= at < len(self.lines) else None

    def _picked(self, _index: QModelIndex, _before: QModelIndex | None = None) -> None:
        line = self._line()
        can = line is not None and line.can_change
        self.value.setEnabled(can)
        self.why.setEnabled(can)
        can_go = line is not None and not line.taken_back
        if self.off.hasFocus() and not can_go:
            self.list.setFocus(Qt.FocusReason.OtherFocusReason)
        self.off.setEnabled(can_go)
        self.value.show_value("")
        self.value.setPlaceholderText(line.value or line.what if line and can else "")

    def _put_right(self, text: str) -> None:
        run, line = self.run, self._line()
        if not text.strip() or run is None or line is None:
            return
        press = next(p for p in run.presses if p.number == line.number)
        now = put_right(press.act, text)
        run.press(Amend(line.number, now, self.why.text().strip()))  # type: ignore[arg-type]
        self.why.show_value("")
        run.settle(PATIENCE_S)

    def _take_back(self) -> None:
        run, line = self.run, self._line()
        if run is None or line is None or line.taken_back:
            return
        try:
            run.press(TakeBack(line.number))
        except AplombError as error:
            self.show_error(str(error))
            return
        run.settle(PATIENCE_S)

    def _after(self, run: LiveRun) -> None:
        """What was put right after the run ended goes into the batch's record too."""
        if run.is_over:
            finish.keep_made_batches(self._session.work, run)
        self.refresh()

    def _show_masses(self, run: LiveRun) -> None:
        pantry, by_key = self._session.reference.pantry, run.plan.by_key
        rows, water = [], []
        for uid, study in finish.studies_of(self._session.work, run).items():

            def held(key: str, study: Study = study) -> float:
                return held_back_of(run, by_key[key], study, pantry)

            b = balance_of(run.plan, run.state, uid, held)
            rows.append(Row(study.formula.name, ("",), "head"))
            figures: tuple[tuple[str, float | None], ...] = (
                ("weighed", b.weighed_g),
                ("mixed", b.mixed_g),
                ("dusting flour taken up", b.dusted_g - b.brushed_g),
                ("trimmed off", b.trim_g),
                ("on the sheets", b.rolled_g),
                ("left on bench and hands", b.stuck_g),
                ("pieces", b.cut_g),
                ("scrap", b.scrap_g),
                ("lost in cutting", b.cutting_loss_g),
            )
            rows += [
                Row(f"  {name}", (g_text(value, 0),))
                for name, value in figures
                if value is not None and abs(value) > 1e-9
            ]
            used, written = finish.water_used(self._session.work, run, uid)
            if written:
                water.append(
                    f"{study.formula.name}: {g_text(used, 0)} of water used, "
                    f"{g_text(written, 0)} in the formula."
                )
        self.masses.show_rows(tuple(rows))
        self._water.setText("\n".join(water))
        self.apply.setVisible(bool(water))

    def _apply_water(self) -> None:
        run = self.run
        if run is None:
            return
        told = []
        for uid in run.plan.formulas:
            try:
                told.append(finish.apply_water(self._session.work, run, uid))
            except AplombError as error:
                if len(run.plan.formulas) == 1:
                    self.show_error(str(error))
        if told:
            self._session.work.news.said(" ".join(told))

    def _give(self, kind: str) -> None:
        run = self.run
        if run is None:
            self.show_error("Start a run first; its papers are made from its record.")
            return
        self.show_error("")
        self.asked.emit("bench paper", (kind, run.plan.title, self.paper(kind, run)))

    def paper(self, kind: str, run: LiveRun) -> Write:
        """Give what writes a paper: it takes what it needs now, and may run beside."""
        pantry = self._session.reference.pantry
        lines = log_lines(run.plan, run.presses, pantry, run.clock.moment)
        out = out_of_cold(run.plan, run.presses, run.clock.moment)
        title = run.plan.title
        if kind == "csv":
            from aplomb.exchange.bench_log import log_csv

            rows = [
                (
                    n.number,
                    n.moment,
                    n.block,
                    n.what,
                    n.value,
                    n.who,
                    n.was,
                    n.why,
                    n.taken_back,
                    n.corrective,
                )
                for n in lines
            ]
            times = [(o.block, o.out, o.back, o.minutes, o.temps) for o in out]
            return lambda: log_csv(rows, times)
        from aplomb.desk.paper.bench import BlockLabel, labels_pdf, log_pdf

        if kind == "log":
            return lambda: log_pdf(title, lines, out)
        made = run.clock.moment(run.now_s if not run.is_over else run.state.last_s).date()
        blocks = []
        for track in run.plan.tracks:
            if not track.block:
                continue
            place = place_of(run, track.key).rstrip("0123456789")
            cold = "freezer" if place in ("freezer", "blast") else "fridge"
            wanted = run.plan.formulas[track.uid].wanted
            done, planned = turns_done(run.plan, run.state, track.key)
            formula = run.plan.formulas[track.uid]
            blocks.append(
                BlockLabel(
                    track.name,
                    f"Block {track.block} of {track.blocks}",
                    track.code,
                    tally_words(run, track.key) or f"{num(done)} of {num(planned)} turns",
                    track.mass_g,
                    made,
                    use_by(made, cold),
                    cold,
                    tuple(block_allergens(formula, pantry)),
                    ", ".join(each.name for each in wanted),
                )
            )
        labels = self._session.reference.house.labels
        return lambda: labels_pdf(blocks, labels)
