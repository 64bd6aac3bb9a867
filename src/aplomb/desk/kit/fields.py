"""Fields and small pieces that every stage uses."""

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING, Protocol, runtime_checkable

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.errors import AplombError, TextError
from aplomb.core.base.figures import (
    in_measures,
)
from aplomb.desk.kit.mid_event import bury, mid_event
from aplomb.desk.kit.theme import look

WIDTH_AT_100 = "width_at_100"
"""A widget's property: its width at text of 100 % [px]."""

CAPTION = "caption_in_metric"
"""Property of a label or button: what it says in a house with metric measures."""
WORDS = "words_of_the_house"
"""Property of a button or field: what makes its words, or those of its empty field."""
MEASURED = ("g", "mm", "cm", "°C", "K")
"""Units that captions end in and a house may have otherwise."""

if TYPE_CHECKING:
    from PySide6.QtWidgets import QComboBox, QDialog, QListView


def plain_tip(text: str) -> str:
    """Give the text of a tool tip so that names with markup in them are shown as they are."""
    if "<" not in text and "&lt" not in text:  # what Qt takes for markup
        return text
    import html

    return f"<p>{html.escape(text)}</p>".replace("\n", "<br>")


def bare_mnemonic(text: str) -> str:
    """Give the text of a button so that an “&” in a name is shown, and no key hangs on it."""
    return text.replace("&", "&&")


def label(text: str = "", kind: str = "", parent: QWidget | None = None) -> QLabel:
    """Make a label of one of the style sheet's kinds."""
    made = QLabel(parent)
    give_caption(made, text)
    made.setObjectName(kind)
    made.setTextFormat(Qt.TextFormat.PlainText)
    return made


def wrapping(text: str = "", kind: str = "") -> QLabel:
    """Make a label whose words go on in the next line, however narrow it gets."""
    made = label(text, kind)
    made.setWordWrap(True)
    made.setMinimumWidth(60)
    return made


def choice(name: str, words: Iterable[str] = ()) -> "QComboBox":
    """Make a list to choose from, named for screen readers by what is to be chosen."""
    from PySide6.QtWidgets import QComboBox

    made = QComboBox()
    made.setAccessibleName(name)
    made.setAccessibleDescription(name)
    made.addItems(list(words))
    return made


def give_caption(made: QLabel | QAbstractButton, text: str) -> None:
    """Give words that may end in a unit: they are written in the house's, and stay so."""
    made.setText(in_measures(text))
    if text.rpartition(", ")[2].partition(" ")[0] in MEASURED:
        made.setProperty(CAPTION, text)


def button(text: str, kind: str, done: Callable[[], None], tip: str = "") -> QPushButton:
    """Make a button of one of the style sheet's kinds."""
    made = QPushButton(text)
    made.setObjectName(kind)
    made.setToolTip(plain_tip(tip))
    made.setAutoDefault(False)
    made.clicked.connect(lambda _=False: done())
    return made


def on_checked(made: QAbstractButton, act: Callable[[bool], object]) -> None:
    """Act when a person checks or unchecks a button, by mouse, key or screen reader.

    A screen reader toggles it without a click. Who shows a state uses `give_checked`, which is not
    taken for a person's doing.
    """
    made.toggled.connect(lambda on: act(on))


def give_checked(made: QAbstractButton, on: bool) -> None:
    """Show a button as checked or not."""
    held = made.blockSignals(True)
    made.setChecked(on)
    made.blockSignals(held)


def card(*, spacing: int = 6) -> tuple[QFrame, QVBoxLayout]:
    """Make a card and the column inside it."""
    frame = QFrame()
    frame.setObjectName("card")
    column = QVBoxLayout(frame)
    column.setContentsMargins(16, 12, 16, 12)
    column.setSpacing(spacing)
    return frame, column


def fix_width(widget: QWidget, at_100: float) -> None:
    """Give a widget a width that goes with the size of text.

    Parameters
    ----------
    at_100 : float
        Width at text of 100 % [px].
    """
    widget.setProperty(WIDTH_AT_100, at_100)
    widget.setFixedWidth(look.theme.px(at_100))


def refit_widths(root: QWidget) -> None:
    """Fit all in a widget to another size of text, once its style sheet is of that size.

    What told its height before that, while it was hidden, tells it again.
    """
    for widget in (root, *root.findChildren(QWidget)):
        widget.updateGeometry()
        at_100 = widget.property(WIDTH_AT_100)
        if at_100 is not None:
            widget.setFixedWidth(look.theme.px(at_100))


def give_words(made: QAbstractButton | QLineEdit, words: Callable[[], str]) -> None:
    """Give a button's text, or what stands in an empty field, made anew for another house."""
    made.setProperty(WORDS, words)
    _put_words(made, words())


def _put_words(made: QAbstractButton | QLineEdit, words: str) -> None:
    if isinstance(made, QLineEdit):
        made.setPlaceholderText(words)
    else:
        made.setText(words)


def respell(root: QWidget) -> None:
    """Write all captions in a widget that hold a unit with that of the house."""
    captions: list[QLabel | QAbstractButton] = list(root.findChildren(QLabel))
    fields: list[QAbstractButton | QLineEdit] = list(root.findChildren(QLineEdit))
    for caption in (*captions, *root.findChildren(QAbstractButton)):
        words = caption.property(CAPTION)
        if words is not None:
            caption.setText(in_measures(words))
    for made in (*fields, *root.findChildren(QAbstractButton)):
        make = made.property(WORDS)
        if make is not None:
            _put_words(made, make())


def pair(text: str, field: QWidget, at_100: float) -> QWidget:
    """Put a word before a field, together so wide; such pairs stand in columns in a flow."""
    made = QWidget()
    line = QHBoxLayout(made)
    line.setContentsMargins(0, 0, 6, 0)
    line.setSpacing(5)
    line.addWidget(label(text, "second"))
    line.addStretch(1)
    line.addWidget(field)
    fix_width(made, at_100)
    return made


def row(*widgets: QWidget | None, spacing: int = 8) -> QHBoxLayout:
    """Lay widgets in a row; None stretches."""
    line = QHBoxLayout()
    line.setSpacing(spacing)
    for widget in widgets:
        if widget is None:
            line.addStretch(1)
        else:
            line.addWidget(widget)
    return line


def let_go(layout: QLayout, *widgets: QWidget) -> None:
    """Take widgets out of a layout; they die when the event that is being dealt with is over."""
    for widget in widgets:
        layout.removeWidget(widget)
        widget.hide()
    bury(*widgets)


def clear(layout: QLayout) -> None:
    """Take every widget out of a layout and those in it, and let go of it."""
    while layout.count():
        item = layout.takeAt(0)
        if item is None:
            return
        widget, inner = item.widget(), item.layout()
        if widget is not None:
            widget.hide()
            bury(widget)
        elif inner is not None:
            clear(inner)


def fit_rows(view: "QListView", rows: int) -> None:
    """Make a list as high as so many of its rows."""
    view.ensurePolished()
    view.setFixedHeight(view.sizeHintForRow(0) * rows + 2 * view.frameWidth() + 4)


def run_dialog(dialog: "QDialog") -> None:
    """Run a dialog, let go of it, and give its window the keyboard back."""
    parent = dialog.parentWidget()
    if parent is not None:
        dialog.setStyleSheet(look.theme.style())
    dialog.exec()
    bury_dialog(dialog)


def bury_dialog(dialog: "QDialog") -> None:
    """Let go of a dialog, and give its window the keyboard back."""
    parent = dialog.parentWidget()
    dialog.hide()
    bury(dialog)
    if parent is not None:
        parent.activateWindow()


def _is_undo_or_redo(event: QKeyEvent) -> bool:
    keys = QKeySequence.StandardKey
    return event.matches(keys.Undo) or event.matches(keys.Redo)


class Field(QLineEdit):
    """One editable figure.

    It shows what it was last given. On Enter, or when left, it hands over what was typed; text
    that cannot be used stays, marked, with the reason in the tool tip and told to `on_error`.
    What was typed belongs to the formula that was in hand when it was: a parent tells which by
    its `in_hand`. It is never handed over for another one.

    Parameters
    ----------
    name : str
        For screen readers: ``Salt, weight``.
    take : callable
        Takes the text; raises AplombError when it cannot be used.
    on_error : callable
        Takes the reason, empty when all is well again.
    kind : str
        Of the style sheet; ``cell`` for one in a table.
    eager : bool
        True when typing the value that stands already means something too.

    Signals
    -------
    focused
        The keyboard has come to it.
    """

    focused = Signal()

    def __init__(
        self,
        name: str,
        take: Callable[[str], None],
        on_error: Callable[[str], None],
        kind: str = "",
        *,
        eager: bool = False,
    ) -> None:
        super().__init__()
        self._take = take
        self._on_error = on_error
        self._given = ""
        self._bad = False
        self._typed_for: object = None
        self._handing = False
        self._eager = eager
        self.setObjectName(kind)
        self.setAccessibleName(name)
        self.editingFinished.connect(self._finish)
        self.textEdited.connect(self._edited)

    def _edited(self, _text: str) -> None:
        self._typed_for = self._in_hand()
        self._mark("")

    def _in_hand(self) -> object:
        """Identity of the formula that this speaks for; None where it is of no formula."""
        parent = self.parentWidget()
        while parent is not None:
            if isinstance(parent, InHand):
                return parent.in_hand()
            parent = parent.parentWidget()
        return None

    def show_value(self, text: str) -> None:
        """Show a value, unless something unusable is still being put right here."""
        if self.being_typed and self._typed_for != self._in_hand():
            self._given = text
            self.revert()
            return
        unchanged = self.text() == self._given
        self._given = text
        if self._bad or (self.hasFocus() and not unchanged):
            return
        if self.text() != text:
            self.setText(text)
            self.setCursorPosition(0)
        if self.hasFocus():
            self.selectAll()

    @property
    def bad(self) -> bool:
        """True while it holds text that cannot be used."""
        return self._bad

    @property
    def bad_reason(self) -> str:
        """Why the text cannot be used; empty when it can."""
        return self.accessibleDescription() if self._bad else ""

    @property
    def being_typed(self) -> bool:
        """True while it holds something else than the value that stands."""
        return self.text() != self._given

    def commit(self) -> bool:
        """Hand over what was typed; False when it cannot be used."""
        self._finish()
        return not self._bad

    def _finish(self) -> None:
        if self._handing:  # who takes it asks that what is being typed be taken first
            return
        text = self.text()
        if self.being_typed and self._typed_for != self._in_hand():
            self.revert()
            return
        if text == self._given and not (self._eager and self.isModified()):
            self._mark("")
            self.setModified(False)
            return
        before, self._given = self._given, text
        self._handing = True
        try:
            self._take(text)
        except AplombError as error:
            self._given = before
            reason = error.message if isinstance(error, TextError) else str(error)
            self._mark(reason[:1].upper() + reason[1:] + ("" if reason.endswith(".") else "."))
            if isinstance(error, TextError) and self.hasFocus() and error.text == text:
                self.setSelection(error.start, error.end - error.start)
            return
        except BaseException:  # a fault of ours: the text stays what was typed, and not yet taken
            self._given = before
            raise
        finally:
            self._handing = False
        self._mark("")
        self.setModified(False)

    def _mark(self, reason: str) -> None:
        if not reason and not self._bad:
            return
        self._bad = bool(reason)
        self.setProperty("bad", self._bad)
        self.style().unpolish(self)
        self.style().polish(self)
        self.setToolTip(plain_tip(reason))
        self.setAccessibleDescription(reason)
        self._on_error(reason)

    def revert(self) -> None:
        """Put back the value that stands."""
        self._mark("")
        self.setText(self._given)
        self.selectAll()

    def event(self, event: QEvent) -> bool:
        """Leave undo and redo to the window, unless something is being typed here."""
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
            and _is_undo_or_redo(event)
            and not self.isModified()
        ):
            event.ignore()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape puts back the value that stands."""
        if event.key() == Qt.Key.Key_Escape and (self.text() != self._given or self._bad):
            self.revert()
            return
        super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Hand over what was typed; what is seen of it follows when the focus has moved."""
        with mid_event():
            super().focusOutEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Select all on coming in by keyboard."""
        super().focusInEvent(event)
        if not self._bad:
            self.selectAll()
        self.focused.emit()


@runtime_checkable
class InHand(Protocol):
    """What holds fields that speak for a formula."""

    def in_hand(self) -> object:
        """Identity of that formula."""


def watch_keys(widget: QWidget, handle: Callable[[QKeyEvent], bool]) -> None:
    """Let a function look at a widget's key presses first; True means it was dealt with."""
    widget.installEventFilter(_KeyWatch(handle, widget))


class _KeyWatch(QObject):
    def __init__(self, handle: Callable[[QKeyEvent], bool], parent: QObject) -> None:
        super().__init__(parent)
        self._handle = handle

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        """Pass key presses to the function."""
        return (
            event.type() == QEvent.Type.KeyPress
            and isinstance(event, QKeyEvent)
            and self._handle(event)
        )
