"""Whatever stands in the list of tables is made, missed, brought up and taken along in a rescue."""

import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from aplomb.assets.shipped import reference
from aplomb.book import file, migrate, schema, tables
from aplomb.book.book import Book, DiskError
from aplomb.book.tables import TABLES, Table
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench

OLD = sorted(Path(__file__).parent.glob("**/*.aplomb"))
CELLS = {"TEXT": "text", "INTEGER": 7, "REAL": 1.5, "BLOB": b"blob"}


def rows_in(path, name):
    with closing(sqlite3.connect(path)) as db:
        return db.execute(f"SELECT * FROM {name} ORDER BY rowid").fetchall()


def made_up_row(table):
    return tuple(CELLS[column.split(" ")[1]] for column in table.columns)


@pytest.fixture
def with_tins(monkeypatch):
    """A version to come, with a table more that nothing else knows of."""
    to_come = schema.VERSION + 1
    tins = Table("tin", to_come, ("id INTEGER PRIMARY KEY", "wide_mm REAL"), "as it is")
    for module in (tables, schema):
        monkeypatch.setattr(module, "TABLES", (*TABLES, tins))
    for module in (schema, file):
        monkeypatch.setattr(module, "VERSION", to_come)


def test_every_table_says_how_a_rescue_takes_it_and_why_it_is_left():
    assert {table.since for table in TABLES} <= set(range(1, schema.VERSION + 1))
    assert set(migrate.STEPS) <= set(range(2, schema.VERSION + 1))
    assert all(table.why for table in TABLES if table.carried == "left")


def test_every_row_that_goes_as_it_is_comes_whole_into_the_new_book(tmp_path):
    with closing(sqlite3.connect(_made(tmp_path / "a.aplomb"))) as db, db:
        for table in TABLES:
            if table.carried == "as it is":
                places = ", ".join("?" * len(table.columns))
                db.execute(f"INSERT INTO {table.name} VALUES ({places})", made_up_row(table))
    old, new = Book(tmp_path / "a.aplomb"), Book(tmp_path / "b.aplomb")
    new.fill([], [], old.rows_to_carry())
    old.close()
    new.close()
    carried = [table for table in TABLES if table.carried == "as it is"]
    assert {table.name for table in carried} == {"revision", "run", "press", "reading", "picture"}
    for table in carried:
        assert rows_in(tmp_path / "b.aplomb", table.name) == [made_up_row(table)]


def _made(path):
    Book(path).close()
    return path


def test_a_new_table_needs_no_other_line_to_be_made_missed_and_rescued(with_tins, tmp_path):
    path = _made(tmp_path / "a.aplomb")
    with closing(sqlite3.connect(path)) as db, db:
        db.execute("INSERT INTO tin VALUES (1, 180.0)")
    work = Workbench(Book(path), reference())
    fill_with_demo(work)
    work.book.file.rebuild = True
    saved = work.rescue()
    work.close()
    assert rows_in(saved, "tin") == [(1, 180.0)]
    with closing(sqlite3.connect(path)) as db:
        db.execute("DROP TABLE tin")
        assert schema.missing_in(db, schema.VERSION) == ["tin"]


@pytest.mark.parametrize("old", OLD, ids=lambda path: path.stem)
def test_a_book_of_every_version_gets_a_new_table(with_tins, tmp_path, old):
    path = tmp_path / "a.aplomb"
    shutil.copy(old, path)
    book = Book(path)
    there = len(book.entries())
    book.close()
    assert there
    assert rows_in(path, "tin") == []
    with closing(sqlite3.connect(path)) as db:
        assert db.execute("PRAGMA user_version").fetchone()[0] == schema.VERSION
        assert schema.missing_in(db, schema.VERSION) == []


def test_a_disk_that_fills_while_rows_are_carried_refuses_them_all(tmp_path):
    """A row that no book can hold is left out; one that found no room is never dropped unsaid."""
    new = Book(tmp_path / "b.aplomb")
    pages = new.file.db.execute("PRAGMA page_count").fetchone()[0]
    new.file.db.execute(f"PRAGMA max_page_count = {pages + 2}")
    rows = [("uid", 1, "first", "2026-01-01", "x" * 100), ("uid", 2, "second", "", "y" * 100_000)]
    with pytest.raises(DiskError, match="full"):
        new.fill([], [], {"revision": rows})
    new.close()
    assert rows_in(tmp_path / "b.aplomb", "revision") == []
