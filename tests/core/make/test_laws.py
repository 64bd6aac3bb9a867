"""The make: its laws over formulas that are made up, and of the demo."""

import random

import pytest
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.make.goal import Goal, goal_of, study_for, usual_goal
from aplomb.core.make.make import make_of
from aplomb.core.paste.checking import check
from core.make import made_up
from core.make.laws import broken

MADE_UP = 40


def told_of(seed, known):
    """What is wrong with the make of one made-up formula; the formula and goal beside it."""
    pick = random.Random(seed)
    reference = replace(known, house=made_up.house(pick))
    formula = made_up.formula(pick, known.pantry)
    goal = made_up.goal(pick, formula) or goal_of(formula)
    check(formula, known.pantry)
    try:
        study = study_for(formula, goal, reference)
    except AplombError as error:
        return [f"refused: {error}"], "refused"
    if study.scaled.trouble:
        return [], "trouble"
    make = make_of(study, reference.pantry, reference.house, goal)
    return broken(make, formula, study.accounts.rolled_density_g_ml), goal.kind


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
