"""Lists of ingredients as people write them. Expected values: by hand, from the units."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.assets.shipped import reference
from aplomb.core.base.figures import set_measures
from aplomb.core.lists.matching import match
from aplomb.core.lists.proposal import understood
from aplomb.core.lists.reading import MOST_LINES, measures_of, read_list
from aplomb.core.lists.shares import flour_of
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
        ("2 1/4 cups plain flour (280 g)", "plain_flour", 280),
        ("Plain flour (500 g)", "plain_flour", 500),
        ("butter 225g cold, cubed", "butter", 225),
        ("plain flour 2 tbsp plus 1 tsp", "plain_flour", 7 * US_CUP / 48 * 0.53),
        ("1/2 cup plus 2 tbsp water", "water", 10 * US_CUP / 16 * 0.99970),
        ("1 cup minus 1 tbsp cold water", "water", 15 * US_CUP / 16 * 0.99970),
        ("100 g - 120 g water", "water", 110),
        ("between 100 and 120 g water", "water", 110),
        ("plain flour type 55 500 g", "plain_flour", 500),
        ("strong flour W 300 500 g", "strong_flour", 500),
        ("500 g strong flour W300", "strong_flour", 500),
        ("250 g butter, salted", "butter_salted", 250),
        ("butter, salted 250 g", "butter_salted", 250),
        ("20 g egg, dried", "egg_dried", 20),
        ("200 g cream, sour", "soured_cream", 200),
        ("500 g plain flour, plus more for dusting", "plain_flour", 500),
        ("1 EL vinegar", "vinegar_cider", 15 * 1.02),
        ("2 TL Salz", "salt", 10 * 1.22),
        ("2 c. à café salt", "salt", 10 * 1.22),
        ("3 cucharadas agua", "water", 45 * 0.99970),
        ("1 t. salt", "salt", US_CUP / 48 * 1.22),
        ("1 ltr water", "water", 999.7),
        ("one quarter pound butter", "butter", 453.59237 / 4),
        ("a pinch of salt", "salt", 5 / 16 * 1.22),
        ("butter 82 % fat 250 g", "butter", 250),
        ("250 g unsalted butter, cut in 1 cm cubes", "butter", 250),
        ("250 g butter at 16 °C", "butter", 250),
        ("1 packet (250 g) butter", "butter", 250),
        ("2 large eggs (100 g)", "egg_whole", 100),
        ("1 lb butter (450 g)", "butter", 453.59237),
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
        ("250 plain flour", "no unit"),
        ("1 kg moon dust", "pantry has no “moon dust”"),
        ("1 lb (500 g) salted butter", "differ by 10 %"),
        ("12 oz (345 g) plain flour", "differ by 1.4 %"),
        ("250 g clarified butter", "pantry has no"),
        ("250 g peanut butter", "pantry has no"),
        ("250 g vegan butter", "“vegan” is not understood"),
        ("100 ml coconut milk", "pantry has no"),
        ("250 g goose lard", "“goose” is not understood"),
        ("500 g self-raising flour", "pantry has no"),
        ("10 g lemon zest", "pantry has no"),
        ("zest of 1 lemon", "pantry has no"),
        ("250 g butter and 100 g lard", "two ingredients"),
        ("250 g butter and lard", "two ingredients"),
        ("250 g butter or shortening", "two ingredients"),
        ("5 g salt, 20 g sugar", "two ingredients"),
        ("200 g butter 50 g lard", "“lard” is not understood"),
        ("1,250 kg plain flour", "read as 1.25 kg"),
        ("2 packets butter (250 g)", "“2” was not used"),
        ("Butter 60% 250 g", "“60 %” was not used"),
        ("500 g flour type 405", "grade of flour"),
        ("T65 flour 500 g", "grade of flour"),
        ("3 eggs, dried", "no unit"),
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
        Part.DOUGH,
        Part.DOUGH,
        Part.BLOCK,
        Part.BLOCK,
        Part.FINISH,
        Part.DUSTING,
        Part.FILLING,
    ]


def test_without_headings_the_heaviest_fat_is_enclosed(pantry):
    text = "250 g plain flour\n25 g lard\n200 g unsalted butter\n30 g flour for dusting\n1 egg wash"
    assert [p.part.value for p in read_list(text, pantry)] == [
        "dough",
        "dough",
        "block",
        "dusting",
        "finish",
    ]


def test_percentages_stand_on_the_flour_of_the_list(pantry):
    percents = read_list("Strong flour 100 %\nWater 52 %\nButter 80 %", pantry)
    assert flour_of(percents, pantry) == 1000
    assert understood(percents[1], pantry["water"], 1000).grams == 520
    weighed = read_list("400 g strong flour\nWater 50 %", pantry)
    assert flour_of(weighed, pantry) == 400
    assert flour_of(read_list("50 g salt", pantry), pantry) is None


def test_a_column_of_percents_is_checked_against_the_weights(pantry):
    """By hand: 260 g on 500 g flour are 52 %."""
    found = read_list("Strong flour 500 g 100 %\nWater | 260 g | 52 %\nSalt 10 g 3 %", pantry)
    assert [p.sure for p in found] == [True, True, False]
    assert "10 g is 2 % of the flour" in found[2].doubts[0]


@pytest.mark.parametrize(
    "heading",
    ["Butter block:", "Beurrage", "Beurre de tourage", "For laminating", "Roll-in fat:", "Tourage:",
     "FAT BLOCK", "For the lamination:", "Butter:", "Lock-in butter", "Ziehfett", "Plastón",
     "To enclose:", "**Fat layer**", "For folding in:", "Butter packet", "Lamination butter",
     "Butter block (chilled)"],
)  # fmt: skip
def test_headings_of_fat_blocks_in_usual_words(heading, pantry):
    found = read_list(f"Dough\n500 g plain flour\n{heading}\n20 g plain flour", pantry)
    assert [p.part for p in found] == [Part.DOUGH, Part.BLOCK]


def test_more_for_dusting_does_not_send_the_flour_there(pantry):
    for line in (
        "500 g plain flour, plus more for dusting",
        "500 g plain flour plus extra to dust",
        "plain flour 500 g (plus a little more for rolling)",
    ):
        found = one(line, pantry)
        assert found.part is Part.DOUGH
        assert found.sure
    assert one("30 g plain flour for dusting", pantry).part is Part.DUSTING
    assert one("250 g butter for laminating", pantry).part is Part.BLOCK


@pytest.mark.parametrize(
    ("text", "measures"),
    [
        ("3 sticks butter\n2 cups flour", "us"), ("2 cups all-purpose flour", "us"),
        ("1 cup caster sugar", "metric"), ("2 EL Wasser", "metric"),
        ("1 cup double cream", "metric"),
        ("1 cup heavy cream\n2 tbsp caster sugar", None), ("2 cups water", None),
        ("2 sticks butter\n1 tbsp caster sugar", "us"),
    ],
)  # fmt: skip
def test_signs_of_a_country_propose_its_cups(text, measures):
    found = measures_of(text)
    assert (found[0] if found else None) == measures


def test_pinches_are_wide(pantry):
    found = one("a pinch of salt", pantry)
    known = understood(found, pantry["salt"], None)
    assert known.high_g > 2.9 * known.low_g
    assert found.sure


_NAMES = {
    "plain flour": "plain_flour",
    "strong flour": "strong_flour",
    "unsalted butter": "butter",
    "salted butter": "butter_salted",
    "lard": "lard",
    "cold water": "water",
    "cider vinegar": "vinegar_cider",
}
_UNSAID = ("peanut", "vegan", "clarified", "smoked", "sourdough", "almond", "imitation", "whipped")


@given(
    st.sampled_from(sorted(_NAMES)),
    st.integers(5, 900),
    st.sampled_from(
        [
            "{a} {n}",
            "{n} {a}",
            "{n}, {a}",
            "{n} ({a})",
            "{n}: {a}",
            "{a} {n}, chilled",
            "- {a} of {n}",
            "{n} | {a}",
            "{n} {a}, cubed",
        ]
    ),
    st.sampled_from(["g", " g", " grams"]),
)
def test_what_is_certain_is_right(name, grams, form, unit):
    """From a grammar: name and weight in any order come out as they went in, and are certain."""
    pantry = reference().pantry
    found = one(form.format(n=name, a=f"{grams}{unit}"), pantry)
    assert found.sure, found.doubts
    assert found.candidates[0] == _NAMES[name]
    assert understood(found, pantry[found.candidates[0]], None).grams == grams


@given(
    st.sampled_from(sorted(_NAMES)),
    st.sampled_from(_UNSAID),
    st.integers(5, 900),
    st.sampled_from(["{a} g {u} {n}", "{n}, {u} {a} g", "{u} {n} {a} g", "{a} g {n} ({u})"]),
)
def test_a_word_that_changes_the_material_is_never_certain(name, unsaid, grams, form):
    assert not one(form.format(n=name, u=unsaid, a=grams), reference().pantry).sure


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
    assert match("flour", pantry) == (match("flour", pantry)[0], True)  # the usual one
    assert match("margarine", pantry)[1] is False
    assert match("", pantry) == ((), False)
    assert match("the of and", pantry) == ((), False)


def test_doubts_of_a_line_that_was_read_before_are_told_in_the_measures_of_now(pantry):
    (before,) = read_list("1 stick butter (200 g)", pantry)
    set_measures("oz", "in", "°F")
    try:
        (after,) = read_list("1 stick butter (200 g)", pantry)
    finally:
        set_measures("g", "mm", "°C")
    assert " g" in " ".join(before.doubts)
    assert "oz" in " ".join(after.doubts)


@pytest.mark.parametrize(
    ("line", "first", "second"),
    [
        ("flour 1000g + 40g for dusting", (1000, Part.DOUGH), (40, Part.DUSTING)),
        ("500 g flour, plus 50 g extra for the bench", (500, Part.DOUGH), (50, Part.DUSTING)),
        ("1 kg flour and 50 g for the work surface", (1000, Part.DOUGH), (50, Part.DUSTING)),
        ("500 g flour (plus 2 oz for rolling out)", (500, Part.DOUGH), (56.7, Part.DUSTING)),
        ("30 g sugar plus 15 g for sprinkling", (30, Part.DOUGH), (15, Part.FINISH)),
    ],
)
def test_two_uses_of_one_material_are_two_lines(pantry, line, first, second):
    found = read_list(line, pantry)
    assert all(each.sure for each in found)
    assert [(round(each.amount.value, 1), each.part) for each in found] == [first, second]
    assert len({each.candidates[0] for each in found}) == 1
    assert {each.raw for each in found} == {line}
