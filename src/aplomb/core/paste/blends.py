"""Shares of a blend, and the fats of a block as shares."""

from collections.abc import Mapping, Sequence

from aplomb.core.paste.formula import Formula
from aplomb.core.paste.ingredient import Share
from aplomb.core.paste.pantry import Pantry


def block_fats(formula: Formula, pantry: Pantry) -> dict[str, float]:
    """Give the fats of a formula's block.

    Mass of each by its key, in the order of the lines; none of a mass of nothing [g].
    """
    found: dict[str, float] = {}
    for line in formula.block:
        if pantry[line.material].is_fat and line.grams > 0:
            found[line.material] = found.get(line.material, 0.0) + line.grams
    return found


def as_shares(masses: Mapping[str, float]) -> tuple[Share, ...]:
    """Give masses as shares of them all; equal ones when there is nothing of any.

    Parameters
    ----------
    masses : dict of str
        By key [g].

    Examples
    --------
    >>> as_shares({"butter": 300.0, "lard": 100.0})[1]
    Share(material='lard', share=0.25)
    """
    whole = sum(masses.values())
    return tuple(
        Share(key, mass / whole if whole > 0 else 1 / len(masses)) for key, mass in masses.items()
    )


def with_share(shares: Sequence[Share], at: int, share: float) -> tuple[Share, ...]:
    """Give one material of a blend another share; the others give way in proportion.

    They come to 1. Where the others had nothing to give way in proportion of, they share alike.

    Parameters
    ----------
    at : int
        Place of the one.

    Examples
    --------
    >>> blend = as_shares({"butter": 2.0, "lard": 1.0, "shortening": 1.0})
    >>> [round(each.share, 3) for each in with_share(blend, 0, 0.8)]
    [0.8, 0.1, 0.1]
    """
    rest = sum(each.share for i, each in enumerate(shares) if i != at)
    others = max(1, len(shares) - 1)
    return tuple(
        Share(
            each.material,
            share if i == at else (1 - share) * (each.share / rest if rest > 0 else 1 / others),
        )
        for i, each in enumerate(shares)
    )
