"""Water temperature and ice for the dough of a batch."""

from aplomb.core.base.house import House
from aplomb.core.cold.mixing import Portion, WaterAndIce, water_and_ice
from aplomb.core.cold.thermal import heat_capacity_kj_kg_k
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.pantry import Pantry

COLD_GROUPS = ("fat", "liquid", "egg")
"""What comes out of the fridge; the rest is as warm as the flour."""


def dough_water(
    formula: Formula, pantry: Pantry, house: House, factor: float = 1.0
) -> WaterAndIce | None:
    """Find water temperature and ice for the formula's wanted dough temperature.

    None when the dough holds no water to choose. The fat block is not in the bowl.

    Parameters
    ----------
    house : House
        Temperatures of flour, fridge, water and ice; what mixing warms by.
    factor : float
        Batch over formula as written [-].
    """
    water = 0.0
    others = []
    for line in formula.dough:
        material = pantry[line.material]
        if material.is_water:
            water += line.grams * factor
        elif line.grams > 0 and material.composition.total > 0:
            temp = house.fridge_c if material.group in COLD_GROUPS else house.flour_c
            heat = heat_capacity_kj_kg_k(material.composition, 10.0)
            others.append(Portion(line.grams * factor, heat, temp))
    if water <= 0:
        return None
    return water_and_ice(others, water, formula.dough_c, house.tap_c, house.ice_c, house.mixing_k)


def held_back_g(formula: Formula, pantry: Pantry, factor: float) -> float:
    """Water of the dough that is held back and added to feel [g].

    Parameters
    ----------
    factor : float
        Of the batch, or of a mix of it, over the formula as written [-].
    """
    water = sum(n.grams for n in formula.dough if pantry[n.material].is_water)
    return formula.held_back_pct / 100 * water * factor
