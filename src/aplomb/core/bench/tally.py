"""What a run comes to: the batch's record, its masses, what each step took, what was learned."""

from collections.abc import Callable, Mapping

from msgspec import Struct

from aplomb.core.batch.made_batch import MadeBatch, Outcome, WeighedLine
from aplomb.core.bench.acts import What
from aplomb.core.bench.plan import RunPlan, Track
from aplomb.core.bench.state import RunState
from aplomb.core.paste.formula import IN_THE_PASTE

PASTE_PARTS = frozenset(part.value for part in IN_THE_PASTE)


class Balance(Struct, frozen=True):
    """Where the mass of a paste came from and went to [g].

    Attributes
    ----------
    weighed_g : float
        Dough and fat block as weighed, all the water with them.
    held_back_g, added_g : float
        Water set aside of it, and what of that went in by the spoon.
    flour_g : float
        Given to a dough that was too wet.
    dusted_g, brushed_g : float
        Dusting flour taken, and brushed off again.
    trim_g, rolled_g, scrap_g, cut_g : float or None
        As measured.
    """

    weighed_g: float
    held_back_g: float
    added_g: float
    flour_g: float
    dusted_g: float
    brushed_g: float
    trim_g: float | None
    rolled_g: float | None
    scrap_g: float | None
    cut_g: float | None

    @property
    def mixed_g(self) -> float:
        """Paste as mixed [g]."""
        return self.weighed_g - self.held_back_g + self.added_g + self.flour_g

    @property
    def net_water_g(self) -> float:
        """What came to the water as written, or with a minus was left of it [g]."""
        return self.added_g - self.held_back_g

    @property
    def stuck_g(self) -> float | None:
        """What stayed on bench, pin and hands [g]; None until the sheets are weighed."""
        if self.rolled_g is None:
            return None
        came = self.mixed_g + self.dusted_g - self.brushed_g
        return came - (self.trim_g or 0.0) - self.rolled_g

    @property
    def cutting_loss_g(self) -> float | None:
        """What is neither piece nor scrap of the sheets [g]; None until both are weighed."""
        if self.rolled_g is None or self.cut_g is None:
            return None
        return self.rolled_g - self.cut_g - (self.scrap_g or 0.0)


def balance_of(
    plan: RunPlan, state: RunState, uid: str, held_back_g: Callable[[str], float]
) -> Balance:
    """Give the masses of a paste.

    Parameters
    ----------
    uid : str
        Of its formula.
    held_back_g : callable
        Water that is set aside at a task, by its key [g]; 0 until that task is begun.
    """
    tracks = {track.key for track in plan.tracks if track.uid == uid}
    tasks = [task for task in plan.tasks if task.track in tracks]

    def counted(what: What) -> float:
        return sum(state.counted(task.key, what)[1] for task in tasks)

    def measured(what: str) -> float | None:
        found = [
            v for (track, name), v in state.measures.items() if track in tracks and name == what
        ]
        return sum(found) if found else None

    keys = {task.key for task in tasks}
    weighed = sum(
        line.got_g
        for (task, *_), line in state.lines.items()
        if task in keys and line.part in PASTE_PARTS
    )
    aside = (
        sum(
            held_back_g(task.key)
            for task in tasks
            if task.kind == "mix" and state.tasks[task.key].begun_s is not None
        )
        if weighed
        else 0.0
    )
    return Balance(
        weighed,
        aside,
        counted("water"),
        counted("flour"),
        counted("dust"),
        counted("brushed"),
        measured("trim_g"),
        measured("rolled_g"),
        measured("scrap_g"),
        measured("cut_g"),
    )


def made_batch_of(
    plan: RunPlan,
    state: RunState,
    uid: str,
    key: str,
    moment: Callable[[float], str],
    held_back_g: Callable[[str], float],
) -> MadeBatch:
    """Give a paste's batch as the book keeps it: losses and costs are learned from that.

    Parameters
    ----------
    uid : str
        Of its formula.
    key : str
        Identity of the record.
    moment : callable
        Writes a moment of the run [s] as ISO 8601.
    held_back_g : callable
        As for `balance_of`.
    """
    found = balance_of(plan, state, uid, held_back_g)
    tracks = {track.key for track in plan.tracks if track.uid == uid}

    def whole(what: str) -> int | None:
        values = [
            v for (track, name), v in state.measures.items() if track in tracks and name == what
        ]
        return round(sum(values)) if values else None

    lines = tuple(
        WeighedLine(
            w.part, w.material, w.target_g, w.got_g, w.tare_g, w.by, "", w.product, w.mix, w.enough
        )
        for (task, *_), w in state.lines.items()
        if task.partition("/")[0] in tracks
    )
    baked = [
        v for (track, name), v in state.measures.items() if track in tracks and name == "baked_g"
    ]
    outcome = Outcome(
        round(found.mixed_g, 1) if found.weighed_g else None,
        None,
        round(found.dusted_g, 1) if found.dusted_g else None,
        round(found.brushed_g, 1) if found.dusted_g else None,
        found.rolled_g,
        found.cut_g,
        sum(baked) if baked else None,
        whole("pieces"),
        whole("broken"),
    )
    notes = [note.words for _, note in state.notes if note.track in tracks or not note.track]
    return MadeBatch(
        key, plan.formulas[uid].name, uid, moment(0.0), 1.0, lines, outcome, "; ".join(notes)[:300]
    )


def took_min(plan: RunPlan, state: RunState) -> dict[str, float]:
    """Give what each step with hands took, held times left out [min]."""
    found = {}
    for task in plan.tasks:
        here = state.tasks[task.key]
        if task.hands and here.begun_s is not None and here.ended_s is not None and not here.holds:
            found[task.key] = (here.ended_s - here.begun_s) / 60
    return found


def step_minutes(plan: RunPlan, state: RunState) -> dict[tuple[str, str], float]:
    """Give what each step of the timetable took: those of its blocks together [min].

    Only those of which every block is done.
    """
    took = took_min(plan, state)
    tracks: Mapping[str, Track] = {track.key: track for track in plan.tracks}
    whole: dict[tuple[str, str], list[float | None]] = {}
    for task in plan.tasks:
        if task.hands:
            key = (tracks[task.track].uid, task.step_key)
            whole.setdefault(key, []).append(took.get(task.key))
    return {
        key: sum(value for value in values if value is not None)
        for key, values in whole.items()
        if all(value is not None for value in values)
    }


def turns_done(plan: RunPlan, state: RunState, track: str) -> tuple[int, int]:
    """Give how many turns a block has, and how many it will have, as the house counts [-].

    Returns
    -------
    tuple of (done, planned)
    """
    counted = [
        task
        for task in plan.tasks_of(track)
        if task.kind == "turn" or (plan.counts_enclosing and task.kind == "enclose")
    ]
    done = sum(state.tasks[task.key].ended_s is not None for task in counted)
    start = 0
    if counted and plan.track(track).block:
        first = next((t for t in plan.tasks_of(track) if t.kind in ("turn", "enclose")), None)
        steps = plan.formulas[plan.track(track).uid].plan.steps
        if first is not None and first.kind == "turn" and first.step > 0:
            start = sum(step.is_turn for step in steps[: first.step])
            start += plan.counts_enclosing
    return start + done, start + len(counted)
