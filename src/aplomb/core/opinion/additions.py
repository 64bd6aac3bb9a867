"""Opinions on what is sprinkled in between the folds and filled in. Silent when all is well."""

from msgspec.structs import replace

from aplomb.core.base.figures import celsius_range, g_text, num
from aplomb.core.folds.step import Way
from aplomb.core.opinion.case import RuleInput, with_plan
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.formula import Part, turn_of
from aplomb.core.paste.line import Line, noted

LAST_TURNS = 2
"""Additions are added between the folds at one of the last so many turns, common practice."""

LONGEST_SUGAR_REST_MIN = 20.0
"""Sugar between the folds must not rest longer [min], common practice."""

UNTOLD_REST_MIN = 30.0
"""What a rest without minutes is taken for [min], common practice."""

MOST_ADDED_PCT = 25.0
"""Additions on paste from which the leaves are cut through [%], recalled."""

MOST_FILLING = 1.6
"""Filling over the paste of a piece from which the bottom stays raw [g/g], recalled."""

PERISHABLE = ("milk", "egg", "fish", "crustaceans", "molluscs")


def _there(case: RuleInput, part: Part) -> list[tuple[int, Line]]:
    return [(i, n) for i, n in enumerate(case.formula.lines(part)) if n.grams > 0]


def addition_early(case: RuleInput) -> Opinion | None:
    """Say that something is added between the folds before the last two turns."""
    turns = len(case.plan.turns)
    early = [
        (i, line)
        for i, line in _there(case, Part.BETWEEN)
        if turn_of(line, case.plan) <= turns - LAST_TURNS
    ]
    if not early:
        return None
    _, line = early[0]
    lines = list(case.formula.between)
    for i, _ in early:
        lines[i] = replace(lines[i], turn=0)
    name = case.pantry[line.material].name
    return Opinion(
        "addition_early",
        "look",
        f"{name} goes in early",
        (
            f"It goes in at turn {turn_of(line, case.plan)} of {turns}; the last one or two "
            "turns are usual. Every turn after that grinds it through the leaves."
        ),
        "trade",
        Action("At the last turn", case.formula.with_lines(Part.BETWEEN, tuple(lines))),
    )


def sugar_rests(case: RuleInput) -> Opinion | None:
    """Say that sugar between the folds rests too long."""
    sweet = [
        turn_of(line, case.plan)
        for _, line in _there(case, Part.BETWEEN)
        if case.pantry[line.material].composition.sugar > 0.5
    ]
    if not sweet:
        return None
    turn, first = 0, min(sweet)
    steps, longest = list(case.plan.steps), 0.0
    for i, step in enumerate(case.plan.steps):
        turn += step.is_turn
        if step.way is not Way.REST or turn < first:
            continue
        rest = step.rest_min if step.rest_min is not None else UNTOLD_REST_MIN
        if rest > LONGEST_SUGAR_REST_MIN:
            longest = max(longest, rest)
            steps[i] = replace(step, rest_min=15.0)
    if not longest:
        return None
    return Opinion(
        "sugar_rests",
        "look",
        "Sugar should not rest for long",
        (
            f"Sugar goes in at turn {first} and then rests {num(longest)} min; "
            f"{num(LONGEST_SUGAR_REST_MIN)} min is the limit. It draws water and weeps."
        ),
        "trade",
        Action("Rest 15 min", with_plan(case.formula, replace(case.plan, steps=tuple(steps)))),
    )


def addition_much(case: RuleInput) -> Opinion | None:
    """Say that so much is added between the folds that the leaves are cut through."""
    paste, added = case.accounts.paste_g, case.accounts.between_g
    percent = 100 * added / paste if paste > 0 else 0.0
    if percent <= MOST_ADDED_PCT:
        return None
    factor = MOST_ADDED_PCT / percent
    lines = tuple(
        replace(n, grams=round(n.grams * factor, 1), typed="") for n in case.formula.between
    )
    return Opinion(
        "addition_much",
        "look",
        "A lot between the folds",
        f"{g_text(added, '.0f')} is {percent:.0f} % of the paste; above about "
        f"{num(MOST_ADDED_PCT)} % it "
        "cuts "
        "through the leaves and the lift falls.",
        "memory",
        Action(
            f"Bring it to {num(MOST_ADDED_PCT)} %", case.formula.with_lines(Part.BETWEEN, lines)
        ),
    )


def filling_heavy(case: RuleInput) -> Opinion | None:
    """Say that a piece carries more filling than its paste can bake dry under."""
    filling = sum(line.grams for _, line in _there(case, Part.FILLING))
    piece = case.scaled.piece_g
    if piece <= 0 or filling <= MOST_FILLING * piece:
        return None
    lines = tuple(
        replace(n, grams=round(n.grams * MOST_FILLING * piece / filling * 0.99, 1), typed="")
        for n in case.formula.filling
    )
    return Opinion(
        "filling_heavy",
        "look",
        "A heavy filling",
        (
            f"{g_text(filling, '.0f')} of filling in {g_text(piece, '.0f')} of paste is "
            f"{num(filling / piece, '.1f')} times its weight; above about {num(MOST_FILLING)} "
            "times, the bottom stays raw and the piece slumps."
        ),
        "memory",
        Action(
            f"Bring it to {g_text(sum(n.grams for n in lines), '.0f')}",
            case.formula.with_lines(Part.FILLING, lines),
        ),
    )


def filling_perishable(case: RuleInput) -> Opinion | None:
    """Remind that a filling of milk, egg or fish is kept cold and its time out of it written."""
    lines, first = list(case.formula.filling), None
    for i, line in _there(case, Part.FILLING):
        material = case.pantry[line.material]
        spoils = [a for a in material.allergens if a in PERISHABLE]
        if not spoils or "cold" in line.note or material.composition.water < 0.3:
            continue
        lines[i] = noted(line, "keep cold")
        first = first or (material, spoils)
    if first is None:
        return None
    material, spoils = first
    return Opinion(
        "filling_perishable",
        "look",
        f"{material.name} spoils",
        (
            f"It contains {' and '.join(spoils)} and {100 * material.composition.water:.0f} % "
            f"water. Keep it in the fridge at {celsius_range(3, 5)} until you use it, note "
            "how long it is out, and bake it through; follow your local food law."
        ),
        "trade",
        Action("Note “keep cold”", case.formula.with_lines(Part.FILLING, tuple(lines))),
    )
