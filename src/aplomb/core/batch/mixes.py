"""Blocks dealt to mixes, so that the bowl holds its dough, and a line dealt to the same mixes."""

import math
from collections.abc import Sequence
from fractions import Fraction


def even_parts(blocks: int, mixes: int) -> tuple[int, ...]:
    """Deal blocks to mixes, which then differ by one at most, the larger first [-].

    Examples
    --------
    >>> even_parts(7, 3)
    (3, 2, 2)
    """
    few, more = divmod(blocks, mixes)
    return tuple(few + (i < more) for i in range(mixes))


def mixes_for(blocks: int, dough_g: float, bowl_most_g: float) -> tuple[int, ...]:
    """Give how many of a batch's blocks each mix makes, so that the bowl holds its dough [-].

    Parameters
    ----------
    dough_g : float
        Of all blocks [g].
    bowl_most_g : float
        Most that the mixer takes [g].

    Examples
    --------
    >>> mixes_for(3, 5400.0, 4000.0)
    (2, 1)
    """
    blocks = max(1, blocks)
    mixes = min(blocks, max(1, math.ceil(dough_g / bowl_most_g - 1e-9)))
    while mixes < blocks and math.ceil(blocks / mixes) * dough_g / blocks > bowl_most_g:
        mixes += 1
    return even_parts(blocks, mixes)


def parted(shares: Sequence[float], mixes: Sequence[int]) -> tuple[float, ...]:
    """Add up what the blocks of each mix weigh, the first mix the first blocks [g].

    Examples
    --------
    >>> parted([3.0, 3.0, 2.0], (2, 1))
    (6.0, 2.0)
    """
    found, at = [], 0
    for many in mixes:
        found.append(sum(shares[at : at + many]))
        at += many
    return tuple(found)


def dealt(grams: float, mixes: Sequence[float], division_g: float) -> tuple[float, ...]:
    """Deal a rounded mass to mixes, in whole divisions of the scale that add up to it [g].

    Every mix gets one division at the least: what is there is never nothing, so that a pinch for
    more mixes than it has divisions becomes one for each.

    Parameters
    ----------
    grams : float
        A multiple of `division_g` [g].
    mixes : sequence of float
        What each makes, in any unit.

    Notes
    -----
    Each gets the whole divisions of its share; those left go to the largest remainders, so that no
    mix is off by a division or more (common practice where whole things are shared out).

    Examples
    --------
    >>> dealt(245.0, (1, 1), 1.0)
    (123.0, 122.0)
    >>> dealt(1.0, (2, 1), 1.0)
    (1.0, 1.0)
    """
    whole, all_of_it = round(grams / division_g), sum(mixes)
    if whole <= 0:
        return tuple(0.0 for _ in mixes)
    if whole < len(mixes):
        return tuple(round(division_g, 6) for _ in mixes)
    found = in_whole([whole * mix / all_of_it for mix in mixes], whole, least=1)
    return tuple(round(n * division_g, 6) for n in found)


def in_whole(exact: Sequence[float | Fraction], whole: int, least: int = 0) -> list[int]:
    """Share whole things out, those left to the largest remainders [-].

    Parameters
    ----------
    exact : sequence of float or Fraction
        What each would get if things could be parted, in all `whole`.
    least : int
        Each gets so many; those with the most have fewer then.

    Examples
    --------
    >>> in_whole([2.5, 1.25, 1.25], 5)
    [3, 1, 1]
    """
    found = [max(least, math.floor(share + 1e-9)) for share in exact]
    order = sorted(range(len(exact)), key=lambda i: found[i] - exact[i])
    for i in order[: max(0, whole - sum(found))]:
        found[i] += 1
    while sum(found) > whole:  # one was given its least: another has one less
        found[found.index(max(found))] -= 1
    return found
