"""A sheet filled row by row."""

import math
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.batch.blanks import Blank
from aplomb.core.batch.layout import Group, Layout, Rows, Way, group_in, ways_of

LEAST_SPACE_MM = 1.0
"""Less room than this is not looked at [mm]."""


class _Space(Struct):
    """A rectangle that rows left free: u, v, breadth, depth [mm]."""

    u: float
    v: float
    du: float
    dv: float


def lay(
    blanks: Sequence[Blank],
    needs: Sequence[int],
    rows: Rows,
    room_u: float,
    room_v: float = math.inf,
    order: Sequence[int] | None = None,
) -> Layout:
    """Lay blanks in rows, the deepest first; what a row leaves free takes smaller ones.

    Parameters
    ----------
    needs : sequence of int
        Of each, how many [-].
    room_u, room_v : float
        Room along a row, and across the rows [mm]; endless for as deep as it needs.
    order : sequence of int or None
        Which blank first; None for the deepest.

    Returns
    -------
    Layout
        With what found no room in `missing`.
    """
    ways = [ways_of(blank, rows) for blank in blanks]
    if order is None:
        order = sorted(
            range(len(blanks)), key=lambda i: -max((w.depth_mm for w in ways[i]), default=0)
        )
    most_gap = max((way.gap_mm for some in ways for way in some), default=0.0)
    sheet = _Sheet(room_u, room_v, most_gap)
    missing = [0] * len(blanks)
    for i in order:
        missing[i] = sheet.take(i, ways[i], needs[i])
    return Layout(rows, room_u, sheet.v, tuple(sheet.groups), tuple(missing), tuple(sheet.lines))


class _Sheet:
    """A sheet while it is filled.

    Between two rows lies the larger of their gaps; round what is put into the room that rows left
    free, the largest of all blanks.
    """

    def __init__(self, room_u: float, room_v: float, most_gap: float) -> None:
        self.room_u, self.room_v, self.most_gap = room_u, room_v, most_gap
        self.v = 0.0
        self.gap = 0.0
        self.groups: list[Group] = []
        self.lines: list[float] = []
        self.spaces: list[_Space] = []

    def take(self, blank: int, ways: Sequence[Way], need: int) -> int:
        """Lay so many of a blank; give how many found no room."""
        left = need
        while left > 0 and self.spaces:
            found = [
                (group, space)
                for space in self.spaces
                for way in ways
                if (group := group_in(blank, way, left, space.u, space.v, space.du, space.dv))
            ]
            if not found:
                break
            group, space = max(found, key=lambda each: (each[0].count, -each[1].du * each[1].dv))
            self._put(group, space)
            left -= group.count
        while left > 0:
            options = [
                group
                for way in ways
                for start in (self._next_row(way),)
                if (
                    group := group_in(
                        blank, way, left, 0.0, start, self.room_u, self.room_v - start
                    )
                )
            ]
            if not options:
                return left
            group = min(options, key=lambda g: (g.depth_mm / g.count, g.depth_mm))
            if group.count < left and not self._goes_on(blank, ways, group):
                # The closest rows would leave some over that looser ones take to the last.
                group = min(options, key=lambda g: (-g.count, g.depth_mm))
            self._open_row(group)
            left -= group.count
        return 0

    def _goes_on(self, blank: int, ways: Sequence[Way], group: Group) -> bool:
        """Tell whether another row of a blank finds room behind a group of it."""
        end = group.v_mm + group.depth_mm
        return any(
            group_in(blank, way, 1, 0.0, start, self.room_u, self.room_v - start)
            for way in ways
            for start in (end + max(group.way.gap_mm, way.gap_mm),)
        )

    def _next_row(self, way: Way) -> float:
        """Where the next row begins: the larger of both gaps after the one before."""
        return self.v + (max(self.gap, way.gap_mm) if self.v else 0.0)

    def _open_row(self, group: Group) -> None:
        most, depth = self.most_gap, group.depth_mm
        used = group.breadth_mm + most
        if self.v:  # what the rows before left free keeps away from this one
            self.spaces = [
                replace(s, dv=min(s.dv, group.v_mm - most - s.v))
                for s in self.spaces
                if group.v_mm - most - s.v > 1
            ]
        below = max(0.0, most - (group.v_mm - self.v)) if self.v else 0.0
        last = group.count - (group.rows - 1) * group.a_row
        if not group.shift_mm and group.rows > 1 and last < group.a_row:
            upper = (group.rows - 1) * group.step_mm
            self._space(used, group.v_mm + below, self.room_u - used, upper - most - below)
            ends = group.way.span(last) + most
            more = most - group.way.gap_mm
            self._space(
                ends, group.v_mm + upper + more, self.room_u - ends, group.way.depth_mm - more
            )
            self.lines.append(group.v_mm + upper)
        else:
            self._space(used, group.v_mm + below, self.room_u - used, depth - below)
        self.groups.append(group)
        self.v, self.gap = group.v_mm + depth, group.way.gap_mm
        self.lines.append(self.v)

    def _put(self, group: Group, space: _Space) -> None:
        self.spaces.remove(space)
        wide, deep = group.breadth_mm + self.most_gap, group.depth_mm + self.most_gap
        beside = space.du - wide
        self._space(space.u + wide, space.v, beside, space.dv)
        above = group.breadth_mm if beside > LEAST_SPACE_MM else space.du
        self._space(space.u, space.v + deep, above, space.dv - deep)
        self.groups.append(group)
        self.gap = max(self.gap, group.way.gap_mm)

    def _space(self, u: float, v: float, du: float, dv: float) -> None:
        if du > LEAST_SPACE_MM and dv > LEAST_SPACE_MM:
            self.spaces.append(_Space(u, v, du, dv))
