"""From older books to today's: one table of steps, in one transaction that the book began."""

import json
import sqlite3
from collections.abc import Callable

from aplomb.book.tables import make

DEFAULT_CURRENCY_OF_1 = "€"
"""What a formula of version 1 had when nobody chose."""

Prices = dict[str, tuple[float, float]]
"""Pack [g] and price by material."""


def without_prices(body: str) -> tuple[str, Prices, str]:
    """Take the prices out of a formula of version 1.

    Parameters
    ----------
    body : str
        A formula as JSON.

    Returns
    -------
    tuple of (formula as JSON, prices, currency)
        A body that is not JSON comes back as it is, and says so when it is wanted.
    """
    try:
        formula = json.loads(body)
        prices = {p["material"]: (p["pack_g"], p["price"]) for p in formula.pop("prices", ())}
        currency = formula.pop("currency", "")
    except (ValueError, TypeError, KeyError, AttributeError):
        return body, {}, ""
    return json.dumps(formula, ensure_ascii=False), prices, currency


def _prices_to_store(db: sqlite3.Connection) -> None:
    """From version 1 to 2: prices go from the formulas into the store.

    Of two prices of one material that of the formula changed last is kept, and of two currencies
    one that was chosen. The changes that can be undone are rewritten too, so undo does not bring
    old prices back.
    """
    found: Prices = {}
    currencies = []
    rows = db.execute("SELECT id, body FROM formula ORDER BY changed, place").fetchall()
    for uid, body in rows:
        modern, prices, currency = without_prices(body)
        found.update(prices)
        if currency:
            currencies.append(currency)
        db.execute("UPDATE formula SET body = ? WHERE id = ?", (modern, uid))
    for seq, before, after in db.execute("SELECT seq, before, after FROM change").fetchall():
        both = (_entry_without_prices(before), _entry_without_prices(after), seq)
        db.execute("UPDATE change SET before = ?, after = ? WHERE seq = ?", both)
    for key, (pack_g, price) in sorted(found.items()):
        item = {"key": key, "pack": {"pack_g": pack_g, "price": price}}
        db.execute("INSERT INTO store VALUES (?, ?)", (f"item/{key}", json.dumps(item)))
    if currencies:
        chosen = [c for c in currencies if c != DEFAULT_CURRENCY_OF_1] or currencies
        house = json.dumps({"currency": chosen[-1]}, ensure_ascii=False)
        db.execute("INSERT INTO store VALUES ('house', ?)", (house,))


def _entry_without_prices(text: str | None) -> str | None:
    if text is None:
        return None
    try:
        entry = json.loads(text)
        entry["formula"] = json.loads(without_prices(json.dumps(entry["formula"]))[0])
    except (ValueError, TypeError, KeyError):
        return text  # it says so when it is to be undone
    return json.dumps(entry, ensure_ascii=False)


STEPS: dict[int, Callable[[sqlite3.Connection], None]] = {2: _prices_to_store}
"""What is done to the rows when a book comes to a version, after its new tables are made.

Versions without a step keep only more. 3: how a formula is worked. 4: products and a cut plan.
5: the house's heaviest block and measures, water held back, a line that ended early. 6: a rest's
most and place, latent heat, places and hours of the house, the day's timetable. 7: runs. 8:
pictures; trials, series and learned bands are rows of the store. What an older book does not say
has a default that means the same; the number keeps an older program from writing over it.
"""


def bring_up(db: sqlite3.Connection, version: int, wanted: int) -> None:
    """Bring a book from a version to another, a step at a time.

    Raises
    ------
    sqlite3.DatabaseError
        When the disk refuses; the caller lets go of the transaction.
    """
    for number in range(max(version, 1) + 1, wanted + 1):
        make(db, number)
        if number in STEPS:
            STEPS[number](db)
        db.execute(f"PRAGMA user_version = {number}")
