"""All that is shown of a formula, worked out in one go."""

import math
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError, as_sentence
from aplomb.core.base.house import House
from aplomb.core.batch.blanks import blanks_of
from aplomb.core.batch.blocks import room_of
from aplomb.core.batch.cut_search import CutCase, sheets_for, sheets_of_mass
from aplomb.core.batch.cutting import MOST_PARTS, rolled_of
from aplomb.core.batch.losses import losses_of
from aplomb.core.batch.made_batch import MadeBatch
from aplomb.core.batch.scale import raw_pieces
from aplomb.core.batch.scaled import Scaled
from aplomb.core.batch.sheets import Sheets
from aplomb.core.batch.sized import Sized, block_volume_ml, sized_batch, trimmed_share
from aplomb.core.batch.water import dough_water
from aplomb.core.cold.mixing import WaterAndIce
from aplomb.core.folds.boxes import Box, Room
from aplomb.core.folds.enclosing import Enclosing
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.folds.sizes import Worked, fat_share_at, natural_width
from aplomb.core.folds.step import Way
from aplomb.core.opinion.case import RuleInput
from aplomb.core.opinion.liquids import with_band_of_liquid
from aplomb.core.opinion.opinion import Opinion, SchoolBands
from aplomb.core.opinion.rules import opinions_on
from aplomb.core.paste.accounts import Accounts, account
from aplomb.core.paste.block_fat import block_fat
from aplomb.core.paste.fat_profile import FatProfile
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.pantry import Pantry
from aplomb.core.readings.readings import Readings, read, unpriced
from aplomb.core.study.turns import TurnStudy, leaves_of_plan, strewn, turns_of

if TYPE_CHECKING:
    from aplomb.core.folds.pieces import Mass
    from aplomb.core.folds.raster import Section
    from aplomb.core.folds.stack import Stack

THINNEST_LEAF_UM = 0.002
"""About the length of a molecule of fat, from memory; no leaf is thinner [µm]."""
FINEST_SHARE = 0.9
"""Largest share of fat in pieces that is drawn [-]: there must be dough between them."""


class Reference(Struct, frozen=True):
    """What a study leans on.

    Attributes
    ----------
    pantry : Pantry
        With the book's own materials and prices.
    today : str
        Day, ISO 8601, for the age of prices; empty when it does not matter.
    made_batches : tuple of MadeBatch
        Batches that were really made, for their losses.
    uid : str
        Identity in the book of the formula that is studied: its own batches come first. Empty for
        a formula that is in no book.
    """

    pantry: Pantry
    schools: dict[str, SchoolBands]
    house: House = House()
    today: str = ""
    made_batches: tuple[MadeBatch, ...] = ()
    uid: str = ""

    def of(self, uid: str) -> "Reference":
        """Give the same for another formula of the book."""
        return self if uid == self.uid else replace(self, uid=uid)


class Study(Struct, frozen=True):
    """A formula and everything that follows from it.

    Attributes
    ----------
    school : SchoolBands
        With the band of dough water as the dough's liquid wants it.
    fat : FatProfile or None
        What the fat of the block is like; None without any.
    water : WaterAndIce or None
        For the dough of the batch; None when it holds no water.
    opinions : tuple of Opinion
        All, dismissed ones too. What they propose is not tried yet: `aplomb.core.study.remedies`.
    turns : tuple of TurnStudy
        The enclosing first, then every step of the plan.
    enclosing : Enclosing or None
        Sizes for enclosing one block; None for an empty paste.
    worked : Worked
        Sizes of every turn and trim of one block; empty for an empty paste.
    strewn : tuple of (turn, share)
        What is strewn in at a turn, over the paste's volume [-].
    unpriced : tuple of str
        Names of materials without a price, for which there is no cost.
    room : Room
        Of the house, for the widths that follow.
    cold_known : bool
        Whether what the cold says is among the opinions; it is worked out beside.
    fold_trouble : str
        Why leaves or sizes cannot be worked out; empty when they can.
    cut : Sheets or None
        The cut plan that the batch is made by; None where its pieces have no outlines.
    cut_trouble : str
        Why there is no cut plan though there are outlines; empty where there is one or none is due.
    cut_waits : bool
        True when the plan is that of an earlier value, or none, until another has been searched.
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
    worked: Worked
    strewn: tuple[tuple[int, float], ...]
    unpriced: tuple[str, ...]
    room: Room
    fold_trouble: str
    cold_known: bool = False
    cut: Sheets | None = None
    cut_trouble: str = ""
    cut_waits: bool = False

    @property
    def no_cost(self) -> str:
        """Why there is no cost; empty when there is one."""
        if self.readings.cost is not None:
            return ""
        if not self.unpriced:
            return "No cost yet: enter weights and pieces first."
        some = ", ".join(name.lower() for name in self.unpriced[:4])
        more = f" and {len(self.unpriced) - 4} more" if len(self.unpriced) > 4 else ""
        return f"No cost: {some}{more} have no price. Enter prices in the pantry."

    @property
    def shown_opinions(self) -> tuple[Opinion, ...]:
        """The opinions that were not dismissed."""
        return tuple(o for o in self.opinions if o.key not in self.formula.dismissed)

    @property
    def in_pieces(self) -> bool:
        """True when the fat is in pieces, so that leaves are expected means."""
        return self.plan.enclosure is Enclosure.PIECES

    @property
    def block_ml(self) -> float:
        """Volume of one block of paste [mL]."""
        return block_volume_ml(self.accounts, self.scaled)

    @property
    def folded(self) -> float:
        """Share of the paste that is trimmed off while it is folded [-]."""
        return trimmed_share(self.worked, self.block_ml)

    @property
    def shrinks(self) -> float:
        """A block when it reaches its last sheet over the block as mixed, nothing strewn in [-]."""
        return self.scaled.kept * (1 - self.folded)

    @property
    def trimmed_pct(self) -> float:
        """The same, on the paste of a block [%]."""
        return 100 * self.trimmed_g / self.scaled.each_g if self.scaled.each_g > 0 else 0.0

    @property
    def trimmed_g(self) -> float:
        """What is trimmed off one block while it is folded [g]."""
        return self.folded * self.scaled.each_g

    def block_after(self, done: int) -> Box | None:
        """Give the block as it lies after so many steps of the plan; None without sizes."""
        return lies_after(self.plan, self.enclosing, self.worked, done)

    @property
    def is_log(self) -> bool:
        """True when a block is a log when its turns are done: it is sliced, not rolled out."""
        turns = self.plan.turns
        return turns[-1].way is Way.ROLL if turns else self.plan.enclosure is Enclosure.COIL

    @property
    def cut_sheet(self) -> Box:
        """The final sheet of one block as it is cut, after it has drawn back.

        As the cut plan has it; else of what reaches it of one block, rolled on as the turns are.
        1 mm long for an empty paste.
        """
        fresh = [plan for plan in self.cut.plans if not plan.of_stock] if self.cut else []
        if fresh:
            return fresh[0].sheet
        if self.cut is not None:
            return self.cut.plans[0].sheet
        each_g = self.scaled.rolled_g / max(1, self.scaled.blocks)
        return self.sheet_of(each_g / self.sheets_of_block(each_g))

    def sheets_of_block(self, rolled_g: float) -> int:
        """Give how many sheets a block is rolled to that no cut plan parts, for the bench [-].

        Parameters
        ----------
        rolled_g : float
            The block as it reaches its last sheets [g].
        """
        for parts in range(1, MOST_PARTS + 1):
            sheet = rolled_of(self.sheet_of(rolled_g / parts), self.formula.cutting)
            if sheet.length_mm <= self.room.bench_mm:
                return parts
        return MOST_PARTS

    def sheet_of(self, rolled_g: float) -> Box:
        """Give the sheet that so much finished paste is cut as, where no cut plan says it."""
        density = self.accounts.rolled_density_g_ml or 1.0
        volume, high = rolled_g / density, self.formula.sheet_mm
        before = self.block_after(len(self.plan.steps))
        wide = self.formula.roll_width_mm or 300.0
        if before is not None and volume > 0 and not self.formula.roll_width_mm:
            on = natural_width(before, volume, high, 3, self.room)
            wide = before.width_mm if self.is_log else on
        return Box(max(1.0, volume * 1000 / (wide * high)), wide, high)

    @property
    def final_sheet(self) -> Box:
        """The final sheet of one block as it is rolled, before it draws back."""
        return rolled_of(self.cut_sheet, self.formula.cutting)

    @property
    def piece_mm(self) -> float:
        """Length of a piece along the sheet.

        Of a square one when only its weight is known [mm]; 0 when it is not known.
        """
        batch = self.formula.batch
        wanted = self.formula.wanted
        if wanted:
            return max(blank.length_mm for blank in blanks_of(wanted[0]))
        if batch.piece_by == "size":
            return batch.piece_length_mm
        density = self.accounts.rolled_density_g_ml or 0.0
        if density <= 0 or self.scaled.piece_g <= 0:
            return 0.0
        return float((self.scaled.piece_g * 1000 / (density * self.formula.sheet_mm)) ** 0.5)

    @property
    def in_leaves(self) -> bool:
        """True when leaves go through from edge to edge, so that the stack tells all."""
        ideal = self.formula.working.ideal and not self.strewn
        return ideal and not self.plan.leaves_are_means

    def fat_share_after(self, done: int | None = None) -> float:
        """Volume share of the fat in the paste after so many steps of the plan [-].

        After all of them for None, 0 without fat.
        """
        share = self.readings.fat_volume_share or 0.0
        return fat_share_at(self.plan, share, self.worked, done) if 0 < share < 1 else share

    def stack(self, upto: int | None = None) -> "Stack | None":
        """Work the leaf stack up to a step; None when there is none or it is too large."""
        from aplomb.core.folds.stack import stack_of  # NumPy comes when a leaf is drawn, not before

        share = self.accounts.fat_volume_share
        if share is None or self.plan.leaves_are_means:
            return None
        try:
            kept = tuple(trim.kept for trim in self.worked.trims)
            return stack_of(self.plan, share, upto, kept)
        except AplombError:
            return None

    def section(
        self, upto: int | None = None, *, final: bool = True, across: bool = False
    ) -> "Section":
        """Make ready the section whose every pixel is carried back through the folds.

        Parameters
        ----------
        upto : int or None
            Only the first steps of the plan; None for all.
        final : bool
            Rolled out flat; otherwise as it lies after that step.
        across : bool
            Cut across the last rolling instead of along it.

        Raises
        ------
        AplombError
            When there is nothing to cut through, or the plan cannot be worked.
        """
        from aplomb.core.folds.raster import Paste, Section

        leaves = self.turns[-1 if upto is None else min(upto, len(self.turns) - 1)].fat_leaves
        share = self.readings.fat_volume_share
        if share and leaves and self.formula.sheet_mm * share * 1000 / leaves < THINNEST_LEAF_UM:
            raise AplombError(
                "After so many folds a fat leaf would be thinner than a molecule of fat, "
                "so there is no leaf left to show."
            )
        used_up = len(self.worked.turns) < len(
            Plan(self.plan.enclosure, self.plan.steps[:upto]).turns
        )
        if self.fold_trouble and used_up:
            raise AplombError(self.fold_trouble)
        share = self.readings.fat_volume_share
        if not share or share >= 1 or self.enclosing is None:
            raise AplombError(
                self.fold_trouble or "No fat block yet: there is nothing to cut through."
            )
        plan = Plan(self.plan.enclosure, self.plan.steps[:upto])
        portion_shares = self.plan.portion_shares()
        if self.plan.portions and not plan.portions:
            raise AplombError("No portion of the fat is spread yet at this step.")
        return Section(
            Paste(
                plan,
                share,
                self.enclosing,
                self.worked,
                self.formula.working,
                self._mass(share),
                self.strewn,
                final,
                portion_shares,
            ),
            across=across,
        )

    def _mass(self, share: float) -> "Mass | None":
        from aplomb.core.folds.pieces import Mass

        if not self.in_pieces:
            return None
        f = self.formula
        side = (self.block_ml * 1000 / f.gathered_mm) ** 0.5 if self.block_ml > 0 else 200.0
        return Mass(
            min(share, FINEST_SHARE),
            f.gathered_mm,
            min(max(side, 60.0), 2000.0),
            f.piece_fat_mm,
            form=f.piece_form,
            spread=f.piece_spread_pct / 100,
        )


def lies_after(plan: Plan, how: Enclosing | None, worked: Worked, done: int) -> Box | None:
    """Give a block as it lies after so many steps of its plan; None without sizes."""
    box = how.done if how else None
    turns, trims = iter(worked.turns), iter(worked.trims)
    for step in plan.steps[:done]:
        if step.way is Way.TRIM:
            trim = next(trims, None)
            box = trim.left if trim else box
        elif step.is_turn:
            size = next(turns, None)
            box = size.block if size else box
    return box


def make_batch(formula: Formula, reference: Reference) -> Scaled:
    """Scale a formula by its cut plan, trims while folding taken off, and work out nothing else.

    Raises
    ------
    AplombError
        As `make_study`.
    """
    accounts = account(formula, reference.pantry)
    cut = _cut_of(formula, accounts, reference, search=True)
    return _sized(formula, accounts, reference, cut.sheets).scaled


def _sized(
    formula: Formula, accounts: Accounts, reference: Reference, cut: Sheets | None = None
) -> Sized:
    return sized_batch(
        formula,
        reference.pantry,
        accounts,
        reference.house,
        reference.made_batches,
        reference.uid,
        cut,
    )


class _Cut(Struct, frozen=True):
    """A formula's cut plan, or why there is none, or that it is not known yet."""

    sheets: Sheets | None = None
    trouble: str = ""
    waits: bool = False


def _cut_of(formula: Formula, accounts: Accounts, reference: Reference, *, search: bool) -> _Cut:
    """Find the cut plan that a batch is made by; none where nothing wanted has an outline."""
    if not formula.wanted:
        return _Cut()
    if accounts.rolled_density_g_ml is None:
        return _Cut(trouble="The paste has no weight yet: there is no sheet to cut.")
    batch = formula.batch
    trims = any(step.way is Way.TRIM for step in formula.plan.steps)
    loose = _sized(formula, accounts, reference) if trims or batch.fixed != "pieces" else None
    found = _cut_with(formula, accounts, reference, loose, search=search)
    for _ in range(MOST_ROUNDS if trims and batch.fixed != "pieces" else 0):
        if found.sheets is None:
            break
        # several blocks lose more to the trims between the folds than the one that was thought of
        now = _sized(formula, accounts, reference, found.sheets)
        if now.scaled.trouble or found.sheets.sheets_g <= now.scaled.rolled_g * (1 + CLOSE_SHARE):
            break
        found = _cut_with(formula, accounts, reference, now, search=search)
    return found


MOST_ROUNDS, CLOSE_SHARE = 4, 1e-9
"""How often sheets are laid anew for what the trims leave of their blocks, and what is enough."""


def _cut_with(
    formula: Formula,
    accounts: Accounts,
    reference: Reference,
    loose: Sized | None,
    *,
    search: bool,
) -> _Cut:
    """Find the cut plan for what is known of the blocks so far."""
    batch = formula.batch
    losses = losses_of(batch, reference.made_batches, reference.uid)
    folded = 0.0
    if loose is not None:
        folded = trimmed_share(loose.worked, block_volume_ml(accounts, loose.scaled))
    case = _cut_case(
        formula, accounts, reference.house, losses.broken.value, losses.kept * (1 - folded)
    )
    try:
        if batch.fixed == "pieces":
            sheets = sheets_for(case, search=search)
        elif loose is None or loose.scaled.trouble:
            return _Cut()
        else:
            scaled = loose.scaled
            fresh_g = scaled.rolled_g - batch.frozen_g * case.shrinks
            fresh_ml = max(0.0, fresh_g) / (accounts.rolled_density_g_ml or 1.0)
            most = batch.times if batch.fixed == "written" else math.inf
            sheets = sheets_of_mass(case, fresh_ml, most, search=search)
    except AplombError as error:
        return _Cut(trouble=as_sentence(error))
    return _Cut(sheets, waits=sheets is None)


def _cut_case(
    formula: Formula, accounts: Accounts, house: House, broken_pct: float, shrinks: float
) -> CutCase:
    raw = tuple(raw_pieces(p.wanted, broken_pct) if p.is_cut else 0 for p in formula.products)
    return CutCase(formula, formula.plan, accounts, house, raw, shrinks)


def cut_case(study: Study, house: House) -> CutCase:
    """Give what the cut plan of a study hangs on, to ask for another."""
    losses = study.scaled.losses
    broken = losses.broken.value if losses else 0.0
    return _cut_case(study.formula, study.accounts, house, broken, study.shrinks)


def with_its_cut(study: Study, reference: Reference) -> Study:
    """Give a study with its cut plan; what waits for one is worked out anew, with the search."""
    return make_study(study.formula, reference) if study.cut_waits else study


def _stands(last: Sheets, formula: Formula, accounts: Accounts) -> Sheets | None:
    """Give an earlier plan as far as it can stand for a formula that has changed meanwhile."""
    density, products = accounts.rolled_density_g_ml, formula.products
    places = [at for plan in last.plans for at in plan.products]
    if density is None or any(at >= len(products) or not products[at].is_cut for at in places):
        return None
    return replace(last, density_g_ml=density)


def make_study(
    formula: Formula, reference: Reference, *, search: bool = True, last: Sheets | None = None
) -> Study:
    """Work out everything that is shown of a formula.

    Parameters
    ----------
    formula : Formula
        Checked; every material in the pantry.
    search : bool
        False not to search a cut plan that is not known: it takes longer than a key press may.
    last : Sheets or None
        The plan that stands meanwhile.

    Raises
    ------
    AplombError
        When a material or school is unknown, or the turn line cannot be read.
    """
    plan = formula.plan
    accounts = account(formula, reference.pantry)
    cut = _cut_of(formula, accounts, reference, search=search)
    if cut.waits and last is not None and formula.wanted:
        cut = replace(cut, sheets=_stands(last, formula, accounts))
    sized = _sized(formula, accounts, reference, cut.sheets)
    scaled, how, worked, trouble = sized.scaled, sized.enclosing, sized.worked, sized.trouble
    leaves = leaves_of_plan(formula, plan, accounts, how, worked)
    share = accounts.fat_volume_share
    final = None if share is None or trouble else fat_share_at(plan, share, worked)
    readings = read(formula, reference.pantry, accounts, plan, leaves, scaled, final)
    school = with_band_of_liquid(
        reference.schools[formula.school], formula, reference.pantry, accounts
    )
    turns, trouble = turns_of(plan, leaves, worked, trouble)
    fat = block_fat(formula, reference.pantry)
    water = dough_water(formula, reference.pantry, reference.house, scaled.factor or 1.0)
    case = RuleInput(
        formula,
        reference.pantry,
        accounts,
        readings,
        plan,
        school,
        scaled,
        fat,
        water,
        reference.house,
        reference.today,
        worked,
        how,
    )
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
        worked=worked,
        strewn=strewn(formula, reference.pantry, plan, accounts),
        unpriced=unpriced(formula, reference.pantry),
        room=room_of(reference.house),
        fold_trouble=trouble,
        cut=cut.sheets,
        cut_trouble=cut.trouble,
        cut_waits=cut.waits,
    )
