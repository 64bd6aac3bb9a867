"""Solve for: say what is wanted and what is kept; the grams follow."""

from functools import partial
from typing import get_args

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import decimal_sign, in_measures, number_text, weight_text
from aplomb.core.base.quantity import parse_percent
from aplomb.core.base.texts import counted
from aplomb.core.paste.formula import IN_THE_PASTE, Part
from aplomb.core.study.solve import SAYS_HOW_MUCH_FAT, solve
from aplomb.core.study.study import Study, make_study
from aplomb.core.study.wanted import WANTED_WORDS, Sense, Solved, Target, Wanted
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.fields import (
    bare_mnemonic,
    button,
    card,
    fix_width,
    give_checked,
    label,
    let_go,
    on_checked,
    row,
)
from aplomb.desk.kit.find_field import ask_material
from aplomb.desk.kit.typed import Field
from aplomb.desk.paste.comparison_view import ComparisonView
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.figures.local import currency_text, read_price
from aplomb.work.figures.typed import read_mass

MOST_TARGETS = 4
MOST_LISTED = 40
"""Materials that a list offers; any other is found by typing [-]."""
OTHER = "another…"
OF_A_MATERIAL = ("material_g", "fat_share_pct")
KEEPS: tuple[tuple[Wanted, str, bool], ...] = (
    ("dough_water_pct", "dough water", True),
    ("salt_pct", "salt", True),
    ("dough_fat_pct", "fat in the dough", True),
    ("acid_pct", "acid", True),
    ("fat_product_pct", "fat on flour", False),
    ("flour_protein_pct", "protein of the flour", False),
)
"""Readings that can be kept as they are, and whether they are to begin with."""


class TargetRow:
    """One wish: what, of which material, how, how much."""

    def __init__(self, owner: "SolvePage", at: int) -> None:
        self.what, self.material, self.sense = QComboBox(), QComboBox(), QComboBox()
        for key, (words, unit) in WANTED_WORDS.items():
            self.what.addItem(f"{words}, {unit}" if unit else words, key)
        for sense in get_args(Sense):
            self.sense.addItem(sense, sense)
        self.value = Field("How much you want", partial(owner.take_value, at), owner.show_error)
        self.value.setAlignment(Qt.AlignmentFlag.AlignRight)
        fix_width(self.value, 84)
        self.amount: float | None = None
        self.out = button("Remove", "quiet", partial(owner.take_out, at))
        for combo, name in (
            (self.what, "What you want"),
            (self.material, "Of which ingredient"),
            (self.sense, "Exactly, or a limit"),
        ):
            combo.setAccessibleName(name)
            combo.setMinimumContentsLength(6)
            combo.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
        self.what.activated.connect(lambda _i: owner.what_chosen(at))
        self.sense.activated.connect(lambda _i: owner.changed())
        self.material.activated.connect(partial(owner.material_chosen, at))

    def widgets(self) -> tuple[QWidget, ...]:
        """In the order of the columns."""
        return (self.what, self.material, self.sense, self.value, self.out)


def warm_up() -> None:
    """Let the solver come before it is first asked."""
    import scipy.optimize  # noqa: F401


class SolvePage(Page):
    """Backwards: from the reading to the grams."""

    KEY = "solve"
    HINT = "Set your targets; unlocked lines change as little as possible."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._found: Solved | None = None
        self.locks: dict[tuple[Part, int], QCheckBox] = {}
        self._structure: object = None
        self._shown = 1
        self.beside = LatestJob(self._answered, self, lambda: (self.in_hand(), session.formula))
        self._warm = LatestJob(lambda _none: None, self)
        self._warm.ask(warm_up)  # the solver takes a second to come; nobody waits for it
        sides = self.two_sides(self._target_card(), self._answer_card(), (5, 4))
        self._body.addLayout(sides)
        self._body.addStretch(1)
        self.refresh()

    def _target_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("Targets", "title"))
        self._grid = grid = QGridLayout()
        grid.setHorizontalSpacing(5)
        grid.setColumnStretch(0, 4)
        grid.setColumnStretch(1, 3)
        self.rows = [TargetRow(self, at) for at in range(MOST_TARGETS)]
        for at, each in enumerate(self.rows):
            for column_, widget in enumerate(each.widgets()):
                grid.addWidget(widget, at, column_)
        column.addLayout(grid)
        self._more = button("Add a target", "quiet", self._add_target)
        column.addWidget(self._more, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(label("Keep the same", "title"))
        keeps = QGridLayout()
        self.keeps: dict[Wanted, QCheckBox] = {}
        for i, (key, words, on) in enumerate(KEEPS):
            box = QCheckBox(words)
            box.setChecked(on)
            on_checked(box, lambda _: self.changed())
            self.keeps[key] = box
            keeps.addWidget(box, i // 2, i % 2)
        column.addLayout(keeps)
        column.addWidget(label("Locked lines", "strong"))
        self._lines = QVBoxLayout()
        self._lines.setSpacing(0)
        column.addLayout(self._lines)
        return frame

    def _answer_card(self) -> QFrame:
        frame, column = card()
        self._answer: QLabel = label("", "title")
        self._words: QLabel = label("")
        for words in (self._answer, self._words):
            words.setWordWrap(True)
            words.setMinimumWidth(60)
            column.addWidget(words)
        self.do: QPushButton = button("Apply", "main", self._take)
        column.addLayout(row(self.do, None))
        self._view = ComparisonView(self._session)
        column.addWidget(self._view)
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.rows[0].what)

    def refresh(self) -> None:
        """Show the formula's lines to lock, and what its readings are now."""
        study, pantry = self._session.study, self._session.reference.pantry
        if study is None:
            return
        lines = [(p, i, n) for p, i, n in study.formula.all_lines() if p in IN_THE_PASTE]
        structure = (self._session.uid, tuple((p, n.material) for p, _, n in lines))
        if structure != self._structure:
            self._structure = structure
            let_go(self._lines, *self.locks.values())
            self.locks = {}
            for part, i, line in lines:
                box = QCheckBox(pantry[line.material].name)
                on_checked(box, lambda _: self.changed())
                self._lines.addWidget(box)
                self.locks[(part, i)] = box
            self._list_materials(study)
        for part, i, line in lines:
            name = pantry[line.material].name
            where = "" if part is Part.DOUGH else ", fat block"
            self.locks[(part, i)].setText(
                bare_mnemonic(f"{name}{where}, {weight_text(line.grams)}")
            )
        for key, words, _ in KEEPS:
            value = getattr(study.readings, key)
            shown = "" if value is None else f" {number_text(value, 2 if value < 10 else 1)} %"
            self.keeps[key].setText(f"{words}{shown}")
            self.keeps[key].setEnabled(value is not None and value > 0)
        for at, each in enumerate(self.rows):
            for widget in each.widgets():
                widget.setVisible(at < self._shown)
            for i, (words, unit) in enumerate(WANTED_WORDS.values()):
                each.what.setItemText(i, in_measures(f"{words}, {unit}") if unit else words)
            needs = each.what.currentData() in OF_A_MATERIAL
            self._grid.removeWidget(each.what)
            self._grid.addWidget(each.what, at, 0, 1, 1 if needs else 2)
            each.material.setVisible(needs and at < self._shown)
            each.out.setVisible(0 < at < self._shown)
        self._more.setVisible(self._shown < MOST_TARGETS)
        self.changed()

    def _list_materials(self, study: Study) -> None:
        pantry = self._session.reference.pantry
        there = [n.material for n in (*study.formula.dough, *study.formula.block)]
        fats = [m.key for m in pantry if m.is_fat and m.enclose_c is not None]
        for each in self.rows:
            chosen = each.material.currentData()
            known = list(dict.fromkeys(there + fats))
            listed = known[:MOST_LISTED]
            if chosen in known[MOST_LISTED:]:
                listed.append(chosen)
            each.material.clear()
            for key in listed:
                each.material.addItem(pantry[key].name, key)
            if len(listed) < len(known):  # thousands in a list are found by typing
                each.material.addItem(OTHER, "")
            at = each.material.findData(chosen)
            fat = study.formula.block[0].material if study.formula.block else ""
            each.material.setCurrentIndex(max(0, at if at >= 0 else each.material.findData(fat)))

    def material_chosen(self, at: int, choice: int) -> None:
        """Take the chosen material, or ask for another one."""
        combo = self.rows[at].material
        if combo.itemText(choice) == OTHER:
            pantry = self._session.reference.pantry
            key = ask_material(self.window(), pantry, "Of which ingredient")
            if key and combo.findData(key) < 0:
                combo.insertItem(0, pantry[key].name, key)
            combo.setCurrentIndex(max(0, combo.findData(key)) if key else 0)
        self.changed()

    def what_chosen(self, at: int) -> None:
        """Another reading is wanted: its figure begins as it is now."""
        each = self.rows[at]
        each.amount = None
        each.value.show_value("")
        wanted = {row.what.currentData() for row in self.rows[: self._shown]}
        if "fat_share_pct" in wanted:  # a share is of something that stays
            give_checked(self.keeps["fat_product_pct"], not wanted & set(SAYS_HOW_MUCH_FAT))
        self.refresh()
        each.value.setFocus(Qt.FocusReason.TabFocusReason)

    def _add_target(self) -> None:
        self._shown = min(MOST_TARGETS, self._shown + 1)
        self.refresh()
        self.rows[self._shown - 1].what.setFocus(Qt.FocusReason.TabFocusReason)

    def take_out(self, at: int) -> None:
        """Take a wish out; those below move up."""
        for upper, lower in zip(self.rows[at:], self.rows[at + 1 :], strict=False):
            for one, other in zip(upper.widgets()[:3], lower.widgets()[:3], strict=True):
                if isinstance(one, QComboBox) and isinstance(other, QComboBox):
                    if one.findData(other.currentData()) < 0:
                        one.insertItem(0, other.currentText(), other.currentData())
                    one.setCurrentIndex(one.findData(other.currentData()))
            upper.amount = lower.amount
            upper.value.show_value(lower.value.text())
        self.rows[self._shown - 1].amount = None
        self.rows[self._shown - 1].value.show_value("")
        self._shown -= 1
        self.refresh()

    def take_value(self, at: int, text: str) -> None:
        """Take how much is wanted, in the unit of what is wanted."""
        each = self.rows[at]
        what: Wanted = each.what.currentData()
        unit = WANTED_WORDS[what][1]
        if not text.strip():
            each.amount = None
        elif unit == "g":
            each.amount = read_mass(text)
        elif unit == "%":
            each.amount = parse_percent(text, decimal_sign())
        else:
            each.amount = read_price(text, self._session.reference.house.currency)
        if each.amount is not None and each.amount > 1e8:
            raise AmountError("this number is too large", text, 0, len(text))
        if what == "cost_per_piece" and each.sense.currentData() == "is":
            each.sense.setCurrentIndex(each.sense.findData("at most"))
        self.changed()

    def _targets(self) -> tuple[Target, ...]:
        study = self._session.study
        targets = []
        for each in self.rows[: self._shown]:
            if each.amount is not None:
                what = each.what.currentData()
                material = each.material.currentData() if what in OF_A_MATERIAL else ""
                targets.append(Target(what, each.amount, each.sense.currentData(), material))
        wanted = {target.what for target in targets}
        for key, box in self.keeps.items():
            value = getattr(study.readings, key) if study else None
            if box.isChecked() and box.isEnabled() and key not in wanted and value is not None:
                targets.append(Target(key, value))
        return tuple(targets)

    def changed(self) -> None:
        """Ask again; the answer comes beside."""
        study, pantry = self._session.study, self._session.reference.pantry
        self._found = None
        self.do.setEnabled(False)
        if study is None or not any(each.amount is not None for each in self.rows[: self._shown]):
            self.beside.forget()
            self._view.hide()
            self._answer.setText("No target yet")
            self._say("Choose a figure and type its target.")
            return
        targets = self._targets()
        locked = frozenset(place for place, box in self.locks.items() if box.isChecked())
        self._answer.setText("Calculating …")
        self._say("")
        keep_fat = self.keeps["fat_product_pct"].isChecked()
        self.beside.ask(lambda: solve(study, pantry, targets, locked, keep_fat=keep_fat))

    def _say(self, words: str) -> None:
        self._words.setText(words)
        self._words.setVisible(bool(words))

    def _answered(self, found: Solved | AplombError) -> None:
        study, reference = self._session.study, self._session.reference
        self._view.hide()
        self.show_error("")
        if isinstance(found, AplombError) or study is None:
            self._answer.setText("This cannot be solved as asked")
            self._say(f"{str(found)[:1].upper()}{str(found)[1:]}.")
            return
        if found.formula is None:
            self._answer.setText("This is not possible")
            near = ""
            if found.nearest is not None:
                near = f" The nearest is {self._nearest(found.nearest)}."
            listed = "; ".join(found.conflict)
            self._say(f"These do not go together: {listed}.{near} Drop one of them.")
            return
        try:
            after = make_study(found.formula, reference, search=False, last=study.cut)
        except AplombError as error:
            self.show_error(str(error))
            return
        self._found = found
        count = len(found.changed)
        self._answer.setText(
            counted(count, "One line changes", "{} lines change")
            if count
            else "Nothing needs to change"
        )
        self._say("")
        self._view.show_pair(study, after)
        self._view.show()
        self.do.setEnabled(bool(count))

    def _nearest(self, value: float) -> str:
        """Write a figure in the unit of the first wish."""
        first = next(each for each in self.rows if each.amount is not None)
        unit = WANTED_WORDS[first.what.currentData()][1]
        if unit == "g":
            return weight_text(value)
        if unit == "%":
            return f"{number_text(value, 2)} %"
        return currency_text(value, self._session.reference.house.currency, 3)

    def _take(self) -> None:
        if self._found is not None and self._found.formula is not None:
            target = next(each for each in self.rows if each.amount is not None)
            words = target.what.currentText().split(",")[0].lower()
            for each in self.rows:
                each.amount = None
                each.value.show_value("")
            self._session.shelf.change(f"solve for {words}", self._found.formula)
            self.done.emit()
