"""Opinions on working gluten-free. A rule is silent (None) when all is well."""

from msgspec.structs import replace

from aplomb.core.base.figures import g_text, num
from aplomb.core.folds.step import as_single
from aplomb.core.opinion.case import COUNT_WORDS, RuleInput, lines_of, with_plan, with_singles
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.formula import PART_PLACES, Part, with_grams
from aplomb.core.paste.gluten_free import CAUTION, binder_for
from aplomb.core.paste.line import Line

USUAL_SINGLES = 4
"""Singles that gluten-free paste is given [-], common practice."""


def wheat_in_gluten_free(case: RuleInput) -> Opinion | None:
    """Catch gluten anywhere in a gluten-free paste: dough, block, dusting or finish."""
    if case.school.key != "gluten_free":
        return None
    found = [
        (part, i, line)
        for part, i, line in case.formula.all_lines()
        if case.pantry[line.material].has_gluten
    ]
    if not found:
        return None
    part, index, line = found[0]
    where = PART_PLACES[part]
    name = case.pantry[line.material].name
    safe = [n.material for n in case.formula.dough if case.pantry[n.material].is_flour]
    safe = [key for key in safe if not case.pantry[key].has_gluten]
    other = safe[0] if safe else "rice_flour" if "rice_flour" in case.pantry else ""
    action = None
    if other and case.pantry[line.material].is_flour:
        lines = list(case.formula.lines(part))
        lines[index] = replace(line, material=other)
        action = Action(
            f"Use {case.pantry[other].name.lower()}", case.formula.with_lines(part, tuple(lines))
        )
    return Opinion(
        "wheat_in_gluten_free",
        "wrong",
        f"Gluten in {where}",
        f"{name} ({g_text(line.grams, '.0f')}) contains gluten. {CAUTION}",
        "std",
        action,
    )


def singles_only_gluten_free(case: RuleInput) -> Opinion | None:
    """Say that gluten-free paste is folded in singles only."""
    if case.school.key != "gluten_free":
        return None
    large = [step.panels for step in case.plan.turns if step.panels > 3]
    if not large:
        return None
    singles = replace(case.plan, steps=tuple(as_single(step) for step in case.plan.steps))
    more = max(0, min(USUAL_SINGLES - len(singles.turns), USUAL_SINGLES))
    return Opinion(
        "singles_only_gluten_free",
        "look",
        "Gluten-free: singles only",
        f"{len(large)} of the {len(case.plan.turns)} turns fold in {max(large)}. Nothing elastic "
        "holds the fat in; four singles are usual.",
        "trade",
        Action(
            f"Make them {COUNT_WORDS[len(singles.turns) + more]} singles"
            if more
            else "Make them singles",
            with_plan(case.formula, with_singles(singles, more)),
        ),
    )


def binder_missing(case: RuleInput) -> Opinion | None:
    """Say that nothing binds a gluten-free dough."""
    flour = case.accounts.flour_g
    if case.school.key != "gluten_free" or flour <= 0 or case.accounts.enclosed_fat_g <= 0:
        return None
    if lines_of(case, Part.DOUGH, lambda m: m.group in ("binder", "egg")):
        return None
    if "xanthan" not in case.pantry:
        return None
    grams = round(flour * 0.012, 1)
    return Opinion(
        "binder_missing",
        "look",
        "No binder in the dough",
        "Without gluten the dough cracks over the fat unless something holds it: xanthan at about "
        f"{num(1.2)} % of flour, psyllium 3 %, or dried egg 3 %.",
        "memory",
        Action(
            f"Add {g_text(grams)} xanthan",
            case.formula.with_lines(Part.DOUGH, (*case.formula.dough, Line("xanthan", grams))),
        ),
    )


def binder_out_of_range(case: RuleInput) -> Opinion | None:
    """Say that there is more or less of a binder than is usual."""
    flour = case.accounts.flour_g
    if case.school.key != "gluten_free" or flour <= 0:
        return None
    others = len(lines_of(case, Part.DOUGH, lambda m: m.group in ("binder", "egg"))) > 1
    for i, grams in lines_of(case, Part.DOUGH, lambda m: m.group in ("binder", "egg")):
        material = case.pantry[case.formula.dough[i].material]
        guide = binder_for(material.key)
        if guide is None:
            continue
        percent = 100 * grams / flour
        less = percent < guide.low_pct - 0.005
        if (not less and percent <= guide.high_pct + 0.005) or (less and others):
            continue
        wanted = round(flour * guide.usual_pct / 100, 1)
        return Opinion(
            "binder_out_of_range",
            "look",
            f"{'Little' if less else 'Much'} {material.name.lower()}",
            f"{num(percent, '.2g')} % on flour; {num(guide.low_pct)} to {num(guide.high_pct)} % "
            "is usual. "
            + ("The dough will crack." if less else "The dough turns gummy and bakes slowly."),
            guide.standing,
            Action(f"Make it {g_text(wanted)}", with_grams(case.formula, Part.DOUGH, i, wanted)),
        )
    return None
