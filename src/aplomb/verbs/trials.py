"""The cases ``learn``, ``compare`` and ``triangle``: what trials say."""

from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import Problems
from aplomb.core.trials.comparing import Compared, Verdict, compare
from aplomb.core.trials.model import MOST_LEARNED, MOST_WORDS, Interval, Row, model_of_rows
from aplomb.core.trials.tasting import Tasted, triangle
from aplomb.core.trials.trial import LEAST_LIFT, MOST_LIFT, Made

MOST_ASKED = 10_000


class AskCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``ask[]``: what would be done.

    Attributes
    ----------
    chill_min : float
        Last rest [min].
    bake_c : float
        Oven, without a fan [°C].
    """

    fat_leaf_um: float
    chill_min: float
    bake_c: float
    baker: str = ""

    def made(self) -> Made:
        """Give it as trials of the book say it."""
        return Made(
            fat_leaf_um=self.fat_leaf_um,
            chill_min=self.chill_min,
            bake_c=self.bake_c,
            baker=self.baker,
        )


class TrialCase(AskCase, frozen=True, forbid_unknown_fields=True):
    """``trials[]``: what was done, and what came of it; null for what was not measured."""

    lift: float | None = None


class LearnCase(Struct, frozen=True, forbid_unknown_fields=True):
    """An outcome from trials."""

    trials: tuple[TrialCase, ...]
    ask: tuple[AskCase, ...]
    outcome: Literal["lift"] = "lift"
    level: float = 0.95


class LearnResult(Struct, frozen=True):
    """What a new single trial would come to, and what it was learned from.

    Attributes
    ----------
    n : int
        Trials with an outcome [-].
    scatter : float
        Likely scatter of trials that are alike.
    """

    answers: tuple[Interval, ...]
    n: int
    scatter: float


def learn_case(case: LearnCase) -> LearnResult:
    """Work the case out.

    Raises
    ------
    AplombError
        Naming every field that cannot be used.
    """
    _check(case)
    model = model_of_rows(
        tuple(
            Row(str(i), t.made(), t.lift) for i, t in enumerate(case.trials) if t.lift is not None
        ),
        case.outcome,
    )
    answers = model.predict([each.made() for each in case.ask], case.level)
    return LearnResult(answers, model.n, model.belief.scatter)


def _check(case: LearnCase) -> None:
    """Refuse what cannot be learned from, every field of it named."""
    wrong = Problems()
    for words, many, most in (
        ("trials", len(case.trials), MOST_LEARNED),
        ("ask", len(case.ask), MOST_ASKED),
    ):
        if many > most:
            wrong.add(f"{words}: {many} are too many; up to {most} fit.")
    if not 0 < case.level < 1:
        wrong.add(f"level: {case.level} cannot be used; use a number between 0 and 1, e.g. 0.95.")
    rows = [(f"trials[{i}]", t) for i, t in enumerate(case.trials[:MOST_LEARNED])]
    for place, each in [*rows, *((f"ask[{i}]", t) for i, t in enumerate(case.ask[:MOST_ASKED]))]:
        wrong.number(f"{place}.fat_leaf_um", each.fat_leaf_um, 0.1, 5000, "µm")
        wrong.number(f"{place}.chill_min", each.chill_min, 0, 20_000, "min")
        wrong.number(f"{place}.bake_c", each.bake_c, 30, 350, "°C")
    for place, trial in rows:
        if trial.lift is not None:
            wrong.number(f"{place}.lift", trial.lift, LEAST_LIFT, MOST_LIFT, "")
    if len({t.baker for t in case.trials}) > MOST_WORDS:
        wrong.add(f"trials: too many bakers; use up to {MOST_WORDS}.")
    wrong.check()


def learn_words(case: LearnCase, found: LearnResult) -> str:
    """Say what was learned in plain words."""
    percent = f"{100 * case.level:g} of 100"
    lines = [
        (
            f"fat leaf {t.fat_leaf_um:g} µm, chill {t.chill_min:g} min, {t.bake_c:g} °C: "
            f"{case.outcome} {a.mean:.2f}; {percent} single trials give {a.low:.2f} to "
            f"{a.high:.2f}"
        )
        for t, a in zip(case.ask, found.answers, strict=True)
    ]
    return "\n".join(
        [*lines, f"from {found.n} trials; trials made alike differ by {found.scatter:.2f}"]
    )


class PairCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``pairs[]``: the two variants, made together."""

    first: float
    second: float


class CompareCase(Struct, frozen=True, forbid_unknown_fields=True):
    """Two variants in pairs."""

    matters: float
    pairs: tuple[PairCase, ...]
    outcome: str = ""


class CompareResult(Struct, frozen=True):
    """What pairs say; as `aplomb.core.trials.comparing.Compared`."""

    difference: float
    low: float | None
    high: float | None
    verdict: Verdict
    more: int | None


def compare_case(case: CompareCase) -> CompareResult:
    """Work the case out.

    Raises
    ------
    AplombError
        Naming every field that cannot be used.
    """
    found: Compared = compare([(p.first, p.second) for p in case.pairs], case.matters)
    return CompareResult(found.difference, found.low, found.high, found.verdict, found.more)


def compare_words(found: CompareResult) -> str:
    """Say what pairs say in plain words."""
    between = (
        "" if found.low is None else f", 95 % likely between {found.low:.3g} and {found.high:.3g}"
    )
    said = {
        "different": "they differ",
        "alike": "they are alike",
        "not_enough": "not enough to say",
    }[found.verdict]
    more = f"; about {found.more} more pairs would settle it" if found.more else ""
    return f"second minus first {found.difference:+.3g}{between}: {said}{more}"


class TriangleCase(Struct, frozen=True, forbid_unknown_fields=True):
    """A blind triangle test."""

    tasters: int
    right: int
    alpha: float = 0.05


class TriangleResult(Struct, frozen=True):
    """What a triangle test says; as `aplomb.core.trials.tasting.Tasted`."""

    least_right: int | None
    chance: float


def triangle_case(case: TriangleCase) -> TriangleResult:
    """Work the case out.

    Raises
    ------
    AplombError
        Naming every field that cannot be used.
    """
    found: Tasted = triangle(case.tasters, case.right, case.alpha)
    return TriangleResult(found.least_right, found.chance)


def triangle_words(case: TriangleCase, found: TriangleResult) -> str:
    """Say what a triangle test says in plain words."""
    least = found.least_right
    if least is None:
        return f"{case.tasters} tasters are too few to show a difference at this level"
    told = "a difference is tasted" if case.right >= least else "no difference is shown"
    return (
        f"{case.right} of {case.tasters} right: {told}; at least {least} are needed. "
        f"Guessing alone gives this many or more {100 * found.chance:.2g} times in 100"
    )
