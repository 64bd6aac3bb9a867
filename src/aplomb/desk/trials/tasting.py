"""Tasting: the triangle, the preference, how many tasters, and slips with codes."""

from PySide6.QtWidgets import QFrame, QLabel, QVBoxLayout

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import decimal_sign, num
from aplomb.core.base.quantity import parse_percent
from aplomb.core.trials.tasting import (
    MOST_ON_SHEET,
    preference,
    servings,
    tasters_needed,
    triangle,
)
from aplomb.desk.kit.fields import button, card, fix_width, label, row, wrapping
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.figures.typed import read_whole

ALPHA = 0.05


class TastingPage(Page):
    """Blind tests."""

    KEY = "tasting"
    HINT = "Guessing is allowed for; the odds by chance are shown."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._figures = {"tasters": 12, "right": 0, "first": 0, "second": 0}
        self._share = 30.0
        self.fields: dict[str, Field] = {}
        left, right = QVBoxLayout(), QVBoxLayout()
        for side in (left, right):
            side.setSpacing(10)
        left.addWidget(self._triangle_card())
        left.addWidget(self._preference_card())
        left.addStretch(1)
        right.addWidget(self._many_card())
        right.addWidget(self._slips_card())
        right.addStretch(1)
        self._body.addLayout(self.two_sides(left, right, (1, 1)))
        self._body.addStretch(1)

    def _field(self, key: str, words: str) -> Field:
        def take(text: str) -> None:
            self._figures[key] = read_whole(text) if text.strip() else 0
            self.refresh()

        field = Field(words, take, self.show_error)
        fix_width(field, 60)
        self.fields[key] = field
        return field

    def _counted_card(
        self, title: str, how: str, *counts: tuple[str, str]
    ) -> tuple[QFrame, QLabel]:
        """Make a card on which tasters are counted, each by key and name, and its verdict."""
        frame, column = card(spacing=8)
        column.addWidget(label(title, "title"))
        column.addWidget(wrapping(how, "second"))
        line = Flow(spacing=6)
        for i, (key, name) in enumerate(counts):
            line.addWidget(label(f"{'  ' if i else ''}{name[0].lower()}{name[1:]}"))
            line.addWidget(self._field(key, name))
        column.addLayout(line)
        verdict = wrapping("", "strong")
        column.addWidget(verdict)
        return frame, verdict

    def _triangle_card(self) -> QFrame:
        frame, self._triangle = self._counted_card(
            "Triangle test: can they tell?",
            "Each taster gets three samples, two of them the same, and picks the odd one out.",
            ("tasters", "Tasters"),
            ("right", "Picked the odd one out"),
        )
        return frame

    def _preference_card(self) -> QFrame:
        frame, self._preference = self._counted_card(
            "Preference: which do they like better?",
            "Tasters without a preference are left out.",
            ("first", "Prefer the first"),
            ("second", "Prefer the second"),
        )
        return frame

    def _many_card(self) -> QFrame:
        frame, column = card(spacing=8)
        column.addWidget(label("How many tasters?", "title"))
        self.share = Field("Share who can taste the difference", self._take_share, self.show_error)
        fix_width(self.share, 60)
        column.addLayout(row(label("Share who can taste it, %"), self.share, None))
        self._many = wrapping("", "strong")
        column.addWidget(self._many)
        return frame

    def _slips_card(self) -> QFrame:
        frame, column = card(spacing=8)
        column.addWidget(label("Slips for the tasters", "title"))
        self.first_name = Field("First variant", lambda _t: None, self.show_error)
        self.second_name = Field("Second variant", lambda _t: None, self.show_error)
        self.first_name.setPlaceholderText("e.g. 10 µm")
        self.second_name.setPlaceholderText("e.g. 14 µm")
        column.addLayout(row(self.first_name, label("against"), self.second_name))
        column.addWidget(
            wrapping(
                (
                    "One slip per taster with three-digit codes, in all six serving orders, "
                    "and the key on its own page. Tell tasters about allergens first."
                ),
                "second",
            )
        )
        column.addLayout(row(button("Slips and key as PDF…", "main", self._slips), None))
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.fields["tasters"])

    def refresh(self) -> None:
        """Judge what was typed."""
        f = self._figures
        for key, field in self.fields.items():
            field.show_value(str(f[key]) if f[key] or key == "right" else "")
        self.share.show_value(num(self._share))
        self._triangle.setText(self._judge_triangle())
        self._preference.setText(self._judge_preference())
        try:
            needed = tasters_needed(self._share / 100, ALPHA, 0.8)
            self._many.setText(
                f"{needed} tasters: enough to show the difference four times out of five."
                if needed
                else "More than 500 tasters needed: too small a difference for a triangle test."
            )
        except AplombError as error:
            self._many.setText(str(error))

    def _judge_triangle(self) -> str:
        f = self._figures
        try:
            found = triangle(f["tasters"], f["right"], ALPHA)
        except AplombError as error:
            return str(error)
        least = (
            "even all answers right would not be enough"
            if found.least_right is None
            else f"{found.least_right} or more right answers show a difference (5 % risk of error)"
        )
        if not f["right"]:
            return f"With {f['tasters']} tasters, {least}."
        told = found.least_right is not None and f["right"] >= found.least_right
        verdict = (
            "Tasters can tell them apart"
            if told
            else "No difference shown, which does not prove they are alike"
        )
        return (
            f"{verdict}. By guessing alone, this many or more would be right "
            f"{num(100 * found.chance, '.2g')} times in 100; {least}."
        )

    def _judge_preference(self) -> str:
        f = self._figures
        if not f["first"] + f["second"]:
            return "No answers yet."
        try:
            found = preference(f["first"], f["second"], ALPHA)
        except AplombError as error:
            return str(error)
        if found.least is not None and max(f["first"], f["second"]) >= found.least:
            first = f["first"] > f["second"]
            head = "The first is liked better" if first else "The second is liked better"
        else:
            head = "No clear preference"
        return (
            f"{head}. Chance alone gives a result this one-sided "
            f"{num(100 * found.chance, '.2g')} times in 100."
        )

    def _take_share(self, text: str) -> None:
        value = parse_percent(text, decimal_sign())
        tasters_needed(value / 100, ALPHA, 0.8)
        self._share = value
        self.refresh()

    def _slips(self) -> None:
        import numpy as np

        from aplomb.desk.paper.trials import tasting_pdf

        many = self._figures["tasters"]
        if not 1 <= many <= MOST_ON_SHEET:
            self.show_error(f"Enter 1 to {MOST_ON_SHEET} tasters to print slips.")
            return
        self.show_error("")
        first = self.first_name.text().strip()[:40] or "A"
        second = self.second_name.text().strip()[:40] or "B"
        drawn = servings(many, np.random.default_rng())
        self.asked.emit(
            "trial paper",
            (
                "Tasting slips",
                f"{first} {second}",
                "pdf",
                lambda: tasting_pdf("", first, second, drawn),
            ),
        )
