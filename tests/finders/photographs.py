"""Break photographs of every format in every way: they are taken whole, or told in words."""

import io
import random
import tempfile
from collections import Counter
from functools import cache
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QSize
from PySide6.QtGui import QColor, QGuiApplication, QImage, QImageReader, QImageWriter

from aplomb.core.base.errors import AplombError
from aplomb.desk.trials.photo_file import opened, take_in
from finders.texts import where

WAYS = ("whole", "cut", "end", "zeros", "changed", "head", "noise", "twice", "other name")
TAKEN_WHOLE = {
    "jpg",
    "jpeg",
    "jfif",
    "png",
    "tif",
    "tiff",
    "webp",
    "bmp",
    "ppm",
    "pgm",
    "pbm",
    "gif",
}


@cache
def drawn(kind: str) -> bytes:
    """Give a picture of a kind that shows something in every row."""
    if kind == "gif":
        return gif()
    image = QImage(QSize(160, 120), QImage.Format.Format_RGB32)
    rng = random.Random(5)
    for y in range(120):
        for x in range(160):
            image.setPixelColor(x, y, QColor(rng.randrange(256), 2 * y, x))
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QImageWriter(buffer, QByteArray(kind.encode()))
    if kind in ("tif", "tiff"):
        writer.setCompression(1)
    assert writer.write(image), kind
    return bytes(buffer.data().data())


def gif(wide: int = 40, high: int = 30) -> bytes:
    """Write a GIF by hand, its codes never longer than nine bits: the toolkit reads it only."""
    rng = random.Random(7)
    out = io.BytesIO()
    out.write(b"GIF89a" + wide.to_bytes(2, "little") + high.to_bytes(2, "little") + b"\xf7\0\0")
    out.write(rng.randbytes(768))
    out.write(b"," + bytes(4) + wide.to_bytes(2, "little") + high.to_bytes(2, "little") + b"\0\x08")
    bits, held = 0, 0
    data = bytearray()
    for i in range(wide * high):
        for code in ((256,) if i % 100 == 0 else ()) + (rng.randrange(256),):
            held |= code << bits
            bits += 9
            while bits >= 8:
                data.append(held & 255)
                held, bits = held >> 8, bits - 8
    held |= 257 << bits
    data += held.to_bytes(4, "little")
    for at in range(0, len(data), 255):
        part = data[at : at + 255]
        out.write(bytes([len(part)]) + part)
    out.write(b"\0;")
    return out.getvalue()


def broken(raw: bytes, way: str, rng: random.Random) -> bytes:
    """Break a file in a way."""
    data = bytearray(raw)
    at = rng.randrange(1, len(data))
    match way:
        case "cut":
            del data[at:]
        case "end":
            del data[-rng.randint(3, 40) :]
        case "zeros":
            data[at:] = bytes(len(data) - at)
        case "changed":
            for _ in range(rng.choice((1, 5, 50))):
                data[rng.randrange(len(data))] = rng.randrange(256)
        case "head":
            for _ in range(rng.choice((1, 3))):
                data[rng.randrange(min(64, len(data)))] = rng.randrange(256)
        case "noise":
            data = bytearray(raw[:12] + rng.randbytes(rng.choice((10, 3000))))
        case "twice":
            data += raw
    return bytes(data)


def find(cases: int, start: int = 0) -> tuple[Counter[str], dict[str, int]]:
    """Break so many photographs; gives faults with how often, and the first case of each."""
    app = QGuiApplication.instance() or QGuiApplication([])
    kinds = sorted(
        {bytes(f.data()).decode() for f in QImageWriter.supportedImageFormats()} | {"gif", "svg"}
    )
    faults: Counter[str] = Counter()
    first: dict[str, int] = {}
    with tempfile.TemporaryDirectory(prefix="aplomb-photo-") as folder:
        for case in range(start, start + cases):
            rng = random.Random(case)
            kind, way = rng.choice(kinds), rng.choice(WAYS)
            raw = SVG if kind == "svg" else drawn(kind)
            path = Path(folder) / f"{case}.{'jpg' if way == 'other name' else kind}"
            data = broken(raw, way, rng)
            path.write_bytes(data)
            words = held(path, kind, way, same=data == raw)
            path.unlink()
            if words:
                faults[words] += 1
                first.setdefault(words, case)
    del app
    return faults, first


SVG = b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'><rect width='9'/></svg>"


def held(path: Path, kind: str, way: str, *, same: bool) -> str:
    """Take a file in; gives what is wrong with how that went."""
    try:
        taken = take_in(path, original=True)
    except AplombError as error:
        wanted = kind in TAKEN_WHOLE and (same or way in ("whole", "twice", "other name"))
        return f"{kind}, {way}: refused: {error}" if wanted or not str(error) else ""
    except Exception as error:  # noqa: BLE001  # this is what is looked for
        return f"{kind}, {way}: {where(error)}"
    if opened(taken.body).isNull() or opened(taken.small).isNull():
        return f"{kind}, {way}: taken, and what is kept cannot be opened"
    if way in ("cut", "zeros", "end") and not same and not complete(path):
        return f"{kind}, {way}: taken as whole"
    return ""


def complete(path: Path) -> bool:
    """Tell by another way whether all rows are there: the file is read as far as it goes, with and
    without another file behind it."""
    data = path.read_bytes()
    seen = []
    for more in (b"", random.Random(3).randbytes(4000), bytes(4000)):
        buffer = QBuffer()
        buffer.setData(QByteArray(data + more))
        buffer.open(QIODevice.OpenModeFlag.ReadOnly)
        reader = QImageReader(buffer)
        seen.append(reader.read())
        reader.setDevice(None)
    return all(each == seen[0] for each in seen) and not seen[0].isNull()
