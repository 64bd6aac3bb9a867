"""From older books to today's: one table of steps, in one transaction that the book began."""

import json
import sqlite3
from collections.abc import Callable

from aplomb.book.tables import make
from aplomb.core.day.old_names import key_of_name

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


def with_step_keys(body: str) -> str:
    """Give the timetable of a book up to version 8 with its steps known by keys, not by words.

    Of two old names that have one key (a turn that was a single and became a double) the later
    counts. A body that is not JSON comes back as it is.
    """
    try:
        before = json.loads(body)
        sheet = {**before}
        for name in ("minutes", "extra", "rest_extra"):
            if name in sheet:
                sheet[name] = {_keyed(step): minutes for step, minutes in sheet[name].items()}
        for name in ("held", "plan"):
            if name in sheet:
                known: dict[tuple[str, str], dict[str, object]] = {}
                for each in sheet[name]:
                    key = key_of_name(each["step"])
                    known.pop((each["paste"], key), None)
                    known[each["paste"], key] = {**each, "step": key}
                sheet[name] = list(known.values())
    except (ValueError, TypeError, KeyError, AttributeError):
        return body
    return body if sheet == before else json.dumps(sheet, ensure_ascii=False)


def _keyed(name: str) -> str:
    uid, _, step = name.partition("/")
    return f"{uid}/{key_of_name(step)}"


def with_one_stock(body: str) -> str:
    """Give the stock of a book up to version 10 with its frozen blocks among what is kept.

    A body that is not JSON comes back as it is.
    """
    try:
        stock = json.loads(body)
        frozen = stock.pop("frozen", [])
        blocks = [
            {
                "key": f"frozen-{at}",
                "uid": each["uid"],
                "form": "whole",
                "where": "freezer",
                "many": each["blocks"],
                "each_g": each["each_g"],
                "turns": each.get("turns", 0),
                "made": each.get("made", ""),
            }
            for at, each in enumerate(frozen, 1)
        ]
        if not blocks:
            return body if "frozen" not in body else json.dumps(stock, ensure_ascii=False)
        return json.dumps({**stock, "kept": [*blocks, *stock.get("kept", [])]}, ensure_ascii=False)
    except (ValueError, TypeError, KeyError, AttributeError):
        return body


Anew = Callable[[str], str]
"""How the body of a row of the store is written in a newer version."""


def _store_anew(key: str, anew: Anew) -> Callable[[sqlite3.Connection], None]:
    """Give the step that writes a row of the store anew, and what can be undone of it."""

    def step(db: sqlite3.Connection) -> None:
        for (body,) in db.execute("SELECT body FROM store WHERE key = ?", (key,)).fetchall():
            db.execute("UPDATE store SET body = ? WHERE key = ?", (anew(body), key))
        rows = db.execute(
            "SELECT seq, formula, before, after FROM change WHERE formula IN ('store', 'together')"
        ).fetchall()
        for seq, what, before, after in rows:
            try:
                both = [_change_anew(what, text, key, anew) for text in (before, after)]
            except (ValueError, TypeError):
                continue  # it says so when it is to be undone
            db.execute("UPDATE change SET before = ?, after = ? WHERE seq = ?", (*both, seq))

    return step


def _change_anew(what: str, text: str | None, key: str, anew: Anew) -> str | None:
    """A row of the list of changes: rows of the store, or several changes in one."""
    if text is None:
        return None
    rows = json.loads(text)
    if what == "store":
        rows = [[name, anew(body) if name == key and body else body] for name, body in rows]
    elif what == "together":
        rows = [
            [words, one, _change_anew(one, before, key, anew), _change_anew(one, after, key, anew)]
            for words, one, before, after in rows
        ]
    else:
        return text
    return json.dumps(rows, ensure_ascii=False)


STEPS: dict[int, Callable[[sqlite3.Connection], None]] = {
    2: _prices_to_store,
    9: _store_anew("timetable", with_step_keys),
    11: _store_anew("stock", with_one_stock),
}
"""What is done to the rows when a book comes to a version, after its new tables are made.

Versions without a step keep only more. 3: how a formula is worked. 4: products and a cut plan.
5: the house's heaviest block and measures, water held back, a line that ended early. 6: a rest's
most and place, latent heat, places and hours of the house, the day's timetable. 7: runs. 8:
pictures; trials, series and learned bands are rows of the store. 9: steps have keys.
10: a batch as written, blocks from the freezer, how products are made up. 11: all stock is one
list; a width for enclosing, a size of the fat block. 12: a day that has begun knows which day it
is. What an older book does not say has a default
that means the same; the number keeps an older program from writing over it.
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
