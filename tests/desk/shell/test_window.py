"""The window, driven as a person would."""

import sqlite3
from itertools import product

import pypdfium2
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QApplication, QDialog, QLineEdit, QPushButton, QWidget

from aplomb.book.book import Book
from aplomb.book.history import History
from aplomb.core.paste.formula import Part
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Item
from aplomb.desk.kit.theme import look
from aplomb.work.commands import BATCH, FOLDS, PASTE, SHELF
from aplomb.work.commands import PAGES as COMMANDS_OF_PAGES
from desk.conftest import Person, open_at

K = Qt.Key


def into_dialog(qtbot, *texts):
    """When a dialog opens, type into its fields in order and press Enter."""

    def answer():
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, QDialog)
        fields = dialog.findChildren(QLineEdit)
        for field, text in zip(fields, texts, strict=False):
            field.selectAll()
            qtbot.keyClicks(field, text)
        qtbot.keyClick(fields[0], K.Key_Return)

    QTimer.singleShot(50, answer)


@pytest.mark.usefixtures("new_window")
def test_stages_go_by_their_keys(person, window):
    for key, stage in ((K.Key_2, PASTE), (K.Key_3, FOLDS), (K.Key_4, BATCH), (K.Key_1, SHELF)):
        person.alt(key)
        assert window.stages.currentIndex() == stage
        assert window.rail.tabs[stage].isChecked()
        assert window.section.isVisible() == (stage in (PASTE, FOLDS))


def test_grams_and_percent_drive_each_other(person, window):
    person.alt(K.Key_2)
    card = window.paste.cards[Part.DOUGH]
    card.focus_line(2, 0)
    person.type("1625")
    assert person.formula.dough[2].grams == 1625
    assert card.rows[2].percent.text() == "50.0"
    card.focus_line(2, 1)
    person.type("52")
    assert person.formula.dough[2].grams == pytest.approx(0.52 * 3250)
    assert card.rows[2].grams.text() == "1\u2009690"


def test_amounts_as_people_write_them(person, window):
    person.alt(K.Key_2)
    card = window.paste.cards[Part.DUSTING]
    card.focus_line(0, 0)
    person.type("2 1/4 cup")
    assert person.formula.dusting[0].grams == pytest.approx(2.25 * 250 * 0.53, abs=1)  # metric
    assert person.formula.dusting[0].typed == "2 1/4 cup"
    assert "from 2 1/4 cup" in card.rows[0].note.toolTip()
    assert "± 12 %" in card.rows[0].note.toolTip()


def test_what_cannot_be_used_stays_marked_and_nothing_else_is_lost(person, window):
    person.alt(K.Key_2)
    before = person.formula
    card = window.paste.cards[Part.DOUGH]
    card.focus_line(0, 0)
    for text, says in (
        ("-5", "negative"),
        ("12 ozz", "not a unit"),
        ("", "Enter an amount"),
        ("9999999999", "100 000 kg"),
        ("nan", "number"),
    ):
        card.rows[0].grams.setFocus()
        card.rows[0].grams.selectAll()
        person.type(text or " ")
        field = card.rows[0].grams
        assert field.bad
        assert says in card.error.text()
        assert card.error.isVisible()
        assert field.text() == (text or " ")
        assert person.formula == before
    person.press(K.Key_Escape)
    assert not card.rows[0].grams.bad
    assert card.rows[0].grams.text() == "2\u2009960"
    assert not card.error.isVisible()


def test_the_only_flour_is_a_hundred_percent(person, window):
    window.session.shelf.select(list(window.session.shelf.entries)[2])
    person.alt(K.Key_2)
    card = window.paste.cards[Part.DOUGH]
    card.focus_line(0, 1)
    person.type("70")
    flours = [n for n in person.formula.dough if n.material in ("gf_blend", "tapioca_starch")]
    block = [n for n in person.formula.block if n.material == "rice_flour"]
    assert sum(n.grams for n in (*flours, *block)) == pytest.approx(1050)


def test_lines_are_added_moved_and_removed_by_key(person, window):
    person.alt(K.Key_2)
    card = window.paste.cards[Part.BLOCK]
    card.add.setFocus()
    person.type("lard")
    QApplication.processEvents()
    assert [n.material for n in person.formula.block] == ["butter_salted", "lard"]
    assert person.focus is card.rows[1].grams
    person.type("500")
    assert person.formula.block[1].grams == 500
    card.focus_line(1, 0)
    person.press(K.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert [n.material for n in person.formula.block] == ["lard", "butter_salted"]
    person.press(K.Key_Delete, Qt.KeyboardModifier.ControlModifier)
    assert [n.material for n in person.formula.block] == ["butter_salted"]


def test_an_unknown_material_is_marked_and_kept(person, window):
    person.alt(K.Key_2)
    field = window.paste.cards[Part.DOUGH].add
    field.setFocus()
    person.type("unobtainium")
    assert field.text() == "unobtainium"
    assert field.property("bad")
    assert "has no" in field.toolTip()


def test_undo_and_redo_go_through_everything(person, window):
    start = person.formula
    person.alt(K.Key_2)
    window.paste.cards[Part.DOUGH].focus_line(0, 0)
    person.type("3000")
    person.alt(K.Key_3)
    window.folds.ribbon.setFocus()
    person.press(K.Key_3)
    assert person.readings.product == 432
    person.ctrl(K.Key_Z)
    person.ctrl(K.Key_Z)
    assert person.formula == start
    person.press(K.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert person.formula.dough[0].grams == 3000


def test_the_ribbon_by_key(person, window):
    person.alt(K.Key_3)
    ribbon = window.folds.ribbon
    person.press(K.Key_End)
    person.press(K.Key_4)
    assert person.formula.turn_line.endswith("/120 4")
    person.press(K.Key_Slash)
    assert person.formula.turn_line.endswith("4 /")
    person.press(K.Key_Backspace)
    person.press(K.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert person.formula.turn_line.endswith("4 /120")
    person.press(K.Key_Home)
    assert ribbon.place == 0
    person.press(K.Key_Delete)
    assert ribbon.place == 0, "the enclosing stays"
    person.press(K.Key_Right)
    assert "single" in ribbon.accessibleDescription()


def test_the_turn_line_by_key(person, window):
    person.alt(K.Key_3)
    window.folds.line.setFocus()
    window.folds.line.selectAll()
    person.type("Inverse 4 4 / 3@8")
    assert person.formula.turn_line == "inverse 4 4 / 3@8"
    assert person.readings.dough_leaves == 48
    window.folds.line.selectAll()
    person.type("inverse 4 x")
    assert person.formula.turn_line == "inverse 4 4 / 3@8"
    assert "not a step" in window.folds.error.text()
    assert window.folds.line.text() == "inverse 4 x"
    assert window.folds.line.selectedText() == "x"


def test_the_section_follows_the_step_in_hand(person, window):
    person.alt(K.Key_3)
    person.press(K.Key_Home)
    assert "after enclosing" in window.section.title()
    person.press(K.Key_Right)
    assert "after turn 1 of 4" in window.section.title()
    assert window.section.words.startswith("3 fat leaves")
    person.alt(K.Key_2)
    assert "final sheet, 3.4 mm" in window.section.title()


def test_the_lens_moves_and_enlarges_by_key(person, window):
    person.alt(K.Key_2)
    window.section.setFocus()
    before = window.section.drawn_window()
    person.press(K.Key_Plus, times=5)
    closer = window.section.drawn_window()
    assert closer.top - closer.bottom < before.top - before.bottom
    person.press(K.Key_Up, times=3)
    assert window.section.drawn_window().top > closer.top
    person.press(K.Key_Up, times=400)
    assert window.section.drawn_window().top == pytest.approx(1)


def test_a_figure_tells_its_sum(person, window, qtbot):
    figure = window.headline.figures[0]
    assert "÷ 3250 g flour = 92.0 %" in figure.toolTip()
    assert "Fat on flour 92 %, usual" in figure.accessibleName()
    figure.setFocus()
    person.press(K.Key_F1)


def test_an_opinion_acts_and_one_undo_takes_it_back(person, window, qtbot):
    person.alt(K.Key_2)
    start = person.formula
    button = next(
        b for b in window.opinion.findChildren(QPushButton) if b.text().startswith("Remove")
    )
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert person.formula.dough[4].grams < start.dough[4].grams
    assert not window.session.study.shown_opinions
    person.ctrl(K.Key_Z)
    assert person.formula == start


def test_an_opinion_is_put_aside_and_shown_again(person, window, qtbot):
    for text, shown in (("Dismiss", 0), ("Show 1 dismissed", 1)):
        button = next(b for b in window.opinion.findChildren(QPushButton) if b.text() == text)
        qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
        assert len(window.session.study.shown_opinions) == shown


def test_batch_by_key(person, window):
    window.session.shelf.select(list(window.session.shelf.entries)[4])
    person.alt(K.Key_4)
    fields = window.batch.fields
    assert person.focus is fields["pieces"]
    person.type("60")
    assert person.formula.batch.pieces == 60
    assert window.session.study.scaled.good == 60
    assert window.batch.big.text() == "62 pieces"  # the book's own batches broke 1.9 %
    fields["paste"].setFocus()
    person.type("5 kg")
    assert (person.formula.batch.fixed, person.formula.batch.paste_g) == ("paste", 5000)
    fields["piece_size"].setFocus()
    person.type("90 x 120")
    batch = person.formula.batch
    assert (batch.piece_by, batch.piece_length_mm, batch.piece_width_mm) == ("size", 90, 120)
    fields["division_g"].setFocus()
    person.type("0")
    assert fields["division_g"].bad
    fields["trim_pct"].setFocus()
    person.type("99")
    assert "trim_pct: 99 cannot be used" in window.batch.error.text()


def test_a_price_makes_a_cost_and_none_takes_it_away(person, window):
    person.alt(K.Key_4)
    assert "Cost " in window.batch.sums[2].text()
    _, pack, price = window.batch.table.prices[0]
    price.setFocus()
    price.selectAll()
    person.type("28.80")
    dear = person.readings.cost
    price.setFocus()
    price.selectAll()
    person.press(K.Key_Delete)
    pack.setFocus()
    QApplication.processEvents()  # what is seen follows when the focus has moved
    assert person.readings.cost is None
    assert "no price" in window.batch.sums[2].text()
    assert dear > 0


@pytest.mark.parametrize("text_pct", [80, 100, 150, 200])
def test_nothing_on_a_formulas_card_lies_over_another(qapp, qtbot, book_path, text_pct):
    """Section, name and every figure have places of their own, and a name is to be read."""
    window = open_at(book_path, qtbot, text_pct=text_pct)
    shelf, list_ = window.shelf, window.shelf.list
    model = list_.model()
    for width, many in product((640, 1024, 1280, 1900), (4, 5)):
        window.resize(width, 700)
        QApplication.processEvents()
        row = list_.visualRect(model.index(0, 0))
        room = QRectF(row).adjusted(2, 4, -4, -4)
        thumb, names, figures = shelf.delegate.areas(room, many)
        areas = [thumb, names, *figures]
        for i, one in enumerate(areas):
            assert room.contains(one), (i, one)
            assert not any(one.intersects(other) for other in areas[i + 1 :]), i
        assert names.width() >= look.theme.px(80)
        assert names.height() >= look.theme.px(46)
    window.close()


@pytest.mark.usefixtures("new_window")
def test_the_shelf_finds_copies_deletes_and_undoes(person, window):
    person.alt(K.Key_1)
    window.shelf.search.setFocus()
    person.type("kiosk", enter=False)
    assert window.shelf.list.model().rowCount() == 1
    window.shelf.search.clear()
    person.type("zzz", enter=False)
    assert "No match" in window.shelf.empty_title.text()
    window.shelf.search.clear()
    person.ctrl(K.Key_D)
    assert len(window.session.shelf.entries) == 8
    assert "copy" in person.formula.name
    window.shelf.list.setFocus()
    person.press(K.Key_Delete)
    assert len(window.session.shelf.entries) == 7
    assert "Ctrl+Z brings it back" in window.said.text()
    person.ctrl(K.Key_Z)
    assert len(window.session.shelf.entries) == 8
    window.shelf.list.setFocus()
    person.press(K.Key_Down)
    person.press(K.Key_Return)
    assert window.stages.currentIndex() == PASTE


def test_an_empty_book_teaches(empty, qtbot):
    person = Person(empty, qtbot)
    assert "shelf is empty" in empty.shelf.empty_title.text()
    assert "Ctrl+N" in empty.shelf.empty_words.text()
    person.alt(K.Key_3)
    assert empty.stages.currentIndex() == SHELF
    assert "No formula is open" in empty.said.text()
    person.ctrl(K.Key_Z)
    assert empty.said.text() == "Nothing to undo."


def test_a_morning_with_the_keyboard_only(empty, qtbot, book_path, tmp_path, answers):
    """Write a formula, plan its turns, scale it to 60 pieces, print the card, close, open."""
    person = Person(empty, qtbot)
    into_dialog(qtbot, "Harbour straws", "crisp straws")
    person.ctrl(K.Key_N)
    assert person.formula.name == "Harbour straws"
    empty.paste.focus_first()
    person.type("1200")
    person.type("600")
    person.type("22")
    empty.paste.cards[Part.BLOCK].focus_line(0, 1)
    person.type("80 %")
    person.alt(K.Key_3)
    empty.folds.line.setFocus()
    empty.folds.line.selectAll()
    person.type("thirds 3 3 / 3 3 /30")
    person.alt(K.Key_4)
    empty.batch.fields["pieces"].setFocus()
    person.type("60")
    answers.path = tmp_path / "straws.pdf"
    person.ctrl(K.Key_P)
    qtbot.waitUntil(answers.path.exists)
    text = pypdfium2.PdfDocument(answers.path)[0].get_textpage().get_text_range()
    assert "Harbour straws" in text
    assert "60 pieces" in text
    wanted = person.formula
    person.ctrl(K.Key_Q)
    again = open_at(book_path, qtbot, demo=False)
    assert again.session.formula == wanted
    assert wanted.block[0].grams == pytest.approx(960)
    assert again.session.study.readings.fat_leaves == 162
    again.session.journal.undo()
    assert again.session.formula.batch.fixed == "paste", "undo reaches across the restart"
    again.close()


def test_what_is_being_typed_is_kept_when_the_window_closes(window, qtbot, book_path, person):
    person.alt(K.Key_2)
    window.paste.cards[Part.DOUGH].focus_line(0, 0)
    person.type("3100", enter=False)
    window.close()
    book = Book(book_path)
    assert book.entries()[0].formula.dough[0].grams == 3100
    book.close()


def test_every_edit_is_in_the_book_within_a_second(window, qtbot, person):
    person.alt(K.Key_2)
    window.paste.cards[Part.DOUGH].focus_line(0, 0)
    person.type("3100")
    qtbot.waitUntil(lambda: window.session.journal.unwritten == 0, timeout=1000)
    assert window.session.book.entries()[0].formula.dough[0].grams == 3100


def test_a_refusing_disk_is_told_and_nothing_is_lost(
    window, qtbot, person, tmp_path, answers, monkeypatch
):
    real = History._put

    def full(*_args, **_way):
        error = sqlite3.OperationalError("database or disk is full")
        error.sqlite_errorcode = sqlite3.SQLITE_FULL
        raise error

    monkeypatch.setattr(History, "_put", full)
    person.alt(K.Key_2)
    window.paste.cards[Part.DOUGH].focus_line(0, 0)
    person.type("3100")
    assert not window.session.flush()
    assert window.banner.isVisible()
    assert "disk is full" in window.banner.words.text()
    assert person.formula.dough[0].grams == 3100
    person.ctrl(K.Key_Z)
    assert person.formula.dough[0].grams == 2960
    window.paste.cards[Part.DOUGH].focus_line(0, 0)
    person.type("3200")
    monkeypatch.setattr(History, "_put", real)
    answers.path = tmp_path / "elsewhere.aplomb"
    window.files.keep_copy()
    assert not window.banner.isVisible()
    assert window.session.book.path.name == "elsewhere.aplomb"
    assert window.session.book.entries()[0].formula.dough[0].grams == 3200


def test_what_a_full_disk_refused_is_written_by_itself_once_there_is_room(
    window, qtbot, person, monkeypatch
):
    real, full = History._put, [True]

    def put(*args, **way):
        if full:
            error = sqlite3.OperationalError("database or disk is full")
            error.sqlite_errorcode = sqlite3.SQLITE_FULL
            raise error
        real(*args, **way)

    monkeypatch.setattr(History, "_put", put)
    monkeypatch.setattr("aplomb.desk.session.AGAIN_MS", 20)
    person.alt(K.Key_2)
    window.paste.cards[Part.DOUGH].focus_line(0, 0)
    person.type("3100")
    qtbot.waitUntil(window.banner.isVisible, timeout=3000)
    full.clear()
    qtbot.waitUntil(lambda: window.session.journal.unwritten == 0, timeout=3000)
    assert not window.banner.isVisible()
    assert window.session.book.entries()[0].formula.dough[0].grams == 3100


def test_steps_back_with_a_key_held_down_are_shown_together(window, person, monkeypatch):
    session, shown_ = window.session, []
    for n in range(12):
        session.shelf.edit(f"sheet {n}", lambda f, n=n: replace(f, sheet_mm=3 + n / 10))
    session.studied.connect(lambda: shown_.append(1))
    for _ in range(12):
        window.undo()
    assert session.formula.sheet_mm == 3.4
    QApplication.processEvents()
    assert len(shown_) < 6, "most of them were shown by one"
    assert session.study.formula.sheet_mm == 3.4


def test_a_wrong_book_leaves_the_open_one(window, answers, tmp_path):
    answers.path = tmp_path / "list.aplomb"
    answers.path.write_text("eggs\n" * 500)
    window.files.open_book()
    assert "not an Aplomb book" in answers.texts[0]
    assert len(window.session.shelf.entries) == 7


def test_json_goes_out_and_comes_in(window, answers, tmp_path, person):
    answers.path = tmp_path / "regatta.json"
    window.files.export_formula()
    wanted = person.formula
    window.files.import_formula()
    assert len(window.session.shelf.entries) == 8
    assert person.formula == wanted
    answers.path.write_text('{"format": "aplomb-formula", "vers')
    window.files.import_formula()
    assert "cut off" in answers.texts[0]
    assert len(window.session.shelf.entries) == 8


def test_a_formula_comes_in_with_its_materials_and_goes_in_one_step(window, answers, tmp_path):
    store, shelf = window.session.store, window.session.shelf
    own = replace(store.reference.pantry["lard"], key="croft", name="Croft lard", standing="own")
    store.put_items("own", [Item("croft", own)])
    shelf.edit("lard", lambda f: replace(f, block=(Line("croft", 900),)))
    answers.path = tmp_path / "croft.json"
    window.files.export_formula()
    for _ in range(2):
        window.session.journal.undo()
    assert "croft" not in store.reference.pantry
    window.files.import_formula()
    assert (len(shelf.entries), store.reference.pantry["croft"].name) == (8, "Croft lard")
    window.session.journal.undo()
    assert len(shelf.entries) == 7
    assert "croft" not in store.reference.pantry


def test_the_card_says_when_it_cannot_be_written(window, answers, tmp_path, qtbot):
    answers.path = tmp_path / "nowhere" / "card.pdf"
    window.papers.print_card("pdf")
    qtbot.waitUntil(lambda: bool(answers.texts))
    assert "no such file or folder" in answers.texts[0]
    answers.path = tmp_path / "card"
    window.papers.print_card("csv")
    qtbot.waitUntil((tmp_path / "card.csv").exists)


@pytest.mark.parametrize(("theme", "text_pct"), [("light", 80), ("dark", 100), ("dark", 200)])
def test_every_stage_paints_at_every_size(qapp, qtbot, book_path, theme, text_pct):
    window = open_at(book_path, qtbot, theme=theme, text_pct=text_pct)
    for size in ((1280, 800), (1024, 700)):
        window.resize(*size)
        for stage in (SHELF, PASTE, FOLDS, BATCH):
            window.show_stage(stage)
            image = window.grab().toImage()
            assert (image.width(), image.height()) == size
    window.close()


def test_theme_and_text_change_while_open(person, window):
    person.ctrl(K.Key_T)
    assert look.theme.name == "dark"
    person.ctrl(K.Key_Minus)
    assert look.theme.scale == pytest.approx(0.9)
    person.ctrl(K.Key_0)
    assert look.theme.scale == 1


def test_every_control_has_a_name_for_screen_readers(window):
    for stage in (SHELF, PASTE, FOLDS, BATCH):
        window.show_stage(stage)
        for widget in window.findChildren(QWidget):
            if widget.isVisible() and widget.focusPolicy() & Qt.FocusPolicy.TabFocus:
                face = QAccessible.queryAccessibleInterface(widget)
                assert face is not None
                assert face.text(QAccessible.Text.Name).strip(), widget


def test_f6_goes_round_the_parts(person, window):
    person.alt(K.Key_2)
    seen = []
    for _ in range(5):
        person.press(K.Key_F6)
        seen.append(person.focus)
    assert len({id(w) for w in seen}) >= 4
    assert any(window.section is w for w in seen)
    assert any(window.opinion.isAncestorOf(w) for w in seen)
    assert any(window.headline.isAncestorOf(w) for w in seen)


@pytest.mark.parametrize("text_pct", [100, 200])
def test_large_text_in_a_small_window_folds_the_second_opinion(qapp, qtbot, book_path, text_pct):
    """Nothing of the work is pushed out of sight to the right; who asks for it still gets it."""
    window = open_at(book_path, qtbot, text_pct=text_pct)
    window.resize(1024, 700)
    QApplication.processEvents()
    window.setUpdatesEnabled(False)
    assert window.opinion.isVisible() == (text_pct == 100)
    assert window.opinion_button.isVisible() == (text_pct > 100)
    for key in [p.key for p in COMMANDS_OF_PAGES if p.room != "folds"]:
        window.open_page(key)
        QApplication.processEvents()
        assert window.pages[key].horizontalScrollBar().maximum() == 0, key
    for stage in (SHELF, PASTE, BATCH):
        window.show_stage(stage)
        QApplication.processEvents()
        shown = window.stages.currentWidget()
        bar = getattr(shown, "horizontalScrollBar", None)
        assert bar is None or bar().maximum() == 0, stage
    if text_pct > 100:
        person = Person(window, qtbot)
        person.ctrl(K.Key_I)
        assert window.opinion.isVisible()
        person.ctrl(K.Key_I)
        assert not window.opinion.isVisible()
    window.close()
