"""The batch card on paper: A4, to be read at arm's length with floury hands."""

from collections.abc import Sequence

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor

from aplomb.core.base.figures import (
    g_text,
    mass_unit,
    mm_text,
    weight_text,
)
from aplomb.core.base.house import House
from aplomb.core.batch.scaled import Weighed
from aplomb.core.folds.lessons import lessons_of
from aplomb.core.folds.plan import Enclosure, step_name
from aplomb.core.folds.step import Step, Way
from aplomb.core.make.goal import Goal, goal_of
from aplomb.core.make.make import make_of
from aplomb.core.make.step import Make
from aplomb.core.paste.formula import PART_NAMES, Part, allergens, place_words
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.study import Study
from aplomb.desk.drawings.folded import paint_enclosing, paint_fold
from aplomb.desk.drawings.lesson import paint_lesson
from aplomb.desk.kit.theme import TITLE
from aplomb.desk.paper.canvas import UNIT, Canvas, pdf_of
from aplomb.desk.paper.page import (
    BROWN,
    GREY,
    INK,
    LINE,
    MARGIN,
    WIDE,
    PrintedPage,
    font,
    screen_font,
)
from aplomb.work.figures.typed import reading_text
from aplomb.work.words.making import cautions_of, last_sheets, strewn_in
from aplomb.work.words.measured import line_words
from aplomb.work.words.steps import (
    batch_facts,
    batch_words,
    dough_words,
    portion_g,
    rectangle,
    rest_title,
    trim_words,
    water_words,
)

NOTE_LINE_MM = 4.4
"""Height of a line of a note [mm]; the first stands closer to its name."""
CAUTIONS_MM = 25.0
"""What allergens and cautions take [mm]; the section gives way to them."""


def card_pdf(study: Study, pantry: Pantry, house: House | None = None) -> bytes:
    """Make the batch card.

    A PDF, A4 upright, one page for a usual formula, and one with its folds drawn.
    """
    return pdf_of(
        lambda canvas: paint_card(canvas, study, pantry, house or House()),
        f"Batch card: {study.formula.name}",
    )


def paint_card(
    canvas: Canvas,
    study: Study,
    pantry: Pantry,
    house: House,
    *,
    lessons: bool = True,
    goal: Goal | None = None,
) -> None:
    """Paint the batch card, from its first page on.

    Parameters
    ----------
    lessons : bool
        Whether the folds are drawn step by step on a page of their own.
    goal : Goal or None
        What it is made for; None for what its batch says.
    """
    page = PrintedPage(canvas, study.formula.name)
    goal = goal or goal_of(study.formula)
    make = make_of(study, pantry, house, goal)
    _head(page, study, keep=goal.kind == "keep")
    top = page.y
    _weigh_out(page, study, pantry, house)
    if page.number == 1:
        left_end = page.y
        page.y = top
        _steps(page, study, 106.0, make, pantry)
        page.y = max(page.y, left_end) if page.number == 1 else page.y
    else:
        _steps(page, study, MARGIN, make, pantry)
    _section(page, study)
    _cautions(page, study, pantry, house)
    if lessons:
        _lessons(page, study)


def _head(page: PrintedPage, study: Study, *, keep: bool) -> None:
    f = study.formula
    wide = WIDE - 2 * MARGIN
    page.y += page.text(MARGIN, page.y, wide, f.name, font(25, 600, TITLE)) + 0.5
    if f.purpose:
        page.y += page.text(MARGIN, page.y, wide, f.purpose, font(12), GREY) + 1
    told = batch_words(study, keep=keep)
    page.y += page.text(MARGIN, page.y, wide, told, font(16, 600), wrap=True)
    facts = " · ".join(batch_facts(study))
    if facts:
        page.y += page.text(MARGIN, page.y, wide, facts, font(11.5), wrap=True)
    page.y += 2
    page.rule(page.y)
    page.y += 3


def _weigh_out(page: PrintedPage, study: Study, pantry: Pantry, house: House) -> None:
    part: Part | None = None
    x, wide = MARGIN, 86.0
    for weighed in study.scaled.lines:
        if weighed.part is not part:
            part = weighed.part
            page.room(18)
            page.y += 1.5
            page.y += page.text(x, page.y, wide, PART_NAMES[part], font(15, 600, TITLE)) + 1
        page.room(10)
        material = pantry[weighed.line.material]
        note = [
            line_words(house, material, weighed, weighed.weigh_g),
            place_words(weighed.line, part, study.plan),
            weighed.line.note,
        ]
        if part is Part.DOUGH and material.is_water:
            note.append(water_words(study, pantry))
        _weigh_line(page, weighed, material.name, "; ".join(n for n in note if n), x, wide)
    page.y += 2


def _weigh_line(
    page: PrintedPage, weighed: Weighed, name: str, note: str, x: float, wide: float
) -> None:
    page.tick_box(x, page.y + 0.8)
    grams = g_text(weighed.weigh_g, 2)
    room = 28 if mass_unit() == "g" else 36
    page.text(x + wide - 4 - room, page.y - 0.4, room, grams, font(15, 700), right=True)
    high = page.text(x + 7, page.y, wide - 5 - room, name, font(13), wrap=True)
    if note:
        below = page.text(x + 7, page.y + high - 0.6, wide - 7, note, font(10), GREY, wrap=True)
        more = max(1, round(below / NOTE_LINE_MM)) - 1
        high += 3.6 + more * NOTE_LINE_MM
    page.y += max(6.0, high + 0.5)


def _steps(page: PrintedPage, study: Study, x: float, make: Make, pantry: Pantry) -> None:
    wide = WIDE - MARGIN - x
    page.y += 1.5
    page.y += page.text(x, page.y, wide, "Folds", font(15, 600, TITLE)) + 1
    words = _enclose_words(study)
    _one_step(page, x, wide, f"Enclose: {study.plan.enclosure.value}", words, study, None)
    number = 0
    for place, step in enumerate(study.plan.steps, 1):
        if step.way is Way.REST:
            page.room(7)
            box = QRectF(x * UNIT, (page.y + 0.5) * UNIT, wide * UNIT, 5.6 * UNIT)
            page.painter.fillRect(box, QColor("#DDEAF1"))
            page.text(
                x + 3,
                page.y + 0.4,
                wide - 4,
                f"{rest_title(step)}, until a thumb dents it {mm_text(6)}",
                font(10.5, 600),
                QColor("#24597A"),
            )
            page.y += 7.2
            continue
        if step.way is Way.TRIM:
            _one_step(
                page, x, wide, trim_words(step), ["straight down with a long blade"], study, step
            )
            continue
        number += 1
        size = study.turns[place].size
        closed = "" if step.way is Way.ROLL else "; closed edge right"
        sized = [f"{step_name(step)}{closed}"]
        if size:
            sized.insert(0, f"roll to {rectangle(size.sheet)}, {mm_text(size.sheet.height_mm)}")
        sized += strewn_in(make, pantry, number)
        title = f"Turn {number} of {len(study.plan.turns)}"
        if step.way is Way.PORTION:
            title += f": {weight_text(portion_g(study, place))} of fat"
        _one_step(page, x, wide, title, sized, study, step)
    for title, lines in last_sheets(make):
        page.room(12)
        page.tick_box(WIDE - MARGIN - 4.4, page.y + 0.8)
        page.y += page.text(x, page.y, wide - 6, title, font(13, 600))
        for line in lines:
            page.y += page.text(x, page.y, wide, line, font(11.5), wrap=True)
        page.y += 1
    page.y += 2


def _enclose_words(study: Study) -> list[str]:
    how = study.enclosing
    if how is None:
        return [study.fold_trouble or "No size yet"]
    if how.fat is None:
        if study.in_pieces:
            return ["keep the cold pieces whole; gather, do not knead"]
        portions = study.plan.enclosure is Enclosure.PORTIONS
        return ["no fat yet: it goes in at turns" if portions else "no fat block"]
    if how.shape == "coil":
        thick = study.formula.working.coil_mm
        return [f"sheet {rectangle(how.dough)}, {mm_text(thick)} with its fat", "roll up tight"]
    fat = f"fat {rectangle(how.fat)}, {mm_text(how.fat.height_mm, '.0f')}"
    return [fat, dough_words(how)]


def _one_step(
    page: PrintedPage,
    x: float,
    wide: float,
    title: str,
    words: Sequence[str],
    study: Study,
    step: Step | None,
) -> None:
    page.room(19)
    room = page.screen(x, page.y + 0.5, 23, 14.5)
    if step is None:
        paint_enclosing(page.painter, room, study.enclosing)
    else:
        paint_fold(page.painter, room, step)
    page.painter.restore()
    page.tick_box(WIDE - MARGIN - 4.4, page.y + 0.8)
    y = page.y
    y += page.text(x + 26, y, wide - 32, title, font(13, 600))
    for line in words:
        y += page.text(x + 26, y, wide - 26, line, font(11.5), wrap=True)
    page.y = max(y + 1.4, page.y + 17)


def _lessons(page: PrintedPage, study: Study) -> None:
    """The plan's folds step by step, on a page of their own for who has not done them."""
    page.room(400)
    page.y += page.text(MARGIN, page.y, 180, "The folds, step by step", font(15, 600, TITLE)) + 2
    for lesson in lessons_of(study.plan, study.formula.working.envelope):
        high = 40.0 if any(frame.flaps >= 0 for frame in lesson.frames) else 32.0
        page.room(high + 12)
        page.y += page.text(MARGIN, page.y, 180, lesson.name, font(12, 600))
        page.y += page.text(MARGIN, page.y, 180, lesson.about, font(10.5), GREY) + 1
        room = page.screen(MARGIN, page.y, WIDE - 2 * MARGIN, high)
        paint_lesson(page.painter, room, lesson, screen_font(11, 400), INK, BROWN, 190.0)
        page.painter.restore()
        page.y += high + 4


def _section(page: PrintedPage, study: Study) -> None:
    # NumPy comes with these: beside the window, when a card is painted
    from aplomb.core.folds.raster import Window
    from aplomb.desk.drawings.section import SectionImage, paint_cut, paint_scale

    cut = SectionImage(study, None, study.formula.sheet_mm)
    page.room(40)
    page.rule(page.y)
    page.y += 2
    r = study.readings
    words = f"Section of the final sheet, {mm_text(study.formula.sheet_mm)}"
    page.y += page.text(MARGIN, page.y, 180, words, font(11, 600)) + 1
    if cut.trouble:
        page.y += page.text(MARGIN, page.y, 180, cut.trouble, font(11), GREY) + 2
        return
    below = CAUTIONS_MM + 15
    tall = min(20.0, max(11.0, page.left - below)) if page.left > below else 20.0
    window = Window(0.4, 0.4 + 0.06, 0.46, 0.54)
    for x, wide, part in ((MARGIN, 128.0, Window()), (MARGIN + 134.0, 48.0, window)):
        room = page.screen(x, page.y, wide, tall)
        paint_cut(page.painter, room, cut, part, LINE)
        if part is window:
            paint_scale(
                page.painter,
                room,
                cut.thickness_mm * 0.08,
                screen_font(11),
                INK,
                QColor("#FFFEFB"),
            )
        page.painter.restore()
    page.y += tall + 1
    about = "about " if r.leaves_are_means else ""
    words = (
        f"{about}{reading_text(r.fat_leaves)} fat leaves of {reading_text(r.fat_leaf_um)} µm · "
        f"fat on flour {reading_text(r.fat_product_pct)} % · "
        f"dough water {reading_text(r.dough_water_pct)} % · salt {reading_text(r.salt_pct)} %"
    )
    page.y += page.text(MARGIN, page.y, 182, words, font(11)) + 0.5
    page.y += page.text(MARGIN, page.y, 182, f"Turn line: {study.plan.line()}", font(11)) + 1.5


def _cautions(page: PrintedPage, study: Study, pantry: Pantry, house: House) -> None:
    page.room(CAUTIONS_MM)
    page.rule(page.y)
    page.y += 2
    found = allergens(study.formula, pantry)
    words = "Allergens: " + (", ".join(found) if found else "none listed for these ingredients")
    page.y += page.text(MARGIN, page.y, 182, words, font(13, 700), wrap=True) + 1
    cautions = list(cautions_of(study.formula, pantry, house))
    if study.formula.school == "gluten_free":
        cautions.append(
            "Gluten-free means at most 20 mg/kg in the food as sold (Codex CXS "
            "118-1979): keep bench, pin, belt and dusting flour free of gluten too."
        )
    cautions.append(
        "Local food law, the manufacturers’ instructions and your professional rules come first."
    )
    page.y += page.text(MARGIN, page.y, 182, " ".join(cautions), font(10), GREY, wrap=True) + 1
