"""The cut plan on paper: a page for each sheet, or at its true size on pages to be joined."""

import math

from PySide6.QtCore import QLineF, QRectF, Qt
from PySide6.QtGui import QPen

from aplomb.core.base.figures import cm_text, in_measures, mass_text, mm_text, number_text, sides_cm
from aplomb.core.base.texts import counted
from aplomb.core.batch.cut_search import NOT_ORDERED
from aplomb.core.batch.cutting import CutPlan
from aplomb.core.batch.layout import Placed
from aplomb.core.batch.sheets import Sheets
from aplomb.core.study.study import Study
from aplomb.desk.drawings.cut_plan import (
    Marks,
    letter,
    paint_cut_plan,
    part_letter,
    roll_size,
    sheet_size,
)
from aplomb.desk.paper.canvas import UNIT, Canvas
from aplomb.desk.paper.job import Job
from aplomb.desk.paper.page import GREY, HIGH, INK, MARGIN, WIDE, PrintedPage, font
from aplomb.work.words.steps import blank_size, counts_as_cut, what_is_cut

INNER = WIDE - 2 * MARGIN
MOST_TILES = 120
"""So many pages a sheet is drawn on at its true size at most [-]: two metres by three."""
TILE = (180.0, 250.0)
"""What one page of the plan at true size shows, wide and high [mm]."""


def _sheets(study: Study) -> Sheets | str:
    return study.cut or study.cut_trouble or NOT_ORDERED


def paint_cut(canvas: Canvas, job: Job) -> None:
    """Paint each sheet on a page, with what it gives."""
    first = True
    for study in job.studies:
        found = _sheets(study)
        plans = found.plans if isinstance(found, Sheets) else (None,)
        for plan in plans:
            if not first:
                canvas.new_page()
            first = False
            page = PrintedPage(canvas, f"Cut plan · {study.formula.name}")
            page.head(
                "Cut plan",
                study.formula.name,
                job.words(study),
            )
            if plan is None or isinstance(found, str):
                page.text(MARGIN, page.y, INNER, str(found), font(13), GREY, wrap=True)
            else:
                _plan(page, plan, found, study)


def _plan(page: PrintedPage, plan: CutPlan, sheets: Sheets, study: Study) -> None:
    rolled = plan.rolled
    for words in (
        (
            f"Roll {counted(plan.sheets, '1 sheet', '{} sheets')} to "
            f"{roll_size(plan)}, "
            f"{mm_text(rolled.height_mm, 1)} "
            f"thick, from {counted(plan.blocks, '1 block', '{} blocks')}."
        ),
        (
            "Lift the sheet and let it shrink back to "
            f"{sheet_size(plan)}, {mm_text(plan.sheet.height_mm, 2)} thick; "
            + (
                "it is used as it is."
                if plan.untrimmed
                else f"trim {mm_text(plan.edge_mm, 1)} off every rolled edge."
            )
        ),
        (
            "No edge is trimmed and nothing is cut."
            if plan.untrimmed
            else "Cut the thick lines first, from edge to edge, with a long sharp blade straight "
            "down."
        ),
    ):
        page.y += page.text(MARGIN, page.y, INNER, words, font(12.5), wrap=True) + 0.6
    page.y += 3
    _drawing(page, plan)
    names = [product.name for product in study.formula.products]
    rows = [row for i in range(len(plan.products)) for row in _piece_rows(plan, i, names)]
    page.table(
        ("", in_measures("as cut, mm"), "per sheet", "in all"),
        rows,
        (62.0, 24.0, 24.0),
        points=12.5,
    )
    page.y += 1
    scrap = sheets.grams(plan, plan.edges_mm2 + plan.between_mm2 + plan.holes_mm2) * plan.sheets
    page.text(
        MARGIN,
        page.y,
        INNER,
        (
            f"{number_text(plan.yield_pct)} % of the sheet goes into pieces; "
            f"{mass_text(scrap)} is scrap. Stack it flat, never ball it."
        ),
        font(12),
    )


def _drawing(page: PrintedPage, plan: CutPlan) -> None:
    """Draw the sheet to scale; a long one stands on the page."""
    upright = plan.sheet.length_mm > plan.sheet.width_mm * 1.25
    room_high = 118.0 if not upright else 150.0
    p = page.painter
    if upright:  # a long sheet stands on the page
        scale = min(room_high / plan.sheet.length_mm, (INNER - 12) / plan.sheet.width_mm)
        wide, high = plan.sheet.length_mm * scale, plan.sheet.width_mm * scale
        left = MARGIN + (INNER + high) / 2
        p.save()
        p.translate(left * UNIT, page.y * UNIT)
        p.rotate(90)
        _draw(page, QRectF(0, 0, wide * UNIT, high * UNIT), scale * UNIT, plan, turned=True)
        p.restore()
        _sizes(page, (left - high, page.y, high, wide), plan)
        page.y += wide + 10
    else:
        scale = min((INNER - 10) / plan.sheet.length_mm, room_high / plan.sheet.width_mm)
        wide, high = plan.sheet.length_mm * scale, plan.sheet.width_mm * scale
        where = QRectF(MARGIN * UNIT, page.y * UNIT, wide * UNIT, high * UNIT)
        _draw(page, where, scale * UNIT, plan)
        page.y += high + 12


def _piece_rows(plan: CutPlan, i: int, names: list[str]) -> list[tuple[str, ...]]:
    """Give the rows of one product of a plan: one more for each part it is cut in."""
    product = plan.products[i]
    mine = plan.cut_of(i)
    several = counts_as_cut(mine)
    whole = (
        f"{letter(product)}  {names[product]}",
        "" if several else blank_size(mine[0][1]),
        "" if several else str(mine[0][0]),
        number_text(plan.pieces()[i], 0),
    )
    if not several:
        return [whole]
    return [
        whole,
        *(
            (
                f"    {part_letter(product, at) if len(mine) > 1 else ''}  {what_is_cut(b)}",
                blank_size(b),
                str(c),
                number_text(c * plan.sheets, 0),
            )
            for at, (c, b) in enumerate(mine)
        ),
    ]


def _draw(
    page: PrintedPage, where: QRectF, scale: float, plan: CutPlan, *, turned: bool = False
) -> None:
    marks = Marks(font(11, 600), INK, GREY, sizes=not turned, turned=turned)
    paint_cut_plan(page.painter, where, scale, plan, marks)


def _sizes(page: PrintedPage, box: tuple[float, float, float, float], plan: CutPlan) -> None:
    """Write the sizes of a sheet that stands upright: its length at the left, its width below."""
    left, top, wide, high = box
    face = font(11, 600)
    page.text(left - 32, top + high / 2 - 3, 29, cm_text(plan.sheet.length_mm, 1), face, right=True)
    page.text(left, top + high + 1.5, wide, cm_text(plan.sheet.width_mm, 1), face)
    page.text(left - 36, top + 0.5, 26, "last rolled this way", font(10.5), GREY, right=True)
    p = page.painter
    p.setPen(QPen(GREY, 0.3 * UNIT))
    x, y = (left - 5) * UNIT, top * UNIT
    p.drawLine(QLineF(x, y + UNIT, x, y + 16 * UNIT))
    for side in (-1.2, 1.2):
        p.drawLine(QLineF(x, y + 16 * UNIT, x + side * UNIT, y + 14.2 * UNIT))


def paint_cut_full(canvas: Canvas, job: Job) -> None:
    """Paint each sheet at its true size on pages that are joined along their crosses."""
    first = True
    for study in job.studies:
        found = _sheets(study)
        plans = found.plans if isinstance(found, Sheets) else ()
        refused = [found] if isinstance(found, str) else [w for p in plans if (w := too_large(p))]
        for words in refused:
            if not first:
                canvas.new_page()
            first = False
            page = PrintedPage(canvas, f"Cut plan 1 : 1 · {study.formula.name}")
            page.head("Cut plan at true size", study.formula.name)
            page.text(MARGIN, page.y, INNER, words, font(13), GREY, wrap=True)
        for plan in (each for each in plans if not too_large(each)):
            pieces = tuple(plan.layout.placed())
            for column, row in tiles(plan):
                if not first:
                    canvas.new_page()
                first = False
                _tile(canvas, plan, pieces, (column, row), study.formula.name)


def too_large(plan: CutPlan) -> str:
    """Say that a sheet takes too many pages at its true size; empty when it does not."""
    many = len(tiles(plan))
    if many <= MOST_TILES:
        return ""
    return (
        f"A sheet of {sides_cm(plan.sheet.length_mm, plan.sheet.width_mm, 1)} takes {many} pages "
        f"at its true size; up to {MOST_TILES} are made. Print the cut plan to scale instead, or "
        "make the sheet smaller."
    )


def tiles(plan: CutPlan) -> list[tuple[int, int]]:
    """Give column and row of every page that a sheet takes at its true size."""
    columns = math.ceil(plan.sheet.length_mm / TILE[0])
    rows = math.ceil(plan.sheet.width_mm / TILE[1])
    return [(column, row) for row in range(rows) for column in range(columns)]


def _tile(
    canvas: Canvas, plan: CutPlan, pieces: tuple[Placed, ...], at: tuple[int, int], name: str
) -> None:
    column, row = at
    p = canvas.painter
    left, top = (WIDE - TILE[0]) / 2, MARGIN
    frame = QRectF(left * UNIT, top * UNIT, TILE[0] * UNIT, TILE[1] * UNIT)
    p.save()
    p.setClipRect(frame)
    where = QRectF(
        frame.left() - column * TILE[0] * UNIT,
        frame.top() - row * TILE[1] * UNIT,
        plan.sheet.length_mm * UNIT,
        plan.sheet.width_mm * UNIT,
    )
    paint_cut_plan(p, where, UNIT, plan, Marks(font(14, 600), INK, GREY, sizes=False), pieces)
    p.restore()
    p.setPen(QPen(INK, 0.25 * UNIT))
    reach = 3.0 * UNIT
    for corner in (frame.topLeft(), frame.topRight(), frame.bottomLeft(), frame.bottomRight()):
        p.drawLine(QLineF(corner.x() - reach, corner.y(), corner.x() + reach, corner.y()))
        p.drawLine(QLineF(corner.x(), corner.y() - reach, corner.x(), corner.y() + reach))
    p.setFont(font(10))
    p.setPen(GREY)
    foot = QRectF(left * UNIT, (HIGH - MARGIN - 8) * UNIT, TILE[0] * UNIT, 6 * UNIT)
    p.drawText(
        foot,
        Qt.AlignmentFlag.AlignLeft,
        f"{name} · 1 : 1 · page {letter(row)}{column + 1} · print at 100 %; the bar is 100 mm",
    )
    p.setPen(QPen(INK, 0.6 * UNIT))
    y = (HIGH - MARGIN - 11) * UNIT
    p.drawLine(QLineF((left + 0) * UNIT, y, (left + 100) * UNIT, y))
    for x in (left, left + 100):
        p.drawLine(QLineF(x * UNIT, y - UNIT, x * UNIT, y + UNIT))
