"""The Paste stage: dough, fat block, dusting and finish, in grams and percent on flour."""

from msgspec.structs import replace
from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QVBoxLayout,
)

from aplomb.core.paste.formula import Part
from aplomb.desk.fields import (
    grams_text,
    label,
    number_text,
    row,
)
from aplomb.desk.part_card import GRAMS, PartCard
from aplomb.desk.session import Session
from aplomb.desk.stages.stage import Stage
from aplomb.desk.theme import Theme


class PasteStage(Stage):
    """The formula as a formulator writes it."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        inner = self._inner
        self._school = QComboBox()
        self._school.setAccessibleName("Kind of paste, for the bands")
        for key, school in session.reference.schools.items():
            self._school.addItem(school.name.capitalize(), key)
        self._school.activated.connect(self._take_school)
        self._batch = label("", "second")
        self._batch.setWordWrap(True)
        self._batch.setMinimumWidth(60)
        self._batch.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.cards = {part: PartCard(session, theme, part) for part in Part}
        self._top = row(label("Held against", "second"), self._school, self._batch)
        self._top.setStretch(2, 1)
        self._grid = QGridLayout()
        self._grid.setSpacing(14)
        column = QVBoxLayout(inner)
        column.setContentsMargins(24, 12, 18, 4)
        column.setSpacing(10)
        column.addLayout(self._top)
        column.addLayout(self._grid)
        column.addStretch(1)
        self._narrow: bool | None = None
        self._arrange()
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Take another palette or size of text."""
        self._theme = theme
        for part in self.cards.values():
            part.set_theme(theme)
        self._narrow = None
        self._arrange()

    def _arrange(self) -> None:
        narrow = self.viewport().width() < self._theme.px(760)
        if narrow == self._narrow:
            return
        self._narrow = narrow
        for part in self.cards.values():
            self._grid.removeWidget(part)
        if narrow:
            for i, part in enumerate(self.cards.values()):
                self._grid.addWidget(part, i, 0)
        else:
            top = Qt.AlignmentFlag.AlignTop
            self._grid.addWidget(self.cards[Part.DOUGH], 0, 0, 3, 1, top)
            for i, key in enumerate((Part.BLOCK, Part.DUSTING, Part.FINISH)):
                self._grid.addWidget(self.cards[key], i, 1, top)
        self._grid.setColumnStretch(0, 1)
        self._grid.setColumnStretch(1, 0 if narrow else 1)
        self._grid.setRowStretch(2, 1)

    def resizeEvent(self, event: QEvent) -> None:
        """One column when it is narrow."""
        super().resizeEvent(event)
        self._arrange()
        QTimer.singleShot(0, self, self.refresh)

    def _take_school(self, at: int) -> None:
        key = self._school.itemData(at)
        self._session.edit(
            f"held against {self._school.itemText(at).lower()}", lambda f: replace(f, school=key)
        )

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.cards[Part.DOUGH].focus_line(0, GRAMS)

    def refresh(self) -> None:
        """Show the formula in hand."""
        study = self._session.study
        self.widget().setEnabled(study is not None)
        if study is None:
            return
        at = self._school.findData(study.formula.school)
        self._school.setCurrentIndex(at)
        scaled = study.scaled
        self._batch.setText(
            scaled.trouble
            or f"As written {grams_text(study.accounts.paste_g)} g of paste; the batch is "
            f"{number_text(scaled.factor, 3)} × this, {number_text(scaled.pieces, 0)} pieces"
        )
        for part in self.cards.values():
            part.refresh(study)
