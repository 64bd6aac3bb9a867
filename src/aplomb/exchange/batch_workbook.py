"""Batches as a workbook for an office program, with live sums: change a gram and all follows."""

import io
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from aplomb.core.kitchen.orders import order_list
from aplomb.core.paste.formula import IN_THE_PASTE, PART_NAMES, Part, allergens
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.study import Study
from aplomb.exchange.cells import safe

if TYPE_CHECKING:
    from openpyxl import Workbook
    from openpyxl.worksheet.worksheet import Worksheet

HEADS = (
    "part", "material", "for", "formula, g", "% on flour", "exact, g", "to weigh, g",
    "rounding difference, g",
    "price per kg", "cost", "flour",
)  # fmt: skip
FIRST = 9
"""Row of the first line."""
_FORBIDDEN = str.maketrans(dict.fromkeys("[]:*?/\\'", "-"))


def table_name(name: str, taken: Sequence[str]) -> str:
    """Give a name that office programs take for a table.

    At most 31 signs, none of them special, and no other's.
    """
    plain = name.translate(_FORBIDDEN).strip()[:31] or "Batch"
    number, found = 2, plain
    while found.casefold() in (t.casefold() for t in taken):
        end = f" {number}"
        found, number = plain[: 31 - len(end)] + end, number + 1
    return found


def batch_workbook(
    studies: Sequence[Study], pantry: Pantry, stock: Mapping[str, float], currency: str = ""
) -> bytes:
    """Write batches and their order list as XLSX.

    An XLSX file. Exact and rounded grams, percentages, costs and sums are formulas over the
    formula's grams and the factor, so they follow when one of these is changed.

    Parameters
    ----------
    studies : sequence of Study
        One table each.
    pantry : Pantry
        With the prices.
    stock : mapping of float, by material
        On the shelf [g].
    currency : str
        Said beside costs.
    """
    from openpyxl import Workbook

    book = Workbook()
    book.remove(book.worksheets[0])
    for study in studies:
        name = table_name(study.formula.name, book.sheetnames)
        _batch(book.create_sheet(name), study, pantry, currency)
    _order(book, studies, pantry, stock, currency)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _batch(table: "Worksheet", study: Study, pantry: Pantry, currency: str) -> None:
    from openpyxl.styles import Font

    strong = Font(bold=True)
    f, scaled = study.formula, study.scaled
    table["A1"] = safe(f.name)
    table["A1"].font = Font(bold=True, size=16)
    table["A2"] = safe(f.purpose)
    for row, (words, value) in enumerate(
        (
            ("batch ÷ formula", scaled.factor),
            ("scale division, g", f.batch.division_g),
            ("pieces", scaled.pieces),
            ("blocks", scaled.blocks),
        ),
        3,
    ):
        table.cell(row, 1, words)
        table.cell(row, 4, value)
    for column, words in enumerate(HEADS, 1):
        money = f"cost {currency}".strip()
        table.cell(FIRST - 1, column, money if words == "cost" else words).font = strong
    row = FIRST
    last = FIRST + len(scaled.lines) - 1
    for weighed in scaled.lines:
        line = weighed.line
        each = pantry.per_gram(line.material)
        table.cell(row, 1, PART_NAMES[weighed.part])
        table.cell(row, 2, safe(pantry[line.material].name))
        table.cell(row, 3, safe(weighed.product))
        table.cell(row, 4, line.grams)
        in_paste = weighed.part in IN_THE_PASTE
        flour = in_paste and pantry[line.material].is_flour
        table.cell(row, 11, 1 if flour else 0)
        if weighed.part is Part.FILLING:  # grams a piece, times its pieces
            times = weighed.exact_g / line.grams if line.grams else 0
            table.cell(row, 6, f"=D{row}*{times:.12g}")
        else:
            table.cell(row, 5, f"=IF($D$7>0,100*D{row}/$D$7,0)")
            table.cell(row, 6, f"=D{row}*$D$3")
        table.cell(row, 7, f"=IF(F{row}>0,MAX($D$4,ROUND(F{row}/$D$4,0)*$D$4),0)")
        table.cell(row, 8, f"=G{row}-F{row}")
        if each is not None:
            table.cell(row, 9, each * 1000)
            table.cell(row, 10, f"=F{row}/1000*I{row}")
        row += 1
    table["A7"] = "flour in the formula, g"
    table["D7"] = f"=SUMPRODUCT(D{FIRST}:D{last},K{FIRST}:K{last})" if scaled.lines else 0
    _sums(table, study, row, last)
    table.cell(row + 4, 1, "allergens")
    table.cell(row + 4, 2, ", ".join(allergens(f, pantry)))
    table.cell(row + 5, 1, "turn line")
    table.cell(row + 5, 2, study.plan.line())
    for letter, wide in zip(
        "ABCDEFGHIJK", (22, 30, 18, 13, 12, 12, 12, 10, 13, 11, 7), strict=True
    ):
        table.column_dimensions[letter].width = wide
    for cells in table.iter_rows(FIRST, row + 1, 4, 10):
        for cell in cells:
            cell.number_format = "0.00" if cell.column in (9, 10) else "0.0"
    table.freeze_panes = f"A{FIRST}"


def _sums(table: "Worksheet", study: Study, row: int, last: int) -> None:
    from openpyxl.styles import Font

    names = [PART_NAMES[part] for part in IN_THE_PASTE]
    paste = " + ".join(
        f'SUMIF($A${FIRST}:$A${last},"{name}",{{c}}${FIRST}:{{c}}${last})' for name in names
    )
    there = bool(study.scaled.lines)
    for at, (words, columns) in enumerate((("paste", "DFGH"), ("everything", "J")), row):
        table.cell(at, 1, words).font = Font(bold=True)
        for letter in columns:
            column = "ABCDEFGHIJ".index(letter) + 1
            whole = f"SUM({letter}${FIRST}:{letter}${last})"
            formula = paste.format(c=letter) if words == "paste" else whole
            table.cell(at, column, f"={formula}" if there else 0).font = Font(bold=True)


def _order(
    book: "Workbook",
    studies: Sequence[Study],
    pantry: Pantry,
    stock: Mapping[str, float],
    currency: str,
) -> None:
    from openpyxl.styles import Font

    table = book.create_sheet(table_name("Order list", book.sheetnames))
    heads = (
        "supplier",
        "material",
        "needed, g",
        "in stock, g",
        "pack, g",
        "packs to buy",
        "price per pack",
        f"cost {currency}".strip(),
        "left over, g",
    )
    for column, words in enumerate(heads, 1):
        table.cell(1, column, words).font = Font(bold=True)
    order = order_list([s.scaled for s in studies], pantry, stock)
    row = 2
    for line in order.lines:
        table.cell(row, 1, safe(line.supplier))
        table.cell(row, 2, safe(line.name))
        table.cell(row, 3, line.needed_g)
        table.cell(row, 4, line.stock_g)
        pack = pantry.pack(line.material)
        if pack is not None:
            table.cell(row, 5, pack.pack_g)
            table.cell(row, 6, f"=MAX(0,ROUNDUP((C{row}-D{row})/E{row}-0.000001,0))")
            table.cell(row, 7, pack.price)
            table.cell(row, 8, f"=F{row}*G{row}")
            table.cell(row, 9, f"=D{row}+F{row}*E{row}-C{row}")
        row += 1
    table.cell(row, 1, "total").font = Font(bold=True)
    table.cell(row, 8, f"=SUM(H2:H{row - 1})" if row > 2 else 0).font = Font(bold=True)
    for letter, wide in zip("ABCDEFGHI", (20, 30, 12, 12, 12, 13, 15, 12, 13), strict=True):
        table.column_dimensions[letter].width = wide
    table.freeze_panes = "A2"
