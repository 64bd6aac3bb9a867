"""The section: leaves of a cut through the paste, as pixels made from the real stack."""

import math

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPen

from aplomb.core.base.constants import MM_PER_INCH
from aplomb.core.base.errors import AplombError, as_sentence
from aplomb.core.base.figures import length_unit, mm_text, num
from aplomb.core.folds.counts import FAT
from aplomb.core.folds.raster import STREWN, VOID, Section, Window
from aplomb.core.folds.stack import Stack
from aplomb.core.study.study import Study

DOUGH_RGB = (0xEA, 0xD9, 0xB6)
FAT_RGB = (0xF0, 0xC2, 0x44)
EDGE_RGB = (0xC9, 0x9A, 0x1B)
STREWN_RGB = (0x8E, 0x53, 0x27)
"""What was sprinkled in between the folds."""


LONG_FROM = 9
"""Fold product from which leaves are so long that half the columns show them."""
SAMPLES_A_COPY = 24
"""Points wanted over the height of one copy of the gathered mass in the folded block."""
MOST_SAMPLES = 90_000
"""Most points of a section through pieces that are carried back for one picture."""
MOST_SLOW_SAMPLES = 45_000
"""The same where every point has to be carried back by itself."""


def _colours() -> NDArray[np.uint8]:
    """Blue, green, red and opacity for each share of fat from 0 to 255."""
    share = np.linspace(0, 1, 256)[:, None]
    dough, fat = np.array(DOUGH_RGB, float), np.array(FAT_RGB, float)
    table = np.full((256, 4), 255, np.uint8)
    table[:, 2::-1] = (dough + share * (fat - dough)).round()
    return table


_COLOURS = _colours()


def _kind_colours() -> NDArray[np.uint8]:
    """Blue, green, red and opacity of each kind of a section; outside a log is nothing."""
    table = np.zeros((256, 4), np.uint8)
    for kind, rgb in ((0, DOUGH_RGB), (FAT, FAT_RGB), (STREWN, STREWN_RGB)):
        table[kind] = (*rgb[::-1], 255)
    table[VOID] = 0
    return table


_KIND_COLOURS = _kind_colours()


class SectionImage:
    """What is cut through: a stack of sheets, or any paste carried back pixel by pixel.

    Parameters
    ----------
    upto : int or None
        Only the first steps of the plan; None for the final sheet.
    thickness_mm : float
        Height of what is shown [mm].
    across : bool
        Across the last rolling instead of along it.

    Attributes
    ----------
    trouble : str
        Why nothing can be drawn; empty when it can.
    """

    def __init__(
        self, study: Study, upto: int | None, thickness_mm: float, *, across: bool = False
    ) -> None:
        self.thickness_mm = thickness_mm
        self.stack: Stack | None = None
        self.section: Section | None = None
        self.trouble = ""
        moment = study.turns[-1 if upto is None else upto]
        self._copies = moment.product
        self.leaves = moment.fat_leaves or 1.0
        share = study.readings.fat_volume_share
        if not share or share >= 1:
            self.trouble = "No fat block yet: nothing to cut through."
        elif study.in_leaves:
            self.stack = study.stack(upto)
            if self.stack is None:
                self.trouble = (
                    study.fold_trouble
                    or f"{study.readings.leaves or 0:,.0f} leaves: too many to draw one by one."
                )
        else:
            try:
                self.section = study.section(upto, final=upto is None, across=across)
            except AplombError as error:
                self.trouble = study.fold_trouble or as_sentence(error)

    @property
    def round(self) -> bool:
        """True for a log that is not pressed."""
        return self.section is not None and self.section.round

    @property
    def quick(self) -> bool:
        """True when it can be drawn while the window waits."""
        return self.section is None or self.section.quick

    def image(self, window: Window, rows: int, columns: int) -> QImage:
        """Draw part of the section.

        Parameters
        ----------
        rows, columns : int
            Pixels.

        Returns
        -------
        QImage
            Of so many rows; of fewer columns where leaves are long: one for sheets. Nothing lies
            outside a round log.
        """
        if self.stack is not None:
            return image_of(sheet_coverage(self.stack, window.bottom, window.top, rows)[:, None])
        assert self.section is not None
        if not self.round and self._copies >= LONG_FROM:
            columns = max(1, columns // 2)
        fine = self._fine(window, rows, columns)
        kinds = self.section.kinds(rows * fine, columns, window)
        shades = _KIND_COLOURS[kinds].reshape(rows, fine, columns, 4)
        pixels = np.ascontiguousarray(
            shades.mean(axis=1).astype(np.uint8) if fine > 1 else shades[:, 0]
        )
        form = QImage.Format.Format_ARGB32_Premultiplied
        return QImage(pixels.tobytes(), columns, rows, columns * 4, form).copy()

    def _fine(self, window: Window, rows: int, columns: int) -> int:
        """Points wanted over the height of one pixel."""
        samples = MOST_SAMPLES if self.quick else MOST_SLOW_SAMPLES
        most = max(1, samples // (rows * columns))
        copies = self._copies * (window.top - window.bottom)
        return max(1, min(8, most, math.ceil(copies * SAMPLES_A_COPY / rows)))


def thickness_at(study: Study, upto: int | None) -> float:
    """Height of the paste after some steps of the plan; of the final sheet for None [mm]."""
    if upto is None:
        return study.formula.sheet_mm
    block = study.block_after(upto)
    return block.height_mm if block else 30.0


def sheet_coverage(stack: Stack, bottom: float, top: float, rows: int) -> NDArray[np.float64]:
    """Share of fat in each row of pixels of a stack of sheets.

    Parameters
    ----------
    bottom, top : float
        Part of the height that is shown [-].
    rows : int
        Pixels.

    Returns
    -------
    ndarray of float64, shape (rows,)
        0–1 [-], the first row on top; its mean is the fat's share of that part.
    """
    edges = np.concatenate([[0.0], np.cumsum(stack.shares)])
    fat = np.concatenate([[0.0], np.cumsum(np.where(stack.kinds == FAT, stack.shares, 0.0))])
    at = np.linspace(top, bottom, rows + 1)
    return np.asarray(-np.diff(np.interp(at, edges, fat)) * rows / (top - bottom))


def image_of(coverage: NDArray[np.float64]) -> QImage:
    """Colour a coverage from dough to fat.

    Opaque, of the same size, owning its pixels.
    """
    rows, columns = coverage.shape
    pixels = _COLOURS[(coverage * 255).round().astype(np.uint8)]
    made = QImage(pixels.tobytes(), columns, rows, columns * 4, QImage.Format.Format_RGB32)
    return made.copy()


def _nice(length: float) -> float:
    """Give the longest length up to this that a rule shows: 1, 2, 5 …; in inches halves of one."""
    if length_unit() == "in" and length >= MM_PER_INCH / 32:
        parts = np.ceil(np.log2(MM_PER_INCH / length))
        return float(MM_PER_INCH / 2.0**parts)
    power = 10.0 ** np.floor(np.log10(length))
    return float(next(n * power for n in (5, 2, 1) if n * power <= length))


def bar_mm(mm_high: float) -> float:
    """Choose the length of a scale bar for a picture so high [mm]."""
    return _nice(mm_high * 0.45)


def length_text(mm: float) -> str:
    """Write a short length in mm or inches, or in µm where that says more."""
    return mm_text(mm) if mm >= (0.1 if length_unit() == "mm" else 0.4) else f"{num(mm * 1000)} µm"


def leaf_text(um: float) -> str:
    """Write the thickness of a leaf: in µm, or in mm from one on."""
    return mm_text(um / 1000, ".2g") if um >= 1000 else f"{num(um, '.3g')} µm"


def paint_cut(
    painter: QPainter,
    where: QRectF,
    cut: SectionImage,
    window: Window,
    edge: QColor,
    image: QImage | None = None,
) -> None:
    """Paint part of a cut into a rectangle, with the leaf edges drawn when they are wide enough.

    Parameters
    ----------
    where : QRectF
        On the painter's device.
    cut : SectionImage
        Without trouble.
    window : Window
        Part of the section.
    edge : QColor
        Of the frame.
    image : QImage or None
        That part, when it was drawn already.
    """
    ratio = max(1.0, painter.device().devicePixelRatioF(), painter.combinedTransform().m11())
    rows = max(1, min(4000, round(where.height() * ratio)))
    columns = max(1, min(1600, round(where.width() * ratio)))
    painter.drawImage(where, image or cut.image(window, rows, columns))
    painter.save()
    painter.setClipRect(where)
    if cut.stack is not None:
        _leaf_edges(painter, where, cut.stack, window)
    painter.restore()
    if cut.round:
        return
    painter.setPen(QPen(edge, 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(where)


def _leaf_edges(painter: QPainter, where: QRectF, stack: Stack, window: Window) -> None:
    edges = np.cumsum(stack.shares)[:-1]
    shown = edges[(edges > window.bottom) & (edges < window.top)]
    if len(shown) == 0 or where.height() / len(shown) < 5:
        return
    painter.setPen(QPen(QColor(*EDGE_RGB), 1))
    for share in shown:
        y = where.bottom() - (share - window.bottom) / (window.top - window.bottom) * where.height()
        painter.drawLine(QPointF(where.left(), y), QPointF(where.right(), y))


def paint_scale(
    painter: QPainter, where: QRectF, mm_high: float, font: QFont, ink: QColor, ground: QColor
) -> None:
    """Paint an upright scale bar in the lower right corner of a picture.

    Parameters
    ----------
    where : QRectF
        The picture.
    mm_high : float
        What its height stands for [mm].
    """
    bar = bar_mm(mm_high)
    high = bar / mm_high * where.height()
    painter.setFont(font)
    text = length_text(bar)
    wide = painter.fontMetrics().horizontalAdvance(text) + 22
    box = QRectF(where.right() - wide - 6, where.bottom() - high - 14, wide, high + 8)
    painter.fillRect(box, ground)
    painter.setPen(QPen(ink, 2))
    x = box.right() - 8
    painter.drawLine(QPointF(x, box.top() + 4), QPointF(x, box.top() + 4 + high))
    for y in (box.top() + 4, box.top() + 4 + high):
        painter.drawLine(QPointF(x - 3, y), QPointF(x + 3, y))
    painter.drawText(box.adjusted(4, 0, -14, 0), Qt.AlignmentFlag.AlignVCenter, text)
