"""The turn line: a plan of folds as one line of text, read."""

import re
from collections.abc import Callable
from functools import lru_cache
from typing import NoReturn

from msgspec.structs import replace

from aplomb.core.base.errors import TurnLineError
from aplomb.core.base.figures import num
from aplomb.core.folds.kinds import BY_LETTER
from aplomb.core.folds.plan import (
    LONGEST_REST_MIN,
    MOST_PANELS,
    MOST_STACKED,
    MOST_STEPS,
    MOST_TRIM_MM,
    REST_PLACES,
    THICKEST_MM,
    THINNEST_MM,
    Enclosure,
    Plan,
)
from aplomb.core.folds.step import Edges, Step, Way

_WORD = re.compile(
    r"(?:(?:dough|fat|shaped)(?=/))?/(?:[\d.,]*[-–][\d.,]+|[\d.,]*)(?:@\w*)?|[^\s/]+", re.IGNORECASE
)


_REST = re.compile(
    r"(?P<of>dough|fat|shaped)?/(?P<min>[\d.,]*)(?P<to>[-–](?P<most>[\d.,]*))?"
    r"(?P<at>@(?P<place>\w*))?$",
    re.IGNORECASE,
)


_EDGES: dict[str, Edges] = {"": "all", "f": "folded", "r": "rolled"}


_TRIM = re.compile(r"[tT](?P<mm>[\d.,]*)(?P<edges>[fFrR]?)$")


_LETTERS = "".join(letter + letter.upper() for letter in BY_LETTER)
_STEP = re.compile(
    rf"(?P<head>[+sS]?)(?P<count>\d+)?(?P<letter>[{_LETTERS}])?(?P<off>[oO])?"
    r"(?P<portion>:(?P<share>[\d.,]*)(?::(?:(?P<from>\d+)-)?(?P<on>\d*))?)?(?:@(?P<mm>[\d.,]*))?$"
)


_NUMBER = re.compile(r"\d+(?:[.,]\d+)?|[.,]\d+")


_STEP_HELP = "use 2 to 6, 4o, q, s4, +3, r, t10, /, /30 or /30-60@freezer here"


@lru_cache(maxsize=512)
def parse_plan(line: str) -> Plan:
    """Read a turn line.

    Parameters
    ----------
    line : str
        As ``envelope 3 4@8 / 3 4``.

    Raises
    ------
    TurnLineError
        With the place of the first word that cannot be used, and what could stand there.

    Examples
    --------
    >>> parse_plan('Envelope  3 4 / 3@8 4').line()
    'envelope 3 4 / 3@8 4'
    >>> parse_plan('thirds 4 4 4').product
    64
    """
    words = [(m.group(), m.start(), m.end()) for m in _WORD.finditer(line)]
    names = ", ".join(e.value for e in Enclosure)
    before: dict[str, Step] = {}
    while words and (of := _rest_of(words[0][0])) in ("dough", "fat"):
        if of in before:
            raise TurnLineError(f"{of}/ may come only once before enclosing", line, *words[0][1:])
        before[of] = _step(line, *words.pop(0))
    if not words:
        raise TurnLineError(f"a turn line starts with one of {names}", line, 0, len(line))
    head, start, end = words[0]
    try:
        enclosure = Enclosure(head.lower())
    except ValueError:
        raise TurnLineError(
            f"“{_short(head)}” is not a way of enclosing; use {names}", line, start, end
        ) from None
    if len(words) - 1 > MOST_STEPS:
        _, start, _ = words[MOST_STEPS + 1]
        raise TurnLineError(f"too many steps; use up to {MOST_STEPS}", line, start, len(line))
    shaped = None
    if len(words) > 1 and _rest_of(words[-1][0]) == "shaped":
        shaped = _step(line, *words.pop())
    for word, start, end in words[1:]:
        if of := _rest_of(word):
            raise TurnLineError(
                f"{of}/ must come last" if of == "shaped" else f"{of}/ must come before enclosing",
                line,
                start,
                end,
            )
    steps = tuple(_step(line, *word) for word in words[1:])
    return Plan(enclosure, steps, before.get("dough"), before.get("fat"), shaped)


def _rest_of(word: str) -> str:
    """Whose rest a word is: dough, fat or shaped; empty for any other word."""
    found = _REST.match(word)
    return (found["of"] or "").lower() if found else ""


def _short(word: str) -> str:
    return word if len(word) <= 24 else word[:23] + "…"


def _step(line: str, word: str, start: int, end: int) -> Step:
    def refuse(message: str) -> NoReturn:
        raise TurnLineError(message, line, start, end)

    def number(text: str, low: float, high: float, what: str) -> float:
        if _NUMBER.fullmatch(text) is None:
            refuse(f"{what} must be a number; {_STEP_HELP}")
        value = float(text.replace(",", "."))
        if not low <= value <= high:
            refuse(f"{what} must be from {num(low)} to {num(high)}")
        return value

    rest = _REST.match(word)
    if rest:
        return _rest_step(rest, number, refuse)
    trim = _TRIM.match(word)
    if trim:
        mm = number(trim["mm"], 0.5, MOST_TRIM_MM, "a trim in mm")
        return Step(Way.TRIM, trim_mm=mm, edges=_EDGES[trim["edges"].lower()])
    found = _STEP.match(word)
    if found is None or (found["letter"] and (found["head"] or found["count"] or found["off"])):
        refuse(f"“{_short(word)}” is not a step; {_STEP_HELP}")
    rolled = None
    if found["mm"] is not None:
        rolled = number(found["mm"], THINNEST_MM, THICKEST_MM, "a thickness in mm")
    letter, count = (found["letter"] or "").lower(), found["count"]
    head = found["head"].lower()
    if found["portion"] is not None and head != "+":
        refuse(f"only a portion (+3) has a share; {_STEP_HELP}")
    if letter:
        return replace(BY_LETTER[letter].step, rolled_mm=rolled)
    if not count:
        refuse(f"“{_short(word)}” is not a step; {_STEP_HELP}")
    most = MOST_STACKED if head == "s" else MOST_PANELS
    if len(count) > 3 or not 2 <= int(count) <= most:
        what = "a stack has 2 to 12 pieces" if head == "s" else "a fold has 2 to 6 panels"
        refuse(f"{what}; {_STEP_HELP}")
    panels = int(count)
    if found["off"] and (head or panels != 4):
        refuse(f"only a double (4o) can close off centre; {_STEP_HELP}")
    if head != "+":
        way = Way.STACK if head == "s" else Way.FOLD
        return Step(way, panels, rolled, off_centre=bool(found["off"]))
    share, on = None, None
    if found["share"]:
        share = number(found["share"], 1, 100, "a share of the fat in %")
    if found["on"]:
        on = int(number(found["on"], 1, panels, "the last panel to spread on"))
    begins = (
        int(number(found["from"], 1, on or panels, "the first panel to spread on"))
        if found["from"]
        else 1
    )
    if found["from"] and on is None:
        refuse(f"give the last of the panels too, e.g. 2-3; {_STEP_HELP}")
    covered = None if on is None else on - begins + 1
    return Step(Way.PORTION, panels, rolled, share_pct=share, covered=covered, begins=begins)


def _rest_step(
    found: re.Match[str],
    number: Callable[[str, float, float, str], float],
    refuse: Callable[[str], NoReturn],
) -> Step:
    least = most = None
    if found["min"]:
        least = number(found["min"], 0, LONGEST_REST_MIN, "a rest in minutes")
    if found["to"]:
        most = number(found["most"], least or 0, LONGEST_REST_MIN, "the longest rest")
    place = (found["place"] or "").lower()
    kind = place.rstrip("0123456789")
    if found["at"] and (kind not in REST_PLACES or place[len(kind) :] in ("0", "1")):
        refuse(f"“{_short(place)}” is not a place; use {', '.join(REST_PLACES)} or fridge2")
    return Step(Way.REST, rest_min=least, most_min=most, place=place)
