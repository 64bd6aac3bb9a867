"""Formula files and the card as CSV: what goes out comes in, and nothing hostile does."""

import csv
import io
import json

import jsonschema
import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import reference
from aplomb.core.base.errors import AplombError
from aplomb.core.paste.formula import Part
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Item, Pack
from aplomb.core.study.study import make_study
from aplomb.disk import read_bytes, write_bytes
from aplomb.exchange.card_csv import card_csv
from aplomb.exchange.formula_json import from_json, schema, to_json


def test_a_formula_survives_its_file(demo, pantry):
    for formula in demo:
        assert from_json(to_json(formula), pantry).formula == formula
        assert from_json(b"\xef\xbb\xbf" + to_json(formula), pantry).formula == formula


def test_files_fit_the_published_schema(demo):
    known = json.loads(schema())
    for formula in demo:
        jsonschema.validate(json.loads(to_json(formula)), known)


def test_the_documented_example_and_schema_are_true(pantry, request):
    docs = request.config.rootpath / "docs"
    text = (docs / "formula-format.md").read_text(encoding="utf-8")
    example = text.split("```json\n")[1].split("```")[0]
    study = make_study(from_json(example.encode(), pantry).formula, reference())
    figures = text.split("```text\n")[1].split("```")[0]
    for line in figures.strip().splitlines():
        key, value = line.split()[:2]
        assert getattr(study.readings, key) == pytest.approx(float(value), rel=1e-3), key
    assert json.loads((docs / "formula.schema.json").read_text()) == json.loads(schema())


def changed(formula, **changes):
    file = json.loads(to_json(formula))
    file["formula"].update(changes)
    return json.dumps(file).encode()


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "is empty"),
        (b"   \n", "is empty"),
        (b"\xff\xfe\x00", "not text in UTF-8"),
        (b"hello", "not valid JSON|cut off"),
        (b'{"format": "aplomb-formula", "version": 1, "formula": {"na', "is cut off at line 1"),
        (b"[1, 2]", "not an Aplomb formula"),
        (b'{"format": "other"}', "not an Aplomb formula"),
        (b'{"format": "aplomb-formula", "version": 99, "formula": {}}', "version 99"),
        (b'{"format": "aplomb-formula", "version": 1, "formula": {}}', "name"),
        (b'{"format": "aplomb-formula", "version": 1}', "formula"),
        (b"[" * 100_000, "be read"),
        (b'{"a": ' + b"9" * 10_000 + b"}", "be read"),
        (b" " * 6_000_000, "for a"),
    ],
    ids=range(13),
)
def test_foreign_and_broken_files_are_refused_in_words(data, says, pantry):
    with pytest.raises(AplombError, match=says) as caught:
        from_json(data, pantry, "x.json")
    assert "x.json" in str(caught.value)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"dough": [{"material": "plain_flour", "grams": -5}]}, "dough line 1"),
        ({"dough": [{"material": "plain_flour", "grams": 1e9}]}, "0 to 100000000 g"),
        ({"dough": [{"material": "plain_flour", "grams": "5"}]}, r"grams|\$.formula.dough"),
        ({"dough": [{"material": "gold", "grams": 5}]}, "no “gold”"),
        ({"turn_line": "enveloppe 3"}, "turn_line"),
        ({"school": "martian"}, "school"),
        ({"colour": "blue"}, "colour"),
        ({"name": ""}, "name"),
        ({"batch": {"pieces": -1}}, "batch.pieces"),
    ],
)
def test_unusable_values_are_named_by_their_place(changes, says, plain, pantry):
    with pytest.raises(AplombError, match=says):
        from_json(changed(plain, **changes), pantry)


def test_not_a_number_is_not_json_and_not_taken(plain, pantry):
    text = to_json(plain).replace(b'"sheet_mm": 3.0', b'"sheet_mm": NaN')
    with pytest.raises(AplombError):
        from_json(text, pantry)


def test_the_card_as_csv_holds_every_line(demo, known):
    for formula in demo:
        study = make_study(formula, known)
        data = card_csv(study, known.pantry)
        assert data.startswith(b"\xef\xbb\xbf")
        rows = list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))))
        lines = [row for row in rows if row["kind"] == "line"]
        assert len(lines) == len(formula.all_lines()) + len(formula.product_lines())
        for row, weighed in zip(lines, study.scaled.lines, strict=True):
            assert float(row["weigh_g"]) == pytest.approx(weighed.weigh_g)
        assert any(row["value"] == study.plan.line() for row in rows)
        keys = {row["part"] for row in rows if row["kind"] == "reading"}
        assert {"fat_product_pct", "salt_pct", "fat_leaf_um"} <= keys


def test_a_name_that_a_spreadsheet_would_run_is_kept_harmless(plain, known):
    formula = replace(plain, name="=HYPERLINK(1)", purpose="@x").with_lines(
        Part.DUSTING, (Line("plain_flour", 5, "+1"),)
    )
    text = card_csv(make_study(formula, known), known.pantry).decode("utf-8-sig")
    assert "'=HYPERLINK(1)" in text
    assert ",'@x" in text
    assert ",'+1" in text


def test_a_file_is_replaced_whole_or_not_at_all(tmp_path):
    path = tmp_path / "a.csv"
    write_bytes(path, b"one")
    write_bytes(path, b"two")
    assert read_bytes(path, 100) == b"two"
    assert [p.name for p in tmp_path.iterdir()] == ["a.csv"]
    with pytest.raises(AplombError, match=r"cannot write b.csv: there is no such"):
        write_bytes(tmp_path / "nowhere" / "b.csv", b"x")
    with pytest.raises(AplombError, match="no such file"):
        read_bytes(tmp_path / "none", 100)
    with pytest.raises(AplombError, match="a folder"):
        read_bytes(tmp_path, 100)


def test_a_full_disk_leaves_the_old_file(tmp_path, monkeypatch):
    path = tmp_path / "a.csv"
    write_bytes(path, b"old")

    def full(_fd):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.fsync", full)
    with pytest.raises(AplombError, match="disk is full"):
        write_bytes(path, b"new")
    assert path.read_bytes() == b"old"
    assert [p.name for p in tmp_path.iterdir()] == ["a.csv"]


def test_own_materials_travel_with_the_formula_and_prices_stay(plain, known, pantry):
    own = replace(pantry["lard"], key="croft_lard", name="Croft lard")
    held = pantry.holding([Item("croft_lard", own, Pack(1000, 3.0))])
    formula = plain.with_lines(Part.BLOCK, (Line("croft_lard", 500),))
    data = to_json(formula, held)
    assert b"3.0" not in data.replace(b'"sheet_mm": 3.0', b"")
    with pytest.raises(AplombError, match="no “croft_lard”"):
        from_json(to_json(formula), pantry)
    found = from_json(data, pantry)
    assert found.formula == formula
    assert found.items == (Item("croft_lard", own),)
    differs = held.holding([Item("croft_lard", replace(own, name="Another"))])
    again = from_json(data, differs)
    assert (again.items, again.kept) == ((), ("Croft lard",))


def test_prices_of_version_1_go_to_a_pantry_that_has_none(plain, known):
    file = json.loads(to_json(plain))
    file["version"] = 1
    file["formula"] |= {
        "currency": "€",
        "prices": [{"material": "butter", "pack_g": 250, "price": 2.5}],
    }
    bare = known.pantry.holding([])
    assert from_json(json.dumps(file).encode(), bare).items == (
        Item("butter", pack=Pack(250, 2.5)),
    )
    assert from_json(json.dumps(file).encode(), known.pantry).items == ()


def test_a_hostile_material_in_a_file_is_refused(plain, pantry):
    file = json.loads(to_json(plain))
    file["materials"] = [{"key": "x", "name": "=X", "group": "fat", "composition": {"fat": 9}}]
    with pytest.raises(AplombError, match="do not start it with ="):
        from_json(json.dumps(file).encode(), pantry)
