"""Solid fat content over temperature: firm and plastic, or brittle, or smearing."""

from bisect import bisect_right
from itertools import pairwise
from typing import Literal

from msgspec import Struct

from aplomb.core.base.errors import AplombError

Table = tuple[tuple[float, float], ...]
"""(temperature [°C], solid fat [%]), rising in temperature, never rising in solid fat."""

PLASTIC_SFC = (20.0, 40.0)
"""Solid fat between which a fat is plastic: above it cracks, below it smears [%], recalled."""

FILM_C = 35.0
"""Temperature near which what is still solid coats the mouth [°C], recalled."""

FILM_SFC = 6.0
"""Solid fat at `FILM_C` from which a film is noticed [%], recalled."""

Feel = Literal["brittle", "plastic", "smearing"]


class Range(Struct, frozen=True):
    """Temperatures between which a fat is plastic [°C]; None: beyond the table."""

    low: float | None
    high: float | None


def solid_at(table: Table, temp_c: float) -> float:
    """Solid fat at a temperature, straight lines between the points of the table.

    Solid fat [%]. Outside the table its end value: at least so much below it, at most so much
    above it.

    Parameters
    ----------
    table : Table
        At least one point.
    temp_c : float
        Temperature [°C].

    Raises
    ------
    AplombError
        For an empty table.

    Notes
    -----
    Solid fat content by NMR is given at every fifth or tenth degree (ISO 8292-1); between them its
    curve bends little, and a straight line is nearer than the ± 1 to 2 % of the method.

    Examples
    --------
    >>> solid_at(((10.0, 52.0), (20.0, 20.0)), 15.0)
    36.0
    """
    if not table:
        raise AplombError(
            "the solid fat of this fat is not known; enter it from the supplier’s data"
        )
    place = bisect_right(table, (temp_c, float("inf")))
    if place == 0:
        return table[0][1]
    if place == len(table):
        return table[-1][1]
    (a, low), (b, high) = table[place - 1], table[place]
    return low + (high - low) * (temp_c - a) / (b - a)


COLD_SHARE = 0.57
"""How the solid fat goes on rising below the first point of a table, of the slope above it [-]:
butter's 60 % at 5 °C and 68 % at 0 °C, recalled."""


def to_freezing(table: Table) -> Table:
    """Give a table that begins at 0 °C: data begin at 10 °C, and the fat goes on setting below.

    Returns
    -------
    Table
        As it is when it begins at or below 0 °C, or has one point only.

    Examples
    --------
    >>> to_freezing(((10.0, 52.0), (15.0, 38.0)))[0]
    (0.0, 67.96)
    """
    if len(table) < 2 or table[0][0] <= 0:
        return table
    (first, solid), (second, less) = table[:2]
    slope = COLD_SHARE * (solid - less) / (second - first)
    return ((0.0, min(98.0, solid + slope * first)), *table)


def temp_at(table: Table, solid_pct: float) -> float | None:
    """Temperature at which the solid fat falls to a value [°C]; None when it does not.

    Notes
    -----
    The inverse of `solid_at`; a curve that comes to the value more than once gives the coldest.

    Examples
    --------
    >>> temp_at(((10.0, 52.0), (20.0, 20.0)), 36.0)
    15.0
    """
    for (a, high), (b, low) in pairwise(table):
        if high >= solid_pct >= low and high > low:
            return a + (b - a) * (high - solid_pct) / (high - low)
    return None


def plastic_range(table: Table) -> Range:
    """Temperatures between which a fat is plastic; an end beyond the table is None.

    Notes
    -----
    Between the ends of `PLASTIC_SFC`: with more solid fat it breaks, with less it smears and oils
    out (common practice; the figures are recalled).
    """
    low, high = PLASTIC_SFC
    return Range(temp_at(table, high), temp_at(table, low))


def feel_at(table: Table, temp_c: float) -> Feel:
    """Say how a fat is at a temperature."""
    solid = solid_at(table, temp_c)
    low, high = PLASTIC_SFC
    near = 1e-9
    return "brittle" if solid > high + near else "plastic" if solid >= low - near else "smearing"


def blended(parts: list[tuple[float, Table]]) -> Table:
    """Solid fat of a blend: the mean weighted by the mass of pure fat.

    At every temperature that stands in one table and lies within all; empty when a table is
    missing or nothing overlaps. An approximation: mixed fats may come out softer (eutectic).

    Notes
    -----
    S(T) = Σ mᵢ Sᵢ(T) / Σ mᵢ, an ideal mixture. Milk fat with cocoa butter or a lauric fat falls
    below it (phase behaviour of fats: Timms 1984, *Progress in Lipid Research* 23, from memory).
    """
    there = [(mass, table) for mass, table in parts if mass > 0]
    if not there or not all(table for _, table in there):
        return ()
    if len(there) == 1:
        return there[0][1]
    low = max(table[0][0] for _, table in there)
    high = min(table[-1][0] for _, table in there)
    temps = sorted({temp for _, table in there for temp, _ in table if low <= temp <= high})
    whole = sum(mass for mass, _ in there)
    return tuple(
        (temp, sum(mass * solid_at(table, temp) for mass, table in there) / whole) for temp in temps
    )
