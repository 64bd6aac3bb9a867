"""Blanks on a sheet, so that a straight blade parts them: rows, and blocks in what rows leave free.

Every group is a block that cuts from edge to edge of what is left can free: first rows are cut
off the sheet, then blocks off a row, then pieces off a block.
"""

import math
from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache
from itertools import islice, pairwise
from typing import Literal

from msgspec import Struct

from aplomb.core.batch.blanks import Blank
from aplomb.core.paste.product import Point

Rows = Literal["across", "along"]
"""Which way the first cuts go: across the last rolling, or along it."""

STAGGER = math.sqrt(3) / 2
"""Distance of staggered rows of touching circles over their diameter [-]."""
MOST_ON_A_SHEET = 20_000
"""More pieces are not laid on one sheet."""
CLOSE = 1e-6
"""Lengths that differ by less are the same [mm]."""


class Way(Struct, frozen=True):
    """How a blank lies in a row; u runs along the row, v across it.

    Attributes
    ----------
    turned : bool
        By a quarter.
    breadth_mm, depth_mm : float
        Its box along and across the row [mm].
    pitch_mm : tuple of two floats
        From one piece to the next, of those that lie one way and those turned by a half [mm].
    flips : bool
        True when every second piece is turned by a half.
    """

    turned: bool
    breadth_mm: float
    depth_mm: float
    gap_mm: float
    pitch_mm: tuple[float, float]
    flips: bool = False
    round: bool = False

    def in_room(self, room_mm: float) -> int:
        """How many lie in a row of that length [-]."""
        room = room_mm - self.breadth_mm + CLOSE
        if room < 0:
            return 0
        pair = sum(self.pitch_mm)
        pairs = math.floor(room / pair)
        rest = room - pairs * pair
        return 1 + 2 * pairs + (rest >= self.pitch_mm[0])

    def span(self, count: int) -> float:
        """Length of a row of so many [mm]."""
        if count <= 0:
            return 0.0
        pairs, odd = divmod(count - 1, 2)
        return self.breadth_mm + pairs * sum(self.pitch_mm) + odd * self.pitch_mm[0]


class Group(Struct, frozen=True):
    """Equal blanks in rows.

    Attributes
    ----------
    blank : int
        Which blank.
    u_mm, v_mm : float
        Where the block begins [mm].
    count : int
        Pieces in all [-].
    a_row : int
        Pieces in a full row [-].
    step_mm : float
        From row to row [mm].
    shift_mm : float
        By which every second row is moved along [mm]; 0 when rows stand in square.
    short : int
        Pieces fewer in a moved row [-].
    """

    blank: int
    way: Way
    u_mm: float
    v_mm: float
    count: int
    a_row: int
    step_mm: float
    shift_mm: float = 0.0
    short: int = 0

    @property
    def rows(self) -> int:
        """Rows it has, the last perhaps not full [-]."""
        if not self.short:
            return math.ceil(self.count / self.a_row)
        pairs, rest = divmod(self.count, 2 * self.a_row - self.short)
        return 2 * pairs + (rest > 0) + (rest > self.a_row)

    @property
    def depth_mm(self) -> float:
        """Across its rows [mm]."""
        return (self.rows - 1) * self.step_mm + self.way.depth_mm

    @property
    def breadth_mm(self) -> float:
        """Along its rows [mm]."""
        return self.way.span(min(self.a_row, self.count)) + (
            self.shift_mm if self.shift_mm and not self.short and self.rows > 1 else 0.0
        )

    def places(self) -> Iterator[tuple[float, float, bool]]:
        """Give the lower corner of every piece (u, v) [mm], and whether it is turned by a half."""
        left, row = self.count, 0
        one, other = self.way.pitch_mm
        while left > 0:
            moved = row % 2 == 1 and self.shift_mm > 0
            here = min(left, self.a_row - (self.short if moved else 0))
            u = self.u_mm + (self.shift_mm if moved else 0.0)
            for i in range(here):
                flipped = self.way.flips and i % 2 == 1
                yield u, self.v_mm + row * self.step_mm, flipped
                u += other if i % 2 else one
            left -= max(1, here)
            row += 1


class Placed(Struct, frozen=True):
    """One piece on the sheet.

    Attributes
    ----------
    x_mm, y_mm : float
        Lower corner of its box, x with the last rolling [mm].
    turned, flipped : bool
        By a quarter; by a half.
    """

    blank: int
    x_mm: float
    y_mm: float
    turned: bool
    flipped: bool


class Layout(Struct, frozen=True):
    """Blanks on a sheet without its edges.

    Attributes
    ----------
    u_mm, v_mm : float
        Room along a row, and what the rows take across [mm].
    missing : tuple of int
        Of each blank, how many found no room [-].
    lines : tuple of float
        Where rows are cut off, across the rows [mm].
    """

    rows: Rows
    u_mm: float
    v_mm: float
    groups: tuple[Group, ...]
    missing: tuple[int, ...]
    lines: tuple[float, ...] = ()

    @property
    def size_mm(self) -> tuple[float, float]:
        """Length with the rolling and width that are used [mm]."""
        return (self.v_mm, self.u_mm) if self.rows == "across" else (self.u_mm, self.v_mm)

    def counts(self, blanks: int) -> list[int]:
        """How many of each blank are on the sheet [-]."""
        found = [0] * blanks
        for group in self.groups:
            found[group.blank] += group.count
        return found

    def placed(self, most: int = MOST_ON_A_SHEET) -> Iterator[Placed]:
        """Give every piece on the sheet."""
        across = self.rows == "across"

        def every() -> Iterator[Placed]:
            for group in self.groups:
                for u, v, flipped in group.places():
                    x, y = (v, u) if across else (u, v)
                    yield Placed(group.blank, x, y, group.way.turned, flipped)

        return islice(every(), most)


def ways_of(blank: Blank, rows: Rows) -> tuple[Way, ...]:
    """Give the ways in which a blank may lie in rows that run across or along the sheet."""
    return _ways(blank, rows)


@lru_cache(maxsize=512)
def _ways(blank: Blank, rows: Rows) -> tuple[Way, ...]:
    found = []
    square = abs(blank.length_mm - blank.width_mm) < CLOSE and not blank.points
    for turned in (False, True):
        if not (blank.turnable if turned else blank.upright) and not blank.round:
            continue
        if turned and (blank.round or (square and blank.upright)):
            continue
        along, across = blank.size(turned=turned)
        depth, breadth = (along, across) if rows == "across" else (across, along)
        step = breadth + blank.gap_mm
        pitch, flips = (step, step), False
        if blank.points:
            pitch, flips = _pitches(blank, turned, rows)
        found.append(Way(turned, breadth, depth, blank.gap_mm, pitch, flips, blank.round))
    return tuple(found)


def _pitches(blank: Blank, turned: bool, rows: Rows) -> tuple[tuple[float, float], bool]:
    """How close outlines lie in a row, alike or every second turned by a half [mm]."""
    lie = _uv(_spaced(blank.outline(turned=turned), blank.gap_mm), rows)
    flip = _uv(_spaced(blank.outline(turned=turned, flipped=True), blank.gap_mm), rows)
    alike, one, other = apart(lie, lie), apart(lie, flip), apart(flip, lie)
    if one + other < 2 * alike - CLOSE:
        return (one, other), True
    return (alike, alike), False


def _spaced(corners: tuple[Point, ...], gap_mm: float) -> tuple[Point, ...]:
    """Widen an outline by half the gap all round, so that two that touch keep it everywhere."""
    if gap_mm <= 0:
        return corners
    from shapely import Polygon

    wide = Polygon(corners).buffer(gap_mm / 2, join_style="mitre")
    return tuple((float(x), float(y)) for x, y in wide.exterior.coords[:-1])


def _uv(corners: Iterable[Point], rows: Rows) -> tuple[Point, ...]:
    return tuple((y, x) for x, y in corners) if rows == "across" else tuple(corners)


def apart(one: Sequence[Point], other: Sequence[Point]) -> float:
    """How far the second outline must be moved along u from the first so that they only touch.

    Least move from the side of larger u [mm].

    Parameters
    ----------
    one, other : sequence of (u, v)
        Corners of simple polygons whose boxes begin at 0 [mm].

    Notes
    -----
    At each height v, the rightmost point of the first may at most meet the leftmost of the
    second. Both edges are made of straight pieces, so the largest overlap is at a corner's height,
    or just beside one where an edge lies level.
    """
    heights = sorted({v for _, v in (*one, *other)})
    probes = []
    for low, high in pairwise(heights):
        probes += [low + (high - low) * 1e-7, high - (high - low) * 1e-7]
    most = 0.0
    for v in probes:
        a, b = _crossings(one, v), _crossings(other, v)
        if a and b:
            most = max(most, max(a) - min(b))
    return most


def _crossings(corners: Sequence[Point], v: float) -> list[float]:
    found = []
    for (u1, v1), (u2, v2) in zip(corners, (*corners[1:], corners[0]), strict=True):
        if (v1 <= v < v2) or (v2 <= v < v1):
            found.append(u1 + (u2 - u1) * (v - v1) / (v2 - v1))
    return found


def group_in(
    blank: int, way: Way, need: int, u: float, v: float, room_u: float, room_v: float
) -> Group | None:
    """Lay up to so many blanks in rows into a room; None when not one fits.

    Discs in square or staggered, whichever takes less depth, or holds more where depth is
    what ends them.

    Parameters
    ----------
    blank : int
        Its index.
    need : int
        Wanted [-].
    u, v : float
        Where the room begins [mm].
    room_u, room_v : float
        How large it is, along and across the rows [mm].
    """
    a_row = way.in_room(room_u)
    if a_row < 1 or need < 1 or way.depth_mm > room_v + CLOSE:
        return None
    step = way.depth_mm + way.gap_mm
    rows = math.floor((room_v - way.depth_mm + CLOSE) / step) + 1 if room_v < 1e9 else need
    plain = Group(blank, way, u, v, min(need, a_row * rows), a_row, step)
    if not way.round or a_row < 1:
        return plain
    tight = step * STAGGER
    shift = way.pitch_mm[0] / 2
    short = 0 if way.span(a_row) + shift <= room_u + CLOSE else 1
    if a_row - short < 1:
        return plain
    rows = math.floor((room_v - way.depth_mm + CLOSE) / tight) + 1 if room_v < 1e9 else 2 * need
    pairs, odd = divmod(rows, 2)
    holds = pairs * (2 * a_row - short) + odd * a_row
    tight_one = Group(blank, way, u, v, min(need, holds), a_row, tight, shift, short)
    if tight_one.count != plain.count:
        return tight_one if tight_one.count > plain.count else plain
    return tight_one if tight_one.depth_mm < plain.depth_mm - CLOSE else plain
