"""Counting leaves, in exact whole numbers of any size.

Folding lays every panel face to face with its neighbour, so the two leaves that meet at a crease
are always of one kind and merge. Cutting and stacking lays top on bottom, so they merge only where
the two outer leaves are of one kind.
"""

from collections.abc import Iterator
from itertools import pairwise

from msgspec import Struct

from aplomb.core.errors import AplombError
from aplomb.core.folds.plan import NOT_YET, Enclosure, Plan, Step, Way

DOUGH, FAT = 0, 1
"""Kinds of leaf, as they stand in a stack."""

START: dict[Enclosure, tuple[int, ...]] = {
    Enclosure.NONE: (DOUGH,),
    Enclosure.PORTIONS: (DOUGH,),
    Enclosure.ENVELOPE: (DOUGH, FAT, DOUGH),
    Enclosure.HALVES: (DOUGH, FAT, DOUGH),
    Enclosure.THIRDS: (DOUGH, FAT, DOUGH, FAT, DOUGH),
    Enclosure.INVERSE: (FAT, DOUGH, FAT),
}
"""Leaves just after enclosing, bottom to top. Thirds: one sheet of dough in three panels with fat
in two of them. In portions the fat comes later, a share at each step with a ``+``."""


def spread_panels(step: Step) -> tuple[tuple[bool, bool], ...]:
    """Give the panels of a portion step from the bottom up: covered with fat, and turned over.

    Parameters
    ----------
    step : Step
        With the way PORTION.

    Notes
    -----
    Fat is spread on all panels but the one at the end of the sheet, which is folded over first:
    half of a sheet folded in two, two thirds of one folded in three (common practice).
    """
    bare = step.panels - 1
    order = panel_order(step)
    return tuple((panel != bare, turned) for panel, turned in order)


_ORDER: dict[int, tuple[tuple[int, bool], ...]] = {
    2: ((0, False), (1, True)),
    3: ((1, False), (2, True), (0, True)),
    4: ((1, False), (0, True), (3, False), (2, True)),
}
"""Panels from the bottom up and whether each is turned over: book-over, letter, and book fold."""


def panel_order(step: Step) -> tuple[tuple[int, bool], ...]:
    """Give the panels of a fold from the bottom up, and whether each is turned over.

    Parameters
    ----------
    step : Step
        A fold, quarter fold, portion, or cut and stack.
    """
    if step.way is Way.STACK:
        return tuple((i, False) for i in range(step.panels))
    return _ORDER.get(step.panels) or tuple((i, i % 2 == 1) for i in range(step.panels))


class Counts(Struct, frozen=True):
    """How many leaves, exact whole numbers of any size.

    Attributes
    ----------
    product : int
        P, the product of the panels [-].
    fat, dough : int
        Leaves of each kind [-].
    """

    product: int
    fat: int
    dough: int

    @property
    def leaves(self) -> int:
        """All leaves [-]."""
        return self.fat + self.dough


def refuse_unworkable(plan: Plan) -> None:
    """Raise AplombError for a plan that is read but cannot be worked."""
    if any(step.way is Way.ROLL for step in plan.steps):
        raise AplombError(
            "rolling up (r) can be written down but not worked out yet; use 2 to 6, q or s4"
        )
    if plan.portions and plan.enclosure is not Enclosure.PORTIONS:
        raise AplombError(
            "a portion (+3) spreads fat that was not enclosed; begin the line with “portions”"
        )


def counts_along(plan: Plan) -> Iterator[Counts]:
    """Count the leaves after enclosing and after every step of a plan.

    Parameters
    ----------
    plan : Plan
        Of sheets, or in portions: not PIECES or COIL.

    Yields
    ------
    Counts
        One for the enclosing and one for every step, rests too.

    Raises
    ------
    AplombError
        For an enclosure or step that this version cannot count.

    Notes
    -----
    A fold in n panels has n-1 creases; at the first, third … the top leaf meets itself, at the
    others the bottom leaf, and each such meeting merges two leaves of that kind into one.
    """
    refuse_unworkable(plan)
    start = START.get(plan.enclosure)
    if start is None:
        what = "worked out yet" if plan.enclosure in NOT_YET else "counted: its leaves are means"
        raise AplombError(
            f"“{plan.enclosure.value}” can be written down but not {what}; "
            "use envelope, thirds, halves, inverse or portions"
        )
    number = {FAT: start.count(FAT), DOUGH: start.count(DOUGH)}
    bottom, top = start[0], start[-1]
    product = 1
    yield Counts(product, number[FAT], number[DOUGH])
    for step in plan.steps:
        if step.is_turn:
            n = step.panels
            product *= n
            if step.way is Way.PORTION:
                number, bottom, top = _spread(step, number, bottom, top)
                yield Counts(product, number[FAT], number[DOUGH])
                continue
            number = {kind: n * many for kind, many in number.items()}
            if step.way is Way.STACK:
                if top == bottom:
                    number[top] -= n - 1
            else:
                number[top] -= n // 2
                number[bottom] -= (n - 1) // 2
                top = bottom if n % 2 == 0 else top
        yield Counts(product, number[FAT], number[DOUGH])


def _spread(
    step: Step, number: dict[int, int], bottom: int, top: int
) -> tuple[dict[int, int], int, int]:
    """Spread a portion on a sheet and fold it: leaves of each kind, lowest and highest leaf."""
    panels = spread_panels(step)
    made = {kind: many * len(panels) for kind, many in number.items()}
    if top != FAT:
        made[FAT] += sum(covered for covered, _ in panels)
    faces = []
    for covered, turned in panels:
        upper = FAT if covered else top
        faces.append((upper, bottom) if turned else (bottom, upper))
    for (_, upper), (lower, _) in pairwise(faces):
        if upper == lower:
            made[upper] -= 1
    return made, faces[0][0], faces[-1][1]


def count(plan: Plan, upto: int | None = None) -> Counts:
    """Count the leaves of a plan, exactly, however many.

    Parameters
    ----------
    plan : Plan
        Of sheets.
    upto : int or None
        Only the first `upto` steps; None for all.

    Returns
    -------
    Counts

    Raises
    ------
    AplombError
        As `counts_along`.
    """
    part = plan if upto is None else Plan(plan.enclosure, plan.steps[:upto])
    *_, last = counts_along(part)
    return last


def pieces_at_start(fat_share: float, gathered_mm: float, piece_mm: float) -> float:
    """Mean number of fat pieces along a vertical line before the first turn [-].

    Parameters
    ----------
    fat_share : float
        Volume share of the pieces [-], 0 to 1.
    gathered_mm : float
        Height of the gathered mass [mm].
    piece_mm : float
        Edge of a cube of fat [mm]; pressing it flatter only raises the mean.

    Returns
    -------
    float

    Raises
    ------
    AplombError
        When a length is not above zero.

    Notes
    -----
    A line crosses fat for `fat_share` of the height, `piece_mm` at a time. Rolling thins both
    alike, and each turn multiplies the number by its panels.
    """
    if gathered_mm <= 0 or piece_mm <= 0:
        raise AplombError("the pieces and the gathered mass need a size above 0 mm")
    return fat_share * gathered_mm / piece_mm
