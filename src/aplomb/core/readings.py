"""The readings: what each figure of a formula means, one meaning everywhere.

*Flour* is all flour and starch in dough and fat block, not dusting. *Fat product* is a fat as
weighed (butter with its water). Percentages are on flour unless the name says otherwise.
"""

from collections.abc import Iterable

from msgspec import Struct

from aplomb.core.cold.thermal import density_g_ml
from aplomb.core.composition import Composition, mixed
from aplomb.core.constants import WORKING_TEMP_C
from aplomb.core.errors import AplombError
from aplomb.core.folds.counts import counts_along, pieces_at_start
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.paste.formula import Formula, Line
from aplomb.core.paste.ingredient import Ingredient
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
    fat_on_dough_pct : float or None
        Enclosed fat product on `dough_g` [%].
    pure_fat_pct : float or None
        All fat by composition, the flour's own not counted [%].
    dough_water_pct, total_water_pct : float or None
        Water by composition, the flour's own moisture not counted: of the dough, and with the
        fat block's [%].
    salt_pct : float or None
        Salt from all sources [%].
    fat_volume_share : float or None
        Volume of the fat block over the paste's, 0–1 [-].
    product, fat_leaves, dough_leaves, leaves : int, float or None
        As counted; for paste in pieces expected means.
    leaves_are_means : bool
        True for paste in pieces.
    sheet_mm : float
        Final sheet [mm].
    fat_leaf_um, dough_leaf_um : float or None
        Mean leaf in the final sheet [µm].
    cost, cost_per_piece : float or None
        Of the formula as written with dusting and finish, and of one piece of the batch; None
        when a price is missing.
    """

    flour_g: float
    dough_g: float
    block_g: float
    paste_g: float
    fat_product_pct: float | None = None
    enclosed_fat_pct: float | None = None
    dough_fat_pct: float | None = None
    fat_on_dough_pct: float | None = None
    pure_fat_pct: float | None = None
    dough_water_pct: float | None = None
    total_water_pct: float | None = None
    salt_pct: float | None = None
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


class Accounts(Struct, frozen=True):
    """Masses behind the readings [g], and volumes [mL] at the working temperature."""

    flour_g: float
    dough_g: float
    block_g: float
    enclosed_fat_g: float
    dough_fat_g: float
    pure_fat_g: float
    dough_water_g: float
    block_water_g: float
    salt_g: float
    salt_added_g: float
    salt_hidden_g: float
    dough_ml: float
    block_ml: float

    @property
    def paste_g(self) -> float:
        """Dough and block together [g]."""
        return self.dough_g + self.block_g

    @property
    def paste_ml(self) -> float:
        """Volume of dough and block [mL]."""
        return self.dough_ml + self.block_ml

    @property
    def fat_volume_share(self) -> float | None:
        """Volume of the fat block over the paste's, 0–1 [-]; None for an empty paste."""
        return self.block_ml / self.paste_ml if self.paste_ml > 0 else None

    @property
    def density_g_ml(self) -> float | None:
        """Density of the paste [g/mL]; None for an empty paste."""
        return self.paste_g / self.paste_ml if self.paste_ml > 0 else None


Known = list[tuple[Line, Ingredient]]


def _grams(known: Known) -> float:
    return sum(line.grams for line, _ in known)


def volume_ml(parts: Iterable[tuple[float, Composition]], temp_c: float = WORKING_TEMP_C) -> float:
    """Volume of a mixture without pores [mL].

    Parameters
    ----------
    parts : iterable of (mass [g], Composition)
    temp_c : float
        Temperature [°C].

    Returns
    -------
    float
        0 for nothing, and for materials without any composition.
    """
    there = [(mass, what) for mass, what in parts if mass > 0]
    blend = mixed(there)
    if blend.total <= 0:
        return 0.0
    return sum(mass for mass, _ in there) / density_g_ml(blend, temp_c)


def account(formula: Formula, pantry: Pantry) -> Accounts:
    """Account for fat, water and salt wherever they come from.

    Parameters
    ----------
    formula : Formula
    pantry : Pantry
        Holding every material of the formula.

    Returns
    -------
    Accounts

    Raises
    ------
    AplombError
        When a material is not in the pantry.
    """
    dough: Known = [(line, pantry[line.material]) for line in formula.dough]
    block: Known = [(line, pantry[line.material]) for line in formula.block]

    def water(known: Known) -> float:
        return sum(n.grams * m.composition.water for n, m in known if not m.is_flour)

    def fats(known: Known) -> float:
        return sum(n.grams for n, m in known if m.is_fat)

    both = [*dough, *block]
    salt_added = sum(n.grams * m.composition.salt for n, m in both if m.group == "salt")
    salt = sum(n.grams * m.composition.salt for n, m in both)
    return Accounts(
        flour_g=sum(n.grams for n, m in both if m.is_flour),
        dough_g=_grams(dough),
        block_g=_grams(block),
        enclosed_fat_g=fats(block),
        dough_fat_g=fats(dough),
        pure_fat_g=sum(n.grams * m.composition.fat for n, m in both if not m.is_flour),
        dough_water_g=water(dough),
        block_water_g=water(block),
        salt_g=salt,
        salt_added_g=salt_added,
        salt_hidden_g=salt - salt_added,
        dough_ml=volume_ml((n.grams, m.composition) for n, m in dough),
        block_ml=volume_ml((n.grams, m.composition) for n, m in block),
    )


def cost_of(formula: Formula) -> float | None:
    """Cost of everything in the formula as written, dusting and finish too.

    Returns
    -------
    float or None
        In the formula's currency; None when there is nothing or a price is missing.
    """
    per_gram = {price.material: price.price / price.pack_g for price in formula.prices}
    per_gram.setdefault("water", 0.0)
    lines = [line for _, _, line in formula.all_lines() if line.grams > 0]
    if not lines or any(line.material not in per_gram for line in lines):
        return None
    return sum(line.grams * per_gram[line.material] for line in lines)


def leaves_along(
    plan: Plan, fat_share: float, formula: Formula
) -> list[tuple[float, float]] | None:
    """Count leaves after enclosing and after every step.

    Parameters
    ----------
    plan : Plan
    fat_share : float
        Volume share of the fat block [-].
    formula : Formula
        For the size of the pieces.

    Returns
    -------
    list of (fat, dough), or None
        Exact for sheets; for paste in pieces expected leaves along a vertical line [-]. None for
        a plan that this version cannot work.
    """
    if plan.enclosure is Enclosure.PIECES:
        fat = pieces_at_start(fat_share, formula.gathered_mm, formula.piece_fat_mm)
        means = [(fat, fat + 1)]
        for step in plan.steps:
            fat *= step.panels
            means.append((fat, fat + 1))
        return means
    try:
        return [(counts.fat, counts.dough) for counts in counts_along(plan)]
    except AplombError:
        return None


def read(
    formula: Formula,
    accounts: Accounts,
    plan: Plan,
    leaves: list[tuple[float, float]] | None,
    pieces: float | None,
    batch_factor: float,
) -> Readings:
    """Make the readings.

    Parameters
    ----------
    formula : Formula
    accounts : Accounts
        Of the same formula.
    plan : Plan
        Of the same formula.
    leaves : list of (fat, dough), or None
        As `leaves_along` gives.
    pieces : float or None
        Pieces that the batch gives [-]; None when unknown.
    batch_factor : float
        Batch over formula as written [-].

    Returns
    -------
    Readings
    """
    flour = accounts.flour_g

    def on_flour(grams: float) -> float | None:
        return 100 * grams / flour if flour > 0 else None

    share = accounts.fat_volume_share
    fat_leaves: float | None = None
    dough_leaves: float | None = None
    if leaves is not None and share:
        fat_leaves, dough_leaves = leaves[-1]
    sheet_um = formula.sheet_mm * 1000
    cost = cost_of(formula)
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
        dough_water_pct=on_flour(accounts.dough_water_g),
        total_water_pct=on_flour(accounts.dough_water_g + accounts.block_water_g),
        salt_pct=on_flour(accounts.salt_g),
        fat_volume_share=share,
        product=plan.product,
        fat_leaves=fat_leaves,
        dough_leaves=dough_leaves,
        leaves=None if fat_leaves is None or dough_leaves is None else fat_leaves + dough_leaves,
        leaves_are_means=plan.enclosure is Enclosure.PIECES and fat_leaves is not None,
        sheet_mm=formula.sheet_mm,
        fat_leaf_um=share * sheet_um / fat_leaves if share and fat_leaves else None,
        dough_leaf_um=(1 - share) * sheet_um / dough_leaves if share and dough_leaves else None,
        cost=cost,
        cost_per_piece=cost * batch_factor / pieces if cost is not None and pieces else None,
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
    "pure_fat_pct": ("Pure fat", "%"),
    "dough_water_pct": ("Dough water", "%"),
    "total_water_pct": ("Total water", "%"),
    "salt_pct": ("Salt", "%"),
    "fat_volume_share": ("Fat by volume", ""),
    "product": ("Fold product", ""),
    "fat_leaves": ("Fat leaves", ""),
    "dough_leaves": ("Dough leaves", ""),
    "leaves": ("All leaves", ""),
    "sheet_mm": ("Final sheet", "mm"),
    "fat_leaf_um": ("Fat leaf", "µm"),
    "dough_leaf_um": ("Dough leaf", "µm"),
    "cost": ("Cost", ""),
    "cost_per_piece": ("Cost a piece", ""),
}
"""Words and unit of each reading, for every place that shows one."""
