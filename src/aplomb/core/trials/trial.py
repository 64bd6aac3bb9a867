"""A trial as it is kept: a real batch, how it was made, and what came of it, piece by piece."""

import math
from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import Problems
from aplomb.core.base.sound import check_sound

MOST_PIECES, MOST_PICTURES = 200, 24
LEAST_MARK, MOST_MARK = 1, 5
LEAST_LIFT, MOST_LIFT = 0.2, 20.0
"""A lift outside that is no lift [-]."""
Middle = Literal["", "open", "close", "hollow", "doughy"]
"""What the cut piece shows inside; empty for not looked at."""
MIDDLES: tuple[Middle, ...] = ("", "open", "close", "hollow", "doughy")


class Piece(Struct, frozen=True, forbid_unknown_fields=True):
    """One piece as it was measured; None for what was not.

    Attributes
    ----------
    raw_mm, baked_mm : float or None
        Height before and after the oven, after at its highest [mm].
    low_mm : float or None
        Height after the oven at its lowest [mm].
    raw_along_mm, baked_along_mm : float or None
        Length with the last rolling, before and after [mm].
    raw_across_mm, baked_across_mm : float or None
        Length across it [mm].
    raw_g, baked_g : float or None
        Mass before and after [g].
    leaves : int or None
        Open leaves counted along a cut [-].
    """

    raw_mm: float | None = None
    baked_mm: float | None = None
    low_mm: float | None = None
    raw_along_mm: float | None = None
    baked_along_mm: float | None = None
    raw_across_mm: float | None = None
    baked_across_mm: float | None = None
    raw_g: float | None = None
    baked_g: float | None = None
    leaves: int | None = None


PIECE_WORDS: dict[str, str] = {
    "raw_mm": "Raw height, mm", "baked_mm": "Baked height, mm", "low_mm": "Lowest height, mm",
    "raw_along_mm": "Raw along rolling, mm", "baked_along_mm": "Baked along rolling, mm",
    "raw_across_mm": "Raw across rolling, mm", "baked_across_mm": "Baked across rolling, mm",
    "raw_g": "Raw weight, g", "baked_g": "Baked weight, g", "leaves": "Leaves",
}  # fmt: skip
"""Words of what is measured on a piece."""
LARGEST: dict[str, tuple[float, float, str]] = {
    "raw_mm": (0.2, 200, "mm"), "baked_mm": (0.2, 500, "mm"), "low_mm": (0, 500, "mm"),
    "raw_along_mm": (1, 3000, "mm"), "baked_along_mm": (1, 3000, "mm"),
    "raw_across_mm": (1, 3000, "mm"), "baked_across_mm": (1, 3000, "mm"),
    "raw_g": (0.1, 20_000, "g"), "baked_g": (0.1, 20_000, "g"), "leaves": (0, 5000, ""),
}  # fmt: skip
"""Least, most and unit of what is measured on a piece."""


class Judged(Struct, frozen=True, forbid_unknown_fields=True):
    """What was looked at and tasted; 0 for what was not.

    Attributes
    ----------
    colour : int
        1 pale to 5 dark; 3 is what is wanted [-].
    base : int
        1 soft to 5 crisp [-].
    shatter : int
        1 dull and soft to 5 loud and clean [-].
    film : int
        1 none to 5 a thick greasy film in the mouth [-].
    taste : str
        In words.
    """

    colour: int = 0
    base: int = 0
    shatter: int = 0
    film: int = 0
    middle: Middle = ""
    taste: str = ""


JUDGED_WORDS: dict[str, tuple[str, tuple[str, ...]]] = {
    "colour": ("Colour", ("pale", "light", "just right", "brown", "dark")),
    "base": ("Base", ("soft", "limp", "firm", "crisp", "very crisp")),
    "shatter": ("Shatter", ("dull", "soft", "fair", "clean", "loud and clean")),
    "film": ("Greasy film", ("none", "a trace", "some", "clear", "thick")),
}
"""What is judged, and the word of each mark from 1 to 5."""


class Made(Struct, frozen=True, forbid_unknown_fields=True):
    """How a trial was made; None for what is not known.

    Attributes
    ----------
    fat_leaf_um : float or None
        Mean fat leaf of the final sheet [µm].
    fat_pct : float or None
        All fat products on flour [%].
    fat_kind : str
        The fat of the block, in words; empty when it is not known.
    sheet_mm : float or None
        Final sheet as it was reached [mm].
    turns : int or None
        Turns after the enclosing [-].
    water_pct : float or None
        Water of the dough as it really went in, on the flour of the dough [%].
    dust_g : float or None
        Dusting flour that stayed [g].
    block_c : float or None
        Of the block at the last sheeting [°C].
    out_min : float or None
        Out of the cold, the longest [min].
    chill_min : float or None
        Last rest [min].
    bake_c : float or None
        Oven, without a fan [°C].
    bake_min : float or None
        In the oven [min].
    shop_c : float or None
        Of the room [°C].
    oven, fridge, baker : str
        Which oven and fridge, and whose hands; empty when it is not known.
    """

    fat_leaf_um: float | None = None
    fat_pct: float | None = None
    fat_kind: str = ""
    sheet_mm: float | None = None
    turns: int | None = None
    water_pct: float | None = None
    dust_g: float | None = None
    block_c: float | None = None
    out_min: float | None = None
    chill_min: float | None = None
    bake_c: float | None = None
    bake_min: float | None = None
    shop_c: float | None = None
    oven: str = ""
    fridge: str = ""
    baker: str = ""


class MadeWords(Struct, frozen=True):
    """How a figure or word of `Made` is named, bounded and held to be alike.

    Attributes
    ----------
    low, high : float
        Limits, in the unit.
    unit : str
        Empty for a plain number.
    alike : float
        Two values no further apart count as the same, in the unit.
    """

    words: str
    low: float = 0.0
    high: float = 0.0
    unit: str = ""
    alike: float = 0.0


MADE_WORDS: dict[str, MadeWords] = {
    "fat_leaf_um": MadeWords("Fat leaf", 0.01, 5000, "µm", 0.3),
    "fat_pct": MadeWords("Fat on flour", 0, 300, "%", 0.5),
    "fat_kind": MadeWords("Fat"),
    "sheet_mm": MadeWords("Sheet", 0.2, 100, "mm", 0.2),
    "turns": MadeWords("Turns", 0, 40, "", 0.1),
    "water_pct": MadeWords("Dough water", 0, 200, "%", 0.8),
    "dust_g": MadeWords("Dusting flour", 0, 50_000, "g", 15.0),
    "block_c": MadeWords("Block at the final sheet", -25, 45, "°C", 1.0),
    "out_min": MadeWords("Out of the cold", 0, 1440, "min", 3.0),
    "chill_min": MadeWords("Last rest", 0, 20_000, "min", 5.0),
    "bake_c": MadeWords("Oven, no fan", 30, 350, "°C", 3.0),
    "bake_min": MadeWords("Baked", 0, 600, "min", 1.0),
    "shop_c": MadeWords("Room", -5, 45, "°C", 1.5),
    "oven": MadeWords("Which oven"),
    "fridge": MadeWords("Which fridge"),
    "baker": MadeWords("Baker"),
}
"""Every figure and word of how a trial was made; how far apart two may lie and count as the same is
recalled."""


class Trial(Struct, frozen=True, forbid_unknown_fields=True):
    """A trial: a real batch, how it was made, and what came of it.

    Attributes
    ----------
    key : str
        Its identity in the book.
    batch : str
        Identity of the batch it is; a trial without one is none.
    formula : str
        Name of the formula.
    uid : str
        Identity of the formula in the book.
    at : str
        When it was baked, ISO 8601.
    product : str
        What was made; empty when there is only one.
    series : str
        Identity of its series; empty for none.
    variant : str
        What it is in the series, in words: ``14 µm``.
    pair : str
        What it was made together with: one day, one dough; empty for none.
    failed : str
        Why the bake came to nothing; empty when it did not. It stays in.
    leak_g : float or None
        Fat on the tray under all pieces [g].
    pictures : tuple of str
        Identities of photographs in the book.
    """

    key: str
    batch: str
    formula: str
    uid: str
    at: str
    product: str = ""
    series: str = ""
    variant: str = ""
    pair: str = ""
    failed: str = ""
    made: Made = Made()
    pieces: tuple[Piece, ...] = ()
    judged: Judged = Judged()
    leak_g: float | None = None
    pictures: tuple[str, ...] = ()
    note: str = ""


class OutcomeKind(Struct, frozen=True):
    """Something that comes of a bake.

    Attributes
    ----------
    better : {1, 0, -1}
        1 where more is better, -1 where less is, 0 where neither is [-].
    matters : float
        A difference worth knowing, where nobody said another, in the unit; recalled.
    digits : int
        So many after the decimal sign are written [-].
    """

    key: str
    words: str
    unit: str
    better: int
    matters: float
    digits: int = 1


OUTCOMES: dict[str, OutcomeKind] = {
    each.key: each
    for each in (
        OutcomeKind("lift", "Lift", "×", 1, 0.5, 2),
        OutcomeKind("even_pct", "Evenness", "%", 1, 5.0),
        OutcomeKind("loss_pct", "Bake loss", "%", 0, 1.5),
        OutcomeKind("leak_pct", "Fat on the tray", "%", -1, 0.5),
        OutcomeKind("shrink_along_pct", "Shrinkage along", "%", -1, 2.0),
        OutcomeKind("shrink_across_pct", "Shrinkage across", "%", -1, 2.0),
        OutcomeKind("round_pct", "Roundness", "%", 1, 3.0),
        OutcomeKind("leaves", "Open leaves", "", 1, 10.0, 0),
        OutcomeKind("colour", "Colour", "out of 5", 0, 1.0),
        OutcomeKind("base", "Base", "out of 5", 1, 1.0),
        OutcomeKind("shatter", "Shatter", "out of 5", 1, 1.0),
        OutcomeKind("film", "Greasy film", "out of 5", -1, 1.0),
    )
}
"""All outcomes, the one asked for first in front."""
JUDGED_OUTCOMES = ("colour", "base", "shatter", "film")


def of_piece(piece: Piece, outcome: str) -> float | None:
    """Give what came of one piece; None when it was not measured.

    Parameters
    ----------
    outcome : str
        A key of `OUTCOMES` that is measured on pieces.

    Returns
    -------
    float or None
        In the outcome's unit.

    Notes
    -----
    Lift is baked over raw height; evenness the lowest over the highest place after the oven; bake
    loss and shrink what is lost over what was there; roundness the shorter over the longer way
    across after the oven.

    Examples
    --------
    >>> of_piece(Piece(raw_mm=4.0, baked_mm=18.0), "lift")
    4.5
    """
    p = piece
    if outcome == "leaves":
        return None if p.leaves is None else float(p.leaves)
    pairs: dict[str, tuple[float | None, float | None]] = {
        "lift": (p.baked_mm, p.raw_mm),
        "even_pct": (p.low_mm, p.baked_mm),
        "loss_pct": (p.baked_g, p.raw_g),
        "shrink_along_pct": (p.baked_along_mm, p.raw_along_mm),
        "shrink_across_pct": (p.baked_across_mm, p.raw_across_mm),
    }
    if outcome == "round_pct":
        both = p.baked_along_mm, p.baked_across_mm
        known = [each for each in both if each is not None]
        return 100 * min(known) / max(known) if len(known) == 2 else None
    over, under = pairs[outcome]
    if over is None or under is None:
        return None
    share = over / under
    if outcome == "lift":
        return share
    return 100 * share if outcome == "even_pct" else 100 * (1 - share)


def check_trial(trial: Trial) -> Trial:
    """Give the trial back if every figure in it can be used.

    Raises
    ------
    FormulaError
        Listing all that cannot be used, each with its place.
    """
    wrong = Problems()
    if not trial.batch:
        wrong.add("batch: a trial needs a batch that was really made; choose one, or enter one.")
    for text, words in ((trial.key, "key"), (trial.formula, "formula")):
        if not text:
            wrong.add(f"{words}: must not be empty.")
    if len(trial.pieces) > MOST_PIECES:
        wrong.add(f"pieces: {len(trial.pieces)} are too many; up to {MOST_PIECES} fit.")
    if len(trial.pictures) > MOST_PICTURES:
        wrong.add(f"pictures: {len(trial.pictures)} are too many; up to {MOST_PICTURES} fit.")
    for i, piece in enumerate(trial.pieces[:MOST_PIECES], 1):
        _check_piece(piece, f"piece {i}", wrong)
    for key, about in MADE_WORDS.items():
        value = getattr(trial.made, key)
        if isinstance(value, int | float):
            wrong.number(about.words.lower(), value, about.low, about.high, about.unit)
    for key, (words, _) in JUDGED_WORDS.items():
        wrong.number(words.lower(), getattr(trial.judged, key), 0, MOST_MARK, "")
    if trial.leak_g is not None:
        wrong.number("fat on the tray", trial.leak_g, 0, 20_000, "g")
        raw = math.fsum(p.raw_g or 0.0 for p in trial.pieces)
        if not wrong.told and raw and trial.leak_g > raw:
            wrong.add(
                "fat on the tray: more than the pieces weighed raw; check both, one is wrong."
            )
    check_sound(trial, wrong)
    wrong.check()
    return trial


def _check_piece(piece: Piece, place: str, wrong: Problems) -> None:
    before = len(wrong.told)
    for name, (low, high, unit) in LARGEST.items():
        value = getattr(piece, name)
        if value is not None:
            words = PIECE_WORDS[name].partition(",")[0].lower()
            wrong.number(f"{place}, {words}", value, low, high, unit)
    if len(wrong.told) > before:
        return
    lift = of_piece(piece, "lift")
    if lift is not None and not LEAST_LIFT <= lift <= MOST_LIFT:
        wrong.add(
            f"{place}: {piece.baked_mm:.4g} mm from {piece.raw_mm:.4g} mm is a lift of "
            f"{lift:.3g}; check both heights (lift should be {LEAST_LIFT:g} to "
            f"{MOST_LIFT:g})."
        )
    for less, more, words in (
        ("low_mm", "baked_mm", "the lowest height is more than the baked height"),
        ("baked_g", "raw_g", "it weighs more baked than raw"),
    ):
        small, large = getattr(piece, less), getattr(piece, more)
        if small is not None and large is not None and small > large:
            wrong.add(f"{place}: {words} ({small:g} and {large:g}); check both, one is wrong.")
