"""The batch card on paper: A4, to be read at arm's length with floury hands."""

from collections.abc import Sequence
from functools import lru_cache

from PySide6.QtCore import QBuffer, QByteArray, QDate, QIODevice, QLocale, QMarginsF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen

from aplomb.core.batch.scale import Weighed
from aplomb.core.folds.lessons import lessons_of
from aplomb.core.folds.plan import Step, Way, step_name
from aplomb.core.folds.raster import Window
from aplomb.core.paste.formula import PART_NAMES, Part, allergens, place_words
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study import Study
from aplomb.desk.drawings.folded import paint_enclosing, paint_fold
from aplomb.desk.drawings.lesson import paint_lesson
from aplomb.desk.drawings.section import Cut, paint_cut, paint_scale
from aplomb.desk.fields import number_text
from aplomb.desk.headline import short
from aplomb.desk.step_words import dough_words, rectangle, trim_words
from aplomb.desk.theme import PAPER_FONTS, TEXT, TITLE, load_fonts

UNIT = 20
"""Painter units a millimetre."""
WIDE, HIGH, MARGIN = 210.0, 297.0, 14.0
"""A4 and its margin [mm]."""
INK, GREY, LINE = QColor("#262C33"), QColor("#5A616A"), QColor("#CFC4AF")
BROWN = QColor("#8E5327")
PX_MM = 0.27
"""Size of a screen pixel when a screen drawing is printed [mm]."""


def font(points: float, weight: int = 400, family: str = TEXT) -> QFont:
    """Give a font for paper: no ligatures or variant letters, so that its text can
    be copied out again."""
    made = QFont(family)
    made.setPixelSize(round(points * 0.3528 * UNIT))
    made.setWeight(QFont.Weight(weight))
    for feature in ("liga", "calt", "clig", "rvrn"):
        made.setFeature(QFont.Tag(feature), 0)
    return made


class Page:
    """A sheet that is written from the top down, turning the page when it is full."""

    def __init__(self, writer: QPdfWriter, painter: QPainter, title: str) -> None:
        self.writer, self.painter, self.title = writer, painter, title
        self.number = 1
        self.y = MARGIN
        self._foot()

    def room(self, mm: float) -> None:
        """Make sure there is room for so many millimetres."""
        if self.y + mm > HIGH - MARGIN - 8:
            self.writer.newPage()
            self.number += 1
            self.y = MARGIN
            self._foot()

    def _foot(self) -> None:
        today = QLocale().toString(QDate.currentDate(), "d MMM yyyy")
        self.text(MARGIN, HIGH - MARGIN - 5, 150, f"{self.title} · printed {today}", font(9), GREY)
        self.text(
            WIDE - MARGIN - 30,
            HIGH - MARGIN - 5,
            30,
            f"page {self.number}",
            font(9),
            GREY,
            right=True,
        )

    def text(
        self, x: float, y: float, wide: float, words: str, face: QFont, color: QColor = INK,
        *, right: bool = False, wrap: bool = False,
    ) -> float:  # fmt: skip
        """Write words at a place [mm]; give the height they took [mm]."""
        p = self.painter
        p.setFont(face)
        p.setPen(color)
        flags = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
        box = QRectF(x * UNIT, y * UNIT, wide * UNIT, (100 if wrap else 12) * UNIT)
        if wrap:
            words_flags = flags.value | Qt.TextFlag.TextWordWrap.value
            took = p.boundingRect(box, words_flags, words).height()
            p.drawText(box, words_flags, words)
            return float(took / UNIT)
        metrics = p.fontMetrics()
        shown = metrics.elidedText(words, Qt.TextElideMode.ElideRight, round(wide * UNIT))
        p.drawText(box, flags.value, shown)
        return float(metrics.height() / UNIT)

    def rule(self, y: float, x: float = MARGIN, wide: float = WIDE - 2 * MARGIN) -> None:
        """Draw a thin line across [mm]."""
        self.painter.setPen(QPen(LINE, 0.25 * UNIT))
        self.painter.drawLine(
            round(x * UNIT), round(y * UNIT), round((x + wide) * UNIT), round(y * UNIT)
        )

    def screen(self, x: float, y: float, wide: float, high: float) -> QRectF:
        """Begin a screen drawing in a box [mm]; ``painter.restore()`` ends it."""
        self.painter.save()
        self.painter.translate(x * UNIT, y * UNIT)
        self.painter.scale(PX_MM * UNIT, PX_MM * UNIT)
        return QRectF(0, 0, wide / PX_MM, high / PX_MM)


@lru_cache(maxsize=1)
def _load_paper_fonts() -> None:
    load_fonts(PAPER_FONTS)


def card_pdf(study: Study, pantry: Pantry) -> bytes:
    """Make the batch card.

    Parameters
    ----------
    study : Study
    pantry : Pantry

    Returns
    -------
    bytes
        A PDF, A4 upright, one page for a usual formula, and one with its folds drawn.
    """
    _load_paper_fonts()
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0), QPageLayout.Unit.Millimeter)
    writer.setResolution(600)
    writer.setTitle(f"Batch card: {study.formula.name}")
    writer.setCreator("Aplomb")
    painter = QPainter(writer)
    painter.scale(600 / 25.4 / UNIT, 600 / 25.4 / UNIT)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    page = Page(writer, painter, study.formula.name)
    _head(page, study)
    top = page.y
    _weigh_out(page, study, pantry)
    if page.number == 1:
        left_end = page.y
        page.y = top
        _steps(page, study, 106.0)
        page.y = max(page.y, left_end) if page.number == 1 else page.y
    else:
        _steps(page, study, MARGIN)
    _section(page, study)
    _cautions(page, study, pantry)
    _lessons(page, study)
    painter.end()
    buffer.close()
    return bytes(data.data())


def _head(page: Page, study: Study) -> None:
    f, scaled = study.formula, study.scaled
    wide = WIDE - 2 * MARGIN
    page.y += page.text(MARGIN, page.y, wide, f.name, font(25, 600, TITLE)) + 0.5
    if f.purpose:
        page.y += page.text(MARGIN, page.y, wide, f.purpose, font(12), GREY) + 1
    if scaled.trouble:
        words = scaled.trouble
    else:
        words = f"{number_text(scaled.pieces, 0)} pieces of {number_text(scaled.piece_g, 1)} g · "
        words += f"{number_text(scaled.paste_g / 1000, 2)} kg of paste"
        if f.batch.blocks > 1:
            words += f" · {f.batch.blocks} blocks of {number_text(scaled.each_g / 1000, 2)} kg"
    page.y += page.text(MARGIN, page.y, wide, words, font(16, 600)) + 2
    page.rule(page.y)
    page.y += 3


def _weigh_out(page: Page, study: Study, pantry: Pantry) -> None:
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
        note = [place_words(weighed.line, part, study.plan), weighed.line.note]
        if part is Part.DOUGH and material.is_water:
            note.append(water_words(study))
        _weigh_line(page, weighed, material.name, "; ".join(n for n in note if n), x, wide)
    page.y += 2


def _weigh_line(page: Page, weighed: Weighed, name: str, note: str, x: float, wide: float) -> None:
    page.painter.setPen(QPen(INK, 0.35 * UNIT))
    page.painter.setBrush(Qt.BrushStyle.NoBrush)
    page.painter.drawRect(QRectF(x * UNIT, (page.y + 0.8) * UNIT, 4.2 * UNIT, 4.2 * UNIT))
    grams = number_text(weighed.weigh_g, 2)
    page.text(x + wide - 28, page.y - 0.4, 24, f"{grams} g", font(15, 700), right=True)
    high = page.text(x + 7, page.y, wide - 33, name, font(13), wrap=True)
    if note:
        page.text(x + 7, page.y + high - 0.6, wide - 14, note, font(10), GREY)
        high += 3.6
    page.y += max(6.2, high + 0.6)


def water_words(study: Study) -> str:
    """Say how cold the water must be, and what ice does it."""
    water, wanted = study.water, study.formula.dough_c
    if water is None:
        return ""
    if not water.reached:
        return f"for {wanted:g} °C: not to be had with water alone"
    if water.ice_g <= 0:
        return f"at {number_text(water.needed_c, 0)} °C, for a dough of {wanted:g} °C"
    ice = number_text(water.ice_g, 0)
    if water.only_ice:
        return f"{ice} g as ice, for a dough of {wanted:g} °C"
    return f"at {number_text(water.needed_c, 0)} °C, or {ice} g ice: dough {wanted:g} °C"


def _steps(page: Page, study: Study, x: float) -> None:
    wide = WIDE - MARGIN - x
    how = study.enclosing
    page.y += 1.5
    page.y += page.text(x, page.y, wide, "Folds", font(15, 600, TITLE)) + 1
    words = [study.fold_trouble or "No size yet"]
    if how is not None and how.shape == "coil":
        thick = study.formula.working.coil_mm
        words = [f"sheet {rectangle(how.dough)}, {thick:g} mm with its fat", "roll up tight"]
    elif how is not None and how.fat is not None:
        words = [
            f"fat {rectangle(how.fat)}, {how.fat.height_mm:.0f} mm",
            dough_words(how),
        ]
    elif how is not None:
        words = [
            "cold pieces stay whole; gather, do not knead" if study.in_pieces else "no fat block"
        ]
    _one_step(page, x, wide, f"Enclose: {study.plan.enclosure.value}", words, study, None)
    number = 0
    for place, step in enumerate(study.plan.steps, 1):
        if step.way is Way.REST:
            page.room(7)
            length = "" if step.rest_min is None else f", {step.rest_min:g} min"
            box = QRectF(x * UNIT, (page.y + 0.5) * UNIT, wide * UNIT, 5.6 * UNIT)
            page.painter.fillRect(box, QColor("#DDEAF1"))
            page.text(
                x + 3,
                page.y + 0.4,
                wide - 4,
                f"Rest in the cold{length}; then a thumb dents 6 mm",
                font(10.5, 600),
                QColor("#24597A"),
            )
            page.y += 7.2
            continue
        if step.way is Way.TRIM:
            _one_step(page, x, wide, trim_words(step), ["straight down with a long blade"],
                      study, step)  # fmt: skip
            continue
        number += 1
        size = study.turns[place].size
        closed = "" if step.way is Way.ROLL else "; closed edge right"
        sized = [f"{step_name(step)}{closed}"]
        if size:
            sized.insert(0, f"roll to {rectangle(size.sheet)}, {size.sheet.height_mm:g} mm")
        _one_step(page, x, wide, f"Turn {number} of {len(study.plan.turns)}", sized, study, step)
    page.y += 2


def _one_step(
    page: Page,
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
    page.painter.setPen(QPen(INK, 0.35 * UNIT))
    page.painter.setBrush(Qt.BrushStyle.NoBrush)
    page.painter.drawRect(
        QRectF((WIDE - MARGIN - 4.4) * UNIT, (page.y + 0.8) * UNIT, 4.2 * UNIT, 4.2 * UNIT)
    )
    y = page.y
    y += page.text(x + 26, y, wide - 32, title, font(13, 600))
    for line in words:
        y += page.text(x + 26, y, wide - 26, line, font(11.5))
    page.y = max(y + 1.4, page.y + 17)


def _lessons(page: Page, study: Study) -> None:
    """The plan's folds step by step, on a page of their own for who has not done them."""
    page.room(400)
    page.y += page.text(MARGIN, page.y, 180, "The folds, step by step", font(15, 600, TITLE)) + 2
    for lesson in lessons_of(study.plan, study.formula.working.envelope):
        high = 40.0 if any(frame.flaps >= 0 for frame in lesson.frames) else 32.0
        page.room(high + 12)
        page.y += page.text(MARGIN, page.y, 180, lesson.name, font(12, 600))
        page.y += page.text(MARGIN, page.y, 180, lesson.about, font(10.5), GREY) + 1
        room = page.screen(MARGIN, page.y, WIDE - 2 * MARGIN, high)
        paint_lesson(page.painter, room, lesson, _screen_font(11, 400), INK, BROWN, 190.0)
        page.painter.restore()
        page.y += high + 4


def _section(page: Page, study: Study) -> None:
    cut = Cut(study, None, study.formula.sheet_mm)
    page.room(40)
    page.rule(page.y)
    page.y += 2
    r = study.readings
    words = f"Section of the final sheet, {study.formula.sheet_mm:g} mm"
    page.y += page.text(MARGIN, page.y, 180, words, font(11, 600)) + 1
    if cut.trouble:
        page.y += page.text(MARGIN, page.y, 180, cut.trouble, font(11), GREY) + 2
        return
    window = Window(0.4, 0.4 + 0.06, 0.46, 0.54)
    for x, wide, part in ((MARGIN, 128.0, Window()), (MARGIN + 134.0, 48.0, window)):
        room = page.screen(x, page.y, wide, 20)
        paint_cut(page.painter, room, cut, part, LINE)
        if part is window:
            paint_scale(
                page.painter,
                room,
                cut.thickness_mm * 0.08,
                _screen_font(11),
                INK,
                QColor("#FFFEFB"),
            )
        page.painter.restore()
    page.y += 21
    about = "about " if r.leaves_are_means else ""
    words = (
        f"{about}{short(r.fat_leaves, 'fat_leaves')} fat leaves of {short(r.fat_leaf_um, '')} µm · "
        f"fat on flour {short(r.fat_product_pct, '')} % · "
        f"dough water {short(r.dough_water_pct, '')} % · salt {short(r.salt_pct, '')} %"
    )
    page.y += page.text(MARGIN, page.y, 182, words, font(11)) + 0.5
    page.y += page.text(MARGIN, page.y, 182, f"Turn line: {study.plan.line()}", font(11)) + 1.5


def _screen_font(px: int, weight: int = 600) -> QFont:
    made = font(10, weight)
    made.setPixelSize(px)
    return made


def _cautions(page: Page, study: Study, pantry: Pantry) -> None:
    page.room(25)
    page.rule(page.y)
    page.y += 2
    found = allergens(study.formula, pantry)
    words = "Allergens: " + (", ".join(found) if found else "none in the materials as listed")
    page.y += page.text(MARGIN, page.y, 182, words, font(13, 700), wrap=True) + 1
    cautions = [
        "Raw flour and raw egg are not eaten. Note how long filled or dairy-rich paste stands out "
        "of the cold. Cool before packing. Hands off sheeter rollers; guards stay on."
    ]
    if study.formula.school == "gluten_free":
        cautions.append(
            "Gluten-free means at most 20 mg/kg in the food as sold (Codex CXS 118-1979): clean "
            "bench, pin, belt and dusting flour too."
        )
    cautions.append("Local food law, the makers’ instructions and licensed practice come first.")
    page.y += page.text(MARGIN, page.y, 182, " ".join(cautions), font(10), GREY, wrap=True) + 1
