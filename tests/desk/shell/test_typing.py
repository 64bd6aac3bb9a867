"""What is typed is taken or refused where it was typed, whichever way the field is left; and no
ordinary gesture takes the window with it."""

import gc

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

from aplomb.core.paste.formula import Part, with_grams
from aplomb.core.paste.line import Line
from aplomb.desk.kit.mid_event import Later, bury, mid_event
from aplomb.desk.stages import asking
from aplomb.work.commands import BATCH, FOLDS, PASTE
from aplomb.work.open_book.shelf import first_formula
from desk.conftest import Person, open_at

K, CTRL, ALT = Qt.Key, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
WATER, SALT = 2, 4


@pytest.fixture
def typed(window, qtbot):
    """777 typed into the water of the first formula and not handed over; gives person and uid."""
    person = Person(window, qtbot)
    person.alt(K.Key_2)
    line = window.session.formula.dough[WATER]
    assert line.material == "water"
    card = window.paste.cards[Part.DOUGH]
    card.focus_line(WATER, 0)
    person.type("777", enter=False)
    assert window.session.formula.dough[WATER].grams == line.grams
    return person, window.session.uid


def water_of(window, uid):
    return window.session.shelf.entries[uid].formula.dough[WATER].grams


def other_uid(window, uid):
    return next(each for each in window.session.shelf.entries if each != uid)


def test_a_new_formula_begins_as_every_new_one_does(typed, window, monkeypatch):
    """777 in Water, then Ctrl+N: it belongs to the old paste's water, not to the new one's salt."""
    monkeypatch.setattr(asking, "ask_name", lambda *_: None)
    person, uid = typed
    person.ctrl(K.Key_N)
    assert window.session.uid != uid
    assert window.session.formula == first_formula(window.session.formula.name)
    assert water_of(window, uid) == 777


def test_a_copy_is_made_of_what_was_typed(typed, window):
    person, uid = typed
    person.ctrl(K.Key_D)
    copy = window.session.formula
    assert window.session.uid != uid
    assert copy.dough[WATER].grams == water_of(window, uid) == 777
    assert replace(copy, name="x") == replace(window.session.shelf.entries[uid].formula, name="x")


@pytest.mark.parametrize(
    "leave",
    [
        pytest.param(lambda w, p, u: p.alt(K.Key_3), id="stage by key"),
        pytest.param(lambda w, p, u: p.press(K.Key_F6), id="part by key"),
        pytest.param(lambda w, p, u: p.alt(K.Key_S), id="place by key"),
        pytest.param(lambda w, p, u: w.rail.tabs[BATCH].click(), id="stage by mouse"),
        pytest.param(lambda w, p, u: w.session.shelf.select(other_uid(w, u)), id="another formula"),
        pytest.param(lambda w, p, u: w.session.shelf.keep_revision("now"), id="revision"),
        pytest.param(
            lambda w, p, u: w.session.shelf.add(first_formula("In"), "import"), id="import"
        ),
        pytest.param(lambda w, p, u: w.session.shelf.delete(), id="delete"),
        pytest.param(lambda w, p, u: w.session.journal.redo(), id="redo"),
        pytest.param(lambda w, p, u: w.toggle_opinion(), id="nothing that leaves it"),
        pytest.param(lambda w, p, u: p.press(K.Key_Tab), id="tab"),
    ],
)
def test_every_way_out_takes_what_was_typed_for_its_own_line(typed, window, leave):
    person, uid = typed
    others = {u: e.formula for u, e in window.session.shelf.entries.items() if u != uid}
    deleted = leave(window, person, uid)
    window.commit()
    QApplication.processEvents()
    if uid not in window.session.shelf.entries:
        # of the delete: with it the formula as it was when it was deleted
        window.session.journal.undo()
    assert deleted is None or isinstance(deleted, (int, str))
    assert water_of(window, uid) == 777
    for other, formula in others.items():
        assert window.session.shelf.entries[other].formula == formula


def test_undo_by_key_reverts_what_is_typed_and_undoes_nothing(typed, window):
    person, uid = typed
    before = window.session.formula
    person.ctrl(K.Key_Z)
    assert window.session.formula is before
    person.ctrl(K.Key_Z)
    assert window.session.shelf.entries[uid].formula == before, "there was nothing to undo"


def test_another_book_does_not_get_what_was_typed(typed, window, tmp_path):
    _, uid = typed
    path = window.session.book.path
    window.session.work.open_book(tmp_path / "other.aplomb")
    assert window.session.shelf.entries == {}
    window.session.work.open_book(path)
    assert water_of(window, uid) == 777


def test_the_window_closes_with_what_was_typed(typed, window, qtbot, book_path):
    _, uid = typed
    window.close()
    again = open_at(book_path, qtbot)
    assert water_of(again, uid) == 777
    again.close()


def test_a_word_that_cannot_be_used_stops_the_first_closing_only(window, person):
    person.alt(K.Key_2)
    window.paste.cards[Part.DOUGH].focus_line(WATER, 0)
    person.type("much", enter=False)
    assert not window.close()
    assert "“much” was not accepted" in window.said.text()
    assert "Water" in window.said.text()
    assert window.close()


def test_a_word_that_cannot_be_used_does_not_follow_to_another_formula(window, person):
    person.alt(K.Key_3)
    field = window.folds.fields["roll_width_mm"]
    field.setFocus()
    person.type("wide", enter=False)
    uid = window.session.uid
    window.session.shelf.select(other_uid(window, uid))
    QApplication.processEvents()
    assert not field.bad
    assert "wide" not in field.text()
    assert "was not accepted" in window.said.text()


def test_what_was_typed_for_another_formula_is_never_handed_over(window, person):
    """Even if nobody took it in time: a field knows which formula it speaks for."""
    person.alt(K.Key_2)
    card = window.paste.cards[Part.DOUGH]
    card.focus_line(WATER, 0)
    person.type("777", enter=False)
    uid, other = window.session.uid, other_uid(window, window.session.uid)
    window.session.leaving.disconnect(window.commit)
    window.session.shelf.select(other)
    before = window.session.formula
    row = card.rows[WATER]
    row.grams.commit()
    assert window.session.formula == before
    assert water_of(window, uid) != 777


def test_a_line_that_is_gone_is_told(window, person):
    person.alt(K.Key_2)
    card = window.paste.cards[Part.DOUGH]
    gone = card.rows[WATER].line
    window.session.shelf.change(
        "without water", window.session.formula.with_lines(Part.DOUGH, (Line("plain_flour", 500),))
    )
    with pytest.raises(Exception, match="no longer in the formula"):
        card.take_grams(gone, "20")


def test_an_amount_follows_its_line_to_another_place(window, person):
    """A line that moved while its grams were typed still gets them."""
    person.alt(K.Key_2)
    card = window.paste.cards[Part.DOUGH]
    row = card.rows[WATER]
    lines = window.session.formula.dough
    moved = (lines[WATER], *lines[:WATER], *lines[WATER + 1 :])
    window.session.later.tell = lambda *_: None  # what is seen lags behind
    window.session.shelf.change("move water", window.session.formula.with_lines(Part.DOUGH, moved))
    row.grams._take("431")
    assert window.session.formula.dough[0].grams == 431
    assert [n.material for n in window.session.formula.dough] == [n.material for n in moved]


@pytest.mark.parametrize("way", ["click", "F6", "stage", "place", "fold"])
def test_a_field_is_left_while_what_it_changes_is_made_anew(window, qtbot, person, way):
    """Demo, Paste, 4 in Water, then the second opinion's button: cards, rows and strip are made
    anew while Qt moves the focus. It took the process with it."""
    person.alt(K.Key_2)
    for _ in range(1 + (way == "click")):
        window.session.shelf.edit(  # something to look at, and to press
            "salt", lambda f: with_grams(f, Part.DOUGH, SALT, 90.0)
        )
        QApplication.processEvents()
        window.paste.cards[Part.DOUGH].focus_line(WATER, 0)
        person.type("4", enter=False)
        if way == "click":
            buttons = [
                b for b in window.opinion.findChildren(QPushButton) if b.isVisible() and b.text()
            ]
            qtbot.mousePress(buttons[0], Qt.MouseButton.LeftButton)
            QApplication.processEvents()
            qtbot.mouseRelease(buttons[0], Qt.MouseButton.LeftButton)
        elif way == "F6":
            person.press(K.Key_F6)
        elif way == "stage":
            person.alt(K.Key_3)
        elif way == "place":
            person.alt(K.Key_F)
        else:
            window.toggle_opinion()
            window.toggle_opinion()
            window.commit()
        QApplication.processEvents()
        gc.collect()
        assert person.focus is not None
        done = []
        assert window.session.flush()
        while window.session.journal.next_words()[0]:
            done.append(window.session.book.history.next_words()[0])
            window.session.journal.undo()
        assert "Water: 4 g" in done
        window.show_stage(PASTE)


def test_cards_of_rules_that_go_on_speaking_are_kept(window, person):
    """A button that is being pressed must be there when it is let go."""
    person.alt(K.Key_2)
    window.session.shelf.edit("salt", lambda f: replace(f, dough_c=15.0, dismissed=()))
    cards = {card.key: card for card in window.opinion.cards}
    window.session.shelf.edit("water", lambda f: replace(f, sheet_mm=f.sheet_mm + 0.1))
    for card in window.opinion.cards:
        if card.key in cards:
            assert card is cards[card.key]


def test_nothing_is_told_in_the_middle_of_a_focus_event(window):
    told = []
    window.session.studied.connect(lambda: told.append(window.session.formula.dough_c))
    with mid_event():
        window.session.shelf.edit("cold", lambda f: replace(f, dough_c=11.0))
        assert window.session.formula.dough_c == 11.0, "it is taken at once"
        assert told == [], "and told later"
        window.session.shelf.edit("colder", lambda f: replace(f, dough_c=9.0))
    QApplication.processEvents()
    assert told == [9.0], "once"


def test_what_is_due_is_told_before_what_comes_after(qapp):
    told = []
    one, two = lambda: told.append(1), lambda: told.append(2)
    later = Later()
    with mid_event():
        later.tell(one)
    later.tell(two)
    assert told == [1, 2]


def test_what_is_let_go_outlives_a_dialog(qapp, qtbot):
    """It may hold the very event in which the dialog was opened."""
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QDialog
    from shiboken6 import isValid

    widget = QWidget()
    outer, seen = QDialog(), []

    def inside():
        bury(widget)
        QTimer.singleShot(120, lambda: (seen.append(isValid(widget)), outer.accept()))

    QTimer.singleShot(0, lambda: (QTimer.singleShot(0, inside), outer.exec()))
    qtbot.waitUntil(lambda: bool(seen))
    assert seen == [True]
    qtbot.waitUntil(lambda: not isValid(widget))


def test_a_fault_while_typing_leaves_the_text_as_typed(window, person, monkeypatch):
    """An error of ours is no handing over: the text is still there, and still not taken."""
    person.alt(K.Key_2)
    card = window.paste.cards[Part.DOUGH]
    field = card.rows[WATER].grams
    given = field.given
    monkeypatch.setattr(field, "_take", lambda _text: 1 / 0)
    field.setFocus()
    field.setText("5")
    field._edited("5")
    with pytest.raises(ZeroDivisionError):
        field.commit()
    assert (field.text(), field.given) == ("5", given)
    field.revert()


def test_stages_paint_what_stands_while_an_announcement_waits(window, person):
    """The shelf is painted before it is told that a formula went."""
    window.show_stage(0)
    QApplication.processEvents()
    with mid_event():
        window.session.shelf.delete()
        window.shelf.list.viewport().repaint()
    QApplication.processEvents()
    assert window.shelf.model.rowCount() == len(window.session.shelf.entries)
    window.show_stage(FOLDS)
