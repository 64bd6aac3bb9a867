"""Texts that are kept, and numbers of hundreds of digits: told where they come in."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import reference
from aplomb.core.base.errors import AmountError, AplombError, FormulaError, Problems
from aplomb.core.base.quantity import LONGEST_AMOUNT, parse_amount
from aplomb.core.base.texts import (
    check_texts,
    is_unwanted,
    texts_in,
    tidied,
    tidied_text,
    unwanted_in,
)
from aplomb.core.folds.claims import answer
from aplomb.core.lists.reading import LONGEST_LINE, MOST_LINES, left_out, read_list
from aplomb.core.paste.checking import check
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.line import Line
from aplomb.exchange.cells import safe
from aplomb.exchange.formula_json import from_json, to_json
from aplomb.exchange.pantry_csv import read_supplier_file

UNWANTED = [
    "\ud83d",
    "\udc00",
    "\n",
    "\r",
    "\t",
    "\x00",
    "\x1b",
    "\x7f",
    "\x85",
    "\u2028",
    "\u2029",
]
WANTED = ["é", "e\u0301", "🥐", "½", "\u00a0", "\u2009", "µ", "“", "\u200f", "家", "\\n", '"']


@pytest.mark.parametrize("sign", UNWANTED)
def test_what_cannot_be_kept_is_named_with_its_place(sign):
    assert is_unwanted(sign)
    assert f"U+{ord(sign):04X}" in unwanted_in("ab" + sign)
    assert unwanted_in("ab" + sign).startswith("character 3 is")
    with pytest.raises(FormulaError, match="dough 1, note: character 2"):
        check(Formula("x", dough=(Line("water", 1, note="a" + sign),)))
    with pytest.raises(FormulaError, match="name: character 2"):
        check(Formula("a" + sign))


@pytest.mark.parametrize("text", WANTED)
def test_what_people_write_is_kept(text):
    assert unwanted_in(text) == ""
    assert tidied_text(text) == text
    assert check(Formula("x" + text)).name == "x" + text


@given(st.text(alphabet=st.characters(), max_size=30))
def test_a_tidied_text_can_always_be_kept_and_written(text):
    clean = tidied_text(text)
    assert unwanted_in(clean) == ""
    assert clean.encode().decode() == clean
    assert len(clean) == len(text)
    wrong = Problems()
    check_texts(tidied(Formula("x", note=text), Formula), wrong)
    assert wrong.told == []


def test_every_text_of_a_formula_is_looked_at():
    formula = Formula("n", purpose="p", dough=(Line("water", 1, note="o", typed="t"),))
    found = dict(texts_in(formula))
    assert {"name", "purpose", "note", "dough 1, note", "dough 1, typed", "turn_line"} <= set(found)


@pytest.mark.parametrize("where", ["name", "note", "purpose"])
def test_half_an_emoji_in_a_file_is_refused_with_its_place(where, pantry):
    document = json.loads(to_json(Formula("x", dough=(Line("water", 5),)), pantry))
    document["formula"][where] = "half \ud83d"
    with pytest.raises(
        AplombError, match=f"x.json: formula, {where}: character 6 is half a character"
    ):
        from_json(json.dumps(document).encode(), pantry, "x.json")
    raw = json.dumps(document, ensure_ascii=False).encode("utf-8", "surrogatepass")
    with pytest.raises(AplombError, match="not text in UTF-8"):
        from_json(raw, pantry, "x.json")


def test_a_text_without_end_in_a_file_is_refused(pantry):
    document = json.loads(to_json(Formula("x"), pantry))
    document["formula"]["note"] = "n" * 5000
    with pytest.raises(AplombError, match="5000 characters are too many"):
        from_json(json.dumps(document).encode(), pantry, "x.json")


@pytest.mark.parametrize("digits", [50, 400, 5000])
def test_numbers_of_hundreds_of_digits_are_told(digits, pantry, plain):
    number = "9" * digits
    for read in (parse_amount, answer):
        with pytest.raises(AplombError):
            read(number)
    document = json.loads(to_json(plain, pantry))
    document["formula"]["batch"]["pieces"] = 7
    text = json.dumps(document).replace('"pieces": 7', f'"pieces": {number}')
    with pytest.raises(AplombError) as caught:
        from_json(text.encode(), pantry, "x.json")
    assert len(str(caught.value)) < 500
    sheet = read_supplier_file(f"name,water,price,pack\nX,{number},1,1 kg\n".encode(), pantry)
    assert sheet.troubles


def test_an_amount_has_an_end():
    with pytest.raises(AmountError, match="are too many for an amount;"):
        parse_amount("1" + " " * LONGEST_AMOUNT + "g")


def test_a_long_list_says_what_it_leaves_out(pantry):
    text = "For the dough:\n" + "\n".join(f"{n} g salt" for n in range(1, MOST_LINES + 6)) + "\n\n"
    assert len(read_list(text, pantry)) == MOST_LINES
    assert left_out(text, pantry) == 5
    assert left_out("1 g salt", pantry) == 0
    long = read_list("5 g salt " + "very " * 200, pantry)
    assert f"only the first {LONGEST_LINE} characters were read" in long[0].doubts


@pytest.mark.parametrize("text", ["=1+1", "\n=1+1", "  =1", "\t-2", "+3", "@x", "\uff1d1"])
def test_no_cell_that_goes_out_is_taken_for_a_sum(text):
    assert safe(text).startswith("'")
    assert unwanted_in(safe(text)) == ""


def test_names_of_batches_reach_every_office_file(plain, known):
    """A control sign in a name made XLSX fail for ever; a book of before may hold one."""
    from aplomb.core.study.study import make_study
    from aplomb.exchange.batch_workbook import batch_workbook

    study = make_study(replace(plain, name="a\x0bb", purpose="=x\x00"), known)
    assert batch_workbook([study], known.pantry, {}).startswith(b"PK")


# A supplier's file


def told(text):
    sheet = read_supplier_file(text.encode(), reference().pantry, "x.csv")
    return sheet, [problem for trouble in sheet.troubles for problem in trouble.problems]


def test_a_decimal_comma_in_a_comma_sheet_is_told_not_cut():
    """1 kg,12,50 came in as 12.00."""
    sheet, problems = told("name,pack,price\nX,1 kg,12,50\nY,1 kg,13.00\n")
    assert [row.item.pack.price for row in sheet.rows] == [13.0]
    assert "4 cells, but the first line has 3" in problems[0]
    assert (
        read_supplier_file(b'name,pack,price\nX,1 kg,"12.50"\n', reference().pantry)
        .rows[0]
        .item.pack.price
        == 12.5
    )


def test_empty_cells_at_the_end_are_none_too_many():
    sheet, problems = told("name,pack,price\nX,1 kg,12.50,,\n")
    assert problems == []
    assert len(sheet.rows) == 1


def test_two_columns_of_one_kind_are_refused():
    with pytest.raises(AplombError, match="2 columns for “price”: price, cost"):
        told("name,price,pack,cost\nX,1,1 kg,2\n")


@pytest.mark.parametrize(
    ("column", "cell", "words"),
    [
        ("source", "s" * 4300, "4300 characters are too many"),
        ("supplier", "p" * 4001, "4001 char"),
        ("source", '"\n=1+1"', "starts with “=”"),
        ("supplier", '"a\nb"', "line break"),
        ("also", "x\x07y", "control character"),
    ],
)
def test_a_cell_that_cannot_be_kept_is_told(column, cell, words):
    _, problems = told(f"name,price,pack,{column}\nX,1,1 kg,{cell}\n")
    assert any(words in problem for problem in problems), problems


def test_reading_a_sheet_can_be_watched_and_stopped():
    text = "name,price,pack\n" + "".join(f"M{n},1,1 kg\n" for n in range(2000))
    seen = []
    sheet = read_supplier_file(
        text.encode(), reference().pantry, "x.csv", watch=lambda n: seen.append(n) or True
    )
    assert len(sheet.rows) == 2000
    assert seen == sorted(seen)
    assert seen[-1] > 1800
    with pytest.raises(AplombError, match="stopped at line 500; nothing was imported"):
        read_supplier_file(text.encode(), reference().pantry, "x.csv", watch=lambda n: n < 500)


def test_a_refusal_has_an_end_whatever_is_wrong():
    lines = tuple(Line("x" * 3000, -1.0, turn=10**200) for _ in range(300))
    with pytest.raises(FormulaError) as caught:
        check(Formula("x", dough=lines))
    assert len(str(caught.value)) < 4000
    assert "more." in str(caught.value)
    assert len(caught.value.problems) > 100
