"""What a book's store means: house, materials, prices, stock, demand, batches, trials, bands."""

from collections.abc import Callable, Collection, Iterable, Mapping
from typing import TypeVar

import msgspec
from msgspec.structs import replace

from aplomb.book.entry import Entry
from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House, check_house
from aplomb.core.batch.made_batch import MadeBatch, check_made_batch
from aplomb.core.batch.stock import Demand, Stock, check_demand, check_stock
from aplomb.core.day.sheet import DaySheet, check_day_sheet
from aplomb.core.opinion.own_bands import OwnBands, check_own_bands, with_own_bands
from aplomb.core.paste.pantry import Item, Pantry, check_item
from aplomb.core.study.study import Reference
from aplomb.core.trials.series import Series, check_series
from aplomb.core.trials.trial import Trial, check_trial
from aplomb.work.figures.local import kitchen_day

Kind = TypeVar("Kind")
ASIDE = "aside/"
"""Before the key of a row that could not be read when another took its place."""
HOUSE, ITEM, STOCK, DEMAND, RECORD = "house", "item/", "stock", "demand", "batch/"
TIMETABLE, OWN_BANDS, TRIAL, SERIES = "timetable", "bands", "trial/", "series/"
"""Keys of the store: the house, stock, demand, its timetable and own bands; the beginning of an
item's, a batch's, a trial's and a series'."""


class Kitchen(msgspec.Struct, frozen=True):
    """What a book knows of its kitchen besides: what is there, and what is wanted."""

    stock: Stock = Stock()
    demand: Demand = Demand()
    timetable: DaySheet = DaySheet()


class Tried(msgspec.Struct, frozen=True):
    """What a book knows of trials.

    Attributes
    ----------
    trials : tuple of Trial
        The earliest first.
    series : tuple of Series
        The earliest first.
    """

    trials: tuple[Trial, ...] = ()
    series: tuple[Series, ...] = ()
    bands: OwnBands = OwnBands()

    def trial(self, key: str) -> Trial | None:
        """Give a trial by its key; None when there is none."""
        return next((each for each in self.trials if each.key == key), None)

    def key_for(self, target: object, before: str, wanted: tuple[Trial, ...]) -> str:
        """Give the key of a trial to begin with: the one asked for, before, or last wanted."""
        asked = target if isinstance(target, str) else ""
        known = next((key for key in (asked, before) if self.trial(key) is not None), "")
        return known or (wanted[-1].key if wanted else "")

    def one_series(self, key: str) -> Series | None:
        """Give a series by its key; None when there is none."""
        return next((each for each in self.series if each.key == key), None)


MOST_READ = 20_000
"""So many rows are known as they were read [-]."""
_read: dict[str, tuple[str, object]] = {}
"""The text of a row and what it says: one changed trial would have all others read anew."""


class _Reading:
    """Reads rows of the store; what cannot be read is left out and told."""

    def __init__(self, store: Mapping[str, str]) -> None:
        self._store = store
        self.troubles: dict[str, str] = {}

    def row(self, key: str, kind: type[Kind], check: Callable[[Kind], Kind]) -> Kind | None:
        """Read one row; None when it is not there or cannot be read."""
        body = self._store.get(key)
        if body is None:
            return None
        held = _read.get(key)
        if held is not None and held[0] == body and type(held[1]) is kind:
            return held[1]
        try:
            read = check(msgspec.json.decode(body, type=kind))
            if len(_read) >= MOST_READ:
                _read.clear()
            _read[key] = body, read
            return read
        except (msgspec.DecodeError, AplombError):
            self.troubles[key] = _row_words(key)
            return None

    def items(self) -> list[Item]:
        """Read all own materials and prices; one under another's key is not believed."""
        found = []
        for key in self._store:
            item = self.row(key, Item, check_item) if key.startswith(ITEM) else None
            if item is not None and ITEM + item.key != key:
                self.troubles[key] = f"{_row_words(key)} (it calls itself “{item.key[:40]}”)"
            elif item is not None:
                found.append(item)
        return found

    def rows(self, start: str, kind: type[Kind], check: Callable[[Kind], Kind]) -> list[Kind]:
        """Read all rows whose key begins so."""
        found = [self.row(key, kind, check) for key in self._store if key.startswith(start)]
        return [each for each in found if each is not None]


def _row_words(key: str) -> str:
    """Say which row of the store it is."""
    plain = {
        HOUSE: "the house settings",
        STOCK: "the stock",
        DEMAND: "the day’s demand",
        TIMETABLE: "the day’s timetable",
        OWN_BANDS: "your own ranges",
    }
    if key in plain:
        return plain[key]
    for start, words in (
        (ITEM, "ingredient or price"),
        (RECORD, "batch"),
        (TRIAL, "trial"),
        (SERIES, "trial series"),
    ):
        if key.startswith(start):
            return f"{words} “{key.removeprefix(start)[:40]}”"
    return f"“{key[:40]}”"


def reference_changed(
    shipped: Reference,
    store: Mapping[str, str],
    before: Reference | None = None,
    changed: Collection[str] | None = None,
    usual: House | None = None,
) -> tuple[Reference, dict[str, str]]:
    """Give the reference of a book, and what of its store could not be read.

    Parameters
    ----------
    shipped : Reference
        As supplied.
    before : Reference or None
        As it was before some rows changed; None when there was none.
    changed : collection of str or None
        Keys of the rows that have changed since; what does not hang on them stays as it was.
    usual : House or None
        The house of a book that has none yet.

    Returns
    -------
    tuple of (Reference, troubles by key)
        With the book's house, materials, prices and batches, and today's date. What cannot be read
        is left out and told.
    """
    made, reading = before or shipped, _Reading(store)
    keys = None if before is None else changed
    if keys is None or any(key == HOUSE or key.startswith(ITEM) for key in keys):
        house = reading.row(HOUSE, House, check_house) or usual or House()
        items = reading.items()
        made = replace(
            made,
            pantry=shipped.pantry.holding(items),
            house=house,
            today=kitchen_day().isoformat(),
        )
    if keys is None or any(key.startswith(RECORD) for key in keys):
        made_batches = reading.rows(RECORD, MadeBatch, check_made_batch)
        made = replace(made, made_batches=tuple(sorted(made_batches, key=lambda r: r.begun)))
    if keys is None or OWN_BANDS in keys:
        own = reading.row(OWN_BANDS, OwnBands, check_own_bands) or OwnBands()
        made = replace(made, schools=with_own_bands(shipped.schools, own))
    return made, reading.troubles


def tried_of(store: Mapping[str, str]) -> tuple[Tried, dict[str, str]]:
    """Give the trials of a book, and what of them could not be read."""
    reading = _Reading(store)
    trials = reading.rows(TRIAL, Trial, check_trial)
    series = reading.rows(SERIES, Series, check_series)
    own = reading.row(OWN_BANDS, OwnBands, check_own_bands) or OwnBands()
    found = Tried(
        tuple(sorted(trials, key=lambda t: (t.at, t.key))),
        tuple(sorted(series, key=lambda s: (s.begun, s.key))),
        own,
    )
    return found, reading.troubles


def kitchen_of(store: Mapping[str, str]) -> tuple[Kitchen, dict[str, str]]:
    """Give the kitchen of a book, and what of its store could not be read."""
    reading = _Reading(store)
    stock = reading.row(STOCK, Stock, check_stock) or Stock()
    demand = reading.row(DEMAND, Demand, check_demand) or Demand()
    timetable = reading.row(TIMETABLE, DaySheet, check_day_sheet) or DaySheet()
    sheet = timetable.on(demand.day) if demand.day else timetable
    return Kitchen(stock, demand, sheet), reading.troubles


def row_of_item(item: Item) -> tuple[str, str | None]:
    """Give an item as key and body of the store; None for one that holds nothing."""
    nothing = item.material is None and item.pack is None
    return ITEM + item.key, None if nothing else msgspec.json.encode(item).decode()


def users_of(key: str, entries: Iterable[Entry], pantry: Pantry) -> list[str]:
    """Name the formulas and blends that use a material; one that cannot be read is passed over."""
    users = []
    for entry in entries:
        try:
            if key in entry.formula.materials():
                users.append(entry.name)
        except AplombError:
            continue
    return users + [m.name for m in pantry if any(s.material == key for s in m.made_of)]
