"""The demo book: an invented galley with its formulas, stock, orders and batches made."""

from datetime import date

from msgspec.structs import replace

from aplomb.assets import asset
from aplomb.assets.shipped import demo, demo_trials
from aplomb.book.pictures import PictureRow
from aplomb.core.batch.keeping import KeptItem
from aplomb.core.batch.made_batch import MadeBatch
from aplomb.core.batch.stock import Demand, Stock, Want
from aplomb.core.day.sheet import DaySheet
from aplomb.core.paste.pantry import Item
from aplomb.core.trials.trial import Trial
from aplomb.work.figures.local import kitchen_day
from aplomb.work.open_book.workbench import Workbench

DRAWN_UP = date(2026, 11, 24)
"""The day on which the demo's prices and frozen blocks are as old as they say."""


def _as_old_today(day: str) -> str:
    """Give a day that is as long ago as the one told was then: a demo never goes stale."""
    return (date.fromisoformat(day) + (kitchen_day() - DRAWN_UP)).isoformat() if day else ""


def _fresh(item: Item) -> Item:
    if item.pack is None:
        return item
    return replace(item, pack=replace(item.pack, date=_as_old_today(item.pack.date)))


def fill_with_demo(work: Workbench) -> None:
    """Put the demo formulas on an empty shelf and take the first in hand."""
    book = demo()
    work.store.set_house("demo: house", book.house)
    work.store.put_items("demo: prices", [_fresh(item) for item in book.items])
    uids = {f.name: work.shelf.add(f, f"demo: {f.name}") for f in book.formulas}
    turns = {f.name: len(f.plan.turns) for f in book.formulas}
    kept = tuple(
        KeptItem(
            f"demo-{i}",
            uids[b.formula],
            "whole",
            "freezer",
            b.blocks,
            b.each_g,
            b.turns,
            turns[b.formula],
            _as_old_today(b.made),
        )
        for i, b in enumerate(book.frozen)
    )
    work.store.put_stock("demo: stock", Stock(dict(book.stock), kept))
    wants = tuple(Want(uids[w.formula], w.product, w.pieces) for w in book.demand.wants)
    work.store.put_demand("demo: demand", Demand(book.demand.name, wants=wants))
    ready = {uids[name]: minutes for name, minutes in book.ready.items()}
    work.store.put_timetable("demo: ready times", DaySheet(ready=ready))
    for i, b in enumerate(book.batches):
        made_batch = MadeBatch(
            f"demo-{i}", b.formula, uids[b.formula], b.begun, outcome=b.outcome, note=b.note
        )
        work.store.put_made_batch("demo: a batch", made_batch)
    _fill_with_trials(work, uids)
    work.journal.flush()
    work.book.history.forget_changes()  # what can be undone begins with what its user does
    work.shelf.select(next(iter(work.shelf.entries)))


PICTURED = 2
"""Which of the series' trials has a photograph [-]."""


def _fill_with_trials(work: Workbench, uids: dict[str, str]) -> None:
    """Put in the series, a batch for each of its days, and the photograph of one cut piece."""
    told = demo_trials()
    uid, series = uids[told.formula], replace(told.series, key="demo-leaf", uid=uids[told.formula])
    days = dict.fromkeys(trial.day for trial in told.trials)
    batches = [
        MadeBatch(
            f"demo-trials-{day}",
            told.formula,
            uid,
            f"{day}T06:10:00+00:00",
            note="fat leaf trials",
        )
        for day in days
    ]
    trials = [
        Trial(
            f"demo-t{i:02}",
            f"demo-trials-{t.day}",
            told.formula,
            uid,
            f"{t.day}T09:{i:02}:00+00:00",
            told.product,
            series.key,
            t.variant,
            t.day,
            t.failed,
            t.made,
            t.pieces,
            t.judged,
            t.leak_g,
            ("demo-cut",) if i == PICTURED else (),
            t.note,
        )
        for i, t in enumerate(told.trials)
    ]
    work.store.put_trials("demo: trials", trials, [series], batches)
    if not work.book.read_only:
        small, body = (asset("pictures", f"{name}.jpg").read_bytes() for name in ("small", "cut"))
        at = f"{next(iter(days))}T10:00:00+00:00"
        work.book.pictures.keep(
            PictureRow("demo-cut", "case cut open.jpg", at, 1500, 1000, has_original=False),
            small,
            body,
        )
