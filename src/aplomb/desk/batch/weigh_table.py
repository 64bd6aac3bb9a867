"""The weigh-out: every line of the batch, its drift, and what a pack costs."""

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QSizePolicy

from aplomb.core.base.constants import GRAMS_PER_POUND
from aplomb.core.base.figures import bare_text, g_text, mass_unit, num, ounces
from aplomb.core.batch.scaled import Scaled
from aplomb.core.paste.formula import PART_NAMES
from aplomb.core.paste.pantry import Pack
from aplomb.core.study.study import Study
from aplomb.desk.kit.fields import clear, fix_width, label, plain_tip
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.work.figures.local import money_text, read_price
from aplomb.work.figures.typed import read_mass
from aplomb.work.words.measured import measure_words, range_words, small_words

ROW_HIGH = 30
"""Least height of a row at text of 100 % [px]."""


class WeighTable(QFrame):
    """Every line of the batch: exact, to weigh, drift, and what a pack costs."""

    HEADS = ("exact, g", "to weigh, g", "rounding, g", "pack, g", "price")

    def __init__(self, session: Session, on_error: Callable[[str], None]) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self.setObjectName("card")
        self._session, self._on_error = session, on_error
        self._structure: object = None
        self._cells: list[tuple[QLabel, QLabel, QLabel, QLabel]] = []
        self.prices: list[tuple[str, Field, Field]] = []
        self._row_places: list[int] = []
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(16, 10, 12, 12)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(3)

    def _look_changed(self) -> None:
        for at in self._row_places:
            self._grid.setRowMinimumHeight(at, look.theme.px(ROW_HIGH))

    def refresh(self, study: Study) -> None:
        """Show a study; rows are made anew only when the lines are other ones."""
        scaled = study.scaled
        structure = (self._session.uid, tuple((w.part, w.line.material) for w in scaled.lines))
        if structure != self._structure:
            self._structure = structure
            self._rebuild(scaled)
        pantry, house = self._session.reference.pantry, self._session.reference.house
        for cells, weighed in zip(self._cells, scaled.lines, strict=True):
            name, exact, weigh, drift = cells
            material = pantry[weighed.line.material]
            small = small_words(house, material, weighed)
            measure = "" if small else measure_words(house, material, weighed.weigh_g, spread=False)
            may_be = range_words(material, weighed, weighed.weigh_g)
            name.setText("\n".join(words for words in (material.name, may_be, measure) if words))
            exact.setText(_exactly(weighed.exact_g))
            weigh.setText(small or _to_weigh(weighed.weigh_g))
            if small:  # measured, as no scale of the house shows so little
                drift.setText("–")
                continue
            percent = (
                f" ({num(weighed.drift_pct, '+.1f')} %)" if abs(weighed.drift_pct) >= 1 else ""
            )
            drift.setText(f"{_drift(weighed.drift_g)}{percent}".replace("-", "−"))
        for key, pack, price in self.prices:
            there = pantry.pack(key)
            pack.show_value(bare_text(there.pack_g, "g", 1) if there else "")
            price.show_value(money_text(there.price) if there else "")

    def _rebuild(self, scaled: Scaled) -> None:
        clear(self._grid)
        self._cells, self.prices, self._row_places = [], [], []
        pantry = self._session.reference.pantry
        for column, text in enumerate(self.HEADS, 1):
            head = label(text, "small")
            head.setAlignment(Qt.AlignmentFlag.AlignRight)
            if column > 3:
                head.setContentsMargins(0, 0, 11, 0)
            self._grid.addWidget(head, 0, column)
        self._grid.setColumnStretch(0, 1)
        at, part, priced = 1, None, {"water"}
        for weighed in scaled.lines:
            if weighed.part is not part:
                part = weighed.part
                title = label(PART_NAMES[part], "title")
                self._grid.addWidget(title, at, 0, 1, len(self.HEADS) + 1)
                at += 1
            material = pantry[weighed.line.material]
            name = label(material.name)
            name.setToolTip(plain_tip(weighed.line.note))
            name.setWordWrap(True)
            name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
            self._grid.addWidget(name, at, 0)
            cells = (name, label(), label("", "strong"), label("", "small"))
            for column, cell in enumerate(cells[1:], 1):
                cell.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self._grid.addWidget(cell, at, column)
            self._cells.append(cells)
            if material.key not in priced:
                priced.add(material.key)
                self._price_fields(at, material.key, material.name)
            self._grid.setRowMinimumHeight(at, look.theme.px(ROW_HIGH))
            self._row_places.append(at)
            at += 1

    def _price_fields(self, at: int, material: str, name: str) -> None:
        pack = Field(
            f"{name}, weight of a pack",
            lambda t: self._take_price(material, t, None),
            self._on_error,
            "cell",
        )
        price = Field(
            f"{name}, price of a pack",
            lambda t: self._take_price(material, None, t),
            self._on_error,
            "cell",
        )
        for column, field in ((4, pack), (5, price)):
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            fix_width(field, 80)
            field.setPlaceholderText("–")
            self._grid.addWidget(field, at, column)
        self.prices.append((material, pack, price))

    def _take_price(self, material: str, pack: str | None, price: str | None) -> None:
        reference = self._session.reference
        name = reference.pantry[material].name.lower()
        if (pack is not None and not pack.strip()) or (price is not None and not price.strip()):
            self._session.store.price(f"no price for {name}", material, None)
            return
        new = reference.pantry.pack(material) or Pack(1000.0, 0.0)
        if pack is not None:
            new = replace(new, pack_g=read_mass(pack))
        if price is not None:
            new = replace(
                new, price=read_price(price, reference.house.currency), date=reference.today
            )
        self._session.store.price(f"price of {name}", material, new)


def _exactly(grams: float) -> str:
    """Write a mass before it is rounded; the smallest to a hundredth of an ounce."""
    return ounces(grams, 2) if mass_unit() == "oz" else bare_text(grams, "g", 1)


def _to_weigh(grams: float) -> str:
    """Write what is weighed under a head that names its unit; in pounds too from a pound on."""
    if mass_unit() == "oz" and grams >= GRAMS_PER_POUND:
        return g_text(grams)
    return bare_text(grams, "g", 2)


def _drift(grams: float) -> str:
    if mass_unit() == "oz":
        return f"{'+' if grams >= 0 else ''}{ounces(grams, 2)}"
    return num(grams, "+.1f")
