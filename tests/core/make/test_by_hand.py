"""Whole makes worked by hand, step by step."""

import math
from collections import Counter

import pytest
from msgspec.structs import replace

from aplomb.core.base.house import House
from aplomb.core.make.goal import Goal, factor_text, read_factor, study_for, usual_goal
from aplomb.core.make.make import make_of
from aplomb.core.paste.formula import Batch, Formula, Part
from aplomb.core.paste.line import Line
from aplomb.core.paste.product import Cutting, Product
from aplomb.core.study.study import make_study

SQUARES = Formula(
    "Squares",
    dough=(Line("plain_flour", 500), Line("water", 250), Line("salt", 10)),
    block=(Line("butter", 400),),
    turn_line="envelope 4 / 3",
    sheet_mm=3.0,
    batch=Batch(fixed="pieces", loss_pct=0, broken_pct=0),
    cutting=Cutting(edge_mm=10, relax_along_pct=0, relax_across_pct=0),
    products=(Product("Square", length_mm=100, width_mm=100, wanted=12),),
)


@pytest.fixture
def plain_house(known):
    return replace(known, house=House())


def made(formula, known, goal=None):
    goal = goal or usual_goal(formula)
    study = study_for(formula, goal, known)
    return study, make_of(study, known.pantry, known.house, goal)


def test_twelve_squares(plain_house):
    """Four by three of 100 mm and 10 mm round them: a sheet of 420 × 320 × 3 mm is 403.2 mL, all of
    the paste. In pieces are 12 × 100 × 100 × 3 mm = 360 mL, 43.2 mL is scrap. On a tray of 580 ×
    380 mm stand 4 × 3: one tray, one load."""
    study, make = made(SQUARES, plain_house)
    density = study.accounts.density_g_ml
    assert make.goal.kind == "pieces"
    assert [s.key for s in make.steps] == [
        "dough.weigh.1", "fat.weigh.1", "dough.mix.1", "fat.temper.1", "b1.press.1", "b1.enclose.1",
        "b1.turn.1", "b1.turn.2", "b1.s1.sheet", "b1.s1.relax", "b1.s1.cut", "p1.tray.1",
        "oven1.heat.1", "l1.load_in", "l1.bake", "l1.load_out", "baked.cool.1", "baked.pack.1",
    ]  # fmt: skip
    whole = 403.2 * density
    assert make.lines_g == pytest.approx(whole)
    entered = {s.key: sum(n.grams for n in s.lines) for s in make.steps if s.lines}
    assert entered == pytest.approx(
        {"dough.mix.1": whole * 760 / 1160, "b1.enclose.1": whole * 400 / 1160}
    )
    assert make.gives.pieces_g == pytest.approx(360 * density)
    assert make.gives.scrap_g == pytest.approx(43.2 * density)
    assert (make.gives.loss_g, make.gives.kept_g, make.gives.from_stock_g) == (0, 0, 0)
    cut = make.step("b1.s1.cut")
    assert (cut.sheet.length_mm, cut.sheet.width_mm, cut.sheet.height_mm) == (420, 320, 3)
    assert [(p.product, p.count) for p in cut.gives] == [("Square", 12)]
    assert [(t.trays, t.a_tray) for t in make.trays] == [(1, 12)]
    assert [load.trays for load in make.loads] == [(("Square", 1),)]


def test_as_written_twice_cuts_twice_as_many_at_most_and_keeps_the_rest(plain_house):
    """2 × 1160 g: of that 24 squares at most, though there is paste for more; the rest is kept."""
    study, make = made(SQUARES, plain_house, Goal("as_written", factor=2.0))
    assert {n.material: n.grams for n in make.lines} == {
        "plain_flour": 1000, "water": 500, "salt": 20, "butter": 800,
    }  # fmt: skip
    assert [p.count for p in make.gives.pieces] == [24]
    sheets = sum(u.grams for u in make.units if u.of == "sheet")
    assert make.gives.kept_g == pytest.approx(2320 - sheets)
    assert {s.key.split(".")[-2] for s in make.steps if s.kind == "store"} == {"store"}
    assert study.scaled.blocks == 3, "one is cut, the rest is kept in two that are no larger"


def test_blocks_to_keep_end_in_the_cold(plain_house):
    _, make = made(SQUARES, plain_house, Goal("keep", blocks=3))
    assert make.steps[-1].kind == "store"
    assert sum(s.kind == "store" for s in make.steps) == 3
    assert not {"sheet", "cut", "bake", "tray"} & {s.kind for s in make.steps}
    assert make.gives.kept_g == pytest.approx(make.lines_g)
    assert make.loads == make.trays == ()


def test_what_is_strewn_in_by_default_reaches_the_last_turn(plain_house):
    sugared = replace(SQUARES, between=(Line("sugar", 60),))
    _, make = made(sugared, plain_house)
    (add,) = (s for s in make.steps if s.kind == "add")
    assert (add.op, [n.material for n in add.lines]) == ("turn 2", ["sugar"])
    order = [s.key for s in make.steps]
    assert order.index("b1.add.1") == order.index("b1.turn.2") - 1


def test_fat_in_portions_is_spread_turn_by_turn(plain_house):
    """40 % at the first, and the rest in two equal shares: 160, 120 and 120 of 400 g."""
    flaky = replace(SQUARES, turn_line="portions +3:40 +3 / +3")
    _, make = made(flaky, plain_house)
    spread = [sum(n.grams for n in s.lines) for s in make.steps if s.kind == "spread"]
    butter = next(n.grams for n in make.lines if n.material == "butter")
    assert spread == pytest.approx([0.4 * butter, 0.3 * butter, 0.3 * butter])
    assert not {"press", "enclose"} & {s.kind for s in make.steps}


@pytest.mark.parametrize(
    ("beside", "told"),
    [
        ((), None),
        ((Line("lard", 100),), "Work the fats of the block together"),
        ((Line("plain_flour", 60),), "Work the flour into the fat"),
    ],
)
def test_what_a_block_is_made_of_is_worked_together_before_it_is_pressed(plain_house, beside, told):
    _, make = made(replace(SQUARES, block=(*SQUARES.block, *beside)), plain_house)
    of_fat = [s for s in make.steps if s.on[0] == "fat" or s.kind == "press"]
    mixed = [s.words for s in of_fat if s.kind == "mix_fat"]
    assert mixed == ([told] if told else [])
    assert [s.kind for s in of_fat if s.kind != "mix_fat"] == ["weigh", "temper", "press"]
    if told:
        assert of_fat.index(next(s for s in of_fat if s.kind == "mix_fat")) == 2


def test_pieces_of_fat_go_into_the_bowl_and_nothing_is_enclosed(plain_house):
    rough = replace(SQUARES, turn_line="pieces 3 3 / 4", piece_fat_mm=15.0)
    _, make = made(rough, plain_house)
    mix = make.step("dough.mix.1")
    assert {n.part for n in mix.lines} == {Part.DOUGH, Part.BLOCK}
    assert mix.rest.least_min == 0, "no rest before gathering that was not asked for"
    kinds = [s.kind for s in make.steps]
    assert kinds.index("cut_fat") < kinds.index("mix") < kinds.index("gather")
    assert not {"press", "enclose"} & set(kinds)


def test_two_thicknesses_are_groups_of_blocks(plain_house):
    thick = Product("Thick", length_mm=100, width_mm=100, sheet_mm=6.0, wanted=12)
    both = replace(SQUARES, products=(*SQUARES.products, thick))
    study, make = made(both, plain_house)
    one, other = study.scaled.groups
    assert other.each_g == pytest.approx(2 * one.each_g), "the same sheet, twice as thick"
    assert [s.sheet.height_mm for s in make.steps if s.kind == "cut"] == [3, 6]


def test_blocks_from_the_freezer_are_cut_first_each_by_itself(plain_house):
    """A block that gives eight squares leaves four to be made."""
    stock = replace(SQUARES.batch, frozen_g=300.0, frozen_blocks=1, frozen_turns=1)
    study, make = made(replace(SQUARES, batch=stock), plain_house)
    of_stock = [s for s in make.steps if s.on[0] == "b2"]
    assert [s.kind for s in of_stock] == ["thaw", "turn"]
    cuts = {s.key: sum(p.count for p in s.gives) for s in make.steps if s.kind == "cut"}
    assert sum(cuts.values()) == make.gives.pieces[0].count >= 12
    assert make.gives.from_stock_g == 300
    assert study.scaled.blocks == 1


def test_blocks_from_the_fridge_stand_and_are_not_thawed(plain_house):
    stock = replace(
        SQUARES.batch, frozen_g=300.0, frozen_blocks=1, frozen_turns=1, frozen_where="fridge"
    )
    _, make = made(replace(SQUARES, batch=stock), plain_house)
    of_stock = next(u.key for u in make.units if u.of == "stock")
    kinds = [s.kind for s in make.steps if s.on[0] == of_stock]
    assert kinds[0] == "stand"
    assert "thaw" not in [s.kind for s in make.steps]
    assert kinds.count("turn") == len(SQUARES.plan.turns) - 1


@pytest.mark.parametrize("enclosure", ["thirds", "halves", "envelope", "inverse"])
def test_the_fat_of_a_size_is_as_thick_as_it_weighs(plain_house, enclosure):
    """185 g of butter at 0.94 g/mL on 27 × 9 cm: 185 / 0.94 / 24.3 = 8.1 mm, not 12."""
    formula = replace(
        SQUARES,
        turn_line=SQUARES.turn_line.replace("envelope", enclosure),
        fat_length_mm=270.0,
        fat_width_mm=90.0,
    )
    study, make = made(formula, plain_house)
    press = next(s for s in make.steps if s.kind == "press")
    assert press.sheet is not None
    fat_ml = study.accounts.block_ml * study.scaled.a_block
    assert press.sheet.volume_ml == pytest.approx(fat_ml)
    assert press.sheet.height_mm == pytest.approx(fat_ml * 10 / 243)
    if enclosure != "envelope":
        assert (press.sheet.length_mm, press.sheet.width_mm) == pytest.approx((270, 90))


def test_the_width_for_enclosing_is_its_own(plain_house):
    wide = replace(SQUARES, turn_line="thirds 3 3", roll_width_mm=300.0)
    _, as_rolled = made(wide, plain_house)
    _, own = made(replace(wide, enclose_width_mm=180.0), plain_house)

    def width(make, kind):
        return next(s.sheet.width_mm for s in make.steps if s.kind == kind)

    assert (width(as_rolled, "enclose"), width(as_rolled, "turn")) == pytest.approx((300, 300))
    assert (width(own, "enclose"), width(own, "turn")) == pytest.approx((180, 300))


def test_an_untrimmed_round_is_rolled_by_itself_and_nothing_is_scrap(plain_house):
    """Six rounds of 240 mm, 3 mm thick: π/4 × 24² × 0.3 cm = 135.7 mL each, all of it in the piece.
    Blocks are alike, so that each gives as many."""
    galette = Product("Galette", shape="round", length_mm=240, untrimmed=True, wanted=6)
    study, make = made(replace(SQUARES, products=(galette,)), plain_house)
    density = study.accounts.density_g_ml
    each_g = math.pi / 4 * 24**2 * 0.3 * density
    (given,) = make.gives.pieces
    assert given.count >= 6
    assert given.each_g == pytest.approx(each_g)
    assert make.gives.scrap_g == pytest.approx(0, abs=1e-6)
    assert make.lines_g == pytest.approx(given.count * each_g)
    kinds = Counter(s.kind for s in make.steps)
    assert kinds["sheet"] == kinds["relax"] == given.count
    assert kinds["cut"] == 0
    rolled = next(s for s in make.steps if s.kind == "sheet")
    assert rolled.round
    assert (rolled.sheet.length_mm, rolled.sheet.width_mm) == (240, 240)
    too_large = replace(galette, length_mm=900)
    assert "no room" in make_study(replace(SQUARES, products=(too_large,)), plain_house).cut_trouble


def test_a_coil_is_sliced_not_rolled_out(plain_house):
    batch = Batch(fixed="pieces", pieces=20, piece_g=40, trim_pct=0, loss_pct=0, broken_pct=0)
    dusting = (Line("plain_flour", 20),)
    coil = replace(SQUARES, turn_line="coil /60", products=(), batch=batch, dusting=dusting)
    _, make = made(coil, plain_house)
    kinds = [s.kind for s in make.steps if s.on[0] == "b1"]
    assert kinds == ["spread", "roll_up", "slice"]
    assert not {"sheet", "relax", "cut"} & {s.kind for s in make.steps}
    assert make.gives.pieces[0].count == 20
    spread, _, sliced = (s for s in make.steps if s.on[0] == "b1")
    assert {n.part for n in spread.lines} == {Part.BLOCK, Part.DUSTING}  # the thin sheet is dusted
    assert sliced.lines == ()


def test_a_block_too_long_for_the_bench_is_parted(plain_house):
    """4 kg at 3 mm on a bench of 0.9 m: every sheet, as it is rolled, lies on it."""
    batch = Batch(fixed="paste", paste_g=4000, piece_g=50)
    short = replace(plain_house, house=replace(plain_house.house, bench_mm=900.0))
    _, make = made(replace(SQUARES, products=(), batch=batch), short)
    rolled = [s.roll_to for s in make.steps if s.kind == "sheet"]
    assert len(rolled) > 1
    assert all(box.length_mm <= 900 for box in rolled)


@pytest.mark.parametrize("text", ["", "0", "-1", "nan", "inf", "1/0", "half a", "1e9"])
def test_a_factor_that_cannot_be_is_told(text):
    with pytest.raises(Exception, match="how many times"):
        read_factor(text)


def test_a_factor_that_is_written_is_read():
    for factor in (0.5, 1 / 3, 1.0, 2.0, 0.75, 12.5):
        assert read_factor(factor_text(factor)) == pytest.approx(factor)
    assert read_factor("1,5", ",") == 1.5


def test_paste_that_is_kept_weighs_nothing_for_pieces(plain_house):
    """A batch of it says the same: no wash and no filling for paste that ends in the cold."""
    washed = replace(SQUARES, finish=(Line("egg_whole", 60),), filling=(Line("apricot_jam", 20),))
    study, make = made(washed, plain_house, Goal("keep", blocks=2))
    kept = {Part.DOUGH, Part.BLOCK, Part.DUSTING, Part.BETWEEN}
    assert {w.part for w in study.scaled.lines} <= kept
    assert {n.part for n in make.lines} == {w.part for w in study.scaled.lines}
