"""Trials in words: figures with their units, verdicts as sentences, a band and what it rests on."""

from collections.abc import Sequence

from aplomb.core.base.figures import bare_text, house_unit, num
from aplomb.core.trials.bands import LearnedBand
from aplomb.core.trials.came import Difference
from aplomb.core.trials.comparing import Compared
from aplomb.core.trials.series import Series, VariantResult
from aplomb.core.trials.trial import MADE_WORDS, OUTCOMES

UNITS = {"mm": "mm", "g": "g", "°C": "°C"}


def outcome_text(outcome: str, value: float | None, spec: str = "", *, bare: bool = False) -> str:
    """Write what came of a bake, with its unit.

    Parameters
    ----------
    spec : str
        How the number is written; empty for the outcome's own digits.
    bare : bool
        Without its unit.

    Examples
    --------
    >>> outcome_text("lift", 4.52), outcome_text("loss_pct", None)
    ('4.52 ×', '–')
    """
    if value is None:
        return "–"
    kind = OUTCOMES[outcome]
    text = num(value, spec or f".{kind.digits}f").replace("-", "−")
    return text if bare or not kind.unit else f"{text} {kind.unit}"


def made_text(key: str, value: float | str | None) -> str:
    """Write how a trial was made, in the measures of the house.

    Parameters
    ----------
    key : str
        A field of `Made`.
    """
    if value is None or value == "":
        return "–"
    if isinstance(value, str):
        return value
    unit = MADE_WORDS[key].unit
    return f"{bare_text(value, unit, '.3g')} {house_unit(unit)}".rstrip().replace("-", "−")


def difference_words(each: Difference) -> str:
    """Say in what two groups were made otherwise."""
    first, second = made_text(each.key, each.first), made_text(each.key, each.second)
    return f"{each.words.lower()} {first} → {second}"


def besides_words(found: Sequence[VariantResult]) -> str:
    """Say what else differed than the named change; the same of several variants is said once.

    Empty when nothing did.
    """
    by_words: dict[str, list[str]] = {}
    for variant in found:
        for each in variant.besides:
            by_words.setdefault(difference_words(each), []).append(variant.name)
    many = sum(bool(v.besides) for v in found)
    parts = [
        words if len(names) == many > 1 else f"{words} ({', '.join(names)})"
        for words, names in by_words.items()
    ]
    return f"Also different, besides the change under test: {'; '.join(parts)}." if parts else ""


def verdict_words(series: Series, parent: str, found: VariantResult) -> str:
    """Say what a variant's trials say against the parent's.

    One or two sentences; honest where there is not enough.

    Parameters
    ----------
    parent : str
        Name of the variant it is held against.
    """
    name, first = found.name or "unnamed", parent or "unnamed"
    gone = []
    if found.failed:
        gone.append(f"{found.failed} failed")
    if found.missing:
        gone.append(f"{found.missing} not measured")
    left = f" ({', '.join(gone)})" if gone else ""
    against = found.against
    if not found.values:
        return f"{name}: nothing measured yet{left}."
    if against is None:
        how = _from(len(found.values), paired=False)
        return f"{name}: {how}{left}; the others are compared with it."
    least = outcome_text(series.outcome, series.least, ".3g")
    what = OUTCOMES[series.outcome].words.lower()
    how = _from(len(found.values), paired=found.paired)
    if against.verdict == "different":
        within = f"{_interval(series.outcome, against)}, {how}{left}"
        if against.difference > 0:
            return f"{name} has a higher {what} than {first}: {within}."
        return f"{name} has a lower {what} than {first}: {within}."
    if against.verdict == "alike":
        return f"{name} and {first} are alike to within {least}, {how}{left}."
    name += ": not enough to say yet"
    if against.more:
        name += f" (about {against.more} more would show a difference of {least})"
    return f"{name}: {_interval(series.outcome, against)}, {how}{left}."


def _from(n: int, *, paired: bool) -> str:
    kind = "pair" if paired else "trial"
    return f"from {n} {kind}{'' if n == 1 else 's'}"


def _interval(outcome: str, found: Compared) -> str:
    spec = f"+.{OUTCOMES[outcome].digits}f"
    said = outcome_text(outcome, found.difference, spec)
    if found.low is None or found.high is None:
        return said
    low, high = (outcome_text(outcome, v, spec, bare=True) for v in (found.low, found.high))
    return f"{said}, probably {low} to {high}"


def band_words(band: LearnedBand) -> str:
    """Say a learned band with what it rests on."""
    unit = house_unit(MADE_WORDS[band.factor].unit)
    what = OUTCOMES[band.outcome].words.lower()

    def said(value: float) -> str:
        return bare_text(value, MADE_WORDS[band.factor].unit, ".2g")

    words = (
        f"{said(band.low)} to {said(band.high)} {unit}: here {what} is probably within 5 "
        f"% of its best. The lower end lies between {said(band.low_from)} and "
        f"{said(band.low_to)}, the upper end between {said(band.high_from)} and "
        f"{said(band.high_to)} {unit} (90 % likely). From {band.n} trials; trials made "
        f"alike differ by {outcome_text(band.outcome, band.scatter)}."
    )
    open_ends = [
        side for side, is_open in (("below", band.open_low), ("above", band.open_high)) if is_open
    ]
    if open_ends:
        words += f" No trials were made {' or '.join(open_ends)} this, so the range may go further."
    return words
