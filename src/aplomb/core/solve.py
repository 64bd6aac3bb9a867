"""Solve for a wanted reading: which grams give it, with the rest kept as near as can be.

Every reading on offer is a ratio of sums over the lines, so a wish is linear in the grams. What
is wanted is met exactly; of all ways to meet it the one with the least relative change of the
lines is taken (a linear programme, solved with HiGHS through SciPy).
"""

import math
from collections.abc import Callable
from typing import TYPE_CHECKING, Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.accounts import acetic_g
from aplomb.core.batch.losses import losses_of
from aplomb.core.batch.scale import mean_piece_ml
from aplomb.core.cold.thermal import density_g_ml
from aplomb.core.constants import WORKING_TEMP_C
from aplomb.core.errors import AplombError
from aplomb.core.paste.formula import IN_THE_PASTE, Formula, Part, mean_filling
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry
from aplomb.core.quantity import LARGEST_G
from aplomb.core.study import Study

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

Wanted = Literal[
    "fat_product_pct", "enclosed_fat_pct", "dough_fat_pct", "fat_on_dough_pct", "pure_fat_pct",
    "dough_water_pct", "total_water_pct", "salt_pct", "acid_pct", "flour_protein_pct",
    "flour_g", "paste_g", "cost_per_piece", "material_g", "fat_share_pct",
]  # fmt: skip
Sense = Literal["is", "at most", "at least"]
_Give = Callable[[Part, Ingredient], float]
"""What a gram of a material in a part counts."""

WANTED_WORDS: dict[Wanted, tuple[str, str]] = {
    "fat_product_pct": ("Fat on flour", "%"),
    "pure_fat_pct": ("Pure fat on flour", "%"),
    "enclosed_fat_pct": ("Enclosed fat on flour", "%"),
    "dough_fat_pct": ("Fat in the dough on flour", "%"),
    "fat_on_dough_pct": ("Fat on dough", "%"),
    "dough_water_pct": ("Dough water", "%"),
    "total_water_pct": ("Total water", "%"),
    "salt_pct": ("Salt from all sources", "%"),
    "acid_pct": ("Acid, as acetic", "%"),
    "flour_protein_pct": ("Protein of the flour", "%"),
    "fat_share_pct": ("Share of the block’s fat", "%"),
    "material_g": ("All of a packet, weight", "g"),
    "cost_per_piece": ("Cost a piece", ""),
    "flour_g": ("Flour", "g"),
    "paste_g": ("Paste", "g"),
}
"""Words and unit of what can be wished for."""


class Wish(Struct, frozen=True):
    """One thing that is wanted or kept.

    Attributes
    ----------
    what : Wanted
    sense : {'is', 'at most', 'at least'}
    value : float
        In the unit of `WANTED_WORDS`.
    material : str
        Key, for a packet or a share.
    """

    what: Wanted
    value: float
    sense: Sense = "is"
    material: str = ""

    def words(self, pantry: Pantry) -> str:
        """Say it, as ``fat on flour is 75 %``."""
        name, unit = WANTED_WORDS[self.what]
        if self.material and self.material in pantry:
            name = f"{pantry[self.material].name}, {name[0].lower()}{name[1:]}"
        return f"{name} {self.sense} {self.value:.6g}{' ' + unit if unit else ''}"


class Solved(Struct, frozen=True):
    """The answer.

    Attributes
    ----------
    formula : Formula or None
        With the grams that do it; None when nothing does.
    changed : tuple of (Part, place, before [g], after [g])
        The lines that change.
    conflict : tuple of str
        Wishes and locks that cannot stand together, in words; empty when it is solved.
    nearest : float or None
        How near the first wish can be brought when it cannot be met.
    """

    formula: Formula | None
    changed: tuple[tuple[Part, int, float, float], ...] = ()
    conflict: tuple[str, ...] = ()
    nearest: float | None = None


class _Row(Struct):
    """coefficients · x (=, ≤) bound; `words` name it when it is in the way."""

    coefficients: "NDArray[np.float64]"
    bound: float
    equal: bool
    words: str


def solve(
    study: Study,
    pantry: Pantry,
    wishes: tuple[Wish, ...],
    locked: frozenset[tuple[Part, int]] = frozenset(),
) -> Solved:
    """Find the grams that meet every wish.

    Parameters
    ----------
    study : Study
        Of the formula to begin from.
    pantry : Pantry
    wishes : tuple of Wish
        The first is the one that matters; at least one.
    locked : frozenset of (Part, place)
        Lines of dough and block that keep their grams.

    Returns
    -------
    Solved

    Raises
    ------
    AplombError
        Without a wish; for a figure that is negative or not a number; for a packet or share of
        a material that is not there and is no fat; for a cost when a price is missing.
    """
    import numpy as np

    if not wishes:
        raise AplombError("say what is wanted, like fat on flour 75 %")
    formula = _with_wished_materials(study.formula, pantry, wishes)
    places = [(p, i, n) for p, i, n in formula.all_lines() if p in IN_THE_PASTE]
    if not places:
        raise AplombError("nothing can be solved yet: dough and fat block have no lines")
    known = [(part, pantry[line.material]) for part, _, line in places]
    now = np.array([line.grams for _, _, line in places])
    rows = [_row(wish, study, pantry, known) for wish in wishes]
    for at, (part, i, line) in enumerate(places):
        if (part, i) in locked:
            one = np.zeros(len(places))
            one[at] = 1.0
            name = pantry[line.material].name
            rows.append(_Row(one, line.grams, True, f"{name} is locked at {line.grams:.5g} g"))
    flour = np.array([float(m.is_flour) for _, m in known])
    flour_g = float(flour @ now)
    if flour_g > 0:
        rows.append(_Row(-flour, -LEAST_FLOUR * flour_g, False, "some flour is left"))
    scale = _scale(now, places, pantry)
    same_flour = _Row(flour, flour_g, True, "all flour stays what it is")
    by_size = any(wish.what in ("material_g", "paste_g", "flour_g") for wish in wishes)
    found = None if by_size else _programme(now, [*rows, same_flour], scale)
    if found is None:
        found = _programme(now, rows, scale)
    if found is None:
        guilty = _in_the_way(now, rows, scale)
        near = _nearest(now, rows, scale, wishes[0], study, pantry, known)
        return Solved(None, (), guilty, near)
    lines = {part: list(formula.lines(part)) for part in IN_THE_PASTE}
    changed = []
    for value, (part, i, line) in zip(found, places, strict=True):
        grams = round(float(value), 4)
        if abs(grams - line.grams) > 0.005:
            lines[part][i] = replace(line, grams=grams, typed="")
            changed.append((part, i, line.grams, grams))
    for part in IN_THE_PASTE:
        formula = formula.with_lines(part, tuple(lines[part]))
    return Solved(formula, tuple(changed))


LEAST_FLOUR = 0.05
"""Share of the flour that is left at least when nothing else holds it [-]."""


def _scale(
    now: "NDArray[np.float64]", places: list[tuple[Part, int, Line]], pantry: Pantry
) -> "NDArray[np.float64]":
    """What a gram of change is measured by: the line itself; a new fat by all fat of the block."""
    import numpy as np

    fat = sum(n.grams for p, _, n in places if p is Part.BLOCK and pantry[n.material].is_fat)
    least = [
        fat if n.grams == 0 and pantry[n.material].is_fat else 0.02 * float(now.sum())
        for _, _, n in places
    ]
    return np.maximum(np.maximum(now, least), 1.0)


def _with_wished_materials(formula: Formula, pantry: Pantry, wishes: tuple[Wish, ...]) -> Formula:
    for wish in wishes:
        if not math.isfinite(wish.value) or not 0 <= wish.value <= LARGEST_G:
            raise AplombError(f"{WANTED_WORDS[wish.what][0]}: {wish.value:.6g} cannot be wanted")
        if wish.what not in ("material_g", "fat_share_pct"):
            continue
        material = pantry[wish.material]
        there = any(n.material == wish.material for n in (*formula.dough, *formula.block))
        if wish.what == "fat_share_pct":
            there = any(n.material == wish.material for n in formula.block)
            if not material.is_fat:
                raise AplombError(f"{material.name} is no fat; a share is of the block’s fat")
            if wish.value > 100:
                raise AplombError(f"a share is at most 100 %, not {wish.value:.6g} %")
        if there:
            continue
        if not material.is_fat:
            raise AplombError(f"{material.name} is not in the paste; add it first")
        formula = formula.with_lines(Part.BLOCK, (*formula.block, Line(wish.material, 0.0)))
    return formula


def _row(wish: Wish, study: Study, pantry: Pantry, known: list[tuple[Part, Ingredient]]) -> _Row:
    import numpy as np

    def each(give: _Give) -> "NDArray[np.float64]":
        return np.array([give(part, m) for part, m in known])

    flour = each(lambda _, m: float(m.is_flour))
    fat = each(lambda p, m: float(m.is_fat and p is Part.BLOCK))
    tops: dict[str, tuple[_Give, NDArray[np.float64]]] = {
        "fat_product_pct": (lambda _, m: float(m.is_fat), flour),
        "enclosed_fat_pct": (lambda p, m: float(m.is_fat and p is Part.BLOCK), flour),
        "dough_fat_pct": (lambda p, m: float(m.is_fat and p is Part.DOUGH), flour),
        "pure_fat_pct": (lambda _, m: 0.0 if m.is_flour else m.composition.fat, flour),
        "dough_water_pct": (
            lambda p, m: m.composition.water if p is Part.DOUGH and not m.is_flour else 0.0, flour,
        ),
        "total_water_pct": (lambda _, m: 0.0 if m.is_flour else m.composition.water, flour),
        "salt_pct": (lambda _, m: m.composition.salt, flour),
        "acid_pct": (lambda _, m: acetic_g(m), flour),
        "flour_protein_pct": (lambda _, m: m.composition.protein if m.is_flour else 0.0, flour),
        "fat_on_dough_pct": (
            lambda p, m: float(m.is_fat and p is Part.BLOCK),
            each(lambda p, _: float(p is Part.DOUGH)),
        ),
        "fat_share_pct": (
            lambda p, m: float(m.key == wish.material and p is Part.BLOCK and m.is_fat), fat,
        ),
    }  # fmt: skip
    bound = 0.0
    if wish.what in tops:
        top, base = tops[wish.what]
        row = each(top) - wish.value / 100 * base
    elif wish.what == "cost_per_piece":
        row, bound = _cost_row(wish.value, study, pantry, known)
    else:
        sums: dict[str, NDArray[np.float64]] = {
            "flour_g": flour,
            "paste_g": np.ones(len(known)),
            "material_g": each(lambda _, m: float(m.key == wish.material)),
        }
        row, bound = sums[wish.what], wish.value
    if wish.sense == "at least":
        row, bound = -row, -bound
    return _Row(row, bound, wish.sense == "is", wish.words(pantry))


def _cost_row(
    limit: float, study: Study, pantry: Pantry, known: list[tuple[Part, Ingredient]]
) -> "tuple[NDArray[np.float64], float]":
    """Cost of all less limit × pieces ≤ 0, both linear in the grams of the paste."""
    import numpy as np

    def price(material: Ingredient) -> float:
        found = pantry.per_gram(material.key)
        if found is None:
            raise AplombError(f"{material.name} has no price; give it one in the pantry")
        return found

    f, a = study.formula, study.accounts
    batch = f.batch
    losses = study.scaled.losses or losses_of(batch, (), f.name)
    cut = (1 - losses.trim.value / 100) * (1 - study.folded)
    keep = (1 - losses.loss.value / 100) * cut
    dust = sum(n.grams for n in f.dusting) * losses.dust.value / 100
    prices = np.array([price(m) for _, m in known])
    piece_ml = mean_piece_ml(f)
    if piece_ml is None:
        pieces = np.full(len(known), keep / batch.piece_g)
        strewn = (a.between_g + dust) * cut / batch.piece_g
    else:
        pieces = np.array(
            [keep / density_g_ml(m.composition, WORKING_TEMP_C) / piece_ml for _, m in known]
        )
        strewn = (a.between_ml + dust / (a.rolled_density_g_ml or 1.0)) * cut / piece_ml
    aside = sum(
        n.grams * price(pantry[n.material]) for n in (*f.dusting, *f.between, *f.finish)
        if n.grams > 0
    )  # fmt: skip
    filling = sum(n.grams * price(pantry[n.material]) for n in mean_filling(f) if n.grams > 0)
    return prices - (limit - filling) * pieces, (limit - filling) * strewn - aside


def _programme(
    now: "NDArray[np.float64]",
    rows: list[_Row],
    scale: "NDArray[np.float64]",
    elastic: "NDArray[np.float64] | None" = None,
) -> "NDArray[np.float64] | None":
    """Least relative change that meets every row, or that misses `elastic` · x = 0 least; None
    when nothing does."""
    import numpy as np
    from scipy.optimize import linprog

    n = len(now)
    # x = now + up - down, with up, down ≥ 0 and down ≤ now
    cost = np.concatenate([1 / scale, 1 / scale])
    bounds = [(0.0, LARGEST_G)] * n + [(0.0, float(v)) for v in now]
    equal = [_split(row, now) for row in rows if row.equal]
    upper = [_split(row, now) for row in rows if not row.equal]
    if elastic is not None:
        spare = np.zeros(2)
        equal = [(np.concatenate([v, spare]), b) for v, b in equal]
        upper = [(np.concatenate([v, spare]), b) for v, b in upper]
        equal.append((np.concatenate([elastic, -elastic, [1.0, -1.0]]), -float(elastic @ now)))
        cost = np.concatenate([cost * 1e-6, [1.0, 1.0]])
        bounds += [(0.0, LARGEST_G * 1000)] * 2
    found = linprog(
        cost,
        A_ub=np.array([v for v, _ in upper]) if upper else None,
        b_ub=np.array([b for _, b in upper]) if upper else None,
        A_eq=np.array([v for v, _ in equal]) if equal else None,
        b_eq=np.array([b for _, b in equal]) if equal else None,
        bounds=bounds,
        method="highs",
    )
    if found.status != 0:
        return None
    grams: NDArray[np.float64] = np.maximum(now + found.x[:n] - found.x[n : 2 * n], 0.0)
    return grams if grams.sum() > 0 else None


def _split(row: _Row, now: "NDArray[np.float64]") -> "tuple[NDArray[np.float64], float]":
    """Write a row in what is added and what is taken out."""
    import numpy as np

    both = np.concatenate([row.coefficients, -row.coefficients])
    return both, row.bound - float(row.coefficients @ now)


def _in_the_way(
    now: "NDArray[np.float64]", rows: list[_Row], scale: "NDArray[np.float64]"
) -> tuple[str, ...]:
    """Name a least set of rows that cannot stand together, by leaving out one after the other."""
    kept = list(rows)
    for row in list(rows):
        fewer = [each for each in kept if each is not row]
        if _programme(now, fewer, scale) is None:
            kept = fewer
    return tuple(row.words for row in kept) or ("no paste at all would be left",)


def _nearest(
    now: "NDArray[np.float64]",
    rows: list[_Row],
    scale: "NDArray[np.float64]",
    wish: Wish,
    study: Study,
    pantry: Pantry,
    known: list[tuple[Part, Ingredient]],
) -> float | None:
    """Bring the first wish as near as the others let it; its value there, None when they do not."""
    import numpy as np

    first = rows[0]
    if first.bound != 0 or wish.what == "cost_per_piece":
        return None
    found = _programme(now, rows[1:], scale, first.coefficients)
    if found is None:
        return None
    zero = _row(replace(wish, value=0.0, sense="is"), study, pantry, known)
    hundred = _row(replace(wish, value=100.0, sense="is"), study, pantry, known)
    base = float((zero.coefficients - hundred.coefficients) @ found)
    top = float(zero.coefficients @ found)
    return 100 * top / base if base > 1e-9 and np.isfinite(top) else None
