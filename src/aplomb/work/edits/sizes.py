"""Sizes as they are typed on Folds: of mass, area and thickness any two give the third."""

import re

from aplomb.core.base.errors import AmountError, refuse_endless
from aplomb.core.base.figures import bare_text, sides_cm
from aplomb.core.base.quantity import parse_count
from aplomb.core.batch.blocks import PRESSED
from aplomb.core.folds.plan import Enclosure
from aplomb.core.paste.formula import Formula
from aplomb.core.study.study import Study
from aplomb.work.figures.typed import LONGEST, TIMES, read_length, read_mass, read_sides

WIDTHS = ("roll_width_mm", "enclose_width_mm")
"""Sizes in cm that may be left empty."""
THINNEST_SHEET_MM, THICKEST_SHEET_MM = 0.3, 50.0
THINNEST_FAT_MM, THICKEST_FAT_MM = 1.0, 100.0


def sized(study: Study, name: str, text: str) -> dict[str, float]:
    """Read a size of a formula; gives the fields that change.

    Parameters
    ----------
    study : Study
        With what a block weighs: a size that is typed as length × width gives a thickness by it.
    name : str
        Field of the formula.
    text : str
        As typed: a length, or length × width for the fat block and the final sheet.

    Raises
    ------
    AmountError
        With the reason in words.
    """
    if name in WIDTHS and not text.strip():
        return {name: 0.0}
    sides = read_sides(text) if name in ("fat_block_mm", "sheet_mm") else None
    if sides is not None:
        return _from_sides(study, name, sides, text)
    value = read_length(text, in_cm=name in WIDTHS)
    if value == 0:
        raise AmountError("enter a length above 0", text, 0, len(text))
    if name == "fat_block_mm":
        return {name: value, "fat_length_mm": 0.0, "fat_width_mm": 0.0}
    return {name: value}


def _from_sides(study: Study, name: str, sides: tuple[float, float], text: str) -> dict[str, float]:
    """Give the thickness that follows from what a block weighs and the area it is to have."""
    a, scaled = study.accounts, study.scaled
    area = sides[0] * sides[1]
    if name == "sheet_mm":
        density = a.rolled_density_g_ml or 0.0
        volume = scaled.finished_g / density if density > 0 else 0.0
        low, high = THINNEST_SHEET_MM, THICKEST_SHEET_MM
    else:
        volume = a.block_ml * scaled.a_block
        low, high = THINNEST_FAT_MM, THICKEST_FAT_MM
    if volume <= 0:
        raise AmountError("there is no weight yet: enter the paste first", text, 0, len(text))
    thick = volume * 1000 / area
    if not low <= thick <= high:
        raise AmountError(
            f"on {sides_cm(*sides)} it would be {bare_text(thick, 'mm', 2)} thick; "
            f"use a size that makes it {bare_text(low, 'mm')} to {bare_text(high, 'mm')}",
            text,
            0,
            len(text),
        )
    if name == "sheet_mm":
        return {name: round(thick, 2)}
    return {name: round(thick, 1), "fat_length_mm": sides[0], "fat_width_mm": sides[1]}


_SHEETS_OF = re.compile(r"\s*(\S.*?)\s+sheets?\s+of\b\s*", re.IGNORECASE)
"""How many sheets, in words."""


def read_paste(study: Study, text: str) -> float:
    """Read how much paste is to be mixed [g]: a weight, or the sheets that it is to fill.

    Parameters
    ----------
    study : Study
        With the thickness of the final sheet and what is lost until it is reached.
    text : str
        ``2.5 kg``; ``60 × 40 cm``; ``2 × 60 × 40 cm``.

    Raises
    ------
    AmountError
        With the reason in words.

    Notes
    -----
    Mass = area × thickness × density, over what of the paste reaches the last sheet.
    """
    refuse_endless(text, LONGEST)
    said = _SHEETS_OF.match(text)
    parts = TIMES.split(text[said.end() :] if said else text)
    many = parse_count(said[1]) if said else 1
    if said is None and len(parts) == 3:
        many = parse_count(parts.pop(0))
    sides = read_sides(" × ".join(parts)) if len(parts) == 2 else None
    if sides is None:
        return read_mass(text)
    density, reaches = study.accounts.rolled_density_g_ml or 0.0, study.shrinks
    if density <= 0 or reaches <= 0:
        raise AmountError("there is no paste yet: enter its ingredients first", text, 0, len(text))
    grams = many * sides[0] * sides[1] * study.formula.sheet_mm / 1000 * density / reaches
    return round(grams, 1)


def size_shown(formula: Formula, name: str) -> str:
    """Write a size as it is typed; empty for one that follows."""
    if name == "fat_block_mm" and formula.fat_length_mm and formula.fat_width_mm:
        sides = sides_cm(formula.fat_length_mm, formula.fat_width_mm, 1)
        return sides.replace(" × ", "×")  # the field is narrow
    value = getattr(formula, name)
    return bare_text(value, "cm" if name in WIDTHS else "mm", 2) if value else ""


def hidden_sizes(study: Study) -> tuple[str, ...]:
    """Give the sizes that a way of enclosing has no use for."""
    enclosure = study.plan.enclosure
    found = [] if study.in_pieces else ["piece_fat_mm", "gathered_mm"]
    if study.in_pieces or enclosure not in PRESSED:
        found.append("fat_block_mm")
    takes_width = enclosure in PRESSED and enclosure is not Enclosure.ENVELOPE
    if not takes_width and enclosure is not Enclosure.COIL:
        found.append("enclose_width_mm")
    return tuple(found)
