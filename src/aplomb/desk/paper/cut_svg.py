"""The cut plan as SVG, to scale: a millimetre of the file is one of the sheet."""

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QRectF, QSize
from PySide6.QtGui import QColor, QPainter
from PySide6.QtSvg import QSvgGenerator

from aplomb.core.batch.cutting import CutPlan
from aplomb.core.paste.formula import Formula
from aplomb.desk.drawings.cut_plan import Marks, paint_cut_plan, plan_words
from aplomb.desk.kit.theme import Theme

MARGIN_MM = 30.0
DPI = 254
"""Ten units a millimetre."""
UNIT = DPI / 25.4


def cut_plan_svg(plan: CutPlan, formula: Formula) -> bytes:
    """Draw a sheet as it is cut.

    SVG in millimetres, with room for sizes at right and below.

    Parameters
    ----------
    formula : Formula
        Whose products they are.
    """
    wide, high = plan.sheet.length_mm + MARGIN_MM + 10, plan.sheet.width_mm + MARGIN_MM + 10
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    made = QSvgGenerator()
    made.setOutputDevice(buffer)
    made.setResolution(DPI)
    made.setSize(QSize(round(wide * UNIT), round(high * UNIT)))
    made.setViewBox(QRectF(0, 0, wide * UNIT, high * UNIT))
    made.setTitle(f"{formula.name}: cut plan")
    made.setDescription(plan_words(plan, [p.name for p in formula.products]))
    painter = QPainter(made)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    font = Theme().font(14 * UNIT, 600)
    where = QRectF(5 * UNIT, 5 * UNIT, plan.sheet.length_mm * UNIT, plan.sheet.width_mm * UNIT)
    marks = Marks(font, QColor("#262C33"), QColor("#5A616A"))
    try:
        paint_cut_plan(painter, where, UNIT, plan, marks)
    finally:  # a device that goes while it is painted on takes the process with it
        painter.end()
    return bytes(data.data())
