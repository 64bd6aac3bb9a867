"""What can be typed at the bench: a sheet, a weight, a figure, a temperature, a note, initials."""

from collections.abc import Callable
from typing import get_args

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import decimal_sign, mm_text
from aplomb.core.base.numbers import read_number
from aplomb.core.bench.acts import (
    MEASURE_WORDS,
    Measure,
    Measured,
    Note,
    Reach,
    Temp,
)
from aplomb.core.bench.readings import OF_THE_OVEN
from aplomb.desk.bench.run_control import RunControl
from aplomb.work.bench.log import read_reached
from aplomb.work.figures.typed import read_mass, read_temp

NOTES = (
    "door was left open", "fat came through", "sheet uneven", "edges cracked",
    "rolled again at once", "offcuts laid back in", "scrap stacked for bases", "went well",
)  # fmt: skip
"""Notes by one digit each."""

OF_AN_OVEN = ("heat", "load", "bake", "refresh", "out")
"""Kinds of step at which a temperature that is typed is the oven's, not a block's."""


class Entry(Struct, frozen=True):
    """Something that can be typed.

    Attributes
    ----------
    title, hint : callable
        Of what is shown; give text.
    take : callable
        Takes what was typed; raises AplombError. True to stay for more.
    """

    key: str
    title: str
    hint: str
    take: Callable[[RunControl, str], bool]


def _track(control: RunControl) -> str:
    now = control.current()
    return now.task.track if now else ""


def _task(control: RunControl) -> str:
    now = control.current()
    return now.task.key if now else ""


def _reached(control: RunControl, text: str) -> bool:
    now = control.current()
    sheet = now.task.sheet if now else None
    planned = (sheet.length_mm, sheet.width_mm) if sheet else (None, None)
    act = read_reached(_task(control), text, planned)
    control.do(lambda run: run.press(act))
    return False


def _measured(control: RunControl, text: str) -> bool:
    names = list(get_args(Measured))
    which, _, rest = text.strip().partition(" ")
    if not which.isdigit() or not 1 <= int(which) <= len(names) or not rest.strip():
        raise AplombError("enter the number of the line and the value, e.g. 5 38")
    what: Measured = names[int(which) - 1]
    if what.endswith("_g"):
        value = read_mass(rest, zero=True)
    else:
        value = read_number(rest, decimal_sign())
        if value != int(value):
            raise AplombError("enter a whole number of pieces")
    control.do(lambda run: run.press(Measure(_track(control), what, value)))
    return True


def _temp(control: RunControl, text: str) -> bool:
    value = read_temp(text)
    now = control.current()
    baking = now is not None and now.task.kind in OF_AN_OVEN
    where = OF_THE_OVEN if baking else "in the middle"
    control.do(lambda run: run.press(Temp(_track(control), where, value)))
    return False


def _note(control: RunControl, text: str) -> bool:
    typed = text.strip()
    if not typed:
        return False
    if typed.isdigit() and 1 <= int(typed) <= len(NOTES):
        typed = NOTES[int(typed) - 1]
    control.do(lambda run: run.press(Note(_track(control), typed)))
    return False


def _who(control: RunControl, text: str) -> bool:
    control.do(lambda run: run.sign(text))
    return False


def _by_hand(control: RunControl, text: str) -> bool:
    weighing = control.weighing()
    if weighing is not None:
        weighing.take(read_mass(text, zero=True), "hand")
        control.changed.emit()
    return False


def _code(control: RunControl, text: str) -> bool:
    if not control.open_code(text):
        raise AplombError(f"“{text.strip()[:12]}” is not a block of this run; check the label")
    return False


def _numbered(lines: tuple[str, ...]) -> str:
    return "\n".join(f"{i}  {line}" for i, line in enumerate(lines, 1))


ENTRIES: dict[str, Entry] = {
    each.key: each
    for each in (
        Entry("reach", "Size the sheet reached",
              "good, long or short; or length, width, thickness, as they are drawn", _reached),
        Entry("measure", "Batch figure",
              _numbered(tuple(MEASURE_WORDS[m] for m in get_args(Measured))) + "\ne.g. 5 38",
              _measured),
        Entry("temp", "Temperature in the middle; during the bake, of the oven", "e.g. 13.5",
              _temp),
        Entry("note", "A note", _numbered(NOTES), _note),
        Entry("who", "Who is at the bench", "initials; empty for nobody", _who),
        Entry("hand", "Weight by hand", "what another scale shows", _by_hand),
        Entry("code", "The code on a label", "five letters", _code),
    )
}  # fmt: skip


def reached_text(reach: Reach) -> str:
    """Say what a sheet reached."""
    if reach.word:
        return reach.word
    sizes = [s for s in (reach.length_mm, reach.width_mm, reach.thickness_mm) if s is not None]
    return " × ".join(mm_text(size, ".0f") for size in sizes)
