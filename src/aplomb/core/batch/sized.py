"""A batch and the sizes of its blocks, found together: trims take of what they are measured on."""

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.batch.blocks import enclosed_block, worked_block
from aplomb.core.batch.made_batch import MadeBatch
from aplomb.core.batch.scale import scale
from aplomb.core.batch.scaled import Scaled
from aplomb.core.batch.sheets import Sheets
from aplomb.core.folds.enclosing import Enclosing
from aplomb.core.folds.sizes import Worked
from aplomb.core.folds.step import Way
from aplomb.core.paste.accounts import Accounts
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.pantry import Pantry

MOST_ROUNDS = 12
FOLDED_CLOSE = 1e-7
"""Rounds of batch and trims until the share that is trimmed changes by less [-]."""
HALVINGS = 40
MOST_FOLDED = 0.9
"""Largest share of a block that trims may take while it is folded [-]."""
_TRIMS_TAKE_ALL = (
    f"Trimming would take off over {MOST_FOLDED:.0%} of so small a block: trim less, or make more "
    "paste."
)


class Sized(Struct, frozen=True):
    """A batch with its sizes.

    Attributes
    ----------
    enclosing : Enclosing or None
        None when it cannot be had, or there is no paste.
    worked : Worked
        Turns and trims of one block.
    trouble : str
        Why some of it cannot be had; empty when all can.
    """

    scaled: Scaled
    enclosing: Enclosing | None
    worked: Worked
    trouble: str = ""


def block_volume_ml(accounts: Accounts, scaled: Scaled) -> float:
    """Give the volume of one block of paste."""
    return accounts.paste_ml * scaled.a_block


def trimmed_share(worked: Worked, block_ml: float) -> float:
    """Give the share of a block that trims take while it is folded.

    Parameters
    ----------
    block_ml : float
        Its volume [mL].

    Returns
    -------
    float
        [-]; 0 for no block.
    """
    off = sum(trim.off_ml for trim in worked.trims)
    return off / block_ml if block_ml > 0 else 0.0


def sized_batch(
    formula: Formula,
    pantry: Pantry,
    accounts: Accounts,
    house: House,
    made_batches: tuple[MadeBatch, ...] = (),
    uid: str = "",
    cut: Sheets | None = None,
) -> Sized:
    """Scale a formula and size one block; trims of its folds are taken off the batch.

    Parameters
    ----------
    accounts : Accounts
        Of the formula as written.
    made_batches : tuple of MadeBatch
        Batches that were really made, for their losses.
    uid : str
        Identity of the formula, whose own batches come first.
    cut : Sheets or None
        Its cut plan, as for `scale`.

    Notes
    -----
    A trim is so many mm of a block whose size hangs on what trims take: the share that is trimmed
    is the one that comes out of the block it makes. It is found by going on with what came out,
    f₁ = g(f₀), f₂ = g(f₁) …, and where that does not settle, by halving f - g(f).
    """
    search = _Search(formula, pantry, accounts, house, made_batches, uid, cut)
    found, share = search.at(0.0)
    if not any(step.way is Way.TRIM for step in formula.plan.steps) or found.scaled.factor <= 0:
        return found
    for _ in range(MOST_ROUNDS):
        folded = share
        if folded >= MOST_FOLDED:
            break
        found, share = search.at(folded)
        if abs(share - folded) < FOLDED_CLOSE:
            return found
    return search.halved()


class _Search:
    """Tries shares that trims may take."""

    def __init__(
        self,
        formula: Formula,
        pantry: Pantry,
        accounts: Accounts,
        house: House,
        made_batches: tuple[MadeBatch, ...],
        uid: str,
        cut: Sheets | None,
    ) -> None:
        self.formula, self.pantry, self.accounts = formula, pantry, accounts
        self.house, self.made_batches, self.uid, self.cut = house, made_batches, uid, cut

    def at(self, folded: float) -> tuple[Sized, float]:
        """Give the batch when trims take so much, and what they do take of its block [-]."""
        scaled = scale(
            self.formula,
            self.pantry,
            self.accounts,
            self.made_batches,
            folded,
            self.uid,
            self.cut,
            self.house.bowl_most_g,
        )
        found = self._with_sizes(scaled)
        volume = block_volume_ml(self.accounts, scaled)
        return found, 1.0 if found.trouble else trimmed_share(found.worked, volume)

    def halved(self) -> Sized:
        """Find the share by halving; trims that would take nearly all are left out and told."""
        low, high = 0.0, MOST_FOLDED
        if self.at(high)[1] > high:
            found, _ = self.at(0.0)
            return Sized(
                found.scaled, found.enclosing, Worked((), ()), found.trouble or _TRIMS_TAKE_ALL
            )
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            share = self.at(middle)[1]
            low, high = (middle, high) if share > middle else (low, middle)
        return self.at(high)[0]

    def _with_sizes(self, scaled: Scaled) -> Sized:
        """Size one block: the enclosing, turns and trims, and why they cannot be had."""
        formula, accounts, house = self.formula, self.accounts, self.house
        each = scaled.a_block
        if accounts.paste_ml * each <= 0:
            return Sized(scaled, None, Worked((), ()))
        how: Enclosing | None = None
        try:
            how = enclosed_block(formula, formula.plan, accounts, each, house)
            worked = worked_block(formula, formula.plan, accounts, each, house, how)
        except AplombError as error:
            return Sized(scaled, how, Worked((), ()), str(error))
        return Sized(scaled, how, worked)
