"""The fold as it goes: where it ends must be where the section says the panels lie."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aplomb.core.folds.counts import panel_order
from aplomb.core.folds.motion import enclosing_motion, lying, motion_of, poses, words_at
from aplomb.core.folds.plan import Enclosure
from aplomb.core.folds.step import Step, Way
from aplomb.core.folds.unfold import runs_of

FOLDS = [Step(Way.FOLD, n) for n in range(2, 7)]
OFF = Step(Way.FOLD, 4, off_centre=True)


@pytest.mark.parametrize("step", [*FOLDS, Step(Way.PORTION, 3), Step(Way.STACK, 4)])
def test_panels_end_on_the_levels_of_the_section(step):
    ended = poses(motion_of(step), 1.0)
    levels = [panel for panel, _ in panel_order(step)]
    boxes = [lying(pose) for pose in ended]
    assert [round(box[2]) for box in boxes] == [levels.index(i) for i in range(step.panels)]
    assert len({(round(b[0], 6), round(b[1], 6)) for b in boxes}) == 1  # all above one another


def test_a_double_closed_off_the_middle_ends_as_its_runs_say():
    boxes = [lying(pose) for pose in poses(motion_of(OFF), 1.0)]
    left = min(box[0] for box in boxes)
    for box, run in zip(boxes, runs_of(OFF), strict=True):
        assert round(box[2]) == run.level
        assert sorted((run.start, run.end)) == pytest.approx([box[0] - left, box[1] - left])


@given(st.sampled_from([*FOLDS, OFF]), st.floats(-0.5, 1.5))
def test_at_any_moment_every_stretch_is_there_once(step, part):
    found = poses(motion_of(step), part)
    assert sum(pose.stretch.end - pose.stretch.start for pose in found) == pytest.approx(
        step.panels
    )
    for pose in found:
        for _, _, angle in pose.turns:
            assert 0 < abs(angle) <= math.pi


@pytest.mark.parametrize("enclosure", list(Enclosure))
def test_every_enclosing_is_shown_and_said(enclosure):
    motion = enclosing_motion(enclosure)
    assert motion.laid
    assert motion.done
    boxes = [lying(pose) for pose in poses(motion, 1.0)]
    assert max(box[1] for box in boxes) - min(box[0] for box in boxes) <= motion.length
    assert {words_at(motion, part) for part in (0.0, 1.0)} == {motion.laid, motion.done}


def test_nothing_moves_in_a_rest():
    assert poses(motion_of(Step(Way.REST)), 0.7)[0].turns == ()


def test_the_words_follow_the_swings():
    motion = motion_of(Step(Way.FOLD, 4))
    said = [words_at(motion, part) for part in (0, 0.1, 0.5, 0.9, 1)]
    assert said[1:4] == [swing.words for swing in motion.swings]
    assert len(set(said)) == 5
