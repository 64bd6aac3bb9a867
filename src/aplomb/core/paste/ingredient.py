"""A material of the pantry: what it is made of, how sure that is, what it can do."""

from typing import Literal

from msgspec import Struct

from aplomb.core.cold.thermal import density_g_ml
from aplomb.core.composition import Composition
from aplomb.core.constants import WORKING_TEMP_C
from aplomb.core.errors import AmountError
from aplomb.core.quantity import Amount, Kind

Standing = Literal["std", "calc", "trade", "memory", "own"]
"""How sure a figure is: a published standard, arithmetic, common practice, recalled, the user's."""

STANDING_WORDS: dict[Standing, str] = {
    "std": "standard",
    "calc": "calculated",
    "trade": "common practice",
    "memory": "recalled",
    "own": "your own",
}

Group = Literal[
    "flour", "starch", "fat", "liquid", "egg", "salt", "sugar", "acid", "binder", "other"
]


class Ingredient(Struct, frozen=True, forbid_unknown_fields=True):
    """A material.

    Attributes
    ----------
    key, name : str
        The key stands in formulas and never changes; the name is shown.
    group : str
        One of `Group`. Flour and starch make up *flour*; fat makes up *fat product*.
    composition : Composition
        Mass fractions [g/g].
    standing : Standing
        Of the composition as a whole.
    source : str
        Where the composition comes from, in words.
    allergens : tuple of str
        As they are to be declared.
    bulk_g_ml : float or None
        Mass of a levelled measure over its volume [g/mL]; None: as dense as its composition.
    bulk_spread : float
        Likely relative spread of a measured volume [-].
    enclose_c : tuple of two floats, or None
        Temperatures between which a fat can be enclosed and rolled [°C]; None: never.
    also : str
        Other common names, for the search.
    """

    key: str
    name: str
    group: Group
    composition: Composition
    standing: Standing = "memory"
    source: str = ""
    allergens: tuple[str, ...] = ()
    bulk_g_ml: float | None = None
    bulk_spread: float = 0.0
    enclose_c: tuple[float, float] | None = None
    also: str = ""

    @property
    def is_flour(self) -> bool:
        """True when it counts as flour."""
        return self.group in ("flour", "starch")

    @property
    def is_fat(self) -> bool:
        """True when it counts as fat product."""
        return self.group == "fat"

    @property
    def has_gluten(self) -> bool:
        """True when it contains a cereal with gluten."""
        return any("gluten" in allergen for allergen in self.allergens)

    @property
    def measure_g_ml(self) -> float | None:
        """Mass of a measured volume over that volume [g/mL], or None when it is not known."""
        if self.bulk_g_ml is not None:
            return self.bulk_g_ml
        if self.group in ("liquid", "egg", "fat", "acid") and self.composition.total > 0:
            return density_g_ml(self.composition, WORKING_TEMP_C)
        return None


def to_grams(amount: Amount, material: Ingredient, flour_g: float | None, text: str) -> float:
    """Turn an understood amount into grams of a material.

    Parameters
    ----------
    amount : Amount
    material : Ingredient
        Gives the density of a volume.
    flour_g : float or None
        Flour of the formula [g], for a percentage; None when there is none.
    text : str
        The text as typed, for the error.

    Returns
    -------
    float
        Mass [g].

    Raises
    ------
    AmountError
        For a length, a percentage without flour, or a volume of a material whose measure is
        not known.
    """
    if amount.kind is Kind.MASS:
        return amount.value
    if amount.kind is Kind.PERCENT:
        if not flour_g:
            raise AmountError(
                "a percentage is on flour, and there is no flour yet", text, 0, len(text)
            )
        return amount.value / 100 * flour_g
    if amount.kind is Kind.LENGTH:
        raise AmountError("a length is not an amount; use g, kg, oz or cup", text, 0, len(text))
    density = material.measure_g_ml
    if density is None:
        raise AmountError(
            f"no weight for a volume of {material.name} is known; weigh it", text, 0, len(text)
        )
    return amount.value * density
