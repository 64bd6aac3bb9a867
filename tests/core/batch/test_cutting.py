"""Blanks, layouts and the cut plan, against hand-worked plans and an outside geometry library."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from shapely import Point, Polygon, box
from shapely.affinity import translate

from aplomb.core.base.errors import AplombError, FormulaError
from aplomb.core.batch.blanks import blanks_of, ring_band_mm, slices_a_log
from aplomb.core.batch.cutting import Limits, best_cut, rolled_of, thicknesses
from aplomb.core.batch.layout import apart, group_in, ways_of
from aplomb.core.batch.rows_on_sheet import lay
from aplomb.core.folds.boxes import Box
from aplomb.core.paste.checking import check
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.product import Cutting, Product, points_text, read_points

BENCH = Limits(1800.0, 700.0)
PLAIN = Cutting(edge_mm=10, relax_along_pct=0, relax_across_pct=0)
ARROW = ((0, 0), (60, 0), (90, 40), (60, 80), (0, 80), (30, 40))

products = st.builds(
    Product,
    name=st.just("x"),
    shape=st.sampled_from(["rectangle", "triangle", "round", "case", "strip", "frame", "outline"]),
    length_mm=st.floats(40, 200),
    width_mm=st.floats(40, 200),
    inner_mm=st.floats(5, 19),
    lean=st.floats(0, 1),
    points=st.just(ARROW),
    gap_mm=st.sampled_from([0.0, 3.0]),
    grain=st.sampled_from(["free", "along", "across"]),
    wanted=st.integers(1, 40),
    shrink_along_pct=st.floats(0, 20),
    shrink_across_pct=st.floats(0, 20),
)


def shapes_of(plan):
    """Every piece on the sheet as an outside library's polygon, edges of the sheet not counted."""
    for placed in plan.layout.placed():
        blank = plan.blanks[placed.blank][1]
        if blank.round:
            radius = blank.length_mm / 2
            yield Point(placed.x_mm + radius, placed.y_mm + radius).buffer(radius, 64)
        else:
            corners = blank.outline(turned=placed.turned, flipped=placed.flipped)
            yield translate(Polygon(corners), placed.x_mm, placed.y_mm)


@given(st.lists(products, min_size=1, max_size=4))
@settings(max_examples=30)
def test_no_two_pieces_overlap_and_none_leaves_the_sheet(made):
    """Checked with Shapely (GEOS): areas of intersections, and of the sheet's own rectangle."""
    made = [replace(p, name=f"p{i}") for i, p in enumerate(made)]
    plan = best_cut(made, 3.0, PLAIN, BENCH)
    inner = box(0, 0, plan.sheet.length_mm - 20, plan.sheet.width_mm - 20).buffer(1e-3)
    shapes = list(shapes_of(plan))
    assert len(shapes) == sum(plan.counts())
    for i, one in enumerate(shapes):
        assert inner.contains(one)
        for other in shapes[:i]:
            assert one.intersection(other).area < 0.02
    assert plan.lacking() == (0,) * len(made)
    parts = plan.pieces_mm2 + plan.holes_mm2 + plan.edges_mm2 + plan.between_mm2
    assert parts == pytest.approx(plan.sheet_mm2)


@given(
    st.lists(st.tuples(products, st.sampled_from([0.0, 2.0, 6.0])), min_size=2, max_size=4),
)
@settings(max_examples=25, deadline=None)
def test_between_two_products_lies_the_larger_of_their_gaps(made):
    """Distances by Shapely (GEOS): always, wherever a piece found room."""
    made = [replace(p, name=f"p{i}", gap_mm=gap) for i, (p, gap) in enumerate(made)]
    plan = best_cut(made, 3.0, PLAIN, BENCH)
    placed = list(plan.layout.placed())
    gaps = [plan.blanks[each.blank][1].gap_mm for each in placed]
    shapes = list(shapes_of(plan))
    for i, one in enumerate(shapes):
        for j in range(i):
            least = max(gaps[i], gaps[j])
            if least:
                assert one.distance(shapes[j]) >= least - 2e-2


@given(products)
@settings(max_examples=30)
def test_the_area_of_a_blank_is_that_of_its_outline(product):
    """Polygon areas by Shapely; a disc is π d² / 4."""
    for blank in blanks_of(product):
        if blank.round:
            whole = math.pi * blank.length_mm**2 / 4
        else:
            whole = Polygon(blank.outline(turned=False)).area
            turned = Polygon(blank.outline(turned=True))
            assert turned.bounds == pytest.approx((0, 0, *blank.size(turned=True)), abs=1e-6)
        assert blank.area_mm2 + blank.hole_mm2 == pytest.approx(whole)


def density(shift: str, across: int, rows: int) -> float:
    disc = Product("d", shape="round", length_mm=50, wanted=1)
    blank = blanks_of(disc)[0]
    way = ways_of(blank, "across")[0]
    if shift == "square":
        group = group_in(0, replace(way, round=False), across * rows, 0, 0, across * 50, rows * 50)
        return group.count * blank.area_mm2 / (across * 50 * rows * 50)
    depth = 50 + (rows - 1) * 50 * math.sqrt(3) / 2
    group = group_in(0, way, across * rows, 0, 0, across * 50 + 25, depth)
    assert group.count == across * rows
    return group.count * blank.area_mm2 / ((across * 50) * (rows * 50 * math.sqrt(3) / 2))


def test_packing_densities_of_circles():
    """Square packing π/4 = 0.7854 exactly; hexagonal π/(2√3) = 0.9069 (Lagrange; Conway and
    Sloane, Sphere Packings, Lattices and Groups, chapter 1) a piece, the sheet's borders aside."""
    assert density("square", 12, 12) == pytest.approx(math.pi / 4)
    assert density("staggered", 40, 40) == pytest.approx(math.pi / (2 * math.sqrt(3)))


def test_staggered_rows_by_hand():
    """Discs of 80 in 500 × 480 inside: square 6 × 6 = 36. Staggered rows every 69.28 mm: 6 rows
    (80 + 5 · 69.28 = 426), 6 and 5 in turn (480 + 40 > 500): 33. So square is taken; in 520 rows
    hold 6 each, and 7 rows want 495.7: 36 in the same depth as square's 480 gives 6 rows."""
    blank = blanks_of(Product("d", shape="round", length_mm=80))[0]
    way = ways_of(blank, "across")[0]
    assert group_in(0, way, 100, 0, 0, 500, 480).count == 36
    assert group_in(0, way, 100, 0, 0, 520, 496).count == 42
    assert group_in(0, way, 36, 0, 0, 520, 496).depth_mm == pytest.approx(80 + 5 * 69.282, abs=0.01)


def test_a_guillotine_plan_by_hand():
    """24 squares of 120 on one sheet: 6 × 4 = 720 × 480, with edges of 10 on 740 × 500; yield
    24 · 120² / (740 · 500) = 93.4 %."""
    made = [Product("turnover", length_mm=120, width_mm=120, wanted=24)]
    plan = best_cut(made, 3.5, PLAIN, BENCH)
    assert sorted((plan.sheet.length_mm, plan.sheet.width_mm)) == pytest.approx([500, 740])
    assert plan.yield_pct == pytest.approx(100 * 24 * 120**2 / (740 * 500))
    assert plan.edges_mm2 == pytest.approx(740 * 500 - 720 * 480)
    assert plan.between_mm2 == pytest.approx(0, abs=1e-6)


def test_what_a_row_leaves_free_takes_the_smaller_ones():
    """By hand: five of 200 × 100 in rows of 400 leave 200 × 100 free, which holds four of 50 × 100;
    so all lie in three rows, 300 deep."""
    made = [
        Product("slab", length_mm=200, width_mm=100, wanted=5, grain="across"),
        Product("finger", length_mm=100, width_mm=50, wanted=4, grain="along"),
    ]
    flat = [blank for p in made for blank in blanks_of(p)]
    layout = lay(flat, [5, 4], "across", 400.0)
    assert layout.v_mm == pytest.approx(300)
    assert layout.missing == (0, 0)


def test_triangles_both_ways_by_hand():
    """Head to tail, each next one advances half a base: 9 in (9 + 1)/2 · 100 = 500 mm; right-angled
    ones pair to rectangles: 10 in 500 mm."""
    tip = blanks_of(Product("t", shape="triangle", length_mm=100, width_mm=80))[0]
    way = ways_of(tip, "along")[0]
    assert way.flips
    assert way.in_room(500) == 9
    assert way.span(9) == pytest.approx(500, abs=0.001)
    right = blanks_of(Product("t", shape="triangle", length_mm=100, width_mm=80, lean=0))[0]
    assert ways_of(right, "along")[0].in_room(500) == 10


def test_outlines_slide_into_one_another():
    """By hand: an arrow's tip of 30 goes into the next one's notch of 30, so it advances 60."""
    assert apart(ARROW, ARROW) == pytest.approx(60, abs=1e-3)
    blank = blanks_of(Product("arrow", shape="outline", points=ARROW))[0]
    assert ways_of(blank, "along")[0].in_room(90 + 9 * 60) == 10


def test_a_ring_lining_is_a_disc_and_a_band():
    """Band π · 200 + 15 = 643.3 mm."""
    assert ring_band_mm(200, 15) == pytest.approx(643.3185, abs=1e-4)
    disc, band = blanks_of(Product("t", shape="lining", length_mm=200, width_mm=40, inner_mm=15))
    assert (disc.round, band.length_mm, band.width_mm) == (True, pytest.approx(643.3185), 40)


def test_a_case_takes_two_discs_and_its_lid_is_not_lost():
    """By hand: base and ring of 75 mm: 2 π 75²/4; without a lid the hole of 45 mm is scrap."""
    case = Product("case", shape="case", length_mm=75, inner_mm=45, wanted=10)
    (both,) = blanks_of(case)
    assert both.a_piece * both.area_mm2 == pytest.approx(2 * math.pi * 75**2 / 4)
    (bare,) = blanks_of(replace(case, inside_used=False))
    area = 2 * math.pi * 75**2 / 4 - math.pi * 45**2 / 4
    assert bare.a_piece * bare.area_mm2 == pytest.approx(area)


def test_slices_of_a_log():
    log = Product("coil", shape="slice", length_mm=300, width_mm=400, inner_mm=12, wanted=66)
    assert slices_a_log(log) == 33
    plan = best_cut([log], 2.0, PLAIN, BENCH)
    assert plan.counts() == [2]
    assert plan.pieces() == (66,)


def test_pieces_are_cut_larger_by_what_the_oven_shrinks():
    """By hand: 100 wanted, 10 % lost along and 5 % across: 111.1 × 105.3; turned the other way."""
    blank = blanks_of(Product("x", shrink_along_pct=10, shrink_across_pct=5))[0]
    assert (blank.length_mm, blank.width_mm) == pytest.approx((100 / 0.9, 100 / 0.95))
    assert blank.size(turned=True) == pytest.approx((100 / 0.9, 100 / 0.95))
    long = blanks_of(Product("x", length_mm=200, shrink_along_pct=10))[0]
    assert long.size(turned=True) == pytest.approx((100 / 0.9, 200))


def test_a_sheet_is_rolled_larger_and_thinner_than_it_is_cut():
    sheet = Box(800, 500, 3.0)
    rolled = rolled_of(sheet, Cutting(relax_along_pct=10, relax_across_pct=4))
    assert (rolled.length_mm, rolled.width_mm) == pytest.approx((800 / 0.9, 500 / 0.96))
    assert rolled.volume_ml == pytest.approx(sheet.volume_ml)


@given(st.integers(1, 60), st.integers(40, 160), st.integers(40, 160))
@settings(max_examples=40)
def test_the_search_is_as_good_as_trying_every_width(pieces, length, width):
    """Against brute force over all rows × columns of one rectangle, both ways round."""
    made = [Product("x", length_mm=length, width_mm=width, wanted=pieces)]
    plan = best_cut(made, 3.0, replace(PLAIN, edge_mm=0), BENCH, blocks=1)
    best = math.inf
    for long, wide in ((length, width), (width, length)):
        for across in range(1, int(700 // wide) + 1):
            rows = math.ceil(pieces / across)
            if rows * long <= 1800:
                sides = rows * long, across * wide
                if max(sides) / min(sides) <= 6:
                    best = min(best, sides[0] * sides[1])
    if best < math.inf:
        assert plan.sheets == 1
        assert plan.sheet_mm2 <= best * 1.02  # a slender sheet counts a little more


def test_more_blocks_when_one_is_too_large():
    made = [Product("x", length_mm=120, width_mm=120, wanted=48)]
    plan = best_cut(made, 3.5, PLAIN, Limits(1800, 700, 1500))
    assert plan.blocks == 2
    assert plan.sheet.volume_ml <= 1500
    fixed = best_cut(made, 3.5, PLAIN, BENCH, blocks=4)
    assert (fixed.blocks, fixed.counts()) == (4, [12])


def test_products_of_two_thicknesses_are_cut_from_sheets_of_their_own():
    made = [Product("a", wanted=4), Product("b", wanted=6, sheet_mm=2.0), Product("c")]
    assert thicknesses(made, 3.0) == [3.0, 2.0]
    plan = best_cut(made, 3.0, PLAIN, BENCH, thickness_mm=2.0)
    assert (plan.products, plan.sheet.height_mm) == ((1,), 2.0)


def test_a_given_sheet_takes_what_fits():
    """By hand: 420 × 320 with edges of 10 holds 4 × 3 of 100 × 100, 400 × 320 only 3 × 3."""
    made = [Product("x", wanted=10)]
    plan = best_cut(made, 3.0, replace(PLAIN, length_mm=420, width_mm=320), BENCH)
    assert (plan.counts(), plan.lacking()) == ([10], (0,))
    less = replace(PLAIN, length_mm=400, width_mm=320)
    small = best_cut(made, 3.0, less, BENCH, 1)
    assert (small.counts(), small.lacking()) == ([9], (1,))
    enough = best_cut(made, 3.0, less, BENCH)
    assert (enough.sheets, enough.blocks, enough.pieces()) == (2, 2, (10,))


@pytest.mark.parametrize(
    ("made", "says"),
    [
        ([], "No pieces"),
        ([Product("x", wanted=0)], "No pieces"),
        ([Product("slab", length_mm=3000, wanted=1)], "“slab” is cut at 3000 × 100 mm"),
        ([Product("band", length_mm=1500, width_mm=750, grain="along", wanted=1)], "largest sheet"),
    ],
)
def test_what_cannot_be_cut_says_why(made, says):
    with pytest.raises(AplombError, match=says):
        best_cut(made, 3.0, PLAIN, BENCH)


def test_a_sheet_that_is_all_edge_is_refused():
    with pytest.raises(AplombError, match="a sheet"):
        best_cut([Product("x", wanted=1)], 3, replace(PLAIN, length_mm=20, width_mm=20), BENCH)


def test_a_million_pieces_are_planned_on_many_blocks():
    plan = best_cut([Product("x", wanted=1_000_000)], 3.0, PLAIN, Limits(1800, 700, 4000))
    assert plan.pieces()[0] >= 1_000_000
    assert plan.sheets * plan.counts()[0] >= 1_000_000


@pytest.mark.parametrize(
    ("product", "says"),
    [
        (Product("x", shape="outline", points=((0, 0), (9, 9), (9, 0), (0, 9))), "crosses"),
        (Product("x", shape="outline", points=((0, 0), (9, 9))), "3 to 200 corners"),
        (Product("x", shape="outline", points=((0, 0), (9, 0), (18, 0))), "crosses|nothing"),
        (Product("x", shape="case", length_mm=50, inner_mm=60), "leaves no ring; make it smaller."),
        (Product("x", shape="frame", inner_mm=50), "leaves no opening"),
        (Product("x", length_mm=math.nan), "length: nan"),
        (Product("x", width_mm=-3), "width: -3"),
        (Product("x", wanted=10**7), "ordered"),
        (Product(" "), "name"),
    ],
)
def test_a_product_that_cannot_be_is_refused(product, says):
    with pytest.raises(FormulaError, match=says):
        check(Formula("f", products=(product,)))


def test_two_products_of_one_name_are_refused():
    with pytest.raises(FormulaError, match="another of that name"):
        check(Formula("f", products=(Product("x"), Product("x"))))


def test_outlines_are_read_and_written():
    assert read_points("0 0; 120 0;60 90;0 0") == ((0, 0), (120, 0), (60, 90))
    assert read_points("0,5 0; 120 0; 60 90", ",") == ((0.5, 0), (120, 0), (60, 90))
    assert read_points(points_text(ARROW)) == ARROW
    with pytest.raises(AplombError, match="two numbers per corner") as error:
        read_points("0 0; 12; 3 4")
    assert (error.value.start, error.value.end) == (4, 7)


@given(st.lists(products, min_size=1, max_size=4))
@settings(max_examples=40)
def test_a_sheet_that_was_found_can_be_given_and_holds_the_same(made):
    """What is taken into the batch must not lose a piece when it is laid again."""
    found = best_cut(made, 3.0, PLAIN, BENCH)
    kept = replace(
        PLAIN,
        length_mm=found.sheet.length_mm,
        width_mm=found.sheet.width_mm,
        rows=found.layout.rows,
        sheets_a_block=found.sheets // found.blocks,
    )
    again = best_cut(made, 3.0, kept, BENCH, found.blocks)
    assert again.sheets == found.sheets
    assert not any(again.lacking())


def test_blocks_that_are_too_few_are_told():
    many = [Product("tile", length_mm=100, width_mm=100, wanted=5000)]
    with pytest.raises(AplombError, match="do not fit on sheets from 1 block"):
        best_cut(many, 3.0, PLAIN, Limits(600, 400, 1500), 1)
    with pytest.raises(AplombError, match="no sheet that this bench and block allow"):
        best_cut(
            [Product("tile", length_mm=100, width_mm=100, wanted=3)],
            50.0,
            PLAIN,
            Limits(600, 400, 400),
        )


def test_a_sheet_that_is_all_edge_is_told():
    cutting = replace(PLAIN, length_mm=30, width_mm=20, edge_mm=10)
    with pytest.raises(AplombError, match="is left"):
        best_cut([Product("tile", wanted=3)], 3.0, cutting, BENCH)


def test_sheets_a_block_that_are_set_are_kept():
    cutting = replace(PLAIN, sheets_a_block=4)
    plan = best_cut([Product("tile", length_mm=100, width_mm=100, wanted=40)], 3.0, cutting, BENCH)
    assert plan.sheets == 4 * plan.blocks
    assert plan.counts() == [10]
