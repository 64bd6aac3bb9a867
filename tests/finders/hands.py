"""Two hands that press and click: one through Qt, one through the X server."""

import time
from collections.abc import Callable

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QInputMethodEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget
from shiboken6 import isValid

NONE = Qt.KeyboardModifier.NoModifier
LEFT = Qt.MouseButton.LeftButton


class QtHand:
    """Sends to the widget that a person would meet: what has the focus, what lies under the mouse.

    Nothing here turns the event loop, so one step is one step.
    """

    pause_ms = 0
    """How long what was sent takes to arrive [ms]."""

    def __init__(self) -> None:
        self.longest_s = 0.0
        """Most processor time that one key or click took since this was last set to 0 [s]."""
        self.turns = 0
        """Steps so far: a key that opens a dialog holds its call while others are done [-]."""

    def _do(self, send: Callable[..., object], *what: object) -> None:
        began, turn = time.thread_time(), self.turns
        send(*what)
        if self.turns == turn:
            self.longest_s = max(self.longest_s, time.thread_time() - began)

    def key(self, top: QWidget, key: Qt.Key, mods: Qt.KeyboardModifier = NONE) -> None:
        """Press a key and let it go."""
        target = QApplication.activePopupWidget() or QApplication.focusWidget() or top
        if isValid(target):
            self._do(QTest.keyClick, target, key, mods)

    def text(self, top: QWidget, text: str) -> None:
        """Type some text; signs that no key carries are committed as an input method does."""
        for sign in text:
            target = QApplication.activePopupWidget() or QApplication.focusWidget() or top
            if not isValid(target):
                return
            if sign.isascii():
                self._do(QTest.keyClicks, target, sign)
            else:
                event = QInputMethodEvent("", [])
                event.setCommitString(sign)
                self._do(QApplication.sendEvent, target, event)

    def _under(self, top: QWidget, at: QPoint) -> tuple[QWidget, QPoint]:
        child = top.childAt(at) or top
        return child, child.mapFrom(top, at)

    def click(self, top: QWidget, at: QPoint, button: Qt.MouseButton = LEFT) -> None:
        """Click."""
        target, here = self._under(top, at)
        self._do(QTest.mouseMove, target, here)
        self._do(QTest.mousePress, target, button, NONE, here)
        if isValid(target):
            self._do(QTest.mouseRelease, target, button, NONE, here)

    def double(self, top: QWidget, at: QPoint) -> None:
        """Click twice."""
        target, here = self._under(top, at)
        self._do(QTest.mouseDClick, target, LEFT, NONE, here)

    def drag(self, top: QWidget, start: QPoint, end: QPoint) -> None:
        """Press, move, let go."""
        target, here = self._under(top, start)
        there = target.mapFrom(top, end)
        self._do(QTest.mousePress, target, LEFT, NONE, here)
        for part in (0.3, 0.7, 1.0):
            if isValid(target):
                self._do(QTest.mouseMove, target, here + (there - here) * part)
        if isValid(target):
            self._do(QTest.mouseRelease, target, LEFT, NONE, there)

    def wheel(self, top: QWidget, at: QPoint, up: bool) -> None:
        """Turn the wheel."""
        target, here = self._under(top, at)
        turn = QWheelEvent(
            QPointF(here),
            QPointF(target.mapToGlobal(here)),
            QPoint(),
            QPoint(0, 120 if up else -120),
            Qt.MouseButton.NoButton,
            NONE,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        self._do(QApplication.sendEvent, target, turn)


X_KEYS = {
    Qt.Key.Key_Return: "Return", Qt.Key.Key_Tab: "Tab", Qt.Key.Key_Backtab: "ISO_Left_Tab",
    Qt.Key.Key_Escape: "Escape", Qt.Key.Key_Space: "space", Qt.Key.Key_Delete: "Delete",
    Qt.Key.Key_Backspace: "BackSpace", Qt.Key.Key_Left: "Left", Qt.Key.Key_Right: "Right",
    Qt.Key.Key_Up: "Up", Qt.Key.Key_Down: "Down", Qt.Key.Key_Home: "Home", Qt.Key.Key_End: "End",
    Qt.Key.Key_PageUp: "Prior", Qt.Key.Key_PageDown: "Next", Qt.Key.Key_Menu: "Menu",
    Qt.Key.Key_Plus: "plus", Qt.Key.Key_Minus: "minus", Qt.Key.Key_Equal: "equal",
    Qt.Key.Key_Slash: "slash", **{getattr(Qt.Key, f"Key_F{i}"): f"F{i}" for i in range(1, 13)},
}  # fmt: skip
X_SIGNS = {
    " ": "space", "+": "plus", "-": "minus", "=": "equal", "/": "slash", ".": "period",
    ",": "comma", "%": "percent", "@": "at", "(": "parenleft", ")": "parenright", ":": "colon",
    "#": "numbersign", ";": "semicolon", "'": "apostrophe", '"': "quotedbl", "*": "asterisk",
}  # fmt: skip


class XHand:
    """Presses through the X server's own test extension: what comes is real input."""

    pause_ms = 12

    def __init__(self) -> None:
        self.longest_s, self.turns = 0.0, 0  # what comes through the server is timed by the loop
        from Xlib import XK, X, display
        from Xlib.ext import xtest

        self._display = display.Display()
        self._X, self._XK, self._xtest = X, XK, xtest
        self._mods = {
            Qt.KeyboardModifier.ControlModifier: "Control_L",
            Qt.KeyboardModifier.ShiftModifier: "Shift_L",
            Qt.KeyboardModifier.AltModifier: "Alt_L",
        }

    def _code(self, name: str) -> tuple[int, bool]:
        symbol = self._XK.string_to_keysym(name)
        code = self._display.keysym_to_keycode(symbol)
        shifted = bool(code) and self._display.keycode_to_keysym(code, 0) != symbol
        return code, shifted

    def _send(self, kind: int, detail: int) -> None:
        self._xtest.fake_input(self._display, kind, detail)

    def _tap(self, name: str, mods: list[str]) -> None:
        code, shifted = self._code(name)
        if not code:
            return
        held = [self._code(mod)[0] for mod in mods]
        if shifted and "Shift_L" not in mods:
            held.append(self._code("Shift_L")[0])
        for each in held:
            self._send(self._X.KeyPress, each)
        self._send(self._X.KeyPress, code)
        self._send(self._X.KeyRelease, code)
        for each in reversed(held):
            self._send(self._X.KeyRelease, each)
        self._display.sync()

    def key(self, _top: QWidget, key: Qt.Key, mods: Qt.KeyboardModifier = NONE) -> None:
        """Press a key and let it go."""
        name = X_KEYS.get(key) or X_SIGNS.get(chr(key) if key < 128 else "")
        self._tap(name or chr(key).lower(), [n for m, n in self._mods.items() if mods & m])

    def text(self, _top: QWidget, text: str) -> None:
        """Type some text."""
        for sign in text:
            if sign.isascii():
                self._tap(X_SIGNS.get(sign, sign), [])

    def _move(self, top: QWidget, at: QPoint) -> None:
        there = top.mapToGlobal(at)
        self._xtest.fake_input(self._display, self._X.MotionNotify, x=there.x(), y=there.y())

    def _button(self, number: int) -> None:
        self._send(self._X.ButtonPress, number)
        self._send(self._X.ButtonRelease, number)
        self._display.sync()

    def click(self, top: QWidget, at: QPoint, button: Qt.MouseButton = LEFT) -> None:
        """Click."""
        self._move(top, at)
        self._button(1 if button == LEFT else 3)

    def double(self, top: QWidget, at: QPoint) -> None:
        """Click twice."""
        self.click(top, at)
        self._button(1)

    def drag(self, top: QWidget, start: QPoint, end: QPoint) -> None:
        """Press, move, let go."""
        self._move(top, start)
        self._send(self._X.ButtonPress, 1)
        for part in (0.3, 0.7, 1.0):
            self._move(top, start + (end - start) * part)
        self._send(self._X.ButtonRelease, 1)
        self._display.sync()

    def wheel(self, top: QWidget, at: QPoint, up: bool) -> None:
        """Turn the wheel."""
        self._move(top, at)
        self._button(4 if up else 5)


def place_in(widget: QWidget, x: float, y: float) -> QPoint:
    """Give a place of a widget by shares of its size, as its window counts."""
    here = QPoint(int(x * (widget.width() - 1)), int(y * (widget.height() - 1)))
    return widget.mapTo(widget.window(), here)
