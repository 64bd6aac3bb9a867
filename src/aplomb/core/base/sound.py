"""Values that can be kept: every number finite and within the bounds of its unit, every text whole.

Each check of a kind of value asks for what makes sense in the trade; this one is below them all. It
walks whatever stands in a value, so that a field that no check names has its bounds too.
"""

import re
from collections.abc import Iterator
from typing import Any

import msgspec

from aplomb.core.base.errors import Problems
from aplomb.core.base.texts import check_texts

BOUNDS = (
    ("_w_m2_k", 1e6), ("_kj_kg", 1e6), ("_g_ml", 1e3), ("_mm", 1e5), ("_um", 1e8), ("_g", 1e9),
    ("_kg", 1e6), ("_ml", 1e9), ("_pct", 1e5), ("_c", 5e3), ("_k", 5e3), ("_min", 1e7),
    ("_s", 1e10), ("_h", 1e5), ("_kw", 1e4), ("_kwh", 1e7), ("_px", 1e7), ("_spread", 1e3),
)  # fmt: skip
"""By the ending of a field's name: a number of it lies between minus that and that."""
LARGEST = 1e12
"""Bound of a number without a unit in its name."""
_MAY_BE_WILD = re.compile(rb"null|\d{4,}(?:\.\d*)?[,\]}]|[eE]\+?\d")
"""What a number that is none, or a large one, is written as in JSON; a closer look decides."""


def bound_of(name: str) -> float:
    """Give how large a number of a field may be, by the unit in its name."""
    return next((most for ending, most in BOUNDS if name.endswith(ending)), LARGEST)


def check_sound(value: msgspec.Struct, wrong: Problems) -> None:
    """Take every number and text in a value that cannot be kept, each with its place."""
    check_numbers(value, wrong)
    check_texts(value, wrong)


def check_numbers(value: msgspec.Struct, wrong: Problems) -> None:
    """Take every number in a value that is infinite, none, or beyond the bounds of its unit."""
    try:
        if _MAY_BE_WILD.search(msgspec.json.encode(value)) is None:
            return
    except (UnicodeEncodeError, OverflowError):
        pass  # half a sign, or an endless number: the closer look finds it
    for place, name, number in numbers_in(value):
        most = bound_of(name)
        before = len(wrong.found)
        wrong.number(place, number, -most, most, "")
        if len(wrong.found) > before and any(
            each.startswith(f"{place}:") for each in wrong.found[:before]
        ):
            wrong.found.pop()


def numbers_in(value: Any, place: str = "", name: str = "") -> Iterator[tuple[str, str, float]]:
    """Give every number in a value: its place, ``products 1, inner_mm``, its field, itself."""
    if isinstance(value, bool):
        return
    if isinstance(value, int | float):
        yield place or "number", name, value
    elif isinstance(value, msgspec.Struct):
        for field in value.__struct_fields__:
            inside = f"{place}, {field}" if place else field
            yield from numbers_in(getattr(value, field), inside, field)
    elif isinstance(value, dict):
        for key, each in value.items():
            yield from numbers_in(key, f"{place}, a key", name)
            yield from numbers_in(each, f"{place}, {str(key)[:40]}", str(key))
    elif isinstance(value, tuple | list | set | frozenset):
        for i, each in enumerate(value, 1):
            yield from numbers_in(each, f"{place} {i}", name)
