"""From formula and batch to the steps of a day."""

import pytest
from msgspec.structs import replace

from aplomb.core.batch.keeping import KeptItem
from aplomb.core.batch.stock import Demand, Want
from aplomb.core.day.problem import Shift, check_day
from aplomb.core.day.sheet import DaySheet, check_day_sheet, step_key
from aplomb.core.kitchen.day_steps import day_problem, steps_of_paste
from aplomb.core.kitchen.demand import PasteOfDay, plan_day
from aplomb.core.make.goal import Goal, study_for
from aplomb.core.paste.line import Line
from aplomb.core.paste.product import Product
from aplomb.core.study.study import make_study
from stored import frozen_block

PLAIN_SHEET = DaySheet()
JAM = (Line("apricot_jam", 9),)


def steps(formula, known, pieces=48, sheet=PLAIN_SHEET, kept=(), **house):
    own = replace(known, house=replace(known.house, **house))
    study = make_study(formula, own)
    name = formula.products[0].name if formula.products else ""
    demand = Demand(wants=(Want("u", name, pieces),), use_frozen=False)
    (made,) = plan_day(demand, {"u": study}, own, kept, from_stock=sheet.from_frozen)
    return steps_of_paste(made, own.pantry, own.house, sheet, kept)


def names(found):
    return [step.name for step in found.paste.steps]


def test_steps_follow_the_plan(plain, known):
    found = steps(plain, known)
    assert names(found)[:7] == [
        "weigh.1",
        "mix.1",
        "enclose.1",
        "turn.1",
        "turn.2",
        "turn.3",
        "turn.4",
    ]
    assert names(found)[-1] == "pack.1"
    assert [s.name for s in found.paste.sides] == ["press.1"]
    by_name = {s.name: s for s in found.paste.steps}
    assert by_name["turn.1"].rest_max == 10, "no rest is written there"
    assert by_name["turn.2"].rest_min >= 20
    assert by_name["turn.2"].fridge_spaces >= 1
    assert found.bench_last == "shape.1"
    assert found.gluten


def test_rough_paste_filling_and_sheeter(plain, known):
    rough = replace(plain, turn_line="pieces 3 3 / 4 /30", filling=(Line("apricot_jam", 20),))
    found = steps(rough, known, belt_mm=600.0)
    assert "gather.1" in names(found)
    assert {s.name for s in found.paste.sides} == {"pieces.1", "filling.1"}
    assert all(
        "sheeter" in s.needs for s in found.paste.steps if s.name.startswith(("turn", "final"))
    )
    filling = next(s for s in found.paste.sides if s.name == "filling.1")
    assert (filling.after, filling.before) == ("weigh.1", "fill.1")
    assert filling.rest_min >= 60, "it must be cold"


def test_in_a_hot_shop_the_materials_are_cooled_first(plain, known):
    def cooled(shop_c):
        found = steps(plain, known, shop_c=shop_c)
        return [s for s in found.paste.sides if s.name == "cool.1"]

    assert cooled(18.0) == []
    assert cooled(23.9) == []
    assert len(cooled(24.0)) == 1, "the limit itself is hot"
    (side,) = cooled(29.0)
    assert (side.before, side.rest_min) == ("weigh.1", 90)


def test_written_rests_bind_and_those_in_the_freezer_take_its_spaces(plain, known):
    found = steps(replace(plain, turn_line="envelope 3 4 /25-40@freezer 3 4 /30-90"), known)
    by_name = {s.name: s for s in found.paste.steps}
    turn = by_name["turn.2"]
    assert (turn.rest_min, turn.rest_max, turn.held_in) == (25, 40, "freezer")
    assert (by_name["turn.4"].rest_min, by_name["turn.4"].rest_max) == (30, 90)
    assert by_name["turn.4"].held_in == "fridge"


def test_own_minutes_and_what_runs_over_count(plain, known):
    sheet = DaySheet(
        minutes={step_key("u", "mix.1"): 31},
        extra={step_key("u", "mix.1"): 4},
        rest_extra={step_key("u", "mix.1"): 12},
    )
    usual, own = steps(plain, known), steps(plain, known, sheet=sheet)
    a, b = (next(s for s in f.paste.steps if s.name == "mix.1") for f in (usual, own))
    assert b.minutes == 35
    assert b.rest_min == a.rest_min + 12
    assert own.notes["mix.1"].standing == "own"
    assert usual.notes["mix.1"].standing == "trade"


def test_a_block_from_the_freezer_takes_the_place_of_the_first_steps(plain, known):
    frozen = (frozen_block("u", 2, 2000.0, 2, "2026-11-01"),)
    found = steps(plain, known, sheet=DaySheet(from_frozen=("u",)), kept=frozen)
    assert names(found)[:2] == ["thaw.1", "turn.3"]
    assert found.paste.steps[0].rest_min > 300, "a night in the fridge"
    assert found.paste.sides == ()


def test_what_stock_is_short_of_is_made_new_and_joins_it(plain, known):
    """One block that has had two of four turns, and new ones: it thaws beside, for the third."""
    one = (frozen_block("u", 1, 900.0, 2, "2026-11-01"),)
    found = steps(plain, known, sheet=DaySheet(from_frozen=("u",)), kept=one)
    assert names(found)[:4] == ["weigh.1", "mix.1", "enclose.1", "turn.1"]
    thaw = next(s for s in found.paste.sides if s.name == "thaw.1")
    assert (thaw.before, thaw.fridge_spaces) == ("turn.3", 1)
    assert thaw.rest_min > 240
    cold = (frozen_block("u", 1, 900.0, 4, "2026-11-01", "fridge"),)
    found = steps(plain, known, sheet=DaySheet(from_frozen=("u",)), kept=cold)
    stand = next(s for s in found.paste.sides if s.name == "stand.1")
    assert (stand.before, stand.rest_min, stand.rest_max) == ("sheet.1", 15, 60)


def test_the_fat_is_pressed_after_it_is_weighed(plain, known):
    found = steps(plain, known)
    (press,) = found.paste.sides
    assert (press.after, press.before) == ("weigh.1", "enclose.1")
    rough = steps(replace(plain, turn_line="pieces 3 3 / 4 /30"), known)
    assert next(s for s in rough.paste.sides if s.name == "pieces.1").after == "weigh.1"
    portions = steps(replace(plain, turn_line="portions +3 +3 3 / 3"), known)
    soft = next(s for s in portions.paste.sides if s.name == "soften.1")
    assert (soft.after, soft.before) == ("weigh.1", "turn.1")
    assert "enclose.1" not in names(portions), "nothing is enclosed"


def test_a_log_a_lining_and_paste_to_keep(plain, known):
    def product(**more):
        return replace(plain, products=(Product("x", wanted=24, **more),))

    log = product(shape="slice", length_mm=300, width_mm=200, inner_mm=15, filling=JAM)
    found = steps(log, known, pieces=24)
    at = names(found).index("sheet.1")
    assert names(found)[at : at + 4] == ["sheet.1", "cut.1", "roll.1", "slice.1"]
    by_name = {s.name: s for s in found.paste.steps}
    assert (by_name["roll.1"].rest_min, found.notes["roll.1"].place) == (30, "fridge")
    assert next(s for s in found.paste.sides if s.name == "filling.1").before == "roll.1"
    assert found.bench_last == "slice.1"
    lining = product(shape="lining", length_mm=200, width_mm=30, inner_mm=10)
    assert "line.1" in names(steps(lining, known, pieces=24))
    study = study_for(plain, Goal("keep", blocks=3), known)
    kept = PasteOfDay("u", study, goal=Goal("keep", blocks=3))
    found = steps_of_paste(kept, known.pantry, known.house, PLAIN_SHEET)
    assert names(found)[-1] == "wrap.1"
    assert not {"heat.1", "sheet.1", "cut.1"} & set(names(found))


def test_what_lay_over_its_most_stands_before_it_goes_on(plain, known):
    """A night in the fridge where no most is written: 18 h, and a stand of 15 min in it."""
    by_name = {s.name: s for s in steps(plain, known).paste.steps}
    assert (by_name["turn.2"].stand_min, by_name["turn.2"].stand_most) == (15, 1095)
    assert by_name["turn.2"].rest_max < 1080
    written = steps(replace(plain, turn_line="envelope 3 4 /25-40 3 4 /"), known)
    turn = next(s for s in written.paste.steps if s.name == "turn.2")
    assert (turn.rest_max, turn.stand_min) == (40, 0), "what is written holds"


def test_several_blocks_rest_while_the_others_are_rolled(plain, known):
    """Calculation: n blocks of t minutes rest (n − 1) t longer than the time between turns."""
    written = replace(plain, turn_line="envelope 3 / 3 /30-60")
    few, many = steps(written, known, pieces=8), steps(written, known, pieces=600)
    blocks = many.paste.sides[0].fridge_spaces
    assert blocks > 2
    turn = next(s for s in many.paste.steps if s.name == "turn.2")
    assert (many.notes["turn.2"].least_min, many.notes["turn.2"].most_min) == (30, 60)
    sheet = next(s for s in many.paste.steps if s.name == "sheet.1")
    each = min(turn.minutes, sheet.minutes) / blocks
    assert turn.rest_min == max(0, 30 - int((blocks - 1) * each))
    tight = steps(replace(plain, turn_line="envelope 3 / 3 /5-10"), known, pieces=600)
    assert "make fewer blocks at a time" in tight.words[0]
    assert few.words == ()
    alone = next(s for s in few.paste.steps if s.name == "turn.2")
    assert (alone.rest_min, alone.rest_max) == (30, 60)


def put_by(plain, known, form, where, pieces=8):
    kept = (KeptItem("k1", "u", form, where, 48, made="2026-11-25"),)
    return steps(plain, known, sheet=DaySheet(from_kept={"u": "k1"}), pieces=pieces, kept=kept)


def test_baked_pieces_are_thawed_and_refreshed_in_place_of_all_else(plain, known):
    """Common practice: thawed in the room, 4 to 6 min in the hot oven, crisp for an hour or two."""
    found = put_by(plain, known, "baked", "freezer")
    assert names(found) == [
        "trays.1",
        "heat.1",
        "load.1",
        "refresh.1",
        "out.1",
        "pack.1",
    ]
    by_name = {s.name: s for s in found.paste.steps}
    assert 4 <= by_name["refresh.1"].minutes <= 6
    heat = by_name["heat.1"].minutes
    assert found.paste.steps[0].rest_min + heat >= 40, "it thaws while the oven heats"
    assert by_name["out.1"].rest_max <= 120
    assert found.paste.sides == ()
    assert found.notes["refresh.1"].kind == "refresh"
    room = put_by(plain, known, "baked", "room")
    assert (names(room)[0], room.paste.steps[0].rest_min) == ("trays.1", 0)


def test_raw_pieces_go_into_the_oven_as_they_are(plain, known):
    fresh, cold, frozen = (
        steps(plain, known, pieces=8),
        put_by(plain, known, "raw", "fridge"),
        put_by(plain, known, "raw", "freezer"),
    )
    took = [
        next(s.minutes for s in f.paste.steps if s.name == "bake.1") for f in (fresh, cold, frozen)
    ]
    assert took == [took[0], took[0], took[0] + 5], "frozen pieces take longer"
    first = frozen.paste.steps[0]
    assert (first.name, first.held_in) == ("trays.1", "freezer")
    assert first.fridge_spaces >= 1
    assert "thaw." not in " ".join(names(frozen))


def test_many_trays_are_refreshed_load_by_load(plain, known):
    found = [
        n
        for n in names(put_by(plain, known, "baked", "room", pieces=400))
        if n.startswith("refresh")
    ]
    assert found[:2] == ["refresh.1", "refresh.2"]


@pytest.mark.parametrize(
    "kept",
    [
        (), (KeptItem("k1", "another", "baked", "room", 48),),
        (KeptItem("k1", "u", "half", "fridge", 2),),
    ],
)  # fmt: skip
def test_pieces_that_are_used_up_meanwhile_are_made_anew(plain, known, kept):
    found = steps(plain, known, sheet=DaySheet(from_kept={"u": "k1"}), kept=kept)
    assert names(found) == names(steps(plain, known))


def test_more_trays_than_the_oven_takes_go_in_load_by_load(plain, known):
    few, many = (
        [n for n in names(steps(plain, known, pieces=p)) if n.startswith("bake.")] for p in (8, 400)
    )
    assert few == ["bake.1"]
    assert len(many) > 2


def test_gluten_free_leaves_the_bench_before_wheat_comes(plain, demo, known):
    free = next(f for f in demo if f.school == "gluten_free")
    pastes = [
        replace_uid(steps(free, known, pieces=6), "free"),
        replace_uid(steps(plain, known), "w"),
    ]
    sheet = DaySheet()
    problem = day_problem(pastes, sheet, known.house, [Shift(300, 900)], {"free": 700, "w": 800})
    assert problem.after == (("free", pastes[0].bench_last, "w"),)
    assert check_day(problem)
    assert [p.ready_not_before_min for p in problem.pastes] == [400, 500]


def replace_uid(found, uid):
    return replace(found, uid=uid, paste=replace(found.paste, name=uid))


@pytest.mark.parametrize(
    "sheet",
    [
        DaySheet(days_before=99), DaySheet(hours=((900, 300),)), DaySheet(minutes={"u/x": -1}),
        DaySheet(now_min=-5), DaySheet(ready={"u": 99_999}),
    ],
)  # fmt: skip
def test_a_sheet_that_cannot_be_is_refused(sheet):
    with pytest.raises(Exception, match="."):
        check_day_sheet(sheet)
