"""A line that is typed into: it keeps what is sound and marks what is not."""

from collections.abc import Callable
from typing import Protocol, runtime_checkable

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QLineEdit,
    QWidget,
)

from aplomb.core.base.errors import AplombError, TextError
from aplomb.desk.kit.fields import plain_tip
from aplomb.desk.kit.mid_event import mid_event


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
        self.given = ""
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
            self.given = text
            self.revert()
            return
        unchanged = self.text() == self.given
        self.given = text
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
        return self.text() != self.given

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
        if text == self.given and not (self._eager and self.isModified()):
            self._mark("")
            self.setModified(False)
            return
        before, self.given = self.given, text
        self._handing = True
        try:
            self._take(text)
        except AplombError as error:
            self.given = before
            reason = error.message if isinstance(error, TextError) else str(error)
            self._mark(reason[:1].upper() + reason[1:] + ("" if reason.endswith(".") else "."))
            if isinstance(error, TextError) and self.hasFocus() and error.text == text:
                self.setSelection(error.start, error.end - error.start)
            return
        except BaseException:  # a fault of ours: the text stays what was typed, and not yet taken
            self.given = before
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
        self.setText(self.given)
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
        if event.key() == Qt.Key.Key_Escape and (self.text() != self.given or self._bad):
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
