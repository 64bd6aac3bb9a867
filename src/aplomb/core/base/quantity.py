"""Amounts as people write them, to grams and millimetres.

``250``, ``250 g``, ``2 1/4 cup``, ``2½ tsp``, ``8 oz``, ``1 lb 2 oz``, ``0,5 kg``, ``62 %``,
``250+30``, ``500 - 20 g``, ``2–3 tbsp``, ``100 g to 120 g``, ``2 tbsp plus 1 tsp``,
``2 x 250 g``, ``1 cup (120 g)``, ``225 g / 8 oz``, ``a pinch``, ``three quarters of a pound``.
A volume becomes a mass only with the density of a named material.
"""

import math
import re
from typing import Literal, NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import DecimalSign, num
from aplomb.core.base.numbers import MEASURED, VULGAR, number_patterns, read_number
from aplomb.core.base.spoken import bit, spoken
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
        How a figure was read that could be meant otherwise, to be told; empty when there is
        nothing to ask.
    plus, minus : tuple of Amount
        Amounts of another kind that are added or taken away: ``1 stick plus 2 tbsp`` has a volume
        in `plus`.
    of : str
        What a percentage is of, when it is said: flour, dough, paste, fat; empty for the usual.
    """

    kind: Kind
    value: float
    said: str
    bare: bool = False
    low: float = 0.0
    high: float = 0.0
    also: "Amount | None" = None
    asked: str = ""
    plus: "tuple[Amount, ...]" = ()
    minus: "tuple[Amount, ...]" = ()
    of: str = ""

    @property
    def spread(self) -> float:
        """Half of a typed range over its middle [-]; 0 without a range."""
        return (self.high - self.low) / 2 / self.value if self.value > 0 else 0.0

    @property
    def said_twice(self) -> str:
        """What was understood, with the second statement in brackets: ``1 US cup (120 g)``."""
        return f"{self.said} ({self.also.said})" if self.also else self.said


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
    if finer(second) > finer(first):
        first, second = second, first
    return replace(first, also=second)


def finer(amount: Amount) -> int:
    """Rank how exactly an amount is stated: a weight, then a volume in mL, then cups and spoons.

    Examples
    --------
    >>> finer(parse_amount("250 g")) > finer(parse_amount("250 ml")) > finer(parse_amount("1 cup"))
    True
    """
    if amount.kind is Kind.MASS:
        return 2
    return 1 if amount.said.endswith(("mL", "cL", "dL", " L")) else 0


def _refuse_endless(text: str) -> None:
    """Raise AmountError for a text that is no amount by its length alone."""
    if len(text) > LONGEST_AMOUNT:
        raise AmountError(
            f"{len(text)} characters are too many for an amount; use at most {LONGEST_AMOUNT}",
            text,
            LONGEST_AMOUNT,
            len(text),
        )


class _Numeral(NamedTuple):
    """A number as it stands in a text, or two that are the ends of a range."""

    low: float
    high: float
    shown: str
    end: int
    asked: str = ""


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
    of: str = ""
    filled: tuple[float, float] = (1.0, 1.0)

    def ends(self, unit: Unit) -> tuple[float, float]:
        """Least and most in the base unit, with what a pinch or a heap may be."""
        low, high = self.filled
        return (
            self.low * unit.size * (1 - unit.spread) * low,
            self.high * unit.size * (1 + unit.spread) * high,
        )


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
        if at == term.end and at < len(text):
            raise AmountError("enter an amount, e.g. 250 g or 2 1/4 cup", text, at, len(text))
    return _sum_of(terms, whole, asked, measures)


def _sum_of(terms: list[_Term], whole: str, asked: str, measures: Measures) -> Amount:
    """Add up terms of one kind; what is of another kind goes along beside them."""
    last = next((term.unit for term in reversed(terms) if term.unit is not None), None)
    first = next((term.unit for term in terms if term.unit is not None), None)
    kind = first.kind if first else Kind.MASS
    bare = UNITS[measures]["g"]
    own = [term for term in terms if (term.unit or last or bare).kind is kind]
    low = high = 0.0
    said = ""
    for term in own:
        taken = term.unit or last or bare
        ends = term.ends(taken)
        low, high = (
            (low + ends[0], high + ends[1]) if term.sign > 0 else (low - ends[1], high - ends[0])
        )
        said += _joined(said, term, taken.name)
    if low < 0:
        raise AmountError("more is taken away than there is", whole, 0, len(whole))
    limit = LARGEST_MM if kind is Kind.LENGTH else LARGEST_G
    if not high <= limit:
        largest = "100 m" if kind is Kind.LENGTH else "100 000 kg"
        raise AmountError(f"this is more than {largest}; is the unit right?", whole, 0, len(whole))
    plus: list[Amount] = []
    minus: list[Amount] = []
    for term in terms:
        if term in own or term.unit is None:
            continue
        ends = term.ends(term.unit)
        ranged = ends[1] > ends[0]
        middle = (ends[0] + ends[1]) / 2
        beside = Amount(
            term.unit.kind,
            middle,
            f"{term.shown} {term.unit.name}",
            low=ends[0] if ranged else 0.0,
            high=ends[1] if ranged else 0.0,
        )
        (plus if term.sign > 0 else minus).append(beside)
        said += _joined(said, term, term.unit.name)
    ranged = high > low
    return Amount(
        kind,
        (low + high) / 2,
        said,
        last is None,
        low if ranged else 0.0,
        high if ranged else 0.0,
        asked=asked,
        plus=tuple(plus),
        minus=tuple(minus),
        of=next((term.of for term in terms if term.of), ""),
    )


def _joined(before: str, term: _Term, unit: str) -> str:
    joined = "" if not before else " + " if term.sign > 0 else " − "
    return f"{joined}{term.shown} {unit}"


WEIGHED_OR_MEASURED = {Kind.MASS, Kind.VOLUME}


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
    if (
        unit is not None
        and known is not None
        and known.kind is not unit.kind
        and not (
            {known.kind, unit.kind} <= WEIGHED_OR_MEASURED
            and text[before[-1].end : term.at].strip(" ,")
        )
    ):
        raise AmountError(
            f"{unit.name} cannot be added to a {known.kind.value}; use the same kind of unit",
            text,
            term.at_unit,
            term.end,
        )


def _end_of_number(text: str, at: int) -> int:
    try:
        return _number(text, at, ".").end
    except AmountError:
        return at + 1


def _with_unit(text: str, at: int, decimal: DecimalSign, measures: Measures) -> tuple[_Term, str]:
    """Read a number or range with its unit, which may stand at both ends of the range.

    Where a kilogram or litre would come to a thousand by a grouping sign, as in ``1,250 kg``, the
    sign is read as the decimal that it is elsewhere, and the second value tells so.
    """
    before = number_patterns().size.match(text, at)
    filled, how = (1.0, 1.0), ""
    if before is not None and before["how"].casefold() in MEASURED:
        how = before["how"].casefold()
        filled, at = MEASURED[how], before.end()
    said = _term(text, at, decimal)
    low, high, shown, asked = said.low, said.high, said.shown, said.asked
    at_unit = _skip_blank(text, said.end)
    unit, stop, filled, of, full = _unit_filled(text, at_unit, measures, filled)
    found = number_patterns().ambiguous.search(text, at, at_unit)
    if found is not None:
        other: DecimalSign = "," if found["sign"] == "," else "."
        if unit is not None and unit.size >= LARGE_UNIT and other != decimal:
            low, high, shown, *_ = _term(text, at, other)
            asked = f"“{found.group()}” was read as {shown} {unit.name}"
        elif other == decimal and (unit is None or unit.size < LARGE_UNIT):
            asked = f"“{found.group()}” was read as {shown}, with a decimal point or comma"
    if unit is not None:
        more, behind = bit(text, stop)
        if more and _unit_or_none(text, _skip_blank(text, behind), measures) is None:
            low, high, shown, stop = low + more, high + more, num(low + more, ".6g"), behind
    how = full or how
    shown = f"{how} {shown}" if how and filled[0] < filled[1] else shown
    term = _Term(low, high, shown, unit, 1, at, at_unit, stop, of, filled)
    if unit is None or high > low:
        return term, asked
    return _with_other_end(text, term, decimal, measures), asked


def _with_other_end(text: str, term: _Term, decimal: DecimalSign, measures: Measures) -> _Term:
    """Read the other end of a range whose ends both have a unit, as in ``500 g to 1 kg``."""
    unit = term.unit
    to = number_patterns().to.match(text, term.end)
    if to is None or unit is None:
        return term
    try:
        other = _term(text, to.end(), decimal)
        second, stop = _unit(text, _skip_blank(text, other.end), measures)
    except AmountError:
        return term
    if second is None or second.kind is not unit.kind:
        return term
    if other.high * second.size <= term.low * unit.size:
        if number_patterns().less.match(text, term.end) is None:
            raise AmountError(
                "put the smaller number of a range first, e.g. 2–3", text, term.at, stop
            )
        return term
    shown = f"{term.shown} {unit.name} – {other.shown}"
    low = term.low * unit.size / second.size
    return _Term(low, other.high, shown, second, 1, term.at, term.at_unit, stop)


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


def _term(text: str, at: int, decimal: DecimalSign) -> _Numeral:
    """Read a number, a range, or a number of packs of one."""
    patterns = number_patterns()
    said_between = patterns.either_end.match(text, at)
    first = _number(text, said_between.end() if said_between else at, decimal)
    if first.high > first.low:
        return first
    value, shown, end = first.low, first.shown, first.end
    to = patterns.to.match(text, end)
    if to is None and said_between is not None:
        to = re.compile(r"\s*and\b\s*", re.IGNORECASE).match(text, end)
    if to is not None:
        most = _number(text, to.end(), decimal)
        if most.high > value:
            asked = first.asked or most.asked
            return _Numeral(value, most.high, f"{shown}–{most.shown}", most.end, asked)
        if patterns.less.match(text, end) is None or said_between is not None:
            raise AmountError(
                "put the smaller number of a range first, e.g. 2–3", text, at, most.end
            )
    times = patterns.times.match(text, end)
    if times is not None:
        each = _number(text, times.end(), decimal)
        return _Numeral(
            value * each.low,
            value * each.high,
            f"{shown} × {each.shown}",
            each.end,
            first.asked or each.asked,
        )
    return first


def _number(text: str, at: int, decimal: DecimalSign) -> _Numeral:
    if not text[at:].strip():
        raise AmountError("enter a number behind this, e.g. 250", text, 0, max(1, len(text)))
    if text[at] in "-−–":
        raise AmountError("an amount cannot be negative", text, at, len(text.rstrip()))
    said = spoken(text, at)
    if said is not None:
        shown = num(said.value, ".6g")
        asked = f"“{text[at : said.end].strip()}” was read as {shown}" if said.vague else ""
        return _Numeral(said.value, said.value, shown, said.end, asked)
    patterns = number_patterns()
    found = patterns.fraction.match(text, at) or patterns.number.match(text, at)
    if found is None or found.end() == at:
        other = patterns.unit.match(text, at)
        end = other.end() if other else at + 1
        raise AmountError("enter a number, e.g. 250 or 2 1/4", text, at, end)
    parts = found.groupdict()
    if not parts.get("whole") and parts.get("num"):
        return _slashed(text, at, found)
    value = 0.0
    if parts.get("whole"):
        try:
            value = read_number(parts["whole"], decimal)
        except AmountError as wrong:
            raise AmountError(wrong.message, text, at, found.end()) from None
    value += _fraction(parts, text, at, found.end())
    end = found.end()
    if parts.get("whole") and not parts.get("num") and not parts.get("vulgar"):
        more = patterns.mixed.match(text, end)  # 2 and 1/4
        if more is not None:
            value, end = value + _fraction(more.groupdict(), text, at, more.end()), more.end()
        else:
            added, end = bit(text, end)  # 2 and a half
            value += added
    return _Numeral(value, value, num(value, ".6g"), end)


def _fraction(parts: dict[str, str | None], text: str, at: int, end: int) -> float:
    top, den = VULGAR.get(parts.get("vulgar") or "", (0, 1))
    if parts.get("num"):
        top, den = int(parts["num"] or 0), int(parts["den"] or 0)
    if den == 0:
        raise AmountError("a fraction cannot be divided by 0", text, at, end)
    return top / den


COOKS_PARTS = (2, 3, 4, 8, 16)
"""What cooks divide a measure by."""
FINE = ("g", "gr", "gram", "grams", "gramme", "grammes", "ml", "mls", "millilitres", "milliliters")
"""Units of which nobody takes a fraction of more than one part."""


def _slashed(text: str, at: int, found: re.Match[str]) -> _Numeral:
    """Read two numbers with a stroke between: a fraction, or two amounts of which either will do.

    ``3/4 cup`` is a fraction, ``200/220 g`` and ``5/6 tbsp`` are ranges; of ``11/2 cups``
    nobody knows whether it is 1½ or 5½, so it is asked.
    """
    top, den = int(found["num"]), int(found["den"])
    written, end = found.group(), found.end()
    if den == 0:
        raise AmountError("a fraction cannot be divided by 0", text, at, end)
    word = re.compile(r"\s*-?\s*([^\W\d_]+)").match(text, end)
    fine = word is not None and word[1].casefold() in FINE
    shown = num(top / den, ".6g")
    if top < den:
        plain = den in COOKS_PARTS and math.gcd(top, den) == 1 and not (fine and top > 1)
        if plain or (top == 1 and not fine):
            return _Numeral(top / den, top / den, shown, end)
        if den <= MOST_APART * top:
            return _Numeral(float(top), float(den), f"{top}–{den}", end)
        return _Numeral(top / den, top / den, shown, end, f"“{written}” was read as {shown}")
    first, last = divmod(top, 10)
    if den in COOKS_PARTS and first and last < den and last:
        value = first + last / den
        told = f"“{written}” was read as {num(value, '.6g')}; it could be {shown}"
        return _Numeral(value, value, num(value, ".6g"), end, told)
    if den in COOKS_PARTS:
        return _Numeral(top / den, top / den, shown, end, f"“{written}” was read as {shown}")
    raise AmountError("put the smaller number of a range first, e.g. 2–3", text, at, end)


MOST_APART = 3
"""The ends of a range written with a stroke are no further apart than that [-], our choice."""


def _unit_filled(
    text: str, at: int, measures: Measures, filled: tuple[float, float]
) -> tuple[Unit | None, int, tuple[float, float], str, str]:
    """Read a unit with how full it is, before or behind it, and what a percentage is of."""
    patterns = number_patterns()
    how = ""
    full = patterns.size.match(text, at)
    if full is not None and _unit_or_none(text, full.end(), measures) is not None:
        how = full["how"].casefold()
        filled, at = MEASURED[how], full.end()
    elif re.compile(r"-\s*[^\W\d_]").match(text, at):
        at += 1  # 250-g
    unit, stop = _unit(text, at, measures)
    if unit is None:
        return None, stop, filled, "", how
    behind = patterns.size.match(text, stop)
    if (
        behind is not None
        and behind["how"].casefold() in ("heaped", "heaping", "rounded", "level", "scant")
        and not text[behind.end() :].strip()
    ):
        how = behind["how"].casefold()
        filled, stop = MEASURED[how], behind.end()
    of = patterns.base.match(text, stop) if unit.kind is Kind.PERCENT else None
    if of is not None:
        return unit, of.end(), filled, BASES[of["base"].casefold()], how
    return unit, stop, filled, "", how


BASES = {
    "flour": "flour", "dough": "dough", "paste": "paste", "pastry": "paste", "butter": "fat",
    "fat": "fat", "block": "fat", "total": "paste", "whole": "paste", "mix": "dough",
    "weight": "paste",
}  # fmt: skip
"""What a percentage may be said to be of."""


def _unit_or_none(text: str, at: int, measures: Measures) -> Unit | None:
    try:
        return _unit(text, at, measures)[0]
    except AmountError:
        return None


_JOINING = ("and", "plus", "minus", "less", "to", "or", "till", "of")


def _unit(text: str, at: int, measures: Measures) -> tuple[Unit | None, int]:
    word = number_patterns().unit.match(text, at)
    if word is None or word["unit"].lower() in _JOINING:
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
