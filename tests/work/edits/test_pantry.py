"""Edits of a material as they are typed, without a window."""

import pytest

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.core.base.errors import AplombError
from aplomb.work.edits.pantry import PantryEdits
from aplomb.work.open_book.workbench import Workbench


@pytest.fixture
def work(tmp_path):
    made = Workbench(Book(tmp_path / "a.aplomb"), reference())
    yield made
    made.close()


@pytest.fixture
def edits(work):
    made = PantryEdits(work)
    made.key = "butter"
    return made


def test_a_changed_figure_is_the_users_own(edits, work):
    edits.part("fat", "Fat", "84")
    assert edits.material.composition.fat == 0.84
    assert edits.material.standing == "own"
    edits.put_back()
    assert edits.material.composition.fat == reference().pantry["butter"].composition.fat
    work.journal.undo()
    assert edits.material.composition.fat == 0.84


def test_solid_fat_working_range_and_measure(edits):
    edits.solid(20, "22.5")
    assert dict(edits.material.sfc)[20.0] == 22.5
    edits.solid(20, "–")
    assert 20.0 not in dict(edits.material.sfc)
    edits.enclose(1, "61 F")
    assert edits.material.enclose_c[1] == pytest.approx(16.11, abs=0.01)
    edits.enclose(0, "")
    assert edits.material.enclose_c is None
    edits.enclose(0, "13")
    assert edits.material.enclose_c == (13, 17), "the other end is a usual width away"
    edits.bulk("0.96")
    assert edits.material.bulk_g_ml == 0.96


def test_a_price_of_pounds_and_its_going(edits, work):
    edits.price("pack", "1 lb")
    edits.price("price", "4.20")
    pack = work.store.reference.pantry.pack("butter")
    assert (round(pack.pack_g, 2), pack.price) == (453.59, 4.2)
    edits.price("price", "")
    assert work.store.reference.pantry.pack("butter") is None


def test_new_copied_and_blended_materials_have_names_of_their_own(edits, work):
    first, second = edits.new(), edits.new()
    pantry = work.store.reference.pantry
    assert pantry[first].name == "New ingredient"
    assert pantry[second].name == "New ingredient 2"
    copied, blended = edits.copy(), edits.blended(["butter", "lard"])
    pantry = work.store.reference.pantry
    assert pantry[copied].name.endswith(" (own)")
    made = pantry[blended]
    assert [share.share for share in made.made_of] == [0.5, 0.5]
    edits.key = first
    edits.put_back()
    assert first not in work.store.reference.pantry, "what is not supplied goes"


@pytest.mark.parametrize(
    ("what", "told"),
    [
        (lambda e: e.part("fat", "Fat", "140"), "100 %"),
        (lambda e: e.name("lard"), "another ingredient already has this name"),
        (lambda e: e.allergens("milk, dust"), "“dust” must be one of"),
        (lambda e: e.bulk("2 cups"), "enter grams per millilitre"),
        (lambda e: e.price("price", "free"), "enter a price"),
        (lambda e: e.solid(20, "x"), "enter a number"),
    ],
)
def test_what_cannot_be_used_is_told_and_changes_nothing(edits, what, told):
    before = edits.material
    with pytest.raises(AplombError, match=told):
        what(edits)
    assert edits.material is before
