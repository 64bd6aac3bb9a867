"""The window with its stages and the pages beside them: one is shown, the others wait."""

from functools import cached_property
from importlib import import_module
from typing import TYPE_CHECKING, TypeVar, cast

from PySide6.QtWidgets import QStackedWidget, QWidget

from aplomb.desk.kit.fields import refit_widths
from aplomb.desk.kit.theme import Theme, look
from aplomb.desk.kit.walking import begin_in
from aplomb.desk.session import Session
from aplomb.desk.shelf.stage import ShelfStage
from aplomb.desk.shell.rail import Rail
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
    stage_of,
)

if TYPE_CHECKING:
    from collections.abc import Callable

    from aplomb.desk.batch.stage import BatchStage
    from aplomb.desk.bench.stage import BenchStage
    from aplomb.desk.day.stage import DayStage
    from aplomb.desk.folds.stage import FoldsStage
    from aplomb.desk.oven.stage import OvenStage
    from aplomb.desk.paste.stage import PasteStage
    from aplomb.desk.stages.page import Page
    from aplomb.desk.trials.stage import TrialsStage

AnyStage = TypeVar("AnyStage", bound=Stage)


def make_page(made_by: str, session: Session) -> "Page":
    """Make a page; its module comes when it is first wanted."""
    module, _, name = made_by.partition(":")
    made = getattr(import_module(module), name)(session)
    if not isinstance(made, QWidget):
        raise TypeError(f"{made_by} is not a page")
    return cast("Page", made)


class StagedWindow(QWidget):
    """What is shown in the middle of the window; whoever builds on it says what follows.

    Attributes
    ----------
    page : Page or None
        The page beside a stage that is shown in its room; None while the stage itself is.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rail = Rail()
        self.shelf = ShelfStage(session)
        self.stages = QStackedWidget()
        self.stages.addWidget(self.shelf)
        self.pages: dict[str, Page] = {}
        self.page: Page | None = None
        self._number = SHELF
        self._worn: dict[QWidget, Theme] = {}

    def do(self, key: str, about: object = None) -> None:
        """Do what a key, a button, the menu or the search asks for."""
        raise NotImplementedError

    def say(self, words: str) -> None:
        """Say something at the foot for a while."""
        raise NotImplementedError

    def commit(self) -> bool:
        """Hand over what is being typed; False when it cannot be used."""
        raise NotImplementedError

    def _fill(self) -> None:
        """Work the formulas out, where that has waited."""

    def _stage_shown(self) -> None:
        """Another stage or page is shown: what stands round it follows."""

    def _bench_took_room(self) -> None:
        """The bench's screen came or went."""

    def _show_moment(self, upto: int | None) -> None:
        """Another moment of the plan is looked at in Folds."""

    @property
    def bench_has_room(self) -> bool:
        """True while the bench's screen has the whole window."""
        return self._number == BENCH and self.page is None and self.bench.wants_room

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
        stage.shown.connect(self._bench_took_room)
        stage.solve_asked.connect(lambda: self.do("bench day"))
        return stage

    @cached_property
    def oven(self) -> "OvenStage":
        """The Oven stage."""
        from aplomb.desk.oven.stage import OvenStage

        return self._stacked(OvenStage(self.session))

    @cached_property
    def trials(self) -> "TrialsStage":
        """The Trials stage."""
        from aplomb.desk.trials.stage import TrialsStage

        return self._stacked(TrialsStage(self.session))

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
            self.say("No formula is open yet. Press Ctrl+N to start one.")
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
        self._stage_shown()
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
            self.say("No formula is open yet. Press Ctrl+N to start one.")
            number = SHELF
        self.commit()
        self._number = number
        self.page = None
        stage = self.shown_stage()
        self._dress(stage)
        self.stages.setCurrentWidget(stage)
        self.rail.show_stage(number)
        self._stage_shown()
        begin_in(stage, stage.focus_first)

    def shown_stage(self) -> "Stage | ShelfStage":
        """Give the stage, or the page beside one, that is seen."""
        if self.page is not None:
            return self.page
        made: dict[int, Callable[[], Stage | ShelfStage]] = {
            SHELF: lambda: self.shelf,
            PASTE: lambda: self.paste,
            FOLDS: lambda: self.folds,
            BATCH: lambda: self.batch,
            DAY: lambda: self.day,
            BENCH: lambda: self.bench,
            OVEN: lambda: self.oven,
            TRIALS: lambda: self.trials,
        }
        return made[self._number]()
