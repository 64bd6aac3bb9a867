"""A trial begun: from a batch of the book, from a run at the bench, or written down on the spot."""

from msgspec.structs import replace

from aplomb.book.book import new_uid, now
from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.batch.made_batch import MadeBatch, Outcome
from aplomb.core.bench.readings import OVEN_AIR, Minute, series, unpack
from aplomb.core.bench.tally import balance_of
from aplomb.core.bench.tried import made_at_bench
from aplomb.core.folds.step import Way
from aplomb.core.oven.setting import FAN_K
from aplomb.core.paste.formula import programme_of
from aplomb.core.study.study import Study
from aplomb.core.trials.trial import MADE_WORDS, Made, Trial
from aplomb.work.bench.finish import studies_of, water_used
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.words import held_back_of
from aplomb.work.open_book.workbench import Workbench

RUN = "run"
"""How the key of a batch begins that was made at the bench."""


def made_of(study: Study, house: House, product: str = "") -> Made:
    """Give how a trial of a formula is made, as the formula says it."""
    f, read = study.formula, study.readings
    baked = programme_of(f, product)
    rests = [step for step in study.plan.steps if step.way is Way.REST]
    last = study.plan.shaped_rest or (rests[-1] if rests else None)
    kinds = dict.fromkeys(m.name for _, m in study.fat.parts) if study.fat is not None else {}
    fat = ", ".join(name.lower() for name in kinds)

    def fits(key: str, value: float | None) -> float | None:
        about = MADE_WORDS[key]
        return value if value is not None and about.low <= value <= about.high else None

    return Made(
        fits("fat_leaf_um", read.fat_leaf_um),
        fits("fat_pct", read.fat_product_pct),
        fat[:80],
        fits("sheet_mm", f.sheet_mm),
        len(study.plan.turns),
        fits("water_pct", read.dough_water_pct),
        chill_min=last.rest_min if last is not None else None,
        bake_c=round(baked.mean_c, 1) if baked.steps else None,
        bake_min=baked.minutes if baked.steps else None,
        shop_c=house.shop_c,
        oven=house.oven().name if house.oven_list else "",
    )


def _at_bench(work: Workbench, made_batch: MadeBatch, made: Made) -> Made:
    """Put what the bench wrote down in the place of what the formula says."""
    number = made_batch.key.removeprefix(RUN).partition("-")[0]
    if not (made_batch.key.startswith(RUN) and number.isdigit()):
        return made
    try:
        run = LiveRun(work.book, int(number), work.store.reference.pantry, wait=True)
    except AplombError:
        return made
    try:
        study = studies_of(work, run).get(made_batch.uid)
        if study is None:
            return made
        by_key, pantry = run.plan.by_key, work.store.reference.pantry
        balance = balance_of(
            run.plan,
            run.state,
            made_batch.uid,
            lambda key: held_back_of(run, by_key[key], study, pantry),
        )
        _, written = water_used(work, run, made_batch.uid)
        rows = work.book.runs.readings(run.number, OVEN_AIR)
        air = series(Minute(row.minute, unpack(row.body)) for row in rows)
        fan_k = FAN_K if work.store.reference.house.oven().fan else 0.0
        real = made_at_bench(
            run.plan,
            run.state,
            made_batch.uid,
            balance,
            written,
            list(zip(*air, strict=True)),
            fan_k,
        )
    finally:
        run.close()
    share = real.pop("water_share", None)
    if isinstance(share, float) and made.water_pct:
        real["water_pct"] = round(made.water_pct * share, 2)
    if "sheet_mm" in real and made.sheet_mm and made.fat_leaf_um:
        real["fat_leaf_um"] = made.fat_leaf_um * float(real["sheet_mm"]) / made.sheet_mm
    return replace(made, **real)


def _laid_out(work: Workbench, uid: str) -> tuple[str, str]:
    """Series and variant that a formula was laid out for; empty for none."""
    for each in reversed(work.store.tried.series):
        for planned in each.planned:
            if planned.uid == uid:
                return each.key, planned.variant
    return "", ""


def begin_trial(work: Workbench, batch: str = "", *, series: str = "", variant: str = "") -> Trial:
    """Make a trial of the formula in hand, or of the formula of a batch, and keep it.

    Parameters
    ----------
    batch : str
        Key of a batch of the book; empty to write one down now.
    series, variant : str
        What it belongs to.

    Raises
    ------
    AplombError
        Without a formula, or when the book refuses.
    """
    made_batch = next((r for r in work.store.reference.made_batches if r.key == batch), None)
    if batch and made_batch is None:
        raise AplombError("That batch is not in the book any more; choose another.")
    uid = made_batch.uid if made_batch else work.shelf.uid
    study = work.shelf.study_of(uid) if uid in work.shelf.entries else None
    if study is None and made_batch is None:
        raise AplombError("Open a formula first: a trial is a batch of a formula.")
    at = now()
    made = made_of(study, work.store.reference.house) if study is not None else Made()
    if made_batch is not None:
        made = _at_bench(work, made_batch, made)
    name = study.formula.name if study else ""
    new = made_batch or MadeBatch(f"trial-{new_uid()[:12]}", name, uid, at, outcome=Outcome())
    planned = _laid_out(work, uid)
    if planned[0] and not variant:
        series, variant = planned
    products = study.formula.wanted if study else ()
    trial = Trial(
        new_uid()[:16],
        new.key,
        new.formula,
        uid,
        made_batch.begun if made_batch else at,
        products[0].name if products else "",
        series,
        variant,
        made=made,
    )
    work.store.put_trials(f"trial of {new.formula}", [trial], (), () if made_batch else (new,))
    return trial
