"""What a run set out to do as books up to version 8 kept it: these types are never changed.

A run that was begun then ends on its own plan; `brought_up` gives it the types of today.
"""

from typing import Literal

from msgspec import Struct

from aplomb.core.bench import plan as today
from aplomb.core.day.old_names import key_of_name
from aplomb.core.paste.formula import Formula

Kind8 = Literal[
    "cool", "weigh", "mix", "fat", "filling", "thaw", "enclose", "turn", "trim", "sheet", "cut",
    "fill", "trays", "heat", "load", "bake", "refresh", "out", "pack",
]  # fmt: skip


class Sheet8(Struct, frozen=True):
    """A sheet that is to be rolled [mm]."""

    length_mm: float
    width_mm: float
    thickness_mm: float


class Ring8(Struct, frozen=True):
    """Something to be done so long after a task was begun [min]."""

    after_min: float
    words: str


class Task8(Struct, frozen=True):
    """One thing that is done; it was known by the words of its step."""

    key: str
    track: str
    name: str
    kind: Kind8
    minutes: float
    hands: bool = True
    after: tuple[str, ...] = ()
    rest_min: float = 0.0
    rest_max: float | None = None
    place: str = ""
    step: int = -1
    done: int = 0
    sheet: Sheet8 | None = None
    planned_min: float | None = None
    mix: int = 0
    out_min: float | None = None
    rings: tuple[Ring8, ...] = ()


class Track8(Struct, frozen=True):
    """A block with its own run, or what is done to all blocks of a paste."""

    key: str
    uid: str
    name: str
    block: int
    blocks: int
    mass_g: float
    code: str = ""


class RunPlan8(Struct, frozen=True):
    """What a run set out to do."""

    title: str
    begun: str
    quick: float
    tracks: tuple[Track8, ...]
    tasks: tuple[Task8, ...]
    formulas: dict[str, Formula]
    revisions: dict[str, int] = {}
    counts_enclosing: bool = False


def brought_up(old: RunPlan8) -> today.RunPlan:
    """Give a plan the types of today; its tasks keep the keys that its presses name."""
    return today.RunPlan(
        title=old.title,
        begun=old.begun,
        quick=old.quick,
        tracks=tuple(
            today.Track(t.key, t.uid, t.name, t.block, t.blocks, t.mass_g, t.code)
            for t in old.tracks
        ),
        tasks=tuple(_task(task) for task in old.tasks),
        formulas=old.formulas,
        revisions=old.revisions,
        counts_enclosing=old.counts_enclosing,
    )


def _task(old: Task8) -> today.Task:
    sheet = old.sheet
    return today.Task(
        key=old.key,
        track=old.track,
        step_key=key_of_name(old.name.partition(" · ")[0]),
        name=old.name,
        kind=old.kind,
        minutes=old.minutes,
        hands=old.hands,
        after=old.after,
        rest_min=old.rest_min,
        rest_max=old.rest_max,
        place=old.place,
        step=old.step,
        done=old.done,
        sheet=None
        if sheet is None
        else today.Sheet(sheet.length_mm, sheet.width_mm, sheet.thickness_mm),
        planned_min=old.planned_min,
        mix=old.mix,
        out_min=old.out_min,
        rings=tuple(today.Ring(ring.after_min, ring.words) for ring in old.rings),
    )
