"""The chart of trials as plain data: marks, curves, bands, and their words."""

import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import reference
from aplomb.core.trials.model import FACTORS
from aplomb.core.trials.trial import OUTCOMES, Made, Piece, Trial
from aplomb.work.trials.chart import LEAST_FOR_CURVE, chart_of, chart_words


def some(n, **made):
    return tuple(
        Trial(
            f"t{i}",
            "b",
            "f",
            "u",
            f"2026-01-{i % 28 + 1:02}",
            series="s",
            variant=f"v{i}",
            made=Made(**{"fat_leaf_um": 5.0 + i, **made}),
            pieces=(Piece(4.0, 16.0 + (i % 4)), Piece(4.0, 17.0)),
        )
        for i in range(n)
    )


@pytest.mark.parametrize("factor", [f.key for f in FACTORS])
@pytest.mark.parametrize("outcome", OUTCOMES)
def test_every_outcome_over_every_factor_can_be_asked(outcome, factor):
    chart = chart_of(some(8), "", outcome, factor)
    assert chart_words(chart)
    assert len(chart.mean) == len(chart.grid) == len(chart.new_high)


def test_a_curve_has_its_doubt_around_it_and_a_new_trial_is_less_sure():
    chart = chart_of(some(12), "s", "lift", "fat_leaf_um")
    for m, low, high, new_low, new_high in zip(
        chart.mean, chart.low, chart.high, chart.new_low, chart.new_high, strict=True
    ):
        assert new_low < low < m < high < new_high
    assert chart.grid[0] == pytest.approx(5)
    assert chart.grid[-1] == pytest.approx(16)


def test_few_trials_have_dots_and_no_curve():
    chart = chart_of(some(LEAST_FOR_CURVE - 1), "", "lift", "fat_leaf_um")
    assert chart.grid == ()
    assert len(chart.points) == LEAST_FOR_CURVE - 1


def test_marks_say_what_became_of_a_bake():
    trials = list(some(30))
    trials[0] = replace(trials[0], failed="burnt")
    trials[1] = replace(trials[1], pieces=())
    trials[2] = replace(trials[2], series="other")
    trials[3] = replace(trials[3], pieces=(Piece(4.0, 60.0),))
    marks = {p.key: p.mark for p in chart_of(trials, "s", "lift", "fat_leaf_um").points}
    assert [marks[f"t{i}"] for i in range(5)] == ["failed", "missing", "other", "out", "plain"]


def test_trials_that_do_not_say_the_factor_are_not_on_it():
    trials = [replace(t, made=Made()) for t in some(3)]
    assert chart_of(trials, "", "lift", "fat_leaf_um").points == ()
    assert "0 trials measured" in chart_words(chart_of(trials, "", "lift", "fat_leaf_um"))


def test_the_same_trials_give_the_same_chart():
    trials = some(25)
    band = reference().schools["classic"].bands["fat_leaf_um"]
    first, again = (chart_of(trials, "s", "lift", "fat_leaf_um", band) for _ in range(2))
    assert first == again
    assert first.band is not None
    assert first.recalled == band


def test_an_empty_book_has_an_empty_chart():
    chart = chart_of((), "", "lift", "fat_leaf_um")
    assert (chart.points, chart.n) == ((), 0)
