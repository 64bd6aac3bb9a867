"""What came of a trial: its pieces' values together, and how two trials were made differently."""

import math
from collections.abc import Sequence

from msgspec import Struct

from aplomb.core.trials.trial import JUDGED_OUTCOMES, MADE_WORDS, Made, Trial, of_piece


def values_of(trial: Trial, outcome: str) -> tuple[float, ...]:
    """Give what came of each piece that was measured.

    Parameters
    ----------
    outcome : str
        A key of `OUTCOMES`.

    Returns
    -------
    tuple of float
        In the outcome's unit; one value for what is known of the whole bake only.
    """
    if outcome in JUDGED_OUTCOMES:
        mark = getattr(trial.judged, outcome)
        return (float(mark),) if mark else ()
    if outcome == "leak_pct":
        raw = [p.raw_g for p in trial.pieces if p.raw_g is not None]
        if trial.leak_g is None or not raw or len(raw) < len(trial.pieces):
            return ()
        return (100 * trial.leak_g / math.fsum(raw),)
    found = (of_piece(piece, outcome) for piece in trial.pieces)
    return tuple(each for each in found if each is not None)


class Came(Struct, frozen=True):
    """What came of a trial: the mean of its pieces, their scatter, and how many there were.

    Attributes
    ----------
    scatter : float or None
        Standard deviation of the pieces; None with one.
    n : int
        Pieces [-].
    """

    mean: float
    scatter: float | None
    n: int


def came_of(trial: Trial, outcome: str) -> Came | None:
    """Give what came of a trial; None when nothing was measured or the bake failed.

    A bake that failed is kept and shown, and no figure of it is compared or learned from.
    """
    values = values_of(trial, outcome)
    if trial.failed or not values:
        return None
    # By hand: the library's works in exact fractions, and the shelf asks for every trial at once.
    mean, n = math.fsum(values) / len(values), len(values)
    squares = math.fsum((value - mean) ** 2 for value in values)
    return Came(mean, math.sqrt(squares / (n - 1)) if n > 1 else None, n)


class Difference(Struct, frozen=True):
    """Something in which two trials were made otherwise.

    Attributes
    ----------
    key : str
        A field of `Made`.
    """

    key: str
    words: str
    first: float | str
    second: float | str


def differences(first: Sequence[Made], second: Sequence[Made]) -> tuple[Difference, ...]:
    """Say in what two groups of trials were made otherwise; what is not known is passed over.

    Figures as the groups' means, words as those of all of a group.
    """
    from statistics import fmean  # not at the start: it brings fractions and more

    found = []
    for key, about in MADE_WORDS.items():
        a = [v for m in first if (v := getattr(m, key)) not in (None, "")]
        b = [v for m in second if (v := getattr(m, key)) not in (None, "")]
        if not a or not b:
            continue
        if isinstance(a[0], str):
            words = tuple(" / ".join(sorted(set(each))) for each in (a, b))
            if words[0] != words[1]:
                found.append(Difference(key, about.words, *words))
        elif abs(fmean(a) - fmean(b)) > about.alike:
            found.append(Difference(key, about.words, fmean(a), fmean(b)))
    return tuple(found)
