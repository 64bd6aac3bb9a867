"""Paste a list of ingredients; accept its lines one by one."""

import sys
from functools import partial
from typing import get_args

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QPlainTextEdit,
    QSizePolicy,
    QWidget,
)

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import decimal_sign, weight_text
from aplomb.core.base.quantity import LARGEST_G
from aplomb.core.base.units import MEASURES_SHORT, Kind, Measures
from aplomb.core.lists.proposal import Proposal, understood
from aplomb.core.lists.reading import MOST_LINES, left_out, measures_of, read_list, set_aside
from aplomb.core.lists.shares import flour_of
from aplomb.core.paste.formula import (
    PART_NAMES,
    SMALLEST_G,
    Formula,
    Part,
    flour_grams,
    paste_grams,
)
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry
from aplomb.desk.kit.fields import (
    button,
    card,
    label,
    let_go,
    plain_tip,
    wrapping,
)
from aplomb.desk.kit.find_field import ask_material
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.timers import single_shot
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.edits.lines import measures_in
from aplomb.work.open_book.shelf import first_formula

EXAMPLE = """2 1/4 cups (280 g) plain flour
1 tsp salt
½ cup iced water
250 g unsalted butter, cold"""
OTHER = "another…"
READ_AFTER_MS = 250


class ProposalRow:
    """One line of the list: what it says, what was understood, and whether it is taken."""

    def __init__(self, owner: "ListPage", at: int, proposal: Proposal) -> None:
        self.proposal = proposal
        self.frame = QFrame()
        self.raw: QLabel = label(proposal.raw, "second")
        self.raw.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.raw.setToolTip(plain_tip(proposal.raw))
        self.amount: QLabel = label("", "strong")
        self.amount.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.material, self.part = QComboBox(), QComboBox()
        for combo in (self.material, self.part):
            combo.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            combo.setMinimumContentsLength(4)
        pantry = owner.pantry
        for key in proposal.candidates:
            self.material.addItem(pantry[key].name, key)
        if not proposal.candidates:
            self.material.addItem("choose …", "")
        self.material.addItem(OTHER, "")
        self.material.setAccessibleName(f"Ingredient of “{proposal.raw[:40]}”")
        self.material.activated.connect(partial(owner.material_chosen, at))
        for part in Part:
            self.part.addItem(PART_NAMES[part], part.value)
        self.part.setCurrentIndex(self.part.findData(proposal.part.value))
        self.part.setAccessibleName(f"Part of “{proposal.raw[:40]}”")
        self.part.activated.connect(lambda _i: owner.show_amounts())
        self.take = button("Accept", "", partial(owner.accept, at))
        self.take.setAccessibleName(f"Accept {proposal.raw[:40]}")
        self.doubts = wrapping("; ".join(proposal.doubts), "look")
        self.taken = False

    @property
    def key(self) -> str:
        """Key of the chosen material; empty when none is."""
        return str(self.material.currentData() or "")

    def widgets(self) -> tuple[QWidget, ...]:
        """In the order of the columns."""
        return (self.raw, self.material, self.part, self.amount, self.take)


class ListPage(Page):
    """From a list on the clipboard to lines of the formula, nothing silently guessed."""

    KEY = "list"
    HINT = "One ingredient per line, as in a notebook, an email or a table."

    def __init__(self, session: Session) -> None:
        self.rows: list[ProposalRow] = []
        self._was_narrow = False
        self._unread = ""
        """What the reader itself failed at."""
        self._aside: tuple[str, ...] = ()
        """Lines that are no ingredients."""
        self._stale = False
        """True while another text stands there than the one that was read."""
        self._uid = session.uid
        self._chosen: Measures | None = None
        """Cups and spoons chosen for this list; None for what the list or the house says."""
        super().__init__(session)
        self.text = QPlainTextEdit()
        self.text.setPlaceholderText(EXAMPLE)
        self.text.setAccessibleName("The list, one ingredient per line")
        self.text.setTabChangesFocus(True)
        self.text.setFixedHeight(look.theme.px(138))
        self._timer = single_shot(self, READ_AFTER_MS)
        self._timer.timeout.connect(self.read)
        self.text.textChanged.connect(self._text_changed)
        self._body.addWidget(self.text)
        frame, column = card()
        self._words = wrapping("", "strong")
        self.sure = button("", "main", self.accept_sure)
        self._clear = button("Clear the formula first", "quiet", self._empty_formula)
        column.addWidget(self._words)
        self.cups = QComboBox()
        self.cups.setAccessibleName("Cups and spoons of the list")
        for key in get_args(Measures):
            self.cups.addItem(MEASURES_SHORT[key], key)
        self.cups.activated.connect(self._choose_cups)
        self._why_cups = wrapping("", "second")
        self.as_written = QCheckBox("Set the batch to what the list makes")
        self.as_written.setToolTip(
            "Sets the batch to the paste that the accepted lines make. The starting "
            "lines of a new formula are replaced by the list."
        )
        column.addLayout(Flow(self._clear, self.cups, self.sure, spacing=8))
        column.addWidget(self.as_written)
        column.addWidget(self._why_cups)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(3)
        column.addLayout(self._grid)
        self._body.addWidget(frame)
        self._body.addStretch(1)
        self.as_written.setChecked(self._untouched)
        self.read()

    def _look_changed(self) -> None:
        super()._look_changed()
        self.text.setFixedHeight(look.theme.px(138))

    @property
    def pantry(self) -> Pantry:
        """The pantry as it is now."""
        return self._session.reference.pantry

    def begin(self, _target: object) -> None:
        """Begin with what is on the clipboard, when that looks like a list."""
        self._empty_for_another()
        if self.rows and all(each.taken for each in self.rows):
            self._chosen = None
            self.text.clear()  # that list is done; the next one starts empty
            self.read()
        if self.text.toPlainText().strip():
            return
        text = QApplication.clipboard().text()
        if "\n" in text.strip() and any(ch.isdigit() for ch in text) and len(text) < 20_000:
            self.text.setPlainText(text)
            self.read()

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.text)

    def refresh(self) -> None:
        """Show the lines against the formula in hand; another one begins with an empty list."""
        self._empty_for_another()
        self.show_amounts()

    def _empty_for_another(self) -> None:
        if self._session.uid == self._uid:
            return
        self._uid = self._session.uid
        self._chosen = None
        self.text.clear()
        self.as_written.setChecked(self._untouched)
        self.read()

    @property
    def _untouched(self) -> bool:
        """True while the formula in hand has only the lines that a new one begins with, or none."""
        formula = self._session.formula
        if formula is None:
            return False
        return not formula.all_lines() or formula.all_lines() == first_formula("").all_lines()

    def _measures(self, text: str) -> Measures:
        """Which cups and spoons the list means: as chosen, as it says itself, or the house's."""
        told = measures_of(text)
        own = measures_in(self._session.formula) or self._session.reference.house.measures
        self._why_cups.setText("")
        if self._chosen is None and told is not None and told[0] != own:
            self._why_cups.setText(
                f"The list mentions {told[1]}, so these are used: {MEASURES_SHORT[told[0]]}."
            )
        self._why_cups.setVisible(bool(self._why_cups.text()))
        return self._chosen or (told[0] if told else own)

    def _text_changed(self) -> None:
        """What was read before is another text: nothing of it can be accepted."""
        self._stale = True
        self._timer.start()
        self.sure.setEnabled(False)
        for each in self.rows:
            each.take.setEnabled(False)

    def _understood(self, text: str, measures: Measures) -> tuple[Proposal, ...]:
        """Read a text; a line at which the reader itself fails is told, and nothing is offered."""
        try:
            found = read_list(text, self.pantry, decimal_sign(), measures)
        except Exception as error:  # noqa: BLE001  # whatever it is, the old reading must not stay
            sys.excepthook(type(error), error, error.__traceback__)
            self._unread = f"{self._fallen(text, measures)} Write it in other words."
            return ()
        self._unread = ""
        self._aside = set_aside(text, self.pantry)
        return found

    def _fallen(self, text: str, measures: Measures) -> str:
        for line in text.splitlines():
            try:
                read_list(line, self.pantry, decimal_sign(), measures)
            except Exception:  # noqa: BLE001  # this one it is
                return f"“{line.strip()[:60]}” could not be read."
        return "This list could not be read."

    def read(self) -> None:
        """Read the list anew."""
        if QApplication.activeModalWidget() is not None:  # a row has asked for a material
            self._timer.start()
            return
        self._timer.stop()
        text = self.text.toPlainText()
        if not text.strip():
            self._chosen = None
        measures = self._measures(text)
        self.cups.setCurrentIndex(self.cups.findData(measures))
        found = self._understood(text, measures)
        self._stale = False
        for each in self.rows:
            let_go(self._grid, *each.widgets(), each.doubts)
        self.rows = [ProposalRow(self, at, proposal) for at, proposal in enumerate(found)]
        self.sure.setEnabled(True)
        self._lay()
        before: QWidget = self.text
        for widget in (self._clear, self.cups, self.sure, self.as_written):
            QWidget.setTabOrder(before, widget)
            before = widget
        for each in self.rows:
            for widget in (each.material, each.part, each.take):
                QWidget.setTabOrder(before, widget)
                before = widget
        self.show_amounts()

    def arrange(self) -> None:
        """What the list says stands above what was understood when the page is narrow."""
        super().arrange()
        if self.narrow != self._was_narrow:
            self._lay()

    def _lay(self) -> None:
        self._was_narrow = self.narrow
        for at, each in enumerate(self.rows):
            raw, *others = each.widgets()
            first = 0 if self.narrow else 1
            self._grid.addWidget(raw, 3 * at, 0, 1, 4 if self.narrow else 1)
            for column, widget in enumerate(others):
                self._grid.addWidget(widget, 3 * at + 1 - first, column + first)
            self._grid.addWidget(each.doubts, 3 * at + 2, 0, 1, 5)
            each.doubts.setVisible(bool(each.proposal.doubts))
        for column, stretch in enumerate((4, 3, 0, 0, 0) if self.narrow else (5, 4, 3, 0, 0)):
            self._grid.setColumnStretch(column, stretch)

    def _flour_g(self) -> float | None:
        """Flour that percentages of the list stand on: its own, else the formula's."""
        own = flour_of(tuple(each.proposal for each in self.rows), self.pantry)
        if own is not None:
            return own
        formula = self._session.formula
        return flour_grams(formula, self.pantry) if formula else None

    def _grams(self, each: ProposalRow) -> float | None:
        if not each.key:
            return None
        known = understood(each.proposal, self.pantry[each.key], self._flour_g())
        if known is not None:
            return known.grams
        return 0.0 if each.proposal.amount is None else None

    def show_amounts(self) -> None:
        """Show the grams each line comes to with what is chosen now."""
        sure = 0
        for each in self.rows:
            grams = self._grams(each)
            words = "–" if grams is None else weight_text(grams)
            if each.key and grams is not None:
                known = understood(each.proposal, self.pantry[each.key], self._flour_g())
                if known is not None and known.spread_pct >= 1:
                    words += f" ± {known.spread_pct:.0f} %"
                if known is not None:
                    each.amount.setToolTip(
                        plain_tip(
                            f"{known.said}: {weight_text(known.low_g)} to "
                            f"{weight_text(known.high_g)}"
                        )
                    )
            each.amount.setText("accepted" if each.taken else words)
            each.take.setEnabled(not each.taken and grams is not None)
            each.take.setText("✓" if each.taken else "Accept")
            each.material.setEnabled(not each.taken)
            each.part.setEnabled(not each.taken)
            sure += each.proposal.sure and not each.taken and grams is not None
        self.sure.setText(
            f"Accept the {sure} certain lines" if sure != 1 else "Accept the certain line"
        )
        self.sure.setVisible(sure > 0)
        formula = self._session.formula
        self._clear.setVisible(bool(formula and formula.all_lines() and self.rows))
        self.as_written.setVisible(bool(self.rows))
        left = sum(not each.taken for each in self.rows)
        count = len(self.rows)
        self._words.setText(
            (f"1 line, {left} to accept." if count == 1 else f"{count} lines, {left} to accept.")
            if self.rows
            else "Nothing read yet. Press Ctrl+V to paste a list here."
        )
        if self._aside:
            told = ", ".join(f"“{line[:30]}”" for line in self._aside[:3])
            more = f" and {len(self._aside) - 3} more" if len(self._aside) > 3 else ""
            self._words.setText(f"{self._words.text()} Not ingredients: {told}{more}.")
        beyond = left_out(self.text.toPlainText(), self._session.reference.pantry)
        self.show_error(
            self._unread
            if not beyond
            else f"The last line was not read: a list can have {MOST_LINES} lines at a time. "
            "Accept these, then paste the rest."
            if beyond == 1
            else f"The last {beyond} lines were not read: a list can have {MOST_LINES} lines at a "
            "time. Accept these, then paste the rest."
        )

    def _choose_cups(self, at: int) -> None:
        self._chosen = self.cups.itemData(at)
        self.read()

    def material_chosen(self, at: int, choice: int) -> None:
        """Take the chosen material, or ask for another one."""
        each = self.rows[at]
        if each.material.itemText(choice) == OTHER:
            key = ask_material(self.window(), self.pantry, f"Instead of “{each.proposal.raw[:40]}”")
            if each not in self.rows:
                return
            if key:
                each.material.insertItem(0, self.pantry[key].name, key)
            each.material.setCurrentIndex(0)
        self.show_amounts()

    def _with(self, formula: Formula, each: ProposalRow, grams: float) -> Formula:
        part = Part(each.part.currentData())
        amount = each.proposal.amount
        typed = ""
        if amount is not None and (amount.kind is Kind.VOLUME or amount.also or amount.spread):
            typed = each.proposal.amount_text
            if self.cups.currentData() != self._session.reference.house.measures:
                typed = amount.said_twice
        line = Line(each.key, round(grams, 4), each.proposal.note[:80], typed)
        return formula.with_lines(part, (*formula.lines(part), line))

    def _take(self, rows: list[ProposalRow], words: str) -> None:
        formula = self._session.formula
        if formula is None:
            return
        as_written = self.as_written.isChecked()
        if as_written and self._untouched:
            formula = _bare(formula)
        taken = []
        for each in rows:
            grams = self._grams(each)
            if grams is not None and not each.taken:
                formula = self._with(formula, each, grams)
                taken.append(each)
        paste_g = paste_grams(formula)
        if as_written and SMALLEST_G <= paste_g <= LARGEST_G:
            batch = replace(formula.batch, fixed="written", times=1.0)
            formula = replace(formula, batch=batch)
        try:
            self._session.shelf.change(words, formula)
        except AplombError as error:
            self.show_error(str(error))
            return
        self.show_error("")
        for each in taken:
            each.taken = True
        self.show_amounts()

    def accept(self, at: int) -> None:
        """Accept one line and go on to the next."""
        if self._stale or at >= len(self.rows):
            return
        each = self.rows[at]
        name = self.pantry[each.key].name if each.key else ""
        self._take([each], f"add {name}")
        for other in self.rows[at + 1 :]:
            if not other.taken:
                other.take.setFocus(Qt.FocusReason.TabFocusReason)
                return
        self.first_focus(self._back)

    def accept_sure(self) -> None:
        """Accept every line that is certain, as one change."""
        if self._stale:
            return
        sure = [each for each in self.rows if each.proposal.sure and not each.taken]
        self._take(sure, f"add {len(sure)} lines of a list")
        for each in self.rows:
            if not each.taken:
                each.material.setFocus(Qt.FocusReason.TabFocusReason)
                return
        self.first_focus(self._back)

    def _empty_formula(self) -> None:
        self._session.shelf.edit("empty the formula", _bare)


def _bare(formula: Formula) -> Formula:
    return replace(formula, **{part.value: () for part in Part})
