"""Figures of the house as fields, for every page that shows some of them."""

from collections.abc import Callable, Iterable

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout

from aplomb.core.base.figures import bare_text, decimal_sign, mass_text, num
from aplomb.core.base.house import LIMITS
from aplomb.core.base.quantity import parse_percent
from aplomb.desk.kit.fields import fix_width, label
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.work.figures.typed import read_length, read_mass, read_temp, read_warming, read_whole

WIDE = 96
"""Width of a figure's field at 100 % [px]."""


def read_figure(name: str, text: str) -> float | int:
    """Read a figure of the house by its unit; raises AmountError."""
    unit = LIMITS[name][3]
    if unit == "mm":
        return read_length(text, zero=True)
    if unit == "%":
        return parse_percent(text, decimal_sign())
    if unit == "g":
        return read_mass(text, zero=True)
    if unit == "":
        return read_whole(text)
    return read_warming(text) if unit == "K" else read_temp(text)


def figure_text(name: str, value: float) -> str:
    """Write a figure of the house."""
    unit = LIMITS[name][3]
    return mass_text(value) if unit == "g" else bare_text(value, unit, 1).replace("-", "−")


class HouseFields:
    """Fields for some figures of the house, in a grid of captions and fields."""

    def __init__(
        self,
        session: Session,
        names: Iterable[str],
        on_error: Callable[[str], None],
    ) -> None:
        self._session = session
        self.grid = QGridLayout()
        self.grid.setColumnStretch(0, 1)
        self.grid.setVerticalSpacing(5)
        self.fields: dict[str, Field] = {}
        for i, name in enumerate(names):
            words, _, _, unit = LIMITS[name]
            field = Field(words, self._reader(name, words), on_error)
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            shown = "" if unit == "g" or not unit else f", {unit}"
            caption = label(f"{words}{shown}")
            caption.setMinimumWidth(40)
            caption.setWordWrap(True)
            self.grid.addWidget(caption, i, 0)
            self.grid.addWidget(field, i, 1)
            fix_width(field, WIDE)
            self.fields[name] = field

    def refresh(self) -> None:
        """Show the house."""
        house = self._session.reference.house
        for name, field in self.fields.items():
            field.show_value(figure_text(name, getattr(house, name)))

    def _reader(self, name: str, words: str) -> Callable[[str], None]:
        def take(text: str) -> None:
            value = read_figure(name, text)
            house = replace(self._session.reference.house, **{name: value})
            self._session.store.set_house(f"{words.lower()} {num(value)}", house)

        return take
