"""One line of a supplier's file, read with all that is wrong in it collected."""

import math
import re

import msgspec
from msgspec.structs import replace

from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import AmountError, FormulaError
from aplomb.core.base.figures import DecimalSign
from aplomb.core.base.numbers import read_number
from aplomb.core.base.quantity import parse_amount
from aplomb.core.base.texts import LONGEST_TEXT, tidied_text, unwanted_in
from aplomb.core.base.units import Kind
from aplomb.core.paste.ingredient import (
    ALLERGENS,
    GROUPS,
    AcidKind,
    Ingredient,
    Standing,
)
from aplomb.core.paste.pantry import Item, Pack, Pantry, check_item
from aplomb.exchange.cells import taken_back

PERCENT = (
    "water", "fat", "protein", "carbohydrate", "sugar", "fibre", "salt", "ash", "acid",
    "milk_solids",
)  # fmt: skip


class RowTrouble(msgspec.Struct, frozen=True):
    """Why a line of the file cannot be taken."""

    row: int
    name: str
    problems: tuple[str, ...]


class SupplierItem(msgspec.Struct, frozen=True):
    """A line of the file that can be taken.

    Attributes
    ----------
    row : int
        Its place in the file, the header being 1.
    instead_of : str
        Name of the material it replaces; empty for a new one.
    """

    row: int
    item: Item
    instead_of: str


class SupplierRow:
    """One line of such a file while it is read; everything that is wrong is collected."""

    def __init__(self, row: int, cells: dict[str, str], decimal: DecimalSign) -> None:
        self.row, self.decimal = row, decimal
        self.cells = {k: v.strip() for k, v in cells.items() if k}
        self.wrong: list[str] = []
        for column, cell in self.cells.items():
            unfit = unwanted_in(cell, LONGEST_TEXT)
            if unfit:
                self.wrong.append(f"{column}: {unfit}")
                self.cells[column] = tidied_text(cell[:LONGEST_TEXT])

    def text(self, column: str) -> str:
        """Give a cell as text; what a spreadsheet would take for a sum is refused."""
        found = self.cells.get(column, "")
        if (plain := taken_back(found)) != found:
            return plain.strip()
        if found.startswith(("=", "+", "@")):
            self.wrong.append(
                f"{column}: starts with “{found[0]}”, like a sum in a spreadsheet; remove it"
            )
            return ""
        return found

    def number(self, column: str) -> float | None:
        """Give a cell as a number; None for an empty one, or for one that is none and is told."""
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
            self.wrong.append(f"{column}: “{found[:30]}” is not a number")
            return None
        if not math.isfinite(value):
            self.wrong.append(f"{column}: “{found[:30]}…” is too large")
            return None
        return value

    def read(
        self,
        pantry: Pantry,
        names: dict[str, Ingredient],
        seen: dict[str, int],
        taken: set[str],
        today: str,
    ) -> SupplierItem | RowTrouble:
        """Read the row: a material with its price, or why it cannot be one."""
        name = " ".join(self.text("name").split())
        key, old = self._identity(name, pantry, names, seen, taken)
        material = self._material(key, name, old)
        pack = self._pack(pantry.pack(key), today)
        only_price = (
            old is not None
            and not any(self.cells.get(c) for c in PERCENT)
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
        return SupplierItem(self.row, item, old.name if old else "")

    def _identity(
        self,
        name: str,
        pantry: Pantry,
        names: dict[str, Ingredient],
        seen: dict[str, int],
        taken: set[str],
    ) -> tuple[str, Ingredient | None]:
        folded = name.casefold()
        if not name:
            self.wrong.append("name: is missing")
            return "", None
        if folded in seen:
            self.wrong.append(f"name: already used on line {seen[folded]}")
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
            self.wrong.append(f"group: “{word[:30]}” must be one of {', '.join(GROUPS)}")
        parts = {column: self.number(column) for column in PERCENT}
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
            self.wrong.append("enclose: give both temperatures, or neither")
        bulk, spread = self.number("measure_g_ml"), self.number("spread")
        kind = self.text("acid_kind").casefold()
        if kind not in ("", "acetic", "citric"):
            self.wrong.append(f"acid_kind: “{kind[:20]}” must be acetic or citric")
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
            source=self.text("source") or "supplier’s data",
            allergens=self._allergens(),
            bulk_g_ml=bulk,
            bulk_spread=(spread or 0.0) / 100,
            enclose_c=(low, high) if low is not None and high is not None else None,
            also=self.text("also"),
            acid_kind=acid_kind,
            sfc=tuple(sfc),
            latent_kj_kg=self.number("latent_kj_kg"),
        )

    def _allergens(self) -> tuple[str, ...]:
        found = []
        for word in re.split(r"[;,|/]", self.text("allergens")):
            word = " ".join(word.casefold().split())
            if word in ("", "none", "-", "no"):
                continue
            known = _ALLERGEN_WORDS.get(word)
            if known is None:
                self.wrong.append(f"allergens: “{word[:30]}” must be one of {', '.join(ALLERGENS)}")
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
                self.wrong.append("pack: missing; a price needs its pack size")
                return None
            pack_g = old.pack_g
        else:
            try:
                amount = parse_amount(text, self.decimal)
            except AmountError as error:
                self.wrong.append(f"pack: {error.message}")
                return None
            if amount.kind is not Kind.MASS:
                self.wrong.append(f"pack: “{text[:30]}” is not a weight")
                return None
            pack_g = amount.value
        return Pack(pack_g, price, self._date() or today, self.text("supplier"))

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
                self.wrong.append(
                    f"price_date: “{text}” could be either of two dates; write it like 2026-11-23"
                )
        else:
            self.wrong.append(f"price_date: “{text[:20]}” cannot be read; write it like 2026-11-23")
            return ""
        if not (1 <= month <= 12 and 1 <= date <= 31):
            self.wrong.append(f"price_date: “{text}” is not a date")
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
