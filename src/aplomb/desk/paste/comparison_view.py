"""Two formulas side by side, as a table, with what changes at the bench in words."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from aplomb.core.base.figures import grams_text, in_measures, mass_unit, number_text
from aplomb.core.paste.formula import PART_NAMES
from aplomb.core.study.compare import Pair, at_the_bench, compare
from aplomb.core.study.study import Study
from aplomb.desk.kit.fields import (
    label,
    wrapping,
)
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.session import Session
from aplomb.work.figures.local import currency_text

MOST_BENCH_WORDS = 7


def _figure(value: float | None, unit: str, currency: str) -> str:
    if value is None:
        return "–"
    if unit == "money":
        return currency_text(value, currency, 2 if value >= 10 else 3)
    if unit == "g":
        return grams_text(value)
    size = abs(value)
    return number_text(value, 0 if size >= 1000 else 1 if size >= 10 else 2 if size >= 1 else 3)


def _cells(pair: Pair, unit: str, currency: str) -> tuple[str, ...]:
    difference = pair.difference
    words = ""
    if difference is not None and not pair.same:
        sign = "+" if difference > 0 else "−"
        words = sign + _figure(abs(difference), unit, currency)
    ratio = "" if pair.ratio is None or pair.same else f"× {number_text(pair.ratio, 3)}"
    return _figure(pair.before, unit, currency), _figure(pair.after, unit, currency), words, ratio


class ComparisonView(QWidget):
    """What is and what would be."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.lines = FigureTable("Lines, before and after", 4)
        self.readings = FigureTable("Figures, before and after", 4)
        self._bench = wrapping("", "")
        self._bench.setAccessibleName("What changes at the bench")
        self._bench_title = label("At the bench", "strong")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        for widget in (self._bench_title, self._bench, self.lines, self.readings):
            column.addWidget(widget)

    @property
    def bench(self) -> str:
        """What changes at the bench, as shown."""
        return self._bench.text()

    def show_pair(
        self,
        before: Study,
        after: Study,
        names: tuple[str, str] = ("now", "then"),
        *,
        whole: bool = False,
    ) -> None:
        """Show two studies.

        Parameters
        ----------
        names : tuple of two str
            What each is called.
        whole : bool
            True to show what is the same too.
        """
        pantry, house = self._session.reference.pantry, self._session.reference.house
        found = compare(before, after, pantry)
        rows = [
            Row("Grams" if mass_unit() == "g" else "Ounces", (*names, "change", "ratio"), "head")
        ]
        part = None
        for line in found.lines:
            if line.grams.same and not whole:
                continue
            if line.part is not part:
                part = line.part
                if part.value != "dough" or not whole:
                    rows.append(Row(PART_NAMES[part], (), "head"))
            kind = "same" if line.grams.same else "changed"
            cells = _cells(line.grams, "g", house.currency)
            rows.append(Row(pantry[line.material].name, cells, kind))
        if len(rows) == 1:
            rows.append(Row("No line changes", (), "same"))
        self.lines.show_rows(tuple(rows))
        rows = [Row("Figures", (*names, "change", "ratio"), "head")]
        for reading in found.readings:
            if reading.value.same and not whole:
                continue
            kind = "same" if reading.value.same else "changed"
            unit = "money" if reading.key.startswith("cost") else reading.unit
            words = (
                in_measures(f"{reading.words}, {reading.unit}") if reading.unit else reading.words
            )
            rows.append(Row(words, _cells(reading.value, unit, house.currency), kind))
        if len(rows) == 1:
            rows.append(Row("No figure changes", (), "same"))
        self.readings.show_rows(tuple(rows))
        noticed = list(at_the_bench(before, after, pantry, house))[:MOST_BENCH_WORDS]
        for text, names_ in (
            ("Gains an allergen", found.allergens_gained),
            ("No longer contains", found.allergens_lost),
            ("Adds to the second opinion", found.claims_gained),
            ("Clears from the second opinion", found.claims_lost),
        ):
            if names_:
                noticed.append(f"{text}: {', '.join(names_)}.")
        self._bench.setText("\n".join(noticed))
        for widget in (self._bench, self._bench_title):
            widget.setVisible(bool(noticed))
