"""Amounts as people write them, to grams and millimetres.

``250``, ``250 g``, ``2 1/4 cup``, ``2½ tsp``, ``8 oz``, ``1 lb 2 oz``, ``0,5 kg``, ``62 %``.
A volume becomes a mass only with the density of a named material.
"""

import re
from enum import Enum
from functools import cache
from typing import Literal

from msgspec import Struct

from aplomb.core import constants as c
from aplomb.core.errors import AmountError

DecimalSign = Literal[".", ","]

LARGEST_G = 100_000_000.0
"""Largest amount taken [g]: a hundred tonnes. More is a slip of the hand."""

LARGEST_MM = 100_000.0
"""Largest length taken [mm]: a hundred metres."""


class Kind(Enum):
    """What a unit measures."""

    MASS = "mass"
    VOLUME = "volume"
    LENGTH = "length"
    PERCENT = "percent"


class Unit(Struct, frozen=True):
    """A unit that can be typed.

    Attributes
    ----------
    name : str
        As shown.
    kind : Kind
    size : float
        In the base unit of the kind: g, mL, mm, or percent [-].
    """

    name: str
    kind: Kind
    size: float


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
    """

    kind: Kind
    value: float
    said: str
    bare: bool = False


def _units() -> dict[str, Unit]:
    table: list[tuple[str, Kind, float, str]] = [
        ("g", Kind.MASS, 1.0, "g gr gram grams gramme grammes"),
        ("kg", Kind.MASS, 1000.0, "kg kilo kilos kilogram kilograms"),
        ("mg", Kind.MASS, 0.001, "mg"),
        ("oz", Kind.MASS, c.GRAMS_PER_OUNCE, "oz ounce ounces"),
        ("lb", Kind.MASS, c.GRAMS_PER_POUND, "lb lbs pound pounds"),
        ("stick", Kind.MASS, c.GRAMS_PER_STICK, "stick sticks"),
        ("mL", Kind.VOLUME, 1.0, "ml millilitre millilitres milliliter milliliters cc"),
        ("cL", Kind.VOLUME, 10.0, "cl"),
        ("dL", Kind.VOLUME, 100.0, "dl"),
        ("L", Kind.VOLUME, 1000.0, "l litre litres liter liters"),
        ("US cup", Kind.VOLUME, c.ML_PER_US_CUP, "cup cups c"),
        ("US tbsp", Kind.VOLUME, c.ML_PER_US_TABLESPOON, "tbsp tablespoon tablespoons tbs"),
        ("US tsp", Kind.VOLUME, c.ML_PER_US_TEASPOON, "tsp teaspoon teaspoons"),
        ("US fl oz", Kind.VOLUME, c.ML_PER_US_FLUID_OUNCE, "floz"),
        ("US pint", Kind.VOLUME, c.ML_PER_US_PINT, "pint pints pt"),
        ("US quart", Kind.VOLUME, c.ML_PER_US_QUART, "quart quarts qt"),
        ("US gallon", Kind.VOLUME, c.ML_PER_US_GALLON, "gallon gallons gal"),
        ("mm", Kind.LENGTH, 1.0, "mm millimetre millimetres millimeter millimeters"),
        ("cm", Kind.LENGTH, 10.0, "cm centimetre centimetres centimeter centimeters"),
        ("m", Kind.LENGTH, 1000.0, "m metre metres meter meters"),
        ("in", Kind.LENGTH, c.MM_PER_INCH, 'in inch inches " ″'),
        ("%", Kind.PERCENT, 1.0, "% percent pct"),
    ]
    return {
        word: Unit(name, kind, size) for name, kind, size, words in table for word in words.split()
    }


UNITS = _units()
"""Every word that may stand as a unit, in lower case."""

_VULGAR = {
    "½": (1, 2), "⅓": (1, 3), "⅔": (2, 3), "¼": (1, 4), "¾": (3, 4), "⅕": (1, 5), "⅖": (2, 5),
    "⅗": (3, 5), "⅘": (4, 5), "⅙": (1, 6), "⅚": (5, 6), "⅛": (1, 8), "⅜": (3, 8), "⅝": (5, 8),
    "⅞": (7, 8),
}  # fmt: skip

_SPACE = "[ \u00a0\u2009\u202f]"
_FRACTION_TEXT = rf"(?P<num>\d+){_SPACE}*[/⁄]{_SPACE}*(?P<den>\d+)"


@cache
def _patterns() -> tuple[re.Pattern[str], re.Pattern[str], re.Pattern[str], re.Pattern[str]]:
    """Number, lone fraction, unit word, what may stand between; made when first wanted."""
    whole = rf"\d{{1,3}}(?:{_SPACE}\d{{3}})+(?:[.,]\d+)?(?!\d)|\d[\d.,]*|[.,]\d+"
    vulgar = f"[{''.join(_VULGAR)}]"
    number = rf"(?P<whole>{whole})?(?:{_SPACE}*(?:{_FRACTION_TEXT}|(?P<vulgar>{vulgar})))?"
    return (
        re.compile(number),
        re.compile(_FRACTION_TEXT),
        re.compile(r'fl\.?\s*oz\.?|[^\W\d_]+\.?|["″%]', re.IGNORECASE),
        re.compile(r"[\s+&]*(?:and\b\s*)?"),
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
        When points and commas stand in an order no locale writes.
    """
    bare = re.sub(_SPACE, "", text)
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


def parse_amount(text: str, decimal: DecimalSign = ".") -> Amount:
    """Read an amount as typed; terms of one kind are added (``1 lb 2 oz``).

    Parameters
    ----------
    text : str
        The amount, without the material's name.
    decimal : {'.', ','}
        The locale's decimal sign.

    Returns
    -------
    Amount
        MASS in g, VOLUME in mL, LENGTH in mm or PERCENT; a bare number counts as MASS in g.

    Raises
    ------
    AmountError
        Empty, negative, not a number, an unknown unit, kinds that cannot be added, or too large.
    """
    if not text.strip():
        raise AmountError("an amount is wanted here, like 250 g or 2 1/4 cup", text, 0, len(text))
    at = _skip(text, 0)
    if at == len(text):
        raise AmountError("a number is wanted here, like 250 or 2 1/4", text, 0, len(text))
    total, kind, said, bare = 0.0, None, [], False
    while at < len(text):
        value, shown, at_unit = _number(text, at, decimal)
        at_unit = _skip_blank(text, at_unit)
        unit, end = _unit(text, at_unit)
        if bare or (unit is None and kind is not None):
            raise AmountError("say the unit of each part, like 1 lb 2 oz", text, at, end)
        if unit is None:
            unit, bare = UNITS["g"], True
        if kind not in (None, unit.kind):
            raise AmountError(f"{unit.name} cannot be added to a {kind.value}", text, at_unit, end)
        kind = unit.kind
        total += value * unit.size
        said.append(shown + (" " + unit.name))
        at = _skip(text, end)
    assert kind is not None
    limit = LARGEST_MM if kind is Kind.LENGTH else LARGEST_G
    if not total <= limit:
        most = "100 m" if kind is Kind.LENGTH else "100 000 kg"
        raise AmountError(f"this is more than {most}; is the unit right?", text, 0, len(text))
    return Amount(kind, total, " + ".join(said), bare)


def _skip(text: str, at: int) -> int:
    found = _patterns()[3].match(text, at)
    return found.end() if found else at


def _skip_blank(text: str, at: int) -> int:
    while at < len(text) and text[at].isspace():
        at += 1
    return at


def _number(text: str, at: int, decimal: DecimalSign) -> tuple[float, str, int]:
    if text[at] in "-−–":
        raise AmountError("an amount cannot be negative", text, at, len(text.rstrip()))
    number, fraction, unit_word, _ = _patterns()
    found = fraction.match(text, at) or number.match(text, at)
    if found is None or found.end() == at:
        word = unit_word.match(text, at)
        end = word.end() if word else at + 1
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


def _unit(text: str, at: int) -> tuple[Unit | None, int]:
    word = _patterns()[2].match(text, at)
    if word is None:
        return None, at
    key = re.sub(r"[\s.]", "", word.group()).lower()
    if key in ("and",):
        return None, at
    if key not in UNITS:
        raise AmountError(
            f"“{word.group()}” is not a unit; use g, kg, oz, lb, mL, cup, tbsp, tsp, stick or %",
            text, word.start(), word.end(),
        )  # fmt: skip
    return UNITS[key], word.end()


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
        length = amount.value * UNITS[unit].size
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
