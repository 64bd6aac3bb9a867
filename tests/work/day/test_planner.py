"""The planner: asked, answered, stopped and refused without any window."""

from queue import SimpleQueue

import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.core.base.errors import AplombError
from aplomb.core.day.plan import faults
from aplomb.work.day.moves import Moved
from aplomb.work.day.planner import Planner
from aplomb.work.day.server import Reply
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench

WAIT_S = 60


class Desk:
    """What a window does for its planner: works beside, hands replies on, hears of changes."""

    def __init__(self, work):
        self.work, self.replies, self.heard = work, SimpleQueue(), []
        self.planner = Planner(
            work,
            self.replies.put,
            lambda: self.heard.append("all"),
            lambda: self.heard.append("better"),
        )

    def ask(self):
        view = self.planner.ask()
        if view is not None:
            try:
                self.planner.take(view())
            except AplombError as error:
                self.planner.take(error)
        return view is not None

    def until_solved(self):
        while self.planner.solving:
            self.planner.reply(self.replies.get(timeout=WAIT_S))
        return self.planner


@pytest.fixture
def desk(tmp_path):
    work = Workbench(Book(tmp_path / "a.aplomb"), reference())
    fill_with_demo(work)
    made = Desk(work)
    yield made
    made.planner.close()
    work.close()


def one_paste(work):
    sheet = work.store.kitchen.timetable
    first, *others = dict.fromkeys(want.uid for want in work.store.kitchen.demand.wants)
    assert first
    work.store.put_timetable("one paste", replace(sheet, left_out=tuple(others)))


def test_a_day_is_viewed_solved_and_shown_and_asked_again_only_when_it_changed(desk):
    one_paste(desk.work)
    assert desk.planner.shown is None
    assert desk.ask()
    planner = desk.until_solved()
    assert planner.state == "solved", planner.refused
    assert planner.answer.possible
    view, plan = planner.shown
    assert faults(view.problem, plan.steps) == []
    assert desk.heard[0] == desk.heard[-1] == "all"
    assert not desk.ask()
    planner.move(Moved("", replace(view.sheet, days_before=0)))
    assert not desk.ask(), "a move without words moves nothing"
    planner.move(Moved("hours", replace(view.sheet, hours=((240, 960),))))
    assert desk.ask()
    desk.until_solved()
    assert planner.view.sheet.hours == ((240, 960),)


def test_a_day_of_which_nothing_is_wanted_is_refused_in_words(desk):
    demand = desk.work.store.kitchen.demand
    desk.work.store.put_demand("nothing", replace(demand, wants=()))
    desk.ask()
    assert desk.planner.state == "refused"
    assert "Nothing is ordered" in desk.planner.refused
    assert desk.planner.shown is None


def test_what_the_solver_says_to_an_older_question_is_let_go(desk):
    one_paste(desk.work)
    desk.ask()
    planner = desk.until_solved()
    shown, heard = planner.shown, len(desk.heard)
    planner.reply(Reply(planner.question - 1, "trouble", trouble="too late"))
    planner.reply(Reply(0, "trouble", trouble="nobody asked"))
    assert planner.shown == shown
    assert planner.state == "solved", planner.refused
    assert len(desk.heard) == heard
    planner.reply(Reply(planner.question, "trouble", trouble="The solver ended."))
    assert (planner.state, planner.refused) == ("refused", "The solver ended.")
    planner.forget()
    assert desk.ask()
    assert desk.until_solved().state == "solved"


def test_a_search_is_stopped_with_the_best_there_is(desk):
    desk.ask()
    assert desk.planner.solving
    desk.planner.stop()
    planner = desk.until_solved()
    assert planner.state in ("solved", "refused")
    assert planner.state == "refused" or planner.answer is not None
