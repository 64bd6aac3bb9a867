"""Weighing out: order, mixes, tolerance; too much of a line; by hand."""

import pytest
from msgspec.structs import replace

from aplomb.core.base.house import House
from aplomb.core.batch.made_batch import MadeBatch
from aplomb.core.batch.mixes import mixes_for
from aplomb.core.batch.water import held_back_g
from aplomb.core.batch.weighing import begin_run, weigh_steps
from aplomb.core.paste.formula import Batch, Part
from aplomb.core.paste.line import Line
from aplomb.core.study.study import make_study


@pytest.fixture
def study(plain, known):
    """1000 flour, 500 water, 20 salt, 1000 butter; 3 kg of flour in 3 blocks."""
    dusted = plain.with_lines(Part.DUSTING, (Line("plain_flour", 30),))
    batch = Batch(fixed="flour", flour_g=3000, blocks=3, division_g=5)
    return make_study(replace(dusted, batch=batch), known)


def run_of(study, pantry):
    made_batch = MadeBatch("r", study.formula.name, "u", "2026-11-23")
    return begin_run(study.scaled, pantry, 5, made_batch)


def test_dry_before_wet_and_the_cold_last(study, pantry):
    """Common practice: what must stay cold is weighed last."""
    steps = weigh_steps(study.scaled, pantry, 5)
    assert [s.weighed.line.material for s in steps] == [
        "plain_flour",
        "salt",
        "water",
        "butter",
        "plain_flour",
    ]
    assert [s.weighed.part for s in steps][3:] == [Part.BLOCK, Part.DUSTING]
    assert {s.mix for s in steps} == {0}, "one mix has no number"


def test_a_dough_too_large_for_the_bowl_is_weighed_mix_by_mix(study, known, pantry):
    """By hand: 4560 g of dough in 3 blocks; a bowl of 3.2 kg takes 2 of them, then 1."""
    assert mixes_for(3, 4560, 5000) == (3,)
    assert mixes_for(3, 4560, 100) == (1, 1, 1)
    study = make_study(study.formula, replace(known, house=House(bowl_most_g=3200)))
    assert study.scaled.mixes == (2, 1)
    steps = weigh_steps(study.scaled, pantry, 5)
    flour = [s.target_g for s in steps if s.weighed.line.material == "plain_flour" and s.mix]
    assert flour == [2000, 1000]
    fat = [s for s in steps if s.weighed.part is Part.BLOCK]
    assert [(s.target_g, s.mix, s.blocks, s.block_g) for s in fat] == [
        (2000, 1, 2, 1000),
        (1000, 2, 1, 1000),
    ]
    assert [s.weighed.part for s in steps][-1] is Part.DUSTING


def test_near_enough(study, pantry):
    """Half a percent of 3000 g is 15 g; of the salt the division, 5 g."""
    flour, salt, *_ = weigh_steps(study.scaled, pantry, 5)
    assert (flour.near_g, salt.near_g) == (15, 5)
    assert [flour.judged(g) for g in (2984.9, 2985, 3015, 3015.1)] == [
        "less",
        "right",
        "right",
        "more",
    ]


def test_a_run_from_the_first_line_to_the_last(study, pantry):
    run = run_of(study, pantry)
    at = run.next()
    seen = []
    while at is not None:
        seen.append(at)
        run = run.taken(at, run.steps[at].target_g, 0.0, "scale", "t")
        at = run.next(at)
    assert seen == [0, 1, 2, 3, 4]
    assert run.paste_g == pytest.approx(3000 + 1500 + 60 + 3000)
    assert [line.by for line in run.made_batch.lines] == ["scale"] * 5


def test_too_much_of_a_line_scales_the_rest_and_what_is_short_comes_again(study, pantry):
    """By hand: 66 g of 60 g of salt is 10 % too much: flour becomes 3300 g, of which 300 lack."""
    run = run_of(study, pantry).taken(0, 3000, 0, "scale", "t").taken(1, 66, 0, "scale", "t")
    assert run.ratio(1) == pytest.approx(1.1)
    assert run.ratio(0) == 1.0
    larger = run.scaled_up(run.ratio(1))
    assert larger.made_batch.factor == pytest.approx(1.1)
    assert [s.target_g for s in larger.steps] == [3300, 65, 1650, 3300, 100]
    assert larger.next(1) == 2
    assert larger.open(larger.steps[0])
    assert not larger.open(larger.steps[1])
    assert larger.next(4) == 0


def test_a_line_passed_over_stays_open(study, pantry):
    run = run_of(study, pantry)
    for at in (0, 2, 3, 4):
        run = run.taken(at, run.steps[at].target_g, 0, "hand", "t")
    assert run.next(4) == 1
    again = begin_run(study.scaled, pantry, 5, run.made_batch)
    assert again.next() == 1


def test_less_water_than_written_is_the_end_of_its_line(study, pantry):
    """Water goes by feel: 1420 g of 1500 are enough, and the line is not asked for again."""
    run = run_of(study, pantry)
    short = run.taken(2, 1420, 0, "scale", "t")
    assert short.open(short.steps[2])
    ended = run.taken(2, 1420, 0, "scale", "t", enough=True)
    assert not ended.open(ended.steps[2])
    assert ended.ended(ended.steps[2])
    for at in (0, 1, 3, 4):
        ended = ended.taken(at, ended.steps[at].target_g, 0, "scale", "t")
    assert ended.next() is None
    assert ended.paste_g == pytest.approx(3000 + 1420 + 60 + 3000)


def test_skipping_goes_to_what_is_not_weighed_yet(study, pantry):
    """Salt is skipped while water and butter are weighed: only the dusting is left below."""
    run = run_of(study, pantry)
    for at in (0, 2, 3):
        run = run.taken(at, run.steps[at].target_g, 0, "scale", "t")
    assert run.skipped_to(1) == 4
    assert run.skipped_to(4) == 5, "the end: the salt is still open above"
    assert run.next() == 1


def test_water_that_is_held_back(study, pantry):
    """By hand: a tenth of 500 g, three times; of a mix of one block in three a third of that."""
    formula = study.formula
    assert held_back_g(formula, pantry, 3.0) == pytest.approx(150)
    assert held_back_g(replace(formula, held_back_pct=0.0), pantry, 3.0) == 0
