"""The oven at the bench: the programme rings step by step, and the trial knows the real bake."""

import pytest

from aplomb.book.runs import ReadingRow
from aplomb.core.bench.acts import Begin, End, Note, Reach, Temp, Who
from aplomb.core.bench.readings import OVEN_AIR, pack
from aplomb.core.bench.state import alarms, next_ring_s
from aplomb.work.bench import finish
from aplomb.work.bench.words import alarm_words, card_of, caution_of
from aplomb.work.trials.begin import begin_trial


@pytest.fixture
def run(opened):
    return opened()


def task_of(run, kind):
    return next(t for t in run.plan.tasks if t.kind == kind)


def study_of(work, run, task):
    return finish.studies_of(work, run)[run.plan.track(task.track).uid]


def test_the_programme_rings_between_its_steps(run, hand):
    """The demo's cases: 12 min at 220, then steam out and 190 (the dial of this oven: 164)."""
    bake = task_of(run, "bake")
    assert [r.after_min for r in bake.rings] == [12]
    run.press(Begin(bake.key))
    begun = run.state.tasks[bake.key].begun_s
    assert next_ring_s(run.plan, run.state, begun + 1) == pytest.approx(begun + 720)
    assert not [a for a in alarms(run.plan, run.state, begun + 700) if a.kind == "step"]
    (rung,) = (a for a in alarms(run.plan, run.state, begun + 721) if a.kind == "step")
    _, todo = alarm_words(run, rung)
    assert "Let the steam out" in todo
    assert "Galley oven to 164 °C" in todo
    hand.on(725)
    assert run.ringing().kind == "step"
    run.go_on()  # heard
    assert run.ringing() is None


def test_the_steps_and_the_dial_stand_on_the_card(work, run):
    pantry = work.store.reference.pantry
    heat, bake = task_of(run, "heat"), task_of(run, "bake")
    card = card_of(run, heat, study_of(work, run, heat), pantry)
    assert "Set the dial of Galley oven to 194 °C" in card.todo[0]
    card = card_of(run, bake, study_of(work, run, bake), pantry)
    assert card.todo == (
        "194 °C, 12 min until risen and pale gold",
        "164 °C, 13 min until dry and brown, base too",
    )
    assert "Brown" in card.stop


def test_an_old_run_without_a_programme_rings_only_at_its_end(opened):
    run = opened(name="Breakwater slice paste")
    assert all(t.rings == () for t in run.plan.tasks)


def test_egg_is_minded_where_it_is_in_hand(work, run):
    """The demo's cases have egg as wash alone: nothing raw is in the mixing bowl."""
    pantry = work.store.reference.pantry
    mix = task_of(run, "mix")
    formula = run.plan.formulas[run.plan.track(mix.track).uid]
    assert "egg" not in caution_of(run, mix, formula, pantry)
    assert any("egg" in pantry[k].group for k in formula.materials())


def test_a_trial_knows_what_the_bench_wrote_down(work, run, hand):
    sheet, bake = task_of(run, "sheet"), task_of(run, "bake")
    track = sheet.track
    run.press(Who("RM"))
    hand.on(60)
    run.press(Temp(track, "block", 14.2, "hand"))
    hand.on(60)
    run.press(Begin(sheet.key))
    run.press(Reach(sheet.key, 500.0, 300.0, 3.1))
    hand.on(300)
    run.press(End(sheet.key))
    cut = task_of(run, "fill") if any(t.kind == "fill" for t in run.plan.tasks) else None
    last = cut or [t for t in run.plan.tasks if t.kind == "cut"][-1]
    run.press(End(last.key))
    hand.on(3000)
    run.press(Temp(track, "of the oven", 176.0, "hand"))
    hand.on(60)
    run.press(Begin(bake.key))
    hand.on(12 * 60)
    run.press(Temp(track, "of the oven", 184.0, "hand"))
    hand.on(15 * 60)
    run.press(End(bake.key))
    run.press(Note(track, "for the trial"))
    finish.keep_made_batches(work, run)
    made_batch = next(r for r in work.store.reference.made_batches if r.key.startswith("run"))
    trial = begin_trial(work, made_batch.key)
    made = trial.made
    assert (made.block_c, made.sheet_mm, made.baker, made.bake_min) == (14.2, 3.1, "RM", 27.0)
    assert made.bake_c == 200.0, "180 on the mean, in an oven with a fan"
    plain = begin_trial(work).made
    assert made.fat_leaf_um == pytest.approx(plain.fat_leaf_um * 3.1 / 3.4)


def test_what_the_oven_says_by_itself_counts_before_a_hand(work, run, hand):
    bake = task_of(run, "bake")
    run.press(Begin(bake.key))
    begun = run.state.tasks[bake.key].begun_s
    hand.on(20 * 60)
    run.press(Temp(bake.track, "of the oven", 150.0, "hand"))
    run.press(End(bake.key))
    first = int(begun // 60)
    rows = [
        ReadingRow(OVEN_AIR, minute, pack([170.0 + (minute - first) % 2 * 10] * 60))
        for minute in range(first + 1, first + 19)
    ]
    rows.append(ReadingRow(OVEN_AIR, first + 25, pack([60.0] * 60)))  # it is off by then
    work.book.runs.read(run.number, rows)
    run.press(Note(bake.track, "for the trial"))
    finish.keep_made_batches(work, run)
    made_batch = next(r for r in work.store.reference.made_batches if r.key.startswith("run"))
    assert begin_trial(work, made_batch.key).made.bake_c == pytest.approx(195.0)
