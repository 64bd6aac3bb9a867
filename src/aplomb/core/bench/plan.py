"""What a run sets out to do: tracks of blocks and pastes, and the tasks in them.

A run keeps its own copy of every formula, so that what is changed on the desk meanwhile does not
change what lies on the bench.
"""

from collections.abc import Mapping

from msgspec import Struct

from aplomb.core.base.errors import AplombError, Problems
from aplomb.core.base.sound import check_sound
from aplomb.core.kitchen.step_words import Kind
from aplomb.core.paste.formula import Formula

MOST_TRACKS, MOST_TASKS = 200, 2000
FORM = 9
COLD_PLACES = ("fridge", "freezer", "blast")


class Sheet(Struct, frozen=True):
    """A sheet that is to be rolled [mm]."""

    length_mm: float
    width_mm: float
    thickness_mm: float


class Ring(Struct, frozen=True):
    """Something to be done while a task goes on by itself: so long after it was begun [min]."""

    after_min: float
    words: str


class Task(Struct, frozen=True):
    """One thing that is done to a block, or to all of a paste.

    Attributes
    ----------
    key : str
        ``track/step``, of its own within the run.
    step_key : str
        By which the timetable knows its step; those of all blocks share it.
    name : str
        As the timetable calls it, and which block or mix of how many.
    minutes : float
        What it takes [min].
    hands : bool
        Whether it takes hands.
    after : tuple of str
        Tasks that must be done before it.
    rest_min, rest_max : float, float or None
        Least and most rest after it [min].
    place : str
        Where that rest is, in words of the turn line; empty for the bench.
    step : int
        Its place in the plan's steps; -1 for what is none of them.
    done : int
        Steps of the plan that are done when it ends [-].
    sheet : Sheet or None
        What is to be rolled.
    planned_min : float or None
        When the timetable lets it begin [min since the run began].
    mix : int
        Which mix it is for, 1 for the first; 0 for none.
    out_min : float or None
        So long its block may lie open on this bench [min].
    rings : tuple of Ring
        What is to be done meanwhile: the steps of a bake.
    """

    key: str
    track: str
    step_key: str
    name: str
    kind: Kind
    minutes: float
    hands: bool = True
    after: tuple[str, ...] = ()
    rest_min: float = 0.0
    rest_max: float | None = None
    place: str = ""
    step: int = -1
    done: int = 0
    sheet: Sheet | None = None
    planned_min: float | None = None
    mix: int = 0
    out_min: float | None = None
    rings: tuple[Ring, ...] = ()

    @property
    def to_cold(self) -> bool:
        """True when its block goes to the cold after it."""
        return self.place.rstrip("0123456789") in COLD_PLACES


class Track(Struct, frozen=True):
    """A block with its own run, or what is done to all blocks of a paste.

    Attributes
    ----------
    key : str
        ``A1`` for a block, ``A`` for the paste.
    uid, name : str
        Identity and name of the formula.
    block, blocks : int
        Which block of how many; 0 for what is done to all of a paste.
    mass_g : float
        Of the block, or of all [g].
    code : str
        By which a label opens it.
    """

    key: str
    uid: str
    name: str
    block: int
    blocks: int
    mass_g: float
    code: str = ""

    @property
    def title(self) -> str:
        """What it is called on the screen."""
        if not self.block or self.blocks == 1:
            return self.name
        return f"{self.name}, block {self.block} of {self.blocks}"


class RunPlan(Struct, frozen=True):
    """What a run sets out to do.

    Attributes
    ----------
    begun : str
        When, by the computer's clock, ISO 8601 with its zone.
    quick : float
        So many minutes of it pass in one of ours [-]: 1, but in a rehearsal.
    tasks : tuple of Task
        In the order in which they would be done.
    formulas : dict of Formula, by identity
        As they were when it began.
    revisions : dict of int, by identity
        Number of the revision they were kept as [-].
    counts_enclosing : bool
        Whether the house counts the enclosing as the first turn.
    form : int
        Version of the book that brought these types; a plan without one is of `plan_8` [-].
    """

    title: str
    begun: str
    quick: float
    tracks: tuple[Track, ...]
    tasks: tuple[Task, ...]
    formulas: dict[str, Formula]
    revisions: dict[str, int] = {}
    counts_enclosing: bool = False
    form: int = FORM

    @property
    def by_key(self) -> Mapping[str, Task]:
        """Every task by its key."""
        return {task.key: task for task in self.tasks}

    def track(self, key: str) -> Track:
        """Give a track by its key."""
        return next(each for each in self.tracks if each.key == key)

    def tasks_of(self, track: str) -> tuple[Task, ...]:
        """Give the tasks of a track, in order."""
        return tuple(each for each in self.tasks if each.track == track)


def check_plan(plan: RunPlan) -> RunPlan:
    """Give a plan back if it hangs together.

    Raises
    ------
    AplombError
        When a task names one that is not there, two are of one name, or a figure cannot be used.
    """
    wrong = Problems()
    check_sound(plan, wrong)
    wrong.check()
    keys = [task.key for task in plan.tasks]
    tracks = {track.key for track in plan.tracks}
    if not plan.tasks or len(plan.tasks) > MOST_TASKS or len(plan.tracks) > MOST_TRACKS:
        raise AplombError(f"run: {len(plan.tasks)} steps; use 1 to {MOST_TASKS}.")
    if len(set(keys)) != len(keys):
        raise AplombError("run: two steps have the same name.")
    seen: set[str] = set()
    for task in plan.tasks:
        if task.track not in tracks:
            raise AplombError(f"run: there is no block “{task.track[:20]}”.")
        if missing := [each for each in task.after if each not in seen]:
            raise AplombError(
                f"run: “{task.name[:30]}” comes after “{missing[0][:30]}”, "
                "which does not come before it."
            )
        seen.add(task.key)
    if not 0.01 <= plan.quick <= 10_000:
        raise AplombError("run: the clock is too fast or too slow.")
    return plan
