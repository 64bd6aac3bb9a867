"""A window on the demo book, driven by keys, mouse and the visible text; what several tests use."""

import atexit
import shutil
import tempfile
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path
from typing import Any

import pypdfium2
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QDialog, QLabel, QMessageBox, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.book.settings import Settings
from aplomb.desk.batch.cut import CutPage
from aplomb.desk.batch.weigh import WeighPage
from aplomb.desk.kit import ask_path
from aplomb.desk.kit.collecting import Collector
from aplomb.desk.kit.theme import load_fonts, look
from aplomb.desk.paper.papers_page import PapersPage
from aplomb.desk.session import Session
from aplomb.desk.shell.book_check import BookCheck
from aplomb.desk.shell.cold_watch import ColdWatch
from aplomb.desk.shell.window import Window
from aplomb.devices.simulated import SimulatedDevice
from aplomb.work.commands import BATCH, SHELF
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench


@pytest.fixture(scope="session")
def qapp(qapp: QApplication) -> QApplication:
    qapp.setStyle("Fusion")
    load_fonts()
    Collector(qapp)
    return qapp


@pytest.fixture(autouse=True)
def plain_look(qapp: QApplication) -> Iterator[None]:
    """What a test wears is not worn by the next, and what it copied is not pasted by the next."""
    yield
    look.wear("light", 100)
    if QGuiApplication.clipboard().text():
        QGuiApplication.clipboard().clear()


@pytest.fixture(autouse=True)
def _cold_when_asked(monkeypatch: pytest.MonkeyPatch) -> None:
    """The cold's opinions come a moment later; a test that wants them asks."""
    monkeypatch.setattr(ColdWatch, "AFTER_MS", 3_600_000)
    monkeypatch.setattr(BookCheck, "AFTER_MS", 3_600_000)


@pytest.fixture(autouse=True)
def _quick_devices(monkeypatch: pytest.MonkeyPatch) -> None:
    """Stand-ins speak five times as often, so that nobody waits for them."""
    monkeypatch.setattr(SimulatedDevice, "every_s", 0.02)


@pytest.fixture
def book_path(tmp_path: Path) -> Path:
    return tmp_path / "test.aplomb"


@cache
def demo_file() -> Path:
    """The demo book, filled once in every process of tests."""
    path = Path(tempfile.mkdtemp(prefix="aplomb-tests-")) / "demo.aplomb"
    work = Workbench(Book(path), reference())
    fill_with_demo(work)
    work.close()
    atexit.register(shutil.rmtree, path.parent, True)
    return path


def open_at(path: Path, qtbot: QtBot, *, demo: bool = True, **settings: Any) -> Window:
    """Open a window on a book, shown and active."""
    if demo and not path.exists():
        shutil.copy(demo_file(), path)
    session = Session(Book(path), Settings(**settings))
    window = Window(session)
    qtbot.addWidget(window, before_close_func=lambda w: w.session.flush())
    show_active(window, qtbot)
    return window


def show_active(window: Window, qtbot: QtBot) -> None:
    window.resize(1280, 800)
    with qtbot.waitActive(window):
        window.show()
        window.activateWindow()


KEPT: list[Window] = []
"""The window that is handed from test to test; empty before the first, or when it was closed."""


@pytest.fixture
def new_window() -> None:
    """What a test uses that must not have a window in which others picked, folded or typed."""
    while KEPT:
        put_away(KEPT.pop())


def put_away(window: Window) -> None:
    window.close()
    window.deleteLater()


@pytest.fixture
def window(qapp: QApplication, qtbot: QtBot, book_path: Path) -> Iterator[Window]:
    """A window on a demo book of its own: the last test's, with another book opened in it."""
    made = KEPT.pop() if KEPT else None
    shutil.copy(demo_file(), book_path)
    if made is None:
        made = Window(Session(Book(book_path), Settings()))
    else:
        made.session.work.open_book(book_path)
    show_active(made, qtbot)
    made.show_stage(SHELF)
    # What is painted is tested through `still`, in sizes and pictures of its own and by the walk.
    made.setUpdatesEnabled(False)
    yield made
    made.setUpdatesEnabled(True)
    if is_as_new(made):
        KEPT.append(made)
    else:
        put_away(made)


def is_as_new(window: Window) -> bool:
    """Whether the next test can have a window: nothing of it was changed but its book."""
    return (
        window.isVisible()
        and window.commit()
        and window.session.flush()
        and window.session.settings == Settings()
        and window.session.reference.house.masses == "g"
        and window.findChild(QDialog) is None
    )


@pytest.fixture
def empty(qapp: QApplication, qtbot: QtBot, book_path: Path) -> Iterator[Window]:
    made = open_at(book_path, qtbot, demo=False)
    made.setUpdatesEnabled(False)
    yield made
    made.close()


@pytest.fixture(scope="session")
def shared_window(qapp: QApplication, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Window]:
    """One window for all tests that only look; `still` gives it to a test."""
    yield from shown_for_long(tmp_path_factory)


def shown_for_long(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Window]:
    """Open a window on the demo book that serves many tests."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("APLOMB_HOME", str(tmp_path_factory.mktemp("shared-home")))
        patch.setattr(ColdWatch, "AFTER_MS", 3_600_000)
        session = Session(Book(tmp_path_factory.mktemp("shared") / "test.aplomb"))
        fill_with_demo(session.work)
        made = Window(session)
        made.resize(1280, 800)
        made.show()
        yield made
        made.close()
        made.deleteLater()


@pytest.fixture
def still(shared_window: Window) -> Window:
    """A window that is only looked at: the first formula in hand, on the shelf."""
    return as_at_first(shared_window)


def as_at_first(window: Window) -> Window:
    """Bring a window that serves many tests to its shelf; what is not seen is not painted."""
    window.session.shelf.select(next(iter(window.session.shelf.entries)))
    window.show_stage(SHELF)
    window.activateWindow()
    return window


class Person:
    """Someone at the keyboard: types into whatever has the focus, and reads what is shown."""

    def __init__(self, window: Window, qtbot: QtBot) -> None:
        self.window, self.qtbot = window, qtbot

    def press(
        self,
        key: Qt.Key,
        mods: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
        times: int = 1,
    ) -> None:
        for _ in range(times):
            target = self.focus or self.window
            self.qtbot.keyClick(target, key, mods)
            QApplication.processEvents()

    def alt(self, key: Qt.Key) -> None:
        self.press(key, Qt.KeyboardModifier.AltModifier)

    def ctrl(self, key: Qt.Key) -> None:
        self.press(key, Qt.KeyboardModifier.ControlModifier)

    def type(self, text: str, enter: bool = True) -> None:
        target = self.focus
        assert target is not None, "nothing has the focus"
        self.qtbot.keyClicks(target, text)
        if enter:
            self.press(Qt.Key.Key_Return)

    @property
    def focus(self) -> QWidget | None:
        if QApplication.focusWidget() is None:  # no window manager hands the focus back
            self.window.activateWindow()
            QApplication.processEvents()
        return QApplication.focusWidget()

    @property
    def formula(self) -> Any:
        return self.window.session.formula

    @property
    def readings(self) -> Any:
        return self.window.session.study.readings


@pytest.fixture
def person(window: Window, qtbot: QtBot) -> Person:
    return Person(window, qtbot)


@pytest.fixture
def answers(monkeypatch: pytest.MonkeyPatch) -> type[Any]:
    """Answer file dialogs and notices; what the notices said is kept."""
    said: list[str] = []

    class Answers:
        path = ""
        texts = said

    monkeypatch.setattr(ask_path, "choose", lambda _dialog: str(Answers.path))
    monkeypatch.setattr(QMessageBox, "exec", lambda box: said.append(box.text()) or 0)
    return Answers


def shown(widget: QWidget) -> str:
    """All that can be read in a widget."""
    texts = [w.text() for w in widget.findChildren(QLabel) if w.isVisible()]
    texts += [w.text() for w in widget.findChildren(QPushButton) if w.isVisible()]
    return "\n".join(texts)


def tab_to(person: Person, test: Callable[[QWidget], bool]) -> QWidget:
    """Go on by Tab until something that fits has the keyboard."""
    for _ in range(120):
        focus = person.focus
        if focus is not None and test(focus):
            return focus
        person.press(Qt.Key.Key_Tab)
    raise AssertionError("not reached by Tab")


def named(words: str) -> Callable[[QWidget], bool]:
    return lambda w: words in (w.accessibleName() or (w.text() if hasattr(w, "text") else ""))


def place(window: Window, key: str) -> Any:
    window.show_stage(BATCH)
    window.open_page(key)
    QApplication.processEvents()
    return window.pages[key]


def searched(qtbot: QtBot, cut: CutPage) -> None:
    qtbot.waitUntil(lambda: not cut.waits, timeout=20_000)
    QApplication.processEvents()


def painted(qtbot: QtBot, papers: PapersPage) -> None:
    qtbot.waitUntil(lambda: not papers.painting.busy, timeout=20_000)
    QApplication.processEvents()


def scale_shows(qtbot: QtBot, weigh: WeighPage, grams: float) -> None:
    qtbot.waitUntil(lambda: weigh.grams == pytest.approx(grams) and weigh.steady, timeout=20_000)


def text_of(data: bytes) -> tuple[str, int]:
    """Give the text of a PDF and its pages."""
    document = pypdfium2.PdfDocument(data)
    text = "\n".join(page.get_textpage().get_text_range() for page in document)
    pages = len(document)
    document.close()
    return text.replace("\r", ""), pages
