"""How a sheet moves while it is folded: where each stretch of it lies at any moment.

Seen from the side, a fold is a few half turns: a flap goes over about a crease at the height at
which it comes to lie. The same poses draw the fold as it goes and, standing still, teach it.
"""

import math
from itertools import pairwise
from typing import Literal

from msgspec import Struct

from aplomb.core.folds.plan import Enclosure
from aplomb.core.folds.step import SEAM_AT, Step, Way

Cargo = Literal["paste", "dough", "fat", "dough and fat", "pieces"]
"""What a stretch is drawn as: paste as it is cut, dough, a sheet of fat, dough with fat on it,
and dough with pieces of fat in it."""


class Swing(Struct, frozen=True):
    """A half turn of some stretches about a crease.

    Attributes
    ----------
    at : float
        Where along the laid-out sheet, in panel lengths [-].
    height : float
        How high the crease lies, in sheet thicknesses [-].
    stretches : tuple of int
        Which go over.
    leftward : bool
        True when they go over towards the left.
    words : str
        What is done.
    """

    at: float
    height: float
    stretches: tuple[int, ...]
    leftward: bool
    words: str


class Stretch(Struct, frozen=True):
    """A stretch of the sheet between two creases, laid out flat.

    Attributes
    ----------
    start, end : float
        In panel lengths [-].
    """

    start: float
    end: float
    cargo: Cargo = "paste"


class Motion(Struct, frozen=True):
    """A fold as it goes.

    Attributes
    ----------
    length : float
        Of the laid-out sheet, in panel lengths [-].
    swings : tuple of Swing
        One after the other.
    slides : bool
        True when the stretches are cut apart and piled up instead of going over.
    rolls : bool
        True when it is rolled up.
    laid : str
        What lies there before the first swing, in words.
    done : str
        What it is when all is folded.
    """

    length: float
    stretches: tuple[Stretch, ...]
    swings: tuple[Swing, ...] = ()
    slides: bool = False
    rolls: bool = False
    laid: str = ""
    done: str = ""

    def uprights(self) -> tuple[tuple[float, float], ...]:
        """Say how far each flap reaches from its crease, and how high the crease lies.

        Returns
        -------
        tuple of (reach, height)
            Of each swing, in panel lengths and sheet thicknesses [-, -].

        Examples
        --------
        >>> motion_of(Step(Way.FOLD, 3)).uprights()
        ((1.0, 1.0), (1.0, 1.5))
        """
        return tuple(
            (
                max(
                    abs(end - swing.at)
                    for i in swing.stretches
                    for end in (self.stretches[i].start, self.stretches[i].end)
                ),
                swing.height,
            )
            for swing in self.swings
        )


class Pose(Struct, frozen=True):
    """Where a stretch lies at a moment: half turns to be carried out one after the other.

    Attributes
    ----------
    turns : tuple of (at, height, angle)
        Crease in panel lengths and sheet thicknesses [-], and how far round [rad], towards the
        left when above 0.
    shift : tuple of (along, up)
        Of a piece that is piled up, in panel lengths and thicknesses [-].
    """

    stretch: Stretch
    turns: tuple[tuple[float, float, float], ...] = ()
    shift: tuple[float, float] = (0.0, 0.0)


def _plain(panels: int, cargo: Cargo = "paste") -> tuple[Stretch, ...]:
    return tuple(Stretch(float(i), float(i + 1), cargo) for i in range(panels))


_LETTER = (
    Swing(2.0, 1.0, (2,), leftward=True, words="Fold the right third over the middle."),
    Swing(1.0, 1.5, (0,), leftward=False, words="Fold the left third over both."),
)
_BOOK = (
    Swing(1.0, 1.0, (0,), leftward=False, words="Fold the left end to the middle."),
    Swing(3.0, 1.0, (3,), leftward=True, words="Fold the right end to meet it."),
    Swing(2.0, 2.0, (2, 3), leftward=True, words="Close it like a book."),
)
_QUARTER_TURN = "Give it a quarter turn, so that the closed edge is on the right."


def _zigzag(n: int) -> tuple[Swing, ...]:
    """Panel upon panel, to one side and the other."""
    words = ("Fold to the right.", "Fold to the left.") if n > 2 else ("Fold over.", "Fold over.")
    return tuple(
        Swing(
            1.0 if i % 2 else 0.0,
            float(i),
            tuple(range(i, n)),
            leftward=bool(i % 2),
            words=words[i % 2],
        )
        for i in range(1, n)
    )


def motion_of(step: Step) -> Motion:
    """Give the motion of a step.

    Without swings for a rest or a trim.
    """
    n = step.panels
    laid = f"Roll out long enough for {n} panels, brush off the flour, square the corners."
    if step.way is Way.ROLL:
        return Motion(
            1.0,
            (Stretch(0.0, 1.0),),
            rolls=True,
            laid="Roll thin and even; brush off the flour.",
            done="A tight log with the seam underneath.",
        )
    if step.way is Way.STACK:
        return Motion(
            float(n),
            _plain(n),
            slides=True,
            laid=f"Roll out and cut straight down into {n}.",
            done="Stack the pieces and press lightly. The cut edges are open.",
        )
    if step.way is Way.QUARTER:
        halves = (
            Swing(2.0, 1.0, (2, 3), leftward=True, words="Fold in half."),
            Swing(1.0, 2.0, (1, 2), leftward=True, words="Fold in half again, the other way."),
        )
        return Motion(4.0, _plain(4), halves, laid="Roll to a square.", done="Four panels.")
    if not step.is_turn:
        return Motion(1.0, (Stretch(0.0, 1.0),))
    if step.way is Way.PORTION:
        on = step.spread_on
        cargoes: list[Cargo] = ["dough and fat" if i in on else "dough" for i in range(n)]
        stretches = tuple(Stretch(float(i), i + 1.0, each) for i, each in enumerate(cargoes))
        laid = f"Spread the portion on {len(on)} of {n} panels; leave the border bare."
    else:
        stretches = _plain(n)
    if step.off_centre:
        ends = (0.0, SEAM_AT, 1 + SEAM_AT, 2 + SEAM_AT, 3 + SEAM_AT, 4.0)
        stretches = tuple(Stretch(a, b) for a, b in pairwise(ends))
        swings = (
            Swing(ends[1], 1.0, (0,), leftward=False, words="Fold the short end over."),
            Swing(ends[3], 1.0, (3, 4), leftward=True, words="Fold the long end to meet it."),
            Swing(
                ends[2],
                2.0,
                (2, 3),
                leftward=True,
                words="Close it; the seam is not in the bend.",
            ),
        )
        return Motion(4.0, stretches, swings, laid=laid, done=_QUARTER_TURN)
    over: tuple[Swing, ...]
    if n == 3:
        over = _LETTER
    elif n == 4:
        over = _BOOK
    else:
        over = _zigzag(n)
    return Motion(float(n), stretches, over, laid=laid, done=_QUARTER_TURN)


def enclosing_motion(enclosure: Enclosure) -> Motion:
    """Give the motion of enclosing, seen from the side."""
    if enclosure is Enclosure.ENVELOPE:
        stretches = (
            Stretch(0, 0.5, "dough"),
            Stretch(0.5, 1.5, "dough and fat"),
            Stretch(1.5, 2.0, "dough"),
        )
        swings = (
            Swing(0.5, 1.0, (0,), leftward=False, words="Fold the flaps in one after the other."),
            Swing(1.5, 1.0, (2,), leftward=True, words="Pinch the seams."),
        )
        return Motion(
            2.0,
            stretches,
            swings,
            laid="Lay the fat block on the dough.",
            done="Press it level with the pin, seam underneath.",
        )
    if enclosure is Enclosure.THIRDS:
        stretches = (
            Stretch(0, 1, "dough and fat"),
            Stretch(1, 2, "dough and fat"),
            Stretch(2, 3, "dough"),
        )
        return Motion(
            3.0,
            stretches,
            (
                Swing(2.0, 1.0, (2,), leftward=True, words="Fold the bare third over."),
                Swing(1.0, 1.5, (0,), leftward=False, words="Fold the other third over it."),
            ),
            laid="Lay the fat on two thirds of the dough, with a bare border.",
            done="Press the edges shut; turn the open ends towards you.",
        )
    if enclosure in (Enclosure.HALVES, Enclosure.INVERSE):
        outer: Cargo = "fat" if enclosure is Enclosure.INVERSE else "dough"
        laid = "Lay the fat on half of the dough, with a bare border."
        if enclosure is Enclosure.INVERSE:
            laid = "Lay the dough on half of the sheet of floured fat."
        return Motion(
            2.0,
            (Stretch(0, 1, "dough and fat"), Stretch(1, 2, outer)),
            (Swing(1.0, 1.0, (1,), leftward=True, words="Fold the other half over it."),),
            laid=laid,
            done="Press the edges shut.",
        )
    if enclosure is Enclosure.COIL:
        return Motion(
            1.0,
            (Stretch(0, 1, "dough and fat"),),
            rolls=True,
            laid="Roll or stretch thin; spread soft fat to the edges, leaving the far end bare.",
            done="A tight log; wrap it and let it set before cutting.",
        )
    laid = "Gather the dough into a block; the fat goes in later."
    cargo: Cargo = "dough"
    if enclosure is Enclosure.PIECES:
        laid = "Toss the cold pieces of fat in the flour, bind with water and gather; do not knead."
        cargo = "pieces"
    return Motion(1.0, (Stretch(0, 1, cargo),), laid=laid, done="Press it together and square it.")


def poses(motion: Motion, part: float) -> tuple[Pose, ...]:
    """Give the poses at a moment of a motion.

    One a stretch, those that lie lowest first.

    Parameters
    ----------
    part : float
        From 0, laid out, to 1, folded [-]; beyond, as at the end.
    """
    part = min(1.0, max(0.0, part))
    if motion.slides:
        many = len(motion.stretches)
        found = []
        for i, stretch in enumerate(motion.stretches):
            own = ease(min(1.0, max(0.0, part * max(1, many - 1) - (i - 1)))) if i else 0.0
            found.append(Pose(stretch, shift=(-i * own, i * own)))
        return tuple(found)
    many = len(motion.swings)
    made = []
    for i, stretch in enumerate(motion.stretches):
        turns = []
        for j, swing in enumerate(motion.swings):
            if i in swing.stretches:
                own = ease(min(1.0, max(0.0, part * many - j)))
                if own:
                    turns.append(
                        (swing.at, swing.height, math.pi * own * (1 if swing.leftward else -1))
                    )
        made.append(Pose(stretch, tuple(turns)))
    return tuple(made)


def words_at(motion: Motion, part: float) -> str:
    """Say what is being done at a moment of a motion."""
    if part <= 0:
        return motion.laid
    if part >= 1 or not motion.swings:
        return motion.done
    return motion.swings[min(len(motion.swings) - 1, int(part * len(motion.swings)))].words


def lying(pose: Pose) -> tuple[float, float, float, float]:
    """Give the box of a pose that lies flat: left, right, bottom, top, in lengths and thicknesses.

    Only for half turns that are done: elsewhere a stretch stands askew.
    """
    x0, x1, z0, z1 = pose.stretch.start, pose.stretch.end, 0.0, 1.0
    for at, height, angle in pose.turns:
        if abs(abs(angle) - math.pi) < 1e-9:
            x0, x1 = 2 * at - x1, 2 * at - x0
            z0, z1 = 2 * height - z1, 2 * height - z0
    along, up = pose.shift
    return x0 + along, x1 + along, z0 + up, z1 + up


def ease(t: float) -> float:
    """Begin and end softly.

    Examples
    --------
    >>> ease(0.0), ease(0.5), ease(1.0)
    (0.0, 0.5, 1.0)
    """
    return t * t * (3 - 2 * t)
