"""What nobody caught: what nobody expected is told once, and can be kept as a report."""

import platform
import sys
import threading
import traceback
from collections.abc import Callable
from types import TracebackType

from PySide6.QtCore import QObject, QTimer, Signal, qVersion

from aplomb import __version__
from aplomb.core.base.errors import AplombError
from aplomb.desk.kit.guard import end_painters

MOST_TOLD = 3
"""Different faults that are told with a dialog; further ones are only counted."""
TOLD = (
    "Something went wrong in Aplomb; you did nothing wrong. Your last action was not "
    "carried out, and everything before it is safe. You can carry on. If it happens "
    "again, save the report and send it to whoever looks after Aplomb for you; it "
    "contains no formulas."
)


def report_of(error: BaseException) -> str:
    """Write what is known of a fault: versions, and where in the program it was."""
    frames = traceback.extract_tb(error.__traceback__)
    where = "\n".join(f"  {f.name}, {_short(f.filename)} line {f.lineno}" for f in frames)
    return (
        f"Aplomb {__version__}, Python {platform.python_version()}, Qt {qVersion()}\n"
        f"{type(error).__name__}: {error}\n{where}\n"
    )


def _short(path: str) -> str:
    """A file of the program without the folders of this machine."""
    parts = path.replace("\\", "/").split("/")
    return "/".join(parts[parts.index("aplomb") :] if "aplomb" in parts else parts[-1:])


class UncaughtErrors(QObject):
    """Catches what is raised and not caught, in the window's thread and beside it.

    A refusal in words that nobody caught is said at the foot of the window, like any other.

    Parameters
    ----------
    say : callable
        Takes words for the foot of the window.
    tell : callable
        Takes the words and the report of a fault; asks the user.

    Attributes
    ----------
    faults : list of str
        The reports so far, each once.
    """

    _came = Signal(object)

    def __init__(
        self,
        say: Callable[[str], object],
        tell: Callable[[str, str], object],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._say, self._tell = say, tell
        self.faults: list[str] = []
        self._telling = False
        self._came.connect(self.caught)

    def spread(self) -> None:
        """Catch from now on."""
        sys.excepthook = self._hook
        threading.excepthook = lambda args: self._came.emit(args.exc_value)
        sys.unraisablehook = lambda args: self._came.emit(args.exc_value)

    def _hook(
        self, kind: type[BaseException], error: BaseException, trace: TracebackType | None
    ) -> None:
        if isinstance(error, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        end_painters(trace)
        self._came.emit(error)

    def caught(self, error: BaseException) -> None:
        """Say a refusal; tell a fault, once."""
        if isinstance(error, AplombError):
            self._say(str(error))
            return
        report = report_of(error)
        if report in self.faults:
            return
        self.faults.append(report)
        print(report, file=sys.stderr)  # noqa: T201  # whoever started it from a terminal sees it
        if len(self.faults) <= MOST_TOLD and not self._telling:
            self._telling = True
            QTimer.singleShot(0, self, lambda: self._ask(report))

    def _ask(self, report: str) -> None:
        try:
            self._tell(TOLD, report)
        finally:
            self._telling = False
