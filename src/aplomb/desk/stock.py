"""What a book's store means: the house, own materials, prices, stock, demand, batches made."""

from collections.abc import Iterable
from datetime import date

import msgspec
from msgspec.structs import replace
from PySide6.QtCore import QLocale

from aplomb.book.entry import Entry
from aplomb.core.batch.record import BatchRecord, check_record
from aplomb.core.batch.stock import Demand, Stock, check_demand, check_stock
from aplomb.core.errors import AplombError
from aplomb.core.house import House, check_house
from aplomb.core.paste.pantry import Item, Pantry, check_item
from aplomb.core.study import Reference
from aplomb.core.units import Measures

HOUSE, ITEM, STOCK, DEMAND, RECORD = "house", "item/", "stock", "demand", "batch/"
"""Keys of the store: the house, stock and demand; the beginning of an item's and a batch's."""


def usual_measures() -> Measures:
    """Give the measures of the user's locale."""
    us = QLocale.MeasurementSystem.ImperialUSSystem
    return "us" if QLocale().measurementSystem() == us else "metric"


class Kitchen(msgspec.Struct, frozen=True):
    """What a book knows of its kitchen besides: what is there, and what is wanted."""

    stock: Stock = Stock()
    demand: Demand = Demand()


def stocked(shipped: Reference, store: dict[str, str]) -> tuple[Reference, Kitchen, list[str]]:
    """Give the reference and kitchen of a book, and what of its store could not be read.

    Parameters
    ----------
    shipped : Reference
        As supplied.
    store : dict of JSON, by key

    Returns
    -------
    tuple of (Reference, Kitchen, troubles)
        With the book's house, materials, prices and batches, and today's date. What cannot be read
        is left out and told.
    """
    house, items, troubles = House(measures=usual_measures()), [], []
    kitchen, records = Kitchen(), []
    for key, body in store.items():
        try:
            if key == HOUSE:
                house = check_house(msgspec.json.decode(body, type=House))
            elif key.startswith(ITEM):
                items.append(check_item(msgspec.json.decode(body, type=Item)))
            elif key == STOCK:
                stock = check_stock(msgspec.json.decode(body, type=Stock))
                kitchen = replace(kitchen, stock=stock)
            elif key == DEMAND:
                demand = check_demand(msgspec.json.decode(body, type=Demand))
                kitchen = replace(kitchen, demand=demand)
            elif key.startswith(RECORD):
                records.append(check_record(msgspec.json.decode(body, type=BatchRecord)))
        except (msgspec.DecodeError, AplombError) as error:
            troubles.append(f"“{key}” in the book cannot be read and is left out: {error}")
    reference = replace(
        shipped, pantry=shipped.pantry.holding(items), house=house, today=date.today().isoformat(),
        records=tuple(sorted(records, key=lambda r: r.begun)),
    )  # fmt: skip
    return reference, kitchen, troubles


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
