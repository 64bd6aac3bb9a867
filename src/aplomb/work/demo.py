"""The demo book: an invented galley with its formulas, stock, orders and batches made."""

from aplomb.assets import demo
from aplomb.core.batch.record import BatchRecord
from aplomb.core.batch.stock import Demand, FrozenBlock, Stock, Want
from aplomb.core.day.sheet import DaySheet
from aplomb.work.workbench import Workbench


def fill_with_demo(work: Workbench) -> None:
    """Put the demo formulas on an empty shelf and take the first in hand.

    Parameters
    ----------
    work : Workbench
    """
    book = demo()
    work.store.set_house("demo: the galley", book.house)
    work.store.put_items("demo: prices", book.items)
    uids = {f.name: work.shelf.add(f, f"demo: {f.name}") for f in book.formulas}
    frozen = tuple(
        FrozenBlock(uids[b.formula], b.blocks, b.each_g, b.turns, b.made) for b in book.frozen
    )
    work.store.put_stock("demo: stock", Stock(dict(book.stock), frozen))
    wants = tuple(Want(uids[w.formula], w.product, w.pieces) for w in book.demand.wants)
    work.store.put_demand("demo: the day", Demand(book.demand.name, wants=wants))
    ready = {uids[name]: minutes for name, minutes in book.ready.items()}
    work.store.put_timetable("demo: when it sails", DaySheet(ready=ready))
    for i, b in enumerate(book.batches):
        record = BatchRecord(
            f"demo-{i}", b.formula, uids[b.formula], b.begun, outcome=b.outcome, note=b.note
        )
        work.store.put_record("demo: a batch", record)
    work.journal.flush()
    work.book.forget_changes()  # what can be undone begins with what its user does
    work.shelf.select(next(iter(work.shelf.entries)))
