"""Backwards: from a wanted leaf of fat to the plans that give it.

The leaves a plan gives depend on which folds it has, not on their order, so a search walks through
the sets of folds and lets go of a branch as soon as its leaf is thinner than any that is wanted.
"""

import math
from collections.abc import Iterator

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import bare_text, mm_range, mm_text, num
from aplomb.core.folds.claims import SHEETS, spread
from aplomb.core.folds.counts import count
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.step import Step, Way

MOST_FOUND = 24
TURN_MIN, ENCLOSE_MIN = 6.0, 10.0
"""Work at a turn and at enclosing [min], our assumption."""


class Wanted(Struct, frozen=True):
    """What is looked for.

    Attributes
    ----------
    low_um, high_um : float
        Band of the fat leaf in the final sheet [µm].
    sheet_mm : float
        Final sheet [mm].
    fat_share : float
        Volume share of the fat block [-].
    enclosures : tuple of Enclosure
        Those that may be used, of sheets.
    panels : tuple of int
        Folds that may be used: 2 to 6.
    turns_a_rest : int
        Turns before it goes back to the cold.
    rest_min : float
        Length of a rest [min].
    volume_ml : float
        One block of paste [mL]; 0 when sizes do not matter.
    width_mm, bench_mm : float
        Width every sheet is rolled to and the longest the bench takes [mm].
    rolled_mm : float
        Thickness before a fold [mm].
    """

    low_um: float
    high_um: float
    sheet_mm: float
    fat_share: float
    enclosures: tuple[Enclosure, ...] = (Enclosure.ENVELOPE,)
    panels: tuple[int, ...] = (3, 4)
    most_turns: int = 6
    turns_a_rest: int = 2
    rest_min: float = 30.0
    volume_ml: float = 0.0
    width_mm: float = 300.0
    bench_mm: float = 2000.0
    rolled_mm: float = 10.0


class PlanProposal(Struct, frozen=True):
    """A plan that fits.

    Attributes
    ----------
    plan : Plan
        With its rests.
    fat_leaf_um : float
        Mean leaf of fat in the final sheet [µm].
    off : float
        How far from the middle of the band, as a ratio: 0 in the middle, 1 at its ends.
    minutes : float
        Work and rests [min].
    """

    plan: Plan
    fat_leaves: int
    fat_leaf_um: float
    off: float
    minutes: float

    @property
    def turns(self) -> int:
        """Turns after enclosing [-]."""
        return len(self.plan.turns)

    @property
    def rests(self) -> int:
        """Rests in the cold [-]."""
        return sum(not step.is_turn for step in self.plan.steps)


def check_wanted(wanted: Wanted) -> Wanted:
    """Give the wish back if it can be looked for; raises AplombError with what is wrong.

    Raises
    ------
    AplombError
        With the reason in words.
    """
    numbers = (wanted.low_um, wanted.high_um, wanted.sheet_mm, wanted.fat_share, wanted.rest_min)
    if not all(math.isfinite(n) for n in numbers) or not 0 < wanted.low_um < wanted.high_um:
        raise AplombError("give the fat leaf from the smaller figure to the larger, above 0 µm")
    if not 0 < wanted.fat_share < 1:
        raise AplombError("there is no fat block yet, so there are no fat leaves")
    if not 0.1 <= wanted.sheet_mm <= 100:
        raise AplombError(
            f"a final sheet can be {mm_range(0.1, 100)} thick, not "
            f"{mm_text(wanted.sheet_mm, '.6g')}"
        )
    if not 1 <= wanted.most_turns <= 10:
        raise AplombError(f"search 1 to 10 turns, not {wanted.most_turns}")
    if not wanted.panels or not set(wanted.panels) <= {2, 3, 4, 5, 6}:
        raise AplombError("choose at least one fold of 2 to 6 panels")
    if not wanted.enclosures or not set(wanted.enclosures) <= set(SHEETS):
        raise AplombError("choose at least one of envelope, thirds, halves and inverse")
    if not 1 <= wanted.turns_a_rest <= 10 or not 0 <= wanted.rest_min <= 10_000:
        raise AplombError("put a rest after every 1 to 10 turns, of up to 10 000 min")
    return wanted


def find_plans(wanted: Wanted) -> tuple[PlanProposal, ...]:
    """Find every plan that gives the wanted leaf.

    At most 24: nearest the middle of the band first, in steps; then fewer turns, rests and
    minutes, singles and doubles before other folds.

    Raises
    ------
    AplombError
        As `check_wanted`; and when nothing fits, with what stands in the way.
    """
    check_wanted(wanted)
    if wanted.volume_ml > 0:
        length = wanted.volume_ml * 1000 / (wanted.width_mm * wanted.rolled_mm)
        if length > wanted.bench_mm:
            raise AplombError(
                f"rolled to {mm_text(wanted.rolled_mm)} thick and "
                f"{mm_text(wanted.width_mm)} wide, the sheet is {mm_text(length, '.0f')} "
                f"long, and the bench takes only {bare_text(wanted.bench_mm, 'mm')}; make "
                "more blocks"
            )
    sheet_um = wanted.sheet_mm * 1000
    found = []
    for enclosure in wanted.enclosures:
        for panels in _sets(enclosure, wanted):
            plan = _with_rests(enclosure, spread(panels), wanted)
            leaves = count(plan).fat
            leaf = wanted.fat_share * sheet_um / leaves
            if wanted.low_um * (1 - EDGE) <= leaf <= wanted.high_um * (1 + EDGE):
                found.append(_found(plan, leaves, leaf, wanted))
    if not found:
        raise AplombError(
            f"no plan of up to {wanted.most_turns} turns gives fat leaves of "
            f"{num(wanted.low_um)} to {num(wanted.high_um)} µm in a sheet of "
            f"{mm_text(wanted.sheet_mm)}; widen the range, or allow other folds"
        )
    found.sort(key=_rank)
    return tuple(found[:MOST_FOUND])


EDGE = 1e-9
"""A leaf this near the end of the band lies in it [-]: rounding must not decide."""

NEAR = 0.25
"""Plans this near one another in closeness are ranked by turns and time instead [-], our choice."""


def _rank(found: PlanProposal) -> tuple[int, int, int, int, float]:
    panels = [step.panels for step in found.plan.turns]
    unusual = sum(n not in (3, 4) for n in panels)
    return (int(found.off / NEAR), found.turns, found.rests, unusual, found.minutes)


def _sets(enclosure: Enclosure, wanted: Wanted) -> Iterator[tuple[int, ...]]:
    """Walk through the sets of folds, smallest panels first, while the leaf is thick enough."""
    kinds = sorted(set(wanted.panels))
    most_leaves = wanted.fat_share * wanted.sheet_mm * 1000 / wanted.low_um
    first = count(Plan(enclosure)).fat
    half = 0.5  # an inverse plan merges almost half of its fat at the first fold
    stack: list[tuple[tuple[int, ...], int, int]] = [((), 0, 1)]
    while stack:
        panels, at, product = stack.pop()
        if panels:
            yield panels
        if len(panels) == wanted.most_turns:
            continue
        for i in range(at, len(kinds)):
            grown = product * kinds[i]
            if grown * first * half <= most_leaves:
                stack.append(((*panels, kinds[i]), i, grown))


def _with_rests(enclosure: Enclosure, panels: tuple[int, ...], wanted: Wanted) -> Plan:
    steps: list[Step] = []
    for i, n in enumerate(panels, 1):
        steps.append(Step(Way.FOLD, n))
        if i % wanted.turns_a_rest == 0 or i == len(panels):
            steps.append(Step(Way.REST, rest_min=wanted.rest_min or None))
    return Plan(enclosure, tuple(steps))


def _found(plan: Plan, leaves: int, leaf: float, wanted: Wanted) -> PlanProposal:
    middle = math.sqrt(wanted.low_um * wanted.high_um)
    reach = math.log(wanted.high_um / middle)
    rests = sum(not step.is_turn for step in plan.steps)
    minutes = ENCLOSE_MIN + TURN_MIN * len(plan.turns) + wanted.rest_min * rests
    return PlanProposal(plan, leaves, leaf, abs(math.log(leaf / middle)) / reach, minutes)
