"""Trays into oven loads: one queue, the same for every screen."""

from collections.abc import Sequence

from msgspec import Struct

from aplomb.core.base.house import House
from aplomb.core.base.ovens import Oven
from aplomb.core.batch.trays import OnTrays
from aplomb.core.make.minutes import BAKE_MIN
from aplomb.core.make.step import LoadOf
from aplomb.core.oven.programme import Programme
from aplomb.core.paste.formula import Formula, programme_of

BETWEEN_MIN = 5.0
"""To take one load out and the next in, and let the oven come back, common practice [min]."""
SCRAP_MIN = 8.0
"""A scrap goes in first to try the oven, common practice [min]."""
MOST_LOADS = 1_000_000


class Tray(Struct, frozen=True):
    """Trays of one product and how they are baked.

    Attributes
    ----------
    minutes : float
        In the oven [min].
    """

    product: str
    trays: int
    programme: Programme = Programme()
    minutes: float = BAKE_MIN


def trays_in_line(formula: Formula, trays: Sequence[OnTrays]) -> tuple[Tray, ...]:
    """Give the trays of a batch with how each product is baked, in the order they are made."""
    found = []
    for each in trays:
        programme = programme_of(formula, each.name)
        found.append(Tray(each.name, each.trays, programme, programme.minutes or BAKE_MIN))
    return tuple(found)


def loads_of_batch(
    formula: Formula, trays: Sequence[OnTrays], house: House, *, scrap: bool = False
) -> tuple[LoadOf, ...]:
    """Put what a batch gives into loads of the house's ovens; none where it has no oven."""
    return loads_of_trays(trays_in_line(formula, trays), house.all_ovens, scrap=scrap)


def _shares(one: Tray, other: Tray) -> bool:
    """Tell whether two can be in one oven at one time: the same heat for the same minutes."""

    def heat(tray: Tray) -> list[tuple[float, float]]:
        return [(step.conventional_c, step.minutes) for step in tray.programme.steps]

    return heat(one) == heat(other) and one.minutes == other.minutes


def loads_of_trays(
    trays: Sequence[Tray], ovens: Sequence[Oven], *, scrap: bool = False
) -> tuple[LoadOf, ...]:
    """Put trays into loads, in the order in which they went into the cold.

    The oven that is free first takes the next trays, as many as it takes; of two the larger one, so
    that there are fewer loads. Trays of several products share a load when they are baked alike.
    What is baked otherwise has loads of its own.

    Parameters
    ----------
    ovens : sequence of Oven
        All are switched on at once.
    scrap : bool
        A scrap is baked first, in the oven that is hot first.
    """
    if not ovens or not any(each.trays for each in trays):
        return ()
    free = [oven.heat_min for oven in ovens]
    if scrap:
        free[min(range(len(ovens)), key=lambda i: free[i])] += SCRAP_MIN
    found: list[LoadOf] = []
    done = 0
    for group in _alike(trays):
        queue = [(each.product, each.trays) for each in group]
        minutes, programme = group[0].minutes, group[0].programme
        while queue and len(found) < MOST_LOADS:
            at = min(range(len(ovens)), key=lambda i: (free[i], -ovens[i].trays, i))
            loaded, queue = _taken(queue, ovens[at].trays)
            begins = found[0].in_min if found else free[at]
            many = sum(n for _, n in loaded)
            found.append(
                LoadOf(
                    f"l{len(found) + 1}",
                    ovens[at].name,
                    at,
                    tuple(loaded),
                    minutes,
                    free[at],
                    free[at] + minutes,
                    programme,
                    done + 1,
                    done + many,
                    max(0.0, free[at] - begins),
                )
            )
            done += many
            free[at] += minutes + BETWEEN_MIN
    return tuple(found)


def _alike(trays: Sequence[Tray]) -> list[list[Tray]]:
    groups: list[list[Tray]] = []
    for each in trays:
        if each.trays <= 0:
            continue
        group = next((g for g in groups if _shares(g[0], each)), None)
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
