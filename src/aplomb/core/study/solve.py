"""Solve for a wanted reading: which grams give it, with the rest kept as near as can be.

Every reading on offer is a ratio of sums over the lines, so a target is linear in the grams. What
is wanted is met exactly; of all ways to meet it the one with the least relative change of the
lines is taken (a linear programme, solved with HiGHS through SciPy).
"""

import math
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.constants import WORKING_TEMP_C
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import g_text, num
from aplomb.core.base.quantity import LARGEST_G
from aplomb.core.batch.losses import losses_of
from aplomb.core.batch.scale import mean_piece_ml
from aplomb.core.cold.thermal import density_g_ml
from aplomb.core.paste.accounts import acetic_g
from aplomb.core.paste.formula import IN_THE_PASTE, Formula, Part, mean_filling
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.study import Study
from aplomb.core.study.wanted import WANTED_WORDS, Give, Solved, Target, Wanted

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


class _Row(Struct):
    """coefficients · x (=, ≤) bound; `words` name it when it is in the way."""

    coefficients: "NDArray[np.float64]"
    bound: float
    equal: bool
    words: str


class _Ratio(Struct):
    """A reading as (top · x + top_0) / (base · x + base_0), times `unit`, plus `aside`."""

    top: "NDArray[np.float64]"
    base: "NDArray[np.float64]"
    top_0: float = 0.0
    base_0: float = 0.0
    unit: float = 100.0
    aside: float = 0.0

    def row(self, target: Target, pantry: Pantry) -> _Row:
        """Say that the reading is (or is at most, at least) what is wanted."""
        share = (target.value - self.aside) / self.unit
        row, bound = self.top - share * self.base, share * self.base_0 - self.top_0
        if target.sense == "at least":
            row, bound = -row, -bound
        return _Row(row, bound, target.sense == "is", target.words(pantry))


def solve(
    study: Study,
    pantry: Pantry,
    targets: tuple[Target, ...],
    locked: frozenset[tuple[Part, int]] = frozenset(),
    *,
    keep_fat: bool = True,
) -> Solved:
    """Find the grams that meet every target.

    Parameters
    ----------
    study : Study
        Of the formula to begin from.
    targets : tuple of Target
        The first is the one that matters; at least one.
    locked : frozenset of (Part, place)
        Lines of dough and block that keep their grams.
    keep_fat : bool
        Keep fat on flour when a share of the block's fat is wanted and no target says how much
        fat there is.

    Raises
    ------
    AplombError
        Without a target; for a figure that is negative or not a number; for a packet or share of
        a material that is not there and is no fat; for a reading that nothing in the paste
        brings; for a cost when a price is missing.

    Notes
    -----
    What a target is a share of never vanishes to meet it: of flour, dough and enclosed fat, each
    where there is some, at least `LEAST_LEFT` of what there was is left, unless a target itself
    asks for none.
    """
    import numpy as np

    if not targets:
        raise AplombError("enter what you want, e.g. fat on flour 75 %")
    formula = _with_materials_of(study.formula, pantry, targets)
    places = [(p, i, n) for p, i, n in formula.all_lines() if p in IN_THE_PASTE]
    if not places:
        raise AplombError(
            "nothing can be solved yet: the dough and fat block are empty; add ingredients first"
        )
    known = [(part, pantry[line.material]) for part, _, line in places]
    now = np.array([line.grams for _, _, line in places])
    targets = _with_fat_kept(study, pantry, targets, keep_fat)
    ratios = [_ratio(target, study, pantry, known) for target in targets]
    for target, ratio in zip(targets, ratios, strict=True):
        if not ratio.top.any() and target.value > 0 and target.sense != "at most":
            name = WANTED_WORDS[target.what][0]
            raise AplombError(
                f"nothing in the paste gives {name[0].lower()}{name[1:]}; add it first"
            )
    rows = [ratio.row(target, pantry) for target, ratio in zip(targets, ratios, strict=True)]
    for at, (part, i, line) in enumerate(places):
        if (part, i) in locked:
            one = np.zeros(len(places))
            one[at] = 1.0
            name = pantry[line.material].name
            rows.append(
                _Row(one, line.grams, True, f"{name} is locked at {g_text(line.grams, '.5g')}")
            )
    rows += _something_left(targets, known, now)
    flour = np.array([float(m.is_flour) for _, m in known])
    scale = _scale(now, places, pantry)
    by_size = any(target.what in ("material_g", "paste_g", "flour_g") for target in targets)
    stays = [] if by_size else [_Row(flour, float(flour @ now), True, "")]
    if any(target.what == "fat_share_pct" for target in targets):
        fat = np.array([float(m.is_fat and part is Part.BLOCK) for part, m in known])
        stays.append(_Row(fat, float(fat @ now), True, ""))
    found = None
    for many in range(len(stays), -1, -1):  # the flour's weight, and the fat's, stay if they can
        found = _programme(now, [*rows, *stays[:many]], scale)
        if found is not None:
            break
    if found is None:
        return Solved(
            None, (), _in_the_way(now, rows, scale), _nearest(rows, ratios[0], targets[0])
        )
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


LEAST_LEFT = 0.05
"""Share of flour, dough and enclosed fat that is left at least when nothing else holds it [-]."""
LEAST_G = 0.5
"""And mass that is left at least of what there was none of [g]."""
SAYS_HOW_MUCH_FAT: frozenset[Wanted] = frozenset(
    (
        "fat_product_pct",
        "enclosed_fat_pct",
        "fat_on_dough_pct",
        "fat_on_total_pct",
        "pure_fat_pct",
    )
)
"""Readings that say how much fat there is."""


def _with_fat_kept(
    study: Study, pantry: Pantry, targets: tuple[Target, ...], keep_fat: bool
) -> tuple[Target, ...]:
    """Add that fat on flour stays when a share of the fat is wanted and nothing says how much."""
    shares = any(target.what == "fat_share_pct" for target in targets)
    if not shares or any(target.what in SAYS_HOW_MUCH_FAT for target in targets):
        return targets
    if not any(pantry[n.material].is_fat and n.grams > 0 for n in study.formula.block):
        raise AplombError("the fat block has no fat to share out yet; say fat on flour too")
    now = study.readings.fat_product_pct
    if not keep_fat or now is None:
        return targets
    return (*targets, Target("fat_product_pct", now, kept=True))


def _something_left(
    targets: tuple[Target, ...], known: list[tuple[Part, Ingredient]], now: "NDArray[np.float64]"
) -> list[_Row]:
    """Rows that keep flour, dough and enclosed fat from being emptied to meet a target."""
    import numpy as np

    kinds: list[tuple[str, list[bool]]] = [
        ("flour", [m.is_flour for _, m in known]),
        ("dough", [part is Part.DOUGH for part, _ in known]),
    ]
    none_asked = any(
        target.value == 0 and (target.what in SAYS_HOW_MUCH_FAT or target.what == "material_g")
        for target in targets
    )
    if not none_asked:
        kinds.append(("fat to enclose", [m.is_fat and p is Part.BLOCK for p, m in known]))
    shared = any(target.what == "fat_share_pct" for target in targets)
    rows = []
    for name, which in kinds:
        row = np.array(which, dtype=float)
        there = float(row @ now)
        if there > 0 or (shared and name == "fat to enclose"):
            least = max(LEAST_LEFT * there, LEAST_G if there == 0 else 0.0)
            rows.append(_Row(-row, -least, False, f"some {name} must be left"))
    return rows


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


def _with_materials_of(formula: Formula, pantry: Pantry, targets: tuple[Target, ...]) -> Formula:
    for target in targets:
        if not math.isfinite(target.value) or not 0 <= target.value <= LARGEST_G:
            raise AplombError(
                f"{WANTED_WORDS[target.what][0]}: {num(target.value, '.6g')} is not possible"
            )
        if target.what not in ("material_g", "fat_share_pct"):
            continue
        material = pantry[target.material]
        there = any(n.material == target.material for n in (*formula.dough, *formula.block))
        if target.what == "fat_share_pct":
            there = any(n.material == target.material for n in formula.block)
            if not material.is_fat:
                raise AplombError(
                    f"{material.name} is not a fat; a share can only be of the fat in the block"
                )
            if target.value > 100:
                raise AplombError(f"a share can be 100 % at most, not {num(target.value, '.6g')} %")
        if there:
            continue
        if not material.is_fat:
            raise AplombError(f"{material.name} is not in the paste; add it first")
        formula = formula.with_lines(Part.BLOCK, (*formula.block, Line(target.material, 0.0)))
    return formula


def _ratio(
    target: Target, study: Study, pantry: Pantry, known: list[tuple[Part, Ingredient]]
) -> _Ratio:
    """Write a reading in the grams of the lines."""
    import numpy as np

    def each(give: Give) -> "NDArray[np.float64]":
        return np.array([give(part, m) for part, m in known])

    flour = each(lambda _, m: float(m.is_flour))
    fat = each(lambda p, m: float(m.is_fat and p is Part.BLOCK))
    tops: dict[str, tuple[Give, NDArray[np.float64]]] = {
        "fat_product_pct": (lambda _, m: float(m.is_fat), flour),
        "enclosed_fat_pct": (lambda p, m: float(m.is_fat and p is Part.BLOCK), flour),
        "dough_fat_pct": (lambda p, m: float(m.is_fat and p is Part.DOUGH), flour),
        "pure_fat_pct": (lambda _, m: 0.0 if m.is_flour else m.composition.fat, flour),
        "dough_water_pct": (
            lambda p, m: m.composition.water if p is Part.DOUGH and not m.is_flour else 0.0,
            each(lambda p, m: float(m.is_flour and p is Part.DOUGH)),
        ),
        "total_water_pct": (lambda _, m: 0.0 if m.is_flour else m.composition.water, flour),
        "salt_pct": (lambda _, m: m.composition.salt, flour),
        "acid_pct": (lambda _, m: acetic_g(m), flour),
        "flour_protein_pct": (lambda _, m: m.composition.protein if m.is_flour else 0.0, flour),
        "fat_on_dough_pct": (
            lambda p, m: float(m.is_fat and p is Part.BLOCK),
            each(lambda p, _: float(p is Part.DOUGH)),
        ),
        "fat_on_total_pct": (lambda _, m: float(m.is_fat), np.ones(len(known))),
        "fat_share_pct": (
            lambda p, m: float(m.key == target.material and p is Part.BLOCK and m.is_fat),
            fat,
        ),
    }
    if target.what in tops:
        top, base = tops[target.what]
        return _Ratio(each(top), base)
    if target.what == "cost_per_piece":
        return _cost_ratio(study, pantry, known)
    sums: dict[str, NDArray[np.float64]] = {
        "flour_g": flour,
        "paste_g": np.ones(len(known)),
        "material_g": each(lambda _, m: float(m.key == target.material)),
    }
    return _Ratio(sums[target.what], np.zeros(len(known)), base_0=1.0, unit=1.0)


def _cost_ratio(study: Study, pantry: Pantry, known: list[tuple[Part, Ingredient]]) -> _Ratio:
    """Cost of all over the whole pieces, both linear in the grams of the paste."""
    import numpy as np

    def price(material: Ingredient) -> float:
        found = pantry.per_gram(material.key)
        if found is None:
            raise AplombError(f"{material.name} has no price; give it one in the pantry")
        return found

    f, a = study.formula, study.accounts
    batch = f.batch
    losses = study.scaled.losses or losses_of(batch, ())
    whole = 1 - losses.broken.value / 100
    cut = (1 - losses.trim.value / 100) * (1 - study.folded) * whole
    keep = losses.kept * cut
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
        n.grams * price(pantry[n.material])
        for n in (*f.dusting, *f.between, *f.finish)
        if n.grams > 0
    )
    filling = sum(n.grams * price(pantry[n.material]) for n in mean_filling(f) if n.grams > 0)
    return _Ratio(prices, pieces, aside, strewn, 1.0, filling / whole)


def _programme(
    now: "NDArray[np.float64]", rows: list[_Row], scale: "NDArray[np.float64]"
) -> "NDArray[np.float64] | None":
    """Least relative change that meets every row; None when nothing does."""
    import numpy as np
    from scipy.optimize import linprog

    n = len(now)
    # x = now + up - down, with up, down ≥ 0 and down ≤ now
    cost = np.concatenate([1 / scale, 1 / scale])
    bounds = [(0.0, LARGEST_G)] * n + [(0.0, float(v)) for v in now]
    equal = [_split(row, now) for row in rows if row.equal]
    upper = [_split(row, now) for row in rows if not row.equal]
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


def _nearest(rows: list[_Row], ratio: _Ratio, target: Target) -> float | None:
    """Bring the first target as near as the others let it; None when they do not stand themselves.

    Notes
    -----
    A ratio of linear sums takes every value between its least and its largest where the rows
    hold. Either is a linear programme in x·t with t = 1 / base (Charnes and Cooper 1962,
    "Programming with linear fractional functionals").
    """
    import numpy as np
    from scipy.optimize import linprog

    n = len(ratio.top)
    others = rows[1:]
    equal = [(np.append(row.coefficients, -row.bound / _KILO), 0.0) for row in others if row.equal]
    equal.append((np.append(ratio.base, ratio.base_0 / _KILO), 1.0))
    upper = [np.append(row.coefficients, -row.bound / _KILO) for row in others if not row.equal]
    upper += [np.append(row, -LARGEST_G / _KILO) for row in np.eye(n)]

    def end(sign: float) -> float | None:
        found = linprog(
            sign * np.append(ratio.top, ratio.top_0 / _KILO),
            A_ub=np.array(upper),
            b_ub=np.zeros(len(upper)),
            A_eq=np.array([v for v, _ in equal]),
            b_eq=np.array([b for _, b in equal]),
            bounds=(0.0, None),
            method="highs",
        )
        return ratio.unit * sign * float(found.fun) + ratio.aside if found.status == 0 else None

    least, largest = end(1.0), end(-1.0)
    ends = [value for value in (least, largest) if value is not None]
    return min(ends, key=lambda value: abs(value - target.value), default=None)


_KILO = 1000.0
"""Grams are of this order, so that t is of the order of the other unknowns."""
