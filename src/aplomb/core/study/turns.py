"""What follows from each turn of a study."""

from msgspec import Struct

from aplomb.core.base.errors import AplombError, as_sentence
from aplomb.core.folds.counts import refuse_unworkable
from aplomb.core.folds.enclosing import Enclosing
from aplomb.core.folds.means import Leaves, leaves_along_plan
from aplomb.core.folds.pieces_form import pieces_at_start
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.sizes import TurnSize, Worked, logs_of
from aplomb.core.folds.windings import windings
from aplomb.core.paste.accounts import Accounts, volume_ml
from aplomb.core.paste.formula import Formula, turn_of
from aplomb.core.paste.pantry import Pantry


class TurnStudy(Struct, frozen=True):
    """One moment of the plan: after enclosing (step -1), or after a step.

    Attributes
    ----------
    step : int
        Place in the plan's steps; -1 for the enclosing.
    product : int
        Product of the panels so far [-].
    fat_leaves, dough_leaves : float or None
        Leaves so far [-]; means for paste in pieces.
    size : TurnSize or None
        Of a turn.
    """

    step: int
    product: int
    fat_leaves: float | None
    dough_leaves: float | None
    size: TurnSize | None


def leaves_of_plan(
    formula: Formula, plan: Plan, accounts: Accounts, how: Enclosing | None, worked: Worked
) -> Leaves | None:
    """Follow the leaves along a plan; None where there are none."""
    share = accounts.fat_volume_share or 0.0
    pieces = pieces_at_start(
        share,
        formula.gathered_mm,
        formula.piece_fat_mm,
        formula.piece_form,
        formula.piece_spread_pct / 100,
    )
    logs = logs_of(plan, how, worked, formula.working)
    return leaves_along_plan(plan, pieces, tuple(windings(*log) for log in logs))


def strewn(
    formula: Formula, pantry: Pantry, plan: Plan, accounts: Accounts
) -> tuple[tuple[int, float], ...]:
    """Volumes strewn in at each turn, over the paste's volume [-]."""
    found: dict[int, float] = {}
    for line in formula.between:
        turn = turn_of(line, plan)
        if turn and line.grams > 0 and accounts.paste_ml > 0:
            volume = volume_ml([(line.grams, pantry[line.material].composition)])
            found[turn] = found.get(turn, 0.0) + volume / accounts.paste_ml
    return tuple(sorted(found.items()))


def turns_of(
    plan: Plan, leaves: Leaves | None, worked: Worked, trouble: str
) -> tuple[tuple[TurnStudy, ...], str]:
    """Give what follows from each turn, and why no more does; empty where all do."""
    sizes = worked.turns
    found: list[TurnStudy] = []
    turn, product = 0, 1
    for i, step in enumerate((None, *plan.steps)):
        size = None
        if step is not None and step.is_turn:
            size = sizes[turn] if sizes else None
            turn += 1
            product *= step.panels
        fat, dough = leaves[i] if leaves else (None, None)
        found.append(TurnStudy(i - 1, product, fat, dough, size))
    if not trouble and plan.enclosure is Enclosure.PORTIONS and not plan.portions:
        trouble = "No portion of fat is spread yet: add a step like +3 where one goes."
    if not trouble and found[-1].fat_leaves is None:
        trouble = _why_no_leaves(plan)
    return tuple(found), trouble


def _why_no_leaves(plan: Plan) -> str:
    try:
        refuse_unworkable(plan)
    except AplombError as error:
        return as_sentence(error)
    return "The leaves of a log depend on its size, and there are no weights yet."
