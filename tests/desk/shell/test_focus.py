"""The keyboard is always somewhere that is seen and takes keys."""

from PySide6.QtWidgets import QApplication, QWidget

from aplomb.desk.kit.walking import begin_in, can_hold
from aplomb.work.commands import PAGES, STAGES


def held_within(part: QWidget) -> bool:
    focus = QApplication.focusWidget()
    return focus is not None and part.isAncestorOf(focus) and can_hold(focus)


def test_a_page_whose_first_field_is_hidden_or_grey_begins_at_another(window):
    for i, command in enumerate(PAGES[::3]):
        window.open_page(command.key)
        page = window.pages[command.key]
        assert held_within(page), command.key
        first = QApplication.focusWidget()
        first.setDisabled(True) if i % 2 else first.hide()
        begin_in(page, page.focus_first)
        assert held_within(page), command.key


def test_on_an_empty_book_every_stage_and_page_has_the_keyboard(empty):
    empty.session.shelf.new()
    for number in range(len(STAGES)):
        empty.show_stage(number)
        assert held_within(empty.shown_stage()), number
    for command in PAGES[::2]:
        empty.open_page(command.key)
        assert held_within(empty.pages[command.key]), command.key


def test_a_run_that_cannot_be_opened_leaves_the_keyboard_on_its_page(window, qtbot):
    window.session.book.runs.begin("A run", "2026-05-01T05:00:00+00:00", "{}")
    window.open_page("run_log")
    assert not window.pages["run_log"].list.isVisible()
    QApplication.focusWidget().clearFocus()
    qtbot.waitUntil(lambda: held_within(window.pages["run_log"]))
