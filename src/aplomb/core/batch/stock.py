"""What is there already: materials on the shelf, blocks in the freezer; and what a day wants."""

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import Problems
from aplomb.core.base.quantity import LARGEST_G
from aplomb.core.base.sound import check_sound
from aplomb.core.batch.keeping import SHARES, KeptItem, check_kept
from aplomb.core.batch.made_batch import MadeBatch

MOST_WANTS = 500
NOTHING_G = 0.5
"""Less frozen paste than this is none [g]."""


class Stock(Struct, frozen=True, forbid_unknown_fields=True):
    """What is there.

    Attributes
    ----------
    materials : dict of float, by key
        What is on the shelf [g].
    kept : tuple of KeptItem
        What is in store besides: blocks in freezer and fridge, raw pieces, what is baked.
    """

    materials: dict[str, float] = {}
    kept: tuple[KeptItem, ...] = ()

    def blocks(self, uid: str = "") -> tuple[KeptItem, ...]:
        """Give the blocks of a formula, or of all, that a batch can begin from, oldest first."""
        found = [i for i in self.kept if i.form in SHARES and (not uid or i.uid == uid)]
        return tuple(sorted(found, key=lambda i: i.made))


class Want(Struct, frozen=True, forbid_unknown_fields=True):
    """So many of one product, or blocks of paste to keep.

    Attributes
    ----------
    uid : str
        The formula's identity in the book.
    product : str
        Its name; empty for the batch's own piece.
    pieces : int
        So many [-]; blocks where they are to keep.
    keep : bool
        Blocks of paste to keep, not pieces.
    """

    uid: str
    product: str
    pieces: int
    keep: bool = False


class Demand(Struct, frozen=True, forbid_unknown_fields=True):
    """What a day wants.

    Attributes
    ----------
    name : str
        As ``Regatta day``.
    day : str
        ISO 8601; empty when it is not set.
    use_frozen : bool
        Blocks in stock are used first, from freezer and fridge.
    """

    name: str = ""
    day: str = ""
    wants: tuple[Want, ...] = ()
    use_frozen: bool = False


def check_stock(stock: Stock) -> Stock:
    """Give the stock back if every figure in it can be used; raises FormulaError otherwise.

    Raises
    ------
    FormulaError
        With the reason in words.
    """
    wrong = Problems()
    for key, grams in stock.materials.items():
        wrong.number(f"stock of {key}", grams, 0, LARGEST_G, "g")
    check_kept(stock.kept, wrong)
    check_sound(stock, wrong)
    wrong.check()
    return stock


def used_up(stock: Stock, made_batch: MadeBatch, stock_g: float) -> Stock:
    """Take what a batch used off the stock.

    A material whose stock is not kept stays unknown; none becomes less than nothing. Blocks go
    the oldest first, whole ones.

    Parameters
    ----------
    record : MadeBatch
        With what was weighed.
    stock_g : float
        Paste of its formula that came out of stock [g].
    """
    materials = dict(stock.materials)
    for line in made_batch.lines:
        if line.material in materials:
            materials[line.material] = max(0.0, materials[line.material] - line.got_g)
    taken: dict[str, int] = {}
    for each in stock.blocks(made_batch.uid):
        while taken.get(each.key, 0) < each.many and stock_g > NOTHING_G and each.each_g > 0:
            taken[each.key], stock_g = taken.get(each.key, 0) + 1, stock_g - each.each_g
    left = {k: g for k, g in materials.items() if g > 0}
    return replace(stock, materials=left, kept=_less(stock.kept, taken))


def _less(kept: tuple[KeptItem, ...], taken: dict[str, int]) -> tuple[KeptItem, ...]:
    """Give what is left in store when so many of each are taken, by key."""
    left = (replace(i, many=i.many - taken.get(i.key, 0)) for i in kept)
    return tuple(i for i in left if i.many > 0)


def without_blocks(stock: Stock, uid: str, blocks: int) -> tuple[Stock, int]:
    """Take blocks of a formula out of stock, the oldest first.

    Parameters
    ----------
    uid : str
        Of the formula.

    Returns
    -------
    tuple of (Stock, blocks that were there [-])

    Examples
    --------
    >>> two = KeptItem("k", "a", "whole", "freezer", 2, 1000.0, made="2026-11-01")
    >>> left, taken = without_blocks(Stock(kept=(two,)), "a", 5)
    >>> left.kept, taken
    ((), 2)
    """
    left = blocks
    taken: dict[str, int] = {}
    for each in stock.blocks(uid):
        taken[each.key] = min(left, each.many)
        left -= taken[each.key]
    return replace(stock, kept=_less(stock.kept, taken)), blocks - left


def without_pieces(stock: Stock, key: str, pieces: int) -> tuple[Stock, int]:
    """Take pieces out of what is put by.

    Parameters
    ----------
    key : str
        Of the item.

    Returns
    -------
    tuple of (Stock, pieces that were there [-])
    """
    there = next((each.many for each in stock.kept if each.key == key), 0)
    out = min(pieces, there)
    return replace(stock, kept=_less(stock.kept, {key: out})), out


def check_demand(demand: Demand) -> Demand:
    """Give the demand back if every figure in it can be used; raises FormulaError otherwise.

    Raises
    ------
    FormulaError
        With the reason in words.
    """
    wrong = Problems()
    if len(demand.wants) > MOST_WANTS:
        wrong.add(f"demand: {len(demand.wants)} lines are too many; use up to {MOST_WANTS}.")
    for want in demand.wants:
        wrong.number(f"{want.product or 'pieces'} ordered", want.pieces, 0, 1_000_000, "pieces")
    check_sound(demand, wrong)
    wrong.check()
    return demand
