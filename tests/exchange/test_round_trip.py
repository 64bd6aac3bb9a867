"""What we write we read: texts of any signs and length, in every format that goes out."""

import csv
import io
import xml.etree.ElementTree as ElementTree
from datetime import UTC, datetime

import icalendar
import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.core.base.errors import AplombError
from aplomb.core.base.texts import LONGEST_TEXT
from aplomb.core.paste.checking import check
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Item, Pack, check_item
from aplomb.core.study.study import make_study
from aplomb.desk.paper.section import section_picture
from aplomb.exchange.batch_workbook import batch_workbook
from aplomb.exchange.card_csv import card_csv
from aplomb.exchange.day_calendar import DayEvent, day_calendar
from aplomb.exchange.formula_json import from_json, to_json
from aplomb.exchange.pantry_csv import read_supplier_file, write_pantry

SIGNS = st.characters(
    exclude_categories=("Cc", "Cs", "Zl", "Zp"), exclude_characters="\ufffe\uffff"
)
TEXTS = st.one_of(
    st.text(SIGNS, max_size=40), st.text("=+-@'\"<>&;,\ufffd\U0010ffff é中", max_size=12),
    st.integers(81, 3000).map(lambda n: "long " * (n // 5)),
)  # fmt: skip
NAMES = TEXTS.map(lambda t: ("N" + " ".join(t.split()))[:80].strip())


@pytest.fixture(scope="module")
def known():
    return reference()


def studied(known, name, note):
    formula = replace(demo().formulas[0], name=name, note=note)
    return make_study(check(formula), known)


@settings(max_examples=40)
@given(NAMES, TEXTS, TEXTS)
def test_a_formula_as_json(known, name, note, purpose):
    formula = replace(demo().formulas[0], name=name, note=note, purpose=purpose)
    assert from_json(to_json(check(formula)), known.pantry).formula == formula


@settings(max_examples=30)
@given(NAMES, TEXTS, TEXTS, TEXTS, st.floats(0.01, 1e8), st.floats(0, 1e6))
def test_a_material_as_a_suppliers_table(known, name, also, source, supplier, pack_g, price):
    butter = known.pantry["butter"]
    material = replace(butter, key="own_one", name=name, also=also, source=source, standing="own")
    assert isinstance(material, Ingredient)
    item = check_item(Item("own_one", material, Pack(pack_g, price, "2026-11-23", supplier)))
    pantry = known.pantry.holding([item])
    data = write_pantry(pantry, ["own_one"])
    sheet = read_supplier_file(data, known.pantry, "pantry.csv", "2026-12-01")
    assert sheet.troubles == ()
    (row,) = sheet.rows
    back = row.item.material
    assert back is not None
    assert (back.name, back.also, back.source) == (
        name,
        also.strip(),
        source.strip() or "supplier’s data",
    )
    assert row.item.pack is not None
    assert row.item.pack.supplier == supplier.strip()
    assert row.item.pack.price == price
    assert row.item.pack.pack_g == pytest.approx(pack_g, rel=1e-9)
    assert back.composition.fat == pytest.approx(butter.composition.fat, rel=1e-5)


@settings(max_examples=15, deadline=None)
@given(NAMES, TEXTS)
def test_a_batch_as_a_workbook_and_as_csv_and_a_section_as_svg(qapp, known, name, note):
    study = studied(known, name, note)
    book = openpyxl.load_workbook(io.BytesIO(batch_workbook([study], known.pantry, {})))
    shown = {str(cell.value) for sheet in book for row in sheet for cell in row if cell.value}
    assert any(name in each for each in shown)
    rows = list(csv.reader(io.StringIO(card_csv(study, known.pantry).decode("utf-8-sig"))))
    assert any(name in cell for row in rows for cell in row)
    ElementTree.fromstring(section_picture(study, "svg"))


@settings(max_examples=30)
@given(NAMES, TEXTS)
def test_a_day_as_a_calendar(name, step):
    begin, end = (datetime(2026, 12, 5, hour, tzinfo=UTC) for hour in (5, 6))
    data = day_calendar([DayEvent(begin, end, name, step)], "Day", begin)
    (event,) = icalendar.Calendar.from_ical(data).walk("VEVENT")
    assert name in str(event["summary"])


@pytest.mark.parametrize("sign", ["\ufffe", "\uffff", "\x00", "\ud800", "\n"])
def test_signs_that_some_format_cannot_hold_are_kept_out_of_all(known, sign):
    formula = replace(demo().formulas[0], note=f"a{sign}b")
    with pytest.raises(AplombError, match="note: character 2 is"):
        check(formula)


def test_a_text_is_as_long_as_it_can_be_read_again(known):
    longest = replace(demo().formulas[0], note="x" * LONGEST_TEXT)
    assert from_json(to_json(check(longest)), known.pantry).formula == longest
    with pytest.raises(AplombError, match="4001 characters are too many"):
        check(replace(longest, note="x" * (LONGEST_TEXT + 1)))
