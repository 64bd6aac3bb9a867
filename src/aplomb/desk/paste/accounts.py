"""Accounts: where fat, water, salt and the rest come from, with the sum behind every figure."""

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import decimal_sign, grams_text, num, number_text
from aplomb.core.base.quantity import parse_percent
from aplomb.core.paste.formula import allergens
from aplomb.core.readings.readings import READING_WORDS
from aplomb.core.study.explain import explain
from aplomb.core.study.study import Study
from aplomb.desk.kit.fields import card, fix_width, label
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.figures.local import currency_text

GROUPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("Fat", ("fat_product_pct", "enclosed_fat_pct", "dough_fat_pct", "fat_on_dough_pct",
             "fat_on_total_pct", "pure_fat_pct")),
    ("Water and flour", ("dough_water_pct", "total_water_pct", "flour_moisture_pct",
                         "dough_water_14_pct", "flour_protein_pct")),
    ("Salt, acid, sugar, milk", ("salt_pct", "acid_product_pct", "acid_pct", "sugar_added_pct",
                                 "milk_solids_pct")),
    ("A piece", ("piece_eaten_g", "fat_g_per_piece", "salt_g_per_piece", "energy_kj_per_piece",
                 "energy_kcal_per_piece", "cost_per_piece")),
)  # fmt: skip


class AccountsPage(Page):
    """Every figure of the paste with the sum behind it, and what each line brings."""

    KEY = "accounts"
    HINT = "What every ingredient contributes, wherever it is used. Percentages are on flour."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._figures = {
            key: (label("", "strong"), label("", "small")) for _, keys in GROUPS for key in keys
        }
        columns = (QVBoxLayout(), QVBoxLayout())
        for i, (title, keys) in enumerate(GROUPS):
            columns[i % 2].addWidget(self._group(title, keys))
        for each in columns:
            each.setSpacing(12)
        self._body.addLayout(self.two_sides(*columns))
        frame, column = card(spacing=4)
        self.table = FigureTable("What each line contributes", 5)
        column.addWidget(label("What each line contributes, g", "title"))
        column.addWidget(self.table)
        self._allergens = label("", "second")
        self._allergens.setWordWrap(True)
        column.addWidget(self._allergens)
        self._body.addWidget(frame)
        self._body.addStretch(1)
        self.refresh()

    def _group(self, title: str, keys: tuple[str, ...]) -> QFrame:
        frame, column = card(spacing=2)
        column.addWidget(label(title, "title"))
        for key in keys:
            value, sum_ = self._figures[key]
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            line = QHBoxLayout()
            line.addWidget(label(READING_WORDS[key][0]), 1)
            if key == "flour_moisture_pct":
                self.moisture = Field(
                    "Measured moisture of the flour, percent",
                    self._take_moisture,
                    self.show_error,
                    eager=True,
                )
                self.moisture.setPlaceholderText("measured")
                self.moisture.setAlignment(Qt.AlignmentFlag.AlignRight)
                fix_width(self.moisture, 90)
                self.moisture.setToolTip(
                    "Enter the measured moisture of your flour. Leave empty for the pantry’s figure"
                )
                line.addWidget(self.moisture)
            line.addWidget(value)
            column.addLayout(line)
            sum_.setWordWrap(True)
            sum_.setMinimumWidth(60)
            column.addWidget(sum_)
        column.addStretch(1)
        return frame

    def _take_moisture(self, text: str) -> None:
        if not text.strip():
            self._session.shelf.edit(
                "forget the flour’s moisture", lambda f: replace(f, flour_moisture_pct=None)
            )
            return
        percent = parse_percent(text, decimal_sign())
        if not 2 <= percent <= 25:
            raise AmountError("enter a moisture of 2 to 25 %", text, 0, len(text))
        self._session.shelf.edit(
            f"flour measured at {num(percent)} %", lambda f: replace(f, flour_moisture_pct=percent)
        )

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.moisture)

    def refresh(self) -> None:
        """Show the formula in hand."""
        study = self._session.study
        if study is None:
            return
        currency = self._session.reference.house.currency
        for key, (value, sum_) in self._figures.items():
            found = getattr(study.readings, key)
            unit = READING_WORDS[key][1]
            if found is None:
                value.setText("–")
            elif key.startswith("cost"):
                value.setText(currency_text(found, currency, 3))
            else:
                value.setText(
                    f"{number_text(found, 0 if found >= 100 else 1 if found >= 10 else 2)} {unit}"
                )
            words = explain(study, key)
            sum_.setText(words if len(words) > 12 else "")
            sum_.setVisible(len(words) > 12)
        measured = study.formula.flour_moisture_pct
        self.moisture.show_value("" if measured is None else number_text(measured, 2))
        self._show_lines(study)
        found_ = allergens(study.formula, self._session.reference.pantry)
        self._allergens.setText(f"Allergens: {', '.join(found_) or 'none that is known'}.")

    def _show_lines(self, study: Study) -> None:
        pantry = self._session.reference.pantry
        rows = [Row("", ("weight", "fat", "water", "salt", "solids"), "head")]
        for _, _, line in study.formula.all_lines():
            material = pantry[line.material]
            c, g = material.composition, line.grams
            own_water = "(" if material.is_flour else ""
            water = grams_text(g * c.water)
            rows.append(
                Row(
                    material.name,
                    (
                        grams_text(g),
                        grams_text(g * c.fat),
                        f"{own_water}{water}{')' if own_water else ''}",
                        grams_text(g * c.salt),
                        grams_text(g * max(0.0, c.total - c.water - c.fat - c.salt)),
                    ),
                )
            )
        self.table.show_rows(tuple(rows))
