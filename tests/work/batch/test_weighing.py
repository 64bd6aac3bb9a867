"""Weighing out without a scale or a window."""

import pytest

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.work.batch.weighing import WeighOut
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench


@pytest.fixture
def work(tmp_path):
    made = Workbench(Book(tmp_path / "a.aplomb"), reference())
    fill_with_demo(made)
    yield made
    made.close()


@pytest.fixture
def out(work):
    made = WeighOut(work)
    made.begin()
    made.begin_anew()
    return made


def weigh_all(out):
    while out.step is not None:
        out.keep(out.step.target_g, 0.0, "scale")


def test_every_line_is_weighed_and_the_batch_has_its_mass(out, work):
    weigh_all(out)
    made_batch = work.shelf.reference.made_batches[-1]
    assert made_batch.outcome.mixed_g == pytest.approx(work.shelf.study.scaled.paste_g, rel=0.002)
    assert out.at == len(out.run.plan)


def test_too_little_is_not_kept_and_is_said(out, work):
    said = []
    work.news.said.connect(said.append)
    step = out.step
    assert not out.keep(step.target_g / 2, 0.0, "scale")
    assert out.step is step
    assert "short; press → to skip this line," in said[0]
    assert out.keep(step.target_g / 2, 0.0, "scale", enough=True), "or it is the end of the line"
    assert out.step is not step


def test_too_much_stays_in_hand_until_the_rest_is_scaled(out, work):
    first = out.step
    assert out.keep(first.target_g * 1.1, 0.0, "scale")
    assert out.at == 0
    assert out.run.more_pct(0) == pytest.approx(10, abs=0.1)
    before = out.run.steps[1].target_g
    out.scale_rest()
    assert out.at == 1
    assert out.step.target_g == pytest.approx(1.1 * before, rel=0.01)


def test_what_is_weighed_is_found_again_after_a_restart(out, work, tmp_path):
    out.keep(out.step.target_g, 0.0, "scale")
    again = WeighOut(work)
    again.begin()
    assert again.at == 1
    work.journal.undo()
    again.begin()
    assert again.at == 0


def test_stock_is_taken_off_once_and_only_when_all_is_weighed(out, work):
    before = dict(work.store.kitchen.stock.materials)
    assert not out.can_take_off
    weigh_all(out)
    assert out.can_take_off
    out.take_off_stock()
    after = work.store.kitchen.stock.materials
    assert any(after.get(key, 0.0) < mass for key, mass in before.items())
    assert not out.can_take_off
    work.journal.undo()
    assert work.store.kitchen.stock.materials == before


def test_another_formula_has_a_run_of_its_own(out, work):
    out.keep(out.step.target_g, 0.0, "scale")
    other = list(work.shelf.entries)[1]
    work.shelf.select(other)
    assert out.follow()
    assert out.run.made_batch.uid == other
    assert not out.follow(), "nothing is new"
