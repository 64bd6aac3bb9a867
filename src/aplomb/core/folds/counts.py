"""Counting leaves, in exact whole numbers of any size.

Where two panels meet, the two leaves that touch merge when they are of one kind. Panels next to one
another in the sheet meet face to face, so theirs always are; a flap that is folded over another
flap, or a piece that is stacked on another, lays top on bottom.
"""

from collections.abc import Iterator
from functools import lru_cache
from itertools import islice

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.step import Step, Way

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

    Notes
    -----
    A single turn folds the right third over the middle and the left over both; a book folds both
    quarters to the middle and shuts: each panel that is folded over lies upside down.

    Examples
    --------
    >>> from aplomb.core.folds.plan import Step, Way
    >>> panel_order(Step(Way.FOLD, 3))
    ((1, False), (2, True), (0, True))
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


def refuse_unworkable(plan: Plan, *, part: bool = False) -> None:
    """Raise AplombError for a plan that is read but cannot be worked.

    Of a part of one, the portions need not come to all the fat.

    Raises
    ------
    AplombError
        With the reason in words.
    """
    if plan.portions and plan.enclosure is not Enclosure.PORTIONS:
        raise AplombError(
            "a portion (+3) spreads fat that was not enclosed; start the line with “portions”"
        )
    if not part:
        plan.portion_shares()


def counts_along(plan: Plan) -> Iterator[Counts]:
    """Count the leaves after enclosing and after every step of a plan.

    Parameters
    ----------
    plan : Plan
        Of sheets, or in portions: not PIECES or COIL, and without a roll-up.

    Yields
    ------
    Counts
        One for the enclosing and one for every step, rests too.

    Raises
    ------
    AplombError
        For an enclosure or step that this version cannot count.
    """
    refuse_unworkable(plan)
    start = START.get(plan.enclosure)
    if start is None or plan.rolls_up:
        what = plan.enclosure.value if start is None else "rolled up"
        raise AplombError(f"the leaves of paste made as “{what}” can only be averaged, not counted")
    number = {FAT: start.count(FAT), DOUGH: start.count(DOUGH)}
    bottom, top = start[0], start[-1]
    product = 1
    yield Counts(product, number[FAT], number[DOUGH])
    for step in plan.steps:
        if step.is_turn:
            product *= step.panels
            number, bottom, top = _laid(panels_of(step), number, bottom, top)
        yield Counts(product, number[FAT], number[DOUGH])


@lru_cache(maxsize=512)
def panels_of(step: Step) -> tuple[tuple[bool, bool], ...]:
    """Give the panels of any turn from the bottom up: covered with a portion, and turned over.

    Notes
    -----
    When a portion does not say, fat is spread on the panels nearest to two thirds of the sheet,
    from its beginning (common practice): half of a sheet folded in two, two panels of three, three
    of four. What is bare is folded over first.

    Examples
    --------
    >>> from aplomb.core.folds.plan import Step, Way
    >>> panels_of(Step(Way.FOLD, 3))
    ((False, False), (False, True), (False, True))
    """
    if step.way is Way.QUARTER:
        return tuple((False, turned) for turned in (False, True, False, True))
    on = step.spread_on if step.way is Way.PORTION else ()
    return tuple((panel in on, turned) for panel, turned in panel_order(step))


def _laid(
    panels: tuple[tuple[bool, bool], ...], number: dict[int, int], bottom: int, top: int
) -> tuple[dict[int, int], int, int]:
    """Lay panels on one another: leaves of each kind, lowest and highest leaf."""
    n = len(panels)
    made = {DOUGH: n * number[DOUGH], FAT: n * number[FAT]}
    below = -1
    lowest = -1
    for covered, turned in panels:
        upper = FAT if covered else top
        if covered and top != FAT:
            made[FAT] += 1
        low, high = (upper, bottom) if turned else (bottom, upper)
        if low == below:
            made[low] -= 1
        if lowest < 0:
            lowest = low
        below = high
    return made, lowest, below


def count(plan: Plan, upto: int | None = None) -> Counts:
    """Count the leaves of a plan, exactly, however many.

    Parameters
    ----------
    plan : Plan
        Of sheets.
    upto : int or None
        Only the first `upto` steps; None for all.

    Raises
    ------
    AplombError
        As `counts_along`.

    Notes
    -----
    Where a fold lays fat on fat the two leaves are one, and so with dough: a single turn of an
    envelope (dough outside) gives 3 n fat leaves, a double 4 n. Checked leaf by leaf against
    `stack_of`.

    Examples
    --------
    >>> from aplomb.core.folds.turn_line import parse_plan
    >>> count(parse_plan('envelope 3 3 3 3 3 3')).fat
    729
    >>> count(parse_plan('thirds 4 4 4')).fat
    128
    """
    *_, last = islice(counts_along(plan), None if upto is None else upto + 1)
    return last
