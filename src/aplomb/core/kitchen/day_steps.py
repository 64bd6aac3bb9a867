"""From formula and batch to the steps of a day: nothing is typed twice.

What a step takes is common practice until the bakery says otherwise, by block, mix, piece or load;
what a rest takes comes from the plan and, where it says nothing, from the cold.
"""

import math
from collections.abc import Mapping, Sequence
from typing import Literal

from msgspec import Struct

from aplomb.core.base.house import House
from aplomb.core.batch.keeping import PIECES, REFRESH_MIN, SHARES, KeptItem
from aplomb.core.day.problem import (
    DayPaste,
    DayProblem,
    DayStep,
    Held,
    Need,
    Shift,
    SideStep,
    Started,
)
from aplomb.core.day.sheet import DaySheet, step_key
from aplomb.core.folds.plan import Enclosure, step_name
from aplomb.core.folds.step import Way
from aplomb.core.kitchen.demand import PasteOfDay
from aplomb.core.kitchen.step_words import Called, Kind, Manner
from aplomb.core.make.goal import goal_of
from aplomb.core.make.hands import HandsOf
from aplomb.core.make.make import make_of
from aplomb.core.make.minutes import BAKE_MIN, WORK, hands_min
from aplomb.core.paste.bodies import bodies_of
from aplomb.core.paste.ingredient import Standing
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.cold import RestResult, bends_after, cold_of
from aplomb.core.study.study import Study

HEAT_MIN = 15
"""Heating an oven where nothing is said [min], common practice."""
LOAD_MIN = WORK["load_in"].each
"""To put a load in, or to take one out [min]."""
LONG_MIN = 240
"""What waits in the cold when nothing hurries it [min], common practice."""
NIGHT_MIN = 1080
"""A rest may be drawn out over a night [min], common practice: the block is hard then, and stands
5 to 20 min before it goes on."""
COOL_FILLING_MIN = 60
HOT_SHOP_C, COLD_WATER_C, COOL_MIN = 24.0, 2.0, 90
"""In a shop so warm, or where water must be so cold, flour and fat go into the fridge for so long
first [°C, °C, min], common practice."""
RACK_MIN, RACK_MOST_MIN = 30, 360
"""Cooling on a rack until it may be packed [min], common practice."""
THAW_BAKED_MIN, THAW_BAKED_MOST_MIN = 40, 720
"""What is baked and frozen thaws in the room first; common practice [min]."""
REFRESHED_RACK_MIN, REFRESHED_MOST_MIN = 10, 120
"""What was refreshed cools a little, and is crisp for an hour or two; common practice [min]."""
RAW_FROZEN_MORE_MIN = 5
"""Raw pieces go into the oven frozen, and so much longer; common practice [min]."""


class StepNote(Struct, frozen=True):
    """What is known of a step besides.

    Attributes
    ----------
    standing : Standing
        Of its minutes.
    done : int
        Steps of the plan done when it ends [-].
    place : str
        Where the rest after it is; empty for the bench.
    rest : RestResult or None
        What the cold says of that rest.
    """

    kind: Kind
    standing: Standing
    done: int = 0
    place: str = ""
    rest: RestResult | None = None


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
    """

    uid: str
    name: str
    paste: DayPaste
    notes: dict[str, StepNote]
    bench_last: str
    gluten: bool


class _Steps:
    """Collects the steps of a paste in order."""

    def __init__(self, uid: str, sheet: DaySheet, hands: HandsOf) -> None:
        self.uid, self.sheet, self.hands = uid, sheet, hands
        self.steps: list[DayStep] = []
        self.sides: list[SideStep] = []
        self.notes: dict[str, StepNote] = {}

    def _own(self, key: str, minutes: float) -> tuple[int, Standing]:
        key = step_key(self.uid, key)
        own = self.sheet.minutes.get(key)
        took = max(1, math.ceil(minutes - 1e-9)) if own is None else own
        return max(0, took + self.sheet.extra.get(key, 0)), "trade" if own is None else "own"

    def _rest(self, key: str, rest: tuple[float, float | None]) -> tuple[int, int | None]:
        """Whole minutes of a rest, with what it takes longer than planned."""
        more = self.sheet.rest_extra.get(step_key(self.uid, key), 0)
        least = max(0, math.ceil(rest[0] - 1e-9) + more)
        return least, None if rest[1] is None else max(least, math.ceil(rest[1] - 1e-9) + more)

    def add(
        self,
        called: Called,
        minutes: float,
        needs: tuple[Need, ...],
        rest: tuple[float, float | None] = (0, 0),
        spaces: int = 0,
        place: str = "",
        done: int = 0,
        found: RestResult | None = None,
    ) -> str:
        """Add a step and the rest after it; gives its key."""
        key = called.key
        took, standing = self._own(key, minutes)
        least, most = self._rest(key, rest)
        self.steps.append(
            DayStep(key, took, needs, least, most, spaces, _held(place), called.words)
        )
        self.notes[key] = StepNote(called.kind, standing, done, place, found)
        return key

    def beside(
        self,
        called: Called,
        minutes: float,
        before: str,
        rest: tuple[float, float],
        spaces: int,
        place: str = "fridge",
        found: RestResult | None = None,
    ) -> None:
        """Add a step that is done beside, before one of the others."""
        key = called.key
        took, standing = self._own(key, minutes)
        least, most = self._rest(key, rest)
        self.sides.append(
            SideStep(key, took, before, ("baker",), least, most, spaces, _held(place), called.words)
        )
        self.notes[key] = StepNote(called.kind, standing, 0, place, found)


def _held(place: str) -> Held:
    return "freezer" if place in ("freezer", "blast") else "fridge"


def steps_of_paste(
    made: PasteOfDay,
    pantry: Pantry,
    house: House,
    sheet: DaySheet,
    kept: Sequence[KeptItem] = (),
) -> PasteSteps:
    """Give the steps of a paste of the day.

    Parameters
    ----------
    made : PasteOfDay
        With its blocks, mixes and trays.
    sheet : DaySheet
        With minutes and rests that are not the usual ones.
    kept : sequence of KeptItem
        What is put by.
    """
    study = made.study
    rests = cold_of(study, pantry, house)
    make = make_of(study, pantry, house, goal_of(study.formula), rests, made.uid)
    collect = _Steps(made.uid, sheet, HandsOf(make))
    blocks = max(1, made.blocks)
    done = 0
    item = piece_put_by(made.uid, sheet, kept)
    if item is not None:
        last = _put_by(collect, made, house, item)
        return _finished(collect, made, study, pantry, last)
    if made.uid in sheet.from_frozen:
        turns = max((i.turns for i in kept if i.uid == made.uid and i.form in SHARES), default=0)
        done = _thawed(collect, study, pantry, house, blocks, turns)
    else:
        _paste_begins(collect, study, house, rests, blocks)
    _turns(collect, study, house, rests, blocks, done)
    last = _make_up(collect, made, study, house, rests)
    _bake(collect, made, house, _Heat())
    return _finished(collect, made, study, pantry, last)


def _finished(
    collect: _Steps, made: PasteOfDay, study: Study, pantry: Pantry, last: str
) -> PasteSteps:
    gluten = any(pantry[key].has_gluten for key in study.formula.materials() if key in pantry)
    return PasteSteps(
        made.uid,
        study.formula.name,
        DayPaste(made.uid, tuple(collect.steps), sides=tuple(collect.sides)),
        collect.notes,
        last,
        gluten,
    )


def _of(rests: Sequence[RestResult], which: str, at: int = -1) -> RestResult | None:
    return next(
        (r for r in rests if r.rest.of == which and (which != "paste" or r.rest.at == at)), None
    )


def _bounds(found: RestResult | None, usual: tuple[float, float]) -> tuple[float, float]:
    """From when to when a rest may end: a night in the fridge too, where no most is written."""
    if found is None:
        return usual
    night = found.rest.step.most_min is None and found.rest.place.kind == "fridge"
    return found.least_min, max(found.most_min, NIGHT_MIN if night else 0.0)


def _where(found: RestResult | None) -> str:
    return "fridge" if found is None else found.rest.place.kind


def _paste_begins(
    collect: _Steps,
    study: Study,
    house: House,
    rests: Sequence[RestResult],
    blocks: int,
) -> None:
    hands = collect.hands
    cold = study.water is not None and study.water.needed_c < COLD_WATER_C
    if cold or house.shop_c >= HOT_SHOP_C:
        collect.beside(Called("cool"), 4, Called("weigh").key, (COOL_MIN, 1440), 1)
    collect.add(Called("weigh"), hands.kinds("weigh"), ("baker",), (0, LONG_MIN), 1, "fridge")
    dough, fat = _of(rests, "dough"), _of(rests, "fat")
    first = Called("enclose", manner="pieces" if study.in_pieces else "")
    if study.in_pieces:
        cutting = hands.kinds("cut_fat")
        collect.beside(
            Called("fat", manner="pieces"), cutting, Called("mix").key, (15, LONG_MIN), 1
        )
    spaces = 0 if _where(dough) == "room" else blocks
    collect.add(
        Called("mix"),
        hands.mixing,
        ("baker",),
        _bounds(dough, (20, 120)),
        spaces,
        _where(dough),
        found=dough,
    )
    enclosed = study.plan.enclosure is not Enclosure.NONE
    if enclosed and not study.in_pieces and study.accounts.block_g:
        collect.beside(
            Called("fat"),
            hands.fat,
            first.key,
            _bounds(fat, (15, 120)),
            blocks,
            _where(fat),
            fat,
        )
    if enclosed:
        collect.add(first, hands.enclosing, ("baker",))


def _thawed(
    collect: _Steps, study: Study, pantry: Pantry, house: House, blocks: int, turns: int
) -> int:
    """A block from the freezer takes the place of the first steps; gives the plan's steps done."""
    done = 0
    for i, step in enumerate(study.plan.steps, 1):
        if turns <= 0:
            break
        turns -= step.is_turn
        done = i
    block = study.block_after(done)
    material = bodies_of(study.formula, pantry).paste
    fridge = house.place("fridge")
    least, most = 480.0, 1440.0
    if block is not None and material is not None and fridge is not None:
        band = bends_after(material, block, fridge, house)
        least = band.usual or least
        most = max(least + 720, most)
    collect.add(Called("thaw"), 2, ("baker",), (least, most), blocks, "fridge", done)
    return done


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


def _put_by(collect: _Steps, made: PasteOfDay, house: House, item: KeptItem) -> str:
    """Pieces that are put by take the place of all steps before the oven."""
    minutes = 3 + 0.05 * _pieces(made)
    if item.form == "raw":
        raw = Called("trays", what=item.where)
        spaces = _tray_spaces(made, house)
        key = collect.add(raw, minutes, ("baker",), (0, 60), spaces, item.where)
        more = RAW_FROZEN_MORE_MIN if item.where == "freezer" else 0
        _bake(collect, made, house, _Heat(more))
        return key
    baked = Called("trays", manner="baked")
    rest = (0.0, LONG_MIN)
    if item.where == "freezer":
        baked = Called("trays", manner="baked freezer")
        rest = (THAW_BAKED_MIN, THAW_BAKED_MOST_MIN)
    key = collect.add(baked, minutes, ("baker",), rest)
    rack = (REFRESHED_RACK_MIN, REFRESHED_MOST_MIN)
    _bake(collect, made, house, _Heat(sum(REFRESH_MIN) / 2, "refresh", rack))
    return key


def _turns(
    collect: _Steps, study: Study, house: House, rests: Sequence[RestResult], blocks: int, done: int
) -> None:
    sheeter: tuple[Need, ...] = ("baker", "sheeter") if house.belt_mm else ("baker",)
    steps = study.plan.steps
    turn, trims = sum(step.is_turn for step in steps[:done]), 0
    for i in range(done, len(steps)):
        step = steps[i]
        if step.way is Way.REST:
            found = _of(rests, "paste", i)
            _rest_after(collect, found, step.rest_min, step.place, blocks)
            continue
        if step.way is Way.TRIM:
            trims += 1
            again = Called("trim", turn, "next" if trims > 1 else "", again=trims)
            collect.add(again, collect.hands.trim(i + 1), ("baker",), (0, 10), done=i + 1)
            continue
        turn, trims = turn + 1, 0
        called = Called("turn", turn, what=step_name(step).split(",")[0])
        collect.add(called, collect.hands.turn(turn), sheeter, (0, 10), done=i + 1)


def _rest_after(
    collect: _Steps, found: RestResult | None, minutes: float | None, word: str, blocks: int
) -> None:
    """Put a rest behind the last step; two in a row add up."""
    if not collect.steps:
        return
    last = collect.steps[-1]
    note = collect.notes[last.name]
    least, most = _bounds(found, (minutes or 30.0, max(120.0, (minutes or 30.0) + 30)))
    more = collect.sheet.rest_extra.get(step_key(collect.uid, last.name), 0)
    place = _where(found) if found else (word.rstrip("0123456789") or "fridge")
    if note.place:
        least, most = least + last.rest_min, most + (last.rest_max or last.rest_min)
        more = 0
    spaces = 0 if place in ("room", "oven") else blocks
    low = max(0, math.ceil(least - 1e-9) + more)
    collect.steps[-1] = DayStep(
        last.name,
        last.minutes,
        last.needs,
        low,
        max(low, math.ceil(most - 1e-9) + more),
        spaces,
        _held(place),
        last.words,
    )
    collect.notes[last.name] = StepNote(note.kind, note.standing, note.done, place, found)


def _pieces(made: PasteOfDay) -> int:
    return sum(m.pieces for m in made.scaled.made) or made.scaled.pieces


def _tray_spaces(made: PasteOfDay, house: House) -> int:
    """Places that the trays take in the cold; no more than the rack has."""
    return min(max(1, sum(t.trays for t in made.trays)), max(1, house.rack_spaces))


def _make_up(
    collect: _Steps,
    made: PasteOfDay,
    study: Study,
    house: House,
    rests: Sequence[RestResult],
) -> str:
    """Final sheet, relaxing, cutting, filling; gives the last step at the open bench."""
    sheeter: tuple[Need, ...] = ("baker", "sheeter") if house.belt_mm else ("baker",)
    done = len(study.plan.steps)
    hands = collect.hands
    if hands.sheeting:  # a log is sliced as it is
        collect.add(Called("sheet"), hands.sheeting, sheeter, (10, 30), done=done)
    filled = any(line.grams > 0 for p in study.formula.wanted for line in p.filling)
    filled = filled or any(line.grams > 0 for line in study.formula.filling)
    shaped = _of(rests, "shaped")
    chill = _bounds(shaped, (20, 120))
    place = _where(shaped)
    spaces = 0 if place == "room" else _tray_spaces(made, house)
    last = Called("cut", manner="shape")
    if filled:
        last = Called("fill")
        cooling = (COOL_FILLING_MIN, 1440)
        if hands.filling:
            collect.beside(Called("filling"), hands.filling, last.key, cooling, 1)
        collect.add(Called("cut"), hands.cutting, ("baker",), (0, 20), done=done)
        minutes = hands.making_up
    else:
        minutes = hands.cutting + hands.making_up
    return collect.add(last, minutes, ("baker",), chill, spaces, place, done, shaped)


class _Heat(Struct, frozen=True):
    """What a load gets in the oven: refreshed so long, or baked so much longer than it says."""

    minutes: float = 0.0
    kind: Literal["bake", "refresh"] = "bake"
    rack: tuple[float, float] = (RACK_MIN, RACK_MOST_MIN)


def _bake(collect: _Steps, made: PasteOfDay, house: House, heats: _Heat) -> None:
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
    collect.steps[-1] = DayStep(
        shaped.name,
        shaped.minutes,
        shaped.needs,
        chill,
        None if shaped.rest_max is None else max(chill, shaped.rest_max - heat),
        shaped.fridge_spaces,
        shaped.held_in,
        shaped.words,
    )
    many: Manner = "one of many" if loads > 1 else ""
    collect.add(Called("heat"), heat, ("oven",), (0, 20))
    collect.add(Called("load"), LOAD_MIN, ("baker", "oven"))
    for i in range(1, loads + 1):
        collect.add(Called(heats.kind, i, many), minutes[i - 1], ("oven",))
        if i < loads:
            collect.add(Called("load", i + 1, "next"), 2 * LOAD_MIN, ("baker", "oven"))
    out = Called("out", manner=many, what=str(loads))
    collect.add(out, LOAD_MIN, ("baker", "oven"), heats.rack)
    collect.add(Called("pack"), hands_min("pack", 1, _pieces(made)), ("baker",))


def day_problem(
    pastes: Sequence[PasteSteps],
    sheet: DaySheet,
    house: House,
    shifts: Sequence[Shift],
    ready_min: Mapping[str, int],
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
    )


def _past(sheet: DaySheet, held: Started) -> bool:
    return sheet.now_min is not None and held.start_min < sheet.now_min


def _begun(sheet: DaySheet, known: set[tuple[str, str]]) -> tuple[Started, ...]:
    return tuple(each for each in sheet.so_far if (each.paste, each.step) in known)
