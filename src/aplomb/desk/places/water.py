"""Water and ice for a wanted dough temperature, and the house: temperatures, cups, currency."""

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QLabel

from aplomb.core.batch.water import held_back_g
from aplomb.core.figures import num
from aplomb.core.house import WARM
from aplomb.core.quantity import parse_percent
from aplomb.core.study import Study
from aplomb.core.units import MEASURES_WORDS, Measures
from aplomb.desk.fields import (
    Field,
    card,
    currency_sign,
    decimal_sign,
    fix_width,
    grams_text,
    label,
    number_text,
    read_temp,
)
from aplomb.desk.house_card import HouseFields
from aplomb.desk.places.place import Place
from aplomb.desk.session import Session
from aplomb.desk.theme import Theme


class WaterPlace(Place):
    """Which water, how much ice; and what the bakery is like."""

    TITLE = "Water and ice"
    HINT = "For the batch. A heat balance over flour, water and all else in the bowl."

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self._fields: dict[str, Field] = {}
        self._body.addLayout(self.two_sides(self._answer_card(), self._house_card()))
        self._body.addStretch(1)
        self.refresh()

    def _answer_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("The dough", "title"))
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        self._wanted = Field("Wanted dough temperature", self._take_wanted, self.show_error)
        self._row(grid, 0, "Wanted after mixing, °C", self._wanted)
        self._held = Field("Water held back, %", self._take_held, self.show_error)
        self._held.setToolTip("Added to feel, by the spoon; a tenth to a seventh is usual")
        self._row(grid, 1, "Water held back, %", self._held)
        column.addLayout(grid)
        self._answer: QLabel = label("", "big")
        self._words: QLabel = label("", "second")
        for words in (self._answer, self._words):
            words.setWordWrap(True)
            words.setMinimumWidth(60)
            column.addWidget(words)
        return frame

    def _house_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("The house", "title"))
        self.house = HouseFields(self._session, self._theme, WARM, self.show_error)
        self._fields, grid = self.house.fields, self.house.grid
        at = len(WARM)
        self._measures = QComboBox()
        self._measures.setAccessibleName("Cups and spoons")
        for key, words in MEASURES_WORDS.items():
            self._measures.addItem("metric" if key == "metric" else "US", key)
            self._measures.setItemData(
                self._measures.count() - 1, words, Qt.ItemDataRole.ToolTipRole
            )
        self._measures.activated.connect(self._take_measures)
        self._row(grid, at, "Cups and spoons", self._measures)
        self._currency = Field("Currency", self._take_currency, self.show_error, eager=True)
        self._row(grid, at + 1, "Currency", self._currency)
        column.addLayout(grid)
        self._cups = label("", "small")
        self._cups.setWordWrap(True)
        column.addWidget(self._cups)
        return frame

    def _row(self, grid: QGridLayout, at: int, words: str, field: Field | QComboBox) -> None:
        grid.addWidget(label(words), at, 0)
        fix_width(field, 96, self._theme)
        if isinstance(field, Field):
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
        grid.addWidget(field, at, 1)

    def _take_wanted(self, text: str) -> None:
        value = read_temp(text)
        self._session.edit(f"dough at {num(value)} °C", lambda f: replace(f, dough_c=value))

    def _take_held(self, text: str) -> None:
        percent = parse_percent(text, decimal_sign()) if text.strip() else 0.0
        self._session.edit(
            f"water held back {num(percent)} %", lambda f: replace(f, held_back_pct=percent)
        )

    def _take_measures(self, at: int) -> None:
        measures: Measures = self._measures.itemData(at)
        house = replace(self._session.reference.house, measures=measures)
        self._session.set_house(f"{self._measures.itemText(at)} cups and spoons", house)

    def _take_currency(self, text: str) -> None:
        house = replace(self._session.reference.house, currency=text.strip())
        self._session.set_house(f"currency {text.strip() or 'of the locale'}", house)

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self._wanted)

    def refresh(self) -> None:
        """Show the formula in hand and the house."""
        house = self._session.reference.house
        self.house.refresh()
        self._measures.setCurrentIndex(self._measures.findData(house.measures))
        self._currency.show_value(currency_sign(house.currency))
        self._cups.setText(MEASURES_WORDS[house.measures])
        study = self._session.study
        if study is not None:
            self._wanted.show_value(number_text(study.formula.dough_c, 1))
            self._held.show_value(number_text(study.formula.held_back_pct, 1))
            self._show_answer(study)

    def _show_answer(self, study: Study) -> None:
        water, wanted = study.water, study.formula.dough_c
        house = self._session.reference.house
        if water is None:
            self._answer.setText("No water to choose")
            self._words.setText("The dough holds no water whose temperature could be chosen.")
            return
        whole = water.water_g + water.ice_g
        if not water.reached:
            self._answer.setText(f"{number_text(water.dough_c)} °C at best")
            self._words.setText(
                f"All {grams_text(whole)} g of the water as ice, or at its warmest, brings the "
                f"dough to {number_text(water.dough_c)} °C; you want {num(wanted)}. Change the "
                "flour’s temperature."
            )
            return
        if water.ice_g <= 0:
            self._answer.setText(f"Water at {number_text(water.needed_c)} °C")
            self._words.setText(
                f"{grams_text(whole)} g of it; no ice is needed. {self._held_words(study)}"
            )
            return
        chilled = (
            f"Or {grams_text(whole)} g at {number_text(water.needed_c)} °C from the fridge. "
            if not water.only_ice
            else "Water alone cannot be cold enough. "
        )
        self._answer.setText(
            f"{grams_text(water.water_g)} g water and {grams_text(water.ice_g)} g ice"
        )
        ice = number_text(house.ice_c).replace("-", "−")
        self._words.setText(
            f"Water as it comes at {num(house.tap_c)} °C, ice at {ice} °C. {chilled}"
            f"With tap water alone the dough comes out at {number_text(water.plain_c)} °C. Fats, "
            f"milk and eggs of the dough come from the fridge at {num(house.fridge_c)} °C; the fat "
            f"block is not in the bowl. {self._held_words(study)}"
        )

    def _held_words(self, study: Study) -> str:
        """Say how much water is held back."""
        factor = study.scaled.factor or 1.0
        grams = held_back_g(study.formula, self._session.reference.pantry, factor)
        return f"Hold back {grams_text(grams)} g and add it to feel." if grams > 0 else ""
