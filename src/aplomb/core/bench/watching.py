"""Whether a probe can be believed: silent, jumping, stuck, or telling of another place.

The bounds are recalled, from how a probe in a block of paste behaves.
"""

from collections.abc import Callable, Sequence
from typing import Literal

from msgspec import Struct

SILENT_S = 15.0
"""Without a reading for so long it is silent [s]."""
JUMP_K, JUMP_S = 3.0, 10.0
"""A middle of a block does not move so far in so short a time [K, s]."""
STUCK_S, STUCK_K = 900.0, 0.02
"""A reading that moves less than that in so long is stuck, when the block must move [s, K]."""
OFF_K, OFF_S = 4.0, 300.0
"""So far from what is predicted for so long: it stands elsewhere, or the place is warm [K, s]."""

Doubt = Literal["", "silent", "jump", "stuck", "warm", "cold"]
DOUBT_WORDS: dict[str, str] = {
    "silent": "No readings from the probe. Check it; until then go by the thumb test and the "
    "clock.",
    "jump": "The probe reading jumped: was it pulled out? Go by the thumb test and the clock.",
    "stuck": "The probe reading does not change: is it in the block? Go by the thumb test and "
    "the clock.",
    "warm": "Warmer than it should be by now: is a door or a lid open?",
    "cold": "Colder than it should be by now: is the probe in the air?",
}


class Reading(Struct, frozen=True):
    """What a probe said [s, °C]."""

    at_s: float
    temp_c: float


def doubt(
    readings: Sequence[Reading],
    now_s: float,
    predicted_c: Callable[[float], float] | None = None,
    silent_s: float = SILENT_S,
) -> Doubt:
    """Say why a probe is not believed; empty when it is.

    The key of `DOUBT_WORDS`.

    Parameters
    ----------
    readings : sequence of Reading
        In order of time; the last quarter of an hour is enough.
    predicted_c : callable or None
        What the block's middle should be at a moment [s] -> [°C].
    silent_s : float
        Without a reading for so long it is silent [s].
    """
    if not readings:
        return ""
    last = readings[-1]
    if now_s - last.at_s > silent_s:
        return "silent"
    near = [r for r in readings if last.at_s - r.at_s <= JUMP_S]
    temps = [r.temp_c for r in near]
    if max(temps) - min(temps) > JUMP_K:
        return "jump"
    if predicted_c is None:
        return ""
    long = [r for r in readings if last.at_s - r.at_s <= STUCK_S]
    span = long[-1].at_s - long[0].at_s
    moved = max(r.temp_c for r in long) - min(r.temp_c for r in long)
    must = abs(predicted_c(long[-1].at_s) - predicted_c(long[0].at_s))
    if span >= 0.9 * STUCK_S and moved < STUCK_K and must > 1.0:
        return "stuck"
    off = [r for r in readings if last.at_s - r.at_s <= OFF_S]
    if off[-1].at_s - off[0].at_s >= 0.9 * OFF_S:
        gaps = [r.temp_c - predicted_c(r.at_s) for r in off]
        if min(gaps) > OFF_K:
            return "warm"
        if max(gaps) < -OFF_K:
            return "cold"
    return ""


def is_ready(
    readings: Sequence[Reading], low_c: float, high_c: float, lasting_s: float = 30.0
) -> bool:
    """Tell whether a block can be rolled by its probe: within the range for a while.

    Parameters
    ----------
    low_c, high_c : float
        Where it is rolled [°C].
    """
    if not readings:
        return False
    last = readings[-1].at_s
    near = [r for r in readings if last - r.at_s <= lasting_s]
    return near[0].at_s <= last - 0.6 * lasting_s and all(low_c <= r.temp_c <= high_c for r in near)
