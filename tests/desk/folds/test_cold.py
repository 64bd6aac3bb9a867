"""Cold and the places of the house by keys."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from aplomb.core.cold.conduction import course
from aplomb.core.cold.course import Air, Body, Phase
from aplomb.core.paste.bodies import bodies_of
from aplomb.desk.shell.cold_watch import ColdWatch
from desk.conftest import named, shown, tab_to

K = Qt.Key


@pytest.fixture
def cold(window, qtbot, person):
    person.alt(K.Key_3)
    person.alt(K.Key_O)
    page = window.pages["cold"]
    qtbot.waitUntil(lambda: bool(page.found), timeout=30_000)
    return page


def worked_out(qtbot, place):
    qtbot.waitUntil(lambda: not place.job.busy and bool(place.found), timeout=30_000)


def test_every_rest_says_from_when_to_when(cold):
    text = shown(cold)
    for words in (
        "Dough, before the fat",
        "After turn 2",
        "Before the final sheet",
        "ready from",
        "Shaped pieces",
    ):
        assert words in text


def test_a_rest_is_written_by_keys_and_undone(window, qtbot, person, cold):
    person.type("35")
    worked_out(qtbot, cold)
    assert "/35" in window.session.formula.turn_line
    cold.rows[cold.at][2].setFocus()
    person.type("1 h")
    worked_out(qtbot, cold)
    assert "/35-60" in window.session.formula.turn_line
    cold.rows[cold.at][3].setFocus()
    person.press(K.Key_Down)
    worked_out(qtbot, cold)
    assert "/35-60@freezer" in window.session.formula.turn_line
    for _ in range(3):
        person.ctrl(K.Key_Z)
    assert window.session.formula.turn_line == "envelope 3@9 4@9 / 3@9 4@8 /120"


def test_a_rest_that_cannot_be_stays_in_the_cell(person, cold):
    person.type("soon")
    least = cold.rows[cold.at][1]
    assert least.bad
    assert cold.error.text()
    person.press(K.Key_Escape)


def test_rests_of_dough_and_shaped_pieces_go_into_the_line(window, qtbot, person, cold):
    cold.rows[0][1].setFocus()
    person.type("40")
    worked_out(qtbot, cold)
    cold.rows[-1][1].setFocus()
    person.type("25")
    worked_out(qtbot, cold)
    line = window.session.formula.turn_line
    assert line.startswith("dough/40 ")
    assert line.endswith(" shaped/25")


def test_the_second_opinion_hears_of_the_cold(window, qtbot):
    watch = ColdWatch(window.session)
    watch.ask()
    qtbot.waitUntil(lambda: window.session.study.cold_known, timeout=30_000)
    assert "rest_too_long" in {o.key for o in window.session.study.opinions}
    qtbot.waitUntil(lambda: "Hard after 120 min" in shown(window.opinion), timeout=5_000)


@pytest.fixture
def places(window, person):
    person.alt(K.Key_3)
    person.alt(K.Key_J)
    return window.pages["places"]


def test_places_are_added_named_and_removed(window, person, places):
    tab_to(person, named("Add a place"))
    person.press(K.Key_Space)
    person.type("Cold store")
    house = window.session.reference.house
    assert house.place("fridge2").name == "Cold store"
    places.rows[-1].temp.setFocus()
    person.type("2.5")
    assert window.session.reference.house.place("Cold store").temp_c == 2.5
    places.rows[-1].out.setFocus()
    person.press(K.Key_Space)
    assert window.session.reference.house.place("fridge2") is None


def test_the_only_fridge_stays(window, person, places):
    places.rows[0].out.setFocus()
    person.press(K.Key_Space)
    assert "fridge" in places.error.text()
    assert window.session.reference.house.place("fridge") is not None


def test_a_fridges_temperature_is_that_of_the_house(window, person, places):
    places.rows[0].temp.setFocus()
    person.type("6")
    assert window.session.reference.house.fridge_c == 6


def test_a_probes_log_makes_the_figure_the_houses_own(window, qtbot, person, places):
    study = window.session.study
    paste = bodies_of(study.formula, window.session.reference.pantry).paste
    face = Air(4.0, 9.5)
    went = course(Body(paste, 30.0), 20.0, [Phase(90, face, face)])
    minutes = np.arange(0, 90, 5)
    temps = np.interp(minutes, went.minutes, went.core) + 0.3
    places.log.setPlainText("\n".join(f"{m} {t:.1f}" for m, t in zip(minutes, temps, strict=True)))
    tab_to(person, named("Calculate heat transfer"))
    person.press(K.Key_Space)
    qtbot.waitUntil(places.use.isEnabled, timeout=60_000)
    assert "95 % sure" in shown(places)
    tab_to(person, named("Use it for this place"))
    person.press(K.Key_Space)
    fridge = window.session.reference.house.places[0]
    assert fridge.own_low_w_m2_k < 9.5 < fridge.own_high_w_m2_k
    assert "your own figure" in shown(places)
    tab_to(person, named("Back to the usual figure"))
    person.press(K.Key_Space)
    assert window.session.reference.house.places[0].own_w_m2_k is None


@pytest.mark.usefixtures("new_window")
def test_a_probe_is_read_into_the_log_and_fitted(window, qtbot, person, places):
    places.log.setPlainText("0 19\n10 18")
    tab_to(person, named("Start reading"))
    person.press(K.Key_Space)
    assert places.probe.link.listening
    person.alt(K.Key_1)  # it is read on while another place is open
    qtbot.waitUntil(lambda: places.log.blockCount() >= 20, timeout=30_000)
    person.alt(K.Key_3)
    person.alt(K.Key_J)
    tab_to(person, named("Stop reading"))
    person.press(K.Key_Space)
    assert not places.probe.link.listening
    assert "readings recorded." in shown(places)
    first, second, *_ = places.log.toPlainText().splitlines()
    assert first.endswith("20.00 °C")
    assert second.endswith("20.00 °C")  # the middle waits for the cold to come in
    tab_to(person, named("Calculate heat transfer"))
    person.press(K.Key_Space)
    qtbot.waitUntil(lambda: "95 % sure" in shown(places), timeout=60_000)
    places.log.setFocus()
    while places.log.document().isUndoAvailable():
        person.ctrl(K.Key_Z)
    assert places.log.toPlainText() == "0 19\n10 18", "what stood there comes back"


def test_a_probe_says_what_is_wrong_and_another_port_is_kept(qtbot, window, person, places):
    places.probe.port.setFocus()
    person.type("loop://")
    assert "not a probe’s port" in places.error.text()
    places.probe.port.clear()
    person.type("/dev/no-such-probe")
    assert window.session.settings.probe_port == "/dev/no-such-probe"
    tab_to(person, named("Start reading"))
    person.press(K.Key_Space)
    qtbot.waitUntil(lambda: "No probe at" in shown(places), timeout=15_000)
    person.press(K.Key_Space)
    assert not places.probe.link.listening


@pytest.mark.parametrize("log", ["", "nothing here", "0 20\n1 19"])
def test_a_log_that_cannot_be_used_says_why(qtbot, person, places, log):
    places.log.setPlainText(log)
    tab_to(person, named("Calculate heat transfer"))
    person.press(K.Key_Space)
    qtbot.waitUntil(lambda: bool(places.error.text()), timeout=30_000)
    assert not places.use.isEnabled()
