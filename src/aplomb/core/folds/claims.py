"""What a claim like “six turns” or “729 layers” could mean: plans, and the convention of counting.

People count differently. By *turns* some mean those after enclosing, some count the enclosing as
the first, and some count every crease as a *fold*. By *layers* some mean the fold product, some
the leaves of fat, some those of dough, some all of them.
"""

import re
from itertools import combinations_with_replacement
from typing import Literal

from msgspec import Struct

from aplomb.core.errors import AplombError, TextError
from aplomb.core.folds.counts import Counts, count
from aplomb.core.folds.plan import Enclosure, Plan, Step, Way

What = Literal["turns", "folds", "layers"]
Relation = Literal["exactly", "over", "about"]

SHEETS = (Enclosure.ENVELOPE, Enclosure.THIRDS, Enclosure.HALVES, Enclosure.INVERSE)
MOST_TURNS = 8
PANELS = (3, 4, 2)
"""Singles, doubles and half folds: what plans in use are made of, common practice."""

MOST_DIGITS = 12
"""A number of more digits is beyond every answer already [-]."""
LARGEST = 10_000_000
MOST_MEANINGS = 14

_WORDS = {
    "a": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8,
    "nine": 9, "ten": 10, "eleven": 11, "twelve": 12, "twenty": 20, "fifty": 50,
}  # fmt: skip
_FOLDS = (("single", 3), ("letter", 3), ("double", 4), ("book", 4), ("half", 2), ("halves", 2))
"""Words that name a fold, and its panels."""

_UNITS: tuple[tuple[str, What], ...] = (
    ("turn", "turns"), ("fold", "folds"), ("layer", "layers"), ("leaf", "layers"),
    ("leave", "layers"), ("sheet", "layers"),
)  # fmt: skip


class Claim(Struct, frozen=True):
    """A claim that was understood: how many, of what, and how strictly."""

    number: int
    what: What
    relation: Relation
    panels: tuple[int, ...] = ()
    """Of the folds when they were named, as in two singles and two doubles."""


class Meaning(Struct, frozen=True):
    """One thing a claim could mean.

    Attributes
    ----------
    plan : Plan
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


def read_claim(text: str) -> Claim:
    """Read a claim as people make it.

    Parameters
    ----------
    text : str
        ``six turns``, ``729 layers``, ``nine folds``, ``over a hundred layers``, ``a thousand``.

    Returns
    -------
    Claim
        Without a word of turns, folds or layers, layers are meant.

    Raises
    ------
    TextError
        Without a number, for one below 1 or beyond ten million.
    """
    words = re.findall(r"\d[\d ,.\u2009\u202f]*|[a-z]+", text.casefold())
    panels = _named_folds(words)
    if panels:
        return Claim(len(panels), "turns", "exactly", panels)
    number: int | None = None
    for word in words:
        if word[0].isdigit():
            number = (number or 0) + int(re.sub(r"\D", "", word)[:MOST_DIGITS])
        elif word in ("hundred", "hundreds"):
            number = max(number or 1, 1) * 100
        elif word in ("thousand", "thousands"):
            number = max(number or 1, 1) * 1000
        elif word == "dozen":
            number = max(number or 1, 1) * 12
        elif word in _WORDS and (word != "a" or number is None):
            number = (number or 0) + _WORDS[word]
    if number is None:
        raise TextError("a number is wanted here, like six turns or 729 layers", text, 0, len(text))
    if not 1 <= number <= LARGEST:
        raise TextError(f"1 to {LARGEST} can be answered", text, 0, len(text))
    what: What = "layers"
    for beginning, meant in _UNITS:
        if any(word.startswith(beginning) for word in words):
            what = meant
            break
    relation: Relation = "exactly"
    if {"over", "more", "least", "above"} & set(words) or "+" in text:
        relation = "over"
    elif {"about", "around", "nearly", "almost", "hundreds", "thousands", "some"} & set(words):
        relation = "about"
    return Claim(number, what, relation)


def _named_folds(words: list[str]) -> tuple[int, ...]:
    found: list[int] = []
    number = 1
    for word in words:
        if word[0].isdigit():
            number = int(re.sub(r"\D", "", word)[:3])
        elif word in _WORDS:
            number = _WORDS[word]
        for beginning, panels in _FOLDS:
            if word.startswith(beginning):
                found += [panels] * min(number, MOST_TURNS + 1)
                number = 1
    if len(found) > MOST_TURNS:
        raise TextError(f"up to {MOST_TURNS} turns can be answered", " ".join(words), 0, 1)
    return tuple(found)


def _plans(turns: range) -> list[Plan]:
    found = []
    for number in turns:
        for panels in combinations_with_replacement(PANELS, number):
            if panels.count(2) == len(panels) > 3:
                continue
            for enclosure in SHEETS:
                found.append(Plan(enclosure, tuple(Step(Way.FOLD, n) for n in spread(panels))))
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
        "the fold product": c.product, "leaves of fat": c.fat, "leaves of dough": c.dough,
        "all leaves": c.leaves,
    }  # fmt: skip


def turn_conventions(plan: Plan) -> dict[str, int]:
    """Count a plan in every convention of turns and folds."""
    turns = len(plan.turns)
    return {
        "turns after enclosing": turns,
        "turns, the enclosing counted as the first": turns + 1,
        "creases, every one counted as a fold": plan.creases,
    }


def meanings(claim: Claim) -> tuple[Meaning, ...]:
    """Find the plans that a claim could mean, the plainest first.

    Parameters
    ----------
    claim : Claim

    Returns
    -------
    tuple of Meaning
        At most fourteen: fewer turns and fewer kinds of fold first; of several with the same
        counts one. Empty when no plan of up to eight turns does it.
    """
    if claim.panels:
        steps = tuple(Step(Way.FOLD, n) for n in spread(claim.panels))
        made = [Plan(enclosure, steps) for enclosure in SHEETS if enclosure is not Enclosure.HALVES]
        return tuple(
            Meaning(plan, len(claim.panels), "the folds as named", count(plan)) for plan in made
        )
    plans = _plans(range(1, MOST_TURNS + 1))
    if claim.what == "layers":
        return _of_layers(claim, plans)
    found = []
    for plan in plans:
        for convention, number in turn_conventions(plan).items():
            if claim.what == "turns" and convention.startswith("creases"):
                continue
            if _fits(claim, number):
                found.append(Meaning(plan, number, convention, count(plan)))
    return _plainest(claim, found)


def _of_layers(claim: Claim, plans: list[Plan]) -> tuple[Meaning, ...]:
    found = []
    for plan in plans:
        for convention, number in conventions(plan).items():
            if _fits(claim, number):
                found.append(Meaning(plan, number, convention, count(plan)))
    return _plainest(claim, found)


def _fits(claim: Claim, number: int) -> bool:
    if claim.relation == "over":
        return claim.number < number <= 1.5 * claim.number
    if claim.relation == "about":
        return abs(number - claim.number) <= 0.1 * claim.number
    return number == claim.number


def _plainest(claim: Claim, found: list[Meaning]) -> tuple[Meaning, ...]:
    def plainness(meaning: Meaning) -> tuple[int, int, int, int, int]:
        panels = [step.panels for step in meaning.plan.turns]
        off = abs(meaning.number - claim.number)
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
        raise AplombError(
            f"no plan of up to {MOST_TURNS} half folds, singles and doubles comes to "
            f"{claim.relation} {claim.number} {claim.what} in any way of counting"
        )
    return claim, found
