"""The verb ``trials``: what a table of trials says, without a book."""

from pathlib import Path

import numpy as np
from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import num
from aplomb.core.trials.bands import LEAST_FOR_BAND, LearnedBand, learned_band
from aplomb.core.trials.came import came_of
from aplomb.core.trials.comparing import Compared
from aplomb.core.trials.model import PRIORS, model_of
from aplomb.core.trials.series import Series, variants_of
from aplomb.core.trials.trial import MADE_WORDS, OUTCOMES
from aplomb.disk import read_bytes
from aplomb.exchange.trials_csv import LARGEST_BYTES, read_trials

SEED = 20261126
"""Of the draws behind a band: the same table gives the same answer."""
VERDICTS = {"different": "different", "alike": "alike", "not_enough": "not enough to say yet"}


class TrialTold(Struct, frozen=True):
    """One trial: what came of it; null where nothing was measured."""

    trial: str
    variant: str
    failed: str
    mean: float | None
    scatter: float | None
    pieces: int
    stands_out: bool


class VariantTold(Struct, frozen=True):
    """One variant of a series against its parent."""

    variant: str
    trials: int
    measured: int
    failed: int
    mean: float | None
    paired: bool
    against: Compared | None
    besides: tuple[str, ...]


class SeriesTold(Struct, frozen=True):
    """A series: its variants, the parent first."""

    series: str
    variants: tuple[VariantTold, ...]


class TrialsTold(Struct, frozen=True):
    """What a table of trials says.

    Attributes
    ----------
    n : int
        Trials that were learned from [-].
    scatter : float or None
        Of trials that are alike, in the outcome's unit; None where it is not learned.
    band : LearnedBand or None
        Of the fat leaf; None with too few trials.
    troubles, unknown : tuple of str
        Lines left out, and columns that mean nothing here.
    """

    outcome: str
    unit: str
    trials: tuple[TrialTold, ...]
    series: tuple[SeriesTold, ...]
    n: int
    scatter: float | None
    band: LearnedBand | None
    troubles: tuple[str, ...]
    unknown: tuple[str, ...]


def trials_file(path: str, outcome: str = "lift", change: str = "fat_leaf_um") -> TrialsTold:
    """Read a table of trials and say what it says.

    Parameters
    ----------
    path : str
        Its file.
    outcome : str
        A key of `OUTCOMES`.
    change : str
        What each series changes: a key of `MADE_WORDS`.

    Raises
    ------
    AplombError
        When it cannot be read, holds no trial, or asks for what there is none of.
    """
    for what, given, known in (("outcome", outcome, OUTCOMES), ("change", change, MADE_WORDS)):
        if given not in known:
            raise AplombError(f"{what}: “{given[:30]}” must be one of {', '.join(known)}")
    read = read_trials(read_bytes(Path(path), LARGEST_BYTES), Path(path).name)
    if not read.trials:
        more = f" ({read.troubles[0]})" if read.troubles else ""
        raise AplombError(f"{Path(path).name} contains no trial that can be used{more}")
    model = model_of(read.trials, outcome) if outcome in PRIORS else None
    out = model.outliers if model else ()
    told = []
    for trial in read.trials:
        came = came_of(trial, outcome)
        told.append(
            TrialTold(
                trial.key,
                trial.variant,
                trial.failed,
                came.mean if came else None,
                came.scatter if came else None,
                came.n if came else 0,
                trial.key in out,
            )
        )
    names = dict.fromkeys(t.series for t in read.trials if t.series)
    series = tuple(
        SeriesTold(
            name,
            tuple(
                VariantTold(
                    v.name,
                    len(v.trials),
                    len(v.values),
                    v.failed,
                    v.mean,
                    v.paired,
                    v.against,
                    tuple(d.words for d in v.besides),
                )
                for v in variants_of(
                    Series(name, name, change=change, outcome=outcome), read.trials
                )
            ),
        )
        for name in names
    )
    band = learned_band(model, "fat_leaf_um", np.random.default_rng(SEED)) if model else None
    return TrialsTold(
        outcome,
        OUTCOMES[outcome].unit,
        tuple(told),
        series,
        model.n if model else 0,
        model.belief.scatter if model else None,
        band,
        read.troubles,
        read.unknown,
    )


def trials_words(told: TrialsTold) -> str:
    """Say what a table of trials says, in plain words."""
    words, unit = OUTCOMES[told.outcome].words, f" {told.unit}" if told.unit else ""
    measured = [t for t in told.trials if t.mean is not None]
    failed = sum(bool(t.failed) for t in told.trials)
    lines = [
        f"{len(told.trials)} trials, {words.lower()} measured in {len(measured)}, {failed} failed."
    ]
    for series in told.series:
        lines.append(f"{series.series}:")
        for v in series.variants:
            mean = "not measured" if v.mean is None else f"{num(v.mean, '.3g')}{unit}"
            line = f"  {v.variant}: {mean}, from {v.measured} of {v.trials} trials"
            if v.against is not None:
                line += f"; {_against_words(v.against, unit)}"
            if v.besides:
                line += f"; also different: {', '.join(b.lower() for b in v.besides)}"
            lines.append(line)
    if told.band is not None:
        b = told.band
        lines.append(
            f"Close to its best with a fat leaf of {num(b.low, '.3g')} to "
            f"{num(b.high, '.3g')} µm (lower end between {num(b.low_from, '.3g')} and "
            f"{num(b.low_to, '.3g')}, upper end between {num(b.high_from, '.3g')} and "
            f"{num(b.high_to, '.3g')}), from {b.n} trials."
        )
    elif told.n:
        lines.append(f"No range for the fat leaf yet: that takes about {LEAST_FOR_BAND} trials.")
    out = [t.trial for t in told.trials if t.stands_out]
    if out:
        lines.append(f"Outliers, still counted: {', '.join(out)}.")
    lines += [f"Left out: {each}" for each in told.troubles]
    if told.unknown:
        lines.append(f"Columns not read: {', '.join(told.unknown)}.")
    return "\n".join(lines)


def _against_words(found: Compared, unit: str) -> str:
    """Say a difference with its interval and verdict."""
    said = f"{num(found.difference, '+.2g')}{unit}".replace("-", "−")
    if found.low is not None and found.high is not None:
        ends = f"{num(found.low, '+.2g')} to {num(found.high, '+.2g')}".replace("-", "−")
        said += f" ({ends})"
    said += f", {VERDICTS[found.verdict]}"
    if found.more:
        said += f": about {found.more} more would settle it"
    return said
