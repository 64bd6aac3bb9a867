"""Drawings of the bench: large, few strokes, read from two metres."""

from collections.abc import Sequence

from msgspec import Struct
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPainterPath, QPen, QPolygonF

from aplomb.core.base.figures import mm_text, rolled_text
from aplomb.core.bench.plan import Sheet
from aplomb.core.folds.step import Step, Way
from aplomb.desk.kit.theme import TEXT

DOUGH, DOUGH_EDGE, FAT, FAT_EDGE = "#EAD9B6", "#CBB284", "#F0C244", "#C99A1B"
GROUND, CARD, LINE = "#1B2127", "#2A333B", "#46525D"
INK, SOFT, COLD, COLD_GROUND = "#FBF6EA", "#CFCBC0", "#A9D0E6", "#20394A"
DARK, WRONG, GOOD = "#171C21", "#F8B8A4", "#A9C99A"
BENCH_PAIRS = (
    (INK, GROUND), (INK, CARD), (SOFT, GROUND), (SOFT, CARD), (COLD, GROUND), (COLD, COLD_GROUND),
    (FAT, GROUND), (FAT, CARD), (DARK, FAT), (WRONG, GROUND), (WRONG, CARD), (GOOD, GROUND),
    (GOOD, CARD), (DARK, COLD), (DARK, DOUGH),
)  # fmt: skip
"""Every pair of ink and ground that text on the bench stands in."""


def bench_font(px: float, weight: int = 400, family: str = TEXT) -> QFont:
    """Give a font by its size on the screen [px]."""
    font = QFont(family)
    font.setPixelSize(max(8, round(px)))
    font.setWeight(QFont.Weight(weight))
    return font


def paint_state(p: QPainter, room: QRectF, key: str) -> None:
    """Paint how a block looks when it is pressed, bent or rolled.

    Parameters
    ----------
    key : str
        Of a state of `aplomb.core.bench.asking`.
    """
    p.save()
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    wide, high = room.width() * 0.86, room.height() * 0.56
    block = QRectF(0, 0, wide, high)
    block.moveCenter(room.center() + QPointF(0, room.height() * 0.1))
    if key == "ball":
        _bowl(p, block, key)
    elif key in ("right", "soft", "smears", "hard"):
        _dented(p, block, {"right": 0.30, "soft": 0.72, "smears": 0.5, "hard": 0.0}[key])
        if key == "smears":
            _drips(p, block)
        _thumb(p, block, {"right": 0.30, "soft": 0.72, "smears": 0.5, "hard": 0.0}[key])
    elif key in ("cracks", "cracks first"):
        _bent(p, block, cracked=True)
    elif key == "draws back":
        _drawn_back(p, block)
    elif key in ("gone", "marbled"):
        _marbled(p, block, there=key == "marbled")
    elif key in ("crumbly", "wet"):
        _bowl(p, block, key)
    else:
        _risen(p, block, key)
    p.restore()


def _leaves(p: QPainter, path: QPainterPath, block: QRectF) -> None:
    p.save()
    p.setClipPath(path)
    p.fillPath(path, QColor(DOUGH))
    for i in range(1, 4):
        y = block.top() + block.height() * i / 4
        p.fillRect(
            QRectF(block.left(), y - block.height() * 0.045, block.width(), block.height() * 0.09),
            QColor(FAT),
        )
    p.restore()
    p.setPen(QPen(QColor(DOUGH_EDGE), 2.5))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(path)


def _dented(p: QPainter, block: QRectF, deep: float) -> None:
    middle, half = block.center().x(), block.width() * 0.13
    down = block.height() * deep
    path = QPainterPath(block.topLeft())
    path.lineTo(middle - half * 1.6, block.top())
    path.cubicTo(
        middle - half, block.top(), middle - half, block.top() + down, middle, block.top() + down
    )
    path.cubicTo(
        middle + half,
        block.top() + down,
        middle + half,
        block.top(),
        middle + half * 1.6,
        block.top(),
    )
    path.lineTo(block.topRight())
    path.lineTo(block.bottomRight())
    path.lineTo(block.bottomLeft())
    path.closeSubpath()
    _leaves(p, path, block)


def _thumb(p: QPainter, block: QRectF, deep: float) -> None:
    half = block.width() * 0.10
    tip = block.top() + block.height() * deep - 3
    path = QPainterPath()
    path.addRoundedRect(
        QRectF(
            block.center().x() - half, tip - block.height() * 0.9, 2 * half, block.height() * 0.9
        ),
        half,
        half,
    )
    p.setPen(QPen(QColor(INK), 3))
    p.setBrush(QColor("#8C6A55"))
    p.drawPath(path)


def _drips(p: QPainter, block: QRectF) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(FAT))
    for share in (0.08, 0.9):
        x = block.left() + block.width() * share
        p.drawEllipse(QRectF(x - 8, block.bottom() - 12, 22, 22))
        p.drawEllipse(QRectF(x + 10, block.bottom() - 4, 12, 12))


def _bent(p: QPainter, block: QRectF, *, cracked: bool) -> None:
    path = QPainterPath(QPointF(block.left(), block.bottom()))
    path.quadTo(
        block.center().x(), block.top() - block.height() * 0.7, block.right(), block.bottom()
    )
    path.lineTo(block.right() - block.width() * 0.2, block.bottom())
    path.quadTo(
        block.center().x(),
        block.top() + block.height() * 0.25,
        block.left() + block.width() * 0.2,
        block.bottom(),
    )
    path.closeSubpath()
    p.fillPath(path, QColor(DOUGH))
    p.setPen(QPen(QColor(DOUGH_EDGE), 2.5))
    p.drawPath(path)
    if cracked:
        p.setPen(QPen(QColor(GROUND), 5))
        top = block.top() + block.height() * 0.12
        for dx, turn in ((-0.16, 8), (0.0, -6), (0.15, 7)):
            x = block.center().x() + block.width() * dx
            y = top + abs(dx) * block.height() * 0.5
            p.drawPolyline(
                [QPointF(x, y - 12), QPointF(x + turn, y + 10), QPointF(x - turn / 2, y + 28)]
            )


def _drawn_back(p: QPainter, block: QRectF) -> None:
    wanted = block.adjusted(0, block.height() * 0.2, 0, -block.height() * 0.2)
    p.setPen(QPen(QColor(SOFT), 3, Qt.PenStyle.DashLine))
    p.drawRect(wanted)
    got = wanted.adjusted(wanted.width() * 0.2, -6, -wanted.width() * 0.2, 6)
    p.fillRect(got, QColor(DOUGH))
    p.setPen(QPen(QColor(INK), 4))
    for x, way in ((wanted.left() + 8, 1), (wanted.right() - 8, -1)):
        y = wanted.center().y()
        end = x + way * wanted.width() * 0.14
        p.drawLine(QPointF(x, y), QPointF(end, y))
        p.drawPolyline(
            [QPointF(end - way * 12, y - 10), QPointF(end, y), QPointF(end - way * 12, y + 10)]
        )


def _marbled(p: QPainter, block: QRectF, *, there: bool) -> None:
    path = QPainterPath()
    path.addRoundedRect(block, 10, 10)
    p.fillPath(path, QColor(DOUGH if there else "#E8CB83"))
    p.setPen(QPen(QColor(DOUGH_EDGE), 2.5))
    p.drawPath(path)
    if not there:
        _drips(p, block)
        return
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(FAT))
    for i in range(11):
        x = block.left() + block.width() * (0.06 + 0.83 * ((i * 0.382) % 1.0))
        y = block.top() + block.height() * (0.1 + 0.72 * ((i * 0.618) % 1.0))
        p.drawRoundedRect(QRectF(x, y, block.width() * 0.12, block.height() * 0.09), 4, 4)


def _bowl(p: QPainter, block: QRectF, key: str) -> None:
    bowl = QPainterPath(block.topLeft())
    bowl.cubicTo(
        block.left() + 10,
        block.bottom() + 20,
        block.right() - 10,
        block.bottom() + 20,
        block.right(),
        block.top(),
    )
    p.setPen(QPen(QColor(SOFT), 4))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(bowl)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(DOUGH))
    if key == "ball":
        ball = QRectF(0, 0, block.width() * 0.52, block.height() * 0.62)
        ball.moveCenter(block.center() + QPointF(0, block.height() * 0.12))
        p.drawRoundedRect(ball, ball.width() * 0.4, ball.height() * 0.45)
        return
    if key == "wet":
        p.drawChord(block.adjusted(24, -block.height() * 0.5, -24, 0), 180 * 16, 180 * 16)
        return
    for i in range(17):
        x = block.left() + block.width() * (0.2 + 0.55 * ((i * 0.381966) % 1.0))
        y = block.top() + block.height() * (0.3 + 0.55 * ((i * i * 0.2718 + i * 0.13) % 1.0))
        p.drawEllipse(QRectF(x, y, 17, 13))


def _risen(p: QPainter, block: QRectF, key: str) -> None:
    """A baked piece: pale, brown outside and raw within, or right."""
    crust = {"pale": "#EBD9A8", "raw": "#8A5527"}.get(key, "#B9783C")
    path = QPainterPath()
    path.addRoundedRect(block.adjusted(20, -block.height() * 0.3, -20, 0), 16, 16)
    p.fillPath(path, QColor(crust))
    p.setPen(QPen(QColor(INK), 2))
    for i in range(1, 6):
        y = block.top() - block.height() * 0.3 + block.height() * 1.3 * i / 6
        p.drawLine(QPointF(block.left() + 20, y), QPointF(block.right() - 20, y))
    if key == "raw":
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(DOUGH))
        p.drawEllipse(block.center(), block.width() * 0.18, block.height() * 0.22)


class SheetPicture(Struct, frozen=True):
    """A sheet on the bench.

    Attributes
    ----------
    step : Step or None
        How it is folded.
    strewn : bool
        Whether something is sprinkled on it.
    """

    sheet: Sheet
    step: Step | None
    strewn: bool = False


def paint_bench_sheet(
    p: QPainter, room: QRectF, picture: SheetPicture, text_px: float, *, fat: bool = False
) -> None:
    """Paint a sheet to scale, its panels, what is spread on it, and where the closed edge lies.

    Parameters
    ----------
    text_px : float
        Size of its words [px].
    fat : bool
        Whether it is a sheet of fat, which has no closed edge.
    """
    p.save()
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setFont(bench_font(text_px, 600))
    line = p.fontMetrics().height()
    last = picture.step is None and not fat
    size = rolled_text(picture.sheet.width_mm, up=last)
    aside = p.fontMetrics().horizontalAdvance(size) + 14
    inner = room.adjusted(4, line * 1.1, -aside, -line * 1.2)
    scale = min(inner.width() / picture.sheet.length_mm, inner.height() / picture.sheet.width_mm)
    sheet = QRectF(0, 0, picture.sheet.length_mm * scale, picture.sheet.width_mm * scale)
    sheet.moveCenter(inner.center())
    p.fillRect(sheet, QColor(FAT if fat else DOUGH))
    step = picture.step
    if step is not None and step.is_turn:
        _panels(p, sheet, step)
    if picture.strewn:
        _sprinkled(p, sheet)
    if not fat:
        p.setPen(QPen(QColor(INK), 6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        p.drawLine(QLineF(sheet.topLeft(), sheet.topRight()))  # its far end lies at the left
        p.setPen(QColor(SOFT))
        p.drawText(
            QRectF(sheet.left(), sheet.top() - line * 1.12, sheet.width() + aside, line),
            Qt.AlignmentFlag.AlignLeft,
            "closed edge, on your right",
        )
    p.setPen(QColor(INK))
    p.drawText(
        QRectF(sheet.left(), sheet.bottom() + line * 0.1, sheet.width(), line),
        Qt.AlignmentFlag.AlignHCenter,
        rolled_text(picture.sheet.length_mm, up=last),
    )
    p.drawText(
        QRectF(sheet.right() + 10, sheet.center().y() - line / 2, aside, line),
        Qt.AlignmentFlag.AlignLeft,
        size,
    )
    p.restore()


def _sprinkled(p: QPainter, sheet: QRectF) -> None:
    """Strew over all of a sheet but its edges."""
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor("#8A5527"))
    for i in range(70):
        x = sheet.left() + sheet.width() * (0.04 + 0.92 * ((i * 0.381966) % 1.0))
        y = sheet.top() + sheet.height() * (0.08 + 0.84 * ((i * 0.7548776) % 1.0))
        p.drawEllipse(QRectF(x, y, 5, 5))


def _panels(p: QPainter, sheet: QRectF, step: Step) -> None:
    if step.way is Way.PORTION:
        covered = step.spread_on
        left = sheet.left() + sheet.width() * covered.start / step.panels
        wide = sheet.width() * len(covered) / step.panels
        p.fillRect(QRectF(left, sheet.top() + 6, wide, sheet.height() - 12), QColor(FAT))
    p.setPen(QPen(QColor(DARK), 2.5, Qt.PenStyle.DashLine))
    if step.way is Way.ROLL:
        return
    for i in range(1, step.panels):
        share = i / step.panels
        if step.way is Way.FOLD and step.panels == 4:  # the ends meet at the middle, or off it
            share = (0.25, 0.5, 0.75)[i - 1]
        x = sheet.left() + sheet.width() * share
        p.drawLine(QPointF(x, sheet.top()), QPointF(x, sheet.bottom()))


def paint_ring(
    p: QPainter,
    room: QRectF,
    share: float,
    words: tuple[str, str, str],
    text_px: float,
    *,
    cold: bool = False,
) -> None:
    """Paint what is left of a time as a ring, with words in it.

    Parameters
    ----------
    share : float
        What is left, 0 to 1 [-].
    words : tuple of str
        Above, in the middle, below.
    text_px : float
        Size of the words beside the figure [px].
    cold : bool
        Whether it is a time in the cold.
    """
    p.save()
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    side = min(room.width(), room.height()) - 8
    ring = QRectF(0, 0, side, side)
    ring.moveCenter(room.center())
    thick = max(10.0, side * 0.075)
    inner = ring.adjusted(thick / 2, thick / 2, -thick / 2, -thick / 2)
    p.setPen(QPen(QColor(LINE), thick, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
    p.drawArc(inner, 0, 360 * 16)
    p.setPen(
        QPen(QColor(COLD if cold else FAT), thick, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
    )
    p.drawArc(inner, 90 * 16, -round(360 * 16 * max(0.0, min(1.0, share))))
    above, figure, below = words
    p.setFont(bench_font(text_px))
    line = p.fontMetrics().height()
    big = text_px * 2.6
    wide = side - 2.6 * thick
    p.setFont(bench_font(big, 600))
    while big > text_px and p.fontMetrics().horizontalAdvance(figure) > wide:
        big -= 2
        p.setFont(bench_font(big, 600))
    p.setPen(QColor(INK))
    p.drawText(ring, Qt.AlignmentFlag.AlignCenter, figure)
    tall = p.fontMetrics().height()
    p.setFont(bench_font(text_px))
    p.setPen(QColor(SOFT))
    for text, y in (
        (above, ring.center().y() - tall / 2 - line * 0.9),
        (below, ring.center().y() + tall / 2 - line * 0.1),
    ):
        room_of = QRectF(ring.left() + thick * 1.4, y, side - 2.8 * thick, line * 1.05)
        shown = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room_of.width()))
        p.drawText(room_of, Qt.AlignmentFlag.AlignCenter, shown)
    p.restore()


def paint_pieces(
    p: QPainter, room: QRectF, form: str, size_mm: float, px_mm: float, text_px: float
) -> None:
    """Paint pieces of fat at their true size on this screen.

    Parameters
    ----------
    form : str
        ``cubes``, ``flakes``, ``crumbs`` or ``gratings``.
    px_mm : float
        Pixels to a millimetre of this screen.
    text_px : float
        Size of its words [px].
    """
    p.save()
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setFont(bench_font(text_px))
    line = p.fontMetrics().height()
    inner = room.adjusted(0, 0, 0, -line * 1.3)
    side = size_mm * px_mm
    wide, high = {"flakes": (1.6, 0.7), "gratings": (2.2, 0.35)}.get(form, (1.0, 1.0))
    p.setPen(QPen(QColor(FAT_EDGE), 2))
    p.setBrush(QColor(FAT))
    x, y, gap = inner.left() + 6, inner.top() + 6, max(10.0, side * 0.45)
    many = 0
    while y + side * high < inner.bottom() and many < 40:
        while x + side * wide < inner.right() and many < 40:
            piece = QRectF(x, y, side * wide, side * high)
            if form == "crumbs":
                p.drawEllipse(piece)
            else:
                p.drawRoundedRect(piece, side * 0.06, side * 0.06)
            x += side * wide + gap
            many += 1
        x, y = inner.left() + 6, y + side * high + gap
    p.setPen(QColor(SOFT))
    p.drawText(
        QRectF(room.left(), room.bottom() - line, room.width(), line),
        Qt.AlignmentFlag.AlignLeft,
        f"{form} of {mm_text(size_mm)}, true size",
    )
    p.restore()


class CurvePicture(Struct, frozen=True):
    """What a probe says beside what was worked out; minutes since the rest began.

    Attributes
    ----------
    predicted : sequence of (minutes, temperature)
        Of the middle [min, °C].
    low_c, high_c : float
        Where it is rolled [°C].
    ready : tuple of (from, to) or None
        When the rest may end [min].
    """

    predicted: Sequence[tuple[float, float]]
    read: Sequence[tuple[float, float]]
    low_c: float
    high_c: float
    now_min: float
    until_min: float
    ready: tuple[float, float] | None
    words: str


def paint_curve(p: QPainter, room: QRectF, picture: CurvePicture, text_px: float) -> None:
    """Paint the live curve against the predicted one, with the range it is rolled in.

    Parameters
    ----------
    text_px : float
        Size of its words [px].
    """
    p.save()
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setFont(bench_font(text_px))
    line = p.fontMetrics().height()
    left = p.fontMetrics().horizontalAdvance("−18°") + 8
    inner = room.adjusted(left, line * 1.2, -8, -line * 1.2)
    temps = [t for _, t in (*picture.predicted, *picture.read)]
    temps += [picture.low_c, picture.high_c]
    low, high = min(temps) - 1.5, max(temps) + 1.5

    def at(minutes: float, temp: float) -> QPointF:
        x = inner.left() + inner.width() * minutes / max(1.0, picture.until_min)
        return QPointF(x, inner.bottom() - inner.height() * (temp - low) / (high - low))

    band = QRectF(at(0, picture.high_c), at(picture.until_min, picture.low_c))
    p.fillRect(band, QColor("#4A4326"))
    if picture.ready is not None:
        from_min, to_min = picture.ready
        shown = QRectF(
            at(from_min, picture.high_c), at(min(to_min, picture.until_min), picture.low_c)
        )
        p.setPen(QPen(QColor(FAT), 2.5))
        p.drawRect(shown)
    p.setPen(QPen(QColor(LINE), 2))
    p.drawRect(inner)
    for temp in (picture.low_c, picture.high_c):
        p.setPen(QColor(FAT))
        p.drawText(
            QRectF(room.left(), at(0, temp).y() - line / 2, left - 8, line),
            Qt.AlignmentFlag.AlignRight,
            f"{temp:.0f}°",
        )
    p.setClipRect(inner)
    p.setPen(QPen(QColor(SOFT), 3, Qt.PenStyle.DashLine))
    p.drawPolyline(QPolygonF([at(*each) for each in picture.predicted]))
    p.setPen(QPen(QColor(COLD), 5))
    p.drawPolyline(QPolygonF([at(*each) for each in picture.read]))
    p.setClipping(False)
    now = at(picture.now_min, low).x()
    p.setPen(QPen(QColor(INK), 2))
    p.drawLine(QPointF(now, inner.top()), QPointF(now, inner.bottom()))
    p.setPen(QColor(INK))
    p.drawText(
        QRectF(room.left(), room.top(), room.width(), line * 1.1),
        Qt.AlignmentFlag.AlignLeft,
        picture.words,
    )
    p.setPen(QColor(SOFT))
    foot = QRectF(inner.left(), inner.bottom() + line * 0.08, inner.width(), line * 1.1)
    p.drawText(foot, Qt.AlignmentFlag.AlignLeft, "0")
    p.drawText(foot, Qt.AlignmentFlag.AlignRight, f"{picture.until_min:.0f} min")
    p.restore()
