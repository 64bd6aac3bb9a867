"""Trays, oven loads and fridge spaces for what a batch gives."""

import math

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.house import House
from aplomb.core.batch.blanks import Blank, blanks_of
from aplomb.core.batch.layout import Layout, group_in, ways_of
from aplomb.core.batch.scaled import Scaled
from aplomb.core.paste.formula import Formula, make_up_of
from aplomb.core.paste.product import Product

RIM_SHARE = 0.5
"""Room left to the rim of the tray, over the room between pieces [-]."""


class OnTrays(Struct, frozen=True):
    """One product on trays.

    Attributes
    ----------
    pieces : int
        Raw [-].
    a_tray : int
        Pieces on a full tray [-]; 0 when not one fits.
    trays : int
        Trays it takes [-].
    last : int
        Pieces on the last tray [-].
    tray_g : float
        What lies on a full tray [g].
    layout : Layout or None
        A full tray; None when it is the user's own number or nothing fits.
    """

    name: str
    pieces: int
    a_tray: int
    trays: int
    last: int
    tray_g: float
    layout: Layout | None
    blank: Blank | None


def standing_blank(product: Product, *, folded: bool = False) -> Blank:
    """Give the outline of a piece as it stands on a tray: that wanted after baking [mm].

    Parameters
    ----------
    folded : bool
        It is folded over its filling: half as wide then, however its fold lies.

    Notes
    -----
    A case is as wide as its base, a lined ring as its ring; a slice of a log is a disc. A sheet of
    length L and thickness t rolled tight has the diameter d = 2 √(L t / π); rolled up from both
    sides it is two such discs of half the length beside one another. What is pressed larger after
    it is cut stands with that size.
    """
    if folded and not product.pressed_length_mm:
        if product.shape == "round":
            return _box(product.length_mm, product.length_mm / 2, product.room_mm)
        return _box(product.length_mm, product.width_mm / 2, product.room_mm)
    if product.pressed_length_mm:
        long = product.pressed_length_mm
        if product.shape in ("round", "case", "slice") and not product.pressed_width_mm:
            return _round(long, product.room_mm)
        return _box(long, product.pressed_width_mm or long, product.room_mm)
    if product.shape == "slice" and product.both_sides:
        size = 2 * math.sqrt(product.length_mm / 2 * (product.sheet_mm or 3.0) / math.pi)
        return _box(2 * size, size, product.room_mm)
    if product.shape in ("round", "case", "lining"):
        size = product.length_mm
    elif product.shape == "slice":
        thick = product.sheet_mm or 3.0
        size = 2 * math.sqrt(product.length_mm * thick / math.pi)
    else:
        size = 0.0
    if size:
        return _round(size, product.room_mm)
    if product.shape == "outline":
        xs, ys = [x for x, _ in product.points], [y for _, y in product.points]
        length, width = max(xs) - min(xs), max(ys) - min(ys)
    else:
        length, width = product.length_mm, product.width_mm
    return _box(length, width, product.room_mm)


def pressed_mm(product: Product, sheet_mm: float) -> float | None:
    """Give how thick a piece is once it is pressed or rolled larger after cutting [mm].

    None for what is not pressed.

    Parameters
    ----------
    product : Product
        Checked.
    sheet_mm : float
        The formula's final sheet, for a product without a thickness of its own [mm].

    Notes
    -----
    The volume stays and the outline keeps its kind, so t₂ = t₁ · L₁ W₁ / (L₂ W₂), with the piece as
    cut. A slice of a log lies on its face and is pressed to an oval: t₂ = L t s / (π L₂ W₂ / 4),
    with the sheet rolled up L · t and the slice s thick.
    """
    if not product.pressed_length_mm:
        return None
    pressed = product.pressed_length_mm * (product.pressed_width_mm or product.pressed_length_mm)
    sheet = product.sheet_mm or sheet_mm
    if product.shape == "slice":
        return product.length_mm * sheet * product.inner_mm / (math.pi * pressed / 4)
    cut = blanks_of(product)[0]
    return sheet * cut.length_mm * cut.width_mm / pressed


def _round(size: float, room: float) -> Blank:
    area = math.pi * size**2 / 4
    return Blank("", size, size, (size, size), area, round=True, gap_mm=room)


def _box(length: float, width: float, room: float) -> Blank:
    return Blank("", length, width, (width, length), length * width, gap_mm=room, turnable=True)


def fit(blank: Blank, long_mm: float, wide_mm: float) -> Layout | None:
    """Lay as many of one outline on a tray as find room; None when not one does.

    Parameters
    ----------
    blank : Blank
        Its gap is the room between pieces; half of that is kept to the rim.
    long_mm, wide_mm : float
        The tray inside its rim [mm].
    """
    rim = RIM_SHARE * blank.gap_mm
    length, width = long_mm - 2 * rim, wide_mm - 2 * rim
    best: Layout | None = None
    for rows, u, v in (("across", width, length), ("along", length, width)):
        for way in ways_of(blank, rows):  # type: ignore[arg-type]
            group = group_in(0, way, 100_000, rim, rim, u, v)
            if group and (best is None or group.count > best.groups[0].count):
                best = Layout(rows, wide_mm, long_mm, (group,), (0,))  # type: ignore[arg-type]
    return best


def on_trays(
    product: Product, pieces: int, each_g: float, house: House, *, folded: bool = False
) -> OnTrays:
    """Put a product on trays.

    Parameters
    ----------
    pieces : int
        Raw [-].
    each_g : float
        One with filling and topping [g].
    folded : bool
        It is folded over its filling.
    """
    blank = standing_blank(product, folded=folded)
    layout = fit(blank, house.tray_long_mm, house.tray_wide_mm)
    fits = layout.groups[0].count if layout else 0
    a_tray = product.a_tray or fits
    trays = math.ceil(pieces / a_tray) if a_tray else 0
    last = pieces - (trays - 1) * a_tray if trays else 0
    return OnTrays(
        product.name,
        pieces,
        a_tray,
        trays,
        last,
        a_tray * each_g,
        None if product.a_tray and product.a_tray != fits else layout,
        blank,
    )


def own_piece(formula: Formula) -> Product:
    """Give the batch's own piece as a product, so that what has none can be planned alike.

    One that is given by weight is a square of that weight in most formulas' paste; its size is
    only used for trays, its weight stays the batch's.
    """
    batch = formula.batch
    if batch.piece_by == "size":
        length, width = batch.piece_length_mm, batch.piece_width_mm
    else:
        length = width = math.sqrt(batch.piece_g * 1000 / formula.sheet_mm)
    return Product("", length_mm=length, width_mm=width, wanted=batch.pieces)


def batch_trays(formula: Formula, scaled: Scaled, house: House) -> tuple[OnTrays, ...]:
    """Put what a batch gives of each product on trays.

    A product without a thickness of its own is as thick as the formula's final sheet.
    """
    products = {p.name: p for p in formula.products}
    found = []
    for made in (*scaled.made, *scaled.from_offcuts):
        if made.pieces > 0:
            product = products.get(made.name) or own_piece(formula)
            product = replace(product, sheet_mm=product.sheet_mm or formula.sheet_mm)
            folded = bool(made.name) and make_up_of(formula, product) == "folded"
            found.append(on_trays(product, made.pieces, made.filled_g, house, folded=folded))
    return tuple(found)
