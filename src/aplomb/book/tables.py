"""The tables of a book: each with its columns, since when a book has it, and how it is carried.

Whatever makes, checks, brings up or rescues a book goes through this list: a table that stands
here is made, missed when it is gone, and taken along in a rescue.
"""

import sqlite3
from collections.abc import Mapping, Sequence
from contextlib import suppress
from typing import Literal

from msgspec import Struct

from aplomb.book.salvage import Rows, rows_of

Carried = Literal["as it is", "as read", "left"]


class Table(Struct, frozen=True):
    """A table of the book.

    Attributes
    ----------
    since : int
        The first version of the book that has it [-].
    columns : tuple of str
        Each as SQL declares it, its name first.
    carried : {'as it is', 'as read', 'left'}
        By a rescue into a new book: row by row; by whoever reads it, who knows more of it than its
        rows say; or not at all, for the reason in `why`.
    more : str
        What SQL says besides: keys, indexes.
    """

    name: str
    since: int
    columns: tuple[str, ...]
    carried: Carried
    more: str = ""
    index: str = ""
    why: str = ""

    @property
    def names(self) -> tuple[str, ...]:
        """Names of the columns, in their order."""
        return tuple(column.partition(" ")[0] for column in self.columns)

    @property
    def statements(self) -> tuple[str, ...]:
        """The SQL that makes it."""
        inside = ", ".join([*self.columns, *([self.more] if self.more else [])])
        made = f"CREATE TABLE {self.name} ({inside}) STRICT"
        return (made, self.index) if self.index else (made,)


TABLES = (
    Table(
        "formula", 1,
        ("id TEXT PRIMARY KEY", "name TEXT NOT NULL", "purpose TEXT NOT NULL",
         "place REAL NOT NULL", "changed TEXT NOT NULL", "body TEXT NOT NULL"),
        "as read", index="CREATE INDEX formula_place ON formula (place)",
        why="what damage hides is sought in the changes",
    ),
    Table(
        "change", 1,
        ("seq INTEGER PRIMARY KEY AUTOINCREMENT", "words TEXT NOT NULL", "formula TEXT NOT NULL",
         "before TEXT", "after TEXT", "at TEXT NOT NULL"),
        "left", why="a rescued book starts a history of its own: the old one leads from what was",
    ),
    Table(
        "setting", 1, ("key TEXT PRIMARY KEY", "value TEXT NOT NULL"),
        "left", why="counts of rows, and how far undo has gone: the new book has its own",
    ),
    Table(
        "store", 2, ("key TEXT PRIMARY KEY", "body TEXT NOT NULL"),
        "as read", why="what damage hides is sought in the changes",
    ),
    Table(
        "revision", 2,
        ("formula TEXT NOT NULL", "number INTEGER NOT NULL", "name TEXT NOT NULL",
         "at TEXT NOT NULL", "body TEXT NOT NULL"),
        "as it is", "PRIMARY KEY (formula, number)",
    ),
    Table(
        "run", 7,
        ("id INTEGER PRIMARY KEY AUTOINCREMENT", "title TEXT NOT NULL", "begun TEXT NOT NULL",
         "ended TEXT NOT NULL", "plan TEXT NOT NULL"),
        "as it is",
    ),
    Table(
        "press", 7,
        ("run INTEGER NOT NULL", "number INTEGER NOT NULL", "at_s REAL NOT NULL",
         "wall TEXT NOT NULL", "act TEXT NOT NULL"),
        "as it is", "PRIMARY KEY (run, number)",
    ),
    Table(
        "reading", 7,
        ("run INTEGER NOT NULL", "probe TEXT NOT NULL", "minute INTEGER NOT NULL",
         "body BLOB NOT NULL"),
        "as it is", "PRIMARY KEY (run, probe, minute)",
    ),
    Table(
        "picture", 8,
        ("key TEXT PRIMARY KEY", "name TEXT NOT NULL", "at TEXT NOT NULL", "wide INTEGER NOT NULL",
         "high INTEGER NOT NULL", "small BLOB NOT NULL", "body BLOB NOT NULL",
         "original BLOB NOT NULL"),
        "as it is",
    ),
)  # fmt: skip
"""In the order in which they came."""

RowsByTable = dict[str, Rows]
UNFIT = (
    UnicodeError, OverflowError, ValueError, TypeError, sqlite3.IntegrityError, sqlite3.DataError,
    sqlite3.InterfaceError, sqlite3.ProgrammingError,
)  # fmt: skip
"""What is raised for a row that no book can hold, whatever the disk does."""


def table(name: str) -> Table:
    """Give a table by its name."""
    return next(each for each in TABLES if each.name == name)


def tables_of(version: int) -> tuple[Table, ...]:
    """Give the tables that a book of a version has; a book without a version is of the first."""
    return tuple(each for each in TABLES if each.since <= max(version, 1))


def make(db: sqlite3.Connection, version: int) -> None:
    """Make the tables that are new in a version; raises sqlite3.DatabaseError."""
    for each in TABLES:
        if each.since == version:
            for statement in each.statements:
                db.execute(statement)


def rows_out(db: sqlite3.Connection, name: str, columns: Sequence[str] = ()) -> tuple[Rows, bool]:
    """Read a table, or some columns of it, as far as damage lets; and tell whether all came."""
    return rows_of(db, name, columns or table(name).names)


def rows_to_carry(db: sqlite3.Connection, version: int) -> RowsByTable:
    """Read all rows that go into another book as they are, of every table that there is."""
    return {
        each.name: rows_out(db, each.name)[0]
        for each in tables_of(version)
        if each.carried == "as it is"
    }


def rows_in(db: sqlite3.Connection, rows: Mapping[str, Rows]) -> None:
    """Put rows of another book into this one; one that cannot be put is left out."""
    for name, some in rows.items():
        places = ", ".join("?" * len(table(name).columns))
        for row in some:
            with suppress(*UNFIT):
                db.execute(f"INSERT OR REPLACE INTO {name} VALUES ({places})", row)
