"""What is typed into a field, read in the measures of the house, and how cells are written."""

import math
import re

from aplomb.core.base.constants import GRAMS_PER_OUNCE
from aplomb.core.base.errors import AmountError, refuse_endless
from aplomb.core.base.figures import (
    decimal_sign,
    length_unit,
    mass_unit,
    num,
    number_text,
    temp_unit,
)
from aplomb.core.base.numbers import read_number
from aplomb.core.base.quantity import parse_amount, parse_count, parse_length_mm
from aplomb.core.base.units import Kind

LONGEST = 200
"""Longest text that is read as a size, a temperature, a time or hours [signs]."""
TIMES = re.compile(r"\s*(?:[×xX*]|\bby\b)\s*", re.IGNORECASE)
"""What stands between the sides of something rolled."""
_RAISED = str.maketrans("0123456789", "⁰¹²³⁴⁵⁶⁷⁸⁹")


def read_mass(text: str, *, zero: bool = False) -> float:
    """Read a mass [g]; raises AmountError for anything else, and for 0 where it is not allowed.

    Parameters
    ----------
    text : str
        As typed.
    zero : bool
        Whether nothing is allowed.

    Raises
    ------
    AmountError
        With the reason in words.
    """
    if zero and text.strip() in ("", "0"):
        return 0.0
    amount = parse_amount(text, decimal_sign())
    if amount.kind is not Kind.MASS:
        raise AmountError("enter a weight, e.g. 250 g or 8 oz", text, 0, len(text))
    if amount.value <= 0:
        raise AmountError("enter a weight above 0", text, 0, len(text))
    return amount.value * (bare_grams() if amount.bare else 1.0)


def bare_grams() -> float:
    """What a bare 1 weighs in the house [g]."""
    return GRAMS_PER_OUNCE if mass_unit() == "oz" else 1.0


def percent_text(percent: float | None) -> str:
    """Write a percentage for a column: always one place; a dash for none.

    Parameters
    ----------
    percent : float or None
        [%].

    Examples
    --------
    >>> percent_text(50), percent_text(None)
    ('50.0', '–')
    """
    return "–" if percent is None else num(percent, ".1f")


def read_length(text: str, *, zero: bool = False, in_cm: bool = False) -> float:
    """Read a length [mm]; nothing is 0 where that is allowed.

    A bare number is in mm, or cm where the caption says so, and in inches where the house
    measures in these.

    Parameters
    ----------
    text : str
        As typed.
    zero : bool
        Whether nothing is allowed.
    """
    if zero and text.strip() in ("", "0"):
        return 0.0
    unit = "cm" if in_cm and length_unit() == "mm" else length_unit()
    return parse_length_mm(text, unit, decimal_sign())


def read_size(text: str) -> tuple[float, float]:
    """Read a piece as length × width [mm].

    Parameters
    ----------
    text : str
        As typed.

    Raises
    ------
    AmountError
        With the reason in words.
    """
    refuse_endless(text, LONGEST)
    parts = TIMES.split(text.strip())
    if len(parts) != 2:
        raise AmountError("enter a size, e.g. 100 × 100", text, 0, len(text))
    length, width = (read_length(part) for part in parts)
    return length, width


def read_sides(text: str) -> tuple[float, float] | None:
    """Read length × width of something rolled [mm]; None for what is not two sizes.

    Bare numbers are in cm, or in inches where the house measures in these; a unit behind the last
    holds for both.

    Raises
    ------
    AmountError
        With the reason in words.
    """
    refuse_endless(text, LONGEST)
    parts = TIMES.split(text.strip())
    if len(parts) != 2 or not all(parts):
        return None
    unit = re.search(r"[A-Za-z\"″]+\s*$", parts[1])
    if unit and not re.search(r"[A-Za-z\"″]\s*$", parts[0]):
        parts[0] += f" {unit[0]}"
    length, width = (read_length(part, in_cm=True) for part in parts)
    if length <= 0 or width <= 0:
        raise AmountError("enter two lengths above 0", text, 0, len(text))
    return length, width


def read_whole(text: str) -> int:
    """Read a whole number, 0 and nothing too.

    Parameters
    ----------
    text : str
        As typed.
    """
    return 0 if text.strip() in ("", "0") else parse_count(text)


def read_temp(text: str) -> float:
    """Read a temperature [°C], in °C or °F; raises AmountError for anything else.

    Parameters
    ----------
    text : str
        As typed.

    Raises
    ------
    AmountError
        With the reason in words.
    """
    refuse_endless(text, LONGEST)
    found = re.fullmatch(r"\s*([-−+]?)\s*([\d.,]+)\s*°?\s*([CcFf]?)\s*", text)
    if found is None:
        raise AmountError("enter a temperature, e.g. 16 or 61 F", text, 0, len(text))
    value = read_number(found[2], decimal_sign()) * (-1 if found[1] in ("-", "−") else 1)
    unit = found[3].upper() or temp_unit().removeprefix("°")
    return (value - 32) / 1.8 if unit == "F" else value


def read_warming(text: str) -> float:
    """Read a difference of temperatures [K], in K or °C, or in °F; raises AmountError.

    Parameters
    ----------
    text : str
        As typed.

    Raises
    ------
    AmountError
        With the reason in words.
    """
    bare = re.sub(r"\s*K\s*$", "", text)
    if bare != text:
        return read_temp(f"{bare} C")
    in_f = re.search(r"[Ff]\s*$", text) or (
        temp_unit() == "°F" and not re.search(r"[Cc]\s*$", text)
    )
    return read_temp(text) - read_temp("0 F") if in_f else read_temp(text)


def read_clock(text: str) -> int:
    """Read a time of day [min from midnight]: 5, 5:30, 17.45 or 1745; with am or pm where it is so.

    Parameters
    ----------
    text : str
        As typed.

    Raises
    ------
    AmountError
        For anything else.

    Examples
    --------
    >>> read_clock("5"), read_clock("17:45"), read_clock("1745"), read_clock("5.30 pm")
    (300, 1065, 1065, 1050)
    """
    refuse_endless(text, LONGEST)
    bare = text.strip().lower().removesuffix("h").strip()
    found = re.fullmatch(r"(\d{1,2})(?:[:.h]?(\d{2}))?\s*([ap])?\.?m?\.?", bare)
    if found is None:
        raise AmountError("enter a time of day, e.g. 5:30 or 17:45", text, 0, len(text))
    hours, minutes = int(found[1]), int(found[2] or 0)
    if found[3]:
        hours = hours % 12 + (12 if found[3] == "p" else 0)
    if hours > 24 or minutes > 59 or hours * 60 + minutes > 1440:
        raise AmountError("enter a time from 0:00 to 24:00, e.g. 17:45", text, 0, len(text))
    return hours * 60 + minutes


def clock_text(minutes: int) -> str:
    """Write a time of day.

    Parameters
    ----------
    minutes : int
        [min from midnight].

    Examples
    --------
    >>> clock_text(1065)
    '17:45'
    """
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def read_hours(text: str) -> tuple[tuple[int, int], ...]:
    """Read the hours of a day: ``5 to 14``, ``5:00-9:30, 16-18``.

    Parameters
    ----------
    text : str
        As typed.

    Returns
    -------
    tuple of (from, to)
        [min from midnight].

    Raises
    ------
    AmountError
        For anything else.

    Examples
    --------
    >>> read_hours("5 to 14; 16:00–18:30")
    ((300, 840), (960, 1110))
    """
    refuse_endless(text, LONGEST)
    found = []
    for part in re.split(r"[,;]|\band\b", text):
        if not part.strip():
            continue
        ends = re.split(r"\s*(?:[-–—]|\bto\b)\s*", part.strip())
        if len(ends) != 2:
            raise AmountError("enter hours, e.g. 5:00 to 14:00", text, 0, len(text))
        begin, end = (read_clock(each) for each in ends)
        if end <= begin:
            raise AmountError(
                "the end must be later than the start, on the same day", text, 0, len(text)
            )
        found.append((begin, end))
    return tuple(sorted(found))


def hours_text(hours: tuple[tuple[int, int], ...]) -> str:
    """Write the hours of a day.

    Parameters
    ----------
    hours : tuple of (from, to)
        [min from midnight].

    Examples
    --------
    >>> hours_text(((300, 840),))
    '05:00 to 14:00'
    """
    return ", ".join(f"{clock_text(begin)} to {clock_text(end)}" for begin, end in hours)


def reading_text(value: float | None) -> str:
    """Write a reading in few signs."""
    if value is None:
        return "–"
    if value >= 1e6:
        power = math.floor(math.log10(value))
        return f"{num(value / 10**power, '.1f')}·10{str(power).translate(_RAISED)}"
    if isinstance(value, int) or value >= 100:
        return number_text(value, 0)
    return number_text(value, 1 if value >= 1 else 2)
