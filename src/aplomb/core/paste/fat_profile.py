"""What the fat of a paste is like, whether it is one fat or several."""

from msgspec import Struct

from aplomb.core.fats.solid import (
    FILM_C,
    Feel,
    Range,
    Table,
    blended,
    feel_at,
    plastic_range,
    solid_at,
)
from aplomb.core.paste.ingredient import Ingredient

USUAL_LATENT = 100.0
"""Latent heat of a fat of which nothing is said [kJ/kg], recalled."""


class FatProfile(Struct, frozen=True):
    """A fat, or several taken as blended.

    Attributes
    ----------
    fat_g : float
        Pure fat [g].
    sfc : Table
        Solid fat [%] by temperature [°C]; empty when it is not known of every part.
    enclose_c : tuple of two floats, or None
        Temperatures at which it is enclosed and rolled [°C]; of a blend the fat-weighted mean of
        the ends. None when a part cannot be enclosed.
    """

    fat_g: float
    parts: tuple[tuple[float, Ingredient], ...]
    sfc: Table
    enclose_c: tuple[float, float] | None

    @property
    def is_blend(self) -> bool:
        """True when several different fats are in it, so that the figures are approximate."""
        return len({m.sfc for _, m in self.parts}) > 1

    @property
    def latent_kj_kg(self) -> float:
        """Heat that it takes to melt when it is wholly solid [kJ/kg of fat], ± 25 %, recalled."""
        return sum(
            share * (USUAL_LATENT if m.latent_kj_kg is None else m.latent_kj_kg)
            for share, m in self.parts
        )

    @property
    def plastic(self) -> Range:
        """Temperatures at which it is plastic by its solid fat [°C]."""
        return plastic_range(self.sfc)

    @property
    def film_sfc(self) -> float | None:
        """Solid fat that is left in the mouth [%]; None when it is not known."""
        return solid_at(self.sfc, FILM_C) if self.sfc else None

    def feel(self, temp_c: float) -> Feel | None:
        """Say how it is at a temperature; None when no solid fat is known."""
        return feel_at(self.sfc, temp_c) if self.sfc else None


def profile(parts: list[tuple[float, Ingredient]]) -> FatProfile | None:
    """Work out what some fats are like together.

    None without any fat.

    Parameters
    ----------
    parts : list of (mass [g], Ingredient)
        Fats; those without weight are left out.
    """
    there = [(mass * m.composition.fat, m) for mass, m in parts if mass * m.composition.fat > 0]
    whole = sum(fat for fat, _ in there)
    if not there:
        return None
    ranges = [(fat / whole, m.enclose_c) for fat, m in there]
    enclose = None
    if all(each is not None for _, each in ranges):
        low, high = (
            sum(share * each[i] for share, each in ranges if each is not None) for i in (0, 1)
        )
        enclose = (low, high)
    return FatProfile(
        fat_g=whole,
        parts=tuple((fat / whole, m) for fat, m in there),
        sfc=blended([(fat, m.sfc) for fat, m in there]),
        enclose_c=enclose,
    )
