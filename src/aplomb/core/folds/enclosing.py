"""How fat is enclosed: the sheet of dough, the block of fat, the finished shape."""

import math

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_text
from aplomb.core.folds.boxes import Box, Room, Shape, at_least, rolled
from aplomb.core.folds.plan import Enclosure
from aplomb.core.folds.windings import log_radius_mm
from aplomb.core.folds.working import Working


class Enclosing(Struct, frozen=True):
    """Sizes for putting dough and fat together.

    Attributes
    ----------
    dough : Box
        The dough before enclosing (for inverse, the dough that is wrapped). Of a cross: from tip
        to tip both ways, and the height of its middle; the flaps are a quarter as high.
    fat : Box or None
        The fat block or sheet; None when there is none or it is in pieces.
    done : Box
        The block just after enclosing; of a coil the log, as long as it is thick, its axis across.
    shape : {'envelope', 'cross', 'thirds', 'halves', 'inverse', 'pieces', 'coil', 'plain'}
        Which drawing it is.
    """

    dough: Box
    fat: Box | None
    done: Box
    shape: Shape

    @property
    def open_ends(self) -> int:
        """Ends of the block with a border: none where the sheet goes round the fat [-]."""
        return 2 if self.shape in ("envelope", "cross") else 1


def enclosing(
    enclosure: Enclosure,
    dough_ml: float,
    fat_ml: float,
    fat_mm: float,
    width_mm: float | None = None,
    working: Working | None = None,
    room: Room | None = None,
    gathered_mm: float | None = None,
) -> Enclosing:
    """Work out the sizes for enclosing.

    Parameters
    ----------
    dough_ml, fat_ml : float
        Volumes of dough and fat block [mL].
    fat_mm : float
        Thickness of the fat block [mm]; for inverse, of the fat sheet.
    width_mm : float or None
        Chosen width of the block, borders counted [mm]; None for one as wide as it is long, within
        the room there is. The sheet of a coil is then about twice as long as wide.
    working : Working or None
        With border, overlap, way of the envelope and sheet of a coil; None for none of them.
    room : Room or None
        For a width that is not chosen.
    gathered_mm : float or None
        Height that paste in pieces is gathered to [mm]; None for twice `fat_mm`.

    Raises
    ------
    AplombError
        When there is nothing to enclose, a length is not above zero, or a border takes the width.

    Notes
    -----
    With a the side of the enclosed block (fat and two borders) and o the overlap: envelope, a
    dough square of √2 (a + o/2), so that the flaps close exactly without overlap; as a cross, a
    middle of a × a and four flaps of a each, a quarter as high, so that as much dough lies above
    as below. Thirds: three panels, fat on two of them. Halves: two. Inverse: the fat is the sheet
    and the dough lies on half of it. Coil: length = volume / (width × sheet).
    """
    working, room = working or Working(), room or Room()
    border, overlap = working.border_mm, working.overlap_mm
    if enclosure in (Enclosure.NONE, Enclosure.PIECES, Enclosure.PORTIONS) or fat_ml <= 0:
        pieces = enclosure is Enclosure.PIECES
        whole_ml = dough_ml + (0.0 if enclosure is Enclosure.PORTIONS else max(fat_ml, 0.0))
        high = gathered_mm if pieces and gathered_mm else 2 * fat_mm
        wide = width_mm or math.sqrt(at_least(whole_ml * 1000 / high))
        whole = rolled(whole_ml, high, wide)
        plain: Shape = "pieces" if pieces else "plain"
        return Enclosing(whole, None, whole, plain)
    if enclosure is Enclosure.ENVELOPE:
        return _envelope(dough_ml, fat_ml, fat_mm, working)
    if enclosure is Enclosure.COIL:
        area = at_least((dough_ml + fat_ml) * 1000 / (working.coil_mm or 1.0))
        least = max(math.sqrt(area / 2), area / room.bench_mm)
        return _coil(dough_ml, fat_ml, width_mm or min(least, room.wide_mm), working)
    if width_mm is None:
        width_mm = _wide_as_long(enclosure, fat_ml * 1000 / fat_mm, border, room)
    if width_mm <= 2 * border:
        raise AplombError(
            f"borders of {mm_text(border)} leave nothing of a sheet {mm_text(width_mm)} "
            "wide; roll it wider"
        )
    inner = width_mm - 2 * border
    if enclosure is Enclosure.INVERSE:
        fat = rolled(fat_ml, fat_mm, width_mm)
        length = fat.length_mm / 2
        if length <= border:
            raise AplombError(
                f"a border of {mm_text(border)} leaves no room for the dough on a fat "
                f"sheet {mm_text(fat.length_mm, '.0f')} long; make the border narrower or "
                "the sheet thinner"
            )
        dough = rolled(dough_ml, dough_ml * 1000 / ((length - border) * inner), inner)
        done = rolled(dough_ml + fat_ml, (dough_ml + fat_ml) * 1000 / (length * width_mm), width_mm)
        return Enclosing(dough, fat, done, "inverse")
    fat = rolled(fat_ml, fat_mm, inner)
    shape: Shape = "thirds" if enclosure is Enclosure.THIRDS else "halves"
    panels = 3 if shape == "thirds" else 2
    panel = (fat.length_mm + border) / (panels - 1)
    length = panels * panel + overlap
    dough = Box(length, width_mm, dough_ml * 1000 / (length * width_mm))
    done = rolled(dough_ml + fat_ml, (dough_ml + fat_ml) * 1000 / (panel * width_mm), width_mm)
    return Enclosing(dough, fat, done, shape)


def _wide_as_long(enclosure: Enclosure, fat_mm2: float, border_mm: float, room: Room) -> float:
    """Width at which the enclosed block is a square [mm], wider where its sheet is too long.

    The fat sheet of area A, borders b at its sides and one end, lies on m panels of a width w:
    ``A = (m w - b) (w - 2 b)``; of an inverse paste it is the outer sheet, w × 2 w.
    """
    if enclosure is Enclosure.INVERSE:
        return min(max(math.sqrt(fat_mm2 / 2), fat_mm2 / room.bench_mm), room.wide_mm)
    many = 2 if enclosure is Enclosure.THIRDS else 1
    b, panels = border_mm, many + 1
    half = (2 * b * many + b) / (2 * many)
    square = half + math.sqrt(max(0.0, half**2 + (fat_mm2 - 2 * b * b) / many))
    fits = fat_mm2 * panels / (many * room.bench_mm) + 2 * b
    return min(max(square, fits), room.wide_mm)


def _envelope(dough_ml: float, fat_ml: float, fat_mm: float, working: Working) -> Enclosing:
    side = math.sqrt(fat_ml * 1000 / fat_mm)
    fat = Box(side, side, fat_mm)
    block = side + 2 * working.border_mm
    done = Box(block, block, (dough_ml + fat_ml) * 1000 / block**2)
    if working.envelope == "cross":
        tip = 3 * block + working.overlap_mm
        return Enclosing(Box(tip, tip, dough_ml * 500 / block**2), fat, done, "cross")
    dough_side = math.sqrt(2) * (block + working.overlap_mm / 2)
    dough = Box(dough_side, dough_side, dough_ml * 1000 / dough_side**2)
    return Enclosing(dough, fat, done, "envelope")


def _coil(dough_ml: float, fat_ml: float, width_mm: float, working: Working) -> Enclosing:
    sheet = rolled(dough_ml + fat_ml, working.coil_mm, width_mm)
    share = fat_ml / (dough_ml + fat_ml)
    dough = Box(sheet.length_mm, width_mm, working.coil_mm * (1 - share))
    covered = sheet.length_mm - working.border_mm
    if covered <= 0:
        raise AplombError(
            f"a border of {mm_text(working.border_mm)} takes up the whole sheet for the "
            f"coil, which is {mm_text(sheet.length_mm, '.0f')} long; make it narrower"
        )
    fat = rolled(fat_ml, fat_ml * 1000 / (covered * width_mm), width_mm)
    across = 2 * log_radius_mm(sheet.length_mm, working.coil_mm)
    return Enclosing(dough, fat, Box(across, width_mm, across), "coil")
