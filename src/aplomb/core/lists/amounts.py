"""The amounts in one line of a list: where they stand, and what is left of the line."""

import re
from typing import NamedTuple

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import DecimalSign
from aplomb.core.base.quantity import Amount, parse_amount
from aplomb.core.base.units import Measures

MOST_TOKENS = 10
"""Words of one amount at the most [-]."""

_FIGURE = re.compile(r"\d|[½⅓⅔¼¾⅕⅖⅗⅘⅙⅚⅛⅜⅝⅞]")
_SPOKEN = re.compile(
    r"(?:an?|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|dozen|half|quarters?"
    r"|thirds?|between|about|approx\.?|circa|ca\.?|from)\b",
    re.IGNORECASE,
)
_GRADE = re.compile(
    r"(?<![\w.,])(?:(?:type|typ|tipo|no\.?|nr\.?|grade|t|w|strength)\s*[-.]?\s*(?:\d{2,4}\b|0{1,2}\b)"
    r"(?:\s*[/–-]\s*\d{2,4}\b)?(?!\s*(?:g|kg|ml|l|oz|lb|%)\b)|0?0(?=\s+\D*(?:flour|farina|mehl|farine)))",
    re.IGNORECASE,
)
"""Numbers that belong to a flour's name: type 55, T65, W 300, 00."""
_HANDLING = re.compile(
    r"\d+(?:[.,]\d+)?(?:\s*[-–x×]\s*\d+(?:[.,]\d+)?)?\s*(?:"
    r"(?:mm|cm|inch(?:es)?|in|\")[- ]*(?:cubes?|dice|pieces?|thick|slices?|chunks?|flakes?)"
    r"|°\s*[cf]?\b|degrees?\b|(?:min|minutes?|hours?|h|hrs?)\b)",
    re.IGNORECASE,
)
"""Numbers that say how a material is cut, how warm it is or how long it stands."""
OWN_SHARE = re.compile(
    r"(?:\d+(?:[.,]\d+)?\s*%\s*(?:butter|milk)?\s?(?:fat content|fat|m\.?g\.?|protein|acid(?:ity)?)"
    r"|(?:fat(?: content)?|protein|acid(?:ity)?)\s*(?:of\s*)?\d+(?:[.,]\d+)?\s*%)",
    re.IGNORECASE,
)
"""A percentage that is said to be the material's own."""
_MORE_FOR = re.compile(
    r"[,;]?\s*(?:\(\s*)?(?:plus|and|with|\+|&)?\s*(?:a\s+(?:little|bit|few)\s+)?"
    r"(?:(?:some|a little)\s+)?(?:more|extra)\b(?:\s+\w+)?\s+(?:for|to)\s+[^,;()]*\)?",
    re.IGNORECASE,
)
"""“plus more for dusting”: no amount, and not where the amount goes."""
_JUICE = re.compile(r"\b(juice|zest)\s+(?:of|from)\s+", re.IGNORECASE)


_TOKEN = re.compile(
    r"\([^()]*\)|\[[^\[\]]*\]|[;|]|(?<!\d),|,(?!\d)|(?:[^\s()\[\];|,]|(?<=\d),(?=\d))+|\S"
)
"""Words, brackets, and marks between cells; a comma within a number stays in it."""


class AmountsInLine(NamedTuple):
    """What a line says.

    Attributes
    ----------
    amounts : tuple of (text, Amount)
        Stated amounts, in their order.
    words : str
        What is left: the name.
    aside : tuple of str
        Words in brackets.
    handling : tuple of str
        What says nothing of what the material is: how it is cut, its grade, “plus more for …”.
    """

    amounts: tuple[tuple[str, Amount], ...]
    words: str
    aside: tuple[str, ...]
    handling: tuple[str, ...]


def amounts_in(line: str, decimal: DecimalSign, measures: Measures) -> AmountsInLine:
    """Find every amount of a line, wherever it stands.

    Never raises: what cannot be read is left among the words.

    Parameters
    ----------
    line : str
        Tidied, on one line.
    """
    aside: list[str] = []
    handling: list[str] = []

    def set_aside(found: re.Match[str]) -> str:
        said = found.group().strip(" ,;()")
        if said:
            handling.append(said)
        return " "

    for pattern in (_MORE_FOR, _HANDLING, OWN_SHARE, _GRADE):
        line = pattern.sub(set_aside, line)
    line = _JUICE.sub(r"\1 ", line)
    amounts: list[tuple[str, Amount]] = []
    words: list[str] = []
    tokens = _TOKEN.findall(line)
    at = 0
    while at < len(tokens):
        token = tokens[at]
        if token[0] in "([" and len(token) > 1:
            inner = token[1:-1].strip()
            stated = _read(inner, decimal, measures, first=True)
            if stated is not None and not stated.bare:
                amounts.append((inner, stated))
            elif inner:
                aside.append(inner)
            at += 1
            continue
        taken = _longest(
            tokens,
            at,
            decimal,
            measures,
            first=not words or words[-1].casefold() in ("juice", "zest"),
        )
        if taken is None:
            words.append(token)
            at += 1
        else:
            text, amount, at = taken
            amounts.append((text, amount))
    return AmountsInLine(tuple(amounts), _joined(words), tuple(aside), tuple(handling))


def _joined(words: list[str]) -> str:
    text = " ".join(words)
    text = re.sub(r"\s+([,;|])", r"\1", text)
    return re.sub(
        r"^(?:of|de|d’|d')\s+", "", text.strip(" ,;:|–—-/=+&"), flags=re.IGNORECASE
    ).strip(" ,;:")


def _longest(
    tokens: list[str], at: int, decimal: DecimalSign, measures: Measures, *, first: bool
) -> tuple[str, Amount, int] | None:
    """Read as many words from a place as make one amount."""
    for end in range(min(len(tokens), at + MOST_TOKENS), at, -1):
        if tokens[end - 1] in ",;|" or any(t in ";|" or t[0] in "([" for t in tokens[at:end]):
            continue
        text = " ".join(tokens[at:end])
        amount = _read(text.rstrip(":"), decimal, measures, first=first)
        if amount is not None:
            return text.rstrip(":"), amount, end
    return None


def _read(text: str, decimal: DecimalSign, measures: Measures, *, first: bool) -> Amount | None:
    """Read a text as an amount; a number in words without a unit only where a line begins."""
    spoken = _SPOKEN.match(text) is not None
    if not spoken and not _FIGURE.match(text) and text[:1] not in "~≈.":
        return None
    try:
        amount = parse_amount(text, decimal, measures)
    except AmountError:
        return None
    if (
        amount.bare
        and not _FIGURE.search(text)
        and (not first or re.match(r"an?\b", text, re.IGNORECASE))
    ):
        return None
    return amount
