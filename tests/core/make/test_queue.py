"""Trays into loads: one queue over products, first into the cold, first out to the oven."""

from itertools import pairwise

from aplomb.core.base.ovens import Oven
from aplomb.core.make.queue import Tray, loads_of_trays
from aplomb.core.oven.programme import BakeStep, Programme

FAN = Oven("fan", trays=5, heat_min=15)
HOT = Programme((BakeStep(220.0, 12.0),))


def queue(trays, ovens, minutes=25.0, **more):
    return loads_of_trays([Tray("x", trays, minutes=minutes)], ovens, **more)


def test_trays_go_first_in_first_out():
    loads = queue(12, (FAN,))
    assert [(x.first, x.last) for x in loads] == [(1, 5), (6, 10), (11, 12)]
    assert [x.in_min for x in loads] == [15, 45, 75]
    assert [x.waits_min for x in loads] == [0, 30, 60]
    assert [x.key for x in loads] == ["l1", "l2", "l3"]


def test_two_ovens_share_and_every_tray_is_baked_once():
    small = Oven("small", trays=2, heat_min=10)
    loads = queue(13, (FAN, small), 20.0, scrap=True)
    baked = [tray for x in loads for tray in range(x.first, x.last + 1)]
    assert sorted(baked) == list(range(1, 14))
    for oven, most in ((0, 5), (1, 2)):
        mine = [x for x in loads if x.at == oven]
        assert all(x.many <= most for x in mine)
        assert all(b.in_min >= a.out_min for a, b in pairwise(mine))
    assert min(x.in_min for x in loads) >= 15  # the scrap was first


def test_products_that_are_baked_alike_share_a_load():
    """3 trays and 5 trays in an oven for 4 are two loads; baked otherwise they are one and two."""
    four = (Oven("four", trays=4),)
    alike = loads_of_trays([Tray("a", 3), Tray("b", 5)], four)
    assert [x.trays for x in alike] == [(("a", 3), ("b", 1)), (("b", 4),)]
    other = loads_of_trays([Tray("a", 3), Tray("b", 5, HOT, 12.0)], four)
    assert [x.trays for x in other] == [(("a", 3),), (("b", 4),), (("b", 1),)]
    assert [x.minutes for x in other] == [25, 12, 12]


def test_no_trays_or_no_oven_no_loads():
    assert queue(0, (FAN,)) == ()
    assert queue(3, ()) == ()
