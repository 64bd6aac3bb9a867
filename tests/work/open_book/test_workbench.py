"""The workbench without a window: what it announces, keeps, undoes and gives back."""

import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.book.book import Book, DiskError
from aplomb.book.history import History
from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.batch.stock import Demand, Want
from aplomb.work.open_book.announcing import Announcements
from aplomb.work.open_book.workbench import Workbench

EVENTS = (
    "leaving",
    "studied",
    "shelf_changed",
    "reference_changed",
    "trouble_changed",
    "said",
    "measures_changed",
)


@pytest.fixture
def heard():
    return []


@pytest.fixture
def work(tmp_path, heard):
    news = Announcements()
    for name in EVENTS:
        getattr(news, name).connect(lambda *what, name=name: heard.append((name, *what)))
    made = Workbench(Book(tmp_path / "a.aplomb"), reference(), news=news)
    made.shelf.add(demo().formulas[0], "first")
    heard.clear()
    yield made
    made.close()


def names(heard):
    return [each[0] for each in heard]


def test_a_change_is_announced_once_and_waits_to_be_written(work, heard):
    work.shelf.edit("thinner", lambda f: replace(f, sheet_mm=2.0))
    assert names(heard) == ["leaving", "studied"]
    assert work.shelf.study.readings.sheet_mm == 2.0
    assert work.journal.unwritten == 2
    assert work.journal.flush()
    assert work.journal.unwritten == 0


def test_what_cannot_be_used_changes_and_announces_nothing(work, heard):
    before = work.shelf.formula
    with pytest.raises(AplombError):
        work.shelf.change("bad", replace(before, sheet_mm=-1.0))
    assert work.shelf.formula is before
    assert heard == []


def test_a_new_name_is_told_to_the_shelf(work, heard):
    work.shelf.edit("name", lambda f: replace(f, name="Other"))
    assert names(heard) == ["leaving", "studied", "shelf_changed"]


def test_undo_and_redo_go_through_formulas_and_store(work, heard):
    work.shelf.edit("thinner", lambda f: replace(f, sheet_mm=2.0))
    work.store.set_house("warm", House(shop_c=27.0))
    assert work.journal.next_words() == (": warm", "")
    work.journal.undo()
    assert work.store.reference.house.shop_c == House().shop_c
    work.journal.undo()
    assert work.shelf.formula.sheet_mm == demo().formulas[0].sheet_mm
    work.journal.redo()
    work.journal.redo()
    assert work.store.reference.house.shop_c == 27.0
    assert work.shelf.study.readings.sheet_mm == 2.0
    assert ("said", "Redone: warm") in heard


def shown(work):
    """All that undo reaches, as it is shown."""
    return (
        {uid: entry.formula for uid, entry in work.shelf.entries.items()},
        work.store.reference.house,
        work.store.kitchen.demand,
    )


def several(work, *, fault=None):
    """What one command may do: formulas, house and demand."""
    with work.journal.together("lay out two"):
        uids = [
            work.shelf.add(replace(demo().formulas[i], name=f"Variant {i}"), f"variant {i}")
            for i in (1, 2)
        ]
        work.store.set_house("house", House(shop_c=27.0))
        if fault is not None:
            raise fault
        with work.journal.together("inside another"):
            work.store.put_demand("demand", Demand("Tuesday", wants=(Want(uids[0], "", 12),)))
            work.shelf.delete()


def test_what_one_command_did_is_one_step_back_and_on(work, heard, tmp_path):
    before = shown(work)
    several(work)
    after = shown(work)
    assert after != before
    assert work.journal.unwritten == 2, "the first formula, and all of the command"
    assert work.journal.next_words()[0] == ": lay out two"
    work.journal.undo()
    assert shown(work) == before
    assert work.shelf.study.formula == demo().formulas[0]
    assert ("said", "Undone: lay out two") in heard
    work.journal.redo()
    assert shown(work) == after
    work.close()
    again = Workbench(Book(tmp_path / "a.aplomb"), reference())
    assert shown(again) == after
    again.journal.undo()
    assert shown(again) == before
    again.journal.redo()
    assert shown(again) == after
    again.close()


@pytest.mark.parametrize("fault", [AplombError("no room"), KeyError("ours")])
def test_a_command_that_fails_halfway_leaves_nothing(work, heard, fault):
    before, waiting = shown(work), work.journal.unwritten
    with pytest.raises(type(fault)):
        several(work, fault=fault)
    assert shown(work) == before
    assert work.journal.unwritten == waiting
    work.shelf.edit("thinner", lambda f: replace(f, sheet_mm=2.0))
    assert work.journal.unwritten == waiting + 1, "what comes after is noted again"


def test_a_command_that_did_nothing_is_no_step(work):
    waiting = work.journal.unwritten
    with work.journal.together("nothing"):
        pass
    assert work.journal.unwritten == waiting


def test_several_things_wait_and_go_back_while_the_disk_refuses(work, monkeypatch):
    before = shown(work)
    several(work)

    def refuse(*_):
        raise DiskError("The disk is full.")

    monkeypatch.setattr(Book, "record", refuse)
    work.journal.undo()
    assert shown(work) == before
    assert work.journal.unwritten == 1
    monkeypatch.undo()
    assert work.journal.flush()


def test_several_things_no_book_can_hold_are_given_back_together(work, monkeypatch, heard):
    work.journal.flush()
    before = shown(work)
    several(work)

    def unfit(*_, **__):
        raise OverflowError("too large")

    monkeypatch.setattr(History, "_put", unfit)
    assert work.journal.flush()
    assert shown(work) == before
    assert "“lay out two” could not be saved and was undone: too large" in str(heard[-1])


def test_another_house_is_another_reference_and_a_new_study(work, heard):
    before = work.shelf.study
    work.store.set_house("warm", House(shop_c=27.0))
    assert names(heard) == ["reference_changed", "studied"]
    assert work.shelf.study is not before
    assert work.shelf.reference.house.shop_c == 27.0


def test_other_measures_are_announced_before_what_is_shown_in_them(work, heard):
    work.store.set_house("inches", House(lengths="in"))
    assert names(heard) == ["measures_changed", "reference_changed", "studied"]
    heard.clear()
    work.store.set_house("mm", House())
    assert "measures_changed" in names(heard)


def test_a_delete_takes_the_next_in_hand_and_comes_back(work):
    uid = work.shelf.uid
    second = work.shelf.new()
    work.shelf.delete()
    assert work.shelf.uid == uid
    work.journal.undo()
    assert work.shelf.uid == second


def test_who_holds_shelf_and_store_sees_another_book(work, tmp_path):
    """Widgets keep them; opening another book must not leave them with the old one."""
    shelf, store, journal = work.shelf, work.store, work.journal
    work.open_book(tmp_path / "b.aplomb")
    assert (work.shelf, work.store, work.journal) == (shelf, store, journal)
    assert shelf.entries == {}
    assert shelf.formula is None
    work.open_book(tmp_path / "a.aplomb")
    assert shelf.formula.name == "Regatta case paste"


def test_a_scheduler_is_asked_for_each_change(tmp_path):
    asked = []
    made = Workbench(Book(tmp_path / "c.aplomb"), reference(), write_soon=lambda: asked.append(1))
    made.shelf.new()
    made.shelf.new()
    assert len(asked) == 2
    assert made.close()
    made.shelf.new()
    assert len(asked) == 2, "a closed workbench keeps nothing more"
