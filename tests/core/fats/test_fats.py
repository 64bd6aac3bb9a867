"""Solid fat, blends, firmness by cone."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.core.fats.cone import CONE_K, classed, yield_value
from aplomb.core.fats.solid import blended, feel_at, plastic_range, solid_at, temp_at
from aplomb.core.paste.fat_profile import profile
from aplomb.core.paste.ingredient import Share
from aplomb.core.paste.pantry import blend

BUTTER = ((10, 52), (15, 38), (20, 20), (25, 12), (30, 5), (35, 0))
LARD = ((10, 30), (15, 26), (20, 20), (25, 12), (30, 4), (35, 1))


def test_solid_fat_between_and_beyond_the_points():
    """Hand calculation on the recalled table of butter."""
    assert solid_at(BUTTER, 15) == 38
    assert solid_at(BUTTER, 12.5) == pytest.approx(45)
    assert solid_at(BUTTER, 2) == 52  # at least so much
    assert solid_at(BUTTER, 60) == 0
    with pytest.raises(AplombError, match="is not known"):
        solid_at((), 10)


def test_the_plastic_range_of_butter_by_hand():
    """40 %: 10 + 5 × 12/14 = 14.29 °C; 20 % at 20 °C."""
    found = plastic_range(BUTTER)
    assert found.low == pytest.approx(10 + 60 / 14)
    assert found.high == 20
    assert plastic_range(LARD).low is None  # never as hard as 40 % in its table
    assert [feel_at(BUTTER, t) for t in (12, 17, 22)] == ["brittle", "plastic", "smearing"]


@given(st.floats(0, 52))
def test_solid_fat_and_temperature_undo_each_other(solid):
    temp = temp_at(BUTTER, solid)
    assert solid_at(BUTTER, temp) == pytest.approx(solid, abs=1e-9)


def test_a_blend_of_one_is_that_one_and_halves_lie_between():
    """Its end members bound a blend; half and half at 15 °C by hand: (38 + 26) / 2."""
    assert blended([(500, BUTTER)]) == BUTTER
    assert blended([(500, BUTTER), (0, LARD)]) == BUTTER
    half = blended([(500, BUTTER), (500, LARD)])
    assert dict(half)[15] == 32
    for temp, solid in half:
        ends = sorted((solid_at(BUTTER, temp), solid_at(LARD, temp)))
        assert ends[0] <= solid <= ends[1]
    assert blended([(1, BUTTER), (1, ())]) == ()


def test_shares_count_as_pure_fat(pantry):
    """100 g butter brings 82 g fat, 82 g shortening 82 g: half and half."""
    found = profile([(100, pantry["butter"]), (82, pantry["shortening"])])
    assert [share for share, _ in found.parts] == pytest.approx([0.5, 0.5])
    assert found.enclose_c == pytest.approx((14, 20))
    assert found.is_blend
    assert profile([(100, pantry["butter"]), (50, pantry["butter_salted"])]).is_blend is False
    assert profile([(100, pantry["rapeseed_oil"])]).enclose_c is None
    assert profile([]) is None


def test_a_blend_as_a_material_by_hand(pantry):
    half = (Share("butter", 0.5), Share("lard", 0.5))
    made = blend("Half lard", "half_lard", half, pantry)
    assert made.composition.fat == pytest.approx((0.82 + 0.997) / 2)
    assert made.composition.water == pytest.approx((0.16 + 0.002) / 2)
    assert made.allergens == ("milk",)
    assert made.group == "fat"
    # fat-weighted: 0.82 and 0.997 of 1.817; butter 12-16, lard 10-18
    assert made.enclose_c == pytest.approx((12 - 2 * 0.997 / 1.817, 16 + 2 * 0.997 / 1.817))


def test_a_blend_costs_what_its_parts_cost(pantry):
    made = blend("Half", "half", (Share("butter", 0.5), Share("lard", 0.5)), pantry)
    from aplomb.core.paste.pantry import Item

    held = pantry.holding([*pantry.items.values(), Item("half", made)])
    both = (held.per_gram("butter") + held.per_gram("lard")) / 2
    assert held.per_gram("half") == pytest.approx(both)
    bare = pantry.holding([Item("half", made)])
    assert bare.per_gram("half") is None


@pytest.mark.parametrize(
    ("shares", "says"),
    [
        ((), "at least one share"),
        ((Share("butter", 0.0),), "at least one share"),
        ((Share("butter", 1.3),), "0 to 100 %, not 130"),
        ((Share("butter", float("nan")),), "0 to 100 %"),
        ((Share("butter", 0.6), Share("lard", 0.6)), "add up to 120 %"),
        ((Share("butter", 0.5), Share("salt", 0.5)), "one kind of ingredient only,"),
        (tuple(Share(k, 0.2) for k in ("butter", "lard", "shortening", "butter_sheet",
                                       "cake_margarine")), "5 is too many"),
        ((Share("own", 1.0),), "made of itself"),
    ],
)  # fmt: skip
def test_blends_that_cannot_be(shares, says, pantry):
    with pytest.raises(AplombError, match=says):
        blend("Own", "own", shares, pantry)


def test_haighton_by_hand():
    """C = K·W/p^1.6: 5840 × 80 g / 100^1.6, p = 10 mm in tenths; 100^1.6 = 1584.893."""
    found = yield_value(10, 80, CONE_K[40])
    assert found == pytest.approx(5840 * 80 / 1584.8932, rel=1e-6)
    assert classed(found) == ("plastic and spreadable", "plastic")
    assert classed(yield_value(30, 80))[1] == "soft"
    assert classed(yield_value(3, 80))[1] == "hard"
    assert yield_value(5, 80) / yield_value(10, 80) == pytest.approx(2**1.6)


@pytest.mark.parametrize(
    ("p", "w", "k"), [(0, 80, 1), (-1, 80, 1), (5, 1, 1), (5, 80, 0), (float("nan"), 80, 1)]
)
def test_the_cone_outside_its_range(p, w, k):
    with pytest.raises(AplombError):
        yield_value(p, w, k)
