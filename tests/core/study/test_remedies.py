"""What is offered was tried: it cures what it complains of and raises nothing as bad."""

import random

import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.core.opinion.opinion import Action, Opinion
from aplomb.core.paste.formula import Formula, Part
from aplomb.core.paste.line import Line
from aplomb.core.study.remedies import cures, remedies
from aplomb.core.study.study import make_study

FLOURED = Formula(
    "floured",
    dough=(Line("plain_flour", 600), Line("water", 320), Line("salt", 16)),
    block=(Line("butter", 800), Line("plain_flour", 300)),
    turn_line="inverse 3 4 / 3 4 /",
)


def study_of(formula):
    return make_study(formula, reference())


def test_flour_in_the_fat_block_does_not_make_the_dough_dry():
    """By hand: 320 g water on the 600 g flour of the dough are 53.3 %, not 320 / 900 = 35.6 %; a
    baker who adds water to 50 % of all flour drowns the dough."""
    study = study_of(FLOURED)
    assert study.readings.dough_water_pct == pytest.approx(100 * 320 / 600)
    assert "water_out_of_school" not in {o.key for o in study.opinions}


def test_crumbs_of_floured_butter_in_rough_puff_do_not_either():
    rough = replace(
        FLOURED,
        school="rough",
        turn_line="pieces 3 3 / 4 3 /",
        block=(Line("butter", 560), Line("plain_flour", 200)),
    )
    assert "water_out_of_school" not in {o.key for o in study_of(rough).opinions}
    wet = rough.with_lines(Part.DOUGH, (Line("plain_flour", 600), Line("water", 355)))
    assert "water_out_of_school" not in {o.key for o in study_of(wet).opinions}, "59 % is usual"


def dough(*liquid):
    return replace(
        FLOURED,
        block=(Line("butter", 850),),
        turn_line="envelope 3 4 / 3 4 /",
        dough=(Line("plain_flour", 1000), Line("salt", 16), *liquid),
    )


def test_cream_and_milk_have_their_own_words_and_band():
    """Common practice: cream 65 to 80 % of the flour. By hand: whipping cream is 58 % water, so
    720 g bring 41.8 %, which is no dry dough; 500 g is."""
    assert "water_out_of_school" not in {
        o.key for o in study_of(dough(Line("cream_whipping", 720))).opinions
    }
    found = {o.key: o for o in study_of(dough(Line("cream_whipping", 500))).opinions}
    dry = found["water_out_of_school"]
    assert "cream as the liquid: 65 to 80 %" in dry.why
    assert dry.action.label == "Add 150 g cream"
    milk = study_of(dough(Line("milk_whole", 580)))
    assert "milk" in milk.school.bands["dough_water_pct"].words
    assert "water_out_of_school" not in {o.key for o in milk.opinions}
    egg = study_of(dough(Line("egg_whole", 560)))
    assert egg.school.bands["dough_water_pct"].low == pytest.approx(0.76 * 50)
    assert egg.school.bands["dough_water_pct"].standing == "memory"


def test_what_does_not_cure_or_makes_it_worse_is_not_offered():
    study = study_of(dough(Line("water", 700)))
    wet = next(o for o in study.opinions if o.key == "water_out_of_school")
    assert cures(study, wet, reference())
    useless = Opinion(wet.key, "look", "", "", "calc", Action("Nothing", study.formula))
    assert not cures(study, useless, reference())
    lines = (Line("plain_flour", 1000), Line("water", 520))  # the salt went with it
    worse = replace(wet, action=Action("", study.formula.with_lines(Part.DOUGH, lines)))
    assert not cures(study, worse, reference())
    broken = replace(wet, action=Action("", replace(study.formula, sheet_mm=-1.0)))
    assert not cures(study, broken, reference())
    assert not cures(study, replace(wet, action=None), reference())


def varied(random_, formula):
    """A formula with amounts, plan and sizes changed at random."""

    def lines(some):
        return tuple(
            replace(n, grams=n.grams * random_.choice((0.4, 0.7, 1, 1, 1.4, 2.2))) for n in some
        )

    plans = (
        "envelope 3 4 3 4",
        "thirds 3 3 3 3 3 3",
        "halves 4 /",
        "pieces 3 4 3",
        "inverse 4 4",
        "portions +3 +4 3",
        "coil /",
        "envelope 6 6 6 /",
        formula.turn_line,
    )
    return replace(
        formula,
        dough=lines(formula.dough),
        block=lines(formula.block),
        turn_line=random_.choice(plans),
        sheet_mm=random_.choice((1.5, 3, 6)),
        roll_width_mm=random_.choice((0, 0, 150, 900)),
        school=random_.choice(("classic", "rough", formula.school)),
    )


def test_over_many_formulas_what_is_offered_cures():
    """Every remedy that is offered is carried out: its rule falls silent, and no rule speaks that
    did not before unless something wrong became something to look at. Most proposals hold."""
    random_ = random.Random(20261126)
    book, known = demo(), reference()
    known = replace(known, pantry=known.pantry.holding(book.items))
    offered = proposed = 0
    for _ in range(70):
        study = make_study(varied(random_, random_.choice(book.formulas)), known)
        proposed += sum(o.action is not None for o in study.shown_opinions)
        for key, action in remedies(study, known).items():
            offered += 1
            after = {o.key: o.mark for o in make_study(action.formula, known).opinions}
            before = {o.key: o.mark for o in study.opinions}
            assert key not in after
            new = {k: m for k, m in after.items() if before.get(k) != m}
            assert not any(mark == "wrong" for mark in new.values())
            if before[key] == "look":
                assert not any(k not in before for k in new)
    assert offered > 85
    assert offered / proposed > 0.6
