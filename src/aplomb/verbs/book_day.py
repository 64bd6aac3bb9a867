"""The day of a book, as a script asks it: solved, and written for a calendar."""

from datetime import date, datetime
from pathlib import Path

from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.day.solve import DayAnswer, solve_day
from aplomb.disk import write_bytes
from aplomb.exchange.day_calendar import day_calendar, day_csv
from aplomb.verbs.day import DayResult, day_found
from aplomb.work.day.view import DayView, gather, view_of
from aplomb.work.day.words import events_of
from aplomb.work.open_book.sources import opened_copy


def book_view(path: str, day: str) -> tuple[DayView, str]:
    """Work out the day of a book.

    Parameters
    ----------
    path : str
        Of the book; it is never changed.
    day : str
        On which things are wanted, as 2026-11-28; empty for what the book says.

    Returns
    -------
    tuple of (DayView, str)
        And the name of the day.

    Raises
    ------
    AplombError
        When there is no such book or day, or nothing is wanted.
    """
    with opened_copy(Path(path)) as work:
        gathered = gather(work)
        if day:
            try:
                wanted = date.fromisoformat(day)
            except ValueError:
                raise AplombError(
                    f"date: “{day[:40]}” is not a date; write it like 2026-11-28"
                ) from None
            gathered = replace(gathered, day=wanted)
        return view_of(gathered), gathered.kitchen.demand.name or "Timetable"


def book_day(path: str, day: str, written: Path | None) -> tuple[DayResult, DayView, DayAnswer]:
    """Solve the day of a book, and write it where that is wanted.

    Parameters
    ----------
    path : str
        Of the book.
    day : str
        As of `book_view`.
    written : Path or None
        Ends in .ics or .csv.

    Returns
    -------
    tuple of (DayResult, DayView, DayAnswer)

    Raises
    ------
    AplombError
        When it cannot be worked out or written, or cannot be done at all.
    """
    if written is not None and written.suffix.lower() not in (".ics", ".csv"):
        raise AplombError(
            f"the name of the timetable must end in .ics or .csv, not “{written.suffix[:20]}”"
        )
    view, name = book_view(path, day)
    kept = view.kept_plan()
    answer = DayAnswer(True, kept) if kept else solve_day(view.problem)
    if written is not None:
        if answer.plan is None:
            raise AplombError(f"{written.name} was not saved: {answer.because}")
        events = events_of(view, answer.plan)
        ics = written.suffix.lower() == ".ics"
        now = datetime.now().astimezone()
        write_bytes(
            written,
            day_calendar(events, f"{name}, {view.day.isoformat()}", now)
            if ics
            else day_csv(events),
        )
    return day_found(view.problem, answer), view, answer


def book_day_words(view: DayView, answer: DayAnswer) -> str:
    """Say the day of a book in plain words, by the clock on the wall."""
    from aplomb.work.day.words import remedy_words

    if answer.plan is None:
        told = [f"not possible: {answer.because}"]
        return "\n".join(
            told
            + [f"this change would make it possible: {remedy_words(r)}" for r in answer.remedies]
        )
    lines = [
        f"{e.begins:%a %H:%M} to {e.ends:%H:%M}  {e.paste}: {e.step}"
        for e in events_of(view, answer.plan)
    ]
    return "\n".join([*lines, *view.troubles])
