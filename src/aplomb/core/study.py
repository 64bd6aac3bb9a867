"""All that is shown of a formula, worked out in one go."""

from typing import TYPE_CHECKING

from msgspec import Struct

from aplomb.core.accounts import Accounts, account
from aplomb.core.batch.scale import Scaled, scale
from aplomb.core.batch.water import dough_water
from aplomb.core.cold.mixing import WaterAndIce
from aplomb.core.errors import AplombError
from aplomb.core.folds.plan import NOT_YET, Enclosure, Plan
from aplomb.core.folds.sizes import Enclosing, TurnSize, enclosing, turn_sizes
from aplomb.core.house import House
from aplomb.core.opinion.case import Case
from aplomb.core.opinion.opinion import Opinion, SchoolBands
from aplomb.core.opinion.rules import opinions_on
from aplomb.core.paste.block_fat import block_fat
from aplomb.core.paste.fat_profile import FatProfile
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.pantry import Pantry
from aplomb.core.readings import Readings, leaves_along, read, unpriced

if TYPE_CHECKING:
    from aplomb.core.folds.stack import Stack


class Reference(Struct, frozen=True):
    """What a study leans on.

    Attributes
    ----------
    pantry : Pantry
        With the book's own materials and prices.
    schools : dict of SchoolBands, by key
    house : House
    today : str
        Day, ISO 8601, for the age of prices; empty when it does not matter.
    """

    pantry: Pantry
    schools: dict[str, SchoolBands]
    house: House = House()
    today: str = ""


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


class Study(Struct, frozen=True):
    """A formula and everything that follows from it.

    Attributes
    ----------
    formula : Formula
    plan : Plan
    accounts : Accounts
    readings : Readings
    scaled : Scaled
    school : SchoolBands
    fat : FatProfile or None
        What the fat of the block is like; None without any.
    water : WaterAndIce or None
        For the dough of the batch; None when it holds no water.
    opinions : tuple of Opinion
        All, dismissed ones too.
    turns : tuple of TurnStudy
        The enclosing first, then every step of the plan.
    enclosing : Enclosing or None
        Sizes for enclosing one block; None for an empty paste.
    unpriced : tuple of str
        Names of materials without a price, for which there is no cost.
    fold_trouble : str
        Why leaves or sizes cannot be worked out; empty when they can.
    """

    formula: Formula
    plan: Plan
    accounts: Accounts
    readings: Readings
    scaled: Scaled
    school: SchoolBands
    fat: FatProfile | None
    water: WaterAndIce | None
    opinions: tuple[Opinion, ...]
    turns: tuple[TurnStudy, ...]
    enclosing: Enclosing | None
    unpriced: tuple[str, ...]
    fold_trouble: str

    @property
    def no_cost(self) -> str:
        """Why there is no cost; empty when there is one."""
        if self.readings.cost is not None:
            return ""
        if not self.unpriced:
            return "There is no cost without weights and pieces."
        some = ", ".join(name.lower() for name in self.unpriced[:4])
        more = f" and {len(self.unpriced) - 4} more" if len(self.unpriced) > 4 else ""
        return f"No cost: {some}{more} without a price. Prices stand in the pantry."

    @property
    def shown_opinions(self) -> tuple[Opinion, ...]:
        """The opinions that were not dismissed."""
        return tuple(o for o in self.opinions if o.key not in self.formula.dismissed)

    @property
    def in_pieces(self) -> bool:
        """True when the fat is in pieces, so that leaves are expected means."""
        return self.plan.enclosure is Enclosure.PIECES

    def stack(self, upto: int | None = None) -> "Stack | None":
        """Work the leaf stack up to a step; None when there is none or it is too large."""
        from aplomb.core.folds.stack import stack_of  # NumPy comes when a leaf is drawn, not before

        share = self.readings.fat_volume_share
        if share is None or self.in_pieces or self.plan.enclosure in NOT_YET:
            return None
        try:
            return stack_of(self.plan, share, upto)
        except AplombError:
            return None


def make_study(formula: Formula, reference: Reference) -> Study:
    """Work out everything that is shown of a formula.

    Parameters
    ----------
    formula : Formula
        Checked; every material in the pantry.
    reference : Reference

    Returns
    -------
    Study

    Raises
    ------
    AplombError
        When a material or school is unknown, or the turn line cannot be read.
    """
    plan = formula.plan
    accounts = account(formula, reference.pantry)
    scaled = scale(formula, reference.pantry, accounts)
    leaves = leaves_along(plan, accounts.fat_volume_share or 0.0, formula)
    readings = read(formula, reference.pantry, accounts, plan, leaves, scaled)
    school = reference.schools[formula.school]
    turns, how, trouble = _turns(formula, plan, accounts, scaled, leaves)
    fat = block_fat(formula, reference.pantry)
    water = dough_water(formula, reference.pantry, reference.house, scaled.factor or 1.0)
    case = Case(
        formula, reference.pantry, accounts, readings, plan, school, scaled, fat, water,
        reference.house, reference.today, tuple(turn.size for turn in turns if turn.size),
    )  # fmt: skip
    return Study(
        formula=formula,
        plan=plan,
        accounts=accounts,
        readings=readings,
        scaled=scaled,
        school=school,
        fat=fat,
        water=water,
        opinions=opinions_on(case),
        turns=turns,
        enclosing=how,
        unpriced=unpriced(formula, reference.pantry),
        fold_trouble=trouble,
    )


def _turns(
    formula: Formula,
    plan: Plan,
    accounts: Accounts,
    scaled: Scaled,
    leaves: list[tuple[float, float]] | None,
) -> tuple[tuple[TurnStudy, ...], Enclosing | None, str]:
    each = scaled.factor / formula.batch.blocks
    how: Enclosing | None = None
    sizes: tuple[TurnSize, ...] = ()
    trouble = ""
    try:
        if accounts.paste_ml * each > 0:
            width = formula.roll_width_mm or None
            sizes = turn_sizes(plan, accounts.paste_ml * each, width, accounts.block_ml * each)
            how = enclosing(
                plan.enclosure, accounts.dough_ml * each, accounts.block_ml * each,
                formula.fat_block_mm, width or 200.0,
            )  # fmt: skip
    except AplombError as error:
        trouble = str(error)
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
        trouble = "No portion is spread yet: write a step like +3 where one is."
    if not trouble and found[-1].fat_leaves is None:
        trouble = "These steps can be written down, but their leaves cannot be worked out yet."
    return tuple(found), how, trouble


def explain(study: Study, key: str) -> str:
    """Say how a reading was reached: the sum, with the numbers in it.

    Parameters
    ----------
    study : Study
    key : str
        Name of a reading.

    Returns
    -------
    str
        One or two sentences; what is missing when the reading cannot be had.
    """
    a, r, f = study.accounts, study.readings, study.formula
    flour = f"{a.flour_g:.4g} g flour"
    value = getattr(r, key)
    if value is None:
        if key.startswith("cost"):
            return study.no_cost or "There are no pieces yet."
        if key.endswith("_pct") and a.flour_g <= 0:
            return "There is no flour yet, and this is a percentage on flour."
        return study.fold_trouble or "There is no fat block yet, so there are no leaves of fat."
    fat = a.enclosed_fat_g + a.dough_fat_g
    share = r.fat_volume_share or 0.0
    sums = {
        "fat_product_pct": f"fat as weighed: {a.enclosed_fat_g:.4g} g enclosed + "
        f"{a.dough_fat_g:.4g} g in the dough = {fat:.4g} g; {fat:.4g} ÷ {flour} = {value:.1f} %",
        "enclosed_fat_pct": f"{a.enclosed_fat_g:.4g} g ÷ {flour} = {value:.1f} %",
        "dough_fat_pct": f"{a.dough_fat_g:.4g} g ÷ {flour} = {value:.1f} %",
        "fat_on_dough_pct": f"{a.enclosed_fat_g:.4g} g enclosed fat ÷ {a.dough_g:.4g} g dough "
        f"= {value:.1f} %",
        "pure_fat_pct": f"fat by composition {a.pure_fat_g:.4g} g ÷ {flour} = {value:.1f} %",
        "dough_water_pct": f"water in the dough, from all that is in it but the flour, "
        f"{a.dough_water_g:.4g} g ÷ {flour} = {value:.1f} %",
        "total_water_pct": f"({a.dough_water_g:.4g} g in the dough + {a.block_water_g:.4g} g in "
        f"the fat block) ÷ {flour} = {value:.1f} %",
        "acid_pct": f"{a.acid_product_g:.3g} g of vinegar, juice and acid hold {a.acid_g:.3g} g "
        f"acid as acetic; ÷ {flour} = {value:.2f} %",
        "dough_water_14_pct": f"flour at {r.flour_moisture_pct or 0:.1f} % moisture weighs "
        f"{a.flour_14_g:.4g} g at 14 %; the water beside it is then {a.dough_water_14_g:.4g} g: "
        f"{value:.1f} %",
        "energy_kj_per_piece": f"{r.piece_eaten_g or 0:.3g} g raw with filling and finish; fat 37, "
        "carbohydrate and protein 17, fibre 8, acid 13 kJ a gram (Regulation (EU) No 1169/2011) "
        f"= {value:.0f} kJ; baking takes only water",
        "salt_pct": f"({a.salt_added_g:.3g} g weighed + {a.salt_hidden_g:.3g} g in other "
        f"materials) ÷ {flour} = {value:.2f} %",
        "fat_volume_share": f"{a.block_ml:.4g} mL fat block ÷ {a.paste_ml:.4g} mL paste "
        f"= {value:.3f}",
        "fat_leaf_um": f"{f.sheet_mm:g} mm × {share:.3f} fat by volume ÷ "
        f"{r.fat_leaves or 0:.6g} fat leaves = {value:.3g} µm",
        "dough_leaf_um": f"{f.sheet_mm:g} mm × {1 - share:.3f} dough by volume ÷ "
        f"{r.dough_leaves or 0:.6g} dough leaves = {value:.3g} µm",
    }
    if key in sums:
        return sums[key]
    if key in ("fat_leaves", "dough_leaves", "leaves", "product"):
        return _explain_leaves(study)
    return f"{value:.6g}"


def _explain_leaves(study: Study) -> str:
    r, f = study.readings, study.formula
    panels = " × ".join(str(step.panels) for step in study.plan.turns) or "1"
    if study.in_pieces:
        start = (r.fat_leaves or 0) / study.plan.product
        return (
            f"Expected mean along a line: {r.fat_volume_share or 0:.3f} fat by volume × "
            f"{f.gathered_mm:g} mm gathered ÷ {f.piece_fat_mm:g} mm pieces = {start:.2f} at the "
            f"start; × {panels} = {r.fat_leaves or 0:.4g}"
        )
    first = study.turns[0]
    return (
        f"{study.plan.enclosure.value}: {first.fat_leaves or 0:g} fat and "
        f"{first.dough_leaves or 0:g} dough to start; × {panels} = {r.product} panels; where like "
        f"meets like they merge: {r.fat_leaves} fat, {r.dough_leaves} dough, {r.leaves} in all"
    )
