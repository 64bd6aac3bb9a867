"""A day's timetable: lanes over the hours, rests with the block's temperature in them."""

from collections.abc import Sequence
from itertools import pairwise

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPen, QPolygonF

from aplomb.core.base.figures import degrees
from aplomb.desk.kit.theme import Theme
from aplomb.work.day.chores import joined_words
from aplomb.work.day.picture import ALONE, Bar, DayPicture, Lane, RestBar

QUIET = 0.12
"""A quiet night is drawn so much shorter than its hours [-]."""
DOUGHS = ("#EAD9B6", "#D8B48A", "#C9CDD0", "#DCC7A0", "#CDB9A6", "#B9BEC2")
"""Grounds of the pastes' bars: doughs and crusts and slate; each paste has its letter besides."""
INK, EDGE = QColor("#262C33"), QColor("#8C7A55")


class Axis(Struct, frozen=True):
    """Elapsed minutes to pixels; quiet nights are shorter.

    Attributes
    ----------
    left, width : float
        Where all of the time lies [px].
    spans : tuple of (from, to, x from, x to)
        [min], and shares of the width.
    """

    left: float
    width: float
    spans: tuple[tuple[int, int, float, float], ...]

    def x(self, minute: float) -> float:
        """Place of a minute [px]."""
        for begin, end, a, b in self.spans:
            if minute <= end or (begin, end) == self.spans[-1][:2]:
                share = (minute - begin) / (end - begin) if end > begin else 0.0
                return self.left + self.width * (a + (b - a) * max(0.0, share))
        return self.left

    def minute(self, x: float) -> float:
        """Minute at a place."""
        share = (x - self.left) / self.width if self.width else 0.0
        for begin, end, a, b in self.spans:
            if share <= b or (begin, end) == self.spans[-1][:2]:
                return begin + (end - begin) * min(1.0, max(0.0, (share - a) / (b - a)))
        return 0.0


def axis_of(picture: DayPicture, left: float, width: float) -> Axis:
    """Lay the time of a picture out over a width.

    Parameters
    ----------
    left, width : float
        [px].
    """
    edges = sorted({picture.start, picture.end, *(e for span in picture.quiet for e in span)})
    parts = []
    for begin, end in pairwise(edges):
        quiet = any(a <= begin and end <= b for a, b in picture.quiet)
        parts.append((begin, end, (end - begin) * (QUIET if quiet else 1.0)))
    whole = sum(part for _, _, part in parts) or 1.0
    spans, at = [], 0.0
    for begin, end, part in parts:
        spans.append((begin, end, at / whole, (at + part) / whole))
        at += part
    return Axis(left, width, tuple(spans))


class Placed(Struct, frozen=True):
    """Where a step or a rest was painted."""

    paste: str
    step: str
    words: str
    rect: tuple[float, float, float, float]
    rest: bool


def row_height(theme: Theme) -> float:
    """Height of one row of rests [px]."""
    return float(theme.px(30))


TALL = 1.35
"""Rows of bars, with words in two lines, are so much higher than rows of rests [-]."""


def _rows(picture: DayPicture) -> float:
    """How many rows of rests all lanes are as high as."""
    return sum(lane.rows * (TALL if lane.bars else 1.0) for lane in picture.lanes)


def needed_height(picture: DayPicture, theme: Theme) -> float:
    """Height in which all lanes stand [px]."""
    return _rows(picture) * row_height(theme) + 6 * len(picture.lanes) + 2.6 * _line(theme)


def _line(theme: Theme) -> float:
    return float(QFontMetrics(theme.font(12.5)).height())


def names_width(theme: Theme) -> float:
    """Width of the lanes' names [px]."""
    return float(QFontMetrics(theme.font(13, 600)).horizontalAdvance("Sheeter") + 16)


def paint_timetable(
    painter: QPainter,
    room: QRectF,
    picture: DayPicture,
    axis: Axis,
    theme: Theme,
    chosen: tuple[str, str] | None = None,
) -> list[Placed]:
    """Paint a timetable.

    Parameters
    ----------
    axis : Axis
        May reach beyond the room, when it is enlarged.
    chosen : tuple of (paste, step), or None
        The step in hand.

    Returns
    -------
    list of Placed
        In the order of painting.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    names = names_width(theme)
    plot = QRectF(room.left() + names, room.top(), room.width() - names, room.height())
    line = _line(theme)
    head = 2.2 * line
    # Rows share what room there is, so that a day stands whole and is no taller than it needs.
    rows = _rows(picture)
    free = room.height() - head - 6 * len(picture.lanes)
    each = max(row_height(theme) * 0.8, min(row_height(theme) * 1.5, free / max(rows, 1)))
    bottom = room.top() + head + rows * each + 6 * len(picture.lanes)
    painter.save()
    painter.setClipRect(plot.adjusted(0, 0, 1, 0))
    ground = QRectF(plot.left(), room.top() + head, plot.width(), bottom - room.top() - head)
    _paint_time(painter, ground, picture, axis, theme, line)
    placed: list[Placed] = []
    y = room.top() + head
    tops = []
    for lane in picture.lanes:
        high = each * (TALL if lane.bars else 1.0)
        tops.append((lane, y, high))
        placed += _paint_lane(painter, lane, y, high, axis, theme, chosen)
        y += lane.rows * high + 6
        painter.setPen(QPen(QColor(theme.palette.line), 1))
        painter.drawLine(QPointF(plot.left(), y - 3), QPointF(plot.right(), y - 3))
    _paint_marks(painter, ground, picture, axis, theme, line)
    painter.restore()
    painter.setFont(theme.font(13, 600))
    painter.setPen(QColor(theme.palette.text))
    for lane, top, high in tops:
        place = QRectF(room.left(), top, names - 8, min(lane.rows * high, 2 * line + 6))
        flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(place, flags, lane.name)
    return placed


def _paint_time(
    painter: QPainter, ground: QRectF, picture: DayPicture, axis: Axis, theme: Theme, line: float
) -> None:
    p = theme.palette
    for begin, end in picture.shut:
        shut = QRectF(axis.x(begin), ground.top(), axis.x(end) - axis.x(begin), ground.height())
        tint = QColor(p.line)
        tint.setAlpha(110)
        painter.fillRect(shut, tint)
    painter.setFont(theme.font(12.5))
    metrics = painter.fontMetrics()
    last, named = -1e9, ""
    for tick in picture.ticks:
        x = axis.x(tick.at)
        quiet = any(a < tick.at < b for a, b in picture.quiet)
        painter.setPen(QPen(QColor(p.handle if tick.day else p.line), 1.4 if tick.day else 1))
        if not quiet or tick.day:
            painter.drawLine(QPointF(x, ground.top()), QPointF(x, ground.bottom()))
        wide = metrics.horizontalAdvance(tick.words)
        if quiet or x - wide / 2 < last + 6:
            continue
        painter.setPen(QColor(p.second))
        left = min(max(x - wide / 2, ground.left()), ground.right() - wide)
        painter.drawText(QRectF(left, ground.top() - line - 3, wide + 4, line), 0, tick.words)
        last = x + wide / 2
        if tick.name != named and ground.left() - 1 <= x < ground.right() - 60:
            named = tick.name
            painter.setPen(QColor(p.text))
            painter.setFont(theme.font(12.5, 600))
            painter.drawText(QRectF(left, ground.top() - 2.1 * line, 80, line), 0, tick.name)
            painter.setFont(theme.font(12.5))


def _paint_marks(
    painter: QPainter, ground: QRectF, picture: DayPicture, axis: Axis, theme: Theme, line: float
) -> None:
    """When things must be ready, and now."""
    p = theme.palette
    painter.setFont(theme.font(12.5, 600))
    taken: dict[int, str] = {}
    for at, letter in picture.ready:
        taken[at] = f"{taken[at]}, {letter}" if at in taken else letter
    last = -1e9
    for at, letters in sorted(taken.items()):
        x = axis.x(at)
        painter.setPen(QPen(QColor(p.settled), 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, ground.top() - 2), QPointF(x, ground.bottom()))
        words = f"{letters} ready"
        wide = painter.fontMetrics().horizontalAdvance(words) + 10
        if x - wide < last + 4:  # no room for the word beside the one before
            words = letters
            wide = painter.fontMetrics().horizontalAdvance(words) + 10
        flag = QRectF(x - wide, ground.top() - 2.15 * line, wide, line)
        _paint_flag(painter, flag, words, QColor(p.card), QColor(p.settled), QColor(p.text))
        last = x
    if picture.now is not None:
        x = axis.x(picture.now)
        painter.setPen(QPen(QColor(p.text), 2))
        painter.drawLine(QPointF(x, ground.top() - 4), QPointF(x, ground.bottom()))
        wide = painter.fontMetrics().horizontalAdvance(picture.now_words) + 12
        flag = QRectF(x - wide / 2, ground.top() - 1.05 * line, wide, line)
        _paint_flag(
            painter, flag, picture.now_words, QColor(p.text), QColor(p.text), QColor(p.page)
        )


def _paint_flag(
    painter: QPainter, room: QRectF, words: str, ground: QColor, edge: QColor, ink: QColor
) -> None:
    painter.setPen(QPen(edge, 1.2))
    painter.setBrush(ground)
    painter.drawRoundedRect(room, 3, 3)
    painter.setPen(ink)
    painter.drawText(room, Qt.AlignmentFlag.AlignCenter, words)


def paste_ground(number: int) -> QColor:
    """Give the ground of a paste's bars and mark, by its number."""
    return QColor(DOUGHS[number % len(DOUGHS)])


def _paint_lane(
    painter: QPainter,
    lane: Lane,
    top: float,
    each: float,
    axis: Axis,
    theme: Theme,
    chosen: tuple[str, str] | None,
) -> list[Placed]:
    placed = []
    for rest in lane.rests:
        rect = _place(rest.start, rest.end, rest.row, top, each, axis)
        _paint_rest(painter, rect, rest, axis, theme, chosen=chosen == (rest.paste, rest.step))
        placed.append(Placed(rest.paste, rest.step, rest.words, _four(rect), rest=True))
    for go in _in_one_go(lane.bars):
        rects = [_place(bar.start, bar.end, bar.row, top, each, axis) for bar in go]
        _paint_go(painter, rects, go, theme)
        for rect, bar in zip(rects, go, strict=True):
            placed.append(Placed(bar.paste, bar.step, bar.words, _four(rect), rest=False))
    _paint_chosen(painter, placed, chosen, theme)
    _paint_free(painter, lane, top, each, axis, theme)
    return placed


def _in_one_go(bars: Sequence[Bar]) -> list[list[Bar]]:
    """Put bars together that are one go, where nothing lies between them in their row."""
    found: list[list[Bar]] = []
    for bar in sorted(bars, key=lambda b: (b.row, b.start)):
        last = found[-1][-1] if found else None
        own = (bar.row, bar.go, bar.past)
        if last is not None and bar.go != ALONE and own == (last.row, last.go, last.past):
            found[-1].append(bar)
        else:
            found.append([bar])
    return found


def _four(rect: QRectF) -> tuple[float, float, float, float]:
    return rect.left(), rect.top(), rect.width(), rect.height()


def _place(start: int, end: int, row: int, top: float, each: float, axis: Axis) -> QRectF:
    left, right = axis.x(start), axis.x(end)
    return QRectF(left, top + row * each + 2, max(2.5, right - left), each - 4)


def _paint_go(painter: QPainter, rects: Sequence[QRectF], go: Sequence[Bar], theme: Theme) -> None:
    """One bar for what is done in one go, notched between its steps and its blocks."""
    whole = rects[0].united(rects[-1])
    first = go[0]
    style = Qt.PenStyle.DashLine if first.past else Qt.PenStyle.SolidLine
    ground = paste_ground(first.number)
    if first.past:
        ground.setAlpha(110)
    painter.setPen(QPen(EDGE, 0.8, style))
    painter.setBrush(ground)
    painter.drawRoundedRect(whole, 4, 4)
    painter.setPen(QPen(EDGE, 1))
    for rect, bar in zip(rects, go, strict=True):
        marks = [rect.left()] if bar is not first else []
        each = rect.width() / bar.blocks
        marks += [rect.left() + each * n for n in range(1, bar.blocks) if each > 3]
        for x in marks:
            high = 5 if x == rect.left() else 3
            painter.drawLine(QPointF(x, whole.top()), QPointF(x, whole.top() + high))
            painter.drawLine(QPointF(x, whole.bottom()), QPointF(x, whole.bottom() - high))
        if bar.held:
            painter.setPen(QPen(INK, 1.6))
            painter.drawLine(rect.topLeft() + QPointF(2, 1), rect.bottomLeft() + QPointF(2, -1))
            painter.setPen(QPen(EDGE, 1))
    on_page = first.past and QColor(theme.palette.page).lightness() < 128
    _paint_words(painter, whole, go, theme, QColor(theme.palette.text) if on_page else INK)


def _paint_words(
    painter: QPainter, whole: QRectF, go: Sequence[Bar], theme: Theme, ink: QColor
) -> None:
    """The letter, and as much of the words as has room."""
    painter.setPen(ink)
    painter.setFont(theme.font(12.5, 600))
    letter = painter.fontMetrics().horizontalAdvance(go[0].letter)
    inner = whole.adjusted(4, 0, -2, 0)
    if letter > inner.width() + 3:
        return
    words = joined_words([(bar.words, bar.blocks) for bar in go])
    plain = theme.font(12)
    metrics = QFontMetrics(plain)
    beside = inner.adjusted(letter + 5, 0, 0, 0)
    middle = Qt.AlignmentFlag.AlignVCenter
    if metrics.horizontalAdvance(words) <= beside.width():
        painter.drawText(inner, middle, go[0].letter)
        painter.setFont(plain)
        painter.drawText(beside, middle, words)
        return
    # In two lines: as many of its words below the letter as fit there.
    parts = words.split(", ")
    told = (
        ", ".join(parts[:n]) + ("" if n == len(parts) else " …") for n in range(len(parts), 0, -1)
    )
    fits = next((w for w in told if metrics.horizontalAdvance(w) <= inner.width() + 1), "")
    if not fits or inner.height() < 2 * metrics.height() + 1:
        painter.drawText(inner, middle, go[0].letter)
        return
    upper, lower = QRectF(inner), QRectF(inner)
    upper.setHeight(inner.height() / 2)
    lower.setTop(upper.bottom())
    painter.drawText(upper, middle, go[0].letter)
    painter.setFont(plain)
    painter.drawText(lower, middle, fits)


def _paint_chosen(
    painter: QPainter, placed: Sequence[Placed], chosen: tuple[str, str] | None, theme: Theme
) -> None:
    for each in placed:
        if chosen == (each.paste, each.step) and not each.rest:
            painter.setPen(QPen(QColor(theme.palette.action), 2.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(*each.rect), 4, 4)


def _paint_free(
    painter: QPainter, lane: Lane, top: float, each: float, axis: Axis, theme: Theme
) -> None:
    """Say how long hands are free, where there is room to."""
    painter.setFont(theme.font(12))
    painter.setPen(QColor(theme.palette.second))
    metrics = painter.fontMetrics()
    for begin, end in lane.free:
        hours, rest = divmod(end - begin, 60)
        words = f"free {hours} h {rest:02d}" if hours else f"free {rest} min"
        room = _place(begin, end, 0, top, each, axis)
        for said in (words, "free"):
            if metrics.horizontalAdvance(said) + 6 <= room.width():
                painter.drawText(room, Qt.AlignmentFlag.AlignCenter, said)
                break


def _paint_rest(
    painter: QPainter, rect: QRectF, rest: RestBar, axis: Axis, theme: Theme, *, chosen: bool
) -> None:
    p = theme.palette
    edge = QColor(p.action) if chosen else QColor(p.cold)
    painter.setPen(QPen(edge, 2.4 if chosen else 0.8))
    painter.setBrush(QColor(p.cold_ground))
    painter.drawRoundedRect(rect, 3, 3)
    painter.setFont(theme.font(12.5, 600))
    metrics = painter.fontMetrics()
    letter = metrics.horizontalAdvance(rest.letter)
    inner = rect.adjusted(4, 1, -3, -1)
    painter.setPen(QColor(p.text))
    if letter <= inner.width():
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, rest.letter)
    if rest.temps:
        _paint_temps(painter, rect, rest, axis, theme)
    if rest.temps and inner.width() > letter + 90:
        painter.setFont(theme.font(12))
        first, last = (
            degrees(round(t)).replace("-", "−") for t in (rest.temps[0][1], rest.temps[-1][1])
        )
        words = f"{first} → {last}{', hard' if rest.hard else ''}"
        painter.setPen(QColor(p.text))
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, words)


def _paint_temps(painter: QPainter, rect: QRectF, rest: RestBar, axis: Axis, theme: Theme) -> None:
    """The mean temperature through the rest, from its warmest to its coldest."""
    span = max(rest.high_c - rest.low_c, 1.0)
    high = rect.height() - 6
    points = [
        QPointF(axis.x(minute), rect.bottom() - 3 - high * (temp - rest.low_c) / span)
        for minute, temp in rest.temps
    ]
    painter.setPen(QPen(QColor(theme.palette.cold), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(QPolygonF(points))
