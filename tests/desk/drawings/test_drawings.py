"""Drawings and paper: pixels that agree with the stack, a card that reads back."""

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from aplomb.assets import asset
from aplomb.assets.shipped import demo, reference
from aplomb.core.base.figures import set_measures
from aplomb.core.folds.lessons import lessons_of
from aplomb.core.folds.raster import Window
from aplomb.core.folds.stack import FAT, stack_of
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.paste.formula import Batch, Formula
from aplomb.core.paste.line import Line
from aplomb.core.study.study import make_study
from aplomb.desk.drawings.folded import fold_path, paint_enclosing, paint_fold
from aplomb.desk.drawings.section import (
    SectionImage,
    bar_mm,
    image_of,
    length_text,
    paint_cut,
    paint_scale,
    sheet_coverage,
)
from aplomb.desk.kit.theme import DARK, LIGHT, Theme
from aplomb.desk.paper.card import card_pdf
from aplomb.work.words.steps import rolled_to
from desk.conftest import text_of


@given(
    st.sampled_from(["envelope 3 4", "thirds 4", "inverse 4 4 3", "envelope 6 6 6 6"]),
    st.floats(0.1, 0.9),
    st.integers(1, 700),
)
@settings(max_examples=80)
def test_pixels_hold_as_much_fat_as_the_stack(line, share, rows):
    stack = stack_of(parse_plan(line), share)
    cover = sheet_coverage(stack, 0, 1, rows)
    assert cover.shape == (rows,)
    assert cover.mean() == pytest.approx(share, rel=1e-6)
    assert cover.min() >= -1e-9
    assert cover.max() <= 1 + 1e-9


def test_the_lens_shows_the_leaf_that_is_there():
    stack = stack_of(parse_plan("envelope 3"), 0.5)
    edges = np.cumsum(stack.shares)
    for i, kind in enumerate(stack.kinds):
        bottom = edges[i - 1] if i else 0.0
        middle = sheet_coverage(stack, bottom + 1e-6, edges[i] - 1e-6, 5)
        assert middle == pytest.approx(np.full(5, 1.0 if kind == FAT else 0.0), abs=1e-6)


def test_colours_run_from_dough_to_fat():
    image = image_of(np.array([[0.0, 1.0], [0.5, 0.25]]))
    assert image.pixelColor(0, 0) == QColor("#EAD9B6")
    assert image.pixelColor(1, 0) == QColor("#F0C244")
    assert (image.width(), image.height()) == (2, 2)


def test_a_cut_paints_and_says_when_it_cannot(qapp, known, demo):
    for formula in demo:
        study = make_study(formula, known)
        cut = SectionImage(study, None, formula.sheet_mm)
        assert not cut.trouble
        image = QImage(300, 80, QImage.Format.Format_RGB32)
        image.fill(QColor("black"))
        painter = QPainter(image)
        paint_cut(painter, QRectF(0, 0, 300, 80), cut, Window(), QColor("red"))
        paint_scale(
            painter, QRectF(0, 0, 300, 80), 3, painter.font(), QColor("black"), QColor("white")
        )
        painter.end()
        assert image.pixelColor(20, 20) != QColor("black")
    huge = replace(demo[0], turn_line="envelope " + "6 " * 15)
    cut = SectionImage(make_study(huge, known), None, 3.0)
    assert "too many to draw" in cut.trouble
    assert "fat block" in SectionImage(make_study(Formula("x"), known), None, 3.0).trouble


def test_scale_words():
    assert length_text(5) == "5 mm"
    assert length_text(0.05) == "50 µm"


@pytest.mark.parametrize("panels", [2, 3, 4, 5, 6])
def test_a_folded_strip_stays_in_its_place(qapp, panels):
    where = QRectF(10, 10, 120, 60)
    for path in fold_path(Step(Way.FOLD, panels), where, 60 / (panels * 1.12 + 0.6)):
        assert where.adjusted(-2, -2, 2, 2).contains(path.boundingRect())
    assert len(fold_path(Step(Way.STACK, 4), where, 8)) == 4


def test_every_enclosing_is_drawn_with_its_fat(qapp, known, plain):
    for word in ("envelope", "thirds", "halves", "inverse", "pieces"):
        how = make_study(replace(plain, turn_line=f"{word} 3"), known).enclosing
        image = QImage(160, 120, QImage.Format.Format_RGB32)
        image.fill(QColor("white"))
        painter = QPainter(image)
        paint_enclosing(painter, QRectF(10, 10, 140, 100), how)
        paint_fold(painter, QRectF(0, 0, 20, 20), Step(Way.FOLD, 3))
        painter.end()
        colours = {
            image.pixelColor(x, y).name() for x in range(25, 160, 3) for y in range(25, 120, 3)
        }
        assert "#f0c244" in colours, word
        assert "#ead9b6" in colours, word


@pytest.mark.parametrize("number", range(7))
def test_the_card_reads_back(qapp, number):
    formula = demo().formulas[number]
    study = make_study(formula, reference())
    text, pages = text_of(card_pdf(study, reference().pantry))
    text = text.replace("\n", " ")
    has_egg = any("egg" in key for key in formula.materials())
    assert pages == 2
    for each in (
        formula.name,
        formula.purpose,
        "Dough",
        "Fat block",
        "Folds",
        f"Turn line: {study.plan.line()}",
        "Allergens:",
        "Do not eat raw flour or raw egg." if has_egg else "Do not eat raw flour. ",
        "Local food law",
        f"Turn {len(study.plan.turns)} of {len(study.plan.turns)}" if study.plan.turns else "coil",
        "page 1",
        "The folds, step by step",
        *(lesson.name for lesson in lessons_of(study.plan)),
    ):
        assert each in text, each
    for weighed in study.scaled.lines:
        name = reference().pantry[weighed.line.material].name
        assert all(word in text for word in name.split())
    if formula.filling:
        assert f"{formula.filling[0].grams:g} g per piece" in text
    assert "sheeter rollers" not in text, "this house has none"
    assert study.cut is None or rolled_to(study.cut.plans[0].rolled) in text
    if formula.between:
        assert "sprinkle in" in text
        assert f"at turn 3 of {len(study.plan.turns)}" in text
    assert "of 16 °C" in text  # how cold the water must be
    if formula.school == "gluten_free":
        assert "20 mg/kg" in text
        assert "gluten" not in text.split("Allergens:")[1].split("Do not eat raw flour")[0]


def test_every_letter_of_a_name_comes_back(qapp, plain):
    """Ligatures and variant letters would be lost on copying."""
    name = "Harbour straws, office fjord flaky, hms"
    study = make_study(replace(plain, name=name), reference())
    assert text_of(card_pdf(study, reference().pantry))[0].count(name) == 3


def test_a_long_formula_turns_the_page(qapp, pantry, known):
    keys = [material.key for material in pantry]
    formula = Formula(
        "Everything " * 10,
        purpose="long " * 60,
        dough=tuple(Line(key, 10.0 + i, "a note") for i, key in enumerate(keys)),
        block=(Line("butter", 500),),
        turn_line="envelope " + "3 / 4 /" * 4,
        batch=Batch(pieces=1_000_000, fixed="pieces"),
    )
    text, pages = text_of(card_pdf(make_study(formula, known), pantry))
    assert 3 <= pages <= 5
    text = text.replace("\n", " ")
    for material in pantry:
        assert all(word in text for word in material.name.split())


def test_an_unfinished_formula_still_prints(qapp, known, pantry):
    text, _ = text_of(card_pdf(make_study(Formula("Bare"), known), pantry))
    assert "nothing to scale" in text


def luminance(color):
    channels = [c / 255 for c in QColor(color).getRgb()[:3]]
    linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one, other):
    """Contrast ratio by WCAG 2.1, section 1.4.3."""
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=["light", "dark"])
def test_every_pair_of_colours_can_be_read(palette):
    for ground in (palette.page, palette.card, palette.picked):
        for ink in (palette.text, palette.second, palette.action):
            assert contrast(ink, ground) >= 4.5, (ink, ground)
    for ground in (palette.page, palette.card):
        assert contrast(palette.third, ground) >= 4.5
        assert contrast(palette.wrong, ground) >= 4.5
        assert contrast(palette.look, ground) >= 4.5
    assert contrast(palette.cold, palette.cold_ground) >= 4.5
    assert contrast(palette.on_action, palette.action) >= 4.5
    assert contrast(palette.rail_idle, palette.rail) >= 4.5
    assert contrast(palette.rail_text, palette.rail) >= 7


def test_shipped_files_are_there(qapp):
    for name in ("shelf", "paste", "folds", "batch", "book", "aplomb", "down-light", "down-dark"):
        assert asset("icons", f"{name}.svg").is_file()
    licences = [p.name for p in asset("fonts").iterdir() if p.name.startswith("OFL")]
    assert sorted(licences) == ["OFL-Fraunces.txt", "OFL-SourceSans3.txt"]
    for theme in (Theme("light", 80), Theme("dark", 200)):
        assert "url(" in theme.style()


@pytest.mark.parametrize(
    ("mm_high", "said"), [(0.7, "200 µm"), (2.0, "1/32 in"), (8.0, "⅛ in"), (60.0, "1 in")]
)
def test_the_scale_bar_is_a_length_of_the_house_s_rule(mm_high, said):
    """In inches halves of one inch, below a 32nd µm; by hand: 0.45 × 8 mm is more than 1/8 in."""
    set_measures("oz", "in", "°F")
    try:
        assert length_text(bar_mm(mm_high)) == said
    finally:
        set_measures("g", "mm", "°C")
