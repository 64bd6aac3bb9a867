"""Trays and ovens by hand: outlines as they stand, what finds room, loads."""

import math

import pytest
from msgspec.structs import replace

from aplomb.core.base.errors import Problems
from aplomb.core.base.house import House
from aplomb.core.batch.trays import fit, on_trays, standing_blank
from aplomb.core.paste.line import Line
from aplomb.core.paste.product import (
    MOST_POINTS,
    Cutting,
    Product,
    check_cutting,
    check_product,
)

HOUSE = replace(House(), tray_long_mm=600.0, tray_wide_mm=400.0, oven_trays=4)


def square(size=100.0, room=25.0, **more):
    return Product("tart", length_mm=size, width_mm=size, room_mm=room, **more)


# Outlines


@pytest.mark.parametrize("shape", ["round", "case", "lining"])
def test_what_is_round_stands_as_wide_as_its_base(shape):
    blank = standing_blank(Product("x", shape, 80.0, 10.0, 5.0))
    assert (blank.length_mm, blank.width_mm, blank.round) == (80, 80, True)
    assert blank.area_mm2 == pytest.approx(math.pi * 40**2)


def test_a_slice_is_a_disc_as_wide_as_its_log():
    """L t = π d² / 4: 300 mm of 3 mm rolled tight are a log of 33.85 mm."""
    blank = standing_blank(Product("x", "slice", 300.0, 400.0, 12.0, sheet_mm=3.0))
    assert blank.length_mm == pytest.approx(33.85, abs=0.01)
    assert blank.area_mm2 == pytest.approx(300 * 3)
    thick = standing_blank(Product("x", "slice", 300.0, 400.0, 12.0, sheet_mm=6.0))
    assert thick.length_mm == pytest.approx(33.85 * math.sqrt(2), abs=0.01)
    unsaid = standing_blank(Product("x", "slice", 300.0, 400.0, 12.0))
    assert unsaid.length_mm == blank.length_mm


def test_an_outline_takes_the_rectangle_round_it():
    points = ((10.0, 5.0), (130.0, 5.0), (70.0, 45.0))
    blank = standing_blank(Product("x", "outline", points=points))
    assert (blank.length_mm, blank.width_mm) == (120, 40)
    assert blank.area_mm2 == 120 * 40
    assert not blank.round
    assert blank.turnable


def test_a_rectangle_stands_as_it_is():
    blank = standing_blank(Product("x", length_mm=120.0, width_mm=40.0))
    assert (blank.length_mm, blank.width_mm) == (120, 40)
    assert blank.gap_mm == 25


# What finds room: rim of half the room, then so many times piece and room


@pytest.mark.parametrize(
    ("size", "room", "count"),
    [
        (100, 25, 4 * 3),  # (600 − 25 + 25) / 125 = 4.8, (400 − 25 + 25) / 125 = 3.2
        (125, 25, 4 * 2),  # 600 / 150 = 4, 400 / 150 = 2.67
        (100, 0, 6 * 4),
        (100, 100, 3 * 2),
        (375, 25, 1),  # 600 / 400 = 1.5, 400 / 400 = 1
        (376, 25, 0),
    ],
)
def test_squares_on_a_tray(size, room, count):
    layout = fit(standing_blank(square(float(size), float(room))), 600, 400)
    assert (layout.groups[0].count if layout else 0) == count


def test_long_pieces_lie_the_way_more_of_them_fit():
    """300 × 60 on 600 × 400: 2 × 6 along, 1 × 10 across."""
    blank = standing_blank(Product("x", length_mm=300.0, width_mm=60.0, room_mm=0.0))
    assert fit(blank, 600, 400).groups[0].count == 12
    assert fit(blank, 400, 600).groups[0].count == 12
    assert fit(blank, 299, 59) is None


def test_rounds_may_stand_in_staggered_rows():
    """100 mm on 600 × 400 without room: 6 × 4 square, or rows 86.6 mm apart with 6 and 5."""
    count = fit(standing_blank(Product("x", "round", 100.0, room_mm=0.0)), 600, 400).groups[0].count
    assert count >= 24


# Trays and loads


@pytest.mark.parametrize(
    ("pieces", "trays", "last"),
    [(1, 1, 1), (11, 1, 11), (12, 1, 12), (13, 2, 1), (96, 8, 12), (100, 9, 4), (0, 0, 0)],
)
def test_trays_and_what_lies_on_the_last(pieces, trays, last):
    found = on_trays(square(), pieces, 50.0, HOUSE)
    assert (found.a_tray, found.trays, found.last) == (12, trays, last)
    assert found.tray_g == 12 * 50


def test_an_own_number_goes_before_what_would_fit():
    own = on_trays(square(a_tray=10), 100, 50.0, HOUSE)
    assert (own.a_tray, own.trays, own.last, own.layout) == (10, 10, 10, None)
    same = on_trays(square(a_tray=12), 100, 50.0, HOUSE)
    assert same.layout is not None
    more = on_trays(square(900.0, a_tray=3), 7, 1.0, HOUSE)
    assert (more.a_tray, more.trays, more.last) == (3, 3, 1)


def test_what_fits_no_tray_takes_none():
    found = on_trays(square(900.0), 7, 1.0, HOUSE)
    assert (found.a_tray, found.trays, found.last) == (0, 0, 0)


# Limits of a product


def told(product):
    wrong = Problems()
    check_product(product, "product 1", wrong)
    return wrong.told


@pytest.mark.parametrize(
    ("name", "good", "bad"),
    [
        ("length_mm", (1, 5000), (0.9, 5001, float("nan"))),
        ("width_mm", (1, 5000), (0.9, 5001)),
        ("lean", (0, 0.5, 1), (-0.01, 1.01)),
        ("sheet_mm", (0, 0.3, 50), (0.29, 50.1, -1)),
        ("shrink_along_pct", (-30, 60), (-30.1, 60.1)),
        ("shrink_across_pct", (-30, 60), (-30.1, 60.1)),
        ("gap_mm", (0, 200), (-0.1, 200.1)),
        ("wanted", (0, 1_000_000), (-1, 1_000_001, 10**400)),
        ("room_mm", (0, 500), (-0.1, 500.1)),
        ("a_tray", (0, 100_000), (-1, 100_001)),
        ("price", (0, 1_000_000), (-0.1, 1_000_001)),
    ],
)
def test_every_limit_of_a_product_at_its_ends(name, good, bad):
    for value in good:
        assert told(replace(Product("x"), **{name: value})) == [], value
    for value in bad:
        found = told(replace(Product("x"), **{name: value}))
        assert len(found) == 1, value
        assert found[0].startswith("product 1")


@pytest.mark.parametrize(
    ("shape", "inner", "refused"),
    [
        ("case", 99.9, ""), ("case", 100.0, "leaves no ring"), ("case", 0.5, "hole"),
        ("frame", 39.9, ""), ("frame", 40.0, "leaves no opening"),
        ("slice", 80.0, ""), ("slice", 80.1, "thicker than the log"),
        ("lining", 0.0, ""), ("lining", -1.0, "overlap"),
        ("rectangle", 999.0, ""),
    ],
)  # fmt: skip
def test_what_one_size_leaves_for_another(shape, inner, refused):
    found = told(Product("x", shape, 100.0, 80.0, inner))
    assert bool(found) == bool(refused), found
    assert all(refused in words for words in found)


@pytest.mark.parametrize(
    ("points", "refused"),
    [
        (((0, 0), (10, 0), (10, 10)), ""),
        (((0, 0), (10, 0)), "3 to 200 corners, not 2"),
        (tuple((i, i * i) for i in range(MOST_POINTS + 1)), "not 201"),
        (((0, 0), (10, 10), (10, 0), (0, 10)), "crosses or touches itself"),
        (((0, 0), (10, 0), (20, 0)), ""),
        (((0, 0), (0.5, 0), (0.5, 0.5)), "encloses nothing"),
        (((0, 0), (5001, 0), (0, 10)), "corner"),
    ],
)
def test_corners_of_an_outline(points, refused):
    found = told(Product("x", "outline", points=tuple((float(x), float(y)) for x, y in points)))
    if points == ((0, 0), (10, 0), (20, 0)):
        assert found, "a line encloses nothing, or touches itself"
    else:
        assert bool(found) == bool(refused), found
        assert all(refused in words for words in found)


@pytest.mark.parametrize("name", ["", "   ", "n" * 81])
def test_a_product_has_a_name(name):
    assert any("name" in words for words in told(Product(name)))
    assert told(Product("n" * 80)) == []


def test_fillings_and_toppings_have_weights():
    for where in ("filling", "topping"):
        bad = told(replace(Product("x"), **{where: (Line("butter", -1),)}))
        assert len(bad) == 1
        assert "butter" in bad[0]


@pytest.mark.parametrize(
    ("name", "good", "bad"),
    [
        ("edge_mm", (0, 200), (-1, 201)),
        ("relax_along_pct", (0, 60), (-1, 61)),
        ("relax_across_pct", (0, 60), (-1, 61)),
        ("length_mm", (0, 20, 20_000), (19, 20_001)),
        ("width_mm", (0, 20, 20_000), (19, 20_001)),
        ("sheets_a_block", (0, 1000), (-1, 1001)),
        ("scrap_pct", (0, 50), (-1, 51)),
        ("scrap_g", (0, 1000), (-1, float("inf"))),
    ],
)
def test_every_limit_of_cutting_at_its_ends(name, good, bad):
    for values, many in ((good, 0), (bad, 1)):
        for value in values:
            wrong = Problems()
            check_cutting(replace(Cutting(), **{name: value}), wrong)
            assert len(wrong.told) == many, (name, value)


def test_a_piece_that_is_folded_over_lies_folded():
    """100 × 100 folded is 100 × 50: 600 × 400 less the rims hold 8 × 3 of them, 25 apart."""
    flat, folded = (on_trays(square(), 40, 50.0, HOUSE, folded=f) for f in (False, True))
    assert (flat.a_tray, folded.a_tray) == (12, 24)
    assert (flat.trays, folded.trays) == (4, 2)
