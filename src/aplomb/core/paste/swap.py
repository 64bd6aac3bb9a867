"""One material for another at equal fat, water, acid or protein, salt and water given back."""

import math
from collections.abc import Callable
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import g_text, num
from aplomb.core.base.quantity import LARGEST_G
from aplomb.core.paste.accounts import acetic_g, salt_g, water_g
from aplomb.core.paste.formula import IN_THE_PASTE, Formula, Part
from aplomb.core.paste.ingredient import Ingredient, Share
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry, blend

Hold = Literal["fat", "water", "acid", "protein", "weight"]

HOLD_WORDS: dict[Hold, str] = {
    "fat": "equal fat", "water": "equal water", "acid": "equal acid", "protein": "equal protein",
    "weight": "equal weight",
}  # fmt: skip

LEAST_HELD = 0.002
"""Less than this of what is to be held, and a material has none of it to speak of [g/g]."""

LEAST_GIVEN_G = 0.005
"""Less than this is not worth giving back [g]."""


class Swapped(Struct, frozen=True):
    """A swap worked out.

    Attributes
    ----------
    formula : Formula
        With the swap made.
    taken_g, put_g : float
        What went out and what came in [g].
    water_g, salt_g : float
        What was added to the water and salt of the dough, negative when taken out [g].
    short : tuple of str
        What could not be given back, in words.
    """

    formula: Formula
    taken_g: float
    put_g: float
    water_g: float
    salt_g: float
    short: tuple[str, ...]


def held(material: Ingredient, hold: Hold) -> float:
    """What a gram of a material brings of what is held [g/g]; acid as acetic acid."""
    if hold == "weight":
        return 1.0
    if hold == "acid":
        return acetic_g(material)
    return float(getattr(material.composition, hold))


def holds_for(old: Ingredient, new: Ingredient) -> tuple[Hold, ...]:
    """Say what can be held between two materials, the most sensible first."""
    first: dict[str, Hold] = {
        "fat": "fat",
        "liquid": "water",
        "egg": "protein",
        "acid": "acid",
    }
    usual = first.get(old.group, "weight")
    if old.group == "liquid" and new.is_fat:
        usual = "fat"
    order: list[Hold] = [usual, "fat", "water", "acid", "protein", "weight"]
    found = [
        hold
        for i, hold in enumerate(order)
        if hold not in order[:i] and min(held(old, hold), held(new, hold)) >= LEAST_HELD
    ]
    return tuple(found)


def swap(
    formula: Formula,
    pantry: Pantry,
    part: Part,
    index: int,
    material: str,
    hold: Hold,
    share: float = 1.0,
) -> Swapped:
    """Put another material in place of a line's, or of a share of it.

    Parameters
    ----------
    part, index : Part, int
        Which line.
    material : str
        Key of what comes in.
    hold : {'fat', 'water', 'acid', 'protein', 'weight'}
        What stays equal between what goes out and what comes in.
    share : float
        Share of the line that is swapped, above 0 to 1 [-].

    Returns
    -------
    Swapped
        In the paste, all water (the flour's own not counted) and all salt stay what they were:
        the dough's water and salt give or take the difference. Elsewhere nothing is given back.

    Raises
    ------
    AplombError
        For the same material, a share outside its range, a line without weight, or when either
        material has none of what is to be held.

    Notes
    -----
    With h what a gram brings of what is held, m₂ = share · m₁ h₁ / h₂. Water then gives back
    m₂ w₂ - share · m₁ w₁, salt the same of its own.
    """
    lines = list(formula.lines(part))
    line = lines[index]
    old, new = pantry[line.material], pantry[material]
    if material == line.material:
        raise AplombError(f"this already is {new.name.lower()}; choose another ingredient")
    if not (math.isfinite(share) and 0 < share <= 1):
        raise AplombError(f"a share is above 0 and up to 100 %, not {num(100 * share, '.6g')} %")
    if line.grams <= 0:
        raise AplombError(f"{old.name} has no weight yet; give it one, then swap it")
    for each in (old, new):
        if held(each, hold) < LEAST_HELD:
            raise AplombError(
                f"{each.name} has hardly any {hold}; keep something else equal: "
                + (", ".join(HOLD_WORDS[h] for h in holds_for(old, new)) or "nothing fits")
            )
    taken = line.grams * share
    put = taken * held(old, hold) / held(new, hold)
    if put > LARGEST_G:
        raise AplombError(
            f"that would be {g_text(put, '.4g')} of {new.name.lower()}, more than a "
            "formula can hold"
        )
    there = next((i for i, n in enumerate(lines) if n.material == material), None)
    if there is not None:
        lines[there] = replace(lines[there], grams=lines[there].grams + put, typed="")
    if share < 1:
        lines[index] = replace(line, grams=line.grams - taken, typed="")
        if there is None:
            lines.insert(index + 1, Line(material, put, turn=line.turn))
    elif there is None:
        lines[index] = replace(line, material=material, grams=put, typed="")
    else:
        del lines[index]
    after = formula.with_lines(part, tuple(lines))
    if part not in IN_THE_PASTE:
        return Swapped(after, taken, put, 0.0, 0.0, ())
    return _given_back(after, pantry, water_and_salt_g(formula, pantry), taken, put)


def water_and_salt_g(formula: Formula, pantry: Pantry) -> tuple[float, float]:
    """All water and all salt of the paste [g], as the accounts have them."""
    known = [(line, pantry[line.material]) for line in (*formula.dough, *formula.block)]
    return water_g(known), salt_g(known)


def reblend(formula: Formula, pantry: Pantry, shares: tuple[Share, ...]) -> Swapped:
    """Give the fat block other fats, or the same in other shares, at equal fat.

    Parameters
    ----------
    shares : tuple of Share
        Of the fats by weight as bought, adding to 1 [g/g]; at most four above 0.

    Returns
    -------
    Swapped
        With all fat of the block, all water and all salt what they were.

    Raises
    ------
    AplombError
        As `aplomb.core.paste.pantry.blend`; when one is no fat, or the block has no fat yet.
    """
    there = tuple(share for share in shares if share.share > 0)
    if any(not pantry[share.material].is_fat for share in there):
        raise AplombError("only fats can be blended into the fat block")
    blend("the block", "", there, pantry)
    old = [line for line in formula.block if pantry[line.material].is_fat]
    taken = sum(line.grams for line in old)
    pure = sum(line.grams * pantry[line.material].composition.fat for line in old)
    if pure <= 0:
        raise AplombError("the fat block has no fat yet; give it some, then blend")
    put = pure / sum(s.share * pantry[s.material].composition.fat for s in there)
    notes = {line.material: line.note for line in old}
    lines = [Line(s.material, put * s.share, notes.get(s.material, "")) for s in there]
    lines += [line for line in formula.block if not pantry[line.material].is_fat]
    after = formula.with_lines(Part.BLOCK, tuple(lines))
    return _given_back(after, pantry, water_and_salt_g(formula, pantry), taken, put)


def _given_back(
    formula: Formula, pantry: Pantry, before: tuple[float, float], taken: float, put: float
) -> Swapped:
    short: list[str] = []
    missing = before[1] - water_and_salt_g(formula, pantry)[1]
    formula, salt, left = _give(
        formula, pantry, missing, "salt", lambda m: m.composition.salt if m.group == "salt" else 0
    )
    if left:
        short.append(
            f"{g_text(left, '.1f')} too much salt is left, because the dough has no more "
            "salt to take out"
        )
    missing = before[0] - water_and_salt_g(formula, pantry)[0]
    formula, water, left = _give(
        formula, pantry, missing, "water", lambda m: m.composition.water if m.is_water else 0
    )
    if left:
        short.append(
            f"{g_text(left, '.0f')} too much water is left, because the dough has no more "
            "water to take out"
        )
    return Swapped(formula, taken, put, water, salt, tuple(short))


def _give(
    formula: Formula,
    pantry: Pantry,
    missing: float,
    key: str,
    strength: Callable[[Ingredient], float],
) -> tuple[Formula, float, float]:
    """Add to the dough's largest line of a kind, or take out; formula, change, what is left [g]."""
    if abs(missing) < LEAST_GIVEN_G:
        return formula, 0.0, 0.0
    lines = list(formula.dough)
    places = [i for i, line in enumerate(lines) if strength(pantry[line.material]) > 0]
    if not places:
        pure = strength(pantry[key]) if key in pantry else 0.0
        if missing < 0 or pure <= 0:  # an own material of that name may be another thing
            return formula, 0.0, abs(missing)
        lines.append(Line(key, missing / pure))
        return formula.with_lines(Part.DOUGH, tuple(lines)), lines[-1].grams, 0.0
    place = max(places, key=lambda i: lines[i].grams)
    line = lines[place]
    pure = strength(pantry[line.material])
    wanted = line.grams + missing / pure
    lines[place] = replace(line, grams=max(0.0, wanted), typed="")
    left = max(0.0, -wanted) * pure
    change = lines[place].grams - line.grams
    return formula.with_lines(Part.DOUGH, tuple(lines)), change, left if left > 0.05 else 0.0
