"""Next trial: what would improve or teach most within limits, and small designs for the day."""

from functools import partial

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtWidgets import QCheckBox, QFrame, QGridLayout, QPushButton, QVBoxLayout

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import decimal_sign, house_unit, num
from aplomb.core.base.numbers import read_number
from aplomb.core.paste.formula import Formula
from aplomb.core.study.study import Reference, Study, make_study
from aplomb.core.trials.model import FACTORS, PRIORS
from aplomb.core.trials.series import Series
from aplomb.core.trials.trial import MADE_WORDS, OUTCOMES, Made, Trial
from aplomb.desk.kit.background import FaultError, LatestJob
from aplomb.desk.kit.fields import (
    button,
    card,
    choice,
    fix_width,
    give_checked,
    label,
    on_checked,
    row,
    wrapping,
)
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.figures.local import read_price
from aplomb.work.figures.typed import read_temp, read_whole
from aplomb.work.trials.lay_out import lay_out, variant_of
from aplomb.work.trials.words import made_text, outcome_text

USUAL_LIMITS = {
    "fat_leaf_um": (5.0, 25.0), "chill_min": (30.0, 120.0), "bake_c": (185.0, 215.0),
    "fat_pct": (70.0, 105.0), "block_c": (12.0, 16.0), "bake_min": (18.0, 32.0),
}  # fmt: skip
"""Limits to begin with, from what is seen in use; recalled."""
MANY, LOOKED_AT = 3, 12
HARDLY = 0.02
"""A gain that is so little of a difference worth knowing is none [-]."""


class Asked(Struct, frozen=True):
    """What is asked for."""

    trials: tuple[Trial, ...]
    outcome: str
    limits: tuple[tuple[str, float, float], ...]
    fixed: Made
    teach: bool
    most_turns: int
    most_cost: float
    formula: Formula


class Offered(Struct, frozen=True):
    """One suggestion, ready to be shown."""

    made: Made
    title: str
    why: str


def _kept_within(asked: Asked, study: Study, reference: Reference, made: Made) -> bool:
    """Tell whether a setting can be made with so many turns and at such a cost."""
    try:
        variant = variant_of(study, made, [key for key, _, _ in asked.limits])
        found = make_study(variant.formula, reference)
    except AplombError:
        return False
    if asked.most_turns and len(found.plan.turns) > asked.most_turns:
        return False
    cost = found.readings.cost_per_piece
    return not asked.most_cost or cost is None or cost <= asked.most_cost + 1e-9


def offers(asked: Asked, study: Study, reference: Reference) -> tuple[Offered, ...]:
    """Find the suggestions; beside the window.

    Raises
    ------
    AplombError
        When none can be made within the limits.
    """
    import numpy as np

    from aplomb.core.trials.model import model_of
    from aplomb.core.trials.next_trial import suggest

    model = model_of(asked.trials, asked.outcome)
    limits = {key: (low, high) for key, low, high in asked.limits}
    found = suggest(
        model, limits, asked.fixed, np.random.default_rng(17), teach=asked.teach, many=LOOKED_AT
    )
    found = tuple(one for one in found if _kept_within(asked, study, reference, one.made))[:MANY]
    if not found:
        raise AplombError(
            "Nothing can be made within these limits. Allow more turns or a higher cost."
        )
    kind = OUTCOMES[asked.outcome]
    made = []
    for one in found:
        title = ", ".join(
            f"{MADE_WORDS[k].words.lower()} {made_text(k, getattr(one.made, k))}" for k in limits
        )
        low, high = (
            outcome_text(asked.outcome, v, bare=True) for v in (one.likely.low, one.likely.high)
        )
        known = min(
            (
                abs(_units(k, getattr(r.made, k)) - _units(k, getattr(one.made, k)))
                for k in limits
                for r in model.rows
                if getattr(r.made, k) is not None
            ),
            default=9.0,
        )
        seen = (
            "little is known in that area"
            if known > 0.25
            else "it would show what works best near there"
        )
        better = outcome_text(asked.outcome, one.gain)
        gain = f"It is likely to improve your best known result by {better}"
        if one.gain < HARDLY * kind.matters:
            gain = "It can hardly beat your best: within these limits that is already well known"
        made.append(
            Offered(
                one.made,
                title[:1].upper() + title[1:],
                (
                    f"{kind.words} probably {low} to {high} (95 %). {gain}; it would cut the "
                    f"remaining doubt by {num(100 * one.teaches, '.0f')} %; {seen}."
                ),
            )
        )
    return tuple(made)


def _units(key: str, value: float) -> float:
    return next(f for f in FACTORS if f.key == key).scaled(value)


class NextTrialPage(Page):
    """Which trial to make next."""

    KEY = "next_trial"
    HINT = (
        "Within your limits, and chosen for what you would learn, not only for what looks best now."
    )

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._limits = dict(USUAL_LIMITS)
        self._on = {"fat_leaf_um"}
        self._most_turns, self._most_cost = 0, 0.0
        self._asked: Asked | None = None
        self.offered: tuple[Offered, ...] = ()
        self.job = LatestJob(self._take_offers, self, lambda: session.book.path)
        left, right = QVBoxLayout(), QVBoxLayout()
        for side in (left, right):
            side.setSpacing(10)
        left.addWidget(self._limits_card())
        left.addWidget(self._design_card())
        left.addStretch(1)
        right.addWidget(self._offers_card())
        right.addStretch(1)
        self._body.addLayout(self.two_sides(left, right, (1, 1)))
        self._body.addStretch(1)

    def _limits_card(self) -> QFrame:
        frame, column = card(spacing=6)
        self.outcome = choice("Result", (OUTCOMES[key].words for key in PRIORS))
        self.goal = choice("Aim", ("the best result", "learning the most"))
        for each in (self.outcome, self.goal):
            each.activated.connect(lambda _i: self.refresh())
        column.addLayout(
            Flow(
                label("Aim for", "second"),
                self.goal,
                label("Result", "second"),
                self.outcome,
                spacing=6,
            )
        )
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(0, 1)
        self.boxes: dict[str, QCheckBox] = {}
        self.ends: dict[tuple[str, int], Field] = {}
        for i, factor in enumerate(FACTORS):
            about = MADE_WORDS[factor.key]
            box = QCheckBox(f"{about.words}, {about.unit}")
            on_checked(box, partial(self._switch, factor.key))
            grid.addWidget(box, i, 0)
            for side, word in enumerate(("from", "to")):
                field = Field(
                    f"{about.words}, {word}",
                    partial(self._take_end, factor.key, side),
                    self.show_error,
                )
                fix_width(field, 70)
                grid.addWidget(label(word, "second"), i, 1 + 2 * side)
                grid.addWidget(field, i, 2 + 2 * side)
                self.ends[factor.key, side] = field
            self.boxes[factor.key] = box
        column.addLayout(grid)
        self.turns = Field("Maximum turns", self._take_turns, self.show_error)
        self.cost = Field("Maximum cost per piece", self._take_cost, self.show_error)
        for field in (self.turns, self.cost):
            field.setPlaceholderText("any")
            fix_width(field, 60)
        column.addLayout(
            Flow(
                label("Maximum turns"),
                self.turns,
                label("Maximum cost per piece"),
                self.cost,
                spacing=6,
            )
        )
        column.addWidget(
            wrapping(
                (
                    "Allergens and types of fat stay as in the formula. Anything not ticked "
                    "stays as you make it now."
                ),
                "second",
            )
        )
        return frame

    def _design_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("Plan a set of trials", "strong"))
        column.addWidget(
            wrapping(
                (
                    "Tries the lowest and highest value of one or two ticked lines. Every "
                    "baker makes all of them every day, in random order, so differences "
                    "between days and bakers cancel out."
                ),
                "second",
            )
        )
        self.days = Field("Days", self._take_days, self.show_error)
        self.days.show_value("2")
        self.bakers = Field("Bakers", lambda _t: None, self.show_error)
        self.bakers.setPlaceholderText("initials, e.g. R M")
        fix_width(self.days, 50)
        fix_width(self.bakers, 110)
        self.draw = button("Plan the trials", "", self._design)
        column.addLayout(
            Flow(label("days"), self.days, label("bakers"), self.bakers, self.draw, spacing=6)
        )
        self.plan = wrapping("")
        column.addWidget(self.plan)
        return frame

    def _offers_card(self) -> QFrame:
        frame, column = card(spacing=8)
        column.addWidget(label("Suggested trials", "title"))
        self._state = wrapping("", "second")
        column.addWidget(self._state)
        self._rows: list[tuple[object, object, QPushButton]] = []
        for i in range(MANY):
            title, why = wrapping("", "strong"), wrapping("", "second")
            act = button("Add to the day", "", partial(self._lay, i))
            column.addWidget(title)
            column.addWidget(why)
            column.addLayout(row(act, None))
            self._rows.append((title, why, act))
        self.pieces = Field("Pieces of each", self._take_pieces, self.show_error)
        self.pieces.show_value("12")
        fix_width(self.pieces, 60)
        column.addLayout(row(label("pieces of each"), self.pieces, None))
        self._done = wrapping("")
        column.addWidget(self._done)
        self.to_day = button(
            "Go to the day’s demand", "quiet", lambda: self.asked.emit("demand", None)
        )
        column.addLayout(row(self.to_day, None))
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.goal)

    # ------------------------------------------------------------------ shown

    def _series(self) -> Series | None:
        uid = self._session.uid
        mine = [s for s in self._session.store.tried.series if s.uid == uid]
        return mine[-1] if mine else None

    def refresh(self) -> None:
        """Ask for suggestions beside, and show the limits."""
        for key, box in self.boxes.items():
            give_checked(box, key in self._on)
            unit = house_unit(MADE_WORDS[key].unit)
            box.setText(f"{MADE_WORDS[key].words}, {unit}")
            for side in (0, 1):
                field = self.ends[key, side]
                field.setEnabled(key in self._on)
                field.show_value(made_text(key, self._limits[key][side]).partition(" ")[0])
        study = self._session.study
        if study is None:
            return
        from aplomb.work.trials.begin import made_of

        fixed = replace(made_of(study, self._session.reference.house), fat_kind="")
        asked = Asked(
            self._session.store.tried.trials,
            list(PRIORS)[max(0, self.outcome.currentIndex())],
            tuple((k, *self._limits[k]) for k in USUAL_LIMITS if k in self._on),
            fixed,
            self.goal.currentIndex() == 1,
            self._most_turns,
            self._most_cost,
            study.formula,
        )
        if asked == self._asked:
            return
        self._asked = asked
        self.offered = ()
        self._show_offers(
            "Searching …" if asked.limits else "Tick at least one thing that may change."
        )
        if asked.limits:
            reference = self._session.reference
            self.job.ask(lambda: offers(asked, study, reference))
        else:
            self.job.forget()

    def _take_offers(self, found: "tuple[Offered, ...] | AplombError") -> None:
        if isinstance(found, AplombError):
            self._show_offers("" if isinstance(found, FaultError) else str(found))
            return
        self.offered = found
        n = len(self._session.store.tried.trials)
        few = "" if n >= 8 else f" With only {n} trials, this rests mostly on rules of thumb."
        self._show_offers("Best first, each clearly different from those above." + few)

    def _show_offers(self, words: str) -> None:
        self._state.setText(words)
        for i, (title, why, act) in enumerate(self._rows):
            there = i < len(self.offered)
            title.setText(f"{i + 1}. {self.offered[i].title}" if there else "")  # type: ignore[attr-defined]
            why.setText(self.offered[i].why if there else "")  # type: ignore[attr-defined]
            if act.hasFocus() and not there:
                self.goal.setFocus()
            act.setVisible(there)

    # ------------------------------------------------------------------ taken

    def _switch(self, key: str, on: object) -> None:
        self._on = self._on | {key} if on else self._on - {key}
        self.refresh()

    def _take_end(self, key: str, side: int, text: str) -> None:
        unit = MADE_WORDS[key].unit
        value = (
            read_temp(text)
            if unit == "°C"
            else read_number(text.strip().removesuffix(unit).strip(), decimal_sign())
        )
        about = MADE_WORDS[key]
        if not about.low <= value <= about.high:
            raise AplombError(f"use {about.low:g} to {about.high:g} {about.unit}")
        ends = list(self._limits[key])
        ends[side] = value
        self._limits[key] = (ends[0], ends[1])
        self.refresh()

    def _take_turns(self, text: str) -> None:
        self._most_turns = read_whole(text) if text.strip() else 0
        self.refresh()

    def _take_cost(self, text: str) -> None:
        currency = self._session.reference.house.currency
        self._most_cost = read_price(text, currency) if text.strip() else 0.0
        self.refresh()

    def _take_days(self, text: str) -> None:
        if not 1 <= read_whole(text) <= 10:
            raise AplombError("enter 1 to 10 days")

    def _take_pieces(self, text: str) -> None:
        if not 1 <= read_whole(text) <= 5000:
            raise AplombError("enter how many pieces of each, 1 to 5000")

    def _lay(self, at: int) -> None:
        if at < len(self.offered) and self._asked is not None:
            self._lay_out([self.offered[at].made])

    def _lay_out(self, settings: list[Made]) -> None:
        if self._asked is None or not self.pieces.commit():
            return
        keys = [key for key, _, _ in self._asked.limits]
        work = self._session.work
        series = self._series()
        try:
            series = series or self._new_series(keys[0])
            told = lay_out(work, series, settings, keys, read_whole(self.pieces.text() or "12"))
        except AplombError as error:
            self.show_error(str(error))
            return
        finally:
            uid = series.uid if series is not None else ""
            if uid in work.shelf.entries:
                work.shelf.select(uid)
        self.show_error("")
        self._done.setText("\n".join(told))
        work.news.said(f"{len(told)} added to the day. Ctrl+Z undoes them one by one.")

    def _new_series(self, change: str) -> Series:
        """Begin a series of the formula in hand."""
        from aplomb.book.book import new_uid, now

        name = self._session.formula.name if self._session.formula else "the formula"
        outcome = self._asked.outcome if self._asked is not None else "lift"
        made = Series(
            new_uid()[:16],
            f"Trials of {name}"[:80],
            uid=self._session.uid,
            change=change,
            outcome=outcome,
            begun=now()[:10],
        )
        self._session.store.put_trials(f"series {made.name}", (), (made,))
        return made

    def _design(self) -> None:
        import numpy as np

        from aplomb.core.trials.next_trial import design

        if self._asked is None or not (self.days.commit() and self.bakers.commit()):
            return
        levels = {key: (low, high) for key, low, high in self._asked.limits}
        hands = tuple(dict.fromkeys(self.bakers.text().replace(",", " ").split()))[:6]
        try:
            runs = design(
                levels,
                read_whole(self.days.text() or "1"),
                hands,
                self._asked.fixed,
                np.random.default_rng(),
            )
        except AplombError as error:
            self.show_error(str(error))
            return
        self.show_error("")
        lines = []
        for run in runs:
            what = ", ".join(made_text(k, getattr(run.made, k)) for k in levels)
            who = f" {run.baker}" if run.baker else ""
            lines.append(f"Day {run.day}{who}, no. {run.place}: {what}")
        self.plan.setText("\n".join(lines))
        settings = list(dict.fromkeys(replace(run.made, baker="") for run in runs))
        self._lay_out(settings)
