"""Trays into oven loads: one queue, the same for every screen."""

from collections.abc import Sequence

from msgspec import Struct

from aplomb.core.base.ovens import Oven
from aplomb.core.make.minutes import BAKE_MIN
from aplomb.core.make.step import LoadOf
from aplomb.core.oven.programme import Programme

BETWEEN_MIN = 5.0
"""To take one load out and the next in, and let the oven come back, common practice [min]."""
MOST_LOADS = 5000


class Tray(Struct, frozen=True):
    """Trays of one product and how they are baked."""

    product: str
    trays: int
    programme: Programme

    @property
    def minutes(self) -> float:
        """In the oven [min]."""
        return self.programme.minutes or BAKE_MIN


def same_oven(one: Programme, other: Programme) -> bool:
    """Tell whether two programmes can go on in one oven at one time."""
    return [(s.conventional_c, s.minutes) for s in one.steps] == [
        (s.conventional_c, s.minutes) for s in other.steps
    ]


def loads_of_trays(trays: Sequence[Tray], ovens: Sequence[Oven]) -> tuple[LoadOf, ...]:
    """Put trays into loads, in the order in which they went into the cold.

    The oven that is free first takes the next trays, as many as it takes; of two the larger one, so
    that there are fewer loads. Trays of several products share a load when they are baked alike.
    What is baked otherwise has loads of its own.

    Parameters
    ----------
    ovens : sequence of Oven
        All are switched on at once.
    """
    if not ovens or not any(each.trays for each in trays):
        return ()
    free = [oven.heat_min for oven in ovens]
    found: list[LoadOf] = []
    for group in _alike(trays):
        queue = [(each.product, each.trays) for each in group]
        minutes, programme = group[0].minutes, group[0].programme
        while queue and len(found) < MOST_LOADS:
            at = min(range(len(ovens)), key=lambda i: (free[i], -ovens[i].trays, i))
            loaded, queue = _taken(queue, ovens[at].trays)
            found.append(
                LoadOf(
                    f"l{len(found) + 1}",
                    ovens[at].name,
                    tuple(loaded),
                    minutes,
                    free[at],
                    free[at] + minutes,
                    programme,
                )
            )
            free[at] += minutes + BETWEEN_MIN
    return tuple(found)


def _alike(trays: Sequence[Tray]) -> list[list[Tray]]:
    groups: list[list[Tray]] = []
    for each in trays:
        if each.trays <= 0:
            continue
        group = next((g for g in groups if same_oven(g[0].programme, each.programme)), None)
        if group is None:
            groups.append([each])
        else:
            group.append(each)
    return groups


def _taken(
    queue: list[tuple[str, int]], room: int
) -> tuple[list[tuple[str, int]], list[tuple[str, int]]]:
    """Take trays off the front of a queue, as many as there is room for."""
    loaded: list[tuple[str, int]] = []
    left = list(queue)
    while left and room > 0:
        product, many = left[0]
        some = min(many, room)
        loaded.append((product, some))
        room -= some
        left = left[1:] if some == many else [(product, many - some), *left[1:]]
    return loaded, left
