"""The section of any paste: every pixel carried back through the folds to what lay there.

Sheets, portions, pieces and coils are worked by one engine, with the border, the round bends, the
flaps that fall short and the uneven rolling that are asked for. Where none of that is and the
paste is of sheets, the leaf stack says the same, exactly and sooner.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_text, num, sides_mm
from aplomb.core.folds.counts import DOUGH, FAT, START, refuse_unworkable
from aplomb.core.folds.enclosing import Enclosing
from aplomb.core.folds.pieces import Mass, pieces_in
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.sizes import Trim, Worked
from aplomb.core.folds.spiral import pressed, round_log, unrolled
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.unfold import Floats, Fold
from aplomb.core.folds.windings import windings
from aplomb.core.folds.working import Working

STREWN, VOID, NONE = 2, 3, 255
"""Kinds beside DOUGH and FAT: what was strewn in, and what lies outside a round log."""

Kinds = NDArray[np.uint8]

POINTS_AT_ONCE = 24_000
"""Points that are carried back together: few enough to stay in the processor's cache."""

WORKERS = 2
"""Threads that carry points back: NumPy lets them run beside one another."""

CUT_AT, CUT_SLOPE = 0.41, 0.17
"""Where a cut runs across the other direction, as a share at the left and its change to the right
[-]: a little askew, so that no cut lies along a row of pieces."""


class Window(Struct, frozen=True):
    """Part of a section, as shares of its length (from the left) and height (from the bottom)."""

    left: float = 0.0
    right: float = 1.0
    bottom: float = 0.0
    top: float = 1.0


class Paste(Struct, frozen=True):
    """All that a section needs to know of a paste.

    Attributes
    ----------
    plan : Plan
        Up to the moment that is shown.
    fat_share : float
        Volume share of all the fat of the whole plan, without what is strewn in [-].
    enclosing : Enclosing
        Sizes of the enclosing, of one block.
    worked : Worked
        Sizes of every turn and trim, of the whole plan or up to this moment.
    mass : Mass or None
        Of paste in pieces.
    strewn : tuple of (turn, share)
        What is strewn in at a turn, 1 for the first, over the paste's volume [-].
    final : bool
        True when it is rolled to its final sheet, so that a log is pressed flat.
    portion_shares : tuple of float
        Share of all the fat in each portion, in order [-].
    """

    plan: Plan
    fat_share: float
    enclosing: Enclosing
    worked: Worked
    working: Working = Working()
    mass: Mass | None = None
    strewn: tuple[tuple[int, float], ...] = ()
    final: bool = True
    portion_shares: tuple[float, ...] = ()


class _Points:
    """Points on their way back: places as shares, and what they were found to be."""

    __slots__ = ("kind", "row", "x", "y", "z")

    def __init__(self, x: Floats, y: Floats, z: Floats, row: int = 1) -> None:
        self.x, self.y, self.z = x, y, z
        self.row = row  # so many after one another have the same height
        self.kind = np.full(x.shape, NONE, np.uint8)

    def quarter_turn(self) -> None:
        self.x, self.y = self.y, self.x


_Back = Callable[[_Points], None]


class Section:
    """A section, ready to be looked at through any window.

    Parameters
    ----------
    across : bool
        Cut across the last rolling direction instead of along it.

    Attributes
    ----------
    round : bool
        True for a log that is not pressed.
    quick : bool
        True when whole rows are carried back at once, so that it takes a few milliseconds.

    Raises
    ------
    AplombError
        For a share outside 0–1, or a plan that cannot be worked.
    """

    def __init__(self, paste: Paste, *, across: bool = False) -> None:
        if not 0 < paste.fat_share < 1:
            raise AplombError(
                f"the fat’s share of the volume is {num(paste.fat_share)}; it must be "
                "more than 0 and less than 1"
            )
        refuse_unworkable(paste.plan, part=True)
        self._paste, self._across = paste, across
        self._undo: list[_Back] = []
        self.round = False
        self.quick = True
        self._turn = len(paste.plan.turns)
        self._wholes = _volumes_before(paste)
        self._portion = paste.plan.portions
        self._trim = sum(step.way is Way.TRIM for step in paste.plan.steps)
        worked = paste.worked
        if len(worked.turns) < self._turn or len(worked.trims) < self._trim:
            raise AplombError(
                "The sheet is used up before this step; trim less, or make more paste."
            )
        for step in reversed(paste.plan.steps):
            if step.way is Way.TRIM:
                self._trim -= 1
                self._undo.append(_untrimmed(paste.worked.trims[self._trim]))
            elif step.way is not Way.REST:
                self._undo_turn(step, last=self._turn == len(paste.plan.turns))
        self._undo.append(self._root())

    def _undo_turn(self, step: Step, *, last: bool) -> None:
        self._turn -= 1
        size = self._paste.worked.turns[self._turn]
        spread = self._spread(step)
        if step.way is Way.ROLL:
            self._undo.append(self._roll(size.sheet.length_mm, size.sheet.height_mm, last=last))
        elif step.way is Way.QUARTER:
            half = Step(Way.FOLD, 2)
            for length, height in (
                (size.block.width_mm, 2 * size.sheet.height_mm),
                (size.block.length_mm, size.sheet.height_mm),
            ):
                self._undo.append(self._fold(half, length, height, ()))
                self._undo.append(_Points.quarter_turn)
            return
        else:
            length, height = size.block.length_mm, size.sheet.height_mm
            self._undo.append(self._fold(step, length, height, spread))
        self._undo.append(_Points.quarter_turn)

    def _fold(
        self,
        step: Step,
        block_mm: float,
        sheet_mm: float,
        spread: tuple[tuple[int, float, bool], ...],
    ) -> _Back:
        working = self._paste.working
        width_mm = self._paste.worked.turns[self._turn].sheet.width_mm
        fold = Fold(
            step,
            bend=min(0.2, working.hinge_pct / 100 * sheet_mm / block_mm),
            short=min(0.4, working.misfold_mm / block_mm),
            uneven=working.uneven_pct / 100,
            spread=spread,
            border=(
                min(0.3, working.border_mm / (block_mm * step.panels)),
                min(0.3, working.border_mm / width_mm),
            ),
        )
        self.quick = self.quick and fold.straight

        def back(points: _Points) -> None:
            fold.back(points.x, points.y, points.z, points.kind, NONE)

        return back

    def _spread(self, step: Step) -> tuple[tuple[int, float, bool], ...]:
        """What is spread on the sheet of the turn in hand, over the sheet's own height."""
        paste = self._paste
        spread: list[tuple[int, float, bool]] = []
        if step.way is Way.PORTION:
            self._portion -= 1
            portion = paste.fat_share * paste.portion_shares[self._portion]
            portion /= self._wholes[self._turn]
            spread.append((FAT, portion * step.panels / len(step.spread_on), False))
        for turn, share in paste.strewn:
            if turn == self._turn + 1 and step.way is not Way.ROLL:
                spread.append((STREWN, share / self._wholes[self._turn], True))
        return tuple(spread)

    def _roll(self, length_mm: float, thick_mm: float, *, last: bool) -> _Back:
        turns = windings(length_mm, thick_mm)
        if turns < 1:
            raise AplombError(
                f"a sheet {mm_text(length_mm, '.0f')} long and {mm_text(thick_mm)} thick "
                "is too short to roll up once; roll it thinner"
            )
        unrolled(np.zeros(1, "f4"), np.zeros(1, "f4"), turns)  # refuses what cannot be drawn
        is_round = last and not self._paste.final
        self.round = self.round or is_round
        self.quick = False

        def back(points: _Points) -> None:
            q, tau = (round_log if is_round else pressed)(points.x, points.z)
            if is_round:
                points.kind[(q > 1) & (points.kind == NONE)] = VOID
                np.minimum(q, 1, out=q)
            points.x, points.z = unrolled(q, tau, turns)

        return back

    def _root(self) -> _Back:
        """What a point is, once it is back in the enclosed block."""
        paste, working = self._paste, self._paste.working
        plan, share = paste.plan, paste.fat_share
        if plan.enclosure is Enclosure.PIECES:
            if paste.mass is None:
                raise AplombError("paste with fat in pieces needs the dough they lie in")
            pieces = pieces_in(paste.mass)

            def in_pieces(points: _Points) -> None:
                _settle(points, pieces.at(points.x, points.y, points.z, points.row))

            return in_pieces
        if plan.enclosure in (Enclosure.PORTIONS, Enclosure.NONE):
            return lambda points: _settle(points, np.zeros(points.x.shape, bool))
        done = paste.enclosing.done
        if plan.enclosure is Enclosure.COIL:
            return self._coil_root(last=not plan.turns)
        right = min(0.45, working.border_mm / done.length_mm)
        left = right if paste.enclosing.open_ends == 2 else 0.0
        sides = min(0.45, working.border_mm / done.width_mm)
        covered = (1 - left - right) * (1 - 2 * sides)
        inner = START[plan.enclosure]
        minor = DOUGH if plan.enclosure is Enclosure.INVERSE else FAT
        part = (1 - share if minor == DOUGH else share) / covered
        if part >= 1:
            raise AplombError(
                f"a border of {mm_text(working.border_mm)} leaves no room for the fat or "
                f"dough inside a block of {sides_mm(done.length_mm, done.width_mm)}; make "
                "the border narrower"
            )
        many = inner.count(minor)
        heights = np.array(
            [part / many if kind == minor else (1 - part) / (len(inner) - many) for kind in inner]
        )
        edges = np.cumsum(heights).astype("f4")

        def in_sheets(points: _Points) -> None:
            x, y, z = points.x, points.y, points.z
            within = (x >= left) & (x <= 1 - right) & (y >= sides) & (y <= 1 - sides)
            found = np.zeros(x.shape, bool)
            for i, kind in enumerate(inner):
                if kind == minor:
                    low = edges[i - 1] if i else np.float32(0)
                    found |= (z >= low) & (z < edges[i])
            found &= within
            _settle(points, found if minor == FAT else ~found)

        return in_sheets

    def _coil_root(self, *, last: bool) -> _Back:
        paste = self._paste
        sheet = paste.enclosing.dough
        length = sheet.length_mm
        border = min(0.5, paste.working.border_mm / length)
        fat_from = np.float32(1 - min(0.99, paste.fat_share / (1 - border)))
        roll = self._roll(length, paste.working.coil_mm, last=last)

        def in_coil(points: _Points) -> None:
            roll(points)
            _settle(points, (points.z >= fat_from) & (points.x <= 1 - border))

        return in_coil

    def kinds(self, rows: int, columns: int, window: Window | None = None) -> Kinds:
        """Look at the section.

        Parameters
        ----------
        rows, columns : int
            Pixels from top to bottom and from left to right.
        window : Window or None
            Part of it; None for all.

        Returns
        -------
        ndarray of uint8, shape (rows, columns)
            DOUGH, FAT, STREWN or VOID at the middle of each pixel; the first row is the top. The
            same for the same seed of the pieces.
        """
        w = window or Window()
        made = np.empty((rows, columns), np.uint8)

        def settle(points: _Points, part: slice) -> None:
            self._undo[-1](points)
            made[part] = points.kind.reshape(-1, columns)

        self._carry(rows, columns, w, settle)
        return made

    def pieces(self, rows: int, columns: int) -> "NDArray[np.int32] | None":
        """Tell which piece of fat is seen at each pixel of the whole section.

        Returns
        -------
        ndarray of int32, shape (rows, columns), or None
            A number of the piece, from 1; 0 for anything else. None for other paste.
        """
        if self._paste.mass is None or self._paste.plan.enclosure is not Enclosure.PIECES:
            return None
        pieces = pieces_in(self._paste.mass)
        made = np.empty((rows, columns), np.int32)

        def settle(points: _Points, part: slice) -> None:
            found = pieces.which(points.x, points.y, points.z, points.row)
            found[points.kind != NONE] = 0
            made[part] = found.reshape(-1, columns)

        self._carry(rows, columns, Window(), settle)
        return made

    @property
    def filled(self) -> float:
        """Share of the places for a piece of fat that have one [-]; 1 for paste without pieces."""
        return pieces_in(self._paste.mass).filled if self._paste.mass else 1.0

    def _carry(
        self, rows: int, columns: int, w: Window, settle: Callable[[_Points, slice], None]
    ) -> None:
        """Carry every pixel of a window back to the root, some rows at a time."""
        u = (w.left + (w.right - w.left) * (np.arange(columns) + 0.5) / columns).astype("f4")
        z = (w.top - (w.top - w.bottom) * (np.arange(rows) + 0.5) / rows).astype("f4")
        look = self._rows(z) if self.quick else partial(self._each, z)
        at_once = max(1, POINTS_AT_ONCE // max(1, columns))
        parts = [slice(first, min(rows, first + at_once)) for first in range(0, rows, at_once)]

        def one(part: slice) -> None:
            settle(look(part, u), part)

        if len(parts) == 1:
            one(parts[0])
        else:
            with ThreadPoolExecutor(min(WORKERS, len(parts))) as pool:
                list(pool.map(one, parts))

    def _begin(self, z: Floats, u: Floats) -> _Points:
        """Points of some rows and columns, before anything is undone."""
        along = np.tile(u, len(z))
        beside = np.float32(CUT_AT) + np.float32(CUT_SLOPE) * along
        high = np.repeat(z, len(u))
        return _Points(beside, along, high) if self._across else _Points(along, beside, high)

    def _each(self, z: Floats, part: slice, u: Floats) -> _Points:
        """Carry every point back to the root by itself."""
        points = self._begin(z[part], u)
        for undo in self._undo[:-1]:
            undo(points)
        return points

    def _rows(self, z: Floats) -> Callable[[slice, Floats], _Points]:
        """Carry rows back by their two ends: all between them lies evenly."""
        ends = self._begin(z, np.array([0, 1], "f4"))
        for undo in self._undo[:-1]:
            undo(ends)
        first = [place.reshape(-1, 2)[:, 0] for place in (ends.x, ends.y, ends.z)]
        change = [np.diff(place.reshape(-1, 2)) for place in (ends.x, ends.y)]

        def look(part: slice, u: Floats) -> _Points:
            x, y = (
                (start[part, None] + slope[part] * u).reshape(-1)
                for start, slope in zip(first, change, strict=False)
            )
            return _Points(x, y, np.repeat(first[2][part], len(u)), len(u))

        return look


def _volumes_before(paste: Paste) -> list[float]:
    """Volume of the paste before each of its turns, over all it would have without trims [-]."""
    trims, portions = iter(paste.worked.trims), iter(paste.portion_shares)
    in_portions = paste.plan.enclosure is Enclosure.PORTIONS
    whole, found = 1 - paste.fat_share if in_portions else 1.0, []
    for step in paste.plan.steps:
        if step.way is Way.TRIM and (trim := next(trims, None)) is not None:
            whole *= trim.kept
        elif step.is_turn:
            found.append(whole)
            if step.way is Way.PORTION:
                whole += paste.fat_share * next(portions)
    return found


def _settle(points: _Points, fat: NDArray[np.bool_]) -> None:
    """Note what the points are that nothing was found for yet."""
    np.copyto(points.kind, fat.astype(np.uint8), where=points.kind == NONE)


def _untrimmed(trim: Trim) -> _Back:
    def back(points: _Points) -> None:
        points.x = np.float32(trim.along) + np.float32(1 - 2 * trim.along) * points.x
        points.y = np.float32(trim.across) + np.float32(1 - 2 * trim.across) * points.y

    return back
