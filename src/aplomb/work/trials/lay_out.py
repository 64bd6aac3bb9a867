"""The next trials laid out: a formula for each setting, wanted in the day's demand."""

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.texts import free_name
from aplomb.core.batch.stock import Want
from aplomb.core.folds.finder import Wanted, find_plans
from aplomb.core.folds.plan import Plan
from aplomb.core.folds.step import Step, Way
from aplomb.core.oven.programme import BakeStep, Programme
from aplomb.core.paste.formula import Formula, programme_of
from aplomb.core.study.study import Study
from aplomb.core.trials.series import Planned, Series
from aplomb.core.trials.trial import Made
from aplomb.work.open_book.workbench import Workbench
from aplomb.work.trials.words import made_text

BY_SHEET = 1.25
"""A leaf so many times another is reached by the sheet alone, one more off by other turns [-]."""
LEAF_REACH = 1.3
MOST_LAID_OUT = 12


class Variant(Struct, frozen=True):
    """A formula for a setting.

    Attributes
    ----------
    name : str
        What differs, in words.
    left : tuple of str
        What the formula cannot say and the baker must see to.
    """

    name: str
    formula: Formula
    left: tuple[str, ...]


def variant_of(study: Study, made: Made, keys: Sequence[str]) -> Variant:
    """Change a formula so that it is made as a setting says.

    Parameters
    ----------
    study : Study
        Of the parent.
    made : Made
        The setting.
    keys : sequence of str
        Which of its fields are to change.

    Raises
    ------
    AplombError
        When it cannot be made so.
    """
    f, left = study.formula, []
    for key in keys:
        value = getattr(made, key)
        if value is None:
            continue
        if key == "fat_leaf_um":
            f = _with_leaf(study, f, float(value))
        elif key == "fat_pct":
            f = _with_fat(study, f, float(value))
        elif key == "chill_min":
            f = _with_last_rest(study, f, float(value))
        elif key in ("bake_c", "bake_min"):
            f = _with_bake(f, key, float(value))
        else:
            left.append(f"{key.partition('_')[0]}: {made_text(key, value)}")
    name = ", ".join(made_text(key, getattr(made, key)) for key in keys)
    return Variant(name, f, tuple(left))


def _with_leaf(study: Study, f: Formula, wanted_um: float) -> Formula:
    now_um = study.readings.fat_leaf_um
    share = study.readings.fat_volume_share
    if not now_um or not share:
        raise AplombError("The formula has no leaves yet; give it a fat block first.")
    ratio = wanted_um / now_um
    if 1 / BY_SHEET <= ratio <= BY_SHEET or study.plan.leaves_are_means:
        return replace(f, sheet_mm=round(f.sheet_mm * ratio, 2))
    found = find_plans(
        Wanted(
            wanted_um / LEAF_REACH,
            wanted_um * LEAF_REACH,
            f.sheet_mm,
            share,
            (study.plan.enclosure,),
            (3, 4),
            7,
            2,
            30.0,
        )
    )[0]
    thick = [s.rolled_mm for s in study.plan.turns if s.rolled_mm is not None]
    steps = tuple(
        replace(s, rolled_mm=thick[min(i, len(thick) - 1)] if thick else None) if s.is_turn else s
        for i, s in _numbered(found.plan.steps)
    )
    old = study.plan
    plan = Plan(old.enclosure, steps, old.dough_rest, old.fat_rest, old.shaped_rest)
    sheet = round(f.sheet_mm * wanted_um / found.fat_leaf_um, 2)
    return replace(f, turn_line=plan.line(), sheet_mm=sheet)


def _numbered(steps: Sequence[Step]) -> list[tuple[int, Step]]:
    """Steps with how many turns come before each."""
    made, turns = [], 0
    for step in steps:
        made.append((turns, step))
        turns += step.is_turn
    return made


def _with_fat(study: Study, f: Formula, wanted_pct: float) -> Formula:
    read = study.readings
    enclosed = read.enclosed_fat_pct or 0.0
    if enclosed <= 0:
        raise AplombError("The formula has no fat block yet; its fat cannot be scaled.")
    times = (wanted_pct - (read.fat_product_pct or 0.0) + enclosed) / enclosed
    if times <= 0:
        raise AplombError(
            f"{wanted_pct:g} % fat is less than the dough itself contains; choose more."
        )
    block = tuple(replace(line, grams=round(line.grams * times, 1), typed="") for line in f.block)
    return replace(f, block=block)


def _with_last_rest(study: Study, f: Formula, minutes: float) -> Formula:
    plan = study.plan
    if plan.shaped_rest is not None:
        rest = replace(plan.shaped_rest, rest_min=minutes, most_min=None)
        return replace(f, turn_line=replace(plan, shaped_rest=rest).line())
    at = max((i for i, s in enumerate(plan.steps) if s.way is Way.REST), default=None)
    if at is None:
        steps = (*plan.steps, Step(Way.REST, rest_min=minutes))
    else:
        rest = replace(plan.steps[at], rest_min=minutes, most_min=None)
        steps = (*plan.steps[:at], rest, *plan.steps[at + 1 :])
    return replace(f, turn_line=replace(plan, steps=steps).line())


def _with_bake(f: Formula, key: str, value: float) -> Formula:
    now = programme_of(f)
    if not now.steps:
        now = Programme((BakeStep(200.0, 25.0),))
    if key == "bake_c":
        apart = value - now.mean_c
        steps = tuple(
            replace(s, conventional_c=round(s.conventional_c + apart, 1), typed="", c_span=None)
            for s in now.steps
        )
    else:
        times = value / now.minutes
        steps = tuple(
            replace(s, minutes=max(0.5, round(s.minutes * times, 1)), minutes_span=None)
            for s in now.steps
        )
    baked = replace(now, steps=steps)
    products = tuple(replace(p, bake=baked) if p.bake.steps else p for p in f.products)
    return replace(f, bake=baked, products=products)


def lay_out(
    work: Workbench, series: Series, settings: Sequence[Made], keys: Sequence[str], pieces: int
) -> tuple[str, ...]:
    """Put a formula for each setting on the shelf, in the series, and into the day's demand.

    What was done, a line each, with what the baker must see to.

    Parameters
    ----------
    series : Series
        Of the formula that is changed.
    keys : sequence of str
        Which fields of them are changed.
    pieces : int
        Wanted of each [-].

    Raises
    ------
    AplombError
        When a setting cannot be made, or the book refuses; nothing is laid out then.
    """
    there = series.uid in work.shelf.entries
    study = work.shelf.study_of(series.uid) if there else None
    if study is None:
        raise AplombError("The formula of this series is not in the book any more.")
    if not 1 <= len(settings) <= MOST_LAID_OUT:
        raise AplombError(
            f"{len(settings)} settings are chosen; set up 1 to {MOST_LAID_OUT} at a time."
        )
    variants = [variant_of(study, made, keys) for made in settings]  # all, before any is kept
    with work.journal.together(f"set up {len(variants)} of {series.name}"):
        return _put_down(work, study, series, list(zip(settings, variants, strict=True)), pieces)


def _put_down(
    work: Workbench, study: Study, series: Series, laid: Sequence[tuple[Made, Variant]], pieces: int
) -> tuple[str, ...]:
    names = {entry.name for entry in work.shelf.entries.values()}
    told, planned, wants = [], list(series.planned), list(work.store.kitchen.demand.wants)
    for made, variant in laid:
        name = free_name(f"{study.formula.name[:60]}, {variant.name}"[:110], names)
        names.add(name)
        uid = work.shelf.add(
            replace(variant.formula, name=name), f"trial {variant.name}", series.uid
        )
        planned.append(Planned(uid, variant.name, made))
        product = next((p.name for p in variant.formula.wanted), "")
        wants.append(Want(uid, product, pieces))
        see = f"; set yourself: {', '.join(variant.left)}" if variant.left else ""
        told.append(f"{name}: {pieces} pieces added to the day{see}")
    demand = work.store.kitchen.demand
    work.store.put_trials(f"series {series.name}", (), (replace(series, planned=tuple(planned)),))
    work.store.put_demand("trials added to the day", replace(demand, wants=tuple(wants)))
    return tuple(told)
