"""What the toolkit calls of ours may fail: it is told, and the process goes on."""

import os
import subprocess
import sys
from importlib import import_module
from pathlib import Path
from types import FunctionType

from aplomb.desk.kit import guard as guard_module

SRC = Path(guard_module.__file__).parents[3]
EVENTS = (
    "paintEvent", "showEvent", "hideEvent", "closeEvent", "resizeEvent", "moveEvent", "timerEvent",
    "keyPressEvent", "keyReleaseEvent", "mousePressEvent", "mouseReleaseEvent", "wheelEvent",
    "focusInEvent", "focusOutEvent", "changeEvent", "childEvent", "event", "enterEvent",
    "contextMenuEvent", "customEvent", "sizeHint", "minimumSizeHint", "heightForWidth",
)  # fmt: skip
PROGRAM = """
import gc
import sys
import aplomb.desk
from PySide6.QtCore import QAbstractListModel, QEvent, QObject, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import (
    QContextMenuEvent, QEnterEvent, QKeyEvent, QMouseEvent, QPainter, QWheelEvent
)
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QApplication, QLineEdit, QListView, QStyledItemDelegate, QVBoxLayout, QWidget
)
gc.disable()  # as in the window: see kit/collecting.py
heard = set()
sys.excepthook = lambda kind, error, trace: heard.add(str(error)) or print(error, file=sys.stderr)
app = QApplication([])
app.setQuitOnLastWindowClosed(False)

def fails(kind):
    def failing(self, *told):
        painter = told[0] if kind == "paint" else QPainter()
        if kind == "paintEvent":
            painter.begin(self)
        raise RuntimeError(kind)
    return failing

class Model(QAbstractListModel):
    def rowCount(self, parent=None):
        return 2
    def data(self, at, role):
        return None

def poke(broken):
    none, left = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
    at, zero = QPointF(1, 1), QPoint()
    for event in (
        QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_A, none, "a"),
        QKeyEvent(QEvent.Type.KeyRelease, Qt.Key.Key_A, none, "a"),
        QMouseEvent(QEvent.Type.MouseButtonPress, at, at, left, left, none),
        QMouseEvent(QEvent.Type.MouseButtonRelease, at, at, left, left, none),
        QWheelEvent(at, at, zero, QPoint(0, 120), left, none, Qt.ScrollPhase.NoScrollPhase, False),
        QEvent(QEvent.Type.User), QEnterEvent(at, at, at),
        QContextMenuEvent(QContextMenuEvent.Reason.Mouse, zero, zero),
    ):
        QApplication.sendEvent(broken, event)
    QLineEdit(broken)
    broken.setFocus()
    broken.clearFocus()
    broken.setEnabled(False)
    broken.setEnabled(True)
    broken.heightForWidth(100)

def one(kind):
    heard.clear()
    Broken = type("Broken", (QWidget,), {kind: fails(kind)})
    Data = type("Data", (Model,), {"data": fails(kind) if kind == "data" else Model.data})
    Delegate = type("Delegate", (QStyledItemDelegate,),
                    {"paint": fails(kind)} if kind == "paint" else {})
    Watch = type("Watch", (QObject,), {"eventFilter": fails(kind)} if kind == "eventFilter" else {})
    holder, broken, watch = QWidget(), Broken(), Watch()
    broken.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    broken.setMinimumSize(40, 20)
    seen = QListView()
    seen.setModel(Data(seen))
    seen.setItemDelegate(Delegate(seen))
    seen.installEventFilter(watch)
    column = QVBoxLayout(holder)
    column.addWidget(broken)
    column.addWidget(seen)
    broken.startTimer(1)
    holder.show()
    QTest.qWait(8)
    poke(broken)
    holder.resize(500, 500)
    QTest.qWait(8)
    column.removeWidget(broken)
    broken.setParent(None)
    broken.show()
    broken.move(3, 4)
    broken.repaint()
    broken.minimumSizeHint()
    closed = [broken.close(), broken.close()]
    print(kind, kind in heard, closed, flush=True)

for kind in sys.argv[1:]:
    one(kind)
"""


def test_whatever_event_fails_the_net_hears_it_and_the_process_lives():
    kinds = [*EVENTS, "data", "paint", "eventFilter"]
    done = subprocess.run(
        [sys.executable, "-c", PROGRAM, *kinds],
        capture_output=True,
        text=True,
        check=False,
        env=os.environ | {"PYTHONPATH": str(SRC), "QT_QPA_PLATFORM": "offscreen"},
    )
    # A window whose closing fails stays, so that nothing is lost; nobody is held at the second try.
    wanted = [f"{k} True [{k != 'closeEvent'}, True]" for k in kinds]
    assert done.stdout.splitlines() == wanted, done.stderr[-500:]
    assert done.returncode == 0, done.stderr[-500:]
    assert "active painter" not in done.stderr


def test_every_override_of_the_desk_is_guarded(qapp):
    """The guard is put on where classes are made, so that no file can forget it."""
    from PySide6.QtCore import QObject

    for path in sorted((SRC / "aplomb" / "desk").rglob("*.py")):
        import_module(".".join(path.relative_to(SRC).with_suffix("").parts))
    classes, left = [QObject], []
    while classes:
        classes += (cls := classes.pop()).__subclasses__()
        if cls.__module__.startswith("aplomb."):
            left += [
                f"{cls.__qualname__}.{name}"
                for name, method in vars(cls).items()
                if name.endswith("Event") or name in guard_module.ANSWERS
                if isinstance(method, FunctionType)
                and hasattr(cls.__mro__[1], name)
                and not hasattr(method, "__wrapped__")
            ]
    assert left == []
