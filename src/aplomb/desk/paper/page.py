"""A sheet of A4 that is written from the top down, turning the page when it is full."""

from collections.abc import Sequence
from datetime import datetime

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from aplomb.desk.kit.theme import TEXT, TITLE
from aplomb.desk.paper.canvas import A4, UNIT, Canvas
from aplomb.work.figures.local import date_text

WIDE, HIGH = A4
MARGIN = 14.0
"""Of the page [mm]."""
INK, GREY, LINE = QColor("#262C33"), QColor("#5A616A"), QColor("#CFC4AF")
BROWN = QColor("#8E5327")
PX_MM = 0.27
"""Size of a screen pixel when a screen drawing is printed [mm]."""


def font(points: float, weight: int = 400, family: str = TEXT) -> QFont:
    """Give a font for paper.

    No ligatures or variant letters, so that its text can be copied out again.
    """
    made = QFont(family)
    made.setPixelSize(round(points * 0.3528 * UNIT))
    made.setWeight(QFont.Weight(weight))
    for feature in ("liga", "calt", "clig", "rvrn"):
        made.setFeature(QFont.Tag(feature), 0)
    return made


def screen_font(px: int, weight: int = 600) -> QFont:
    """Give a font for a screen drawing on paper [px]."""
    made = font(10, weight)
    made.setPixelSize(px)
    return made


class PrintedPage:
    """Pages of A4 with a foot.

    Parameters
    ----------
    title : str
        Written at the foot.
    """

    def __init__(self, canvas: Canvas, title: str) -> None:
        self.canvas, self.title = canvas, title
        self.number = 1
        self.y = MARGIN
        self._foot()

    @property
    def painter(self) -> QPainter:
        """That of the page in hand."""
        return self.canvas.painter

    def room(self, mm: float) -> None:
        """Make sure there is room for so many millimetres."""
        if mm > self.left:
            self.turn()

    @property
    def left(self) -> float:
        """What is left of the page above its foot [mm]."""
        return HIGH - MARGIN - 8 - self.y

    def turn(self) -> None:
        """Go to the next page."""
        self.canvas.new_page()
        self.number += 1
        self.y = MARGIN
        self._foot()

    def _foot(self) -> None:
        today = date_text(datetime.now().astimezone())
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

    def head(self, title: str, words: str = "", big: str = "") -> None:
        """Write the head of a paper: its name, what it is of, and what matters most."""
        wide = WIDE - 2 * MARGIN
        self.y += self.text(MARGIN, self.y, wide, title, font(25, 600, TITLE)) + 0.5
        if words:
            self.y += self.text(MARGIN, self.y, wide, words, font(12), GREY, wrap=True) + 1
        if big:
            self.y += self.text(MARGIN, self.y, wide, big, font(16, 600), wrap=True) + 2
        self.rule(self.y)
        self.y += 3

    def title_line(self, words: str, x: float = MARGIN, wide: float = WIDE - 2 * MARGIN) -> None:
        """Write a title over what follows."""
        self.room(20)
        self.y += 1.5
        self.y += self.text(x, self.y, wide, words, font(15, 600, TITLE)) + 1

    def text(
        self,
        x: float,
        y: float,
        wide: float,
        words: str,
        face: QFont,
        color: QColor = INK,
        *,
        right: bool = False,
        wrap: bool = False,
    ) -> float:
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

    def tick_box(self, x: float, y: float, side: float = 4.2) -> None:
        """Draw a box to tick [mm]."""
        self.painter.setPen(QPen(INK, 0.35 * UNIT))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        self.painter.drawRect(QRectF(x * UNIT, y * UNIT, side * UNIT, side * UNIT))

    def table(
        self,
        heads: tuple[str, ...],
        rows: Sequence[tuple[str, ...]],
        wides: tuple[float, ...],
        *,
        points: float = 11.5,
        ticked: bool = False,
    ) -> None:
        """Write a table: the first column flush left, all others right [mm].

        Parameters
        ----------
        wides : tuple of float
            Widths of the columns but the first, which takes what is left [mm].
        points : float
            Size of its text.
        ticked : bool
            Whether each row has a box to tick before it.
        """
        off = 7.0 if ticked else 0.0
        first = WIDE - 2 * MARGIN - sum(wides) - off

        def line(cells: tuple[str, ...], face: QFont, color: QColor) -> float:
            x = MARGIN + off
            highs = [self.text(x, self.y, first - 2, cells[0], face, color, wrap=True)]
            x += first
            for cell, wide in zip(cells[1:], wides, strict=True):
                highs.append(self.text(x, self.y, wide, cell, face, color, right=True))
                x += wide
            return max(highs)

        self.room(14)
        self.y += line(heads, font(10), GREY) + 0.6
        self.rule(self.y)
        self.y += 0.8
        for cells in rows:
            self.room(9)
            if ticked:
                self.tick_box(MARGIN, self.y + 0.5, 3.8)
            self.y += max(5.4, line(cells, font(points), INK)) + 0.7

    def screen(self, x: float, y: float, wide: float, high: float) -> QRectF:
        """Begin a screen drawing in a box [mm]; ``painter.restore()`` ends it."""
        self.painter.save()
        self.painter.translate(x * UNIT, y * UNIT)
        self.painter.scale(PX_MM * UNIT, PX_MM * UNIT)
        return QRectF(0, 0, wide / PX_MM, high / PX_MM)
