"""What a sheet reached, as it is typed: in the unit drawn beside it."""

import pytest

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import set_measures
from aplomb.core.bench.acts import Reach
from aplomb.work.bench.log import put_right, read_reached


@pytest.mark.parametrize(
    ("text", "sizes"),
    [
        ("57 20 9", (570, 200, 9)),
        ("570 200 9", (570, 200, 9)),
        ("57 x 20", (570, 200, None)),
        ("57.5", (575, None, None)),
        ("570mm 20cm 9", (570, 200, 9)),
        ("61 19 1cm", (610, 190, 10)),
    ],
)
def test_a_bare_length_is_in_centimetres_or_in_what_the_plan_is_near(text, sizes):
    found = read_reached("A1/turn.1", text, (590.0, 210.0))
    assert (found.length_mm, found.width_mm, found.thickness_mm) == sizes


def test_without_a_plan_it_is_in_centimetres():
    assert read_reached("t", "57 20 9") == Reach("t", 570, 200, 9)


def test_in_inches_all_of_it_is():
    set_measures("oz", "in", "°F")
    try:
        found = read_reached("t", "22 8 3/8", (560.0, 200.0))
    finally:
        set_measures("g", "mm", "°C")
    assert (found.length_mm, found.width_mm) == pytest.approx((558.8, 203.2))
    assert found.thickness_mm == pytest.approx(9.525)


def test_a_word_is_a_word_and_a_correction_goes_by_what_was_noted():
    assert read_reached("t", "lo", (590.0, 210.0)).word == "long"
    noted = Reach("t", 570, 200, 9)
    assert put_right(noted, "58 20 9") == Reach("t", 580, 200, 9)
    with pytest.raises(AplombError):
        read_reached("t", "1 2 3 4")
