"""Asking for a file: a dialog that looks at names only and never opens what it lists.

Qt's own would open files to tell their kind. Closing one drops every lock that this process holds
on it, and with it SQLite's on the open book.
"""

from functools import cache
from pathlib import Path

from PySide6.QtCore import QFileInfo, QSize
from PySide6.QtGui import QAbstractFileIconProvider, QIcon
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QStyle, QWidget

from aplomb.desk.kit.fields import run_dialog
from aplomb.disk import LONGEST_NAME

SIZE = QSize(780, 500)


class PlainIcons(QAbstractFileIconProvider):
    """A folder or a file: nothing more is said of it, so nothing more must be known."""

    def __init__(self) -> None:
        super().__init__()
        style = QApplication.style()
        self._folder = style.standardIcon(QStyle.StandardPixmap.SP_DirIcon)
        self._file = style.standardIcon(QStyle.StandardPixmap.SP_FileIcon)

    def icon(self, what: QFileInfo | QAbstractFileIconProvider.IconType) -> QIcon:
        """Give the icon of a folder or of a file."""
        if isinstance(what, QFileInfo):
            return self._folder if what.isDir() else self._file
        folders = (
            QAbstractFileIconProvider.IconType.Folder,
            QAbstractFileIconProvider.IconType.Drive,
            QAbstractFileIconProvider.IconType.Computer,
        )
        return self._folder if what in folders else self._file

    def type(self, what: QFileInfo) -> str:
        """Say what it is by its name alone."""
        return "Folder" if what.isDir() else (what.suffix().upper() + " file").strip()


@cache
def _icons() -> PlainIcons:
    return PlainIcons()


def ask_open_path(parent: QWidget, words: str, start: Path, kinds: str) -> Path | None:
    """Ask for a file that is there; None when nothing was chosen.

    Parameters
    ----------
    words : str
        Title of the dialog.
    start : Path
        The folder it begins in.
    kinds : str
        Kinds of file as Qt writes them: ``Aplomb books (*.aplomb)``.
    """
    dialog = _dialog(parent, words, kinds)
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptOpen)
    dialog.setFileMode(QFileDialog.FileMode.ExistingFile)
    dialog.setDirectory(str(start))
    return _path(choose(dialog))


def ask_save_path(
    parent: QWidget, words: str, start: Path, kinds: str, ending: str = ""
) -> Path | None:
    """Ask for a file to write; None when nothing was chosen.

    Parameters
    ----------
    parent, words, kinds
        As `ask_open_path`.
    start : Path
        The name that is proposed, in its folder; it is cut to what a disk takes.
    ending : str
        Put behind a name that has none: ``.pdf``.
    """
    dialog = _dialog(parent, words, kinds)
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    dialog.setFileMode(QFileDialog.FileMode.AnyFile)
    dialog.setDirectory(str(start.parent))
    dialog.selectFile(fitting_name(start.name))
    path = _path(choose(dialog))
    if path is None or path.suffix:
        return path
    return path.parent / (path.name + ending)


def fitting_name(name: str) -> str:
    """Shorten the stem of a file's name to what a disk takes; its ending stays."""
    path = Path(name)
    stem, ending = path.stem, path.suffix
    while stem and len((stem + ending).encode(errors="replace")) > LONGEST_NAME:
        stem = stem[:-1]
    return stem + ending


def choose(dialog: QFileDialog) -> str:
    """Run a file dialog; empty when nothing was chosen."""
    run_dialog(dialog)
    files = dialog.selectedFiles()
    return files[0] if dialog.result() == QDialog.DialogCode.Accepted and files else ""


def _dialog(parent: QWidget, words: str, kinds: str) -> QFileDialog:
    dialog = QFileDialog(parent, words)
    dialog.setIconProvider(_icons())
    dialog.setOption(QFileDialog.Option.DontUseCustomDirectoryIcons)
    dialog.setNameFilter(kinds)
    dialog.resize(SIZE)
    return dialog


def _path(text: str) -> Path | None:
    return Path(text) if text else None
