"""A formula as a JSON file: one documented object, checked whole before it is taken."""

import json
from inspect import cleandoc
from pathlib import Path
from typing import Any

import msgspec

from aplomb.core.base.errors import AplombError
from aplomb.core.base.texts import LONGEST_TEXT, texts_in, tidied_text, unwanted_in
from aplomb.core.paste.checking import check
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.ingredient import Ingredient, check_material
from aplomb.core.paste.pantry import Item, Pack, Pantry, check_item
from aplomb.disk import read_bytes

FORMAT = "aplomb-formula"
VERSION = 9
LARGEST_BYTES = 5_000_000


class FormulaFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What stands in the file.

    Attributes
    ----------
    materials : tuple of Ingredient
        Own materials that the formula uses, so that it can be read elsewhere. Prices stay home.
    """

    format: str
    version: int
    formula: Formula
    materials: tuple[Ingredient, ...] = ()


def to_json(formula: Formula, pantry: Pantry | None = None) -> bytes:
    """Write a formula as indented JSON, ending in a line feed.

    Parameters
    ----------
    pantry : Pantry or None
        Where its own materials stand; None leaves them out.
    """
    wanted = set(formula.materials())
    own: dict[str, Ingredient] = {}
    while pantry is not None and wanted:
        key = wanted.pop()
        if key not in own and pantry.is_own(key):
            own[key] = pantry[key]
            wanted |= {share.material for share in own[key].made_of}
    materials = tuple(own[key] for key in sorted(own))
    body = msgspec.json.encode(FormulaFile(FORMAT, VERSION, formula, materials))
    return msgspec.json.format(body, indent=2) + b"\n"


class TakenIn(msgspec.Struct, frozen=True):
    """A formula from a file, and what the pantry must take to hold it.

    Attributes
    ----------
    items : tuple of Item
        Own materials, and prices of version 1, that the pantry has not.
    kept : tuple of str
        Names of materials that the pantry has already and whose figures in the file differ.
    """

    formula: Formula
    items: tuple[Item, ...]
    kept: tuple[str, ...]


def from_json(data: bytes, pantry: Pantry, name: str = "this file") -> TakenIn:
    """Read a formula.

    Parameters
    ----------
    data : bytes
        The whole file, UTF-8, with or without a byte order mark.
    pantry : Pantry
        Every material must stand in it or in the file.
    name : str
        Of the file, for the errors.

    Raises
    ------
    AplombError
        When it is not JSON, cut off, of another program, newer, or holds a value that cannot be
        used; the text says where.
    """
    if len(data) > LARGEST_BYTES:
        raise AplombError(
            f"{name} is over {LARGEST_BYTES / 1000000.0:.0f} MB, far too "
            "large for a formula; choose another file"
        )
    data = data.removeprefix(b"\xef\xbb\xbf")
    if not data.strip():
        raise AplombError(f"{name} is empty; it should be a formula as JSON")
    try:
        found = json.loads(data.decode())  # strictly: bytes alone would let half signs through
    except UnicodeDecodeError as error:
        raise AplombError(
            f"{name} is not text in UTF-8 (byte {error.start + 1}); it should be a formula as JSON"
        ) from None
    except json.JSONDecodeError as error:
        end = error.pos >= len(data.decode().rstrip()) - 1 or "Unterminated" in error.msg
        where = f"line {error.lineno}, character {error.colno}: {error.msg}"
        raise AplombError(
            f"{name} is cut off at {where}" if end else f"{name} is not valid JSON at {where}"
        ) from None
    except (RecursionError, ValueError):
        raise AplombError(
            f"{name} cannot be read: it is nested too deeply, or its numbers are too long"
        ) from None
    for place, text in texts_in(found):
        unfit = unwanted_in(text, LONGEST_TEXT)
        if unfit:
            raise AplombError(f"{name}: {tidied_text(place)[-80:]}: {unfit}")
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise AplombError(f"{name} is not an Aplomb formula: “format” is not “{FORMAT}”")
    version = found.get("version")
    if not isinstance(version, int) or version > VERSION:
        raise AplombError(
            f"{name} has format version {version}; this Aplomb reads up to version {VERSION}"
        )
    packs = _prices_of_version_1(found) if version == 1 else {}
    try:
        file = msgspec.convert(found, type=FormulaFile)
    except msgspec.ValidationError as error:
        raise AplombError(f"{name}: {error}") from None
    try:
        for material in file.materials:
            check_material(material)
        new = {m.key: m for m in file.materials if m.key not in pantry}
        items = [Item(key, material) for key, material in new.items()]
        items += [
            Item(key, pantry.items[key].material if pantry.is_own(key) else None, pack)
            for key, pack in packs.items()
            if key in pantry and pantry.pack(key) is None
        ]
        items = [check_item(item) for item in items]
        check(file.formula, pantry.holding([*pantry.items.values(), *items]))
    except AplombError as error:
        raise AplombError(f"{name}: {error}") from None
    kept = tuple(m.name for m in file.materials if m.key in pantry and pantry[m.key] != m)
    return TakenIn(file.formula, tuple(items), kept)


def _prices_of_version_1(found: dict[str, Any]) -> dict[str, Pack]:
    """Take the prices out of a formula of version 1, where they stood."""
    formula = found.get("formula")
    if not isinstance(formula, dict):
        return {}
    formula.pop("currency", None)
    prices = formula.pop("prices", [])
    try:
        return {str(p["material"]): Pack(float(p["pack_g"]), float(p["price"])) for p in prices}
    except (TypeError, KeyError, ValueError):
        return {}


def schema() -> bytes:
    """Give the JSON Schema of the file, indented; the same under every Python."""
    found = _described(msgspec.json.schema(FormulaFile))
    return msgspec.json.format(msgspec.json.encode(found), indent=2)


def _described(part: Any) -> Any:
    """Take the indentation out of descriptions: some Pythons leave it in docstrings."""
    if isinstance(part, dict):
        return {
            key: cleandoc(each)
            if key == "description" and isinstance(each, str)
            else _described(each)
            for key, each in part.items()
        }
    return [_described(each) for each in part] if isinstance(part, list) else part


def read_formula(path: Path, pantry: Pantry) -> TakenIn:
    """Read a formula file; raises AplombError with the path's name in it."""
    return from_json(read_bytes(path, LARGEST_BYTES), pantry, path.name)
