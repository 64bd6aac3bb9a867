"""Suppliers' sheets: usual shapes are read, hostile ones refused line by line. Invented data."""

import pytest
from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.paste.pantry import Item, Pack
from aplomb.exchange.pantry_csv import MOST_ROWS, read_supplier_file, write_pantry

GOOD = (
    "Name,Group,Water %,Fat %,Salt,SFC 10,SFC 20 °C,SFC_30,Pack,Price,Price date,Allergens\n"
    "Croft butter,fat,15.5,82.5,0.1,54,22,4,5 kg,41.50,2026-10-01,milk\n"
)


def sheet(text, pantry, **how):
    data = text.encode() if isinstance(text, str) else text
    return read_supplier_file(data, pantry, "sheet.csv", **how)


def test_a_plain_sheet(pantry):
    found = sheet(GOOD, pantry)
    assert found.troubles == ()
    item = found.rows[0].item
    assert item.material.composition.fat == pytest.approx(0.825)
    assert item.material.sfc == ((10, 54), (20, 22), (30, 4))
    assert item.pack == Pack(5000, 41.5, "2026-10-01")
    assert item.material.allergens == ("milk",)
    assert item.material.standing == "own"
    assert found.rows[0].instead_of == ""


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_encodings(encoding, pantry):
    found = sheet("name;fat;price;pack\nCrème légère;12,5;1,20;500 g\n".encode(encoding), pantry)
    assert found.rows[0].item.material.name == "Crème légère"
    assert found.rows[0].item.material.composition.fat == pytest.approx(0.125)
    assert found.rows[0].item.pack.price == pytest.approx(1.2)
    assert "semicolons, decimal comma" in found.words


def test_tabs_and_quotes(pantry):
    found = sheet('name\tfat\tallergens\n"Spread; ""light"""\t40\tmilk/soy\n', pantry)
    assert found.rows[0].item.material.name == 'Spread; "light"'
    assert found.rows[0].item.material.allergens == ("milk", "soya")


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("=HYPERLINK(1),fat,1,1", "starts with “=”"),
        ("Fatty,fat,60,60", "adds up to 120 %"),
        ("Fatty,fat,120,1", "use 0 to 100 %"),
        ("Fatty,fat,-5,1", "-5 cannot be used"),
        ("Fatty,fat,=1+1,1", "starts with “=”"),
        ("Fatty,fat,lots,1", "is not a number"),
        ("Fatty,fat,nan,1", "is not a number"),
        ("Fatty,fat,1.2.3,1", "is not a number"),
        ("Fatty,gold,1,1", "be one of flour"),
        (",fat,1,1", "name: is missing"),
        ("x" * 90 + ",fat,1,1", "1 to 80 characters"),
    ],
)
def test_bad_lines_are_told_and_the_good_ones_taken(line, says, pantry):
    found = sheet(f"name,group,water,fat\n{line}\nSound,fat,10,80\n", pantry)
    assert [row.item.material.name for row in found.rows] == ["Sound"]
    (trouble,) = found.troubles
    assert trouble.row == 2
    assert says in " ".join(trouble.problems)


@pytest.mark.parametrize(
    ("row", "says"),
    [
        ("A,3.5,,", "pack: missing; a"),
        ("A,3.5,2 cups,", "is not a weight"),
        ("A,3.5,big,", "pack:"),
        ("A,-3.5,1 kg,", "price: -3.5"),
        ("A,3.5,1 kg,03/04/2026", "two dates;"),
        ("A,3.5,1 kg,2026-15-40", "not a date"),
        ("A,3.5,1 kg,soon", "cannot be read"),
    ],
)
def test_bad_prices(row, says, pantry):
    found = sheet(f"name,price,pack,date\n{row}\n", pantry)
    assert says in " ".join(found.troubles[0].problems)


def test_the_same_name_twice_is_told_with_its_first_place(pantry):
    found = sheet("name,fat\nOne,1\nTwo,2\none,3\n", pantry)
    assert found.troubles[0].row == 4
    assert "already used on line 2" in found.troubles[0].problems[0]


def test_a_name_that_is_there_is_replaced_and_a_price_alone_keeps_the_rest(pantry):
    found = sheet("name,price,pack,date\nLard,7.5,2 kg,13/04/2026\n", pantry)
    row = found.rows[0]
    assert (row.instead_of, row.item.key, row.item.material) == ("Lard", "lard", None)
    assert row.item.pack == Pack(2000, 7.5, "2026-04-13")
    changed = sheet("name,group,fat\nLard,fat,99\n", pantry).rows[0]
    assert changed.item.material.composition.fat == pytest.approx(0.99)
    assert changed.item.pack == pantry.pack("lard")


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "is empty"),
        (b"\xef\xbb\xbf\r\n", "is empty"),
        (b"PK\x03\x04\x00\x00\x00\x08", "is not text"),
        (b"fat,water\n1,2\n", "no column “name”"),
        (b"\xff\xfen\x00a\x00m", "off"),
        (b"x" * 21_000_000, "over 20 MB"),
    ],
)
def test_what_is_no_sheet_is_refused_whole(data, says, pantry):
    with pytest.raises(AplombError, match=says) as caught:
        sheet(data, pantry)
    assert "sheet.csv" in str(caught.value)


def test_a_million_lines_are_refused_not_waited_for(pantry):
    with pytest.raises(AplombError, match=f"more than {MOST_ROWS} lines"):
        sheet("name,fat\n" + "a,1\n" * 1_000_000, pantry)


def test_an_endless_cell_and_loose_quotes_end(pantry):
    found = sheet('name,fat\n"' + "x" * 200_000, pantry)
    assert found.rows == ()
    assert found.troubles


def test_the_whole_pantry_comes_back(pantry):
    bare = type(pantry)([])
    back = read_supplier_file(write_pantry(pantry), bare)
    assert back.troubles == ()
    assert back.unknown == ()
    for row in back.rows:
        old = pantry[row.item.key]
        new = replace(
            row.item.material,
            source=old.source,
            composition=old.composition,
            bulk_spread=old.bulk_spread,
        )
        assert new == replace(old, acid_kind=new.acid_kind if not old.acid_kind else old.acid_kind)
        for name in old.composition.__struct_fields__:
            wanted = getattr(old.composition, name)
            assert getattr(row.item.material.composition, name) == pytest.approx(wanted, rel=1e-5)
        assert row.item.pack == pantry.pack(row.item.key)


def test_nothing_that_goes_out_is_a_spreadsheets_sum(pantry):
    odd = replace(pantry["lard"], key="odd", name="-lard", source="=1+1")
    text = write_pantry(pantry.holding([Item("odd", odd)]), ["odd"]).decode("utf-8-sig")
    assert "'-lard" in text
    assert "'=1+1" in text
    (back,) = read_supplier_file(text.encode(), type(pantry)([])).rows
    assert (back.item.material.name, back.item.material.source) == ("-lard", "=1+1")
