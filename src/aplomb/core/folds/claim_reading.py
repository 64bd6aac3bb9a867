"""Reading a claim of turns, folds or layers, in the words that bakers use."""

import math
import re
from itertools import pairwise, product
from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import TextError
from aplomb.core.base.figures import num

What = Literal["turns", "folds", "layers"]
Span = tuple[float, float]

MOST_NAMED = 8
"""Most turns that a claim may name [-]."""
MOST_DIGITS = 12
"""A number of more digits is beyond every answer already [-]."""
LARGEST = 10_000_000
ABOUT = 0.1
"""How far “about” reaches [-], our choice."""

_NUMBERS = {
    "a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7,
    "eight": 8, "nine": 9, "ten": 10, "eleven": 11, "twelve": 12, "thirteen": 13, "fourteen": 14,
    "fifteen": 15, "sixteen": 16, "seventeen": 17, "eighteen": 18, "nineteen": 19, "twenty": 20,
    "thirty": 30, "forty": 40, "fifty": 50, "sixty": 60, "seventy": 70, "eighty": 80, "ninety": 90,
}  # fmt: skip
_TIMES = {"hundred": 100, "thousand": 1000, "million": 1_000_000, "dozen": 12, "score": 20}
_TWICE_WORDS = {"once": "one", "twice": "two", "thrice": "three"}
_FOLDS: tuple[tuple[str, tuple[int, ...]], ...] = (
    (r"singles?|letters?|triples?|trifolds?|threefolds?|simples?|normals?", (3,)),
    (r"doubles?|books?|fourfolds?|quadruples?|quads?|wallets?|bookfolds?|tours?", (4,)),
    (r"halves|halfs?|half", (2,)),
    (r"quarters?", (4,)),
    (r"fivefolds?", (5,)),
    (r"sixfolds?", (6,)),
)
"""Words that name a fold, and its panels."""
_UNITS: tuple[tuple[str, What], ...] = (
    ("turn", "turns"), ("fold", "folds"), ("crease", "folds"), ("layer", "layers"),
    ("leaf", "layers"), ("leave", "layers"), ("sheet", "layers"), ("strata", "layers"),
)  # fmt: skip
_OVER = {"over", "more", "least", "above", "beyond", "exceeds", "plus", "minimum"}
_UNDER = {"under", "below", "fewer", "less", "most", "maximum"}
_ABOUT = {
    "about",
    "around",
    "nearly",
    "almost",
    "some",
    "roughly",
    "approximately",
    "circa",
    "approx",
    "ca",
}
_SEVERAL: dict[str, Span] = {
    "hundreds": (200, 999), "thousands": (2000, 9999), "dozens": (24, 199), "scores": (40, 199),
    "millions": (2_000_000, LARGEST),
}  # fmt: skip


class Claim(Struct, frozen=True):
    """A claim that was understood.

    Attributes
    ----------
    spans : tuple of (least, most)
        What it may be [-]: any of them will do, as in “five or six”.
    panels : tuple of tuple of int
        Of folds that were named, as in two singles and two doubles: any of these will do.
    said : str
        How it was understood, in words.
    """

    what: What
    spans: tuple[Span, ...]
    panels: tuple[tuple[int, ...], ...] = ()
    said: str = ""

    def holds(self, number: float) -> bool:
        """Tell whether a number is what is claimed."""
        return any(low - 1e-9 <= number <= high + 1e-9 for low, high in self.spans)

    @property
    def nearest_to(self) -> float:
        """What the claim comes nearest to, for ordering answers [-]."""
        low, high = self.spans[0] if self.spans else (0.0, 0.0)
        return low if math.isinf(high) else (low + high) / 2


def read_claim(text: str) -> Claim:
    """Read a claim as people make it.

    Without a word of turns, folds or layers, layers are meant; of numbers up to twelve turns.

    Parameters
    ----------
    text : str
        ``six turns``, ``729 layers``, ``five or six``, ``over a hundred layers``, ``1,000``,
        ``two triple and two book folds``, ``three double book turns``, ``six half turns``.

    Raises
    ------
    TextError
        Without a number, for one below 1 or beyond ten million, or for more than eight named folds.

    Examples
    --------
    >>> read_claim('two double and two single turns').panels
    ((4, 4, 3, 3),)
    """
    words = _words(text)
    panels = _named(words, text)
    if panels:
        each = " or ".join(" ".join(str(n) for n in one) for one in panels)
        spans = tuple((float(len(each)), float(len(each))) for each in panels)
        return Claim("turns", spans, panels, f"the folds {each}")
    numbers, several, joined = _numbers(words)
    if not numbers and not several:
        raise TextError("enter a number, e.g. six turns or 729 layers", text, 0, len(text))
    if any(not 1 <= n <= LARGEST for n in numbers):
        raise TextError(f"use a number from 1 to {LARGEST}", text, 0, len(text))
    what: What | None = next(
        (meant for word in words for start, meant in _UNITS if word.startswith(start)), None
    )
    if what is None:
        what = "turns" if numbers and max(numbers) <= 12 and not several else "layers"
    there = set(words)
    said, spans = _spans(numbers, several, joined, there, plus="+" in text)
    return Claim(what, spans, (), f"{said} {what}")


def _spans(
    numbers: list[int], several: Span | None, joined: str, there: set[str], *, plus: bool
) -> tuple[str, tuple[Span, ...]]:
    """Say what is claimed, and between which numbers it holds."""
    if several is not None:
        return f"{num(several[0])} to {num(several[1])}", (several,)
    if len(numbers) == 2 and joined in ("to", "and", "-") and numbers[0] < numbers[1]:
        return f"{numbers[0]} to {numbers[1]}", ((numbers[0], numbers[1]),)
    if len(numbers) > 1:
        return " or ".join(str(n) for n in numbers), tuple((float(n), float(n)) for n in numbers)
    number = numbers[0]
    at_least = "least" in there or "minimum" in there or plus
    if (there & _OVER or plus) and not {"no", "not"} & there:
        return ("at least " if at_least else "over ") + str(number), (
            (float(number) if at_least else number + 1.0, math.inf),
        )
    if there & _UNDER or {"up", "to"} <= there or ("no" in there and "more" in there):
        at_most = not there & {"under", "below", "fewer", "less"}
        return ("at most " if at_most else "under ") + str(number), (
            (1.0, float(number) if at_most else number - 1.0),
        )
    if there & _ABOUT:
        return f"about {number}", ((number * (1 - ABOUT), number * (1 + ABOUT)),)
    return f"exactly {number}", ((float(number), float(number)),)


_SPACES = " \u00a0\u2009\u202f"
_WORD = re.compile(rf"\d{{1,3}}(?:[{_SPACES}.,']\d{{3}})+(?!\d)|\d+|[^\W\d_]+|[-–—&×]")


def _words(text: str) -> list[str]:
    """Words in lower case; “book-fold”, “three fold” and the like made one word, numbers whole."""
    text = text.casefold()
    names = "tri|book|wallet|letter|single|double|half|quarter"
    text = re.sub(rf"\b({names})[- ]?(fold|turn)", r"\1 \2", text)
    text = re.sub(r"\b(three|four|five|six)[-](fold)(s?)\b", r"\1\2\3", text)
    text = text.replace("tri fold", "trifold")
    return _WORD.findall(text)


class _Spoken:
    """One number while its words are read: two hundred and forty-three."""

    def __init__(self) -> None:
        self.whole, self.part, self.last = 0, 0, ""

    @property
    def value(self) -> int:
        return self.whole + self.part

    def takes(self, word: str) -> bool:
        """Take a word into the number, when it can go on with it."""
        if word[0].isdecimal():
            if self.last:
                return False
            self.part = int(re.sub(r"\D", "", word)[:MOST_DIGITS])
            self.last = "digits"
        elif word in _TIMES:
            times = _TIMES[word]
            if times >= 1000:
                self.whole, self.part = self.whole + max(self.part, 1) * times, 0
            else:
                self.part = max(self.part, 1) * times
            self.last = "times"
        elif word in ("and", "-", "–") and self.last in ("times", "tens", "and"):
            self.last = "and" if self.last == "times" else self.last
        elif word in _NUMBERS:
            value = _NUMBERS[word]
            tens = value >= 20 and value % 10 == 0
            fits = (
                not self.last
                or (self.last in ("times", "and") and word not in ("a", "an"))
                or (self.last == "tens" and value < 10)
            )
            if not fits:
                return False
            self.part += value
            self.last = "tens" if tens else "units"
        else:
            return False
        return True


def _numbers(words: list[str]) -> tuple[list[int], Span | None, str]:
    """Numbers in digits and words, each by itself, and what stands between two of them."""
    several = next((_SEVERAL[word] for word in words if word in _SEVERAL), None)
    if several is not None:
        return [], several, ""
    found: list[int] = []
    joined, since = "", ""
    spoken = _Spoken()
    for word in [*words, ""]:
        if word and spoken.takes(_TWICE_WORDS.get(word, word)):
            if not spoken.value and spoken.last != "digits":
                spoken = _Spoken()
            continue
        if spoken.last:
            joined = since if found else ""
            found.append(spoken.value)
            spoken, since = _Spoken(), ""
            if word and spoken.takes(word):
                continue
        if word in ("or", "to", "and", "-", "–", "—"):
            since = "-" if word in "-–—" else word
    return found[:6], None, joined


def _panels_of(word: str) -> tuple[int, ...]:
    return next((panels for pattern, panels in _FOLDS if re.fullmatch(pattern, word)), ())


def _named(words: list[str], text: str) -> tuple[tuple[int, ...], ...]:
    """Read folds that are named, or a plan in figures; every way they can be meant."""
    if len(words) > 1 and all(re.fullmatch(r"[2-6]", word) for word in words):
        return (tuple(int(word) for word in words),)
    found: list[tuple[tuple[int, ...], tuple[int, ...]]] = []  # counts and panels it may be
    many: tuple[int, ...] = ()
    named = either = times = False
    for word, after in pairwise([*words, ""]):
        panels = _panels_of(word)
        number = int(word[:3]) if word.isdecimal() else _NUMBERS.get(_TWICE_WORDS.get(word, word))
        if panels and named and not many and panels == found[-1][1]:
            continue  # “double book”, “single letter”: one fold by two names
        if panels:
            if panels == (2,) and after.startswith("turn"):
                panels = (2, 3)  # some call a single a half turn
            found.append((many or (1,), panels))
            many, named = (), True
        elif number is not None and found and (times or word in _TWICE_WORDS) and not many:
            found[-1] = ((number,), found[-1][1])  # “letter fold twice”, “single × 6”
        elif number is not None and not (word in ("a", "an") and many):
            many = (*many, number) if either else (number,)
        named = bool(panels) or (named and word in ("fold", "turn", "style"))
        either = word in ("or", "to", "-", "–") and bool(many)
        times = word in ("x", "×", "times")
    if not found:
        return ()
    if sum(max(counts) for counts, _ in found) > MOST_NAMED:
        raise TextError(f"name up to {MOST_NAMED} turns", text, 0, len(text))
    ways = product(*[[(count, n) for count in counts for n in panels] for counts, panels in found])
    return tuple(dict.fromkeys(tuple(n for count, n in way for _ in range(count)) for way in ways))
