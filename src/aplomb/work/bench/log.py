"""The record of a run, line by line: what was pressed, put right, taken back."""

import math
from collections.abc import Callable
from datetime import datetime

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import celsius_text, decimal_sign, g_text, mm_text, num
from aplomb.core.base.numbers import read_number
from aplomb.core.bench.acts import (
    COUNT_WORDS,
    MEASURE_WORDS,
    REACHED_WORDS,
    Act,
    Amend,
    Begin,
    ClockMoved,
    Count,
    End,
    Finish,
    Hold,
    Measure,
    Note,
    Press,
    Quiet,
    Reach,
    Seen,
    TakeBack,
    Temp,
    Tick,
    Weigh,
    Who,
)
from aplomb.core.bench.asking import states_for
from aplomb.core.bench.plan import RunPlan
from aplomb.core.bench.state import shown
from aplomb.core.paste.pantry import Pantry
from aplomb.work.figures.typed import read_length, read_mass, read_temp

LEFT_OUT = (Quiet, TakeBack)


class LogLine(Struct, frozen=True):
    """A line of the record.

    Attributes
    ----------
    number : int
        Of the press [-].
    was : str
        What it was before it was put right; empty when it never was.
    why : str
        Why it was put right.
    corrective : bool
        Whether it says what was done about a trouble.
    can_change : bool
        Whether its value can be put right.
    """

    number: int
    moment: datetime
    block: str
    what: str
    value: str
    who: str
    was: str = ""
    why: str = ""
    taken_back: bool = False
    corrective: bool = False
    can_change: bool = False


def _name(plan: RunPlan, track: str) -> str:
    found = next((t for t in plan.tracks if t.key == track), None)
    return f"{track} {found.name}" if found else ""


def _words(plan: RunPlan, act: Act, pantry: Pantry) -> tuple[str, str, str]:
    """Block, what, and value of an act."""
    task = plan.by_key.get(getattr(act, "task", ""))
    track = task.track if task else getattr(act, "track", "")
    block = _name(plan, track)
    step = task.name if task else ""
    match act:
        case Begin():
            return block, f"{step}: started", ""
        case End():
            return block, f"{step}: done", ""
        case Seen(_, state, answer):
            seen = next(
                (
                    s.words
                    for pieces in (False, True)
                    if task
                    for s in states_for(task, in_pieces=pieces)
                    if s.key == state
                ),
                state,
            )
            return block, f"{step}: checked", f"{seen} ({answer})" if answer else seen
        case Hold(_, where, minutes, place, why):
            said = f"into the {place or 'cold'}" if where == "cold" else "left on the bench"
            return block, f"{step}: {said}, {why}".rstrip(", "), f"{num(round(minutes))} min"
        case Count(_, what, spoons, each_g):
            return block, f"{step}: {COUNT_WORDS[what]}", f"{spoons} × {g_text(each_g, 1)}"
        case Weigh(_, _, material, product, mix, target_g, got_g, _, by):
            name = pantry[material].name if material in pantry else material
            more = "".join(f", {w}" for w in (product, f"mix {mix}" if mix else "") if w)
            hand = " by hand" if by == "hand" else ""
            return (
                block,
                f"weighed: {name}{more}",
                f"{g_text(got_g, 1)}{hand} of {g_text(target_g, 1)}",
            )
        case Reach():
            sizes = [s for s in (act.length_mm, act.width_mm, act.thickness_mm) if s is not None]
            value = act.word or " × ".join(mm_text(s, ".0f") for s in sizes)
            return block, f"{step}: size of sheet", value
        case Tick(_, what, on):
            return block, f"{step}: {what}", "yes" if on else "no"
        case Measure(_, what, value):
            return (
                block,
                MEASURE_WORDS[what].removesuffix(", g"),
                (g_text(value, 1) if what.endswith("_g") else num(round(value))),
            )
        case Temp(_, where, temp_c, by):
            return block, f"temperature {where}", f"{celsius_text(temp_c, 1)}, {by}"
        case Note(_, words):
            return block, words, ""
        case Who(initials):
            return "", "at the bench", initials or "nobody"
        case ClockMoved(seconds):
            return "", "the computer’s clock was moved", f"{num(round(seconds))} s"
        case Finish():
            return "", "the run was ended", ""
    return block, "", ""


CHANGEABLE = (Count, Weigh, Reach, Measure, Temp, Note)


def log_lines(
    plan: RunPlan, presses: list[Press], pantry: Pantry, moment: Callable[[float], datetime]
) -> tuple[LogLine, ...]:
    """Give the record of a run.

    Parameters
    ----------
    moment : callable
        Gives the wall's time of a moment of the run [s].

    Returns
    -------
    tuple of LogLine
        In order; alarms that were heard are left out.
    """
    lines = []
    who = ""
    for each in shown(presses):
        if isinstance(each.press.act, LEFT_OUT):
            continue
        if isinstance(each.act, Who) and not each.taken_back:
            who = each.act.initials
        block, what, value = _words(plan, each.act, pantry)
        if isinstance(each.act, Amend) or not what:
            continue
        was, why = "", ""
        if each.amended:
            _, old, before = _words(plan, each.press.act, pantry)
            was = before or old
            last = each.amended[-1].act
            why = last.why if isinstance(last, Amend) else ""
        lines.append(
            LogLine(
                each.press.number,
                moment(each.press.at_s),
                block,
                what,
                value,
                who,
                was,
                why,
                each.taken_back,
                isinstance(each.act, Note) and each.act.corrective,
                isinstance(each.act, CHANGEABLE) and not each.taken_back,
            )
        )
    return tuple(lines)


def put_right(act: Act, text: str) -> Act:
    """Give an act with its value as it should have been.

    Parameters
    ----------
    act : Act
        One that can be put right.
    text : str
        As typed.

    Raises
    ------
    AplombError
        When it cannot be read, or the act has no value.
    """
    match act:
        case Weigh():
            return replace(act, got_g=read_mass(text, zero=True), by="hand")
        case Measure(_, what, _):
            if what.endswith("_g"):
                return replace(act, value=read_mass(text, zero=True))
            return replace(act, value=read_number(text, decimal_sign()))
        case Temp():
            return replace(act, temp_c=read_temp(text), by="hand")
        case Count():
            spoons = read_number(text, decimal_sign())
            if spoons != int(spoons):
                raise AplombError("enter a whole number of spoons")
            return replace(act, spoons=int(spoons))
        case Note():
            return replace(act, words=text.strip())
        case Reach():
            return read_reached(act.task, text, (act.length_mm, act.width_mm))
    raise AplombError("This entry cannot be corrected; undo it, or add a note.")


def _side(part: str, planned_mm: float | None) -> float:
    """Read a length or width [mm]: a bare one in cm, or in mm where that is what was planned."""
    own = read_length(part)
    in_cm = read_length(part, in_cm=True)
    if own == in_cm or not planned_mm or own <= 0:
        return in_cm
    return min((in_cm, own), key=lambda side: abs(math.log(side / planned_mm)))


Planned = tuple[float | None, float | None]
"""Length and width that were planned, or noted before [mm]."""


def read_reached(task: str, text: str, planned: Planned = (None, None)) -> Reach:
    """Read what a sheet reached: a word, or length, width and thickness.

    Bare lengths and widths are in cm, as they are drawn, a bare thickness in mm. What is ten times
    as near to the plan in mm was meant so: nobody rolls a sheet of 57 cm to 570.

    Parameters
    ----------
    task : str
        Its key.
    text : str
        As typed: ``good``, ``lo``, ``57 20 9``, ``570 200 9``.
    planned : tuple of float or None
        Length and width that it was to have [mm].

    Raises
    ------
    AplombError
        When it is neither.
    """
    typed = text.strip().lower()
    word = next((w for w in REACHED_WORDS if typed and w.startswith(typed)), "")
    if word:
        return Reach(task, word=word)
    parts = typed.replace("×", " ").replace("x", " ").split()
    if not 1 <= len(parts) <= 3:
        raise AplombError("enter good, long or short, or length, width, thickness: 57 20 9")
    sizes: list[float | None] = [
        read_length(part) if at == 2 else _side(part, planned[at]) for at, part in enumerate(parts)
    ]
    sizes += [None] * (3 - len(sizes))
    return Reach(task, sizes[0], sizes[1], sizes[2])


class OutOfCold(Struct, frozen=True):
    """A block out of the cold once: for the sheet of the day.

    Attributes
    ----------
    out, back : datetime or None
        When; `back` None while it is still out.
    minutes : float or None
        [min].
    temps : str
        What was read meanwhile, in words.
    """

    block: str
    out: datetime
    back: datetime | None
    minutes: float | None
    temps: str


def out_of_cold(
    plan: RunPlan, presses: list[Press], moment: Callable[[float], datetime]
) -> tuple[OutOfCold, ...]:
    """Give every time a block lay out of the cold.

    Parameters
    ----------
    moment : callable
        As for `log_lines`.

    Returns
    -------
    tuple of OutOfCold
        In order of time.
    """
    by_key = plan.by_key
    since: dict[str, float] = {}
    temps: dict[str, list[str]] = {}
    found: list[tuple[float, OutOfCold]] = []

    def back(track: str, at_s: float) -> None:
        began = since.pop(track, None)
        if began is not None:
            said = ", ".join(temps.pop(track, []))
            found.append(
                (
                    began,
                    OutOfCold(
                        _name(plan, track), moment(began), moment(at_s), (at_s - began) / 60, said
                    ),
                )
            )

    for each in shown(presses):
        act, at_s = each.act, each.press.at_s
        if each.taken_back:
            continue
        task = by_key.get(getattr(act, "task", ""))
        if isinstance(act, Temp):
            temps.setdefault(act.track, []).append(celsius_text(act.temp_c, 1))
        elif task is None:
            continue
        elif isinstance(act, Begin) and task.out_min is not None:
            since.setdefault(task.track, at_s)
        elif (isinstance(act, End) and task.to_cold) or (
            isinstance(act, Hold) and act.where == "cold"
        ):
            back(task.track, at_s)
    for track, began in since.items():
        found.append(
            (
                began,
                OutOfCold(
                    _name(plan, track), moment(began), None, None, ", ".join(temps.get(track, []))
                ),
            )
        )
    return tuple(each for _, each in sorted(found, key=lambda one: one[0]))
