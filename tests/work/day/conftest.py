"""The regatta day of the demo book, solved once."""

from collections.abc import Iterator
from datetime import date

import pytest

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.core.day.plan import DayPlan
from aplomb.core.day.solve import DayAnswer, solve_day
from aplomb.work.day import view as tt
from aplomb.work.day.view import DayView
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench

TODAY = date(2026, 11, 26)
Solved = tuple[Workbench, DayView, DayAnswer]


@pytest.fixture(scope="session")
def solved(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Solved]:
    work = Workbench(Book(tmp_path_factory.mktemp("book") / "galley.aplomb"), reference())
    fill_with_demo(work)
    view = tt.view_of(tt.gather(work, TODAY))
    answer = solve_day(view.problem)
    yield work, view, answer
    work.close()


@pytest.fixture
def day(solved: Solved) -> tuple[Workbench, DayView, DayPlan]:
    work, view, answer = solved
    assert answer.plan is not None
    return work, view, answer.plan
