"""Probes in the blocks of a run: what they say now, whether it can be believed, and kept."""

from collections import deque

from aplomb.book.runs import ReadingRow, Runs
from aplomb.core.bench.plan import Task
from aplomb.core.bench.readings import OVEN_AIR, RANGES, SECONDS, Minute, pack, series, unpack
from aplomb.core.bench.watching import (
    DOUBT_WORDS,
    SILENT_S,
    STUCK_S,
    Doubt,
    Reading,
    doubt,
    is_ready,
)
from aplomb.core.cold.course import Course
from aplomb.work.bench.run import LiveRun

KEPT_EVERY_S = 10.0
"""So often readings go into the book, by our clock [s]."""
TRAIL_S = 15.0
COURSE_MIN = 180.0
"""So far a course is worked out [min]."""


class Probes:
    """What the probes of a run say.

    Parameters
    ----------
    runs : Runs
        Of the book.

    Attributes
    ----------
    said : dict of deque of Reading, by probe
        Of the last quarter of an hour.
    trail : dict of list of Reading, by probe
        One in a quarter of a minute, since the run was opened: for the curve.
    """

    def __init__(self, run: LiveRun, runs: Runs) -> None:
        self._run, self._runs = run, runs
        self.said: dict[str, deque[Reading]] = {}
        self.trail: dict[str, list[Reading]] = {}
        self._minutes: dict[tuple[str, int], list[float | None]] = {}
        self._courses: dict[tuple[str, float], Course | None] = {}
        self._kept_at = 0.0
        self.unkept: dict[str, str] = {}
        """What a device said that cannot be kept, by device."""

    def hear(self, probe: str, temp_c: float) -> None:
        """Take a reading [°C]; one that no device can have is told and let go."""
        low, high = RANGES["oven" if probe == OVEN_AIR else "probe"]
        if not low <= temp_c <= high:  # none at all is not, either
            self.unkept[probe] = f"it says {temp_c:.0f} °C, which cannot be and is not kept"
            return
        self.unkept.pop(probe, None)
        now = self._run.now_s
        row = self.said.setdefault(probe, deque())
        if row and row[-1].at_s > now:  # the run's clock was put right
            row.clear()
        row.append(Reading(now, temp_c))
        while row and now - row[0].at_s > 1.2 * STUCK_S:
            row.popleft()
        trail = self.trail.setdefault(probe, [])
        if not trail or now - trail[-1].at_s >= TRAIL_S:
            trail.append(row[-1])
        minute, second = divmod(int(now), SECONDS)
        cells = self._minutes.setdefault((probe, minute), [None] * SECONDS)
        cells[second] = temp_c
        track = self._run.state.probes.get(probe, "")
        if track and not self.doubt(probe):
            self._run.times.probe_c[track] = temp_c
        elif track:
            self._run.times.probe_c.pop(track, None)

    def keep(self, ours_s: float, *, all_of_it: bool = False) -> None:
        """Send what was heard to the book, every ten seconds of our clock [s]."""
        if not self._minutes or (not all_of_it and ours_s - self._kept_at < KEPT_EVERY_S):
            return
        self._kept_at = ours_s
        now = int(self._run.now_s) // SECONDS
        rows = [
            ReadingRow(probe, minute, pack(cells))
            for (probe, minute), cells in self._minutes.items()
        ]
        self._minutes = {key: cells for key, cells in self._minutes.items() if key[1] >= now}
        runs, number = self._runs, self._run.number
        self._run.writer.write(lambda: runs.read(number, rows), lambda _why: None)

    def of_track(self, track: str) -> str:
        """Give the probe that stands in a block; empty for none."""
        found = [p for p, t in self._run.state.probes.items() if t == track and track]
        return found[-1] if found else ""

    def now_c(self, probe: str) -> float | None:
        """What a probe says now [°C]; None when it said nothing."""
        row = self.said.get(probe)
        return row[-1].temp_c if row else None

    def resting(self, track: str) -> Task | None:
        """Give the task that a block rests before; None while it does not rest."""
        by_key, state = self._run.plan.by_key, self._run.state
        for task in self._run.plan.tasks_of(track):
            here = state.tasks[task.key]
            if here.ended_s is not None:
                continue
            if here.held is not None and here.held.where == "cold":
                return task
            rests = any(by_key[k].place and state.tasks[k].ended_s is not None for k in task.after)
            return task if here.begun_s is None and rests else None
        return None

    def rest_began_s(self, task: Task) -> float | None:
        """Give when the rest before a task began [s]; None before it does."""
        state = self._run.state
        here = state.tasks[task.key]
        if here.held is not None:
            return here.held_s
        ended = [state.tasks[key].ended_s for key in task.after]
        known = [each for each in ended if each is not None]
        return max(known) if known and len(known) == len(ended) else None

    def course(self, task: Task) -> Course | None:
        """Give the course that is predicted for the rest before a task; None without one."""
        began = self.rest_began_s(task)
        if began is None:
            return None
        key = (task.key, began)
        if key not in self._courses:
            start = self._start_c(task, began)
            self._courses[key] = (
                None if start is None else self._run.times.course(task, start, COURSE_MIN)
            )
        return self._courses[key]

    def _start_c(self, task: Task, began_s: float) -> float | None:
        row = self.said.get(self.of_track(task.track), ())
        first = next((r.temp_c for r in row if r.at_s >= began_s), None)
        if first is not None:
            return first
        range_c = self._run.times.range_c(task.track)
        return None if range_c is None else range_c[1] + 1.0

    def doubt(self, probe: str) -> Doubt:
        """Say why a probe is not believed; empty when it is."""
        row = self.said.get(probe)
        if not row or probe == OVEN_AIR:
            return ""
        task = self.resting(self._run.state.probes.get(probe, ""))
        predicted = None
        if task is not None:
            began, course = self.rest_began_s(task), self.course(task)
            if course is not None and began is not None:
                from_s, found = began, course

                def predicted(at_s: float) -> float:
                    return found.at(max(0.0, (at_s - from_s) / 60))[0]

        silent = SILENT_S * max(1.0, self._run.plan.quick)
        return doubt(tuple(row), self._run.now_s, predicted, silent)

    def doubt_words(self) -> dict[str, str]:
        """Say of every probe that is not believed why."""
        found = {probe: self.doubt(probe) for probe in self.said}
        return {probe: DOUBT_WORDS[why] for probe, why in found.items() if why} | self.unkept

    def says_ready(self, track: str) -> bool:
        """Tell whether a block that rests can be rolled by its probe, before the clock says so."""
        if not any(each.key == track for each in self._run.plan.tracks):
            return False  # a probe that stands in no block
        task, probe = self.resting(track), self.of_track(track)
        range_c = self._run.times.range_c(track)
        if task is None or not probe or range_c is None or self.doubt(probe):
            return False
        began = self.rest_began_s(task)
        row = tuple(r for r in self.said.get(probe, ()) if began is not None and r.at_s >= began)
        return is_ready(row, *range_c)

    def kept(self, probe: str) -> tuple[list[float], list[float]]:
        """Read all that a probe said in this run, from the book and what is on its way [s, °C]."""
        rows = self._runs.readings(self._run.number, probe)
        minutes = {row.minute: unpack(row.body) for row in rows}
        for (name, minute), cells in self._minutes.items():
            if name == probe:
                minutes[minute] = tuple(cells)
        return series(Minute(minute, cells) for minute, cells in sorted(minutes.items()))
