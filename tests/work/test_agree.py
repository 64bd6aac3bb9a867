"""No two places disagree: every figure of a batch, read where each view has it, is the make's."""

import csv
import io
import re
from datetime import UTC, datetime

import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.core.base.figures import grams_text
from aplomb.core.batch.blocks import PRESSED
from aplomb.core.batch.stock import Demand, Want
from aplomb.core.batch.weighing import weigh_steps
from aplomb.core.day.sheet import DaySheet
from aplomb.core.kitchen.costs import costs_of
from aplomb.core.kitchen.cut_plan import sheets_of, trays_of
from aplomb.core.kitchen.day_steps import steps_of_make, steps_of_paste
from aplomb.core.kitchen.demand import one_paste, plan_day
from aplomb.core.kitchen.orders import order_list
from aplomb.core.make.goal import goal_of
from aplomb.core.make.make import make_of
from aplomb.core.make.queue import loads_of_batch
from aplomb.core.paste.formula import IN_THE_PASTE, Part
from aplomb.core.study.cold import cold_of
from aplomb.core.study.study import make_study
from aplomb.exchange.batch_workbook import batch_workbook
from aplomb.exchange.card_csv import card_csv
from aplomb.exchange.lists_csv import weigh_csv
from aplomb.work.bench.start import Ready, plan_of
from aplomb.work.open_book.rows import Kitchen
from aplomb.work.words.making import last_sheets
from aplomb.work.words.steps import dough_and_fat_words

BOOK, PLAIN = demo(), reference()
KNOWN = replace(PLAIN, pantry=PLAIN.pantry.holding(BOOK.items), house=BOOK.house)
KINDS = {
    "as it is": lambda f: f,
    "as written": lambda f: replace(f, batch=replace(f.batch, fixed="written", times=1.0)),
    "two thicknesses": lambda f: replace(
        f, products=tuple(replace(p, sheet_mm=2.0 + i) for i, p in enumerate(f.products))
    ),
    "a small bowl": lambda f: replace(f, batch=replace(f.batch, division_g=1.0)),
}


@pytest.fixture(
    scope="module",
    params=[(n, kind) for n in range(len(BOOK.formulas)) for kind in KINDS],
    ids=lambda p: f"{BOOK.formulas[p[0]].name[:12]}, {p[1]}",
)
def both(request):
    """A study and its make."""
    number, kind = request.param
    known = KNOWN
    if kind == "a small bowl":
        known = replace(KNOWN, house=replace(KNOWN.house, bowl_most_g=1500.0, oven_trays=2))
    study = make_study(KINDS[kind](BOOK.formulas[number]), known)
    rests = cold_of(study, known.pantry, known.house)
    goal = goal_of(study.formula)
    return study, make_of(study, known.pantry, known.house, goal, rests), known


def rows(data):
    return list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))))


def weighed(make):
    """What the make says the scale shows, by part and material [g]."""
    found = {}
    for n in make.lines:
        key = n.part.value, n.material
        found[key] = found.get(key, 0.0) + n.weigh_g
    return found


def added(pairs):
    found = {}
    for key, grams in pairs:
        found[key] = found.get(key, 0.0) + grams
    return {key: grams for key, grams in found.items() if grams > 0}


def test_grams_are_the_same_wherever_they_stand(both):
    study, make, known = both
    wanted = weighed(make)
    names = {known.pantry[key].name: key for key in study.formula.materials()}
    assert added(((w.part.value, w.line.material), w.weigh_g) for w in study.scaled.lines) == (
        pytest.approx(wanted)
    )
    steps = weigh_steps(study.scaled, known.pantry, study.formula.batch.division_g)
    assert added(
        ((s.weighed.part.value, s.weighed.line.material), s.target_g) for s in steps
    ) == pytest.approx(wanted)
    assert added(
        ((r["part"], names[r["material"]]), float(r["weigh_g"]))
        for r in rows(weigh_csv([study], known.pantry))
    ) == pytest.approx(wanted)
    assert added(
        ((r["part"], names[r["item"]]), float(r["weigh_g"]))
        for r in rows(card_csv(study, known.pantry))
        if r["kind"] == "line"
    ) == pytest.approx(wanted)
    of_material = added((key[1], grams) for key, grams in wanted.items())
    order = order_list([study.scaled], known.pantry, {})
    assert {n.material: n.needed_g for n in order.lines} == pytest.approx(
        {key: g for key, g in of_material.items() if key != "water"}
    )
    costs = costs_of(study, known.pantry)
    assert {m.material: m.grams for m in costs.materials} == pytest.approx(of_material)


def test_the_workbook_weighs_what_the_make_does(both):
    from openpyxl import load_workbook

    study, make, known = both
    book = load_workbook(io.BytesIO(batch_workbook([study], known.pantry, {})))
    sheet = book.worksheets[0]
    facts = {sheet.cell(row, 1).value: sheet.cell(row, 4).value for row in range(3, 7)}
    assert facts["blocks"] == sum(u.of == "block" for u in make.units)
    assert facts["pieces"] == study.scaled.pieces


def test_blocks_sheets_pieces_and_loads_are_the_same_wherever_they_stand(both):
    study, make, known = both
    house = known.house
    blocks = [u for u in make.units if u.of == "block"]
    paste = one_paste("u", study, house)
    assert len(blocks) == study.scaled.blocks == paste.blocks
    assert blocks[0].grams == pytest.approx(study.scaled.each_g)
    assert sum(u.grams for u in blocks) == pytest.approx(study.scaled.paste_g)
    given = {p.product: p.count for p in make.gives.pieces}
    made = {m.name: m.pieces for m in (*study.scaled.made, *study.scaled.from_offcuts) if m.pieces}
    assert given == made
    assert {t.product: t.pieces for t in make.trays} == made
    assert [(t.name, t.trays) for t in trays_of(study, house)] == [
        (t.product, t.trays) for t in make.trays
    ]
    loads = loads_of_batch(study.formula, trays_of(study, house), house)
    assert loads == make.loads == paste.loads
    cuts = [s for s in make.steps if s.kind == "cut"]
    if study.cut is not None:
        plans = sheets_of(study, house).plans
        assert sum(p.sheets for p in plans) == len(cuts)
        assert {(p.sheet, p.rolled) for p in plans} == {
            (s.sheet, next(r.roll_to for r in make.steps if r.kind == "sheet" and r.on == s.on))
            for s in cuts
        }
    rolled = [s.roll_to for s in make.steps if s.kind == "sheet"]
    assert study.final_sheet in rolled or study.is_log


def test_the_day_and_the_bench_do_what_the_make_says(both):
    study, make, known = both
    house = known.house
    day = steps_of_paste(one_paste("u", study, house), known.pantry, house, DaySheet())
    loads = sum(note.kind == "bake" for note in day.notes.values())
    assert loads == len(make.loads)
    own = {step.name: step.minutes for step in (*day.paste.steps, *day.paste.sides)}
    hands = sum(n for key, n in own.items() if day.notes[key].kind not in ("bake", "heat"))
    assert make.hands_min <= hands + 1e-6 <= make.hands_min + len(own)
    paste = one_paste("u", study, house)
    plain = steps_of_make(make, paste, known.pantry, house, DaySheet())
    assert plain.hands_min == day.hands_min == hands, "the cold takes no hands"
    run = plan_of(Ready("t", {"u": study}, known, Kitchen(), single="u"), datetime.now(UTC))
    tracks = [t for t in run.tracks if t.block]
    blocks = [u.grams for u in make.units if u.of == "block"]
    assert [t.mass_g for t in tracks] == pytest.approx(blocks)
    held = study.cut is None or len(study.cut.plans) == 1  # one sheet is kept with the run
    for other in (known.house, replace(known.house, bench_mm=900.0, block_most_g=1200.0)):
        if not held:
            break
        moved = replace(known, house=other)
        kept = make_study(run.formulas["u"], moved)
        steps = weigh_steps(kept.scaled, known.pantry, 1.0)
        assert sum(s.target_g for s in steps if s.weighed.part in IN_THE_PASTE) == pytest.approx(
            sum(n.weigh_g for n in make.lines if n.part in IN_THE_PASTE), rel=0.01
        )
    rolled = {
        (round(t.sheet.length_mm, 6), round(t.sheet.width_mm, 6), round(t.sheet.thickness_mm, 6))
        for t in run.tasks
        if t.kind == "sheet"
    }
    assert rolled <= {
        (round(b.length_mm, 6), round(b.width_mm, 6), round(b.height_mm, 6))
        for b in (s.roll_to for s in make.steps if s.kind == "sheet")
    }


def test_what_goes_in_at_a_step_is_what_was_weighed_for_it(both):
    _, make, _ = both
    shown = added(
        ((n.part.value, n.material), make.as_weighed(n)) for step in make.steps for n in step.lines
    )
    assert shown == pytest.approx(weighed(make))


def test_dough_and_fat_of_a_block_make_the_block_and_are_what_is_weighed(both):
    study, _, known = both
    steps = weigh_steps(study.scaled, known.pantry, study.formula.batch.division_g)
    fat = sum(s.target_g for s in steps if s.weighed.part is Part.BLOCK)
    if not study.accounts.block_g or len(study.scaled.groups) > 1:
        return
    told = dough_and_fat_words(study)
    name = "fat block" if study.plan.enclosure in PRESSED else "fat"
    assert f"{name} {grams_text(fat / study.scaled.blocks)} g" in told
    dough = study.scaled.each_g - fat / study.scaled.blocks
    assert told.startswith(f"dough {grams_text(dough)} g")


def test_what_is_cut_of_a_sheet_times_the_sheets_is_what_is_cut_in_all(both):
    study, make, _ = both
    if study.cut is None or len(study.cut.plans) > 1:
        return
    (plan,) = study.cut.plans
    told = " ".join(line for _, lines in last_sheets(make) for line in lines)
    for at, many in zip(plan.products, plan.pieces(), strict=True):
        name = study.formula.products[at].name
        found = re.search(rf"(?:(\d+) to )?(\d+) {name}", told)
        if found:
            few, most = int(found[1] or found[2]), int(found[2])
            assert few * plan.sheets <= many <= most * plan.sheets
            assert most - few <= 1


def test_a_day_of_the_same_pieces_is_the_same_make():
    formulas = {f"u{i}": f for i, f in enumerate(BOOK.formulas) if f.wanted}
    studies = {uid: make_study(f, KNOWN.of(uid)) for uid, f in formulas.items()}
    wants = tuple(Want(uid, p.name, p.wanted) for uid, f in formulas.items() for p in f.wanted)
    for paste in plan_day(Demand(wants=wants), studies, KNOWN):
        alone = studies[paste.uid]
        fixed = replace(alone.formula.batch, fixed="pieces", frozen_g=0.0)
        same = make_study(replace(alone.formula, batch=fixed), KNOWN.of(paste.uid))
        assert paste.scaled == same.scaled
        assert paste.study.cut == same.cut
