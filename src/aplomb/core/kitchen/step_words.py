"""What the steps of a day are known by, and what they are called: words change, keys stay.

A key is what is done and which of its kind it is: ``mix.1``, ``turn.3``, ``load.2``. Whatever is
kept of a step (its minutes, its pin, its presses) is kept by its key.
"""

from typing import Literal

from msgspec import Struct

Kind = Literal[
    "cool",
    "weigh",
    "mix",
    "fat",
    "filling",
    "thaw",
    "enclose",
    "turn",
    "trim",
    "sheet",
    "cut",
    "fill",
    "trays",
    "heat",
    "load",
    "bake",
    "refresh",
    "out",
    "pack",
    "stand",
    "wrap",
]
Manner = Literal[
    "", "pieces", "shape", "baked", "baked freezer", "next", "one of many", "soften", "roll",
    "line", "slices",
]  # fmt: skip
"""How a kind of step is done, where that gives it other words."""

CALLED: dict[tuple[Kind, Manner], tuple[str, str]] = {
    ("cool", ""): ("cool", "ingredients into the cold"),
    ("weigh", ""): ("weigh", "weigh"),
    ("mix", ""): ("mix", "mix"),
    ("fat", ""): ("press", "press the fat"),
    ("fat", "pieces"): ("pieces", "cut the fat into pieces"),
    ("fat", "soften"): ("soften", "soften the fat"),
    ("filling", ""): ("filling", "cook the filling"),
    ("thaw", ""): ("thaw", "take out to thaw"),
    ("enclose", ""): ("enclose", "enclose"),
    ("enclose", "pieces"): ("gather", "gather"),
    ("turn", ""): ("turn", "turn {number}: {what}"),
    ("trim", ""): ("trim", "trim after turn {number}"),
    ("trim", "next"): ("trim", "trim after turn {number}, again"),
    ("sheet", ""): ("sheet", "final sheet"),
    ("cut", ""): ("cut", "cut"),
    ("cut", "shape"): ("shape", "cut and shape"),
    ("cut", "slices"): ("slice", "slice the logs, onto trays"),
    ("fill", ""): ("fill", "fill and shape"),
    ("fill", "roll"): ("roll", "spread the filling and roll up"),
    ("fill", "line"): ("line", "line the tins"),
    ("stand", ""): ("stand", "out of the fridge, to stand"),
    ("wrap", ""): ("wrap", "wrap, label and store"),
    ("trays", ""): ("trays", "raw pieces out of the {what}, onto trays"),
    ("trays", "baked"): ("trays", "baked pieces onto trays"),
    ("trays", "baked freezer"): ("trays", "baked pieces out of the freezer, onto trays"),
    ("heat", ""): ("heat", "heat the oven"),
    ("load", ""): ("load", "oven: load 1 in"),
    ("load", "next"): ("load", "load {before} out, load {number} in"),
    ("bake", ""): ("bake", "bake"),
    ("bake", "one of many"): ("bake", "bake load {number}"),
    ("refresh", ""): ("refresh", "refresh"),
    ("refresh", "one of many"): ("refresh", "refresh load {number}"),
    ("out", ""): ("out", "out of the oven"),
    ("out", "one of many"): ("out", "load {what} out"),
    ("pack", ""): ("pack", "pack"),
}
"""The first part of a step's key, and its words, by its kind and the manner in which it is done."""


class Called(Struct, frozen=True):
    """Which step of its paste it is: what it is known by and called follows from that.

    Attributes
    ----------
    number : int
        Which of its kind, from 1; of a trim, the turn it follows [-].
    what : str
        The kind of turn, the place pieces come from, or how many loads there are.
    again : int
        Which of those of one number, from 1: two trims after one turn [-].

    Examples
    --------
    >>> Called("turn", 3, what="single").key, Called("turn", 3, what="single").words
    ('turn.3', 'turn 3: single')
    >>> Called("fat", manner="pieces").key, Called("trim", 2, "next", again=2).key
    ('pieces.1', 'trim.2.2')
    """

    kind: Kind
    number: int = 1
    manner: Manner = ""
    what: str = ""
    again: int = 1

    @property
    def key(self) -> str:
        """By what it is known within its paste."""
        stem = CALLED[self.kind, self.manner][0]
        return f"{stem}.{self.number}" if self.again == 1 else f"{stem}.{self.number}.{self.again}"

    @property
    def words(self) -> str:
        """What it is called."""
        number = self.number
        words = CALLED[self.kind, self.manner][1].format(
            number=number, before=number - 1, what=self.what
        )
        return f"{words} {self.again - 1}" if self.again > 2 else words
