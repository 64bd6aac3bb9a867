"""From dough and fat to the cut: every block with its turns, every sheet."""

from typing import Any

from msgspec import Struct

from aplomb.core.base.errors import AplombError, as_sentence
from aplomb.core.base.figures import weight_text
from aplomb.core.batch.blocks import PRESSED, sized_block
from aplomb.core.batch.cutting import CutPlan, rolled_of
from aplomb.core.batch.scaled import BlockGroup
from aplomb.core.folds.boxes import Box
from aplomb.core.folds.enclosing import Enclosing
from aplomb.core.folds.plan import Enclosure, step_name
from aplomb.core.folds.sizes import Worked
from aplomb.core.folds.step import Step, Way
from aplomb.core.make import minutes as usual
from aplomb.core.make import words
from aplomb.core.make.dough import Dough
from aplomb.core.make.gathering import shared
from aplomb.core.make.making import Making
from aplomb.core.make.step import PiecesOf, RestAfter
from aplomb.core.paste.bodies import bodies_of
from aplomb.core.paste.formula import Part, turn_of
from aplomb.core.study.cold import bends_after
from aplomb.core.study.study import lies_after

SAME_G = 1e-6
"""Blocks that differ by less are alike [g]."""


class SizedGroup(Struct, frozen=True):
    """A group of blocks with its sizes."""

    group: BlockGroup
    how: Enclosing | None
    worked: Worked


class Cut(Struct, frozen=True):
    """A sheet that was cut: its step, and what came of it."""

    step: str
    pieces: tuple[PiecesOf, ...]


class Blocks:
    """Blocks and sheets of a make.

    Attributes
    ----------
    cuts : list of Cut
        In the order in which they are cut.
    """

    def __init__(self, making: Making) -> None:
        self.making, self.gather = making, making.gather
        self.study = making.study
        self.plan, self.scaled = making.study.plan, making.study.scaled
        self.formula = making.study.formula
        self.fresh = len(making.block_shares)
        self.many = self.fresh + (self.stock_blocks if self.scaled.frozen_g > 0 else 0)
        self.cuts: list[Cut] = []
        turns = len(self.plan.turns)
        keep = making.goal.kind == "keep"
        ends_as_log = keep or (self.study.is_log and self.study.cut is None)
        self._coil_alone = (
            self.plan.enclosure is Enclosure.COIL
            and bool(making.of(Part.BLOCK))
            and self.fresh == self.many
            and not turns
            and ends_as_log
        )
        """True when the thin sheet of a coil is all that is rolled."""
        self._rolls = turns + (0 if keep and not self._coil_alone else 1)
        self._laid: dict[int, int] = {}
        self._by_weight = 0
        self._parts: dict[str, int] = {}
        self._spread_on: set[str] = set()
        self._dough = Dough(making)
        self._dusting = making.of(Part.DUSTING)
        turns_of = [turn_of(n, self.plan) for n in self.formula.between if n.grams > 0]
        self._between = list(zip(turns_of, making.of(Part.BETWEEN), strict=False))
        """What is strewn in at each turn; nothing where no new paste is made."""

    @property
    def stock_blocks(self) -> int:
        """Blocks that come out of the freezer [-]."""
        return self.formula.batch.frozen_blocks

    def add(self) -> None:
        """Add every step up to the last cut, or up to the store for paste that is kept."""
        if self.fresh:
            self._dough.add()
        self._besides = self._dough.weigh_besides()
        number = 0
        for sized in self._sized():
            for _ in range(sized.group.blocks):
                number += 1
                self._block(number, sized)
        for stock in range(1, (self.many - self.fresh) + 1):
            self._stock_block(number + stock)

    # blocks

    def _sized(self) -> list[SizedGroup]:
        return [self._sized_of(group) for group in self.scaled.groups]

    def _sized_of(self, group: BlockGroup) -> SizedGroup:
        """Size the enclosing and the turns of blocks that are alike."""
        study = self.study
        if abs(group.each_g - self.scaled.each_g) < SAME_G:
            return SizedGroup(group, study.enclosing, study.worked)
        accounts, house = study.accounts, self.making.house
        try:
            share = group.each_g / accounts.paste_g
            how, worked = sized_block(self.formula, self.plan, accounts, share, house)
        except AplombError as error:
            self.making.trouble.append(as_sentence(error))
            return SizedGroup(group, None, Worked((), ()))
        return SizedGroup(group, how, worked)

    def _block(self, number: int, sized: SizedGroup) -> None:
        making, gather = self.making, self.gather
        share = making.block_shares[number - 1]
        key = gather.unit(f"b{number}", "block", self.scaled.paste_g * share)
        dough = self._dough.mixed[making.mix_of[number - 1]]
        gather.follows(key, dough)
        enclosure, fat = self.plan.enclosure, making.of(Part.BLOCK)
        steps = list(self.plan.steps)
        before = 0
        while before < len(steps) and steps[before].way is Way.REST:
            before += 1
        rests = self._rests(steps, 0)
        if enclosure is Enclosure.PIECES:
            gather.add("gather", key, of=self.fresh, rest=rests[0], sheet=_dough_box(sized))
        elif enclosure in PRESSED and fat:
            pressed = self._press(key, sized)
            gather.add(
                "enclose",
                key,
                of=self.fresh,
                after=(dough,),
                more_after=(pressed,),
                lines=shared(fat, share),
                sheet=_dough_box(sized),
                rest=rests[0],
                on=(),
            )
        elif enclosure is Enclosure.COIL and fat:
            dusted = self._dusted(share) if self._coil_alone else {"lines": (), "more_after": ()}
            gather.add(
                "spread",
                key,
                after=(dough,),
                more_after=(*gather.last("fat"), *dusted["more_after"]),
                lines=(*shared(fat, share), *dusted["lines"]),
                sheet=_dough_box(sized),
                words="Roll the dough out thin and spread the soft fat over it",
            )
            gather.add("roll_up", key, of=self.fresh, rest=rests[0], words="Roll up tight")
        elif rests[0] is not None:
            gather.add("move", key, rest=rests[0])
        for rest in rests[1:]:
            gather.add("move", key, rest=rest)
        self._without_turns(key, share)
        self._turns(key, sized, share, 0)
        self._after_turns(key, number, sized)

    def _without_turns(self, key: str, share: float) -> None:
        """Add what is strewn in and dusted when no turn takes it up: a coil that is kept."""
        lines = [n for turn, n in self._between if not turn]
        lines += [] if self._rolls else self._dusting
        if lines:
            lines_in = shared(lines, share)
            self.gather.add("add", key, lines=lines_in, more_after=self._besides)

    def _press(self, key: str, sized: SizedGroup) -> str:
        """Press the fat of one block; it then rests by itself."""
        making, gather = self.making, self.gather
        rest = making.rest("fat", self.plan.fat_rest, usual_min=usual.USUAL_FAT_MIN)
        box = sized.how.fat if sized.how else None
        return gather.add(
            "press", key, of=self.fresh, after=gather.last("fat"), sheet=box, rest=rest, on=("fat",)
        )

    def _rests(self, steps: list[Step], at: int) -> list[RestAfter | None]:
        """Give the rests that follow at a place of the plan; at least one, None for none."""
        found: list[RestAfter | None] = []
        while at < len(steps) and steps[at].way is Way.REST:
            found.append(self.making.rest("paste", steps[at], at, usual_min=usual.WRITTEN_REST_MIN))
            at += 1
        return found or [None]

    def _turns(self, key: str, sized: SizedGroup, share: float, done: int) -> None:
        """Add the turns, trims and additions of a block from a place of the plan on."""
        gather, steps = self.gather, list(self.plan.steps)
        turn = sum(step.is_turn for step in steps[:done])
        trims = sum(step.way is Way.TRIM for step in steps[:done])
        shares = self._dough.portions
        portion = sum(step.way is Way.PORTION for step in steps[:done])
        dusting = self._dusted(share)
        for at in range(done, len(steps)):
            step = steps[at]
            if step.way is Way.REST:
                continue
            rests = self._rests(steps, at + 1)
            if step.way is Way.TRIM:
                left = sized.worked.trims[trims].left if trims < len(sized.worked.trims) else None
                trims += 1
                gather.add("trim", key, sheet=left, rest=rests[0], done=at + 1, words=_named(step))
            else:
                turn += 1
                size = sized.worked.turns[turn - 1] if turn <= len(sized.worked.turns) else None
                sheet = size.sheet if size else None
                if step.way is Way.PORTION and shares:
                    self._spread(key, step, share * shares[portion], turn)
                    portion += 1
                strewn = [n for at_turn, n in self._between if at_turn == turn]
                if strewn:
                    gather.add(
                        "add",
                        key,
                        op=f"turn {turn}",
                        lines=shared(strewn, share),
                        sheet=sheet,
                        more_after=self._besides,
                        words="Sprinkle over the rolled sheet, not to the edges",
                    )
                gather.add(
                    "roll_up" if step.way is Way.ROLL else "turn",
                    key,
                    of=self.many,
                    op=f"turn {turn}",
                    **dusting,
                    sheet=sheet,
                    rest=rests[0],
                    done=at + 1,
                    words=f"Turn {turn}: {step_name(step)}",
                    cautions=(words.ROLLERS,) if gather.sheeter else (),
                )
            for rest in rests[1:]:
                gather.add("move", key, rest=rest, done=at + 1)

    def _spread(self, key: str, step: Step, share: float, turn: int) -> None:
        lines = shared(self.making.of(Part.BLOCK), share)
        covered = len(step.spread_on)
        soft = () if key in self._spread_on else self.gather.last("fat")
        self._spread_on.add(key)
        self.gather.add(
            "spread",
            key,
            op=f"turn {turn}",
            lines=lines,
            more_after=soft,
            words=f"Spread this share of the fat on {covered} of {step.panels} panels",
        )

    # sheets

    def _after_turns(self, key: str, number: int, sized: SizedGroup) -> None:
        group = sized.group
        if self.making.goal.kind == "keep":
            self._keep(key, self.scaled.rolled_g * self.making.block_shares[number - 1])
            return
        cut = self.study.cut
        if cut is not None and group.plan < 0:
            self._keep(key, self.scaled.over_g / group.blocks)
            return
        finished = self._rolled_fresh_g() * self.making.block_shares[number - 1]
        if cut is None:
            self._sheet_by_weight(key, finished)
            return
        plan = cut.plans[group.plan]
        parts = plan.sheets // plan.blocks
        if group.off_g > SAME_G:
            kept = self.gather.unit(f"{key}.rest", "kept", group.off_g)
            self.gather.add(
                "divide",
                key,
                words="Cut off the paste that is not rolled out, and keep it",
            )
            self.gather.follows(kept, self.gather.last(key)[0])
            self._keep(kept, group.off_g)
        self._sheets(key, group.plan, parts, cut.sheet_g(plan))

    def _rolled_fresh_g(self) -> float:
        """New paste as it reaches its last sheet [g]."""
        return self.scaled.rolled_g - self.scaled.frozen_g * self.study.shrinks

    def _sheet_by_weight(self, key: str, finished_g: float) -> None:
        """Roll a block that no cut plan parts: so long as its weight makes it."""
        if self.study.is_log:
            self._slices(key, finished_g)
            return
        parts = self.study.sheets_of_block(finished_g)
        sheet = self.study.sheet_of(finished_g / parts)
        self._part(key, parts)
        of_block = self._of_next_block()
        for part in range(1, parts + 1):
            pieces = tuple(PiecesOf(p.product, _share_of(p.count, part, parts)) for p in of_block)
            edge = self.formula.cutting.edge_mm
            self._sheet(key, f"{key}.s{part}", sheet, finished_g / parts, pieces, edge)

    def _of_next_block(self) -> tuple[PiecesOf, ...]:
        """Give the pieces of the next block that no cut plan parts."""
        self._by_weight += 1
        made = [m for m in self.scaled.made if m.pieces > 0]
        return tuple(
            PiecesOf(m.name, _share_of(m.pieces, self._by_weight, self.many)) for m in made
        )

    def _slices(self, key: str, finished_g: float) -> None:
        """Cut a log into slices: it is not rolled out again."""
        pieces = self._of_next_block()
        at = self.gather.add(
            "slice",
            key,
            of=self.many,
            pieces=sum(each.count for each in pieces),
            **({} if self._coil_alone else self._dusted_sheet(finished_g)),
            gives=pieces,
            done=len(self.plan.steps),
            words="Score the log and cut it into slices",
            cautions=(words.KNIFE,),
        )
        self.cuts.append(Cut(at, pieces))

    def _part(self, key: str, parts: int) -> None:
        """Cut a block into equal parts when it makes several sheets."""
        if parts > 1:
            self.gather.add(
                "divide", key, words=f"Cut the block into {parts} equal parts, a sheet each"
            )

    def _sheets(self, key: str, at_plan: int, parts: int, sheet_g: float) -> None:
        assert self.study.cut is not None
        plan = self.study.cut.plans[at_plan]
        self._part(key, parts)
        names = [p.name for p in self.formula.products]
        first = self._parts.get(key, 0)
        self._parts[key] = first + parts
        for part in range(first + 1, first + parts + 1):
            number = self._laid[at_plan] = self._laid.get(at_plan, 0) + 1
            pieces = tuple(
                PiecesOf(names[at], _share_of(many, number, plan.sheets))
                for at, many in zip(plan.products, plan.pieces(), strict=True)
                if many > 0
            )
            unit = f"{key}.s{part}"
            if plan.untrimmed:
                self._untrimmed(key, unit, plan, sheet_g, pieces)
            else:
                self._sheet(key, unit, plan.sheet, sheet_g, pieces, plan.edge_mm)

    def _untrimmed(
        self, block: str, key: str, plan: CutPlan, grams: float, pieces: tuple[PiecesOf, ...]
    ) -> None:
        """Roll a piece by itself to its size, and use it as it is."""
        told = "Roll each to a round" if plan.round else "Roll each to its size"
        self._rolled(block, key, grams, plan.sheet, plan.rolled, round=plan.round, words=told)
        at = self.gather.add(
            "relax",
            key,
            sheet=plan.sheet,
            round=plan.round,
            alone_min=usual.RELAX_MIN,
            gives=pieces,
            words="Lift it and let it shrink back; it is not trimmed",
        )
        self.cuts.append(Cut(at, pieces))

    def _rolled(
        self, block: str, key: str, grams: float, sheet: Box, rolled: Box, **more: Any
    ) -> None:
        """Roll a block, or a part of it, to its last sheet."""
        gather = self.gather
        gather.unit(key, "sheet", grams)
        gather.follows(key, gather.last(block)[0])
        gather.add(
            "sheet",
            key,
            of=self.many,
            **self._dusted_sheet(grams),
            sheet=sheet,
            roll_to=rolled,
            done=len(self.plan.steps),
            cautions=(words.ROLLERS,) if gather.sheeter else (),
            **more,
        )

    def _sheet(
        self,
        block: str,
        key: str,
        sheet: Box,
        grams: float,
        pieces: tuple[PiecesOf, ...],
        edge_mm: float,
    ) -> None:
        gather = self.gather
        self._rolled(block, key, grams, sheet, rolled_of(sheet, self.formula.cutting))
        gather.add("relax", key, sheet=sheet, alone_min=usual.RELAX_MIN)
        many = sum(each.count for each in pieces)
        told = f"Trim {edge_mm:g} mm off every rolled edge, then cut" if edge_mm else "Cut"
        at = gather.add(
            "cut",
            key,
            of=self.many,
            pieces=many,
            sheet=sheet,
            gives=pieces,
            words=told,
            cautions=(words.KNIFE,),
        )
        self.cuts.append(Cut(at, pieces))

    def _dusted(self, share: float) -> dict[str, Any]:
        """Give what a rolling of so much of the paste takes of the dusting flour, for its step."""
        lines = shared(self._dusting, share / self._rolls) if self._rolls else ()
        return {"lines": lines, "more_after": self._besides if lines else ()}

    def _dusted_sheet(self, grams: float) -> dict[str, Any]:
        """Give the same for a last sheet, by its share of all that is rolled to such."""
        whole = self.study.cut.sheets_g if self.study.cut else self.scaled.rolled_g
        return self._dusted(grams / whole if whole > 0 else 0.0)

    # kept and from stock

    def _keep(self, key: str, grams: float) -> None:
        """Wrap, label and store a block."""
        gather, goal = self.gather, self.making.goal
        shares = self.formula.batch.shares if goal.kind == "keep" else 1
        if shares > 1:
            gather.add(
                "divide",
                key,
                words=f"Divide into {shares} parts of {weight_text(grams / shares)}, each wrapped",
            )
        gather.add("wrap", key, of=self.many, words=f"Wrap and label {weight_text(grams)}")
        rest = RestAfter(goal.where, 0.0, 2880.0 if goal.where == "fridge" else 20160.0)
        gather.add(
            "store",
            key,
            rest=rest,
            words=f"Into the {goal.where}",
            cautions=(words.THAW_ONCE,) if self._was_frozen else (),
        )

    @property
    def _was_frozen(self) -> bool:
        """True when some of the paste has been frozen."""
        return self.scaled.frozen_g > 0 and self.formula.batch.frozen_where == "freezer"

    def _stock_block(self, number: int) -> None:
        """A block from stock: it thaws or stands, and joins at the turn that it has reached."""
        gather, making, batch = self.gather, self.making, self.formula.batch
        grams = batch.frozen_g / self.stock_blocks
        key = gather.unit(f"b{number}", "stock", grams)
        done = self._reached(batch.frozen_turns)
        sized = self._sized_of(BlockGroup(1, grams))
        if batch.frozen_where == "freezer":
            rest = self._thaw_rest(sized, done)
            gather.add(
                "thaw", key, of=self.stock_blocks, rest=rest, done=done, cautions=(words.THAW_ONCE,)
            )
        else:
            gather.add("stand", key, of=self.stock_blocks, alone_min=usual.STAND_MIN, done=done)
        self._turns(key, sized, 0.0, done)
        cut = making.study.cut
        plans = [i for i, p in enumerate(cut.plans) if p.of_stock] if cut else []
        if cut is None or not plans:
            self._sheet_by_weight(key, grams * self.study.shrinks)
            return
        for at_plan in plans:
            plan = cut.plans[at_plan]
            self._sheets(key, at_plan, max(1, plan.sheets // plan.blocks), cut.sheet_g(plan))

    def _reached(self, turns: int | None) -> int:
        """Steps of the plan done after so many turns; None for all [-]."""
        steps = self.plan.steps
        if turns is None:
            return len(steps)
        done = 0
        for at, step in enumerate(steps, 1):
            if turns <= 0 and step.is_turn:
                break
            turns -= step.is_turn
            done = at
        return done

    def _thaw_rest(self, sized: SizedGroup, done: int) -> RestAfter:
        """How long a block of this size thaws in the fridge: until it bends, in all directions."""
        least, known = usual.THAW_MIN, False
        making = self.making
        box = lies_after(self.plan, sized.how, sized.worked, done)
        material = bodies_of(self.formula, making.pantry).paste
        fridge = making.house.place("fridge")
        if making.cold_known and box is not None and material is not None and fridge is not None:
            bends = bends_after(material, box, fridge, making.house).usual
            least, known = (least, False) if bends is None else (bends, True)
        return RestAfter("fridge", least, least + usual.THAW_MORE_MIN, 0.0, known)


def _dough_box(sized: SizedGroup) -> Box | None:
    return sized.how.dough if sized.how else None


def _named(step: Step) -> str:
    name = step_name(step)
    return f"{name[:1].upper()}{name[1:]}"


def _share_of(count: int, number: int, sheets: int) -> int:
    """Pieces of one of some sheets that are alike, the first the fuller ones [-].

    Examples
    --------
    >>> [_share_of(10, n, 3) for n in (1, 2, 3)]
    [4, 3, 3]
    """
    few, more = divmod(count, sheets)
    return few + (number <= more)
