"""The house: how a bakery measures, and how warm its places are."""

from msgspec import Struct

from aplomb.core.errors import Problems
from aplomb.core.units import Measures


class House(Struct, frozen=True, forbid_unknown_fields=True):
    """What a book says of its bakery.

    Attributes
    ----------
    measures : {'metric', 'us'}
        Which cups and spoons are meant when nothing is said.
    currency : str
        Shown with a price; empty for the locale's own.
    shop_c, fridge_c : float
        Usual temperature of the room and of the fridge [°C].
    flour_c, tap_c, ice_c : float
        Temperature of flour, of water as it comes, and of ice [°C].
    mixing_k : float
        What mixing warms the dough by [K].
    bench_mm, shelf_mm : float
        Length of the bench and of a fridge shelf [mm].
    belt_mm : float
        Width of the sheeter's belt [mm]; 0 without a sheeter.
    pass_pct : float
        Most that one pass of the sheeter takes off [%].
    """

    measures: Measures = "metric"
    currency: str = ""
    shop_c: float = 21.0
    fridge_c: float = 4.0
    flour_c: float = 20.0
    tap_c: float = 13.0
    ice_c: float = -2.0
    mixing_k: float = 2.0
    bench_mm: float = 1800.0
    shelf_mm: float = 600.0
    belt_mm: float = 0.0
    pass_pct: float = 40.0


LIMITS: dict[str, tuple[str, float, float, str]] = {
    "shop_c": ("Shop", -5, 45, "°C"),
    "fridge_c": ("Fridge", -5, 15, "°C"),
    "flour_c": ("Flour", -20, 45, "°C"),
    "tap_c": ("Water as it comes", 0, 40, "°C"),
    "ice_c": ("Ice", -30, 0, "°C"),
    "mixing_k": ("Mixing warms by", 0, 20, "K"),
    "bench_mm": ("Bench, long", 200, 20_000, "mm"),
    "shelf_mm": ("Fridge shelf, long", 100, 5_000, "mm"),
    "belt_mm": ("Sheeter belt, wide; 0 for none", 0, 3_000, "mm"),
    "pass_pct": ("A pass takes off at most", 5, 80, "%"),
}
"""Words and limits of each figure of the house."""


def check_house(house: House) -> House:
    """Give the house back if every figure in it can be used; raises FormulaError otherwise."""
    wrong = Problems()
    for name, (words, low, high, unit) in LIMITS.items():
        wrong.number(words, getattr(house, name), low, high, unit)
    if len(house.currency) > 8:
        wrong.add("currency: at most 8 signs are wanted.")
    wrong.check()
    return house
