"""Papers of a run: labels for its blocks with a code to scan, and the day's log sheet."""

from collections.abc import Sequence
from datetime import date

from msgspec import Struct
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from aplomb.core.base.figures import mass_text, num
from aplomb.core.base.house import Labels
from aplomb.desk.kit.theme import TITLE
from aplomb.desk.paper.canvas import UNIT, Canvas, pdf_of
from aplomb.desk.paper.page import GREY, INK, MARGIN, WIDE, PrintedPage, font
from aplomb.work.bench.log import LogLine, OutOfCold
from aplomb.work.figures.local import date_text

INNER = WIDE - 2 * MARGIN


class BlockLabel(Struct, frozen=True):
    """What stands on the label of a block that goes back to the cold.

    Attributes
    ----------
    turns : str
        Turns done of those planned, with the convention.
    cold : str
        ``fridge`` or ``freezer``.
    allergens : tuple of str
        Of the block, not of filling or finish.
    purpose : str
        What it is for; empty when that is not said.
    """

    name: str
    block: str
    code: str
    turns: str
    mass_g: float
    made: date
    use_by: date
    cold: str
    allergens: tuple[str, ...]
    purpose: str = ""


def code_cells(code: str) -> tuple[tuple[bool, ...], ...]:
    """Give the cells of a code that a scanner reads, dark or not.

    Without the margin that it wants.
    """
    import segno

    found = segno.make(code, micro=False, error="m")
    return tuple(tuple(bool(cell) for cell in row) for row in found.matrix)


def _paint_code(p: QPainter, box: QRectF, code: str) -> None:
    cells = code_cells(code)
    side = min(box.width(), box.height()) / len(cells)
    for y, row in enumerate(cells):
        for x, dark in enumerate(row):
            if dark:
                p.fillRect(
                    QRectF(
                        (box.left() + x * side) * UNIT,
                        (box.top() + y * side) * UNIT,
                        side * UNIT + 0.6,
                        side * UNIT + 0.6,
                    ),
                    INK,
                )


def paint_block_labels(canvas: Canvas, blocks: Sequence[BlockLabel], labels: Labels) -> None:
    """Paint a label for every block.

    Parameters
    ----------
    labels : Labels
        Of the house.
    """
    a_page = labels.columns * labels.rows
    for i, block in enumerate(blocks):
        at = i % a_page
        if i and at == 0:
            canvas.new_page()
        row, column = divmod(at, labels.columns)
        x = labels.left_mm + column * labels.across_mm
        y = labels.top_mm + row * labels.down_mm
        _label(canvas.painter, QRectF(x, y, labels.wide_mm, labels.high_mm), block)


def _label(p: QPainter, box: QRectF, block: BlockLabel) -> None:
    edge = min(4.0, box.width() * 0.05)
    inner = box.adjusted(edge, edge, -edge, -edge)
    size = min(1.3, box.height() / 54, box.width() / 88)
    code = min(20.0 * size, inner.height() * 0.5)
    corner = QRectF(inner.right() - code, inner.top(), code, code)
    words = inner.adjusted(0, 0, -code - 2, 0)
    p.save()
    p.setClipRect(QRectF(*(v * UNIT for v in (box.left(), box.top(), box.width(), box.height()))))
    _paint_code(p, corner, block.code)
    _write(
        p,
        QRectF(corner.left() - 4, corner.bottom() + 0.6, code + 4, 6),
        block.code,
        11 * size,
        600,
        right=True,
    )
    y = words.top()
    y += _write(p, words.translated(0, 0), block.name, 15 * size, 600, family=TITLE)
    lines = (
        (f"{block.block} · {mass_text(block.mass_g)}", 12.5 * size, 600),
        (block.turns, 13.5 * size, 700),
        (f"Made {date_text(block.made)}", 10.5 * size, 400),
        (f"Use by {date_text(block.use_by, weekday=True)}, {block.cold}", 12 * size, 700),
    )
    for text, points, weight in lines:
        room = words if y < corner.bottom() + 4 else inner
        y += _write(
            p, QRectF(room.left(), y, room.width(), inner.bottom() - y), text, points, weight
        )
    if block.purpose:
        y += _write(
            p,
            QRectF(inner.left(), y, inner.width(), inner.bottom() - y),
            f"For {block.purpose}",
            10.5 * size,
        )
    found = block.allergens
    said = "Contains " + ", ".join(found) if found else "No allergens listed for these ingredients"
    _write(p, QRectF(inner.left(), y, inner.width(), inner.bottom() - y), said, 10.5 * size, 600)
    p.restore()


def _write(
    p: QPainter,
    room: QRectF,
    words: str,
    points: float,
    weight: int = 400,
    *,
    family: str = "",
    right: bool = False,
) -> float:
    p.setFont(font(points, weight, family) if family else font(points, weight))
    p.setPen(INK)
    sides = (room.left(), room.top(), room.width(), max(1.0, room.height()))
    box = QRectF(*(v * UNIT for v in sides))
    flags = Qt.TextFlag.TextWordWrap.value | (Qt.AlignmentFlag.AlignRight.value if right else 0)
    p.drawText(box, flags, words)
    return float(p.boundingRect(box, flags, words).height() / UNIT)


def paint_log(
    canvas: Canvas,
    title: str,
    lines: Sequence[LogLine],
    out: Sequence[OutOfCold],
    corrective: str,
) -> None:
    """Paint the day's log sheet.

    Parameters
    ----------
    corrective : str
        What is said where no corrective action was taken.
    """
    page = PrintedPage(canvas, f"Log · {title}")
    first = lines[0].moment if lines else None
    page.head(title, "Bench log" + (f" · {date_text(first.date())}" if first else ""))
    page.title_line("Out of the cold")
    if not out:
        none = "No block was out of the fridge or freezer."
        page.y += page.text(MARGIN, page.y, INNER, none, font(11), GREY) + 1
    for each in out:
        page.room(7)
        back = f"{each.back:%H:%M}" if each.back else "still out"
        minutes = "" if each.minutes is None else f"{num(round(each.minutes))} min"
        page.text(MARGIN, page.y, 80, each.block, font(11))
        page.text(MARGIN + 82, page.y, 44, f"{each.out:%H:%M} to {back}", font(11, 600))
        page.text(MARGIN + 128, page.y, 20, minutes, font(11, 600))
        page.text(MARGIN + 148, page.y, INNER - 148, each.temps, font(11))
        page.y += 5.6
    page.title_line("Corrective action")
    found = [line for line in lines if line.corrective and not line.taken_back]
    if not found:
        page.y += page.text(MARGIN, page.y, INNER, corrective, font(11), GREY) + 1
    for line in found:
        page.room(10)
        page.text(MARGIN, page.y, 14, f"{line.moment:%H:%M}", font(11, 600))
        page.y += (
            page.text(
                MARGIN + 16, page.y, INNER - 16, f"{line.block}: {line.what}", font(11), wrap=True
            )
            + 1
        )
    page.title_line("What was done")
    for line in lines:
        page.room(7)
        grey = GREY if line.taken_back else INK
        page.text(MARGIN, page.y, 14, f"{line.moment:%H:%M}", font(10.5, 600), grey)
        page.text(MARGIN + 15, page.y, 8, line.block.partition(" ")[0], font(10.5), grey)
        what = line.what + (" (undone)" if line.taken_back else "")
        page.text(MARGIN + 24, page.y, 92, what, font(10.5), grey)
        value = line.value + (f"  was {line.was}" if line.was else "")
        page.text(MARGIN + 118, page.y, INNER - 132, value, font(10.5, 600), grey)
        page.text(MARGIN + INNER - 13, page.y, 13, line.who, font(10.5), grey)
        page.y += 5.2
    page.room(16)
    page.y += 3
    page.y += page.text(
        MARGIN,
        page.y,
        INNER,
        (
            "Your food law says which records to keep and for how long. This sheet helps you "
            "keep them; it proves nothing by itself."
        ),
        font(10.5),
        GREY,
        wrap=True,
    )


def log_pdf(title: str, lines: Sequence[LogLine], out: Sequence[OutOfCold]) -> bytes:
    """Give the log sheet as PDF."""
    none = "None recorded."
    return pdf_of(lambda canvas: paint_log(canvas, title, lines, out, none), f"Log: {title}")


def labels_pdf(blocks: Sequence[BlockLabel], labels: Labels) -> bytes:
    """Give labels of blocks as PDF."""
    size = (labels.page_wide_mm, labels.page_long_mm)
    return pdf_of(lambda canvas: paint_block_labels(canvas, blocks, labels), "Labels", size)
