"""Until when something that is put by is used."""

from contextlib import suppress
from datetime import date, timedelta

from aplomb.core.batch.keeping import KeptItem, claim_of


def is_past(item: KeptItem, today: date) -> bool:
    """Tell whether the day is over by which something is used.

    False when that day is not known.
    """
    last = use_by(item)
    return bool(last) and last < today.isoformat()


def use_by(item: KeptItem) -> str:
    """Give the day by which something is used, the short end of what is claimed.

    ISO 8601; empty when the day it was made is not known or it does not keep there. What was
    thawed is used within a day.
    """
    claim = claim_of(item.form, item.where)
    if claim is None or not item.made:
        return ""
    days = min(1, claim.days) if item.thawed else claim.days
    with suppress(ValueError, OverflowError):  # a 31st of a short month
        return (date.fromisoformat(item.made[:10]) + timedelta(days=days)).isoformat()
    return ""
