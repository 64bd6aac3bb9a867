"""Oven settings against the exact formulas and the gas marks of common practice."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import TextError
from aplomb.core.oven.setting import marks, of_conventional, read_setting

# Common practice, as printed in many kitchens: gas mark, °F, and °C to the nearest ten.
CHART = [
    ("1/4", 225, 110), ("1/2", 250, 120), ("1", 275, 140), ("2", 300, 150), ("3", 325, 160),
    ("4", 350, 180), ("5", 375, 190), ("6", 400, 200), ("7", 425, 220), ("8", 450, 230),
    ("9", 475, 240),
]  # fmt: skip


@pytest.mark.parametrize(("mark", "fahrenheit", "about_c"), CHART)
def test_gas_marks_are_those_of_the_chart(mark, fahrenheit, about_c):
    found = read_setting(f"gas {mark}")
    assert found.fahrenheit == pytest.approx(fahrenheit)
    assert found.conventional_c == pytest.approx(about_c, abs=7)
    assert found.gas == mark
    assert read_setting(f"{fahrenheit} F").gas == mark


@pytest.mark.parametrize(
    ("text", "conventional_c"),
    [
        ("200 C", 200), ("200C fan", 220), ("200 °C (fan)", 220), ("180 c conventional", 180),
        ("400 F", 204.444444), ("400f fan", 224.444444), ("400", 204.444444), ("190", 190),
        ("gas mark 6", 204.444444), ("Gas ½", 121.111111), ("mark 4", 176.666667),
        ("170,5 C", 170.5), ("  220 degrees c  ", 220), ("160 convection", 180),
        ("fan 160 C", 180), ("Fan: 160C", 180), ("fan oven 160", 180), ("180 fan-forced", 200),
        ("180 °C without a fan", 180), ("conventional 180", 180),
        ("200C/180C fan/gas 6", 200), ("gas 6, 200 C", 204.444444), ("400 F or gas 6", 204.444444),
        ("gas 1/4/107 C", 107.222222), ("180,5 C; 160 fan", 180.5), ("200 C/", 200),
    ],
)  # fmt: skip
def test_settings_are_read_as_recipes_say_them(text, conventional_c):
    assert read_setting(text).conventional_c == pytest.approx(conventional_c, abs=1e-5)


def test_a_unit_that_was_guessed_is_said():
    assert "assumed" in read_setting("400").understood
    assert "assumed" not in read_setting("400 F").understood


@pytest.mark.parametrize(
    "text",
    [
        "",
        "hot",
        "gas",
        "gas 11",
        "gas 0",
        "9999 C",
        "5 C",
        "-200 C",
        "200 K",
        "200 C steam",
        "gas 1/3",
        "gas 3.5",
        "gas 3 1/2",
        "fan",
        "fan 180 fan",
        "/",
        "1/2",
        "or 200",
        "nan C",
        "2e2 C",
        "200 C " * 20,
    ],
)
def test_what_is_no_setting_is_pointed_at(text):
    with pytest.raises(TextError) as caught:
        read_setting(text)
    assert caught.value.pointed()


@pytest.mark.parametrize(
    ("text", "wrong"),
    [("200C/180C fan/gas 2", "gas 2"), ("gas 1/2 or 300F", "300F"), ("200 C, 220 fan", "220 fan")],
)
def test_ways_that_do_not_say_the_same_are_not_taken_for_one(text, wrong):
    with pytest.raises(TextError, match="not the same") as caught:
        read_setting(text)
    row, carets = caught.value.pointed().split("\n")
    assert row[carets.index("^") : carets.rindex("^") + 1].strip() == wrong


@given(st.floats(60, 300), st.permutations(range(4)), st.sampled_from(["/", " or ", ", ", "; "]))
def test_any_setting_said_in_several_ways_is_the_first_of_them(conventional, order, between):
    found = of_conventional(conventional, "")
    ways = [
        f"{conventional:.0f} C",
        f"{found.fan_c:.0f} C fan",
        f"{found.fahrenheit:.0f} F",
        f"gas {found.gas}" if found.gas else f"fan {found.fan_c:.0f} C",
    ]
    said = [ways[i] for i in order]
    assert read_setting(between.join(said)).fahrenheit == read_setting(said[0]).fahrenheit


@given(st.floats(60, 300))
def test_every_way_says_the_same(conventional):
    found = of_conventional(conventional, "")
    assert found.fahrenheit == pytest.approx(conventional * 9 / 5 + 32)
    assert found.fan_c == pytest.approx(conventional - 20)
    back = read_setting(f"{found.fan_c:.2f} C fan") if found.fan_c >= 30 else found
    assert back.conventional_c == pytest.approx(conventional, abs=0.006)
    if found.gas:
        assert abs(marks()[found.gas] - found.fahrenheit) <= 12.5 + 1e-9
