"""Photographs with a trial: kept, limited, and what was measured put with a piece."""

import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.core.base.errors import AplombError
from aplomb.core.trials.trial import MOST_PICTURES
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench
from aplomb.work.trials.photo import TakenIn, put_picture, with_measured

TAKEN = TakenIn("a.jpg", 400, 300, b"s", b"body", b"")


@pytest.fixture
def work(tmp_path):
    work = Workbench(Book(tmp_path / "demo.aplomb"), reference())
    fill_with_demo(work)
    yield work
    work.close()


def test_a_photograph_is_kept_with_its_trial_and_undone_with_it(work):
    trial = work.store.tried.trials[0]
    key = put_picture(work, trial, TAKEN)
    assert work.store.tried.trial(trial.key).pictures == (key,)
    assert work.book.pictures.body(key) == b"body"
    work.journal.undo()
    assert work.store.tried.trial(trial.key).pictures == ()
    assert work.book.pictures.body(key) == b"body"  # redo finds it again


def test_a_trial_has_so_many_and_no_more(work):
    full = replace(work.store.tried.trials[0], pictures=("x",) * MOST_PICTURES)
    with pytest.raises(AplombError, match="remove one"):
        put_picture(work, full, TAKEN)


def test_a_rescued_book_has_its_photographs(work, tmp_path):
    put_picture(work, work.store.tried.trials[0], TAKEN)
    work.journal.flush()
    work.book.copy_to(tmp_path / "copy.aplomb")
    copy = Book(tmp_path / "copy.aplomb")
    assert len(copy.pictures.all()) == 2
    copy.close()


def test_what_is_measured_goes_to_its_piece(work):
    trial = work.store.tried.trials[0]
    made = with_measured(trial, 5, "baked_mm", 15.4321)
    assert made.pieces[5].baked_mm == 15.43
    assert made.pieces[4].baked_mm is None
    assert with_measured(trial, 0, "leaves", 44.6).pieces[0].leaves == 45
    with pytest.raises(AplombError, match="lift"):
        with_measured(trial, 0, "baked_mm", 400.0)
