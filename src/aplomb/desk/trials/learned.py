"""Learned: what all trials of the book say, and the bakery's own bands."""

from msgspec import Struct
from PySide6.QtWidgets import QFrame, QVBoxLayout

from aplomb.book.book import now
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import bare_text, num
from aplomb.core.opinion.own_bands import OwnBand
from aplomb.core.trials.bands import LEAST_FOR_BAND, LearnedBand
from aplomb.core.trials.model import FACTORS, PRIORS, Interval
from aplomb.core.trials.trial import MADE_WORDS, OUTCOMES, Trial
from aplomb.desk.kit.background import FaultError, LatestJob
from aplomb.desk.kit.fields import button, card, choice, label, wrapping
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.flow import Flow
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.trials.words import band_words, outcome_text

READINGS = ("fat_leaf_um",)
"""Factors whose learned band can take the place of a reading's."""


class AllLearned(Struct, frozen=True):
    """What was learned of every outcome."""

    rows: tuple[tuple[str, int, float, Interval, int], ...]
    band: LearnedBand | None
    known: int
    outliers: tuple[str, ...]


def learn_all(trials: tuple[Trial, ...], outcome: str, factor: str) -> AllLearned:
    """Learn every outcome, and the band of one; beside the window."""
    import numpy as np

    from aplomb.core.trials.bands import learned_band
    from aplomb.core.trials.model import model_of
    from aplomb.work.trials.chart import SEED, usual_made

    rows = []
    band, known = None, 0
    outliers: tuple[str, ...] = ()
    for key in PRIORS:
        model = model_of(trials, key)
        (usual,) = model.predict([usual_made(model, trials)], 0.9)
        rows.append((key, model.n, model.belief.scatter, usual, len(model.outliers)))
        if key == outcome:
            band = learned_band(model, factor, np.random.default_rng(SEED))
            known, outliers = model.known(factor), model.outliers
    return AllLearned(tuple(rows), band, known, outliers)


class LearnedPage(Page):
    """What was learned, and what stands because of it."""

    KEY = "learned"
    HINT = "A range from your trials replaces the rule of thumb only when you choose to use it."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._asked: object = None
        self.learned: AllLearned | None = None
        self.job = LatestJob(self._take_found, self, lambda: session.book.path)
        self.outcome = choice("Outcome", (OUTCOMES[key].words for key in PRIORS))
        self.factor = choice("Plotted against", (MADE_WORDS[f.key].words for f in FACTORS))
        for each in (self.outcome, self.factor):
            each.activated.connect(lambda _i: self.refresh())
        self._body.addLayout(
            Flow(
                label("Range of", "second"),
                self.factor,
                label("Judged by", "second"),
                self.outcome,
                spacing=6,
            )
        )
        left, right = QVBoxLayout(), QVBoxLayout()
        for side in (left, right):
            side.setSpacing(10)
        left.addWidget(self._band_card())
        left.addStretch(1)
        right.addWidget(self._all_card())
        right.addStretch(1)
        self._body.addLayout(self.two_sides(left, right, (1, 1)))
        self._body.addStretch(1)

    def _band_card(self) -> QFrame:
        frame, column = card(spacing=8)
        self._band = wrapping("", "big")
        self._words = wrapping("")
        self._stands = wrapping("", "second")
        self._out = wrapping("", "second")
        self.take = button("Use this range", "main", self._take)
        self.back = button("Back to the usual range", "", self._put_back)
        for each in (self._band, self._words, self._stands):
            column.addWidget(each)
        column.addLayout(Flow(self.take, self.back, spacing=6))
        column.addWidget(self._out)
        return frame

    def _all_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("What to expect of a new trial, made as usual", "strong"))
        self.table = FigureTable("What was learned, result by result", 4, 84)
        column.addWidget(self.table)
        column.addWidget(
            wrapping(
                (
                    "Calculated from your trials, starting from rules of thumb. With few "
                    "trials the 90 % range is wide: it shows how little is known. Failed "
                    "bakes are kept but not counted; outliers are marked and still counted."
                ),
                "second",
            )
        )
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.factor)

    @property
    def _outcome(self) -> str:
        return list(PRIORS)[max(0, self.outcome.currentIndex())]

    @property
    def _factor(self) -> str:
        return FACTORS[max(0, self.factor.currentIndex())].key

    def refresh(self) -> None:
        """Learn beside, and show what stands."""
        trials = self._session.store.tried.trials
        asked = (trials, self._outcome, self._factor)
        if asked != self._asked:
            self._asked = asked
            self.learned = None
            self.job.ask(lambda: learn_all(*asked))
        self._show()

    def _take_found(self, found: "AllLearned | AplombError") -> None:
        if isinstance(found, AplombError):
            if not isinstance(found, FaultError):
                self.show_error(str(found))
            return
        self.learned = found
        self._show()

    def _show(self) -> None:
        found, factor, study = self.learned, self._factor, self._session.study
        school = study.school if study is not None else None
        own = None
        stands = ""
        if school is not None and factor in READINGS:
            own = self._session.store.tried.bands.of(school.key, factor)
            band = school.bands.get(factor)
            if band is not None:
                unit = MADE_WORDS[factor].unit
                from_where = f"your own trials, {band.words}" if own else "rule of thumb"
                low, high = num(band.low, ".3g"), num(band.high, ".3g")
                stands = f"Range in use for {school.name}: {low} to {high} {unit} ({from_where})."
        can = found is not None and found.band is not None and factor in READINGS
        for each, on in ((self.take, can and school is not None), (self.back, own is not None)):
            if each.hasFocus() and not on:
                self.factor.setFocus()
            each.setEnabled(on)
        self._stands.setText(stands)
        if found is None:
            self._band.setText("…")
            self._words.setText("Learning from your trials …")
            return
        if found.band is not None:
            unit = MADE_WORDS[factor].unit
            ends = (bare_text(v, unit, ".2g") for v in (found.band.low, found.band.high))
            self._band.setText(f"{' to '.join(ends)} {unit}".rstrip())
            self._words.setText(band_words(found.band))
        else:
            self._band.setText("Not enough to say yet")
            self._words.setText(
                f"{found.known} trials so far have both "
                f"{MADE_WORDS[factor].words.lower()} and "
                f"{OUTCOMES[self._outcome].words.lower()}. About {LEAST_FOR_BAND} are "
                f"needed, with {MADE_WORDS[factor].words.lower()} varied on purpose."
            )
        tried = self._session.store.tried
        names = [
            f"{t.variant or t.formula}, {t.at[:10]}"
            for key in found.outliers
            if (t := tried.trial(key)) is not None
        ]
        self._out.setText(f"Outliers, still counted: {'; '.join(names)}." if names else "")
        rows = [Row("", ("trials", "expected", "90 %", "varies by ±"), "head")]
        for key, n, scatter, usual, _ in found.rows:
            low, high = (outcome_text(key, v, bare=True) for v in (usual.low, usual.high))
            rows.append(
                Row(
                    OUTCOMES[key].words,
                    (
                        str(n),
                        outcome_text(key, usual.mean) if n else "–",
                        f"{low} to {high}",
                        outcome_text(key, scatter, bare=True),
                    ),
                )
            )
        self.table.show_rows(tuple(rows))

    def _take(self) -> None:
        study, found = self._session.study, self.learned
        if study is None or found is None or found.band is None:
            return
        band = found.band
        words = (
            f"from {band.n} of your trials: {OUTCOMES[band.outcome].words.lower()} likely "
            "within 5 % of its best; lower end "
            f"{num(band.low_from, '.2g')}–{num(band.low_to, '.2g')}, upper end "
            f"{num(band.high_from, '.2g')}–{num(band.high_to, '.2g')}"
        )
        own = OwnBand(
            study.school.key,
            band.factor,
            round(band.low, 2),
            round(band.high, 2),
            words,
            band.n,
            now(),
        )
        self._session.store.put_own_bands(
            "use your own range", self._session.store.tried.bands.with_band(own)
        )
        self._session.work.news.said(
            "Your own range is now in use. You can go back to the usual one here."
        )

    def _put_back(self) -> None:
        study = self._session.study
        if study is not None:
            bands = self._session.store.tried.bands.without(study.school.key, self._factor)
            self._session.store.put_own_bands("back to the usual range", bands)
            self._session.work.news.said("The usual range is in use again.")
