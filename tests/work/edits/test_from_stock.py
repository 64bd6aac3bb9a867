"""What of a batch comes out of stock, as it is typed."""

import pytest
from msgspec.structs import replace

from aplomb.core.base.errors import AmountError
from aplomb.core.paste.formula import Batch
from aplomb.work.edits.from_stock import from_stock_text, read_from_stock


@pytest.mark.parametrize(
    ("text", "grams", "blocks", "turns", "where"),
    [
        ("", 0, 1, None, "freezer"),
        ("0", 0, 1, None, "freezer"),
        ("1.5 kg", 1500, 1, None, "freezer"),
        ("2 × 1.45 kg", 2900, 2, None, "freezer"),
        ("3 x 900 g, 4 turns, fridge", 2700, 3, 4, "fridge"),
        ("2 blocks of 800 g from the freezer with 1 turn", 1600, 2, 1, "freezer"),
        ("900 g in the fridge", 900, 1, None, "fridge"),
    ],
)
def test_it_is_read_and_written_as_it_is_read(text, grams, blocks, turns, where):
    found = read_from_stock(text)
    assert found == {
        "frozen_g": grams,
        "frozen_blocks": blocks,
        "frozen_turns": turns,
        "frozen_where": where,
    }
    written = from_stock_text(replace(Batch(), **found))
    assert read_from_stock(written) == found


@pytest.mark.parametrize("text", ["some", "2 ×", "0 × 3 kg", "fridge", "99999 × 1 g", "3 turns"])
def test_what_cannot_be_is_told(text):
    with pytest.raises(AmountError):
        read_from_stock(text)
