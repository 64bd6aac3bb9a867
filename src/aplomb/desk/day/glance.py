"""The day at a glance: each baker now and next, what is ready when, the one thing in the way."""

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from aplomb.core.day.plan import DayPlan
from aplomb.desk.drawings.timetable import paste_ground
from aplomb.desk.kit.fields import card, clear, label, row, wrapping
from aplomb.desk.kit.theme import look
from aplomb.work.day.chores import (
    HANDS,
    Chore,
    Ready,
    bakers_of,
    chores_of,
    clock_of,
    lies_words,
    now_and_next,
    ready_of,
)
from aplomb.work.day.view import DayView
from aplomb.work.day.words import InTheWay

MOST_BAKERS = 3
"""So many have a card of their own; the timetable has them all [-]."""
MOST_READY = 4
BROAD_PX = 640
"""Cards stand side by side from so wide on [px at 100 %]."""


class _Letter(QLabel):
    """The mark of a paste: its letter on its ground."""

    def __init__(self) -> None:
        super().__init__()
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def show_letter(self, letter: str, number: int) -> None:
        ground, ink = paste_ground(number).name(), look.theme.palette.ink
        side = look.theme.px(22)
        self.setFixedSize(side, side)
        self.setText(letter)
        self.setStyleSheet(
            f"background: {ground}; color: {ink}; border: 1px solid #8C7A55; border-radius: 4px;"
            "font-weight: 600;"
        )


class _Name(QLabel):
    """A name in the room there is; whole in its tip."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.setObjectName("small")
        self.setMinimumWidth(20)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setToolTip(name)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the name, cut with an ellipsis where it is too long."""
        painter, room = QPainter(self), self.contentsRect()
        cut = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, room.width())
        painter.setPen(self.palette().windowText().color())
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, cut)


class _Line(QWidget):
    """A mark and words beside it."""

    def __init__(self, kind: str) -> None:
        super().__init__()
        self.time, self.letter, self.words = label("", "small"), _Letter(), wrapping("", kind)
        line = row(self.time, self.letter, self.words, spacing=7)
        line.setContentsMargins(0, 0, 0, 0)
        line.setStretch(2, 1)
        self.setLayout(line)

    def show_chore(self, chore: Chore | None, time: str, words: str) -> None:
        self.letter.setVisible(chore is not None)
        if chore is not None:
            self.letter.show_letter(chore.letter, chore.number)
        self.time.setVisible(bool(time))
        self.time.setText(time)
        self.words.setText(words)


class _BakerCard(QFrame):
    """One baker: now and next."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 9, 14, 9)
        column.setSpacing(3)
        self._who, self._left = label("", "small"), label("", "small")
        self._now, self._about = _Line("strong"), wrapping("", "small")
        self._next = _Line("small")
        column.addLayout(row(self._who, None, self._left))
        column.addWidget(self._now)
        column.addWidget(self._about)
        column.addStretch(1)
        column.addWidget(self._next)

    def show_baker(self, view: DayView, who: str, chores: Sequence[Chore], now: int | None) -> None:
        """Show what they do now, or first, and what comes next."""
        here, then = now_and_next(chores, who, now)
        name = "Bench" if who == HANDS else who
        self._who.setText(f"{name}, {'now' if now is not None else 'first'}")
        self._left.setText("")
        if here is None:
            over = now is not None and then is None
            self._now.show_chore(None, "", "Done for the day" if over else "Hands are free")
            until = f"until {clock_of(view, then.start)}" if then else ""
            self._about.setText(until)
        else:
            left = here.end - (here.start if now is None else now)
            self._left.setText(f"{left} min{' left' if now is not None else ''}")
            when = "" if now is not None else clock_of(view, here.start)
            self._now.show_chore(here, when, _begin(here.words))
            self._about.setText(lies_words(view, here))
        self._next.setVisible(then is not None)
        if then is not None:
            self._next.show_chore(then, clock_of(view, then.start), then.words)


def _begin(words: str) -> str:
    return words[:1].upper() + words[1:]


class Glance(QWidget):
    """The cards above the timetable."""

    def __init__(self) -> None:
        super().__init__()
        self.bakers: list[_BakerCard] = []
        self._columns = 0
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(10)
        self._ready_card, column = card(spacing=3)
        column.setContentsMargins(14, 9, 14, 9)
        column.addLayout(row(label("Ready", "small"), None, label("wanted", "small")))
        self._ready = QGridLayout()
        self._ready.setVerticalSpacing(2)
        self._ready.setHorizontalSpacing(9)
        self._ready.setColumnStretch(1, 1)
        column.addLayout(self._ready)
        column.addStretch(1)
        self._way_card, column = card(spacing=3)
        column.setContentsMargins(14, 9, 14, 9)
        self._way, self._why = wrapping("", "strong"), wrapping("", "small")
        column.addWidget(self._way)
        column.addWidget(self._why)
        column.addStretch(1)
        self.setAccessibleName("The day at a glance")
        look.changed.connect(self._arrange)

    def show_day(self, view: DayView, plan: DayPlan, way: InTheWay, now: int | None) -> None:
        """Show a plan as it stands at a minute; None for one that has not begun."""
        who = bakers_of(view)[:MOST_BAKERS]
        while len(self.bakers) < len(who):
            self.bakers.append(_BakerCard(self))
        for extra in self.bakers[len(who) :]:
            extra.hide()
        chores = chores_of(view, plan)
        for frame, name in zip(self.bakers, who, strict=False):
            frame.show_baker(view, name, chores, now)
            frame.show()
        self._show_ready(view, ready_of(view, plan), now)
        self._way.setText(way.what)
        self._why.setText(way.about)
        self._arrange()

    def _show_ready(self, view: DayView, found: Sequence[Ready], now: int | None) -> None:
        clear(self._ready)
        for at, each in enumerate(found[:MOST_READY]):
            mark, name = _Letter(), _Name(each.paste)
            mark.show_letter(each.letter, each.number)
            is_done = now is not None and each.end <= now
            when = label(("✓ " if is_done else "") + clock_of(view, each.end, up=True), "strong")
            wanted = "" if each.wanted is None else f"{view.clock.moment(each.wanted):%H:%M}"
            late = each.spare is not None and each.spare < 0
            for column, widget in enumerate(
                (mark, name, when, label(wanted, "wrong" if late else "small"))
            ):
                self._ready.addWidget(widget, at, column)
        if len(found) > MOST_READY:
            more = label(f"and {len(found) - MOST_READY} more", "small")
            self._ready.addWidget(more, MOST_READY, 1)

    def words(self) -> str:
        """All that the cards say, for tests and screen readers."""
        shown = (w for w in self.findChildren(QLabel) if not w.isHidden() and w.text())
        return "\n".join(each.text() for each in shown)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Side by side where there is room, two by two where there is less."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        cards = [each for each in self.bakers if not each.isHidden()]
        whole: list[QWidget] = [*cards, self._ready_card, self._way_card]
        wide = self.width() >= look.theme.px(BROAD_PX)
        columns = len(whole) if wide and len(whole) <= 4 else 2
        stand = [self._grid.indexOf(each) for each in whole] == list(range(len(whole)))
        if stand and self._columns == columns and self._grid.count() == len(whole):
            return
        self._columns = columns
        while self._grid.count():
            self._grid.takeAt(0)
        for at, each in enumerate(whole):
            self._grid.addWidget(each, at // columns, at % columns)
        for column in range(max(4, columns)):
            self._grid.setColumnStretch(column, 1 if column < columns else 0)
