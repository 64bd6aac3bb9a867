"""Devices of the bench: scale, probes, oven; their stand-ins, the screen's true size, the house."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QVBoxLayout,
    QWidget,
)

from aplomb.book.settings import ProbeSetting
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import bare_text
from aplomb.core.base.house import SPOONS
from aplomb.core.bench.acts import Attach
from aplomb.desk.bench.run_control import control_of
from aplomb.desk.bench.screen import px_mm_of
from aplomb.desk.kit.fields import (
    button,
    card,
    fix_width,
    give_checked,
    label,
    let_go,
    on_checked,
    row,
    wrapping,
)
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.house_card import HouseFields
from aplomb.desk.stages.page import Page
from aplomb.devices.listening import read_port
from aplomb.work.figures.typed import read_length, read_mass, read_temp

BAR_PX = 320
"""The bar by which the screen is measured [px]."""
MOST_PROBES = 8


class Bar(QWidget):
    """A bar of a length that is known in pixels."""

    def sizeHint(self) -> QSize:
        """As long as the bar."""
        return QSize(BAR_PX + 4, 26)

    def minimumSizeHint(self) -> QSize:
        """As its size hint."""
        return self.sizeHint()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint it."""
        p = QPainter(self)
        theme = look.theme
        p.fillRect(QRectF(2, 11, BAR_PX, 4), theme.color("text"))
        for x in (2, BAR_PX + 1):
            p.fillRect(QRectF(x, 3, 2, 20), QColor(theme.color("text")))


class DevicesPage(Page):
    """What is listened to, and what stands in for it."""

    KEY = "devices"
    HINT = (
        "Enter a port of this computer or a network address. Leave empty for the simulated device."
    )

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.control = control_of(session)
        self.rows: list[tuple[QWidget, ...]] = []
        left, right = QVBoxLayout(), QVBoxLayout()
        for column, cards in (
            (left, (self._ports_card(), self._stand_ins_card())),
            (right, (self._screen_card(), self._house_card())),
        ):
            column.setSpacing(12)
            for each in cards:
                column.addWidget(each)
            column.addStretch(1)
        self._body.addLayout(self.two_sides(left, right, (3, 2)))
        self._body.addStretch(1)
        self.control.changed.connect(self._control_changed)

    def _ports_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("Connections", "title"))
        grid = QGridLayout()
        grid.setColumnStretch(2, 1)
        self.scale = Field("Port of the scale", partial(self._take_port, "scale"), self.show_error)
        self.oven = Field("Port of the oven", partial(self._take_port, "oven"), self.show_error)
        for i, (words, field) in enumerate((("Scale", self.scale), ("Oven", self.oven))):
            field.setPlaceholderText("simulated")
            fix_width(field, 190)
            grid.addWidget(label(words), i, 0)
            grid.addWidget(field, i, 1)
        column.addLayout(grid)
        self._probes = QGridLayout()
        self._probes.setColumnStretch(4, 1)
        column.addLayout(self._probes)
        self.new_probe = Field("Name of a new probe", self._add_probe, self.show_error)
        self.new_probe.setPlaceholderText("name of a probe")
        fix_width(self.new_probe, 190)
        column.addLayout(row(label("Add a probe", "small"), self.new_probe, None))
        self._state = wrapping("", "second")
        column.addWidget(self._state)
        return frame

    def _stand_ins_card(self) -> QFrame:
        self._stand_ins, column = card(spacing=6)
        column.addWidget(label("Simulated devices", "title"))
        words = wrapping(
            (
                "They behave like real devices. Here you can cause faults to practise; a run "
                "must be open."
            ),
            "second",
        )
        column.addWidget(words)
        self.put = Field("Put on the simulated scale", self._put_on, self.show_error, eager=True)
        self.put.setPlaceholderText("250 g; −50 g takes off")
        fix_width(self.put, 190)
        wanted = button("Put on the target weight", "", self.control.put_target, "Ctrl+G")
        wanted.setShortcut("Ctrl+G")
        column.addLayout(Flow(self.put, wanted, button("All off", "", self.all_off), spacing=6))
        self.dial = Field("Set the simulated oven", self._turn, self.show_error)
        self.dial.setPlaceholderText("200 °C")
        fix_width(self.dial, 110)
        self.door = QCheckBox("oven door open")
        on_checked(self.door, self._door)
        column.addLayout(Flow(label("oven at", "small"), self.dial, self.door, spacing=7))
        self.which = QComboBox()
        self.which.setAccessibleName("Simulated probe")
        column.addLayout(
            Flow(
                self.which,
                button("Take out of the block", "", partial(self.disturb, "pull")),
                button("Leave the lid open", "", partial(self.disturb, "lid")),
                button("Stop sending", "", partial(self.disturb, "silent")),
                button("Send garbage", "", partial(self.disturb, "babble")),
                button("Back to normal", "quiet", partial(self.disturb, "mend")),
                spacing=6,
            )
        )
        return self._stand_ins

    def _screen_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("This screen", "title"))
        words = wrapping(
            "Lay a ruler along the bar and type its length: pieces of fat are then shown at their "
            "true size.",
            "second",
        )
        column.addWidget(words)
        column.addWidget(Bar())
        self.long = Field("Length of the bar, mm", self._take_long, self.show_error)
        fix_width(self.long, 90)
        column.addLayout(row(label("its length, mm"), self.long, None))
        self.sound = QCheckBox("Play alarm sounds")
        on_checked(self.sound, lambda on: self._session.keep(sound=on))
        column.addLayout(
            row(self.sound, button("Test the sound", "quiet", self.control.sound.ring), None)
        )
        return frame

    def _house_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("Counting turns and spoons", "title"))
        self.convention = QComboBox()
        self.convention.setAccessibleName("Turns are counted")
        self.convention.addItem("turns after enclosing", False)
        self.convention.addItem("enclosing is the first turn", True)
        self.convention.activated.connect(self._take_convention)
        column.addLayout(row(self.convention, None))
        self._spoons = HouseFields(self._session, SPOONS, self.show_error)
        column.addLayout(self._spoons.grid)
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.scale)

    def _control_changed(self) -> None:
        if self.isVisible():
            self._show_state()

    def refresh(self) -> None:
        """Show what is set."""
        settings, house = self._session.settings, self._session.reference.house
        self.scale.show_value(settings.scale_port)
        self.oven.show_value(settings.oven_port)
        self.long.show_value(bare_text(BAR_PX / px_mm_of(settings.screen_px_mm), "mm", 1))
        give_checked(self.sound, settings.sound)
        self.convention.setCurrentIndex(int(house.counts_enclosing))
        self._spoons.refresh()
        self._show_probes()
        self._show_state()

    def _show_probes(self) -> None:
        run = self.control.run
        blocks = [t.key for t in run.plan.tracks if t.block] if run else []
        settings = self.control.devices.probe_settings()
        shown = tuple((each, tuple(blocks)) for each in settings)
        if shown == getattr(self, "_shown", None):
            return
        self._shown = shown
        for widgets in self.rows:
            let_go(self._probes, *widgets)
        self.rows = []
        for i, each in enumerate(settings):
            port = Field(f"Port of {each.name}", partial(self._probe_port, i), self.show_error)
            port.setPlaceholderText("simulated")
            port.show_value(each.port)
            fix_width(port, 150)
            stands = QComboBox()
            stands.setAccessibleName(f"Block for {each.name}")
            stands.addItem("no block", "")
            for key in blocks:
                stands.addItem(f"block {key}", key)
            now = run.state.probes.get(each.name, "") if run else ""
            stands.setCurrentIndex(max(0, stands.findData(now)))
            stands.activated.connect(partial(self._attach, each.name, stands))
            off = button("Remove", "quiet", partial(self._remove_probe, i))
            off.setAccessibleName(f"Remove {each.name}")
            widgets = (label(each.name), port, stands, off)
            for column, widget in enumerate(widgets):
                self._probes.addWidget(widget, i, column)
            self.rows.append(widgets)
        self.which.clear()
        self.which.addItems([each.name for each in settings if not each.port])

    def _show_state(self) -> None:
        control = self.control
        if control.run is None:
            self._state.setText("Devices are read while a run is open on the Bench.")
        else:
            told = [f"{name}: {words}" for name, words in control.devices.faults.items()]
            if control.devices.grams is not None:
                told.append(f"scale: {control.devices.grams:.0f} g")
            if control.devices.oven is not None:
                told.append(f"oven: {control.devices.oven.temp_c:.0f} °C")
            if control.probes is not None:
                for name in control.probes.said:
                    temp = control.probes.now_c(name)
                    told += [f"{name}: {temp:.1f} °C"] if temp is not None else []
            self._state.setText("; ".join(told) or "No readings yet.")
        self._stand_ins.setEnabled(control.run is not None)

    def _take_port(self, which: str, text: str) -> None:
        port = read_port(text, which) if text.strip() else ""
        self._session.keep(**{f"{which}_port": port})
        self.control.devices.listen()
        self.refresh()

    def _set_probes(self, probes: tuple[ProbeSetting, ...]) -> None:
        self._session.keep(probes=probes)
        self.control.devices.listen()
        self.refresh()

    def _add_probe(self, text: str) -> None:
        name, known = text.strip()[:24], self.control.devices.probe_settings()
        if not name:
            return
        if any(each.name.casefold() == name.casefold() for each in known):
            raise AplombError(f"There is already a probe called “{name}”; choose another name.")
        if len(known) >= MOST_PROBES:
            raise AplombError(f"You can use up to {MOST_PROBES} probes.")
        self.new_probe.show_value("")
        self._set_probes((*known, ProbeSetting(name)))

    def _probe_port(self, at: int, text: str) -> None:
        port = read_port(text, "probe") if text.strip() else ""
        known = list(self.control.devices.probe_settings())
        if port and any(each.port == port for i, each in enumerate(known) if i != at):
            raise AplombError(f"Another probe already uses {port}; choose another port.")
        known[at] = replace(known[at], port=port)
        self._set_probes(tuple(known))

    def _remove_probe(self, at: int) -> None:
        known = self.control.devices.probe_settings()
        self._set_probes((*known[:at], *known[at + 1 :]))

    def _attach(self, name: str, stands: QComboBox, _at: int) -> None:
        track = str(stands.currentData() or "")
        self.control.do(lambda run: run.press(Attach(name, track)))

    def _take_long(self, text: str) -> None:
        long = read_length(text)
        if not 10 <= long <= 1000:
            raise AplombError("Enter 10 to 1000 mm; measure the bar with a ruler.")
        self._session.keep(screen_px_mm=BAR_PX / long)

    def _take_convention(self, at: int) -> None:
        house = replace(
            self._session.reference.house, counts_enclosing=bool(self.convention.itemData(at))
        )
        self._session.store.set_house(self.convention.itemText(at), house)

    # stand-ins

    def _put_on(self, text: str) -> None:
        scale = self.control.devices.scale.simulated
        if scale is None:
            raise AplombError(
                "The simulated scale is not in use. Open a run, and leave "
                "the port of the scale empty."
            )
        off = text.strip().startswith(("-", "−"))
        grams = read_mass(text.strip().lstrip("-−"), zero=True)
        scale.put_on(-grams if off else grams)

    def all_off(self) -> None:
        """Take everything off the simulated scale."""
        scale = self.control.devices.scale.simulated
        if scale is not None:
            scale.clear()

    def _turn(self, text: str) -> None:
        simulation = self.control.devices.simulation
        if simulation is None or simulation.made_oven is None:
            raise AplombError(
                "The simulated oven is not in use. Open a run, and leave "
                "the port of the oven empty."
            )
        simulation.made_oven.turn(read_temp(text) if text.strip() else None)

    def _door(self, is_open: bool) -> None:
        simulation = self.control.devices.simulation
        if simulation is not None and simulation.made_oven is not None:
            simulation.made_oven.door(is_open=is_open)

    def disturb(self, how: str) -> None:
        """Let the chosen stand-in fail in a way, or mend it."""
        link = self.control.devices.links.get(self.which.currentText())
        probe = link.simulated if link is not None else None
        if probe is None:
            return
        if how == "babble":
            probe.babble(b"\x00temp what\n")
            return
        probe.block.pulled = how == "pull"
        probe.block.lid_open = how == "lid"
        probe.fall_silent(on=how == "silent")
