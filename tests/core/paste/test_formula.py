"""The formula as a value: grams and percent drive each other, nothing unusable gets in."""

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.core.base.errors import AmountError, FormulaError
from aplomb.core.paste.checking import check
from aplomb.core.paste.formula import (
    Batch,
    Formula,
    Part,
    flour_grams,
    scaled,
    with_grams,
    with_percent,
)
from aplomb.core.paste.line import Line


def test_percent_drives_grams(plain, pantry):
    changed = with_percent(plain, pantry, Part.DOUGH, 1, 55, "55")
    assert changed.dough[1].grams == pytest.approx(550)
    assert changed.dough[0].grams == 1000
    changed = with_percent(plain, pantry, Part.BLOCK, 0, 75, "75")
    assert changed.block[0].grams == pytest.approx(750)
    assert plain.block[0].grams == 1000, "the old value stays as it was"


def test_one_flour_gives_way_to_another(plain, pantry):
    """Hand calculation: 900 plain, 100 spelt; spelt to 40 % of 1000 leaves 600 plain."""
    two = plain.with_lines(
        Part.DOUGH, (Line("plain_flour", 900), Line("spelt_flour", 100), *plain.dough[1:])
    )
    changed = with_percent(two, pantry, Part.DOUGH, 1, 40, "40")
    assert [line.grams for line in changed.dough[:2]] == pytest.approx([600, 400])
    assert flour_grams(changed, pantry) == pytest.approx(1000)


def test_flour_in_the_block_counts_and_gives_way(plain, pantry):
    floured = plain.with_lines(Part.BLOCK, (*plain.block, Line("plain_flour", 250)))
    assert flour_grams(floured, pantry) == 1250
    changed = with_percent(floured, pantry, Part.BLOCK, 1, 10, "10")
    assert changed.block[1].grams == pytest.approx(125)
    assert changed.dough[0].grams == pytest.approx(1125)


def test_percentages_that_cannot_be(plain, pantry):
    with pytest.raises(AmountError, match="only flour"):
        with_percent(plain, pantry, Part.DOUGH, 0, 90, "90")
    assert with_percent(plain, pantry, Part.DOUGH, 0, 100, "100") is plain
    with pytest.raises(AmountError, match="at most"):
        with_percent(plain, pantry, Part.DOUGH, 0, 130, "130")
    bare = replace(plain, dough=(Line("water", 100),))
    with pytest.raises(AmountError, match="no flour yet"):
        with_percent(bare, pantry, Part.DOUGH, 0, 50, "50")


@given(st.floats(0.01, 500), st.floats(0.01, 5000))
def test_percent_there_and_back(percent, flour):
    from aplomb.assets.shipped import reference

    pantry = reference().pantry
    formula = Formula("x", dough=(Line("plain_flour", flour), Line("water", 1)))
    changed = with_percent(formula, pantry, Part.DOUGH, 1, percent, "")
    assert 100 * changed.dough[1].grams / flour == pytest.approx(percent)


def test_scaling_keeps_every_ratio(plain):
    twice = scaled(plain, 2)
    assert [n.grams for n in twice.dough] == [2000, 1000, 40]
    assert twice.block[0].grams == 2000


def test_with_grams_remembers_how_it_was_written(plain):
    changed = with_grams(plain, Part.DOUGH, 1, 473.2, "2 cup")
    assert changed.dough[1] == Line("water", 473.2, typed="2 cup")
    assert with_grams(changed, Part.DOUGH, 1, 500).dough[1].typed == ""


def test_all_that_is_wrong_is_listed_at_once(pantry):
    wrong = Formula(
        name=" ",
        dough=(Line("plain_flour", float("nan")), Line("nothing", -5), Line("water", 1e9)),
        turn_line="envelope 9",
        sheet_mm=0,
        roll_width_mm=1,
        batch=Batch(pieces=0, trim_pct=100, division_g=0, piece_g=float("inf")),
        dough_c=99,
    )
    with pytest.raises(FormulaError) as caught:
        check(wrong, pantry)
    text = str(caught.value)
    for place in (
        "name:",
        "dough line 1 (plain_flour): nan",
        "dough line 2 (nothing): -5",
        "pantry has no “nothing”",
        "dough line 3 (water): 1000000000",
        "turn_line:",
        "sheet_mm: 0",
        "roll_width_mm: 1",
        "batch.pieces: 0",
        "batch.trim_pct: 100",
        "batch.division_g: 0",
        "batch.piece_g: inf",
        "dough_c: 99",
    ):
        assert place in text, place


def test_too_many_lines_are_refused(plain):
    many = replace(plain, dough=tuple(Line("water", 1) for _ in range(500)))
    with pytest.raises(FormulaError, match="too many"):
        check(many)


def test_the_demo_formulas_are_sound_and_distinct(demo, pantry):
    assert len(demo) >= 4
    for formula in demo:
        assert check(formula, pantry) is formula
        assert msgspec.json.decode(msgspec.json.encode(formula), type=Formula) == formula
    assert {formula.school for formula in demo} == {
        "classic", "rough", "gluten_free", "portions", "coil",
    }  # fmt: skip
