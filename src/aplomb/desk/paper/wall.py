"""The day as a sheet for the wall: read from the bench, ticked with a pencil, black on white.

One column a baker, at most eight lines in it; the oven's queue and what is ready as bands below.
Only what a baker acts on stands here.
"""

from collections.abc import Sequence
from datetime import date

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen

from aplomb.core.day.plan import DayPlan
from aplomb.desk.kit.theme import TITLE
from aplomb.desk.paper.canvas import UNIT, Canvas, pdf_of
from aplomb.desk.paper.page import font
from aplomb.work.day.chores import (
    HANDS,
    Chore,
    Load,
    bakers_of,
    chores_of,
    clock_of,
    heats_of,
    lies_words,
    loads_of,
    ready_of,
)
from aplomb.work.day.view import DayView, letter_of
from aplomb.work.figures.local import date_text

SHEET = (297.0, 210.0)
"""A4 across, wide and high [mm]."""
EDGE = 11.0
INNER = SHEET[0] - 2 * EDGE
LINES = 8
"""So many lines a column; what is more goes to the next [-]."""
LOADS_A_ROW = 8
LINE_MM, LOAD_MM, BAND_MM = 14.2, 17.0, 15.0
INK, PAPER, GREY, RULE = (QColor(c) for c in ("#14171C", "#FFFFFF", "#4A5058", "#A9ADB2"))
GROUNDS = (PAPER, QColor("#CFCFCF"), INK)
"""Of the pastes' letters, in turn."""


class Column(Struct, frozen=True):
    """What one baker does: a column of the sheet."""

    title: str
    chores: tuple[Chore, ...]


def columns_of(view: DayView, chores: Sequence[Chore]) -> list[Column]:
    """Give the columns of a day: those of each baker, at most eight lines in one.

    What belongs to the oven stands in its own band.
    """
    found = []
    for who in bakers_of(view):
        own = [c for c in chores if c.who == who and not c.is_of_oven]
        name = "Bench" if who == HANDS else who
        for at in range(0, len(own), LINES):
            some = tuple(own[at : at + LINES])
            title = name if not at else f"{name}, from {clock_of(view, some[0].start)}"
            found.append(Column(title, some))
    return found


def days_of(view: DayView, chores: Sequence[Chore]) -> list[date]:
    """Give the days on which anything is done."""
    return sorted({view.clock.moment(c.start).date() for c in chores})


class _Wall:
    def __init__(self, canvas: Canvas, view: DayView, plan: DayPlan, name: str) -> None:
        self.canvas, self.view, self.plan, self.name = canvas, view, plan, name

    @property
    def painter(self) -> QPainter:
        return self.canvas.painter

    def paint(self) -> None:
        chores, is_first = chores_of(self.view, self.plan), True
        for day in days_of(self.view, chores):
            today = [c for c in chores if self._on(c.start, day)]
            columns = columns_of(self.view, today)
            for at in range(0, max(1, len(columns)), 2):
                if not is_first:
                    self.canvas.new_page()
                is_first = False
                self._sheet(day, columns[at : at + 2])

    def _on(self, minute: int, day: date) -> bool:
        return self.view.clock.moment(minute).date() == day

    def _sheet(self, day: date, columns: Sequence[Column]) -> None:
        self._head(day)
        wide = (INNER - 12) / 2 if len(columns) > 1 else INNER
        for at, column in enumerate(columns):
            self._column(EDGE + at * (wide + 12), wide, column)
        loads = [n for n in loads_of(self.view, self.plan) if self._on(n.start, day)]
        rows = -(-len(loads) // LOADS_A_ROW)
        bottom = SHEET[1] - EDGE - BAND_MM
        if len(columns) > 1:
            x, until = EDGE + wide + 6, bottom - rows * (LOAD_MM + 2) - 5
            self._rule(x, 33.0, x, until, 0.5)
        self._ready(bottom, day)
        if loads:
            self._oven(bottom - rows * (LOAD_MM + 2) - 2, day, loads)

    def _head(self, day: date) -> None:
        self._say(EDGE, 9, 118, 16, date_text(day, weekday=True), font(32, 600, TITLE))
        pastes = [p.name for p in self.view.problem.pastes]
        told = "   ".join(f"{letter_of(i)} {name}" for i, name in enumerate(pastes))
        right = Qt.AlignmentFlag.AlignRight
        self._say(EDGE + 120, 9, INNER - 120, 9, told, font(15, 600), align=right)
        self._say(EDGE + 120, 17, INNER - 120, 8, self.name, font(13), GREY, right)
        self._rule(EDGE, 27.5, EDGE + INNER, 27.5, 1.0)

    def _column(self, x: float, wide: float, column: Column) -> None:
        self._say(x, 29, wide, 11, column.title, font(22, 600, TITLE))
        y = 41.0
        for chore in column.chores:
            self._chore(x, y, wide, chore)
            y += LINE_MM
            self._rule(x, y - 0.6, x + wide, y - 0.6, 0.25, RULE)

    def _chore(self, x: float, y: float, wide: float, chore: Chore) -> None:
        under = lies_words(self.view, chore)
        high = 8.6 if under else LINE_MM - 2
        self._say(x, y, 23, high, clock_of(self.view, chore.start), font(22, 700))
        self._letter(x + 24, y + (high - 8) / 2, 8.0, chore.letter, chore.number)
        room = wide - 36 - 12
        self._say(x + 36, y, room, high, chore.words, font(20, 600))
        if under:
            self._say(x + 36, y + high - 0.6, room, 4.8, under, font(12), GREY)
        self._frame(x + wide - 8.5, y + (LINE_MM - 10) / 2, 8.0, 8.0)

    def _oven(self, y: float, day: date, loads: Sequence[Load]) -> None:
        self._rule(EDGE, y - 2, EDGE + INNER, y - 2, 1.0)
        self._say(EDGE, y, 38, 9, "Oven", font(20, 600, TITLE))
        lit = [
            clock_of(self.view, at) for at in heats_of(self.view, self.plan) if self._on(at, day)
        ]
        if lit:
            self._say(EDGE, y + 9, 40, 6, f"heat {', '.join(lit)}", font(12), GREY)
        each = (INNER - 42) / LOADS_A_ROW
        for at, load in enumerate(loads):
            row, place = divmod(at, LOADS_A_ROW)
            x, top = EDGE + 42 + place * each, y + row * (LOAD_MM + 2)
            self._frame(x, top, each - 2.5, LOAD_MM)
            middle = Qt.AlignmentFlag.AlignHCenter
            start = clock_of(self.view, load.start)
            self._say(x, top + 0.8, each - 2.5, 8, start, font(19, 700), align=middle)
            self._letter(x + each / 2 - 10, top + 9, 6.6, load.letter, load.number)
            self._say(x + each / 2 - 2, top + 9, each / 2, 6.6, load.which or "all", font(13, 600))

    def _ready(self, y: float, day: date) -> None:
        self._frame(EDGE, y, INNER, BAND_MM, INK)
        self._say(EDGE + 5, y, 30, BAND_MM, "Ready", font(20, 600, TITLE), PAPER)
        found = ready_of(self.view, self.plan)
        each = (INNER - 36) / max(1, len(found))
        for at, ready in enumerate(found):
            x = EDGE + 36 + at * each
            self._letter(x, y + 3, 9.0, ready.letter, ready.number, inverse=True)
            end = self.view.clock.moment(ready.end)
            when = clock_of(self.view, ready.end, up=True)
            if end.date() != day:
                when = f"{end:%a} {when}"
            self._say(x + 11, y, each * 0.45, BAND_MM, when, font(22, 700), PAPER)
            if ready.wanted is not None:
                want = f"want {self.view.clock.moment(ready.wanted):%H:%M}"
                at_x = x + 12 + min(each * 0.45, self._wide(when, font(22, 700)))
                self._say(at_x, y, x + each - at_x, BAND_MM, want, font(13), PAPER)

    def _wide(self, words: str, face: QFont) -> float:
        return QFontMetricsF(face).horizontalAdvance(words) / UNIT

    def _say(
        self,
        x: float,
        y: float,
        wide: float,
        high: float,
        words: str,
        face: QFont,
        color: QColor = INK,
        align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft,
    ) -> None:
        """Write a line in its room [mm]; smaller where it is too long, and cut at last."""
        least = face.pixelSize() * 0.6
        while self._wide(words, face) > wide and face.pixelSize() > least:
            face.setPixelSize(round(face.pixelSize() * 0.95))
        p = self.painter
        p.setFont(face)
        p.setPen(color)
        room = QRectF(x * UNIT, y * UNIT, wide * UNIT, high * UNIT)
        cut = QFontMetricsF(face).elidedText(words, Qt.TextElideMode.ElideRight, room.width() + 1)
        p.drawText(room, align | Qt.AlignmentFlag.AlignVCenter, cut)

    def _letter(
        self, x: float, y: float, side: float, letter: str, number: int, *, inverse: bool = False
    ) -> None:
        """The mark of a paste: white, grey or black, its letter in it."""
        ground = PAPER if inverse else GROUNDS[number % len(GROUNDS)]
        p = self.painter
        p.setPen(QPen(INK, 0.45 * UNIT))
        p.setBrush(ground)
        room = QRectF(x * UNIT, y * UNIT, side * UNIT, side * UNIT)
        p.drawRoundedRect(room, 1.3 * UNIT, 1.3 * UNIT)
        p.setPen(PAPER if ground == INK else INK)
        p.setFont(font(side * 2.1, 700))
        p.drawText(room, Qt.AlignmentFlag.AlignCenter, letter)

    def _frame(
        self, x: float, y: float, wide: float, high: float, ground: QColor | None = None
    ) -> None:
        """Draw a box [mm]; one that is filled has no edge besides."""
        p = self.painter
        p.setPen(QPen(INK, 0.5 * UNIT) if ground is None else Qt.PenStyle.NoPen)
        p.setBrush(Qt.BrushStyle.NoBrush if ground is None else ground)
        p.drawRoundedRect(QRectF(x * UNIT, y * UNIT, wide * UNIT, high * UNIT), UNIT, UNIT)

    def _rule(
        self, x: float, y: float, to_x: float, to_y: float, thick: float, color: QColor = INK
    ) -> None:
        self.painter.setPen(QPen(color, thick * UNIT))
        self.painter.drawLine(QPointF(x * UNIT, y * UNIT), QPointF(to_x * UNIT, to_y * UNIT))


def paint_wall(canvas: Canvas, view: DayView, plan: DayPlan, name: str) -> None:
    """Paint the sheets of a day, one or more for each day of work."""
    _Wall(canvas, view, plan, name).paint()


def wall_pdf(view: DayView, plan: DayPlan, name: str) -> bytes:
    """Give the sheets for the wall as PDF."""
    return pdf_of(lambda canvas: paint_wall(canvas, view, plan, name), f"Wall: {name}", SHEET)
