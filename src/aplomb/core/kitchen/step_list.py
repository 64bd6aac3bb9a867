"""Collects the steps of a paste of the day, with the rests between them."""

import math
from itertools import pairwise
from typing import NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.day.problem import DayStep, Held, Need, SideStep
from aplomb.core.day.sheet import DaySheet, step_key
from aplomb.core.kitchen.step_words import Called, Kind
from aplomb.core.make.hands import HandsOf
from aplomb.core.paste.ingredient import Standing
from aplomb.core.study.cold import RestResult

OF_BLOCKS: tuple[Kind, ...] = ("enclose", "turn", "trim", "sheet")
"""Kinds of step that are done to each block by itself."""
OF_STOCK: tuple[Kind, ...] = ("thaw", "stand")
"""Kinds of step that are done to each block from stock."""


class StepNote(Struct, frozen=True):
    """What is known of a step besides.

    Attributes
    ----------
    standing : Standing
        Of its minutes.
    done : int
        Steps of the plan done when it ends [-].
    place : str
        Where the rest after it is; empty for the bench.
    rest : RestResult or None
        What the cold says of that rest.
    least_min, most_min : int
        How long each block rests after it [min]; None for no most. The time to the next step is
        shorter by what the other blocks take meanwhile.
    unit : tuple of str
        Steps that each block goes through one after the other before the next block is begun; this
        one alone where it is empty.
    blocks : int
        It is done to so many, one after the other [-].
    """

    kind: Kind
    standing: Standing
    done: int = 0
    place: str = ""
    rest: RestResult | None = None
    least_min: int = 0
    most_min: int | None = None
    unit: tuple[str, ...] = ()
    blocks: int = 1


class BlockRest(NamedTuple):
    """A rest of each block [min]: from, to, and the stand that lets it last longer."""

    least: float = 0.0
    most: float | None = 0.0
    stand: int = 0
    stand_most: int | None = None


class StepList:
    """Collects the steps of a paste in order."""

    def __init__(self, uid: str, sheet: DaySheet, hands: HandsOf) -> None:
        self.uid, self.sheet, self.hands = uid, sheet, hands
        self.steps: list[DayStep] = []
        self.sides: list[SideStep] = []
        self.notes: dict[str, StepNote] = {}
        self.told: list[str] = []
        """What to look at, in words."""

    def _own(self, key: str, minutes: float) -> tuple[int, Standing]:
        key = step_key(self.uid, key)
        own = self.sheet.minutes.get(key)
        took = max(1, math.ceil(minutes - 1e-9)) if own is None else own
        return max(0, took + self.sheet.extra.get(key, 0)), "trade" if own is None else "own"

    def _rest(self, key: str, rest: BlockRest) -> tuple[int, int | None]:
        """Whole minutes of a rest, with what it takes longer than planned."""
        more = self.sheet.rest_extra.get(step_key(self.uid, key), 0)
        least = max(0, math.ceil(rest.least - 1e-9) + more)
        return least, None if rest.most is None else max(least, math.ceil(rest.most - 1e-9) + more)

    def add(
        self,
        called: Called,
        minutes: float,
        needs: tuple[Need, ...],
        rest: BlockRest = BlockRest(),  # noqa: B008
        spaces: int = 0,
        place: str = "",
        done: int = 0,
        found: RestResult | None = None,
        blocks: int = 1,
    ) -> str:
        """Add a step and the rest after it; gives its key."""
        key = called.key
        took, standing = self._own(key, minutes)
        least, most = self._rest(key, rest)
        self.steps.append(
            DayStep(
                key, took, needs, least, most, spaces, _held(place), called.words, rest.stand,
                rest.stand_most,
            )
        )  # fmt: skip
        self.notes[key] = StepNote(
            called.kind, standing, done, place, found, least, most, blocks=blocks
        )
        return key

    def beside(
        self,
        called: Called,
        minutes: float,
        before: str,
        rest: BlockRest,
        spaces: int,
        place: str = "fridge",
        found: RestResult | None = None,
        after: str = "",
        done: int = 0,
    ) -> None:
        """Add a step that is done beside, before one of the others."""
        key = called.key
        took, standing = self._own(key, minutes)
        least, most = self._rest(key, rest)
        self.sides.append(
            SideStep(
                key, took, before, ("baker",), least, most, spaces, _held(place), called.words,
                rest.stand, rest.stand_most, after,
            )
        )  # fmt: skip
        self.notes[key] = StepNote(called.kind, standing, done, place, found, least, most)

    def rest_after(
        self, key: str, rest: BlockRest, spaces: int, place: str, found: RestResult | None
    ) -> None:
        """Put a rest behind a step that has none; two in a row add up."""
        at = next(i for i, step in enumerate(self.steps) if step.name == key)
        step, note = self.steps[at], self.notes[key]
        if note.place:  # what it takes longer is in the first already
            rest = BlockRest(
                note.least_min + rest.least,
                None if rest.most is None else (note.most_min or note.least_min) + rest.most,
                rest.stand,
                rest.stand_most,
            )
            least, most = math.ceil(rest.least), rest.most and math.ceil(rest.most)
        else:
            least, most = self._rest(key, rest)
        self.steps[at] = replace(
            step,
            rest_min=least,
            rest_max=most,
            fridge_spaces=spaces,
            held_in=_held(place),
            stand_min=rest.stand,
            stand_most=rest.stand_most,
        )
        self.notes[key] = replace(
            note, place=place, rest=found or note.rest, least_min=least, most_min=most
        )

    def by_blocks(self) -> None:
        """Let the time between steps be what each block rests, less what the others take meanwhile.

        Notes
        -----
        n blocks go through a unit of steps (those without a rest between them) one after the other.
        With d and d' minutes a block before and after a rest, and the gap g between the two units,
        block k rests g + (n − 1 − k) d + k d', which lies between g + (n − 1) min(d, d') and
        g + (n − 1) max(d, d').
        """
        units = self._units()
        of = {step: unit for unit in units for step in unit}
        minutes = {s.name: s.minutes for s in self.steps}
        for at, step in enumerate(self.steps[:-1]):
            unit, following = of[step.name], of[self.steps[at + 1].name]
            blocks = self.notes[step.name].blocks
            self.notes[step.name] = replace(
                self.notes[step.name], unit=unit if len(unit) > 1 else ()
            )
            if unit is following or blocks < 2 or not self.notes[step.name].place:
                continue
            shares = [sum(minutes[s] for s in each) / blocks for each in (unit, following)]
            if self.notes[following[0]].blocks != blocks:
                shares[1] = shares[0]
            least = max(0, step.rest_min - math.floor((blocks - 1) * min(shares)))
            most = step.rest_max
            if most is not None:
                meanwhile = math.ceil((blocks - 1) * max(shares))
                room = most - meanwhile
                if room < least and not step.stand_min:
                    self.told.append(
                        f"after “{step.called}” the first of {blocks} blocks rests {meanwhile} min "
                        f"while the others are done, and {most} min are the most: make fewer "
                        "blocks at a time, or the rest longer"
                    )
                most = max(least, room)
            self.steps[at] = replace(step, rest_min=least, rest_max=most)

    def _units(self) -> list[tuple[str, ...]]:
        """Group steps of blocks that follow one another without a rest."""
        found: list[list[str]] = []
        for before, step in pairwise((None, *self.steps)):
            assert step is not None
            joins = (
                before is not None
                and self.notes[before.name].kind in OF_BLOCKS
                and self.notes[step.name].kind in OF_BLOCKS
                and not self.notes[before.name].place
                and self.notes[before.name].blocks == self.notes[step.name].blocks
            )
            if joins:
                found[-1].append(step.name)
            else:
                found.append([step.name])
        return [tuple(each) for each in found]


def _held(place: str) -> Held:
    return "freezer" if place in ("freezer", "blast") else "fridge"
