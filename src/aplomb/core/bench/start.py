"""From a timetable to a run: its steps parted over mixes and blocks, each with its own clock."""

from collections.abc import Callable, Mapping, Sequence
from itertools import pairwise

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.house import House
from aplomb.core.bench.codes import code_of
from aplomb.core.bench.plan import Ring, Sheet, Task, Track
from aplomb.core.day.problem import DayStep, SideStep
from aplomb.core.folds.boxes import Box
from aplomb.core.kitchen.day_steps import PasteSteps
from aplomb.core.kitchen.step_list import OF_BLOCKS, OF_STOCK, StepNote
from aplomb.core.oven.setting import dial_text
from aplomb.core.paste.bodies import bodies_of
from aplomb.core.paste.formula import programme_of
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.cold import out_limit
from aplomb.core.study.study import Study

GOES_BY_ITSELF = ("bake", "heat", "refresh")
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


class PasteToRun(Struct, frozen=True):
    """A paste as a run takes it.

    Attributes
    ----------
    study : Study
        Of the formula as it is made: with its blocks.
    mixes : tuple of int
        Blocks of each mix [-].
    each_g : float
        One block [g].
    stock : int
        Blocks that come out of stock [-]; their tracks follow those of the new ones.
    """

    steps: PasteSteps
    study: Study
    mixes: tuple[int, ...]
    blocks: int
    each_g: float
    stock: int = 0


def track_key(paste: int, block: int = 0) -> str:
    """Name a track: the paste's letter, and the number of the block.

    Parameters
    ----------
    paste : int
        From 0 [-].
    block : int
        From 1; 0 for what is done to all of the paste [-].

    Examples
    --------
    >>> track_key(0), track_key(1, 3), track_key(27)
    ('A', 'B3', 'BB')
    """
    letter = LETTERS[paste % 26] * (paste // 26 + 1)
    return f"{letter}{block}" if block else letter


def tracks_and_tasks(
    pastes: Sequence[PasteToRun],
    pantry: Pantry,
    house: House,
    first_code: int,
    planned_min: Mapping[tuple[str, str], float] | None = None,
) -> tuple[tuple[Track, ...], tuple[Task, ...]]:
    """Part the steps of some pastes over tracks.

    Parameters
    ----------
    first_code : int
        Number of the first block's code; the others follow it.
    planned_min : dict of float, by identity of the formula and step, or None
        When the timetable lets each begin [min since the run began].

    Returns
    -------
    tuple of (tracks, tasks)
        Tasks in the order of the timetable where there is one.
    """
    tracks: list[Track] = []
    tasks: list[Task] = []
    for number, each in enumerate(pastes):
        made = _Parting(each, number, pantry, house, planned_min or {})
        code = first_code + len(tracks)
        tracks += made.tracks(lambda block, code=code: code_of(code + block))  # type: ignore[misc]
        tasks += made.tasks()
    return tuple(tracks), tuple(_in_time(tasks))


def _in_time(tasks: list[Task]) -> list[Task]:
    """By the timetable, but none before what it comes after."""
    placed: list[Task] = []
    there: set[str] = set()
    left = sorted(tasks, key=lambda t: t.planned_min if t.planned_min is not None else 0.0)
    while left:
        at = next(i for i, task in enumerate(left) if all(k in there for k in task.after))
        task = left.pop(at)
        placed.append(task)
        there.add(task.key)
    return placed


class _Parting:
    def __init__(
        self,
        each: PasteToRun,
        number: int,
        pantry: Pantry,
        house: House,
        planned_min: Mapping[tuple[str, str], float],
    ) -> None:
        self.each, self.number = each, number
        self.house, self.planned = house, planned_min
        self.fresh = each.blocks if each.stock else max(1, each.blocks)
        self.blocks = self.fresh + each.stock
        self.stock_done = next((n.done for n in each.steps.notes.values() if n.kind in OF_STOCK), 0)
        self.last: dict[str, str] = {}
        """The last task of each track so far."""
        self.bodies = bodies_of(each.study.formula, pantry)
        self.by_step: dict[str, list[Task]] = {}
        """The tasks of each step."""

    def tracks(self, code: Callable[[int], str]) -> list[Track]:
        uid, name, n = self.each.steps.uid, self.each.steps.name, self.blocks
        grams = self._block_grams()
        whole = Track(track_key(self.number), uid, name, 0, n, sum(grams))
        if not any(note.kind in OF_BLOCKS for note in self.each.steps.notes.values()):
            return [whole]  # pieces that are put by: no block is on the bench
        return [whole] + [
            Track(track_key(self.number, i), uid, name, i, n, grams[i - 1], code(i))
            for i in range(1, n + 1)
        ]

    def _block_grams(self) -> list[float]:
        """What each block weighs as mixed [g]."""
        grams = [group.each_g for group in self.each.study.scaled.block_groups]
        if len(grams) != self.fresh:
            grams = [self.each.each_g] * self.fresh
        batch = self.each.study.formula.batch
        return grams + [batch.frozen_g / batch.frozen_blocks] * self.each.stock

    def tasks(self) -> list[Task]:
        paste, notes = self.each.steps.paste, self.each.steps.notes
        for side in paste.sides:
            note = notes[side.name]
            is_stock = note.kind in OF_STOCK
            blocks = list(self._of_stock) if is_stock else [0]
            made = self.by_step[side.name] = [self._task(side, note, i) for i in blocks]
            if is_stock:
                self.last |= {task.track: task.key for task in made}
        before = ""
        for step in paste.steps:
            self.by_step[step.name] = self._of_step(step, notes[step.name], before)
            before = step.name
        sides = [
            replace(task, after=tuple(t.key for t in self.by_step.get(side.after, ())))
            for side in paste.sides
            for task in self.by_step[side.name]
        ]
        return sides + [task for step in paste.steps for task in self.by_step[step.name]]

    @property
    def _of_stock(self) -> range:
        """The blocks that come out of stock, by their numbers."""
        return range(self.fresh + 1, self.blocks + 1)

    def _blocks_of(self, note: StepNote) -> list[int]:
        """The blocks that a step is done to: those from stock from where they have come to."""
        found = list(range(1, self.fresh + 1))
        if note.kind == "sheet" or note.done > self.stock_done:
            found += self._of_stock
        return found

    def _of_step(self, step: DayStep, note: StepNote, before: str) -> list[Task]:
        sides = [
            task.key
            for side in self.each.steps.paste.sides
            if side.before == step.name and self.each.steps.notes[side.name].kind not in OF_STOCK
            for task in self.by_step[side.name]
        ]
        if note.kind == "mix":
            made = self._mixes(step, note)
        elif note.kind in OF_STOCK:
            made = [self._task(step, note, i) for i in self._of_stock]
        elif note.kind in OF_BLOCKS:
            made = [self._task(step, note, i) for i in self._blocks_of(note)]
        else:
            made = [self._task(step, note, 0)]
        placed = [replace(t, after=(*self._before(t, before), *sides)) for t in made]
        self.last |= {t.track: t.key for t in placed}
        return placed

    def _mixes(self, step: DayStep, note: StepNote) -> list[Task]:
        many = max(1, len(self.each.mixes))
        if many == 1:
            return [replace(self._task(step, note, 0), mix=1)]
        found = []
        for mix in range(1, many + 1):
            task = self._task(step, note, 0)
            planned = task.planned_min
            later = None if planned is None else planned + (mix - 1) * step.minutes / many
            found.append(
                replace(
                    task,
                    key=f"{task.key}/{mix}",
                    name=f"{task.name} · {mix} of {many}",
                    mix=mix,
                    minutes=step.minutes / many,
                    planned_min=later,
                )
            )
        return found

    def _before(self, task: Task, before: str) -> tuple[str, ...]:
        earlier = self.by_step.get(before, [])
        own = [t for t in earlier if t.track == task.track]
        if not own and task.track in self.last and task.kind in OF_BLOCKS:
            return (self.last[task.track],)
        if task.kind == "mix" and own:
            return (own[-1].key,)
        if len(earlier) > 1 and earlier[0].mix and task.kind in OF_BLOCKS:
            return (earlier[self._mix_of(int(task.track.lstrip(LETTERS))) - 1].key,)
        if own and not earlier[0].mix:
            return tuple(t.key for t in own)
        return tuple(t.key for t in earlier)

    def _mix_of(self, block: int) -> int:
        """Which mix a block is of, both from 1."""
        so_far = 0
        for mix, blocks in enumerate(self.each.mixes, 1):
            so_far += blocks
            if block <= so_far:
                return mix
        return max(1, len(self.each.mixes))

    def _task(self, step: DayStep | SideStep, note: StepNote, block: int) -> Task:
        track = track_key(self.number, block)
        parts = len(self._blocks_of(note)) if note.kind in OF_BLOCKS else 1
        if note.kind in OF_STOCK:
            parts = self.each.stock
        minutes = step.minutes / parts
        planned = self._planned(step, note, block, minutes)
        sheet, at = self._sheet(note, block)
        rings = self._rings() if note.kind == "bake" else ()
        return Task(
            key=f"{track}/{step.name}",
            track=track,
            step_key=step.name,
            name=step.called if parts == 1 else f"{step.called} · block {block} of {self.blocks}",
            kind=note.kind,
            minutes=minutes,
            hands=note.kind not in GOES_BY_ITSELF,
            rest_min=float(note.least_min),
            rest_max=None if note.most_min is None else float(note.most_min),
            place=note.place,
            step=at,
            done=note.done,
            sheet=sheet,
            planned_min=planned,
            out_min=self._out_min(note, sheet),
            rings=rings,
        )

    def _planned(
        self, step: DayStep | SideStep, note: StepNote, block: int, minutes: float
    ) -> float | None:
        """When the timetable lets a block's part begin: it goes through a unit of steps at once."""
        planned = self.planned.get((self.each.steps.uid, step.name))
        if planned is None or not block:
            return planned
        if note.kind in OF_STOCK:
            return planned + (block - self.fresh - 1) * minutes
        at = self._blocks_of(note).index(block)
        if not note.unit:
            return planned + at * minutes
        begin = self.planned.get((self.each.steps.uid, note.unit[0]), planned)
        notes = self.each.steps.notes
        each = {
            s.name: s.minutes / len(self._blocks_of(notes[s.name]))
            for s in self.each.steps.paste.steps
            if s.name in note.unit
        }
        before = sum(each[name] for name in note.unit[: note.unit.index(step.name)])
        return begin + at * sum(each[name] for name in note.unit) + before

    def _rings(self) -> tuple[Ring, ...]:
        """What is done between the steps of the bake: the dial, and what the programme says."""
        baked, oven = programme_of(self.each.study.formula), self.house.oven()
        found, over = [], 0.0
        for step, then in pairwise(baked.steps):
            over += step.minutes
            words = [f"{step.then[:1].upper()}{step.then[1:]}."] if step.then else []
            if then.conventional_c != step.conventional_c:
                dial = dial_text(oven, then.conventional_c)
                words.append(f"Set the dial of {oven.name} to {dial}.")
            if words:
                found.append(Ring(over, " ".join(words)))
        return tuple(found)

    def _last_sheet(self, block: int) -> Box:
        """The last sheet that a block is rolled to, before it draws back: as it is cut for."""
        study, groups = self.each.study, self.each.study.scaled.block_groups
        if study.cut is not None and 0 < block <= len(groups) and groups[block - 1].plan >= 0:
            return study.cut.plans[groups[block - 1].plan].rolled
        return study.final_sheet

    def _sheet(self, note: StepNote, block: int) -> tuple[Sheet | None, int]:
        """The sheet that is rolled, and the place of the step in the plan."""
        study = self.each.study
        at = -1
        box = None
        if note.kind == "turn":
            at = note.done - 1
            found = next((t for t in study.turns if t.step == at), None)
            box = found.size.sheet if found and found.size else None
        elif note.kind == "sheet":
            box = self._last_sheet(block)
        elif note.kind == "enclose" and study.enclosing is not None:
            box = study.enclosing.dough
        elif note.kind == "trim":
            at = note.done - 1
        return (None if box is None else Sheet(box.length_mm, box.width_mm, box.height_mm)), at

    def _out_min(self, note: StepNote, sheet: Sheet | None) -> float | None:
        """How long a block may lie open while this is done to it."""
        range_c, material = self.bodies.range_c, self.bodies.paste
        bench = next((p for p in self.house.places if p.kind == "room"), None)
        if note.kind not in ("enclose", "turn", "sheet") or sheet is None or not range_c:
            return None
        if material is None or bench is None:
            return None
        low, high = range_c
        thick = round(min(max(sheet.thickness_mm, 1.0), 300.0), 1)
        comes_out = low + (high - low) / 4  # it is ready from the top of its range on, and rests on
        found = out_limit(material, thick, comes_out, bench, self.house, high, 1)
        return found.minutes.usual
