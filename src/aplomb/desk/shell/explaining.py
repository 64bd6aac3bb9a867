"""Words of the trade on the screen say what they mean when the pointer rests on them."""

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QLabel, QWidget
from shiboken6 import isValid

from aplomb.desk.kit.timers import single_shot


class Explaining(QObject):
    """Gives the captions of what is shown their tool tips, a while after it is shown.

    The glossary is read then and not before: no start waits for it.
    """

    AFTER_MS = 700

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._shown: QWidget | None = None
        self._timer = single_shot(self, self.AFTER_MS)
        self._timer.timeout.connect(self._explain)

    def shown(self, root: QWidget) -> None:
        """Take what is shown now."""
        self._shown = root
        self._timer.start()

    def _explain(self) -> None:
        root, self._shown = self._shown, None
        if root is not None and isValid(root):
            explain(root)


def explain(root: QWidget) -> None:
    """Give every caption below that is a word of the glossary its tool tip, if it has none."""
    from aplomb.assets.shipped import glossary  # no start waits for it

    words = glossary()
    for each in root.findChildren(QLabel):
        known = words.get(each.text().partition(",")[0].strip().lower())
        if known is not None and not each.toolTip():
            also = f"\nAlso called: {', '.join(known.also)}." if known.also else ""
            each.setToolTip(f"{known.says}{also}")
