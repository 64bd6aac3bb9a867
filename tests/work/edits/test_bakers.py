"""Who works here, as it is typed."""

import pytest

from aplomb.core.base.errors import AmountError
from aplomb.core.base.house import Baker, House, check_house
from aplomb.work.edits.bakers import bakers_text, read_bakers


@pytest.mark.parametrize(
    ("text", "hands", "people"),
    [
        ("2", 2, ()),
        ("MA, RO", 2, (Baker("MA"), Baker("RO"))),
        ("MA 5:00 to 13:00; RO 7-15", 2, (Baker("MA", ((300, 780),)), Baker("RO", ((420, 900),)))),
        ("Jo 5–9 and 14–18", 1, (Baker("Jo", ((300, 540), (840, 1080))),)),
        ("A 6am to 2pm", 1, (Baker("A", ((360, 840),)),)),
    ],
)
def test_it_is_read_and_written_as_it_is_read(text, hands, people):
    house = check_house(read_bakers(House(), text))
    assert (house.hands, house.people) == (hands, people)
    again = read_bakers(House(), bakers_text(house))
    assert (again.hands, again.people) == (hands, people)


@pytest.mark.parametrize("text", ["", "0", "99", "MA 13:00 to 5:00", "much too long a name", "5-9"])
def test_what_cannot_be_is_told(text):
    with pytest.raises(AmountError):
        read_bakers(House(), text)


def test_a_number_takes_the_names_away():
    named = read_bakers(House(), "MA, RO")
    assert read_bakers(named, "1").people == ()
