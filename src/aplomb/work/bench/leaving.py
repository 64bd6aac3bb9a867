"""Runs that were left before all of them was in the book: nobody waits for the disk."""

from collections.abc import Callable

from msgspec import Struct

from aplomb.book.book import Book
from aplomb.core.bench.acts import Press
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.watch import Probes

PATIENCE_S = 0.2
"""So long whoever leaves a run waits for the disk at most [s]."""


class Carried(Struct, frozen=True):
    """What a book did not take of a run: it is kept in the next one, if the run is there too."""

    number: int
    begun: str
    presses: tuple[Press, ...]
    was_open: bool = False


class LeftRuns:
    """Runs whose last presses still wait for the disk, each with its probes.

    Parameters
    ----------
    kept : callable
        Called with a run once all of it is in the book, and with its probes where the house has
        still to learn from it, else None.
    """

    def __init__(self, kept: Callable[[LiveRun, Probes | None], object]) -> None:
        self._kept = kept
        self._runs: list[tuple[LiveRun, Probes | None]] = []

    def leave(self, run: LiveRun, probes: Probes | None = None) -> None:
        """Leave a run: at once when all of it is kept, else once it is."""
        run.settle(PATIENCE_S)
        if not run.waiting:
            run.close()
            return
        self._runs.append((run, probes))
        run.changed.connect(self._look)

    def _look(self) -> None:
        for run, probes in [each for each in self._runs if not each[0].waiting]:
            self._runs.remove((run, probes))
            run.close()
            self._kept(run, probes)

    def take(self, book: Book, number: int) -> LiveRun | None:
        """Give a run back that was left and is opened again; None when all of it was kept."""
        for run, probes in self._runs:
            if run.number == number and run.book is book:
                self._runs.remove((run, probes))
                run.changed.disconnect(self._look)
                return run
        return None

    @property
    def all(self) -> list[LiveRun]:
        """The runs that wait."""
        return [run for run, _ in self._runs]

    def carry(self) -> list[Carried]:
        """Let go of all of them, because their book is closed; gives what it did not take."""
        carried = [carried_of(run) for run in self.all]
        for run in self.all:
            run.writer.give_up()
        self._runs.clear()
        return carried


def carried_of(run: LiveRun, *, was_open: bool = False) -> Carried:
    """Give what the book did not take of a run."""
    return Carried(run.number, run.plan.begun, tuple(run.waiting), was_open)
