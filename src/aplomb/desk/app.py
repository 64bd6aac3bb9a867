"""Start the desk."""

import gc
import os
import signal
import sys
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from PySide6.QtCore import QObject, QSocketNotifier, QTimer
from PySide6.QtGui import QGuiApplication, QIcon, QPixmap
from PySide6.QtWidgets import QApplication

from aplomb.assets import asset
from aplomb.book import settings as kept
from aplomb.book.book import Book, BookError
from aplomb.book.paths import demo_book, own_book
from aplomb.core.base.errors import AplombError
from aplomb.desk.kit.collecting import Collector
from aplomb.desk.kit.theme import load_fonts
from aplomb.desk.session import Session
from aplomb.desk.shell.window import Window

NO_DISPLAY = (
    "no display to open a window on. Run it on a desktop, or without one as "
    "“xvfb-run -a ./aplomb” (Debian package xvfb) or “QT_QPA_PLATFORM=offscreen ./aplomb”"
)


def check_display() -> None:
    """Raise AplombError when Qt would find no display; Qt itself would abort."""
    chosen = os.environ.get("QT_QPA_PLATFORM", "")
    if chosen.split(":")[0] in ("offscreen", "minimal", "vnc", "linuxfb", "eglfs"):
        return
    if sys.platform == "linux" and not (
        os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")
    ):
        raise AplombError(NO_DISPLAY)


def gui_for_printing() -> QGuiApplication:
    """Give an application that can print without a display; the caller keeps it."""
    there = QGuiApplication.instance()
    if isinstance(there, QGuiApplication):
        return there
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from aplomb.desk.kit.local import take_money_and_days

    app = QGuiApplication(["aplomb"])
    load_fonts()
    take_money_and_days()
    return app


def make_application() -> QApplication:
    """Make the application with its fonts."""
    # By argument: asked for a style, the binding makes every class of the toolkit to tell which.
    app = QApplication(["aplomb", "-style", "Fusion"])
    app.setApplicationName("Aplomb")
    app.setDesktopFileName("aplomb")
    load_fonts()
    return app


def set_icon(app: QApplication) -> None:
    """Give the application its icon; the first window does not wait for it."""
    icon = QPixmap()
    icon.loadFromData(asset("icons", "aplomb.svg").read_bytes(), "SVG")
    app.setWindowIcon(QIcon(icon))


def open_window(
    path: Path | None, *, demo: bool, unready: Callable[[AplombError], object] | None = None
) -> Window:
    """Open a book in a window, not yet shown.

    Parameters
    ----------
    path : Path or None
        The book; None for the one opened last, else the user's own.
    demo : bool
        Demo book instead.
    unready : callable or None
        As for `Window`.

    Raises
    ------
    AplombError
        When the book cannot be opened.
    """
    settings = kept.load()
    why = ""
    if demo:
        book = _own(demo_book())
    elif path is not None:
        book = Book(path)
    else:
        book, why = _last_or_own(settings.last_book)
    session = Session(book, settings)
    if demo and not session.entries and not book.read_only:
        from aplomb.work.open_book.demo import fill_with_demo

        fill_with_demo(session.work)
    if why:
        session.work.notice = f"{why} {session.work.notice}".rstrip()
    return Window(session, unready)


def _own(path: Path) -> Book:
    """Open a book in the own folder; an empty file there was left by a start that was cut off."""
    with suppress(OSError):
        if path.stat().st_size == 0:
            path.unlink()
    return Book(path)


def _last_or_own(last: str) -> tuple[Book, str]:
    """Open the book opened last, or else the user's own, or else a new one.

    The window opens in any case, and says what could not be.

    Returns
    -------
    tuple of (Book, why it is another)

    Raises
    ------
    BookError
        When not even a new book can be made in the own folder.
    """
    whys = []
    if last:
        try:
            if not Path(last).exists():
                raise BookError(f"The last book you used, {last[:200]}, is no longer there.")
            return Book(Path(last)), ""
        except (BookError, OSError, ValueError) as error:
            whys.append(f"{error} Your own book is open instead.")
    try:
        return _own(own_book()), " ".join(whys)
    except BookError as error:
        whys.append(f"{error} A new book is open instead.")
        refused = error
    for number in range(2, 100):
        path = own_book().with_name(f"{own_book().stem} {number}.aplomb")
        if not os.path.lexists(path):
            try:
                return Book(path), " ".join(whys)
            except BookError:
                break
    raise refused


class Ending(QObject):
    """Ends quietly when the system or the terminal asks: what is typed and what waits is kept.

    A signal's number comes through a pipe, so that it is dealt with between two events of the
    window and not in the middle of one.
    """

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window = window
        self.got = 0
        self._in, out = os.pipe2(os.O_NONBLOCK | os.O_CLOEXEC)
        signal.set_wakeup_fd(out, warn_on_full_buffer=False)
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, lambda *_: None)
        self._notifier = QSocketNotifier(self._in, QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._end)

    def _end(self) -> None:
        with suppress(OSError):
            self.got = os.read(self._in, 1)[0]
        self._window.commit()
        self._window.session.close()
        QApplication.exit(128 + self.got)


def run(path: Path | None, *, demo: bool, smoke: bool) -> int:
    """Run the desk.

    Exit code.

    Parameters
    ----------
    path : Path or None
        The book to open.
    demo : bool
        Open the demo book.
    smoke : bool
        Paint the first window once and leave.

    Raises
    ------
    AplombError
        Without a display, or when the book cannot be opened.
    """
    check_display()
    refused: list[AplombError] = []

    def give_up(why: AplombError) -> None:
        refused.append(why)
        QApplication.exit(1)

    app = make_application()
    window = open_window(path, demo=demo, unready=give_up)
    if smoke:
        QTimer.singleShot(0, window.close)  # before the window asks for more
    window.resize(1280, 800)
    window.show()
    window.activateWindow()
    gc.freeze()
    Collector(app)
    window.uncaught.spread()
    ending = Ending(window)
    if smoke:
        window.repaint()
    else:
        QTimer.singleShot(0, lambda: set_icon(app))
    code = app.exec()
    del ending
    if refused:
        raise refused[0]
    return code
