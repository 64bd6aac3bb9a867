"""Weighing out a batch, line by line: what is in hand, what was taken, what comes next.

Whatever is weighed is in the batch's record at once. Who shows it asks for `step` and `run`; the
scale is not known here.
"""

from typing import TYPE_CHECKING

from msgspec.structs import replace

from aplomb.book.book import new_uid, now
from aplomb.core.base.figures import g_text, num
from aplomb.core.batch.made_batch import MadeBatch, Outcome
from aplomb.core.batch.stock import used_up
from aplomb.core.batch.weighing import Run, WeighStep, begin_run
from aplomb.work.open_book.workbench import Workbench

if TYPE_CHECKING:
    from aplomb.core.study.study import Study


class WeighOut:
    """One batch that is being weighed.

    Attributes
    ----------
    run : Run or None
        What is to be weighed and what was; None before anything is followed.
    at : int
        Place of the line in hand [-]; behind the last when all were gone through.
    study : Study or None
        That the run was made of.
    """

    def __init__(self, work: Workbench) -> None:
        self._work = work
        self.run: Run | None = None
        self.at = 0
        self.study: Study | None = None

    @property
    def step(self) -> WeighStep | None:
        """The line in hand."""
        steps = self.run.steps if self.run else ()
        return steps[self.at] if self.at < len(steps) else None

    def begin(self) -> None:
        """Begin with the batch in hand, where its record ends."""
        self.at = 0
        self.study, self.run = None, None
        self.follow()
        run: Run | None = self.run  # followed again
        if run is not None:
            self.at = run.next() or 0

    def follow(self) -> bool:
        """Follow the formula in hand; what is weighed already stays. False when nothing is new."""
        study = self._work.shelf.study
        if study is None or study is self.study:
            return False
        self.study = study
        reference = self._work.shelf.reference
        self.run = begin_run(
            study.scaled,
            reference.pantry,
            study.formula.batch.division_g,
            self._record(),
        )
        self.at = min(self.at, len(self.run.plan))
        return True

    def _record(self) -> MadeBatch:
        """Give the batch of this formula that is being weighed, or a new one, not kept yet."""
        shelf = self._work.shelf
        made_batches = [r for r in shelf.reference.made_batches if r.uid == shelf.uid]
        hand = self.run.made_batch if self.run else None
        if hand is not None and hand.uid == shelf.uid:  # as the book has it: undo counts
            empty = replace(hand, lines=(), factor=1.0, outcome=Outcome())
            return next((r for r in made_batches if r.key == hand.key), empty)
        last = made_batches[-1] if made_batches else None
        if last is not None and last.lines and last.outcome.mixed_g is None:
            return last
        name = shelf.formula.name if shelf.formula else ""
        return MadeBatch(new_uid(), name, shelf.uid, now())

    def keep(self, grams: float, tare_g: float, by: str, *, enough: bool = False) -> bool:
        """Keep a weight of the line in hand.

        False when it was too little and was not kept.

        Parameters
        ----------
        grams : float
            [g].
        tare_g : float
            What lay on the scale before [g].
        enough : bool
            Less than was wanted is the end of the line.

        Notes
        -----
        A line with too much stays in hand until the rest is scaled, or it is skipped.
        """
        run, step = self.run, self.step
        if run is None or step is None:
            return False
        judged = step.judged(grams)
        enough = enough and judged == "less"
        if not enough and judged == "less" and by == "scale":
            self._work.news.said(
                f"{g_text(step.target_g - grams, 1)} short; press → to skip this line, or "
                "E to finish it with less."
            )
            return False
        self._put(run.taken(self.at, grams, tare_g, by, now(), enough=enough), "weighed")
        if judged != "more":
            self._go_on()
        return True

    def _go_on(self) -> None:
        run = self.run
        if run is None:
            return
        found = run.next(self.at)
        self.at = found if found is not None else len(run.plan)
        if found is None:
            self._finish()

    def _finish(self) -> None:
        run = self.run
        if run is not None and run.made_batch.lines and run.made_batch.outcome.mixed_g is None:
            self._put(run.finished(self.study.scaled if self.study else None), "all weighed")

    def _put(self, run: Run, words: str) -> None:
        self.run = run
        step = self.step
        pantry = self._work.shelf.reference.pantry
        name = pantry[step.weighed.line.material].name if step else ""
        self._work.store.put_made_batch(f"{name.lower()} {words}".strip(), run.made_batch)

    def go_back(self) -> None:
        """Go to the line before."""
        self.at = max(0, self.at - 1)

    def skip(self) -> None:
        """Go to the next line that is not weighed yet, whatever is weighed of this one."""
        if self.run is not None:
            self.at = self.run.skipped_to(self.at)
            if self.at >= len(self.run.plan) and self.run.next() is None:
                self._finish()

    def scale_rest(self) -> None:
        """After too much of a line: make the whole batch so much larger."""
        run = self.run
        if run is None or self.at >= len(run.plan):
            return
        ratio = run.ratio(self.at)
        if ratio > 1:
            self._put(run.scaled_up(ratio), f"too much: batch scaled × {num(ratio, '.3f')}")
            self._go_on()

    def begin_anew(self) -> None:
        """Begin a new batch; the old one stays in the book."""
        run = self.run
        if run is None:
            return
        if run.made_batch.lines and run.made_batch.outcome.mixed_g is None:
            self._finish()
        self.study, self.run = None, None
        self.at = 0
        self.follow()

    @property
    def can_take_off(self) -> bool:
        """Tell whether all is weighed, and some of it is on stock and not off it yet."""
        run, stock = self.run, self._work.store.kitchen.stock
        if run is None:
            return False
        frozen = self.study.scaled.frozen_g if self.study else 0.0
        there = any(line.material in stock.materials for line in run.made_batch.lines) or (
            frozen > 0 and bool(stock.blocks(run.made_batch.uid))
        )
        return there and run.next() is None and not run.made_batch.stock_taken

    def take_off_stock(self) -> None:
        """Take what was weighed off the stock, once."""
        run, study = self.run, self.study
        if run is None or study is None or not self.can_take_off:
            return
        left = used_up(self._work.store.kitchen.stock, run.made_batch, study.scaled.frozen_g)
        self.run = replace(run, made_batch=replace(run.made_batch, stock_taken=True))
        self._work.store.put_made_batch("taken from stock", self.run.made_batch, left)
        self._work.news.said("What was weighed has been taken from stock. Ctrl+Z puts it back.")
