"""The session: one way to change things, and nothing lost on the way to the book."""

import pytest
from msgspec.structs import replace
from PySide6.QtTest import QAbstractItemModelTester

from aplomb.book.book import Book, BookError
from aplomb.core.base.errors import AplombError
from aplomb.core.batch.made_batch import MadeBatch
from aplomb.core.batch.stock import Stock, Want
from aplomb.core.paste.formula import Part
from aplomb.core.paste.line import Line
from aplomb.desk.session import Session
from aplomb.desk.shelf.stage import ShelfModel
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.shelf import first_formula


@pytest.fixture
def session(qapp, tmp_path):
    made = Session(Book(tmp_path / "a.aplomb"))
    fill_with_demo(made.work)
    yield made
    made.flush()
    made.book.close()


def test_a_change_is_announced_once_with_its_study(session, qtbot):
    formula = session.formula
    changed = replace(formula, sheet_mm=4.0)
    with qtbot.waitSignal(session.studied) as blocker:
        session.shelf.change("sheet", changed)
    assert blocker.signal_triggered
    assert session.study.formula is changed
    assert session.study.readings.sheet_mm == 4.0


def test_an_unusable_value_changes_nothing(session):
    before = session.formula
    with pytest.raises(AplombError):
        session.shelf.change("wrong", replace(before, turn_line="nonsense"))
    with pytest.raises(AplombError):
        session.shelf.change("wrong", before.with_lines(Part.DOUGH, (Line("gold", 5),)))
    assert session.formula is before
    assert session.journal.unwritten == 0


def test_no_change_is_no_change(session):
    session.shelf.change("same", replace(session.formula))
    assert session.journal.unwritten == 0


def test_a_new_formula_is_quiet_from_the_start(session):
    session.shelf.new()
    assert session.formula == first_formula("New paste")
    assert session.study.shown_opinions == ()
    session.shelf.new()
    assert session.formula.name == "New paste 2"


def test_a_copy_stands_behind_its_original(session):
    session.shelf.copy()
    names = [entry.formula.name for entry in session.shelf.entries.values()]
    assert names[:2] == ["Regatta case paste", "Regatta case paste (copy)"]


def test_undo_takes_back_a_delete_of_another_formula(session):
    uids = list(session.shelf.entries)
    session.shelf.select(uids[1])
    session.shelf.delete()
    session.shelf.select(uids[3])
    session.journal.undo()
    assert list(session.shelf.entries) == uids
    assert session.uid == uids[1]
    session.journal.redo()
    assert uids[1] not in session.shelf.entries


def test_deleting_the_last_leaves_an_empty_shelf(session):
    for _ in range(7):
        session.shelf.delete()
    assert session.study is None
    assert session.uid == ""
    session.shelf.delete()
    for _ in range(7):
        session.journal.undo()
    assert len(session.shelf.entries) == 7


def test_another_book_is_opened_or_the_old_one_stays(session, tmp_path):
    (tmp_path / "x.aplomb").write_text("no")
    with pytest.raises(BookError):
        session.work.open_book(tmp_path / "x.aplomb")
    assert len(session.shelf.entries) == 7
    session.work.open_book(tmp_path / "b.aplomb")
    assert session.shelf.entries == {}
    session.work.open_book(tmp_path / "a.aplomb")
    assert len(session.shelf.entries) == 7


def test_the_formula_that_was_open_is_open_again(session, tmp_path):
    uid = list(session.shelf.entries)[2]
    session.shelf.select(uid)
    session.work.open_book(tmp_path / "b.aplomb")
    session.work.open_book(tmp_path / "a.aplomb")
    assert session.uid == uid


def test_the_shelf_model_is_sound(session):
    model = ShelfModel(session)
    QAbstractItemModelTester(model, QAbstractItemModelTester.FailureReportingMode.Fatal)
    session.shelf_changed.connect(model.reset)
    model.search("paste")
    assert model.rowCount() == 5
    model.search("")
    session.shelf.copy()
    assert model.rowCount() == 8
    session.shelf.delete()
    assert model.rowCount() == 7


def test_the_menu_says_what_undo_would_do(session):
    session.flush()
    session.shelf.change("thicker", replace(session.formula, sheet_mm=5.0))
    assert session.journal.next_words() == (": thicker", "")
    session.journal.undo()
    assert session.journal.next_words()[1] == ": thicker"


def test_what_is_wanted_and_there_leaves_the_reference_alone(session):
    """A number typed into the day does not read every material and batch of the book again."""
    before, study = session.reference, session.shelf.study_of(session.uid)
    wants = (Want(session.uid, "", 7),)
    session.store.put_demand("7 wanted", replace(session.kitchen.demand, wants=wants))
    session.store.put_stock("butter there", Stock({"butter": 500.0}))
    assert session.kitchen.demand.wants == wants
    assert session.kitchen.stock.materials == {"butter": 500.0}
    assert session.reference is before
    assert (
        session.shelf.study_of(session.uid) is study or session.shelf.study_of(session.uid) == study
    )
    session.journal.undo()
    session.journal.undo()
    assert session.kitchen.demand.wants != wants
    assert session.reference is before


def test_a_batch_that_is_kept_leaves_the_pantry_alone(session):
    before = session.reference
    made_batch = MadeBatch("new", session.formula.name, session.uid, "2026-11-24T08:00")
    session.store.put_made_batch("add a measured batch", made_batch)
    assert session.reference.pantry is before.pantry
    assert session.reference.house is before.house
    assert made_batch in session.reference.made_batches
    session.store.drop_made_batch("a batch out", "new")
    assert session.reference.made_batches == before.made_batches


def test_a_house_that_changes_keeps_batches(session):
    made_batches = session.reference.made_batches
    assert made_batches
    session.store.set_house("bench", replace(session.reference.house, bench_mm=900.0))
    assert session.reference.house.bench_mm == 900.0
    assert session.reference.made_batches == made_batches
    session.journal.undo()
    assert session.reference.house.bench_mm != 900.0


def test_another_book_brings_its_own_kitchen(session, tmp_path):
    session.store.put_stock("butter there", Stock({"butter": 500.0}))
    session.flush()
    Book(tmp_path / "b.aplomb").close()
    session.work.open_book(tmp_path / "b.aplomb")
    assert session.kitchen.stock.materials == {}
    assert session.reference.made_batches == ()
