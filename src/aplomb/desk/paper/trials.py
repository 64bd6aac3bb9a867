"""Papers of trials: a series' report, a ruler strip for photographs, score sheets for tasting."""

from collections.abc import Sequence

from PySide6.QtCore import QByteArray, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPen

from aplomb.core.trials.tasting import Serving
from aplomb.desk.drawings.trial_chart import paint_trial_chart
from aplomb.desk.kit.theme import Theme
from aplomb.desk.paper.canvas import UNIT, Canvas, pdf_of
from aplomb.desk.paper.page import GREY, INK, MARGIN, WIDE, PrintedPage, font
from aplomb.work.figures.local import day_text
from aplomb.work.trials.chart import TrialChart
from aplomb.work.trials.report import SeriesReport
from aplomb.work.trials.words import made_text, outcome_text

INNER = WIDE - 2 * MARGIN
STRIP_MM = 150
MOST_PRINTED = 6
"""Photographs of a report [-]."""


def paint_report(
    canvas: Canvas, report: SeriesReport, chart: TrialChart | None, pictures: Sequence[bytes]
) -> None:
    """Paint the report of a series.

    Parameters
    ----------
    pictures : sequence of bytes
        As JPEG.
    """
    series = report.series
    page = PrintedPage(canvas, f"Trials · {series.name}")
    page.head(series.name, report.formula, series.question)
    least = outcome_text(series.outcome, series.least, ".3g")
    changed = (
        f"Changed: {series.change_words.lower()}. Measured: {report.outcome.lower()}; differences "
        f"of {least} or more matter."
    )
    page.y += page.text(MARGIN, page.y, INNER, changed, font(11.5), GREY, wrap=True) + 1
    page.title_line("What the trials say")
    for variant in report.variants:
        page.room(12)
        page.y += page.text(MARGIN, page.y, INNER, variant.words, font(12), wrap=True) + 0.8
    besides = {words for variant in report.variants for words in variant.besides}
    if besides:
        words = f"Other differences: {'; '.join(sorted(besides))}."
        page.y += page.text(MARGIN, page.y, INNER, words, font(11), GREY, wrap=True) + 1
    if chart is not None and chart.points:
        high = 78.0
        page.room(high + 4)
        room = page.screen(MARGIN, page.y, INNER, high)
        paint_trial_chart(canvas.painter, room, chart, Theme())
        canvas.painter.restore()
        page.y += high + 2
    if report.band_words:
        page.title_line("Learned from all trials of the book")
        page.y += page.text(MARGIN, page.y, INNER, report.band_words, font(11.5), wrap=True) + 1
    if series.decided:
        page.title_line("Decided")
        page.y += page.text(MARGIN, page.y, INNER, series.decided, font(13, 600), wrap=True) + 1
    _pictures(page, pictures)
    page.title_line("Every trial")
    rows = []
    for line in report.lines:
        t = line.trial
        came = f"failed: {t.failed}" if t.failed else "not measured"
        if not t.failed and line.mean is not None:
            came = outcome_text(series.outcome, line.mean)
        scatter = outcome_text(series.outcome, line.scatter, bare=True)
        mark = " *" if line.stands_out else ""
        rows.append(
            (
                f"{day_text(t.at[:10])}  {t.variant}{mark}",
                made_text(series.change, getattr(t.made, series.change, None)),
                t.made.baker or "–",
                came,
                scatter if line.mean is not None else "",
                str(line.pieces or ""),
            )
        )
    page.table(
        ("Trial", series.change_words, "baker", report.outcome, "±", "of"),
        tuple(rows),
        (26.0, 16.0, 52.0, 14.0, 10.0),
        points=10.5,
    )
    notes = "± is how much the pieces vary. Failed bakes are kept but not counted."
    notes += " * is an outlier, still counted." * any(line.stands_out for line in report.lines)
    page.room(8)
    page.y += page.text(MARGIN, page.y, INNER, notes, font(10), GREY, wrap=True)


def _pictures(page: PrintedPage, pictures: Sequence[bytes]) -> None:
    images = [QImage.fromData(QByteArray(raw)) for raw in pictures[:MOST_PRINTED]]
    images = [image for image in images if not image.isNull()]
    if not images:
        return
    page.title_line("Photographs")
    wide = (INNER - 6) / 2
    for at in range(0, len(images), 2):
        pair = images[at : at + 2]
        highs = [wide * image.height() / max(1, image.width()) for image in pair]
        high = min(70.0, max(highs))
        page.room(high + 3)
        for i, image in enumerate(pair):
            scale = min(wide / image.width(), high / image.height())
            box = QRectF(
                (MARGIN + i * (wide + 6)) * UNIT,
                page.y * UNIT,
                image.width() * scale * UNIT,
                image.height() * scale * UNIT,
            )
            page.painter.drawImage(box, image)
        page.y += high + 3


def report_pdf(report: SeriesReport, chart: TrialChart | None, pictures: Sequence[bytes]) -> bytes:
    """Give the report of a series as PDF."""
    return pdf_of(
        lambda canvas: paint_report(canvas, report, chart, pictures),
        f"Trials: {report.series.name}",
    )


def paint_ruler(canvas: Canvas) -> None:
    """Paint strips with millimetres, to be laid beside what is photographed."""
    page = PrintedPage(canvas, "Ruler strips")
    words = (
        "Print at 100 % (not fitted to the page), check 100 mm with a ruler and cut the "
        "strips out. Lay a strip level with the cut face and photograph from straight "
        "above."
    )
    page.head("Ruler strips", words)
    p = page.painter
    for strip in range(5):
        y = page.y + 8 + 26 * strip
        left = MARGIN + 12
        p.setPen(QPen(INK, 0.3 * UNIT))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(QRectF((left - 5) * UNIT, y * UNIT, (STRIP_MM + 10) * UNIT, 16 * UNIT))
        for mm in range(STRIP_MM + 1):
            long = 9.0 if mm % 10 == 0 else 6.5 if mm % 5 == 0 else 4.0
            p.setPen(QPen(INK, (0.35 if mm % 10 == 0 else 0.2) * UNIT))
            x = (left + mm) * UNIT
            p.drawLine(QPointF(x, y * UNIT), QPointF(x, (y + long) * UNIT))
            if mm % 10 == 0:
                page.text(left + mm - 4, y + 9.6, 12, str(mm), font(9))
        for i, grey in enumerate((255, 170, 85, 0)):
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(QColor(grey, grey, grey))
            p.drawRect(
                QRectF((left + STRIP_MM - 16 + 4 * i) * UNIT, (y + 12) * UNIT, 4 * UNIT, 3 * UNIT)
            )


def ruler_pdf() -> bytes:
    """Give the ruler strips as PDF."""
    return pdf_of(paint_ruler, "Ruler strips")


def paint_tasting(
    canvas: Canvas, question: str, first: str, second: str, servings: Sequence[Serving]
) -> None:
    """Paint score slips for the tasters, then the key for whoever serves.

    Parameters
    ----------
    first, second : str
        The variants.
    """
    page = PrintedPage(canvas, "Tasting")
    page.head("Which is the odd one out?", "One slip per taster: cut them apart")
    for i, serving in enumerate(servings, 1):
        page.room(34)
        page.text(MARGIN, page.y, 60, f"Taster {i}", font(12, 600))
        words = (
            "Taste from left to right. Two are the same. Circle the odd one out; "
            "guess if you have to."
        )
        page.text(MARGIN, page.y + 6, INNER, words, font(10.5), GREY)
        for j, code in enumerate(serving.codes):
            page.text(MARGIN + 8 + 50 * j, page.y + 13, 30, code, font(22, 600))
        page.text(MARGIN, page.y + 25, INNER, "Because: ", font(10.5), GREY)
        page.y += 33
        page.rule(page.y - 1)
    page.turn()
    page.head("Key for the person serving", question or f"{first} against {second}")
    rows = []
    for i, serving in enumerate(servings, 1):
        odd, pair = (first, second) if serving.odd_is_first else (second, first)
        cells = [odd if j == serving.odd else pair for j in range(3)]
        pairs = (f"{c}: {w}" for c, w in zip(serving.codes, cells, strict=True))
        rows.append((f"Taster {i}", *pairs, serving.codes[serving.odd]))
    page.table(
        ("", "left", "middle", "right", "odd one"),
        tuple(rows),
        (46.0, 46.0, 46.0, 22.0),
        points=10.5,
    )
    words = (
        "Tell tasters about allergens before they taste. Serve everything at the same "
        "temperature and in the same light, with water in between."
    )
    page.room(12)
    page.y += 2 + page.text(MARGIN, page.y + 2, INNER, words, font(10.5), GREY, wrap=True)


def tasting_pdf(question: str, first: str, second: str, servings: Sequence[Serving]) -> bytes:
    """Give score slips and their key as PDF."""
    return pdf_of(
        lambda canvas: paint_tasting(canvas, question, first, second, servings), "Tasting"
    )
