"""Numbers in words: two hundred and fifty, a half, three quarters, one and a half, half a dozen."""

import re
from typing import NamedTuple

ONES: dict[str, int] = {
    "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8,
    "nine": 9, "ten": 10, "eleven": 11, "twelve": 12, "thirteen": 13, "fourteen": 14,
    "fifteen": 15, "sixteen": 16, "seventeen": 17, "eighteen": 18, "nineteen": 19,
}  # fmt: skip
TENS: dict[str, int] = {
    "twenty": 20, "thirty": 30, "forty": 40, "fifty": 50, "sixty": 60, "seventy": 70,
    "eighty": 80, "ninety": 90,
}  # fmt: skip
PARTS: dict[str, float] = {
    "half": 2, "halves": 2, "third": 3, "thirds": 3, "quarter": 4, "quarters": 4, "fourth": 4,
    "fourths": 4, "fifth": 5, "fifths": 5, "eighth": 8, "eighths": 8, "sixteenth": 16,
    "sixteenths": 16,
}  # fmt: skip
ARTICLES = ("a", "an")
NUMBER_WORDS = (*ARTICLES, *ONES, *TENS, "hundred", "thousand", "dozen", "couple", "few")
"""Every word that a number in words can begin with, but those of parts."""

_WORD = re.compile(r"[^\W\d_]+")
_BETWEEN = re.compile(r"(?:\s+|\s*-\s*)")
_OF_IT = re.compile(r"\s+of\s+(?:an?|the)\b|\s+an?\b|\s+of\b", re.IGNORECASE)
_OF_A_COUNT = re.compile(r"\s+of\b", re.IGNORECASE)
_DOZEN = re.compile(r"\s*dozen\b", re.IGNORECASE)
_BIT = re.compile(
    rf"(?:(?P<many>an?|{'|'.join(ONES)}|\d{{1,2}})(?:\s+|-))?(?P<part>{'|'.join(PARTS)})\b",
    re.IGNORECASE,
)
VAGUE = {"couple": 2.0, "few": 3.0}
"""Numbers that are no number: what is taken for them [-], our choice."""


class Spoken(NamedTuple):
    """A number in words, the place behind it, and whether it was only a manner of speaking."""

    value: float
    end: int
    vague: bool = False


def spoken(text: str, at: int) -> Spoken | None:
    """Read a number in words at a place of a text; None where none stands.

    Examples
    --------
    >>> spoken("two hundred and fifty grams", 0).value, spoken("one and a half cups", 0).value
    (250.0, 1.5)
    >>> spoken("three quarters of a pound", 0), spoken("half a dozen", 0).value
    (Spoken(value=0.75, end=19, vague=False), 6.0)
    """
    whole = _whole(text, at)
    part = _BIT.match(text, at)
    if part is not None and (whole is None or part.end() > whole.end):
        value = _value(part)
        dozen = _DOZEN.match(text, _behind(text, part.end(), _OF_IT))
        if dozen is not None:
            return Spoken(value * 12, dozen.end())
        return Spoken(value, _behind(text, part.end(), _OF_IT))
    if whole is None:
        return None
    added, end = bit(text, whole.end)
    if added:
        return Spoken(whole.value + added, _behind(text, end, _OF_IT))
    return whole._replace(end=_behind(text, whole.end, _OF_A_COUNT))


def bit(text: str, at: int) -> tuple[float, int]:
    """Read “and a half” behind a number; 0 where none stands, with the place behind."""
    joined = re.compile(r"\s+(?:and|&)\s+", re.IGNORECASE).match(text, at)
    found = _BIT.match(text, joined.end()) if joined else None
    return (_value(found), found.end()) if found else (0.0, at)


def _behind(text: str, at: int, pattern: re.Pattern[str]) -> int:
    found = pattern.match(text, at)
    return found.end() if found else at


def _value(found: re.Match[str]) -> float:
    said = (found["many"] or "a").casefold()
    many = 1 if said in ARTICLES else ONES.get(said) or float(said)
    return many / PARTS[found["part"].casefold()]


def _whole(text: str, at: int) -> Spoken | None:
    """Read a whole number in words."""
    total = part = 0.0
    last, end, start = "", at, at
    while (word := _WORD.match(text, start)) is not None:
        said = word.group().casefold()
        if said in ARTICLES and not last:
            part, last = 1.0, "article"
        elif said in ONES and (
            last in ("", "times", "and") or (last == "tens" and ONES[said] < 10)
        ):
            part, last = part + ONES[said], "ones"
        elif said in TENS and last in ("", "times", "and"):
            part, last = part + TENS[said], "tens"
        elif said == "hundred" and last in ("", "article", "ones"):
            part, last = max(part, 1) * 100, "times"
        elif said == "thousand" and last in ("", "article", "ones", "tens", "times"):
            total, part, last = total + max(part, 1) * 1000, 0.0, "times"
        elif said == "dozen" and last in ("", "article", "ones"):
            return Spoken(max(part, 1) * 12, word.end())
        elif said in VAGUE and last in ("", "article"):
            return Spoken(VAGUE[said], _behind(text, word.end(), _OF_A_COUNT), vague=True)
        elif said == "and" and last == "times":
            last = "and"
        else:
            break
        if said != "and":
            end = word.end()
        between = _BETWEEN.match(text, word.end())
        if between is None:
            break
        start = between.end()
    return Spoken(total + part, end) if end > at else None
