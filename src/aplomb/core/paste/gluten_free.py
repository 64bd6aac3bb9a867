"""Gluten-free as a way of working: a flour family, a binder, more water, singles only."""

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import num
from aplomb.core.folds.step import as_single
from aplomb.core.paste.accounts import account
from aplomb.core.paste.formula import IN_THE_PASTE, PART_PLACES, Formula, Part, flour_grams
from aplomb.core.paste.ingredient import Ingredient, Share, Standing
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry
from aplomb.core.paste.swap import swap

CAUTION = (
    "“Gluten-free” means at most 20 mg/kg gluten in the food as sold (Codex CXS "
    "118-1979). Bench, pin, sheeter belt and dusting flour can all pass gluten on. "
    "Follow your local food law."
)
"""The caution that stands wherever a paste is worked gluten-free."""


class Family(Struct, frozen=True):
    """A flour family: what takes the place of wheat.

    Attributes
    ----------
    shares : tuple of Share
        By mass, adding to 1 [g/g].
    words : str
        What it is like, short.
    """

    name: str
    shares: tuple[Share, ...]
    words: str


def _family(name: str, words: str, **shares: float) -> Family:
    return Family(name, tuple(Share(key, share) for key, share in shares.items()), words)


FAMILIES = (
    _family("Ready blend, rice and maize", "bought mixed, mild", gf_blend=1.0),
    _family(
        "Rice and tapioca", "mild, short, pale", rice_flour=0.6, tapioca_starch=0.25,
        potato_starch=0.15,
    ),
    _family(
        "Buckwheat and rice", "nutty, dark, tears less", buckwheat_flour=0.4, rice_flour=0.3,
        tapioca_starch=0.3,
    ),
    _family(
        "Sorghum and maize", "sweetish, yellow", sorghum_flour=0.4, maize_flour=0.25,
        tapioca_starch=0.35,
    ),
)  # fmt: skip
"""Starting points of our own, not standards; every share can be changed."""


class Binder(Struct, frozen=True):
    """How much of a binder is usual [% on flour]."""

    material: str
    low_pct: float
    usual_pct: float
    high_pct: float
    standing: Standing


BINDERS = (
    Binder("xanthan", 0.5, 1.2, 2.0, "memory"),
    Binder("psyllium", 1.5, 3.0, 5.0, "memory"),
    Binder("guar", 0.5, 1.2, 2.0, "memory"),
    Binder("hpmc", 1.0, 2.0, 3.0, "memory"),
    Binder("egg_dried", 2.0, 3.0, 6.0, "trade"),
)
"""Guidance; dried whole egg at about 3 % of flour is common practice, the rest recalled."""

USUAL_WATER_PCT = 65.0
"""Dough water that a gluten-free paste is begun with [% on flour], within 60 to 75 (trade)."""


def binder_for(key: str) -> Binder | None:
    """Give the guidance on a binder; None for a material that is none."""
    return next((binder for binder in BINDERS if binder.material == key), None)


def gluten_lines(formula: Formula, pantry: Pantry) -> list[tuple[Part, int, Ingredient]]:
    """Find every line with gluten in it, in dough, block, dusting, additions, filling, finish."""
    return [
        (part, i, pantry[line.material])
        for part, i, line in formula.all_lines()
        if pantry[line.material].has_gluten
    ]


class Converted(Struct, frozen=True):
    """A formula made gluten-free.

    Attributes
    ----------
    left : tuple of str
        Materials with gluten that could not be replaced, each with its part.
    """

    formula: Formula
    left: tuple[str, ...]


def to_gluten_free(
    formula: Formula,
    pantry: Pantry,
    shares: tuple[Share, ...],
    binder: str = "xanthan",
    binder_pct: float = 1.2,
    water_pct: float | None = USUAL_WATER_PCT,
) -> Converted:
    """Make a gluten-free variant of a formula.

    Flours in dough and block become the family at the same mass, dusting its first flour,
    a vinegar of malt spirit vinegar at equal acid, and folds of more than three singles.

    Parameters
    ----------
    shares : tuple of Share
        Flours by mass, adding to 1 [g/g], none with gluten.
    binder : str
        Key of the binder; empty for none. A binder that is there already is left.
    binder_pct : float
        Binder on flour [%].
    water_pct : float or None
        Wanted dough water [% on flour]; None leaves it.

    Raises
    ------
    AplombError
        For shares that do not add to 1, or a flour with gluten among them.
    """
    total = sum(share.share for share in shares)
    if abs(total - 1) > 1e-6 or any(share.share < 0 for share in shares):
        raise AplombError(
            f"the shares add up to {num(100 * total, '.4g')} %; they must add up to 100 %"
        )
    shares = tuple(share for share in shares if share.share > 0)
    for share in shares:
        if pantry[share.material].has_gluten:
            raise AplombError(f"{pantry[share.material].name} contains gluten; choose another")
    main = max(shares, key=lambda share: share.share).material
    for part in Part:
        lines: list[Line] = []
        for line in formula.lines(part):
            material = pantry[line.material]
            if not (material.has_gluten and material.is_flour):
                lines.append(line)
            elif part in IN_THE_PASTE:
                for share in shares:
                    _add(lines, Line(share.material, line.grams * share.share, line.note))
            else:
                _add(lines, replace(line, material=main, typed=""))
        formula = formula.with_lines(part, tuple(lines))
    for part, index, material in gluten_lines(formula, pantry):
        line = formula.lines(part)[index]
        if material.group == "acid" and "vinegar_spirit" in pantry and line.grams > 0:
            formula = swap(formula, pantry, part, index, "vinegar_spirit", "acid").formula
    flour = flour_grams(formula, pantry)
    bound = any(binder_for(line.material) for line in formula.dough)
    if binder and not bound and flour > 0:
        grams = round(flour * binder_pct / 100, 1)
        formula = formula.with_lines(Part.DOUGH, (*formula.dough, Line(binder, grams)))
    if water_pct is not None and flour > 0:
        formula = _with_water(formula, pantry, water_pct)
    steps = tuple(as_single(step) for step in formula.plan.steps)
    formula = replace(
        formula,
        school="gluten_free",
        flour_moisture_pct=None,
        turn_line=replace(formula.plan, steps=steps).line(),
    )
    left = tuple(f"{m.name} in {PART_PLACES[part]}" for part, _, m in gluten_lines(formula, pantry))
    return Converted(formula, left)


def _add(lines: list[Line], line: Line) -> None:
    for i, there in enumerate(lines):
        if there.material == line.material and there.turn == line.turn:
            lines[i] = replace(there, grams=there.grams + line.grams, typed="")
            return
    lines.append(line)


def _with_water(formula: Formula, pantry: Pantry, water_pct: float) -> Formula:
    now = account(formula, pantry)
    missing = now.dough_flour_g * water_pct / 100 - now.dough_water_g
    lines = list(formula.dough)
    for i, line in enumerate(lines):
        if pantry[line.material].is_water:
            lines[i] = replace(line, grams=max(0.0, round(line.grams + missing, 1)), typed="")
            return formula.with_lines(Part.DOUGH, tuple(lines))
    if missing > 0 and "water" in pantry:
        lines.append(Line("water", round(missing, 1)))
    return formula.with_lines(Part.DOUGH, tuple(lines))
