"""Weighing out: in which order, for which mix, and how near is near enough."""

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.batch.record import BatchRecord, WeighedLine
from aplomb.core.batch.scale import Scaled, Weighed, rounded
from aplomb.core.paste.formula import Part
from aplomb.core.paste.pantry import Pantry

NEAR_SHARE = 0.005
"""How far a weighed line may be off, over its mass [-]; the scale's division at the least.
Recalled; salt and acid get the division alone."""

_ORDER = ("flour", "starch", "binder", "salt", "sugar", "other", "egg", "acid", "liquid", "fat")
"""Dry first, what is wet and cold last, so that it stays cold: common practice."""


class WeighStep(Struct, frozen=True):
    """One line to weigh for one mix.

    Attributes
    ----------
    weighed : Weighed
        The line of the whole batch.
    mix, mixes : int
        Which mix it is for, 1 for the first, and how many there are; 0 for the whole batch [-].
    target_g : float
        What is wanted on the scale [g].
    near_g : float
        How far off is near enough [g].
    """

    weighed: Weighed
    mix: int
    mixes: int
    target_g: float
    near_g: float

    @property
    def key(self) -> tuple[str, str, str, int]:
        """Which line it is, as in a batch's record."""
        return (*self.weighed.key, self.mix)

    def times(self, factor: float, division_g: float) -> "WeighStep":
        """Give the step for a batch so many times as large."""
        if factor == 1:
            return self
        target = rounded(self.target_g * factor, division_g)
        return replace(self, target_g=target, near_g=max(self.near_g, self.near_g * factor))

    def judged(self, grams: float) -> str:
        """Judge what is on the scale: ``less``, ``right`` or ``more``."""
        if grams < self.target_g - self.near_g - 1e-9:
            return "less"
        return "more" if grams > self.target_g + self.near_g + 1e-9 else "right"


def weighing_order(lines: Sequence[Weighed], pantry: Pantry) -> tuple[Weighed, ...]:
    """Put the lines of a batch in the order in which they are weighed: parts as they come, and
    in each the dry before the wet, the cold last."""
    parts = list(Part)

    def place(line: Weighed) -> tuple[int, str, int]:
        group = pantry[line.line.material].group
        at = _ORDER.index(group) if group in _ORDER else len(_ORDER)
        return parts.index(line.part), line.product, at

    return tuple(sorted((n for n in lines if n.weigh_g > 0), key=place))


def weigh_steps(
    scaled: Scaled, pantry: Pantry, division_g: float, mixes: Sequence[int] = (1,)
) -> tuple[WeighStep, ...]:
    """Give everything that is to be weighed, one line at a time.

    Parameters
    ----------
    scaled : Scaled
    pantry : Pantry
    division_g : float
        Of the scale [g].
    mixes : sequence of int
        Blocks of each mix [-]; the dough is weighed for each, all else once.

    Returns
    -------
    tuple of WeighStep
        The dough of the first mix, of the second and so on, then all else.
    """
    ordered = weighing_order(scaled.lines, pantry)
    dough = [n for n in ordered if n.part is Part.DOUGH]
    rest = [n for n in ordered if n.part is not Part.DOUGH]
    many, blocks = len(mixes), sum(mixes)
    found = []
    for number, part in enumerate(mixes, 1):
        for line in dough:
            target = rounded(line.exact_g * part / blocks, division_g)
            found.append(_step(line, number if many > 1 else 0, many, target, pantry, division_g))
    found += [_step(line, 0, many, line.weigh_g, pantry, division_g) for line in rest]
    return tuple(found)


def _step(
    line: Weighed, mix: int, mixes: int, target_g: float, pantry: Pantry, division_g: float
) -> WeighStep:
    exact = pantry[line.line.material].group in ("salt", "acid")
    near = division_g if exact else rounded(NEAR_SHARE * target_g, division_g)
    return WeighStep(line, mix, mixes, target_g, near)


class Run(Struct, frozen=True):
    """A batch while it is weighed out.

    Attributes
    ----------
    plan : tuple of WeighStep
        As planned, in weighing order.
    record : BatchRecord
        What is weighed already, and what the batch was scaled up by.
    division_g : float
        Of the scale [g].
    """

    plan: tuple[WeighStep, ...]
    record: BatchRecord
    division_g: float

    @property
    def steps(self) -> tuple[WeighStep, ...]:
        """Every line with its target as the batch is now."""
        return tuple(step.times(self.record.factor, self.division_g) for step in self.plan)

    def got(self, step: WeighStep) -> float | None:
        """What was weighed of a line [g]; None for nothing yet."""
        found = (line.got_g for line in self.record.lines if line.key == step.key)
        return next(found, None)

    def open(self, step: WeighStep) -> bool:
        """Tell whether a line is not weighed yet, or too little of it for the batch as it is."""
        got = self.got(step)
        return got is None or step.judged(got) == "less"

    def next(self, after: int = -1) -> int | None:
        """Give the place of the next line to weigh, from the top when none follows; None when all
        is weighed."""
        steps = self.steps
        order = [*range(after + 1, len(steps)), *range(min(after + 1, len(steps)))]
        return next((i for i in order if self.open(steps[i])), None)

    def taken(self, at: int, got_g: float, tare_g: float, by: str, moment: str) -> "Run":
        """Give the run with a line weighed."""
        step = self.steps[at]
        part, material, product, mix = step.key
        line = WeighedLine(
            part, material, step.target_g, got_g, tare_g, by, moment, product, mix
        )  # fmt: skip
        return replace(self, record=self.record.weighed(line))

    def ratio(self, at: int) -> float:
        """By how much the rest must be scaled so that a line weighed too much of is right [-]; 1
        when it is not."""
        step = self.steps[at]
        got = self.got(step)
        if got is None or step.target_g <= 0 or step.judged(got) != "more":
            return 1.0
        return got / step.target_g

    def scaled_up(self, ratio: float) -> "Run":
        """Give the run of a larger batch; lines weighed already want topping up then."""
        return replace(self, record=replace(self.record, factor=self.record.factor * ratio))

    @property
    def paste_g(self) -> float:
        """Dough and fat block that are weighed [g]."""
        return sum(
            line.got_g for line in self.record.lines if line.part in ("dough", "block")
        )  # fmt: skip


def begin_run(
    scaled: Scaled, pantry: Pantry, division_g: float, mixes: Sequence[int], record: BatchRecord
) -> Run:
    """Begin weighing a batch out, or go on where its record ends.

    Parameters
    ----------
    scaled : Scaled
    pantry : Pantry
    division_g : float
        Of the scale [g].
    mixes : sequence of int
        Blocks of each mix [-].
    record : BatchRecord
        Empty to begin.
    """
    return Run(weigh_steps(scaled, pantry, division_g, mixes), record, division_g)
