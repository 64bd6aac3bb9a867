"""One step of a plan: a fold, a rest, a trim."""

from enum import Enum
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

SINGLE = 3
"""Panels of a single [-]."""


class Way(Enum):
    """What is done in one step."""

    FOLD = "fold"
    QUARTER = "quarter fold"
    STACK = "cut and stack"
    PORTION = "portion and fold"
    ROLL = "roll up"
    REST = "rest"
    TRIM = "trim"


SEAM_AT = 0.5
"""Where the ends of a double closed off the middle meet, over the folded block's length [-]."""


Edges = Literal["all", "folded", "rolled"]
"""Which edges are trimmed: the folded ones stand across the last rolling."""


class Step(Struct, frozen=True):
    """One step of a plan.

    Attributes
    ----------
    panels : int
        Panels of the fold, or pieces of the stack [-]; 1 for a rest or a roll-up.
    rolled_mm : float or None
        Thickness rolled to before folding [mm]; None for the formula's own default.
    rest_min : float or None
        Least length of a rest [min]; None when it is to be worked out.
    most_min : float or None
        Most length of a rest [min]; None when not said.
    place : str
        Where a rest is: fridge, freezer, blast or room, with a number for further ones; empty for
        the fridge.
    off_centre : bool
        A double whose ends meet off the middle, so that no seam lies in its bend.
    share_pct : float or None
        Of a portion: its share of all the fat [%]; None for an equal share of what is left.
    covered : int or None
        Of a portion: panels it is spread on; None for those nearest to two thirds of the sheet.
    begins : int
        Of a portion: the panel from which it is spread, 1 for the first of the sheet.
    trim_mm : float
        What a trim takes off each of its edges [mm].
    edges : {'all', 'folded', 'rolled'}
        Which edges a trim takes.
    """

    way: Way
    panels: int = 1
    rolled_mm: float | None = None
    rest_min: float | None = None
    off_centre: bool = False
    share_pct: float | None = None
    covered: int | None = None
    begins: int = 1
    trim_mm: float = 0.0
    edges: Edges = "all"
    most_min: float | None = None
    place: str = ""

    @property
    def spread_on(self) -> range:
        """Panels that a portion is spread on, 0 for the first of the sheet."""
        covered = self.covered or panels_near(USUAL_COVERED, self.panels)
        return range(self.begins - 1, self.begins - 1 + covered)

    @property
    def is_turn(self) -> bool:
        """True for everything but a rest and a trim."""
        return self.way not in (Way.REST, Way.TRIM)


USUAL_COVERED = 2 / 3
"""Share of the sheet that a portion is spread on when nothing is said [-], common practice."""


COVERED: tuple[tuple[str, float], ...] = (
    ("a third", 1 / 3),
    ("half", 1 / 2),
    ("two thirds", USUAL_COVERED),
)
"""Shares of the sheet that portions are spread on, common practice."""


def panels_near(share: float, panels: int) -> int:
    """Give the whole panels nearest to a share of the sheet [-].

    The fat ends at a crease, so that a flap is bare or covered, and one panel at the least stays
    bare to go over first.

    Parameters
    ----------
    share : float
        Of the sheet [-].
    panels : int
        Of the fold [-], at least 2.

    Examples
    --------
    >>> panels_near(0.66, 3)
    2
    """
    return max(1, min(panels - 1, int(share * panels + 0.5)))


def as_single(step: Step) -> Step:
    """Give a step with more panels as a single; any other as it is.

    Folded in three. A portion stays one, on as many panels as there are still.
    """
    if not step.is_turn or step.panels <= SINGLE:
        return step
    if step.way is Way.PORTION:
        begins = min(step.begins, SINGLE)
        covered = None if step.covered is None else min(step.covered, SINGLE + 1 - begins)
        return replace(step, panels=SINGLE, begins=begins, covered=covered)
    return replace(step, way=Way.FOLD, panels=SINGLE, off_centre=False)
