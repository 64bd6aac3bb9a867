"""The Bench stage: where a run is begun, gone on with, shown and ended."""

from datetime import datetime
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFrame,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from aplomb.book.runs import RunRow
from aplomb.core.base.errors import AplombError
from aplomb.core.bench.plan import RunPlan
from aplomb.core.day.plan import DayPlan
from aplomb.desk.bench.awake import Awake
from aplomb.desk.bench.run_control import RunControl, control_of
from aplomb.desk.bench.screen import BenchScreen
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.fields import (
    button,
    card,
    clear,
    label,
    row,
    wrapping,
)
from aplomb.desk.kit.flow import Flow
from aplomb.desk.session import Session
from aplomb.desk.stages.stage import Stage
from aplomb.work.bench.start import Ready, plan_of, ready_day, ready_formula
from aplomb.work.commands import COMMANDS
from aplomb.work.day.planner import KeptDay, kept_day
from aplomb.work.day.view import DayView, gather
from aplomb.work.figures.local import begun_text

REHEARSAL = 60.0
"""So many minutes pass in one of ours in a rehearsal [-]."""
MOST_LISTED = 6
ABOUT = (
    "From weighing to the last tray, this screen says what to do, counts, times and "
    "keeps the record. Press Space (or a pedal that sends it) to continue, Backspace to "
    "undo, N when something goes wrong. Every press is saved in the book before it is "
    "shown as done."
)


class BenchWindow(QDialog):
    """The same screen in a window of its own, for a second screen; the desk stays in use."""

    def __init__(self, control: RunControl, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Aplomb · Bench")
        self.setModal(False)
        self.setWindowFlag(Qt.WindowType.WindowMinMaxButtonsHint, True)
        self.screen_ = BenchScreen(control)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.screen_)
        self.resize(1280, 800)

    def closeEvent(self, event: QCloseEvent) -> None:
        """Close it; the run goes on."""
        super().closeEvent(event)


class BenchStage(Stage):
    """Runs of the day.

    Signals
    -------
    shown
        The screen came or went: it wants the whole window.
    solve_asked
        The day is to be run, and no timetable of it holds: it is solved first.
    """

    shown = Signal()
    solve_asked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.control = control_of(session)
        self.screen_ = BenchScreen(self.control)
        self.awake = Awake(self)
        self.window_: BenchWindow | None = None
        self._path = session.book.path
        self._listed: list[RunRow] | None = None
        self._job = LatestJob(self._take_view, self, lambda: session.book.path)
        self._making = LatestJob(self._made, self, lambda: session.book.path)
        self._stack = QStackedWidget()
        self._stack.addWidget(self._start_page())
        self._stack.addWidget(self.screen_)
        column = QVBoxLayout(self._inner)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self._stack)
        self.control.changed.connect(self._follow)
        self.control.leave_asked.connect(self.leave_screen)
        self.control.finish_asked.connect(self.finish)
        self.control.finished.connect(self._finished)
        session.shelf_changed.connect(self._book_changed)
        session.reference_changed.connect(self._house_changed)
        self.destroyed.connect(self.control.close)

    def _start_page(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(24, 14, 18, 12)
        column.setSpacing(10)
        column.addWidget(label("Bench", "title"))
        about = wrapping(ABOUT, "second")
        column.addWidget(about)
        tools = Flow(spacing=1)
        for key in ("devices", "run_log"):
            command = COMMANDS[key]
            tools.addWidget(
                button(
                    command.title, "quiet", partial(self.asked.emit, key, None), command.shown_keys
                )
            )
        column.addLayout(tools)
        column.addWidget(self.error)
        column.addWidget(self._begin_card())
        column.addWidget(self._open_card())
        column.addStretch(1)
        return page

    def _begin_card(self) -> QFrame:
        frame, column = card(spacing=8)
        column.addWidget(label("Start", "title"))
        self.begin_day = button("Run the day", "main", self._begin_day)
        self.begin_one = button("", "", self._begin_one)
        self.rehearse = QCheckBox("As a rehearsal: a minute takes a second, devices are simulated")
        self._day_words = wrapping("", "second")
        column.addLayout(row(self.begin_day, self.begin_one, None))
        column.addWidget(self._day_words)
        column.addWidget(self.rehearse)
        return frame

    def _open_card(self) -> QFrame:
        self._open_frame, column = card(spacing=6)
        column.addWidget(label("Runs", "title"))
        self._runs = QVBoxLayout()
        column.addLayout(self._runs)
        return self._open_frame

    @property
    def wants_room(self) -> bool:
        """True while a run is on the screen: it takes the headline's room too."""
        return self._stack.currentWidget() is self.screen_

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        if self.wants_room:
            self.screen_.setFocus(Qt.FocusReason.OtherFocusReason)
            return
        buttons = (self.begin_day, self.begin_one, self.rehearse)
        first = next(each for each in buttons if each.isEnabled())
        first.setFocus(Qt.FocusReason.OtherFocusReason)

    def refresh(self) -> None:
        """Show what can be begun, and the runs of this book."""
        if self.wants_room:
            self.screen_.refresh()
            return
        formula = self._session.formula
        focus = self.focusWidget()
        self.begin_one.setText(f"Run {formula.name}" if formula else "Run a formula")
        self.begin_one.setEnabled(formula is not None)
        sheet = self._session.kitchen.timetable
        self.begin_day.setEnabled(bool(sheet.plan) or bool(self._session.kitchen.demand.wants))
        if focus is not None and not focus.isEnabled() and self.isVisible():
            self.focus_first()
        self._day_words.setText(
            "Uses the timetable from Day."
            if sheet.plan
            else "No timetable yet. Start the day on Day, or run one formula."
        )
        self._list_runs()

    def _list_runs(self) -> None:
        rows = self._session.book.runs.all()[:MOST_LISTED]
        if rows == self._listed:
            return
        self._listed = rows
        inside = self._open_frame.isAncestorOf(self._open_frame.focusWidget() or self)
        if inside and self.isVisible():
            self.focus_first()
        clear(self._runs)
        self._open_frame.setVisible(bool(rows))
        for each in rows:
            words = f"{each.title}, started {_moment(each)}"
            said = "Resume" if not each.ended else "View"
            open_ = button(said, "main" if not each.ended else "", partial(self.open, each.number))
            open_.setAccessibleName(f"{said}: {words}")
            self._runs.addLayout(row(label(words), None, open_))

    def open(self, number: int) -> None:
        """Open a run of the book."""
        if self._tried(lambda: self.control.open(number)):
            self._show_screen()

    def _begin_one(self) -> None:
        uid = self._session.uid
        self._tried(lambda: self._make(ready_formula(self._session.work, uid)))

    def _begin_day(self) -> None:
        self.show_error("")
        self._day_words.setText("Calculating the steps …")
        gathered = gather(self._session.work)
        self._job.ask(lambda: kept_day(gathered))

    def _take_view(self, found: object) -> None:
        if isinstance(found, AplombError):
            self.show_error(str(found))
            self.refresh()
            return
        assert isinstance(found, KeptDay)
        if found.plan is None:
            self.refresh()
            self.solve_asked.emit()
            return
        self.run_day(found.view, found.plan)

    def run_day(self, view: DayView, plan: DayPlan) -> None:
        """Begin a run of a timetable as it is shown."""
        self._tried(lambda: self._make(ready_day(self._session.work, view, plan)))

    def _make(self, ready: Ready) -> None:
        """Work the run out beside the window."""
        quick = REHEARSAL if self.rehearse.isChecked() else 1.0
        now = datetime.now().astimezone()
        self._day_words.setText("Preparing the run …")
        self._making.ask(lambda: plan_of(ready, now, quick))

    def _made(self, found: object) -> None:
        if isinstance(found, AplombError):
            self.show_error(str(found))
            self.refresh()
            return
        assert isinstance(found, RunPlan)
        if self._tried(lambda: self.control.start(found)):
            self._show_screen()

    def _tried(self, act: object) -> bool:
        self.show_error("")
        self._session.flush()
        try:
            act()  # type: ignore[operator]
        except AplombError as error:
            self.show_error(str(error))
            return False
        return True

    def _show_screen(self) -> None:
        self._stack.setCurrentWidget(self.screen_)
        self.awake.keep(on=True)
        self.shown.emit()
        self.screen_.refresh()
        if self.screen_.isVisible():  # whoever has gone elsewhere meanwhile stays there
            self.screen_.setFocus(Qt.FocusReason.OtherFocusReason)

    def leave_screen(self) -> None:
        """Back to the list of runs; the run goes on where it stands."""
        self.control.close()
        self.awake.keep(on=False)
        self._stack.setCurrentIndex(0)
        self.shown.emit()
        if self.isVisible():
            self.refresh()
            self.focus_first()

    def finish(self) -> None:
        """End the run."""
        self.control.finish()

    def _finished(self, told: list[str]) -> None:
        """The run is over and in the book: say what the house learned."""
        self.leave_screen()
        if told:
            self._session.work.news.said("; ".join(told))

    def second_window(self) -> None:
        """Show the screen in a window of its own, or close that."""
        if self.window_ is not None and self.window_.isVisible():
            self.window_.close()
            return
        if self.control.run is None:
            self._session.work.news.said("No run is open. Start one on the Bench first.")
            return
        if self.window_ is None:
            self.window_ = BenchWindow(self.control, self.window())
        self.window_.show()

    def _follow(self) -> None:
        if self.control.run is None and self.wants_room:
            self._stack.setCurrentIndex(0)
            self.shown.emit()

    def _book_changed(self) -> None:
        """A copy of the book is open now, or another one: a run goes on where it is found again."""
        if self._session.book.path == self._path:
            return
        self._path = self._session.book.path
        self._job.forget()
        self._making.forget()
        if self.control.go_on_in_copy():
            self._show_screen()
        elif self.isVisible():
            self.refresh()

    def _house_changed(self) -> None:
        if self.control.run is not None:
            self.control.run.times.house = self._session.reference.house


def _moment(each: RunRow) -> str:
    ended = "" if each.ended else ", still open"
    return f"{begun_text(each.begun)}{ended}"
