"""How numbers are written in sentences: one way, everywhere, by the locale and the house.

Sentences are made where their numbers are known, in the core. Which decimal sign they are written
with is the reader's: it is set once, when the program starts, as a program's locale is. Which
measures they are written in is the house's. No result hangs on either, only how it is said.
Files, turn lines and the command line are not the reader's language: they write points, grams,
millimetres and °C.
"""

import math
import re
from typing import Literal

from aplomb.core.base.constants import GRAMS_PER_OUNCE, MM_PER_INCH

DecimalSign = Literal[".", ","]
GROUP = "\u2009"
"""Between groups of three digits: a thin space, which no locale takes for a decimal sign."""

_sign: list[DecimalSign] = ["."]
_SPEC = re.compile(r"[+]?(?:\.\d+)?[fg]?")


def set_decimal(sign: DecimalSign) -> None:
    """Write the numbers of all sentences with a decimal sign from now on.

    Raises
    ------
    ValueError
        For any other sign.
    """
    if sign not in (".", ","):
        raise ValueError(f"{sign!r} cannot be the decimal point or comma; use . or ,")
    _sign[0] = sign


def decimal_sign() -> DecimalSign:
    """Give the decimal sign that sentences are written with."""
    return _sign[0]


def num(value: float, spec: str | int = "g") -> str:
    """Write a number for a sentence.

    Parameters
    ----------
    value : float
        In the unit that the sentence says.
    spec : str or int
        As `format` takes it: ``.1f``, ``.4g``, ``g``, ``+.1f``; or places at the most, as
        `number_text` takes them.

    Returns
    -------
    str
        With the decimal sign that is set; never grouped where a format is given.

    Raises
    ------
    ValueError
        For a specification that is not of a plain number.

    Examples
    --------
    >>> num(12.34, '.1f')
    '12.3'
    >>> num(7.0)
    '7'
    """
    if isinstance(spec, int):
        return number_text(value, spec)
    if not _SPEC.fullmatch(spec):
        raise ValueError(f"{spec!r} is not a plain number format")
    return format(value, spec).replace(".", _sign[0])


def number_text(value: float, digits: int = 1) -> str:
    """Write a number for a cell or a figure.

    Grouped by thin spaces, with the decimal sign that is set.

    Parameters
    ----------
    digits : int
        Places at the most [-]; zeros at the end are left out.

    Examples
    --------
    >>> number_text(12.50, 2)
    '12.5'
    """
    text = f"{value:,.{digits}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return text.replace(",", GROUP).replace(".", _sign[0])


MassUnit = Literal["g", "oz"]
LengthUnit = Literal["mm", "in"]
TempUnit = Literal["°C", "°F"]
_mass_unit: list[MassUnit] = ["g"]
_length_unit: list[LengthUnit] = ["mm"]
_temp_unit: list[TempUnit] = ["°C"]
EIGHTHS_TO_64 = (8, 16, 32, 64)
EIGHTHS = ("", "⅛", "¼", "⅜", "½", "⅝", "¾", "⅞")
CLOSE = 0.06
"""How near a fraction of an inch must come before a finer one is taken [-]."""
SMALLEST_MM = 0.4
"""Less is not written in fractions of an inch [mm]."""


def set_measures(mass: MassUnit, length: LengthUnit, temp: TempUnit) -> None:
    """Write masses, lengths and temperatures of all sentences in these measures from now on.

    Parameters
    ----------
    mass : {'g', 'oz'}
        Grams and kilograms, or ounces and pounds.
    length : {'mm', 'in'}
        Millimetres and centimetres, or inches in eighths and what is finer.
    """
    _mass_unit[0], _length_unit[0], _temp_unit[0] = mass, length, temp


def mass_unit() -> MassUnit:
    """Give the unit that a bare mass is in."""
    return _mass_unit[0]


def length_unit() -> LengthUnit:
    """Give the unit that a bare length is in."""
    return _length_unit[0]


def temp_unit() -> TempUnit:
    """Give the unit that a bare temperature is in."""
    return _temp_unit[0]


def house_unit(unit: str) -> str:
    """Give the house's unit for g, kg, mm, cm, °C or K, alone or as the first word.

    Any other stays as it is.

    Examples
    --------
    >>> house_unit('g per piece')
    'g per piece'
    """
    first, blank, rest = unit.partition(" ")
    other = {
        "g": "g" if _mass_unit[0] == "g" else "oz",
        "kg": "kg" if _mass_unit[0] == "g" else "lb",
        "mm": _length_unit[0],
        "cm": "cm" if _length_unit[0] == "mm" else "in",
        "°C": _temp_unit[0],
        "K": "K" if _temp_unit[0] == "°C" else "°F",
    }
    return other.get(first, first) + blank + rest


def bare_text(value: float, unit: str, spec: str | int = "g") -> str:
    """Write a number in the house's unit and without it.

    One given in g, °C or K, or in mm, of which ``cm`` makes centimetres.

    Parameters
    ----------
    spec : str or int
        As `num` takes it.

    Examples
    --------
    >>> bare_text(35.0, 'cm')
    '3.5'
    """
    first = unit.partition(" ")[0]
    if first == "g" and _mass_unit[0] == "oz":
        return ounces(value)
    if first in ("mm", "cm"):
        if _length_unit[0] == "in":
            return inches(value)
        return num(value / 10 if first == "cm" else value, spec)
    if first == "K" and _temp_unit[0] == "°F":
        return num(value * 1.8, spec)
    return degrees(value, spec) if first == "°C" else num(value, spec)


def in_measures(caption: str) -> str:
    """Write a caption that is or ends in a unit with that of the house.

    ``Edge, mm`` as ``Edge, in``, ``g per piece`` as ``oz per piece``.

    Examples
    --------
    >>> in_measures('Final sheet, mm')
    'Final sheet, mm'
    """
    words, comma, unit = caption.rpartition(", ")
    return f"{words}{comma}{house_unit(unit)}"


def ounces(grams: float, places: int = 3) -> str:
    """Write a mass in ounces, without its unit: to a hundredth, the smallest to a thousandth.

    Parameters
    ----------
    grams : float
        [g].
    places : int
        Most of them under half an ounce [-]: three where it is typed, two where it is told.
    """
    value = grams / GRAMS_PER_OUNCE
    return number_text(value, 2 if abs(value) >= 0.5 else places)


def g_text(grams: float, spec: str | int = "g") -> str:
    """Write a mass with its unit.

    Parameters
    ----------
    grams : float
        [g].
    spec : str or int
        As `num` takes it, of the grams.

    Returns
    -------
    str
        ``250 g``; or ``8.82 oz``, and ``2 lb 3.3 oz`` from a pound on.

    Examples
    --------
    >>> g_text(250.0)
    '250 g'
    """
    if _mass_unit[0] == "g":
        return f"{num(grams, spec)} g"
    return _pounds(grams)


def grams_text(grams: float) -> str:
    """Write a mass without its unit, with as many places as matter: in grams, or ounces.

    Parameters
    ----------
    grams : float
        [g].
    """
    if _mass_unit[0] == "oz":
        return ounces(grams)
    return number_text(grams, 0 if grams >= 1000 else 1 if grams >= 10 else 2)


def weight_text(grams: float) -> str:
    """Write a mass with its unit and as many places as matter: ``12.5 g``, or ``2 lb 3.3 oz``.

    Parameters
    ----------
    grams : float
        [g].
    """
    return f"{grams_text(grams)} g" if _mass_unit[0] == "g" else _pounds(grams)


def mass_text(grams: float) -> str:
    """Write a mass in g, or in kg from 1 kg on; in ounces, or in pounds from one on.

    Parameters
    ----------
    grams : float
        [g].

    Examples
    --------
    >>> mass_text(850.0), mass_text(2340.0)
    ('850 g', '2.34 kg')
    """
    if _mass_unit[0] == "oz":
        return _pounds(grams)
    return f"{number_text(grams / 1000, 3)} kg" if grams >= 1000 else weight_text(grams)


def kg_text(grams: float, spec: str | int = "g") -> str:
    """Write a large mass with its unit: ``1.25 kg``, or ``2 lb 12.1 oz``.

    Parameters
    ----------
    grams : float
        [g].
    spec : str or int
        As `num` takes it.

    Examples
    --------
    >>> kg_text(2340.0, '.1f')
    '2.3 kg'
    """
    return f"{num(grams / 1000, spec)} kg" if _mass_unit[0] == "g" else _pounds(grams)


def example_mass(*, large: bool = False) -> str:
    """Give a weight as a person of this house would type it, for a field that is empty.

    Parameters
    ----------
    large : bool
        Of a block rather than a line.
    """
    if _mass_unit[0] == "g":
        return f"{num(1.5)} kg" if large else "250 g"
    return "3 lb" if large else "8 oz"


def _pounds(grams: float) -> str:
    whole, rest = divmod(round(abs(grams) / GRAMS_PER_OUNCE, 1), 16)
    if not math.isfinite(grams) or whole < 1:
        return f"{ounces(grams, 2)} oz"
    left = f" {number_text(rest, 1)} oz" if rest >= 0.05 else ""
    return f"{'-' if grams < 0 else ''}{number_text(whole, 0)} lb{left}"


def mm_text(value: float, spec: str | int = "g") -> str:
    """Write a length with its unit: ``3 mm``, or ``⅛ in``; `spec` is of the millimetres.

    Parameters
    ----------
    spec : str or int
        As `num` takes it.
    """
    return f"{bare_text(value, 'mm', spec)} {house_unit('mm')}"


def cm_text(value_mm: float, spec: str | int = ".0f") -> str:
    """Write a length given in mm with its unit: ``22 cm``, or ``8⅝ in``; `spec` of the cm.

    Parameters
    ----------
    spec : str or int
        As `num` takes it.

    Examples
    --------
    >>> cm_text(223.0)
    '22 cm'
    """
    return f"{bare_text(value_mm, 'cm', spec)} {house_unit('cm')}"


def sides_mm(length: float, width: float, spec: str | int = ".0f") -> str:
    """Write length × width, given in mm, in millimetres or inches.

    Parameters
    ----------
    length : float
        [mm].
    width : float
        [mm].
    spec : str or int
        As `num` takes it.
    """
    return _several((length, width), "mm", " × ", spec)


def sides_cm(length_mm: float, width_mm: float, spec: str | int = ".0f") -> str:
    """Write length × width, given in mm, in centimetres or inches.

    Parameters
    ----------
    spec : str or int
        As `num` takes it.

    Examples
    --------
    >>> sides_cm(900.0, 420.0)
    '90 × 42 cm'
    """
    return _several((length_mm, width_mm), "cm", " × ", spec)


HALF_CM_MM, QUARTER_INCH_MM = 5.0, MM_PER_INCH / 4
"""To what a sheet is rolled [mm]: nobody rolls to a millimetre (common practice)."""


def as_rolled(side_mm: float, *, up: bool = False) -> float:
    """Give a side of a sheet as people roll it [mm]: to half a centimetre or a quarter inch.

    Parameters
    ----------
    side_mm : float
        Exact [mm].
    up : bool
        To the next one above: of a last sheet, in which the last row must have room.

    Examples
    --------
    >>> as_rolled(223.0), as_rolled(223.0, up=True), as_rolled(1.0)
    (225.0, 225.0, 5.0)
    """
    step = QUARTER_INCH_MM if _length_unit[0] == "in" else HALF_CM_MM
    many = math.ceil(side_mm / step - CLOSE_STEP) if up else round(side_mm / step)
    return max(1, many) * step


CLOSE_STEP = 0.02
"""What a side may be over a step and still be said as that step [-]."""


def rolled_text(side_mm: float, *, up: bool = False) -> str:
    """Write a side of a sheet as people roll it: ``22.5 cm``, or ``8¾ in``."""
    return cm_text(as_rolled(side_mm, up=up), ROLLED_PLACES)


def rolled_sides(length_mm: float, width_mm: float, *, up: bool = False) -> str:
    """Write length × width of a sheet as people roll it.

    Examples
    --------
    >>> rolled_sides(903.0, 418.0)
    '90.5 × 42 cm'
    """
    sides = (as_rolled(side, up=up) for side in (length_mm, width_mm))
    return _several(tuple(sides), "cm", " × ", ROLLED_PLACES)


ROLLED_PLACES = 1


def _several(values: tuple[float, ...], unit: str, between: str, spec: str | int) -> str:
    """Write numbers with their unit once."""
    return f"{between.join(bare_text(n, unit, spec) for n in values)} {house_unit(unit)}"


def inches(value_mm: float) -> str:
    """Write a length in inches, without its unit, as a rule shows it.

    Returns
    -------
    str
        In eighths; in sixteenths, 32nds or 64ths where an eighth is more than 6 % off; in decimals
        what is so thin that these are too. Fields read it back.

    Examples
    --------
    >>> inches(38.1), inches(3.0)
    ('1½', '⅛')
    """
    if value_mm == 0 or not math.isfinite(value_mm):
        return num(value_mm)
    value = abs(value_mm) / MM_PER_INCH
    sign = "-" if value_mm < 0 else ""
    if abs(value_mm) < SMALLEST_MM:
        return sign + num(value, ".2g" if value >= 1e-4 else ".5f")
    for parts in EIGHTHS_TO_64:
        nearest = round(value * parts)
        if abs(nearest / parts - value) <= CLOSE * value:
            break
    else:
        return sign + num(value, ".2g")
    whole, rest = divmod(nearest, parts)
    eighths, odd = divmod(rest * 8, parts)
    if not odd:
        return f"{sign}{whole or ''}{EIGHTHS[eighths]}"
    common = math.gcd(rest, parts)
    words = [str(whole)] if whole else []
    return sign + " ".join([*words, f"{rest // common}/{parts // common}"])


def celsius_text(celsius: float, spec: str | int = "g") -> str:
    """Write a temperature with its unit: ``16 °C``, or ``61 °F``; `spec` is of the °C.

    Parameters
    ----------
    celsius : float
        [°C].
    spec : str or int
        As `num` takes it.
    """
    return f"{degrees(celsius, spec)} {_temp_unit[0]}"


def warming_text(kelvin: float, spec: str | int = "+g") -> str:
    """Write how much warmer or colder something is, with its unit: ``+6 °C``, or ``+11 °F``.

    Parameters
    ----------
    kelvin : float
        A difference, not a temperature [K].
    """
    own = kelvin * 1.8 if _temp_unit[0] == "°F" else kelvin
    own = round(own) if _temp_unit[0] == "°F" and abs(own) >= 3 else round(own, 2)
    return f"{num(own, spec)} {_temp_unit[0]}".replace("-", "−")


def degrees(celsius: float, spec: str | int = "g") -> str:
    """Write a temperature without its unit.

    Parameters
    ----------
    celsius : float
        [°C].
    spec : str or int
        As `num` takes it.
    """
    if _temp_unit[0] == "°C":
        return num(celsius, spec)
    return num(celsius * 1.8 + 32, 0 if spec == "g" else spec)


def celsius_range(
    low_c: float, high_c: float, between: str = " to ", spec: str | int = ".0f"
) -> str:
    """Write a range of temperatures: ``14 to 18 °C``.

    Parameters
    ----------
    between : str
        What stands between the two.
    spec : str or int
        As `num` takes it.

    Examples
    --------
    >>> celsius_range(12, 16)
    '12 to 16 °C'
    """
    return _several((low_c, high_c), "°C", between, spec)


def mm_range(low: float, high: float, between: str = " to ") -> str:
    """Write a range of lengths given in mm: ``3 to 4 mm``, ``⅛ to 5/32 in``.

    Parameters
    ----------
    between : str
        What stands between the two.

    Examples
    --------
    >>> mm_range(8, 12)
    '8 to 12 mm'
    """
    return _several((low, high), "mm", between, "g")
