"""The solver in a process of its own."""

import threading

from aplomb.core.day.problem import DayPaste, DayProblem, DayStep, Shift
from aplomb.work.solving import DaySolver

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
        solver._process.kill()
        replies.wait(lambda r: r.kind == "trouble")
        number = solver.ask(DAY)
        assert replies.wait(lambda r: r.kind == "answer" and r.number == number)
    finally:
        solver.close()
