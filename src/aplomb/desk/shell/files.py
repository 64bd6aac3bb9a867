"""Formulas, suppliers’ data and books: from files and to them."""

from pathlib import Path
from typing import TYPE_CHECKING

from aplomb.book.paths import demo_book, own_book
from aplomb.core.base.errors import AplombError
from aplomb.desk.stages.files import FileAsker, file_name
from aplomb.work.commands import PASTE, SHELF
from aplomb.work.open_book.demo import fill_with_demo

if TYPE_CHECKING:
    from aplomb.exchange.pantry_csv import SupplierFile

BOOKS = "Aplomb books (*.aplomb)"
TABLES = "Tables as CSV (*.csv *.txt *.tsv)"
FORMULAS = "Formula as JSON (*.json)"


class Files(FileAsker):
    """Imports and exports formulas and materials, and opens books."""

    def import_formula(self) -> None:
        """Put a formula from a JSON file on the shelf."""
        path = self.ask_open("Import a formula", Path.home(), FORMULAS)
        if path is not None:
            self.attempt(lambda: self._import(path))

    def _import(self, path: Path) -> None:
        from aplomb.exchange.formula_json import read_formula

        found = read_formula(path, self._session.reference.pantry)
        name = found.formula.name
        with self._session.journal.together(f"import {name}"):
            self._session.store.put_items(f"ingredients of {name}", found.items)
            self._session.shelf.add(found.formula, f"import {name}")
        if found.kept:
            self._desk.say(f"Your own figures were kept for {', '.join(found.kept[:3])}.")
        self._desk.show_stage(PASTE)

    def export_formula(self) -> None:
        """Write the formula in hand as JSON."""
        self._desk.commit()
        from aplomb.disk import write_bytes
        from aplomb.exchange.formula_json import to_json

        formula = self._session.formula
        if formula is None:
            return
        path = self.ask_path(
            "Export the formula", file_name(formula.name) + ".json", FORMULAS, ".json"
        )
        if path is not None:
            data = to_json(formula, self._session.reference.pantry)
            self.attempt(lambda: write_bytes(path, data), f"Saved: {path.name}")

    def import_data(self) -> None:
        """Take a supplier’s data into the pantry, after a look at them."""
        path = self.ask_open("Import supplier’s data", Path.home(), TABLES)
        if path is not None:
            self._read_data(path)

    def _read_data(self, path: Path) -> None:
        """Read a table beside the window: a long one takes seconds."""
        from aplomb.desk.kit.background import LatestJob
        from aplomb.desk.kit.progress import Progress
        from aplomb.disk import read_bytes
        from aplomb.exchange.pantry_csv import LARGEST_BYTES, MOST_ROWS, read_supplier_file

        known = self._session.reference

        book = self._session.book.path

        def came(found: "SupplierFile | AplombError") -> None:
            progress.end()
            if isinstance(found, AplombError):
                self.refuse(str(found))
            elif self._session.book.path != book:
                self.refuse(
                    f"Another book was opened while {path.name} was read. Open the file again."
                )
            else:
                self.attempt(lambda: self._offer_data(found, path.name))

        def read() -> "SupplierFile":
            data = read_bytes(path, LARGEST_BYTES)
            return read_supplier_file(data, known.pantry, path.name, known.today, watch)

        def watch(line: int) -> bool:
            return progress.watch(min(line, MOST_ROWS))

        progress = Progress(self._window, f"Reading {path.name} …", MOST_ROWS)
        self.reading = LatestJob(came, self._window)
        self._desk.say(f"Reading {path.name} …")
        self.reading.ask(read)

    def _offer_data(self, sheet: "SupplierFile", name: str) -> None:
        from aplomb.desk.paste.supplier_preview import ask_import

        currency = self._session.reference.house.currency
        if ask_import(self._window, sheet, name, currency):
            items = [each.item for each in sheet.rows]
            self._session.store.put_items(f"import {name}", items)
            self._desk.say(f"{len(items)} ingredients imported from {name}")

    def export_pantry(self) -> None:
        """Write the pantry as CSV."""
        from aplomb.disk import write_bytes
        from aplomb.exchange.pantry_csv import write_pantry

        path = self.ask_path("Export the pantry as CSV", "Pantry.csv", TABLES, ".csv")
        if path is not None:
            data = write_pantry(self._session.reference.pantry)
            self.attempt(lambda: write_bytes(path, data), f"Saved: {path.name}")

    def open_book(self) -> None:
        """Ask for another book and open it."""
        path = self.ask_open("Open a book", self._session.book.path.parent, BOOKS)
        if path is not None:
            self.go_to(path)

    def new_book(self) -> None:
        """Ask where a new book shall be and open it."""
        path = self.ask_path("New book", "New book.aplomb", BOOKS, ".aplomb")
        if path is None:
            return
        if path.exists():
            self.refuse(
                f"There is already a file called {path.name}. Open it, or choose another name."
            )
            return
        self.go_to(path)

    def go_to(self, path: Path) -> None:
        """Open a book; fill the demo book when it is new."""

        def go() -> None:
            self._session.work.open_book(path)
            if path == demo_book() and not self._session.shelf.entries:
                fill_with_demo(self._session.work)

        if self.attempt(go):
            if path != demo_book():
                self._session.keep(last_book="" if path == own_book() else str(path))
            self._desk.show_stage(SHELF)

    def keep_everything(self) -> None:
        """Put all that is here into a new book at a free name, and go on there."""
        try:
            path = self._session.work.rescue()
        except AplombError as error:
            self.refuse(str(error))
            return
        self._session.keep(last_book=str(path))
        self._desk.say(
            f"Everything is now saved in {path.name}, in the folder "
            f"{path.parent}. You are working in that book."
        )

    def keep_copy(self) -> None:
        """Write the book to another file and go on there."""
        name = self._session.book.path.stem + " copy.aplomb"
        path = self.ask_path("Save a copy of the book", name, BOOKS, ".aplomb")
        if path is not None and self.attempt(
            lambda: self._session.work.keep_copy(path), f"You are now working in {path.name}"
        ):
            self._session.keep(last_book=str(path))
