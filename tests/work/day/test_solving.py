"""The solver in a process of its own."""

import os
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from aplomb.core.day.problem import DayPaste, DayProblem, DayStep, Shift
from aplomb.work.day.solving import DaySolver

DAY = DayProblem(
    (Shift(0, 600),),
    tuple(
        DayPaste(n, (DayStep("a", 10, ("baker",), 5, 50), DayStep("b", 10, ("baker",))), 500)
        for n in "xyz"
    ),
)


class Replies:
    def __init__(self):
        self.all, self._came = [], threading.Condition()

    def __call__(self, reply):
        with self._came:
            self.all.append(reply)
            self._came.notify_all()

    def wait(self, test):
        with self._came:
            assert self._came.wait_for(lambda: any(test(r) for r in self.all), timeout=60)
        return next(r for r in self.all if test(r))


def test_it_answers_and_the_newest_question_wins():
    replies = Replies()
    solver = DaySolver(replies)
    try:
        numbers = [solver.ask(DAY) for _ in range(3)]
        last = replies.wait(lambda r: r.kind == "answer" and r.number == numbers[-1])
        assert last.answer.possible
        assert last.answer.plan.proven
        assert solver.alive
        bad = DayProblem((Shift(5, 2),), DAY.pastes)
        number = solver.ask(bad)
        trouble = replies.wait(lambda r: r.number == number and r.kind == "trouble")
        assert "baker[0]" in trouble.trouble
        again = solver.ask(DAY)
        assert replies.wait(lambda r: r.kind == "answer" and r.number == again)
    finally:
        solver.close()
    assert not solver.alive


def test_a_process_that_dies_is_told_and_started_anew():
    replies = Replies()
    solver = DaySolver(replies)
    try:
        solver.warm_up()
        replies.wait(lambda r: r.kind == "ready")
        solver.process.kill()
        replies.wait(lambda r: r.kind == "trouble")
        number = solver.ask(DAY)
        assert replies.wait(lambda r: r.kind == "answer" and r.number == number)
    finally:
        solver.close()


@pytest.fixture
def halted():
    """A solver whose process is halted once it is ready: it answers nothing, whatever is said."""
    replies = Replies()
    solver = DaySolver(replies)
    solver.warm_up()
    replies.wait(lambda r: r.kind == "ready")
    os.kill(solver.process.pid, signal.SIGSTOP)
    yield solver, replies
    solver.close()


def many(n):
    """A day so large that what is said of it fills a pipe."""
    steps = tuple(DayStep(f"step {i} {'x' * 40}", 5, ("baker",), 0, 500) for i in range(60))
    return DayProblem((Shift(0, 9000),), tuple(DayPaste(f"p{k}", steps, 9000) for k in range(n)))


def test_a_halted_process_holds_nobody_up_and_stop_ends_it(halted):
    solver, replies = halted
    pid = solver.process.pid
    number = solver.ask(many(20))
    solver.stop()
    told = replies.wait(lambda r: r.kind == "trouble")
    assert told.number == number
    assert "did not answer" in told.trouble
    assert not alive(pid)


def test_a_halted_process_is_replaced_and_the_newest_question_answered(halted):
    solver, replies = halted
    pid = solver.process.pid
    numbers = [solver.ask(day) for day in (many(20), many(20), DAY)]
    answer = replies.wait(lambda r: r.kind == "answer")
    assert answer.number == numbers[-1]
    assert answer.answer.possible
    assert not alive(pid)


def test_a_halted_process_is_sent_away(halted):
    solver, _ = halted
    pid = solver.process.pid
    solver.ask(many(20))
    solver.close()
    assert not solver.alive
    assert not alive(pid)


def alive(pid):
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    return "zombie" not in Path(f"/proc/{pid}/status").read_text()


def test_a_window_that_is_killed_leaves_nobody_searching():
    code = (
        "import sys; sys.path.insert(0, 'tests')\n"
        "from work.day.test_solving import Replies, many\n"
        "from aplomb.work.day.solving import DaySolver\n"
        "replies = Replies()\n"
        "solver = DaySolver(replies)\n"
        "solver.ask(many(6), 1e9)\n"
        "replies.wait(lambda r: r.kind == 'ready')\n"
        "print(solver.process.pid, flush=True)\n"
        "import time; time.sleep(60)\n"
    )
    root = Path(__file__).resolve().parents[3]
    window = subprocess.Popen(
        [sys.executable, "-c", code],
        cwd=root,
        stdout=subprocess.PIPE,
        text=True,
        env=os.environ | {"PYTHONPATH": str(root / "src")},
    )
    pid = int(window.stdout.readline())
    assert alive(pid)
    window.kill()
    window.wait()
    window.stdout.close()
    end = time.monotonic() + 20
    while alive(pid):
        assert time.monotonic() < end, "it goes on searching for nobody"
        time.sleep(0.05)
