"""A product of another shape: its sizes as they are where the shape takes them."""

from typing import Any

from msgspec.structs import replace

from aplomb.core.paste.product import SIZE_WORDS, Product, Shape

FRESH: dict[str, dict[str, Any]] = {
    "case": {"inner_mm": 40.0, "gap_mm": 3.0},
    "frame": {"inner_mm": 20.0, "inside_used": False},
    "lining": {"inner_mm": 15.0, "width_mm": 40.0},
    "round": {"gap_mm": 3.0},
    "slice": {"inner_mm": 12.0, "length_mm": 300.0, "width_mm": 400.0},
    "outline": {"points": ((0.0, 0.0), (100.0, 0.0), (50.0, 90.0))},
    "strip": {"length_mm": 160.0, "width_mm": 20.0},
}
"""What a product starts with when its shape is chosen."""
USUAL_MM = 90.0
"""Length or width of what had none in its last shape [mm]."""
LEAST_MM = 10.0
"""A ring or frame is no smaller [mm]."""
MOST_OF_A_CASE, MOST_OF_A_FRAME = 0.6, 0.25
"""A hole and a border take no more of the outline than this [-]."""


def reshaped(product: Product, shape: Shape) -> Product:
    """Give a product in another shape; what was sound stays sound, whatever its sizes were.

    Examples
    --------
    >>> reshaped(Product("Straw", "strip", length_mm=160, width_mm=20), "frame").inner_mm
    5.0
    """
    fresh = dict(FRESH.get(shape, {}))
    for name, said in zip(("length_mm", "width_mm"), SIZE_WORDS[shape], strict=False):
        if said and name not in fresh:
            least = LEAST_MM if shape in ("case", "frame") else 1.0
            fresh[name] = max(getattr(product, name) or USUAL_MM, least)
    if shape == "case":
        fresh["inner_mm"] = min(fresh["inner_mm"], MOST_OF_A_CASE * fresh["length_mm"])
    if shape == "frame":
        narrow = min(fresh["length_mm"], fresh["width_mm"])
        fresh["inner_mm"] = min(fresh["inner_mm"], MOST_OF_A_FRAME * narrow)
    return replace(product, shape=shape, **fresh)
