"""Swap one material for another at equal fat, water, acid or protein: before and after."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import decimal_sign, number_text, weight_text
from aplomb.core.base.quantity import parse_percent
from aplomb.core.paste.formula import PART_NAMES, Part
from aplomb.core.paste.swap import HOLD_WORDS, Hold, Swapped, holds_for, swap
from aplomb.core.readings.choices import main_fat
from aplomb.core.study.study import make_study
from aplomb.desk.kit.fields import button, card, fix_width, label, wrapping
from aplomb.desk.kit.find_field import MaterialField
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.paste.comparison_view import ComparisonView
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page


class SwapPage(Page):
    """What goes out, what comes in, what stays equal; one action takes it."""

    KEY = "swap"
    HINT = "The dough makes up for salt and water gained or lost."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._material, self._share = "", 1.0
        self._found: Swapped | None = None
        self.line = QComboBox()
        self.line.setAccessibleName("Replace")
        self.line.activated.connect(lambda _i: self._line_chosen())
        self._with = MaterialField(lambda: session.reference.pantry, "With (type an ingredient)")
        self._with.setMinimumWidth(look.theme.px(190))
        self._with.chosen.connect(self._choose)
        self._hold = QComboBox()
        self._hold.setAccessibleName("What stays equal")
        self._hold.activated.connect(lambda _i: self.refresh())
        self.portion = Field("Share that is swapped, percent", self._take_share, self.show_error)
        self.portion.setAlignment(Qt.AlignmentFlag.AlignRight)
        fix_width(self.portion, 72)
        self.do = button("Apply", "main", self._take)
        self._body.addLayout(
            Flow(
                label("Swap", "second"),
                self.portion,
                label("% of", "second"),
                self.line,
                label("for", "second"),
                self._with,
                label("at", "second"),
                self._hold,
                self.do,
                spacing=6,
            )
        )
        frame, column = card()
        self._words = wrapping("", "strong")
        self.view = ComparisonView(session)
        column.addWidget(self._words)
        column.addWidget(self.view)
        self._body.addWidget(frame)
        self._body.addStretch(1)

    def begin(self, target: object) -> None:
        """Begin with a line, and what comes in when that is known."""
        formula = self._session.formula
        if formula is None:
            return
        self._material, self._share = "", 1.0
        self._list_lines()
        place: tuple[Part, int] | None = None
        if isinstance(target, tuple):
            place = (target[0], target[1])
            if len(target) == 4:
                self._material, self._share = str(target[2]), float(target[3])
        else:
            fat = main_fat(formula, self._session.reference.pantry)
            place = (Part.BLOCK, fat) if fat is not None else None
        self.line.setCurrentIndex(self._place_of(place) if place else 0)
        self.portion.show_value(number_text(100 * self._share))
        self._show_material()
        self._offer_holds()
        self.refresh()

    def _place_of(self, place: tuple[Part, int]) -> int:
        for i in range(self.line.count()):
            if self.line.itemData(i) == place:
                return i
        return 0

    def _list_lines(self) -> None:
        formula, pantry = self._session.formula, self._session.reference.pantry
        wanted = self.line.currentData()
        self.line.clear()
        for part, i, line in formula.all_lines() if formula else ():
            words = f"{pantry[line.material].name}, {PART_NAMES[part].lower()}"
            self.line.addItem(words, (part, i))
        if wanted is not None:
            self.line.setCurrentIndex(self._place_of(wanted))

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.do if self._found else self._with)

    def _line_chosen(self) -> None:
        self._offer_holds()
        self.refresh()

    def _choose(self, key: str) -> None:
        self._material = key
        self._show_material()
        self._offer_holds()
        self.refresh()
        self.do.setFocus(Qt.FocusReason.TabFocusReason)

    def _show_material(self) -> None:
        pantry = self._session.reference.pantry
        self._with.setText(pantry[self._material].name if self._material in pantry else "")

    def _offer_holds(self) -> None:
        pantry, formula = self._session.reference.pantry, self._session.formula
        self._hold.clear()
        place = self.line.currentData()
        if place is None or formula is None or self._material not in pantry:
            return
        old = pantry[formula.lines(place[0])[place[1]].material]
        for hold in holds_for(old, pantry[self._material]):
            self._hold.addItem(HOLD_WORDS[hold], hold)

    def _take_share(self, text: str) -> None:
        percent = parse_percent(text, decimal_sign())
        if not 0 < percent <= 100:
            raise AmountError("enter a share above 0, up to 100 %", text, 0, len(text))
        self._share = percent / 100
        self.refresh()

    def refresh(self) -> None:
        """Show what the swap would do."""
        study, reference = self._session.study, self._session.reference
        self._found = None
        if study is None:
            return
        if self.line.count() != len(study.formula.all_lines()):
            self._list_lines()
        self.portion.show_value(number_text(100 * self._share))
        place, hold = self.line.currentData(), self._hold.currentData()
        self.do.setEnabled(False)
        self.view.hide()
        self.show_error("")
        if place is None or self._material not in reference.pantry:
            self._words.setText("Choose what to replace and type what to use instead.")
            return
        part, index = place
        hold_: Hold = hold or "weight"
        try:
            found = swap(
                study.formula, reference.pantry, part, index, self._material, hold_, self._share
            )
            after = make_study(found.formula, reference, search=False, last=study.cut)
        except AplombError as error:
            self._words.setText("")
            self.show_error(str(error))
            return
        self._found = found
        out = reference.pantry[study.formula.lines(part)[index].material].name
        into = reference.pantry[self._material].name
        words = f"{weight_text(found.taken_g)} {out.lower()} out, "
        words += f"{weight_text(found.put_g)} {into.lower()} in"
        for name, change in (("water", found.water_g), ("salt", found.salt_g)):
            if abs(change) >= 0.05:
                words += f"; {weight_text(abs(change))} {name} {'more' if change > 0 else 'less'}"
        self._words.setText(words + "." + "".join(f" {each}." for each in found.short))
        self.view.show_pair(study, after)
        self.view.show()
        self.do.setEnabled(True)

    def _take(self) -> None:
        found, pantry = self._found, self._session.reference.pantry
        if found is None:
            return
        name = pantry[self._material].name.lower()
        self._material = ""
        self._session.shelf.change(f"swap for {name}", found.formula)
        self.done.emit()
