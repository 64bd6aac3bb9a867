"""Into the book from a thread of its own: a commit waits for the disk, the window does not."""

import queue
import threading
from collections.abc import Callable

from aplomb.book.errors import BookError

AGAIN_S = 2.0
"""After so long what was refused is tried again [s]."""
Job = Callable[[], object]
Answer = Callable[[BookError | None], object]


class Writer:
    """Does one thing after the other in a thread of its own, in the order they came.

    What the disk refuses is told and tried again, and nothing overtakes it.
    """

    def __init__(self) -> None:
        self._jobs: queue.Queue[tuple[Job, Answer] | None] = queue.Queue()
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="bench writer", daemon=True)
        self._thread.start()

    def write(self, job: Job, answer: Answer) -> None:
        """Do this next; `answer` is called in that thread, with why not, or None when done."""
        self._jobs.put((job, answer))

    def drain(self, timeout_s: float = 10.0) -> bool:
        """Wait until all is written; False when that took too long."""
        done = threading.Event()
        self._jobs.put((lambda: None, lambda _why: done.set()))
        return done.wait(timeout_s)

    def close(self) -> None:
        """Write what is left, once, and end."""
        self._stop.set()
        self._jobs.put(None)
        self._thread.join(10)

    def _run(self) -> None:
        while True:
            found = self._jobs.get()
            if found is None:
                return
            job, answer = found
            while True:
                try:
                    job()
                except BookError as error:
                    answer(error)
                    if self._stop.wait(AGAIN_S):
                        break
                    continue
                answer(None)
                break
