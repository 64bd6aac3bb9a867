"""Collects the steps of a make in order, gives each its key, and knows what comes before it."""

from collections.abc import Sequence
from typing import Any

from aplomb.core.make.minutes import hands_min
from aplomb.core.make.step import LineOf, MakeStep, Unit
from aplomb.core.make.words import DONE, SIGNS

ALONE = ("heat", "bake", "relax", "cool")
"""Kinds that go by themselves."""
NEEDS: dict[str, tuple[str, ...]] = {
    "weigh": ("hands",),
    "mix": ("hands", "mixer"),
    "heat": ("oven",),
    "bake": ("oven",),
    "load_in": ("hands", "oven"),
    "load_out": ("hands", "oven"),
    "relax": ("bench",),
    "cool": (),
}
"""What a kind of step needs, where it is not hands and bench."""


class Gathering:
    """The steps and units of one make, while they are put together.

    Parameters
    ----------
    sheeter : bool
        The house rolls on a machine.
    """

    def __init__(self, *, sheeter: bool) -> None:
        self.sheeter = sheeter
        self.steps: list[MakeStep] = []
        self.units: list[Unit] = []
        self._counts: dict[tuple[str, str], int] = {}
        self._last: dict[str, str] = {}

    def unit(self, key: str, of: str, grams: float, name: str = "") -> str:
        """Add a unit; gives its key."""
        self.units.append(Unit(key, of, grams, name))
        return key

    def last(self, unit: str) -> tuple[str, ...]:
        """Give the step that was last done to a unit; none before its first."""
        key = self._last.get(unit)
        return (key,) if key else ()

    def follows(self, unit: str, step: str) -> None:
        """Let what is done to a unit come after a step of another."""
        self._last[unit] = step

    def add(
        self,
        kind: str,
        unit: str,
        *,
        of: int = 1,
        pieces: float = 0.0,
        after: Sequence[str] | None = None,
        more_after: Sequence[str] = (),
        on: Sequence[str] = (),
        op: str = "",
        **more: Any,
    ) -> str:
        """Add a step to a unit.

        Parameters
        ----------
        of : int
            Units that are done so one after the other, and share what it takes to begin [-].
        pieces : float
            Pieces, lines or trays of this unit [-].
        after : sequence of str or None
            Steps before it; None for the unit's own last.
        more_after : sequence of str
            Steps before it besides.
        on : sequence of str
            Units besides that it is done to.

        Returns
        -------
        str
            Its key.
        """
        number = self._counts[unit, kind] = self._counts.get((unit, kind), 0) + 1
        key = f"{unit}.{kind}" if "." in unit or unit.startswith("l") else f"{unit}.{kind}.{number}"
        if number > 1 and not key.endswith(f".{number}"):
            key = f"{key}.{number}"
        before = list(self.last(unit) if after is None else after)
        before += [each for each in more_after if each not in before]
        needs = NEEDS.get(kind, ("hands", "bench"))
        if self.sheeter and kind in ("turn", "sheet"):
            needs = ("hands", "sheeter")
        hands = 0.0 if kind in ALONE else hands_min(kind, of, pieces, sheeter=self.sheeter)
        more.setdefault("hands_min", hands)
        more.setdefault("sign", SIGNS.get(kind, ""))
        more.setdefault("words", DONE.get(kind, ""))
        self.steps.append(
            MakeStep(
                key,
                op or kind,
                kind,
                (unit, *on),
                needs=needs,
                after=tuple(dict.fromkeys(before)),
                **more,
            )
        )
        self._last[unit] = key
        for each in on:
            self._last[each] = key
        return key


def shared(lines: Sequence[LineOf], share: float) -> tuple[LineOf, ...]:
    """Give a share of some lines, those of nothing left out."""
    return tuple(
        LineOf(n.part, n.material, n.product, n.grams * share) for n in lines if n.grams * share > 0
    )
