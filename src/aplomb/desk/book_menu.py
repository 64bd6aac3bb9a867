"""The menu of the book: formulas, places, papers, books, and what is the window's own."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QMenu

from aplomb.book.paths import demo_book, own_book

if TYPE_CHECKING:
    from aplomb.desk.window import Window


def pop_up_book_menu(window: "Window") -> None:
    """Show the menu beside the book on the rail."""
    menu = QMenu(window)
    some = window.session.study is not None

    def add(text: str, act: Callable[[], None], *, need: bool = False) -> None:
        menu.addAction(text, act).setEnabled(some or not need)

    add("New formula\tCtrl+N", window.new)
    add("Take in a formula from JSON…", window.papers.take_in)
    add("Give out this formula as JSON…", window.papers.give_out, need=True)
    add("Keep a revision…\tCtrl+R", window.keep_revision, need=True)
    add("Compare…\tAlt+C", lambda: window.open_place("compare"), need=True)
    menu.addSeparator()
    add("Pantry\tAlt+M", lambda: window.open_place("pantry"), need=True)
    add("The house: cups, currency, temperatures\tAlt+W", lambda: window.open_place("water"),
        need=True)  # fmt: skip
    menu.addSeparator()
    add("Batch card as PDF…\tCtrl+P", lambda: window.papers.print_card("pdf"), need=True)
    add("Batch card as CSV…", lambda: window.papers.print_card("csv"), need=True)
    add("Section shown, as SVG…", lambda: window.give_section("svg"), need=True)
    add("Section shown, as PNG…", lambda: window.give_section("png"), need=True)
    menu.addSeparator()
    add("Open another book…\tCtrl+O", window.papers.open_book)
    add("New book…", window.papers.new_book)
    add("Keep a copy of this book…", window.papers.keep_copy)
    add("Your own book", lambda: window.papers.go_to(own_book()))
    add("The demo book", lambda: window.papers.go_to(demo_book()))
    menu.addSeparator()
    back, on = window.session.next_words()
    add(f"Undo{back}\tCtrl+Z", window.session.undo)
    add(f"Redo{on}\tCtrl+Shift+Z", window.session.redo)
    menu.addSeparator()
    add("Light or dark\tCtrl+T", window.toggle_theme)
    add("Larger text\tCtrl++", lambda: window.text_size(10))
    add("Smaller text\tCtrl+−", lambda: window.text_size(-10))
    add("Keys\tF1", window.help)
    add("Leave\tCtrl+Q", lambda: (window.close(), None)[1])
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    at = window.rail.book
    menu.popup(at.mapToGlobal(QPoint(at.width() - 6, -menu.sizeHint().height() + at.height())))
