"""Report: a series from its question to its verdict, to be looked at and given away."""

from PySide6.QtCore import QByteArray
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QVBoxLayout

from aplomb.core.base.errors import AplombError
from aplomb.core.trials.model import FACTORS, PRIORS
from aplomb.core.trials.series import Series
from aplomb.core.trials.trial import Trial
from aplomb.desk.kit.background import FaultError, LatestJob
from aplomb.desk.kit.fields import button, card, choice, clear, label, wrapping
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.desk.trials.chart_view import TrialChartView
from aplomb.work.figures.local import day_text
from aplomb.work.trials.chart import TrialChart, chart_of
from aplomb.work.trials.report import SeriesReport, report_json, series_report

ReportAndChart = tuple[SeriesReport, TrialChart | None]
SMALL_HIGH = 120
MOST_SHOWN = 6


def report_of(series: Series, trials: tuple[Trial, ...], formula: str) -> ReportAndChart:
    """Put a report together; beside the window."""
    from aplomb.core.trials.model import model_of

    model = model_of(trials, series.outcome) if series.outcome in PRIORS else None
    charted = series.change in {f.key for f in FACTORS}
    chart = chart_of(trials, series.key, series.outcome, series.change) if charted else None
    return series_report(series, trials, formula, model, chart.band if chart else None), chart


class ReportPage(Page):
    """A series, told."""

    KEY = "report"
    HINT = (
        "The question, the change, figures, the verdict and how sure it is, "
        "photographs and all trials."
    )

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.shown: ReportAndChart | None = None
        self._asked: object = None
        self._shown: tuple[str, ...] = ()
        self.job = LatestJob(self._take_report, self, lambda: session.book.path)
        self.series = choice("Series")
        self.series.activated.connect(lambda _i: self.refresh())
        self.pdf = button("Report as PDF…", "main", lambda: self._give("pdf"))
        self.csv = button("Trials as CSV…", "", lambda: self._give("csv"))
        self.json = button("Report as JSON…", "", lambda: self._give("json"))
        self._body.addLayout(
            Flow(label("Series", "second"), self.series, self.pdf, self.csv, self.json, spacing=6)
        )
        self._body.addLayout(self.two_sides(self._words_card(), self._chart_card(), (1, 1)))
        self._body.addStretch(1)

    def _words_card(self) -> QFrame:
        frame, column = card(spacing=6)
        self._title: QLabel = label("", "title")
        self._question = wrapping("", "strong")
        self._verdicts = wrapping("")
        self._besides = wrapping("", "second")
        self._decided = wrapping("", "strong")
        for each in (self._title, self._question, self._verdicts, self._besides, self._decided):
            column.addWidget(each)
        return frame

    def _chart_card(self) -> QFrame:
        frame, column = card(spacing=6)
        self.chart = TrialChartView()
        self._band = wrapping("", "second")
        self._pictures = QHBoxLayout()
        self._pictures.setSpacing(6)
        column.addWidget(self.chart)
        column.addWidget(self._band)
        column.addLayout(self._pictures)
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.series if self.series.count() else self._back)

    def _one(self) -> Series | None:
        key = self.series.currentData()
        return self._session.store.tried.one_series(key) if key else None

    def refresh(self) -> None:
        """Put the report together beside, and show it."""
        tried = self._session.store.tried
        keys = [s.key for s in tried.series]
        if [self.series.itemData(i) for i in range(self.series.count())] != keys:
            self.series.clear()
            for each in tried.series:
                self.series.addItem(each.name, each.key)
        series = self._one()
        for each_button in (self.pdf, self.csv, self.json):
            if each_button.hasFocus() and series is None:
                self._back.setFocus()
            each_button.setEnabled(series is not None)
        if series is None:
            self._title.setText("No series yet")
            self._question.setText(
                "Start one on Trials with a question, one change and a few trials."
            )
            return
        entry = self._session.shelf.entries.get(series.uid)
        asked = (series, tried.trials, entry.name if entry else "")
        if asked == self._asked:
            return
        self._asked = asked
        self.job.ask(lambda: report_of(*asked))

    def _take_report(self, found: "ReportAndChart | AplombError") -> None:
        if isinstance(found, AplombError):
            if not isinstance(found, FaultError):
                self.show_error(str(found))
            return
        self.shown = found
        report, chart = found
        self._title.setText(report.series.name)
        self._question.setText(report.series.question)
        self._verdicts.setText("\n".join(v.words for v in report.variants))
        besides = sorted({words for v in report.variants for words in v.besides})
        self._besides.setText(f"Other differences: {'; '.join(besides)}." if besides else "")
        said = report.series.decided
        self._decided.setText(f"Decided: {said}" if said else "Nothing decided yet.")
        self.chart.setVisible(chart is not None)
        self.chart.show_chart(chart, "")
        self._band.setText(report.band_words)
        self._show_pictures(report)

    def _picture_keys(self, report: SeriesReport) -> tuple[str, ...]:
        return tuple(key for line in report.lines for key in line.trial.pictures)[:MOST_SHOWN]

    def _show_pictures(self, report: SeriesReport) -> None:
        keys = self._picture_keys(report)
        if keys == self._shown:
            return
        self._shown = keys
        clear(self._pictures)
        for key in keys:
            image = QImage.fromData(QByteArray(self._session.book.pictures.small(key)))
            if image.isNull():
                continue
            shown = QLabel()
            shown.setPixmap(QPixmap.fromImage(image.scaledToHeight(look.theme.px(SMALL_HIGH))))
            of = next(line.trial for line in report.lines if key in line.trial.pictures)
            words = f"{of.variant or of.formula}, {day_text(of.at[:10])}"
            shown.setAccessibleName(f"Photograph of a cut piece, {words}")
            beside = QVBoxLayout()
            beside.setSpacing(2)
            beside.addWidget(shown)
            beside.addWidget(label(words, "small"))
            self._pictures.addLayout(beside)
        self._pictures.addStretch(1)

    def _give(self, kind: str) -> None:
        if self.shown is None:
            return
        report, chart = self.shown
        name = report.series.name
        if kind == "json":
            self.asked.emit("trial paper", ("Report", name, "json", lambda: report_json(report)))
            return
        if kind == "csv":
            from aplomb.exchange.trials_csv import trials_csv

            trials = [line.trial for line in report.lines]
            self.asked.emit("trial paper", ("Trials", name, "csv", lambda: trials_csv(trials)))
            return
        from aplomb.desk.paper.trials import report_pdf

        pictures = [self._session.book.pictures.body(key) for key in self._picture_keys(report)]
        self.asked.emit(
            "trial paper", ("Report", name, "pdf", lambda: report_pdf(report, chart, pictures))
        )
