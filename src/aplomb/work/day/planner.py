"""The day's owner: what is asked, the plan that is shown, what was answered, what is under way.

Whoever shows, prints, gives out or runs the day reads it here, and changes it here. It knows of no
window: what takes long is handed to whoever asks, to be done beside, and comes back by `take`.
"""

from collections.abc import Callable
from datetime import datetime
from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.day.plan import DayPlan
from aplomb.work.day.moves import Moved
from aplomb.work.day.server import Reply
from aplomb.work.day.solving import DaySolver
from aplomb.work.day.view import DayView, Gathered, from_now, gather, too_late, view_of
from aplomb.work.open_book.workbench import Workbench

if TYPE_CHECKING:
    from aplomb.core.day.solve import DayAnswer

State = Literal["idle", "viewing", "solving", "solved", "refused"]
DESK_WORK = 5.0
"""How much the solver may work while a window is open; it can be stopped [-]."""


class KeptDay(Struct, frozen=True):
    """A day as the book keeps it, with the plan it keeps; None where none holds any more."""

    view: DayView
    plan: DayPlan | None


def kept_day(gathered: Gathered) -> KeptDay:
    """View a day with the plan that is kept of it; it may be done beside the window.

    Raises
    ------
    AplombError
        When nothing of the day can be made.
    """
    view = view_of(gathered)
    return KeptDay(view, view.kept_plan())


class Planner:
    """The day of the open book.

    Parameters
    ----------
    post : callable
        Takes every reply of the solver on a thread of its own; it hands it to `reply` on this one.
    changed : callable
        Called when something else is to be shown.
    better : callable
        Called when only the plan is another: a better one was found on the way.

    Attributes
    ----------
    view : DayView or None
        The day as it is asked; None before it is known or when it cannot be made.
    plan : DayPlan or None
        The plan that is shown: the answer's, one that was kept, or the best found so far.
    answer : DayAnswer or None
        The solver's last word on this view.
    state : str
        What is under way.
    refused : str
        Why nothing is solved, in words, while the state is “refused”.
    question : int
        Number of the last question to the solver [-].
    """

    def __init__(
        self,
        work: Workbench,
        post: Callable[[Reply], None],
        changed: Callable[[], object],
        better: Callable[[], object],
    ) -> None:
        self._work, self._changed, self._better = work, changed, better
        self.solver = DaySolver(post)
        self.view: DayView | None = None
        self.plan: DayPlan | None = None
        self.answer: DayAnswer | None = None
        self.state: State = "idle"
        self.refused = ""
        self.question = 0
        self._asked_for: object = None
        self._once: Callable[[DayView, DayPlan], object] | None = None

    @property
    def solving(self) -> bool:
        """True while the solver seeks."""
        return self.state == "solving"

    @property
    def shown(self) -> tuple[DayView, DayPlan] | None:
        """The day and its plan, to be given out, printed or run; None while there is no plan."""
        return None if self.view is None or self.plan is None else (self.view, self.plan)

    def ask(self) -> Callable[[], DayView] | None:
        """Give the work that views the day anew, to be done beside; None when nothing changed."""
        self.solver.warm_up()
        gathered = gather(self._work)
        now = (
            gathered.kitchen,
            gathered.day,
            gathered.reference.house,
            tuple((uid, study.formula) for uid, study in gathered.studies.items()),
        )
        if now == self._asked_for:
            return None
        self._asked_for = now
        self.state = "viewing"
        return lambda: view_of(gathered)

    def take(self, view: DayView | AplombError) -> None:
        """Take the day as it was viewed, or why it cannot be, and have it solved."""
        self.answer = None
        if isinstance(view, AplombError):
            self.view = self.plan = None
            self._refuse(str(view))
            return
        self.view = view
        now = datetime.now().astimezone()
        self.plan = view.kept_plan() or self._still_right(view)
        over = too_late(view, now)
        if over:
            self._refuse(over)
            return
        self.state = "solving"
        self.question = self.solver.ask(from_now(view, now), DESK_WORK)
        self._changed()

    def once_solved(self, call: Callable[[DayView, DayPlan], object]) -> None:
        """Call with the day once it is solved; never where it cannot be solved."""
        self._once = call

    def _refuse(self, words: str) -> None:
        self._once = None
        self.state, self.refused = "refused", words
        self._changed()

    def _still_right(self, view: DayView) -> DayPlan | None:
        """The plan that is shown, while the new one is sought, if it names the same steps."""
        if self.plan is None:
            return None
        known = view.problem.steps.keys()
        return self.plan if {(s.paste, s.step) for s in self.plan.steps} == known else None

    def reply(self, reply: Reply) -> None:
        """Take what the solver says; what it says to an older question is let go."""
        if reply.number != self.question or self.view is None or not reply.number:
            return
        if reply.kind == "best" and reply.best is not None:
            self.plan = reply.best
            self._better()
        elif reply.kind == "answer" and reply.answer is not None:
            self.answer, self.plan, self.state = reply.answer, reply.answer.plan, "solved"
            self._changed()
            once, self._once = self._once, None
            if once is not None and self.shown is not None:
                once(*self.shown)
        elif reply.kind == "trouble":
            self._refuse(reply.trouble)

    def stop(self) -> None:
        """End the search with the best there is."""
        self.solver.stop()

    def forget(self) -> None:
        """Let the day be asked anew, whether or not anything changed."""
        self._asked_for = None

    def move(self, moved: Moved) -> None:
        """Keep what a move changes of the day; it is asked anew when that is announced."""
        if moved.words:
            self._work.store.put_timetable(moved.words, moved.sheet)

    def close(self) -> None:
        """Send the solver away."""
        self.solver.close()
