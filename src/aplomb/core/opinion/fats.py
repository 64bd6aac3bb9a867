"""Opinions on the fat. A rule is silent (None) when all is well."""

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import celsius_range, celsius_text, g_text, num
from aplomb.core.fats.solid import FILM_C, FILM_SFC, solid_at
from aplomb.core.folds.plan import Enclosure
from aplomb.core.opinion.case import RuleInput, lines_of, merged, with_flour
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.formula import Part
from aplomb.core.paste.swap import swap

WARM_MARGIN_K = 6.0
"""A shop this much warmer than the fat's working range leaves no time to turn [K], our choice:
a 10 mm sheet warms by about 9 K in 10 to 20 min on wood."""

NEAR_EDGE_K = 2.0
"""A calculated blend this near the edge of its plastic range may lie beyond it [K], our choice."""


def _swap_action(
    case: RuleInput, index: int, material: str, share: float, label: str
) -> Action | None:
    if material not in case.pantry:
        return None
    try:
        made = swap(case.formula, case.pantry, Part.BLOCK, index, material, "fat", share)
    except AplombError:
        return None
    return Action(label, made.formula)


def _largest(case: RuleInput) -> tuple[int, float] | None:
    found = lines_of(case, Part.BLOCK, lambda m: m.is_fat)
    return max(found, key=lambda each: each[1]) if found else None


def fat_too_soft_for_shop(case: RuleInput) -> Opinion | None:
    """Say that the bakery is far too warm for the fat of the block."""
    fat, shop = case.fat, case.house.shop_c
    main = _largest(case)
    if fat is None or main is None or fat.enclose_c is None:
        return None
    low, high = fat.enclose_c
    if shop <= high + WARM_MARGIN_K:
        return None
    solid = ""
    if fat.sfc:
        solid = f" At {celsius_text(shop)} it holds {_solid(case, shop):.0f} % solid fat."
    return Opinion(
        "fat_too_soft_for_shop",
        "look",
        "The bakery is too warm for this fat",
        (
            f"It is enclosed and rolled at {celsius_range(low, high)}, and the bakery is at "
            f"{celsius_text(shop)}.{solid} Work at a cooler time of day, with more rests, or "
            "with a fat that melts at a higher temperature."
        ),
        "calc",
        _swap_action(case, main[0], "pastry_margarine", 0.5, "Half pastry margarine"),
    )


def _solid(case: RuleInput, temp_c: float) -> float:
    return solid_at(case.fat.sfc, temp_c) if case.fat else 0.0


def fat_too_hard_for_shop(case: RuleInput) -> Opinion | None:
    """Say that the bakery is so cold that the fat cracks."""
    fat, shop = case.fat, case.house.shop_c
    if fat is None or not fat.sfc or fat.feel(shop) != "brittle":
        return None
    return Opinion(
        "fat_too_hard_for_shop",
        "look",
        "The bakery is too cold for this fat",
        (
            f"At {celsius_text(shop)} it contains {_solid(case, shop):.0f} % solid fat; above "
            "40 % it breaks instead of bending. Beat it until pliable before you enclose it, "
            "or work in a warmer room."
        ),
        "memory",
    )


def waxy_mouthfeel(case: RuleInput) -> Opinion | None:
    """Say that the fat leaves a film in the mouth."""
    fat, main = case.fat, _largest(case)
    film = fat.film_sfc if fat else None
    if film is None or main is None or film <= FILM_SFC:
        return None
    return Opinion(
        "waxy_mouthfeel",
        "look",
        "May leave a film in the mouth",
        (
            f"At {celsius_text(FILM_C)}, {film:.0f} % of the fat is still solid; above about "
            f"{num(FILM_SFC)} % you feel it when the pastry is eaten cold."
        ),
        "memory",
        _swap_action(case, main[0], "butter", 0.5, "Half butter"),
    )


def blend_near_its_edge(case: RuleInput) -> Opinion | None:
    """Say that a blend of fats may come out softer than calculated, where that matters."""
    fat = case.fat
    if fat is None or not fat.is_blend or not fat.sfc or case.plan.enclosure is Enclosure.PIECES:
        return None
    high = fat.plastic.high
    if high is None or fat.enclose_c is None:
        return None
    if high - fat.enclose_c[1] > NEAR_EDGE_K:
        return None
    return Opinion(
        "blend_near_its_edge",
        "look",
        "The blend may be softer than calculated",
        (
            f"It is calculated to be plastic up to {celsius_text(high, '.0f')}, and you work "
            f"it up to {celsius_text(fat.enclose_c[1], '.0f')}. That is a weighted average; "
            f"mixed fats can be softer than either alone. Try {g_text(200)} first."
        ),
        "memory",
    )


def fats_apart(case: RuleInput) -> Opinion | None:
    """Say that two fats of the block have no working temperature in common."""
    found = lines_of(case, Part.BLOCK, lambda m: m.is_fat and m.enclose_c is not None)
    worked = [(i, case.pantry[case.formula.block[i].material]) for i, _ in found]
    for i, one in worked:
        for _, other in worked:
            if one.enclose_c is None or other.enclose_c is None:
                continue
            if one.enclose_c[1] < other.enclose_c[0]:
                return Opinion(
                    "fats_apart",
                    "look",
                    "Two fats that are never firm together",
                    f"{one.name} works at {celsius_range(*one.enclose_c, spec='g')}, "
                    f"{other.name.lower()} at {num(other.enclose_c[0])} to "
                    f"{num(other.enclose_c[1])}. "
                    "Side by side one smears while the other cracks: blend them smooth, or "
                    "take one.",
                    "calc",
                    _swap_action(case, i, other.key, 1.0, f"All {other.name.lower()}"),
                )
    return None


def spread_enclosed(case: RuleInput) -> Opinion | None:
    """Say that what is enclosed is a fat spread, not butter or margarine."""
    lean = [
        (i, grams)
        for i, grams in lines_of(case, Part.BLOCK, lambda m: m.is_fat)
        if case.pantry[case.formula.block[i].material].composition.fat < 0.795
    ]
    if not lean:
        return None
    index, grams = lean[0]
    material = case.pantry[case.formula.block[index].material]
    c = material.composition
    return Opinion(
        "spread_enclosed",
        "look",
        "A spread, not a margarine",
        f"{material.name} ({g_text(grams, '.0f')}) is {100 * c.fat:.0f} % fat and "
        f"{100 * c.water:.0f} % "
        "water. Margarine and butter have at least 80 % fat (Codex CXS 256-2007, 279-1971); with "
        "less the leaves are wet and weld together.",
        "std",
        _swap_action(case, index, "cake_margarine", 1.0, "Cake margarine at equal fat"),
    )


MOST_DOUGH_FAT_PCT = 15.0
"""Fat worked into the dough, at the most [% on flour], common practice."""


def dough_fat_much(case: RuleInput) -> Opinion | None:
    """Say that much fat is worked into the dough instead of being enclosed."""
    percent = case.readings.dough_fat_pct
    found = lines_of(case, Part.DOUGH, lambda m: m.is_fat)
    if percent is None or not found or percent <= MOST_DOUGH_FAT_PCT + 0.05:
        return None
    if case.plan.enclosure is Enclosure.NONE:
        return None
    index, grams = max(found, key=lambda each: each[1])
    over = (percent - MOST_DOUGH_FAT_PCT) / 100 * case.accounts.flour_g
    line = case.formula.dough[index]
    action = None
    if over < grams and case.pantry[line.material].enclose_c is not None:
        moved = merged(case.formula, Part.BLOCK, line.material, over)
        action = Action(
            f"Enclose {g_text(over, '.0f')} of it", merged(moved, Part.DOUGH, line.material, -over)
        )
    return Opinion(
        "dough_fat_much",
        "look",
        "A lot of fat in the dough",
        (
            f"{percent:.0f} % on flour is worked in; 0 to {num(MOST_DOUGH_FAT_PCT)} % is "
            "usual. More makes the dough short, so it tears over the fat instead of "
            "stretching."
        ),
        "trade",
        action,
    )


PLASTIC_FLOUR_PCT = 12.0
INVERSE_FLOUR_PCT = (35.0, 50.0)
"""Flour in the fat block [% of its fat]: to keep it plastic at most, and in the inverse way."""


def block_flour_much(case: RuleInput) -> Opinion | None:
    """Say that there is more flour in the fat block than keeps it plastic."""
    found = lines_of(case, Part.BLOCK, lambda m: m.is_flour)
    fat = case.accounts.enclosed_fat_g
    percent = 100 * sum(grams for _, grams in found) / fat if fat > 0 else 0.0
    if case.plan.enclosure is Enclosure.INVERSE or percent <= PLASTIC_FLOUR_PCT:
        return None
    index, grams = max(found, key=lambda each: each[1])
    material = case.formula.block[index].material
    over = min(grams, fat * (percent - 8) / 100)
    moved = merged(case.formula, Part.BLOCK, material, -over)
    moved, with_water = with_flour(case, moved, material, over)
    return Opinion(
        "block_flour_much",
        "look",
        "Too much flour in the fat block",
        (
            f"The flour is {percent:.0f} % of the fat; 5 to 10 % keeps the fat plastic, and "
            "35 to 50 % is for inverse paste. In between, the fat leaves turn crumbly."
        ),
        "trade",
        Action(f"Move {g_text(over, '.0f')} to the dough{with_water}", moved),
    )


def inverse_without_flour(case: RuleInput) -> Opinion | None:
    """Say that the fat of an inverse paste has too little flour to be rolled outside."""
    fat = case.accounts.enclosed_fat_g
    if case.plan.enclosure is not Enclosure.INVERSE or fat <= 0:
        return None
    flour = sum(grams for _, grams in lines_of(case, Part.BLOCK, lambda m: m.is_flour))
    low, high = INVERSE_FLOUR_PCT
    percent = 100 * flour / fat
    if percent >= low - 0.5:
        return None
    found = lines_of(case, Part.DOUGH, lambda m: m.is_flour)
    action = None
    missing = (low + high) / 200 * fat - flour
    if found:
        index, grams = max(found, key=lambda each: each[1])
        material = case.formula.dough[index].material
        if missing < grams:
            moved = merged(case.formula, Part.BLOCK, material, missing)
            moved, with_water = with_flour(case, moved, material, -missing)
            action = Action(f"Work {g_text(missing, '.0f')} flour into the fat{with_water}", moved)
    return Opinion(
        "inverse_without_flour",
        "wrong",
        "Too little flour in the outer fat",
        (
            f"The fat is on the outside and contains {percent:.0f} % flour; {num(low)} to "
            f"{num(high)} % of the fat is usual, or it sticks to the bench and pin."
        ),
        "trade",
        action,
    )
