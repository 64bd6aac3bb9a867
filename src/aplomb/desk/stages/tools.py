"""Rows of buttons for commands and pages, made from the one table."""

from collections.abc import Callable, Iterable

from PySide6.QtWidgets import QPushButton

from aplomb.desk.kit.fields import button
from aplomb.desk.kit.flow import Flow
from aplomb.work.commands import COMMANDS, pages_of

Asked = Callable[[str, object], None]


def command_button(asked: Asked, key: str, kind: str = "quiet") -> QPushButton:
    """Make a button of a command: its words, its keys as a hint.

    Parameters
    ----------
    asked : callable
        Takes the key of the command and what it is about.
    key : str
        Of the table of commands.
    kind : str
        Of the style sheet.
    """
    command = COMMANDS[key]
    return button(command.title, kind, lambda: asked(key, None), command.shown_keys)


def command_row(asked: Asked, keys: Iterable[str], room: str = "") -> Flow:
    """Lay buttons of commands in a row that wraps: some, then all pages beside a stage."""
    pages = pages_of(room) if room else ()
    every = [*keys, *(page.key for page in pages)]
    return Flow(*(command_button(asked, key) for key in every), spacing=4)
