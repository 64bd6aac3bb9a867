"""Work out formulas at the ends of every range; whatever is raised must be a refusal in words."""

import random
import traceback
from collections import Counter
from collections.abc import Callable
from functools import partial
from itertools import pairwise
from pathlib import Path
from typing import Any, get_args

from msgspec.structs import replace

from aplomb.assets import shipped
from aplomb.core.base.errors import AplombError
from aplomb.core.batch.made_batch import MadeBatch
from aplomb.core.batch.trays import batch_trays
from aplomb.core.batch.weighing import begin_run
from aplomb.core.folds.lessons import lessons_of
from aplomb.core.kitchen.costs import costs_of
from aplomb.core.kitchen.cut_plan import sheets_of, trays_of
from aplomb.core.kitchen.demand import from_blocks
from aplomb.core.kitchen.orders import order_list
from aplomb.core.opinion.opinion import Opinion
from aplomb.core.paste.checking import check
from aplomb.core.paste.formula import Formula, Part
from aplomb.core.paste.gluten_free import FAMILIES, to_gluten_free
from aplomb.core.paste.pantry import Pantry
from aplomb.core.paste.swap import Hold, swap
from aplomb.core.readings.choices import likely_fats
from aplomb.core.readings.readings import READING_WORDS
from aplomb.core.study.compare import at_the_bench, compare
from aplomb.core.study.explain import explain
from aplomb.core.study.solve import solve
from aplomb.core.study.study import Reference, Study, make_study
from aplomb.core.study.wanted import Sense, Target, Wanted
from aplomb.exchange.card_csv import card_csv
from aplomb.exchange.formula_json import from_json, to_json
from finders.formulas import any_formula, any_pantry
from stored import frozen_block


def reference() -> Reference:
    """Give the demo's reference."""
    plain, book = shipped.reference(), shipped.demo()
    return replace(plain, pantry=plain.pantry.holding(book.items), house=book.house)


def any_line(formula: Formula, pick: random.Random) -> tuple[Part, int]:
    """Choose a line that is there, or refuse as the window does."""
    lines = [(part, i) for part, i, _ in formula.all_lines()]
    if not lines:
        raise AplombError("no line")
    return pick.choice(lines)


def targets(pick: random.Random) -> tuple[Target, ...]:
    """Choose what is wanted."""
    return tuple(
        Target(
            pick.choice(get_args(Wanted)),
            pick.choice((0.0, 0.5, 2.0, 55.0, 100.0, 5000.0)),
            pick.choice(get_args(Sense)),
            pick.choice(("butter", "lard", "plain_flour")),
        )
        for _ in range(pick.choice((1, 1, 2, 3)))
    )


def taken(opinion: Opinion, pantry: Pantry) -> Formula:
    """Take what an opinion proposes; a proposal that is refused is a fault."""
    assert opinion.action is not None
    try:
        return check(opinion.action.formula, pantry)
    except AplombError as error:
        raise RuntimeError(f"{opinion.key} proposes what is refused: {error}") from None


def asked_of(study: Study, known: Reference, pick: random.Random) -> dict[str, Callable[[], Any]]:
    """Give all that is asked of a study, by its name."""
    pantry, house, f = known.pantry, known.house, study.formula
    record = MadeBatch("r", f.name, "u", "2026-11-26T05:00:00+00:00")
    return {
        "section": study.section,
        "across": lambda: study.section(final=False, across=True),
        "stack": study.stack,
        "actions": lambda: [taken(o, pantry) for o in study.opinions if o.action],
        "explain": lambda: [explain(study, key) for key in READING_WORDS],
        "trays": lambda: (batch_trays(f, study.scaled, house), trays_of(study, house)),
        "sheets": lambda: sheets_of(study, house),
        "costs": lambda: costs_of(study, pantry),
        "order": lambda: order_list([study.scaled], pantry, {}),
        "weighing": lambda: begin_run(study.scaled, pantry, f.batch.division_g, record),
        "fats": lambda: likely_fats(f, pantry, house, study.scaled.written_pieces),
        "lessons": lambda: lessons_of(study.plan, f.working.envelope),
        "gluten free": lambda: to_gluten_free(f, pantry, FAMILIES[0].shares),
        "card": lambda: card_csv(study, pantry),
        "blocks": lambda: from_blocks([frozen_block("u", 2, 500.0)], {"u": study}, known),
        "solve": lambda: solve(study, pantry, targets(pick)),
        "swap": lambda: swap(
            f,
            pantry,
            *any_line(f, pick),
            pick.choice([m.key for m in pantry]),
            pick.choice(get_args(Hold)),
            pick.choice((0.01, 0.5, 1.0)),
        ),
        "json": lambda: from_json(to_json(f, pantry), pantry),
    }


def where(error: BaseException) -> str:
    """Say what was raised, and in which line."""
    last = traceback.extract_tb(error.__traceback__)[-1]
    return f"{type(error).__name__}: {str(error)[:70]} ({Path(last.filename).name}:{last.lineno})"


def find(cases: int, start: int = 0) -> tuple[Counter[str], dict[str, int], int]:
    """Work out so many formulas.

    Parameters
    ----------
    cases : int
    start : int
        Number of the first; the same number is the same formula.

    Returns
    -------
    tuple of (faults with how often, the first case of each, formulas that were worked out)
    """
    known = reference()
    faults: Counter[str] = Counter()
    first: dict[str, int] = {}
    worked = 0

    def attempt(name: str, act: Callable[[], Any], case: int) -> Any:
        try:
            return act()
        except AplombError:
            return None
        except Exception as error:  # noqa: BLE001  # this is what is looked for
            words = f"{name}: {where(error)}"
            faults[words] += 1
            first.setdefault(words, case)
            return None

    usual = known
    studies: list[Study] = []
    for case in range(start, start + cases):
        pick = random.Random(case)
        changed = case % 3 == 0
        known = replace(usual, pantry=any_pantry(pick, usual.pantry)) if changed else usual
        pantry = known.pantry
        if changed:  # what was worked out before rests on another pantry
            studies = []
        made = any_formula(pick, pantry)
        formula: Formula | None = attempt("check", partial(check, made, pantry), case)
        study = attempt("study", partial(make_study, formula, known), case) if formula else None
        if study is None:
            continue
        worked += 1
        studies = [*studies[-1:], study]
        asked = attempt("asked", partial(asked_of, study, known, random.Random(case)), case)
        for name, act in (asked or {}).items():
            attempt(name, act, case)
        for before, after in pairwise(studies):
            attempt("compare", partial(compare, before, after, pantry), case)
            attempt("bench", partial(at_the_bench, before, after, pantry, known.house), case)
    return faults, first, worked
