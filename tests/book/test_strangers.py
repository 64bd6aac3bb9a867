"""What a book may hold that is none of ours, is damaged unseen, or is only touched."""

import os
import random
import sqlite3
import time

import pytest
from msgspec.structs import replace

from aplomb.book import file as file_module
from aplomb.book.book import FIRST, Book, BookError, DiskError, GoneError, new_uid, now
from aplomb.book.changes import Change, Kept, StoreChange
from aplomb.book.entry import Entry
from aplomb.book.history import History
from aplomb.core.paste.formula import Formula
from finders import full_disk

ENDLESS = "WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM r) SELECT {} FROM r"
COLUMNS = {
    "formula": "n AS id, n AS name, '' AS purpose, n AS place, '' AS changed, '' AS body",
    "store": "n AS key, n AS body, n AS rowid", "setting": "n AS key, n AS value",
    "picture": "n AS key, n AS name", "run": "n AS id, n AS title", "press": "n AS run",
    "change": "n AS seq", "revision": "n AS formula, n AS number",
}  # fmt: skip


@pytest.fixture
def path(tmp_path):
    return tmp_path / "kiosk.aplomb"


def filled(path, many=1):
    book = Book(path)
    book.record(
        [
            Change("add", (e := Entry(new_uid(), float(i), now(), Formula(f"F {i}"))).uid, None, e)
            for i in range(many)
        ]
    )
    return book


@pytest.mark.parametrize("table", COLUMNS)
def test_a_view_that_never_ends_is_not_read_whatever_its_name(path, table):
    filled(path).close()
    with sqlite3.connect(path) as db:
        db.execute(f"ALTER TABLE {table} RENAME TO away")
        db.execute(f"CREATE VIEW {table} AS {ENDLESS.format(COLUMNS[table])}")
    db.close()
    book = Book(path)
    assert f"something Aplomb did not put there ({table})" in book.read_only
    assert [e.name for e in book.entries()] == ["F 0"]  # else from the list of changes
    assert (book.store(), book.runs.all(), book.pictures.all()) == ([], [], {})
    book.rows_to_carry()
    book.history.next_words()
    book.close()


def test_opening_has_a_limit_of_time_and_says_so(path, monkeypatch):
    filled(path, 300).close()
    monkeypatch.setattr(file_module, "OPENING_S", -1.0)
    monkeypatch.setattr(file_module, "STEPS", 1)
    with pytest.raises(BookError, match="was still being read after 30 seconds"):
        Book(path).on_shelf()


def big(path):
    book = filled(path)
    for n in range(10):
        key = f"rumour/{n}"
        body = random.Random(n).randbytes(500_000).hex()
        book.record([StoreChange("a", (Kept(key, None),), (Kept(key, body),))])
    assert path.stat().st_size > 8_000_000
    return book


def test_a_large_book_that_is_only_touched_is_not_anothers(path):
    book = big(path)
    os.utime(path, ns=(time.time_ns(), time.time_ns() + 5_000_000_000))
    book.set_setting("open", "x")
    book.close()


def test_a_large_book_that_is_written_to_is_anothers(path):
    book = big(path)
    with path.open("r+b") as file:
        file.seek(-4096, 2)
        file.write(b"another program")
    with pytest.raises(GoneError, match="Another program"):
        book.set_setting("open", "x")
    book.close()


def test_damage_in_a_large_book_is_found_beside_and_told(path):
    book = big(path)
    assert book.check_beside()
    root = book.file.db.execute(
        "SELECT rootpage FROM sqlite_schema WHERE name = 'store'"
    ).fetchone()[0]
    book.close()
    data = bytearray(path.read_bytes())
    data[(root - 1) * 4096 + 2000 : root * 4096] = bytes(2096)
    path.write_bytes(data)
    book = Book(path)
    assert book.read_only == "", "nobody waited for it"
    assert not book.check_beside()
    assert "something in it may be missing" in book.read_only
    with pytest.raises(BookError, match="damaged"):
        book.keep_revision("x", "x", Formula("x"))
    book.close()


def test_what_is_written_while_a_book_is_looked_through_is_no_damage(path, monkeypatch):
    book = big(path)
    looks = []

    def sound(_db):
        looks.append(1)
        if len(looks) < 3:
            book.set_setting("open", f"x{len(looks)}")
            return False
        return True

    monkeypatch.setattr(file_module, "_is_sound", sound)
    assert book.check_beside()
    assert len(looks) == 3
    book.close()


def test_of_a_large_shelf_what_a_window_shows_is_read_first(path):
    book = filled(path, FIRST + 40)
    last = book.entries()[-1]
    book.set_setting("open", last.uid)
    first, in_hand = book.first_on_shelf()
    assert list(first.values())[:FIRST] == book.entries()[:FIRST]
    assert in_hand == last.uid
    assert last.uid in first
    book.close()
    small = filled(path.with_name("small.aplomb"), FIRST)
    assert small.first_on_shelf() is None
    small.close()


def test_a_commit_that_fails_is_looked_at_once_it_is_taken_back(path, monkeypatch):
    """The file is another one until SQLite has rolled back what it had begun to write."""
    book = filled(path)

    def full(*_what):
        error = sqlite3.OperationalError("database or disk is full")
        error.sqlite_errorcode = sqlite3.SQLITE_FULL
        raise error

    with monkeypatch.context() as patch:
        patch.setattr(History, "set_position", full)
        os.utime(path, ns=(1, 1))
        after = Entry(new_uid(), 5.0, now(), replace(Formula("x"), note="n"))
        with pytest.raises(DiskError, match="disk is full"):
            book.record([Change("add", after.uid, None, after)])
    book.record([Change("add", after.uid, None, after)])
    assert [e.name for e in book.entries()] == ["F 0", "x"]
    book.close()


@pytest.mark.skipif(os.geteuid() != 0, reason="mounts a small disk: run as root")
def test_a_disk_that_is_really_full_is_called_so_and_what_waits_writes_itself(qapp):
    faults, first = full_disk.find(3, 1_000_000)
    assert [f"{words}: {first[words]}" for words in faults] == []
