"""What an oven is set to, in °C or °F, with a fan or without, or as a gas mark."""

import re

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import TextError, refuse_endless
from aplomb.core.base.figures import celsius_text
from aplomb.core.base.ovens import Oven

FAN_K = 20.0
"""A fan oven is set so much lower for the same bake [K], common practice."""
GAS_1_F, A_MARK_F = 275.0, 25.0
"""Gas mark 1, and from one mark to the next [°F], common practice, exact by convention."""
LOWEST_MARKS = {"1/4": 225.0, "1/2": 250.0}
"""The two marks below 1 [°F]."""
MOST_MARK = 10
COLDEST_C, HOTTEST_C = 30.0, 350.0
LONGEST = 200
"""Longest text that is read as a setting [signs]."""
"""What an oven is set to [°C]."""

_NUMBER = r"(\d{1,3}(?:[.,]\d{1,2})?)"
_TEMP = re.compile(
    rf"{_NUMBER}\s*(?:°|º|deg(?:rees)?)?\s*(?:(celsius|fahrenheit|c|f)\b)?\s*(.*)", re.IGNORECASE
)
_GAS = re.compile(
    r"(?:gas(?:\s*mark)?|g\.?m\.?|mark)\s*(\d{1,2}(?:[.,]\d+| 1/2|½)?|1/4|1/2|¼|½)", re.IGNORECASE
)
_FIRST = re.compile(
    r"(fan|convection|conventional|static|top and bottom)(?:\s+(?:oven|heat))?[\s:]+", re.IGNORECASE
)
"""Said before the temperature."""
_BETWEEN = re.compile(r"\s+or\s+|;|,\s+|/(?!(?<=\b1/)[24](?!\d))", re.IGNORECASE)
"""Between several ways in which one setting is said; the stroke of ½ and ¼ is none."""
ALIKE_K = 15.0
"""Several ways of one setting may differ so much [K]: marks and fans are rounded."""
_FAN = {"fan", "fan oven", "convection", "fan assisted", "fan forced", "with a fan", "with fan"}
_STILL = {
    "",
    "conventional",
    "static",
    "no fan",
    "without a fan",
    "without fan",
    "oven",
    "top and bottom",
    "top and bottom heat",
    "still",
}


class Setting(Struct, frozen=True):
    """An oven's setting, in every way it is said.

    Attributes
    ----------
    conventional_c, fan_c, fahrenheit : float
        Without a fan, with one, and without one [°C, °C, °F].
    gas : str or None
        The nearest gas mark; None below ¼ and above 10.
    understood : str
        What was understood.
    """

    conventional_c: float
    fan_c: float
    fahrenheit: float
    gas: str | None
    understood: str


def marks() -> dict[str, float]:
    """Give every gas mark with its temperature [°F], the coolest first.

    Notes
    -----
    Mark 1 is 275 °F and every mark 25 °F more; below it ½ and ¼ step down by 25 °F (common
    practice of British cookers).

    Examples
    --------
    >>> marks()["4"], marks()["1/2"]
    (350.0, 250.0)
    """
    higher = {str(n): GAS_1_F + A_MARK_F * (n - 1) for n in range(1, MOST_MARK + 1)}
    return {**LOWEST_MARKS, **higher}


def of_conventional(conventional_c: float, understood: str) -> Setting:
    """Give a setting by its temperature without a fan.

    Notes
    -----
    °F = 9/5 °C + 32, exactly. A gas mark is named when it is nearer than any other and no more
    than half a mark away.
    """
    fahrenheit = conventional_c * 9 / 5 + 32
    known = marks()
    nearest = min(known, key=lambda mark: abs(known[mark] - fahrenheit))
    gas = nearest if abs(known[nearest] - fahrenheit) <= A_MARK_F / 2 + 1e-9 else None
    return Setting(conventional_c, conventional_c - FAN_K, fahrenheit, gas, understood)


def dial_text(oven: Oven, conventional_c: float) -> str:
    """Write what an oven's dial is set to, its own correction taken out, in the house's unit.

    Parameters
    ----------
    conventional_c : float
        What is wanted, without a fan [°C].

    Examples
    --------
    >>> dial_text(Oven("deck", fan=False, dial_k=10), 200)
    '190 °C'
    """
    return celsius_text(oven.dial_c(conventional_c, FAN_K), ".0f")


def read_setting(text: str) -> Setting:
    """Read a setting as a recipe says it.

    Parameters
    ----------
    text : str
        ``200 C fan``, ``fan 180``, ``gas 1/2``, ``400 F``, ``180 °C``; a bare number from 250 on is
        °F. Several ways that say the same, as in ``200C/180C fan/gas 6``; the first one counts.

    Raises
    ------
    TextError
        Pointing at what cannot be used.

    Examples
    --------
    >>> read_setting("200 C fan").conventional_c, read_setting("gas 6").gas
    (220.0, '6')
    """
    refuse_endless(text, LONGEST)
    cuts = [0, *(at for found in _BETWEEN.finditer(text) for at in found.span()), len(text)]
    spans = [(text[a:b], a) for a, b in zip(cuts[::2], cuts[1::2], strict=True)]
    pieces = [each for each in spans if each[0].strip()] or [(text, 0)]
    read = [_one(piece, text, at) for piece, at in pieces]
    first = read[0]
    for said, (piece, at) in zip(read[1:], pieces[1:], strict=True):
        if abs(said.conventional_c - first.conventional_c) > ALIKE_K:
            raise TextError(
                f"{said.understood} is not the same as {first.understood}; keep only one",
                text,
                at,
                at + len(piece),
            )
    if len(read) == 1:
        return first
    return replace(first, understood=f"{first.understood}; the others say the same")


_SAYS_FAN = re.compile(
    r"fan|convection|conventional|static|still|top and bottom|gas|mark|\bg\.?m\b", re.IGNORECASE
)


def fan_is_said(text: str) -> bool:
    """Tell whether a setting says if it is with a fan or without; a gas oven has none.

    Examples
    --------
    >>> fan_is_said("200 C fan"), fan_is_said("gas 6"), fan_is_said("375 F")
    (True, True, False)
    """
    return _SAYS_FAN.search(text) is not None


def unit_of_bare(number: float) -> str:
    """Give the unit, c or f, in which a temperature of an oven is meant that is said without one.

    Examples
    --------
    >>> unit_of_bare(200), unit_of_bare(375)
    ('c', 'f')
    """
    return "f" if number >= 250 else "c"


def _one(piece: str, text: str, at: int) -> Setting:
    """Read one setting, which begins at a place of the text."""
    plain = piece.strip()
    lead = at + len(piece) - len(piece.lstrip())
    end = max(lead + 1, lead + len(plain))
    if gas := _GAS.fullmatch(plain):
        mark = gas[1].replace("¼", "1/4").replace("½", "1/2")
        known = marks()
        if mark not in known:
            raise TextError(
                f"there is no gas mark {mark}; use 1/4, 1/2 or 1 to {MOST_MARK}", text, lead, end
            )
        return of_conventional((known[mark] - 32) / 1.8, f"gas mark {mark}, without a fan")
    before = _FIRST.match(plain)
    found = _TEMP.fullmatch(plain, before.end() if before else 0)
    if found is None:
        raise TextError("enter a setting, e.g. 200 C fan, 400 F or gas 6", text, lead, end)
    number = float(found[1].replace(",", "."))
    rest = " ".join(re.sub(r"[()-]", " ", found[3]).casefold().split())
    if rest not in _FAN | _STILL or (before and rest):
        raise TextError(
            f"“{found[3][:20]}” is not understood; say fan, or nothing",
            text,
            lead + found.start(3),
            end,
        )
    fan = rest in _FAN or (before is not None and before[1].casefold() in _FAN)
    unit = (found[2] or unit_of_bare(number))[0].lower()
    shown_c = (number - 32) / 1.8 if unit == "f" else number
    if not COLDEST_C <= shown_c <= HOTTEST_C:
        raise TextError(
            (
                f"an oven cannot be set to {number:g} °{unit.upper()}; use {COLDEST_C:.0f} to "
                f"{HOTTEST_C:.0f} °C"
            ),
            text,
            lead,
            end,
        )
    guessed = "" if found[2] else ", unit assumed"
    how = "with a fan" if fan else "without a fan"
    understood = f"{number:g} °{unit.upper()} {how}{guessed}"
    return of_conventional(shown_c + (FAN_K if fan else 0.0), understood)
