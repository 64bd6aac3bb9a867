"""Trays into oven loads: first into the cold, first out to the oven; what waits meanwhile where."""

from collections.abc import Sequence

from msgspec import Struct

from aplomb.core.base.errors import Problems
from aplomb.core.base.ovens import Oven

BETWEEN_MIN = 5.0
"""To take one load out and the next in, and let the oven come back, common practice [min]."""
SCRAP_MIN = 8.0
"""A scrap goes in first to try the oven, common practice [min]."""
MOST_TRAYS = 2000


class Load(Struct, frozen=True):
    """One load.

    Attributes
    ----------
    oven : int
        Which, 0 for the first [-].
    first, last : int
        Trays, 1 for the one that went into the cold first [-].
    in_min, out_min : float
        From when the oven is switched on [min].
    waits_min : float
        How long its trays stay in the cold after the first load is in [min].
    """

    oven: int
    first: int
    last: int
    in_min: float
    out_min: float
    waits_min: float

    @property
    def trays(self) -> int:
        """How many [-]."""
        return self.last - self.first + 1


def loads_of(
    trays: int,
    ovens: Sequence[Oven],
    minutes: float,
    *,
    scrap: bool = False,
    between_min: float = BETWEEN_MIN,
) -> tuple[Load, ...]:
    """Put trays into loads.

    Parameters
    ----------
    ovens : sequence of Oven
        All are switched on at once.
    minutes : float
        Of a load [min].
    scrap : bool
        A scrap is baked first, in the oven that is hot first.
    between_min : float
        From one load to the next [min].

    Returns
    -------
    tuple of Load
        In the order in which they go in. The oven that is free first takes the next trays, as many
        as it takes; of two the larger one, so that there are fewer loads.

    Raises
    ------
    FormulaError
        For figures that cannot be.
    """
    wrong = Problems()
    wrong.number("trays", trays, 0, MOST_TRAYS, "")
    wrong.number("minutes", minutes, 0.5, 600, "min")
    if not ovens and trays:
        wrong.add("ovens: the house has none; add one.")
    wrong.check()
    if not trays:
        return ()
    free = [oven.heat_min for oven in ovens]
    if scrap:
        hot = min(range(len(ovens)), key=lambda i: free[i])
        free[hot] += SCRAP_MIN
    found: list[Load] = []
    done = 0
    while done < trays:
        at = min(range(len(ovens)), key=lambda i: (free[i], -ovens[i].trays, i))
        many = min(ovens[at].trays, trays - done)
        begins = found[0].in_min if found else free[at]
        found.append(
            Load(
                at, done + 1, done + many, free[at], free[at] + minutes, max(0.0, free[at] - begins)
            )
        )
        done += many
        free[at] += minutes + between_min
    return tuple(found)
