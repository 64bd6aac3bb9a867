"""A walk through the application at random: what is pressed next."""

import random

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QSlider,
    QWidget,
)

from aplomb.desk.folds.ribbon import Ribbon, StepCard
from aplomb.desk.stages.section_view import SectionStrip
from finders.hands import NONE, QtHand, XHand, place_in

K, MOD = Qt.Key, Qt.KeyboardModifier
STAGES = "12345678"
PLACES = "LMAFSVWGCPIHUDTKREOJNX"
SHIFTED = "OKMPLNTR"
"""Places that Alt and Shift lead to."""
CONTROL = "NDZRITPO0YZ"
MOVES = (
    K.Key_Tab, K.Key_Tab, K.Key_Tab, K.Key_Backtab, K.Key_Return, K.Key_Return, K.Key_Space,
    K.Key_Escape, K.Key_Up, K.Key_Down, K.Key_Left, K.Key_Right, K.Key_Home, K.Key_End,
    K.Key_PageUp, K.Key_PageDown, K.Key_Delete, K.Key_Backspace, K.Key_F6, K.Key_F1, K.Key_F2,
    K.Key_Menu,
)  # fmt: skip
AMOUNTS = (
    "4", "777", "0", "0.1", "12,5", "250 g", "62 %", "2 1/4 cup", "1 lb 2 oz", "8 oz", "-3", "1e9",
    "abc", "1.2.3", "250+30", "999999999", "0.0001", "3 cm", "1/2 inch", "61 F", "½ cup", "  ",
    "5o", "1 kg,12,50", "9" * 60, "two", "tbsp", "100000", "1", "2", "3", "16", "33",
)  # fmt: skip
PLANS = (
    "envelope 3 4 / 3 4", "thirds 3 3 3 3 3", "pieces 4 4 4", "pieces t200 3 4", "coil r",
    "portions +3 +3 / +3 3", "inverse 4o / 4 3", "none", "envelope", "halves 2 q s4 6@8 /30 t10",
    "coil t400", "envelope 4o 4o", "pieces@ 3", "envelope 3@0", "portions +3:40 +4:60:1", "x y z",
)  # fmt: skip
LISTS = (
    "500 g plain flour\n250 ml water\n1 tsp salt\n450 g butter, cold",
    "2 cups flour\n1/2 cup water\n3 sticks butter", "", "=1+1\n\n\n", "flour\twater\n1\t2",
    "1 kg Mehl; 500 g Wasser", "🥐 50 g", "butter " * 400,
)  # fmt: skip
SIZES = ((1280, 800), (1024, 700), (1440, 900), (800, 600))
TOUCHED = (
    QAbstractButton, QLineEdit, QComboBox, QAbstractItemView, QSlider, QPlainTextEdit, StepCard,
    Ribbon, SectionStrip,
)  # fmt: skip


def top_widget(main: QWidget) -> QWidget:
    """What a person would press on now: a popup, a dialog, or the window."""
    return QApplication.activePopupWidget() or QApplication.activeModalWidget() or main


class Walk:
    """Chooses and does one thing after the other, always the same for the same seed."""

    def __init__(self, main: QWidget, hand: QtHand | XHand, seed: int) -> None:
        self.main, self.hand = main, hand
        self.random = random.Random(seed)
        self.stay = 0
        """How many more things are done before a dialog is given up."""

    def step(self) -> str:
        """Do one thing; gives what was done in words."""
        top = top_widget(self.main)
        if top is self.main:
            self.stay = 12
        elif self.stay <= 0:
            self.hand.key(top, K.Key_Escape)
            return f"Escape in {type(top).__name__}"
        else:
            self.stay -= 1
        if isinstance(top, QFileDialog):
            return self._in_file_dialog(top)
        return self._any(top)

    def _any(self, top: QWidget) -> str:
        draw = self.random.random()
        ways = (
            (0.30, self._click),
            (0.50, self._move_key),
            (0.68, self._type),
            (0.76, self._stage),
            (0.86, self._place),
            (0.91, self._control),
            (0.93, self._fold_key),
            (0.945, self._wheel),
            (0.955, self._drag),
            (0.965, self._double),
            (0.975, self._right),
            (0.98, self._paste),
            (0.985, self._text_size),
            (0.99, self._resize),
            (1.0, self._type_and_leave),
        )
        return next(way for until, way in ways if draw <= until)(top)

    def _in_file_dialog(self, top: QWidget) -> str:
        if self.random.random() < 0.4:
            self.hand.key(top, K.Key_Escape)
            return "Escape in the file dialog"
        text = f"file {self.random.randrange(6)}"
        self.hand.text(top, text)
        if self.random.random() < 0.5:
            self.hand.key(top, K.Key_Return)
        return f"type “{text}” in the file dialog"

    def _touchable(self, top: QWidget) -> list[QWidget]:
        found = [
            w
            for w in top.findChildren(QWidget)
            if isinstance(w, TOUCHED)
            and w.isVisible()
            and w.isEnabled()
            and not w.visibleRegion().isEmpty()
            and w.window() is top
        ]
        if isinstance(top, (QMenu, QAbstractItemView)):
            found.append(top)
        return found

    def _where(self, top: QWidget) -> tuple[QWidget, QPoint] | None:
        found = self._touchable(top)
        if not found:
            return None
        target = self.random.choice(found)
        seen = target.visibleRegion().boundingRect()
        at = QPoint(
            seen.left() + int(self.random.random() * max(1, seen.width() - 1)),
            seen.top() + int(self.random.random() * max(1, seen.height() - 1)),
        )
        if isinstance(target, (QAbstractButton, QLineEdit)):
            at = seen.center()
        return target, target.mapTo(top, at)

    def _words(self, target: QWidget) -> str:
        text = target.text() if isinstance(target, (QAbstractButton, QLineEdit)) else ""
        return f"{type(target).__name__} “{target.accessibleName() or text}”"

    def _click(self, top: QWidget) -> str:
        found = self._where(top)
        if found is None:
            return "nothing to click"
        words = self._words(found[0])
        self.hand.click(top, found[1])
        return f"click {words}"

    def _double(self, top: QWidget) -> str:
        found = self._where(top)
        if found is None:
            return "nothing to click"
        words = self._words(found[0])
        self.hand.double(top, found[1])
        return f"double click {words}"

    def _right(self, top: QWidget) -> str:
        found = self._where(top)
        if found is None:
            return "nothing to click"
        words = self._words(found[0])
        self.hand.click(top, found[1], Qt.MouseButton.RightButton)
        return f"right click {words}"

    def _drag(self, top: QWidget) -> str:
        found, end = self._where(top), self._where(top)
        if found is None or end is None:
            return "nothing to drag"
        words = f"drag {self._words(found[0])} to {self._words(end[0])}"
        self.hand.drag(top, found[1], end[1])
        return words

    def _wheel(self, top: QWidget) -> str:
        x, y = self.random.random(), self.random.random()
        self.hand.wheel(top, place_in(top, x, y), self.random.random() < 0.5)
        return "turn the wheel"

    def _move_key(self, top: QWidget) -> str:
        key = self.random.choice(MOVES)
        mods = NONE
        if key in (K.Key_Up, K.Key_Down, K.Key_Left, K.Key_Right) and self.random.random() < 0.15:
            mods = MOD.AltModifier
        elif key == K.Key_Delete and self.random.random() < 0.3:
            mods = MOD.ControlModifier
        elif key in (K.Key_F6, K.Key_Backtab) and self.random.random() < 0.5:
            mods = MOD.ShiftModifier
        times = self.random.choice((1, 1, 1, 2, 5)) if key == K.Key_Tab else 1
        for _ in range(times):
            self.hand.key(top, key, mods)
        return f"press {mods.name} {key.name}" + (f" {times} times" if times > 1 else "")

    def _text(self) -> str:
        return self.random.choice(AMOUNTS if self.random.random() < 0.8 else PLANS)

    def _type(self, top: QWidget) -> str:
        text = self._text()
        if self.random.random() < 0.5:
            self.hand.key(top, K.Key_A, MOD.ControlModifier)
        self.hand.text(top, text)
        after = self.random.choice((K.Key_Return, K.Key_Return, K.Key_Tab, K.Key_Down, None))
        if after is not None:
            self.hand.key(top_widget(self.main), after)
        return f"type “{text}”, then {after.name if after else 'nothing'}"

    def _type_and_leave(self, top: QWidget) -> str:
        """Type a number into a field that is seen, and at once do something else."""
        fields = [w for w in self._touchable(top) if isinstance(w, QLineEdit)]
        if not fields:
            return self._type(top)
        field = self.random.choice(fields)
        words = self._words(field)
        self.hand.click(top, field.mapTo(top, field.visibleRegion().boundingRect().center()))
        self.hand.key(top, K.Key_A, MOD.ControlModifier)
        self.hand.text(top, self.random.choice(("4", "777", "abc")))
        way = self.random.choice(
            (self._click, self._stage, self._place, self._control, self._move_key)
        )
        return f"type into {words}, then {way(top)}"

    def _stage(self, top: QWidget) -> str:
        key = self.random.choice(STAGES)
        self.hand.key(top, Qt.Key(ord(key)), MOD.AltModifier)
        return f"Alt+{key}"

    def _place(self, top: QWidget) -> str:
        if self.random.random() < 0.3:
            key = self.random.choice(SHIFTED)
            self.hand.key(top, Qt.Key(ord(key)), MOD.AltModifier | MOD.ShiftModifier)
            return f"Alt+Shift+{key}"
        key = self.random.choice(PLACES)
        self.hand.key(top, Qt.Key(ord(key)), MOD.AltModifier)
        return f"Alt+{key}"

    def _control(self, top: QWidget) -> str:
        if self.random.random() < 0.12:
            self.hand.key(top, K.Key_B, MOD.AltModifier)
            return "Alt+B"
        key = self.random.choice(CONTROL)
        mods = MOD.ControlModifier
        if key == "Z" and self.random.random() < 0.4:
            mods |= MOD.ShiftModifier
        self.hand.key(top, Qt.Key(ord(key)), mods)
        return f"{mods.name} {key}"

    def _fold_key(self, top: QWidget) -> str:
        key = self.random.choice("23456QSRTO/+")
        self.hand.text(top, key)
        return f"press {key}"

    def _text_size(self, top: QWidget) -> str:
        key = self.random.choice((K.Key_Plus, K.Key_Minus, K.Key_0))
        self.hand.key(top, key, MOD.ControlModifier)
        return f"Ctrl {key.name}"

    def _paste(self, top: QWidget) -> str:
        QGuiApplication.clipboard().setText(self.random.choice(LISTS))
        self.hand.key(top, K.Key_V, MOD.ControlModifier)
        return "paste a list"

    def _resize(self, _top: QWidget) -> str:
        size = self.random.choice(SIZES)
        self.main.resize(*size)
        return f"resize to {size}"
