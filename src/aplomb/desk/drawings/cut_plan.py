"""The cut plan to scale: sheet, trimmed edges, pieces with their letters, cuts, grain."""

from collections.abc import Iterable, Sequence

from msgspec import Struct
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFont, QPainter, QPainterPath, QPen, QPolygonF

from aplomb.core.base.figures import cm_text, number_text, sides_cm
from aplomb.core.base.texts import counted
from aplomb.core.batch.blanks import Blank
from aplomb.core.batch.cutting import CutPlan
from aplomb.core.batch.layout import Layout, Placed
from aplomb.work.words.steps import rolled_size

SHEET, EDGE = QColor("#EAD9B6"), QColor("#CBB284")
SCRAP = QColor("#DCC9A0")
CUT = QColor("#8E5327")
INK = QColor("#262C33")
TINTS = tuple(
    QColor(name) for name in ("#FBF4E3", "#F3DDB0", "#E9C98F", "#F7E9C9", "#DDB777", "#EFD3A2")
)
"""Fills of the products in turn; letters tell them apart, not these."""
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


class Marks(Struct, frozen=True):
    """How a cut plan is written on.

    Attributes
    ----------
    font : QFont
        Of letters and sizes, at the painter's own units.
    sizes : bool
        Whether sizes and grain are written beside the sheet.
    turned : bool
        Whether the painter is turned by a quarter, so that letters must be turned back.
    """

    font: QFont
    ink: QColor
    second: QColor
    sizes: bool = True
    turned: bool = False


def letter(product: int) -> str:
    """Give the letter of a product by its place in the formula."""
    return LETTERS[product % 26] + (str(product // 26 + 1) if product >= 26 else "")


def part_letter(product: int, part: int) -> str:
    """Give the sign of one part of a product that is cut in several."""
    sign = letter(product)
    return f"{sign}.{part + 1}" if sign[-1].isdigit() else f"{sign}{part + 1}"


def blank_letters(plan: CutPlan) -> list[str]:
    """Give the sign of each outline of a plan: its product's, and its number among several."""
    seen: dict[int, int] = {}
    signs = []
    for product, _ in plan.blanks:
        at = seen[product] = seen.get(product, -1) + 1
        several = sum(1 for each, _ in plan.blanks if each == product) > 1
        place = plan.products[product]
        signs.append(part_letter(place, at) if several else letter(place))
    return signs


def blank_path(blank: Blank, placed: Placed, *, holed: bool) -> QPainterPath:
    """Give the outline of a piece where it lies [mm], with its hole."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    wide, high = blank.size(turned=placed.turned)
    if blank.round:
        path.addEllipse(QRectF(placed.x_mm, placed.y_mm, wide, high))
        if holed:
            off = (wide - blank.hole_mm) / 2
            path.addEllipse(
                QRectF(placed.x_mm + off, placed.y_mm + off, blank.hole_mm, blank.hole_mm)
            )
        return path
    corners = blank.outline(turned=placed.turned, flipped=placed.flipped)
    path.addPolygon(QPolygonF([QPointF(placed.x_mm + x, placed.y_mm + y) for x, y in corners]))
    path.closeSubpath()
    if holed:
        band = blank.hole_mm
        path.addRect(
            QRectF(placed.x_mm + band, placed.y_mm + band, wide - 2 * band, high - 2 * band)
        )
    return path


def room_for(plan: CutPlan, room: QRectF, margin: float) -> tuple[QRectF, float]:
    """Fit a sheet, its length across, into a room.

    Parameters
    ----------
    margin : float
        Kept free below and to the right for sizes.

    Returns
    -------
    tuple of (QRectF, scale)
        Where the sheet lies, and units a millimetre.
    """
    inner = room.adjusted(0, 0, -margin, -margin)
    scale = min(inner.width() / plan.sheet.length_mm, inner.height() / plan.sheet.width_mm)
    wide, high = plan.sheet.length_mm * scale, plan.sheet.width_mm * scale
    return QRectF(inner.left(), inner.top(), wide, high), scale


def paint_cut_plan(
    painter: QPainter,
    where: QRectF,
    scale: float,
    plan: CutPlan,
    marks: Marks,
    pieces: Sequence[Placed] | None = None,
) -> None:
    """Paint a sheet as it is cut, seen from above, the last rolling from left to right.

    Parameters
    ----------
    where : QRectF
        The sheet's rectangle.
    scale : float
        Units a millimetre.
    pieces : sequence of Placed or None
        The plan's, where they are known already. Those outside the painter's clip are not drawn.
    """
    painter.save()
    painter.translate(where.topLeft())
    painter.scale(scale, scale)
    thin = 1.0 / scale
    edge = plan.edge_mm
    sheet = QRectF(0, 0, plan.sheet.length_mm, plan.sheet.width_mm)
    painter.setPen(QPen(EDGE, 1.6 * thin))
    painter.setBrush(SCRAP)
    if plan.round:
        painter.drawEllipse(sheet)
    else:
        painter.drawRect(sheet)
    if edge > 0:
        hatch = QBrush(EDGE, Qt.BrushStyle.BDiagPattern)
        hatch.setTransform(painter.transform().inverted()[0])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(hatch)
        ring = QPainterPath()
        ring.addRect(sheet)
        ring.addRect(sheet.adjusted(edge, edge, -edge, -edge))
        painter.drawPath(ring)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(CUT, thin, Qt.PenStyle.DashLine))
        painter.drawRect(sheet.adjusted(edge, edge, -edge, -edge))
    painter.translate(edge, edge)
    _paint_pieces(painter, plan, marks, scale, pieces or plan.layout.placed())
    _paint_cuts(painter, plan, scale)
    painter.restore()
    if marks.sizes:
        _paint_sizes(painter, where, plan, marks)


def _paint_pieces(
    painter: QPainter, plan: CutPlan, marks: Marks, scale: float, pieces: Iterable[Placed]
) -> None:
    thin = 1.0 / scale
    clip = painter.clipBoundingRect() if painter.hasClipping() else None
    seen: dict[int, int] = {}
    labelled: set[int] = set()
    letters = blank_letters(plan)
    for placed in pieces:
        product, blank = plan.blanks[placed.blank]
        at = seen.get(placed.blank, 0)
        seen[placed.blank] = at + 1
        wide, high = blank.size(turned=placed.turned)
        if clip is not None and not clip.intersects(
            QRectF(placed.x_mm, placed.y_mm, wide, high).adjusted(-thin, -thin, thin, thin)
        ):
            continue
        holed = blank.hole_mm > 0 and at % blank.hole_every == blank.hole_every - 1
        place = plan.products[product]
        painter.setPen(QPen(CUT, 1.1 * thin))
        painter.setBrush(TINTS[place % len(TINTS)])
        painter.drawPath(blank_path(blank, placed, holed=False))
        if holed:
            painter.setPen(QPen(CUT, thin, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(blank_path(blank, placed, holed=True))
        for mark in blank.marks:
            painter.setPen(QPen(CUT, 0.7 * thin, Qt.PenStyle.DotLine))
            line = (
                QLineF(placed.x_mm + mark, placed.y_mm, placed.x_mm + mark, placed.y_mm + high)
                if placed.turned
                else QLineF(placed.x_mm, placed.y_mm + mark, placed.x_mm + wide, placed.y_mm + mark)
            )
            painter.drawLine(line)
        words = letters[placed.blank]
        if min(wide, high) * scale >= 12 and (len(seen) < 3000 or placed.blank not in labelled):
            labelled.add(placed.blank)
            _write(painter, marks, scale, QRectF(placed.x_mm, placed.y_mm, wide, high), words)


def _write(painter: QPainter, marks: Marks, scale: float, box: QRectF, words: str) -> None:
    painter.save()
    painter.translate(box.center())
    painter.scale(1 / scale, 1 / scale)
    if marks.turned:
        painter.rotate(-90)
        box = box.transposed()
    painter.setFont(marks.font)
    painter.setPen(INK)
    metrics = painter.fontMetrics()
    wide, high = metrics.horizontalAdvance(words), metrics.ascent()
    if wide < box.width() * scale and high < box.height() * scale * 1.3:
        painter.drawText(QPointF(-wide / 2, high * 0.36), words)
    painter.restore()


def _paint_cuts(painter: QPainter, plan: CutPlan, scale: float) -> None:
    """The first cuts, from edge to edge, where a blade goes straight through."""
    layout: Layout = plan.layout
    length = plan.sheet.length_mm - 2 * plan.edge_mm
    width = plan.sheet.width_mm - 2 * plan.edge_mm
    painter.setPen(QPen(CUT, 2.0 / scale))
    reach = plan.edge_mm * 0.5
    for v in layout.lines:
        if layout.rows == "across" and v < length - 1:
            painter.drawLine(QLineF(v, -reach, v, width + reach))
        elif layout.rows == "along" and v < width - 1:
            painter.drawLine(QLineF(-reach, v, length + reach, v))


def sheet_size(plan: CutPlan) -> str:
    """Write the size of a sheet as it is cut; of a round what it is across."""
    if plan.round:
        return f"{cm_text(plan.sheet.length_mm, 1)} across"
    return sides_cm(plan.sheet.length_mm, plan.sheet.width_mm, 1)


def roll_size(plan: CutPlan) -> str:
    """Write what a sheet is rolled to, as people roll it; a round by what it is across."""
    return rolled_size(plan.rolled, is_round=plan.round)


def _paint_sizes(painter: QPainter, where: QRectF, plan: CutPlan, marks: Marks) -> None:
    painter.setFont(marks.font)
    painter.setPen(marks.ink)
    high = painter.fontMetrics().height()
    along = cm_text(plan.sheet.length_mm, 1)
    across = cm_text(plan.sheet.width_mm, 1)
    below = QRectF(where.left(), where.bottom() + high * 0.3, where.width(), high * 1.2)
    painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, along)
    painter.save()
    painter.translate(where.right() + high * 0.3, where.center().y())
    painter.rotate(90)
    painter.drawText(
        QRectF(-where.height() / 2, -high * 1.15, where.height(), high * 1.2),
        Qt.AlignmentFlag.AlignHCenter,
        across,
    )
    painter.restore()
    arrow_y = below.center().y()
    length = high * 3.2
    painter.setPen(QPen(marks.second, max(1.0, high / 13)))
    start = where.left() + 2
    painter.drawLine(QLineF(start, arrow_y, start + length, arrow_y))
    for tip in (-0.28, 0.28):
        painter.drawLine(
            QLineF(start + length, arrow_y, start + length - high * 0.35, arrow_y + high * tip)
        )
    painter.setPen(marks.second)
    painter.drawText(
        QRectF(start + length + high * 0.4, below.top(), where.width(), below.height()),
        Qt.AlignmentFlag.AlignLeft,
        "last rolling",
    )


def plan_words(plan: CutPlan, names: Sequence[str]) -> str:
    """Say a plan in a sentence, for who cannot see it."""
    sheets = counted(plan.sheets, "1 sheet", "{} sheets")
    pieces = ", ".join(
        f"{number_text(n, 0)} {names[product]}"
        for product, n in zip(plan.products, plan.pieces(), strict=True)
    )
    return (
        f"{sheets} of {sheet_size(plan)} give "
        f"{pieces}; {plan.yield_pct:.0f} % of the sheet is in pieces."
    )
