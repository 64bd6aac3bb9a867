"""The run that is open: what was pressed and waits, what is shown of it, what the house learns.

It knows of no window. Who shows it tells it of the clock, and is told when to show it anew.
"""

import time
from collections import deque
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Literal, Protocol

from aplomb.book.errors import BookError
from aplomb.core.base.errors import AplombError
from aplomb.core.bench.acts import End, Note
from aplomb.core.bench.asking import Rescue
from aplomb.core.bench.codes import read_code
from aplomb.core.bench.plan import RunPlan, Task
from aplomb.core.bench.state import Alarm, Coming
from aplomb.core.study.study import Study
from aplomb.work.bench import finish
from aplomb.work.bench.day_move import moved_by
from aplomb.work.bench.leaving import PATIENCE_S, Carried, LeftRuns, carried_of
from aplomb.work.bench.run import LiveRun, as_row
from aplomb.work.bench.start import begin, changed_since
from aplomb.work.bench.watch import Probes
from aplomb.work.bench.weigh import LineInHand, RunWeighing
from aplomb.work.bench.words import answered_words, track_title
from aplomb.work.open_book.workbench import Workbench

TOLD_S = 6.0
"""So long an answer to a press is shown [s]."""
CLOSING_S = 1.0
"""So long the book's last writes may take when it is closed [s]."""
MOST_NEXT = 500
"""Presses that may wait for the one before them; further ones are refused aloud [-]."""
NOT_TAKEN = "This press was not accepted: the one before it is not in the book yet."
Face = Literal["step", "ask", "trouble", "entry"]


class ScaleThere(Protocol):
    """The scale of the bench as it is heard now."""

    grams: float | None
    tare_g: float

    def tare(self) -> None:
        """Take what lies on it as nothing."""


class OpenRun:
    """The open run of a book.

    Attributes
    ----------
    told : str
        What was answered to the last press; empty after a while.
    """

    def __init__(self, work: Workbench) -> None:
        self._work = work
        self.run: LiveRun | None = None
        self.probes: Probes | None = None
        self.studies: dict[str, Study] = {}
        self.face: Face = "step"
        self.told = ""
        self._told_at = 0.0
        self._next: deque[tuple[Callable[[LiveRun], object], float]] = deque()
        self._ending = False
        """Whether the run is over once what was pressed is kept."""
        self._moves = False
        """Whether the timetable moves once what was pressed is kept."""
        self._left = LeftRuns(self._kept_later)
        self._carried: list[Carried] = []
        """What the book that was closed last did not take."""
        self._looked_at: LiveRun | None = None
        self._weighing: RunWeighing | None = None
        work.others.append(self._unwritten)
        work.news.closing.connect(self._part)

    # what the window does for it

    def _shown_anew(self) -> None:
        """Something else is to be shown."""
        raise NotImplementedError

    def _finish_wanted(self) -> None:
        """Everything is done: ask whether the run is over."""
        raise NotImplementedError

    def _over(self, told: list[str]) -> None:
        """The run is ended and in the book; what the house learned, a line each."""
        raise NotImplementedError

    def _post_call(self, call: Callable[[], object]) -> None:
        """Make a call of the writer's thread in the window's own."""
        raise NotImplementedError

    def _beside(self, book: Path, job: Callable[[], object]) -> None:
        """Do something that takes long beside the window, then `_take_fitted` what came of it."""
        raise NotImplementedError

    def _follow(self, run: LiveRun, probes: Probes) -> None:
        """Listen to devices and let the clock go on for a run."""
        raise NotImplementedError

    def _follow_no_more(self) -> None:
        """Let devices and the clock be."""
        raise NotImplementedError

    def _pressed(self) -> None:
        """Something was pressed and kept: the stand-ins of devices follow."""
        raise NotImplementedError

    def _scale_there(self) -> ScaleThere:
        """Give the scale of the bench."""
        raise NotImplementedError

    def _device_faults(self) -> Mapping[str, str]:
        """Give what is wrong with devices, by name."""
        raise NotImplementedError

    # the run

    def start(self, plan: RunPlan) -> None:
        """Begin a run and open it; raises AplombError."""
        number = begin(self._work, plan)
        self.open(number)

    def open(self, number: int) -> None:
        """Open a run of the book, where it stands; raises AplombError."""
        self.close()
        work = self._work
        run = self._read(number)
        run.changed.connect(self._changed)
        self.run, self.probes = run, Probes(run, work.book.runs)
        self.studies = finish.studies_of(work, run)
        self.face = "step"
        if not run.is_over:
            self._follow(run, self.probes)
        self._shown_anew()

    def close(self) -> None:
        """Leave the run; it stands where it stands, and nobody waits for a disk that is slow."""
        run, probes, ending = self.run, self.probes, self._ending
        self._stop()
        if run is not None and probes is not None:
            run.changed.disconnect(self._changed)
            probes.keep(time.monotonic(), all_of_it=True)
            self._left.leave(run, probes if ending else None)
        self._shown_anew()

    def _stop(self) -> None:
        """Follow the run no more."""
        self._follow_no_more()
        self._next.clear()
        self._ending = False
        self.run = self.probes = self._weighing = None
        self.told = ""

    def _ended(self) -> None:
        run, probes = self.run, self.probes
        assert run is not None
        assert probes is not None
        self._ending = False
        told = self._learn(run, probes)
        self._follow_no_more()
        self._shown_anew()
        self._over(told)

    def _take_fitted(self, book: object, found: object) -> None:
        """What places do was fitted beside; it goes to the house it was asked for."""
        if isinstance(found, tuple) and found and book == self._work.book.path:
            told = finish.keep_places(self._work, found)
            self._work.news.said("; ".join(told))

    def notices(self) -> list[str]:
        """What is wrong besides: the book, a device, a formula that was changed meanwhile."""
        run = self.run
        if run is None:
            return []
        told = [run.trouble] if run.trouble else []
        if run.unread:
            presses = "press" if run.unread == 1 else "presses"
            told.append(
                f"{run.unread} {presses} of this run cannot be read and are left out; they "
                "stay in the book."
            )
        if self.probes is not None:
            told += [f"{name}: {words}" for name, words in self.probes.doubt_words().items()]
        told += [f"{name}: {words}" for name, words in self._device_faults().items()]
        return told + list(changed_since(self._work, run.plan))

    def _changed(self) -> None:
        run = self.run
        self._pressed()
        if run is not None and not run.waiting:
            if self._moves:
                self._moves = False
                self._move_day()
            if self._ending and run.is_over:
                self._ended()
                return
            if self._next:
                act, at_s = self._next.popleft()
                with run.pressed_at(at_s):  # when it was pressed, not when its turn came
                    self._do(run, act)
                return
        self._shown_anew()

    def _clock_went_on(self) -> None:
        """Look at the clock and the probes; called four times a second while a run is followed."""
        run, probes = self.run, self.probes
        if run is None or probes is None:
            return
        run.look_at_clock()
        probes.keep(time.monotonic())
        run.by_probe = frozenset(
            task.key
            for track in set(run.state.probes.values())
            if probes.says_ready(track) and (task := probes.resting(track)) is not None
        )
        if self.told and time.monotonic() - self._told_at > TOLD_S:
            self.told = ""
            self._shown_anew()

    def _read(self, number: int) -> LiveRun:
        """Give a run of the book, or the one that was left and is not all in it yet."""
        work = self._work
        reference = work.store.reference
        run = self._left.take(work.book, number) or LiveRun(
            work.book, number, reference.pantry, post=self._post_call
        )
        run.times.house = reference.house
        return run

    def look_at(self, number: int) -> LiveRun:
        """Open a run to read it and put it right, beside the one that goes on."""
        self.look_away()
        self._looked_at = self._read(number)
        return self._looked_at

    def look_away(self) -> None:
        """Leave the run that was looked at."""
        run, self._looked_at = self._looked_at, None
        if run is not None:
            self._left.leave(run)

    def _unwritten(self) -> str:
        """Try once to write what waits; gives in words what does not get into the book."""
        runs = [run for run in (self.run, self._looked_at, *self._left.all) if run is not None]
        if self.run is not None and self.probes is not None:
            self.probes.keep(time.monotonic(), all_of_it=True)
        for run in runs:
            run.settle(CLOSING_S)
        waiting = [run for run in runs if run.waiting]
        many = sum(len(run.waiting) for run in waiting)
        why = next((run.trouble for run in waiting if run.trouble), "The disk does not answer.")
        presses = "press" if many == 1 else "presses"
        return f"{why}\n{many} {presses} at the bench would be lost." if many else ""

    def _part(self) -> None:
        """The book is closed: what it did not take is carried into the next one."""
        self.look_away()
        run = self.run
        self._carried = self._left.carry()
        if run is not None:
            if self.probes is not None:
                self.probes.keep(time.monotonic(), all_of_it=True)
            run.changed.disconnect(self._changed)
            run.settle(CLOSING_S)
            self._carried.append(carried_of(run, was_open=True))
            run.writer.give_up()
        self._stop()
        self._shown_anew()

    def go_on_in_copy(self) -> bool:
        """Keep in the book that is open now what the one before did not take of its runs.

        The run that was open goes on, if it is in this book too: then True.
        """
        carried, self._carried = self._carried, []
        book, there = self._work.book, {}
        if carried:
            there = {row.number: row for row in book.runs.all()}
        going_on = False
        for each in carried:
            row = there.get(each.number)
            if row is None or row.begun != each.begun:
                continue
            kept = {press.number for press in book.runs.presses(each.number)}
            left = [as_row(press) for press in each.presses if press.number not in kept]
            try:
                book.runs.press(each.number, left)
                if each.was_open and not row.ended:
                    self.open(each.number)
                    going_on = True
            except AplombError as error:
                self._work.news.said(str(error))
        return going_on

    def finish(self) -> None:
        """End the run; once all of it is in the book the house learns from it."""
        run = self.run
        if run is None or run.is_over or self._ending:
            return
        self._ending = True
        if self.probes is not None:
            self.probes.keep(time.monotonic(), all_of_it=True)
        run.finish()
        run.settle(PATIENCE_S)

    def _learn(self, run: LiveRun, probes: Probes) -> list[str]:
        """Let the house learn from a run; gives what was kept, a line each."""
        work = self._work
        with work.journal.together("results of the run saved"):
            told = [
                *finish.keep_made_batches(work, run),
                *finish.keep_minutes(work, run),
                *finish.keep_stock(work, run),
            ]
        logs = finish.rest_logs(work, run, probes)
        if logs:
            self._beside(work.book.path, lambda: finish.fitted(logs))
        return told

    def _kept_later(self, run: LiveRun, probes: Probes | None) -> None:
        """A run that was left is in the book now; one that was ended is learned from."""
        told = [] if probes is None or not run.is_over else self._learn(run, probes)
        self._work.news.said("; ".join(["The run is in the book", *told]) + ".")

    def current(self) -> Coming | None:
        """What wants hands now."""
        return self.run.current() if self.run else None

    def ringing(self) -> Alarm | None:
        """What rings."""
        return self.run.ringing() if self.run and not self.run.is_over else None

    def study_of(self, task: Task) -> Study:
        """What follows from a task's formula as the run keeps it."""
        assert self.run is not None
        return self.studies[self.run.plan.track(task.track).uid]

    def weighing(self) -> RunWeighing | None:
        """The weighing that is under way; None while nothing is weighed."""
        run, now = self.run, self.current()
        if run is None or now is None or now.task.kind != "weigh" or now.status != "doing":
            self._weighing = None
            return None
        if self._weighing is None or self._weighing.task != now.task:
            pantry = self._work.store.reference.pantry
            self._weighing = RunWeighing(run, now.task, self.study_of(now.task), pantry)
        return self._weighing

    def line(self) -> LineInHand | None:
        """The line to weigh."""
        weighing = self.weighing()
        return weighing.in_hand() if weighing else None

    def do(self, act: Callable[[LiveRun], object]) -> None:
        """Do something with the run; what is refused is told."""
        run = self.run
        if run is None:
            return
        if run.waiting or run.trouble:  # on its way to the disk: this one comes after it
            if run.trouble:
                self.tell(NOT_TAKEN)  # why, the notice says
            elif len(self._next) < MOST_NEXT:
                self._next.append((act, run.now_s))
            else:
                self.tell(f"{NOT_TAKEN} Wait a moment.")
            return
        self._do(run, act)

    def _do(self, run: LiveRun, act: Callable[[LiveRun], object]) -> None:
        try:
            act(run)
        except (AplombError, BookError) as error:
            self.tell(str(error))
        self._shown_anew()

    def tell(self, words: str) -> None:
        """Say something for a while."""
        self.told, self._told_at = words, time.monotonic()
        self._shown_anew()

    def go_on(self) -> None:
        """The one key."""
        self.do(self._go_on)

    def _go_on(self, run: LiveRun) -> None:
        weighing = self.weighing()
        self.face = "step"
        if weighing is not None and run.ringing() is None and weighing.in_hand() is not None:
            self.take_weight()
        elif run.current() is None and not run.is_over and run.ringing() is None:
            self._finish_wanted()
        elif run.go_on() == "ask":
            self.face = "ask"

    def take_weight(self, *, enough: bool = False) -> None:
        """Take what the scale shows for the line in hand."""
        weighing = self.weighing()
        if weighing is None:
            return
        scale = self._scale_there()
        if scale.grams is None:
            self.tell("No reading from the scale. Press G to type the weight.")
            return
        grams, tare = scale.grams, scale.tare_g
        try:
            judged = weighing.take(grams, "scale", tare, enough=enough)
        except AplombError as error:
            self.tell(str(error))
            return
        if judged == "less" and not enough:
            self.tell("Not enough yet. Press E to end the line with less.")
        else:
            if judged == "more":
                self.tell("Too much; recorded as weighed.")
            scale.tare()
        self._shown_anew()

    def answer(self, key: str) -> None:
        """Say how the block is."""

        def act(run: LiveRun) -> None:
            self.face = "step"
            held = run.answer(key)
            if held is not None:
                self.tell(answered_words(held))
                self._moves = True

        self.do(act)

    def rescue(self, found: Rescue) -> None:
        """Something went wrong: do what is done then."""

        def act(run: LiveRun) -> None:
            held = run.rescue(found)
            self.tell(found.now + (f" {answered_words(held)}" if held else ""))
            self._moves = held is not None

        self.do(act)

    def take_back(self) -> None:
        """Take the last press back, or leave what is asked."""
        if self.face != "step":
            self.leave_face()
            return

        def act(run: LiveRun) -> None:
            if not run.take_back():
                self.tell("Nothing to undo.")

        self.do(act)

    def leave_face(self) -> None:
        """Back to the step."""
        if self.run is not None:
            self.run.asking = None
        self.face = "step"
        self._shown_anew()

    def choose(self, by: int) -> None:
        """Look at another block."""
        run = self.run
        if run is None:
            return
        tracks = list(dict.fromkeys(each.task.track for each in run.order()))
        if not tracks:
            return
        now = self.current()
        keys = sorted(tracks)
        at = keys.index(now.task.track) if now else 0
        run.chosen = keys[(at + by) % len(keys)]
        run.asking = None
        self.face = "step"
        self._shown_anew()

    def open_code(self, text: str) -> bool:
        """Go to the block that a label's code names; False when there is none."""
        run, code = self.run, read_code(text)
        track = next((t for t in run.plan.tracks if t.code == code), None) if run else None
        if run is None or not code or track is None:
            return False
        run.chosen = track.key
        self.face = "step"
        self.tell(f"{track_title(run, track.key)}: opened from its label.")
        return True

    def skip_ahead(self) -> None:
        """Say that what goes by itself is done before its time."""

        def act(run: LiveRun) -> None:
            now = run.current()
            if now is not None and now.status in ("doing", "due") and not now.task.hands:
                run.press(Note(now.task.track, "done early"), End(now.task.key))

        self.do(act)

    def _move_day(self) -> None:
        """Let the timetable move with what is held."""
        run = self.run
        if run is None or run.plan.quick != 1.0:
            return
        moved = moved_by(self._work, run)
        if moved is not None:
            self._work.store.put_timetable(moved.words, moved.sheet)
