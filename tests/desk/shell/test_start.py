"""The start: the window stands with the names before anything is worked out, and ends the same."""

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from aplomb.book.book import Book, BookError
from aplomb.core.base.errors import AplombError
from aplomb.desk.session import Session
from aplomb.desk.shell import window as shell
from aplomb.desk.shell.window import Window
from desk.conftest import demo_file

FIRST_PAINT = """
import json, sys
from aplomb.cli import main
code = main(["--demo", "--smoke"])
print(json.dumps([code, sorted(sys.modules)]))
"""
WAITED_FOR = (
    "numpy",
    "scipy",
    "aplomb.core.study",
    "aplomb.core.paste",
    "aplomb.core.opinion",
    "aplomb.core.trials",
    "aplomb.work.open_book.workbench",
    "aplomb.exchange",
    "aplomb.book.migrate",
)


@pytest.fixture
def slow(monkeypatch):
    """What follows the first paint comes when it is asked for and not before."""
    monkeypatch.setattr(shell, "FILL_AFTER_MS", 3_600_000)


def shown(path, qtbot, unready=None):
    """A window on the demo, as it stands after its first paint."""
    shutil.copy(demo_file(), path)
    window = Window(Session(Book(path)), unready)
    qtbot.addWidget(window, before_close_func=lambda w: w.session.flush())
    window.resize(1280, 800)
    with qtbot.waitActive(window):
        window.show()
        window.activateWindow()
    window.repaint()
    return window


def tab_stops(window):
    """Where the Tab key stops, by name."""
    found, at = [], window.nextInFocusChain()
    while at is not window:
        if at.isVisible() and at.focusPolicy() & Qt.FocusPolicy.TabFocus:
            found.append(at.accessibleName() or getattr(at, "text", str)())
        at = at.nextInFocusChain()
    return found


def test_the_first_paint_waits_for_no_computation(tmp_path):
    shutil.copy(demo_file(), tmp_path / "demo.aplomb")
    done = subprocess.run(
        [sys.executable, "-c", FIRST_PAINT],
        capture_output=True,
        text=True,
        check=True,
        env=os.environ
        | {
            "APLOMB_HOME": str(tmp_path),
            "PYTHONPATH": os.pathsep.join(sys.path),
            "QT_QPA_PLATFORM": "offscreen",
        },
    )
    code, modules = json.loads(done.stdout)
    assert code == 0
    assert [m for m in modules if m.startswith(WAITED_FOR)] == []


def test_names_stand_before_anything_is_worked_out(qapp, qtbot, tmp_path, slow):
    window = shown(tmp_path / "a.aplomb", qtbot, unready=pytest.fail)
    assert not window.session.at_work
    assert window.headline.name.text() == "Regatta case paste"
    assert window.windowTitle() == "Regatta case paste · a · Aplomb"
    model = window.shelf.list.model()
    names = [model.index(row, 0).data() for row in range(model.rowCount())]
    assert len(names) == 7
    assert "Kiosk turnover paste" in names
    assert window.shelf.list.currentIndex().row() == 0
    assert QApplication.focusWidget() is window.shelf.list


@pytest.fixture
def both(qapp, qtbot, tmp_path, monkeypatch):
    """A window filled at once and one filled after its first paint, on the same book."""
    monkeypatch.setattr(shell, "FILL_AFTER_MS", 0)
    (tmp_path / "b").mkdir()
    at_once = shown(tmp_path / "a.aplomb", qtbot)
    later = shown(tmp_path / "b" / "a.aplomb", qtbot, unready=pytest.fail)
    qtbot.waitUntil(lambda: bool(later.headline.figures))
    return at_once, later


def test_filled_later_it_looks_the_same(both, qtbot):
    pictures = []
    for window in both:
        window.shelf.delegate.with_sections = True
        window.activateWindow()
        window.shelf.list.setFocus()
        qtbot.waitUntil(window.shelf.list.hasFocus)
        pictures.append(window.grab().toImage())
    assert pictures[0] == pictures[1]


def test_filled_later_the_tab_key_goes_the_same_way(both):
    assert tab_stops(both[0]) == tab_stops(both[1])
    stops = tab_stops(both[1])
    assert stops.index("Book: open, copy, print, settings") + 1 == next(
        i for i, name in enumerate(stops) if name.startswith("Fat on flour")
    )
    assert stops[-1] == "Hide"


PRESSED = {
    "Ctrl+D": (lambda w: QTest.keyClick(w, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier),
               lambda w: len(w.session.entries) == 8),
    "Delete": (lambda w: QTest.keyClick(w.shelf.list, Qt.Key.Key_Delete),
               lambda w: len(w.session.entries) == 6),
    "Down": (lambda w: QTest.keyClick(w.shelf.list, Qt.Key.Key_Down),
             lambda w: w.headline.name.text() == w.session.formula.name != "Regatta case paste"),
    "Enter": (lambda w: QTest.keyClick(w.shelf.list, Qt.Key.Key_Return),
              lambda w: w.stages.currentWidget() is w.paste),
    "Alt+3": (lambda w: QTest.keyClick(w, Qt.Key.Key_3, Qt.KeyboardModifier.AltModifier),
              lambda w: w.stages.currentWidget() is w.folds),
    "F6": (lambda w: QTest.keyClick(w, Qt.Key.Key_F6), lambda w: bool(w.headline.figures)),
    "a letter": (lambda w: QTest.keyClicks(w.shelf.search, "leek"),
                 lambda w: w.shelf.list.model().rowCount() == 1),
    "a tab": (lambda w: w.rail.tabs[1].click(), lambda w: w.stages.currentWidget() is w.paste),
}  # fmt: skip
"""What may be pressed before the rest is there, and what then has happened."""


@pytest.mark.parametrize("what", PRESSED)
def test_what_is_pressed_before_the_rest_is_there_is_done(qapp, qtbot, tmp_path, slow, what):
    window = shown(tmp_path / "a.aplomb", qtbot, unready=pytest.fail)
    press, happened = PRESSED[what]
    press(window)
    qtbot.waitUntil(lambda: happened(window))
    assert window.uncaught.faults == []


@pytest.mark.parametrize("change", ["resize", "close", "larger", "hide"])
def test_what_happens_to_it_meanwhile_does_no_harm(qapp, qtbot, tmp_path, slow, change):
    path = tmp_path / "a.aplomb"
    window = shown(path, qtbot, unready=pytest.fail)
    match change:
        case "resize":
            for width in (640, 1024, 1900):
                window.resize(width, 700)
                QApplication.processEvents()
        case "larger":
            QTest.keyClick(window, Qt.Key.Key_Plus, Qt.KeyboardModifier.ControlModifier)
        case "hide":
            window.hide()
            window.show()
        case _:
            assert window.close()
            assert not window.session.at_work, "nothing is worked out only to be closed"
    assert window.uncaught.faults == []
    if change == "close":
        again = Book(path)  # it was let go
        assert len(again.entries()) == 7
        again.close()


def test_what_keeps_the_rest_from_coming_is_told(qapp, qtbot, tmp_path, slow, monkeypatch):
    def refuse(*_):
        raise BookError("The disk cannot be read.")

    told = []
    window = shown(tmp_path / "a.aplomb", qtbot, unready=told.append)
    monkeypatch.setattr("aplomb.desk.kit.local.work_on", refuse)
    monkeypatch.setattr(shell, "FILL_AFTER_MS", 0)
    window._painted = False
    window.repaint()
    qtbot.waitUntil(lambda: bool(told))
    assert "cannot be read" in str(told[0])
    assert isinstance(told[0], AplombError)


def test_a_program_that_cannot_work_the_book_out_ends_with_words(tmp_path):
    shutil.copy(demo_file(), tmp_path / "demo.aplomb")
    code = (
        "import sys\n"
        "import aplomb.desk.kit.local as local\n"
        "from aplomb.book.book import BookError\n"
        "from aplomb.cli import main\n"
        "def refuse(*_):\n"
        "    raise BookError('The disk cannot be read.')\n"
        "local.work_on = refuse\n"
        "sys.exit(main(['--demo']))\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code],
        capture_output=True,
        text=True,
        check=False,
        timeout=60,
        env=os.environ
        | {
            "APLOMB_HOME": str(tmp_path),
            "PYTHONPATH": os.pathsep.join(sys.path),
            "QT_QPA_PLATFORM": "offscreen",
        },
    )
    assert done.returncode == 2
    assert "aplomb: The disk cannot be read." in done.stderr
    assert "Traceback" not in done.stderr


def test_a_book_left_by_a_start_that_was_closed_at_once_opens(qapp, qtbot, tmp_path, slow):
    path = Path(tmp_path / "a.aplomb")
    first = shown(path, qtbot, unready=pytest.fail)
    first.close()
    window = Window(Session(Book(path)))
    qtbot.addWidget(window, before_close_func=lambda w: w.session.flush())
    assert isinstance(window.opinion, QWidget)
    assert window.session.study is not None
