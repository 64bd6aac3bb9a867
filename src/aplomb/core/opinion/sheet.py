"""Opinions on how the formula is written: amounts, claims, prices. Silent when all is well."""

import re

from msgspec.structs import replace

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import g_text
from aplomb.core.base.quantity import parse_amount
from aplomb.core.base.units import Kind
from aplomb.core.opinion.case import RuleInput
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.amounts import disagreement
from aplomb.core.paste.formula import PART_NAMES, Part, allergens, with_grams

OLD_PRICE_DAYS = 365
"""A price older than this is asked about [days], our choice."""

VOLUME_WORTH_PCT = 3.0
"""A measured volume whose spread moves a ratio by this much is worth weighing [%], our choice."""


def line_without_weight(case: RuleInput) -> Opinion | None:
    """Say that a line has no weight yet."""
    empty = [(part, i, n) for part, i, n in case.formula.all_lines() if n.grams <= 0]
    if not empty:
        return None
    part, index, line = empty[0]
    lines = case.formula.lines(part)
    names = ", ".join(case.pantry[n.material].name.lower() for _, _, n in empty[:3])
    return Opinion(
        "line_without_weight",
        "look",
        f"{case.pantry[line.material].name} has no weight",
        f"One line has 0 g: {names}. Weigh it, or remove it."
        if len(empty) == 1
        else f"{len(empty)} lines have 0 g: {names}. Weigh them, or remove them.",
        "calc",
        Action("Remove it", case.formula.with_lines(part, lines[:index] + lines[index + 1 :])),
    )


def same_twice(case: RuleInput) -> Opinion | None:
    """Say that a material is there twice in one part."""
    for part in Part:
        lines = case.formula.lines(part)
        seen: dict[tuple[str, int, str], int] = {}
        for i, line in enumerate(lines):
            first = seen.setdefault((line.material, line.turn, line.note), i)
            if first == i or line.grams <= 0:
                continue
            both = list(lines)
            whole = lines[first].grams + line.grams
            both[first] = replace(lines[first], grams=whole, typed="")
            del both[i]
            name = case.pantry[line.material].name
            return Opinion(
                "same_twice",
                "look",
                f"{name} is listed twice",
                (
                    f"{g_text(lines[first].grams, '.4g')} and {g_text(line.grams, '.4g')} in "
                    f"“{PART_NAMES[part]}”. They are easily confused when weighing; a note "
                    "tells them apart."
                ),
                "calc",
                Action("Put them together", case.formula.with_lines(part, tuple(both))),
            )
    return None


def amounts_disagree(case: RuleInput) -> Opinion | None:
    """Say that an amount was stated twice and the two do not agree."""
    for part, i, line in case.formula.all_lines():
        if not line.typed:
            continue
        material = case.pantry[line.material]
        found = disagreement(line.typed, material, case.house.measures)
        if found is None:
            continue
        return Opinion(
            "amounts_disagree",
            "look",
            f"{material.name}: two amounts",
            (
                f"“{line.typed}” says {g_text(found.taken_g, '.4g')} and "
                f"{g_text(found.other_g, '.4g')}, which differ by {found.apart_pct:.0f} %. "
                f"{g_text(found.taken_g, '.4g')} was used; weigh it."
            ),
            "calc",
            Action(
                f"Use {g_text(found.other_g, '.4g')}",
                with_grams(case.formula, part, i, round(found.other_g, 1)),
            ),
        )
    return None


def volume_doubt(case: RuleInput) -> Opinion | None:
    """Say that a material measured by volume is uncertain enough to move a ratio."""
    flour = case.accounts.flour_g
    for part, i, line in case.formula.all_lines():
        material = case.pantry[line.material]
        if not line.typed or material.bulk_spread <= 0 or flour <= 0:
            continue
        try:
            amount = parse_amount(line.typed, measures=case.house.measures)
        except AmountError:
            continue
        if amount.kind is not Kind.VOLUME or amount.also is not None:
            continue
        off = 100 * material.bulk_spread * line.grams / flour
        if off < VOLUME_WORTH_PCT:
            continue
        return Opinion(
            "volume_doubt",
            "look",
            f"{material.name} measured by volume",
            (
                f"“{line.typed}” was taken as {g_text(line.grams, '.0f')}, but depending how "
                f"it is packed it can be {line.grams * (1 - material.bulk_spread):.0f} to "
                f"{g_text(line.grams * (1 + material.bulk_spread), '.0f')}: {off:.0f} % on "
                "flour either way. Weigh it once and enter the grams."
            ),
            "memory",
            Action(
                f"Enter {g_text(line.grams, '.0f')} as weighed",
                with_grams(case.formula, part, i, float(round(line.grams))),
            ),
        )
    return None


CLAIMS: tuple[tuple[str, tuple[str, ...], str], ...] = (
    (r"gluten[ -]?free|without gluten", ("cereals containing gluten",), "gluten-free"),
    (r"vegan|plant[ -]based", ("milk", "egg", "fish", "crustaceans", "molluscs"), "vegan"),
    (r"dairy[ -]?free|milk[ -]?free|without milk|lactose[ -]?free", ("milk",), "without milk"),
    (r"egg[ -]?free|without egg", ("egg",), "without egg"),
    (r"nut[ -]?free|without nuts", ("nuts", "peanuts"), "without nuts"),
)
"""What a name or purpose may claim, and the allergens that contradict it."""


def claim_against_contents(case: RuleInput) -> Opinion | None:
    """Say that the name claims what the contents contradict."""
    words = f"{case.formula.name} {case.formula.purpose}".casefold()
    held = allergens(case.formula, case.pantry)
    for pattern, against, claim in CLAIMS:
        found = [allergen for allergen in held if allergen in against]
        animal = claim == "vegan" and any(
            n.material == "lard" and n.grams > 0 for _, _, n in case.formula.all_lines()
        )
        if not re.search(pattern, words) or not (found or animal):
            continue
        culprits = [
            case.pantry[n.material].name.lower()
            for _, _, n in case.formula.all_lines()
            if n.grams > 0
            and (set(case.pantry[n.material].allergens) & set(against) or n.material == "lard")
        ]
        return Opinion(
            "claim_against_contents",
            "wrong",
            f"Not {claim}",
            (
                f"The name or purpose says “{claim}”, but the formula contains "
                f"{', '.join(sorted(set(culprits))[:3])}. Allergens must be declared by law "
                "(in the EU, Regulation (EU) No 1169/2011); follow your local food law."
            ),
            "std",
        )
    return None


def price_old(case: RuleInput) -> Opinion | None:
    """Say that a price in the cost is old."""
    if not case.today or case.readings.cost is None:
        return None
    old = sorted(
        (pack.date, case.pantry[key].name)
        for key in {n.material for _, _, n in case.formula.all_lines() if n.grams > 0}
        if (pack := case.pantry.pack(key)) is not None
        and pack.date
        and _days(case.today) - _days(pack.date) > OLD_PRICE_DAYS
    )
    if not old:
        return None
    date, name = old[0]
    return Opinion(
        "price_old",
        "look",
        "Old prices",
        f"One price is over a year old: {name.lower()}, from {date}. Ask for a new one and enter "
        "it in the pantry."
        if len(old) == 1
        else f"{len(old)} prices are over a year old; the oldest is {name.lower()}, from {date}. "
        "Ask for new ones and enter them in the pantry.",
        "own",
    )


def _days(iso: str) -> int:
    """Days since a fixed day, by the civil calendar; months of equal length would do."""
    year, month, day = (int(part) for part in iso.split("-"))
    return year * 365 + year // 4 + (month - 1) * 30 + day
