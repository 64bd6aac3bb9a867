"""What places are made of: flow, figures, the fat chart, work beside, the store in the session."""

import sqlite3
from threading import Event

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QLocale, QRect, QThreadPool
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QLabel, QPushButton, QWidget

from aplomb.book.book import Book
from aplomb.book.history import History
from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.fats.solid import plastic_range
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.ingredient import Ingredient, Share
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Item, Pack
from aplomb.desk.drawings.fat_chart import Curve, FatChart, paint_fat_chart
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.local import take_locale, usual_house
from aplomb.desk.kit.theme import Theme, look
from aplomb.desk.session import Session
from aplomb.work.figures.local import currency_text, read_price
from aplomb.work.figures.typed import read_temp

BUTTER = ((10.0, 52.0), (15.0, 38.0), (20.0, 20.0), (25.0, 12.0), (30.0, 5.0), (35.0, 0.0))
OWN = Ingredient("own", "Croft fat", "fat", Composition(fat=0.8, water=0.2), "own")


def test_a_flow_goes_on_in_the_next_line(qapp, qtbot):
    parent = QWidget()
    qtbot.addWidget(parent)
    buttons = [QPushButton(str(i)) for i in range(4)]
    for each in buttons:
        each.setFixedSize(100, 20)
    flow = Flow(*buttons, spacing=10)
    parent.setLayout(flow)
    assert flow.heightForWidth(1000) == 20
    assert flow.heightForWidth(220) == 50  # two lines and the gap
    assert flow.heightForWidth(10) == 4 * 20 + 3 * 10
    assert flow.minimumSize().width() == 100
    flow.setGeometry(QRect(5, 7, 220, 50))
    assert [(b.x(), b.y()) for b in buttons] == [(5, 7), (115, 7), (5, 37), (115, 37)]
    buttons[0].hide()
    assert flow.heightForWidth(320) == 20  # what is hidden takes no room
    assert flow.count() == 4
    assert flow.itemAt(9) is None
    assert flow.takeAt(3) is not None
    assert flow.takeAt(3) is None


def test_words_stay_with_what_they_stand_before(qapp, qtbot):
    """A price and its sign: the words before, and the last ones behind, break with the field."""
    parent = QWidget()
    qtbot.addWidget(parent)
    parts = [
        QPushButton("Add an oven"),
        QLabel("price per kilowatt-hour"),
        QPushButton("0.31"),
        QLabel("€"),
    ]
    for each in parts:
        each.setFixedSize(100, 20)
    flow = Flow(*parts, spacing=10)
    parent.setLayout(flow)
    lines = {
        1000: [0, 0, 0, 0],
        330: [0, 30, 30, 30],
        320: [0, 30, 30, 30],
        210: [0, 0, 30, 30],
        100: [0, 30, 60, 90],
    }
    for width, tops in lines.items():
        flow.setGeometry(QRect(0, 0, width, 200))
        assert [each.y() for each in parts] == tops, width
        assert flow.heightForWidth(width) == tops[-1] + 20
    parts[2].hide()
    flow.setGeometry(QRect(0, 0, 210, 200))
    assert [each.y() for each in parts if each is not parts[2]] == [0, 0, 30]


def test_figures_are_read_as_text_and_painted(qapp, qtbot):
    table = FigureTable("Lines", 2)
    qtbot.addWidget(table)
    table.show_rows((Row("Grams", ("now", "then"), "head"), Row("Butter", ("100", "–"), "changed")))
    assert table.text() == "Grams now then\nButter 100 –"
    assert table.accessibleDescription() == table.text()
    table.resize(300, table.sizeHint().height())
    image = table.grab().toImage()
    assert len({image.pixel(x, 30) for x in range(0, 300, 2)}) > 1
    look.wear("dark", 200)
    assert table.sizeHint().height() > 90


def painted(chart):
    image = QImage(600, 360, QImage.Format.Format_RGB32)
    image.fill(QColor("#FFFEFB"))
    painter = QPainter(image)
    paint_fat_chart(painter, QRect(0, 0, 600, 360).toRectF(), chart, Theme())
    painter.end()
    return image


def has(image, name):
    color = QColor(name).rgb()
    return any(
        image.pixel(x, y) == color for x in range(image.width()) for y in range(image.height())
    )


def test_the_fat_chart_shows_curve_fridge_and_ranges(qapp):
    p = Theme().palette
    whole = FatChart(
        (Curve("Butter", BUTTER, main=True),), 4, 21, plastic_range(BUTTER), (12, 16), False
    )
    image = painted(whole)
    for color in (p.fat_edge, p.fat, p.band):
        assert has(image, color), color
    bare = painted(FatChart((), 4, 21, None, None, False))
    assert not has(bare, p.fat_edge)
    assert not has(bare, p.fat)


def test_the_curve_lies_where_the_figures_are(qapp):
    """Between 10 and 35 °C it falls: the curve's pixels move down from left to right."""
    image = painted(FatChart((Curve("B", BUTTER, main=True),), -9, 90, None, None, False))
    edge = QColor(Theme().palette.fat_edge).rgb()
    tops = {}
    for x in range(image.width()):
        rows = [y for y in range(image.height()) if image.pixel(x, y) == edge]
        if rows:
            tops[x] = min(rows)
    xs = sorted(tops)
    assert xs[-1] - xs[0] > 200
    first, middle, last = (tops[xs[i]] for i in (4, len(xs) // 2, -5))
    assert first < middle < last


def test_the_newest_work_wins(qapp, qtbot):
    taken = []
    beside = LatestJob(taken.append, qapp)
    beside.ask(lambda: "old")
    beside.ask(lambda: "new")
    qtbot.waitUntil(lambda: not beside.busy, timeout=5000)
    assert taken == ["new"]

    def wrong():
        raise AplombError("cannot be")

    beside.ask(wrong)
    qtbot.waitUntil(lambda: not beside.busy, timeout=5000)
    assert str(taken[-1]) == "cannot be"
    beside.ask(lambda: "late")
    beside.forget()
    assert not beside.busy
    beside.ask(lambda: "last")
    qtbot.waitUntil(lambda: not beside.busy, timeout=5000)
    assert taken[1:] == [taken[1], "last"]


def test_work_that_is_stale_before_it_begins_is_not_done(qapp, qtbot):
    pool, held, done, taken = QThreadPool.globalInstance(), Event(), [], []
    for _ in range(pool.maxThreadCount()):
        pool.start(lambda: held.wait(10))
    beside = LatestJob(taken.append, qapp)
    for number in range(5):
        beside.ask(lambda number=number: done.append(number) or number)
    held.set()
    qtbot.waitUntil(lambda: not beside.busy, timeout=5000)
    assert pool.waitForDone(5000)
    assert done == [4]
    assert taken == [4]


@pytest.fixture
def session(qapp, tmp_path):
    made = Session(Book(tmp_path / "s.aplomb"))
    made.shelf.add(
        Formula("One", dough=(Line("plain_flour", 100),), block=(Line("butter", 80),)), "one"
    )
    yield made
    made.close()


def test_the_number_of_the_last_revision_follows_the_formula_in_hand(session):
    first = session.uid
    assert session.shelf.revision == 0
    session.shelf.keep_revision("as baked")
    assert session.shelf.revision == session.book.last_revision(first) == 1
    session.shelf.add(Formula("Two"), "two")
    assert session.shelf.revision == 0
    session.shelf.select(first)
    session.shelf.keep_revision("colder")
    assert session.shelf.revision == session.book.last_revision(first) == 2


def test_a_price_and_a_material_survive_a_restart_and_undo_reaches_them(session, tmp_path):
    session.store.price("price of butter", "butter", Pack(1000, 9.0))
    session.store.price("price of flour", "plain_flour", Pack(1000, 1.0))
    session.store.put_items("new material", [Item("own", OWN)])
    assert session.study.readings.cost == pytest.approx(0.1 + 0.72)
    assert session.close()
    again = Session(Book(tmp_path / "s.aplomb"))
    assert again.study.readings.cost == pytest.approx(0.82)
    assert again.reference.pantry["own"] == OWN
    again.journal.undo()
    assert "own" not in again.reference.pantry
    again.journal.undo()
    assert again.study.readings.cost is None
    again.journal.redo()
    assert again.study.readings.cost == pytest.approx(0.82)
    again.close()


def test_undo_before_anything_is_written(session, monkeypatch):
    real = Book.record

    def full(*_a):
        raise sqlite3.OperationalError("disk is full")

    monkeypatch.setattr(History, "_put", lambda *_a, **_k: full())
    session.store.set_house("pounds", House(currency="£"))
    assert session.flush() is False
    assert "cannot be written" in session.journal.trouble
    assert session.reference.house.currency == "£"  # nothing is lost meanwhile
    session.journal.undo()
    assert session.reference.house.currency == ""
    monkeypatch.undo()
    assert session.flush()
    assert Book.record is real


def test_the_same_again_is_no_change(session):
    session.flush()
    session.store.price("price", "butter", Pack(1000, 9.0))
    session.flush()
    before = session.book.history.next_words()
    session.store.price("price again", "butter", Pack(1000, 9.0))
    session.flush()
    assert session.book.history.next_words() == before


def test_a_material_in_use_is_not_taken_out(session):
    session.store.put_items("new", [Item("own", OWN)])
    session.shelf.edit("use it", lambda f: replace(f, block=(Line("own", 80),)))
    with pytest.raises(AplombError, match="Croft fat is used in “One”"):
        session.store.put_items("take out", [Item("own")])
    blend = replace(OWN, key="mix", name="Mix", made_of=())
    share = replace(OWN, key="half", name="Half", made_of=(Share("mix", 1.0),))
    session.store.put_items("mix", [Item("mix", blend), Item("half", share)])
    with pytest.raises(AplombError, match="Mix is used in “Half”"):
        session.store.put_items("take out", [Item("mix")])
    session.store.put_items("take out", [Item("half")])
    session.store.put_items("take out", [Item("mix")])
    assert "mix" not in session.reference.pantry


def test_a_wrong_figure_changes_nothing(session):
    with pytest.raises(AplombError):
        session.store.put_items("bad", [Item("own", replace(OWN, name=""))])
    with pytest.raises(AplombError):
        session.store.set_house("bad", House(shop_c=900))
    assert "own" not in session.reference.pantry


@pytest.mark.parametrize(
    ("locale", "measures"), [("en_US", "us"), ("de_DE", "metric"), ("en_GB", "metric")]
)
def test_cups_follow_the_locale_until_they_are_set(locale, measures):
    before = QLocale()
    try:
        QLocale.setDefault(QLocale(locale))
        assert usual_house().measures == measures
    finally:
        QLocale.setDefault(before)


def test_prices_are_written_and_read_as_the_locale_does():
    before = QLocale()
    try:
        QLocale.setDefault(QLocale("en_GB"))
        take_locale()
        assert currency_text(1234.5, "") == "£1,234.50"
        assert currency_text(0.1234, "€", 3) == "€0.123"
        assert read_price("£ 8.50", "") == 8.5
        assert read_price("8.50 €", "€") == 8.5
        QLocale.setDefault(QLocale("de_DE"))
        take_locale()
        assert currency_text(8.5, "").startswith("8,50")
    finally:
        QLocale.setDefault(before)
        take_locale()
    for wrong in ("", "free", "8 g", "-3"):
        with pytest.raises(AplombError, match="enter a price"):
            read_price(wrong, "€")


def test_temperatures_in_both_scales():
    """°F = 9/5 °C + 32, exact."""
    assert read_temp("16") == 16
    assert read_temp("61 F") == pytest.approx(16.111, abs=1e-3)
    assert read_temp("−2 °C") == -2
    for wrong in ("cold", "", "16 K", "1 2"):
        with pytest.raises(AplombError, match="enter a temperature"):
            read_temp(wrong)
