"""The day's demand, stock and freezer, trays, losses and costs: by keys and by what is shown."""

from msgspec.structs import replace
from PySide6.QtCore import Qt

from aplomb.core.batch.made_batch import Outcome
from aplomb.desk.paper.catalogue import PAPERS
from aplomb.work.commands import BATCH
from desk.conftest import named, painted, place, searched, shown, tab_to

K = Qt.Key


def test_the_days_demand_gives_five_blocks_and_is_taken(window, person):
    day = place(window, "demand")
    assert "5 blocks of 3 pastes" in shown(day)
    person.type("120")  # the first field: the cases
    uid = next(iter(window.session.shelf.entries))
    wants = {(w.uid, w.product): w.pieces for w in window.session.kitchen.demand.wants}
    assert wants[uid, "Vol-au-vent case"] == 120
    tab_to(person, named("Use in the batches"))
    person.press(K.Key_Space)
    assert window.session.shelf.entries[uid].formula.products[0].wanted == 120
    assert window.session.uid == uid
    window.session.journal.undo()


def test_the_freezer_and_the_other_way_round(window, qtbot, person):
    day = place(window, "demand")
    before = next(p for p in day.planned if p.formula.name.startswith("Kiosk"))
    tab_to(person, named("Use blocks from stock first"))
    person.press(K.Key_Space)
    after = next(p for p in day.planned if p.formula.name.startswith("Kiosk"))
    assert (before.frozen, after.frozen) == (0, 2)
    assert after.blocks * after.each_g < before.blocks * before.each_g
    tab_to(person, named("Amount in stock"))
    person.type("1.5 kg")
    qtbot.waitUntil(lambda: not day.back.work.busy, timeout=20_000)
    assert "1.5 kg" in day.back.grams.text()
    assert "Kiosk turnover paste" in day.back.made.text()
    tab_to(person, named("Blocks to the freezer"))
    person.type("nonsense")
    assert day.back.number.bad
    person.press(K.Key_Escape)
    person.type("3 x 2 kg")
    assert any(i.many == 3 for i in window.session.kitchen.stock.blocks())


def test_what_is_there_is_typed_into_the_order_and_taken_off(window, person):
    day = place(window, "demand")
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
    window.session.journal.undo()
    assert butter not in window.session.kitchen.stock.materials
    tab_to(person, named("Clear the day"))
    person.press(K.Key_Space)
    assert "nothing to buy." in shown(day.order)
    assert not day.order.fields


def test_a_day_that_the_freezer_covers_has_its_papers(window, qtbot, person):
    """Nothing is mixed; fillings are still weighed, and every paper is painted."""
    day = place(window, "demand")
    day.back.which.setCurrentIndex(1)
    day.back.number.setFocus()
    person.type("40 x 2 kg")
    tab_to(person, lambda w: w is day.frozen)
    person.press(K.Key_Space)
    kiosk = next(p for p in day.planned if p.formula.name.startswith("Kiosk"))
    assert kiosk.blocks == 0
    tab_to(person, named("Use in the batches"))
    person.press(K.Key_Space)
    window.session.shelf.select(kiosk.uid)
    scaled = window.session.study.scaled
    assert scaled.paste_g == 0
    assert scaled.pieces > 0
    assert {w.part.value for w in scaled.lines if w.weigh_g > 0} <= {"filling", "finish"}
    papers = place(window, "papers")
    for i in range(len(PAPERS)):
        papers.list.setCurrentIndex(papers.names.index(i))
        painted(qtbot, papers)
        assert papers.preview.count > 0, PAPERS[i].key
    window.show_stage(BATCH)
    assert "comes from the freezer" in shown(window.batch)


def test_a_large_book_lists_what_is_wanted_and_finds_the_rest(window, person, qtbot):
    base = window.session.formula
    for i in range(20):
        window.session.shelf.add(replace(base, name=f"Tideway paste {i}"), "another")
    window.session.shelf.select(next(iter(window.session.shelf.entries)))
    day = place(window, "demand")
    names = shown(day)
    assert "Kiosk turnover paste" in names
    assert "Tideway paste 7" not in names
    assert len({uid for uid, _ in day.wants}) == 3, "the three that are wanted, one of them in hand"
    tab_to(person, named("Add a formula"))
    person.type("tideway paste 7")
    uid = next(u for u, e in window.session.shelf.entries.items() if e.name == "Tideway paste 7")
    assert person.focus is day.wants[uid, "Vol-au-vent case"]
    person.type("40")
    assert any(p.formula.name == "Tideway paste 7" for p in day.planned)
    tab_to(person, named("Add a formula"))
    person.type("no such paste")
    assert day.more.property("bad")
    assert "No formula is called" in day.more.accessibleDescription()
    qtbot.waitUntil(lambda: not day.back.work.busy, timeout=20_000)
    assert "more formulas" in day.back.made.text()


def test_trays_follow_the_house(window, person):
    trays = place(window, "trays")
    assert "oven loads" in shown(trays)
    before = trays.table.text()
    trays.house.fields["tray_long_mm"].setFocus()
    person.type("380")
    assert window.session.reference.house.tray_long_mm == 380
    assert trays.table.text() != before
    tab_to(person, named("Vol-au-vent case, pieces per tray"))
    person.type("12")
    assert person.formula.products[0].a_tray == 12
    assert "12 on a tray" in trays.view.accessibleDescription()


def test_losses_come_from_own_batches_until_typed(window, qtbot, person):
    searched(qtbot, place(window, "cut"))
    costs = place(window, "costs")
    assert "from 3 of your batches" in shown(costs)
    assert "from the cut plan" in shown(costs), "the trim of what is laid out is no guess"
    field = costs.loss_fields["loss"]
    field.setFocus()
    person.type("9")
    assert window.session.study.scaled.losses.loss.value == 9
    assert "as typed" in shown(costs)
    field.selectAll()
    person.press(K.Key_Delete)
    person.press(K.Key_Return)
    assert window.session.study.scaled.losses.loss.batches == 3


def test_a_batch_is_measured_and_changes_what_is_reckoned_with(window, person):
    costs = place(window, "costs")
    before = window.session.study.scaled.losses.bake
    tab_to(person, named("New batch"))
    person.press(K.Key_Space)
    person.type("5000")
    for name, text in (("rolled_g", "4900"), ("cut_g", "4000"), ("baked_g", "3000")):
        costs.outcome[name].setFocus()
        person.type(text)
    after = window.session.study.scaled.losses.bake
    assert (before.batches, after.batches) == (3, 4)
    assert after.value > before.value
    costs.outcome["baked_g"].setFocus()
    person.type("9000")
    assert costs.outcome["baked_g"].bad
    assert costs.made_batch.outcome == Outcome(
        mixed_g=5000, rolled_g=4900, cut_g=4000, baked_g=3000
    )


def test_a_piece_dearer_than_it_may_be_is_flagged(window, person):
    costs = place(window, "costs")
    assert "above its target" not in shown(costs)
    costs.targets[0].setFocus()
    person.type("0.05")
    assert "Vol-au-vent case" in shown(costs)
    assert "Lard" in costs.fats.text()
