"""An alarm that is heard, where the machine has a way to play one."""

import shutil

from PySide6.QtCore import QObject, QProcess
from PySide6.QtWidgets import QApplication

from aplomb.assets import asset

PLAYERS = (("pw-play",), ("paplay",), ("aplay", "-q"))
"""What plays a file, the first that is there."""


class Sound(QObject):
    """Plays the alarm beside everything else; without a player it is the desktop's own signal."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._process: QProcess | None = None

    @staticmethod
    def player() -> tuple[str, ...]:
        """Give the command that plays a file; empty when there is none."""
        return next((each for each in PLAYERS if shutil.which(each[0])), ())

    def ring(self) -> None:
        """Ring once; not again while it still rings."""
        command = self.player()
        if not command:
            QApplication.beep()
            return
        if self._process is None:
            self._process = QProcess(self)
        if self._process.state() == QProcess.ProcessState.NotRunning:
            arguments = [*command[1:], str(asset("sounds", "alarm.wav"))]
            self._process.start(command[0], arguments)
