"""Inside the paste and learning the folds: by keys, mouse and what is shown."""

from itertools import pairwise

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPixmap
from PySide6.QtWidgets import QApplication, QMenu

from aplomb.assets.shipped import demo, reference
from aplomb.core.base.figures import grams_text
from aplomb.core.base.house import House
from aplomb.core.folds.evenness import Evenness
from aplomb.core.folds.lessons import STEPS, enclosing_lesson, lessons, step_lesson
from aplomb.core.folds.motion import motion_of
from aplomb.core.folds.plan import Enclosure
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.folds.working import Working
from aplomb.core.paste.formula import Part
from aplomb.core.study.study import make_study
from aplomb.desk.drawings.folding import Strip, paint_folding, paint_frame
from aplomb.desk.drawings.leaf_chart import gathered_bars, paint_leaf_chart
from aplomb.desk.drawings.lesson import paint_lesson
from aplomb.desk.folds.folding_view import FoldingView, scene_at
from aplomb.desk.kit.theme import Theme
from aplomb.work.commands import FOLDS
from aplomb.work.words.steps import step_words
from desk.conftest import shown

K = Qt.Key
INVERSE, PORTIONS, COIL = 4, 5, 6


def painted(draw, wide=400, high=160):
    """Give the picture that a painter makes on white."""
    image = QImage(wide, high, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    draw(painter)
    painter.end()
    return image


def ink(image):
    """Share of the pixels that are not white."""
    white = QColor("white")
    some = [
        image.pixelColor(x, y) != white
        for x in range(0, image.width(), 4)
        for y in range(0, image.height(), 4)
    ]
    return sum(some) / len(some)


def open_inside(window, formula=0):
    window.session.shelf.select(list(window.session.shelf.entries)[formula])
    window.show_stage(FOLDS)
    window.open_page("inside")
    return window.pages["inside"]


@pytest.mark.parametrize("size", [(768, 144), (500, 300), (1114, 100)])
@pytest.mark.parametrize(
    "line",
    [
        "envelope 3 4 / 3 4",
        "inverse 4 4 3",
        "thirds 2 q 2",
        "halves 6 5",
        "envelope s4 3@14",
        "portions +3 3",
    ],
)
def test_no_flap_goes_over_the_top(qapp, qtbot, line, size):
    """Whatever is folded stands upright for a moment, and is seen whole."""
    study = make_study(replace(demo().formulas[0], turn_line=line), reference())
    view = FoldingView()
    qtbot.addWidget(view)
    view.resize(*size)
    view.show_study(study)
    ground = view.grab().toImage().pixelColor(0, 0)
    for tenth in range(10 * (len(study.plan.steps) + 2)):
        view.show_moment(tenth / 10)
        image = view.grab().toImage()
        assert all(image.pixelColor(x, 0) == ground for x in range(0, size[0], 2)), tenth / 10


def test_the_slider_goes_through_the_plan_by_keys(window, person, qtbot):
    place = open_inside(window)
    assert person.focus is place.slider
    assert place.slider.value() == place.slider.maximum() == 800
    assert "final sheet" in place.strip.title()
    person.press(K.Key_Home)
    assert place.at.text() == "Lay the fat block on the dough."
    person.press(K.Key_PageDown)
    assert "after enclosing" in place.strip.title()
    person.press(K.Key_PageDown, times=2)
    assert "after turn 2 of 4" in place.strip.title()
    assert place.at.text().startswith("Rest")
    person.press(K.Key_PageDown)
    assert place.at.text() == "Turn 3: roll out to 9 mm."
    person.press(K.Key_Right, times=10)
    assert place.at.text().startswith("Fold the right third") or "third" in place.at.text()
    person.press(K.Key_Escape)
    assert window.page is None


def test_it_folds_by_itself_and_stops(window, qtbot):
    place = open_inside(window)
    place.slider.setValue(760)
    qtbot.mouseClick(place.play, Qt.MouseButton.LeftButton)
    assert place.play.text() == "Stop"
    qtbot.waitUntil(lambda: place.slider.value() == place.slider.maximum(), timeout=5000)
    qtbot.waitUntil(lambda: place.play.text() == "Watch it fold", timeout=2000)
    qtbot.mouseClick(place.play, Qt.MouseButton.LeftButton)
    assert place.slider.value() < 50
    qtbot.mouseClick(place.play, Qt.MouseButton.LeftButton)
    assert place.play.text() == "Watch it fold"


def test_what_is_worked_is_typed_kept_and_undone(window, person, qtbot):
    place = open_inside(window)
    field = place.fields["border_mm"]
    field.setFocus()
    field.selectAll()
    person.type("1 cm")
    assert person.formula.working.border_mm == 10
    assert field.text() == "10"
    qtbot.waitUntil(lambda: place.strip.even is not None, timeout=8000)
    assert "Evenness" in place.figures.text()
    assert place.strip.even.least < place.strip.even.most
    assert not place.chart.isHidden()
    bends = place.fields["hinge_pct"]
    bends.setFocus()
    bends.selectAll()
    person.type("60 %")
    assert person.formula.working.hinge_pct == 60
    person.ctrl(K.Key_Z)
    person.ctrl(K.Key_Z)
    assert person.formula.working == Working()
    assert "Every leaf runs" in place.figures.text()


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("border_mm", "-3"),
        ("border_mm", "500"),
        ("border_mm", "3 kg"),
        ("hinge_pct", "250"),
        ("uneven_pct", "nan"),
        ("misfold_mm", ""),
    ],
)
def test_what_cannot_be_used_stays_in_the_field(window, person, name, text):
    place = open_inside(window)
    before = person.formula
    field = place.fields[name]
    field.setFocus()
    field.selectAll()
    if text:
        person.type(text)
    else:
        field.clear()
        person.press(K.Key_Return)
    assert person.formula == before
    assert field.bad or field.text() == "0"


def test_only_what_matters_is_asked(window):
    place = open_inside(window, 0)
    assert not place.fields["border_mm"].isHidden()
    assert place.fields["coil_mm"].isHidden()
    assert not place.envelope.isHidden()
    place = open_inside(window, 1)
    assert place.fields["border_mm"].isHidden()
    assert not place.form.isHidden()
    place.form.setCurrentIndex(place.form.findData("flakes"))
    place.form.activated.emit(place.form.currentIndex())
    assert window.session.formula.piece_form == "flakes"
    place = open_inside(window, COIL)
    assert not place.fields["coil_mm"].isHidden()
    assert place.envelope.isHidden()


def test_across_and_one_piece(window, qtbot):
    place = open_inside(window, INVERSE)
    place.across.setCurrentIndex(1)
    place.across.activated.emit(1)
    assert "cut across" in place.strip.title()
    place.piece.setCurrentIndex(1)
    place.piece.activated.emit(1)
    assert place.strip.title().startswith("Section of one piece, 12 cm")
    whole = place.strip._all
    assert 0 < whole.right - whole.left < 0.5


@pytest.mark.parametrize("formula", range(7))
def test_every_moment_of_every_demo_plan_is_drawn(still, formula):
    place = open_inside(still, formula)
    place.folding.resize(700, 140)
    seen = set()
    for value in range(0, place.slider.maximum() + 1, 70):
        place.slider.setValue(value)
        assert place.at.text()
        seen.add(place.folding.grab().toImage().constBits().tobytes()[:400_000])
    assert len(seen) > 2


def test_scenes():
    assert (scene_at(0, 3).step, scene_at(0, 3).part) == (0, 0)
    assert scene_at(2.25, 3).part == pytest.approx(0.25)
    last = scene_at(5, 3)
    assert (last.step, last.part) == (4, 1)


def test_a_folded_strip_keeps_its_area(qapp):
    """Drawn area before and after a fold is the same paste, but for the lines."""
    strip = Strip(80, 12)
    step = Step(Way.FOLD, 4)
    areas = []
    for part in (0.0, 1.0):
        image = painted(
            lambda p, part=part: paint_folding(p, QPointF(20, 150), motion_of(step), part, strip)
        )
        areas.append(ink(image))
    assert areas[1] == pytest.approx(areas[0], rel=0.12)


@pytest.mark.parametrize("step", STEPS)
def test_frames_of_every_turn_are_drawn(qapp, step):
    for part in (0.0, 0.4, 1.0):
        image = painted(
            lambda p, part=part: paint_frame(
                p, QRectF(0, 0, 400, 160), motion_of(step), part, QColor("brown")
            )
        )
        assert ink(image) > 0.01
    log = QPixmap(50, 50)
    log.fill(QColor("red"))
    strip = Strip(200, 10, log, log)
    assert ink(painted(lambda p: paint_folding(p, QPointF(5, 150), motion_of(step), 0.5, strip)))


@pytest.mark.parametrize("enclosure", list(Enclosure))
def test_lessons_have_words_and_drawings(qapp, enclosure):
    for way in ("turned", "cross"):
        lesson = enclosing_lesson(enclosure, way)
        assert lesson.about
        assert all(frame.words.endswith(".") for frame in lesson.frames)
        image = painted(
            lambda p, lesson=lesson: paint_lesson(
                p,
                QRectF(0, 0, 700, 200),
                lesson,
                Theme("light", 100).font(13),
                QColor("black"),
                QColor("brown"),
            ),
            700,
            200,
        )
        assert ink(image) > 0.01


def test_lessons_of_a_plan_teach_each_kind_once():
    plan = parse_plan("thirds 4 / 3 4 4o / 3 t10")
    names = [lesson.name for lesson in lessons("plan", plan)]
    assert len(names) == len(set(names)) == 4
    assert len(lessons("turns", plan)) == len(STEPS)
    assert len(lessons("enclosing", plan)) == 8
    assert step_lesson(Step(Way.FOLD, 3)).frames[-1].part == 1.0


def test_learning_is_chosen_by_keys(window, person):
    window.session.shelf.select(list(window.session.shelf.entries)[PORTIONS])
    window.show_stage(FOLDS)
    person.alt(K.Key_H)
    page = window.pages["lessons"]
    assert person.focus is page.choice
    assert [view.accessibleName() for view in page.views] == [
        "In portions (flaky way)",
        "Portion, fold in 3",
        "Single, 3 panels",
    ]
    person.press(K.Key_Down)
    page.choice.activated.emit(page.choice.currentIndex())
    assert len(page.views) == 8
    assert page.views[0].grab().width() > 100
    person.press(K.Key_Escape)
    assert window.page is None


def test_bars_hold_every_vertical():
    histogram = tuple((n, 1 + n % 3) for n in range(20, 140, 2))
    bars = gathered_bars(histogram)
    assert len(bars) <= 24
    assert sum(many for _, _, many in bars) == sum(many for _, many in histogram)
    assert all(one[1] + 1 == other[0] for one, other in pairwise(bars))
    assert gathered_bars(()) == []
    assert gathered_bars(((5, 7),)) == [(5, 5, 7)]


def test_the_histogram_is_drawn(qapp):
    even = Evenness(4.0, 1.0, 2, 6, 0.0, 1.0, 10.0, 2.0, ((2, 3), (4, 9), (6, 3)))
    theme = Theme("light", 100)
    image = painted(lambda p: paint_leaf_chart(p, QRectF(0, 0, 400, 160), even, theme))
    fat = QColor(theme.palette.fat)
    assert any(image.pixelColor(x, 90) == fat for x in range(400))


def test_further_steps_by_key_and_menu(window, person, qtbot):
    window.show_stage(FOLDS)
    ribbon = window.folds.ribbon
    ribbon.pick(0)
    person.press(K.Key_O)
    assert person.formula.turn_line.startswith("envelope 4o 3@9")
    person.press(K.Key_T)
    assert person.formula.turn_line.startswith("envelope 4o t10 3@9")
    person.press(K.Key_Delete)
    person.press(K.Key_Delete)
    ribbon.pick(1)
    ribbon.ask_change(QPoint(0, 0))
    menu = next(m for m in ribbon.findChildren(QMenu) if m.actions())
    pick = next(a for a in menu.actions() if a.text().startswith("Double, off"))
    pick.trigger()
    menu.close()
    assert person.formula.turn_line == "envelope 4o@9 4@9 / 3@9 4@8 /120"
    person.ctrl(K.Key_Z)
    assert person.formula.turn_line == "envelope 3@9 4@9 / 3@9 4@8 /120"


def drag(card, to_x):
    """Press a card, pull it to a place along the row and let go."""

    def send(kind, x, buttons):
        at = QPointF(x, 40)
        event = QMouseEvent(
            kind,
            at,
            card.mapToGlobal(at),
            Qt.MouseButton.LeftButton,
            buttons,
            Qt.KeyboardModifier.NoModifier,
        )
        QApplication.sendEvent(card, event)

    inside = to_x - card.geometry().left()
    left = Qt.MouseButton.LeftButton
    send(QEvent.Type.MouseButtonPress, 10, left)
    send(QEvent.Type.MouseMove, inside, left)
    send(QEvent.Type.MouseButtonRelease, inside, Qt.MouseButton.NoButton)


def test_a_card_is_dragged_to_another_place(window, person):
    window.show_stage(FOLDS)
    ribbon = window.folds.ribbon
    QApplication.processEvents()
    cards = ribbon.cards
    drag(cards[1], cards[2].geometry().right() - 2)
    assert person.formula.turn_line == "envelope 4@9 3@9 / 3@9 4@8 /120"
    drag(ribbon.cards[3], ribbon.cards[1].geometry().left() + 2)
    assert person.formula.turn_line == "envelope / 4@9 3@9 3@9 4@8 /120"
    before = person.formula
    drag(ribbon.cards[2], ribbon.cards[2].geometry().center().x())
    assert person.formula == before


def test_what_is_wrong_is_marked_on_its_card(window, person):
    window.show_stage(FOLDS)
    window.folds.line.setFocus()
    window.folds.line.selectAll()
    person.type("envelope 3 4 3 4 /")
    cards = window.folds.ribbon.cards
    assert [bool(card.marks) for card in cards] == [False, False, False, True, False, False]
    assert "turns without a rest in the cold" in cards[3].accessibleName()


def test_the_words_of_every_step(known):
    """Said for a person at the bench: sizes, what is folded, and which way it is rolled."""
    study = make_study(demo().formulas[0], known)
    words = step_words(study, 3 + 1, House(belt_mm=500))
    assert words.big.startswith("Roll to 116 × 31 cm")
    assert "fold in 3" in words.todo
    assert "Stretched 3\u00a0× towards the open ends, 1.3\u00a0× sideways" in words.after
    assert "Sheeter: 36 →" in words.after
    assert step_words(study, 3, House()).big == "Rest in the cold"
    cross = replace(demo().formulas[0], working=Working(envelope="cross", border_mm=6))
    words = step_words(make_study(cross, known), 0, House())
    assert "in a cross" in words.todo
    assert "6 mm of bare border" in words.todo
    coil = make_study(demo().formulas[COIL], reference())
    assert "roll up tight" in step_words(coil, 0, House()).todo
    portions = make_study(
        replace(demo().formulas[PORTIONS], turn_line="portions +3:40 +3 3 t8r"), known
    )
    each = sum(n.weigh_g for n in portions.scaled.lines if n.part is Part.BLOCK) / 2
    assert f"spread {grams_text(0.4 * each)} g" in step_words(portions, 1, House()).todo
    assert f"spread {grams_text(0.6 * each)} g" in step_words(portions, 2, House()).todo
    assert step_words(portions, 4, House()).big == "Trim 8 mm off the rolled edges"
    assert "What is left:" in step_words(portions, 4, House()).after


def test_a_log_is_drawn_round_in_the_strip(window, qtbot):
    window.session.shelf.select(list(window.session.shelf.entries)[COIL])
    window.show_stage(FOLDS)
    window.folds.ribbon.pick(0)
    strip, _ = window.section._places()
    assert strip.width() == strip.height()
    qtbot.waitUntil(
        lambda: window.section.whole is not None or bool(window.section.grab()), timeout=5000
    )
    qtbot.waitUntil(lambda: window.section.whole is not None, timeout=5000)
    image = window.section.whole.toImage()
    assert image.pixelColor(1, 1).alpha() == 0
    assert image.pixelColor(image.width() // 2, 4).alpha() == 255


def test_what_the_fat_is_cut_to_stands_with_the_pieces(window, person):
    """By words one sees: pressed flat it is a quarter as thick, so four times as many leaves."""
    rough = next(uid for uid, e in window.session.shelf.entries.items() if "Kiosk" in e.name)
    window.session.shelf.select(rough)
    window.show_stage(FOLDS)
    stage = window.folds
    assert stage.seen.isVisible()
    stage.seen.setFocus()

    def leaves(words):
        at = stage.seen.findText(words)
        stage.seen.setCurrentIndex(at)
        stage.seen.activated.emit(at)
        return person.readings.fat_leaves

    whole, flat = leaves("like hazelnuts"), leaves("hazelnuts pressed flat")
    assert (person.formula.piece_form, person.formula.piece_fat_mm) == ("flakes", 12)
    assert flat == pytest.approx(4 * whole)
    assert "fat leaves by the size of the pieces" in shown(stage)
    window.session.shelf.select(next(iter(window.session.shelf.entries)))
    assert stage.seen.isHidden()
