"""The accounts of a formula: fat, water, salt and the rest, wherever they come from."""

from collections.abc import Iterable, Sequence

from msgspec import Struct

from aplomb.core.base.composition import Composition, mixed
from aplomb.core.base.constants import FLOUR_BASIS, WORKING_TEMP_C
from aplomb.core.cold.thermal import density_g_ml
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry


class Accounts(Struct, frozen=True):
    """Masses behind the readings [g], and volumes [mL] at the working temperature."""

    flour_g: float
    dough_flour_g: float
    dough_g: float
    block_g: float
    enclosed_fat_g: float
    dough_fat_g: float
    pure_fat_g: float
    dough_water_g: float
    block_water_g: float
    salt_g: float
    salt_added_g: float
    salt_hidden_g: float
    dough_ml: float
    block_ml: float
    between_g: float
    between_ml: float
    flour_water_g: float
    dough_flour_water_g: float
    flour_protein_g: float
    acid_product_g: float
    acid_g: float
    sugar_g: float
    milk_solids_g: float

    @property
    def rolled_g(self) -> float:
        """Paste with what is strewn in [g]."""
        return self.paste_g + self.between_g

    @property
    def dough_flour_14_g(self) -> float:
        """The flour of the dough as it would weigh at 14 % moisture [g]."""
        return (self.dough_flour_g - self.dough_flour_water_g) / (1 - FLOUR_BASIS)

    @property
    def dough_water_14_g(self) -> float:
        """Dough water beside its flour at 14 % moisture [g]; all water stays what it is."""
        return self.dough_water_g + self.dough_flour_g - self.dough_flour_14_g

    @property
    def paste_g(self) -> float:
        """Dough and block together [g]."""
        return self.dough_g + self.block_g

    @property
    def paste_ml(self) -> float:
        """Volume of dough and block [mL]."""
        return self.dough_ml + self.block_ml

    @property
    def fat_volume_share(self) -> float | None:
        """Volume of the fat block over the paste's, 0–1 [-]; None for an empty paste."""
        return self.block_ml / self.paste_ml if self.paste_ml > 0 else None

    @property
    def density_g_ml(self) -> float | None:
        """Density of the paste [g/mL]; None for an empty paste."""
        return self.paste_g / self.paste_ml if self.paste_ml > 0 else None

    @property
    def rolled_density_g_ml(self) -> float | None:
        """Density of the paste with what is strewn in [g/mL]; None for an empty paste."""
        return self.rolled_g / (self.paste_ml + self.between_ml) if self.paste_ml > 0 else None


Known = list[tuple[Line, Ingredient]]


class Parts(Struct, frozen=True):
    """What some lines are made of, as shares of their mass [-].

    Attributes
    ----------
    flour, water, fat, other : float
        Flour as weighed; water and fat of all else, by composition; the rest.
    """

    flour: float
    water: float
    fat: float
    other: float


def parts_of(lines: Iterable[Line], pantry: Pantry) -> Parts | None:
    """Work out what some lines are made of.

    None when they weigh nothing.
    """
    known = [(line.grams, pantry[line.material]) for line in lines]
    whole = sum(grams for grams, _ in known)
    if whole <= 0:
        return None
    flour = sum(grams for grams, m in known if m.is_flour)
    fat = sum(grams * m.composition.fat for grams, m in known if not m.is_flour)
    water = sum(grams * m.composition.water for grams, m in known if not m.is_flour)
    other = max(0.0, whole - flour - fat - water)
    return Parts(flour / whole, water / whole, fat / whole, other / whole)


class PartSum(Struct, frozen=True):
    """The lines of one part of a formula, summed.

    Attributes
    ----------
    percents : tuple of float or None
        Of each line, on flour [%]; None without any flour.
    """

    total_g: float
    percents: tuple[float | None, ...]
    total_pct: float | None


def part_sum(lines: Sequence[Line], flour_g: float) -> PartSum:
    """Sum the lines of a part.

    Parameters
    ----------
    flour_g : float
        All flour of the formula [g].

    Examples
    --------
    >>> part_sum([Line("water", 500.0), Line("salt", 18.0)], 1000.0).percents
    (50.0, 1.8)
    """
    total = sum(line.grams for line in lines)
    if flour_g <= 0:
        return PartSum(total, tuple(None for _ in lines), None)
    percents = tuple(100 * line.grams / flour_g for line in lines)
    return PartSum(total, percents, 100 * total / flour_g)


def _grams(known: Known) -> float:
    return sum(line.grams for line, _ in known)


def volume_ml(parts: Iterable[tuple[float, Composition]], temp_c: float = WORKING_TEMP_C) -> float:
    """Volume of a mixture without pores [mL].

    Parameters
    ----------
    temp_c : float
        Temperature [°C].

    Returns
    -------
    float
        0 for nothing, and for materials without any composition.
    """
    there = [(mass, what) for mass, what in parts if mass > 0]
    blend = mixed(there)
    if blend.total <= 0:
        return 0.0
    return sum(mass for mass, _ in there) / density_g_ml(blend, temp_c)


def water_g(known: Known) -> float:
    """Water of some lines [g], the flour's own not counted.

    Parameters
    ----------
    known : Known
        Masses [g] and their materials.
    """
    return sum(n.grams * m.composition.water for n, m in known if not m.is_flour)


def salt_g(known: Known) -> float:
    """Salt of some lines [g], whatever it comes from.

    Parameters
    ----------
    known : Known
        Masses [g] and their materials.
    """
    return sum(n.grams * m.composition.salt for n, m in known)


def account(formula: Formula, pantry: Pantry) -> Accounts:
    """Account for fat, water, salt, acid, sugar and milk solids wherever they come from.

    Parameters
    ----------
    pantry : Pantry
        Holding every material of the formula.

    Raises
    ------
    AplombError
        When a material is not in the pantry.
    """
    dough: Known = [(line, pantry[line.material]) for line in formula.dough]
    block: Known = [(line, pantry[line.material]) for line in formula.block]

    def fats(known: Known) -> float:
        return sum(n.grams for n, m in known if m.is_fat)

    both = [*dough, *block]
    between: Known = [(line, pantry[line.material]) for line in formula.between]
    flours = [(n.grams, m) for n, m in both if m.is_flour]
    in_dough = [(n.grams, m) for n, m in dough if m.is_flour]
    measured = formula.flour_moisture_pct

    def moisture(some: list[tuple[float, Ingredient]]) -> float:
        if measured is not None:
            return sum(g for g, _ in some) * measured / 100
        return sum(g * m.composition.water for g, m in some)

    salt_added = sum(n.grams * m.composition.salt for n, m in both if m.group == "salt")
    salt = salt_g(both)
    return Accounts(
        flour_g=sum(g for g, _ in flours),
        dough_flour_g=sum(g for g, _ in in_dough),
        dough_g=_grams(dough),
        block_g=_grams(block),
        enclosed_fat_g=fats(block),
        dough_fat_g=fats(dough),
        pure_fat_g=sum(n.grams * m.composition.fat for n, m in both if not m.is_flour),
        dough_water_g=water_g(dough),
        block_water_g=water_g(block),
        salt_g=salt,
        salt_added_g=salt_added,
        salt_hidden_g=salt - salt_added,
        dough_ml=volume_ml((n.grams, m.composition) for n, m in dough),
        block_ml=volume_ml((n.grams, m.composition) for n, m in block),
        between_g=_grams(between),
        between_ml=volume_ml((n.grams, m.composition) for n, m in between),
        flour_water_g=moisture(flours),
        dough_flour_water_g=moisture(in_dough),
        flour_protein_g=sum(g * m.composition.protein for g, m in flours),
        acid_product_g=sum(n.grams for n, m in both if m.group == "acid"),
        acid_g=sum(n.grams * acetic_g(m) for n, m in both),
        sugar_g=sum(n.grams * m.composition.sugar for n, m in both if m.group == "sugar"),
        milk_solids_g=sum(n.grams * m.composition.milk_solids for n, m in both),
    )


ACETIC_PER_CITRIC = 60.052 / (192.124 / 3)
"""Acetic acid that neutralises as much as citric acid [g/g]: molar masses [g/mol] over protons."""


def acetic_g(material: Ingredient) -> float:
    """Titratable acid of a material as acetic acid [g/g]."""
    acid = material.composition.acid
    return acid * ACETIC_PER_CITRIC if material.acid_kind == "citric" else acid
