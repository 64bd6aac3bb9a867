"""The cut plan: products on rolled sheets, and the best sheet for this bench and block."""

import math
from collections.abc import Iterator, Sequence
from itertools import islice, permutations

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_text, sides_mm
from aplomb.core.batch.blanks import Blank, blanks_of
from aplomb.core.batch.layout import MOST_ON_A_SHEET, Layout, Rows, ways_of
from aplomb.core.batch.rows_on_sheet import lay
from aplomb.core.folds.boxes import Box
from aplomb.core.paste.product import Cutting, Product

MOST_WIDTHS = 160
"""Widths that are tried each way; more do not find better sheets."""
ORDERS_TRIED = 24
"""Orders of the blanks that are tried on the best widths."""
BEST_TRIED = 4
MOST_PARTS = 60
"""Sheets one block is cut into, at most."""
MOST_GIVEN = 10_000
"""Most blocks that are rolled to sheets of a given size [-]."""
CLOSE_MM = 1e-6
"""Lengths this near are the same [mm]."""
SLENDER = 6.0
"""A sheet more than so many times as long as wide, or the other way, is not looked for [-]."""


class Limits(Struct, frozen=True):
    """What a sheet must keep within.

    Attributes
    ----------
    long_mm, wide_mm : float
        Longest and widest sheet as rolled: the bench, and the bench or belt across [mm].
    block_ml : float
        Largest block [mL]; infinite for no limit.
    lies_long_mm, lies_wide_mm : float
        Longest and widest sheet once it has drawn back: the tray it lies on [mm]; infinite for no
        limit.
    """

    long_mm: float
    wide_mm: float
    block_ml: float = math.inf
    lies_long_mm: float = math.inf
    lies_wide_mm: float = math.inf


class CutPlan(Struct, frozen=True):
    """Products of one thickness on sheets that are all alike.

    Attributes
    ----------
    products : tuple of int
        Which of the formula's products are on it.
    blanks : tuple of (product, Blank)
        `product` counts in `products`.
    sheet : Box
        As cut, with its edges [mm].
    rolled : Box
        As rolled, before it draws back [mm].
    sheets : int
        Sheets in all [-].
    blocks : int
        Blocks they come from [-].
    wanted : tuple of int
        Pieces wanted of each of `products` [-].
    tried : int
        Sheets that were looked at to find it [-]; 0 for a given one.
    untrimmed : bool
        Each sheet is one piece, rolled to its size and used as it is.
    round : bool
        The sheet is a round: as long and wide as across.
    of_stock : bool
        True when its blocks are there already and come out of the freezer.
    from_ml, below_ml : float
        With a largest block of this volume and up, and of less than that, the search ends at the
        same sheets [mL].
    """

    products: tuple[int, ...]
    blanks: tuple[tuple[int, Blank], ...]
    layout: Layout
    sheet: Box
    rolled: Box
    edge_mm: float
    sheets: int
    blocks: int
    wanted: tuple[int, ...]
    tried: int = 0
    untrimmed: bool = False
    round: bool = False
    of_stock: bool = False
    from_ml: float = 0.0
    below_ml: float = math.inf

    def counts(self) -> list[int]:
        """Blanks of each kind on one sheet [-]."""
        return self.layout.counts(len(self.blanks))

    def pieces(self) -> tuple[int, ...]:
        """Whole pieces of each product that all sheets give [-]."""
        return tuple(
            math.floor(min(self.sheets * n / blank.a_piece for n, blank in self.cut_of(i)) + 1e-9)
            for i in range(len(self.products))
        )

    def cut_of(self, at: int) -> list[tuple[int, Blank]]:
        """Give what is cut of one product, by its place in `products`.

        Its blanks, with how many of each one sheet gives.
        """
        return [
            (n, blank)
            for n, (product, blank) in zip(self.counts(), self.blanks, strict=True)
            if product == at
        ]

    def lacking(self) -> tuple[int, ...]:
        """Pieces of each product that found no room [-]."""
        return tuple(max(0, w - p) for w, p in zip(self.wanted, self.pieces(), strict=True))

    @property
    def sheet_mm2(self) -> float:
        """Area of one sheet [mm²]."""
        box = self.sheet.length_mm * self.sheet.width_mm
        return box * math.pi / 4 if self.round else box

    @property
    def sheet_ml(self) -> float:
        """Volume of one sheet [mL]."""
        return self.sheet_mm2 * self.sheet.height_mm / 1000

    @property
    def pieces_mm2(self) -> float:
        """Paste of one sheet that goes into pieces [mm²]."""
        return sum(n * blank.area_mm2 for n, blank in self._counted())

    @property
    def holes_mm2(self) -> float:
        """Cut out of pieces and not used, on one sheet [mm²]."""
        return sum(n * blank.hole_mm2 for n, blank in self._counted())

    def _counted(self) -> list[tuple[int, Blank]]:
        """How many of each blank are on one sheet."""
        return [(n, blank) for n, (_, blank) in zip(self.counts(), self.blanks, strict=True)]

    @property
    def edges_mm2(self) -> float:
        """Edges trimmed off one sheet [mm²]."""
        if self.untrimmed:
            return 0.0
        inner = max(0.0, self.sheet.length_mm - 2 * self.edge_mm) * max(
            0.0, self.sheet.width_mm - 2 * self.edge_mm
        )
        return self.sheet_mm2 - inner

    @property
    def between_mm2(self) -> float:
        """Scrap between pieces and beside them on one sheet [mm²]."""
        return max(0.0, self.sheet_mm2 - self.edges_mm2 - self.pieces_mm2 - self.holes_mm2)

    def share_pct(self, area_mm2: float) -> float:
        """Give an area of one sheet as a share of it [%]."""
        return 100 * area_mm2 / self.sheet_mm2

    @property
    def yield_pct(self) -> float:
        """Share of the sheet that goes into pieces [%]."""
        return 100 * self.pieces_mm2 / self.sheet_mm2

    @property
    def wanted_mm2(self) -> float:
        """Paste of all sheets that goes into pieces as wanted, those over not counted [mm²]."""
        return sum(
            self.wanted[product] * blank.a_piece * blank.area_mm2 for product, blank in self.blanks
        )


def thicknesses(products: Sequence[Product], sheet_mm: float) -> list[float]:
    """Give the thicknesses that wanted products are cut from, the formula's own first [mm].

    What is used untrimmed is rolled by itself: `untrimmed_cut`.
    """
    found = {p.sheet_mm or sheet_mm for p in products if p.is_cut and not p.untrimmed}
    return sorted(found, key=lambda each: (each != sheet_mm, each))


def rolled_of(sheet: Box, cutting: Cutting) -> Box:
    """Give a sheet as it is rolled, so that it draws back to the one that is cut.

    Notes
    -----
    Length and width are larger by the share they draw back; volume is kept, so it is rolled
    thinner.
    """
    along, across = 1 - cutting.relax_along_pct / 100, 1 - cutting.relax_across_pct / 100
    return Box(sheet.length_mm / along, sheet.width_mm / across, sheet.height_mm * along * across)


def best_cut(
    products: Sequence[Product],
    sheet_mm: float,
    cutting: Cutting,
    limits: Limits,
    blocks: int = 0,
    thickness_mm: float | None = None,
    least_blocks: int = 1,
) -> CutPlan:
    """Find the smallest sheets that give what is wanted.

    Parameters
    ----------
    products : sequence of Product
        Those wanted and of this thickness are laid.
    sheet_mm : float
        Thickness of the formula's final sheet [mm].
    cutting : Cutting
        With a sheet given, that one is taken as it is and what fits is laid.
    blocks : int
        Blocks of paste [-]; 0 for as few as the limits ask for.
    thickness_mm : float or None
        Which thickness of several [mm]; None for the first wanted.
    least_blocks : int
        With no number of blocks given, no fewer than these [-].

    Raises
    ------
    AplombError
        When nothing is wanted, a piece is larger than any sheet, or they do not fit.

    Notes
    -----
    Rows make the sheet only as deep as they are, so the width alone is searched: a best width is
    one that some row fills exactly, a multiple of a piece or the sum of two. Both ways of the
    first cuts are tried, then other orders of the products on the best few.
    """
    if thickness_mm is None:
        thickness_mm = next(iter(thicknesses(products, sheet_mm)), sheet_mm)
    here = [
        i
        for i, p in enumerate(products)
        if p.is_cut and not p.untrimmed and (p.sheet_mm or sheet_mm) == thickness_mm
    ]
    if not here:
        raise AplombError("No pieces ordered yet. Enter how many for one of the products.")
    blanks = tuple((at, b) for at, i in enumerate(here) for b in blanks_of(products[i]))
    wanted = tuple(products[i].wanted for i in here)
    task = _Task(tuple(here), blanks, wanted, thickness_mm, cutting, limits)
    if cutting.length_mm and cutting.width_mm:
        return task.given(blocks) if blocks else task.given_enough(max(1, least_blocks))
    task.refuse_too_large(products)
    return task.searched(blocks, max(1, least_blocks))


def untrimmed_cut(
    products: Sequence[Product],
    at: int,
    sheet_mm: float,
    cutting: Cutting,
    limits: Limits,
    blocks: int = 0,
    least_blocks: int = 1,
) -> CutPlan:
    """Give the sheets of a product that is rolled piece by piece and not trimmed.

    Parameters
    ----------
    at : int
        Which of the products.
    sheet_mm : float
        Thickness of the formula's final sheet [mm].
    blocks, least_blocks : int
        As in `best_cut`.

    Raises
    ------
    AplombError
        When a piece is larger than bench or block.
    """
    product = products[at]
    (blank,) = blanks_of(product)[:1]
    sheet = Box(blank.length_mm, blank.width_mm, product.sheet_mm or sheet_mm)
    rolled = rolled_of(sheet, cutting)
    tray = (limits.lies_long_mm, limits.lies_wide_mm)
    if (
        rolled.length_mm > limits.long_mm + CLOSE_MM
        or rolled.width_mm > limits.wide_mm + CLOSE_MM
        or sheet.length_mm > tray[0] + CLOSE_MM
        or sheet.width_mm > tray[1] + CLOSE_MM
    ):
        size = sides_mm(rolled.length_mm, rolled.width_mm)
        raise AplombError(
            f"“{product.name}” is rolled to {size}, for which there is no room. "
            "Make it smaller, or change the bench and belt in the house."
        )
    layout = lay([blank], [1], "across", sheet.width_mm, sheet.length_mm, None)
    one = CutPlan(
        (at,), ((0, blank),), layout, sheet, rolled, 0.0, 1, 1, (product.wanted,),
        untrimmed=True, round=blank.round,
    )  # fmt: skip
    most = math.floor(limits.block_ml / one.sheet_ml + 1e-9) if one.sheet_ml > 0 else 0
    if limits.block_ml < math.inf and most < 1:
        raise AplombError(f"“{product.name}” takes more paste than a block that has room here.")
    fewest = max(1, least_blocks)
    number = blocks or fewest
    if not blocks and limits.block_ml < math.inf:
        number = max(fewest, math.ceil(product.wanted / most))
    each = max(1, math.ceil(product.wanted / number))
    below = math.inf
    if number > fewest and not blocks:
        below = math.ceil(product.wanted / (number - 1)) * one.sheet_ml
    return replace(
        one, sheets=each * number, blocks=number, from_ml=each * one.sheet_ml, below_ml=below
    )


class _Task(Struct, frozen=True):
    """What is to be cut, and of what."""

    products: tuple[int, ...]
    blanks: tuple[tuple[int, Blank], ...]
    wanted: tuple[int, ...]
    thickness_mm: float
    cutting: Cutting
    limits: Limits

    @property
    def room(self) -> tuple[float, float]:
        """Largest sheet as cut without its edges: length and width [mm]."""
        cutting, limits, edges = self.cutting, self.limits, 2 * self.cutting.edge_mm
        long = limits.long_mm * (1 - cutting.relax_along_pct / 100)
        wide = limits.wide_mm * (1 - cutting.relax_across_pct / 100)
        return min(long, limits.lies_long_mm) - edges, min(wide, limits.lies_wide_mm) - edges

    def refuse_too_large(self, products: Sequence[Product]) -> None:
        """Raise AplombError for a piece that fits on no sheet of this bench."""
        long, wide = self.room
        for at, blank in self.blanks:
            lies = [blank.size(turned=way.turned) for way in ways_of(blank, "across")]
            if not any(a <= long + 1e-6 and b <= wide + 1e-6 for a, b in lies):
                name = products[self.products[at]].name
                part = f" ({blank.what})" if blank.what else ""
                raise AplombError(
                    f"“{name}”{part} is cut at "
                    f"{sides_mm(blank.length_mm, blank.width_mm)}; the largest sheet here "
                    f"leaves {sides_mm(max(0, long), max(0, wide))} inside its edges. "
                    "Make it smaller, allow it to be turned, or change the bench and "
                    "belt in the house."
                )

    def needs(self, sheets: int) -> list[int]:
        """Blanks of each kind that one of so many sheets must give [-]."""
        return [
            math.ceil(self.wanted[at] * blank.a_piece / sheets - 1e-9) for at, blank in self.blanks
        ]

    def given_enough(self, least_blocks: int) -> CutPlan:
        """Lay sheets of the size that is given, of as many blocks as all pieces need."""
        found = self.given(least_blocks)
        blocks = least_blocks
        while sum(found.lacking()) and blocks < MOST_GIVEN:
            short = max(
                wanted / pieces if pieces else 2.0
                for wanted, pieces in zip(self.wanted, found.pieces(), strict=True)
            )
            if not any(found.pieces()):
                return found  # not one fits on it: more sheets do not help
            blocks = min(MOST_GIVEN, max(blocks + 1, math.floor(blocks * short)))
            found = self.given(blocks)
        while blocks > least_blocks and not sum((fewer := self.given(blocks - 1)).lacking()):
            found, blocks = fewer, blocks - 1
        return found

    def given(self, blocks: int) -> CutPlan:
        """Lay what fits on the sheet that is given."""
        cutting = self.cutting
        edges = 2 * cutting.edge_mm
        length, width = cutting.length_mm - edges, cutting.width_mm - edges
        if length <= 0 or width <= 0:
            raise AplombError(
                "Nothing is left of a sheet of "
                f"{sides_mm(cutting.length_mm, cutting.width_mm, 'g')}: "
                f"{mm_text(cutting.edge_mm)} is trimmed off each side. Trim less, or make "
                "the sheet larger."
            )
        flat = [blank for _, blank in self.blanks]
        sheets = blocks * max(1, cutting.sheets_a_block)
        needs = [min(n, MOST_ON_A_SHEET) for n in self.needs(sheets)]
        best: Layout | None = None
        for rows, u, v in self._both(length, width):
            most_v = self.room[0] if rows == "across" else self.room[1]
            for order in (None, *self._orders()):
                # As it was searched, too: rows choose otherwise where they see the end of the sheet
                for room_v in (v, max(v, most_v)):
                    found = lay(flat, needs, rows, u, room_v, order)
                    if found.v_mm > v + CLOSE_MM:
                        continue
                    if best is None or sum(found.missing) < sum(best.missing):
                        best = found
            if best is not None and not any(best.missing):
                break
        assert best is not None
        sheet = Box(cutting.length_mm, cutting.width_mm, self.thickness_mm)
        return self._plan(best, sheet, sheets, blocks, 0)

    def _orders(self) -> Iterator[tuple[int, ...]]:
        """Orders in which the blanks may be laid, as they stand first."""
        return islice(permutations(range(len(self.blanks))), ORDERS_TRIED)

    def _both(self, length: float, width: float) -> Iterator[tuple[Rows, float, float]]:
        """Each way of the first cuts with its room along and across the rows."""
        if self.cutting.rows != "along":
            yield "across", width, length
        if self.cutting.rows != "across":
            yield "along", length, width

    def searched(self, blocks: int, least_blocks: int) -> CutPlan:
        """Find the smallest sheets: of as few blocks and sheets as the limits allow."""
        most_ml = self.limits.block_ml
        net_ml = (
            sum(self.wanted[at] * b.a_piece * (b.area_mm2 + b.hole_mm2) for at, b in self.blanks)
            * self.thickness_mm
            / 1000
        )
        needed = math.ceil(net_ml / most_ml - 1e-9)
        first = blocks or max(least_blocks, needed)
        last = first if blocks else max(first + 4, math.ceil(first * 1.6))
        tried, below_ml = 0, math.inf
        if not blocks and first > least_blocks:
            below_ml = net_ml / (first - 1)
        for count in range(first, last + 1, max(1, first // 20)):
            for parts in self._parts(count):
                found, looked = self._smallest(count * parts)
                tried += looked
                if found is None:
                    continue
                sheet, layout = found
                volume_ml = parts * sheet.volume_ml
                if volume_ml > most_ml + 1e-6:
                    below_ml = min(below_ml, volume_ml)
                    break  # more parts only add edges: more blocks are wanted
                from_ml = max(volume_ml, 0.0 if blocks else net_ml / first)
                plan = self._plan(layout, sheet, count * parts, count, tried)
                return replace(plan, from_ml=from_ml, below_ml=below_ml)
        raise AplombError(self._why_not(blocks, first))

    def _why_not(self, blocks: int, first: int) -> str:
        if blocks:
            return (
                f"{sum(self.wanted)} pieces do not fit on sheets from "
                + ("1 block" if blocks == 1 else f"{blocks} blocks")
                + ": make more blocks, or let the plan choose how many."
            )
        return (
            f"{sum(self.wanted)} pieces would need more than {first} blocks, and no sheet "
            "that this bench and block allow is large enough. Make fewer, or change the "
            "bench and bowl in the house."
        )

    def _parts(self, blocks: int) -> Iterator[int]:
        """Sheets a block that may be enough, the fewest first."""
        if self.cutting.sheets_a_block:
            yield self.cutting.sheets_a_block
            return
        long, wide = self.room
        area = sum(self.wanted[at] * b.a_piece * (b.area_mm2 + b.hole_mm2) for at, b in self.blanks)
        least = max(1, math.ceil(area / (long * wide) / blocks - 1e-9))
        yield from range(least, max(least + 4, min(least * 2, MOST_PARTS)) + 1)

    def _smallest(self, sheets: int) -> tuple[tuple[Box, Layout] | None, int]:
        """The smallest sheet of so many that gives its share, and how many were looked at."""
        needs = self.needs(sheets)
        if sum(needs) > MOST_ON_A_SHEET:
            return None, 0
        long, wide = self.room
        flat = [blank for _, blank in self.blanks]
        found: list[tuple[float, Rows, float, Layout]] = []
        tried = 0
        for rows, most_u, most_v in self._both(long, wide):
            for u in self._widths(rows, needs, most_u, most_v):
                layout = lay(flat, needs, rows, u, most_v)
                tried += 1
                if not any(layout.missing):
                    found.append((self._score(layout), rows, u, layout))
        if not found:
            return None, tried
        found.sort(key=lambda each: each[0])
        if len(flat) > 1:
            for _, rows, u, _ in found[:BEST_TRIED]:
                most_v = long if rows == "across" else wide
                for order in self._orders():
                    layout = lay(flat, needs, rows, u, most_v, order)
                    tried += 1
                    if not any(layout.missing):
                        found.append((self._score(layout), rows, u, layout))
            found.sort(key=lambda each: each[0])
        _, rows, u, layout = found[0]
        length, width = (layout.v_mm, u) if rows == "across" else (u, layout.v_mm)
        edges = 2 * self.cutting.edge_mm
        return (Box(length + edges, width + edges, self.thickness_mm), layout), tried

    def _score(self, layout: Layout) -> float:
        """Area of the sheet, a little more for a slender one [mm²]."""
        length, width = layout.size_mm
        edges = 2 * self.cutting.edge_mm
        length, width = length + edges, width + edges
        slender = max(length / width, width / length)
        return length * width * (1 + 0.002 * slender) * (1 if slender <= SLENDER else 4)

    def _widths(
        self, rows: Rows, needs: Sequence[int], most_u: float, most_v: float
    ) -> list[float]:
        """Widths that some row fills exactly, from the least that may do [mm]."""
        ways = [
            (way, need)
            for (_, blank), need in zip(self.blanks, needs, strict=True)
            for way in ways_of(blank, rows)
        ]
        area = sum(
            need * (blank.area_mm2 + blank.hole_mm2)
            for (_, blank), need in zip(self.blanks, needs, strict=True)
        )
        least = max(
            area / most_v,
            max(min(w.breadth_mm for w in ways_of(b, rows)) for _, b in self.blanks),
        )
        single: set[float] = set()
        for way, need in ways:
            for count in range(1, min(need, way.in_room(most_u)) + 1):
                single.add(_up(way.span(count)))
                if way.round:  # one more half step, so that moved rows hold as many
                    single.add(_up(way.span(count) + way.pitch_mm[0] / 2))
        both = (
            {_up(a + b) for a in sorted(single)[:40] for b in sorted(single)[:40]}
            if len(self.blanks) > 1
            else set()
        )
        fit = sorted(u for u in single | both if least - 1e-6 <= u <= most_u + 1e-6)
        if len(fit) > MOST_WIDTHS:
            own = sorted(u for u in single if least - 1e-6 <= u <= most_u + 1e-6)
            rest = [u for u in fit if u not in single]
            keep = max(0, MOST_WIDTHS - len(own))
            fit = own[:: max(1, len(own) // MOST_WIDTHS)]
            fit += rest[:: max(1, len(rest) // max(1, keep))] if keep else []
        return fit

    def _plan(self, layout: Layout, sheet: Box, sheets: int, blocks: int, tried: int) -> CutPlan:
        return CutPlan(
            self.products,
            self.blanks,
            layout,
            sheet,
            rolled_of(sheet, self.cutting),
            self.cutting.edge_mm,
            sheets,
            blocks,
            self.wanted,
            tried,
        )


def _up(length_mm: float) -> float:
    """Round a width up to the next micrometre, so that what filled it still does [mm]."""
    return math.ceil(length_mm * 1000) / 1000
