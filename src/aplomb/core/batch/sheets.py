"""All sheets of a cut plan, one group for each thickness, and what they weigh."""

from msgspec import Struct

from aplomb.core.batch.cutting import CutPlan


class Sheets(Struct, frozen=True):
    """The cut plan of a formula.

    Attributes
    ----------
    plans : tuple of CutPlan
        One for each thickness, the formula's own first; behind them those of blocks in stock.
    density_g_ml : float
        Of the rolled paste [g/mL].
    """

    plans: tuple[CutPlan, ...]
    density_g_ml: float

    def grams(self, plan: CutPlan, area_mm2: float) -> float:
        """Mass of so much of a plan's sheet [g]."""
        return area_mm2 * plan.sheet.height_mm / 1000 * self.density_g_ml

    def sheet_g(self, plan: CutPlan) -> float:
        """Mass of one sheet of a plan [g]."""
        return self.grams(plan, plan.sheet_mm2)

    @property
    def sheets_g(self) -> float:
        """Mass of all sheets before they are cut [g]."""
        return sum(self.sheet_g(p) * p.sheets for p in self.plans)

    @property
    def fresh_g(self) -> float:
        """Mass of the sheets of new paste [g]."""
        return sum(self.sheet_g(p) * p.sheets for p in self.plans if not p.of_stock)

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
        """Blocks of new paste that sheets come from [-]."""
        return sum(p.blocks for p in self.plans if not p.of_stock)

    @property
    def lacking(self) -> int:
        """Wanted pieces that found no room [-]."""
        return sum(sum(p.lacking()) for p in self.plans)

    def pieces(self) -> dict[int, int]:
        """Pieces that all sheets give [-], by the product's place in the formula."""
        found: dict[int, int] = {}
        for plan in self.plans:
            for product, many in zip(plan.products, plan.pieces(), strict=True):
                found[product] = found.get(product, 0) + many
        return found
