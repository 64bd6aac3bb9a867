"""Weighing out: in which order, for which mix, and how near is near enough."""

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.batch.made_batch import MadeBatch, WeighedLine
from aplomb.core.batch.scaled import Scaled, Weighed, rounded
from aplomb.core.paste.formula import IN_THE_PASTE, Part
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
        What you want on the scale [g].
    near_g : float
        How far off is near enough [g].
    blocks : int
        Blocks of paste that it is for [-].
    """

    weighed: Weighed
    mix: int
    mixes: int
    target_g: float
    near_g: float
    blocks: int = 1

    @property
    def block_g(self) -> float:
        """Share of one block of paste [g]."""
        return self.target_g / self.blocks

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
    """Put the lines of a batch in the order in which they are weighed.

    Parts as they come, and in each the dry before the wet, the cold last.
    """
    parts = list(Part)

    def place(line: Weighed) -> tuple[int, str, int]:
        group = pantry[line.line.material].group
        at = _ORDER.index(group) if group in _ORDER else len(_ORDER)
        return parts.index(line.part), line.product, at

    return tuple(sorted((n for n in lines if n.weigh_g > 0), key=place))


def weigh_steps(scaled: Scaled, pantry: Pantry, division_g: float) -> tuple[WeighStep, ...]:
    """Give everything that is to be weighed, one line at a time.

    The dough of the first mix, of the second and so on, the fat blocks alike, then all else.

    Parameters
    ----------
    division_g : float
        Of the scale [g].

    Notes
    -----
    Dough and fat block are weighed for each mix, all else once; what the mixes weigh adds up to
    what the batch does.
    """
    ordered, mixes = weighing_order(scaled.lines, pantry), scaled.mixes
    many, blocks = len(mixes), sum(mixes)
    found = []
    for part in IN_THE_PASTE:
        for number, share in enumerate(mixes, 1):
            for line in ordered:
                if line.part is part:
                    mix = number if many > 1 else 0
                    target = line.by_mix[number - 1] if line.by_mix else line.weigh_g
                    near = _near_g(line, target, pantry, division_g)
                    found.append(WeighStep(line, mix, many, target, near, share))
    for line in ordered:
        if line.part not in IN_THE_PASTE:
            near = _near_g(line, line.weigh_g, pantry, division_g)
            found.append(WeighStep(line, 0, many, line.weigh_g, near, blocks))
    return tuple(found)


def _near_g(line: Weighed, target_g: float, pantry: Pantry, division_g: float) -> float:
    exact = pantry[line.line.material].group in ("salt", "acid")
    return division_g if exact else rounded(NEAR_SHARE * target_g, division_g)


class Run(Struct, frozen=True):
    """A batch while it is weighed out.

    Attributes
    ----------
    plan : tuple of WeighStep
        As planned, in weighing order.
    record : MadeBatch
        What is weighed already, and what the batch was scaled up by.
    division_g : float
        Of the scale [g].
    """

    plan: tuple[WeighStep, ...]
    made_batch: MadeBatch
    division_g: float

    @property
    def steps(self) -> tuple[WeighStep, ...]:
        """Every line with its target as the batch is now."""
        return tuple(step.times(self.made_batch.factor, self.division_g) for step in self.plan)

    def got(self, step: WeighStep) -> float | None:
        """What was weighed of a line [g]; None for nothing yet."""
        found = (line.got_g for line in self.made_batch.lines if line.key == step.key)
        return next(found, None)

    def open(self, step: WeighStep) -> bool:
        """Tell whether a line is not weighed yet, or too little of it for the batch as it is."""
        got = self.got(step)
        return got is None or (step.judged(got) == "less" and not self.ended(step))

    def ended(self, step: WeighStep) -> bool:
        """Tell whether a line was ended with less than was wanted."""
        return any(line.enough for line in self.made_batch.lines if line.key == step.key)

    def next(self, after: int = -1) -> int | None:
        """Give the place of the next line to weigh, from the top when none follows.

        None when all is weighed.
        """
        steps = self.steps
        order = [*range(after + 1, len(steps)), *range(min(after + 1, len(steps)))]
        return next((i for i in order if self.open(steps[i])), None)

    def skipped_to(self, at: int) -> int:
        """Give the place of the next line below that is not weighed yet, or the end [-]."""
        steps = self.steps
        below = range(at + 1, len(steps))
        return next((i for i in below if self.open(steps[i])), len(steps))

    def taken(
        self, at: int, got_g: float, tare_g: float, by: str, moment: str, *, enough: bool = False
    ) -> "Run":
        """Give the run with a line weighed; `enough` ends it with less than was wanted."""
        step = self.steps[at]
        part, material, product, mix = step.key
        line = WeighedLine(
            part, material, step.target_g, got_g, tare_g, by, moment, product, mix, enough
        )
        return replace(self, made_batch=self.made_batch.weighed(line))

    def ratio(self, at: int) -> float:
        """Give by how much the rest must be scaled so that a line weighed too much of is right [-].

        1 when it is not.
        """
        step = self.steps[at]
        got = self.got(step)
        if got is None or step.target_g <= 0 or step.judged(got) != "more":
            return 1.0
        return got / step.target_g

    def more_pct(self, at: int) -> float:
        """Give by how much the rest must be scaled up so that a line is right [%]."""
        return 100 * (self.ratio(at) - 1)

    def finished(self, scaled: Scaled | None) -> "Run":
        """Give the run with what was mixed in its record, once all is weighed.

        Parameters
        ----------
        scaled : Scaled or None
            The batch: frozen paste and scrap that join it are recorded too.
        """
        outcome = replace(self.made_batch.outcome, mixed_g=round(self.paste_g, 3))
        if scaled is not None and scaled.joined_g > 0:
            outcome = replace(outcome, joined_g=scaled.joined_g)
        return replace(self, made_batch=replace(self.made_batch, outcome=outcome))

    def scaled_up(self, ratio: float) -> "Run":
        """Give the run of a larger batch; lines weighed already want topping up then."""
        return replace(
            self, made_batch=replace(self.made_batch, factor=self.made_batch.factor * ratio)
        )

    @property
    def paste_g(self) -> float:
        """Dough and fat block that are weighed [g]."""
        return sum(
            line.got_g
            for line in self.made_batch.lines
            if line.part in [part.value for part in IN_THE_PASTE]
        )


def begin_run(scaled: Scaled, pantry: Pantry, division_g: float, made_batch: MadeBatch) -> Run:
    """Begin weighing a batch out, or go on where its record ends.

    Parameters
    ----------
    division_g : float
        Of the scale [g].
    record : MadeBatch
        Empty to begin.
    """
    return Run(weigh_steps(scaled, pantry, division_g), made_batch, division_g)
