"""Into the book from a thread of its own: a commit waits for the disk, the window does not."""

import queue
import sys
import threading
import time
from collections.abc import Callable

from aplomb.book.errors import BookError

AGAIN_S = 2.0
"""After so long what was refused is tried again [s]."""
LOOK_S = 0.005
"""Whoever waits looks so often [s]."""
Job = Callable[[], object]
Answer = Callable[[BookError | None], object]
MISTAKE = (
    "This could not be written into the book, through a mistake in Aplomb that is not yours ({})."
)


class Writer:
    """Does one thing after the other in a thread of its own, in the order they came.

    What is refused is told and tried again, and nothing overtakes it. The thread outlives whatever
    a job or its answer raises.
    """

    def __init__(self) -> None:
        self._jobs: queue.Queue[tuple[Job, Answer, bool] | None] = queue.Queue()
        self._now = threading.Event()
        """Set to try at once what was refused."""
        self._given_up = False
        self._refusals = 0
        self._thread = threading.Thread(target=self._run, name="bench writer", daemon=True)
        self._thread.start()

    def write(self, job: Job, answer: Answer, *, again: bool = True) -> None:
        """Do this next; `answer` is called in that thread, with why not, or None when done.

        Without `again` it is let go when it is refused: what comes behind it matters more.
        """
        self._jobs.put((job, answer, again))

    def drain(self, timeout_s: float = 10.0) -> bool:
        """Wait until all is written; False when that took too long, or the oldest is refused."""
        done, before = threading.Event(), self._refusals
        self._jobs.put((lambda: None, lambda _why: done.set(), True))
        self._now.set()
        until = time.monotonic() + timeout_s
        while not done.wait(LOOK_S):
            if self._refusals > before or time.monotonic() > until:
                return done.is_set()
        return True

    def close(self) -> None:
        """End once all is written; nobody waits for it."""
        self._jobs.put(None)
        self._now.set()

    def give_up(self) -> None:
        """Try no more: what is left is asked for, or kept elsewhere."""
        self._given_up = True
        self.close()

    @property
    def ended(self) -> bool:
        """True when the thread has nothing more to do."""
        return not self._thread.is_alive()

    def _run(self) -> None:
        while (found := self._jobs.get()) is not None:
            job, answer, again = found
            while not self._given_up:
                why = self._tried(job)
                self._refusals += why is not None
                self._tell(answer, why)
                if why is None or not again:
                    break
                self._now.wait(AGAIN_S)
                self._now.clear()

    def _tried(self, job: Job) -> BookError | None:
        try:
            job()
        except BookError as error:
            return error
        except Exception as error:  # noqa: BLE001  # whatever it is, the thread goes on
            sys.excepthook(type(error), error, error.__traceback__)
            return BookError(MISTAKE.format(type(error).__name__))
        return None

    def _tell(self, answer: Answer, why: BookError | None) -> None:
        try:
            answer(why)
        except Exception as error:  # noqa: BLE001  # whoever asked may be gone
            sys.excepthook(type(error), error, error.__traceback__)
