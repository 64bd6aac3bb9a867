"""The folds taught step by step: for each enclosure and turn, what is seen and what is done."""

from typing import Literal

from msgspec import Struct

from aplomb.core.folds.kinds import KINDS, kind_of
from aplomb.core.folds.motion import Motion, enclosing_motion, motion_of
from aplomb.core.folds.plan import ENCLOSURE_NAMES, Enclosure, Plan, step_name
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.working import EnvelopeWay


class Frame(Struct, frozen=True):
    """One drawing of a lesson.

    Attributes
    ----------
    words : str
        What is done there.
    part : float
        Moment of the motion [-].
    flaps : int
        Of an envelope seen from above: flaps that are folded in; -1 for a view from the side.
    """

    words: str
    part: float = 0.0
    flaps: int = -1


class Lesson(Struct, frozen=True):
    """A way of enclosing or folding, shown.

    Attributes
    ----------
    about : str
        What it gives and where it is used, in a sentence.
    envelope : {'turned', 'cross'}
        How an envelope lies when it is seen from above.
    """

    name: str
    about: str
    motion: Motion
    frames: tuple[Frame, ...]
    envelope: EnvelopeWay = "turned"


ABOUT: dict[Enclosure, str] = {
    Enclosure.ENVELOPE: "One leaf of fat between two of dough; the fat is closed in on all sides.",
    Enclosure.THIRDS: "Two leaves of fat between three of dough: twice the fat leaves at no "
    "extra work.",
    Enclosure.HALVES: "One leaf of fat between two of dough, quickly done.",
    Enclosure.INVERSE: "Dough wrapped in floured fat: crisp, shrinks less, needs a cold room.",
    Enclosure.PORTIONS: "Soft or grated fat spread at each of the first turns: the flaky way.",
    Enclosure.PIECES: "Cold pieces stay whole in the dough; rolling turns them into leaves.",
    Enclosure.COIL: "A thin sheet, spread with fat and rolled tight into a log; the leaves run "
    "in a spiral.",
    Enclosure.NONE: "Dough alone.",
}

STEPS: tuple[Step, ...] = tuple(kind.step for kind in KINDS)
"""Every turn that is taught."""

_MANY = {2: "two", 3: "three", 4: "four", 5: "five", 6: "six"}


def step_lesson(step: Step) -> Lesson:
    """Teach a turn."""
    motion = motion_of(step)
    name = step_name(step)
    about = kind_of(step).about or (
        f"Every leaf becomes {_MANY[step.panels]}; where two of the same kind meet, they "
        "become one."
    )
    return Lesson(f"{name[:1].upper()}{name[1:]}", about, motion, _frames(motion))


def enclosing_lesson(enclosure: Enclosure, envelope: EnvelopeWay = "turned") -> Lesson:
    """Teach a way of enclosing."""
    motion = enclosing_motion(enclosure)
    name = ENCLOSURE_NAMES[enclosure]
    frames = _frames(motion)
    if enclosure is Enclosure.ENVELOPE:
        if envelope == "cross":
            first = (
                "Roll a cross with a thick middle and four thin flaps. Lay the block on the middle."
            )
        else:
            first = "Lay the block at 45° on a square of dough."
        frames = (
            Frame(first, flaps=0),
            Frame("Fold one flap over the fat.", flaps=1),
            Frame("Fold over the opposite flap, then the other two.", flaps=3),
            Frame("Pinch the seams together and press level, seam underneath.", flaps=4),
        )
    return Lesson(f"{name[:1].upper()}{name[1:]}", ABOUT[enclosure], motion, frames, envelope)


def _frames(motion: Motion) -> tuple[Frame, ...]:
    many = len(motion.swings)
    if motion.rolls:
        return (
            Frame(motion.laid),
            Frame("Start tight, with no hollow in the middle.", 0.25),
            Frame("Roll it up evenly.", 0.7),
            Frame(motion.done, 1.0),
        )
    if motion.slides:
        return (
            Frame(motion.laid),
            Frame("Lift one piece on the next.", 0.5),
            Frame(motion.done, 1.0),
        )
    if not many:
        return (Frame(f"{motion.laid} {motion.done}"),)
    frames = [Frame(motion.laid)]
    every = 1 if many <= 3 else 2
    frames += [Frame(motion.swings[i - 1].words, i / many) for i in range(every, many, every)]
    frames.append(Frame(f"{motion.swings[-1].words} {motion.done}", 1.0))
    return tuple(frames)


def lessons_of(plan: Plan, envelope: EnvelopeWay = "turned") -> tuple[Lesson, ...]:
    """Teach a plan: its enclosing and each kind of turn once, in order."""
    seen: dict[tuple[Way, int, bool], Step] = {}
    for step in plan.turns:
        seen.setdefault((step.way, step.panels, step.off_centre), step)
    return (
        enclosing_lesson(plan.enclosure, envelope),
        *(step_lesson(step) for step in seen.values()),
    )


What = Literal["plan", "enclosing", "turns"]
WHAT_WORDS: dict[What, str] = {
    "plan": "this plan",
    "enclosing": "all ways of enclosing",
    "turns": "all turns",
}


def lessons(what: What, plan: Plan, envelope: EnvelopeWay = "turned") -> tuple[Lesson, ...]:
    """Choose the lessons to show."""
    if what == "plan":
        return lessons_of(plan, envelope)
    if what == "turns":
        return tuple(step_lesson(step) for step in STEPS)
    ways = [e for e in Enclosure if e is not Enclosure.NONE]
    made = [enclosing_lesson(e) for e in ways]
    return (made[0], enclosing_lesson(Enclosure.ENVELOPE, "cross"), *made[1:])
