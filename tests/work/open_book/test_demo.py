"""The demo book is as fresh on any day as on the day it was drawn up."""

from datetime import date

import pytest

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.work.figures import local
from aplomb.work.open_book import demo
from aplomb.work.open_book import rows as store_rows
from aplomb.work.open_book.workbench import Workbench


@pytest.mark.parametrize("today", [demo.DRAWN_UP, date(2028, 2, 29), date(2041, 12, 31)])
def test_no_price_and_no_block_of_the_demo_is_older_than_when_it_was_drawn_up(
    tmp_path, monkeypatch, today
):
    for module in (demo, local, store_rows):
        monkeypatch.setattr(module, "kitchen_day", lambda: today)
    work = Workbench(Book(tmp_path / "a.aplomb"), reference())
    demo.fill_with_demo(work)
    pantry = work.store.reference.pantry
    packs = [pack for each in pantry if (pack := pantry.pack(each.key)) and pack.date]
    ages = {(today - date.fromisoformat(pack.date)).days for pack in packs}
    assert ages == {50, 64}
    (block,) = work.store.kitchen.stock.kept
    assert (today - date.fromisoformat(block.made)).days == 15
    spoken = {each.key for uid in work.shelf.entries for each in work.shelf.study_of(uid).opinions}
    assert "price_old" not in spoken
    work.close()
