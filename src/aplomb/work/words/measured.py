"""What a mass is in cups, spoons, sticks and counts, beside the weight where the house wants it."""

from aplomb.core.base.house import House
from aplomb.core.batch.scaled import Weighed
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


def line_words(house: House, material: Ingredient, weighed: Weighed, target_g: float) -> str:
    """Say a line of a batch in measures: where the house wants them, or its scale cannot weigh it.

    Parameters
    ----------
    target_g : float
        What is weighed of it, the whole or one mix [g].
    """
    small = small_words(house, material, weighed, target_g)
    return (
        f"{small}, too little for the scale" if small else measure_words(house, material, target_g)
    )


def small_words(
    house: House, material: Ingredient, weighed: Weighed, target_g: float | None = None
) -> str:
    """Say in spoons or pinches what the scale cannot weigh; empty for what it can."""
    if not weighed.too_little:
        return ""
    share = 1.0 if not target_g or not weighed.weigh_g else target_g / weighed.weigh_g
    found = measured(weighed.exact_g * share, material, house.measures)
    return found.words if found else ""
