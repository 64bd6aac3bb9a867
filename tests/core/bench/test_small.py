"""Codes, packed readings, probes that cannot be believed, what is asked, masses."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.base.errors import AplombError
from aplomb.core.bench.acts import Begin, Count, End, Measure, Note, Weigh
from aplomb.core.bench.asking import RESCUES, rescues_for, state_called, states_for
from aplomb.core.bench.codes import MOST_CODES, SIGNS, code_of, read_code
from aplomb.core.bench.readings import Minute, pack, series, unpack
from aplomb.core.bench.state import state_of
from aplomb.core.bench.tally import balance_of, made_batch_of, step_minutes, took_min
from aplomb.core.bench.watching import Reading, doubt, is_ready

from .conftest import task

NUMBERS = st.integers(0, MOST_CODES - 1)


@given(NUMBERS)
def test_a_code_is_read_back_however_it_is_typed(number):
    code = code_of(number)
    assert read_code(code.lower()) == code
    assert read_code(f" {code[:2]}-{code[2:]}\n") == code


@given(NUMBERS, st.integers(0, 4), st.sampled_from(SIGNS))
def test_one_wrong_sign_is_found(number, at, sign):
    code = code_of(number)
    wrong = code[:at] + sign + code[at + 1 :]
    assert (read_code(wrong) == "") == (wrong != code)


@given(NUMBERS, st.integers(0, 4), st.integers(0, 4))
def test_two_signs_that_changed_places_are_found(number, one, other):
    code = list(code_of(number))
    code[one], code[other] = code[other], code[one]
    changed = "".join(code)
    assert (read_code(changed) == "") == (changed != code_of(number))


def test_codes_are_of_signs_that_keyboards_send_alike_and_all_different():
    assert not set(SIGNS) & set("AQWZYM0123456789")
    assert len({code_of(n) for n in range(3000)}) == 3000
    assert read_code("") == read_code("BBBB") == read_code("12345") == read_code("É" * 5) == ""


@given(st.lists(st.one_of(st.none(), st.floats(-60, 300)), max_size=60))
def test_readings_come_back_to_a_hundredth(temps):
    back = unpack(pack(temps))
    assert len(back) == 60
    for was, now in zip(temps, back, strict=False):
        assert (was is None) == (now is None)
        assert was is None or abs(was - now) <= 0.0051


@given(st.binary(max_size=200))
def test_a_damaged_minute_is_read_or_passed_over(body):
    assert len(unpack(body)) == 60


@pytest.mark.parametrize("temps", [[float("nan")], [1e9], [4.0] * 61])
def test_what_is_no_reading_is_refused(temps):
    with pytest.raises(AplombError, match="probe"):
        pack(temps)


def test_a_series_leaves_gaps_out():
    times, temps = series([Minute(2, (4.0, None, 4.2)), Minute(3, (None, 4.5))])
    assert (times, temps) == ([120.0, 122.0, 181.0], [4.0, 4.2, 4.5])


def falling(until_s, start=20.0, per_min=0.1):
    return [Reading(float(s), start - per_min * s / 60) for s in range(until_s + 1)]


def test_a_probe_is_believed_while_it_does_what_a_block_does():
    assert doubt(falling(1200), 1200.0, lambda s: 20 - 0.1 * s / 60) == ""
    assert doubt([], 100.0) == ""


@pytest.mark.parametrize(
    ("said", "now", "why"),
    [
        (falling(600), 640.0, "silent"),
        ([*falling(600), Reading(601.0, 12.0)], 601.0, "jump"),
        ([Reading(float(s), 18.0) for s in range(1000)], 1000.0, "stuck"),
        ([Reading(float(s), 26.0 - s / 300) for s in range(1000)], 1000.0, "warm"),
        ([Reading(float(s), 4.0 + s / 900) for s in range(1000)], 1000.0, "cold"),
    ],
)
def test_a_probe_that_lies_is_noticed(said, now, why):
    assert doubt(said, now, lambda s: 20 - 0.1 * s / 60) == why


def test_ready_by_the_probe_is_within_the_range_for_a_while():
    said = falling(3600, per_min=0.1)  # 14 °C after an hour
    assert is_ready(said, 12.0, 16.0)
    assert not is_ready(said, 12.0, 13.0)
    assert not is_ready([Reading(0.0, 14.0)], 12.0, 16.0)
    assert not is_ready([], 12.0, 16.0)


def test_what_is_asked_hangs_on_the_step_and_the_fat():
    turn = task("A1", "turn", "turn")
    assert {s.key for s in states_for(turn, in_pieces=False)} >= {"right", "soft", "hard", "smears"}
    assert {s.key for s in states_for(turn, in_pieces=True)} >= {"right", "gone", "cracks first"}
    assert states_for(task("A", "pack", "pack"), in_pieces=False) == ()
    first = state_called(turn, "cracks first", in_pieces=True)
    assert first.then == "go"  # cracking at the first roll of a rough paste is usual
    assert state_called(turn, "nonsense", in_pieces=True) is None
    assert state_called(turn, "hard", in_pieces=False).then == "stand"


def test_every_trouble_has_an_answer_and_a_step():
    kinds = {kind for rescue in RESCUES for kind in rescue.on}
    for rescue in RESCUES:
        assert rescue.now.endswith(".") or rescue.now.endswith(")")
        assert (rescue.then == "go") == (rescue.least_min == 0)
        assert rescue.least_min <= rescue.most_min
    for kind in kinds:
        assert rescues_for(task("A", "x", kind))
    assert len(rescues_for(task("A1", "turn", "turn"))) >= 9


def weigh(material, got, part="dough", mix=0):
    return Weigh("A/weigh", part, material, "", mix, got, got)


def test_masses_close(plan, press):
    """By hand: 1000 + 500 − 50 + 30 + 8 + 800 = 2288 g mixed."""
    press(
        0,
        Begin("A/weigh"),
        weigh("plain-flour", 1000),
        weigh("water", 500),
        weigh("butter", 800, "block"),
        weigh("egg", 40, "finish"),
        End("A/weigh"),
    )
    press(
        5,
        Begin("A/mix"),
        Count("A/mix", "water", 2, 15.0),
        Count("A/mix", "flour", 1, 8.0),
        End("A/mix"),
    )
    press(
        30,
        Count("A1/turn 1", "dust", 4, 10.0),
        Count("A1/turn 1", "brushed", 2, 10.0),
        Measure("A1", "trim_g", 100),
        Measure("A1", "rolled_g", 1100),
        Measure("A2", "rolled_g", 1050),
        Measure("A", "cut_g", 1900),
        Measure("A", "scrap_g", 240),
        Measure("A", "pieces", 38),
        Measure("A", "broken", 2),
        Measure("A", "baked_g", 1600),
        Note("A", "the first sheet was long"),
    )
    state = state_of(plan, press.presses)

    def held(key):
        return 50.0 if key == "A/mix" else 0.0

    found = balance_of(plan, state, "f1", held)
    assert found.weighed_g == 2300
    assert found.mixed_g == pytest.approx(2288)
    assert found.net_water_g == pytest.approx(-20)
    assert found.stuck_g == pytest.approx(2288 + 40 - 20 - 100 - 2150)
    assert found.cutting_loss_g == pytest.approx(10)
    # What came in is what went out: nothing is lost between the figures.
    out = found.trim_g + found.cut_g + found.scrap_g + found.stuck_g + found.cutting_loss_g
    assert out == pytest.approx(found.mixed_g + found.dusted_g - found.brushed_g)
    made_batch = made_batch_of(plan, state, "f1", "k", lambda s: f"at {s:.0f}", held)
    o = made_batch.outcome
    assert (o.mixed_g, o.dust_used_g, o.dust_left_g, o.rolled_g) == (2288.0, 40.0, 20.0, 2150)
    assert (o.cut_g, o.baked_g, o.pieces, o.broken) == (1900, 1600, 38, 2)
    assert (made_batch.begun, made_batch.note, len(made_batch.lines)) == (
        "at 0",
        "the first sheet was long",
        4,
    )


def test_nothing_weighed_is_nothing_lost(plan, press):
    press(0, Begin("A/mix"), End("A/mix"))
    found = balance_of(plan, state_of(plan, press.presses), "f1", lambda _key: 50.0)
    assert (found.mixed_g, found.stuck_g, found.cutting_loss_g) == (0.0, None, None)


def test_minutes_of_a_step_are_those_of_all_its_blocks(plan, press):
    press(0, Begin("A1/enclose"))(4, End("A1/enclose"))
    assert took_min(plan, state_of(plan, press.presses)) == {"A1/enclose": 4.0}
    assert step_minutes(plan, state_of(plan, press.presses)) == {}  # the other block is not done
    press(4, Begin("A2/enclose"))(9, End("A2/enclose"))
    assert step_minutes(plan, state_of(plan, press.presses)) == {("f1", "enclose"): 9.0}
