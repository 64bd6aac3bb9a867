"""What is there already: materials on the shelf, blocks in the freezer; and what a day wants."""

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import Problems
from aplomb.core.base.quantity import LARGEST_G
from aplomb.core.base.sound import check_sound
from aplomb.core.batch.keeping import KeptItem, check_kept
from aplomb.core.batch.made_batch import MadeBatch

MOST_WANTS = 500
NOTHING_G = 0.5
"""Less frozen paste than this is none [g]."""


class FrozenBlock(Struct, frozen=True, forbid_unknown_fields=True):
    """Blocks of one paste in the freezer.

    Attributes
    ----------
    uid : str
        The formula's identity in the book.
    each_g : float
        Mass of one [g].
    turns : int
        Turns done [-].
    made : str
        Day, ISO 8601; empty when it is not known.
    """

    uid: str
    blocks: int
    each_g: float
    turns: int = 0
    made: str = ""


class Stock(Struct, frozen=True, forbid_unknown_fields=True):
    """What is there.

    Attributes
    ----------
    materials : dict of float, by key
        What is on the shelf [g].
    kept : tuple of KeptItem
        What is put by besides: paste in the fridge, raw pieces, what is baked.
    """

    materials: dict[str, float] = {}
    frozen: tuple[FrozenBlock, ...] = ()
    kept: tuple[KeptItem, ...] = ()


class Want(Struct, frozen=True, forbid_unknown_fields=True):
    """So many of one product.

    Attributes
    ----------
    uid : str
        The formula's identity in the book.
    product : str
        Its name; empty for the batch's own piece.
    """

    uid: str
    product: str
    pieces: int


class Demand(Struct, frozen=True, forbid_unknown_fields=True):
    """What a day wants.

    Attributes
    ----------
    name : str
        As ``Regatta day``.
    day : str
        ISO 8601; empty when it is not set.
    use_frozen : bool
        Blocks in the freezer are used first.
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
    for i, each in enumerate(stock.frozen, 1):
        wrong.number(f"frozen {i}, blocks", each.blocks, 1, 10_000, "")
        wrong.number(f"frozen {i}, weight per block", each.each_g, 1, LARGEST_G, "g")
        wrong.number(f"frozen {i}, turns done", each.turns, 0, 99, "")
    check_kept(stock.kept, wrong)
    check_sound(stock, wrong)
    wrong.check()
    return stock


def used_up(stock: Stock, made_batch: MadeBatch, frozen_g: float) -> Stock:
    """Take what a batch used off the stock.

    A material whose stock is not kept stays unknown; none becomes less than nothing. Blocks go
    the oldest first, whole ones.

    Parameters
    ----------
    record : MadeBatch
        With what was weighed.
    frozen_g : float
        Paste of its formula that came from the freezer [g].
    """
    materials = dict(stock.materials)
    for line in made_batch.lines:
        if line.material in materials:
            materials[line.material] = max(0.0, materials[line.material] - line.got_g)
    frozen: list[FrozenBlock] = []
    for each in sorted(stock.frozen, key=lambda b: b.made):
        blocks = 0
        while each.uid == made_batch.uid and blocks < each.blocks and frozen_g > NOTHING_G:
            blocks, frozen_g = blocks + 1, frozen_g - each.each_g
        if blocks < each.blocks:
            frozen.append(replace(each, blocks=each.blocks - blocks))
    left = {k: g for k, g in materials.items() if g > 0}
    return replace(stock, materials=left, frozen=tuple(frozen))


def without_blocks(stock: Stock, uid: str, blocks: int) -> tuple[Stock, int]:
    """Take blocks of a formula out of the freezer, the oldest first.

    Parameters
    ----------
    uid : str
        Of the formula.

    Returns
    -------
    tuple of (Stock, blocks that were there [-])

    Examples
    --------
    >>> two = FrozenBlock("a", 2, 1000.0, made="2026-11-01")
    >>> left, taken = without_blocks(Stock(frozen=(two,)), "a", 5)
    >>> left.frozen, taken
    ((), 2)
    """
    left = blocks
    frozen: list[FrozenBlock] = []
    for each in sorted(stock.frozen, key=lambda b: b.made):
        out = min(left, each.blocks) if each.uid == uid else 0
        left -= out
        if out < each.blocks:
            frozen.append(replace(each, blocks=each.blocks - out))
    return replace(stock, frozen=tuple(frozen)), blocks - left


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
    kept = (replace(i, many=i.many - out) if i.key == key else i for i in stock.kept)
    return replace(stock, kept=tuple(i for i in kept if i.many > 0)), out


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
