"""The day's demand: blocks, mixes, freezer, trays; orders and costs. By hand unless said."""

import math

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.core.base.errors import FormulaError
from aplomb.core.base.house import House
from aplomb.core.batch.blocks import largest_block_ml
from aplomb.core.batch.keeping import KeptItem
from aplomb.core.batch.made_batch import MadeBatch, WeighedLine
from aplomb.core.batch.mixes import mixes_for
from aplomb.core.batch.stock import (
    Demand,
    Stock,
    Want,
    check_demand,
    check_stock,
    used_up,
    without_blocks,
    without_pieces,
)
from aplomb.core.batch.trays import fit, on_trays, standing_blank
from aplomb.core.kitchen.costs import costs_of
from aplomb.core.kitchen.demand import (
    from_blocks,
    from_material,
    plan_day,
    split_blocks,
)
from aplomb.core.kitchen.orders import needed, order_list
from aplomb.core.paste.formula import Batch, Part
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Item, Pack
from aplomb.core.paste.product import Product
from aplomb.core.study.study import make_study
from stored import frozen_block

BAKES = (Product("tart", length_mm=100, width_mm=100), Product("straw", length_mm=200, width_mm=20))


@pytest.fixture
def day(plain, known):
    """A paste with two products, the bench of the default house."""
    reference = replace(known, house=House())
    batch = Batch(trim_pct=10, loss_pct=2, piece_g=40, division_g=5)
    formula = replace(plain, products=BAKES, batch=batch)
    return {"a": make_study(formula, reference)}, reference


def test_what_is_cut_from_sheets_is_made_as_the_cut_plan_has_it(day):
    studies, reference = day
    demand = Demand(wants=(Want("a", "tart", 300), Want("a", "straw", 200)))
    (paste,) = plan_day(demand, studies, reference)
    cut = paste.study.cut
    assert cut.lacking == 0
    assert [m.pieces for m in paste.scaled.made] == [*cut.plans[0].pieces()]
    assert paste.scaled.rolled_g == pytest.approx(cut.sheets_g)
    assert (paste.blocks, sum(paste.mixes)) == (cut.blocks, cut.blocks)
    assert paste.scaled.trim_g == pytest.approx(cut.sheets_g - paste.scaled.cut_g)
    assert max(paste.mix_dough_g) <= reference.house.bowl_most_g + 1e-6


def test_blocks_are_even_and_no_gram_short(plain, known):
    """300 pieces of 40 g: 12,000 g; 10 % trim, 2 % on the bench: 13,605.4 g as mixed."""
    reference = replace(known, house=House())
    batch = Batch(trim_pct=10, loss_pct=2, piece_g=40, division_g=5)
    studies = {"a": make_study(replace(plain, batch=batch), reference)}
    (paste,) = plan_day(Demand(wants=(Want("a", "", 300),)), studies, reference)
    assert paste.scaled.made[0].pieces >= 300
    needed_g = 12_000 / 0.9 / 0.98
    assert paste.each_g * paste.blocks == pytest.approx(needed_g + paste.over_g)
    assert paste.over_g < 5 * paste.blocks
    assert paste.each_g % 5 == pytest.approx(0, abs=1e-6)
    assert paste.each_g <= paste.largest_g + 5
    assert sum(paste.mixes) == paste.blocks
    assert max(paste.mix_dough_g) <= reference.house.bowl_most_g + 1e-6
    assert max(paste.mixes) - min(paste.mixes) <= 1


@given(
    st.floats(1, 500_000),
    st.floats(0.3, 0.9),
    st.floats(300, 9000),
    st.floats(500, 30_000),
    st.sampled_from([1.0, 5.0, 10.0]),
)
def test_a_split_holds_what_is_needed_and_keeps_to_bowl_and_bench(grams, share, largest, bowl, div):
    house = House(bowl_least_g=0, bowl_most_g=bowl)
    split = split_blocks(grams, share, largest, house, div)
    assert split.blocks * split.each_g >= grams - 1e-6
    assert split.each_g <= largest + div + 1e-6
    mixes = mixes_for(split.blocks, split.blocks * split.each_g * share, bowl)
    assert sum(mixes) == split.blocks
    assert max(mixes) - min(mixes) <= 1
    assert max(mixes) * split.each_g * share <= bowl + split.each_g * share


def test_a_split_by_hand():
    """10 kg of paste, half of it dough, bowl 3 kg, blocks of 3 kg at most: 2 mixes by the bowl and
    4 blocks by the bench: 2 and 2 of 2500 g, 2.5 kg of dough each."""
    split = split_blocks(10_000, 0.5, 3000, House(bowl_most_g=3000), 5)
    assert (split.blocks, split.each_g) == (4, 2500)
    assert mixes_for(4, 5000, 3000) == (2, 2)
    small = split_blocks(600, 0.5, 3000, House(bowl_least_g=900), 5)
    assert "2 more blocks" in small.words[0]
    assert split_blocks(0, 0.5, 3000, House(), 5).blocks == 0


def test_the_largest_block_just_fits(day):
    """Its longest sheet is as long as the bench, or its block as the shelf, to half a percent."""
    studies, reference = day
    study, house = studies["a"], replace(reference.house, block_most_g=50_000)
    reference = replace(reference, house=house)
    most = largest_block_ml(study.formula, study.plan, study.accounts, house)
    batch = replace(
        study.formula.batch, fixed="paste", paste_g=most * study.accounts.density_g_ml, blocks=1
    )
    made = make_study(replace(study.formula, products=(), batch=batch), reference)
    sheets = [made.enclosing.dough, *(turn.sheet for turn in made.worked.turns)]
    blocks = [made.enclosing.done, *(turn.block for turn in made.worked.turns)]
    use = [max(b.length_mm, b.width_mm) / house.bench_mm for b in sheets]
    use += [min(b.length_mm, b.width_mm) / house.sheet_wide_mm for b in sheets]
    use += [max(b.length_mm, b.width_mm) / house.shelf_mm for b in blocks]
    assert 0.995 < max(use) <= 1
    light = replace(house, block_most_g=1500)
    most = largest_block_ml(study.formula, study.plan, study.accounts, light)
    assert most * study.accounts.density_g_ml == pytest.approx(1500, rel=0.006)


def test_the_freezer_comes_first_when_it_is_wanted(day):
    studies, reference = day
    frozen = (frozen_block("a", 2, 1000.0), frozen_block("b", 9, 5000.0))
    wants = (Want("a", "tart", 100),)
    (bare,) = plan_day(Demand(wants=wants), studies, reference, frozen)
    (used,) = plan_day(Demand(wants=wants, use_frozen=True), studies, reference, frozen)
    assert (bare.frozen, used.frozen, used.frozen_g) == (0, 2, 2000.0)
    fresh = bare.blocks * bare.each_g - used.blocks * used.each_g
    assert 1500 < fresh < 2300, "blocks are cut each by itself: more or less of them is trim"
    stock = [plan for plan in used.study.cut.plans if plan.of_stock]
    assert [(plan.blocks, plan.sheets) for plan in stock] == [(2, 2)]
    plenty = (frozen_block("a", 9, 1500.0),)
    (none,) = plan_day(Demand(wants=wants, use_frozen=True), studies, reference, plenty)
    assert none.blocks == 0
    assert none.scaled.paste_g == 0
    assert none.scaled.pieces >= 100
    assert used.scaled.pieces >= 100
    assert used.formula.batch.frozen_g == 2000
    assert used.scaled.pieces == pytest.approx(bare.scaled.pieces, abs=3)
    each = none.study.cut.plans[0].pieces()[0] // none.frozen
    assert none.frozen == math.ceil(100 / each)


def test_what_is_not_there_any_more_is_said(day):
    studies, reference = day
    wants = (Want("gone", "", 5), Want("a", "no such", 5), Want("a", "tart", 0))
    (found,) = plan_day(Demand(wants=wants), studies, reference)
    assert "no such" in found.trouble


def test_the_other_way_round(day, plain):
    """3 kg of butter in full paste of 2520 g a kilogram: 7560 g; less 2 and 10 %: 6667.9 g of
    pieces by weight. Of those with outlines as many as lie on sheets of 7560 g less 2 %."""
    studies, reference = day
    tart, straw = from_material("butter", 3000, studies, reference)
    density = studies["a"].accounts.density_g_ml
    rolled = 7560 * 0.98
    assert tart.product == "tart"
    for each, ml in ((tart, 30), (straw, 12)):
        assert 0.8 * rolled < each.pieces * ml * density < rolled
    assert from_material("lard", 3000, studies, reference) == ()
    blocks = from_blocks((frozen_block("a", 3, 2520.0),), studies, reference)
    assert blocks[0].pieces % 3 == 0, "each block is cut by itself"
    assert blocks[0].pieces == pytest.approx(tart.pieces, rel=0.05)
    alone = {"a": make_study(replace(plain, batch=studies["a"].formula.batch), reference)}
    assert from_material("butter", 3000, alone, reference)[0].pieces == math.floor(
        rolled * 0.9 / 40
    )


def test_pieces_on_a_tray_by_hand():
    """580 × 380 inside, 25 between and half of that to the rim: 555 × 355 for centres and boxes:
    (555 + 25) / 125 = 4 by (355 + 25) / 125 = 3."""
    house = House(tray_long_mm=580, tray_wide_mm=380, oven_trays=4)
    tray = on_trays(Product("tart", length_mm=100, width_mm=100), 100, 50.0, house)
    assert (tray.a_tray, tray.trays, tray.last) == (12, 9, 4)
    assert tray.tray_g == pytest.approx(600)
    own = on_trays(Product("tart", a_tray=10), 100, 50.0, house)
    assert (own.a_tray, own.trays, own.layout) == (10, 10, None)
    assert on_trays(Product("huge", length_mm=900), 3, 1.0, house).a_tray == 0


def test_rounds_on_a_tray_stand_staggered_when_more_do():
    blank = standing_blank(Product("r", shape="round", length_mm=60, room_mm=10))
    layout = fit(blank, 580, 380)
    across, along = (380 - 10 + 10) // 70, (580 - 10 + 10) // 70
    assert layout.groups[0].count >= across * along
    places = [(p.x_mm, p.y_mm) for p in layout.placed()]
    near = min(math.dist(a, b) for i, a in enumerate(places) for b in places[:i])
    assert near >= 70 - 1e-6


def test_the_order_list_in_whole_packs(plain, known):
    """1000 flour of which 300 are there: one pack of 1000; butter 1000 of packs of 250: four."""
    packs = [
        Item("plain_flour", pack=Pack(1000, 1.2, "2026-10-01", "Mill")),
        Item("butter", pack=Pack(250, 2.0, "2026-09-01", "Dairy")),
    ]
    pantry = known.pantry.holding(packs)
    batch = Batch(fixed="flour", flour_g=1000)
    study = make_study(replace(plain, batch=batch), replace(known, pantry=pantry))
    order = order_list([study.scaled], pantry, {"plain_flour": 300.0})
    lines = {n.material: n for n in order.lines}
    assert set(lines) == {"plain_flour", "butter", "salt"}
    assert (lines["plain_flour"].packs, lines["plain_flour"].left_g) == (1, pytest.approx(300))
    assert (lines["butter"].packs, lines["butter"].cost) == (4, pytest.approx(8))
    assert (lines["salt"].packs, lines["salt"].pack_g) == (0, None)
    assert order.suppliers == ("Dairy", "Mill", "")
    assert order.cost("Dairy") == pytest.approx(8)
    assert order.cost() is None
    enough = order_list([study.scaled], pantry, {"plain_flour": 5000.0, "salt": 500.0})
    assert enough.cost() == pytest.approx(8)
    assert needed([study.scaled, study.scaled])["butter"] == pytest.approx(2000)


def test_costs_add_up_and_a_dear_piece_is_flagged(plain, known):
    products = (
        replace(BAKES[0], wanted=40, price=0.05, topping=(Line("salt", 1),)),
        replace(BAKES[1], wanted=20, price=9.0),
    )
    formula = replace(
        plain.with_lines(Part.FINISH, (Line("plain_flour", 10),)).with_lines(
            Part.FILLING, (Line("butter", 5),)
        ),
        products=products,
        batch=Batch(fixed="pieces"),
    )
    study = make_study(formula, known)
    costs = costs_of(study, known.pantry)
    assert costs.whole is not None
    shares = sum(each.paste + each.on_it for each in costs.products)
    assert shares == pytest.approx(costs.whole)
    assert [each.over_target for each in costs.products] == [True, False]
    assert costs.whole == pytest.approx(study.readings.cost * study.scaled.factor)
    assert costs.materials[0].cost == max(m.cost for m in costs.materials)
    bare = known.pantry.holding(())
    unpriced = costs_of(make_study(formula, replace(known, pantry=bare)), bare)
    assert unpriced.whole is None
    assert "Salt" in " ".join(unpriced.unpriced)
    assert all(each.each is None for each in unpriced.products)


@pytest.mark.parametrize(
    ("value", "check"),
    [
        (Stock({"butter": -1.0}), check_stock),
        (Stock({"butter": math.nan}), check_stock),
        (Stock(kept=(frozen_block("a", 0, 100),)), check_stock),
        (Demand(wants=(Want("a", "x", -4),)), check_demand),
        (Demand(wants=(Want("a", "x", 1),) * 501), check_demand),
    ],
)
def test_stock_and_demand_that_cannot_be_are_refused(value, check):
    with pytest.raises(FormulaError):
        check(value)


def test_what_a_batch_used_is_off_the_stock_by_hand():
    """3000 g of 5000 g weighed in two mixes; more butter than was there; salt is not kept. 2.5 kg
    from the freezer are the older 2 kg block and one of 1 kg; another paste's stay."""
    stock = Stock(
        {"plain_flour": 5000.0, "butter": 800.0},
        (
            frozen_block("b", 4, 500.0, made="2026-01-01"),
            frozen_block("a", 2, 1000.0, made="2026-11-02"),
            frozen_block("a", 1, 2000.0, made="2026-11-01"),
        ),
    )
    lines = (
        WeighedLine("dough", "plain_flour", 2000, 2000, mix=1),
        WeighedLine("dough", "plain_flour", 1000, 1000, mix=2),
        WeighedLine("block", "butter", 900, 900),
        WeighedLine("dough", "salt", 20, 20),
    )
    record = MadeBatch("r", "Paste", "a", "2026-11-24", lines=lines)
    left = used_up(stock, record, 2500)
    assert left.materials == {"plain_flour": 2000}
    assert {(b.uid, b.many, b.each_g) for b in left.kept} == {("b", 4, 500), ("a", 1, 1000)}
    assert check_stock(left) is left
    by = (KeptItem("k", "a", "baked", "room", 12, made="2026-11-23"),)
    assert used_up(replace(stock, kept=by), record, 2500).kept == by, "what is put by stays"
    bare = used_up(stock, replace(record, lines=()), 0)
    assert bare.materials == stock.materials
    assert set(bare.kept) == set(stock.kept)


@pytest.mark.parametrize(
    ("product", "size"),
    [
        (Product("r", shape="round", length_mm=90), (90, 90)),
        (Product("c", shape="case", length_mm=80, inner_mm=40), (80, 80)),
        (Product("o", shape="outline", points=((0, 0), (120, 0), (60, 90))), (120, 90)),
        (Product("q", length_mm=100, width_mm=70), (100, 70)),
    ],
)
def test_what_stands_on_a_tray(product, size):
    blank = standing_blank(product)
    assert (blank.length_mm, blank.width_mm) == size


def test_a_slice_of_a_log_is_a_disc_by_hand():
    """400 mm of a 3 mm sheet rolled tight: d = 2 √(400 · 3 / π) = 39.1 mm, by its section."""
    blank = standing_blank(Product("s", shape="slice", length_mm=400, sheet_mm=3.0, inner_mm=12))
    assert blank.round
    assert blank.length_mm == pytest.approx(39.088, abs=1e-3)
    assert math.pi * blank.length_mm**2 / 4 == pytest.approx(400 * 3)


@given(
    st.integers(1, 400),
    st.integers(0, 12),
    st.floats(300, 4000),
    st.floats(0, 12),
    st.sampled_from(["", " t8"]),
    st.floats(0, 9),
)
@settings(
    max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
def test_with_frozen_blocks_the_day_never_falls_short(
    day, pieces, blocks, each, dust, trim, broken
):
    """Frozen paste brings no dusting and nothing strewn in: what is wanted is there all the same,
    and a block less from the mixer would not do."""
    studies, reference = day
    formula = studies["a"].formula
    batch = replace(formula.batch, broken_pct=broken)
    formula = replace(
        formula,
        turn_line=f"envelope 3{trim} 4 /",
        batch=batch,
        dusting=(Line("plain_flour", 10 * dust),),
        between=(Line("sugar", 12 * dust),),
    )
    study = make_study(formula, reference)
    demand = Demand("", True, (Want("a", "tart", pieces),))
    frozen = (frozen_block("a", blocks, each),) if blocks else ()
    (paste,) = plan_day(demand, {"a": study}, reference, frozen)
    assert paste.trouble == ""
    assert paste.scaled.good >= pieces
    assert paste.frozen <= blocks
    if paste.frozen and paste.blocks:
        assert paste.frozen == blocks, "all of the freezer before the mixer"


@given(
    st.lists(st.tuples(st.sampled_from("ab"), st.integers(1, 5), st.dates()), max_size=5),
    st.integers(0, 20),
)
def test_blocks_go_the_oldest_first_and_no_more_than_are_there(blocks, wanted):
    frozen = tuple(frozen_block(uid, n, 900.0, made=day.isoformat()) for uid, n, day in blocks)
    left, taken = without_blocks(Stock(kept=frozen), "a", wanted)
    mine = sorted(b.made for b in frozen if b.uid == "a" for _ in range(b.many))
    assert taken == min(wanted, len(mine))
    still = sorted(b.made for b in left.kept if b.uid == "a" for _ in range(b.many))
    assert still == mine[taken:]
    assert sum(b.many for b in left.kept if b.uid == "b") == sum(
        b.many for b in frozen if b.uid == "b"
    )
    assert all(b.many > 0 for b in left.kept)


@pytest.mark.parametrize(
    ("pieces", "left", "taken"), [(0, [12, 3], 0), (5, [7, 3], 5), (12, [3], 12), (40, [3], 12)]
)
def test_pieces_put_by_go_until_none_is_left(pieces, left, taken):
    kept = (KeptItem("k1", "a", "baked", "freezer", 12), KeptItem("k2", "a", "raw", "freezer", 3))
    stock, out = without_pieces(Stock(kept=kept), "k1", pieces)
    assert [i.many for i in stock.kept] == left
    assert out == taken
    assert without_pieces(stock, "none", 5) == (stock, 0)
