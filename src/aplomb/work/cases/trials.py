"""The cases ``learn``, ``compare`` and ``triangle``: what trials say."""

from typing import Literal

from msgspec import Struct

from aplomb.core.trials.comparing import Compared, Verdict, compare
from aplomb.core.trials.learning import Interval, PlainTrial, check_trials, learn, predict
from aplomb.core.trials.tasting import Tasted, triangle


class TrialCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``trials[]``: what was done, and what came of it; null for what was not measured."""

    fat_leaf_um: float
    chill_min: float
    bake_c: float
    baker: str = ""
    lift: float | None = None


class LearnCase(Struct, frozen=True, forbid_unknown_fields=True):
    """An outcome from trials."""

    trials: tuple[TrialCase, ...]
    ask: tuple[PlainTrial, ...]
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
    known = [
        (PlainTrial(t.fat_leaf_um, t.chill_min, t.bake_c, t.baker), t.lift) for t in case.trials
    ]
    check_trials(known, case.ask, case.level)
    learned = learn(known)
    return LearnResult(predict(learned, case.ask, case.level), learned.n, learned.scatter)


def learn_words(case: LearnCase, found: LearnResult) -> str:
    """Say what was learned in plain words."""
    percent = f"{100 * case.level:g} of 100"
    lines = [
        f"leaf {t.fat_leaf_um:g} µm, chill {t.chill_min:g} min, {t.bake_c:g} °C: {case.outcome} "
        f"{a.mean:.2f}, in {percent} single trials {a.low:.2f} to {a.high:.2f}"
        for t, a in zip(case.ask, found.answers, strict=True)
    ]
    return "\n".join([*lines, f"from {found.n} trials; alike ones scatter by {found.scatter:.2f}"])


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
        "" if found.low is None else f", in 95 of 100 cases {found.low:.3g} to {found.high:.3g}"
    )
    said = {"different": "they differ", "alike": "they are alike",
            "not_enough": "not enough to say"}[found.verdict]  # fmt: skip
    more = f"; about {found.more} pairs more would tell" if found.more else ""
    return f"second less first {found.difference:+.3g}{between}: {said}{more}"


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
        return f"{case.tasters} tasters are too few for any answer at this level"
    told = "a difference is tasted" if case.right >= least else "no difference is shown"
    return (
        f"{case.right} of {case.tasters} right: {told}; at least {least} are needed. By guessing "
        f"so many or more come {100 * found.chance:.2g} times in 100"
    )
