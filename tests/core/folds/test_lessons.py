"""Every fold can be taught: what is done, in order, and what it gives."""

import pytest

from aplomb.core.folds.lessons import ABOUT, WHAT_WORDS, enclosing_lesson, lessons, step_lesson
from aplomb.core.folds.plan import Enclosure
from aplomb.core.folds.turn_line import parse_plan


@pytest.mark.parametrize("enclosure", Enclosure)
def test_every_enclosure_is_taught(enclosure):
    lesson = enclosing_lesson(enclosure)
    assert lesson.name
    assert lesson.about == ABOUT[enclosure]
    assert lesson.frames
    assert all(frame.words.endswith(".") for frame in lesson.frames)
    parts = [frame.part for frame in lesson.frames]
    assert parts == sorted(parts)
    assert 0 <= parts[0] <= parts[-1] <= 1


def test_an_envelope_has_four_flaps_in_the_end():
    """A square on a square, its corners folded in: four flaps, or a cross of four."""
    for way in ("turned", "cross"):
        frames = enclosing_lesson(Enclosure.ENVELOPE, way).frames
        flaps = [frame.flaps for frame in frames]
        assert flaps[0] == 0
        assert flaps[-1] == 4
        assert flaps == sorted(flaps)


@pytest.mark.parametrize("word", ["2", "3", "4", "4o", "5", "6", "q", "s4", "r", "+3"])
def test_every_turn_is_taught(word):
    plan = parse_plan(("portions " if word[0] == "+" else "envelope ") + word)
    (step,) = plan.turns
    lesson = step_lesson(step)
    assert lesson.name
    assert lesson.frames
    assert lesson.about


def test_a_plan_is_taught_each_way_of_folding_once():
    plan = parse_plan("envelope 3 4 / 3 4 / 3")
    found = lessons("plan", plan)
    names = [lesson.name for lesson in found]
    assert len(names) == len(set(names)) == 3, "the envelope, a single and a double"
    for what in WHAT_WORDS:
        assert lessons(what, plan)
