"""Numbers as people write them: fractions, words, spaces between thousands."""

import re
from functools import cache

from msgspec import Struct

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import DecimalSign, num
from aplomb.core.base.spoken import NUMBER_WORDS, PARTS
from aplomb.core.base.units import SYSTEM_WORDS

VULGAR = {
    "½": (1, 2), "⅓": (1, 3), "⅔": (2, 3), "¼": (1, 4), "¾": (3, 4), "⅕": (1, 5), "⅖": (2, 5),
    "⅗": (3, 5), "⅘": (4, 5), "⅙": (1, 6), "⅚": (5, 6), "⅛": (1, 8), "⅜": (3, 8), "⅝": (5, 8),
    "⅞": (7, 8),
}  # fmt: skip


_SPACE = "[ \u00a0\u2009\u202f]"


_FRACTION_TEXT = rf"(?P<num>\d+){_SPACE}*[/⁄]{_SPACE}*(?P<den>\d+)"


MEASURED: dict[str, tuple[float, float]] = {
    "scant": (0.85, 1.0), "scanty": (0.85, 1.0), "bare": (0.9, 1.0),
    "good": (1.0, 1.25), "generous": (1.0, 1.25), "full": (1.0, 1.1),
    "rounded": (1.2, 1.7), "heaped": (1.3, 2.0), "heaping": (1.3, 2.0), "level": (1.0, 1.0),
    "levelled": (1.0, 1.0), "leveled": (1.0, 1.0), "flat": (1.0, 1.0), "packed": (1.0, 1.0),
    "whole": (1.0, 1.0),
}  # fmt: skip
"""How a cup or spoon is filled: between so many and so many level ones [-], recalled."""


class Patterns(Struct, frozen=True):
    """What numbers and the words beside them look like."""

    number: re.Pattern[str]
    fraction: re.Pattern[str]
    unit: re.Pattern[str]
    between: re.Pattern[str]
    to: re.Pattern[str]
    times: re.Pattern[str]
    mixed: re.Pattern[str]
    size: re.Pattern[str]
    base: re.Pattern[str]
    either_end: re.Pattern[str]
    less: re.Pattern[str]
    ambiguous: re.Pattern[str]
    about: re.Pattern[str]
    bracket: re.Pattern[str]
    either: re.Pattern[str]


@cache
def number_patterns() -> Patterns:
    """What amounts are made of; compiled when first wanted."""
    whole = rf"\d{{1,3}}(?:{_SPACE}\d{{3}})+(?:[.,]\d+)?(?!\d)|\d[\d.,]*|[.,]\d+"
    vulgar = f"[{''.join(VULGAR)}]"
    hyphen = rf"(?:{_SPACE}*|[-‐–](?=\d+[/⁄]))"
    number = rf"(?P<whole>{whole})?(?:{hyphen}(?:{_FRACTION_TEXT}|(?P<vulgar>{vulgar})))?"
    systems = "|".join(re.escape(word) for word in SYSTEM_WORDS)
    names = "|".join(sorted(NUMBER_WORDS, key=len, reverse=True))
    parts = "|".join(sorted(PARTS, key=len, reverse=True))

    ahead = r"(?=[\d.,½⅓⅔¼¾⅕⅖⅗⅘⅙⅚⅛⅜⅝⅞]|(?:" + names + "|" + parts + r")\b)"
    return Patterns(
        re.compile(number),
        re.compile(_FRACTION_TEXT),
        re.compile(
            rf"(?:(?P<system>{systems})\.?\s+)?"
            r"(?P<unit>fl\.?\s*oz\.?|fluid\s+(?:oz\.?|ounces?)|(?:table|tea|dessert)\s+spoons?(?:ful)?|c(?:uil(?:l(?:[èe]res?)?)?)?\.?\s*[àa]\.?\s*(?:soupe|caf[ée]|th[ée]|[sc]\b)"
            r'\.?|colher(?:es)?\s+de\s+(?:sopa|chá)|[^\W\d_]+\.?|["″%])',
            re.IGNORECASE,
        ),
        re.compile(r"[\s+&]*(?:(?:and|plus)\b\s*)?", re.IGNORECASE),
        re.compile(
            rf"\s*(?:[-–—−]|to\b|till\b|or\b|(?:à|bis|a|ou|oder)(?=\s*\d)){_SPACE}*{ahead}",
            re.IGNORECASE,
        ),
        re.compile(r"\s*[x×*]\s*(?=\d)", re.IGNORECASE),
        re.compile(
            rf"\s*(?:and\b|&)\s*(?:{_FRACTION_TEXT}(?!\d)|(?P<vulgar>{vulgar}))", re.IGNORECASE
        ),
        re.compile(rf"\s*\b(?P<how>{'|'.join(MEASURED)})\b[\s-]*", re.IGNORECASE),
        re.compile(
            r"\s*(?:of|on)\s+(?:the\s+|its\s+)?(?P<base>flour|dough|paste|pastry|butter|fat|block|total"
            r"|whole|mix|weight)\b(?:\s+weight\b)?",
            re.IGNORECASE,
        ),
        re.compile(r"\s*(?:between|from)\b\s*", re.IGNORECASE),
        re.compile(rf"\s*(?:minus\b|less\b|[-–—−]){_SPACE}*{ahead}", re.IGNORECASE),
        re.compile(r"(?<![\d.,])[1-9]\d{0,2}(?P<sign>[.,])\d{3}(?![\d.,])"),
        re.compile(
            r"\s*(?:(?:about|approx\.?|approximately|ca\.?|c\.?(?=\s*\d)|circa|roughly|around|some|nearly|almost"
            r"|an? (?:good|scant|generous|full)(?=\s+\d)|say|just (?:under|over)"
            r"|a little (?:under|over)|at least|at most|up to)(?=[\s\d])|[~≈])\s*",
            re.IGNORECASE,
        ),
        re.compile(r"(?P<first>.+?)\s*[(\[]\s*(?P<second>[^()\[\]]+?)\s*[)\]]\s*"),
        re.compile(
            r"(?P<first>.*?[^\W\d_%][.]?|.*?%)\s*(?:/|=|\bor\b)\s*(?P<second>.+)", re.IGNORECASE
        ),
    )


LONGEST_NUMBER = 400
"""Digits of a number at the most [-]: the smallest that a computer keeps is written with 340."""


def read_number(text: str, decimal: DecimalSign = ".") -> float:
    """Read a plain decimal number with grouping, as typed in one locale.

    Parameters
    ----------
    text : str
        Digits with points, commas and thin or plain spaces.
    decimal : {'.', ','}
        The locale's decimal sign. It decides only what is ambiguous: ``1,250`` and ``1.250``.

    Raises
    ------
    AmountError
        When it is no number without a sign, or points and commas stand in an order no locale
        writes.

    Examples
    --------
    >>> read_number('1 250,5', ',')
    1250.5
    """
    if len(text) > LONGEST_NUMBER:
        raise AmountError(
            f"a number has at most {LONGEST_NUMBER} digits", text, LONGEST_NUMBER, len(text)
        )
    bare = re.sub(_SPACE, "", text)
    if not re.fullmatch(r"[\d.,]*\d[\d.,]*", bare):
        raise AmountError("enter a number", text, 0, max(1, len(text)))
    points, commas = bare.count("."), bare.count(",")
    if points and commas:
        sign = max(bare, key=lambda ch: bare.rfind(ch) if ch in ".," else -1)
        group = "," if sign == "." else "."
        whole, _, rest = bare.rpartition(sign)
        if sign in whole or not _grouped(whole, group):
            raise AmountError(
                f"points and commas are mixed; write it like {num(1250.5)}", text, 0, len(text)
            )
        return float(whole.replace(group, "") + "." + rest)
    sign = "." if points else ","
    count = points + commas
    if count == 0:
        return float(bare)
    if count > 1 or (sign != decimal and re.fullmatch(r"[1-9]\d{0,2}[.,]\d{3}", bare)):
        if not _grouped(bare, sign):
            raise AmountError("this number has two decimal points or commas", text, 0, len(text))
        return float(bare.replace(sign, ""))
    return float("0" + bare.replace(sign, ".") + "0")


def _grouped(digits: str, group: str) -> bool:
    return re.fullmatch(rf"\d{{1,3}}(?:{re.escape(group)}\d{{3}})*", digits) is not None
