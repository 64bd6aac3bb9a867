"""What the second opinion proposes, tried before it is offered."""

from aplomb.core.base.errors import AplombError
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.checking import check
from aplomb.core.study.study import Reference, Study, make_study


def cures(study: Study, opinion: Opinion, reference: Reference) -> bool:
    """Tell whether what an opinion proposes cures it and raises nothing as bad.

    True when the formula that is proposed can be used and worked out, the rule falls silent
    on it, and no rule speaks that did not before, unless what was cured was wrong and the new
    is only worth a look. It is tried with the cut plan that stands where its own is not known:
    a search for each proposal takes longer than a key press may.

    Parameters
    ----------
    study : Study
        In which the opinion is held.
    reference : Reference
        The study leans on.
    """
    if opinion.action is None:
        return False
    try:
        tried = check(opinion.action.formula, reference.pantry)
        after = make_study(tried, reference, search=False, last=study.cut)
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


class Tried:
    """Remedies that were tried for one formula, so that none is tried twice.

    The opinions of the cold come later than the others, and trying is a study for each.
    """

    def __init__(self) -> None:
        self._for: tuple[object, object] = (None, None)
        self._found: dict[str, bool] = {}

    def remedies(self, study: Study, reference: Reference) -> dict[str, Action]:
        """Give what can be offered, as the function of that name."""
        if self._for[0] is not study.formula or self._for[1] is not reference:
            self._for, self._found = (study.formula, reference), {}
        for opinion in study.shown_opinions:
            if opinion.action is not None and opinion.key not in self._found:
                self._found[opinion.key] = cures(study, opinion, reference)
        return {
            opinion.key: opinion.action
            for opinion in study.shown_opinions
            if opinion.action is not None and self._found[opinion.key]
        }


def remedies(study: Study, reference: Reference) -> dict[str, Action]:
    """Give what can be offered: of each opinion that is shown, a remedy that was tried."""
    return Tried().remedies(study, reference)
