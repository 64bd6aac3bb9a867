"""A case read from its file: every field known, every number one that can be used."""

import re
import sys
from pathlib import Path
from typing import TypeVar

import msgspec

from aplomb.core.base.errors import AplombError
from aplomb.disk import read_bytes

MOST_BYTES = 64 * 2**20
T = TypeVar("T")


def read_case(path: str, kind: type[T]) -> T:
    """Read a case.

    Parameters
    ----------
    path : str
        Its file, or ``-`` for standard input.
    kind : type
        A struct that forbids unknown fields.

    Raises
    ------
    AplombError
        Naming the field that is wrong, missing or unknown.
    """
    if path == "-":
        raw = sys.stdin.buffer.read(MOST_BYTES + 1)
        name = "standard input"
    else:
        raw = read_bytes(Path(path), MOST_BYTES, pipes=True)
        name = Path(path).name
    if len(raw) > MOST_BYTES:
        raise AplombError(f"{name}: too large; a case can have up to {MOST_BYTES // 2**20} MB")
    return decode_case(raw, kind, name)


def is_formula(path: str) -> bool:
    """Say whether a source is a formula or a book, and no case."""
    if ".aplomb" in path:
        return True
    if path == "-" or Path(path).is_fifo():  # a pipe can be read once only
        return False
    head = read_bytes(Path(path), 4096)
    return re.search(rb'"format"\s*:\s*"aplomb-formula"', head) is not None


def decode_case(raw: bytes, kind: type[T], name: str = "the case") -> T:
    """Read a case from its bytes.

    Parameters
    ----------
    raw : bytes
        JSON in UTF-8.
    kind : type
        A struct that forbids unknown fields.
    name : str
        What it is called in an error.

    Raises
    ------
    AplombError
        Naming the field.
    """
    try:
        return msgspec.json.decode(raw, type=kind)
    except msgspec.ValidationError as error:
        raise AplombError(_words(str(error))) from None
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise AplombError(f"{name} is not valid JSON: {error}") from None
    except RecursionError:
        raise AplombError(f"{name} is nested too deep to be read") from None


def _words(said: str) -> str:
    """Say what msgspec said with the field first: ``phases[1].minutes: Expected `float`, …``."""
    what, _, where = said.partition(" - at ")
    place = re.sub(r"^`?\$\.?|`$", "", where.strip())
    unknown = re.fullmatch(r"Object contains unknown field `(.*)`", what)
    missing = re.fullmatch(r"Object missing required field `(.*)`", what)
    if unknown or missing:
        field = (unknown or missing)[1]  # type: ignore[index]
        field = f"{place}.{field}" if place else field
        return f"{field}: {'is not a field of this case' if unknown else 'is missing; give it'}"
    what = f"{what[:1].lower()}{what[1:]}".replace("`", "")
    return f"{place}: {what}" if place else f"the case: {what}"
