"""Every paper read back by another program than the one that wrote it: poppler's own tools, or
pdfium where they are not."""

import shutil
import subprocess

import pypdfium2
import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.core.base.figures import grams_text, mass_text, number_text
from aplomb.core.batch.weighing import weigh_steps
from aplomb.core.kitchen.orders import order_list
from aplomb.core.paste.formula import Part
from aplomb.core.paste.product import Product
from aplomb.core.study.study import make_study
from aplomb.desk.paper.canvas import pages_of, pdf_of
from aplomb.desk.paper.catalogue import PAPERS
from aplomb.desk.paper.job import Job
from aplomb.work.words.steps import share_words
from desk.conftest import text_of

ALL_PAGES = 500


def by_poppler(path):
    """Words, pages and paper size [pt] of a paper, as poppler's tools tell them."""
    text = subprocess.run(
        ["pdftotext", "-layout", path, "-"], capture_output=True, text=True, check=True
    ).stdout.replace("\u00a0", " ")
    told = subprocess.run(["pdfinfo", path], capture_output=True, text=True, check=True).stdout
    facts = dict(line.split(":", 1) for line in told.splitlines() if ":" in line)
    wide, high = facts["Page size"].split(" pts")[0].split(" x ")
    return text, int(facts["Pages"]), (float(wide), float(high))


def by_pdfium(path):
    """The same, as pdfium tells them."""
    document = pypdfium2.PdfDocument(path)
    pages = [page.get_textpage().get_text_range().replace("\r\n", " ") for page in document]
    text = "\f".join(pages).replace("\u00a0", " ")
    return text, len(document), document[0].get_size()


def tight(text):
    """Without blanks: the thin one in large figures comes out as it likes."""
    return "".join(text.split())


@pytest.fixture(scope="module")
def job():
    book = demo()
    shipped = reference()
    known = replace(shipped, pantry=shipped.pantry.holding(book.items), house=book.house)
    studies = tuple(make_study(formula, known) for formula in book.formulas[:2])
    return Job("Regatta day", studies, known.pantry, known.house, book.stock, "2026-11-28")


@pytest.fixture(scope="module")
def read(qapp, job, tmp_path_factory):
    """Read a paper by its key: its words, its pages, its paper size in points."""
    kept = {}

    def reading(key, of=job):
        if (key, id(of)) not in kept:
            paper = next(p for p in PAPERS if p.key == key)
            path = tmp_path_factory.mktemp("papers") / f"{key}.pdf"
            path.write_bytes(pdf_of(paper.painter(of), paper.words, paper.size_mm(of)))
            kept[key, id(of)] = (by_poppler if shutil.which("pdftotext") else by_pdfium)(path)
        return kept[key, id(of)]

    return reading


@pytest.mark.parametrize("paper", PAPERS, ids=lambda paper: paper.key)
def test_pages_are_those_of_the_preview_and_none_is_empty(paper, job, read):
    text, pages, size = read(paper.key)
    shown, whole = pages_of(paper.painter(job), ALL_PAGES)
    assert whole
    assert pages == len(shown)
    each = text.split("\f")[:pages]
    assert all(page.strip() for page in each), "a page without a word"
    wide, high = paper.size_mm(job)
    assert size == pytest.approx([wide / 25.4 * 72, high / 25.4 * 72], abs=1)


def test_every_gram_to_weigh_is_on_the_list(job, read):
    text, _, _ = read("weigh")
    for study in job.studies:
        for line in study.scaled.lines:
            if line.weigh_g > 0:
                assert job.pantry[line.line.material].name in text
                for grams in line.by_mix or (line.weigh_g,):
                    assert tight(f"{number_text(grams, 2)} g") in tight(text)
    assert text.count("Weighed by") == 2


def test_every_material_to_buy_is_ordered_with_its_packs(job, read):
    text, _, _ = read("order")
    order = order_list(job.batches, job.pantry, job.stock)
    assert order.lines
    for line in order.lines:
        assert line.name in text
        if line.short_g > 0 and line.pack_g:
            assert f"{line.packs} × {mass_text(line.pack_g)}" in text
    for supplier in order.suppliers:
        assert supplier in text


def test_allergens_are_named_as_in_the_materials(job, read):
    text, _, _ = read("allergens")
    assert "Contains: cereals containing gluten, egg, milk" in text
    assert "Local food law" in text


def test_a_label_for_every_block_with_its_turns(job, read):
    text, _, _ = read("labels")
    blocks = sum(study.scaled.blocks for study in job.studies)
    assert text.count("Use by") == blocks == 4
    assert text.count("Contains") == blocks
    for study in job.studies:
        for number in range(1, study.scaled.blocks + 1):
            assert f"Block {number} of {study.scaled.blocks}" in text


def test_every_turn_is_told_with_its_sheet(job, read):
    text, _, _ = read("steps")
    for study in job.studies:
        turns = len(study.plan.turns)
        for number in range(1, turns + 1):
            assert f"Turn {number} of {turns}" in text
    assert "thumb" in text


def test_the_card_keeps_its_signs_on_copying(job, read):
    """Ligatures and figures come out as they were written."""
    text, _, _ = read("card")
    for words in ("Plain wheat flour", "Section of the final sheet", "fat leaves", "µm"):
        assert words in text, words


def test_scrap_and_several_blocks_stand_on_the_weigh_list(job, read):
    study = job.studies[0]
    cutting = replace(study.formula.cutting, scrap_pct=10.0, scrap_g=400.0)
    book = demo()
    known = replace(reference(), pantry=job.pantry, house=book.house)
    scrap = make_study(replace(study.formula, cutting=cutting), known)
    text, _, _ = read("weigh", replace(job, studies=(scrap,)))
    assert "Scrap from earlier batches" in text
    assert "400 g" in text
    fat = next(
        w for w in weigh_steps(scrap.scaled, job.pantry, 5.0) if w.weighed.part is Part.BLOCK
    )
    each = number_text(fat.target_g / fat.blocks, 1)
    assert fat.blocks == 2, "the first of two mixes"
    assert tight(f"2 blocks, {each} g each") in tight(text)


def test_what_is_long_is_wrapped_on_the_card_and_never_cut_off(job, read):
    text, _, _ = read("card")
    assert tight("gather, do not knead") in tight(text)
    assert "…" not in text
    study = job.studies[0]
    known = replace(reference(), pantry=job.pantry, house=job.house)
    cross = replace(study.formula.working, envelope="cross")
    made = make_study(replace(study.formula, working=cross), known)
    text, _, _ = read("card", replace(job, studies=(made,)))
    assert "dough in a cross" in text
    flap = f"{made.enclosing.dough.height_mm / 4:.1f} mm"
    assert flap in text, "the end of the sentence, on its last line"
    assert "…" not in text


def test_dough_and_parts_of_a_block_are_on_card_and_labels(job, read):
    """Dough and fat block of each block in grams; a finished block in quarters, each labelled."""
    study = job.studies[0]
    fat = sum(n.weigh_g for n in study.scaled.lines if n.part is Part.BLOCK) / study.scaled.blocks
    text = tight(read("card")[0])
    assert tight(f"dough {grams_text(study.scaled.each_g - fat)} g") in text
    assert tight(f"fat block {grams_text(fat)} g each") in text
    batch = replace(study.formula.batch, shares=4)
    known = replace(reference(), pantry=job.pantry, house=job.house)
    shared = make_study(replace(study.formula, batch=batch), known)
    part = shared.scaled.finished_g / 4
    assert share_words(shared) == f"each finished block cut into 4 quarters of {grams_text(part)} g"
    of_parts = replace(job, studies=(shared,))
    text = tight(read("labels", of_parts)[0])
    assert text.count(tight(f"of 4 · {mass_text(part)}")) == 4 * shared.scaled.blocks
    assert tight("Block 1 of 3, quarter 4 of 4") in text


def test_a_plan_at_true_size_paints_what_a_page_shows_and_refuses_too_many(qapp):
    """By hand: 20 m by 60 cm are 112 × 3 pages of 180 × 250 mm."""
    formula = replace(demo().formulas[0], products=(Product("Round", "round", 60, 60, wanted=800),))
    cutting = replace(formula.cutting, length_mm=20_000, width_mm=600)
    painter = next(p for p in PAPERS if p.key == "cut_full").painter
    known = reference()

    def pages(**sizes):
        made = make_study(replace(formula, cutting=replace(cutting, **sizes)), known)
        job = Job("x", (made,), known.pantry, known.house, {})
        return text_of(pdf_of(painter(job), "x"))

    text, many = pages()
    assert many == 1
    assert "takes 336 pages at its true size; up to 120 are made" in text
    _, many = pages(length_mm=1800)
    assert many == 30
