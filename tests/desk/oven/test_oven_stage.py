"""The Oven on the desk: a programme typed, turned, loaded; ovens of the house; keeping."""

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from aplomb.core.base.ovens import Oven
from aplomb.core.batch.keeping import FORMS, WHERES
from aplomb.core.batch.stock import Demand
from aplomb.core.kitchen.cut_plan import trays_of
from aplomb.core.make.queue import loads_of_batch
from aplomb.work.commands import DAY, OVEN
from desk.conftest import named, shown, tab_to

K = Qt.Key
ALT_SHIFT = Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def stage(window, qtbot, person):
    person.alt(K.Key_7)
    settled(qtbot, window.oven)
    return window.oven


def settled(qtbot, stage):
    qtbot.waitUntil(lambda: not stage.job.busy, timeout=30_000)
    QApplication.processEvents()


def typed(field, person, text):
    field.setFocus()
    field.selectAll()
    person.type(text)


def test_the_programme_of_the_demo_is_shown_in_every_way(window, stage):
    assert stage.rows[0][1]["set"].text() == "200 C fan"
    assert "220 °C 200 °C 428 °F 7" in stage.settings.text()
    assert "dial to 194 °C, then 164 °C" in shown(stage)  # 200 and 170 less the 6 K it shows over
    assert "15 trays, 3 loads" in shown(stage)
    assert "middle reaches 95 °C" in shown(stage)
    assert "kWh" in shown(stage)
    assert "law" in shown(stage)


def test_a_step_is_typed_and_changed(window, qtbot, person, stage):
    third = stage.rows[2][1]
    typed(third["set"], person, "gas 4")
    settled(qtbot, stage)
    steps = window.session.formula.bake.steps
    assert len(steps) == 3
    assert steps[2].conventional_c == pytest.approx((350 - 32) / 1.8)
    typed(stage.rows[2][1]["min"], person, "6")
    typed(stage.rows[2][1]["then"], person, "turn the tray")
    step = window.session.formula.bake.steps[2]
    assert (step.minutes, step.then) == (6, "turn the tray")
    typed(stage.rows[0][1]["set"], person, "")
    assert len(window.session.formula.bake.steps) == 3  # nothing typed is nothing changed
    stage.rows[0][1]["set"].setFocus()
    person.press(K.Key_A, Qt.KeyboardModifier.ControlModifier)
    person.press(K.Key_Delete)
    person.press(K.Key_Return)
    assert len(window.session.formula.bake.steps) == 2
    person.ctrl(K.Key_Z)
    assert len(window.session.formula.bake.steps) == 3


def test_a_whole_line_is_pasted(window, qtbot, person, stage):
    typed(stage.line, person, "375 F 25 min then 425 F 10 min until brown")
    assert [s.minutes for s in window.session.formula.bake.steps] == [25, 10]
    assert stage.line.text() == ""


@pytest.mark.parametrize(
    ("key", "text", "words"),
    [
        ("set", "900 C", "cannot be set to"),
        ("set", "hot", "e.g."),
        ("min", "0", "0.5"),
        ("min", "nan", ""),
        ("min", "700", "600"),
    ],
)
def test_what_cannot_be_stays_and_says_why(window, person, stage, key, text, words):
    before = window.session.formula.bake
    field = stage.rows[0][1][key]
    typed(field, person, text)
    assert field.bad
    assert words in field.bad_reason
    assert window.session.formula.bake == before


def test_what_is_usual_follows_the_piece_and_is_used_on_a_word(window, person, stage):
    assert "Usual for tall pieces" in shown(stage)
    assert "common practice, not a rule" in shown(stage)
    tab_to(person, named("Use the usual programme"))
    person.press(K.Key_Space)
    assert [s.minutes for s in window.session.formula.bake.steps] == [12, 12]


def test_a_product_may_be_baked_by_itself(window, qtbot, person, stage):
    at = stage.product.findData("Pennant straw")
    stage.product.setCurrentIndex(at)
    stage.product.activated.emit(at)
    assert stage.own.isVisible()
    tab_to(person, named("Give this product its own programme"))
    person.press(K.Key_Space)
    straw = next(p for p in window.session.formula.products if p.name == "Pennant straw")
    assert straw.bake == window.session.formula.bake
    typed(stage.rows[0][1]["min"], person, "8")
    straw = next(p for p in window.session.formula.products if p.name == "Pennant straw")
    assert straw.bake.steps[0].minutes == 8
    assert window.session.formula.bake.steps[0].minutes == 12


def test_the_day_bakes_as_long_as_the_programme_says(window, person, stage):
    def minutes():
        study, house = window.session.study, window.session.reference.house
        trays = trays_of(study, house)
        return {load.minutes for load in loads_of_batch(study.formula, trays, house)}

    assert minutes() == {25}
    typed(stage.rows[1][1]["min"], person, "20")
    assert minutes() == {32}


@pytest.mark.usefixtures("new_window")
def test_ovens_of_the_house_are_kept_and_change_the_loads(window, qtbot, person, stage):
    person.press(K.Key_O, ALT_SHIFT)
    page = window.pages["ovens"]
    tab_to(person, named("Add an oven"))
    person.press(K.Key_Space)
    house = window.session.reference.house
    assert [o.name for o in house.oven_list] == ["Galley oven", "Oven 1"]
    assert house.ovens == 2
    fields = page.rows[1][2]
    typed(fields["trays"], person, "3")
    typed(fields["dial_k"], person, "-12")
    assert window.session.reference.house.oven_list[1].dial_k == -12
    typed(fields["trays"], person, "0")
    assert fields["trays"].bad
    typed(page.rows[1][0], person, "Galley oven")
    assert page.rows[1][0].bad
    person.press(K.Key_Escape)
    person.press(K.Key_Escape)
    window.show_stage(OVEN)
    settled(qtbot, window.oven)
    used = {load.at for load in window.oven.found.loads}
    assert used == {0, 1}


def test_an_oven_that_is_gone_is_gone_from_the_loads_at_once(window, qtbot, stage):
    house = window.session.reference.house
    two = (Oven("Galley oven"), Oven("Little oven"))
    window.session.store.set_house("two", replace(house, ovens=2, oven_list=two))
    settled(qtbot, stage)
    assert {load.at for load in stage.found.loads} == {0, 1}
    window.session.store.set_house("one", replace(house, ovens=1, oven_list=two[:1]))
    stage.refresh()  # what heat says of it is not answered yet
    assert "Little oven" not in stage.loads.accessibleDescription()
    stage.loads.grab()
    settled(qtbot, stage)
    assert "Little oven" not in stage.loads.accessibleDescription()


def test_hotter_and_shorter_is_learned_from_own_bakes(window, person, stage):
    person.press(K.Key_O, ALT_SHIFT)
    page = window.pages["ovens"]
    assert "of your bakes" in shown(page)
    cool = page.trade.text()
    typed(page.at, person, "225")
    assert page.trade.text() != cool
    typed(page.at, person, "5000")
    assert page.at.bad


def test_the_loss_is_fitted_from_a_few_weighings(window, person, stage):
    person.press(K.Key_O, ALT_SHIFT)
    page = window.pages["ovens"]
    typed(page.weighings, person, "0/25 5/24.6 10/23.4 18/22.2 26/21.6")
    assert "After 25 min a piece has lost 13" in shown(page)
    typed(page.weighings, person, "5/24 10/23")
    assert page.weighings.bad
    typed(page.weighings, person, "0/25 5/26 10/23")
    assert "more than the raw weight; check" in page.weighings.bad_reason


def test_paste_is_put_by_with_its_day_and_thawed_once(window, person, stage):
    person.press(K.Key_K, ALT_SHIFT)
    page = window.pages["keeping"]
    assert "Kiosk turnover paste" in shown(page)  # a block of the demo, from the freezer
    typed(page.many, person, "3")
    page.form.setCurrentIndex(1)
    page.form.activated.emit(1)
    tab_to(person, named("Store it"))
    person.press(K.Key_Space)
    item = window.session.kitchen.stock.kept[-1]
    assert (item.form, item.where, item.many, item.turns, item.planned) == (
        "half",
        "fridge",
        3,
        4,
        4,
    )
    assert "4 of 4" in shown(page)
    assert "milk" in shown(page)
    frozen = [i for i in window.session.kitchen.stock.kept if i.where == "freezer"]
    thaw = next(tools[0] for _, tools in page.rows if tools[0].isVisible())
    thaw.setFocus()
    person.press(K.Key_Space)
    stock = window.session.kitchen.stock
    still = [i for i in stock.kept if i.where == "freezer"]
    assert len(still) == len(frozen) - 1
    assert any(i.thawed and i.where == "fridge" for i in stock.kept)
    assert "never refreeze" in window.said.text()


def test_what_does_not_keep_there_cannot_be_put_there(window, person, stage):
    person.press(K.Key_K, ALT_SHIFT)
    page = window.pages["keeping"]
    page.where.setCurrentIndex(2)
    page.where.activated.emit(2)
    assert "does not keep in the room" in shown(page)
    assert not page.put.isEnabled()


@pytest.mark.usefixtures("new_window")
def test_a_block_put_into_the_freezer_is_there_for_the_day(window, person, stage):
    person.press(K.Key_K, ALT_SHIFT)
    page = window.pages["keeping"]
    page.where.setCurrentIndex(1)
    page.where.activated.emit(1)
    before = window.session.kitchen.stock.blocks()
    page.put.click()
    assert len(window.session.kitchen.stock.blocks()) == len(before) + 1


def put_by_baked(window, person, many):
    person.press(K.Key_K, ALT_SHIFT)
    page = window.pages["keeping"]
    page.form.setCurrentIndex(FORMS.index("baked"))
    page.form.activated.emit(FORMS.index("baked"))
    page.where.setCurrentIndex(WHERES.index("freezer"))
    page.where.activated.emit(WHERES.index("freezer"))
    typed(page.many, person, many)
    page.put.click()
    return page, window.session.kitchen.stock.kept[-1]


def tool(place, words):
    return next(t for _, tools in place.rows for t in tools if t.isVisible() and t.text() == words)


def test_baked_pieces_go_into_the_day_and_are_refreshed_there(window, qtbot, person, stage):
    place, item = put_by_baked(window, person, "60")
    at = [each.key for each in place.items()].index(item.key)
    day = place.rows[at][1][1]
    assert day.text() == "Add to the day"
    day.setFocus()
    person.press(K.Key_Space)
    assert window.session.kitchen.timetable.from_kept == {item.uid: item.key}
    assert "starts from this" in window.said.text()
    window.show_stage(DAY)
    qtbot.waitUntil(lambda: item.uid in window.day.rows, timeout=30_000)
    row = window.day.rows[item.uid]
    assert row.source.currentText().startswith("60 baked, freezer")
    row.source.setCurrentIndex(0)
    row.source.activated.emit(0)
    assert window.session.kitchen.timetable.from_kept == {}


def test_baked_pieces_thaw_in_the_room(window, person, stage):
    place, item = put_by_baked(window, person, "6")
    at = [each.key for each in place.items()].index(item.key)
    place.rows[at][1][0].click()
    thawed = next(i for i in window.session.kitchen.stock.kept if i.key == item.key)
    assert (thawed.where, thawed.thawed) == ("room", True)
    assert "refresh" in window.said.text()


def test_what_nobody_wants_is_not_put_into_the_day(window, person, stage):
    place, item = put_by_baked(window, person, "6")
    window.session.store.put_demand("none", Demand())
    at = [each.key for each in place.items()].index(item.key)
    place.rows[at][1][1].click()
    assert "first enter how many" in shown(place)
    assert window.session.kitchen.timetable.from_kept == {}


@pytest.mark.parametrize("pct", [80, 150, 200])
def test_the_stage_stands_at_any_text(window, qtbot, stage, pct):
    window.session.keep(text_pct=pct)
    window._apply_theme()
    QApplication.processEvents()
    assert not window.grab().isNull()
