"""What papers are made of: the batches of a day, or the one in hand."""

from msgspec import Struct

from aplomb.core.base.house import House
from aplomb.core.batch.scaled import Scaled
from aplomb.core.make.goal import goal_of
from aplomb.core.make.make import make_of
from aplomb.core.make.step import Make
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.cold import cold_of
from aplomb.core.study.study import Study


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
    """

    name: str
    studies: tuple[Study, ...]
    pantry: Pantry
    house: House
    stock: dict[str, float]
    day: str = ""
    first_label: int = 0
    cold: str = "fridge"

    def make(self, study: Study) -> Make:
        """Give every step of one of them."""
        rests = cold_of(study, self.pantry, self.house)
        return make_of(study, self.pantry, self.house, goal_of(study.formula), rests)

    @property
    def batches(self) -> tuple[Scaled, ...]:
        """All batches."""
        return tuple(study.scaled for study in self.studies)
