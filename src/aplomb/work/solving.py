"""Days solved beside everything else: one process, the newest question wins."""

import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from threading import Thread

import msgspec

from aplomb.core.day.problem import DayProblem
from aplomb.core.day.solve import WORK
from aplomb.work.day_server import Question, Reply

SOURCE = Path(__file__).parents[2]


class DaySolver:
    """Asks a process of its own, which is started when it is first wanted.

    Parameters
    ----------
    take : callable
        Takes every reply, on a thread of its own.
    """

    def __init__(self, take: Callable[[Reply], None]) -> None:
        self._take = take
        self._process: subprocess.Popen[bytes] | None = None
        self.asked = 0

    @property
    def alive(self) -> bool:
        """True while the process runs."""
        return self._process is not None and self._process.poll() is None

    def warm_up(self) -> None:
        """Start the process, so that the first question is answered at once."""
        if self.alive:
            return
        env = dict(os.environ)
        env["PYTHONPATH"] = os.pathsep.join(
            part for part in (str(SOURCE), env.get("PYTHONPATH", "")) if part
        )
        self._process = subprocess.Popen(
            [sys.executable, "-m", "aplomb.work.day_server"], stdin=subprocess.PIPE,
            stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=env,
        )  # fmt: skip
        Thread(target=self._listen, args=(self._process,), daemon=True).start()

    def _listen(self, process: "subprocess.Popen[bytes]") -> None:
        assert process.stdout is not None
        with process.stdout as answers:
            for line in answers:
                try:
                    reply = msgspec.json.decode(line, type=Reply)
                except msgspec.DecodeError:
                    continue
                self._take(reply)
        process.wait()
        if process.stdin is not None:
            process.stdin.close()
        if process is self._process:  # it was not sent away
            self._process = None
            self._take(Reply(self.asked, "trouble", trouble="The solver ended; solve once more."))

    def ask(self, problem: DayProblem, work: float = WORK) -> int:
        """Ask for a day; gives the number of the question.

        Parameters
        ----------
        problem : DayProblem
        work : float
            How much work is allowed, in the solver's own measure [-].

        Returns
        -------
        int
        """
        self.warm_up()
        self.asked += 1
        self._send(Question(self.asked, problem, work))
        return self.asked

    def stop(self) -> None:
        """End the search under way with the best there is."""
        if self.alive:
            self._send(Question(0))

    def _send(self, question: Question) -> None:
        process = self._process
        assert process is not None
        assert process.stdin is not None
        try:
            process.stdin.write(msgspec.json.encode(question) + b"\n")
            process.stdin.flush()
        except OSError:
            self._take(Reply(self.asked, "trouble", trouble="The solver ended; solve once more."))

    def close(self) -> None:
        """Send the process away."""
        process, self._process = self._process, None
        if process is None:
            return
        if process.stdin is not None:
            process.stdin.close()
        process.terminate()
        process.wait()
