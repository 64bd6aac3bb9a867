"""Every rule of the second opinion: one rule, one function; other stages add theirs here."""

from collections.abc import Callable, Sequence
from typing import Literal

from msgspec import Struct

from aplomb.core.opinion import (
    additions,
    cutting,
    fats,
    folds,
    gluten_free,
    kind,
    paste,
    sheet,
    working,
)
from aplomb.core.opinion.case import RuleInput
from aplomb.core.opinion.opinion import Opinion
from aplomb.core.paste.ingredient import STANDING_WORDS, Standing

RuleStage = Literal["paste", "folds", "batch"]


OF_THE_DAY = frozenset(
    (
        "turns_without_cold", "no_rest_before_cutting", "sugar_rests", "cut_before_it_draws_back",
        "fat_too_soft_for_shop", "fat_too_hard_for_shop", "dough_cannot_be_cooled",
        "filling_perishable", "rest_too_short", "rest_too_long", "freezer_beyond_window",
        "bodies_unequally_firm", "out_too_long", "no_place_is_right", "sugar_waits_for_cold",
        "shaped_pieces_warm",
    )
)  # fmt: skip
"""Keys of the rules on rests, cold and warmth: all that a timetable has to do with."""


class Rule(Struct, frozen=True):
    """A rule: its function, where it comes from, and the stage whose work it judges.

    An origin ``band`` is that of the band or guidance it is held against.
    """

    judge: Callable[[RuleInput], Opinion | None]
    origin: Standing | Literal["band"]
    stage: RuleStage = "paste"

    @property
    def key(self) -> str:
        """Name of the rule; dismissing is remembered by it."""
        return str(getattr(self.judge, "__name__", ""))

    @property
    def words(self) -> str:
        """What it looks at: the first line of the function's docstring."""
        return (self.judge.__doc__ or "").split("\n\n")[0].strip()


RULES: tuple[Rule, ...] = (
    Rule(paste.no_flour, "calc"),
    Rule(paste.block_without_fat, "calc"),
    Rule(gluten_free.wheat_in_gluten_free, "std"),
    Rule(sheet.claim_against_contents, "std"),
    Rule(paste.fat_cannot_be_enclosed, "trade"),
    Rule(fats.inverse_without_flour, "trade"),
    Rule(folds.pieces_too_small, "trade", "folds"),
    Rule(sheet.amounts_disagree, "calc"),
    Rule(sheet.line_without_weight, "calc"),
    Rule(paste.salt_twice, "calc"),
    Rule(gluten_free.binder_missing, "memory"),
    Rule(folds.leaf_too_thin, "band", "folds"),
    Rule(gluten_free.singles_only_gluten_free, "trade", "folds"),
    Rule(folds.turns_without_cold, "trade", "folds"),
    Rule(kind.judged_as_another, "trade"),
    Rule(paste.water_out_of_school, "band"),
    Rule(fats.fats_apart, "calc"),
    Rule(fats.spread_enclosed, "std"),
    Rule(fats.fat_too_soft_for_shop, "calc"),
    Rule(fats.fat_too_hard_for_shop, "memory"),
    Rule(folds.leaf_too_thick, "band", "folds"),
    Rule(folds.fat_against_turns, "trade", "folds"),
    Rule(working.dough_thin_over_fat, "memory", "folds"),
    Rule(working.border_eats_yield, "calc", "folds"),
    Rule(working.seams_in_the_bend, "trade", "folds"),
    Rule(working.shrinks_one_way, "calc", "folds"),
    Rule(working.hardly_a_coil, "calc", "folds"),
    Rule(folds.rolled_too_thin, "trade", "folds"),
    Rule(folds.sheet_longer_than_bench, "calc", "folds"),
    Rule(folds.wider_than_belt, "calc", "folds"),
    Rule(folds.larger_than_shelf, "calc", "folds"),
    Rule(folds.block_heavy, "memory", "folds"),
    Rule(folds.width_against_block, "trade", "folds"),
    Rule(folds.pieces_too_large, "trade", "folds"),
    Rule(additions.sugar_rests, "trade"),
    Rule(additions.addition_early, "trade"),
    Rule(additions.addition_much, "memory"),
    Rule(fats.block_flour_much, "trade"),
    Rule(fats.dough_fat_much, "trade"),
    Rule(paste.fat_out_of_school, "band"),
    Rule(paste.salt_out_of_school, "band"),
    Rule(paste.acid_much, "trade"),
    Rule(paste.sugar_much, "trade"),
    Rule(paste.flour_moisture, "std"),
    Rule(paste.flour_strength, "trade"),
    Rule(paste.dough_cannot_be_cooled, "calc"),
    Rule(gluten_free.binder_out_of_range, "band"),
    Rule(sheet.volume_doubt, "memory"),
    Rule(sheet.same_twice, "calc"),
    Rule(paste.dusting_much, "memory"),
    Rule(folds.no_rest_before_cutting, "trade", "folds"),
    Rule(fats.waxy_mouthfeel, "memory"),
    Rule(fats.blend_near_its_edge, "memory"),
    Rule(additions.filling_heavy, "memory"),
    Rule(additions.filling_perishable, "trade"),
    Rule(paste.wash_on_cut_faces, "trade"),
    Rule(cutting.trim_below_edges, "calc", "batch"),
    Rule(cutting.edges_out_of_practice, "trade", "batch"),
    Rule(cutting.cut_before_it_draws_back, "memory", "batch"),
    Rule(cutting.case_too_thin, "trade", "batch"),
    Rule(cutting.loss_out_of_range, "memory", "batch"),
    Rule(sheet.price_old, "own"),
)
"""Every rule, the weightier first."""

STAGE_OF: dict[str, RuleStage] = {rule.key: rule.stage for rule in RULES}
"""The stage that each rule judges, by its key."""


_STAGE_WORDS: dict[RuleStage, str] = {
    "paste": "What is in the paste",
    "folds": "The folds",
    "batch": "The batch",
}

_PAGE_HEAD = (
    "# The second opinion\n\nEvery rule that checks a formula, the most important "
    "first. A rule is silent when all is well. One\nthat speaks says why, with "
    "the numbers, what you can do about it, and where it comes from:\n"
    "*standard*, *calculated*, *common practice*, *rule of thumb* or *your "
    "own*. You can dismiss it;\nthe formula remembers. What is wrong comes "
    "before what is worth a look.\n\nThis page is generated from the code by "
    "`scripts/opinions_page.py`; a test keeps it up to date.\n"
)


def page(cold: Sequence[tuple[str, str, Standing]] = ()) -> str:
    """Write the page that lists every rule, from the rules themselves.

    Parameters
    ----------
    cold : sequence of (key, words, origin)
        The rules of the cold, which stand above this room.
    """
    text = [_PAGE_HEAD]
    for stage, words in _STAGE_WORDS.items():
        mine = [rule for rule in RULES if rule.stage == stage]
        text.append(f"\n## {words} ({len(mine)})\n")
        text.append("| rule | what it says | comes from |\n|---|---|---|")
        for rule in mine:
            said = " ".join(rule.words.split())
            origin = "its range" if rule.origin == "band" else STANDING_WORDS[rule.origin]
            text.append(f"| `{rule.key}` | {said} | {origin} |")
    text.append(
        f"\n## The cold ({len(cold)})\n\nCalculated in the background, a moment after a change.\n"
    )
    text.append("| rule | what it says | comes from |\n|---|---|---|")
    text += [f"| `{key}` | {words} | {STANDING_WORDS[origin]} |" for key, words, origin in cold]
    return "\n".join(text) + "\n"


def opinions_on(case: RuleInput) -> tuple[Opinion, ...]:
    """Ask every rule; what is wrong comes before what is worth a look.

    Dismissed ones are left in; who shows them leaves them out.
    """
    found = [opinion for rule in RULES if (opinion := rule.judge(case)) is not None]
    return tuple(sorted(found, key=lambda opinion: opinion.mark != "wrong"))
