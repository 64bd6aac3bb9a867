"""A run as it goes on: what is at hand, what a press does, what rings.

Every press is in the book before it counts.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import datetime
from math import inf

import msgspec

from aplomb.book.book import Book
from aplomb.book.errors import BookError
from aplomb.book.runs import PressRow
from aplomb.core.base.errors import AplombError
from aplomb.core.bench.acts import (
    Act,
    Amend,
    Begin,
    ClockMoved,
    Count,
    End,
    Finish,
    Hold,
    Measure,
    Note,
    Press,
    Quiet,
    Seen,
    TakeBack,
    Tick,
    What,
    Who,
    check_act,
)
from aplomb.core.bench.asking import (
    Rescue,
    State,
    Then,
    rescues_for,
    state_called,
    states_for,
)
from aplomb.core.bench.plan import RunPlan, Task, check_plan
from aplomb.core.bench.plan_8 import RunPlan8, brought_up
from aplomb.core.bench.state import (
    KEPT_BY_ITSELF,
    Alarm,
    Coming,
    RunState,
    alarms,
    coming,
    gone_on,
    in_order,
    last_that_stands,
    next_ring_s,
    shown,
    state_of,
)
from aplomb.core.paste.pantry import Pantry
from aplomb.work.bench.clock import RunClock
from aplomb.work.bench.minutes import BlockTimes
from aplomb.work.bench.writer import Writer
from aplomb.work.open_book.announcing import Announcement

ASKED_AT_END = ("mix", "out")
"""Kinds of step that are looked at as they end; the others before they begin."""
MOST_S = 1e9
"""No press lies farther from the beginning of its run [s]."""
APART_S = 0.001
"""Two presses lie so far apart at the least [s]."""
Post = Callable[[Callable[[], None]], None]


def _at_once(call: Callable[[], None]) -> None:
    call()


class LiveRun:
    """A run that goes on.

    Parameters
    ----------
    number : int
        Of the run in the book.
    clock : RunClock or None
        None: by the computer's.
    post : callable
        Brings a call into the thread that owns the run; it is called from the writer's.
    wait : bool
        Whether each press is waited for: in scripts and tests.

    Attributes
    ----------
    changed : Announcement
        Something is in the book that was not.
    trouble : str
        Why the book does not take what was pressed; empty when it does.
    unread : int
        Presses in the book that cannot be read [-].

    Raises
    ------
    AplombError
        When the run cannot be read.
    """

    def __init__(
        self,
        book: Book,
        number: int,
        pantry: Pantry,
        clock: RunClock | None = None,
        post: Post = _at_once,
        *,
        wait: bool = False,
    ) -> None:
        self.number, self.book, self._post, self.waits = number, book, post, wait
        self.plan = read_plan(book, number)
        self.presses, self.unread = read_presses(book, number)
        self.waiting: list[Press] = []
        """Pressed, and not in the book yet."""
        self.trouble = ""
        self.changed = Announcement()
        self.times = BlockTimes(self.plan, pantry)
        self._state: RunState | None = None
        self._rung: tuple[RunState, float, float, tuple[Alarm, ...]] | None = None
        """For a state, from when to when [s], and what rings meanwhile."""
        self._pressed_s: float | None = None
        self.clock = clock or RunClock(begun_of(self.plan), self.plan.quick)
        self.clock.shift_s = self.state.shift_s
        self.writer = Writer()
        added = self.clock.go_on_from(self.state.last_s)
        if added is not None and not self.is_over:
            self.press(ClockMoved(added))
        self.chosen = ""
        """Track that was chosen by hand; empty for the one that needs hands."""
        self.by_probe: frozenset[str] = frozenset()
        """Tasks whose block can be rolled by its probe, before the clock says so."""
        self.asking: Task | None = None
        """The task that is being looked at."""

    # what is

    @property
    def state(self) -> RunState:
        """Where it stands by what is in the book."""
        if self._state is None:
            self._state = state_of(self.plan, self.presses)
        return self._state

    @property
    def now_s(self) -> float:
        """Seconds since it began [s]."""
        return self.clock.now_s()

    @property
    def is_over(self) -> bool:
        """True when it was ended."""
        return self.state.finished_s is not None

    def order(self) -> tuple[Coming, ...]:
        """What wants hands, in order; a track that was chosen by hand first."""
        state = self.state
        found = in_order(coming(self.plan, state, self.now_s), state.at_hand, state.out_s)
        own = [each for each in found if each.task.track == self.chosen]
        if own:
            return (own[0], *(each for each in found if each is not own[0]))
        return found

    def current(self) -> Coming | None:
        """What wants hands now; None when all is done."""
        found = self.order()
        return found[0] if found else None

    def ringing(self) -> Alarm | None:
        """What rings; None while nothing does."""
        found = self._alarms()
        at_hand = self.state.at_hand
        rings = next((a for a in found if a.task != at_hand or a.kind == "out"), None)
        return rings or self._by_probe()

    def _alarms(self) -> tuple[Alarm, ...]:
        """What rings by the clock: the same until the next would ring, or something is pressed."""
        state, now_s = self.state, self.now_s
        held = self._rung
        if held is None or held[0] is not state or not held[1] <= now_s < held[2]:
            later = next_ring_s(self.plan, state, now_s)
            held = (state, now_s, inf if later is None else later, alarms(self.plan, state, now_s))
            self._rung = held
        return held[3]

    def _by_probe(self) -> Alarm | None:
        """A block that its probe says is ready rings once."""
        for key in sorted(self.by_probe):
            name = f"probe {key} {self.state.tasks[key].holds}"
            if name not in self.state.quiet and not self.is_over:
                return Alarm(name, self.now_s, "probe", key, self.plan.by_key[key].track)
        return None

    def in_pieces(self, task: Task) -> bool:
        """Whether the fat of a task's paste is in pieces."""
        return self.times.in_pieces(task.track)

    def states(self) -> tuple[State, ...]:
        """What can be answered to what is being asked."""
        if self.asking is None:
            return ()
        return states_for(self.asking, in_pieces=self.in_pieces(self.asking))

    def rescues(self) -> tuple[Rescue, ...]:
        """What can go wrong with what is at hand."""
        current = self.current()
        return rescues_for(current.task) if current else ()

    # what is pressed

    def press(self, *acts: Act) -> None:
        """Press something: checked, on its way into the book, and true once it is there.

        Raises
        ------
        AplombError
            When a figure cannot be used; nothing is pressed then.
        """
        if self.is_over and not all(isinstance(a, Amend | Note | Measure | TakeBack) for a in acts):
            raise AplombError("This run has ended; correct it in its run log.")
        for act in acts:
            check_act(act)
        if not any(isinstance(act, ClockMoved) for act in acts):
            self.look_at_clock()  # a clock that was moved just now moves no press
        last_s = max([self.state.last_s, *(p.at_s for p in self.waiting)])
        # What is pressed by one key has one moment; the next has a later one.
        at = max(self.now_s if self._pressed_s is None else self._pressed_s, last_s + APART_S)
        wall = self.clock.wall_text()
        last = (self.waiting or self.presses or [Press(0, 0.0, "", Finish())])[-1].number
        made = [Press(last + i, at, wall, act) for i, act in enumerate(acts, 1)]
        rows = [as_row(press) for press in made]
        self.waiting += made
        runs, number = self.book.runs, self.number
        self.writer.write(lambda: runs.press(number, rows), lambda why: self._answer(made, why))
        if self.waits:
            self.writer.drain()

    @contextmanager
    def pressed_at(self, at_s: float) -> Iterator[None]:
        """What is pressed inside was pressed then [s], and had to wait for the one before it."""
        self._pressed_s = at_s
        try:
            yield
        finally:
            self._pressed_s = None

    def _answer(self, made: list[Press], why: BookError | None) -> None:
        self._post(lambda: self._kept(made, why))

    def _kept(self, made: list[Press], why: BookError | None) -> None:
        if why is not None:
            self._trouble(why)
            return
        self.trouble = ""
        made = [p for p in made if p in self.waiting]  # the others were settled before
        self.waiting = [p for p in self.waiting if p not in made]
        for press in made:
            if self._state is not None:
                self._state = gone_on(self.plan, self._state, press)
            self.presses.append(press)
        self.changed()

    def settle(self, timeout_s: float = 10.0) -> bool:
        """Wait until what was pressed is in the book, and take it as kept; False when it is not."""
        if not self.writer.drain(timeout_s):
            return False
        self._kept(list(self.waiting), None)
        return True

    def go_on(self) -> str:
        """Do what the one key does.

        Returns
        -------
        str
            ``quiet`` when an alarm was heard, ``ask`` when it must be said first how the block is,
            ``begin`` or ``end`` for what was pressed, empty when there is nothing to do.
        """
        rings = self.ringing()
        if rings is not None:
            self.press(Quiet(rings.key))
            return "quiet"
        now = self.current()
        if now is None or self.is_over or self.waiting:
            return ""
        task = now.task
        going = self.state.tasks[task.key].begun_s is not None and now.status != "held"
        held = self.state.tasks[task.key].held is not None
        asked = states_for(task, in_pieces=self.in_pieces(task))
        if going and not held:
            if asked and task.kind in ASKED_AT_END:
                self.asking = task
                return "ask"
            self._end(task)
            return "end"
        if asked and task.kind not in ASKED_AT_END:
            self.asking = task
            return "ask"
        self.press(Begin(task.key))
        return "begin"

    def _end(self, task: Task, *acts: Act) -> None:
        self.chosen = ""
        self.press(*acts, End(task.key))

    def answer(self, key: str) -> Hold | None:
        """Say how the block is that was asked for; gives what it is held for, or None."""
        task = self.asking
        state = state_called(task, key, in_pieces=self.in_pieces(task)) if task else None
        if task is None or state is None:
            return None
        self.asking = None
        if state.then == "go":
            seen = Seen(task.key, key, "go")
            if task.kind in ASKED_AT_END and key == "right":
                self._end(task, seen)
            elif task.kind in ASKED_AT_END:
                self.press(seen)
            else:
                self.press(seen, Begin(task.key))
            return None
        held = self._held(task, state.then, state.words, state.warm_k)
        self.press(Seen(task.key, key, state.then), held)
        return held

    def _held(
        self,
        task: Task,
        then: Then,
        why: str,
        warm_k: float = 0.0,
        least: float = 0.0,
        most: float = 0.0,
    ) -> Hold:
        """Hold a block: for minutes that are worked out for it."""
        minutes, place = self.times.hold(task, then, warm_k, least, most)
        self.chosen = ""
        return Hold(task.key, "bench" if then == "stand" else "cold", minutes, place, why)

    def rescue(self, rescue: Rescue) -> Hold | None:
        """Something went wrong; gives what the block is held for, or None when it goes on."""
        now = self.current()
        if now is None:
            return None
        task = now.task
        note = Note(task.track, f"{rescue.seen}. {rescue.now}", corrective=True)
        if rescue.then == "go":
            self.press(note)
            return None
        held = self._held(task, rescue.then, rescue.seen, 0.0, rescue.least_min, rescue.most_min)
        self.press(note, held)
        return held

    def take_back(self) -> bool:
        """Take the last press back, with what was pressed by the same key; False for nothing."""
        if self.asking is not None:
            self.asking = None
            self.changed()
            return True
        last = last_that_stands(self.presses)
        if last is None or self.waiting:
            return False
        together = [
            each.press
            for each in shown(self.presses)
            if each.press.at_s == last.at_s
            and not each.taken_back
            and not isinstance(each.press.act, KEPT_BY_ITSELF)
        ]
        self.press(*(TakeBack(press.number) for press in reversed(together)))
        return True

    def count(self, what: What, spoons: int) -> None:
        """Count spoons at what is at hand."""
        now = self.current()
        if now is None:
            return
        have, _ = self.state.counted(now.task.key, what)
        if have + spoons >= 0:
            self.press(Count(now.task.key, what, spoons, self.times.spoon_g(what)))

    def tick(self, what: str) -> None:
        """Tick something of what is at hand, or take the tick away."""
        now = self.current()
        if now is not None:
            self.press(Tick(now.task.key, what, what not in self.state.tasks[now.task.key].ticks))

    def sign(self, initials: str) -> None:
        """Say who is at the bench."""
        self.press(Who(initials.strip()[:8]))

    def back_to_cold(self) -> Hold | None:
        """Put what lies open back into the cold; None when nothing does."""
        now = self.current()
        if now is None or now.task.track not in self.state.out_s:
            return None
        held = self._held(now.task, "cold", "out long enough", 2.0)
        self.press(held)
        return held

    def look_at_clock(self) -> bool:
        """See whether the computer's clock was moved; True when it was."""
        added = self.clock.moved()
        if added is None or self.is_over:
            return False
        self.press(ClockMoved(added))
        return True

    def finish(self) -> None:
        """End the run."""
        self.press(Finish())
        moment = self.clock.wall_text()
        runs, number = self.book.runs, self.number
        self.writer.write(lambda: runs.end(number, moment), self._told)
        if self.waits:
            self.writer.drain()

    def _told(self, why: BookError | None) -> None:
        """Say what besides presses the book does not take."""
        self._post(lambda: self._trouble(why) if why is not None else self._kept([], None))

    def _trouble(self, why: BookError) -> None:
        self.trouble = (
            f"{why} What you press is kept in this window and will be tried again; write "
            "it on paper too."
        )
        self.changed()

    def close(self) -> None:
        """Let what is left be written beside, and end then; nobody waits for it."""
        self.writer.close()


def place_of(run: LiveRun, track: str) -> str:
    """Say where a block lies: the word of a cold place, or nothing for the bench.

    Parameters
    ----------
    track : str
        Empty for none.
    """
    state, place = run.state, ""
    for task in run.plan.tasks_of(track):
        here = state.tasks[task.key]
        if here.ended_s is not None:
            place = task.place
            continue
        if here.held is not None:
            return (here.held.place or "fridge") if here.held.where == "cold" else ""
        if here.begun_s is not None:
            return ""
        before = [key for key in task.after if state.tasks[key].ended_s is not None]
        words = [run.plan.by_key[key].place for key in before]
        return next((word for word in words if word), place)
    return place


def as_row(press: Press) -> PressRow:
    """Give a press as the book keeps it."""
    return PressRow(press.number, press.at_s, press.wall, msgspec.json.encode(press.act).decode())


class _Form(msgspec.Struct):
    form: int = 0


def read_plan(book: Book, number: int) -> RunPlan:
    """Read what a run set out to do.

    Raises
    ------
    AplombError
        When it cannot be read.
    """
    try:
        body = book.runs.plan(number)
        new = msgspec.json.decode(body, type=_Form).form
        plan = check_plan(
            msgspec.json.decode(body, type=RunPlan)
            if new
            else brought_up(msgspec.json.decode(body, type=RunPlan8))
        )
        begun_of(plan)
    except (msgspec.DecodeError, AplombError, ValueError, OverflowError):
        raise AplombError("This run cannot be read; it stays in the book as it is.") from None
    return plan


def begun_of(plan: RunPlan) -> datetime:
    """Give when a run was begun; raises ValueError for what is no moment with its zone."""
    begun = datetime.fromisoformat(plan.begun)
    if begun.tzinfo is None or not 1970 <= begun.year <= 2199:
        raise ValueError(plan.begun)
    return begun


def read_presses(book: Book, number: int) -> tuple[list[Press], int]:
    """Read what was pressed in a run; a press that cannot be read is passed over.

    Returns
    -------
    tuple of (list of Press, how many cannot be read)
    """
    rows = book.runs.presses(number)
    found = []
    for row in rows:
        try:
            act = msgspec.json.decode(row.act, type=Act)
            press = Press(int(row.number), float(row.at_s), str(row.wall), check_act(act))
        except (msgspec.DecodeError, AplombError, TypeError, ValueError, OverflowError):
            continue
        if 0 <= press.at_s <= MOST_S:
            found.append(press)
    return found, len(rows) - len(found)
