"""From formula and batch to the steps of a day: nothing is typed twice.

What a step takes is common practice until the bakery says otherwise, by block, mix, piece or load;
what a rest takes comes from the plan and, where it says nothing, from the cold.
"""

import math
from collections.abc import Mapping, Sequence
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.house import House
from aplomb.core.batch.keeping import PIECES, REFRESH_MIN, KeptItem
from aplomb.core.day.problem import (
    DayPaste,
    DayProblem,
    Need,
    Person,
    Shift,
    Started,
)
from aplomb.core.day.sheet import DaySheet
from aplomb.core.folds.plan import step_name
from aplomb.core.folds.step import Step, Way
from aplomb.core.kitchen.demand import PasteOfDay
from aplomb.core.kitchen.step_list import OF_STOCK, BlockRest, StepList, StepNote
from aplomb.core.kitchen.step_words import Called, Manner
from aplomb.core.make.dough import SPREAD
from aplomb.core.make.hands import HandsOf
from aplomb.core.make.make import make_of
from aplomb.core.make.minutes import (
    BAKE_MIN,
    COOL_FILLING_MIN,
    FILLING_MOST_MIN,
    RACK_MIN,
    RACK_MOST_MIN,
    RELAX_MIN,
    SOFTEN_MIN,
    STAND_MIN,
    WORK,
    hands_min,
)  # fmt: skip
from aplomb.core.make.step import Make, MakeStep
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.cold import RestResult, cold_of, rest_of
from aplomb.core.study.study import Study

HEAT_MIN = 15
"""Heating an oven where nothing is said [min], common practice."""
RELAX_MORE_MIN = 5.0
"""A sheet that has drawn back is cut within so long: it goes on shrinking and warms [min]."""
LOAD_MIN = WORK["load_in"].each
"""To put a load in, or to take one out [min]."""
LONG_MIN = 240
"""What waits in the cold when nothing hurries it [min], common practice."""
NIGHT_MIN = 1080
"""A rest may be drawn out over a night [min], common practice: the block is hard then, and stands
5 to 20 min before it goes on."""
HOT_SHOP_C, COLD_WATER_C, COOL_MIN = 24.0, 2.0, 90
"""In a shop so warm, or where water must be so cold, flour and fat go into the fridge for so long
first [°C, °C, min], common practice."""
THAW_BAKED_MIN, THAW_BAKED_MOST_MIN = 40, 720
"""What is baked and frozen thaws in the room first; common practice [min]."""
REFRESHED_RACK_MIN, REFRESHED_MOST_MIN = 10, 120
"""What was refreshed cools a little, and is crisp for an hour or two; common practice [min]."""
RAW_FROZEN_MORE_MIN = 5
"""Raw pieces go into the oven frozen, and so much longer; common practice [min]."""


class PasteSteps(Struct, frozen=True):
    """The steps of one paste.

    Attributes
    ----------
    paste : DayPaste
        Named by its formula's identity.
    bench_last : str
        Key of the last step at which its paste lies open on the bench.
    gluten : bool
        True when flour with gluten is in it.
    words : tuple of str
        What to look at.
    """

    uid: str
    name: str
    paste: DayPaste
    notes: dict[str, StepNote]
    bench_last: str
    gluten: bool
    words: tuple[str, ...] = ()

    @property
    def hands_min(self) -> int:
        """Hands' time [min]."""
        return sum(s.minutes for s in self.paste.all_steps if "baker" in s.needs)


def steps_of_paste(
    made: PasteOfDay,
    pantry: Pantry,
    house: House,
    sheet: DaySheet,
    kept: Sequence[KeptItem] = (),
) -> PasteSteps:
    """Give the steps of a paste of the day: those of its make, each kind over all its blocks.

    Parameters
    ----------
    made : PasteOfDay
        With its blocks, mixes and trays.
    sheet : DaySheet
        With minutes and rests that are not the usual ones.
    kept : sequence of KeptItem
        What is in store.
    """
    rests = cold_of(made.study, pantry, house)
    make = make_of(made.study, pantry, house, made.goal, rests, made.uid)
    return steps_of_make(make, made, pantry, house, sheet, kept, rests)


def steps_of_make(
    make: Make,
    made: PasteOfDay,
    pantry: Pantry,
    house: House,
    sheet: DaySheet,
    kept: Sequence[KeptItem] = (),
    rests: Sequence[RestResult] = (),
) -> PasteSteps:
    """Give the same where the make is there already; its hands do not hang on the cold.

    Parameters
    ----------
    rests : sequence of RestResult
        What the cold does to it; nothing where it is not known.
    """
    study = made.study
    collect = StepList(made.uid, sheet, HandsOf(make))
    item = piece_put_by(made.uid, sheet, kept)
    if item is not None:
        last = _put_by(collect, made, house, item)
        return _finished(collect, made, study, pantry, last)
    last = _Chain(collect, make, made, house, rests).add()
    if make.goal.kind != "keep":
        _bake(collect, made, house, _Heat())
    return _finished(collect, made, study, pantry, last)


def _finished(
    collect: StepList, made: PasteOfDay, study: Study, pantry: Pantry, last: str
) -> PasteSteps:
    gluten = any(pantry[key].has_gluten for key in study.formula.materials() if key in pantry)
    return PasteSteps(
        made.uid,
        study.formula.name,
        DayPaste(made.uid, tuple(collect.steps), sides=tuple(collect.sides)),
        collect.notes,
        last,
        gluten,
        tuple(collect.told),
    )


def _rest_of(found: RestResult | None, usual: tuple[float, float]) -> BlockRest:
    """Give a rest as the cold has it, or as is usual.

    In the fridge, where no most is written, it may be drawn out over a night: what lay there is
    too hard then, and stands before it goes on.
    """
    least, most = usual if found is None else (found.least_min, found.most_min)
    is_written = found is not None and found.rest.step.most_min is not None
    if is_written or _where(found) != "fridge":
        return BlockRest(least, most)
    return BlockRest(least, most, round(STAND_MIN), NIGHT_MIN + round(STAND_MIN))


def _where(found: RestResult | None) -> str:
    return "fridge" if found is None else found.rest.place.kind


class _Chain:
    """The steps of a paste that is made, from the weighing to the trays or the store."""

    def __init__(
        self,
        collect: StepList,
        make: Make,
        made: PasteOfDay,
        house: House,
        rests: Sequence[RestResult],
    ) -> None:
        self.collect, self.make, self.made, self.house = collect, make, made, house
        self.rests, self.study, self.hands = rests, made.study, collect.hands
        self.taken_out = next((s for s in make.steps if s.kind in OF_STOCK), None)
        """The step by which the first block leaves stock; None where none does."""
        self.fresh = sum(unit.of == "block" for unit in make.units)
        self.stock = sum(unit.of == "stock" for unit in make.units)
        self.rolling: tuple[Need, ...] = (
            ("baker", "bench", "sheeter") if house.belt_mm else ("baker", "bench")
        )

    def add(self) -> str:
        """Add every step up to the trays; gives the last at which the paste lies open."""
        if self.fresh:
            self._begin()
        elif self.taken_out is not None:
            self._from_stock(self.taken_out, "")
        self._turns()
        last = self._keep() if self.make.goal.kind == "keep" else self._make_up()
        if self.fresh and self.taken_out is not None:
            self._from_stock(self.taken_out, self._stock_joins(self.taken_out))
        if not self.fresh and (minutes := self.hands.kinds("weigh")):
            self.collect.beside(Called("weigh"), minutes, last, BlockRest(0, LONG_MIN), 1)
        self.collect.by_blocks()
        return last

    def _of(self, which: str, at: int = -1) -> RestResult | None:
        return rest_of(self.rests, which, at)

    def _begin(self) -> None:
        study, hands, collect, blocks = self.study, self.hands, self.collect, self.fresh
        weigh, mix = Called("weigh"), Called("mix")
        cold = study.water is not None and study.water.needed_c < COLD_WATER_C
        if cold or self.house.shop_c >= HOT_SHOP_C:
            collect.beside(Called("cool"), 4, weigh.key, BlockRest(COOL_MIN, 1440), 1)
        collect.add(weigh, hands.kinds("weigh"), ("baker",), BlockRest(0, LONG_MIN), 1, "fridge")
        if cutting := hands.kinds("cut_fat"):
            pieces = Called("fat", manner="pieces")
            collect.beside(pieces, cutting, mix.key, BlockRest(15, LONG_MIN), 1, after=weigh.key)
        dough = self._of("dough")
        spaces = 0 if _where(dough) == "room" else blocks
        rest = _rest_of(dough, (20, 120))
        collect.add(mix, hands.mixing, ("baker", "mixer"), rest, spaces, _where(dough), found=dough)
        first = Called("enclose", manner="pieces" if study.in_pieces else "")
        if hands.enclosing:
            needs: tuple[Need, ...] = ("baker", "bench")
            collect.add(first, hands.enclosing, needs, blocks=blocks)
        self._fat(first if hands.enclosing else Called("turn", 1), weigh.key)

    def _fat(self, before: Called, weigh: str) -> None:
        """Press or soften the fat beside, once it is weighed."""
        minutes = self.hands.fat
        if not minutes or self.study.in_pieces:
            return
        if self.study.plan.enclosure in SPREAD:
            soft = Called("fat", manner="soften")
            rest = BlockRest(SOFTEN_MIN, LONG_MIN)
            self.collect.beside(soft, minutes, before.key, rest, 0, "", after=weigh)
            return
        fat = self._of("fat")
        rest = _rest_of(fat, (15, 120))
        self.collect.beside(
            Called("fat"), minutes, before.key, rest, self.fresh, _where(fat), fat, weigh
        )

    def _stock_joins(self, taken_out: MakeStep) -> str:
        """Give the key of the step at which blocks from stock join what is made new."""
        block = taken_out.on[0]
        own = (s for s in self.make.steps if s.on[0].partition(".")[0] == block)
        first = next((s for s in own if s.kind not in OF_STOCK), None)
        is_turn = first is not None and first.op.startswith("turn")
        return first.op.replace(" ", ".") if first and is_turn else Called("sheet").key

    def _from_stock(self, step: MakeStep, joins: str) -> None:
        """Take blocks out of freezer or fridge: beside, or in place of the first steps."""
        minutes = self.hands.kinds(*OF_STOCK)
        called = Called("thaw" if step.kind == "thaw" else "stand")
        rest = BlockRest(STAND_MIN, 4 * STAND_MIN)
        place = ""
        if step.rest is not None:
            rest = BlockRest(step.rest.least_min, max(step.rest.most_min, 1440))
            place = step.rest.place
        spaces = self.stock if place else 0
        if not joins:
            self.collect.add(called, minutes, ("baker",), rest, spaces, place, step.done)
            return
        known = [s.name for s in self.collect.steps]
        before = joins if joins in known else known[-1]
        self.collect.beside(called, minutes, before, rest, spaces, place, done=step.done)

    def _blocks_at(self, turn: int) -> int:
        return len({s.on[0] for s in self.make.steps if s.op == f"turn {turn}"})

    def _turns(self) -> None:
        collect, steps = self.collect, self.study.plan.steps
        done = self.taken_out.done if self.taken_out and not self.fresh else 0
        turn, trims = sum(step.is_turn for step in steps[:done]), 0
        blocks = self.fresh or self.stock
        for i in range(done, len(steps)):
            step = steps[i]
            if step.way is Way.REST:
                self._rest_after(i, step, blocks)
                continue
            if step.way is Way.TRIM:
                trims += 1
                again = Called("trim", turn, "next" if trims > 1 else "", again=trims)
                minutes = self.hands.trim(i + 1)
                needs: tuple[Need, ...] = ("baker", "bench")
                collect.add(again, minutes, needs, BlockRest(0, 10), done=i + 1, blocks=blocks)
                continue
            turn, trims = turn + 1, 0
            blocks = self._blocks_at(turn) or blocks
            called = Called("turn", turn, what=step_name(step).split(",")[0])
            minutes = self.hands.turn(turn)
            collect.add(called, minutes, self.rolling, BlockRest(0, 10), done=i + 1, blocks=blocks)

    def _rest_after(self, at: int, step: Step, blocks: int) -> None:
        """Put a rest of the plan behind the last step."""
        if not self.collect.steps:
            return
        found = self._of("paste", at)
        minutes = step.rest_min or 30.0
        rest = _rest_of(found, (minutes, max(120.0, minutes + 30)))
        place = _where(found) if found else (step.place.rstrip("0123456789") or "fridge")
        last = self.collect.steps[-1].name
        spaces = 0 if place in ("room", "oven") else blocks
        self.collect.rest_after(last, rest, spaces, place, found)

    def _keep(self) -> str:
        """Wrap, label and store what is kept: the day ends there."""
        minutes = self.hands.kinds("wrap", "store") + self.hands.dividing
        done = len(self.study.plan.steps)
        return self.collect.add(Called("wrap"), minutes, ("baker",), done=done)

    def _make_up(self) -> str:
        """Final sheet, shrinking back, cutting, filling; gives the last step at the open bench."""
        collect, hands, made = self.collect, self.hands, self.made
        done = len(self.study.plan.steps)
        bench: tuple[Need, ...] = ("baker", "bench")
        if hands.sheeting:  # a log is sliced as it is
            sheets = sum(s.kind == "sheet" for s in self.make.steps)
            shrink = max(0.0, RELAX_MIN - hands.sheeting * (sheets - 1) / max(1, sheets))
            blocks = self.fresh + self.stock
            rest = BlockRest(shrink, shrink + RELAX_MORE_MIN)
            collect.add(
                Called("sheet"), hands.sheeting, self.rolling, rest, done=done, blocks=blocks
            )
        shaped = self._of("shaped")
        place = _where(shaped)
        spaces = 0 if place == "room" else _tray_spaces(made, self.house)
        chill = _rest_of(shaped, (20, 120))
        kinds = {s.kind for s in self.make.steps if s.on[0][:1] == "p"}
        filled = any(s.kind == "fill" for s in self.make.steps)
        last, minutes = Called("cut", manner="shape"), hands.cutting + hands.making_up
        fills = last
        if kinds & {"roll_up", "line", "fill"}:
            minutes = hands.making_up
            collect.add(Called("cut"), hands.cutting, bench, BlockRest(0, 20), done=done)
            fills = last = Called("fill", manner="line" if "line" in kinds else "")
        if "roll_up" in kinds:
            fills, last = Called("fill", manner="roll"), Called("cut", manner="slices")
            rolled = hands.rolling_up
            log = next(s.rest for s in self.make.steps if s.kind == "roll_up" and s.rest)
            rest = BlockRest(log.least_min, log.most_min)
            collect.add(fills, rolled, bench, rest, spaces, log.place, done)
            minutes -= rolled
        if filled and hands.filling:
            cooling = BlockRest(COOL_FILLING_MIN, FILLING_MOST_MIN)
            weigh = Called("weigh").key
            after = weigh if any(s.name == weigh for s in collect.steps) else ""
            collect.beside(Called("filling"), hands.filling, fills.key, cooling, 1, after=after)
        return collect.add(last, minutes, bench, chill, spaces, place, done, shaped)


def piece_put_by(uid: str, sheet: DaySheet, kept: Sequence[KeptItem]) -> KeptItem | None:
    """Give the pieces put by that take the place of making a paste anew; None for none.

    None too when they are used up meanwhile: the paste is made anew then.

    Parameters
    ----------
    uid : str
        Of the formula.
    """
    key = sheet.from_kept.get(uid)
    return next((i for i in kept if i.key == key and i.uid == uid and i.form in PIECES), None)


def _put_by(collect: StepList, made: PasteOfDay, house: House, item: KeptItem) -> str:
    """Pieces that are put by take the place of all steps before the oven."""
    minutes = 3 + 0.05 * _pieces(made)
    if item.form == "raw":
        raw = Called("trays", what=item.where)
        spaces = _tray_spaces(made, house)
        key = collect.add(raw, minutes, ("baker",), BlockRest(0, 60), spaces, item.where)
        more = RAW_FROZEN_MORE_MIN if item.where == "freezer" else 0
        _bake(collect, made, house, _Heat(more))
        return key
    baked = Called("trays", manner="baked")
    rest = BlockRest(0.0, LONG_MIN)
    if item.where == "freezer":
        baked = Called("trays", manner="baked freezer")
        rest = BlockRest(THAW_BAKED_MIN, THAW_BAKED_MOST_MIN)
    key = collect.add(baked, minutes, ("baker",), rest)
    rack = (REFRESHED_RACK_MIN, REFRESHED_MOST_MIN)
    _bake(collect, made, house, _Heat(sum(REFRESH_MIN) / 2, "refresh", rack))
    return key


def _pieces(made: PasteOfDay) -> int:
    return sum(m.pieces for m in made.scaled.made) or made.scaled.pieces


def _tray_spaces(made: PasteOfDay, house: House) -> int:
    """Places that the trays take in the cold; no more than the rack has."""
    return min(max(1, sum(t.trays for t in made.trays)), max(1, house.rack_spaces))


class _Heat(Struct, frozen=True):
    """What a load gets in the oven: refreshed so long, or baked so much longer than it says."""

    minutes: float = 0.0
    kind: Literal["bake", "refresh"] = "bake"
    rack: tuple[float, float] = (RACK_MIN, RACK_MOST_MIN)


def _bake(collect: StepList, made: PasteOfDay, house: House, heats: _Heat) -> None:
    """Heat the oven while the pieces chill, then load by load, cool, pack."""
    if not house.ovens:
        return
    minutes = [heats.minutes + load.minutes for load in made.loads] or [heats.minutes + BAKE_MIN]
    if heats.kind == "refresh":
        minutes = [heats.minutes for _ in minutes]
    loads = len(minutes)
    heat = math.ceil(house.oven().heat_min) if house.oven_list else HEAT_MIN
    shaped = collect.steps[-1]
    chill = max(0, shaped.rest_min - heat)
    most = None if shaped.rest_max is None else max(chill, shaped.rest_max - heat)
    if shaped.stand_most is not None:  # pieces may lie over a night: they go into the oven cold
        most = NIGHT_MIN
    collect.steps[-1] = replace(shaped, rest_min=chill, rest_max=most, stand_min=0, stand_most=None)
    many: Manner = "one of many" if loads > 1 else ""
    collect.add(Called("heat"), heat, ("oven",), BlockRest(0, 20))
    collect.add(Called("load"), LOAD_MIN, ("baker", "oven"))
    for i in range(1, loads + 1):
        collect.add(Called(heats.kind, i, many), minutes[i - 1], ("oven",))
        if i < loads:
            collect.add(Called("load", i + 1, "next"), 2 * LOAD_MIN, ("baker", "oven"))
    out = Called("out", manner=many, what=str(loads))
    collect.add(out, LOAD_MIN, ("baker", "oven"), BlockRest(*heats.rack))
    collect.add(Called("pack"), hands_min("pack", 1, _pieces(made)), ("baker",))


def day_problem(
    pastes: Sequence[PasteSteps],
    sheet: DaySheet,
    house: House,
    shifts: Sequence[Shift],
    ready_min: Mapping[str, int],
    people: Sequence[Person] = (),
) -> DayProblem:
    """Put the pastes of a day together as one problem.

    Gluten-free paste leaves the bench before wheat comes to it: flour in the air and on the
    pin cannot be cleaned away between two turns.

    Parameters
    ----------
    house : House
        With its hands, ovens and spaces.
    shifts : sequence of Shift
        Of all days [min].
    ready_min : dict of int, by paste
        When each must be ready, in elapsed minutes [min].
    people : sequence of Person
        Who works when, where they have names.
    """
    made = []
    for each in pastes:
        by = ready_min[each.uid]
        soonest = None if sheet.now_min is not None else max(0, by - sheet.fresh_min)
        made.append(DayPaste(each.uid, each.paste.steps, by, soonest, each.paste.sides))
    free = [each for each in pastes if not each.gluten]
    wheat = [each for each in pastes if each.gluten]
    after = tuple((a.uid, a.bench_last, b.uid) for a in free for b in wheat)
    known = {(p.uid, s.name) for p in pastes for s in p.paste.all_steps}
    spaces = {
        kind: sum(p.spaces for p in house.places if p.kind == kind)
        for kind in ("fridge", "freezer", "blast")
    }
    # Once it has begun a block is not ready sooner because something is wanted: it is late then.
    goal = sheet.goal if sheet.now_min is None else "least_late"
    return DayProblem(
        tuple(shifts),
        tuple(made),
        1 if house.belt_mm else 0,
        house.ovens,
        house.bakers,
        max(spaces["fridge"], house.rack_spaces),
        spaces["freezer"] + spaces["blast"],
        goal,
        sheet.now_min,
        120 if sheet.now_min is not None else 0,
        _begun(sheet, known),
        None,
        tuple(h for h in sheet.held if (h.paste, h.step) in known and not _past(sheet, h)),
        after,
        house.benches,
        house.mixers,
        tuple(people),
    )


def _past(sheet: DaySheet, held: Started) -> bool:
    return sheet.now_min is not None and held.start_min < sheet.now_min


def _begun(sheet: DaySheet, known: set[tuple[str, str]]) -> tuple[Started, ...]:
    return tuple(each for each in sheet.so_far if (each.paste, each.step) in known)
