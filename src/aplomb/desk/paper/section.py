"""The section as a picture for others: SVG with one rectangle a leaf, or PNG."""

import base64
from xml.sax.saxutils import escape

import numpy as np
from PySide6.QtCore import QBuffer, QByteArray, QIODevice
from PySide6.QtGui import QImageWriter

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_text, number_text
from aplomb.core.folds.counts import FAT
from aplomb.core.folds.raster import Window
from aplomb.core.study.study import Study
from aplomb.desk.drawings.section import DOUGH_RGB, EDGE_RGB, FAT_RGB, SectionImage, thickness_at

WIDE, HIGH, FOOT = 1200, 400, 44
"""Size of the picture, and of the line of words under it [px]."""

PNG_SCALE = 2
"""Pixels of a PNG for each of `WIDE` [-]."""


def _wide(cut: SectionImage) -> int:
    """Width of the drawing: a log is as wide as high [px]."""
    return HIGH if cut.round else WIDE


def _png(cut: SectionImage, scale: int) -> bytes:
    rows, columns = HIGH * scale, _wide(cut) * scale
    image = cut.image(Window(), rows, columns).scaled(columns, rows)
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    if not QImageWriter(buffer, QByteArray(b"PNG")).write(image):
        raise AplombError("the picture could not be made")
    return bytes(data.data())


def _colour(rgb: tuple[int, int, int]) -> str:
    return "#" + "".join(f"{part:02X}" for part in rgb)


def section_words(study: Study, thickness_mm: float, upto: int | None = None) -> str:
    """Say what the section shows."""
    r = study.readings
    leaves = number_text(study.turns[-1 if upto is None else upto].fat_leaves or 0, 0)
    about = "about " if r.leaves_are_means else ""
    return f"{study.formula.name}: {about}{leaves} fat leaves in {mm_text(thickness_mm, 2)}"


def section_picture(
    study: Study, kind: str, upto: int | None = None, *, across: bool = False
) -> bytes:
    """Draw the section of the final sheet, or of the paste as it lies after some steps.

    SVG of a stack of sheets has one rectangle for each leaf of fat; of paste in pieces it
    holds a picture.

    Parameters
    ----------
    kind : str
        ``svg`` or ``png``.
    upto : int or None
        Only the first steps of the plan; None for the final sheet.
    across : bool
        Cut across the last rolling instead of along it.

    Raises
    ------
    AplombError
        When there is nothing to cut through.
    """
    cut = SectionImage(study, upto, thickness_at(study, upto), across=across)
    if cut.trouble:
        raise AplombError(cut.trouble)
    if kind == "png":
        return _png(cut, PNG_SCALE)
    words = escape(section_words(study, cut.thickness_mm, upto), {'"': "&quot;"})
    parts = [
        (
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE} {HIGH + FOOT}" '
            f'width="{WIDE}" height="{HIGH + FOOT}" role="img" aria-label="{words}">'
        ),
        f"<title>{words}</title>",
        f'<rect width="{WIDE}" height="{HIGH}" fill="{_colour(DOUGH_RGB)}"/>',
    ]
    if cut.stack is not None:
        tops = np.concatenate([[0.0], np.cumsum(cut.stack.shares)])
        parts.append(f'<g fill="{_colour(FAT_RGB)}">')
        for i in np.flatnonzero(cut.stack.kinds == FAT):
            high = (tops[i + 1] - tops[i]) * HIGH
            y = HIGH - tops[i + 1] * HIGH
            parts.append(f'<rect y="{y:.4f}" width="{WIDE}" height="{high:.4f}"/>')
        parts.append("</g>")
    else:
        picture = base64.b64encode(_png(cut, 1)).decode()
        wide = _wide(cut)
        parts.append(
            f'<image x="{(WIDE - wide) / 2:g}" width="{wide}" height="{HIGH}" '
            f'href="data:image/png;base64,{picture}"/>'
        )
    parts.append(
        f'<rect width="{WIDE}" height="{HIGH}" fill="none" stroke="{_colour(EDGE_RGB)}"/>'
        f'<text y="{HIGH + 30}" font-family="Source Sans 3, sans-serif" font-size="22">{words}'
        "</text></svg>\n"
    )
    return "\n".join(parts).encode()
