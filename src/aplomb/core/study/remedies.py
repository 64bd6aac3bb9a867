"""What the second opinion proposes, tried before it is offered."""

from aplomb.core.base.errors import AplombError
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.formula import check
from aplomb.core.study.study import Reference, Study, make_study


def cures(study: Study, opinion: Opinion, reference: Reference) -> bool:
    """Tell whether what an opinion proposes cures it and raises nothing as bad.

    Parameters
    ----------
    study : Study
        In which the opinion is held.
    opinion : Opinion
    reference : Reference
        The study leans on.

    Returns
    -------
    bool
        True when the formula that is proposed can be used and worked out, the rule falls silent
        on it, and no rule speaks that did not before, unless what was cured was wrong and the new
        is only worth a look.
    """
    if opinion.action is None:
        return False
    try:
        after = make_study(check(opinion.action.formula, reference.pantry), reference)
    except AplombError:
        return False
    if after.fold_trouble and not study.fold_trouble:
        return False
    before = {each.key: each.mark for each in study.opinions}
    if any(each.key == opinion.key for each in after.opinions):
        return False
    worse = [
        each
        for each in after.opinions
        if (each.mark == "wrong" and before.get(each.key) != "wrong")
        or (opinion.mark == "look" and each.key not in before)
    ]
    return not worse


def remedies(study: Study, reference: Reference) -> dict[str, Action]:
    """Give what can be offered: of each opinion that is shown, a remedy that was tried.

    Parameters
    ----------
    study : Study
    reference : Reference

    Returns
    -------
    dict of Action, by the opinion's key
    """
    return {
        opinion.key: opinion.action
        for opinion in study.shown_opinions
        if opinion.action is not None and cures(study, opinion, reference)
    }
