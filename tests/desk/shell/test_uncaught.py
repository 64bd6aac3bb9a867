"""What nobody caught: a fault of ours is told once, in words, and the book stays sound."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtWidgets import QApplication, QProgressDialog, QPushButton

from aplomb.book.book import Book, BookError
from aplomb.book.settings import Settings, keep
from aplomb.core.base.errors import AplombError
from aplomb.desk.app import open_window
from aplomb.desk.kit import progress
from aplomb.desk.kit.background import FaultError, LatestJob
from aplomb.desk.shell.uncaught import UncaughtErrors, report_of
from aplomb.work.open_book import shelf as shelf_module

SRC = Path(__file__).resolve().parents[3] / "src"


@pytest.fixture
def uncaught(qapp):
    said, told = [], []
    made = UncaughtErrors(said.append, lambda words, report: told.append((words, report)))
    return made, said, told


def fault():
    raise ZeroDivisionError("boom")


def raised(act):
    try:
        act()
    except (ArithmeticError, AplombError) as error:
        return error
    raise AssertionError("nothing was raised")


def test_a_fault_is_told_once_and_a_flood_only_counted(uncaught, capsys):
    made, said, told = uncaught
    for _ in range(50):
        made.caught(raised(fault))
        QApplication.processEvents()
    assert len(told) == 1
    words, report = told[0]
    assert "Something went wrong in Aplomb;" in words
    assert "ZeroDivisionError: boom" in report
    assert made.faults == [report]
    assert said == []
    assert "boom" in capsys.readouterr().err


def test_a_refusal_that_nobody_caught_is_said_at_the_foot(uncaught):
    made, said, told = uncaught
    made.caught(AplombError("There is no room."))
    QApplication.processEvents()
    assert (said, told) == (["There is no room."], [])


def test_a_report_names_no_folder_of_this_machine():
    report = report_of(raised(lambda: Book(Path("/")).close()))
    assert str(SRC) not in report
    assert "aplomb/book/" in report


def test_work_beside_the_window_ends_in_words_whatever_it_raises(qapp, qtbot, monkeypatch):
    """“Writing …” must not stay for ever."""
    caught, came = [], []
    monkeypatch.setattr(sys, "excepthook", lambda *error: caught.append(error[0]))
    beside = LatestJob(came.append, qapp)
    beside.ask(fault)
    qtbot.waitUntil(lambda: bool(came))
    assert isinstance(came[0], FaultError)
    assert "a fault in Aplomb" in str(came[0])
    assert caught == [ZeroDivisionError]
    assert not beside.busy


def test_a_formula_that_cannot_be_worked_out_by_our_fault_changes_nothing(window, monkeypatch):
    caught = []
    monkeypatch.setattr(sys, "excepthook", lambda *error: caught.append(error[0]))
    monkeypatch.setattr(shelf_module, "make_study", lambda *_, **__: fault())
    before = window.session.formula
    with pytest.raises(AplombError, match="fault of"):
        window.session.shelf.edit("cold", lambda f: replace(f, dough_c=3.0))
    assert window.session.formula is before
    assert window.session.shelf.entries[window.session.uid].formula is before
    assert caught == [ZeroDivisionError]


@pytest.mark.parametrize("what", ["gone", "long", "damaged", "folder", "null"])
def test_the_window_opens_whatever_became_of_the_last_book(qapp, qtbot, tmp_path, what):
    last = tmp_path / "last.aplomb"
    if what == "damaged":
        last.write_bytes(b"shopping list " * 40)
    elif what == "folder":
        last.mkdir()
    named = {"long": str(tmp_path / ("x" * 300)), "null": "a\0b"}.get(what, str(last))
    keep(Settings(last_book=named))
    window = open_window(None, demo=False)
    qtbot.addWidget(window)
    assert "Your own book is open instead" in window.session.work.notice
    assert window.banner.words.text() == window.session.work.notice
    assert window.banner.isVisibleTo(window)
    assert not window.banner.rescue.isVisibleTo(window.banner), "nothing is in danger"
    window.banner.seen.click()
    assert not window.banner.isVisibleTo(window)
    window.session.shelf.new()
    assert window.session.flush()
    window.close()


def test_an_own_book_that_is_damaged_is_left_and_a_new_one_opened(
    qapp, qtbot, tmp_path, monkeypatch
):
    monkeypatch.setenv("APLOMB_HOME", str(tmp_path))
    (tmp_path / "book.aplomb").write_bytes(b"no book at all " * 50)
    window = open_window(None, demo=False)
    qtbot.addWidget(window)
    assert window.session.book.path.name == "book 2.aplomb"
    assert "A new book is open instead" in window.session.work.notice
    assert (tmp_path / "book.aplomb").read_bytes() == b"no book at all " * 50
    window.close()


def test_an_empty_file_of_a_start_that_was_cut_off_is_made_again(
    qapp, qtbot, tmp_path, monkeypatch
):
    monkeypatch.setenv("APLOMB_HOME", str(tmp_path))
    (tmp_path / "demo.aplomb").touch()
    window = open_window(None, demo=True)
    qtbot.addWidget(window)
    assert len(window.session.shelf.entries) == 7
    assert window.session.journal.next_words() == ("", ""), "undo does not take the demo apart"
    window.close()


def test_a_book_named_on_the_command_line_that_is_none_is_refused(tmp_path):
    (tmp_path / "x.aplomb").write_bytes(b"")
    with pytest.raises(BookError, match="0 bytes"):
        open_window(tmp_path / "x.aplomb", demo=False)


def catches(process, number):
    """Whether a process has taken a signal in hand, as the kernel tells."""
    told = Path(f"/proc/{process}/status").read_text("ascii", "replace")
    mask = next((n.split()[1] for n in told.splitlines() if n.startswith("SigCgt")), "0")
    return bool(int(mask, 16) >> (number - 1) & 1)


@pytest.mark.parametrize(("number", "code"), [(signal.SIGINT, 130), (signal.SIGTERM, 143)])
def test_a_signal_ends_it_quietly_with_everything_kept(tmp_path, number, code):
    home = tmp_path / "home"
    surroundings = dict(
        os.environ,
        PYTHONPATH=str(SRC),
        APLOMB_HOME=str(home),
        QT_QPA_PLATFORM="offscreen",
        LC_ALL="C.UTF-8",
    )
    running = subprocess.Popen(
        [sys.executable, "-m", "aplomb", "--demo"],
        env=surroundings,
        stderr=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
    )
    until = time.monotonic() + 60
    lock = home / ".demo.aplomb.lock"
    while time.monotonic() < until and not (lock.exists() and (home / "demo.aplomb").exists()):
        time.sleep(0.05)
    while time.monotonic() < until and not catches(running.pid, signal.SIGTERM):
        time.sleep(0.05)
    time.sleep(2.0)  # the window stands; a start that is interrupted is tried in the next test
    running.send_signal(number)
    out, err = running.communicate(timeout=30)
    assert running.returncode == code
    assert out == ""
    assert [line for line in err.splitlines() if "plugin" not in line] == []
    book = Book(home / "demo.aplomb")
    assert len(book.entries()) == 7
    book.close()


def test_an_interrupted_start_says_nothing(tmp_path):
    surroundings = dict(
        os.environ, PYTHONPATH=str(SRC), APLOMB_HOME=str(tmp_path), QT_QPA_PLATFORM="offscreen"
    )
    for after in (0.02, 0.2, 0.4):
        running = subprocess.Popen(  # the launcher lets Python begin without the signal
            [sys.executable, "-m", "aplomb", "--demo"],
            env=surroundings,
            stderr=subprocess.PIPE,
            text=True,
            preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_IGN),
        )
        until = time.monotonic() + 60
        while running.poll() is None and time.monotonic() < until:
            time.sleep(after)
            running.send_signal(signal.SIGINT)
        _, err = running.communicate(timeout=30)
        assert running.returncode in (-signal.SIGINT, 130)
        assert "Traceback" not in err


def long_sheet(tmp_path, lines):
    path = tmp_path / "prices.csv"
    path.write_text("name,price,pack\n" + "".join(f"M{n},1,1 kg\n" for n in range(lines)))
    return path


@pytest.mark.usefixtures("new_window")
def test_a_long_sheet_shows_progress_and_can_be_stopped(
    window, qtbot, answers, tmp_path, monkeypatch
):
    monkeypatch.setattr(progress, "SHOWN_AFTER_MS", 0)
    before, offered = window.session.reference.pantry, []
    # A machine that reads it all before Stop is pressed is told below, and waits for no dialog.
    monkeypatch.setattr(window.files, "_offer_data", lambda *_: offered.append(True))
    window.files._read_data(long_sheet(tmp_path, 80_000))
    qtbot.waitUntil(lambda: bool(window.findChildren(QProgressDialog)))
    bar = window.findChildren(QProgressDialog)[0]
    qtbot.waitUntil(lambda: bar.value() > 0, timeout=20_000)
    stop = next(b for b in bar.findChildren(QPushButton) if b.text() == "Stop")
    stop.click()
    qtbot.waitUntil(lambda: bool(answers.texts) or bool(offered), timeout=20_000)
    assert not offered
    assert "stopped at line" in answers.texts[0]
    assert window.session.reference.pantry is before
    qtbot.waitUntil(lambda: not window.files.reading.busy)


def test_a_short_sheet_is_read_without_a_bar(window, qtbot, tmp_path, monkeypatch):
    offered = []
    monkeypatch.setattr(window.files, "_offer_data", lambda sheet, name: offered.append(sheet))
    window.files._read_data(long_sheet(tmp_path, 5))
    qtbot.waitUntil(lambda: bool(offered))
    assert len(offered[0].rows) == 5
    assert not any(bar.isVisible() for bar in window.findChildren(QProgressDialog))
