"""What some batches need of every material, what is there, and what is to be bought."""

from collections.abc import Callable, Sequence
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel

from aplomb.core.base.figures import mass_text
from aplomb.core.batch.scaled import Scaled
from aplomb.core.kitchen.orders import Order, OrderLine, order_list
from aplomb.desk.kit.fields import card, clear, fix_width, label, plain_tip, wrapping
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.work.figures.local import currency_text
from aplomb.work.figures.typed import read_mass
from aplomb.work.words.measured import measure_words

HEADS = ("", "needed", "in stock", "buy")
WIDE = 84
"""Width of a stock's field at 100 % [px]."""


class OrderCard(QFrame):
    """The order list on screen; what is there is typed into it."""

    def __init__(self, session: Session, on_error: Callable[[str], None]) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._session, self._on_error = session, on_error
        self._shown: tuple[str, ...] | None = None
        self.fields: dict[str, Field] = {}
        self._figures: dict[str, tuple[QLabel, QLabel]] = {}
        frame, column = card()
        self._sum = wrapping("", "second")
        self._grid = QGridLayout()
        self._grid.setColumnStretch(0, 1)
        self._grid.setHorizontalSpacing(12)
        self._grid.setVerticalSpacing(3)
        column.addWidget(label("To order", "title"))
        column.addWidget(self._sum)
        column.addLayout(self._grid)
        around = QGridLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.addWidget(frame)

    def _look_changed(self) -> None:
        self._shown = None

    def show_order(self, batches: Sequence[Scaled]) -> None:
        """Show what batches need."""
        reference = self._session.reference
        order = order_list(batches, reference.pantry, self._session.kitchen.stock.materials)
        materials = tuple(line.material for line in order.lines)
        if materials != self._shown:
            self._shown = materials
            self._rebuild(order)
        for line in order.lines:
            needed, buy = self._figures[line.material]
            measure = measure_words(reference.house, reference.pantry[line.material], line.needed_g)
            needed.setText(mass_text(line.needed_g) + (f"\n{measure}" if measure else ""))
            buy.setText(_buy_text(line))
            self.fields[line.material].show_value(mass_text(line.stock_g) if line.stock_g else "")
        self._sum.setText(_sum_text(order, reference.house.currency))

    def _rebuild(self, order: Order) -> None:
        clear(self._grid)
        self.fields, self._figures = {}, {}
        if order.lines:
            for column, words in enumerate(HEADS):
                head = label(words, "small")
                head.setAlignment(Qt.AlignmentFlag.AlignRight)
                self._grid.addWidget(head, 0, column)
        for at, line in enumerate(order.lines, 1):
            name = label(line.name)
            name.setWordWrap(True)
            name.setMinimumWidth(40)
            name.setToolTip(plain_tip(line.supplier))
            field = Field(
                f"{line.name}, in stock", partial(self._take, line.material), self._on_error
            )
            field.setPlaceholderText("–")
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            fix_width(field, WIDE)
            figures = (label(), label())
            for column, widget in enumerate((name, figures[0], field, figures[1])):
                if isinstance(widget, QLabel) and column:
                    widget.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self._grid.addWidget(widget, at, column)
            self.fields[line.material] = field
            self._figures[line.material] = figures

    def _take(self, material: str, text: str) -> None:
        grams = read_mass(text, zero=True)
        stock = self._session.kitchen.stock
        there = {key: each for key, each in stock.materials.items() if key != material}
        if grams:
            there[material] = grams
        name = self._session.reference.pantry[material].name.lower()
        self._session.store.put_stock(
            f"{name}: {text.strip() or 'none'} there", replace(stock, materials=there)
        )


def _buy_text(line: OrderLine) -> str:
    if line.short_g <= 0:
        return "–"
    if line.pack_g:
        return f"{line.packs} × {mass_text(line.pack_g)}"
    return mass_text(line.short_g)


def _sum_text(order: Order, sign: str) -> str:
    if not order.lines:
        return "No products ordered yet, so there is nothing to buy."
    short = [line for line in order.lines if line.short_g > 0]
    if not short:
        return "All in stock."
    cost = order.cost()
    many = f"{len(short)} of {len(order.lines)} ingredients"
    return (
        f"{many}, {currency_text(cost, sign)}."
        if cost is not None
        else f"{many}; no total, because a price is missing."
    )
