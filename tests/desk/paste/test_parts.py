"""Pieces of the window on their own: figures, fields, cards, the ribbon by mouse."""

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QPushButton

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import grams_text, mass_text, number_text
from aplomb.core.paste.formula import Part
from aplomb.core.paste.line import Line
from aplomb.desk.kit.typed import Field
from aplomb.desk.stages import asking
from aplomb.work.commands import BATCH, FOLDS, PASTE, SHELF
from aplomb.work.figures.local import money_text
from aplomb.work.figures.typed import percent_text, read_mass, read_size, reading_text
from desk.conftest import open_at

K = Qt.Key


@pytest.mark.parametrize(
    ("value", "key", "text"),
    [
        (None, "salt_pct", "–"), (92.0, "fat_product_pct", "92"), (9.87, "fat_leaf_um", "9.9"),
        (0.0123, "fat_leaf_um", "0.01"), (144, "fat_leaves", "144"), (1.37, "fat_leaves", "1.4"),
        (2187, "fat_leaves", "2\u2009187"), (6**15, "fat_leaves", "4.7·10¹¹"),
    ],
)  # fmt: skip
def test_figures_in_few_signs(value, key, text):
    assert reading_text(value) == text


def test_numbers_for_cells():
    assert number_text(1690) == "1\u2009690"
    assert number_text(0.5, 2) == "0.5"
    assert grams_text(1690.4) == "1\u2009690"
    assert grams_text(12.34) == "12.3"
    assert grams_text(1.234) == "1.23"
    assert percent_text(86) == "86.0"
    assert money_text(1234.5) == "1\u2009234.50"
    assert mass_text(999) == "999 g"
    assert mass_text(7689.3) == "7.689 kg"


def test_masses_and_sizes_as_typed():
    assert read_mass("1 lb") == pytest.approx(453.59237)
    assert read_size("9 cm x 120") == (90, 120)
    for wrong in ("0", "1 cup", "5 %"):
        with pytest.raises(AmountError):
            read_mass(wrong)
    for wrong in ("90", "90 x", "a × b", "1×2×3"):
        with pytest.raises(AmountError):
            read_size(wrong)


def test_a_field_keeps_what_it_cannot_use(qapp, qtbot):
    taken, errors = [], []

    def take(text):
        if text == "bad":
            raise AmountError("no good", text, 0, 3)
        taken.append(text)

    field = Field("Thing", take, errors.append)
    qtbot.addWidget(field)
    field.show_value("1")
    field.selectAll()
    qtbot.keyClicks(field, "bad")
    assert not field.commit()
    assert field.bad
    assert errors == ["No good."]
    field.show_value("2")
    assert field.text() == "bad", "a new value does not wipe out what is being put right"
    qtbot.keyClick(field, K.Key_Escape)
    assert field.text() == "2"
    assert not field.bad
    field.selectAll()
    qtbot.keyClicks(field, "3")
    assert field.commit()
    assert taken == ["3"]


def test_a_figure_outside_its_band_says_so(window):
    session = window.session
    salt = window.headline.figures[3]
    assert "usual" in salt.accessibleName()
    formula = session.formula
    lines = tuple(replace(n, grams=0.0) if n.material == "salt" else n for n in formula.dough)
    session.shelf.change("no salt", formula.with_lines(Part.DOUGH, lines))
    session.shelf.edit("butter", lambda f: replace(f, block=(Line("butter", 2795),)))
    assert "below the usual" in salt.accessibleName()


def test_the_rail_says_what_is_settled_in_words(window):
    tabs = window.rail.tabs
    assert tabs[FOLDS].accessibleDescription() == "finished"
    assert tabs[PASTE].accessibleDescription() != "finished"
    window.session.shelf.edit("x", lambda f: replace(f, turn_line="envelope 3 3 3"))
    assert tabs[FOLDS].accessibleDescription() == "not finished"


def test_the_ribbon_by_mouse(window, qtbot):
    window.show_stage(FOLDS)
    ribbon = window.folds.ribbon
    qtbot.mouseClick(ribbon.cards[2], Qt.MouseButton.LeftButton, pos=QPoint(20, 20))
    assert ribbon.place == 2
    assert "after turn 2" in window.section.title()
    buttons = window.folds.findChildren(QPushButton)
    add = next(b for b in buttons if b.accessibleName() == "Add double")
    qtbot.mouseClick(add, Qt.MouseButton.LeftButton)
    assert window.session.formula.turn_line == "envelope 3@9 4@9 4 / 3@9 4@8 /120"
    remove = next(b for b in window.folds.findChildren(QPushButton) if b.text() == "Remove")
    qtbot.mouseClick(remove, Qt.MouseButton.LeftButton)
    assert window.session.formula.turn_line == "envelope 3@9 4@9 / 3@9 4@8 /120"


def test_the_enclosure_is_chosen_from_its_list(window, qtbot):
    window.show_stage(FOLDS)
    box = window.folds.enclosure
    box.setFocus()
    qtbot.keyClick(box, K.Key_Down)
    assert window.session.formula.turn_line.startswith("thirds")
    assert window.session.study.readings.fat_leaves == 288


def test_sizes_of_the_plan_are_edited_in_place(window, qtbot):
    window.show_stage(FOLDS)
    for name, text, value in (
        ("sheet_mm", "1/8 in", 3.175),
        ("roll_width_mm", "25", 250),
        ("roll_width_mm", "", 0),
        ("fat_block_mm", "1.2 cm", 12),
    ):
        field = window.folds.fields[name]
        field.setFocus()
        field.selectAll()
        qtbot.keyClick(field, K.Key_Delete)
        qtbot.keyClicks(field, text)
        qtbot.keyClick(field, K.Key_Return)
        assert getattr(window.session.formula, name) == pytest.approx(value)
    field = window.folds.fields["sheet_mm"]
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "0")
    qtbot.keyClick(field, K.Key_Return)
    assert field.bad
    assert "above 0" in window.folds.error.text()


def test_a_rest_says_to_go_by_state(window):
    window.show_stage(FOLDS)
    window.folds.ribbon.pick(3)
    assert window.folds.todo_big.text() == "Rest in the cold"
    assert "thumb" in window.folds.todo.text()
    window.folds.ribbon.pick(0)
    assert window.folds.todo_big.text().startswith("Fat 3")
    assert "5 to 10 mm" in window.folds.todo.text()


def choose(menu_word):
    """Pick an entry of the menu that opens."""

    def pick():
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu)
        action = next(a for a in menu.actions() if a.text().startswith(menu_word))
        menu.close()
        action.trigger()

    QTimer.singleShot(30, pick)


def test_a_line_by_its_menu(window, qtbot, monkeypatch):
    window.show_stage(PASTE)
    card = window.paste.cards[Part.DOUGH]
    monkeypatch.setattr(asking, "typed_in", lambda _dialog: "ice cold")
    choose("Note")
    qtbot.mouseClick(card.rows[2].name, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.session.formula.dough[2].note == "ice cold")
    choose("Move up")
    qtbot.mouseClick(card.rows[2].name, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.session.formula.dough[1].material == "water")
    choose("Remove")
    qtbot.mouseClick(card.rows[1].name, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(window.session.formula.dough) == 5)


def test_another_material_keeps_amount_and_note(window, qtbot):
    window.show_stage(PASTE)
    card = window.paste.cards[Part.BLOCK]

    def answer():
        field = QApplication.activeModalWidget().findChild(QLineEdit)
        qtbot.keyClicks(field, "pastry marg")
        qtbot.keyClick(field, K.Key_Return)

    QTimer.singleShot(60, answer)
    card._swap(0)
    assert window.session.formula.block == (Line("pastry_margarine", 2795.0),)


def test_the_search_offers_what_fits(window, qtbot):
    window.show_stage(PASTE)
    field = window.paste.cards[Part.FINISH].add
    field.setFocus()
    qtbot.keyClicks(field, "yolk")
    popup = field.completer().popup()
    assert popup.isVisible()
    assert [popup.model().index(0, 0).data()] == ["Egg yolk"]
    qtbot.keyClick(popup, K.Key_Down)
    qtbot.keyClick(popup, K.Key_Return)
    qtbot.waitUntil(lambda: len(window.session.formula.finish) == 2)
    assert window.session.formula.finish[1].material == "egg_yolk"
    assert field.text() == ""


def test_long_names_are_shortened_and_told_whole(window):
    long = "A name " * 16
    window.session.shelf.edit("name", lambda f: replace(f, name=long, purpose=long * 2))
    assert window.headline.name.text().endswith("…")
    assert window.headline.name.toolTip() == long
    window.show_stage(SHELF)
    assert window.grab().width() == 1280


def test_narrow_pages_stand_in_one_column(qapp, qtbot, book_path):
    window = open_at(book_path, qtbot, text_pct=200)
    window.resize(1024, 700)
    for stage in (PASTE, BATCH):
        window.show_stage(stage)
        QApplication.processEvents()
        assert window.shown_stage().narrow
    assert window.paste.horizontalScrollBar().maximum() == 0
    window.close()


def test_the_books_menu_holds_what_there_is(window, qtbot):
    words = []
    window.session.shelf.edit("cold", lambda f: replace(f, dough_c=9.0))

    def read():
        menu = QApplication.activePopupWidget()
        words.extend(a.text().split("\t")[0] for a in menu.actions())
        menu.close()

    QTimer.singleShot(30, read)
    window.book_menu()
    qtbot.waitUntil(lambda: bool(words))
    for each in ("New formula", "Save a copy of this book…", "Demo book", "Keys"):
        assert each in words
    assert "Undo: cold" in words


def test_fixing_the_paste_keeps_the_batch(window, qtbot):
    window.show_stage(BATCH)
    paste = window.session.study.scaled.paste_g
    made = [each.pieces for each in window.session.study.scaled.made]
    qtbot.mouseClick(window.batch.radios["fixed=paste"], Qt.MouseButton.LeftButton)
    assert window.session.formula.batch.fixed == "paste"
    after = [each.pieces for each in window.session.study.scaled.made]
    assert all(n in (m - 1, m) for n, m in zip(after, made, strict=True))
    assert window.session.study.scaled.paste_g == pytest.approx(paste, abs=1)
