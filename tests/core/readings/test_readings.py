"""Readings by hand calculation on round numbers."""

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.core.kitchen.costs import costs_of
from aplomb.core.paste.accounts import account
from aplomb.core.paste.formula import Batch, Formula, Part, scaled
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Item, Pack
from aplomb.core.readings.readings import READING_WORDS, Readings
from aplomb.core.study.explain import explain
from aplomb.core.study.study import make_study


def test_full_paste_by_hand(plain, known):
    """1000 flour, 500 water, 20 salt, 1000 butter of 82 % fat and 16 % water."""
    r = make_study(plain, known).readings
    assert (r.flour_g, r.dough_g, r.block_g, r.paste_g) == (1000, 1520, 1000, 2520)
    assert r.fat_product_pct == pytest.approx(100)
    assert r.enclosed_fat_pct == pytest.approx(100)
    assert r.dough_fat_pct == 0
    assert r.fat_on_dough_pct == pytest.approx(100 * 1000 / 1520)
    assert r.pure_fat_pct == pytest.approx(82)
    assert r.dough_water_pct == pytest.approx(50)
    assert r.total_water_pct == pytest.approx(66)
    assert r.salt_pct == pytest.approx(2)
    assert (r.product, r.fat_leaves, r.dough_leaves, r.leaves) == (144, 144, 145, 289)


def test_full_paste_is_near_47_percent_fat_by_volume(plain, known):
    """Common practice, and from it by calculation 10 µm for 144 leaves in 3 mm, 2 for 729."""
    r = make_study(plain, known).readings
    assert r.fat_volume_share == pytest.approx(0.47, abs=0.01)
    assert r.fat_leaf_um == pytest.approx(9.8, abs=0.25)
    many = make_study(replace(plain, turn_line="envelope 3 3 3 3 3 3"), known).readings
    assert many.fat_leaf_um == pytest.approx(1.93, abs=0.05)


def test_leaves_fill_the_sheet(plain, known):
    """Calculation: fat and dough leaves together are as thick as the sheet."""
    for line in ("thirds 3 4", "inverse 4 4 3", "envelope 3 4 / 3 4"):
        r = make_study(replace(plain, turn_line=line), known).readings
        um = r.fat_leaves * r.fat_leaf_um + r.dough_leaves * r.dough_leaf_um
        assert um == pytest.approx(3000)


def test_water_fat_and_salt_are_counted_wherever_they_come_from(known):
    """Hand calculation: 100 cream (58 water, 36 fat), 50 egg (38 water, 5 fat), 100 salted
    butter in the dough (16 water, 80.6 fat, 1.6 salt) on 500 flour; block 300 margarine."""
    formula = Formula(
        "x",
        dough=(
            Line("plain_flour", 500),
            Line("cream_whipping", 100),
            Line("egg_whole", 50),
            Line("butter_salted", 100),
        ),
        block=(Line("pastry_margarine", 300),),
    )
    r = make_study(formula, known).readings
    assert r.dough_water_pct == pytest.approx(100 * (58 + 38 + 16) / 500)
    assert r.pure_fat_pct == pytest.approx(100 * (36 + 5 + 80.6 + 300 * 0.806) / 500)
    salt = 0.07 + 0.175 + 1.6 + 3.6
    assert r.salt_pct == pytest.approx(100 * salt / 500)
    assert r.dough_fat_pct == pytest.approx(20)
    assert r.enclosed_fat_pct == pytest.approx(60)
    assert r.fat_product_pct == pytest.approx(80)


def test_flour_in_the_block_is_flour_and_dusting_is_not(plain, known):
    inverse = replace(
        plain,
        block=(Line("butter", 1000), Line("plain_flour", 400)),
        dusting=(Line("plain_flour", 300),),
        finish=(Line("butter", 200),),
    )
    r = make_study(inverse, known).readings
    assert r.flour_g == 1400
    assert r.block_g == 1400
    assert r.paste_g == 2920
    assert r.fat_product_pct == pytest.approx(100 * 1000 / 1400)
    assert r.pure_fat_pct == pytest.approx(100 * 820 / 1400)


def test_pieces_give_expected_means(known, demo):
    """Calculation: φ·H/d at the start, times the product."""
    formula = next(f for f in demo if f.school == "rough")
    r = make_study(formula, known).readings
    start = r.fat_volume_share * formula.gathered_mm / formula.piece_fat_mm
    assert r.leaves_are_means
    assert r.fat_leaves == pytest.approx(start * r.product)


def test_the_trades_rough_puff(plain, known):
    """Common practice: from 2 along a line, three doubles give about 110–130 [2 × 64]."""
    rough = replace(plain, turn_line="pieces 4 4 4", piece_fat_mm=14.0, gathered_mm=60.0)
    r = make_study(rough, known).readings
    assert 1.9 < r.fat_leaves / 64 < 2.1
    assert 110 < r.fat_leaves < 135


def test_cost_is_absent_not_zero(plain, known):
    items = [
        Item("plain_flour", pack=Pack(1000, 1.0)),
        Item("butter", pack=Pack(250, 2.5)),
        Item("salt", pack=Pack(500, 1)),
    ]

    def priced(some):
        return replace(known, pantry=known.pantry.holding(some))

    batch = Batch(fixed="pieces", pieces=100, piece_g=20, trim_pct=0, loss_pct=0)
    r = make_study(replace(plain, batch=batch), priced(items)).readings
    assert r.cost == pytest.approx(1.0 + 10.0 + 0.04)  # hand calculation; water costs nothing
    assert r.cost_per_piece == pytest.approx(11.04 * (2000 / 2520) / 100)
    missing = make_study(replace(plain, batch=batch), priced(items[:2])).readings
    assert missing.cost is None
    assert missing.cost_per_piece is None
    assert b"cost" not in msgspec.json.encode(missing)


@pytest.mark.parametrize(
    "formula",
    [
        Formula("empty"),
        Formula("no flour", dough=(Line("water", 100),), block=(Line("butter", 50),)),
        Formula("no block", dough=(Line("plain_flour", 100), Line("water", 50))),
        Formula("no dough", block=(Line("butter", 50),)),
        Formula("nothing of it", dough=(Line("plain_flour", 0),), block=(Line("butter", 0),)),
        Formula(
            "coil",
            dough=(Line("plain_flour", 100),),
            block=(Line("butter", 50),),
            turn_line="coil 3",
        ),
        Formula(
            "portions",
            dough=(Line("plain_flour", 9),),
            block=(Line("butter", 5),),
            turn_line="portions +3 +3",
        ),
    ],
    ids=lambda f: f.name,
)
def test_half_a_formula_has_half_the_figures_and_says_why(formula, known):
    study = make_study(formula, known)
    for key in READING_WORDS:
        value = getattr(study.readings, key)
        assert value is None or value >= 0 or key == "dough_water_14_pct"
        assert len(explain(study, key)) > 0
    assert study.stack() is None or len(study.stack()) >= 1


def test_every_reading_has_words_and_every_word_a_reading():
    assert set(READING_WORDS) == set(Readings.__struct_fields__) - {"leaves_are_means"}


def test_explanations_hold_the_numbers(plain, known):
    study = make_study(plain, known)
    assert "1000 g ÷ 1000 g flour = 100.0 %" in explain(study, "fat_product_pct")
    assert "500 g ÷ 1000 g flour in the dough = 50.0 %" in explain(study, "dough_water_pct")
    assert "3 × 4 × 3 × 4 = 144" in explain(study, "fat_leaves")
    assert "÷ 144 fat leaves" in explain(study, "fat_leaf_um")


@given(st.floats(0.01, 1000))
@settings(max_examples=50)
def test_ratios_do_not_depend_on_the_size(factor):
    from aplomb.assets.shipped import demo, reference

    for formula in demo().formulas:
        one = make_study(formula, reference()).readings
        many = make_study(scaled(formula, factor), reference()).readings
        for key in (
            "fat_product_pct",
            "dough_water_pct",
            "salt_pct",
            "fat_volume_share",
            "fat_leaf_um",
        ):
            assert getattr(many, key) == pytest.approx(getattr(one, key), rel=1e-6)


def test_accounts_add_up(demo, pantry):
    for formula in demo:
        a = account(formula, pantry)
        weighed = sum(n.grams for p in (Part.DOUGH, Part.BLOCK) for n in formula.lines(p))
        assert a.paste_g == pytest.approx(weighed)
        assert a.salt_g == pytest.approx(a.salt_added_g + a.salt_hidden_g)
        assert 0.9 < a.density_g_ml < 1.4


def test_fat_on_the_whole_paste_by_hand(plain, known):
    """1000 g butter in 2520 g paste; 50 g of shortening in the dough: 1050 of 2570."""
    assert make_study(plain, known).readings.fat_on_total_pct == pytest.approx(100 * 1000 / 2520)
    more = plain.with_lines(Part.DOUGH, (*plain.dough, Line("shortening", 50)))
    study = make_study(more, known)
    assert study.readings.fat_on_total_pct == pytest.approx(100 * 1050 / 2570)
    assert "1050 g ÷ 2570 g paste" in explain(study, "fat_on_total_pct")


def test_total_water_is_on_all_flour_and_dough_water_on_the_doughs(known):
    """By hand: 300 g water on 600 g flour; 800 g butter brings 128 g, and 200 g flour lie in it."""
    formula = Formula(
        "x",
        dough=(Line("plain_flour", 600), Line("water", 300)),
        block=(Line("butter", 800), Line("plain_flour", 200)),
    )
    r = make_study(formula, known).readings
    assert r.dough_water_pct == pytest.approx(50)
    assert r.total_water_pct == pytest.approx(100 * 428 / 800)
    measured = make_study(replace(formula, flour_moisture_pct=14.0), known).readings
    assert measured.dough_water_14_pct == pytest.approx(50)


@pytest.mark.parametrize("by", ["weight", "size"])
def test_a_whole_piece_carries_those_that_break(plain, known, by):
    """By hand: of 100 pieces cut, 20 break; the batch's cost is that of 80."""
    prices = [Item(n.material, pack=Pack(1000, 2.0)) for n in (*plain.dough, *plain.block)]
    priced = replace(known, pantry=known.pantry.holding(prices))
    whole = replace(plain, batch=Batch(fixed="pieces", pieces=80, piece_by=by, broken_pct=20))
    study = make_study(whole, priced)
    assert (study.scaled.pieces, study.scaled.good) == (100, 80)
    batch_cost = study.readings.cost * study.scaled.factor
    assert study.readings.cost_per_piece == pytest.approx(batch_cost / 80)
    costs = costs_of(study, priced.pantry)
    assert costs.products[0].each == pytest.approx(study.readings.cost_per_piece)
    assert costs.whole / 80 == pytest.approx(study.readings.cost_per_piece)
