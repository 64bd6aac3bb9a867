"""Weighing out within a run: which line is next, what is wanted, when it is right."""

from msgspec import Struct

from aplomb.core.batch.weighing import WeighStep, weigh_steps
from aplomb.core.bench.acts import Weigh
from aplomb.core.bench.plan import Task
from aplomb.core.paste.formula import PART_NAMES, Part
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.study import Study
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.words import mix_share
from aplomb.work.words.measured import line_words
from aplomb.work.words.steps import block_words, water_words


class LineInHand(Struct, frozen=True):
    """A line to weigh, as the screen shows it.

    Attributes
    ----------
    number, of : int
        Which line of how many [-].
    """

    step: WeighStep
    name: str
    part: str
    note: str
    number: int
    of: int


class RunWeighing:
    """The lines of a paste's weighing.

    Parameters
    ----------
    study : Study
        Of the formula as the run keeps it.

    Attributes
    ----------
    skipped : int
        How many open lines are passed over for now [-].
    """

    def __init__(self, run: LiveRun, task: Task, study: Study, pantry: Pantry) -> None:
        self._run, self.task, self._study, self._pantry = run, task, study, pantry
        division = study.formula.batch.division_g
        self.steps = weigh_steps(study.scaled, pantry, division)
        self.skipped = 0

    def _got(self, step: WeighStep) -> Weigh | None:
        return self._run.state.lines.get((self.task.key, *step.key))

    def is_open(self, step: WeighStep) -> bool:
        """Tell whether a line is still to be weighed."""
        got = self._got(step)
        return got is None or (step.judged(got.got_g) == "less" and not got.enough)

    def in_hand(self) -> LineInHand | None:
        """Give the line in hand; None when all is weighed."""
        left = [step for step in self.steps if self.is_open(step)]
        if not left:
            return None
        step = left[self.skipped % len(left)]
        material = self._pantry[step.weighed.line.material]
        mix = f"mix {step.mix} of {step.mixes}, " if step.mix else ""
        return LineInHand(
            step,
            material.name,
            mix + PART_NAMES[step.weighed.part].lower(),
            self._note(step),
            self.steps.index(step) + 1,
            len(self.steps),
        )

    def _note(self, step: WeighStep) -> str:
        material = self._pantry[step.weighed.line.material]
        measure = line_words(self._run.times.house, material, step.weighed, step.target_g)
        other = self._other_note(step, material)
        return "; ".join(words for words in (measure, other) if words)

    def _other_note(self, step: WeighStep, material: Ingredient) -> str:
        if step.weighed.part is Part.DOUGH and material.is_water:
            mixes = [t for t in self._run.plan.tasks_of(self.task.track) if t.kind == "mix"]
            share = 1.0
            if step.mix and len(mixes) >= step.mix:
                share = mix_share(self._run, mixes[step.mix - 1])
            return water_words(self._study, self._pantry, share)
        return block_words(step)

    def take(self, grams: float, by: str, tare_g: float = 0.0, *, enough: bool = False) -> str:
        """Take a weight for the line in hand.

        Parameters
        ----------
        grams : float
            [g].
        tare_g : float
            What lay on the scale before [g].
        enough : bool
            Less than was wanted is the end of the line.

        Returns
        -------
        str
            ``less`` when it was too little and was not taken, ``right``, or ``more`` when it is
            too much: it is taken as it is, and shown in the record.

        Raises
        ------
        AplombError
            When it cannot be used.
        """
        line = self.in_hand()
        if line is None:
            return "right"
        step = line.step
        judged = step.judged(grams)
        if judged == "less" and not enough and by == "scale":
            return judged
        part, material, product, mix = step.key
        self._run.press(
            Weigh(
                self.task.key,
                part,
                material,
                product,
                mix,
                step.target_g,
                grams,
                tare_g,
                by,
                enough or (judged == "less"),
            )
        )
        self.skipped = 0
        return judged
