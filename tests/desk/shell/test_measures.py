"""The measures of the house: shown on every screen and paper, read in every field."""

import re

import msgspec
import pytest
from msgspec.structs import replace
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QApplication, QComboBox

from aplomb.assets.shipped import demo, reference
from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import set_measures
from aplomb.core.paste.formula import Part, with_grams
from aplomb.core.study.compare import at_the_bench
from aplomb.core.study.study import make_study
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.paper.card import card_pdf
from aplomb.work.commands import BATCH
from aplomb.work.commands import PAGES as COMMANDS_OF_PAGES
from aplomb.work.figures.typed import read_length, read_mass, read_size, read_temp, read_warming
from aplomb.work.words.measured import measure_words, small_words
from desk.conftest import as_at_first, place, shown, shown_for_long, text_of

SALT = 4
METRIC = re.compile(r"(?<![/@\w.])\d[\d.,\u2009]*[ \u00a0]?(?:g|kg|mm|cm|°C)\b")
CAPTION = re.compile(r", (?:g|kg|mm|cm|°C)$")
ALWAYS = re.compile(r"per 100 g|kJ/100 g|g/cm²|\d+ mg/kg|/100 g|a 100 g")


@pytest.fixture
def inches():
    set_measures("oz", "in", "°F")
    yield
    set_measures("g", "mm", "°C")


@pytest.fixture
def us_window(window):
    house = window.session.reference.house
    window.session.store.set_house("inches", replace(house, masses="oz", lengths="in", temps="°F"))
    QApplication.processEvents()
    yield window
    set_measures("g", "mm", "°C")


@pytest.fixture(scope="module")
def us_shared(qapp, tmp_path_factory):
    """One window in a house of ounces and inches."""
    for made in shown_for_long(tmp_path_factory):
        house = replace(made.session.reference.house, masses="oz", lengths="in", temps="°F")
        made.session.store.set_house("inches", house)
        yield made
    set_measures("g", "mm", "°C")


@pytest.fixture
def us_still(us_shared, inches):
    """The same for a test that only looks."""
    return as_at_first(us_shared)


@pytest.mark.parametrize(
    ("text", "grams"),
    [
        ("8", 226.796185),
        ("250 g", 250),
        ("1 lb 2 oz", 510.2914),
        ("0.5 kg", 500),
        ("2 lb", 907.18474),
    ],
)
def test_a_bare_weight_is_in_ounces(inches, text, grams):
    assert read_mass(text) == pytest.approx(grams, abs=1e-4)


def test_bare_lengths_and_temperatures(inches):
    assert read_length("1 1/2") == pytest.approx(38.1)
    assert read_length("12 mm") == 12
    assert read_size("4 × 3 1/8") == pytest.approx((101.6, 79.375))
    assert read_size("10 cm x 80 mm") == (100, 80)
    assert read_temp("61") == pytest.approx(16.111, abs=1e-3)
    assert read_temp("16 C") == 16
    assert read_warming("9") == pytest.approx(5)
    assert read_warming("5 K") == read_warming("5 C") == 5
    with pytest.raises(AmountError):
        read_mass("-8")


def test_bare_readings_in_a_metric_house():
    assert read_warming("2") == read_warming("2 K") == 2
    assert read_warming("9 F") == pytest.approx(5)
    assert (read_mass("250"), read_length("3"), read_temp("16")) == (250, 3, 16)


def metric_in(root):
    """What is said in metric measures within a widget: in words, fields, tables and choices.

    Nutrition is in grams per 100 g by law, the simulated scale weighs in grams as its line says,
    and what a person wrote stays as it was written.
    """
    said = shown(root).split("\n")
    said += [f.text() for f in root.findChildren(Field) if f.isVisible()]
    for table in root.findChildren(FigureTable):
        said += table.text().split("\n") if table.isVisible() else []
    for box in root.findChildren(QComboBox):
        said += [box.itemText(i) for i in range(box.count()) if box.isVisible()]
    said = [line.replace("\u00a0", " ") for line in said]
    own = ("envelope", "thirds", "halves", "coil", "+ 5 g", "− 5 g", "g and kg", "mm and cm")
    return [
        line
        for line in said
        if (METRIC.search(ALWAYS.sub("", line)) or CAPTION.search(line))
        and not line.startswith(own)
        and not re.fullmatch(r"[\d.]+ g", line)
        and not re.match(r"\d  [\d–]+ min ", line)  # an oven's step, in every way it is set
    ]


@pytest.mark.parametrize("stage", range(8))
def test_no_stage_speaks_metric(us_still, qtbot, stage):
    us_still.show_stage(stage)
    qtbot.wait(30)
    assert not metric_in(us_still)


def test_the_card_follows(qapp, inches):
    known = reference()
    for formula in demo().formulas:
        text, _ = text_of(card_pdf(make_study(formula, known), known.pantry))
        lines = [n for n in text.split("\n") if "Turn line" not in n]
        assert not [n for n in lines if METRIC.search(ALWAYS.sub("", n))]
        assert re.search(r"\d oz", text)


def test_what_stands_is_not_changed_by_how_it_is_shown(us_window):
    """Leaving every field as it is shown changes nothing, though an inch is coarser."""
    before = us_window.session.formula
    us_window.show_stage(2)
    for field in us_window.findChildren(Field):
        if field.isVisible():
            field.setFocus()
            field.commit()
    assert us_window.session.formula == before


def test_the_house_is_chosen_in_the_water_place(window):
    water = place(window, "water")
    box = next(b for b in water.findChildren(QComboBox) if b.accessibleName() == "Lengths")
    box.setCurrentIndex(box.findData("in"))
    box.activated.emit(box.currentIndex())
    QApplication.processEvents()
    assert window.session.reference.house.lengths == "in"
    window.show_stage(2)
    assert "Final sheet, in" in shown(window)
    window.session.journal.undo()
    QApplication.processEvents()
    assert "Final sheet, mm" in shown(window)


def test_columns_say_what_they_are_in(us_window):
    us_window.show_stage(1)
    words = shown(us_window).split("\n")
    assert "oz" in words
    assert "g" not in words


def test_a_table_cuts_no_figure_off_while_there_is_room(qapp):
    """Columns are as wide as their figures, and never together wider than the table allows."""
    table = FigureTable("Sums", 3, 60)
    table.resize(420, 200)
    table.show_rows(
        (Row("Head", ("a", "b", "c"), "head"), Row("x", ("3 × 11 lb 13.4 oz", "1", "2")))
    )
    wides = table._columns_px()
    metrics = QFontMetrics(look.theme.font(14.5, 600))
    assert wides[0] >= metrics.horizontalAdvance("3 × 11 lb 13.4 oz") + 4
    assert sum(wides) <= 0.75 * 420
    table.resize(150, 200)
    assert sum(table._columns_px()) <= 0.75 * 150


def test_what_changes_at_the_bench_is_in_one_measure(inches):
    known = reference()
    formula = demo().formulas[0]
    lard = replace(formula, block=tuple(replace(n, material="lard") for n in formula.block))
    words = at_the_bench(
        make_study(formula, known), make_study(lard, known), known.pantry, known.house
    )
    assert any(
        re.search(r"Enclose and roll at \d\d–\d\d °F instead of \d\d–\d\d: [\d.]+ °F", n)
        for n in words
    )


def numbers_in(value, path=""):
    """All numbers of a value with where they stand."""
    if isinstance(value, bool | str) or value is None:
        return {}
    if isinstance(value, int | float):
        return {path: float(value)}
    parts = value.items() if isinstance(value, dict) else enumerate(value)
    found = {}
    for key, part in parts:
        found |= numbers_in(part, f"{path}/{key}")
    return found


def stands(window):
    """All that a book holds that a field could change, as numbers."""
    session = window.session
    held = [session.formula, session.reference.house, *session.reference.made_batches]
    held += [session.reference.pantry[n.material] for n in session.formula.block]
    found = numbers_in(msgspec.to_builtins(held))
    for wish in ("flour_g", "paste_g", "packet_g"):  # what is typed there becomes what is fixed
        found.pop(f"/0/batch/{wish}")
    return found | {"paste": session.study.scaled.paste_g}


def retyped(window):
    """Type into every field what it shows already."""
    for field in window.findChildren(Field):
        if field.isVisible() and field.isEnabled() and any(c.isdigit() for c in field.text()):
            words = field.text()
            if words.startswith(("envelope", "20")) or field.isReadOnly():
                continue
            field.setFocus()
            field.setText(f"{words} ")
            field.setModified(True)
            field.textEdited.emit(f"{words} ")
            assert field.commit(), (field.accessibleName(), words, field.bad_reason)
            QApplication.processEvents()


EVERY = ("", *sorted(page.key for page in COMMANDS_OF_PAGES))


@pytest.mark.parametrize(("stage", "key"), [(1, ""), (2, ""), *((3, key) for key in EVERY)])
def test_a_page_speaks_no_metric_and_reads_what_it_shows(us_still, qtbot, stage, key):
    """In ounces, inches and °F: off by what is rounded for showing, never by a unit."""
    us_still.show_stage(stage)
    if key:
        place(us_still, key)
        qtbot.wait(30)
        assert not metric_in(us_still)
    before = stands(us_still)
    retyped(us_still)
    after = stands(us_still)
    for where, value in before.items():
        if where in after:
            assert after[where] == pytest.approx(value, rel=0.07, abs=0.6), where


def test_what_stands_in_an_empty_field_follows_the_house(window):
    weigh = place(window, "weigh")
    assert weigh.hand.placeholderText() == "by hand, 250 g"
    house = window.session.reference.house
    window.session.store.set_house("ounces", replace(house, masses="oz"))
    QApplication.processEvents()
    assert weigh.hand.placeholderText() == "by hand, 8 oz"
    assert weigh.scale.put.placeholderText() == "8 oz; −¼ oz takes off"
    window.session.store.set_house("grams", house)
    QApplication.processEvents()
    assert weigh.hand.placeholderText() == "by hand, 250 g"


def test_cups_and_spoons_are_said_beside_weights_where_the_house_wants_them(window, qtbot):
    """Batch, weigh-out, card and order say one measure; by hand: 50 g of vinegar are 10 spoons."""
    session = window.session
    window.show_stage(BATCH)
    assert "cups" not in shown(window)
    house = replace(session.reference.house, beside="cups")
    session.store.set_house("cups beside", house)
    QApplication.processEvents()
    line = next(w for w in session.study.scaled.lines if w.line.material == "plain_flour")
    flour = session.reference.pantry["plain_flour"]
    said = measure_words(house, flour, line.weigh_g)
    assert "cups" in said
    assert f"Plain wheat flour\n{said.partition(' (')[0]}" in shown(window)
    text, _ = text_of(card_pdf(session.study, session.reference.pantry, house))
    assert said in text
    window.open_page("weigh")
    assert "cup" in window.pages["weigh"].note.text()
    window.open_page("demand")
    assert "cups" in shown(window.pages["demand"])


def test_a_pinch_is_measured_and_not_weighed_as_one_gram(window):
    """0.45 g of salt on a scale of whole grams was “1 g, +122 %”; ⅛ tsp holds 0.7 g, so a pinch."""
    session = window.session
    formula = with_grams(session.formula, Part.DOUGH, SALT, 0.45)
    batch = replace(formula.batch, fixed="flour", flour_g=formula.dough[0].grams, division_g=1.0)
    session.shelf.change("a pinch", replace(formula, batch=batch))
    window.show_stage(BATCH)
    QApplication.processEvents()
    line = next(n for n in session.study.scaled.lines if n.line is session.formula.dough[SALT])
    assert line.too_little
    said = small_words(session.reference.house, session.reference.pantry[line.line.material], line)
    assert "pinch" in said
    assert said in shown(window.batch)
    assert "+122" not in shown(window.batch)
    text, _ = text_of(card_pdf(session.study, session.reference.pantry, session.reference.house))
    assert f"{said}, too little for the scale" in text


def test_a_range_that_was_written_is_carried_to_the_scale(window):
    """470 to 530 g of water in a formula of 500: at twice the flour, 940 to 1060 g."""
    session = window.session
    at = next(i for i, line in enumerate(session.formula.dough) if line.material == "water")
    formula = with_grams(session.formula, Part.DOUGH, at, 500.0, "470 to 530 g")
    flour = sum(line.grams for line in formula.dough if "flour" in line.material)
    batch = replace(formula.batch, fixed="flour", flour_g=2 * flour, division_g=1.0)
    session.shelf.change("a range", replace(formula, batch=batch))
    window.show_stage(BATCH)
    QApplication.processEvents()
    said = "940 g to 1\u2009060 g as written"
    assert said in shown(window.batch)
    text, _ = text_of(card_pdf(session.study, session.reference.pantry, session.reference.house))
    assert "940 g to 1060 g as written" in " ".join(text.split())
