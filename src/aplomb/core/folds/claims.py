"""What a claim like “six turns” or “729 layers” could mean: plans, and the convention of counting.

People count differently. By *turns* some mean those after enclosing, some count the enclosing as
the first, and some count every crease as a *fold*. By *layers* some mean the fold product, some
the leaves of fat, some those of dough, some all of them.
"""

from collections.abc import Iterable, Mapping
from itertools import combinations_with_replacement
from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import num
from aplomb.core.folds.claim_reading import AFTER, ALL, DOUGH, FAT, INCLUDED, Claim, read_claim
from aplomb.core.folds.counts import Counts, count
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.step import Step, Way

SHEETS = (Enclosure.ENVELOPE, Enclosure.THIRDS, Enclosure.HALVES, Enclosure.INVERSE)
MOST_TURNS = 8
PANELS = (3, 4, 2)
"""Singles, doubles and half folds: what plans in use are made of, common practice."""
MOST_MEANINGS = 14
SEARCHED = 1.5
"""How far beyond a claim of “over so many” plans are looked for [-], our choice."""


class Meaning(Struct, frozen=True):
    """One thing a claim could mean.

    Attributes
    ----------
    number : int
        What it comes to by the convention.
    convention : str
        How it is counted then, in words.
    counts : Counts
        Of the plan.
    """

    plan: Plan
    number: int
    convention: str
    counts: Counts


def _plans(turns: range) -> list[Plan]:
    found = []
    for number in turns:
        for panels in combinations_with_replacement(PANELS, number):
            if panels.count(2) == len(panels) > 3:
                continue
            found += [
                Plan(enclosure, tuple(Step(Way.FOLD, n) for n in spread(panels)))
                for enclosure in SHEETS
            ]
    return found


def spread(panels: tuple[int, ...]) -> tuple[int, ...]:
    """Lay unlike folds between one another, as plans in use do: 3 3 4 4 becomes 3 4 3 4."""
    kinds = sorted(set(panels), key=lambda n: (-panels.count(n), n))
    left = {n: panels.count(n) for n in kinds}
    found: list[int] = []
    while len(found) < len(panels):
        for n in kinds:
            if left[n] and (not found or found[-1] != n or len([k for k in left if left[k]]) == 1):
                found.append(n)
                left[n] -= 1
    return tuple(found)


def conventions(plan: Plan) -> dict[str, int]:
    """Count a plan in every convention of layers.

    Raises
    ------
    AplombError
        For a plan whose leaves are not whole numbers.
    """
    c = count(plan)
    return {
        "the fold product": c.product,
        FAT: c.fat,
        DOUGH: c.dough,
        ALL: c.leaves,
    }


def turn_conventions(plan: Plan) -> dict[str, int]:
    """Count a plan in every convention of turns and folds."""
    turns = len(plan.turns)
    return {
        AFTER: turns,
        INCLUDED: turns + 1,
        "creases, each counted as a fold": plan.creases,
    }


def meanings(claim: Claim) -> tuple[Meaning, ...]:
    """Find the plans that a claim could mean, the plainest first.

    At most fourteen: fewer turns and fewer kinds of fold first; of several with the same
    counts one. Empty when no plan of up to eight turns does it.
    """
    if claim.panels:
        made = [
            Plan(enclosure, tuple(Step(Way.FOLD, n) for n in spread(panels)))
            for panels in claim.panels
            for enclosure in SHEETS
            if enclosure is not Enclosure.HALVES
        ]
        return tuple(
            Meaning(plan, len(plan.turns), "the folds as named", count(plan)) for plan in made
        )[:MOST_MEANINGS]
    plans = _plans(range(1, MOST_TURNS + 1))
    if claim.what == "layers":
        return _of_layers(claim, plans)
    found = []
    for plan in plans:
        for convention, number in turn_conventions(plan).items():
            if claim.what == "turns" and convention.startswith("creases"):
                continue
            if claim.convention in (INCLUDED, AFTER) and convention != claim.convention:
                continue
            if _fits(claim, number):
                found.append(Meaning(plan, number, convention, count(plan)))
    return _plainest(claim, found)


def _of_layers(claim: Claim, plans: list[Plan]) -> tuple[Meaning, ...]:
    found = []
    for plan in plans:
        for convention, number in conventions(plan).items():
            if claim.convention in (FAT, DOUGH, ALL) and convention != claim.convention:
                continue
            if _fits(claim, number):
                found.append(Meaning(plan, number, convention, count(plan)))
    return _plainest(claim, found)


def _fits(claim: Claim, number: int) -> bool:
    low = claim.spans[0][0]
    return claim.holds(number) and (
        len(claim.spans) > 1
        or number <= SEARCHED * max(low, 2)
        or claim.spans[0][1] < SEARCHED * low
    )


def _plainest(claim: Claim, found: list[Meaning]) -> tuple[Meaning, ...]:
    def plainness(meaning: Meaning) -> tuple[int, float, int, int, int]:
        panels = [step.panels for step in meaning.plan.turns]
        off = abs(meaning.number - claim.nearest_to)
        enclosure = SHEETS.index(meaning.plan.enclosure)
        return (len(set(panels)), off, len(panels), panels.count(2), enclosure)

    kept: list[Meaning] = []
    seen: set[tuple[object, ...]] = set()
    for meaning in sorted(found, key=plainness):
        panels = tuple(sorted(step.panels for step in meaning.plan.turns))
        like = meaning.plan.enclosure
        like = Enclosure.ENVELOPE if like is Enclosure.HALVES else like  # counted alike
        mark = (like, panels, meaning.convention)
        if mark not in seen:
            seen.add(mark)
            kept.append(meaning)
    return tuple(kept[:MOST_MEANINGS])


def answer(text: str) -> tuple[Claim, tuple[Meaning, ...]]:
    """Read a claim and find what it could mean.

    Parameters
    ----------
    text : str
        As typed.

    Raises
    ------
    TextError
        As `read_claim`.
    AplombError
        When no plan of up to eight turns fits.
    """
    claim = read_claim(text)
    found = meanings(claim)
    if not found:
        near = _nearest(claim)
        raise AplombError(
            f"no plan of up to {MOST_TURNS} half folds, singles and doubles gives "
            f"{claim.said}, however they are counted{near}"
        )
    return claim, found


def _nearest(claim: Claim) -> str:
    """Say what comes nearest to a claim that no plan fulfils."""
    if claim.what != "layers":
        return ""
    found = [
        (abs(number - claim.nearest_to), number, convention, plan)
        for plan in _plans(range(1, MOST_TURNS + 1))
        for convention, number in conventions(plan).items()
    ]
    _, number, convention, plan = min(found, key=lambda each: (each[0], len(each[3].steps)))
    return f"; the nearest is {plan.line()}, with {_said(convention, number)}"


class Verdict(Struct, frozen=True):
    """Whether a claim is true of a plan.

    Attributes
    ----------
    holds : {'yes', 'under', 'no'}
        In every way of counting, in some, or in none.
    words : str
        Said, with the conventions and the numbers.
    """

    holds: Literal["yes", "under", "no"]
    words: str


def verdict(claim: Claim, plan: Plan, leaves: tuple[float, float] | None = None) -> Verdict:
    """Judge a claim by the plan in hand.

    Parameters
    ----------
    leaves : tuple of (fat, dough), or None
        As worked out for the paste [-], expected means for paste in pieces or rolled up; None to
        count them.
    """
    if claim.panels:
        return _verdict_on_folds(claim, plan)
    if claim.what == "layers":
        try:
            counted = layers_counted(plan, leaves)
        except AplombError as error:
            return Verdict("no", f"No answer: {error}.")
    else:
        counted = {
            name: float(number)
            for name, number in turn_conventions(plan).items()
            if claim.what == "folds" or not name.startswith("creases")
        }
    if claim.convention in counted:
        counted = {claim.convention: counted[claim.convention]}
    means = plan.leaves_are_means and claim.what == "layers"
    right = [name for name, number in counted.items() if _holds_of(claim, number, means=means)]
    has = _listed(_said(name, number) for name, number in counted.items())
    mean = " (average to expect along a line)" if means else ""
    if right and claim.convention:
        return Verdict("yes", f"True: this plan has {has}{mean}.")
    if len(right) == len(counted):
        return Verdict("yes", f"True, whichever way you count: this plan has {has}{mean}.")
    if right:
        these = _listed(f"{name} ({_number(counted[name])})" for name in right)
        return Verdict("under", f"True counted as {these}; this plan has {has}{mean}.")
    return Verdict("no", f"Not true of this plan: it has {has}{mean}.")


MEAN_APART = 0.05
"""How far an expected mean may be from a number that is claimed exactly [-], our choice."""


def _holds_of(claim: Claim, number: float, *, means: bool) -> bool:
    if not means:
        return claim.holds(number)
    return any(
        low * (1 - MEAN_APART) <= number <= high * (1 + MEAN_APART) for low, high in claim.spans
    )


def layers_counted(plan: Plan, leaves: tuple[float, float] | None) -> Mapping[str, float]:
    """Count a plan in every convention of layers; raises as `conventions`.

    Parameters
    ----------
    leaves : tuple of (fat, dough), or None
        As worked out, where they are means [-].
    """
    if leaves is None:
        return {name: float(number) for name, number in conventions(plan).items()}
    fat, dough = leaves
    return {
        "the fold product": float(plan.product),
        FAT: fat,
        DOUGH: dough,
        ALL: fat + dough,
    }


def _said(convention: str, number: float) -> str:
    """Say a number with its convention, as “a fold product of 144”."""
    if convention == "the fold product":
        return f"a fold product of {_number(number)}"
    if convention.startswith("creases"):
        return f"{_number(number)} creases"
    return f"{_number(number)} {convention}"


def _number(value: float) -> str:
    return f"{value:.0f}" if value >= 10 or value == int(value) else num(value, ".1f")


def _listed(words: Iterable[str]) -> str:
    *first, last = words
    return f"{', '.join(first)} and {last}" if first else last


def _verdict_on_folds(claim: Claim, plan: Plan) -> Verdict:
    has = tuple(sorted(step.panels for step in plan.turns if step.way is not Way.ROLL))
    said = " ".join(str(step.panels) for step in plan.turns) or "no turns"
    if any(tuple(sorted(panels)) == has for panels in claim.panels):
        only = "" if len(claim.panels) == 1 else ", in one of its possible meanings"
        return Verdict("yes" if not only else "under", f"True{only}: this plan folds in {said}.")
    counted = turn_conventions(plan)[INCLUDED]
    for panels in claim.panels:
        if len(panels) == counted and plan.enclosure is Enclosure.THIRDS and 3 in panels:
            left = list(panels)
            left.remove(3)
            if tuple(sorted(left)) == has:
                return Verdict(
                    "under",
                    (
                        "True if enclosing in thirds counts as a single: after it, this plan "
                        f"folds in {said}."
                    ),
                )
    return Verdict("no", f"Not true of this plan: it folds in {said}.")
