"""A plan of turns as a value, and the line of text that stands for it.

The turn line: ``plan = enclosure step*``. A step is ``2`` … ``6`` (fold into that many panels),
``q`` (quarter fold), ``s4`` (cut in four and stack), ``+3`` (spread a portion, then fold in
three), ``r`` (roll up), ``/`` or ``/30`` (rest in the cold, minutes). A fold may carry the
thickness it is rolled to before folding [mm]: ``4@8``. Case and blanks do not matter.

A rest may have a most beside its least, and a place: ``/30-60``, ``/30@freezer``, ``/@room``,
``/60@fridge2`` for the second fridge of the house. A rest without minutes is worked out. Before the
enclosing stand the rests of dough and fat by themselves, ``dough/30 fat/15@freezer envelope …``;
at the end that of the shaped pieces, ``… / shaped/20``. The rest before the final sheet is the last
of the plain ones.

Further words: ``4o`` (a double whose ends meet off the middle), ``+3:40`` (a portion of 40 % of the
fat; without it what is left is shared alike), ``+3:40:1`` (spread on the first panel only;
``2-3``: on the second and third), ``t10`` (trim 10 mm off all edges of the paste as it lies;
``t10f`` off the folded, ``t10r`` off the rolled edges only).
"""

from enum import Enum
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_text, num


class Enclosure(Enum):
    """How dough and fat are put together."""

    ENVELOPE = "envelope"
    THIRDS = "thirds"
    HALVES = "halves"
    INVERSE = "inverse"
    PORTIONS = "portions"
    PIECES = "pieces"
    COIL = "coil"
    NONE = "none"


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


class Plan(Struct, frozen=True):
    """An enclosure and the steps after it.

    Attributes
    ----------
    dough_rest, fat_rest : Step or None
        Rests of dough and fat block by themselves, before they meet; None when not said.
    shaped_rest : Step or None
        Rest of the shaped pieces; None when not said.
    """

    enclosure: Enclosure
    steps: tuple[Step, ...] = ()
    dough_rest: Step | None = None
    fat_rest: Step | None = None
    shaped_rest: Step | None = None

    @property
    def turns(self) -> tuple[Step, ...]:
        """The steps that are turns, in order."""
        return tuple(step for step in self.steps if step.is_turn)

    @property
    def portions(self) -> int:
        """Times a portion of the fat is spread [-]."""
        return sum(step.way is Way.PORTION for step in self.steps)

    @property
    def rolls_up(self) -> bool:
        """True when the paste is rolled to a log somewhere, so that its leaves are a spiral."""
        return self.enclosure is Enclosure.COIL or any(s.way is Way.ROLL for s in self.steps)

    @property
    def leaves_are_means(self) -> bool:
        """True when leaves are expected along a line, not counted: in pieces, and rolled up."""
        return self.enclosure is Enclosure.PIECES or self.rolls_up

    def portion_shares(self) -> tuple[float, ...]:
        """Share of all the fat in each portion, in order [-], summing to 1.

        Raises
        ------
        AplombError
            When the shares that are said come to more than all, or to less with none left open.
        """
        said = [s.share_pct for s in self.steps if s.way is Way.PORTION]
        whole = sum(share for share in said if share is not None)
        left = said.count(None)
        if (left and whole > 99.999) or (said and not left and abs(whole - 100) > 1e-6):
            raise AplombError(
                f"the portions come to {num(whole)} % of the fat; they must come to 100 %"
            )
        return tuple((100 - whole) / left / 100 if s is None else s / 100 for s in said)

    @property
    def product(self) -> int:
        """P, the product of all panels [-], exact."""
        product = 1
        for step in self.turns:
            product *= step.panels
        return product

    @property
    def creases(self) -> int:
        """Every crease counted as a fold [-]; a cut makes none."""
        return sum(s.panels - 1 for s in self.turns if s.way in (Way.FOLD, Way.PORTION)) + sum(
            2 for s in self.turns if s.way is Way.QUARTER
        )

    def line(self) -> str:
        """Give the turn line; reading it gives this plan again."""
        before = [("dough", self.dough_rest), ("fat", self.fat_rest)]
        words = [name + step_word(rest) for name, rest in before if rest is not None]
        words += [self.enclosure.value, *(step_word(step) for step in self.steps)]
        if self.shaped_rest is not None:
            words.append("shaped" + step_word(self.shaped_rest))
        return " ".join(words)


SINGLE = 3
"""Panels of a single [-]."""
MOST_PANELS = 6
MOST_STACKED = 12
MOST_STEPS = 200
THINNEST_MM, THICKEST_MM = 0.5, 100.0
LONGEST_REST_MIN = 7 * 24 * 60.0
MOST_TRIM_MM = 200.0


def step_word(step: Step) -> str:
    """Give the word of the turn line for one step.

    Examples
    --------
    >>> step_word(Step(Way.FOLD, 4))
    '4'
    """
    if step.way is Way.REST:
        least = "" if step.rest_min is None else f"{step.rest_min:g}"
        most = "" if step.most_min is None else f"-{step.most_min:g}"
        return f"/{least}{most}{'@' if step.place else ''}{step.place}"
    if step.way is Way.TRIM:
        return f"t{step.trim_mm:g}{'' if step.edges == 'all' else step.edges[0]}"
    word = {
        Way.FOLD: f"{step.panels}{'o' if step.off_centre else ''}",
        Way.QUARTER: "q",
        Way.STACK: f"s{step.panels}",
        Way.PORTION: f"+{step.panels}{_portion_tail(step)}",
        Way.ROLL: "r",
    }[step.way]
    return word if step.rolled_mm is None else f"{word}@{step.rolled_mm:g}"


def _portion_tail(step: Step) -> str:
    if step.share_pct is None and step.covered is None:
        return ""
    share = "" if step.share_pct is None else f"{step.share_pct:g}"
    if step.covered is None:
        return f":{share}"
    last = step.begins + step.covered - 1
    return f":{share}:" + (f"{last}" if step.begins == 1 else f"{step.begins}-{last}")


REST_PLACES = ("fridge", "freezer", "blast", "room")
"""Words of a rest's place; a number after one means a further one of the house."""


def step_name(step: Step) -> str:
    """Give the trade's name of a step, short, with the panels said.

    Examples
    --------
    >>> step_name(Step(Way.FOLD, 4))
    'double, 4 panels'
    """
    if step.way is Way.REST:
        return rest_words(step)
    if step.way is Way.FOLD:
        if step.off_centre:
            return "double, off the middle"
        names = {2: "half fold", 3: "single", 4: "double", 5: "five-fold", 6: "six-fold"}
        return f"{names[step.panels]}, {step.panels} panels"
    if step.way is Way.TRIM:
        edges = "" if step.edges == "all" else f", {step.edges} edges"
        return f"trim {mm_text(step.trim_mm)}{edges}"
    if step.way is Way.QUARTER:
        return "quarter fold, 4 panels"
    if step.way is Way.STACK:
        return f"cut in {step.panels}, stacked"
    if step.way is Way.PORTION:
        return f"portion, fold in {step.panels}"
    return "rolled up"


HOURS_FROM_MIN = 120
"""A rest from so long on is said in hours [min]."""


def rest_words(step: Step) -> str:
    """Say a rest: how long, and where if not in the fridge.

    Examples
    --------
    >>> rest_words(Step(Way.REST, rest_min=30, most_min=60, place="freezer"))
    'rest 30 to 60 min, freezer'
    >>> rest_words(Step(Way.REST))
    'rest'
    """
    least, most = step.rest_min, step.most_min
    hours = (least or most or 0) >= HOURS_FROM_MIN
    unit, over = ("h", 60) if hours else ("min", 1)
    long = "" if least is None else f" {num(least / over, '.3g')} {unit}"
    if most is not None:
        long = f" {num((least or 0) / over, '.3g')} to {num(most / over, '.3g')} {unit}"
    return f"rest{long}{', ' if step.place else ''}{step.place}"


ENCLOSURE_NAMES = {
    Enclosure.ENVELOPE: "envelope (French)",
    Enclosure.THIRDS: "thirds (English)",
    Enclosure.HALVES: "halves (book-over)",
    Enclosure.INVERSE: "inverse (fat outside)",
    Enclosure.PORTIONS: "in portions (flaky way)",
    Enclosure.PIECES: "in pieces (rough, blitz)",
    Enclosure.COIL: "coil",
    Enclosure.NONE: "no fat enclosed",
}
"""The app's neutral names of the enclosures, the common names beside them."""
