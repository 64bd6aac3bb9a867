"""What goes out of the window to files and comes in from them: cards, formulas, books."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from PySide6.QtWidgets import QWidget

from aplomb.assets import demo
from aplomb.book.paths import demo_book, own_book
from aplomb.core.base.errors import AplombError
from aplomb.core.batch.record import BatchRecord
from aplomb.core.batch.stock import Demand, FrozenBlock, Stock, Want
from aplomb.desk.kit.theme import Theme
from aplomb.desk.session import Session
from aplomb.desk.shell.rail import PASTE, SHELF

if TYPE_CHECKING:
    from aplomb.core.batch.cutting import CutPlan
    from aplomb.desk.kit.background import LatestJob
    from aplomb.desk.paper.catalogue import Paper
    from aplomb.desk.paper.job import Job
    from aplomb.exchange.pantry_csv import SupplierFile

BOOKS = "Aplomb books (*.aplomb)"
SHEETS = "Sheets as CSV (*.csv *.txt *.tsv)"
FORMULAS = "Formula as JSON (*.json)"


class Desk(Protocol):
    """The window, as far as papers need it."""

    theme: Theme

    def say(self, words: str) -> None:
        """Say something for a while."""

    def commit(self) -> None:
        """Hand over what is being typed."""

    def show_stage(self, number: int) -> None:
        """Go to a stage."""

    def keep(self, **changes: object) -> None:
        """Keep settings."""


class Papers:
    """Files, asked for and reported in the window.

    Parameters
    ----------
    desk : Desk
    window : QWidget
        Parent of the dialogs.
    session : Session
    """

    def __init__(self, desk: Desk, window: QWidget, session: Session) -> None:
        self._desk, self._window, self._session = desk, window, session
        self.reading: LatestJob | None = None
        self.writing: LatestJob | None = None

    def _ask_path(self, words: str, name: str, kinds: str, ending: str) -> Path | None:
        from aplomb.desk.kit.ask_path import ask_save_path

        return ask_save_path(self._window, words, Path.home() / name, kinds, ending)

    def _ask_open(self, words: str, start: Path, kinds: str) -> Path | None:
        from aplomb.desk.kit.ask_path import ask_open_path

        return ask_open_path(self._window, words, start, kinds)

    def _try(self, act: Callable[[], None], done: str = "") -> bool:
        """Do something with files; say what was refused."""
        try:
            act()
        except AplombError as error:
            self.refuse(str(error))
            return False
        if done:
            self._desk.say(done)
        return True

    def refuse(self, words: str) -> None:
        """Say why something could not be done."""
        from aplomb.desk.stages.asking import tell

        tell(self._window, words)

    def print_card(self, kind: str) -> None:
        """Write the batch card where the user wants it."""
        self._desk.commit()
        study = self._session.study
        if study is None:
            return
        words = "Batch card as PDF" if kind == "pdf" else "Batch card as CSV"
        name = _file_name(study.formula.name) + f" card.{kind}"
        path = self._ask_path(words, name, f"*.{kind}", f".{kind}")
        if path is None:
            return
        pantry = self._session.reference.pantry

        def make() -> bytes:
            from aplomb.exchange.card_csv import card_csv

            if kind == "csv":
                return card_csv(study, pantry)
            from aplomb.desk.paper.card import card_pdf

            return card_pdf(study, pantry)

        self._write_beside(path, make)

    def give_section(self, kind: str, upto: int | None = None, *, across: bool = False) -> None:
        """Write a section as SVG or PNG: of the final sheet, or after some steps of the plan."""
        self._desk.commit()
        study = self._session.study
        if study is None:
            return
        name = f"{_file_name(study.formula.name)} section.{kind}"
        path = self._ask_path(f"Section as {kind.upper()}", name, f"*.{kind}", f".{kind}")
        if path is None:
            return

        def write() -> None:
            from aplomb.desk.paper.section import section_picture
            from aplomb.disk import write_bytes

            write_bytes(path, section_picture(study, kind, upto, across=across))

        self._try(write, f"Section written: {path.name}")

    def give_cut_plan(self, plan: "CutPlan") -> None:
        """Write a cut plan as SVG, to scale."""
        study = self._session.study
        if study is None:
            return
        name = f"{_file_name(study.formula.name)} cut plan.svg"
        path = self._ask_path("Cut plan as SVG", name, "*.svg", ".svg")
        if path is None:
            return

        def write() -> None:
            from aplomb.desk.paper.cut_svg import cut_plan_svg
            from aplomb.disk import write_bytes

            write_bytes(path, cut_plan_svg(plan, study.formula))

        self._try(write, f"Cut plan written: {path.name}")

    def give_paper(self, what: str, paper: "Paper", job: "Job") -> None:
        """Write or print a paper.

        Parameters
        ----------
        what : str
            ``pdf``, ``print``, ``csv`` or ``xlsx``.
        paper : Paper
        job : Job
        """
        if what == "print":
            self._print(paper, job)
            return
        sheet = what == "xlsx"
        words = "Batch sheet" if sheet else paper.words
        name = f"{_file_name(job.name)} {words.lower().replace(' ', '-')}.{what}"
        path = self._ask_path(f"{words} as {what.upper()}", name, f"*.{what}", f".{what}")
        if path is None:
            return

        def make() -> bytes:
            if sheet:
                from aplomb.exchange.batch_sheet import batch_workbook

                return batch_workbook(job.studies, job.pantry, job.stock, job.house.currency)
            if what == "csv":
                return _as_csv(paper, job)
            from aplomb.desk.paper.canvas import pdf_of

            return pdf_of(paper.painter(job), f"{paper.words}: {job.name}", paper.size_mm(job))

        self._write_beside(path, make)

    def _write_beside(self, path: Path, make: Callable[[], bytes]) -> None:
        """Make a file beside the window: a plan at true size has dozens of pages."""
        from aplomb.desk.kit.background import LatestJob
        from aplomb.desk.paper.canvas import load_paper_fonts
        from aplomb.disk import write_bytes

        def came(found: "bytes | AplombError") -> None:
            if isinstance(found, AplombError):
                self.refuse(str(found))
            else:
                self._try(lambda: write_bytes(path, found), f"Written: {path.name}")

        load_paper_fonts()
        self.writing = LatestJob(came, self._window)
        self._desk.say(f"Writing {path.name} …")
        self.writing.ask(make)

    def _print(self, paper: "Paper", job: "Job") -> None:
        """Print a paper on a printer that is asked for."""
        from PySide6.QtCore import QMarginsF, QSizeF
        from PySide6.QtGui import QPageLayout, QPageSize
        from PySide6.QtPrintSupport import QPrintDialog, QPrinter, QPrinterInfo

        from aplomb.desk.paper.canvas import print_on

        if not QPrinterInfo.availablePrinterNames():
            self.refuse(
                "No printer is set up on this computer. Save the paper as PDF instead, and print "
                "it elsewhere."
            )
            return
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setDocName(f"{paper.words}: {job.name}")
        wide, high = paper.size_mm(job)
        size = QPageSize(QSizeF(wide, high), QPageSize.Unit.Millimeter)
        printer.setPageSize(size)
        dialog = QPrintDialog(printer, self._window)
        if dialog.exec():
            printer.setFullPage(True)
            printer.setPageMargins(QMarginsF(0, 0, 0, 0), QPageLayout.Unit.Millimeter)
            self._try(
                lambda: print_on(printer, printer.resolution(), paper.painter(job)),
                f"Sent to {printer.printerName()}",
            )

    def take_in(self) -> None:
        """Put a formula from a JSON file on the shelf."""
        path = self._ask_open("Import a formula", Path.home(), FORMULAS)
        if path is not None:
            self._try(lambda: self._take_in(path))

    def _take_in(self, path: Path) -> None:
        from aplomb.exchange.formula_json import read_formula

        found = read_formula(path, self._session.reference.pantry)
        name = found.formula.name
        self._session.put_items(f"materials of {name}", found.items)
        self._session.add(found.formula, f"import {name}")
        if found.kept:
            self._desk.say(f"Your own figures were kept for {', '.join(found.kept[:3])}.")
        self._desk.show_stage(PASTE)

    def give_out(self) -> None:
        """Write the formula in hand as JSON."""
        self._desk.commit()
        from aplomb.disk import write_bytes
        from aplomb.exchange.formula_json import to_json

        formula = self._session.formula
        if formula is None:
            return
        path = self._ask_path(
            "Export the formula", _file_name(formula.name) + ".json", FORMULAS, ".json"
        )
        if path is not None:
            data = to_json(formula, self._session.reference.pantry)
            self._try(lambda: write_bytes(path, data), f"Written: {path.name}")

    def take_in_sheet(self) -> None:
        """Take a supplier's sheet into the pantry, after a look at it."""
        path = self._ask_open("Import supplier’s data", Path.home(), SHEETS)
        if path is not None:
            self._read_sheet(path)

    def _read_sheet(self, path: Path) -> None:
        """Read a sheet beside the window: a long one takes seconds."""
        from aplomb.desk.kit.background import LatestJob
        from aplomb.desk.kit.progress import Progress
        from aplomb.disk import read_bytes
        from aplomb.exchange.pantry_csv import LARGEST_BYTES, MOST_ROWS, read_sheet

        known = self._session.reference

        def came(found: "SupplierFile | AplombError") -> None:
            progress.end()
            if isinstance(found, AplombError):
                self.refuse(str(found))
            else:
                self._try(lambda: self._offer_sheet(found, path.name))

        def read() -> "SupplierFile":
            data = read_bytes(path, LARGEST_BYTES)
            return read_sheet(data, known.pantry, path.name, known.today, watch)

        def watch(line: int) -> bool:
            return progress.watch(min(line, MOST_ROWS))

        progress = Progress(self._window, f"Reading {path.name} …", MOST_ROWS)
        self.reading = LatestJob(came, self._window)
        self._desk.say(f"Reading {path.name} …")
        self.reading.ask(read)

    def _offer_sheet(self, sheet: "SupplierFile", name: str) -> None:
        from aplomb.desk.paste.supplier_preview import ask_sheet

        currency = self._session.reference.house.currency
        if ask_sheet(self._window, sheet, name, currency, self._desk.theme):
            items = [each.item for each in sheet.rows]
            self._session.put_items(f"import {name}", items)
            self._desk.say(f"{len(items)} materials imported from {name}")

    def give_out_sheet(self) -> None:
        """Write the pantry as CSV."""
        from aplomb.disk import write_bytes
        from aplomb.exchange.pantry_csv import write_sheet

        path = self._ask_path("Export the pantry as CSV", "Pantry.csv", SHEETS, ".csv")
        if path is not None:
            data = write_sheet(self._session.reference.pantry)
            self._try(lambda: write_bytes(path, data), f"Written: {path.name}")

    def open_book(self) -> None:
        """Ask for another book and open it."""
        path = self._ask_open("Open a book", self._session.book.path.parent, BOOKS)
        if path is not None:
            self.go_to(path)

    def new_book(self) -> None:
        """Ask where a new book shall be and open it."""
        path = self._ask_path("New book", "New book.aplomb", BOOKS, ".aplomb")
        if path is None:
            return
        if path.exists():
            self.refuse(f"{path.name} is there already; open it, or choose another name.")
            return
        self.go_to(path)

    def go_to(self, path: Path) -> None:
        """Open a book; fill the demo book when it is new."""

        def go() -> None:
            self._session.open_book(path)
            if path == demo_book() and not self._session.entries:
                fill_with_demo(self._session)

        if self._try(go):
            if path != demo_book():
                self._desk.keep(last_book="" if path == own_book() else str(path))
            self._desk.show_stage(SHELF)

    def keep_everything(self) -> None:
        """Put all that is here into a new book at a free name, and go on there."""
        try:
            path = self._session.rescue()
        except AplombError as error:
            self.refuse(str(error))
            return
        self._desk.keep(last_book=str(path))
        self._desk.say(f"Everything is in {path.name} now, in {path.parent}.")

    def keep_copy(self) -> None:
        """Write the book to another file and go on there."""
        name = self._session.book.path.stem + " copy.aplomb"
        path = self._ask_path("Save a copy of the book", name, BOOKS, ".aplomb")
        if path is not None and self._try(
            lambda: self._session.keep_copy(path), f"You are now in {path.name}"
        ):
            self._desk.keep(last_book=str(path))


def _as_csv(paper: "Paper", job: "Job") -> bytes:
    from aplomb.exchange.card_csv import card_csv
    from aplomb.exchange.lists_csv import order_csv, weigh_csv

    if paper.key == "order":
        return order_csv(job.studies, job.pantry, job.stock)
    if paper.key == "weigh":
        return weigh_csv([(s, job.mixes(s)) for s in job.studies], job.pantry)
    return b"".join(card_csv(study, job.pantry) for study in job.studies)


def _file_name(name: str) -> str:
    return (
        "".join(ch if ch.isalnum() or ch in " -_,()" else "-" for ch in name).strip() or "formula"
    )


def fill_with_demo(session: Session) -> None:
    """Put the demo formulas on an empty shelf and take the first in hand."""
    book = demo()
    session.set_house("demo: the galley", book.house)
    session.put_items("demo: prices", book.items)
    uids = {f.name: session.add(f, f"demo: {f.name}") for f in book.formulas}
    frozen = tuple(
        FrozenBlock(uids[b.formula], b.blocks, b.each_g, b.turns, b.made) for b in book.frozen
    )
    session.put_stock("demo: stock", Stock(dict(book.stock), frozen))
    wants = tuple(Want(uids[w.formula], w.product, w.pieces) for w in book.demand.wants)
    session.put_demand("demo: the day", Demand(book.demand.name, wants=wants))
    for i, b in enumerate(book.batches):
        record = BatchRecord(
            f"demo-{i}", b.formula, uids[b.formula], b.begun, outcome=b.outcome, note=b.note
        )
        session.put_record("demo: a batch", record)
    session.flush()
    session.book.forget_changes()  # what can be undone begins with what its user does
    session.select(next(iter(session.entries)))
