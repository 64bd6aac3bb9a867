"""The Day stage: a timetable counted back from when things are wanted, and moved as it goes."""

from collections.abc import Callable
from datetime import datetime
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QBoxLayout,
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QVBoxLayout,
)

from aplomb.core.base.errors import AmountError
from aplomb.core.base.house import HANDS, House
from aplomb.core.day.plan import DayPlan
from aplomb.core.day.remedies import Remedy
from aplomb.core.day.sheet import DaySheet
from aplomb.core.kitchen.step_list import StepNote
from aplomb.core.paste.ingredient import STANDING_WORDS
from aplomb.desk.day.glance import Glance
from aplomb.desk.day.paste_row import PasteRow, Taken
from aplomb.desk.day.timeline import Timeline
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.fields import button, card, clear, fix_width, label, let_go, row, wrapping
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.timers import single_shot
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.house_card import HouseFields
from aplomb.desk.stages.stage import Stage
from aplomb.work.commands import COMMANDS
from aplomb.work.day.moves import (
    BLOCKS,
    Moved,
    begins_from,
    begins_late,
    begun,
    done_by,
    held,
    in_reach,
    not_begun,
    not_ready,
    remedied,
    runs_over,
    takes,
)
from aplomb.work.day.picture import picture_of
from aplomb.work.day.planner import Planner
from aplomb.work.day.server import Reply
from aplomb.work.day.view import DayView, letter_of
from aplomb.work.day.words import (
    answer_words,
    free_gaps,
    free_words,
    hands_min,
    in_the_way,
    long_text,
    remedy_words,
    sources_of,
    stand_words,
)
from aplomb.work.edits.bakers import bakers_text, read_bakers
from aplomb.work.figures.local import date_text, kitchen_day
from aplomb.work.figures.typed import clock_text, hours_text, read_clock, read_hours, read_whole
from aplomb.work.words.cold import ready_text, wait_text

LATE_MIN = 10
"""What a press of “runs over” adds [min]."""
MOST_REMEDIES = 3


class _Replies(QObject):
    came = Signal(object)


ROWS_AT_ONCE = 6
"""So many rows of pastes are made before the window goes on [-]."""
BETTER_MS = 120
"""Better plans are drawn no more often than that [ms]."""


class DayStage(Stage):
    """The day's timetable."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._replies = _Replies(self)
        self.planner = Planner(
            session.work, self._replies.came.emit, self._show, self._show_better_soon
        )
        self._replies.came.connect(self._take_reply)
        self._job = LatestJob(self.planner.take, self, lambda: session.book.path)
        self._soon = single_shot(self, BETTER_MS)
        self._soon.timeout.connect(self._show_better)
        self.rows: dict[str, PasteRow] = {}
        self.glance = Glance()
        self.timeline = Timeline()
        self.timeline.picked.connect(lambda *_: self._show_step())
        self.timeline.moved.connect(self._hold)
        self.timeline.freed.connect(self._free)
        self.timeline.given.connect(self._next_baker)
        self.timeline.wanted.connect(lambda key: self.asked.emit(key, None))
        self.timeline.change.connect(self._change_step)
        self.timeline.now.connect(self._pick_now)
        self._lay_out()
        app = QApplication.instance()
        if app is not None:
            app.aboutToQuit.connect(self.planner.close)
        self.destroyed.connect(self.planner.close)

    def _lay_out(self) -> None:
        column = QVBoxLayout(self._inner)
        column.setContentsMargins(24, 10, 18, 8)
        column.setSpacing(6)
        self._title = wrapping("", "title")
        self.solve = button("Solve again", "", self._solve_again)
        self.begin = button("Start the day", "main", self._begin)
        self.back = button("Undo start", "quiet", self._not_begun, "Undo the start of the day")
        head = row(self._title, None, self.solve, self.begin, self.back)
        head.setStretch(0, 3)
        column.addLayout(head)
        tools = Flow(spacing=1)
        for key in (
            "bench day",
            "day wall",
            "day calendar",
            "demand",
            "cold",
            "places",
        ):
            command = COMMANDS[key]
            tools.addWidget(
                button(
                    command.title, "quiet", partial(self.asked.emit, key, None), command.shown_keys
                )
            )
        column.addLayout(tools)
        column.addWidget(self.error)
        self._figures = wrapping("")
        self.state = wrapping("", "second")
        column.addWidget(self._figures)
        column.addWidget(self.state)
        self.remedies = Flow(spacing=6)
        column.addLayout(self.remedies)
        column.addWidget(self.glance)
        column.addWidget(self.timeline, 1)
        self._below = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._below.setSpacing(12)
        self._below.addWidget(self._step_card(), 6)
        self._below.addWidget(self._pastes_card(), 6)
        column.addLayout(self._below)

    def _step_card(self) -> QFrame:
        frame, column = card(spacing=4)
        self._which: QLabel = label("", "strong")
        self._which.setWordWrap(True)
        self._about: QLabel = label("", "second")
        for words in (self._which, self._about):
            words.setWordWrap(True)
            words.setMinimumWidth(60)
        self.starts = Field("Starts at", self._take_start, self.show_error)
        self.took = Field("Takes, min", self._take_minutes, self.show_error)
        for field in (self.starts, self.took):
            fix_width(field, 72)
        self.late = button(f"Takes {LATE_MIN} min longer", "", partial(self._runs_over, LATE_MIN))
        self.early = button("Takes 5 min less", "", partial(self._runs_over, -5))
        self.delay = button(f"Starts {LATE_MIN} min late", "", self._begins_late)
        self.soft = button("Still soft", "", partial(self._not_ready, hard=False))
        self.soft.setToolTip("Puts the block back to chill and recalculates what follows")
        self.hard = button("Still hard", "", partial(self._not_ready, hard=True))
        self.hard.setToolTip(
            "Lets the block soften on the bench first and recalculates what follows"
        )
        self.free = button("Unpin", "quiet", self._free_chosen, "F")
        self.other = button("Other baker", "quiet", self._other_baker, "B")
        column.addWidget(self._which)
        column.addLayout(
            Flow(
                label("starts", "small"),
                self.starts,
                label("takes", "small"),
                self.took,
                label("min", "small"),
                self.free,
                self.other,
                spacing=7,
            )
        )
        buttons = Flow(self.soft, self.hard, self.late, self.early, self.delay, spacing=5)
        column.addLayout(buttons)
        column.addWidget(self._about)
        column.addStretch(1)
        return frame

    def _pastes_card(self) -> QFrame:
        frame, column = card(spacing=4)
        self._pastes = QGridLayout()
        self._pastes.setColumnStretch(2, 1)
        self._pastes.setVerticalSpacing(2)
        column.addLayout(self._pastes)
        self.hours = Field("Hours", self._take_hours, self.show_error)
        self.hours.setPlaceholderText("05:00 to 14:00")
        fix_width(self.hours, 150)
        self.before = Field("Days ahead", self._take_before, self.show_error)
        fix_width(self.before, 48)
        self.goal = QComboBox()
        self.goal.setAccessibleName("Goal")
        self.goal.addItem("everything on time", "least_elapsed")
        self.goal.addItem("as little late as possible", "least_late")
        self.goal.activated.connect(self._take_goal)
        column.addLayout(
            Flow(
                label("hours", "small"),
                self.hours,
                label("days ahead", "small"),
                self.before,
                spacing=7,
            )
        )
        self._hands = HouseFields(self._session, HANDS, self.show_error)
        more = Flow(spacing=7)
        self.bakers = Field("Bakers", self._take_bakers, self.show_error)
        self.bakers.setToolTip("How many, or who and when: MA 5:00 to 13:00, RO 7:00 to 15:00")
        fix_width(self.bakers, 190)
        more.addWidget(label("bakers", "small"))
        more.addWidget(self.bakers)
        for name in HANDS:
            fix_width(self._hands.fields[name], 48)
            more.addWidget(label(name, "small"))
            more.addWidget(self._hands.fields[name])
        more.addWidget(self.goal)
        column.addLayout(more)
        column.addStretch(1)
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.timeline.setFocus(Qt.FocusReason.OtherFocusReason)

    def _look_changed(self) -> None:
        self.timeline.updateGeometry()
        self._arrange()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """One card below the other when it is narrow."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        narrow = self.viewport().width() < look.theme.px(800)
        ways = QBoxLayout.Direction
        self._below.setDirection(ways.TopToBottom if narrow else ways.LeftToRight)

    def refresh(self) -> None:
        """View the day anew if anything it hangs on is another."""
        view = self.planner.ask()
        if view is not None:
            self._show_state()
            self._job.ask(view)

    def _sheet(self) -> DaySheet:
        return self._session.kitchen.timetable

    def _solve_again(self) -> None:
        if self.planner.solving:
            self.planner.stop()
            return
        self.planner.forget()
        self.refresh()

    def _take_reply(self, reply: Reply) -> None:
        """Hand it on in the window's own thread: it comes from the solver's."""
        self.planner.reply(reply)

    def _show_better_soon(self) -> None:
        if not self._soon.isActive():  # better ones come by the dozen: the last is drawn
            self._soon.start()

    def _show_better(self) -> None:
        """Draw the best plan found so far, where it is still what was asked for."""
        if self.planner.answer is None and self.isVisible():
            self._show_plan()

    def _show(self) -> None:
        view = self.planner.view
        if self.planner.answer is not None:
            self._soon.stop()
        for widget in (self.solve, self.begin, self.back):
            widget.setVisible(view is not None)
        if view is None:
            self._title.setText("No timetable yet")
        else:
            name = self._session.kitchen.demand.name or "The day"
            self._title.setText(f"{name}, {date_text(view.day, weekday=True)}")
            started = view.sheet.now_min is not None
            self.begin.setText("Update to now" if started else "Start the day")
            self.begin.setToolTip("Keeps what has started by now and recalculates the rest")
            self.back.setVisible(started)
        self._show_state()
        self._show_pastes()
        self._show_remedies()
        self._show_plan()

    def _show_state(self) -> None:
        planner = self.planner
        self.solve.setText("Stop" if planner.solving else "Solve again")
        words = {
            "viewing": "Calculating the steps …",
            "solving": "Solving …",
            "refused": planner.refused,
        }.get(planner.state, "")
        view, answer = planner.view, planner.answer
        if view is not None and answer is not None and planner.state == "solved":
            free = free_words(view, planner.plan) if planner.plan else ""
            told = (answer_words(view, answer), free, *view.troubles)
            words = " ".join(filter(None, told))
        self.state.setText(words)

    def _show_remedies(self) -> None:
        clear(self.remedies)
        answer = self.planner.answer
        if answer is None or answer.possible:
            return
        within = [each for each in answer.remedies if in_reach(each)]
        for remedy in within[:MOST_REMEDIES]:
            words = remedy_words(remedy)
            self.remedies.addWidget(
                button(f"{words[:1].upper()}{words[1:]}", "main", partial(self._remedy, remedy))
            )

    def _show_plan(self) -> None:
        shown = self.planner.shown
        if shown is None:
            self.timeline.show_picture(None, "")
            self._figures.setText("")
            self._show_glance()
            self._show_step()
            return
        view, plan = shown
        active, elapsed = hands_min(view, plan)
        first = view.clock.moment(min(s.start_min for s in plan.steps))
        told = [
            f"Hands-on {long_text(active)}",
            f"total {long_text(elapsed)}",
            f"starts {date_text(first, weekday=True).rpartition(' ')[0]}, {first:%H:%M}",
        ]
        broken = [
            (
                f"the rest after {view.words(b.paste, b.step)} ({b.paste}) is {b.minutes} "
                "min, outside its limits"
            )
            for b in plan.broken
        ]
        self._figures.setText(" · ".join(told + broken))
        words = ". ".join(
            f"{view.clock.moment(s.start_min):%a %H:%M} {s.paste}: {view.words(s.paste, s.step)}"
            for s in plan.steps
        )
        self.timeline.show_picture(picture_of(view, plan), words)
        self._show_glance()
        self._show_step()

    def _show_glance(self) -> None:
        """Show the cards, as it is at the minute that the timetable has reached."""
        shown = self.planner.shown
        self.glance.setVisible(shown is not None)
        if shown is None:
            return
        view, plan = shown
        self.glance.show_day(view, plan, in_the_way(view, plan), view.problem.now_min)

    def _change_step(self) -> None:
        """Put the cursor where the step in hand is changed."""
        self.ensureWidgetVisible(self.took)
        self.starts.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def _pick_now(self) -> None:
        """Take the step in hand that is done now, or comes next."""
        shown = self.planner.shown
        if shown is None:
            return
        view, plan = shown
        now = view.problem.now_min
        if now is None:
            now = view.clock.elapsed_now(datetime.now().astimezone())
        steps = sorted(plan.steps, key=lambda s: s.start_min)
        begun = [s for s in steps if s.start_min <= now]
        found = begun[-1] if begun else steps[0]
        self.timeline.pick(found.paste, found.step)

    def _show_pastes(self) -> None:
        view = self.planner.view
        kitchen = self._session.kitchen
        wanted = list(dict.fromkeys(w.uid for w in kitchen.demand.wants if w.pieces > 0))
        entries = self._session.shelf.entries
        uids = [uid for uid in wanted if uid in entries]
        for uid in [u for u in self.rows if u not in uids]:
            let_go(self._pastes, *self.rows.pop(uid).widgets)
        does = Taken(self.take_ready, self.take_in, self.take_source, self.show_error)
        made = 0
        for at, uid in enumerate(uids):
            shown = self.rows.get(uid)
            if shown is None:
                made += 1
                if made > ROWS_AT_ONCE:  # a day of forty pastes is not made in one breath
                    QTimer.singleShot(0, self, self._show_pastes)
                    break
                shown = self.rows[uid] = PasteRow(uid, does)
                for column, widget in enumerate(shown.widgets):
                    self._pastes.addWidget(widget, at, column)
            self._fill_row(shown, uid, entries[uid].name, view)
        sheet, house = self._sheet(), self._session.reference.house
        self.hours.show_value(hours_text(sheet.hours or house.hours))
        self.before.show_value(str(sheet.days_before))
        self.goal.setCurrentIndex(self.goal.findData(sheet.goal))
        self.bakers.show_value(bakers_text(house))
        self._hands.refresh()

    def _fill_row(self, shown: PasteRow, uid: str, name: str, view: DayView | None) -> None:
        sheet = self._sheet()
        letter = ""
        if view is not None and uid in view.names:
            letter = letter_of([p.uid for p in view.pastes].index(uid))
        shown.show_row(
            letter,
            name,
            clock_text(sheet.ready_of(uid)),
            taken=uid not in sheet.left_out,
            sources=sources_of(self._session.kitchen, uid, kitchen_day()),
            source=BLOCKS if uid in sheet.from_frozen else sheet.from_kept.get(uid, ""),
        )

    def _chosen(self) -> tuple[DayView, DayPlan, str, str] | None:
        chosen, shown = self.timeline.chosen, self.planner.shown
        return None if shown is None or chosen is None else (*shown, *chosen)

    def _show_step(self) -> None:
        found = self._chosen()
        fields = (self.starts, self.took, self.late, self.early, self.delay, self.soft, self.hard)
        for widget in fields:
            widget.setEnabled(found is not None)
        if found is None:
            self._which.setText("No step selected")
            self._about.setText("")
            self.free.hide()
            self.other.hide()
            return
        view, plan, paste, step = found
        start = plan.start_of(paste, step)
        note = view.note(paste, step)
        self._which.setText(f"{paste}: {view.words(paste, step)}")
        self.starts.show_value(f"{view.clock.moment(start):%H:%M}")
        self.took.show_value(str(view.minutes(paste, step)))
        self._about.setText(" ".join(self._about_step(view, plan, paste, step, note)))
        is_held = any((h.paste, h.step) == (paste, step) for h in view.problem.held)
        self.free.setVisible(is_held)
        hands = "baker" in view.problem.steps[paste, step].needs
        self.other.setVisible(hands and len(view.problem.people) > 1)
        rested = self._rest_before(view, paste, step)
        self.soft.setVisible(rested)
        self.hard.setVisible(rested)

    def _rest_before(self, view: DayView, paste: str, step: str) -> bool:
        before = view.step_before(paste, step)
        return bool(before and view.note(paste, before).place)

    def _about_step(
        self, view: DayView, plan: DayPlan, paste: str, step: str, note: StepNote
    ) -> list[str]:
        who = next((s.who for s in plan.steps if (s.paste, s.step) == (paste, step)), "")
        told = [f"By {who}."] if who else []
        told.append(f"Source of the minutes: {STANDING_WORDS[note.standing]}.")
        if note.place:
            told.append(f"Then {note.place}, {wait_text(note.least_min, note.most_min)}.")
            told += stand_words(view, plan, paste, step)
        if note.rest is not None and not note.rest.ready.never:
            text = ready_text(note.rest.ready)
            told.append(f"{text[:1].upper()}{text[1:]}.")
        start = plan.start_of(paste, step)
        end = start + view.minutes(paste, step)
        free = next((u - b for b, u in free_gaps(view, plan) if end - 1 <= b <= end + 2), 0)
        if free:
            told.append(f"Then your hands are free for {long_text(free)}.")
        if view.problem.after and any(second == paste for _, _, second in view.problem.after):
            told.append(
                "Wheat paste comes to the bench only after the gluten-free paste has "
                "left it, or flour from bench, pin and air would get into it."
            )
        return told

    def _edit(self, words: str, **changes: object) -> None:
        self.planner.move(Moved(words, replace(self._sheet(), **changes)))

    def take_ready(self, uid: str, text: str) -> None:
        """Say when a paste must be ready."""
        minutes = read_clock(text)
        ready = {**self._sheet().ready, uid: minutes}
        self._edit(f"ready {clock_text(minutes)}", ready=ready)

    def take_in(self, uid: str, on: bool) -> None:  # Qt says it so
        """Take a paste into the timetable, or leave it out."""
        rest = tuple(u for u in self._sheet().left_out if u != uid)
        self._edit("in the timetable" if on else "left out", left_out=rest if on else (*rest, uid))

    def take_source(self, uid: str, source: str) -> None:
        """Take what is there in place of the first steps, or make a paste anew."""
        name = self._session.shelf.entries[uid].name
        self.planner.move(begins_from(self._sheet(), uid, name, source))

    def _take_hours(self, text: str) -> None:
        hours = read_hours(text) if text.strip() else ()
        self._edit(f"hours {hours_text(hours)}" if hours else "usual hours", hours=hours)

    def _take_before(self, text: str) -> None:
        self._edit(f"{text} days ahead", days_before=read_whole(text))

    def _take_goal(self, at: int) -> None:
        self._edit(self.goal.itemText(at), goal=self.goal.itemData(at))

    def _take_start(self, text: str) -> None:
        found = self._chosen()
        if found is None:
            return
        view, plan, paste, step = found
        minute = read_clock(text)
        now = plan.start_of(paste, step)
        day = (view.clock.moment(now).date() - view.clock.first).days
        self._hold(paste, step, view.clock.elapsed(day, minute))

    def _take_minutes(self, text: str) -> None:
        found = self._chosen()
        if found is None:
            return
        minutes = read_whole(text)
        if minutes > 1440:
            raise AmountError("enter minutes, up to 1440 (24 h)", text, 0, len(text))
        view, _, paste, step = found
        self.planner.move(takes(view, paste, step, minutes))

    def _hold(self, paste: str, step: str, minute: int | None) -> None:
        """Hold a step at a minute; None lets it go."""
        view = self.planner.view
        if view is not None:
            self.planner.move(held(view, paste, step, minute))

    def _free(self, paste: str, step: str) -> None:
        self._hold(paste, step, None)

    def _free_chosen(self) -> None:
        if self.timeline.chosen:
            self._free(*self.timeline.chosen)

    def _with_chosen(self, make: Callable[[DayView, DayPlan, str, str], Moved]) -> None:
        found = self._chosen()
        if found is not None:
            self.planner.move(make(*found))

    def _runs_over(self, minutes: int) -> None:
        self._with_chosen(partial(runs_over, minutes=minutes))

    def _begins_late(self) -> None:
        self._with_chosen(partial(begins_late, minutes=LATE_MIN))

    def _not_ready(self, *, hard: bool) -> None:
        self._with_chosen(partial(not_ready, hard=hard))

    def _begin(self) -> None:
        if self.planner.shown is None:
            return
        view, plan = self.planner.shown
        now = view.clock.elapsed_now(datetime.now().astimezone())
        chosen = self.timeline.chosen
        first = min(s.start_min for s in plan.steps)
        if now < first and chosen is not None:
            now = plan.start_of(*chosen) + 1  # begun in thought: up to the step in hand
        self.planner.move(begun(view, plan, max(0, now)))

    def _not_begun(self) -> None:
        self.planner.move(not_begun(self._sheet()))

    def _take_bakers(self, text: str) -> None:
        house = self._session.reference.house
        self._session.store.set_house(f"bakers {text}", read_bakers(house, text))

    def _other_baker(self) -> None:
        found = self._chosen()
        if found is not None:
            self._next_baker(*found[2:])

    def _next_baker(self, paste: str, step: str) -> None:
        """Give the step to the next of the bakers."""
        shown = self.planner.shown
        moved = done_by(*shown, paste, step) if shown is not None else None
        if moved is not None:
            self.planner.move(moved)

    def _remedy(self, remedy: Remedy) -> None:
        view = self.planner.view
        if view is None:
            return
        words = remedy_words(remedy)

        def put_house(house: House) -> None:
            self._session.store.set_house(words, house)

        self.planner.move(remedied(view, remedy, put_house))

    def words(self) -> str:
        """All that is told of the plan, for tests and screen readers."""
        told = (self._figures, self.state, self._about)
        return "\n".join((*(each.text() for each in told), self.glance.words()))
