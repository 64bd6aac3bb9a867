"""Where a command finds its formula: a file of one, or a book and the name of one in it."""

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from msgspec.structs import replace

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.core.base.errors import AplombError
from aplomb.core.paste.formula import Formula
from aplomb.core.study.study import Reference, Study, make_study
from aplomb.disk import words_for
from aplomb.exchange.formula_json import read_formula
from aplomb.work.open_book.workbench import Workbench

ENDING = ".aplomb"
MOST_NAMED = 12
"""Formulas of a book that an error names [-]."""


def study_from(source: str) -> tuple[Study, Reference]:
    """Work out the formula of a source, and give what it leans on.

    Parameters
    ----------
    source : str
        A formula's file, or ``BOOK.aplomb#NAME``. A book is read as it was last written, also
        while a window holds it; it is never changed.

    Returns
    -------
    tuple of (Study, Reference)

    Raises
    ------
    AplombError
        When there is no such file, book or formula, or when it cannot be worked out.
    """
    path, name = _place_of(source)
    if name is None:
        formula, known = _read(path)
        return make_study(formula, known), known
    with opened_copy(path) as work:
        return _named(work, path, name)


def formula_from(source: str) -> tuple[Formula, Reference]:
    """Read the formula of a source, and what it leans on; as `study_from`."""
    path, name = _place_of(source)
    if name is None:
        return _read(path)
    with opened_copy(path) as work:
        uid = _uid_of(work, path, name)
        return work.shelf.entries[uid].formula, work.store.reference.of(uid)


def _place_of(source: str) -> tuple[Path, str | None]:
    """Give the book of a source and the name it asks for; None for the file of one formula."""
    path, mark, name = source.partition(f"{ENDING}#")
    if mark:
        return Path(path + ENDING), name.strip()
    whole = Path(source)
    return whole, "" if source.endswith(ENDING) and whole.exists() else None


def _read(path: Path) -> tuple[Formula, Reference]:
    known = reference()
    found = read_formula(path, known.pantry)
    items = (*known.pantry.items.values(), *found.items)
    return found.formula, replace(known, pantry=known.pantry.holding(items))


@contextmanager
def opened_copy(path: Path) -> Iterator[Workbench]:
    """Open a copy of a book, so that one which a window holds can be read and is never changed.

    Yields
    ------
    Workbench

    Raises
    ------
    AplombError
        When it cannot be read.
    """
    with tempfile.TemporaryDirectory(prefix="aplomb-") as folder:
        there = Path(folder) / path.name
        try:
            shutil.copyfile(path, there)
            journal = path.with_name(f"{path.name}-journal")
            if journal.exists():  # a write was cut off: with it the book is whole
                shutil.copyfile(journal, there.with_name(journal.name))
        except OSError as error:
            raise AplombError(words_for(error, f"cannot read {path.name}")) from None
        work = Workbench(Book(there), reference())
        try:
            yield work
        finally:
            work.close()


def _uid_of(work: Workbench, path: Path, name: str) -> str:
    """Give the identity of the formula of that name; of the only one without a name."""
    entries = list(work.shelf.entries.values())
    wanted = [each for each in entries if each.name == name]
    wanted = wanted or [each for each in entries if each.name.casefold() == name.casefold()]
    if not name and len(entries) == 1:
        wanted = entries
    if len(wanted) != 1:
        names = ", ".join(f"“{each.name}”" for each in entries[:MOST_NAMED])
        more = f" and {len(entries) - MOST_NAMED} more" if len(entries) > MOST_NAMED else ""
        what = "put the name of a formula after #"
        if name and wanted:
            what = f"{len(wanted)} formulas are called “{name}”"
        elif name:
            what = f"no formula is called “{name}”"
        raise AplombError(f"{path.name}: {what}; it has {names or 'none'}{more}")
    return wanted[0].uid


def _named(work: Workbench, path: Path, name: str) -> tuple[Study, Reference]:
    uid = _uid_of(work, path, name)
    said: list[str] = []
    work.news.said.connect(said.append)
    study = work.shelf.study_of(uid)
    if study is None:
        raise AplombError(" ".join(said) or f"“{name}” cannot be calculated")
    return study, work.store.reference.of(uid)
