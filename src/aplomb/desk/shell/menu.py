"""The menu of the book, made from the table of commands."""

from collections.abc import Callable, Mapping

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QMenu, QWidget

from aplomb.desk.kit.theme import look
from aplomb.work.commands import menu_groups


def pop_up_menu(
    parent: QWidget,
    beside: QWidget,
    do: Callable[[str], object],
    more: Mapping[str, str],
    *,
    some: bool,
) -> None:
    """Show the menu beside a widget.

    Parameters
    ----------
    beside : QWidget
        It opens to the right of this, and upwards.
    do : callable
        Does what was chosen; takes its key.
    more : dict of str
        What is said behind the words of some commands, by their keys.
    some : bool
        A formula is in hand.
    """
    menu = QMenu(parent)
    menu.setStyleSheet(look.theme.style())
    for i, group in enumerate(menu_groups()):
        if i:
            menu.addSeparator()
        for command in group:
            keys = f"\t{command.shown_keys.replace('-', '−')}" if command.keys else ""
            words = (command.menu or command.words) + more.get(command.key, "")
            action = menu.addAction(words + keys)
            action.triggered.connect(lambda _=False, key=command.key: do(key))
            action.setEnabled(some or not command.needs)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    up = -menu.sizeHint().height() + beside.height()
    menu.popup(beside.mapToGlobal(QPoint(beside.width() - 6, up)))
