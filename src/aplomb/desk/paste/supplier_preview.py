"""A supplier's data before they are imported: what is new, what is replaced, what is wrong."""

from PySide6.QtWidgets import QDialog, QScrollArea, QVBoxLayout, QWidget

from aplomb.core.base.figures import bare_text, in_measures, number_text
from aplomb.core.base.texts import counted
from aplomb.desk.kit.fields import button, label, row, run_dialog
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.theme import look
from aplomb.exchange.pantry_csv import SupplierFile
from aplomb.exchange.supplier_row import SupplierItem
from aplomb.work.figures.local import currency_text

MOST_SHOWN = 400
MOST_TROUBLES = 40


def ask_import(parent: QWidget, found: SupplierFile, name: str, currency: str) -> bool:
    """Show what a supplier's file would bring; True when it shall be imported."""
    dialog = QDialog(parent)
    dialog.setWindowTitle("Import supplier’s data")
    dialog.resize(look.theme.px(720), look.theme.px(520))
    column = QVBoxLayout(dialog)
    column.addWidget(label(name, "title"))
    column.addWidget(label(_summary(found)))
    if found.unknown:
        column.addWidget(_wrapped(f"Columns left out: {', '.join(found.unknown[:8])}.", "small"))
    area = QScrollArea()
    area.setWidgetResizable(True)
    inner = QWidget()
    inner.setObjectName("inner")
    lines = QVBoxLayout(inner)
    for trouble in found.troubles[:MOST_TROUBLES]:
        where = f"Line {trouble.row}{f', {trouble.name}' if trouble.name else ''}"
        lines.addWidget(_wrapped(f"{where}: {'; '.join(trouble.problems)}.", "wrong"))
    if len(found.troubles) > MOST_TROUBLES:
        lines.addWidget(label(f"… and {len(found.troubles) - MOST_TROUBLES} more lines", "wrong"))
    table = FigureTable("What the file brings", 4)
    table.show_rows(_rows(found, currency))
    lines.addWidget(table)
    lines.addStretch(1)
    area.setWidget(inner)
    column.addWidget(area, 1)
    taken: list[bool] = []

    def take() -> None:
        taken.append(True)
        dialog.accept()

    count = len(found.rows)
    take_in = button(counted(count, "Import 1 ingredient", "Import {} ingredients"), "main", take)
    take_in.setEnabled(count > 0)
    take_in.setDefault(True)
    column.addLayout(row(None, button("Cancel", "", dialog.reject), take_in))
    run_dialog(dialog)
    return bool(taken)


def _wrapped(words: str, kind: str) -> QWidget:
    made = label(words, kind)
    made.setWordWrap(True)
    return made


def _summary(found: SupplierFile) -> str:
    new = sum(not each.instead_of for each in found.rows)
    words = f"{new} new, {len(found.rows) - new} replacing what you have"
    if found.troubles:
        words += f", {len(found.troubles)} that cannot be used"
    return f"{words}. Read as {found.words}."


def _rows(found: SupplierFile, currency: str) -> tuple[Row, ...]:
    rows = [Row("Ingredient", ("fat, %", "water, %", in_measures("pack, g"), "price"), "head")]
    rows += [_row(each, currency) for each in found.rows[:MOST_SHOWN]]
    if len(found.rows) > MOST_SHOWN:
        rows.append(Row(f"… and {len(found.rows) - MOST_SHOWN} more", (), "same"))
    return tuple(rows)


def _row(each: SupplierItem, currency: str) -> Row:
    material, pack = each.item.material, each.item.pack
    title = material.name if material else each.instead_of
    if each.instead_of:
        title += " (price only)" if material is None else " (replaced)"
    c = material.composition if material else None
    return Row(
        title,
        (
            number_text(100 * c.fat) if c else "",
            number_text(100 * c.water) if c else "",
            bare_text(pack.pack_g, "g", 1) if pack else "–",
            currency_text(pack.price, currency) if pack else "–",
        ),
    )
