"""Trials as a table: there and back, other units and signs, and what is refused where."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aplomb.cli import main
from aplomb.core.base.errors import AplombError
from aplomb.core.trials.trial import Judged, Made, Piece, Trial, check_trial
from aplomb.exchange.trials_csv import COLUMNS, read_trials, trials_csv
from aplomb.verbs.trials_file import trials_file, trials_words

ONE = Trial(
    "t1", "b1", "Case paste", "", "2026-11-02", "Case", "leaf", "10 µm", "mon", "",
    Made(9.6, 92.0, "butter", 3.4, 4, 52.0, 40.0, 13.5, 12.0, 60.0, 200.0, 24.0, 21.0, "deck",
         "left", "Ida"),
    (Piece(4.0, 18.0, 15.0, 80, 76, 80, 77, 25, 21.5, 96), Piece(4.1, None, raw_g=25)),
    Judged(3, 4, 5, 1, "open", "clean"), 1.2, (), "wet day",
)  # fmt: skip


def test_a_trial_comes_back_as_it_went():
    assert read_trials(trials_csv([ONE])).trials == (ONE,)


NUMBERS = st.one_of(st.none(), st.floats(1, 100).map(lambda v: round(v, 3)))
PIECES = st.builds(
    Piece,
    raw_mm=NUMBERS,
    raw_along_mm=NUMBERS,
    raw_g=NUMBERS,
    leaves=st.one_of(st.none(), st.integers(0, 900)),
)


@settings(max_examples=60)
@given(st.lists(PIECES.filter(lambda p: p != Piece()), max_size=5), st.text(max_size=20))
def test_any_trial_comes_back(pieces, note):
    trial = Trial("k", "b", "f", "", "", pieces=tuple(pieces), made=Made(turns=3))
    assert read_trials(trials_csv([trial])).trials == (trial,)
    words = read_trials(trials_csv([Trial("k", "b", note or "f", "", "")]))
    assert len(words.trials) + len(words.troubles) == 1


@pytest.mark.parametrize("note", ["=SUM(A1)", "-0.5 mm at the rim", "+1", "@ 3 o'clock", "'tis"])
def test_a_text_like_a_sum_comes_back_as_it_was(note):
    trial = Trial("k", "b", "f", "", "", note=note)
    data = trials_csv([trial])
    assert f",{note}\r".encode() not in data or note == "'tis"
    assert read_trials(data).trials == (trial,)


def table(*lines):
    return "\n".join(lines).encode()


def test_what_a_short_line_leaves_off_is_empty():
    """Spreadsheets leave off the empty cells at the end of a line."""
    read = read_trials(table("raw_mm,trial,batch,note", "4,a,b", "3.9,a,b,", "4,c", "4"))
    assert [t.key for t in read.trials] == ["a"]
    assert [p.raw_mm for p in read.trials[0].pieces] == [4, 3.9]
    assert [w[:6] for w in read.troubles] == ["line 4", "line 5"]


def test_a_line_with_a_cell_too_many_is_told_and_not_moved_along():
    """A decimal comma in a table of commas would move every figure after it by a column."""
    read = read_trials(table("trial,batch,raw_mm,baked_mm", "a,b,4,0,15", "c,d,4,15,,", "e,f,4,15"))
    assert [t.key for t in read.trials] == ["c", "e"]
    (trouble,) = read.troubles
    assert "line 2: 5 cells" in trouble
    assert "quotes" in trouble


@pytest.mark.parametrize("cell", ["inf", "1e999", "nan", "1_0", "٤", "4 mm", "0x4", "4,5.6"])
@pytest.mark.parametrize("column", ["raw_mm", "leaves", "turns", "colour", "leak_g"])
def test_what_is_no_number_is_told(column, cell):
    read = read_trials(table(f"trial;batch;{column}", f"a;b;{cell}", "c;d;3"))
    assert [t.key for t in read.trials] == ["c"]
    assert f"line 2: {column}: " in read.troubles[0]


@pytest.mark.parametrize("column", ["leaves", "turns", "colour", "film"])
def test_a_part_of_a_mark_or_a_leaf_is_not_cut_off(column):
    read = read_trials(table(f"trial,batch,{column}", "a,b,2.5"))
    assert "2.5 is not a whole number" in read.troubles[0]


def test_other_units_are_turned():
    """25.4 mm an inch, 28.35 g an ounce: exact."""
    read = read_trials(table("trial;batch;raw_in;baked_in;raw_oz;bake_f", "a;b;0,25;1,0;1,0;400"))
    (trial,) = read.trials
    assert trial.pieces[0].raw_mm == pytest.approx(6.35)
    assert trial.pieces[0].raw_g == pytest.approx(28.3495)
    assert trial.made.bake_c == pytest.approx(204.44, abs=0.01)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"), (b"\x00\x01\x02", "not text"), (b"\xff\xfa\x80", "UTF-8"),
        (table("name,lift", "a,4"), "no column “trial”"),
        (table("trial,lift", "a,4"), "no column “batch”"),
        (table("trial,batch,raw_mm,raw_in", "a,b,4,1"), "two units: “raw_mm” and “raw_in”"),
        (table("trial,batch,raw_mm,raw_mm", "a,b,4,1"), "same column twice"),
    ],
)  # fmt: skip
def test_what_is_no_such_table_is_refused(data, words):
    with pytest.raises(AplombError, match=words):
        read_trials(data)


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("x,,4,16", "batch that was really made"),
        (",b,4,16", "trial: the cell is empty; give the trial a name"),
        ("x,b,four,16", "“four” is not a number"),
        ("x,b,4,0", "baked height"),
        ("x,b,4,nan", "“nan” is not a number"),
        ("x,b,4,200", "lift of 50"),
        ("x,b,-4,16", "raw height"),
    ],
)
def test_a_line_that_cannot_be_used_is_told_and_the_rest_is_read(line, words):
    read = read_trials(table("trial,batch,raw_mm,baked_mm", "a,b,4,16", line, "c,b,4,18"))
    assert [t.key for t in read.trials] == ["a", "c"]
    assert len(read.troubles) == 1
    assert read.troubles[0].startswith("line 3:")
    assert words in read.troubles[0]


def test_a_piece_that_contradicts_its_trial_is_told():
    read = read_trials(table("trial,batch,variant", "a,b,10", "a,b,14", "a,c,10"))
    assert [t.split(":")[0] for t in read.troubles] == ["line 3", "line 4"]


def test_formulas_of_a_spreadsheet_are_kept_out():
    trial = Trial("k", "b", "=1+1", "", "")
    assert b"'=1+1" in trials_csv([trial])


def test_the_example_of_the_page_is_true(request, tmp_path, capsys):
    page = (request.config.rootpath / "docs/verbs/trials.md").read_text(encoding="utf-8")
    path = tmp_path / "that.csv"
    path.write_text(page.split("```csv\n")[1].split("```")[0], encoding="utf-8")
    assert main(["trials", str(path)]) == 0
    assert capsys.readouterr().out == page.split("```text\n")[1].split("```")[0]
    assert main(["trials", str(path), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["series"][0]["variants"][1]["against"]["verdict"] == "not_enough"
    assert told["trials"][4]["mean"] is None
    for column in COLUMNS:
        assert f"`{column}`" in page, column


def test_one_trial_only_says_what_it_can(tmp_path):
    path = tmp_path / "one.csv"
    path.write_text("trial,batch,raw_mm,baked_mm,series,variant\na,b,4,16,s,v\n")
    told = trials_file(str(path))
    assert (told.n, told.band) == (1, None)
    assert "1 trials, lift measured in 1" in trials_words(told)


@pytest.mark.parametrize(
    ("arguments", "words"),
    [(["--outcome", "moon"], "moon"), (["--change", "moon"], "moon"), ([], "no trial")],
)
def test_the_verb_refuses_in_words(tmp_path, capsys, arguments, words):
    path = tmp_path / "one.csv"
    path.write_text("trial,batch,raw_mm,baked_mm\na,b,4,0\n")
    assert main(["trials", str(path), *arguments]) == 2
    told = capsys.readouterr()
    assert words in told.err
    assert told.out == ""
    assert main(["trials", str(tmp_path / "none.csv")]) == 2


def test_a_band_comes_with_enough_trials(tmp_path):
    import numpy as np

    rng = np.random.default_rng(4)
    lines = ["trial,batch,fat_leaf_um,raw_mm,baked_mm"]
    for i in range(30):
        leaf = float(np.exp(rng.uniform(1.4, 3.6)))
        lift = 5 - 0.9 * np.log(leaf / 12) ** 2 + rng.normal(0, 0.2)
        lines.append(f"t{i},b{i},{leaf:.2f},4,{4 * lift:.1f}")
    path = tmp_path / "many.csv"
    path.write_text("\n".join(lines))
    told = trials_file(str(path))
    assert told.band.low < 12 < told.band.high
    assert told == trials_file(str(path))  # the same table, the same answer


def broken(data, rng):
    """A table as it may come: signs changed, cut off, lines doubled, fields of another world."""
    made = bytearray(data)
    for _ in range(rng.randint(1, 8)):
        at = rng.randrange(len(made) + 1)
        match rng.randrange(5):
            case 0:
                made[at:at] = rng.choice(
                    (b"\0", b"\xff\xfe", b'"', b";", b"\t", b"\r", b"\n\n", b"1e999")
                )
            case 1:
                del made[at : at + rng.randint(1, 60)]
            case 2:
                made[at:at] = made[at : at + rng.randint(1, 400)]
            case 3:
                made[at : at + 4] = rng.choice(
                    (b"-1", b"nan", b"inf", b"50 F", b"3,4", "½".encode())
                )
            case _:
                made[at:at] = rng.randbytes(rng.randint(1, 20))
    return bytes(made)


@settings(max_examples=120, deadline=None)
@given(st.randoms(use_true_random=False))
def test_a_broken_table_is_read_or_refused_in_words(rng):
    """Nothing else comes out than trials that can be used, and words on the rest."""
    data = trials_csv([ONE, ONE])
    try:
        read = read_trials(broken(data, rng))
    except AplombError as error:
        assert str(error)
        return
    for trial in read.trials:
        assert check_trial(trial) == trial
    assert all(read.troubles)
