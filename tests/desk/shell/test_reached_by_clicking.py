"""Exceptions that clicking reached, each with others of its class."""

from itertools import product

import pytest
from msgspec.structs import replace
from PySide6.QtWidgets import QApplication

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.step import Step, Way, as_single
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.paste.checking import check
from aplomb.core.paste.formula import Part, with_grams, with_product
from aplomb.core.paste.line import Line
from aplomb.core.study.solve import solve
from aplomb.core.study.study import make_study
from aplomb.core.study.wanted import Target
from aplomb.work.commands import BATCH, FOLDS

FIXED = ("flour", "paste", "pieces", "packet")


@pytest.mark.parametrize(
    "line",
    [
        "pieces t200 3 4",
        "coil t200 r",
        "coil t200",
        "envelope t200 3",
        "thirds 3 t200 t200 4",
        "portions t200 +3",
        "pieces 3 t200 3 t200 3",
    ],
)
def test_a_sheet_that_is_trimmed_to_nothing_has_no_section_but_words(window, known, line):
    window.show_stage(FOLDS)
    window.session.shelf.edit("trim", lambda f: replace(f, turn_line=line))
    for place in range(len(window.session.study.plan.steps) + 1):
        window.folds.ribbon.pick(place)
        QApplication.processEvents()
        window.section.repaint()
    study = window.session.study
    try:
        study.section()
    except AplombError as error:
        assert len(str(error)) > 10


@pytest.mark.parametrize("then", FIXED)
def test_a_batch_too_small_or_large_to_be_fixed_otherwise(window, then):
    """0.1 g of paste, then pieces: what cannot follow stays, and what is shown is what is kept."""
    window.show_stage(BATCH)
    names = {"flour": "flour_g", "paste": "paste_g", "pieces": "pieces", "packet": "packet_g"}
    for value, first in product((0.1, 1e8), FIXED):
        if first == "pieces":
            value = {0.1: 1, 1e8: 1_000_000}.get(value, 1)
        window.session.shelf.edit(
            "batch",
            lambda f, how={"fixed": first, names[first]: value}: replace(
                f, batch=replace(f.batch, **how)
            ),
        )
        QApplication.processEvents()
        window.batch.radios[f"fixed={then}"].click()
        QApplication.processEvents()
        kept = window.session.formula.batch.fixed
        assert window.batch.radios[f"fixed={kept}"].isChecked()
        check(window.session.formula)
    assert window.uncaught.faults == []


@pytest.mark.parametrize(
    ("word", "single"),
    [
        ("4", "3"),
        ("4o", "3"),
        ("5", "3"),
        ("6@8", "3@8"),
        ("q", "3"),
        ("s4", "3"),
        ("3", "3"),
        ("2", "2"),
        ("/30", "/30"),
        ("t10", "t10"),
        ("+4", "+3"),
        ("+4:40", "+3:40"),
        ("+5:40:4", "+3:40:3"),
    ],
)
def test_a_turn_made_single_can_be_read_again(word, single):
    plan = parse_plan(f"portions +3:60 {word}" if "+" in word else f"envelope {word}")
    made = replace(plan, steps=tuple(as_single(step) for step in plan.steps))
    assert made.line().split()[-1] == single
    assert parse_plan(made.line()) == made


def test_a_portion_made_single_still_spreads_its_fat():
    assert as_single(Step(Way.PORTION, 5, covered=2, begins=3)).way is Way.PORTION


def test_make_them_singles_with_a_double_off_the_middle(window):
    window.session.shelf.edit(
        "gluten-free", lambda f: replace(f, school="gluten_free", turn_line="envelope 4o / 4o 3")
    )
    QApplication.processEvents()
    assert "singles_only_gluten_free" in [o.key for o in window.session.study.opinions]
    window.opinion.act("singles_only_gluten_free")
    assert window.session.formula.turn_line == "envelope 3 / 3 3 / 3"


def test_a_section_of_a_turn_that_is_gone(window):
    window.show_stage(FOLDS)
    window.session.shelf.edit("long", lambda f: replace(f, turn_line="envelope 3 3 3 3 3"))
    window.folds.ribbon.pick(5)
    QApplication.processEvents()
    window.session.shelf.edit("short", lambda f: replace(f, turn_line="envelope 3"))
    window.section.show_moment(5)
    QApplication.processEvents()
    study = window.session.study
    for upto in (0, 1, 5, 99):
        study.section(upto)
        study.stack(upto)


def test_salt_that_is_taken_out_is_never_less_than_none(known, plain):
    """25.1 g of salt, of which 25.14 g are too much."""
    formula = replace(
        plain, dough=(*plain.dough[:2], Line("salt", 25.06)), block=(Line("butter_salted", 2400),)
    )
    study = make_study(formula, known)
    found = [o for o in study.opinions if o.key == "salt_twice"]
    assert found
    check(found[0].action.formula, known.pantry)
    none = replace(formula, dough=(*plain.dough[:2],))
    assert "salt_twice" not in [o.key for o in make_study(none, known).opinions]


def test_nothing_can_be_solved_without_a_line(known, plain):
    empty = make_study(replace(plain, dough=(), block=()), known)
    with pytest.raises(AplombError, match="are empty; add ingredients first"):
        solve(empty, known.pantry, (Target("salt_pct", 2.0),))


def test_more_pieces_than_can_be_drawn_are_refused_in_words(known, plain):
    """A mass 500 mm high with pieces of 0.5 mm took 20 s and all memory."""
    formula = replace(
        plain, school="rough", turn_line="pieces 3", piece_fat_mm=0.5, gathered_mm=500.0
    )
    with pytest.raises(AplombError, match="too small to draw one by one;"):
        make_study(formula, known).section()


def test_no_leaf_is_thinner_than_a_molecule(known, plain):
    """A hundred roll-ups took 13 s to be drawn on a card; there is nothing to draw."""
    formula = replace(plain, turn_line="coil" + " r" * 100)
    with pytest.raises(AplombError, match="no leaf left"):
        make_study(formula, known).section()


def test_grams_of_a_line_between_two_looks(window, person):
    """Grams typed for a line that another hand has moved and changed: told, nothing changed."""
    card = window.paste.cards[Part.DOUGH]
    window.show_stage(1)
    line = card.rows[1].line
    window.session.shelf.change("other", with_grams(window.session.formula, Part.DOUGH, 1, 9.0))
    before = window.session.formula
    with pytest.raises(AplombError, match="no longer in the formula"):
        card.take_grams(line, "5")
    assert window.session.formula is before


def test_a_plan_that_was_pressed_is_taken_whatever_is_found_meanwhile(window):
    """The bench typed beside it was taken when it was left, and no plan fits it any more."""
    window.open_page("plans")
    page = window.pages["plans"]
    QApplication.processEvents()
    shown = page.rows[0][0].text()
    page._found = ()
    page._use_found(0)
    assert window.session.formula.plan.line() == shown


@pytest.mark.parametrize("at", [0, 3, 99])
def test_what_is_no_longer_there_is_told(window, plain, at):
    with pytest.raises(AplombError, match="no longer in the formula"):
        with_product(plain, at, price=1.0)
    window.open_page("fats")
    fats = window.pages["fats"]
    fats._keys = ()
    with pytest.raises(AplombError, match="no longer in the block"):
        fats.take_share(at, "5")


def test_what_a_section_says_is_of_what_it_shows(window, qtbot):
    """How even it is comes from beside the window, perhaps when a shorter plan is in hand."""
    window.show_stage(FOLDS)
    rough = next(u for u, e in window.session.shelf.entries.items() if "Kiosk" in e.name)
    window.session.shelf.select(rough)
    QApplication.processEvents()
    strip = window.section
    last = len(window.session.study.plan.steps)
    window.folds.ribbon.pick(last)
    QApplication.processEvents()
    qtbot.waitUntil(lambda: strip.even is not None, timeout=20_000)
    found, words = strip.even, strip.words
    window.show_stage(0)
    window.session.shelf.edit("short", lambda f: replace(f, turn_line="pieces"))
    strip._judged(found)
    assert strip.words == words
    assert strip.title()
    window.show_stage(FOLDS)
    QApplication.processEvents()
    assert window.uncaught.faults == []
