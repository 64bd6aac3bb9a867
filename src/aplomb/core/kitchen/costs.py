"""What a batch costs: by material, by product, and against what a piece may cost."""

from collections.abc import Callable

from msgspec import Struct

from aplomb.core.paste.formula import Part
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.study import Study


class MaterialCost(Struct, frozen=True):
    """One material of a batch.

    Attributes
    ----------
    grams : float
        As it is weighed out [g].
    cost : float or None
        Of the exact mass, before it is rounded to the scale, in the book's currency; None without
        a price.
    date : str
        Of the price, ISO 8601; empty when it is not known.
    """

    material: str
    name: str
    grams: float
    cost: float | None
    date: str


class ProductCost(Struct, frozen=True):
    """One product of a batch.

    Attributes
    ----------
    name : str
        Empty for the batch's own piece.
    good : int
        Whole pieces [-].
    paste, on_it : float or None
        Cost of its share of the paste with all losses, and of what is on it: all of them together,
        in the book's currency; None when a price is missing.
    target : float
        What one may cost; 0 for no target.
    """

    name: str
    good: int
    paste: float | None
    on_it: float | None
    target: float

    @property
    def each(self) -> float | None:
        """Cost of one whole piece; None when a price or pieces are missing."""
        if self.paste is None or self.on_it is None or self.good <= 0:
            return None
        return (self.paste + self.on_it) / self.good

    @property
    def over_target(self) -> bool:
        """True when a piece costs more than it may."""
        each = self.each
        return self.target > 0 and each is not None and each > self.target + 1e-9


class Costs(Struct, frozen=True):
    """Costs of a batch.

    Attributes
    ----------
    materials : tuple of MaterialCost
        The dearest first, those without a price before all.
    """

    materials: tuple[MaterialCost, ...]
    products: tuple[ProductCost, ...]

    @property
    def whole(self) -> float | None:
        """Cost of the batch; None when a price is missing or nothing is weighed."""
        costs = [each.cost for each in self.materials]
        known = [cost for cost in costs if cost is not None]
        return sum(known) if costs and len(known) == len(costs) else None

    @property
    def oldest(self) -> str:
        """Day of the oldest price, ISO 8601; empty when no price has a day."""
        return min((m.date for m in self.materials if m.date), default="")

    @property
    def unpriced(self) -> tuple[str, ...]:
        """Names of materials without a price."""
        return tuple(m.name for m in self.materials if m.cost is None)


def costs_of(study: Study, pantry: Pantry) -> Costs:
    """Work out what a batch costs.

    Parameters
    ----------
    pantry : Pantry
        With the prices.

    Notes
    -----
    Products share the paste, with its losses, dusting and what is strewn in, by the paste in their
    pieces, those of offcuts none of it: it was lost already; the finish by the number of pieces; a
    filling or topping is its own. The shares add up to the whole.
    """
    scaled = study.scaled
    grams: dict[str, float] = {}
    exact: dict[str, float] = {}
    for line in scaled.lines:
        key = line.line.material
        grams[key] = grams.get(key, 0.0) + line.weigh_g
        exact[key] = exact.get(key, 0.0) + line.exact_g
    materials = []
    for key, mass in grams.items():
        if mass > 0:
            each, pack = pantry.per_gram(key), pantry.pack(key)
            cost = None if each is None else exact[key] * each
            materials.append(
                MaterialCost(key, pantry[key].name, mass, cost, pack.date if pack else "")
            )
    materials.sort(key=lambda m: (m.cost is not None, -(m.cost or 0.0)))
    return Costs(tuple(materials), _by_product(study, pantry))


def _by_product(study: Study, pantry: Pantry) -> tuple[ProductCost, ...]:
    scaled, formula = study.scaled, study.formula
    whole = (*scaled.made, *scaled.from_offcuts)
    pieces = sum(made.pieces for made in whole)
    in_pieces = sum(made.pieces * made.paste_g for made in scaled.made)
    if not in_pieces:
        return ()
    paste = _cost(study, pantry, lambda part, _: part not in (Part.FILLING, Part.FINISH))
    finish = _cost(study, pantry, lambda part, _: part is Part.FINISH)
    own = {p.name for p in formula.products if p.filling}
    plain = sum(made.pieces for made in whole if made.name not in own)
    shared = _cost(study, pantry, lambda part, product: part is Part.FILLING and not product)
    targets = {p.name: p.price for p in formula.products}
    found = []
    for i, made in enumerate(whole):
        share = made.pieces * made.paste_g / in_pieces if i < len(scaled.made) else 0.0
        extra = _cost(study, pantry, _for(made.name))
        on_it = _sum(
            extra,
            None if finish is None else finish * made.pieces / pieces,
            0.0
            if made.name in own or not plain
            else None
            if shared is None
            else shared * made.pieces / plain,
        )
        found.append(
            ProductCost(
                made.name,
                made.good,
                None if paste is None else paste * share,
                on_it,
                targets.get(made.name, 0.0),
            )
        )
    return tuple(found)


def _for(name: str) -> Callable[[Part, str], bool]:
    return lambda _part, product: bool(name) and product == name


def _sum(*costs: float | None) -> float | None:
    known = [cost for cost in costs if cost is not None]
    return sum(known) if len(known) == len(costs) else None


def _cost(study: Study, pantry: Pantry, which: Callable[[Part, str], bool]) -> float | None:
    """Cost of the lines that a test picks; None when one of them has no price."""
    cost = 0.0
    for line in study.scaled.lines:
        if line.exact_g > 0 and which(line.part, line.product):
            each = pantry.per_gram(line.line.material)
            if each is None:
                return None
            cost += line.exact_g * each
    return cost
