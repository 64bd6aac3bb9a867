"""The bench's screen: dark, large, read from two metres, worked by one key."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QGuiApplication,
    QHideEvent,
    QKeyEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QShowEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QStackedWidget, QVBoxLayout, QWidget

from aplomb.core.base.errors import AplombError
from aplomb.desk.bench.entries import ENTRIES, Entry
from aplomb.desk.bench.faces import BlockChip, ChoiceFace, EntryFace, StepFace, words
from aplomb.desk.bench.run_control import RunControl
from aplomb.desk.bench.show import show_chips, show_step, tiles_wanted
from aplomb.desk.bench.tiles import LEAST_TEXT, Tile
from aplomb.desk.drawings.bench import CARD, DARK, FAT, GOOD, GROUND, INK, LINE, SOFT, WRONG
from aplomb.desk.kit.theme import TEXT, TITLE
from aplomb.desk.kit.timers import single_shot
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.words import alarm_words, answered_words, task_title, track_title

SCAN_MS = 45
"""Signs that come quicker than that one after another come from a scanner [ms]."""
FULL_PX = 800.0
"""At this height of the window text has its own size [px]."""


def px_mm_of(measured: float) -> float:
    """Give pixels to a millimetre: as measured, or as the screen says of itself."""
    if measured > 0:
        return measured
    screen = QGuiApplication.primaryScreen()
    said = screen.physicalDotsPerInch() / 25.4 if screen else 0.0
    return said if 1.5 < said < 40 else 96 / 25.4


class BenchScreen(QWidget):
    """Shows the run that goes on, and takes its keys."""

    def __init__(self, control: RunControl) -> None:
        super().__init__()
        self.control = control
        self._u = 1.0
        self._entry: Entry | None = None
        self._typed = ""
        self._scan = single_shot(self, SCAN_MS)
        self._scan.timeout.connect(self.act_on_typed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Bench")
        self.chips: list[BlockChip] = []
        self.step, self.ask, self.trouble = StepFace(), ChoiceFace(), ChoiceFace()
        self.entry = EntryFace(self._take_entry, self._leave_entry)
        self.told, self.head = words("told"), words("head")
        self._lay_out()
        control.changed.connect(self.refresh)
        control.ticked.connect(self.tick)

    def _lay_out(self) -> None:
        self._chips = QHBoxLayout()
        self._chips.setSpacing(10)
        top = QHBoxLayout()
        top.addLayout(self._chips)
        top.addWidget(self.head, 1)
        self.faces = QStackedWidget()
        for face in (self.step, self.ask, self.trouble, self.entry):
            self.faces.addWidget(face)
        self.tiles = {
            key: Tile(said, shown, act, main=key == "go") for key, said, shown, act in self._tiles()
        }
        self._foot = QHBoxLayout()
        self._foot.setSpacing(10)
        for tile in self.tiles.values():
            self._foot.addWidget(tile)
        self.faces.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Ignored)
        column = QVBoxLayout(self)
        column.setSizeConstraint(QVBoxLayout.SizeConstraint.SetNoConstraint)
        column.setContentsMargins(26, 14, 22, 16)
        column.setSpacing(8)
        column.addLayout(top)
        column.addWidget(self.told)
        column.addWidget(self.faces, 1)
        column.addLayout(self._foot)

    def _tiles(self) -> list[tuple[str, str, str, Callable[[], object]]]:
        control = self.control
        return [
            ("go", "Continue", "Space", self._go_on),
            ("back", "Undo", "⌫", control.take_back),
            ("trouble", "Problem", "N", self._ask_trouble),
            ("water", "Water", "W", partial(self._count, "water", 1)),
            ("flour", "Flour", "F", partial(self._count, "flour", 1)),
            ("dust", "Dusting", "D", partial(self._count, "dust", 1)),
            ("reach", "Size", "R", partial(self.ask_for, "reach")),
            ("cold", "Chill", "P", self._to_cold),
            ("tare", "Tare", "T", self._tare),
            ("enough", "Enough", "E", partial(control.take_weight, enough=True)),
            ("hand", "By hand", "G", partial(self.ask_for, "hand")),
            ("measure", "Measure", "M", partial(self.ask_for, "measure")),
            ("note", "Note", "K", partial(self.ask_for, "note")),
            ("next", "Next block", "Tab", partial(control.choose, 1)),
        ]

    # sizes

    def hasHeightForWidth(self) -> bool:
        """No: wrapped words would make the page taller than the window."""
        return False

    def minimumSizeHint(self) -> QSize:
        """Small: it is fitted to its window, never the other way round."""
        return QSize(320, 240)

    def chips_for(self, many: int) -> list[BlockChip]:
        """Give so many chips of blocks, and hide the rest."""
        while len(self.chips) < many:
            self.chips.append(BlockChip())
            self._chips.addWidget(self.chips[-1])
        for chip in self.chips[many:]:
            chip.hide()
        return self.chips[:many]

    @property
    def u(self) -> float:
        """Height of the window over 800 px [-]."""
        return self._u

    @property
    def px_mm(self) -> float:
        """Pixels to a millimetre of this screen."""
        return px_mm_of(self.control.session.settings.screen_px_mm)

    def _fit(self) -> None:
        u = max(0.7, self.window().height() / FULL_PX)
        if abs(u - self._u) < 0.005 and self.styleSheet():
            return
        self._u = u
        self.setStyleSheet(_style(u))
        for tile in self.tiles.values():
            tile.fit(u, self.px_mm)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Text goes with the window."""
        super().resizeEvent(event)
        self._fit()

    def showEvent(self, event: QShowEvent) -> None:
        """Catch up."""
        super().showEvent(event)
        self._fit()
        self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        """What was half typed is let go."""
        self._scan.stop()
        self._typed = ""
        super().hideEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the ground; the whole of it when something rings."""
        p = QPainter(self)
        p.fillRect(self.rect(), QColor(FAT if self._ringing else GROUND))

    # what is shown

    @property
    def _ringing(self) -> bool:
        return self.control.ringing() is not None

    def refresh(self) -> None:
        """Show the run as it stands."""
        run = self.control.run
        if run is None or not self.isVisible():
            return
        self.setProperty("rings", self._ringing)
        show_chips(self, run)
        if self._ringing:
            self._show_alarm()
        elif self.control.face == "ask" and run.asking is not None:
            self._show_question()
        elif self.control.face == "trouble":
            self._show_troubles()
        elif self.control.face == "entry":
            self.faces.setCurrentWidget(self.entry)
        else:
            self.faces.setCurrentWidget(self.step)
            show_step(self, run)
        self._keep_keyboard()
        self._show_told()
        wanted = tiles_wanted(self.control)
        for key, tile in self.tiles.items():
            tile.invert(on=self._ringing)
            tile.setVisible(key in wanted)
            if wanted.get(key):
                tile.say(wanted[key])
        self.restyle()

    def _keep_keyboard(self) -> None:
        """An alarm may come over what is being typed: the keys are the screen's, and back after."""
        focus = self.window().focusWidget()
        mine = focus is self or (focus is not None and self.faces.isAncestorOf(focus))
        if not mine:
            return
        if self.faces.currentWidget() is self.entry:
            self.entry.line.setFocus(Qt.FocusReason.OtherFocusReason)
        elif focus is self.entry.line:
            self.setFocus(Qt.FocusReason.OtherFocusReason)

    def restyle(self) -> None:
        """Wear the alarm's colours, or the usual ones."""
        style = _style(self._u, rings=self._ringing)
        if style != self.styleSheet():
            self.setStyleSheet(style)
        self.update()

    def tick(self) -> None:
        """Let clocks go on."""
        run = self.control.run
        if run is None or not self.isVisible():
            return
        if self._ringing != bool(self.property("rings")):
            self.refresh()
            return
        show_chips(self, run)
        if self.faces.currentWidget() is self.step and not self._ringing:
            show_step(self, run)

    def _show_told(self) -> None:
        notices = self.control.notices()
        said = [self.control.told, *notices[:1]] if self.control.told else notices[:2]
        self.told.setText("\n".join(said))
        self.told.setVisible(bool(said))
        self.told.setProperty("mild", bool(self.control.told))

    def _show_alarm(self) -> None:
        run, alarm = self.control.run, self.control.ringing()
        assert run is not None
        assert alarm is not None
        what, do = alarm_words(run, alarm)
        self.faces.setCurrentWidget(self.step)
        face = self.step
        face.block.setText("")
        face.title.setText(what)
        face.todo.setText(do)
        for label in (face.stop, face.counted, face.caution, face.tally, face.how):
            label.setText("")
        face.drawing.show_picture(None, "")
        face.clock.show_picture(None, "")

    def _show_question(self) -> None:
        run = self.control.run
        assert run is not None
        assert run.asking is not None
        task = run.asking
        choices = [(s.key, s.words, s.drawn) for s in run.states()]
        title = "How is the block?" if task.kind not in ("mix", "out") else "Is it ready?"
        self.ask.offer(
            title,
            f"{track_title(run, task.track)} · {task_title(task)}",
            choices,
            self._u,
            self._answer,
            pictured=True,
        )
        self.faces.setCurrentWidget(self.ask)

    def _show_troubles(self) -> None:
        run = self.control.run
        assert run is not None
        choices = [(r.key, r.seen, "") for r in run.rescues()]
        self.trouble.offer("What went wrong?", "", choices, self._u, self._rescue, pictured=False)
        self.faces.setCurrentWidget(self.trouble)

    # keys

    def _go_on(self) -> None:
        self.control.go_on()

    def _answer(self, key: str) -> None:
        self.control.answer(key)
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def _count(self, what: str, spoons: int) -> None:
        self.control.do(lambda run: run.count(what, spoons))  # type: ignore[arg-type]

    def _to_cold(self) -> None:
        def act(run: LiveRun) -> None:
            held = run.back_to_cold()
            self.control.tell(
                "No block is out of the cold." if held is None else answered_words(held)
            )

        self.control.do(act)

    def _tare(self) -> None:
        self.control.devices.tare()

    def _ask_trouble(self) -> None:
        if self.control.current() is not None:
            self.control.face = "trouble"
            self.control.changed.emit()

    def _rescue(self, key: str) -> None:
        run = self.control.run
        found = next((r for r in run.rescues() if r.key == key), None) if run else None
        self.control.face = "step"
        if found is not None:
            self.control.rescue(found)
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def ask_for(self, key: str) -> None:
        """Ask for something to be typed."""
        if self.control.run is None or (key == "hand" and self.control.line() is None):
            return
        self._entry = ENTRIES[key]
        self.control.face = "entry"
        self.entry.ask(self._entry.title, self._entry.hint)
        self.control.changed.emit()
        self.entry.line.setFocus(Qt.FocusReason.OtherFocusReason)

    def _take_entry(self, text: str) -> None:
        if self._entry is None:
            return
        try:
            stay = text.strip() != "" and self._entry.take(self.control, text)
            if not text.strip() and self._entry.key == "who":
                self._entry.take(self.control, "")
        except AplombError as error:
            self.entry.wrong.setText(str(error))
            return
        if stay:
            self.entry.ask(self._entry.title, self._entry.hint)
            self.entry.wrong.setText("")
            return
        self._leave_entry()

    def _leave_entry(self) -> None:
        self._entry = None
        if self.control.face == "entry":
            self.control.face = "step"
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        self.control.changed.emit()

    def event(self, event: QEvent) -> bool:
        """Tab goes to another block; it leaves no window that has no other fields."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            ways = {Qt.Key.Key_Tab: 1, Qt.Key.Key_Backtab: -1}
            way = ways.get(Qt.Key(event.key()))
            if way is not None:
                self.control.choose(way)
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Take a key; letters wait a moment, because a scanner types them all at once."""
        key, held = event.key(), event.modifiers()
        other = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        if key == Qt.Key.Key_G and held & Qt.KeyboardModifier.ControlModifier:
            self.control.put_target()
            return
        if self.control.run is None or held & other:
            super().keyPressEvent(event)
            return
        text = event.text()
        if text.isalpha() and len(text) == 1 and not event.isAutoRepeat():
            back = bool(held & Qt.KeyboardModifier.ShiftModifier)
            self._typed += text.lower() if back else text.upper()
            self._scan.start()
            return
        if self._typed:
            scanned = self._typed
            self.act_on_typed(ended=key in (Qt.Key.Key_Return, Qt.Key.Key_Enter))
            if len(scanned) > 3 and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                return  # the scanner's own
        if event.isAutoRepeat():
            return
        self._plain_key(event)

    def _plain_key(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_PageDown):
            if self.control.face == "ask" and not self._ringing:
                self._answer("right")
            else:
                self._go_on()
        elif key in (Qt.Key.Key_Backspace, Qt.Key.Key_PageUp):
            self.control.take_back()
        elif key == Qt.Key.Key_Escape:
            if self.control.face != "step":
                self.control.leave_face()
            else:
                self.control.leave_asked.emit()
        elif key == Qt.Key.Key_Left:
            self.control.choose(-1)
        elif key == Qt.Key.Key_Right:
            weighing = self.control.weighing()
            if weighing is not None:
                weighing.skipped += 1
                self.control.changed.emit()
            else:
                self.control.choose(1)
        elif event.text().isdigit():
            if not self._choose_digit(event.text()) and self.control.line() is not None:
                self.ask_for("hand")  # a weight that is read off another scale
                self.entry.line.setText(event.text())
        else:
            event.ignore()

    def _choose_digit(self, typed: str) -> bool:
        if self.control.face == "ask" and (key := self.ask.key_of(typed)):
            self._answer(key)
            return True
        if self.control.face == "trouble" and (key := self.trouble.key_of(typed)):
            self._rescue(key)
            return True
        return False

    def act_on_typed(self, *, ended: bool = False) -> None:
        """Several letters at once are a label's code; else each is a key."""
        self._scan.stop()
        typed, self._typed = self._typed, ""
        if len(typed) > 3 and self.control.open_code(typed):
            return
        if len(typed) > 3 and ended:
            self.control.tell(f"“{typed[:12]}” is not a block of this run; check the label.")
            return
        for sign in typed:
            self._letter(sign)

    def _letter(self, sign: str) -> None:
        if self.control.face in ("ask", "trouble") and self._choose_digit(sign.lower()):
            return
        spoons = {"W": "water", "F": "flour", "D": "dust", "B": "brushed"}
        if sign.upper() in spoons and self.control.face == "step":
            self._count(spoons[sign.upper()], 1 if sign.isupper() else -1)
            return
        ticks = {"S": "squared", "V": "over", "X": "trimmed", "O": "brushed"}
        if sign.upper() in ticks and self.control.face == "step":
            self.control.do(lambda run: run.tick(ticks[sign.upper()]))
            return
        weighing = self.control.line() is not None
        enough = partial(self.control.take_weight, enough=True)
        acts: dict[str, Callable[[], object]] = {
            "N": self._ask_trouble,
            "R": partial(self.ask_for, "reach"),
            "P": self._to_cold,
            "M": partial(self.ask_for, "measure"),
            "K": partial(self.ask_for, "note"),
            "I": partial(self.ask_for, "who"),
            "C": partial(self.ask_for, "code"),
            "T": self._tare if weighing else partial(self.ask_for, "temp"),
            "E": enough if weighing else self.control.skip_ahead,
            "G": partial(self.ask_for, "hand"),
        }
        act = acts.get(sign.upper())
        if act is not None and self.control.face == "step":
            act()


def _style(u: float, *, rings: bool = False) -> str:
    def px(size: float) -> int:
        return round(size * u)

    ink, soft, warm = (DARK, DARK, DARK) if rings else (INK, SOFT, FAT)
    wrong = DARK if rings else WRONG
    return f"""
* {{ font-family: "{TEXT}"; color: {ink}; font-size: {px(LEAST_TEXT)}px; background: none; }}
QLabel#block {{ color: {warm}; font-size: {px(26)}px; font-weight: 600; }}
QLabel#tally {{ font-size: {px(58)}px; font-weight: 600; }}
QLabel#step {{ font-family: "{TITLE}"; font-size: {px(84 if rings else 52)}px;
  font-weight: 600; }}
QLabel#todo {{ font-size: {px(40 if rings else 30)}px; }}
QLabel#stop {{ font-size: {px(25)}px; color: {soft}; }}
QLabel#counted {{ font-size: {px(26)}px; color: {warm}; font-weight: 600; }}
QLabel#caution {{ font-size: {px(LEAST_TEXT)}px; color: {wrong}; font-weight: 600; }}
QLabel#told {{ font-size: {px(LEAST_TEXT)}px; color: {wrong if not rings else ink};
  font-weight: 600; }}
QLabel#told[mild="true"] {{ color: {GOOD if not rings else ink}; }}
QLabel#head {{ font-size: {px(LEAST_TEXT)}px; color: {soft}; }}
QLineEdit#entry {{ font-size: {px(44)}px; background: {CARD}; border: 2px solid {LINE};
  border-radius: {px(8)}px; padding: {px(8)}px {px(14)}px; color: {INK}; }}
QLineEdit#entry:focus {{ border-color: {FAT}; }}
"""
