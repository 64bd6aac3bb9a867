"""Compare the formula with another one, or with a revision of itself."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QComboBox

from aplomb.core.base.errors import AplombError
from aplomb.core.study.study import Study, make_study
from aplomb.desk.kit.fields import button, card, label, row
from aplomb.desk.paste.comparison_view import ComparisonView
from aplomb.desk.session import Session
from aplomb.desk.stages.asking import ask_revision
from aplomb.desk.stages.page import Page

if TYPE_CHECKING:
    from aplomb.book.changes import Revision


class ComparePage(Page):
    """Line by line, reading by reading, as difference and ratio."""

    KEY = "compare"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.other = QComboBox()
        self.other.setAccessibleName("Compare with")
        self.other.activated.connect(lambda _i: self._show())
        self._keep = button("Save a revision…", "", self._keep_revision, "Ctrl+R")
        self._back = button("Go back to this revision", "", self._take_back)
        self._body.addLayout(row(label("with", "second"), self.other, None, self._back, self._keep))
        frame, column = card()
        self.view = ComparisonView(session)
        self._words = label("", "second")
        self._words.setWordWrap(True)
        column.addWidget(self._words)
        column.addWidget(self.view)
        self._body.addWidget(frame)
        self._body.addStretch(1)
        self._revisions: dict[int, Revision] = {}
        session.shelf_changed.connect(self._seen)
        self.refresh()

    def _seen(self) -> None:
        if self.isVisible():
            self.refresh()

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.other)

    def refresh(self) -> None:
        """Offer revisions and other formulas, and show the one chosen."""
        if self._session.study is None:
            return
        wanted = self.other.currentData()
        try:
            self._revisions = {r.number: r for r in self._session.shelf.revisions()}
        except AplombError as error:
            self.show_error(str(error))
            self._revisions = {}
        self.other.clear()
        for number, revision in sorted(self._revisions.items(), reverse=True):
            name = f": {revision.name}" if revision.name else ""
            self.other.addItem(f"Revision {number}{name}, {revision.at[:10]}", number)
        for uid, entry in self._session.shelf.entries.items():
            if uid != self._session.uid:
                self.other.addItem(entry.name, uid)
        at = next((i for i in range(self.other.count()) if self.other.itemData(i) == wanted), 0)
        self.other.setCurrentIndex(at)
        self._show()

    def _study(self) -> Study | None:
        wanted = self.other.currentData()
        if isinstance(wanted, int):
            try:
                revision = self._revisions[wanted].formula
                return make_study(revision, self._session.reference, search=False)
            except AplombError as error:
                self.show_error(str(error))
                return None
        return (
            self._session.shelf.study_of(wanted, search=False)
            if wanted in self._session.shelf.entries
            else None
        )

    def _show(self) -> None:
        self.show_error("")
        now, other = self._session.study, self._study()
        self._back.setVisible(isinstance(self.other.currentData(), int))
        self.view.setVisible(other is not None)
        if now is None or other is None:
            self._words.setText(
                "Nothing to compare with yet. Save a revision before the next change, or copy the "
                "formula with Ctrl+D."
            )
            return
        number = self.other.currentData()
        name = f"rev. {number}" if isinstance(number, int) else "other"
        self._words.setText(f"{name}: {self.other.currentText()}; now: {now.formula.name}")
        self.view.show_pair(other, now, (name, "now"), whole=True)

    def _keep_revision(self) -> None:
        ask_revision(self.window(), self._session)

    def _take_back(self) -> None:
        number = self.other.currentData()
        if isinstance(number, int):
            try:
                self._session.shelf.change(
                    f"back to revision {number}", self._revisions[number].formula
                )
            except AplombError as error:
                self.show_error(str(error))
