"""One paste of the day: when it must be ready, and what it starts from."""

from collections.abc import Callable
from functools import partial

from msgspec import Struct
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel

from aplomb.desk.kit.fields import choice, fix_width, give_checked, label, on_checked
from aplomb.desk.kit.typed import Field


class Taken(Struct, frozen=True):
    """What is done with what is typed or chosen; each takes the identity of the paste first."""

    ready: Callable[[str, str], None]
    taken: Callable[[str, bool], None]
    source: Callable[[str, str], None]
    wrong: Callable[[str], None]


class PasteRow:
    """The letter and name of a paste, when it must be ready, and what it starts from.

    Parameters
    ----------
    uid : str
        Of its formula.
    """

    def __init__(self, uid: str, does: Taken) -> None:
        self.letter: QLabel = label("", "strong")
        self.name: QLabel = label("")
        self.name.setMinimumWidth(60)
        self.name.setWordWrap(True)
        self.ready = Field("Ready", partial(does.ready, uid), does.wrong)
        fix_width(self.ready, 68)
        self.source = choice("Starts from")
        self.source.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.source.setMinimumContentsLength(11)
        self.taken = QCheckBox("")
        self.taken.setToolTip("In this timetable")
        self.source.activated.connect(lambda at: does.source(uid, self.source.itemData(at)))
        on_checked(self.taken, partial(does.taken, uid))
        self.widgets = (self.letter, self.taken, self.name, self.ready, self.source)

    def show_row(
        self,
        letter: str,
        name: str,
        ready: str,
        *,
        taken: bool,
        sources: list[tuple[str, str]],
        source: str,
    ) -> None:
        """Show a paste.

        Parameters
        ----------
        taken : bool
            It is in this timetable.
        sources : list of (str, str)
            What it can begin from, and in words.
        source : str
            What it starts from; one that is gone is shown as the first.
        """
        self.letter.setText(letter)
        self.name.setText(name)
        self.ready.setAccessibleName(f"{name}, ready by")
        self.ready.show_value(ready)
        self.taken.setAccessibleName(f"{name}, in this timetable")
        give_checked(self.taken, taken)
        box = self.source
        box.setAccessibleName(f"{name}, starts from")
        if [(box.itemData(i), box.itemText(i)) for i in range(box.count())] != sources:
            box.clear()
            for key, words in sources:
                box.addItem(words, key)
        box.setCurrentIndex(max(0, box.findData(source)))
        box.setToolTip(box.currentText())
        if len(sources) < 2 and box.hasFocus():  # nothing to choose
            self.ready.setFocus()
        box.setVisible(len(sources) > 1)
