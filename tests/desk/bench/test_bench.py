"""The bench as a baker meets it: keys, the screen, what rings, what is typed and scanned."""

import shutil
import threading
from threading import Thread
from types import SimpleNamespace

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QLabel

from aplomb.book.errors import DiskError
from aplomb.core.bench.acts import Begin, Count, End, Measure, Reach, Seen, Weigh
from aplomb.core.bench.readings import OVEN_AIR
from aplomb.desk.bench.entries import ENTRIES
from aplomb.desk.bench.tiles import LEAST_TEXT, TOUCH_MM
from aplomb.desk.drawings import bench as drawings
from aplomb.desk.kit.device_link import MOST_WAITING
from aplomb.devices.protocol import Identity, Oven, Weight
from aplomb.work.bench import finish
from aplomb.work.bench.run import read_presses
from aplomb.work.commands import BENCH, DAY
from desk.conftest import named, open_at, shown, tab_to

from .conftest import AtBench

K, MOD = Qt.Key, Qt.KeyboardModifier


def bright(colour):
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize(("ink", "ground"), drawings.BENCH_PAIRS)
def test_every_pair_of_colours_has_a_contrast_of_seven(ink, ground):
    """As the accessibility guidelines (WCAG 2.1, 1.4.6) reckon it."""
    one, other = sorted((bright(ink), bright(ground)), reverse=True)
    assert (one + 0.05) / (other + 0.05) >= 7


def test_the_empty_bench_says_what_it_is_for(window, qtbot):
    window.show_stage(BENCH)
    said = shown(window.bench)
    assert "keeps the record. Press Space (or" in said
    assert "Regatta case paste" in said
    assert window.headline.isVisible()


def test_a_run_takes_the_whole_window_and_escape_gives_it_back(at_bench, window):
    at_bench.begin()
    assert not window.headline.isVisible()
    assert not window.opinion.isVisible()
    at_bench.key(K.Key_Escape)
    at_bench.qtbot.waitUntil(
        lambda: at_bench.run is None, timeout=30_000
    )  # what is pressed is kept first
    assert window.headline.isVisible()
    assert "still open" in shown(window.bench)
    tab_to_go_on = next(
        b for b in window.bench.findChildren(type(window.bench.begin_one)) if b.text() == "Resume"
    )
    tab_to_go_on.setFocus()
    at_bench.qtbot.keyClick(tab_to_go_on, K.Key_Space)
    at_bench.kept()
    assert at_bench.run is not None


def faces_of(at_bench):
    """Lead the screen through its faces; gives each face's name as it is shown."""
    at_bench.begin()
    yield "first"
    at_bench.until(lambda now: now.task.kind == "weigh" and now.status == "doing")
    yield "weigh"
    at_bench.until(lambda now: now.task.kind == "mix" and now.status == "doing")
    at_bench.key(K.Key_W)
    yield "mix"
    at_bench.key(K.Key_Space)
    yield "ask mix"
    at_bench.key(K.Key_1)
    at_bench.until(lambda now: at_bench.control.ringing() is not None)
    at_bench.control.changed.emit()
    yield "alarm"
    at_bench.until(lambda now: now.task.kind == "turn" and at_bench.control.face == "ask")
    yield "ask"
    at_bench.key(K.Key_Escape)
    at_bench.until(lambda now: now.task.kind == "turn" and now.status == "doing")
    yield "turn"
    at_bench.key(K.Key_N)
    yield "trouble"
    at_bench.key(K.Key_Escape)
    at_bench.key(K.Key_M)
    yield "entry"
    at_bench.key(K.Key_Escape)
    at_bench.until(lambda now: now.status in ("resting", "held"))
    yield "rest"


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700)])
def test_no_text_is_small_and_nothing_is_cut_off(at_bench, window, monkeypatch, size):
    window.resize(*size)
    drawn = []
    really = drawings.bench_font

    def noted(px, *more):
        drawn.append(px)
        return really(px, *more)

    for module in ("drawings.bench", "bench.tiles", "bench.faces"):
        monkeypatch.setattr(f"aplomb.desk.{module}.bench_font", noted)
    least = LEAST_TEXT * size[1] / 800
    for face in faces_of(at_bench):
        at_bench.screen.refresh()
        QApplication.processEvents()
        drawn.clear()
        at_bench.screen.grab()
        assert min(drawn, default=99) >= least - 0.6, face
        for label in at_bench.screen.findChildren(QLabel):
            if label.isVisible() and label.text():
                assert label.font().pixelSize() >= least - 0.6, (face, label.text())
        screen = at_bench.screen
        assert screen.height() <= window.height(), face
        for tile in screen.tiles.values():
            if tile.isVisible():
                corner = tile.mapTo(screen, QPoint(tile.width(), tile.height()))
                assert corner.x() <= screen.width(), (face, tile.text())
                assert corner.y() <= screen.height(), (face, tile.text())
                assert min(tile.width(), tile.height()) >= TOUCH_MM * screen.px_mm - 1, face


def test_tiles_are_as_large_as_a_finger_on_a_finer_screen(at_bench, window):
    window.session.keep(screen_px_mm=6.0)
    at_bench.begin()
    at_bench.screen._u = 0.0
    at_bench.screen._fit()
    QApplication.processEvents()
    for tile in at_bench.screen.tiles.values():
        if tile.isVisible():
            assert min(tile.width(), tile.height()) >= 15 * 6.0 - 1


def test_an_alarm_takes_the_screen_is_heard_and_says_what(at_bench, monkeypatch):
    rung = []
    at_bench.begin()
    monkeypatch.setattr(at_bench.control.sound, "ring", lambda: rung.append(1))
    at_bench.until(lambda now: at_bench.control.ringing() is not None)
    at_bench.control._tick()
    at_bench.screen.refresh()
    assert rung
    assert "has rested" in shown(at_bench.screen)
    assert "Next: Enclose" in shown(at_bench.screen)
    at_bench.key(K.Key_Space)
    assert "has rested" not in shown(at_bench.screen) or at_bench.control.ringing() is not None


def test_a_silent_bench_still_takes_the_screen(at_bench, window, monkeypatch):
    rung = []
    window.session.keep(sound=False)
    at_bench.begin()
    monkeypatch.setattr(at_bench.control.sound, "ring", lambda: rung.append(1))
    at_bench.until(lambda now: at_bench.control.ringing() is not None)
    at_bench.control._tick()
    assert not rung
    assert "has rested" in shown(at_bench.screen)


def test_spoons_by_key_and_back(at_bench):
    at_bench.begin()
    now = at_bench.until(lambda now: now.task.kind == "mix" and now.status == "doing")
    for key in (K.Key_W, K.Key_W, K.Key_F):
        at_bench.key(key)
    at_bench.key(K.Key_W, MOD.ShiftModifier)
    assert at_bench.run.state.counted(now.task.key, "water") == (1, 15.0)
    assert at_bench.run.state.counted(now.task.key, "flour") == (1, 8.0)
    assert "1 × 15 g = 15 g of" in shown(at_bench.screen)
    at_bench.key(K.Key_Backspace)
    assert at_bench.run.state.counted(now.task.key, "water") == (2, 30.0)


def test_too_soft_goes_back_says_for_how_long_and_is_asked_again(at_bench):
    at_bench.begin()
    at_bench.until(lambda now: at_bench.control.face == "ask" and now.task.kind == "enclose")
    key = at_bench.run.asking.key
    at_bench.key(K.Key_2)
    assert "Back into the fridge for" in shown(at_bench.screen)
    held = at_bench.run.state.tasks[key].held
    assert held.minutes >= 5
    assert at_bench.control.face == "step"
    at_bench.until(lambda now: at_bench.run.state.tasks[key].ended_s is not None)
    assert [s.state for s in at_bench.run.state.tasks[key].seen] == ["soft", "right"]


def test_a_trouble_is_answered_from_the_table(at_bench):
    at_bench.begin()
    at_bench.until(lambda now: now.task.kind == "enclose" and now.status == "doing")
    at_bench.key(K.Key_N)
    assert "What went wrong?" in shown(at_bench.screen)
    at_bench.key(K.Key_2)
    assert "Cover it and chill it on a tray;" in shown(at_bench.screen)
    held = [t.held for t in at_bench.run.state.tasks.values() if t.held]
    assert [10 <= h.minutes <= 20 for h in held] == [True]


def test_what_is_typed_is_kept_and_what_cannot_be_stays(at_bench):
    at_bench.begin()
    now = at_bench.until(lambda now: now.task.kind == "turn" and now.status == "doing")
    at_bench.key(K.Key_R)
    at_bench.text("57 20 9")
    assert at_bench.run.state.tasks[now.task.key].reached == Reach(now.task.key, 570.0, 200.0, 9.0)
    at_bench.key(K.Key_R)
    at_bench.text("lo")
    assert at_bench.run.state.tasks[now.task.key].reached.word == "long"
    at_bench.key(K.Key_M)
    at_bench.text("nonsense")
    assert at_bench.screen.entry.line.text() == "nonsense"
    assert "number of the line and the value," in at_bench.screen.entry.wrong.text()
    at_bench.screen.entry.line.setText("")
    at_bench.text("1 120 g")
    at_bench.text("5 38")
    at_bench.text("5 1,5")
    assert "whole number" in at_bench.screen.entry.wrong.text()
    at_bench.key(K.Key_Escape)
    measures = at_bench.run.state.measures
    assert measures[now.task.track, "trim_g"] == 120
    assert measures[now.task.track, "pieces"] == 38
    at_bench.key(K.Key_T)
    at_bench.text("13.5")
    assert at_bench.run.state.temps[-1][1].temp_c == 13.5
    at_bench.key(K.Key_K)
    at_bench.text("8")
    assert at_bench.run.state.notes[-1][1].words == "went well"
    at_bench.key(K.Key_I)
    at_bench.text("RS")
    assert at_bench.run.state.who == "RS"


def test_a_temperature_typed_while_it_bakes_is_the_oven_s(at_bench, monkeypatch):
    at_bench.begin()
    bake = next(t for t in at_bench.run.plan.tasks if t.kind == "bake")
    now = replace(at_bench.control.current(), task=bake)
    with monkeypatch.context() as patch:
        patch.setattr(at_bench.control, "current", lambda: now)
        ENTRIES["temp"].take(at_bench.control, "374 F")
    at_bench.kept()
    temp = at_bench.run.state.temps[-1][1]
    assert (temp.where, temp.track) == ("of the oven", bake.track)
    assert temp.temp_c == pytest.approx(190)


def test_what_the_oven_says_is_kept_beside_the_probes(at_bench):
    at_bench.begin()
    at_bench.control.devices._oven_said(Oven(183.0, 190.0))
    at_bench.control.devices._oven_said(Oven(184.0, 190.0))
    _, temps = at_bench.control.probes.kept(OVEN_AIR)
    assert temps[-1] == 184
    assert at_bench.control.probes.doubt_words() == {}


def test_a_label_that_is_scanned_opens_its_block(at_bench):
    at_bench.begin()
    track = next(t for t in at_bench.run.plan.tracks if t.block == 2)
    at_bench.qtbot.keyClicks(at_bench.screen, track.code.lower())
    at_bench.qtbot.keyClick(at_bench.screen, K.Key_Return)
    at_bench.kept()
    assert at_bench.run.chosen == track.key
    assert "opened from its label." in shown(at_bench.screen)
    assert not at_bench.run.presses  # the scanner's own Enter is no press
    at_bench.qtbot.keyClicks(at_bench.screen, "BBBBC")
    at_bench.qtbot.keyClick(at_bench.screen, K.Key_Return)
    assert "is not a block of this run" in shown(at_bench.screen)
    at_bench.key(K.Key_C)
    at_bench.text("xxxxx")
    assert "is not a block of this run" in at_bench.screen.entry.wrong.text()
    at_bench.screen.entry.line.setText("")
    at_bench.text(next(t for t in at_bench.run.plan.tracks if t.block == 3).code)
    assert at_bench.run.chosen == "A3"


def test_weighed_by_scale_by_hand_skipped_and_ended(at_bench):
    at_bench.begin()
    at_bench.until(lambda now: now.task.kind == "weigh" and now.status == "doing")
    first = at_bench.control.line()
    at_bench.weigh_line()
    second = at_bench.control.line()
    assert second.step.key != first.step.key
    at_bench.key(K.Key_Right)
    third = at_bench.control.line()
    assert third.step.key != second.step.key
    at_bench.key(K.Key_3)  # a digit is the beginning of a weight
    at_bench.text("33 g")
    line = next(v for v in at_bench.run.state.lines.values() if v.by == "hand")
    assert isinstance(line, Weigh)
    assert line.got_g == 333
    at_bench.qtbot.waitUntil(lambda: at_bench.control.devices.grams is not None, timeout=5_000)
    at_bench.key(K.Key_Space)
    assert "Not enough yet" in shown(at_bench.screen)
    at_bench.key(K.Key_E)
    ended = list(at_bench.run.state.lines.values())[-1]
    assert ended.enough


def test_keys_that_come_faster_than_the_disk_are_all_done(at_bench, monkeypatch):
    at_bench.begin()
    run = at_bench.run
    runs = run.book.runs
    really = runs.press

    def slow(*what):
        import time

        time.sleep(0.08)
        really(*what)

    monkeypatch.setattr(runs, "press", slow)
    track = at_bench.control.current().task.key
    for _ in range(5):
        at_bench.qtbot.keyClick(at_bench.screen, K.Key_D)
        at_bench.screen.act_on_typed()
    at_bench.kept()
    assert run.state.counted(track, "dust")[0] == 5


def test_a_disk_that_refuses_is_told_and_a_copy_elsewhere_takes_all(
    at_bench, window, monkeypatch, tmp_path
):
    at_bench.begin()
    runs = at_bench.run.book.runs

    def refuse(*_what):
        raise DiskError("The book cannot be written: the disk is full.")

    monkeypatch.setattr(runs, "press", refuse)
    key = at_bench.control.current().task.key
    at_bench.qtbot.keyClick(at_bench.screen, K.Key_Space)
    at_bench.qtbot.waitUntil(lambda: bool(at_bench.run.trouble), timeout=5_000)
    at_bench.screen.refresh()
    assert "disk is full" in shown(at_bench.screen)
    assert at_bench.run.state.tasks[key].begun_s is None
    window.session.work.keep_copy(tmp_path / "elsewhere.aplomb")
    QApplication.processEvents()
    assert window.session.book.path.name == "elsewhere.aplomb"
    assert at_bench.run is not None
    assert at_bench.run.state.tasks[key].begun_s is not None


@pytest.fixture
def full(at_bench, monkeypatch, answers):  # `answers`: a window that closes asks
    """A disk that takes nothing from now on, until it is told to."""
    at_bench.begin()
    at_bench.until(lambda now: now.task.kind == "mix")
    runs, disk = at_bench.run.book.runs, SimpleNamespace(is_full=True)

    def unless_full(really):
        def write(*what):
            if disk.is_full:
                raise DiskError("The book cannot be written: the disk is full.")
            really(*what)

        return write

    for name in ("press", "end"):
        monkeypatch.setattr(runs, name, unless_full(getattr(runs, name)))
    monkeypatch.setattr("aplomb.work.bench.writer.AGAIN_S", 0.05)
    at_bench.qtbot.keyClick(at_bench.screen, K.Key_D)
    at_bench.screen.act_on_typed()
    at_bench.qtbot.waitUntil(lambda: bool(at_bench.run.trouble), timeout=5_000)
    return disk


def test_closing_asks_for_presses_that_the_disk_refused(at_bench, window, full, answers):
    assert not window.close()
    assert "1 press at the bench would be lost." in answers.texts[-1]
    assert "the disk is full" in answers.texts[-1]
    at_bench.control.leave_asked.emit()
    assert at_bench.run is None
    assert not window.close(), "left, they still wait"
    full.is_full = False
    at_bench.qtbot.waitUntil(lambda: not at_bench.control._left.all, timeout=5_000)
    assert window.close()


def test_leaving_a_run_on_a_full_disk_holds_nobody_and_coming_back_finds_all(at_bench, full):
    run = at_bench.run
    at_bench.control.leave_asked.emit()
    assert at_bench.run is None
    at_bench.stage.open(run.number)
    assert at_bench.run is run
    full.is_full = False
    at_bench.qtbot.waitUntil(lambda: not run.waiting, timeout=5_000)
    assert read_presses(run.book, run.number)[0] == run.presses
    assert run.state.counted(at_bench.control.current().task.key, "dust")[0] == 1


def test_a_press_that_is_not_taken_says_so(at_bench, full):
    before = list(at_bench.run.waiting)
    for _ in range(20):
        at_bench.qtbot.keyClick(at_bench.screen, K.Key_D)
        at_bench.screen.act_on_typed()
        assert at_bench.control.told.startswith("This press was not accepted")
    assert at_bench.run.waiting == before


def test_a_run_ended_on_a_full_disk_is_learned_from_once_it_is_kept(
    at_bench, window, full, monkeypatch
):
    run, learned = at_bench.run, []
    monkeypatch.setattr(finish, "keep_made_batches", lambda _work, of: learned.append(of) or [])
    full.is_full = False
    at_bench.qtbot.waitUntil(lambda: not run.waiting, timeout=5_000)
    full.is_full = True
    at_bench.stage.finish()
    at_bench.control.leave_asked.emit()
    assert learned == []
    full.is_full = False
    at_bench.qtbot.waitUntil(lambda: learned == [run], timeout=5_000)
    at_bench.qtbot.waitUntil(lambda: bool(window.session.book.runs.all()[0].ended), timeout=5_000)


def test_what_is_pressed_while_one_is_written_stands_at_its_own_time(at_bench, monkeypatch):
    at_bench.begin()
    run, really, go = at_bench.run, at_bench.run.book.runs.press, threading.Event()
    monkeypatch.setattr(run.book.runs, "press", lambda *what: (go.wait(10), really(*what)))
    moments = []
    for _ in range(30):
        at_bench.hand.on(1)
        moments.append(run.now_s)
        at_bench.qtbot.keyClick(at_bench.screen, K.Key_D)
        at_bench.screen.act_on_typed()
    at_bench.hand.on(600)
    go.set()
    at_bench.kept()
    dusted = [p.at_s for p in run.presses if isinstance(p.act, Count)]
    assert dusted == pytest.approx(moments, abs=0.01)


def test_a_damaged_row_of_a_run_is_listed_and_told(at_bench, window):
    at_bench.begin()
    number = at_bench.run.number
    at_bench.control.leave_asked.emit()
    db = window.session.book.file.db
    db.execute("UPDATE run SET begun = '2026-99-99T77:00' WHERE id = ?", (number,))
    db.execute("INSERT INTO run (title, begun, ended, plan) VALUES ('odd', '', '', 'x')")
    at_bench.stage.refresh()
    QApplication.processEvents()
    assert "2026-99-99T77:00" in shown(at_bench.stage)
    at_bench.stage.open(number + 1)
    assert "cannot be read" in at_bench.stage.error.text()
    window.open_page("run_log")
    db.execute("INSERT INTO press VALUES (?, 99, 5.0, '', 'x')", (number,))
    at_bench.stage.open(number)
    assert any(
        "1 press of this run cannot be read" in words for words in at_bench.control.notices()
    )


def test_a_second_window_shows_the_same_and_the_desk_stays_in_use(at_bench, window):
    at_bench.begin()
    window.do("bench window")
    other = window.bench.window_
    other.screen_.resize(1000, 700)
    QApplication.processEvents()
    assert other.isVisible()
    window.show_stage(0)
    at_bench.qtbot.keyClick(other.screen_, K.Key_Space)
    at_bench.kept()
    assert isinstance(at_bench.run.presses[-1].act, Begin)
    window.do("bench window")
    assert not other.isVisible()
    assert at_bench.run is not None


def test_another_block_is_looked_at_and_the_one_that_wants_hands_comes_back(at_bench):
    at_bench.begin()
    at_bench.until(lambda now: now.task.kind == "enclose" and now.status == "doing")
    first = at_bench.control.current().task.track
    at_bench.key(K.Key_Tab)
    assert at_bench.control.current().task.track != first
    at_bench.key(K.Key_Left)
    assert at_bench.control.current().task.track == first


def test_the_window_is_closed_in_mid_run_and_nothing_is_left_behind(
    at_bench, window, book_path, qtbot, hand
):
    at_bench.begin()
    at_bench.until(lambda now: now.task.kind == "mix")
    state, number = at_bench.run.state, at_bench.run.number
    window.close()
    again = AtBench(open_at(book_path, qtbot), qtbot, hand)
    again.window.show_stage(BENCH)
    qtbot.waitUntil(lambda: "still open" in shown(again.stage), timeout=5000)
    again.stage.open(number)
    assert again.run.state.tasks == state.tasks
    again.window.close()


def test_a_run_of_a_deleted_formula_goes_on_and_says_so(at_bench, window):
    at_bench.begin()
    window.session.shelf.delete()
    at_bench.control.changed.emit()
    assert "was deleted after this run started; the run keeps revision" in shown(at_bench.screen)
    at_bench.key(K.Key_Space)
    assert at_bench.run.presses


def test_the_run_is_ended_by_the_same_key_and_the_house_learns(at_bench, window):
    at_bench.weighs = True
    at_bench.begin()
    at_bench.until(lambda now: now is None, most=900)
    assert "All done" in shown(at_bench.screen)
    at_bench.key(K.Key_M)
    at_bench.text("5 80")
    at_bench.key(K.Key_Escape)
    at_bench.key(K.Key_Space)
    assert at_bench.run is None
    made_batch = window.session.reference.made_batches[-1]
    assert made_batch.outcome.mixed_g > 1000
    assert made_batch.formula == "Regatta case paste"
    assert window.session.kitchen.timetable.minutes  # what steps really took
    assert window.session.book.runs.all()[0].ended


def test_the_regatta_day_from_start_to_oven_with_keys_alone(window, qtbot, hand, tmp_path, person):
    """Three pastes and five blocks; one too soft, and the power goes in the middle."""
    person.alt(K.Key_5)
    day = window.day
    qtbot.waitUntil(lambda: day.planner.answer is not None, timeout=60_000)
    person.ctrl(K.Key_Return)
    at = AtBench(window, qtbot, hand)
    at.weighs = True
    qtbot.waitUntil(lambda: at.run is not None, timeout=20_000)
    at.kept()
    blocks = [t for t in at.run.plan.tracks if t.block]
    assert len(blocks) == 5
    soft = next(
        t.key for t in at.run.plan.tasks if t.kind == "turn" and t.name.startswith("turn 2")
    )
    answers = {soft: "soft"}
    turns = [t.key for t in at.run.plan.tasks if t.kind == "turn"]

    def half(_now):
        return sum(at.run.state.tasks[key].ended_s is not None for key in turns) >= 9

    at.until(half, most=1500, answers=answers)
    assert at.run.state.tasks[soft].holds == 1
    told = len(at.run.presses)
    state, now, number = at.run.state, at.run.now_s, at.run.number
    # The power goes: what is on the disk at this moment is all there is.
    cut = tmp_path / "after the cut.aplomb"
    shutil.copy(window.session.book.path, cut)
    window.close()
    hand.on(120)
    after = AtBench(open_at(cut, qtbot), qtbot, hand)
    after.window.setUpdatesEnabled(False)
    after.window.show_stage(BENCH)
    tab_to(desk_person(after.window, qtbot), named("Resume"))
    after.key(K.Key_Space)
    qtbot.waitUntil(lambda: after.run is not None, timeout=30_000)
    assert after.run.number == number
    assert len(after.run.presses) >= told
    assert after.run.state.tasks == state.tasks
    assert after.run.now_s == pytest.approx(now + 120, abs=1)
    after.until(lambda now: now is None, most=1500)
    ended = [p.act.task for p in after.run.presses if isinstance(p.act, End)]
    assert len(ended) == len(after.run.plan.tasks)
    seen = [p.act for p in after.run.presses if isinstance(p.act, Seen)]
    assert [s.state for s in seen].count("soft") == 1
    after.window.close()


def desk_person(window, qtbot):
    from desk.conftest import Person

    return Person(window, qtbot)


def test_a_run_moves_the_day(window, qtbot, hand, person):
    person.alt(K.Key_5)
    qtbot.waitUntil(lambda: window.day.planner.answer is not None, timeout=60_000)
    window.day.begin.click()
    qtbot.waitUntil(lambda: window.day.planner.answer is not None, timeout=60_000)
    person.ctrl(K.Key_Return)
    at = AtBench(window, qtbot, hand)
    qtbot.waitUntil(lambda: at.run is not None, timeout=20_000)
    before = window.session.kitchen.timetable
    at.until(lambda now: at.control.face == "ask" and at.run.asking.kind == "enclose", most=900)
    at.key(K.Key_2)
    sheet = window.session.kitchen.timetable
    assert sheet.now_min is not None
    assert sheet.rest_extra != before.rest_extra
    window.show_stage(DAY)
    qtbot.waitUntil(lambda: window.day.planner.answer is not None, timeout=60_000)
    assert window.day.planner.plan is not None


def test_measures_are_refused_before_they_are_pressed(at_bench):
    at_bench.begin()
    at_bench.control.do(lambda run: run.press(Measure("A", "pieces", -3)))
    assert "pieces" in at_bench.control.told
    assert not at_bench.run.presses


def test_a_scale_below_nothing_is_told_and_nothing_is_pressed(at_bench):
    at_bench.begin()
    at_bench.until(lambda now: now.task.kind == "weigh" and now.status == "doing")
    scale = at_bench.control.devices.scale.simulated
    scale._tare_g = 300.0
    at_bench.qtbot.waitUntil(lambda: at_bench.control.devices.grams == -300, timeout=5_000)
    before = len(at_bench.run.presses)
    at_bench.key(K.Key_Space)
    assert "Not enough yet" in shown(at_bench.screen)
    at_bench.key(K.Key_E)
    assert "weighed" in at_bench.control.told
    assert len(at_bench.run.presses) == before


def test_of_a_flood_of_readings_the_window_takes_the_last(at_bench, window):
    window.session.keep(probes=())
    at_bench.begin()
    link = at_bench.control.devices.scale
    link._device.stop()  # only the test speaks
    at_bench.qtbot.waitUntil(lambda: not link._waiting, timeout=5_000)

    def say(*others):
        def all_of_it():
            for grams in range(20_000):
                link.tell(Weight(float(grams), steady=True))
                for other in others:
                    link.tell(other)

        thread = Thread(target=all_of_it)
        thread.start()
        thread.join()
        return list(link._waiting)

    assert say() == [Weight(19_999.0, steady=True)]
    heard = say(Identity("a", 100.0, 1.0))
    assert len(heard) == MOST_WAITING
    assert Weight(19_999.0, steady=True) in heard
    at_bench.qtbot.waitUntil(lambda: not link._waiting, timeout=5_000)


def test_what_is_put_on_while_the_scale_is_tared_is_put_on_after_it(at_bench):
    at_bench.begin()
    devices = at_bench.control.devices
    at_bench.qtbot.waitUntil(lambda: devices.grams is not None, timeout=10_000)
    devices.put_on(200.0)
    at_bench.qtbot.waitUntil(lambda: devices.grams == 200.0, timeout=10_000)
    devices.tare()
    devices.put_on(350.0)
    at_bench.qtbot.waitUntil(lambda: devices.grams == 350.0, timeout=10_000)


def test_an_alarm_over_what_is_typed_leaves_the_keyboard_where_it_is_seen(at_bench, monkeypatch):
    at_bench.begin()
    screen = at_bench.screen
    screen.ask_for("note")
    assert screen.window().focusWidget() is screen.entry.line
    rings = type(screen)._ringing
    monkeypatch.setattr(type(screen), "_ringing", property(lambda self: True))
    monkeypatch.setattr(screen, "_show_alarm", lambda: screen.faces.setCurrentWidget(screen.step))
    screen.refresh()
    focus = screen.window().focusWidget()
    assert focus is not screen.entry.line
    assert focus.isVisible()
    monkeypatch.setattr(type(screen), "_ringing", rings)
    screen.refresh()
    assert screen.window().focusWidget() is screen.entry.line
