"""The book: nothing is lost, whatever the disk does."""

import os
import resource
import sqlite3
from contextlib import contextmanager

import msgspec
import pytest
from msgspec.structs import replace

from aplomb.book.book import (
    APPLICATION_ID,
    MOST_CHANGES,
    VERSION,
    Book,
    BookError,
    DiskError,
    new_uid,
    now,
)
from aplomb.book.changes import Change
from aplomb.book.entry import Entry
from aplomb.book.history import History
from aplomb.core.base.errors import AplombError
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.product import Product


def entry(name, place=0.0):
    return Entry(new_uid(), place, now(), Formula(name))


def put(book, what, words="add"):
    book.record([Change(words, what.uid, None, what)])
    return what


def rename(book, what, name):
    after = what.with_formula(replace(what.formula, name=name), now())
    book.record([Change(f"name {name}", what.uid, what, after)])
    return after


@pytest.fixture
def path(tmp_path):
    return tmp_path / "a.aplomb"


@pytest.fixture
def book(path):
    made = Book(path)
    yield made
    made.close()


def names(book):
    return [e.formula.name for e in book.entries()]


def test_what_is_written_is_there_again(path):
    book = Book(path)
    one = put(book, entry("One", 1))
    put(book, entry("Nought", 0))
    book.close()
    again = Book(path)
    assert names(again) == ["Nought", "One"]
    assert again.entries()[1] == one
    again.close()


def test_undo_and_redo_reach_across_a_restart(path):
    book = Book(path)
    one = put(book, entry("One"))
    one = rename(book, one, "Two")
    rename(book, one, "Three")
    book.close()
    book = Book(path)
    assert book.undo().words == "name Three"
    assert names(book) == ["Two"]
    assert book.history.next_words() == ("name Two", "name Three")
    book.close()
    book = Book(path)
    assert book.redo().words == "name Three"
    assert names(book) == ["Three"]
    for _ in range(3):
        book.undo()
    assert names(book) == []
    assert book.undo() is None
    for _ in range(3):
        book.redo()
    assert names(book) == ["Three"]
    assert book.redo() is None
    book.close()


def test_delete_is_undone_like_anything_else(book):
    one = put(book, entry("One"))
    book.record([Change("delete", one.uid, one, None)])
    assert names(book) == []
    book.undo()
    assert book.entries() == [one]


def test_a_new_change_lets_go_of_what_was_undone(book):
    one = put(book, entry("One"))
    rename(book, one, "Two")
    book.undo()
    rename(book, one, "Other")
    assert book.redo() is None
    assert names(book) == ["Other"]


def test_several_changes_are_all_or_none(book, monkeypatch):
    one, two = entry("One"), entry("Two")
    broken = Change("broken", two.uid, None, two)
    monkeypatch.setattr(
        book.history,
        "_put",
        lambda c, **way: (
            (_ for _ in ()).throw(sqlite3.OperationalError("boom"))
            if c.uid == two.uid
            else History._put(book.history, c, **way)
        ),
    )
    with pytest.raises(DiskError, match="cannot be written"):
        book.record([Change("add", one.uid, None, one), broken])
    monkeypatch.undo()
    assert names(book) == []
    put(book, one)
    assert names(book) == ["One"]


def test_old_changes_are_let_go(book):
    what = put(book, entry("0"))
    book.record([Change(f"{i}", what.uid, what, what) for i in range(MOST_CHANGES + 50)])
    count = sqlite_of(book).execute("SELECT count(*) FROM change").fetchone()[0]
    assert count == MOST_CHANGES


def sqlite_of(book):
    return book.file.db


def test_settings_of_the_book(book):
    assert book.setting("open", "none") == "none"
    book.set_setting("open", "x")
    assert book.setting("open") == "x"


@pytest.mark.parametrize(
    "content",
    [
        b"this is a shopping list\n" * 200,
        b"SQLite format 3\x00" + b"\xff" * 4000,
        b"%PDF-1.4",
        b"{}",
    ],
)
def test_a_book_that_is_not_a_book_is_left_alone(path, content):
    path.write_bytes(content)
    with pytest.raises(BookError, match="not an Aplomb book"):
        Book(path)
    assert path.read_bytes() == content


def test_another_programs_database_is_left_alone(path):
    with sqlite3.connect(path) as other:
        other.execute("CREATE TABLE recipes (x)")
    other.close()
    before = path.read_bytes()
    with pytest.raises(BookError, match="not an Aplomb book"):
        Book(path)
    assert path.read_bytes() == before


def test_a_cut_off_book_is_refused_and_left_alone(path):
    book = Book(path)
    for i in range(40):
        put(book, entry(f"Formula {i}"))
    book.close()
    whole = path.read_bytes()
    path.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(BookError):
        Book(path).entries()
    assert path.read_bytes() == whole[: len(whole) // 2]


def test_an_empty_file_is_not_a_book(path):
    path.touch()
    with pytest.raises(BookError, match="0 bytes"):
        Book(path)
    assert path.read_bytes() == b""


def test_a_newer_book_is_for_reading_only(path):
    book = Book(path)
    put(book, entry("One"))
    book.close()
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA user_version = 99")
    db.close()
    newer = Book(path)
    assert names(newer) == ["One"]
    assert "newer Aplomb" in newer.read_only
    with pytest.raises(BookError, match="read-only"):
        put(newer, entry("Two"))
    newer.set_setting("open", "x")
    newer.close()


def test_a_book_that_is_open_elsewhere_says_so(path, book):
    with pytest.raises(BookError, match="open in another"):
        Book(path)


def test_a_full_disk_loses_nothing(path):
    """A limit on the file's size stands for the full disk: SQLite sees the same refusal."""
    book = Book(path)
    one = put(book, entry("One"))
    book.file.db.execute(
        f"PRAGMA max_page_count = {book.file.db.execute('PRAGMA page_count').fetchone()[0]}"
    )
    big = one.with_formula(replace(one.formula, note="x" * 200_000), now())
    with pytest.raises(DiskError, match="disk is full"):
        book.record([Change("note", one.uid, one, big)])
    assert names(book) == ["One"]
    book.file.db.execute("PRAGMA max_page_count = 1000000")
    book.record([Change("note", one.uid, one, big)])
    assert len(book.entries()[0].formula.note) == 200_000
    book.close()


def test_a_disk_that_refuses_by_size_is_a_disk_error(path):
    """The same through the operating system: a process may write no more than so many bytes."""
    import signal

    book = Book(path)
    one = put(book, entry("One"))
    old = resource.getrlimit(resource.RLIMIT_FSIZE)
    handler = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    try:
        resource.setrlimit(resource.RLIMIT_FSIZE, (path.stat().st_size, old[1]))
        with pytest.raises(DiskError, match="cannot be written"):
            rename(book, one.with_formula(replace(one.formula, note="y" * 90_000), now()), "Two")
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, old)
        signal.signal(signal.SIGXFSZ, handler)
    assert names(book) == ["One"]
    rename(book, one, "Two")
    assert names(book) == ["Two"]
    book.close()


@contextmanager
def as_nobody(folder):
    """Root may write everywhere: be somebody else for a while."""
    if os.geteuid() != 0:
        yield
        return
    ways = [each for each in (folder, *folder.parents) if "pytest" in str(each)]
    modes = [each.stat().st_mode for each in ways]
    for each, mode in zip(ways, modes, strict=True):
        each.chmod(mode | 0o055)
    os.setresuid(65534, 65534, 0)
    try:
        yield
    finally:
        os.setresuid(0, 0, 0)
        for each, mode in zip(ways, modes, strict=True):
            each.chmod(mode)


def test_a_read_only_file_opens_for_reading(path):
    book = Book(path)
    put(book, entry("One"))
    book.close()
    path.chmod(0o444)
    path.parent.chmod(0o555)
    try:
        with as_nobody(path.parent):
            kept = Book(path)
            assert names(kept) == ["One"]
            assert "read-only" in kept.read_only
            kept.close()
    finally:
        path.parent.chmod(0o755)


def test_a_folder_one_may_not_enter_is_told(path):
    book = Book(path)
    book.close()
    with as_nobody(path.parent):
        pass
    path.parent.chmod(0o000)
    try:
        if os.geteuid() == 0:
            for each in path.parent.parents:
                if "pytest" in str(each):
                    each.chmod(each.stat().st_mode | 0o055)
            os.setresuid(65534, 65534, 0)
        with pytest.raises(BookError, match="Permission denied"):
            Book(path)
    finally:
        if os.getresuid()[2] == 0:
            os.setresuid(0, 0, 0)
        path.parent.chmod(0o755)


def test_a_book_on_a_read_only_disk_opens_for_reading(path, monkeypatch):
    """What the system answers for such a disk, also to root."""
    book = Book(path)
    put(book, entry("One"))
    book.close()
    monkeypatch.setattr("os.access", lambda _path, mode: mode != os.W_OK)
    kept = Book(path)
    assert names(kept) == ["One"]
    assert "read-only" in kept.read_only
    with pytest.raises(BookError, match="save a copy in another"):
        put(kept, entry("Two"))
    kept.close()


def test_a_book_where_none_can_be_made_says_so(tmp_path):
    blocked = tmp_path / "file"
    blocked.write_text("x")
    with pytest.raises(BookError, match="cannot be made|cannot be opened"):
        Book(blocked / "a.aplomb")


def test_a_copy_holds_everything(book, tmp_path):
    put(book, entry("One"))
    other = tmp_path / "b.aplomb"
    book.copy_to(other)
    copied = Book(other)
    assert copied.entries() == book.entries()
    copied.close()
    with pytest.raises(BookError, match="There is already"):
        book.copy_to(other)
    with pytest.raises(DiskError):
        book.copy_to(tmp_path / "nowhere" / "b.aplomb")


def test_a_row_that_cannot_be_read_is_named(path, book):
    put(book, entry("One"))
    sqlite_of(book).execute("UPDATE formula SET body = '{\"name\": 5}'")
    with pytest.raises(AplombError, match="“One” in the book cannot be read"):
        _ = book.entries()[0].formula


def test_the_file_is_what_the_docs_say(path):
    book = Book(path)
    one = put(book, entry("One", 2.5))
    book.close()
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (VERSION,)
        assert db.execute("PRAGMA application_id").fetchone() == (APPLICATION_ID,)
        uid, name, place, body = db.execute("SELECT id, name, place, body FROM formula").fetchone()
        assert (uid, name, place) == (one.uid, "One", 2.5)
        assert msgspec.json.decode(body, type=Formula) == one.formula
    db.close()


def test_a_formula_that_was_kept_with_a_number_that_is_none_is_read(path):
    """Version 0.8.0 took an endless size from a file and wrote it as null."""
    book = Book(path)
    entry = Entry(new_uid(), 0.0, now(), Formula("Kiosk", products=(Product("Turnover"),)))
    book.record([Change("add", entry.uid, None, entry)])
    book.file.db.execute(
        "UPDATE formula SET body = replace(body, '\"inner_mm\":0.0', '\"inner_mm\":null')"
    )
    assert '"inner_mm":null' in book.file.db.execute("SELECT body FROM formula").fetchone()[0]
    assert [e.formula for e in book.entries()] == [entry.formula]
    book.close()
