"""Weighing out on screen: one line at a time, big, from the scale or by hand."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import (
    QAccessible,
    QAccessibleEvent,
    QHideEvent,
    QKeyEvent,
    QPainter,
    QPaintEvent,
    QShortcut,
    QShowEvent,
)
from PySide6.QtWidgets import (
    QFrame,
    QLabel,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.figures import bare_text, example_mass, g_text, mass_text, num
from aplomb.core.batch.weighing import Run, WeighStep
from aplomb.core.paste.formula import PART_NAMES, Part, place_words
from aplomb.core.study.study import Study
from aplomb.desk.batch.scale_panel import ScalePanel
from aplomb.desk.drawings.weigh_bar import paint_weigh_bar
from aplomb.desk.kit.fields import button, card, fix_width, give_words, label, wrapping
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.scale_link import SIMULATED, ScaleLink
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.batch.weighing import WeighOut
from aplomb.work.commands import COMMANDS
from aplomb.work.figures.typed import read_mass
from aplomb.work.words.measured import line_words
from aplomb.work.words.steps import block_words, water_words

MARKS = {"less": "▲", "right": "✓", "more": "▼"}
"""More is wanted; right; some must come off."""
SPOKEN = {"less": "more to go", "right": "right", "more": "too much"}


class WeighBar(QWidget):
    """The bar under the figures."""

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._share, self._near, self._judged = 0.0, 0.01, "less"
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def _look_changed(self) -> None:
        self.update()

    def show_weight(self, share: float, near: float, judged: str) -> None:
        """Show what is on the scale over what is wanted."""
        self._share, self._near, self._judged = share, near, judged
        self.update()

    def sizeHint(self) -> QSize:
        """A low bar."""
        return QSize(300, look.theme.px(58))

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint it."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        room = QRectF(self.rect()).adjusted(2, 2, -2, -2)
        paint_weigh_bar(painter, room, self._share, self._near, self._judged, look.theme)


class WeighPage(Page):
    """One line at a time.

    Enter takes what is on the scale, T tares, Backspace goes back, S scales the rest after too
    much. Whatever is weighed is in the batch's record at once.
    """

    KEY = "weigh"
    HINT = "Enter accepts the weight, T tares, Backspace goes back, → skips, E ends the line."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.out = WeighOut(session.work)
        self.grams: float | None = None
        self.steady = False
        self.fault = ""
        self._tare_g = 0.0
        self._spoken = ""
        self.port = SIMULATED
        self.link = ScaleLink(self)
        self.link.weighed.connect(self._weighed)
        self.link.failed.connect(self._failed)
        side = QVBoxLayout()
        side.setSpacing(12)
        side.addWidget(self._list_card())
        side.addStretch(1)
        main = QVBoxLayout()
        main.setSpacing(12)
        main.addWidget(self._big_card())
        main.addWidget(self._scale_card())
        main.addStretch(1)
        self._body.addLayout(self.two_sides(main, side, (7, 4)))
        self._body.addStretch(1)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(COMMANDS[self.KEY].title)
        # A button that has the keyboard would take the arrow for itself, to go to the next one.
        QShortcut(
            Qt.Key.Key_Right,
            self,
            self.skip,
            context=Qt.ShortcutContext.WidgetWithChildrenShortcut,
        )
        self.refresh()

    def _big_card(self) -> QFrame:
        frame, column = card(spacing=4)
        self._where: QLabel = label("", "second")
        self._name: QLabel = label("", "weigh-name")
        self.note: QLabel = label("", "second")
        self._target: QLabel = label("", "weigh-target")
        self._now: QLabel = label("", "weigh-now")
        self.verdict: QLabel = label("", "weigh-verdict")
        for words in (self._where, self._name, self.note, self._target, self._now, self.verdict):
            words.setWordWrap(True)
            words.setMinimumWidth(60)
        self.bar = WeighBar()
        self.take = button("Accept", "main", self.take_weight, "Enter")
        self.tare = button("Tare", "", self.take_tare, "T")
        self.back = button("Back", "", self.go_back, "Backspace")
        self.over = button("Skip", "", self.skip, "→")
        self.enough = button("Enough", "", self.end_line, "E")
        self.enough.setToolTip("Ends this line with less than planned: water goes in by feel")
        self.rest = button("", "", self.scale_rest, "S")
        self.hand = Field("Weight by hand", self._by_hand, self.show_error)
        give_words(self.hand, lambda: f"by hand, {example_mass()}")
        fix_width(self.hand, 140)
        for widget in (
            self._where,
            self._name,
            self.note,
            self._target,
            self._now,
            self.bar,
            self.verdict,
        ):
            column.addWidget(widget)
        column.addLayout(
            Flow(
                self.take,
                self.tare,
                self.back,
                self.over,
                self.enough,
                self.rest,
                self.hand,
                spacing=8,
            )
        )
        self._frame: QFrame = frame
        return frame

    def _list_card(self) -> QFrame:
        frame, column = card()
        self.table = FigureTable("Lines", 2, 68)
        self._done = wrapping("", "strong")
        self._anew = button("Start a new batch", "", self.begin_anew)
        self.off_stock = button("Deduct from stock", "", self.take_off_stock)
        self.off_stock.setToolTip("What was weighed, and the blocks that came from the freezer")
        column.addWidget(self._done)
        column.addWidget(self.table)
        column.addLayout(Flow(self._anew, self.off_stock, spacing=8))
        return frame

    def _scale_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("The scale", "title"))
        self.scale = ScalePanel(self.link, self._wanted_g, self.show_error)
        self.scale.port_chosen.connect(self._choose_port)
        column.addWidget(self.scale)
        return frame

    def _wanted_g(self) -> float | None:
        return self.step.target_g if self.step else None

    def focus_first(self) -> None:
        """Put the keyboard where Enter takes the weight."""
        self.first_focus(self.take)

    @property
    def run(self) -> Run | None:
        """What is to be weighed and what was."""
        return self.out.run

    @property
    def at(self) -> int:
        """Page of the line in hand."""
        return self.out.at

    @property
    def step(self) -> WeighStep | None:
        """The line in hand."""
        return self.out.step

    def begin(self, _target: object) -> None:
        """Begin with the batch in hand, where its record ends."""
        self.out.begin()
        self.show_now()

    def showEvent(self, event: QShowEvent) -> None:
        """Listen to the scale while it is seen."""
        super().showEvent(event)
        if not self.link.listening:
            self.link.listen(self.port)
            self.scale.show_port(self.port)

    def hideEvent(self, event: QHideEvent) -> None:
        """Listen no longer."""
        super().hideEvent(event)
        self.link.stop()

    def set_port(self, port: str) -> None:
        """Use another scale, as kept in the settings."""
        self.port = port
        if self.link.listening:
            self.grams, self.fault = None, ""
            self.link.listen(port)
        self.scale.show_port(port)

    def _choose_port(self, port: str) -> None:
        self.set_port(port)
        self._session.keep(scale_port=port)

    def refresh(self) -> None:
        """Follow the formula in hand; what is weighed already stays."""
        if self.out.follow():
            self.show_now()

    def _weighed(self, grams: float, steady: bool) -> None:
        self.grams, self.steady, self.fault = grams, steady, ""
        self._show_weight()

    def _failed(self, words: str) -> None:
        self.grams, self.fault = None, words
        self._show_weight()

    def take_weight(self) -> None:
        """Take what is on the scale for the line in hand, and go to the next."""
        if self.grams is None or not self.steady:
            self._session.said.emit(
                "The scale is still moving."
                if self.grams is not None
                else "No reading from the scale. Check it, or type the weight."
            )
            return
        if self.grams <= 0:
            self._session.said.emit("Nothing is on the scale.")
            return
        self._keep(self.grams, "scale")

    def _by_hand(self, text: str) -> None:
        if text.strip():
            grams = read_mass(text)
            self.hand.show_value("")
            self._keep(grams, "hand")

    def end_line(self) -> None:
        """End the line in hand with less than was wanted.

        With what is on the scale, else with what was weighed of it before.
        """
        run, step = self.run, self.step
        if run is None or step is None:
            return
        there = self.grams if self.grams is not None and self.steady and self.grams > 0 else None
        grams = there if there is not None else run.got(step)
        if grams is None:
            self._session.said.emit("Nothing weighed on this line yet. Weigh it, or skip it.")
            return
        self._keep(grams, "scale" if there is not None else "hand", enough=True)

    def _keep(self, grams: float, by: str, *, enough: bool = False) -> None:
        if self.out.keep(grams, self._tare_g, by, enough=enough):
            if by == "scale":
                self.take_tare()
            self.show_now()

    def take_off_stock(self) -> None:
        """Take what was weighed off the stock, once."""
        self.out.take_off_stock()
        self.show_now()

    def take_tare(self) -> None:
        """Take what lies on the scale as nothing."""
        self._tare_g = self.grams or 0.0
        self.link.tare()

    def go_back(self) -> None:
        """Go to the line before."""
        self.out.go_back()
        self.show_now()

    def skip(self) -> None:
        """Go to the next line that is not weighed yet, whatever is weighed of this one."""
        self.out.skip()
        self.show_now()

    def scale_rest(self) -> None:
        """After too much of a line: make the whole batch so much larger."""
        self.out.scale_rest()
        self.show_now()

    def begin_anew(self) -> None:
        """Start a new batch; the old one stays in the book."""
        self.out.begin_anew()
        self.show_now()

    def show_now(self) -> None:
        """Show the line in hand and the list."""
        run, study = self.run, self.out.study
        if run is None or study is None:
            return
        self._show_list(run)
        step = self.step
        there = step is not None
        for widget in (self.take, self.tare, self.over, self.enough, self.hand):
            widget.setEnabled(there)
        self.back.setEnabled(self.at > 0)
        if step is None:
            whole = bool(run.plan)
            done = run.next() is None
            self._where.setText("")
            self._name.setText(
                ("All is weighed" if done else "Some lines were skipped")
                if whole
                else "Nothing to weigh yet"
            )
            self.note.setText(_end_words(run, study) if whole and done else study.scaled.trouble)
            self._target.setText("")
        else:
            weighed, pantry = step.weighed, self._session.reference.pantry
            mix = f", mix {step.mix} of {step.mixes}" if step.mix else ""
            self._where.setText(
                f"{PART_NAMES[weighed.part]}{mix} · line {self.at + 1} of {len(run.plan)}"
            )
            self._name.setText(self._session.reference.pantry[weighed.line.material].name)
            place = place_words(weighed.line, weighed.part, study.plan)
            water = ""
            if weighed.part is Part.DOUGH and pantry[weighed.line.material].is_water:
                share = step.blocks / study.scaled.blocks if step.mix else 1.0
                water = water_words(study, pantry, share * run.made_batch.factor)
            house, material = self._session.reference.house, pantry[weighed.line.material]
            measure = line_words(house, material, weighed, step.target_g)
            notes = (measure, weighed.product, place, weighed.line.note, block_words(step), water)
            self.note.setText("; ".join(n for n in notes if n))
            self._target.setText(f"{g_text(step.target_g, 2)}  ± {bare_text(step.near_g, 'g', 1)}")
        for words in (self._where, self.note, self._target):
            words.setVisible(bool(words.text()))
        more = run.more_pct(self.at) if step is not None else 0.0
        self.rest.setVisible(more > 0)
        self.rest.setText(f"Scale the rest by {num(more, '+.1f')} %")
        self._show_weight()

    def _show_list(self, run: Run) -> None:
        steps = run.steps
        pantry = self._session.reference.pantry
        rows: list[Row] = []
        last = ""
        for i, step in enumerate(steps):
            mix = f", mix {step.mix}" if step.mix else ""
            group = f"{PART_NAMES[step.weighed.part]}{mix}"
            if group != last:
                last = group
                rows.append(Row(group, ("wanted", "weighed") if not rows else (), "head"))
            got = run.got(step)
            right = got is not None and (step.judged(got) == "right" or run.ended(step))
            mark = (
                "  "
                if got is None
                else "✓ "
                if right
                else ("▲ " if step.judged(got) == "less" else "▼ ")
            )
            rows.append(
                Row(
                    f"{mark}{pantry[step.weighed.line.material].name}",
                    (
                        g_text(step.target_g, 1),
                        "–" if got is None else g_text(got, 1),
                    ),
                    "changed" if i == self.at else "plain",
                )
            )
        self.table.show_rows(tuple(rows))
        self.off_stock.setVisible(self.out.can_take_off)
        done = sum(not run.open(step) for step in steps)
        words = f"{done} of {len(steps)} weighed, {mass_text(run.paste_g)} of paste"
        if run.made_batch.factor != 1:
            words += f"; batch × {num(run.made_batch.factor, '.3f')}"
        self._done.setText(words)

    def _show_weight(self) -> None:
        step = self.step
        if self.fault:
            self._now.setText("no weight")
            self._tell(
                f"✕ {self.fault[:1].upper()}{self.fault[1:]}. You can type the weight.", "wrong"
            )
            self.bar.show_weight(0, 0.01, "less")
            return
        if step is None or self.grams is None:
            self._now.setText("" if step is None else "…")
            self._tell("", "")
            self.bar.setVisible(step is not None)
            return
        self.bar.setVisible(True)
        got = self.run.got(step) if self.run else None
        moving = "" if self.steady else " ~"
        self._now.setText(f"{g_text(self.grams, 1)}{moving}")
        over = got is not None and step.judged(got) == "more"
        grams = got if over and got is not None and self.grams <= 0 else self.grams
        judged = step.judged(grams)
        self.bar.show_weight(grams / step.target_g, step.near_g / step.target_g, judged)
        off = g_text(abs(step.target_g - grams), 1)
        words = {
            "less": f"{MARKS['less']} {off} to go",
            "right": f"{MARKS['right']} right: press Enter",
            "more": f"{MARKS['more']} {off} too much: take some off"
            + (", S scales the rest, → goes on" if over else ", or Enter keeps it"),
        }
        self._tell(
            words[judged],
            {"less": "look", "right": "settled", "more": "wrong"}[judged],
            SPOKEN[judged],
        )

    def _tell(self, words: str, role: str, spoken: str = "") -> None:
        """Say how it stands: in colour, with a mark, in words, and to the screen reader."""
        self.verdict.setText(words)
        colour = getattr(look.theme.palette, role) if role else look.theme.palette.text
        self.verdict.setStyleSheet(f"color: {colour};")
        heard = spoken or words
        if heard != self._spoken:
            self._spoken = heard
            self.verdict.setAccessibleName(heard)
            QAccessible.updateAccessibility(QAccessibleEvent(self.verdict, QAccessible.Event.Alert))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Keys of the page, wherever in it the keyboard is, but not in a field."""
        keys = {
            Qt.Key.Key_Return: self.take_weight,
            Qt.Key.Key_Enter: self.take_weight,
            Qt.Key.Key_T: self.take_tare,
            Qt.Key.Key_Backspace: self.go_back,
            Qt.Key.Key_E: self.end_line,
            Qt.Key.Key_S: self.scale_rest,
        }
        act = keys.get(Qt.Key(event.key()))
        if act is not None and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            act()
            return
        super().keyPressEvent(event)


def _end_words(run: Run, study: Study) -> str:
    """Say what was weighed, and what else comes to it before the last rolling."""
    words = [
        (
            f"Paste weighed: {g_text(run.paste_g, 1)}. It is in the batch record under "
            "Losses and costs."
        )
    ]
    if study.scaled.scrap_in_g > 0:
        words.append(
            f"Stack {mass_text(study.scaled.scrap_in_g)} of scrap flat on the paste before the "
            "last rolling."
        )
    if study.scaled.frozen_g > 0:
        where = study.formula.batch.frozen_where
        then = ": let it thaw" if where == "freezer" else ""
        words.append(f"{mass_text(study.scaled.frozen_g)} comes from the {where}{then}.")
    return " ".join(words)
