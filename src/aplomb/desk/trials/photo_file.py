"""A photograph read from its file, whatever is in it: beside the window."""

import random
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt
from PySide6.QtGui import QImage, QImageReader, QImageWriter

from aplomb.core.base.errors import AplombError
from aplomb.core.trials.picture import Grey
from aplomb.disk import name_of, read_bytes
from aplomb.work.trials.photo import LONGEST_PX, MOST_MEGAPIXELS, SMALL_PX, TakenIn

LARGEST_FILE = 120_000_000
QUALITY = 88
KINDS = ("jpeg", "png", "tiff", "webp", "bmp", "gif", "ppm", "pgm", "pbm")
"""What a photograph may be; drawings, icons and what has no mark of its own are none."""
MOST_MEMORY_MB = 640
"""What one picture may take while it is opened [MB]."""
LENIENT = ("bmp", "gif")
"""Kinds whose readers give what there is of a file that was cut off."""
TAIL = random.Random(1).randbytes(65_536)
"""Put behind a whole file it changes nothing."""
CUT_OFF = "{} is cut off: the rest of the picture is missing. Copy it again from where it came."
JPEG = b"\xff\xd8"
_PICTURE = 0xDA
"""The mark of a JPEG behind which its picture begins."""
_ALONE = frozenset((0x01, 0xD8, *range(0xD0, 0xD8)))
"""Marks of a JPEG without a length."""


def take_in(path: Path, *, original: bool) -> TakenIn:
    """Read a photograph and make it ready for the book.

    Parameters
    ----------
    original : bool
        Keep the file as it came, too.

    Raises
    ------
    AplombError
        When it is no picture, is cut off, or too large.
    """
    raw = read_bytes(path, LARGEST_FILE + 1)
    name = name_of(path)
    if len(raw) > LARGEST_FILE:
        raise AplombError(f"{name} is over {LARGEST_FILE / 1e6:.0f} MB; make it smaller first")
    image = _decoded(raw, name).convertToFormat(QImage.Format.Format_RGB32)
    if image.isNull():
        raise AplombError(f"{name} cannot be read: there is not enough memory for it")
    keep = Qt.AspectRatioMode.KeepAspectRatio
    if max(image.width(), image.height()) > LONGEST_PX:
        image = image.scaled(QSize(LONGEST_PX, LONGEST_PX), keep, _SMOOTH)
    small = image.scaled(QSize(SMALL_PX, SMALL_PX), keep, _SMOOTH)
    return TakenIn(
        name, image.width(), image.height(), _jpeg(small), _jpeg(image), raw if original else b""
    )


def _decoded(raw: bytes, name: str) -> QImage:
    """Decode a file that is a whole photograph; raises AplombError for any other."""
    if raw.startswith(JPEG) and not _ends(raw):
        raise AplombError(CUT_OFF.format(name))
    with _reader(raw) as reader:
        kind = bytes(reader.format().data()).decode()
        size = reader.size()
        if kind not in KINDS or not size.isValid():
            raise AplombError(f"{name} is not a picture Aplomb can read; use JPEG, PNG or TIFF")
        million = size.width() * size.height() / 1e6
        if million > MOST_MEGAPIXELS:
            raise AplombError(
                f"{name} has {million:.0f} million pixels; the limit is "
                f"{MOST_MEGAPIXELS:.0f} million. Make it smaller first."
            )
        bits = QImage.toPixelFormat(reader.imageFormat()).bitsPerPixel()
        longest = max(size.width(), size.height())
        if longest > LONGEST_PX:  # some kinds are made smaller while they are read
            reader.setScaledSize(size * (LONGEST_PX / longest))
        image = reader.read()
        why = reader.errorString().lower()
    if image.isNull():
        taken_mb = million * max(bits, 32) / 8
        if taken_mb > MOST_MEMORY_MB:
            raise AplombError(
                f"{name} takes {taken_mb:.0f} MB when it is opened, and up to {MOST_MEMORY_MB} MB "
                "are given to it. Make it smaller, or save it with 8 bits a colour."
            )
        raise AplombError(
            f"{name} cannot be read: {why}. The file may be incomplete; copy it again."
        )
    if kind in LENIENT:
        with _reader(raw + TAIL) as reader:
            if reader.read() != image:  # it went on reading where the file had ended
                raise AplombError(CUT_OFF.format(name))
    return image


@contextmanager
def _reader(raw: bytes) -> Iterator[QImageReader]:
    """Give a reader whose buffer outlives it: some kinds are read while it goes away."""
    QImageReader.setAllocationLimit(MOST_MEMORY_MB)  # one for the process
    buffer = QBuffer()
    buffer.setData(QByteArray(raw))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer)
    reader.setAutoTransform(True)
    try:
        yield reader
    finally:
        reader.setDevice(None)  # type: ignore[arg-type]  # the handler goes, and then the buffer


def _ends(raw: bytes) -> bool:
    """Tell whether a JPEG has its end mark behind the beginning of its picture."""
    at = 2
    while at + 4 <= len(raw) and raw[at] == 0xFF:
        mark = raw[at + 1]
        if mark == 0xFF or mark in _ALONE:
            at += 1 if mark == 0xFF else 2
            continue
        at += 2 + int.from_bytes(raw[at + 2 : at + 4], "big")
        if mark == _PICTURE:
            return raw.find(b"\xff\xd9", at) >= 0
    return False


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
    with _reader(body) as reader:
        image = reader.read()  # a reader lets other threads go on meanwhile
    return image if image.isNull() else image.convertToFormat(QImage.Format.Format_RGB32)


def grey_of(image: QImage) -> Grey:
    """Give a picture's brightness.

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
