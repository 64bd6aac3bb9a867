"""Where a run stands: what was pressed, carried out from the first press to the last."""

from collections.abc import Iterable, Mapping, Sequence
from copy import copy
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.bench.acts import (
    Act,
    Amend,
    Attach,
    Begin,
    ClockMoved,
    Count,
    End,
    Finish,
    Hold,
    Measure,
    Measured,
    Note,
    Press,
    Quiet,
    Reach,
    Seen,
    TakeBack,
    Temp,
    Tick,
    Weigh,
    What,
    Who,
)
from aplomb.core.bench.plan import RunPlan, Task

Status = Literal["waiting", "resting", "due", "held", "doing", "done"]
KEPT_BY_ITSELF = (Quiet, ClockMoved, Attach, Who, TakeBack, Amend)
"""What the key that takes back passes over."""


class TaskState(Struct):
    """What was done of a task; moments in seconds since the run began [s].

    Attributes
    ----------
    by_itself : bool
        Nobody pressed that it began: what was before it ended.
    """

    begun_s: float | None = None
    by_itself: bool = False
    ended_s: float | None = None
    held: Hold | None = None
    held_s: float = 0.0
    holds: int = 0
    seen: tuple[Seen, ...] = ()
    reached: Reach | None = None
    ticks: frozenset[str] = frozenset()

    @property
    def held_until_s(self) -> float | None:
        """When what it was held for is over [s]."""
        return None if self.held is None else self.held_s + 60 * self.held.minutes


class Shown(Struct, frozen=True):
    """A press as the record shows it.

    Attributes
    ----------
    act : Plain or TakeBack
        As it stands now.
    amended : tuple of Press
        What it was put right by.
    """

    press: Press
    act: Act
    taken_back: bool
    amended: tuple[Press, ...]


class RunState(Struct):
    """Where a run stands.

    Attributes
    ----------
    lines : dict of Weigh, by task and line
        The last weight of each line.
    quiet : frozenset of str
        Alarms that were heard.
    shift_s : float
        What the computer's clock was moved by in all [s].
    out_s : dict of float, by track
        Since when its block lies open on the bench [s].
    out_before_s : dict of float, by track
        How long it did before that [s].
    last_s : float
        Of the last press [s].
    at_hand : str
        The task that was begun last and is not done.
    """

    tasks: dict[str, TaskState]
    lines: dict[tuple[str, str, str, str, int], Weigh]
    counts: dict[tuple[str, What], tuple[int, float]]
    measures: dict[tuple[str, Measured], float]
    notes: tuple[tuple[Press, Note], ...] = ()
    temps: tuple[tuple[Press, Temp], ...] = ()
    who: str = ""
    probes: dict[str, str] = {}
    quiet: frozenset[str] = frozenset()
    shift_s: float = 0.0
    finished_s: float | None = None
    out_s: dict[str, float] = {}
    out_before_s: dict[str, float] = {}
    last_s: float = 0.0
    at_hand: str = ""

    def counted(self, task: str, what: What) -> tuple[int, float]:
        """Give spoons and grams counted at a task [-, g]."""
        return self.counts.get((task, what), (0, 0.0))


def shown(presses: Sequence[Press]) -> tuple[Shown, ...]:
    """Give every press as it stands now: taken back, put right, or as it was.

    Returns
    -------
    tuple of Shown
        In the order of the presses; what puts another right is not shown by itself.
    """
    taken = set()
    amended: dict[int, list[Press]] = {}
    for press in presses:
        act = press.act
        if not isinstance(act, TakeBack | Amend) or act.of >= press.number:
            continue  # what is still to come cannot be meant
        if isinstance(act, TakeBack):
            taken.add(act.of)
        else:
            amended.setdefault(act.of, []).append(press)
    found = []
    for press in presses:
        if isinstance(press.act, Amend):
            continue
        later = tuple(p for p in amended.get(press.number, ()) if p.number not in taken)
        last = later[-1].act if later else None
        act = last.now if isinstance(last, Amend) else press.act
        found.append(Shown(press, act, press.number in taken, later))
    return tuple(found)


def last_that_stands(presses: Sequence[Press]) -> Press | None:
    """Give the press that the key which takes back would take back."""
    for each in reversed(shown(presses)):
        if not each.taken_back and not isinstance(each.press.act, KEPT_BY_ITSELF):
            return each.press
    return None


def state_of(plan: RunPlan, presses: Sequence[Press]) -> RunState:
    """Carry out what was pressed.

    The same for the same presses, whenever it is asked. A press about what is not in the plan
    is passed over.

    Parameters
    ----------
    presses : sequence of Press
        In order.
    """
    by_key = plan.by_key
    state = RunState(
        {key: TaskState() for key in by_key}, {}, {}, {}, probes={}, out_s={}, out_before_s={}
    )
    for each in shown(presses):
        state.last_s = max(state.last_s, each.press.at_s)
        if isinstance(each.act, ClockMoved):  # the clock stays moved, whatever is taken back
            state.shift_s += each.act.seconds
        elif not each.taken_back:
            task = by_key.get(getattr(each.act, "task", ""))
            _carry_out(plan, state, each.act, each.press, task)
    return state


def gone_on(plan: RunPlan, state: RunState, press: Press) -> RunState | None:
    """Give where a run stands after one press more; the state it came from stays as it was.

    Parameters
    ----------
    press : Press
        The next one.

    Returns
    -------
    RunState or None
        As `state_of` of all presses; None for one that changes what was pressed before it.
    """
    act = press.act
    if isinstance(act, TakeBack | Amend):
        return None
    key = getattr(act, "task", "")
    tasks = dict(state.tasks)
    if key in tasks:
        tasks[key] = copy(tasks[key])
    made = replace(
        state,
        tasks=tasks,
        lines=dict(state.lines),
        counts=dict(state.counts),
        measures=dict(state.measures),
        out_s=dict(state.out_s),
        out_before_s=dict(state.out_before_s),
        last_s=max(state.last_s, press.at_s),
    )
    if isinstance(act, ClockMoved):
        made.shift_s += act.seconds
    else:
        _carry_out(plan, made, act, press, plan.by_key.get(key))
    return made


def _carry_out(plan: RunPlan, state: RunState, act: Act, press: Press, task: Task | None) -> None:
    match act:
        case Finish():
            state.finished_s = press.at_s
        case Who(initials):
            state.who = initials
        case Quiet(alarm):
            state.quiet |= {alarm}
        case Attach(probe, track):
            state.probes = {**state.probes, probe: track}
        case Note():
            state.notes = (*state.notes, (press, act))
        case Temp():
            state.temps = (*state.temps, (press, act))
        case Measure(track, what, value):
            state.measures[track, what] = value
        case _ if task is not None:
            _of_task(state, act, press.at_s, task)
            if isinstance(act, End) and task.kind == "load":
                _bakes(plan, state, task, press.at_s)


def _bakes(plan: RunPlan, state: RunState, load: Task, at_s: float) -> None:
    """Begin the bake of a load whose trays are in: the oven waits for no press."""
    for task in plan.tasks:
        if task.kind == "bake" and load.key in task.after:
            here = state.tasks[task.key]
            if here.begun_s is None:
                state.tasks[task.key] = replace(here, begun_s=at_s, by_itself=True)


def _of_task(state: RunState, act: Act, at_s: float, task: Task) -> None:
    here = state.tasks[task.key]
    match act:
        case Begin():
            if here.begun_s is None or here.by_itself:
                here.begun_s, here.by_itself = at_s, False
            here.held = None
            state.at_hand = task.key if task.hands else state.at_hand
            _comes_out(state, task, at_s)
            _is_cut(state, task, at_s)
        case End():
            here.begun_s = at_s if here.begun_s is None else here.begun_s
            here.ended_s, here.held = at_s, None
            if state.at_hand == task.key:
                state.at_hand = ""
            _is_cut(state, task, at_s)
            if task.to_cold:
                _goes_in(state, task.track, at_s)
        case Hold(_, where):
            here.held, here.held_s, here.holds = act, at_s, here.holds + 1
            if state.at_hand == task.key:
                state.at_hand = ""
            if where == "cold":
                _goes_in(state, task.track, at_s)
        case Seen():
            here.seen = (*here.seen, act)
        case Reach():
            here.reached = act
        case Tick(_, what, on):
            here.ticks = here.ticks | {what} if on else here.ticks - {what}
        case Count(_, what, spoons, each_g):
            n, grams = state.counted(task.key, what)
            state.counts[task.key, what] = (max(0, n + spoons), max(0.0, grams + spoons * each_g))
        case Weigh():
            state.lines[task.key, act.part, act.material, act.product, act.mix] = act


def _comes_out(state: RunState, task: Task, at_s: float) -> None:
    """A block lies open from the first thing that is done to it until it goes to the cold."""
    if task.out_min is not None and task.track not in state.out_s:
        state.out_s[task.track] = at_s


def _is_cut(state: RunState, task: Task, at_s: float) -> None:
    """A sheet that is being cut lies open no longer: its pieces have a limit of their own."""
    if task.kind == "cut":
        for key in task.after:
            _goes_in(state, key.partition("/")[0], at_s)


def _goes_in(state: RunState, track: str, at_s: float) -> None:
    since = state.out_s.pop(track, None)
    if since is not None:
        before = state.out_before_s.get(track, 0.0)
        state.out_before_s[track] = before + at_s - since


class Coming(Struct, frozen=True):
    """A task that is not done, as it stands at a moment.

    Attributes
    ----------
    ready_s : float or None
        When its rests are over [s]; None while something before it is not done.
    most_s : float or None
        When a rest before it has lasted as long as it may [s].
    """

    task: Task
    status: Status
    ready_s: float | None
    most_s: float | None


def coming(plan: RunPlan, state: RunState, now_s: float) -> tuple[Coming, ...]:
    """Give every task that is not done, as it stands at a moment.

    Returns
    -------
    tuple of Coming
        In the order of the plan.
    """
    by_key = plan.by_key
    return tuple(
        _coming(task, by_key, state, now_s)
        for task in plan.tasks
        if state.tasks[task.key].ended_s is None
    )


def _coming(task: Task, by_key: dict[str, Task] | object, state: RunState, now_s: float) -> Coming:
    here = state.tasks[task.key]
    ready: float | None = 0.0
    most: float | None = None
    for key in task.after:
        ended = state.tasks[key].ended_s
        if ended is None:
            ready = None
            break
        before = by_key[key]  # type: ignore[index]
        ready = max(ready or 0.0, ended + 60 * before.rest_min)
        if before.rest_max is not None and (before.place or before.rest_max > 0):
            latest = ended + 60 * max(before.rest_max, before.rest_min)
            most = latest if most is None else min(most, latest)
    until = here.held_until_s
    if until is not None:
        return Coming(task, "held" if now_s < until else "due", until, None)
    if here.begun_s is not None:
        over = here.begun_s + 60 * task.minutes
        if not task.hands and now_s >= over:
            return Coming(task, "due", over, None)
        return Coming(task, "doing", here.begun_s, None)
    if ready is None:
        return Coming(task, "waiting", None, None)
    return Coming(task, "due" if now_s >= ready else "resting", ready, most)


def in_order(
    found: Iterable[Coming], at_hand: str = "", open_s: Mapping[str, float] | None = None
) -> tuple[Coming, ...]:
    """Put what is coming in the order in which it wants hands.

    What is under way, what is due (the most pressing first), then what comes when.

    Parameters
    ----------
    at_hand : str
        The task that is under way; it comes first.
    open_s : dict of float, by track, or None
        Since when blocks lie open [s]: what is due for them comes first, so that they get back
        into the cold.
    """
    ranks = {"doing": 0, "due": 1, "held": 2, "resting": 2, "waiting": 3}
    kept = [
        each
        for each in found
        if each.task.hands
        or each.status == "due"
        or each.status == "waiting"
        or each.ready_s is not None
    ]

    lying = open_s or {}

    def rank(each: Coming) -> tuple[bool, int, float, float, float]:
        status = ranks[each.status]
        if each.status == "doing" and not each.task.hands:
            status = 2
        late = each.most_s if each.most_s is not None else 1e12
        planned = each.task.planned_min
        when = each.ready_s if status == 2 and each.ready_s is not None else late
        since = lying.get(each.task.track, 1e12) if status == 1 else 1e12
        at = planned if planned is not None else 1e9
        return each.task.key != at_hand, status, since, when, at

    return tuple(sorted(kept, key=rank))


class Alarm(Struct, frozen=True):
    """Something that wants to be heard.

    Attributes
    ----------
    key : str
        Of its own; once heard it stays quiet.
    at_s : float
        Since when [s].
    kind : {'ready', 'most', 'over', 'out', 'held', 'probe', 'step'}
        A rest is over; it has lasted as long as it may; what goes by itself is done; a block has
        been open as long as it may be; what it was held for is over; its probe says that it is
        ready before the clock does; something is to be done while it goes on by itself.
    ring : int
        Which of the task's rings [-]; -1 for none.
    """

    key: str
    at_s: float
    kind: Literal["ready", "most", "over", "out", "held", "probe", "step"]
    task: str
    track: str
    ring: int = -1


def alarms(plan: RunPlan, state: RunState, now_s: float) -> tuple[Alarm, ...]:
    """Give what wants to be heard at a moment, the oldest first.

    None once the run is finished.
    """
    if state.finished_s is not None:
        return ()
    found = []
    last_out: dict[str, Task] = {}
    by_key = plan.by_key
    for task in plan.tasks:
        here = state.tasks[task.key]
        if task.track in state.out_s and task.out_min is not None and here.begun_s is not None:
            last_out[task.track] = task
        if here.ended_s is not None:
            continue
        if here.begun_s is not None:
            for i, ring in enumerate(task.rings):
                at_s = here.begun_s + 60 * ring.after_min
                if now_s >= at_s:
                    found.append(
                        Alarm(f"step {task.key} {i}", at_s, "step", task.key, task.track, i)
                    )
        each = _coming(task, by_key, state, now_s)
        if each.status == "due" and each.ready_s is not None:
            until = here.held_until_s
            rested = any(by_key[key].rest_min > 0 for key in task.after)
            if until is not None:
                found.append(
                    Alarm(f"held {task.key} {here.holds}", until, "held", task.key, task.track)
                )
            elif here.begun_s is not None:
                found.append(Alarm(f"over {task.key}", each.ready_s, "over", task.key, task.track))
            elif rested:
                found.append(
                    Alarm(f"ready {task.key}", each.ready_s, "ready", task.key, task.track)
                )
        if each.most_s is not None and now_s >= each.most_s and here.begun_s is None:
            found.append(Alarm(f"most {task.key}", each.most_s, "most", task.key, task.track))
    for track, since in state.out_s.items():
        open_task = last_out.get(track)
        if open_task is not None and open_task.out_min is not None:
            limit = since + 60 * open_task.out_min
            if now_s >= limit:
                found.append(Alarm(f"out {track} {since:.0f}", limit, "out", open_task.key, track))
    return tuple(sorted((a for a in found if a.key not in state.quiet), key=lambda a: a.at_s))


def next_ring_s(plan: RunPlan, state: RunState, now_s: float) -> float | None:
    """Give when the next alarm would ring if nothing is pressed [s]; None for never."""
    times = [a.at_s for a in alarms(plan, state, 1e12) if a.at_s > now_s]
    return min(times, default=None)
