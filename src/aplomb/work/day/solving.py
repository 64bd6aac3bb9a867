"""Days solved beside everything else: one process, the newest question wins."""

import os
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from queue import SimpleQueue
from threading import RLock, Thread, Timer

import msgspec

from aplomb.core.day.problem import DayProblem
from aplomb.core.day.solve import WORK
from aplomb.work.day.server import Question, Reply

SOURCE = Path(__file__).parents[3]
STOPPED = "Stopped: the solver did not answer. The best plan so far is shown; solve again."


class DaySolver:
    """Asks a process of its own, which is started when it is first wanted.

    Whatever state the process is in, nobody waits for it: what is said to it is said from a thread
    of its own, and one that does not answer in time is killed and, where something is asked,
    started anew.

    Parameters
    ----------
    take : callable
        Takes every reply, on a thread of its own.
    """

    PATIENCE_S = 0.8
    """So long a process that is ready may take to begin with a question, or to stop [s]."""
    STARTING_S = 30.0
    """So long it may take to be ready: a cold disk reads for seconds [s]."""

    def __init__(self, take: Callable[[Reply], None]) -> None:
        self._take = take
        self._one = RLock()
        self.process: subprocess.Popen[bytes] | None = None
        self._said: SimpleQueue[Question | None] = SimpleQueue()
        self._newest: Question | None = None
        self._ready = False
        self._begun = self._ended = 0
        self.asked = 0

    @property
    def alive(self) -> bool:
        """True while the process runs."""
        return self.process is not None and self.process.poll() is None

    def warm_up(self) -> None:
        """Start the process, so that the first question is answered at once."""
        with self._one:
            if self.alive:
                return
            env = dict(os.environ)
            env["PYTHONPATH"] = os.pathsep.join(
                part for part in (str(SOURCE), env.get("PYTHONPATH", "")) if part
            )
            process = self.process = subprocess.Popen(
                [sys.executable, "-m", "aplomb.work.day.server"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
                env=env,
            )
            self._ready, self._said = False, SimpleQueue()
            Thread(target=self._listen, args=(process,), daemon=True).start()
            Thread(target=self._speak, args=(process, self._said), daemon=True).start()

    def _speak(
        self, process: "subprocess.Popen[bytes]", said: "SimpleQueue[Question | None]"
    ) -> None:
        """Say what is to be said: a process that does not read holds up this thread only."""
        assert process.stdin is not None
        with suppress(OSError, ValueError):  # it ended: who listens to it tells so
            while (question := said.get()) is not None:
                process.stdin.write(msgspec.json.encode(question) + b"\n")
                process.stdin.flush()
        process.wait()
        with suppress(OSError):  # what it did not read any more
            process.stdin.close()

    def _listen(self, process: "subprocess.Popen[bytes]") -> None:
        assert process.stdout is not None
        with process.stdout as answers:
            for line in answers:
                try:
                    reply = msgspec.json.decode(line, type=Reply)
                except msgspec.DecodeError:
                    continue
                with self._one:
                    if process is not self.process:
                        break
                    self._note(reply)
                if reply.kind != "begun":
                    self._take(reply)
        process.wait()
        with self._one:
            gone, self.process = (
                process is self.process,
                (None if process is self.process else self.process),
            )
        if gone:  # it was not sent away
            self._take(
                Reply(
                    self.asked,
                    "trouble",
                    trouble="The timetable calculation stopped; solve again.",
                )
            )

    def _note(self, reply: Reply) -> None:
        if reply.kind == "ready":
            self._ready = True
        elif reply.kind == "begun":
            self._begun = max(self._begun, reply.number)
        elif reply.kind in ("answer", "trouble"):
            self._ended = max(self._ended, reply.number)

    def ask(self, problem: DayProblem, work: float = WORK) -> int:
        """Ask for a day; gives the number of the question.

        Parameters
        ----------
        work : float
            How much work is allowed, in the solver's own measure [-].
        """
        with self._one:
            self.warm_up()
            self.asked += 1
            self._newest = Question(self.asked, problem, work)
            self._said.put(self._newest)
            self._watch(self._has_begun, self._start_anew)
            return self.asked

    def stop(self) -> None:
        """End the search under way with the best there is."""
        with self._one:
            if self.alive:
                self._newest = None
                self._said.put(Question(0))
                self._watch(self._has_ended, self._give_up)

    def _watch(self, done: Callable[[int], bool], otherwise: Callable[[], None]) -> None:
        """See that the newest question comes so far in time, or do something about it."""
        number, process = self.asked, self.process
        until = time.monotonic() + self.STARTING_S

        def look() -> None:
            with self._one:
                if number != self.asked or process is not self.process or done(number):
                    return
                if not self._ready and time.monotonic() < until:
                    again()
                    return
                self._kill()
            otherwise()

        def again() -> None:
            timer = Timer(self.PATIENCE_S, look)
            timer.daemon = True
            timer.start()

        again()

    def _has_begun(self, number: int) -> bool:
        return self._begun >= number or self._ended >= number

    def _has_ended(self, number: int) -> bool:
        return self._ended >= number

    def _start_anew(self) -> None:
        """The process did not take the newest question: another one gets it."""
        with self._one:
            if self._newest is not None:
                self.warm_up()
                self._said.put(self._newest)
                self._watch(self._has_begun, self._give_up)
                return
        self._give_up()

    def _give_up(self) -> None:
        self._take(Reply(self.asked, "trouble", trouble=STOPPED))

    def _kill(self) -> None:
        """Send the process away, whatever it does: one that is halted too."""
        process, self.process = self.process, None
        if process is None:
            return
        self._said.put(None)
        process.kill()
        with suppress(subprocess.TimeoutExpired):
            process.wait(1.0)

    def close(self) -> None:
        """Send the process away."""
        with self._one:
            self._kill()
