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
    ends: dict[str, float] = {}
    order = {step.key: at for at, step in enumerate(steps)}
    waits = {step.key: len(step.after) for step in steps}
    follow: dict[str, list[MakeStep]] = {}
    for step in steps:
        for key in step.after:
            follow.setdefault(key, []).append(step)
    free = [0.0] * max(1, hands)
    bowls = [0.0] * max(1, mixers)
    ready: list[tuple[float, int]] = []
    for step in steps:
        if not step.after:
            heapq.heappush(ready, (0.0, order[step.key]))
    last = 0.0
    rested: dict[str, float] = {}
    while ready:
        soonest, at = heapq.heappop(ready)
        step = steps[at]
        begin = soonest
        if step.hands_min > 0:
            begin = max(begin, free[0])
        if "mixer" in step.needs:
            begin = max(begin, bowls[0])
        if begin > soonest + 1e-9:
            heapq.heappush(ready, (begin, at))
            continue
        end = begin + step.hands_min
        if step.hands_min > 0:
            heapq.heapreplace(free, end)
        if "mixer" in step.needs:
            heapq.heapreplace(bowls, end)
        end += step.alone_min
        ends[step.key] = end
        last = max(last, end)
        rested[step.key] = end + (step.rest.least_min if step.rest else 0.0)
        for later in follow.get(step.key, ()):
            waits[later.key] -= 1
            if not waits[later.key]:
                when = max(rested[key] for key in later.after)
                heapq.heappush(ready, (when, order[later.key]))
    return last
