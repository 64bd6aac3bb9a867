"""Every stage, place, menu and dialog: no stray window, the keyboard somewhere, nothing nameless;
and a change of text size or theme reaches what is not seen when it is shown."""

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QAccessible, QGuiApplication
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QFileDialog,
    QMessageBox,
    QPushButton,
    QWidget,
)

from aplomb.core.paste.formula import Part
from aplomb.desk.kit import ask_path
from aplomb.desk.kit.fields import WIDTH_AT_100, plain_tip
from aplomb.desk.kit.theme import look
from aplomb.work.commands import BATCH, FOLDS, PASTE, SHELF
from aplomb.work.commands import PAGES as COMMANDS_OF_PAGES
from desk.conftest import Person, open_at
from finders.press import describe, expected_window

K = Qt.Key
PAGES = [page.key for page in COMMANDS_OF_PAGES]
LIST = "500 g plain flour\n250 ml water\n1 tsp salt\n450 g butter, salted\nsomething else"


@pytest.fixture
def strays(qapp, window):
    """Sees every window that is shown, however shortly, and is no dialog or menu."""
    yield from watched(qapp, window)


@pytest.fixture
def still_strays(qapp, still):
    """The same of the window that is shared."""
    yield from watched(qapp, still)


def watched(qapp, window):
    found = []

    class Shows(QObject):
        def eventFilter(self, seen, event):
            shown = event.type() == QEvent.Type.Show and isinstance(seen, QWidget)
            if shown and seen.isWindow() and not expected_window(seen, window):
                found.append(describe(seen))
            return False

    shows = Shows()
    qapp.installEventFilter(shows)
    yield found
    qapp.removeEventFilter(shows)


def keyboard_is_somewhere():
    focus = QApplication.focusWidget()
    return focus is not None and focus.isVisible() and focus.isEnabled()


@pytest.mark.parametrize("key", PAGES)
def test_a_page_shows_no_stray_window_and_has_the_keyboard(still, qtbot, still_strays, key):
    person = Person(still, qtbot)
    still.open_page(key)
    QApplication.processEvents()
    assert person.focus is not None
    assert keyboard_is_somewhere()
    formulas = list(still.session.shelf.entries)  # blocks, pieces, gluten-free, in turn
    still.session.shelf.select(formulas[PAGES.index(key) % len(formulas)])
    QApplication.processEvents()
    person.press(K.Key_Escape)
    qtbot.waitUntil(keyboard_is_somewhere)
    assert still_strays == []


@pytest.mark.parametrize("stage", [SHELF, PASTE, FOLDS, BATCH])
def test_a_stage_shows_no_stray_window_and_has_the_keyboard(still, qtbot, still_strays, stage):
    person = Person(still, qtbot)
    still.show_stage(stage)
    for formula in list(still.session.shelf.entries)[::2]:
        still.session.shelf.select(formula)
        QApplication.processEvents()
        assert person.focus is not None
    assert still_strays == []


def test_a_list_that_is_pasted_shows_no_window(window, qtbot, strays):
    """A label for doubts was shown before it had a parent: a window that took the focus."""
    window.open_page("list")
    page = window.pages["list"]
    page.text.setFocus()
    QGuiApplication.clipboard().setText(LIST)
    Person(window, qtbot).ctrl(K.Key_V)
    page.read()
    QApplication.processEvents()
    assert len(page.rows) == 5
    assert strays == []


def test_a_line_too_many_is_told(window, qtbot):
    window.open_page("list")
    page = window.pages["list"]
    page.text.setPlainText("\n".join(f"{n} g salt" for n in range(1, 204)))
    page.read()
    assert len(page.rows) == 200
    assert "last 3 lines" in page.error.text()
    page.text.setPlainText("1 g salt")
    page.read()
    assert page.error.text() == ""


def closing(qtbot, seen):
    """Look at the dialog that opens, press Tab through it, and leave it by Escape."""

    def look():
        dialog = QApplication.activeModalWidget()
        if dialog is None:
            return
        names = [
            QAccessible.queryAccessibleInterface(w).text(QAccessible.Text.Name)
            for w in dialog.findChildren(QPushButton)
            if w.isVisible()
        ]
        seen.append((type(dialog).__name__, names, dialog.styleSheet()))
        qtbot.keyClick(dialog, K.Key_Tab)
        qtbot.keyClick(dialog, K.Key_Escape)

    QTimer.singleShot(50, look)


DIALOGS = {
    "name": lambda w: w.do("name"),
    "revision": lambda w: w.do("revision"),
    "keys": lambda w: w.help(),
    "refusal": lambda w: w.files.refuse("No."),
    "fault": lambda w: w._tell_fault("Ours.", "report"),
    "open a book": lambda w: w.files.open_book(),
    "save a copy": lambda w: w.files.keep_copy(),
    "note": lambda w: w.paste.cards[Part.DOUGH]._ask_note(0),
    "material": lambda w: w.paste.cards[Part.DOUGH]._swap(0),
}


def test_a_dialog_wears_the_theme_and_gives_the_keyboard_back(window, qtbot, strays):
    window.show_stage(PASTE)
    window.toggle_theme()
    QApplication.processEvents()
    for name, open_it in DIALOGS.items():
        seen = []
        closing(qtbot, seen)
        open_it(window)
        QApplication.processEvents()
        qtbot.waitUntil(lambda seen=seen: bool(seen))
        _, names, style = seen[0]
        assert all(any(ch.isalnum() for ch in name) for name in names), name
        assert style == look.theme.style(), name
        window.activateWindow()
        qtbot.waitUntil(keyboard_is_somewhere)
        assert strays == [], name


def test_a_file_dialog_looks_at_names_only(window, qtbot, tmp_path):
    """Qt's own would open the book to see its kind, and drop SQLite's locks with it."""
    import subprocess
    import sys

    path = window.session.book.path
    seen = []

    def look():
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, QFileDialog)
        other = subprocess.run(
            [
                sys.executable,
                "-c",
                (
                    "import sqlite3, sys; d = sqlite3.connect(sys.argv[1], timeout=0.1);"
                    "d.execute('BEGIN IMMEDIATE')"
                ),
                str(path),
            ],
            capture_output=True,
            text=True,
            check=False,
        )
        seen.append(other.stderr)
        dialog.reject()

    QTimer.singleShot(600, look)
    window.files.open_book()
    assert "locked" in seen[0], "another process may not write while the book is open here"


def test_names_are_cut_to_what_a_disk_takes():
    assert ask_path.fitting_name("a.pdf") == "a.pdf"
    long = ask_path.fitting_name("é" * 300 + ".pdf")
    assert long.endswith(".pdf")
    assert 250 <= len(long.encode()) <= 255


def test_a_live_change_of_text_size_gives_every_field_its_new_width(qtbot, tmp_path, qapp):
    """On every third page, opened before the change or not: as in a window of that size."""
    some = list(PAGES)[::3]

    def widths(window, key):
        window.open_page(key)
        QApplication.processEvents()
        return [
            (w.accessibleName(), w.width())
            for w in window.pages[key].findChildren(QWidget)
            if w.property(WIDTH_AT_100) is not None and w.isVisible()
        ]

    changed = open_at(tmp_path / "a.aplomb", qtbot)
    for key in some:
        changed.open_page(key)
    QApplication.processEvents()
    changed.show_stage(SHELF)
    for _ in range(5):
        changed.text_size(10)
    found = {key: widths(changed, key) for key in some}
    fresh = open_at(tmp_path / "b.aplomb", qtbot, text_pct=150)
    assert found == {key: widths(fresh, key) for key in some}
    assert changed.rail.width() == fresh.rail.width() > 92
    for window in (changed, fresh):
        window.close()


def test_only_what_is_seen_is_dressed_at_once(window):
    window.open_page("fats")
    window.show_stage(PASTE)
    fats, paste = window.pages["fats"], window.paste
    old = fats.styleSheet()
    window.toggle_theme()
    assert paste.styleSheet() == look.theme.style() != old
    assert fats.styleSheet() == old
    window.open_page("fats")
    assert fats.styleSheet() == look.theme.style()


@pytest.mark.parametrize(
    ("text", "plain"),
    [
        ("plain", "plain"),
        ("a & b", "a & b"),
        ("<b>x</b>", "<p>&lt;b&gt;x&lt;/b&gt;</p>"),
        ("<i>a\nb", "<p>&lt;i&gt;a<br>b</p>"),
        ("&lt;", "<p>&amp;lt;</p>"),
    ],
)
def test_markup_in_a_name_is_plain_text_in_a_tip(text, plain):
    assert plain_tip(text) == plain


def test_a_name_with_markup_is_shown_as_it_is(window, person):
    name = "<img src=x> & co"
    window.session.shelf.edit("name", lambda f: replace(f, name=name))
    QApplication.processEvents()
    assert window.headline.name.toolTip() == plain_tip(name)
    assert window.headline.name.text() == name
    box = []

    def look():
        dialog = QApplication.activeModalWidget()
        box.append(dialog.textFormat() if isinstance(dialog, QMessageBox) else None)
        if isinstance(dialog, QDialog):
            dialog.reject()

    QTimer.singleShot(30, look)
    window.files.refuse(name)
    assert box == [Qt.TextFormat.PlainText]


@pytest.mark.parametrize(("text_pct", "size"), [(100, (1280, 800)), (150, (1024, 700))])
def test_the_banner_shows_all_its_words_and_what_can_be_done(window, qtbot, text_pct, size):
    window.resize(*size)
    while window.session.settings.text_pct < text_pct:
        window.text_size(10)
    window.session.book.path.unlink()
    window.session.shelf.edit("cold", lambda f: replace(f, dough_c=9.0))
    assert not window.session.flush()
    QApplication.processEvents()
    words = window.banner.words
    assert words.isVisible()
    assert "no longer in" in words.text()
    assert words.height() >= words.heightForWidth(words.width())
    for each in (window.banner.again, window.banner.rescue, window.banner.elsewhere):
        assert each.isVisible()
        assert each.width() >= each.sizeHint().width()
    qtbot.mouseClick(window.banner.rescue, Qt.MouseButton.LeftButton)
    QApplication.processEvents()
    assert not window.banner.isVisible()
    assert window.session.formula.dough_c == 9.0
    assert window.session.book.path.exists()
