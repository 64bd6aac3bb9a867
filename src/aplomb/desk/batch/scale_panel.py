"""Scale port; and, for the simulated one, weight to put on it."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFrame, QLineEdit, QPushButton, QVBoxLayout

from aplomb.core.base.constants import GRAMS_PER_OUNCE
from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import example_mass, mass_unit
from aplomb.desk.kit.fields import button, give_words, label, row
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.scale_link import SIMULATED, ScaleLink
from aplomb.desk.kit.typed import Field
from aplomb.devices.listening import read_port
from aplomb.work.figures.typed import read_mass

SMALLEST_SHARE_G = 1.0
"""The button for a percent more puts on this much at the least [g]."""
SOME = {"g": (5.0, "5 g"), "oz": (GRAMS_PER_OUNCE / 4, "¼ oz")}
"""What the buttons for a little put on and take off [g], and its words, by the house's unit."""


def _some_more(sign: str = "") -> str:
    return f"{sign} {SOME[mass_unit()][1]}".strip()


class ScalePanel(QFrame):
    """Choice of the scale, and a hand for the simulated one.

    Parameters
    ----------
    link : ScaleLink
        What listens to the scale.
    target : callable
        Gives what is wanted on the scale [g]; None when nothing is.
    on_error : callable
        Takes the reason why something typed cannot be used.

    Signals
    -------
    port_chosen : str
        Another scale.
    """

    port_chosen = Signal(str)

    def __init__(
        self, link: ScaleLink, target: Callable[[], float | None], on_error: Callable[[str], None]
    ) -> None:
        super().__init__()
        self._link, self._target, self._on_error = link, target, on_error
        self._on_it = 0.0
        self.port = SIMULATED
        self.ports = QComboBox()
        self.ports.setAccessibleName("Scale port")
        typed = QLineEdit()
        self.ports.setLineEdit(typed)
        typed.setAccessibleName(self.ports.accessibleName())
        self.ports.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self._hand = self._simulated_hand()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.ports)
        column.addWidget(self._hand)
        self.ports.activated.connect(lambda _: self._choose())
        typed.returnPressed.connect(self._choose)
        link.weighed.connect(self._weighed)

    def _simulated_hand(self) -> QFrame:
        hand = QFrame()
        inner = QVBoxLayout(hand)
        inner.setContentsMargins(0, 0, 0, 0)
        words = label("Put weight on the simulated scale:", "small")
        words.setWordWrap(True)
        inner.addWidget(words)
        self.put = Field("Put on the simulated scale", self._put_on, self._on_error, eager=True)
        give_words(self.put, lambda: f"{example_mass()}; −{_some_more()} takes off")
        wanted = button("Put on the target weight", "", self._put_wanted, "Ctrl+G")
        wanted.setShortcut("Ctrl+G")
        some = Flow(
            wanted,
            button("+ 1 %", "", partial(self._put_share, 0.01)),
            *self._small_steps(),
            button("All off", "", self._clear),
            spacing=6,
        )
        self.plug = button("Simulate unplugging", "", self._plug)
        inner.addWidget(self.put)
        inner.addLayout(some)
        inner.addLayout(row(self.plug, None))
        return hand

    def _small_steps(self) -> list[QPushButton]:
        made = []
        for sign, way in (("+", 1), ("−", -1)):
            step = button("", "", partial(self._put_some, way))
            give_words(step, partial(_some_more, sign))
            made.append(step)
        return made

    def show_port(self, port: str) -> None:
        """Show which scale is listened to, and all that are there."""
        from aplomb.devices.listening import ports

        self.port = port
        self.ports.clear()
        self.ports.addItem("simulated", SIMULATED)
        for device, words in ports():
            self.ports.addItem(f"{device} ({words})" if words != device else device, device)
        if port and self.ports.findData(port) < 0:
            self.ports.addItem(port, port)
        self.ports.setCurrentIndex(max(0, self.ports.findData(port)))
        self._hand.setVisible(port == SIMULATED)

    def _choose(self) -> None:
        typed = self.ports.currentText().strip()
        at = self.ports.findText(typed)
        port = self.ports.itemData(at) if at >= 0 else typed
        if port == self.port:
            return
        try:
            if port != SIMULATED:
                port = read_port(port)
        except AplombError as error:
            self._on_error(str(error))
            return
        self._on_error("")
        self.port_chosen.emit(port)

    def _weighed(self, grams: float, _steady: bool) -> None:
        self._on_it = grams

    def _put_on(self, text: str) -> None:
        bare = text.strip()
        if not bare:
            return
        grams = read_mass(bare.lstrip("-−+ "))
        if self._link.simulated is None:
            raise AmountError("the simulated scale is not in use", text, 0, len(text))
        self.put.show_value("")
        self._put_grams(-grams if bare[0] in "-−" else grams)

    def _put_grams(self, grams: float) -> None:
        if self._link.simulated is not None:
            self._link.simulated.put_on(grams)

    def _put_some(self, way: int) -> None:
        self._put_grams(way * SOME[mass_unit()][0])

    def _put_wanted(self) -> None:
        target = self._target()
        if target is not None:
            self._put_grams(target - self._on_it)

    def _put_share(self, share: float) -> None:
        target = self._target()
        if target is not None:
            self._put_grams(max(SMALLEST_SHARE_G, share * target))

    def _clear(self) -> None:
        if self._link.simulated is not None:
            self._link.simulated.clear()
            self._link.tare()

    def _plug(self) -> None:
        scale = self._link.simulated
        if scale is None:
            return
        if scale.port:
            scale.unplug()
            self.plug.setText("Plug it in again")
        else:
            self.plug.setText("Simulate unplugging")
            self._link.listen(SIMULATED)
