"""Opinions on how the sheet is cut and what is assumed to be lost. Silent when all is well."""

from msgspec.structs import replace

from aplomb.core.base.figures import mm_range, mm_text, num, sides_cm
from aplomb.core.batch.losses import KINDS, USUAL
from aplomb.core.opinion.case import RuleInput
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.formula import Formula, with_product

LEAST_EDGE_MM, MOST_EDGE_MM = 5.0, 15.0
"""Trimmed off rolled edges [mm]: common practice."""
USUAL_EDGE_MM = 10.0
LEAST_RELAX_PCT, USUAL_RELAX_PCT = 5.0, 8.0
"""What a sheet draws back along the last rolling [%]: recalled."""
LEAST_CASE_MM = 3.0
"""A piece that must stand is cut from 3 to 4 mm: common practice."""


def trim_below_edges(case: RuleInput) -> Opinion | None:
    """Say that the assumed trim is less than the rolled edges alone take."""
    formula, cutting = case.formula, case.formula.cutting
    typed = formula.batch.trim_pct
    long, wide, edges = cutting.length_mm, cutting.width_mm, 2 * cutting.edge_mm
    if typed is None or not long or not wide or not formula.wanted:
        return None
    share = 100 * (1 - max(0.0, long - edges) * max(0.0, wide - edges) / (long * wide))
    if typed >= share - 0.05 or share > 90:
        return None
    enough = round(share, 1)
    return Opinion(
        "trim_below_edges",
        "wrong",
        "Trim set too low",
        (
            f"The batch allows {num(typed, '.1f')} % for trim; {mm_text(cutting.edge_mm)} off "
            f"each edge of a sheet of {sides_cm(long, wide)} is {num(share, '.1f')} % before "
            "a single piece is cut. There will be too few pieces."
        ),
        "calc",
        Action(f"Allow {num(enough, '.1f')} %", _losing(formula, "trim", enough)),
    )


def edges_out_of_practice(case: RuleInput) -> Opinion | None:
    """Say that rolled edges are hardly trimmed, or far too much."""
    formula, edge = case.formula, case.formula.cutting.edge_mm
    if not formula.wanted or LEAST_EDGE_MM <= edge <= MOST_EDGE_MM:
        return None
    why = (
        ", and a rolled or folded edge holds its leaves shut, so the piece lifts crooked"
        if edge < LEAST_EDGE_MM
        else ", which is more than needed: beyond the closed edge the paste opens as well as in "
        "the middle"
    )
    cutting = replace(formula.cutting, edge_mm=USUAL_EDGE_MM)
    return Opinion(
        "edges_out_of_practice",
        "look",
        f"Trim {mm_range(5, 15)} off edges",
        f"{mm_text(edge)} is trimmed off each rolled edge{why}.",
        "trade",
        Action(f"Trim {mm_text(USUAL_EDGE_MM)}", replace(formula, cutting=cutting)),
    )


def cut_before_it_draws_back(case: RuleInput) -> Opinion | None:
    """Say that the sheet is cut as if it did not draw back; gluten-free paste hardly does."""
    formula, back = case.formula, case.formula.cutting.relax_along_pct
    if not formula.wanted or formula.school == "gluten_free" or back >= LEAST_RELAX_PCT:
        return None
    cutting = replace(formula.cutting, relax_along_pct=USUAL_RELAX_PCT)
    return Opinion(
        "cut_before_it_draws_back",
        "look",
        "The sheet shrinks before cutting",
        (
            f"{num(back)} % is allowed for shrinkage along the last rolling; 5 to 15 % is "
            "common. Pieces cut before the sheet has shrunk come out short and oval. Lift "
            "the sheet off the bench and let it rest."
        ),
        "memory",
        Action(f"Allow {num(USUAL_RELAX_PCT)} %", replace(formula, cutting=cutting)),
    )


def case_too_thin(case: RuleInput) -> Opinion | None:
    """Say that a case that must stand is cut from a thin sheet."""
    formula = case.formula
    for i, product in enumerate(formula.products):
        thick = product.sheet_mm or formula.sheet_mm
        if product.is_cut and product.shape == "case" and thick < LEAST_CASE_MM:
            return Opinion(
                "case_too_thin",
                "look",
                f"“{product.name}” is thin",
                (
                    f"It is cut from a {mm_text(thick)} sheet. Tall pieces are cut from "
                    f"{mm_range(3, 4)}; a thinner wall leans, and the base shows through."
                ),
                "trade",
                Action(
                    f"Cut it from {mm_text(LEAST_CASE_MM)}",
                    with_product(formula, i, sheet_mm=LEAST_CASE_MM),
                ),
            )
    return None


def loss_out_of_range(case: RuleInput) -> Opinion | None:
    """Say that a typed loss lies outside what is seen in use.

    The trim of a sheet that is laid out is calculated, not guessed.
    """
    for kind in KINDS:
        typed, usual = getattr(case.formula.batch, f"{kind}_pct"), USUAL[kind]
        if typed is None or usual.low <= typed <= usual.high:
            continue
        if kind == "trim" and case.formula.cutting.length_mm:
            continue  # the cut plan says it, not a guess
        return Opinion(
            "loss_out_of_range",
            "look",
            f"{usual.words}: {num(typed)} %",
            (
                f"{num(usual.low)} to {num(usual.high)} % of the {usual.base} is typical. If "
                "you weighed it, leave it; if the field is empty, your own batches set it."
            ),
            usual.standing,
            Action("Use your own batches", _losing(case.formula, kind, None)),
        )
    return None


def _losing(formula: Formula, kind: str, percent: float | None) -> Formula:
    return replace(formula, batch=replace(formula.batch, **{f"{kind}_pct": percent}))
