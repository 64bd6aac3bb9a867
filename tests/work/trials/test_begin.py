"""Trials begun, laid out and reported, on the demo book, without a window."""

import json

import pytest
from msgspec.structs import replace

from aplomb.assets.shipped import demo_trials, reference
from aplomb.book.book import Book
from aplomb.core.base.errors import AplombError
from aplomb.core.opinion.own_bands import OwnBand, OwnBands
from aplomb.core.paste.formula import programme_of
from aplomb.core.trials.bands import learned_band
from aplomb.core.trials.came import came_of
from aplomb.core.trials.model import model_of
from aplomb.core.trials.series import variants_of
from aplomb.core.trials.trial import Made, Piece
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench
from aplomb.work.trials.begin import begin_trial, made_of
from aplomb.work.trials.lay_out import lay_out, variant_of
from aplomb.work.trials.report import report_json, series_report
from aplomb.work.trials.words import band_words, difference_words, made_text, verdict_words


@pytest.fixture
def work(tmp_path):
    work = Workbench(Book(tmp_path / "demo.aplomb"), reference())
    fill_with_demo(work)
    yield work
    work.close()


def test_the_demo_has_a_series_with_a_failed_bake_and_missing_values(work):
    tried = work.store.tried
    assert len(tried.trials) == len(demo_trials().trials)
    assert sum(bool(t.failed) for t in tried.trials) == 1
    assert any(came_of(t, "lift") is None and not t.failed for t in tried.trials)
    assert all(t.uid in work.shelf.entries for t in tried.trials)
    batches = {r.key for r in work.store.reference.made_batches}
    assert all(t.batch in batches for t in tried.trials)
    assert work.store.unreadable == {}
    pictured = [t for t in tried.trials if t.pictures]
    assert len(pictured) == 1
    assert work.book.pictures.body(pictured[0].pictures[0])[:2] == b"\xff\xd8"


def test_the_series_tells_a_story_that_can_be_told(work):
    """The thickest leaf lifts less, those beside the best do not, of the thinnest it is open."""
    tried = work.store.tried
    (series,) = tried.series
    found = {v.name: v for v in variants_of(series, tried.trials)}
    assert next(iter(found)) == "10 µm"
    told = {name: v.against.verdict for name, v in found.items() if v.against}
    assert told["28 µm"] == "different"
    assert told["7 µm"] == told["14 µm"] == "alike"
    assert told["5 µm"] == "not_enough"
    words = [verdict_words(series, "10 µm", v) for v in found.values()]
    assert any("lower lift than 10 µm" in w for w in words)
    assert any("not enough to say yet" in w for w in words)
    assert any("1 failed" in w for w in words)


def test_a_trial_is_begun_from_the_formula_and_makes_its_batch(work):
    before = len(work.store.reference.made_batches)
    trial = begin_trial(work)
    assert work.store.tried.trial(trial.key) == trial
    assert len(work.store.reference.made_batches) == before + 1
    study = work.shelf.study
    assert trial.made.fat_leaf_um == pytest.approx(study.readings.fat_leaf_um)
    assert (trial.made.bake_min, trial.made.turns) == (25, 4)
    assert trial.made.chill_min == 120
    work.journal.undo()
    assert work.store.tried.trial(trial.key) is None
    assert len(work.store.reference.made_batches) == before


def test_a_trial_is_begun_from_a_batch_and_one_that_is_gone_is_told(work):
    made_batch = work.store.reference.made_batches[0]
    assert begin_trial(work, made_batch.key).batch == made_batch.key
    with pytest.raises(AplombError, match="not in the book"):
        begin_trial(work, "gone")


def test_the_programme_is_the_product_s_or_the_formula_s(work):
    formula = work.shelf.formula
    assert programme_of(formula) == formula.bake
    own = replace(formula.bake, steps=formula.bake.steps[:1])
    product = replace(formula.products[0], bake=own)
    assert programme_of(replace(formula, products=(product,))) == own
    assert programme_of(replace(formula, bake=type(own)())).steps == ()


@pytest.mark.parametrize("leaf", [4.0, 9.0, 11.0, 25.0])
def test_a_variant_reaches_the_leaf(work, leaf):
    made = variant_of(work.shelf.study, Made(fat_leaf_um=leaf), ("fat_leaf_um",))
    uid = work.shelf.add(replace(made.formula, name=f"v {leaf}"), "v")
    assert work.shelf.study_of(uid).readings.fat_leaf_um == pytest.approx(leaf, rel=0.03)


def test_a_variant_reaches_fat_rest_and_bake(work):
    setting = Made(fat_pct=80.0, chill_min=45.0, bake_c=195.0, bake_min=30.0, block_c=12.0)
    keys = ("fat_pct", "chill_min", "bake_c", "bake_min", "block_c")
    made = variant_of(work.shelf.study, setting, keys)
    uid = work.shelf.add(replace(made.formula, name="v"), "v")
    study = work.shelf.study_of(uid)
    assert study.readings.fat_product_pct == pytest.approx(80, abs=0.1)
    told = made_of(study, work.store.reference.house)
    assert (told.chill_min, told.bake_min) == (45, 30)
    assert told.bake_c == pytest.approx(195, abs=0.2)
    assert made.left == ("block: 12 °C",)


def test_variants_are_laid_into_the_day_and_their_trials_know_where_they_belong(work):
    (series,) = work.store.tried.series
    wants = len(work.store.kitchen.demand.wants)
    settings = [Made(fat_leaf_um=v) for v in (8.0, 12.0)]
    told = lay_out(work, series, settings, ("fat_leaf_um",), 12)
    assert len(told) == 2
    assert len(work.store.kitchen.demand.wants) == wants + 2
    planned = work.store.tried.series[0].planned
    assert [p.variant for p in planned] == ["8 µm", "12 µm"]
    work.shelf.select(planned[1].uid)
    trial = begin_trial(work)
    assert (trial.series, trial.variant) == (series.key, "12 µm")


def test_what_was_laid_out_is_undone_in_one_step(work):
    (series,) = work.store.tried.series
    before = (list(work.shelf.entries), work.store.tried, work.store.kitchen.demand)
    lay_out(work, series, [Made(fat_leaf_um=8.0), Made(fat_leaf_um=12.0)], ("fat_leaf_um",), 12)
    assert len(work.shelf.entries) == len(before[0]) + 2
    assert work.journal.next_words()[0].startswith(": set up 2 of ")
    work.journal.undo()
    now = (list(work.shelf.entries), work.store.tried, work.store.kitchen.demand)
    assert now[0] == before[0]
    assert (now[1].series, now[1].trials, now[2]) == (before[1].series, before[1].trials, before[2])


def test_nothing_is_laid_out_when_one_cannot_be(work):
    (series,) = work.store.tried.series
    shelf = len(work.shelf.entries)
    with pytest.raises(AplombError):
        lay_out(work, series, [Made(fat_pct=90.0), Made(fat_pct=0.0)], ("fat_pct",), 12)
    with pytest.raises(AplombError, match="1 to 12"):
        lay_out(work, series, [], ("fat_pct",), 12)
    assert len(work.shelf.entries) == shelf


def test_a_band_is_taken_named_and_put_back(work):
    recalled = work.shelf.study.school.bands["fat_leaf_um"]
    band = OwnBand("classic", "fat_leaf_um", 8.0, 15.0, "from 31 trials", 31, "2026-11-26")
    work.store.put_own_bands("own band", OwnBands((band,)))
    now = work.store.reference.schools["classic"].bands["fat_leaf_um"]
    assert (now.low, now.high, now.standing) == (8.0, 15.0, "trials")
    work.store.put_own_bands("recalled band", OwnBands())
    assert work.store.reference.schools["classic"].bands["fat_leaf_um"] == recalled
    work.journal.undo()
    assert work.store.tried.bands.of("classic", "fat_leaf_um") == band


def test_a_report_says_all_of_it_and_is_json(work):
    import numpy as np

    tried = work.store.tried
    (series,) = tried.series
    model = model_of(tried.trials)
    band = learned_band(model, "fat_leaf_um", np.random.default_rng(1))
    report = series_report(series, tried.trials, "Regatta case paste", model, band)
    told = json.loads(report_json(report))
    assert told["format"] == "aplomb-trials"
    assert len(told["lines"]) == len(tried.trials)
    assert told["variants"][0]["name"] == "10 µm"
    assert "within 5 % of its best" in told["band_words"]
    assert band_words(band) == report.band_words
    assert 5 < band.low < 11.5 < band.high < 25  # the invented truth: best at 11.5 µm


def test_what_else_differed_is_said_in_words(work):
    tried = work.store.tried
    (series,) = tried.series
    other = [
        replace(t, made=replace(t.made, fridge="right")) if t.variant == "5 µm" else t
        for t in tried.trials
    ]
    (thin,) = [v for v in variants_of(series, other) if v.name == "5 µm"]
    assert "which fridge left / right → right" in [difference_words(d) for d in thin.besides]


def test_a_trial_of_a_formula_that_is_gone_is_still_there(work):
    uid = work.store.tried.trials[0].uid
    work.shelf.select(uid)
    work.shelf.delete()
    assert len(work.store.tried.trials) == 33
    with pytest.raises(AplombError, match="not in the book"):
        lay_out(work, work.store.tried.series[0], [Made(fat_leaf_um=8)], ("fat_leaf_um",), 5)


def test_a_row_that_cannot_be_read_is_told_and_the_rest_stands(work):
    from aplomb.book.changes import Kept

    work.store.put_rows((Kept("trial/demo-t01", '{"key": 1}'), Kept("series/x", "{")))
    assert len(work.store.tried.trials) == 32
    assert any("trial" in words for words in work.store.unreadable.values())


def test_figures_are_said_in_the_house_s_measures():
    assert made_text("fat_leaf_um", 9.87) == "9.87 µm"
    assert made_text("bake_c", 200.0) == "200 °C"
    assert made_text("baker", "") == "–"


def test_a_trial_of_one_piece_can_be_kept(work):
    trial = begin_trial(work)
    work.store.put_trials("measured", [replace(trial, pieces=(Piece(3.4, 15.0),))])
    assert came_of(work.store.tried.trial(trial.key), "lift").n == 1


def test_the_page_on_reports_names_every_field(request):
    import msgspec

    from aplomb.core.trials.bands import LearnedBand
    from aplomb.core.trials.series import Series
    from aplomb.core.trials.trial import Trial
    from aplomb.work.trials.report import SeriesReport, TrialLine, VariantLine

    page = (request.config.rootpath / "docs" / "trials-format.md").read_text(encoding="utf-8")
    for kind in (SeriesReport, Series, VariantLine, TrialLine, LearnedBand, Trial):
        for field in msgspec.structs.fields(kind):
            assert f"`{field.name}`" in page, (kind.__name__, field.name)
