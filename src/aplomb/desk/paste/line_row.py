"""One line of a part, and the bar of what a part is made of."""

from typing import Protocol

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy, QWidget

from aplomb.core.base.figures import weight_text
from aplomb.core.paste.accounts import Parts
from aplomb.core.paste.amounts import typed_as
from aplomb.core.paste.ingredient import STANDING_WORDS, Ingredient
from aplomb.core.paste.line import Line
from aplomb.desk.kit.fields import label, plain_tip
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field, watch_keys

GRAMS, PERCENT = 0, 1
"""Columns of a line that are typed into."""


class ShareBar(QWidget):
    """What a part is made of: flour, water, fat and the rest, side by side."""

    def __init__(self) -> None:
        super().__init__()
        self._shares: list[tuple[float, str]] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        """A thin bar."""
        return QSize(100, 8)

    def show_parts(self, parts: Parts | None) -> None:
        """Show what some lines are made of; nothing when they weigh nothing."""
        p = look.theme.palette
        self._shares = []
        if parts is not None:
            self._shares = [
                (parts.flour, p.dough),
                (parts.water, p.rail_idle),
                (parts.fat, p.fat),
                (parts.other, p.second),
            ]
            self.setToolTip(
                f"flour {parts.flour:.0%} · water {parts.water:.0%} · "
                f"fat {parts.fat:.0%} · other {parts.other:.0%}"
            )
            self.setAccessibleName(self.toolTip())
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the shares."""
        painter = QPainter(self)
        x = 0.0
        for share, color in self._shares:
            painter.fillRect(QRectF(x, 0, share * self.width(), self.height()), QColor(color))
            x += share * self.width()


def note_words(line: Line, material: Ingredient, turn: str = "") -> str:
    """Say what stands beside a line: its turn, its note, how it was written, how rich its fat."""
    words = [each for each in (turn, line.note) if each]
    if line.typed:
        words.append(f"from {line.typed}")
        sure = typed_as(line, material)
        if sure is not None and sure.spread_pct >= 1:
            words.append(f"± {sure.spread_pct:.0f} %")
    if not words and material.is_fat and material.composition.fat < 0.99:
        words.append(f"{100 * material.composition.fat:.0f} % fat")
    return " · ".join(words)


def spread_words(line: Line, material: Ingredient) -> str:
    """Say between what an amount by volume or range likely lies."""
    sure = typed_as(line, material)
    if sure is None or sure.spread_pct < 1 or sure.grams <= 0:
        return ""
    factor = line.grams / sure.grams
    return (
        f"“{line.typed}” read as {weight_text(line.grams)}, likely "
        f"{weight_text(sure.low_g * factor)} to {weight_text(sure.high_g * factor)}"
    )


class LineOwner(Protocol):
    """The part that a line stands in, as far as a line needs it."""

    def take_grams(self, line: Line, text: str) -> None:
        """Take an amount for the line that is shown."""

    def take_percent(self, line: Line, text: str) -> None:
        """Take a percentage on flour for the line that is shown."""

    def show_error(self, reason: str) -> None:
        """Say why something cannot be used."""

    def line_key(self, event: QKeyEvent, index: int, column: int) -> bool:
        """Look at a key first; True when it was dealt with."""

    def line_menu(self, index: int, at: QWidget) -> None:
        """Offer what can be done with a line."""


class LineRow:
    """The widgets of one line, laid into the grid of its part.

    Attributes
    ----------
    line : Line
        The line that is shown: what is typed is for this one, wherever it stands by then.
    """

    def __init__(self, owner: LineOwner, index: int, line: Line, material: Ingredient) -> None:
        self.owner, self.index, self.line = owner, index, line
        self.span = 1
        self.full_name = material.name
        self.name = QPushButton(material.name)
        self.name.setObjectName("line")
        self.name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.name.setAccessibleName(f"{material.name}: more")
        made = f"{material.source} ({STANDING_WORDS[material.standing]})" if material.source else ""
        self.name.setToolTip(
            plain_tip(f"{material.name}\n{made}\nSpace: change, note, move, remove")
        )
        self.name.clicked.connect(lambda _=False: owner.line_menu(index, self.name))
        self.note = label("", "small")
        self.note.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.grams = self._field(f"{material.name}, weight", GRAMS)
        self.percent = self._field(f"{material.name}, percent on flour", PERCENT)
        self.fields = (self.grams, self.percent)

    def _field(self, name: str, column: int) -> Field:
        owner, index = self.owner, self.index
        take = owner.take_grams if column == GRAMS else owner.take_percent
        field = Field(name, lambda text: take(self.line, text), owner.show_error, "cell")
        field.setAlignment(Qt.AlignmentFlag.AlignRight)
        watch_keys(field, lambda event: owner.line_key(event, index, column))
        return field

    def widgets(self) -> tuple[QWidget, ...]:
        """All of them, in the order of the columns."""
        return (self.name, self.note, self.grams, self.percent)
