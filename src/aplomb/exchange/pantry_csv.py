"""Materials from a supplier's sheet as CSV, and to one: composition, solid fat, price, allergens.

One header line, one material a line. Percentages are of the product as bought; what is not there
is not known. Commas, semicolons or tabs; decimal points or commas; UTF-8, UTF-16 or Windows-1252.
"""

import csv
import io
import math
import re

import msgspec
from msgspec.structs import replace

from aplomb.core.composition import Composition
from aplomb.core.errors import AmountError, AplombError, FormulaError
from aplomb.core.paste.ingredient import (
    ALLERGENS,
    GROUPS,
    AcidKind,
    Ingredient,
    Standing,
)
from aplomb.core.paste.pantry import Item, Pack, Pantry, check_item
from aplomb.core.quantity import DecimalSign, parse_amount, read_number
from aplomb.core.units import Kind

LARGEST_BYTES = 20_000_000
MOST_ROWS = 20_000
LONGEST_CELL = 2_000

_PERCENT = (
    "water", "fat", "protein", "carbohydrate", "sugar", "fibre", "salt", "ash", "acid",
    "milk_solids",
)  # fmt: skip
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


class RowTrouble(msgspec.Struct, frozen=True):
    """Why a line of the sheet cannot be taken."""

    row: int
    name: str
    problems: tuple[str, ...]


class SheetRow(msgspec.Struct, frozen=True):
    """A line of the sheet that can be taken.

    Attributes
    ----------
    row : int
        Its place in the file, the header being 1.
    item : Item
    instead_of : str
        Name of the material it replaces; empty for a new one.
    """

    row: int
    item: Item
    instead_of: str


class Sheet(msgspec.Struct, frozen=True):
    """A supplier's sheet as read.

    Attributes
    ----------
    rows : tuple of SheetRow
    troubles : tuple of RowTrouble
    unknown : tuple of str
        Headers that mean nothing here and were left out.
    words : str
        How the file was understood: its encoding, separator and decimal sign.
    """

    rows: tuple[SheetRow, ...]
    troubles: tuple[RowTrouble, ...]
    unknown: tuple[str, ...]
    words: str


def _text_of(data: bytes, name: str) -> tuple[str, str]:
    if len(data) > LARGEST_BYTES:
        raise AplombError(f"{name} is over {LARGEST_BYTES / 1e6:.0f} MB; split it")
    if not data.strip(b"\x00\xef\xbb\xbf \r\n\t"):
        raise AplombError(f"{name} is empty; a sheet with a header line is wanted")
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        try:
            return data.decode("utf-16"), "UTF-16"
        except UnicodeDecodeError:
            raise AplombError(f"{name} is cut off in its UTF-16; export it as UTF-8") from None
    try:
        text, encoding = data.decode("utf-8-sig"), "UTF-8"
    except UnicodeDecodeError:
        text, encoding = data.decode("cp1252", errors="replace"), "Windows-1252"
    if "\x00" in text:
        raise AplombError(f"{name} is not text; export the sheet as CSV")
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


def read_sheet(data: bytes, pantry: Pantry, name: str = "this file", today: str = "") -> Sheet:
    """Read a supplier's sheet.

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

    Returns
    -------
    Sheet
        Good lines and bad ones; nothing is taken yet.

    Raises
    ------
    AplombError
        When it is no sheet at all: empty, not text, without a name column, too long.
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
        raise AplombError(f"{name} cannot be read as a sheet: {error}") from None
    columns = [_column(cell) for cell in header]
    if "name" not in columns:
        raise AplombError(
            f"{name} has no column “name”; its first line has {', '.join(header[:6])[:120]}"
        )
    rows: list[SheetRow] = []
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
            found = _Line(number, dict(zip(columns, cells, strict=False)), decimal)
            made = found.read(pantry, names, seen, taken, today)
            if isinstance(made, SheetRow):
                rows.append(made)
                taken.add(made.item.key)
            else:
                troubles.append(made)
    except csv.Error as error:
        troubles.append(RowTrouble(number + 1, "", (f"cannot be read: {error}",)))
    unknown = tuple(
        head.strip()[:40] for head, column in zip(header, columns, strict=True)
        if not column and head.strip()
    )  # fmt: skip
    signs = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}
    words = f"{encoding}, {signs[separator]}, decimal {'comma' if decimal == ',' else 'point'}"
    return Sheet(tuple(rows), tuple(troubles), unknown, words)


class _Line:
    """One line of a sheet while it is read; everything that is wrong is collected."""

    def __init__(self, row: int, cells: dict[str, str], decimal: DecimalSign) -> None:
        self.row, self.decimal = row, decimal
        self.cells = {k: v.strip()[:LONGEST_CELL] for k, v in cells.items() if k}
        self.wrong: list[str] = []

    def text(self, column: str) -> str:
        found = self.cells.get(column, "")
        if found.startswith(("=", "+", "@")):
            self.wrong.append(f"{column}: begins with “{found[0]}”, as a spreadsheet’s sum does")
            return ""
        return found

    def number(self, column: str) -> float | None:
        found = self.text(column).replace("%", "").strip()
        if not found or found in ("-", "–", "n/a", "na"):
            return None
        sign = -1.0 if found.startswith(("-", "−")) else 1.0
        bare = found.lstrip("<≤~-−").strip()
        try:
            if not re.fullmatch(r"[\d.,\s\u00a0\u2009\u202f]+", bare):
                raise AmountError("", bare, 0, 1)
            value = sign * read_number(bare, self.decimal)
        except (AmountError, ValueError):
            self.wrong.append(f"{column}: “{found[:30]}” is no number")
            return None
        return value if math.isfinite(value) else None

    def read(
        self, pantry: Pantry, names: dict[str, Ingredient], seen: dict[str, int],
        taken: set[str], today: str,
    ) -> SheetRow | RowTrouble:  # fmt: skip
        name = " ".join(self.text("name").split())
        key, old = self._identity(name, pantry, names, seen, taken)
        material = self._material(key, name, old)
        pack = self._pack(pantry.pack(key), today)
        only_price = (
            old is not None
            and not any(self.cells.get(c) for c in _PERCENT)
            and not any(c.startswith("sfc ") and v for c, v in self.cells.items())
        )
        item = Item(key, None if only_price else material, pack)
        if only_price and pantry.is_own(key):
            item = replace(item, material=pantry[key])
        if not self.wrong:
            try:
                check_item(item)
            except FormulaError as error:
                self.wrong += [problem.rstrip(".") for problem in error.problems]
        if self.wrong:
            return RowTrouble(self.row, name[:60], tuple(self.wrong))
        return SheetRow(self.row, item, old.name if old else "")

    def _identity(
        self, name: str, pantry: Pantry, names: dict[str, Ingredient], seen: dict[str, int],
        taken: set[str],
    ) -> tuple[str, Ingredient | None]:  # fmt: skip
        folded = name.casefold()
        if not name:
            self.wrong.append("name: is missing")
            return "", None
        if folded in seen:
            self.wrong.append(f"name: stands in line {seen[folded]} already")
        seen.setdefault(folded, self.row)
        key = re.sub(r"[^a-z0-9_]", "", self.text("key").casefold())[:60]
        if key and key in pantry:
            return key, pantry[key]
        if folded in names:
            return names[folded].key, names[folded]
        key = key or pantry.free_key(name)
        base, number = key, 2
        while key in taken:
            key, number = f"{base}_{number}", number + 1
        return key, None

    def _material(self, key: str, name: str, old: Ingredient | None) -> Ingredient:
        word = self.text("group").casefold() or (old.group if old else "other")
        group = next((known for known in GROUPS if known == word), None)
        if group is None:
            self.wrong.append(f"group: “{word[:30]}” is none of {', '.join(GROUPS)}")
        parts = {column: self.number(column) for column in _PERCENT}
        composition = Composition(
            **{column: (value or 0.0) / 100 for column, value in parts.items()}
        )
        sfc = sorted(
            (float(column[4:]), value)
            for column in self.cells
            if column.startswith("sfc ") and (value := self.number(column)) is not None
        )
        low, high = self.number("enclose_from_c"), self.number("enclose_to_c")
        if (low is None) != (high is None):
            self.wrong.append("enclose: both temperatures are wanted, or none")
        bulk, spread = self.number("measure_g_ml"), self.number("spread")
        kind = self.text("acid_kind").casefold()
        if kind not in ("", "acetic", "citric"):
            self.wrong.append(f"acid_kind: “{kind[:20]}” is neither acetic nor citric")
        acid_kind: AcidKind = "citric" if kind == "citric" else "acetic" if parts["acid"] else ""
        standing: Standing = "own"
        if self.text("standing") in ("std", "calc", "trade", "memory"):
            standing = msgspec.convert(self.text("standing"), type=Standing)
        return Ingredient(
            key=key,
            name=name,
            group=group or "other",
            composition=composition,
            standing=standing,
            source=self.text("source")[:200] or "supplier’s sheet",
            allergens=self._allergens(),
            bulk_g_ml=bulk,
            bulk_spread=(spread or 0.0) / 100,
            enclose_c=(low, high) if low is not None and high is not None else None,
            also=self.text("also")[:200],
            acid_kind=acid_kind,
            sfc=tuple(sfc),
        )

    def _allergens(self) -> tuple[str, ...]:
        found = []
        for word in re.split(r"[;,|/]", self.text("allergens")):
            word = " ".join(word.casefold().split())
            if word in ("", "none", "-", "no"):
                continue
            known = _ALLERGEN_WORDS.get(word)
            if known is None:
                self.wrong.append(f"allergens: “{word[:30]}” is none of {', '.join(ALLERGENS)}")
            elif known not in found:
                found.append(known)
        return tuple(found)

    def _pack(self, old: Pack | None, today: str) -> Pack | None:
        price = self.number("price")
        text = self.text("pack")
        if price is None:
            return old
        if not text:
            if old is None:
                self.wrong.append("pack: is missing beside the price")
                return None
            pack_g = old.pack_g
        else:
            try:
                amount = parse_amount(text, self.decimal)
            except AmountError as error:
                self.wrong.append(f"pack: {error.message}")
                return None
            if amount.kind is not Kind.MASS:
                self.wrong.append(f"pack: “{text[:30]}” is no weight")
                return None
            pack_g = amount.value
        return Pack(pack_g, price, self._date() or today, self.text("supplier")[:80])

    def _date(self) -> str:
        text = self.text("price_date")
        if not text:
            return ""
        iso = re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})", text)
        day = re.fullmatch(r"(\d{1,2})[./](\d{1,2})[./](\d{4})", text)
        if iso:
            year, month, date = (int(part) for part in iso.groups())
        elif day:
            date, month, year = (int(part) for part in day.groups())
            if "/" in text and date <= 12 and month <= 12 and date != month:
                self.wrong.append(f"price_date: “{text}” could be two days; write 2026-11-23")
        else:
            self.wrong.append(f"price_date: “{text[:20]}” cannot be read; write 2026-11-23")
            return ""
        if not (1 <= month <= 12 and 1 <= date <= 31):
            self.wrong.append(f"price_date: “{text}” is no day")
            return ""
        return f"{year:04d}-{month:02d}-{date:02d}"


_ALLERGEN_WORDS = {allergen: allergen for allergen in ALLERGENS} | {
    "gluten": "cereals containing gluten", "wheat": "cereals containing gluten",
    "barley": "cereals containing gluten", "rye": "cereals containing gluten",
    "oats": "cereals containing gluten", "spelt": "cereals containing gluten",
    "dairy": "milk", "lactose": "milk", "eggs": "egg", "soy": "soya", "soybeans": "soya",
    "nut": "nuts", "almond": "nuts", "almonds": "nuts", "hazelnut": "nuts", "walnut": "nuts",
    "peanut": "peanuts", "lupine": "lupin", "sulfites": "sulphites", "so2": "sulphites",
}  # fmt: skip


def _safe(text: str) -> str:
    """Keep a spreadsheet from taking a text for a sum."""
    return "'" + text if text.startswith(("=", "+", "-", "@", "\t", "\r")) else text


def write_sheet(pantry: Pantry, keys: list[str] | None = None) -> bytes:
    """Write materials as a sheet that `read_sheet` reads.

    Parameters
    ----------
    pantry : Pantry
    keys : list of str or None
        Which; all when None.

    Returns
    -------
    bytes
        UTF-8 with a byte order mark, commas, decimal points.
    """
    materials = [pantry[key] for key in keys] if keys is not None else list(pantry)
    temps = sorted({temp for m in materials for temp, _ in m.sfc})
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    plain = [column for column in COLUMNS if column not in _PERCENT]
    rows.writerow([*plain[:4], *_PERCENT, *plain[4:], *(f"sfc_{temp:g}" for temp in temps)])
    for m in materials:
        pack = pantry.pack(m.key)
        solid = dict(m.sfc)
        cells: dict[str, object] = {
            "name": _safe(m.name), "key": m.key, "group": m.group, "also": _safe(m.also),
            "acid_kind": m.acid_kind, "measure_g_ml": "" if m.bulk_g_ml is None else m.bulk_g_ml,
            "spread": f"{100 * m.bulk_spread:g}" if m.bulk_spread else "",
            "enclose_from_c": m.enclose_c[0] if m.enclose_c else "",
            "enclose_to_c": m.enclose_c[1] if m.enclose_c else "",
            "pack": f"{pack.pack_g:.10g} g" if pack else "",
            "price": pack.price if pack else "", "price_date": pack.date if pack else "",
            "supplier": _safe(pack.supplier) if pack else "",
            "allergens": "; ".join(m.allergens), "source": _safe(m.source),
            "standing": m.standing,
        }  # fmt: skip
        rows.writerow(
            [*(cells[column] for column in plain[:4]),
             *(f"{100 * getattr(m.composition, column):.6g}" for column in _PERCENT),
             *(cells[column] for column in plain[4:]),
             *(f"{solid[temp]:g}" if temp in solid else "" for temp in temps)]
        )  # fmt: skip
    return b"\xef\xbb\xbf" + out.getvalue().encode()
