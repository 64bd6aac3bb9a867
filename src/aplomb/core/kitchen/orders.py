"""The order list: what is to be bought for some batches, by supplier, in whole packs."""

import math
from collections.abc import Iterable, Mapping

from msgspec import Struct

from aplomb.core.batch.scaled import Scaled
from aplomb.core.paste.pantry import Pantry

FREE = ("water",)
"""Materials that are never ordered."""


class OrderLine(Struct, frozen=True):
    """One material to buy, or that is there.

    Attributes
    ----------
    needed_g : float
        For all batches [g], as weighed out.
    stock_g : float
        On the shelf [g].
    packs : int
        To buy [-]; 0 when the stock is enough or no pack is known.
    pack_g : float or None
        Mass of a pack [g]; None when it is not known.
    cost : float or None
        Of the packs, in the book's currency; None when no price is known.
    supplier : str
        Empty when it is not known.
    date : str
        Of the price, ISO 8601; empty when it is not known.
    """

    material: str
    name: str
    needed_g: float
    stock_g: float
    packs: int
    pack_g: float | None
    cost: float | None
    supplier: str
    date: str

    @property
    def short_g(self) -> float:
        """What is lacking [g]."""
        return max(0.0, self.needed_g - self.stock_g)

    @property
    def left_g(self) -> float:
        """What is left over afterwards [g]."""
        return self.stock_g + self.packs * (self.pack_g or 0.0) - self.needed_g


class Order(Struct, frozen=True):
    """An order list.

    Attributes
    ----------
    lines : tuple of OrderLine
        By supplier, those without one last, then by name.
    """

    lines: tuple[OrderLine, ...]

    @property
    def suppliers(self) -> tuple[str, ...]:
        """Suppliers in their order; the empty one for what has none."""
        return tuple(dict.fromkeys(line.supplier for line in self.lines))

    def cost(self, supplier: str | None = None) -> float | None:
        """Cost of all packs, or of one supplier's; None when a price is missing."""
        there = [n for n in self.lines if supplier is None or n.supplier == supplier]
        costs = [n.cost for n in there if n.short_g > 0]
        known = [c for c in costs if c is not None]
        return sum(known) if len(known) == len(costs) else None


def needed(batches: Iterable[Scaled]) -> dict[str, float]:
    """Add up what some batches weigh out of each material [g], as rounded to the scale."""
    found: dict[str, float] = {}
    for batch in batches:
        for line in batch.lines:
            key = line.line.material
            found[key] = found.get(key, 0.0) + line.weigh_g
    return {key: grams for key, grams in found.items() if grams > 0}


def order_list(batches: Iterable[Scaled], pantry: Pantry, stock: Mapping[str, float]) -> Order:
    """Make the order list for some batches.

    Water is not ordered.

    Parameters
    ----------
    pantry : Pantry
        With packs, prices and suppliers.
    stock : mapping of float, by material
        On the shelf [g].
    """
    lines = []
    for key, grams in needed(batches).items():
        if key in FREE:
            continue
        pack, there = pantry.pack(key), stock.get(key, 0.0)
        short = max(0.0, grams - there)
        packs = math.ceil(short / pack.pack_g - 1e-9) if pack else 0
        lines.append(
            OrderLine(
                key,
                pantry[key].name,
                grams,
                there,
                packs,
                pack.pack_g if pack else None,
                packs * pack.price if pack else None,
                pack.supplier if pack else "",
                pack.date if pack else "",
            )
        )
    lines.sort(key=lambda n: (n.supplier == "", n.supplier.casefold(), n.name.casefold()))
    return Order(tuple(lines))
