"""Products and cut plan: what is made of the paste, and how its sheet is cut."""

from functools import partial
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QListView,
    QVBoxLayout,
)

from aplomb.core.base.figures import (
    bare_text,
    decimal_sign,
    mass_text,
    mm_text,
    num,
    number_text,
)
from aplomb.core.base.quantity import parse_count, parse_percent
from aplomb.core.base.texts import counted
from aplomb.core.batch.blanks import Blank
from aplomb.core.batch.cut_search import NOT_ORDERED
from aplomb.core.batch.cutting import CutPlan
from aplomb.core.batch.scaled import Scaled
from aplomb.core.batch.sheets import Sheets
from aplomb.core.batch.trays import own_piece
from aplomb.core.kitchen.cut_plan import taken
from aplomb.core.paste.product import Cutting, Product
from aplomb.core.study.study import Study
from aplomb.desk.batch.cut_view import CutView
from aplomb.desk.batch.product_editor import ProductEditor, size_text
from aplomb.desk.drawings.cut_plan import letter, part_letter, roll_size, sheet_size
from aplomb.desk.kit.fields import button, card, fit_rows, label, plain_tip, row, wrapping
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.figures.typed import read_length, read_mass
from aplomb.work.words.steps import blank_size, counts_as_cut, what_is_cut

ROWS_WORDS = {"": "either", "across": "across", "along": "lengthwise"}
LIES_WORDS = {"bench": "the bench", "tray": "a tray, uncut"}
TIPS = {
    "relax_along_pct": "How far the sheet shrinks back along the last rolling before it is cut",
    "relax_across_pct": "How far the sheet shrinks back across the last rolling",
    "edge_mm": "Trimmed off every rolled edge; 5 to 15 mm is common practice",
    "scrap_pct": "The largest share of new paste that may be scrap, stacked flat",
    "scrap_g": "Scrap from earlier batches. Whatever you use is paste you need not make",
}


class CutPage(Page):
    """Products at the side, the sheet in the middle."""

    KEY = "cut"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.at = 0
        self.sheets: Sheets | None = None
        self._shown_plan = 0
        self.cut_fields: dict[str, Field] = {}
        left, right = QVBoxLayout(), QVBoxLayout()
        left.setSpacing(10)
        right.setSpacing(8)
        left.addWidget(self._products_card())
        left.addWidget(self._sheet_card())
        left.addStretch(1)
        self._build_right(right)
        self._body.addLayout(self.two_sides(left, right, (4, 7)), 1)
        self.refresh()

    def _products_card(self) -> QFrame:
        frame, column = card()
        self._names = QStringListModel(self)
        self.list = QListView()
        self.list.setObjectName("picks")
        self.list.setAccessibleName("Products")
        self.list.setModel(self._names)
        self.list.setEditTriggers(QListView.EditTrigger.NoEditTriggers)
        self.list.selectionModel().currentChanged.connect(lambda now, _: self._pick(now.row()))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        self._empty = wrapping(
            "No products yet. Add what you cut from this sheet: sizes, and how many.",
            "second",
        )
        self.add = button("Add", "", self._add, "Adds a product the size of the batch’s piece")
        self.copy = button("Copy", "", self._copy)
        self.out = button("Remove", "", self._remove, "Undo brings it back")
        self.out.setAccessibleName("Remove the product")
        self.editor = ProductEditor(self._session, self._change, self.show_error)
        column.addWidget(self._empty)
        column.addWidget(self.list)
        column.addLayout(row(self.add, self.copy, self.out, None))
        column.addWidget(self.editor)
        return frame

    def _sheet_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("The sheet", "strong"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        mm = partial(read_length, zero=True)
        percent = partial(parse_percent, decimal=decimal_sign())
        for name, words, read, at in (
            ("length_mm", "Length, mm", mm, (0, 0)),
            ("width_mm", "Width, mm", mm, (0, 2)),
            ("relax_along_pct", "Shrink-back lengthwise, %", percent, (1, 0)),
            ("relax_across_pct", "across, %", percent, (1, 2)),
            ("edge_mm", "Edge trim, mm", mm, (2, 0)),
            ("scrap_pct", "Scrap reworked, %", percent, (4, 0)),
            ("scrap_g", "in stock", partial(read_mass, zero=True), (4, 2)),
        ):
            field = Field(words, partial(self._take_cutting, name, read), self.show_error)
            self._pair(grid, *at, words, field)
            self.cut_fields[name] = field
        self.cut_fields["relax_along_pct"].setAccessibleName("Shrink-back lengthwise, %")
        self.cut_fields["relax_across_pct"].setAccessibleName("Shrink-back crosswise, %")
        self.cut_fields["scrap_g"].setAccessibleName("Scrap in stock")
        self.cut_fields["scrap_g"].setPlaceholderText("none")
        for name in ("length_mm", "width_mm"):
            self.cut_fields[name].setPlaceholderText("–")
            self.cut_fields[name].setToolTip("Size as cut. Leave empty for the best size")
        for name, words in TIPS.items():
            self.cut_fields[name].setToolTip(plain_tip(words))
            self.cut_fields[name].setAccessibleDescription(words)
        self._blocks = Field("Blocks", self._take_blocks, self.show_error, eager=True)
        self._blocks.setPlaceholderText("few")
        self._blocks.setToolTip("At least so many; empty for as few as bench and bowl allow")
        self._rows = QComboBox()
        self._rows.setAccessibleName("Cut rows")
        for key, words in ROWS_WORDS.items():
            self._rows.addItem(words, key)
        self._rows.activated.connect(lambda _: self._cutting(rows=self._rows.currentData()))
        self._pair(grid, 2, 2, "Blocks", self._blocks)
        self._lies = QComboBox()
        self._lies.setAccessibleName("The sheet rests on")
        self._lies.setToolTip(
            "A sheet that rests or bakes uncut on a tray can be no larger than the tray"
        )
        for key, words in LIES_WORDS.items():
            self._lies.addItem(words, key)
        self._lies.activated.connect(lambda _: self._cutting(lies_on=self._lies.currentData()))
        self._pair(grid, 3, 0, "Cut rows", self._rows, 3)
        self._pair(grid, 5, 0, "Rests on", self._lies, 3)
        column.addLayout(grid)
        return frame

    @staticmethod
    def _pair(
        grid: QGridLayout, at: int, column: int, words: str, widget: Any, wide: int = 1
    ) -> None:
        grid.addWidget(label(words, "small"), at, column)
        widget.setMinimumWidth(44)
        if isinstance(widget, Field):
            widget.setAlignment(Qt.AlignmentFlag.AlignRight)
        grid.addWidget(widget, at, column + 1, 1, wide)

    def _build_right(self, column: QVBoxLayout) -> None:
        self._big: QLabel = label("", "big")
        self._words: QLabel = label("", "second")
        for words in (self._big, self._words):
            words.setWordWrap(True)
            words.setMinimumWidth(60)
        self._which = QComboBox()
        self._which.setAccessibleName("Thickness shown")
        self._which.activated.connect(self._choose_plan)
        self.view = CutView()
        self.take = button("Keep this sheet", "main", self._take_plan)
        self.take.setToolTip("Other numbers are then cut from sheets of this size, more or fewer")
        self.again = button(
            "Search again",
            "",
            self._search_again,
            "Forgets the sheet sizes you set and searches from scratch",
        )
        self._svg = button("Cut plan as SVG…", "", self._give_svg)
        self._flow = Flow(self.take, self.again, self._which, self._svg, spacing=8)
        self.table = FigureTable("Pieces of the plan", 5)
        self.balance = FigureTable("Where the paste goes", 3)
        column.addWidget(self._big)
        column.addWidget(self._words)
        column.addWidget(self.view, 6)
        column.addLayout(self._flow)
        column.addWidget(self.table)
        column.addWidget(self.balance)
        column.addStretch(1)

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        formula = self._session.formula
        self.first_focus(self.list if formula and formula.products else self.add)

    def _take_cutting(self, name: str, read: Any, text: str) -> None:
        self._cutting(**{name: read(text)})

    def _cutting(self, **changes: Any) -> None:
        words = ", ".join(f"{k.removesuffix('_mm')} {v}" for k, v in changes.items())
        self._session.shelf.edit(
            f"sheet: {words}", lambda f: replace(f, cutting=replace(f.cutting, **changes))
        )

    def _take_blocks(self, text: str) -> None:
        blocks = parse_count(text, 10_000) if text.strip() else 1
        self._session.shelf.edit(
            f"{blocks} blocks", lambda f: replace(f, batch=replace(f.batch, blocks=blocks))
        )

    def _pick(self, at: int) -> None:
        if at >= 0:
            self.at = at
            self._show_product()

    def _add(self) -> None:
        formula = self._session.formula
        if formula is None:
            return
        first = not formula.products
        made = own_piece(formula) if first else Product("", wanted=0)
        names = {p.name for p in formula.products}
        number = len(names) + 1
        while f"Product {number}" in names:
            number += 1
        made = replace(
            made,
            name=f"Product {number}",
            length_mm=round(made.length_mm),
            width_mm=round(made.width_mm),
        )
        self.at = len(formula.products)
        self._session.shelf.edit(
            "add a product", lambda f: replace(f, products=(*f.products, made))
        )
        self.editor.fields["name"].setFocus(Qt.FocusReason.TabFocusReason)

    def _copy(self) -> None:
        formula = self._session.formula
        if formula is None or self.at >= len(formula.products):
            return
        product, names = formula.products[self.at], {p.name for p in formula.products}
        name, number = f"{product.name[:70]} copy", 2
        while name in names:
            name, number = f"{product.name[:70]} copy {number}", number + 1
        self.at = len(formula.products)
        self._session.shelf.edit(
            f"copy {product.name}",
            lambda f: replace(f, products=(*f.products, replace(product, name=name))),
        )

    def _remove(self) -> None:
        formula = self._session.formula
        if formula is None or self.at >= len(formula.products):
            return
        at, name = self.at, formula.products[self.at].name
        self.at = max(0, at - 1)
        self._session.shelf.edit(
            f"{name} out",
            lambda f: replace(f, products=(*f.products[:at], *f.products[at + 1 :])),
        )

    def _change(self, words: str, product: Product) -> None:
        at = self.at
        self._session.shelf.edit(
            words,
            lambda f: replace(f, products=(*f.products[:at], product, *f.products[at + 1 :])),
        )

    def refresh(self) -> None:
        """Show the formula in hand with its cut plan, or the last one while another is searched."""
        study = self._session.study
        if study is None:
            return
        formula = study.formula
        self.at = min(self.at, max(0, len(formula.products) - 1))
        self._names.setStringList(
            [
                f"{letter(i)}  {p.name} · {size_text(p, formula.sheet_mm)}"
                f" · {number_text(p.wanted, 0)}"
                for i, p in enumerate(formula.products)
            ]
        )
        there = bool(formula.products)
        self._empty.setVisible(not there)
        for widget in (self.list, self.editor, self.copy, self.out):
            widget.setVisible(there)
        fit_rows(self.list, min(5, max(1, len(formula.products))))
        if there:
            self.list.setCurrentIndex(self._names.index(self.at))
            self._show_product()
        self._show_cutting(formula.cutting)
        least = formula.batch.blocks
        self._blocks.show_value(number_text(least, 0) if least > 1 else "")
        self._show_sheets(study)

    def _show_product(self) -> None:
        formula = self._session.formula
        if formula is not None and self.at < len(formula.products):
            self.editor.show_product(formula.products[self.at])

    def _show_cutting(self, cutting: Cutting) -> None:
        for name, field in self.cut_fields.items():
            value = getattr(cutting, name)
            if name == "scrap_g":
                field.show_value(mass_text(value) if value else "")
                continue
            found = name in ("length_mm", "width_mm") and not value
            unit = "mm" if name.endswith("_mm") else ""
            field.show_value("" if found else bare_text(value, unit, 1))
        self._rows.setCurrentIndex(self._rows.findData(cutting.rows))
        self._lies.setCurrentIndex(self._lies.findData(cutting.lies_on))
        self.again.setVisible(bool(cutting.length_mm or cutting.width_mm))

    @property
    def waits(self) -> bool:
        """True while another plan is searched."""
        study = self._session.study
        return study is not None and study.cut_waits

    def _show_sheets(self, study: Study) -> None:
        found = study.cut
        if found is None:
            self.sheets = None
            if study.cut_waits:
                self._big.setText("Cut plan")
                self._words.setText("Searching for the best sheet …")
            else:
                self._big.setText("No cut plan yet")
                waits = NOT_ORDERED if study.formula.products else ""
                self._words.setText(study.cut_trouble or waits)
            self.view.show_plan(None, [])
            self.table.show_rows(())
            self.balance.show_rows(())
            self.take.setEnabled(False)
            self._which.hide()
            return
        self.sheets = found
        self._shown_plan = min(self._shown_plan, len(found.plans) - 1)
        self._which.clear()
        for plan in found.plans:
            one = study.formula.products[plan.products[0]].name
            thick = f"{mm_text(plan.sheet.height_mm, 2)} thick"
            self._which.addItem(one if plan.untrimmed else thick)
        self._which.setCurrentIndex(self._shown_plan)
        self._which.setVisible(len(found.plans) > 1)
        self.take.setEnabled(len(found.plans) == 1)
        self._show_plan()

    def _choose_plan(self, at: int) -> None:
        self._shown_plan = at
        self._show_plan()

    @property
    def plan(self) -> CutPlan | None:
        """The plan that is shown."""
        return self.sheets.plans[self._shown_plan] if self.sheets else None

    def _show_plan(self) -> None:
        plan, sheets, study = self.plan, self.sheets, self._session.study
        if plan is None or sheets is None or study is None:
            return
        names = [p.name for p in study.formula.products]
        blocks = counted(plan.blocks, "1 block", "{} blocks")
        self._big.setText(
            f"{counted(plan.sheets, '1 sheet', '{} sheets')} of {sheet_size(plan)} from {blocks}"
        )
        rolled = plan.rolled
        words = (
            f"Roll to {roll_size(plan)}, "
            f"{mm_text(rolled.height_mm, 1)} thick; let it shrink back to "
            f"{mm_text(plan.sheet.height_mm, 2)} thick"
            + (
                "; it is used as it is, not trimmed."
                if plan.untrimmed
                else f", then cut. {number_text(plan.yield_pct)} % of the sheet goes into pieces."
            )
        )
        if any(plan.lacking()):
            words += f" {sum(plan.lacking())} of the ordered pieces do not fit on this sheet."
        if study.cut_waits:
            words = f"A new plan is being searched; until then the last one stands. {words}"
        self._words.setText(words)
        self.view.show_plan(plan, names)
        self.table.show_rows(tuple(_piece_rows(plan, study.formula.products)))
        self.balance.show_rows(tuple(_balance_rows(sheets, plan, study.scaled)))

    def _take_plan(self) -> None:
        sheets = self.sheets
        if sheets is not None:
            self._session.shelf.edit("keep the sheet", lambda f: taken(f, sheets))

    def _search_again(self) -> None:
        self._cutting(length_mm=0.0, width_mm=0.0, rows="", sheets_a_block=0)

    def _give_svg(self) -> None:
        plan, formula = self.plan, self._session.formula
        if plan is not None and formula is not None:
            self.asked.emit("cut svg", plan)


def _piece_rows(plan: CutPlan, products: tuple[Product, ...]) -> list[Row]:
    found = [Row("Piece", ("per sheet", "in all", "ordered", "spare", "as cut"), "head")]
    for i, product in enumerate(plan.products):
        mine = plan.cut_of(i)
        made, wanted = plan.pieces()[i], products[product].wanted
        parts = _part_rows(plan, product, mine)
        size = "" if parts else " + ".join(blank_size(b, 0) for _, b in mine)
        over = number_text(made - wanted, 0) if made >= wanted else f"{wanted - made} short"
        found.append(
            Row(
                f"{letter(product)}  {products[product].name}",
                (
                    "" if parts else number_text(mine[0][0], 0),
                    number_text(made, 0),
                    number_text(wanted, 0),
                    over,
                    size,
                ),
                "changed" if made < wanted else "plain",
            )
        )
        found += parts
    return found


def _part_rows(plan: CutPlan, product: int, mine: list[tuple[int, Blank]]) -> list[Row]:
    """One row for each outline of a product whose outlines are not its pieces."""
    if not counts_as_cut(mine):
        return []
    return [
        Row(
            f"     {part_letter(product, at) if len(mine) > 1 else ''}  {what_is_cut(blank)}",
            (number_text(n, 0), number_text(n * plan.sheets, 0), "", "", blank_size(blank, 0)),
        )
        for at, (n, blank) in enumerate(mine)
    ]


def _balance_rows(sheets: Sheets, plan: CutPlan, scaled: Scaled) -> list[Row]:
    def line(words: str, area: float) -> Row:
        each = sheets.grams(plan, area)
        share = plan.share_pct(area)
        return Row(
            words, (mass_text(each), mass_text(each * plan.sheets), f"{num(share, '.1f')} %")
        )

    found = [
        Row("Paste of the sheets", ("per sheet", "in all", "share"), "head"),
        line("In pieces", plan.pieces_mm2),
        line("Rolled edges trimmed", plan.edges_mm2),
        line("Between the pieces", plan.between_mm2),
    ]
    if plan.holes_mm2 > 0:
        found.append(line("Cut out and not used", plan.holes_mm2))
    words = f"Scrap left: {mass_text(sheets.scrap_g)}, for new paste, bases, twists, oven tests"
    if scaled.scrap_in_g > 0:
        words += f"; {mass_text(scaled.scrap_in_g)} of earlier batches is in these sheets"
    found.append(Row(words, (), "same"))
    return found
