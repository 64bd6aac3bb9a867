"""Papers given out: cards, lists, labels, plans and sections, to files and to a printer."""

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from aplomb.desk.stages.files import FileAsker, file_name

if TYPE_CHECKING:
    from aplomb.core.batch.cutting import CutPlan
    from aplomb.core.day.plan import DayPlan
    from aplomb.desk.paper.catalogue import Paper
    from aplomb.desk.paper.job import Job
    from aplomb.work.day.view import DayView


class Papers(FileAsker):
    """Writes and prints papers."""

    def print_card(self, kind: str) -> None:
        """Write the batch card where the user wants it."""
        self._desk.commit()
        study = self._session.study
        if study is None:
            return
        words = "Batch card as PDF" if kind == "pdf" else "Batch card as CSV"
        name = file_name(study.formula.name) + f" card.{kind}"
        path = self.ask_path(words, name, f"*.{kind}", f".{kind}")
        if path is None:
            return
        pantry, house = self._session.reference.pantry, self._session.reference.house

        def make() -> bytes:
            from aplomb.exchange.card_csv import card_csv

            if kind == "csv":
                return card_csv(study, pantry)
            from aplomb.desk.paper.card import card_pdf

            return card_pdf(study, pantry, house)

        self._with_paper_fonts(path, make)

    def give_section(self, kind: str, upto: int | None = None, *, across: bool = False) -> None:
        """Write a section as SVG or PNG: of the final sheet, or after some steps of the plan."""
        self._desk.commit()
        study = self._session.study
        if study is None:
            return
        name = f"{file_name(study.formula.name)} section.{kind}"
        path = self.ask_path(f"Section as {kind.upper()}", name, f"*.{kind}", f".{kind}")
        if path is None:
            return

        def write() -> None:
            from aplomb.desk.paper.section import section_picture
            from aplomb.disk import write_bytes

            write_bytes(path, section_picture(study, kind, upto, across=across))

        self.attempt(write, f"Section saved: {path.name}")

    def give_day(self, kind: str, view: "DayView", plan: "DayPlan") -> None:
        """Write a timetable: ``wall`` to hang up, ``pdf``, ``ics`` for a calendar, ``csv``."""
        name = self._session.kitchen.demand.name or "Timetable"
        words, what, ending = {
            "wall": ("Wall sheet as PDF", "wall sheet", "pdf"),
            "pdf": ("Timetable as PDF", "timetable", "pdf"),
            "ics": ("Timetable for a calendar", "timetable", "ics"),
            "csv": ("Timetable as CSV", "timetable", "csv"),
        }[kind]
        path = self.ask_path(
            words, f"{file_name(name)} {what}.{ending}", f"*.{ending}", f".{ending}"
        )
        if path is None:
            return

        def make() -> bytes:
            from aplomb.exchange.day_calendar import day_calendar, day_csv
            from aplomb.work.day.words import events_of

            if kind == "wall":
                from aplomb.desk.paper.wall import wall_pdf

                return wall_pdf(view, plan, name)
            if kind == "pdf":
                from aplomb.desk.paper.day import day_pdf

                return day_pdf(view, plan, name)
            events = events_of(view, plan)
            if kind == "csv":
                return day_csv(events)
            return day_calendar(
                events, f"{name}, {view.day.isoformat()}", datetime.now().astimezone()
            )

        self._with_paper_fonts(path, make)

    def give_cut_plan(self, plan: "CutPlan") -> None:
        """Write a cut plan as SVG, to scale."""
        study = self._session.study
        if study is None:
            return
        name = f"{file_name(study.formula.name)} cut plan.svg"
        path = self.ask_path("Cut plan as SVG", name, "*.svg", ".svg")
        if path is None:
            return

        def write() -> None:
            from aplomb.desk.paper.cut_svg import cut_plan_svg
            from aplomb.disk import write_bytes

            write_bytes(path, cut_plan_svg(plan, study.formula))

        self.attempt(write, f"Cut plan saved: {path.name}")

    def give_bench(self, kind: str, title: str, make: Callable[[], bytes]) -> None:
        """Write a paper of a run: ``labels``, ``log`` or ``csv``."""
        words, ending = {
            "labels": ("Labels", "pdf"),
            "log": ("Log sheet", "pdf"),
            "csv": ("Log", "csv"),
        }[kind]
        start = f"{file_name(title)} {words.lower()}.{ending}"
        path = self.ask_path(f"{words} as {ending.upper()}", start, f"*.{ending}", f".{ending}")
        if path is not None:
            self._with_paper_fonts(path, make)

    def give_trial(self, words: str, title: str, ending: str, make: Callable[[], bytes]) -> None:
        """Write a paper of trials: a report, score slips, a ruler strip.

        Parameters
        ----------
        words : str
            What it is: ``Report``.
        title : str
            Of what.
        """
        start = f"{file_name(title)} {words.lower()}.{ending}"
        path = self.ask_path(f"{words} as {ending.upper()}", start, f"*.{ending}", f".{ending}")
        if path is not None:
            self._with_paper_fonts(path, make)

    def give_paper(self, what: str, paper: "Paper", job: "Job") -> None:
        """Write or print a paper.

        Parameters
        ----------
        what : str
            ``pdf``, ``print``, ``csv`` or ``xlsx``.
        """
        if what == "print":
            self._print(paper, job)
            return
        sheet = what == "xlsx"
        words = "Batch sheet" if sheet else paper.words
        name = f"{file_name(job.name)} {words.lower().replace(' ', '-')}.{what}"
        path = self.ask_path(f"{words} as {what.upper()}", name, f"*.{what}", f".{what}")
        if path is None:
            return

        def make() -> bytes:
            if sheet:
                from aplomb.exchange.batch_workbook import batch_workbook

                return batch_workbook(job.studies, job.pantry, job.stock, job.house.currency)
            if what == "csv":
                return _as_csv(paper, job)
            from aplomb.desk.paper.canvas import pdf_of

            return pdf_of(paper.painter(job), f"{paper.words}: {job.name}", paper.size_mm(job))

        self._with_paper_fonts(path, make)

    def _with_paper_fonts(self, path: Path, make: Callable[[], bytes]) -> None:
        from aplomb.desk.paper.canvas import load_paper_fonts

        load_paper_fonts()
        self.write_beside(path, make)

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
            self.attempt(
                lambda: print_on(printer, printer.resolution(), paper.painter(job)),
                f"Sent to {printer.printerName()}",
            )


def _as_csv(paper: "Paper", job: "Job") -> bytes:
    from aplomb.exchange.card_csv import card_csv
    from aplomb.exchange.lists_csv import order_csv, weigh_csv

    if paper.key == "order":
        return order_csv(job.studies, job.pantry, job.stock)
    if paper.key == "weigh":
        return weigh_csv(job.studies, job.pantry)
    return b"".join(card_csv(study, job.pantry) for study in job.studies)
