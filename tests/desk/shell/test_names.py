"""What a screen reader is told: every control that can have the keyboard has a name of its own."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QApplication, QWidget

from aplomb.work.commands import BATCH, FOLDS, PASTE, SHELF, pages_of
from aplomb.work.commands import PAGES as COMMANDS_OF_PAGES

PAGES = [page.key for page in COMMANDS_OF_PAGES]


def controls(root):
    """All that can be reached by Tab and is seen."""
    QApplication.processEvents()
    return [
        w
        for w in (root, *root.findChildren(QWidget))
        if w.isVisible() and w.isEnabled() and w.focusPolicy() & Qt.FocusPolicy.TabFocus
    ]


def nameless(root):
    found = []
    for control in controls(root):
        heard = QAccessible.queryAccessibleInterface(control)
        name = heard.text(QAccessible.Text.Name).strip() if heard is not None else ""
        if not name or not any(ch.isalnum() for ch in name):
            found.append(f"{type(control).__name__} in {type(control.parent()).__name__}: {name!r}")
    return found


@pytest.mark.parametrize("key", PAGES)
def test_every_control_of_a_page_has_a_name(still, key):
    still.open_page(key)
    assert controls(still.pages[key])
    assert nameless(still.pages[key]) == []


@pytest.mark.parametrize("stage", [SHELF, PASTE, FOLDS, BATCH])
def test_every_control_of_a_stage_has_a_name(still, stage):
    still.show_stage(stage)
    assert nameless(still) == []


@pytest.mark.parametrize("key", [page.key for page in pages_of("batch")])
def test_no_two_fields_of_a_page_are_called_the_same(still, key):
    """Who cannot see where a field stands must still know which it is."""
    still.open_page(key)
    QApplication.processEvents()
    names = [
        QAccessible.queryAccessibleInterface(w).text(QAccessible.Text.Name)
        for w in controls(still.pages[key])
        if w.inherits("QLineEdit") and not w.parent().inherits("QComboBox")
    ]
    assert len(names) == len(set(names)), sorted(n for n in names if names.count(n) > 1)


def test_what_a_screen_reader_toggles_is_done(window):
    """It checks a button without a click, and the button must not only look so."""
    window.rail.tabs[BATCH].toggle()
    assert window.stages.currentWidget() is window.batch
    window.batch.radios["fixed=flour"].toggle()
    assert window.session.formula.batch.fixed == "flour"
    window.session.journal.undo()
    assert window.session.formula.batch.fixed == "pieces"
    assert window.batch.radios["fixed=pieces"].isChecked()
    window.open_page("demand")
    window.pages["demand"].frozen.toggle()
    assert window.session.kitchen.demand.use_frozen
    window.session.journal.undo()
    assert not window.pages["demand"].frozen.isChecked()
    assert not window.session.kitchen.demand.use_frozen, "what is shown is no doing of anyone"


def test_the_tab_in_hand_leads_back_from_a_page(window, qtbot):
    window.open_page("costs")
    qtbot.mouseClick(window.rail.tabs[BATCH], Qt.MouseButton.LeftButton)
    assert window.stages.currentWidget() is window.batch
    qtbot.mouseClick(window.rail.tabs[FOLDS], Qt.MouseButton.LeftButton)
    assert window.stages.currentWidget() is window.folds
