"""The leaf stack, worked leaf by leaf: like meets like and becomes one leaf.

Folding lays every panel face to face with its neighbour, so the two leaves that meet at a
crease are always of one kind and merge. Cutting and stacking lays top on bottom, so they merge
only where the two outer leaves are of one kind.
"""

from functools import lru_cache

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aplomb.core.errors import AplombError
from aplomb.core.folds.plan import NOT_YET, Enclosure, Plan, Step, Way

DOUGH, FAT = 0, 1
"""Kinds of leaf, as they stand in `Stack.kinds`."""

MOST_LEAVES = 60_000
"""Most leaves that are worked one by one; beyond, only the counts are exact."""


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


class Stack:
    """Leaves from bottom to top, as shares of the whole thickness.

    Attributes
    ----------
    kinds : ndarray of uint8, shape (n,)
        DOUGH or FAT, neighbours always differing.
    shares : ndarray of float64, shape (n,)
        Thickness of each leaf over the whole [-], summing to 1.
    """

    __slots__ = ("kinds", "shares")

    def __init__(self, kinds: NDArray[np.uint8], shares: NDArray[np.float64]) -> None:
        self.kinds = kinds
        self.shares = shares

    def __len__(self) -> int:
        return len(self.kinds)

    @property
    def fat_leaves(self) -> int:
        """Number of fat leaves [-]."""
        return int(np.count_nonzero(self.kinds == FAT))

    @property
    def dough_leaves(self) -> int:
        """Number of dough leaves [-]."""
        return len(self) - self.fat_leaves

    @property
    def fat_share(self) -> float:
        """Share of the thickness that is fat [-]."""
        return float(self.shares[self.kinds == FAT].sum())


def merged(kinds: NDArray[np.uint8], shares: NDArray[np.float64]) -> Stack:
    """Lay leaves on one another, merging neighbours of one kind and dropping empty ones.

    Parameters
    ----------
    kinds : ndarray of uint8, shape (n,)
        DOUGH or FAT, bottom to top.
    shares : ndarray of float64, shape (n,)
        Thicknesses in any one unit, none negative, not all zero.

    Returns
    -------
    Stack
        Shares scaled to sum to 1.
    """
    there = shares > 0
    kinds, shares = kinds[there], shares[there]
    first = np.flatnonzero(np.r_[True, kinds[1:] != kinds[:-1]])
    thick = np.add.reduceat(shares, first)
    return Stack(kinds[first], thick / thick.sum())


def enclosed(enclosure: Enclosure, fat_share: float) -> Stack:
    """Give the stack just after enclosing.

    Parameters
    ----------
    enclosure : Enclosure
        Not PORTIONS, PIECES or COIL.
    fat_share : float
        Volume share of the fat block in the paste [-], 0 to 1.

    Returns
    -------
    Stack

    Raises
    ------
    AplombError
        For an enclosure that is not a stack of sheets, or a share outside 0–1.

    Notes
    -----
    Envelope and halves: dough, fat, dough, with both doughs alike. Thirds: one sheet of dough in
    three panels with fat in two of them: d f d f d, all doughs alike. Inverse: f d f.
    """
    if not 0 <= fat_share <= 1:
        raise AplombError(f"the fat's share of the volume is {fat_share:g}; 0 to 1 is wanted")
    if enclosure is Enclosure.NONE:
        pattern = "d"
    elif enclosure in (Enclosure.ENVELOPE, Enclosure.HALVES):
        pattern = "dfd"
    elif enclosure is Enclosure.THIRDS:
        pattern = "dfdfd"
    elif enclosure is Enclosure.INVERSE:
        pattern = "fdf"
    else:
        raise AplombError(f"paste made “{enclosure.value}” is not a stack of sheets")
    kinds = np.array([FAT if sign == "f" else DOUGH for sign in pattern], dtype=np.uint8)
    fat = kinds == FAT
    shares = np.empty(len(kinds))
    if not fat.any():
        return Stack(kinds, np.ones(1))
    shares[fat] = fat_share / fat.sum()
    shares[~fat] = (1 - fat_share) / (~fat).sum()
    return merged(kinds, shares)


def folded(stack: Stack, step: Step) -> Stack:
    """Carry one step out on a stack.

    Parameters
    ----------
    stack : Stack
    step : Step
        A fold, a quarter fold, a cut and stack, or a rest (which changes nothing).

    Returns
    -------
    Stack
        Of shares that sum to 1.

    Raises
    ------
    AplombError
        For a step this version cannot work (``+3``, ``r``).
    """
    if step.way is Way.REST:
        return stack
    refuse_unworkable(step)
    copies = range(step.panels)
    turned = step.way is not Way.STACK
    return merged(
        np.concatenate([stack.kinds[::-1] if turned and i % 2 else stack.kinds for i in copies]),
        np.concatenate([stack.shares[::-1] if turned and i % 2 else stack.shares for i in copies]),
    )


def refuse_unworkable(step: Step) -> None:
    """Raise AplombError for a step that is read but cannot be worked yet."""
    if step.way in (Way.PORTION, Way.ROLL):
        word = "a portion between folds (+3)" if step.way is Way.PORTION else "rolling up (r)"
        raise AplombError(f"{word} can be written down but not worked out yet; use 2 to 6, q or s4")


def count(plan: Plan, upto: int | None = None) -> Counts:
    """Count the leaves of a plan, exactly, however many.

    Parameters
    ----------
    plan : Plan
        Of sheets: not PORTIONS, PIECES or COIL.
    upto : int or None
        Only the first `upto` steps; None for all.

    Returns
    -------
    Counts

    Raises
    ------
    AplombError
        For an enclosure or step that this version cannot count.

    Notes
    -----
    A fold in n panels has n-1 creases; at the first, third … the top leaf meets itself, at the
    others the bottom leaf, and each such meeting merges two leaves of that kind into one.
    """
    if plan.enclosure in NOT_YET:
        raise AplombError(
            f"“{plan.enclosure.value}” can be written down but not worked out yet; "
            "use envelope, thirds, halves, inverse or pieces"
        )
    if plan.enclosure is Enclosure.NONE:
        start = [DOUGH]
    else:
        start = enclosed(plan.enclosure, 0.5).kinds.tolist()
    number = {FAT: start.count(FAT), DOUGH: start.count(DOUGH)}
    bottom, top = start[0], start[-1]
    product = 1
    for step in plan.steps[:upto]:
        if not step.is_turn:
            continue
        refuse_unworkable(step)
        n = step.panels
        product *= n
        number = {kind: n * many for kind, many in number.items()}
        if step.way is Way.STACK:
            if top == bottom:
                number[top] -= n - 1
        else:
            number[top] -= n // 2
            number[bottom] -= (n - 1) // 2
            top = bottom if n % 2 == 0 else top
    return Counts(product, number[FAT], number[DOUGH])


@lru_cache(maxsize=256)
def stack_of(plan: Plan, fat_share: float, upto: int | None = None) -> Stack | None:
    """Work the stack of a plan leaf by leaf.

    Parameters
    ----------
    plan : Plan
        Of sheets.
    fat_share : float
        Volume share of the fat block [-], 0 to 1.
    upto : int or None
        Only the first `upto` steps; None for all.

    Returns
    -------
    Stack or None
        None when there would be more than `MOST_LEAVES` leaves.

    Raises
    ------
    AplombError
        As `enclosed` and `count`.
    """
    if count(plan, upto).leaves > MOST_LEAVES:
        return None
    stack = enclosed(plan.enclosure, fat_share)
    for step in plan.steps[:upto]:
        stack = folded(stack, step)
    stack.kinds.setflags(write=False)
    stack.shares.setflags(write=False)
    return stack


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
