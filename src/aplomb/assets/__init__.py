"""What ships with the application: reference data, the demo book, fonts and icons."""

from functools import lru_cache
from importlib import resources
from importlib.resources.abc import Traversable

import msgspec

from aplomb.core.house import House
from aplomb.core.opinion.opinion import SchoolBands
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Item, Pantry
from aplomb.core.study import Reference


def asset(*path: str) -> Traversable:
    """Give a shipped file, as ``asset("icons", "shelf.svg")``."""
    return resources.files(__name__).joinpath(*path)


@lru_cache(maxsize=1)
def reference() -> Reference:
    """Load the shipped pantry and schools.

    Returns
    -------
    Reference
    """
    materials = msgspec.json.decode(asset("pantry.json").read_bytes(), type=list[Ingredient])
    schools = msgspec.json.decode(asset("schools.json").read_bytes(), type=list[SchoolBands])
    return Reference(Pantry(materials), {school.key: school for school in schools})


class DemoBook(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The invented demo book: its house, prices, and formulas in their order on the shelf."""

    house: House
    items: tuple[Item, ...]
    formulas: tuple[Formula, ...]


@lru_cache(maxsize=1)
def demo() -> DemoBook:
    """Load the demo book."""
    return msgspec.json.decode(asset("demo.json").read_bytes(), type=DemoBook)
