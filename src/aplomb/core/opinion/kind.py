"""An opinion on the kind of paste that a formula is judged as. Silent (None) when all is well."""

from msgspec.structs import replace

from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.step import Way
from aplomb.core.opinion.case import RuleInput
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.formula import Formula, School
from aplomb.core.paste.pantry import Pantry

KIND_NAMES: dict[School, str] = {
    "classic": "classic paste", "rough": "rough puff", "gluten_free": "gluten-free paste",
    "portions": "flaky paste, in portions", "coil": "coil paste", "gathered": "gathered paste",
    "lining": "lining crust", "log": "paste for logs",
}  # fmt: skip
"""Kinds of paste as they are called, common practice."""
TURNS_OF_ROUGH = 2
"""Pieces that are folded so often are rough puff; less often, a gathered paste [-], our choice."""


def kinds_that_fit(formula: Formula, plan: Plan, pantry: Pantry) -> tuple[School, ...]:
    """Tell which kinds of paste a formula may be, by its flour, its folds and what is made of it.

    The likeliest first; any of them may be chosen without a word.
    """
    flours = [pantry[line.material] for _, _, line in formula.all_lines()]
    flours = [each for each in flours if each.is_flour]
    if flours and not any(each.has_gluten for each in flours):
        return ("gluten_free",)
    if plan.enclosure is Enclosure.COIL:
        return ("coil",)
    if plan.enclosure is Enclosure.PORTIONS:
        return ("portions", "rough")
    if plan.enclosure is Enclosure.PIECES:
        rough: tuple[School, ...] = ("rough", "gathered", "lining", "log")
        few = len(plan.turns) < TURNS_OF_ROUGH
        return ("gathered", "lining", "rough", "log") if few else rough
    shapes = {product.shape for product in formula.products}
    if shapes == {"lining"}:
        return ("lining", "classic", "log")
    rolled = any(step.way is Way.ROLL for step in plan.steps)
    if shapes == {"slice"} or rolled:
        return ("log", "classic", "coil", "lining")
    return ("classic", "log", "lining")


def judged_as_another(case: RuleInput) -> Opinion | None:
    """Say that the formula is judged as a kind of paste that its flour or folds contradict."""
    if not case.formula.all_lines() or case.plan.enclosure is Enclosure.NONE:
        return None
    fit = kinds_that_fit(case.formula, case.plan, case.pantry)
    if case.formula.school in fit or case.formula.school == "gluten_free":
        return None
    likeliest = fit[0]
    why = (
        "no flour in it contains gluten"
        if likeliest == "gluten_free"
        else f"its turn line starts with “{case.plan.enclosure.value}”"
    )
    return Opinion(
        "judged_as_another",
        "look",
        f"Is it {KIND_NAMES[likeliest]}?",
        f"It is judged as {case.school.name}, but {why}. Usual ranges differ from kind to kind.",
        "trade",
        Action(f"Judge it as {KIND_NAMES[likeliest]}", replace(case.formula, school=likeliest)),
    )
