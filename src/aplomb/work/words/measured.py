"""What a mass is in cups, spoons, sticks and counts, beside the weight where the house wants it."""

from aplomb.core.base.figures import weight_text
from aplomb.core.base.house import House
from aplomb.core.batch.scaled import Weighed
from aplomb.core.paste.amounts import typed_span
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
    """Say what stands beside a line's weight: a range that was typed, and the line in measures.

    Measures are said where the house wants them, or where its scale cannot weigh the line.

    Parameters
    ----------
    target_g : float
        What is weighed of it, the whole or one mix [g].
    """
    small = small_words(house, material, weighed, target_g)
    measure = (
        f"{small}, too little for the scale" if small else measure_words(house, material, target_g)
    )
    return "; ".join(
        words for words in (range_words(material, weighed, target_g), measure) if words
    )


def range_words(material: Ingredient, weighed: Weighed, target_g: float) -> str:
    """Say between what a line of a batch may lie: ``30 g to 45 g as written``; empty for no range.

    Parameters
    ----------
    target_g : float
        What is weighed of it, the whole or one mix [g].
    """
    span = typed_span(weighed.line, material)
    if span is None or weighed.weigh_g <= 0:
        return ""
    factor = weighed.exact_g / weighed.line.grams * target_g / weighed.weigh_g
    return f"{weight_text(span.low * factor)} to {weight_text(span.high * factor)} as written"


def small_words(
    house: House, material: Ingredient, weighed: Weighed, target_g: float | None = None
) -> str:
    """Say in spoons or pinches what the scale cannot weigh; empty for what it can."""
    if not weighed.too_little:
        return ""
    share = 1.0 if not target_g or not weighed.weigh_g else target_g / weighed.weigh_g
    found = measured(weighed.exact_g * share, material, house.measures)
    return found.words if found else ""
