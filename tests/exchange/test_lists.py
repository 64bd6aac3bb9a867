"""Batch sheet with live sums, opened by an office program; weigh-out and order lists as CSV."""

import csv
import io
import shutil
import subprocess
import warnings

import formulas
import pytest
from msgspec.structs import replace
from openpyxl import load_workbook

from aplomb.core.batch.weighing import weigh_steps
from aplomb.core.kitchen.orders import order_list
from aplomb.core.paste.formula import Batch, Part
from aplomb.core.paste.line import Line
from aplomb.core.study.study import make_study
from aplomb.exchange.batch_workbook import batch_workbook, table_name
from aplomb.exchange.lists_csv import order_csv, weigh_csv

OFFICE = shutil.which("soffice") or shutil.which("libreoffice")


@pytest.fixture
def studies(demo, known):
    return [make_study(formula, known) for formula in demo[:3]]


def recalculated(data, folder):
    """The sheets by name after an office program has opened and recalculated the file."""
    path = folder / "batch.xlsx"
    path.write_bytes(data)
    if OFFICE is None:
        return worked_out(path, folder / "out")
    subprocess.run(
        [
            OFFICE,
            "--headless",
            f"-env:UserInstallation=file://{folder}/office",
            "--convert-to",
            "xlsx:Calc MS Excel 2007 XML",
            "--outdir",
            str(folder / "out"),
            str(path),
        ],
        check=True,
        capture_output=True,
        timeout=240,
    )
    book = load_workbook(folder / "out" / "batch.xlsx", data_only=True)
    return {sheet.title: sheet for sheet in book.worksheets}


def worked_out(path, folder):
    """The same by a registry package that works spreadsheets' sums out, where no office program
    is."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # that package's own
        model = formulas.ExcelModel().loads(str(path)).finish()
        model.calculate()
        model.write(dirpath=str(folder))
    found = next(each for each in folder.iterdir() if each.suffix.lower() == ".xlsx")
    made = {s.title.upper(): s for s in load_workbook(found, data_only=True).worksheets}
    return {name: made[name.upper()] for name in load_workbook(path).sheetnames}


def test_an_office_program_works_the_sums_out_anew(studies, known, tmp_path):
    """LibreOffice recalculates: exact and rounded grams, paste, costs and packs are ours; after
    the factor is doubled, twice that."""
    stock = {"plain_flour": 500.0}
    data = batch_workbook(studies, known.pantry, stock, "€")
    first = studies[0]
    sheets = recalculated(data, tmp_path)
    sheet = sheets[first.formula.name]
    rows = list(sheet.iter_rows(9, 8 + len(first.scaled.lines), values_only=True))
    for row, weighed in zip(rows, first.scaled.lines, strict=True):
        assert row[5] == pytest.approx(weighed.exact_g)
        assert row[6] == pytest.approx(weighed.weigh_g)
    sums = sheet[9 + len(rows)]
    assert sums[0].value == "paste"
    assert sums[5].value == pytest.approx(first.scaled.paste_g)
    assert sheet["D7"].value == pytest.approx(first.accounts.flour_g)
    costs = sheet[10 + len(rows)][9].value
    assert costs == pytest.approx(first.readings.cost * first.scaled.factor)
    order = order_list([s.scaled for s in studies], known.pantry, stock)
    lines = list(sheets["Order list"].iter_rows(2, 1 + len(order.lines), values_only=True))
    for row, line in zip(lines, order.lines, strict=True):
        assert row[5] == (line.packs if line.pack_g else None)
    doubled = load_workbook(io.BytesIO(data))
    doubled[first.formula.name]["D3"] = 2 * first.scaled.factor
    out = io.BytesIO()
    doubled.save(out)
    again = recalculated(out.getvalue(), tmp_path)[first.formula.name]
    assert again[9 + len(rows)][5].value == pytest.approx(2 * first.scaled.paste_g)


def test_every_sum_is_a_formula(studies, known):
    """Read back with openpyxl: no grams but the formula's own are written as numbers."""
    book = load_workbook(io.BytesIO(batch_workbook(studies, known.pantry, {})))
    assert book.sheetnames[-1] == "Order list"
    sheet = book.worksheets[0]
    for row in sheet.iter_rows(9, 8 + len(studies[0].scaled.lines)):
        assert all(str(row[i].value).startswith("=") for i in (5, 6, 7))


def test_names_that_office_programs_do_not_take():
    assert table_name("Lids [large]/small: 3*?", []) == "Lids -large--small- 3--"
    assert len(table_name("x" * 60, [])) == 31
    assert table_name("Paste", ["paste"]) == "Paste 2"
    assert table_name("", []) == "Batch"
    assert len(table_name("y" * 40, ["y" * 31])) == 31


def test_a_name_that_looks_like_a_sum_stays_a_name(plain, known):
    odd = make_study(replace(plain, name="=1+1", purpose="@x"), known)
    book = load_workbook(io.BytesIO(batch_workbook([odd], known.pantry, {})))
    assert book.worksheets[0]["A1"].value == "'=1+1"


def read(data):
    return list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))))


def test_the_weigh_out_list_as_csv(plain, known):
    batch = Batch(fixed="flour", flour_g=2000, blocks=2)
    study = make_study(replace(plain, batch=batch), known)
    rows = read(weigh_csv([study], known.pantry))
    steps = weigh_steps(study.scaled, known.pantry, 1)
    assert [float(row["weigh_g"]) for row in rows] == [s.target_g for s in steps]
    assert [row["mix"] for row in rows] == [str(s.mix) for s in steps]


def test_the_order_list_as_csv(plain, known):
    study = make_study(plain.with_lines(Part.FINISH, (Line("poppy_seed", 3),)), known)
    rows = read(order_csv([study], known.pantry, {"salt": 1000.0}))
    by_name = {row["material"]: row for row in rows}
    assert by_name["Salt, fine"]["packs"] == "0"
    assert "Water" not in by_name
    assert sum(float(r["needed_g"]) for r in rows) > 0
