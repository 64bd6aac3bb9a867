"""The places beside the batch, its papers, and a whole day by keys and by what is shown."""

import pypdfium2
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt

from aplomb.desk.paper.catalogue import PAPERS
from aplomb.work.commands import BATCH
from desk.conftest import named, painted, place, scale_shows, searched, shown, tab_to

K = Qt.Key


@pytest.mark.parametrize(
    ("key", "name"),
    [
        (K.Key_U, "cut"), (K.Key_D, "demand"), (K.Key_T, "trays"), (K.Key_K, "costs"),
        (K.Key_R, "papers"), (K.Key_E, "weigh"),
    ],
)  # fmt: skip
def test_every_page_opens_by_its_keys_and_escape_leads_back(window, person, key, name):
    person.alt(K.Key_4)
    person.alt(key)
    assert window.stages.currentWidget() is window.pages[name]
    assert window.pages[name].isAncestorOf(person.focus)
    person.press(K.Key_Escape, times=2)
    assert window.stages.currentWidget() is window.batch


def test_the_preview_is_what_is_printed(window, qtbot, tmp_path, answers, person):
    papers = place(window, "papers")
    for i, paper in enumerate(PAPERS):
        papers.list.setCurrentIndex(papers.names.index(i))
        painted(qtbot, papers)
        assert papers.preview.count > 0, paper.key
        assert not papers.preview.grab().isNull()
        answers.path = tmp_path / f"{paper.key}.pdf"
        papers.pdf.click()
        qtbot.waitUntil(answers.path.exists, timeout=20_000)
        pages = len(pypdfium2.PdfDocument(answers.path))
        if paper.key != "cut_full":
            assert pages == papers.preview.count


def test_papers_of_the_whole_day(window, qtbot, tmp_path, answers, person):
    papers = place(window, "papers")
    papers.scope.setCurrentIndex(1)
    papers.begin("order")
    papers.refresh()
    painted(qtbot, papers)
    answers.path = tmp_path / "order.csv"
    papers.csv.click()
    qtbot.waitUntil(answers.path.exists, timeout=20_000)
    assert "Barley flour" in answers.path.read_text("utf-8-sig")
    answers.path = tmp_path / "day.xlsx"
    papers.xlsx.click()
    qtbot.waitUntil(answers.path.exists, timeout=20_000)
    assert answers.path.read_bytes()[:2] == b"PK"


def test_a_folder_that_cannot_be_written_and_a_printer_that_is_not_there(
    window, qtbot, tmp_path, answers
):
    papers = place(window, "papers")
    painted(qtbot, papers)
    answers.path = tmp_path / "no such folder" / "card.pdf"
    papers.pdf.click()
    qtbot.waitUntil(lambda: bool(answers.texts), timeout=20_000)
    assert "cannot write card.pdf" in answers.texts[-1]
    papers.print.click()
    assert "No printer" in answers.texts[-1]


def test_label_sizes_are_set_and_refused(window, qtbot, person):
    papers = place(window, "papers")
    papers.begin("labels")
    papers.refresh()
    painted(qtbot, papers)
    field = papers.label_fields["columns"]
    field.setFocus()
    person.type("9")
    assert field.bad
    person.press(K.Key_Escape)
    tab_to(person, named("Single labels"))
    person.press(K.Key_Space)
    painted(qtbot, papers)
    assert papers.preview.count == person.formula.batch.blocks


@pytest.mark.usefixtures("new_window")
def test_the_regatta_day_by_keyboard_alone(window, qtbot, person, tmp_path, answers):
    """Four products, three pastes, five blocks: planned, weighed out, printed."""
    person.alt(K.Key_4)
    person.alt(K.Key_D)
    day = window.pages["demand"]
    assert "5 blocks of 3 pastes" in shown(day)
    tab_to(person, named("Use in the batches"))
    person.press(K.Key_Space)
    person.alt(K.Key_U)
    cut = window.pages["cut"]
    searched(qtbot, cut)
    tab_to(person, named("Keep this sheet"))
    person.press(K.Key_Space)
    person.alt(K.Key_E)
    weigh = window.pages["weigh"]
    while weigh.step is not None:
        scale_shows(qtbot, weigh, 0)
        target = weigh.step.target_g
        person.ctrl(K.Key_G)
        scale_shows(qtbot, weigh, target)
        person.press(K.Key_Return)
    person.alt(K.Key_R)
    papers = window.pages["papers"]
    tab_to(person, lambda w: w is papers.scope)
    person.press(K.Key_Down)
    tab_to(person, named("Papers"))
    for paper in PAPERS:
        painted(qtbot, papers)
        assert papers.paper is paper
        answers.path = tmp_path / f"{paper.key}.pdf"
        tab_to(person, named("Save as PDF"))
        person.press(K.Key_Space)
        qtbot.waitUntil(answers.path.exists, timeout=30_000)
        tab_to(person, named("Papers"))
        person.press(K.Key_Down)
    text = ""
    for page in pypdfium2.PdfDocument(tmp_path / "labels.pdf"):
        text += page.get_textpage().get_text_range()
    assert text.count("Block ") == 5
    assert "Kiosk turnover paste" in text


def test_own_pieces_and_products_in_the_batch_stage(window, person):
    window.show_stage(BATCH)
    stage = window.batch
    assert "Vol-au-vent case" in shown(stage)
    stage.wanted_fields["Pennant straw"].setFocus()
    person.type("48")
    assert person.formula.products[1].wanted == 48
    window.session.shelf.edit("bare", lambda f: replace(f, products=()))
    assert stage.own_piece.isVisible()
    assert "pieces" in stage.big.text()
