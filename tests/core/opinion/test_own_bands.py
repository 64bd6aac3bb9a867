"""Own bands: in the place of recalled ones, named as such, and put back."""

import pytest

from aplomb.assets.shipped import reference
from aplomb.core.base.errors import FormulaError
from aplomb.core.opinion.own_bands import OwnBand, OwnBands, check_own_bands, with_own_bands

MINE = OwnBand("classic", "fat_leaf_um", 9.0, 16.0, "from 24 trials", 24, "2026-11-26")


def test_an_own_band_takes_the_place_and_says_where_it_is_from():
    schools = with_own_bands(reference().schools, OwnBands((MINE,)))
    band = schools["classic"].bands["fat_leaf_um"]
    assert (band.low, band.high, band.standing, band.words) == (9, 16, "trials", "from 24 trials")
    assert band.log
    assert schools["rough"] == reference().schools["rough"]
    assert schools["classic"].bands["salt_pct"] == reference().schools["classic"].bands["salt_pct"]


def test_it_is_put_back():
    own = OwnBands().with_band(MINE)
    assert own.of("classic", "fat_leaf_um") == MINE
    back = own.without("classic", "fat_leaf_um")
    assert with_own_bands(reference().schools, back) == reference().schools


def test_one_reading_has_one_band():
    own = OwnBands().with_band(MINE).with_band(OwnBand("classic", "fat_leaf_um", 5, 9, "", 30, ""))
    assert len(own.bands) == 1
    assert own.bands[0].high == 9


def test_a_reading_that_has_no_band_is_passed_over():
    odd = OwnBand("classic", "moon", 1, 2, "", 1, "")
    assert with_own_bands(reference().schools, OwnBands((odd,))) == reference().schools


@pytest.mark.parametrize(
    "band",
    [
        OwnBand("classic", "fat_leaf_um", 9, 9, "", 1, ""),
        OwnBand("classic", "fat_leaf_um", float("nan"), 9, "", 1, ""),
        OwnBand("moon", "fat_leaf_um", 1, 9, "", 1, ""),
    ],
)
def test_bands_that_cannot_be_are_refused(band):
    with pytest.raises(FormulaError):
        check_own_bands(OwnBands((band,)))
