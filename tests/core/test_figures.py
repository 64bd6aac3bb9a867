"""One way of writing numbers: the decimal sign of the reader in every sentence, and in no file."""

import re

import pytest
from msgspec.structs import replace

from aplomb.assets import demo, reference
from aplomb.core.compare import at_the_bench
from aplomb.core.errors import AplombError
from aplomb.core.explain import explain
from aplomb.core.figures import decimal_sign, num, number_text, set_decimal
from aplomb.core.folds.claim_reading import read_claim
from aplomb.core.folds.claims import verdict
from aplomb.core.folds.plan import parse_plan, step_name
from aplomb.core.paste.formula import check
from aplomb.core.readings import READING_WORDS
from aplomb.core.study import make_study
from aplomb.exchange.formula_json import to_json

POINT = re.compile(r"\d\.\d")
TURN_LINE = re.compile(r"(envelope|thirds|pieces|coil|halves|inverse|portions)( [\d/t@][^ ]*)+")
COMMA = re.compile(r"\d,\d")


@pytest.fixture(params=[".", ","])
def sign(request):
    set_decimal(request.param)
    yield request.param
    set_decimal(".")


def test_numbers_by_hand():
    assert (num(2.5), num(2.5, ".2f"), num(1250.5, ".6g"), num(-0.5, "+.1f")) == (
        "2.5", "2.50", "1250.5", "-0.5",
    )  # fmt: skip
    set_decimal(",")
    try:
        assert (num(2.5), num(2.5, ".2f"), num(1250.5)) == ("2,5", "2,50", "1250,5")
        assert number_text(1234.56, 1) == "1\u2009234,6"
        assert decimal_sign() == ","
    finally:
        set_decimal(".")
    assert number_text(1234.0, 2) == "1\u2009234"
    with pytest.raises(ValueError, match="plain number"):
        num(1.0, ",.2f")
    with pytest.raises(ValueError, match="no decimal sign"):
        set_decimal(";")


def sentences():
    """All that the core says of the demo and of what was made wrong of it."""
    book, known = demo(), reference()
    known = replace(known, pantry=known.pantry.holding(book.items), house=book.house)
    lines = ("envelope 3@8.5 4 3 4 t7.5", "thirds 3 3 3 3 3 3 3", "pieces 3 3 4 /7.5", "coil /")
    for i, formula in enumerate(book.formulas):
        made = replace(
            formula, turn_line=lines[i % 4], sheet_mm=2.5, roll_width_mm=123.5, piece_fat_mm=2.5,
            flour_moisture_pct=11.25, dough_c=3.5,
            dough=tuple(replace(n, grams=n.grams * 1.37) for n in formula.dough),
        )  # fmt: skip
        before, study = make_study(formula, known), make_study(made, known)
        for each in (before, study):
            for opinion in each.opinions:
                yield from (opinion.claim, opinion.why)
                if opinion.action:
                    yield opinion.action.label
            yield from (explain(each, key) for key in READING_WORDS)
            yield from (step_name(step) for step in each.plan.steps)
            yield each.no_cost
        yield from at_the_bench(before, study, known.pantry, known.house)
        yield verdict(read_claim("about 150 layers"), study.plan, (7.25, 8.25)).words
        yield verdict(read_claim("about 150 layers"), parse_plan("thirds 3 4 / 3 4 /")).words
    try:
        check(replace(book.formulas[0], sheet_mm=0.15, fat_block_mm=123.75, dough_c=55.5))
    except AplombError as error:
        yield str(error)


def test_every_sentence_has_the_readers_sign(sign):
    """None with the other: all but the fold line, whose words are not a language."""
    said = [TURN_LINE.sub("", each) for each in sentences() if each]
    wrong = COMMA if sign == "." else POINT
    right = POINT if sign == "." else COMMA
    assert not [each for each in said if wrong.search(each)]
    assert sum(bool(right.search(each)) for each in said) > 60


def test_what_programs_read_is_written_with_points(sign):
    formula = replace(demo().formulas[0], turn_line="envelope 3@8.5 4 /7.5 t2.5", sheet_mm=2.5)
    assert formula.plan.line() == "envelope 3@8.5 4 /7.5 t2.5"
    assert b"2.5" in to_json(formula, reference().pantry)
    assert parse_plan("envelope 3@8,5").line() == "envelope 3@8.5"
