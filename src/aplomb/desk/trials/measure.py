"""Measure: a trial's sheet, entered in a minute by keyboard."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QVBoxLayout, QWidget

from aplomb.core.base.texts import free_name
from aplomb.core.trials.came import came_of
from aplomb.core.trials.trial import (
    JUDGED_WORDS,
    LARGEST,
    MADE_WORDS,
    MIDDLES,
    OUTCOMES,
    PIECE_WORDS,
    Piece,
    Trial,
    check_trial,
)
from aplomb.desk.kit.fields import button, card, choice, fix_width, label, pair, row, wrapping
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.figures.local import day_text
from aplomb.work.trials.entry import (
    fan_is_open_in,
    figure_text,
    read_figure,
    read_heights,
    with_fan_on,
    with_made_figure,
    with_piece_figure,
)
from aplomb.work.trials.words import outcome_text

MOST_ROWS = 30
GROUPS = (
    ("height, mm", (("raw_mm", "raw"), ("baked_mm", "baked"), ("low_mm", "lowest"))),
    ("weight, g", (("raw_g", "raw"), ("baked_g", "baked"))),
    ("along, mm", (("raw_along_mm", "raw"), ("baked_along_mm", "baked"))),
    ("across, mm", (("raw_across_mm", "raw"), ("baked_across_mm", "baked"))),
    ("leaves", (("leaves", "counted"),)),
)
"""Columns of the pieces, in the order in which they are measured, by what they are of."""
CELL, PAIR = 44, 254


class MeasurePage(Page):
    """How a trial was made, and what came of it."""

    KEY = "measure"
    HINT = "Leave empty what you did not measure. Failed bakes are kept."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.key = ""
        self._fan_open: tuple[str, float | None] | None = None
        """Trial and oven of which nobody said if its fan was on."""
        self._rows: list[dict[str, Field]] = []
        self.which = choice("Trial")
        self.which.activated.connect(self._choose)
        self.batch = choice("Batch")
        self.batch.activated.connect(self._take_batch)
        self._body.addLayout(
            Flow(
                label("Trial", "second"),
                self.which,
                label("Batch", "second"),
                self.batch,
                spacing=6,
            )
        )
        left, right = QVBoxLayout(), QVBoxLayout()
        for side in (left, right):
            side.setSpacing(10)
        left.addWidget(self._pieces_card())
        left.addWidget(self._series_card())
        left.addWidget(self._made_card())
        left.addStretch(1)
        right.addWidget(self._came_card())
        right.addWidget(self._judged_card())
        right.addStretch(1)
        self._body.addLayout(self.two_sides(left, right, (9, 5)))
        self._body.addStretch(1)

    def in_hand(self) -> object:
        """Identity of the trial that what is typed here is for."""
        return self._session.book.path, self.key

    @property
    def trial(self) -> Trial | None:
        """The trial that is measured."""
        return self._session.store.tried.trial(self.key)

    def begin(self, target: object = None) -> None:
        """Begin with a trial; the one before, or the last one, for None."""
        tried = self._session.store.tried
        self.key = tried.key_for(target, self.key, tried.trials)

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.heights if self.trial is not None else self._back)

    # ------------------------------------------------------------------ the cards

    def _pieces_card(self) -> QFrame:
        frame, column = card(spacing=6)
        self.heights = Field("All heights", self._take_heights, self.show_error)
        self.heights.setPlaceholderText("3.4/15 3.5/16 …, or 3.4: 15 16 14.5")
        column.addLayout(row(label("All heights", "strong"), self.heights))
        self._groups: list[QGridLayout] = []
        groups = Flow(spacing=6)
        right = Qt.AlignmentFlag.AlignRight
        for at, (words, names) in enumerate(GROUPS):
            holder = QWidget()
            grid = QGridLayout(holder)
            grid.setContentsMargins(0, 0, 0, 0)
            grid.setHorizontalSpacing(4)
            grid.setVerticalSpacing(3)
            off = at == 0
            grid.addWidget(label(words, "small"), 0, off, 1, len(names), right)
            for j, (_, column_words) in enumerate(names, off):
                grid.addWidget(label(column_words, "small"), 1, j, right)
            groups.addWidget(holder)
            self._groups.append(grid)
        column.addLayout(groups)
        self.leak = Field("Fat on the tray", self._take_leak, self.show_error)
        self.failed = Field("Failed because", partial(self._take_word, "failed"), self.show_error)
        self.failed.setPlaceholderText("only if the bake failed")
        self.note = Field("Note", partial(self._take_word, "note"), self.show_error)
        fix_width(self.leak, 74)
        column.addLayout(
            row(label("Fat on the tray, g"), self.leak, label("Failed because"), self.failed)
        )
        column.addLayout(row(label("Note"), self.note))
        return frame

    def _add_row(self) -> None:
        at = len(self._rows)
        self._groups[0].addWidget(label(f"{at + 1}", "second"), at + 2, 0)
        made = {}
        for i, (_, names) in enumerate(GROUPS):
            for j, (name, _) in enumerate(names, i == 0):
                words = f"Piece {at + 1}, {PIECE_WORDS[name].partition(',')[0].lower()}"
                field = Field(
                    words, partial(self._take_figure, at, name), self.show_error, "figure"
                )
                field.setAlignment(Qt.AlignmentFlag.AlignRight)
                fix_width(field, CELL)
                self._groups[i].addWidget(field, at + 2, j)
                made[name] = field
        self._rows.append(made)

    def _made_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("How it was made", "strong"))
        fields = Flow(spacing=4)
        self.made: dict[str, Field] = {}
        for name, about in MADE_WORDS.items():
            field = Field(about.words, partial(self._take_made, name), self.show_error)
            if about.high:
                field.setAlignment(Qt.AlignmentFlag.AlignRight)
            fix_width(field, 70 if about.high else 110)
            words = f"{about.words}, {about.unit}" if about.unit else about.words
            fields.addWidget(pair(words, field, PAIR))
            self.made[name] = field
        column.addLayout(fields)
        self._fan_words = wrapping("Fan or not? It was read as without a fan.", "second")
        self._fan = button("With a fan", "", self._take_fan)
        column.addLayout(row(self._fan_words, self._fan))
        return frame

    def _series_card(self) -> QFrame:
        frame, column = card(spacing=6)
        self.series = choice("Series")
        self.series.activated.connect(self._take_series)
        self.variant = Field("Variant", partial(self._take_word, "variant"), self.show_error)
        self.variant.setPlaceholderText("e.g. 14 µm")
        self.pair = Field("Made with", partial(self._take_word, "pair"), self.show_error)
        self.pair.setPlaceholderText("same day or dough")
        self.question = Field("Question", self._take_question, self.show_error)
        self.change = choice("What you change", (a.words for a in MADE_WORDS.values()))
        self.change.activated.connect(self._take_change)
        self.matters = Field("Difference that matters", self._take_matters, self.show_error)
        fix_width(self.matters, 74)
        fields = Flow(spacing=4)
        for words, field in (
            ("Series", self.series),
            ("Question", self.question),
            ("Variant", self.variant),
            ("What you change", self.change),
            ("Made with", self.pair),
            ("Difference that matters", self.matters),
        ):
            if field is not self.matters:
                fix_width(field, 142)
            fields.addWidget(pair(words, field, PAIR))
        column.addLayout(fields)
        return frame

    def _judged_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("Look and taste", "strong"))
        self.judged: dict[str, QComboBox] = {}
        for key, (words, marks) in JUDGED_WORDS.items():
            box = choice(words, ("–", *(f"{i} {mark}" for i, mark in enumerate(marks, 1))))
            box.activated.connect(partial(self._take_mark, key))
            caption = label(words)
            fix_width(caption, 84)
            column.addLayout(row(caption, box, None))
            self.judged[key] = box
        self.middle = choice("Middle", ("–", *MIDDLES[1:]))
        self.middle.activated.connect(self._take_middle)
        caption = label("Middle")
        fix_width(caption, 84)
        column.addLayout(row(caption, self.middle, None))
        self.taste = Field("Taste", self._take_taste, self.show_error)
        caption = label("Taste")
        fix_width(caption, 84)
        column.addLayout(row(caption, self.taste))
        return frame

    def _came_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("Results", "strong"))
        self.came = FigureTable("Results", 3, 40)
        self._words = wrapping("", "second")
        self.picture = button(
            "Photograph…", "", lambda: self.asked.emit("picture", self.key), "Alt+Shift+P"
        )
        column.addWidget(self.came)
        column.addWidget(self._words)
        column.addLayout(row(self.picture, None))
        return frame

    # ------------------------------------------------------------------ shown

    def refresh(self) -> None:
        """Show the trial."""
        self._show_choices()
        trial = self.trial
        for field in (
            self.heights,
            self.leak,
            self.failed,
            self.note,
            self.variant,
            self.pair,
            self.taste,
            *self.made.values(),
        ):
            field.setEnabled(trial is not None)
        if trial is None:
            self.show_error("No trial yet. Choose “New trial” (Ctrl+Shift+N) to start one.")
            return
        self._show_pieces(trial)
        self.leak.show_value(figure_text(trial.leak_g, "g"))
        self.failed.show_value(trial.failed)
        self.note.show_value(trial.note)
        self.variant.show_value(trial.variant)
        self.pair.show_value(trial.pair)
        self.taste.show_value(trial.judged.taste)
        for name, field in self.made.items():
            value = getattr(trial.made, name)
            unit = MADE_WORDS[name].unit
            field.show_value(value if isinstance(value, str) else figure_text(value, unit))
        asked = self._fan_open == (trial.key, trial.made.bake_c)
        self._fan_words.setVisible(asked)
        self._fan.setVisible(asked)
        for key, box in self.judged.items():
            box.setCurrentIndex(getattr(trial.judged, key))
        self.middle.setCurrentIndex(MIDDLES.index(trial.judged.middle))
        self._show_series(trial)
        self._show_came(trial)

    def _show_choices(self) -> None:
        tried = self._session.store.tried
        wanted = [t.key for t in reversed(tried.trials)]
        texts = [
            f"{t.at[:10]} {t.variant or t.product or t.formula}"[:60]
            for t in reversed(tried.trials)
        ]
        if [self.which.itemText(i) for i in range(self.which.count())] != texts or (
            [self.which.itemData(i) for i in range(self.which.count())] != wanted
        ):
            self.which.clear()
            for text, key in zip(texts, wanted, strict=True):
                self.which.addItem(text, key)
        self.which.setCurrentIndex(self.which.findData(self.key))
        made_batches = self._session.reference.made_batches
        keys = [r.key for r in reversed(made_batches)]
        if [self.batch.itemData(i) for i in range(self.batch.count())] != keys:
            self.batch.clear()
            for r in reversed(made_batches):
                self.batch.addItem(f"{r.formula[:40]}, {r.begun[:16].replace('T', ' ')}", r.key)
        trial = self.trial
        self.batch.setCurrentIndex(self.batch.findData(trial.batch) if trial else -1)

    def _show_pieces(self, trial: Trial) -> None:
        wanted = min(MOST_ROWS, max(4, len(trial.pieces) + 1))
        while len(self._rows) < wanted:
            self._add_row()
        for i, fields in enumerate(self._rows):
            piece = trial.pieces[i] if i < len(trial.pieces) else Piece()
            for name, field in fields.items():
                field.show_value(figure_text(getattr(piece, name), LARGEST[name][2]))

    def _show_series(self, trial: Trial) -> None:
        tried = self._session.store.tried
        keys = ["", *(s.key for s in tried.series)]
        names = ["none", *(s.name for s in tried.series)]
        if [self.series.itemData(i) for i in range(self.series.count())] != keys or names != [
            self.series.itemText(i) for i in range(self.series.count())
        ]:
            self.series.clear()
            for name, key in zip(names, keys, strict=True):
                self.series.addItem(name, key)
        self.series.setCurrentIndex(max(0, self.series.findData(trial.series)))
        series = tried.one_series(trial.series)
        for each in (self.question, self.change, self.matters):
            each.setEnabled(series is not None)
        if series is not None:
            self.question.show_value(series.question)
            keys = list(MADE_WORDS)
            self.change.setCurrentIndex(keys.index(series.change) if series.change in keys else -1)
            self.matters.show_value(figure_text(series.matters or None, ""))
            kind = OUTCOMES[series.outcome]
            self.matters.setPlaceholderText(outcome_text(series.outcome, kind.matters))

    def _show_came(self, trial: Trial) -> None:
        rows = [Row("", ("average", "±", "of"), "head")]
        for key, kind in OUTCOMES.items():
            came = came_of(trial, key)
            if came is not None:
                scatter = outcome_text(key, came.scatter, bare=True)
                spec = ".0f" if key in JUDGED_WORDS else ""
                cells = outcome_text(key, came.mean, spec), scatter, f"{came.n}"
                rows.append(Row(kind.words, cells))
        self.came.show_rows(tuple(rows) if len(rows) > 1 else ())
        day = trial.at[:10]
        if trial.failed:
            self._words.setText("This bake failed. It is kept, but nothing is learned from it.")
        elif len(rows) == 1:
            self._words.setText("Nothing measured yet.")
        else:
            self._words.setText(f"{trial.formula}, {day_text(day)}")

    # ------------------------------------------------------------------ taken

    def _put(self, words: str, trial: Trial) -> None:
        self._session.store.put_trials(words, [check_trial(trial)])

    def _take_figure(self, at: int, name: str, text: str) -> None:
        trial = self.trial
        if trial is not None:
            self._put(f"piece {at + 1} measured", with_piece_figure(trial, at, name, text))

    def _take_heights(self, text: str) -> None:
        trial = self.trial
        if trial is None or not text.strip():
            return
        pieces = (*trial.pieces, *read_heights(text))
        self._put("heights", replace(trial, pieces=pieces))
        self.heights.show_value("")

    def _take_leak(self, text: str) -> None:
        trial = self.trial
        if trial is not None:
            self._put("fat on the tray", replace(trial, leak_g=read_figure(text, "leak_g", "g")))

    def _take_word(self, field: str, text: str) -> None:
        trial = self.trial
        if trial is not None:
            self._put(field, replace(trial, **{field: text.strip()[:200]}))

    def _take_made(self, name: str, text: str) -> None:
        trial = self.trial
        if trial is None:
            return
        made = with_made_figure(trial.made, name, text)
        if name == "bake_c":
            self._fan_open = (trial.key, made.bake_c) if fan_is_open_in(text) else None
        self._put(MADE_WORDS[name].words.lower(), replace(trial, made=made))

    def _take_fan(self) -> None:
        trial = self.trial
        if trial is not None:
            self._fan_open = None
            self._put("baked with a fan", replace(trial, made=with_fan_on(trial.made)))
            self.made["bake_c"].setFocus()

    def _take_mark(self, key: str, at: int) -> None:
        trial = self.trial
        if trial is not None:
            self._put(
                JUDGED_WORDS[key][0].lower(),
                replace(trial, judged=replace(trial.judged, **{key: at})),
            )

    def _take_middle(self, at: int) -> None:
        trial = self.trial
        if trial is not None:
            self._put("middle", replace(trial, judged=replace(trial.judged, middle=MIDDLES[at])))

    def _take_taste(self, text: str) -> None:
        trial = self.trial
        if trial is not None:
            judged = replace(trial.judged, taste=text.strip()[:200])
            self._put("taste", replace(trial, judged=judged))

    def _take_series(self, _at: int) -> None:
        trial = self.trial
        if trial is not None:
            self._put("series", replace(trial, series=self.series.currentData() or ""))

    def _take_batch(self, _at: int) -> None:
        trial = self.trial
        if trial is not None and self.batch.currentData():
            self._put("batch", replace(trial, batch=self.batch.currentData()))

    def _put_series(self, words: str, **changes: object) -> None:
        trial = self.trial
        series = self._session.store.tried.one_series(trial.series) if trial else None
        if series is not None:
            self._session.store.put_trials(words, (), (replace(series, **changes),))

    def _take_question(self, text: str) -> None:
        trial = self.trial
        series = self._session.store.tried.one_series(trial.series) if trial else None
        changes: dict[str, object] = {"question": text.strip()[:300]}
        if series is not None and series.name.startswith("New series") and text.strip():
            taken = {s.name for s in self._session.store.tried.series}
            changes["name"] = free_name(text.strip().rstrip("?")[:60], taken)
        self._put_series("question", **changes)

    def _take_change(self, at: int) -> None:
        self._put_series("what you change", change=list(MADE_WORDS)[at])

    def _take_matters(self, text: str) -> None:
        value = read_figure(text, "matters", "")
        self._put_series("difference that matters", matters=value or 0.0)

    def _choose(self, _at: int) -> None:
        self._session.work.news.leaving()
        self.key = self.which.currentData() or ""
        self.refresh()
