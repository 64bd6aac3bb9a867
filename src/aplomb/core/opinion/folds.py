"""Opinions on the folds. A rule is silent (None) when all is well."""

import math

from msgspec.structs import replace

from aplomb.core.folds.plan import Enclosure, Step, Way
from aplomb.core.opinion.case import Case, one_turn_less, one_turn_more, with_plan
from aplomb.core.opinion.opinion import Action, Band, Opinion

MOST_TURNS_WARM = 2
"""Turns before paste goes back to the cold, common practice."""

THINNEST_ROLLED_MM = 6.0
"""Least thickness that paste is rolled to before a fold by hand [mm], common practice."""

SHORT_PASTE_MM = 3.0
"""Pieces of fat below this give short paste, not puff [mm], common practice."""

LEAST_REST_BEFORE_CUTTING_MIN = 30.0
"""Rest before cutting, at the least [min], common practice."""


def fat_against_turns(case: Case) -> Opinion | None:
    """Say that a lean paste is folded too often, or a rich one too seldom."""
    fat, leaves = case.readings.fat_product_pct, case.readings.fat_leaves
    if fat is None or not leaves or case.plan.enclosure is Enclosure.NONE:
        return None
    if fat < 55 and leaves > 180:
        return Opinion(
            "fat_against_turns", "look", "Lean paste, many turns",
            f"{fat:.0f} % fat on flour is spread over {leaves:.0f} fat leaves. So little fat is "
            "usually given fewer turns, or the leaves break and the lift falls.",
            "trade", one_turn_less(case),
        )  # fmt: skip
    if fat > 85 and leaves < 40 and case.school.key != "gluten_free":
        return Opinion(
            "fat_against_turns", "look", "Rich paste, few turns",
            f"{fat:.0f} % fat on flour stands in only {leaves:.0f} fat leaves. Thick leaves of "
            "fat run out in the oven before the dough sets.",
            "trade", one_turn_more(case),
        )  # fmt: skip
    return None


def _leaf_band(case: Case) -> tuple[float, Band] | None:
    leaf = case.readings.fat_leaf_um
    if leaf is None or case.plan.enclosure is Enclosure.NONE or case.plan.rolls_up:
        return None
    return leaf, case.school.bands["fat_leaf_um"]


def leaf_too_thin(case: Case) -> Opinion | None:
    """Say that fat leaves are likely to break and merge."""
    found = _leaf_band(case)
    if found is None or found[0] >= found[1].low:
        return None
    leaf, band = found
    return Opinion(
        "leaf_too_thin", "wrong" if leaf < band.low / 2 else "look", "Leaves about to merge",
        f"{case.readings.fat_leaves:.6g} fat leaves in {case.formula.sheet_mm:g} mm are "
        f"{leaf:.2g} µm each. Under about {band.low:g} µm they break and the lift falls.",
        band.standing, one_turn_less(case),
    )  # fmt: skip


def leaf_too_thick(case: Case) -> Opinion | None:
    """Say that fat leaves are coarse."""
    found = _leaf_band(case)
    if found is None or found[0] <= found[1].high:
        return None
    leaf, band = found
    return Opinion(
        "leaf_too_thick", "look", "Coarse leaves",
        f"{case.readings.fat_leaves:.4g} fat leaves in {case.formula.sheet_mm:g} mm are "
        f"{leaf:.0f} µm each. Over about {band.high:g} µm the lift is uneven and fat runs out.",
        band.standing, one_turn_more(case),
    )  # fmt: skip


def turns_without_cold(case: Case) -> Opinion | None:
    """Say that more than two turns follow one another without a rest."""
    if case.plan.enclosure is Enclosure.NONE:
        return None
    run, place, longest = 0, -1, 0
    for i, step in enumerate(case.plan.steps):
        if step.way is not Way.TRIM:
            run = run + 1 if step.is_turn else 0
        longest = max(longest, run)
        if run == MOST_TURNS_WARM + 1 and place < 0:
            place = i
    if place < 0:
        return None
    steps = (*case.plan.steps[:place], Step(Way.REST), *case.plan.steps[place:])
    turn = sum(step.is_turn for step in case.plan.steps[:place])
    return Opinion(
        "turns_without_cold", "look", f"{longest} turns without cold",
        "At most two turns are made before the paste goes back to the cold: the fat softens and "
        "the dough pulls back.",
        "trade",
        Action(
            f"Rest after turn {turn}", with_plan(case.formula, replace(case.plan, steps=steps))
        ),
        place + 1,
    )  # fmt: skip


def no_rest_before_cutting(case: Case) -> Opinion | None:
    """Say that the paste is cut without a rest after its last turn."""
    steps = case.plan.steps
    if not case.plan.turns or not steps[-1].is_turn or case.accounts.enclosed_fat_g <= 0:
        return None
    longer = (*steps, Step(Way.REST, rest_min=LEAST_REST_BEFORE_CUTTING_MIN))
    return Opinion(
        "no_rest_before_cutting", "look", "No rest before cutting",
        f"After {len(case.plan.turns)} turns the dough pulls back: the sheet shrinks 5 to 15 % and "
        "pieces bake out of shape. 30 min to a night in the cold is usual.",
        "trade",
        Action("Rest 30 min at the end",
               with_plan(case.formula, replace(case.plan, steps=longer))),
        len(steps),
    )  # fmt: skip


def rolled_too_thin(case: Case) -> Opinion | None:
    """Say that paste is rolled very thin before a fold."""
    thin = [
        (i, step.rolled_mm)
        for i, step in enumerate(case.plan.steps)
        if step.is_turn and step.rolled_mm is not None and step.rolled_mm < THINNEST_ROLLED_MM
    ]
    if not thin:
        return None
    steps = tuple(
        replace(step, rolled_mm=8.0) if any(i == place for place, _ in thin) else step
        for i, step in enumerate(case.plan.steps)
    )
    return Opinion(
        "rolled_too_thin", "look", "Rolled very thin to fold",
        f"{len(thin)} of the turns are rolled to {min(mm for _, mm in thin):g} mm; by hand 8 to 12 "
        f"mm is usual and {THINNEST_ROLLED_MM:g} the least, or leaves tear before they are folded.",
        "trade", Action("Roll to 8 mm", with_plan(case.formula, replace(case.plan, steps=steps))),
        thin[0][0] + 1,
    )  # fmt: skip


def pieces_too_small(case: Case) -> Opinion | None:
    """Say that fat in small pieces gives short paste."""
    size = case.formula.piece_fat_mm
    if case.plan.enclosure is not Enclosure.PIECES or size >= SHORT_PASTE_MM:
        return None
    return Opinion(
        "pieces_too_small", "wrong", "Short paste, not puff",
        f"Pieces of fat of {size:g} mm vanish into the dough; below about {SHORT_PASTE_MM:g} mm "
        "the marbling is gone and nothing parts the leaves.",
        "trade", Action("Cut them 12 mm", replace(case.formula, piece_fat_mm=12.0)),
    )  # fmt: skip


def pieces_too_large(case: Case) -> Opinion | None:
    """Say that pieces of fat are as high as the mass they lie in."""
    size, mass = case.formula.piece_fat_mm, case.formula.gathered_mm
    if case.plan.enclosure is not Enclosure.PIECES or size <= mass / 2:
        return None
    return Opinion(
        "pieces_too_large", "look", "Pieces too large for the mass",
        f"Pieces of {size:g} mm in a mass gathered {mass:g} mm high break through the skin at the "
        "first roll; 12 to 20 mm is usual.",
        "trade", Action("Cut them 15 mm", replace(case.formula, piece_fat_mm=min(15.0, mass / 3))),
    )  # fmt: skip


def _place_of_turn(case: Case, turn: int) -> int:
    """Place in the plan of a turn, both counted from 1."""
    places = [i for i, step in enumerate(case.plan.steps, 1) if step.is_turn]
    return places[turn - 1]


def _more_blocks(case: Case, factor: float) -> Action | None:
    """Offer so many more blocks, each then so much smaller."""
    batch = case.formula.batch
    blocks = math.ceil(batch.blocks * factor - 1e-9)
    if not batch.blocks < blocks <= 100:
        return None
    return Action(
        f"Make {blocks} blocks", replace(case.formula, batch=replace(batch, blocks=blocks))
    )


def sheet_longer_than_bench(case: Case) -> Opinion | None:
    """Say that a sheet is longer than the bench."""
    sheets = [
        (max(size.sheet.length_mm, size.sheet.width_mm), turn)
        for turn, size in enumerate(case.sizes, 1)
    ]
    if case.enclosing is not None and case.enclosing.shape == "coil":
        sheets.append((case.enclosing.dough.length_mm, 0))
    if not sheets or case.accounts.enclosed_fat_g <= 0:
        return None
    longest, turn = max(sheets)
    bench = case.house.bench_mm
    if longest <= bench:
        return None
    where = f"At turn {turn} the sheet" if turn else "The sheet for the coil"
    return Opinion(
        "sheet_longer_than_bench", "look", "Longer than the bench",
        f"{where} is {longest / 10:.0f} cm long; the bench takes {bench / 10:.0f} cm. Make more "
        "blocks, or roll it wider or thicker.",
        "calc", _more_blocks(case, longest / bench), _place_of_turn(case, turn) if turn else 0,
    )  # fmt: skip


def wider_than_belt(case: Case) -> Opinion | None:
    """Say that a sheet is wider than the sheeter's belt."""
    belt = case.house.belt_mm
    if belt <= 0 or not case.sizes or case.accounts.enclosed_fat_g <= 0:
        return None
    widest = max(size.sheet.width_mm for size in case.sizes)
    if widest <= belt:
        return None
    return Opinion(
        "wider_than_belt", "look", "Wider than the belt",
        f"The sheet is {widest / 10:.0f} cm wide and the belt {belt / 10:.0f} cm. Paste that rides "
        "up at the sides tears; keep 2 cm free on each.",
        "calc",
        Action(f"Roll it {(belt - 40) / 10:.0f} cm wide",
               replace(case.formula, roll_width_mm=max(20.0, belt - 40.0))),
        _place_of_turn(case, 1 + [s.sheet.width_mm for s in case.sizes].index(widest)),
    )  # fmt: skip


def larger_than_shelf(case: Case) -> Opinion | None:
    """Say that a folded block is longer than the fridge shelf it rests on."""
    shelf = case.house.shelf_mm
    if not case.sizes or case.accounts.enclosed_fat_g <= 0:
        return None
    longest = max(max(size.block.length_mm, size.block.width_mm) for size in case.sizes)
    if longest <= shelf:
        return None
    return Opinion(
        "larger_than_shelf", "look", "Larger than the fridge shelf",
        f"A folded block is {longest / 10:.0f} cm long and a shelf {shelf / 10:.0f} cm. Bent over "
        "an edge its leaves shear.",
        "calc", _more_blocks(case, longest / shelf),
    )  # fmt: skip
