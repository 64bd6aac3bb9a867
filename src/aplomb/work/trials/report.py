"""A report of a series: question, change, figures, verdicts with their doubt, what was decided."""

from collections.abc import Sequence

import msgspec

from aplomb.core.trials.bands import LearnedBand
from aplomb.core.trials.came import came_of
from aplomb.core.trials.comparing import Compared
from aplomb.core.trials.model import Model
from aplomb.core.trials.series import Series, variants_of
from aplomb.core.trials.trial import OUTCOMES, Trial
from aplomb.work.trials.words import band_words, difference_words, verdict_words

FORMAT, VERSION = "aplomb-trials", 1


class TrialLine(msgspec.Struct, frozen=True):
    """One trial of a report; the outcome is null where it was not measured."""

    trial: Trial
    mean: float | None
    scatter: float | None
    pieces: int
    stands_out: bool


class VariantLine(msgspec.Struct, frozen=True):
    """One variant: its mean, its difference to the parent, and both in words."""

    name: str
    trials: int
    measured: int
    failed: int
    mean: float | None
    paired: bool
    against: Compared | None
    words: str
    besides: tuple[str, ...]


class SeriesReport(msgspec.Struct, frozen=True):
    """A report of a series.

    Attributes
    ----------
    formula : str
        Name of the formula that is changed.
    outcome, unit : str
        In words.
    variants : tuple of VariantLine
        The parent first.
    lines : tuple of TrialLine
        The earliest first.
    band : LearnedBand or None
        Of the factor that is changed, from all trials of the book.
    """

    format: str
    version: int
    series: Series
    formula: str
    outcome: str
    unit: str
    variants: tuple[VariantLine, ...]
    lines: tuple[TrialLine, ...]
    band: LearnedBand | None
    band_words: str


def series_report(
    series: Series,
    trials: Sequence[Trial],
    formula: str,
    model: Model | None,
    band: LearnedBand | None,
) -> SeriesReport:
    """Put a series together.

    Parameters
    ----------
    trials : sequence of Trial
        Of the whole book.
    formula : str
        Name of the formula that is changed.
    model : Model or None
        What was learned of the outcome; None where it is not learned.
    """
    found = variants_of(series, trials)
    parent = found[0].name if found else ""
    variants = tuple(
        VariantLine(
            v.name,
            len(v.trials),
            len(v.values),
            v.failed,
            v.mean,
            v.paired,
            v.against,
            verdict_words(series, parent, v),
            tuple(difference_words(d) for d in v.besides),
        )
        for v in found
    )
    out = model.outliers if model else ()
    lines = []
    for trial in sorted((t for t in trials if t.series == series.key), key=lambda t: t.at):
        came = came_of(trial, series.outcome)
        lines.append(
            TrialLine(
                trial,
                came.mean if came else None,
                came.scatter if came else None,
                came.n if came else 0,
                trial.key in out,
            )
        )
    kind = OUTCOMES[series.outcome]
    return SeriesReport(
        FORMAT,
        VERSION,
        series,
        formula,
        kind.words,
        kind.unit,
        variants,
        tuple(lines),
        band,
        band_words(band) if band else "",
    )


def report_json(report: SeriesReport) -> bytes:
    """Write a report as JSON, as docs/trials-format.md says.

    UTF-8, indented by a blank.
    """
    return msgspec.json.format(msgspec.json.encode(report), indent=1) + b"\n"
