"""Sizes as they are typed: of mass, area and thickness any two give the third."""

import pytest
from msgspec.structs import replace

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import rolled_sides, rolled_text, set_measures
from aplomb.core.study.study import make_study
from aplomb.work.edits.sizes import hidden_sizes, read_paste, size_shown, sized


@pytest.fixture
def study(plain, known):
    return make_study(replace(plain, turn_line="thirds 3 3"), known)


@pytest.fixture
def inches():
    set_measures("oz", "in", "°F")
    yield
    set_measures("g", "mm", "°C")


@pytest.mark.parametrize("text", ["27 × 9 cm", "27 x 9", "270 mm × 90 mm", "27cm by 9cm", "27*9"])
def test_the_fat_on_an_area_is_as_thick_as_its_weight_makes_it(study, text):
    """Volume over area: the third of mass, area and thickness."""
    found = sized(study, "fat_block_mm", text)
    fat_ml = study.accounts.block_ml * study.scaled.a_block
    assert found["fat_block_mm"] == pytest.approx(fat_ml * 1000 / (270 * 90), abs=0.05)
    assert (found["fat_length_mm"], found["fat_width_mm"]) == (270, 90)
    made = replace(study.formula, **found)
    assert size_shown(made, "fat_block_mm") == "27×9 cm"


def test_a_thickness_lets_the_area_follow_again(study, known):
    sizes = replace(study.formula, **sized(study, "fat_block_mm", "27 × 9"))
    back = replace(sizes, **sized(make_study(sizes, known), "fat_block_mm", "12"))
    assert (back.fat_length_mm, back.fat_width_mm, back.fat_block_mm) == (0, 0, 12)
    assert size_shown(back, "fat_block_mm") == "12"


def test_a_sheet_that_is_to_fill_a_tray_is_as_thick_as_a_block_makes_it(study):
    """60 × 40 cm of what is left of a block: its volume over 2400 cm²."""
    found = sized(study, "sheet_mm", "60 × 40 cm")
    volume = study.scaled.finished_g / study.accounts.rolled_density_g_ml
    assert found == {"sheet_mm": pytest.approx(volume / 240, abs=0.006)}


def test_a_sheet_to_fill_gives_the_paste(study):
    """Calculation: 60 × 40 cm at the sheet's thickness, by density, over what reaches it."""
    f, density = study.formula, study.accounts.rolled_density_g_ml
    one = 600 * 400 * f.sheet_mm / 1000 * density / study.shrinks
    assert read_paste(study, "60 × 40 cm") == pytest.approx(one, abs=0.1)
    assert read_paste(study, "2 × 60 × 40 cm") == pytest.approx(2 * one, abs=0.1)
    assert read_paste(study, "3 x 60 x 40") == pytest.approx(3 * one, abs=0.1)
    assert read_paste(study, "2.5 kg") == 2500


@pytest.mark.parametrize(
    "text",
    ["2 X 40 × 30", "2 by 40 by 30", "2 Sheets of 40 x 30 cm", "two sheets of 40 × 30", "2*40*30"],
)
def test_sheets_to_fill_are_said_in_many_ways(study, text):
    assert read_paste(study, text) == read_paste(study, "2 × 40 × 30 cm")


@pytest.mark.parametrize("text", ["2 ×", "² × 40 × 30", "0 × 40 × 30", "2 × 3 × 4 × 5", "2 sheets"])
def test_sheets_to_fill_that_cannot_be_are_told(study, text):
    with pytest.raises(AmountError):
        read_paste(study, text)


@pytest.mark.parametrize("text", ["900 × 900 m", "0 × 9", "1 × 1", "27 × × 9", "27 × hello", "-3"])
def test_sizes_that_cannot_be_are_told(study, text):
    with pytest.raises(AmountError):
        sized(study, "fat_block_mm", text)


@pytest.mark.usefixtures("inches")
def test_in_inches_a_size_is_read_and_sheets_are_said_in_quarters(study):
    found = sized(study, "fat_block_mm", "10 × 4")
    assert (found["fat_length_mm"], found["fat_width_mm"]) == pytest.approx((254, 101.6))
    assert rolled_text(25.4 * 8.7) == "8¾ in"
    assert rolled_sides(25.4 * 8.7, 25.4 * 3.1, up=True) == "8¾ × 3¼ in"


def test_sheets_are_said_in_half_centimetres():
    assert rolled_sides(223.0, 178.0) == "22.5 × 18 cm"
    assert rolled_sides(221.0, 1.0, up=True) == "22.5 × 0.5 cm"


def test_what_a_way_of_enclosing_has_no_use_for_is_not_asked(plain, known):
    def hidden(line):
        return set(hidden_sizes(make_study(replace(plain, turn_line=line), known)))

    assert hidden("thirds 3") == {"piece_fat_mm", "gathered_mm"}
    assert hidden("envelope 3") == {"piece_fat_mm", "gathered_mm", "enclose_width_mm"}
    assert hidden("pieces 3") == {"fat_block_mm", "enclose_width_mm"}
    assert "enclose_width_mm" not in hidden("coil")
