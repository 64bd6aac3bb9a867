"""The section as SVG and PNG: every leaf is there, in its place, and nothing hostile gets in."""

from xml.etree import ElementTree

import pytest
from msgspec.structs import replace
from PySide6.QtGui import QImage

from aplomb.core.base.errors import AplombError
from aplomb.core.paste.formula import Formula
from aplomb.core.study.study import make_study
from aplomb.desk.paper.section import HIGH, WIDE, section_picture
from aplomb.work.commands import FOLDS

SVG = "{http://www.w3.org/2000/svg}"


def test_one_rectangle_a_leaf_and_the_fats_share_of_the_height(qapp, plain, known):
    study = make_study(plain, known)
    root = ElementTree.fromstring(section_picture(study, "svg"))
    leaves = root.findall(f"{SVG}g/{SVG}rect")
    assert len(leaves) == study.readings.fat_leaves == 144
    high = sum(float(leaf.get("height")) for leaf in leaves)
    assert high / HIGH == pytest.approx(study.readings.fat_volume_share, abs=1e-3)
    for leaf in leaves:
        assert 0 <= float(leaf.get("y")) <= HIGH


def test_pieces_are_a_picture_in_the_drawing(qapp, demo, known):
    study = make_study(demo[1], known)
    root = ElementTree.fromstring(section_picture(study, "svg"))
    assert root.find(f"{SVG}image").get("href").startswith("data:image/png;base64,")


def test_a_png_has_the_fats_share_of_its_colour(qapp, plain, known):
    study = make_study(plain, known)
    image = QImage.fromData(section_picture(study, "png"), "PNG")
    assert (image.width(), image.height()) == (2 * WIDE, 2 * HIGH)
    blues = [image.pixelColor(50, y).blue() for y in range(image.height())]
    share = (0xB6 - sum(blues) / len(blues)) / (0xB6 - 0x44)
    assert share == pytest.approx(study.readings.fat_volume_share, abs=0.01)


def test_a_name_cannot_break_the_drawing(qapp, plain, known):
    study = make_study(replace(plain, name='<script>"&'), known)
    root = ElementTree.fromstring(section_picture(study, "svg"))
    assert '<script>"&' in root.find(f"{SVG}title").text


def test_nothing_to_cut_says_so(qapp, known):
    with pytest.raises(AplombError, match="nothing to cut"):
        section_picture(make_study(Formula("x"), known), "svg")


def test_it_is_written_from_the_menu(window, answers, tmp_path):
    for kind in ("svg", "png"):
        answers.path = tmp_path / f"cut.{kind}"
        window.do(f"section {kind}")
        assert answers.path.stat().st_size > 500
    window.show_stage(FOLDS)
    window.folds.ribbon.pick(2)
    answers.path = tmp_path / "turn2.svg"
    window.do("section svg")
    root = ElementTree.fromstring(answers.path.read_bytes())
    assert len(root.findall(f"{SVG}g/{SVG}rect")) == 12  # as it lies after the second turn
    answers.path = tmp_path / "none" / "cut.svg"
    window.papers.give_section("svg")
    assert "cannot write cut.svg" in answers.texts[-1]
