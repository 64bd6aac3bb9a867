"""Water and ice for a wanted dough temperature, and the house: temperatures, cups, currency."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QLabel

from aplomb.core.base.figures import (
    bare_text,
    celsius_text,
    decimal_sign,
    degrees,
    num,
    number_text,
    weight_text,
)
from aplomb.core.base.house import WARM
from aplomb.core.base.numbers import read_number
from aplomb.core.base.quantity import parse_percent
from aplomb.core.base.units import MEASURES_WORDS, Measures
from aplomb.core.batch.water import held_back_g
from aplomb.core.paste.formula import MIXING_WORDS
from aplomb.core.study.study import Study
from aplomb.desk.kit.fields import card, fix_width, label
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.house_card import HouseFields
from aplomb.desk.stages.page import Page
from aplomb.work.figures.local import currency_sign
from aplomb.work.figures.typed import read_temp

HOUSE_UNITS: dict[str, tuple[str, dict[str, str]]] = {
    "masses": ("Weights", {"g": "g and kg", "oz": "oz and lb"}),
    "beside": ("Beside weights", {"": "nothing", "cups": "cups, spoons"}),
    "lengths": ("Lengths", {"mm": "mm and cm", "in": "inches"}),
    "temps": ("Temperatures", {"°C": "°C", "°F": "°F"}),
}
"""Measures of the house that every screen and paper shows; a field takes any."""


class WaterPage(Page):
    """Which water, how much ice; and what the bakery is like."""

    KEY = "water"
    HINT = "For this batch, from the heat of flour, water and everything else in the bowl."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.fields: dict[str, Field] = {}
        self._body.addLayout(self.two_sides(self._answer_card(), self._house_card()))
        self._body.addStretch(1)
        self.refresh()

    def _answer_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("The dough", "title"))
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        self.wanted = Field("Target dough temperature", self._take_wanted, self.show_error)
        self._row(grid, 0, "Dough after mixing, °C", self.wanted)
        self.held = Field("Water held back, %", self._take_held, self.show_error)
        self.held.setToolTip("Added by feel, a spoon at a time; a tenth to a seventh is usual")
        self._row(grid, 1, "Water held back, %", self.held)
        self._mixing = QComboBox()
        self._mixing.setAccessibleName("Way of mixing")
        for key, said in MIXING_WORDS.items():
            self._mixing.addItem(said, key)
        self._mixing.activated.connect(self._take_mixing)
        self._row(grid, 2, "Mixed", self._mixing)
        self._mixing_min = Field("Minutes of mixing", self._take_mixing_min, self.show_error)
        self._mixing_min.setPlaceholderText("usual")
        self._row(grid, 3, "Mixing time, min", self._mixing_min)
        column.addLayout(grid)
        self.answer: QLabel = label("", "big")
        self.words: QLabel = label("", "second")
        for words in (self.answer, self.words):
            words.setWordWrap(True)
            words.setMinimumWidth(60)
            column.addWidget(words)
        return frame

    def _house_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("House settings", "title"))
        self.house = HouseFields(self._session, WARM, self.show_error)
        self.fields, grid = self.house.fields, self.house.grid
        at = len(WARM)
        self._units: dict[str, QComboBox] = {}
        self.measures = QComboBox()
        self.measures.setAccessibleName("Cups and spoons")
        for key, words in MEASURES_WORDS.items():
            self.measures.addItem("metric" if key == "metric" else "US", key)
            self.measures.setItemData(self.measures.count() - 1, words, Qt.ItemDataRole.ToolTipRole)
        self.measures.activated.connect(self._take_measures)
        self._row(grid, at, "Cups and spoons", self.measures)
        for i, (name, (words, choices)) in enumerate(HOUSE_UNITS.items()):
            box = QComboBox()
            box.setAccessibleName(words)
            for unit, said in choices.items():
                box.addItem(said, unit)
            box.activated.connect(partial(self._take_unit, name))
            self._row(grid, at + 2 + i, words, box)
            self._units[name] = box
        self.currency = Field("Currency", self._take_currency, self.show_error, eager=True)
        self._row(grid, at + 1, "Currency", self.currency)
        column.addLayout(grid)
        self._cups = label("", "small")
        self._cups.setWordWrap(True)
        column.addWidget(self._cups)
        return frame

    def _row(self, grid: QGridLayout, at: int, words: str, field: Field | QComboBox) -> None:
        grid.addWidget(label(words), at, 0)
        fix_width(field, 132)
        if isinstance(field, Field):
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
        grid.addWidget(field, at, 1)

    def _take_wanted(self, text: str) -> None:
        value = read_temp(text)
        self._session.shelf.edit(
            f"dough at {celsius_text(value)}", lambda f: replace(f, dough_c=value)
        )

    def _take_held(self, text: str) -> None:
        percent = parse_percent(text, decimal_sign()) if text.strip() else 0.0
        self._session.shelf.edit(
            f"water held back {num(percent)} %", lambda f: replace(f, held_back_pct=percent)
        )

    def _take_mixing(self, at: int) -> None:
        way = self._mixing.itemData(at)
        self._session.shelf.edit(MIXING_WORDS[way], lambda f: replace(f, mixing=way))

    def _take_mixing_min(self, text: str) -> None:
        minutes = read_number(text, decimal_sign()) if text.strip() else None
        said = "usual" if minutes is None else f"{num(minutes)} min"
        self._session.shelf.edit(f"mixing {said}", lambda f: replace(f, mixing_min=minutes))

    def _take_measures(self, at: int) -> None:
        measures: Measures = self.measures.itemData(at)
        house = replace(self._session.reference.house, measures=measures)
        self._session.store.set_house(f"{self.measures.itemText(at)} cups and spoons", house)

    def _take_unit(self, name: str, at: int) -> None:
        box = self._units[name]
        house = replace(self._session.reference.house, **{name: box.itemData(at)})
        self._session.store.set_house(
            f"{box.accessibleName().lower()} in {box.itemText(at)}", house
        )

    def _take_currency(self, text: str) -> None:
        house = replace(self._session.reference.house, currency=text.strip())
        self._session.store.set_house(f"currency {text.strip() or 'of the locale'}", house)

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.wanted)

    def refresh(self) -> None:
        """Show the formula in hand and the house."""
        house = self._session.reference.house
        self.house.refresh()
        self.measures.setCurrentIndex(self.measures.findData(house.measures))
        for name, box in self._units.items():
            box.setCurrentIndex(box.findData(getattr(house, name)))
        self.currency.show_value(currency_sign(house.currency))
        self._cups.setText(MEASURES_WORDS[house.measures])
        study = self._session.study
        if study is not None:
            self.wanted.show_value(bare_text(study.formula.dough_c, "°C", 1))
            self.held.show_value(number_text(study.formula.held_back_pct, 1))
            self._mixing.setCurrentIndex(self._mixing.findData(study.formula.mixing))
            minutes = study.formula.mixing_min
            self._mixing_min.show_value("" if minutes is None else number_text(minutes, 1))
            self._show_answer(study)

    def _show_answer(self, study: Study) -> None:
        water, wanted = study.water, study.formula.dough_c
        house = self._session.reference.house
        if water is None:
            self.answer.setText("No water to choose")
            self.words.setText("The dough contains no water whose temperature you could set.")
            return
        whole = water.water_g + water.ice_g
        if not water.reached:
            self.answer.setText(f"{celsius_text(water.dough_c, 1)} is the nearest")
            self.words.setText(
                f"Even with all {weight_text(whole)} of water as ice, or as warm as it "
                f"comes, the dough reaches only {celsius_text(water.dough_c, 1)}; you "
                f"want {degrees(wanted)}. Cool or warm the flour."
            )
            return
        if water.ice_g <= 0:
            self.answer.setText(f"Water at {celsius_text(water.needed_c, 1)}")
            self.words.setText(
                f"Use {weight_text(whole)}; no ice is needed. {self._held_words(study)}"
            )
            return
        chilled = (
            f"Or {weight_text(whole)} at {celsius_text(water.needed_c, 1)} from the fridge. "
            if not water.only_ice
            else "Water alone cannot be cold enough. "
        )
        self.answer.setText(
            f"{weight_text(water.water_g)} water and {weight_text(water.ice_g)} ice"
        )
        ice = celsius_text(house.ice_c, 1).replace("-", "−")
        self.words.setText(
            f"Tap water at {celsius_text(house.tap_c)}, ice at {ice}. {chilled}With tap "
            f"water alone the dough comes out at {celsius_text(water.plain_c, 1)}. Fats, "
            "milk and eggs in the dough come from the fridge at "
            f"{celsius_text(house.fridge_c)}; the fat block is not in the bowl. "
            f"{self._held_words(study)}"
        )

    def _held_words(self, study: Study) -> str:
        """Say how much water is held back."""
        factor = study.scaled.factor or 1.0
        grams = held_back_g(study.formula, self._session.reference.pantry, factor)
        return f"Hold back {weight_text(grams)} and add it by feel." if grams > 0 else ""
