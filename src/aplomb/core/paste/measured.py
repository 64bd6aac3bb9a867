"""Masses said as people measure without a scale: cups, spoons, sticks and counts, with the spread.

Cups go in quarters and thirds, spoons in halves and quarters, butter in half sticks where sticks
are sold, eggs in halves (common practice). What is said is within a few percent of the mass, or
nothing is said.
"""

from typing import NamedTuple

from aplomb.core.base.constants import GRAMS_PER_STICK
from aplomb.core.base.figures import num
from aplomb.core.base.units import UNITS, Measures
from aplomb.core.paste.ingredient import Ingredient

PIECE_G = {"egg_whole": 50.0, "egg_yolk": 18.0, "egg_white": 32.0, "lemon_juice": 45.0}
"""What one of a thing that is counted weighs, without its shell [g], recalled."""
_COUNTED = {
    "egg_whole": ("egg", "eggs"), "egg_yolk": ("egg yolk", "egg yolks"),
    "egg_white": ("egg white", "egg whites"),
}  # fmt: skip
NEAR = 0.04
"""How far what is measured may be from the mass [-], our choice."""
PIECE_NEAR = 0.12
"""How far so many eggs may be from the mass [-], our choice: eggs differ by as much."""
_PARTS: tuple[tuple[float, str], ...] = (
    (0.0, ""), (1 / 4, "¼"), (1 / 3, "⅓"), (1 / 2, "½"), (2 / 3, "⅔"), (3 / 4, "¾"),
)  # fmt: skip
_SPOON_PARTS: tuple[tuple[float, str], ...] = (
    (0.0, ""), (1 / 8, "⅛"), (1 / 4, "¼"), (1 / 2, "½"), (3 / 4, "¾"),
)  # fmt: skip
FEW_SPOONS = 6
"""More tablespoons than this are said in cups, where that comes near enough [-], our choice."""
FEW_WITH_TSP = 3
"""Beside more tablespoons a part of a teaspoon does not matter [-], our choice."""
ABOUT = 0.3
"""What is further from the mass than that is not said, what is near is said as “about” [-]."""
LEAST_SPOON = 1 / 8
"""Smallest measuring spoon [teaspoons]."""


class Measured(NamedTuple):
    """A mass as it is measured.

    Attributes
    ----------
    words : str
        ``2¼ cups``, ``3 tbsp + 1 tsp``, ``2½ sticks``, ``3 eggs``, ``a pinch``.
    grams : float
        What that comes to [g].
    spread_pct : float
        How far a measure may be from it [%]: how flour lies in a cup, how eggs differ.
    """

    words: str
    grams: float
    spread_pct: float


def measured(grams: float, material: Ingredient, measures: Measures) -> Measured | None:
    """Say a mass in cups, spoons, sticks or pieces; None where it cannot be measured so.

    Parameters
    ----------
    grams : float
        [g].
    measures : {'metric', 'us'}
        Whose cups and spoons.
    """
    if grams <= 0:
        return None
    pieces = _pieces(grams, material)
    if pieces is not None:
        return pieces
    if measures == "us" and material.group == "fat" and grams >= GRAMS_PER_STICK / 2 * (1 - NEAR):
        halves = round(2 * grams / GRAMS_PER_STICK)
        if abs(halves * GRAMS_PER_STICK / 2 - grams) <= NEAR * grams:
            words = _with_unit(halves / 2, "stick", "sticks", _PARTS)
            return Measured(words, halves * GRAMS_PER_STICK / 2, 1.0)
    density = material.measure_g_ml
    if density is None:
        return None
    ml = grams / density
    found = _spooned(ml, measures)
    if found is None:
        return None
    words, taken = found
    return Measured(words, taken * density, 100 * material.bulk_spread)


def _pieces(grams: float, material: Ingredient) -> Measured | None:
    if material.key not in _COUNTED:
        return None
    each = PIECE_G[material.key]
    many = round(2 * grams / each) / 2
    if many < 0.5 or abs(many * each - grams) > PIECE_NEAR * grams:
        return None
    one, several = _COUNTED[material.key]
    return Measured(_with_unit(many, one, several, _PARTS), many * each, 100 * PIECE_NEAR)


def _spooned(ml: float, measures: Measures) -> tuple[str, float] | None:
    """Choose the fewest measures that come near enough; their words, and how much it is [mL]."""
    known = UNITS[measures]
    cup, big, small = (known[name].size for name in ("cup", "tbsp", "tsp"))
    tries: list[tuple[int, float, str]] = []
    for cups, cup_words in _near(ml / cup, _PARTS, "cup", "cups"):
        tries.append((1, cups * cup, cup_words))
        rest = ml - cups * cup
        if cups and rest > 0.4 * big:
            more = round(rest / big)
            words = _with_unit(more, "tbsp", "tbsp", _PARTS)
            tries.append((2, cups * cup + more * big, f"{cup_words} + {words}"))
    whole = int(ml // big)
    for spoons, words in _near(ml / big, ((0.0, ""), (1 / 2, "½")), "tbsp", "tbsp"):
        if spoons >= 1:
            tries.append((1 if spoons <= FEW_SPOONS else 3, spoons * big, words))
    if 0 < whole <= FEW_WITH_TSP:
        for spoons, words in _near((ml - whole * big) / small, _SPOON_PARTS, "tsp", "tsp"):
            if spoons < big / small:
                both = f"{_with_unit(whole, 'tbsp', 'tbsp', _PARTS)} + {words}"
                tries.append((2, whole * big + spoons * small, both))
    if ml < big:
        for spoons, words in _near(ml / small, _SPOON_PARTS, "tsp", "tsp"):
            tries.append((1, spoons * small, words))
    good = [each for each in tries if each[2] and abs(each[1] - ml) <= NEAR * ml]
    if good:
        _, taken, words = min(good, key=lambda each: (each[0], abs(each[1] - ml)))
        return words, taken
    if ml < LEAST_SPOON * small:
        return ("a pinch" if ml < LEAST_SPOON * small / 1.5 else "2 pinches"), ml
    tries = [each for each in tries if each[2] and each[1] > 0]
    if not tries:
        return None
    _, taken, words = min(tries, key=lambda each: (abs(each[1] - ml), each[0]))
    apart = abs(taken - ml) / ml
    if apart <= 2.5 * NEAR:
        return words, taken
    return (f"about {words}", taken) if apart <= ABOUT else None


def _near(
    value: float, parts: tuple[tuple[float, str], ...], one: str, several: str
) -> list[tuple[float, str]]:
    """Give the amounts below and above a value that a set of measures can make, in words."""
    whole = int(value)
    made = sorted({whole + part for part, _ in parts} | {whole + 1.0})
    below = max((each for each in made if each <= value + 1e-9), default=0.0)
    above = min((each for each in made if each > value), default=whole + 1.0)
    return [(each, _with_unit(each, one, several, parts)) for each in (below, above) if each > 0]


def _with_unit(value: float, one: str, several: str, parts: tuple[tuple[float, str], ...]) -> str:
    whole = int(value + 1e-9)
    part = min(parts, key=lambda each: abs(value - whole - each[0]))
    said = f"{num(whole) if whole else ''}{part[1]}" or "0"
    return f"{said} {one if value <= 1 + 1e-9 else several}"
