"""A material of the pantry: what it is made of, how sure that is, what it can do."""

from itertools import pairwise
from typing import Literal, get_args

from msgspec import Struct

from aplomb.core.base.composition import Composition
from aplomb.core.base.constants import WORKING_TEMP_C
from aplomb.core.base.errors import AmountError, Problems
from aplomb.core.base.figures import celsius_text, num
from aplomb.core.base.quantity import Amount
from aplomb.core.base.sound import check_numbers
from aplomb.core.base.units import Kind
from aplomb.core.cold.thermal import density_g_ml

Standing = Literal["std", "calc", "trade", "memory", "own", "trials"]
"""How sure a figure is: a published standard, arithmetic, common practice, recalled, the user's,
the user's own trials."""

STANDING_WORDS: dict[Standing, str] = {
    "std": "standard",
    "calc": "calculated",
    "trade": "common practice",
    "memory": "rule of thumb",
    "own": "your own",
    "trials": "your own trials",
}

Group = Literal[
    "flour", "starch", "fat", "liquid", "egg", "salt", "sugar", "acid", "binder", "other"
]

GROUPS: tuple[Group, ...] = get_args(Group)

GROUP_WORDS: dict[str, str] = {
    "flour": "Flour", "starch": "Starch", "fat": "Fat", "liquid": "Liquid", "egg": "Egg",
    "salt": "Salt", "sugar": "Sugar", "acid": "Acid", "binder": "Binder", "other": "Other",
}  # fmt: skip

ALLERGENS = (
    "cereals containing gluten", "milk", "egg", "soya", "nuts", "peanuts", "sesame", "mustard",
    "celery", "fish", "crustaceans", "molluscs", "lupin", "sulphites",
)  # fmt: skip
"""The fourteen of annex II of Regulation (EU) No 1169/2011, in short words."""

AcidKind = Literal["", "acetic", "citric"]


class Share(Struct, frozen=True, forbid_unknown_fields=True):
    """One material in a blend and its share by mass [g/g]."""

    material: str
    share: float


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
    acid_kind : {'', 'acetic', 'citric'}
        What the titratable acid is reckoned as.
    sfc : tuple of (temperature [°C], solid fat [%])
        Solid fat content, rising in temperature; empty when it is not known.
    latent_kj_kg : float or None
        Heat that a wholly solid fat takes to melt [kJ/kg of its fat]; None: not known.
    made_of : tuple of Share
        What a blend is made of, adding to 1; empty for a material bought as it is.
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
    acid_kind: AcidKind = ""
    sfc: tuple[tuple[float, float], ...] = ()
    latent_kj_kg: float | None = None
    made_of: tuple[Share, ...] = ()

    @property
    def is_flour(self) -> bool:
        """True when it counts as flour."""
        return self.group in ("flour", "starch")

    @property
    def is_fat(self) -> bool:
        """True when it counts as fat product."""
        return self.group == "fat"

    @property
    def is_water(self) -> bool:
        """True for water, whose temperature can be chosen and part of which can be ice."""
        return self.composition.water > 0.99

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

    Mass [g].

    Parameters
    ----------
    material : Ingredient
        Gives the density of a volume.
    flour_g : float or None
        Flour of the formula [g], for a percentage; None when there is none.
    text : str
        The text as typed, for the error.

    Raises
    ------
    AmountError
        For a length, a percentage without flour, or a volume of a material whose measure is
        not known.
    """
    whole = _own_grams(amount, material, flour_g, text)
    whole += sum(_own_grams(each, material, flour_g, text) for each in amount.plus)
    whole -= sum(_own_grams(each, material, flour_g, text) for each in amount.minus)
    if whole < 0:
        raise AmountError("more is taken away than there is", text, 0, len(text))
    return whole


def _own_grams(amount: Amount, material: Ingredient, flour_g: float | None, text: str) -> float:
    """Turn an amount into grams, without what is added to it or taken away."""
    if amount.kind is Kind.MASS:
        return amount.value
    if amount.kind is Kind.PERCENT:
        if amount.of not in ("", "flour"):
            raise AmountError(
                f"percentages are on flour here, not on the {amount.of}; give grams",
                text,
                0,
                len(text),
            )
        if not flour_g:
            raise AmountError(
                "percentages are on flour, and there is no flour yet; add some first",
                text,
                0,
                len(text),
            )
        return amount.value / 100 * flour_g
    if amount.kind is Kind.LENGTH:
        raise AmountError("a length is not an amount; use g, kg, oz or cup", text, 0, len(text))
    density = material.measure_g_ml
    if density is None:
        raise AmountError(
            f"the weight of a cup or spoon of {material.name} is not known; weigh it",
            text,
            0,
            len(text),
        )
    return amount.value * density


def check_material(material: Ingredient) -> Ingredient:
    """Give the material back if every figure in it can be used.

    Raises
    ------
    FormulaError
        Listing all that is wrong, each with its place and what is wanted.
    """
    wrong = Problems()
    number = wrong.number

    name = material.name.strip()
    if not name or len(name) > 80 or name[0] in "=+@":
        wrong.add("name: use 1 to 80 characters, and do not start it with =, + or @.")
    if material.group not in GROUPS:
        wrong.add(f"group: “{material.group}” must be one of {', '.join(GROUPS)}.")
    parts = material.composition
    for field in parts.__struct_fields__:
        number(field, 100 * getattr(parts, field), 0, 100, "%")
    if not wrong.told and parts.total > 1.02:
        wrong.add(
            f"composition: adds up to {num(100 * parts.total, '.4g')} %; it cannot be "
            "more than 100 %."
        )
    if not wrong.told and parts.sugar + parts.acid > parts.carbohydrate + 1e-9:
        wrong.add("sugar and acid are part of the carbohydrate and cannot be more than it.")
    if material.bulk_g_ml is not None:
        number("weight of a measure", material.bulk_g_ml, 0.02, 5, "g/mL")
    number("spread", 100 * material.bulk_spread, 0, 90, "%")
    if material.enclose_c is not None:
        low, high = material.enclose_c
        number("enclose from", low, -20, 60, "°C")
        number("enclose to", high, -20, 60, "°C")
        if low >= high:
            wrong.add("enclose: put the lower temperature first.")
    if material.latent_kj_kg is not None:
        number("latent heat", material.latent_kj_kg, 0, 300, "kJ/kg")
    for temp, solid in material.sfc:
        number("solid fat, temperature", temp, -40, 80, "°C")
        number(f"solid fat at {celsius_text(temp)}", solid, 0, 100, "%")
    for (a, solid_a), (b, solid_b) in pairwise(material.sfc):
        if b <= a:
            wrong.add(
                f"solid fat: {celsius_text(b)} must be above {celsius_text(a)}; "
                "list the temperatures from cold to warm."
            )
        elif solid_b > solid_a:
            wrong.add(
                f"solid fat: more at {celsius_text(b)} than at {celsius_text(a)}; solid "
                "fat must fall as the fat warms."
            )
    check_numbers(material, wrong)
    wrong.check()
    return material
