"""What is typed on a measurement sheet: figures of a piece, how it was made, heights in a row."""

import re

from msgspec.structs import replace

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import bare_text, decimal_sign, length_unit, num
from aplomb.core.base.numbers import read_number
from aplomb.core.oven.setting import FAN_K, fan_is_said, read_setting
from aplomb.core.trials.trial import LARGEST, MADE_WORDS, Made, Piece, Trial
from aplomb.work.figures.typed import read_length, read_mass, read_temp

_PAIR = re.compile(r"([^\s/;]+)\s*/\s*([^\s/;]+)")


def figure_text(value: float | None, unit: str) -> str:
    """Write a figure of the sheet; empty for what was not measured.

    Parameters
    ----------
    unit : str
        Of the figure as it is kept.
    """
    if value is None:
        return ""
    if unit in ("mm", "g", "°C"):
        return bare_text(value, unit, ".4g").replace("-", "−")
    return num(value, ".4g").replace("-", "−")


def read_figure(text: str, name: str, unit: str) -> float | None:
    """Read a figure of the sheet.

    Parameters
    ----------
    text : str
        As typed; empty or a dash for not measured.
    unit : str
        Of the figure as it is kept.

    Raises
    ------
    AmountError
        When it cannot be read.
    """
    if not text.strip() or text.strip() in ("–", "-"):
        return None
    if unit == "mm":
        return read_length(text)
    if unit == "g":
        return read_mass(text, zero=True)
    if unit == "°C":
        return read_temp(text)
    bare = text.strip().rstrip("×%").removesuffix(unit).removesuffix("min").strip()
    value = read_number(bare, decimal_sign())
    if name in ("leaves", "turns") and value != round(value):
        raise AmountError("enter a whole number, e.g. 4", text, 0, len(text))
    return value


def with_piece_figure(trial: Trial, at: int, name: str, text: str) -> Trial:
    """Take a figure of a piece; one beyond the last is a new piece.

    Pieces of which nothing is known at the end are let go.

    Parameters
    ----------
    at : int
        Place of the piece, 0 for the first [-].
    name : str
        A field of `Piece`.
    text : str
        As typed; empty for not measured.

    Raises
    ------
    AmountError
        When it cannot be read.
    """
    value = read_figure(text, name, LARGEST[name][2])
    kept = int(value) if name == "leaves" and value is not None else value
    pieces = [*trial.pieces, *(Piece() for _ in range(at + 1 - len(trial.pieces)))]
    pieces[at] = replace(pieces[at], **{name: kept})
    while pieces and pieces[-1] == Piece():
        pieces.pop()
    return replace(trial, pieces=tuple(pieces))


def with_made_figure(made: Made, name: str, text: str) -> Made:
    """Take a figure or word of how a trial was made.

    Parameters
    ----------
    text : str
        As typed; empty for not known.

    Raises
    ------
    AmountError
        When it cannot be read.
    """
    about = MADE_WORDS[name]
    if not about.high:
        return replace(made, **{name: text.strip()[:80]})
    if name == "bake_c" and fan_is_said(text):
        return replace(made, bake_c=read_setting(text).conventional_c)
    value = read_figure(text, name, about.unit)
    kept = int(value) if name == "turns" and value is not None else value
    return replace(made, **{name: kept})


def with_fan_on(made: Made) -> Made:
    """Take the oven of a trial for what a fan oven was set to."""
    return replace(made, bake_c=None if made.bake_c is None else made.bake_c + FAN_K)


def fan_is_open_in(text: str) -> bool:
    """Tell whether an oven's setting as typed leaves open if the fan was on."""
    return any(sign.isdigit() for sign in text) and not fan_is_said(text)


def read_heights(text: str) -> tuple[Piece, ...]:
    """Read raw and baked heights of several pieces, typed in a row.

    Parameters
    ----------
    text : str
        ``3.4/15 3.5/16``; one raw height may stand for all: ``3.4: 15 16 14.5``.

    Raises
    ------
    AmountError
        Pointing at what cannot be read.

    Examples
    --------
    >>> [p.baked_mm for p in read_heights("3.4: 15 16")]
    [15.0, 16.0]
    """
    head, colon, rest = text.partition(":")
    if colon:
        raw = _height(head, text, 0)
        at = len(head) + 1
        words = list(re.finditer(r"[^\s;]+", rest))
        if words:
            return tuple(
                Piece(raw_mm=raw, baked_mm=_height(w[0], text, at + w.start())) for w in words
            )
    pairs = list(_PAIR.finditer(text))
    left = _PAIR.sub("", text)
    if not pairs or left.strip(" ;\t"):
        example = "3.4/15 3.5/16" if length_unit() == "mm" else "0.13/0.6 0.14/0.63"
        raise AmountError(
            (
                "enter the raw/baked height of each piece, e.g. "
                f"{example.replace('.', decimal_sign())}"
            ),
            text,
            0,
            max(1, len(text)),
        )
    return tuple(
        Piece(raw_mm=_height(m[1], text, m.start(1)), baked_mm=_height(m[2], text, m.start(2)))
        for m in pairs
    )


def read_weighings(text: str) -> tuple[tuple[float, float], ...]:
    """Read weighings of one piece in the oven, typed in a row: minutes and mass.

    Parameters
    ----------
    text : str
        ``0/25.2 8/24 16/22.6``: the first at nought is the raw mass.

    Returns
    -------
    tuple of (minutes, lost)
        [min, % of the raw mass]; nought first.

    Raises
    ------
    AmountError
        When it cannot be read, or has no raw mass.

    Examples
    --------
    >>> read_weighings("0/20 10/15")
    ((0.0, 0.0), (10.0, 25.0))
    """
    pairs = list(_PAIR.finditer(text))
    example = "0/25.2 8/24 16/22.6".replace(".", decimal_sign())
    wrong = AmountError(
        f"enter minutes/weight, starting at 0 min, e.g. {example}", text, 0, max(1, len(text))
    )
    if len(pairs) < 2 or _PAIR.sub("", text).strip(" ;\t"):
        raise wrong
    found = sorted((read_number(m[1], decimal_sign()), read_mass(m[2])) for m in pairs)
    if found[0][0] != 0:
        raise wrong
    raw = found[0][1]
    if any(mass > raw for _, mass in found):
        raise AmountError(
            "one weight is more than the raw weight; check the figures", text, 0, len(text)
        )
    return tuple((minutes, 100 * (1 - mass / raw)) for minutes, mass in found)


def _height(word: str, text: str, at: int) -> float:
    try:
        return read_length(word)
    except AmountError as error:
        raise AmountError(error.message, text, at, at + len(word)) from None
