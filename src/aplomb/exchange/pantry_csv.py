"""Materials from a supplier's file as CSV, and to one: composition, solid fat, price, allergens.

One header line, one material a line. Percentages are of the product as bought; what is not there
is not known. Commas, semicolons or tabs; decimal points or commas; UTF-8, UTF-16 or Windows-1252.
"""

import csv
import io
import re
from collections.abc import Callable

import msgspec

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import DecimalSign
from aplomb.core.paste.pantry import Pantry
from aplomb.exchange.cells import plain_number, safe, too_many
from aplomb.exchange.supplier_row import PERCENT, RowTrouble, SupplierItem, SupplierRow

LARGEST_BYTES = 20_000_000
MOST_ROWS = 20_000
WATCHED_EVERY = 100
"""Lines between two looks at whether to go on [-]."""

COLUMNS: dict[str, str] = {
    "name": "name product material item description article",
    "key": "key",
    "group": "group kind category type",
    "also": "also synonyms alias by-names",
    "water": "water moisture",
    "fat": "fat total_fat",
    "protein": "protein proteins",
    "carbohydrate": "carbohydrate carbohydrates carbs",
    "sugar": "sugar sugars of_which_sugars",
    "fibre": "fibre fiber",
    "salt": "salt nacl",
    "ash": "ash minerals",
    "acid": "acid acidity",
    "acid_kind": "acid_kind",
    "milk_solids": "milk_solids msnf",
    "measure_g_ml": "measure_g_ml density bulk_density g_ml",
    "spread": "spread spread_pct",
    "enclose_from_c": "enclose_from_c enclose_from work_from",
    "enclose_to_c": "enclose_to_c enclose_to work_to",
    "latent_kj_kg": "latent_kj_kg latent_heat latent",
    "pack": "pack pack_g pack_size package size unit_size",
    "price": "price pack_price cost",
    "price_date": "price_date date valid_from",
    "supplier": "supplier vendor",
    "allergens": "allergens allergen contains",
    "source": "source origin",
    "standing": "standing",
}
"""Columns that are read, and the headers each is known by."""

_HEADERS = {word: column for column, words in COLUMNS.items() for word in words.split()}
_SFC = re.compile(r"(?:sfc|solid_fat|solids?|n)_?(-?\d{1,2}(?:[.,]\d)?)(?:_?c)?$")


class SupplierFile(msgspec.Struct, frozen=True):
    """A supplier's file as read.

    Attributes
    ----------
    unknown : tuple of str
        Headers that mean nothing here and were left out.
    words : str
        How the file was understood: its encoding, separator and decimal sign.
    """

    rows: tuple[SupplierItem, ...]
    troubles: tuple[RowTrouble, ...]
    unknown: tuple[str, ...]
    words: str


def _text_of(data: bytes, name: str) -> tuple[str, str]:
    if len(data) > LARGEST_BYTES:
        raise AplombError(f"{name} is over {LARGEST_BYTES / 1e6:.0f} MB; split it")
    if not data.strip(b"\x00\xef\xbb\xbf \r\n\t"):
        raise AplombError(f"{name} is empty; it needs a header line, then a line per ingredient")
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        try:
            return data.decode("utf-16"), "UTF-16"
        except UnicodeDecodeError:
            raise AplombError(
                f"{name} breaks off in the middle of its UTF-16 text; export it again as UTF-8"
            ) from None
    try:
        text, encoding = data.decode("utf-8-sig"), "UTF-8"
    except UnicodeDecodeError:
        text, encoding = data.decode("cp1252", errors="replace"), "Windows-1252"
    if "\x00" in text:
        raise AplombError(f"{name} is not text; export it as CSV")
    return text, encoding


def _separator(header: str) -> str:
    counts = {sign: header.count(sign) for sign in ";\t,|"}
    best = max(counts, key=lambda sign: counts[sign])
    return best if counts[best] else ","


def _decimal(separator: str, sample: str) -> DecimalSign:
    if separator == ",":
        return "."
    commas = len(re.findall(r"(?<![\d.])\d{1,5},\d{1,4}(?!\d)", sample))
    points = len(re.findall(r"(?<![\d,])\d{1,5}\.\d{1,4}(?!\d)", sample))
    return "," if commas > points else "."


def _column(header: str) -> str:
    words = re.sub(r"\(.*?\)|%|°|g\s*/\s*100\s*g|per 100\s*g", " ", header.casefold())
    words = re.sub(r"[^a-z0-9,.+-]+", "_", words).strip("_")
    solid = _SFC.fullmatch(words)
    if solid:
        return f"sfc {solid[1].replace(',', '.')}"
    return _HEADERS.get(words, "")


def _refuse_twins(columns: list[str], header: list[str], name: str) -> None:
    """Raise AplombError when two columns are of one kind: which one counts, nobody can know."""
    for column in dict.fromkeys(columns):
        heads = [
            head.strip()[:40] for head, each in zip(header, columns, strict=True) if each == column
        ]
        if column and len(heads) > 1:
            raise AplombError(
                f"{name} has {len(heads)} columns for “{column}”: {', '.join(heads)}. "
                "Keep only one."
            )


def read_supplier_file(
    data: bytes,
    pantry: Pantry,
    name: str = "this file",
    today: str = "",
    watch: Callable[[int], bool] | None = None,
) -> SupplierFile:
    """Read a supplier's file.

    Good lines and bad ones; nothing is taken yet.

    Parameters
    ----------
    data : bytes
        The whole file.
    pantry : Pantry
        Materials of the same key or name are replaced.
    name : str
        Of the file, for the errors.
    today : str
        Date of prices that have none, ISO 8601.
    watch : callable or None
        Takes how many lines are read; False stops.

    Raises
    ------
    AplombError
        When it is no table at all: empty, not text, without a name column, with two columns of
        one kind, too long; or when it was stopped.
    """
    text, encoding = _text_of(data, name)
    lines = text.lstrip("\r\n")
    first = lines.splitlines()[0] if lines else ""
    separator = _separator(first)
    decimal = _decimal(separator, lines[:200_000])
    reader = csv.reader(io.StringIO(lines, newline=""), delimiter=separator)
    try:
        header = next(reader)
    except (csv.Error, StopIteration) as error:
        raise AplombError(f"{name} cannot be read as a table: {error}") from None
    columns = [_column(cell) for cell in header]
    if "name" not in columns:
        raise AplombError(
            f"{name} has no column “name”; its first line has {', '.join(header[:6])[:120]}"
        )
    _refuse_twins(columns, header, name)
    rows: list[SupplierItem] = []
    troubles: list[RowTrouble] = []
    seen: dict[str, int] = {}
    taken: set[str] = set()
    names = {material.name.casefold(): material for material in pantry}
    number = 1
    try:
        for cells in reader:
            number += 1
            if not any(cell.strip() for cell in cells):
                continue
            if len(rows) + len(troubles) >= MOST_ROWS:
                raise AplombError(f"{name} has more than {MOST_ROWS} lines; split it")
            if watch is not None and number % WATCHED_EVERY == 0 and not watch(number):
                raise AplombError(f"{name}: stopped at line {number}; nothing was imported")
            found = SupplierRow(number, dict(zip(columns, cells, strict=False)), decimal)
            if wrong := too_many(cells, len(columns), separator):
                found.wrong.append(wrong)
            made = found.read(pantry, names, seen, taken, today)
            if isinstance(made, SupplierItem):
                rows.append(made)
                taken.add(made.item.key)
            else:
                troubles.append(made)
    except csv.Error as error:
        troubles.append(RowTrouble(number + 1, "", (f"cannot be read: {error}",)))
    unknown = tuple(
        head.strip()[:40]
        for head, column in zip(header, columns, strict=True)
        if not column and head.strip()
    )
    signs = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}
    words = f"{encoding}, {signs[separator]}, decimal {'comma' if decimal == ',' else 'point'}"
    return SupplierFile(tuple(rows), tuple(troubles), unknown, words)


def write_pantry(pantry: Pantry, keys: list[str] | None = None) -> bytes:
    """Write materials as a table that `read_supplier_file` reads.

    UTF-8 with a byte order mark, commas, decimal points.

    Parameters
    ----------
    keys : list of str or None
        Which; all when None.
    """
    materials = [pantry[key] for key in keys] if keys is not None else list(pantry)
    temps = sorted({temp for m in materials for temp, _ in m.sfc})
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    plain = [column for column in COLUMNS if column not in PERCENT]
    rows.writerow([*plain[:4], *PERCENT, *plain[4:], *(f"sfc_{temp:g}" for temp in temps)])
    for m in materials:
        pack = pantry.pack(m.key)
        solid = dict(m.sfc)
        cells: dict[str, object] = {
            "name": safe(m.name),
            "key": m.key,
            "group": m.group,
            "also": safe(m.also),
            "acid_kind": m.acid_kind,
            "measure_g_ml": plain_number(m.bulk_g_ml),
            "spread": plain_number(100 * m.bulk_spread, "g") if m.bulk_spread else "",
            "enclose_from_c": plain_number(m.enclose_c[0]) if m.enclose_c else "",
            "enclose_to_c": plain_number(m.enclose_c[1]) if m.enclose_c else "",
            "latent_kj_kg": plain_number(m.latent_kj_kg),
            "pack": f"{plain_number(pack.pack_g, '.10g')} g" if pack else "",
            "price": plain_number(pack.price) if pack else "",
            "price_date": pack.date if pack else "",
            "supplier": safe(pack.supplier) if pack else "",
            "allergens": "; ".join(m.allergens),
            "source": safe(m.source),
            "standing": m.standing,
        }
        rows.writerow(
            [
                *(cells[column] for column in plain[:4]),
                *(plain_number(100 * getattr(m.composition, column), ".6g") for column in PERCENT),
                *(cells[column] for column in plain[4:]),
                *(plain_number(solid.get(temp), "g") for temp in temps),
            ]
        )
    return b"\xef\xbb\xbf" + out.getvalue().encode()
