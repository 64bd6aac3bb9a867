"""Products of several parts, of other sizes than their ring, pressed larger, and of offcuts."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import reference
from aplomb.core.base.errors import AmountError, AplombError, Problems
from aplomb.core.base.house import House
from aplomb.core.batch.blanks import blanks_of
from aplomb.core.batch.stock import Demand, Want
from aplomb.core.batch.trays import on_trays, pressed_mm, standing_blank
from aplomb.core.kitchen.costs import costs_of
from aplomb.core.kitchen.cut_plan import sheets_of
from aplomb.core.kitchen.demand import plan_day
from aplomb.core.paste.checking import check
from aplomb.core.paste.formula import Batch
from aplomb.core.paste.line import Line
from aplomb.core.paste.product import (
    SHAPES,
    CutPart,
    Product,
    check_product,
    parts_text,
    points_text,
    read_parts,
    read_points,
)
from aplomb.core.paste.reshape import reshaped
from aplomb.core.study.study import make_study

BASE = Product("Tart", length_mm=200, width_mm=100, wanted=10)
STRIPS = CutPart("strips", 200, 10, 4)


@pytest.fixture
def known():
    return reference()


@pytest.fixture
def formula(known, plain):
    return replace(plain, batch=Batch(fixed="pieces", loss_pct=0.0, broken_pct=0.0, trim_pct=20.0))


SIZES = st.floats(0, 5000) | st.floats(0, 30)


@given(st.sampled_from(SHAPES), SIZES, SIZES, SIZES, st.sampled_from(SHAPES))
def test_another_shape_of_a_sound_product_is_sound(shape, length, width, inner, then):
    made = Product("x", shape, length_mm=length, width_mm=width, inner_mm=inner, points=BASE.points)
    wrong = Problems()
    check_product(made, "x", wrong)
    if not wrong.told:
        check_product(reshaped(made, then), "x", wrong)
        assert wrong.told == []


def with_products(formula, *products):
    return replace(formula, products=products)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("4 strips 160 × 20", (CutPart("strips", 160, 20, 4),)),
        ("4 × strips 160x20", (CutPart("strips", 160, 20, 4),)),
        ("lid 90", (CutPart("lid", 90),)),
        ("2 leaves 4 cm x 3 cm; lid 90 mm", (CutPart("leaves", 40, 30, 2), CutPart("lid", 90))),
        ("leaf 4 x 3 cm", (CutPart("leaf", 40, 30),)),
        ("160 × 20", (CutPart("", 160, 20),)),
        ("3 × 160 × 20", (CutPart("", 160, 20, 3),)),
        ("90", (CutPart("", 90),)),
        ("4 cm x 3 cm", (CutPart("", 40, 30),)),
        ("16 x 20", (CutPart("", 16, 20),)),
        ("2 × ⌀ 9 cm", (CutPart("", 90, 0, 2),)),
        ("⌀90", (CutPart("", 90),)),
        ("thin strip 12.5 × 8 ;", (CutPart("thin strip", 12.5, 8),)),
        ("", ()),
    ],
)
def test_parts_are_read(text, expected):
    assert read_parts(text) == expected
    assert read_parts(parts_text(expected)) == expected


@pytest.mark.parametrize(
    "text", ["strips", "4 strips", "lid 0", "lid -5", "a 1×2×3×4", "lid 5 kg", "?"]
)
def test_what_is_no_part_is_pointed_at(text):
    with pytest.raises(AmountError) as told:
        read_parts(f"lid 90; {text}")
    assert told.value.start == 7


def test_parts_in_the_readers_numbers():
    assert read_parts("lid 90,5", ",") == (CutPart("lid", 90.5),)


@given(
    st.lists(
        st.builds(
            CutPart,
            st.sampled_from(["", "lid", "thin strips", "Blätter"]),
            st.integers(1, 50000).map(lambda n: n / 10),
            st.sampled_from([0.0, 20.0, 33.3]),
            st.integers(1, 40),
        ),
        max_size=5,
    )
)
def test_parts_written_are_parts_read(parts):
    assert read_parts(parts_text(tuple(parts))) == tuple(parts)


def test_a_product_of_parts_takes_the_paste_of_all(known, formula):
    """A base of 200 × 100 with four strips of 200 × 10 is 28,000 mm²."""
    plain = make_study(with_products(formula, BASE), known).scaled
    both = make_study(with_products(formula, replace(BASE, parts=(STRIPS,))), known).scaled
    assert both.made[0].paste_g / plain.made[0].paste_g == pytest.approx(28_000 / 20_000)
    assert both.cut_g / plain.cut_g == pytest.approx(1.4)


def test_the_sheet_gives_whole_products(known, formula):
    made = with_products(formula, replace(BASE, parts=(STRIPS, CutPart("lid", 60))))
    plan = sheets_of(make_study(made, known), known.house).plans[0]
    assert [b.what for _, b in plan.blanks] == ["", "strips", "lid"]
    counts = [n * plan.sheets for n in plan.counts()]
    assert all(n >= wanted for n, wanted in zip(counts, (10, 40, 10), strict=True))
    assert plan.lacking() == (0,)


def test_parts_are_cut_larger_by_what_shrinks():
    product = replace(BASE, parts=(STRIPS,), shrink_along_pct=20.0)
    assert blanks_of(product)[1].length_mm == pytest.approx(250)
    assert blanks_of(product)[1].a_piece == 4


def test_a_lining_with_sizes_of_its_own():
    """A disc smaller than the ring stands inside its band; the band hangs over the rim."""
    lining = Product("x", "lining", length_mm=200, width_mm=40, inner_mm=15)
    disc, band = blanks_of(replace(lining, disc_mm=194, band_mm=45))
    assert disc.length_mm == 194
    assert band.width_mm == 45
    assert band.length_mm == pytest.approx(200 * math.pi + 15)  # it lines the ring all the same
    assert blanks_of(lining)[0].length_mm == 200
    assert standing_blank(replace(lining, disc_mm=194)).length_mm == 200


def test_a_log_rolled_from_both_sides_is_two_of_half():
    """Two discs, each of half the sheet: the area stays."""
    one = Product("x", "slice", 300.0, 400.0, 12.0, sheet_mm=3.0)
    two = standing_blank(replace(one, both_sides=True))
    side = 2 * math.sqrt(150 * 3 / math.pi)
    assert (two.length_mm, two.width_mm) == pytest.approx((2 * side, side))
    assert 2 * math.pi * side**2 / 4 == pytest.approx(standing_blank(one).area_mm2)
    assert not two.round
    assert two.turnable


def test_what_is_pressed_larger_takes_its_place_on_the_tray():
    house = House(tray_long_mm=600, tray_wide_mm=400)
    cut = Product("x", "round", 90.0, room_mm=10)
    pressed = replace(cut, pressed_length_mm=180, pressed_width_mm=90)
    assert on_trays(cut, 100, 40, house).a_tray > on_trays(pressed, 100, 40, house).a_tray == 12
    assert standing_blank(replace(cut, pressed_length_mm=150)).round
    assert blanks_of(pressed) == blanks_of(cut)  # the sheet does not know of it


TWIST = Product("Twist", "strip", 120, 20, wanted=20, offcut_g=15.0)


def test_offcuts_make_no_paste(known, formula):
    alone = make_study(with_products(formula, BASE), known).scaled
    beside = make_study(with_products(formula, BASE, TWIST), known).scaled
    assert beside.paste_g == alone.paste_g
    assert beside.made == alone.made
    assert beside.pieces == alone.pieces
    (twists,) = beside.from_offcuts
    there = beside.trim_g + beside.over_g
    assert twists.pieces == min(20, math.floor(there / 15 + 1e-9)) > 0
    assert twists.pieces * 15 <= there + 1e-6


def test_offcuts_are_never_more_than_there_are(known, formula):
    greedy = replace(TWIST, wanted=100_000)
    second = replace(TWIST, name="Crumble", wanted=5)
    made = make_study(with_products(formula, BASE, greedy, second), known).scaled
    first, last = made.from_offcuts
    assert first.pieces == math.floor((made.trim_g + made.over_g) / 15 + 1e-9)
    assert last.pieces == 0


def test_what_is_on_offcuts_is_weighed_and_paid(known, formula):
    twist = replace(TWIST, topping=(Line("sugar", 4.0),))
    study = make_study(with_products(formula, BASE, twist), known)
    (line,) = [n for n in study.scaled.lines if n.product == "Twist"]
    assert line.exact_g == 4 * study.scaled.from_offcuts[0].pieces
    costs = costs_of(study, known.pantry)
    by_name = {each.name: each for each in costs.products}
    assert by_name["Twist"].paste in (0.0, None)
    assert (
        by_name["Tart"].paste
        == costs_of(make_study(with_products(formula, BASE), known), known.pantry).products[0].paste
    )


def test_offcuts_are_not_laid_on_the_sheet(known, formula):
    plan = sheets_of(make_study(with_products(formula, BASE, TWIST), known), known.house).plans[0]
    assert plan.products == (0,)


def test_offcuts_alone_are_no_order(known, formula):
    study = make_study(with_products(formula, BASE, TWIST), known)
    (day,) = plan_day(Demand(wants=(Want("a", "Twist", 5),)), {"a": study}, known)
    assert "order the products the scrap comes from" in day.trouble
    (day,) = plan_day(
        Demand(wants=(Want("a", "Twist", 5), Want("a", "Tart", 4))), {"a": study}, known
    )
    assert not day.trouble
    assert [t.name for t in day.trays] == ["Tart", "Twist"]


@pytest.mark.parametrize(
    ("product", "words"),
    [
        (replace(BASE, parts=(CutPart("4 strips", 10, 10),)), "a part’s name"),
        (replace(BASE, parts=(CutPart("strips", -1, 10),)), "strips, length"),
        (replace(BASE, parts=(CutPart("strips", 10, math.nan),)), "strips, width"),
        (replace(BASE, parts=(CutPart("strips", 10, 10, 0),)), "how many"),
        (replace(BASE, parts=(STRIPS,) * 13), "13 parts"),
        (replace(BASE, offcut_g=-1.0), "product"),
        (replace(BASE, pressed_length_mm=9000.0), "pressed to"),
        (replace(BASE, disc_mm=-4.0), "disc diameter"),
    ],
)
def test_wrong_products_are_refused_in_words(formula, product, words):
    with pytest.raises(AplombError, match=words):
        check(with_products(formula, product))


def test_scale_counts_products_that_break(known, formula):
    """Of pieces that break, more are cut, of offcuts too."""
    breaking = replace(formula, batch=replace(formula.batch, broken_pct=50.0))
    made = make_study(with_products(breaking, BASE, replace(TWIST, wanted=2)), known).scaled
    assert made.from_offcuts[0].pieces == 4
    assert made.from_offcuts[0].good == 2


def test_how_thin_a_piece_is_pressed():
    """Its volume stays: twice the length and the width leave a quarter of the thickness."""
    square = Product("x", "rectangle", length_mm=100, width_mm=100)
    assert pressed_mm(square, 4.0) is None
    assert pressed_mm(replace(square, pressed_length_mm=200), 4.0) == pytest.approx(1.0)
    disc = Product("x", "round", length_mm=100, sheet_mm=3.0, shrink_along_pct=20.0)
    oval = replace(disc, pressed_length_mm=250, pressed_width_mm=125)
    assert pressed_mm(oval, 9.0) == pytest.approx(3.0 * 125**2 / (250 * 125))
    # a log from a sheet of 300 × 3 cut in slices of 10: each is 9,000 mm³, 100 across 1.146 thick
    slice_ = Product("x", "slice", length_mm=300, width_mm=200, inner_mm=10, sheet_mm=3.0)
    pressed = replace(slice_, pressed_length_mm=100)
    assert pressed_mm(pressed, 9.0) == pytest.approx(9000 / (math.pi * 50**2))


def test_corners_in_inches_come_back_as_they_were():
    corners = ((0.0, 0.0), (120.0, 0.0), (60.5, 90.25))
    written = points_text(corners, "in")
    assert written == "0 0; 4.7244 0; 2.3819 3.5531"
    assert read_points(written, ".", "in") == corners
    with pytest.raises(AmountError, match="in in, with “;” between corners"):
        read_points("0 0; 5", ".", "in")
