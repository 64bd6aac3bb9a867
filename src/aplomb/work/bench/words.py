"""What the bench says of a step: what to do, when to stop, what to mind. Short, read from afar."""

from msgspec import Struct

from aplomb.core.base.figures import g_text, mm_text, num, sides_cm, weight_text
from aplomb.core.base.ovens import Oven
from aplomb.core.batch.keeping import REFRESH_C, REFRESH_MIN
from aplomb.core.batch.water import held_back_g
from aplomb.core.bench.acts import COUNT_WORDS, TICK_WORDS, Hold
from aplomb.core.bench.plan import Task
from aplomb.core.bench.state import Alarm, Coming
from aplomb.core.bench.tally import turns_done
from aplomb.core.folds.boxes import Box
from aplomb.core.folds.plan import Plan
from aplomb.core.folds.step import Way
from aplomb.core.make.words import fat_mixed
from aplomb.core.oven.setting import dial_text
from aplomb.core.paste.formula import Formula, Part, programme_of, turn_of
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.study import Study
from aplomb.work.bench.run import LiveRun
from aplomb.work.words.making import few_to_many
from aplomb.work.words.steps import (
    fold_words,
    portion_g,
    rectangle,
    rolled_to,
    step_words,
    water_words,
)

MIX_STOPS = {
    "together": "Stop when the bowl is wiped clean and a handful holds when squeezed; it is not "
    "smooth yet.",
    "kneaded": "Stop when the dough is elastic and springs back slowly.",
}
SAME_MM = 0.01
"""Sheets whose lengths differ by less are the same [mm]."""
USUAL_MIX_MIN = {"together": 3.0, "kneaded": 5.0}
"""How long mixing takes where nothing is said [min], common practice."""


class Card(Struct, frozen=True):
    """What stands on the screen of a step.

    Attributes
    ----------
    todo : tuple of str
        What to do, a line each.
    stop : str
        When to stop, or what it should be like.
    caution : str
        What can hurt, where it does.
    tally : str
        Turns done and planned, with the convention; empty where none are counted.
    """

    block: str
    title: str
    todo: tuple[str, ...]
    stop: str
    caution: str
    tally: str


def clock_words(seconds: float) -> str:
    """Write a length of time as a clock shows it: 12:05, or 1 h 12:05.

    Parameters
    ----------
    seconds : float
        [s]; with a minus it is over.

    Examples
    --------
    >>> clock_words(125), clock_words(-5), clock_words(4325)
    ('2:05', '−0:05', '1 h 12:05')
    """
    whole = abs(round(seconds))
    sign = "−" if seconds < -0.5 else ""
    minutes, second = divmod(whole, 60)
    hours, minute = divmod(minutes, 60)
    return f"{sign}{hours} h {minute:02d}:{second:02d}" if hours else f"{sign}{minute}:{second:02d}"


def track_title(run: LiveRun, track: str) -> str:
    """Say which block or paste a track is."""
    found = run.plan.track(track)
    if not found.block or found.blocks == 1:
        return found.name
    return f"{found.name} · block {found.block} of {found.blocks}"


def task_title(task: Task) -> str:
    """Say a task: its name without the block, with a capital."""
    name = task.name.partition(" · block ")[0]
    return name[:1].upper() + name[1:]


def tally_words(run: LiveRun, track: str) -> str:
    """Say how many turns a block has, in the convention of the house.

    Empty for a paste as a whole, and for one without turns.
    """
    done, planned = turns_done(run.plan, run.state, track)
    if not planned:
        return ""
    how = "enclosing counted" if run.plan.counts_enclosing else "enclosing not counted"
    return f"{done} of {planned} turns, {how}"


def card_of(run: LiveRun, task: Task, study: Study, pantry: Pantry) -> Card:
    """Say what is done at a step.

    Parameters
    ----------
    study : Study
        Of the formula as the run keeps it.
    """
    formula = study.formula
    todo, stop = _todo(run, task, study, pantry)
    return Card(
        track_title(run, task.track),
        task_title(task),
        todo,
        stop,
        caution_of(run, task, formula, pantry),
        tally_words(run, task.track),
    )


def _todo(run: LiveRun, task: Task, study: Study, pantry: Pantry) -> tuple[tuple[str, ...], str]:
    formula = study.formula
    kind = task.kind
    if kind == "mix":
        return _mixing(run, task, study, pantry)
    if kind in ("turn", "trim", "enclose"):
        return _folding(task, study, run, pantry)
    if kind == "sheet" and task.sheet is not None:
        lines = (
            f"Roll to {rolled_to(_box(task))}, {mm_text(task.sheet.thickness_mm, 1)} thick.",
            f"Lift it off the bench and let it relax{_shrunk(study, task)}, then measure again.",
        )
        return lines, "Weigh and measure what you got (M)."
    if kind == "fat" and study.in_pieces:
        pieces = f"{formula.piece_form} of {mm_text(formula.piece_fat_mm)}"
        return (f"Cut into {pieces}; keep them cold.",), "A piece is drawn here at actual size."
    if kind == "fat" and study.enclosing is not None and study.enclosing.fat is not None:
        fat = study.enclosing.fat
        mixed = fat_mixed({n.material for n in formula.block if n.grams > 0}, pantry)
        return (
            *((f"{mixed}.",) if mixed else ()),
            f"Press each block to {rectangle(fat)}, {mm_text(fat.height_mm, '.0f')} thick.",
        ), "Even, without cracks, as firm as the dough."
    refreshes = any(t.kind == "refresh" for t in run.plan.tasks_of(task.track))
    if kind == "refresh" or (kind == "heat" and refreshes):
        return _refreshing(kind, run.times.house.oven())
    if kind in ("heat", "bake") and programme_of(formula).steps:
        return _baking(task, formula, run.times.house.oven())
    if kind == "cut":
        return (*_cut_lines(study), *_plain(task)), _PLAIN_STOPS["cut"]
    return _plain(task), _PLAIN_STOPS.get(kind, "")


def _shrunk(study: Study, task: Task) -> str:
    """Say what a sheet shrinks back to before it is cut; empty where no plan says it."""
    for plan in study.cut.plans if study.cut else ():
        rolled, sheet = plan.rolled, task.sheet
        if sheet is not None and abs(rolled.length_mm - sheet.length_mm) < SAME_MM:
            back = _as_cut(plan.sheet)
            return f", back to {back}, {mm_text(plan.sheet.height_mm)} thick"
    return ""


def _as_cut(sheet: Box) -> str:
    """Write the size of a sheet as it is measured before it is cut."""
    return sides_cm(sheet.length_mm, sheet.width_mm, 1)


def _cut_lines(study: Study) -> tuple[str, ...]:
    """Say what is cut from each sheet, and how many in all."""
    found = []
    products = study.formula.products
    for plan in study.cut.plans if study.cut else ():
        each = ", ".join(
            f"{few_to_many(many // plan.sheets, -(-many // plan.sheets))} {products[at].name}"
            for at, many in zip(plan.products, plan.pieces(), strict=True)
        )
        found.append(f"From each sheet of {_as_cut(plan.sheet)}: {each}.")
    whole = ", ".join(f"{m.pieces} {m.name or 'pieces'}" for m in study.scaled.made if m.pieces)
    return (*found, f"In all {whole}.") if whole else tuple(found)


def _baking(task: Task, formula: Formula, oven: Oven) -> tuple[tuple[str, ...], str]:
    """The dial of the oven and the steps of the programme; by which sign it is done."""
    baked = programme_of(formula)
    dials = [dial_text(oven, s.conventional_c) for s in baked.steps]
    if task.kind == "heat":
        dial = f"Set the dial of {oven.name} to {dials[0]}; test it with a piece of scrap first."
        return (dial,), "Hot right through; do not go by the light alone."
    lines = tuple(
        f"{dial}, {step.minutes_text} min" + (f" until {step.until}" if step.until else "")
        for dial, step in zip(dials, baked.steps, strict=True)
    )
    return lines, _PLAIN_STOPS["bake"]


def _refreshing(kind: str, oven: Oven) -> tuple[tuple[str, ...], str]:
    """The dial at which what is baked comes back crisp, and how long it takes."""
    dial = f"{oven.name}: set the dial to {dial_text(oven, REFRESH_C)}."
    if kind == "heat":
        return (dial,), "Hot right through; do not go by the light alone."
    low, high = REFRESH_MIN
    return (dial, f"{low} to {high} min."), "Hot through and crisp, not darker."


_PLAIN_STOPS = {
    "thaw": "It is ready when it bends. Never freeze it again.",
    "stand": "It is ready when a thumb leaves a clean dent.",
    "wrap": "No air under the wrap; the label says turns done, weight and day.",
    "filling": "Cooked and cold before it is used.",
    "trays": "Never refreeze what has been thawed.",
    "bake": "Brown top and bottom, and light in the hand.",
    "out": "Brown top and bottom, and light in the hand; do not go by the minutes alone.",
    "pack": "Completely cold to the touch, or it goes soft.",
    "cut": "Count the pieces, weigh pieces and scrap (M).",
    "fill": "Count the pieces, weigh pieces and scrap (M).",
}


def _plain(task: Task) -> tuple[str, ...]:
    return {
        "cool": ("Put the flour, fat and water into the cold.",),
        "weigh": ("Weigh line by line; Enter takes what the scale shows.",),
        "thaw": ("Move the blocks, still wrapped, from the freezer to the fridge.",),
        "stand": ("Take the blocks out of the fridge, still wrapped, and let them stand.",),
        "wrap": ("Divide if they are shared out, wrap each, label it, and put it into the cold.",),
        "trays": (
            "Put them on trays in one layer, with room between them.",
            "Check the date on the label first.",
        ),
        "filling": ("Cook the filling, spread it out thin and let it go cold.",),
        "cut": (
            "Cut straight down with a long sharp blade.",
            "Stack the scrap flat; do not roll it into a ball.",
        ),
        "fill": (
            "Fill, and seal with water on one side.",
            "Keep egg off the cut edges; slit for steam.",
        ),
        "heat": ("Set the oven; give it time to get hot right through.",),
        "load": ("Move the trays straight from the cold into the oven, first in, first out.",),
        "bake": ("In the oven.",),
        "out": ("Take them out of the oven, leave ten minutes on the tray, then move to a rack.",),
        "pack": ("Weigh and count what is good and what is not (M).", "Pack only what is cold."),
    }.get(task.kind, (task_title(task),))


def _mixing(run: LiveRun, task: Task, study: Study, pantry: Pantry) -> tuple[tuple[str, ...], str]:
    formula = study.formula
    groups = {pantry[line.material].group for line in formula.dough if line.grams > 0}
    lines = []
    if "acid" in groups:
        lines.append("Put the acid into the water.")
    if study.in_pieces:
        lines.append("Toss the fat in the flour until every piece is coated. Then add the water.")
    elif "fat" in groups:
        lines.append("Rub the fat into the flour first. Then add the water.")
    share = mix_share(run, task)
    water = water_words(study, pantry, share)
    if water:
        lines.append(f"Water {water}.")
    minutes = formula.mixing_min or USUAL_MIX_MIN[formula.mixing]
    how = "Bring it only just together" if formula.mixing == "together" else "Knead"
    lines.append(f"{how}, about {num(minutes)} min.")
    return tuple(lines), MIX_STOPS[formula.mixing]


def mix_share(run: LiveRun, task: Task) -> float:
    """Give a mix's share of its paste's dough [-]: by its blocks."""
    mixes = [t for t in run.plan.tasks_of(task.track) if t.kind == "mix"]
    of_blocks = [
        sum(mix.key in t.after for t in run.plan.tasks if t.track != mix.track) for mix in mixes
    ]
    total = sum(of_blocks)
    if len(mixes) < 2 or not total:
        return 1.0
    return of_blocks[mixes.index(task)] / total


def held_back_of(run: LiveRun, task: Task, study: Study, pantry: Pantry) -> float:
    """Give the water that is held back of a mix [g]: its share of the batch's.

    Returns
    -------
    float
        [g]; 0 for what is no mix.
    """
    if task.kind != "mix":
        return 0.0
    return held_back_g(study.formula, pantry, study.scaled.factor * mix_share(run, task))


def _box(task: Task) -> Box:
    sheet = task.sheet
    assert sheet is not None
    return Box(sheet.length_mm, sheet.width_mm, sheet.thickness_mm)


def _size(task: Task) -> str:
    return rectangle(_box(task))


def _folding(task: Task, study: Study, run: LiveRun, pantry: Pantry) -> tuple[tuple[str, ...], str]:
    plan = study.plan
    if task.kind == "enclose":
        words = step_words(study, 0, run.times.house)
        return (
            words.big,
            _first_sentence(words.todo),
        ), "Edges sealed, no air inside, closed edge on the right."
    step = plan.steps[task.step]
    words = step_words(study, task.step + 1, run.times.house)
    if step.way is Way.TRIM or task.sheet is None:
        return (words.big, "Cut straight down with a long sharp blade."), ""
    first = f"Roll to {_size(task)}, {mm_text(task.sheet.thickness_mm)} thick."
    lines = [first]
    if step.way is Way.PORTION:
        grams, covered = portion_g(study, task.step + 1), len(step.spread_on)
        lines.append(
            f"Spread {weight_text(grams)} of fat on {covered} of {step.panels} panels, to the edge."
        )
    lines += _strewn(study, plan, task.step, pantry)
    last = "" if step.way is Way.ROLL else ", closed edge to the right"
    lines.append(f"Brush off the flour, square the corners, {fold_words(step)}{last}.")
    return tuple(lines), ""


def _first_sentence(text: str) -> str:
    head, dot, _ = text.partition(". ")
    return head + (dot.strip() or "")


def _strewn(study: Study, plan: Plan, at: int, pantry: Pantry) -> list[str]:
    turn = sum(step.is_turn for step in plan.steps[: at + 1])
    lines = [n for n in study.formula.between if turn_of(n, plan) == turn and n.grams > 0]
    scaled = study.scaled

    def each(line: Line) -> str:
        over = scaled.over_exact(Part.BETWEEN, line.material)
        return weight_text(line.grams * scaled.a_block * over)

    return [f"Sprinkle {each(line)} of {pantry[line.material].name.lower()}." for line in lines]


def caution_of(run: LiveRun, task: Task, formula: Formula, pantry: Pantry) -> str:
    """Say what can hurt at a step; empty where nothing much can."""
    free = not any(pantry[key].has_gluten for key in formula.materials() if key in pantry)
    told = []
    if free and task.kind in ("weigh", "mix", "enclose", "turn", "sheet", "cut", "fill"):
        told.append(
            "Gluten-free: clean the bench, pin and belt first, and use its own dusting flour."
        )
    elif not free and task.kind in ("weigh", "mix", "turn") and _free_still_out(run, pantry):
        told.append(
            "Gluten-free paste is still on the bench: keep wheat flour away until it is finished."
        )
    if task.kind in ("turn", "sheet", "enclose") and run.times.house.belt_mm:
        told.append("Sheeter: guards on, hands off; trained people only.")
    if task.kind in ("cut", "trim"):
        told.append("Sharp blade: cut away from the hand.")
    if task.kind in ("bake", "load", "out", "heat", "refresh"):
        told.append(
            "Hot oven: wear gloves and mind the steam at the door; fat on the "
            "element can catch fire."
        )
    if task.kind in ("weigh", "mix", "fill") and _egg_in_hand(formula, task, pantry):
        told.append("Wash your hands after handling raw egg.")
    if task.kind == "pack":
        told.append("Cold right through before it is packed; your local food law comes first.")
    return " ".join(told[:2])


def _egg_in_hand(formula: Formula, task: Task, pantry: Pantry) -> bool:
    """Tell whether raw egg is handled: in a mix that of the dough, else any of the product."""
    dough = {line.material for line in formula.dough if line.grams > 0}
    keys = dough if task.kind == "mix" else formula.materials()
    return any(pantry[key].group == "egg" for key in keys if key in pantry)


def _free_still_out(run: LiveRun, pantry: Pantry) -> bool:
    """Tell whether a gluten-free paste was begun and has not left the bench."""
    for track in run.plan.tracks:
        formula = run.plan.formulas[track.uid]
        if any(pantry[key].has_gluten for key in formula.materials() if key in pantry):
            continue
        tasks = [t for t in run.plan.tasks_of(track.key) if t.kind in ("sheet", "cut", "fill")]
        begun = any(run.state.tasks[t.key].begun_s for t in run.plan.tasks_of(track.key))
        if begun and any(run.state.tasks[t.key].ended_s is None for t in tasks):
            return True
    return False


def coming_words(run: LiveRun, each: Coming) -> str:
    """Say when something comes: now, in so many minutes, or after what."""
    now = run.now_s
    if each.status == "doing":
        left = (each.ready_s or 0.0) + 60 * each.task.minutes - now
        return f"{clock_words(left)} to go" if left > 0 else f"{clock_words(-left)} over"
    if each.status == "due":
        return "now"
    if each.status == "waiting" or each.ready_s is None:
        return "later"
    return f"in {clock_words(each.ready_s - now)}"


def alarm_words(run: LiveRun, alarm: Alarm) -> tuple[str, str]:
    """Say what rings, and what to do.

    Returns
    -------
    tuple of (what, what to do)
    """
    task = run.plan.by_key[alarm.task]
    name = track_title(run, alarm.track)
    nxt = task_title(task)
    if alarm.kind == "step":
        ring = task.rings[alarm.ring] if 0 <= alarm.ring < len(task.rings) else None
        return f"{nxt}: {name}", ring.words if ring else ""
    return {
        "ready": (f"{name} has rested", f"Next: {nxt}. Check the block first."),
        "most": (
            f"{name} is getting too hard",
            f"It has rested as long as it should. Next: {nxt}.",
        ),
        "over": (f"{nxt}: {name}", "Time is up. Check it."),
        "out": (f"{name} has been out too long", "Back into the cold (P), or finish the step now."),
        "probe": (f"{name}: ready, says its probe", f"Earlier than by the clock. Next: {nxt}."),
        "held": (f"{name}: time is up", f"Continue with: {nxt}. Check the block first."),
    }[alarm.kind]


def answered_words(held: Hold) -> str:
    """Say for how long a block is held, and where.

    Examples
    --------
    >>> answered_words(Hold("A1/turn 2", "cold", 14.0, "fridge"))
    'Back into the fridge for 14 min.'
    """
    place = held.place or ("bench" if held.where == "bench" else "cold")
    where = f"Leave it on the {place}" if held.where == "bench" else f"Back into the {place}"
    return f"{where} for {num(round(held.minutes))} min."


def count_words(run: LiveRun, task: Task, held_back: float) -> list[str]:
    """Say what was counted at a step, and how much of the held-back water is left.

    Parameters
    ----------
    held_back : float
        [g].
    """
    told = []
    for what, words in COUNT_WORDS.items():
        spoons, grams = run.state.counted(task.key, what)
        if what == "water" and task.kind == "mix":
            told.append(
                f"{words}: {spoons} × {g_text(run.times.spoon_g(what), 0)} = {g_text(grams, 0)} "
                f"of {g_text(held_back, 0)} held back"
            )
        elif spoons:
            told.append(f"{words}: {spoons} × {g_text(run.times.spoon_g(what), 0)}")
    ticks = run.state.tasks[task.key].ticks
    if ticks:
        told.append(" · ".join(f"{TICK_WORDS[each]} ✓" for each in TICK_WORDS if each in ticks))
    return told
