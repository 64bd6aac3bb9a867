"""Products, cut plan, demand, trays, losses, costs, papers and weighing out: by keys and by what
is shown."""

import pypdfium2
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication, QLabel, QPushButton

from aplomb.core.batch.record import Outcome
from aplomb.core.paste.product import SHAPES
from aplomb.desk.paper.catalogue import PAPERS
from aplomb.desk.rail import BATCH
from desk.conftest import open_at

K = Qt.Key


def shown(widget):
    """All that can be read in a widget."""
    texts = [w.text() for w in widget.findChildren(QLabel) if w.isVisible()]
    texts += [w.text() for w in widget.findChildren(QPushButton) if w.isVisible()]
    return "\n".join(texts)


def tab_to(person, test):
    """Go on by Tab until something that fits has the keyboard."""
    for _ in range(120):
        focus = person.focus
        if focus is not None and test(focus):
            return focus
        person.press(K.Key_Tab)
    raise AssertionError("not reached by Tab")


def named(words):
    return lambda w: words in (w.accessibleName() or (w.text() if hasattr(w, "text") else ""))


def place(window, key):
    window.show_stage(BATCH)
    window.open_place(key)
    QApplication.processEvents()
    return window._places[key]


def searched(qtbot, cut):
    qtbot.waitUntil(lambda: not cut.search.busy, timeout=20_000)
    QApplication.processEvents()


@pytest.mark.parametrize(
    ("key", "name"),
    [
        (K.Key_U, "cut"), (K.Key_D, "day"), (K.Key_T, "trays"), (K.Key_K, "costs"),
        (K.Key_R, "papers"), (K.Key_E, "weigh"),
    ],
)  # fmt: skip
def test_every_place_opens_by_its_keys_and_escape_leads_back(window, person, key, name):
    person.alt(K.Key_4)
    person.alt(key)
    assert window.stages.currentWidget() is window._places[name]
    assert window._places[name].isAncestorOf(person.focus)
    person.press(K.Key_Escape, times=2)
    assert window.stages.currentWidget() is window.batch


@pytest.mark.parametrize("text_pct", [100, 150, 200])
def test_places_fit_a_small_window(qapp, qtbot, book_path, text_pct):
    window = open_at(book_path, qtbot, text_pct=text_pct)
    window.resize(1024, 700)
    for key in ("cut", "day", "trays", "costs", "papers", "weigh"):
        page = place(window, key)
        if key == "cut":
            searched(qtbot, page)
        QApplication.processEvents()
        wide = page.horizontalScrollBar().maximum()
        assert wide == 0 or text_pct == 200, f"{key} is {wide} px too wide"
    window.close()


def test_the_cut_plan_is_found_shown_and_taken(window, qtbot, person):
    cut = place(window, "cut")
    searched(qtbot, cut)
    assert "3 sheets of" in shown(cut)
    assert cut.plan.pieces()[0] >= 240
    assert "In pieces" in cut.balance.text()
    tab_to(person, named("Take into the batch"))
    person.press(K.Key_Space)
    formula = person.formula
    assert formula.cutting.length_mm == pytest.approx(cut.sheets.plans[0].sheet.length_mm)
    assert formula.batch.trim_pct == pytest.approx(cut.sheets.trim_pct, abs=1e-3)
    scaled = window.session.study.scaled
    assert scaled.rolled_g == pytest.approx(cut.sheets.sheets_g, rel=0.02)
    searched(qtbot, cut)
    assert cut.again.isVisible()
    tab_to(person, named("Search again"))
    person.press(K.Key_Space)
    assert person.formula.cutting.length_mm == 0
    window.session.undo()
    window.session.undo()
    assert person.formula.batch.trim_pct is None


def test_a_product_is_added_changed_and_taken_out_by_keys(window, qtbot, person):
    cut = place(window, "cut")
    tab_to(person, named("Add"))
    person.press(K.Key_Space)
    person.type("Lantern tart")
    assert person.formula.products[-1].name == "Lantern tart"
    tab_to(person, named("Length"))
    person.type("90")
    person.type("24")  # Enter leaves the field selected: typing goes on
    tab_to(person, named("Wanted"))
    person.type("36")
    tart = person.formula.products[-1]
    assert (tart.length_mm, tart.wanted) == (24, 36)
    searched(qtbot, cut)
    assert "Lantern tart" in cut.table.text()
    tab_to(person, named("Out"))
    person.press(K.Key_Space)
    assert [p.name for p in person.formula.products] == ["Vol-au-vent case", "Pennant straw"]


@pytest.mark.parametrize("shape", SHAPES)
def test_every_shape_can_be_chosen_and_is_drawn(window, qtbot, person, shape):
    cut = place(window, "cut")
    box = cut.editor.shape
    box.setCurrentIndex(box.findData(shape))
    box.activated.emit(box.currentIndex())
    cut.editor.fields["wanted"].setFocus()
    person.type("12")
    searched(qtbot, cut)
    assert window.session.formula.products[0].shape == shape
    assert cut.plan is not None, shown(cut)
    assert not cut.view.grab().isNull()
    assert cut.view.accessibleDescription()


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
        QPointF(40, 40), view.mapToGlobal(QPointF(40, 40)), QPoint(), QPoint(0, 120),
        Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase,
        False,
    )  # fmt: skip
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


def test_the_days_demand_gives_four_blocks_and_is_taken(window, person):
    day = place(window, "day")
    assert "4 blocks of 2 pastes" in shown(day)
    person.type("120")  # the first field: the cases
    uid = next(iter(window.session.entries))
    wants = {(w.uid, w.product): w.pieces for w in window.session.kitchen.demand.wants}
    assert wants[uid, "Vol-au-vent case"] == 120
    tab_to(person, named("Take into the formulas"))
    person.press(K.Key_Space)
    assert window.session.entries[uid].formula.products[0].wanted == 120
    assert window.session.uid == uid
    window.session.undo()


def test_the_freezer_and_the_other_way_round(window, qtbot, person):
    day = place(window, "day")
    before = next(p for p in day.found if p.formula.name.startswith("Kiosk"))
    tab_to(person, named("Blocks in the freezer first"))
    person.press(K.Key_Space)
    after = next(p for p in day.found if p.formula.name.startswith("Kiosk"))
    assert (before.frozen, after.frozen) == (0, 2)
    assert after.blocks * after.each_g < before.blocks * before.each_g
    tab_to(person, named("How much of it"))
    person.type("1.5 kg")
    qtbot.waitUntil(lambda: not day.back.work.busy, timeout=20_000)
    assert "1.5 kg" in day.back.grams.text()
    assert "Kiosk turnover paste" in day.back.made.text()
    tab_to(person, named("Blocks to the freezer"))
    person.type("nonsense")
    assert day.back.number.bad
    person.press(K.Key_Escape)
    person.type("3 x 2 kg")
    assert any(b.blocks == 3 for b in window.session.kitchen.stock.frozen)


def test_what_is_there_is_typed_into_the_order_and_taken_off(window, person):
    day = place(window, "day")
    butter = next(n for n in ("butter", "butter_unsalted") if n in day.order.fields)
    field = day.order.fields[butter]
    field.setFocus()
    person.type("0")
    before = shown(day.order)
    field.setFocus()
    person.type("400 kg")
    assert window.session.kitchen.stock.materials[butter] == 400_000
    assert shown(day.order) != before
    person.type("lots")
    assert any(f.bad for f in day.order.fields.values())
    assert window.session.kitchen.stock.materials[butter] == 400_000
    person.press(K.Key_Escape)
    window.session.undo()
    assert butter not in window.session.kitchen.stock.materials
    tab_to(person, named("Nothing wanted"))
    person.press(K.Key_Space)
    assert "nothing is needed" in shown(day.order)
    assert not day.order.fields


def test_a_day_that_the_freezer_covers_has_its_papers(window, qtbot, person):
    """Nothing is mixed; fillings are still weighed, and every paper is painted."""
    day = place(window, "day")
    day.back.which.setCurrentIndex(1)
    day.back.number.setFocus()
    person.type("40 x 2 kg")
    tab_to(person, lambda w: w is day._frozen)
    person.press(K.Key_Space)
    kiosk = next(p for p in day.found if p.formula.name.startswith("Kiosk"))
    assert kiosk.blocks == 0
    tab_to(person, named("Take into the formulas"))
    person.press(K.Key_Space)
    window.session.select(kiosk.uid)
    scaled = window.session.study.scaled
    assert scaled.paste_g == 0
    assert scaled.pieces > 0
    assert {w.part.value for w in scaled.lines if w.weigh_g > 0} <= {"filling", "finish"}
    papers = place(window, "papers")
    for i in range(len(PAPERS)):
        papers.list.setCurrentIndex(papers._names.index(i))
        painted(qtbot, papers)
        assert papers.preview.count > 0, PAPERS[i].key
    window.show_stage(BATCH)
    assert "comes from the freezer" in shown(window.batch)


def test_scrap_that_is_there_makes_the_batch_smaller(window, qtbot, person):
    cut = place(window, "cut")
    before = window.session.study.scaled.paste_g
    for name, text in (("scrap_pct", "10"), ("scrap_g", "300 g")):
        cut._cut_fields[name].setFocus()
        person.type(text)
    searched(qtbot, cut)
    scaled = window.session.study.scaled
    assert scaled.scrap_in_g == 300
    assert scaled.paste_g < before - 250
    assert "300 g of earlier batches is in these sheets" in cut.balance.text()
    field = cut._cut_fields["scrap_g"]
    field.setFocus()
    person.type("much")
    assert field.bad


def test_a_large_book_lists_what_is_wanted_and_finds_the_rest(window, person, qtbot):
    base = window.session.formula
    for i in range(20):
        window.session.add(replace(base, name=f"Tideway paste {i}"), "another")
    window.session.select(next(iter(window.session.entries)))
    day = place(window, "day")
    names = shown(day)
    assert "Kiosk turnover paste" in names
    assert "Tideway paste 7" not in names
    assert len({uid for uid, _ in day._wants}) == 2, "the two that are wanted, one of them in hand"
    tab_to(person, named("Another formula"))
    person.type("tideway paste 7")
    uid = next(u for u, e in window.session.entries.items() if e.name == "Tideway paste 7")
    assert person.focus is day._wants[uid, "Vol-au-vent case"]
    person.type("40")
    assert any(p.formula.name == "Tideway paste 7" for p in day.found)
    tab_to(person, named("Another formula"))
    person.type("no such paste")
    assert day._more.property("bad")
    assert "No formula is called" in day._more.accessibleDescription()
    qtbot.waitUntil(lambda: not day.back.work.busy, timeout=20_000)
    assert "formulas more" in day.back.made.text()


def test_trays_follow_the_house(window, person):
    trays = place(window, "trays")
    assert "oven loads" in shown(trays)
    before = trays.table.text()
    trays.house.fields["tray_long_mm"].setFocus()
    person.type("380")
    assert window.session.reference.house.tray_long_mm == 380
    assert trays.table.text() != before
    tab_to(person, named("Vol-au-vent case, pieces a tray"))
    person.type("12")
    assert person.formula.products[0].a_tray == 12
    assert "12 on a tray" in trays.view.accessibleDescription()


def test_losses_come_from_own_batches_until_typed(window, person):
    costs = place(window, "costs")
    assert "3 own batches" in shown(costs)
    field = costs._loss_fields["trim"]
    field.setFocus()
    person.type("9")
    assert window.session.study.scaled.losses.trim.value == 9
    assert "as typed" in shown(costs)
    field.selectAll()
    person.press(K.Key_Delete)
    person.press(K.Key_Return)
    assert window.session.study.scaled.losses.trim.batches == 3


def test_a_batch_is_measured_and_changes_what_is_reckoned_with(window, person):
    costs = place(window, "costs")
    before = window.session.study.scaled.losses.bake
    tab_to(person, named("A new one"))
    person.press(K.Key_Space)
    person.type("5000")
    for name, text in (("rolled_g", "4900"), ("cut_g", "4000"), ("baked_g", "3000")):
        costs._outcome[name].setFocus()
        person.type(text)
    after = window.session.study.scaled.losses.bake
    assert (before.batches, after.batches) == (3, 4)
    assert after.value > before.value
    costs._outcome["baked_g"].setFocus()
    person.type("9000")
    assert costs._outcome["baked_g"].bad
    assert costs.record.outcome == Outcome(mixed_g=5000, rolled_g=4900, cut_g=4000, baked_g=3000)


def test_a_piece_dearer_than_it_may_be_is_flagged(window, person):
    costs = place(window, "costs")
    assert "over its target" not in shown(costs)
    costs._targets[0].setFocus()
    person.type("0.05")
    assert "! Vol-au-vent case" in shown(costs)
    assert "Lard" in costs.fats.text()


def painted(qtbot, papers):
    qtbot.waitUntil(lambda: not papers.painting.busy, timeout=20_000)
    QApplication.processEvents()


def test_the_preview_is_what_is_printed(window, qtbot, tmp_path, answers, person):
    papers = place(window, "papers")
    for i, paper in enumerate(PAPERS):
        papers.list.setCurrentIndex(papers._names.index(i))
        painted(qtbot, papers)
        assert papers.preview.count > 0, paper.key
        assert not papers.preview.grab().isNull()
        answers.path = tmp_path / f"{paper.key}.pdf"
        papers.pdf.click()
        qtbot.waitUntil(answers.path.exists, timeout=20_000)
        pages = len(pypdfium2.PdfDocument(answers.path))
        if paper.key != "cut_full":
            assert pages == papers.preview.count


def test_papers_of_the_whole_day(window, qtbot, tmp_path, answers, person):
    papers = place(window, "papers")
    papers._scope.setCurrentIndex(1)
    papers.begin("order")
    papers.refresh()
    painted(qtbot, papers)
    answers.path = tmp_path / "order.csv"
    papers.csv.click()
    qtbot.waitUntil(answers.path.exists, timeout=20_000)
    assert "Barley flour" in answers.path.read_text("utf-8-sig")
    answers.path = tmp_path / "day.xlsx"
    papers.xlsx.click()
    qtbot.waitUntil(answers.path.exists, timeout=20_000)
    assert answers.path.read_bytes()[:2] == b"PK"


def test_a_folder_that_cannot_be_written_and_a_printer_that_is_not_there(
    window, qtbot, tmp_path, answers
):
    papers = place(window, "papers")
    painted(qtbot, papers)
    answers.path = tmp_path / "no such folder" / "card.pdf"
    papers.pdf.click()
    qtbot.waitUntil(lambda: bool(answers.texts), timeout=20_000)
    assert "cannot write card.pdf" in answers.texts[-1]
    papers.print.click()
    assert "No printer" in answers.texts[-1]


def test_label_sizes_are_set_and_refused(window, qtbot, person):
    papers = place(window, "papers")
    papers.begin("labels")
    papers.refresh()
    painted(qtbot, papers)
    field = papers._label_fields["columns"]
    field.setFocus()
    person.type("9")
    assert field.bad
    person.press(K.Key_Escape)
    tab_to(person, named("Single labels"))
    person.press(K.Key_Space)
    painted(qtbot, papers)
    assert papers.preview.count == person.formula.batch.blocks


def scale_shows(qtbot, weigh, grams):
    qtbot.waitUntil(lambda: weigh.grams == pytest.approx(grams) and weigh._steady, timeout=20_000)


def test_a_batch_is_weighed_out_by_keys_on_the_simulated_scale(window, qtbot, person):
    weigh = place(window, "weigh")
    lines = len(weigh.run.plan)
    scale_shows(qtbot, weigh, 0)
    for _ in range(lines):
        target = weigh.step.target_g
        person.ctrl(K.Key_G)
        scale_shows(qtbot, weigh, target)
        assert "right" in weigh._verdict.text()
        person.press(K.Key_Return)
        scale_shows(qtbot, weigh, 0)
    assert weigh.step is None
    assert "All is weighed" in shown(weigh)
    record = window.session.reference.records[-1]
    assert len(record.lines) == lines
    assert record.outcome.mixed_g == pytest.approx(weigh.run.paste_g)


def test_too_little_is_not_taken_and_too_much_scales_the_rest(window, qtbot, person):
    weigh = place(window, "weigh")
    scale_shows(qtbot, weigh, 0)
    target = weigh.step.target_g
    weigh.scale.put.setFocus()
    person.type("100 g")
    scale_shows(qtbot, weigh, 100)
    weigh.take.setFocus()
    person.press(K.Key_Return)
    assert weigh.at == 0
    assert "to go" in weigh._verdict.text()
    weigh.scale.put.setFocus()
    person.type(f"{target * 1.1 - 100:.0f} g")
    scale_shows(qtbot, weigh, round(target * 1.1 - 100) + 100)
    assert "too much" in weigh._verdict.text()
    assert weigh._verdict.accessibleName() == "too much"
    weigh.take.setFocus()
    person.press(K.Key_Return)
    assert weigh.rest.isVisible()
    second = weigh.run.steps[1].target_g
    weigh.take.setFocus()
    person.press(K.Key_S)
    assert weigh.run.record.factor == pytest.approx(1.1, abs=0.01)
    assert weigh.run.steps[1].target_g > second
    assert weigh.at == 1


def test_the_plug_is_pulled_in_mid_line_and_the_weight_is_typed(window, qtbot, person):
    weigh = place(window, "weigh")
    scale_shows(qtbot, weigh, 0)
    weigh.link.simulated.babble(b"\x00garbage\n")
    qtbot.waitUntil(lambda: "protocol" in weigh._fault or "sent" in weigh._fault, timeout=20_000)
    scale_shows(qtbot, weigh, 0)
    weigh.scale.plug.click()
    qtbot.waitUntil(lambda: weigh.grams is None and bool(weigh._fault), timeout=20_000)
    assert "You can type the weight" in weigh._verdict.text()
    weigh.take.setFocus()
    person.press(K.Key_Return)
    assert weigh.at == 0
    weigh.hand.setFocus()
    person.type(f"{weigh.step.target_g:.0f} g")
    assert weigh.at == 1
    assert window.session.reference.records[-1].lines[0].by == "hand"
    weigh.scale.plug.click()
    scale_shows(qtbot, weigh, 0)


def test_weighing_goes_on_where_it_ended_after_a_restart(window, qtbot, person, book_path):
    weigh = place(window, "weigh")
    weigh.hand.setFocus()
    person.type(f"{weigh.step.target_g:.0f} g")
    window.close()
    again = open_at(book_path, qtbot)
    weigh = place(again, "weigh")
    assert weigh.at == 1
    again.close()


def test_the_regatta_day_by_keyboard_alone(window, qtbot, person, tmp_path, answers):
    """Three products, two pastes, four blocks: planned, weighed on the simulated scale, printed."""
    person.alt(K.Key_4)
    person.alt(K.Key_D)
    day = window._places["day"]
    assert "4 blocks of 2 pastes" in shown(day)
    tab_to(person, named("Take into the formulas"))
    person.press(K.Key_Space)
    person.alt(K.Key_U)
    cut = window._places["cut"]
    searched(qtbot, cut)
    tab_to(person, named("Take into the batch"))
    person.press(K.Key_Space)
    person.alt(K.Key_E)
    weigh = window._places["weigh"]
    while weigh.step is not None:
        scale_shows(qtbot, weigh, 0)
        target = weigh.step.target_g
        person.ctrl(K.Key_G)
        scale_shows(qtbot, weigh, target)
        person.press(K.Key_Return)
    person.alt(K.Key_R)
    papers = window._places["papers"]
    tab_to(person, lambda w: w is papers._scope)
    person.press(K.Key_Down)
    tab_to(person, named("Papers"))
    for paper in PAPERS:
        painted(qtbot, papers)
        assert papers.paper is paper
        answers.path = tmp_path / f"{paper.key}.pdf"
        tab_to(person, named("Save as PDF"))
        person.press(K.Key_Space)
        qtbot.waitUntil(answers.path.exists, timeout=30_000)
        tab_to(person, named("Papers"))
        person.press(K.Key_Down)
    text = ""
    for page in pypdfium2.PdfDocument(tmp_path / "labels.pdf"):
        text += page.get_textpage().get_text_range()
    assert text.count("Block ") == 4
    assert "Kiosk turnover paste" in text


def test_own_pieces_and_products_in_the_batch_stage(window, person):
    window.show_stage(BATCH)
    stage = window.batch
    assert "Vol-au-vent case" in shown(stage)
    stage._wanted_fields["Pennant straw"].setFocus()
    person.type("48")
    assert person.formula.products[1].wanted == 48
    window.session.edit("bare", lambda f: replace(f, products=()))
    assert stage._own_piece.isVisible()
    assert "pieces" in stage._big.text()
