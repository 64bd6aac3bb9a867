"""A supplier's sheet before it is taken in: what is new, what is replaced, what is wrong."""

from PySide6.QtWidgets import QDialog, QScrollArea, QVBoxLayout, QWidget

from aplomb.core.base.figures import bare_text, in_measures, number_text
from aplomb.desk.kit.fields import button, label, row, run_dialog
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.theme import look
from aplomb.exchange.pantry_csv import SupplierFile
from aplomb.work.local import currency_text

MOST_SHOWN = 400


def ask_sheet(parent: QWidget, sheet: SupplierFile, name: str, currency: str) -> bool:
    """Show what a sheet would bring; True when it shall be taken in."""
    dialog = QDialog(parent)
    dialog.setWindowTitle("Import supplier’s data")
    dialog.resize(look.theme.px(720), look.theme.px(520))
    column = QVBoxLayout(dialog)
    column.addWidget(label(name, "title"))
    new = sum(not each.instead_of for each in sheet.rows)
    words = f"{new} new, {len(sheet.rows) - new} in place of what is there"
    if sheet.troubles:
        words += f", {len(sheet.troubles)} that cannot be used"
    column.addWidget(label(f"{words}. Read as {sheet.words}."))
    if sheet.unknown:
        left = label(f"Columns left out: {', '.join(sheet.unknown[:8])}.", "small")
        left.setWordWrap(True)
        column.addWidget(left)
    area = QScrollArea()
    area.setWidgetResizable(True)
    inner = QWidget()
    inner.setObjectName("inner")
    lines = QVBoxLayout(inner)
    for trouble in sheet.troubles[:40]:
        text = label(
            f"Line {trouble.row}{f', {trouble.name}' if trouble.name else ''}: "
            f"{'; '.join(trouble.problems)}.", "wrong",
        )  # fmt: skip
        text.setWordWrap(True)
        lines.addWidget(text)
    if len(sheet.troubles) > 40:
        lines.addWidget(label(f"… and {len(sheet.troubles) - 40} more lines", "wrong"))
    table = FigureTable("What the sheet brings", 4)
    rows = [Row("Material", ("fat, %", "water, %", in_measures("pack, g"), "price"), "head")]
    for each in sheet.rows[:MOST_SHOWN]:
        material, pack = each.item.material, each.item.pack
        title = material.name if material else each.instead_of
        if each.instead_of:
            title += " (price only)" if material is None else " (instead)"
        c = material.composition if material else None
        rows.append(
            Row(
                title,
                (number_text(100 * c.fat) if c else "", number_text(100 * c.water) if c else "",
                 bare_text(pack.pack_g, "g", 1) if pack else "–",
                 currency_text(pack.price, currency) if pack else "–"),
            )
        )  # fmt: skip
    if len(sheet.rows) > MOST_SHOWN:
        rows.append(Row(f"… and {len(sheet.rows) - MOST_SHOWN} more", (), "same"))
    table.show_rows(tuple(rows))
    lines.addWidget(table)
    lines.addStretch(1)
    area.setWidget(inner)
    column.addWidget(area, 1)
    taken: list[bool] = []

    def take() -> None:
        taken.append(True)
        dialog.accept()

    count = len(sheet.rows)
    take_in = button(f"Import {count} material{'s' if count != 1 else ''}", "main", take)
    take_in.setEnabled(count > 0)
    take_in.setDefault(True)
    column.addLayout(row(None, button("Cancel", "", dialog.reject), take_in))
    run_dialog(dialog)
    return bool(taken)
