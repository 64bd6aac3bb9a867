"""What ships with the application: reference data, the demo book, fonts and icons."""

from functools import lru_cache
from importlib import resources
from importlib.resources.abc import Traversable

import msgspec

from aplomb.core.opinion.opinion import SchoolBands
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Pantry
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


def demo_formulas() -> list[Formula]:
    """Load the formulas of the demo book, in their order on the shelf."""
    return msgspec.json.decode(asset("demo.json").read_bytes(), type=list[Formula])
