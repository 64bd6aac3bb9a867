"""The make: its laws over formulas that are made up, and of the demo."""

import pytest

from aplomb.core.make.goal import Goal, study_for, usual_goal
from aplomb.core.make.make import make_of
from core.make.laws import broken
from finders.makes import told_of

MADE_UP = 40


@pytest.mark.parametrize("seed", range(MADE_UP))
def test_a_made_up_make_keeps_its_laws(seed, known):
    told, _ = told_of(seed, known)
    assert told == []


def test_the_demo_keeps_its_laws_for_every_goal(demo, known):
    for formula in demo:
        for goal in (
            usual_goal(formula),
            Goal("as_written"),
            Goal("as_written", factor=1 / 3),
            Goal("keep", blocks=2),
            Goal("batch"),
            Goal("pieces", pieces=37),
        ):
            study = study_for(formula, goal, known)
            make = make_of(study, known.pantry, known.house, goal)
            told = broken(make, formula, study.accounts.rolled_density_g_ml)
            assert told == [], (formula.name, goal)
