"""A formula as a JSON file: one documented object, checked whole before it is taken."""

import json
from pathlib import Path

import msgspec

from aplomb.core.errors import AplombError
from aplomb.core.paste.formula import Formula, check
from aplomb.core.paste.pantry import Pantry
from aplomb.exchange.files import read_bytes

FORMAT = "aplomb-formula"
VERSION = 1
LARGEST_BYTES = 5_000_000


class FormulaFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What stands in the file."""

    format: str
    version: int
    formula: Formula


def to_json(formula: Formula) -> bytes:
    """Write a formula as indented JSON, ending in a line feed."""
    body = msgspec.json.encode(FormulaFile(FORMAT, VERSION, formula))
    return msgspec.json.format(body, indent=2) + b"\n"


def from_json(data: bytes, pantry: Pantry, name: str = "this file") -> Formula:
    """Read a formula.

    Parameters
    ----------
    data : bytes
        The whole file, UTF-8, with or without a byte order mark.
    pantry : Pantry
        Every material must stand in it.
    name : str
        Of the file, for the errors.

    Returns
    -------
    Formula

    Raises
    ------
    AplombError
        When it is not JSON, cut off, of another program, newer, or holds a value that cannot be
        used; the text says where.
    """
    if len(data) > LARGEST_BYTES:
        raise AplombError(f"{name} is over {LARGEST_BYTES / 1e6:.0f} MB; a formula is far smaller")
    data = data.removeprefix(b"\xef\xbb\xbf")
    if not data.strip():
        raise AplombError(f"{name} is empty; a formula as JSON is wanted")
    try:
        found = json.loads(data)
    except UnicodeDecodeError:
        raise AplombError(f"{name} is not text in UTF-8; a formula as JSON is wanted") from None
    except json.JSONDecodeError as error:
        end = error.pos >= len(data.decode().rstrip()) - 1 or "Unterminated" in error.msg
        what = "is cut off" if end else "is not sound JSON"
        raise AplombError(
            f"{name} {what} at line {error.lineno}, sign {error.colno}: {error.msg}"
        ) from None
    except (RecursionError, ValueError):
        raise AplombError(f"{name} is nested or numbered beyond reading") from None
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise AplombError(f"{name} is not an Aplomb formula: “format” is not “{FORMAT}”")
    version = found.get("version")
    if not isinstance(version, int) or version > VERSION:
        raise AplombError(f"{name} is of version {version}; this Aplomb reads up to {VERSION}")
    try:
        formula = msgspec.json.decode(data, type=FormulaFile).formula
    except msgspec.DecodeError as error:
        raise AplombError(f"{name}: {error}") from None
    try:
        return check(formula, pantry)
    except AplombError as error:
        raise AplombError(f"{name}: {error}") from None


def schema() -> bytes:
    """Give the JSON Schema of the file, indented."""
    return msgspec.json.format(msgspec.json.encode(msgspec.json.schema(FormulaFile)), indent=2)


def read_formula(path: Path, pantry: Pantry) -> Formula:
    """Read a formula file; raises AplombError with the path's name in it."""
    return from_json(read_bytes(path, LARGEST_BYTES), pantry, path.name)
