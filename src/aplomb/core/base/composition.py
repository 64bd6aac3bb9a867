"""What a material is made of, per gram."""

from msgspec import Struct
from msgspec.structs import astuple


class Composition(Struct, frozen=True, forbid_unknown_fields=True):
    """Mass fractions of a material [g/g]; what is missing to 1 is not known.

    Attributes
    ----------
    water, fat, protein, carbohydrate, fibre, salt, ash : float
        Fractions [g/g]. Sugar and starch are carbohydrate; `salt` is sodium chloride and is
        not counted again in `ash`.
    acid, sugar : float
        Titratable acid; sugars [g/g]. Both are part of `carbohydrate`.
    milk_solids : float
        Solids of milk without its fat [g/g], part of the others.
    """

    water: float = 0.0
    fat: float = 0.0
    protein: float = 0.0
    carbohydrate: float = 0.0
    fibre: float = 0.0
    salt: float = 0.0
    ash: float = 0.0
    acid: float = 0.0
    sugar: float = 0.0
    milk_solids: float = 0.0

    @property
    def total(self) -> float:
        """Sum of the known fractions [g/g]; acid is carried in `carbohydrate`."""
        return (
            self.water
            + self.fat
            + self.protein
            + self.carbohydrate
            + self.fibre
            + self.salt
            + self.ash
        )


def mixed(parts: list[tuple[float, Composition]]) -> Composition:
    """Composition of a mixture.

    The mass-weighted mean; all zero for an empty mixture.

    Parameters
    ----------
    parts : list of (mass, Composition)
        Masses [g], none negative.
    """
    mass = sum(m for m, _ in parts)
    if mass <= 0:
        return Composition()
    sums = [0.0] * len(Composition.__struct_fields__)
    for m, part in parts:
        for i, value in enumerate(astuple(part)):
            sums[i] += m * value
    return Composition(*(each / mass for each in sums))
