"""One table of keys: what the window binds, what its parts take, and what F1 lists."""

import re
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QApplication, QLabel, QLineEdit

import aplomb.desk
from aplomb.core.opinion.rules import OF_THE_DAY, RULES
from aplomb.core.study.cold_rules import COLD_RULES
from aplomb.work.commands import (
    COMMANDS,
    FOLDS,
    PAGES,
    PASTE,
    WINDOW,
    all_lines,
    keys_of,
    shown,
)
from desk.conftest import Person
from desk.conftest import shown as words_of

K = Qt.Key


def listed():
    return {QKeySequence(keys).toString() for line in all_lines() for keys in line.keys}


def test_every_shortcut_of_the_window_is_in_the_table(window):
    for place in ("weigh", "inside", "plans", "list"):
        window.open_page(place)
    bound = {short.key().toString() for short in window.findChildren(QShortcut)}
    assert bound <= listed()
    there = {QKeySequence(k).toString() for line in (*WINDOW, *PAGES) for k in line.keys}
    assert there <= bound, "what is listed is bound"


def test_every_key_that_a_part_handles_is_in_the_table():
    """Looked for in the code: each key of a key handler has its line."""
    folder = Path(aplomb.desk.__file__).parent
    handled = {
        key
        for path in folder.rglob("*.py")
        for key in re.findall(r"Qt\.Key\.Key_(\w+)", path.read_text())
    }
    names = {
        "PageDown": "PgDown",
        "PageUp": "PgUp",
        "Slash": "/",
        "Plus": "+",
        "Minus": "-",
        "Equal": "=",
    }
    alone = {keys.split("+")[-1] or "+" for line in all_lines() for keys in line.keys}
    assert len(handled) > 15
    assert {names.get(key, key) for key in handled} <= alone


def test_no_key_does_two_things_on_one_page():
    for where in {line.where for line in all_lines()}:
        keys = [keys for line in all_lines() if line.where == where for keys in line.keys]
        assert len(keys) == len(set(keys)), where


def test_f1_lists_every_line(window, person, qtbot):
    seen = []

    def look():
        dialog = QApplication.activeModalWidget()
        seen.append({label.text() for label in dialog.findChildren(QLabel)})
        dialog.accept()

    window.show_stage(PASTE)
    QTimer.singleShot(100, look)
    person.press(K.Key_F1)
    qtbot.waitUntil(lambda: bool(seen), timeout=5000)
    for line in all_lines():
        assert line.words in seen[0]
        assert ", ".join(shown(keys) for keys in line.keys) in seen[0]


@pytest.mark.parametrize(
    ("keys", "words"),
    [
        ("Ctrl++", "Ctrl++"),
        ("Ctrl+-", "Ctrl+−"),
        ("+", "+"),
        ("-", "−"),
        ("Alt+Left", "Alt+←"),
        ("Escape", "Esc"),
        ("Ctrl+Shift+Z", "Ctrl+Shift+Z"),
        ("PgDown", "Page Down"),
    ],
)
def test_keys_are_written_as_people_read_them(keys, words):
    assert shown(keys) == words


def test_the_section_is_hidden_and_shown_by_its_key(window, person):
    window.resize(1280, 800)
    window.show_stage(PASTE)
    assert window.section.isVisible()
    person.ctrl(K.Key_E)
    assert not window.section.isVisible()
    assert window.section_button.isVisible()
    assert keys_of("section") in window.section_button.text()
    window.show_stage(FOLDS)
    assert not window.section.isVisible(), "it stays as it was set"
    person.ctrl(K.Key_E)
    assert window.section.isVisible()


@pytest.mark.usefixtures("new_window")
def test_on_folds_in_a_small_window_nothing_essential_is_below_the_edge(window):
    """At 1024 × 700 the section gives way, and all that the step says is seen without scrolling."""
    window.resize(1024, 700)
    window.show_stage(FOLDS)
    QApplication.processEvents()
    assert not window.section.isVisible()
    stage = window.folds
    assert stage.widget().minimumSizeHint().height() <= stage.viewport().height()
    assert stage.verticalScrollBar().maximum() == 0
    window.show_stage(PASTE)
    QApplication.processEvents()
    assert window.section.isVisible()


def test_the_headline_is_one_line_above_125_percent(window):
    window.show_stage(PASTE)
    high = window.headline.height()
    window.text_size(20)
    QApplication.processEvents()
    assert window.headline.under.isVisible()
    window.text_size(30)
    QApplication.processEvents()
    assert not window.headline.under.isVisible()
    assert window.headline.height() < high
    assert window.headline.height() < window.height() / 10
    tops = {figure.y() for figure in window.headline.figures}
    assert len(tops) == 1
    right = max(figure.x() + figure.width() for figure in window.headline.figures)
    assert right <= window.headline.width()


def test_beside_the_day_only_what_has_to_do_with_it_is_said(window, person):
    known = {rule.key for rule in (*RULES, *COLD_RULES)}
    assert known >= OF_THE_DAY
    session = window.session
    session.shelf.change("no rest", replace(session.formula, turn_line="envelope 3 3 3 3 3 3"))
    person.alt(K.Key_2)
    said = {card.key for card in window.opinion.cards}
    assert {"salt_twice", "turns_without_cold"} <= said
    person.alt(K.Key_5)
    assert {card.key for card in window.opinion.cards} == said & OF_THE_DAY
    assert "more on the paste" in words_of(window.opinion)
    window.show_opinion("salt_twice")  # as search does
    assert {card.key for card in window.opinion.cards} == said
    person.alt(K.Key_2)
    assert {card.key for card in window.opinion.cards} == said


def test_the_second_opinion_gives_way_when_it_has_nothing_to_say(window, person):
    window.resize(1280, 800)
    window.show_stage(PASTE)
    assert window.opinion.isVisible()
    for opinion in window.session.study.shown_opinions:
        window.opinion.put_aside(opinion.key)
    QApplication.processEvents()
    assert not window.opinion.isVisible()
    assert window.opinion_button.text() == "Second opinion: nothing to look at"
    assert window.opinion_button.isVisible()
    person.ctrl(K.Key_I)
    assert window.opinion.isVisible()
    assert "All good:" in words_of(window.opinion)


def searching(qtbot, person, typed, *keys):
    """Press Ctrl+K, type, press some keys in the dialog; gives the lines that were offered."""
    seen = []

    def look():
        dialog = QApplication.activeModalWidget()
        qtbot.keyClicks(dialog.words, typed)
        seen.append(dialog.list.model().stringList())
        for key in keys:
            qtbot.keyClick(dialog.words, key)
        if dialog.isVisible():
            dialog.reject()

    QTimer.singleShot(50, look)
    person.ctrl(K.Key_K)
    qtbot.waitUntil(lambda: bool(seen), timeout=5000)
    return seen[0]


def test_a_command_is_found_by_what_one_wants_to_do(window, person, qtbot):
    window.show_stage(PASTE)
    lines = searching(qtbot, person, "currency", K.Key_Return)
    assert lines[0].startswith("Pages in Paste: House settings: cups, currency, temperatures")
    assert window.page is window.pages["water"]
    searching(qtbot, person, "dark", K.Key_Return)
    assert window.session.settings.theme == "dark"
    lines = searching(qtbot, person, "text", K.Key_Down, K.Key_Return)
    assert [line.split(" text")[0] for line in lines[:2]] == ["Larger", "Smaller"]
    assert window.session.settings.text_pct == 90
    assert searching(qtbot, person, "xyzzy", K.Key_Return) == []


def test_without_a_formula_only_what_works_then_is_offered(empty, qtbot):
    lines = searching(qtbot, Person(empty, qtbot), "")
    assert any("New formula" in line for line in lines)
    assert not any("Swap" in line for line in lines)


def test_what_is_found_is_done_at_once(window, person, qtbot):
    """Kind of paste and units within three keys; formulas, materials, opinions by name."""
    window.show_stage(PASTE)
    searching(qtbot, person, "rough puff", K.Key_Return)
    assert window.session.formula.school == "rough"
    searching(qtbot, person, "inches", K.Key_Return)
    assert window.session.reference.house.lengths == "in"
    searching(qtbot, person, "kiosk", K.Key_Return)
    assert window.session.formula.name == "Kiosk turnover paste"
    searching(qtbot, person, "rye flour", K.Key_Return)
    assert window.page is window.pages["pantry"]
    fields = [each.text() for each in window.page.findChildren(QLineEdit)]
    assert "Light rye flour" in fields
    searching(qtbot, person, "regatta", K.Key_Return)
    searching(qtbot, person, "salt added twice", K.Key_Return)
    assert window.opinion.isAncestorOf(person.focus)


def test_the_window_does_every_command_of_the_table(window):
    missing = {key for key, each in COMMANDS.items() if not each.room} - set(window.acts)
    assert missing == set()
    for page in PAGES:
        window.do(page.key)
        assert window.page is window.pages[page.key]
