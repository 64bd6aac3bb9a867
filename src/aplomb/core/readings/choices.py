"""If the fat were another: the likeliest others for a formula, each with its figures."""

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.paste.block_fat import block_fat
from aplomb.core.paste.fat_profile import FatProfile
from aplomb.core.paste.formula import Formula, Part
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Pantry
from aplomb.core.paste.swap import Swapped, swap
from aplomb.core.readings.readings import cost_of

USUAL = ("butter", "pastry_margarine", "lard", "shortening", "butter_sheet", "cake_margarine")
"""Fats that are commonly enclosed, the commonest first."""

MOST = 4
MOST_OWN = 8
OFF_RANGE_WEIGHT = 0.25
"""How much a degree between the shop and a fat's working range pushes it down the list, against
one place in `USUAL` [1/K], our choice."""


class FatChoice(Struct, frozen=True):
    """Another fat for the block.

    Attributes
    ----------
    name : str
        ``Lard``, or ``Half lard``.
    material : str
        Key of what comes in.
    share : float
        Share of the main fat that it replaces [-].
    swapped : Swapped
        The formula with it, at equal fat, water and salt given back.
    fat : FatProfile
        Of the block then.
    cost_ratio : float or None
        Cost of the formula then over now [-]; None when a price is missing.
    """

    name: str
    material: str
    share: float
    swapped: Swapped
    fat: FatProfile
    cost_ratio: float | None

    @property
    def cost_change_pct(self) -> float | None:
        """How much dearer the formula is then [%]; None when a price is missing."""
        return None if not self.cost_ratio else 100 * (self.cost_ratio - 1)

    def cost_of(self, whole: float | None) -> float | None:
        """Give what costs so much now with this fat; None when a price is missing."""
        return None if whole is None or not self.cost_ratio else whole * self.cost_ratio


def main_fat(formula: Formula, pantry: Pantry) -> int | None:
    """Place of the heaviest fat in the block; None without any."""
    fats = [
        (line.grams, -i)
        for i, line in enumerate(formula.block)
        if line.grams > 0 and pantry[line.material].is_fat
    ]
    return -max(fats)[1] if fats else None


def _off_range(material: Ingredient, shop_c: float) -> float:
    low, high = material.enclose_c or (0.0, 0.0)
    return max(low - shop_c, shop_c - high, 0.0)


def likely_fats(
    formula: Formula, pantry: Pantry, house: House, pieces: float | None = None
) -> tuple[FatChoice, ...]:
    """Give the four likeliest other fats.

    Three fats and one half-and-half, of other melting than the main fat: common ones, the
    book's own and those with a price, nearer the shop's warmth first. Empty without a fat.

    Parameters
    ----------
    house : House
        The warmth of the shop ranks them.
    pieces : float or None
        Pieces that the formula as written gives [-], for its cost.
    """
    place = main_fat(formula, pantry)
    if place is None:
        return ()
    now = pantry[formula.block[place].material]
    own = [key for key in pantry.own_fats[:MOST_OWN] if key not in USUAL]
    ranked = []
    for i, key in enumerate((*USUAL, *own)):
        if key not in pantry or key == now.key or pantry[key].enclose_c is None:
            continue
        material = pantry[key]
        if material.sfc == now.sfc and material.composition.fat - now.composition.fat < 0.05:
            continue
        place_in_line = min(i, 2) if pantry.per_gram(key) is not None else i + 3
        ranked.append((place_in_line + OFF_RANGE_WEIGHT * _off_range(material, house.shop_c), key))
    ranked.sort()
    wanted = [(key, 1.0) for _, key in ranked[: MOST - 1]]
    halves = [key for _, key in ranked if key in ("lard", "shortening", "butter")]
    wanted += [(key, 0.5) for key in halves[:1]]
    cost = cost_of(formula, pantry, pieces)
    found = []
    for key, share in wanted:
        try:
            made = swap(formula, pantry, Part.BLOCK, place, key, "fat", share)
        except AplombError:
            continue
        fat = block_fat(made.formula, pantry)
        if fat is None:
            continue
        then = cost_of(made.formula, pantry, pieces)
        ratio = then / cost if then is not None and cost else None
        name = pantry[key].name.split(",")[0]
        name = name if share == 1 else f"Half {name.lower()}"
        found.append(FatChoice(name, key, share, made, fat, ratio))
    return tuple(found)
