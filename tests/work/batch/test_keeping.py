"""Keeping: the short end of what is claimed, and what is never done."""

import pytest

from aplomb.core.base.errors import FormulaError
from aplomb.core.batch.keeping import CLAIMS, FORMS, WHERES, KeptItem, claim_of
from aplomb.core.batch.stock import Stock, check_stock
from aplomb.work.batch.keeping import use_by


@pytest.mark.parametrize(
    ("form", "where", "day"),
    [
        ("whole", "fridge", "2026-11-28"),
        ("whole", "freezer", "2026-12-10"),
        ("raw", "fridge", "2026-11-27"),
        ("baked", "room", "2026-11-27"),
        ("log", "room", ""),
    ],
)
def test_the_day_it_is_used_by(form, where, day):
    """Common practice: the short end; a day counted by hand."""
    assert use_by(KeptItem("k", "u", form, where, made="2026-11-26")) == day


def test_thawed_paste_is_used_within_a_day():
    assert use_by(KeptItem("k", "u", "whole", "fridge", made="2026-11-26", thawed=True)) == (
        "2026-11-27"
    )


def test_no_default_is_longer_than_what_is_claimed():
    assert all(0 < c.days <= c.claimed for c in CLAIMS.values())
    assert all(claim_of(form, "fridge") is None or form != "baked" for form in FORMS)
    assert all(any(claim_of(form, where) for where in WHERES) for form in FORMS)


@pytest.mark.parametrize(
    ("item", "words"),
    [
        (KeptItem("k", "u", "whole", "room"), "does not keep in the room"),
        (KeptItem("k", "u", "whole", "freezer", thawed=True), "never refreeze what"),
        (KeptItem("k", "u", "whole", "fridge", many=0), "how many"),
        (KeptItem("k", "u", "whole", "fridge", made="soon"), "is not a date"),
        (KeptItem("k", "u", "whole", "fridge", each_g=float("nan")), "each"),
    ],
)
def test_what_cannot_be_kept_so_is_refused(item, words):
    with pytest.raises(FormulaError, match=words):
        check_stock(Stock(kept=(item,)))
