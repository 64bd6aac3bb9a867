"""What papers are made of: the batches of a day, or the one in hand."""

from msgspec import Struct

from aplomb.core.base.house import House
from aplomb.core.batch.scaled import Scaled
from aplomb.core.make.goal import Goal, goal_of
from aplomb.core.make.make import make_of
from aplomb.core.make.step import Make
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.cold import cold_of
from aplomb.core.study.study import Study
from aplomb.work.words.steps import batch_words


class Job(Struct, frozen=True):
    """Batches that papers are made for.

    Attributes
    ----------
    name : str
        Of the day, or of the formula.
    studies : tuple of Study
        One for each paste, its batch as it is made.
    stock : dict of float, by material
        On the shelf [g].
    day : str
        When it is wanted, ISO 8601; empty when it is not set.
    first_label : int
        Labels of the first page that are used already [-].
    cold : str
        Where blocks are kept: ``fridge`` or ``freezer``.
    goals : tuple of Goal
        What each is made for; empty for what its batch says.
    """

    name: str
    studies: tuple[Study, ...]
    pantry: Pantry
    house: House
    stock: dict[str, float]
    day: str = ""
    first_label: int = 0
    cold: str = "fridge"
    goals: tuple[Goal, ...] = ()

    def goal(self, study: Study) -> Goal:
        """Give what one of them is made for."""
        pairs = zip(self.studies, self.goals, strict=False)
        return next((goal for each, goal in pairs if each is study), goal_of(study.formula))

    def words(self, study: Study) -> str:
        """Say what one of them gives."""
        return batch_words(study, keep=self.goal(study).kind == "keep")

    def make(self, study: Study) -> Make:
        """Give every step of one of them."""
        rests = cold_of(study, self.pantry, self.house)
        return make_of(study, self.pantry, self.house, self.goal(study), rests)

    @property
    def batches(self) -> tuple[Scaled, ...]:
        """All batches."""
        return tuple(study.scaled for study in self.studies)
