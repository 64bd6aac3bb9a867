"""The solver in a process of its own: its import takes a second, and its work a processor.

Started as ``python -m aplomb.work.day.server``. A line of JSON on standard input asks; lines on
standard output answer: each better timetable as it is found, then the answer. A new question ends
the search for the one before.
"""

import os
import sys
from queue import SimpleQueue
from threading import Lock, Thread
from typing import Literal

import msgspec

from aplomb.core.base.errors import AplombError
from aplomb.core.day.plan import DayPlan
from aplomb.core.day.problem import DayProblem
from aplomb.core.day.search import Stopper
from aplomb.core.day.solve import WORK, DayAnswer, solve_day


class Question(msgspec.Struct, frozen=True):
    """What is asked.

    Attributes
    ----------
    number : int
        Of the question; 0 only warms up.
    problem : DayProblem or None
        None: end the search under way with the best there is.
    """

    number: int
    problem: DayProblem | None = None
    work: float = WORK


class Reply(msgspec.Struct, frozen=True):
    """What is told.

    Attributes
    ----------
    number : int
        Of the question.
    """

    number: int
    kind: Literal["ready", "begun", "best", "answer", "trouble"]
    best: DayPlan | None = None
    answer: DayAnswer | None = None
    trouble: str = ""


class _Server:
    def __init__(self) -> None:
        self._questions: SimpleQueue[Question] = SimpleQueue()
        self._stopper = Stopper()
        self._newest = 0
        self._lock = Lock()

    def listen(self) -> None:
        """Read questions until there are none; a new one ends the search for the one before.

        Once nobody asks any more, because the window is closed or was killed, nobody searches.
        """
        for line in sys.stdin.buffer:
            try:
                asked = msgspec.json.decode(line, type=Question)
            except msgspec.DecodeError:
                continue
            with self._lock:
                if asked.problem is not None:
                    self._newest = asked.number
                    self._questions.put(asked)
                self._stopper.stop()
        os._exit(0)

    def _tell(self, reply: Reply) -> None:
        with self._lock:
            sys.stdout.buffer.write(msgspec.json.encode(reply) + b"\n")
            sys.stdout.buffer.flush()

    def serve(self) -> None:
        """Answer the newest question, until there are no more."""
        from ortools.sat.python import cp_model

        cp_model.CpModel()
        self._tell(Reply(0, "ready"))
        while True:
            asked = self._questions.get()
            with self._lock:
                if asked.number != self._newest:
                    continue
                self._stopper = Stopper()
            assert asked.problem is not None
            number = asked.number
            self._tell(Reply(number, "begun"))
            try:
                answer = solve_day(
                    asked.problem,
                    lambda plan, n=number: self._tell(Reply(n, "best", best=plan)),  # type: ignore[misc]
                    self._stopper,
                    asked.work,
                )
                self._tell(Reply(number, "answer", answer=answer))
            except AplombError as error:
                self._tell(Reply(number, "trouble", trouble=str(error)))


def main() -> None:
    """Serve until standard input ends."""
    server = _Server()
    Thread(target=server.listen, daemon=True).start()
    try:
        server.serve()
    except BrokenPipeError:
        return


if __name__ == "__main__":
    main()
