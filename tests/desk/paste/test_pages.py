"""The places beside the paste, by keys and by what is shown."""

import re
import sys

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QDialog, QLabel, QPushButton

from aplomb.book.book import Book
from aplomb.book.changes import Kept, StoreChange
from aplomb.core.base.figures import grams_text
from aplomb.core.lists.reading import read_list
from aplomb.core.paste.accounts import account
from aplomb.core.paste.formula import Part
from aplomb.desk.stages import asking
from aplomb.work.commands import FOLDS, PASTE
from aplomb.work.edits.lines import LineEdits
from aplomb.work.open_book.rows import Kitchen
from desk.conftest import Person, shown

K = Qt.Key
"""Keys."""


def press_button(widget, text):
    found = [b for b in widget.findChildren(QPushButton) if b.isVisible() and text in b.text()]
    assert found, f"no button “{text}”"
    found[0].setFocus()
    QApplication.processEvents()
    assert found[0].isEnabled(), f"“{text}” is not to be pressed"
    found[0].click()
    QApplication.processEvents()


@pytest.fixture
def paste(window):
    window.show_stage(PASTE)
    return window


def place(window, key):
    window.open_page(key)
    QApplication.processEvents()
    return window.pages[key]


@pytest.mark.parametrize(
    ("key", "name"),
    [
        (K.Key_L, "list"), (K.Key_M, "pantry"), (K.Key_A, "accounts"), (K.Key_F, "fats"),
        (K.Key_S, "swap"), (K.Key_V, "solve"), (K.Key_W, "water"), (K.Key_G, "gluten_free"),
        (K.Key_C, "compare"),
    ],
)  # fmt: skip
def test_every_page_opens_by_its_keys_and_escape_leads_back(paste, qtbot, key, name):
    person = Person(paste, qtbot)
    person.alt(key)
    assert paste.stages.currentWidget() is paste.pages[name]
    assert person.focus is not None
    assert paste.pages[name].isAncestorOf(person.focus)
    person.press(K.Key_Escape, times=2)
    assert paste.stages.currentWidget() is paste.paste


def test_a_list_is_read_and_accepted_line_by_line(paste, qtbot):
    person = Person(paste, qtbot)
    paste.session.shelf.new()
    paste.session.shelf.edit("empty", lambda f: type(f)(name=f.name))
    QGuiApplication.clipboard().setText(
        "2 1/4 cups (280 g) plain flour\n1 tsp salt\n20 g margarine\n250 g butter, cold\n"
        "4 g flour type 405\n2 eggs\n\nMethod\nMix it all and fold it."
    )
    person.alt(K.Key_L)
    page = paste.pages["list"]
    assert len(page.rows) == 6
    assert "6 lines, 6 to accept. Not ingredients: “Method”, “Mix it all" in shown(page)
    assert "“margarine” could be" in shown(page)
    assert "100 g ± 15 %" in shown(page)  # two eggs
    assert person.formula.all_lines() == []  # nothing is taken by itself
    press_button(page, "Accept the 4 certain")
    assert [n.material for n in person.formula.dough] == ["plain_flour", "salt", "egg_whole"]
    assert person.formula.dough[0].grams == 280
    assert person.formula.dough[0].typed == "2 1/4 cups (280 g)"
    assert [n.material for n in person.formula.block] == ["butter"]
    assert person.formula.block[0].note == "cold"
    page.rows[2].material.setFocus()
    person.press(K.Key_Down)  # the second candidate
    page.rows[2].take.setFocus()
    person.press(K.Key_Space)
    assert len(person.formula.dough) == 4
    assert person.focus is page.rows[4].take
    paste.session.journal.undo()
    paste.session.journal.undo()
    assert person.formula.all_lines() == []  # the four went as one


def test_nothing_of_an_older_text_can_be_accepted(paste, qtbot, monkeypatch):
    """What was read stands there until the new text is read; a text that fells the reader, too."""
    page = place(paste, "list")
    before = paste.session.formula
    page.text.setPlainText("250 g plain flour\n5 g salt")
    page.read()
    assert len(page.rows) == 2
    page.text.setPlainText("300 g sugar")
    assert not page.sure.isEnabled()
    assert not any(each.take.isEnabled() for each in page.rows)
    page.accept(0)
    page.accept_sure()
    assert paste.session.formula == before
    page.read()
    assert [each.proposal.raw for each in page.rows] == ["300 g sugar"]
    assert page.sure.isEnabled()

    def falls(text, *_others):
        if "from" in text:
            raise IndexError("nobody expected this")
        return read_list(text, *_others)

    heard = []
    monkeypatch.setattr(sys, "excepthook", lambda *error: heard.append(error[0]))
    monkeypatch.setattr("aplomb.desk.paste.list_page.read_list", falls)
    page.text.setPlainText("300 g sugar\n250 g from")
    page.read()
    assert page.rows == []
    assert "“250 g from” could not be read." in page.error.text()
    assert heard == [IndexError]
    assert paste.session.formula == before


def test_a_list_is_as_written_and_empty_again_for_the_next_formula(paste, qtbot):
    """The lines a new formula begins with give way, and the batch is what the list makes; in a
    formula that has its own lines the list is added, and nothing is said of the batch."""
    person = Person(paste, qtbot)
    paste.session.shelf.new()
    text = "500 g plain flour\n260 g cold water\n10 g salt\nBeurrage\n400 g butter"
    QGuiApplication.clipboard().setText(text)
    person.alt(K.Key_L)
    page = paste.pages["list"]
    assert page.as_written.isChecked()
    press_button(page, "Accept the 4 certain")
    assert [(n.material, n.grams) for _, _, n in person.formula.all_lines()] == [
        ("plain_flour", 500),
        ("water", 260),
        ("salt", 10),
        ("butter", 400),
    ]
    assert paste.session.study.scaled.factor == pytest.approx(1)
    assert paste.session.study.scaled.paste_g == pytest.approx(1170)
    paste.session.journal.undo()
    assert person.formula.dough[0].grams == 1000, "it was one change"
    QGuiApplication.clipboard().setText("")
    paste.session.shelf.select(next(iter(paste.session.shelf.entries)))
    assert page.text.toPlainText() == ""
    assert page.rows == []
    before, paste_g = person.formula.dough, person.formula.batch
    page.text.setPlainText("5 g salt")
    page.read()
    assert not page.as_written.isChecked()
    press_button(page, "Accept the certain line")
    assert person.formula.dough[:-1] == before
    assert person.formula.batch == paste_g


def test_a_price_in_the_pantry_costs_everywhere_and_can_be_undone(paste, qtbot):
    person = Person(paste, qtbot)
    before = person.readings.cost
    person.alt(K.Key_M)
    page = paste.pages["pantry"]
    person.type("butter, s", enter=False)
    assert page.title.text() == "Butter, salted"
    page.fields["price"].setFocus()
    person.type("35.60")
    assert person.readings.cost > before
    assert paste.session.reference.pantry.pack("butter_salted").price == 35.6
    assert paste.session.reference.pantry.pack("butter_salted").date
    person.ctrl(K.Key_Z)
    assert person.readings.cost == before
    page.fields["price"].setFocus()
    person.type("lots")
    assert page.fields["price"].bad
    assert "price" in shown(page)


def test_figures_of_a_supplied_material_become_the_users_and_go_back(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "pantry")
    page.begin("butter_salted")
    fat = person.readings.pure_fat_pct
    page.fields["fat"].setFocus()
    person.type("82,5" if False else "82.5")
    assert person.readings.pure_fat_pct > fat
    assert "replacing the supplied one" in shown(page)
    press_button(page, "Back to the supplied figures")
    assert person.readings.pure_fat_pct == fat
    page.fields["water"].setFocus()
    person.type("60")
    assert page.fields["water"].bad
    assert "adds up to" in shown(page)


def test_a_copy_a_new_one_and_taking_out(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "pantry")
    page.begin("lard")
    press_button(page, "Copy")
    assert page.title.text() == "Lard (own)"
    person.type("Croft lard")
    key = page.edits.key
    assert paste.session.reference.pantry[key].name == "Croft lard"
    paste.session.shelf.edit(
        "use it",
        lambda f: f.with_lines(Part.DUSTING, (*f.dusting, f.dusting[0].__class__(key, 5))),
    )
    press_button(page, "Remove it")
    assert "is used in “Regatta case paste”" in shown(page)
    paste.session.journal.undo()
    press_button(page, "Remove it")
    assert key not in paste.session.reference.pantry
    press_button(page, "New ingredient")
    assert "own figures" in shown(page)


def test_a_suppliers_sheet_is_looked_at_and_taken_in(paste, answers, tmp_path, monkeypatch, qtbot):
    sheet = tmp_path / "Quayside.csv"
    sheet.write_text(
        "name;group;fat;water;price;pack\nQuay butter;fat;82,5;15,5;41,50;5 kg\nBad;fat;900;1;;\n"
    )
    answers.path = sheet
    seen = []

    def look(dialog):
        seen.append(shown_all(dialog))
        dialog.accept()
        return 1

    monkeypatch.setattr(QDialog, "exec", look)
    page = place(paste, "pantry")
    take_sheet(paste, page, qtbot)
    assert "1 new, 0 replacing what you have, 1 that cannot be used" in seen[0]
    assert "Line 3, Bad: fat: 900" in seen[0]
    assert "quay_butter" not in paste.session.reference.pantry  # not before the button
    monkeypatch.setattr(QDialog, "exec", lambda d: (press_all(d, "Import 1 ingredient"), 1)[1])
    take_sheet(paste, page, qtbot)
    pantry = paste.session.reference.pantry
    assert pantry["quay_butter"].composition.fat == pytest.approx(0.825)
    assert pantry.pack("quay_butter").price == 41.5
    paste.session.journal.undo()
    assert "quay_butter" not in paste.session.reference.pantry
    answers.path = tmp_path / "none.csv"
    take_sheet(paste, page, qtbot)
    assert "cannot read none.csv" in answers.texts[-1]
    answers.path = tmp_path / "out.csv"
    press_button(page, "Export as CSV")
    assert (tmp_path / "out.csv").read_bytes().startswith(b"\xef\xbb\xbfname,key")


def take_sheet(window, page, qtbot):
    """Press the button and wait for the sheet, which is read beside the window."""
    press_button(page, "Import supplier")
    qtbot.waitUntil(lambda: not window.files.reading.busy, timeout=10_000)


def shown_all(dialog):
    return "\n".join(w.text() for w in dialog.findChildren(QLabel))


def press_all(dialog, text):
    next(b for b in dialog.findChildren(QPushButton) if text in b.text()).click()


def test_a_swap_is_seen_taken_and_undone_in_one(paste, qtbot):
    person = Person(paste, qtbot)
    paste.paste.cards[Part.BLOCK].focus_line(0, 0)
    before = person.formula
    person.alt(K.Key_S)
    page = paste.pages["swap"]
    assert page.line.currentText().startswith("Butter, salted")
    person.type("pastry marg")
    assert "2\u2009795 g pastry margarine in" in shown(page)
    assert "16–22 °C instead of 12–16" in page.view.bench
    assert person.formula == before
    assert person.focus is page.do
    person.press(K.Key_Space)
    assert person.formula.block[0].material == "pastry_margarine"
    assert paste.stages.currentWidget() is paste.paste
    pantry = paste.session.reference.pantry
    one, two = account(before, pantry), account(person.formula, pantry)
    assert two.pure_fat_g == pytest.approx(one.pure_fat_g, abs=0.1)
    assert two.salt_g == pytest.approx(one.salt_g, abs=0.1)
    person.ctrl(K.Key_Z)
    assert person.formula == before


def test_a_swap_that_cannot_be_says_why(paste, qtbot):
    page = place(paste, "swap")
    page.begin((Part.BLOCK, 0))
    page._choose("butter_salted")
    assert "already" in shown(page)
    assert not page.do.isEnabled()
    page.portion.setFocus()
    Person(paste, qtbot).type("140")
    assert page.portion.bad


def test_if_the_fat_were_leads_to_the_comparison(paste, qtbot):
    buttons = paste.paste.choices.widgets()
    assert [b.text() for b in buttons][:2] == ["Pastry margarine", "Shortening"]
    buttons[3].setFocus()
    Person(paste, qtbot).press(K.Key_Space)
    page = paste.pages["swap"]
    assert paste.stages.currentWidget() is page
    assert page.portion.text() == "50"
    assert "shortening, all-purpose in" in shown(page)


def test_fats_are_blended_by_share_and_slider(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "fats")
    before = account(person.formula, paste.session.reference.pantry)
    page.add.setFocus()
    person.type("lard")
    assert [n.material for n in person.formula.block] == ["butter_salted", "lard"]
    page.rows[1].share.setFocus()
    person.type("50")
    butter, lard = person.formula.block
    assert butter.grams == pytest.approx(lard.grams)
    after = account(person.formula, paste.session.reference.pantry)
    assert after.pure_fat_g == pytest.approx(before.pure_fat_g, abs=0.1)
    page.rows[0].slider.setFocus()
    person.press(K.Key_Right)
    assert person.formula.block[0].grams > person.formula.block[1].grams
    assert "about" in page.figures.text()
    page.rows[1].share.setFocus()
    person.type("120")
    assert page.rows[1].share.bad
    person.press(K.Key_Escape)
    press_button(page, "Remove")
    assert len(person.formula.block) == 1


def test_a_blend_is_kept_as_a_material(paste, qtbot, monkeypatch):
    page = place(paste, "fats")
    page._added("lard")
    monkeypatch.setattr(asking, "typed_in", lambda _dialog: "Galley blend")
    press_button(page, "Save as an ingredient…")
    made = paste.session.reference.pantry["galley_blend"]
    assert [s.share for s in made.made_of] == pytest.approx([0.75, 0.25])
    assert made.allergens == ("milk",)


def test_the_cone_says_how_firm(paste, qtbot):
    page = place(paste, "fats")
    page.depth_sunk.setFocus()
    Person(paste, qtbot).type("10")
    assert "291 g/cm²: plastic and spreadable" in page.firm.text()  # 5840 × 79.03 / 100^1.6
    page.depth_sunk.setFocus()
    Person(paste, qtbot).type("900")
    assert page.depth_sunk.bad


def answered(page, qtbot):
    qtbot.waitUntil(lambda: not page.beside.busy, timeout=20_000)


def test_solving_for_fat_on_flour(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "solve")
    page.rows[0].value.setFocus()
    person.type("75")
    answered(page, qtbot)
    assert "2 lines change" in shown(page)
    salt = person.readings.salt_pct
    press_button(page, "Apply")
    assert person.readings.fat_product_pct == pytest.approx(75, abs=1e-3)
    assert person.readings.salt_pct == pytest.approx(salt, abs=1e-3)
    assert paste.stages.currentWidget() is paste.paste


def test_what_cannot_be_solved_says_what_is_in_the_way(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "solve")
    page.locks[(Part.BLOCK, 0)].click()
    page.locks[(Part.DOUGH, 0)].click()
    page.locks[(Part.DOUGH, 1)].click()
    page.rows[0].value.setFocus()
    person.type("75")
    answered(page, qtbot)
    assert "This is not possible" in shown(page)
    assert "Butter, salted is locked at 2795 g" in shown(page)
    assert not page.do.isEnabled()


@pytest.mark.usefixtures("new_window")
def test_two_wishes_and_a_material(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "solve")
    first = page.rows[0]
    first.what.setCurrentIndex(first.what.findData("pure_fat_pct"))
    page.what_chosen(0)
    first.value.setFocus()
    person.type("60")
    press_button(page, "Add a target")
    second = page.rows[1]
    second.what.setCurrentIndex(second.what.findData("fat_share_pct"))
    page.what_chosen(1)
    second.material.setCurrentIndex(second.material.findData("lard"))
    second.value.setFocus()
    person.type("50")
    answered(page, qtbot)
    press_button(page, "Apply")
    butter, lard = person.formula.block
    assert butter.grams == pytest.approx(lard.grams, rel=1e-3)
    assert person.readings.pure_fat_pct == pytest.approx(60, abs=1e-2)


@pytest.mark.usefixtures("new_window")
def test_a_share_keeps_fat_on_flour_and_says_so(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "solve")
    before = person.readings.fat_product_pct
    first = page.rows[0]
    first.what.setCurrentIndex(first.what.findData("fat_share_pct"))
    page.what_chosen(0)
    assert page.keeps["fat_product_pct"].isChecked()
    first.material.setCurrentIndex(first.material.findData("lard"))
    first.value.setFocus()
    person.type("40")
    answered(page, qtbot)
    press_button(page, "Apply")
    assert person.readings.fat_product_pct == pytest.approx(before, rel=1e-6)
    butter, lard = person.formula.block
    assert lard.grams / (butter.grams + lard.grams) == pytest.approx(0.4, rel=1e-6)


@pytest.mark.usefixtures("new_window")
def test_the_nearest_is_said_in_its_own_unit(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "solve")
    for box in page.locks.values():
        box.click()
    first = page.rows[0]
    first.what.setCurrentIndex(first.what.findData("paste_g"))
    page.what_chosen(0)
    first.value.setFocus()
    person.type("90 kg")
    answered(page, qtbot)
    assert "The nearest is" in shown(page)
    assert re.search(r"The nearest is [\d\u2009.]+ g\.", shown(page))


def test_water_ice_and_the_house(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "water")
    page.wanted.setFocus()
    person.type("10")
    assert person.formula.dough_c == 10
    assert "g ice" in page.answer.text()
    page.held.setFocus()
    person.type("14 %")
    assert person.formula.held_back_pct == 14
    factor, water = paste.session.study.scaled.factor, person.formula.dough[2].grams
    assert f"Hold back {grams_text(0.14 * factor * water)} g" in page.words.text()
    page.fields["flour_c"].setFocus()
    person.type("86 F")
    assert paste.session.reference.house.flour_c == pytest.approx(30)
    page.fields["shop_c"].setFocus()
    person.type("90")
    assert page.fields["shop_c"].bad
    assert "-5 to 45 °C" in shown(page)
    person.press(K.Key_Escape)
    page.measures.setCurrentIndex(1)
    page._take_measures(1)
    assert paste.session.reference.house.measures == "us"
    page.currency.setFocus()
    person.type("£")
    assert paste.session.reference.house.currency == "£"
    paste.session.journal.undo()
    assert paste.session.reference.house.currency == "€"


def test_accounts_show_the_sums_and_take_a_measured_moisture(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "accounts")
    assert "g enclosed fat ÷" in shown(page)
    assert "Butter, salted" in page.table.text()
    page.moisture.setFocus()
    person.type("11.5")
    assert person.formula.flour_moisture_pct == 11.5
    assert "Dry flour" in {o.claim for o in paste.session.study.opinions}
    page.moisture.setFocus()
    person.type("60")
    assert page.moisture.bad
    person.press(K.Key_Escape)
    person.ctrl(K.Key_Z)
    assert person.formula.flour_moisture_pct is None


def test_a_gluten_free_variant_stands_beside_the_first(paste, qtbot):
    person = Person(paste, qtbot)
    name, count = person.formula.name, len(paste.session.shelf.entries)
    page = place(paste, "gluten_free")
    assert "20 mg/kg" in shown(page)
    page.rows[0][1].setFocus()
    person.type("70")
    assert [s.share for s in page.shares] == pytest.approx([0.7, 0.1875, 0.1125])
    page.add.setFocus()
    person.type("strong")
    assert "contains gluten" in shown(page)
    press_button(page, "Save as a new formula")
    assert len(paste.session.shelf.entries) == count + 1
    assert person.formula.name == f"{name}, gluten-free"
    assert person.formula.school == "gluten_free"
    keys = {o.key for o in paste.session.study.opinions}
    assert not keys & {"wheat_in_gluten_free", "binder_missing", "singles_only_gluten_free"}
    assert person.readings.dough_water_pct == pytest.approx(65, abs=0.1)


def test_revisions_are_kept_compared_and_taken_back(paste, qtbot, monkeypatch):
    person = Person(paste, qtbot)
    names = iter(["before the salt", ""])
    monkeypatch.setattr(asking, "typed_in", lambda _dialog: next(names))
    person.ctrl(K.Key_R)
    assert paste.session.shelf.revision == 1
    card = paste.paste.cards[Part.DOUGH]
    card.focus_line(4, 0)
    person.type("20")
    person.alt(K.Key_C)
    page = paste.pages["compare"]
    assert page.other.currentText().startswith("Revision 1: before the salt")
    assert "Salt, fine 33 20 −13 × 0.606" in page.view.lines.text()
    press_button(page, "Go back to this revision")
    assert person.formula.dough[4].grams == 33
    person.ctrl(K.Key_Z)
    assert person.formula.dough[4].grams == 20
    page.other.setCurrentIndex(page.other.findText("Kiosk turnover paste"))
    page._show()
    assert "Shortening, all-purpose 700 –" in page.view.lines.text()


def test_additions_and_fillings_wait_behind_a_button(paste, qtbot):
    person = Person(paste, qtbot)
    assert not paste.paste.cards[Part.BETWEEN].isVisible()
    press_button(paste.paste, "+ Between the folds")
    person.type("cheese")
    QApplication.processEvents()
    paste.paste.cards[Part.BETWEEN].focus_line(0, 0)
    person.type("200")
    assert person.formula.between[0].grams == 200
    card = paste.paste.cards[Part.BETWEEN]
    assert "at turn 4 of 4" in card.rows[0].note.toolTip()
    card._at_turn(0, 1)
    assert "addition_early" in {o.key for o in paste.session.study.opinions}
    press_button(paste.paste, "+ Filling")
    person.type("apricot")
    QApplication.processEvents()
    paste.paste.cards[Part.FILLING].focus_line(0, 0)
    person.type("12 g")
    before = paste.session.study.readings.piece_eaten_g
    paste.paste.cards[Part.FILLING].focus_line(0, 0)
    person.type("32 g")
    assert paste.session.study.readings.piece_eaten_g == pytest.approx(before + 20, abs=0.2)


def test_a_hostile_store_is_said_and_the_rest_is_read(paste, tmp_path):
    """Rows that another program, or a broken disk, has put into the book."""
    session = paste.session
    rows = (
        ("house", "{}"),
        ("item/x", "{bad"),
        ("item/y", '{"key":1}'),
        ("stock", "[]"),
        ("demand", '{"wants": 7}'),
        ("batch/z", "null"),
    )
    book = Book(tmp_path / "hostile.aplomb")
    book.record(
        [StoreChange("hostile", (Kept(key, None),), (Kept(key, body),)) for key, body in rows]
    )
    book.close()
    session.work.open_book(tmp_path / "hostile.aplomb")
    for row in ("“x”", "“y”", "the stock", "the day’s demand", "batch “z”"):
        assert row in session.work.notice
    assert "house" not in session.work.notice
    assert session.work.notice in paste.banner.words.text()
    assert "plain_flour" in session.reference.pantry
    assert session.kitchen == Kitchen()


def test_a_home_recipe_becomes_a_priced_gluten_free_variant_by_keys(paste, qtbot):
    """What a tester did in under five minutes: list, gluten-free, two prices, accounts."""
    person = Person(paste, qtbot)
    paste.session.shelf.new()
    QGuiApplication.clipboard().setText(
        "For the dough:\n2 1/4 cups all-purpose flour\n1 tsp salt\n1 tbsp lemon juice\n"
        "1/2 cup iced water\nButter:\n2 sticks (8 oz) unsalted butter, cold\nFor dusting:\n"
        "2 tbsp type 00 flour\n"
    )
    person.alt(K.Key_L)
    page = paste.pages["list"]
    person.press(K.Key_Tab)
    person.press(K.Key_Space)  # empty the formula first; the cups have the keyboard then
    assert page.cups.currentText() == "US cups and spoons"
    assert "list mentions sticks of butter" in shown(page)
    assert paste.session.reference.house.measures == "metric", "it is for this list only"
    person.press(K.Key_Tab)
    person.press(K.Key_Space)  # accept the certain
    assert person.focus is page.rows[5].material
    batch = person.formula.batch
    assert (batch.fixed, batch.times) == ("written", 1.0)
    assert person.formula.dough[0].typed == "2.25 US cup"
    person.press(K.Key_Tab, times=2)
    person.press(K.Key_Space)
    assert person.formula.dough[0].grams == pytest.approx(2.25 * 236.588 * 0.53, abs=0.1)
    assert {o.key for o in paste.session.study.opinions} == {"volume_doubt"}
    person.press(K.Key_Escape)
    person.alt(K.Key_G)
    person.press(K.Key_Tab, times=8)
    assert person.focus.text() == "Save as a new formula"
    person.press(K.Key_Space)
    assert "potato starch, xanthan gum have no price" in paste.session.study.no_cost
    for name, price in (("potato st", "9.40"), ("xanthan", "11.20")):
        person.alt(K.Key_M)
        person.type(name, enter=False)
        for _ in range(40):
            person.press(K.Key_Tab)
            if person.focus.accessibleName() == "Pack":
                break
        person.type("500 g", enter=False)
        person.press(K.Key_Tab)
        person.type(price)
        person.press(K.Key_Escape, times=2)
    assert paste.session.study.no_cost == ""
    person.alt(K.Key_A)
    assert "Allergens: milk." in shown(paste.pages["accounts"])
    assert person.readings.cost_per_piece > 0
    assert person.readings.energy_kj_per_piece > 0
    assert paste.session.study.opinions == ()


def test_a_plan_is_found_taken_and_undone(paste, qtbot):
    person = Person(paste, qtbot)
    before = person.formula
    paste.show_stage(FOLDS)
    person.alt(K.Key_P)
    page = paste.pages["plans"]
    assert page.fields["low"].text() == "5"
    page.fields["low"].setFocus()
    person.type("9")
    page.fields["high"].setFocus()
    person.type("11")
    assert "fit" in page.answer.text()
    assert "144 leaves of 9.9 µm" in page.rows[0][1].text()
    page.folds[4].click()  # singles only: 81 or 243 leaves, neither in the band
    assert "widen the range," in page.answer.text()
    page.folds[4].click()
    page.rows[0][0].setFocus()
    person.press(K.Key_Space)
    assert person.formula.turn_line == "envelope 3 4 /30 3 4 /30"
    assert paste.stages.currentWidget() is paste.folds
    person.ctrl(K.Key_Z)
    assert person.formula == before


def test_a_claim_is_answered_and_its_plan_taken(paste, qtbot):
    person = Person(paste, qtbot)
    page = place(paste, "plans")
    assert "fat leaves: 144; dough leaves: 145; all leaves: 289" in page.own.text()
    page.claim.setFocus()
    person.type("six turns")
    shown_now = {(n.text(), w.text()) for n, w in page.claims if n.isVisible()}
    assert any(
        name == "thirds 3 3 3 3 3" and "486 fat leaves" in words for name, words in shown_now
    )
    assert "True" not in page.verdict.text()
    assert page.verdict.text().startswith("Not true of this plan: it has 4 turns")
    page.claim.setFocus()
    person.type("two triple and two book folds")
    assert page.verdict.text() == ("True: this plan folds in 3 4 3 4.\nRead as: the folds 3 3 4 4.")
    page.claim.setFocus()
    person.type("a thousand layers")
    assert page.claim.bad, "no plan gives it"
    assert "a fold product of 144" in page.verdict.text()
    page.claim.setFocus()
    person.type("lots of layers")
    assert page.claim.bad
    assert not any(name.isVisible() for name, _ in page.claims)
    person.press(K.Key_Escape, times=2)
    assert paste.stages.currentWidget() is paste.folds


def test_rough_puff_says_how_even_it_is(paste, qtbot):
    paste.session.shelf.select(list(paste.session.shelf.entries)[1])
    paste.show_stage(FOLDS)
    qtbot.waitUntil(lambda: "standard error" in paste.section.words, timeout=10_000)
    assert "thickest dough" in paste.section.words


def test_cups_of_a_list_hold_for_its_formula_and_the_next_list_starts_empty(paste, qtbot):
    """A US list in a metric house: a cup typed later is a US cup; by hand, 236.588 mL of water."""
    person = Person(paste, qtbot)
    session = paste.session
    session.shelf.new()
    QGuiApplication.clipboard().setText("2 cups all-purpose flour\n1/2 cup cold water\n2 eggs")
    person.alt(K.Key_L)
    page = paste.pages["list"]
    press_button(page, "Accept the 3 certain lines")
    assert [n.typed for n in person.formula.dough] == ["2 US cup", "0.5 US cup", "2 × 50 g"]
    lines = LineEdits(session.work, Part.DOUGH, lambda: person.formula.dough)
    lines.grams(person.formula.dough[1], "1 cup")
    assert person.formula.dough[1].grams == pytest.approx(236.588, rel=2e-3)
    assert person.formula.dough[1].typed == "1 US cup"
    QGuiApplication.clipboard().setText("")
    person.press(K.Key_Escape)
    person.alt(K.Key_L)
    assert page.text.toPlainText() == ""
    assert page.rows == []
