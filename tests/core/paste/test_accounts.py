"""True accounting: acid, sugar, milk solids, flour on a 14 % basis, energy."""

import pytest
from msgspec.structs import replace

from aplomb.core.base.composition import Composition
from aplomb.core.paste.accounts import account
from aplomb.core.paste.energy import energy_kcal_g, energy_kj_g
from aplomb.core.paste.formula import Batch, Formula, Part
from aplomb.core.paste.line import Line
from aplomb.core.study.study import make_study


def test_energy_by_the_label_factors():
    """Regulation (EU) No 1169/2011, annex XIV: fat 37 kJ, carbohydrate and protein 17, fibre 8,
    organic acid 13 a gram; in kcal 9, 4, 4, 2, 3."""
    food = Composition(fat=0.1, carbohydrate=0.5, protein=0.1, fibre=0.02, acid=0.01)
    assert energy_kj_g(food) == pytest.approx(3.7 + 17 * 0.49 + 1.7 + 0.16 + 0.13)
    assert energy_kcal_g(food) == pytest.approx(0.9 + 4 * 0.49 + 0.4 + 0.04 + 0.03)


IFCT = {
    # Longvah, T., Ananthan, R., Bhaskarachary, K., Venkaiah, K. (2017), Indian Food Composition
    # Tables, National Institute of Nutrition, Hyderabad; g a 100 g and kJ a 100 g.
    # material: water, protein, ash, fat, fibre, carbohydrate (available), energy
    "plain_flour": (11.34, 10.36, 0.51, 0.76, 2.76, 74.27, 1472),  # A018 wheat flour, refined
    "wholemeal_flour": (11.10, 10.57, 1.28, 1.53, 11.36, 64.17, 1340),  # A019 wheat flour, atta
    "rice_flour": (9.93, 7.94, 0.56, 0.52, 2.81, 78.24, 1491),  # A015 rice, raw, milled
    "milk_whole": (86.64, 3.26, 0.68, 4.48, 0.0, 4.94, 305),  # L002 milk, whole, cow
    "egg_whole": (76.51, 13.28, 0.81, 9.15, 0.0, 0.0, 564),  # M001 egg, whole, raw
    "egg_yolk": (53.57, 15.74, 1.05, 26.34, 0.0, 0.0, 1242),  # M003 egg, yolk, raw
    "egg_white": (86.68, 10.84, 0.75, 0.06, 0.0, 0.0, 187),  # M002 egg, white, raw
}


@pytest.mark.parametrize("key", IFCT)
def test_shipped_composition_against_a_published_table(key, pantry):
    """Ours are typical values of other foods of the same kind: near, not the same. Energy by the
    label factors from the table's own figures, fibre left out as the table does, is within 3 %."""
    water, protein, ash, fat, fibre, carbohydrate, kj = IFCT[key]
    ours = pantry[key].composition
    assert ours.water == pytest.approx(water / 100, abs=0.035)
    assert ours.protein == pytest.approx(protein / 100, abs=0.03)
    assert ours.fat == pytest.approx(fat / 100, abs=0.035)
    assert ours.carbohydrate == pytest.approx(carbohydrate / 100, abs=0.06)
    assert ours.fibre == pytest.approx(fibre / 100, abs=0.015)
    assert ours.ash == pytest.approx(ash / 100, abs=0.01)
    table = Composition(fat=fat / 100, protein=protein / 100, carbohydrate=carbohydrate / 100)
    assert 100 * energy_kj_g(table) == pytest.approx(kj, rel=0.03)


def test_acid_of_any_kind_counts_as_acetic(pantry):
    """50 g vinegar at 5 % is 2.5 g; 10 g citric acid at 99.5 % neutralises as much as
    9.95 × 60.052 / (192.124 / 3) = 9.330 g acetic acid. Molar masses by hand from C, H, O."""
    f = Formula(
        "x", dough=(Line("plain_flour", 1000), Line("vinegar_cider", 50), Line("citric_acid", 10))
    )
    assert account(f, pantry).acid_g == pytest.approx(2.5 + 9.330, abs=0.002)
    assert account(f, pantry).acid_product_g == 60


def test_flour_on_the_14_percent_basis_by_hand(plain, pantry, known):
    """1000 g flour at 11 % holds 890 g dry, as 1034.88 g at 14 % do; the water beside them falls
    to 500 − 34.88 = 465.12 g: 44.94 %. (AACC convention: total water is unchanged.)"""
    f = replace(plain, flour_moisture_pct=11.0)
    r = make_study(f, known).readings
    assert r.dough_water_14_pct == pytest.approx(100 * 465.1163 / 1034.8837, abs=1e-4)
    assert r.dough_water_pct == pytest.approx(50)
    basis = make_study(replace(plain, flour_moisture_pct=14.0), known).readings
    assert basis.dough_water_14_pct == pytest.approx(50)


def test_milk_solids_and_sugar_by_hand(pantry):
    """500 g skimmed milk holds 9.4 % solids without fat; honey counts its sugars, 81 %."""
    f = Formula(
        "x", dough=(Line("plain_flour", 1000), Line("milk_skimmed", 500), Line("honey", 100))
    )
    a = account(f, pantry)
    assert a.milk_solids_g == pytest.approx(500 * 0.092, abs=1.5)
    assert a.sugar_g == pytest.approx(81)


def test_a_filled_piece_by_hand(plain, known, pantry):
    """40 g of paste with 20 g jam: fat of the paste share, energy by factors; finish over the
    pieces of the formula as written."""
    f = replace(
        plain,
        filling=(Line("apricot_jam", 20),),
        finish=(Line("egg_whole", 60),),
        batch=Batch(fixed="pieces", pieces=60, piece_g=40, trim_pct=0, loss_pct=0),
    )
    study = make_study(f, known)
    written = study.scaled.pieces / study.scaled.factor
    r = study.readings
    assert r.piece_eaten_g == pytest.approx(40 + 20 + 60 / written)
    paste_fat = (1000 * 0.013 + 1000 * 0.82) / 2520
    assert r.fat_g_per_piece == pytest.approx(40 * paste_fat + 60 / written * 0.1)
    assert r.energy_kcal_per_piece == pytest.approx(r.energy_kj_per_piece / 4.184, rel=0.02)
    weighed = next(w for w in study.scaled.lines if w.part is Part.FILLING)
    assert weighed.exact_g == 20 * 60


def test_additions_weigh_in_the_yield_and_not_in_dough_or_fat(plain, known):
    more = replace(plain, between=(Line("sugar", 252),))
    one, two = (make_study(f, known) for f in (plain, more))
    assert two.readings.fat_product_pct == one.readings.fat_product_pct
    assert two.readings.sugar_added_pct == one.readings.sugar_added_pct == 0
    fixed = Batch(fixed="paste", paste_g=2520, trim_pct=0, loss_pct=0, piece_g=40)
    a, b = (make_study(replace(f, batch=fixed), known).scaled for f in (plain, more))
    assert (a.pieces, b.pieces) == (63, 69)  # 2520 / 40, 2772 / 40 by hand


def test_fillings_need_pieces_for_a_cost(plain, known):
    f = replace(plain, filling=(Line("apricot_jam", 20),))
    assert make_study(f, known).readings.cost is not None
    huge = replace(f, batch=Batch(fixed="paste", paste_g=1, piece_g=1000))
    assert make_study(huge, known).readings.cost is None
