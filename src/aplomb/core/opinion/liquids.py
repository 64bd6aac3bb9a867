"""What the dough's liquid is, and the band its water is held against."""

from typing import Literal

from msgspec.structs import replace

from aplomb.core.base.figures import num
from aplomb.core.opinion.opinion import Band, SchoolBands
from aplomb.core.paste.accounts import Accounts, water_g
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Pantry

Kind = Literal["water", "milk", "cream", "egg"]

LEAST_WET = 0.3
"""Water from which a material counts as a liquid of the dough [g/g], our choice."""
CREAM_FAT = 0.1
"""Fat from which milk is called cream [g/g]: Codex CXS 288-1976 has 10 % as the least."""

ON_FLOUR: dict[Kind, tuple[float, float]] = {"cream": (65.0, 80.0), "egg": (50.0, 65.0)}
"""Cream or egg as the dough's liquid, as weighed on its flour [%]: cream common practice, egg
recalled."""


def liquid_kind(material: Ingredient) -> Kind | None:
    """Tell which kind of liquid a material is; None for what is none."""
    if material.composition.water < LEAST_WET or material.is_fat:
        return None
    if material.group == "egg":
        return "egg"
    if material.group not in ("liquid", "acid"):
        return None
    if "milk" not in material.allergens:
        return "water"
    return "cream" if material.composition.fat >= CREAM_FAT else "milk"


def main_liquid(formula: Formula, pantry: Pantry) -> Kind:
    """Give the kind of liquid that brings most of the dough's water."""
    brought: dict[Kind, float] = {"water": 0.0}
    for line in formula.dough:
        kind = liquid_kind(pantry[line.material])
        if kind is not None:
            water = water_g([(line, pantry[line.material])])
            brought[kind] = brought.get(kind, 0.0) + water
    return max(brought, key=lambda kind: brought[kind])


def _of_all_it_wets(band: Band, formula: Formula, pantry: Pantry) -> Band:
    """Widen a band on the dough's flour to the flour that the liquid wets as well.

    Where the fat stays in pieces, the flour that is tossed with it is wetted too.
    """
    if not formula.turn_line.strip().casefold().startswith("pieces"):
        return band
    dough, block = (
        sum(line.grams for line in lines if pantry[line.material].is_flour)
        for lines in (formula.dough, formula.block)
    )
    if dough <= 0 or block <= 0:
        return band
    more = (dough + block) / dough
    return replace(
        band,
        low=band.low * more,
        high=band.high * more,
        axis_high=max(band.axis_high, band.high * more + 5),
    )


def with_band_of_liquid(
    school: SchoolBands, formula: Formula, pantry: Pantry, accounts: Accounts
) -> SchoolBands:
    """Give the school with the dough water's band as the dough's liquid wants it.

    The same for water. Cream and egg count as weighed, and their band is turned into
    the water they bring; milk is held against the school's own band, by its water.

    Parameters
    ----------
    accounts : Accounts
        Of the same formula.
    """
    kind = main_liquid(formula, pantry)
    if kind == "water" or accounts.dough_water_g <= 0:
        return school
    band = _of_all_it_wets(school.bands["dough_water_pct"], formula, pantry)
    wetted = band.high / school.bands["dough_water_pct"].high
    liquid_g = sum(n.grams for n in formula.dough if liquid_kind(pantry[n.material]) is not None)
    wet = accounts.dough_water_g / liquid_g
    if kind == "milk":
        of_milk = f"{band.low / wet:.0f} to {band.high / wet:.0f} %"
        made = replace(band, words=f"the water of milk: {of_milk} of milk on flour")
    else:
        low, high = (wetted * share for share in ON_FLOUR[kind])
        made = replace(
            band,
            low=low * wet,
            high=high * wet,
            axis_low=min(band.axis_low, low * wet - 5),
            axis_high=max(band.axis_high, high * wet + 5),
            standing="trade" if kind == "cream" else "memory",
            words=f"{kind} as the liquid: {num(low, '.0f')} to {num(high, '.0f')} % of it on flour",
        )
    return replace(school, bands={**school.bands, "dough_water_pct": made})
