"""Lists of ingredients as people write them. Expected values: by hand, from the units."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.assets import reference
from aplomb.core.list_reading import MOST_LINES, flour_of, match, read_list, understood
from aplomb.core.paste.formula import Part

US_CUP = 236.5882365


def one(line, pantry, **how):
    (found,) = read_list(line, pantry, **how)
    return found


@pytest.mark.parametrize(
    ("line", "material", "grams"),
    [
        ("250 g plain flour", "plain_flour", 250),
        ("plain flour: 250g", "plain_flour", 250),
        ("Plain flour\t250\tg", "plain_flour", 250),
        ("• 250g of plain flour", "plain_flour", 250),
        ("3) 250 g plain flour (sifted)", "plain_flour", 250),
        ("plain flour — 250 g", "plain_flour", 250),
        ("plain flour | 250 g", "plain_flour", 250),
        ("butter, 250 g, cold", "butter", 250),
        ("3 sticks of cold unsalted butter, cut into cubes", "butter", 340.194),
        ("½ cup ice water", "water", US_CUP / 2 * 0.99970),
        ("1 lb 2 oz strong bread flour", "strong_flour", 510.291),
        ("225g/8oz strong flour", "strong_flour", 225),
        ("100-120 ml cold water", "water", 110 * 0.99970),
        ("2 1/4 cups (280 g) all-purpose flour, sifted", "plain_flour", 280),
        ("1 tsp salt", "salt", US_CUP / 48 * 1.22),
        ("2 x 250 g lard", "lard", 500),
    ],
)
def test_usual_ways_of_writing_are_read_and_are_certain(line, material, grams, pantry):
    found = one(line, pantry)
    assert found.candidates[0] == material
    assert understood(found, pantry[material], None).grams == pytest.approx(grams, rel=2e-3)
    assert found.doubts == ()


@pytest.mark.parametrize(
    ("line", "doubt"),
    [
        ("250 g flour", "could be"),
        ("200 ml milk", "could be"),
        ("250 plain flour", "no unit"),
        ("2 eggs", "about 50 g each"),
        ("a pinch of salt", "no amount"),
        ("1 kg moon dust", "pantry has no “moon dust”"),
        ("1 lb (500 g) salted butter", "10 % apart"),
        ("3 cm butter", "length"),
        ("1 cup ground pepper", "pantry has no"),
    ],
)
def test_what_is_not_certain_says_so(line, doubt, pantry):
    assert any(doubt in words for words in one(line, pantry).doubts)


def test_headings_and_hints_say_the_part(pantry):
    text = """For the dough:
250 g plain flour
130 g water
Butter block:
250 g unsalted butter
20 g plain flour

For the glaze
1 egg yolk
For dusting:
20 g rice flour
Filling:
30 g apricot jam"""
    assert [p.part for p in read_list(text, pantry)] == [
        Part.DOUGH, Part.DOUGH, Part.BLOCK, Part.BLOCK, Part.FINISH, Part.DUSTING, Part.FILLING,
    ]  # fmt: skip


def test_without_headings_the_heaviest_fat_is_enclosed(pantry):
    text = "250 g plain flour\n25 g lard\n200 g unsalted butter\n30 g flour for dusting\n1 egg wash"
    assert [p.part.value for p in read_list(text, pantry)] == [
        "dough", "dough", "block", "dusting", "finish",
    ]  # fmt: skip


def test_percentages_stand_on_the_flour_of_the_list(pantry):
    percents = read_list("Strong flour 100 %\nWater 52 %\nButter 80 %", pantry)
    assert flour_of(percents, pantry) == 1000
    assert understood(percents[1], pantry["water"], 1000).grams == 520
    weighed = read_list("400 g strong flour\nWater 50 %", pantry)
    assert flour_of(weighed, pantry) == 400
    assert flour_of(read_list("50 g salt", pantry), pantry) is None


def test_the_book_says_which_cup(pantry):
    metric = one("1 cup water", pantry, measures="metric")
    assert understood(metric, pantry["water"], None).grams == pytest.approx(250, rel=1e-3)


def test_decimal_comma(pantry):
    assert one("1,5 kg strong flour", pantry, decimal=",").amount.value == 1500


@given(st.text(max_size=400))
def test_no_text_breaks_it(text):
    for found in read_list(text, reference().pantry):
        assert found.raw.strip()


def test_a_huge_list_ends(pantry):
    assert len(read_list("5 g salt\n" * 5000, pantry)) == MOST_LINES
    assert len(read_list("x" * 1_000_000, pantry)) == 1


def test_match_is_certain_only_for_one(pantry):
    assert match("unsalted butter", pantry) == (match("unsalted butter", pantry)[0], True)
    assert match("flour", pantry)[1] is False
    assert match("", pantry) == ((), False)
    assert match("the of and", pantry) == ((), False)
