"""Leaves along the plan of any paste: exact for sheets, expected means for pieces and coils."""

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.counts import DOUGH, FAT, START, counts_along
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.step import Way

Leaves = list[tuple[float, float]]


def leaves_along_plan(
    plan: Plan, pieces: float = 0.0, windings: tuple[float, ...] = ()
) -> Leaves | None:
    """Count leaves of fat and dough after enclosing and after every step.

    Parameters
    ----------
    pieces : float
        For paste in pieces: how many a vertical line meets before the first turn [-].
    windings : tuple of float
        N of every log, in order, a coil first [-]: of a coil those that have fat, without the bare
        border that ends up outside.

    Returns
    -------
    list of (fat, dough), or None
        Exact for sheets. For pieces the expected leaves along a vertical, and for a log those
        along the line through its middle, and for what is folded of it. None where
        sizes are wanting, or the plan cannot be worked.

    Notes
    -----
    Where windings or panels with faces of one kind touch, the two leaves merge. In the middle of a
    coil the fat, which lies inside, meets itself: 2 N windings along the line have 2 N - 1 leaves
    of fat and one more of dough.
    """
    if plan.enclosure is not Enclosure.PIECES and not plan.rolls_up:
        try:
            return [(counts.fat, counts.dough) for counts in counts_along(plan)]
        except AplombError:
            return None
    if plan.portions:
        return None
    logs = list(windings)
    faces: int | None
    if plan.enclosure is Enclosure.PIECES:
        fat, dough, faces = pieces, pieces + 1, DOUGH
    elif plan.enclosure is Enclosure.COIL:
        if not logs:
            return None
        fat = max(2 * logs.pop(0) - 1, 1.0)
        dough = fat + 1
        faces = DOUGH
    else:
        start = START.get(plan.enclosure, ())
        fat, dough = float(start.count(FAT)), float(start.count(DOUGH))
        faces = start[0] if start and start[0] == start[-1] else None
    made = [(fat, dough)]
    for step in plan.steps:
        copies = float(step.panels) if step.is_turn else 1.0
        if step.way is Way.ROLL:
            if not logs:
                return None
            copies = 2 * logs.pop(0)
        fat, dough = copies * fat, copies * dough
        if faces == DOUGH:
            dough -= copies - 1
        elif faces == FAT:
            fat -= copies - 1
        made.append((fat, dough))
    return made
