"""One product of the formula: its shape, sizes and numbers, and what goes on it."""

from collections.abc import Callable, Mapping
from functools import partial
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QFrame, QGridLayout, QLabel, QVBoxLayout

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import (
    bare_text,
    decimal_sign,
    in_measures,
    length_unit,
    mm_text,
    num,
    number_text,
    weight_text,
)
from aplomb.core.base.numbers import read_number
from aplomb.core.base.quantity import parse_percent
from aplomb.core.batch.trays import pressed_mm
from aplomb.core.paste.formula import make_up_of
from aplomb.core.paste.line import Line
from aplomb.core.paste.make_up import FILLING_WORDS, MAKE_UP_WORDS
from aplomb.core.paste.product import (
    GRAIN_WORDS,
    SHAPE_WORDS,
    SHAPES,
    SIZE_WORDS,
    UNTRIMMED,
    Product,
    parts_text,
    points_text,
    read_parts,
    read_points,
)
from aplomb.core.paste.reshape import reshaped
from aplomb.desk.kit.fields import button, clear, fix_width, give_checked, label, on_checked, row
from aplomb.desk.kit.find_field import MaterialField
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.work.figures.typed import read_length, read_mass, read_size, read_whole

SIZES = ("length_mm", "width_mm", "inner_mm")
TIPS = {
    "sheet_mm": "Leave empty for the formula’s final sheet",
    "disc_mm": "Leave empty for the width of the ring",
    "band_mm": "Leave empty for the height of the ring",
    "parts": "Other parts cut for each one, e.g. 4 strips 160 × 20; lid 90",
    "pressed": "If pressed or rolled larger after cutting: the size on the tray, e.g. 180 or 180 "
    "× 90",
    "offcut_g": "Enter a weight if this is made from scrap: no paste is made for it",
}
"""What is said of fields that may stay empty."""


def size_text(product: Product, sheet_mm: float) -> str:
    """Write a product's size in a few signs, and how thin it is pressed."""
    thin = pressed_mm(product, sheet_mm)
    after = f", pressed {mm_text(thin, '.1f')}" if thin is not None else ""
    return f"{_cut_size(product)}{after}"


def _cut_size(product: Product) -> str:
    if product.shape == "outline":
        return f"{len(product.points)} corners"
    words = SIZE_WORDS[product.shape]
    sizes = [
        bare_text(getattr(product, name), "mm", 1)
        for name, said in zip(SIZES, words, strict=True)
        if said
    ]
    if product.shape == "case":
        return f"{sizes[0]} {length_unit()}, hole {sizes[1]}"
    return f"{' × '.join(sizes[:2])} {length_unit()}"


class ProductEditor(QFrame):
    """Fields of one product.

    Parameters
    ----------
    change : callable
        Takes words for undo, and the product as it shall be.
    on_error : callable
        Takes the reason why something typed cannot be used.
    """

    def __init__(
        self,
        session: Session,
        change: Callable[[str, Product], None],
        on_error: Callable[[str], None],
    ) -> None:
        super().__init__()
        self._session, self._change, self._on_error = session, change, on_error
        self._product = Product("")
        self.fields: dict[str, Field] = {}
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(6)
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(1, 1)
        self._grid.setColumnStretch(3, 1)
        self._captions: dict[str, QLabel] = {}
        self._build()

    def _build(self) -> None:
        self.shape = QComboBox()
        self.shape.setAccessibleName("Shape")
        for shape in SHAPES:
            self.shape.addItem(SHAPE_WORDS[shape], shape)
        self.shape.activated.connect(self._take_shape)
        self.grain = QComboBox()
        self.grain.setAccessibleName("Grain")
        for key, words in GRAIN_WORDS.items():
            self.grain.addItem(words, key)
        self.grain.activated.connect(lambda _: self._put(grain=self.grain.currentData()))
        self.inside = QCheckBox("Use the cut-outs")
        on_checked(self.inside, lambda on: self._put(inside_used=on))
        self.both_sides = QCheckBox("Rolled up from both sides")
        on_checked(self.both_sides, lambda on: self._put(both_sides=on))
        self.untrimmed = QCheckBox("Rolled to its size, not trimmed")
        on_checked(self.untrimmed, lambda on: self._put(untrimmed=on))
        percent = partial(parse_percent, decimal=decimal_sign())
        self._wide(0, "name", "Name", str.strip)
        self._grid.addWidget(label("Shape", "small"), 1, 0)
        self._grid.addWidget(self.shape, 1, 1, 1, 3)
        self._field(2, 0, "length_mm", "", read_length)
        self._field(2, 2, "width_mm", "", read_length)
        self._field(3, 0, "inner_mm", "", read_length)
        self._field(3, 0, "lean", "", lambda t: read_number(t.strip(), decimal_sign()))
        self._field(3, 2, "wanted", "Ordered", read_whole)
        self._wide(
            4, "points", "Corners, mm", lambda t: read_points(t, decimal_sign(), length_unit())
        )
        length = partial(read_length, zero=True)
        self._field(5, 0, "disc_mm", "Disc diameter, mm", length)
        self._field(5, 2, "band_mm", "Strip width, mm", length)
        self._wide(6, "parts", "Also cut", lambda t: read_parts(t, decimal_sign()))
        self._field(7, 0, "sheet_mm", "Thickness, mm", length)
        self._field(7, 2, "gap_mm", "Gap, mm", length)
        self._field(8, 0, "shrink_along_pct", "Shrinks along, %", percent)
        self._field(8, 2, "shrink_across_pct", "across, %", percent)
        self._field(9, 0, "pressed", "Pressed to, mm", _read_pressed)
        self._field(9, 2, "offcut_g", "From scrap, g", partial(read_mass, zero=True))
        for name, tip in TIPS.items():
            self.fields[name].setPlaceholderText("–")
            self.fields[name].setToolTip(tip)
        self.fields["shrink_across_pct"].setAccessibleName("Shrinks across, %")
        self._grid.addWidget(label("Direction", "small"), 10, 0)
        self._grid.addWidget(self.grain, 10, 1, 1, 3)
        self._grid.addWidget(self.inside, 11, 0, 1, 4)
        self._grid.addWidget(self.both_sides, 11, 0, 1, 4)
        self._grid.addWidget(self.untrimmed, 11, 0, 1, 4)
        self._wide(12, "finish", "Finish", str.strip)
        self.make_up = self._choice(13, "make_up", "Made up", MAKE_UP_WORDS)
        self._lines = QVBoxLayout()
        self._lines.setSpacing(2)
        self._grid.addLayout(self._lines, 14, 0, 1, 4)
        self._shown_lines: object = None
        pantry = lambda: self._session.reference.pantry  # noqa: E731
        self.add_filling = MaterialField(pantry, "Add a filling")
        self.add_topping = MaterialField(pantry, "Add a topping")
        self.add_filling.chosen.connect(partial(self._add, "filling"))
        self.add_topping.chosen.connect(partial(self._add, "topping"))
        self._grid.addLayout(row(self.add_filling, self.add_topping), 15, 0, 1, 4)
        self.filling_is = self._choice(16, "filling_is", "Filling goes in", FILLING_WORDS)

    def _choice(self, at: int, name: str, words: str, known: Mapping[Any, str]) -> QComboBox:
        """Make a choice across the whole row."""
        found = QComboBox()
        found.setAccessibleName(words)
        for key, said in known.items():
            found.addItem(said, key)
        found.activated.connect(lambda _: self._put(**{name: found.currentData()}))
        self._captions[name] = label(words, "small")
        self._grid.addWidget(self._captions[name], at, 0)
        self._grid.addWidget(found, at, 1, 1, 3)
        return found

    def _field(
        self, at: int, column: int, name: str, words: str, read: Callable[[str], Any]
    ) -> None:
        field = Field(words, partial(self._take, name, read), self._on_error)
        field.setAlignment(Qt.AlignmentFlag.AlignRight)
        field.setMinimumWidth(40)
        self.fields[name] = field
        self._captions[name] = self._put_pair(at, column, words, field)

    def _wide(self, at: int, name: str, words: str, read: Callable[[str], Any]) -> None:
        field = Field(words, partial(self._take, name, read), self._on_error)
        field.setMinimumWidth(40)
        self.fields[name] = field
        caption = label(words, "small")
        self._captions[name] = caption
        self._grid.addWidget(caption, at, 0)
        self._grid.addWidget(field, at, 1, 1, 3)

    def _put_pair(self, at: int, column: int, words: str, widget: Any) -> QLabel:
        caption: QLabel = label(words, "small")
        widget.setMinimumWidth(40)
        self._grid.addWidget(caption, at, column)
        self._grid.addWidget(widget, at, column + 1)
        return caption

    def _take(self, name: str, read: Callable[[str], Any], text: str) -> None:
        value = read(text)
        if name == "name" and not value:
            raise AmountError("enter a name", text, 0, 1)
        if name == "pressed":
            self._put(pressed_length_mm=value[0], pressed_width_mm=value[1])
        else:
            self._put(**{name: value})

    def _put(self, **changes: Any) -> None:
        made = replace(self._product, **changes)
        what = ", ".join(f"{key.removesuffix('_mm')} {_short(v)}" for key, v in changes.items())
        self._change(f"{made.name}: {what}"[:80], made)

    def _take_shape(self) -> None:
        shape = self.shape.currentData()
        if shape != self._product.shape:
            made = reshaped(self._product, shape)
            self._change(f"{made.name}: {SHAPE_WORDS[shape].lower()}"[:80], made)

    def _add(self, where: str, key: str) -> None:
        lines: tuple[Line, ...] = getattr(self._product, where)
        self._put(**{where: (*lines, Line(key, 10.0))})

    def show_product(self, product: Product) -> None:
        """Show a product."""
        self._product = product
        self.shape.setCurrentIndex(self.shape.findData(product.shape))
        self.grain.setCurrentIndex(self.grain.findData(product.grain))
        give_checked(self.inside, product.inside_used)
        self.inside.setVisible(product.shape in ("case", "frame"))
        give_checked(self.both_sides, product.both_sides)
        self.both_sides.setVisible(product.shape == "slice")
        give_checked(self.untrimmed, product.untrimmed)
        self.untrimmed.setVisible(product.shape in UNTRIMMED)
        words = SIZE_WORDS[product.shape]
        for name, said in zip(SIZES, words, strict=True):
            self._show(name, bool(said), in_measures(f"{said.capitalize()}, mm"))
        self._show("lean", product.shape == "triangle", "Tip, 0 to 1")
        self.fields["lean"].setToolTip(f"Where along the base the tip is; {num(0.5)} is the middle")
        self._show("points", product.shape == "outline", in_measures("Corners, mm"))
        f = self.fields
        for name in (*SIZES, "shrink_along_pct", "shrink_across_pct", "gap_mm"):
            unit = "mm" if name.endswith("_mm") else "%"
            f[name].show_value(bare_text(getattr(product, name), unit, 2))
        f["lean"].show_value(number_text(product.lean, 3))
        f["points"].show_value(
            points_text(product.points, length_unit()).replace(".", decimal_sign())
        )
        f["wanted"].show_value(number_text(product.wanted, 0))
        for name in ("disc_mm", "band_mm"):
            self._show(name, product.shape == "lining", self._captions[name].text())
        for name in ("sheet_mm", "disc_mm", "band_mm"):
            f[name].show_value(_or_empty(getattr(product, name)))
        f["parts"].show_value(parts_text(product.parts))
        pressed = (product.pressed_length_mm, product.pressed_width_mm)
        f["pressed"].show_value(" × ".join(_or_empty(size) for size in pressed if size))
        f["offcut_g"].show_value(weight_text(product.offcut_g) if product.offcut_g else "")
        f["name"].show_value(product.name)
        f["finish"].show_value(product.finish)
        self._show_make_up(product)
        self._show_lines()

    def _show_make_up(self, product: Product) -> None:
        """Show how it is made up, and what is usual where nothing is said."""
        formula = self._session.formula
        if formula is not None:
            usual = MAKE_UP_WORDS[make_up_of(formula, replace(product, make_up=""))]
            self.make_up.setItemText(0, f"as usual: {usual}")
        self.make_up.setCurrentIndex(self.make_up.findData(product.make_up))
        filled = bool(product.filling)
        self.filling_is.setVisible(filled)
        self._captions["filling_is"].setVisible(filled)
        self.filling_is.setCurrentIndex(self.filling_is.findData(product.filling_is))

    def _show(self, name: str, shown: bool, words: str) -> None:
        self._captions[name].setText(words)
        self._captions[name].setVisible(shown)
        self.fields[name].setVisible(shown)
        self.fields[name].setAccessibleName(words)

    def _show_lines(self) -> None:
        there = (self._product.name, self._product.filling, self._product.topping)
        if there == self._shown_lines:
            return
        self._shown_lines = there
        clear(self._lines)
        for where in ("filling", "topping"):
            for i, line in enumerate(getattr(self._product, where)):
                self._lines.addLayout(self._line(where, i, line))

    def _line(self, where: str, at: int, line: Line) -> Any:
        name = self._session.reference.pantry[line.material].name
        field = Field(
            f"{name}, weight per piece", partial(self._take_line, where, at), self._on_error
        )
        field.show_value(weight_text(line.grams))
        field.setAlignment(Qt.AlignmentFlag.AlignRight)
        fix_width(field, 90)
        out = button("Remove", "quiet", partial(self._drop, where, at))
        out.setAccessibleName(f"{name} out")
        return row(
            label(f"{where.capitalize()}: {name.lower()}, per piece", "small"), None, field, out
        )

    def _take_line(self, where: str, at: int, text: str) -> None:
        lines = self._lines_still(where, at)
        lines[at] = replace(lines[at], grams=read_mass(text))
        self._put(**{where: tuple(lines)})

    def _lines_still(self, where: str, at: int) -> list[Line]:
        lines = list(getattr(self._product, where))
        if at >= len(lines):
            raise AplombError("This line is no longer in the product; nothing was changed.")
        return lines

    def _drop(self, where: str, at: int) -> None:
        lines = self._lines_still(where, at)
        del lines[at]
        self._put(**{where: tuple(lines)})


def _or_empty(size: float) -> str:
    return bare_text(size, "mm", 2) if size else ""


def _read_pressed(text: str) -> tuple[float, float]:
    """Read what a piece is pressed out to: nothing, one size, or length × width [mm]."""
    if text.strip() in ("", "0"):
        return 0.0, 0.0
    if any(sign in text for sign in "×x*"):
        return read_size(text)
    return read_length(text), 0.0


def _short(value: object) -> str:
    if isinstance(value, float):
        return num(value)
    return "changed" if isinstance(value, tuple) else str(value)
