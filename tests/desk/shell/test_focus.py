"""The keyboard is always somewhere that is seen and takes keys."""

import pytest
from PySide6.QtWidgets import QApplication, QWidget

from aplomb.desk.kit.walking import begin_in, can_hold
from aplomb.work.commands import PLACES, STAGES


def held_within(part: QWidget) -> bool:
    focus = QApplication.focusWidget()
    return focus is not None and part.isAncestorOf(focus) and can_hold(focus)


@pytest.mark.parametrize("grey", [False, True])
def test_a_page_whose_first_field_is_hidden_or_grey_begins_at_another(window, grey):
    for command in PLACES:
        window.open_place(command.key)
        place = window.places[command.key]
        assert held_within(place), command.key
        first = QApplication.focusWidget()
        first.setDisabled(True) if grey else first.hide()
        begin_in(place, place.focus_first)
        assert held_within(place), command.key


def test_on_an_empty_book_every_stage_and_page_has_the_keyboard(empty):
    empty.session.shelf.new()
    for number in range(len(STAGES)):
        empty.show_stage(number)
        assert held_within(empty._stage()), number
    for command in PLACES:
        empty.open_place(command.key)
        assert held_within(empty.places[command.key]), command.key


def test_a_run_that_cannot_be_opened_leaves_the_keyboard_on_its_page(window, qtbot):
    window.session.book.runs.begin("A run", "2026-05-01T05:00:00+00:00", "{}")
    window.open_place("record")
    assert not window.places["record"].list.isVisible()
    QApplication.focusWidget().clearFocus()
    qtbot.waitUntil(lambda: held_within(window.places["record"]))
