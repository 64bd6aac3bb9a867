"""What papers are painted on: a PDF, a printer, or pictures for the preview; all alike."""

from collections.abc import Callable
from functools import lru_cache
from typing import Protocol

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QSizeF
from PySide6.QtGui import (
    QPagedPaintDevice,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QPicture,
)

from aplomb.core.base.errors import AplombError
from aplomb.desk.kit.theme import PAPER_FONTS, load_fonts

UNIT = 20
"""Painter units a millimetre."""
A4 = (210.0, 297.0)
"""Wide and high [mm]."""
DPI = 600


@lru_cache(maxsize=1)
def load_paper_fonts() -> None:
    """Make the weights known that only paper needs."""
    load_fonts(PAPER_FONTS)


class Canvas(Protocol):
    """Pages to paint on, `UNIT` units a millimetre."""

    painter: QPainter

    def new_page(self) -> None:
        """Go to the next page; `painter` is that of the new page."""


Paint = Callable[[Canvas], None]
"""Paints a whole paper, from its first page on."""


class _OnDevice:
    """Pages of a PDF or printer."""

    def __init__(self, device: QPagedPaintDevice, dpi: float) -> None:
        self._device, self._dpi = device, dpi
        self.painter = QPainter()
        if not self.painter.begin(device):
            raise AplombError(
                "the printer could not start printing; choose another "
                "printer, or save a PDF instead"
            )
        self._scale()

    def _scale(self) -> None:
        self.painter.resetTransform()
        self.painter.scale(self._dpi / 25.4 / UNIT, self._dpi / 25.4 / UNIT)
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def new_page(self) -> None:
        """Go to the next page."""
        if not self._device.newPage():
            raise AplombError("the printer stopped part-way through; check it, then print again")
        self._scale()


def _page_size(size_mm: tuple[float, float]) -> QPageSize:
    if size_mm == A4:
        return QPageSize(QPageSize.PageSizeId.A4)
    return QPageSize(QSizeF(*size_mm), QPageSize.Unit.Millimeter, "")


def pdf_of(paint: Paint, title: str, size_mm: tuple[float, float] = A4) -> bytes:
    """Make a PDF of a paper.

    Parameters
    ----------
    paint : callable
        Takes a `Canvas`.
    size_mm : tuple of two floats
        PrintedPage width and high [mm].
    """
    load_paper_fonts()
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    _set_page(writer, size_mm)
    writer.setResolution(DPI)
    writer.setTitle(title)
    writer.setCreator("Aplomb")
    canvas = _OnDevice(writer, DPI)
    try:
        paint(canvas)
    finally:  # a writer that goes while it is painted on takes the process with it
        canvas.painter.end()
        buffer.close()
    return bytes(data.data())


def _set_page(device: QPagedPaintDevice, size_mm: tuple[float, float]) -> None:
    device.setPageSize(_page_size(size_mm))
    device.setPageOrientation(QPageLayout.Orientation.Portrait)
    device.setPageMargins(QMarginsF(0, 0, 0, 0), QPageLayout.Unit.Millimeter)


def print_on(device: QPagedPaintDevice, dpi: float, paint: Paint) -> None:
    """Print a paper.

    Parameters
    ----------
    device : QPagedPaintDevice
        A printer, its page set to full.
    dpi : float
        Its resolution.
    paint : callable
        Takes a `Canvas`.

    Raises
    ------
    AplombError
        When the printer does not take it.
    """
    load_paper_fonts()
    canvas = _OnDevice(device, dpi)
    try:
        paint(canvas)
    finally:
        canvas.painter.end()


class _Enough(Exception):  # noqa: N818 - not an error: the preview has what it shows
    """So many pages are painted."""


class _Pictures:
    """Pages as pictures that can be painted at any size."""

    def __init__(self, most: int) -> None:
        self.pages: list[QPicture] = []
        self._most = most
        self._next()

    def _next(self) -> None:
        self.pages.append(QPicture())
        self.painter = QPainter(self.pages[-1])
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def new_page(self) -> None:
        """Go to the next page; no further than wanted."""
        if len(self.pages) >= self._most:
            raise _Enough
        self.painter.end()
        self._next()


def pages_of(paint: Paint, most: int = 1000) -> tuple[list[QPicture], bool]:
    """Paint a paper for the preview.

    Parameters
    ----------
    paint : callable
        Takes a `Canvas`.
    most : int
        Pages that are painted at most [-].

    Returns
    -------
    tuple of (pictures, bool)
        One picture a page, `UNIT` units a millimetre; and whether that is all of it.
    """
    load_paper_fonts()
    canvas = _Pictures(most)
    whole = True
    try:
        paint(canvas)
    except _Enough:
        whole = False
    finally:
        canvas.painter.end()
    return canvas.pages, whole
