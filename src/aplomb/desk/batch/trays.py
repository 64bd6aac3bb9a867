"""Trays, oven loads and fridge spaces; and how large bench, bowl, trays and oven are."""

from functools import partial

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QVBoxLayout

from aplomb.core.base.figures import bare_text, mass_text, num, number_text
from aplomb.core.base.house import ROOM, House
from aplomb.core.base.texts import counted
from aplomb.core.batch.trays import OnTrays
from aplomb.core.kitchen.cut_plan import trays_of
from aplomb.core.make.queue import loads_of_batch
from aplomb.core.paste.formula import Formula, with_product
from aplomb.desk.drawings.tray import paint_tray, tray_words
from aplomb.desk.kit.fields import card, clear, fix_width, label
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.fitted import Fitted
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.house_card import HouseFields
from aplomb.desk.stages.page import Page
from aplomb.work.figures.typed import read_length, read_whole

MOST_SHOWN = 4
"""Trays drawn side by side."""
GAP = 14
"""Between them [px]."""


class TrayView(Fitted):
    """One tray of each product, seen from above."""

    def __init__(self) -> None:
        super().__init__()
        self._trays: tuple[OnTrays, ...] = ()
        self._house = House()
        self.setAccessibleName("Trays")

    def show_trays(self, trays: tuple[OnTrays, ...], house: House) -> None:
        """Show other trays; screen readers get them in words."""
        self._trays, self._house = trays, house
        self.setAccessibleDescription(" ".join(tray_words(t) for t in trays))
        self.fit()

    def height_at(self, width: int) -> int:
        """As high as the trays are, with a line of words below [px]."""
        house = self._house
        high = self._wide(width) * house.tray_wide_mm / house.tray_long_mm
        return round(max(20.0, high)) + self._foot

    @property
    def _foot(self) -> int:
        return look.theme.px(28)

    def _wide(self, width: int) -> float:
        some = len(self._trays[:MOST_SHOWN])
        return (width - GAP * max(0, some - 1)) / max(2, some)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the trays side by side."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide, foot = self._wide(self.width()), self._foot
        for i, tray in enumerate(self._trays[:MOST_SHOWN]):
            room = QRectF(i * (wide + GAP), 0, wide, self.height() - foot)
            bottom = paint_tray(painter, room, tray, self._house)
            painter.setFont(look.theme.font(13))
            painter.setPen(QColor(look.theme.palette.second))
            words = f"{tray.name or 'Pieces'}: {tray.a_tray} per tray"
            shown = painter.fontMetrics().elidedText(
                words, Qt.TextElideMode.ElideRight, round(wide)
            )
            painter.drawText(QRectF(room.left(), bottom + 3, wide, foot), 0, shown)


class TraysPage(Page):
    """What goes on a tray, into the oven and into the fridge."""

    KEY = "trays"
    HINT = "For this formula’s batch, with the sizes in your house settings."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        frame, column = card()
        self._big: QLabel = label("", "big")
        self._words: QLabel = label("", "second")
        for words in (self._big, self._words):
            words.setWordWrap(True)
            words.setMinimumWidth(60)
            column.addWidget(words)
        self.view = TrayView()
        self.table = FigureTable("Trays", 5)
        column.addWidget(self.view)
        column.addWidget(self.table)
        self._grid = QGridLayout()
        self._grid.setColumnStretch(0, 1)
        self._fields: dict[tuple[str, str], Field] = {}
        column.addLayout(self._grid)
        house, house_column = card()
        house_column.addWidget(label("Bench, bowl, trays, oven", "title"))
        self.house = HouseFields(session, ROOM, self.show_error)
        house_column.addLayout(self.house.grid)
        side = QVBoxLayout()
        side.addWidget(house)
        side.addStretch(1)
        self._house_frame: QFrame = house
        self._body.addLayout(self.two_sides(frame, side, (7, 4)))
        self._body.addStretch(1)
        self.refresh()

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        first = next(iter(self._fields.values()), None)
        self.first_focus(first or self.house.fields["tray_long_mm"])

    def refresh(self) -> None:
        """Show the trays of the batch."""
        study, house = self._session.study, self._session.reference.house
        self.house.refresh()
        if study is None:
            return
        trays = trays_of(study, house)
        self.view.show_trays(trays, house)
        many, loads = sum(t.trays for t in trays), len(loads_of_batch(study.formula, trays, house))
        self._big.setText(
            f"{counted(many, '1 tray', '{} trays')}, "
            f"{counted(loads, '1 oven load', '{} oven loads')}"
            if many
            else "Nothing on trays yet"
        )
        self._words.setText(self._notes(trays, many, house))
        rows = [Row("Product", ("pieces", "a tray", "trays", "last", "a full tray"), "head")]
        rows += [
            Row(
                t.name or "Pieces",
                (
                    number_text(t.pieces, 0),
                    number_text(t.a_tray, 0),
                    number_text(t.trays, 0),
                    number_text(t.last, 0),
                    mass_text(t.tray_g),
                ),
            )
            for t in trays
        ]
        self.table.show_rows(tuple(rows))
        self._show_fields(study.formula)

    @staticmethod
    def _notes(trays: tuple[OnTrays, ...], many: int, house: House) -> str:
        notes = []
        notes += [
            f"{tray.name or 'A piece'} is larger than the tray."
            for tray in trays
            if not tray.a_tray
        ]
        if many > house.rack_spaces:
            notes.append(
                f"The fridge has {house.rack_spaces} tray spaces: {many - house.rack_spaces} trays "
                "wait for the first loads to come out, or are cut later."
            )
        elif many:
            notes.append(f"{many} of {house.rack_spaces} tray spaces in the fridge.")
        return " ".join(notes)

    def _show_fields(self, formula: Formula) -> None:
        names = [p.name for p in formula.products]
        if [name for name, key in self._fields if key == "room_mm"] != names:
            clear(self._grid)
            self._fields = {}
            if names:
                for column, words in enumerate(("", "room between, mm", "a tray"), 0):
                    self._grid.addWidget(label(words, "small"), 0, column)
            for i, name in enumerate(names):
                self._grid.addWidget(label(name), i + 1, 0)
                for column, key in ((1, "room_mm"), (2, "a_tray")):
                    field = Field(f"{name}, {key}", partial(self._take, i, key), self.show_error)
                    words = "room between pieces, mm" if key == "room_mm" else "pieces per tray"
                    field.setAccessibleName(f"{name}, {words}")
                    field.setAlignment(Qt.AlignmentFlag.AlignRight)
                    fix_width(field, 84)
                    self._grid.addWidget(field, i + 1, column)
                    self._fields[name, key] = field
        for p in formula.products:
            self._fields[p.name, "room_mm"].show_value(bare_text(p.room_mm, "mm", 1))
            self._fields[p.name, "a_tray"].setPlaceholderText("–")
            self._fields[p.name, "a_tray"].setToolTip("Leave empty for as many as fit")
            self._fields[p.name, "a_tray"].show_value(number_text(p.a_tray, 0) if p.a_tray else "")

    def _take(self, at: int, key: str, text: str) -> None:
        value = read_length(text, zero=True) if key == "room_mm" else read_whole(text)

        self._session.shelf.edit(
            f"trays: {num(value)}", lambda f: with_product(f, at, **{key: value})
        )
