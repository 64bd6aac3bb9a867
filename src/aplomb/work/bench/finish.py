"""What the house learns of a run: the batch's record, how long steps take, how cold a place is."""

from contextlib import suppress

from msgspec import Struct
from msgspec.structs import replace

from aplomb.book.book import new_uid
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import g_text, num
from aplomb.core.batch.keeping import KeptItem
from aplomb.core.batch.stock import Stock, without_blocks, without_pieces
from aplomb.core.bench.tally import balance_of, made_batch_of, step_minutes
from aplomb.core.cold.course import Body
from aplomb.core.cold.fit import Fitted
from aplomb.core.day.sheet import step_key
from aplomb.core.kitchen.step_list import OF_STOCK
from aplomb.core.paste.formula import Formula
from aplomb.core.study.study import Study, make_study
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.watch import Probes
from aplomb.work.bench.words import held_back_of
from aplomb.work.open_book.workbench import Workbench

LEAST_LOG_MIN, LEAST_FALL_K = 20.0, 2.5
"""A place is learned from a rest so long at the least, in which the block moved so far [min, K]."""
FASTEST_S = 30.0
"""A step done in less than that was only pressed through [s]."""


def studies_of(work: Workbench, run: LiveRun) -> dict[str, Study]:
    """Give what follows from the formulas as the run keeps them."""
    reference = work.store.reference
    return {uid: make_study(f, reference.of(uid)) for uid, f in run.plan.formulas.items()}


def keep_made_batches(work: Workbench, run: LiveRun) -> list[str]:
    """Put what was made into the book as batches: losses and costs are learned from them.

    What was kept, a line each.
    """
    studies, pantry = studies_of(work, run), work.store.reference.pantry
    by_key = run.plan.by_key
    told = []
    for uid, study in studies.items():

        def held(key: str, study: Study = study) -> float:
            return held_back_of(run, by_key[key], study, pantry)

        made_batch = made_batch_of(
            run.plan,
            run.state,
            uid,
            f"run{run.number}-{uid[:12]}",
            lambda at_s: run.clock.moment(at_s).isoformat(timespec="seconds"),
            held,
        )
        if not made_batch.lines and made_batch.outcome.pieces is None and not made_batch.note:
            continue
        try:
            work.store.put_made_batch(f"{made_batch.formula} from the bench", made_batch)
        except AplombError as error:
            told.append(f"{made_batch.formula}: {error}")
        else:
            told.append(f"{made_batch.formula}: batch saved")
    return told


def keep_minutes(work: Workbench, run: LiveRun) -> list[str]:
    """Let the timetable reckon with what each step really took.

    What was kept, a line each; nothing from a rehearsal.
    """
    if run.plan.quick != 1.0:
        return []
    sheet = work.store.kitchen.timetable
    found = {
        step_key(uid, step): max(1, round(minutes))
        for (uid, step), minutes in step_minutes(run.plan, run.state).items()
        if 60 * minutes >= FASTEST_S and uid in work.shelf.entries
    }
    if not found:
        return []
    work.store.put_timetable(
        "minutes from the bench", replace(sheet, minutes={**sheet.minutes, **found})
    )
    return [f"{len(found)} steps: the timetable now uses the minutes they really took"]


def keep_stock(work: Workbench, run: LiveRun) -> list[str]:
    """Take what the run used of what was put by off the stock.

    Blocks that were taken out to thaw, the oldest first, and pieces that went onto trays: as many
    as were got, else as many as the day wants. A rehearsal uses nothing.

    What was taken off, a line each.
    """
    if run.plan.quick != 1.0:
        return []
    kitchen, told = work.store.kitchen, []
    stock = kitchen.stock
    for uid, formula in run.plan.formulas.items():
        done = [
            (track, task.kind)
            for track in run.plan.tracks
            if track.uid == uid
            for task in run.plan.tasks_of(track.key)
            if run.state.tasks[task.key].ended_s is not None
        ]
        thawed = sum(1 if t.block else t.blocks for t, kind in done if kind in OF_STOCK)
        stock, blocks = without_blocks(stock, uid, thawed)
        if blocks:
            words = "1 block" if blocks == 1 else f"{blocks} blocks"
            told.append(f"{formula.name}: {words} used from stock")
        trays = [track for track, kind in done if kind == "trays"]
        if trays:
            got = run.state.measures.get((trays[0].key, "pieces"), 0.0)
            wanted = sum(w.pieces for w in kitchen.demand.wants if w.uid == uid)
            key = kitchen.timetable.from_kept.get(uid, "")
            stock, pieces = without_pieces(stock, key, round(got) or wanted)
            if pieces:
                told.append(f"{formula.name}: {pieces} pieces used from stock")
        stock, more = _wrapped(stock, run, uid)
        told += more
    if told:
        work.store.put_stock("stock after the bench", stock)
    return told


def _wrapped(stock: Stock, run: LiveRun, uid: str) -> tuple[Stock, list[str]]:
    """Put blocks that were wrapped into stock, each with its turns and what it weighs."""
    formula = run.plan.formulas[uid]
    tracks = [track for track in run.plan.tracks if track.uid == uid]
    done = [
        task
        for track in tracks
        for task in run.plan.tasks_of(track.key)
        if task.kind == "wrap" and run.state.tasks[task.key].ended_s is not None
    ]
    blocks = [track for track in tracks if track.block]
    if not done or not blocks:
        return stock, []
    turns = len(formula.plan.turns)
    day = run.plan.begun[:10]
    mass = round(sum(track.mass_g for track in blocks) / len(blocks), 1)
    kept = KeptItem(new_uid()[:12], uid, "whole", "fridge", len(blocks), mass, turns, turns, day)
    words = "1 block is" if len(blocks) == 1 else f"{len(blocks)} blocks are"
    told = [f"{formula.name}: {words} in stock, in the fridge"]
    return replace(stock, kept=(*stock.kept, kept)), told


class RestLog(Struct, frozen=True):
    """What a probe said in a rest, ready to be fitted beside the window.

    Attributes
    ----------
    minutes, temps_c : tuple of float
        Since the first reading [min], and what was read [°C].
    """

    place: str
    body: Body
    start_c: float
    air_c: float
    depth_mm: float
    minutes: tuple[float, ...]
    temps_c: tuple[float, ...]


def rest_logs(work: Workbench, run: LiveRun, probes: Probes) -> tuple[RestLog, ...]:
    """Take what the probes of a run said in its rests; nothing of a rehearsal.

    Returns
    -------
    tuple of RestLog
        Of rests that are long enough, and in which the block moved enough.
    """
    if run.plan.quick != 1.0:
        return ()
    known = {track.key for track in run.plan.tracks}
    found = [
        _rest_log(work, run, probes, probe, task.key)
        for probe, track in run.state.probes.items()
        if track in known
        for task in run.plan.tasks_of(track)
    ]
    return tuple(each for each in found if each is not None)


def _rest_log(
    work: Workbench, run: LiveRun, probes: Probes, probe: str, key: str
) -> RestLog | None:
    task, state, house = run.plan.by_key[key], run.state, work.store.reference.house
    begun = state.tasks[key].begun_s
    rests = [(run.plan.by_key[k], state.tasks[k].ended_s) for k in task.after]
    cold = [(t, ended) for t, ended in rests if t.to_cold and ended is not None]
    if begun is None or not cold or state.tasks[key].holds:
        return None
    before, since = cold[-1]
    place = house.place(before.place)
    material = run.times.bodies[run.plan.track(task.track).uid].paste
    times, temps = probes.kept(probe)
    inside = [(t, c) for t, c in zip(times, temps, strict=True) if since <= t <= begun]
    if place is None or material is None or len(inside) < 10:
        return None
    first_s, first_c = inside[0]
    last_s, last_c = inside[-1]
    if last_s - first_s < 60 * LEAST_LOG_MIN or abs(last_c - first_c) < LEAST_FALL_K:
        return None
    every = inside[:: max(1, len(inside) // 120)]
    thick = run.times.thickness_mm(task)
    return RestLog(
        place.name,
        Body(material, thick),
        first_c,
        house.temp_in(place),
        thick / 2,
        tuple((t - first_s) / 60 for t, _ in every),
        tuple(c for _, c in every),
    )


def fitted(logs: tuple[RestLog, ...]) -> tuple[tuple[RestLog, Fitted], ...]:
    """Fit what places do; it takes a while, and may be done beside the window.

    Returns
    -------
    tuple of (RestLog, Fitted)
        Those that say something.
    """
    import numpy as np

    from aplomb.core.cold.fit import fit_coefficient

    found = []
    for log in logs:
        with suppress(AplombError):
            found.append(
                (
                    log,
                    fit_coefficient(
                        log.body,
                        log.start_c,
                        log.air_c,
                        log.depth_mm,
                        np.array(log.minutes),
                        np.array(log.temps_c),
                    ),
                )
            )
    return tuple(found)


def keep_places(work: Workbench, found: tuple[tuple[RestLog, Fitted], ...]) -> list[str]:
    """Let the house go by what was fitted.

    What was learned, a line each.
    """
    return [_put(work, log.place, each, log.minutes[-1]) for log, each in found]


def _put(work: Workbench, name: str, fitted: Fitted, minutes: float) -> str:
    house = work.store.reference.house
    places = tuple(
        replace(
            each,
            own_w_m2_k=fitted.w_m2_k,
            own_low_w_m2_k=fitted.low_w_m2_k,
            own_high_w_m2_k=fitted.high_w_m2_k,
            own_from=f"a probe at the bench, {minutes:.0f} min",
        )
        if each.name == name
        else each
        for each in house.places
    )
    work.store.set_house(f"{name}: your own coefficient", replace(house, places=places))
    return f"{name}: {num(fitted.w_m2_k, '.1f')} W/(m²·K), from a probe"


def water_used(work: Workbench, run: LiveRun, uid: str) -> tuple[float, float]:
    """Give the water that really went into a paste, and the water as written [g].

    Returns
    -------
    tuple of (used, written)
        Both 0 before anything was mixed.
    """
    pantry = work.store.reference.pantry
    study = studies_of(work, run)[uid]
    by_key = run.plan.by_key
    found = balance_of(
        run.plan, run.state, uid, lambda key: held_back_of(run, by_key[key], study, pantry)
    )
    tracks = {track.key for track in run.plan.tracks if track.uid == uid}
    written = sum(
        line.got_g
        for (task, *_), line in run.state.lines.items()
        if task.partition("/")[0] in tracks
        and line.part == "dough"
        and pantry[line.material].is_water
    )
    return (written + found.net_water_g, written) if written else (0.0, 0.0)


def apply_water(work: Workbench, run: LiveRun, uid: str) -> str:
    """Take the water that was used into the formula, as a revision of its own.

    What was done.

    Raises
    ------
    AplombError
        When nothing was mixed, or the formula is gone.
    """
    used, written = water_used(work, run, uid)
    if written <= 0 or used <= 0:
        raise AplombError("No water was weighed and counted for this paste yet.")
    if uid not in work.shelf.entries:
        raise AplombError("The formula was deleted; the water used stays in the run log.")
    pantry, ratio = work.store.reference.pantry, used / written
    work.shelf.select(uid)

    def changed(formula: Formula) -> Formula:
        dough = tuple(
            replace(line, grams=round(line.grams * ratio, 1))
            if pantry[line.material].is_water
            else line
            for line in formula.dough
        )
        return replace(formula, dough=dough)

    work.shelf.edit(f"water as used, {num(100 * (ratio - 1), '+.1f')} %", changed)
    number = work.shelf.keep_revision("water as used at the bench")
    return (
        f"Water {g_text(used - written, 0)} compared with the formula; saved as revision {number}."
    )
