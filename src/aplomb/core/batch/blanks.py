"""What is cut from the sheet for one piece of a product: flat outlines with their areas."""

import math

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.paste.product import CutPart, Point, Product


class Blank(Struct, frozen=True):
    """One outline that is cut from the sheet, upright: x with the last rolling.

    Attributes
    ----------
    what : str
        Which part of a piece it is; empty when it is the piece.
    length_mm, width_mm : float
        The box round it as cut, length with the last rolling [mm].
    turned_mm : tuple of two floats
        The same when it is turned by a quarter: length, width [mm].
    area_mm2 : float
        Paste of it that goes into the piece, on the mean of all [mm²].
    hole_mm2 : float
        What is cut out of its middle and not used, on the mean of all [mm²].
    a_piece : float
        How many of it a piece takes [-]; below 1 when one is for several pieces.
    gap_mm : float
        Paste left between it and its neighbours [mm].
    round : bool
        True for a disc.
    hole_mm : float
        Diameter of a round hole, or width of the band round a square one [mm]; 0 without any.
    hole_every : int
        Which of them have the hole: 1 for each, 2 for every second [-].
    points : tuple of (x, y)
        Corners, for what is neither a box nor a disc [mm].
    upright, turnable : bool
        Whether it may lie upright, and turned by a quarter.
    marks : tuple of float
        Where a rolled log is cut later, along its width [mm].
    """

    what: str
    length_mm: float
    width_mm: float
    turned_mm: tuple[float, float]
    area_mm2: float
    a_piece: float = 1.0
    hole_mm2: float = 0.0
    gap_mm: float = 0.0
    round: bool = False
    hole_mm: float = 0.0
    hole_every: int = 1
    points: tuple[Point, ...] = ()
    upright: bool = True
    turnable: bool = False
    marks: tuple[float, ...] = ()

    def size(self, *, turned: bool) -> tuple[float, float]:
        """Length with the rolling and width across it as it lies [mm]."""
        return self.turned_mm if turned else (self.length_mm, self.width_mm)

    def outline(self, *, turned: bool, flipped: bool = False) -> tuple[Point, ...]:
        """Corners as it lies, from the lower corner of its box [mm]; a box without any points.

        Parameters
        ----------
        turned : bool
            By a quarter.
        flipped : bool
            By a half turn besides.
        """
        wide, high = self.size(turned=turned)
        corners = self.points or (
            (0.0, 0.0),
            (self.length_mm, 0.0),
            (self.length_mm, self.width_mm),
            (0.0, self.width_mm),
        )
        if turned:
            along, across = wide / self.width_mm, high / self.length_mm
            corners = tuple((y * along, (self.length_mm - x) * across) for x, y in corners)
        if flipped:
            corners = tuple((wide - x, high - y) for x, y in corners)
        return corners


def ring_band_mm(diameter_mm: float, overlap_mm: float) -> float:
    """Length of the band that lines a ring: its inner circumference and the overlap [mm].

    Parameters
    ----------
    diameter_mm : float
        Inner diameter of the ring [mm].
    overlap_mm : float
        Where the band's ends lie on one another [mm].

    Notes
    -----
    π d + overlap.

    Examples
    --------
    >>> round(ring_band_mm(200.0, 15.0), 1)
    643.3
    """
    return math.pi * diameter_mm + overlap_mm


def slices_a_log(product: Product) -> int:
    """How many whole slices one rolled log gives [-].

    Examples
    --------
    >>> slices_a_log(Product('x', 'slice', length_mm=300, width_mm=200, inner_mm=12))
    16
    """
    return max(1, math.floor(product.width_mm / max(0.1, product.inner_mm) + 1e-9))


def blanks_of(product: Product) -> tuple[Blank, ...]:
    """Give what is cut from the sheet for one piece of a product.

    Parameters
    ----------
    product : Product
        Checked.

    Returns
    -------
    tuple of Blank
        As cut: larger than wanted by what the oven shrinks, length and width each by its own share.
        A disc is enlarged by the larger of the two, since cutters are round.
    """
    return (*_own_blanks(product), *(_part_blank(product, part) for part in product.parts))


def piece_ml(product: Product, sheet_mm: float) -> float:
    """Volume of the paste in one piece of a product [mL].

    Parameters
    ----------
    sheet_mm : float
        The formula's final sheet [mm], for a product that has no thickness of its own.
    """
    area = sum(blank.area_mm2 * blank.a_piece for blank in blanks_of(product))
    return area * (product.sheet_mm or sheet_mm) / 1000


def _part_blank(product: Product, part: CutPart) -> Blank:
    what = part.what or "part"
    if part.width_mm:
        return _box(product, part.length_mm, part.width_mm, what, float(part.a_piece))
    return replace(_disc(product, part.length_mm, what), a_piece=float(part.a_piece))


def _own_blanks(product: Product) -> tuple[Blank, ...]:
    length, width, inner = product.length_mm, product.width_mm, product.inner_mm
    if product.shape == "round":
        return (_disc(product, length),)
    if product.shape == "case":
        return (_disc(product, length, "base and ring", inner * max(_grown(product)), every=2),)
    if product.shape == "lining":
        band = _box(product, ring_band_mm(length, inner), product.band_mm or width, "band")
        return (_disc(product, product.disc_mm or length, "disc"), band)
    if product.shape == "frame":
        return (_frame(product),)
    if product.shape == "slice":
        slices = slices_a_log(product)
        marks = tuple(inner * i for i in range(1, slices)) if slices <= 400 else ()
        log = _box(product, length, width, "log", a_piece=1 / slices, marks=marks)
        return (log,)
    if product.shape == "triangle":
        corners = ((0.0, 0.0), (length, 0.0), (product.lean * length, width))
        return (_polygon(product, corners),)
    if product.shape == "outline":
        return (_polygon(product, product.points),)
    return (_box(product, length, width),)


def _grown(product: Product) -> tuple[float, float]:
    """How much larger than wanted it is cut, along and across [-]."""
    along = 1 / (1 - product.shrink_along_pct / 100)
    across = 1 / (1 - product.shrink_across_pct / 100)
    return along, across


def _box(
    product: Product,
    length: float,
    width: float,
    what: str = "",
    a_piece: float = 1.0,
    marks: tuple[float, ...] = (),
) -> Blank:
    along, across = _grown(product)
    turned = (width * along, length * across)
    area = length * width * along * across
    return Blank(
        what,
        length * along,
        width * across,
        turned,
        area,
        a_piece,
        gap_mm=product.gap_mm,
        marks=tuple(m * across for m in marks),
        upright=product.grain != "across",
        turnable=product.grain != "along",
    )


def _disc(
    product: Product, diameter: float, what: str = "", hole: float = 0.0, every: int = 1
) -> Blank:
    size = diameter * max(_grown(product))
    cut_out = 0.0 if product.inside_used else math.pi * hole**2 / 4 / every
    return Blank(
        what,
        size,
        size,
        (size, size),
        math.pi * size**2 / 4 - cut_out,
        float(every),
        cut_out,
        product.gap_mm,
        round=True,
        hole_mm=hole,
        hole_every=every,
    )


def _frame(product: Product) -> Blank:
    whole = _box(product, product.length_mm, product.width_mm)
    along, across = _grown(product)
    band = product.inner_mm
    open_mm2 = (product.length_mm - 2 * band) * (product.width_mm - 2 * band) * along * across
    cut_out = 0.0 if product.inside_used else open_mm2
    return Blank(
        "",
        whole.length_mm,
        whole.width_mm,
        whole.turned_mm,
        whole.area_mm2 - cut_out,
        1.0,
        cut_out,
        product.gap_mm,
        hole_mm=band,
        upright=product.grain != "across",
        turnable=product.grain != "along",
    )


def _polygon(product: Product, corners: tuple[Point, ...]) -> Blank:
    along, across = _grown(product)
    left, low = min(x for x, _ in corners), min(y for _, y in corners)
    points = tuple(((x - left) * along, (y - low) * across) for x, y in corners)
    length, width = max(x for x, _ in points), max(y for _, y in points)
    area = (
        abs(
            sum(
                x1 * y2 - x2 * y1
                for (x1, y1), (x2, y2) in zip(points, (*points[1:], points[0]), strict=True)
            )
        )
        / 2
    )
    turned = (width / across * along, length / along * across)
    return Blank(
        "",
        length,
        width,
        turned,
        area,
        1.0,
        0.0,
        product.gap_mm,
        points=points,
        upright=product.grain != "across",
        turnable=product.grain != "along",
    )
