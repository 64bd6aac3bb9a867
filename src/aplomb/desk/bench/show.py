"""From the run to what the bench's screen shows of it."""

from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from aplomb.core.base.figures import celsius_text, g_text, weight_text
from aplomb.core.bench.plan import Sheet, Task
from aplomb.core.bench.state import Coming
from aplomb.core.bench.tally import turns_done
from aplomb.core.paste.formula import turn_of
from aplomb.desk.bench.entries import reached_text
from aplomb.desk.bench.faces import BlockChip
from aplomb.desk.bench.tiles import LEAST_TEXT
from aplomb.desk.drawings.bench import (
    CurvePicture,
    SheetPicture,
    paint_bench_sheet,
    paint_curve,
    paint_pieces,
    paint_ring,
)
from aplomb.desk.drawings.folded import paint_enclosing
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.words import (
    card_of,
    clock_words,
    coming_words,
    count_words,
    held_back_of,
    task_title,
)
from aplomb.work.figures.local import moment_text

if TYPE_CHECKING:
    from PySide6.QtWidgets import QLabel

    from aplomb.desk.bench.faces import StepFace
    from aplomb.desk.bench.run_control import RunControl


class Screen(Protocol):
    """What is filled here of the bench's screen."""

    control: "RunControl"
    step: "StepFace"
    head: "QLabel"

    @property
    def u(self) -> float:
        """Height of the window over 800 px [-]."""

    @property
    def px_mm(self) -> float:
        """Pixels a millimetre [px/mm]."""

    def chips_for(self, many: int) -> list[BlockChip]:
        """Give so many chips of blocks, and hide the rest."""


MOST_CHIPS = 7
COMING_SHOWN = 3


def tiles_wanted(control: "RunControl") -> dict[str, str]:
    """Give the tiles that are shown, each with other words or none."""
    now, run = control.current(), control.run
    if run is None:
        return {}
    if control.ringing() is not None:
        return {"go": "Stop the alarm"}
    if control.face in ("ask", "trouble", "entry"):
        return {"back": "Back"} | ({"go": "Just right"} if control.face == "ask" else {})
    if run.is_over:
        return {"note": "", "measure": ""}
    if now is None:
        return {"go": "End the run", "note": "", "measure": "", "back": ""}
    wanted = {"go": _go_words(control, now), "back": "", "trouble": ""}
    kind, doing = now.task.kind, now.status == "doing"
    if kind == "mix" and doing:
        wanted |= {"water": "", "flour": ""}
    elif kind == "weigh" and doing:
        wanted |= {"tare": "", "enough": "", "hand": ""}
    elif kind in ("turn", "sheet", "enclose"):
        wanted |= {"dust": "", "reach": "", "cold": ""} if doing else {}
    if kind in ("sheet", "cut", "fill", "out", "pack", "trim"):
        wanted |= {"measure": ""}
    return wanted | {"note": "", "next": ""}


def _go_words(control: "RunControl", now: Coming) -> str:
    if control.line() is not None:
        return "Accept"
    if now.status == "doing" or (now.status == "due" and not now.task.hands):
        return "Done"
    if now.status in ("resting", "held", "waiting"):
        return "Start now"
    return "Start"


def show_chips(screen: Screen, run: LiveRun) -> None:
    """Show every block of the run at the top, and the clock."""
    order = run.order()
    now = order[0] if order else None
    tracks = [t for t in run.plan.tracks if t.block or run.plan.tasks_of(t.key)]
    blocks = [t for t in tracks if t.block] or tracks
    if now is not None and now.task.track not in [t.key for t in blocks]:
        blocks = [run.plan.track(now.task.track), *blocks]
    shown = blocks[:MOST_CHIPS]
    by_track: dict[str, Coming] = {}
    for each in order:
        by_track.setdefault(each.task.track, each)
    for chip, track in zip(screen.chips_for(len(shown)), shown, strict=True):
        coming = by_track.get(track.key)
        done, planned = turns_done(run.plan, run.state, track.key)
        tally = f"{done}/{planned}" if planned else ""
        clock, how = _chip_clock(run, track.key, coming)
        picked = now is not None and now.task.track == track.key
        chip.show_block(track.key, tally, clock, how, screen.u, picked=picked)
        chip.show()
    moment = moment_text(run.clock.moment(run.now_s)).rpartition(" ")[2]
    who = f"{run.state.who} · " if run.state.who else ""
    quick = f" · rehearsal × {run.plan.quick:.0f}" if run.plan.quick != 1 else ""
    kept = "" if not run.waiting else " · saving"
    screen.head.setText(f"{who}{moment}{quick}{kept}")
    screen.head.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)


def _chip_clock(run: LiveRun, track: str, coming: Coming | None) -> tuple[str, str]:
    if track in run.state.out_s:
        limit = _out_limit(run, track)
        left = run.state.out_s[track] + 60 * limit - run.now_s if limit else None
        return ("" if left is None else clock_words(left)), "open"
    if coming is None:
        return "done", ""
    if coming.status in ("resting", "held") and coming.ready_s is not None:
        held = run.state.tasks[coming.task.key].held
        how = "" if held is not None and held.where == "bench" else "cold"
        return clock_words(coming.ready_s - run.now_s), how
    return "", "due" if coming.status == "due" else ""


def _out_limit(run: LiveRun, track: str) -> float | None:
    begun = [
        t
        for t in run.plan.tasks_of(track)
        if t.out_min is not None and run.state.tasks[t.key].begun_s is not None
    ]
    return begun[-1].out_min if begun else None


def show_step(screen: Screen, run: LiveRun) -> None:
    """Show the step that wants hands, or what comes next."""
    face, control = screen.step, screen.control
    now = run.current()
    if now is None or run.is_over:
        face.block.setText("")
        face.title.setText("All done" if not run.is_over else "This run has ended")
        face.todo.setText(
            "Measure and note what is left, then press Space to end the run."
            if not run.is_over
            else "See its log under Run log (Alt+N). Esc goes back to the runs."
        )
        for label in (face.stop, face.counted, face.caution, face.tally, face.how):
            label.setText("")
        face.drawing.show_picture(None, "")
        face.clock.show_picture(None, "")
        return
    task = now.task
    study = control.study_of(task)
    pantry = control.session.reference.pantry
    card = card_of(run, task, study, pantry)
    face.block.setText(card.block)
    tally, _, how = card.tally.partition(", ")
    face.tally.setText(tally)
    face.how.setText(how)
    line = control.line()
    if line is not None:
        face.title.setText(line.name)
        face.todo.setText(line.part)
        face.tally.setText(weight_text(line.step.target_g))
        face.how.setText("wanted")
        face.stop.setText(line.note)
        face.counted.setText(f"line {line.number} of {line.of}")
    else:
        waiting = now.status in ("resting", "held", "waiting")
        face.title.setText(card.title)
        face.todo.setText("\n".join(card.todo) if not waiting else _next_words(run))
        face.stop.setText(card.stop if not waiting else "")
        face.counted.setText("\n".join(_counted(screen, run, task)))
    face.caution.setText(card.caution)
    for label in (face.stop, face.counted, face.caution, face.tally, face.how):
        label.setVisible(bool(label.text()))
    _show_drawing(screen, now)
    _show_clock(screen, run, now)


def _next_words(run: LiveRun) -> str:
    return "\n".join(
        f"{coming_words(run, each)}: {task_title(each.task)}, {each.task.track}"
        for each in run.order()[:COMING_SHOWN]
    )


def _counted(screen: Screen, run: LiveRun, task: Task) -> list[str]:
    control = screen.control
    held = held_back_of(run, task, control.study_of(task), control.session.reference.pantry)
    told = count_words(run, task, held)
    here = run.state.tasks[task.key]
    if here.reached is not None:
        told.append(f"reached: {reached_text(here.reached)}")
    return told


def _show_drawing(screen: Screen, now: Coming) -> None:
    face, task, control = screen.step, now.task, screen.control
    size = LEAST_TEXT * screen.u
    formula = control.study_of(task).formula
    run = control.run
    resting = now.status in ("resting", "held")
    curve = curve_of(control, run, task) if resting and run is not None else None
    if curve is not None:
        picture_of_rest = curve

        def paint_course(p: QPainter, room: QRectF) -> None:
            paint_curve(p, room, picture_of_rest, size)

        face.drawing.show_picture(paint_course, picture_of_rest.words)
    elif control.line() is not None or now.status in ("resting", "waiting", "held"):
        face.drawing.show_picture(None, "")
    elif task.sheet is not None and task.kind in ("turn", "sheet"):
        step = formula.plan.steps[task.step] if task.step >= 0 else None
        turn = sum(each.is_turn for each in formula.plan.steps[: task.step + 1])
        strewn = task.kind == "turn" and any(
            turn_of(line, formula.plan) == turn and line.grams > 0 for line in formula.between
        )
        picture = SheetPicture(task.sheet, step, strewn)

        def paint_sheet(p: QPainter, room: QRectF) -> None:
            paint_bench_sheet(p, room, picture, size)

        face.drawing.show_picture(paint_sheet, f"The sheet: {card_size(task)}")
    elif task.kind == "enclose" and not control.study_of(task).in_pieces:
        how = control.study_of(task).enclosing

        def paint_how(p: QPainter, room: QRectF) -> None:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_enclosing(p, room.adjusted(0, 8, 0, -8), how)

        face.drawing.show_picture(paint_how, "How the fat is enclosed")
    elif task.kind == "fat" and not control.study_of(task).in_pieces and _fat_sheet(control, task):
        fat = SheetPicture(_fat_sheet(control, task) or Sheet(1, 1, 1), None)

        def paint_fat(p: QPainter, room: QRectF) -> None:
            paint_bench_sheet(p, room, fat, size, fat=True)

        face.drawing.show_picture(paint_fat, "The fat block")
    elif task.kind == "fat" and control.study_of(task).in_pieces:
        form, mm, px = formula.piece_form, formula.piece_fat_mm, screen.px_mm

        def paint_true(p: QPainter, room: QRectF) -> None:
            paint_pieces(p, room, form, mm, px, size)

        face.drawing.show_picture(paint_true, f"Pieces of fat of {mm:.0f} mm at true size")
    else:
        face.drawing.show_picture(None, "")


def _fat_sheet(control: "RunControl", task: Task) -> Sheet | None:
    how = control.study_of(task).enclosing
    if how is None or how.fat is None:
        return None
    return Sheet(how.fat.length_mm, how.fat.width_mm, how.fat.height_mm)


def card_size(task: Task) -> str:
    """Say the size of a task's sheet for a screen reader."""
    sheet = task.sheet
    if sheet is None:
        return ""
    return f"{sheet.length_mm:.0f} by {sheet.width_mm:.0f} mm, {sheet.thickness_mm:.0f} mm thick"


def _show_clock(screen: Screen, run: LiveRun, now: Coming) -> None:
    face, control = screen.step, screen.control
    size = LEAST_TEXT * screen.u
    line = control.line()
    if line is not None:
        grams = control.devices.grams
        target = line.step.target_g
        share = 0.0 if grams is None else grams / target if target else 0.0
        judged = "" if grams is None else line.step.judged(grams)
        figure = "–" if grams is None else g_text(grams, 0)
        word = {"less": "more", "right": "right", "more": "too much"}.get(judged, "no reading")
        above = "steady" if control.devices.steady else "moving" if grams is not None else ""

        def paint_weight(p: QPainter, room: QRectF) -> None:
            paint_ring(p, room, share, (above, figure, word), size)

        face.clock.show_picture(paint_weight, f"{figure}, {word}")
        return
    words, share, cold = _ring(run, control, now)

    def paint_time(p: QPainter, room: QRectF) -> None:
        paint_ring(p, room, share, words, size, cold=cold)

    face.clock.show_picture(paint_time, " ".join(words))


def _ring(
    run: LiveRun, control: "RunControl", now: Coming
) -> tuple[tuple[str, str, str], float, bool]:
    task = now.task
    probe = control.probes.of_track(task.track) if control.probes else ""
    temp = control.probes.now_c(probe) if control.probes and probe else None
    below = "" if temp is None else f"{celsius_text(temp, 1)}, {probe}"
    since = run.state.out_s.get(task.track)
    limit = _out_limit(run, task.track)
    if since is not None and limit:
        left = since + 60 * limit - run.now_s
        return ("can stay out", clock_words(left), below), left / (60 * limit), False
    if now.status in ("resting", "held") and now.ready_s is not None:
        whole = max(
            1.0, now.ready_s - (control.probes.rest_began_s(task) or 0.0) if control.probes else 1.0
        )
        left = now.ready_s - run.now_s
        return ("ready in", clock_words(left), below), left / whole, True
    if now.status == "doing" or not task.hands:
        began = run.state.tasks[task.key].begun_s or run.now_s
        left = began + 60 * task.minutes - run.now_s
        if not task.hands and control.devices.oven is not None:
            below = f"oven {celsius_text(control.devices.oven.temp_c, 0)}"
        usual = "usual time" if task.hands else "time left"
        return (usual, clock_words(left), below), left / max(60.0, 60 * task.minutes), False
    return ("takes about", clock_words(60 * task.minutes), below), 1.0, False


def curve_of(control: "RunControl", run: LiveRun, task: Task) -> CurvePicture | None:
    """Give the curve of a block that rests: predicted, and read where it has a probe."""
    probes = control.probes
    range_c = run.times.range_c(task.track)
    if probes is None or range_c is None:
        return None
    began, course = probes.rest_began_s(task), probes.course(task)
    if began is None or course is None:
        return None
    now_min = (run.now_s - began) / 60
    least = [run.plan.by_key[key].rest_min for key in task.after]
    here = run.state.tasks[task.key]
    ready_min = here.held.minutes if here.held is not None else max(least, default=0.0)
    until = max(30.0, 1.3 * ready_min, 1.1 * now_min)
    until = min(until, float(course.minutes[-1]))
    probe = probes.of_track(task.track)
    step = max(1, len(course.minutes) // 120)
    predicted = [
        (float(m), float(c))
        for m, c in zip(course.minutes[::step], course.core[::step], strict=True)
        if m <= until
    ]
    read: list[tuple[float, float]] = []
    if probe:
        row = [r for r in probes.trail.get(probe, ()) if r.at_s >= began]
        read = [((r.at_s - began) / 60, r.temp_c) for r in row[:: max(1, len(row) // 300)]]
    inside = [m for m, c in predicted if range_c[0] <= c <= range_c[1]]
    ready = (inside[0], inside[-1]) if inside else None
    temp = probes.now_c(probe) if probe else None
    said = f"{celsius_text(temp, 1)} by {probe}; " if temp is not None else ""
    words = f"{said}dashed: as calculated"
    return CurvePicture(predicted, read, *range_c, now_min, until, ready, words)
