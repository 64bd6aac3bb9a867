"""The next trial: against playing it out, within its limits, and designs that are balanced."""

from collections import Counter

import numpy as np
import pytest
from tests.core.trials.test_model import bakery, trial

from aplomb.core.base.errors import FormulaError
from aplomb.core.trials.model import model_of
from aplomb.core.trials.next_trial import candidates, design, gain_by_draws, suggest
from aplomb.core.trials.trial import Made

LEAF = {"fat_leaf_um": (4.0, 40.0)}


def test_the_gain_is_what_playing_the_trial_out_gives():
    """Against 200,000 draws of what the trial may say."""
    rng = np.random.default_rng(1)
    model = model_of(bakery(rng, 9)[0])
    first = suggest(model, LEAF, Made(baker="a"), rng)[0]
    settings = candidates(LEAF, Made(baker="a"), rng)
    at = settings.index(first.made)
    assert first.gain == pytest.approx(gain_by_draws(model, settings, at, rng, 200_000), rel=0.06)


def test_what_is_known_well_is_worth_less():
    rng = np.random.default_rng(2)
    few, many = (model_of(bakery(np.random.default_rng(3), n)[0]) for n in (6, 200))
    asked = [suggest(m, LEAF, Made(baker="a"), rng)[0] for m in (few, many)]
    assert asked[1].gain < 0.3 * asked[0].gain


def test_it_is_not_greedy():
    """Where all trials lie at one leaf, the most is learned away from it."""
    near = model_of(
        [trial(i, Made(10.0 + 0.1 * (i % 3), baker="a"), 4.5 + 0.2 * (i % 3)) for i in range(12)]
    )
    best = suggest(near, LEAF, Made(baker="a"), np.random.default_rng(4), teach=True)[0]
    assert not 8 < best.made.fat_leaf_um < 12.5


@pytest.mark.parametrize("keys", [1, 2, 3, 4, 6])
def test_suggestions_stay_within_the_limits_and_apart(keys):
    limits = dict(
        list(
            {
                "fat_leaf_um": (5.0, 20.0),
                "chill_min": (30.0, 90.0),
                "bake_c": (190.0, 210.0),
                "fat_pct": (70.0, 100.0),
                "block_c": (12.0, 16.0),
                "bake_min": (20.0, 30.0),
            }.items()
        )[:keys]
    )
    model = model_of(bakery(np.random.default_rng(5), 15)[0])
    found = suggest(model, limits, Made(baker="b"), np.random.default_rng(6))
    assert len(found) == 3
    assert len({s.made for s in found}) == 3
    for one in found:
        assert one.made.baker == "b"
        assert one.gain >= 0
        assert 0 <= one.teaches <= 1
        for key, (low, high) in limits.items():
            assert low - 1e-9 <= getattr(one.made, key) <= high + 1e-9


@pytest.mark.parametrize(
    ("limits", "words"),
    [
        ({}, "at least one"),
        ({"moon": (1.0, 2.0)}, "cannot be changed"),
        ({"bake_c": (220.0, 190.0)}, "the wrong way round; put the lower figure first."),
        ({"bake_c": (float("nan"), 190.0)}, "oven"),
        ({"fat_leaf_um": (0.0, 10.0)}, "fat leaf"),
    ],
)
def test_limits_that_cannot_be_are_refused(limits, words):
    with pytest.raises(FormulaError, match=words):
        suggest(model_of([]), limits, Made(), np.random.default_rng(1))


def test_a_design_has_every_setting_once_in_every_block():
    levels = {"fat_leaf_um": (6.0, 10.0, 18.0), "bake_c": (190.0, 210.0)}
    runs = design(levels, 3, ("Ida", "Ole"), Made(chill_min=60), np.random.default_rng(7))
    assert len(runs) == 3 * 2 * 6
    for day in (1, 2, 3):
        for baker in ("Ida", "Ole"):
            block = [r for r in runs if (r.day, r.baker) == (day, baker)]
            assert [r.place for r in block] == [1, 2, 3, 4, 5, 6]
            seen = Counter((r.made.fat_leaf_um, r.made.bake_c) for r in block)
            assert set(seen.values()) == {1}
            assert {r.made.baker for r in block} == {baker}
    assert (
        len(
            {
                tuple(
                    (r.made.fat_leaf_um, r.made.bake_c) for r in runs if (r.day, r.baker) == block
                )
                for block in [(d, b) for d in (1, 2, 3) for b in ("Ida", "Ole")]
            }
        )
        > 1
    )


@pytest.mark.parametrize(
    ("levels", "days", "words"),
    [
        ({}, 1, "one or two"),
        ({"bake_c": (190.0,)}, 1, "two to four"),
        ({"bake_c": (190.0, 1e9)}, 1, "oven"),
        ({"baker": (1.0, 2.0)}, 1, "cannot be changed"),
        ({"bake_c": (190.0, 210.0)}, 0, "days"),
    ],
)
def test_what_is_no_small_design_is_refused(levels, days, words):
    with pytest.raises(FormulaError, match=words):
        design(levels, days, (), Made(), np.random.default_rng(1))
