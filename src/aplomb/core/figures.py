"""How numbers are written in sentences: one way, everywhere, by the locale.

Sentences are made where their numbers are known, in the core. Which decimal sign they are written
with is the reader's: it is set once, when the program starts, as a program's locale is. No result
hangs on it, only how it is said. Files, turn lines and the command line are not the reader's
language: they write points.
"""

import re
from typing import Literal

DecimalSign = Literal[".", ","]
GROUP = "\u2009"
"""Between groups of three digits: a thin space, which no locale takes for a decimal sign."""

_sign: list[DecimalSign] = ["."]
_SPEC = re.compile(r"[+]?(?:\.\d+)?[fg]?")


def set_decimal(sign: DecimalSign) -> None:
    """Write the numbers of all sentences with a decimal sign from now on.

    Parameters
    ----------
    sign : {'.', ','}

    Raises
    ------
    ValueError
        For any other sign.
    """
    if sign not in (".", ","):
        raise ValueError(f"{sign!r} is no decimal sign; use . or ,")
    _sign[0] = sign


def decimal_sign() -> DecimalSign:
    """Give the decimal sign that sentences are written with."""
    return _sign[0]


def num(value: float, spec: str = "g") -> str:
    """Write a number for a sentence.

    Parameters
    ----------
    value : float
        In the unit that the sentence says.
    spec : str
        As `format` takes it: ``.1f``, ``.4g``, ``g``, ``+.1f``.

    Returns
    -------
    str
        With the decimal sign that is set; never grouped.

    Raises
    ------
    ValueError
        For a specification that is not of a plain number.
    """
    if not _SPEC.fullmatch(spec):
        raise ValueError(f"{spec!r} does not write a plain number")
    return format(value, spec).replace(".", _sign[0])


def number_text(value: float, digits: int = 1) -> str:
    """Write a number for a cell or a figure.

    Parameters
    ----------
    value : float
    digits : int
        Places at the most [-]; zeros at the end are left out.

    Returns
    -------
    str
        Grouped by thin spaces, with the decimal sign that is set.
    """
    text = f"{value:,.{digits}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return text.replace(",", GROUP).replace(".", _sign[0])
