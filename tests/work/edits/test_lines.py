"""Edits of the lines of a part as they are typed, without a window."""

import pytest

from aplomb.assets.shipped import demo, reference
from aplomb.book.book import Book
from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.paste.formula import Part
from aplomb.core.paste.line import Line
from aplomb.work.edits.lines import LineEdits
from aplomb.work.open_book.workbench import Workbench


@pytest.fixture
def work(tmp_path):
    made = Workbench(Book(tmp_path / "a.aplomb"), reference())
    made.shelf.add(demo().formulas[0], "one")
    yield made
    made.store.set_house("back", House())
    made.close()


@pytest.fixture
def dough(work):
    return LineEdits(work, Part.DOUGH, lambda: work.shelf.formula.dough)


def grams(work, material):
    return next(n.grams for n in work.shelf.formula.dough if n.material == material)


def test_an_amount_is_grams_whatever_it_was_typed_in(work, dough):
    salt = next(n for n in work.shelf.formula.dough if n.material == "salt")
    dough.grams(salt, "1 oz")
    assert grams(work, "salt") == pytest.approx(28.35, abs=0.01)
    line = next(n for n in work.shelf.formula.dough if n.material == "salt")
    assert line.typed == "1 oz", "how it was written stays"
    dough.grams(line, "40")
    assert grams(work, "salt") == 40


def test_a_bare_number_is_in_the_houses_ounces(work, dough):
    work.store.set_house("ounces", House(masses="oz"))
    salt = next(n for n in work.shelf.formula.dough if n.material == "salt")
    dough.grams(salt, "2")
    assert grams(work, "salt") == pytest.approx(56.7, abs=0.01)


def test_a_percentage_is_on_flour(work, dough):
    """Flour is 3250 g: 2 % of it is 65 g."""
    salt = next(n for n in work.shelf.formula.dough if n.material == "salt")
    dough.percent(salt, "2 %")
    assert grams(work, "salt") == pytest.approx(65)


def test_lines_come_move_change_and_go(work, dough):
    dough.add("sugar")
    assert work.shelf.formula.dough[-1] == Line("sugar", 0.0)
    first, second = work.shelf.formula.dough[:2]
    dough.swap_places(first, second)
    assert work.shelf.formula.dough[:2] == (second, first)
    dough.material(first, "strong_flour")
    changed = work.shelf.formula.dough[1]
    assert (changed.material, changed.grams) == ("strong_flour", first.grams)
    dough.note(changed, "  cold  " + "x" * 200)
    assert len(work.shelf.formula.dough[1].note) <= 80
    dough.remove(work.shelf.formula.dough[1])
    assert "strong_flour" not in [n.material for n in work.shelf.formula.dough]
    for _ in range(5):
        work.journal.undo()
    assert work.shelf.formula.dough == demo().formulas[0].dough


def test_a_line_that_is_gone_is_told_and_nothing_changes(work, dough):
    before = work.shelf.formula
    with pytest.raises(AplombError, match="no longer in the formula"):
        dough.grams(Line("salt", 12345.0), "5")
    assert work.shelf.formula is before


def test_of_two_alike_the_one_that_is_shown_is_meant(work):
    work.shelf.edit(
        "twice", lambda f: f.with_lines(Part.FINISH, (Line("salt", 1), Line("salt", 1)))
    )
    shown = list(work.shelf.formula.finish)
    finish = LineEdits(work, Part.FINISH, lambda: shown)
    finish.grams(shown[1], "7")
    assert [n.grams for n in work.shelf.formula.finish] == [1, 7]
