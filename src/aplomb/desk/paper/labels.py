"""Labels for wrapped blocks, on sheets of labels or one by one."""

from datetime import date, datetime, timedelta
from typing import NamedTuple

from PySide6.QtCore import QLineF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from aplomb.core.base.figures import mass_text
from aplomb.core.base.house import Labels
from aplomb.core.batch.keeping import CLAIMS
from aplomb.core.folds.step import Step, Way
from aplomb.core.paste.formula import block_allergens
from aplomb.core.study.study import Study
from aplomb.desk.kit.theme import TITLE
from aplomb.desk.paper.canvas import UNIT, Canvas
from aplomb.desk.paper.job import Job
from aplomb.desk.paper.page import GREY, INK, font
from aplomb.work.figures.local import date_text, moment_text
from aplomb.work.words.steps import SHARE_NAMES


def use_by(made: date, cold: str) -> date:
    """Give the day a block is used by at the latest, well wrapped."""
    return made + timedelta(days=CLAIMS["paste", "freezer" if cold == "freezer" else "fridge"].days)


class Wrapped(NamedTuple):
    """A block, or a part of one: which it is, and what the block weighs mixed and finished [g]."""

    number: int
    part: int
    grams: float
    finished_g: float


def _masses(study: Study) -> list[tuple[float, float]]:
    """Give what every block weighs as mixed, and when its turns are done [g]."""
    scaled = study.scaled
    kept = scaled.finished_g / scaled.each_g if scaled.each_g > 0 else 0.0
    return [(group.each_g, group.each_g * kept) for group in scaled.block_groups]


def paint_labels(canvas: Canvas, job: Job) -> None:
    """Paint a label for every block, page by page."""
    labels = job.house.labels
    a_page = labels.columns * labels.rows
    blocks = [
        (study, Wrapped(i + 1, part + 1, grams, finished))
        for study in job.studies
        for i, (grams, finished) in enumerate(_masses(study))
        for part in range(study.formula.batch.shares)
    ]
    if not blocks:
        canvas.painter.setFont(font(12))
        canvas.painter.drawText(
            _units(_box(labels, 0)), 0, "There are no blocks in this batch, so nothing to label."
        )
    at = job.first_label % a_page
    for i, (study, wrapped) in enumerate(blocks):
        if i and at == 0:
            canvas.new_page()
        _label(canvas.painter, _box(labels, at), study, wrapped, job)
        at = (at + 1) % a_page


def _box(labels: Labels, at: int) -> QRectF:
    row, column = divmod(at, labels.columns)
    x = labels.left_mm + column * labels.across_mm
    y = labels.top_mm + row * labels.down_mm
    return QRectF(x, y, labels.wide_mm, labels.high_mm)


def _label(p: QPainter, box: QRectF, study: Study, which: Wrapped, job: Job) -> None:
    """Paint the label of a block, or of a part of it, into its box [mm]."""
    f = study.formula
    edge = min(4.0, box.width() * 0.05)
    inner = box.adjusted(edge, edge, -edge, -edge)
    size = min(1.3, box.height() / 54, box.width() / 88)
    p.save()
    p.setClipRect(_units(box))
    y = inner.top()
    y += _write(p, inner, y, f.name, 15 * size, 600, family=TITLE)
    blocks, shares = study.scaled.blocks, f.batch.shares
    said = f"Block {which.number} of {blocks} · {mass_text(which.grams)}"
    if shares > 1:
        name = SHARE_NAMES.get(shares, "part")
        grams = mass_text(which.finished_g / shares)
        said = f"Block {which.number} of {blocks}, {name} {which.part} of {shares} · {grams}"
    y += _write(p, inner, y, said, 13 * size, 600) + 1 * size
    y += _marks(p, inner, y, list(study.plan.steps), size) + 1.5 * size
    moment = datetime.now().astimezone()
    y += _write(p, inner, y, f"Made {moment_text(moment)}", 10.5 * size)
    last = date_text(use_by(moment.date(), job.cold), weekday=True)
    y += _write(p, inner, y, f"Use by {last}, {job.cold}", 12 * size, 700)
    found = block_allergens(f, job.pantry)
    words = "Contains " + ", ".join(found) if found else "No allergens listed for these ingredients"
    _write(p, inner, y, words, 10.5 * size, 600, wrap=True)
    p.restore()


def _units(box: QRectF) -> QRectF:
    return QRectF(box.left() * UNIT, box.top() * UNIT, box.width() * UNIT, box.height() * UNIT)


def _write(
    p: QPainter,
    inner: QRectF,
    y: float,
    words: str,
    points: float,
    weight: int = 400,
    *,
    family: str = "",
    wrap: bool = False,
) -> float:
    face = font(points, weight, family) if family else font(points, weight)
    p.setFont(face)
    p.setPen(INK)
    room = _units(QRectF(inner.left(), y, inner.width(), max(1.0, inner.bottom() - y)))
    if wrap:
        p.drawText(room, Qt.TextFlag.TextWordWrap.value, words)
        return float(p.boundingRect(room, Qt.TextFlag.TextWordWrap.value, words).height() / UNIT)
    shown = p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, round(room.width()))
    p.drawText(room, 0, shown)
    return float(p.fontMetrics().height() / UNIT)


def _marks(p: QPainter, inner: QRectF, y: float, steps: list[Step], size: float) -> float:
    """Turns planned, a box to tick for each with its panels under it; rests as bars between.

    Gives the height it took [mm].
    """
    shown = [step for step in steps if step.is_turn or step.way is Way.REST]
    turns = max(1, sum(step.is_turn for step in shown))
    side = min(8.5 * size, inner.width() / (turns * 1.45 + 1))
    gap = side * 0.3
    x = inner.left()
    p.setFont(font(9 * size))
    for step in shown:
        if step.way is Way.REST:
            p.fillRect(
                _units(QRectF(x, y + side * 0.1, side * 0.16, side * 0.8)), QColor("#2A678C")
            )
            x += side * 0.16 + gap
            continue
        p.setPen(QPen(INK, 0.35 * UNIT))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(_units(QRectF(x, y, side, side)))
        word = str(step.panels) if step.way is not Way.ROLL else "roll"
        p.setPen(GREY)
        p.drawText(
            _units(QRectF(x, y + side + 0.2, side, 4.5 * size)), Qt.AlignmentFlag.AlignHCenter, word
        )
        x += side + gap
    p.setPen(QPen(GREY, 0.2 * UNIT))
    p.drawLine(
        QLineF(
            inner.left() * UNIT,
            (y + side + 4.8 * size) * UNIT,
            inner.right() * UNIT,
            (y + side + 4.8 * size) * UNIT,
        )
    )
    return side + 5.2 * size
