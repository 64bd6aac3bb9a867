"""A drawing that is as high as its width asks for."""

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from aplomb.desk.kit.theme import look


class Fitted(QWidget):
    """Base of drawings whose height follows from their width and the size of text."""

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def height_at(self, width: int) -> int:
        """Give the height that is wanted at a width [px]."""
        raise NotImplementedError

    def fit(self) -> None:
        """Take the height that is wanted now, and paint anew."""
        self.setFixedHeight(self.height_at(self.width()))
        self.update()

    def _look_changed(self) -> None:
        self.fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep to the height that goes with the width."""
        super().resizeEvent(event)
        self.fit()
