"""A series of trials: one question, one named change, and what the trials say of it."""

from collections.abc import Mapping, Sequence

from msgspec import Struct

from aplomb.core.base.errors import Problems
from aplomb.core.base.sound import check_sound
from aplomb.core.trials.came import Difference, came_of, differences
from aplomb.core.trials.comparing import Compared, compare, compare_apart
from aplomb.core.trials.trial import MADE_WORDS, OUTCOMES, Made, Trial

MOST_VARIANTS = 24
LEAST_PAIRS = 2
"""With so many shared pairs two variants are compared in pairs, else apart [-]."""


class Planned(Struct, frozen=True, forbid_unknown_fields=True):
    """A variant that is laid out: the formula that makes it, and how it shall be made.

    Attributes
    ----------
    uid : str
        Identity of its formula in the book.
    """

    uid: str
    variant: str
    made: Made


class Series(Struct, frozen=True, forbid_unknown_fields=True):
    """A series.

    Attributes
    ----------
    key : str
        Its identity in the book.
    uid : str
        Identity of the formula that is changed.
    change : str
        What is changed: a key of `MADE_WORDS`, or other words.
    outcome : str
        What is looked at first: a key of `OUTCOMES`.
    matters : float
        The least difference worth knowing, in the outcome's unit; 0 for what is usual.
    parent : str
        The variant that the others are held against; empty for the first.
    decided : str
        What was decided, in words.
    begun : str
        When, ISO 8601.
    planned : tuple of Planned
        Variants that are laid out.
    """

    key: str
    name: str
    question: str = ""
    uid: str = ""
    change: str = "fat_leaf_um"
    outcome: str = "lift"
    matters: float = 0.0
    parent: str = ""
    decided: str = ""
    begun: str = ""
    planned: tuple[Planned, ...] = ()

    @property
    def least(self) -> float:
        """The least difference worth knowing, in the outcome's unit."""
        return self.matters or OUTCOMES[self.outcome].matters

    @property
    def change_words(self) -> str:
        """What is changed, in words."""
        about = MADE_WORDS.get(self.change)
        return about.words if about else self.change


def check_series(series: Series) -> Series:
    """Give the series back if it can be used.

    Raises
    ------
    FormulaError
        Listing all that cannot be used.
    """
    wrong = Problems()
    if not series.name.strip() or len(series.name) > 80:
        wrong.add("series: its name has 1 to 80 characters.")
    if not series.change.strip() or len(series.change) > 80:
        wrong.add("change: say what is changed, in 1 to 80 characters.")
    if series.outcome not in OUTCOMES:
        wrong.add(
            f"outcome: “{series.outcome[:30]}” is not one of them; use {', '.join(OUTCOMES)}."
        )
    wrong.number("matters", series.matters, 0, 1e6, "")
    if len(series.planned) > MOST_VARIANTS:
        wrong.add(f"planned: {len(series.planned)} are too many; up to {MOST_VARIANTS} fit.")
    check_sound(series, wrong)
    wrong.check()
    return series


class VariantResult(Struct, frozen=True):
    """One variant of a series.

    Attributes
    ----------
    trials : tuple of Trial
        All, failed ones too.
    values : tuple of float
        What came of each that was measured, in the outcome's unit.
    against : Compared or None
        Its difference to the parent; None for the parent itself, or where nothing was measured.
    paired : bool
        Compared in pairs.
    besides : tuple of Difference
        What else differed from the parent than the named change.
    """

    name: str
    trials: tuple[Trial, ...]
    values: tuple[float, ...]
    against: Compared | None
    paired: bool
    besides: tuple[Difference, ...]

    @property
    def mean(self) -> float | None:
        """The mean of its trials, in the outcome's unit; None without any."""
        return sum(self.values) / len(self.values) if self.values else None

    @property
    def failed(self) -> int:
        """Bakes that failed [-]."""
        return sum(bool(trial.failed) for trial in self.trials)

    @property
    def missing(self) -> int:
        """Bakes that did not fail and were not measured [-]."""
        return len(self.trials) - self.failed - len(self.values)


def variants_of(series: Series, trials: Sequence[Trial]) -> tuple[VariantResult, ...]:
    """Give what the trials of a series say, variant by variant.

    The parent first, then in the order they were made.

    Parameters
    ----------
    trials : sequence of Trial
        Of the whole book.
    """
    groups: dict[str, list[Trial]] = {}
    for trial in sorted((t for t in trials if t.series == series.key), key=lambda t: t.at):
        groups.setdefault(trial.variant, []).append(trial)
    if not groups:
        return ()
    first = series.parent if series.parent in groups else next(iter(groups))
    names = [first, *(name for name in groups if name != first)][:MOST_VARIANTS]
    base = {t.key: c.mean for t in groups[first] if (c := came_of(t, series.outcome))}
    found = []
    for name in names:
        mine = groups[name]
        came = {t.key: c.mean for t in mine if (c := came_of(t, series.outcome))}
        values = tuple(came.values())
        if name == first or not values or not base:
            found.append(VariantResult(name, tuple(mine), values, None, paired=False, besides=()))
            continue
        pairs = _pairs(groups[first], mine, base, came)
        paired = len(pairs) >= LEAST_PAIRS
        against = (
            compare(pairs, series.least)
            if paired
            else compare_apart(tuple(base.values()), values, series.least)
        )
        other = differences([t.made for t in groups[first]], [t.made for t in mine])
        besides = tuple(d for d in other if d.key != series.change)
        found.append(VariantResult(name, tuple(mine), values, against, paired, besides))
    return tuple(found)


def _pairs(
    first: Sequence[Trial],
    second: Sequence[Trial],
    base: Mapping[str, float],
    came: Mapping[str, float],
) -> list[tuple[float, float]]:
    """Trials of two variants that were made together; the means where there are several."""
    made: dict[str, tuple[list[float], list[float]]] = {}
    for i, (group, values) in enumerate(((first, base), (second, came))):
        for trial in group:
            if trial.pair and trial.key in values:
                made.setdefault(trial.pair, ([], []))[i].append(values[trial.key])
    return [(sum(a) / len(a), sum(b) / len(b)) for a, b in made.values() if a and b]
