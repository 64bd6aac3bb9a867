"""Hands' minutes of a make, by what a day groups: one source for every screen."""

from collections.abc import Callable

from aplomb.core.make.step import Make, MakeStep

OF_FAT = ("temper", "soften", "mix_fat", "press")
OF_PIECES = (
    "shape", "dock", "wash", "tray", "line", "slice", "fill", "roll_up",
)  # fmt: skip
"""What is done to cut pieces, up to their trays."""


class HandsOf:
    """Sums hands' time over the steps of a make [min]."""

    def __init__(self, make: Make) -> None:
        self._steps = make.steps

    def _sum(self, test: Callable[[MakeStep], bool]) -> float:
        return sum(step.hands_min for step in self._steps if test(step))

    def kinds(self, *kinds: str) -> float:
        """All steps of some kinds."""
        return self._sum(lambda s: s.kind in kinds)

    @property
    def mixing(self) -> float:
        """Mixing, and dividing the dough."""
        return self._sum(lambda s: s.kind == "mix" or (s.kind == "divide" and s.on[0] == "dough"))

    @property
    def fat(self) -> float:
        """Bringing the fat to where it is enclosed."""
        return self.kinds(*OF_FAT)

    @property
    def enclosing(self) -> float:
        """From dough and fat to a block, before its first turn."""
        kinds = ("enclose", "gather", "spread", "roll_up", "add")
        return self._sum(
            lambda s: s.kind in kinds and not s.op.startswith("turn") and s.on[0][:1] == "b"
        )

    def turn(self, number: int) -> float:
        """All that is done at a turn: spread, sprinkled, rolled, folded."""
        return self._sum(lambda s: s.op == f"turn {number}")

    def trim(self, done: int) -> float:
        """A trim, by the steps of the plan that are done then."""
        return self._sum(lambda s: s.kind == "trim" and s.done == done)

    @property
    def sheeting(self) -> float:
        """The last sheets, with what is divided off before, and wrapped to keep."""
        return self._sum(
            lambda s: (
                s.kind in ("sheet", "wrap", "store") or (s.kind == "divide" and s.on[0] != "dough")
            )
        )

    @property
    def dividing(self) -> float:
        """Dividing finished blocks, of paste that is kept."""
        return self._sum(lambda s: s.kind == "divide" and s.on[0] != "dough")

    @property
    def rolling_up(self) -> float:
        """Logs of a product, from the cut sheet to the cold."""
        logs = {s.on[0] for s in self._steps if s.kind == "roll_up" and s.on[0][:1] == "p"}
        return self._sum(lambda s: s.on[0] in logs and s.kind in ("fill", "roll_up"))

    @property
    def cutting(self) -> float:
        """Cutting alone: sheets to pieces, logs to slices."""
        return self._sum(lambda s: s.kind == "cut" or (s.kind == "slice" and s.on[0][:1] == "b"))

    @property
    def making_up(self) -> float:
        """From cut pieces to trays."""
        return self._sum(lambda s: s.kind in OF_PIECES and s.on[0][:1] == "p")

    @property
    def filling(self) -> float:
        """Cooking fillings: nobody leaves a pan on the heat."""
        return self.kinds("cook")
