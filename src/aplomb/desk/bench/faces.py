"""What stands in the middle of the bench's screen: a step, a question, a trouble, an entry."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from aplomb.desk.bench.tiles import LEAST_TEXT
from aplomb.desk.drawings.bench import CARD, FAT, INK, LINE, SOFT, bench_font, paint_state

Paint = Callable[[QPainter, QRectF], None]


def words(kind: str) -> QLabel:
    """Make a label of the bench that wraps."""
    made = QLabel()
    made.setObjectName(kind)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setWordWrap(True)
    made.setMinimumWidth(80)
    made.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
    return made


class Picture(QWidget):
    """Paints what it is given."""

    def __init__(self) -> None:
        super().__init__()
        self._paint: Paint | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_picture(self, paint: Paint | None, said: str) -> None:
        """Show something else, and what a screen reader says of it."""
        self._paint = paint
        self.setAccessibleName(said)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint it."""
        if self._paint is not None:
            p = QPainter(self)
            self._paint(p, QRectF(self.rect()))


class StepFace(QWidget):
    """A step: what to do at the left, below it the sheet; a clock or a curve at the right."""

    def __init__(self) -> None:
        super().__init__()
        self.block, self.title = words("block"), words("step")
        self.todo, self.stop = words("todo"), words("stop")
        self.counted, self.caution = words("counted"), words("caution")
        self.tally, self.how = words("tally"), words("head")
        self.drawing, self.clock = Picture(), Picture()
        left = QVBoxLayout()
        left.setSpacing(4)
        for each in (self.block, self.title, self.todo, self.stop, self.counted):
            left.addWidget(each)
        left.addWidget(self.drawing, 1)
        left.addWidget(self.caution)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(18)
        right = QVBoxLayout()
        right.setSpacing(2)
        for each in (self.tally, self.how):
            each.setAlignment(Qt.AlignmentFlag.AlignHCenter)
            right.addWidget(each)
        right.addWidget(self.clock, 1)
        whole.addLayout(left, 62)
        whole.addLayout(right, 38)


class Choice(QAbstractButton):
    """An answer: its digit, a picture of it, and its words."""

    def __init__(self, digit: str, key: str, said: str, pictured: bool, u: float) -> None:
        super().__init__()
        self._digit, self._key, self._pictured, self._u = digit, key, pictured, u
        self.setText(said)
        self.setAccessibleName(f"{digit}: {said}")
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        """Large enough for a finger."""
        return QSize(round(200 * self._u), round((170 if self._pictured else 62) * self._u))

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint it."""
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        u, room = self._u, QRectF(self.rect()).adjusted(1, 1, -1, -1)
        p.setPen(QPen(QColor(LINE), 1.5))
        p.setBrush(QColor(CARD))
        p.drawRoundedRect(room, 10 * u, 10 * u)
        p.setFont(bench_font(LEAST_TEXT * 1.25 * u, 700))
        p.setPen(QColor(FAT))
        digit = QRectF(room.left() + 14 * u, room.top() + 6 * u, 40 * u, 42 * u)
        p.drawText(digit, Qt.AlignmentFlag.AlignLeft, self._digit.upper())
        p.setFont(bench_font(LEAST_TEXT * u, 600))
        p.setPen(QColor(INK))
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom
        text = room.adjusted(12 * u, 0, -12 * u, -8 * u)
        if self._pictured:
            paint_state(p, room.adjusted(30 * u, 6 * u, -30 * u, -78 * u), self._key)
        else:
            flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
            text = room.adjusted(52 * u, 4 * u, -8 * u, -4 * u)
        p.setPen(QColor(INK))
        p.drawText(text, flags | Qt.TextFlag.TextWordWrap, self.text())


class ChoiceFace(QWidget):
    """A question and its answers, each with a digit."""

    def __init__(self) -> None:
        super().__init__()
        self.title, self.hint = words("step"), words("stop")
        self._grid = QGridLayout()
        self._grid.setSpacing(10)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.title)
        column.addWidget(self.hint)
        column.addLayout(self._grid, 1)
        self._keys: list[str] = []
        self._shown: object = None

    def offer(
        self,
        title: str,
        hint: str,
        choices: Sequence[tuple[str, str, str]],
        u: float,
        take: Callable[[str], None],
        *,
        pictured: bool,
    ) -> None:
        """Show a question; `choices` are keys, words and pictures."""
        self.title.setText(title)
        self.hint.setText(hint)
        self.hint.setVisible(bool(hint))
        now = (tuple(choices), u, pictured)
        if now == self._shown:
            return
        self._shown = now
        while (item := self._grid.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()
        self._keys = [key for key, *_ in choices]
        columns = 3 if pictured else 2
        for i, (key, said, drawn) in enumerate(choices):
            made = Choice(digit_of(i), drawn, said, pictured, u)
            made.clicked.connect(lambda _=False, key=key: take(key))
            self._grid.addWidget(made, i // columns, i % columns)

    def key_of(self, typed: str) -> str:
        """Give the key of the answer whose digit was typed; empty for none."""
        return next((k for i, k in enumerate(self._keys) if digit_of(i) == typed.lower()), "")


def digit_of(at: int) -> str:
    """Give the sign that stands before an answer: 1 to 9, then letters."""
    return "123456789abcdefgh"[at] if at < 17 else "?"


class _Line(QLineEdit):
    """One large line to type in; Escape leaves it."""

    def __init__(self, leave: Callable[[], None]) -> None:
        super().__init__()
        self._leave = leave

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Leave by Escape, and by Backspace when nothing stands there."""
        empty = event.key() == Qt.Key.Key_Backspace and not self.text()
        if event.key() == Qt.Key.Key_Escape or empty:
            self._leave()
            return
        super().keyPressEvent(event)
        event.accept()  # what is typed here is no key of the bench, Enter least of all


class EntryFace(QWidget):
    """Something to type: its name, a large line, what it may be, and what was wrong."""

    def __init__(self, take: Callable[[str], None], leave: Callable[[], None]) -> None:
        super().__init__()
        self.title, self.hint, self.wrong = words("step"), words("todo"), words("caution")
        self.line = _Line(leave)
        self.line.setObjectName("entry")
        self.line.returnPressed.connect(lambda: take(self.line.text()))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(12)
        for each in (self.title, self.line, self.hint, self.wrong):
            column.addWidget(each)
        column.addStretch(1)

    def ask(self, title: str, hint: str, text: str = "") -> None:
        """Ask for something."""
        self.title.setText(title)
        self.hint.setText(hint)
        self.wrong.setText("")
        self.line.setAccessibleName(title)
        self.line.setText(text)
        self.line.selectAll()
        self.line.setFocus(Qt.FocusReason.OtherFocusReason)


class BlockChip(QWidget):
    """A block in the row at the top: its letter, its turns, and how it stands."""

    def __init__(self) -> None:
        super().__init__()
        self._state = ("", "", "", "")
        self._u = 1.0
        self._picked = False
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def show_block(
        self, key: str, tally: str, clock: str, how: str, u: float, *, picked: bool
    ) -> None:
        """Show a block: its key, turns, clock, and ``cold``, ``open``, ``due`` or nothing."""
        now = (key, tally, clock, how)
        if (now, u, picked) != (self._state, self._u, self._picked):
            self._state, self._u, self._picked = now, u, picked
            said = {"cold": "chilling", "open": "out of the cold", "due": "needs you"}.get(how, "")
            self.setAccessibleName(" ".join(w for w in (key, tally, clock, said) if w))
            self.updateGeometry()
            self.update()

    def _text(self) -> str:
        return "  ".join(each for each in self._state[1:3] if each)

    def sizeHint(self) -> QSize:
        """As wide as its words."""
        from PySide6.QtGui import QFontMetricsF

        metrics = QFontMetricsF(bench_font(LEAST_TEXT * self._u, 600))
        wide = metrics.horizontalAdvance(self._state[0]) + metrics.horizontalAdvance(self._text())
        return QSize(round(wide + 58 * self._u), round(46 * self._u))

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint it."""
        from aplomb.desk.drawings.bench import COLD, COLD_GROUND, GROUND, WRONG

        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        u, room = self._u, QRectF(self.rect()).adjusted(2, 2, -2, -2)
        how = self._state[3]
        p.setBrush(QColor(COLD_GROUND if how == "cold" else CARD))
        edge = FAT if self._picked else LINE
        p.setPen(QPen(QColor(edge), 3 if self._picked else 1.5))
        p.drawRoundedRect(room, 9 * u, 9 * u)
        p.setFont(bench_font(LEAST_TEXT * u, 700))
        p.setPen(QColor(COLD if how == "cold" else FAT if how == "due" else INK))
        wide = p.fontMetrics().horizontalAdvance(self._state[0])
        left = room.adjusted(14 * u, 0, 0, 0)
        middle = Qt.AlignmentFlag.AlignVCenter
        p.drawText(left, middle, self._state[0])
        p.setFont(bench_font(LEAST_TEXT * u))
        p.setPen(QColor(WRONG if self._state[2].startswith("−") else SOFT))
        p.drawText(left.adjusted(wide + 12 * u, 0, 0, 0), middle, self._text())
        if how == "open":  # a mark of its own: it lies open
            p.setPen(QPen(QColor(GROUND), 0))
            p.setBrush(QColor(FAT))
            p.drawEllipse(QRectF(room.right() - 17 * u, room.top() + 6 * u, 11 * u, 11 * u))
