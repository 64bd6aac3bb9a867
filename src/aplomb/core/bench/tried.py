"""What a run says of how a trial was made: the bench writes it down by itself."""

from collections.abc import Sequence

from aplomb.core.base.figures import num
from aplomb.core.bench.plan import RunPlan, Task
from aplomb.core.bench.readings import OF_THE_OVEN
from aplomb.core.bench.state import RunState
from aplomb.core.bench.tally import Balance, turns_done

BEFORE_S = 600.0
"""A temperature of the oven read so long before the load went in still counts [s]."""


def made_at_bench(
    plan: RunPlan,
    state: RunState,
    uid: str,
    balance: Balance,
    written_water_g: float,
    oven: Sequence[tuple[float, float]] = (),
    fan_k: float = 0.0,
) -> dict[str, float | int | str]:
    """Give what a run knows of how a paste was made.

    Only what was written down: `block_c` the last temperature before the last sheeting,
    `sheet_mm` reached, `out_min` the longest any block lay open, `chill_min` from the last
    rest's begin to the oven, `bake_min` of the first load and
    `bake_c` its mean, as without a fan, `dust_g`, `turns`, `baker`.
    `water_share` is what went in over what was written [-].

    Parameters
    ----------
    uid : str
        Of its formula.
    balance : Balance
        Of its masses.
    written_water_g : float
        Water as the formula writes it [g]; 0 when it is not known.
    oven : sequence of (float, float)
        What the oven said of its air: when, and what [s, °C].
    fan_k : float
        Its air bakes as that of an oven without a fan does which is so much warmer [K].
    """
    tracks = {track.key for track in plan.tracks if track.uid == uid}
    tasks = [task for task in plan.tasks if task.track in tracks]
    found: dict[str, float | int | str] = {}
    sheets = [task for task in tasks if task.kind == "sheet"]
    begun = [b for task in sheets if (b := state.tasks[task.key].begun_s) is not None]
    temps = [
        (press.at_s, temp.temp_c)
        for press, temp in state.temps
        if temp.track in tracks and temp.where != OF_THE_OVEN
    ]
    before = [t for t in temps if not begun or t[0] <= max(begun) + 60]
    if before:
        found["block_c"] = float(num(max(before)[1], ".4g").replace(",", "."))
    reached = [
        r.thickness_mm
        for task in sheets
        if (r := state.tasks[task.key].reached) is not None and r.thickness_mm
    ]
    if reached:
        found["sheet_mm"] = sum(reached) / len(reached)
    out = [state.out_before_s.get(track, 0.0) for track in tracks]
    if any(out):
        found["out_min"] = round(max(out) / 60, 1)
    by_hand = [
        (press.at_s, temp.temp_c)
        for press, temp in state.temps
        if temp.track in tracks and temp.where == OF_THE_OVEN
    ]
    _oven(state, tasks, found, (oven, by_hand), fan_k)
    if balance.dusted_g:
        found["dust_g"] = balance.dusted_g - balance.brushed_g
    done = max((turns_done(plan, state, t)[0] for t in tracks if plan.track(t).block), default=0)
    if done:
        found["turns"] = done - (1 if plan.counts_enclosing else 0)
    if written_water_g > 0 and balance.weighed_g:
        found["water_share"] = 1 + balance.net_water_g / written_water_g
    if state.who:
        found["baker"] = state.who
    return found


def _oven(
    state: RunState,
    tasks: list[Task],
    found: dict[str, float | int | str],
    read: tuple[Sequence[tuple[float, float]], ...],
    fan_k: float,
) -> None:
    """Take minutes, what the oven said while the first load was in it, and the chill before it.

    What the oven says by itself counts before what was written by hand.
    """
    bakes = [task for task in tasks if task.kind == "bake"]
    first = next((t for t in bakes if state.tasks[t.key].ended_s is not None), None)
    if first is None:
        return
    here = state.tasks[first.key]
    if here.begun_s is None or here.ended_s is None:
        return
    found["bake_min"] = round((here.ended_s - here.begun_s) / 60, 1)
    for said, early_s in zip(read, (0.0, BEFORE_S), strict=True):
        within = [c for s, c in said if here.begun_s - early_s <= s <= here.ended_s]
        if within:
            found["bake_c"] = round(sum(within) / len(within) + fan_k, 1)
            break
    shaped = [
        e
        for task in tasks
        if task.kind in ("cut", "fill")
        and task.to_cold
        and (e := state.tasks[task.key].ended_s) is not None
        and e <= here.begun_s
    ]
    if shaped:
        found["chill_min"] = round((here.begun_s - max(shaped)) / 60, 1)
