"""Trials on the desk: the demo's series from photograph to report, a new trial for the day."""

import json
import threading

import pypdfium2
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication

from aplomb.core.paste.formula import Formula
from aplomb.core.trials.came import came_of
from aplomb.desk.trials.photo_file import take_in
from aplomb.work.commands import TRIALS
from desk.conftest import named, shown, tab_to, text_of

K = Qt.Key
CTRL_SHIFT = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
ALT_SHIFT = Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.ShiftModifier


def done(qtbot, *jobs):
    qtbot.waitUntil(lambda: not any(job.busy for job in jobs), timeout=30_000)
    QApplication.processEvents()


@pytest.fixture
def stage(window, qtbot, person):
    person.alt(K.Key_8)
    done(qtbot, window.trials.job)
    return window.trials


def at(window, qtbot, person, key, name, *jobs):
    person.press(key, ALT_SHIFT)
    page = window.pages[name]
    done(qtbot, *(getattr(page, job) for job in jobs))
    return page


def test_the_series_is_listed_charted_and_judged(window, qtbot, stage):
    assert len(stage.keys) == 33
    words = shown(stage)
    assert "28 µm has a lower lift than 10 µm" in words
    assert "not enough to say yet" in words
    assert "besides the change under test: which fridge" in words
    assert "31 trials" in stage.legend.text()
    assert any("failed: the oven door" in line for line in stage.model.stringList())
    assert any("not measured" in line for line in stage.model.stringList())
    assert "Lift against fat leaf: 31 trials measured" in stage.view.accessibleDescription()


def test_another_outcome_is_judged_by_what_usually_matters(window, qtbot, stage):
    stage.outcome.setCurrentIndex(1)
    stage.outcome.activated.emit(1)
    done(qtbot, stage.job)
    assert stage.chart.outcome == "even_pct"
    assert "alike to within 5 %" in shown(stage)


def test_a_click_on_a_dot_picks_its_trial(window, qtbot, stage):
    from aplomb.desk.drawings.trial_chart import ChartFrame
    from aplomb.desk.kit.theme import look

    places = ChartFrame(stage.chart, stage.view._room(), look.theme).places()

    def apart(key):
        here = places[key]
        return min((here - at).manhattanLength() for k, at in places.items() if k != key)

    alone = max(places, key=apart)
    qtbot.mouseClick(stage.view, Qt.MouseButton.LeftButton, pos=places[alone].toPoint())
    assert stage.picked == alone
    assert stage.list.currentIndex().row() == stage.keys.index(alone)


def test_a_trial_is_entered_in_a_minute_by_keyboard(window, qtbot, person, stage):
    before = len(window.session.store.tried.trials)
    person.press(K.Key_N, CTRL_SHIFT)
    page = window.pages["measure"]
    assert window.page is page
    assert page.heights.hasFocus()
    person.type("3.4: 15 16 14.5")
    tab_to(person, named("Piece 1, lowest"))
    person.type("12.5")
    tab_to(person, named("Fat on the tray"))
    person.type("0.8")
    tab_to(person, named("Baker"))
    person.type("R")
    trial = page.trial
    assert len(window.session.store.tried.trials) == before + 1
    assert [p.baked_mm for p in trial.pieces] == [15, 16, 14.5]
    assert (trial.pieces[0].low_mm, trial.leak_g, trial.made.baker) == (12.5, 0.8, "R")
    assert trial.made.fat_leaf_um == pytest.approx(9.9, abs=0.1)
    assert "4.46 ×" in page.came.text()
    assert trial.batch in {r.key for r in window.session.reference.made_batches}
    person.press(K.Key_Escape)
    assert window.stages.currentWidget() is window.trials
    person.ctrl(K.Key_Z)
    assert page.trial.made.baker == ""


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("3.4/200", "lift of"),
        ("15 16", "raw/baked"),
        ("3.4/x", "enter a number"),
        ("0/15", "raw height"),
    ],
)
def test_heights_that_cannot_be_stay_in_the_field_and_say_why(window, person, stage, typed, words):
    person.press(K.Key_N, CTRL_SHIFT)
    page = window.pages["measure"]
    person.type(typed)
    assert page.heights.bad
    assert words in page.heights.bad_reason.lower()
    assert page.heights.text() == typed
    assert page.trial.pieces == ()


def test_whether_the_fan_was_on_is_asked_once(window, person, stage):
    person.press(K.Key_N, CTRL_SHIFT)
    page = window.pages["measure"]
    tab_to(person, named("Oven, no fan"))
    person.type("180")
    assert page.trial.made.bake_c == 180
    assert "Fan or not?" in shown(page)
    tab_to(person, named("With a fan"))
    person.press(K.Key_Space)
    assert page.trial.made.bake_c == 200
    assert "Fan or not?" not in shown(page)
    person.type("190 fan")
    assert page.trial.made.bake_c == 210
    assert "Fan or not?" not in shown(page)


def test_a_failed_bake_is_written_down_and_kept(window, person, stage):
    person.press(K.Key_N, CTRL_SHIFT)
    page = window.pages["measure"]
    tab_to(person, named("Failed because"))
    person.type("dropped")
    assert page.trial.failed == "dropped"
    assert "kept, but nothing is learned" in shown(page)
    assert came_of(page.trial, "lift") is None


def test_the_photograph_is_measured_and_its_leaves_counted(window, qtbot, person, stage):
    page = at(window, qtbot, person, K.Key_P, "picture", "opening")
    assert page.trial.pictures == ("demo-cut",)
    view = page.view
    view.set_line("scale", QPointF(180, 870), QPointF(1320, 870))  # 30 mm of the ruler
    view.set_line("length", QPointF(750, 770), QPointF(750, 146.8))
    assert page.length.text().startswith("16.4 mm ±")
    view.set_line("leaves", QPointF(780, 157), QPointF(780, 762))
    tab_to(person, named("Count along the line"))
    person.press(K.Key_Space)
    done(qtbot, page.counting)
    assert page.counted.leaves == pytest.approx(46, abs=3)  # rendered with 46
    assert page.counted.trusted
    tab_to(person, named("Add leaves to the piece"))
    person.press(K.Key_Space)
    assert page.trial.pieces[0].leaves == round(page.counted.leaves)
    tab_to(person, named("Add height to the piece"))
    person.press(K.Key_Space)
    assert page.trial.pieces[0].baked_mm == pytest.approx(16.4, abs=0.05)


def test_lines_are_moved_by_keys(window, qtbot, person, stage):
    page = at(window, qtbot, person, K.Key_P, "picture", "opening")
    page.view.setFocus()
    before = page.view.lines["length"][1]
    person.press(K.Key_2)
    person.press(K.Key_Space)
    person.press(K.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    person.press(K.Key_Right, times=3)
    assert page.view.lines["length"][1] - before == QPointF(3, 10)
    person.press(K.Key_Plus, times=4)
    assert page.view.factor() > page.view.width() / 1500
    person.press(K.Key_0)
    assert page.view.zoom == 1.0


def picture_file(path, wide=1200, high=800, kind="PNG"):
    image = QImage(wide, high, QImage.Format.Format_RGB32)
    image.fill(0xFF888888)
    image.save(str(path), kind)
    return path


def test_a_picture_is_taken_into_the_book_and_out_again(
    window, qtbot, person, stage, answers, tmp_path
):
    answers.path = picture_file(tmp_path / "a.png", 4000, 2000)
    page = at(window, qtbot, person, K.Key_P, "picture", "opening")
    tab_to(person, named("Open a picture"))
    person.press(K.Key_Space)
    done(qtbot, page.reading, page.opening)
    assert len(page.trial.pictures) == 2
    row = window.session.book.pictures.all()[page.trial.pictures[1]]
    assert (row.wide, row.high, row.has_original) == (3000, 1500, False)
    page.original.setChecked(True)
    page.open.click()
    done(qtbot, page.reading, page.opening)
    last = page.trial.pictures[2]
    assert window.session.book.pictures.original(last) == answers.path.read_bytes()
    page.drop.click()
    assert last not in page.trial.pictures


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"no picture at all", "not a picture"), (b"", "not a picture"),
        (b"\x89PNG\r\n\x1a\n" + bytes(60), "not a picture"),
        ("cut", "incomplete"),
    ],
)  # fmt: skip
def test_what_is_no_picture_is_refused_in_words(
    window, qtbot, person, stage, answers, tmp_path, content, words
):
    path = tmp_path / "bad.png"
    whole = picture_file(tmp_path / "whole.png").read_bytes()
    path.write_bytes(whole[: len(whole) // 2] if content == "cut" else content)
    answers.path = path
    page = at(window, qtbot, person, K.Key_P, "picture", "opening")
    page.open.click()
    done(qtbot, page.reading)
    assert words in page.error.text()
    assert len(page.trial.pictures) == 1


def test_the_band_becomes_the_bakery_s_own_in_the_headline_and_goes_back(
    window, qtbot, person, stage
):
    def band():
        return window.session.study.school.bands["fat_leaf_um"]

    figure = next(f for f in window.headline.figures if f.key == "fat_leaf_um")
    recalled = band()
    page = at(window, qtbot, person, K.Key_L, "learned", "job")
    assert "6.8 to 19 µm" in shown(page)
    tab_to(person, named("Use this range"))
    person.press(K.Key_Space)
    done(qtbot, page.job)
    assert (band().standing, round(band().low, 1)) == ("trials", 6.8)
    assert "your own trials" in figure.sum
    assert "from 31 of your trials" in figure.sum
    tab_to(person, named("Back to the usual range"))
    person.press(K.Key_Space)
    done(qtbot, page.job)
    assert band() == recalled
    assert "rule of thumb" in figure.sum


def test_the_second_opinion_names_own_trials_as_its_origin(window, qtbot, person, stage):
    from msgspec.structs import replace

    from aplomb.core.opinion.own_bands import OwnBand, OwnBands

    own = OwnBand("classic", "fat_leaf_um", 12.0, 20.0, "from 31 of your trials", 31, "2026-11-26")
    window.session.store.put_own_bands("own", OwnBands((own,)))
    found = {o.key: o for o in window.session.study.opinions}
    assert found["leaf_too_thin"].origin == "trials"
    window.session.shelf.edit("thick", lambda f: replace(f, sheet_mm=5.0))
    assert "leaf_too_thin" not in {o.key for o in window.session.study.opinions}


def test_the_next_trial_is_found_and_laid_into_the_day(window, qtbot, person, stage):
    page = at(window, qtbot, person, K.Key_N, "next_trial", "job")
    assert len(page.offered) == 3
    wants = len(window.session.kitchen.demand.wants)
    shelf = len(window.session.shelf.entries)
    wanted = page.offered[0].made.fat_leaf_um
    tab_to(person, named("Add to the day"))
    person.press(K.Key_Space)
    assert len(window.session.kitchen.demand.wants) == wants + 1
    assert len(window.session.shelf.entries) == shelf + 1
    assert window.session.formula.name == "Regatta case paste"
    want = window.session.kitchen.demand.wants[-1]
    made = window.session.shelf.study_of(want.uid)
    assert made.readings.fat_leaf_um == pytest.approx(wanted, rel=0.05)
    person.alt(K.Key_D)
    assert "Regatta case paste, " in shown(window.pages["demand"])


def test_a_small_design_is_drawn_and_laid_out(window, qtbot, person, stage):
    page = at(window, qtbot, person, K.Key_N, "next_trial", "job")
    tab_to(person, named("Oven, no fan"))
    person.press(K.Key_Space)
    done(qtbot, page.job)
    tab_to(person, named("Bakers"))
    person.type("R M", enter=False)
    tab_to(person, named("Plan the trials"))
    person.press(K.Key_Space)
    assert len(page.plan.text().split("\n")) == 2 * 2 * 4
    assert len(window.session.store.tried.series[0].planned) == 4


def test_turns_and_cost_limit_what_is_offered(window, qtbot, person, stage):
    page = at(window, qtbot, person, K.Key_N, "next_trial", "job")
    tab_to(person, lambda w: w is page.turns)
    person.type("4")
    done(qtbot, page.job)
    from aplomb.work.trials.lay_out import variant_of

    assert page.offered
    for offered in page.offered:
        made = variant_of(window.session.study, offered.made, ("fat_leaf_um",)).formula
        assert len(made.plan.turns) <= 4
    page.cost.setFocus()
    person.type("0.0001")
    done(qtbot, page.job)
    assert "limits. Allow more turns or a higher cost." in shown(page)
    assert page.offered == ()


def test_limits_that_cannot_be_are_told(window, qtbot, person, stage):
    page = at(window, qtbot, person, K.Key_N, "next_trial", "job")
    tab_to(person, named("Fat leaf, from"))
    person.type("30")
    done(qtbot, page.job)
    assert "the wrong way round; put the lower figure first." in shown(page)
    assert page.offered == ()


def test_tasting_is_judged_and_its_slips_are_printed(
    window, qtbot, person, stage, answers, tmp_path
):
    page = at(window, qtbot, person, K.Key_T, "tasting")
    tab_to(person, named("Picked the odd one out"))
    person.type("9")
    assert "Tasters can tell them apart" in shown(page)
    tab_to(person, named("Prefer the first"))
    person.type("9")
    tab_to(person, named("Prefer the second"))
    person.type("1")
    assert "The first is liked better. Chance alone gives" in shown(page)
    tab_to(person, named("Picked the odd one out"))
    person.type("13")
    assert "13 of 12 tasters" in shown(page)
    answers.path = tmp_path / "slips.pdf"
    tab_to(person, named("Slips and key"))
    person.press(K.Key_Space)
    qtbot.waitUntil(answers.path.exists, timeout=20_000)
    text, pages = text_of(answers.path.read_bytes())
    assert text.count("Taster ") == 24
    assert pages >= 3
    assert "odd one" in text


def test_the_report_is_shown_and_given_as_pdf_csv_and_json(
    window, qtbot, person, stage, answers, tmp_path
):
    page = at(window, qtbot, person, K.Key_R, "report", "job")
    words = shown(page)
    assert "How thick a fat leaf lifts the regatta cases best?" in words
    assert "28 µm has a lower lift" in words
    answers.path = tmp_path / "report.pdf"
    page.pdf.click()
    qtbot.waitUntil(answers.path.exists, timeout=30_000)
    text, pages = text_of(answers.path.read_bytes())
    assert "failed: the oven door stood open" in text
    assert "Learned from all trials of the book" in text
    assert pages >= 2
    answers.path = tmp_path / "trials.csv"
    page.csv.click()
    qtbot.waitUntil(answers.path.exists, timeout=20_000)
    from aplomb.exchange.trials_csv import read_trials

    assert len(read_trials(answers.path.read_bytes()).trials) == 33
    answers.path = tmp_path / "report.json"
    page.json.click()
    qtbot.waitUntil(answers.path.exists, timeout=20_000)
    assert json.loads(answers.path.read_text(encoding="utf-8"))["series"]["name"] == (
        "Fat leaf thickness"
    )


def test_the_ruler_strip_is_true_to_size(qapp):
    """By the PDF's own points: the frame of a strip is 160 mm wide, and a tick stands at 150."""
    from aplomb.desk.paper.trials import ruler_pdf

    document = pypdfium2.PdfDocument(ruler_pdf())
    bounds = [thing.get_bounds() for thing in document[0].get_objects()]
    document.close()
    wide = [(right - left) * 25.4 / 72 for left, _, right, _ in bounds]
    assert any(each == pytest.approx(160, abs=1.0) for each in wide)


def test_a_new_series_is_begun_and_named_by_its_question(window, qtbot, person, stage):
    tab_to(person, named("New series"))
    person.press(K.Key_Space)
    assert len(window.session.store.tried.series) == 2
    person.press(K.Key_N, CTRL_SHIFT)
    page = window.pages["measure"]
    assert page.trial.series == window.session.store.tried.series[-1].key
    tab_to(person, lambda w: w is page.question)
    person.type("Does a longer rest shrink less?")
    assert window.session.store.tried.series[-1].name == "Does a longer rest shrink less"
    tab_to(person, lambda w: w is page.variant)
    person.type("60 min")
    assert page.trial.variant == "60 min"


def test_an_empty_book_says_what_trials_are_for(empty, qtbot):
    from desk.conftest import Person

    person = Person(empty, qtbot)
    empty.session.shelf.add(Formula("New paste"), "new")
    empty.show_stage(TRIALS)
    done(qtbot, empty.trials.job)
    assert "A trial is a batch you have really made," in shown(empty.trials)
    names = {
        "M": "measure",
        "P": "picture",
        "L": "learned",
        "N": "next_trial",
        "T": "tasting",
        "R": "report",
    }
    for letter, name in names.items():
        key = getattr(K, f"Key_{letter}")
        person.press(key, ALT_SHIFT)
        page = empty.pages[name]
        for job in ("job", "opening"):
            if hasattr(page, job):
                done(qtbot, getattr(page, job))
        assert empty.page is page
        assert shown(page)


def test_trials_stay_over_a_restart_and_undo_reaches_them(window, qtbot, person, stage, book_path):
    from desk.conftest import open_at

    person.press(K.Key_N, CTRL_SHIFT)
    person.type("3.4/15")
    key = window.pages["measure"].key
    window.close()
    again = open_at(book_path, qtbot)
    assert again.session.store.tried.trial(key).pieces[0].baked_mm == 15
    again.session.journal.undo()
    assert again.session.store.tried.trial(key).pieces == ()
    again.close()


@pytest.mark.parametrize("pct", [80, 150, 200])
def test_the_stage_stands_at_any_text(window, qtbot, stage, pct):
    window.session.keep(text_pct=pct)
    window._apply_theme()
    QApplication.processEvents()
    assert stage.view.height() >= 100
    assert not window.grab().isNull()


def test_the_shelf_says_what_the_last_trial_lifted(window, person, stage):
    from aplomb.core.study.study import Study

    delegate = window.shelf.list.itemDelegate()
    uid = window.session.uid
    study = window.session.shelf.study_of(uid)
    assert isinstance(study, Study)
    last = [came_of(t, "lift") for t in window.session.store.tried.trials if t.uid == uid]
    wanted = next(c for c in reversed(last) if c is not None)
    assert delegate._figures(study, uid)[0] == ("Last lift", f"{wanted.mean:.2f} ×")
    window.session.store.drop_trials("all", [t.key for t in window.session.store.tried.trials])
    assert delegate._figures(study, uid)[0][0] == "Fat on flour"


def test_a_photograph_lands_in_the_trial_it_was_asked_for(
    window, qtbot, person, stage, tmp_path, monkeypatch
):
    """Another trial is shown by the time it is read, and another picture asked for there."""
    go = threading.Event()

    def slow(path, *, original):
        go.wait(10)
        return take_in(path, original=original)

    monkeypatch.setattr("aplomb.desk.trials.picture.take_in", slow)
    page = at(window, qtbot, person, K.Key_P, "picture", "opening")
    tried = window.session.store.tried
    first, second = (t.key for t in tried.trials[:2])
    before = {key: tried.trial(key).pictures for key in (first, second)}
    for key, name in ((first, "a.png"), (second, "b.png")):
        page.begin(key)
        page.refresh()
        page.take_file(picture_file(tmp_path / name, 300, 200))
    go.set()
    done(qtbot, page.reading)
    rows = window.session.book.pictures.all()
    for key, name in ((first, "a.png"), (second, "b.png")):
        (new,) = set(window.session.store.tried.trial(key).pictures) - set(before[key])
        assert rows[new].name == name


def test_a_photograph_of_a_trial_that_is_gone_is_not_kept_elsewhere(
    window, qtbot, person, stage, tmp_path
):
    page = at(window, qtbot, person, K.Key_P, "picture", "opening")
    key, before = page.key, len(window.session.book.pictures.all())
    taken = take_in(picture_file(tmp_path / "a.png", 300, 200), original=False)
    page._take_read((window.session.book.path, "gone"), taken)
    assert "its trial was removed meanwhile" in page.error.text()
    page._take_read((tmp_path / "other.aplomb", key), taken)
    assert "another book was opened meanwhile" in page.error.text()
    assert len(window.session.book.pictures.all()) == before
