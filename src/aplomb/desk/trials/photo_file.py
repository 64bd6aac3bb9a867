"""A photograph read from its file, whatever is in it: beside the window."""

from pathlib import Path

import numpy as np
from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt
from PySide6.QtGui import QImage, QImageReader, QImageWriter

from aplomb.core.base.errors import AplombError
from aplomb.core.trials.picture import Grey
from aplomb.disk import read_bytes
from aplomb.work.trials.photo import LONGEST_PX, MOST_MEGAPIXELS, SMALL_PX, TakenIn

LARGEST_FILE = 120_000_000
QUALITY = 88


def take_in(path: Path, *, original: bool) -> TakenIn:
    """Read a photograph and make it ready for the book.

    Parameters
    ----------
    path : Path
    original : bool
        Keep the file as it came, too.

    Returns
    -------
    TakenIn

    Raises
    ------
    AplombError
        When it is no picture, is cut off, or too large.
    """
    raw = read_bytes(path, LARGEST_FILE + 1)
    name = path.name[:80]
    if len(raw) > LARGEST_FILE:
        raise AplombError(f"{name} is over {LARGEST_FILE / 1e6:.0f} MB; make it smaller first")
    buffer = QBuffer()
    buffer.setData(QByteArray(raw))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer)
    reader.setAutoTransform(True)
    size = reader.size()
    if not reader.canRead() or not size.isValid():
        raise AplombError(f"{name} is no picture that can be read; use JPEG or PNG")
    million = size.width() * size.height() / 1e6
    if million > MOST_MEGAPIXELS:
        raise AplombError(
            f"{name} has {million:.0f} million pixels; up to {MOST_MEGAPIXELS:.0f} million are "
            "opened. Make it smaller first."
        )
    longest = max(size.width(), size.height())
    if longest > LONGEST_PX:  # some kinds are made smaller while they are read
        reader.setScaledSize(size * (LONGEST_PX / longest))
    image = reader.read()
    if image.isNull():
        raise AplombError(f"{name} cannot be read: {reader.errorString().lower()}; is it cut off?")
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    keep = Qt.AspectRatioMode.KeepAspectRatio
    if max(image.width(), image.height()) > LONGEST_PX:
        image = image.scaled(QSize(LONGEST_PX, LONGEST_PX), keep, _SMOOTH)
    small = image.scaled(QSize(SMALL_PX, SMALL_PX), keep, _SMOOTH)
    return TakenIn(name, image.width(), image.height(), _jpeg(small), _jpeg(image),
                   raw if original else b"")  # fmt: skip


_SMOOTH = Qt.TransformationMode.SmoothTransformation


def _jpeg(image: QImage) -> bytes:
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QImageWriter(buffer, QByteArray(b"JPEG"))
    writer.setQuality(QUALITY)
    writer.write(image)
    return bytes(buffer.data().data())


def opened(body: bytes) -> QImage:
    """Give a kept photograph as a picture; an empty one when it cannot be read."""
    buffer = QBuffer()
    buffer.setData(QByteArray(body))
    buffer.open(QBuffer.OpenModeFlag.ReadOnly)
    image = QImageReader(buffer).read()  # a reader lets other threads go on meanwhile
    return image if image.isNull() else image.convertToFormat(QImage.Format.Format_RGB32)


def grey_of(image: QImage) -> Grey:
    """Give a picture's brightness.

    Parameters
    ----------
    image : QImage

    Returns
    -------
    array of shape (rows, columns)
        Dark 0.0, bright 1.0.
    """
    grey = image.convertToFormat(QImage.Format.Format_Grayscale8)
    rows = np.frombuffer(grey.constBits(), dtype=np.uint8).reshape(
        grey.height(), grey.bytesPerLine()
    )
    return rows[:, : grey.width()].astype(np.float32) / 255.0
