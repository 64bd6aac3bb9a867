"""A day's timetable as iCalendar with alarms, and as CSV."""

import csv
import io
from datetime import UTC, datetime, timedelta
from hashlib import sha256

from msgspec import Struct

from aplomb.exchange.cells import safe


class DayEvent(Struct, frozen=True):
    """One step of a timetable.

    Attributes
    ----------
    begins, ends : datetime
        Aware of their zone.
    place : str
        Where it rests afterwards; empty for nowhere.
    rest_min, rest_max : int or None
        What it may wait then [min].
    hands : bool
        True when it needs somebody.
    words : str
        What is known of it besides.
    key : str
        By which a calendar knows it again; where it has none, by its name.
    """

    begins: datetime
    ends: datetime
    paste: str
    step: str
    place: str = ""
    rest_min: int = 0
    rest_max: int | None = None
    hands: bool = True
    words: str = ""
    key: str = ""


ALARM_MIN = 5
"""So long before a step for hands the calendar tells [min]."""


def day_calendar(events: list[DayEvent], name: str, made: datetime) -> bytes:
    """Write a timetable as iCalendar (RFC 5545), in universal time.

    UTF-8. Steps that need hands tell 5 min before; a step has the same identity whenever it is
    given out, so that a calendar moves it instead of holding it twice.

    Parameters
    ----------
    name : str
        Of the calendar.
    made : datetime
        When it is written.
    """
    from icalendar import Alarm, Calendar, Event  # slow to import, and wanted here only

    calendar = Calendar()
    calendar.add("prodid", "-//Aplomb//Timetable//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for each in events:
        event = Event()
        key = f"{name}\n{each.paste}\n{each.key or each.step}".encode()
        event.add("uid", f"{sha256(key).hexdigest()[:24]}@aplomb.invalid")
        event.add("dtstamp", made.astimezone(UTC))
        event.add("dtstart", each.begins.astimezone(UTC))
        event.add("dtend", each.ends.astimezone(UTC))
        event.add("summary", f"{each.paste}: {each.step}")
        if each.words:
            event.add("description", each.words)
        if each.hands:
            alarm = Alarm()
            alarm.add("action", "DISPLAY")
            alarm.add("description", f"{each.paste}: {each.step}")
            alarm.add("trigger", timedelta(minutes=-ALARM_MIN))
            event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())


def day_csv(events: list[DayEvent]) -> bytes:
    """Write a timetable as CSV.

    UTF-8 with a byte order mark; days and hours as the clock shows them.
    """
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(
        [
            "day",
            "begins",
            "ends",
            "minutes",
            "paste",
            "step",
            "hands",
            "then",
            "rest_min",
            "rest_max",
        ]
    )
    for e in events:
        minutes = round((e.ends.timestamp() - e.begins.timestamp()) / 60)
        rows.writerow(
            [
                f"{e.begins:%Y-%m-%d}",
                f"{e.begins:%H:%M}",
                f"{e.ends:%H:%M}",
                minutes,
                safe(e.paste),
                safe(e.step),
                "yes" if e.hands else "",
                e.place,
                e.rest_min if e.place else "",
                e.rest_max if e.place and e.rest_max is not None else "",
            ]
        )
    return b"\xef\xbb\xbf" + out.getvalue().encode()
