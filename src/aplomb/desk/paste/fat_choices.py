"""If the fat were another: the four likeliest at a glance."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QFrame, QLabel, QPushButton, QVBoxLayout, QWidget

from aplomb.core.base.figures import celsius_range, number_text
from aplomb.core.fats.solid import FILM_SFC
from aplomb.core.readings.choices import FatChoice, likely_fats
from aplomb.core.study.study import Study
from aplomb.desk.kit.fields import bare_mnemonic, button, fix_width, label
from aplomb.desk.kit.flow import Flow
from aplomb.desk.session import Session

MOST = 4


class FatChoices(QFrame):
    """Four other fats: how warm each is worked, what it costs, whether it coats the mouth."""

    def __init__(self, session: Session, chosen: Callable[[FatChoice], None]) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session, self._chosen = session, chosen
        self._choices: tuple[FatChoice, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 8, 14, 10)
        column.setSpacing(2)
        column.addWidget(label("If the fat were …", "title"))
        self._cells: list[tuple[QPushButton, QLabel, QLabel]] = []
        for i in range(MOST):
            cells = (
                button("", "link", partial(self._choose, i)),
                label("", "small"),
                label("", "small"),
            )
            column.addLayout(Flow(*cells, spacing=4))
            fix_width(cells[0], 134)
            fix_width(cells[1], 76)
            self._cells.append(cells)

    def refresh(self, study: Study) -> None:
        """Show what fits a study."""
        known, pieces = self._session.reference, study.scaled.written_pieces
        self._choices = likely_fats(study.formula, known.pantry, known.house, pieces)
        self.setVisible(bool(self._choices))
        for i, cells in enumerate(self._cells):
            there = i < len(self._choices)
            for widget in cells:
                widget.setVisible(there)
            if there:
                self._show(cells, self._choices[i])

    def _show(self, cells: tuple[QPushButton, QLabel, QLabel], choice: FatChoice) -> None:
        name, range_, cost = cells
        name.setText(bare_mnemonic(choice.name))
        fat = choice.fat
        degrees = celsius_range(*fat.enclose_c, "–") if fat.enclose_c else ""
        range_.setText(f"≈ {degrees}" if fat.is_blend else degrees)
        words = [] if choice.cost_ratio is None else [f"cost × {number_text(choice.cost_ratio, 2)}"]
        if fat.film_sfc is not None and fat.film_sfc > FILM_SFC:
            words.append("leaves a film")
        elif choice.cost_ratio is None:
            words.append("no price yet")
        cost.setText(" · ".join(words))
        whole = f"{choice.name}, worked at {degrees}, {cost.text()}"
        name.setAccessibleName(f"If the fat were {whole}: compare")
        name.setToolTip("Compare before and after")

    def _choose(self, i: int) -> None:
        if i < len(self._choices):
            self._chosen(self._choices[i])

    def widgets(self) -> list[QWidget]:
        """The buttons, for the order of Tab."""
        return [cells[0] for cells in self._cells]
