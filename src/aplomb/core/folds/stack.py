"""The leaf stack, worked leaf by leaf with its thicknesses: like meets like and becomes one."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import num
from aplomb.core.folds.counts import FAT, START, count, panels_of
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.step import Step, Way

MOST_LEAVES = 60_000
"""Most leaves that are worked one by one; beyond, only the counts are exact."""


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

    Shares scaled to sum to 1.

    Parameters
    ----------
    kinds : ndarray of uint8, shape (n,)
        DOUGH or FAT, bottom to top.
    shares : ndarray of float64, shape (n,)
        Thicknesses in any one unit, none negative, not all zero.
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
        raise AplombError(f"the fat's share of the volume is {num(fat_share)}; it must be 0 to 1")
    start = START.get(enclosure)
    if start is None:
        raise AplombError(f"paste made “{enclosure.value}” is not a stack of sheets")
    kinds = np.array(start, dtype=np.uint8)
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
    step : Step
        A fold, a quarter fold, a cut and stack, or a rest or trim (which change no leaf).

    Returns
    -------
    Stack
        Of shares that sum to 1.

    Raises
    ------
    AplombError
        For a step this version cannot work (``+3``, ``r``).
    """
    if not step.is_turn:
        return stack
    if step.way in (Way.PORTION, Way.ROLL):
        raise AplombError(f"a stack cannot be folded by “{step.way.value}”")
    return _laid(stack, step, 0.0)


def spread_and_folded(stack: Stack, step: Step, portion: float) -> Stack:
    """Spread a portion of fat on part of a sheet and fold it.

    Parameters
    ----------
    stack : Stack
        The sheet before.
    step : Step
        With the way PORTION.
    portion : float
        Volume of the fat over the sheet's [-].

    Returns
    -------
    Stack
        Of shares that sum to 1.

    Notes
    -----
    Over c of n panels the fat lies portion × n / c of the sheet's thickness high.
    """
    return _laid(stack, step, portion * step.panels / len(step.spread_on))


def _laid(stack: Stack, step: Step, layer: float) -> Stack:
    """Lay the panels of a step on one another, with a layer of fat on those it covers."""
    kinds, shares = [], []
    for has_fat, turned in panels_of(step):
        of_kind = np.append(stack.kinds, np.uint8(FAT)) if has_fat else stack.kinds
        thick = np.append(stack.shares, layer) if has_fat else stack.shares
        kinds.append(of_kind[::-1] if turned else of_kind)
        shares.append(thick[::-1] if turned else thick)
    return merged(np.concatenate(kinds), np.concatenate(shares))


@lru_cache(maxsize=256)
def stack_of(
    plan: Plan, fat_share: float, upto: int | None = None, kept: tuple[float, ...] = ()
) -> Stack | None:
    """Work the stack of a plan leaf by leaf.

    None when there would be more than `MOST_LEAVES` leaves.

    Parameters
    ----------
    plan : Plan
        Of sheets.
    fat_share : float
        Volume share of the fat block [-], 0 to 1.
    upto : int or None
        Only the first `upto` steps; None for all.
    kept : tuple of float
        Share of the paste that each trim leaves [-], in order; a portion that is spread later is
        the more of what is left. Without them a trim takes nothing.

    Raises
    ------
    AplombError
        As `enclosed` and `count`.
    """
    if count(plan, upto).leaves > MOST_LEAVES:
        return None
    in_portions = plan.enclosure is Enclosure.PORTIONS
    if in_portions and not 0 <= fat_share < 1:
        raise AplombError(f"the fat's share of the volume is {num(fat_share)}; there is no dough")
    stack = enclosed(plan.enclosure, 0.0 if in_portions else fat_share)
    portions = iter(plan.portion_shares())
    volume = 1 - fat_share
    trims = iter(kept)
    for step in plan.steps[:upto]:
        if step.way is Way.TRIM:
            volume *= next(trims, 1.0)
            continue
        if step.way is Way.PORTION:
            each = fat_share * next(portions)
            stack = spread_and_folded(stack, step, each / volume)
            volume += each
        else:
            stack = folded(stack, step)
    stack.kinds.setflags(write=False)
    stack.shares.setflags(write=False)
    return stack
