"""Losses: as typed, as measured in own batches, or as usual; and what a batch gives with them."""

import pytest
from msgspec.structs import replace

from aplomb.core.base.errors import FormulaError
from aplomb.core.batch.losses import USUAL, losses_of, measured, shares
from aplomb.core.batch.made_batch import MadeBatch, Outcome, WeighedLine, check_made_batch
from aplomb.core.batch.scale import raw_pieces
from aplomb.core.paste.formula import Batch, Part
from aplomb.core.paste.line import Line
from aplomb.core.paste.product import Product
from aplomb.core.study.study import make_study

ONE = Outcome(
    mixed_g=5000,
    dust_used_g=100,
    dust_left_g=60,
    rolled_g=4940,
    cut_g=4446,
    baked_g=3824,
    pieces=100,
    broken=3,
)


def made_batch(key, outcome, uid="u", formula="Plain"):
    return MadeBatch(key, formula, uid, "2026-10-01", outcome=outcome)


def test_shares_of_a_batch_by_hand():
    """5000 + 40 of dust - 4940 = 100 lost, 2 %; 40 of 100 taken up; 494 of 4940 trimmed, 10 %;
    622 of 4446 lost in the oven, 14 %; 3 of 100 broken."""
    found = shares(ONE)
    each = {kind: round(100 * lost / base, 2) for kind, (lost, base) in found.items()}
    assert each == {"loss": 2, "dust": 40, "trim": 10, "bake": 13.99, "broken": 3}


def test_own_batches_take_the_place_of_what_is_usual():
    """By hand: 100 of 5000 and 50 of 1000 lost: 150 of 6000 = 2.5 %, apart by 2 and 5 %."""
    two = (made_batch("a", ONE), made_batch("b", Outcome(mixed_g=1000, rolled_g=950)))
    loss = measured("loss", two, "u")
    assert (loss.value, loss.batches, loss.standing) == (pytest.approx(2.5), 2, "own")
    assert loss.spread == pytest.approx(3 / 2**0.5)
    assert measured("bake", two, "u").batches == 1
    assert measured("bake", (), "u") is None
    found = losses_of(Batch(trim_pct=8), two, "u")
    assert (found.trim.value, found.trim.typed) == (8, True)
    assert found.loss == loss
    assert losses_of(Batch(), ()).bake.value == USUAL["bake"].value


def test_a_formulas_own_batches_come_before_the_books():
    others = made_batch("o", Outcome(mixed_g=1000, rolled_g=900), "v")
    assert measured("loss", (others,), "u").value == pytest.approx(10)
    assert measured("loss", (others, made_batch("a", ONE)), "u").value == pytest.approx(2)


def test_measured_batches_stay_when_the_formula_is_renamed(plain, known):
    """They hang on its identity: the name may change, and another may take it over."""
    others = made_batch("o", Outcome(mixed_g=1000, rolled_g=900), "v", formula="Renamed")
    own = made_batch("a", ONE, "u")
    book = replace(known, made_batches=(others, own), uid="u")
    for name in ("Plain", "Renamed"):
        loss = make_study(replace(plain, name=name), book).scaled.losses.loss
        assert (loss.value, loss.batches) == (pytest.approx(2), 1)
    other = make_study(replace(plain, name="Plain"), book.of("v")).scaled.losses.loss
    assert other.value == pytest.approx(10)


def test_what_cannot_be_is_not_learnt_from():
    assert shares(Outcome(mixed_g=1000, rolled_g=1200)) == {}
    assert shares(Outcome()) == {}


@pytest.mark.parametrize(
    ("outcome", "says"),
    [
        (Outcome(cut_g=100, baked_g=120), "more baked than raw"),
        (Outcome(pieces=5, broken=6), "more pieces broken"),
        (Outcome(rolled_g=1000, cut_g=1200), "pieces weigh more"),
        (Outcome(mixed_g=-1), "mixed"),
        (Outcome(mixed_g=float("nan")), "nan"),
    ],
)
def test_an_outcome_that_cannot_be_is_refused(outcome, says):
    with pytest.raises(FormulaError, match=says):
        check_made_batch(made_batch("a", outcome))


def test_weighing_a_line_again_takes_its_place():
    one = made_batch("a", Outcome()).weighed(WeighedLine("dough", "salt", 20, 21))
    two = one.weighed(WeighedLine("dough", "salt", 20, 20)).weighed(WeighedLine("block", "b", 1, 1))
    assert [(n.material, n.got_g) for n in two.lines] == [("salt", 20), ("b", 1)]


def test_what_breaks_is_cut_besides():
    assert raw_pieces(60, 0) == 60
    assert raw_pieces(60, 3) == 62
    assert raw_pieces(97, 3) == 100


def test_records_reach_the_batch(plain, known):
    """By hand: 60 good at 3 % broken: 62 cut of 40 g; ÷ 0.9 ÷ 0.98 mixed, and no dusting."""
    target = Batch(fixed="pieces", pieces=60, piece_g=40)
    formula = replace(plain, batch=target)
    scaled = make_study(formula, replace(known, made_batches=(made_batch("a", ONE),))).scaled
    assert scaled.pieces == 62
    assert scaled.good == 60
    assert scaled.paste_g == pytest.approx(62 * 40 / 0.9 / 0.98)
    assert scaled.baked_g == pytest.approx(62 * 40 * 3824 / 4446)


def test_dusting_taken_up_is_part_of_the_paste(plain, known):
    """By hand: 5000 g mixed, 2 % lost, 60 g a kilogram of flour dusted and half taken up."""
    dusted = plain.with_lines(Part.DUSTING, (Line("plain_flour", 60),))
    batch = Batch(fixed="paste", paste_g=2520, loss_pct=2, trim_pct=0, dust_pct=50, piece_g=50)
    scaled = make_study(replace(dusted, batch=batch), known).scaled
    assert scaled.dust_g == pytest.approx(30)
    assert scaled.rolled_g == pytest.approx(2520 * 0.98 + 30)


def test_trims_while_folding_are_taken_off_the_batch(plain, known):
    batch = Batch(fixed="pieces", pieces=60, piece_g=40, trim_pct=10, loss_pct=0)
    bare = make_study(replace(plain, batch=batch), known)
    trimmed = make_study(replace(plain, batch=batch, turn_line="envelope t10 3 4 / 3 4"), known)
    assert trimmed.scaled.pieces == bare.scaled.pieces == 60
    assert trimmed.scaled.folded_g == pytest.approx(trimmed.trimmed_g, rel=1e-4)
    assert trimmed.scaled.paste_g - trimmed.scaled.folded_g == pytest.approx(bare.scaled.paste_g)


def test_several_products_share_a_batch(plain, known):
    """By hand: 100 × 100 × 3 mm = 30 mL, 50 × 100 × 2 mm = 10 mL; 10 and 30 of them are 600 mL.
    What is mixed is what their sheets weigh, and the trim is what these leave."""
    made = (
        Product("square", wanted=10),
        Product("thin", length_mm=50, sheet_mm=2.0, wanted=30, topping=(Line("salt", 0.5),)),
        Product("none today"),
    )
    batch = Batch(fixed="pieces", trim_pct=20, loss_pct=0)
    study = make_study(replace(plain, products=made, batch=batch), known)
    scaled, density = study.scaled, study.accounts.density_g_ml
    assert scaled.paste_g == pytest.approx(study.cut.sheets_g)
    assert scaled.paste_g - scaled.trim_g == pytest.approx(600 * density)
    assert [(m.name, m.pieces) for m in scaled.made] == [("square", 10), ("thin", 30)]
    salt = [w for w in scaled.lines if w.product == "thin"]
    assert [w.exact_g for w in salt] == [pytest.approx(15)]
    assert scaled.piece_g == pytest.approx(600 * density / 40)
    half = replace(batch, fixed="paste", paste_g=scaled.paste_g / 2)
    there = make_study(replace(plain, products=made, batch=half), known).scaled
    square, thin = (m.pieces for m in there.made)  # smaller sheets have more edge
    assert 4 <= square <= 5
    assert 14 <= thin <= 15


def test_scrap_that_was_rolled_with_it_is_not_taken_for_a_gain():
    """5000 mixed and 1000 of scrap with it, 5880 on the sheets: 2 % lost by hand."""
    outcome = Outcome(mixed_g=5000, joined_g=1000, rolled_g=5880)
    check_made_batch(made_batch("s", outcome))
    lost, whole = shares(outcome)["loss"]
    assert (lost, whole) == (120, 6000)
    with pytest.raises(FormulaError, match="scrap that was added."):
        check_made_batch(made_batch("s", Outcome(mixed_g=5000, rolled_g=5880)))
