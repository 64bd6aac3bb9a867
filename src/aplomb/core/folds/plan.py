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

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_text, num
from aplomb.core.folds.kinds import kind_of
from aplomb.core.folds.step import Step, Way


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
                f"the portions add up to {num(whole)} % of the fat; they must add up to 100 %"
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
    word = kind_of(step).letter or {
        Way.FOLD: f"{step.panels}{'o' if step.off_centre else ''}",
        Way.STACK: f"s{step.panels}",
        Way.PORTION: f"+{step.panels}{_portion_tail(step)}",
    }.get(step.way, "")
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
    if step.way is Way.TRIM:
        edges = "" if step.edges == "all" else f", {step.edges} edges"
        return f"trim {mm_text(step.trim_mm)}{edges}"
    return kind_of(step).name.format(panels=step.panels)


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
