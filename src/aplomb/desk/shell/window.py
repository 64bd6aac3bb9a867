"""The window: rail, headline, stages, second opinion, section strip."""

import time
from contextlib import nullcontext
from functools import cached_property, partial
from importlib import import_module
from itertools import pairwise
from typing import TYPE_CHECKING, TypeVar, cast

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
    QFrame,
    QHBoxLayout,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.errors import AplombError
from aplomb.desk.kit.fields import Field, button, label, refit_widths, respell, row
from aplomb.desk.kit.mid_event import graveyard, mid_event
from aplomb.desk.kit.theme import Theme, look
from aplomb.desk.kit.timers import single_shot
from aplomb.desk.kit.walking import begin_in, can_hold, focus_next_part
from aplomb.desk.session import Session
from aplomb.desk.shelf.stage import ShelfStage
from aplomb.desk.shell.headline import Headline
from aplomb.desk.shell.rail import Rail
from aplomb.desk.shell.uncaught import UncaughtErrors
from aplomb.desk.stages.stage import Stage
from aplomb.work.commands import (
    BATCH,
    BENCH,
    COMMANDS,
    DAY,
    FOLDS,
    OVEN,
    PASTE,
    SHELF,
    TRIALS,
    keys_of,
    shown,
    stage_of,
)

if TYPE_CHECKING:
    from collections.abc import Callable

    from aplomb.desk.batch.stage import BatchStage
    from aplomb.desk.bench.stage import BenchStage
    from aplomb.desk.day.stage import DayStage
    from aplomb.desk.folds.stage import FoldsStage
    from aplomb.desk.oven.stage import OvenStage
    from aplomb.desk.paper.giving import Papers
    from aplomb.desk.paste.stage import PasteStage
    from aplomb.desk.shell.banner import Banner
    from aplomb.desk.shell.files import Files
    from aplomb.desk.shell.opinion import OpinionView
    from aplomb.desk.stages.page import Page
    from aplomb.desk.stages.section_view import SectionStrip
    from aplomb.desk.trials.stage import TrialsStage

AnyStage = TypeVar("AnyStage", bound=Stage)
FILL_AFTER_MS = 5
"""From the first paint to all that is worked out of the formulas [ms]."""
STORM_S = 0.05
"""Steps back that follow one another sooner than that come from a key that is held down [s]."""
SAID_MS = 6000
AGAIN_MS = 50
"""How often it is asked whether a menu is still open [ms]."""
LEAST_PAGE = 200
"""Least of the page that the section leaves to be seen [px]."""
ROOMY = 700
"""A window this wide at 100 % has room for the second opinion beside the work [px]."""


def make_page(made_by: str, session: Session) -> "Page":
    """Make a page; its module comes when it is first wanted."""
    module, _, name = made_by.partition(":")
    made = getattr(import_module(module), name)(session)
    if not isinstance(made, QWidget):
        raise TypeError(f"{made_by} is no page")
    return cast("Page", made)


class Window(QWidget):
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
    opinion: "OpinionView"
    banner: "Banner"

    def __init__(
        self, session: Session, unready: "Callable[[AplombError], object] | None" = None
    ) -> None:
        super().__init__()
        self.session = session
        settings = session.settings
        self._filled = self._painted = False
        self._wound_s = 0.0
        """When a step was undone or done again last [s]."""
        self._unready = unready
        self.uncaught = UncaughtErrors(self.say, self._tell_fault, self)
        look.wear(settings.theme, settings.text_pct)
        self.rail = Rail()
        self.headline = Headline(session)
        self.shelf = ShelfStage(session)
        self.stages = QStackedWidget()
        self.stages.addWidget(self.shelf)
        self._number = SHELF
        self._opinion_asked = self._section_asked = False
        self._refused: str | None = None
        self._worn: dict[QWidget, Theme] = {}
        self.pages: dict[str, Page] = {}
        self.page: Page | None = None
        self._hide_opinion = button("Hide", "quiet", self.toggle_opinion, keys_of("opinion"))
        self.said = label("", "said", self)
        self.said.hide()
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
        self.cold_watch = ColdWatch(session)
        self.book_check = BookCheck(session)
        self._refresh()

    def _lay_out(self) -> None:
        self._beside = QWidget()
        self._side = side = QVBoxLayout(self._beside)
        side.setContentsMargins(0, 8, 0, 0)
        side.setSpacing(0)
        side.addWidget(self._hide_opinion, 0, Qt.AlignmentFlag.AlignRight)
        middle = QHBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(self.stages, 1)
        middle.addWidget(self._beside)
        self._rule = QFrame()
        self._rule.setObjectName("rule")
        self._rule.setFixedHeight(1)
        self.opinion_button = button("", "quiet", self.toggle_opinion, keys_of("opinion"))
        self.section_button = button("", "quiet", self.toggle_section, keys_of("section"))
        foot = row(self.section_button, None, self.opinion_button)
        foot.setContentsMargins(24, 0, 12, 2)
        self._foot = foot
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.headline)
        column.addWidget(self._rule)
        column.addLayout(middle, 1)
        column.addLayout(foot)
        self._column = column
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.rail)
        whole.addLayout(column, 1)

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

    @cached_property
    def paste(self) -> "PasteStage":
        """The Paste stage, made when it is first wanted; so are the others but the shelf."""
        from aplomb.desk.paste.stage import PasteStage

        return self._stacked(PasteStage(self.session))

    @cached_property
    def folds(self) -> "FoldsStage":
        """The Folds stage."""
        from aplomb.desk.folds.stage import FoldsStage

        stage = self._stacked(FoldsStage(self.session))
        stage.moment.connect(self._show_moment)
        return stage

    @cached_property
    def batch(self) -> "BatchStage":
        """The Batch stage."""
        from aplomb.desk.batch.stage import BatchStage

        return self._stacked(BatchStage(self.session))

    @cached_property
    def day(self) -> "DayStage":
        """The Day stage."""
        from aplomb.desk.day.stage import DayStage

        return self._stacked(DayStage(self.session))

    @cached_property
    def bench(self) -> "BenchStage":
        """The Bench stage."""
        from aplomb.desk.bench.stage import BenchStage

        stage = self._stacked(BenchStage(self.session))
        stage.shown.connect(self._show_room)
        return stage

    def _show_room(self) -> None:
        """Give the bench's screen the whole window; any other stage has its headline above."""
        bare = self._number == BENCH and self.page is None and self.bench.wants_room
        self.headline.setVisible(not bare)
        self._rule.setVisible(not bare)
        self._foot.setContentsMargins(24, 0, 12, 0 if bare else 2)
        if bare:
            self.said.hide()
        self._show_opinion()

    @cached_property
    def _oven(self) -> "OvenStage":
        """The Oven stage."""
        from aplomb.desk.oven.stage import OvenStage

        return self._stacked(OvenStage(self.session))

    @cached_property
    def _trials(self) -> "TrialsStage":
        """The Trials stage."""
        from aplomb.desk.trials.stage import TrialsStage

        return self._stacked(TrialsStage(self.session))

    @cached_property
    def section(self) -> "SectionStrip":
        """The section strip."""
        from aplomb.desk.stages.section_view import SectionStrip

        strip = SectionStrip(self.session)
        self._worn[strip] = look.theme
        self._column.addWidget(strip)
        self.said.raise_()
        return strip

    def open_page(self, key: str, target: object = None) -> None:
        """Go to a page beside the paste.

        Parameters
        ----------
        key : str
            Of a page, as in the table of commands.
        target : object
            What the page begins with; None for its own choice.
        """
        if self.session.study is None:
            self.say("Nothing is open yet. Ctrl+N begins a formula.")
            return
        if key == "swap" and target is None and self._number == PASTE and self.page is None:
            target = self.paste.focused_line()
        self.commit()
        page = self.pages.get(key)
        if page is None:
            page = make_page(COMMANDS[key].made_by, self.session)
            page.done.connect(self._leave_page)
            self.pages[key] = self._stacked(page)
        self.page = page
        self._number = stage_of(key)
        self._dress(page)
        page.begin(target)
        self.stages.setCurrentWidget(page)
        self.rail.show_stage(self._number)
        self._show_section()
        self._show_room()
        begin_in(page, page.focus_first)

    def _leave_page(self) -> None:
        self.show_stage(self._number)

    def _stacked(self, stage: "AnyStage") -> "AnyStage":
        """Take a new stage or page in: dressed, and heard when it asks for a command."""
        stage.asked.connect(self.do)
        stage.setStyleSheet(look.theme.style())
        self._worn[stage] = look.theme
        self.stages.addWidget(stage)
        return stage

    def _dress(self, *parts: QWidget) -> None:
        """Give parts of the window the theme that is chosen now, if they wear another.

        Each has a style sheet of its own, so that a change costs what is seen and no more; the
        rest is dressed when it is shown.
        """
        for part in parts:
            if self._worn.get(part) is look.theme:
                continue
            new = part not in self._worn  # what is new was made with this theme
            self._worn[part] = look.theme
            part.setStyleSheet(look.theme.style())
            if not new:
                refit_widths(part)

    def show_stage(self, number: int) -> None:
        """Go to a stage."""
        if number != SHELF:
            self._fill()
        if number != SHELF and self.session.study is None:
            self.say("Nothing is open yet. Ctrl+N begins a formula.")
            number = SHELF
        self.commit()
        self._number = number
        self.page = None
        stage = self._stage()
        self._dress(stage)
        self.stages.setCurrentWidget(stage)
        self.rail.show_stage(number)
        if number in (PASTE, FOLDS):
            self._show_moment(self.folds.moment_shown() if number == FOLDS else None)
        self._show_section()
        self._show_room()
        begin_in(stage, stage.focus_first)

    def _stage(self) -> "Stage | ShelfStage":
        if self.page is not None:
            return self.page
        made: dict[int, Callable[[], Stage | ShelfStage]] = {
            SHELF: lambda: self.shelf,
            PASTE: lambda: self.paste,
            FOLDS: lambda: self.folds,
            BATCH: lambda: self.batch,
            DAY: lambda: self.day,
            BENCH: lambda: self.bench,
            OVEN: lambda: self._oven,
            TRIALS: lambda: self._trials,
        }
        return made[self._number]()

    @property
    def _has_section(self) -> bool:
        """True for the stages that have the section below them, while no page is in their room."""
        return self._number in (PASTE, FOLDS) and self.page is None

    def _show_moment(self, upto: int | None) -> None:
        if self._has_section:
            self.section.show_moment(upto if self._number == FOLDS else None)

    def go_to_part(self, by: int) -> None:
        """Take the keyboard so many parts of the window on."""
        stage = self._stage()
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
            stage = self._stage()
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
        if self._number == BENCH and self.page is None and self.bench.wants_room:
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
        looks = len(study.shown_opinions) if study else 0
        self.opinion_button.setText(
            f"Second opinion: {looks} to look at" if looks else "Second opinion: nothing to look at"
        )
        self._show_opinion()
        self.banner.refresh()
        if study is None and self._number != SHELF:
            self.show_stage(SHELF)

    @property
    def _opinion_open(self) -> bool:
        """True when the second opinion is shown.

        It gives way while it has nothing to say, and to large text in a small window, until
        it is asked for.
        """
        study = self.session.study
        roomy = self._is_roomy and bool(study and study.shown_opinions)
        return self.session.settings.opinion_open and (roomy or self._opinion_asked)

    @property
    def _is_roomy(self) -> bool:
        """True when there is room for the second opinion beside a formula."""
        return bool(self.session.uid) and self.width() >= look.theme.px(ROOMY)

    def _show_opinion(self) -> None:
        if not self._filled:  # its place is kept, and it comes there
            self._hide_opinion.hide()
            self.opinion_button.hide()
            self._beside.setVisible(self.session.settings.opinion_open and self._is_roomy)
            return
        bench = self._number == BENCH and self.page is None and self.bench.wants_room
        there, open_ = self.session.study is not None and not bench, self._opinion_open
        if there and open_:
            self._dress(self.opinion)
        self.opinion_button.setVisible(there and not open_)
        for each in (self._beside, self._hide_opinion, self.opinion):
            each.setVisible(there and open_)

    def toggle_opinion(self) -> None:
        """Show or hide the second opinion."""
        self._opinion_asked = not self._opinion_open
        self.session.keep(opinion_open=self._opinion_asked)
        self._show_opinion()

    @property
    def _section_open(self) -> bool:
        """True when the section is shown below a stage.

        It gives way where the stage would not find room above it, until it is asked for.
        """
        if not self.session.settings.section_open:
            return False
        if self._section_asked:
            return True
        stage = self._stage()
        if not isinstance(stage, Stage):
            return False
        strip = self.section.sizeHint().height()
        there = self.section.isVisibleTo(self)
        room = stage.viewport().height() - (0 if there else strip)
        if self._number == FOLDS:  # its cards and the sheet stand whole, or the section gives way
            return stage.least_height() <= room
        return room >= look.theme.px(LEAST_PAGE)

    def _show_section(self) -> None:
        """Show the section below Paste and Folds, or a line that says where it is."""
        wanted = self._has_section and self.session.study is not None
        open_ = wanted and self._section_open
        if open_:
            self._dress(self.section)
        if wanted or "section" in self.__dict__:
            self.section.setVisible(open_)
        self.section_button.setVisible(wanted and not open_)
        if wanted and not open_:
            self.section_button.setText(f"Show the section ({shown(keys_of('section'))})")

    def toggle_section(self) -> None:
        """Show or hide the section."""
        if not self._has_section:
            return
        self._section_asked = not self.section.isVisibleTo(self)
        self.session.keep(section_open=self._section_asked)
        self._show_section()

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
        self._dress(self.rail, self.headline, self._rule, self._stage())
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

    @property
    def strip(self) -> "SectionStrip | None":
        """The section that is seen, below a stage or in a page; None elsewhere."""
        if self.page is not None:
            return self.page.strip
        return self.section if self._has_section else None

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
        self.say(f"{focus.accessibleName()}: “{focus.text()}” was not taken. {focus.bad_reason}")
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
