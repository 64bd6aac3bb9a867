"""Products and the cut plan: by keys and by what is shown."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication

from aplomb.core.paste.formula import with_product
from aplomb.core.paste.product import SHAPES
from desk.conftest import BATCH, named, place, searched, shown, tab_to

K = Qt.Key


def test_the_cut_plan_is_found_shown_and_taken(window, qtbot, person):
    cut = place(window, "cut")
    searched(qtbot, cut)
    assert "3 sheets of" in shown(cut)
    assert cut.plan.pieces()[0] >= 240
    assert "In pieces" in cut.balance.text()
    scaled, rolled = window.session.study.scaled, cut.sheets.sheets_g
    assert scaled.rolled_g == pytest.approx(rolled), "the plan is what the batch is made by"
    assert f"{cut.sheets.blocks} blocks of" in " ".join(w.text() for w in window.batch.sums)
    tab_to(person, named("Keep this sheet"))
    person.press(K.Key_Space)
    formula = person.formula
    assert formula.cutting.length_mm == pytest.approx(cut.sheets.plans[0].sheet.length_mm)
    searched(qtbot, cut)
    assert window.session.study.scaled.rolled_g == pytest.approx(rolled)
    assert cut.again.isVisible()
    tab_to(person, named("Search again"))
    person.press(K.Key_Space)
    assert person.formula.cutting.length_mm == 0
    window.session.journal.undo()
    window.session.journal.undo()
    assert person.formula.cutting.length_mm == 0


@pytest.mark.usefixtures("new_window")
def test_the_last_plan_stands_marked_until_another_is_found(window, qtbot):
    cut = place(window, "cut")
    searched(qtbot, cut)
    before = cut.sheets
    shelf = window.session.shelf
    shelf.edit("ordered", lambda f: with_product(f, 0, wanted=117))
    assert window.session.study.cut_waits, "a search does not hold the key that was pressed"
    assert "until then the last one stands" in shown(cut)
    assert cut.sheets.plans == before.plans
    searched(qtbot, cut)
    assert "until then" not in shown(cut)
    assert cut.plan.pieces()[0] >= 117


def test_a_product_is_added_changed_and_taken_out_by_keys(window, qtbot, person):
    cut = place(window, "cut")
    tab_to(person, named("Add"))
    person.press(K.Key_Space)
    person.type("Lantern tart")
    assert person.formula.products[-1].name == "Lantern tart"
    tab_to(person, named("Length"))
    person.type("90")
    person.type("24")  # Enter leaves the field selected: typing goes on
    tab_to(person, named("Ordered"))
    person.type("36")
    tart = person.formula.products[-1]
    assert (tart.length_mm, tart.wanted) == (24, 36)
    searched(qtbot, cut)
    assert "Lantern tart" in cut.table.text()
    tab_to(person, named("Remove the product"))
    person.press(K.Key_Space)
    assert [p.name for p in person.formula.products] == ["Vol-au-vent case", "Pennant straw"]


@pytest.mark.usefixtures("new_window")
def test_every_shape_can_be_chosen_and_is_drawn(window, qtbot, person):
    cut = place(window, "cut")
    box = cut.editor.shape
    for shape in SHAPES:
        box.setCurrentIndex(box.findData(shape))
        box.activated.emit(box.currentIndex())
        cut.editor.fields["wanted"].setFocus()
        person.type("12")
        searched(qtbot, cut)
        assert window.session.formula.products[0].shape == shape
        assert cut.plan is not None, shown(cut)
        assert not cut.view.grab().isNull(), shape
        assert cut.view.accessibleDescription(), shape


@pytest.mark.usefixtures("new_window")
def test_what_cannot_be_cut_says_why_and_nothing_is_lost(window, qtbot, person):
    cut = place(window, "cut")
    field = cut.editor.fields["length_mm"]
    field.setFocus()
    person.type("3000")
    searched(qtbot, cut)
    assert "largest sheet here" in shown(cut)
    assert not cut.take.isEnabled()
    person.type("a mile")
    assert field.bad
    assert person.formula.products[0].length_mm == 3000
    person.press(K.Key_Escape)
    person.type("70")
    searched(qtbot, cut)
    assert cut.take.isEnabled()


def test_a_crossing_outline_is_refused_where_it_is_typed(window, person):
    cut = place(window, "cut")
    box = cut.editor.shape
    box.setCurrentIndex(box.findData("outline"))
    box.activated.emit(box.currentIndex())
    field = cut.editor.fields["points"]
    field.setFocus()
    person.type("0 0; 90 90; 90 0; 0 90")
    assert field.bad
    assert "crosses" in field.bad_reason
    person.press(K.Key_Escape)
    person.type("0 0; 90 0; 90 40; 0 90")
    assert len(person.formula.products[0].points) == 4


def test_the_drawing_is_zoomed_by_wheel_and_keys(window, qtbot, person):
    cut = place(window, "cut")
    searched(qtbot, cut)
    view = cut.view
    view.setFocus()
    person.press(K.Key_Plus)
    assert view.zoom == pytest.approx(1.25)
    person.press(K.Key_Left)
    event = QWheelEvent(
        QPointF(40, 40),
        view.mapToGlobal(QPointF(40, 40)),
        QPoint(),
        QPoint(0, 120),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(view, event)
    assert view.zoom == pytest.approx(1.25**2)
    person.press(K.Key_0)
    assert view.zoom == 1


def test_filling_and_topping_are_weighed(window, person):
    cut = place(window, "cut")
    cut.editor.add_topping.setFocus()
    person.type("poppy")
    lines = [w for w in window.session.study.scaled.lines if w.product == "Vol-au-vent case"]
    assert [w.line.material for w in lines] == ["poppy_seed"]
    assert lines[0].exact_g == pytest.approx(245 * 10, rel=0.05)


def test_scrap_that_is_there_makes_the_batch_smaller(window, qtbot, person):
    cut = place(window, "cut")
    before = window.session.study.scaled.paste_g
    for name, text in (("scrap_pct", "10"), ("scrap_g", "300 g")):
        cut.cut_fields[name].setFocus()
        person.type(text)
    searched(qtbot, cut)
    scaled = window.session.study.scaled
    assert scaled.scrap_in_g == 300
    assert scaled.paste_g < before - 250
    assert "300 g of earlier batches is in these sheets" in cut.balance.text()
    field = cut.cut_fields["scrap_g"]
    field.setFocus()
    person.type("much")
    assert field.bad


def test_a_product_of_parts_and_offcuts_by_keys(window, qtbot, person):
    cut = place(window, "cut")
    cut.editor.fields["parts"].setFocus()
    person.type("4 strips 20 × 4; lid 15")
    case = person.formula.products[0]
    assert [(p.what, p.a_piece) for p in case.parts] == [("strips", 4), ("lid", 1)]
    searched(qtbot, cut)
    assert "21 × 4" in cut.table.text()
    assert all(f"A{n}" in cut.table.text() for n in (1, 2, 3))  # each part has its own sign
    cut.editor.fields["parts"].setFocus()
    person.type("4 strips")
    assert cut.editor.fields["parts"].bad
    person.press(K.Key_Escape)
    cut.editor.fields["pressed"].setFocus()
    person.type("90 × 70")
    case = person.formula.products[0]
    assert (case.pressed_length_mm, case.pressed_width_mm) == (90, 70)
    assert ", pressed 2" in cut.list.model().stringList()[0]
    before = window.session.study.scaled.paste_g
    cut.add.setFocus()
    person.press(K.Key_Space)
    assert len(person.formula.products) == 3
    person.type("Crumble twist")
    cut.editor.fields["offcut_g"].setFocus()
    person.type("12 g")
    cut.editor.fields["wanted"].setFocus()
    person.type("30")
    scaled = window.session.study.scaled
    assert scaled.paste_g == before
    assert scaled.from_offcuts[0].good == 30
    window.show_stage(BATCH)
    assert any("31 Crumble twist of 12 g" in w.text() for w in window.batch.sums)


def test_what_a_shape_has_of_its_own_is_shown(window, qtbot, person):
    editor = place(window, "cut").editor
    for shape, there in (
        ("lining", {"disc_mm", "band_mm"}),
        ("slice", {"both_sides"}),
        ("round", set()),
    ):
        editor.shape.setCurrentIndex(editor.shape.findData(shape))
        editor.shape.activated.emit(editor.shape.currentIndex())
        for name in ("disc_mm", "band_mm"):
            assert editor.fields[name].isHidden() == (name not in there)
        assert editor.both_sides.isHidden() == ("both_sides" not in there)


def test_how_a_product_is_made_up_is_proposed_and_chosen(window, person):
    cut = place(window, "cut")
    cut.list.setCurrentIndex(cut.list.model().index(0, 0))
    editor = cut.editor
    assert editor.make_up.currentText() == "as usual: two parts: base with ring or lid"
    editor.make_up.setFocus()
    editor.make_up.setCurrentIndex(editor.make_up.findData("flat"))
    editor.make_up.activated.emit(editor.make_up.currentIndex())
    assert person.formula.products[0].make_up == "flat"
    assert editor.filling_is.isHidden(), "nothing is filled"
