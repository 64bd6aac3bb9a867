"""What probes said, a minute a block: small enough to keep for every day, read at once."""

import math
import sys
from array import array
from collections.abc import Iterable

from msgspec import Struct

from aplomb.core.base.errors import AplombError

OVEN_AIR = "oven, air"
"""Under this name the readings of an oven are kept, beside those of the probes."""
OF_THE_OVEN = "of the oven"
"""Where a temperature was read that is of the oven's air."""
SECONDS = 60
NONE = -32768
"""A second without a reading."""
HUNDREDTHS, TENTHS = 100, 10
IN_TENTHS = b"\x0a"
"""Stands before a minute that is packed in tenths of a degree, as an oven's may be."""
RANGES = {"probe": (-80.0, 320.0), "oven": (-80.0, 600.0)}
"""What a kind of device can show [°C]: what is read, kept and refused goes by this one table. What
is written down by hand may be of either."""
COLDEST_C, HOTTEST_C = RANGES["oven"]


class Minute(Struct, frozen=True):
    """A minute of readings.

    Attributes
    ----------
    minute : int
        Whole minutes since the run began [-].
    temps_c : tuple of (float or None)
        One for each second [°C].
    """

    minute: int
    temps_c: tuple[float | None, ...]


def pack(temps_c: Iterable[float | None]) -> bytes:
    """Pack a minute of readings.

    Two for each second, up to the last that has one: hundredths, or behind a mark tenths.

    Parameters
    ----------
    temps_c : iterable of (float or None)
        Up to 60, one a second [°C].

    Raises
    ------
    AplombError
        For a reading that no probe gives.

    Examples
    --------
    >>> unpack(pack([4.25, None, -18.0]))[:3]
    (4.25, None, -18.0)
    """
    temps = tuple(temps_c)
    hot = any(temp is not None and temp > RANGES["probe"][1] for temp in temps)
    scale = TENTHS if hot else HUNDREDTHS
    cells = array("h")
    for temp in temps:
        if temp is None:
            cells.append(NONE)
        elif not math.isfinite(temp) or not COLDEST_C <= temp <= HOTTEST_C:
            raise AplombError(f"probe: {temp} °C is not a possible reading.")
        else:
            cells.append(round(temp * scale))
    if len(cells) > SECONDS:
        raise AplombError(f"probe: {len(cells)} readings in a minute are too many; send up to 60.")
    while cells and cells[-1] == NONE:
        cells.pop()
    if sys.byteorder == "big":
        cells.byteswap()
    return (IN_TENTHS if hot else b"") + cells.tobytes()


def unpack(body: bytes) -> tuple[float | None, ...]:
    """Read a packed minute; what is damaged is without a reading.

    Returns
    -------
    tuple of (float or None)
        Sixty, one for each second [°C].
    """
    cells = array("h")
    hot = len(body) % 2 == 1 and body[:1] == IN_TENTHS
    if hot:
        body = body[1:]
    cells.frombytes(body[: 2 * SECONDS][: len(body) // 2 * 2])
    if sys.byteorder == "big":
        cells.byteswap()
    scale = TENTHS if hot else HUNDREDTHS
    coldest, hottest = COLDEST_C * scale, HOTTEST_C * scale
    found: list[float | None] = [
        cell / scale if coldest <= cell <= hottest else None for cell in cells
    ]
    return (*found, *(None for _ in range(SECONDS - len(found))))


def merged(before: bytes, after: bytes) -> bytes:
    """Give a packed minute with what was read in it before and after: the later reading wins."""
    both = zip(unpack(before), unpack(after), strict=True)
    return pack(old if new is None else new for old, new in both)


def series(minutes: Iterable[Minute]) -> tuple[list[float], list[float]]:
    """Give readings as times and temperatures, gaps left out.

    Returns
    -------
    tuple of (list of float, list of float)
        Seconds since the run began, and what was read then [s, °C].
    """
    times: list[float] = []
    temps: list[float] = []
    for each in minutes:
        for second, temp in enumerate(each.temps_c):
            if temp is not None:
                times.append(float(60 * each.minute + second))
                temps.append(temp)
    return times, temps
