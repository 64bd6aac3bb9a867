"""What a mass is in cups, spoons, sticks and counts, beside the weight where the house wants it."""

from aplomb.core.base.house import House
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.measured import measured

SPREAD_SAID = 5.0
"""From this on the spread of a measure is said [%], our choice."""


def measure_words(house: House, material: Ingredient, grams: float, *, spread: bool = True) -> str:
    """Say a mass in the house's cups and spoons; empty where it weighs, or cannot measure it.

    Parameters
    ----------
    grams : float
        [g].
    spread : bool
        Whether it is said how far a measure may be from it.
    """
    found = measured(grams, material, house.measures) if house.beside == "cups" else None
    if found is None:
        return ""
    said = spread and found.spread_pct >= SPREAD_SAID
    return f"{found.words} (± {found.spread_pct:.0f} %)" if said else found.words
