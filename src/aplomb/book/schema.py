"""How a new book is made: beside its place, then put there whole; and what is no table of ours."""

import os
import sqlite3
from contextlib import closing
from pathlib import Path

from aplomb.book.errors import BookError
from aplomb.book.tables import TABLES, tables_of
from aplomb.disk import new_beside

NEW = ".aplomb-new-"
"""How the name of a file begins that is not finished yet."""
APPLICATION_ID = 0x41504C4D
VERSION = 12


def make_tables(db: sqlite3.Connection) -> None:
    """Make the tables in an empty database, all or none; raises sqlite3.DatabaseError."""
    made = ";".join(each for table in TABLES for each in table.statements)
    db.executescript(
        f"PRAGMA application_id = {APPLICATION_ID};"
        f"BEGIN; {made};"
        "INSERT INTO setting VALUES ('stands', '0');"
        f"PRAGMA user_version = {VERSION}; COMMIT;"
    )


def make_file(path: Path) -> None:
    """Make an empty book where there is no file yet; whoever is killed meanwhile leaves none.

    Raises
    ------
    OSError, sqlite3.DatabaseError
        When the disk refuses.
    BookError
        When another file has come there meanwhile.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, beside = new_beside(path, NEW)
    os.close(handle)
    try:
        with closing(sqlite3.connect(beside, isolation_level=None)) as db:
            db.execute("PRAGMA synchronous = FULL")
            make_tables(db)
        put_in_place(beside, path)
    finally:
        beside.unlink(missing_ok=True)


def put_in_place(beside: Path, path: Path) -> None:
    """Put a finished file where none may stand yet.

    Raises
    ------
    BookError
        When another file has come there meanwhile.
    OSError
        When the disk refuses.
    """
    try:
        os.link(beside, path)
    except FileExistsError:
        raise BookError(
            f"There is already a file called {path.name}; choose another name."
        ) from None
    except OSError:  # a disk without links
        if os.path.lexists(path):
            raise BookError(
                f"There is already a file called {path.name}; choose another name."
            ) from None
        beside.rename(path)


def strangers_in(db: sqlite3.Connection) -> list[str]:
    """Name what in the schema is no plain table or index of ours and could run by itself.

    Triggers, views and virtual tables.
    """
    rows = db.execute("SELECT type, name, sql FROM sqlite_schema").fetchall()
    return [
        str(name)
        for kind, name, sql in rows
        if kind not in ("table", "index") or str(sql or "").upper().startswith("CREATE VIRTUAL")
    ]


def _real_tables(db: sqlite3.Connection) -> frozenset[str]:
    """Name what is a table, and no view or virtual table that looks like one."""
    rows = db.execute("SELECT name, sql FROM sqlite_schema WHERE type = 'table'").fetchall()
    return frozenset(
        str(name) for name, sql in rows if not str(sql or "").upper().startswith("CREATE VIRTUAL")
    )


def only_ours(db: sqlite3.Connection) -> None:
    """Let nothing be read but plain tables: a stranger's view is never run, whatever its name."""
    ours = {*_real_tables(db), "sqlite_schema", "sqlite_master", "sqlite_sequence"}

    def allowed(act: int, table: str | None, *_where: str | None) -> int:
        through = _where[-1]  # the view or trigger that asks
        if act == sqlite3.SQLITE_RECURSIVE or through is not None:
            return sqlite3.SQLITE_DENY
        if act == sqlite3.SQLITE_READ and table not in ours:
            return sqlite3.SQLITE_DENY
        return sqlite3.SQLITE_OK

    db.set_authorizer(allowed)


def missing_in(db: sqlite3.Connection, version: int) -> list[str]:
    """Name the tables that a book of a version should have and this one has not."""
    there = _real_tables(db)
    return [table.name for table in tables_of(version) if table.name not in there]
