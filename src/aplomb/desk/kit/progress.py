"""Progress of work beside the window, with a way to stop it."""

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QProgressDialog, QWidget

from aplomb.desk.kit.fields import bury_dialog
from aplomb.desk.kit.theme import look

SHOWN_AFTER_MS = 500
"""What is done sooner shows no progress [ms]."""


class Progress(QObject):
    """A bar that goes on while work beside the window says how far it is.

    Parameters
    ----------
    window : QWidget
        Over which it stands.
    words : str
        What is done: ``Reading prices.csv …``.
    most : int
        How far it goes [-].

    Attributes
    ----------
    stopped : bool
        True once the user has stopped it.
    """

    _moved = Signal(int)

    def __init__(self, window: QWidget, words: str, most: int) -> None:
        super().__init__(window)
        self.stopped = False
        self._bar = bar = QProgressDialog(words, "Stop", 0, max(1, most), window)
        bar.setStyleSheet(look.theme.style())
        bar.setWindowTitle("Aplomb")
        bar.setWindowModality(Qt.WindowModality.WindowModal)
        bar.setMinimumDuration(SHOWN_AFTER_MS)
        bar.setAutoClose(False)
        bar.setAutoReset(False)
        bar.canceled.connect(self._stop)
        self._moved.connect(bar.setValue)

    def watch(self, done: int) -> bool:
        """Say how far it is, from wherever the work is done; False when it shall stop."""
        self._moved.emit(done)
        return not self.stopped

    def end(self) -> None:
        """Take the bar away."""
        bury_dialog(self._bar)
        self.deleteLater()

    def _stop(self) -> None:
        self.stopped = True
