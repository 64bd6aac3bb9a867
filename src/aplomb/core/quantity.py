"""Amounts as people write them, to grams and millimetres.

``250``, ``250 g``, ``2 1/4 cup``, ``2½ tsp``, ``8 oz``, ``1 lb 2 oz``, ``0,5 kg``, ``62 %``,
``250+30``, ``2–3 tbsp``, ``2 x 250 g``, ``1 cup (120 g)``, ``225 g / 8 oz``.
A volume becomes a mass only with the density of a named material.
"""

import re
from functools import cache
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.errors import AmountError
from aplomb.core.units import SYSTEM_WORDS, UNITS, Kind, Measures, Unit

DecimalSign = Literal[".", ","]

LARGEST_G = 100_000_000.0
"""Largest amount taken [g]: a hundred tonnes. More is a slip of the hand."""

LONGEST_AMOUNT = 300
"""Longest text that is read as an amount [signs]."""
LARGEST_MM = 100_000.0
"""Largest length taken [mm]: a hundred metres."""


class Amount(Struct, frozen=True):
    """An amount that was understood.

    Attributes
    ----------
    kind : Kind
        MASS: `value` in g. VOLUME: in mL. LENGTH: in mm. PERCENT: in percent.
    value : float
    said : str
        What was understood, in plain words, as ``2.25 US cup``.
    bare : bool
        True when no unit was typed, so the field's own unit was taken.
    low, high : float
        Ends of a range as typed, in the unit of `value`; both 0 when it was no range. `value` is
        the middle.
    also : Amount or None
        The same amount stated a second time, as in ``1 cup (120 g)``.
    """

    kind: Kind
    value: float
    said: str
    bare: bool = False
    low: float = 0.0
    high: float = 0.0
    also: "Amount | None" = None

    @property
    def spread(self) -> float:
        """Half of a typed range over its middle [-]; 0 without a range."""
        return (self.high - self.low) / 2 / self.value if self.value > 0 else 0.0


_VULGAR = {
    "½": (1, 2), "⅓": (1, 3), "⅔": (2, 3), "¼": (1, 4), "¾": (3, 4), "⅕": (1, 5), "⅖": (2, 5),
    "⅗": (3, 5), "⅘": (4, 5), "⅙": (1, 6), "⅚": (5, 6), "⅛": (1, 8), "⅜": (3, 8), "⅝": (5, 8),
    "⅞": (7, 8),
}  # fmt: skip

_SPACE = "[ \u00a0\u2009\u202f]"
_FRACTION_TEXT = rf"(?P<num>\d+){_SPACE}*[/⁄]{_SPACE}*(?P<den>\d+)"
_WORDS = {
    "a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7,
    "eight": 8, "nine": 9, "ten": 10, "twelve": 12, "half": 0.5,
}  # fmt: skip


class _Patterns(Struct, frozen=True):
    number: re.Pattern[str]
    fraction: re.Pattern[str]
    unit: re.Pattern[str]
    between: re.Pattern[str]
    to: re.Pattern[str]
    times: re.Pattern[str]
    word: re.Pattern[str]
    about: re.Pattern[str]
    bracket: re.Pattern[str]
    either: re.Pattern[str]


@cache
def _patterns() -> _Patterns:
    """What amounts are made of; compiled when first wanted."""
    whole = rf"\d{{1,3}}(?:{_SPACE}\d{{3}})+(?:[.,]\d+)?(?!\d)|\d[\d.,]*|[.,]\d+"
    vulgar = f"[{''.join(_VULGAR)}]"
    hyphen = rf"(?:{_SPACE}*|-(?=\d+[/⁄]))"
    number = rf"(?P<whole>{whole})?(?:{hyphen}(?:{_FRACTION_TEXT}|(?P<vulgar>{vulgar})))?"
    systems = "|".join(re.escape(word) for word in SYSTEM_WORDS)
    names = "|".join(_WORDS)
    return _Patterns(
        re.compile(number),
        re.compile(_FRACTION_TEXT),
        re.compile(
            rf'(?:(?P<system>{systems})\.?\s+)?(?P<unit>fl\.?\s*oz\.?|[^\W\d_]+\.?|["″%])',
            re.IGNORECASE,
        ),
        re.compile(r"[\s+&]*(?:and\b\s*)?"),
        re.compile(r"\s*(?:[-–—−]|to\b|till\b)\s*(?=[\d.,½⅓⅔¼¾⅕⅖⅗⅘⅙⅚⅛⅜⅝⅞])", re.IGNORECASE),
        re.compile(r"\s*[x×*]\s*(?=\d)", re.IGNORECASE),
        re.compile(rf"(?P<name>{names})\b(?:{_SPACE}+(?:a|an)\b)?", re.IGNORECASE),
        re.compile(r"\s*(?:about|approx\.?|approximately|ca\.?|circa|roughly|~|≈)\s*", re.I),
        re.compile(r"(?P<first>.+?)\s*[(\[]\s*(?P<second>[^()\[\]]+?)\s*[)\]]\s*"),
        re.compile(r"(?P<first>.*?[^\W\d_%][.]?|.*?%)\s*(?:/|=|\bor\b)\s*(?P<second>.+)", re.I),
    )


def read_number(text: str, decimal: DecimalSign = ".") -> float:
    """Read a plain decimal number with grouping, as typed in one locale.

    Parameters
    ----------
    text : str
        Digits with points, commas and thin or plain spaces.
    decimal : {'.', ','}
        The locale's decimal sign. It decides only what is ambiguous: ``1,250`` and ``1.250``.

    Returns
    -------
    float

    Raises
    ------
    AmountError
        When it is no number without a sign, or points and commas stand in an order no locale
        writes.
    """
    bare = re.sub(_SPACE, "", text)
    if not re.fullmatch(r"[\d.,]*\d[\d.,]*", bare):
        raise AmountError("a number is wanted here", text, 0, max(1, len(text)))
    points, commas = bare.count("."), bare.count(",")
    if points and commas:
        sign = max(bare, key=lambda ch: bare.rfind(ch) if ch in ".," else -1)
        group = "," if sign == "." else "."
        whole, _, rest = bare.rpartition(sign)
        if sign in whole or not _grouped(whole, group):
            raise AmountError("points and commas are mixed; write 1250.5", text, 0, len(text))
        return float(whole.replace(group, "") + "." + rest)
    sign = "." if points else ","
    count = points + commas
    if count == 0:
        return float(bare)
    if count > 1 or (sign != decimal and re.fullmatch(r"[1-9]\d{0,2}[.,]\d{3}", bare)):
        if not _grouped(bare, sign):
            raise AmountError("this number has two decimal signs", text, 0, len(text))
        return float(bare.replace(sign, ""))
    return float("0" + bare.replace(sign, ".") + "0")


def _grouped(digits: str, group: str) -> bool:
    return re.fullmatch(rf"\d{{1,3}}(?:{re.escape(group)}\d{{3}})*", digits) is not None


def parse_amount(text: str, decimal: DecimalSign = ".", measures: Measures = "us") -> Amount:
    """Read an amount as typed; terms of one kind are added (``1 lb 2 oz``, ``250+30``).

    Parameters
    ----------
    text : str
        The amount, without the material's name.
    decimal : {'.', ','}
        The locale's decimal sign.
    measures : {'metric', 'us'}
        Which cups and spoons are meant when nothing is said.

    Returns
    -------
    Amount
        MASS in g, VOLUME in mL, LENGTH in mm or PERCENT; a bare number counts as MASS in g. Of an
        amount stated twice the weight, and else the first, with the other in `also`.

    Raises
    ------
    AmountError
        Empty, negative, not a number, an unknown unit, kinds that cannot be added, a range that
        does not go up, or too large.
    """
    if not text.strip():
        raise AmountError("an amount is wanted here, like 250 g or 2 1/4 cup", text, 0, len(text))
    _refuse_endless(text)
    patterns = _patterns()
    twice = patterns.bracket.fullmatch(text) or patterns.either.fullmatch(text)
    if twice is None:
        return _one(text, 0, len(text), decimal, measures)
    first, second = (
        _one(text, twice.start(name), twice.end(name), decimal, measures)
        for name in ("first", "second")
    )
    if second.kind is Kind.MASS and first.kind is not Kind.MASS:
        first, second = second, first
    return replace(first, also=second)


def _refuse_endless(text: str) -> None:
    """Raise AmountError for a text that is no amount by its length alone."""
    if len(text) > LONGEST_AMOUNT:
        raise AmountError(
            f"{len(text)} signs are no amount; write at most {LONGEST_AMOUNT}", text,
            LONGEST_AMOUNT, len(text),
        )  # fmt: skip


def _one(text: str, at: int, end: int, decimal: DecimalSign, measures: Measures) -> Amount:
    """Read one statement of an amount between two places of a text."""
    whole, text = text, text[:end]
    about = _patterns().about.match(text, at)
    at = _skip(text, about.end() if about else at)
    if at >= len(text):
        raise AmountError("a number is wanted here, like 250 or 2 1/4", whole, 0, len(whole))
    terms: list[tuple[float, float, str, Unit | None]] = []
    kind: Kind | None = None
    while at < len(text):
        low, high, shown, at_unit = _term(text, at, decimal)
        at_unit = _skip_blank(text, at_unit)
        unit, stop = _unit(text, at_unit, measures)
        after = _skip(text, stop)
        if unit is None and kind is not None:
            raise AmountError("say the unit of each part, like 1 lb 2 oz", text, at, stop)
        if unit is None and after < len(text) and not _adds(text, stop):
            end_of_next = _term(text, after, decimal)[3]
            raise AmountError("say the unit of each part, like 1 lb 2 oz", text, after, end_of_next)
        if unit is not None and unit.size != 1 and any(term[3] is None for term in terms):
            raise AmountError("say the unit of each part, like 1 lb 2 oz", text, at_unit, stop)
        if unit is not None:
            if kind not in (None, unit.kind):
                raise AmountError(
                    f"{unit.name} cannot be added to a {kind.value}", text, at_unit, stop
                )
            kind = unit.kind
        terms.append((low, high, shown, unit))
        at = after
    last = terms[-1][3]
    bare = last is None
    low = high = 0.0
    said = []
    for least, most, shown, unit in terms:
        taken = unit or last or UNITS[measures]["g"]
        low, high = low + least * taken.size, high + most * taken.size
        said.append(f"{shown} {taken.name}")
    kind = kind or Kind.MASS
    limit = LARGEST_MM if kind is Kind.LENGTH else LARGEST_G
    if not high <= limit:
        largest = "100 m" if kind is Kind.LENGTH else "100 000 kg"
        raise AmountError(f"this is more than {largest}; is the unit right?", whole, 0, len(whole))
    ranged = high > low
    return Amount(
        kind, (low + high) / 2, " + ".join(said), bare,
        low if ranged else 0.0, high if ranged else 0.0,
    )  # fmt: skip


def _adds(text: str, at: int) -> bool:
    at = _skip_blank(text, at)
    return at < len(text) and text[at] in "+&"


def _skip(text: str, at: int) -> int:
    found = _patterns().between.match(text, at)
    return found.end() if found else at


def _skip_blank(text: str, at: int) -> int:
    while at < len(text) and text[at].isspace():
        at += 1
    return at


def _term(text: str, at: int, decimal: DecimalSign) -> tuple[float, float, str, int]:
    """Read a number, a range, or a number of packs of one; low, high, as shown, place behind."""
    value, shown, end = _number(text, at, decimal)
    to = _patterns().to.match(text, end)
    if to is not None:
        high, high_shown, stop = _number(text, to.end(), decimal)
        if high <= value:
            raise AmountError("a range goes from less to more, like 2–3", text, at, stop)
        return value, high, f"{shown}–{high_shown}", stop
    times = _patterns().times.match(text, end)
    if times is not None:
        each, each_shown, stop = _number(text, times.end(), decimal)
        return value * each, value * each, f"{shown} × {each_shown}", stop
    return value, value, shown, end


def _number(text: str, at: int, decimal: DecimalSign) -> tuple[float, str, int]:
    if text[at] in "-−–":
        raise AmountError("an amount cannot be negative", text, at, len(text.rstrip()))
    patterns = _patterns()
    found = patterns.fraction.match(text, at) or patterns.number.match(text, at)
    if found is None or found.end() == at:
        word = patterns.word.match(text, at)
        if word is not None:
            value = float(_WORDS[word["name"].lower()])
            return value, f"{value:g}", word.end()
        other = patterns.unit.match(text, at)
        end = other.end() if other else at + 1
        raise AmountError("a number is wanted here, like 250 or 2 1/4", text, at, end)
    parts = found.groupdict()
    value = 0.0
    if parts.get("whole"):
        try:
            value = read_number(parts["whole"], decimal)
        except AmountError as wrong:
            raise AmountError(wrong.message, text, at, found.end()) from None
    num, den = _VULGAR.get(parts.get("vulgar") or "", (0, 1))
    if parts.get("num"):
        num, den = int(parts["num"]), int(parts["den"])
    if den == 0:
        raise AmountError("a fraction cannot be over 0", text, at, found.end())
    value += num / den
    return value, f"{value:.6g}", found.end()


def _unit(text: str, at: int, measures: Measures) -> tuple[Unit | None, int]:
    word = _patterns().unit.match(text, at)
    if word is None or word["unit"].lower() == "and":
        return None, at
    if word["system"]:
        measures = SYSTEM_WORDS[word["system"].lower()]
    key = re.sub(r"[\s.]", "", word["unit"]).lower()
    if key not in UNITS[measures]:
        raise AmountError(
            f"“{word.group()}” is not a unit; use g, kg, oz, lb, mL, cup, tbsp, tsp, stick or %",
            text, word.start(), word.end(),
        )  # fmt: skip
    return UNITS[measures][key], word.end()


def parse_length_mm(
    text: str, unit: Literal["mm", "cm", "in"] = "mm", decimal: DecimalSign = "."
) -> float:
    """Read a length.

    Parameters
    ----------
    text : str
        As typed: ``3``, ``12 cm``, ``1 1/2 in``.
    unit : {'mm', 'cm', 'in'}
        What a bare number means in this field.
    decimal : {'.', ','}
        The locale's decimal sign.

    Returns
    -------
    float
        Length [mm].

    Raises
    ------
    AmountError
        As `parse_amount`, and when a unit of another kind is typed.
    """
    amount = parse_amount(text, decimal)
    if amount.bare:
        length = amount.value * UNITS["us"][unit].size
        if length > LARGEST_MM:
            raise AmountError("this is more than 100 m; is the unit right?", text, 0, len(text))
        return length
    if amount.kind is not Kind.LENGTH:
        raise AmountError("a length is wanted here, like 3 mm or 12 cm", text, 0, len(text))
    return amount.value


def parse_percent(text: str, decimal: DecimalSign = ".") -> float:
    """Read a percentage; a bare number is one [%].

    Raises
    ------
    AmountError
        As `parse_amount`, and when another unit is typed.
    """
    amount = parse_amount(text, decimal)
    if not amount.bare and amount.kind is not Kind.PERCENT:
        raise AmountError("a percentage is wanted here, like 62 %", text, 0, len(text))
    return amount.value


def parse_count(text: str, most: int = 1_000_000) -> int:
    """Read a whole number of things, at least 1 [-].

    Raises
    ------
    AmountError
        When it is not whole, below 1, or above `most`.
    """
    amount = parse_amount(text)
    if not amount.bare or amount.value != int(amount.value) or not 1 <= amount.value <= most:
        raise AmountError(f"a whole number from 1 to {most} is wanted here", text, 0, len(text))
    return int(amount.value)
