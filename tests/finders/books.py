"""Damage books in every way and open them: in part with a word, or refused; never silent."""

import random
import shutil
import sqlite3
import tempfile
import traceback
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QCoreApplication

from aplomb.book.book import Book, BookError
from aplomb.book.runs import ReadingRow
from aplomb.core.base.errors import AplombError
from aplomb.core.bench.acts import Begin, End, Note
from aplomb.core.bench.readings import pack
from aplomb.desk.session import Session
from aplomb.work.bench.log import log_lines, out_of_cold
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.start import begin, plan_of, ready_formula
from aplomb.work.bench.watch import Probes
from aplomb.work.figures.local import begun_text, day_text
from aplomb.work.open_book.demo import fill_with_demo

PAGE = 4096


def make_base(path: Path) -> None:
    """Make a sound book with formulas, prices, batches, revisions and a history."""
    session = Session(Book(path))
    fill_with_demo(session.work)
    for number in range(12):
        session.shelf.edit(f"water {number}", lambda f, n=number: replace(f, note=f"note {n}"))
        if number % 4 == 0:
            session.shelf.keep_revision(f"try {number}")
    session.shelf.delete()
    session.journal.undo()
    session.journal.undo()
    work = session.work
    work.journal.flush()
    for _ in range(2):
        number = begin(work, plan_of(ready_formula(work, work.shelf.uid), datetime.now(UTC)))
        run = LiveRun(work.book, number, work.store.reference.pantry, wait=True)
        for task in run.plan.tasks[:4]:
            run.press(Begin(task.key))
            run.press(Note(task.track, "seen"), End(task.key))
        work.book.runs.read(number, [ReadingRow("p", n, pack([4.0] * 60)) for n in range(5)])
        run.close()
    assert session.close()


def flip_bytes(path: Path, pick: random.Random) -> None:
    """Change some bytes anywhere."""
    data = bytearray(path.read_bytes())
    for _ in range(pick.choice((1, 3, 20, 200))):
        data[pick.randrange(len(data))] = pick.randrange(256)
    path.write_bytes(data)


def spoil_page(path: Path, pick: random.Random) -> None:
    """Zero a page, fill it with noise, or put another in its place."""
    data = bytearray(path.read_bytes())
    pages = len(data) // PAGE
    at = pick.randrange(pages) * PAGE
    way = pick.choice(("zero", "noise", "other", "half"))
    if way == "zero":
        data[at : at + PAGE] = bytes(PAGE)
    elif way == "noise":
        data[at : at + PAGE] = pick.randbytes(PAGE)
    elif way == "half":
        data[at + PAGE // 2 : at + PAGE] = bytes(PAGE // 2)
    else:
        other = pick.randrange(pages) * PAGE
        data[at : at + PAGE] = data[other : other + PAGE]
    path.write_bytes(data)


def spoil_root(path: Path, pick: random.Random) -> None:
    """Zero the page at which a table or index begins."""
    with sqlite3.connect(path) as db:
        roots = [row[0] for row in db.execute("SELECT rootpage FROM sqlite_schema") if row[0]]
    db.close()
    data = bytearray(path.read_bytes())
    at = (pick.choice(roots) - 1) * PAGE
    data[at : at + PAGE] = bytes(PAGE)
    path.write_bytes(data)


def cut_off(path: Path, pick: random.Random) -> None:
    """Cut the file off, or put something behind it."""
    data = path.read_bytes()
    if pick.random() < 0.8:
        path.write_bytes(data[: pick.randrange(len(data))])
    else:
        path.write_bytes(data + pick.randbytes(pick.choice((1, 100, PAGE, 9000))))


def spoil_rows(path: Path, pick: random.Random) -> None:
    """Write into rows what the program never writes."""
    junk = pick.choice(
        ("", "{", "null", "[]", '{"name": 5}', "\x00", "x" * 9000, '{"name":"\\ud83d"}', "9" * 400)
    )
    statements = (
        ("UPDATE formula SET body = ? WHERE rowid = (SELECT min(rowid) FROM formula)", (junk,)),
        ("UPDATE formula SET place = 9e999", ()),
        ("UPDATE formula SET name = ?", (junk,)),
        ("UPDATE formula SET id = '' WHERE rowid = (SELECT max(rowid) FROM formula)", ()),
        ("UPDATE change SET after = ?, before = ?", (junk, junk)),
        ("UPDATE change SET formula = 'store'", ()),
        ("UPDATE change SET words = ?", (junk,)),
        ("UPDATE store SET body = ?", (junk,)),
        ("UPDATE store SET body = ? WHERE key = 'house'", (junk,)),
        ("UPDATE store SET body = ? WHERE key = 'stock'", (junk,)),
        ("UPDATE store SET body = ? WHERE key LIKE 'batch/%'", (junk,)),
        ("INSERT INTO store VALUES ('rumour/1', ?)", (junk,)),
        ("UPDATE revision SET body = ?", (junk,)),
        ("UPDATE revision SET number = number * 1000000000", ()),
        ("UPDATE setting SET value = ? WHERE key = 'stands'", (junk,)),
        ("UPDATE setting SET value = '999999' WHERE key = 'stands'", ()),
        ("UPDATE setting SET value = '-5' WHERE key = 'stands'", ()),
        ("DELETE FROM setting", ()),
        ("UPDATE run SET begun = ?", (junk,)),
        ("UPDATE run SET begun = ?, ended = ?", (pick.choice(MOMENTS), pick.choice(MOMENTS))),
        ("UPDATE run SET plan = ?", (junk,)),
        ("UPDATE run SET title = ?", (junk,)),
        (
            'UPDATE run SET plan = replace(plan, \'"begun":"2\', ?)',
            (f'"begun":"{pick.choice(MOMENTS)}',),
        ),
        (
            "UPDATE run SET plan = replace(plan, '\"minutes\":', ?)",
            (f'"minutes":{pick.choice(("1e999", "-1e300", "9" * 40, "null"))},"was":',),
        ),
        ("UPDATE press SET act = ? WHERE number > 2", (junk,)),
        (
            "UPDATE press SET act = ? WHERE number = 3",
            (f'{{"act":"clock","seconds":{pick.choice(("1e12", "-1e12", "1e999", "3e9"))}}}',),
        ),
        ("UPDATE press SET at_s = ? WHERE number = 4", (pick.choice((1e12, -5.0, 9e999, 3e8)),)),
        ("UPDATE press SET number = number * 1000000000000", ()),
        ("UPDATE press SET wall = ?", (junk,)),
        ("UPDATE reading SET body = ?", (pick.randbytes(pick.choice((0, 1, 119, 120, 500))),)),
        ("UPDATE reading SET minute = minute * 100000000000000", ()),
    )
    with sqlite3.connect(path) as db:
        for _ in range(pick.choice((1, 1, 2, 4))):
            statement, values = pick.choice(statements)
            with suppress(sqlite3.IntegrityError, OverflowError):  # a table may refuse it
                db.execute(statement, values)
    db.close()


MOMENTS = (
    "",
    "soon",
    "2026-99-99T05:00+00:00",
    "9999-12-31T23:59+00:00",
    "0001-01-01T00:00+00:00",
    "2026-06-05T05:00:00",
    "2026-06-05T05:00:00+99:00",
)


def look_at_runs(session: Session) -> str:
    """Open every run as the bench and the record do; gives what is wrong with how that went."""
    work, pantry = session.work, session.reference.pantry
    for row in work.book.runs.all():
        begun_text(row.begun)
        day_text(row.ended)
        try:
            run = LiveRun(work.book, row.number, pantry, wait=True)
        except AplombError as error:
            if not str(error):
                return "a run is refused without a word"
            continue
        try:
            told = log_lines(run.plan, run.presses, pantry, run.clock.moment)
            if len(told) > len(run.presses):
                return "the record has more lines than presses"
            run.order()
            run.ringing()
            Probes(run, work.book.runs).kept("p")
            out_of_cold(run.plan, run.presses, run.clock.moment)
        finally:
            run.close()
    return ""


def spoil_schema(path: Path, pick: random.Random) -> None:
    """Take tables away, change the version, bring in what is not ours."""
    statement = pick.choice(
        (
            "DROP TABLE store",
            "DROP TABLE revision",
            "DROP TABLE change",
            "DROP TABLE formula",
            "DROP TABLE setting",
            "DROP INDEX formula_place",
            "PRAGMA user_version = 99",
            "PRAGMA user_version = 0",
            "PRAGMA user_version = -3",
            "PRAGMA user_version = 1",
            "PRAGMA application_id = 5",
            "ALTER TABLE formula RENAME COLUMN body TO text",
            "ALTER TABLE formula ADD COLUMN more TEXT",
            "CREATE TABLE more (x)",
            "PRAGMA journal_mode = WAL",
            "CREATE TRIGGER t AFTER INSERT ON change BEGIN DELETE FROM formula; END",
            "CREATE VIEW v AS SELECT * FROM formula",
            "ALTER TABLE formula RENAME TO f2; CREATE VIEW formula AS SELECT * FROM f2",
        )
    )
    db = sqlite3.connect(path)
    db.executescript(statement)
    db.close()


def leave_journal(path: Path, pick: random.Random) -> None:
    """Leave something that looks like an unfinished write."""
    path.with_name(path.name + "-journal").write_bytes(
        pick.choice((b"", b"\xd9\xd5\x05\xf9\x20\xa1\x63\xd7" + pick.randbytes(600), b"x" * 40))
    )


def other_file(path: Path, pick: random.Random) -> None:
    """Put something else in its place."""
    path.write_bytes(
        pick.choice(
            (b"", b"SQLite format 3\x00", b"PK\x03\x04", pick.randbytes(5000), b"\x00" * 9000)
        )
    )


DAMAGES: tuple[Callable[[Path, random.Random], None], ...] = (
    flip_bytes, flip_bytes, spoil_page, spoil_page, spoil_root, cut_off, spoil_rows, spoil_rows,
    spoil_schema, leave_journal, other_file,
)  # fmt: skip


def hold(path: Path, whole: Session, names: dict[str, str], store: set[str]) -> str:
    """Open a damaged book and work in it; gives what is wrong with how that went."""
    before = path.read_bytes()
    try:
        book = Book(path)
    except BookError:
        return "" if path.read_bytes() == before else "refused, but the file was changed"
    session = Session(book)
    try:
        told = bool(session.journal.trouble or session.work.notice)
        there = {entry.name for entry in session.shelf.entries.values()}
        lost = [
            n for uid, n in names.items() if uid not in session.shelf.entries and n not in there
        ]
        if lost and not told:
            return f"lost without a word: {lost[0]}"
        missing = store - {kept.key for kept in session.store.rows()}
        if missing and not told:
            return f"lost without a word: {min(missing)}"
        for uid in session.shelf.entries:
            session.shelf.study_of(uid)
            session.shelf.select(uid)
            _ = session.shelf.revision
            try:
                session.shelf.revisions()
            except AplombError:
                continue
        if words := look_at_runs(session):
            return words
        readable = session.formula is not None
        if readable:
            session.shelf.edit("note", lambda f: replace(f, note="edited"))
            session.flush()
        if book.read_only:
            if path.read_bytes() != before:
                return "for reading only, but the file was changed"
            if book.newer:
                return ""
            new = session.work.rescue()
            if session.journal.trouble:
                return f"taken into a new book, it still says: {session.journal.trouble}"
            if new == path:
                return "the new book is the old one"
        else:
            for _ in range(40):
                session.journal.undo()
            for _ in range(3):
                session.journal.redo()
            if readable and session.formula is not None:
                session.shelf.edit("note", lambda f: replace(f, note="edited again"))
            if not session.flush():
                return (
                    f"cannot be written: {session.journal.trouble}"
                    if not session.journal.trouble
                    else ""
                )
    finally:
        session.close()
        book.close()
    return ""


def find(
    cases: int, start: int = 0, folder: Path | None = None
) -> tuple[Counter[str], dict[str, int]]:
    """Damage and open so many books.

    Parameters
    ----------
    cases : int
    start : int
        Number of the first; the same number is the same damage.
    folder : Path or None
        Where they are made; None for one that goes away.

    Returns
    -------
    tuple of (faults with how often, the first case of each)
    """
    app = QCoreApplication.instance() or QCoreApplication([])
    here = Path(tempfile.mkdtemp(prefix="aplomb-books-", dir=folder))
    faults: Counter[str] = Counter()
    first: dict[str, int] = {}
    try:
        base = here / "base.aplomb"
        make_base(base)
        whole = Session(Book(base))
        names = {uid: entry.name for uid, entry in whole.shelf.entries.items()}
        store = {kept.key for kept in whole.store.rows()}
        whole.close()
        for case in range(start, start + cases):
            pick = random.Random(case)
            room = here / str(case)
            room.mkdir()
            path = room / "a.aplomb"
            shutil.copy(base, path)
            damage = pick.choice(DAMAGES)
            damage(path, pick)
            try:
                words = hold(path, whole, names, store)
            except Exception as error:  # noqa: BLE001  # this is what is looked for
                last = traceback.extract_tb(error.__traceback__)[-1]
                words = f"{type(error).__name__}: {str(error)[:90]} ({last.name}:{last.lineno})"
            if words:
                words = f"{damage.__name__}: {words}"
                faults[words] += 1
                first.setdefault(words, case)
            shutil.rmtree(room)
            app.processEvents()
    finally:
        shutil.rmtree(here, ignore_errors=True)
    return faults, first
