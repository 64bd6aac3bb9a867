"""A probe's log: typed, from a file, or read from the probe itself."""

import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtGui import QTextCursor
from PySide6.QtWidgets import QFrame, QPlainTextEdit, QVBoxLayout

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import celsius_text, num
from aplomb.desk.kit.ask_path import ask_open_path
from aplomb.desk.kit.fields import button, card, fix_width, label, row, wrapping
from aplomb.desk.kit.probe_link import ProbeLink
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.devices.listening import read_port
from aplomb.devices.protocol import Reading
from aplomb.disk import read_bytes

MOST_BYTES = 20_000_000
APART_MIN = 0.5
"""Readings nearer than this to the last are not written down [min]."""
MOST_READINGS = 5_000
"""Some forty hours."""


class ProbeCard:
    """The card of the log.

    Parameters
    ----------
    on_error : callable
        Takes what is wrong, empty when all is well again.
    parent : QObject
        Owns the link to the probe.

    Attributes
    ----------
    log : QPlainTextEdit
        A reading a line: minutes and temperature.
    """

    def __init__(self, session: Session, on_error: Callable[[str], None], parent: QObject) -> None:
        self._session, self._on_error = session, on_error
        self.link = ProbeLink(parent)
        self.link.read.connect(self._take_reading)
        self.link.failed.connect(self._failed)
        parent.destroyed.connect(self.link.stop)
        self._began = self._last = 0.0
        self._many = 0
        self.frame: QFrame
        column: QVBoxLayout
        self.frame, column = card()
        column.addWidget(label("A probe’s log", "title"))
        self.log = QPlainTextEdit()
        self.log.setAccessibleName("Log: minutes and temperature, one reading per line")
        self.log.setPlaceholderText("0  19.8\n10  18.9\n20  17.6\n…")
        self.log.setTabChangesFocus(True)
        self.log.setMinimumHeight(110)
        self.port = Field("Port of the probe", self._take_port, on_error)
        self.port.setPlaceholderText("simulated")
        self.port.setToolTip("A device like /dev/ttyUSB1, or an address like 192.0.2.8:4001")
        fix_width(self.port, 150)
        self.listen = button("Start reading", "", self._listen)
        self._state = wrapping("", "small")
        column.addWidget(self.log)
        column.addLayout(row(button("Open a log file…", "", self._from_file), None))
        column.addLayout(row(self.listen, label("at", "small"), self.port, None))
        column.addWidget(self._state)
        self.port.show_value(session.settings.probe_port)

    def _from_file(self) -> None:
        path = ask_open_path(self.frame, "A probe’s log", Path.home(), "Logs (*.csv *.txt *.tsv)")
        if path is None:
            return
        try:
            self._stop()
            self.log.setPlainText(read_bytes(path, MOST_BYTES).decode("utf-8", "replace"))
        except AplombError as error:
            self._on_error(str(error))

    def _take_port(self, text: str) -> None:
        port = read_port(text, "probe") if text.strip() else ""
        self._session.keep(probe_port=port)
        self.port.show_value(port)
        if self.link.listening:
            self._stop()

    def _listen(self) -> None:
        if self.link.listening:
            self._stop()
            return
        self._on_error("")
        edit = QTextCursor(self.log.document())  # so that Ctrl+Z brings back what stood there
        edit.select(QTextCursor.SelectionType.Document)
        edit.removeSelectedText()
        self._began, self._last, self._many = time.monotonic(), -APART_MIN, 0
        self.link.listen(self._session.settings.probe_port)
        self.listen.setText("Stop reading")
        self._state.setText("Waiting for the first reading …")

    def _stop(self) -> None:
        if not self.link.listening:
            return
        self.link.stop()
        self.listen.setText("Start reading")
        self._state.setText(f"{self._many} readings recorded." if self._many else "")

    def _take_reading(self, reading: Reading) -> None:
        minutes = reading.minutes
        if minutes is None:
            minutes = (time.monotonic() - self._began) / 60
        if minutes < self._last - APART_MIN:
            self._failed(
                "the probe’s clock has jumped back: it was switched off and on. Start reading again"
            )
            return
        if minutes < self._last + APART_MIN - 1e-9:
            return
        self._last = minutes
        self._many += 1
        self.log.appendPlainText(
            f"{num(minutes, '.2f')}  {celsius_text(reading.temp_c, '.2f')}".replace("\u00a0", " ")
        )
        self._state.setText(
            f"{celsius_text(reading.temp_c, '.1f').replace('-', '−')}; {self._many} "
            "readings. Reading continues while you use other pages."
        )
        if self._many >= MOST_READINGS:
            self._stop()

    def _failed(self, words: str) -> None:
        self._state.setText(f"{words[:1].upper()}{words[1:]}.")
