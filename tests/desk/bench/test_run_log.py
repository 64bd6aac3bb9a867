"""The record, its papers, and the devices beside the bench."""

import csv
import io

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from aplomb.core.bench.acts import Amend, Measure, Note, Temp
from aplomb.core.bench.codes import read_code
from aplomb.desk.paper.bench import code_cells
from aplomb.work.commands import BENCH
from desk.conftest import shown, text_of

K, MOD = Qt.Key, Qt.KeyboardModifier


@pytest.fixture
def weighing(at_bench):
    """Every line is weighed out, which takes its time."""
    at_bench.weighs = True


@pytest.fixture
def with_record(at_bench, window):
    """A run with a few things written down, and the record open."""
    at_bench.begin()
    at_bench.until(lambda now: now.task.kind == "turn" and now.status == "doing")
    at_bench.control.do(lambda run: run.press(Measure("A1", "trim_g", 120.0)))
    at_bench.kept()
    at_bench.control.do(lambda run: run.press(Temp("A1", "in the middle", 13.5)))
    at_bench.kept()
    at_bench.control.do(lambda run: run.press(Note("A1", "=door was left open", corrective=True)))
    at_bench.kept()
    window.open_page("run_log")
    QApplication.processEvents()
    return window.pages["run_log"]


def line_of(place, words):
    for at, line in enumerate(place.lines):
        if words in line.what:
            place.list.setCurrentIndex(place.model.index(at))
            return line
    raise AssertionError(words)


def test_nothing_yet_says_what_will_stand_here(window):
    window.show_stage(BENCH)
    window.open_page("run_log")
    assert "Nothing recorded yet." in shown(window.pages["run_log"])


def test_a_line_is_put_right_or_taken_back_and_all_stays_to_be_seen(with_record, at_bench):
    line_of(with_record, "started")
    assert not with_record.value.isEnabled(), "a start can only be taken back"
    assert with_record.off.isEnabled()
    line_of(with_record, "Trimmed off")
    with_record.value.setFocus()
    at_bench.text("many")
    assert with_record.value.text() == "many"
    assert at_bench.run.state.measures["A1", "trim_g"] == 120
    with_record.why.setText("read wrong")
    with_record.value.setFocus()
    with_record.value.selectAll()
    at_bench.text("140 g")
    assert "140 g  (was 120 g: read wrong)" in "\n".join(with_record.model.stringList())
    assert at_bench.run.state.measures["A1", "trim_g"] == 140
    assert isinstance(at_bench.run.presses[-1].act, Amend)
    line_of(with_record, "Trimmed off")
    with_record.off.setFocus()
    at_bench.key(K.Key_Space)
    assert "undone" in "\n".join(with_record.model.stringList())
    assert ("A1", "trim_g") not in at_bench.run.state.measures


def given(place, answers, window, kind, path, qtbot):
    answers.path = path
    place._give(kind)
    qtbot.waitUntil(path.exists, timeout=20_000)
    qtbot.waitUntil(lambda: not window.papers.writing.busy, timeout=20_000)
    return path.read_bytes()


def test_what_was_done_stands_line_by_line_on_screen_and_paper(
    weighing, with_record, answers, window, tmp_path, qtbot, at_bench
):
    text = "\n".join(with_record.model.stringList())
    for words in (
        "weighed: Plain wheat flour",
        "mix · 1 of 2: done",
        "Trimmed off  120 g",
        "temperature in the middle  13.5 °C",
        "checked  A clean dent",
    ):
        assert words in text
    assert "weighed" in with_record.masses.text()
    data = given(with_record, answers, window, "log", tmp_path / "log.pdf", qtbot)
    text, pages = text_of(data)
    assert pages >= 1
    for words in (
        "Out of the cold",
        "Corrective action",
        "door was left open",
        "13.5 °C",
        "Plain wheat flour",
        "Your food law",
    ):
        assert words in text
    data = given(with_record, answers, window, "csv", tmp_path / "log.csv", qtbot)
    rows = list(csv.reader(io.StringIO(data.decode("utf-8-sig"))))
    assert rows[0][:4] == ["number", "time", "block", "what"]
    notes = [row for row in rows if "door was left open" in "".join(row)]
    assert notes[0][3].startswith("'="), "nothing in it is run by a spreadsheet"
    assert notes[0][9] == "yes"
    assert ["block", "out of the cold", "back", "minutes", "temperatures"] in rows
    data = given(with_record, answers, window, "labels", tmp_path / "labels.pdf", qtbot)
    text, _ = text_of(data)
    for code in (t.code for t in at_bench.run.plan.tracks if t.block):
        assert code in text
        assert read_code(code) == code
    assert "0 of 4 turns" in text
    assert "Contains" in text


def test_a_code_is_drawn_as_the_standard_has_it():
    """ISO/IEC 18004: version 1 has 21 cells a side, and a finder in three corners."""
    cells = code_cells("ERDLN")
    assert len(cells) == len(cells[0]) == 21
    finder = [
        "1111111",
        "1000001",
        "1011101",
        "1011101",
        "1011101",
        "1000001",
        "1111111",
    ]
    for top, left in ((0, 0), (0, 14), (14, 0)):
        corner = [
            "".join("1" if cells[top + y][left + x] else "0" for x in range(7)) for y in range(7)
        ]
        assert corner == finder


def test_the_record_of_a_run_that_is_over_is_put_right_and_the_batch_with_it(
    at_bench, window, qtbot
):
    at_bench.begin()
    at_bench.until(lambda now: now.task.kind == "enclose")
    at_bench.control.do(lambda run: run.press(Measure("A", "pieces", 40.0)))
    at_bench.kept()
    window.do("bench end")
    assert window.session.reference.made_batches[-1].outcome.pieces == 40
    window.open_page("run_log")
    page = window.pages["run_log"]
    line_of(page, "Number of pieces")
    page.value.setFocus()
    qtbot.keyClicks(page.value, "38")
    qtbot.keyClick(page.value, K.Key_Return)
    assert window.session.reference.made_batches[-1].outcome.pieces == 38
    window.show_stage(BENCH)


def test_the_water_that_was_used_goes_into_the_formula_as_a_revision(weighing, at_bench, window):
    at_bench.begin()
    at_bench.until(lambda now: now.task.kind == "enclose")
    uid = window.session.uid
    before = sum(n.grams for n in window.session.formula.dough if "water" in n.material)
    revisions = len(window.session.book.revisions(uid))
    window.open_page("run_log")
    page = window.pages["run_log"]
    assert "of water used," in shown(page)
    page.apply.click()
    after = sum(n.grams for n in window.session.formula.dough if "water" in n.material)
    # Nothing of what was held back, a tenth, was added by the spoon.
    assert after == pytest.approx(0.9 * before, rel=0.02)
    assert len(window.session.book.revisions(uid)) == revisions + 1


def devices(window):
    window.show_stage(BENCH)
    window.open_page("devices")
    QApplication.processEvents()
    return window.pages["devices"]


def type_in(qtbot, field, text):
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, K.Key_Return)
    QApplication.processEvents()


def test_probes_have_names_of_their_own_and_ports_that_are_ports(window, qtbot):
    place = devices(window)
    type_in(qtbot, place.new_probe, "core 1")
    type_in(qtbot, place.new_probe, "Core 1")
    assert [p.name for p in window.session.settings.probes] == ["core 1"]
    assert "There is already a probe called" in shown(place)
    type_in(qtbot, place.new_probe, "core 2")
    ports = [widgets[1] for widgets in place.rows]
    type_in(qtbot, ports[0], "spy:///dev/ttyS0?file=/tmp/x")
    assert window.session.settings.probes[0].port == ""
    type_in(qtbot, place.rows[0][1], "192.0.2.8:4001")
    type_in(qtbot, place.rows[1][1], "192.0.2.8:4001")
    assert "uses socket://192.0.2.8:4001" in shown(place)
    place.rows[0][3].click()
    assert [p.name for p in window.session.settings.probes] == ["core 2"]


def test_the_screen_is_measured_with_a_ruler(window, qtbot):
    place = devices(window)
    type_in(qtbot, place.long, "80 mm")
    assert window.session.settings.screen_px_mm == pytest.approx(4.0)
    type_in(qtbot, place.long, "0")
    assert window.session.settings.screen_px_mm == pytest.approx(4.0)


def test_how_the_house_counts_is_the_tally_of_the_next_run(window, qtbot, at_bench):
    place = devices(window)
    place.convention.setCurrentIndex(1)
    place.convention.activated.emit(1)
    assert window.session.reference.house.counts_enclosing
    at_bench.begin()
    at_bench.until(lambda now: now.task.kind == "turn")
    assert "of 5 turns" in shown(at_bench.screen)
    assert "enclosing counted" in shown(at_bench.screen)


def test_stand_ins_are_disturbed_and_noticed(window, qtbot, at_bench, hand):
    place = devices(window)
    type_in(qtbot, place.new_probe, "A1")
    at_bench.begin()
    control = at_bench.control
    qtbot.waitUntil(lambda: "A1" in control.probes.said, timeout=10_000)
    at_bench.kept()
    assert at_bench.run.state.probes == {"A1": "A1"}
    devices(window)
    with qtbot.waitSignal(control.devices.links["A1"].failed, timeout=10_000) as told:
        place.disturb("babble")  # the next reading clears it, perhaps before anyone looks
    assert told.args[0]
    place.disturb("silent")
    qtbot.waitUntil(lambda: True, timeout=100)
    hand.on(60)
    assert "No readings" in control.probes.doubt_words()["A1"]
    place.disturb("mend")
    before = control.probes.said["A1"][-1].at_s
    qtbot.waitUntil(lambda: control.probes.said["A1"][-1].at_s > before, timeout=10_000)
    assert control.probes.doubt_words() == {}


def test_the_simulated_scale_and_oven_can_be_used_from_here(window, qtbot, at_bench):
    at_bench.begin()
    place = devices(window)
    type_in(qtbot, place.put, "250 g")
    qtbot.waitUntil(lambda: at_bench.control.devices.grams == 250, timeout=10_000)
    type_in(qtbot, place.put, "-50 g")
    qtbot.waitUntil(lambda: at_bench.control.devices.grams == 200, timeout=10_000)
    place.all_off()
    qtbot.waitUntil(lambda: at_bench.control.devices.grams == 0, timeout=10_000)
    type_in(qtbot, place.dial, "200 °C")
    assert "not in use" in shown(place)  # none is set, and this is no rehearsal
