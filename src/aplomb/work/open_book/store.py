"""The open book's store: house, materials, prices, stock, demand, batches made, trials."""

from collections.abc import Callable, Collection, Iterable, Sequence

import msgspec

from aplomb.book.changes import AnyChange, Kept, StoreChange
from aplomb.book.entry import Entry
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import length_unit, mass_unit, set_measures, temp_unit
from aplomb.core.base.house import House, check_house
from aplomb.core.batch.made_batch import MadeBatch, check_made_batch
from aplomb.core.batch.stock import Demand, Stock, check_demand, check_stock
from aplomb.core.day.sheet import DaySheet, check_day_sheet
from aplomb.core.opinion.own_bands import OwnBands, check_own_bands
from aplomb.core.paste.pantry import Item, Pack, check_item
from aplomb.core.study.study import Reference
from aplomb.core.trials.series import Series, check_series
from aplomb.core.trials.trial import Trial, check_trial
from aplomb.work.open_book.rows import (
    ASIDE,
    DEMAND,
    HOUSE,
    OWN_BANDS,
    RECORD,
    SERIES,
    STOCK,
    TIMETABLE,
    TRIAL,
    Kitchen,
    Tried,
    kitchen_of,
    reference_changed,
    row_of_item,
    tried_of,
    users_of,
)

TRIED = (TRIAL, SERIES, OWN_BANDS)
"""How the keys of all rows begin that trials hang on."""


class Store:
    """What a book knows besides its formulas, and the one way to change it.

    Parameters
    ----------
    shipped : Reference
        As supplied.
    usual : House
        The house of a book that has none yet.
    note : callable
        Keeps a change.
    changed : callable
        Is called when something here is another.
    respelt : callable
        Is called when the house measures otherwise.
    entries : callable
        Gives the formulas that may need a material.
    """

    def __init__(
        self,
        shipped: Reference,
        usual: House,
        note: Callable[[AnyChange], object],
        changed: Callable[[], object],
        respelt: Callable[[], object],
        entries: Callable[[], Iterable[Entry]],
    ) -> None:
        self._shipped, self._usual = shipped, usual
        self._note, self._changed, self._entries = note, changed, entries
        self._respelt = respelt
        self.reference = shipped
        self.kitchen = Kitchen()
        self.tried = Tried()
        self.unreadable: dict[str, str] = {}
        self._rows: dict[str, str] = {}

    def take(self, rows: Iterable[Kept]) -> None:
        """Take all rows of a book."""
        self._rows = {kept.key: kept.body for kept in rows if kept.body is not None}
        self._read(None)

    def rows(self) -> list[Kept]:
        """Give all rows, as a book keeps them."""
        return [Kept(*row) for row in self._rows.items()]

    def put_rows(self, rows: tuple[Kept, ...]) -> None:
        """Put rows in the place of those of the same keys; they are kept already."""
        for kept in rows:
            if kept.body is None:
                self._rows.pop(kept.key, None)
            else:
                self._rows[kept.key] = kept.body
        self._read([kept.key for kept in rows])

    def _read(self, changed: Collection[str] | None) -> None:
        """Read the rows: all of them, or what hangs on some that have changed."""
        before = self.reference if changed is not None else None
        self.reference, troubles = reference_changed(
            self._shipped, self._rows, before, changed, self._usual
        )
        house = self.reference.house
        measures = (house.masses, house.lengths, house.temps)
        if measures != (mass_unit(), length_unit(), temp_unit()):
            set_measures(*measures)
            self._respelt()
        self.kitchen, more = kitchen_of(self._rows)
        if changed is None or any(key.startswith(TRIED) for key in changed):
            self.tried, gone = tried_of(self._rows)
            more |= gone
        still = {k: words for k, words in self.unreadable.items() if k not in (changed or ())}
        self.unreadable = (still if changed is not None else {}) | troubles | more

    def put_items(self, words: str, items: Sequence[Item]) -> None:
        """Put own materials and prices into the pantry; one change, however many.

        Parameters
        ----------
        words : str
            What is done, for undo: ``price of butter``.
        items : sequence of Item
            An item with neither material nor price is taken out.

        Raises
        ------
        AplombError
            When a figure cannot be used, or a formula needs a material that would go.
        """
        for item in items:
            check_item(item)
            if item.material is None and item.key not in self._shipped.pantry:
                self._refuse_if_used(item.key)
        self._change(words, dict(row_of_item(item) for item in items))

    def price(self, words: str, key: str, pack: Pack | None) -> None:
        """Give a material a price, or take it away.

        Raises
        ------
        AplombError
            When a figure cannot be used.
        """
        pantry = self.reference.pantry
        self.put_items(words, [Item(key, pantry[key] if pantry.is_own(key) else None, pack)])

    def _refuse_if_used(self, key: str) -> None:
        pantry = self.reference.pantry
        users = users_of(key, self._entries(), pantry) if key in pantry else []
        if users:
            some = ", ".join(f"“{name}”" for name in users[:3])
            raise AplombError(
                f"{pantry[key].name} is used in {some}; swap it for another ingredient there first"
            )

    def set_house(self, words: str, house: House) -> None:
        """Change how the bakery measures and how warm its places are.

        Raises
        ------
        AplombError
            When a figure cannot be used.
        """
        self._change(words, {HOUSE: _body(check_house(house))})

    def put_stock(self, words: str, stock: Stock) -> None:
        """Change what is on the shelf and in the freezer; raises AplombError as `set_house`."""
        self._change(words, {STOCK: _body(check_stock(stock))})

    def put_demand(self, words: str, demand: Demand) -> None:
        """Change what the day wants; raises AplombError as `set_house`."""
        self._change(words, {DEMAND: _body(check_demand(demand))})

    def put_timetable(self, words: str, sheet: DaySheet) -> None:
        """Change the day's timetable; raises AplombError as `set_house`."""
        self._change(words, {TIMETABLE: _body(check_day_sheet(sheet))})

    def put_made_batch(self, words: str, made_batch: MadeBatch, stock: Stock | None = None) -> None:
        """Keep what was done and measured of a batch.

        And with it the stock that is left when one is given; raises AplombError as
        `set_house`.
        """
        rows: dict[str, str | None] = {RECORD + made_batch.key: _body(check_made_batch(made_batch))}
        if stock is not None:
            rows[STOCK] = _body(check_stock(stock))
        self._change(words, rows)

    def drop_made_batch(self, words: str, key: str) -> None:
        """Take a batch out of the book; undo brings it back."""
        self._change(words, {RECORD + key: None})

    def put_trials(
        self,
        words: str,
        trials: Sequence[Trial],
        series: Sequence[Series] = (),
        made_batches: Sequence[MadeBatch] = (),
    ) -> None:
        """Keep trials, and with them series and the batches they are; one change.

        Raises
        ------
        AplombError
            When a figure cannot be used.
        """
        rows: dict[str, str | None] = {
            RECORD + r.key: _body(check_made_batch(r)) for r in made_batches
        }
        rows |= {TRIAL + trial.key: _body(check_trial(trial)) for trial in trials}
        rows |= {SERIES + each.key: _body(check_series(each)) for each in series}
        self._change(words, rows)

    def drop_trials(self, words: str, keys: Collection[str], series: str = "") -> None:
        """Take trials, and a series, out of the book; undo brings them back."""
        rows: dict[str, str | None] = {TRIAL + key: None for key in keys}
        if series:
            rows[SERIES + series] = None
        self._change(words, rows)

    def put_own_bands(self, words: str, own: OwnBands) -> None:
        """Take own bands in the place of recalled ones, or put those back.

        Raises
        ------
        AplombError
            When a figure cannot be used.
        """
        self._change(words, {OWN_BANDS: _body(check_own_bands(own)) if own.bands else None})

    def _change(self, words: str, rows: dict[str, str | None]) -> None:
        changed = {key: body for key, body in rows.items() if self._rows.get(key) != body}
        if not changed:
            return
        for key in list(changed):  # what could not be read is kept beside what takes its place
            if key in self.unreadable and key in self._rows:
                changed[f"{ASIDE}{key}"] = self._rows[key]
        before = tuple(Kept(key, self._rows.get(key)) for key in changed)
        after = tuple(Kept(key, body) for key, body in changed.items())
        self._note(StoreChange(words, before, after))
        self.put_rows(after)
        self._changed()


def _body(value: msgspec.Struct) -> str:
    return msgspec.json.encode(value).decode()
