"""Papers: what is printed of a batch or a day, seen as it is printed."""

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtGui import QPicture
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QListView,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.errors import AplombError, as_sentence
from aplomb.core.base.figures import bare_text
from aplomb.core.base.house import LABEL_WORDS, Labels, single_label
from aplomb.core.base.texts import counted
from aplomb.core.kitchen.demand import plan_day
from aplomb.core.study.study import Study, with_its_cut
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.fields import button, card, fit_rows, fix_width, label, row
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.typed import Field
from aplomb.desk.paper.canvas import load_paper_fonts, pages_of
from aplomb.desk.paper.catalogue import PAPERS, Paper
from aplomb.desk.paper.job import Job
from aplomb.desk.paper.preview import Preview
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.figures.typed import read_length, read_whole

MOST_SHOWN = 6
"""Pages of a paper that the preview paints; a plan at true size has dozens."""
LABEL_COUNTS = ("columns", "rows")


class PapersPage(Page):
    """A list of papers, and the one in hand as it is printed."""

    KEY = "papers"
    HINT = "What you see is what is printed."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._asked: object = None
        self._made: tuple[object, Job] | None = None
        self.painting = LatestJob(self._came, self)
        self.label_fields: dict[str, Field] = {}
        side = QVBoxLayout()
        side.setSpacing(12)
        side.addWidget(self._choice_card())
        side.addWidget(self._labels_card())
        side.addStretch(1)
        self.preview = Preview()
        self._trouble: QLabel = label("", "second")
        self._trouble.setWordWrap(True)
        right = QVBoxLayout()
        right.addWidget(self._trouble)
        right.addWidget(self.preview)
        right.addStretch(1)
        self._body.addLayout(self.two_sides(side, right, (4, 7)))
        self._body.addStretch(1)
        self.refresh()

    def _choice_card(self) -> QFrame:
        frame, column = card()
        self.scope = QComboBox()
        self.scope.setAccessibleName("Which batches")
        self.scope.addItem("This batch", "batch")
        self.scope.addItem("Whole day", "day")
        self.scope.activated.connect(lambda _: self.refresh())
        self.list = QListView()
        self.list.setObjectName("picks")
        self.list.setAccessibleName("Papers")
        self.names = QStringListModel([p.words for p in PAPERS], self)
        self.list.setModel(self.names)
        self.list.setEditTriggers(QListView.EditTrigger.NoEditTriggers)
        self.list.setCurrentIndex(self.names.index(0))
        self.list.selectionModel().currentChanged.connect(lambda *_: self.refresh())
        self._hint_words: QLabel = label("", "small")
        self._hint_words.setWordWrap(True)
        self.pdf = button("Save as PDF…", "main", partial(self._want, "pdf"))
        self.print = button("Print…", "", partial(self._want, "print"))
        self.csv = button("CSV…", "", partial(self._want, "csv"))
        self.xlsx = button("Save spreadsheet that recalculates…", "", partial(self._want, "xlsx"))
        self.xlsx.setToolTip("XLSX with batches and order list, for spreadsheet programs")
        column.addWidget(self.scope)
        column.addWidget(self.list)
        column.addWidget(self._hint_words)
        column.addLayout(Flow(self.pdf, self.print, self.csv, self.xlsx, spacing=6))
        return frame

    def _labels_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("The labels", "title"))
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        grid.setVerticalSpacing(3)
        for i, (name, words) in enumerate(LABEL_WORDS.items()):
            unit = "" if name in LABEL_COUNTS else ", mm"
            field = Field(words, partial(self._take_label, name), self.show_error)
            self._pair(grid, i, f"{words}{unit}", field)
            self.label_fields[name] = field
        at = len(LABEL_WORDS)
        self._first = Field("Labels used already", self._take_first, self.show_error)
        self._pair(grid, at, "Already used on the first sheet", self._first)
        self._first_used = 0
        self._cold = QComboBox()
        self._cold.setAccessibleName("Blocks are kept in")
        for key in ("fridge", "freezer"):
            self._cold.addItem(key, key)
        self._cold.activated.connect(lambda _: self.refresh())
        self._pair(grid, at + 1, "Blocks are kept in", self._cold)
        column.addLayout(grid)
        column.addLayout(
            row(
                button("Sheets of 8", "", lambda: self._put_labels(Labels())),
                button("Single labels", "", lambda: self._put_labels(single_label(100.0, 62.0))),
                None,
            )
        )
        self._labels_frame: QFrame = frame
        return frame

    def _pair(self, grid: QGridLayout, at: int, words: str, widget: QWidget) -> None:
        caption = label(words, "small")
        caption.setMinimumWidth(40)
        grid.addWidget(caption, at, 0)
        fix_width(widget, 96)
        if isinstance(widget, Field):
            widget.setAlignment(Qt.AlignmentFlag.AlignRight)
        grid.addWidget(widget, at, 1)

    def _take_label(self, name: str, text: str) -> None:
        if name in LABEL_COUNTS:
            value: float = read_whole(text)
        else:
            value = read_length(text, zero=True)
        labels = replace(self._session.reference.house.labels, **{name: value})
        self._put_labels(labels)

    def _put_labels(self, labels: Labels) -> None:
        house = replace(self._session.reference.house, labels=labels)
        self._session.store.set_house("label sizes", house)

    def _take_first(self, text: str) -> None:
        self._first_used = min(999, read_whole(text))
        self.refresh()

    @property
    def paper(self) -> Paper:
        """The paper in hand."""
        return PAPERS[max(0, self.list.currentIndex().row())]

    def begin(self, target: object) -> None:
        """Begin with a paper by its key."""
        for i, paper in enumerate(PAPERS):
            if paper.key == target:
                self.list.setCurrentIndex(self.names.index(i))

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.list)

    def _look_changed(self) -> None:
        super()._look_changed()
        self._fit_list()

    def _fit_list(self) -> None:
        fit_rows(self.list, len(PAPERS))

    def job_maker(self) -> Callable[[], Job]:
        """Give what makes the job of what is chosen; it may be called beside the window."""
        session = self._session
        reference, kitchen = session.reference, session.kitchen
        study = session.study
        assert study is not None
        studies: dict[str, Study] = {}
        day = self.scope.currentData() == "day"
        if day:
            for uid in session.shelf.entries:
                found = session.shelf.study_of(uid)
                if found is not None:
                    studies[uid] = found
        extra = {"first_label": self._first_used, "cold": self._cold.currentData()}

        def make() -> Job:
            if not day:
                return Job(
                    study.formula.name,
                    (with_its_cut(study, reference),),
                    reference.pantry,
                    reference.house,
                    kitchen.stock.materials,
                    kitchen.demand.day,
                    **extra,
                )
            plans = plan_day(kitchen.demand, studies, reference, kitchen.stock.blocks())
            made = [p for p in plans if not p.trouble]
            batches = tuple(p.study for p in made)
            if not batches:
                raise AplombError(
                    "Nothing is ordered for the day yet: see the day’s demand, Alt+D."
                )
            return Job(
                kitchen.demand.name or "The day",
                batches,
                reference.pantry,
                reference.house,
                kitchen.stock.materials,
                kitchen.demand.day,
                goals=tuple(p.goal for p in made),
                **extra,
            )

        return make

    def refresh(self) -> None:
        """Show the paper in hand, painted beside the window."""
        study = self._session.study
        if study is None:
            return
        self._fit_list()
        paper, demand = self.paper, self._session.kitchen.demand
        self.scope.setItemText(1, f"{demand.name or 'The day'}: all pastes")
        self._hint_words.setText(paper.hint[:1].upper() + paper.hint[1:] + ".")
        self._labels_frame.setVisible(paper.key == "labels")
        self.csv.setVisible(paper.key in ("card", "weigh", "order"))
        labels = self._session.reference.house.labels
        for name, field in self.label_fields.items():
            unit = "" if name in LABEL_COUNTS else "mm"
            field.show_value(bare_text(getattr(labels, name), unit, 1))
        self._first.show_value(str(self._first_used))
        asked = (
            study.formula,
            self._session.reference,
            self._session.kitchen,
            paper.key,
            self.scope.currentData(),
            self._first_used,
            self._cold.currentData(),
        )
        if asked == self._asked:
            return
        self._asked = asked
        make = self.job_maker()
        load_paper_fonts()

        def paint() -> tuple[Paper, Job, list[QPicture], bool]:
            job = make()
            pages, whole = pages_of(paper.painter(job), MOST_SHOWN)
            return paper, job, pages, whole

        self.painting.ask(paint)

    def _came(self, found: "tuple[Paper, Job, list[QPicture], bool] | AplombError") -> None:
        self._trouble.setVisible(isinstance(found, AplombError))
        for each in (self.pdf, self.print, self.csv, self.xlsx):
            each.setEnabled(not isinstance(found, AplombError))
        if isinstance(found, AplombError):
            self._trouble.setText(as_sentence(found))
            self.preview.show_pages([], (210.0, 297.0), "")
            return
        paper, job, pages, whole = found
        self._made = (self._asked, job)
        words = f"{paper.words} of {job.name}: {counted(len(pages), '1 page', '{} pages')}"
        more = "" if whole else f"Showing the first {len(pages)} pages; all pages are printed."
        self.preview.show_pages(pages, paper.size_mm(job), words, more)

    def _want(self, what: str) -> None:
        try:
            seen = self._made is not None and self._made[0] == self._asked
            job = self._made[1] if self._made and seen else self.job_maker()()
        except AplombError as error:
            self.show_error(as_sentence(error))
            return
        self.asked.emit("paper", (what, self.paper, job))
