"""Energy of food for labels.

Factors of Regulation (EU) No 1169/2011, annex XIV: fat 37 kJ (9 kcal), carbohydrate 17 (4),
protein 17 (4), fibre 8 (2), organic acid 13 (3) a gram. They are Atwater's general factors with
fibre and acid apart.
"""

from aplomb.core.base.composition import Composition

KJ_PER_G = {"fat": 37.0, "carbohydrate": 17.0, "protein": 17.0, "fibre": 8.0, "acid": 13.0}
KCAL_PER_G = {"fat": 9.0, "carbohydrate": 4.0, "protein": 4.0, "fibre": 2.0, "acid": 3.0}


def _energy(composition: Composition, per_gram: dict[str, float]) -> float:
    c = composition
    return (
        per_gram["fat"] * c.fat
        + per_gram["carbohydrate"] * (c.carbohydrate - c.acid)
        + per_gram["protein"] * c.protein
        + per_gram["fibre"] * c.fibre
        + per_gram["acid"] * c.acid
    )


def energy_kj_g(composition: Composition) -> float:
    """Energy [kJ/g] of fractions [g/g]; acid is carried in carbohydrate and counted once.

    Examples
    --------
    >>> from aplomb.core.base.composition import Composition
    >>> round(energy_kj_g(Composition(fat=0.82, water=0.16)), 1)
    30.3
    """
    return _energy(composition, KJ_PER_G)


def energy_kcal_g(composition: Composition) -> float:
    """Energy [kcal/g]; as `energy_kj_g`."""
    return _energy(composition, KCAL_PER_G)
