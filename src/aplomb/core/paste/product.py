"""What is made of a paste: its shape, its size, what goes on it; and how its sheet is cut."""

import re
from collections.abc import Iterator
from typing import Literal, get_args

from msgspec import Struct

from aplomb.core.base.constants import MM_PER_INCH
from aplomb.core.base.errors import AmountError, Problems
from aplomb.core.base.figures import DecimalSign, LengthUnit, bare_text, length_unit, mm_text, num
from aplomb.core.base.quantity import LARGEST_G, parse_length_mm
from aplomb.core.oven.programme import Programme, check_programme
from aplomb.core.paste.line import Line
from aplomb.core.paste.make_up import FillingIs, MakeUp

Shape = Literal[
    "rectangle", "triangle", "round", "case", "strip", "frame", "lining", "slice", "outline"
]
"""What a piece is: a square is a rectangle as long as wide, a case a base and a ring, a lining a
disc and the band round it, a slice one of a rolled log, an outline any polygon."""

SHAPE_WORDS: dict[Shape, str] = {
    "rectangle": "rectangle or square",
    "triangle": "triangle",
    "round": "round",
    "case": "ring case",
    "strip": "strip",
    "frame": "frame",
    "lining": "ring lining",
    "slice": "slice of a log",
    "outline": "own outline",
}

SIZE_WORDS: dict[Shape, tuple[str, str, str]] = {
    "rectangle": ("length", "width", ""),
    "triangle": ("base", "height", ""),
    "round": ("across", "", ""),
    "case": ("across", "", "hole diameter"),
    "strip": ("length", "width", ""),
    "frame": ("length", "width", "border width"),
    "lining": ("ring diameter", "ring height", "overlap"),
    "slice": ("sheet rolled up", "log length", "slice thickness"),
    "outline": ("", "", ""),
}
"""What a product's three sizes are for each shape; empty where a shape has no such size."""

UNTRIMMED: tuple[Shape, ...] = ("round", "rectangle", "strip")
"""Shapes that can be rolled by themselves and used untrimmed."""

Grain = Literal["free", "along", "across"]
"""How a piece lies on the sheet: its length with the last rolling, across it, or as it fits."""

GRAIN_WORDS: dict[Grain, str] = {
    "free": "whichever way fits",
    "along": "length along the rolling",
    "across": "length across the rolling",
}

Point = tuple[float, float]
MOST_PRODUCTS = 60
MOST_POINTS = 200
MOST_PARTS = 12


class CutPart(Struct, frozen=True, forbid_unknown_fields=True):
    """Something else that is cut for the same product: strips over a base, a lid.

    Attributes
    ----------
    what : str
        In words: ``strips``; empty for none.
    length_mm : float
        Its length, or across a disc, ordered after baking [mm].
    width_mm : float
        Its width [mm]; 0 for a disc.
    a_piece : int
        How many of it one product takes [-].
    """

    what: str
    length_mm: float
    width_mm: float = 0.0
    a_piece: int = 1


class Product(Struct, frozen=True, forbid_unknown_fields=True):
    """One thing made of a paste.

    Attributes
    ----------
    length_mm, width_mm, inner_mm : float
        The sizes wanted after baking, as `SIZE_WORDS` names them [mm].
    lean : float
        Of a triangle: where its tip stands over the base, 0.5 in the middle, 0 right-angled [-].
    points : tuple of (x, y)
        Of an outline: its corners [mm].
    inside_used : bool
        What is cut out of a case or frame is used (a lid), not scrap.
    disc_mm, band_mm : float
        Of a ring lining: its disc across, and its band's width, where they are not those of the
        ring [mm]; 0 for the ring's own.
    both_sides : bool
        A log is rolled up from both sides to its middle.
    untrimmed : bool
        A round, rectangle or strip that is rolled by itself to its size and used as it is: no sheet
        is cut, no edge trimmed.
    parts : tuple of CutPart
        What else is cut for it.
    pressed_length_mm, pressed_width_mm : float
        What a piece is pressed or rolled out to after it is cut [mm]; 0 for none. It stands on its
        tray with that size, and is cut with its own.
    offcut_g : float
        Weight of a piece that is made of offcuts [g]: no paste is made for it. 0 for one that is
        cut from the sheet.
    sheet_mm : float
        Thickness it is cut from [mm]; 0 for the formula's final sheet.
    shrink_along_pct, shrink_across_pct : float
        What it loses in the oven with and across the last rolling [%]; it is cut larger by that.
    gap_mm : float
        Paste left between pieces [mm]; 0 for a blade straight through.
    wanted : int
        Pieces wanted of this batch [-]; 0 for none of it today.
    filling, topping : tuple of Line
        Of one piece [g]. A product without filling takes the formula's.
    finish : str
        What is done to it at the end, in words.
    room_mm : float
        Room between pieces on a tray [mm].
    a_tray : int
        Pieces a tray [-]; 0 for as many as fit.
    price : float
        What one piece may cost, in the book's currency; 0 for no target.
    bake : Programme
        How it is baked; without steps the formula's.
    make_up : MakeUp
        How it is made up; empty for what is usual for its shape.
    filling_is : FillingIs
        What its filling is when it goes in.
    """

    name: str
    shape: Shape = "rectangle"
    length_mm: float = 100.0
    width_mm: float = 100.0
    inner_mm: float = 0.0
    lean: float = 0.5
    points: tuple[Point, ...] = ()
    inside_used: bool = True
    disc_mm: float = 0.0
    band_mm: float = 0.0
    both_sides: bool = False
    untrimmed: bool = False
    parts: tuple[CutPart, ...] = ()
    pressed_length_mm: float = 0.0
    pressed_width_mm: float = 0.0
    offcut_g: float = 0.0
    sheet_mm: float = 0.0
    shrink_along_pct: float = 0.0
    shrink_across_pct: float = 0.0
    grain: Grain = "free"
    gap_mm: float = 0.0
    wanted: int = 0
    filling: tuple[Line, ...] = ()
    topping: tuple[Line, ...] = ()
    finish: str = ""
    room_mm: float = 25.0
    a_tray: int = 0
    price: float = 0.0
    bake: Programme = Programme()
    make_up: MakeUp = ""
    filling_is: FillingIs = ""

    @property
    def is_cut(self) -> bool:
        """True when pieces are wanted that are cut from the sheet, not made of offcuts."""
        return self.wanted > 0 and not self.offcut_g


class Cutting(Struct, frozen=True, forbid_unknown_fields=True):
    """How the final sheet is cut.

    Attributes
    ----------
    edge_mm : float
        Trimmed off every rolled edge [mm]; 5 to 15 is common practice.
    relax_along_pct, relax_across_pct : float
        What the sheet draws back before it is cut, with and across the last rolling [%].
    length_mm, width_mm : float
        The sheet as cut, after it has drawn back [mm]; 0 for the best that is found.
    rows : {'', 'across', 'along'}
        Which way the first cuts go; empty for the better one.
    sheets_a_block : int
        Sheets that one block is cut into before the last rolling [-]; 0 for as few as fit.
    scrap_pct : float
        Scrap, stacked flat, that goes into new paste: at most this share of it [%]; 0 throws it.
    scrap_g : float
        Scrap of earlier batches that is there for this one [g].
    lies_on : {'bench', 'tray'}
        Where the sheet lies before it is cut; on a tray it rests, or is baked, whole.
    """

    edge_mm: float = 10.0
    relax_along_pct: float = 8.0
    relax_across_pct: float = 4.0
    length_mm: float = 0.0
    width_mm: float = 0.0
    rows: Literal["", "across", "along"] = ""
    sheets_a_block: int = 0
    scrap_pct: float = 0.0
    scrap_g: float = 0.0
    lies_on: Literal["bench", "tray"] = "bench"


def check_product(product: Product, place: str, wrong: Problems) -> None:
    """Take down all that is wrong with a product; `place` says where it stands."""
    number = wrong.number
    if not product.name.strip() or len(product.name) > 80:
        wrong.add(f"{place}: the name has 1 to 80 characters.")
    check_programme(product.bake, f"{place}, bake", wrong)
    words = SIZE_WORDS[product.shape]
    for name, said in zip(("length_mm", "width_mm", "inner_mm"), words, strict=True):
        if said:
            least = 0 if said == "overlap" else 1
            number(f"{place}, {said}", getattr(product, name), least, 5000, "mm")
    if product.shape == "case" and product.inner_mm >= product.length_mm:
        wrong.add(
            f"{place}: a hole of {mm_text(product.inner_mm)} leaves no ring; make it smaller."
        )
    narrow = min(product.length_mm, product.width_mm)
    if product.shape == "frame" and 2 * product.inner_mm >= narrow:
        wrong.add(
            f"{place}: a border of {mm_text(product.inner_mm)} leaves no opening in "
            "the frame; make it narrower."
        )
    if product.shape == "slice" and product.inner_mm > product.width_mm:
        wrong.add(f"{place}: the slice is thicker than the log is long; make it thinner.")
    if product.untrimmed and product.shape not in UNTRIMMED:
        wrong.add(f"{place}: only a round, rectangle or strip is used untrimmed.")
    if product.untrimmed and product.parts:
        wrong.add(f"{place}: what is used untrimmed has no parts cut for it.")
    if product.shape == "outline":
        _check_outline(product.points, place, wrong)
    number(f"{place}, slant", product.lean, 0, 1, "")
    for name, said in (
        ("disc_mm", "disc diameter"),
        ("band_mm", "border width"),
        ("pressed_length_mm", "pressed to length"),
        ("pressed_width_mm", "pressed to width"),
    ):
        if getattr(product, name):
            number(f"{place}, {said}", getattr(product, name), 1, 5000, "mm (or 0)")
    if len(product.parts) > MOST_PARTS:
        wrong.add(f"{place}: {len(product.parts)} parts are too many; up to {MOST_PARTS} fit.")
    for part in product.parts[:MOST_PARTS]:
        said = f"{place}, {part.what or 'part'}"
        if len(part.what) > 40 or any(sign in part.what for sign in ";\n0123456789"):
            wrong.add(f"{said}: use up to 40 characters for a part’s name, without numbers or “;”.")
        number(f"{said}, length", part.length_mm, 1, 5000, "mm")
        if part.width_mm:
            number(f"{said}, width", part.width_mm, 1, 5000, "mm (or 0 for a disc)")
        number(f"{said}, how many", part.a_piece, 1, 1000, "per product")
    number(f"{place}, grams of scrap", product.offcut_g, 0, 5000, "g")
    if product.sheet_mm:
        number(f"{place}, thickness", product.sheet_mm, 0.3, 50, "mm (or 0)")
    for name in ("shrink_along_pct", "shrink_across_pct"):
        number(f"{place}, shrinkage", getattr(product, name), -30, 60, "%")
    number(f"{place}, gap", product.gap_mm, 0, 200, "mm")
    number(f"{place}, ordered", product.wanted, 0, 1_000_000, "pieces")
    number(f"{place}, room on the tray", product.room_mm, 0, 500, "mm")
    number(f"{place}, pieces per tray", product.a_tray, 0, 100_000, "pieces")
    number(f"{place}, target cost", product.price, 0, 1_000_000, "")
    for line in (*product.filling, *product.topping):
        number(f"{place}, {line.material}", line.grams, 0, LARGEST_G, "g")


def check_cutting(cutting: Cutting, wrong: Problems) -> None:
    """Take down all that is wrong with how a sheet is cut."""
    number = wrong.number
    number("trim per edge", cutting.edge_mm, 0, 200, "mm")
    number("sheet shrinks along", cutting.relax_along_pct, 0, 60, "%")
    number("sheet shrinks across", cutting.relax_across_pct, 0, 60, "%")
    for said in ("length_mm", "width_mm"):
        if getattr(cutting, said):
            number(f"sheet, {said[:-3]}", getattr(cutting, said), 20, 20_000, "mm (or 0)")
    number("sheets per block", cutting.sheets_a_block, 0, 1000, "")
    number("scrap in new paste", cutting.scrap_pct, 0, 50, "%")
    number("scrap in stock", cutting.scrap_g, 0, LARGEST_G, "g")


def _check_outline(points: tuple[Point, ...], place: str, wrong: Problems) -> None:
    if not 3 <= len(points) <= MOST_POINTS:
        wrong.add(f"{place}: an outline has 3 to {MOST_POINTS} corners, not {len(points)}.")
        return
    for x, y in points:
        wrong.number(f"{place}, corner", x, -5000, 5000, "mm")
        wrong.number(f"{place}, corner", y, -5000, 5000, "mm")
    if wrong.told:
        return
    from shapely import Polygon
    from shapely.validation import explain_validity

    shape = Polygon(points)
    if not shape.is_valid:
        where = re.search(r"\[(\S+) (\S+)\]", explain_validity(shape))
        at = f" near {num(float(where[1]), '.4g')}, {num(float(where[2]), '.4g')}" if where else ""
        wrong.add(
            f"{place}: the outline crosses or touches itself{at}; list its corners in "
            "order all the way round."
        )
    elif shape.area < 1:
        wrong.add(f"{place}: the outline encloses nothing.")


def _parted(text: str) -> Iterator[tuple[int, str]]:
    """Give what stands between semicolons, each with where it starts."""
    start = 0
    for part in text.split(";"):
        yield start, part
        start += len(part) + 1


INCH_PLACES = 2
"""To what a corner typed in inches is rounded [places of a mm]."""


def read_points(text: str, decimal: str = ".", unit: LengthUnit = "mm") -> tuple[Point, ...]:
    """Read the corners of an outline.

    Parameters
    ----------
    text : str
        Pairs of x and y, as ``0 0; 120 0; 60 90``.
    decimal : {'.', ','}
        The decimal sign; with the comma, coordinates are parted by blanks only.
    unit : {'mm', 'in'}
        What the numbers are in.

    Returns
    -------
    tuple of (x, y)
        Corners [mm].

    Raises
    ------
    AmountError
        Pointing at what is no pair of numbers.

    Examples
    --------
    >>> read_points('0 0; 120 0; 60 90')
    ((0.0, 0.0), (120.0, 0.0), (60.0, 90.0))
    """
    found: list[Point] = []
    for start, part in _parted(text):
        bare = part if decimal == "," else part.replace(",", " ")
        words = bare.replace(decimal, ".").replace("−", "-").split()
        if words:
            try:
                x, y = (float(word) for word in words)
            except ValueError:
                raise AmountError(
                    (
                        f"enter two numbers per corner, in {unit}, with “;” between corners, "
                        f"e.g. {points_text(EXAMPLE_CORNERS, unit)}"
                    ),
                    text,
                    start,
                    start + len(part),
                ) from None
            if unit == "in":
                x, y = (round(n * MM_PER_INCH, INCH_PLACES) for n in (x, y))
            found.append((x, y))
    if len(found) > 1 and found[0] == found[-1]:
        found.pop()
    return tuple(found)


EXAMPLE_CORNERS: tuple[Point, ...] = ((0, 0), (127, 0), (63.5, 101.6))


def points_text(points: tuple[Point, ...], unit: LengthUnit = "mm") -> str:
    """Write the corners of an outline as `read_points` reads them."""
    if unit == "in":
        points = tuple((round(x / MM_PER_INCH, 4), round(y / MM_PER_INCH, 4)) for x, y in points)
    return "; ".join(f"{x:g} {y:g}" for x, y in points)


def read_parts(text: str, decimal: DecimalSign = ".") -> tuple[CutPart, ...]:
    """Read what else is cut for a product.

    Parameters
    ----------
    text : str
        Parts parted by ``;``: how many, a name, length × width, or one size across a disc:
        ``4 strips 160 × 20; lid 90``. A bare size is in the house's unit;
        ``mm``, ``cm`` and ``in`` are read too.
    decimal : {'.', ','}
        The locale's decimal sign.

    Raises
    ------
    AmountError
        Pointing at the part that cannot be read.

    Examples
    --------
    >>> read_parts('4 strips 160 × 20')[0].a_piece
    4
    """
    found: list[CutPart] = []
    for start, each in _parted(text):
        if each.strip():
            try:
                found.append(_read_part(each, decimal))
            except (AmountError, ValueError):
                raise AmountError(
                    (
                        "enter how many, a name and a size, with “;” between parts, e.g. 4 "
                        "strips 160 × 20; lid 90"
                    ),
                    text,
                    start,
                    start + len(each),
                ) from None
    return tuple(found)


_NAME = r"(?!(?:mm|cm|m|in|inch|inches|x)\b)[^\W\d_][^\d⌀]*"
_COUNTED = re.compile(rf"(\d+)\s*(?:[x×*]\s*)?(?=⌀|{_NAME}\d|{_NAME}⌀)")
_NAMED = re.compile(rf"({_NAME}?)\s*(?=[\d⌀])")


def _read_part(text: str, decimal: DecimalSign) -> CutPart:
    """Read one part; raises AmountError or ValueError."""
    rest = text.strip()
    counted = _COUNTED.match(rest)
    many = int(counted[1]) if counted else 1
    rest = rest[counted.end() :] if counted else rest
    named = _NAMED.match(rest)
    what = named[1].strip() if named else ""
    rest = rest[named.end() :] if named else rest
    disc = rest.startswith("⌀")
    sides = re.split(r"\s*[x×*]\s*", rest.removeprefix("⌀").strip())
    if len(sides) == 3 and counted is None and not what and not disc:
        many = int(sides.pop(0))
    if len(sides) > (1 if disc else 2) or what.endswith(("-", "−", "+")):
        raise ValueError(text)
    unit = re.search(r"[^\d\s.,/]+\s*$", sides[-1])
    if unit is not None and len(sides) == 2 and re.fullmatch(r"[\d\s.,/]+", sides[0]):
        sides[0] += f" {unit[0]}"
    sizes = [parse_length_mm(side, length_unit(), decimal) for side in sides]
    if not all(size > 0 for size in sizes):
        raise ValueError(text)
    return CutPart(what, sizes[0], sizes[1] if len(sizes) == 2 else 0.0, many)


def parts_text(parts: tuple[CutPart, ...]) -> str:
    """Write what else is cut as `read_parts` reads it, with the house's unit and decimal sign."""
    return "; ".join(
        " ".join(
            n
            for n in (
                str(p.a_piece) + ("" if p.what else " ×") if p.a_piece > 1 else "",
                p.what or ("" if p.width_mm else "⌀"),
                " × ".join(bare_text(n, "mm") for n in (p.length_mm, p.width_mm) if n),
            )
            if n
        )
        for p in parts
    )


SHAPES: tuple[Shape, ...] = get_args(Shape)
