"""What a mass is in cups, spoons, sticks and counts, beside the weight where the house wants it."""

from aplomb.core.base.house import House
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.measured import measured

SPREAD_SAID = 5.0
"""From this on the spread of a measure is said [%], our choice."""


def measure_words(house: House, material: Ingredient, grams: float) -> str:
    """Say a mass in the house's cups and spoons; empty where it weighs, or cannot measure it.

    Parameters
    ----------
    grams : float
        [g].
    """
    found = measured(grams, material, house.measures) if house.beside == "cups" else None
    if found is None:
        return ""
    spread = f" (± {found.spread_pct:.0f} %)" if found.spread_pct >= SPREAD_SAID else ""
    return f"{found.words}{spread}"
