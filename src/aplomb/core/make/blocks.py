"""From the weighing to the cut: dough and fat, every block with its turns, every sheet."""

from msgspec import Struct

from aplomb.core.base.errors import AplombError, as_sentence
from aplomb.core.batch.blocks import sized_block
from aplomb.core.batch.cutting import rolled_of
from aplomb.core.batch.scaled import BlockGroup
from aplomb.core.folds.boxes import Box
from aplomb.core.folds.enclosing import Enclosing
from aplomb.core.folds.plan import Enclosure, step_name
from aplomb.core.folds.sizes import Worked
from aplomb.core.folds.step import Step, Way
from aplomb.core.make import minutes as usual
from aplomb.core.make import words
from aplomb.core.make.gathering import shared
from aplomb.core.make.making import Making
from aplomb.core.make.step import PiecesOf, RestAfter
from aplomb.core.paste.bodies import bodies_of
from aplomb.core.paste.formula import Part, turn_of
from aplomb.core.study.cold import bends_after
from aplomb.core.study.study import lies_after

PRESSED = (Enclosure.ENVELOPE, Enclosure.THIRDS, Enclosure.HALVES, Enclosure.INVERSE)
"""Ways of enclosing for which the fat is pressed to a block."""
SAME_G = 1e-6
"""Blocks that differ by less are alike [g]."""
SOFT = (Enclosure.PORTIONS, Enclosure.COIL)
"""Ways for which it is spread."""


class Sized(Struct, frozen=True):
    """A group of blocks with its sizes."""

    group: BlockGroup
    how: Enclosing | None
    worked: Worked


class Cut(Struct, frozen=True):
    """A sheet that was cut: its step, and what came of it."""

    step: str
    pieces: tuple[PiecesOf, ...]


class Blocks:
    """Dough, fat, blocks and sheets of a make.

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
        self._rolls = turns + (0 if making.goal.kind == "keep" else 1)
        self._laid: dict[int, int] = {}
        self._parts: dict[str, int] = {}
        self._spread_on: set[str] = set()
        self._shares = _portion_shares(making)
        self._dusting = making.of(Part.DUSTING)
        turns_of = [turn_of(n, self.plan) for n in self.formula.between if n.grams > 0]
        self._between = list(zip(turns_of, making.of(Part.BETWEEN), strict=False))
        """What is strewn in at each turn; nothing where no new paste is made."""

    @property
    def stock_blocks(self) -> int:
        """Blocks that come out of the freezer [-]."""
        return self.formula.batch.frozen_blocks

    @property
    def _is_enclosed(self) -> bool:
        """True when the fat block is enclosed, spread or left in pieces; else it is mixed in."""
        portions = self.plan.enclosure is Enclosure.PORTIONS
        return bool(self._shares) if portions else self.plan.enclosure is not Enclosure.NONE

    def add(self) -> None:
        """Add every step up to the last cut, or up to the store for paste that is kept."""
        if self.fresh:
            self._weigh()
            self._mix()
            self._fat()
        self._weigh_besides()
        number = 0
        for sized in self._sized():
            for _ in range(sized.group.blocks):
                number += 1
                self._block(number, sized)
        for stock in range(1, (self.many - self.fresh) + 1):
            self._stock_block(number + stock)

    # weighing, dough and fat

    def _weigh(self) -> None:
        making, gather = self.making, self.gather
        dough = sum(n.grams for n in making.of(Part.DOUGH))
        fat = making.of(Part.BLOCK)
        gather.unit("dough", "dough", dough)
        mixes = len(making.mix_shares)
        self._weighed: list[str] = []
        for mix in range(mixes):
            weighs = making.weighed_for(mix, Part.DOUGH)
            self._weighed.append(
                gather.add(
                    "weigh",
                    "dough",
                    of=mixes,
                    pieces=len(weighs),
                    weighs=weighs,
                    words=_of_many("Weigh the dough", mix, mixes),
                    cautions=self._raw(Part.DOUGH),
                )
            )
        self._fat_weighed: list[str] = []
        if fat:
            gather.unit("fat", "fat", sum(n.grams for n in fat))
            for mix in range(mixes):
                weighs = making.weighed_for(mix, Part.BLOCK)
                self._fat_weighed.append(
                    gather.add(
                        "weigh",
                        "fat",
                        of=mixes,
                        pieces=len(weighs),
                        weighs=weighs,
                        words=_of_many("Weigh the fat", mix, mixes),
                    )
                )

    def _weigh_besides(self) -> None:
        """Weigh what is dusted with and strewn in; what goes on the pieces is weighed there."""
        weighs = self.making.weighed(Part.DUSTING, Part.BETWEEN)
        if weighs:
            self.gather.unit("bench", "dusting", sum(n.grams for n in self._dusting))
            self._besides: tuple[str, ...] = (
                self.gather.add(
                    "weigh",
                    "bench",
                    pieces=len(weighs),
                    weighs=weighs,
                    words="Weigh the dusting flour and what goes between the folds",
                ),
            )
        else:
            self._besides = ()

    def _mix(self) -> None:
        making, gather, formula = self.making, self.gather, self.formula
        in_it = making.of(Part.DOUGH)
        pieces = self.plan.enclosure is Enclosure.PIECES
        none = not self._is_enclosed
        fat = making.of(Part.BLOCK) if pieces or none else []
        cut: tuple[str, ...] = ()
        if pieces and fat:
            size = f"{formula.piece_form} of {formula.piece_fat_mm:g} mm"
            cut = (
                gather.add(
                    "cut_fat",
                    "fat",
                    words=f"Cut the cold fat to {size}",
                    sign="the pieces are alike and still cold",
                ),
            )
        rest = making.rest("dough", self.plan.dough_rest, usual_min=usual.USUAL_DOUGH_MIN)
        if pieces and self.plan.dough_rest is None:
            rest = RestAfter(rest.place, 0.0, rest.most_min, rest.stand_min)
        if self.fresh > 1:
            divided, after = rest, None
        else:
            divided, after = None, rest
        self._dough: list[str] = []
        many = len(making.mix_shares)
        for mix, share in enumerate(making.mix_shares):
            at = gather.add(
                "mix",
                "dough",
                after=(self._weighed[mix],),
                more_after=(*cut, *(self._fat_weighed[mix : mix + 1] if none else ())),
                lines=(*shared(in_it, share), *shared(fat, share)),
                rest=after,
                words=_of_many("Mix the dough", mix, many),
                sign=words.MIX_SIGNS[formula.mixing],
                cautions=self._raw(Part.DOUGH),
            )
            if divided is not None:
                blocks = making.mix_of.count(mix)
                at = gather.add(
                    "divide",
                    "dough",
                    of=1,
                    after=(at,),
                    rest=divided,
                    words=f"Divide the dough into {blocks} pieces of equal weight"
                    if len(self.scaled.groups) == 1
                    else "Divide the dough by weight, a piece for each block",
                )
            self._dough.append(at)

    def _fat(self) -> None:
        """Bring the fat to where it can be enclosed or spread."""
        making, gather = self.making, self.gather
        fat = making.of(Part.BLOCK)
        if not fat or self.plan.enclosure is Enclosure.PIECES or not self._is_enclosed:
            return
        after = self._fat_weighed
        if self.plan.enclosure in SOFT:
            gather.add("soften", "fat", after=after, alone_min=usual.SOFTEN_MIN)
        else:
            gather.add("temper", "fat", after=after, alone_min=usual.TEMPER_MIN)
        flours = [n for n in fat if self.making.pantry[n.material].is_flour]
        if flours:
            gather.add("mix_fat", "fat", pieces=0)

    def _raw(self, *parts: Part) -> tuple[str, ...]:
        """Cautions for what is handled raw."""
        lines = self.making.of(*parts)
        groups = self.making.groups_of(lines)
        found = [words.RAW_FLOUR] if groups & {"flour", "starch"} else []
        if "egg" in groups:
            found.append(words.RAW_EGG)
        return tuple(found)

    # blocks

    def _sized(self) -> list[Sized]:
        return [self._sized_of(group) for group in self.scaled.groups]

    def _sized_of(self, group: BlockGroup) -> Sized:
        """Size the enclosing and the turns of blocks that are alike."""
        study = self.study
        if abs(group.each_g - self.scaled.each_g) < SAME_G:
            return Sized(group, study.enclosing, study.worked)
        accounts, house = study.accounts, self.making.house
        try:
            share = group.each_g / accounts.paste_g
            how, worked = sized_block(self.formula, self.plan, accounts, share, house)
        except AplombError as error:
            self.making.trouble.append(as_sentence(error))
            return Sized(group, None, Worked((), ()))
        return Sized(group, how, worked)

    def _block(self, number: int, sized: Sized) -> None:
        making, gather = self.making, self.gather
        share = making.block_shares[number - 1]
        key = gather.unit(f"b{number}", "block", self.scaled.paste_g * share)
        dough = self._dough[making.mix_of[number - 1]]
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
            gather.add(
                "spread",
                key,
                after=(dough,),
                more_after=gather.last("fat"),
                lines=shared(fat, share),
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

    def _press(self, key: str, sized: Sized) -> str:
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

    def _turns(self, key: str, sized: Sized, share: float, done: int) -> None:
        """Add the turns, trims and additions of a block from a place of the plan on."""
        gather, steps = self.gather, list(self.plan.steps)
        turn = sum(step.is_turn for step in steps[:done])
        trims = sum(step.way is Way.TRIM for step in steps[:done])
        shares = self._shares
        portion = sum(step.way is Way.PORTION for step in steps[:done])
        dusting = shared(self._dusting, share / self._rolls) if self._rolls else ()
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
                    lines=dusting,
                    more_after=self._besides if dusting else (),
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

    def _after_turns(self, key: str, number: int, sized: Sized) -> None:
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
        if group.off_g > 0:
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
        scaled = self.scaled
        losses = scaled.losses
        keep = 1 - losses.loss.value / 100 if losses else 1.0
        return scaled.rolled_g - scaled.frozen_g * keep * (1 - self.study.folded)

    def _sheet_by_weight(self, key: str, finished_g: float) -> None:
        """Roll a block that no cut plan parts: so long as its weight makes it."""
        if self.study.is_log:
            self._slices(key, finished_g)
            return
        parts = self.study.sheets_of_block(finished_g)
        sheet = self.study.sheet_of(finished_g / parts)
        self._part(key, parts)
        made = [m for m in self.scaled.made if m.pieces > 0]
        block = self._laid[-1] = self._laid.get(-1, 0) + 1
        for part in range(1, parts + 1):
            pieces = tuple(
                PiecesOf(m.name, _share_of(_share_of(m.pieces, block, self.many), part, parts))
                for m in made
            )
            edge = self.formula.cutting.edge_mm
            self._sheet(key, f"{key}.s{part}", sheet, finished_g / parts, pieces, edge)

    def _slices(self, key: str, finished_g: float) -> None:
        """Cut a log into slices: it is not rolled out again."""
        block = self._laid[-1] = self._laid.get(-1, 0) + 1
        made = [m for m in self.scaled.made if m.pieces > 0]
        pieces = tuple(PiecesOf(m.name, _share_of(m.pieces, block, self.many)) for m in made)
        share = finished_g / self._sheets_g() if self._sheets_g() > 0 else 0.0
        dusting = shared(self._dusting, share / self._rolls) if self._rolls else ()
        at = self.gather.add(
            "slice",
            key,
            of=self.many,
            pieces=sum(each.count for each in pieces),
            lines=dusting,
            more_after=self._besides if dusting else (),
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
            self._sheet(key, f"{key}.s{part}", plan.sheet, sheet_g, pieces, plan.edge_mm)

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
        gather.unit(key, "sheet", grams)
        gather.follows(key, gather.last(block)[0])
        share = grams / self._sheets_g() if self._sheets_g() > 0 else 0.0
        dusting = shared(self._dusting, share / self._rolls) if self._rolls else ()
        gather.add(
            "sheet",
            key,
            of=self.many,
            lines=dusting,
            more_after=self._besides if dusting else (),
            sheet=sheet,
            roll_to=rolled_of(sheet, self.formula.cutting),
            done=len(self.plan.steps),
            cautions=(words.ROLLERS,) if gather.sheeter else (),
        )
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

    def _sheets_g(self) -> float:
        """All that is rolled to last sheets [g]."""
        return self.study.cut.sheets_g if self.study.cut else self.scaled.rolled_g

    # kept and from stock

    def _keep(self, key: str, grams: float) -> None:
        """Wrap, label and store a block."""
        gather, goal = self.gather, self.making.goal
        shares = self.formula.batch.shares if goal.kind == "keep" else 1
        if shares > 1:
            gather.add(
                "divide",
                key,
                words=f"Divide into {shares} parts of {grams / shares:.0f} g, each wrapped",
            )
        gather.add("wrap", key, of=self.many)
        rest = RestAfter(goal.where, 0.0, 2880.0 if goal.where == "fridge" else 20160.0)
        gather.add(
            "store",
            key,
            rest=rest,
            words=f"Into the {goal.where}",
            cautions=(words.THAW_ONCE,) if self.scaled.frozen_g > 0 else (),
        )

    def _stock_block(self, number: int) -> None:
        """A block from the freezer: it thaws and joins at the turn that it has reached."""
        gather, making, batch = self.gather, self.making, self.formula.batch
        grams = batch.frozen_g / self.stock_blocks
        key = gather.unit(f"b{number}", "stock", grams)
        done = self._reached(batch.frozen_turns)
        sized = self._sized_of(BlockGroup(1, grams))
        rest = self._thaw_rest(sized, done)
        gather.add(
            "thaw", key, of=self.stock_blocks, rest=rest, done=done, cautions=(words.THAW_ONCE,)
        )
        self._turns(key, sized, 0.0, done)
        cut = making.study.cut
        plans = [i for i, p in enumerate(cut.plans) if p.of_stock] if cut else []
        if cut is None or not plans:
            losses = self.scaled.losses
            keep = 1 - losses.loss.value / 100 if losses else 1.0
            self._sheet_by_weight(key, grams * keep * (1 - self.study.folded))
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

    def _thaw_rest(self, sized: Sized, done: int) -> RestAfter:
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


def _dough_box(sized: Sized) -> Box | None:
    return sized.how.dough if sized.how else None


def _named(step: Step) -> str:
    name = step_name(step)
    return f"{name[:1].upper()}{name[1:]}"


def _of_many(words_: str, at: int, many: int) -> str:
    return words_ if many < 2 else f"{words_}, mix {at + 1} of {many}"


def _share_of(count: int, number: int, sheets: int) -> int:
    """Pieces of one of some sheets that are alike, the first the fuller ones [-].

    Examples
    --------
    >>> [_share_of(10, n, 3) for n in (1, 2, 3)]
    [4, 3, 3]
    """
    few, more = divmod(count, sheets)
    return few + (number <= more)


def _portion_shares(making: Making) -> tuple[float, ...]:
    """Share of the fat in each portion; none where it is not spread in portions."""
    plan = making.study.plan
    if plan.enclosure is not Enclosure.PORTIONS or not plan.portions:
        return ()
    try:
        return plan.portion_shares()
    except AplombError as error:
        making.trouble.append(as_sentence(error))
        return ()
