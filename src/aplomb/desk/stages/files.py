"""Files that the window asks for: where to, where from, what was refused, what is being written."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from PySide6.QtWidgets import QWidget

from aplomb.core.base.errors import AplombError
from aplomb.desk.session import Session

if TYPE_CHECKING:
    from aplomb.desk.kit.background import LatestJob


class Desk(Protocol):
    """The window, as far as files need it."""

    def say(self, words: str) -> None:
        """Say something for a while."""

    def commit(self) -> bool:
        """Hand over what is being typed."""

    def show_stage(self, number: int) -> None:
        """Go to a stage."""


class FileAsker:
    """Asks for files and says what became of them, in the window.

    Parameters
    ----------
    window : QWidget
        Parent of the dialogs.
    """

    def __init__(self, desk: Desk, window: QWidget, session: Session) -> None:
        self._desk, self._window, self._session = desk, window, session
        self.reading: LatestJob | None = None
        self.writing: LatestJob | None = None

    def ask_path(self, words: str, name: str, kinds: str, ending: str) -> Path | None:
        """Ask where to write; None when nothing is chosen."""
        from aplomb.desk.kit.ask_path import ask_save_path

        return ask_save_path(self._window, words, Path.home() / name, kinds, ending)

    def ask_open(self, words: str, start: Path, kinds: str) -> Path | None:
        """Ask for a file to read; None when nothing is chosen."""
        from aplomb.desk.kit.ask_path import ask_open_path

        return ask_open_path(self._window, words, start, kinds)

    def attempt(self, act: Callable[[], None], done: str = "") -> bool:
        """Do something with files; say what was refused."""
        try:
            act()
        except AplombError as error:
            self.refuse(str(error))
            return False
        if done:
            self._desk.say(done)
        return True

    def refuse(self, words: str) -> None:
        """Say why something could not be done."""
        from aplomb.desk.stages.asking import tell

        tell(self._window, words)

    def write_beside(self, path: Path, make: Callable[[], bytes]) -> None:
        """Make a file beside the window: a plan at true size has dozens of pages."""
        from aplomb.desk.kit.background import LatestJob
        from aplomb.disk import write_bytes

        def came(found: "bytes | AplombError") -> None:
            if isinstance(found, AplombError):
                self.refuse(str(found))
            else:
                self.attempt(lambda: write_bytes(path, found), f"Saved: {path.name}")

        self.writing = LatestJob(came, self._window)
        self._desk.say(f"Saving {path.name} …")
        self.writing.ask(make)


def file_name(name: str) -> str:
    """Give a name that any file may have."""
    return (
        "".join(ch if ch.isalnum() or ch in " -_,()" else "-" for ch in name).strip() or "formula"
    )
