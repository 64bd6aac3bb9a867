"""Presses as fast as the disk takes it, and says the number of each press once it counts."""

import sys
from datetime import UTC, datetime
from pathlib import Path

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.core.bench.acts import Count
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.start import begin, plan_of, ready_formula
from aplomb.work.demo import fill_with_demo
from aplomb.work.workbench import Workbench


def say(what):
    sys.stdout.write(f"{what}\n")
    sys.stdout.flush()


def main():
    work = Workbench(Book(Path(sys.argv[1])), reference())
    fill_with_demo(work)
    work.journal.flush()
    number = begin(work, plan_of(ready_formula(work, work.shelf.uid), datetime.now(UTC)))
    run = LiveRun(work.book, number, work.store.reference.pantry, wait=True)
    say("ready")
    while True:
        run.press(Count(run.plan.tasks[0].key, "dust", 1, 10.0))
        say(run.presses[-1].number)


if __name__ == "__main__":
    main()
