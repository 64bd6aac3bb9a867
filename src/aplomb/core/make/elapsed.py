"""How long a make takes from its first step to its last, with the hands there are."""

import heapq
from collections.abc import Sequence

from aplomb.core.make.step import MakeStep


def elapsed_min(steps: Sequence[MakeStep], hands: int = 1, mixers: int = 1) -> float:
    """Give the time from the first step to the last [min].

    Parameters
    ----------
    steps : sequence of MakeStep
        Each after those it names.
    hands : int
        People who work [-].
    mixers : int
        Bowls that turn at one time [-].

    Notes
    -----
    Whoever is free takes, of the steps that can begin first, the one that stands first in the list:
    what is begun soonest ends soonest where rests are long. Every step begins when all before it
    are done and their rests have had their least, and its hands are free; what goes by itself
    needs none. It is never shorter than the longest chain, nor than all hands' time shared out.
    """
    line = _Line(steps, hands, mixers)
    now = 0.0
    while True:
        if line.admit(now) or line.take(now):
            continue
        later = line.next_moment()
        if later is None:
            return line.last
        now = max(now, later)


class _Line:
    """Steps that wait: for their time, or for hands."""

    def __init__(self, steps: Sequence[MakeStep], hands: int, mixers: int) -> None:
        self._steps = steps
        self._waits = [len(step.after) for step in steps]
        at = {step.key: i for i, step in enumerate(steps)}
        self._follow: list[list[int]] = [[] for _ in steps]
        for i, step in enumerate(steps):
            for key in step.after:
                self._follow[at[key]].append(i)
        self._soonest = [0.0] * len(steps)
        self._future = [(0.0, i) for i, many in enumerate(self._waits) if not many]
        heapq.heapify(self._future)
        self._ready: list[int] = []
        self._free, self._bowls = [0.0] * max(1, hands), [0.0] * max(1, mixers)
        self.last = 0.0

    def admit(self, now: float) -> bool:
        """Let a step whose time has come begin, or wait for hands; False when there is none."""
        if not self._future or self._future[0][0] > now + 1e-9:
            return False
        when, at = heapq.heappop(self._future)
        if self._steps[at].hands_min > 0:
            heapq.heappush(self._ready, at)
        else:
            self._ended(at, when)
        return True

    def take(self, now: float) -> bool:
        """Give free hands to the first step that waits for them; False when none can begin."""
        if not self._ready or self._free[0] > now + 1e-9:
            return False
        at = heapq.heappop(self._ready)
        step = self._steps[at]
        if "mixer" in step.needs:
            if self._bowls[0] > now + 1e-9:
                heapq.heappush(self._future, (self._bowls[0], at))
                return True
            heapq.heapreplace(self._bowls, now + step.hands_min)
        heapq.heapreplace(self._free, now + step.hands_min)
        self._ended(at, now)
        return True

    def _ended(self, at: int, begin: float) -> None:
        step = self._steps[at]
        end = begin + step.hands_min + step.alone_min
        self.last = max(self.last, end)
        rested = end + (step.rest.least_min if step.rest else 0.0)
        for later in self._follow[at]:
            self._soonest[later] = max(self._soonest[later], rested)
            self._waits[later] -= 1
            if not self._waits[later]:
                heapq.heappush(self._future, (self._soonest[later], later))

    def next_moment(self) -> float | None:
        """Give when the next step may begin; None when all are done."""
        moments = [self._future[0][0]] if self._future else []
        moments += [self._free[0]] if self._ready else []
        return min(moments, default=None)
