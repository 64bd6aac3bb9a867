"""One part of a formula: its lines in grams and percent on flour, a field to add one, the total."""

from functools import partial

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QMenu,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import grams_text
from aplomb.core.paste.accounts import part_sum, parts_of
from aplomb.core.paste.formula import (
    PART_NAMES,
    Part,
    place_words,
)
from aplomb.core.paste.line import Line
from aplomb.core.study.study import Study
from aplomb.desk.kit.fields import bare_mnemonic, label, let_go, plain_tip
from aplomb.desk.kit.find_field import MaterialField, ask_material
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.paste.line_row import GRAMS, LineRow, ShareBar, note_words, spread_words
from aplomb.desk.session import Session
from aplomb.desk.stages.asking import ask_text
from aplomb.work.edits.lines import LineEdits
from aplomb.work.figures.typed import percent_text

LARGE_TEXT = 1.6
"""Scale of text from which a head has no room for more than its title [-]."""

CELL_INSET = 11
"""From the edge of a cell to its figures [px]."""


class PartCard(QFrame):
    """One part of the formula: its lines, a field to add one, and the total.

    Signals
    -------
    swap_wanted : int
        Place of the line that is to be swapped.
    """

    swap_wanted = Signal(int)

    def __init__(self, session: Session, part: Part) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self.setObjectName("card")
        self._session, self._part = session, part
        self.rows: list[LineRow] = []
        self.edits = LineEdits(session.work, part, lambda: [shown.line for shown in self.rows])
        self._structure: object = None
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 12)
        column.setSpacing(4)
        filling = part is Part.FILLING
        self._unit = label("g per piece" if filling else "g", "small")
        self._percent = label("% on flour", "small")
        for head in (self._unit, self._percent):
            head.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom)
            head.setContentsMargins(0, 0, CELL_INSET, 0)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(6)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnStretch(0, 5)
        self._grid.setColumnStretch(1, 4)
        self._head = QHBoxLayout()
        self._head.setSpacing(6)
        self._title = Flow(label(PART_NAMES[part], "title"), spacing=6)
        self._head.addLayout(self._title, 1)
        self._head.addWidget(self._unit)
        self._head.addWidget(self._percent)
        column.addLayout(self._head)
        self._beside: QWidget | None = None
        self._below = QVBoxLayout()
        column.addLayout(self._below)
        column.addLayout(self._grid)
        words = {Part.BETWEEN: "Add between the folds", Part.FILLING: "Add to the filling"}
        self.add = MaterialField(
            lambda: session.reference.pantry,
            words.get(part, f"Add to the {PART_NAMES[part].lower()}"),
        )
        self.add.chosen.connect(self._added)
        column.addWidget(self.add)
        self.error = label("", "wrong")
        self.error.setWordWrap(True)
        self.error.hide()
        column.addWidget(self.error)
        self._total_g = label("", "strong")
        self._total_pct = label("", "strong")
        self._bar = ShareBar()
        self._with_total = part in (Part.DOUGH, Part.BLOCK)
        self._totals = QHBoxLayout()
        if self._with_total:
            self._totals.addWidget(label("Together", "strong"), 1)
            for widget in (self._total_g, self._total_pct):
                widget.setAlignment(Qt.AlignmentFlag.AlignRight)
                self._totals.addWidget(widget)
            column.addLayout(self._totals)
            column.addWidget(self._bar)
        self._look_changed()

    def _look_changed(self) -> None:
        wide = look.theme.px(79)
        for column in (2, 3):
            self._grid.setColumnMinimumWidth(column, wide)
        for head in (self._unit, self._percent):
            head.setFixedWidth(wide)
        self._place_beside()
        for row_ in self.rows:
            for field in row_.fields:
                field.setFixedWidth(wide)
        for total in (self._total_g, self._total_pct):
            total.setFixedWidth(wide)
            total.setContentsMargins(0, 0, CELL_INSET, 0)

    def say_beside(self, widget: QWidget) -> None:
        """Put something at the right of the title; below it when the text is very large."""
        self._beside = widget
        self._place_beside()

    def _place_beside(self) -> None:
        if self._beside is not None:
            below = look.theme.scale > LARGE_TEXT
            (self._below if below else self._title).addWidget(self._beside)

    @property
    def empty(self) -> bool:
        """True when no line stands here."""
        return not self.rows

    def refresh(self, study: Study) -> None:
        """Show a study; rows are made anew only when the lines are other ones."""
        lines = study.formula.lines(self._part)
        pantry = self._session.reference.pantry
        structure = (self._session.uid, tuple(line.material for line in lines))
        if structure != self._structure:
            self._structure = structure
            self._rebuild(lines)
        sums = part_sum(lines, study.accounts.flour_g)
        for at, (shown, line) in enumerate(zip(self.rows, lines, strict=True)):
            shown.line = line
            shown.grams.show_value(grams_text(line.grams))
            shown.percent.show_value(percent_text(sums.percents[at]))
            material = pantry[line.material]
            between = self._part is Part.BETWEEN
            turn = place_words(line, self._part, study.plan) if between else ""
            self._place(shown, at, note_words(line, material, turn))
            if line.typed:
                shown.grams.setToolTip(
                    plain_tip(shown.grams.bad_reason or spread_words(line, material))
                )
        if self._with_total:
            self._total_g.setText(grams_text(sums.total_g))
            self._total_pct.setText(percent_text(sums.total_pct))
            self._bar.show_parts(parts_of(lines, pantry))

    def _place(self, shown: LineRow, at: int, words: str) -> None:
        """Give the name the room of the note where there is none; shorten what is too long."""
        span = 1 if words else 2
        if span != shown.span:
            shown.span = span
            self._grid.removeWidget(shown.name)
            self._grid.addWidget(shown.name, at + 1, 0, 1, span)
            shown.note.setVisible(bool(words))
            self._grid.activate()
        shown.note.setToolTip(plain_tip(words))
        elide = Qt.TextElideMode.ElideRight
        for widget, text, inset in ((shown.note, words, 0), (shown.name, shown.full_name, 14)):
            room = max(40, widget.width() - inset)
            words = widget.fontMetrics().elidedText(text, elide, room)
            widget.setText(bare_mnemonic(words) if widget is shown.name else words)

    def _rebuild(self, lines: tuple[Line, ...]) -> None:
        for shown in self.rows:
            let_go(self._grid, *shown.widgets())
        pantry = self._session.reference.pantry
        self.rows = [LineRow(self, i, n, pantry[n.material]) for i, n in enumerate(lines)]
        before: QWidget | None = None
        for i, shown in enumerate(self.rows):
            for column, widget in enumerate(shown.widgets()):
                self._grid.addWidget(widget, i + 1, column)
            for widget in (shown.name, *shown.fields):
                if before is not None:
                    QWidget.setTabOrder(before, widget)
                before = widget
        if before is not None:
            QWidget.setTabOrder(before, self.add)
        self._unit.setVisible(bool(lines))
        self._percent.setVisible(bool(lines) and self._part is not Part.FILLING)
        if self._part is Part.FILLING:
            for shown in self.rows:
                shown.percent.hide()
        self.show_error("")
        self._look_changed()

    def show_error(self, reason: str) -> None:
        """Say why a cell cannot be used, under the lines."""
        self.error.setText(reason)
        self.error.setVisible(bool(reason))

    def take_grams(self, line: Line, text: str) -> None:
        """Take an amount typed in the grams cell."""
        self.edits.grams(line, text)

    def take_percent(self, line: Line, text: str) -> None:
        """Take a percentage typed in the percent cell."""
        self.edits.percent(line, text)

    def _added(self, key: str) -> None:
        at = len(self.rows)
        try:
            self.edits.add(key)
        except AplombError as error:
            self.show_error(str(error))
            return
        QTimer.singleShot(0, self, lambda: self.focus_line(at, GRAMS))

    def focus_line(self, index: int, column: int) -> None:
        """Put the cursor into a cell; past the last line into the field that adds one."""
        if 0 <= index < len(self.rows):
            self.rows[index].fields[column].setFocus(Qt.FocusReason.TabFocusReason)
        else:
            self.add.setFocus(Qt.FocusReason.TabFocusReason)

    def focused_line(self) -> int | None:
        """Give the line that holds the keyboard; None when it is elsewhere."""
        for i, shown in enumerate(self.rows):
            if any(widget.hasFocus() for widget in (shown.name, *shown.fields)):
                return i
        return None

    def line_key(self, event: QKeyEvent, index: int, column: int) -> bool:
        """Arrows and Enter go from line to line; with Alt they move it; Ctrl+Delete removes."""
        key, mods = event.key(), event.modifiers()
        if mods == Qt.KeyboardModifier.ControlModifier and key == Qt.Key.Key_Delete:
            self._remove(index, column)
        elif mods == Qt.KeyboardModifier.AltModifier and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._move(index, -1 if key == Qt.Key.Key_Up else 1, column)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self.rows[index].fields[column].commit():
                self.focus_line(index + 1, column)
        elif key == Qt.Key.Key_Down:
            self.focus_line(index + 1, column)
        elif key == Qt.Key.Key_Up and index > 0:
            self.focus_line(index - 1, column)
        else:
            return False
        return True

    def _remove(self, index: int, column: int = GRAMS) -> None:
        last = len(self.rows) == 1
        self.edits.remove(self.rows[index].line)
        self.focus_line(-1 if last else min(index, len(self.rows) - 1), column)

    def _move(self, index: int, by: int, column: int = GRAMS) -> None:
        to = index + by
        if 0 <= to < len(self.rows):
            self.edits.swap_places(self.rows[index].line, self.rows[to].line)
            self.focus_line(to, column)

    def line_menu(self, index: int, at: QWidget) -> None:
        """Offer what can be done with a line."""
        menu = QMenu(self)
        menu.addAction("Swap at equal fat, water, acid …\tAlt+S", lambda: self._exchange(index))
        menu.addAction("Another ingredient, same weight…", lambda: self._swap(index))
        if self._part is Part.BETWEEN:
            turns = QMenu("Sprinkled in at", menu)
            count = len(self.edits.formula.plan.turns)
            for turn in range(1, count):
                turns.addAction(f"turn {turn}", partial(self._at_turn, index, turn))
            turns.addAction("the last turn", partial(self._at_turn, index, 0))
            menu.addMenu(turns)
        menu.addAction("Note…", lambda: self._ask_note(index))
        menu.addSeparator()
        menu.addAction("Move up\tAlt+Up", lambda: self._move(index, -1)).setEnabled(index > 0)
        down = menu.addAction("Move down\tAlt+Down", lambda: self._move(index, 1))
        down.setEnabled(index < len(self.rows) - 1)
        menu.addAction("Remove\tCtrl+Delete", lambda: self._remove(index))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(at.mapToGlobal(QPoint(8, at.height())))

    def _at_turn(self, index: int, turn: int) -> None:
        self.edits.at_turn(self.rows[index].line, turn)
        self.focus_line(index, GRAMS)

    def _exchange(self, index: int) -> None:
        self.swap_wanted.emit(index)

    def _swap(self, index: int) -> None:
        pantry = self._session.reference.pantry
        old = self.rows[index].line
        key = ask_material(self.window(), pantry, f"Instead of {pantry[old.material].name.lower()}")
        if key:
            self.edits.material(old, key)
            self.focus_line(index, GRAMS)

    def _ask_note(self, index: int) -> None:
        old, name = self.rows[index].line, self.rows[index].full_name
        words = ask_text(self.window(), "Note", f"Note on {name.lower()}:", old.note)
        if words is not None:
            self.edits.note(old, words)
            self.focus_line(index, GRAMS)
