"""The reference data and the demo book that ship with the application, read when wanted."""

from functools import lru_cache

import msgspec

from aplomb.assets import asset
from aplomb.core.base.house import House
from aplomb.core.batch.made_batch import Outcome
from aplomb.core.opinion.opinion import SchoolBands
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Item, Pantry
from aplomb.core.study.study import Reference
from aplomb.core.trials.series import Series
from aplomb.core.trials.trial import Judged, Made, Piece


@lru_cache(maxsize=1)
def reference() -> Reference:
    """Load the shipped pantry and schools."""
    materials = msgspec.json.decode(asset("pantry.json").read_bytes(), type=list[Ingredient])
    schools = msgspec.json.decode(asset("schools.json").read_bytes(), type=list[SchoolBands])
    return Reference(Pantry(materials), {school.key: school for school in schools})


class DemoWant(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """So many of a product of the formula of that name."""

    formula: str
    product: str
    pieces: int


class DemoDemand(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What the demo's day wants."""

    name: str
    wants: tuple[DemoWant, ...]


class DemoFrozen(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Blocks of the formula of that name in the freezer."""

    formula: str
    blocks: int
    each_g: float
    turns: int
    made: str


class DemoBatch(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A batch of the formula of that name, as measured."""

    formula: str
    begun: str
    outcome: Outcome
    note: str = ""


class DemoTrial(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A trial of the demo's series, as measured on that day."""

    day: str
    variant: str
    made: Made
    pieces: tuple[Piece, ...]
    judged: Judged = Judged()
    leak_g: float | None = None
    failed: str = ""
    note: str = ""


class DemoSeries(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The demo's series of trials, of the product of the formula of that name."""

    series: Series
    formula: str
    product: str
    trials: tuple[DemoTrial, ...]


class DemoBook(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The invented demo book.

    Its house, prices, formulas in their order on the shelf, what is there, what the day wants and
    when by formula [min from midnight], and batches that were made.
    """

    house: House
    items: tuple[Item, ...]
    formulas: tuple[Formula, ...]
    stock: dict[str, float]
    frozen: tuple[DemoFrozen, ...]
    demand: DemoDemand
    ready: dict[str, int]
    batches: tuple[DemoBatch, ...]


@lru_cache(maxsize=1)
def demo() -> DemoBook:
    """Load the demo book."""
    return msgspec.json.decode(asset("demo.json").read_bytes(), type=DemoBook)


def demo_trials() -> DemoSeries:
    """Load the demo's series of trials: invented, with scatter, a failed bake, missing values."""
    return msgspec.json.decode(asset("demo_trials.json").read_bytes(), type=DemoSeries)


class Explained(msgspec.Struct, frozen=True):
    """A word of the trade: what it means, what else it is called, and the page where it is met."""

    word: str
    says: str
    also: tuple[str, ...] = ()
    page: str = ""


@lru_cache(maxsize=1)
def glossary() -> dict[str, Explained]:
    """Load the words of the trade, by word; the same that docs/glossary.md lists."""
    words = msgspec.json.decode(asset("glossary.json").read_bytes(), type=list[Explained])
    return {each.word: each for each in words}
