"""Values that can be kept: every number finite and within the bounds of its unit, every text whole.

Each check of a kind of value asks for what makes sense in the trade; this one is below them all. It
walks whatever stands in a value, so that a field that no check names has its bounds too.
"""

from collections.abc import Iterator
from functools import cache
from typing import Any

import msgspec

from aplomb.core.base.errors import Problems
from aplomb.core.base.texts import LONGEST_TEXT, check_texts

BOUNDS = (
    ("_w_m2_k", 1e6), ("_kj_kg", 1e6), ("_g_ml", 1e3), ("_mm", 1e5), ("_um", 1e8), ("_g", 1e9),
    ("_kg", 1e6), ("_ml", 1e9), ("_pct", 1e5), ("_c", 5e3), ("_k", 5e3), ("_min", 1e7),
    ("_s", 1e10), ("_h", 1e5), ("_kw", 1e4), ("_kwh", 1e7), ("_px", 1e7), ("_spread", 1e3),
)  # fmt: skip
"""By the ending of a field's name: a number of it lies between minus that and that."""
LARGEST = 1e12
"""Bound of a number without a unit in its name."""


MOST_KNOWN = 5000
"""So many parts of values are known to be sound [-]."""
_sound: dict[int, msgspec.Struct] = {}
"""An edit changes one line: the other parts of a value are the very ones of before, which never
change. Each is held here, so that no other can have its identity."""


@cache
def bound_of(name: str) -> float:
    """Give how large a number of a field may be, by the unit in its name."""
    return next((most for ending, most in BOUNDS if name.endswith(ending)), LARGEST)


def check_sound(value: msgspec.Struct, wrong: Problems, longest: int = LONGEST_TEXT) -> None:
    """Take every number and text in a value that cannot be kept, each with its place."""
    check_numbers(value, wrong)
    check_texts(value, wrong, longest)


def check_numbers(value: msgspec.Struct, wrong: Problems) -> None:
    """Take every number in a value that is infinite, none, or beyond the bounds of its unit."""
    if not _is_wild(value, LARGEST):  # nearly always, and in a tenth of the time
        return
    for place, name, number in numbers_in(value):
        most = bound_of(name)
        if not -most <= number <= most:  # none at all is not, either
            told = len(wrong.told)
            wrong.number(place, number, -most, most, "")
            if any(each.startswith(f"{place}:") for each in wrong.told[:told]):
                wrong.told.pop()


def _is_wild(value: Any, most: float) -> bool:
    """Tell whether some number in a value is beyond its bounds, without saying which."""
    kind = type(value)
    if kind is float or kind is int:
        return not -most <= value <= most
    if kind is str or kind is bool or value is None:
        return False
    if isinstance(value, msgspec.Struct):
        if _sound.get(id(value)) is value:
            return False
        for field in value.__struct_fields__:
            inner = getattr(value, field)
            if type(inner) is not str and _is_wild(inner, bound_of(field)):
                return True
        if len(_sound) >= MOST_KNOWN:
            _sound.clear()
        _sound[id(value)] = value
        return False
    if isinstance(value, dict):
        return any(
            _is_wild(key, most) or _is_wild(each, bound_of(key) if type(key) is str else most)
            for key, each in value.items()
        )
    if isinstance(value, tuple | list | set | frozenset):
        return any(_is_wild(each, most) for each in value)
    return isinstance(value, int | float) and not -most <= value <= most


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
