"""A book is held: by a lock that no other handle drops, by an eye that sees what becomes of the
file, by transactions that end, and by reading round damage."""

import fcntl
import os
import shutil
import sqlite3
import subprocess
import sys
from pathlib import Path

import msgspec
import pytest
from msgspec.structs import replace

from aplomb.book.book import Book, BookError, DiskError, GoneError, new_uid, now
from aplomb.book.changes import Change, Kept, StoreChange
from aplomb.book.entry import Entry
from aplomb.book.lock import BookLock, lock_path
from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.paste.formula import Formula
from aplomb.desk.session import Session
from aplomb.work.open_book.shelf import first_formula

SRC = Path(__file__).resolve().parents[2] / "src"


def entry(name, place=0.0):
    return Entry(new_uid(), place, now(), Formula(name))


def put(book, what):
    assert book.record([Change(f"add {what.name}", what.uid, None, what)]) == []
    return what


@pytest.fixture
def path(tmp_path):
    return tmp_path / "a.aplomb"


@pytest.fixture
def session(qapp, path):
    made = Session(Book(path))
    made.shelf.add(first_formula("One"), "one")
    made.shelf.add(first_formula("Two"), "two")
    assert made.flush()
    yield made
    made.close()


def opened_elsewhere(path):
    """What another process is told that opens the book."""
    return subprocess.run(
        [
            sys.executable,
            "-c",
            (
                "import sys; from pathlib import Path\n"
                "from aplomb.book.book import Book, BookError\n"
                "try: Book(Path(sys.argv[1])).close()\n"
                "except BookError as error: print(error)"
            ),
            str(path),
        ],
        env=dict(os.environ, PYTHONPATH=str(SRC)),
        capture_output=True,
        text=True,
        check=True,
    ).stdout


# The lock


def test_another_process_is_told_who_has_the_book(path):
    book = Book(path)
    assert f"process {os.getpid()}" in opened_elsewhere(path)
    book.close()
    assert opened_elsewhere(path) == ""
    assert not lock_path(path).exists()


def test_a_handle_that_is_closed_does_not_drop_the_lock(path):
    """What a file dialog does, or a look at the kind of a file."""
    book = Book(path)
    path.read_bytes()
    with path.open("rb"):
        pass
    assert "open in another Aplomb" in opened_elsewhere(path)
    put(book, entry("One"))
    book.close()


def test_the_lock_goes_with_the_file_not_with_its_name(path, tmp_path):
    book = Book(path)
    link = tmp_path / "b.aplomb"
    link.symlink_to(path)
    with pytest.raises(BookError, match="open in another"):
        Book(link)
    book.close()


def test_a_lock_whose_owner_died_is_nobodys(path):
    lock_path(path).write_text("somebody on some machine, process 1")
    Book(path).close()
    assert not lock_path(path).exists()


def test_a_name_too_long_for_a_lock_gets_a_short_one(tmp_path):
    name = "x" * 250
    lock = BookLock(tmp_path / name)
    assert len(lock_path(tmp_path / name).name) < 60
    with pytest.raises(BookError):
        BookLock(tmp_path / name)
    lock.release()
    lock.release()


def test_a_disk_without_such_locks_still_opens(path, monkeypatch):
    def none(_handle, _way):
        raise OSError(95, "Operation not supported")

    monkeypatch.setattr(fcntl, "flock", none)
    book = Book(path)
    put(book, entry("One"))
    book.close()


# The file while it is open


def moved(path):
    path.rename(path.with_name("elsewhere.aplomb"))


def deleted(path):
    path.unlink()


def replaced(path):
    other = path.with_name("other.aplomb")
    Book(other).close()
    other.replace(path)


def written_over(path):
    other = path.with_name("other.aplomb")
    made = Book(other)
    put(made, entry("Stranger"))
    made.close()
    path.write_bytes(other.read_bytes())


def folder_gone(path):
    shutil.move(path.parent, path.parent.with_name(path.parent.name + "-gone"))


WHAT_BECOMES = [moved, deleted, replaced, written_over]


@pytest.mark.parametrize("become", [*WHAT_BECOMES, folder_gone])
def test_what_became_of_the_file_is_told_at_the_next_write(path, become):
    book = Book(path)
    put(book, entry("One"))
    become(path)
    before = path.read_bytes() if path.exists() else b""
    for write in (
        lambda: put(book, entry("Two")),
        lambda: book.set_setting("open", "x"),
        lambda: book.keep_revision("a", "", Formula("x")),
        book.undo,
        book.redo,
        book.probe,
    ):
        with pytest.raises(GoneError):
            write()
    book.close()
    assert (path.read_bytes() if path.exists() else b"") == before, "that file is another's"


@pytest.mark.parametrize("become", WHAT_BECOMES)
def test_one_press_keeps_everything_in_a_new_place(session, path, become):
    formulas = {u: e.formula for u, e in session.shelf.entries.items()}
    become(path)
    session.shelf.edit("cold", lambda f: replace(f, dough_c=7.0))
    assert not session.flush()
    assert "kept in this window" in session.journal.trouble
    assert session.journal.unwritten == 1
    new = session.work.rescue()
    assert new != path
    assert session.journal.trouble == ""
    assert session.journal.unwritten == 0
    again = {e.uid: e.formula for e in session.book.entries()}
    assert again == {**formulas, session.uid: session.formula}
    session.shelf.edit("colder", lambda f: replace(f, dough_c=6.0))
    assert session.flush()


def test_history_comes_along_when_the_file_is_only_gone(session, path):
    deleted(path)
    session.shelf.edit("cold", lambda f: replace(f, dough_c=7.0))
    session.work.rescue()
    session.journal.undo()
    session.journal.undo()
    assert [e.name for e in session.shelf.entries.values()] == ["One"]


def test_a_rescue_finds_a_free_name_or_the_own_folder(session, path, tmp_path_factory, monkeypatch):
    own = tmp_path_factory.mktemp("own")
    monkeypatch.setenv("APLOMB_HOME", str(own))
    path.with_name("a, kept.aplomb").touch()
    assert session.work.rescue().name == "a, rescued.aplomb"
    folder_gone(path)
    session.shelf.edit("cold", lambda f: replace(f, dough_c=7.0))
    assert session.work.rescue().parent == own


def test_a_copy_that_the_disk_did_not_take_to_its_end_is_let_go(session, tmp_path, monkeypatch):
    def full(_book, _changes):
        raise DiskError("The disk is full.")

    with monkeypatch.context() as patch:
        patch.setattr(Book, "record", full)
        with pytest.raises(DiskError):
            session.work.keep_copy(tmp_path / "copy.aplomb")
    Book(tmp_path / "copy.aplomb").close()


def test_a_file_that_was_only_touched_is_still_the_book(path):
    book = Book(path)
    os.utime(path, (1, 1))
    put(book, entry("One"))
    book.close()


def test_a_copy_where_none_can_be_is_told(session, tmp_path):
    (tmp_path / "file").touch()
    for name in ("n" * 300, "no/b.aplomb", "file/b.aplomb"):
        with pytest.raises(BookError, match="cannot be written|cannot be opened"):
            session.work.keep_copy(tmp_path / name)
    before = session.book.path
    session.shelf.edit("cold", lambda f: replace(f, dough_c=7.0))
    assert session.flush()
    assert session.book.path == before


# Rows and transactions


def test_a_row_that_no_book_can_hold_blocks_no_other(path):
    book = Book(path)
    good, bad = entry("Good"), entry("Bad")
    half = bad.with_formula(replace(bad.formula, note="half \ud83d"), now())
    refused = book.record(
        [
            Change("add", good.uid, None, good),
            Change("bad", half.uid, None, half),
            StoreChange("price", (Kept("item/x", None),), (Kept("item/x", "{}"),)),
        ]
    )
    assert [r.change.uid for r in refused] == [bad.uid]
    assert refused[0].why
    assert [e.name for e in book.entries()] == ["Good"]
    assert book.store() == [Kept("item/x", "{}")]
    assert not book.file.db.in_transaction
    book.close()


def test_what_was_refused_is_shown_as_it_is_kept(session, monkeypatch):
    """The window never shows a value that the book has not."""
    said = []
    session.said.connect(said.append)
    kept = session.formula
    bad = replace(kept, note="half \ud83d")
    at = session.shelf.entries[session.uid]
    session.journal.note(Change("bad note", session.uid, at, at.with_formula(bad, now())))
    session.shelf.entries[session.uid] = at.with_formula(bad, now())
    assert session.flush()
    assert session.formula == kept
    assert "“bad note” could not be saved" in said[-1]
    assert session.journal.trouble == ""


def test_half_an_emoji_is_refused_where_it_comes_in(session):
    for bad in ("half \ud83d", "a\nb", "tab\there", "bell\a", "line\u2028sep"):
        with pytest.raises(AplombError, match="remove it"):
            session.shelf.edit("note", lambda f, bad=bad: replace(f, note=bad))
    session.shelf.edit("note", lambda f: replace(f, note="whole 🥐 é"))
    assert session.flush()


def test_signs_that_an_older_book_holds_are_tidied_not_fatal(path):
    book = Book(path)
    one = put(book, entry("One"))
    body = msgspec.json.encode(replace(one.formula, note="two\nlines")).decode()
    book.file.db.execute("UPDATE formula SET body = ?", (body,))
    assert book.entries()[0].formula.note == "two lines"
    book.close()


def test_an_undo_that_cannot_be_read_is_passed_over(session):
    said = []
    session.said.connect(said.append)
    session.shelf.edit("cold", lambda f: replace(f, dough_c=7.0))
    session.shelf.edit("colder", lambda f: replace(f, dough_c=6.0))
    assert session.flush()
    db = session.book.file.db
    db.execute("UPDATE change SET before = '{' WHERE words = 'colder'")
    session.book.file.watch.remember()  # the damage itself is not what is looked at here
    session.journal.undo()
    assert "“colder” cannot be undone" in said[-1]
    assert not db.in_transaction
    assert session.formula.dough_c == 6.0
    session.shelf.edit("salted", lambda f: replace(f, sheet_mm=4.0))
    assert session.flush(), "what is said to be kept is kept"
    assert session.book.entry(session.uid).formula.sheet_mm == 4.0
    session.journal.undo()
    session.journal.undo()
    assert session.formula.dough_c != 6.0


def test_a_banner_goes_when_its_cause_goes(session, monkeypatch):
    def full(_changes):
        raise DiskError("The book cannot be written: the disk is full.")

    monkeypatch.setattr(session.book, "record", full)
    session.shelf.edit("cold", lambda f: replace(f, dough_c=7.0))
    assert not session.flush()
    assert "disk is full" in session.journal.trouble
    session.journal.undo()
    assert session.journal.trouble == "", "nothing waits any more"
    session.shelf.edit("cold", lambda f: replace(f, dough_c=7.0))
    session.flush()
    monkeypatch.undo()
    assert session.flush()
    assert session.journal.trouble == ""


# Damage


def spoil(path, *statements):
    db = sqlite3.connect(path)
    for statement in statements:
        db.executescript(statement)
    db.close()


@pytest.mark.parametrize(
    ("statement", "words"),
    [
        ("DROP TABLE store", "store)"),
        ("DROP TABLE revision", "missing revision"),
        ("DROP TABLE formula", "missing formula"),
        ("CREATE TRIGGER t AFTER INSERT ON change BEGIN DELETE FROM formula; END", "(t)"),
        ("CREATE VIEW v AS SELECT 1", "(v)"),
    ],
)
def test_a_book_that_is_not_whole_opens_for_reading_and_is_left(session, path, statement, words):
    names = sorted(e.name for e in session.shelf.entries.values())
    session.close()
    spoil(path, statement)
    before = path.read_bytes()
    opened = Session(Book(path))
    assert words in opened.journal.trouble
    assert sorted(e.name for e in opened.shelf.entries.values()) == names
    opened.shelf.edit("cold", lambda f: replace(f, dough_c=7.0))
    assert not opened.flush()
    assert path.read_bytes() == before
    new = opened.work.rescue()
    assert opened.journal.trouble == ""
    assert sorted(e.name for e in opened.book.entries()) == names
    assert opened.formula.dough_c == 7.0
    opened.close()
    assert new.exists()


def test_a_strangers_trigger_never_runs(session, path):
    session.close()
    spoil(path, "CREATE TRIGGER t AFTER INSERT ON change BEGIN DELETE FROM formula; END")
    opened = Session(Book(path))
    opened.shelf.new()
    opened.flush()
    opened.work.rescue()
    assert len(opened.shelf.entries) == 3
    opened.shelf.new()
    assert opened.flush()
    assert len(opened.book.entries()) == 4
    opened.close()


@pytest.mark.parametrize("table", ["formula", "change", "store", "revision", "setting"])
def test_a_table_whose_first_page_is_gone_takes_no_other_with_it(session, path, table):
    session.shelf.keep_revision("one")
    names = sorted(e.name for e in session.shelf.entries.values())
    session.close()
    with sqlite3.connect(path) as db:
        root = db.execute("SELECT rootpage FROM sqlite_schema WHERE name = ?", (table,)).fetchone()[
            0
        ]
        page = db.execute("PRAGMA page_size").fetchone()[0]
    db.close()
    data = bytearray(path.read_bytes())
    data[(root - 1) * page : root * page] = bytes(page)
    path.write_bytes(data)
    opened = Session(Book(path))
    assert sorted(e.name for e in opened.shelf.entries.values()) == names, (
        "if need be from the changes"
    )
    assert "damaged" in opened.journal.trouble
    opened.close()
    assert path.read_bytes() == bytes(data)


def test_rows_that_vanished_are_missed(session, path):
    """A page that says it holds fewer rows raises nothing: only counting tells."""
    session.close()
    spoil(path, "DELETE FROM formula WHERE name = 'One'")
    opened = Session(Book(path))
    assert "damaged" in opened.journal.trouble
    assert "recovered from the list of changes" in opened.work.notice
    assert {e.name for e in opened.shelf.entries.values()} == {"One", "Two"}
    opened.close()


def test_what_vanished_is_found_in_what_one_command_did(session, path):
    with session.journal.together("several"):
        session.shelf.add(first_formula("Three"), "three")
        session.store.set_house("house", House(shop_c=27.0))
        session.shelf.add(first_formula("Four"), "four")
    session.close()
    spoil(path, "DELETE FROM formula WHERE name IN ('Three', 'Four')", "DELETE FROM store")
    opened = Session(Book(path))
    assert {e.name for e in opened.shelf.entries.values()} == {"One", "Two", "Three", "Four"}
    assert opened.reference.house.shop_c == 27.0
    opened.close()


@pytest.mark.parametrize(
    "after",
    [
        "{",
        "[]",
        '[["a", "together", null, "[[]]"]]',
        '[["a", 1]]',
        '[["a", "store", "[]", "[1]"]]',
        '[["a", "x", null, "{}"]]',
    ],
)
def test_several_things_whose_record_is_damaged_are_passed_over(session, after):
    said = []
    session.said.connect(said.append)
    with session.journal.together("several"):
        session.shelf.add(first_formula("Three"), "three")
        session.shelf.add(first_formula("Four"), "four")
    assert session.flush()
    session.book.file.db.execute("UPDATE change SET after = ? WHERE words = 'several'", (after,))
    session.book.file.watch.remember()
    session.journal.undo()
    assert "“several” cannot be undone" in said[-1] or after == "[]"
    assert {e.name for e in session.shelf.entries.values()} == {"One", "Two", "Three", "Four"}
    session.journal.undo()
    assert "Two" not in {e.name for e in session.shelf.entries.values()}


@pytest.mark.parametrize("key", ["house", "stock", "demand", "item/butter", "batch/1"])
def test_a_row_of_the_store_that_cannot_be_read_is_set_aside_and_kept(session, path, key):
    session.close()
    spoil(path, f"INSERT OR REPLACE INTO store VALUES ('{key}', '{{\"broken\"')")
    opened = Session(Book(path))
    assert opened.work.notice.startswith("Part of this book")
    house = replace(opened.reference.house, currency="kr")
    opened.store.set_house("currency", house)
    assert opened.flush()
    kept = {k.key: k.body for k in opened.book.store()}
    assert kept[f"aside/{key}" if key == "house" else key] == '{"broken"'
    opened.close()


def test_a_row_of_a_newer_kind_is_left_as_it_is(session, path):
    session.close()
    spoil(path, "INSERT INTO store VALUES ('oven/1', '{}')")
    opened = Session(Book(path))
    assert (opened.journal.trouble, opened.work.notice) == ("", "")
    opened.shelf.new()
    assert opened.flush()
    assert Kept("oven/1", "{}") in opened.book.store()
    opened.close()


@pytest.mark.parametrize("stands", ["999999", "-4", "nowhere", "9" * 40, ""])
def test_an_undo_position_that_leads_nowhere_is_the_last(session, path, stands):
    session.close()
    spoil(path, f"UPDATE setting SET value = '{stands}' WHERE key = 'stands'")
    opened = Session(Book(path))
    assert opened.journal.next_words()[0] == ": two"
    opened.journal.undo()
    assert {e.name for e in opened.shelf.entries.values()} == {"One"}
    opened.close()


def test_a_book_that_was_killed_while_it_was_made_is_made_again(path):
    """As an older Aplomb left one: marked as a book, without a table."""
    db = sqlite3.connect(path)
    db.execute("PRAGMA application_id = 1095781453")
    db.close()
    assert path.stat().st_size > 0
    book = Book(path)
    put(book, entry("One"))
    book.close()


def test_a_book_that_cannot_be_finished_leaves_no_file(path, monkeypatch):
    import aplomb.book.schema as schema

    def killed(_db):
        raise sqlite3.OperationalError("disk I/O error")

    monkeypatch.setattr(schema, "make_tables", killed)
    with pytest.raises(BookError, match="cannot be created"):
        Book(path)
    assert [p.name for p in path.parent.iterdir() if p.name != ".a.aplomb.lock"] == []


def test_an_unfinished_write_is_not_shown_on_media_that_can_only_be_read(path, monkeypatch):
    """A hot journal is taken back in a copy; the media stay as they are."""
    book = Book(path)
    one = put(book, entry("One"))
    db = book.file.db
    db.execute("PRAGMA cache_size = 1")
    db.execute("PRAGMA cache_spill = 1")
    db.execute("BEGIN IMMEDIATE")
    for number in range(60):
        db.execute(
            "INSERT INTO formula VALUES (?, ?, '', 9, '', ?)", (f"u{number}", "half", "x" * 3000)
        )
    journal = path.with_name(path.name + "-journal")
    assert journal.stat().st_size > 512
    media = path.with_name("media")
    media.mkdir()
    shutil.copy(path, media / path.name)
    shutil.copy(journal, media / journal.name)
    db.execute("ROLLBACK")
    book.close()
    monkeypatch.setattr("os.access", lambda _path, mode: mode != os.W_OK)
    before = (media / path.name).read_bytes()
    kept = Book(media / path.name)
    assert [e.uid for e in kept.entries()] == [one.uid]
    kept.close()
    assert (media / path.name).read_bytes() == before
    assert (media / journal.name).exists()


def test_what_is_no_file_is_no_book(tmp_path):
    folder, pipe = tmp_path / "d.aplomb", tmp_path / "p.aplomb"
    folder.mkdir()
    os.mkfifo(pipe)
    for bad in (folder, pipe):
        with pytest.raises(BookError, match="not a file"):
            Book(bad)
    with pytest.raises(BookError, match="Choose another folder"):
        Book(tmp_path / ("n" * 300))
    with pytest.raises(BookError, match="That name cannot be used for a file."):
        Book(tmp_path / "a\0b")
