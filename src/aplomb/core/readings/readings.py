"""The readings: what each figure of a formula means, one meaning everywhere.

*Flour* is all flour and starch in dough and fat block, not dusting. *Fat product* is a fat as
weighed (butter with its water). Percentages are on flour unless the name says otherwise.
"""

from collections.abc import Iterable

from msgspec import Struct

from aplomb.core.base.composition import Composition, mixed
from aplomb.core.batch.scaled import Scaled
from aplomb.core.folds.plan import Plan
from aplomb.core.paste.accounts import Accounts
from aplomb.core.paste.energy import energy_kcal_g, energy_kj_g
from aplomb.core.paste.formula import Formula, Part, mean_filling
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry


class Readings(Struct, frozen=True, omit_defaults=True):
    """The figures of a formula; one that cannot be had is None and is left out of JSON.

    Attributes
    ----------
    flour_g, dough_g, block_g, paste_g : float
        Flour; dough without the fat block; fat block with its flour; dough and block together,
        without dusting and finish [g].
    fat_product_pct, enclosed_fat_pct, dough_fat_pct : float or None
        All fat products on flour, and its two shares [%].
    fat_on_dough_pct, fat_on_total_pct : float or None
        Enclosed fat product on `dough_g`, and all fat products on `paste_g` [%].
    pure_fat_pct : float or None
        All fat by composition, the flour's own not counted [%].
    dough_water_pct, total_water_pct : float or None
        Water by composition, the flour's own moisture not counted: of the dough, on the flour of
        the dough alone, for flour that is worked into the fat block does not drink it; and with
        the fat block's water, on all flour [%].
    salt_pct : float or None
        Salt from all sources [%].
    flour_protein_pct, flour_moisture_pct : float or None
        Of all flour together, on its own mass [%]; the moisture as measured, when it was.
    dough_water_14_pct : float or None
        Dough water, on the flour of the dough, as it would be with flour of 14 % moisture [%].
    acid_product_pct, acid_pct : float or None
        Vinegar, juice and acid as weighed; and what they hold, as acetic acid [%].
    sugar_added_pct, milk_solids_pct : float or None
        Sugar of all that was added for sweetness; solids of milk without its fat [%].
    between_g : float or None
        What is sprinkled in between the folds [g]; None when nothing is.
    fat_volume_share : float or None
        Volume of the fat block over the paste's, 0–1 [-].
    product, fat_leaves, dough_leaves, leaves : int, float or None
        As counted; for paste in pieces expected means.
    leaves_are_means : bool
        True for paste in pieces and for what is rolled to a log.
    sheet_mm : float
        Final sheet [mm].
    fat_leaf_um, dough_leaf_um : float or None
        Mean leaf in the final sheet [µm].
    cost, cost_per_piece : float or None
        Of the formula as written with dusting and finish; and of one whole piece of the batch,
        which carries those that break. None when a price is missing or no piece is whole.
    piece_eaten_g, fat_g_per_piece, salt_g_per_piece : float or None
        One raw piece with filling and finish, and what is in it [g]. Dusting is not counted.
    energy_kj_per_piece, energy_kcal_per_piece : float or None
        Energy of it for a label [kJ], [kcal]; baking takes only water.
    """

    flour_g: float
    dough_g: float
    block_g: float
    paste_g: float
    fat_product_pct: float | None = None
    enclosed_fat_pct: float | None = None
    dough_fat_pct: float | None = None
    fat_on_dough_pct: float | None = None
    fat_on_total_pct: float | None = None
    pure_fat_pct: float | None = None
    dough_water_pct: float | None = None
    total_water_pct: float | None = None
    salt_pct: float | None = None
    flour_protein_pct: float | None = None
    flour_moisture_pct: float | None = None
    dough_water_14_pct: float | None = None
    acid_product_pct: float | None = None
    acid_pct: float | None = None
    sugar_added_pct: float | None = None
    milk_solids_pct: float | None = None
    between_g: float | None = None
    fat_volume_share: float | None = None
    product: int | None = None
    fat_leaves: float | None = None
    dough_leaves: float | None = None
    leaves: float | None = None
    leaves_are_means: bool = False
    sheet_mm: float | None = None
    fat_leaf_um: float | None = None
    dough_leaf_um: float | None = None
    cost: float | None = None
    cost_per_piece: float | None = None
    piece_eaten_g: float | None = None
    energy_kj_per_piece: float | None = None
    energy_kcal_per_piece: float | None = None
    fat_g_per_piece: float | None = None
    salt_g_per_piece: float | None = None


def cost_of(formula: Formula, pantry: Pantry, pieces: float | None = None) -> float | None:
    """Cost of everything in the formula as written, dusting and finish too.

    Parameters
    ----------
    pantry : Pantry
        Holding the prices.
    pieces : float or None
        Pieces that the formula as written gives [-], for the filling.

    Returns
    -------
    float or None
        In the book's currency; None when there is nothing or a price is missing.
    """
    filling = [line for line in mean_filling(formula) if line.grams > 0]
    if filling and pieces is None:
        return None
    lines = [(line, 1.0) for part, _, line in formula.all_lines() if part is not Part.FILLING]
    lines += [(line, pieces or 0.0) for line in filling]
    cost, some = 0.0, False
    for line, times in lines:
        if line.grams > 0:
            each = pantry.per_gram(line.material)
            if each is None:
                return None
            some = True
            cost += line.grams * each * times
    return cost if some else None


def unpriced(formula: Formula, pantry: Pantry) -> tuple[str, ...]:
    """Name the materials with weight that have no price, each once, in the order of the lines."""
    lines = [line for part, _, line in formula.all_lines() if part is not Part.FILLING]
    lines += mean_filling(formula)
    keys = dict.fromkeys(line.material for line in lines if line.grams > 0)
    return tuple(pantry[key].name for key in keys if pantry.per_gram(key) is None)


def piece_of(
    formula: Formula, pantry: Pantry, piece_g: float, pieces: float
) -> tuple[float, Composition]:
    """Work out one raw piece with its filling and finish.

    Parameters
    ----------
    piece_g : float
        Paste in a piece, with what is strewn in [g].
    pieces : float
        Pieces that the formula as written gives [-].

    Returns
    -------
    tuple of (mass [g], Composition)
    """

    def some(lines: Iterable[Line]) -> list[tuple[float, Composition]]:
        return [(line.grams, pantry[line.material].composition) for line in lines]

    def known(*parts: Part) -> list[tuple[float, Composition]]:
        return some(line for part in parts for line in formula.lines(part))

    paste = mixed(known(Part.DOUGH, Part.BLOCK, Part.BETWEEN))
    finish = [(grams / pieces, what) for grams, what in known(Part.FINISH)]
    parts = [(piece_g, paste), *some(mean_filling(formula)), *finish]
    return sum(grams for grams, _ in parts), mixed(parts)


def read(
    formula: Formula,
    pantry: Pantry,
    accounts: Accounts,
    plan: Plan,
    leaves: list[tuple[float, float]] | None,
    scaled: Scaled,
    final_share: float | None = None,
) -> Readings:
    """Make the readings.

    Parameters
    ----------
    accounts : Accounts
        Of the same formula.
    plan : Plan
        Of the same formula.
    leaves : list of (fat, dough), or None
        As `aplomb.core.folds.means.leaves_along_plan` gives.
    scaled : Scaled
        Of the same formula.
    final_share : float or None
        Volume share of the fat in the final sheet [-], where trims before a later portion change
        it; None for that of the whole paste.
    """
    # whole: one line for each reading, in their order
    flour = accounts.flour_g

    def on_flour(grams: float) -> float | None:
        return 100 * grams / flour if flour > 0 else None

    share = accounts.fat_volume_share
    fat_leaves: float | None = None
    dough_leaves: float | None = None
    if leaves is not None and share:
        fat_leaves, dough_leaves = leaves[-1]
    sheet_um = formula.sheet_mm * 1000
    final = share if final_share is None else final_share
    written = scaled.written_pieces
    cost = cost_of(formula, pantry, written)
    eaten_g: float | None = None
    in_piece = Composition()
    if written and scaled.piece_g > 0:
        eaten_g, in_piece = piece_of(formula, pantry, scaled.piece_g, written)
    per_flour = 100 / flour if flour > 0 else None
    return Readings(
        flour_g=flour,
        dough_g=accounts.dough_g,
        block_g=accounts.block_g,
        paste_g=accounts.paste_g,
        fat_product_pct=on_flour(accounts.enclosed_fat_g + accounts.dough_fat_g),
        enclosed_fat_pct=on_flour(accounts.enclosed_fat_g),
        dough_fat_pct=on_flour(accounts.dough_fat_g),
        fat_on_dough_pct=(
            100 * accounts.enclosed_fat_g / accounts.dough_g if accounts.dough_g > 0 else None
        ),
        pure_fat_pct=on_flour(accounts.pure_fat_g),
        fat_on_total_pct=(
            100 * (accounts.enclosed_fat_g + accounts.dough_fat_g) / accounts.paste_g
            if accounts.paste_g > 0
            else None
        ),
        dough_water_pct=(
            100 * accounts.dough_water_g / accounts.dough_flour_g
            if accounts.dough_flour_g > 0
            else None
        ),
        total_water_pct=on_flour(accounts.dough_water_g + accounts.block_water_g),
        salt_pct=on_flour(accounts.salt_g),
        flour_protein_pct=per_flour and per_flour * accounts.flour_protein_g,
        flour_moisture_pct=per_flour and per_flour * accounts.flour_water_g,
        dough_water_14_pct=(
            100 * accounts.dough_water_14_g / accounts.dough_flour_14_g
            if accounts.dough_flour_14_g > 0
            else None
        ),
        acid_product_pct=on_flour(accounts.acid_product_g),
        acid_pct=on_flour(accounts.acid_g),
        sugar_added_pct=on_flour(accounts.sugar_g),
        milk_solids_pct=on_flour(accounts.milk_solids_g),
        between_g=accounts.between_g or None,
        fat_volume_share=share,
        product=plan.product,
        fat_leaves=fat_leaves,
        dough_leaves=dough_leaves,
        leaves=None if fat_leaves is None or dough_leaves is None else fat_leaves + dough_leaves,
        leaves_are_means=plan.leaves_are_means and fat_leaves is not None,
        sheet_mm=formula.sheet_mm,
        fat_leaf_um=final * sheet_um / fat_leaves if final and fat_leaves else None,
        dough_leaf_um=(1 - final) * sheet_um / dough_leaves if final and dough_leaves else None,
        cost=cost,
        cost_per_piece=(
            cost * scaled.factor / scaled.good if cost is not None and scaled.good else None
        ),
        piece_eaten_g=eaten_g,
        energy_kj_per_piece=eaten_g and eaten_g * energy_kj_g(in_piece),
        energy_kcal_per_piece=eaten_g and eaten_g * energy_kcal_g(in_piece),
        fat_g_per_piece=eaten_g and eaten_g * in_piece.fat,
        salt_g_per_piece=eaten_g and eaten_g * in_piece.salt,
    )


READING_WORDS: dict[str, tuple[str, str]] = {
    "flour_g": ("Flour", "g"),
    "dough_g": ("Dough", "g"),
    "block_g": ("Fat block", "g"),
    "paste_g": ("Paste", "g"),
    "fat_product_pct": ("Fat on flour", "%"),
    "enclosed_fat_pct": ("Enclosed fat", "%"),
    "dough_fat_pct": ("Fat in the dough", "%"),
    "fat_on_dough_pct": ("Fat on dough", "%"),
    "fat_on_total_pct": ("Fat on total", "%"),
    "pure_fat_pct": ("Pure fat", "%"),
    "dough_water_pct": ("Dough water", "%"),
    "total_water_pct": ("Total water", "%"),
    "salt_pct": ("Salt", "%"),
    "flour_protein_pct": ("Flour protein", "%"),
    "flour_moisture_pct": ("Flour moisture", "%"),
    "dough_water_14_pct": ("Dough water, flour at 14 % moisture", "%"),
    "acid_product_pct": ("Acid as weighed", "%"),
    "acid_pct": ("Acid, as acetic", "%"),
    "sugar_added_pct": ("Added sugar", "%"),
    "milk_solids_pct": ("Milk solids", "%"),
    "between_g": ("Between the folds", "g"),
    "fat_volume_share": ("Fat by volume", ""),
    "product": ("Fold product", ""),
    "fat_leaves": ("Fat leaves", ""),
    "dough_leaves": ("Dough leaves", ""),
    "leaves": ("All leaves", ""),
    "sheet_mm": ("Final sheet", "mm"),
    "fat_leaf_um": ("Fat leaf", "µm"),
    "dough_leaf_um": ("Dough leaf", "µm"),
    "cost": ("Cost", ""),
    "cost_per_piece": ("Cost per piece", ""),
    "piece_eaten_g": ("Raw piece, filled", "g"),
    "energy_kj_per_piece": ("Energy per piece", "kJ"),
    "energy_kcal_per_piece": ("Energy per piece", "kcal"),
    "fat_g_per_piece": ("Fat per piece", "g"),
    "salt_g_per_piece": ("Salt per piece", "g"),
}
"""Words and unit of each reading, for every place that shows one."""
