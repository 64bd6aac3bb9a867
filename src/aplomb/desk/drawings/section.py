"""The section: leaves of a cut through the paste, as pixels made from the real stack."""

import math

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPen

from aplomb.core.errors import AplombError
from aplomb.core.folds.pieces import Mass, Window, section
from aplomb.core.folds.plan import Plan
from aplomb.core.folds.stack import FAT, Stack
from aplomb.core.study import Study

DOUGH_RGB = (0xEA, 0xD9, 0xB6)
FAT_RGB = (0xF0, 0xC2, 0x44)
EDGE_RGB = (0xC9, 0x9A, 0x1B)


LONG_FROM = 9
"""Fold product from which leaves are so long that half the columns show them."""
SAMPLES_A_COPY = 24
"""Points wanted over the height of one copy of the gathered mass in the folded block."""
MOST_SAMPLES = 150_000
"""Most points of a section through pieces that are carried back for one picture."""


def _colours() -> NDArray[np.uint8]:
    """Blue, green, red and opacity for each share of fat from 0 to 255."""
    share = np.linspace(0, 1, 256)[:, None]
    dough, fat = np.array(DOUGH_RGB, float), np.array(FAT_RGB, float)
    table = np.full((256, 4), 255, np.uint8)
    table[:, 2::-1] = (dough + share * (fat - dough)).round()
    return table


_COLOURS = _colours()


class Cut:
    """What is cut through: a stack of sheets or paste in pieces, at a thickness.

    Parameters
    ----------
    study : Study
    upto : int or None
        Only the first steps of the plan; None for the final sheet.
    thickness_mm : float
        Height of what is shown [mm].

    Attributes
    ----------
    trouble : str
        Why nothing can be drawn; empty when it can.
    """

    def __init__(self, study: Study, upto: int | None, thickness_mm: float) -> None:
        self.thickness_mm = thickness_mm
        self.plan = Plan(study.plan.enclosure, study.plan.steps[:upto])
        self.stack: Stack | None = None
        self.mass: Mass | None = None
        self.trouble = ""
        share = study.readings.fat_volume_share
        if not share or share >= 1:
            self.trouble = "No fat block yet: there is nothing to cut through."
        elif study.in_pieces:
            each = study.accounts.paste_ml * study.scaled.factor / study.formula.batch.blocks
            side = (each * 1000 / study.formula.gathered_mm) ** 0.5 if each > 0 else 200.0
            self.mass = Mass(
                min(share, 0.9), study.formula.gathered_mm, min(max(side, 60.0), 2000.0),
                study.formula.piece_fat_mm,
            )  # fmt: skip
        else:
            self.stack = study.stack(upto)
            if self.stack is None:
                self.trouble = study.fold_trouble or (
                    f"{study.readings.leaves or 0:,.0f} leaves: more than can be drawn one by one."
                )

    def coverage(self, window: Window, rows: int, columns: int) -> NDArray[np.float64]:
        """Work out the share of fat in each pixel.

        Parameters
        ----------
        window : Window
            Part of the section.
        rows, columns : int
            Pixels.

        Returns
        -------
        ndarray of float64, shape (rows, columns), or fewer columns where the leaves are long:
            one for sheets
            0–1 [-], the first row on top.
        """
        if self.stack is not None:
            return sheet_coverage(self.stack, window.bottom, window.top, rows)[:, None]
        assert self.mass is not None
        if self.plan.product >= LONG_FROM:
            columns = max(1, columns // 2)
        most = max(1, MOST_SAMPLES // (rows * columns))
        copies = self.plan.product * (window.top - window.bottom)
        fine = max(1, min(8, most, math.ceil(copies * SAMPLES_A_COPY / rows)))
        try:
            cut = section(self.plan, self.mass, rows * fine, columns, window)
        except AplombError as error:
            self.trouble = str(error)
            return np.zeros((rows, 1))
        return np.asarray(cut.reshape(rows, fine, columns).mean(axis=1))


def sheet_coverage(stack: Stack, bottom: float, top: float, rows: int) -> NDArray[np.float64]:
    """Share of fat in each row of pixels of a stack of sheets.

    Parameters
    ----------
    stack : Stack
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

    Parameters
    ----------
    coverage : ndarray, shape (rows, columns)

    Returns
    -------
    QImage
        Opaque, of the same size, owning its pixels.
    """
    rows, columns = coverage.shape
    pixels = _COLOURS[(coverage * 255).round().astype(np.uint8)]
    made = QImage(pixels.tobytes(), columns, rows, columns * 4, QImage.Format.Format_RGB32)
    return made.copy()


def _nice(length: float) -> float:
    power = 10.0 ** np.floor(np.log10(length))
    return float(next(n * power for n in (5, 2, 1) if n * power <= length))


def length_text(mm: float) -> str:
    """Write a short length in mm, or in µm below a tenth of a mm."""
    return f"{mm:g} mm" if mm >= 0.1 else f"{mm * 1000:g} µm"


def paint_cut(painter: QPainter, where: QRectF, cut: Cut, window: Window, edge: QColor) -> None:
    """Paint part of a cut into a rectangle, with the leaf edges drawn when they are wide enough.

    Parameters
    ----------
    painter : QPainter
    where : QRectF
        On the painter's device.
    cut : Cut
        Without trouble.
    window : Window
        Part of the section.
    edge : QColor
        Of the frame.
    """
    ratio = max(1.0, painter.device().devicePixelRatioF(), painter.combinedTransform().m11())
    rows = max(1, min(4000, round(where.height() * ratio)))
    columns = max(1, min(1600, round(where.width() * ratio)))
    image = image_of(cut.coverage(window, rows, columns))
    painter.drawImage(where, image)
    painter.save()
    painter.setClipRect(where)
    if cut.stack is not None:
        _leaf_edges(painter, where, cut.stack, window)
    painter.restore()
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
    bar = _nice(mm_high * 0.45)
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
