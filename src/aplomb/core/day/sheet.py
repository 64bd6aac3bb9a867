"""What a book says of a timetable: when things are wanted, what was moved, where it stands."""

import re

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import Problems
from aplomb.core.base.sound import check_sound
from aplomb.core.day.problem import MOST_MIN, MOST_PASTES, Goal, Started

NOON_MIN = 720
"""When a paste is wanted where nothing is said [min from midnight]."""
FRESH_MIN = 300
"""So long before it is wanted a product may be ready [min], common practice: crisp for a day, best
within some hours."""
MOST_DAYS_BEFORE = 6


class DaySheet(Struct, frozen=True, forbid_unknown_fields=True):
    """A day's timetable as it was asked for, moved and begun.

    Pastes are named by the identity of their formula in the book; minutes are elapsed minutes from
    00:00 of the first day unless said.

    Attributes
    ----------
    days_before : int
        Days before the one on which things are wanted, on which work can be done [-].
    ready : dict of int, by paste
        When it must be ready [min from midnight of the day it is wanted on].
    fresh_min : int
        So long before that it may be ready at the earliest [min].
    left_out : tuple of str
        Pastes of the day that are not in this timetable.
    hours : tuple of (from, to)
        When hands are there, each day [min from midnight]; empty for the house's hours.
    from_frozen : tuple of str
        Pastes whose first steps a block from the freezer takes the place of.
    from_kept : dict of str, by paste
        Key of the pieces put by, raw or baked, that take the place of all steps before the oven.
    minutes : dict of int, by 'paste/step'
        How long a step takes, where it is not what is usual [min].
    held : tuple of Started
        Steps that begin when the user says.
    plan : tuple of Started
        The timetable as it was last solved.
    now_min : int or None
        How far the day has come; None before it begins.
    begun_for : str
        The day for which things were wanted when it began, ISO 8601; empty before, and in a book
        of a version that did not keep it.
    extra, rest_extra : dict of int, by 'paste/step'
        What a step, and the rest after it, takes longer than planned [min].
    """

    days_before: int = 1
    ready: dict[str, int] = {}
    fresh_min: int = FRESH_MIN
    left_out: tuple[str, ...] = ()
    hours: tuple[tuple[int, int], ...] = ()
    goal: Goal = "least_elapsed"
    from_frozen: tuple[str, ...] = ()
    from_kept: dict[str, str] = {}
    minutes: dict[str, int] = {}
    held: tuple[Started, ...] = ()
    plan: tuple[Started, ...] = ()
    now_min: int | None = None
    begun_for: str = ""
    extra: dict[str, int] = {}
    rest_extra: dict[str, int] = {}

    def ready_of(self, paste: str) -> int:
        """When a paste must be ready [min from midnight of the day it is wanted on]."""
        return self.ready.get(paste, NOON_MIN)

    def not_begun(self) -> "DaySheet":
        """Give the sheet as if nothing of the day had begun."""
        return replace(self, now_min=None, begun_for="", plan=(), extra={}, rest_extra={})

    def on(self, day: str) -> "DaySheet":
        """Give the sheet for a day, ISO 8601: what was begun for another is not carried to it."""
        begun_for_another = self.now_min is not None and self.begun_for not in ("", day)
        return self.not_begun() if begun_for_another else self

    @property
    def so_far(self) -> tuple[Started, ...]:
        """The steps of the plan that have begun."""
        if self.now_min is None:
            return ()
        return tuple(each for each in self.plan if each.start_min < self.now_min)


def step_key(paste: str, step: str) -> str:
    """Name a step in a sheet.

    Examples
    --------
    >>> step_key("f1", "mix")
    'f1/mix'
    """
    return f"{paste}/{step}"


def check_day_sheet(sheet: DaySheet) -> DaySheet:
    """Give the sheet back if every figure in it can be used.

    Raises
    ------
    FormulaError
        With the reason in words.
    """
    wrong = Problems()
    wrong.number("days before", sheet.days_before, 0, MOST_DAYS_BEFORE, "")
    wrong.number("earliest ready time", sheet.fresh_min, 0, MOST_MIN, "min")
    if len(sheet.ready) > 4 * MOST_PASTES:
        wrong.add(f"day: {len(sheet.ready)} pastes are too many.")
    for name, minutes in sheet.ready.items():
        wrong.number(f"{name[:20]}, ready", minutes, 0, 2 * 1440, "min")
    for words, each, low in (
        ("takes", sheet.minutes, 0),
        ("takes longer", sheet.extra, -1440),
        ("rests longer", sheet.rest_extra, -1440),
    ):
        for name, minutes in each.items():
            wrong.number(f"{name[-30:]} {words}", minutes, low, MOST_MIN, "min")
    for begin, end in sheet.hours:
        if not 0 <= begin < end <= 1440:
            wrong.add("hours: each must start before it ends, on the same day.")
    for started in (*sheet.held, *sheet.plan):
        wrong.number(f"{started.step[:30]}, start", started.start_min, 0, MOST_MIN, "min")
    if sheet.begun_for and not re.fullmatch(r"\d{4}-\d\d-\d\d", sheet.begun_for):
        wrong.add(f"“{sheet.begun_for[:20]}” is not a day; use one like 2026-11-28.")
    if sheet.now_min is not None:
        wrong.number("now", sheet.now_min, 0, MOST_MIN, "min")
    check_sound(sheet, wrong)
    wrong.check()
    return sheet
