"""Trials from a table as CSV, and to one: a line a piece, what is of the whole bake repeated.

Commas, semicolons or tabs; decimal points or commas; UTF-8. A length may be in mm, cm or inches, a
mass in g or oz, a temperature in °C or °F: the column says which, and one only.
"""

import csv
import io
import math
import re
from collections.abc import Callable, Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.trials.trial import (
    MADE_WORDS,
    MIDDLES,
    PIECE_WORDS,
    Judged,
    Made,
    Piece,
    Trial,
    check_trial,
)
from aplomb.exchange.cells import safe, taken_back, too_many

LARGEST_BYTES, MOST_ROWS = 20_000_000, 50_000
SHOWN_TROUBLES = 20

_FIGURE = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d{1,3})?", re.ASCII | re.IGNORECASE)
_TEXTS = (
    "trial",
    "batch",
    "formula",
    "product",
    "at",
    "series",
    "variant",
    "pair",
    "failed",
    "fat_kind",
    "oven",
    "fridge",
    "baker",
    "middle",
    "taste",
    "note",
)
_MARKS = ("colour", "base", "shatter", "film")
_PIECE = tuple(PIECE_WORDS)
_MADE = tuple(key for key, about in MADE_WORDS.items() if about.high)
_TO: dict[str, dict[str, Callable[[float], float]]] = {
    "mm": {"mm": lambda v: v, "cm": lambda v: v * 10, "in": lambda v: v * 25.4},
    "g": {"g": lambda v: v, "kg": lambda v: v * 1000, "oz": lambda v: v * 28.349523125},
    "c": {"c": lambda v: v, "f": lambda v: (v - 32) / 1.8},
}
"""How a figure of a column in another unit becomes one in ours."""
COLUMNS = (
    "trial", "batch", "formula", "product", "at", "series", "variant", "pair", "failed",
    *MADE_WORDS, *_PIECE, "leak_g", *_MARKS, "middle", "taste", "note",
)  # fmt: skip
"""Columns as they are written; read in any order, any of them missing but `trial` and `batch`."""


class TrialsFile(Struct, frozen=True):
    """A file of trials as read.

    Attributes
    ----------
    trials : tuple of Trial
        In the order of the file.
    troubles : tuple of str
        Lines that were left out, each with its number and why.
    unknown : tuple of str
        Headers that mean nothing here.
    """

    trials: tuple[Trial, ...]
    troubles: tuple[str, ...]
    unknown: tuple[str, ...]


def _known_columns() -> dict[str, tuple[str, Callable[[float], float]]]:
    """Every header that is read: which column it is and how its figure becomes ours."""
    known: dict[str, tuple[str, Callable[[float], float]]] = {}
    for column in (*_PIECE, *_MADE, "leak_g"):
        stem, _, unit = column.rpartition("_")
        others = _TO.get(unit)
        if others is None:
            known[column] = (column, lambda v: v)
            continue
        for other, turn in others.items():
            known[f"{stem}_{other}"] = (column, turn)
    return known


def _text(data: bytes, name: str) -> str:
    if len(data) > LARGEST_BYTES:
        raise AplombError(f"{name} is over {LARGEST_BYTES / 1e6:.0f} MB; split it")
    if not data.strip():
        raise AplombError(f"{name} is empty; it needs a header line, then a line per piece")
    try:
        text = data.decode("utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig")
    except UnicodeDecodeError:
        raise AplombError(f"{name} is not text in UTF-8; export it as CSV in UTF-8") from None
    if "\x00" in text:
        raise AplombError(f"{name} is not text; export it as CSV")
    return text.lstrip("\r\n")


def read_trials(data: bytes, name: str = "this file") -> TrialsFile:
    """Read trials from a table.

    Lines of one `trial` are its pieces; a line that cannot be used is told and left out, and
    the rest is read.

    Parameters
    ----------
    data : bytes
        The whole file.
    name : str
        Of the file, for the errors.

    Raises
    ------
    AplombError
        When it is no such table: not text, without the columns `trial` and `batch`, with one figure
        in two units, too long.
    """
    text = _text(data, name)
    first = text.split("\n", 1)[0]
    separator = max(";\t,", key=first.count)
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=separator)
    try:
        header = [re.sub(r"[^a-z0-9]+", "_", cell.casefold()).strip("_") for cell in next(rows)]
    except (csv.Error, StopIteration) as error:
        raise AplombError(f"{name} cannot be read as a table: {error}") from None
    known = _known_columns()
    _check_header(header, known, name)
    unknown = tuple(h for h in header if h and h not in known and h not in (*_TEXTS, *_MARKS))
    found: dict[str, Trial] = {}
    troubles: list[str] = []
    number = 1
    try:
        for number, cells in enumerate(rows, 2):
            if not any(cell.strip() for cell in cells):
                continue
            if number > MOST_ROWS:
                raise AplombError(f"{name} has more than {MOST_ROWS} lines; split it")
            try:
                line = _line(header, cells, separator)
                _take(line, found, known, "," if separator != "," else ".")
            except AplombError as error:
                troubles.append(f"line {number}: {error}")
    except csv.Error as error:
        raise AplombError(f"{name}, line {number}: {error}") from None
    return TrialsFile(tuple(found.values()), tuple(troubles), unknown)


def _line(header: list[str], cells: list[str], separator: str) -> dict[str, str]:
    """Give the cells by their columns; those a short line leaves off are empty."""
    if wrong := too_many(cells, len(header), separator):
        raise AplombError(wrong)
    return dict.fromkeys(header, "") | dict(
        zip(header, (taken_back(cell.strip()) for cell in cells), strict=False)
    )


def _check_header(
    header: list[str], known: dict[str, tuple[str, Callable[[float], float]]], name: str
) -> None:
    for needed in ("trial", "batch"):
        if needed not in header:
            raise AplombError(
                f"{name} has no column “{needed}”; its first line has {', '.join(header[:8])[:120]}"
            )
    seen: dict[str, str] = {}
    for each in header:
        column = known[each][0] if each in known else each
        if column and column in seen:
            said = f"“{seen[column]}” and “{each}”"
            raise AplombError(
                f"{name} has one figure in two units: {said}. Keep only one."
                if seen[column] != each
                else f"{name} has the same column twice: {said}. Keep only one."
            )
        seen[column] = each


def _number(text: str, column: str, decimal: str) -> float | None:
    if not text:
        return None
    plain = text.replace("−", "-")
    plain = plain.replace(",", ".") if decimal == "," and "." not in plain else plain
    value = float(plain) if _FIGURE.fullmatch(plain) else math.inf
    if not math.isfinite(value):
        raise AplombError(f"{column}: “{text[:30]}” is not a number")
    return value


def _take(
    line: dict[str, str],
    found: dict[str, Trial],
    known: dict[str, tuple[str, Callable[[float], float]]],
    decimal: str,
) -> None:
    """Put a line with the trial it is of; raises AplombError when it cannot be used."""
    figures: dict[str, float] = {}
    for head, (column, turn) in known.items():
        if head in line:
            value = _number(line[head], head, decimal)
            if value is not None:
                figures[column] = turn(value)
    marks = {m: _number(line.get(m, ""), m, decimal) or 0 for m in _MARKS}
    for column in ("leaves", "turns", *_MARKS):
        value = figures.get(column, marks.get(column, 0))
        if value != round(value):
            raise AplombError(f"{column}: {value:g} is not a whole number")
    key, given = line["trial"], line.get
    if not key:
        raise AplombError("trial: the cell is empty; give the trial a name")
    middle = given("middle", "")
    if middle not in MIDDLES:
        raise AplombError(f"middle: “{middle[:20]}” must be one of {', '.join(MIDDLES[1:])}")
    numbers: dict[str, object] = {k: figures[k] for k in _MADE if k in figures}
    if "turns" in numbers:
        numbers["turns"] = int(figures["turns"])
    words = {w: given(w, "") for w in ("fat_kind", "oven", "fridge", "baker")}
    measured: dict[str, Any] = {k: figures[k] for k in _PIECE if k in figures}
    if "leaves" in measured:
        measured["leaves"] = int(figures["leaves"])
    piece = Piece(**measured)
    pieces = (piece,) if piece != Piece() else ()
    before = found.get(key)
    made = Trial(
        key,
        line["batch"],
        given("formula", "") or "unknown",
        "",
        given("at", ""),
        given("product", ""),
        given("series", ""),
        given("variant", ""),
        given("pair", ""),
        given("failed", ""),
        Made(**numbers, **words),  # type: ignore[arg-type]
        pieces,
        Judged(**{m: int(v) for m, v in marks.items()}, middle=middle, taste=given("taste", "")),
        figures.get("leak_g"),
        (),
        given("note", ""),
    )
    if before is not None:
        for field in ("batch", "variant", "series", "failed"):
            if getattr(made, field) != getattr(before, field):
                raise AplombError(
                    f"{field}: trial {key[:30]} has a different entry on an earlier line"
                )
        made = replace(before, pieces=(*before.pieces, *pieces))
    found[key] = check_trial(made)


def trials_csv(trials: Sequence[Trial]) -> bytes:
    """Write trials as a table.

    UTF-8 with a byte order mark, commas, decimal points; the columns of `COLUMNS`; a line a
    piece, one line for a trial without. What is not known is empty.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for t in trials:
        whole: dict[str, object] = {
            "trial": t.key,
            "batch": t.batch,
            "formula": t.formula,
            "product": t.product,
            "at": t.at,
            "series": t.series,
            "variant": t.variant,
            "pair": t.pair,
            "failed": t.failed,
            "leak_g": t.leak_g,
            "middle": t.judged.middle,
            "taste": t.judged.taste,
            "note": t.note,
            **{k: getattr(t.made, k) for k in MADE_WORDS},
            **{m: getattr(t.judged, m) or None for m in _MARKS},
        }
        for piece in t.pieces or (Piece(),):
            row = whole | {k: getattr(piece, k) for k in _PIECE}
            writer.writerow([_cell(row[c]) for c in COLUMNS])
    return b"\xef\xbb\xbf" + out.getvalue().encode()


def _cell(value: object) -> str:
    if value is None:
        return ""
    return safe(value) if isinstance(value, str) else f"{value:.10g}"
