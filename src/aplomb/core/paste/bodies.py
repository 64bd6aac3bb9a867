"""Dough, fat block and paste as heat sees them: what a formula is made of, melts and freezes.

Before they meet, dough and fat are two bodies. From the first turn on the leaves are far thinner
than the way the heat has to go, so that one mixed body is right.
"""

from collections.abc import Iterable

from msgspec import Struct

from aplomb.core.base.composition import mixed
from aplomb.core.cold.material import Freezing, Melting, Mixture
from aplomb.core.fats.solid import to_freezing
from aplomb.core.paste.fat_profile import FatProfile, profile
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Pantry

BOUND_G = 0.25
"""Water that never freezes [g/g of dry flour], recalled."""
FLOUR_SOLUBLES_G = 0.01
"""What dissolves of a flour, as sucrose [g/g of dry flour], recalled."""
CRYOSCOPIC_K = 1.86
"""What one mol of particles a kilogram of water lowers its freezing point by [K·kg/mol]."""
SALT_G_MOL, SUGAR_G_MOL, ACID_G_MOL = 58.44, 342.3, 60.05
"""Molar masses of sodium chloride, sucrose and acetic acid [g/mol]."""
COLDEST_START_C, WARMEST_START_C = -20.0, -0.2
"""Between which a freezing point is taken [°C]."""

Known = list[tuple[float, Ingredient]]


class Bodies(Struct, frozen=True):
    """What a formula gives to be cooled.

    Attributes
    ----------
    dough, fat, paste : Mixture or None
        The dough by itself, the fat block by itself, and both together; None for what is not
        there, or has no composition.
    range_c : tuple of two floats, or None
        Where the fat is enclosed and rolled [°C]; None when that is not known.
    """

    dough: Mixture | None
    fat: Mixture | None
    paste: Mixture | None
    range_c: tuple[float, float] | None


def freezing_of(parts: Iterable[tuple[float, Ingredient]], whole_g: float) -> Freezing | None:
    """Work out how the water of some lines freezes within a whole.

    None without water that can freeze.

    Parameters
    ----------
    parts : iterable of (mass [g], Ingredient)
        Of the dough.
    whole_g : float
        Mass that the water is a fraction of [g].

    Notes
    -----
    ΔT = 1.86 K·kg/mol · Σ nᵢ / m_w (Raoult, cryoscopic constant of water), salt as two particles,
    in the water that is not bound to flour. Water within fats is left out: it lies in drops of its
    own. With 2 % salt and 50 % water on flour that is -3.1 °C.
    """
    known = [(grams, m) for grams, m in parts if grams > 0 and not m.is_fat]
    dry = sum(g * (1 - m.composition.water) for g, m in known if m.is_flour)
    water = sum(g * m.composition.water for g, m in known) - BOUND_G * dry
    if water <= 0 or whole_g <= 0:
        return None
    particles = FLOUR_SOLUBLES_G * dry / SUGAR_G_MOL
    for grams, m in known:
        made = m.composition
        particles += 2 * grams * made.salt / SALT_G_MOL
        if not m.is_flour:
            particles += grams * made.sugar / SUGAR_G_MOL + grams * made.acid / ACID_G_MOL
    starts = -CRYOSCOPIC_K * particles / (water / 1000)
    return Freezing(min(max(starts, COLDEST_START_C), WARMEST_START_C), water / whole_g)


def _melting(known: Known, fat_share: float) -> Melting | None:
    """How the fats of some lines melt, as if all fat of their mixture were theirs."""
    fats: FatProfile | None = profile([(grams, m) for grams, m in known if m.is_fat])
    whole = sum(grams for grams, _ in known)
    if fats is None or not fats.sfc or whole <= 0 or fat_share <= 0:
        return None
    own = fats.fat_g / whole / fat_share
    return Melting(to_freezing(fats.sfc), fats.latent_kj_kg * own)


def mixture_of(known: Known, dough: Known) -> Mixture | None:
    """Give some lines together as one material; `dough` are those whose water freezes.

    None when they weigh nothing or are of nothing known.
    """
    blend = mixed([(grams, m.composition) for grams, m in known])
    if blend.total <= 0:
        return None
    whole = sum(grams for grams, _ in known)
    freezing = freezing_of(dough, whole)
    if freezing is not None:
        most = blend.water / blend.total
        freezing = Freezing(freezing.starts_c, min(freezing.water_fraction, most))
    return Mixture(blend, _melting(known, blend.fat / blend.total), freezing)


def bodies_of(formula: Formula, pantry: Pantry) -> Bodies:
    """Give dough, fat block and paste of a formula as materials.

    Parameters
    ----------
    pantry : Pantry
        Holding every material of it.
    """
    dough = [(line.grams, pantry[line.material]) for line in formula.dough if line.grams > 0]
    block = [(line.grams, pantry[line.material]) for line in formula.block if line.grams > 0]
    fats = profile([(grams, m) for grams, m in block if m.is_fat])
    return Bodies(
        mixture_of(dough, dough),
        mixture_of(block, [each for each in block if not each[1].is_fat]),
        mixture_of([*dough, *block], dough),
        fats.enclose_c if fats else None,
    )
