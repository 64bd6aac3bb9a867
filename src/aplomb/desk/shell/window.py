"""The window: rail, headline, stages, second opinion, section strip."""

import time
from contextlib import nullcontext
from functools import partial
from itertools import pairwise
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import (
    QCloseEvent,
    QKeyEvent,
    QKeySequence,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QShortcut,
)
from PySide6.QtWidgets import (
    QApplication,
    QWidget,
)

from aplomb.core.base.errors import AplombError
from aplomb.desk.kit.fields import respell
from aplomb.desk.kit.mid_event import graveyard, mid_event
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.timers import single_shot
from aplomb.desk.kit.typed import Field
from aplomb.desk.kit.walking import begin_in, can_hold, focus_next_part
from aplomb.desk.session import Session
from aplomb.desk.shell.sided import SidedWindow
from aplomb.desk.shell.uncaught import UncaughtErrors
from aplomb.work.commands import (
    COMMANDS,
    PASTE,
    SHELF,
)

if TYPE_CHECKING:
    from collections.abc import Callable

    from aplomb.desk.paper.giving import Papers
    from aplomb.desk.shell.banner import Banner
    from aplomb.desk.shell.files import Files

FILL_AFTER_MS = 5
"""From the first paint to all that is worked out of the formulas [ms]."""
STORM_S = 0.05
"""Steps back that follow one another sooner than that come from a key that is held down [s]."""
SAID_MS = 6000
AGAIN_MS = 50
"""How often it is asked whether a menu is still open [ms]."""


class Window(SidedWindow):
    """The main window.

    Parameters
    ----------
    unready : callable or None
        Given, the window stands with the names on the shelf before anything is worked out: the
        rest follows once it is painted, or with the first thing that a person asks for. It is
        called with what keeps the rest from coming. Without it all is there at once.
    """

    papers: "Papers"
    files: "Files"
    acts: "dict[str, Callable[..., object]]"
    banner: "Banner"

    def __init__(
        self, session: Session, unready: "Callable[[AplombError], object] | None" = None
    ) -> None:
        settings = session.settings
        look.wear(settings.theme, settings.text_pct)
        super().__init__(session)
        self._painted = False
        self._wound_s = 0.0
        """When a step was undone or done again last [s]."""
        self._unready = unready
        self.uncaught = UncaughtErrors(self.say, self._tell_fault, self)
        self._refused: str | None = None
        self._said_timer = single_shot(self, SAID_MS)
        self._said_timer.timeout.connect(self.said.hide)
        self._lay_out()
        self._connect()
        self._bind_keys()
        self._dress_seen()
        self.show_stage(SHELF)
        self._show_title()
        if unready is None:
            self._fill()

    def _fill_soon(self) -> None:
        """Fill the window that stands; without what it is filled with there is no going on."""
        try:
            self._fill()
        except AplombError as error:
            if self._unready is None:
                raise
            self._unready(error)

    def _fill(self) -> None:
        """Work the formulas out and show all that follows from them; once."""
        if self._filled:
            return
        self._filled = True
        from aplomb.desk.paper.giving import Papers
        from aplomb.desk.shell.acts import acts_of
        from aplomb.desk.shell.banner import Banner
        from aplomb.desk.shell.book_check import BookCheck
        from aplomb.desk.shell.cold_watch import ColdWatch
        from aplomb.desk.shell.cut_watch import CutWatch
        from aplomb.desk.shell.files import Files
        from aplomb.desk.shell.opinion import OpinionView

        session = self.session
        self.papers = Papers(self, self, session)
        self.files = Files(self, self, session)
        self.acts = acts_of(self, self)
        self.banner = Banner(session, self.say, self.files.keep_everything, self.files.keep_copy)
        self.opinion = OpinionView(session, self._hide_opinion)
        self._column.insertWidget(0, self.banner)
        self._side.insertWidget(0, self.opinion, 1)
        self._dress_seen()
        self._dress(self.opinion)
        self.opinion.refresh()
        self._fit()
        self.headline.fill()
        self.shelf.fill()
        tabs = (self.rail.book, *self.banner.stops, *self.headline.figures, self.shelf.search)
        for before, after in pairwise(tabs):
            QWidget.setTabOrder(before, after)
        self.cut_watch = CutWatch(session)
        self.cold_watch = ColdWatch(session)
        self.book_check = BookCheck(session)
        self._refresh()

    def _connect(self) -> None:
        session = self.session
        session.studied.connect(self._studied)
        session.said.connect(self.say)
        session.measures_changed.connect(self._respell)
        session.leaving.connect(self.commit)
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._focus_changed)
        gone = graveyard()
        if gone is not None:
            gone.emptied.connect(self._find_focus)
        self.rail.stage_wanted.connect(self.show_stage)
        self.rail.book.clicked.connect(self.book_menu)
        self.shelf.opened.connect(lambda: self.show_stage(PASTE))
        self.shelf.asked.connect(self.do)

    def _bind_keys(self) -> None:
        for command in COMMANDS.values():
            for keys in command.keys:
                pressed = QShortcut(QKeySequence(keys), self).activated
                pressed.connect(partial(self.do, command.key))

    def do(self, key: str, about: object = None) -> None:
        """Do what a key, a button, the menu or the search asks for.

        Parameters
        ----------
        key : str
            As in the table of commands, or what only the window can do.
        about : object
            What it is about; None for its own choice.
        """
        self._fill()
        if key not in ("undo", "keys"):  # these mean what is being typed
            self.commit()
        if key in COMMANDS and COMMANDS[key].room:
            self.open_page(key, about)
        elif about is None:
            self.acts[key]()
        else:
            self.acts[key](about)

    def go_to_part(self, by: int) -> None:
        """Take the keyboard so many parts of the window on."""
        stage = self.shown_stage()
        parts: list[QWidget] = [self.rail, self.headline, stage]
        if self.opinion.isVisible():
            parts.append(self.opinion)
        if self._has_section:
            parts.append(self.section)
        focus_next_part(parts, stage, stage.focus_first, self.focusWidget(), by)

    def _focus_changed(self, _old: QWidget | None, now: QWidget | None) -> None:
        if now is None or now is self:
            QTimer.singleShot(0, self, self._find_focus)

    def _find_focus(self) -> None:
        """Put the keyboard where one begins when what held it is gone."""
        if QApplication.activePopupWidget() is not None:
            QTimer.singleShot(AGAIN_MS, self, self._find_focus)
            return
        focus = QApplication.focusWidget()
        lost = focus is None or focus is self or not can_hold(focus)
        if self.isActiveWindow() and lost:
            stage = self.shown_stage()
            begin_in(stage, stage.focus_first)

    def changeEvent(self, event: QEvent) -> None:
        """Coming back from a dialog that took what had the keyboard, begin where one begins."""
        super().changeEvent(event)
        if self._filled and event.type() == QEvent.Type.ActivationChange and self.isActiveWindow():
            QTimer.singleShot(0, self, self._find_focus)

    def _tell_fault(self, words: str, report: str) -> None:
        from aplomb.desk.stages.asking import tell_fault

        tell_fault(self, words, report)

    def say(self, words: str) -> None:
        """Say something at the foot for a while; on the bench in its own large type."""
        if self.bench_has_room:
            self.bench.control.tell(words)
            return
        self.said.setText(words)
        self.said.setAccessibleName(words)
        self._place_said()
        self.said.show()
        self.said.raise_()
        self._said_timer.start()

    def _place_said(self) -> None:
        self.said.adjustSize()
        self.said.move(
            (self.width() - self.said.width()) // 2, self.height() - self.said.height() - 14
        )

    def _respell(self) -> None:
        respell(self)

    def _studied(self) -> None:
        if self._filled:
            self._refresh()
        else:
            self._fill()

    def _show_title(self) -> None:
        entry = self.session.entries.get(self.session.uid)
        where = f" · {self.session.book.path.stem}"
        self.setWindowTitle(f"{entry.name}{where} · Aplomb" if entry else f"Aplomb{where}")

    def _refresh(self) -> None:
        from aplomb.core.opinion.rules import STAGE_OF
        from aplomb.core.paste.formula import programme_of

        self._show_title()
        study = self.session.study
        settled = [False] * len(self.rail.tabs)
        if study is not None:
            looked_at = {STAGE_OF.get(o.key, "folds") for o in study.shown_opinions}
            leaves = study.readings.fat_leaves is not None
            settled = [
                bool(self.session.shelf.entries),
                leaves and "paste" not in looked_at,
                leaves and "folds" not in looked_at,
                study.scaled.pieces > 0 and "batch" not in looked_at,
                bool(self.session.kitchen.timetable.plan),
                "bench" in self.__dict__ and self.bench.control.run is not None,
                bool(programme_of(study.formula).steps),
                any(t.uid == self.session.uid for t in self.session.store.tried.trials),
            ]
        for tab, done in zip(self.rail.tabs, settled, strict=True):
            tab.set_settled(done)
        self._show_opinion()
        self.banner.refresh()
        if study is None and self._number != SHELF:
            self.show_stage(SHELF)

    def toggle_theme(self) -> None:
        """Change between light and dark."""
        self.session.keep(theme="light" if self.session.settings.theme == "dark" else "dark")
        self._apply_theme()

    def text_size(self, by: int) -> None:
        """Enlarge the text by so many percent; 0 for its usual size."""
        wanted = 100 if by == 0 else max(80, min(200, self.session.settings.text_pct + by))
        self.session.keep(text_pct=wanted)
        self._apply_theme()
        self.say(f"Text at {wanted} %")

    def _dress_seen(self) -> None:
        """Dress all that is seen."""
        self._dress(self.rail, self.headline, self._rule, self.shown_stage())
        if self._filled:
            self._dress(
                self.said, self.banner, self._hide_opinion, self.opinion_button, self.section_button
            )
            if self.opinion.isVisibleTo(self):
                self._dress(self.opinion)
        if "section" in self.__dict__ and self.section.isVisibleTo(self):
            self._dress(self.section)

    def _apply_theme(self) -> None:
        self.setUpdatesEnabled(False)
        look.wear(self.session.settings.theme, self.session.settings.text_pct)
        self._dress_seen()
        self._fit()
        self._refresh()
        self.setUpdatesEnabled(True)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the page behind all parts."""
        QPainter(self).fillRect(event.rect(), look.theme.color("page"))
        if not self._filled and not self._painted:
            self._painted = True
            QTimer.singleShot(FILL_AFTER_MS, self, self._fill_soon)

    def undo(self, *, on: bool = False) -> None:
        """Take back what is being typed, or else the last change; `on` makes it again."""
        focus = self.focusWidget()
        if not on and isinstance(focus, Field) and focus.being_typed:
            focus.revert()
            return
        journal = self.session.journal
        # While a key is held down the steps are shown together, on the next turn of the event loop.
        storm = time.monotonic() - self._wound_s < STORM_S
        with mid_event() if storm else nullcontext():
            (journal.redo if on else journal.undo)()
        self._wound_s = time.monotonic()

    def help(self) -> None:
        """Tell the keys, or the sum behind the figure that has the focus."""
        from aplomb.desk.shell.figure import Figure
        from aplomb.desk.stages.asking import show_keys

        focus = self.focusWidget()
        if isinstance(focus, Figure):
            focus.explain()
            return
        show_keys(self)

    def book_menu(self) -> None:
        """Show the menu of the book."""
        from aplomb.desk.shell.menu import pop_up_menu

        self._fill()
        some = self.session.study is not None
        back, on = self.session.journal.next_words()
        pop_up_menu(self, self.rail.book, self.do, {"undo": back, "redo": on}, some=some)

    def commit(self) -> bool:
        """Hand over what is being typed, for the formula it was typed for.

        False when it cannot be used; that is said then, and it stays where it is.
        """
        focus = self.focusWidget()
        if not isinstance(focus, Field) or focus.commit():
            return True
        self.say(f"{focus.accessibleName()}: “{focus.text()}” was not accepted. {focus.bad_reason}")
        return False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape leaves the page beside the paste, wherever the keyboard is."""
        if event.key() == Qt.Key.Key_Escape and self.page is not None:
            self._leave_page()
            return
        super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit the second opinion and the banner to the window."""
        super().resizeEvent(event)
        self._fit()
        self._show_opinion()
        self._show_section()

    def _fit(self) -> None:
        """Let the second opinion be as wide as its words want, but never crowd the window."""
        width = self.width()
        self._beside.setFixedWidth(min(look.theme.px(246) + 22, max(220, round(width * 0.27))))
        self._place_said()
        if self._filled:
            self.banner.fit(width)

    def closeEvent(self, event: QCloseEvent) -> None:
        """Hand over what is being typed, write what is left; ask when it cannot be written."""
        focus = self.focusWidget()
        with mid_event():  # what follows is shown when it stays open, or never
            taken = self.commit()
        if not taken and isinstance(focus, Field) and focus.text() != self._refused:
            self._refused = focus.text()  # whoever closes once more means it
            event.ignore()
            return
        if self.session.close():
            event.accept()
            return
        from aplomb.desk.stages.asking import ask_unwritten

        event.setAccepted(ask_unwritten(self, self.session, self.files.keep_copy))
