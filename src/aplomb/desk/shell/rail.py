"""The rail of stages: the one in hand is cut out of it as a tab of the page."""

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QVBoxLayout, QWidget

from aplomb.desk.kit.icons import paint_icon
from aplomb.desk.kit.theme import TITLE, look
from aplomb.work.commands import SHELF, STAGES

MOST_HIGH = 67
"""So high is a tab at the most: eight of them stand in a window of 700 px, at any text [px]."""


class StageTab(QAbstractButton):
    """One stage: number, icon, word, and a tick when it is settled."""

    def __init__(self, number: int, icon: str, word: str) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._icon, self.word, self._number = icon, word, number
        self._settled = False
        self.setText(word)
        self.setCheckable(True)
        self.setAccessibleName(f"{word}, stage {number}")
        self.setToolTip(f"{word}   Alt+{number}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def set_settled(self, settled: bool) -> None:
        """Show the tick or not."""
        if settled != self._settled:
            self._settled = settled
            self.setAccessibleDescription("finished" if settled else "not finished")
            self.update()

    def sizeHint(self) -> QSize:
        """As wide as the rail."""
        return QSize(92, min(40 + look.theme.px(28), MOST_HIGH))

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the tab."""
        p = look.theme.palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        room = QRectF(self.rect())
        if self.isChecked():
            tab = QPainterPath()
            tab.addRoundedRect(room.adjusted(8, 2, 12, -2), 8, 8)
            painter.fillPath(tab, QColor(p.page))
        ink = p.text if self.isChecked() else p.rail_text if self.underMouse() else p.rail_idle
        paint_icon(painter, self._icon, QRectF(room.center().x() - 14, 8, 28, 28), ink)
        painter.setPen(QColor(ink))
        painter.setFont(look.theme.font(14, 600 if self.isChecked() else 400))
        words = QRectF(8, 36, room.width() - 8, room.height() - 40)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, self.word)
        painter.setFont(look.theme.font(11))
        if self._number:
            painter.drawText(QPointF(15, 8 + look.theme.px(11)), str(self._number))
        if self._settled:
            green = p.settled if self.isChecked() else "#9DB890"
            painter.setPen(QPen(QColor(green), 2.4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            x, y = room.right() - 19, 16.0
            painter.drawPolyline([QPointF(x, y), QPointF(x + 4, y + 4), QPointF(x + 11, y - 5)])
        if self.hasFocus():
            painter.setPen(QPen(QColor("#F0C244" if not self.isChecked() else p.action), 2))
            painter.drawRoundedRect(room.adjusted(10, 4, -4, -4), 6, 6)


class Rail(QWidget):
    """All stages, and the button of the book.

    Signals
    -------
    stage_wanted : int
        0 for the first.
    """

    stage_wanted = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 64, 0, 10)
        column.setSpacing(2)
        self._group = QButtonGroup(self)
        self.tabs = []
        for i, (icon, word) in enumerate(STAGES):
            tab = StageTab(i + 1, icon, word)
            self._group.addButton(tab, i)
            self.tabs.append(tab)
            column.addWidget(tab)
        column.addStretch(1)
        self.book = StageTab(0, "book", "Book")
        self.book.setCheckable(False)
        self.book.setAccessibleName("Book: open, copy, print, settings")
        self.book.setToolTip("Book, papers and settings   Alt+B")
        column.addWidget(self.book)
        self._before = SHELF
        self._group.idToggled.connect(self._toggle)
        self._group.idPressed.connect(self._press)
        self._group.idClicked.connect(self._click)
        self._look_changed()

    def _look_changed(self) -> None:
        self.setFixedWidth(max(92, look.theme.px(76)))
        self.update()

    def _toggle(self, number: int, on: bool) -> None:
        if on:
            self.stage_wanted.emit(number)

    def _press(self, _number: int) -> None:
        self._before = self._group.checkedId()

    def _click(self, number: int) -> None:
        if number == self._before:  # from a page beside it, back to the stage
            self.stage_wanted.emit(number)

    def show_stage(self, number: int) -> None:
        """Mark the stage in hand."""
        held = self._group.blockSignals(True)
        self.tabs[number].setChecked(True)
        self._group.blockSignals(held)

    def paintEvent(self, _event: QEvent) -> None:
        """Paint the slate and the name."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(look.theme.palette.rail))
        painter.setPen(QColor("#F3E3BC"))
        painter.setFont(look.theme.font(19, 600, TITLE))
        centred = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextDontClip
        painter.drawText(QRectF(0, 16, self.width(), 34), centred, "Aplomb")
