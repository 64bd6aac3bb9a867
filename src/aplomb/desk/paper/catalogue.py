"""All papers there are: their words, and how each is painted."""

from collections.abc import Callable
from functools import partial

from msgspec import Struct

from aplomb.desk.paper.canvas import A4, Canvas, Paint
from aplomb.desk.paper.card import paint_card
from aplomb.desk.paper.cut import paint_cut, paint_cut_full
from aplomb.desk.paper.job import Job
from aplomb.desk.paper.labels import paint_labels
from aplomb.desk.paper.lists import (
    paint_allergens,
    paint_order,
    paint_steps,
    paint_weigh_list,
)


class Paper(Struct, frozen=True):
    """One kind of paper.

    Attributes
    ----------
    words : str
        What it is called.
    hint : str
        What it is for.
    paint : callable
        Takes a canvas and a job.
    """

    key: str
    words: str
    hint: str
    paint: Callable[[Canvas, Job], None]

    def painter(self, job: Job) -> Paint:
        """Give what paints it for a job."""
        return partial(_painted, self.paint, job)

    def size_mm(self, job: Job) -> tuple[float, float]:
        """Its page, wide and high [mm]."""
        if self.key == "labels":
            return job.house.labels.page_wide_mm, job.house.labels.page_long_mm
        return A4


def _painted(paint: Callable[[Canvas, Job], None], job: Job, canvas: Canvas) -> None:
    paint(canvas, job)


def _cards(canvas: Canvas, job: Job) -> None:
    for i, study in enumerate(job.studies):
        if i:
            canvas.new_page()
        goal = job.goal(study)
        paint_card(canvas, study, job.pantry, job.house, lessons=len(job.studies) == 1, goal=goal)


PAPERS = (
    Paper("card", "Batch card", "the whole batch on one page", _cards),
    Paper("weigh", "Weigh-out list", "in weighing order, mix by mix", paint_weigh_list),
    Paper("steps", "Mixing and folding", "in words, with every size", paint_steps),
    Paper("cut", "Cut plan", "one sheet per page", paint_cut),
    Paper("cut_full", "Cut plan at true size", "1 : 1, on pages to tape together", paint_cut_full),
    Paper("order", "Order list", "by supplier, in whole packs", paint_order),
    Paper("allergens", "Allergen sheet", "and the ingredient each one comes from", paint_allergens),
    Paper("labels", "Block labels", "one for every wrapped block", paint_labels),
)
