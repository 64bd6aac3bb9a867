"""From older books to today's: each step in one transaction that the book began."""

import json
import sqlite3

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


def migrate_1(db: sqlite3.Connection, tables: str) -> None:
    """Bring a book of version 1 to version 2: prices go from the formulas into the store.

    Of two prices of one material that of the formula changed last is kept, and of two currencies
    one that was chosen. The changes that can
    be undone are rewritten too, so undo does not bring old prices back.

    Parameters
    ----------
    db : Connection
        In a transaction.
    tables : str
        Statements that make the new tables.

    Raises
    ------
    sqlite3.DatabaseError
        When the disk refuses; the caller lets go of the transaction.
    """
    _make(db, tables)
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
    db.execute("PRAGMA user_version = 2")


def migrate_2(db: sqlite3.Connection) -> None:
    """Bring a book of version 2 to version 3: formulas may say how they are worked.

    What a formula of before does not say has a default that means the same, so no row changes; the
    number keeps an older program from writing over what it does not know.

    Raises
    ------
    sqlite3.DatabaseError
        When the disk refuses; the caller lets go of the transaction.
    """
    db.execute("PRAGMA user_version = 3")


def migrate_3(db: sqlite3.Connection) -> None:
    """Bring a book of version 3 to version 4: formulas may have products and a cut plan.

    As from 2 to 3, only the number changes.

    Raises
    ------
    sqlite3.DatabaseError
        When the disk refuses; the caller lets go of the transaction.
    """
    db.execute("PRAGMA user_version = 4")


def migrate_4(db: sqlite3.Connection) -> None:
    """Bring a book of version 4 to version 5.

    The house says its heaviest block and how it measures, formulas hold water back, and a
    weighed line may have ended early.

    As from 2 to 3, only the number changes.

    Raises
    ------
    sqlite3.DatabaseError
        When the disk refuses; the caller lets go of the transaction.
    """
    db.execute("PRAGMA user_version = 5")


def migrate_5(db: sqlite3.Connection) -> None:
    """Bring a book of version 5 to version 6.

    Rests say a most and a place, fats their latent heat, the house its places and hours, and the
    day a timetable.

    As from 2 to 3, only the number changes.

    Raises
    ------
    sqlite3.DatabaseError
        When the disk refuses; the caller lets go of the transaction.
    """
    db.execute("PRAGMA user_version = 6")


def add_tables(db: sqlite3.Connection, tables: str, version: int) -> None:
    """Bring a book to a version that only keeps more: 7 runs at the bench, 8 photographs.

    Trials, series and learned bands are rows of the store, which is there already.

    Parameters
    ----------
    db : Connection
        In a transaction.
    tables : str
        Statements that make the new tables.
    version : int
        Which the book has then [-].

    Raises
    ------
    sqlite3.DatabaseError
        When the disk refuses; the caller lets go of the transaction.
    """
    _make(db, tables)
    db.execute(f"PRAGMA user_version = {int(version)}")


def _make(db: sqlite3.Connection, tables: str) -> None:
    """Make tables within a transaction, which a script would end."""
    for statement in tables.split(";"):
        if statement.strip():
            db.execute(statement)


def _entry_without_prices(text: str | None) -> str | None:
    if text is None:
        return None
    try:
        entry = json.loads(text)
        entry["formula"] = json.loads(without_prices(json.dumps(entry["formula"]))[0])
    except (ValueError, TypeError, KeyError):
        return text  # it says so when it is to be undone
    return json.dumps(entry, ensure_ascii=False)
