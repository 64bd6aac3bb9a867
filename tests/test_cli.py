"""The command line as a person uses it: what it prints, what it refuses, and with which code."""

import json
import os
import shlex
import subprocess
import sys
from pathlib import Path

import pypdfium2
import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.cli import COMMANDS, main
from aplomb.cli_parser import VERBS, command_parser
from aplomb.core.paste.pantry import Item
from aplomb.exchange.formula_json import to_json

ROOT = Path(__file__).resolve().parent.parent
pytestmark = pytest.mark.usefixtures("qapp")  # cards are printed: a bare one would be in its way


@pytest.fixture
def formula_file(tmp_path):
    path = tmp_path / "regatta.json"
    path.write_bytes(to_json(demo().formulas[0]))
    return path


def run(capsys, *words):
    code = main([str(word) for word in words])
    out = capsys.readouterr()
    return code, out.out, out.err


def test_layers_as_json(capsys):
    code, out, err = run(capsys, "layers", "envelope 3 4 / 3 4", "--json")
    assert (code, err) == (0, "")
    found = json.loads(out)
    assert found["product"] == found["fat_leaves"] == 144
    assert found["dough_leaves"] == 145
    assert found["leaves"] == 289


def test_layers_stay_exact_beyond_machine_integers(capsys):
    code, out, _ = run(capsys, "layers", "envelope " + "6 " * 40, "--json")
    assert code == 0
    assert json.loads(out)["fat_leaves"] == 6**40


def test_layers_in_words(capsys):
    code, out, _ = run(capsys, "layers", "thirds 4 4 4")
    assert code == 0
    assert "128 fat leaves and 129 dough leaves, 257 in all" in out


def test_figures(capsys, formula_file):
    code, out, _ = run(capsys, "figures", formula_file, "--json")
    found = json.loads(out)
    assert code == 0
    assert found["fat_product_pct"] == pytest.approx(92)
    assert found["product"] == 144
    code, out, _ = run(capsys, "figures", formula_file)
    assert code == 0
    assert "Fat on flour  92 %" in out


def test_grams(capsys):
    code, out, _ = run(capsys, "grams", "2 1/4 cup", "plain flour", "--json")
    assert code == 0
    assert 260 < json.loads(out)["grams"] < 300
    code, out, _ = run(capsys, "grams", "1 lb", "butter", "--json")
    assert json.loads(out)["grams"] == pytest.approx(453.5924, abs=1e-4)
    code, out, _ = run(capsys, "grams", "1 cup", "plain flour")
    assert "probably" in out
    code, out, _ = run(capsys, "grams", "1,250", "water", "--decimal", ",", "--json")
    assert json.loads(out)["grams"] == 1.25


def test_card(capsys, formula_file, tmp_path):
    code, _, _ = run(capsys, "card", formula_file, tmp_path / "card.csv")
    assert code == 0
    assert (tmp_path / "card.csv").read_bytes().startswith(b"\xef\xbb\xbfkind,")
    environment = os.environ | {"PYTHONPATH": str(ROOT / "src")}
    subprocess.run(
        [sys.executable, "-m", "aplomb", "card", formula_file, tmp_path / "card.pdf"],
        check=True,
        env=environment,
        capture_output=True,
    )
    document = pypdfium2.PdfDocument(tmp_path / "card.pdf")
    assert "Regatta case paste" in document[0].get_textpage().get_text_range()
    document.close()


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["layers", "envelope 3 7"], ["2 to 6 panels", "envelope 3 »7«"]),
        (["layers", "enveloppe"], ["not a way of enclosing", "»enveloppe«"]),
        (["layers", ""], ["starts with one of"]),
        (["layers", "coil 3"], ["only be averaged"]),
        (["layers", "pieces 3"], ["leaves"]),
        (["layers"], ["required"]),
        (["grams", "2 cupz", "water"], ["not a unit", "»cupz«"]),
        (["grams", "-2 cup", "water"], ["negative"]),
        (["grams", "2 cup", "gold"], ["no “gold”"]),
        (["grams", "10 %", "water"], ["no flour"]),
        (["figures", "nowhere.json"], ["cannot read nowhere.json: there is no such file"]),
        (["figures", "."], ["a folder"]),
        (["figures", "/dev/zero"], ["it is a device"]),
        (["grams", "1 cup", ""], ["has no"]),
        (["card", "nowhere.json", "x.doc"], ["nowhere.json"]),
        (["--colour"], ["unrecognized"]),
    ],
)
def test_errors_are_short_point_at_the_place_and_end_with_2(capsys, words, says):
    try:
        code = main(words)
    except SystemExit as left:
        code = left.code
    out = capsys.readouterr()
    assert code == 2
    assert out.out == ""
    assert 1 <= len(out.err.strip().splitlines()) <= 2
    assert "Traceback" not in out.err
    for each in says:
        assert each in out.err


def test_a_card_of_another_kind_is_refused(capsys, formula_file, tmp_path):
    code, _, err = run(capsys, "card", formula_file, tmp_path / "card.docx")
    assert code == 2
    assert ".pdf or .csv" in err


def aplomb(*words, **extra):
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY")}
    environment |= {"PYTHONPATH": str(ROOT / "src")} | extra
    if not extra.get("QT_QPA_PLATFORM"):
        environment.pop("QT_QPA_PLATFORM", None)
    return subprocess.run(
        [sys.executable, "-m", "aplomb", *words],
        env=environment,
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )


def test_without_a_display_it_says_so_in_a_sentence():
    done = aplomb("--demo")
    assert done.returncode == 2
    assert "no display to open a window on" in done.stderr
    assert "xvfb-run" in done.stderr
    assert "Traceback" not in done.stderr


def test_the_smoke_run_leaves_with_nought_and_makes_the_demo_book(tmp_path):
    done = aplomb("--demo", "--smoke", QT_QPA_PLATFORM="offscreen", APLOMB_HOME=str(tmp_path))
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "demo.aplomb").stat().st_size > 1000
    assert not (tmp_path / "book.aplomb").exists()


def test_a_book_that_is_not_one_is_refused_at_the_door(tmp_path):
    wrong = tmp_path / "list.aplomb"
    wrong.write_text("eggs\nbutter\n" * 100)
    done = aplomb(str(wrong), "--smoke", QT_QPA_PLATFORM="offscreen", APLOMB_HOME=str(tmp_path))
    assert done.returncode == 2
    assert "not an Aplomb book" in done.stderr
    assert "Traceback" not in done.stderr


def test_text_commands_import_nothing_of_qt():
    code = (
        "import sys; from aplomb.cli import main; main(['grams', '1 cup', 'water']);"
        "assert not any(m.startswith('PySide6') for m in sys.modules), 'Qt was imported'"
    )
    environment = os.environ | {"PYTHONPATH": str(ROOT / "src")}
    subprocess.run([sys.executable, "-c", code], check=True, env=environment, capture_output=True)


def test_the_command_line_knows_both_cups(capsys):
    """A metric cup is 250 mL, common practice; the US one 236.588 mL (NIST Handbook 44)."""
    metric = json.loads(run(capsys, "grams", "1 cup", "water", "--measures", "metric", "--json")[1])
    us = json.loads(run(capsys, "grams", "1 cup", "water", "--json")[1])
    assert metric["grams"] / us["grams"] == pytest.approx(250 / 236.5882365)


def test_a_batch_balances_to_the_gram(capsys, formula_file):
    code, out, _ = run(capsys, "batch", formula_file, "--json")
    assert code == 0
    found = json.loads(out)
    into = sum(found[key] for key in ("paste_g", "strewn_g", "dust_g", "frozen_g", "scrap_in_g"))
    pieces = sum(each["pieces"] * each["paste_g"] for each in found["products"])
    out_of = sum(found[key] for key in ("loss_g", "folded_g", "trim_g", "over_g")) + pieces
    assert into == pytest.approx(out_of, abs=1)
    assert [each["pieces"] for each in found["products"]] == [240, 96]
    weighed = sum(n["weigh_g"] for n in found["lines"] if n["part"] in ("dough", "block"))
    assert weighed == pytest.approx(found["paste_g"], abs=30)
    code, out, _ = run(capsys, "batch", formula_file)
    assert code == 0
    assert "240 Vol-au-vent case" in out


def test_a_cut_plan_and_its_drawing(capsys, formula_file, tmp_path):
    drawing = tmp_path / "cut.svg"
    code, out, _ = run(capsys, "cut", formula_file, "--json", "--svg", drawing)
    assert code == 0
    (sheet,) = json.loads(out)["sheets"]
    assert sheet["pieces"]["Vol-au-vent case"] >= 240
    assert sheet["rolled_length_mm"] > sheet["length_mm"]
    assert drawing.read_text("utf-8").startswith("<?xml")
    code, out, _ = run(capsys, "cut", formula_file, "--blocks", "4")
    assert code == 0
    assert "from 4 blocks" in out


@pytest.mark.parametrize(
    ("change", "command", "says"),
    [
        ({"products": ()}, "cut", "No pieces ordered"),
        ({"dough": (), "block": (), "dusting": (), "finish": ()}, "batch", "no weight"),
    ],
)
def test_what_cannot_be_cut_or_made_is_told(capsys, tmp_path, change, command, says):
    path = tmp_path / "some.json"
    path.write_bytes(to_json(replace(demo().formulas[0], **change)))
    code, _, err = run(capsys, command, path)
    assert code == 2
    assert says in err


@pytest.mark.parametrize("blocks", ["-1", "999999999"])
def test_blocks_that_cannot_be_are_told(capsys, formula_file, blocks):
    code, _, err = run(capsys, "cut", formula_file, "--blocks", blocks)
    assert code == 2
    assert "blocks: use 0 to 10000" in err


def test_a_card_with_a_material_of_its_own(capsys, tmp_path):
    """The file brings its own materials; the card knows them."""
    shipped = reference().pantry
    own = replace(shipped["plain_flour"], key="own_mill", name="Tide mill flour")
    formula = demo().formulas[0]
    line = replace(formula.dough[0], material="own_mill")
    formula = replace(formula, dough=(line, *formula.dough[1:]))
    pantry = shipped.holding([Item("own_mill", own)])
    path = tmp_path / "own.json"
    path.write_bytes(to_json(formula, pantry))
    code, _, err = run(capsys, "card", path, tmp_path / "own.csv")
    assert (code, err) == (0, "")
    assert "Tide mill flour" in (tmp_path / "own.csv").read_text("utf-8-sig")
    code, out, _ = run(capsys, "batch", path)
    assert code == 0
    assert "Tide mill flour" in out


@pytest.mark.parametrize(
    "words",
    [
        ["layers", "envelope " + "9" * 5000],
        ["grams", "9" * 5000, "butter"],
        ["cut", "x.json", "--blocks", "9" * 5000],
        ["figures", "\udcff\udcfe.json"],
        ["layers", "\udcff"],
        ["grams", "1 g", "\udcff"],
    ],
)
def test_numbers_and_names_without_end_are_refused_in_a_line_or_two(words, capsys):
    try:
        code = main(words)
    except SystemExit as ended:
        code = ended.code
    assert code == 2
    told = capsys.readouterr().err
    assert told.startswith("aplomb: ")
    assert "Traceback" not in told
    assert len(told) < 700


@pytest.mark.parametrize(
    ("word", "meant"),
    [
        ("help", "--help"), ("layer", "layers"), ("Figures", "figures"), ("demo", "--demo"),
        ("foo", ""), ("book.json", ""), ("", ""), ("no folder/kiosk", ""),
    ],
)  # fmt: skip
def test_a_mistyped_command_makes_no_book(capsys, tmp_path, monkeypatch, word, meant):
    monkeypatch.chdir(tmp_path)
    code, out, err = run(capsys, word)
    assert (code, out) == (2, "")
    assert f"there is no command and no book “{word}”" in err
    assert (f"Did you mean {meant}?" in err) == bool(meant)
    assert list(tmp_path.iterdir()) == []
    assert run(capsys, "--smoke", word)[0] == 2
    assert list(tmp_path.iterdir()) == []


def test_a_book_named_without_its_ending_is_offered(capsys, tmp_path):
    (tmp_path / "kiosk.aplomb").write_bytes(b"x")
    assert f"Did you mean {tmp_path}/kiosk.aplomb?" in run(capsys, tmp_path / "kiosk")[2]


@pytest.mark.parametrize("verb", COMMANDS)
def test_every_verb_has_its_line_and_an_example_that_can_be_read(
    verb: str, capsys: pytest.CaptureFixture[str]
) -> None:
    line, example = VERBS[verb]
    words = shlex.split(example)
    assert words[:2] == ["aplomb", verb]
    assert command_parser().parse_args(words[1:]).command == verb
    for asked in (["--help"], [verb, "--help"]):
        with pytest.raises(SystemExit) as ended:
            main(asked)
        assert ended.value.code == 0
        told = " ".join(capsys.readouterr().out.split()).casefold()
        assert line.casefold() in told
        assert example.casefold() in told
