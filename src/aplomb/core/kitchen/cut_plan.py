"""All sheets of a formula's cut plan, and what the plan says of the batch."""

import math
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.batch.cutting import CutPlan, Limits, best_cut, thicknesses
from aplomb.core.batch.trays import OnTrays
from aplomb.core.kitchen.demand import batch_trays, largest_block_ml
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.product import Product
from aplomb.core.study.study import Study


class Sheets(Struct, frozen=True):
    """The cut plan of a formula.

    Attributes
    ----------
    plans : tuple of CutPlan
        One for each thickness, the formula's own first.
    density_g_ml : float
        Of the rolled paste [g/mL].
    """

    plans: tuple[CutPlan, ...]
    density_g_ml: float

    def grams(self, plan: CutPlan, area_mm2: float) -> float:
        """Mass of so much of a plan's sheet [g]."""
        return area_mm2 * plan.sheet.height_mm / 1000 * self.density_g_ml

    @property
    def sheets_g(self) -> float:
        """Mass of all sheets before they are cut [g]."""
        return sum(self.grams(p, p.sheet_mm2) * p.sheets for p in self.plans)

    @property
    def wanted_g(self) -> float:
        """Paste of all pieces that are wanted and have room [g]."""
        return sum(self.grams(p, min(p.wanted_mm2, p.pieces_mm2 * p.sheets)) for p in self.plans)

    @property
    def trim_pct(self) -> float:
        """Share of the sheets that is not in wanted pieces [%]."""
        whole = self.sheets_g
        return 100 * (1 - self.wanted_g / whole) if whole > 0 else 0.0

    @property
    def scrap_g(self) -> float:
        """Edges, cut-outs and what is left between [g]."""
        return sum(
            self.grams(p, p.edges_mm2 + p.holes_mm2 + p.between_mm2) * p.sheets for p in self.plans
        )

    @property
    def blocks(self) -> int:
        """Blocks that all sheets come from [-]."""
        return sum(p.blocks for p in self.plans)

    @property
    def lacking(self) -> int:
        """Wanted pieces that found no room [-]."""
        return sum(sum(p.lacking()) for p in self.plans)


def limits_of(study: Study, house: House) -> tuple[Limits, ...]:
    """Give what sheets must keep within: bench, belt, and the block that these take.

    For a sheet that lies on a tray the tray too, each way round.
    """
    keep = 1 - study.scaled.losses.loss.value / 100 if study.scaled.losses else 1.0
    bench = Limits(
        house.bench_mm,
        house.sheet_wide_mm,
        largest_block_ml(study, house) * keep * (1 - study.folded),
    )
    if study.formula.cutting.lies_on == "bench":
        return (bench,)
    long, wide = house.tray_long_mm, house.tray_wide_mm
    return tuple(
        replace(bench, lies_long_mm=along, lies_wide_mm=across)
        for along, across in dict.fromkeys(((long, wide), (wide, long)))
    )


def sheets_of(study: Study, house: House, blocks: int = 0) -> Sheets:
    """Find the sheets for what is wanted of a formula's products.

    Parameters
    ----------
    blocks : int
        Blocks of paste [-]; 0 for as few as fit. With several thicknesses each finds its own.

    Raises
    ------
    AplombError
        When nothing is wanted, or it cannot be cut here.
    """
    formula = study.formula
    density = study.accounts.rolled_density_g_ml
    if density is None:
        raise AplombError("The paste has no weight yet: there is no sheet to cut.")
    groups = thicknesses(formula.products, formula.sheet_mm)
    if not groups:
        raise AplombError("No pieces ordered yet. Enter how many for one of the products.")
    limits = limits_of(study, house)
    products = with_breakage(study)
    plans = tuple(
        _best(products, formula, limits, blocks if len(groups) == 1 else 0, thickness)
        for thickness in groups
    )
    return Sheets(plans, density)


def _best(
    products: Sequence[Product],
    formula: Formula,
    limits: Sequence[Limits],
    blocks: int,
    thickness_mm: float,
) -> CutPlan:
    """Find the sheets with the least paste that keep within one of some limits."""
    found: list[CutPlan] = []
    trouble: AplombError | None = None
    for each in limits:
        try:
            found.append(
                best_cut(products, formula.sheet_mm, formula.cutting, each, blocks, thickness_mm)
            )
        except AplombError as error:
            trouble = trouble or error
    if not found:
        raise trouble or AplombError("No sheet fits the limits of this house.")
    return min(found, key=lambda plan: plan.sheet_mm2 * plan.sheets)


def with_breakage(study: Study) -> tuple[Product, ...]:
    """Give the formula's products with as many wanted as must be cut."""
    raw = {made.name: made for made in study.scaled.made}
    fixed = study.formula.batch.fixed == "pieces"
    return tuple(
        replace(p, wanted=raw[p.name].pieces if fixed else p.wanted) if p.name in raw else p
        for p in study.formula.products
    )


def taken(formula: Formula, sheets: Sheets) -> Formula:
    """Give the formula with its batch as the cut plan has it: sheet, blocks and trim.

    Pieces are fixed; the sheet of a single thickness is kept.

    Parameters
    ----------
    sheets : Sheets
        Its own.
    """
    batch = replace(
        formula.batch,
        fixed="pieces",
        trim_pct=math.floor(sheets.trim_pct * 1e4) / 1e4,
        blocks=sheets.blocks,
    )
    cutting = formula.cutting
    if len(sheets.plans) == 1:
        plan = sheets.plans[0]
        cutting = replace(
            cutting,
            length_mm=plan.sheet.length_mm,
            width_mm=plan.sheet.width_mm,
            rows=plan.layout.rows,
            sheets_a_block=plan.sheets // plan.blocks,
        )
    return replace(formula, batch=batch, cutting=cutting)


def trays_of(study: Study, house: House) -> tuple[OnTrays, ...]:
    """Put what a batch gives on trays."""
    return batch_trays(study.formula, study.scaled, house)
