"""A command's formula: from a file, or by its name from a book that stays as it is."""

import json

import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.book.book import Book
from aplomb.cli import main
from aplomb.core.base.errors import AplombError
from aplomb.exchange.formula_json import to_json
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.sources import study_from
from aplomb.work.open_book.workbench import Workbench


@pytest.fixture
def book(tmp_path):
    path = tmp_path / "galley.aplomb"
    work = Workbench(Book(path), reference())
    fill_with_demo(work)
    work.close()
    return path


def test_a_formula_of_a_book_has_the_readings_of_its_file(book, tmp_path):
    formula = demo().formulas[1]
    file = tmp_path / "formula.json"
    file.write_bytes(to_json(formula))
    by_name, known = study_from(f"{book}#{formula.name}")
    by_file, _ = study_from(str(file))
    for key in ("fat_product_pct", "dough_water_pct", "fat_leaves", "paste_g"):
        assert getattr(by_name.readings, key) == getattr(by_file.readings, key)
    assert by_name.readings.cost_per_piece is not None, "the book's own prices count"
    assert known.pantry.pack("shortening") is not None


def test_a_name_is_found_whatever_its_case(book):
    assert study_from(f"{book}#  regatta CASE paste ")[0].formula.name == "Regatta case paste"


def test_a_name_that_is_not_there_names_those_that_are(book):
    with pytest.raises(AplombError, match="no formula is called “Leek”; it has “Regatta"):
        study_from(f"{book}#Leek")
    with pytest.raises(AplombError, match="put the name of a formula after #"):
        study_from(str(book))
    with pytest.raises(AplombError, match=r"cannot read none\.aplomb: there is no such file"):
        study_from(str(book.with_name("none.aplomb")) + "#x")
    assert not book.with_name("none.aplomb").exists(), "nothing is made by asking"


def test_a_book_of_one_formula_needs_no_name(tmp_path):
    path = tmp_path / "one.aplomb"
    work = Workbench(Book(path), reference())
    work.shelf.add(replace(demo().formulas[0], name="Only"), "one")
    work.close()
    assert study_from(str(path))[0].formula.name == "Only"
    work = Workbench(Book(path), reference())
    work.shelf.add(replace(demo().formulas[0], name="Only"), "another")
    work.close()
    with pytest.raises(AplombError, match="2 formulas are called “Only”"):
        study_from(f"{path}#Only")


def test_a_book_that_is_open_is_read_and_left_as_it_is(book):
    held = Workbench(Book(book), reference())
    before = book.read_bytes()
    assert study_from(f"{book}#Regatta case paste")[0].readings.fat_leaves == 144
    assert book.read_bytes() == before
    held.close()
    assert {path.name for path in book.parent.iterdir()} == {book.name}


def test_a_damaged_book_is_refused_in_words(book):
    book.write_bytes(b"SQLite format 3\x00" + b"x" * 200)
    with pytest.raises(AplombError, match="is not an Aplomb book"):
        study_from(f"{book}#Regatta case paste")


@pytest.mark.parametrize("command", ["figures", "batch", "cut"])
def test_every_command_takes_a_book(book, capsys, command):
    assert main([command, f"{book}#Regatta case paste", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)


def test_a_card_of_a_book(book, tmp_path, capsys, qapp):
    out = tmp_path / "card.pdf"
    assert main(["card", f"{book}#Regatta case paste", str(out)]) == 0
    assert out.read_bytes().startswith(b"%PDF")
