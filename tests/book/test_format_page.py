"""The page on the book's file says what a new book really has."""

import re
import sqlite3
from contextlib import closing

import pytest

from aplomb.book.book import MOST_CHANGES, Book
from aplomb.book.schema import APPLICATION_ID, VERSION
from aplomb.book.tables import TABLES
from aplomb.work.open_book import rows as store_rows


@pytest.fixture
def page(request):
    return (request.config.rootpath / "docs" / "book-format.md").read_text(encoding="utf-8")


def test_every_table_and_column_is_described(page, tmp_path):
    Book(tmp_path / "a.aplomb").close()
    told = {
        part.split("\n", 1)[0]: re.findall(
            r"^\| `(\w+)` \| (TEXT|REAL|INTEGER|BLOB) \|", part, re.MULTILINE
        )
        for part in page.split("\n## ")[1:]
    }
    with closing(sqlite3.connect(tmp_path / "a.aplomb")) as db:
        real = {
            table.name: [
                (name, kind)
                for _, name, kind, *_ in db.execute(f"PRAGMA table_info({table.name})").fetchall()
            ]
            for table in TABLES
        }
        known = {
            name
            for (name,) in db.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")
            if not name.startswith("sqlite_")
        }
    assert told == real
    assert known == {table.name for table in TABLES}


def test_numbers_and_keys_of_the_page_are_those_of_the_code(page):
    assert f"`application_id` 0x{APPLICATION_ID:08X}" in page
    assert f"`user_version` {VERSION}" in page
    assert f"last {MOST_CHANGES} are kept" in page
    for key in (store_rows.HOUSE, store_rows.STOCK, store_rows.DEMAND, store_rows.TIMETABLE):
        assert f"| `{key}` |" in page
    for start in (store_rows.ITEM, store_rows.RECORD, store_rows.ASIDE):
        assert f"| `{start}KEY` |" in page
