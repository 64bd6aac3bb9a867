"""The Paste stage: every part of the formula, and the way to the pages that work on it."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QComboBox, QPushButton, QVBoxLayout

from aplomb.core.base.figures import celsius_range, celsius_text, number_text, weight_text
from aplomb.core.paste.formula import Part
from aplomb.core.paste.gluten_free import CAUTION
from aplomb.core.readings.choices import FatChoice, main_fat
from aplomb.core.study.study import Study
from aplomb.desk.kit.fields import button, label
from aplomb.desk.kit.flow import Flow
from aplomb.desk.paste.fat_choices import FatChoices
from aplomb.desk.paste.line_row import GRAMS
from aplomb.desk.paste.part_card import PartCard
from aplomb.desk.session import Session
from aplomb.desk.stages.stage import Stage
from aplomb.desk.stages.tools import command_button
from aplomb.work.commands import keys_of, pages_of

OPTIONAL_PARTS = (Part.DUSTING, Part.BETWEEN, Part.FILLING, Part.FINISH)
"""Parts that need not be there; one without lines waits behind a button."""


class PasteStage(Stage):
    """The formula as a formulator writes it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        inner = self._inner
        self._school = QComboBox()
        self._school.setAccessibleName("Type of paste, for the usual ranges")
        for key, school in session.reference.schools.items():
            self._school.addItem(school.name.capitalize(), key)
        self._school.activated.connect(self._take_school)
        self._batch = label("", "small")
        self.cards = {part: PartCard(session, part) for part in Part}
        for part, card in self.cards.items():
            card.swap_wanted.connect(lambda i, p=part: self.asked.emit("swap", (p, i)))
        self._wake: set[Part] = set()
        self._water = button("", "quiet", lambda: self.asked.emit("water", None), keys_of("water"))
        self._fat = button("", "quiet", lambda: self.asked.emit("fats", None), keys_of("fats"))
        self.cards[Part.DOUGH].say_beside(self._water)
        self.cards[Part.BLOCK].say_beside(self._fat)
        self.choices = FatChoices(session, self._choose_fat)
        self._more = Flow(spacing=4)
        self._more_buttons: dict[Part, QPushButton] = {}
        for part, words in zip(
            OPTIONAL_PARTS, ("Dusting", "Between the folds", "Filling", "Finish"), strict=True
        ):
            made = button(f"+ {words}", "quiet", partial(self._open_part, part))
            made.setAccessibleName(f"Add {words.lower()}")
            self._more_buttons[part] = made
            self._more.addWidget(made)
        self._more.addWidget(self._batch)
        self._caution = label(CAUTION, "small")
        self._caution.setWordWrap(True)
        self._top = Flow(label("Judged as", "second"), self._school, spacing=1)
        for page in pages_of("paste"):
            self._top.addWidget(command_button(self.asked.emit, page.key))
        self._left, self._right = QVBoxLayout(), QVBoxLayout()
        for side in (self._left, self._right):
            side.setSpacing(12)
        column = QVBoxLayout(inner)
        column.setContentsMargins(24, 10, 18, 4)
        column.setSpacing(7)
        column.addLayout(self._top)
        column.addWidget(self._caution)
        column.addLayout(self.two_sides(self._left, self._right))
        column.addStretch(1)
        self._fill_sides()
        self.refresh()

    def _fill_sides(self) -> None:
        self._left.addWidget(self.cards[Part.DOUGH])
        self._left.addWidget(self.choices)
        self._left.addStretch(1)
        for part in (Part.BLOCK, *OPTIONAL_PARTS):
            self._right.addWidget(self.cards[part])
        self._right.addLayout(self._more)
        self._right.addStretch(1)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """One column when it is narrow."""
        super().resizeEvent(event)
        QTimer.singleShot(0, self, self.refresh)

    def _take_school(self, at: int) -> None:
        key = self._school.itemData(at)
        self._session.shelf.edit(
            f"judged as {self._school.itemText(at).lower()}", lambda f: replace(f, school=key)
        )

    def _open_part(self, part: Part) -> None:
        self._wake.add(part)
        self.refresh()
        self.cards[part].add.setFocus(Qt.FocusReason.TabFocusReason)

    def _choose_fat(self, choice: FatChoice) -> None:
        formula = self._session.formula
        place = main_fat(formula, self._session.reference.pantry) if formula else None
        if place is not None:
            target = (Part.BLOCK, place, choice.material, choice.share)
            self.asked.emit("swap", target)

    def focused_line(self) -> tuple[Part, int] | None:
        """Give the line that holds the keyboard; None when it is elsewhere."""
        for part, card in self.cards.items():
            index = card.focused_line()
            if index is not None:
                return part, index
        return None

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.cards[Part.DOUGH].focus_line(0, GRAMS)

    def refresh(self) -> None:
        """Show the formula in hand."""
        study = self._session.study
        self._inner.setEnabled(study is not None)
        if study is None:
            return
        at = self._school.findData(study.formula.school)
        self._school.setCurrentIndex(at)
        scaled = study.scaled
        self._batch.setText(
            scaled.trouble
            or f"{weight_text(study.accounts.paste_g)} of paste; batch × "
            f"{number_text(scaled.factor, 3)}: {number_text(scaled.pieces, 0)} pieces"
        )
        self._caution.setVisible(study.formula.school == "gluten_free")
        for part, card in self.cards.items():
            if part in OPTIONAL_PARTS:
                there = bool(study.formula.lines(part)) or part in self._wake
                card.setVisible(there)
                self._more_buttons[part].setVisible(not there)
            card.refresh(study)
        self._show_heads(study)
        self.choices.refresh(study)

    def _show_heads(self, study: Study) -> None:
        water = study.water
        wanted = celsius_text(study.formula.dough_c)
        if water is None:
            words = ""
        elif not water.reached:
            words = f"{wanted}: cannot be reached"
        elif water.ice_g > 0 and water.only_ice:
            words = f"{wanted}: {weight_text(water.ice_g)} ice"
        else:
            words = f"{wanted}: water at {celsius_text(water.needed_c, '.0f')}"
        self._water.setText(words)
        self._water.setVisible(bool(words))
        self._water.setAccessibleName(f"Water and ice: {words}")
        fat = study.fat
        words = ""
        if fat is not None and fat.enclose_c:
            words = f"at {celsius_range(*fat.enclose_c, '–')}"
            words = f"{words}, about" if fat.is_blend else words
        self._fat.setText(words)
        self._fat.setVisible(bool(words))
        self._fat.setAccessibleName(f"Fats: {words}")
