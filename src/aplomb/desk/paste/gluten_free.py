"""Gluten-free: choose a flour family, a binder and the water once; see what it becomes."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QLabel

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import decimal_sign, num, number_text
from aplomb.core.base.quantity import parse_percent
from aplomb.core.paste.blends import with_share
from aplomb.core.paste.gluten_free import (
    BINDERS,
    CAUTION,
    FAMILIES,
    USUAL_WATER_PCT,
    Converted,
    binder_for,
    to_gluten_free,
)
from aplomb.core.paste.ingredient import STANDING_WORDS, Share
from aplomb.core.paste.pantry import MOST_IN_A_BLEND
from aplomb.core.study.study import make_study
from aplomb.desk.kit.fields import button, card, fix_width, label, row, wrapping
from aplomb.desk.kit.find_field import MaterialField
from aplomb.desk.kit.typed import Field
from aplomb.desk.paste.comparison_view import ComparisonView
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page


class GlutenFreePage(Page):
    """A gluten-free variant, worked out before it is made."""

    KEY = "gluten_free"
    HINT = "Replaces wheat everywhere: dough, block, dusting, additions, finish."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.shares: list[Share] = list(FAMILIES[1].shares)
        self._binder_pct, self._water_pct = BINDERS[0].usual_pct, USUAL_WATER_PCT
        self._found: Converted | None = None
        caution = label(CAUTION, "second")
        caution.setWordWrap(True)
        self._body.addWidget(caution)
        frame, column = card()
        self._words = wrapping("", "strong")
        self._view = ComparisonView(session)
        column.addWidget(self._words)
        column.addWidget(self._view)
        self._body.addLayout(self.two_sides(self._choice_card(), frame, (2, 3)))
        self._body.addStretch(1)

    def _choice_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("Flour family", "title"))
        self._family = QComboBox()
        self._family.setAccessibleName("Flour family")
        for family in FAMILIES:
            self._family.addItem(family.name)
        self._family.setCurrentIndex(1)
        self._family.activated.connect(self._take_family)
        column.addWidget(self._family)
        self._like: QLabel = label("", "small")
        column.addWidget(self._like)
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        self.rows: list[tuple[QLabel, Field]] = []
        for at in range(MOST_IN_A_BLEND):
            name: QLabel = label("")
            share = Field("Share, percent", partial(self._take_share, at), self.show_error)
            share.setAlignment(Qt.AlignmentFlag.AlignRight)
            fix_width(share, 72)
            grid.addWidget(name, at, 0)
            grid.addWidget(share, at, 1)
            self.rows.append((name, share))
        column.addLayout(grid)
        self.add = MaterialField(lambda: self._session.reference.pantry, "Another flour or starch")
        self.add.chosen.connect(self._added)
        column.addWidget(self.add)
        self._binder = QComboBox()
        self._binder.setAccessibleName("Binder")
        pantry = self._session.reference.pantry
        for binder in BINDERS:
            self._binder.addItem(pantry[binder.material].name, binder.material)
        self._binder.addItem("no binder", "")
        self._binder.activated.connect(self._take_binder)
        self._amount = Field("Binder, percent on flour", self._take_amount, self.show_error)
        self._guide: QLabel = label("", "small")
        self._guide.setWordWrap(True)
        self._water = Field("Dough water, percent on flour", self._take_water, self.show_error)
        for field in (self._amount, self._water):
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            fix_width(field, 72)
        column.addLayout(row(self._binder, None, self._amount, label("%", "second")))
        column.addWidget(self._guide)
        column.addLayout(row(label("Dough water"), None, self._water, label("%", "second")))
        self._copy = button("Save as a new formula", "main", lambda: self._take(True))
        self._here = button("Change this one", "", lambda: self._take(False))
        column.addLayout(row(self._copy, self._here, None))
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self._family)

    def _take_family(self, at: int) -> None:
        self.shares = list(FAMILIES[at].shares)
        self.refresh()

    def _take_share(self, at: int, text: str) -> None:
        percent = parse_percent(text, decimal_sign())
        if not 0 <= percent <= 100:
            raise AmountError("enter a share of 0 to 100 %", text, 0, len(text))
        if len(self.shares) == 1 and percent < 100:
            raise AmountError("this is the only flour; add another first", text, 0, len(text))
        self.shares = list(with_share(self.shares, at, percent / 100))
        self.shares = [s for s in self.shares if s.share > 0.0005]
        self.refresh()

    def _added(self, key: str) -> None:
        material = self._session.reference.pantry[key]
        if not material.is_flour or material.has_gluten:
            why = "contains gluten" if material.has_gluten else "is not a flour"
            self.show_error(f"{material.name} {why}; choose another")
            return
        if any(s.material == key for s in self.shares):
            self.show_error(f"{material.name} is in the blend already")
            return
        if len(self.shares) >= MOST_IN_A_BLEND:
            self.show_error("a blend can have up to four flours; remove one first")
            return
        self.show_error("")
        self.shares = [replace(s, share=0.8 * s.share) for s in self.shares] + [Share(key, 0.2)]
        self.refresh()

    def _take_binder(self, at: int) -> None:
        if at < len(BINDERS):
            self._binder_pct = BINDERS[at].usual_pct
        self.refresh()

    def _take_amount(self, text: str) -> None:
        percent = parse_percent(text, decimal_sign())
        if not 0 < percent <= 20:
            raise AmountError("enter a binder above 0, up to 20 % of flour", text, 0, len(text))
        self._binder_pct = percent
        self.refresh()

    def _take_water(self, text: str) -> None:
        percent = parse_percent(text, decimal_sign())
        if not 10 <= percent <= 150:
            raise AmountError("enter dough water of 10 to 150 % of flour", text, 0, len(text))
        self._water_pct = percent
        self.refresh()

    def refresh(self) -> None:
        """Show what the formula would become."""
        study, reference = self._session.study, self._session.reference
        if study is None:
            return
        for i, (name, share) in enumerate(self.rows):
            there = i < len(self.shares)
            name.setVisible(there)
            share.setVisible(there)
            if there:
                words = reference.pantry[self.shares[i].material].name
                name.setText(words)
                share.setAccessibleName(f"Share of {words}, percent")
                share.show_value(number_text(100 * self.shares[i].share))
        family = FAMILIES[self._family.currentIndex()]
        same = tuple(self.shares) == family.shares
        self._like.setText(f"{family.words}; our suggestion" if same else "your own shares")
        binder = self._binder.currentData()
        guide = binder_for(binder)
        self._amount.setEnabled(guide is not None)
        self._amount.show_value(number_text(self._binder_pct, 2))
        self._water.show_value(number_text(self._water_pct))
        self._guide.setText(
            f"{num(guide.low_pct)} to {num(guide.high_pct)} % of flour is usual "
            f"({STANDING_WORDS[guide.standing]})"
            if guide
            else "Without a binder only eggs hold the dough."
        )
        self._found = None
        self._view.hide()
        for each in (self._copy, self._here):
            each.setEnabled(False)
        try:
            found = to_gluten_free(
                study.formula,
                reference.pantry,
                tuple(self.shares),
                binder,
                self._binder_pct,
                self._water_pct,
            )
            after = make_study(found.formula, reference, search=False, last=study.cut)
        except AplombError as error:
            self._words.setText("")
            self.show_error(str(error))
            return
        self._found = found
        if found.formula == study.formula:
            self._words.setText("This formula is already gluten-free in this way.")
            return
        left = ", ".join(found.left)
        self._words.setText(f"Still contains gluten: {left}. Replace it there." if left else "")
        self._words.setVisible(bool(left))
        self._view.show_pair(study, after)
        self._view.show()
        for each in (self._copy, self._here):
            each.setEnabled(True)

    def _take(self, as_copy: bool) -> None:
        found, formula = self._found, self._session.formula
        if found is None or formula is None:
            return
        try:
            if as_copy:
                name = f"{formula.name[:100]}, gluten-free"
                self._session.shelf.add(
                    replace(found.formula, name=name), f"{name}", self._session.uid
                )
            else:
                self._session.shelf.change("make it gluten-free", found.formula)
        except AplombError as error:
            self.show_error(str(error))
            return
        self.done.emit()
