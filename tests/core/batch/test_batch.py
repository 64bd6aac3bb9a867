"""Batches: whatever is fixed comes out, and no gram is lost."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.core.batch.scale import followed
from aplomb.core.batch.scaled import rounded
from aplomb.core.paste.formula import Batch, Formula, Part
from aplomb.core.paste.line import Line
from aplomb.core.paste.product import Cutting
from aplomb.core.study.study import make_study


def batch_of(formula, **targets):
    return make_study(replace(formula, batch=Batch(**targets)), reference()).scaled


def test_flour_fixed(plain):
    scaled = batch_of(plain, fixed="flour", flour_g=2500)
    assert scaled.factor == pytest.approx(2.5)
    assert scaled.paste_g == pytest.approx(6300)


def test_paste_fixed_and_pieces_follow(plain):
    """Hand calculation: 5000 g, 4 % lost, 10 % trimmed: 4320 g, 86 pieces of 50, 20 g over."""
    scaled = batch_of(plain, fixed="paste", paste_g=5000, loss_pct=4, trim_pct=10, piece_g=50)
    assert scaled.loss_g == pytest.approx(200)
    assert scaled.trim_g == pytest.approx(480)
    assert scaled.pieces == 86
    assert scaled.over_g == pytest.approx(20)


def test_pieces_fixed(plain):
    """Hand calculation: 60 × 40 = 2400; ÷ 0.88 ÷ 0.98 = 2782.9 g mixed."""
    scaled = batch_of(plain, fixed="pieces", pieces=60, piece_g=40, trim_pct=12, loss_pct=2)
    assert scaled.pieces == 60
    assert scaled.paste_g == pytest.approx(2400 / 0.88 / 0.98)
    assert scaled.over_g == pytest.approx(0, abs=1e-6)


def test_a_packet_is_used_up(plain):
    twice = plain.with_lines(Part.DOUGH, (*plain.dough, Line("butter", 250)))
    scaled = batch_of(twice, fixed="packet", packet_g=500)
    used = sum(w.exact_g for w in scaled.lines if w.line.material == "butter")
    assert used == pytest.approx(500)


def test_the_packet_is_of_the_fat_that_is_named(plain):
    both = plain.with_lines(Part.BLOCK, (Line("butter", 600), Line("lard", 400)))
    scaled = batch_of(both, fixed="packet", packet_g=1000, packet_material="lard")
    assert scaled.factor == pytest.approx(2.5)
    scaled = batch_of(both, fixed="packet", packet_g=1200, packet_material="not in it")
    assert scaled.factor == pytest.approx(2.0)


def test_a_piece_by_its_size(plain):
    """Hand calculation: 100 × 100 × 3 mm is 30 mL at the paste's own density."""
    study = make_study(
        replace(plain, batch=Batch(piece_by="size", piece_length_mm=100, piece_width_mm=100)),
        reference(),
    )
    assert study.scaled.piece_g == pytest.approx(30 * study.accounts.density_g_ml)


def test_rounding_and_its_drift(plain):
    scaled = batch_of(plain, fixed="flour", flour_g=1003, division_g=5)
    grams = {w.line.material: w for w in scaled.lines}
    assert grams["plain_flour"].weigh_g == 1005
    assert grams["plain_flour"].drift_g == pytest.approx(2)
    assert grams["salt"].weigh_g == 20
    assert grams["salt"].drift_pct == pytest.approx(-0.3, abs=0.01)
    in_paste = [w for w in scaled.lines if w.part in (Part.DOUGH, Part.BLOCK)]
    assert scaled.drift_g == pytest.approx(sum(w.drift_g for w in in_paste))


def test_what_is_there_never_rounds_to_nothing():
    assert rounded(0.4, 1) == 1
    assert rounded(0, 1) == 0
    assert rounded(2.5, 5) == 5
    assert rounded(0.25, 0.1) == pytest.approx(0.3)


@given(st.floats(1, 1e6), st.sampled_from([0.1, 0.5, 1, 2, 5, 10]))
def test_rounding_is_to_the_division_and_near(grams, division):
    found = rounded(grams, division)
    assert found / division == pytest.approx(round(found / division), abs=1e-6)
    assert abs(found - grams) <= max(division / 2, division - grams) + 1e-6


targets = st.builds(
    Batch,
    fixed=st.sampled_from(["flour", "paste", "pieces", "packet"]),
    flour_g=st.floats(1, 1e5),
    paste_g=st.floats(1, 1e5),
    packet_g=st.floats(1, 1e5),
    pieces=st.integers(1, 10_000),
    piece_g=st.floats(1, 500),
    piece_by=st.sampled_from(["weight", "size"]),
    trim_pct=st.floats(0, 60),
    loss_pct=st.floats(0, 60),
    blocks=st.integers(1, 9),
)


@given(targets, st.floats(0, 50), st.floats(0, 1e5), st.just(0.0) | st.floats(0, 1e4))
@settings(max_examples=12)
def test_no_gram_is_lost(batch, scrap_pct, scrap_g, frozen_g):
    """Mixed + strewn in + dusting taken up + frozen + scrap = bench + trimmed while folded +
    trim + pieces + over, for every way of fixing."""
    for formula in demo().formulas:
        cutting = replace(formula.cutting, scrap_pct=scrap_pct, scrap_g=scrap_g)
        made = replace(formula, batch=replace(batch, frozen_g=frozen_g), cutting=cutting)
        scaled = make_study(made, reference()).scaled
        most = min(scrap_g, scrap_pct / 100 * scaled.paste_g)
        assert scaled.scrap_in_g <= most * (1 + 1e-9) + 1e-9
        out = scaled.loss_g + scaled.folded_g + scaled.trim_g + scaled.over_g
        out += sum(made.pieces * made.paste_g for made in scaled.made)
        into = scaled.paste_g + scaled.strewn_g + scaled.dust_g
        into += scaled.frozen_g + scaled.scrap_in_g
        assert out == pytest.approx(into, rel=1e-6, abs=1e-6)
        of_blocks = sum(group.blocks * group.each_g for group in scaled.groups)
        assert of_blocks == pytest.approx(scaled.paste_g)
        if batch.fixed == "pieces":
            wanted = sum(p.wanted for p in formula.products) or batch.pieces
            assert scaled.pieces >= wanted
            if not frozen_g and not scaled.as_cut:  # sheets that are alike may give a few more
                assert scaled.pieces == wanted


@pytest.mark.parametrize(
    ("formula", "target", "says"),
    [
        (Formula("x"), Batch(), "no weight"),
        (
            Formula("x", dough=(Line("water", 10),)),
            Batch(fixed="flour"),
            "The batch is set by its flour,",
        ),
        (Formula("x", dough=(Line("plain_flour", 10),)), Batch(fixed="packet"), "has no fat"),
    ],
)
def test_what_cannot_be_scaled_says_why(formula, target, says):
    assert says in make_study(replace(formula, batch=target), reference()).scaled.trouble


@given(targets, st.sampled_from(["flour", "paste", "packet"]), st.sampled_from(demo().formulas))
@settings(max_examples=14)
def test_fixing_another_thing_changes_nothing_by_itself(batch, other, formula):
    known = reference()
    one = make_study(replace(formula, batch=batch), known)
    target = followed(one.formula, known.pantry, one.accounts, one.scaled)
    assert target.fixed == batch.fixed
    two = make_study(replace(formula, batch=replace(target, fixed=other)), known)
    assert two.scaled.factor == pytest.approx(one.scaled.factor)


@pytest.mark.parametrize(
    ("there", "mixed", "scrap_in"),
    [(0, 1250, 0), (100, 1150, 100), (500, 1250 / 1.2, 250 / 1.2), (9000, 1250 / 1.2, 250 / 1.2)],
)
def test_scrap_takes_the_place_of_new_paste_by_hand(plain, known, there, mixed, scrap_in):
    """100 pieces of 10 g with a fifth of trim want 1250 g of sheet; at most a fifth of the new
    paste is scrap: x + 0.2 x = 1250."""
    batch = Batch(fixed="pieces", pieces=100, piece_g=10, trim_pct=20, loss_pct=0, dust_pct=0)
    cutting = Cutting(scrap_pct=20, scrap_g=there)
    scaled = make_study(replace(plain, batch=batch, cutting=cutting), known).scaled
    assert scaled.paste_g == pytest.approx(mixed)
    assert scaled.scrap_in_g == pytest.approx(scrap_in)
    assert scaled.rolled_g == pytest.approx(1250)
    assert scaled.pieces == 100


def test_scrap_that_is_thrown_makes_no_paste(plain, known):
    cutting = Cutting(scrap_pct=0, scrap_g=500)
    scaled = make_study(replace(plain, cutting=cutting), known).scaled
    assert scaled.scrap_in_g == 0
    assert scaled == make_study(plain, known).scaled


def test_paste_from_the_freezer_by_hand(plain, known):
    """100 pieces of 10 g with a fifth of trim want 1250 g of sheet; a block of 500 g, of which a
    tenth stays on the bench, gives 450 g of it: 800 / 0.9 are mixed."""
    batch = Batch(
        fixed="pieces", pieces=100, piece_g=10, trim_pct=20, loss_pct=10, dust_pct=0, frozen_g=500
    )
    scaled = make_study(replace(plain, batch=batch), known).scaled
    assert scaled.paste_g == pytest.approx(800 / 0.9)
    assert scaled.loss_g == pytest.approx(0.1 * (800 / 0.9 + 500))
    assert scaled.pieces == 100


def test_a_batch_all_from_the_freezer_mixes_nothing(plain, known):
    batch = Batch(fixed="pieces", pieces=100, piece_g=10, trim_pct=20, loss_pct=0, frozen_g=2000)
    study = make_study(replace(plain, batch=batch), known)
    assert study.scaled.paste_g == 0
    assert study.scaled.blocks == 0
    assert study.scaled.pieces == 160
    assert all(line.weigh_g == 0 for line in study.scaled.lines)
    assert study.enclosing is None
    assert not study.scaled.trouble


def test_a_finished_block_weighs_what_is_rolled(plain, known):
    """By hand: two blocks of 5 kg in all; 2 % stay on the bench, 100 g of dusting half taken up."""
    batch = Batch(fixed="paste", paste_g=5000, blocks=2, shares=4, loss_pct=2, dust_pct=50)
    dusted = replace(plain, batch=batch, dusting=(Line("plain_flour", 100),))
    scaled = make_study(dusted, known).scaled
    dust = 50 * scaled.factor
    assert scaled.finished_g == pytest.approx((5000 * 0.98 + dust) / 2)
    assert 2 * scaled.finished_g == pytest.approx(scaled.rolled_g)
