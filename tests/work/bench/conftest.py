"""A bench without a window: the demo book, a clock that the test puts on, and hands that press."""

from collections.abc import Callable, Iterator, Mapping
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.work.bench.clock import RunClock
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.start import begin, plan_of, ready_formula
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench

BEGUN = datetime(2026, 6, 5, 5, 0, tzinfo=UTC)


class HandClock:
    """The wall and the machine's own count, put on by hand."""

    def __init__(self) -> None:
        self.wall_s = BEGUN.timestamp()
        self.machine_s = 1000.0

    def on(self, seconds: float) -> None:
        self.wall_s += seconds
        self.machine_s += seconds

    def clock(self, quick: float = 1.0) -> RunClock:
        return RunClock(BEGUN, quick, lambda: self.wall_s, lambda: self.machine_s)


@pytest.fixture
def hand() -> HandClock:
    return HandClock()


@pytest.fixture
def work(tmp_path: Path) -> Iterator[Workbench]:
    made = Workbench(Book(tmp_path / "demo.aplomb"), reference())
    fill_with_demo(made)
    yield made
    made.close()


@pytest.fixture
def opened(work: Workbench, hand: HandClock) -> Iterator[Callable[..., LiveRun]]:
    """Opens a run, new or again; closes what was opened."""
    runs: list[LiveRun] = []

    def open_(number: int | None = None, name: str = "Regatta case paste") -> LiveRun:
        if number is None:
            uid = next(u for u, e in work.shelf.entries.items() if e.name == name)
            number = begin(work, plan_of(ready_formula(work, uid), BEGUN))
        pantry = work.store.reference.pantry
        run = LiveRun(work.book, number, pantry, hand.clock(), wait=True)
        run.times.house = work.store.reference.house
        runs.append(run)
        return run

    yield open_
    for run in runs:
        run.close()


class Baker:
    """Goes on with one key, answers what is asked, and waits as long as it must."""

    def __init__(
        self, run: LiveRun, hand: HandClock, answers: Mapping[str, str] | None = None
    ) -> None:
        self.run, self.hand = run, hand
        self.answers = dict(answers or {})
        self.log: list[tuple[Any, ...]] = []

    def work(self, most: int = 2000) -> None:
        for _ in range(most):
            if self.run.current() is None:
                return
            self.step()
        raise AssertionError("the run does not end")

    def step(self) -> None:
        now = self.run.current()
        if now.status in ("resting", "held", "waiting") and self.run.ringing() is None:
            ready = [c.ready_s for c in self.run.order() if c.ready_s is not None]
            self.hand.on(max(1.0, min(ready) - self.run.now_s + 1.0))
            return
        done = self.run.go_on()
        self.log.append((now.task.key, done))
        if done == "ask":
            key = self.answers.pop(self.run.asking.key, "right")
            held = self.run.answer(key)
            self.log.append((now.task.key, key, held))
        elif done == "begin":
            self.hand.on(60 * now.task.minutes)
        elif not done:
            self.hand.on(30.0)


@pytest.fixture
def baker() -> type[Baker]:
    return Baker
