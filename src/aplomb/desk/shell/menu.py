"""The menu of the book: formulas, places, papers, books, and what is the window's own."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QMenu, QWidget

from aplomb.desk.kit.fields import style_of_window


class Command(NamedTuple):
    """Something that can be done, in the menu and by its keys.

    Attributes
    ----------
    words : str
    keys : str
        As Qt writes them; empty for none.
    act : callable
    need : bool
        Only with a formula in hand.
    """

    words: str
    keys: str
    act: Callable[[], object]
    need: bool = False


def pop_up_menu(
    parent: QWidget, groups: Sequence[Sequence[Command]], beside: QWidget,
    do: Callable[[Callable[[], object]], object], *, some: bool,
) -> None:  # fmt: skip
    """Show a menu of commands beside a widget.

    Parameters
    ----------
    parent : QWidget
    groups : sequence of sequences of Command
        Ruled off from one another.
    beside : QWidget
        It opens to the right of this, and upwards.
    do : callable
        Does what was chosen.
    some : bool
        A formula is in hand.
    """
    menu = QMenu(parent)
    menu.setStyleSheet(style_of_window(parent))
    for i, group in enumerate(groups):
        if i:
            menu.addSeparator()
        for command in group:
            keys = f"\t{command.keys.replace('-', '−')}" if command.keys else ""
            action = menu.addAction(command.words + keys)
            action.triggered.connect(lambda _=False, act=command.act: do(act))
            action.setEnabled(some or not command.need)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    up = -menu.sizeHint().height() + beside.height()
    menu.popup(beside.mapToGlobal(QPoint(beside.width() - 6, up)))
