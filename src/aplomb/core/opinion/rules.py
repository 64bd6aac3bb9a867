"""Every rule of the second opinion: one rule, one function; other stages add theirs here."""

from collections.abc import Callable
from typing import Literal

from msgspec import Struct

from aplomb.core.opinion import additions, fats, folds, gluten_free, paste, sheet
from aplomb.core.opinion.case import Case
from aplomb.core.opinion.opinion import Opinion

RuleStage = Literal["paste", "folds"]


class Rule(Struct, frozen=True):
    """A rule: its function, and the stage whose work it judges."""

    judge: Callable[[Case], Opinion | None]
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
    Rule(paste.no_flour),
    Rule(paste.block_without_fat),
    Rule(gluten_free.wheat_in_gluten_free),
    Rule(sheet.claim_against_contents),
    Rule(paste.fat_cannot_be_enclosed),
    Rule(fats.inverse_without_flour),
    Rule(folds.pieces_too_small, "folds"),
    Rule(sheet.amounts_disagree),
    Rule(sheet.line_without_weight),
    Rule(paste.salt_twice),
    Rule(gluten_free.binder_missing),
    Rule(folds.leaf_too_thin, "folds"),
    Rule(gluten_free.singles_only_gluten_free, "folds"),
    Rule(folds.turns_without_cold, "folds"),
    Rule(paste.water_out_of_school),
    Rule(fats.fats_apart),
    Rule(fats.spread_enclosed),
    Rule(fats.fat_too_soft_for_shop),
    Rule(fats.fat_too_hard_for_shop),
    Rule(folds.leaf_too_thick, "folds"),
    Rule(folds.fat_against_turns, "folds"),
    Rule(folds.rolled_too_thin, "folds"),
    Rule(folds.pieces_too_large, "folds"),
    Rule(additions.sugar_rests),
    Rule(additions.addition_early),
    Rule(additions.addition_much),
    Rule(fats.block_flour_much),
    Rule(fats.dough_fat_much),
    Rule(paste.fat_out_of_school),
    Rule(paste.salt_out_of_school),
    Rule(paste.acid_much),
    Rule(paste.sugar_much),
    Rule(paste.flour_moisture),
    Rule(paste.flour_strength),
    Rule(paste.dough_cannot_be_cooled),
    Rule(gluten_free.binder_out_of_range),
    Rule(sheet.volume_doubt),
    Rule(sheet.same_twice),
    Rule(paste.dusting_much),
    Rule(folds.no_rest_before_cutting, "folds"),
    Rule(fats.waxy_mouthfeel),
    Rule(fats.blend_near_its_edge),
    Rule(additions.filling_heavy),
    Rule(additions.filling_perishable),
    Rule(paste.wash_on_cut_faces),
    Rule(sheet.price_old),
)
"""Every rule, the weightier first."""

STAGE_OF: dict[str, RuleStage] = {rule.key: rule.stage for rule in RULES}
"""The stage that each rule judges, by its key."""


def opinions_on(case: Case) -> tuple[Opinion, ...]:
    """Ask every rule; what is wrong comes before what is worth a look.

    Parameters
    ----------
    case : Case

    Returns
    -------
    tuple of Opinion
        Dismissed ones are left in; who shows them leaves them out.
    """
    found = [opinion for rule in RULES if (opinion := rule.judge(case)) is not None]
    return tuple(sorted(found, key=lambda opinion: opinion.mark != "wrong"))
