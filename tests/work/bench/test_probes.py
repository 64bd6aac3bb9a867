"""Probes of a run, what the house learns of it, and sums against the simulated devices."""

import math
from types import SimpleNamespace

import numpy as np
import pytest
from msgspec.structs import replace

from aplomb.core.bench.acts import Attach, Begin, Count, End, Measure, Note, Temp, Weigh
from aplomb.core.bench.readings import OVEN_AIR, pack
from aplomb.core.cold.course import Body
from aplomb.core.cold.stay import faces
from aplomb.devices.protocol import read_oven_line
from aplomb.devices.simulated import CoolingBlock, SimulatedScale
from aplomb.work.bench import finish
from aplomb.work.bench.log import log_lines, out_of_cold, put_right
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.watch import Probes
from aplomb.work.bench.weigh import RunWeighing


@pytest.fixture
def resting(opened, work, hand):
    """A run whose first block has just gone into the fridge after its second turn, with a probe."""
    run = opened()
    done = ["A/weigh.1", "A/press.1"]
    done += [t.key for t in run.plan.tasks if t.kind == "mix"]
    a1 = list(run.plan.tasks_of("A1"))
    upto = next(i for i, t in enumerate(a1) if t.to_cold)
    for key in [*done, *(t.key for t in a1[: upto + 1])]:
        run.press(Begin(key))
        hand.on(60)
        run.press(End(key))
    run.press(Attach("p", "A1"))
    return run, Probes(run, work.book.runs), a1[upto + 1]


def cooling(run, hand, task, seed=2):
    house, place = run.times.house, run.times.cold_place(task)
    body = Body(run.times.bodies[run.plan.track("A1").uid].paste, run.times.thickness_mm(task))
    block = CoolingBlock(body, 19.0, lambda: hand.machine_s, seed=seed)
    block.put_into(*faces(place, house))
    return block


def hear(run, probes, hand, block, minutes, every_s=5):
    for _ in range(round(60 * minutes / every_s)):
        hand.on(every_s)
        probes.hear("p", block.reading_c())


def test_a_probe_follows_what_was_predicted_and_is_believed(resting, hand):
    run, probes, task = resting
    block = cooling(run, hand, task)
    hear(run, probes, hand, block, 45)
    assert probes.doubt("p") == ""
    assert probes.resting("A1") == task
    course, began = probes.course(task), probes.rest_began_s(task)
    predicted = course.at((run.now_s - began) / 60)[0]
    assert probes.now_c("p") == pytest.approx(predicted, abs=0.6)
    assert run.times.probe_c["A1"] == probes.now_c("p")


def test_a_probe_that_is_in_the_range_ends_the_rest_before_the_clock(resting, hand):
    run, probes, task = resting
    block = cooling(run, hand, task)
    low, high = run.times.range_c("A1")
    while not probes.says_ready("A1"):
        hear(run, probes, hand, block, 1)
        assert run.now_s < 6 * 3600
    assert low <= probes.now_c("p") <= high
    run.by_probe = frozenset({task.key})
    rings = run.ringing()
    others = [t for t in run.plan.tracks if t.block]
    assert rings is not None
    assert others
    while (rings := run.ringing()) is not None and rings.kind != "probe":
        run.go_on()
    assert rings.kind == "probe"
    run.go_on()
    assert run.ringing() is None or run.ringing().kind != "probe"


def test_a_probe_that_stands_in_no_block_is_kept_and_says_nothing_of_one(resting, hand):
    run, probes, task = resting
    run.press(Attach("p", ""))
    hear(run, probes, hand, cooling(run, hand, task), 2)
    assert probes.now_c("p") is not None
    assert probes.doubt("p") == ""
    assert not probes.says_ready("")
    assert probes.resting("") is None
    assert probes.kept("p")[0]


def test_a_lid_left_open_is_noticed_and_the_probe_not_gone_by(resting, hand):
    run, probes, task = resting
    block = cooling(run, hand, task)
    hear(run, probes, hand, block, 10)
    block.lid_open = True
    hear(run, probes, hand, block, 1)
    hear(run, probes, hand, block, 12)
    assert probes.doubt("p") == "warm"
    assert not probes.says_ready("A1")
    assert "A1" not in run.times.probe_c


def test_what_a_probe_said_is_in_the_book_second_by_second(resting, hand, work):
    run, probes, task = resting
    block = cooling(run, hand, task)
    hear(run, probes, hand, block, 5, every_s=1)
    probes.keep(1.0, all_of_it=True)
    run.writer.drain()
    rows = work.book.runs.readings(run.number, "p")
    assert sum(len(row.body) for row in rows) <= 2 * 60 * len(rows)
    times, temps = probes.kept("p")
    assert len(times) == len(temps) == 300
    again = Probes(run, work.book.runs)
    kept_times, kept_temps = again.kept("p")
    assert kept_times == times
    assert kept_temps == pytest.approx(temps, abs=0.006)


def test_readings_of_a_minute_that_was_left_and_come_back_to_are_all_kept(resting, hand, work):
    run, probes, _ = resting
    hand.on(60 - run.now_s % 60)
    hear(run, probes, hand, SimpleNamespace(reading_c=lambda: 5.0), 20 / 60, every_s=1)
    probes.keep(1.0, all_of_it=True)
    run.writer.drain()
    again = Probes(run, work.book.runs)
    hand.on(10)
    hear(run, again, hand, SimpleNamespace(reading_c=lambda: 6.0), 20 / 60, every_s=1)
    again.keep(2.0, all_of_it=True)
    run.writer.drain()
    times, temps = Probes(run, work.book.runs).kept("p")
    assert [round(t) for t in temps[-40:]] == [5] * 20 + [6] * 20
    assert int(times[-1]) // 60 == int(times[-40]) // 60, "all in one minute"


def test_an_oven_is_kept_as_hot_as_it_is_read_and_what_cannot_be_stops_nothing(resting, hand, work):
    run, probes, _ = resting
    for temp_c in (319.0, 321.0, 480.5, 600.0):
        assert read_oven_line(f"oven {temp_c} C off".encode()).temp_c == temp_c
        probes.hear(OVEN_AIR, temp_c)
        hand.on(1)
    for wild in (math.inf, math.nan, 1e9, -300.0):
        probes.hear(OVEN_AIR, wild)
        assert "cannot be and is not kept" in probes.doubt_words()[OVEN_AIR]
        probes.hear("p", wild)
    probes.hear("p", 4.0)
    assert "p" not in probes.doubt_words()
    probes.keep(1.0, all_of_it=True)
    run.writer.drain()
    again = Probes(run, work.book.runs)
    assert again.kept(OVEN_AIR)[1] == pytest.approx([319.0, 321.0, 480.5, 600.0], abs=0.06)
    assert again.kept("p")[1][-1] == 4.0


def test_twelve_hours_of_four_probes_stay_under_a_megabyte(work, opened):
    from aplomb.book.runs import ReadingRow

    run = opened()
    book = work.book
    before = book.path.stat().st_size
    body = pack([12.0 + i / 100 for i in range(60)])
    for hour in range(12):
        rows = [ReadingRow(f"probe {n}", 60 * hour + m, body) for m in range(60) for n in range(4)]
        book.runs.read(run.number, rows)
    assert book.path.stat().st_size - before < 1_000_000
    assert len(book.runs.readings(run.number)) == 12 * 60 * 4


def test_the_fridge_is_learned_from_a_rest_with_a_probe(resting, hand, work):
    """The block was simulated with the usual coefficient, so that is what must be found."""
    run, probes, task = resting
    block = cooling(run, hand, task)
    hear(run, probes, hand, block, 70, every_s=10)
    run.press(Begin(task.key))
    found = finish.fitted(finish.rest_logs(work, run, probes))
    told = finish.keep_places(work, found)
    assert len(told) == 1
    place = work.store.reference.house.place("fridge")
    above, _ = faces(replace(place, own_w_m2_k=None), run.times.house)
    assert place.own_low_w_m2_k <= above.w_m2_k * 1.02
    assert place.own_high_w_m2_k >= above.w_m2_k * 0.8
    assert "probe" in place.own_from


def test_a_rehearsal_teaches_the_house_nothing(work, opened, hand):
    run = opened()
    run.plan = replace(run.plan, quick=60.0)
    assert finish.keep_minutes(work, run) == []
    assert finish.rest_logs(work, run, Probes(run, work.book.runs)) == ()


def test_sums_of_the_record_are_those_of_the_simulated_scale(opened, work):
    """What was put on the scale in all is what the record says was weighed."""
    run = opened()
    task = next(t for t in run.plan.tasks if t.kind == "weigh")
    uid = run.plan.track(task.track).uid
    study, pantry = finish.studies_of(work, run)[uid], work.store.reference.pantry
    run.press(Begin(task.key))
    weighing = RunWeighing(run, task, study, pantry)
    scale, put = SimulatedScale(step_g=0.1), 0.0
    rng = np.random.default_rng(7)
    while (line := weighing.in_hand()) is not None:
        grams = max(0.1, round(line.step.target_g + rng.uniform(-0.4, 0.4) * line.step.near_g, 1))
        scale.put_on(grams)
        put += grams
        assert weighing.take(round(scale.shown_g, 1), "scale") in ("right", "more")
        scale.tare()
    weighed = sum(line.got_g for line in run.state.lines.values())
    assert weighed == pytest.approx(put, abs=0.05 * len(run.state.lines))
    assert weighed == pytest.approx(scale._on_g, abs=0.05 * len(run.state.lines))


def test_a_batch_is_kept_with_its_losses_and_minutes(opened, work, hand, baker):
    run = opened()
    who = baker(run, hand)
    task = next(t for t in run.plan.tasks if t.kind == "weigh")
    uid = run.plan.track("A").uid
    study = finish.studies_of(work, run)[uid]
    while run.state.tasks[task.key].begun_s is None:
        who.step()
    weighing = RunWeighing(run, task, study, work.store.reference.pantry)
    while (line := weighing.in_hand()) is not None:
        weighing.take(line.step.target_g, "scale")
    who.work()
    mixed = study.scaled.factor * (study.accounts.dough_g + study.accounts.block_g)
    run.press(
        Measure("A1", "rolled_g", 0.3 * mixed),
        Measure("A2", "rolled_g", 0.3 * mixed),
        Measure("A3", "rolled_g", 0.3 * mixed),
        Measure("A", "cut_g", 0.8 * mixed),
        Measure("A", "pieces", 60),
        Measure("A", "broken", 3),
    )
    run.finish()
    assert finish.keep_made_batches(work, run) == ["Regatta case paste: batch saved"]
    made_batch = next(r for r in work.store.reference.made_batches if r.key.startswith("run"))
    held = 0.1 * sum(n.grams for n in study.formula.dough if n.material == "water")
    assert made_batch.outcome.mixed_g == pytest.approx(mixed - held * study.scaled.factor, rel=0.01)
    assert made_batch.outcome.rolled_g == pytest.approx(0.9 * mixed)
    assert (made_batch.outcome.pieces, made_batch.outcome.broken) == (60, 3)
    assert finish.keep_minutes(work, run)
    minutes = work.store.kitchen.timetable.minutes
    assert minutes[f"{uid}/mix.1"] == 26  # two mixes of 12 min, a minute each to divide
    # Once more says the same: a record that is put right takes the place of the one before.
    many = len(work.store.reference.made_batches)
    finish.keep_made_batches(work, run)
    assert len(work.store.reference.made_batches) == many


def test_the_log_says_who_when_and_what(opened, work, hand):
    run = opened()
    run.sign("RS")
    run.press(Begin(next(t.key for t in run.plan.tasks_of("A1"))))
    hand.on(600)
    run.press(Temp("A1", "in the middle", 15.0), Note("A1", "sticky", corrective=True))
    run.back_to_cold()
    lines = log_lines(run.plan, run.presses, work.store.reference.pantry, run.clock.moment)
    assert [line.who for line in lines[1:]] == ["RS"] * (len(lines) - 1)
    assert any(line.corrective and line.what == "sticky" for line in lines)
    (out,) = out_of_cold(run.plan, run.presses, run.clock.moment)
    assert out.minutes == pytest.approx(10, abs=0.1)
    assert out.temps == "15 °C"
    assert out.back is not None


@pytest.mark.parametrize(
    ("act", "text", "field", "value"),
    [
        (Weigh("A/weigh.1", "dough", "water", "", 0, 500, 480), "500 g", "got_g", 500.0),
        (Measure("A", "pieces", 40), "38", "value", 38.0),
        (Measure("A", "trim_g", 40), "1.2 kg", "value", 1200.0),
        (Temp("A", "in the middle", 40), "12.5", "temp_c", 12.5),
        (Count("A/mix.1", "water", 2, 15.0), "3", "spoons", 3),
        (Note("A", "went bad"), " went well ", "words", "went well"),
    ],
)
def test_what_was_pressed_is_put_right_by_its_kind(act, text, field, value):
    assert getattr(put_right(act, text), field) == value


def test_a_live_run_is_one_of_its_book(work, opened):
    run = opened()
    with pytest.raises(Exception, match="cannot be read"):
        LiveRun(work.book, run.number + 99, work.store.reference.pantry)
