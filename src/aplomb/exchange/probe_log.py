"""A probe's log: times and temperatures, typed or from a file, however they were written."""

import re
from datetime import datetime

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import DecimalSign

MOST_LINES = 200_000
GAP_TIMES = 6.0
"""A gap so many times the usual distance of readings is told [-]."""
JUMP_K_MIN = 3.0
"""A change faster than this is told as a jump [K/min]."""


class ProbeLog(Struct, frozen=True):
    """What was read.

    Attributes
    ----------
    minutes : array of shape (readings,)
        From the first reading, rising [min].
    doubts : tuple of str
        Lines left out, gaps and jumps.
    """

    minutes: NDArray[np.float64]
    temps_c: NDArray[np.float64]
    doubts: tuple[str, ...]


LONGEST_LINE = 500
"""A longer line is no reading [-]."""
_NUMBER = r"[-−+]?\d+(?:[.,]\d+)?"
_TEMP = re.compile(rf"({_NUMBER})\s*°?\s*([CcFf])?$")
_CLOCK = re.compile(r"(\d{1,3}):(\d{2})(?::(\d{2}))?$")


def read_probe_log(text: str, decimal: DecimalSign = ".", *, fahrenheit: bool = False) -> ProbeLog:
    """Read a probe's log.

    Parameters
    ----------
    text : str
        A line a reading: a time and a temperature, parted by a tab, a semicolon, blanks, or a comma
        where that is not the decimal sign. Times are minutes, ``1:30`` or ``01:30:20`` in hours, or
        a day and hour in ISO 8601; temperatures are in °C, or in °F where the number, the heading
        or `fahrenheit` says so.
    decimal : {'.', ','}
        What a number with one comma means.
    fahrenheit : bool
        Bare temperatures are in °F.

    Raises
    ------
    AplombError
        When fewer than two readings can be read.
    """
    lines = text.replace("\ufeff", "").splitlines()
    if len(lines) > MOST_LINES:
        raise AplombError(
            f"the log has {len(lines)} lines, which is too long; use up to {MOST_LINES}"
        )
    found: list[tuple[float, float]] = []
    left_out: list[int] = []
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        if len(line) > LONGEST_LINE:
            left_out.append(number)
            continue
        if re.search(r"°\s*F|fahrenheit|_f\b|\bF\b", line, re.IGNORECASE) and not re.search(
            r"\d", line
        ):
            fahrenheit = True
        reading = _reading(line, decimal, fahrenheit=fahrenheit)
        if reading is None:
            if found or re.search(r"\d", line):
                left_out.append(number)
            continue
        found.append(reading)
    if len(found) < 2:
        raise AplombError(
            "no readings were found: give a time in minutes and a temperature on each line, e.g. "
            "“10 14.5”"
        )
    return _in_order(found, left_out)


def _cells(line: str, decimal: DecimalSign) -> list[str]:
    for sign in ("\t", ";"):
        if sign in line:
            return [cell.strip() for cell in line.split(sign)]
    if re.search(r",\s", line) or (decimal == "." and line.count(",") >= 1):
        return [cell.strip() for cell in line.split(",")]
    stamp = re.match(r"\s*(\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}(?::\d{2})?\S*)\s+(.*)$", line)
    if stamp:
        return [stamp[1], stamp[2].strip()]
    if line.count(",") == 3 and re.fullmatch(r"\s*\d+,\d+,-?\d+,\d+\s*", line):
        a, b, c, d = line.strip().split(",")
        return [f"{a},{b}", f"{c},{d}"]
    return [cell for cell in re.split(r"\s+", line.strip()) if cell]


def _reading(line: str, decimal: DecimalSign, *, fahrenheit: bool) -> tuple[float, float] | None:
    cells = [cell for cell in _cells(line, decimal) if cell]
    if len(cells) > 2 and _TEMP.match(cells[1] + cells[2]) and cells[2][:1] in "°CcFf":
        cells = [cells[0], cells[1] + cells[2]]
    if len(cells) < 2:
        return None
    minutes = _minutes(cells[0])
    temp = _TEMP.match(cells[1].strip())
    if minutes is None or temp is None:
        return None
    value = float(temp[1].replace("−", "-").replace(",", "."))
    in_f = temp[2].upper() == "F" if temp[2] else fahrenheit
    return minutes, (value - 32) / 1.8 if in_f else value


def _minutes(cell: str) -> float | None:
    clock = _CLOCK.match(cell)
    if clock:
        return int(clock[1]) * 60 + int(clock[2]) + int(clock[3] or 0) / 60
    if re.fullmatch(_NUMBER, cell):
        return float(cell.replace("−", "-").replace(",", "."))
    try:
        return datetime.fromisoformat(cell).timestamp() / 60
    except ValueError:
        return None


def _in_order(found: list[tuple[float, float]], left_out: list[int]) -> ProbeLog:
    doubts = []
    if left_out:
        some = ", ".join(str(n) for n in left_out[:5]) + (" …" if len(left_out) > 5 else "")
        doubts.append(
            f"line {some} could not be read"
            if len(left_out) == 1
            else f"lines {some} could not be read"
        )
    kept = dict(found)  # the last of two at one time counts
    if len(kept) < len(found):
        doubts.append(f"{len(found) - len(kept)} readings have the same time as another reading")
    times = sorted(kept)
    if times != list(kept):
        doubts.append("the readings were not in time order")
    minutes = np.array(times) - times[0]
    temps = np.array([kept[t] for t in times])
    apart = np.diff(minutes)
    if len(apart):
        gap = int(np.argmax(apart))
        if len(apart) > 2 and apart[gap] > GAP_TIMES * float(np.median(apart)):
            doubts.append(
                f"there are no readings for {apart[gap]:.0f} min, from minute {minutes[gap]:.0f} on"
            )
        jumps = np.nonzero(np.abs(np.diff(temps)) > JUMP_K_MIN * np.maximum(apart, 0.3))[0]
        if len(jumps):
            doubts.append(f"the temperature jumps after {minutes[jumps[0]]:.0f} min")
    return ProbeLog(minutes, temps, tuple(doubts))
