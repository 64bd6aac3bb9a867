"""The Trials stage: every trial, what they say of a series, and where to go on."""

from msgspec.structs import replace
from PySide6.QtCore import QModelIndex, QStringListModel, Qt
from PySide6.QtWidgets import QAbstractItemView, QFrame, QListView, QVBoxLayout

from aplomb.book.book import new_uid, now
from aplomb.core.base.errors import AplombError
from aplomb.core.base.texts import free_name
from aplomb.core.trials.came import came_of
from aplomb.core.trials.model import FACTORS
from aplomb.core.trials.series import Series, check_series, variants_of
from aplomb.core.trials.trial import MADE_WORDS, OUTCOMES, Trial
from aplomb.desk.kit.background import FaultError, LatestJob
from aplomb.desk.kit.fields import button, card, choice, label, row, wrapping
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.stage import Stage
from aplomb.desk.stages.tools import command_row
from aplomb.desk.trials.chart_view import TrialChartView
from aplomb.work.figures.local import day_text
from aplomb.work.trials.chart import TrialChart, chart_of
from aplomb.work.trials.words import besides_words, outcome_text, verdict_words

ALL = "All trials of the book"
EMPTY = (
    "No trials yet. A trial is a batch you have really made, and its results. Choose "
    "“New trial” to start one for the open formula, then enter what the ruler and the "
    "scale show."
)


def trial_line(trial: Trial, outcome: str) -> str:
    """Write a trial as a line of the list."""
    day = day_text(trial.at[:10]).rpartition(" ")[0] or trial.at[:10]
    what = trial.variant or trial.product or trial.formula
    if trial.failed:
        return f"{day}  {what}  ✕ failed: {trial.failed}"
    came = came_of(trial, outcome)
    if came is None:
        return f"{day}  {what}  – not measured"
    text = f"{day}  {what}  {outcome_text(outcome, came.mean)}"
    if came.scatter is not None:
        text += f" ± {outcome_text(outcome, came.scatter, bare=True)}"
    text += f"  {trial.made.baker}" if trial.made.baker else ""
    return text + ("  ▣" if trial.pictures else "")


class TrialsStage(Stage):
    """Trials: a list, a chart, and what they say."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.chart: TrialChart | None = None
        self._asked: object = None
        self.keys: list[str] = []
        self.picked = ""
        self.job = LatestJob(self._take_chart, self, lambda: session.book.path)
        column = QVBoxLayout(self._inner)
        column.setContentsMargins(24, 10, 18, 10)
        column.setSpacing(8)
        self.series = choice("Series")
        self.series.activated.connect(self._choose_series)
        self.outcome = choice("Results", (kind.words for kind in OUTCOMES.values()))
        self.outcome.activated.connect(lambda _i: self.refresh())
        self.factor = choice("Plotted against", (MADE_WORDS[f.key].words for f in FACTORS))
        self.factor.activated.connect(lambda _i: self.refresh())
        self.new_series = button("New series", "quiet", self._new_series)
        column.addLayout(
            Flow(
                self.series,
                self.new_series,
                label("Result", "second"),
                self.outcome,
                label("against", "second"),
                self.factor,
                spacing=6,
            )
        )
        column.addLayout(command_row(self.asked.emit, (), "trials"))
        column.addWidget(self.error)
        self._empty = wrapping(EMPTY, "second")
        column.addWidget(self._empty)
        left = QVBoxLayout()
        left.addWidget(self._list_card())
        column.addLayout(self.two_sides(left, self._right(), (2, 3)), 1)

    def _list_card(self) -> QFrame:
        frame, column = card(spacing=6)
        self.list = QListView()
        self.list.setObjectName("picks")
        self.list.setAccessibleName("Trials")
        self.list.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setMinimumHeight(150)
        self.model = QStringListModel()
        self.list.setModel(self.model)
        self.list.selectionModel().currentChanged.connect(self._listed)
        self.list.activated.connect(lambda _index: self.asked.emit("measure", self.picked))
        self.new = button(
            "New trial",
            "main",
            self._new_trial,
            "Start a trial of the open formula; Ctrl+Shift+N",
        )
        self.measure = button("Measure", "", lambda: self.asked.emit("measure", self.picked))
        self.drop = button("Remove", "quiet", self._drop, "undo brings it back")
        column.addWidget(self.list, 1)
        column.addLayout(Flow(self.new, self.measure, self.drop, spacing=6))
        return frame

    def _right(self) -> QVBoxLayout:
        side = QVBoxLayout()
        side.setSpacing(8)
        frame, column = card(spacing=4)
        self.view = TrialChartView()
        self.view.picked.connect(self._pick)
        self.legend = wrapping("", "small")
        column.addWidget(self.view, 1)
        column.addWidget(self.legend)
        side.addWidget(frame, 1)
        self._verdict_card, lines = card(spacing=4)
        self._question = wrapping("", "strong")
        self._verdict = wrapping("")
        self._besides = wrapping("", "second")
        self.decided = Field("Decided", self._decide, self.show_error)
        self.decided.setPlaceholderText("what was decided, in a few words")
        for each in (self._question, self._verdict, self._besides):
            lines.addWidget(each)
        lines.addLayout(row(label("Decided", "second"), self.decided))
        side.addWidget(self._verdict_card)
        return side

    @property
    def in_series(self) -> Series | None:
        """The series that is looked at; None for all trials."""
        key = self.series.currentData()
        return self._session.store.tried.one_series(key) if key else None

    @property
    def shown_outcome(self) -> str:
        """Which outcome is looked at."""
        return list(OUTCOMES)[max(0, self.outcome.currentIndex())]

    @property
    def shown_factor(self) -> str:
        """Over which factor."""
        return FACTORS[max(0, self.factor.currentIndex())].key

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        first = self.list if self.keys else self.new
        first.setFocus(Qt.FocusReason.TabFocusReason)

    def _show_series(self) -> None:
        tried = self._session.store.tried
        known = [self.series.itemData(i) for i in range(self.series.count())]
        wanted = ["", *(each.key for each in tried.series)]
        if known == wanted:
            for i, each in enumerate(tried.series, 1):
                if self.series.itemText(i) != each.name:
                    self.series.setItemText(i, each.name)
            return
        at = self.series.currentData() if known else None
        self.series.clear()
        self.series.addItem(ALL, "")
        for each in tried.series:
            self.series.addItem(each.name, each.key)
        found = self.series.findData(at) if at else -1
        if found < 0:
            mine = [s.key for s in tried.series if s.uid == self._session.uid]
            found = self.series.findData(mine[-1]) if mine else 0
        self.series.setCurrentIndex(max(0, found))
        self._take_series()

    def _take_series(self) -> None:
        """Show what the series is about."""
        series = self.in_series
        if series is None:
            return
        self.outcome.setCurrentIndex(list(OUTCOMES).index(series.outcome))
        keys = [f.key for f in FACTORS]
        if series.change in keys:
            self.factor.setCurrentIndex(keys.index(series.change))

    def _choose_series(self, _at: int) -> None:
        self._take_series()
        self.refresh()

    def refresh(self) -> None:
        """Show the trials; what is learned from them comes beside."""
        self._show_series()
        tried, series = self._session.store.tried, self.in_series
        trials = [t for t in tried.trials if series is None or t.series == series.key]
        outcome = self.shown_outcome
        lines = [trial_line(t, outcome) for t in reversed(trials)]
        keys = [t.key for t in reversed(trials)]
        if self.picked not in keys:
            self.picked = keys[0] if keys else ""
        if lines != self.model.stringList() or keys != self.keys:
            self.keys = keys
            self.model.setStringList(lines)
        self._mark_listed()
        self._empty.setVisible(not tried.trials)
        for each in (self.measure, self.drop):
            if each.hasFocus() and not keys:
                self.new.setFocus(Qt.FocusReason.OtherFocusReason)
            each.setEnabled(bool(keys))
        self._show_verdict()
        self._ask_chart()

    def _mark_listed(self) -> None:
        if self.picked in self.keys:
            index = self.model.index(self.keys.index(self.picked))
            if self.list.currentIndex() != index:
                held = self.list.selectionModel().blockSignals(True)
                self.list.setCurrentIndex(index)
                self.list.selectionModel().blockSignals(held)
                self.list.viewport().update()

    def _listed(self, index: QModelIndex, _before: QModelIndex | None = None) -> None:
        if 0 <= index.row() < len(self.keys):
            self.picked = self.keys[index.row()]
            self.view.show_chart(self.chart, self.picked)

    def _pick(self, key: str) -> None:
        self.picked = key
        self._mark_listed()
        self.list.scrollTo(self.list.currentIndex())
        self.view.show_chart(self.chart, self.picked)

    def _ask_chart(self) -> None:
        tried, series = self._session.store.tried, self.in_series
        outcome, factor = self.shown_outcome, self.shown_factor
        study = self._session.study
        recalled = study.school.bands.get(factor) if study else None
        about = (tried.trials, series.key if series else "", outcome, factor, recalled)
        if about == self._asked:
            self.view.show_chart(self.chart, self.picked)
            return
        self._asked = about
        self.job.ask(lambda: chart_of(*about))

    def _take_chart(self, found: "TrialChart | AplombError") -> None:
        if isinstance(found, AplombError):
            if not isinstance(found, FaultError):
                self.show_error(str(found))
            return
        self.chart = found
        self.view.show_chart(found, self.picked)
        words = []
        if found.grid:
            words.append(
                f"line: average of {found.n} trials; paler: where a new one is likely (90 %)"
            )
        if found.band is not None:
            words.append("green: range from your trials")
        if found.recalled is not None:
            words.append("strip: range in use")
        if any(p.mark in ("failed", "missing") for p in found.points):
            words.append("bottom: ✕ failed, ○ not measured")
        if any(p.mark == "out" for p in found.points):
            words.append("square: outlier, still counted")
        self.legend.setText("; ".join(words))

    def _show_verdict(self) -> None:
        series = self.in_series
        self._verdict_card.setVisible(series is not None)
        if series is None:
            return
        own = self.shown_outcome == series.outcome
        matters = series.matters if own else 0.0
        shown = replace(series, outcome=self.shown_outcome, matters=matters)
        found = variants_of(shown, self._session.store.tried.trials)
        parent = found[0].name if found else ""
        lines = [verdict_words(shown, parent, v) for v in found]
        self._question.setText(series.question or f"What does {series.change_words.lower()} do?")
        self._verdict.setText(
            "\n".join(lines) or "No trials in this series yet. Start one and give it a variant."
        )
        besides = besides_words(found)
        self._besides.setText(besides)
        self._besides.setVisible(bool(besides))
        self.decided.show_value(series.decided)

    def _decide(self, text: str) -> None:
        series = self.in_series
        if series is not None:
            self._session.store.put_trials(
                "decided", (), (check_series(replace(series, decided=text.strip()[:300])),)
            )

    def _new_trial(self) -> None:
        series = self.in_series
        self.asked.emit("new trial", series.key if series is not None else None)

    def _new_series(self) -> None:
        tried = self._session.store.tried
        name = free_name("New series", {each.name for each in tried.series})
        made = Series(new_uid()[:16], name, uid=self._session.uid, begun=now()[:10])
        self._session.store.put_trials(f"series {name}", (), (made,))
        self._show_series()
        self.series.setCurrentIndex(self.series.findData(made.key))
        self._choose_series(0)

    def _drop(self) -> None:
        trial = self._session.store.tried.trial(self.picked)
        if trial is not None:
            self._session.store.drop_trials(f"remove the trial of {trial.formula}", [trial.key])
            self._session.work.news.said("Trial removed. Ctrl+Z brings it back.")
