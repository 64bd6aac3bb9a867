"""How many fat leaves stand along how many verticals, as a drawn histogram."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPen

from aplomb.core.base.figures import num
from aplomb.core.folds.evenness import Evenness
from aplomb.desk.drawings.folded import FAT, FAT_EDGE
from aplomb.desk.kit.theme import Theme

MOST_BARS = 24


def gathered_bars(
    histogram: tuple[tuple[int, int], ...], most: int = MOST_BARS
) -> list[tuple[int, int, int]]:
    """Gather a histogram into few bars of equal width.

    Parameters
    ----------
    most : int
        Bars.

    Returns
    -------
    list of (least leaves, most leaves, verticals)
        From the fewest leaves to the most, empty bars too.
    """
    if not histogram:
        return []
    low, high = histogram[0][0], histogram[-1][0]
    each = max(1, -(-(high - low + 1) // most))
    bars = [(start, start + each - 1, 0) for start in range(low, high + 1, each)]
    for leaves, many in histogram:
        i = (leaves - low) // each
        bars[i] = (bars[i][0], bars[i][1], bars[i][2] + many)
    return bars


def paint_leaf_chart(painter: QPainter, room: QRectF, even: Evenness, theme: Theme) -> None:
    """Paint the histogram with its mean and spread."""
    p = theme.palette
    small = theme.font(12.5)
    line = QFontMetrics(small).height()
    plot = room.adjusted(4, line + 4, -4, -2 * line - 4)
    bars = gathered_bars(even.histogram)
    tallest = max(many for _, _, many in bars)
    wide = min(plot.width() / len(bars), theme.px(46))
    left = plot.center().x() - wide * len(bars) / 2
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for i, (_, _, many) in enumerate(bars):
        high = plot.height() * many / tallest
        bar = QRectF(left + i * wide + 1, plot.bottom() - high, max(1.0, wide - 2), high)
        painter.setPen(QPen(FAT_EDGE, 1))
        painter.setBrush(FAT)
        if many:
            painter.drawRect(bar)
    painter.setPen(QPen(QColor(p.second), 1.2))
    painter.drawLine(QPointF(plot.left(), plot.bottom()), QPointF(plot.right(), plot.bottom()))
    low, each = bars[0][0], bars[0][1] - bars[0][0] + 1
    at = left + (even.mean - low + 0.5) / each * wide
    painter.setPen(QPen(QColor(p.text), 1.6, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(at, plot.top() - 2), QPointF(at, plot.bottom()))
    painter.setFont(small)
    painter.setPen(QColor(p.second))
    centre = Qt.AlignmentFlag.AlignHCenter
    for i, (first, last, _) in enumerate(bars):
        if i in (0, len(bars) - 1) or (len(bars) <= 8):
            text = f"{first}" if first == last else f"{first}–{last}"
            place = QRectF(left + i * wide - 30, plot.bottom() + 2, wide + 60, line)
            painter.drawText(place, centre, text)
    painter.drawText(
        QRectF(plot.left(), plot.bottom() + line + 2, plot.width(), line),
        centre,
        "fat leaves, top to bottom",
    )
    painter.setFont(theme.font(12.5, 600))
    painter.setPen(QColor(p.text))
    mean = f"average {num(even.mean, '.3g')}"
    room_for = QFontMetrics(painter.font()).horizontalAdvance(mean)
    x = min(max(plot.left(), at - room_for / 2), plot.right() - room_for)
    painter.drawText(QPointF(x, plot.top() - 6), mean)
