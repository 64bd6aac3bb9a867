"""Opinions on the folds. A rule is silent (None) when all is well."""

import math

from msgspec.structs import replace

from aplomb.core.base.figures import cm_text, kg_text, mm_range, mm_text, num
from aplomb.core.batch.blocks import CLOSE_G, Beyond, beyond, fitting_blocks
from aplomb.core.folds.plan import Enclosure
from aplomb.core.folds.step import Step, Way
from aplomb.core.opinion.case import TURNS_WARM, RuleInput, turns_less, turns_more, with_plan
from aplomb.core.opinion.opinion import Action, Band, Opinion

THINNEST_ROLLED_MM = 6.0
"""Least thickness that paste is rolled to before a fold by hand [mm], common practice."""

SHORT_PASTE_MM = 3.0
"""Pieces of fat below this give short paste, not puff [mm], common practice."""

LEAST_REST_BEFORE_CUTTING_MIN = 30.0
"""Rest before cutting, at the least [min], common practice."""


LEAN_PCT, MOST_LEAVES_LEAN = 55.0, 180.0
RICH_PCT, FEWEST_LEAVES_RICH = 85.0, 40.0
"""A lean paste [% on flour] and the most fat leaves it takes [-], a rich one and the fewest: common
practice in their sense, the figures our choice."""


def fat_against_turns(case: RuleInput) -> Opinion | None:
    """Say that a lean paste is folded too often, or a rich one too seldom."""
    fat, leaves = case.readings.fat_product_pct, case.readings.fat_leaves
    if fat is None or not leaves or case.plan.enclosure is Enclosure.NONE:
        return None
    if fat < LEAN_PCT and leaves > MOST_LEAVES_LEAN:
        return Opinion(
            "fat_against_turns",
            "look",
            "Lean paste, many turns",
            (
                f"{fat:.0f} % fat on flour is spread over {leaves:.0f} fat leaves. So little "
                "fat usually gets fewer turns, or the leaves break and lift suffers."
            ),
            "trade",
            turns_less(case, leaves / MOST_LEAVES_LEAN),
        )
    if fat > RICH_PCT and leaves < FEWEST_LEAVES_RICH and case.school.key != "gluten_free":
        return Opinion(
            "fat_against_turns",
            "look",
            "Rich paste, few turns",
            (
                f"{fat:.0f} % fat on flour is in only {leaves:.0f} fat leaves. Thick fat "
                "leaves run out in the oven before the dough sets."
            ),
            "trade",
            turns_more(case, FEWEST_LEAVES_RICH / leaves),
        )
    return None


def _leaf_band(case: RuleInput) -> tuple[float, Band] | None:
    leaf = case.readings.fat_leaf_um
    if leaf is None or case.plan.enclosure is Enclosure.NONE or case.plan.rolls_up:
        return None
    return leaf, case.school.bands["fat_leaf_um"]


def leaf_too_thin(case: RuleInput) -> Opinion | None:
    """Say that fat leaves are likely to break and merge."""
    found = _leaf_band(case)
    if found is None or found[0] >= found[1].low:
        return None
    leaf, band = found
    return Opinion(
        "leaf_too_thin",
        "wrong" if leaf < band.low / 2 else "look",
        "Leaves so thin they may merge",
        f"{num(case.readings.fat_leaves or 0, '.6g')} fat leaves in "
        f"{mm_text(case.formula.sheet_mm)} are "
        f"{num(leaf, '.2g')} µm each. Under about {num(band.low)} µm they break and the lift "
        "falls.",
        band.standing,
        turns_less(case, band.low / leaf),
    )


def leaf_too_thick(case: RuleInput) -> Opinion | None:
    """Say that fat leaves are coarse."""
    found = _leaf_band(case)
    if found is None or found[0] <= found[1].high:
        return None
    leaf, band = found
    return Opinion(
        "leaf_too_thick",
        "look",
        "Coarse leaves",
        f"{num(case.readings.fat_leaves or 0, '.4g')} fat leaves in "
        f"{mm_text(case.formula.sheet_mm)} are "
        f"{leaf:.0f} µm each. Over about {num(band.high)} µm the lift is uneven and fat runs out.",
        band.standing,
        turns_more(case, leaf / band.high),
    )


def turns_without_cold(case: RuleInput) -> Opinion | None:
    """Say that more than two turns follow one another without a rest."""
    if case.plan.enclosure is Enclosure.NONE:
        return None
    run, longest, since_rest = 0, 0, 0
    steps: list[Step] = []
    places, after = [], []
    for i, step in enumerate(case.plan.steps):
        if step.way is not Way.TRIM:
            run = run + 1 if step.is_turn else 0
            since_rest = since_rest + 1 if step.is_turn else 0
        longest = max(longest, run)
        if since_rest > TURNS_WARM:
            places.append(i)
            after.append(sum(each.is_turn for each in case.plan.steps[:i]))
            steps.append(Step(Way.REST))
            since_rest = 1
        steps.append(step)
    if not places:
        return None
    turns = " and ".join(str(turn) for turn in after)
    if len(after) > 2:
        turns = f"{', '.join(str(turn) for turn in after[:-1])} and {after[-1]}"
    return Opinion(
        "turns_without_cold",
        "look",
        f"{longest} turns without a rest in the cold",
        (
            "Make at most two turns before the paste goes back into the cold: the fat "
            "softens and the dough pulls back."
        ),
        "trade",
        Action(
            f"Rest after turns {turns}" if len(after) > 1 else f"Rest after turn {turns}",
            with_plan(case.formula, replace(case.plan, steps=tuple(steps))),
        ),
        places[0] + 1,
    )


def no_rest_before_cutting(case: RuleInput) -> Opinion | None:
    """Say that the paste is cut without a rest after its last turn."""
    steps = case.plan.steps
    last = max((i for i, step in enumerate(steps) if step.is_turn), default=-1)
    rested = any(step.way is Way.REST for step in steps[last + 1 :])
    if not case.plan.turns or rested or case.accounts.enclosed_fat_g <= 0:
        return None
    longer = (*steps, Step(Way.REST, rest_min=LEAST_REST_BEFORE_CUTTING_MIN))
    return Opinion(
        "no_rest_before_cutting",
        "look",
        "No rest before cutting",
        (
            f"After {len(case.plan.turns)} turns the dough pulls back: the sheet shrinks by 5 "
            "to 15 % and pieces bake out of shape. Anything from 30 min to overnight in the "
            "cold is usual."
        ),
        "trade",
        Action("Rest 30 min at the end", with_plan(case.formula, replace(case.plan, steps=longer))),
        len(steps),
    )


def rolled_too_thin(case: RuleInput) -> Opinion | None:
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
        "rolled_too_thin",
        "look",
        "Rolled very thin to fold",
        (
            f"{len(thin)} of the turns are rolled down to "
            f"{mm_text(min((mm for _, mm in thin)))}; by hand {mm_range(8, 12)} is usual and "
            f"{mm_text(THINNEST_ROLLED_MM)} the minimum, or leaves tear before they are "
            "folded."
        ),
        "trade",
        Action(f"Roll to {mm_text(8)}", with_plan(case.formula, replace(case.plan, steps=steps))),
        thin[0][0] + 1,
    )


def pieces_too_small(case: RuleInput) -> Opinion | None:
    """Say that fat in small pieces gives short paste."""
    size = case.formula.piece_fat_mm
    if case.plan.enclosure is not Enclosure.PIECES or size >= SHORT_PASTE_MM:
        return None
    return Opinion(
        "pieces_too_small",
        "wrong",
        "Short paste, not puff",
        (
            f"Pieces of fat of {mm_text(size)} disappear into the dough; below about "
            f"{mm_text(SHORT_PASTE_MM)} the marbling is gone and nothing keeps the leaves "
            "apart."
        ),
        "trade",
        Action(f"Cut them to {mm_text(12)}", replace(case.formula, piece_fat_mm=12.0)),
    )


def pieces_too_large(case: RuleInput) -> Opinion | None:
    """Say that pieces of fat are as high as the mass they lie in."""
    size, mass = case.formula.piece_fat_mm, case.formula.gathered_mm
    if case.plan.enclosure is not Enclosure.PIECES or size <= mass / 2:
        return None
    return Opinion(
        "pieces_too_large",
        "look",
        "Pieces too large for the dough",
        (
            f"Pieces of {mm_text(size)} in dough gathered {mm_text(mass)} thick break through "
            f"the surface at the first roll; {mm_range(12, 20)} is usual."
        ),
        "trade",
        Action(
            f"Cut them to {mm_text(15)}", replace(case.formula, piece_fat_mm=min(15.0, mass / 3))
        ),
    )


def _place_of_turn(case: RuleInput, turn: int) -> int:
    """Place in the plan of a turn, both counted from 1."""
    places = [i for i, step in enumerate(case.plan.steps, 1) if step.is_turn]
    return places[turn - 1]


def _fitting(case: RuleInput) -> Action | None:
    """Offer what fits bench, belt and shelf: the width that follows, or more blocks, or both."""
    formula, batch, now = case.formula, case.formula.batch, max(1, case.scaled.blocks)
    natural = replace(formula, roll_width_mm=0.0)
    for made in ([natural] if formula.roll_width_mm else []) + [formula, natural]:
        factor = case.scaled.factor
        blocks = fitting_blocks(made, case.plan, case.accounts, factor, case.house, now)
        if blocks is None or (made is formula and blocks == now):
            continue
        if blocks == now:
            return Action("Let the width follow from the block", made)
        if made is natural and formula.roll_width_mm:
            label = f"Make {blocks} blocks and let the width follow"
        else:
            label = f"Make {blocks} blocks"
        return Action(label, replace(made, batch=replace(batch, blocks=blocks)))
    return None


def _worst(case: RuleInput, limit: str) -> Beyond | None:
    """The size that is furthest beyond a limit; None when all is within it."""
    if case.enclosing is None or case.accounts.enclosed_fat_g <= 0:
        return None
    over = [each for each in beyond(case.enclosing, case.worked, case.house) if each.limit == limit]
    return max(over, key=lambda each: each.mm, default=None)


def sheet_longer_than_bench(case: RuleInput) -> Opinion | None:
    """Say that a sheet is longer than the bench."""
    worst = _worst(case, "bench")
    if worst is None:
        return None
    where = f"At turn {worst.turn} the sheet" if worst.turn else "For enclosing, the sheet"
    if worst.turn == 0 and case.enclosing is not None and case.enclosing.shape == "coil":
        where = "The sheet for the coil"
    return Opinion(
        "sheet_longer_than_bench",
        "look",
        "Longer than the bench",
        f"{where} is {cm_text(worst.mm)} long; the bench takes {cm_text(worst.most_mm)}. "
        "Make more blocks, or roll it thicker.",
        "calc",
        _fitting(case),
        _place_of_turn(case, worst.turn) if worst.turn else 0,
    )


def wider_than_belt(case: RuleInput) -> Opinion | None:
    """Say that a sheet is wider than the sheeter's belt, or than the bench is deep."""
    worst = _worst(case, "wide")
    if worst is None:
        return None
    by_belt = 0 < case.house.belt_mm <= case.house.bench_deep_mm
    why = (
        (
            f"The sheet is {cm_text(worst.mm)} wide and the belt {cm_text(worst.most_mm)}. "
            f"Paste that rides up at the sides tears; keep {cm_text(20)} clear on each side."
        )
        if by_belt
        else f"The sheet is {cm_text(worst.mm)} wide and the bench {cm_text(worst.most_mm)} deep."
    )
    return Opinion(
        "wider_than_belt",
        "look",
        "Wider than the belt" if by_belt else "Wider than the bench",
        why,
        "calc",
        _fitting(case),
        _place_of_turn(case, worst.turn) if worst.turn else 0,
    )


def larger_than_shelf(case: RuleInput) -> Opinion | None:
    """Say that a folded block is longer than the fridge shelf it rests on."""
    worst = _worst(case, "shelf")
    if worst is None:
        return None
    return Opinion(
        "larger_than_shelf",
        "look",
        "Larger than the fridge shelf",
        (
            f"A folded block is {cm_text(worst.mm)} long and a shelf "
            f"{cm_text(worst.most_mm)}. If it bends over the edge, its leaves shear."
        ),
        "calc",
        _fitting(case),
        _place_of_turn(case, worst.turn) if worst.turn else 0,
    )


def block_heavy(case: RuleInput) -> Opinion | None:
    """Say that a block is heavier than the house rolls."""
    each, most = case.scaled.each_g, case.house.block_most_g
    if each <= most + CLOSE_G or case.accounts.enclosed_fat_g <= 0:
        return None
    return Opinion(
        "block_heavy",
        "look",
        "A heavy block",
        (
            f"One block is {kg_text(each, '.1f')}; the house limit is {kg_text(most, '.1f')}. "
            "A heavier one warms up before it is rolled out, and is hard to turn."
        ),
        "memory",
        _fitting(case),
        0,
    )


NARROWED, WIDENED = 0.97, 1.55
"""A sheet this many times as wide as the folded block lies across is told [-]: paste cannot be
narrowed, and is hardly stretched further sideways (common practice; the margins are ours)."""


def width_against_block(case: RuleInput) -> Opinion | None:
    """Say that a typed width narrows the paste, or stretches it far sideways."""
    before = case.enclosing.done if case.enclosing else None
    if before is None or not case.formula.roll_width_mm or case.accounts.enclosed_fat_g <= 0:
        return None
    turns, trims = iter(case.worked.turns), iter(case.worked.trims)
    found: list[tuple[float, int, float, float]] = []
    for place, step in enumerate(case.plan.steps, 1):
        if step.way is Way.TRIM:
            trim = next(trims, None)
            before = trim.left if trim else before
        elif step.is_turn and (size := next(turns, None)) is not None:
            by = size.sheet.width_mm / before.length_mm
            if not NARROWED <= by <= WIDENED:
                found.append((abs(math.log(by)), place, by, before.length_mm))
            before = size.block
    if not found:
        return None
    _, place, by, across = max(found)
    turn = sum(step.is_turn for step in case.plan.steps[:place])
    way = "it cannot be made narrower" if by < 1 else "it hardly stretches that far sideways"
    return Opinion(
        "width_against_block",
        "look",
        "Narrower than the block" if by < 1 else "Stretched far sideways",
        f"At turn {turn} the block is {cm_text(across)} across, and the sheet is set to "
        f"{cm_text(case.formula.roll_width_mm)} wide, {num(by, '.1f')} times that. Paste "
        f"stretches towards its open ends; {way}.",
        "trade",
        Action("Let the width follow from the block", replace(case.formula, roll_width_mm=0.0)),
        place,
    )
