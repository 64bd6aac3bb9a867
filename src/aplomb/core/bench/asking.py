"""How a block is, what is done about it, and what to do when something goes wrong.

All of it is common practice; the minutes are worked out for the block in hand where they can be.
"""

from typing import Literal

from msgspec import Struct

from aplomb.core.bench.plan import Task

Then = Literal["go", "cold", "stand", "rest"]
"""Go on; back to the cold; stand on the bench; rest in the cold because it draws back."""
RELAX_MIN = 20.0
"""What a dough that draws back rests [min], common practice."""


class State(Struct, frozen=True):
    """What is seen when a block is pressed with the thumb, bent or rolled.

    Attributes
    ----------
    advice : str
        What is done, in words.
    warm_k : float
        So far its warm side lies above the range, or with a minus its cold side below it [K],
        recalled.
    picture : str
        How it is drawn; empty for as its key.
    """

    key: str
    words: str
    then: Then
    advice: str
    warm_k: float = 0.0
    picture: str = ""

    @property
    def drawn(self) -> str:
        """The picture it is drawn as."""
        return self.picture or self.key


DENT = (
    State("right", "A clean dent of about 6 mm", "go", "It is ready: roll."),
    State("soft", "The thumb sinks in deeper", "cold", "Too soft: back to the cold.", 2.0),
    State("smears", "Greasy, the fat smears", "cold", "Much too soft: back to the cold, longer.",
          4.0),
    State("hard", "No dent at all", "stand",
          "Too hard: let it stand, or beat it with the pin, from the middle to the corners.", -3.0),
    State("cracks", "Cracks at the edge when bent", "stand",
          "Too cold: let it stand, press it with the pin in ridges, only then roll.", -4.0),
    State("draws back", "Draws back when it is rolled", "rest",
          "It wants to relax: into the cold, and roll the other way next."),
)  # fmt: skip
MARBLED = (
    State("right", "Marbling is seen, the fat in flat pieces", "go", "It is good: roll.",
          picture="marbled"),
    State("gone", "The marbling is gone, or it melts", "cold",
          "Too warm or worked too much: into the cold, then as few strokes as can be.", 3.0),
    State("cracks first", "It cracks at the edge", "go",
          "At the first roll of a rough paste that is usual: go on, press the edge together."),
    State("hard", "Hard as a board", "stand", "Too cold: let it stand.", -3.0),
    State("draws back", "Draws back when it is rolled", "rest",
          "It wants to relax: into the cold, and roll the other way next."),
)  # fmt: skip
MIXED = (
    State(
        "right",
        "The bowl is wiped clean; it holds when squeezed",
        "go",
        "Stop here.",
        picture="ball",
    ),
    State("crumbly", "Crumbly, will not gather", "go", "Sprinkle water by the spoon (W)."),
    State("wet", "Too wet, it sticks", "go", "Flour by the spoon (F); it is counted."),
)
BAKED = (
    State(
        "right",
        "Brown on top and below, light in the hand",
        "go",
        "Out of the oven.",
        picture="baked",
    ),
    State("pale", "Pale but dry", "go", "Hotter and shorter: note what the dial says."),
    State("raw", "Brown but raw inside", "go", "Cooler and longer: note what the dial says."),
)
ASKED: dict[str, tuple[State, ...]] = {
    "enclose": DENT,
    "turn": DENT,
    "sheet": DENT,
    "mix": MIXED,
    "out": BAKED,
}
"""What is asked at which kind of step, before it is begun; of a mix and a bake, as it ends."""


class Rescue(Struct, frozen=True):
    """What to do when something goes wrong.

    Attributes
    ----------
    key, seen, now : str
        What is seen, and what is done at once.
    least_min, most_min : float
        So long it is held, common practice [min]; 0 for not at all.
    on : tuple of kinds
        At which kinds of step it is offered; empty for every one.
    """

    key: str
    seen: str
    now: str
    then: Then = "go"
    least_min: float = 0.0
    most_min: float = 0.0
    on: tuple[str, ...] = ()


_ROLLED = ("turn", "sheet", "enclose")
RESCUES = (
    Rescue("a little through", "Fat breaks through a little",
           "Stop. Flour the spot, pat it, go on.", on=_ROLLED),
    Rescue("through", "Fat breaks through over an area",
           "Cover it, on a tray, into the cold; then shorter strokes, and brush off after.",
           "cold", 10, 20, _ROLLED),
    Rescue("runs out", "Fat runs out at the side",
           "It was too soft when enclosed: cold until both are equally firm. Chill longer next "
           "time.", "cold", 15, 30, _ROLLED),
    Rescue("shards", "Fat breaks to shards under the dough",
           "Too cold: let it stand, press with the pin in ridges, then roll.", "stand", 5, 10,
           _ROLLED),
    Rescue("board", "Too hard to roll",
           "Beat it with the pin, press by hand from the middle to the corners, only then roll.",
           "stand", 5, 20, _ROLLED),
    Rescue("sticks", "It sticks", "Lift it, move it, flour below, turn it over.", on=_ROLLED),
    Rescue("tears", "The dough tears", "Patch with an offcut, fold the edge anew, into the cold.",
           "cold", 10, 20, _ROLLED),
    Rescue("bump", "A bump where the flaps meet",
           "Press it out first, thin the middle, then roll.", on=_ROLLED),
    Rescue("draws back", "It draws back all the time",
           "Let it rest: it has been rolled one way too long.", "rest", 10, 20, _ROLLED),
    Rescue("crumbly", "Crumbly, will not gather", "Sprinkle water by the spoon (W).",
           on=("mix",)),
    Rescue("wet", "Too wet", "Flour by the spoon (F); both are counted.", on=("mix",)),
    Rescue("slow", "It takes longer", "Noted; the day is worked out anew when it is done."),
    Rescue("pale", "Pale but dry", "Hotter and shorter.", on=("bake", "out")),
    Rescue("raw", "Brown but raw", "Cooler and longer.", on=("bake", "out")),
    Rescue("fat out", "Fat runs out in the oven",
           "Leaves broken, block too warm, or the oven not hot. Mind the element: fat can catch "
           "fire. Note it.", on=("bake", "out")),
    Rescue("blown", "The middle is blown up", "Dock it, or slit it.", on=("bake", "out")),
    Rescue("leans", "It leans", "Cut square, brush no edges, cold into the hot oven next time.",
           on=("bake", "out")),
)  # fmt: skip


def states_for(task: Task, *, in_pieces: bool) -> tuple[State, ...]:
    """Give what can be seen at a task; empty where nothing is asked.

    Parameters
    ----------
    in_pieces : bool
        Whether the fat is in pieces: the marbling is looked at then.
    """
    found = ASKED.get(task.kind, ())
    return MARBLED if found is DENT and in_pieces else found


def state_called(task: Task, key: str, *, in_pieces: bool) -> State | None:
    """Give a state by its key; None when it is not asked at this task."""
    found = (each for each in states_for(task, in_pieces=in_pieces) if each.key == key)
    return next(found, None)


def rescues_for(task: Task) -> tuple[Rescue, ...]:
    """Give what can go wrong at a task."""
    return tuple(each for each in RESCUES if not each.on or task.kind in each.on)
