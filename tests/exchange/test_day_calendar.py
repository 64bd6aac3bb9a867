"""A timetable for calendars, read back by the package's own parser."""

import csv
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from icalendar import Calendar

from aplomb.exchange.day_calendar import DayEvent, day_calendar, day_csv

ROME = ZoneInfo("Europe/Rome")
START = datetime(2026, 11, 27, 5, 0, tzinfo=ROME)
EVENTS = [
    DayEvent(START, START + timedelta(minutes=15), "Regatta, paste", "weigh; mix\nÉ", "fridge", 20,
             113, words="Then fridge."),
    DayEvent(START + timedelta(minutes=40), START + timedelta(minutes=65), "Regatta, paste", "bake",
             hands=False),
]  # fmt: skip


def test_the_calendar_reads_back():
    body = day_calendar(EVENTS, "Regatta day, 2026-11-27", START)
    calendar = Calendar.from_ical(body)
    first, second = calendar.walk("VEVENT")
    assert first["DTSTART"].dt == START
    assert first["DTEND"].dt - first["DTSTART"].dt == timedelta(minutes=15)
    assert str(first["SUMMARY"]) == "Regatta, paste: weigh; mix\nÉ"
    (alarm,) = first.walk("VALARM")
    assert alarm["TRIGGER"].dt == timedelta(minutes=-5)
    assert second.walk("VALARM") == [], "nobody is wanted while it bakes"
    assert first["UID"] != second["UID"]
    again = Calendar.from_ical(day_calendar(EVENTS, "Regatta day, 2026-11-27", START))
    assert again.walk("VEVENT")[0]["UID"] == first["UID"], "a calendar moves it, not doubles it"
    other = Calendar.from_ical(day_calendar(EVENTS, "Regatta day, 2026-12-05", START))
    assert other.walk("VEVENT")[0]["UID"] != first["UID"]


def test_the_table_reads_back():
    rows = list(csv.DictReader(day_csv(EVENTS).decode("utf-8-sig").splitlines(keepends=True)))
    assert rows[0]["begins"] == "05:00"
    assert (rows[0]["minutes"], rows[0]["rest_max"]) == ("15", "113")
    assert rows[1]["hands"] == ""


def test_minutes_are_true_in_the_night_the_clock_goes_back():
    begin = datetime(2026, 10, 25, 1, 30, tzinfo=ROME)
    end = datetime.fromtimestamp(begin.timestamp() + 3600 * 2, ROME)
    body = day_csv([DayEvent(begin, end, "p", "rest")]).decode("utf-8-sig")
    row = next(csv.DictReader(body.splitlines()))
    assert row["minutes"] == "120"
