"""What can be pressed at the bench. A run is the list of these; everything shown follows from it.

Nothing is ever changed or removed: what is taken back or put right is one press more.
"""

import math
from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import Problems
from aplomb.core.base.sound import check_sound
from aplomb.core.bench.readings import COLDEST_C, HOTTEST_C

Where = Literal["cold", "bench"]
What = Literal["water", "flour", "dust", "brushed"]
"""Counted by the spoon: held-back water, flour given to a dough that is too wet, dusting flour,
and what was brushed off again."""
COUNT_WORDS: dict[What, str] = {
    "water": "held-back water added", "flour": "flour added to the dough", "dust": "dusting flour",
    "brushed": "dusting flour brushed off",
}  # fmt: skip
Measured = Literal["trim_g", "rolled_g", "scrap_g", "cut_g", "pieces", "unfit", "baked_g", "broken"]
MEASURE_WORDS: dict[Measured, str] = {
    "trim_g": "Trimmed off, g", "rolled_g": "Paste on the sheet, g",
    "scrap_g": "Scrap, g", "cut_g": "All pieces as cut, g", "pieces": "Number of pieces",
    "unfit": "Pieces that did not fit the tray", "baked_g": "The same baked, g",
    "broken": "Broken or rejected",
}  # fmt: skip
REACHED_WORDS = ("good", "long", "short")
TICK_WORDS = {
    "brushed": "brushed off", "squared": "corners squared", "over": "turned over",
    "trimmed": "ends trimmed",
}  # fmt: skip
"""What is ticked at a turn."""
LONGEST_NOTE = 400
MOST_G, MOST_MM = 1e6, 1e5
MOST_MOVED_S = 3.2e9
"""A clock is set right by no more than a century [s]."""


class Begin(Struct, frozen=True, tag_field="act", tag="begin"):
    """A step is begun, or goes on after it was held."""

    task: str


class End(Struct, frozen=True, tag_field="act", tag="end"):
    """A step is done."""

    task: str


class Seen(Struct, frozen=True, tag_field="act", tag="seen"):
    """How a block is when it is looked at, and what was answered.

    Attributes
    ----------
    task, state, answer : str
        Keys of `aplomb.core.bench.asking`.
    """

    task: str
    state: str
    answer: str = ""


class Hold(Struct, frozen=True, tag_field="act", tag="hold"):
    """A block goes back to the cold, or stands on the bench, before its step goes on.

    Attributes
    ----------
    minutes : float
        [min].
    place, why : str
        In words.
    """

    task: str
    where: Where
    minutes: float
    place: str = ""
    why: str = ""


class Count(Struct, frozen=True, tag_field="act", tag="count"):
    """So many spoons more, or with a minus taken back, of so many grams each [-, g]."""

    task: str
    what: What
    spoons: int
    each_g: float


class Weigh(Struct, frozen=True, tag_field="act", tag="weigh"):
    """A line was weighed; as `aplomb.core.batch.made_batch.WeighedLine` [g]."""

    task: str
    part: str
    material: str
    product: str
    mix: int
    target_g: float
    got_g: float
    tare_g: float = 0.0
    by: str = "scale"
    enough: bool = False


class Reach(Struct, frozen=True, tag_field="act", tag="reach"):
    """What a sheet reached: measured, or good, long or short [mm]."""

    task: str
    length_mm: float | None = None
    width_mm: float | None = None
    thickness_mm: float | None = None
    word: str = ""


class Tick(Struct, frozen=True, tag_field="act", tag="tick"):
    """Brushed, squared, turned, turned over: done or not."""

    task: str
    what: str
    on: bool = True


class Measure(Struct, frozen=True, tag_field="act", tag="measure"):
    """A figure of the batch."""

    track: str
    what: Measured
    value: float


class Temp(Struct, frozen=True, tag_field="act", tag="temp"):
    """A temperature that was read [°C].

    Attributes
    ----------
    where : str
        In the middle, on the skin, of the room; in words.
    by : str
        ``hand``, or the name of a probe.
    """

    track: str
    where: str
    temp_c: float
    by: str = "hand"


class Note(Struct, frozen=True, tag_field="act", tag="note"):
    """Something written down; `corrective` when it says what was done about a trouble."""

    track: str
    words: str
    corrective: bool = False


class TakeBack(Struct, frozen=True, tag_field="act", tag="take_back"):
    """A press, by its number, is taken back."""

    of: int


class Quiet(Struct, frozen=True, tag_field="act", tag="quiet"):
    """An alarm was heard."""

    alarm: str


class ClockMoved(Struct, frozen=True, tag_field="act", tag="clock"):
    """The computer's clock was put on or back: so much is added from now on [s]."""

    seconds: float


class Who(Struct, frozen=True, tag_field="act", tag="who"):
    """Who is at the bench from now on."""

    initials: str


class Attach(Struct, frozen=True, tag_field="act", tag="attach"):
    """A probe stands in a block from now on; empty for none."""

    probe: str
    track: str


class Finish(Struct, frozen=True, tag_field="act", tag="finish"):
    """The run is over."""


Plain = (
    Begin
    | End
    | Seen
    | Hold
    | Count
    | Weigh
    | Reach
    | Tick
    | Measure
    | Temp
    | Note
    | TakeBack
    | Quiet
    | ClockMoved
    | Who
    | Attach
    | Finish
)


class Amend(Struct, frozen=True, tag_field="act", tag="amend"):
    """A press, by its number, is put right afterwards; both stay to be seen."""

    of: int
    now: Plain
    why: str = ""


Act = Plain | Amend


class Press(Struct, frozen=True):
    """One press of a run.

    Attributes
    ----------
    number : int
        From 1, in order [-].
    at_s : float
        Since the run began, by a clock that only goes on [s].
    wall : str
        What the computer's clock showed, ISO 8601.
    """

    number: int
    at_s: float
    wall: str
    act: Act


def check_act(act: Act) -> Act:
    """Give an act back if every figure in it can be used.

    Raises
    ------
    FormulaError
        Listing all that is wrong.

    Examples
    --------
    >>> check_act(Count("A/mix", "water", 1, 15.0)).spoons
    1
    """
    wrong = Problems()
    if isinstance(act, Amend):
        wrong.number("press", act.of, 1, 1e9, "")
        _words(wrong, "why", act.why)
        check_act(act.now)
    elif isinstance(act, Hold):
        wrong.number("minutes", act.minutes, 0, 1440, "min")
        _words(wrong, "why", act.why)
    elif isinstance(act, Count):
        wrong.number("spoons", act.spoons, -100, 100, "")
        wrong.number("a spoon", act.each_g, 0, 1000, "g")
    elif isinstance(act, Weigh):
        wrong.number("weighed", act.got_g, 0, MOST_G, "g")
        wrong.number("wanted", act.target_g, 0, MOST_G, "g")
        if not math.isfinite(act.tare_g):
            wrong.add("tare: not a weight; enter a weight.")
    elif isinstance(act, Reach):
        for name, value in (
            ("length", act.length_mm),
            ("width", act.width_mm),
            ("thickness", act.thickness_mm),
        ):
            if value is not None:
                wrong.number(name, value, 0.1, MOST_MM, "mm")
        if act.word and act.word not in REACHED_WORDS:
            wrong.add(f"reached: “{act.word[:20]}” is not known; use good, long or short.")
    elif isinstance(act, Measure):
        wrong.number(MEASURE_WORDS[act.what], act.value, 0, MOST_G, "")
    elif isinstance(act, Temp):
        wrong.number(act.where[:30] or "temperature", act.temp_c, COLDEST_C, HOTTEST_C, "°C")
    elif isinstance(act, Note):
        _words(wrong, "note", act.words)
    elif isinstance(act, Who) and len(act.initials) > 8:
        wrong.add("initials: use up to 8 characters.")
    elif isinstance(act, ClockMoved):
        wrong.number("clock moved", act.seconds, -MOST_MOVED_S, MOST_MOVED_S, "s")
    check_sound(act, wrong)
    wrong.check()
    return act


def _words(wrong: Problems, name: str, words: str) -> None:
    if len(words) > LONGEST_NOTE:
        wrong.add(f"{name}: use up to {LONGEST_NOTE} characters.")
