"""Make made-up formulas for every goal, in made-up houses; whatever breaks a law is told.

``PYTHONPATH=src:tests python -m finders.makes [FROM] [TO]``
"""

import random
import sys
from collections import Counter

from msgspec.structs import replace

from aplomb.assets import shipped
from aplomb.core.base.errors import AplombError
from aplomb.core.make.goal import goal_of, study_for
from aplomb.core.make.make import make_of
from aplomb.core.paste.checking import check
from aplomb.core.study.study import Reference
from core.make import made_up
from core.make.laws import broken

MANY = 500


def known() -> Reference:
    """The shipped reference with the demo's prices."""
    plain, book = shipped.reference(), shipped.demo()
    return replace(plain, pantry=plain.pantry.holding(book.items), house=book.house)


def told_of(seed: int, reference: Reference) -> tuple[list[str], str]:
    """Give what is wrong with the make of one made-up formula, and what it was made for.

    A batch that has nothing to scale by is told by its own trouble, and is no fault.
    """
    pick = random.Random(seed)
    reference = replace(reference, house=made_up.house(pick))
    formula = made_up.formula(pick, reference.pantry)
    goal = made_up.goal(pick) or goal_of(formula)
    check(formula, reference.pantry)
    try:
        study = study_for(formula, goal, reference)
    except AplombError as error:
        return [f"refused: {error}"], "refused"
    if study.scaled.trouble:
        return [], "trouble"
    make = make_of(study, reference.pantry, reference.house, goal)
    density = study.accounts.rolled_density_g_ml
    assert density is not None
    return broken(make, formula, density), goal.kind


def find(first: int, last: int) -> tuple[dict[int, list[str]], Counter[str]]:
    """Give the seeds whose make breaks a law, and how many there were for each goal."""
    wrong: dict[int, list[str]] = {}
    kinds: Counter[str] = Counter()
    reference = known()
    for seed in range(first, last):
        told, kind = told_of(seed, reference)
        kinds[kind] += 1
        if told:
            wrong[seed] = told
    return wrong, kinds


if __name__ == "__main__":
    begin, end = (int(n) for n in (sys.argv[1:3] + ["0", str(MANY)][len(sys.argv[1:3]) :]))
    bad, of = find(begin, end)
    for number, words in bad.items():
        print(number, words[:3])
    print(f"{len(bad)} of {end - begin} break a law; {dict(of)}")
