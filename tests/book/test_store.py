"""The store of a book: prices, own materials, the house; revisions; a kept book of version 1."""

import json
import shutil
import sqlite3
from pathlib import Path

import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import reference
from aplomb.book import migrate
from aplomb.book.book import VERSION, Book, BookError
from aplomb.book.changes import Kept, StoreChange
from aplomb.book.migrate import with_one_stock
from aplomb.book.pictures import PictureRow
from aplomb.core.folds.working import Working
from aplomb.core.study.study import make_study
from aplomb.desk.session import Session
from aplomb.work.open_book.workbench import Workbench

OLD = Path(__file__).parent / "data" / "version-1.aplomb"


@pytest.fixture
def path(tmp_path):
    return tmp_path / "book.aplomb"


def test_the_store_is_written_undone_and_done_again(path):
    book = Book(path)
    change = StoreChange("price", (Kept("item/x", None),), (Kept("item/x", "{}"),))
    book.record([change])
    assert book.store() == [Kept("item/x", "{}")]
    assert book.history.next_words() == ("price", "")
    assert book.undo() == change
    assert book.store() == []
    book.close()
    again = Book(path)
    assert again.redo() == change
    assert again.store() == [Kept("item/x", "{}")]
    again.close()


def test_revisions_are_numbered_and_kept(path, plain):
    book = Book(path)
    assert book.last_revision("a") == 0
    assert book.keep_revision("a", "first", plain) == 1
    assert book.keep_revision("a", "", replace(plain, note="n")) == 2
    assert book.keep_revision("b", "other", plain) == 1
    assert [(r.number, r.name, r.formula.note) for r in book.revisions("a")] == [
        (1, "first", ""),
        (2, "", "n"),
    ]
    book.close()


def test_a_book_of_version_1_is_brought_up_with_nothing_lost(path):
    shutil.copy(OLD, path)
    before = sqlite3.connect(OLD)
    bodies = [json.loads(body) for (body,) in before.execute("SELECT body FROM formula")]
    before.close()
    session = Session(Book(path))
    names = {body["name"] for body in bodies}
    assert {entry.name for entry in session.shelf.entries.values()} == names
    by_name = {entry.name: entry.formula for entry in session.shelf.entries.values()}
    for body in bodies:
        formula = by_name[body["name"]]
        assert [n.grams for n in formula.dough] == [n["grams"] for n in body["dough"]]
        for price in body["prices"]:
            pack = session.reference.pantry.pack(price["material"])
            assert (pack.pack_g, pack.price) == (price["pack_g"], price["price"])
    assert session.reference.house.currency == "£"
    assert session.study.readings.cost > 0
    salt = session.formula.dough[4].grams
    session.journal.undo()  # the price of salt, which was in the formula then: nothing to see now
    session.journal.undo()
    assert session.formula.dough[4].grams != salt
    session.journal.redo()
    assert session.formula.dough[4].grams == salt
    assert session.close()
    assert Book(path).read_only == ""


def test_a_book_of_version_1_that_can_only_be_read_is_read(path, monkeypatch):
    shutil.copy(OLD, path)
    monkeypatch.setattr("os.access", lambda *_a: False)
    book = Book(path)
    assert book.read_only
    assert [entry.formula.name for entry in book.entries()]
    assert book.store() == []
    assert book.revisions("x") == []
    assert book.last_revision("x") == 0
    book.close()


def test_an_upgrade_that_the_disk_refuses_leaves_the_old_book(path, monkeypatch):
    shutil.copy(OLD, path)
    whole = path.read_bytes()

    def refuse(db):
        db.execute("DELETE FROM formula")
        raise sqlite3.OperationalError("disk I/O error")

    monkeypatch.setitem(migrate.STEPS, 2, refuse)
    with pytest.raises(BookError):
        Book(path)
    monkeypatch.undo()
    book = Book(path)
    assert len(book.entries()) == 2
    book.close()
    assert whole


def test_a_book_of_version_2_is_brought_up_with_nothing_changed(tmp_path):
    """Kept from before formulas could say how they are worked."""
    path = tmp_path / "old.aplomb"
    shutil.copy(OLD.with_name("version-2.aplomb"), path)
    with sqlite3.connect(path) as db:
        bodies = db.execute("SELECT id, body FROM formula ORDER BY id").fetchall()
    book = Book(path)
    entries = book.entries()
    assert len(entries) == 4
    first = next(e.formula for e in entries if e.formula.name == "Regatta case paste")
    assert first.sheet_mm == 4.0
    assert first.working == Working()
    assert not book.read_only
    book.close()
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (VERSION,)
        assert db.execute("SELECT id, body FROM formula ORDER BY id").fetchall() == bodies


def test_a_book_of_version_3_is_brought_up_with_nothing_changed(tmp_path):
    """Kept from before formulas had products."""
    path = tmp_path / "old.aplomb"
    shutil.copy(OLD.with_name("version-3.aplomb"), path)
    with sqlite3.connect(path) as db:
        bodies = db.execute("SELECT id, body FROM formula ORDER BY id").fetchall()
    book = Book(path)
    entries = book.entries()
    assert len(entries) == 7
    assert all(e.formula.products == () for e in entries)
    assert not book.read_only
    book.close()
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (VERSION,)
        assert db.execute("SELECT id, body FROM formula ORDER BY id").fetchall() == bodies


def test_a_book_of_version_5_is_brought_up_with_nothing_changed(tmp_path):
    """Kept from before rests had places: two formulas of the demo of 0.5.0, one renamed."""
    path = tmp_path / "old.aplomb"
    shutil.copy(OLD.with_name("version-5.aplomb"), path)
    with sqlite3.connect(path) as db:
        bodies = db.execute("SELECT id, body FROM formula ORDER BY id").fetchall()
    book = Book(path)
    entries = book.entries()
    assert entries[0].formula.name == "Kept of version 5"
    assert all(e.formula.plan.shaped_rest is None for e in entries)
    assert all(s.most_min is None and s.place == "" for e in entries for s in e.formula.plan.steps)
    assert not book.read_only
    book.close()
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (VERSION,)
        assert db.execute("SELECT id, body FROM formula ORDER BY id").fetchall() == bodies


def test_a_book_of_version_6_gets_room_for_runs_and_nothing_else_changes(tmp_path):
    """Kept from before the bench: the demo of 0.6.0, one formula renamed."""
    path = tmp_path / "old.aplomb"
    shutil.copy(OLD.with_name("version-6.aplomb"), path)
    with sqlite3.connect(path) as db:
        bodies = db.execute("SELECT id, body FROM formula ORDER BY id").fetchall()
        store = db.execute("SELECT key, body FROM store ORDER BY key").fetchall()
    book = Book(path)
    assert book.entries()[0].formula.name == "Kept of version 6"
    assert not book.read_only
    assert book.runs.all() == []
    assert book.runs.begin("A day", "2026-06-05T06:00:00+01:00", "{}") == 1
    book.close()
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (VERSION,)
        assert db.execute("SELECT id, body FROM formula ORDER BY id").fetchall() == bodies
        found = db.execute("SELECT key, body FROM store ORDER BY key").fetchall()
    assert found == with_stock_as_now(store)


def test_a_book_of_version_7_gets_room_for_pictures_and_nothing_else_changes(tmp_path):
    """Kept from before trials: the demo of 0.7.0, one formula renamed, a run with one press."""
    path = tmp_path / "old.aplomb"
    shutil.copy(OLD.with_name("version-7.aplomb"), path)
    tables = ("formula", "store", "run", "press", "change")
    with sqlite3.connect(path) as db:
        before = {t: db.execute(f"SELECT * FROM {t} ORDER BY 1").fetchall() for t in tables}
    book = Book(path)
    assert book.entries()[0].formula.name == "Kept of version 7"
    assert not book.read_only
    assert [len(book.runs.presses(each.number)) for each in book.runs.all()] == [1]
    assert book.pictures.all() == {}
    book.pictures.keep(PictureRow("p", "a.jpg", "2026-11-26", 4, 3, False), b"s", b"body")
    assert book.pictures.body("p") == b"body"
    book.close()
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (VERSION,)
        after = {t: db.execute(f"SELECT * FROM {t} ORDER BY 1").fetchall() for t in tables}
    assert after == {**before, "store": with_stock_as_now(before["store"])}


def with_stock_as_now(rows):
    """Rows of the store with the stock as version 11 says it; all else as it was."""
    return [(key, with_one_stock(body) if key == "stock" else body) for key, body in rows]


def test_a_day_that_had_begun_in_a_book_of_version_11_goes_on(tmp_path):
    """Kept from before a day knew which day it is: begun at its 310th minute, with no day named."""
    path = tmp_path / "old.aplomb"
    shutil.copy(OLD.with_name("version-11.aplomb"), path)
    work = Workbench(Book(path), reference())
    sheet = work.store.kitchen.timetable
    assert (sheet.now_min, sheet.begun_for, len(sheet.plan)) == (310, "", 2)
    (uid,) = work.shelf.entries
    assert sheet.ready == {uid: 600}
    work.journal.undo()
    assert work.store.kitchen.timetable == replace(sheet, now_min=None, plan=())
    work.journal.redo()
    work.store.put_demand("day", replace(work.store.kitchen.demand, day="2027-03-01"))
    assert work.store.kitchen.timetable == sheet  # nobody knows that it was another day
    work.book.close()


def test_a_book_of_version_10_has_one_list_of_stock(tmp_path):
    """Kept from before blocks in the freezer were kept like all else: two changes of the stock."""
    path = tmp_path / "old.aplomb"
    shutil.copy(OLD.with_name("version-10.aplomb"), path)
    work = Workbench(Book(path), reference())
    (uid,) = work.shelf.entries
    stock = work.store.kitchen.stock
    assert stock.materials == {"plain_flour": 6200.0}
    assert [(i.form, i.where, i.many, i.each_g, i.made) for i in stock.kept] == [
        ("whole", "freezer", 3, 1450.0, "2026-11-10"),
        ("half", "fridge", 3, 725.0, "2026-11-24"),
    ]
    assert [i.many for i in stock.blocks(uid)] == [3, 3]
    work.journal.undo()
    assert [i.made for i in work.store.kitchen.stock.blocks(uid)] == ["2026-11-09", "2026-11-24"]
    work.journal.redo()
    assert work.store.kitchen.stock == stock
    work.book.close()


def test_a_book_of_version_9_is_made_by_its_cut_plan(tmp_path):
    """Kept from before the cut plan ruled: its trim and blocks were put into the batch by hand."""
    path = tmp_path / "old.aplomb"
    shutil.copy(OLD.with_name("version-9.aplomb"), path)
    with sqlite3.connect(path) as db:
        bodies = db.execute("SELECT id, body FROM formula ORDER BY id").fetchall()
    book = Book(path)
    (entry,) = book.entries()
    assert entry.formula.name == "Kept of version 9"
    assert entry.formula.batch.trim_pct is not None
    study = make_study(entry.formula, reference())
    assert study.scaled.as_cut
    assert study.scaled.rolled_g == pytest.approx(study.cut.sheets_g)
    assert study.scaled.made[0].pieces == 48
    book.close()
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (VERSION,)
        assert db.execute("SELECT id, body FROM formula ORDER BY id").fetchall() == bodies


def test_a_book_of_version_4_is_brought_up_with_nothing_changed(tmp_path):
    """Kept from before formulas held water back: the demo of 0.4.1, with one change."""
    path = tmp_path / "old.aplomb"
    shutil.copy(OLD.with_name("version-4.aplomb"), path)
    with sqlite3.connect(path) as db:
        bodies = db.execute("SELECT id, body FROM formula ORDER BY id").fetchall()
        stored = db.execute("SELECT key, body FROM store ORDER BY key").fetchall()
    book = Book(path)
    entries = book.entries()
    assert len(entries) == 7
    assert entries[0].formula.sheet_mm == 3.2
    assert all(e.formula.held_back_pct == 10 for e in entries)
    assert not book.read_only
    assert book.history.next_words()[0] == "salt: 20 g"
    book.close()
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (VERSION,)
        assert db.execute("SELECT id, body FROM formula ORDER BY id").fetchall() == bodies
        found = db.execute("SELECT key, body FROM store ORDER BY key").fetchall()
    assert found == with_stock_as_now(stored)
