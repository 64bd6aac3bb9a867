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
    State("soft", "The thumb sinks in deeper", "cold", "Too soft: back into the cold.", 2.0),
    State(
        "smears",
        "Greasy, the fat smears",
        "cold",
        "Much too soft: back into the cold, for longer.",
        4.0,
    ),
    State(
        "hard",
        "No dent at all",
        "stand",
        "Too hard: let it stand, or beat it with the pin, from the middle to the corners.",
        -3.0,
    ),
    State(
        "cracks",
        "Cracks at the edge when bent",
        "stand",
        "Too cold: let it stand, press ridges into it with the pin, and only then roll.",
        -4.0,
    ),
    State(
        "draws back",
        "Shrinks back when rolled",
        "rest",
        "It needs to relax: put it into the cold, and roll the other way next.",
    ),
)
MARBLED = (
    State(
        "right",
        "Marbled, with the fat in flat pieces",
        "go",
        "It is ready: roll.",
        picture="marbled",
    ),
    State(
        "gone",
        "The marbling is gone, or the fat is melting",
        "cold",
        "Too warm or overworked: put it into the cold, then use as few strokes as possible.",
        3.0,
    ),
    State(
        "cracks first",
        "It cracks at the edge",
        "go",
        (
            "That is normal at the first roll of a rough paste: press the edge together "
            "and carry on."
        ),
    ),
    State("hard", "Hard as a board", "stand", "Too cold: let it stand.", -3.0),
    State(
        "draws back",
        "Shrinks back when rolled",
        "rest",
        "It needs to relax: put it into the cold, and roll the other way next.",
    ),
)
MIXED = (
    State(
        "right",
        "The bowl is wiped clean; it holds when squeezed",
        "go",
        "Stop here.",
        picture="ball",
    ),
    State("crumbly", "Crumbly, will not come together", "go", "Sprinkle water by the spoon (W)."),
    State("wet", "Too wet, it sticks", "go", "Add flour by the spoon (F); it is counted."),
)
BAKED = (
    State(
        "right",
        "Brown top and bottom, and light in the hand",
        "go",
        "Take it out of the oven.",
        picture="baked",
    ),
    State("pale", "Pale but dry", "go", "Bake hotter and shorter: note the dial setting."),
    State("raw", "Brown but raw inside", "go", "Bake cooler and longer: note the dial setting."),
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
    Rescue(
        "a little through",
        "Fat breaks through a little",
        "Stop. Flour the spot, pat it and carry on.",
        on=_ROLLED,
    ),
    Rescue(
        "through",
        "Fat breaks through over an area",
        (
            "Cover it and chill it on a tray; then use shorter strokes, and brush off the "
            "flour afterwards."
        ),
        "cold",
        10,
        20,
        _ROLLED,
    ),
    Rescue(
        "runs out",
        "Fat runs out at the side",
        (
            "The fat was too soft when enclosed: chill until both are equally firm. Chill "
            "longer next time."
        ),
        "cold",
        15,
        30,
        _ROLLED,
    ),
    Rescue(
        "shards",
        "Fat breaks into shards under the dough",
        "Too cold: let it stand, press ridges into it with the pin, then roll.",
        "stand",
        5,
        10,
        _ROLLED,
    ),
    Rescue(
        "board",
        "Too hard to roll",
        "Beat it with the pin, press by hand from the middle to the corners, only then roll.",
        "stand",
        5,
        20,
        _ROLLED,
    ),
    Rescue("sticks", "It sticks", "Lift it, move it, flour underneath, turn it over.", on=_ROLLED),
    Rescue(
        "tears",
        "The dough tears",
        "Patch it with a piece of scrap, fold the edge again and put it into the cold.",
        "cold",
        10,
        20,
        _ROLLED,
    ),
    Rescue(
        "bump",
        "A bump where the flaps meet",
        "Press it flat first, thin the middle, then roll.",
        on=_ROLLED,
    ),
    Rescue(
        "draws back",
        "It keeps shrinking back",
        "Let it rest: it has been rolled one way too long.",
        "rest",
        10,
        20,
        _ROLLED,
    ),
    Rescue(
        "crumbly",
        "Crumbly, will not come together",
        "Sprinkle water by the spoon (W).",
        on=("mix",),
    ),
    Rescue(
        "wet",
        "Too wet",
        "Add flour by the spoon (F); water and flour are both counted.",
        on=("mix",),
    ),
    Rescue(
        "slow",
        "It is taking longer",
        "Noted; the timetable is recalculated when the step is done.",
    ),
    Rescue("pale", "Pale but dry", "Bake hotter and shorter.", on=("bake", "out")),
    Rescue("raw", "Brown but raw", "Bake cooler and longer.", on=("bake", "out")),
    Rescue(
        "fat out",
        "Fat runs out in the oven",
        (
            "The leaves are broken, the block was too warm or the oven not hot enough. "
            "Mind the element: fat can catch fire. Make a note of it."
        ),
        on=("bake", "out"),
    ),
    Rescue("blown", "The middle has puffed up", "Dock it, or slit it.", on=("bake", "out")),
    Rescue(
        "leans",
        "It leans",
        (
            "Next time cut square, keep the wash off the edges, and go "
            "straight from the cold into a hot oven."
        ),
        on=("bake", "out"),
    ),
)


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
