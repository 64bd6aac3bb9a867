"""Weighing out on the simulated scale: by keys and by what is shown."""

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt

from aplomb.core.base.figures import number_text
from desk.conftest import named, open_at, place, scale_shows, shown, tab_to

K = Qt.Key


def test_a_batch_is_weighed_out_by_keys_on_the_simulated_scale(window, qtbot, person):
    weigh = place(window, "weigh")
    lines = len(weigh.run.plan)
    scale_shows(qtbot, weigh, 0)
    for _ in range(lines):
        target = weigh.step.target_g
        person.ctrl(K.Key_G)
        scale_shows(qtbot, weigh, target)
        assert "right" in weigh.verdict.text()
        person.press(K.Key_Return)
        scale_shows(qtbot, weigh, 0)
    assert weigh.step is None
    assert "All is weighed" in shown(weigh)
    made_batch = window.session.reference.made_batches[-1]
    assert len(made_batch.lines) == lines
    assert made_batch.outcome.mixed_g == pytest.approx(weigh.run.paste_g)


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
    assert "to go" in weigh.verdict.text()
    weigh.scale.put.setFocus()
    person.type(f"{target * 1.1 - 100:.0f} g")
    scale_shows(qtbot, weigh, round(target * 1.1 - 100) + 100)
    assert "too much" in weigh.verdict.text()
    assert weigh.verdict.accessibleName() == "too much"
    weigh.take.setFocus()
    person.press(K.Key_Return)
    assert weigh.rest.isVisible()
    second = weigh.run.steps[1].target_g
    weigh.take.setFocus()
    person.press(K.Key_S)
    assert weigh.run.made_batch.factor == pytest.approx(1.1, abs=0.01)
    assert weigh.run.steps[1].target_g > second
    assert weigh.at == 1


def test_the_plug_is_pulled_in_mid_line_and_the_weight_is_typed(window, qtbot, person):
    weigh = place(window, "weigh")
    scale_shows(qtbot, weigh, 0)
    with qtbot.waitSignal(weigh.link.failed, timeout=20_000) as told:
        weigh.link.simulated.babble(b"\x00garbage\n")  # the next weight clears it
    assert "protocol" in told.args[0] or "sent" in told.args[0]
    scale_shows(qtbot, weigh, 0)
    weigh.scale.plug.click()
    qtbot.waitUntil(lambda: weigh.grams is None and bool(weigh.fault), timeout=20_000)
    assert "You can type the weight" in weigh.verdict.text()
    weigh.take.setFocus()
    person.press(K.Key_Return)
    assert weigh.at == 0
    weigh.hand.setFocus()
    person.type(f"{weigh.step.target_g:.0f} g")
    assert weigh.at == 1
    assert window.session.reference.made_batches[-1].lines[0].by == "hand"
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


def test_what_was_weighed_goes_off_the_stock_once(window, person):
    weigh = place(window, "weigh")
    before = window.session.kitchen.stock.materials
    assert not weigh.off_stock.isVisible()
    weighed = 0.0
    while weigh.step is not None:
        if weigh.step.weighed.line.material == "plain_flour":
            weighed += weigh.step.target_g
        weigh.hand.setFocus()
        person.type(f"{weigh.step.target_g:g} g")
    tab_to(person, named("Deduct from stock"))
    person.press(K.Key_Space)
    after = window.session.kitchen.stock.materials
    assert after["plain_flour"] == pytest.approx(max(0, before["plain_flour"] - weighed))
    assert not weigh.off_stock.isVisible()
    assert window.session.reference.made_batches[-1].stock_taken
    window.session.journal.undo()
    assert window.session.kitchen.stock.materials == before
    assert not window.session.reference.made_batches[-1].stock_taken
    assert weigh.off_stock.isVisible()


def test_scrap_and_frozen_paste_stand_in_the_record(window, person):
    formula = window.session.formula
    cutting = replace(formula.cutting, scrap_pct=10.0, scrap_g=250.0)
    batch = replace(formula.batch, frozen_g=1500.0)
    window.session.shelf.change("scrap", replace(formula, cutting=cutting, batch=batch))
    weigh = place(window, "weigh")
    while weigh.step is not None:
        weigh.hand.setFocus()
        person.type(f"{weigh.step.target_g:g} g")
    assert window.session.reference.made_batches[-1].outcome.joined_g == pytest.approx(1750)
    assert "Stack 250 g of scrap" in shown(weigh)
    assert "1.5 kg comes from the freezer" in shown(weigh)


def test_each_mix_has_its_own_ice_and_a_line_can_end_early(window, person):
    """Three blocks mixed two and one: ice and the water held back are said for each mix; E ends the
    water with less than written, and skipping never asks for what is weighed."""
    house = replace(window.session.reference.house, bowl_most_g=4200)
    window.session.store.set_house("a small bowl", house)
    weigh = place(window, "weigh")
    study, pantry = window.session.study, window.session.reference.pantry
    waters = [
        i for i, step in enumerate(weigh.run.steps) if pantry[step.weighed.line.material].is_water
    ]
    assert len(waters) == len({weigh.run.steps[i].mix for i in waters}) > 1
    ice = 0.0
    for at in waters:
        weigh.out.at = at
        weigh.show_now()
        step = weigh.step
        share = step.blocks / study.formula.batch.blocks
        ice += study.water.ice_g * share
        assert f"{number_text(study.water.ice_g * share, 0)} g of it as ice" in weigh.note.text()
        held = 0.1 * study.scaled.factor * step.weighed.line.grams * share
        assert f"hold back {number_text(held, 0)} g" in weigh.note.text()
    assert ice == pytest.approx(study.water.ice_g)
    first = waters[0]
    weigh.out.at = first
    weigh.show_now()
    weigh.hand.setFocus()
    person.type(f"{weigh.step.target_g * 0.95:.0f} g")
    weigh.out.at = first
    weigh.show_now()
    assert weigh.run.open(weigh.run.steps[first])
    weigh.grams = None  # nothing on the scale: what was weighed before ends it
    weigh.take.setFocus()
    person.press(K.Key_E)
    assert not weigh.run.open(weigh.run.steps[first])
    assert window.session.reference.made_batches[-1].lines[0].enough
    weigh.out.at = first - 1
    weigh.show_now()
    weigh.take.setFocus()
    person.press(K.Key_Right)
    assert weigh.at == next(i for i in range(first, 99) if weigh.run.open(weigh.run.steps[i]))
