"""The timetable on A4, for the wall: the lanes, then every step with a box to tick."""

from PySide6.QtCore import QRectF

from aplomb.core.day.plan import DayPlan
from aplomb.desk.drawings.timetable import axis_of, names_width, needed_height, paint_timetable
from aplomb.desk.kit.theme import Theme
from aplomb.desk.paper.canvas import Canvas, pdf_of
from aplomb.desk.paper.page import GREY, MARGIN, PX_MM, WIDE, PrintedPage, font
from aplomb.work.day.picture import picture_of
from aplomb.work.day.view import DayView, letter_of
from aplomb.work.day.words import events_of, hands_min, ready_words
from aplomb.work.figures.local import date_text
from aplomb.work.words.cold import wait_text

INNER = WIDE - 2 * MARGIN
CAUTIONS = (
    (
        "Go by the state of the block, not by the clock: it is ready when a thumb leaves a "
        "clean dent of about 6 mm."
    ),
    (
        "Keep filled pieces chilled until they go into the oven; do not use any that were "
        "out for long."
    ),
    "Your food law on cooling and keeping comes before this page.",
    "Hot sugar and hot fat burn; mind the steam at the oven door. Pack only when cold.",
)


def _hours(minutes: int) -> str:
    return f"{minutes // 60} h {minutes % 60:02d} min" if minutes >= 60 else f"{minutes} min"


def paint_day(canvas: Canvas, view: DayView, plan: DayPlan, name: str) -> None:
    """Paint the timetable.

    Parameters
    ----------
    name : str
        Of the day.
    """
    page = PrintedPage(canvas, f"Timetable · {name}")
    active, elapsed = hands_min(view, plan)
    page.head(
        name,
        (
            f"{date_text(view.day, weekday=True)} · hands-on {_hours(active)}, total "
            f"{_hours(elapsed)}"
        ),
        "Ready: " + "; ".join(ready_words(view, plan)),
    )
    theme = Theme()
    picture = picture_of(view, plan)
    high = needed_height(picture, theme) * PX_MM + 4
    room = page.screen(MARGIN, page.y, INNER, high)
    inner = QRectF(room)
    names = names_width(theme)
    axis = axis_of(picture, inner.left() + names, inner.width() - names)
    paint_timetable(page.painter, inner, picture, axis, theme)
    page.painter.restore()
    page.y += high + 2
    letters = {p.name: letter_of(i) for i, p in enumerate(view.problem.pastes)}
    key = "   ".join(f"{letter}  {paste}" for paste, letter in letters.items())
    page.y += page.text(MARGIN, page.y, INNER, key, font(11), GREY, wrap=True) + 1
    day = None
    for event in events_of(view, plan):
        if event.begins.date() != day:
            day = event.begins.date()
            page.title_line(date_text(day, weekday=True))
        if view.note(event.paste, event.key).kind in ("bake", "heat", "refresh"):
            words = f"{event.step}, {round((event.ends - event.begins).total_seconds() / 60)} min"
        else:
            words = event.step
        then = ""
        if event.place:
            then = f"then {event.place}, {wait_text(event.rest_min, event.rest_max)}"
        page.room(8)
        page.tick_box(MARGIN, page.y + 0.4, 3.8)
        page.text(MARGIN + 7, page.y, 16, f"{event.begins:%H:%M}", font(12, 600))
        page.text(MARGIN + 23, page.y, 6, letters[event.paste], font(12, 600))
        page.text(MARGIN + 29, page.y, 84, words, font(12))
        page.text(MARGIN + 113, page.y, INNER - 113, then, font(11), GREY)
        page.y += 6.4
    page.room(22)
    page.y += 2
    for words in CAUTIONS:
        page.y += page.text(MARGIN, page.y, INNER, words, font(10.5), GREY, wrap=True) + 0.6


def day_pdf(view: DayView, plan: DayPlan, name: str) -> bytes:
    """Give the timetable as PDF."""
    return pdf_of(lambda canvas: paint_day(canvas, view, plan, name), f"Timetable: {name}")
