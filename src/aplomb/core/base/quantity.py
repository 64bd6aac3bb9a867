"""Amounts as people write them, to grams and millimetres.

``250``, ``250 g``, ``2 1/4 cup``, ``2½ tsp``, ``8 oz``, ``1 lb 2 oz``, ``0,5 kg``, ``62 %``,
``250+30``, ``500 - 20 g``, ``2–3 tbsp``, ``100 g to 120 g``, ``2 tbsp plus 1 tsp``,
``2 x 250 g``, ``1 cup (120 g)``, ``225 g / 8 oz``, ``a pinch``, ``three quarters of a pound``.
A volume becomes a mass only with the density of a named material.
"""

import re
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import DecimalSign, num
from aplomb.core.base.numbers import NUMBER_WORDS, PARTS, VULGAR, number_patterns, read_number
from aplomb.core.base.units import SYSTEM_WORDS, UNITS, Kind, Measures, Unit

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
    said : str
        What was understood, in plain words, as ``2.25 US cup``.
    bare : bool
        True when no unit was typed, so the field's own unit was taken.
    low, high : float
        Ends of a range as typed, in the unit of `value`; both 0 when it was no range. `value` is
        the middle.
    also : Amount or None
        The same amount stated a second time, as in ``1 cup (120 g)``.
    asked : str
        How a figure was read that another country writes otherwise, to be told; empty when there
        is nothing to ask.
    """

    kind: Kind
    value: float
    said: str
    bare: bool = False
    low: float = 0.0
    high: float = 0.0
    also: "Amount | None" = None
    asked: str = ""

    @property
    def spread(self) -> float:
        """Half of a typed range over its middle [-]; 0 without a range."""
        return (self.high - self.low) / 2 / self.value if self.value > 0 else 0.0


def parse_amount(text: str, decimal: DecimalSign = ".", measures: Measures = "us") -> Amount:
    """Read an amount as typed; terms of one kind are added (``1 lb 2 oz``, ``250+30``).

    MASS in g, VOLUME in mL, LENGTH in mm or PERCENT; a bare number counts as MASS in g. Of an
    amount stated twice the weight, and else the first, with the other in `also`.

    Parameters
    ----------
    text : str
        The amount, without the material's name.
    decimal : {'.', ','}
        The locale's decimal sign.
    measures : {'metric', 'us'}
        Which cups and spoons are meant when nothing is said.

    Raises
    ------
    AmountError
        Empty, negative, not a number, an unknown unit, kinds that cannot be added, a range that
        does not go up, or too large.

    Examples
    --------
    >>> round(parse_amount('2 1/4 cup', measures='us').value, 1)
    532.3
    >>> parse_amount('1 lb 2 oz').said
    '1 lb + 2 oz'
    """
    if not text.strip():
        raise AmountError("enter an amount, e.g. 250 g or 2 1/4 cup", text, 0, len(text))
    _refuse_endless(text)
    patterns = number_patterns()
    twice = patterns.bracket.fullmatch(text) or patterns.either.fullmatch(text)
    if twice is None:
        return _one(text, 0, len(text), decimal, measures)
    first, second = (
        _one(text, twice.start(name), twice.end(name), decimal, measures)
        for name in ("first", "second")
    )
    if first.bare and not second.bare and "or" in text[twice.end("first") : twice.start("second")]:
        return _one(text, 0, len(text), decimal, measures)  # two or three spoons
    if second.kind is Kind.MASS and first.kind is not Kind.MASS:
        first, second = second, first
    return replace(first, also=second)


def _refuse_endless(text: str) -> None:
    """Raise AmountError for a text that is no amount by its length alone."""
    if len(text) > LONGEST_AMOUNT:
        raise AmountError(
            f"{len(text)} characters are too many for an amount; use at most {LONGEST_AMOUNT}",
            text,
            LONGEST_AMOUNT,
            len(text),
        )


class _Term(Struct):
    """A number with its unit: least and most, as shown, and what it does to the sum."""

    low: float
    high: float
    shown: str
    unit: Unit | None
    sign: int
    at: int
    at_unit: int
    end: int


def _one(text: str, at: int, end: int, decimal: DecimalSign, measures: Measures) -> Amount:
    """Read one statement of an amount between two places of a text."""
    whole, text = text, text[:end]
    about = number_patterns().about.match(text, at)
    at = _skip(text, about.end() if about else at)
    if at >= len(text):
        raise AmountError("enter a number, e.g. 250 or 2 1/4", whole, 0, len(whole))
    terms: list[_Term] = []
    asked = ""
    sign = 1
    while at < len(text):
        term, told = _with_unit(text, at, decimal, measures)
        term.sign = sign
        asked = asked or told
        _check_next(text, terms, term)
        terms.append(term)
        less = number_patterns().less.match(text, term.end)
        sign, at = (-1, less.end()) if less else (1, _skip(text, term.end))
    last = next((term.unit for term in reversed(terms) if term.unit is not None), None)
    low = high = 0.0
    said = ""
    for term in terms:
        taken = term.unit or last or UNITS[measures]["g"]
        ends = [
            term.low * taken.size * (1 - taken.spread),
            term.high * taken.size * (1 + taken.spread),
        ]
        low, high = (
            (low + ends[0], high + ends[1]) if term.sign > 0 else (low - ends[1], high - ends[0])
        )
        joined = "" if not said else " + " if term.sign > 0 else " − "
        said += f"{joined}{term.shown} {taken.name}"
    kind = last.kind if last else Kind.MASS
    if low < 0:
        raise AmountError("more is taken away than there is", whole, 0, len(whole))
    limit = LARGEST_MM if kind is Kind.LENGTH else LARGEST_G
    if not high <= limit:
        largest = "100 m" if kind is Kind.LENGTH else "100 000 kg"
        raise AmountError(f"this is more than {largest}; is the unit right?", whole, 0, len(whole))
    ranged = high > low
    return Amount(
        kind,
        (low + high) / 2,
        said,
        last is None,
        low if ranged else 0.0,
        high if ranged else 0.0,
        asked=asked,
    )


def _check_next(text: str, before: list[_Term], term: _Term) -> None:
    """Raise AmountError for a term that cannot be added to those before it."""
    each = "give each part its unit, e.g. 1 lb 2 oz"
    unit = term.unit
    known = next((t.unit for t in before if t.unit is not None), None)
    if unit is None and known is not None:
        raise AmountError(each, text, term.at, term.end)
    after = _skip(text, term.end)
    joined = _adds(text, term.end) or number_patterns().less.match(text, term.end) is not None
    if unit is None and after < len(text) and not joined:
        raise AmountError(each, text, after, max(after + 1, _end_of_number(text, after)))
    if unit is not None and unit.size != 1 and any(t.unit is None for t in before):
        raise AmountError(each, text, term.at_unit, term.end)
    if unit is not None and known is not None and known.kind is not unit.kind:
        raise AmountError(
            f"{unit.name} cannot be added to a {known.kind.value}; use the same kind of unit",
            text,
            term.at_unit,
            term.end,
        )


def _end_of_number(text: str, at: int) -> int:
    try:
        return _number(text, at, ".")[2]
    except AmountError:
        return at + 1


def _with_unit(text: str, at: int, decimal: DecimalSign, measures: Measures) -> tuple[_Term, str]:
    """Read a number or range with its unit, which may stand at both ends of the range.

    Where a kilogram or litre would come to a thousand by a grouping sign, as in ``1,250 kg``, the
    sign is read as the decimal that it is elsewhere, and the second value tells so.
    """
    low, high, shown, at_unit = _term(text, at, decimal)
    at_unit = _skip_blank(text, at_unit)
    unit, stop = _unit(text, at_unit, measures)
    asked = ""
    found = number_patterns().ambiguous.search(text, at, at_unit)
    if found is not None:
        other: DecimalSign = "," if found["sign"] == "," else "."
        if unit is not None and unit.size >= LARGE_UNIT and other != decimal:
            low, high, shown, _ = _term(text, at, other)
            asked = f"“{found.group()}” was read as {shown} {unit.name}"
        elif other == decimal and (unit is None or unit.size < LARGE_UNIT):
            asked = f"“{found.group()}” was read as {shown}, with a decimal point or comma"
    stop_first = stop
    term = _Term(low, high, shown, unit, 1, at, at_unit, stop)
    if unit is None or high > low:
        return term, asked
    to = number_patterns().to.match(text, stop)
    if to is None:
        return term, asked
    try:
        _, most, more_shown, at_second = _term(text, to.end(), decimal)
        second, stop = _unit(text, _skip_blank(text, at_second), measures)
    except AmountError:
        return term, asked
    if second is None or second.kind is not unit.kind:
        return term, asked
    if most * second.size <= low * unit.size:
        if number_patterns().less.match(text, stop_first) is None:
            raise AmountError("put the smaller number of a range first, e.g. 2–3", text, at, stop)
        return term, asked
    shown = f"{shown} {unit.name} – {more_shown}"
    return _Term(low * unit.size / second.size, most, shown, second, 1, at, at_unit, stop), asked


LARGE_UNIT = 100.0
"""A unit this large is not counted in thousands [g, mL], our choice."""


def _adds(text: str, at: int) -> bool:
    at = _skip_blank(text, at)
    return at < len(text) and (
        text[at] in "+&" or re.match(r"(?:plus|and)\b", text[at:], re.IGNORECASE) is not None
    )


def _skip(text: str, at: int) -> int:
    found = number_patterns().between.match(text, at)
    return found.end() if found else at


def _skip_blank(text: str, at: int) -> int:
    while at < len(text) and text[at].isspace():
        at += 1
    return at


def _term(text: str, at: int, decimal: DecimalSign) -> tuple[float, float, str, int]:
    """Read a number, a range, or a number of packs of one; low, high, as shown, place behind."""
    patterns = number_patterns()
    said_between = patterns.either_end.match(text, at)
    value, shown, end = _number(text, said_between.end() if said_between else at, decimal)
    to = patterns.to.match(text, end)
    if to is None and said_between is not None:
        to = re.compile(r"\s*and\b\s*", re.IGNORECASE).match(text, end)
    if to is not None:
        high, high_shown, stop = _number(text, to.end(), decimal)
        if high > value:
            return value, high, f"{shown}–{high_shown}", stop
        if patterns.less.match(text, end) is None or said_between is not None:
            raise AmountError("put the smaller number of a range first, e.g. 2–3", text, at, stop)
    times = patterns.times.match(text, end)
    if times is not None:
        each, each_shown, stop = _number(text, times.end(), decimal)
        return value * each, value * each, f"{shown} × {each_shown}", stop
    return value, value, shown, end


def _number(text: str, at: int, decimal: DecimalSign) -> tuple[float, str, int]:
    if not text[at:].strip():
        raise AmountError("enter a number behind this, e.g. 250", text, 0, max(1, len(text)))
    if text[at] in "-−–":
        raise AmountError("an amount cannot be negative", text, at, len(text.rstrip()))
    patterns = number_patterns()
    word = patterns.word.match(text, at)
    if word is not None:
        value = (
            _spoken(word["many"], word["part"])
            if word["part"]
            else NUMBER_WORDS[word["name"].lower()]
        )
        if word["bit"]:
            value += _spoken(word["more"], word["bit"])
        return float(value), num(value, ".6g"), word.end()
    found = patterns.fraction.match(text, at) or patterns.number.match(text, at)
    if found is None or found.end() == at:
        other = patterns.unit.match(text, at)
        end = other.end() if other else at + 1
        raise AmountError("enter a number, e.g. 250 or 2 1/4", text, at, end)
    parts = found.groupdict()
    value = 0.0
    if parts.get("whole"):
        try:
            value = read_number(parts["whole"], decimal)
        except AmountError as wrong:
            raise AmountError(wrong.message, text, at, found.end()) from None
    top, den = VULGAR.get(parts.get("vulgar") or "", (0, 1))
    if parts.get("num"):
        top, den = int(parts["num"]), int(parts["den"])
    if den == 0:
        raise AmountError("a fraction cannot be divided by 0", text, at, found.end())
    value += top / den
    return value, num(value, ".6g"), found.end()


def _spoken(many: str | None, part: str) -> float:
    """Value of a fraction in words: ``three quarters``, ``half``."""
    count = 1.0 if many is None else NUMBER_WORDS.get(many.lower()) or float(many)
    return count / PARTS[part.lower()]


def _unit(text: str, at: int, measures: Measures) -> tuple[Unit | None, int]:
    word = number_patterns().unit.match(text, at)
    if word is None or word["unit"].lower() in ("and", "plus", "minus", "less", "to", "or", "till"):
        return None, at
    if word["system"]:
        measures = SYSTEM_WORDS[word["system"].lower()]
    bare = re.sub(r"[\s.]", "", word["unit"])
    key = {"T": "tbsp", "t": "tsp"}.get(bare, bare.lower())  # as cooks write them
    if key not in UNITS[measures]:
        raise AmountError(
            f"“{word.group()}” is not a unit; use g, kg, oz, lb, mL, cup, tbsp, tsp, stick or %",
            text,
            word.start(),
            word.end(),
        )
    return UNITS[measures][key], word.end()


def parse_length_mm(
    text: str, unit: Literal["mm", "cm", "in"] = "mm", decimal: DecimalSign = "."
) -> float:
    """Read a length.

    Length [mm].

    Parameters
    ----------
    text : str
        As typed: ``3``, ``12 cm``, ``1 1/2 in``.
    unit : {'mm', 'cm', 'in'}
        What a bare number means in this field.
    decimal : {'.', ','}
        The locale's decimal sign.

    Raises
    ------
    AmountError
        As `parse_amount`, and when a unit of another kind is typed.

    Examples
    --------
    >>> round(parse_length_mm('1 1/2 in'), 3)
    38.1
    """
    amount = parse_amount(text, decimal)
    if amount.bare:
        length = amount.value * UNITS["us"][unit].size
        if length > LARGEST_MM:
            raise AmountError("this is more than 100 m; is the unit right?", text, 0, len(text))
        return length
    if amount.kind is not Kind.LENGTH:
        raise AmountError("enter a length, e.g. 3 mm or 12 cm", text, 0, len(text))
    return amount.value


def parse_percent(text: str, decimal: DecimalSign = ".") -> float:
    """Read a percentage; a bare number is one [%].

    Parameters
    ----------
    text : str
        As typed.
    decimal : DecimalSign
        The decimal sign.

    Raises
    ------
    AmountError
        As `parse_amount`, and when another unit is typed.

    Examples
    --------
    >>> parse_percent('62,5 %', ',')
    62.5
    """
    amount = parse_amount(text, decimal)
    if not amount.bare and amount.kind is not Kind.PERCENT:
        raise AmountError("enter a percentage, e.g. 62 %", text, 0, len(text))
    return amount.value


def parse_count(text: str, most: int = 1_000_000) -> int:
    """Read a whole number of things, at least 1 [-].

    Parameters
    ----------
    text : str
        As typed.

    Raises
    ------
    AmountError
        When it is not whole, below 1, or above `most`.

    Examples
    --------
    >>> parse_count('240')
    240
    """
    amount = parse_amount(text)
    if not amount.bare or amount.value != int(amount.value) or not 1 <= amount.value <= most:
        raise AmountError(f"enter a whole number from 1 to {most}", text, 0, len(text))
    return int(amount.value)
