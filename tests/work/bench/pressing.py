"""Presses and hears a probe as fast as the disk takes it; says each once it is kept: 7, r3."""

import sys
from datetime import UTC, datetime
from pathlib import Path

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.book.runs import ReadingRow
from aplomb.core.bench.acts import Count
from aplomb.core.bench.readings import pack
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.start import begin, plan_of, ready_formula
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench


def say(what: object) -> None:
    sys.stdout.write(f"{what}\n")
    sys.stdout.flush()


def main() -> None:
    work = Workbench(Book(Path(sys.argv[1])), reference())
    fill_with_demo(work)
    work.journal.flush()
    number = begin(work, plan_of(ready_formula(work, work.shelf.uid), datetime.now(UTC)))
    run = LiveRun(work.book, number, work.store.reference.pantry, wait=True)
    say("ready")
    minute = 0
    while True:
        run.press(Count(run.plan.tasks[0].key, "dust", 1, 10.0))
        say(run.presses[-1].number)
        if run.presses[-1].number % 3 == 0:
            row = ReadingRow("p", minute, pack([4.0 + minute / 10] * 60))
            run.writer.write(lambda row=row: work.book.runs.read(number, [row]), lambda _why: None)
            run.writer.drain()
            say(f"r{minute}")
            minute += 1


if __name__ == "__main__":
    main()
